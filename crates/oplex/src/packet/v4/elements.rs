//! The one walk through the fields that hold options.

use core::ops::Range;

use super::{COOKIE, HEADER};

/// Where the options field begins.
pub(super) const BEGIN: usize = HEADER + COOKIE.len();

/// Where options can stand.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Field {
    /// The options field, which every message has.
    Options,
    /// The header field `file`, when option 52 says so.
    File,
    /// The header field `sname`, when option 52 says so.
    Sname,
}

impl Field {
    /// All of them, in the order in which they are read (RFC 3396, section 5).
    pub const ALL: [Self; 3] = [Self::Options, Self::File, Self::Sname];

    /// As the RFCs call it: `options`, `file`, `sname`.
    ///
    /// ```
    /// use oplex::packet::v4::Field;
    ///
    /// // The options field begins behind the cookie, and `sname` and `file` may hold options as well (RFC 2132, section 9.3).
    /// assert_eq!([240, 44, 108].map(|at| Field::around(at).name()), ["options", "sname", "file"]);
    /// ```
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Options => "options",
            Self::File => "file",
            Self::Sname => "sname",
        }
    }

    /// The field in which an octet of a message stands, given that it is an option's.
    #[must_use]
    pub fn around(at: usize) -> Self {
        match at {
            HEADER.. => Self::Options,
            108.. => Self::File,
            _ => Self::Sname,
        }
    }

    /// Where it lies in a message of this many octets.
    pub(super) fn range(self, length: usize) -> Range<usize> {
        match self {
            Self::Options => BEGIN..length,
            Self::File => 108..HEADER,
            Self::Sname => 44..108,
        }
    }
}

/// An option as it stands, which may be a part of a longer one.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Part<'o> {
    /// Its code.
    pub code: u8,
    /// Its octets, without code and length.
    pub octets: &'o [u8],
    /// Where its code stands in the message.
    pub at: usize,
    /// The field it stands in.
    pub field: Field,
}

/// What the walk meets.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Element<'o> {
    /// An option or a part of one.
    Part(Part<'o>),
    /// Pad octets, in whose place an option could have begun.
    Pads(Range<usize>),
    /// The end of a field's options; what follows up to the range's end is not looked at.
    End {
        /// The field.
        field: Field,
        /// From the octet 255 to the end of the field.
        octets: Range<usize>,
    },
    /// A field that ends without the octet 255.
    NoEnd {
        /// The field.
        field: Field,
        /// Where it ends.
        at: usize,
    },
    /// An option that is longer than the field. Nothing more can be read in that field.
    Overrun {
        /// Its code.
        code: u8,
        /// The field.
        field: Field,
        /// How many octets it should have; `None` when even the length is missing.
        length: Option<usize>,
        /// From its code to the end of the field.
        octets: Range<usize>,
    },
}

/// The walk through the options of a message, field after field. It always ends: every element takes an octet at least.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Elements<'o> {
    /// The whole message.
    octets: &'o [u8],
    /// What is left of the field.
    rest: &'o [u8],
    /// Where the field ends in the message.
    end: usize,
    field: Field,
    /// The value of option 52, as soon as it was met.
    overload: u8,
    done: bool,
}

/// Takes the next option from what is left of a field: its code, its octets, and how many octets were left before it. There is
/// none at a pad, at the end, and where octets are missing.
#[inline(always)]
pub(super) fn next_plain<'o>(rest: &mut &'o [u8]) -> Option<(u8, &'o [u8], usize)> {
    let [code @ 1..=254, length, after @ ..] = *rest else { return None };
    let (octets, behind) = after.split_at_checked(usize::from(*length))?;
    let left = rest.len();
    *rest = behind;
    Some((*code, octets, left))
}

impl<'o> Elements<'o> {
    /// Begins in the options field.
    pub(super) fn new(octets: &'o [u8]) -> Self {
        let rest = octets.get(BEGIN..);
        let (done, rest) = (rest.is_none(), rest.unwrap_or_default());
        Self { octets, rest, end: octets.len(), field: Field::Options, overload: 0, done }
    }

    /// Goes on to the next field that holds options.
    #[cold]
    fn next_field(&mut self) {
        let next = match self.field {
            Field::Options if self.overload & 1 != 0 => Field::File,
            Field::Options | Field::File if self.overload & 2 != 0 => Field::Sname,
            _ => {
                self.done = true;
                return;
            }
        };
        let range = next.range(self.octets.len());
        (self.field, self.end, self.rest) = (next, range.end, &self.octets[range]);
    }

    /// The next option or part of one; everything else is passed over.
    #[inline]
    pub fn next_part(&mut self) -> Option<Part<'o>> {
        loop {
            if let Some((code, octets, left)) = next_plain(&mut self.rest) {
                return Some(self.part(code, octets, self.end - left));
            }
            if self.done {
                return None;
            }
            if let [0, after @ ..] = self.rest {
                self.rest = after;
            } else {
                self.rest = &[];
                self.next_field();
            }
        }
    }

    /// An option that was taken, which may say where more of them stand.
    #[inline]
    fn part(&mut self, code: u8, octets: &'o [u8], at: usize) -> Part<'o> {
        if code == 52 {
            self.overloads(octets);
        }
        Part { code, octets, at, field: self.field }
    }

    #[cold]
    fn overloads(&mut self, octets: &[u8]) {
        if let ([value @ 1..=3], Field::Options, 0) = (octets, self.field, self.overload) {
            self.overload = *value;
        }
    }
}

impl<'o> Iterator for Elements<'o> {
    type Item = Element<'o>;

    fn next(&mut self) -> Option<Element<'o>> {
        if self.done {
            return None;
        }
        let (end, field) = (self.end, self.field);
        let start = end - self.rest.len();
        let element = match *self.rest {
            [] => Element::NoEnd { field, at: end },
            [0, ..] => {
                let pads = self.rest.iter().take_while(|octet| **octet == 0).count();
                self.rest = &self.rest[pads..];
                return Some(Element::Pads(start..start + pads));
            }
            [255, ..] => Element::End { field, octets: start..end },
            [code] => Element::Overrun { code, field, length: None, octets: start..end },
            [code, length, ref after @ ..] => match after.split_at_checked(usize::from(length)) {
                Some((octets, rest)) => {
                    self.rest = rest;
                    return Some(Element::Part(self.part(code, octets, start)));
                }
                None => Element::Overrun { code, field, length: Some(usize::from(length)), octets: start..end },
            },
        };
        self.rest = &[];
        self.next_field();
        Some(element)
    }
}
