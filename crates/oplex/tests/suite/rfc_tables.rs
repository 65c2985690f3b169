//! Which options may stand in which messages, held against the tables of the RFCs as they are printed: RFC 2131, tables 3 and 5;
//! RFC 8415, appendix B. Where the text says otherwise, it is cited.

use oplex::check;
use oplex::codebook::Codebook;
use oplex::finding::{Finding, Severity};
use oplex::layout::Input;
use oplex::packet::{AnyMessage, Composer, Message as _, v4, v6};

/// An option's octets, as its own example has them.
fn example(id: &str) -> Vec<u8> {
    let codebook = Codebook::standard();
    let definition = codebook.find(id).unwrap();
    codebook.encode(definition, &Input::from_text(definition.example.as_deref().unwrap())).unwrap().octets
}

/// Whether a message with this option is said to have it where it must not, and whether one without it is said to lack it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Verdict {
    Must,
    May,
    MustNot,
}

fn verdict(with: &[Finding], without: &[Finding], id: &str) -> Verdict {
    let names = |finding: &&Finding| {
        let label = finding.message.strip_prefix(id);
        finding.severity == Severity::Error && label.is_some_and(|rest| rest.starts_with(' '))
    };
    let barred = with.iter().filter(names).any(|finding| finding.rule.name == "option-not-allowed-in-message");
    let lacking = without.iter().filter(names).find(|finding| finding.rule.name == "option-missing-in-message");
    if let Some(finding) = lacking {
        assert_eq!(finding.octets, None, "{finding:?}");
    }
    match (barred, lacking.is_some()) {
        (true, false) => Verdict::MustNot,
        (false, true) => Verdict::Must,
        (false, false) => Verdict::May,
        (true, true) => panic!("{id} is wanted and barred"),
    }
}

fn of_v4(kind: v4::MessageType, reply: bool, options: &[(u16, &[u8])]) -> Vec<Finding> {
    let mac = [2, 0, 0x5e, 0, 0x53, 0x11];
    let header = if reply { v4::Header::from_server(7, mac) } else { v4::Header::from_client(7, mac) };
    // A reply that leases an address, and a client that has none.
    let yiaddr = if reply && kind != v4::MessageType::NAK { [10, 64, 4, 20] } else { [0; 4] };
    let header = v4::Header { yiaddr: yiaddr.into(), ..header };
    let mut composer = Composer::default();
    let composed = composer.compose(&v4::Draft { header, options, ..v4::Draft::new(kind) }).unwrap().octets.to_vec();
    check::message_to_send(Codebook::standard(), v4::Message::read(&composed).unwrap())
}

