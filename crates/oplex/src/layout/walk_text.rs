//! The part of the walk that reads text, names and `KEY=value` pairs.

use std::ops::Range;

use super::Nesting;
use super::fault::{FaultKind, NameFlaw};
use super::node::{Atom, Count, Names, PairKey, Pairs, Run};
use super::plain;
use super::scalar::{NameRef, Scalar};
use super::walk::{Form, Frame, Shape, Stop, Visitor, Walked, Walker};

/// RFC 1035, section 2.3.4.
const LABEL: usize = 63;
/// RFC 1035, section 2.3.4: length octets and the root label included.
const NAME: usize = 255;
/// A name of 255 octets cannot have more labels, so no honest name needs more pointers.
const JUMPS: usize = 127;

/// The octets that stand in a host (1), and in a path (2), without a meaning of their own.
const IN_URI: [u8; 256] = {
    let mut table = [0; 256];
    let mut octet = 0;
    while octet < 128 {
        table[octet] = match octet as u8 {
            b'a'..=b'z' | b'A'..=b'Z' | b'0'..=b'9' | b'.' | b'-' => 3,
            b'/' | b'_' | b'~' => 2,
            _ => 0,
        };
        octet += 1;
    }
    table
};

/// Whether it is a URI of the form that nearly all have: `scheme://host/path`, with a port or without, and no character in
/// it that has a meaning of its own. The grammar of RFC 3986 takes several times as long to hold it against.
fn is_plain_uri(octets: &[u8]) -> bool {
    let until = |octets: &[u8], is: fn(&u8) -> bool| octets.iter().position(|octet| !is(octet)).unwrap_or(octets.len());
    let scheme = until(octets, u8::is_ascii_lowercase);
    let Some(rest) = octets[scheme..].strip_prefix(b"://").filter(|_| scheme > 0) else { return false };
    let host = until(rest, |octet| IN_URI[usize::from(*octet)] & 1 != 0);
    let rest = &rest[host..];
    let port = rest.strip_prefix(b":").map_or(0, |port| 1 + until(port, u8::is_ascii_digit));
    let path = &rest[port..];
    let whole = path.iter().fold(2, |whole, octet| whole & IN_URI[usize::from(*octet)]);
    host > 0 && (path.is_empty() || path[0] == b'/' && whole != 0)
}

