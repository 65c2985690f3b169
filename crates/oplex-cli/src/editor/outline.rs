//! What stands where in a TOML file: every key and every value with its path, also while the file is being written and is no TOML.

use std::ops::Range;
use std::rc::Rc;

use toml_parser::parser::{Event, EventKind, RecursionGuard, parse_document};
use toml_parser::{ErrorSink, Source};

/// The names that lead to a key. What several have in common is there once, as a text may be nothing but dots and names.
#[derive(Debug, Clone, Default)]
pub(super) struct Path(Option<Rc<Part>>);

#[derive(Debug)]
struct Part {
    above: Path,
    name: String,
    length: usize,
}

impl Path {
    /// A key under this one.
    fn under(&self, name: String) -> Self {
        Self(Some(Rc::new(Part { above: self.clone(), name, length: self.length() + 1 })))
    }

    fn length(&self) -> usize {
        self.0.as_ref().map_or(0, |part| part.length)
    }

    /// The table that the key is in.
    pub(super) fn above(&self) -> Self {
        self.0.as_ref().map_or_else(Self::default, |part| part.above.clone())
    }

    /// The names, from the top.
    pub(super) fn names(&self) -> Vec<&str> {
        let parts = std::iter::successors(self.0.as_deref(), |part| part.above.0.as_deref());
        let mut names: Vec<&str> = parts.map(|part| part.name.as_str()).collect();
        names.reverse();
        names
    }
}

/// A key or a value.
#[derive(Debug, Clone)]
pub(super) struct Piece {
    /// Where it stands: of a key its own path, of a value that of its key.
    pub(super) path: Path,
    pub(super) span: Range<usize>,
    pub(super) is_key: bool,
    /// A value as text, without quotes; a key is the last of its path.
    pub(super) text: String,
}

/// What may be written somewhere.
#[derive(Debug, Clone)]
pub(super) enum Place {
    /// A key of the table at this path.
    Key(Path),
    /// A value of the key at this path.
    Value(Path),
    /// The heading of a table, of which this much is written.
    Heading(Path),
}

/// All of it, in the order of the text.
#[derive(Debug, Default)]
pub(super) struct Outline {
    pub(super) pieces: Vec<Piece>,
    /// From each of these octets on, what may be written there.
    places: Vec<(usize, Place)>,
}

/// Tables and lists that are nested deeper are passed over.
const DEEPEST: u32 = 64;

impl Outline {
    pub(super) fn of(text: &str) -> Self {
        let source = Source::new(text);
        let tokens = source.lex().into_vec();
        let mut events: Vec<Event> = Vec::new();
        let mut guard = RecursionGuard::new(&mut events, DEEPEST);
        parse_document(&tokens, &mut guard, &mut ());
        let mut reader = Reader { source, outline: Self::default(), ..Reader::new(source) };
        reader.place(0, Place::Key(Path::default()));
        events.iter().for_each(|event| reader.event(event));
        // What is missing in a text that is no TOML is told behind what follows it.
        let Self { mut pieces, mut places } = reader.outline;
        pieces.sort_by_key(|piece| piece.span.start);
        places.sort_by_key(|(start, _)| *start);
        Self { pieces, places }
    }

    /// The key or value that stands at an octet, or ends there.
    pub(super) fn at(&self, octet: usize) -> Option<&Piece> {
        let behind = self.pieces.partition_point(|piece| piece.span.start <= octet);
        self.pieces[..behind].last().filter(|piece| octet <= piece.span.end)
    }

    pub(super) fn place(&self, octet: usize) -> Place {
        let behind = self.places.partition_point(|(start, _)| *start <= octet);
        self.places[..behind].last().map_or_else(|| Place::Key(Path::default()), |(_, place)| place.clone())
    }
}

/// A table in braces, or a list, that has not ended.
enum Open {
    /// The path of the table that it is in, and its own.
    Table(Path, Path),
    List,
}

