//! What was captured, and what is wrong with it.

use std::collections::BTreeMap;
use std::net::SocketAddr;
use std::time::Duration;

use oplex::audit::{CapturedMessage, Conversation, ConversationMessage, FindingKind, Frame, FrameFinding, Summary};
use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::finding::{Finding, Severity, Sources};
use oplex::octets::hex;
use oplex_io::capture::{Damage, Message};
use serde::Serialize;

use super::{FindingForm, MessageForm};

/// Seconds since 1970 with six digits behind the point, as text: such numbers are over 2^53 in microseconds.
fn seconds(at: Duration) -> String {
    format!("{}.{:06}", at.as_secs(), at.subsec_micros())
}

/// A message of a capture.
#[derive(Serialize)]
pub(crate) struct SeenForm<'f> {
    file: &'f str,
    frame: u64,
    time: String,
    source: SocketAddr,
    destination: SocketAddr,
    /// Where it begins in the file, uncompressed, where it lies in one frame.
    #[serde(skip_serializing_if = "Option::is_none")]
    offset: Option<u64>,
    #[serde(skip_serializing_if = "is_none")]
    missing: usize,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    tunnels: Vec<String>,
    #[serde(flatten)]
    body: Body<'f>,
}

#[derive(Serialize)]
#[serde(untagged)]
enum Body<'f> {
    Message(Box<MessageForm<'f>>),
    Unreadable { family: &'static str, hex: String, findings: Vec<FindingForm<'f>> },
}

fn is_none(count: &usize) -> bool {
    *count == 0
}

impl<'f> SeenForm<'f> {
    pub(crate) fn of(message: &'f Message, names: &'f [String], codebook: &Codebook, found: &'f [Finding]) -> Self {
        let CapturedMessage { at, frame, source, destination, missing, .. } = message.seen;
        let body = match message.seen.message() {
            Ok(read) => Body::Message(Box::new(MessageForm::new(codebook, &read, None, found))),
            Err(_) => Body::Unreadable {
                family: message.seen.protocol.name(),
                hex: hex::plain(&message.seen.octets),
                findings: found.iter().map(|finding| FindingForm::new(finding, &Sources::default())).collect(),
            },
        };
        Self {
            file: &names[frame.file as usize],
            frame: frame.number,
            time: seconds(at),
            source,
            destination,
            offset: message.at.map(|at| message.offset + at as u64),
            missing,
            tunnels: message.tunnels.iter().map(ToString::to_string).collect(),
            body,
        }
    }
}

/// Something that cannot be read.
#[derive(Serialize)]
pub(crate) struct DamageForm<'f> {
    file: &'f str,
    offset: u64,
    message: &'f str,
}

impl<'f> DamageForm<'f> {
    pub(crate) fn of(file: &'f str, damage: &'f Damage) -> Self {
        Self { file, offset: damage.offset, message: &damage.why }
    }
}

/// A conversation.
#[derive(Serialize)]
pub(crate) struct ConversationForm<'f> {
    family: &'static str,
    client: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    transaction: Option<u32>,
    #[serde(skip_serializing_if = "Option::is_none")]
    network: Option<&'f str>,
    #[serde(skip_serializing_if = "<[_]>::is_empty")]
    fleets: &'f [String],
    count: u64,
    seconds: f64,
    messages: Vec<StepForm<'f>>,
    findings: Vec<ReportedForm<'f>>,
}

#[derive(Serialize)]
struct StepForm<'f> {
    file: &'f str,
    frame: u64,
    time: String,
    #[serde(rename = "type")]
    name: &'f str,
    from_client: bool,
    source: SocketAddr,
    destination: SocketAddr,
    #[serde(skip_serializing_if = "Option::is_none")]
    comment: Option<&'f str>,
}

#[derive(Serialize)]
struct ReportedForm<'f> {
    capture: &'f str,
    frame: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    option: Option<&'f str>,
    #[serde(skip_serializing_if = "String::is_empty")]
    hex: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    planned: Option<String>,
    #[serde(flatten)]
    finding: FindingForm<'f>,
}

