//! Options as Rust types.

use std::fmt;
use std::marker::PhantomData;
use std::net::{Ipv4Addr, Ipv6Addr};
use std::time::Duration;

use super::MessageOption;
use crate::codebook::{Codebook, Definition, Sender, Status};
use crate::layout::{Atom, FromScalar, Node, Number, Route4, Run, TypedError, Value};

/// An option whose payload is a `T`: what the constants of this module are.
pub struct Tag<T> {
    code: u8,
    payload: PhantomData<fn() -> T>,
}

impl<T> Tag<T> {
    /// The option of this code; its layout must hold what `T` is.
    #[must_use]
    pub const fn new(code: u8) -> Self {
        Self { code, payload: PhantomData }
    }

    /// Its code.
    #[must_use]
    pub const fn code(self) -> u8 {
        self.code
    }
}

// Derived, these would ask the same of `T`.
impl<T> Clone for Tag<T> {
    fn clone(&self) -> Self {
        *self
    }
}

impl<T> Copy for Tag<T> {}

impl<T> fmt::Debug for Tag<T> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "v4:{}", self.code)
    }
}

/// A Rust type that a whole payload can become.
pub trait FromPayload: Sized {
    /// The payload as this type.
    ///
    /// # Errors
    /// Octets that do not fit the option's layout, or a layout that holds something else.
    fn from_payload(codebook: &Codebook, definition: &Definition, octets: &[u8]) -> Result<Self, TypedError>;
}

macro_rules! from_payload {
    ($($type:ty),+) => {$(
        impl FromPayload for $type {
            fn from_payload(codebook: &Codebook, definition: &Definition, octets: &[u8]) -> Result<Self, TypedError> {
                codebook.one(definition, octets)
            }
        }
    )+};
}

from_payload!(u8, u16, u32, i32, bool, Duration, String, Ipv4Addr, Ipv6Addr);

/// A list, such as an option of addresses has.
macro_rules! list_from_payload {
    ($($type:ty),+) => {$(
        impl FromPayload for Vec<$type> where $type: for<'o> FromScalar<'o> {
            fn from_payload(codebook: &Codebook, definition: &Definition, octets: &[u8]) -> Result<Self, TypedError> {
                codebook.list(definition, octets)
            }
        }
    )+};
}

list_from_payload!(u16, String, Ipv4Addr, Route4);

/// The octets themselves, which fit the layout.
impl FromPayload for Vec<u8> {
    fn from_payload(codebook: &Codebook, definition: &Definition, octets: &[u8]) -> Result<Self, TypedError> {
        Value::from_payload(codebook, definition, octets).map(|_| octets.to_vec())
    }
}

/// Whatever the option holds, as a tree.
impl FromPayload for Value {
    fn from_payload(codebook: &Codebook, definition: &Definition, octets: &[u8]) -> Result<Self, TypedError> {
        match codebook.decode(definition, octets) {
            (_, faults) if !faults.is_empty() => Err(TypedError::Fault(faults[0].clone())),
            (value, _) => Ok(value.unwrap_or(Self::Empty)),
        }
    }
}

/// Why an option did not become a Rust value.
#[derive(Debug, Clone, PartialEq)]
pub struct GetError {
    /// The option's code.
    pub code: u8,
    /// The octet of the message where it went wrong.
    pub at: usize,
    /// What went wrong; its octets count from the start of the payload.
    pub error: TypedError,
}

impl GetError {
    pub(super) fn new(option: &MessageOption<'_>, error: TypedError) -> Self {
        let octet = if let TypedError::Fault(fault) = &error { fault.octets.start } else { 0 };
        Self { code: option.code(), at: option.place(octet), error }
    }
}

impl fmt::Display for GetError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let code = self.code;
        match &self.error {
            TypedError::Fault(fault) => write!(f, "option {code}, octet {} of the message: {}", self.at, fault.kind),
            error => write!(f, "option {code}: {error}"),
        }
    }
}

impl std::error::Error for GetError {}

/// The text of `tags.rs`: a constant for every option of the standard codebook.
#[doc(hidden)]
#[must_use]
pub fn generate() -> String {
    let mut text = String::from(
        "//! Generated from `codebooks/dhcpv4.toml`: do not edit. `GENERATE=1 cargo test -p oplex constants` writes it anew.\n\n\
         use std::net::{Ipv4Addr, Ipv6Addr};\nuse std::time::Duration;\n\nuse super::known::tags;\nuse crate::layout::{Route4, Value};\n\n\
         tags! {\n",
    );
    let codebook = Codebook::standard();
    let meant = |option: &&Definition| {
        let used = matches!(option.status, Status::Current | Status::Deprecated | Status::Obsolete);
        used && option.is_top_level() && !matches!(option.code, 0 | 255) && option.sent_by != Sender::Nobody
    };
    for option in codebook.definitions().filter(meant) {
        let name = option.name.to_uppercase().replace('-', "_");
        let name = if name.starts_with(|c: char| c.is_ascii_digit()) { format!("OPTION_{name}") } else { name };
        let payload = rust_type(codebook.layout(option).root());
        let doc = format!("`{}` ({}): {}", option.id(), option.reference, option.summary);
        text.push_str(&format!("    #[doc = {doc:?}] {name}: {payload} = {},\n", option.code));
    }
    text + "}\n"
}

/// Declares a [`Tag`] a line.
macro_rules! tags {
    ($($(#[$doc:meta])+ $name:ident: $payload:ty = $code:literal,)+) => {$(
        $(#[$doc])+
        pub const $name: $crate::packet::v4::Tag<$payload> = $crate::packet::v4::Tag::new($code);
    )+};
}
pub(super) use tags;

/// The Rust type of what a layout holds.
fn rust_type(node: &Node) -> &'static str {
    match node {
        Node::Atom(Atom::Number(Number { signed: true, .. })) => "i32",
        Node::Atom(Atom::Number(Number { octets, .. })) => ["u8", "u8", "u16", "u32", "u32"][*octets],
        Node::Atom(Atom::Bool) => "bool",
        Node::Atom(Atom::Seconds(_)) => "Duration",
        Node::Atom(Atom::Ipv4 | Atom::Netmask) => "Ipv4Addr",
        Node::Atom(Atom::Ipv6 | Atom::Ipv6Head(_)) => "Ipv6Addr",
        Node::Atom(Atom::Run(Run::Bytes, _)) => "Vec<u8>",
        Node::Atom(Atom::Run(..) | Atom::Name | Atom::PartialName) => "String",
        Node::Atom(Atom::Names(_)) => "Vec<String>",
        Node::Repeat(item, _) => match &**item {
            Node::Atom(Atom::Ipv4 | Atom::Netmask) => "Vec<Ipv4Addr>",
            Node::Atom(Atom::Number(Number { octets: 1, .. })) => "Vec<u8>",
            Node::Atom(Atom::Number(Number { octets: 2, .. })) => "Vec<u16>",
            Node::Atom(Atom::Route4) => "Vec<Route4>",
            Node::Atom(Atom::Name) => "Vec<String>",
            _ => "Value",
        },
        _ => "Value",
    }
}
