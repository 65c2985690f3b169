//! What a codebook says about an option besides its payload: what it holds, and which messages may have it.

use alloc::borrow::Cow;

/// Text of a codebook: the standard ones have theirs in the program, others bring it along.
pub type Text = Cow<'static, str>;

/// What an option that holds others must or may hold.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Content {
    /// The codes that are counted together.
    pub options: Cow<'static, [u16]>,
    /// The least number of them.
    pub least: u16,
    /// The greatest number; `None` is any.
    pub most: Option<u16>,
    /// The RFC and section that says so.
    pub reference: Text,
}

/// What a codebook says about an option in some types of message.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct MessageFact {
    /// What it says.
    pub kind: MessageFactKind,
    /// The numbers of the types.
    pub types: Cow<'static, [u8]>,
    /// In which of these messages; in all of them where there is no condition.
    pub when: Option<Condition>,
    /// The RFC and section that says so; the option's own unless the book has another.
    pub reference: Text,
}

/// How an option and a type of message go together.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum MessageFactKind {
    /// It may stand in a type of message that is closed to options which are not named.
    Allowed,
    /// It must not stand in them.
    Barred,
    /// It should not stand in them.
    Discouraged,
    /// It must stand in them.
    Required,
    /// Several of it may stand in them.
    Several,
    /// A client may request it in them, though not in others.
    Requestable,
    /// A client must not request it in them.
    Unrequestable,
}

/// Which messages of a type are meant.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Condition {
    /// Those that give the client an address.
    Leasing,
    /// Those that answer a client which has an address already.
    Informing,
}

/// Types of messages, a bit for each number and those beyond 62 sharing one: all of them, and those that are meant in a condition.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(crate) struct MessageBits([u64; 3]);

impl MessageBits {
    pub(crate) fn add(&mut self, when: Option<Condition>, numbers: impl Iterator<Item = u8>) {
        let of_condition = &mut self.0[when.map_or(0, |when| 1 + when as usize)];
        *of_condition = numbers.fold(*of_condition, |all, number| all | 1 << number.min(63));
    }

    /// Whether both have a type in one condition.
    #[inline]
    pub(crate) fn meet(self, other: Self) -> bool {
        let [all, leasing, informing] = other.0;
        self.0[0] & all | self.0[1] & leasing | self.0[2] & informing != 0
    }
}

/// The words of codebook files.
pub(super) const KINDS: [(&str, MessageFactKind); 7] = [
    ("allowed", MessageFactKind::Allowed),
    ("barred", MessageFactKind::Barred),
    ("discouraged", MessageFactKind::Discouraged),
    ("required", MessageFactKind::Required),
    ("several", MessageFactKind::Several),
    ("requestable", MessageFactKind::Requestable),
    ("unrequestable", MessageFactKind::Unrequestable),
];

/// The words of codebook files.
pub(super) const CONDITIONS: [(&str, Condition); 2] =
    [("leasing", Condition::Leasing), ("informing", Condition::Informing)];

/// A type of message that may have no options but those that are allowed in it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ClosedMessage {
    /// The book whose messages these are: `v4`.
    pub book: Text,
    /// The number of the type.
    pub number: u8,
    /// The RFC and section that says so.
    pub reference: Text,
}

/// What a server that an option names does for clients, or what else its names are for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
#[non_exhaustive]
pub enum Service {
    /// It passes packets on to other networks.
    Router,
    /// It resolves names (RFC 1035).
    Dns,
    /// It says what time it is (RFC 5905).
    Ntp,
    /// It has files to boot from (RFC 1350).
    Tftp,
    /// It has a file at a URI.
    File,
    /// It says whether a network needs a login (RFC 8908).
    Portal,
    /// It sets up calls (RFC 3261).
    Sip,
    /// It collects log messages.
    Log,
    /// It prints (RFC 1179).
    Lpr,
    /// It takes mail (RFC 5321).
    Smtp,
    /// It hands out mail (RFC 1939).
    Pop3,
    /// It has pages.
    Web,
    /// It controls radio access points (RFC 5415).
    Capwap,
    /// It is a directory (RFC 4511).
    Ldap,
    /// It has disks (RFC 7143), where the option's text says so (RFC 4173).
    Iscsi,
    /// It resolves names, and is reached encrypted (RFC 9463).
    Dnr,
    /// It is no server, but a domain that names are looked up in.
    Domain,
}

impl Service {
    /// All of them.
    pub const ALL: [Self; 17] = [
        Self::Router,
        Self::Dns,
        Self::Ntp,
        Self::Tftp,
        Self::File,
        Self::Portal,
        Self::Sip,
        Self::Log,
        Self::Lpr,
        Self::Smtp,
        Self::Pop3,
        Self::Web,
        Self::Capwap,
        Self::Ldap,
        Self::Iscsi,
        Self::Dnr,
        Self::Domain,
    ];

    /// Its name in codebooks.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Router => "router",
            Self::Dns => "dns",
            Self::Ntp => "ntp",
            Self::Tftp => "tftp",
            Self::File => "file",
            Self::Portal => "portal",
            Self::Sip => "sip",
            Self::Log => "log",
            Self::Lpr => "lpr",
            Self::Smtp => "smtp",
            Self::Pop3 => "pop3",
            Self::Web => "web",
            Self::Capwap => "capwap",
            Self::Ldap => "ldap",
            Self::Iscsi => "iscsi",
            Self::Dnr => "dnr",
            Self::Domain => "domain",
        }
    }
}
