//! `oplex audit`: the demo's morning, captures of rehearsals, and what people hand to it.

use std::fs;
use std::path::Path;

use oplex::octets::Mac;
use oplex::packet::{Composer, v4};
use oplex_io::capture;
use snapbox::{file, str};

use crate::oplex;

const MORNING: &str = "demo/morning.pcapng";

/// The standard output of a command that was typed.
fn typed(args: &[&str], code: i32) -> String {
    let assert = oplex(args).assert().code(code);
    String::from_utf8(assert.get_output().stdout.clone()).unwrap()
}

#[test]
fn the_demos_morning_is_audited() {
    oplex(&["audit", MORNING, "--plan", "demo/plan.toml"]).assert().code(1).stdout_eq(file!["snapshots/audit.txt"]);
    // Without a plan nobody knows which of two servers is the right one.
    let alone = typed(&["audit", MORNING], 0);
    assert!(alone.starts_with("4 warnings, ") || alone.starts_with("5 warnings, "), "{alone}");
    assert!(!alone.contains("plan"), "{alone}");
    let one = typed(&["audit", MORNING, "--plan", "demo/plan.toml", "--client", "02:00:5e:00:53:93"], 1);
    assert!(one.contains("\n02:00:5e:00:53:93  on intercoms") && !one.contains("\n02:00:5e:00:53:a4"), "{one}");
    let rule = typed(&["audit", MORNING, "--plan", "demo/plan.toml", "--only", "request-refused"], 0);
    assert!(rule.starts_with("1 warning in 146 messages") && rule.contains("02:00:5e:00:53:a1"), "{rule}");
    let all = typed(&["audit", MORNING, "--all"], 0);
    assert!(all.contains("\n02:00:5e:00:53:21  DHCPv4") && all.contains("\nfe80::1  router"), "{all}");
}

#[test]
fn programs_get_a_line_for_each_thing() {
    let lines = typed(&["audit", MORNING, "--plan", "demo/plan.toml", "--format", "json"], 1);
    let lines: Vec<serde_json::Value> = lines.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let of = |format: &str| lines.iter().filter(|line| line["format"] == format).collect::<Vec<_>>();
    let (conversations, audits) = (of("oplex-conversation/1"), of("oplex-audit/1"));
    assert_eq!((conversations.len(), audits.len()), (6, 1));
    let phone = conversations.iter().find(|one| one["client"] == "01:02:00:5e:00:53:93").unwrap();
    let finding = &phone["findings"][0];
    assert_eq!(
        (&finding["rule"], &finding["option"], &finding["frame"], &finding["line"]),
        (&"reply-not-as-planned".into(), &"v4:224".into(), &40.into(), &119.into())
    );
    assert_ne!(finding["hex"], finding["planned"]);
    assert_eq!((&audits[0]["clients"], &audits[0]["kinds"][0]["count"]), (&20.into(), &2.into()));
    let all = typed(&["audit", MORNING, "--all", "--format", "json"], 0);
    let messages = all.lines().filter(|line| line.starts_with("{\"format\":\"oplex-message/1\""));
    assert_eq!(messages.count(), 146);
}

