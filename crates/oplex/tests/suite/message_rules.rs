//! The rules over whole messages: what each finds, at which octets, and what it lets pass.

use oplex::check;
use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::packet::Message as _;
use oplex::packet::v4::Message;
use oplex::specimen::Specimen;

use crate::marked;

fn octets(text: &str) -> Vec<u8> {
    let specimen = Specimen::read(Protocol::V4, "message.toml", text, &mut |_| Err("no such file".into()));
    specimen.octets.unwrap_or_else(|| panic!("{text}\n{:#?}", specimen.findings))
}

/// A message of a client or server of the demo, with these lines.
fn of_type(message_type: &str, lines: &str) -> String {
    format!("type = \"{message_type}\"\nchaddr = \"02:00:5e:00:53:11\"\n{lines}")
}

fn findings(text: &str) -> Vec<String> {
    let octets = octets(text);
    let found = check::message(Codebook::standard(), Message::read(&octets).unwrap());
    found.iter().map(|finding| format!("{} {}: {}", finding.severity, finding.rule.name, finding.message)).collect()
}

#[track_caller]
fn finds(text: &str, finding: &str) {
    assert_eq!(findings(text), [finding], "{text}");
}

#[track_caller]
fn passes(text: &str) {
    assert_eq!(findings(text), Vec::<String>::new(), "{text}");
}

const OFFER: &str = "yiaddr = \"10.64.4.20\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\naddress-time = \"8h\"\n";

#[test]
fn each_type_of_message_has_what_its_table_says() {
    for (message_type, lines) in [
        ("discover", "[options]\naddress-request = \"10.64.4.20\"\nparameter-list = [1, 3]\n"),
        ("offer", OFFER),
        ("ack", OFFER),
        // An information request is answered without a lease.
        ("ack", "ciaddr = \"10.64.4.20\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n"),
        ("nak", "[options]\ndhcp-server-id = \"10.64.0.67\"\ndhcp-message = \"not here\"\n"),
        ("decline", "[options]\ndhcp-server-id = \"10.64.0.67\"\naddress-request = \"10.64.4.20\"\n"),
        ("release", "ciaddr = \"10.64.4.20\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n"),
        ("inform", "ciaddr = \"10.64.4.20\"\n[options]\nparameter-list = [6]\n"),
        ("leasequery", "giaddr = \"10.64.4.1\"\nchaddr = \"00\"\nciaddr = \"10.64.4.20\"\n"),
        // An offer without an address switches link-local addresses off (RFC 2563, section 2.3).
        ("offer", "[options]\ndhcp-server-id = \"10.64.0.67\"\nauto-config = \"do-not-auto-configure\"\n"),
    ] {
        passes(
            &of_type(message_type, &lines.replace("chaddr = \"00\"\n", ""))
                .replace(if message_type == "leasequery" { "chaddr = \"02:00:5e:00:53:11\"\n" } else { "~" }, ""),
        );
    }
}

#[test]
fn options_that_do_not_belong_are_found() {
    let bare = |message_type: &str, option: &str| {
        let lines = format!("ciaddr = \"10.64.4.20\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n{option}\n");
        findings(&of_type(message_type, &lines))
    };
    let error = |code: &str, kind: &str| format!("error option-not-allowed-in-message: {code} must not be in a {kind}");
    assert_eq!(bare("release", "router = \"10.64.4.1\""), [error("v4:3 router", "DHCPRELEASE")]);
    assert_eq!(bare("ack", "address-time = \"8h\"")[1..], [error("v4:51 address-time", "DHCPACK")]);
    assert_eq!(bare("inform", ""), [error("v4:54 dhcp-server-id", "DHCPINFORM")]);
    let nak = of_type("nak", "[options]\ndhcp-server-id = \"10.64.0.67\"\nrouter = \"10.64.4.1\"\n");
    finds(&nak, &error("v4:3 router", "DHCPNAK"));
    let chatty = of_type("discover", "[options]\ndhcp-message = \"hello\"\n");
    finds(&chatty, "warning option-not-allowed-in-message: v4:56 dhcp-message must not be in a DHCPDISCOVER");
    let rapid = of_type("offer", &format!("{OFFER}rapid-commit = true\n"));
    finds(&rapid, &error("v4:80 rapid-commit", "DHCPOFFER"));
}

