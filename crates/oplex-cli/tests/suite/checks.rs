//! `oplex check` of several files and folders, as SARIF, and with what it mends.

use std::fs;
use std::path::Path;

use serde_json::Value;
use snapbox::{file, str};

use crate::oplex;

/// Two plans that name one codebook, and a message; each plan has a word of the trade, the codebook nothing wrong.
fn folder() -> tempfile::TempDir {
    let place = tempfile::tempdir().unwrap();
    let book = fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/codebooks/tern-intercoms.toml"));
    fs::create_dir_all(place.path().join("site/.hidden")).unwrap();
    fs::write(place.path().join("site/tern.toml"), book.unwrap()).unwrap();
    let plan = |name: &str, subnet: &str, keys: &str| {
        let text = format!(
            "# Kept as it is.\ncodebooks = [\"tern.toml\"]\n[send.v4]\n{keys}domain-name = 'tarnfell.example'\n\n[network.{name}]\n\
             subnet = \"{subnet}.0/24\"\npool = [\"{subnet}.0-{subnet}.99\"] # all\nsend.v4 = {{ router = \"{subnet}.254\" }}\n"
        );
        fs::write(place.path().join(format!("site/{name}.toml")), text).unwrap();
    };
    plan("desks", "10.64.4", "dns-servers = \"10.64.0.53\"   # two would be better\n");
    plan("yard", "10.64.5", "domain-server = \"10.64.0.53\"\n");
    fs::write(place.path().join("site/message.toml"), "type = \"discover\"\n").unwrap();
    fs::write(place.path().join("site/.hidden/plan.toml"), "[network.none]\n").unwrap();
    place
}

fn check(place: &Path, args: &[&str]) -> snapbox::cmd::Command {
    oplex(&[&["check"], args].concat()).current_dir(place)
}

