//! What serde knows, as input for a layout: JSON and other formats, and Rust values of any type.

use crate::prelude::*;
use core::fmt;

use serde::de::value::Error;
use serde::de::{Deserialize, Deserializer, MapAccess, SeqAccess, Visitor};
use serde::ser::{self, Serialize, Serializer};

use crate::layout::input::{Input, InputKind, Key};

impl Input {
    /// A Rust value as input: structs and maps as tables, sequences as lists, enums by the names of their variants, addresses
    /// and other text as text, octets as lists of numbers. Fields that are `None` are left out.
    ///
    /// ```
    /// use oplex::layout::{Input, Layout, NoCodebook};
    ///
    /// #[derive(serde::Serialize)]
    /// struct Agents { mandatory: bool, agents: Vec<std::net::Ipv4Addr> }
    ///
    /// let layout = Layout::parse("{ mandatory: bool, agents: ipv4+ }")?;
    /// let input = Input::from_serialize(&Agents { mandatory: true, agents: vec![[10, 64, 0, 73].into()] })?;
    /// let value = layout.read(&NoCodebook, &input)?.value;
    /// assert_eq!(layout.encode(&NoCodebook, &value)?.octets, [1, 10, 64, 0, 73]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// What serde cannot serialize, and keys of maps that are not text.
    pub fn from_serialize<T: Serialize + ?Sized>(value: &T) -> Result<Self, Error> {
        value.serialize(ToInput).map(|input| input.unwrap_or_else(|| input_of(InputKind::Bool(true))))
    }
}

fn input_of(kind: InputKind) -> Input {
    Input { kind, span: 0..0 }
}

fn text(text: &str) -> InputKind {
    InputKind::Text { text: text.to_owned(), start: None }
}

/// What is `None` or a unit has no input.
type Made = Result<Option<Input>, Error>;

struct ToInput;

/// A list or table on its way, and the name of the enum's variant that it is in.
#[derive(Default)]
struct Parts {
    items: Vec<Input>,
    fields: Vec<(Key, Input)>,
    key: String,
    variant: Option<&'static str>,
}

impl Parts {
    fn of(variant: &'static str) -> Self {
        Self { variant: Some(variant), ..Self::default() }
    }

    fn item<T: Serialize + ?Sized>(&mut self, value: &T) -> Result<(), Error> {
        self.items.extend(value.serialize(ToInput)?);
        Ok(())
    }

    fn field<T: Serialize + ?Sized>(&mut self, name: &str, value: &T) -> Result<(), Error> {
        let field = value.serialize(ToInput)?;
        self.fields.extend(field.map(|input| (Key { name: name.to_owned(), span: 0..0 }, input)));
        Ok(())
    }

    fn made(self, kind: InputKind) -> Made {
        let input = input_of(kind);
        Ok(Some(match self.variant {
            Some(name) => input_of(InputKind::Table(vec![(Key { name: name.to_owned(), span: 0..0 }, input)])),
            None => input,
        }))
    }

    fn list(mut self) -> Made {
        let items = core::mem::take(&mut self.items);
        self.made(InputKind::List(items))
    }

    fn table(mut self) -> Made {
        let fields = core::mem::take(&mut self.fields);
        self.made(InputKind::Table(fields))
    }
}

macro_rules! integers {
    ($($method:ident: $type:ty),+) => {$(
        fn $method(self, number: $type) -> Made {
            Ok(Some(input_of(InputKind::Integer(number.into()))))
        }
    )+};
}

impl Serializer for ToInput {
    type Ok = Option<Input>;
    type Error = Error;
    type SerializeSeq = Parts;
    type SerializeTuple = Parts;
    type SerializeTupleStruct = Parts;
    type SerializeTupleVariant = Parts;
    type SerializeMap = Parts;
    type SerializeStruct = Parts;
    type SerializeStructVariant = Parts;

    integers! {
        serialize_i8: i8, serialize_i16: i16, serialize_i32: i32, serialize_i64: i64, serialize_i128: i128,
        serialize_u8: u8, serialize_u16: u16, serialize_u32: u32, serialize_u64: u64
    }

    fn serialize_bool(self, on: bool) -> Made {
        Ok(Some(input_of(InputKind::Bool(on))))
    }

    fn serialize_f32(self, number: f32) -> Made {
        self.serialize_f64(number.into())
    }

    fn serialize_f64(self, number: f64) -> Made {
        Ok(Some(input_of(InputKind::Float(number))))
    }

    fn serialize_char(self, character: char) -> Made {
        self.serialize_str(character.encode_utf8(&mut [0; 4]))
    }

    fn serialize_str(self, content: &str) -> Made {
        Ok(Some(input_of(text(content))))
    }

    fn serialize_bytes(self, octets: &[u8]) -> Made {
        self.serialize_str(&crate::octets::hex::colon(octets))
    }

    fn serialize_none(self) -> Made {
        Ok(None)
    }

    fn serialize_some<T: Serialize + ?Sized>(self, value: &T) -> Made {
        value.serialize(self)
    }

