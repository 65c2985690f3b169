//! Messages that belong together.

use std::borrow::Cow;
use std::collections::HashSet;
use std::hash::{DefaultHasher, Hash as _, Hasher as _};
use std::net::SocketAddr;
use std::sync::Arc;
use std::time::Duration;

use crate::family::Protocol;
use crate::finding::Finding;

use super::opened::KeyOf;
use super::seen::{CapturedMessage, Frame, Read, Short};

/// What a client and the servers that answer it say in one transaction, or what one router says.
#[derive(Debug, Clone, PartialEq)]
pub struct Conversation {
    /// The protocol.
    pub protocol: Protocol,
    /// The client: its hardware address with the type in front (DHCPv4), or its DUID (DHCPv6); the router's or host's address.
    pub client: Arc<[u8]>,
    /// The transaction ID; 0 for routers.
    pub transaction: u32,
    /// The network of the plan, where it is known.
    pub network: Option<String>,
    /// The fleets of the plan that the client belongs to.
    pub fleets: Vec<String>,
    /// The messages, in the order in which they were seen: the first [`Conversation::MOST`].
    pub messages: Vec<ConversationMessage>,
    /// How many messages there were.
    pub count: u64,
    /// What is wrong, in the order in which it was seen: the first [`Conversation::MOST`], each once.
    pub findings: Vec<FrameFinding>,
    /// The last request that was answered, and the last reply to it.
    pub answered: Option<Answered>,
}

/// A message of a conversation.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ConversationMessage {
    /// The number of its frame.
    pub frame: Frame,
    /// When it was seen.
    pub at: Duration,
    /// What it is: `DHCPOFFER`, `Reply`.
    pub name: Cow<'static, str>,
    /// Whether the client sends it, or a relay agent for it.
    pub from_client: bool,
    /// Where it comes from.
    pub source: SocketAddr,
    /// Where it goes.
    pub destination: SocketAddr,
    /// The comments about its frame in the capture.
    pub comment: Option<Arc<str>>,
}

/// A request and its reply, in octets, with the messages of relay agents around them.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Answered {
    /// The request.
    pub request: Arc<[u8]>,
    /// The reply.
    pub reply: Arc<[u8]>,
}

/// A finding, and the frame that it is about.
#[derive(Debug, Clone, PartialEq)]
pub struct FrameFinding {
    /// The finding; its octets count from the start of the message.
    pub finding: Finding,
    /// The number of the frame.
    pub frame: Frame,
    /// The octets that it is about, where there are no more than [`FrameFinding::MOST`]; of what is not as planned those of the option's
    /// payload, or of the header's field.
    pub octets: Box<[u8]>,
    /// The octets that the plan has in their place.
    pub planned: Option<Box<[u8]>>,
}

impl FrameFinding {
    /// No more octets are kept with a finding.
    pub const MOST: usize = 512;
}

impl Conversation {
    /// No more messages and findings of one conversation are kept.
    pub const MOST: usize = 100;

    /// How long it took, from its first message to its last that is kept.
    #[must_use]
    pub fn duration(&self) -> Duration {
        let (first, last) = (self.messages.first(), self.messages.last());
        first.zip(last).map_or(Duration::ZERO, |(first, last)| last.at.saturating_sub(first.at))
    }
}

/// A request that may still be answered.
#[derive(Debug)]
pub(super) struct Request {
    pub(super) frame: Frame,
    pub(super) at: Duration,
    pub(super) octets: Arc<[u8]>,
    pub(super) kind: u8,
    pub(super) source: SocketAddr,
    pub(super) relay: Option<std::net::IpAddr>,
    pub(super) wants_reply: bool,
    /// Those that came again before a reply.
    pub(super) repeated: u32,
    pub(super) answered: bool,
}

/// A conversation that goes on.
#[derive(Debug)]
pub(super) struct Open {
    pub(super) conversation: Conversation,
    /// The link that distinguishes it; 0 where that is the client.
    link: u32,
    pub(super) last: Duration,
    /// The place of its network in the plan.
    pub(super) network: Option<usize>,
    pub(super) requests: Vec<Request>,
    /// Who answered which type of request.
    pub(super) servers: Vec<(u8, Short)>,
    /// The codes that the client requests.
    pub(super) requested: Vec<u16>,
    said: HashSet<u64>,
}