impl<'f> ConversationForm<'f> {
    pub(crate) fn of(conversation: &'f Conversation, names: &'f [String], sources: &Sources) -> Self {
        let file = |frame: Frame| names[frame.file as usize].as_str();
        let step = |step: &'f ConversationMessage| StepForm {
            file: file(step.frame),
            frame: step.frame.number,
            time: seconds(step.at),
            name: &step.name,
            from_client: step.from_client,
            source: step.source,
            destination: step.destination,
            comment: step.comment.as_deref(),
        };
        let reported = |reported: &'f FrameFinding| ReportedForm {
            capture: file(reported.frame),
            frame: reported.frame.number,
            option: reported.finding.option.as_deref(),
            hex: hex::plain(&reported.octets),
            planned: reported.planned.as_deref().map(hex::plain),
            finding: FindingForm::new(&reported.finding, sources),
        };
        Self {
            family: conversation.protocol.name(),
            client: hex::colon(&conversation.client),
            transaction: (conversation.protocol != Protocol::Ra).then_some(conversation.transaction),
            network: conversation.network.as_deref(),
            fleets: &conversation.fleets,
            count: conversation.count,
            seconds: conversation.duration().as_secs_f64(),
            messages: conversation.messages.iter().map(step).collect(),
            findings: conversation.findings.iter().map(reported).collect(),
        }
    }
}

/// What an audit comes to.
#[derive(Serialize)]
pub(crate) struct AuditForm<'f> {
    files: &'f [String],
    #[serde(skip_serializing_if = "Option::is_none")]
    against: Option<&'f str>,
    frames: u64,
    messages: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    first: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    last: Option<String>,
    conversations: u64,
    clients: u64,
    types: Vec<TypeForm<'f>>,
    answers: Vec<AnswererForm>,
    networks: &'f BTreeMap<String, u64>,
    fleets: &'f BTreeMap<String, u64>,
    requests: Vec<RequestsForm<'f>>,
    not_seen: &'f [String],
    forgotten: u64,
    kinds: Vec<KindForm<'f>>,
}

#[derive(Serialize)]
struct TypeForm<'f> {
    family: &'static str,
    #[serde(rename = "type")]
    name: &'f str,
    count: u64,
}

#[derive(Serialize)]
struct AnswererForm {
    family: &'static str,
    id: String,
    frame: u64,
    messages: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    known: Option<bool>,
}

#[derive(Serialize)]
struct RequestsForm<'f> {
    family: &'static str,
    vendor_class: &'f str,
    codes: &'f [u16],
}

#[derive(Serialize)]
struct KindForm<'f> {
    rule: &'f str,
    severity: Severity,
    #[serde(skip_serializing_if = "Option::is_none")]
    option: Option<&'f str>,
    message: &'f str,
    count: u64,
    file: &'f str,
    frame: u64,
}

impl<'f> AuditForm<'f> {
    pub(crate) fn of(
        summary: &'f Summary,
        files: &'f [String],
        (frames, messages): (u64, u64),
        against: Option<&'f str>,
        not_seen: &'f [String],
    ) -> Self {
        let kind = |kind: &'f FindingKind| KindForm {
            rule: kind.rule.name,
            severity: kind.severity,
            option: kind.option.as_deref(),
            message: &kind.message,
            count: kind.count,
            file: &files[kind.frame.file as usize],
            frame: kind.frame.number,
        };
        let types = summary.messages.iter().map(|((protocol, name), count)| TypeForm {
            family: protocol.name(),
            name,
            count: *count,
        });
        let answers = summary.servers.iter().map(|one| AnswererForm {
            family: one.protocol.name(),
            id: hex::colon(&one.id),
            frame: one.frame.number,
            messages: one.messages,
            known: one.known,
        });
        let requests = summary.classes.iter().map(|((protocol, class), codes)| RequestsForm {
            family: protocol.name(),
            vendor_class: class,
            codes,
        });
        Self {
            files,
            against,
            frames,
            messages,
            first: summary.seen.map(|(first, _)| seconds(first)),
            last: summary.seen.map(|(_, last)| seconds(last)),
            conversations: summary.conversations.0,
            clients: summary.clients,
            types: types.collect(),
            answers: answers.collect(),
            networks: &summary.networks,
            fleets: &summary.fleets,
            requests: requests.collect(),
            not_seen,
            forgotten: summary.forgotten,
            kinds: summary.kinds.iter().map(kind).collect(),
        }
    }
}