#[test]
fn requests_come_from_a_state() {
    let request = |header: &str, options: &str| of_type("request", &format!("{header}\n[options]\n{options}\n"));
    let (renews, server, asks) =
        ("ciaddr = \"10.64.4.20\"", "dhcp-server-id = \"10.64.0.67\"", "address-request = \"10.64.4.20\"");
    passes(&request("", &format!("{server}\n{asks}")));
    passes(&request("", asks));
    passes(&request(renews, ""));
    let no_state = |text: &str, why: &str| finds(text, &format!("error request-without-state: {why}"));
    no_state(&request(renews, server), "it selects an offer (54) and renews an address (ciaddr) at once");
    no_state(&request("", server), "it selects an offer (54), but has no requested address (50)");
    no_state(&request(renews, asks), "it requests an address (50) and renews one (ciaddr) at once");
}

#[test]
fn headers_are_checked_by_type_and_hardware() {
    let discover = |lines: &str| of_type("discover", lines);
    finds(&discover("op = 7\n"), "error op-wrong: op is 7");
    finds(
        &discover("htype = 6\nhlen = 17\n"),
        "error hardware-address-length-wrong: hlen is 17, but hardware type is 6",
    );
    passes(&discover("htype = 6\nhlen = 8\n"));
    // IPoIB puts no address into the header (RFC 4390, section 2.1).
    finds(
        "type = \"discover\"\nhtype = 32\nhlen = 6\n",
        "error hardware-address-length-wrong: hlen is 6, but hardware type is 32",
    );
    passes("type = \"discover\"\nhtype = 32\nhlen = 0\n");
    let decline = "secs = 4\n[options]\ndhcp-server-id = \"10.64.0.67\"\naddress-request = \"10.64.4.20\"\n";
    finds(&of_type("decline", decline), "warning header-field-not-zero: secs is 4 in a DHCPDECLINE");
    finds(&of_type("offer", &format!("hops = 1\n{OFFER}")), "warning header-field-not-zero: hops is 1 in a DHCPOFFER");
    passes(&discover("flags = \"broadcast\"\nhops = 16\ngiaddr = \"10.64.4.1\"\nsecs = 9\n"));
    finds(&of_type("inform", ""), "error header-address-missing: a DHCPINFORM has no ciaddr");
}

#[test]
fn what_is_wrong_with_a_payload_is_found_at_the_octets_of_the_message() {
    let text = "type = \"discover\"\nafter-header = \"63825363 350101 37 03 01 03 79 0f 05 612e62 2d00 ff\"\n";
    let octets = octets(text);
    let found = check::message(Codebook::standard(), Message::read(&octets).unwrap());
    let seen: Vec<_> = found.iter().map(|at| (at.rule.name, at.octets.clone().unwrap(), at.message.as_str())).collect();
    assert_eq!(seen[0].0, "request-list-inconsistent");
    assert_eq!(seen[0].1, 243..248);
    assert!(seen[1..].iter().all(|(_, octets, message)| octets.start >= 250 && message.starts_with("domain-name: ")));
    // A fault in the second part of a split option is found there.
    let octets = message_with("06040a400035 0f0161 06020a40 ff");
    let found = check::message(Codebook::standard(), Message::read(&octets).unwrap());
    let short = found.iter().find(|at| at.rule.name == "value-malformed").unwrap();
    assert_eq!(short.octets, Some(251..253));
}

fn message_with(options: &str) -> Vec<u8> {
    octets(&format!("chaddr = \"02:00:5e:00:53:11\"\nafter-header = \"63825363 {options}\"\n"))
}

