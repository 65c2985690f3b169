//! `oplex rules`: what is checked, and why.

use std::io::Write;

use oplex::check;
use oplex::family::Protocol;
use oplex::finding::{Example, Rule, Severity};
use oplex::nearest::nearest;

use crate::args::{Format, Rules};
use crate::exit::{DONE, Outcome, because};
use crate::forms::{self, RuleForm};
use crate::render::style::{AID, DIM, STRONG, in_style};
use crate::render::{findings, octets};

pub(super) fn run(args: &Rules, out: &mut dyn Write) -> Outcome {
    let all = check::catalogue();
    let rules: Vec<&Rule> = match &args.name {
        None => all,
        Some(name) => match all.iter().find(|rule| rule.name == *name) {
            Some(rule) => vec![rule],
            None => {
                let near = nearest(name, all.iter().map(|rule| rule.name));
                let near = near.map_or_else(String::new, |near| format!("; did you mean `{near}`?"));
                return because(format!("unknown rule `{name}`{near}\nTo list all rules: oplex rules"));
            }
        },
    };
    match (args.format.format, &rules[..]) {
        (Format::Json, rules) => rules.iter().try_for_each(|rule| {
            forms::document(out, "oplex-rule/1", &RuleForm::new(rule, rule.examples.iter().map(text).collect()))
        })?,
        (Format::Text, [rule]) if args.name.is_some() => whole(out, rule)?,
        (Format::Text, rules) => list(out, rules)?,
    }
    Ok(DONE)
}

fn list(out: &mut dyn Write, rules: &[&Rule]) -> std::io::Result<()> {
    writeln!(out, "{} rules", rules.len())?;
    let width = rules.iter().map(|rule| rule.name.len()).max().unwrap_or(0);
    for severity in [Severity::Error, Severity::Warning, Severity::Note] {
        let some: Vec<&&Rule> = rules.iter().filter(|rule| rule.severity == severity).collect();
        if some.is_empty() {
            continue;
        }
        writeln!(out, "\n{}", findings::in_severity(severity, format!("{severity}s")))?;
        for rule in some {
            writeln!(out, "  {}  {}", in_style(AID, format!("{:<width$}", rule.name)), rule.summary)?;
        }
    }
    writeln!(out, "\n{}", in_style(DIM, "For the reason and an example: oplex rules NAME"))
}

fn whole(out: &mut dyn Write, rule: &Rule) -> std::io::Result<()> {
    writeln!(out, "{}: {}\n", in_style(STRONG, rule.name), rule.summary)?;
    let mut facts = vec![("severity", rule.severity.to_string()), ("why", rule.why.to_owned())];
    if !rule.rfc.is_empty() {
        facts.push(("after", rule.rfc.to_owned()));
    }
    facts.push(("about", rule.about.to_string()));
    octets::facts(out, &facts)?;
    writeln!(out, "\nExample finding:")?;
    for example in rule.examples {
        writeln!(out)?;
        for line in text(example).lines() {
            writeln!(out, "{}", format!("    {line}").trim_end())?;
        }
    }
    Ok(())
}

fn text(example: &Example) -> String {
    match example {
        Example::Plan(text) | Example::Codebook(text) | Example::Message(_, text) => (*text).to_owned(),
        Example::Exchange(_, request, reply) => format!("{request}\n# and the reply:\n{reply}"),
        Example::PlanAndCodebook(plan, book) => format!("{plan}\n# and in the codebook:\n{book}"),
        Example::Payload(option, octets) => format!("oplex decode {option} {octets}"),
        Example::Traffic(plan, messages) => {
            let message = |(second, protocol, text): &(u64, Protocol, &str)| {
                format!("# after {second} s, by {protocol}:\n{text}")
            };
            let plan = Some(*plan).filter(|plan| !plan.is_empty()).map(|plan| format!("# by this plan:\n{plan}"));
            plan.into_iter().chain(messages.iter().map(message)).collect::<Vec<_>>().join("\n")
        }
    }
}
