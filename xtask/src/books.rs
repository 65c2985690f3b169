//! The standard codebooks as constants.

use std::fmt::Write;

use oplex::codebook::{ClosedMessage, Codebook, Definition, Service, Text};
use oplex::family::Protocol;
use oplex::finding::Sources;
use oplex::layout::Enumeration;

/// The standard codebooks, which are given as name and text, as their files have them.
///
/// # Errors
/// What is wrong with the codebooks.
pub(crate) fn read(books: &[(&str, &str)]) -> Result<Codebook, String> {
    let mut codebook = Codebook::default();
    let mut sources = Sources::default();
    for (name, text) in books {
        let file = sources.add(*name, *text);
        let findings = codebook.add(&sources, file);
        if let Some(finding) = findings.first() {
            return Err(format!("{name}: {}", finding.message));
        }
    }
    Ok(codebook)
}

const HEAD: &str =
    "//! Generated from `codebooks/*.toml`: do not edit. `cargo run -p xtask -- generate` writes it anew.\n\n";

/// What a file of rows uses, by its own place.
fn imports(constants: &str, above: &str, rows: &str) -> String {
    let used = |names: &[&str], shape: &dyn Fn(&str) -> String| {
        let used: Vec<&str> = names.iter().copied().filter(|name| rows.contains(&shape(name))).collect();
        used.join(", ")
    };
    let when = used(&["Informing", "Leasing"], &|name| format!("Some({name})"));
    let kinds = ["Allowed", "Barred", "Discouraged", "Requestable", "Required", "Several", "Unrequestable"];
    let kinds = used(&kinds, &|name| format!("({name}, &["));
    let mut text = format!("use {above}constants::{constants};\n");
    for (of, names) in [("facts::Condition", when), ("facts::MessageFactKind", kinds)] {
        if !names.is_empty() {
            let _ = writeln!(text, "use {above}{of}::{{{names}}};");
        }
    }
    text + &format!("use {above}{{Sender, Status}};\n\n")
}

/// The chapters so large that each has a file of its own.
const LARGE: [&str; 2] = ["v4", "v6"];

/// The generated files of the standard codebooks: their names below `standard/`, and their texts.
pub(crate) fn files(codebook: &Codebook) -> Vec<(String, String)> {
    let large = codebook.chapters().iter().filter(|chapter| LARGE.contains(&&*chapter.name));
    let own = large.map(|chapter| {
        let rows = chapter.options().map(|option| format!("    {},\n", generate_row(option)));
        let (rows, count) = (rows.collect::<String>(), chapter.options().count());
        let imports = imports("OptionRow", "crate::codebook::", &rows);
        let text = format!("{HEAD}{imports}pub(super) static OPTIONS: [OptionRow; {count}] = [\n{rows}];\n");
        (format!("{}.rs", chapter.name), text)
    });
    std::iter::once(("mod.rs".to_owned(), text(codebook))).chain(own).collect()
}

