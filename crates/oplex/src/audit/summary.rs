//! What an audit comes to.

use std::collections::{BTreeMap, HashMap};
use std::time::Duration;

use crate::family::Protocol;
use crate::finding::{Finding, Rule, Severity};

use super::seen::Frame;

/// What was seen, and what is wrong with it.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Summary {
    /// When the first message was seen, and the last.
    pub seen: Option<(Duration, Duration)>,
    /// How many messages there were of each protocol and kind.
    pub messages: BTreeMap<(Protocol, String), u64>,
    /// How many conversations there were, and how many of them have something to say.
    pub conversations: (u64, u64),
    /// How many clients there were.
    pub clients: u64,
    /// Who answered, and who advertised: the first [`Summary::SERVERS`].
    pub servers: Vec<Answerer>,
    /// How many clients there were on each network of the plan.
    pub networks: BTreeMap<String, u64>,
    /// How many clients there were of each fleet of the plan.
    pub fleets: BTreeMap<String, u64>,
    /// The codes that the clients of each vendor class request, of the first [`Summary::CLASSES`].
    pub classes: BTreeMap<(Protocol, String), Vec<u16>>,
    /// What is wrong, the worst first.
    pub kinds: Vec<FindingKind>,
    /// How many clients and addresses were forgotten, as there were more than are remembered.
    pub forgotten: u64,
}

/// A server or router.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Answerer {
    /// The protocol it speaks.
    pub protocol: Protocol,
    /// The octets by which it names itself (54, v6:2), or a router's address.
    pub id: Box<[u8]>,
    /// The frame in which it was first seen.
    pub frame: Frame,
    /// How many messages it sent.
    pub messages: u64,
    /// Whether the plan knows it, where there is one that says so.
    pub known: Option<bool>,
}

/// Findings of one rule about one option.
#[derive(Debug, Clone, PartialEq)]
pub struct FindingKind {
    /// The rule.
    pub rule: &'static Rule,
    /// The severity.
    pub severity: Severity,
    /// The option, where it is about one.
    pub option: Option<String>,
    /// What the first one says.
    pub message: String,
    /// How many there are: each once in a conversation.
    pub count: u64,
    /// The frame of the first.
    pub frame: Frame,
}

impl Summary {
    /// No more servers and routers are kept.
    pub const SERVERS: usize = 256;
    /// No more vendor classes are kept.
    pub const CLASSES: usize = 1024;

    /// How many findings there are of a severity.
    #[must_use]
    pub fn count(&self, severity: Severity) -> u64 {
        self.kinds.iter().filter(|kind| kind.severity == severity).map(|kind| kind.count).sum()
    }

    /// Counts a message of a server or router.
    pub(super) fn answered(&mut self, protocol: Protocol, id: &[u8], frame: Frame, known: Option<bool>) {
        if let Some(server) = self.servers.iter_mut().find(|one| one.protocol == protocol && *one.id == *id) {
            server.messages += 1;
        } else if self.servers.len() < Self::SERVERS {
            self.servers.push(Answerer { protocol, id: id.into(), frame, messages: 1, known });
        }
    }

    /// Counts what clients of a vendor class request.
    pub(super) fn requested(&mut self, protocol: Protocol, class: String, codes: &[u16]) {
        let key = (protocol, class);
        if self.classes.len() >= Self::CLASSES && !self.classes.contains_key(&key) {
            return;
        }
        let known = self.classes.entry(key).or_default();
        known.extend(codes);
        known.sort_unstable();
        known.dedup();
    }
}

/// Findings counted by kind while an audit runs.
#[derive(Debug, Default)]
pub(super) struct Kinds {
    all: HashMap<(&'static str, Severity, Option<String>), FindingKind>,
}

impl Kinds {
    pub(super) fn count(&mut self, finding: &Finding, frame: Frame) {
        let key = (finding.rule.name, finding.severity, finding.option.clone());
        let kind = self.all.entry(key).or_insert_with(|| FindingKind {
            rule: finding.rule,
            severity: finding.severity,
            option: finding.option.clone(),
            message: finding.message.clone(),
            count: 0,
            frame,
        });
        kind.count += 1;
    }

    /// All, the worst and most frequent first.
    pub(super) fn worst_first(&self) -> Vec<FindingKind> {
        let mut all: Vec<FindingKind> = self.all.values().cloned().collect();
        all.sort_by(|one, other| {
            let rank =
                |kind: &FindingKind| (std::cmp::Reverse((kind.severity, kind.count)), kind.frame, kind.rule.name);
            rank(one).cmp(&rank(other)).then_with(|| one.option.cmp(&other.option))
        });
        all
    }
}
