//! Values to octets and back, by the options of a codebook.

use crate::prelude::*;

use super::{Carrier, Codebook, Definition, EncodeFailure, Payload, payload};
use crate::family::Protocol;
use crate::layout::{Decoded, Fault, FromScalar, Input, TypedError, Value, ValueErrors};
use crate::octets::put_number;

impl Codebook {
    /// Encodes a value that is written.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::layout::Input;
    ///
    /// let codebook = Codebook::standard();
    /// let routes = codebook.find("v4:121")?;
    /// let payload = codebook.encode(routes, &Input::from_text("10.64.8.0/21 via 10.64.4.1"))?;
    /// assert_eq!(payload.octets, [21, 10, 64, 8, 10, 64, 4, 1]);
    /// let wrong = codebook.encode(routes, &Input::from_text("10.64.8.0/33 via 10.64.4.1"));
    /// assert!(wrong.is_err());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Everything in it that does not fit the option's layout.
    pub fn encode(&self, definition: &Definition, written: &Input) -> Result<Payload, ValueErrors> {
        payload::encode(self, definition, written)
    }

    /// Encodes a value.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::layout::Value;
    ///
    /// let codebook = Codebook::standard();
    /// let mtu = codebook.find("v4:mtu")?;
    /// assert_eq!(codebook.encode_value(mtu, &Value::Number(1500))?, [5, 220]);
    /// // The layout has `in 68..`.
    /// assert!(codebook.encode_value(mtu, &Value::Number(60)).is_err());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// A value that has no octets under the option's layout, or whose octets the layout forbids.
    pub fn encode_value(&self, definition: &Definition, value: &Value) -> Result<Vec<u8>, EncodeFailure> {
        payload::encode_value(self, definition, value)
    }

    /// Everything about an option's octets, in one walk: what they mean, what is wrong with them, and the options inside.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let codebook = Codebook::standard();
    /// let read = codebook.read(codebook.find("v4:82")?, &[1, 2, 0x70, 0x37]);
    /// assert!(read.faults.is_empty());
    /// // The sub-option, with its code and where it stands.
    /// assert_eq!((read.options[0].code, read.options[0].payload.clone()), (1, 2..4));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn read(&self, definition: &Definition, octets: &[u8]) -> Decoded {
        self.layout(definition).decoded(self, octets)
    }

    /// The same, and what every octet is.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let codebook = Codebook::standard();
    /// let rows = codebook.explain(codebook.find("v4:121")?, &[21, 10, 64, 8, 10, 64, 4, 1]).rows;
    /// let last = rows.last().expect("every octet has a row");
    /// assert_eq!(last.octets.end, 8);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn explain(&self, definition: &Definition, octets: &[u8]) -> Decoded {
        self.layout(definition).explained(self, octets)
    }

    /// What an option's octets mean, as far as they can be read, and what is wrong with them.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let codebook = Codebook::standard();
    /// let (value, faults) = codebook.decode(codebook.find("v4:3")?, &[10, 64, 4, 1, 10]);
    /// assert_eq!(value.map(|value| value.to_string()).as_deref(), Some("10.64.4.1"));
    /// assert_eq!(faults[0].octets, 4..5);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn decode(&self, definition: &Definition, octets: &[u8]) -> (Option<Value>, Vec<Fault>) {
        self.layout(definition).decode(self, octets)
    }

    /// An option's octets as a list of one Rust type.
    ///
    /// ```
    /// use std::net::Ipv4Addr;
    /// # use oplex::codebook::Codebook;
    /// let codebook = Codebook::standard();
    /// let servers: Vec<Ipv4Addr> = codebook.list(codebook.find("v4:dns")?, &[10, 64, 0, 53])?;
    /// assert_eq!(servers, [Ipv4Addr::new(10, 64, 0, 53)]);
    /// let octets = codebook.encode_value(codebook.find("v4:dns")?, &servers.into())?;
    /// assert_eq!(octets, [10, 64, 0, 53]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Octets that do not fit the option's layout, or a layout that holds something else.
    pub fn list<'o, T: FromScalar<'o>>(&self, definition: &Definition, octets: &'o [u8]) -> Result<Vec<T>, TypedError> {
        self.layout(definition).list(self, octets)
    }

    /// An option's octets as one Rust value.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let codebook = Codebook::standard();
    /// let mtu: u16 = codebook.one(codebook.find("v4:26")?, &[5, 220])?;
    /// assert_eq!(mtu, 1500);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// As [`Codebook::list`], and more or fewer values than one.
    pub fn one<'o, T: FromScalar<'o>>(&self, definition: &Definition, octets: &'o [u8]) -> Result<T, TypedError> {
        self.layout(definition).one(self, octets)
    }

    /// An option as it stands among others: its code and length in front, in several parts where it is too long for one
    /// (RFC 3396, section 5).
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let codebook = Codebook::standard();
    /// let framed = codebook.framed(codebook.find("v4:26")?, &[5, 220]);
    /// assert_eq!(framed, [26, 2, 5, 220]);
    /// // Of 300 octets 255 stand in the first part, and 45 in the second.
    /// let framed = codebook.framed(codebook.find("v4:114")?, &[b'a'; 300]);
    /// assert_eq!((framed.len(), &framed[257..259]), (304, &[114, 45][..]));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn framed(&self, definition: &Definition, octets: &[u8]) -> Vec<u8> {
        let chapter = self.chapters.iter().find(|chapter| chapter.prefix == *definition.prefix);
        let (code, length) = chapter.map_or((1, 1), |chapter| (chapter.code_octets, chapter.length_octets));
        if definition.is_own_of(Protocol::Ra) {
            // Lengths of these count the whole option in units of eight octets (RFC 4861, section 4.6).
            let units = (2 + octets.len()).div_ceil(8) as u8;
            return [&[definition.code as u8, units], octets].concat();
        }
        let most = (1 << (8 * length)) - 1;
        let mut framed = Vec::with_capacity(octets.len() + code + length);
        for part in octets.chunks(most).chain(octets.is_empty().then_some(octets)) {
            put_number(&mut framed, definition.code.into(), code);
            put_number(&mut framed, part.len() as u64, length);
            framed.extend_from_slice(part);
        }
        framed
    }

    /// The octets of the option that carries these sub-options of a vendor, given as codes and octets.
    ///
    /// ```
    /// use oplex::codebook::{Carrier, Codebook};
    ///
    /// assert_eq!(Codebook::encapsulate(Carrier::IN_43, &[(1, &[2, 3])]), [1, 2, 2, 3]);
    /// ```
    #[must_use]
    pub fn encapsulate(carrier: Carrier, options: &[(u16, &[u8])]) -> Vec<u8> {
        super::assemble::encapsulate(carrier, options)
    }
}
