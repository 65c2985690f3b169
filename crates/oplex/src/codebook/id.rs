//! The ids of options, as they are written everywhere: `v4:121`, `v4:82/1`, `tern:4`.

use alloc::borrow::Cow;
use core::fmt;
use core::str::FromStr;

use super::facts::Text;
use crate::ParseError;
use crate::family::Protocol;
use crate::octets::decimal;
use crate::prelude::*;

/// Which option: a protocol or a book, the codes of the options around it, and its code.
///
/// ```
/// use oplex::codebook::{Codebook, OptionId};
///
/// let circuit: OptionId = "v4:82/1".parse()?;
/// assert_eq!((circuit.book(), circuit.code()), ("v4", 1));
/// assert_eq!(circuit.outer(), Some("v4:82".parse()?));
/// let definition = Codebook::standard().get(&circuit).expect("it is in the registry");
/// assert_eq!(&*definition.name, "agent-circuit-id");
/// assert_eq!(definition.id(), circuit);
/// # Ok::<(), oplex::ParseError>(())
/// ```
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct OptionId {
    /// All before the code: `v4:`, `v4:82/`, `tern:`.
    prefix: Text,
    code: u16,
}

impl OptionId {
    pub(super) fn new(prefix: Text, code: u16) -> Self {
        Self { prefix, code }
    }

    /// An own option of a protocol.
    ///
    /// ```
    /// use oplex::codebook::OptionId;
    /// use oplex::family::Protocol;
    ///
    /// let id = OptionId::of(Protocol::V6, 23);
    /// assert_eq!((id.to_string(), id.code(), id.book()), ("v6:23".to_owned(), 23, "v6"));
    /// assert_eq!("v6:23".parse(), Ok(id));
    /// ```
    #[must_use]
    pub const fn of(protocol: Protocol, code: u16) -> Self {
        let prefix = match protocol {
            Protocol::V4 => "v4:",
            Protocol::V6 => "v6:",
            Protocol::Ra => "ra:",
        };
        Self { prefix: Cow::Borrowed(prefix), code }
    }

    /// Its code.
    #[must_use]
    pub const fn code(&self) -> u16 {
        self.code
    }

    /// What stands before the colon: `v4`, `v6`, `ra`, or the name of a vendor's or site's book.
    #[must_use]
    pub fn book(&self) -> &str {
        self.prefix.split(':').next().unwrap_or_default()
    }

    /// The option it stands in, where it is a sub-option.
    ///
    /// ```
    /// use oplex::codebook::OptionId;
    ///
    /// let circuit: OptionId = "v4:82/1".parse()?;
    /// assert_eq!(circuit.outer(), Some("v4:82".parse()?));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn outer(&self) -> Option<Self> {
        self.prefix.strip_suffix('/')?.parse().ok()
    }
}

impl fmt::Display for OptionId {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}{}", self.prefix, self.code)
    }
}

impl FromStr for OptionId {
    type Err = ParseError;

    fn from_str(text: &str) -> Result<Self, ParseError> {
        let wrong =
            |why: &str| format!("`{text}` is not the id of an option: {why}; write it like `v4:121` or `v4:82/1`");
        let (book, codes) = text.split_once(':').ok_or_else(|| wrong("no colon"))?;
        if book.is_empty() || !book.bytes().all(|octet| octet.is_ascii_alphanumeric() || octet == b'-') {
            return Err(wrong("no protocol or book before the colon").into());
        }
        let code = |text: &str| decimal::<u16>(text).ok_or_else(|| wrong("a code is a number from 0 to 65535"));
        let (outer, last) = codes.rsplit_once('/').map_or(("", codes), |(outer, last)| (outer, last));
        let outer: Vec<u16> = outer.split('/').filter(|_| !outer.is_empty()).map(code).collect::<Result<_, _>>()?;
        let mut prefix = format!("{book}:");
        outer.iter().for_each(|code| prefix += &format!("{code}/"));
        Ok(Self::new(prefix.into(), code(last)?))
    }
}
