//! Loops that take turns, so that all of them meet the same machine.

use std::hint::black_box;
use std::time::Instant;

/// Measurements of which the median counts.
const ROUNDS: usize = 301;

/// The median time of one call of each, the loops taking turns.
pub(crate) fn in_turns(calls: u32, loops: &mut [&mut dyn FnMut() -> u64]) -> Vec<f64> {
    let mut times = vec![Vec::new(); loops.len()];
    for _ in 0..ROUNDS {
        for (run, times) in loops.iter_mut().zip(&mut times) {
            let start = Instant::now();
            for _ in 0..calls {
                black_box(run());
            }
            times.push(start.elapsed().as_nanos() as f64 / f64::from(calls));
        }
    }
    for times in &mut times {
        times.sort_by(f64::total_cmp);
    }
    times.iter().map(|times| times[times.len() / 2]).collect()
}

/// A line for each, with its ratio to the first.
#[allow(dead_code, reason = "not every bench has a yardstick")]
pub(crate) fn print_ratios(what: &[&str], times: &[f64]) {
    for (what, time) in what.iter().zip(times) {
        println!("{what:<34} {time:>7.1} ns {:>6.2}x", time / times[0]);
    }
}
