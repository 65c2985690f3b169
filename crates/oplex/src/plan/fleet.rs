//! Fleets: the devices of one kind, and what they are recognised by.

use std::fmt;
use std::str::Chars;
use std::sync::Arc;

use super::{Layer, Pools};
use crate::codebook::{Codebook, Definition};
use crate::finding::Spot;
use crate::octets::Mac;

/// The devices of one kind.
#[derive(Debug, Clone)]
pub struct Fleet {
    /// Its name in the plan.
    pub name: String,
    /// Where the name stands.
    pub spot: Spot,
    /// What its devices are recognised by.
    pub recognised: Match,
    /// What they are sent.
    pub layer: Layer,
    /// The codes they request, when the plan says.
    pub requests: Option<Vec<u16>>,
    /// What is special to them on single networks, in the order of these.
    pub on: Vec<FleetOn>,
}

/// A fleet on one network.
#[derive(Debug, Clone)]
pub struct FleetOn {
    /// The network, by its place in the plan.
    pub network: usize,
    /// Where the network's name stands.
    pub spot: Spot,
    /// The addresses that the fleet has for itself there.
    pub pools: Pools,
    /// What its devices are sent there.
    pub layer: Layer,
}

impl Fleet {
    /// What is special to the fleet on this network.
    #[must_use]
    pub fn on(&self, network: usize) -> Option<&FleetOn> {
        let at = self.on.binary_search_by_key(&network, |on| on.network).ok()?;
        self.on.get(at)
    }
}

/// What a client must be like.
#[derive(Debug, Clone)]
#[non_exhaustive]
pub enum Match {
    /// All of these hold.
    All(Vec<Self>),
    /// One of these holds.
    Any(Vec<Self>),
    /// None of these holds.
    None(Vec<Self>),
    /// The client sends something that one of the patterns fits.
    Sends {
        /// What it sends.
        fact: Fact,
        /// What that may look like.
        patterns: Vec<Pattern>,
        /// Where it is written.
        spot: Spot,
    },
}

impl Match {
    /// That a client sends something that one of the patterns fits.
    pub(crate) fn sends(codebook: &Codebook, what: &str, patterns: &[String]) -> Result<Self, String> {
        let fact = match Fact::KEYS.into_iter().find(|(key, _)| *key == what) {
            Some((_, fact)) => fact,
            None => Fact::Option(Arc::clone(codebook.find(what).map_err(|unknown| unknown.to_string())?)),
        };
        let patterns = patterns.iter().map(|text| Pattern::parse(text, &fact)).collect::<Result<_, _>>()?;
        Ok(Self::Sends { fact, patterns, spot: Spot::NOWHERE })
    }
}

/// As a sentence: `vendor-class is Tern *, and none of (mac is 02:*)`.
impl fmt::Display for Match {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let joined = |f: &mut fmt::Formatter<'_>, all: &[Self], between: &str| {
            all.iter().enumerate().try_for_each(|(at, one)| write!(f, "{}{one}", if at > 0 { between } else { "" }))
        };
        match self {
            Self::All(all) => joined(f, all, ", and "),
            Self::Any(any) => {
                f.write_str("one of (")?;
                joined(f, any, "; ")?;
                f.write_str(")")
            }
            Self::None(none) => {
                f.write_str("none of (")?;
                joined(f, none, "; ")?;
                f.write_str(")")
            }
            Self::Sends { fact, patterns, .. } => {
                let patterns: Vec<String> = patterns.iter().map(ToString::to_string).collect();
                write!(f, "{fact} is {}", patterns.join(" or "))
            }
        }
    }
}

/// Something that a client sends.
#[derive(Debug, Clone)]
#[non_exhaustive]
pub enum Fact {
    /// Its hardware address.
    Mac,
    /// Its vendor class (60).
    VendorClass,
    /// The enterprise of its vendor class (124).
    Enterprise,
    /// One of its user classes (77).
    UserClass,
    /// One of the architectures it boots by (93).
    Architecture,
    /// Its host name (12), or the name it wants to be known by (81).
    Hostname,
    /// Its identifier (61).
    ClientId,
    /// Its DUID (DHCPv6).
    Duid,
    /// The relay's circuit (82, sub-option 1).
    CircuitId,
    /// The relay's remote identifier (82, sub-option 2).
    RemoteId,
    /// Any other option.
    Option(Arc<Definition>),
}

impl Fact {
    /// The facts that have keys of their own in a plan.
    pub(super) const KEYS: [(&'static str, Self); 10] = [
        ("mac", Self::Mac),
        ("vendor-class", Self::VendorClass),
        ("enterprise", Self::Enterprise),
        ("user-class", Self::UserClass),
        ("arch", Self::Architecture),
        ("hostname", Self::Hostname),
        ("client-id", Self::ClientId),
        ("duid", Self::Duid),
        ("circuit-id", Self::CircuitId),
        ("remote-id", Self::RemoteId),
    ];
}

/// As a plan writes it.
impl fmt::Display for Fact {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if let Self::Option(definition) = self {
            return f.write_str(&definition.spelled());
        }
        let same = |fact: &Self| std::mem::discriminant(fact) == std::mem::discriminant(self);
        let key = Self::KEYS.iter().find(|(_, fact)| same(fact)).map(|(key, _)| *key);
        f.write_str(key.unwrap_or_default())
    }
}

