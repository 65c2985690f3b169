//! Reading a codebook file.

use std::collections::{HashMap, HashSet};

use super::definition::{Carrier, SENDERS, STATUSES};
use super::facts::KINDS;
use super::file_facts::CONTENT;
use super::file_parts::CHAPTER;
use super::lint::{self, CODE_REPEATED, Destination, LAYOUT_AMBIGUOUS, LAYOUT_MALFORMED, Subject};
use super::{Chapter, Codebook, Definition, Sender, Service, Status, Text};
use crate::document::{Reader, Table};
use crate::family::{Family, Protocol};
use crate::finding::{FileId, Finding, Severity, Sources, Spot};
use crate::nearest;

const TOP: [&str; 9] =
    ["book", "title", "enterprise", "carriers", "chapter", "enumeration", "flags", "message", "option"];
const OPTION: [&str; 28] = [
    "code",
    "codes",
    "name",
    "title",
    "chapter",
    "layout",
    "summary",
    "status",
    "replaced-by",
    "sent-by",
    "single",
    "automatic",
    "joined",
    "requestable",
    "service",
    "nul",
    "several",
    "within",
    "same-as",
    "holds",
    "carries",
    "messages",
    "rfc",
    "section",
    "reference",
    "example",
    "words",
    "aliases",
];

/// The keys that a codebook file may have, by the table they stand in: what an editor completes.
#[must_use]
pub fn file_keys() -> Vec<(&'static str, Vec<&'static str>)> {
    vec![
        ("codebook", [&TOP[..], &["carrier"]].concat()),
        ("option", [&OPTION[..], &["carrier"]].concat()),
        ("chapter", CHAPTER.to_vec()),
        ("content", CONTENT.to_vec()),
        ("row of messages", KINDS.iter().map(|(word, _)| *word).chain(["when", "reference"]).collect()),
    ]
}

pub(super) fn read(codebook: &mut Codebook, sources: &Sources, file: FileId) -> Vec<Finding> {
    let text = &sources.get(file).text;
    let reader = Reader::new(file, text);
    let mut book = Book {
        reader,
        codebook,
        standard: false,
        enterprise: None,
        own: 0,
        carriers: Vec::new(),
        changed: HashSet::new(),
        codes: HashMap::new(),
        names: HashMap::new(),
    };
    if let Some(table) = book.reader.parse() {
        book.top(&table);
    }
    for (_, chapter) in book.codebook.chapters.iter_mut().enumerate().filter(|(index, _)| book.changed.contains(index))
    {
        chapter.index();
    }
    book.reader.findings.into_vec()
}

pub(super) struct Book<'s, 'c> {
    pub(super) reader: Reader<'s>,
    pub(super) codebook: &'c mut Codebook,
    /// Whether it is one of those that come with Oplex.
    standard: bool,
    enterprise: Option<u32>,
    /// The chapter of the book's own options.
    own: usize,
    carriers: Vec<Carrier>,
    /// The chapters that got options out of this file.
    changed: HashSet<usize>,
    /// The codes this file has given, with the options that have them, and where.
    codes: HashMap<(usize, u16), (String, Spot)>,
    /// The names this file has given, and where.
    names: HashMap<(usize, String), Spot>,
}