#[test]
fn answers_are_held_against_what_they_answer() {
    let exchange = |request: &str, reply: &str| {
        let (request, reply) = (octets(&of_type("discover", request)), octets(&of_type("offer", reply)));
        let read = |octets| Message::read(octets).unwrap();
        let found = check::exchange(Codebook::standard(), read(&request), read(&reply));
        found.iter().map(|finding| finding.message.clone()).collect::<Vec<_>>()
    };
    let id = "[options]\nclient-id = { type = \"ethernet\", id = \"02:00:5e:00:53:11\" }\n";
    assert_eq!(exchange("", OFFER), Vec::<String>::new());
    assert_eq!(exchange(id, &format!("{OFFER}{}", &id[10..])), Vec::<String>::new());
    assert_eq!(
        exchange("", &format!("{OFFER}{}", &id[10..])),
        ["the client sent no client identifier, but the reply has one"]
    );
    let other = id[10..].replace("53:11", "53:12");
    assert_eq!(
        exchange(id, &format!("{OFFER}{other}")),
        ["the reply has a different client identifier than the client sent"]
    );
    let relayed = |port: &str| {
        format!("{OFFER}relay-agent-information = {{ agent-circuit-id = \"{port}\" }}\n")
            .replace("yiaddr", "giaddr = \"10.64.4.1\"\nyiaddr")
    };
    let asked = "giaddr = \"10.64.4.1\"\n[options]\nrelay-agent-information = { agent-circuit-id = \"01\" }\n";
    assert_eq!(exchange(asked, &relayed("01")), Vec::<String>::new());
    assert_eq!(exchange(asked, &relayed("02")), ["the relay agent information differs from the request"]);
    let wants = "[options]\nparameter-list = [108]\ndhcp-max-msg-size = 1500\n";
    let tells = format!("limit = 1500\nsmallest = 900\n{OFFER}ipv6-only-preferred = 1800\n");
    assert_eq!(exchange(wants, &tells), Vec::<String>::new());
    assert_eq!(
        exchange("", &format!("limit = 1500\nsmallest = 900\n{OFFER}")),
        ["928 octets with the headers; the client accepts 548 octets, what every client accepts"]
    );
}

#[test]
fn what_is_wrong_with_a_specimen_is_found_where_it_is_written() {
    let found =
        |text: &str| Specimen::read(Protocol::V4, "message.toml", text, &mut |_| Err("no such file".into())).findings;
    for (text, rule, message) in [
        ("type = «\"dicsover\"»", "value-wrong-kind", "unknown message type `dicsover`; did you mean `discover`?"),
        ("«tpye» = \"ack\"", "unknown-key", "unknown key `tpye` in a message"),
        ("xid = «-1»", "value-wrong-kind", "`xid` is -1, outside 0 to 4294967295"),
        (
            "chaddr = «\"02:00:xx\"»",
            "value-wrong-kind",
            "`02:00:xx` is not a hardware address: 'x' at character 8 is not a hexadecimal digit (0-9, a-f)",
        ),
        ("yiaddr = «\"10.64.4\"»", "value-wrong-kind", "`10.64.4` is not an IPv4 address: it has 3 of 4 numbers"),
        (
            "[options]\nrouter = \"«10.64.4.300»\"",
            "value-malformed",
            "router: `10.64.4.300` is not an IPv4 address: 300 is above 255",
        ),
        ("[options]\n«ruoter» = \"10.64.4.1\"", "unknown-option", "unknown option `ruoter`"),
        ("requests = [3, «400»]", "value-wrong-kind", "a requested option is a code up to 255, or a name"),
        ("requests = [«\"ruoter\"»]", "unknown-option", "unknown option `ruoter`"),
        (
            "after-header = «\"6382536\"»",
            "value-wrong-kind",
            "`after-header` is not hexadecimal: the 7 digits from character 1 are an odd number, so half an octet is missing",
        ),
    ] {
        marked::finds(found, text, rule, message);
    }
    let long = format!("sname = \"{}\"", "a".repeat(64));
    assert_eq!(found(&long)[0].message, "`sname` takes 63 octets and a NUL after them, and these are 64");
    assert_eq!(found("[options]\noverload = 3\n")[0].message, "option 52 follows from where the options find room");
}

/// The findings about a message with these octets after its cookie, each with its rule and its octets.
fn placed(options: &str) -> Vec<(&'static str, std::ops::Range<usize>)> {
    let octets = message_with(options);
    let found = check::message(Codebook::standard(), Message::read(&octets).unwrap());
    found.into_iter().map(|finding| (finding.rule.name, finding.octets.unwrap())).collect()
}

