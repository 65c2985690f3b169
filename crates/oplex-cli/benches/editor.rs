//! How long an editor waits for the findings of a plan of ten thousand lines after a letter was typed, against `oplex check` of the
//! same file.
//!
//! `cargo bench -p oplex-cli --bench editor` takes both in turns and prints the medians and their ratio.

#![allow(clippy::print_stdout, clippy::unwrap_used, reason = "a bench prints, and stops when it cannot go on")]

use std::fmt::Write as _;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

#[path = "../tests/editor/mod.rs"]
#[allow(dead_code, reason = "the tests use the rest")]
mod editor;

use editor::Editor;

const LINES: usize = 10_000;
const ROUNDS: usize = 15;

fn main() {
    let place = tempfile::tempdir().unwrap();
    let plan = place.path().join("plan.toml");
    let mut text = String::from("[send.v4]\ndomain-server = \"10.255.255.53\"\ndomain-name = \"tarnfell.example\"\n");
    for at in 0..LINES / 5 {
        let (a, b) = (at / 256, at % 256);
        write!(
            text,
            "\n[network.n{at}]\nsubnet = \"10.{a}.{b}.0/24\"\npool = [\"10.{a}.{b}.20-10.{a}.{b}.199\"]\nsend.v4 = {{ router = \"10.{a}.{b}.1\" }}\n"
        )
        .unwrap();
    }
    std::fs::write(&plan, &text).unwrap();
    let program = Path::new(env!("CARGO_BIN_EXE_oplex"));
    let mut editor = Editor::start(program);
    editor.open(&plan, &text);
    editor.found_in(&plan);
    let (mut checked, mut typed) = (Vec::new(), Vec::new());
    for round in 0..ROUNDS {
        let start = Instant::now();
        assert!(Command::new(program).arg("check").arg(&plan).stdout(Stdio::null()).status().unwrap().success());
        checked.push(start.elapsed());
        let start = Instant::now();
        // A letter in a comment at the end, and away again.
        let line = text.matches('\n').count();
        let (from, to, letter) = if round % 2 == 0 { (0, 0, "#") } else { (0, 1, "") };
        editor.change(&plan, (line, from), (line, to), letter);
        assert!(editor.found_in(&plan).is_empty());
        typed.push(start.elapsed());
    }
    editor.end();
    let (checked, typed) = (median(&mut checked), median(&mut typed));
    println!("{} lines", text.lines().count());
    println!("oplex check            {checked:?}");
    println!("a letter to findings   {typed:?}");
    println!("ratio                  {:.2}x (limit 2)", typed.as_secs_f64() / checked.as_secs_f64());
}

fn median(times: &mut [Duration]) -> Duration {
    times.sort();
    times[times.len() / 2]
}
