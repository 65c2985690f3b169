//! Auditing large captures, against a program that only reads and counts their frames with the same crate.
//!
//! `cargo bench -p oplex-io --bench captures -- [MEGABYTES]` makes the captures, in a temporary directory, and prints ratios.

#![allow(clippy::print_stdout, clippy::unwrap_used, reason = "a bench prints, and should stop when it cannot go on")]

#[path = "../../../xtask/src/captures/bulk.rs"]
mod bulk;

use std::fs::File;
use std::path::Path;
use std::time::{Duration, Instant};

use oplex::audit::{Audit, Policy};
use oplex::compiled::Compiled;
use oplex::plan::Plan;
use oplex_io::capture::{Capture, Checked, checked};
use pcap_file::pcapng::{Block, PcapNgReader};

fn main() {
    let size = std::env::args().skip(1).find_map(|arg| arg.parse().ok()).unwrap_or(100);
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let read = |path: &str| std::fs::read_to_string(demo.join(path)).map_err(|error| error.to_string().into());
    let plan = Plan::read("plan.toml", &std::fs::read_to_string(demo.join("plan.toml")).unwrap(), &mut { read });
    let plan = plan.plan.unwrap();
    let place = tempfile::tempdir().unwrap();
    for (kind, mixed, limit) in [("a tenth of DHCP", true, 4), ("of DHCP alone", false, 12)] {
        let path = place.path().join("capture.pcapng");
        bulk::write(&plan, mixed, size, &path).unwrap();
        // Once for the cache, and then the best of three.
        let best = |work: &dyn Fn() -> u64| (0..3).map(|_| timed(work)).min().unwrap();
        let (counting, frames) = best(&|| count(&path));
        let (alone, messages) = best(&|| audit(&path, None));
        let (against, _) = best(&|| audit(&path, Some(&plan)));
        let ratio = |time: Duration| time.as_secs_f64() / counting.as_secs_f64();
        println!(
            "{size} MB, {kind}: {frames} frames, {messages} messages; reading and counting {counting:.2?}; audit {:.1} x, \
             against a plan {:.1} x (limit {limit})",
            ratio(alone),
            ratio(against)
        );
        let mut other = std::process::Command::new("tshark");
        other.args(["-Y", "dhcp or dhcpv6", "-T", "json", "-r"]).arg(&path).stdout(std::process::Stdio::null());
        let start = Instant::now();
        match other.stderr(std::process::Stdio::null()).status() {
            Ok(status) if status.success() => {
                println!(
                    "  tshark takes {:.0} x as long as the audit",
                    start.elapsed().as_secs_f64() / alone.as_secs_f64()
                );
            }
            _ => println!("  tshark is not installed"),
        }
    }
}

fn timed(work: &dyn Fn() -> u64) -> (Duration, u64) {
    let start = Instant::now();
    let count = work();
    (start.elapsed(), count)
}

/// Reads a capture, and counts its frames.
fn count(path: &Path) -> u64 {
    let mut reader = PcapNgReader::new(File::open(path).unwrap()).unwrap();
    let (mut frames, mut octets) = (0, 0);
    while let Some(block) = reader.next_block() {
        if let (Block::EnhancedPacket(packet), _) = block.unwrap() {
            frames += 1;
            octets += packet.data.len();
        }
    }
    assert!(octets > 0);
    frames
}

/// Audits a capture, and counts its messages.
fn audit(path: &Path, plan: Option<&Plan>) -> u64 {
    let compiled = plan.map(Compiled::of);
    let standard = oplex::codebook::Codebook::standard();
    let codebook = compiled.as_ref().map_or(standard, |compiled| &compiled.codebook);
    let mut audit = match &compiled {
        Some(compiled) => Audit::against(compiled, Policy::default()),
        None => Audit::new(standard, Policy::default()),
    };
    let mut messages = 0;
    checked(vec![Capture::open(path).unwrap()], codebook, false, &mut |item| {
        if let Checked::Message(message, found) = item {
            messages += 1;
            audit.add(&message.seen, found);
            audit.closed().for_each(drop);
        }
    });
    audit.finish();
    messages
}
