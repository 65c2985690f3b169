//! Rules about codebooks: what their authors should hear before anybody relies on them.

use super::{Codebook, Definition, Status};
use crate::family::Family;
use crate::finding::{Example, Finding, Rule, Severity, rule};
use crate::layout::{Atom, Input, Layout, Node, Run};

/// A book around the option that an example is about.
macro_rules! book {
    ($option:literal) => {
        Example::Codebook(concat!(
            "book = \"tern\"\ntitle = \"Tern intercoms\"\ncarriers = [\"v4:43\"]\n\n[[option]]\n",
            $option,
            "name = \"servers\"\nsummary = \"Call servers.\"\n"
        ))
    };
}

const REFERENCE: &str = "its manual, page and section";

rule! {
    /// a site's option uses a code that IANA has assigned to another option
    ///
    /// Devices read it as the registered option and act on its octets accordingly.
    pub(super) static CODE_ALREADY_ASSIGNED = "code-already-assigned", Error, Codebook, "RFC 2939, section 2.1";
    book!("code = 66\ncarrier = \"v4\"\nlayout = \"ipv4+\"\nreference = \"Tern D2 manual, page 9\"\n")
}

rule! {
    /// a site's option has a code outside 224 to 254
    ///
    /// Codes below 224 may be assigned at any time, and then the option means something else. From 128 on it is a warning: sites had
    /// these codes before RFC 3942, and old devices know them.
    pub(super) static CODE_OUTSIDE_PRIVATE_RANGE = "code-outside-private-range", Error, Codebook, "RFC 3942, section 4";
    book!("code = 105\ncarrier = \"v4\"\nlayout = \"ipv4+\"\nreference = \"Tern D2 manual, page 9\"\n")
}

rule! {
    /// a sub-option has a code that its carrier cannot hold
    ///
    /// A code has one octet, and in option 43 the codes 0 and 255 are pad and end: readers stop or skip there.
    pub(super) static CODE_NOT_POSSIBLE = "code-not-possible", Error, Codebook, "RFC 2132, section 8.4";
    book!("code = 255\nlayout = \"ipv4+\"\nreference = \"Tern D2 manual, page 9\"\n")
}

rule! {
    /// a layout that also fits an option without any octets
    ///
    /// DHCPv4 options have at least one octet, unless their presence is the whole message; many readers drop an option
    /// of length zero, or treat the message as damaged.
    pub(super) static LAYOUT_ALLOWS_EMPTY = "layout-allows-empty", Warning, Codebook, "RFC 2132, section 2";
    book!("code = 1\nlayout = \"ipv4*\"\nreference = \"Tern D2 manual, page 9\"\n")
}

rule! {
    /// an option without a reference to where it is documented
    ///
    /// Two years later, a reader of a capture cannot tell whether the codebook or the device is wrong.
    pub(super) static REFERENCE_MISSING = "reference-missing", Warning, Codebook, "RFC 2939, section 2.1";
    book!("code = 1\nlayout = \"ipv4+\"\n")
}

rule! {
    /// a layout whose later octets have one of several forms
    ///
    /// Every reader needs both forms, and tests of every combination. Two options are simpler, if the choice is still
    /// yours.
    pub(super) static LAYOUT_DEPENDS_ON_FIELD = "layout-depends-on-field", Note, Codebook, "RFC 7227, section 6";
    book!(
        "code = 1\nlayout = \"{ kind: u8, servers: by kind { 0 => name+, else => ipv4+ } }\"\nreference = \"Tern D2 manual, page 9\"\n"
    )
}

rule! {
    /// an option carries as text what has a binary form of its own
    ///
    /// An address as text is three times as long, and every reader has to parse it; typing errors pass unnoticed.
    pub(super) static TEXT_HAS_BETTER_LAYOUT = "text-has-better-layout", Note, Codebook, "RFC 7227, section 5";
    book!(
        "code = 1\nlayout = \"text\"\nexample = \"10.64.0.70\"\nreference = \"Tern D2 manual, page 9\"\n"
    )
}

rule! {
    /// an option's example does not fit its layout
    ///
    /// One of the two is wrong, and people copy examples.
    pub(super) static EXAMPLE_DOES_NOT_FIT = "example-does-not-fit", Error, Codebook, "";
    book!("code = 1\nlayout = \"ipv4+\"\nexample = \"ten\"\nreference = \"Tern D2 manual, page 9\"\n")
}

rule! {
    /// two codebooks have the same name
    ///
    /// Options are written with the name of their codebook in front, so the name must be unique.
    pub(super) static BOOK_NAME_TAKEN = "book-name-taken", Error, Codebook, "";
    Example::Codebook("book = \"v4\"\ntitle = \"Tern intercoms\"\ncarriers = [\"v4:43\"]\n")
}

