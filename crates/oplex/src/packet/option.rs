//! An option in a message, of whatever protocol.

use crate::prelude::*;
use alloc::borrow::Cow;
use core::ops::Range;

use super::v4::Elements;

/// An option as it is meant: whole, however many parts it came in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct MessageOption<'o> {
    code: u16,
    /// Octets of its code and length.
    head: u8,
    /// The payload of its first part, which is all of it unless it was split.
    first: &'o [u8],
    /// Where the code of its first part stands.
    at: usize,
    /// What follows the first part, when there may be more: only DHCPv4 splits options (RFC 3396).
    rest: Option<Elements<'o>>,
}

/// A part of an option, or all of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct OptionPart<'o> {
    /// Its octets, without code and length.
    pub octets: &'o [u8],
    /// Where its first octet stands in the message, after code and length.
    pub at: usize,
}

impl<'o> MessageOption<'o> {
    #[inline]
    pub(super) fn new(code: u16, head: u8, first: &'o [u8], at: usize) -> Self {
        Self { code, head, first, at, rest: None }
    }

    #[inline]
    pub(super) fn split(self, rest: Elements<'o>) -> Self {
        Self { rest: Some(rest), ..self }
    }

    /// Its code.
    #[must_use]
    #[inline]
    pub fn code(&self) -> u16 {
        self.code
    }

    /// Where its code stands, counted from the start of the message.
    #[must_use]
    pub fn at(&self) -> usize {
        self.at
    }

    /// Octets of its code and length.
    #[must_use]
    pub fn head(&self) -> usize {
        self.head.into()
    }

