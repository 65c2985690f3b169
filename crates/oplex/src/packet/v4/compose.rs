//! Writing messages.

use super::allocate::{allocate, cost, left_out};
use super::budget::{Entry, Packing};
use super::{Budget, COOKIE, Field, FieldUse, HEADER, Header, LARGEST, LeftOut, Limit, MessageType, Reason, SMALLEST};
use crate::codebook::Codebook;
use crate::family::Protocol;
use crate::packet::{ComposeError, Composer};
use crate::prelude::*;

/// Everything a message is made of.
#[derive(Debug, Clone, Copy)]
pub struct Draft<'p> {
    /// The header. Its addresses are the caller's affair.
    pub header: Header,
    /// What the message is; `None` is a message of BOOTP, without option 53.
    pub message_type: Option<MessageType>,
    /// The server's name in the header, at most 63 octets. Where it is empty, options may stand there.
    pub sname: &'p [u8],
    /// The boot file's name in the header, at most 127 octets. Where it is empty, options may stand there.
    pub file: &'p [u8],
    /// Codes and payloads, without 52 and 53.
    pub options: &'p [(u16, &'p [u8])],
    /// What the client requested, in its order (option 55).
    pub requested: &'p [u16],
    /// How large the message may become.
    pub limit: Limit,
    /// Whether the client is known to join options that were split, even where it requested none that must be.
    pub joins: bool,
    /// How many octets it is filled up to with pads.
    pub smallest: usize,
}

impl Draft<'_> {
    /// A message of this type, with nothing in it yet. Take the rest from it: `Draft { options, ..Draft::new(…) }`.
    ///
    /// ```
    /// use oplex::packet::v4::{Draft, Header, Message, MessageType};
    /// use oplex::packet::{Composer, Message as _};
    ///
    /// let header = Header::from_client(0x6411, [2, 0, 0x5e, 0, 0x53, 0x11]);
    /// let draft = Draft { header, options: &[(55, &[1, 3, 6])], ..Draft::new(MessageType::DISCOVER) };
    /// let mut composer = Composer::default();
    /// let octets = composer.compose(&draft)?.octets;
    /// // As RFC 1542, section 2.1 wants it, no message is shorter than 300 octets.
    /// assert_eq!((octets.len(), Message::read(octets)?.count()), (300, 2));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn new(message_type: MessageType) -> Self {
        let reply = message_type.is_reply() == Some(true);
        let header = if reply { Header::from_server(0, [0; 6]) } else { Header::from_client(0, [0; 6]) };
        Self {
            header,
            message_type: Some(message_type),
            sname: &[],
            file: &[],
            options: &[],
            requested: &[],
            limit: Limit::DEFAULT,
            joins: false,
            smallest: SMALLEST,
        }
    }

    fn joins(&self) -> bool {
        self.joins || self.requested.iter().any(|code| joins(*code))
    }

    fn check_texts(&self) -> Result<(), ComposeError> {
        for (field, text, most) in [(Field::Sname, self.sname, 63), (Field::File, self.file, 127)] {
            if text.len() > most || text.contains(&0) {
                return Err(ComposeError::NotText { field, most });
            }
        }
        Ok(())
    }
}

/// A message that was written, and what it had room for.
#[derive(Debug, Clone, Copy)]
pub struct Composed<'c> {
    /// Its octets.
    pub octets: &'c [u8],
    /// What it had room for.
    pub budget: &'c Budget,
}

/// Whether a client that requests this option is known to join what was split: the option's definition requires it of
/// those who read it (RFC 3396, section 4). The standard options are meant; no other book can require anything of clients.
fn joins(code: u16) -> bool {
    Codebook::standard().own(Protocol::V4, code).is_some_and(|definition| definition.joined)
}

/// What every reply begins with, in this order, whether it was requested or not (RFC 2131, section 4.3.1, table 3;
/// RFC 6842, section 3).
const FIRST: [u16; 3] = [54, 51, 61];

/// The place of what is not in the draft.
const NOWHERE: u16 = u16::MAX;

/// Whatever has no room is left out, and the budget says so: what must be in the message goes in first, then what the
/// client requested in its order, then the rest in the draft's, and the relay's information last. Options go into `file` and
/// `sname` when there is no other room and these are free, and are split when they are too long for one (RFC 3396).
impl crate::packet::Draft for Draft<'_> {
    type Composed<'c> = Composed<'c>;

    fn compose<'c>(&self, composer: &'c mut Composer) -> Result<Composed<'c>, ComposeError> {
        let Composer { octets, packing } = composer;
        self.check_texts()?;
        let all = packing.order(self)?;
        // Boot clients look for the file's name in `file`, so that holds options only when there is no other room.
        let boots = self.options.iter().any(|(code, _)| *code == 67);
        let mut overload = packing.allocate(self, all, !boots);
        if boots && !packing.budget.left_out.is_empty() {
            let all = packing.order(self)?;
            overload = packing.allocate(self, all, true);
        }
        packing.write(self, overload, octets);
        Ok(Composed { octets, budget: &packing.budget })
    }
}

