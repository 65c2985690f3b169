//! Codebook files: what is read out of them, and what is wrong with them and where.

use oplex::codebook::{Carrier, Codebook, Definition, OptionToSend, Sender, Status};
use oplex::family::{Family, Protocol};
use oplex::finding::Sources;
use oplex::layout::{Input, Layout};
use oplex::packet::AnyMessage;
use oplex::specimen::Specimen;

use crate::marked::{finds, in_codebook};

const TERN: &str = r#"
book = "tern"
title = "Tern intercoms"
enterprise = 32473
carriers = ["v4:43", "v4:125"]

[enumeration.tern-ring]
values = { silent = 0, bell = 1 }

[flags.tern-keys]
bits = { hold = 1, mute = 4 }
open = true

[[option]]
code = 1
name = "ring"
title = "Ring Tone"
layout = "u8 of tern-ring"
summary = "How it rings."
reference = "Tern D2 manual, page 12"
aliases = ["bell"]
words = ["phone"]
example = "bell"

[[option]]
code = 2
name = "keys"
layout = "u8 flags tern-keys"
status = "deprecated"
replaced-by = "tern:9"
sent-by = "both"
single = true
rfc = 2132
section = "8.4"

[[option]]
codes = "240-241"
carrier = "v4"
name = "slot"
layout = "text"
rfc = [2132, 3942]
"#;

fn with(text: &str) -> Codebook {
    let mut sources = Sources::default();
    let file = sources.add("book.toml", text);
    let mut codebook = Codebook::standard().clone();
    assert_eq!(codebook.add(&sources, file), []);
    codebook
}

/// A book around one option's lines.
fn book(option: &str) -> String {
    format!("book = \"tern\"\ncarriers = [\"v4:43\"]\n[[option]]\n{option}\n")
}

#[track_caller]
fn refused(text: &str, rule: &str, message: &str) {
    finds(in_codebook, text, rule, message);
}

#[track_caller]
fn option_refused(option: &str, rule: &str, message: &str) {
    refused(&book(option), rule, message);
}

#[test]
fn everything_a_book_says_is_kept() {
    let codebook = with(TERN);
    let ring = codebook.find("tern:ring").unwrap();
    assert_eq!((ring.id().to_string().as_str(), ring.book(), ring.code), ("tern:1", "tern", 1));
    assert_eq!(
        (&*ring.title, &*ring.summary, &*ring.reference),
        ("Ring Tone", "How it rings.", "Tern D2 manual, page 12")
    );
    assert!(ring.is_called("bell") && !ring.is_own_of(Protocol::V4));
    let vendor = |code, enterprise| Carrier::Vendor { family: Family::V4, code, enterprise };
    assert_eq!(ring.carriers, [vendor(43, None), vendor(125, Some(32473))]);
    let keys = codebook.find("tern:2").unwrap();
    assert_eq!((keys.status, keys.sent_by, keys.single), (Status::Deprecated, Sender::Both, true));
    assert_eq!((keys.replaced_by.as_deref(), &*keys.reference), (Some("tern:9"), "RFC 2132, section 8.4"));
    let slots: Vec<String> = ["tern:240", "tern:slot-241"].map(|id| codebook.find(id).unwrap().label()).into();
    assert_eq!(slots, ["tern:240 slot-240", "tern:241 slot-241"]);
    // An option among DHCPv4's own is found by its code there, too.
    assert_eq!(codebook.own(Protocol::V4, 240).unwrap().label(), "tern:240 slot-240");
    assert_eq!(codebook.find("v4:240").unwrap().label(), "tern:240 slot-240");
    assert_eq!(&*codebook.find("v4:242").unwrap().name, "site-specific-242");
}

