//! Prints a line and nothing else: the yardstick for how long starting a program takes.

#![allow(clippy::print_stdout, reason = "printing is all it does")]

fn main() {
    println!("v4:6  domain-server");
}
