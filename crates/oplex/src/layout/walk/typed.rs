//! Rust types in and out: values from Rust values, Rust values from octets.

use std::fmt;
use std::net::{Ipv4Addr, Ipv6Addr};
use std::ops::Range;

use serde::de::value::{Error as SerdeError, MapDeserializer, SeqDeserializer};
use serde::de::{Deserialize, Deserializer, IntoDeserializer, Visitor as SerdeVisitor};
use serde::forward_to_deserialize_any;

use crate::layout::fault::Fault;
use crate::layout::scalar::{Prefix6, Route4, Scalar};
use crate::layout::value::{SubOption, Value};
use crate::layout::walk::{ScalarForm, Visitor};
use crate::layout::{Layout, Nesting};

/// Why octets did not become a Rust value.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub enum TypedError {
    /// They do not fit the layout.
    Fault(Fault),
    /// They fit the layout, which is of another type.
    OtherType(&'static str),
    /// They fit the layout, and hold another number of values.
    OtherCount(usize),
}

impl fmt::Display for TypedError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Fault(fault) => write!(f, "octet {}: {}", fault.octets.start, fault.kind),
            Self::OtherType(wanted) => write!(f, "the layout holds something other than {wanted}"),
            Self::OtherCount(count) => write!(f, "{count} values, where one is wanted"),
        }
    }
}

impl std::error::Error for TypedError {}

/// A Rust type that one thing on the wire can become.
pub trait FromScalar<'o>: Sized {
    /// The thing as this type, if it is of it.
    fn from_scalar(scalar: Scalar<'o>) -> Option<Self>;
}

macro_rules! from_scalar {
    ($($type:ty: $pattern:pat => $value:expr),+ $(,)?) => {$(
        impl<'o> FromScalar<'o> for $type {
            #[inline]
            fn from_scalar(scalar: Scalar<'o>) -> Option<Self> {
                if let $pattern = scalar { $value } else { None }
            }
        }
    )+};
}

from_scalar! {
    u64: Scalar::Number(number) => Some(number),
    u32: Scalar::Number(number) => number.try_into().ok(),
    u16: Scalar::Number(number) => number.try_into().ok(),
    u8: Scalar::Number(number) => number.try_into().ok(),
    i64: Scalar::Integer(number) => Some(number),
    i32: Scalar::Integer(number) => number.try_into().ok(),
    f64: Scalar::Decimal(number) => Some(number),
    bool: Scalar::Bool(on) => Some(on),
    Ipv4Addr: Scalar::Ipv4(address) => Some(address),
    Ipv6Addr: Scalar::Ipv6(address) => Some(address),
    [u8; 6]: Scalar::Mac(octets) => Some(octets),
    [u8; 16]: Scalar::Uuid(octets) => Some(octets),
    &'o str: Scalar::Text(text) => Some(text),
    &'o [u8]: Scalar::Bytes(octets) => Some(octets),
    Vec<u8>: Scalar::Bytes(octets) => Some(octets.to_vec()),
    Route4: Scalar::Route4(route) => Some(route),
    Prefix6: Scalar::Prefix6(prefix) => Some(prefix),
}

/// Text, or a DNS name in dotted form.
impl<'o> FromScalar<'o> for String {
    fn from_scalar(scalar: Scalar<'o>) -> Option<Self> {
        match scalar {
            Scalar::Text(text) => Some(text.to_owned()),
            Scalar::Name(name) => Some(name.to_string()),
            _ => None,
        }
    }
}

/// Seconds; [`u32::MAX`] is [`std::time::Duration::MAX`].
impl<'o> FromScalar<'o> for std::time::Duration {
    fn from_scalar(scalar: Scalar<'o>) -> Option<Self> {
        match scalar {
            Scalar::Seconds(u32::MAX) => Some(Self::MAX),
            Scalar::Seconds(seconds) => Some(Self::from_secs(seconds.into())),
            _ => None,
        }
    }
}

struct Typed<T> {
    items: Vec<T>,
    other_type: bool,
    fault: Option<Fault>,
}

impl<'l, 'o, T: FromScalar<'o>> Visitor<'l, 'o> for Typed<T> {
    #[inline]
    fn scalar(&mut self, _: ScalarForm<'l>, scalar: Scalar<'o>, _: Range<usize>) {
        match T::from_scalar(scalar) {
            Some(item) => self.items.push(item),
            None => self.other_type = true,
        }
    }

    fn fault(&mut self, fault: Fault) {
        self.fault.get_or_insert(fault);
    }
}

pub(in crate::layout) fn list<'o, T: FromScalar<'o>>(
    layout: &Layout,
    nesting: &(impl Nesting + ?Sized),
    octets: &'o [u8],
) -> Result<Vec<T>, TypedError> {
    // Most lists are of addresses; a list of something smaller grows.
    let items = Vec::with_capacity(octets.len() / 4);
    let mut typed = Typed { items, other_type: false, fault: None };
    layout.walk(nesting, octets, &mut typed);
    match typed.fault {
        Some(fault) => Err(TypedError::Fault(fault)),
        None if typed.other_type => Err(TypedError::OtherType(std::any::type_name::<T>())),
        None => Ok(typed.items),
    }
}