#[test]
fn rfc_2131_tables_3_and_5() {
    use Verdict::{May, Must, MustNot};
    use v4::MessageType as Kind;
    let types = [
        (Kind::OFFER, true),
        (Kind::ACK, true),
        (Kind::NAK, true),
        (Kind::DISCOVER, false),
        (Kind::INFORM, false),
        (Kind::REQUEST, false),
        (Kind::DECLINE, false),
        (Kind::RELEASE, false),
    ];
    // RFC 6842, section 3 has servers return the identifier of the client, which table 3 does not let them.
    let client_id = [May, May, May, May, May, May, May, May];
    let rows = [
        ("v4:50", [MustNot, MustNot, MustNot, May, MustNot, May, Must, MustNot]),
        ("v4:51", [Must, Must, MustNot, May, MustNot, May, MustNot, MustNot]),
        ("v4:55", [MustNot, MustNot, MustNot, May, May, May, MustNot, MustNot]),
        ("v4:61", client_id),
        ("v4:60", [May, May, May, May, May, May, MustNot, MustNot]),
        // Whether a request has it depends on what it requests, which another rule is about.
        ("v4:54", [Must, Must, Must, MustNot, MustNot, May, Must, Must]),
        ("v4:57", [MustNot, MustNot, MustNot, May, May, May, MustNot, MustNot]),
        // All others.
        ("v4:3", [May, May, MustNot, May, May, May, MustNot, MustNot]),
        ("v4:42", [May, May, MustNot, May, May, May, MustNot, MustNot]),
        ("v4:119", [May, May, MustNot, May, May, May, MustNot, MustNot]),
        ("v4:224", [May, May, MustNot, May, May, May, MustNot, MustNot]),
    ];
    let mut wrong = Vec::new();
    for (id, expected) in rows {
        let code = id[3..].parse().unwrap();
        let octets = if code == 224 { vec![1] } else { example(id) };
        for ((kind, reply), expected) in types.into_iter().zip(expected) {
            let given = verdict(&of_v4(kind, reply, &[(code, &octets)]), &of_v4(kind, reply, &[]), id);
            if given != expected {
                wrong.push(format!("{id} in {kind}: {given:?}, where the table says {expected:?}"));
            }
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
}

fn of_v6(kind: v6::MessageType, options: &[(u16, &[u8])]) -> Vec<Finding> {
    let relay = v6::Relay { hops: 0, link: "2001:db8:64:40::1".parse().unwrap(), peer: "fe80::1".parse().unwrap() };
    let header = if kind.is_relays() { v6::Header::Relay(relay) } else { v6::Header::Transaction(7) };
    let mut composer = Composer::default();
    let composed = composer.compose(&v6::Draft { message_type: kind, header, options }).unwrap().to_vec();
    check::message_to_send(Codebook::standard(), AnyMessage::read(oplex::family::Protocol::V6, &composed).unwrap())
}

/// The columns of the tables of appendix B, by the codes of their options: IA_NA stands for IA_TA as well.
const COLUMNS: [u16; 20] = [1, 2, 3, 25, 6, 7, 8, 9, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 32, 82];

/// Their rows, an asterisk for what is allowed, in the order of the columns; INF_MAX_RT (83) stands in a Reply alone.
const ROWS: [(&str, &str); 13] = [
    //               C S N P O f E R A U c R U V S I M A T X
    ("solicit", "* . * * * . * . . . . * * * * . . * . ."),
    ("advertise", "* * * * . * . . . . . . * * * . . * . *"),
    ("request", "* * * * * . * . . . . . * * * . . * . ."),
    ("confirm", "* . * . . . * . . . . . * * * . . . . ."),
    ("renew", "* * * * * . * . . . . . * * * . . * . ."),
    ("rebind", "* . * * * . * . . . . . * * * . . * . ."),
    ("decline", "* * * * . . * . . . . . * * * . . . . ."),
    ("release", "* * * * . . * . . . . . * * * . . . . ."),
    ("reply", "* * * * . . . . * * * * * * * . . * * *"),
    ("reconfigure", "* * . . . . . . * . . . . . . . * . . ."),
    ("information-request", "* * . . * . * . . . . . * * * . . * . ."),
    ("relay-forward", ". . . . . . . * . . . . . . * * . . . ."),
    ("relay-reply", ". . . . . . . * . . . . . . * * . . . ."),
];

/// Where the text of RFC 8415 and others, which counts over the table, says otherwise.
const OTHERWISE: [(&str, u16, bool, &str); 2] = [
    // "The client MUST NOT include IA_PD options".
    ("decline", 25, false, "RFC 8415, section 18.2.8"),
    // "The DHCP server MAY include the INF_MAX_RT option in any response it sends".
    ("advertise", 83, true, "RFC 8415, section 21.25"),
];

/// "A Status Code option may appear in the 'options' field of a DHCP message", whichever (RFC 8415, section 21.13): the table is
/// not held against it.
const STATUS: u16 = 13;

#[test]
fn rfc_8415_appendix_b() {
    let mut wrong = Vec::new();
    for (name, row) in ROWS {
        let kind = v6::MessageType::named(name).unwrap();
        let allowed: Vec<bool> = row.split(' ').map(|cell| cell == "*").collect();
        assert_eq!(allowed.len(), COLUMNS.len(), "{name}");
        let inf_max_rt = (83, name == "reply");
        for (code, listed) in COLUMNS.into_iter().zip(allowed).chain([inf_max_rt]).filter(|(code, _)| *code != STATUS) {
            let id = format!("v6:{code}");
            let said = OTHERWISE.iter().find(|(of, other, ..)| (*of, *other) == (name, code));
            let expected = said.map_or(listed, |(_, _, allowed, _)| *allowed);
            let octets = if code == 9 { vec![1, 0, 0, 7] } else { example(&id) };
            let given = verdict(&of_v6(kind, &[(code, &octets)]), &of_v6(kind, &[]), &id);
            if (given == Verdict::MustNot) == expected {
                wrong.push(format!("{id} in {name}: {given:?}, where the table says {expected}"));
            }
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
}

/// What every message of a type has, by the RFCs' sections on it; each is missing from a message with nothing in it.
#[test]
fn what_every_message_has() {
    for (name, codes) in [
        ("solicit", &[1, 8][..]),
        ("advertise", &[1, 2]),
        ("request", &[1, 2, 8]),
        ("confirm", &[1, 8]),
        ("renew", &[1, 2, 8]),
        ("rebind", &[1, 8]),
        ("decline", &[1, 2, 8]),
        ("release", &[1, 2, 8]),
        ("reply", &[2]),
        ("reconfigure", &[1, 2, 11, 19]),
        ("information-request", &[6, 8]),
        ("relay-forward", &[9]),
        ("relay-reply", &[9]),
    ] {
        let kind = v6::MessageType::named(name).unwrap();
        let findings = of_v6(kind, &[]);
        for code in codes {
            let label = Codebook::standard().label(oplex::family::Protocol::V6, *code);
            let says = |finding: &Finding| finding.message.starts_with(&label) && finding.message.contains("missing");
            assert!(findings.iter().any(says), "{label} in {name}: {findings:#?}");
        }
    }
}

/// The columns of the table of appendix C that are options, with the octets of each in front of the options inside it, and what
/// may stand there. A Status Code in an IA Address and an IA Prefix is in the text (RFC 8415, sections 21.6 and 21.22).
const CONTAINERS: [(u16, usize, &[u16]); 4] = [(3, 12, &[5, 13]), (5, 24, &[13]), (25, 12, &[26, 13]), (26, 25, &[13])];

#[test]
fn rfc_8415_appendix_c() {
    let codebook = Codebook::standard();
    let mut wrong = Vec::new();
    for (container, front, inside) in CONTAINERS {
        let definition = codebook.find(&format!("v6:{container}")).unwrap();
        let head = example(&format!("v6:{container}"))[..front].to_vec();
        for code in [1, 2, 3, 5, 25, 26, 6, 7, 8, 11, 12, 13, 14, 15, 16, 18, 19, 20, 32, 82, 83] {
            let own = if code == 9 { vec![1, 0, 0, 7] } else { example(&format!("v6:{code}")) };
            let length = u16::try_from(own.len()).unwrap();
            let octets = [&head[..], &u16::to_be_bytes(code), &length.to_be_bytes(), &own].concat();
            let findings = check::payload_to_send(codebook, definition, &octets);
            let misplaced = findings.iter().find(|finding| finding.rule.name == "option-misplaced");
            if misplaced.is_some() == inside.contains(&code) {
                wrong.push(format!("v6:{code} in v6:{container}: {findings:?}"));
            }
            // It is said of the option inside, at its octets.
            if let Some(finding) = misplaced {
                assert_eq!(finding.option.as_deref(), Some(&*format!("v6:{code}")), "{finding:?}");
                assert_eq!(finding.octets, Some(front..octets.len()), "{finding:?}");
            }
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
}
