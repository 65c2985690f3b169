//! The ledger of what the RFCs say, and the page that is made of it.

use serde::Deserialize;

/// All of it.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct Ledger {
    rfc: Vec<Rfc>,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
struct Rfc {
    number: u16,
    title: String,
    #[serde(default = "yes")]
    at_hand: bool,
    rows: Vec<Row>,
}

fn yes() -> bool {
    true
}

/// One statement.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct Row {
    /// Empty where the RFC has no numbered sections.
    section: String,
    says: String,
    held: Vec<String>,
}

/// How a statement stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Standing {
    Held,
    Undecidable,
    Open,
}

impl Row {
    fn standing(&self) -> Standing {
        let all_none = self.held.iter().all(|held| held.starts_with("none: "));
        match () {
            () if self.held.iter().any(|held| held.starts_with("open: ")) => Standing::Open,
            () if all_none => Standing::Undecidable,
            () => Standing::Held,
        }
    }
}

impl Ledger {
    pub(crate) fn read(text: &str) -> Result<Self, String> {
        toml::from_str(text).map_err(|error| format!("rfc-ledger.toml: {error}"))
    }

    fn count(&self, standing: Standing) -> usize {
        self.rfc.iter().map(|rfc| rfc.count(standing)).sum()
    }

    /// The page.
    pub(crate) fn page(&self) -> String {
        let [held, none, open] = COLUMNS.map(|(standing, _)| self.count(standing));
        let mut page = format!(
            "# RFCs\n\nWhat {} RFCs say of options' payloads, of where options may stand and of which messages may carry them: \
             {held} statements are held,\n{none} cannot be decided from octets, {open} are open. The statements are in words of our \
             own. This page is generated from `rfc-ledger.toml`:\n`cargo run -p xtask -- generate`.\n\n\
             | RFC | title | held | not decidable | open |\n|---|---|---|---|---|\n",
            self.rfc.len()
        );
        for rfc in &self.rfc {
            let [held, none, open] = COLUMNS.map(|(standing, _)| rfc.count(standing));
            let mark = if rfc.at_hand { "" } else { " (text not at hand)" };
            page += &format!("| [{0}](#rfc-{0}) | {1}{mark} | {held} | {none} | {open} |\n", rfc.number, rfc.title);
        }
        for rfc in &self.rfc {
            page += &format!(
                "\n## RFC {}\n\n{}\n\n| section | it says | held by |\n|---|---|---|\n",
                rfc.number, rfc.title
            );
            for row in &rfc.rows {
                let held: Vec<String> = row.held.iter().map(|held| shown(held)).collect();
                page += &format!("| {} | {} | {} |\n", row.section, escaped(&row.says), held.join("; "));
            }
        }
        page
    }
}

const COLUMNS: [(Standing, &str); 3] =
    [(Standing::Held, "held"), (Standing::Undecidable, "not decidable"), (Standing::Open, "open")];

impl Rfc {
    fn count(&self, standing: Standing) -> usize {
        self.rows.iter().filter(|row| row.standing() == standing).count()
    }
}

/// What holds a statement, with a link to the rule.
fn shown(held: &str) -> String {
    match held.split_once(' ') {
        Some(("rule", name)) => format!("[`{name}`](rules.md#{name})"),
        Some((kind @ ("layout" | "fact"), id)) => format!("{kind} `{id}`"),
        Some(("open:", what)) => format!("**open:** {}", escaped(what)),
        Some(("none:", why)) => format!("not decidable: {}", escaped(why)),
        _ => held.to_owned(),
    }
}

fn escaped(text: &str) -> String {
    text.replace('|', "\\|")
}

#[cfg(test)]
mod tests {
    use oplex::check;
    use oplex::codebook::{Codebook, Definition};

    use super::{Ledger, Rfc, Standing};

    fn ledger() -> Ledger {
        Ledger::read(&std::fs::read_to_string("../rfc-ledger.toml").unwrap()).unwrap()
    }

    /// Whether a codebook says anything of the option besides its form.
    fn has_facts(option: &Definition) -> bool {
        !option.messages.is_empty()
            || !option.within.is_empty()
            || !option.holds.is_empty()
            || option.several
            || option.joined
            || option.single
            || option.no_nul
            || !option.requestable
            || option.is_own_of(oplex::family::Protocol::V6)
    }

    #[test]
    fn every_row_names_something_that_exists() {
        let (ledger, codebook) = (ledger(), Codebook::standard());
        let mut wrong = Vec::new();
        for row in ledger.rfc.iter().flat_map(|rfc| &rfc.rows) {
            assert!(!row.says.is_empty() && !row.held.is_empty(), "{row:?}");
            for held in &row.held {
                let right = match held.split_once(' ') {
                    Some(("layout", id)) => codebook.find(id).is_ok(),
                    Some(("fact", id)) => codebook.find(id).is_ok_and(|option| has_facts(option)),
                    Some(("rule", name)) => check::catalogue().iter().any(|rule| rule.name == name),
                    Some(("none:" | "open:", why)) => !why.is_empty(),
                    _ => matches!(held.as_str(), "composer" | "answerer" | "reader"),
                };
                if !right {
                    wrong.push(format!("{held}: {}", row.says));
                }
            }
        }
        assert!(wrong.is_empty(), "{wrong:#?}");
    }

    /// The numbers of RFCs in a reference, each with the sections that are named of it.
    fn references(text: &str) -> Vec<(u16, Vec<String>)> {
        let parts = text.split("RFC ").skip(1).filter_map(|part| {
            let digits = part.find(|c: char| !c.is_ascii_digit()).unwrap_or(part.len());
            let number = part[..digits].parse().ok()?;
            // Of a table in a section the section counts, and a title has no number.
            let rest = part[digits..].split("table").next()?.split('"').next()?;
            let sections = rest.split(|c: char| !(c.is_ascii_alphanumeric() || c == '.'));
            let sections = sections.map(|section| section.trim_matches('.'));
            let sections = sections.filter(|section| section.starts_with(|c: char| c.is_ascii_digit()));
            Some((number, sections.map(str::to_owned).collect()))
        });
        parts.collect()
    }

    fn has(rfc: &Rfc, sections: &[String], held: &str) -> bool {
        rfc.rows
            .iter()
            .any(|row| row.held.iter().any(|one| one == held) || (sections.contains(&row.section) && held.is_empty()))
    }

    #[test]
    fn every_reference_has_a_row() {
        let (ledger, codebook) = (ledger(), Codebook::standard());
        let mut missing = Vec::new();
        let mut look = |what: String, reference: &str| {
            for (number, sections) in references(reference) {
                let rfc = ledger.rfc.iter().find(|rfc| rfc.number == number);
                let right = rfc.is_some_and(|rfc| has(rfc, &sections, &what) || has(rfc, &sections, ""));
                if !right {
                    missing.push(format!("{what}: RFC {number} {sections:?}"));
                }
            }
        };
        for option in codebook.definitions() {
            look(format!("layout {}", option.id()), &option.reference);
        }
        for rule in check::catalogue() {
            look(format!("rule {}", rule.name), rule.rfc);
        }
        assert!(missing.is_empty(), "{missing:#?}");
    }

    #[test]
    fn what_is_open_is_said() {
        let ledger = ledger();
        for rfc in &ledger.rfc {
            for row in rfc.rows.iter().filter(|row| row.standing() == Standing::Open) {
                println!("RFC {}, section {}: {} ({})", rfc.number, row.section, row.says, row.held.join("; "));
            }
        }
        assert!(ledger.count(Standing::Held) > 800 && ledger.count(Standing::Open) < 20);
    }
}
