//! Plans and codebooks in which `«` and `»` mark the characters that a finding must point at.

use oplex::check;
use oplex::codebook::Codebook;
use oplex::finding::{Finding, Sources};
use oplex::plan::Plan;

/// The text without its marks, and what stood between them.
pub(crate) fn unmarked(text: &str) -> (String, Option<std::ops::Range<usize>>) {
    let start = text.find('«');
    let end = text.find('»').map(|end| end - '«'.len_utf8());
    (text.replace(['«', '»'], ""), start.zip(end).map(|(start, end)| start..end))
}

/// A plan in which nothing is wrong but, perhaps, these lines of its network and of what that sends.
pub(crate) fn around(network: &str, sends: &str) -> String {
    format!(
        "[send.v4]\ndomain-server = [\"10.64.0.53\"]\ndomain-name = \"tarnfell.example\"\n\n\
         [network.domes]\nsubnet = \"10.64.8.0/21\"\n{network}\n[network.domes.send.v4]\nrouter = \"10.64.8.1\"\n{sends}\n"
    )
}

/// What the rules find in a plan.
pub(crate) fn in_plan(text: &str) -> Vec<Finding> {
    check::plan(&Plan::read("plan.toml", text, &mut |_| Err("no such file".into())))
}

/// What reading a codebook finds.
pub(crate) fn in_codebook(text: &str) -> Vec<Finding> {
    let mut sources = Sources::default();
    let file = sources.add("book.toml", text);
    Codebook::standard().clone().add(&sources, file)
}

/// Exactly one finding, of this rule, with this message, at the marked characters.
#[track_caller]
pub(crate) fn finds(found: impl Fn(&str) -> Vec<Finding>, marked: &str, rule: &str, message: &str) {
    let (text, span) = unmarked(marked);
    let findings = found(&text);
    let [finding] = &findings[..] else { panic!("{marked}\n{findings:#?}") };
    assert_eq!((finding.rule.name, finding.message.as_str()), (rule, message), "{marked}");
    let at = finding.spot.as_ref().map(|spot| &text[spot.span.clone()]);
    assert_eq!(at, span.map(|span| &text[span]), "{marked}");
}
