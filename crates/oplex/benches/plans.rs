//! What a large plan costs: 10,000 networks, and 1,000,000 reservations in a table.
//!
//! `cargo bench -p oplex --bench plans` prints how long reading and checking it takes beside merely parsing the same two
//! texts with the `toml` and `csv` crates, the most memory that a process has which does nothing else, and how long one
//! client's answer takes in it, beside one in a plan with ten reservations. All of it is made up and measured in one run.

#![allow(clippy::print_stdout, clippy::unwrap_used, reason = "a bench prints, and stops when it cannot go on")]

use std::fmt::Write;
use std::hint::black_box;
use std::process::Command;
use std::time::{Duration, Instant};

use oplex::check;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::plan::{ClientFacts, Loaded, Plan};

const NETWORKS: usize = 10_000;
const RESERVATIONS: usize = 1_000_000;
/// Measurements of which the median counts.
const ROUNDS: usize = 7;
/// Answers in one measurement.
const CALLS: usize = 20_000;
/// Set for the process that only reads and checks, so that its memory can be looked at.
const ALONE: &str = "OPLEX_BENCH_ALONE";

fn main() {
    let (plan, table) = (plan_text(NETWORKS), table_text(NETWORKS, RESERVATIONS));
    let size = plan.len() + table.len();
    if std::env::var_os(ALONE).is_some() {
        drop((plan, table));
        let before = resident();
        let checked = checked(plan_text(NETWORKS), table_text(NETWORKS, RESERVATIONS));
        let most = most_resident();
        assert_eq!(checked.plan.as_ref().map(|plan| plan.reservations.len()), Some(RESERVATIONS));
        println!("{}", most.unwrap_or(0).saturating_sub(before.unwrap_or(0)));
        return;
    }
    let (mut parse, mut whole) = (Vec::new(), Vec::new());
    for _ in 0..ROUNDS {
        parse.push(time(|| parsed(&plan, &table)));
        let (plan, table) = (plan.clone(), table.clone());
        whole.push(time(|| checked(plan, table)));
    }
    let (parse, whole) = (median(parse), median(whole));
    println!("{NETWORKS} networks and {RESERVATIONS} reservations, {:.1} MB", size as f64 / 1e6);
    println!("parse only         {:>10.0} ms", parse.as_secs_f64() * 1e3);
    println!("read and check     {:>10.0} ms  {:.2}x (limit 3)", whole.as_secs_f64() * 1e3, ratio(whole, parse));

    let alone = Command::new(std::env::current_exe().unwrap()).env(ALONE, "1").output().unwrap();
    match String::from_utf8(alone.stdout).unwrap().trim().parse::<usize>() {
        Ok(most @ 1..) => {
            println!("most memory        {:>10.0} MB  {:.2}x (limit 6)", most as f64 / 1e6, most as f64 / size as f64);
        }
        _ => println!("most memory        not known on this system"),
    }

    let fleets = |count: usize| {
        let text = plan_text(NETWORKS) + &fleet_text(count);
        let loaded = Plan::read("plan.toml", &text, &mut |_| Ok("mac,address\n".to_owned()));
        median((0..ROUNDS).map(|_| time(|| check::plan(&loaded))).collect())
    };
    let (few, many) = (fleets(1), fleets(100));
    println!("check, 1 fleet     {:>10.0} ms", few.as_secs_f64() * 1e3);
    println!("check, 100 fleets  {:>10.0} ms  {:.2}x (limit 4)", many.as_secs_f64() * 1e3, ratio(many, few));

    let large = checked(plan, table);
    let small = checked(plan_text(10), table_text(10, 10));
    let (mut one, mut other) = (Vec::new(), Vec::new());
    for _ in 0..ROUNDS {
        one.push(time(|| answers(small.plan.as_ref().unwrap(), 10, 10)) / CALLS as u32);
        other.push(time(|| answers(large.plan.as_ref().unwrap(), NETWORKS, RESERVATIONS)) / CALLS as u32);
    }
    let (one, other) = (median(one), median(other));
    println!("an answer, small   {:>10.2} us", one.as_secs_f64() * 1e6);
    println!(
        "an answer, large   {:>10.2} us  {:.2}x (limits 2 and 20 us)",
        other.as_secs_f64() * 1e6,
        ratio(other, one)
    );
}