impl<'s> Book<'s, '_> {
    fn top(&mut self, table: &Table<'s>) {
        self.reader.only(table, &[&TOP[..], &["carrier"]].concat(), "a codebook");
        let Some((name, name_spot)) = self.reader.text(table, "book") else {
            if !table.contains_key("book") {
                self.reader.missing(0..0, "book", "\"tern\"");
            }
            return;
        };
        self.reader.text(table, "title");
        let enterprise = self.reader.number(table, "enterprise", u32::MAX.into()).map(|(number, _)| number as u32);
        self.carriers = self.carriers_of(table, "carriers", enterprise);
        if self.codebook.chapter_named(name).is_some() {
            let finding = lint::BOOK_NAME_TAKEN.finding(format!("another codebook is already named `{name}`"));
            return self.reader.findings.push(finding.at(name_spot).advice("a name of its own"));
        }
        let before = self.codebook.chapters.len();
        self.chapters(table);
        // Only the books that come with Oplex say how their own options stand.
        let own = self.codebook.chapters.iter().skip(before).position(|chapter| *chapter.name == *name);
        self.standard = own.is_some();
        self.own = own.map_or_else(|| self.vendor_chapter(name, enterprise), |own| before + own);
        self.enterprise = enterprise;
        self.enumerations(table, "enumeration", "values");
        self.enumerations(table, "flags", "bits");
        self.closed_messages(table, name);
        for (option, span) in self.reader.tables(table, "option") {
            self.option(option, span);
        }
    }

    fn vendor_chapter(&mut self, name: &str, enterprise: Option<u32>) -> usize {
        // RFC 2132, section 8.4: within option 43, 0 pads and 255 ends.
        let pad_and_end = self.carriers.contains(&Carrier::IN_43);
        self.codebook.push_chapter(Chapter::of_vendor(name.to_owned().into(), pad_and_end, enterprise))
    }

    /// `v4` and `v6` (an option of its own), `v4:82`, `v4:43`, and with the book's enterprise number `v4:124`, `v4:125` and `v6:17`.
    fn carriers_of(&mut self, table: &Table<'s>, key: &str, enterprise: Option<u32>) -> Vec<Carrier> {
        let mut carriers = Vec::new();
        for (text, spot) in self.reader.texts(table, key) {
            carriers.push(match (text, enterprise) {
                ("v4", _) => Carrier::Own(Family::V4),
                ("v6", _) => Carrier::Own(Family::V6),
                ("v4:82", _) => Carrier::Relay,
                ("v4:43", _) => Carrier::IN_43,
                ("v4:124", Some(_)) => Carrier::Vendor { family: Family::V4, code: 124, enterprise },
                ("v4:125", Some(_)) => Carrier::Vendor { family: Family::V4, code: 125, enterprise },
                ("v6:17", Some(_)) => Carrier::Vendor { family: Family::V6, code: 17, enterprise },
                ("v4:124" | "v4:125" | "v6:17", None) => {
                    self.reader.wrong_kind(spot.span, format!("{text} needs the vendor's number; add `enterprise`"));
                    continue;
                }
                _ => {
                    let message = format!(
                        "nothing travels in `{text}`; v4, v4:43, v4:82, v4:124, v4:125, v6 and v6:17 carry options"
                    );
                    self.reader.wrong_kind(spot.span, message);
                    continue;
                }
            });
        }
        carriers
    }

    fn option(&mut self, table: &Table<'s>, span: std::ops::Range<usize>) {
        self.reader.only(table, &[&OPTION[..], &["carrier"]].concat(), "an option");
        let Some((codes, code_spot)) = self.codes(table, &span) else { return };
        let (Some((name, name_spot)), Some((layout, layout_spot))) =
            (self.needed(table, "name", &span), self.needed(table, "layout", &span))
        else {
            return;
        };
        let chapter = match self.reader.text(table, "chapter") {
            Some((chapter, spot)) => match self.codebook.chapters.iter().position(|at| *at.name == *chapter) {
                Some(chapter) => chapter,
                None => return self.reader.wrong_kind(spot.span, format!("unknown chapter `{chapter}`")),
            },
            None => self.own,
        };
        let own = self.carriers_of(table, "carrier", self.enterprise);
        let carriers = match (own.is_empty(), chapter == self.own) {
            (false, _) => own,
            (true, true) => self.carriers.clone(),
            (true, false) => Vec::new(),
        };
        let several = codes.clone().count() > 1;
        for code in codes {
            let name = if several { format!("{name}-{code}") } else { name.to_owned() };
            let before = self.reader.findings.len();
            self.clash(chapter, code, &name, &code_spot, &name_spot);
            let definition = self.definition(table, chapter, code, &name, layout, &carriers);
            if !self.standard {
                self.lint(table, &definition, chapter, [&code_spot, &name_spot, &layout_spot]);
            }
            // A code that is another's must not take its place.
            let barred = |finding: &Finding| finding.severity == Severity::Error && lint::is_about_code(finding.rule);
            if !self.reader.findings[before..].iter().any(barred) {
                self.changed.extend(self.codebook.insert(chapter, definition));
            }
        }
    }

    /// What there is to say about an option of a vendor's or a site's book.
    fn lint(&mut self, table: &Table<'s>, definition: &Definition, chapter: usize, [code, name, layout]: [&Spot; 3]) {
        self.check_layout(definition, layout);
        let place = match definition.carriers.first() {
            Some(Carrier::Own(family)) => {
                Destination::Own(*family, self.codebook.own(family.protocol(), definition.code))
            }
            Some(Carrier::Relay) => Destination::Relay(
                self.codebook.chapter_named("relay-agent").and_then(|at| at.get(definition.code)).map(|at| &**at),
            ),
            Some(_) if !definition.travels_in(Protocol::V4) => Destination::InDhcpv6,
            _ if self.codebook.chapters[chapter].pad_and_end => Destination::PadAndEnd,
            _ => Destination::Inside,
        };
        let example = table.get("example").map(|node| self.reader.spot(node.span()));
        for (about, finding) in lint::option(self.codebook, definition, place) {
            let spot = match about {
                Subject::Code => code,
                Subject::Name => name,
                Subject::Layout => layout,
                Subject::Example => example.as_ref().unwrap_or(layout),
            };
            self.reader.findings.push(finding.at(spot.clone()));
        }
    }

    fn needed<'d>(
        &mut self,
        table: &'d Table<'s>,
        key: &str,
        span: &std::ops::Range<usize>,
    ) -> Option<(&'d str, Spot)> {
        if !table.contains_key(key) {
            let example = if key == "layout" { "\"ipv4+\"" } else { "\"settings\"" };
            self.reader.missing(span.clone(), key, example);
        }
        self.reader.text(table, key)
    }

    /// `code = 4`, or `codes = "224-254"` for options that differ in nothing else.
    fn codes(
        &mut self,
        table: &Table<'s>,
        span: &std::ops::Range<usize>,
    ) -> Option<(std::ops::RangeInclusive<u16>, Spot)> {
        if let Some((range, spot)) = self.reader.text(table, "codes") {
            let ends = range.split_once('-').and_then(|(a, b)| Some((a.parse().ok()?, b.parse().ok()?)));
            return match ends {
                Some((first, last)) if first <= last && last - first < 256 => Some((first..=last, spot)),
                _ => {
                    self.reader.wrong_kind(
                        spot.span,
                        format!("`{range}` is not a range of up to 256 codes; write \"224-254\""),
                    );
                    None
                }
            };
        }
        if !table.contains_key("code") {
            self.reader.missing(span.clone(), "code", "4");
            return None;
        }
        self.reader.number(table, "code", 65_535).map(|(code, spot)| (code as u16..=code as u16, spot))
    }

    fn clash(&mut self, chapter: usize, code: u16, name: &str, code_spot: &Spot, name_spot: &Spot) {
        let by_code = self.codes.insert((chapter, code), (name.to_owned(), code_spot.clone()));
        let by_name = self.names.insert((chapter, name.to_owned()), name_spot.clone());
        let finding = match (by_code, by_name) {
            (Some((other, first)), _) => {
                let finding = CODE_REPEATED.finding(format!("code {code} is already taken by `{other}`"));
                finding.at(code_spot.clone()).related(first, "first given here")
            }
            (None, Some(first)) => {
                let finding = CODE_REPEATED.finding(format!("name `{name}` is already taken"));
                finding.at(name_spot.clone()).related(first, "first given here")
            }
            (None, None) => return,
        };
        self.reader.findings.push(finding);
    }

    fn check_layout(&mut self, definition: &Definition, spot: &Spot) {
        let Err(error) = definition.layout_or_error(self.codebook) else { return };
        let inner = spot.span.start + 1;
        let span = inner + error.span.start..inner + error.span.end.max(error.span.start + 1);
        let span = if span.end < spot.span.end && !error.ambiguous { span } else { spot.span.clone() };
        let rule = if error.ambiguous { &LAYOUT_AMBIGUOUS } else { &LAYOUT_MALFORMED };
        self.reader.findings.push(rule.finding(error.message.clone()).at(Spot { span, ..spot.clone() }));
    }

    fn definition(
        &mut self,
        table: &Table<'s>,
        chapter: usize,
        code: u16,
        name: &str,
        layout: &str,
        carriers: &[Carrier],
    ) -> Definition {
        let (reference, rfcs) = self.reference(table);
        let (holds, messages) = (self.holds(table, &reference).into(), self.messages(table, &reference).into());
        let reader = &mut self.reader;
        let boxed = |texts: Vec<(&str, Spot)>| texts.into_iter().map(|(text, _)| Text::from(text.to_owned())).collect();
        Definition {
            prefix: self.codebook.chapters[chapter].prefix.clone().into(),
            code,
            name: name.to_owned().into(),
            title: reader.text(table, "title").map_or(name, |(title, _)| title).to_owned().into(),
            aliases: boxed(reader.texts(table, "aliases")),
            words: boxed(reader.texts(table, "words")),
            summary: reader.text(table, "summary").map_or("", |(summary, _)| summary).to_owned().into(),
            layout_text: layout.to_owned().into(),
            layout: crate::once::Once::new(),
            picked: crate::once::Once::new(),
            carries: word(reader, table, "carries", &Protocol::ALL.map(|protocol| (protocol.name(), protocol))),
            single: reader.flag(table, "single"),
            sent_by: word(reader, table, "sent-by", &SENDERS).unwrap_or(if carriers.contains(&Carrier::Relay) {
                Sender::Relay
            } else {
                Sender::Server
            }),
            automatic: reader.flag(table, "automatic"),
            joined: reader.flag(table, "joined"),
            requestable: !table.contains_key("requestable") || reader.flag(table, "requestable"),
            service: word(reader, table, "service", &Service::ALL.map(|service| (service.name(), service))),
            no_nul: word(reader, table, "nul", &[("forbidden", true), ("tolerated", false)]).unwrap_or(false),
            same_as: reader.text(table, "same-as").map(|(text, _)| text.to_owned().into()),
            holds,
            messages,
            several: reader.flag(table, "several"),
            within: numbers(reader, table, "within", "the codes of options").into(),
            status: word(reader, table, "status", &STATUSES).unwrap_or(Status::Current),
            replaced_by: reader.text(table, "replaced-by").map(|(text, _)| text.to_owned().into()),
            reference: reference.into(),
            rfcs: rfcs.into(),
            example: reader.text(table, "example").map(|(text, _)| text.to_owned().into()),
            carriers: carriers.to_vec(),
        }
    }
}

