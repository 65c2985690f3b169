//! Option definitions: the standard ones, and those of vendors and sites, all read from the same kind of file.
//!
//! A [`Definition`] has everything that is known of an option and is not a rule of its own: code and name, [layout](crate::layout),
//! who sends it, where it may stand and how often, which messages take it, what replaced it, its RFC, an example. It is data: no
//! option is handled by its code in Rust where a codebook can say it.
//!
//! # Ids
//!
//! | id | what it is |
//! |---|---|
//! | `v4:6`, `v4:domain-server`, `v4:dns` | an option of DHCPv4, by code, name, and another name |
//! | `v6:23` | an option of DHCPv6 |
//! | `ra:25` | an option of router advertisements |
//! | `v4:82/1` | a sub-option |
//! | `tern:settings` | an option of a vendor's or site's book |
//!
//! # Books of one's own
//!
//! [`Codebook::with`] takes the text of a codebook, [`Codebook::add`] one among other sources, with findings, and
//! [`Codebook::define`] a definition that is made in Rust. What a book defines is read, written, checked and shown like a standard
//! option from then on. A chapter is a set of codes with headers of one form: the options of a protocol, the sub-options of one
//! option, what one vendor's carriers hold.
//!
//! # Cost
//!
//! The standard book is constants; an option's definition is made when it is first used, and its layout parsed when it is first
//! used. Both are kept.
//!
//! # Example
//!
//! ```
//! use oplex::codebook::Codebook;
//! use oplex::layout::Input;
//!
//! let codebook = Codebook::standard();
//! let router = codebook.find("v4:router")?;
//! assert_eq!((router.code, &*router.reference), (3, "RFC 2132, section 3.5"));
//!
//! let payload = codebook.encode(router, &Input::from_text("10.64.4.1"))?;
//! assert_eq!(payload.octets, [10, 64, 4, 1]);
//! assert!(payload.faults.is_empty());
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use crate::prelude::*;
use alloc::sync::Arc;

mod assemble;
mod chapter;
mod constants;
mod definition;
mod error;
mod facts;
#[cfg(feature = "files")]
mod file;
#[cfg(feature = "files")]
mod file_facts;
#[cfg(feature = "files")]
mod file_parts;
mod id;
#[cfg(feature = "files")]
mod lint;
mod lookups;
mod payload;
mod search;
#[rustfmt::skip]
mod standard;
mod undefined;
mod values;
mod vendor;

use crate::family::{Family, Protocol};
use crate::finding::{FileId, Finding, Rule, Severity, Sources};
use crate::layout::{Enumeration, Layout};
use crate::nearest;
use crate::octets::decimal;
use crate::once::Once;

pub use assemble::{Assembled, OptionOctets, OptionToSend, Origins, assemble, split};
pub use chapter::Chapter;
pub(crate) use definition::Picked;
pub use definition::{Carrier, Definition, Sender, Status};
pub use error::{CodebookError, Unknown};
pub(crate) use facts::MessageBits;
pub use facts::{ClosedMessage, Condition, Content, MessageFact, MessageFactKind, Service, Text};
#[cfg(feature = "files")]
pub use file::file_keys;
pub use id::OptionId;
pub use payload::{EncodeFailure, Payload};

/// The rules that reading a codebook speaks for.
#[cfg(feature = "files")]
pub(crate) fn rules() -> impl Iterator<Item = &'static Rule> {
    lint::RULES.into_iter()
}

/// Option definitions, found by code and by name.
#[derive(Debug, Clone, Default)]
pub struct Codebook {
    chapters: Vec<Chapter>,
    /// Which of these are the protocols' own, in the order of [`Protocol::ALL`].
    own: [Option<u16>; 3],
    enumerations: Vec<Arc<Enumeration>>,
    flags: Vec<Arc<Enumeration>>,
    /// The types of messages that take only what is allowed in them.
    closed: Vec<ClosedMessage>,
    /// The types of messages and the codes of options that these must have, in the order of [`Protocol::ALL`]: found on first
    /// use.
    required: Once<[Vec<(u8, u16)>; 3]>,
}

static STANDARD: Once<Codebook> = Once::new();

