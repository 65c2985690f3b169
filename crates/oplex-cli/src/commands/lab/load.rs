//! How much load a server bears.

use std::io::Write;
use std::time::Duration;

use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex_io::lab::{Load, Loaded, load};

use crate::args::{Format, LabLoad};
use crate::commands::audit::page::plural;
use crate::commands::releases;
use crate::exit::{DONE, ERRORS, Outcome, because};
use crate::forms::{self, LoadForm};
use crate::render::octets::facts;
use crate::render::style::{BAD, STRONG, in_style};

/// As many requests wait for their replies at a time.
const WINDOW: u32 = 32;

/// It lasts no longer.
const LONGEST: u32 = 600;

pub(super) fn run(args: &LabLoad, out: &mut dyn Write) -> Outcome {
    let loaded = releases::plan(&args.plan, &args.store, args.trust)?;
    let plan = releases::readable(&loaded, &args.plan)?;
    let compiled = Compiled::of(plan);
    let network = super::network(&compiled, &args.network)?;
    if !plan.networks[network].sides.has(Family::V4) || plan.networks[network].sides.v4.pools.is_empty() {
        return because(format!(
            "{} leases no IPv4 addresses, which is what the clients of this load request",
            args.network
        ));
    }
    if args.time > LONGEST {
        return because("--for is ten minutes at most");
    }
    // Each client gives its address back, so half of them are enough for those that ask at a time.
    let pools = plan.networks[network].sides.v4.pools.iter().map(|pool| pool.last.to_bits() - pool.first.to_bits() + 1);
    let window = (pools.fold(0u32, u32::saturating_add) / 2).clamp(1, WINDOW) as usize;
    let time = Duration::from_secs(args.time.into());
    let one = |echo| load(&compiled, network, Load { clients: args.clients, time, window, echo });
    let (seen, echo) = (one(false)?, one(true)?);
    match args.format.format {
        Format::Json => forms::document(out, "oplex-load/1", &LoadForm::of(args.clients, &seen, &echo))?,
        Format::Text => draw(window, &seen, &echo, out)?,
    }
    Ok(if seen.lost > 0 { ERRORS } else { DONE })
}

fn draw(window: usize, seen: &Loaded, echo: &Loaded, out: &mut dyn Write) -> std::io::Result<()> {
    let lost = match seen.lost {
        0 => "nothing lost".to_owned(),
        lost => in_style(BAD, format!("{} lost", plural(lost, "request"))),
    };
    let rate = in_style(STRONG, format!("{:.0} replies a second", seen.rate()));
    writeln!(out, "{rate} over UDP on the loopback interface, {lost}\n")?;
    let micros = |time: Duration| format!("{} µs", time.as_micros());
    let latencies = [50, 90, 99, 100].map(|percent| format!("{percent} % in {}", micros(seen.percentile(percent))));
    facts(
        out,
        &[
            (
                "leased",
                format!(
                    "{} addresses in {:.1} s, with {window} requests at a time",
                    seen.leased,
                    seen.time.as_secs_f64()
                ),
            ),
            ("latency", latencies.join(", ")),
            (
                "an echo",
                format!(
                    "of the same sizes makes {:.0} a second, {:.2} times as many",
                    echo.rate(),
                    echo.rate() / seen.rate()
                ),
            ),
        ],
    )
}