#[test]
fn enumerations_and_flags_of_a_book_can_be_used_in_its_layouts() {
    let codebook = with(TERN);
    let octets = |id: &str, text: &str| {
        codebook
            .encode(codebook.find(id).unwrap(), &Input::from_text(text))
            .map(|payload| (payload.octets, payload.faults.len()))
    };
    assert_eq!(octets("tern:ring", "bell"), Ok((vec![1], 0)));
    assert_eq!(octets("tern:ring", "7"), Ok((vec![7], 1)));
    assert_eq!(octets("tern:keys", "hold+mute"), Ok((vec![5], 0)));
    assert_eq!(octets("tern:keys", "2"), Ok((vec![2], 0)), "an open set of flags may have others");
}

#[test]
fn a_vendors_options_are_read_where_they_travel() {
    let codebook = with(TERN);
    let in_125 = codebook.find("v4:125").unwrap();
    let (value, faults) = codebook.decode(in_125, &[0, 0, 0x7e, 0xd9, 6, 1, 1, 1, 2, 1, 5]);
    assert_eq!(
        (value.unwrap().to_string().as_str(), faults.len()),
        ("{ enterprise = 32473, data = { ring = bell, keys = hold+mute } }", 0)
    );
    // Another enterprise's stay octets; and in 125 the codes 0 and 255 are ordinary.
    let (value, faults) = codebook.decode(in_125, &[0, 0, 0, 9, 5, 0, 1, 7, 255, 0]);
    assert_eq!(
        (value.unwrap().to_string().as_str(), faults.len()),
        ("{ enterprise = 9, data = { 0 = 07, 255 = \"\" } }", 0)
    );
    // Option 43 does not say whose it is; a layout of that book's options does, and there 0 pads and 255 ends.
    let (book, by_tern) = codebook.by_vendor(codebook.find("v4:43").unwrap(), None).unwrap();
    let (value, faults) = codebook.decode(&by_tern, &[0, 1, 1, 0, 255, 9, 9]);
    assert_eq!((book, value.unwrap().to_string().as_str(), faults.len()), ("tern", "{ ring = silent }", 0));
    assert!(Codebook::standard().by_vendor(codebook.find("v4:43").unwrap(), None).is_none());
}

#[test]
fn what_carries_a_vendors_options_is_built_around_them() {
    let vendor = |code, enterprise| Carrier::Vendor { family: Family::V4, code, enterprise };
    let options: [(u16, &[u8]); 2] = [(1, &[1]), (2, &[5])];
    assert_eq!(Codebook::encapsulate(vendor(43, None), &options), [1, 1, 1, 2, 1, 5]);
    assert_eq!(Codebook::encapsulate(vendor(125, Some(32473)), &options), [0, 0, 0x7e, 0xd9, 6, 1, 1, 1, 2, 1, 5]);
    assert_eq!(Codebook::encapsulate(vendor(124, Some(32473)), &[(1, &[2, 64, 32])]), [0, 0, 0x7e, 0xd9, 3, 2, 64, 32]);
    // What is longer than a block of 255 octets goes on in the next, whole options at a time.
    let long = [7; 200];
    let octets = Codebook::encapsulate(vendor(125, Some(32473)), &[(1, &long), (2, &long)]);
    assert_eq!(octets.len(), 2 * (4 + 1 + 2 + 200));
    assert_eq!((octets[4], octets[207 + 4]), (202, 202));
}

#[test]
fn relay_sub_options_of_a_book_stand_among_the_relays() {
    let mut sources = Sources::default();
    let text = "book = \"hill\"\ncarriers = [\"v4:82\"]\n[[option]]\ncode = 200\nname = \"mast\"\nlayout = \"text\"\nreference = \"none\"\n";
    let file = sources.add("hill.toml", text);
    let mut codebook = Codebook::standard().clone();
    let findings = codebook.add(&sources, file);
    assert_eq!(findings.iter().map(|finding| finding.rule.name).collect::<Vec<_>>(), ["code-outside-private-range"]);
    assert_eq!(codebook.find("hill:mast").unwrap().sent_by, Sender::Relay);
    let (value, _) = codebook.decode(codebook.find("v4:82").unwrap(), b"\xc8\x04west");
    assert_eq!(value.unwrap().to_string(), "{ mast = west }");
}

