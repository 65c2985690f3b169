//! The page of all rules.

use oplex::check;
use oplex::family::Protocol;
use oplex::finding::{About, Example, Rule};

pub(crate) fn text() -> String {
    let rules = check::catalogue();
    let mut page = format!(
        "# Rules\n\nAll {} rules, with what they look at. `oplex rules NAME` says the same, and `[check] allow` in a plan \
         silences one\n([plans](plans.md)). This page is generated: `cargo run -p xtask -- generate`.\n",
        rules.len()
    );
    for (title, belongs) in PARTS {
        let of_part: Vec<&&Rule> = rules.iter().filter(|rule| belongs(rule.about)).collect();
        page += &format!("\n## {title}\n\n| rule | severity | about | what it finds |\n|---|---|---|---|\n");
        for rule in &of_part {
            let (name, about, summary) = (rule.name, rule.about.to_string(), rule.summary.replace('|', "\\|"));
            page += &format!("| [`{name}`](#{name}) | {} | {about} | {summary} |\n", rule.severity);
        }
        for rule in of_part {
            let rfc = if rule.rfc.is_empty() { String::new() } else { format!(" After {}.", rule.rfc) };
            page += &format!("\n### {}\n\n{}{rfc}\n", rule.name, rule.why);
            for example in rule.examples {
                page += &format!("\n```text\n{}\n```\n", in_words(*example).trim_end());
            }
        }
    }
    page
}

/// A part of the page: its title, and which rules are in it.
type Part = (&'static str, fn(About) -> bool);

const PARTS: [Part; 7] = [
    ("Files and codebooks", |about| matches!(about, About::File | About::Codebook)),
    ("Options", |about| matches!(about, About::AnyOption | About::Options(_) | About::Atoms(_))),
    ("Plans", |about| matches!(about, About::Plan)),
    ("What a network's clients are sent", |about| matches!(about, About::Answer)),
    ("Messages", |about| matches!(about, About::Message(_))),
    ("Exchanges", |about| matches!(about, About::Exchange)),
    ("Captured traffic", |about| matches!(about, About::Traffic)),
];

fn in_words(example: Example) -> String {
    match example {
        Example::Plan(text) | Example::Codebook(text) | Example::Message(_, text) => text.to_owned(),
        Example::PlanAndCodebook(plan, book) => format!("{plan}\n# and in the codebook:\n{book}"),
        Example::Exchange(_, request, reply) => format!("{request}\n# and the answer:\n{reply}"),
        Example::Payload(option, octets) => format!("oplex decode {option} {octets}"),
        Example::Traffic(plan, messages) => {
            let message =
                |(second, protocol, text): &(u64, Protocol, &str)| format!("# after {second} s, {protocol}:\n{text}");
            let messages = messages.iter().map(message);
            let plan = Some(plan).filter(|plan| !plan.is_empty()).map(|plan| format!("# by this plan:\n{plan}"));
            plan.into_iter().chain(messages).collect::<Vec<_>>().join("\n")
        }
    }
}
