//! One file for each command.

use std::borrow::Cow;
use std::io::{Read, Write};
use std::path::Path;

use oplex::codebook::{Codebook, Definition, Unknown};
use oplex::finding::{Sources, any_error};
use oplex::octets::hex;

use crate::args::{Args, Books, Command, OctetForm};
use crate::exit::{Failure, Outcome, because};
use crate::render::findings;
use crate::render::style::{BAD, in_style};

mod audit;
mod changes;
mod check;
mod decode;
mod diff;
mod editor;
mod encode;
mod history;
mod input;
mod lab;
mod lookup;
mod message;
mod new;
mod probe;
mod publish;
mod rehearse;
mod releases;
mod replies;
mod report;
mod revert;
mod rules;
mod sheet;
mod shell;
mod show;
mod tour;
mod verify;

pub(crate) use check::Checked;
pub(crate) use check::files::is_ours;
pub(crate) use check::fix::path_of;
pub(crate) use editor::serve as serve_editor;

/// Does what was typed.
pub(crate) fn run(args: Args, out: &mut dyn Write) -> Outcome {
    match args.command {
        Command::Lookup(args) => lookup::run(&args, out),
        Command::Encode(args) => encode::run(&args, out),
        Command::Decode(args) => decode::run(&args, out),
        Command::Check(args) => check::run(&args, out),
        Command::New(args) => new::run(&args, out),
        Command::Diff(args) => diff::run(&args, out),
        Command::Show(args) => show::run(&args, out),
        Command::Rehearse(args) => rehearse::run(&args, out),
        Command::Publish(args) => publish::run(&args, out),
        Command::History(args) => history::run(&args, out),
        Command::Revert(args) => revert::run(&args, out),
        Command::Verify(args) => verify::run(&args, out),
        Command::Audit(args) => audit::run(&args, out),
        Command::Report(args) => report::run(&args, out),
        Command::Editor(args) => editor::run(&args, out),
        Command::Shell(args) => shell::run(&args, out),
        Command::Probe(args) => probe::run(&args, out),
        Command::Lab(args) => lab::run(&args, out),
        Command::Rules(args) => rules::run(&args, out),
        Command::Tour(args) => tour::run(&args, out),
    }
}

/// The standard codebook and those that were named.
fn codebook(books: &Books) -> Result<Cow<'static, Codebook>, Failure> {
    if books.codebooks.is_empty() {
        return Ok(Cow::Borrowed(Codebook::standard()));
    }
    let mut codebook = Codebook::standard().clone();
    let mut sources = Sources::default();
    for path in &books.codebooks {
        let file = sources.add(path.display().to_string(), oplex_io::files::text(path)?);
        let found = codebook.add(&sources, file);
        if any_error(&found) {
            let drawn: Vec<String> = found.iter().map(|finding| findings::draw(finding, &sources)).collect();
            let why = format!("the codebook {} cannot be used\n\n{}", shown(path), drawn.join("\n"));
            return Err(Failure::Drawn(why));
        }
    }
    Ok(Cow::Owned(codebook))
}

/// The option that was named.
fn option<'c>(codebook: &'c Codebook, query: &str) -> Result<&'c Definition, Failure> {
    match codebook.find(query) {
        Ok(definition) => Ok(definition),
        Err(unknown) => no_such(&unknown),
    }
}

fn no_such<T>(unknown: &Unknown) -> Result<T, Failure> {
    because(format!("{unknown}\nTo search: oplex lookup {}", words(&unknown.query)))
}

/// The last part of an id, for a search.
fn words(query: &str) -> &str {
    query.rsplit([':', '/']).next().unwrap_or(query)
}

/// The argument, or standard input for `-`.
fn argument(text: &str) -> Result<String, Failure> {
    if text != "-" {
        return Ok(text.to_owned());
    }
    match String::from_utf8(standard_input()?) {
        Ok(text) => Ok(text.strip_suffix('\n').map(str::to_owned).unwrap_or(text)),
        Err(_) => because("standard input is not text in UTF-8"),
    }
}

/// As many octets are read from standard input.
const MOST_READ: u64 = 64 << 20;

fn standard_input() -> Result<Vec<u8>, Failure> {
    let mut octets = Vec::new();
    match std::io::stdin().lock().take(MOST_READ + 1).read_to_end(&mut octets) {
        Ok(_) if octets.len() as u64 > MOST_READ => {
            because(format!("standard input is longer than {} MB, more than is read", MOST_READ >> 20))
        }
        Ok(_) => Ok(octets),
        Err(error) => because(format!("standard input: {}", oplex_io::files::reason(&error))),
    }
}

/// A path for a message, with nothing a terminal would act on.
pub(crate) fn shown(path: &Path) -> String {
    crate::render::clean::line(&path.display().to_string()).into_owned()
}

/// Writes octets in the form that was requested.
#[expect(clippy::disallowed_methods, reason = "raw octets are for no terminal")]
fn put(out: &mut dyn Write, octets: &[u8], form: OctetForm) -> std::io::Result<()> {
    let text = match form {
        OctetForm::Hex => hex::plain(octets),
        OctetForm::Colon => hex::colon(octets),
        OctetForm::Spaced => hex::spaced(octets),
        OctetForm::Base64 => data_encoding::BASE64.encode(octets),
        OctetForm::Escaped => hex::escaped(octets),
        // `out` takes away what a terminal would act on, and these octets are for no terminal.
        OctetForm::Raw => return std::io::stdout().lock().write_all(octets),
    };
    writeln!(out, "{text}")
}

/// How many errors a plan has.
fn errors(loaded: &oplex::plan::Loaded) -> usize {
    let found = releases::findings(loaded);
    let errors = found.iter().filter(|finding| finding.severity == oplex::finding::Severity::Error);
    errors.map(|finding| 1 + finding.more).sum()
}

/// Says first that a plan has errors, as what follows leaves out what is wrong.
fn draw_errors(errors: usize, what: &str, out: &mut dyn Write) -> std::io::Result<()> {
    let count = if errors == 1 { "1 error".to_owned() } else { format!("{errors} errors") };
    match errors {
        0 => Ok(()),
        _ => writeln!(
            out,
            "{}",
            in_style(BAD, format!("{what} has {count}; run oplex check. What follows leaves out what is wrong."))
        ),
    }
}
