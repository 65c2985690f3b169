//! Rules about options that hold others: what must be inside, and how often.

use super::{Check, Find};
use crate::finding::{Example, Rule, Severity};
use crate::layout::Value;

pub(super) static CHECKS: [&Check; 1] = [&CONTAINER_MISFILLED];

/// A container, what it holds, how many of that at least and at most, and where that is said.
type Content = (&'static str, &'static [u16], usize, usize, &'static str);

const ANY: usize = usize::MAX;

const CONTENTS: [Content; 13] = [
    ("v6:56", &[1, 2, 3], 1, 1, "RFC 5908, section 4"),
    ("v6:94", &[89], 1, ANY, "RFC 7598, section 5.1"),
    ("v6:94", &[90], 1, ANY, "RFC 7598, section 5.1"),
    ("v6:94", &[91, 92], 0, 0, "RFC 7598, section 6"),
    ("v6:95", &[89], 1, ANY, "RFC 7598, section 5.2"),
    ("v6:95", &[91], 1, 1, "RFC 7598, section 5.2"),
    ("v6:95", &[90, 92], 0, 0, "RFC 7598, section 6"),
    ("v6:96", &[92], 0, 1, "RFC 7598, section 5.3"),
    ("v6:96", &[90], 1, ANY, "RFC 7598, section 5.3"),
    ("v6:96", &[89, 91], 0, 0, "RFC 7598, section 6"),
    ("v6:97", &[98], 1, 32, "RFC 7600, section 4.9"),
    ("v6:97", &[99], 0, 1, "RFC 7600, section 4.9"),
    ("v6:69", &[49], 1, 1, "RFC 6610, sections 3.1 and 4.3"),
];

static CONTAINER_MISFILLED: Check = Check {
    rule: Rule {
        name: "container-misfilled",
        severity: Severity::Error,
        rfc: "",
        summary: "an option that holds others lacks one that it must hold, or holds one too many",
        why: "Clients pass over the whole of it, and the service that it describes is not used.",
        example: Example::Payload(
            "v6:56",
            "0001001020010db8006400000000000000000123 0001001020010db8006400000000000000000124",
        ),
    },
    find: Find::Value(|one| {
        let Value::Options(inside) = one.value else { return None };
        for (id, codes, least, most, rfc) in CONTENTS.iter().filter(|(id, ..)| one.is(id)) {
            let counted = inside.iter().filter(|option| codes.contains(&option.code)).count();
            if (*least..=*most).contains(&counted) {
                continue;
            }
            let names: Vec<String> = codes.iter().map(|code| named(id, *code)).collect();
            let wanted = match (*least, *most) {
                (0, 0) => "none".to_owned(),
                (least, most) if least == most => format!("{least}"),
                (0, most) => format!("{most} at most"),
                (least, ANY) => format!("{least} at least"),
                (least, most) => format!("{least} to {most}"),
            };
            let message = format!("it holds {counted} of {}, and must hold {wanted}", names.join(" or "));
            return Some(CONTAINER_MISFILLED.rule.finding(message).by(*rfc));
        }
        None
    }),
};

/// How an option inside a container is called; NTP's have codes of their own.
fn named(container: &str, code: u16) -> String {
    let codebook = crate::codebook::Codebook::standard();
    let known = match container {
        "v6:56" => codebook.find(&format!("{container}/{code}")).ok().map(|known| known.name.to_string()),
        _ => codebook.v6(code).map(|known| known.name.to_string()),
    };
    known.unwrap_or_else(|| code.to_string())
}
