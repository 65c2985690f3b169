//! Which option goes into which field.

use super::budget::{Entry, LeftOut, Reason};

/// Octets that a payload takes when it stands in one field.
#[inline]
pub(super) fn cost(length: u16) -> usize {
    usize::from(length) + 2 * if length <= 255 { 1 } else { usize::from(length.div_ceil(255)) }
}

/// The most octets of a payload that fit in this room.
fn fitting(room: usize) -> usize {
    255 * (room / 257) + (room % 257).saturating_sub(2)
}

/// Puts the entries into fields that have this much room, in their order: each whole into the first field that takes it,
/// or in parts into several when the client joins them. What fits nowhere is marked as not placed.
pub(super) fn allocate(entries: &mut [Entry], room: &mut [usize; 3], joins: bool) {
    for entry in entries {
        one(entry, room, joins);
    }
}

fn one(entry: &mut Entry, room: &mut [usize; 3], joins: bool) {
    let whole = cost(entry.length);
    entry.share = [0; 3];
    entry.placed = true;
    // An option without octets has no share to show for where it stands, so it stands in the first field always.
    let fields = if entry.length == 0 { &room[..1] } else { &room[..] };
    if let Some(field) = fields.iter().position(|room| *room >= whole) {
        entry.share[field] = entry.length;
        room[field] -= whole;
        return;
    }
    // More than 255 octets are split anyway, and who takes them joins them. No octets cannot be split.
    let may_split = entry.length > 255 || (joins && entry.length > 0);
    if !may_split || room.iter().map(|room| fitting(*room)).sum::<usize>() < usize::from(entry.length) {
        entry.placed = false;
        return;
    }
    let mut left = entry.length;
    for (share, room) in entry.share.iter_mut().zip(room) {
        *share = left.min(fitting(*room) as u16);
        left -= *share;
        *room -= if *share == 0 { 0 } else { cost(*share) };
    }
}

/// Why an entry was not placed, given the room that is left.
pub(super) fn left_out(entry: &Entry, room: [usize; 3], joins: bool) -> LeftOut {
    let (most, sum) = (room.into_iter().max().unwrap_or(0), room.iter().sum());
    let in_parts = joins || entry.length > 255 || sum < cost(entry.length);
    let why = if in_parts { Reason::NoRoomAtAll { room: sum } } else { Reason::NoRoom { most } };
    LeftOut { code: entry.code, length: entry.length, cost: cost(entry.length), why }
}
