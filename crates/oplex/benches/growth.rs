//! How cost grows with what a user can have many of.
//!
//! `cargo bench -p oplex --bench growth` prints a line for each thing: milliseconds for 10 to 100,000 of them, and with what power
//! of their number the time grows over each step of ten (1 is proportional, 2 is quadratic). The limit is 1.2, over the steps from
//! a few milliseconds on: shorter ones say more of the machine than of the code. Where there cannot be so many of something, the last
//! column has as many as there can. Nothing is asserted.

#![allow(clippy::print_stdout, clippy::unwrap_used, reason = "a bench prints, and stops when it cannot go on")]

use std::fmt::Write;
use std::hint::black_box;
use std::time::Instant;

use oplex::check;
use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::finding::{Sources, Spot};
use oplex::layout::{Input, Layout};
use oplex::packet::Message as _;
use oplex::packet::v6::Message;
use oplex::plan::{Loaded, Plan};
use oplex::release::compare;

const COUNTS: [usize; 5] = [10, 100, 1_000, 10_000, 100_000];
const LIMIT: f64 = 1.2;
/// Milliseconds: a step from less says nothing.
const NOISE: f64 = 3.0;

/// What there is many of, up to how many of it, and the work that many of it make.
type Row = (&'static str, usize, fn(usize) -> Box<dyn FnMut()>);

const ROWS: [Row; 15] = [
    ("fleets", 100_000, |n| checking(fleets(n, 1, exact))),
    ("fleets, each on a network", 40_000, |n| checking(fleets(n, n / 10 + 1, exact))),
    ("fleets that differ", 100_000, |n| checking(fleets(n, 1, anywhere))),
    ("networks", 100_000, |n| checking(networks(n, ""))),
    ("reservations", 100_000, |n| checking_table(networks(n / 100 + 1, TABLE), table(n, 0))),
    ("lines of a table that are wrong", 100_000, |n| checking_table(networks(1, TABLE), wrong_table(n))),
    ("expectations", 100_000, |n| checking(networks(1, "") + &expectations(n, 1))),
    ("expectations not met", 100_000, |n| checking(networks(1, "") + &expectations(n, 2))),
    ("expectations and fleets", 10_000, |n| checking(fleets(n, 1, exact) + &expectations(n, 1))),
    ("pools with exclusions", 65_000, |n| checking(pools(n))),
    ("differences, of nothing", 100_000, |n| differences(n, 0)),
    ("differences, of all", 100_000, |n| differences(n, 1)),
    ("values that are wrong", 65_000, wrong_values),
    ("places on one line", 100_000, places),
    ("options inside an option", 2_300, options_inside),
];

const TABLE: &str = "reservations = \"r.csv\"\n";

fn main() {
    print!("{:<32}", "milliseconds");
    COUNTS.iter().for_each(|count| print!("{count:>18}"));
    println!();
    let mut worst: f64 = 0.0;
    for (name, most, prepare) in ROWS {
        print!("{name:<32}");
        let mut before: Option<(usize, f64)> = None;
        for count in COUNTS.map(|count| count.min(most)) {
            if before.is_some_and(|(smaller, _)| smaller == count) {
                continue;
            }
            let took = time(&mut *prepare(count));
            let power = before.map(|(smaller, less)| (took / less).log10() / (count as f64 / smaller as f64).log10());
            match power {
                Some(power) if before.is_some_and(|(_, less)| less > NOISE) => {
                    worst = worst.max(power);
                    print!("{took:>12.1} {power:>5.2}");
                }
                _ => print!("{took:>12.1}      "),
            }
            before = Some((count, took));
        }
        println!();
    }
    println!("largest power {worst:.2} (limit {LIMIT})");
}

/// The shortest of three, in milliseconds.
fn time(work: &mut dyn FnMut()) -> f64 {
    let once = |_| {
        let start = Instant::now();
        work();
        start.elapsed().as_secs_f64() * 1e3
    };
    (0..3).map(once).fold(f64::INFINITY, f64::min)
}

/// All rules over a reply whose identity association has many addresses.
fn options_inside(count: usize) -> Box<dyn FnMut()> {
    let address = |at: usize| {
        let [high, low] = (at as u16).to_be_bytes();
        let head = [0, 5, 0, 24, 0x20, 1, 0x0d, 0xb8, 0, 0x64, 0, 0, 0, 0, 0, 0, 0, 0, high, low];
        [&head[..], &[0, 0, 14, 16, 0, 0, 28, 32]].concat()
    };
    let association: Vec<u8> = [0; 12].into_iter().chain((0..count).flat_map(address)).collect();
    let mut reply = vec![7, 0, 0, 1, 0, 3];
    reply.extend((association.len() as u16).to_be_bytes());
    reply.extend(association);
    Box::new(move || drop(black_box(check::message(Codebook::standard(), Message::read(&reply).unwrap()))))
}

fn read(plan: &str, table: &str) -> Loaded {
    Plan::read("plan.toml", plan, &mut |_| Ok(table.to_owned()))
}

fn checking(plan: String) -> Box<dyn FnMut()> {
    checking_table(plan, String::new())
}

fn checking_table(plan: String, table: String) -> Box<dyn FnMut()> {
    Box::new(move || drop(black_box(check::plan(&read(&plan, &table)))))
}

fn networks(count: usize, head: &str) -> String {
    let mut text = format!("{head}[send.v4]\ndomain-server = \"10.255.255.53\"\ndomain-name = \"tarnfell.example\"\n");
    for at in 0..count {
        let net = format!("{}.{}.{}", 10 + (at >> 16), at >> 8 & 255, at & 255);
        writeln!(text, "[network.n{at}]\nsubnet = \"{net}.0/24\"\npool = \"{net}.200-{net}.250\"").unwrap();
        writeln!(text, "send.v4 = {{ router = \"{net}.1\" }}").unwrap();
    }
    text
}

fn exact(at: usize) -> String {
    format!("vendor-class = \"class {at}\"")
}

/// Every name may fit several of these.
fn anywhere(at: usize) -> String {
    format!("hostname = \"*{at}*\"")
}

fn fleets(count: usize, of: usize, wanted: fn(usize) -> String) -> String {
    let mut text = networks(of, "");
    for at in 0..count {
        let server = format!("10.9.{}.{}", at >> 8 & 255, at % 250 + 1);
        writeln!(text, "[fleet.f{at}]\nmatch = {{ {} }}\nsend.v4 = {{ log-server = \"{server}\" }}", wanted(at))
            .unwrap();
        if of > 1 {
            writeln!(text, "[fleet.f{at}.on.n{}]\nsend.v4 = {{ time-server = \"{server}\" }}", at % of).unwrap();
        }
    }
    text
}

fn table(count: usize, shift: usize) -> String {
    let mut text = "mac,address,network\n".to_owned();
    for at in 0..count {
        let (network, [_, a, b, c]) = (at / 100, (at as u32).to_be_bytes());
        let host = format!("10.{}.{}.{}", network >> 8, network & 255, at % 100 + 20 + shift);
        writeln!(text, "02:00:5e:{a:02x}:{b:02x}:{c:02x},{host},n{network}").unwrap();
    }
    text
}

fn wrong_table(count: usize) -> String {
    "mac,address,network\n".to_owned() + &"02:00:5e:00:00:zz,10.0.0.300,nowhere\n".repeat(count)
}

fn expectations(count: usize, host: u8) -> String {
    let mut text = String::new();
    for at in 0..count {
        let [_, a, b, c] = (at as u32).to_be_bytes();
        let client =
            format!("network = \"n0\", mac = \"02:00:5e:{a:02x}:{b:02x}:{c:02x}\", vendor-class = \"class {at}\"");
        writeln!(text, "[[expect]]\nclient = {{ {client} }}\nsent.v4 = {{ router = \"10.0.0.{host}\" }}").unwrap();
    }
    text
}

fn pools(count: usize) -> String {
    let net = |at: usize| format!("10.{}.{}", at >> 8 & 255, at & 255);
    let list = |one: &dyn Fn(String) -> String| (0..count).map(|at| one(net(at))).collect::<Vec<_>>().join(", ");
    let (pool, exclude) = (list(&|net| format!("\"{net}.20-{net}.90\"")), list(&|net| format!("\"{net}.30\"")));
    format!("[network.n0]\nsubnet = \"10.0.0.0/8\"\npool = [{pool}]\nexclude = [{exclude}]\n")
}

fn differences(count: usize, shift: usize) -> Box<dyn FnMut()> {
    let plan = networks(count / 100 + 1, TABLE);
    let (before, after) = (read(&plan, &table(count, 0)), read(&plan, &table(count, shift)));
    Box::new(move || {
        let [before, after] = [&before, &after].map(|loaded| Compiled::of(loaded.plan.as_ref().unwrap()));
        black_box(compare(&before, &after).len());
    })
}

fn wrong_values(count: usize) -> Box<dyn FnMut()> {
    let (layout, text) = (Layout::parse("ipv4+").unwrap(), "x,".repeat(count));
    Box::new(move || {
        assert!(layout.read(Codebook::standard(), &Input::from_text(&text)).is_err());
    })
}

fn places(count: usize) -> Box<dyn FnMut()> {
    let mut sources = Sources::default();
    let file = sources.add("plan.toml", "0123456789".repeat(count));
    Box::new(move || {
        let line = |at: usize| sources.location(&Spot { file, span: at * 10..at * 10 + 5 }).column;
        black_box((0..count).map(line).sum::<usize>());
    })
}
