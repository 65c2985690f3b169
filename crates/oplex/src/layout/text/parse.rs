//! From a layout's text to its tree.

use crate::prelude::*;
use alloc::sync::Arc;
use core::ops::Range;

use crate::layout::form::atom::{Atom, Count, Enumeration, Head, Meaning, Number};
use crate::layout::lex::{Token, tokens};
use crate::layout::node::{Choice, Field, Nested, Node, PADDED_TO, Prefix, SLOTS, Selector};
use crate::layout::{LayoutError, Vocabulary, validate};
use crate::nearest;

/// Deeper nesting than any option needs; keeps hostile text from exhausting the stack.
const DEPTH: usize = 24;
/// More characters than any layout of an option has; what reads values is quadratic in the fields of a record.
const LONGEST: usize = 16_384;
/// As deep as parentheses may stand in each other, most of which add nothing to the layout.
const PARENTHESES: usize = 64;

/// The words that stand in front of parts of parts.
pub(in crate::layout) const FORMS: [&str; 8] = ["len8", "len16", "padded8", "zeros", "options", "by", "pairs", "bits"];

pub(in crate::layout) fn parse(text: &str, vocabulary: &dyn Vocabulary) -> Result<Node, LayoutError> {
    if text.len() > LONGEST {
        let message = format!("a layout is up to {LONGEST} characters long, this one has {}", text.len());
        return Err(LayoutError::new(LONGEST..text.len(), message));
    }
    let tokens = tokens(text)?;
    let mut parser = Parser { tokens, at: 0, depth: 0, vocabulary, scopes: Vec::new(), slots: 0 };
    let node = parser.layout()?;
    match parser.peek() {
        Token::End if validate::depth(&node) > DEPTH => Err(LayoutError::new(0..text.len(), too_deep())),
        Token::End => Ok(node),
        other => {
            Err(LayoutError::new(parser.span(), format!("unexpected {} after the end of the layout", other.describe())))
        }
    }
}

/// A field that a later choice may name, while its record is being read.
struct Known {
    name: Box<str>,
    slot: Option<u8>,
    number: Option<Number>,
}

pub(in crate::layout) struct Parser<'t> {
    pub(in crate::layout) tokens: Vec<(Token<'t>, Range<usize>)>,
    pub(in crate::layout) at: usize,
    depth: usize,
    pub(in crate::layout) vocabulary: &'t dyn Vocabulary,
    scopes: Vec<Vec<Known>>,
    slots: u8,
}

pub(in crate::layout) type Parsed<T> = Result<T, LayoutError>;

