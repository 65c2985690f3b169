//! Plans that are named by a file or by a release.

use std::path::Path;

use oplex::check;
use oplex::finding::Finding;
use oplex::plan::{Loaded, Plan};
use oplex::release::Document;
use oplex_io::files;
use oplex_io::store::{Entry, Release, SigningKey, SourceFile, Store, StoreError};

use crate::args::{Releases, Said, Trust};
use crate::exit::{Failure, because};
use crate::render::progress;

impl From<StoreError> for Failure {
    fn from(error: StoreError) -> Self {
        Self::Because(error.to_string())
    }
}

/// The number that `r7` names.
pub(super) fn number(text: &str) -> Option<u32> {
    let digits = text.strip_prefix('r').filter(|digits| digits.bytes().all(|digit| digit.is_ascii_digit()))?;
    digits.parse().ok()
}

/// The release that `r7` or `latest` names; `None` for what names a file.
pub(super) fn named(text: &Path, store: &Store) -> Result<Option<Release>, Failure> {
    match text.to_str() {
        Some("latest") => latest(store).map(Some),
        Some(text) => match number(text) {
            Some(number) => one(store, number).map(Some),
            None => Ok(None),
        },
        None => Ok(None),
    }
}

/// The release of a number.
pub(super) fn one(store: &Store, number: u32) -> Result<Release, Failure> {
    let numbers = store.numbers()?;
    if numbers.contains(&number) {
        return Ok(store.release(number)?);
    }
    let folder = super::shown(store.root());
    match numbers.last() {
        None => because(format!("{folder} has no release")),
        Some(last) => because(format!("{folder} has no release {number}; the latest is r{last}")),
    }
}

fn latest(store: &Store) -> Result<Release, Failure> {
    one(store, store.numbers()?.last().copied().unwrap_or(1))
}

/// A plan from its file, or as it was when a release was published.
pub(super) fn plan(text: &Path, store: &Releases, trust: Trust) -> Result<Loaded, Failure> {
    let names_release = text.to_str().is_some_and(|text| text == "latest" || number(text).is_some());
    match &store.path {
        Some(path) if names_release => {
            let store = Store::open(path)?;
            let release = named(text, &store)?;
            release.map_or_else(|| because("no release is named"), |release| of_release(&store, &release))
        }
        None if names_release && !text.exists() => {
            let text = super::shown(text);
            because(format!("{text} names a release; say which store has it with --store, or ./{text} for a file"))
        }
        _ => of_file(text, trust),
    }
}

/// A plan from its file.
pub(super) fn of_file(path: &Path, trust: Trust) -> Result<Loaded, Failure> {
    progress::while_watched(|watch| {
        watch.now(format!("reading {}", super::shown(path)));
        Ok(files::plan(path, trust.reach())?)
    })
}

/// The plan, where the file could be read as one.
pub(super) fn readable<'l>(loaded: &'l Loaded, path: &Path) -> Result<&'l Plan, Failure> {
    let why = || because(format!("{} cannot be read as a plan; run oplex check for the reason", super::shown(path)));
    loaded.plan.as_ref().map_or_else(why, Ok)
}

/// What is found in a plan.
pub(super) fn findings(loaded: &Loaded) -> Vec<Finding> {
    progress::while_watched(|watch| check::plan_with_progress(loaded, &|done, of| watch.rules(done, of)))
}

/// What a release holds.
pub(super) fn document(store: &Store, release: &Release) -> Result<Document, Failure> {
    let what = format!("reading release {}", release.number());
    let read = progress::while_watched(|watch| {
        store.document_with_progress(release, &|done, of| watch.count(&what, done, of))
    });
    Ok(read?)
}

/// The plan of a release, as it was written.
pub(super) fn of_release(store: &Store, release: &Release) -> Result<Loaded, Failure> {
    progress::while_watched(|watch| {
        watch.now(format!("reading the plan of release {}", release.number()));
        read_release(store, release)
    })
}

fn read_release(store: &Store, release: &Release) -> Result<Loaded, Failure> {
    let files = store.sources(release)?;
    let [plan, others @ ..] = &files[..] else {
        return because(format!("release {} has no plan", release.number()));
    };
    let mut fetch = |name: &str| -> Result<String, Box<dyn std::error::Error>> {
        let found = others.iter().find(|file: &&SourceFile| file.name == name);
        Ok(found.ok_or("it is not among the files of the release")?.text.clone())
    };
    Ok(Plan::read(&format!("r{}/{}", release.number(), plan.name), &plan.text, &mut fetch))
}

/// As much may be said of a release.
const LONGEST: usize = 4096;

/// What a publisher says of a release.
pub(super) fn entry(said: &Said) -> Result<Entry, Failure> {
    let user = || ["USER", "LOGNAME"].iter().find_map(|name| std::env::var(name).ok()).filter(|name| !name.is_empty());
    let author = said.author.clone().or_else(user).unwrap_or_else(|| "unknown".to_owned());
    // A manifest is of bounded size.
    for (what, text) in [("--author", Some(&author)), ("--note", said.note.as_ref())] {
        if text.is_some_and(|text| text.len() > LONGEST) {
            return because(format!("{what} is longer than {LONGEST} octets"));
        }
    }
    let sign = said.sign.as_deref().map(SigningKey::read).transpose()?;
    Ok(Entry { author, note: said.note.clone(), sign, ..Entry::default() })
}