    /// From its code to the end of its first part, in octets of the message.
    ///
    /// ```
    /// use oplex::packet::{Message as _, v6};
    ///
    /// let renew = v6::Message::read(&[5, 0, 0, 1, 0, 8, 0, 2, 0, 0])?;
    /// let elapsed = renew.option(8).ok_or("it has one")?;
    /// assert_eq!((elapsed.at(), elapsed.head(), elapsed.around()), (4, 4, 4..10));
    /// assert_eq!((elapsed.length(), elapsed.octets()), (2, Some(&[0, 0][..])));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn around(&self) -> Range<usize> {
        self.at..self.at + self.head() + self.first.len()
    }

    /// Whether it came in more parts than one.
    ///
    /// ```
    /// use oplex::packet::v4::{Draft, Message, MessageType};
    /// use oplex::packet::{Composer, Message as _};
    ///
    /// // 300 octets are more than one option of DHCPv4 holds, so that it travels in several (RFC 3396): what finds no room in the
    /// // options field of a message that every client accepts goes into `file`.
    /// let domains = [1; 300];
    /// let draft = Draft { options: &[(54, &[10, 64, 0, 67]), (119, &domains)], ..Draft::new(MessageType::ACK) };
    /// let mut composer = Composer::default();
    /// let message = Message::read(composer.compose(&draft)?.octets)?;
    /// let search = message.option(119).ok_or("it is there")?;
    /// assert!(search.is_split() && search.octets().is_none());
    /// assert_eq!(search.parts().map(|part| part.octets.len()).collect::<Vec<_>>(), [255, 36, 9]);
    /// assert_eq!((search.length(), search.joined().len()), (300, 300));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn is_split(&self) -> bool {
        self.rest.is_some()
    }

    /// Its octets where they lie, unless it was split.
    #[must_use]
    #[inline]
    pub fn octets(&self) -> Option<&'o [u8]> {
        (!self.is_split()).then_some(self.first)
    }

    /// Its parts, in the order in which they are joined.
    pub fn parts(&self) -> impl Iterator<Item = OptionPart<'o>> + use<'o> {
        let (code, mut rest) = (self.code, self.rest);
        let first = OptionPart { octets: self.first, at: self.at + self.head() };
        let more = core::iter::from_fn(move || rest.as_mut().and_then(Elements::next_part));
        let more = more.filter(move |part| u16::from(part.code) == code);
        core::iter::once(first).chain(more.map(|part| OptionPart { octets: part.octets, at: part.at + 2 }))
    }

    /// How many octets it has in all.
    #[must_use]
    pub fn length(&self) -> usize {
        self.octets().map_or_else(|| self.parts().map(|part| part.octets.len()).sum(), <[u8]>::len)
    }

    /// Its octets, joined if it was split.
    ///
    /// ```
    /// use oplex::packet::{Message as _, v4};
    ///
    /// // A header, the cookie, and a boot file's name that stands in two parts (RFC 3396).
    /// let mut octets = vec![0; 236];
    /// octets[0] = 2;
    /// octets.extend([0x63, 0x82, 0x53, 0x63, 67, 2, b'd', b'/', 67, 3, b'a', b'.', b'c', 255]);
    /// let message = v4::Message::read(&octets)?;
    /// let file = message.option(67).ok_or("it is there")?;
    /// assert!(file.is_split() && file.octets().is_none());
    /// assert_eq!(&*file.joined(), b"d/a.c");
    /// // The last octet of the name stands before the end.
    /// assert_eq!(file.position(4), octets.len() - 2);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    #[inline]
    pub fn joined(&self) -> Cow<'o, [u8]> {
        match self.octets() {
            Some(octets) => Cow::Borrowed(octets),
            None => Cow::Owned(self.parts().flat_map(|part| part.octets).copied().collect()),
        }
    }

    /// Its octets, joined in `buffer` if it was split: for who reads many messages and keeps one buffer.
    ///
    /// ```
    /// use oplex::packet::{Message as _, v6};
    ///
    /// // One buffer for all options of many messages: what stands in one part is not copied into it.
    /// let mut buffer = Vec::new();
    /// let renew = v6::Message::read(&[5, 0, 0, 1, 0, 8, 0, 2, 0, 7])?;
    /// for option in renew.options() {
    ///     assert_eq!(option.joined_in(&mut buffer), [0, 7]);
    /// }
    /// assert!(buffer.is_empty());
    /// # Ok::<(), oplex::packet::MessageError>(())
    /// ```
    #[inline]
    pub fn joined_in<'b>(&self, buffer: &'b mut Vec<u8>) -> &'b [u8]
    where
        'o: 'b,
    {
        if let Some(octets) = self.octets() {
            return octets;
        }
        self.join_in(buffer);
        buffer
    }

    #[cold]
    fn join_in(&self, buffer: &mut Vec<u8>) {
        buffer.clear();
        self.parts().for_each(|part| buffer.extend_from_slice(part.octets));
    }

    /// Where in the message one of its octets stands; for an octet after the last, where it ends.
    ///
    /// ```
    /// use oplex::packet::{Message as _, v6};
    ///
    /// let renew = v6::Message::read(&[5, 0, 0, 1, 0, 8, 0, 2, 0, 7])?;
    /// let elapsed = renew.option(8).ok_or("it has one")?;
    /// // The payload begins behind the code and the length; all of it is all of the option.
    /// assert_eq!((elapsed.position(0), elapsed.position(1), elapsed.rebased(&(0..2))), (8, 9, 4..10));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    #[inline]
    pub fn position(&self, octet: usize) -> usize {
        // Nearly all are in one part.
        if !self.is_split() {
            return self.at + self.head() + octet.min(self.first.len());
        }
        self.position_in_parts(octet)
    }

    fn position_in_parts(&self, octet: usize) -> usize {
        let (mut left, mut end) = (octet, 0);
        for part in self.parts() {
            if left < part.octets.len() {
                return part.at + left;
            }
            left -= part.octets.len();
            end = part.at + part.octets.len();
        }
        end
    }

    /// Where some of its octets stand in the message. What is about all of the option, or stands where octets are missing, is
    /// about the option with its code and length.
    #[must_use]
    pub fn rebased(&self, octets: &Range<usize>) -> Range<usize> {
        if octets.is_empty() || *octets == (0..self.length()) {
            return self.around();
        }
        let place = self.position(octets.start)..self.position(octets.end - 1) + 1;
        // Octets of two parts need not stand in this order.
        if place.start < place.end { place } else { self.around() }
    }
}