    fn serialize_unit(self) -> Made {
        Ok(None)
    }

    fn serialize_unit_struct(self, _: &'static str) -> Made {
        Ok(None)
    }

    fn serialize_unit_variant(self, _: &'static str, _: u32, variant: &'static str) -> Made {
        self.serialize_str(variant)
    }

    fn serialize_newtype_struct<T: Serialize + ?Sized>(self, _: &'static str, value: &T) -> Made {
        value.serialize(self)
    }

    fn serialize_newtype_variant<T: Serialize + ?Sized>(
        self,
        _: &'static str,
        _: u32,
        variant: &'static str,
        value: &T,
    ) -> Made {
        let mut parts = Parts::default();
        parts.field(variant, value)?;
        parts.table()
    }

    fn serialize_seq(self, _: Option<usize>) -> Result<Parts, Error> {
        Ok(Parts::default())
    }

    fn serialize_tuple(self, _: usize) -> Result<Parts, Error> {
        Ok(Parts::default())
    }

    fn serialize_tuple_struct(self, _: &'static str, _: usize) -> Result<Parts, Error> {
        Ok(Parts::default())
    }

    fn serialize_tuple_variant(self, _: &'static str, _: u32, name: &'static str, _: usize) -> Result<Parts, Error> {
        Ok(Parts::of(name))
    }

    fn serialize_map(self, _: Option<usize>) -> Result<Parts, Error> {
        Ok(Parts::default())
    }

    fn serialize_struct(self, _: &'static str, _: usize) -> Result<Parts, Error> {
        Ok(Parts::default())
    }

    fn serialize_struct_variant(self, _: &'static str, _: u32, name: &'static str, _: usize) -> Result<Parts, Error> {
        Ok(Parts::of(name))
    }
}

macro_rules! lists {
    ($($trait:ident::$method:ident),+) => {$(
        impl ser::$trait for Parts {
            type Ok = Option<Input>;
            type Error = Error;

            fn $method<T: Serialize + ?Sized>(&mut self, value: &T) -> Result<(), Error> {
                self.item(value)
            }

            fn end(self) -> Made {
                self.list()
            }
        }
    )+};
}
lists! {
    SerializeSeq::serialize_element, SerializeTuple::serialize_element, SerializeTupleStruct::serialize_field,
    SerializeTupleVariant::serialize_field
}

macro_rules! tables {
    ($($trait:ident),+) => {$(
        impl ser::$trait for Parts {
            type Ok = Option<Input>;
            type Error = Error;

            fn serialize_field<T: Serialize + ?Sized>(&mut self, name: &'static str, value: &T) -> Result<(), Error> {
                self.field(name, value)
            }

            fn end(self) -> Made {
                self.table()
            }
        }
    )+};
}
tables! { SerializeStruct, SerializeStructVariant }

impl ser::SerializeMap for Parts {
    type Ok = Option<Input>;
    type Error = Error;

    fn serialize_key<T: Serialize + ?Sized>(&mut self, key: &T) -> Result<(), Error> {
        let key = key.serialize(ToInput)?.map(|input| input.kind);
        self.key = match key {
            Some(InputKind::Text { text, .. }) => text,
            Some(InputKind::Integer(code)) => code.to_string(),
            _ => return Err(ser::Error::custom("the key of a map must be text or a code")),
        };
        Ok(())
    }

    fn serialize_value<T: Serialize + ?Sized>(&mut self, value: &T) -> Result<(), Error> {
        let name = core::mem::take(&mut self.key);
        self.field(&name, value)
    }

    fn end(self) -> Made {
        self.table()
    }
}

/// From JSON and other serde formats; the places are unknown then.
impl<'de> Deserialize<'de> for Input {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        deserializer.deserialize_any(AnyValue).map(|kind| Self { kind, span: 0..0 })
    }
}

struct AnyValue;

impl<'de> Visitor<'de> for AnyValue {
    type Value = InputKind;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("a value: text, number, true, false, list or table")
    }

    fn visit_bool<E>(self, on: bool) -> Result<InputKind, E> {
        Ok(InputKind::Bool(on))
    }

    fn visit_i64<E>(self, number: i64) -> Result<InputKind, E> {
        Ok(InputKind::Integer(number.into()))
    }

    fn visit_u64<E>(self, number: u64) -> Result<InputKind, E> {
        Ok(InputKind::Integer(number.into()))
    }

    fn visit_f64<E>(self, number: f64) -> Result<InputKind, E> {
        Ok(InputKind::Float(number))
    }

    fn visit_str<E>(self, text: &str) -> Result<InputKind, E> {
        Ok(InputKind::Text { text: text.to_owned(), start: None })
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<InputKind, A::Error> {
        let mut items = Vec::new();
        while let Some(item) = list.next_element()? {
            items.push(item);
        }
        Ok(InputKind::List(items))
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<InputKind, A::Error> {
        let mut fields = Vec::new();
        while let Some((name, value)) = map.next_entry()? {
            fields.push((Key { name, span: 0..0 }, value));
        }
        Ok(InputKind::Table(fields))
    }
}
