//! Payloads and messages with the verdict that the text of the RFCs gives them.

use oplex::check;
use oplex::codebook::{Codebook, Definition};
use oplex::family::Protocol;
use oplex::finding::{Finding, Severity};
use oplex::layout::Input;
use oplex::octets::hex;
use oplex::packet::AnyMessage;
use oplex::plan::Plan;

/// A line of the tables.
struct Case {
    subject: &'static str,
    request: Vec<u8>,
    octets: Vec<u8>,
    verdict: &'static str,
    meaning: &'static str,
}

fn cases() -> impl Iterator<Item = Case> {
    let tables = [include_str!("../data/vectors-v4.tsv"), include_str!("../data/vectors-v6.tsv")];
    tables.into_iter().flat_map(|table| table.lines().skip(1)).filter_map(|line| {
        let [subject, request, octets, verdict, meaning, _] = line.split('\t').collect::<Vec<_>>()[..] else {
            panic!("{line}")
        };
        // Some cases are digits that are no octets.
        let (Ok(request), Ok(octets)) = (hex::parse(request), hex::parse(octets)) else {
            assert_eq!(verdict, "invalid", "{line}");
            return None;
        };
        Some(Case { subject, request, octets, verdict, meaning })
    })
}

/// Cases that Oplex sees otherwise, and why.
const OTHERWISE: [(&str, &str); 3] = [
    // RFC 4243, section 3: the figure and the text have a length octet for the data of each enterprise; the minimum of 4 that
    // the text gives too counts an enterprise without one.
    ("v4:82/9", "00007ed9"),
    // RFC 6757, to which RFC 7839 refers, was not at hand; RFC 7839 writes the realm as text.
    ("v4:82/18", "076578616d706c6503636f6d00"),
    // RFC 2131, section 2: the DHCPv4 message inside is a DHCPDISCOVER with the op of a reply.
    ("v6", "15000000005a0010"),
];

fn is_otherwise(case: &Case) -> bool {
    let octets = hex::plain(&case.octets);
    OTHERWISE.iter().any(|(subject, part)| case.subject == *subject && octets.contains(part))
}

fn definition(subject: &str) -> Option<&'static Definition> {
    Codebook::standard().find(subject).ok().map(|known| &**known)
}

/// What is found when the case is read; `None` where no codebook has the option.
fn found(case: &Case) -> Option<Vec<Finding>> {
    let codebook = Codebook::standard();
    let Some(protocol) = Protocol::ALL.into_iter().find(|protocol| protocol.name() == case.subject) else {
        return Some(check::payload(codebook, definition(case.subject)?, &case.octets));
    };
    let Ok(message) = AnyMessage::read(protocol, &case.octets) else {
        assert_eq!(case.verdict, "invalid", "{}", case.meaning);
        return None;
    };
    let mut found = check::message(codebook, message);
    if !case.request.is_empty() {
        found.extend(check::exchange(codebook, AnyMessage::read(protocol, &case.request).unwrap(), message));
    }
    Some(found)
}

