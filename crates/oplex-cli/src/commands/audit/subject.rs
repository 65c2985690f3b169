//! What captures are held against, and what of them is wanted.

use std::borrow::Cow;
use std::path::PathBuf;

use oplex::audit::{CapturedMessage, Conversation};
use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::finding::Sources;
use oplex::nearest::nearest;
use oplex::octets::{Mac, hex};
use oplex::plan::{Loaded, Plan};
use oplex_io::store::Store;

use crate::args::Audit;
use crate::commands::{codebook, releases, shown};
use crate::exit::{Failure, because};

/// What captures are held against.
pub(super) struct Subject {
    /// What it is called, where there is a plan or release.
    pub(super) name: Option<String>,
    loaded: Option<Loaded>,
    /// What options are read by where there is no plan.
    pub(super) codebook: Cow<'static, Codebook>,
    none: Sources,
}

impl Subject {
    pub(super) fn of(args: &Audit) -> Result<Self, Failure> {
        let (name, loaded) = match (&args.plan, Self::store(args)?) {
            (Some(plan), _) => (Some(shown(plan)), Some(releases::of_file(plan, args.trust)?)),
            (None, Some(path)) => {
                let store = Store::open(&path)?;
                let named = args.release.clone().unwrap_or_else(|| "latest".to_owned());
                let Some(release) = releases::named(named.as_ref(), &store)? else {
                    return because(format!("`{named}` is no release; write it like r7, or latest"));
                };
                let name = format!("r{} of {}", release.number(), shown(&path));
                (Some(name), Some(releases::of_release(&store, &release)?))
            }
            (None, None) => (None, None),
        };
        if loaded.is_some() && !args.books.codebooks.is_empty() {
            return because(
                "--codebook is for captures that are held against no plan; a plan names its codebooks itself",
            );
        }
        if loaded.as_ref().is_some_and(|loaded| loaded.plan.is_none()) {
            let name = name.unwrap_or_default();
            return because(format!("{name} cannot be read as a plan; oplex check says why"));
        }
        Ok(Self { name, loaded, codebook: codebook(&args.books)?, none: Sources::default() })
    }

    /// The store, where a release is named.
    fn store(args: &Audit) -> Result<Option<PathBuf>, Failure> {
        let by_environment = || std::env::var_os("OPLEX_STORE").map(PathBuf::from);
        match (&args.store, &args.release) {
            (Some(store), _) => Ok(Some(store.clone())),
            (None, Some(_)) => match by_environment() {
                Some(store) => Ok(Some(store)),
                None => because("say which store has the release with --store"),
            },
            (None, None) => Ok(None),
        }
    }

    pub(super) fn plan(&self) -> Option<&Plan> {
        self.loaded.as_ref()?.plan.as_ref()
    }

    pub(super) fn sources(&self) -> &Sources {
        self.loaded.as_ref().map_or(&self.none, |loaded| &loaded.sources)
    }
}

/// The place of a network in the plan.
pub(in crate::commands) fn network(compiled: Option<&Compiled<'_>>, name: &str) -> Result<usize, Failure> {
    let Some(compiled) = compiled else {
        return because("--network names a network of a plan; say which plan that is with --plan or --store");
    };
    let names = compiled.networks.iter().map(|network| &*network.name);
    match names.clone().position(|known| known == name) {
        Some(place) => Ok(place),
        None => {
            let hint = nearest(name, names).map_or(String::new(), |near| format!("; did you mean `{near}`?"));
            because(format!("the plan has no network `{}`{hint}", crate::render::clean::line(name)))
        }
    }
}

/// What of captures is wanted.
pub(super) struct Wanted {
    client: Option<Vec<u8>>,
    rules: Vec<String>,
}

impl Wanted {
    pub(super) fn of(args: &Audit) -> Result<Self, Failure> {
        let client = match &args.client {
            None => None,
            Some(text) => match (text.parse::<Mac>(), hex::parse(text)) {
                (Ok(mac), _) => Some(mac.to_vec()),
                (_, Ok(octets)) if !octets.is_empty() => Some(octets),
                _ => return because(format!("`{text}` is neither a hardware address nor a DUID in hexadecimal")),
            },
        };
        Ok(Self { client, rules: args.only.clone() })
    }

    pub(super) fn rule(&self, name: &str) -> bool {
        self.rules.is_empty() || self.rules.iter().any(|wanted| wanted == name)
    }

    pub(super) fn conversation(&self, conversation: &Conversation) -> bool {
        let Some(client) = &self.client else { return true };
        // A DUID may be made of the hardware address (RFC 8415, sections 11.2 and 11.4).
        super::is_of(conversation, client) || (client.len() == 6 && conversation.client.ends_with(client))
    }

    /// Whether a message may be of the client: its hardware address or DUID stands in it.
    pub(super) fn message(&self, seen: &CapturedMessage) -> bool {
        let Some(client) = &self.client else { return true };
        seen.octets.windows(client.len()).any(|octets| octets == client)
    }
}