rule! {
    /// two options of a codebook have the same code or the same name
    ///
    /// Only one of them can be used, and it is not clear which.
    pub(super) static CODE_REPEATED = "code-repeated", Error, Codebook, "";
    Example::Codebook("book = \"tern\"\ntitle = \"Tern intercoms\"\ncarriers = [\"v4:43\"]\n\
         [[option]]\ncode = 1\nname = \"ring\"\nlayout = \"u8\"\nsummary = \"Ring tone.\"\nreference = \"Tern D2 manual, page 7\"\n\
         [[option]]\ncode = 1\nname = \"volume\"\nlayout = \"u8\"\nsummary = \"Volume.\"\nreference = \"Tern D2 manual, page 8\"\n")
}

rule! {
    /// an option's layout does not follow the layout language
    ///
    /// Nothing can be encoded or checked with it.
    pub(super) static LAYOUT_MALFORMED = "layout-malformed", Error, Codebook, "";
    Example::Codebook("book = \"tern\"\ntitle = \"Tern intercoms\"\ncarriers = [\"v4:43\"]\n\
         [[option]]\ncode = 1\nname = \"servers\"\nlayout = \"ip4+\"\nsummary = \"Servers.\"\nreference = \"Tern D2 manual, page 7\"\n")
}

rule! {
    /// a layout under which the same octets can be read in two ways
    ///
    /// What one side writes, the other reads as something else, and neither is wrong.
    pub(super) static LAYOUT_AMBIGUOUS = "layout-ambiguous", Error, Codebook, "";
    Example::Codebook("book = \"tern\"\ntitle = \"Tern intercoms\"\ncarriers = [\"v4:43\"]\n\
         [[option]]\ncode = 1\nname = \"servers\"\nlayout = \"{ servers: ipv4+, port: u16 }\"\nsummary = \"Servers.\"\nreference = \"Tern D2 manual, page 7\"\n")
}

pub(super) static RULES: [&Rule; 12] = [
    &CODE_REPEATED,
    &LAYOUT_MALFORMED,
    &LAYOUT_AMBIGUOUS,
    &BOOK_NAME_TAKEN,
    &CODE_ALREADY_ASSIGNED,
    &CODE_OUTSIDE_PRIVATE_RANGE,
    &CODE_NOT_POSSIBLE,
    &LAYOUT_ALLOWS_EMPTY,
    &REFERENCE_MISSING,
    &LAYOUT_DEPENDS_ON_FIELD,
    &TEXT_HAS_BETTER_LAYOUT,
    &EXAMPLE_DOES_NOT_FIT,
];

/// Which line of the option a finding is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Subject {
    Code,
    Name,
    Layout,
    Example,
}

/// What there is to say about one option of a vendor's or site's book. `top` is what stands under its code among
/// DHCPv4's options or relay sub-options, when it is to stand there itself.
pub(super) fn option(codebook: &Codebook, option: &Definition, place: Destination<'_>) -> Vec<(Subject, Finding)> {
    let mut found = Vec::new();
    found.extend(code(option, place).map(|finding| (Subject::Code, finding)));
    if option.reference.is_empty() {
        let finding = REFERENCE_MISSING.finding(format!("`{}` has no reference", option.name));
        found.push((Subject::Name, finding.advice(format!("reference = \"…\": {REFERENCE}"))));
    }
    let Ok(layout) = option.layout_or_error(codebook) else { return found };
    found.extend(shape(option, layout, place).map(|finding| (Subject::Layout, finding)));
    found.extend(example(codebook, option, layout));
    found
}

/// Whether a rule is about an option's code.
pub(super) fn is_about_code(rule: &Rule) -> bool {
    [&CODE_ALREADY_ASSIGNED, &CODE_REPEATED, &CODE_NOT_POSSIBLE].iter().any(|known| known.name == rule.name)
}