#[test]
fn every_case_gets_its_verdict() {
    let mut count = 0;
    let mut wrong = Vec::new();
    for case in cases().filter(|case| case.verdict != "disputed" && !is_otherwise(case)) {
        let Some(found) = found(&case) else { continue };
        count += 1;
        let worst = found.iter().map(|finding| finding.severity).max();
        let right = match case.verdict {
            "invalid" => worst >= Some(Severity::Warning),
            "valid" => worst <= Some(Severity::Note),
            "tolerated" => worst < Some(Severity::Error),
            "odd" => worst.is_some(),
            other => panic!("{other}"),
        };
        if !right {
            let found: Vec<String> = found.iter().map(ToString::to_string).collect();
            wrong.push(format!("{} {} {} {found:?}", case.subject, hex::plain(&case.octets), case.meaning));
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
    assert!(count > 1900, "{count}");
}

#[test]
fn valid_payloads_survive_their_values() {
    let codebook = Codebook::standard();
    let valid = cases().filter(|case| case.verdict == "valid" && !is_otherwise(case));
    for case in valid {
        let Some(definition) = definition(case.subject) else { continue };
        let (value, faults) = codebook.decode(definition, &case.octets);
        assert_eq!(faults, [], "{} {}", case.subject, case.meaning);
        let value = value.unwrap();
        let again = codebook.encode_value(definition, &value);
        // Names have several forms with pointers, and routes of a router more octets than they need; Oplex writes one form.
        if definition.layout_text.contains("-names") || case.subject == "ra:24" {
            assert_eq!(
                codebook.decode(definition, &again.unwrap()).0,
                Some(value),
                "{} {}",
                case.subject,
                case.meaning
            );
            continue;
        }
        assert_eq!(again.as_deref(), Ok(&case.octets[..]), "{} {}", case.subject, case.meaning);
    }
}

/// What a person or program is shown of a payload, written back, is the payload; reserved bits and unassigned numbers
/// included.
#[test]
fn payloads_survive_json_and_text() {
    let codebook = Codebook::standard();
    let mut lost = Vec::new();
    for case in cases().filter(|case| matches!(case.verdict, "valid" | "tolerated") && !is_otherwise(case)) {
        let Some(definition) = definition(case.subject) else { continue };
        let layout = codebook.layout(definition);
        let Some(value) = codebook.decode(definition, &case.octets).0 else { continue };
        let json: Input = serde_json::from_str(&serde_json::to_string(&value).unwrap()).unwrap();
        for written in [json, Input::from_text(&value.to_string())] {
            let again = layout.read(codebook, &written).map(|read| read.value);
            if again.as_ref().ok() != Some(&value) {
                lost.push(format!("{} {} {value}: {again:?}", case.subject, hex::plain(&case.octets)));
            }
        }
        let octets = layout.encode(codebook, &value).map(|encoded| encoded.octets);
        // Not kept: the NUL behind a text, which receivers take off (RFC 2132, section 2), pointers in names, and octets of a
        // route's prefix that its length does not need.
        let nul = case.octets.strip_suffix(&[0]).is_some_and(|text| octets.as_deref() == Ok(text));
        let other_form = nul || definition.layout_text.contains("-names") || case.subject == "ra:24";
        if octets.as_ref().ok() != Some(&case.octets) && !other_form {
            lost.push(format!("{} {} {value}: {octets:02x?}", case.subject, hex::plain(&case.octets)));
        }
    }
    assert!(lost.is_empty(), "{} lost: {lost:#?}", lost.len());
}

#[test]
fn nothing_invalid_is_published() {
    let mut count = 0;
    let mut passed = Vec::new();
    for case in cases().filter(|case| case.verdict == "invalid" && !case.subject.contains('/')) {
        let Some(option) = definition(case.subject).filter(|option| !option.automatic) else { continue };
        let (family, network) = match case.subject.split(':').next() {
            Some("v4") => ("v4", "subnet = \"10.64.4.0/23\""),
            Some("v6") if option.within.is_empty() || option.within.contains(&0) => {
                ("v6", "prefix = \"2001:db8:64:40::/64\"")
            }
            _ => continue,
        };
        count += 1;
        let octets = hex::plain(&case.octets);
        let text = format!(
            "[network.a]\n{network}\n[network.a.send.{family}]\n\"{}\" = {{ hex = \"{octets}\" }}\n",
            case.subject
        );
        let loaded = Plan::read("plan.toml", &text, &mut |_| Err("no such file".into()));
        let errors = check::plan(&loaded).into_iter().filter(|finding| finding.severity == Severity::Error);
        if errors.count() == 0 {
            passed.push(format!("{} {octets} {}", case.subject, case.meaning));
        }
    }
    assert_eq!(passed, [""; 0]);
    assert!(count > 300, "{count}");
}

/// What stands in front of the options in a container: its other fields, as its example has them.
fn header(container: &Definition) -> Vec<u8> {
    let codebook = Codebook::standard();
    let example = container.example.as_deref().unwrap_or_default();
    let octets =
        codebook.encode(container, &Input::from_text(example)).map(|payload| payload.octets).unwrap_or_default();
    let options = codebook.read(container, &octets).options;
    octets[..options.first().map_or(octets.len(), |first| first.around.start)].to_vec()
}

/// The options that this one may stand in.
fn containers(option: &Definition) -> Vec<&'static Definition> {
    let codebook = Codebook::standard();
    let outer = option.id().outer().and_then(|outer| codebook.get(&outer)).map(|outer| &**outer);
    let within = option.within.iter().filter(|code| **code != 0).filter_map(|code| codebook.own(Protocol::V6, *code));
    // A relay agent's message is looked at as a message, and an encrypted DNS server has a length around all of it.
    let plain = |outer: &&Definition| outer.code != 9 && !outer.layout_text.starts_with("len16(");
    within.chain(outer).filter(|outer| codebook.layout(outer).holds_options()).filter(plain).collect()
}

#[test]
fn an_option_is_held_to_the_same_in_every_container() {
    let codebook = Codebook::standard();
    let (mut count, mut lost) = (0, Vec::new());
    for case in cases() {
        let Some(option) = definition(case.subject) else { continue };
        let alone = check::payload(codebook, option, &case.octets);
        // A sub-option of DHCPv4 has no more room.
        if option.book() == "v4" && case.octets.len() > 255 {
            continue;
        }
        for container in containers(option) {
            let inside = [header(container), codebook.framed(option, &case.octets)].concat();
            let inside = check::payload(codebook, container, &inside);
            let here = |finding: &Finding| finding.option.as_deref() == Some(option.id().to_string().as_str());
            for finding in alone.iter().filter(|finding| here(finding)) {
                count += 1;
                // Who looks at a code alone wants to know what it is.
                let same = |other: &Finding| {
                    here(other) && other.rule.name == finding.rule.name && other.severity == finding.severity
                };
                if finding.rule.name != "option-undefined" && !inside.iter().any(same) {
                    let found: Vec<String> = inside.iter().map(ToString::to_string).collect();
                    let octets = hex::plain(&case.octets);
                    lost.push(format!("{} {octets} in {}: {finding} {found:?}", case.subject, container.label()));
                }
            }
        }
    }
    assert!(lost.is_empty(), "{} of {count} lost: {lost:#?}", lost.len());
    assert!(count > 100, "{count}");
}