#[test]
fn books_must_have_a_name_of_their_own() {
    refused("book = «\"v4\"»\n", "book-name-taken", "another codebook is already named `v4`");
    refused("book = «7»\n", "value-wrong-kind", "`book` is text in quotes, not a number");
    refused("book = \"tern\"\n«boook» = 1\n", "unknown-key", "unknown key `boook` in a codebook");
    let mut codebook = with(TERN);
    let mut sources = Sources::default();
    let file = sources.add("again.toml", TERN);
    assert_eq!(codebook.add(&sources, file)[0].rule.name, "book-name-taken");
}

#[test]
fn carriers_must_be_able_to_carry() {
    refused(
        "book = \"tern\"\ncarriers = [«\"v4:44\"»]\n",
        "value-wrong-kind",
        "nothing travels in `v4:44`; v4, v4:43, v4:82, v4:124, v4:125, v6 and v6:17 carry options",
    );
    refused(
        "book = \"tern\"\ncarriers = [«\"v4:125\"»]\n",
        "value-wrong-kind",
        "v4:125 needs the vendor's number; add `enterprise`",
    );
    refused(
        "book = \"tern\"\nenterprise = «4294967296»\n",
        "value-wrong-kind",
        "`enterprise` is 4294967296, outside 0 to 4294967295",
    );
}

#[test]
fn options_must_say_what_they_are() {
    let rest = "name = \"ring\"\nlayout = \"u8\"\nreference = \"none\"";
    finds(in_codebook, &book(rest).replace("[[option]]", "«[[option]]»"), "key-missing", "key `code` is missing");
    finds(
        in_codebook,
        &book("code = 1\nlayout = \"u8\"\nreference = \"none\"").replace("[[option]]", "«[[option]]»"),
        "key-missing",
        "key `name` is missing",
    );
    finds(
        in_codebook,
        &book("code = 1\nname = \"ring\"\nreference = \"none\"").replace("[[option]]", "«[[option]]»"),
        "key-missing",
        "key `layout` is missing",
    );
    option_refused(&format!("code = «70000»\n{rest}"), "value-wrong-kind", "`code` is 70000, outside 0 to 65535");
    option_refused(
        &format!("codes = «\"9-3\"»\n{rest}"),
        "value-wrong-kind",
        "`9-3` is not a range of up to 256 codes; write \"224-254\"",
    );
    option_refused(&format!("code = 1\n«lenght» = 3\n{rest}"), "unknown-key", "unknown key `lenght` in an option");
    option_refused(
        &format!("code = 1\nsent-by = «\"servers\"»\n{rest}"),
        "value-wrong-kind",
        "`servers` is not one of server, client, both, relay, router, none; did you mean `server`?",
    );
    option_refused(
        &format!("code = 1\nstatus = «\"old\"»\n{rest}"),
        "value-wrong-kind",
        "`old` is not one of current, deprecated, obsolete, removed, unassigned, tentative, undocumented",
    );
    option_refused(
        &format!("code = 1\nsingle = «1»\n{rest}"),
        "value-wrong-kind",
        "`single` is `true` or `false`, not a number",
    );
    option_refused(&format!("code = 1\nchapter = «\"roof\"»\n{rest}"), "value-wrong-kind", "unknown chapter `roof`");
    option_refused(
        &format!("code = 1\nrfc = «[\"2132\"]»\n{rest}"),
        "value-wrong-kind",
        "`rfc` holds the numbers of RFCs",
    );
}