/// What something that a client sends may look like.
#[derive(Debug, Clone, PartialEq, Eq)]
#[non_exhaustive]
pub enum Pattern {
    /// Text, in which `*` stands for any characters and `?` for one.
    Text(String),
    /// Hardware addresses from first to last, both included.
    Macs(Mac, Mac),
}

impl Pattern {
    /// Reads a pattern; a hardware address may be a range.
    pub(super) fn parse(text: &str, fact: &Fact) -> Result<Self, String> {
        if !matches!(fact, Fact::Mac) {
            return Ok(Self::Text(text.to_owned()));
        }
        if let Some((first, last)) = text.split_once(" - ").or_else(|| range(text)) {
            let (first, last) = (first.trim().parse::<Mac>()?, last.trim().parse::<Mac>()?);
            return if first <= last {
                Ok(Self::Macs(first, last))
            } else {
                Err(format!("`{text}` ends before it begins"))
            };
        }
        if text.contains(['*', '?']) {
            let odd = text.chars().find(|c| !(c.is_ascii_hexdigit() || matches!(c, ':' | '*' | '?')));
            return match odd {
                Some(odd) => Err(format!("`{odd}` cannot stand in a pattern for hardware addresses, `02:00:5e:*`")),
                None => Ok(Self::Text(text.to_ascii_lowercase())),
            };
        }
        let octets = text.split(':').count();
        let whole = |part: &str| part.len() == 2 && part.bytes().all(|digit| digit.is_ascii_hexdigit());
        if octets < 6 && text.split(':').all(whole) {
            return Err(format!("`{text}` has {octets} of 6 octets; for all that begin so write `{text}:*`"));
        }
        let only: Mac = text.parse()?;
        Ok(Self::Macs(only, only))
    }

    /// Whether text fits.
    ///
    /// ```
    /// use oplex::plan::Pattern;
    ///
    /// let pattern = Pattern::Text("Tern D?*".to_owned());
    /// assert!(pattern.fits("Tern D2 4.1") && !pattern.fits("Tern D") && !pattern.fits("Gannet R1"));
    /// let (first, last) = ("02:00:5e:00:53:30".parse()?, "02:00:5e:00:53:3f".parse()?);
    /// assert!(Pattern::Macs(first, last).fits("02:00:5e:00:53:35"));
    /// # Ok::<(), oplex::ParseError>(())
    /// ```
    #[must_use]
    pub fn fits(&self, text: &str) -> bool {
        match self {
            Self::Text(pattern) => glob(pattern, text),
            Self::Macs(first, last) => text.parse::<Mac>().is_ok_and(|mac| *first <= mac && mac <= *last),
        }
    }
}

impl fmt::Display for Pattern {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Text(text) => f.write_str(text),
            Self::Macs(first, last) if first == last => write!(f, "{first}"),
            Self::Macs(first, last) => write!(f, "{first}-{last}"),
        }
    }
}

/// A range of two addresses with colons in them.
fn range(text: &str) -> Option<(&str, &str)> {
    let (first, last) = text.split_once('-')?;
    (first.contains(':') && last.contains(':')).then_some((first, last))
}

/// A client identifier in hexadecimal.
pub(super) fn client_id(text: &str) -> Result<Box<[u8]>, String> {
    match crate::octets::hex::parse(text) {
        Ok(octets) if octets.is_empty() => Err("a client identifier has an octet at least".to_owned()),
        Ok(octets) => Ok(octets.into()),
        Err(error) => Err(format!("`{text}` is not a client identifier in hexadecimal: {error}")),
    }
}

/// Whether the text fits the pattern, in time proportional to the product of their lengths at worst.
fn glob(pattern: &str, text: &str) -> bool {
    let (mut wanted, mut seen) = (pattern.chars(), text.chars());
    // Where to go on when the rest does not fit: after the last `*`, which then stands for one character more.
    let mut retry: Option<(Chars<'_>, Chars<'_>)> = None;
    loop {
        let (mut next, mut here) = (wanted.clone(), seen.clone());
        match (next.next(), here.next()) {
            (Some('*'), _) => {
                retry = Some((next.clone(), seen.clone()));
                wanted = next;
            }
            (Some(one), Some(c)) if one == '?' || one == c => (wanted, seen) = (next, here),
            (None, None) => return true,
            _ => {
                let Some((after, from)) = &mut retry else { return false };
                if from.next().is_none() {
                    return false;
                }
                (wanted, seen) = (after.clone(), from.clone());
            }
        }
    }
}
