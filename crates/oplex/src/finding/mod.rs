//! What the rules say, and where: findings, the rules behind them, and the texts they point into.
//!
//! A [`Finding`] says what is wrong (`message`), where (`spot` in a text, `octets` in a message, or both), by which [`Rule`], and,
//! where it is known, what to write instead. It is [`Display`](fmt::Display) for logs and, with the feature `serde`, `Serialize` for
//! programs; the command draws it with the lines of the text around it.
//!
//! ```
//! use oplex::check;
//! use oplex::finding::Severity;
//! use oplex::plan::Plan;
//!
//! let text = "[network.desk]\nsubnet = \"10.64.4.1/24\"\n";
//! let loaded = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into()));
//! let findings = check::plan(&loaded);
//! let wrong = findings.iter().find(|finding| finding.severity == Severity::Error).expect("bits stand below the length");
//! assert_eq!(wrong.rule.name, "subnet-host-bits-set");
//! assert_eq!(wrong.remedy(), Some("\"10.64.4.0/24\""));
//!
//! // Where it stands: the file, the line, and the very characters.
//! let spot = wrong.spot.as_ref().expect("it is about a line");
//! assert_eq!(&text[spot.span.clone()], "\"10.64.4.1/24\"");
//! ```
//!
//! Names of rules, severities and the keys of a finding as JSON stay what they are between versions; messages may be worded anew.

use crate::prelude::*;
mod kept;
mod places;
mod source;

use core::fmt;
use core::ops::Range;

use crate::family::Protocol;
#[cfg(feature = "std")]
use crate::heading;
use crate::parse_error::shortened;

pub(crate) use kept::Findings;
pub use source::{FileId, Location, Source, Sources, Spot};

/// How much a finding matters.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize), serde(rename_all = "lowercase"))]
pub enum Severity {
    /// Worth knowing; nothing need change.
    Note,
    /// Likely not what was meant, or what some receivers do not take well.
    Warning,
    /// Wrong by an RFC or by the plan itself; nothing is published with it.
    Error,
}

impl fmt::Display for Severity {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::Note => "note",
            Self::Warning => "warning",
            Self::Error => "error",
        })
    }
}

/// A named check: everything there is to say about it before it finds anything.
#[derive(Clone, Copy, PartialEq, Eq)]
pub struct Rule {
    /// Its name, in kebab-case: what it is about, and what is wrong with that. It is never used again for another rule.
    pub name: &'static str,
    /// How much its findings matter.
    pub severity: Severity,
    /// What it looks at.
    pub about: About,
    /// The RFC and section it rests on; empty where it rests on the plan alone, or on the RFC of the option it speaks of.
    pub rfc: &'static str,
    /// One line: what it finds.
    pub summary: &'static str,
    /// What goes wrong in the network when it is not heeded.
    pub why: &'static str,
    /// What it finds and no other rule does.
    pub examples: &'static [Example],
}

/// What a rule looks at.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum About {
    /// A plan's or codebook's file, before it is known what it says.
    File,
    /// A codebook.
    Codebook,
    /// Any option.
    AnyOption,
    /// Single options, by their ids, and options of other protocols that are the same thing.
    Options(&'static [&'static str]),
    /// Options whose layout has one of these words for single things.
    Atoms(&'static [&'static str]),
    /// A whole plan.
    Plan,
    /// What the clients of a network are sent.
    Answer,
    /// A message of these protocols.
    Message(&'static [Protocol]),
    /// A request and its reply.
    Exchange,
    /// What was captured: messages one after the other, and beside a plan where one is given.
    Traffic,
}

/// `DHCPv4 messages`, `v4:33`.
impl fmt::Display for About {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::File => f.write_str("files"),
            Self::Codebook => f.write_str("codebooks"),
            Self::AnyOption => f.write_str("options"),
            Self::Options(ids) => f.write_str(&ids.join(", ")),
            Self::Atoms(words) => write!(f, "options with `{}`", words.join("`, `")),
            Self::Plan => f.write_str("plans"),
            Self::Answer => f.write_str("what a network's clients are sent"),
            Self::Message(protocols) => {
                let names: Vec<String> = protocols.iter().map(ToString::to_string).collect();
                write!(f, "messages: {}", names.join(", "))
            }
            Self::Exchange => f.write_str("a reply beside its request"),
            Self::Traffic => f.write_str("captured messages"),
        }
    }
}

/// The name alone: the rest is prose.
impl fmt::Debug for Rule {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name)
    }
}

