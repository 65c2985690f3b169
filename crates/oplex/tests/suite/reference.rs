//! The examples of `docs/layouts.md`.

use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::layout::{Input, Layout, Role};
use oplex::octets::hex;
use oplex::packet::Message as _;
use oplex::packet::v4::Message;
use oplex::specimen::Specimen;

const REFERENCE: &str = include_str!("../../../../docs/layouts.md");

/// The cells of the table rows that hold an example: a layout, a value and its octets, each in backticks.
fn examples() -> Vec<[&'static str; 3]> {
    let cells = |line: &'static str| {
        let cells: Vec<&str> = line.strip_prefix("| `")?.strip_suffix("` |")?.split("` | `").collect();
        <[&str; 3]>::try_from(cells).ok()
    };
    REFERENCE.lines().filter_map(cells).collect()
}

#[test]
fn every_example_has_the_octets_shown_and_decodes_to_its_value() {
    let codebook = Codebook::standard();
    for [layout, text, octets] in examples() {
        let parsed = Layout::parse_with(layout, codebook).unwrap_or_else(|error| panic!("{layout}: {error}"));
        let reading =
            parsed.read(codebook, &Input::from_text(text)).unwrap_or_else(|wrong| panic!("{layout}: {wrong:?}"));
        assert_eq!(hex::plain(&parsed.encode(codebook, &reading.value).unwrap().octets), octets, "{layout}");
        let (value, faults) = parsed.decode(codebook, &hex::parse(octets).unwrap());
        assert_eq!(faults, [], "{layout}");
        assert_eq!(value.unwrap().to_string(), text, "{layout}");
    }
}

#[test]
fn every_word_of_the_language_has_an_example() {
    let shown: Vec<&str> = examples().into_iter().map(|[layout, ..]| layout).collect();
    let words = |layout: &'static str| layout.split(|c: char| !c.is_ascii_alphanumeric() && c != '-');
    let roles = Role::ALL.iter().skip(1).map(|(word, _)| *word);
    for word in Layout::words().chain(roles).chain(["in", "of", "flags", "as", "else"]) {
        assert!(shown.iter().any(|layout| words(layout).any(|at| at == word)), "{word} has no example");
    }
}

/// The book of `docs/codebooks.md` is one that nothing is wrong with.
#[test]
fn the_codebook_in_the_documentation_can_be_read() {
    let page = include_str!("../../../../docs/codebooks.md");
    let book = page.split("```toml\n").nth(1).unwrap().split("```").next().unwrap();
    assert_eq!(crate::marked::in_codebook(book), []);
    let option = page.split("## In messages").nth(1).unwrap().split("```toml\n").nth(1).unwrap();
    let option = option.split("```").next().unwrap();
    assert_eq!(crate::marked::in_codebook(&format!("book = \"hill\"\ntitle = \"Hill\"\n{option}")), []);
}

/// The message of `docs/messages.md` is what the page says.
#[test]
fn the_message_in_the_documentation_can_be_written() {
    let page = include_str!("../../../../docs/messages.md");
    let text = page.split("```toml\n").nth(1).unwrap().split("```").next().unwrap();
    let specimen = Specimen::read(Protocol::V4, "offer.toml", text, &mut |path| panic!("{path}"));
    assert_eq!(specimen.findings, []);
    let octets = specimen.octets.unwrap();
    let message = Message::read(&octets).unwrap();
    assert_eq!(oplex::check::message(Codebook::standard(), message), []);
    assert_eq!(message.options().map(|option| option.code()).collect::<Vec<_>>(), [53, 54, 51, 1, 3, 6, 15]);
    assert!(message.file().starts_with(b"domes/controller.efi\0"));

    let text = page.split("## Router advertisements").nth(1).unwrap().split("```toml\n").nth(1).unwrap();
    let specimen =
        Specimen::read(Protocol::Ra, "ra.toml", text.split("```").next().unwrap(), &mut |path| panic!("{path}"));
    assert_eq!(specimen.findings, []);
    let octets = specimen.octets.unwrap();
    let message = oplex::packet::ra::Message::read(&octets).unwrap();
    assert_eq!(oplex::check::message(Codebook::standard(), message), []);
    assert_eq!(message.options().map(|option| option.code()).collect::<Vec<_>>(), [3, 25, 37]);
}

/// The plan of `docs/plans.md` is one that nothing is wrong with, and every key of its table is one.
#[test]
fn the_plan_in_the_documentation_is_right() {
    let page = include_str!("../../../../docs/plans.md");
    let text = page.split("```toml\n").nth(1).unwrap().split("```").next().unwrap();
    assert_eq!(crate::marked::in_plan(text), []);
    let keys = page
        .split("## What a fleet is recognised by")
        .nth(1)
        .unwrap()
        .split("| any option |")
        .next()
        .unwrap()
        .lines()
        .filter_map(|line| line.strip_prefix("| `"));
    let keys: Vec<&str> = keys
        .flat_map(|line| line.split('|').next().unwrap().split(['`', ',', ' ']))
        .filter(|key| !key.is_empty())
        .collect();
    assert_eq!(keys.len(), 10);
    for key in keys {
        let value = match key {
            "mac" => "06:*",
            "enterprise" | "arch" => "9",
            _ => "x",
        };
        let fleet = format!("{text}\n[fleet.other]\nmatch = {{ {key} = \"{value}\" }}\n");
        let found = crate::marked::in_plan(&fleet);
        assert!(found.iter().all(|finding| finding.rule.name == "fleets-disagree"), "{key}: {found:#?}");
    }
}

/// The page on plans names every key that a plan may have, in its tables or beside them.
#[test]
fn the_page_on_plans_is_complete() {
    let page = include_str!("../../../../docs/plans.md");
    for (table, keys) in oplex::plan::keys() {
        for key in keys {
            assert!(page.contains(&format!("`{key}`")), "{key} of {table}");
        }
    }
    // And no other: a key in the first column of a table is one.
    let known: Vec<&str> = oplex::plan::keys().into_iter().flat_map(|(_, keys)| keys).copied().collect();
    let boot = ["url", "params", "host", "file"];
    let facts = ["any option"];
    for row in page.lines().filter_map(|line| line.strip_prefix("| `")) {
        for key in row.split('|').next().unwrap().split(['`', ',', ' ']).filter(|key| !key.is_empty()) {
            assert!(known.contains(&key) || boot.contains(&key) || facts.contains(&key), "{key}");
        }
    }
}
