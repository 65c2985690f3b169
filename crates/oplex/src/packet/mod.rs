//! Whole messages: read without copying, written without waste.
//!
//! The three protocols differ in their headers and in how options are framed; each keeps that in a module of its own. What
//! an option in a message is, how one is found by code or by [key](OptionKey) and how messages are composed is the same for
//! all, and is here.
//!
//! ```
//! use oplex::codebook::Codebook;
//! use oplex::packet::{Composer, Message as _, v4, v6};
//!
//! let mut composer = Composer::default();
//! let solicit = v6::Draft {
//!     message_type: v6::MessageType::SOLICIT,
//!     header: v6::Header::Transaction(7),
//!     options: &[(v6::ELAPSED_TIME.code(), &[0, 0])],
//! };
//! let message = v6::Message::read(composer.compose(&solicit)?)?;
//! assert_eq!(message.get(Codebook::standard(), v6::ELAPSED_TIME)?, Some(0));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use crate::prelude::*;
mod any;
mod compose;
mod elements;
mod error;
mod option;
pub mod ra;
mod read_structs;
mod structs;
mod typed;
pub mod v4;
pub mod v6;

use core::fmt;

use crate::codebook::Codebook;
use crate::family::Protocol;
use crate::layout::Value;

pub use any::AnyMessage;
pub use compose::{ComposeError, Composer, Draft};
pub use elements::{Element, Elements, Framing};
pub use error::MessageError;
pub use option::{MessageOption, OptionPart};
pub use structs::{ClientFqdn, DelegatedPrefix, IaNa, IaPd, LeasedAddress, RelayInformation, StatusCode};
pub use typed::{FromPayload, GetError, OptionKey};

/// A message of any protocol, looked at where it lies. What is wrong inside does not keep the rest from being read.
pub trait Message<'o>: Copy + fmt::Display {
    /// The protocol whose messages these are.
    const PROTOCOL: Protocol;

    /// Looks at octets as a message, and copies nothing.
    ///
    /// # Errors
    /// Octets that cannot be a message of the protocol: fewer than its header has, or more than a datagram holds.
    fn read(octets: &'o [u8]) -> Result<Self, MessageError>;

    /// All octets of the message.
    fn octets(&self) -> &'o [u8];

    /// How many octets stood before it where it was read, and are counted with it: those of an IPv6 header, or none.
    fn base(&self) -> usize {
        0
    }

    /// The options, in their order; one that was split is one option.
    fn options(&self) -> impl Iterator<Item = MessageOption<'o>>;

    /// The first option of this code.
    fn option(&self, code: u16) -> Option<MessageOption<'o>> {
        self.options().find(|option| option.code() == code)
    }

    /// Whether an option of this code stands in it.
    fn has(&self, code: u16) -> bool {
        self.option(code).is_some()
    }

    /// An option as a Rust type, with everything about it checked against the layout that the codebook has for it.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::packet::{Composer, Message as _, v4};
    ///
    /// let draft = v4::Draft { options: &[(6, &[10, 64, 0, 53])], ..v4::Draft::new(v4::MessageType::OFFER) };
    /// let mut composer = Composer::default();
    /// let message = v4::Message::read(composer.compose(&draft)?.octets)?;
    /// let codebook = Codebook::standard();
    /// let servers = message.get(codebook, v4::DOMAIN_SERVER)?.ok_or("the server names one")?;
    /// assert_eq!(servers[0].to_string(), "10.64.0.53");
    /// assert_eq!(message.get(codebook, v4::ROUTER)?, None);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Octets that do not fit the option's layout, with the octet of the message that is wrong.
    fn get<T: FromPayload>(&self, codebook: &Codebook, key: OptionKey<T>) -> Result<Option<T>, GetError> {
        let Some(option) = self.option(key.code()) else { return Ok(None) };
        let Some(definition) = codebook.own(Self::PROTOCOL, key.code()) else { return Ok(None) };
        let octets = option.joined();
        T::from_payload(codebook, definition, &octets).map(Some).map_err(|error| GetError::new(&option, error))
    }

    /// All options of one code as Rust types, in their order: DHCPv6 and router advertisements have several of some.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::packet::{Message as _, v6};
    ///
    /// let reply = [7, 0, 0, 7, 0, 23, 0, 16, 0x20, 1, 0xd, 0xb8, 0, 0x64, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0x53];
    /// let message = v6::Message::read(&reply)?;
    /// let servers: Result<Vec<_>, _> = message.get_all(Codebook::standard(), v6::DNS_SERVERS).collect();
    /// assert_eq!(servers?[0][0].to_string(), "2001:db8:64::53");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    fn get_all<T: FromPayload>(
        &self,
        codebook: &Codebook,
        key: OptionKey<T>,
    ) -> impl Iterator<Item = Result<T, GetError>> {
        let definition = codebook.own(Self::PROTOCOL, key.code());
        let options = self.options().filter(move |option| option.code() == key.code());
        options.filter_map(move |option| {
            let read = T::from_payload(codebook, definition?, &option.joined());
            Some(read.map_err(|error| GetError::new(&option, error)))
        })
    }

    /// The value of the first option of this id or name, or of one inside it: `v4:3`, `v4:82/1`, `v6:3/5`. `None` where it is not in
    /// the message, cannot be read, or no codebook knows it.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::packet::{Composer, Message as _, v4};
    ///
    /// let mut composer = Composer::default();
    /// let relay: &[u8] = &[1, 2, 0x70, 0x37];
    /// let draft = v4::Draft { options: &[(82, relay)], ..v4::Draft::new(v4::MessageType::DISCOVER) };
    /// let message = v4::Message::read(composer.compose(&draft)?.octets)?;
    /// let circuit = message.value(Codebook::standard(), "v4:82/1").ok_or("the relay agent names its circuit")?;
    /// assert_eq!(circuit.to_string(), "70:37");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    fn value(&self, codebook: &Codebook, path: &str) -> Option<Value> {
        let (outer, inner) = path.split_once('/').map_or((path, None), |(outer, inner)| (outer, Some(inner)));
        let outer = match outer.contains(':') {
            true => codebook.find(outer).ok()?,
            false => codebook.find(&format!("{}:{outer}", Self::PROTOCOL.name())).ok()?,
        };
        let option = self.option(outer.code).filter(|_| outer.is_own_of(Self::PROTOCOL))?;
        let whole = codebook.read(outer, &option.joined()).value?;
        let Some(inner) = inner else { return Some(whole) };
        inner.split('/').try_fold(whole, |value, step| {
            let nested = value.record_options();
            let found = nested.iter().find(|one| step.parse() == Ok(one.code) || one.name.as_deref() == Some(step));
            found.map(|one| one.value.clone())
        })
    }
}

/// `, 4 options, 300 octets`: how the line about a message ends.
fn write_size(f: &mut fmt::Formatter<'_>, options: usize, octets: usize) -> fmt::Result {
    write!(f, ", {options} option{}, {octets} octets", if options == 1 { "" } else { "s" })
}