struct Reader<'t> {
    source: Source<'t>,
    outline: Outline,
    /// The table that keys are in.
    table: Path,
    /// The key that is written, or whose value is.
    key: Path,
    /// Whether the next key is a further part of the same: behind a dot.
    dotted: bool,
    in_heading: bool,
    open: Vec<Open>,
}

impl<'t> Reader<'t> {
    fn new(source: Source<'t>) -> Self {
        Self {
            source,
            outline: Outline::default(),
            table: Path::default(),
            key: Path::default(),
            dotted: false,
            in_heading: false,
            open: Vec::new(),
        }
    }

    fn place(&mut self, from: usize, place: Place) {
        self.outline.places.push((from, place));
    }

    fn event(&mut self, event: &Event) {
        let (start, end) = (event.span().start(), event.span().end());
        match event.kind() {
            EventKind::StdTableOpen | EventKind::ArrayTableOpen => {
                self.open.clear();
                self.table = Path::default();
                (self.in_heading, self.dotted) = (true, false);
                self.place(end, Place::Heading(Path::default()));
            }
            EventKind::StdTableClose | EventKind::ArrayTableClose => {
                self.in_heading = false;
                self.place(end, Place::Key(self.table.clone()));
            }
            EventKind::SimpleKey => self.key(event),
            EventKind::KeySep => {
                self.dotted = true;
                let place = match self.in_heading {
                    true => Place::Heading(self.table.clone()),
                    false => Place::Key(self.key.clone()),
                };
                self.place(end, place);
            }
            EventKind::KeyValSep => self.place(end, Place::Value(self.key.clone())),
            EventKind::Scalar => {
                let text = self.decoded(event, false);
                self.outline.pieces.push(Piece { path: self.key.clone(), span: start..end, is_key: false, text });
            }
            EventKind::ArrayOpen => {
                self.open.push(Open::List);
                self.place(end, Place::Value(self.key.clone()));
            }
            EventKind::InlineTableOpen => {
                let outer = std::mem::replace(&mut self.table, self.key.clone());
                self.open.push(Open::Table(outer, self.key.clone()));
                self.dotted = false;
                self.place(end, Place::Key(self.table.clone()));
            }
            EventKind::ArrayClose | EventKind::InlineTableClose => {
                if let Some(Open::Table(outer, key)) = self.open.pop() {
                    (self.table, self.key) = (outer, key);
                }
                self.place(end, Place::Value(self.key.clone()));
            }
            EventKind::ValueSep => {
                let place = match self.open.last() {
                    Some(Open::Table(..)) => Place::Key(self.table.clone()),
                    _ => Place::Value(self.key.clone()),
                };
                self.dotted = false;
                self.place(end, place);
            }
            EventKind::Newline if self.open.is_empty() => {
                (self.in_heading, self.dotted) = (false, false);
                self.place(end, Place::Key(self.table.clone()));
            }
            _ => {}
        }
    }

    fn key(&mut self, event: &Event) {
        let dotted = std::mem::take(&mut self.dotted);
        // Behind a dot it is under what is before the dot, else in the table.
        let above = if self.in_heading || !dotted { &self.table } else { &self.key };
        if above.length() >= DEEPEST as usize {
            return;
        }
        let name = self.decoded(event, true);
        let path = above.under(name.clone());
        *(if self.in_heading { &mut self.table } else { &mut self.key }) = path.clone();
        let span = event.span().start()..event.span().end();
        self.outline.pieces.push(Piece { path, span, is_key: true, text: name });
    }

    fn decoded(&self, event: &Event, is_key: bool) -> String {
        let Some(raw) = self.source.get(event) else { return String::new() };
        let mut text = std::borrow::Cow::Borrowed("");
        let errors: &mut dyn ErrorSink = &mut ();
        if is_key {
            raw.decode_key(&mut text, errors);
        } else {
            let _ = raw.decode_scalar(&mut text, errors);
        }
        text.into_owned()
    }
}
