//! Captured messages, put together to conversations and held against the RFCs and against a plan or release.
//!
//! What captures are made of is not of this module: it is handed messages with the time, the frame and the addresses that they
//! were seen with. What it remembers is bounded, see [`Policy`].
//!
//! ```
//! use std::time::Duration;
//! use oplex::audit::{Audit, CapturedMessage, Frame, Policy};
//! use oplex::codebook::Codebook;
//! use oplex::family::Protocol;
//! use oplex::packet::{Composer, v4};
//!
//! let codebook = Codebook::standard();
//! let mut composer = Composer::default();
//! let mut audit = Audit::new(codebook, Policy::default());
//! // Two clients look for a server, half a minute apart; the first one gets no reply.
//! for (number, second) in [(1, 0), (2, 30)] {
//!     let header = v4::Header::from_client(number, [2, 0, 0x5e, 0, 0x53, number as u8]);
//!     let discover = v4::Draft { header, ..v4::Draft::new(v4::MessageType::DISCOVER) };
//!     let seen = CapturedMessage {
//!         at: Duration::from_secs(second),
//!         frame: Frame { file: 0, number: number.into() },
//!         link: 0,
//!         protocol: Protocol::V4,
//!         source: "0.0.0.0:68".parse()?,
//!         destination: "255.255.255.255:67".parse()?,
//!         hardware: None,
//!         octets: composer.compose(&discover)?.octets.into(),
//!         missing: 0,
//!         checksum_wrong: false,
//!         comment: None,
//!     };
//!     let found = seen.findings(codebook);
//!     audit.add(&seen, found);
//! }
//! let summary = audit.finish();
//! assert_eq!((summary.kinds[0].rule.name, summary.kinds[0].frame.number), ("request-unanswered", 1));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod against;
mod clients;
mod codes;
mod compare;
mod conversation;
mod memo;
mod opened;
mod replies;
mod requests;
mod routers;
mod seen;
mod summary;
mod witness;

use std::borrow::Cow;
use std::collections::{HashSet, VecDeque};
use std::net::IpAddr;
use std::sync::Arc;
use std::time::Duration;

use crate::check::traffic::{OPTION_NEVER_SENT, REQUEST_UNANSWERED};
use crate::codebook::Codebook;
use crate::compiled::Compiled;
use crate::family::Protocol;
use crate::finding::Finding;
use crate::octets::Mac;
use crate::packet::AnyMessage;
use crate::plan::{Reservation, Server};

use against::Against;
use clients::{Map, Memory};
use codes::Codes;
use conversation::{NONE, Open, Planned};
use memo::Memo;
use opened::{ConversationId, KeyOf, Opened};
use replies::Judged;
use seen::{Read, Short};
use summary::Kinds;

pub use conversation::{Answered, Conversation, ConversationMessage, FrameFinding};
pub use memo::Checker;
pub use seen::{CapturedMessage, Frame};
pub use summary::{Answerer, FindingKind, Summary};

/// What an audit waits for and remembers.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub struct Policy {
    /// A request that has no reply after this time is unanswered: 10 seconds by default.
    pub answer_within: Duration,
    /// A conversation has ended when nothing was said for this time: 60 seconds by default.
    pub idle: Duration,
    /// A host whose router says that it should use DHCPv6 must begin within this time: two minutes by default.
    pub ask_within: Duration,
    /// How many conversations may be open at a time, the one that was silent longest being ended first: 10,000 by default.
    pub open: usize,
    /// How many octets the requests of open conversations may have together: 32 MB by default.
    pub octets: usize,
    /// How many clients, addresses and hosts are remembered, those that were seen first being forgotten first: 50,000 of each
    /// by default.
    pub remembered: usize,
}

impl Default for Policy {
    fn default() -> Self {
        Self {
            answer_within: Duration::from_secs(10),
            idle: Duration::from_secs(60),
            ask_within: Duration::from_secs(120),
            open: 10_000,
            octets: 32 << 20,
            remembered: 50_000,
        }
    }
}

