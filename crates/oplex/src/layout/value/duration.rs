//! Durations as people read them.

use crate::prelude::*;
/// `28800` as `8h`, [`u32::MAX`] as `infinite`.
#[must_use]
pub fn duration_text(seconds: u32) -> String {
    if seconds == u32::MAX {
        return "infinite".to_owned();
    }
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