/// Numbers of 16 bits: one, or a list.
pub(super) fn numbers<'s>(reader: &mut Reader<'s>, table: &Table<'s>, key: &str, what: &str) -> Vec<u16> {
    let Some(node) = table.get(key) else { return Vec::new() };
    let crate::layout::InputKind::List(items) = reader.written(node).kind else {
        return reader.number(table, key, 65_535).map(|(number, _)| number as u16).into_iter().collect();
    };
    let number = |item: &crate::layout::Input| match item.kind {
        crate::layout::InputKind::Integer(number) => u16::try_from(number).ok(),
        _ => None,
    };
    let numbers: Vec<u16> = items.iter().filter_map(number).collect();
    if numbers.len() < items.len() {
        reader.wrong_kind(node.span(), format!("`{key}` holds {what}"));
    }
    numbers
}

pub(super) fn word<'s, T: Copy>(
    reader: &mut Reader<'s>,
    table: &Table<'s>,
    key: &str,
    words: &[(&str, T)],
) -> Option<T> {
    let (value, _) = reader.parsed(table, key, |text| {
        let found = words.iter().find(|(word, _)| *word == text).map(|(_, value)| *value);
        let known = || words.iter().map(|(word, _)| *word);
        found.ok_or_else(|| {
            let all = known().collect::<Vec<_>>().join(", ");
            format!("`{text}` is not one of {all}{}", nearest::hint(text, known()))
        })
    })?;
    Some(value)
}
