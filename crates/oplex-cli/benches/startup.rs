//! How long `oplex lookup v4:6` takes from start to end, against a program that only prints a line.
//!
//! `cargo bench -p oplex-cli` starts both in turns, with their output thrown away, and prints the median wall times and
//! their ratio. The yardstick is `examples/print_a_line.rs`, built beside the command with the same profile.

#![allow(clippy::print_stdout, clippy::unwrap_used, reason = "a bench prints, and stops when it cannot go on")]

use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

const ROUNDS: usize = 300;

fn main() {
    let oplex = Path::new(env!("CARGO_BIN_EXE_oplex"));
    let line = oplex.with_file_name("examples").join("print_a_line");
    let built = Command::new(env!("CARGO"))
        .args(["build", "--release", "--quiet", "-p", "oplex-cli", "--example", "print_a_line"])
        .status();
    assert!(built.unwrap().success());
    let (mut base, mut ours) = (Vec::new(), Vec::new());
    for _ in 0..ROUNDS {
        base.push(time(Command::new(&line)));
        ours.push(time(Command::new(oplex).args(["lookup", "v4:6"])));
    }
    let (base, ours) = (median(&mut base), median(&mut ours));
    println!("a program that prints a line  {base:?}");
    println!("oplex lookup v4:6             {ours:?}");
    println!("ratio                         {:.2}x", ours.as_secs_f64() / base.as_secs_f64());
}

fn time(mut command: impl std::borrow::BorrowMut<Command>) -> Duration {
    let start = Instant::now();
    assert!(command.borrow_mut().stdout(Stdio::null()).status().unwrap().success());
    start.elapsed()
}

fn median(times: &mut [Duration]) -> Duration {
    times.sort();
    times[times.len() / 2]
}
