//! What a message had room for.

use crate::prelude::*;
use core::fmt;

use super::{COOKIE, DATAGRAM_HEADERS, Field, HEADER, LARGEST, Message};
use crate::packet::Message as _;

/// How large a message may become.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Limit {
    /// Octets of the message, which is the datagram without its headers.
    pub octets: usize,
    /// Who says so.
    pub from: LimitFrom,
}

/// Who says how large a message may become.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LimitFrom {
    /// The default: the 576 octets that every host accepts (RFC 2131, section 2).
    Default,
    /// The client, by option 57.
    Client {
        /// What it said, which counts the whole datagram. Less than 576 is taken for 576.
        said: u16,
    },
    /// The sender, where a link carries no more.
    Sender,
}

impl Limit {
    /// What every host accepts: a datagram of 576 octets (RFC 2131, section 2).
    pub const DEFAULT: Self = Self { octets: 576 - DATAGRAM_HEADERS, from: LimitFrom::Default };

    /// The limit of a client that said this in option 57; without it, what every host accepts.
    ///
    /// ```
    /// use oplex::packet::v4::Limit;
    ///
    /// // 20 octets of IPv4 and 8 of UDP are not the message's.
    /// assert_eq!(Limit::of_client(Some(1500)).octets, 1472);
    /// assert_eq!(Limit::of_client(None).octets, 548);
    /// assert_eq!(Limit::of_client(Some(300)).octets, 548, "no client may request less");
    /// ```
    #[must_use]
    pub fn of_client(said: Option<u16>) -> Self {
        said.map_or(Self::DEFAULT, |said| Self {
            octets: usize::from(said.max(576)) - DATAGRAM_HEADERS,
            from: LimitFrom::Client { said },
        })
    }

    /// A limit of the sender's own, for the whole datagram. Less than 576 octets is taken for 576, more than a message
    /// can have for that.
    ///
    /// ```
    /// use oplex::packet::v4::Limit;
    ///
    /// // A request came in a datagram of 1280 octets, of which 28 are headers of IPv4 and UDP.
    /// assert_eq!(Limit::of_datagram(1280).octets, 1252);
    /// ```
    #[must_use]
    pub fn of_datagram(octets: usize) -> Self {
        Self { octets: octets.clamp(576, LARGEST) - DATAGRAM_HEADERS, from: LimitFrom::Sender }
    }
}

/// `548 octets: what every client accepts`
impl fmt::Display for Limit {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} octets", self.octets)?;
        match self.from {
            LimitFrom::Default => f.write_str(", what every client accepts"),
            LimitFrom::Client { said } => write!(f, ", as the client says ({said} with the headers)"),
            LimitFrom::Sender => f.write_str(", as the sender says"),
        }
    }
}

/// One option that stands in a message.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Line {
    /// Its code.
    pub code: u8,
    /// Octets of its payload.
    pub length: u16,
    /// Octets of its payload that stand in each field, in the order of [`Field::ALL`].
    pub share: [u16; 3],
    /// In how many parts it stands; more than one where it was split (RFC 3396).
    pub parts: u16,
}

impl Line {
    /// Octets that it takes: its payload, and a code and a length for each part.
    #[must_use]
    pub fn cost(&self) -> usize {
        usize::from(self.length) + 2 * usize::from(self.parts)
    }

    /// The fields it stands in.
    pub fn fields(&self) -> impl Iterator<Item = Field> {
        // An option without octets stands in the options field.
        let in_field = |(_, share): &(Field, u16)| *share > 0;
        let some = Field::ALL.into_iter().zip(self.share).filter(in_field).map(|(field, _)| field);
        some.chain((self.length == 0).then_some(Field::Options))
    }
}

/// One option that a message had no room for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LeftOut {
    /// Its code.
    pub code: u8,
    /// Octets of its payload.
    pub length: u16,
    /// Octets it would have taken.
    pub cost: usize,
    /// Why it did not fit.
    pub why: Reason,
}

