//! What clients got, as expectations that a plan can have.

use std::collections::BTreeMap;
use std::io::Write as _;
use std::path::Path;

use oplex::audit::Conversation;
use oplex::codebook::Codebook;
use oplex::family::{Family, Protocol};
use oplex::layout::{Input, duration_text};
use oplex::octets::hex;
use oplex::packet::{AnyMessage, MessageOption};
use oplex::plan::{ClientFacts, Fact};

use crate::args::Audit;
use crate::exit::{Failure, because};
use crate::render::traffic;

/// What each client got last.
#[derive(Default)]
pub(super) struct Expectations {
    all: BTreeMap<(String, String, bool), String>,
}

/// No more clients are written down.
const MOST: usize = 100_000;

/// Options that say something about the exchange, and nothing that a plan sends.
const OF_EXCHANGE_V4: [u16; 11] = [1, 50, 51, 52, 53, 54, 56, 58, 59, 61, 82];
const OF_EXCHANGE_V6: [u16; 9] = [1, 2, 3, 4, 13, 14, 18, 20, 25];

/// Whether expectations may be written: only a plan says which network a client is on.
pub(super) fn may_be_written(args: &Audit, has_plan: bool) -> Result<(), Failure> {
    if !has_plan {
        return because("--expectations needs the plan whose networks the clients are on: --plan PLAN");
    }
    match &args.expectations {
        Some(path) if path.exists() => because(format!("{} already exists", crate::commands::shown(path))),
        _ => Ok(()),
    }
}

impl Expectations {
    /// Adds what a client got, where it got its last message.
    pub(super) fn add(&mut self, conversation: &Conversation, codebook: &Codebook) {
        if self.all.len() >= MOST {
            return;
        }
        let written = entry(conversation, codebook);
        let Some(network) = &conversation.network else { return };
        let is_v4 = conversation.protocol == Protocol::V4;
        if let Some(written) = written {
            self.all.insert((network.clone(), traffic::client(conversation), is_v4), written);
        }
    }

    /// Writes all of them.
    pub(super) fn write(&self, path: &Path) -> Result<(), Failure> {
        crate::exit::leave_nothing_half_written();
        let write = |file: &mut std::fs::File| {
            writeln!(
                file,
                "# What {} got, as it was captured.",
                if self.all.len() == 1 { "1 client".to_owned() } else { format!("{} clients", self.all.len()) }
            )?;
            self.all.values().try_for_each(|one| write!(file, "\n{one}"))
        };
        oplex_io::staged::write(path, false, |file| write(file))
            .or_else(|error| because(format!("{}: {}", crate::commands::shown(path), oplex_io::files::reason(&error))))
    }
}

fn entry(conversation: &Conversation, codebook: &Codebook) -> Option<String> {
    let answered = conversation.answered.as_ref()?;
    let read = |octets| AnyMessage::read(conversation.protocol, octets).ok();
    let (request, reply) = (read(&answered.request)?, read(&answered.reply)?);
    let (family, own) = (conversation.protocol.family(), innermost(reply)?);
    // An offer is not what a client has.
    let (last, of_exchange): (u8, &[u16]) =
        if family == Family::V4 { (5, &OF_EXCHANGE_V4) } else { (7, &OF_EXCHANGE_V6) };
    (own.type_number() == Some(last)).then_some(())?;
    let mut lines = vec!["[[expect]]".to_owned()];
    lines.push(format!(
        "title = {}",
        quoted(&format!("{} by {}", traffic::client(conversation), conversation.protocol))
    ));
    lines.push(format!("client = {{ {} }}", client(conversation, request, codebook).join(", ")));
    let lease = (family == Family::V4).then(|| own.options().into_iter().find(|option| option.code() == 51)).flatten();
    if let Some(seconds) = lease.and_then(|option| <[u8; 4]>::try_from(&*option.joined()).ok()) {
        lines.push(format!("lease = {}", quoted(&duration_text(u32::from_be_bytes(seconds)))));
    }
    if !conversation.fleets.is_empty() {
        let names: Vec<String> = conversation.fleets.iter().map(|name| quoted(name)).collect();
        lines.push(format!("fleets = [{}]", names.join(", ")));
    }
    let options = own.options();
    let sent: Vec<String> = options
        .iter()
        .filter(|option| !of_exchange.contains(&option.code()))
        .filter_map(|option| sent(option, family, codebook))
        .collect();
    if !sent.is_empty() {
        lines.push("[expect.sent]".to_owned());
        lines.extend(sent);
    }
    Some(lines.join("\n") + "\n")
}

