//! Durations as people read them.

use crate::prelude::*;
/// `28800` as `8h`, [`u32::MAX`] as `infinite`.
#[must_use]
pub fn duration_text(seconds: u32) -> String {
    if seconds == u32::MAX {
        return "infinite".to_owned();
    }
    spell(seconds.into())
}

/// The same for any number of seconds.
pub(in crate::layout) fn spell(seconds: u128) -> String {
    let mut text = String::new();
    let mut rest = seconds;
    for (unit, size) in [("d", 86_400), ("h", 3600), ("m", 60), ("s", 1)] {
        if rest >= size {
            text.push_str(&format!("{}{unit}", rest / size));
            rest %= size;
        }
    }
    if text.is_empty() { "0s".to_owned() } else { text }
}

/// The milliseconds that a duration comes to: `8h`, `1d12h`, `2s500ms`; `None` for what is none.
pub(in crate::layout) fn parts(text: &str) -> Option<u128> {
    let mut total = 0u128;
    let mut rest = text;
    while !rest.is_empty() {
        let digits = rest.find(|c: char| !c.is_ascii_digit())?;
        let number: u128 = rest[..digits].parse().ok()?;
        rest = rest[digits..].trim_start();
        let unit = rest.find(|c: char| !c.is_ascii_alphabetic()).unwrap_or(rest.len());
        total = total.checked_add(number.checked_mul(milliseconds(&rest[..unit])?)?)?;
        rest = rest[unit..].trim_start();
    }
    (!text.is_empty()).then_some(total)
}

/// How many milliseconds a unit has.
fn milliseconds(unit: &str) -> Option<u128> {
    Some(match unit {
        "ms" => 1,
        "s" | "sec" | "second" | "seconds" => 1000,
        "m" | "min" | "minute" | "minutes" => 60_000,
        "h" | "hour" | "hours" => 3_600_000,
        "d" | "day" | "days" => 86_400_000,
        "w" | "week" | "weeks" => 604_800_000,
        _ => return None,
    })
}
