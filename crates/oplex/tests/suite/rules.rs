//! The catalogue of rules.

use std::collections::BTreeSet;

use oplex::answer::Audience;
use oplex::check;
use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::family::{Family, Protocol};
use oplex::finding::{About, Example, Finding, Rule, Severity, Sources};
use oplex::layout::Layout;
use oplex::octets::hex;
use oplex::packet::AnyMessage;
use oplex::plan::Plan;
use oplex::specimen::Specimen;

fn findings(example: Example) -> Vec<Finding> {
    match example {
        Example::Plan(text) => check::plan(&Plan::read("plan.toml", text, &mut |_| Err("no such file".into()))),
        Example::PlanAndCodebook(plan, book) => {
            check::plan(&Plan::read("plan.toml", plan, &mut |_| Ok(book.to_owned())))
        }
        Example::Codebook(text) => {
            let mut sources = Sources::default();
            let file = sources.add("book.toml", text);
            Codebook::standard().clone().add(&sources, file)
        }
        Example::Payload(option, octets) => {
            let codebook = Codebook::standard();
            check::payload(codebook, codebook.find(option).unwrap(), &hex::parse(octets).unwrap())
        }
        Example::Message(protocol, text) => {
            let octets = specimen(protocol, text);
            check::message(Codebook::standard(), AnyMessage::read(protocol, &octets).unwrap())
        }
        Example::Exchange(protocol, request, reply) => {
            let octets = [request, reply].map(|text| specimen(protocol, text));
            let [request, reply] = octets.each_ref().map(|octets| AnyMessage::read(protocol, octets).unwrap());
            let codebook = Codebook::standard();
            let alone = [request, reply].into_iter().flat_map(|message| check::message(codebook, message));
            alone.chain(check::exchange(codebook, request, reply)).collect()
        }
        Example::Traffic(plan, messages) => crate::traffic::findings(plan, messages),
    }
}

fn specimen(protocol: Protocol, text: &str) -> Vec<u8> {
    let specimen = Specimen::read(protocol, "message.toml", text, &mut |_| Err("no such file".into()));
    assert_eq!(specimen.findings, [], "{text}");
    specimen.octets.unwrap()
}

#[test]
fn every_rules_example_is_found_by_that_rule_and_no_other() {
    // A wrong value may be an unassigned one as well, which is a note.
    let counts = |finding: &Finding, rule: &Rule| finding.rule.name == rule.name || finding.severity != Severity::Note;
    for rule in check::catalogue() {
        assert!(!rule.examples.is_empty(), "{}", rule.name);
        for example in rule.examples {
            let found = findings(*example).into_iter().filter(|finding| counts(finding, rule));
            let found: BTreeSet<&str> = found.map(|finding| finding.rule.name).collect();
            assert_eq!(found, BTreeSet::from([rule.name]), "{:#?}", findings(*example));
        }
    }
}

#[test]
fn every_finding_in_a_plan_points_at_characters_of_it() {
    for rule in check::catalogue() {
        for example in rule.examples {
            let Example::Plan(text) = example else { continue };
            for finding in findings(*example) {
                let spot = finding.spot.expect(rule.name);
                assert!(text.get(spot.span.clone()).is_some_and(|found| !found.is_empty()), "{}: {spot:?}", rule.name);
            }
        }
    }
}

