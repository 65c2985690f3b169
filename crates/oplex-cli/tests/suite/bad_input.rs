//! Everything that people and broken files can throw at the command.

use std::fs;
use std::path::Path;

use snapbox::str;

use crate::oplex;

/// A command that must fail with this exit code, say this on stderr or stdout, and never panic.
fn fails(args: &[&str], code: i32, says: &str) {
    let assert = oplex(args).assert().code(code);
    let output = assert.get_output();
    let said = format!("{}{}", String::from_utf8_lossy(&output.stdout), String::from_utf8_lossy(&output.stderr));
    assert!(said.contains(says), "{args:?} said: {}", &said[..said.len().min(2000)]);
    assert!(!said.contains("panicked"), "{said}");
    assert!(!said.contains('\u{1b}'), "{said:?}");
}

fn file(place: &Path, name: &str, octets: &[u8]) -> String {
    let path = place.join(name);
    fs::write(&path, octets).unwrap();
    path.to_str().unwrap().to_owned()
}

#[test]
fn plans_that_cannot_be_read() {
    let place = tempfile::tempdir().unwrap();
    fails(&["check", place.path().join("none.toml").to_str().unwrap()], 2, "no such file");
    fails(&["check", place.path().to_str().unwrap()], 2, "no plan and no codebook in ");
    fails(&["show", place.path().to_str().unwrap()], 2, "this is a directory");
    fails(&["check", "/dev/zero"], 2, "this is a device, a pipe or a socket");
    // What cannot be seen in a pasted address is shown.
    for hidden in ["\u{200b}", "\u{feff}", "\u{ad}", "\u{61c}", "\u{2060}"] {
        let shown = hidden.escape_unicode().to_string();
        fails(&["encode", "v4:3", &format!("10.64{hidden}.4.1")], 2, &shown);
    }
    fails(&["check", &file(place.path(), "latin.toml", b"title = \"caf\xe9\"\n")], 2, "not UTF-8: line 1");
    fails(&["check", &file(place.path(), "syntax.toml", b"[network.a\nsubnet = 1\n")], 2, "this is not TOML");
    fails(&["check", &file(place.path(), "open.toml", b"network = {\n\n\n\n\n\n")], 2, "this is not TOML");
    fails(&["check", &file(place.path(), "escape.toml", b"title = \"\x1b[31m\"\n")], 2, "this is not TOML");
    fails(
        &["check", &file(place.path(), "large.toml", &vec![b'['; 50 << 20])],
        2,
        "the file has 50 MB; the limit is 16 MB",
    );
    fails(&["check", &file(place.path(), "brackets.toml", &vec![b'['; 1 << 20])], 2, "this is not TOML");
    fails(
        &["check", &file(place.path(), "deep.toml", &[b"a = ".as_slice(), &vec![b'['; 1 << 20]].concat())],
        2,
        "not TOML",
    );
    fails(&["check", &file(place.path(), "empty.toml", b"")], 1, "the plan has no network, so it answers no client");
    fails(&["check", &file(place.path(), "kinds.toml", b"network = 3\nsend = [1]\ncodebooks = 7\n")], 1, "3 errors");
}

