//! From a layout's text to its tree.

use std::ops::Range;
use std::sync::Arc;

use super::lex::{Token, tokens};
use super::node::{
    Atom, BitField, Bound, Choice, Count, Enumeration, Field, Meaning, Names, Nested, Node, Number, PairKey, Pairs,
    Prefix, Run, SLOTS, Selector,
};
use super::{LayoutError, Vocabulary};
use crate::nearest;

/// Deeper nesting than any option needs; keeps hostile text from exhausting the stack.
const DEPTH: usize = 24;

pub(super) const ATOMS: [&str; 27] = [
    "u8",
    "u16",
    "u24",
    "u32",
    "u64",
    "i32",
    "bool",
    "seconds",
    "ipv4",
    "ipv6",
    "netmask",
    "mac",
    "text",
    "dotted-name",
    "utf8",
    "uri",
    "bytes",
    "empty",
    "name",
    "partial-name",
    "compressed-names",
    "lenient-names",
    "duid",
    "uuid",
    "route4",
    "prefix6",
    "i8",
];

const FORMS: [&str; 6] = ["len8", "len16", "options", "by", "pairs", "bits"];

pub(super) fn parse(text: &str, vocabulary: &dyn Vocabulary) -> Result<Node, LayoutError> {
    let tokens = tokens(text)?;
    let mut parser = Parser { tokens, at: 0, depth: 0, vocabulary, scopes: Vec::new(), slots: 0 };
    let node = parser.layout()?;
    match parser.peek() {
        Token::End => Ok(node),
        other => {
            Err(LayoutError::new(parser.span(), format!("{} stands after the end of the layout", other.describe())))
        }
    }
}

/// A field that a later choice may name, while its record is being read.
struct Known {
    name: Box<str>,
    slot: Option<u8>,
    number: Option<Number>,
}

struct Parser<'t> {
    tokens: Vec<(Token<'t>, Range<usize>)>,
    at: usize,
    depth: usize,
    vocabulary: &'t dyn Vocabulary,
    scopes: Vec<Vec<Known>>,
    slots: u8,
}

type Parsed<T> = Result<T, LayoutError>;