fn innermost(message: AnyMessage<'_>) -> Option<AnyMessage<'_>> {
    match message {
        AnyMessage::V6(message) => message.innermost().map(AnyMessage::V6),
        other => Some(other),
    }
}

/// What the client said of itself.
fn client(conversation: &Conversation, request: AnyMessage<'_>, codebook: &Codebook) -> Vec<String> {
    let facts = ClientFacts::from_message(request);
    let family = conversation.protocol.family();
    let mut keys = vec![format!("network = {}", quoted(conversation.network.as_deref().unwrap_or_default()))];
    match (facts.mac, &facts.duid) {
        (Some(mac), _) => keys.push(format!("mac = {}", quoted(&mac.to_string()))),
        (None, Some(duid)) => keys.push(format!("duid = {}", quoted(&duid.to_string()))),
        (None, None) => {}
    }
    let described = [
        ("vendor-class", Fact::VendorClass),
        ("user-class", Fact::UserClass),
        ("arch", Fact::Architecture),
        ("hostname", Fact::Hostname),
        ("client-id", Fact::ClientId),
        ("circuit-id", Fact::CircuitId),
        ("remote-id", Fact::RemoteId),
    ];
    for (key, fact) in described {
        // What the same texts do not say again is left out.
        let texts = facts.texts(codebook, &fact, family);
        let says = |text: &&String| {
            let mut again = ClientFacts { mac: facts.mac, duid: facts.duid.clone(), ..ClientFacts::default() };
            again.describe(codebook, key, text).is_ok() && again.texts(codebook, &fact, family) == texts
        };
        if let Some(text) = texts.iter().rev().find(says) {
            keys.push(format!("{key} = {}", quoted(text)));
        }
    }
    if family == Family::V4 {
        let codes = facts.wants.v4.iter().flatten().map(u16::to_string).collect::<Vec<_>>();
        keys.extend((!codes.is_empty()).then(|| format!("wants = [{}]", codes.join(", "))));
        keys.extend(facts.max_size.map(|size| format!("max-size = {size}")));
    }
    keys
}

/// An option with its value as text where that says all of it, or else its octets.
fn sent(option: &MessageOption<'_>, family: Family, codebook: &Codebook) -> Option<String> {
    let octets = option.joined();
    let definition = codebook.own(family.protocol(), option.code());
    let name = definition.map_or_else(|| option.code().to_string(), |known| known.name.to_string());
    let text = definition.and_then(|known| {
        let text = codebook.decode(known, &octets).0?.to_string();
        let again = codebook.encode(known, &Input::from_text(&text)).ok()?;
        (again.octets == *octets).then_some(text)
    });
    let value = text.map_or_else(|| format!("{{ hex = \"{}\" }}", hex::colon(&octets)), |text| quoted(&text));
    let id = if family == Family::V6 { format!("v6:{name}") } else { name };
    Some(format!("{} = {value}", quoted(&id)))
}

/// Text as TOML writes it.
fn quoted(text: &str) -> String {
    let mut quoted = String::from("\"");
    for c in text.chars() {
        match c {
            '"' | '\\' => quoted.extend(['\\', c]),
            c if crate::render::clean::acts(c) => quoted.push_str(&format!("\\u{:04X}", u32::from(c))),
            c => quoted.push(c),
        }
    }
    quoted.push('"');
    quoted
}
