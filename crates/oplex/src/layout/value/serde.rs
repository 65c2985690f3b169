//! Values through serde: out to JSON and to Rust types.

use crate::prelude::*;
use serde::de::value::{Error, MapDeserializer, SeqDeserializer, StringDeserializer};
use serde::de::{Deserialize, Deserializer, IntoDeserializer, Visitor};
use serde::forward_to_deserialize_any;
use serde::ser::{Serialize, SerializeMap, SerializeStruct, Serializer};

use crate::layout::value::{SubOption, Value};
use crate::octets::hex;

impl Serialize for Value {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        match self {
            Self::Empty => serializer.serialize_bool(true),
            Self::Bool(on) => serializer.serialize_bool(*on),
            Self::Number(number) | Self::Member(number, None) => serializer.serialize_u64(*number),
            Self::Integer(number) => serializer.serialize_i64(*number),
            Self::Decimal(number) => serializer.serialize_f64(*number),
            Self::Flags(_, names) => names.serialize(serializer),
            Self::Seconds(seconds) => serializer.serialize_u32(*seconds),
            Self::Text(text) => serializer.serialize_str(text),
            Self::Name(name) => serializer.serialize_str(name),
            Self::Bytes(octets) => serializer.serialize_str(&hex::colon(octets)),
            Self::Raw(octets) => {
                let mut map = serializer.serialize_map(Some(1))?;
                map.serialize_entry("hex", &hex::plain(octets))?;
                map.end()
            }
            Self::List(items) => items.serialize(serializer),
            Self::Record(fields) => serializer.collect_map(fields.iter().map(|(name, value)| (&**name, value))),
            Self::Options(options) => options.serialize(serializer),
            scalar => serializer.collect_str(scalar),
        }
    }
}

/// `{"code": 1, "name": "agent-circuit-id", "value": …}`; without `name` where no codebook knows the option.
impl Serialize for SubOption {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut option = serializer.serialize_struct("SubOption", 3)?;
        option.serialize_field("code", &self.code)?;
        match &self.name {
            Some(name) => option.serialize_field("name", &**name)?,
            None => option.skip_field("name")?,
        }
        option.serialize_field("value", &self.value)?;
        option.end()
    }
}

impl Value {
    /// The value as a Rust type that serde can make: a struct for a record, its fields named alike; a struct or map for nested
    /// options, by their names, where a `Vec` takes all of one name; an enum for a named number, or the number itself;
    /// octets and MACs as arrays of `u8` or as text.
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
    pub fn to<'de, T: Deserialize<'de>>(self) -> Result<T, Error> {
        T::deserialize(self)
    }

    /// Its octets, where it is of such.
    fn octets(&self) -> Option<&[u8]> {
        match self {
            Self::Bytes(octets) | Self::Raw(octets) => Some(octets),
            Self::Mac(octets) => Some(octets),
            Self::Uuid(octets) => Some(octets),
            _ => None,
        }
    }

    /// Its number, where it has names as well.
    fn named_number(&self) -> Option<u64> {
        if let Self::Member(number, _) | Self::Flags(number, _) = self { Some(*number) } else { None }
    }
}

impl IntoDeserializer<'_> for Value {
    type Deserializer = Self;

    fn into_deserializer(self) -> Self {
        self
    }
}

macro_rules! number {
    ($($method:ident)+) => {$(
        fn $method<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Error> {
            match self.named_number() {
                Some(number) => visitor.visit_u64(number),
                None => self.deserialize_any(visitor),
            }
        }
    )+};
}

macro_rules! sequence {
    ($($method:ident($($argument:ident: $type:ty),*))+) => {$(
        fn $method<V: Visitor<'de>>(self, $($argument: $type,)* visitor: V) -> Result<V::Value, Error> {
            match self.octets() {
                Some(octets) => visitor.visit_seq(SeqDeserializer::new(octets.iter().copied())),
                None => self.deserialize_any(visitor),
            }
        }
    )+};
}

#[allow(unused_variables, reason = "an array says how long it is, and the octets do, too")]
impl<'de> Deserializer<'de> for Value {
    type Error = Error;