impl Codebook {
    /// The options of the IANA registry.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let codebook = Codebook::standard();
    /// assert!(codebook.definitions().all(|option| option.is_standard()));
    /// ```
    #[must_use]
    pub fn standard() -> &'static Self {
        STANDARD.get_or_init(|| constants::standard(&standard::TABLES))
    }

    /// The standard options and those of one codebook, given as its name for messages and its text.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let book = "book = \"tern\"\ncarriers = [\"v4:43\"]\n[[option]]\ncode = 1\nname = \"ring\"\nlayout = \"u8\"\n\
    ///             reference = \"Tern D2 manual, page 12\"\n";
    /// let codebook = Codebook::with("tern.toml", book)?;
    /// assert_eq!(codebook.find("tern:ring")?.code, 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// What is wrong with the codebook, at severity error.
    #[cfg(feature = "files")]
    pub fn with(name: &str, text: &str) -> Result<Self, CodebookError> {
        let (mut codebook, mut sources) = (Self::standard().clone(), Sources::default());
        let file = sources.add(name, text);
        let mut findings = codebook.add(&sources, file);
        findings.retain(|finding| finding.severity == Severity::Error);
        if findings.is_empty() { Ok(codebook) } else { Err(CodebookError { findings, sources }) }
    }

    /// Adds an option that is defined in Rust; one of the same code and book is replaced.
    ///
    /// ```
    /// use oplex::codebook::{Carrier, Codebook, Definition};
    /// use oplex::family::Family;
    /// use oplex::layout::Layout;
    ///
    /// let mut codebook = Codebook::standard().clone();
    /// let door = Definition::new("hill", 225, "door", Layout::parse("u8 in 1..=3")?).carried(Carrier::Own(Family::V4));
    /// codebook.define(door);
    /// let found = codebook.find("hill:door")?;
    /// assert_eq!(codebook.read(found, &[2]).value.map(|value| value.to_string()).as_deref(), Some("2"));
    /// assert_eq!(&*codebook.find("v4:225")?.name, "door");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn define(&mut self, definition: Definition) {
        let at = self.chapters.iter().position(|chapter| chapter.prefix == *definition.prefix).unwrap_or_else(|| {
            let name = Text::from(definition.book().to_owned());
            self.push_chapter(Chapter::of_vendor(name, definition.carriers.contains(&Carrier::IN_43), None))
        });
        for changed in self.insert(at, definition) {
            self.chapters[changed].index();
        }
    }

    /// Adds the definitions of a codebook file. What is wrong with the file comes back as findings; what is right is
    /// added all the same.
    #[cfg(feature = "files")]
    #[must_use]
    pub fn add(&mut self, sources: &Sources, file: FileId) -> Vec<Finding> {
        file::read(self, sources, file)
    }

    /// The option of this id or name: `v4:121`, `v4:82/1`, `tern:settings`, or `router`, which is DHCPv4's.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let codebook = Codebook::standard();
    /// assert_eq!(codebook.find("v4:6")?.name, "domain-server");
    /// assert_eq!(codebook.find("v6:dns-servers")?.code, 23);
    /// assert_eq!(codebook.find("v4:82/1")?.name, "agent-circuit-id");
    /// let unknown = codebook.find("domain-sever").expect_err("a letter is missing");
    /// assert_eq!(unknown.near.as_deref(), Some("v4:domain-server"));
    /// # Ok::<(), oplex::codebook::Unknown>(())
    /// ```
    ///
    /// # Errors
    /// An unknown name or code, with the nearest that is known.
    pub fn find(&self, query: &str) -> Result<&Arc<Definition>, Unknown> {
        // What is near takes long to find.
        self.known(query).ok_or_else(|| self.unknown(query))
    }

    /// The same, where nothing near is wanted.
    #[cfg(feature = "files")]
    pub(crate) fn find_exact(&self, query: &str) -> Option<Arc<Definition>> {
        self.known(query).cloned()
    }

    fn known(&self, query: &str) -> Option<&Arc<Definition>> {
        let (chapter, rest) = query.split_once(':').unwrap_or(("v4", query));
        self.chapter_named(chapter).and_then(|chapter| {
            let (outer, inner) = rest.split_once('/').map_or((rest, None), |(outer, inner)| (outer, Some(inner)));
            let outer = in_chapter(chapter, outer)?;
            match inner {
                None => Some(outer),
                Some(inner) => {
                    let prefix = format!("{}/", outer.id());
                    in_chapter(self.chapters.iter().find(|chapter| *chapter.prefix == *prefix)?, inner)
                }
            }
        })
    }

    /// The option of this code among the protocol's own.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::family::Protocol;
    ///
    /// let router = Codebook::standard().own(Protocol::V4, 3).expect("RFC 2132 defines it");
    /// assert_eq!(router.label(), "v4:3 router");
    /// ```
    #[must_use]
    #[inline]
    pub fn own(&self, protocol: Protocol, code: u16) -> Option<&Definition> {
        // This runs for every option of every message, so no names are compared.
        self.nested(self.own[protocol as usize].map(usize::from), code)
    }

    /// Why messages of this type take only the options that are [allowed](MessageFactKind::Allowed) in them, if they do.
    #[must_use]
    pub fn closed(&self, protocol: Protocol, number: u8) -> Option<&str> {
        let known = self.closed.iter().find(|closed| *closed.book == *protocol.name() && closed.number == number);
        known.map(|closed| &*closed.reference)
    }

    /// The codes of the protocol's own options that messages of a type must have, some of them only in some cases.
    pub(crate) fn required(&self, protocol: Protocol, number: u8) -> impl Iterator<Item = u16> {
        let required = self.required.get_or_init(|| {
            Protocol::ALL.map(|protocol| {
                let facts = |option: &Definition| {
                    let facts = option.messages.iter().filter(|fact| fact.kind == MessageFactKind::Required);
                    let types: Vec<u8> = facts.flat_map(|fact| fact.types.iter().copied()).collect();
                    let code = option.code;
                    types.into_iter().map(move |number| (number, code))
                };
                let mut all: Vec<(u8, u16)> = self.own_definitions(protocol).flat_map(facts).collect();
                all.sort_unstable();
                all.dedup();
                all
            })
        });
        let all = &required[protocol as usize];
        let of_type = &all[all.partition_point(|(kind, _)| *kind < number)..];
        of_type.iter().take_while(move |(kind, _)| *kind == number).map(|(_, code)| *code)
    }

    /// The option of this id.
    ///
    /// ```
    /// use oplex::codebook::{Codebook, OptionId};
    ///
    /// let id: OptionId = "v4:82/5".parse()?;
    /// assert_eq!(Codebook::standard().get(&id).map(|option| &*option.name), Some("link-selection"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn get(&self, id: &OptionId) -> Option<&Arc<Definition>> {
        let here = |chapter: &&Chapter| id.to_string().starts_with(&*chapter.prefix);
        self.chapters.iter().filter(here).filter_map(|chapter| chapter.get(id.code())).find(|one| one.id() == *id)
    }

    /// The option that a walk met in a chapter of nested options.
    #[must_use]
    #[inline]
    pub fn nested(&self, chapter: Option<usize>, code: u16) -> Option<&Definition> {
        self.chapters.get(chapter?)?.get(code).map(|definition| &**definition)
    }

    /// The protocol's own options, in the order of their codes.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::family::Protocol;
    ///
    /// let codes: Vec<u16> = Codebook::standard().own_definitions(Protocol::Ra).map(|option| option.code).collect();
    /// assert!(codes.contains(&25) && codes.is_sorted());
    /// ```
    pub fn own_definitions(&self, protocol: Protocol) -> impl Iterator<Item = &Definition> {
        let chapter = self.chapter_named(protocol.name());
        chapter.into_iter().flat_map(Chapter::options).map(|definition| &**definition)
    }

    /// How an option of the protocol is called: `v4:54 dhcp-server-id`, or its id alone.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::family::Protocol;
    ///
    /// assert_eq!(Codebook::standard().label(Protocol::V6, 23), "v6:23 dns-servers");
    /// assert_eq!(Codebook::standard().label(Protocol::V6, 65_000), "v6:65000");
    /// ```
    #[must_use]
    pub fn label(&self, protocol: Protocol, code: u16) -> String {
        self.own(protocol, code).map_or_else(|| format!("{}:{code}", protocol.name()), Definition::label)
    }

    /// All options, sub-options and vendors' options, in the order of chapters and codes.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::family::Protocol;
    ///
    /// let own = |protocol| Codebook::standard().definitions().filter(|option| option.is_own_of(protocol)).count();
    /// // Every code of DHCPv4 has a definition, assigned or not: one octet has no more.
    /// assert_eq!(own(Protocol::V4), 256);
    /// assert!(own(Protocol::V6) > 100);
    /// ```
    pub fn definitions(&self) -> impl Iterator<Item = &Definition> {
        // An option that a vendor's book puts among DHCPv4's own stands in both; it is counted with its book.
        let own = |chapter: &Chapter, option: &Definition| *option.prefix == chapter.prefix;
        self.chapters.iter().flat_map(move |chapter| {
            chapter.options().filter(move |option| own(chapter, option)).map(|option| &**option)
        })
    }

    /// The sets of codes, those of the standard books first.
    #[must_use]
    pub fn chapters(&self) -> &[Chapter] {
        &self.chapters
    }

    /// The named numbers that layouts use.
    #[must_use]
    pub fn enumerations(&self) -> &[Arc<Enumeration>] {
        &self.enumerations
    }

    /// The named bits that layouts use.
    #[must_use]
    pub fn flags(&self) -> &[Arc<Enumeration>] {
        &self.flags
    }

    /// The types of messages that take only what is [allowed](MessageFactKind::Allowed) in them.
    #[must_use]
    pub fn closed_messages(&self) -> &[ClosedMessage] {
        &self.closed
    }

    /// The layout of an option's payload. A layout that could not be read stands for any octets.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let codebook = Codebook::standard();
    /// let layout = codebook.layout(codebook.find("v4:router")?);
    /// assert_eq!(layout.to_string(), "ipv4+");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn layout<'c>(&'c self, definition: &'c Definition) -> &'c Layout {
        static ANY: Once<Layout> = Once::new();
        let any = || Layout::parse("bytes*").unwrap_or_else(|_| unreachable!("`bytes*` is a layout"));
        definition.layout_or_error(self).as_ref().unwrap_or_else(|_| ANY.get_or_init(any))
    }

    /// Puts an option into its chapter, and where else it travels; the chapters that have it now.
    fn insert(&mut self, chapter: usize, definition: Definition) -> Vec<usize> {
        let definition = Arc::new(definition);
        self.required = Once::new();
        let places =
            [(Carrier::Own(Family::V4), "v4"), (Carrier::Own(Family::V6), "v6"), (Carrier::Relay, "relay-agent")];
        let carried = places.iter().filter(|(carrier, _)| definition.carriers.contains(carrier));
        let among = carried.filter_map(|(_, name)| self.chapters.iter().position(|chapter| *chapter.name == **name));
        let changed: Vec<usize> = among.chain([chapter]).collect();
        for at in &changed {
            self.chapters[*at].insert(Arc::clone(&definition));
        }
        changed
    }

    fn push_chapter(&mut self, chapter: Chapter) -> usize {
        if let Some(protocol) = Protocol::named(&chapter.name) {
            self.own[protocol as usize] = u16::try_from(self.chapters.len()).ok();
        }
        self.chapters.push(chapter);
        self.chapters.len() - 1
    }

    fn chapter_named(&self, name: &str) -> Option<&Chapter> {
        self.chapters.iter().find(|chapter| *chapter.name == *name)
    }

    fn unknown(&self, query: &str) -> Unknown {
        let (chapter, name) = query.split_once(':').map_or((None, query), |(chapter, name)| (Some(chapter), name));
        let chapter = chapter.filter(|chapter| self.chapter_named(chapter).is_some());
        let candidates = self.definitions().filter(|one| chapter.is_none_or(|chapter| one.prefix.starts_with(chapter)));
        let names: Vec<(&Definition, &str)> = candidates
            .flat_map(|option| {
                core::iter::once(&*option.name)
                    .chain(option.aliases.iter().map(|alias| &**alias))
                    .map(move |at| (option, at))
            })
            .collect();
        let near = nearest::nearest(name, names.iter().map(|(_, name)| *name));
        let near = near.and_then(|near| names.iter().find(|(_, name)| *name == near));
        Unknown { query: query.to_owned(), near: near.map(|(option, name)| format!("{}{name}", option.prefix)) }
    }
}

fn in_chapter<'s>(chapter: &'s Chapter, name: &str) -> Option<&'s Arc<Definition>> {
    decimal(name).and_then(|code| chapter.get(code)).or_else(|| chapter.named(name))
}
