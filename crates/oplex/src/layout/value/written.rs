//! What a layout makes of what people write: a value, a changed value, octets.
//!
//! Reading goes on behind what does not fit, so that all mistakes are reported at once.

use crate::layout::encode::{self, EncodeError, Encoded};
use crate::layout::input::{Input, ValueErrors};
use crate::layout::read::{self, Reading};
use crate::layout::value::Value;
use crate::layout::value::edits::{self, Edit};
use crate::layout::{Layout, Nesting};
use crate::prelude::*;

impl Layout {
    /// Reads what is written.
    ///
    /// ```
    /// use oplex::layout::{Input, Layout, NoCodebook};
    ///
    /// let layout: Layout = "{ port: u16, servers: ipv4+ }".parse()?;
    /// let reading = layout.read(&NoCodebook, &Input::from_text("{ port = 69, servers = 10.64.0.53 }"))?;
    /// assert_eq!(reading.value.to_string(), "{ port = 69, servers = [10.64.0.53] }");
    /// // Each mistake has its characters.
    /// let wrong = layout.read(&NoCodebook, &Input::from_text("{ port = 70000, servers = 10.64.0.553 }"));
    /// let spans: Vec<_> = wrong.expect_err("neither fits").into_iter().map(|error| error.span).collect();
    /// assert_eq!(spans, [9..14, 26..37]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Everything that does not fit the layout, each with its place.
    pub fn read(&self, nesting: &dyn Nesting, written: &Input) -> Result<Reading, ValueErrors> {
        read::read(self, nesting, written)
    }

    /// Reads changes of a value's parts: `{ SERVER = "…" }` for keys, `{ VLAN = { remove = true } }`, `{ first = […] }` and
    /// `{ last = […] }` for lists.
    ///
    /// # Errors
    /// Everything that does not fit the layout, each with its place.
    pub fn read_edits(&self, nesting: &dyn Nesting, written: &Input) -> Result<Vec<Edit>, ValueErrors> {
        edits::read(self, nesting, written)
    }

    /// A value with these changes.
    ///
    /// ```
    /// use oplex::layout::{Input, Layout, NoCodebook};
    ///
    /// let layout = Layout::parse("pairs(\",\" \"=\") { SERVER: ipv4, VLAN: u16 }")?;
    /// let text = |text: &str| Input::from_text(text);
    /// let value = layout.read(&NoCodebook, &text("{ SERVER = 10.64.0.70, VLAN = 64 }"))?.value;
    /// let edits = layout.read_edits(&NoCodebook, &text("{ SERVER = 10.64.0.71 }"))?;
    /// let octets = layout.encode(&NoCodebook, &layout.amended(&value, &edits))?.octets;
    /// assert_eq!(octets, b"SERVER=10.64.0.71,VLAN=64");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn amended(&self, value: &Value, edits: &[Edit]) -> Value {
        edits::amended(self, value, edits)
    }

    /// Encodes a value. What the octets can hold is written, even where a rule forbids it: see [`Layout::faults`].
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::layout::{Layout, Value};
    ///
    /// let layout: Layout = "{ rank: u8, name: len8(text) }".parse()?;
    /// let value = Value::record([("rank", 7u8.into()), ("name", Value::Text("dome".to_owned()))]);
    /// assert_eq!(layout.encode(Codebook::standard(), &value)?.octets, b"\x07\x04dome");
    /// // The other way round, with what is wrong beside it.
    /// let decoded = layout.decoded(Codebook::standard(), b"\x07\x05dome");
    /// assert_eq!(decoded.faults[0].kind.to_string(), "this length counts 5 octets, but only 4 follow");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// A value that has no octets under this layout.
    pub fn encode(&self, nesting: &dyn Nesting, value: &Value) -> Result<Encoded, EncodeError> {
        encode::encode(self, nesting, value)
    }
}