impl Packing {
    /// Makes entries of what the draft has, in the order in which they are wanted, and says what they take together.
    fn order(&mut self, draft: &Draft<'_>) -> Result<usize, ComposeError> {
        // For each code its place in the draft, taken out as soon as it has its entry.
        let mut places = [NOWHERE; 256];
        for ((code, octets), index) in draft.options.iter().zip(0..) {
            let code = *code;
            let place = places.get_mut(usize::from(code)).ok_or(ComposeError::CodeTooLarge { code })?;
            if matches!(code, 0 | 52 | 53 | 255) {
                return Err(ComposeError::Automatic { code });
            }
            if core::mem::replace(place, index) != NOWHERE {
                return Err(ComposeError::Repeated { code });
            }
            if octets.len() > LARGEST {
                let (protocol, octets, most) = (Protocol::V4, octets.len(), LARGEST);
                return Err(ComposeError::OptionTooLong { protocol, code, octets, most });
            }
        }
        // The relay's information stands last (RFC 3046, section 2.2).
        let relay = core::mem::replace(&mut places[82], NOWHERE);
        let entries = &mut self.budget.entries;
        entries.clear();
        let mut all = 0;
        let mut take = |code: u8, index: u16, must: bool| {
            let length = draft.options.get(usize::from(index)).map_or(1, |(_, octets)| octets.len() as u16);
            let rank = entries.len() as u16;
            all += cost(length);
            entries.push(Entry { index, code, rank, must, length, share: [length, 0, 0], placed: true });
        };
        if draft.message_type.is_some() {
            take(53, NOWHERE, true);
        }
        let must = FIRST.iter().map(|code| (*code, true));
        let requested = draft.requested.iter().map(|code| (*code, false));
        let rest = draft.options.iter().map(|(code, _)| (*code, false));
        for (code, must) in must.chain(requested).chain(rest) {
            let place = places.get_mut(usize::from(code));
            let index = place.map_or(NOWHERE, |place| core::mem::replace(place, NOWHERE));
            if index == NOWHERE {
                continue;
            }
            let code = code as u8;
            // The mask stands before the routers when both do (RFC 2132, section 3.3).
            if code == 3 && places[1] != NOWHERE {
                take(1, core::mem::replace(&mut places[1], NOWHERE), false);
            }
            take(code, index, must);
        }
        if relay != NOWHERE {
            take(82, relay, false);
        }
        Ok(all)
    }

    /// Finds room for the entries, and says which header fields are needed for it. `file` is used if it may be.
    fn allocate(&mut self, draft: &Draft<'_>, all: usize, in_file: bool) -> u8 {
        let Budget { limit, left_out: out, .. } = &mut self.budget;
        *limit = draft.limit;
        out.clear();
        let mut room = [draft.limit.octets.saturating_sub(HEADER + COOKIE.len() + 1), 0, 0];
        // A message that refuses an address has no options in other fields (RFC 2131, section 4.3.1, table 3).
        let free = |field: &[u8], size: usize| {
            let allowed = field.is_empty() && draft.message_type != Some(MessageType::NAK);
            if allowed { size - 1 } else { 0 }
        };
        let (file, sname) = (free(draft.file, 128), free(draft.sname, 64));
        let whole = [room[0], file, sname];
        let file = if in_file { file } else { 0 };
        let overloads = all > room[0] && file + sname > 0;
        if overloads {
            room = [room[0].saturating_sub(3), file, sname];
        }
        let capacity = room;
        if all > room[0] {
            self.squeeze(&mut room, draft.joins());
        } else {
            room[0] -= all;
        }
        let mut overload = 0;
        for (index, field) in Field::ALL.into_iter().enumerate() {
            let used = capacity[index] - room[index];
            self.budget.fields[index] = FieldUse { field, capacity: whole[index], used };
            overload |= if used > 0 { [0, 1, 2][index] } else { 0 };
        }
        self.budget.fields[0].used += if overload > 0 { 3 } else { 0 };
        overload
    }

    /// Places entries that do not all fit into the options field.
    fn squeeze(&mut self, room: &mut [usize; 3], joins: bool) {
        let capacity = *room;
        // What goes back to the relay goes whole and in the options field, so its room is taken first, after the room
        // of what must be there.
        let must: usize = self.budget.entries.iter().filter(|entry| entry.must).map(|entry| cost(entry.length)).sum();
        let relay = self.budget.entries.pop_if(|entry| entry.code == 82);
        if let Some(mut relay) = relay {
            relay.placed = must + cost(relay.length) <= room[0];
            relay.share = [relay.length, 0, 0];
            if relay.placed {
                room[0] -= cost(relay.length);
            }
            self.pack(room, joins);
            if !relay.placed {
                let LeftOut { code, length, cost, .. } = left_out(&relay, *room, joins);
                let why = Reason::RelayInformation { room: capacity[0].saturating_sub(must) };
                self.budget.left_out.push(LeftOut { code, length, cost, why });
            }
            self.budget.entries.push(relay);
        } else {
            self.pack(room, joins);
        }
    }

