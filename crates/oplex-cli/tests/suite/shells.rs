//! What stands around the command: completions, manual pages, colours, and how much is said.

use std::path::Path;

use snapbox::cmd::{Command, cargo_bin};
use snapbox::str;

use crate::oplex;

/// What bash completes for words that it has parted as it parts them, of which the last is being written.
fn completed(words: &[&str]) -> Vec<String> {
    let folder = cargo_bin!("oplex").parent().unwrap().to_owned();
    let path = format!("{}:{}", folder.display(), std::env::var("PATH").unwrap());
    let list: Vec<String> = words.iter().map(|word| format!("'{word}'")).collect();
    let script = format!(
        "source <(oplex shell bash)\nCOMP_WORDS=({}); COMP_CWORD={}; COMP_TYPE=9\n_clap_complete_oplex oplex '{}' x\nprintf '%s\\n' \"${{COMPREPLY[@]}}\"",
        list.join(" "),
        words.len() - 1,
        words.last().unwrap()
    );
    let said = Command::new("bash").args(["-c", &script]).env("PATH", path).assert().code(0);
    let said = String::from_utf8_lossy(&said.get_output().stdout).into_owned();
    said.lines().map(|line| line.trim().to_owned()).filter(|line| !line.is_empty()).collect()
}

#[test]
fn a_shell_completes_commands_options_and_rules() {
    assert_eq!(completed(&["oplex", "reh"]), ["rehearse"]);
    assert_eq!(completed(&["oplex", "check", "--for"]), ["--format"]);
    assert_eq!(completed(&["oplex", "check", "--format", "s"]), ["sarif"]);
    assert_eq!(completed(&["oplex", "lookup", "domain-n"]), ["domain-name"]);
    assert_eq!(completed(&["oplex", "encode", "v6:dns-s"]), ["v6:dns-servers"]);
    assert_eq!(completed(&["oplex", "rules", "pool-out"]), ["pool-outside-subnet"]);
    for shell in ["zsh", "fish", "elvish"] {
        let script = oplex(&["shell", shell]).assert().code(0);
        let script = String::from_utf8_lossy(&script.get_output().stdout).into_owned();
        assert!(script.contains("OPLEX_COMPLETE"), "{shell}: {script}");
    }
}

#[test]
fn there_is_a_manual_page_for_each_command() {
    let place = tempfile::tempdir().unwrap();
    let pages = place.path().join("man1");
    oplex(&["shell", "man", "--to", pages.to_str().unwrap()]).assert().code(0).stdout_eq(str![[r#"
[..]man1: 25 manual pages

"#]]);
    let page = |name: &str| std::fs::read_to_string(Path::new(&pages).join(name)).unwrap();
    assert!(page("oplex-check.1").contains("Mend what leaves no doubt"));
    assert!(page("oplex-lab-run.1").contains(".TH oplex-lab-run 1"));
    oplex(&["shell", "bash", "--to", "x"]).assert().code(2);
}

#[test]
fn colours_and_how_much_is_said() {
    let first = |args: &[&str], variable: Option<(&str, &str)>| {
        let command = oplex(args).env_remove("NO_COLOR");
        let command = variable.into_iter().fold(command, |command, (name, value)| command.env(name, value));
        let said = command.assert();
        String::from_utf8_lossy(&said.get_output().stdout).into_owned()
    };
    let plan = ["check", "demo/plan.toml"];
    let coloured = |text: &str| text.contains('\u{1b}');
    assert!(!coloured(&first(&plan, None)), "this is no terminal");
    assert!(coloured(&first(&[&plan[..], &["--color", "always"]].concat(), None)));
    assert!(coloured(&first(&plan, Some(("CLICOLOR_FORCE", "1")))));
    assert!(!coloured(&first(&[&plan[..], &["--color", "never"]].concat(), Some(("CLICOLOR_FORCE", "1")))));
    assert_eq!(
        first(&["-q", "check", "demo/plan.toml"], None),
        "demo/plan.toml: nothing wrong (7 networks, 35 options, 3 fleets, 7 reservations, 4 expectations)\n"
    );
    oplex(&["check", "-q", "demo/broken.toml"])
        .assert()
        .code(1)
        .stdout_eq("demo/broken.toml: 19 errors, 4 warnings, 3 notes\n");
}

/// What is wider than it may be goes on below, and nothing else changes: not what is drawn, not what is for programs.
#[test]
fn lines_are_as_wide_as_the_environment_says() {
    let written = |args: &[&str], width: &str| {
        let said = oplex(args).env("OPLEX_WIDTH", width).assert();
        String::from_utf8_lossy(&said.get_output().stdout).into_owned()
    };
    let drawn = |line: &str| line.contains(|c| ('\u{2500}'..='\u{259f}').contains(&c));
    let columns = |line: &str| line.chars().count();
    let mut broken = 0;
    for args in [
        &["rules"][..],
        &["rules", "address-not-a-host"],
        &["lookup", "v4:82"],
        &["show", "demo/plan.toml"],
        &["check", "demo/broken.toml"],
        &["audit", "demo/morning.pcapng", "--plan", "demo/plan.toml", "--all"],
        &["rehearse", "demo/plan.toml", "--network", "control-room", "--mac", "02:00:5e:00:53:11"],
        &["decode", "v4:121", "150a40080a400401"],
    ] {
        let whole = written(args, "0");
        for width in [60, 80, 100] {
            let narrow = written(args, &width.to_string());
            for line in narrow.lines().filter(|line| !drawn(line) && columns(line) > width) {
                // Its last word stands alone, or is too long for any line.
                let words = line.split_whitespace().map(columns).max().unwrap_or_default();
                assert!(words > width / 3, "{args:?}: {} columns: {line}", columns(line));
            }
            let letters = |text: &str| text.lines().filter(|line| !drawn(line)).collect::<String>().replace(' ', "");
            assert_eq!(letters(&narrow), letters(&whole), "{args:?} in {width} columns");
            broken += narrow.lines().count() - whole.lines().count();
        }
    }
    assert!(broken > 100, "{broken} lines more");
    let rules = written(&["rules"], "80");
    let line = rules.lines().find(|line| line.contains("router-solicitation-address-invalid")).unwrap();
    let next = rules.lines().skip_while(|other| *other != line).nth(1).unwrap();
    assert_eq!(next.find(|c| c != ' '), line.find("an address"), "{line}\n{next}");
    for args in [&["rules", "--format", "json"][..], &["show", "demo/plan.toml", "--format", "csv"]] {
        assert_eq!(written(args, "60"), written(args, "0"));
    }
}