/// Where an option stands.
#[derive(Debug, Clone, Copy)]
pub(super) enum Destination<'p> {
    /// Among the own options of the family's DHCP, where this one has the code so far.
    Own(Family, Option<&'p Definition>),
    /// Among the relay agent's sub-options, where this one has the code so far.
    Relay(Option<&'p Definition>),
    /// Inside option 43.
    PadAndEnd,
    /// Inside another option.
    Inside,
    /// Inside DHCPv6's option for vendors alone, where codes have two octets.
    InDhcpv6,
}

fn code(option: &Definition, place: Destination<'_>) -> Option<Finding> {
    let (Destination::Own(_, taken) | Destination::Relay(taken)) = place else {
        let reserved = matches!(place, Destination::PadAndEnd) && matches!(option.code, 0 | 255);
        let too_large = option.code > 255 && !matches!(place, Destination::InDhcpv6);
        return (reserved || too_large).then(|| {
            let why = if reserved { "is pad or end inside option 43" } else { "does not fit in one octet" };
            CODE_NOT_POSSIBLE.finding(format!("the code {} {why}", option.code)).advice("a code from 1 to 254")
        });
    };
    let range = match place {
        Destination::Relay(_) => "a sub-option of v4:82/9",
        // DHCPv6 keeps no codes for sites (RFC 8415, section 24): vendors have their own inside option 17.
        Destination::Own(Family::V6, _) => "an option that travels in v6:17",
        _ => "a code from 224 to 254",
    };
    let assigned = taken.filter(|taken| !matches!(taken.status, Status::Unassigned | Status::Removed));
    let private = matches!(place, Destination::Own(Family::V4, _)) && (224..=254).contains(&option.code);
    // Sites once had all codes from 128 on, and old devices have some of them burnt in (RFC 3942, section 3).
    let old = matches!(place, Destination::Own(Family::V4, _)) && (128..=223).contains(&option.code);
    let for_devices = |finding: Finding| match old {
        true => finding
            .as_severity(Severity::Warning)
            .by("RFC 3942, section 3")
            .advice(format!("{range}, unless the device knows this one alone")),
        false => finding.advice(range),
    };
    match assigned {
        _ if private => None,
        Some(taken) => {
            let message = format!("code {} is {} ({})", option.code, taken.name, taken.reference);
            Some(for_devices(CODE_ALREADY_ASSIGNED.finding(message)))
        }
        None => {
            let message = format!("code {} is not for sites", option.code);
            let finding = for_devices(CODE_OUTSIDE_PRIVATE_RANGE.finding(message));
            // The registry may have given it away since.
            let is_dhcpv6 = matches!(place, Destination::Own(Family::V6, _));
            Some(if is_dhcpv6 { finding.as_severity(Severity::Warning).by("RFC 8415, section 24") } else { finding })
        }
    }
}

fn shape(option: &Definition, layout: &Layout, place: Destination<'_>) -> Option<Finding> {
    let may_be_empty = matches!(place, Destination::Own(Family::V4, _) | Destination::PadAndEnd);
    if may_be_empty && layout.lengths().0 == 0 && *layout.root() != Node::Atom(Atom::Empty) {
        let finding = LAYOUT_ALLOWS_EMPTY.finding(format!("`{}` may be empty", option.name));
        return Some(finding.advice("`+` in place of `*`, or `empty` if its presence is the whole message"));
    }
    depends_on_field(layout.root()).then(|| {
        LAYOUT_DEPENDS_ON_FIELD.finding(format!("the form of `{}` depends on one of its own fields", option.name))
    })
}

fn depends_on_field(node: &Node) -> bool {
    match node {
        Node::Choice(_) => true,
        Node::Record(fields) => fields.iter().any(|field| depends_on_field(&field.node)),
        Node::Repeat(inner, _) | Node::Optional(inner) | Node::Sized(_, inner) | Node::Padded(_, inner) => {
            depends_on_field(inner)
        }
        Node::Atom(_) | Node::Zeros(_) | Node::Options(_) | Node::Pairs(_) | Node::Bits(_) => false,
    }
}

fn example(codebook: &Codebook, option: &Definition, layout: &Layout) -> Option<(Subject, Finding)> {
    let example = option.example.as_deref()?;
    match codebook.encode(option, &Input::from_text(example)) {
        Err(misfits) => {
            let why = misfits.first().map(ToString::to_string).unwrap_or_default();
            Some((
                Subject::Example,
                EXAMPLE_DOES_NOT_FIT.finding(format!("the example does not fit the layout: {why}")),
            ))
        }
        Ok(payload) => match payload.faults.first() {
            Some(fault) => {
                let message = format!("the example does not fit the layout: {}", fault.kind);
                Some((Subject::Example, EXAMPLE_DOES_NOT_FIT.finding(message)))
            }
            None => {
                let form = better_form(layout, example)?;
                let message = format!("`{}` is text, but {example} has a binary form of its own", option.name);
                Some((Subject::Layout, TEXT_HAS_BETTER_LAYOUT.finding(message).advice(form)))
            }
        },
    }
}

/// The layout that says more than `text` about a value like this.
fn better_form(layout: &Layout, example: &str) -> Option<&'static str> {
    if !matches!(layout.root(), Node::Atom(Atom::Run(Run::Text | Run::Utf8, _))) {
        return None;
    }
    let scheme = |text: &str| iri_string::types::UriStr::new(text).is_ok_and(|uri| uri.authority_str().is_some());
    match example {
        _ if example.parse::<std::net::Ipv4Addr>().is_ok() => Some("ipv4"),
        _ if example.parse::<std::net::Ipv6Addr>().is_ok() => Some("ipv6"),
        _ if scheme(example) => Some("uri"),
        _ => None,
    }
}
