//! Which options clients request, and which replies have.

use super::seen::Frame;
use crate::family::Protocol;

/// What is known of one code.
#[derive(Debug, Clone, Copy, Default)]
struct Code {
    /// In how many conversations it was requested, and first in which frame.
    requested: Option<(u64, Frame)>,
    /// Whether any reply had it.
    sent: bool,
}

/// All codes of both protocols, by their numbers.
#[derive(Debug, Default)]
pub(super) struct Codes {
    v4: Vec<Code>,
    v6: Vec<Code>,
}

impl Codes {
    fn get(&mut self, protocol: Protocol, code: u16) -> &mut Code {
        let all = if protocol == Protocol::V4 { &mut self.v4 } else { &mut self.v6 };
        let place = usize::from(code);
        if place >= all.len() {
            all.resize(place + 1, Code::default());
        }
        &mut all[place]
    }

    pub(super) fn requested(&mut self, protocol: Protocol, code: u16, frame: Frame) {
        self.get(protocol, code).requested.get_or_insert((0, frame)).0 += 1;
    }

    pub(super) fn sent(&mut self, protocol: Protocol, code: u16) {
        self.get(protocol, code).sent = true;
    }

    /// Those that were requested and never sent, with how often and in which frame first.
    pub(super) fn never_sent(&self) -> impl Iterator<Item = (Protocol, u16, u64, Frame)> {
        let all = [(Protocol::V4, &self.v4), (Protocol::V6, &self.v6)].into_iter();
        all.flat_map(|(protocol, codes)| {
            codes.iter().enumerate().map(move |(code, known)| (protocol, code as u16, known))
        })
        .filter(|(.., known)| !known.sent)
        .filter_map(|(protocol, code, known)| known.requested.map(|(count, frame)| (protocol, code, count, frame)))
    }
}
