//! Looking an option up by anything a person may know about it.

use super::{Codebook, Definition, Status};
use crate::prelude::*;

/// How well an option answers a search; smaller is better.
fn rank(option: &Definition, query: &str) -> Option<u8> {
    let has = |text: &str| text.to_lowercase().contains(query);
    let word = |text: &str| text.to_lowercase().split(|c: char| !c.is_alphanumeric()).any(|part| part == query);
    let number = query.trim_start_matches("rfc").trim();
    let rfc = query.starts_with("rfc").then(|| number.parse::<u16>().ok()).flatten();
    Some(match () {
        () if option.id().to_string() == query || option.is_called(query) => 0,
        () if query.parse() == Ok(option.code) => 1,
        () if option.book() == query && !option.is_standard() => 1,
        () if rfc.is_some_and(|rfc| option.rfcs.contains(&rfc)) => 1,
        () if word(&option.name) => 2,
        () if option.words.iter().any(|at| **at == *query) => 3,
        () if has(&option.name) || has(&option.title) => 4,
        () if query.len() > 2 && has(&option.summary) => 5,
        () => return None,
    })
}

impl Codebook {
    /// Options that `query` may mean, best first: by id, name, code, part of a name, RFC (`rfc 3442`), or a word of
    /// what they are for.
    ///
    /// ```
    /// let found = oplex::codebook::Codebook::standard().search("gateway");
    /// assert_eq!(found[0].id().to_string(), "v4:3");
    /// ```
    #[must_use]
    pub fn search(&self, query: &str) -> Vec<&Definition> {
        let query = query.trim().to_lowercase();
        if query.is_empty() {
            return Vec::new();
        }
        let ranked = self.definitions().filter_map(|option| Some((rank(option, &query)?, option)));
        let mut ranked: Vec<_> = ranked.collect();
        // Among equals, what is no longer to be used comes last.
        ranked.sort_by_key(|(rank, option)| (*rank, option.status != Status::Current));
        // An exact name means that option.
        let exact = ranked.first().is_some_and(|(rank, _)| *rank == 0);
        ranked.into_iter().filter(|(rank, _)| !exact || *rank == 0).map(|(_, option)| option).collect()
    }
}
