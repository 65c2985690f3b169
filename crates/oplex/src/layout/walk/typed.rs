//! Rust types in and out: values from Rust values, Rust values from octets.

use crate::prelude::*;
use core::fmt;
use core::net::{Ipv4Addr, Ipv6Addr};
use core::ops::Range;

use crate::layout::fault::Fault;
use crate::layout::scalar::{Prefix6, Route4, Scalar};
use crate::layout::value::Value;
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

impl core::error::Error for TypedError {}

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
impl<'o> FromScalar<'o> for core::time::Duration {
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
        None if typed.other_type => Err(TypedError::OtherType(core::any::type_name::<T>())),
        None => Ok(typed.items),
    }
}

pub(in crate::layout) fn one<'o, T: FromScalar<'o>>(
    layout: &Layout,
    nesting: &(impl Nesting + ?Sized),
    octets: &'o [u8],
) -> Result<T, TypedError> {
    let mut items = list(layout, nesting, octets)?;
    match items.len() {
        1 => Ok(items.remove(0)),
        count => Err(TypedError::OtherCount(count)),
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
    core::time::Duration => |time| match u32::try_from(time.as_secs()) {
        // The greatest number is for ever, and no duration but the longest is.
        Ok(seconds) if seconds < u32::MAX => Self::Seconds(seconds),
        _ if time == core::time::Duration::MAX => Self::Seconds(u32::MAX),
        _ => Self::Number(time.as_secs()),
    },
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
}