/// Of very many mistakes some are listed, and all are counted.
#[test]
fn what_is_too_much_is_counted() {
    let place = tempfile::tempdir().unwrap();
    let rows = "02:00:5e:00:00:zz,10.64.0.20\n".repeat(25_000);
    file(place.path(), "r.csv", format!("mac,address\n{rows}").as_bytes());
    let plan = b"reservations = \"r.csv\"\n[network.yard]\nsubnet = \"10.64.0.0/24\"\nsend.v4 = { router = \"10.64.0.1\", domain-server = \"10.64.0.53\", domain-name = \"tarnfell.example\" }\n";
    let plan = file(place.path(), "plan.toml", plan);
    fails(&["check", &plan], 1, "plan.toml: 25000 errors");
    fails(&["check", &plan], 1, "and 24800 more; --format json lists up to 10000 of each rule");
    let json = oplex(&["check", &plan, "--format", "json"]).assert().code(1).get_output().stdout.clone();
    let json: serde_json::Value = serde_json::from_slice(&json).unwrap();
    let findings = json["findings"].as_array().unwrap();
    assert_eq!((findings.len(), findings[9_999]["more"].as_u64()), (10_000, Some(15_000)));
    assert_eq!((&findings[0]["line"], &findings[9_998]["more"]), (&2.into(), &serde_json::Value::Null));

    let list = "x,".repeat(3_000);
    fails(&["encode", "v4:3", &list], 2, "octets 38 to 38: `x` is not an IPv4 address");
    fails(&["encode", "v4:3", &list], 2, "  and 81 more mistakes\n");
    fails(&["encode", "v4:3", &"x".repeat(60_000)], 2, "xxx … xxx");
    let layout = format!("{{ a: u8{} }}", ", b: u8".repeat(3_000));
    fails(&["decode", "--layout", &layout, "00"], 2, "a layout is up to 16384 characters long, this one has 21009");
    let long = format!("86{}", "00".repeat(65_535));
    let said = oplex(&["decode", "ra", "-"]).stdin(long).assert().code(2).get_output().stderr.clone();
    let said = String::from_utf8(said).unwrap();
    assert!(
        said.contains("these 65536 octets are no router advertisement: an ICMPv6 message has at most 65535"),
        "{said}"
    );

    // A line that is too long to be drawn is named by its place.
    let expectations = "{ client = 1 }, ".repeat(6_000);
    let plan = file(place.path(), "long.toml", format!("expect = [{expectations}]\n").as_bytes());
    fails(&["check", &plan], 1, "  in ");
}

/// What parses numbers takes a sign in front of them; people mistype one.
#[test]
fn signs_stand_where_numbers_have_one() {
    fails(&["encode", "v4:121", "10.0.0.0/+8 via 10.0.0.1"], 2, "`/+8` is not a prefix length");
    fails(&["encode", "v4:1", "/+8"], 2, "`/+8` is not a prefix length");
    fails(&["encode", "v4:23", "0x+5"], 2, "`0x+5` is not a whole number");
    fails(&["encode", "v4:+23", "5"], 2, "unknown option `v4:+23`");
    let place = tempfile::tempdir().unwrap();
    let on = |line: &str, says: &str| {
        let plan = format!("[network.yard]\n{line}\n[fleet.radios]\nmatch = {{ vendor-class = \"Gannet\" }}\n");
        fails(&["check", &file(place.path(), "plan.toml", plan.as_bytes())], 1, says);
    };
    on("subnet = \"10.64.0.0/+24\"", "after the slash stands 0 to 32");
    on("prefix = \"2001:db8::/+64\"", "after the slash stands 0 to 128");
    on("prefix = \"2001:db8::/48\"\ndelegate = \"2001:db8::/48 as /+56\"", "is not a range of delegated prefixes");
    let plan = file(place.path(), "good.toml", b"[network.yard]\nsubnet = \"10.64.0.0/24\"\n");
    let client = ["rehearse", &plan, "--network", "yard", "--mac", "02:00:5e:00:53:11"];
    for (flag, value, says) in [
        ("--enterprise", "+5", "`+5` is no enterprise number"),
        ("--arch", "+7", "unknown architecture `+7`"),
        ("--wants", "+3", "unknown option `v4:+3`"),
    ] {
        fails(&[&client[..], &[flag, value]].concat(), 2, says);
    }
}

#[test]
fn codebooks_that_cannot_be_used() {
    let place = tempfile::tempdir().unwrap();
    let plan = file(place.path(), "plan.toml", b"codebooks = [\"none.toml\"]\n");
    fails(&["check", &plan], 1, "the codebook none.toml cannot be read: no such file");
    let book =
        file(place.path(), "book.toml", b"book = \"x\"\n[[option]]\ncode = 1\nname = \"a\"\nlayout = \"ipv5\"\n");
    fails(&["lookup", "x:1", "--codebook", &book], 2, "unknown layout `ipv5`; did you mean `ipv4`?");
    fails(
        &["lookup", "x:1", "--codebook", &file(place.path(), "no.toml", b"[[option]]\n")],
        2,
        "key `book` is missing",
    );
}