/// As many messages are known for each conversation that may be open, before those that are not the last of theirs are forgotten.
const SILENT: usize = 4;

/// An audit that runs.
#[derive(Debug)]
pub struct Audit<'c> {
    codebook: &'c Codebook,
    against: Option<Against<'c>>,
    policy: Policy,
    now: Duration,
    open: Opened,
    /// How many octets their requests have.
    octets: usize,
    /// Every message's time and conversation: the front is the one that was silent longest, unless it spoke again later.
    silent: VecDeque<(Duration, ConversationId)>,
    /// The conversations of DHCPv6 by transaction ID and the address that the request came from.
    askers: Map<(u32, IpAddr), ConversationId>,
    memory: Memory,
    summary: Summary,
    /// How many messages there were of each type.
    counts: Map<(Protocol, u16), u64>,
    kinds: Kinds,
    /// What there is to say of replies that come again.
    judged: Memo<Arc<Judged>>,
    codes: Codes,
    /// Where the reservations stand in memory whose clients were seen.
    reserved: HashSet<usize>,
    closed: Vec<Conversation>,
}

impl<'c> Audit<'c> {
    /// An audit that holds messages against the RFCs, and reads their options by this codebook.
    #[must_use]
    pub fn new(codebook: &'c Codebook, policy: Policy) -> Self {
        Self {
            codebook,
            against: None,
            policy,
            now: Duration::ZERO,
            open: Opened::default(),
            octets: 0,
            silent: VecDeque::new(),
            askers: Map::default(),
            memory: Memory::new(policy.remembered),
            summary: Summary::default(),
            counts: Map::default(),
            kinds: Kinds::default(),
            judged: Memo::default(),
            codes: Codes::default(),
            reserved: HashSet::new(),
            closed: Vec::new(),
        }
    }

    /// The same against a plan or release, whose codebook reads the options.
    #[must_use]
    pub fn against(compiled: &'c Compiled<'c>, policy: Policy) -> Self {
        Self { against: Some(Against::new(compiled)), ..Self::new(&compiled.codebook, policy) }
    }

    /// The same of a capture on this network, by its place in the plan: messages that do not say where their client is are of it.
    #[must_use]
    pub fn on(mut self, network: usize) -> Self {
        if let Some(against) = &mut self.against {
            against.network = Some(network);
        }
        self
    }

    /// The same where these servers answer as well as the plan's first: [`Plan::others`](crate::plan::Plan::others).
    #[must_use]
    pub fn answered_by(mut self, others: &'c [Server]) -> Self {
        if let Some(against) = &mut self.against {
            against.others = others;
        }
        self
    }

    /// Adds a message, in the order in which they were seen, with what [`CapturedMessage::findings`] has of it.
    pub fn add(&mut self, seen: &CapturedMessage, found: Vec<Finding>) {
        self.now = self.now.max(seen.at);
        let span = self.summary.seen.get_or_insert((seen.at, seen.at));
        *span = (span.0.min(seen.at), span.1.max(seen.at));
        self.close_silent();
        let message = seen.message().ok();
        let read = message.and_then(Read::of);
        let place = self.place_of(seen, read.as_ref());
        let mut open = self.open.take(place);
        self.octets -= open.octets();
        let number = match (&read, message) {
            (Some(read), _) => read.kind.into(),
            (None, Some(message)) => message.type_number().unwrap_or_default().into(),
            (None, None) => seen::UNREADABLE,
        };
        *self.counts.entry((seen.protocol, number)).or_default() += 1;
        let from_client = match message {
            Some(AnyMessage::Ra(message)) => message.advertisement().is_none(),
            _ => read.as_ref().is_none_or(|read| read.from_client),
        };
        open.step(seen, seen::name(seen.protocol, number), from_client);
        for finding in found {
            self.tell(&mut open, finding, seen, NONE);
        }
        match (message, read) {
            (Some(AnyMessage::Ra(message)), _) => self.router(&mut open, seen, message),
            // What is cut is shown, and nothing rests on what it lacks.
            (_, Some(read)) if seen.missing == 0 => match read.from_client {
                true => self.request(&mut open, seen, &read),
                false => self.reply(&mut open, seen, &read),
            },
            _ => {}
        }
        // What routers advertise every few minutes is one conversation, as long as there are not too many of them.
        if from_client || seen.protocol != Protocol::Ra || self.summary.servers.len() >= Summary::SERVERS {
            self.silent.push_back((seen.at, place));
        }
        self.octets += open.octets();
        self.open.put(place, open);
        // However many messages a conversation has, its last one counts.
        if self.silent.len() > SILENT * self.policy.open {
            let open = &self.open;
            self.silent.retain(|(at, place)| open.get(*place).is_some_and(|open| open.last == *at));
        }
    }

