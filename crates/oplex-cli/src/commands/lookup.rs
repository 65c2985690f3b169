//! `oplex lookup`: what an option is.

use std::io::Write;
use std::sync::Arc;

use oplex::check;
use oplex::codebook::{Codebook, Definition, Status};
use oplex::family::Protocol;
use oplex::finding::{About, Rule};
use oplex::layout::{Atom, Enumeration, Input, Meaning, Node};
use oplex::octets::hex;
use unicode_width::UnicodeWidthStr;

use super::codebook;
use crate::args::{Format, Lookup};
use crate::exit::{DONE, Outcome, because};
use crate::forms::{self, CountForm, LookupForm};
use crate::render::style::{AID, DIM, STRONG, in_style};
use crate::render::{clean, octets};

pub(super) fn run(args: &Lookup, out: &mut dyn Write) -> Outcome {
    let codebook = codebook(&args.books)?;
    if args.count {
        return count(&codebook, args.format.format, out);
    }
    let query = args.query.join(" ");
    let undefined = undefined(&codebook, &query);
    let found = match codebook.find(&query) {
        Ok(definition) => vec![&**definition],
        Err(_) => codebook.search(&query),
    };
    let found = if found.is_empty() { undefined.iter().map(|one| &**one).collect() } else { found };
    if found.is_empty() {
        let near = codebook.find(&query).err().and_then(|unknown| unknown.near);
        let near = near.map_or_else(String::new, |near| format!("; the nearest is {near}"));
        return because(format!("no match for `{query}`{near}"));
    }
    match args.format.format {
        Format::Json => {
            for definition in found {
                forms::document(
                    out,
                    "oplex-lookup/1",
                    &LookupForm::new(&codebook, definition, stands(&codebook, definition)),
                )?;
            }
        }
        Format::Text => match found[..] {
            [one] => whole(out, &codebook, one)?,
            _ => list(out, &query, &found)?,
        },
    }
    Ok(DONE)
}

/// What there is to say of a code that no codebook defines, given as `v6:65000` or `65000`.
fn undefined(codebook: &Codebook, query: &str) -> Option<Arc<Definition>> {
    let ids = Protocol::ALL.into_iter().map(|protocol| format!("{}:{query}", protocol.name()));
    let mut ids = std::iter::once(query.to_owned()).chain(ids.filter(|_| query.parse::<u16>().is_ok()));
    ids.find_map(|id| codebook.find_or_undefined(&id).ok())
}

fn count(codebook: &Codebook, format: Format, out: &mut dyn Write) -> Outcome {
    let sub = |definition: &Definition| definition.id().outer().is_some();
    let options = codebook.definitions().filter(|definition| !sub(definition)).count();
    let sub_options = codebook.definitions().filter(|definition| sub(definition)).count();
    match format {
        Format::Text => writeln!(out, "{options} options, {sub_options} sub-options")?,
        Format::Json => forms::document(out, "oplex-lookup/1", &CountForm { options, sub_options })?,
    }
    Ok(DONE)
}

fn whole(out: &mut dyn Write, codebook: &Codebook, definition: &Definition) -> std::io::Result<()> {
    let title = format!("{}  {}", in_style(STRONG, definition.id().to_string()), in_style(STRONG, &definition.name));
    let title = if definition.title == definition.name {
        title
    } else {
        format!("{title}  {}", clean::line(&definition.title))
    };
    writeln!(out, "{title}\n{}\n", clean::line(&definition.summary))?;
    let mut facts = vec![("layout", definition.layout_text.to_string()), ("length", length(codebook, definition))];
    let mut named = Vec::new();
    names(codebook.layout(definition).root(), &mut named);
    facts.extend(named.into_iter().map(|values| ("values", values)));
    facts.extend([
        ("sent by", sent_by(definition)),
        ("status", status(definition)),
        ("defined", definition.reference.to_string()),
    ]);
    facts.extend(stands(codebook, definition).map(|places| ("stands", places)));
    let mut rules: Vec<&str> = check::rules().filter(|rule| is_about(rule, definition)).map(|rule| rule.name).collect();
    rules.sort_unstable();
    if !rules.is_empty() {
        facts.push(("rules", rules.join(", ")));
    }
    if !definition.aliases.is_empty() {
        facts.push(("also", definition.aliases.join(", ")));
    }
    if let Some(example) = &definition.example {
        facts.push(("example", example.to_string()));
        if let Ok(payload) = codebook.encode(definition, &Input::from_text(example)) {
            facts.push(("octets", hex::spaced(&payload.octets)));
        }
    }
    octets::facts(out, &facts)
}