#[test]
fn fields_are_checked_for_their_ends() {
    assert_eq!(placed("350101 ff"), []);
    // Pads may stand between options and after the end.
    assert_eq!(placed("0000 350101 00 3d0201aa 000000 ff 0000"), []);
    assert_eq!(placed("350101 ff 00 aa"), [("octets-after-end", 245..300)]);
    assert_eq!(placed("350101"), [("end-option-missing", 299..300)]);
    let whole = octets("chaddr = \"02:00:5e:00:53:11\"\nsmallest = 0\nafter-header = \"63825363 350101 0c\"\n");
    let found = check::message(Codebook::standard(), Message::read(&whole).unwrap());
    let rules: Vec<_> = found.iter().map(|at| (at.rule.name, at.octets.clone().unwrap())).collect();
    assert_eq!(rules, [("message-too-short", 0..244), ("option-cut-short", 243..244)]);
    assert_eq!(found[1].message, "`options` ends before the length of v4:12 hostname");
}

#[test]
fn options_in_header_fields_are_checked_there() {
    let message = |overload: &str, file: &str, sname: &str| {
        let text = format!(
            "chaddr = \"02:00:5e:00:53:11\"\nfile = {{ hex = \"{file}\" }}\nsname = {{ hex = \"{sname}\" }}\n\
             after-header = \"63825363 350101 {overload} ff\"\n"
        );
        let octets = octets(&text);
        let found = check::message(Codebook::standard(), Message::read(&octets).unwrap());
        found.into_iter().map(|finding| (finding.rule.name, finding.octets.unwrap())).collect::<Vec<_>>()
    };
    assert_eq!(message("340103", "0c0461626364 ff", "0f0161 ff"), []);
    assert_eq!(message("340101", "0c0461626364", ""), [("end-option-missing", 235..236)]);
    assert_eq!(message("340102", "", "0cff"), [("option-cut-short", 44..108)]);
    // Option 52 counts in the options field alone.
    assert_eq!(message("340101", "340103 ff", "ff")[1], ("overload-misused", 108..111));
    assert_eq!(message("340101", "00 0c0161 ff", ""), [("overload-misused", 108..109)]);
    assert_eq!(message("340102", "", "ff"), [("overload-without-options", 44..45)]);
    // A value that is none of the three is a fault of the payload.
    assert_eq!(message("340107", "", ""), [("value-undefined", 243..246)]);
    assert_eq!(message("340101", "520601046f727421 ff", ""), [("relay-information-misplaced", 108..116)]);
}

#[test]
fn repeated_options_are_joined_or_found() {
    let base = "350105 36040a400043 330400007080";
    let ack = |more: &str| {
        let text = format!(
            "type = \"ack\"\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\nafter-header = \"63825363 {base} {more} ff\"\n"
        );
        findings(&text)
    };
    assert_eq!(ack("06040a400035"), Vec::<String>::new());
    assert_eq!(
        ack("0f0161 0f0162"),
        ["warning option-split-needlessly: v4:15 domain-name is split, but has only 2 octets"]
    );
    assert_eq!(
        ack("1a0205dc 1a0205dc"),
        ["error option-repeated: v4:26 mtu-interface is repeated; it must not be split"]
    );
    // 300 octets cannot stand in one option.
    let route = "1a0a0a0a0a0a400401";
    let part = |count: usize| format!("79{:02x}{}", count * 9, route.repeat(count));
    let long = ack(&format!("{} {}", part(28), part(5)));
    assert!(!long.iter().any(|at| at.contains("split")), "{long:?}");
}

