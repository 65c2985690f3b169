//! The rules: each is one declaration with the function that finds it beside it, a file for each subject.
//!
//! A rule is about something that an RFC says, or that goes wrong in networks: it has a name, a severity, the RFC and section it
//! rests on, what goes wrong when it is not heeded, and an example that it alone finds. [`catalogue`] lists all of them.
//!
//! # One path
//!
//! The same rules look wherever octets come from, so that the same octets have the same verdict:
//!
//! | looked at | function |
//! |---|---|
//! | a plan | [`plan`], [`report`] |
//! | an option's octets, received or about to be sent | [`payload`], [`payload_to_send`] |
//! | a message, received or about to be sent | [`message`], [`message_to_send`] |
//! | a reply beside its request | [`exchange`] |
//!
//! A rule about an option runs wherever that option stands: alone, in a message, inside another option at any depth, in a message
//! that an option carries, in the messages that a plan comes to. Its finding has the octets, or the characters of the plan, where the
//! option stands, and cites that option's RFC.
//!
//! # Author and reader
//!
//! Whoever writes a plan can mend it; whoever reads a capture can not, and receivers have to bear much that must not be sent. So
//! some findings are an error when something is about to be sent and a warning when it was received.
//!
//! # Example
//!
//! ```
//! use oplex::check;
//! use oplex::plan::Plan;
//!
//! let text = "[network.control-room]\nsubnet = \"10.64.4.1/23\"\n";
//! let loaded = Plan::read("plan.toml", text, &mut |path| Err(format!("{path}: no such file").into()));
//! let findings = check::plan(&loaded);
//! assert!(findings.iter().any(|finding| finding.rule.name == "subnet-host-bits-set"));
//! ```

mod catalogue;
mod composed;
mod context;
mod declare;
mod firsts;
mod kinds;
mod messages;
mod options;
mod picked;
mod plans;
mod rules;
mod scalars;
mod scan;
mod tree;

pub(crate) use rules::traffic;

use self::tree::View;
use crate::codebook::{Codebook, Definition};
use crate::finding::{Finding, Rule};
use crate::packet::AnyMessage;
use crate::plan::{Allowed, Loaded, Sent};

/// What the rules have against a value that a plan or a specimen sends.
pub(crate) fn of_sent(codebook: &Codebook, sent: &Sent) -> Vec<Finding> {
    options::of_sent(messages::alone(codebook), sent)
}

/// Every rule there is, in the order of their names.
#[must_use]
pub fn catalogue() -> Vec<&'static Rule> {
    catalogue::all()
}

/// The same in no order, for whoever looks for some of them.
///
/// ```
/// use oplex::finding::Severity;
///
/// let rule = oplex::check::rules().find(|rule| rule.name == "pool-outside-subnet").expect("there is such a rule");
/// assert_eq!(rule.severity, Severity::Error);
/// assert!(!rule.why.is_empty() && !rule.examples.is_empty());
/// ```
pub fn rules() -> impl Iterator<Item = &'static Rule> {
    catalogue::unsorted()
}

/// Everything the rules find in a plan, in the order of its lines.
///
/// ```
/// use oplex::check;
/// use oplex::plan::Plan;
///
/// let text = "[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.5.20-10.64.5.90\"\nsend.v4 = { router = \"10.64.4.1\" }\n";
/// let loaded = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into()));
/// let findings = check::plan(&loaded);
/// let outside = findings.iter().find(|finding| finding.rule.name == "pool-outside-subnet").expect("it is outside");
/// let place = loaded.sources.location(outside.spot.as_ref().expect("it stands in the plan"));
/// assert_eq!((place.line, place.column), (3, 8));
/// ```
#[must_use]
pub fn plan(loaded: &Loaded) -> Vec<Finding> {
    plan_with_progress(loaded, &|_, _| {})
}

/// The same with progress: `progress` is called with how many rules have looked at the plan, and how many there are.
#[must_use]
pub fn plan_with_progress(loaded: &Loaded, progress: &(dyn Fn(usize, usize) + Sync)) -> Vec<Finding> {
    plans::report(loaded, progress).findings
}

/// What a check comes to: what is found, and what the plan allows.
#[derive(Debug, Clone)]
pub struct Report {
    /// Everything that is found and not allowed, in the order of the plan's lines.
    pub findings: Vec<Finding>,
    /// What the plan allows, each with how many findings that takes away.
    pub allowed: Vec<(Allowed, usize)>,
}

/// Everything the rules find in a plan, and what of it the plan allows; with progress.
#[must_use]
pub fn report(loaded: &Loaded, progress: &(dyn Fn(usize, usize) + Sync)) -> Report {
    plans::report(loaded, progress)
}

