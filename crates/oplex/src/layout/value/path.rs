//! Ways into a value: by the name of a field, by the code of an option, by a path of both.

use crate::layout::value::Value;
use crate::prelude::*;

/// One step of a path into a value. Lists are passed through: a step into a list goes into each of its items.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum PathStep {
    /// Into the field of this name.
    Field(&'static str),
    /// Into the nested options of this code.
    Option(u16),
}

impl Value {
    /// The value of a field of a record.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let codebook = Codebook::standard();
    /// // A route of option 121: the length of its prefix, as many octets as that has, and the router (RFC 3442).
    /// let (value, _) = codebook.decode(codebook.find("v4:121")?, &[24, 10, 64, 8, 10, 64, 4, 1]);
    /// let routes = value.ok_or("nothing is wrong with it")?;
    /// assert_eq!(routes.items().len(), 1);
    /// // An advertised prefix has fields, and flags among them.
    /// let prefix = [64, 0xc0, 0, 0, 14, 16, 0, 0, 7, 8, 0, 0, 0, 0, 0x20, 1, 0x0d, 0xb8, 0, 0x64, 0, 0x40, 0, 0, 0, 0, 0, 0, 0, 0];
    /// let (value, _) = codebook.decode(codebook.find("ra:3")?, &prefix);
    /// let prefix = value.ok_or("nothing is wrong with it")?;
    /// assert_eq!(prefix.field("length").and_then(|length| length.number()), Some(64));
    /// assert!(prefix.field("flags").is_some_and(|flags| flags.flag("on-link")));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn field(&self, name: &str) -> Option<&Self> {
        let Self::Record(fields) = self else { return None };
        fields.iter().find(|(known, _)| **known == *name).map(|(_, value)| value)
    }

    /// The IPv4 address that it is, alone or in a list of one.
    #[must_use]
    pub fn ipv4(&self) -> Option<core::net::Ipv4Addr> {
        match self {
            Self::Ipv4(address) => Some(*address),
            Self::List(items) => items.first().filter(|_| items.len() == 1)?.ipv4(),
            _ => None,
        }
    }

    /// The options that it is, or that are in one of its fields.
    pub(crate) fn record_options(&self) -> &[super::SubOption] {
        match self {
            Self::Options(options) => options,
            Self::Record(fields) => {
                fields.iter().map(|(_, value)| value.record_options()).find(|all| !all.is_empty()).unwrap_or(&[])
            }
            _ => &[],
        }
    }

    /// The value of the first nested option of this code.
    #[must_use]
    pub fn option(&self, code: u16) -> Option<&Self> {
        let Self::Options(options) = self else { return None };
        options.iter().find(|option| option.code == code).map(|option| &option.value)
    }

    /// Its number: an unsigned number, a member of an enumeration, a set of flags, or seconds.
    #[must_use]
    pub fn number(&self) -> Option<u64> {
        match self {
            Self::Number(number) | Self::Member(number, _) | Self::Flags(number, _) => Some(*number),
            Self::Seconds(seconds) => Some((*seconds).into()),
            _ => None,
        }
    }

    /// Its text: text or a name.
    #[must_use]
    pub fn text(&self) -> Option<&str> {
        match self {
            Self::Text(text) | Self::Name(text) => Some(text),
            _ => None,
        }
    }

    /// Whether it is a set of flags in which the one of this name is set.
    #[must_use]
    pub fn flag(&self, name: &str) -> bool {
        matches!(self, Self::Flags(_, names) if names.iter().any(|known| **known == *name))
    }

    /// The items of a list; nothing else has any.
    #[must_use]
    pub fn items(&self) -> &[Self] {
        if let Self::List(items) = self { items } else { &[] }
    }

    /// Everything that a path leads to, in the order of the octets.
    #[must_use]
    pub fn at(&self, path: &[PathStep]) -> Vec<&Self> {
        let mut found = Vec::new();
        self.follow(path, &mut found);
        found
    }

    fn follow<'v>(&'v self, path: &[PathStep], found: &mut Vec<&'v Self>) {
        match (self, path) {
            (Self::List(items), _) => items.iter().for_each(|item| item.follow(path, found)),
            (_, []) => found.push(self),
            (_, [PathStep::Field(name), rest @ ..]) => {
                if let Some(inner) = self.field(name) {
                    inner.follow(rest, found);
                }
            }
            (Self::Options(options), [PathStep::Option(code), rest @ ..]) => {
                options.iter().filter(|option| option.code == *code).for_each(|one| one.value.follow(rest, found));
            }
            _ => {}
        }
    }
}