#[test]
fn codes_and_names_must_be_given_once() {
    let second = |code: &str, name: &str| {
        book(&format!(
            "code = 1\nname = \"ring\"\nlayout = \"u8\"\nreference = \"none\"\n[[option]]\ncode = {code}\nname = {name}\n\
             layout = \"u8\"\nreference = \"none\""
        ))
    };
    refused(&second("«1»", "\"tone\""), "code-repeated", "code 1 is already taken by `ring`");
    refused(&second("2", "«\"ring\"»"), "code-repeated", "name `ring` is already taken");
}

#[test]
fn codes_must_be_a_sites_to_give() {
    let at_top =
        |code: &str| format!("code = {code}\ncarrier = \"v4\"\nname = \"ring\"\nlayout = \"u8\"\nreference = \"none\"");
    option_refused(&at_top("«6»"), "code-already-assigned", "code 6 is domain-server (RFC 2132, section 3.8)");
    option_refused(&at_top("«175»"), "code-already-assigned", "code 175 is tentative-175 (RFC 3942, section 4)");
    option_refused(&at_top("«200»"), "code-outside-private-range", "code 200 is not for sites");
    option_refused(&at_top("«300»"), "code-outside-private-range", "code 300 is not for sites");
    assert_eq!(in_codebook(&book(&at_top("254"))), []);
    let inside = |code: &str| format!("code = {code}\nname = \"ring\"\nlayout = \"u8\"\nreference = \"none\"");
    option_refused(&inside("«0»"), "code-not-possible", "the code 0 is pad or end inside option 43");
    option_refused(&inside("«255»"), "code-not-possible", "the code 255 is pad or end inside option 43");
    option_refused(&inside("«256»"), "code-not-possible", "the code 256 does not fit in one octet");
    // RFC 3925, section 4: in 125 they are codes like any other.
    let in_125 = book(&inside("255")).replace("carriers = [\"v4:43\"]", "enterprise = 32473\ncarriers = [\"v4:125\"]");
    assert_eq!(in_codebook(&in_125), []);
}

#[test]
fn layouts_are_marked_at_the_very_characters() {
    let with_layout = |layout: &str| format!("code = 1\nname = \"ring\"\nlayout = {layout}\nreference = \"none\"");
    option_refused(&with_layout("\"{ a: «ip4» }\""), "layout-malformed", "unknown layout `ip4`; did you mean `ipv4`?");
    option_refused(&with_layout("\"u8 of «colours»\""), "layout-malformed", "unknown enumeration `colours`");
    option_refused(
        &with_layout("\"options(«relay»)\""),
        "layout-malformed",
        "unknown chapter `relay`; did you mean `relay-agent`?",
    );
    option_refused(
        &with_layout("«\"{ a: text, b: u8 }\"»"),
        "layout-ambiguous",
        "`a` takes all octets that are left, so `b` never gets any; put it last or give it a length",
    );
    option_refused(&with_layout("«\"text*\"»"), "layout-allows-empty", "`ring` may be empty");
    assert_eq!(in_codebook(&book(&with_layout("\"empty\""))), []);
    option_refused(
        &with_layout("«\"{ a: u8, b: by a { 0 => u8, else => u16 } }\"»"),
        "layout-depends-on-field",
        "the form of `ring` depends on one of its own fields",
    );
}

#[test]
fn examples_must_be_values_and_text_must_not_hide_a_form() {
    let with_example = |layout: &str, example: &str| {
        format!("code = 1\nname = \"ring\"\nlayout = {layout}\nexample = {example}\nreference = \"none\"")
    };
    option_refused(
        &with_example("\"ipv4\"", "«\"10.64.0\"»"),
        "example-does-not-fit",
        "the example does not fit the layout: `10.64.0` is not an IPv4 address: it has 3 of 4 numbers",
    );
    option_refused(
        &with_example("\"u8 in 1..\"", "«\"0\"»"),
        "example-does-not-fit",
        "the example does not fit the layout: 0 is out of range; it must be 1 or more",
    );
    for (example, form) in [("10.64.0.70", "ipv4"), ("2001:db8::1", "ipv6"), ("https://a.example/b", "uri")] {
        let text = book(&with_example("«\"text\"»", &format!("\"{example}\"")));
        finds(
            in_codebook,
            &text,
            "text-has-better-layout",
            &format!("`ring` is text, but {example} has a binary form of its own"),
        );
        let finding = in_codebook(&text.replace(['«', '»'], "")).remove(0);
        assert_eq!(finding.remedy(), Some(form));
    }
    assert_eq!(in_codebook(&book(&with_example("\"text\"", "\"bell:loud\""))), []);
}