#[test]
fn octets_that_are_none() {
    fails(&["decode", "v4:3", "0a4004011"], 2, "half an octet is missing");
    fails(&["decode", "v4:3", "0a4x"], 2, "'x' at character 4 is not a hexadecimal digit");
    fails(&["decode", "v4:3", ""], 1, "at least 1 expected, found 0");
    fails(&["decode", "v4:none", "00"], 2, "unknown option `v4:none`");
    fails(&["decode", "v4:15", "1b5b33316d"], 1, "control character 0x1b in the text");
}

#[test]
fn values_that_do_not_fit() {
    let servers = |count: usize| vec!["10.64.0.53"; count].join(",");
    fails(&["encode", "v4:3", "gateway"], 2, "`gateway` is not an IPv4 address");
    fails(&["encode", "v4:3", "10.64.4.1", "--json"], 2, "the value is not JSON");
    fails(&["encode", "v4:3", "5", "--json"], 2, "the number 5 is not allowed here");
    fails(&["encode", "v4:3", ""], 1, "at least 1 expected, found 0");
    fails(&["encode", "v4:86", &"x".repeat(256)], 2, "must fit in one option, and one option holds 255");
    fails(&["encode", "v4:93", &"9".repeat(300)], 2, "unknown value");
    let assert = oplex(&["encode", "v4:6", "-"]).stdin(servers(20_000)).assert().code(2);
    assert!(String::from_utf8_lossy(&assert.get_output().stderr).contains("more than a message can hold"));
    oplex(&["encode", "v4:1", "255.0.255.0"]).assert().code(1).stdout_eq("ff00ff00\n").stderr_eq(str![[r#"
error the one bits of a mask must be contiguous from the left  netmask-not-contiguous
  see RFC 4632, section 5.1

"#]]);
}

#[test]
fn a_store_that_cannot_be_written_keeps_nothing_half_done() {
    let place = tempfile::tempdir().unwrap();
    let taken = file(place.path(), "taken", b"");
    fails(&["publish", "demo/plan.toml", "--store", &taken], 2, "cannot be used");
    fails(&["publish", "demo/plan.toml", "--store", &format!("{taken}/below")], 2, "part of the path is a file");
    fails(&["publish", "demo/plan.toml", "--store", "/proc/oplex"], 2, "nothing was published");
}

/// The disk is full in the middle: a limit on file sizes, which the shell sets, lets only the first 4 kB be written.
#[cfg(target_os = "linux")]
#[test]
fn a_disk_that_fills_up_in_the_middle_leaves_no_release() {
    let place = tempfile::tempdir().unwrap();
    let built = snapbox::cmd::cargo_bin!("oplex");
    let line = format!(
        "trap '' XFSZ; ulimit -f 4; exec {} publish demo/plan.toml --store {}",
        built.display(),
        place.path().display()
    );
    let top = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");
    let output = std::process::Command::new("bash").args(["-c", &line]).current_dir(top).output().unwrap();
    assert_eq!(output.status.code(), Some(2), "{}", String::from_utf8_lossy(&output.stderr));
    assert!(String::from_utf8_lossy(&output.stderr).contains("nothing was published"));
    // What was written before is harmless, and used again by the next.
    let store = oplex_io::store::Store::new(place.path());
    assert_eq!((store.numbers().unwrap(), store.verify(&[]).unwrap().flaws), (Vec::new(), Vec::new()));
    oplex(&["publish", "demo/plan.toml", "--store", place.path().to_str().unwrap()]).assert().code(0);
    assert_eq!(store.verify(&[]).unwrap().orphans, []);
}

#[test]
fn words_that_mean_nothing() {
    fails(&["chek", "demo/plan.toml"], 2, "unrecognized subcommand 'chek'");
    fails(&["publish", "demo/plan.toml"], 2, "--store <STORE>");
    fails(&["--help"], 0, "Define, encode, decode, check and publish DHCP options");
}

/// Found by reading: each of these once ran out of stack, or took a time that grew with the square of its length.
#[test]
fn input_that_is_made_to_be_costly() {
    let place = tempfile::tempdir().unwrap();
    let deep = oplex(&["encode", "v4:6", "-"]).stdin("[".repeat(200_000)).assert().code(2);
    assert!(String::from_utf8_lossy(&deep.get_output().stderr).contains("values may be nested 48 deep"));
    let long = format!("[send.v4]\n{} = 1\n", "a".repeat(2_000_000));
    fails(&["check", &file(place.path(), "long.toml", long.as_bytes())], 1, "unknown option");
    let many: String = (0..3000).map(|index| format!("[network.n{index}]\nsubnet = 7\n")).collect();
    fails(&["check", &file(place.path(), "many.toml", many.as_bytes())], 1, "and 2800 more; --format json lists all");
    let faults = oplex(&["decode", "v4:145", "-"]).stdin("02".repeat(20_000)).assert().code(0);
    assert_eq!(String::from_utf8_lossy(&faults.get_output().stdout).matches("  02  ").count(), 20_000);
    let large = oplex(&["decode", "v4:145", "-"]).stdin("01".repeat(65_536)).assert().code(2);
    assert!(
        String::from_utf8_lossy(&large.get_output().stderr).contains("65536 octets are more than a message can hold")
    );
}

#[test]
fn messages_that_are_none() {
    let place = tempfile::tempdir().unwrap();
    fails(&["decode", "v4"], 2, "octets are missing: oplex decode v4 OCTETS");
    fails(&["decode", "v4", "zz"], 2, "the octets are not hexadecimal: 'z' at character 1");
    fails(&["decode", "v4", "00"], 2, "this octet is no DHCPv4 message");
    fails(&["decode", "v4", &"00".repeat(300), "--request", "00"], 2, "this octet is no DHCPv4 message");
    fails(&["decode", "v4", &"00".repeat(300), "--request", "hello"], 2, "not hexadecimal");
    fails(&["decode", "v4:3", "0a400401", "--request", "00"], 2, "--request goes with a whole message");
    fails(&["decode", "v4", &"ff".repeat(300)], 1, "cookie-missing");
    // Text in a message reaches the terminal as text, whatever it holds.
    let mut hostile = "01".repeat(44) + &hex(b"boot\x1b[31m") + &"00".repeat(183) + "63825363350101";
    hostile += &("0c05".to_owned() + &hex(b"\x1b]0;x") + "ff");
    fails(&["decode", "v4", &hostile], 1, r"boot\u{1b}[31m");
    let input = |octets: &[u8], code: i32| {
        let output = oplex(&["decode", "v4", "-"]).stdin(octets).assert().code(code).get_output().stdout.clone();
        assert!(!output.contains(&0x1b));
    };
    input(&[&[1; 236][..], b"\xff\xfe"].concat(), 1);
    input(&[0xff; 70_000], 2);
    input(b"", 2);
    // However long a value is, what is shown of it is what a person reads.
    let head = "020106".to_owned() + &"00".repeat(233) + "63825363";
    for (part, says) in [
        ("06fc".to_owned() + &"0a400035".repeat(63), "characters)"),
        ("52fe".to_owned() + &"0100".repeat(127), "more; --format"),
    ] {
        let long = format!("{head}{}ff", part.repeat(20));
        let output = oplex(&["decode", "v4", "-"]).stdin(&long).assert().get_output().stdout.clone();
        let text = String::from_utf8(output).unwrap();
        assert!(text.contains(says) && text.len() < 20_000, "{}", text.len());
    }
    fails(&["encode", "v4", place.path().join("none.toml").to_str().unwrap()], 2, "no such file");
    fails(&["encode", "v4", &file(place.path(), "a.toml", b"type = 7\n")], 2, "`type` is text in quotes, not a number");
    fails(
        &["encode", "v4", &file(place.path(), "b.toml", b"codebooks = [\"no.toml\"]\n")],
        2,
        "no.toml cannot be read",
    );
    fails(
        &[
            "encode",
            "v4",
            &file(place.path(), "c.toml", b"[options]\nrouter = \"10.64.4.1\"\ngateway = \"10.64.4.1\"\n"),
        ],
        2,
        "v4:3 router is sent twice here, under two names",
    );
    let long = format!("file = {:?}\n", "a".repeat(128));
    fails(&["encode", "v4", &file(place.path(), "d.toml", long.as_bytes())], 2, "`file` takes 127 octets and a NUL");
    let odd = b"type = \"offer\"\nop = 1\nchaddr = \"02:00:5e:00:53:11\"\n";
    fails(&["encode", "v4", &file(place.path(), "e.toml", odd)], 1, "op is 1 in a DHCPOFFER");
}

fn hex(octets: &[u8]) -> String {
    octets.iter().map(|octet| format!("{octet:02x}")).collect()
}

#[test]
fn plans_whose_clients_go_wrong() {
    let place = tempfile::tempdir().unwrap();
    let on = |plan: &str, more: &[&str], code: i32, says: &str| {
        let path = file(place.path(), "plan.toml", plan.as_bytes());
        fails(&[&["rehearse", &path, "--network", "desk", "--mac", "02:00:5e:00:53:11"], more].concat(), code, says);
    };
    let desk = "[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.21\"\n";
    on("title = ", &[], 2, "cannot be read as a plan; run oplex check for the reason");
    on("[network.lab]\nsubnet = \"10.64.4.0/24\"\n", &[], 2, "unknown network `desk`; the plan has lab");
    on(desk, &["--explain", "ruter"], 2, "unknown option `v4:ruter`");
    on(desk, &["--explain", "router"], 0, "v4:3 router is not sent");
    on(desk, &["--explain", "lease"], 2, "unknown option `v4:lease`");
    let named = format!("fqdn = \"*.tarnfell.example\"\n{desk}");
    on(&named, &["--fqdn", "lab-7"], 0, "name = lab-7.tarnfell.example. }");
    on(&named, &["--fqdn", "lab-7", "--explain", "client-fqdn"], 0, "derived from the name that the client sends");
    on(&named, &["--explain", "client-fqdn"], 0, "v4:81 client-fqdn is not sent");
    on(&named, &["--fqdn", "lab..7"], 2, "a name with nothing between two dots");
    on(desk, &["--explain", "address-time"], 0, "v4:51 address-time is derived from the network");
    on(desk, &["--leased", "2"], 1, "no address on desk: every address of its pool is leased");
    on("[network.desk]\nsubnet = \"10.64.4.0/24\"\n", &[], 1, "the network leases no addresses");
    on(desk, &["--wants", "999"], 2, "999 is no code of DHCPv4; write v6:999 for DHCPv6");
    on(desk, &["--wants", "3,end"], 2, "255 cannot be requested: it is end, which is no option");
    on(desk, &["--v6", "--wants", "0"], 2, "0 cannot be requested: DHCPv6 has no option 0");
    on(desk, &["--max-size", "70000"], 2, "70000 is not in 576..=65535");
    on(desk, &["--max-size", "0"], 2, "0 is not in 576..=65535");
    let full = format!("{desk}[network.desk.send.v4]\n\"v4:224\" = {{ hex = \"{}\" }}\n", "aa".repeat(600));
    on(&full, &["--wants", "none"], 1, "v4:224 site-specific-224 (600 octets) is left out");
    on(&full, &["--max-size", "1500", "--wants", "none"], 0, "10.64.4.20 on desk for 1d, with 7 options by DHCPv4");
    // A plan that has errors is rehearsed as far as it can be read, and that is said first.
    on(&format!("{desk}[send.v4]\nrouter = \"10.64.4\"\n"), &[], 1, "the plan has 1 error; run oplex check");
    // What a plan holds does not reach the terminal as control characters.
    on(&format!("{desk}[send.v4]\nroot-path = \"a\\u001b[31m\"\n"), &["--explain", "root-path"], 1, r"\u{1b}[31m");
    on(
        &format!("{desk}[[reservation]]\nnetwork = \"desk\"\nmac = \"02:00:5e:00:53:11\"\nname = \"\\u001b[31m\"\n"),
        &[],
        0,
        "reserved",
    );
}

#[test]
fn spreadsheets_that_are_none() {
    let place = tempfile::tempdir().unwrap();
    let plan = "reservations = \"r.csv\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\n[network.desk.send.v4]\nrouter = \"10.64.4.1\"\n";
    let path = file(place.path(), "plan.toml", plan.as_bytes());
    fails(&["check", &path], 1, "the reservations r.csv cannot be read: no such file");
    let with = |csv: &[u8], code: i32, says: &str| {
        file(place.path(), "r.csv", csv);
        fails(&["check", &path], code, says);
    };
    with(b"", 0, "no errors");
    with(b"mac,address\n", 0, "no errors");
    with(b"mac,address\n\xff\n", 1, "r.csv cannot be read: the file is not UTF-8");
    with(b"colour\nred\n", 1, "unknown option `colour`");
    with(b"mac\n02:00:5e:00:53:11\n", 1, "this line names no network, and its address lies in none");
    with(b"mac,network\n,desk\n", 1, "this line names no client: it has no `mac`, `client-id`");
    with(b"mac,address\n\"02:00:5e:00:53:11,10.64.4.9\n", 1, "a quote that is not closed on its line");
    with(b"mac,address\n02:00:5e:00:53:11,10.64.5.9\n", 1, "names no network");
    with(
        "mac,address\n02:00:5e:00:53:11,10.64.4.9,\u{1b}[31m\n".as_bytes(),
        1,
        "3 cells, but the first line has 2 columns",
    );
}

/// Thousands of mistakes in one message are counted, not all drawn.
#[test]
fn a_message_with_thousands_of_mistakes_is_not_drawn_whole() {
    let mut message = vec![7, 0, 0, 1];
    message.extend([0, 14, 0, 0].repeat(3000));
    let run = oplex(&["decode", "v6", "-"]).stdin(message).assert().code(1);
    let text = String::from_utf8_lossy(&run.get_output().stdout).into_owned();
    let drawn = text.lines().filter(|line| line.starts_with("error")).count();
    assert_eq!((drawn, text.lines().last()), (200, Some("and 2800 more; --format json lists all")), "{drawn}");
}

/// Whoever reads the output may stop reading; the verdict stays what it is.
#[test]
fn the_verdict_does_not_depend_on_who_reads() {
    let run = |args: &[&str]| {
        let mut command = std::process::Command::new(env!("CARGO_BIN_EXE_oplex"));
        command.args(args).current_dir("../..").stderr(std::process::Stdio::piped());
        command
    };
    for _ in 0..10 {
        let mut child = run(&["check", "demo/broken.toml"]).stdout(std::process::Stdio::piped()).spawn().unwrap();
        drop(child.stdout.take());
        assert_eq!(child.wait().unwrap().code(), Some(1));
    }
    let Ok(full) = fs::OpenOptions::new().write(true).open("/dev/full") else { return };
    let ended = |args: &[&str]| run(args).stdout(full.try_clone().unwrap()).output().unwrap();
    assert_eq!(ended(&["check", "demo/broken.toml"]).status.code(), Some(1));
    let lost = ended(&["check", "demo/plan.toml"]);
    assert_eq!(lost.status.code(), Some(2));
    let said = String::from_utf8(lost.stderr).unwrap();
    assert!(
        said.contains("the output cannot be written") && said.contains("It begins: demo/plan.toml: nothing wrong"),
        "{said}"
    );
    assert_eq!(ended(&["--help"]).status.code(), Some(2));
    // What was published is said to be.
    let place = tempfile::tempdir().unwrap();
    let store = place.path().to_str().unwrap();
    let published = ended(&["publish", "demo/plan.toml", "--store", store]);
    assert!(String::from_utf8(published.stderr).unwrap().contains("Release 1"), "the release is named");
    assert_eq!(oplex_io::store::Store::new(store).numbers().unwrap(), [1]);
}
