//! Runs of octets that are text of some sort, or octets.

use super::names::{LABEL, NAME};
use crate::layout::Nesting;
use crate::layout::fault::{FaultKind, NameFlaw};
use crate::layout::form::atom::{Atom, Count, Run};
use crate::layout::scalar::Scalar;
use crate::layout::walk::{ScalarForm, Visitor, Walked, Walker};

/// Octets of the host of a URI.
const HOST: u8 = 1;
/// Octets of a URI's path that have no meaning of their own.
const PATH: u8 = 2;
/// Octets of a label of a host or domain.
pub(super) const IN_LABEL: u8 = 4;

/// What each octet may stand in.
pub(super) static STANDS_IN: [u8; 256] = {
    let mut table = [0; 256];
    let mut octet = 0;
    while octet < 128 {
        table[octet] = match octet as u8 {
            b'a'..=b'z' | b'A'..=b'Z' | b'0'..=b'9' | b'-' => HOST | PATH | IN_LABEL,
            b'.' => HOST | PATH,
            b'_' => PATH | IN_LABEL,
            b'/' | b'~' => PATH,
            _ => 0,
        };
        octet += 1;
    }
    table
};

fn stands_in(octet: u8, what: u8) -> bool {
    STANDS_IN[usize::from(octet)] & what != 0
}

/// Whether it is a URI of the form that nearly all have: `scheme://host/path`, with a port or without, and no character in
/// it that has a meaning of its own. The grammar of RFC 3986 takes several times as long to hold it against.
pub(in crate::layout) fn is_plain_uri(octets: &[u8]) -> bool {
    let until = |octets: &[u8], is: fn(&u8) -> bool| octets.iter().position(|octet| !is(octet)).unwrap_or(octets.len());
    let scheme = until(octets, u8::is_ascii_lowercase);
    let Some(rest) = octets[scheme..].strip_prefix(b"://").filter(|_| scheme > 0) else { return false };
    let host = until(rest, |octet| stands_in(*octet, HOST));
    let rest = &rest[host..];
    let port = rest.strip_prefix(b":").map_or(0, |port| 1 + until(port, u8::is_ascii_digit));
    let path = &rest[port..];
    let whole = path.iter().fold(PATH, |whole, octet| whole & STANDS_IN[usize::from(*octet)]);
    host > 0 && (path.is_empty() || path[0] == b'/' && whole != 0)
}

/// Whether it is a host or domain name in dotted form that is short enough for all of its labels to be.
pub(in crate::layout) fn is_plain_dotted_name(octets: &[u8]) -> bool {
    let whole = octets.strip_suffix(b".").unwrap_or(octets);
    let mut before = b'.';
    let mut follows = |octet: u8| match (core::mem::replace(&mut before, octet), octet) {
        (b'.', b'-' | b'.') | (b'-', b'.') => false,
        (_, b'.') => true,
        _ => stands_in(octet, IN_LABEL),
    };
    whole.len() <= LABEL && whole.iter().all(|octet| follows(*octet)) && !matches!(before, b'.' | b'-')
}

/// Whether all octets are printable characters of ASCII, eight at a time.
pub(in crate::layout) fn is_printable(octets: &[u8]) -> bool {
    const EACH: u64 = u64::MAX / 0xff;
    // The highest bit of each octet: set in what is no ASCII, in what is below a space when that is taken away, and in DEL and one.
    let odd = |eight: u64| (eight | eight.wrapping_sub(EACH * 0x20) | eight.wrapping_add(EACH)) & (EACH * 0x80);
    let (chunks, rest) = octets.as_chunks::<8>();
    let all = chunks.iter().fold(0, |all, eight| all | odd(u64::from_le_bytes(*eight)));
    all == 0 && rest.iter().all(|octet| (b' '..=b'~').contains(octet))
}

/// Whether it is a URI; those of the web must have a host (RFC 9110, section 4.2.1).
fn is_uri(text: &str) -> bool {
    let Ok(uri) = iri_string::types::UriStr::new(text) else { return false };
    let web = ["http", "https"].iter().any(|web| uri.scheme_str().eq_ignore_ascii_case(web));
    !web || uri.authority_components().is_some_and(|authority| !authority.host().is_empty())
}

impl<'l, 'o, V: Visitor<'l, 'o>, N: Nesting + ?Sized> Walker<'l, 'o, '_, V, N> {
    #[inline(never)]
    pub(in crate::layout) fn run(&mut self, run: Run, count: Count, atom: &'l Atom, at: usize, end: usize) -> Walked {
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
        let scalar = match run {
            Run::Bytes => Scalar::Bytes(&self.octets[at..next]),
            Run::TextAndOctets => self.text_and_octets(at, next),
            _ => self.text(run, at, next),
        };
        self.visitor.scalar(ScalarForm::Atom(atom), scalar, at..next);
        Ok(next)
    }

    /// Text as a whole, or octets where what stands behind its first space is no text.
    fn text_and_octets(&mut self, at: usize, end: usize) -> Scalar<'o> {
        let octets = &self.octets[at..end];
        let space = octets.iter().position(|octet| *octet == b' ').filter(|_| !is_printable(octets));
        let Some(space) = space else { return self.text(Run::Text, at, end) };
        self.text(Run::Text, at, at + space);
        Scalar::Bytes(octets)
    }

    fn text(&mut self, run: Run, at: usize, end: usize) -> Scalar<'o> {
        let octets = &self.octets[at..end];
        let kept = octets.iter().rposition(|octet| *octet != 0).map_or(0, |last| last + 1);
        if kept < octets.len() {
            self.fault(at + kept..end, FaultKind::NulAtEnd);
        }
        let octets = &octets[..kept];
        if !is_printable(octets) {
            self.odd_characters(run, octets, at);
        }
        let Ok(text) = str::from_utf8(octets) else { return Scalar::Bytes(octets) };
        match run {
            Run::DottedName if !text.is_empty() && !is_plain_dotted_name(octets) => self.dotted_name(text, at),
            Run::Uri if !is_plain_uri(octets) && !is_uri(text) => {
                self.fault(at..at + kept, FaultKind::NotUri);
            }
            _ => {}
        }
        Scalar::Text(text)
    }

    #[cold]
    pub(in crate::layout) fn odd_characters(&mut self, run: Run, octets: &[u8], at: usize) {
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
}