    /// Says that so much time went by without a message, where it is known at once: what is silent for long has ended.
    pub fn pass(&mut self, time: Duration) {
        self.now = self.now.saturating_add(time);
        self.close_silent();
    }

    /// The conversation that a message is of. A reply that names another client than its request is found as well: it has the
    /// transaction ID, and goes back to where the request came from.
    fn place_of(&mut self, seen: &CapturedMessage, read: Option<&Read<'_>>) -> ConversationId {
        let protocol = seen.protocol;
        let Some(read) = read else {
            let client = address(seen);
            let key = KeyOf { protocol, link: seen.link, transaction: 0, client: &client };
            return self.open.find(key).unwrap_or_else(|| self.open.begin(key));
        };
        let client = read.client();
        let key = KeyOf { protocol, link: 0, transaction: read.transaction, client: &client };
        let known = self.open.find(key);
        if protocol != Protocol::V6 {
            return known.unwrap_or_else(|| self.open.begin(key));
        }
        if read.from_client {
            let place = known.unwrap_or_else(|| self.open.begin(key));
            if self.askers.len() >= self.policy.open {
                self.askers.clear();
            }
            self.askers.insert((read.transaction, seen.source.ip()), place);
            return place;
        }
        let asker = || self.askers.get(&(read.transaction, seen.destination.ip())).copied();
        let known = known.or_else(|| asker().filter(|place| self.open.get(*place).is_some()));
        known.unwrap_or_else(|| self.open.begin(key))
    }

    /// Says something in a conversation, and counts it where it is new.
    fn tell(&mut self, open: &mut Open, finding: Finding, seen: &CapturedMessage, planned: Planned) {
        if open.tell(finding.clone(), seen.frame, &seen.octets, planned) {
            self.kinds.count(&finding, seen.frame);
        }
    }

    /// The conversations that have ended since this was called last.
    pub fn closed(&mut self) -> impl Iterator<Item = Conversation> + use<> {
        std::mem::take(&mut self.closed).into_iter()
    }

    /// Ends all conversations, and says what came of it all; those that ended can still be had.
    pub fn finish(&mut self) -> Summary {
        for open in self.open.end_all() {
            self.close(open);
        }
        self.silent.clear();
        self.octets = 0;
        self.never_asked();
        self.never_sent();
        let mut summary = std::mem::take(&mut self.summary);
        summary.kinds = self.kinds.worst_first();
        let counts = self.counts.drain();
        summary.messages = counts
            .map(|((protocol, number), count)| ((protocol, seen::name(protocol, number).into_owned()), count))
            .collect();
        summary.clients = self.memory.machines.len() as u64 + self.memory.machines.forgotten;
        summary.forgotten = self.memory.machines.forgotten + self.memory.held.forgotten + self.memory.hosts.forgotten;
        summary
    }