/// Something that a rule finds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Example {
    /// A whole plan.
    Plan(&'static str),
    /// A whole plan, and the one codebook it names.
    PlanAndCodebook(&'static str, &'static str),
    /// A whole codebook.
    Codebook(&'static str),
    /// An option and its octets in hexadecimal.
    Payload(&'static str, &'static str),
    /// A whole message, written down as a specimen.
    Message(Protocol, &'static str),
    /// A request and its answer, both written down as specimens.
    Exchange(Protocol, &'static str, &'static str),
    /// A plan, or nothing, and messages with the second in which each was seen, written down as specimens.
    Traffic(&'static str, &'static [(u64, Protocol, &'static str)]),
}

impl Rule {
    /// Begins a finding of this rule.
    ///
    /// ```
    /// use oplex::finding::Severity;
    ///
    /// let rule = oplex::check::rules().find(|rule| rule.name == "pool-outside-subnet").expect("there is such a rule");
    /// let finding = rule.finding("pool 10.64.9.20 is outside 10.64.4.0/23").advice("a pool in 10.64.4.0/23").on(0..4);
    /// assert_eq!((finding.severity, finding.octets.clone()), (Severity::Error, Some(0..4)));
    /// assert_eq!(finding.remedy(), Some("a pool in 10.64.4.0/23"));
    /// ```
    #[must_use]
    pub fn finding(&'static self, message: impl Into<String>) -> Finding {
        Finding {
            rule: self,
            severity: self.severity,
            message: shortened(message.into()),
            option: None,
            replace: None,
            safe: false,
            advice: None,
            spot: None,
            octets: None,
            rfc: self.rfc.to_owned(),
            also: Vec::new(),
            related: Vec::new(),
            audience: (None, None),
            borne: false,
            more: 0,
        }
    }
}

/// Declares a rule: its first line of text says what it finds, what follows an empty line says what goes wrong in the
/// network when it is not heeded. Then come its name, its severity, what it is about, what it rests on, and examples.
macro_rules! rule {
    ($(#[doc = $text:literal])+ $visible:vis static $rule:ident = $($rest:tt)+) => {
        #[doc = concat!($($text),+)]
        $visible static $rule: $crate::finding::Rule = $crate::finding::declared!([$($text)+] $($rest)+);
    };
}
pub(crate) use rule;

/// A rule made of its declaration's parts.
macro_rules! declared {
    (
        [$summary:literal $empty:literal $($why:literal)+]
        $name:literal, $severity:ident, $about:ident $(($($of:tt)+))?, $rfc:expr;
        $($example:expr),+ $(,)?
    ) => {
        $crate::finding::Rule {
            name: $name,
            severity: $crate::finding::Severity::$severity,
            about: $crate::finding::about!($about $(($($of)+))?),
            rfc: $rfc,
            summary: $summary.trim_ascii(),
            why: concat!($($why),+).trim_ascii(),
            examples: &[$($example),+],
        }
    };
}
pub(crate) use declared;

/// What a rule is about, in its declaration.
macro_rules! about {
    (Message($($protocol:ident),+)) => {
        $crate::finding::About::Message(&[$($crate::family::Protocol::$protocol),+])
    };
    ($many:ident($($of:literal),+)) => {
        $crate::finding::About::$many(&[$($of),+])
    };
    ($one:ident) => {
        $crate::finding::About::$one
    };
}
pub(crate) use about;

/// One place where a rule speaks.
#[derive(Debug, Clone, PartialEq)]
pub struct Finding {
    /// The rule.
    pub rule: &'static Rule,
    /// How much it matters here.
    pub severity: Severity,
    /// What is wrong, in the user's words.
    pub message: String,
    /// The option it is about, `v4:121`, where it is about one.
    pub option: Option<String>,
    /// What to write in place of the marked characters, exactly.
    pub replace: Option<String>,
    /// Whether there is no doubt about that: it means the same, or nothing else can have been meant. A program may write it
    /// without asking.
    pub safe: bool,
    /// What to do about it, where that is no exact replacement.
    pub advice: Option<String>,
    /// Where it is written.
    pub spot: Option<Spot>,
    /// The octets of the payload it is about.
    pub octets: Option<Range<usize>>,
    /// The RFC and section: the rule's, or the option's where the rule speaks for many.
    pub rfc: String,
    /// Other octets of the same option of which it says the same, each with what is wrong there.
    pub also: Vec<(Range<usize>, String)>,
    /// Other places it is about, each with what stands there.
    pub related: Vec<(Spot, String)>,
    /// The network and the fleet whose clients it is about, by their places, where a rule looks at their answers.
    pub(crate) audience: (Option<usize>, Option<usize>),
    /// Whether an RFC has receivers bear it and still use the option or message: then it is an error only for senders.
    pub borne: bool,
    /// How many more of its rule there are that are not listed: it is the last of those that are.
    pub more: usize,
}

/// `error: v4:121: … (route-host-bits-set; RFC 3442, …)`, on one line.
impl fmt::Display for Finding {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: ", self.severity)?;
        if let Some(option) = &self.option {
            write!(f, "{option}: ")?;
        }
        write!(f, "{} ({}", self.message, self.rule.name)?;
        if !self.rfc.is_empty() {
            write!(f, "; {}", self.rfc)?;
        }
        f.write_str(")")
    }
}

impl Finding {
    /// Says where it is written.
    #[must_use]
    pub fn at(self, spot: Spot) -> Self {
        Self { spot: Some(spot), ..self }
    }

    /// Gives the text that mends it when it stands in place of the marked characters.
    #[must_use]
    pub fn replace(self, text: impl Into<String>) -> Self {
        Self { replace: Some(text.into()), ..self }
    }

    /// Gives the text that mends it, where there is no doubt about that.
    #[must_use]
    pub fn replace_safely(self, text: impl Into<String>) -> Self {
        Self { safe: true, ..self.replace(text) }
    }

    /// Gives advice.
    #[must_use]
    pub fn advice(self, text: impl Into<String>) -> Self {
        Self { advice: Some(text.into()), ..self }
    }

    /// What to try: the replacement, or else the advice.
    #[must_use]
    pub fn remedy(&self) -> Option<&str> {
        self.replace.as_deref().or(self.advice.as_deref())
    }

    /// Puts the replacement in quotes where what it stands for is in quotes, or is a key that the new text needs quotes for.
    #[cfg(feature = "std")]
    pub(crate) fn made_exact(mut self, sources: &Sources) -> Self {
        if let (Some(text), Some(spot)) = (&mut self.replace, &self.spot) {
            let source = &sources.get(spot.file).text;
            let marked = source.get(spot.span.clone()).unwrap_or_default();
            let behind = source.get(spot.span.end..).unwrap_or_default().trim_start_matches([' ', '\t']);
            let is_key = !marked.is_empty() && heading::key(marked) == marked && behind.starts_with(['=', '.', ']']);
            if marked.starts_with(['"', '\'']) && !text.starts_with(['"', '\'', '[', '{']) {
                *text = heading::quoted(text);
            } else if is_key {
                *text = heading::key(text);
            }
        }
        self
    }

    /// Names the option it is about.
    #[must_use]
    pub fn of(self, option: impl Into<String>) -> Self {
        Self { option: Some(option.into()), ..self }
    }

    /// Rests on this RFC and section.
    #[must_use]
    pub fn by(self, rfc: impl Into<String>) -> Self {
        Self { rfc: rfc.into(), ..self }
    }

    /// Is about a network, by its place in the plan.
    #[must_use]
    pub(crate) fn on_network(self, network: usize) -> Self {
        Self { audience: (Some(network), None), ..self }
    }

    /// Receivers must bear it, so that it is an error for senders alone.
    #[must_use]
    pub fn borne(self) -> Self {
        Self { borne: true, ..self }
    }

    /// As it is said of octets that were received: what receivers must bear is a warning.
    ///
    /// ```
    /// use oplex::check;
    /// use oplex::codebook::Codebook;
    /// use oplex::finding::Severity;
    ///
    /// // Whoever sends reserved bits breaks a MUST; whoever receives them ignores them and uses the option (RFC 8415, section 21.8).
    /// let codebook = Codebook::standard();
    /// let fqdn = codebook.find("v6:39")?;
    /// let octets = [0x80, 1, b'a', 0];
    /// let severity = |findings: Vec<oplex::finding::Finding>| findings[0].severity;
    /// assert_eq!(severity(check::payload_to_send(codebook, fqdn, &octets)), Severity::Error);
    /// assert_eq!(severity(check::payload(codebook, fqdn, &octets)), Severity::Warning);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn when_reading(self) -> Self {
        let severity = if self.borne { self.severity.min(Severity::Warning) } else { self.severity };
        Self { severity, ..self }
    }

    /// Matters this much here.
    #[must_use]
    pub fn as_severity(self, severity: Severity) -> Self {
        Self { severity, ..self }
    }
}

/// Whether any of the findings keeps a plan from being published.
///
/// ```
/// use oplex::check;
/// use oplex::codebook::Codebook;
/// use oplex::finding::any_error;
///
/// let codebook = Codebook::standard();
/// let router = codebook.find("v4:router")?;
/// assert!(!any_error(&check::payload(codebook, router, &[10, 64, 4, 1])));
/// assert!(any_error(&check::payload(codebook, router, &[10, 64, 4])));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[must_use]
pub fn any_error(findings: &[Finding]) -> bool {
    findings.iter().any(|finding| finding.severity == Severity::Error)
}
