//! What a shell completes where an option or a rule is to be named.

use std::collections::BTreeMap;

use clap_complete::CompletionCandidate;
use oplex::check;
use oplex::codebook::{Codebook, Definition};
use oplex::family::Protocol;

/// The variable by which a shell says that it wants completions, and which shell it is.
pub(crate) const VARIABLE: &str = "OPLEX_COMPLETE";

/// The standard options, by their names with the protocol in front, and without: some shells end a word at the colon.
pub(crate) fn options() -> Vec<CompletionCandidate> {
    let codebook = Codebook::standard();
    let all = Protocol::ALL.into_iter().flat_map(|protocol| {
        codebook.own_definitions(protocol).map(move |option| (format!("{}:{}", protocol.name(), option.name), option))
    });
    let sub_options = codebook.definitions().filter(|option| option.id().outer().is_some());
    let sub_options = sub_options.map(|option| (option.id().to_string(), option));
    let mut plain: BTreeMap<&str, &Definition> = BTreeMap::new();
    for option in Protocol::ALL.into_iter().flat_map(|protocol| codebook.own_definitions(protocol)) {
        plain.entry(&option.name).or_insert(option);
    }
    let plain = plain.into_iter().map(|(name, option)| (name.to_owned(), option));
    let all = all.chain(sub_options).chain(plain);
    all.map(|(name, option)| CompletionCandidate::new(name).help(Some(option.summary.to_string().into()))).collect()
}

/// The same, and whole messages.
pub(crate) fn options_and_messages() -> Vec<CompletionCandidate> {
    let messages =
        [("v4", "a whole DHCPv4 message"), ("v6", "a whole DHCPv6 message"), ("ra", "a router advertisement")];
    let messages = messages.map(|(name, what)| CompletionCandidate::new(name).help(Some(what.into())));
    messages.into_iter().chain(options()).collect()
}

/// The rules.
pub(crate) fn rules() -> Vec<CompletionCandidate> {
    let all = check::catalogue().into_iter();
    all.map(|rule| CompletionCandidate::new(rule.name).help(Some(rule.summary.into()))).collect()
}