/// The octets that were seen of what is not as planned, and those that the plan has.
pub(super) type Planned = (Option<Box<[u8]>>, Option<Box<[u8]>>);

/// Of most findings there are none.
pub(super) const NONE: Planned = (None, None);

/// As many requests of a conversation wait for a reply.
const REQUESTS: usize = 8;

impl Open {
    pub(super) fn new(key: KeyOf<'_>) -> Self {
        let KeyOf { protocol, link, transaction, client } = key;
        Self {
            conversation: Conversation {
                protocol,
                client: client.into(),
                transaction,
                network: None,
                fleets: Vec::new(),
                messages: Vec::with_capacity(4),
                count: 0,
                findings: Vec::new(),
                answered: None,
            },
            link,
            last: Duration::ZERO,
            network: None,
            requests: Vec::with_capacity(2),
            servers: Vec::new(),
            requested: Vec::new(),
            said: HashSet::new(),
        }
    }

    /// What distinguishes it.
    pub(super) fn key(&self) -> KeyOf<'_> {
        let Conversation { protocol, transaction, ref client, .. } = self.conversation;
        KeyOf { protocol, link: self.link, transaction, client }
    }

    /// How many octets its requests and its last reply have.
    pub(super) fn octets(&self) -> usize {
        let answered = self.conversation.answered.as_ref().map_or(0, |one| one.request.len() + one.reply.len());
        answered + self.requests.iter().map(|request| request.octets.len()).sum::<usize>()
    }

    /// Adds a message.
    pub(super) fn step(&mut self, seen: &CapturedMessage, name: Cow<'static, str>, from_client: bool) {
        self.last = self.last.max(seen.at);
        self.conversation.count += 1;
        if self.conversation.messages.len() < Conversation::MOST {
            let CapturedMessage { frame, at, source, destination, .. } = *seen;
            let comment = seen.comment.clone();
            self.conversation.messages.push(ConversationMessage {
                frame,
                at,
                name,
                from_client,
                source,
                destination,
                comment,
            });
        }
    }

    /// Adds a request. One that says the same as an earlier one without a reply is that one again.
    pub(super) fn request(&mut self, seen: &CapturedMessage, read: &Read<'_>) {
        let again = |one: &&mut Request| one.kind == read.kind && one.source == seen.source && !one.answered;
        if let Some(before) = self.requests.iter_mut().find(again) {
            before.repeated += 1;
            before.octets = Arc::clone(&seen.octets);
            return;
        }
        if self.requests.len() == REQUESTS {
            self.requests.remove(0);
        }
        self.requests.push(Request {
            frame: seen.frame,
            at: seen.at,
            octets: Arc::clone(&seen.octets),
            kind: read.kind,
            source: seen.source,
            relay: read.relay,
            wants_reply: read.wants_reply(),
            repeated: 0,
            answered: false,
        });
    }

    /// The place of the request that a reply answers: the last of those that went the same way, or else of all.
    pub(super) fn answered_by(&self, read: &Read<'_>) -> Option<usize> {
        let fits = |one: &&Request| read.replies_to(one.kind);
        let same_way = |one: &Request| one.relay.is_some() == read.relay.is_some();
        let last = self.requests.iter().rposition(|one| fits(&one) && same_way(one));
        last.or_else(|| self.requests.iter().rposition(|one| fits(&one)))
    }

    /// Says something, once; whether it is new.
    pub(super) fn tell(&mut self, finding: Finding, frame: Frame, octets: &[u8], planned: Planned) -> bool {
        let mut hasher = DefaultHasher::new();
        (finding.rule.name, &finding.message, &finding.option).hash(&mut hasher);
        let findings = &mut self.conversation.findings;
        if self.said.len() >= 10 * Conversation::MOST || !self.said.insert(hasher.finish()) {
            return false;
        }
        if findings.len() < Conversation::MOST {
            let (seen, planned) = planned;
            let about = || finding.octets.clone().and_then(|at| octets.get(at)).unwrap_or_default().into();
            let few = |octets: Box<[u8]>| (octets.len() <= FrameFinding::MOST).then_some(octets);
            let octets = few(seen.unwrap_or_else(about)).unwrap_or_default();
            let planned = planned.and_then(few);
            findings.push(FrameFinding { finding, frame, octets, planned });
        }
        true
    }
}