/// Networks of 254 hosts each, with a pool, a router and two things of their own; and two fleets.
fn plan_text(networks: usize) -> String {
    let mut text = "title = \"A large site\"\nreservations = \"reservations.csv\"\nserver = \"10.255.0.67\"\n\
        [send.v4]\ndomain-server = [\"10.255.0.53\"]\ndomain-name = \"tarnfell.example\"\n"
        .to_owned();
    for at in 0..networks {
        let (high, low) = (at >> 8, at & 255);
        let subnet = format!("10.{high}.{low}");
        write!(
            text,
            "[network.n{at:05}]\nsubnet = \"{subnet}.0/24\"\npool = [\"{subnet}.150-{subnet}.250\"]\nlease = \"8h\"\n\
             [network.n{at:05}.send.v4]\nrouter = \"{subnet}.1\"\nntp-servers = [\"10.255.0.123\"]\n\
             domain-search = [\"n{at:05}.tarnfell.example\"]\n"
        )
        .unwrap();
    }
    text.push_str(
        "[fleet.intercoms]\nmatch = { vendor-class = \"Tern *\" }\nsend.v4 = { tftp-server-address = \"10.255.0.80\" }\n\
         [fleet.boot]\nmatch = { arch = \"x64-uefi\" }\n[fleet.boot.send.v4]\nserver-name = \"boot.tarnfell.example\"\n\
         bootfile-name = \"domes/controller.efi\"\n",
    );
    text
}

/// Fleets that send a thing of their own each.
fn fleet_text(count: usize) -> String {
    let one = |at: usize| {
        format!(
            "[fleet.f{at}]\nmatch = {{ vendor-class = \"K{at} *\" }}\nsend.v4 = {{ log-server = \"10.255.1.{}\" }}\n",
            at % 250 + 1
        )
    };
    (0..count).map(one).collect()
}

fn table_text(networks: usize, reservations: usize) -> String {
    let mut text = "mac,address,name,network\n".to_owned();
    let each = reservations / networks;
    for at in 0..reservations {
        let (network, host) = (at / each, at % each + 20);
        let (high, low) = (network >> 8, network & 255);
        let [a, b, c] = mac(at);
        writeln!(text, "02:00:5e:{a:02x}:{b:02x}:{c:02x},10.{high}.{low}.{host},host-{at:06},n{network:05}").unwrap();
    }
    text
}

/// The last three octets of a reservation's hardware address.
fn mac(at: usize) -> [u8; 3] {
    [(at >> 16) as u8, (at >> 8) as u8, at as u8]
}

/// What the two crates do with the texts when nobody asks what they mean.
fn parsed(plan: &str, table: &str) -> usize {
    let parsed = toml::de::DeTable::parse(plan).unwrap();
    let mut lines = csv::ReaderBuilder::new().has_headers(false).from_reader(table.as_bytes());
    let mut record = csv::StringRecord::new();
    let mut cells = parsed.get_ref().len();
    while lines.read_record(&mut record).unwrap() {
        cells += black_box(&record).len();
    }
    cells
}

fn checked(plan: String, table: String) -> Loaded {
    let mut table = Some(table);
    let loaded = Plan::read("plan.toml", &plan, &mut |_| table.take().ok_or_else(|| "read twice".into()));
    let findings = check::plan(&loaded);
    assert!(findings.is_empty(), "{:?}", findings.first());
    loaded
}

/// Answers for clients all over the plan: every other one has a reservation, every fourth is of a fleet.
fn answers(plan: &Plan, networks: usize, reservations: usize) -> usize {
    let compiled = Compiled::of(plan);
    let mut told = 0;
    for call in 0..CALLS {
        let at = call * 7919 % reservations;
        let mut facts = ClientFacts::on(at / (reservations / networks));
        let [a, b, c] = mac(at);
        facts.mac = Some([if call % 2 == 0 { 2 } else { 6 }, 0, 0x5e, a, b, c].into());
        if call % 4 == 0 {
            facts.send(Family::V4, 60, b"Tern D2".to_vec());
        }
        told += black_box(compiled.answer(Family::V4, &facts)).map_or(0, |answer| answer.payloads.len());
    }
    told
}

fn time<T>(work: impl FnOnce() -> T) -> Duration {
    let start = Instant::now();
    let result = work();
    let taken = start.elapsed();
    drop(black_box(result));
    taken
}

fn median(mut times: Vec<Duration>) -> Duration {
    times.sort();
    times[times.len() / 2]
}

fn ratio(time: Duration, yardstick: Duration) -> f64 {
    time.as_secs_f64() / yardstick.as_secs_f64()
}

/// Octets of memory that this process has, and has had at most.
fn resident() -> Option<usize> {
    status("VmRSS:")
}

fn most_resident() -> Option<usize> {
    status("VmHWM:")
}

fn status(line: &str) -> Option<usize> {
    let status = std::fs::read_to_string("/proc/self/status").ok()?;
    let kilobytes = status.lines().find_map(|found| found.strip_prefix(line))?;
    Some(kilobytes.trim().trim_end_matches(" kB").parse::<usize>().ok()? * 1024)
}