/// Everything the rules find in one option's octets.
///
/// ```
/// use oplex::check;
/// use oplex::codebook::Codebook;
///
/// let codebook = Codebook::standard();
/// // A gateway at a multicast group: four octets that are an address, and no host's.
/// let findings = check::payload(codebook, codebook.find("v4:router")?, &[224, 0, 0, 1]);
/// assert_eq!(findings.iter().map(|finding| finding.rule.name).collect::<Vec<_>>(), ["address-not-a-host"]);
/// assert_eq!(findings[0].octets, Some(0..4));
/// # Ok::<(), oplex::codebook::Unknown>(())
/// ```
#[must_use]
pub fn payload(codebook: &Codebook, definition: &Definition, octets: &[u8]) -> Vec<Finding> {
    let view = View { received: true, ..messages::alone(codebook) };
    alone(view, definition, octets).map(Finding::when_reading).collect()
}

/// The same for octets that are about to be sent: what receivers must bear is an error for who sends it.
///
/// ```
/// use oplex::check;
/// use oplex::codebook::Codebook;
/// use oplex::finding::Severity;
///
/// let codebook = Codebook::standard();
/// // The root of all names as a search domain: whoever reads it can go on, whoever writes it can mend it.
/// let domains = codebook.find("v6:domain-list")?;
/// let (read, sent) = (check::payload(codebook, domains, &[0]), check::payload_to_send(codebook, domains, &[0]));
/// assert_eq!((read[0].rule.name, read[0].severity), ("name-is-root", Severity::Warning));
/// assert_eq!(sent[0].severity, Severity::Error);
/// # Ok::<(), oplex::codebook::Unknown>(())
/// ```
#[must_use]
pub fn payload_to_send(codebook: &Codebook, definition: &Definition, octets: &[u8]) -> Vec<Finding> {
    alone(messages::alone(codebook), definition, octets).collect()
}

/// What is found in an option's octets that stand alone; those of option 43 as the one codebook reads it that can.
fn alone(view: View<'_>, definition: &Definition, octets: &[u8]) -> impl Iterator<Item = Finding> + use<> {
    let by_vendor = view.codebook.by_vendor(definition, None).map(|(_, by_vendor)| by_vendor);
    let found = options::read_alone(view, by_vendor.as_ref().unwrap_or(definition), octets);
    found.into_iter().map(|found| found.finding)
}

/// Everything the rules find in a message and in those that it carries, in the order of the octets, which the findings count
/// from where the message was read.
///
/// ```
/// use oplex::check;
/// use oplex::codebook::Codebook;
/// use oplex::packet::{Message as _, v6};
///
/// // A Renew with nothing in it but the time: of what is missing each is said.
/// let renew = v6::Message::read(&[5, 0, 0, 1, 0, 8, 0, 2, 0, 0])?;
/// let findings = check::message(Codebook::standard(), renew);
/// assert!(findings.iter().any(|finding| finding.message == "v6:1 clientid is missing from a Renew"));
/// assert!(findings.iter().all(|finding| !finding.rfc.is_empty()));
/// # Ok::<(), oplex::packet::MessageError>(())
/// ```
#[must_use]
pub fn message<'m>(codebook: &Codebook, message: impl Into<AnyMessage<'m>>) -> Vec<Finding> {
    message_to_send(codebook, message).into_iter().map(Finding::when_reading).collect()
}

/// The same for a message that is about to be sent: what receivers must bear is an error for who sends it.
#[must_use]
pub fn message_to_send<'m>(codebook: &Codebook, message: impl Into<AnyMessage<'m>>) -> Vec<Finding> {
    messages::findings(codebook, message.into())
}

/// What the rules find in a reply only when they see what it replies to; the octets are the reply's.
///
/// ```
/// use oplex::check;
/// use oplex::codebook::Codebook;
/// use oplex::packet::v4::{Draft, Header, Message, MessageType};
/// use oplex::packet::{Composer, Message as _};
///
/// let mac = [2, 0, 0x5e, 0, 0x53, 0x11];
/// let composed = |header, kind, options: &[(u16, &[u8])]| {
///     Composer::default().compose(&Draft { header, options, ..Draft::new(kind) }).map(|message| message.octets.to_vec())
/// };
/// let asked = composed(Header::from_client(7, mac), MessageType::DISCOVER, &[(61, &[1, 2, 3])])?;
/// let answered = composed(Header::from_server(7, mac), MessageType::OFFER, &[(54, &[10, 64, 0, 67]), (51, &[0, 0, 14, 16])])?;
/// let findings = check::exchange(Codebook::standard(), Message::read(&asked)?, Message::read(&answered)?);
/// // RFC 6842, section 3: a server returns the client's identifier.
/// assert!(findings.iter().any(|finding| finding.rule.name == "client-id-not-echoed"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[must_use]
pub fn exchange<'m>(
    codebook: &Codebook,
    request: impl Into<AnyMessage<'m>>,
    reply: impl Into<AnyMessage<'m>>,
) -> Vec<Finding> {
    let (request, reply) = (request.into(), reply.into());
    if request.protocol() != reply.protocol() {
        return Vec::new();
    }
    messages::exchange(codebook, request, reply).into_iter().map(Finding::when_reading).collect()
}
