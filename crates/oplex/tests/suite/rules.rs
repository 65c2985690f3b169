//! The catalogue of rules.

use std::collections::BTreeSet;

use oplex::check;
use oplex::codebook::Codebook;
use oplex::finding::{Example, Finding, Rule, Sources};
use oplex::octets::hex;
use oplex::packet::v4::Message;
use oplex::packet::{ra, v6};
use oplex::plan::Plan;
use oplex::specimen::Specimen;

fn findings(example: Example) -> Vec<Finding> {
    match example {
        Example::Plan(text) => check::plan(&Plan::read("plan.toml", text, &mut |_| Err("no such file".to_owned()))),
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
        Example::Message(text) => {
            let octets = specimen(text);
            check::message(Codebook::standard(), Message::read(&octets).unwrap())
        }
        Example::MessageV6(text) => {
            let specimen = Specimen::read_v6("message.toml", text, &mut |_| Err("no such file".to_owned()));
            assert_eq!(specimen.findings, [], "{text}");
            check::message_v6(Codebook::standard(), v6::Message::read(&specimen.octets.unwrap()).unwrap())
        }
        Example::Advertisement(text) => {
            let specimen = Specimen::read_ra("message.toml", text, &mut |_| Err("no such file".to_owned()));
            assert_eq!(specimen.findings, [], "{text}");
            check::advertisement(Codebook::standard(), ra::Message::read(&specimen.octets.unwrap()).unwrap())
        }
        Example::Exchange(request, reply) => {
            let (request, reply) = (specimen(request), specimen(reply));
            let (request, reply) = (Message::read(&request).unwrap(), Message::read(&reply).unwrap());
            let codebook = Codebook::standard();
            let alone = [request, reply].into_iter().flat_map(|message| check::message(codebook, message));
            alone.chain(check::exchange(codebook, request, reply)).collect()
        }
    }
}

fn specimen(text: &str) -> Vec<u8> {
    let specimen = Specimen::read("message.toml", text, &mut |_| Err("no such file".to_owned()));
    assert_eq!(specimen.findings, [], "{text}");
    specimen.octets.unwrap()
}

#[test]
fn every_rules_example_is_found_by_that_rule_and_no_other() {
    for rule in check::catalogue() {
        let found: BTreeSet<&str> = findings(rule.example).iter().map(|finding| finding.rule.name).collect();
        assert_eq!(found, BTreeSet::from([rule.name]), "{:#?}", findings(rule.example));
    }
}

#[test]
fn every_finding_in_a_plan_points_at_characters_of_it() {
    for rule in check::catalogue() {
        let Example::Plan(text) = rule.example else { continue };
        for finding in findings(rule.example) {
            let spot = finding.spot.expect(rule.name);
            assert!(text.get(spot.span.clone()).is_some_and(|found| !found.is_empty()), "{}: {spot:?}", rule.name);
        }
    }
}

#[test]
fn rules_are_declared_whole_and_once() {
    let rules = check::catalogue();
    let names: BTreeSet<&str> = rules.iter().map(|rule| rule.name).collect();
    assert_eq!(names.len(), rules.len());
    for Rule { name, summary, why, .. } in rules {
        assert!(name.chars().all(|c| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-'), "{name}");
        assert!(!summary.is_empty() && !summary.ends_with('.') && why.ends_with('.'), "{name}");
    }
}