#[test]
fn a_reference_is_missed() {
    option_refused("code = 1\nname = «\"ring\"»\nlayout = \"u8\"", "reference-missing", "`ring` has no reference");
    assert_eq!(in_codebook(&book("code = 1\nname = \"ring\"\nlayout = \"u8\"\nrfc = 2132")), []);
}

/// A range stands for as many definitions as it has codes, so it has a limit.
#[test]
fn a_range_of_codes_is_not_endless() {
    let option = |codes: &str| format!("codes = {codes}\nname = \"slot\"\nlayout = \"u8\"\nreference = \"none\"");
    option_refused(
        &option("«\"0-65535\"»"),
        "value-wrong-kind",
        "`0-65535` is not a range of up to 256 codes; write \"224-254\"",
    );
    assert_eq!(in_codebook(&book(&option("\"1-254\""))), []);
}

/// RFC 8415, section 21.17: an option 17 for each enterprise, with codes and lengths of two octets.
#[test]
fn vendors_options_go_into_one_option_17_for_each_enterprise() {
    let mut sources = Sources::default();
    let mut codebook = Codebook::standard().clone();
    for (name, enterprise) in [("tern", 32473), ("gannet", 9)] {
        let option = |code: u16, name: &str| {
            format!("[[option]]\ncode = {code}\nname = \"{name}\"\nlayout = \"bytes*\"\nreference = \"its manual\"\n")
        };
        let text = format!(
            "book = \"{name}\"\nenterprise = {enterprise}\ncarriers = [\"v6:17\"]\n{}{}",
            option(1, "led"),
            option(300, "far")
        );
        let file = sources.add(name, text);
        let findings = codebook.add(&sources, file);
        assert!(findings.iter().all(|finding| finding.severity < oplex::finding::Severity::Error), "{findings:#?}");
    }
    let option = |name: &str| &**codebook.find(name).unwrap();
    let assembled = oplex::codebook::assemble(
        Family::V6,
        [
            OptionToSend::new(Family::V6, option("tern:led"), &[7], 'a'),
            OptionToSend::new(Family::V6, option("gannet:led"), &[], 'b'),
            OptionToSend::new(Family::V6, option("v6:7"), &[255], 'c'),
            OptionToSend::new(Family::V6, option("tern:far"), &[1, 2], 'd'),
            // What travels in the other family is left out.
            OptionToSend::new(Family::V6, option("v4:router"), [10, 64, 4, 1], 'e'),
        ],
    );
    let whole: Vec<_> = assembled
        .iter()
        .map(|option| (option.code, &option.octets[..], option.from.iter().collect::<String>()))
        .collect();
    assert_eq!(
        whole,
        [
            (7, &[255][..], "c".to_owned()),
            (17, &[0, 0, 0x7e, 0xd9, 0, 1, 0, 1, 7, 1, 44, 0, 2, 1, 2], "ad".to_owned()),
            (17, &[0, 0, 0, 9, 0, 1, 0, 0], "b".to_owned()),
        ]
    );
    refused(
        "book = \"hill\"\ncarriers = [«\"v6:17\"»]\n",
        "value-wrong-kind",
        "v6:17 needs the vendor's number; add `enterprise`",
    );
}