    fn deserialize_any<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Error> {
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
            Self::Bytes(octets) | Self::Raw(octets) => visitor.visit_string(hex::colon(&octets)),
            Self::List(items) => visitor.visit_seq(SeqDeserializer::new(items.into_iter())),
            Self::Record(fields) => visitor
                .visit_map(MapDeserializer::new(fields.into_iter().map(|(name, value)| (String::from(name), value)))),
            Self::Options(options) => visitor.visit_map(MapDeserializer::new(by_name(options).into_iter())),
            address => visitor.visit_string(address.to_string()),
        }
    }

    fn deserialize_option<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Error> {
        visitor.visit_some(self)
    }

    fn deserialize_newtype_struct<V: Visitor<'de>>(self, _: &'static str, visitor: V) -> Result<V::Value, Error> {
        visitor.visit_newtype_struct(self)
    }

    fn deserialize_enum<V: Visitor<'de>>(
        self,
        _: &'static str,
        _: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Error> {
        let name: StringDeserializer<Error> = self.to_string().into_deserializer();
        visitor.visit_enum(name)
    }

    number! { deserialize_i8 deserialize_i16 deserialize_i32 deserialize_i64 deserialize_i128
    deserialize_u8 deserialize_u16 deserialize_u32 deserialize_u64 deserialize_u128 }

    sequence! { deserialize_seq() deserialize_tuple(length: usize)
    deserialize_tuple_struct(name: &'static str, length: usize) }

    forward_to_deserialize_any! {
        bool f32 f64 char str string bytes byte_buf unit unit_struct map struct identifier ignored_any
    }
}

/// The values of nested options, all of one name together, in the order in which the names come first.
fn by_name(options: Vec<SubOption>) -> Vec<(String, Occurrences)> {
    let mut all: Vec<(String, Occurrences)> = Vec::new();
    for option in options {
        let key = option.key();
        match all.iter_mut().find(|(known, _)| *known == key) {
            Some((_, values)) => values.0.push(option.value),
            None => all.push((key, Occurrences(vec![option.value]))),
        }
    }
    all
}

/// What the options of one name hold: one value, or a sequence where a sequence is wanted.
struct Occurrences(Vec<Value>);

impl IntoDeserializer<'_> for Occurrences {
    type Deserializer = Self;

    fn into_deserializer(self) -> Self {
        self
    }
}

impl Occurrences {
    /// The only one.
    fn one(mut self) -> Result<Value, Error> {
        match (self.0.pop(), self.0.len()) {
            (Some(value), 0) => Ok(value),
            (_, rest) => {
                Err(serde::de::Error::custom(format!("{} options of one name, where one is wanted", rest + 1)))
            }
        }
    }
}

macro_rules! of_one {
    ($($method:ident($($argument:ident: $type:ty),*))+) => {$(
        fn $method<V: Visitor<'de>>(self, $($argument: $type,)* visitor: V) -> Result<V::Value, Error> {
            self.one()?.$method($($argument,)* visitor)
        }
    )+};
}

impl<'de> Deserializer<'de> for Occurrences {
    type Error = Error;

    fn deserialize_any<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Error> {
        if self.0.len() == 1 { self.one()?.deserialize_any(visitor) } else { self.deserialize_seq(visitor) }
    }

    /// A single list is the sequence itself, and so are octets.
    fn deserialize_seq<V: Visitor<'de>>(mut self, visitor: V) -> Result<V::Value, Error> {
        match &self.0[..] {
            [Value::List(_) | Value::Flags(..)] => self.one()?.deserialize_seq(visitor),
            [value] if value.octets().is_some() => self.one()?.deserialize_seq(visitor),
            _ => visitor.visit_seq(SeqDeserializer::new(self.0.drain(..))),
        }
    }

    fn deserialize_option<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Error> {
        visitor.visit_some(self)
    }

    fn deserialize_newtype_struct<V: Visitor<'de>>(self, _: &'static str, visitor: V) -> Result<V::Value, Error> {
        visitor.visit_newtype_struct(self)
    }

    of_one! {
        deserialize_bool() deserialize_i8() deserialize_i16() deserialize_i32() deserialize_i64() deserialize_i128()
        deserialize_u8() deserialize_u16() deserialize_u32() deserialize_u64() deserialize_u128() deserialize_f32()
        deserialize_f64() deserialize_char() deserialize_str() deserialize_string() deserialize_bytes()
        deserialize_byte_buf() deserialize_unit() deserialize_map() deserialize_identifier() deserialize_ignored_any()
        deserialize_unit_struct(name: &'static str) deserialize_tuple(length: usize)
        deserialize_tuple_struct(name: &'static str, length: usize)
        deserialize_struct(name: &'static str, fields: &'static [&'static str])
        deserialize_enum(name: &'static str, variants: &'static [&'static str])
    }
}
