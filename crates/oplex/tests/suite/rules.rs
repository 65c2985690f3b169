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

/// What is to be written exactly is exact: in its place the text is still TOML, and the same is not found there again.
#[test]
fn exact_replacements_mend_what_they_are_about() {
    let of_rules = check::catalogue().into_iter().flat_map(|rule| rule.examples);
    let of_rules = of_rules.filter_map(|example| match example {
        Example::Plan(text) => Some((*text).to_owned()),
        _ => None,
    });
    let plain = "subnet = \"10.64.4.0/24\"\npool = \"10.64.4.9-10.64.4.99\"\n";
    let quoted = [
        // In quotes, in other quotes, and without any; keys that need quotes, and those that do not.
        format!("[network.desk]\n{plain}[[reservation]]\nnetwork = \"dseks\"\nmac = \"02:00:5e:00:53:01\"\n"),
        format!("[network.desk]\n{plain}[[reservation]]\nnetwork = 'deks'\nmac = \"02:00:5e:00:53:01\"\n"),
        format!(
            "[network.\"front desk\"]\n{plain}[fleet.a]\nmatch = {{ mac = \"02:*\" }}\n[fleet.a.on.\"front dsek\"]\nlease = \"1h\"\n"
        ),
        format!(
            "[network.\"desk:1\"]\n{plain}[fleet.a]\nmatch = {{ mac = \"02:*\" }}\n[fleet.a.on.desk-1]\nlease = \"1h\"\n"
        ),
        format!("[network.desk]\n{plain}send.v4 = {{ \"routre\" = \"10.64.4.1\", 'dns-servers' = \"10.64.4.2\" }}\n"),
        format!("[network.desk]\n{plain}'subnets' = 1\nsend.v4.netbios-node-type = \"b-nod\"\n"),
        "[network.desk]\nsubnet = '10.64.4.1/24'\npool = ['10.64.4.0/24', \"10.64.4.9-10.64.4.5\"]\n".to_owned(),
    ];
    let read = |text: &str| Plan::read("plan.toml", text, &mut |_| Err("no such file".into()));
    let (mut exact, mut safe) = (0, 0);
    for text in of_rules.chain(quoted) {
        for finding in check::plan(&read(&text)) {
            let (Some(new), Some(spot)) = (&finding.replace, &finding.spot) else { continue };
            let mut mended = text.clone();
            mended.replace_range(spot.span.clone(), new);
            let loaded = read(&mended);
            assert!(loaded.plan.is_some(), "{} is no TOML:\n{mended}", finding.rule.name);
            let same = |other: &Finding| {
                other.spot.as_ref().is_some_and(|other| other.span.start == spot.span.start)
                    && (other.rule.name, &other.message) == (finding.rule.name, &finding.message)
            };
            assert!(!check::plan(&loaded).iter().any(same), "{finding} is found again:\n{mended}");
            (exact, safe) = (exact + 1, safe + usize::from(finding.safe));
        }
    }
    assert!(exact >= 18 && safe >= 4, "{exact} exact replacements, {safe} of them safe");
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
