//! The nearest known word to one that nobody knows.

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
    let mut best = (0.72, None);
    for candidate in known {
        let score = score(&word, candidate);
        // The first of equals: books list what is common first.
        if score > best.0 {
            best = (score, Some(candidate));
        }
    }
    best.1
}

/// Likeness by spelling, or by one being a whole word of the other (`router` and `routers`, `gateway` and `ip-gateway`).
fn score(word: &str, candidate: &str) -> f64 {
    let candidate = candidate.to_lowercase();
    let candidate = candidate.as_str();
    let spelling = strsim::jaro_winkler(word, candidate).max(strsim::normalized_damerau_levenshtein(word, candidate));
    let part = candidate.split('-').any(|part| part == word) && word.len() > 2;
    if part { spelling.max(0.8) } else { spelling }
}

/// `; did you mean `x`?`, or nothing.
pub(crate) fn hint<'k>(word: &str, known: impl IntoIterator<Item = &'k str>) -> String {
    nearest(word, known).map_or_else(String::new, |near| format!("; did you mean `{near}`?"))
}
