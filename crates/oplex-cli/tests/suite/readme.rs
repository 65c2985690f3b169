//! What the README and the pages for newcomers show is what the command says: each `$ oplex …` is run, in a folder with the demo.

use std::fs;
use std::path::Path;

use crate::oplex;

/// The commands of a page in its blocks of `console`, each with what is shown behind it.
fn shown(page: &str) -> Vec<(String, String)> {
    let mut commands: Vec<(String, String)> = Vec::new();
    for block in page.split("```console\n").skip(1) {
        let block = block.split("```").next().unwrap();
        for line in block.lines() {
            match (line.strip_prefix("$ "), commands.last_mut()) {
                (Some(command), _) => commands.push((command.to_owned(), String::new())),
                (None, Some((_, said))) => *said += &format!("{line}\n"),
                (None, None) => {}
            }
        }
    }
    commands
}

/// The words of a command line, of which some are in quotes.
fn words(line: &str) -> Vec<String> {
    let (mut words, mut word, mut quoted) = (Vec::new(), String::new(), false);
    for c in line.split("  #").next().unwrap().trim().chars() {
        match c {
            '"' => quoted = !quoted,
            ' ' if !quoted => words.push(std::mem::take(&mut word)),
            c => word.push(c),
        }
    }
    words.push(word);
    words.retain(|word| !word.is_empty());
    words
}

#[test]
fn what_is_shown_to_newcomers_is_what_is_said() {
    let top = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let mut tried = 0;
    for page in ["README.md", "docs/vendors.md", "docs/report.md"] {
        let place = tempfile::tempdir().unwrap();
        for file in [
            "plan.toml",
            "broken.toml",
            "reservations.csv",
            "morning.pcapng",
            "codebooks/tern-intercoms.toml",
            "codebooks/gannet-radios.toml",
            "codebooks/tarnfell-domes.toml",
        ] {
            let to = place.path().join("demo").join(file);
            fs::create_dir_all(to.parent().unwrap()).unwrap();
            fs::copy(top.join("demo").join(file), to).unwrap();
        }
        for (command, said) in shown(&fs::read_to_string(top.join(page)).unwrap()) {
            let Some(args) =
                command.strip_prefix("oplex ").filter(|args| !args.contains("--store") || args.starts_with("publish"))
            else {
                continue;
            };
            let args = words(args);
            let args: Vec<&str> = args.iter().map(String::as_str).collect();
            let ran = oplex(&args).current_dir(place.path()).assert();
            // A line `…` stands for any lines, and in a line it stands for any text.
            let lines = said.lines().map(|line| if line == "…" { "...".to_owned() } else { line.replace('…', "[..]") });
            let wanted = lines.map(|line| line + "\n").collect::<String>();
            if !wanted.trim().is_empty() {
                ran.stdout_eq(wanted);
                tried += 1;
            }
        }
    }
    assert!(tried >= 9, "{tried} commands");
}
