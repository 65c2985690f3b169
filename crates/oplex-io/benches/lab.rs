//! Replies a second over UDP on the loopback interface, against a bare echo of the same sizes.
//!
//! `cargo bench -p oplex-io --bench lab` prints the ratio.

#![allow(clippy::print_stdout, clippy::unwrap_used, reason = "a bench prints, and should stop when it cannot go on")]

use std::path::Path;
use std::time::Duration;

use oplex::compiled::Compiled;
use oplex::plan::Plan;
use oplex_io::lab::{Load, load};

fn main() {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let read = |path: &str| std::fs::read_to_string(demo.join(path)).map_err(|error| error.to_string().into());
    let plan = Plan::read("plan.toml", &std::fs::read_to_string(demo.join("plan.toml")).unwrap(), &mut { read });
    let plan = plan.plan.unwrap();
    let compiled = Compiled::of(&plan);
    let network = plan.network("control-room").unwrap();
    // In turn, so that what else the machine does befalls both.
    let rounds: Vec<[f64; 2]> = (0..5)
        .map(|_| {
            [false, true].map(|echo| {
                let what = Load { clients: 1_000_000, time: Duration::from_secs(2), window: 32, echo };
                let loaded = load(&compiled, network, what).unwrap();
                assert_eq!(loaded.lost, 0);
                loaded.rate()
            })
        })
        .collect();
    for [served, echo] in rounds {
        println!("{served:.0} replies a second; an echo {echo:.0}: {:.2} x (limit 2)", echo / served);
    }
}