impl<'t> Parser<'t> {
    fn peek(&self) -> &Token<'t> {
        &self.tokens[self.at].0
    }

    fn span(&self) -> Range<usize> {
        self.tokens[self.at].1.clone()
    }

    fn next(&mut self) -> Token<'t> {
        let token = self.tokens[self.at].0.clone();
        if token != Token::End {
            self.at += 1;
        }
        token
    }

    fn eat(&mut self, sign: &'static str) -> bool {
        let found = *self.peek() == Token::Sign(sign);
        self.at += usize::from(found);
        found
    }

    fn eat_word(&mut self, word: &str) -> bool {
        let found = matches!(self.peek(), Token::Word(at) if *at == word);
        self.at += usize::from(found);
        found
    }

    fn expected<T>(&self, what: &str) -> Parsed<T> {
        Err(LayoutError::new(self.span(), format!("expected {what}, found {}", self.peek().describe())))
    }

    fn expect(&mut self, sign: &'static str) -> Parsed<()> {
        if self.eat(sign) { Ok(()) } else { self.expected(&format!("`{sign}`")) }
    }

    fn word(&mut self, what: &str) -> Parsed<&'t str> {
        match *self.peek() {
            Token::Word(word) => {
                self.at += 1;
                Ok(word)
            }
            _ => self.expected(what),
        }
    }

    fn number<N: TryFrom<i128>>(&mut self, what: &str) -> Parsed<N> {
        let span = self.span();
        let negative = self.eat("-");
        let Token::Number(number) = *self.peek() else { return self.expected(what) };
        self.at += 1;
        N::try_from(if negative { -number } else { number })
            .map_err(|_| LayoutError::new(span, format!("`{number}` is too large for {what}")))
    }

    /// Items up to `close`, with commas between them; a comma after the last is fine.
    fn items<T>(&mut self, close: &'static str, mut item: impl FnMut(&mut Self) -> Parsed<T>) -> Parsed<Vec<T>> {
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

    fn layout(&mut self) -> Parsed<Node> {
        self.depth += 1;
        if self.depth > DEPTH {
            return Err(LayoutError::new(self.span(), format!("a layout may be nested {DEPTH} deep, this is deeper")));
        }
        let mut node = self.primary()?;
        loop {
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
            let scope = parser.scopes.last_mut().map(|scope| {
                let number = if let Node::Atom(Atom::Number(number)) = &node { Some(number.clone()) } else { None };
                let twice = scope.iter().any(|known| known.name == name);
                scope.push(Known { name: name.clone(), slot: None, number });
                twice
            });
            if scope == Some(true) {
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
        let extra = if self.eat("+") { self.number("how many octets more the length counts")? } else { 0 };
        self.expect("(")?;
        let inner = self.layout()?;
        self.expect(")")?;
        Ok(Node::Sized(Prefix { octets, extra }, Box::new(inner)))
    }

    fn options(&mut self) -> Parsed<Node> {
        self.expect("(")?;
        let span = self.span();
        let space: Box<str> = self.word("the name of a space of options")?.into();
        let by = if self.eat_word("by") { Some(self.selector()?) } else { None };
        self.expect(")")?;
        let (index, header) = match self.vocabulary.space_header(&space) {
            Some(found) => found,
            // Which space it is shows only in the payload; all that are picked by a number have short headers.
            None if by.is_some() => (usize::MAX, 2),
            None => return Err(self.unknown(span, "space of options", &space, self.vocabulary.spaces())),
        };
        Ok(Node::Options(Nested { space, index, header, count: Count::SOME, by }))
    }

    fn selector(&mut self) -> Parsed<Selector> {
        let span = self.span();
        let name = self.word("the name of an earlier field")?;
        let flag = if self.eat(".") { Some(self.word("the name of a flag")?) } else { None };
        let next_slot = self.slots;
        let earlier: Vec<&str> = self.scopes.iter().flatten().map(|known| &*known.name).collect();
        let missing = LayoutError::new(
            span.clone(),
            format!("no field `{name}` stands before this{}", nearest::hint(name, earlier)),
        );
        let Some(known) = self.scopes.iter_mut().rev().flatten().find(|known| *known.name == *name) else {
            return Err(missing);
        };
        let Some(number) = &known.number else {
            return Err(LayoutError::new(span, format!("`{name}` is not a number, so it cannot decide")));
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
            return Err(LayoutError::new(span, format!("at most {SLOTS} fields of a layout may decide")));
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

    fn pairs(&mut self) -> Parsed<Node> {
        self.expect("(")?;
        let span = self.span();
        let (Token::Quoted(between), Token::Quoted(equals)) = (self.next(), self.next()) else {
            return Err(LayoutError::new(span, "expected two quoted texts: `pairs(\",\" \"=\")`".to_owned()));
        };
        if between.is_empty() || equals.is_empty() || between == equals {
            let message = "what separates pairs and what separates key and value must be two different texts";
            return Err(LayoutError::new(span, message.to_owned()));
        }
        self.expect(")")?;
        self.expect("{")?;
        let mut open = false;
        let keys = self.items("}", |parser| {
            if parser.eat("..") {
                open = true;
                return Ok(None);
            }
            let name: Box<str> = match parser.next() {
                Token::Word(word) => word.into(),
                Token::Quoted(text) => text.into(),
                _ => return parser.expected("a key"),
            };
            let required = parser.eat("!");
            parser.expect(":")?;
            let span = parser.span();
            let word = parser.word("the form of the value")?;
            let atom = parser.atom(word, span.clone())?;
            if !super::plain::has_text(&atom) {
                return Err(LayoutError::new(span, format!("`{word}` has no form as the value of a KEY=value text")));
            }
            Ok(Some(PairKey { name, atom, required }))
        })?;
        if keys.len() > 64 {
            return Err(LayoutError::new(span, format!("{} keys; a layout may list 64", keys.len())));
        }
        Ok(Node::Pairs(Pairs {
            between: between.into(),
            equals: equals.into(),
            keys: keys.into_iter().flatten().collect(),
            open,
        }))
    }

    fn bits(&mut self) -> Parsed<Node> {
        let start = self.span().start;
        self.expect("{")?;
        let fields = self.items("}", Self::bit_field)?;
        let width: u32 = fields.iter().map(|field| field.width).sum();
        if width == 0 || !width.is_multiple_of(8) || width > 128 {
            let span = start..self.tokens[self.at - 1].1.end;
            return Err(LayoutError::new(
                span,
                format!("the fields are {width} bits together; they must fill 1 to 16 whole octets"),
            ));
        }
        Ok(Node::Bits(fields))
    }

    fn bit_field(&mut self) -> Parsed<BitField> {
        let name: Box<str> = self.word("a field name")?.into();
        self.expect(":")?;
        let span = self.span();
        let form = "a width in bits (`6`) or a fixed-point form (`s9.25`)";
        let (signed, width, fraction) = match *self.peek() {
            Token::Word(word) => {
                self.at += 1;
                let signed = word.starts_with('s');
                let Some(Ok(whole)) = word.strip_prefix(['s', 'u']).map(str::parse::<u32>) else {
                    return Err(LayoutError::new(span, format!("expected {form}, found `{word}`")));
                };
                let fraction = if self.eat(".") { Some(self.number::<u32>("fraction bits")?) } else { None };
                (signed, whole.saturating_add(fraction.unwrap_or(0)), fraction)
            }
            _ => (false, self.number(form)?, None),
        };
        if !(1..=64).contains(&width) {
            return Err(LayoutError::new(span, format!("a field of {width} bits; 1 to 64 are possible")));
        }
        let of = if self.eat_word("of") { Some(self.enumeration(false)?) } else { None };
        let bound = if self.eat_word("in") { Some(self.bound()?) } else { None };
        Ok(BitField { name, width, fraction, signed, of, bound })
    }

    fn atom(&mut self, word: &str, span: Range<usize>) -> Parsed<Atom> {
        let number = |octets, signed| Atom::Number(Number { octets, signed, meaning: Meaning::Plain, bound: None });
        let atom = match word {
            "u8" => number(1, false),
            "u16" => number(2, false),
            "u24" => number(3, false),
            "u32" => number(4, false),
            "u64" => number(8, false),
            "i8" => number(1, true),
            "i32" => number(4, true),
            "bool" => Atom::Bool,
            "seconds" => Atom::Seconds,
            "ipv4" => Atom::Ipv4,
            "ipv6" => Atom::Ipv6,
            "netmask" => Atom::Netmask,
            "mac" => Atom::Mac,
            "text" => Atom::Run(Run::Text, Count::SOME),
            "dotted-name" => Atom::Run(Run::DottedName, Count::SOME),
            "utf8" => Atom::Run(Run::Utf8, Count::SOME),
            "uri" => Atom::Run(Run::Uri, Count::SOME),
            "bytes" => Atom::Run(Run::Bytes, Count::SOME),
            "empty" => Atom::Empty,
            "name" => Atom::Name,
            "partial-name" => Atom::PartialName,
            "compressed-names" => Atom::Names(Names::Compressed),
            "lenient-names" => Atom::Names(Names::Lenient),
            "duid" => Atom::Duid,
            "uuid" => Atom::Uuid,
            "route4" => Atom::Route4,
            "prefix6" => Atom::Prefix6,
            _ => return Err(self.unknown(span, "layout", word, ATOMS.into_iter().chain(FORMS).collect())),
        };
        let Atom::Number(number) = atom else { return Ok(atom) };
        self.number_details(number).map(Atom::Number)
    }

    fn number_details(&mut self, mut number: Number) -> Parsed<Number> {
        let span = self.span();
        if self.eat_word("of") {
            number.meaning = Meaning::Member(self.enumeration(false)?);
        } else if self.eat_word("flags") {
            number.meaning = Meaning::Flags(self.enumeration(true)?);
        }
        if let Meaning::Member(named) | Meaning::Flags(named) = &number.meaning {
            let largest = named.members.iter().map(|(value, _)| *value).max().unwrap_or(0);
            if number.octets < 8 && largest >> (8 * number.octets) != 0 {
                return Err(LayoutError::new(span, format!("{largest} does not fit in {} octets", number.octets)));
            }
        }
        if self.eat_word("in") {
            number.bound = Some(self.bound()?);
        }
        Ok(number)
    }

    fn bound(&mut self) -> Parsed<Bound> {
        let start = self.span().start;
        let has_number = |parser: &Self| matches!(parser.peek(), Token::Number(_) | Token::Sign("-"));
        let min = if has_number(self) { Some(self.number("a number")?) } else { None };
        let closed = self.eat("..=") || self.eat("..");
        let max = match (closed, has_number(self)) {
            (true, true) => Some(self.number("a number")?),
            (true, false) => None,
            (false, _) => min,
        };
        let span = start..self.tokens[self.at.saturating_sub(1)].1.end.max(start);
        match (min, max) {
            (None, None) => self.expected("a range such as `68..` or `1..=3`"),
            (Some(min), Some(max)) if min > max => {
                Err(LayoutError::new(span, "no number fits this range; write the smaller end first".to_owned()))
            }
            _ => Ok(Bound { min, max }),
        }
    }

    /// The name of an enumeration in the codebook, or one written on the spot: `{ off = 0, on = 1 }`.
    fn enumeration(&mut self, flags: bool) -> Parsed<Arc<Enumeration>> {
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

    fn unknown(&self, span: Range<usize>, what: &str, name: &str, known: Vec<&str>) -> LayoutError {
        LayoutError::new(span, format!("no {what} is named `{name}`{}", nearest::hint(name, known)))
    }
}

fn flag_of(number: &Number, flag: &str) -> Option<u64> {
    if let Meaning::Flags(flags) = &number.meaning { flags.number_of(flag) } else { None }
}

/// Repeats of an octet run count its octets, of options the options; of anything else, the thing itself.
fn repeated(node: Node, count: Count) -> Node {
    match node {
        Node::Options(nested) if nested.count == Count::SOME => Node::Options(Nested { count, ..nested }),
        Node::Atom(Atom::Run(run, Count::SOME)) => Node::Atom(Atom::Run(run, count)),
        node => Node::Repeat(Box::new(node), count),
    }
}