pub(in crate::layout) fn one<'o, T: FromScalar<'o>>(
    layout: &Layout,
    nesting: &(impl Nesting + ?Sized),
    octets: &'o [u8],
) -> Result<T, TypedError> {
    let mut items = list(layout, nesting, octets)?;
    match (items.pop(), items.len()) {
        (Some(item), 0) => Ok(item),
        (_, rest) => Err(TypedError::OtherCount(rest)),
    }
}

macro_rules! value_from {
    ($($type:ty => |$name:ident| $value:expr),+ $(,)?) => {$(
        impl From<$type> for Value {
            fn from($name: $type) -> Self {
                $value
            }
        }
    )+};
}

value_from! {
    bool => |on| Self::Bool(on),
    u8 => |number| Self::Number(number.into()),
    u16 => |number| Self::Number(number.into()),
    u32 => |number| Self::Number(number.into()),
    u64 => |number| Self::Number(number),
    i32 => |number| Self::Integer(number.into()),
    f64 => |number| Self::Decimal(number),
    Ipv4Addr => |address| Self::Ipv4(address),
    Ipv6Addr => |address| Self::Ipv6(address),
    &str => |text| Self::Text(text.to_owned()),
    String => |text| Self::Text(text),
    &[u8] => |octets| Self::Bytes(octets.to_vec()),
    Route4 => |route| Self::Route4(route),
    Prefix6 => |prefix| Self::Prefix6(prefix),
    std::time::Duration => |time| Self::Seconds(u32::try_from(time.as_secs()).unwrap_or(u32::MAX)),
}

impl<T: Into<Self>> From<Vec<T>> for Value {
    fn from(items: Vec<T>) -> Self {
        Self::List(items.into_iter().map(Into::into).collect())
    }
}

impl Value {
    /// A record of these fields.
    #[must_use]
    pub fn record<const N: usize>(fields: [(&str, Self); N]) -> Self {
        Self::Record(fields.into_iter().map(|(name, value)| (name.into(), value)).collect())
    }

    /// The value as a Rust type that serde can make: a struct for a record, its fields named alike.
    ///
    /// ```
    /// use oplex::layout::{Layout, NoCodebook};
    ///
    /// #[derive(serde::Deserialize)]
    /// struct Agents { mandatory: bool, agents: Vec<std::net::Ipv4Addr> }
    ///
    /// let layout = Layout::parse("{ mandatory: bool, agents: ipv4+ }")?;
    /// let (value, _) = layout.decode(&NoCodebook, &[1, 10, 64, 0, 73]);
    /// let agents: Agents = value.ok_or("nothing was read")?.to()?;
    /// assert!(agents.mandatory && agents.agents.len() == 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// A type that the value does not have.
    pub fn to<'de, T: Deserialize<'de>>(self) -> Result<T, SerdeError> {
        T::deserialize(self)
    }
}

impl IntoDeserializer<'_> for Value {
    type Deserializer = Self;

    fn into_deserializer(self) -> Self {
        self
    }
}

impl<'de> Deserializer<'de> for Value {
    type Error = SerdeError;

    fn deserialize_any<V: SerdeVisitor<'de>>(self, visitor: V) -> Result<V::Value, SerdeError> {
        match self {
            Self::Empty => visitor.visit_unit(),
            Self::Bool(on) => visitor.visit_bool(on),
            Self::Number(number) | Self::Member(number, None) => visitor.visit_u64(number),
            Self::Integer(number) => visitor.visit_i64(number),
            Self::Decimal(number) => visitor.visit_f64(number),
            Self::Member(_, Some(name)) => visitor.visit_string(name.into()),
            Self::Flags(_, names) => visitor.visit_seq(SeqDeserializer::new(names.into_iter().map(String::from))),
            Self::Seconds(seconds) => visitor.visit_u32(seconds),
            Self::Text(text) | Self::Name(text) => visitor.visit_string(text),
            Self::Bytes(octets) | Self::Raw(octets) => visitor.visit_seq(SeqDeserializer::new(octets.into_iter())),
            Self::Mac(octets) => visitor.visit_seq(SeqDeserializer::new(octets.into_iter())),
            Self::List(items) => visitor.visit_seq(SeqDeserializer::new(items.into_iter())),
            Self::Record(fields) => visitor
                .visit_map(MapDeserializer::new(fields.into_iter().map(|(name, value)| (String::from(name), value)))),
            Self::Options(options) => {
                let entry = |option: SubOption| (option.key(), option.value);
                visitor.visit_map(MapDeserializer::new(options.into_iter().map(entry)))
            }
            address => visitor.visit_string(address.to_string()),
        }
    }

    fn deserialize_option<V: SerdeVisitor<'de>>(self, visitor: V) -> Result<V::Value, SerdeError> {
        visitor.visit_some(self)
    }

    forward_to_deserialize_any! {
        bool i8 i16 i32 i64 i128 u8 u16 u32 u64 u128 f32 f64 char str string bytes byte_buf unit unit_struct
        newtype_struct seq tuple tuple_struct map struct enum identifier ignored_any
    }
}
