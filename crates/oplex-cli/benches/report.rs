//! How long a browser takes to open and to filter the report of ten thousand networks, against a bare table of as many rows.
//!
//! `cargo bench -p oplex-cli --bench report` prints the medians of several runs; it needs chromedriver.

#![allow(clippy::print_stdout, clippy::unwrap_used, reason = "a bench prints, and stops when it cannot go on")]

use std::fmt::Write as _;
use std::path::Path;
use std::process::Command;

#[path = "../tests/browser/mod.rs"]
#[allow(dead_code, reason = "the tests use the rest")]
mod browser;

const NETWORKS: usize = 10_000;
const ROUNDS: usize = 5;

fn main() {
    let place = tempfile::tempdir().unwrap();
    let (plan, page, bare) =
        (place.path().join("plan.toml"), place.path().join("report.html"), place.path().join("bare.html"));
    let mut toml = String::from("[send.v4]\ndomain-server = \"10.255.255.53\"\ndomain-name = \"tarnfell.example\"\n");
    let mut html = String::from("<!DOCTYPE html><meta charset=utf-8><table>");
    for at in 0..NETWORKS {
        let (a, b) = (at / 256, at % 256);
        writeln!(
            toml,
            "[network.n{at}]\nsubnet = \"10.{a}.{b}.0/24\"\npool = \"10.{a}.{b}.20-10.{a}.{b}.199\"\n\
             exclude = \"10.{a}.{b}.40-10.{a}.{b}.49\"\nsend.v4 = {{ router = \"10.{a}.{b}.1\" }}"
        )
        .unwrap();
        write!(html, "<tr data-row><td>n{at}<td>10.{a}.{b}.0/24<td>10.{a}.{b}.20-10.{a}.{b}.199<td>10.{a}.{b}.1<td>170<td>1d</tr>").unwrap();
    }
    std::fs::write(&plan, toml).unwrap();
    std::fs::write(&bare, html).unwrap();
    let made = Command::new(env!("CARGO_BIN_EXE_oplex")).arg("report").arg(&plan).arg("-o").arg(&page).status();
    assert!(made.unwrap().success());
    println!("the page has {:.1} MB", std::fs::metadata(&page).unwrap().len() as f64 / 1e6);
    let [ours, base] = [&page, &bare].map(|page| measured(page));
    for (what, ours, base) in [("opened", ours.0, base.0), ("filtered", ours.1, base.1)] {
        println!(
            "{what:<9} report {ours:6.0} ms   bare table {base:6.0} ms   difference {:6.0} ms (limit 1000)",
            ours - base
        );
    }
}

/// Milliseconds until a page is open and drawn, and from a letter in the filter until that is drawn.
fn measured(page: &Path) -> (f64, f64) {
    let (mut opened, mut filtered) = (Vec::new(), Vec::new());
    for _ in 0..ROUNDS {
        let browser = browser::Browser::start(1280, 800).expect("chromedriver is installed");
        browser.open(page);
        opened.push(browser.run(DRAWN).as_f64().unwrap());
        filtered.push(browser.run(FILTER).as_f64().unwrap());
    }
    (median(&mut opened), median(&mut filtered))
}

/// When the first frame after loading is drawn.
const DRAWN: &str =
    "return new Promise(done => requestAnimationFrame(() => setTimeout(() => done(performance.now()))))";

/// The report filters by its own script; rows of the bare table are hidden by the plainest loop.
const FILTER: &str = "const began = performance.now(), field = document.getElementById('find');
    if (field) { field.value = 'n77'; field.dispatchEvent(new Event('input')); }
    else for (const row of document.querySelectorAll('tr')) row.hidden = !row.textContent.includes('n77');
    return new Promise(done => requestAnimationFrame(() => requestAnimationFrame(() => { document.body.offsetHeight; setTimeout(() => done(performance.now() - began)); })))";

fn median(times: &mut [f64]) -> f64 {
    times.sort_by(f64::total_cmp);
    times[times.len() / 2]
}
