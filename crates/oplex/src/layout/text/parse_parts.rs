//! The part of the parser that reads atoms, bit fields and `KEY=value` text.

use crate::prelude::*;
use core::ops::Range;

use crate::layout::LayoutError;
use crate::layout::atoms::WORDS;
use crate::layout::form::atom::{Atom, Bound, Head, Meaning, Number, Role};
use crate::layout::form::unit::Unit;
use crate::layout::lex::Token;
use crate::layout::node::{BitField, Node, PairKey, Pairs};
use crate::layout::parse::{FORMS, Parsed, Parser};

impl Parser<'_> {
    pub(in crate::layout) fn pairs(&mut self) -> Parsed<Node> {
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
            if !atom.has_text() {
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

    /// Whose an address is: `as any`; a host's where nothing follows.
    fn role(&mut self) -> Parsed<Role> {
        if !self.eat_word("as") {
            return Ok(Role::default());
        }
        let span = self.span();
        let word = self.word("whose address it is: host, any, group or network")?;
        let found = Role::ALL.iter().find(|(known, _)| *known == word).map(|(_, role)| *role);
        found.ok_or_else(|| {
            let hint = crate::nearest::hint(word, Role::ALL.map(|(word, _)| word));
            LayoutError::new(span, format!("`{word}` is not host, any, group or network{hint}"))
        })
    }

    pub(in crate::layout) fn bits(&mut self) -> Parsed<Node> {
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
        let unit = if self.eat_word("unit") { Some(self.unit()?) } else { None };
        let bound = if self.eat_word("in") { Some(self.bound()?) } else { None };
        Ok(BitField { name, width, fraction, signed, of, bound, unit })
    }

    pub(in crate::layout) fn atom(&mut self, word: &str, span: Range<usize>) -> Parsed<Atom> {
        let Some(found) = WORDS.iter().find(|known| known.word == word) else {
            let known = WORDS.iter().map(|known| known.word).chain(FORMS).collect();
            return Err(self.unknown(span, "layout", word, known));
        };
        let atom = match &found.atom {
            Atom::Seconds(_) => Atom::Seconds(if self.eat_word("in") { Some(self.bound()?) } else { None }),
            Atom::Ipv4(_) => Atom::Ipv4(self.role()?),
            Atom::Ipv6(_) => Atom::Ipv6(self.role()?),
            Atom::Ipv6Head(Head::Needed) if self.eat_word("by") => Atom::Ipv6Head(Head::By(self.selector()?)),
            other => other.clone(),
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
        } else if self.eat_word("unit") {
            number.meaning = Meaning::Unit(self.unit()?);
        } else if self.eat_word("code") {
            number.meaning = Meaning::Code(self.chapter_name()?);
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

    fn unit(&mut self) -> Parsed<Unit> {
        let span = self.span();
        let words = Unit::ALL.map(|(word, ..)| word);
        let word = self.word("a unit of time")?;
        let found = Unit::ALL.iter().find(|(known, ..)| *known == word).map(|(_, unit, _)| *unit);
        found.ok_or_else(|| self.unknown(span, "unit", word, words.to_vec()))
    }

    fn chapter_name(&mut self) -> Parsed<Box<str>> {
        let span = self.span();
        let word = self.word("a chapter of options, such as `v4`")?;
        match self.vocabulary.chapter_header(word) {
            Some(_) => Ok(word.into()),
            None => Err(self.unknown(span, "chapter", word, self.vocabulary.chapters())),
        }
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
}