/// The named numbers and bits that the layout calls by the name of their enumeration only.
fn names(node: &Node, named: &mut Vec<String>) {
    let mut add = |of: &Enumeration| {
        let listing = format!("{}: {}", of.name, of.listing());
        if !of.name.is_empty() && !named.contains(&listing) {
            named.push(listing);
        }
    };
    match node {
        Node::Atom(Atom::Number(number)) => match &number.meaning {
            Meaning::Member(of) | Meaning::Flags(of) => add(of),
            _ => {}
        },
        Node::Bits(fields) => fields.iter().filter_map(|field| field.of.as_ref()).for_each(|of| add(of)),
        Node::Record(fields) => fields.iter().for_each(|field| names(&field.node, named)),
        Node::Repeat(inner, _) | Node::Optional(inner) | Node::Sized(_, inner) | Node::Padded(_, inner) => {
            names(inner, named);
        }
        Node::Choice(choice) => {
            let arms = choice.arms.iter().map(|(_, node)| node).chain(choice.otherwise.as_deref());
            arms.for_each(|node| names(node, named));
        }
        _ => {}
    }
}

/// Whether a rule is about this option, or about what its layout is made of, and not about all.
fn is_about(rule: &Rule, definition: &Definition) -> bool {
    match rule.about {
        About::Options(ids) => ids.iter().any(|id| definition.is(id)),
        About::Atoms(words) => words.iter().any(|word| stands_in(word, &definition.layout_text)),
        _ => false,
    }
}

/// Whether a layout has this word for a single thing; fields may be called the same, and an address that says whose it is
/// is held to other rules.
fn stands_in(word: &str, layout: &str) -> bool {
    let in_word = |c: char| c.is_ascii_alphanumeric() || c == '-';
    layout.match_indices(word).any(|(at, _)| {
        let (before, after) = (&layout[..at], &layout[at + word.len()..]);
        !before.ends_with(in_word)
            && !after.starts_with(in_word)
            && !after.starts_with(':')
            && !after.starts_with(" as ")
    })
}

fn list(out: &mut dyn Write, query: &str, found: &[&Definition]) -> std::io::Result<()> {
    writeln!(out, "{} options for {}\n", found.len(), in_style(STRONG, clean::line(query)))?;
    let width = |text: fn(&Definition) -> String| found.iter().map(|one| text(one).width()).max().unwrap_or(0);
    let (ids, names) = (width(|one| one.id().to_string()), width(|one| one.name.to_string()));
    for one in found {
        let (id, name) = (format!("{:<ids$}", one.id().to_string()), format!("{:<names$}", one.name));
        writeln!(out, "  {}  {}  {}", in_style(AID, id), in_style(STRONG, name), clean::line(&one.summary))?;
    }
    writeln!(out, "\n{}", in_style(DIM, format!("For details: oplex lookup {}", found[0].id())))
}

fn length(codebook: &Codebook, definition: &Definition) -> String {
    let octets = |count: usize| if count == 1 { "1 octet".to_owned() } else { format!("{count} octets") };
    let (min, max) = codebook.layout(definition).lengths();
    let long = if definition.id().book() != "v4" {
        // Only DHCPv4 has options of 255 octets, and splits longer ones.
        ""
    } else if definition.single {
        "; never split"
    } else if max.is_some_and(|max| max <= 255) {
        ""
    } else {
        "; over 255 it is split (RFC 3396)"
    };
    match max {
        Some(max) if max == min => octets(min),
        Some(max) => format!("{min} to {}{long}", octets(max)),
        None if definition.single => format!("{min} to 255 octets; never split"),
        None => format!("{} or more{long}", octets(min)),
    }
}

fn sent_by(definition: &Definition) -> String {
    if definition.status == Status::Undefined {
        return "not known".to_owned();
    }
    let who = definition.sent_by.to_string();
    if definition.automatic { format!("{who}, automatically; cannot be sent from a plan") } else { who }
}

/// Where an option of DHCPv6 may stand, and how often.
fn stands(codebook: &Codebook, definition: &Definition) -> Option<String> {
    if !definition.is_own_of(Protocol::V6) || matches!(definition.status, Status::Unassigned | Status::Undefined) {
        return None;
    }
    let place = |code: &u16| match (code, codebook.own(Protocol::V6, *code)) {
        (0, _) => "messages".to_owned(),
        (_, Some(outer)) => outer.label(),
        (code, None) => format!("v6:{code}"),
    };
    let places = definition.within.iter().map(place).collect::<Vec<_>>().join(", ");
    let places = if places.is_empty() { "messages".to_owned() } else { places };
    let often = if definition.several { "any number of times" } else { "once" };
    Some(format!("{often}, in {places}"))
}

fn status(definition: &Definition) -> String {
    match (&definition.replaced_by, definition.status) {
        (Some(by), status) => format!("{status}; replaced by {by}"),
        (None, Status::Unassigned | Status::Removed) => format!("{}; do not send it", definition.status),
        (None, status) => status.to_string(),
    }
}
