//! The nearest known word to an unknown one.
//!
//! Every place where a person may mistype a name asks here: options, keys, networks, fleets, rules, commands. A word is near when few
//! letters are wrong, missing, doubled or swapped for its length, and nothing is suggested that is as far off as a word of one's own
//! choosing would be.

use crate::prelude::*;
use alloc::borrow::Cow;

/// As many words of a list anybody reads.
const SHOWN: usize = 24;

/// No name is longer.
const LONGEST: usize = 80;

/// The known word most like `word`, when one is near enough to be what was meant.
#[must_use]
pub fn nearest<'k>(word: &str, known: impl IntoIterator<Item = &'k str>) -> Option<&'k str> {
    // Nothing known is near to anything this long, and finding that out takes as long as both together.
    if word.len() > LONGEST {
        return None;
    }
    let word = word.to_lowercase();
    let letters = Letters::of(&word);
    let mut best = (0.72, None);
    for candidate in known {
        let lower = if candidate.bytes().any(|octet| !octet.is_ascii() || octet.is_ascii_uppercase()) {
            Cow::Owned(candidate.to_lowercase())
        } else {
            Cow::Borrowed(candidate)
        };
        let score = score(&word, &letters, &lower, best.0);
        // The first of equals: books list what is common first.
        if score > best.0 {
            best = (score, Some(candidate));
        }
    }
    best.1
}

/// Without `std` nothing is alike: the measures are not at hand, and neither is a terminal to suggest anything on.
#[cfg(not(feature = "std"))]
fn score(_: &str, _: &Letters, _: &str, _: f64) -> f64 {
    0.0
}

/// Likeness by spelling, or by one being a whole word of the other (`router` and `routers`, `gateway` and `ip-gateway`).
/// Where it cannot be more than `least`, less may come back: most words share too few letters to look any closer.
#[cfg(feature = "std")]
fn score(word: &str, letters: &Letters, candidate: &str, least: f64) -> f64 {
    let part = word.len() > 2 && candidate.split('-').any(|part| part == word);
    let (near, edits) = letters.at_most(&Letters::of(candidate));
    let mut score: f64 = if part { 0.8 } else { 0.0 };
    if near > least {
        score = score.max(strsim::jaro_winkler(word, candidate));
    }
    if edits > least {
        score = score.max(strsim::normalized_damerau_levenshtein(word, candidate));
    }
    score
}

/// How many of each letter a word has. Different letters may be counted together, which makes words seem more alike.
struct Letters {
    counts: [u8; 64],
    all: usize,
}

impl Letters {
    fn of(word: &str) -> Self {
        let mut letters = Self { counts: [0; 64], all: 0 };
        for letter in word.chars() {
            let count = &mut letters.counts[letter as usize % 64];
            *count = count.saturating_add(1);
            letters.all += 1;
        }
        letters
    }

    /// The most that two words can be alike which share no more letters than these, by either measure.
    fn at_most(&self, other: &Self) -> (f64, f64) {
        let shared: u32 = self.counts.iter().zip(&other.counts).map(|(one, other)| u32::from(*one.min(other))).sum();
        let [shared, one, other] = [shared as f64, self.all.max(1) as f64, other.all.max(1) as f64];
        let jaro = (shared / one + shared / other + 1.0) / 3.0;
        // A common beginning adds four tenths of what is missing at most.
        (jaro + 0.4 * (1.0 - jaro), shared / one.max(other))
    }
}

/// The words with commas between them, of many the first and how many more there are.
#[must_use]
pub fn some_of<'k>(words: impl IntoIterator<Item = &'k str>) -> String {
    let mut words = words.into_iter();
    let mut text = words.by_ref().take(SHOWN).collect::<Vec<_>>().join(", ");
    match words.count() {
        0 => {}
        more => text.push_str(&format!(" and {more} more")),
    }
    text
}

/// `; did you mean `x`?`, or nothing.
pub(crate) fn hint<'k>(word: &str, known: impl IntoIterator<Item = &'k str>) -> String {
    nearest(word, known).map_or_else(String::new, |near| format!("; did you mean `{near}`?"))
}