#[test]
fn all_plans_and_codebooks_of_a_folder_are_checked() {
    let place = folder();
    check(place.path(), &["site"]).assert().code(1).stdout_eq(file!["snapshots/check-folder.txt"]);
    let lines = check(place.path(), &["site", "--format", "json"]).assert().code(1);
    let lines = String::from_utf8_lossy(&lines.get_output().stdout).into_owned();
    let files = lines.lines().map(|line| serde_json::from_str::<Value>(line).unwrap()["file"].clone());
    assert_eq!(files.collect::<Vec<_>>(), ["site/desks.toml", "site/tern.toml", "site/yard.toml"]);
    let junit = check(place.path(), &["site", "--format", "junit"]).assert().code(1);
    let junit = String::from_utf8_lossy(&junit.get_output().stdout).into_owned();
    assert_eq!(junit.matches("<testsuite name=\"rules of site/").count(), 3, "{junit}");
    check(place.path(), &["site/.hidden/.."]).assert().code(1);
    fs::create_dir(place.path().join("empty")).unwrap();
    check(place.path(), &["empty"]).assert().code(2).stderr_eq(str![[r#"
oplex: no plan and no codebook in empty

"#]]);
}

/// Comments and the order of lines stay, and what is no longer wrong is not found again.
#[test]
fn what_leaves_no_doubt_is_mended() {
    let place = folder();
    let before = fs::read_to_string(place.path().join("site/desks.toml")).unwrap();
    check(place.path(), &["site", "--diff"]).assert().code(1).stdout_eq(str![[r#"
--- site/desks.toml
+++ site/desks.toml
@@ -1,10 +1,10 @@
 # Kept as it is.
 codebooks = ["tern.toml"]
 [send.v4]
-dns-servers = "10.64.0.53"   # two would be better
+domain-server = "10.64.0.53"   # two would be better
 domain-name = 'tarnfell.example'
 
 [network.desks]
 subnet = "10.64.4.0/24"
-pool = ["10.64.4.0-10.64.4.99"] # all
+pool = ["10.64.4.1-10.64.4.99"] # all
 send.v4 = { router = "10.64.4.254" }
--- site/yard.toml
+++ site/yard.toml
@@ -6,5 +6,5 @@
 
 [network.yard]
 subnet = "10.64.5.0/24"
-pool = ["10.64.5.0-10.64.5.99"] # all
+pool = ["10.64.5.1-10.64.5.99"] # all
 send.v4 = { router = "10.64.5.254" }

"#]]);
    assert_eq!(fs::read_to_string(place.path().join("site/desks.toml")).unwrap(), before, "it is shown alone");
    let mended = check(place.path(), &["site", "--fix"]).assert().code(0);
    let mended = String::from_utf8_lossy(&mended.get_output().stdout).into_owned();
    assert!(mended.starts_with("3 files, none with errors; 3 mended\n"), "{mended}");
    let after = fs::read_to_string(place.path().join("site/desks.toml")).unwrap();
    assert_eq!(after, before.replace("dns-servers", "domain-server").replace("4.0-10", "4.1-10"));
    check(place.path(), &["site", "--diff"]).assert().code(0).stdout_eq("");
    // What is a guess is not made, and what would not be TOML is not written.
    let plan = "[network.a]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.9\"\nsend.v4 = { router = \"10.64.4.1\", default-gateway = \"10.64.4.1\", domain-nmae = \"x.example\" }\n";
    fs::write(place.path().join("guess.toml"), plan).unwrap();
    check(place.path(), &["guess.toml", "--fix"]).assert().code(1);
    assert_eq!(fs::read_to_string(place.path().join("guess.toml")).unwrap(), plan);
}

/// What is written is as OASIS' own schema has it, with places, replacements and rules, for plans that can be read and others.
#[test]
fn sarif_is_as_its_schema_says() {
    let schema = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/schemas/sarif-2.1.0.json");
    let schema: Value = serde_json::from_str(&fs::read_to_string(schema).unwrap()).unwrap();
    let (mut schemas, mut compiler) = (boon::Schemas::new(), boon::Compiler::new());
    compiler.add_resource("https://oplex.example/sarif.json", schema).unwrap();
    let index = compiler.compile("https://oplex.example/sarif.json", &mut schemas).unwrap();
    let place = folder();
    fs::write(place.path().join("site/ü nread.toml"), "[network\n").unwrap();
    for (at, args, code) in [
        (Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../..")), &["demo/broken.toml"][..], 1),
        (Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../..")), &["demo/plan.toml"], 0),
        (place.path(), &["site"], 2),
    ] {
        let said = check(at, &[args, &["--format", "sarif"]].concat()).assert().code(code);
        let said: Value = serde_json::from_slice(&said.get_output().stdout).unwrap();
        schemas.validate(&said, index).unwrap_or_else(|why| panic!("{why:#}"));
        let run = &said["runs"][0];
        let results = run["results"].as_array().unwrap();
        for result in results {
            let rule = &run["tool"]["driver"]["rules"][usize::try_from(result["ruleIndex"].as_u64().unwrap()).unwrap()];
            assert_eq!(rule["id"], result["ruleId"]);
        }
        assert_eq!(run["invocations"][0]["executionSuccessful"], code != 2);
        if code == 2 {
            let place = |result: &Value| result["locations"][0]["physicalLocation"]["artifactLocation"]["uri"].clone();
            assert!(results.iter().any(|result| place(result) == "site/%C3%BC%20nread.toml"), "{results:#?}");
            let mended = results.iter().find(|result| result["ruleId"] == "unknown-option").unwrap();
            let change = &mended["fixes"][0]["artifactChanges"][0];
            assert_eq!(change["artifactLocation"]["uri"], "site/desks.toml");
            assert_eq!(change["replacements"][0]["insertedContent"]["text"], "domain-server");
            assert_eq!(change["replacements"][0]["deletedRegion"]["startLine"], 4);
        }
    }
}

/// What stands before a place in the file does not move it: a byte order mark, line ends of every kind, characters of several octets.
#[test]
fn files_of_all_kinds_are_mended_where_they_are_wrong() {
    let place = tempfile::tempdir().unwrap();
    let path = place.path().join("plan.toml");
    for (mark, end) in [("", "\n"), ("\u{feff}", "\r\n"), ("", "\r\n"), ("\u{feff}", "\n")] {
        let plan = |option: &str, first: &str| {
            [
                "# Die Kuppeln über dem Fjell 🔭",
                "[send.v4]",
                &format!("{option} = \"10.64.0.53\"  # ä"),
                "domain-name = 'tarnfell.example'",
                "[network.domes]",
                "subnet = \"10.64.4.0/24\"",
                &format!("pool = [\"{first}-10.64.4.99\", '10.64.4.200']"),
                "send.v4.router = \"10.64.4.254\"",
                "",
            ]
            .join(end)
        };
        fs::write(&path, format!("{mark}{}", plan("nameservers", "10.64.4.0"))).unwrap();
        let said = check(place.path(), &["plan.toml", "--fix", "--format", "json"]).assert().code(0);
        let said: Value = serde_json::from_slice(&said.get_output().stdout).unwrap();
        assert_eq!(said["findings"], serde_json::json!([]), "what is mended is not found");
        assert_eq!(fs::read_to_string(&path).unwrap(), format!("{mark}{}", plan("domain-server", "10.64.4.1")));
    }
    let finding = |text: &str| {
        fs::write(&path, text).unwrap();
        let said = check(place.path(), &["plan.toml", "--format", "json"]).assert();
        let said: Value = serde_json::from_slice(&said.get_output().stdout).unwrap();
        said["findings"][0].clone()
    };
    let safe = finding("[send.v4]\nnameservers = \"10.64.0.53\"\n[network.a]\nsubnet = \"10.64.4.0/24\"\n");
    assert_eq!((&safe["replace"], &safe["safe"]), (&"domain-server".into(), &true.into()));
    let guess = finding("[send.v4]\ndomian-server = \"10.64.0.53\"\n[network.a]\nsubnet = \"10.64.4.0/24\"\n");
    assert_eq!((&guess["replace"], guess.get("safe")), (&"domain-server".into(), None), "a guess is not safe");
}

/// Of several files the worst counts, and each is told apart.
#[test]
fn of_several_files_the_worst_counts() {
    let place = tempfile::tempdir().unwrap();
    let good = "[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"x.example\"\n[network.a]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.9\"\nsend.v4 = { router = \"10.64.4.1\" }\n";
    fs::write(place.path().join("good.toml"), good).unwrap();
    fs::write(place.path().join("wrong.toml"), good.replace("10.64.4.9", "10.64.9.9")).unwrap();
    fs::write(place.path().join("none.toml"), "[network\n").unwrap();
    for (files, code, first) in [
        (&["good.toml", "good.toml"][..], 0, "2 files, none with errors"),
        (&["good.toml", "wrong.toml"], 1, "1 of 2 files with errors"),
        (&["wrong.toml", "none.toml", "good.toml"], 2, "2 of 3 files with errors"),
        (&["."], 2, "2 of 3 files with errors"),
    ] {
        let said = check(place.path(), files).assert().code(code);
        let said = String::from_utf8_lossy(&said.get_output().stdout).into_owned();
        assert_eq!(said.lines().next(), Some(first), "{files:?}");
    }
    check(place.path(), &["good.toml", "missing.toml"])
        .assert()
        .code(2)
        .stderr_eq("oplex: missing.toml: no such file\n");
    check(place.path(), &["god.toml"])
        .assert()
        .code(2)
        .stderr_eq("oplex: god.toml: no such file; did you mean good.toml?\n");
}

/// A file keeps who may read it, a link leads where it led, and a table of reservations is no TOML and is mended all the same.
#[test]
fn what_is_mended_stays_what_it_is() {
    use std::os::unix::fs::{PermissionsExt as _, symlink};
    let place = tempfile::tempdir().unwrap();
    fs::create_dir(place.path().join("real")).unwrap();
    let (plan, table) = (place.path().join("real/plan.toml"), place.path().join("real/reservations.csv"));
    let text = "reservations = \"reservations.csv\"\n[send.v4]\nnameservers = \"10.64.0.53\"\ndomain-name = \"x.example\"\n[network.a]\n\
        subnet = \"10.64.4.0/24\"\npool = \"10.64.4.9\"\nsend.v4 = { router = \"10.64.4.1\" }\n";
    fs::write(&plan, text).unwrap();
    fs::write(&table, "hwaddr,address,network\n02:00:5e:00:53:01,10.64.4.5,a\n").unwrap();
    fs::set_permissions(&plan, fs::Permissions::from_mode(0o640)).unwrap();
    let link = place.path().join("plan.toml");
    symlink(&plan, &link).unwrap();
    symlink(&table, place.path().join("reservations.csv")).unwrap();
    check(place.path(), &["plan.toml", "--trust-paths", "--fix"]).assert().code(0);
    assert_eq!(fs::read_to_string(&plan).unwrap(), text.replace("nameservers", "domain-server"));
    assert_eq!(fs::read_to_string(&table).unwrap(), "mac,address,network\n02:00:5e:00:53:01,10.64.4.5,a\n");
    assert_eq!(fs::metadata(&plan).unwrap().permissions().mode() & 0o777, 0o640);
    assert!(fs::symlink_metadata(&link).unwrap().is_symlink(), "the link is still one");
}

/// Thousands of items of one option may be wrong: all of them are data, and as many are drawn as anybody looks at.
#[test]
fn a_long_list_that_is_all_wrong_is_short_to_read() {
    let place = tempfile::tempdir().unwrap();
    for between in [", ", ",\n"] {
        let wrong: Vec<String> = (0..1000).map(|at| format!("\"127.0.{}.{}\"", at / 250, 1 + at % 250)).collect();
        let plan = "[network.yard]\nsubnet = \"10.64.4.0/23\"\nsend.v4.log-server = [";
        fs::write(place.path().join("plan.toml"), format!("{plan}{}]\n", wrong.join(between))).unwrap();
        let drawn = check(place.path(), &["plan.toml"]).assert().code(1);
        let drawn = String::from_utf8_lossy(&drawn.get_output().stdout).into_owned();
        assert!(
            drawn.contains("\n  and 991 more like it\n") && drawn.len() < 20_000,
            "{} octets\n{drawn:.2000}",
            drawn.len()
        );
        let listed = check(place.path(), &["plan.toml", "--format", "json"]).assert().code(1);
        let listed: Value = serde_json::from_slice(&listed.get_output().stdout).unwrap();
        let listed = listed["findings"].as_array().unwrap().iter().find(|one| one["rule"] == "address-not-a-host");
        assert_eq!(listed.unwrap()["related"].as_array().map(Vec::len), Some(999));
    }
}