    /// The reservations of the plan whose clients were not seen.
    pub fn unseen(&self) -> impl Iterator<Item = &Reservation> {
        let all = self.against.iter().flat_map(|against| against.compiled.reservations.telling());
        all.filter(|row| !self.reserved.contains(&std::ptr::from_ref(*row).addr()))
    }

    /// Whether a machine with this hardware address was seen as a client, among those that are remembered.
    #[must_use]
    pub fn has_seen(&self, mac: Mac) -> bool {
        let [a, b, c, d, e, f] = mac.0;
        self.memory.machines.get(&[1, a, b, c, d, e, f][..]).is_some()
    }

    /// Options that clients request and that no reply has.
    fn never_sent(&mut self) {
        for (protocol, code, count, frame) in self.codes.never_sent() {
            let option = format!("{}:{code}", protocol.name());
            let name = self.codebook.own(protocol, code).map_or("an option without a name", |known| &known.name);
            let times = if count == 1 { "once".to_owned() } else { format!("{count} times") };
            let finding =
                OPTION_NEVER_SENT.finding(format!("{name} is requested {times}, and no reply has it")).of(option);
            self.kinds.count(&finding, frame);
        }
    }

    /// Ends the conversations that have been silent for long, and those that are too many.
    fn close_silent(&mut self) {
        while let Some((at, _)) = self.silent.front() {
            let few = self.open.len() < self.policy.open && self.octets < self.policy.octets;
            if at.saturating_add(self.policy.idle) >= self.now && few {
                break;
            }
            let Some((at, place)) = self.silent.pop_front() else { break };
            if self.open.get(place).is_some_and(|open| open.last == at)
                && let Some(open) = self.open.remove(place)
            {
                self.octets -= open.octets();
                self.close(open);
            }
        }
    }

    fn close(&mut self, mut open: Box<Open>) {
        let protocol = open.conversation.protocol;
        let answered: Vec<u8> = open.servers.iter().map(|(kind, _)| *kind).collect();
        let waits = |request: &&conversation::Request| {
            let long_ago = request.at.saturating_add(self.policy.answer_within) <= self.now;
            request.wants_reply && !request.answered && long_ago && !answered.contains(&request.kind)
        };
        if let Some(at) = open.requests.iter().rposition(|request| waits(&request)) {
            let request = open.requests.swap_remove(at);
            let name = request_name(protocol, &request.octets);
            let times = match request.repeated {
                0 => String::new(),
                repeated => format!(", sent {} times", repeated + 1),
            };
            let against = self.against.as_mut();
            let silent = against.is_some_and(|against| !against.answers(&request.octets, open.network));
            let planned = if silent { "; a server with this plan would not either" } else { "" };
            let finding = REQUEST_UNANSWERED.finding(format!("no server answers the {name}{times}{planned}"));
            if open.tell(finding.clone(), request.frame, &request.octets, NONE) {
                self.kinds.count(&finding, request.frame);
            }
        }
        if !open.servers.is_empty() {
            let frame = open.conversation.messages.first().map_or_else(Frame::default, |first| first.frame);
            for code in std::mem::take(&mut open.requested) {
                self.codes.requested(protocol, code, frame);
            }
        }
        self.summary.conversations.0 += 1;
        self.summary.conversations.1 += u64::from(!open.conversation.findings.is_empty());
        self.closed.push(open.conversation);
    }
}

/// The address that a message comes from, in octets.
fn address(seen: &CapturedMessage) -> Short {
    match seen.source.ip() {
        IpAddr::V4(address) => Short::from_slice(&address.octets()),
        IpAddr::V6(address) => Short::from_slice(&address.octets()),
    }
}

fn request_name(protocol: Protocol, octets: &[u8]) -> Cow<'static, str> {
    let message = AnyMessage::read(protocol, octets).ok().and_then(Read::of);
    message.map_or("request".into(), |read| seen::name(protocol, read.kind.into()))
}