#[test]
fn rules_are_declared_whole_and_once() {
    let rules = check::catalogue();
    let names: BTreeSet<&str> = rules.iter().map(|rule| rule.name).collect();
    assert_eq!(names.len(), rules.len());
    for Rule { name, summary, why, about, .. } in rules {
        if let About::Atoms(words) = about {
            assert!(words.iter().all(|word| Layout::words().any(|known| known == *word)), "{name}");
        }
        assert!(name.chars().all(|c| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-'), "{name}");
        assert!(!summary.is_empty() && !summary.ends_with('.') && why.ends_with('.'), "{name}");
    }
}

/// The static that declares a rule is called as the rule is.
#[test]
fn rules_are_declared_under_their_names() {
    let mut declared = BTreeSet::new();
    for file in walk(&format!("{}/src", env!("CARGO_MANIFEST_DIR"))) {
        let text = std::fs::read_to_string(&file).unwrap();
        for (item, declaration) in text.lines().filter_map(|line| line.split_once(" static ")?.1.split_once(" = \"")) {
            let name = declaration.split('"').next().unwrap();
            assert_eq!(item.to_lowercase().replace('_', "-"), name, "{file}");
            declared.insert(name.to_owned());
        }
    }
    assert_eq!(declared, check::catalogue().iter().map(|rule| rule.name.to_owned()).collect());
}

pub(crate) fn walk(directory: &str) -> Vec<String> {
    let entries = std::fs::read_dir(directory).unwrap().map(|entry| entry.unwrap().path());
    let mut files = Vec::new();
    for path in entries {
        let path = path.to_str().unwrap();
        match std::fs::metadata(path).unwrap().is_dir() {
            true => files.extend(walk(path)),
            false => files.push(path.to_owned()),
        }
    }
    files
}

/// What a finding offers in place of the marked characters mends it when it stands there.
#[test]
fn exact_replacements_mend_what_they_are_about() {
    let mut tried = 0;
    for rule in check::catalogue() {
        for example in rule.examples {
            let Example::Plan(text) = *example else { continue };
            let found = |text: &str| {
                let loaded = Plan::read("plan.toml", text, &mut |path| Err(path.into()));
                check::plan(&loaded)
            };
            let before = found(text);
            for (finding, replace) in before.iter().filter_map(|one| Some((one, one.replace.as_ref()?))) {
                let mut mended = text.to_owned();
                mended.replace_range(finding.spot.as_ref().unwrap().span.clone(), replace);
                assert!(found(&mended).len() < before.len(), "{}: {replace}\n{mended}{:?}", rule.name, found(&mended));
                tried += 1;
            }
        }
    }
    assert!(tried > 5, "{tried}");
}

/// Messages of every type that a plan's server sends, to clients of no fleet and of each: what `check` passes, `decode` passes.
#[test]
fn messages_of_plans_without_errors_have_none() {
    let mut count = 0;
    let plans = check::catalogue().into_iter().flat_map(|rule| rule.examples).filter_map(|example| match example {
        Example::Plan(text) => Some(*text),
        _ => None,
    });
    let demo = std::fs::read_to_string("../../demo/plan.toml").unwrap();
    for text in plans.chain([demo.as_str()]) {
        let find = |path: &str| {
            std::fs::read_to_string(format!("../../demo/{path}")).map_err(|error| error.to_string().into())
        };
        let loaded = Plan::read("plan.toml", text, &mut { find });
        if check::plan(&loaded).iter().any(|finding| finding.severity == Severity::Error) {
            continue;
        }
        let plan = loaded.plan.unwrap();
        let compiled = Compiled::of(&plan);
        for at in 0..compiled.networks.len() {
            for fleet in std::iter::once(None).chain(compiled.fleets.iter().map(Some)) {
                let audience = Audience { compiled: &compiled, at, fleet, reservation: None };
                for family in Family::ALL.into_iter().filter(|family| audience.network().sides.has(*family)) {
                    for octets in audience.messages(family).unwrap() {
                        count += 1;
                        let message = AnyMessage::read(family.protocol(), &octets).unwrap();
                        let mut found = check::message(&compiled.codebook, message);
                        // Which server sends them is not said in every plan.
                        found.retain(|finding| {
                            finding.severity == Severity::Error && finding.option.as_deref() != Some("v4:54")
                        });
                        assert_eq!(found, [], "{text}\n{message}");
                    }
                }
            }
        }
    }
    assert!(count > 100, "{count}");
}
