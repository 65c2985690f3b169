//! What it costs to publish, to open the latest release, and to verify, against yardsticks of the same run.
//!
//! `cargo bench -p oplex-io --bench stores` prints how long publishing 10,000 networks takes, at first and with one of them changed,
//! against checking the plan; verifying against digesting the same octets; opening the latest of 1,000 releases and answering
//! a client against the same with 10; and the memory that an open release takes against its own size.

#![allow(clippy::print_stdout, clippy::unwrap_used, reason = "a bench prints, and stops when it cannot go on")]

use std::fmt::Write as _;
use std::fs;
use std::hint::black_box;
use std::path::Path;
use std::time::{Duration, Instant};

use oplex::check;
use oplex::family::Family;
use oplex::packet::{Composer, Message as _, v4};
use oplex::plan::{ClientFacts, Loaded, Plan};
use oplex::release::compile;
use oplex::server::{InMemory, Ingress, Server};
use oplex_io::store::{Entry, Prepared, Release, Store};
use sha2::{Digest, Sha256};

/// A plan with so many networks, of which one has another router.
fn text(networks: usize, other: usize) -> String {
    let mut text =
        "title = \"Large\"\nserver = \"10.64.0.67\"\n[send.v4]\ndomain-server = [\"10.64.0.53\", \"10.64.0.54\"]\n\
                    domain-name = \"tarnfell.example\"\nntp-servers = [\"10.64.0.123\"]\n"
            .to_owned();
    for at in 0..networks {
        let (high, low, router) = (at / 256, at % 256, if at == other { 2 } else { 1 });
        writeln!(
            text,
            "[network.n{at}]\nsubnet = \"10.{high}.{low}.0/24\"\npool = \"10.{high}.{low}.20-10.{high}.{low}.250\"\n\
             [network.n{at}.send.v4]\nrouter = \"10.{high}.{low}.{router}\"\nmtu-interface = 1500"
        )
        .unwrap();
    }
    text
}

fn read(text: &str) -> Loaded {
    Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into()))
}

/// Reads, checks and publishes, as the command does.
fn publish(store: &Store, text: &str, after: Option<&Release>) -> Release {
    let loaded = read(text);
    assert!(check::plan(&loaded).iter().all(|finding| finding.severity < oplex::finding::Severity::Error));
    let document = compile(loaded.plan.as_ref().unwrap(), &loaded.sources).unwrap();
    let prepared = Prepared::new(&document, &loaded.sources).unwrap();
    if let Some(after) = after {
        let (was, is) = store.differing(after, &document, &prepared).unwrap();
        black_box(oplex::release::compare(&was.compiled().unwrap(), &is.compiled().unwrap()));
    }
    store.publish(&prepared, after, Entry::default()).unwrap()
}

fn timed<T>(run: impl FnOnce() -> T) -> (T, Duration) {
    let start = Instant::now();
    (run(), start.elapsed())
}

/// The least of some runs, as other work on the machine only adds to it.
fn least(runs: usize, mut run: impl FnMut()) -> Duration {
    (0..runs).map(|_| timed(&mut run).1).min().unwrap()
}

fn parts(place: &Path) -> Vec<std::path::PathBuf> {
    fs::read_dir(place.join("parts")).unwrap().map(|entry| entry.unwrap().path()).collect()
}

fn ratio(what: &str, time: Duration, yardstick: Duration, limit: f64) {
    let ratio = time.as_secs_f64() / yardstick.as_secs_f64();
    println!("{what:<58} {:>9.2} ms {ratio:>6.2}x (limit {limit})", time.as_secs_f64() * 1e3);
}

fn main() {
    let (one, other) = (text(10_000, usize::MAX), text(10_000, 5000));
    let checked = least(3, || drop(black_box(check::plan(&read(&one)))));
    ratio("read and check 10,000 networks", checked, checked, 1.0);
    let place = tempfile::tempdir().unwrap();
    let store = Store::new(place.path());
    let (first, time) = timed(|| publish(&store, &one, None));
    ratio("publish them", time, checked, 6.0);
    let before = parts(place.path()).len();
    let (last, time) = timed(|| publish(&store, &other, Some(&first)));
    ratio("publish them with one changed", time, checked, 3.0);
    println!("  {} parts more than {before}", parts(place.path()).len() - before);

    let digests = || {
        for path in parts(place.path()) {
            black_box(Sha256::digest(fs::read(path).unwrap()));
        }
    };
    let digested = least(5, digests);
    ratio(
        "verify the store, against reading and digesting it",
        least(5, || drop(black_box(store.verify(&[]).unwrap()))),
        digested,
        2.0,
    );

    let size: u64 = parts(place.path()).iter().map(|path| fs::metadata(path).unwrap().len()).sum();
    let mut kept = 0;
    let counted = allocation_counter::measure(|| {
        let document = store.document(&last).unwrap();
        let compiled = document.compiled().unwrap();
        kept = black_box(compiled.networks.len());
    });
    println!(
        "an open release of {kept} networks: {} kB at most, of {} kB in the store",
        counted.bytes_max / 1000,
        size / 1000
    );

    let counted = allocation_counter::measure(|| {
        let document = store.excerpt(&last, &["n5000"]).unwrap();
        let compiled = document.compiled().unwrap();
        let facts = ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, 7].into()), ..ClientFacts::on(0) };
        black_box(compiled.answer(Family::V4, &facts));
    });
    println!("an excerpt of one network of it, with an answer: {} kB at most", counted.bytes_max / 1000);

    let mut composer = Composer::default();
    let header = v4::Header { giaddr: [10, 19, 136, 2].into(), ..v4::Header::from_client(7, [2, 0, 0x5e, 0, 0x53, 7]) };
    let discover = v4::Draft { header, ..v4::Draft::new(v4::MessageType::DISCOVER) };
    let discover = composer.compose(&discover).unwrap().octets;
    let counted = allocation_counter::measure(|| {
        let message = v4::Message::read(discover).unwrap();
        let latest = store.latest().unwrap().unwrap();
        let document = store.excerpt_for(&latest, message.into(), None).unwrap().unwrap();
        let compiled = document.compiled().unwrap();
        let reply = Server::new(&compiled).answer(discover, &Ingress::default(), &mut InMemory::default()).is_some();
        assert!(black_box(reply));
    });
    println!(
        "the latest opened, and a relayed client answered from it: {} kB at most, {:.2} x the release's size (limit 1.5)",
        counted.bytes_max / 1000,
        counted.bytes_max as f64 / size as f64
    );

    let opened = |releases: u8| {
        let place = tempfile::tempdir().unwrap();
        let store = Store::new(place.path());
        let mut last = None;
        for number in 0..u32::from(releases) * 10 {
            last = Some(publish(&store, &text(30, (number % 2) as usize), last.as_ref()));
        }
        least(50, || {
            let latest = store.latest().unwrap().unwrap();
            let document = store.document(&latest).unwrap();
            let compiled = document.compiled().unwrap();
            let facts = ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, 7].into()), ..ClientFacts::on(3) };
            black_box(compiled.answer(Family::V4, &facts));
        })
    };
    let (few, many) = (opened(1), opened(100));
    ratio("open the latest of 10 releases, and answer", few, few, 1.0);
    ratio("open the latest of 1,000 releases, and answer", many, few, 1.5);
}