/// One definition may be an option of both families; what the registry has given away cannot be taken.
#[test]
fn an_option_may_stand_in_both_families() {
    let mut sources = Sources::default();
    let mut codebook = Codebook::standard().clone();
    let option = "[[option]]\ncode = 250\nname = \"slope\"\nlayout = \"u8 in 1..\"\nreference = \"the hill's notes\"\n";
    let file = sources.add("hill.toml", format!("book = \"hill\"\ncarriers = [\"v4\", \"v6\"]\n{option}"));
    assert_eq!(codebook.add(&sources, file), []);
    let slope = codebook.find("hill:slope").unwrap();
    assert!(
        slope.is_own_of(Protocol::V6)
            && slope.is_own_of(Protocol::V4)
            && slope.travels_in(Protocol::V4)
            && slope.travels_in(Protocol::V6)
    );
    assert_eq!(codebook.own(Protocol::V6, 250).map(|option| option.id().to_string()), Some("hill:250".to_owned()));
    let assembled = oplex::codebook::assemble(Family::V6, [OptionToSend::new(Family::V6, slope, &[3], ())]);
    assert_eq!((assembled[0].code, &assembled[0].octets[..]), (250, &[3][..]));

    let only =
        |code: u16| format!("book = \"hill\"\ncarriers = [\"v6\"]\n{}", option.replace("250", &code.to_string()));
    let found = in_codebook(&only(40_000));
    let said: Vec<_> = found.iter().map(|one| (one.rule.name, one.severity)).collect();
    assert_eq!(said, [("code-outside-private-range", oplex::finding::Severity::Warning)]);
    let found = in_codebook(&only(23));
    let said: Vec<_> = found.iter().map(|one| (one.rule.name, one.message.as_str())).collect();
    assert_eq!(said, [("code-already-assigned", "code 23 is dns-servers (RFC 3646, section 3)")]);
}

/// What a book says of its options in messages holds as what the standard books say of theirs.
#[test]
fn a_book_says_where_its_options_may_stand() {
    let book = "book = \"hill\"\ntitle = \"Hill\"\ncarriers = [\"v4\", \"v6\"]\n[[option]]\ncode = 225\nname = \"door\"\nlayout = \"u8\"\n\
        reference = \"notes\"\nrequestable = false\nmessages = [{ barred = [\"DHCPINFORM\"], reference = \"notes, page 2\" }, \
        { discouraged = [\"DHCPDECLINE\"] }, { required = [\"Rebind\", \"DHCPRELEASE\"] }]\n\
        [[option]]\ncode = 226\nname = \"key\"\nlayout = \"text\"\nreference = \"notes\"\nnul = \"forbidden\"\njoined = true\n\
        [[option]]\ncode = 227\nname = \"ring\"\nlayout = \"options(v6)\"\nreference = \"notes\"\n\
        holds = [{ options = [23], least = 1, most = 1, reference = \"notes, page 3\" }]\n";
    let rules = |protocol: Protocol, kind: &str, options: &str| {
        let id = if protocol == Protocol::V4 {
            "chaddr = \"02:00:5e:00:53:11\"\nciaddr = \"10.64.4.9\""
        } else {
            "transaction = 7"
        };
        let text = format!("codebooks = [\"hill\"]\ntype = \"{kind}\"\n{id}\n[options]\n{options}");
        let specimen = Specimen::read(protocol, "message.toml", &text, &mut |_| Ok(book.to_owned()));
        assert_eq!(specimen.findings, [], "{text}");
        let octets = specimen.octets.unwrap();
        let found = oplex::check::message(&specimen.codebook, AnyMessage::read(protocol, &octets).unwrap());
        found.into_iter().map(|one| (one.rule.name, one.severity.to_string(), one.rfc.to_string())).collect::<Vec<_>>()
    };
    let is = |found: &[(&str, String, String)], rule: &str, severity: &str, rfc: &str| {
        let wanted = (rule, severity.to_owned(), rfc.to_owned());
        assert!(found.contains(&wanted), "{wanted:?} is not in {found:?}");
    };
    let informed = rules(Protocol::V4, "inform", "\"hill:door\" = 7\n");
    is(&informed, "option-not-allowed-in-message", "error", "notes, page 2");
    let discover = rules(Protocol::V4, "discover", "\"hill:door\" = 7\n");
    assert!(discover.iter().all(|(rule, ..)| *rule == "header-field-not-zero"), "{discover:?}");
    is(&rules(Protocol::V4, "decline", "\"hill:door\" = 7\n"), "option-not-allowed-in-message", "warning", "notes");
    is(
        &rules(Protocol::V4, "release", "dhcp-server-id = \"10.64.0.67\"\n"),
        "option-missing-in-message",
        "error",
        "notes",
    );
    is(&rules(Protocol::V4, "discover", "parameter-list = [1, 3, 225]\n"), "option-not-requestable", "error", "notes");
    is(&rules(Protocol::V4, "discover", "\"hill:key\" = { hex = \"6100\" }\n"), "text-ends-in-nul", "error", "notes");
    let client = "clientid = \"00:03:00:01:02:00:5e:00:53:11\"\nelapsed-time = 0\n";
    is(&rules(Protocol::V6, "rebind", client), "option-missing-in-message", "error", "notes");
    let empty = rules(Protocol::V6, "solicit", &format!("{client}\"hill:ring\" = {{ domain-list = \"a.example\" }}\n"));
    is(&empty, "container-content-wrong", "error", "notes, page 3");
}

