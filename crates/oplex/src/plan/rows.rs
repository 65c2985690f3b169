//! Reservations in the order written, in the parts they were read in.

use super::Reservation;

/// A list of reservations that grows by whole parts: to copy half a million of them takes as long as to check them.
#[derive(Debug, Clone, Default)]
pub(super) struct Rows {
    /// None of them empty.
    parts: Vec<Vec<Reservation>>,
    /// How many there are before each part.
    starts: Vec<usize>,
    length: usize,
}

impl Rows {
    pub(super) fn add(&mut self, part: Vec<Reservation>) {
        if !part.is_empty() {
            self.starts.push(self.length);
            self.length += part.len();
            self.parts.push(part);
        }
    }

    pub(super) fn len(&self) -> usize {
        self.length
    }

    pub(super) fn get(&self, at: usize) -> Option<&Reservation> {
        let part = self.starts.partition_point(|start| *start <= at).checked_sub(1)?;
        self.parts[part].get(at - self.starts[part])
    }

    pub(super) fn iter(&self) -> impl Iterator<Item = &Reservation> + Clone {
        self.parts.iter().flatten()
    }
}
