//! Rules about codes and numbers that are not assigned, or no longer.

use crate::check::context::MessageContext;
use crate::check::declare::{OptionValue, check, checks, v4_message};
use crate::check::scan::Thing;
use crate::check::tree::View;
use crate::codebook::{Codebook, Definition, OptionId, Status};
use crate::family::Protocol;
use crate::finding::{Example, Finding, Findings};
use crate::layout::{Atom, Meaning, Node, Number, Scalar, ScalarForm};

checks! { OPTION_NOT_IN_USE, OPTION_UNDEFINED, VALUE_UNASSIGNED }

check! { Message(option_not_in_use),
    /// an option that is deprecated, withdrawn or not assigned, in a message
    ///
    /// Its code may mean something else to each receiver.
    static OPTION_NOT_IN_USE = "option-not-in-use", Note, Message(V4, V6), "";
    v4_message("type = \"inform\"\nciaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\n\"v4:84\" = \"01\"\n")
}

fn option_not_in_use(context: &MessageContext<'_>, findings: &mut Findings) {
    if !context.marks.is_not_in_use {
        return;
    }
    for place in context.top() {
        let Some(definition) = place.definition else {
            let label = context.label(place.code);
            let assigner = context.codebook.assigner(&OptionId::of(context.protocol(), place.code));
            let (_, reference) = assigner.unwrap_or_default();
            let finding = OPTION_UNDEFINED.finding(format!("{label} is not defined in any codebook")).by(reference);
            findings.push(finding.on(context.around(place)));
            continue;
        };
        if is_not_in_use(definition) {
            let message = format!("{} is {}", definition.label(), definition.status);
            let finding = OPTION_NOT_IN_USE.finding(message).by(definition.reference.clone());
            findings.push(finding.on(context.around(place)));
        }
    }
}

/// Whether an option is deprecated, withdrawn or not assigned.
pub(in crate::check) fn is_not_in_use(definition: &Definition) -> bool {
    let given_up =
        matches!(definition.status, Status::Deprecated | Status::Obsolete | Status::Removed | Status::Unassigned);
    given_up && definition.is_standard()
}

check! { ValueIf(is_undefined, option_undefined),
    /// no codebook says what is in an option
    ///
    /// Its octets are shown as they are. A vendor's or a site's codebook can say what they mean.
    static OPTION_UNDEFINED = "option-undefined", Note, AnyOption, "";
    Example::Payload("v4:230", "0102")
}

fn is_undefined(_: &Codebook, definition: &Definition) -> bool {
    definition.status != Status::Current || (224..=254).contains(&definition.code)
}

fn option_undefined(one: &OptionValue<'_>) -> Option<Finding> {
    let View { received, message, .. } = one.view;
    let alone = received && message.is_none() && one.at.is_none() && one.definition.is_standard();
    let definition = alone.then_some(one.definition)?;
    let book = "a codebook that defines it: --codebook FILE";
    Some(match definition.status {
        Status::Unassigned | Status::Removed => OPTION_UNDEFINED.finding(format!(
            "code {} is {}; {}",
            definition.code,
            definition.status,
            lower(&definition.summary)
        )),
        Status::Undefined => OPTION_UNDEFINED.finding(lower(&definition.summary)),
        Status::Tentative | Status::Undocumented => OPTION_UNDEFINED.finding(format!(
            "code {} is {}; its octets were never described in an RFC",
            definition.code, definition.status
        )),
        // Codes for private use (RFC 3942, section 4).
        _ if definition.is_own_of(Protocol::V4) && (224..=254).contains(&definition.code) => OPTION_UNDEFINED
            .finding(format!("code {} is for the site to define, and no codebook here does", definition.code))
            .advice(book),
        _ => return None,
    })
}

/// A summary, for the end of a sentence.
fn lower(summary: &str) -> String {
    let summary = summary.trim_end_matches('.');
    let mut chars = summary.chars();
    chars.next().map(|first| first.to_lowercase().chain(chars).collect()).unwrap_or_default()
}

check! { ValueIf(has_open_numbers, value_unassigned),
    /// a number that has no name in its registry
    ///
    /// It may be newer than this codebook, or a typing error.
    static VALUE_UNASSIGNED = "value-unassigned", Note, AnyOption, "";
    Example::Payload("v4:145", "02")
}

fn has_open_numbers(codebook: &Codebook, definition: &Definition) -> bool {
    let is_open = |node: &Node| match node {
        Node::Atom(Atom::Number(Number { meaning: Meaning::Member(of), .. })) => of.open,
        Node::Bits(fields) => fields.iter().filter_map(|field| field.of.as_ref()).any(|of| of.open),
        _ => false,
    };
    codebook.layout(definition).has(&is_open)
}

fn value_unassigned(one: &OptionValue<'_>) -> Option<Finding> {
    // A number without a name is not plainly right.
    if one.tree.is_plain {
        return None;
    }
    let (number, name) = one.find_thing(|thing| Some((unassigned(thing)?, thing.name)))?;
    let name = name.map(|name| format!("{name} ")).unwrap_or_default();
    Some(VALUE_UNASSIGNED.finding(format!("{name}{number} is not assigned")))
}

/// A number without a name where numbers have some.
fn unassigned(thing: &Thing<'_>) -> Option<u64> {
    let of = match thing.form {
        ScalarForm::Atom(Atom::Number(Number { meaning: Meaning::Member(of), .. })) => of,
        ScalarForm::Bits(field) => field.of.as_ref()?,
        _ => return None,
    };
    let Scalar::Number(number) = thing.scalar else { return None };
    of.name_of(number).is_none().then_some(number)
}
