//! What programs read: a form for each answer of each command, all of them here. docs/json.md describes them. They stay as they
//! are, or their format gets another number; the library's types may change behind them.

mod audit;
mod budget;
mod changes;
mod check;
mod explanation;
mod finding;
mod lab;
mod message;
mod option;
mod overrides;
mod plan;
mod probe;
mod publish;
mod rehearsal;
mod rule;
mod store;
mod yang;

use std::io::{self, Write};

use serde::Serialize;
use serde_json::Serializer;
use serde_json::ser::Formatter;

use crate::render::clean;

pub(crate) use audit::{AuditForm, ConversationForm, DamageForm, SeenForm};
pub(crate) use budget::BudgetForm;
pub(crate) use changes::{ChangeForm, ChangedForm, ChangesForm};
pub(crate) use check::CheckForm;
pub(crate) use explanation::{BelongsForm, ExplanationForm, SaysForm, State, WhyNotForm};
pub(crate) use finding::FindingForm;
pub(crate) use lab::{ClientForm, ExchangeForm, LabForm, LoadForm};
pub(crate) use message::{EncodedForm, MessageForm, NoMessageForm};
pub(crate) use option::{CountForm, DecodeForm, EncodeForm, FlawForm, LookupForm};
pub(crate) use plan::{AddressesForm, FleetForm, FromForm, LayerForm, NetworkForm, PlanForm, SentForm};
pub(crate) use probe::ProbeForm;
pub(crate) use publish::PublishForm;
pub(crate) use rehearsal::of_all as rehearsal;
pub(crate) use rule::RuleForm;
pub(crate) use store::{HistoryForm, ReleaseForm, RevertForm, SentOctetsForm, VerifyForm, WrittenForm, WrongForm};
pub(crate) use yang::{Yang, yang};

/// A document, or a line of a stream, with its format in front.
#[derive(Serialize)]
struct Versioned<'f, T> {
    format: &'static str,
    #[serde(flatten)]
    form: &'f T,
}

/// Writes a document on one line. `format` is its name and version: `oplex-check/1`.
pub(crate) fn document(out: &mut dyn Write, format: &'static str, form: &impl Serialize) -> io::Result<()> {
    Versioned { format, form }.serialize(&mut Serializer::with_formatter(&mut *out, Escaping))?;
    out.write_all(b"\n")
}

/// Writes JSON of a form that is not ours on one line.
pub(crate) fn plain(out: &mut dyn Write, data: &serde_json::Value) -> io::Result<()> {
    data.serialize(&mut Serializer::with_formatter(&mut *out, Escaping))?;
    out.write_all(b"\n")
}

/// JSON in which whatever would act on a terminal is escaped: nothing is lost, and nothing happens to who looks at it.
struct Escaping;

impl Formatter for Escaping {
    fn write_string_fragment<W: Write + ?Sized>(&mut self, out: &mut W, fragment: &str) -> io::Result<()> {
        let mut rest = fragment;
        while let Some(at) = rest.find(clean::acts) {
            let (before, from) = rest.split_at(at);
            out.write_all(before.as_bytes())?;
            let hidden = from.chars().next().unwrap_or_default();
            for unit in hidden.encode_utf16(&mut [0; 2]) {
                write!(out, "\\u{unit:04x}")?;
            }
            rest = &from[hidden.len_utf8()..];
        }
        out.write_all(rest.as_bytes())
    }
}
