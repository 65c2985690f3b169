//! The walk through options that stand one after the other with their lengths in front, as DHCPv6 and router advertisements
//! have them.

use core::marker::PhantomData;

use super::MessageOption;

/// How options are framed.
pub trait Framing {
    /// Octets of code and length.
    const HEAD: usize;

    /// The least octets that an option takes.
    const LEAST: usize;

    /// The code, and how many octets the whole option takes by its length; fewer than [`Framing::HEAD`] is no length.
    fn head(octets: &[u8]) -> (u16, usize);
}

/// What the walk meets.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Element<'o> {
    /// An option.
    Option(MessageOption<'o>),
    /// An option whose length is shorter than its own head; nothing comes after it.
    Empty {
        /// Where it stands.
        at: usize,
    },
    /// Octets that are no whole option; nothing comes after them.
    Cut {
        /// Where they begin.
        at: usize,
        /// How many there are.
        octets: usize,
        /// How many the option would have, its code and length included.
        needed: usize,
    },
}

/// The walk. It always ends: every step takes an octet at least.
#[derive(Debug, Clone)]
pub struct Elements<'o, F> {
    rest: &'o [u8],
    at: usize,
    framing: PhantomData<F>,
}

impl<'o, F: Framing> Elements<'o, F> {
    /// Begins with the octets from `at` on.
    pub(super) fn new(octets: &'o [u8], at: usize) -> Self {
        Self { rest: &octets[at..], at, framing: PhantomData }
    }

    /// The options alone.
    pub(super) fn options(self) -> impl Iterator<Item = MessageOption<'o>> {
        self.filter_map(|element| if let Element::Option(option) = element { Some(option) } else { None })
    }
}

impl<'o, F: Framing> Iterator for Elements<'o, F> {
    type Item = Element<'o>;

    #[inline]
    fn next(&mut self) -> Option<Element<'o>> {
        let (at, rest) = (self.at, self.rest);
        let Some((head, after)) = rest.split_at_checked(F::HEAD) else {
            self.rest = &[];
            return (!rest.is_empty()).then_some(Element::Cut { at, octets: rest.len(), needed: F::LEAST });
        };
        let (code, needed) = F::head(head);
        if let Some((octets, rest)) = needed.checked_sub(F::HEAD).and_then(|length| after.split_at_checked(length)) {
            (self.rest, self.at) = (rest, at + needed);
            return Some(Element::Option(MessageOption::new(code, F::HEAD as u8, octets, at)));
        }
        self.rest = &[];
        Some(if needed < F::HEAD { Element::Empty { at } } else { Element::Cut { at, octets: rest.len(), needed } })
    }
}