impl<'t> Parser<'t> {
    pub(in crate::layout) fn peek(&self) -> &Token<'t> {
        &self.tokens[self.at].0
    }

    pub(in crate::layout) fn span(&self) -> Range<usize> {
        self.tokens[self.at].1.clone()
    }

    pub(in crate::layout) fn next(&mut self) -> Token<'t> {
        let token = self.tokens[self.at].0.clone();
        if token != Token::End {
            self.at += 1;
        }
        token
    }

    pub(in crate::layout) fn eat(&mut self, sign: &'static str) -> bool {
        let found = *self.peek() == Token::Sign(sign);
        self.at += usize::from(found);
        found
    }

    pub(in crate::layout) fn eat_word(&mut self, word: &str) -> bool {
        let found = matches!(self.peek(), Token::Word(at) if *at == word);
        self.at += usize::from(found);
        found
    }

    pub(in crate::layout) fn expected<T>(&self, what: &str) -> Parsed<T> {
        Err(LayoutError::new(self.span(), format!("expected {what}, found {}", self.peek().describe())))
    }

    pub(in crate::layout) fn expect(&mut self, sign: &'static str) -> Parsed<()> {
        if self.eat(sign) { Ok(()) } else { self.expected(&format!("`{sign}`")) }
    }

    pub(in crate::layout) fn word(&mut self, what: &str) -> Parsed<&'t str> {
        match *self.peek() {
            Token::Word(word) => {
                self.at += 1;
                Ok(word)
            }
            _ => self.expected(what),
        }
    }

    pub(in crate::layout) fn number<N: TryFrom<i128>>(&mut self, what: &str) -> Parsed<N> {
        let span = self.span();
        let negative = self.eat("-");
        let Token::Number(number) = *self.peek() else { return self.expected(what) };
        self.at += 1;
        N::try_from(if negative { -number } else { number })
            .map_err(|_| LayoutError::new(span, format!("`{number}` is too large for {what}")))
    }

    /// Items up to `close`, with commas between them; a comma after the last is fine.
    pub(in crate::layout) fn items<T>(
        &mut self,
        close: &'static str,
        mut item: impl FnMut(&mut Self) -> Parsed<T>,
    ) -> Parsed<Vec<T>> {
        let mut items = Vec::new();
        while !self.eat(close) {
            items.push(item(self)?);
            if !self.eat(",") {
                self.expect(close)?;
                break;
            }
        }
        Ok(items)
    }

    pub(in crate::layout) fn layout(&mut self) -> Parsed<Node> {
        self.depth += 1;
        if self.depth > PARENTHESES {
            return Err(LayoutError::new(self.span(), too_deep()));
        }
        let mut node = self.primary()?;
        for signs in 0.. {
            let span = self.span();
            node = if self.eat("+") {
                repeated(node, Count::SOME)
            } else if self.eat("*") {
                repeated(node, Count::ANY)
            } else if self.eat("?") {
                Node::Optional(Box::new(node))
            } else if *self.peek() == Token::Sign("{") {
                let count = self.count()?;
                repeated(node, count)
            } else {
                break;
            };
            if signs > DEPTH {
                return Err(LayoutError::new(span, too_deep()));
            }
        }
        self.depth -= 1;
        Ok(node)
    }

    fn count(&mut self) -> Parsed<Count> {
        let start = self.span().start;
        self.expect("{")?;
        let min = self.number("a number of repeats")?;
        let max = if self.eat("..=") || self.eat("..") {
            if *self.peek() == Token::Sign("}") { None } else { Some(self.number("a number of repeats")?) }
        } else {
            Some(min)
        };
        let span = start..self.span().end;
        self.expect("}")?;
        if max.is_some_and(|max: usize| max < min || max == 0) {
            return Err(LayoutError::new(span, "no number fits this range; write the smaller end first".to_owned()));
        }
        Ok(Count { min, max })
    }

    fn primary(&mut self) -> Parsed<Node> {
        let span = self.span();
        if self.eat("{") {
            return self.record();
        }
        if self.eat("(") {
            let inner = self.layout()?;
            self.expect(")")?;
            return Ok(inner);
        }
        let word = self.word("a layout such as `ipv4`, `{ … }` or `len8(…)`")?;
        match word {
            "len8" => self.sized(1),
            "len16" => self.sized(2),
            "padded8" => self.padded(),
            "zeros" => self.zeros(span),
            "options" => self.options(),
            "by" => self.choice(),
            "pairs" => self.pairs(),
            "bits" => self.bits(),
            _ => self.atom(word, span).map(Node::Atom),
        }
    }

    fn record(&mut self) -> Parsed<Node> {
        let open = self.tokens[self.at - 1].1.clone();
        self.scopes.push(Vec::new());
        let mut fields = self.items("}", |parser| {
            let span = parser.span();
            let name: Box<str> = parser.word("a field name")?.into();
            parser.expect(":")?;
            let node = parser.layout()?;
            let twice = parser.scopes.last_mut().is_some_and(|scope| {
                let number = if let Node::Atom(Atom::Number(number)) = &node { Some(number.clone()) } else { None };
                let twice = scope.iter().any(|known| known.name == name);
                scope.push(Known { name: name.clone(), slot: None, number });
                twice
            });
            if twice {
                return Err(LayoutError::new(span, format!("the field `{name}` is already there")));
            }
            Ok(Field { name, node, keep: None })
        })?;
        for (field, known) in fields.iter_mut().zip(self.scopes.pop().unwrap_or_default()) {
            field.keep = known.slot;
        }
        if fields.is_empty() {
            return Err(LayoutError::new(open, "a record needs at least one field; `empty` is no octets".to_owned()));
        }
        Ok(Node::Record(fields))
    }

    /// `len8(X)`, `len16(X)`, and `len8+2(X)` where the number counts two octets more than X has.
    fn sized(&mut self, octets: usize) -> Parsed<Node> {
        let span = self.span();
        let extra = if self.eat("+") { self.number("how many octets more the length counts")? } else { 0 };
        if extra > 64 {
            let message = format!("the length counts {extra} octets more than the part has; 64 is the most");
            return Err(LayoutError::new(span, message));
        }
        self.expect("(")?;
        let inner = self.layout()?;
        self.expect(")")?;
        Ok(Node::Sized(Prefix { octets, extra }, Box::new(inner)))
    }

    /// `padded8(X)`, and `padded8+2(X)` where two octets before it count, too.
    fn padded(&mut self) -> Parsed<Node> {
        let span = self.span();
        let before: usize = if self.eat("+") { self.number("how many octets before it count, too")? } else { 0 };
        if before >= PADDED_TO {
            return Err(LayoutError::new(span, format!("{before} octets before it; {} is the most", PADDED_TO - 1)));
        }
        self.expect("(")?;
        let inner = self.layout()?;
        self.expect(")")?;
        Ok(Node::Padded(before, Box::new(inner)))
    }

    fn zeros(&mut self, span: Range<usize>) -> Parsed<Node> {
        match self.count()? {
            Count { min, max: Some(max) } if min == max && (1..=16).contains(&min) => Ok(Node::Zeros(min)),
            _ => Err(LayoutError::new(span, "write how many, 1 to 16: `zeros{2}`".to_owned())),
        }
    }

    fn options(&mut self) -> Parsed<Node> {
        self.expect("(")?;
        let span = self.span();
        let chapter: Box<str> = self.word("the name of a chapter")?.into();
        let by = if self.eat_word("by") { Some(self.selector()?) } else { None };
        self.expect(")")?;
        let (index, header) = match self.vocabulary.chapter_header(&chapter) {
            Some(found) => found,
            // Which chapter it is shows only in the payload; all that are picked by a number have short headers.
            None if by.is_some() => (usize::MAX, 2),
            None => return Err(self.unknown(span, "chapter", &chapter, self.vocabulary.chapters())),
        };
        Ok(Node::Options(Nested { chapter, index, header, count: Count::SOME, by }))
    }

    pub(in crate::layout) fn selector(&mut self) -> Parsed<Selector> {
        let span = self.span();
        let name = self.word("the name of an earlier field")?;
        let flag = if self.eat(".") { Some(self.word("the name of a flag")?) } else { None };
        let next_slot = self.slots;
        let earlier: Vec<&str> = self.scopes.iter().flatten().map(|known| &*known.name).collect();
        let missing = LayoutError::new(
            span.clone(),
            format!("there is no earlier field `{name}`{}", nearest::hint(name, earlier)),
        );
        let Some(known) = self.scopes.iter_mut().rev().flatten().find(|known| *known.name == *name) else {
            return Err(missing);
        };
        let Some(number) = &known.number else {
            return Err(LayoutError::new(span, format!("`{name}` is not a number, so it cannot select a form")));
        };
        let mask = match flag {
            Some(flag) => Some(
                flag_of(number, flag)
                    .ok_or_else(|| LayoutError::new(span.clone(), format!("`{name}` has no flag named `{flag}`")))?,
            ),
            None => None,
        };
        let slot = *known.slot.get_or_insert(next_slot);
        if slot == next_slot {
            self.slots += 1;
        }
        if usize::from(self.slots) > SLOTS {
            return Err(LayoutError::new(span, format!("at most {SLOTS} fields of a layout may select a form")));
        }
        let text = flag.map_or_else(|| name.to_owned(), |flag| format!("{name}.{flag}"));
        Ok(Selector { text: text.into(), slot, mask })
    }

    fn choice(&mut self) -> Parsed<Node> {
        let by = self.selector()?;
        self.expect("{")?;
        let mut otherwise = None;
        let arms = self.items("}", |parser| {
            let span = parser.span();
            let number = if parser.eat_word("else") { None } else { Some(parser.number("a number or `else`")?) };
            parser.expect("=>")?;
            let node = parser.layout()?;
            Ok((number, node, span))
        })?;
        let mut numbered: Vec<(u64, Node)> = Vec::new();
        for (number, node, span) in arms {
            match number {
                Some(number) if numbered.iter().any(|(at, _)| *at == number) => {
                    return Err(LayoutError::new(span, format!("{number} is already chosen above")));
                }
                Some(number) => numbered.push((number, node)),
                None => otherwise = Some(Box::new(node)),
            }
        }
        Ok(Node::Choice(Choice { by, arms: numbered, otherwise }))
    }

    /// The name of an enumeration in the codebook, or one written on the spot: `{ off = 0, on = 1 }`.
    pub(in crate::layout) fn enumeration(&mut self, flags: bool) -> Parsed<Arc<Enumeration>> {
        if self.eat("{") {
            let members = self.items("}", |parser| {
                let name: Box<str> = parser.word("a name")?.into();
                parser.expect("=")?;
                Ok((parser.number("a number")?, name))
            })?;
            return Ok(Arc::new(Enumeration { name: "".into(), open: false, members }));
        }
        let span = self.span();
        let name = self.word("the name of an enumeration, or `{ name = number }`")?;
        let (what, found) = if flags {
            ("set of flags", self.vocabulary.flags(name))
        } else {
            ("enumeration", self.vocabulary.enumeration(name))
        };
        found.ok_or_else(|| self.unknown(span, what, name, self.vocabulary.names()))
    }

    pub(in crate::layout) fn unknown(
        &self,
        span: Range<usize>,
        what: &str,
        name: &str,
        known: Vec<&str>,
    ) -> LayoutError {
        LayoutError::new(span, format!("unknown {what} `{name}`{}", nearest::hint(name, known)))
    }
}

fn flag_of(number: &Number, flag: &str) -> Option<u64> {
    if let Meaning::Flags(flags) = &number.meaning { flags.number_of(flag) } else { None }
}

fn too_deep() -> String {
    format!("a layout may be nested {DEPTH} deep, this is deeper")
}

/// Repeats of an octet run count its octets, of options the options; of anything else, the thing itself.
fn repeated(node: Node, count: Count) -> Node {
    match node {
        Node::Options(nested) if nested.count == Count::SOME => Node::Options(Nested { count, ..nested }),
        Node::Atom(Atom::Run(run, Count::SOME)) => Node::Atom(Atom::Run(run, count)),
        Node::Atom(Atom::Ipv6Head(Head::Needed)) => match count.fixed().filter(|count| *count <= 16) {
            Some(octets) => Node::Atom(Atom::Ipv6Head(Head::Octets(octets))),
            None => Node::Repeat(Box::new(Node::Atom(Atom::Ipv6Head(Head::Needed))), count),
        },
        node => Node::Repeat(Box::new(node), count),
    }
}