#[test]
fn what_each_kind_of_client_requests_is_listed() {
    oplex(&["audit", MORNING, "--codes"]).assert().code(0).stdout_eq(str![[r#"
4 kinds of clients request options

without a vendor class, DHCPv4
...
“Tern D2”, DHCPv4
  requests = [1, 3, 6, 15, 42, 43, 150, 224]
      1  subnet-mask
...
"#]]);
}

/// What was captured becomes expectations, which hold under the plan but for the phone that got something else.
#[test]
fn todays_good_state_becomes_tomorrows_test() {
    let place = tempfile::tempdir().unwrap();
    let file = place.path().join("seen.toml");
    let path = file.to_str().unwrap();
    typed(&["audit", MORNING, "--plan", "demo/plan.toml", "--expectations", path], 1);
    let written = fs::read_to_string(&file).unwrap();
    assert_eq!(written.matches("[[expect]]").count(), 31, "{written}");
    for part in ["codebooks", "reservations.csv", "plan.toml"] {
        let (from, to) = (format!("../../demo/{part}"), place.path().join(part));
        assert!(std::process::Command::new("cp").arg("-r").arg(from).arg(to).status().unwrap().success());
    }
    let plan = place.path().join("plan.toml");
    let text = fs::read_to_string(&plan).unwrap();
    fs::write(&plan, format!("{text}\n{written}")).unwrap();
    let output = oplex(&["check", plan.to_str().unwrap(), "--format", "json"]).output().unwrap();
    let found: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap();
    let errors: Vec<_> =
        found["findings"].as_array().unwrap().iter().filter(|one| one["severity"] == "error").collect();
    assert!(errors.len() == 1 && errors[0]["message"].as_str().unwrap().contains("settings"), "{errors:#?}");
    // What is there already stays, and without a plan nobody knows where clients are.
    typed(&["audit", MORNING, "--plan", "demo/plan.toml", "--expectations", path], 2);
    typed(&["audit", MORNING, "--expectations", "other.toml"], 2);
}

/// What `rehearse` and `show` write as frames is what the plan says, and so is its release.
#[test]
fn captures_of_rehearsals_audit_clean() {
    let place = tempfile::tempdir().unwrap();
    let (store, capture) = (place.path().join("store"), place.path().join("rehearsed.pcapng"));
    let (store, capture) = (store.to_str().unwrap(), capture.to_str().unwrap());
    typed(&["publish", "demo/plan.toml", "--store", store], 0);
    let clients: [&[&str]; 5] = [
        &["--network", "control-room", "--mac", "02:00:5e:00:53:21"],
        &["--network", "intercoms", "--mac", "02:00:5e:00:53:99", "--vendor-class", "Tern D2"],
        &["--network", "domes", "--mac", "02:00:5e:00:53:33", "--arch", "x64-uefi", "--circuit-id", "dome-3"],
        &["--network", "mast", "--mac", "02:00:5e:00:53:41"],
        &["--network", "huts", "--duid", "00:03:00:01:02:00:5e:00:53:61", "--delegation"],
    ];
    for client in clients {
        let args = [&["rehearse", "demo/plan.toml"], client, &["--capture", capture, "--force"]].concat();
        let _ = oplex(&args).output().unwrap();
        for against in [["--plan", "demo/plan.toml"], ["--store", store]] {
            let said = typed(&[&["audit", capture], &against[..]].concat(), 0);
            assert!(said.starts_with("Nothing wrong"), "{client:?} {said}");
        }
    }
    let said = typed(&["audit", capture, "--store", store, "--release", "r1"], 0);
    assert!(said.contains("r1 of "), "{said}");
    typed(&["audit", capture, "--store", store, "--release", "r9"], 2);
}

/// A capture of a client that calls itself and its kind by these names.
pub(crate) fn hostile(path: &Path, name: &str) {
    let header = v4::Header::from_client(7, Mac([2, 0, 0x5e, 0, 0x53, 0x11]));
    let options: [(u16, &[u8]); 3] = [(12, name.as_bytes()), (60, name.as_bytes()), (55, &[1, 3])];
    let draft = v4::Draft { header, options: &options, ..v4::Draft::new(v4::MessageType::DISCOVER) };
    let octets = Composer::default().compose(&draft).unwrap().octets.to_vec();
    let end = |mac, address: &str| (mac, address.parse().unwrap());
    let frame = capture::frame(end(capture::RELAY, "0.0.0.0:68"), end([0xff; 6], "255.255.255.255:67"), &octets);
    capture::write(path, std::time::SystemTime::UNIX_EPOCH, &[frame.unwrap()], false).unwrap();
    let octets = fs::read(path).unwrap();
    fs::write(path, noted(octets, name)).unwrap();
}

/// The same capture with a comment on its last frame (pcapng: option 1 of its block).
fn noted(mut octets: Vec<u8>, comment: impl AsRef<[u8]>) -> Vec<u8> {
    let comment = comment.as_ref();
    let end = octets.len();
    let length = u32::from_le_bytes(octets[end - 4..].try_into().unwrap());
    let mut option = [1u16.to_le_bytes(), u16::try_from(comment.len()).unwrap().to_le_bytes()].concat();
    option.extend(comment);
    option.resize(option.len().next_multiple_of(4), 0);
    option.extend([0; 4]);
    let longer = (length + option.len() as u32).to_le_bytes();
    octets[end - length as usize + 4..][..4].copy_from_slice(&longer);
    octets.splice(end - 4.., option);
    octets.extend(longer);
    octets
}

#[test]
fn what_somebody_noted_about_a_frame_stands_at_its_message() {
    let place = tempfile::tempdir().unwrap();
    let path = place.path().join("noted.pcapng");
    let whole = fs::read(Path::new("../../demo/morning.pcapng")).unwrap();
    fs::write(&path, noted(whole, "after the lift was\x1b[2J moved")).unwrap();
    let path = path.to_str().unwrap();
    let said = typed(&["audit", path, "--all"], 0);
    assert!(said.contains("\n         “after the lift was\\u{1b}[2J moved”\n"), "{said}");
    let said = typed(&["audit", path, "--all", "--format", "json"], 0);
    assert!(said.contains(r#""comment":"after the lift was\u001b[2J moved""#), "{said}");
    // One that is no text is damage, and does not cost the frame that it is about.
    fs::write(path, noted(fs::read(Path::new("../../demo/morning.pcapng")).unwrap(), [0xff, 0x41])).unwrap();
    let said = typed(&["audit", path, "--all"], 1);
    assert!(said.contains("in 146 messages") && said.contains("this block cannot be read"), "{said}");
}

#[test]
fn what_cannot_be_read_is_said() {
    let place = tempfile::tempdir().unwrap();
    let whole = fs::read(Path::new("../../demo/morning.pcapng")).unwrap();
    let (cut, other) = (place.path().join("cut.pcapng"), place.path().join("plan.toml"));
    fs::write(&cut, &whole[..whole.len() - 40]).unwrap();
    fs::write(&other, "title = \"x\"").unwrap();
    let said = typed(&["audit", cut.to_str().unwrap(), "--only", "request-refused"], 1);
    assert!(said.contains("damaged ") && said.contains("octet 44"), "{said}");
    oplex(&["audit", other.to_str().unwrap()]).assert().code(2).stderr_eq(str![[r#"
oplex: [..]plan.toml: it is no capture: neither pcap nor pcapng, plain or compressed by gzip

"#]]);
    for (args, why) in [
        (
            &["--only", "reply-lacks-options"][..],
            "there is no rule reply-lacks-options; did you mean reply-lacks-option?\n",
        ),
        (&["--client", "phone"], "`phone` is neither a hardware address nor a DUID in hexadecimal\n"),
        (
            &["--network", "domes"],
            "--network names a network of a plan; say which plan that is with --plan or --store\n",
        ),
        (&["--plan", "demo/plan.toml", "--network", "dome"], "the plan has no network `dome`; did you mean `domes`?\n"),
        (&["--release", "r1"], "say which store has the release with --store\n"),
    ] {
        oplex(&[&["audit", MORNING], args].concat()).assert().code(2).stderr_eq(format!("oplex: {why}"));
    }
    let read = oplex(&["audit", "-", "--plan", "demo/plan.toml"]).stdin(whole).assert().code(1);
    assert!(read.get_output().stdout.starts_with(b"3 errors"));
}

/// A capture that still grows is followed: what has ended is shown at once.
#[test]
fn a_growing_capture_is_followed() {
    use std::io::{BufRead as _, BufReader, Write as _};
    let place = tempfile::tempdir().unwrap();
    let path = place.path().join("growing.pcapng");
    let whole = fs::read("../../demo/morning.pcapng").unwrap();
    fs::write(&path, &whole[..9_000]).unwrap();
    let mut command = std::process::Command::new(snapbox::cmd::cargo_bin!("oplex"));
    command.args(["audit", path.to_str().unwrap(), "--follow", "--plan", "../../demo/plan.toml"]).env("NO_COLOR", "1");
    let mut child = command.stdout(std::process::Stdio::piped()).spawn().unwrap();
    let mut lines = BufReader::new(child.stdout.take().unwrap()).lines();
    let mut file = fs::OpenOptions::new().append(true).open(&path).unwrap();
    file.write_all(&whole[9_000..]).unwrap();
    // It ends only when it is told to.
    let found = lines.find(|line| line.as_ref().is_ok_and(|line| line.starts_with("02:00:5e:00:53:93  on intercoms")));
    assert!(found.is_some());
    child.kill().unwrap();
    child.wait().unwrap();
}