impl<'l, 'o, V: Visitor<'l, 'o>, N: Nesting + ?Sized> Walker<'l, 'o, '_, V, N> {
    #[inline(never)]
    pub(super) fn run(&mut self, run: Run, count: Count, atom: &'l Atom, at: usize, end: usize) -> Walked {
        let next = match count.fixed() {
            Some(fixed) => self.need("this text", fixed, at, end)?,
            None => end.min(self.zeros_from).max(at),
        };
        let have = next - at;
        if have < count.min {
            self.fault(at..next, FaultKind::Truncated { what: "this", need: count.min, have });
        }
        if let Some(max) = count.max.filter(|max| have > *max) {
            self.fault(at..next, FaultKind::TooMany { max, have });
        }
        let scalar = if run == Run::Bytes { Scalar::Bytes(&self.octets[at..next]) } else { self.text(run, at, next) };
        self.visitor.scalar(Form::Atom(atom), scalar, at..next);
        Ok(next)
    }

    fn text(&mut self, run: Run, at: usize, end: usize) -> Scalar<'o> {
        let octets = &self.octets[at..end];
        let kept = octets.iter().rposition(|octet| *octet != 0).map_or(0, |last| last + 1);
        if kept < octets.len() {
            self.fault(at + kept..end, FaultKind::NulAtEnd);
        }
        let octets = &octets[..kept];
        // All are looked at, whatever the first is: a processor does many at once that way.
        let plain = octets.iter().fold(true, |plain, octet| plain & (b' '..=b'~').contains(octet));
        if !plain {
            self.odd_characters(run, octets, at);
        }
        let Ok(text) = str::from_utf8(octets) else { return Scalar::Bytes(octets) };
        match run {
            Run::DottedName if !text.is_empty() => self.dotted_name(text, at),
            Run::Uri if !is_plain_uri(octets) && iri_string::types::UriStr::new(text).is_err() => {
                self.fault(at..at + kept, FaultKind::NotUri);
            }
            _ => {}
        }
        Scalar::Text(text)
    }

    #[cold]
    fn odd_characters(&mut self, run: Run, octets: &[u8], at: usize) {
        if let Some(first) = octets.iter().position(|octet| *octet < b' ' || *octet == 0x7f) {
            let octet = octets[first];
            self.fault(at + first..at + first + 1, FaultKind::ControlCharacter { octet });
        }
        let Some(first) = octets.iter().position(|octet| !octet.is_ascii()) else { return };
        match (run, str::from_utf8(octets)) {
            (Run::Utf8, Ok(_)) => {}
            (Run::Utf8, Err(error)) => {
                let wrong = at + error.valid_up_to();
                self.fault(
                    wrong..wrong + error.error_len().unwrap_or(octets.len() - error.valid_up_to()),
                    FaultKind::NotUtf8,
                );
            }
            _ => {
                let length = octets[first..].iter().take_while(|octet| !octet.is_ascii()).count();
                self.fault(at + first..at + first + length, FaultKind::NotAscii);
            }
        }
    }

    /// A host or domain name in dotted form: RFC 952 and RFC 1123 (section 2.1) for its characters, RFC 1035 (section
    /// 2.3.4) for its lengths. An underscore passes: service names have it (RFC 8552).
    fn dotted_name(&mut self, text: &str, at: usize) {
        let whole = text.strip_suffix('.').unwrap_or(text);
        let mut start = at;
        for label in whole.split('.') {
            let octets = start..start + label.len();
            start += label.len() + 1;
            let odd = label.chars().find(|c| c.is_ascii() && !c.is_ascii_alphanumeric() && !matches!(c, '-' | '_'));
            if label.len() > LABEL {
                self.fault(octets, FaultKind::LabelTooLong { length: label.len() });
            } else if label.is_empty() {
                // The dots on both sides of nothing.
                let octets = octets.start.saturating_sub(1).max(at)..(octets.end + 1).min(at + text.len());
                self.fault(octets, FaultKind::NotAName { why: NameFlaw::EmptyLabel });
            } else if let Some(c) = odd {
                self.fault(octets, FaultKind::NotAName { why: NameFlaw::Character(c) });
            } else if label.starts_with('-') || label.ends_with('-') {
                self.fault(octets, FaultKind::NotAName { why: NameFlaw::HyphenAtEdge });
            }
        }
        // On the wire each label has a length octet and the root label one more.
        if whole.len() + 2 > NAME {
            self.fault(at..at + text.len(), FaultKind::NameTooLong { length: whole.len() + 2 });
        }
    }

    pub(super) fn name(&mut self, form: Form<'l>, at: usize, end: usize) -> Walked {
        let Some(next) = self.labels(at, end, None)? else {
            return Err(self.stop(at..end, FaultKind::NameNotEnded));
        };
        self.visitor.scalar(
            form,
            Scalar::Name(NameRef::new(&self.octets[self.base..end], at - self.base, true)),
            at..next,
        );
        Ok(next)
    }

    pub(super) fn partial_name(&mut self, atom: &'l Atom, at: usize, end: usize) -> Walked {
        let ended = self.labels(at, end, None)?;
        let name = NameRef::new(&self.octets[self.base..end], at - self.base, ended.is_some());
        let next = ended.unwrap_or(end);
        self.visitor.scalar(Form::Atom(atom), Scalar::Name(name), at..next);
        Ok(next)
    }

    // What it keeps on the stack would otherwise be kept for every part of a layout.
    #[inline(never)]
    pub(super) fn names(&mut self, atom: &'l Atom, at: usize, end: usize) -> Walked {
        debug_assert!(matches!(atom, Atom::Names(Names::Compressed | Names::Lenient)));
        self.visitor.begin(Shape::List, at);
        let mut next = at;
        // Most lists are short, and clearing two kilobytes for them would cost more than reading them.
        let (mut few, mut all);
        let starts: &mut [u64] = if end - self.base <= 64 * FEW {
            few = [0; FEW];
            &mut few
        } else {
            all = [0; STARTS];
            &mut all
        };
        while next < end {
            let ended = self.labels(next, end, Some(starts)).inspect_err(|_| self.visitor.end(end))?;
            let Some(after) = ended else {
                let stop = self.stop(next..end, FaultKind::NameNotEnded);
                self.visitor.end(end);
                return Err(stop);
            };
            let name = NameRef::new(&self.octets[self.base..end], next - self.base, true);
            self.visitor.scalar(Form::Atom(atom), Scalar::Name(name), next..after);
            next = after;
        }
        if at == end {
            self.fault(at..end, FaultKind::TooFew { min: 1, have: 0 });
        }
        self.visitor.end(next);
        Ok(next)
    }

    /// Goes through the labels of the name at `first`, to where the octets after the name begin; `None` when the octets
    /// end before a root label. Pointers are followed where they may stand, which is where `starts` are kept.
    fn labels(&mut self, first: usize, end: usize, mut starts: Option<&mut [u64]>) -> Result<Option<usize>, Stop> {
        let (mut at, mut earliest, mut jumps, mut length) = (first, first, 0, 0);
        let mut next = None;
        loop {
            let Some(octet) = self.octets[..end].get(at).map(|octet| usize::from(*octet)) else { return Ok(None) };
            if let Some(starts) = starts.as_deref_mut().filter(|_| jumps == 0) {
                note(starts, at - self.base);
            }
            match octet {
                0 => return Ok(Some(next.unwrap_or(at + 1))),
                1..=LABEL => {
                    if at + 1 + octet > end {
                        let have = end - at - 1;
                        return Err(self.stop(at..at + 1, FaultKind::LengthOverruns { length: octet, have }));
                    }
                    // What a pointer leads to was looked at where it stands.
                    let label = &self.octets[at + 1..at + 1 + octet];
                    if jumps == 0
                        && !label.iter().all(|octet| octet.is_ascii_alphanumeric() || matches!(octet, b'-' | b'_'))
                    {
                        self.odd_label(at + 1, octet);
                    }
                    length += 1 + octet;
                    at += 1 + octet;
                }
                0xc0.. if starts.is_some() => {
                    let low = self.need("a compression pointer", 2, at, end)? - 1;
                    let to = (octet & 0x3f) << 8 | usize::from(self.octets[low]);
                    // RFC 1035, section 4.1.4: a prior occurrence. Only ever going backwards also rules out loops.
                    let begins = starts.as_ref().is_some_and(|starts| is_noted(starts, to));
                    if self.base + to >= earliest || !begins || jumps == JUMPS {
                        return Err(self.stop(at..at + 2, FaultKind::PointerAstray { to }));
                    }
                    next.get_or_insert(at + 2);
                    at = self.base + to;
                    earliest = at;
                    jumps += 1;
                }
                0xc0.. => return Err(self.stop(at..at + 1, FaultKind::PointerNotAllowed)),
                _ => return Err(self.stop(at..at + 1, FaultKind::LabelTooLong { length: octet })),
            }
            if length + 1 > NAME {
                let octets = first..next.unwrap_or(at);
                return Err(self.stop(octets, FaultKind::NameTooLong { length: length + 1 }));
            }
        }
    }

    /// A label that may stand in DNS, but that no host or domain has (RFC 1123, section 2.1).
    #[cold]
    fn odd_label(&mut self, at: usize, length: usize) {
        let label = &self.octets[at..at + length];
        let odd = |octet: &u8| !octet.is_ascii_alphanumeric() && !matches!(octet, b'-' | b'_');
        let Some(place) = label.iter().position(odd) else { return };
        let why = NameFlaw::Character(char::from(label[place]));
        self.fault(at + place..at + place + 1, FaultKind::NotAName { why });
    }

    pub(super) fn pairs(&mut self, pairs: &'l Pairs, at: usize, end: usize) -> Walked {
        self.visitor.begin(Shape::Pairs, at);
        let octets = &self.octets[at..end];
        match str::from_utf8(octets) {
            Ok(text) => self.pair_list(pairs, text, at),
            Err(_) => {
                self.odd_characters(Run::Text, octets, at);
                self.visitor.scalar(Form::Unknown, Scalar::Bytes(octets), at..end);
            }
        }
        self.visitor.end(end);
        Ok(end)
    }

    fn pair_list(&mut self, pairs: &'l Pairs, text: &'o str, at: usize) {
        let mut start = at;
        let mut seen = 0u64;
        for (index, pair) in text.split(&*pairs.between).enumerate() {
            if index > 0 {
                self.visitor.frame(Frame::Sign, start..start + pairs.between.len());
                start += pairs.between.len();
            }
            let octets = start..start + pair.len();
            start = octets.end;
            let Some((key, value)) = pair.split_once(&*pairs.equals) else {
                self.fault(octets, FaultKind::PairWithoutEquals);
                continue;
            };
            let key_at = octets.start..octets.start + key.len();
            let value_at = key_at.end + pairs.equals.len()..octets.end;
            self.visitor.key(key, key_at.clone());
            self.visitor.frame(Frame::Sign, key_at.end..value_at.start);
            match pairs.keys.iter().position(|known| *known.name == *key) {
                Some(known) => {
                    if seen & 1 << known != 0 {
                        self.fault(key_at, FaultKind::PairTwice { key: key.into() });
                    }
                    seen |= 1 << known;
                    self.pair_value(&pairs.keys[known], value, value_at);
                }
                None => {
                    if !pairs.open {
                        self.fault(key_at, FaultKind::PairUnknownKey { key: key.into() });
                    }
                    self.visitor.scalar(Form::Unknown, Scalar::Text(value), value_at);
                }
            }
        }
        for (index, key) in pairs.keys.iter().enumerate().filter(|(_, key)| key.required) {
            if seen & 1 << index == 0 {
                self.fault(at..at + text.len(), FaultKind::PairMissing { key: key.name.clone() });
            }
        }
    }

    fn pair_value(&mut self, key: &'l PairKey, value: &'o str, octets: Range<usize>) {
        match plain::scalar(&key.atom, value) {
            Ok(scalar) => {
                if let Some(kind) = plain::objection(&key.atom, &scalar) {
                    self.fault(octets.clone(), kind);
                }
                self.visitor.scalar(Form::Atom(&key.atom), scalar, octets);
            }
            Err(wrong) => {
                let kind = FaultKind::PairValue { key: key.name.clone(), why: wrong.message.into() };
                self.fault(octets.clone(), kind);
                self.visitor.scalar(Form::Unknown, Scalar::Text(value), octets);
            }
        }
    }
}

/// Words of 64 bits, a bit for each octet that the 14 bits of a compression pointer can reach.
const STARTS: usize = (1 << 14) / 64;
/// As many words as a list of a few names needs.
const FEW: usize = 8;

/// Notes that a label begins here, to which later pointers may lead.
fn note(starts: &mut [u64], at: usize) {
    if let Some(bits) = starts.get_mut(at / 64) {
        *bits |= 1 << (at % 64);
    }
}

fn is_noted(starts: &[u64], at: usize) -> bool {
    starts.get(at / 64).is_some_and(|bits| bits >> (at % 64) & 1 == 1)
}