/// Why an option did not fit.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Reason {
    /// No field had so much room, and nothing says that the client would join its parts.
    NoRoom {
        /// The room in the field that had most.
        most: usize,
    },
    /// All fields together had no more room.
    NoRoomAtAll {
        /// Their room together.
        room: usize,
    },
    /// The relay's information goes back whole and in the options field, or not at all (RFC 3046, section 2.2).
    RelayInformation {
        /// The room in the options field.
        room: usize,
    },
}

impl fmt::Display for Reason {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::NoRoom { most } => {
                write!(f, "no field has more than {most} octets left, and the client may not join parts (RFC 3396)")
            }
            Self::NoRoomAtAll { room } => write!(f, "{room} octets are left in all"),
            Self::RelayInformation { room } => {
                write!(f, "it must go back whole, and the options field has {room} octets left (RFC 3046, section 2.2)")
            }
        }
    }
}

/// The room of one field.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct FieldUse {
    /// The field.
    pub field: Field,
    /// Octets that options could take in it, without its end; 0 where it was not to be had.
    pub capacity: usize,
    /// Octets that options take in it.
    pub used: usize,
}

/// What a message had room for. Everything that was to go in is among its [lines](Budget::lines) or was left out.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Budget {
    /// How large the message may become, and who says so.
    pub limit: Limit,
    /// Octets it has without the pads behind its end.
    pub used: usize,
    /// What was to go in, in the order in which it was wanted.
    pub(super) entries: Vec<Entry>,
    /// What it had no room for, in the order in which it was wanted.
    pub left_out: Vec<LeftOut>,
    /// The room of the fields, in the order of [`Field::ALL`].
    pub fields: [FieldUse; 3],
    /// Option 52: 1 when `file` holds options, 2 when `sname` does, 3 for both, 0 for neither.
    pub overload: u8,
}

impl Default for Budget {
    fn default() -> Self {
        let fields = Field::ALL.map(|field| FieldUse { field, capacity: 0, used: 0 });
        Self { limit: Limit::DEFAULT, used: 0, entries: Vec::new(), left_out: Vec::new(), fields, overload: 0 }
    }
}

impl Budget {
    /// What stands in it, in the order in which it is read.
    pub fn lines(&self) -> impl Iterator<Item = Line> {
        let overload = Line { code: 52, length: 1, share: [1, 0, 0], parts: 1 };
        // A split option stands in several fields, and counts where it begins.
        let begins = |entry: &Entry, field: usize| {
            entry.stands_in(field) && entry.share[..field].iter().all(|share| *share == 0)
        };
        let in_field = move |field| self.entries.iter().filter(move |entry| begins(entry, field)).map(Entry::line);
        let first = (self.overload != 0).then_some(overload);
        first.into_iter().chain((0..3).flat_map(in_field))
    }

    /// Octets that are still free.
    ///
    /// ```
    /// use oplex::packet::Composer;
    /// use oplex::packet::v4::{Draft, MessageType};
    ///
    /// let draft = Draft { options: &[(54, &[10, 64, 0, 67]), (51, &[0, 0, 14, 16])], ..Draft::new(MessageType::OFFER) };
    /// let mut composer = Composer::default();
    /// let budget = composer.compose(&draft)?.budget;
    /// // The header has 236 octets, the cookie 4, the options 3 + 6 + 6, and the end 1.
    /// assert_eq!((budget.used, budget.free()), (256, 548 - 256));
    /// assert_eq!(budget.lines().map(|line| (line.code, line.cost())).collect::<Vec<_>>(), [(53, 3), (54, 6), (51, 6)]);
    /// # Ok::<(), oplex::packet::ComposeError>(())
    /// ```
    #[must_use]
    pub fn free(&self) -> usize {
        self.limit.octets.saturating_sub(self.used)
    }

