//! Options as Rust types.

use crate::prelude::*;
use core::fmt;
use core::marker::PhantomData;
use core::net::{Ipv4Addr, Ipv6Addr};
use core::time::Duration;

use super::MessageOption;
use crate::codebook::{Codebook, Definition};
use crate::family::Protocol;
use crate::layout::{FromScalar, Route4, TypedError, Value};

/// An option of a protocol whose payload is a `T`: what the constants of [`v4`](super::v4), [`v6`](super::v6) and
/// [`ra`](super::ra) are.
pub struct OptionKey<T> {
    protocol: Protocol,
    code: u16,
    payload: PhantomData<fn() -> T>,
}

impl<T> OptionKey<T> {
    /// The option of this code; its layout must hold what `T` is.
    ///
    /// ```
    /// use oplex::family::Protocol;
    /// use oplex::packet::OptionKey;
    /// use std::net::Ipv4Addr;
    ///
    /// // A site's own option, whose value is an address.
    /// const BEACON: OptionKey<Ipv4Addr> = OptionKey::new(Protocol::V4, 224);
    /// assert_eq!((BEACON.protocol(), BEACON.code()), (Protocol::V4, 224));
    /// ```
    #[must_use]
    pub const fn new(protocol: Protocol, code: u16) -> Self {
        Self { protocol, code, payload: PhantomData }
    }

    /// The protocol whose option it is.
    #[must_use]
    pub const fn protocol(self) -> Protocol {
        self.protocol
    }

    /// Its code.
    #[must_use]
    pub const fn code(self) -> u16 {
        self.code
    }
}

// Derived, these would ask the same of `T`.
impl<T> Clone for OptionKey<T> {
    fn clone(&self) -> Self {
        *self
    }
}

impl<T> Copy for OptionKey<T> {}

impl<T> fmt::Debug for OptionKey<T> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}:{}", self.protocol.name(), self.code)
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

list_from_payload!(u16, u32, String, Ipv4Addr, Ipv6Addr, Route4);

impl FromPayload for super::v4::MessageType {
    fn from_payload(codebook: &Codebook, definition: &Definition, octets: &[u8]) -> Result<Self, TypedError> {
        codebook.one(definition, octets).map(Self)
    }
}

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
    pub code: u16,
    /// The octet of the message where it went wrong.
    pub at: usize,
    /// What went wrong; its octets count from the start of the payload.
    pub error: TypedError,
}

impl GetError {
    pub(super) fn new(option: &MessageOption<'_>, error: TypedError) -> Self {
        let octet = if let TypedError::Fault(fault) = &error { fault.octets.start } else { 0 };
        Self { code: option.code(), at: option.position(octet), error }
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

impl core::error::Error for GetError {}

/// Declares an [`OptionKey`] a line.
macro_rules! keys {
    ($protocol:ident $($(#[$doc:meta])+ $name:ident: $payload:ty = $code:literal,)+) => {$(
        $(#[$doc])+
        pub const $name: crate::packet::OptionKey<$payload> =
            crate::packet::OptionKey::new(crate::family::Protocol::$protocol, $code);
    )+};
}
pub(super) use keys;