/// A code that is another's stays the other's, and the mistake comes back as an error with its place.
#[test]
fn a_codebook_takes_no_effect_where_it_is_wrong() {
    let book = "book = \"hill\"\n[[option]]\ncode = 3\ncarrier = \"v4\"\nname = \"door\"\nlayout = \"u8\"\nreference = \"none\"\n\
                [[option]]\ncode = 225\ncarrier = \"v4\"\nname = \"gate\"\nlayout = \"u8\"\nreference = \"none\"\n";
    let error = Codebook::with("hill.toml", book).unwrap_err();
    assert_eq!(error.to_string(), "hill.toml:3:8: code 3 is router (RFC 2132, section 3.5)");
    let (mut codebook, mut sources) = (Codebook::standard().clone(), Sources::default());
    let file = sources.add("hill.toml", book);
    assert_eq!(codebook.add(&sources, file).len(), 1);
    assert_eq!(&*codebook.find("v4:3").unwrap().name, "router");
    assert!(codebook.find("hill:door").is_err());
    assert_eq!(&*codebook.find("v4:225").unwrap().name, "gate");
    let error = Codebook::with("hill.toml", "book = ").unwrap_err().to_string();
    assert!(error.starts_with("hill.toml:1:"), "{error}");
}

/// An option that is defined in Rust is found, encoded and sent like any other.
#[test]
fn options_are_defined_in_rust() {
    let mut codebook = Codebook::standard().clone();
    let layout = Layout::parse("{ floor: u8, doors: u8+ }").unwrap();
    codebook.define(Definition::new("hill", 1, "doors", layout.clone()).carried(Carrier::IN_43));
    let doors = codebook.find("hill:doors").unwrap().clone();
    let octets = codebook.encode(&doors, &Input::from_text("{ floor = 2, doors = [7, 8] }")).unwrap().octets;
    assert_eq!((octets.as_slice(), doors.id().to_string().as_str()), (&[2, 7, 8][..], "hill:1"));
    let (book, inside) = codebook.by_vendor(codebook.find("v4:43").unwrap(), None).unwrap();
    let value = codebook.decode(&inside, &[1, 3, 2, 7, 8]).0.unwrap();
    assert_eq!((book, value.to_string().as_str()), ("hill", "{ doors = { floor = 2, doors = [7, 8] } }"));
    codebook.define(Definition::new("hill", 1, "gates", layout));
    assert!(codebook.find("hill:doors").is_err() && codebook.find("hill:gates").is_ok());
}