/// The text of `standard/mod.rs`.
fn text(codebook: &Codebook) -> String {
    let mut text = format!("pub(super) static CHAPTERS: [ChapterRow; {}] = [\n", codebook.chapters().len());
    for chapter in codebook.chapters() {
        let octets = (chapter.code_octets, chapter.length_octets);
        let _ = write!(
            text,
            "    ChapterRow {{ name: {:?}, prefix: {:?}, octets: {octets:?}, options: &",
            chapter.name, chapter.prefix
        );
        if LARGE.contains(&&*chapter.name) {
            let _ = writeln!(text, "{}::OPTIONS }},", chapter.name);
            continue;
        }
        text.push_str("[\n");
        for option in chapter.options() {
            let _ = writeln!(text, "        {},", generate_row(option));
        }
        text.push_str("    ] },\n");
    }
    let modules: String = LARGE.iter().map(|name| format!("mod {name};\n")).collect();
    let imports = imports("{ChapterRow, Named, OptionRow, Tables}", "super::", &text);
    let mut text = format!("{HEAD}{modules}\n{imports}{text}];\n");
    for (what, list) in [("ENUMERATIONS", codebook.enumerations()), ("FLAGS", codebook.flags())] {
        let _ = writeln!(text, "\npub(super) static {what}: [Named; {}] = [", list.len());
        for named in list {
            let Enumeration { name, open, members } = &**named;
            let _ = writeln!(text, "    Named {{ name: {name:?}, open: {open}, members: &{members:?} }},");
        }
        text.push_str("];\n");
    }
    let _ = writeln!(text, "\npub(super) static CLOSED: [(&str, u8, &str); {}] = [", codebook.closed_messages().len());
    for ClosedMessage { book, number, reference } in codebook.closed_messages() {
        let _ = writeln!(text, "    ({book:?}, {number}, {reference:?}),");
    }
    text.push_str("];\n\npub(super) static TABLES: Tables =\n");
    text.push_str("    Tables { chapters: &CHAPTERS, enumerations: &ENUMERATIONS, flags: &FLAGS, closed: &CLOSED };\n");
    text
}

/// A list, each item as this writes it.
fn listed<T>(items: &[T], item: impl Fn(&T) -> String) -> String {
    format!("&[{}]", items.iter().map(item).collect::<Vec<_>>().join(", "))
}

fn generate_row(option: &Definition) -> String {
    let holds = listed(&option.holds, |one| {
        format!("(&{:?}, {}, {:?}, {:?})", one.options, one.least, one.most, one.reference)
    });
    let messages = listed(&option.messages, |one| {
        format!("({:?}, &{:?}, {:?}, {:?})", one.kind, one.types, one.when, one.reference)
    });
    format!(
        "OptionRow {{ code: {}, texts: {:?}, holds: {holds}, messages: {messages}, within: &{:?}, sent_by: Sender::{:?}, \
         status: Status::{:?}, rfcs: &{:?} }}",
        option.code,
        texts(option),
        option.within,
        option.sent_by,
        option.status,
        option.rfcs,
    )
}

/// The texts of an option in one, as the constants have them.
fn texts(option: &Definition) -> String {
    let list = |items: &[Text]| {
        assert!(items.iter().all(|item| !item.contains(',')), "a comma ends an item: {}", option.label());
        items.join(",")
    };
    let given = |text: &Option<Text>| text.as_deref().unwrap_or_default().to_owned();
    let texts = [
        option.name.to_string(),
        option.title.to_string(),
        list(&option.aliases),
        list(&option.words),
        option.summary.to_string(),
        option.layout_text.to_string(),
        flags(option).join(","),
        given(&option.same_as),
        given(&option.replaced_by),
        option.reference.to_string(),
        given(&option.example),
    ];
    assert!(texts.iter().all(|text| !text.contains('\t')), "a tab ends a text: {}", option.label());
    texts.join("\t")
}

/// What is yes or no about an option.
fn flags(option: &Definition) -> Vec<&'static str> {
    let all = [
        ("single", option.single),
        ("automatic", option.automatic),
        ("carries-v4", option.carries == Some(Protocol::V4)),
        ("carries-v6", option.carries == Some(Protocol::V6)),
        ("joined", option.joined),
        ("several", option.several),
        ("unrequestable", !option.requestable),
        ("no-nul", option.no_nul),
    ];
    let named = all.into_iter().filter(|(_, on)| *on).map(|(name, _)| name);
    named.chain(option.service.map(Service::name)).collect()
}

/// What is made of the constants is what the books say: written anew from the one, they are those of the other.
#[test]
fn the_standard_codebook_is_what_the_books_say() {
    let (written, standard) = (crate::standard().expect("the books can be read"), files(Codebook::standard()));
    for ((name, one), (_, other)) in files(&written).iter().zip(&standard) {
        for (one, other) in one.lines().zip(other.lines()) {
            assert_eq!(one, other, "{name}");
        }
    }
}
