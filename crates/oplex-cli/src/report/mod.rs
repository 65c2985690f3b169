//! A report: one page that holds all it shows, needs no network, and can be sent and printed.
//!
//! Whatever comes from a plan or a capture is escaped by the templates, and what acts on a reader's eyes alone, such as turning
//! the direction of writing, is spelled out when the page is written. The page itself forbids the browser all but its own style
//! and script, by their digests.

mod findings;
mod history;
mod matrix;
mod networks;
mod plan;
mod traffic;

use data_encoding::BASE64;
use maud::{DOCTYPE, Markup, PreEscaped, html};
use sha2::{Digest as _, Sha256};

use crate::map::PALETTE;
use crate::render::clean;

pub(crate) use history::History;
pub(crate) use plan::PlanReport;
pub(crate) use traffic::{Traffic, TrafficReport};

const STYLE: &str = include_str!("report.css");
const SCRIPT: &str = include_str!("report.js");

/// By this a file is known to be a report, which may be replaced.
pub(crate) const GENERATOR: &str = "<meta name=\"generator\" content=\"oplex report\">";

/// What a page says, in parts.
pub(crate) struct Page {
    pub(crate) title: String,
    /// What it is about, in a few words.
    pub(crate) about: String,
    /// The answer: whether all is well.
    pub(crate) verdict: Verdict,
    pub(crate) sections: Vec<Section>,
}

/// The answer that a report gives first.
pub(crate) struct Verdict {
    pub(crate) text: String,
    /// The class of its colour: good, odd or bad.
    pub(crate) class: &'static str,
}

/// A part of a page, with the name by which it is linked.
pub(crate) struct Section {
    pub(crate) id: &'static str,
    pub(crate) title: String,
    pub(crate) content: Markup,
}

impl Page {
    /// The page as HTML.
    pub(crate) fn html(&self) -> String {
        let style = format!("{PALETTE}{STYLE}");
        let (style_digest, script_digest) = (digest(&style), digest(SCRIPT));
        let policy = format!(
            "default-src 'none'; style-src 'sha256-{style_digest}'; script-src 'sha256-{script_digest}'; base-uri 'none'; form-action 'none'"
        );
        let made = jiff::Timestamp::now().strftime("%Y-%m-%d %H:%M UTC").to_string();
        let page = html! {
            (DOCTYPE)
            html lang="en" {
                head {
                    meta charset="utf-8";
                    meta http-equiv="Content-Security-Policy" content=(policy);
                    meta name="viewport" content="width=device-width, initial-scale=1";
                    (PreEscaped(GENERATOR))
                    title { (self.title) }
                    style { (PreEscaped(&style)) }
                }
                body {
                    header {
                        p.about { (self.about) }
                        h1 { (self.title) }
                        p.verdict.(self.verdict.class) { (self.verdict.text) }
                    }
                    nav aria-label="Parts of this report" {
                        @for section in &self.sections { a href=(format!("#{}", section.id)) { (section.title) } }
                        label.find { span { "Filter" } input #find type="search" autocomplete="off" placeholder="address, name, option"; }
                        output #found for="find" {}
                        button #theme type="button" { "Light or dark" }
                    }
                    main {
                        @for section in &self.sections {
                            section id=(section.id) { h2 { (section.title) } (section.content) }
                        }
                    }
                    footer { "Made by oplex " (env!("CARGO_PKG_VERSION")) " on " (made) ". This page loads nothing from elsewhere." }
                    script { (PreEscaped(SCRIPT)) }
                }
            }
        };
        // Once for all that is shown, so that nobody can forget it. A tab is space, and acts on no reader.
        clean::lines(&page.into_string().replace('\t', "    ")).into_owned()
    }
}

fn digest(text: &str) -> String {
    BASE64.encode(&Sha256::digest(text.as_bytes()))
}

/// `1 network`, `6 networks`.
fn counted(count: usize, what: &str) -> String {
    format!("{count} {what}{}", if count == 1 { "" } else { "s" })
}

/// A table of text, each row of which the filter can hide.
fn table(heads: &[&str], rows: &[Vec<String>]) -> Markup {
    html! {
        div.wide tabindex="0" {
            table {
                thead { tr { @for head in heads { th scope="col" { (head) } } } }
                tbody { @for row in rows { tr data-row { @for cell in row { td { (cell) } } } } }
            }
        }
    }
}