    /// Octets that stand in `file` and `sname` and would have had no room otherwise; option 52 and the two ends are
    /// taken off.
    #[must_use]
    pub fn saved(&self) -> usize {
        let [_, file, sname] = &self.fields;
        (file.used + sname.used).saturating_sub(if self.overload == 0 { 0 } else { 3 })
    }
}

impl Budget {
    /// What a message that is there already takes of a limit.
    ///
    /// ```
    /// use oplex::packet::{Composer, Message as _, v4};
    ///
    /// let options: &[(u16, &[u8])] = &[(54, &[10, 64, 0, 67]), (3, &[10, 64, 4, 1])];
    /// let draft = v4::Draft { options, ..v4::Draft::new(v4::MessageType::OFFER) };
    /// let mut composer = Composer::default();
    /// let message = v4::Message::read(composer.compose(&draft)?.octets)?;
    /// let budget = v4::Budget::of_message(&message, v4::Limit::DEFAULT);
    /// // 548 octets, less the header with its cookie, the type, two options of four octets, and the end.
    /// assert_eq!(budget.free(), 548 - 240 - 3 - 2 * 6 - 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn of_message(message: &Message<'_>, limit: Limit) -> Self {
        let entry = |(index, code): (u16, u8)| {
            let mut share = [0; 3];
            let parts = message.parts().filter(|part| part.code == code);
            parts.for_each(|part| share[part.field as usize] += part.octets.len() as u16);
            let length = share.iter().sum();
            Entry { index, code, rank: index, must: false, length, share, placed: true }
        };
        let codes = message.options().map(|option| option.code() as u8).filter(|code| *code != 52);
        let entries: Vec<Entry> = (0..).zip(codes).map(entry).collect();
        let mut used = [0; 3];
        for part in message.parts() {
            used[part.field as usize] += 2 + part.octets.len();
        }
        let overload = message.overload();
        let room = |field: Field, size: usize, bit: u8, octets: &[u8]| {
            let free = overload & bit != 0 || octets.iter().all(|octet| *octet == 0);
            FieldUse { field, capacity: if free { size - 1 } else { 0 }, used: used[field as usize] }
        };
        let head = HEADER + COOKIE.len() + 1;
        let options = FieldUse { field: Field::Options, capacity: limit.octets.saturating_sub(head), used: used[0] };
        let fields = [options, room(Field::File, 128, 1, message.file()), room(Field::Sname, 64, 2, message.sname())];
        Self { limit, used: head + used[0], entries, left_out: Vec::new(), fields, overload }
    }
}

/// One option on its way into a message.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Entry {
    /// Its place in the draft; what has none there is the message's type.
    pub(super) index: u16,
    /// Its code.
    pub(super) code: u8,
    /// How many are wanted before it.
    pub(super) rank: u16,
    /// Whether the message is worth nothing without it.
    pub(super) must: bool,
    pub(super) length: u16,
    /// Octets of its payload in each field.
    pub(super) share: [u16; 3],
    pub(super) placed: bool,
}

impl Entry {
    /// Whether some of it stands in the field of this place in [`Field::ALL`](super::Field::ALL).
    #[inline]
    pub(super) fn stands_in(&self, field: usize) -> bool {
        self.placed && (self.share[field] > 0 || (field == 0 && self.length == 0))
    }

    pub(super) fn line(&self) -> Line {
        if self.length <= 255 && self.share.contains(&self.length) {
            return Line { code: self.code, length: self.length, share: self.share, parts: 1 };
        }
        let parts = self.share.iter().map(|share| share.div_ceil(255)).sum::<u16>().max(1);
        Line { code: self.code, length: self.length, share: self.share, parts }
    }
}

/// What packing options into the fields of a message needs, kept from one message to the next.
#[derive(Debug, Default)]
pub(crate) struct Packing {
    pub(super) budget: Budget,
    /// The entries as they stand in one of two ways of placing them, to compare.
    pub(super) other: Vec<Entry>,
}