#[test]
fn times_names_and_proofs_go_together() {
    let ack = |lines: &str| findings(&of_type("ack", &format!("{OFFER}{lines}")));
    assert_eq!(ack("renewal-time = \"4h\"\nrebinding-time = \"7h\"\n"), Vec::<String>::new());
    assert_eq!(
        ack("renewal-time = \"7h\"\nrebinding-time = \"7h\"\n"),
        ["error message-times-out-of-order: v4:58 renewal-time (7h) is not below v4:59 rebinding-time (7h)"]
    );
    assert_eq!(
        ack("rebinding-time = \"8h\"\n"),
        ["error message-times-out-of-order: v4:59 rebinding-time (8h) is not below v4:51 address-time (8h)"]
    );
    // A lease without an end has any times.
    let endless = OFFER.replace("8h", "infinite");
    assert_eq!(findings(&of_type("ack", &format!("{endless}renewal-time = \"infinite\"\n"))), Vec::<String>::new());
    let named = "hostname = \"dome-3\"\nclient-fqdn = { flags = \"s+e\", rcode1 = 0, rcode2 = 0, name = \"dome-3.tarnfell.example.\" }\n";
    // Servers may tell both.
    assert_eq!(ack(named), Vec::<String>::new());
    assert_eq!(
        findings(&of_type("discover", &format!("[options]\n{named}"))),
        ["error two-host-names: v4:12 hostname is sent along with v4:81 client-fqdn"]
    );
    let boots = |lines: &str| findings(&of_type("discover", &format!("[options]\n{lines}")));
    let all = "parameter-list = [1, 3, 128, 129, 130, 131, 132, 133, 134, 135]\nclient-system = [7]\nclient-ndi = { hex = \"010310\" }\nuuid-guid = { hex = \"0000112233445566778899aabbccddeeff\" }\n";
    assert_eq!(boots(all), Vec::<String>::new());
    assert_eq!(
        boots("client-system = [7]\n"),
        ["warning boot-options-incomplete: v4:94 client-ndi and v4:97 uuid-guid are missing"]
    );
    let proof = "authentication = { hex = \"0101000000000000000001\" }\n";
    assert_eq!(boots(proof), ["error authentication-without-client-id: v4:90 authentication without v4:61 client-id"]);
    assert_eq!(boots(&format!("{proof}client-id = {{ hex = \"01aa\" }}\n")), Vec::<String>::new());
}

#[test]
fn questions_about_leases_have_one_key() {
    let query = |lines: &str| findings(&format!("type = \"leasequery\"\ngiaddr = \"10.64.4.1\"\n{lines}"));
    assert_eq!(query("ciaddr = \"10.64.4.20\"\n"), Vec::<String>::new());
    assert_eq!(query("chaddr = \"02:00:5e:00:53:11\"\n"), Vec::<String>::new());
    assert_eq!(query("[options]\nclient-id = { hex = \"01aa\" }\n"), Vec::<String>::new());
    assert_eq!(query("[options]\nrelay-agent-information = { agent-remote-id = \"01\" }\n"), Vec::<String>::new());
    assert_eq!(query(""), ["error leasequery-keys-wrong: it has no key"]);
    assert_eq!(
        query("ciaddr = \"10.64.4.20\"\n[options]\nclient-id = { hex = \"01aa\" }\n"),
        ["error leasequery-keys-wrong: it has the keys ciaddr and client-id (61)"]
    );
    let unanswerable = "type = \"leasequery\"\nciaddr = \"10.64.4.20\"\n";
    assert_eq!(findings(unanswerable), ["error header-address-missing: a DHCPLEASEQUERY has no giaddr"]);
}

#[test]
fn messages_of_bootp_are_checked_as_such() {
    let bootp = |lines: &str| findings(&format!("chaddr = \"02:00:5e:00:53:11\"\n{lines}"));
    assert_eq!(bootp("[options]\nrouter = \"10.64.4.1\"\n"), Vec::<String>::new());
    assert_eq!(
        bootp("[options]\nbootfile-name = \"domes/controller.efi\"\n"),
        ["warning message-type-missing: v4:67 bootfile-name is in a message without a message type (53)"]
    );
    // Two octets in option 53 are no type.
    let odd = message_with("35020101 ff");
    let message = Message::read(&odd).unwrap();
    assert_eq!(
        (message.message_type(), message.to_string().as_str()),
        (None, "DHCP message without a type, client 02:00:5e:00:53:11, 1 option, 300 octets")
    );
}

#[test]
fn header_fields_and_options_name_one_boot_server_and_file() {
    let said = |fields: &str, options: &str| findings(&of_type("offer", &format!("{fields}{OFFER}{options}")));
    let both = "server-name = \"boot.tarnfell.example\"\nbootfile-name = \"a.efi\"\n";
    assert_eq!(said("file = \"a.efi\"\nsname = \"boot.tarnfell.example\"\n", both), Vec::<String>::new());
    assert_eq!(said("", both), Vec::<String>::new());
    assert_eq!(
        said("file = \"b.efi\"\nsname = \"boot\"\n", both),
        [
            "warning boot-fields-differ: `sname` is `boot`, but option 66 is `boot.tarnfell.example`",
            "warning boot-fields-differ: `file` is `b.efi`, but option 67 is `a.efi`",
        ]
    );
}