    /// Places entries in their order; and when that leaves something out, the largest first, which may not. Before these
    /// come those without octets, which only the options field takes.
    fn pack(&mut self, room: &mut [usize; 3], joins: bool) {
        let before = *room;
        allocate(&mut self.budget.entries, room, joins);
        let missing = |entries: &[Entry]| entries.iter().filter(|entry| !entry.placed).count();
        if missing(&self.budget.entries) > 0 {
            self.other.clone_from(&self.budget.entries);
            let mut other_room = before;
            self.other
                .sort_unstable_by_key(|entry| (!entry.must, entry.length != 0, u16::MAX - entry.length, entry.rank));
            allocate(&mut self.other, &mut other_room, joins);
            if missing(&self.other) == 0 {
                self.other.sort_unstable_by_key(|entry| entry.rank);
                core::mem::swap(&mut self.budget.entries, &mut self.other);
                *room = other_room;
            }
        }
        let lost = self.budget.entries.iter().filter(|entry| !entry.placed);
        self.budget.left_out.extend(lost.map(|entry| left_out(entry, *room, joins)));
    }

    fn write(&mut self, draft: &Draft<'_>, overload: u8, octets: &mut Vec<u8>) {
        let budget = &mut self.budget;
        budget.overload = overload;
        budget.used = HEADER + COOKIE.len() + budget.fields[0].used + 1;
        octets.clear();
        octets.resize(budget.used.max(draft.smallest.min(draft.limit.octets)), 0);
        octets[..44].copy_from_slice(&draft.header.octets());
        octets[44..44 + draft.sname.len()].copy_from_slice(draft.sname);
        octets[108..108 + draft.file.len()].copy_from_slice(draft.file);
        octets[HEADER..HEADER + COOKIE.len()].copy_from_slice(&COOKIE);
        let kind = [draft.message_type.unwrap_or(MessageType(0)).0];
        let payload = |entry: &Entry| match draft.options.get(usize::from(entry.index)) {
            Some((_, payload)) => *payload,
            None => &kind[..],
        };
        let mut at = HEADER + COOKIE.len();
        if overload != 0 {
            at = put(octets, at, 52, &[overload]);
        }
        for entry in budget.entries.iter().filter(|entry| entry.stands_in(0)) {
            at = put(octets, at, entry.code, &payload(entry)[..usize::from(entry.share[0])]);
        }
        octets[at] = 255;
        for (index, field) in [(1, Field::File), (2, Field::Sname)] {
            if overload & index as u8 != 0 {
                write_field(octets, &budget.entries, (index, field), payload);
            }
        }
    }
}

/// The options in `file` or `sname`, with an end of their own.
#[cold]
fn write_field<'p>(
    octets: &mut [u8],
    entries: &[Entry],
    (index, field): (usize, Field),
    payload: impl Fn(&Entry) -> &'p [u8],
) {
    let mut at = field.range(0).start;
    for entry in entries.iter().filter(|entry| entry.stands_in(index)) {
        let start = entry.share[..index].iter().map(|share| usize::from(*share)).sum();
        at = put(octets, at, entry.code, &payload(entry)[start..start + usize::from(entry.share[index])]);
    }
    octets[at] = 255;
}

/// One option, in as many parts as it needs; says where the next begins.
#[inline]
fn put(octets: &mut [u8], at: usize, code: u8, payload: &[u8]) -> usize {
    match payload {
        // Most options are one address or one time, and these are one store.
        &[a, b, c, d] => {
            octets[at..at + 6].copy_from_slice(&[code, 4, a, b, c, d]);
            at + 6
        }
        payload if payload.len() <= 255 => put_part(octets, at, code, payload),
        payload => put_parts(octets, at, code, payload),
    }
}

#[inline]
fn put_part(octets: &mut [u8], at: usize, code: u8, payload: &[u8]) -> usize {
    let (front, rest) = octets[at..].split_at_mut(2);
    front.copy_from_slice(&[code, payload.len() as u8]);
    rest[..payload.len()].copy_from_slice(payload);
    at + 2 + payload.len()
}

#[cold]
fn put_parts(octets: &mut [u8], at: usize, code: u8, payload: &[u8]) -> usize {
    payload.chunks(255).fold(at, |at, part| put_part(octets, at, code, part))
}
