//! Rules about which layer sends what, and about options that no plan should send.

use std::collections::HashMap;
use std::ops::ControlFlow;

use crate::answer::Audience;
use crate::check::declare::{BothSent, PlanContext, check, checks, v4_plan};
use crate::codebook::{Carrier, Definition, Sender, Status};
use crate::compiled::{Fleet, SentOption};
use crate::family::{Family, Protocol};
use crate::finding::{Example, Finding, Findings, Severity, rule};
use crate::heading;
use crate::layout::Value;
use crate::plan::{Allowed, Among, Layer, Loaded, Meetings, Plan};

// It speaks when all others have spoken.
rule! {
    /// a plan allows a rule that finds nothing, or that no plan may allow
    ///
    /// The problem is fixed or the name is misspelled, and one day the entry silences something new. Errors are never
    /// silenced.
    pub(in crate::check) static ALLOW_WITHOUT_EFFECT = "allow-without-effect", Warning, Plan, "";
    v4_plan!("", "router = \"10.64.4.1\"\n[check]\nallow = [\"no-domain\"]\n")
}

/// Takes away the findings that the plan allows, and says what it allows in vain. `counts` has how many each entry of the plan has
/// taken away already; afterwards it has how many in all.
pub(in crate::check) fn silence(loaded: &Loaded, plan: &Plan, findings: &mut Vec<Finding>, counts: &mut [usize]) {
    for (allowed, count) in plan.allowed.iter().zip(counts) {
        findings.retain(|finding| {
            let stays = !allows(loaded, plan, allowed, finding);
            *count += if stays { 0 } else { 1 + finding.more };
            stays
        });
        if *count == 0 {
            let message = format!("`{}` has no finding that may be allowed", allowed.rule);
            findings.push(ALLOW_WITHOUT_EFFECT.finding(message).at(allowed.spot.clone()));
        }
    }
}

/// Whether an entry of the plan allows a finding: of its rule, no error, and about its network and fleet.
pub(in crate::check) fn allows(loaded: &Loaded, plan: &Plan, allowed: &Allowed, finding: &Finding) -> bool {
    if finding.rule.name != allowed.rule || finding.severity == Severity::Error {
        return false;
    }
    if !allowed.is_scoped() {
        return true;
    }
    let (network, fleet) = match finding.audience {
        (None, None) => written_under(loaded, plan, finding),
        audience => audience,
    };
    allowed.network.is_none_or(|own| network == Some(own)) && allowed.fleet.is_none_or(|own| fleet == Some(own))
}

/// The network and the fleet under whose heading a finding's line stands.
fn written_under(loaded: &Loaded, plan: &Plan, finding: &Finding) -> (Option<usize>, Option<usize>) {
    let Some(spot) = finding.spot.as_ref().filter(|spot| spot.file == plan.file) else { return (None, None) };
    let before = loaded.sources.get(spot.file).text.get(..spot.span.end).unwrap_or_default();
    let names = before.lines().rev().find_map(heading::names).unwrap_or_default();
    let mut parts = names.iter().map(String::as_str);
    let network = |name: Option<&str>| plan.networks.iter().position(|network| Some(network.name.as_str()) == name);
    match (parts.next(), parts.next(), parts.next(), parts.next()) {
        (Some("network"), name, ..) => (network(name), None),
        (Some("fleet"), name, on, at) => {
            let fleet = plan.fleets.iter().position(|fleet| Some(fleet.name.as_str()) == name);
            (at.filter(|_| on == Some("on")).and_then(|at| network(Some(at))), fleet)
        }
        _ => (None, None),
    }
}

checks! {
    SAME_VALUE_ON_TWO_LAYERS, AUTOMATIC_OPTION_SENT, OPTION_43_OF_TWO_VENDORS,
    OPTION_OBSOLETE, CODE_UNASSIGNED, HOST_NAME_FOR_MANY, CARRIER_BESIDE_OPTIONS, KEYS_LOST
}

check! { Answer(same_value_on_two_layers),
    /// a layer sends the same value as a wider layer
    ///
    /// It changes nothing today. Later, one of the two is changed and the other is forgotten.
    static SAME_VALUE_ON_TWO_LAYERS = "same-value-on-two-layers", Note, Answer, "";
    v4_plan!("", "router = \"10.64.4.1\"\ndomain-server = \"10.64.0.53\"\n")
}

fn same_value_on_two_layers(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    for sent in sent.iter().flatten().filter(|_| audience.fleet.is_none()) {
        let Some((_, wider)) = sent.overrides.first() else { continue };
        if sent.option.octets.is_none() || sent.option.octets != wider.octets {
            continue;
        }
        let (layer, name) = (sent.layer.name, &sent.option.definition.name);
        let message = format!("{layer} sends {name} with the same value as a wider layer");
        let (Some(key), Some(other)) = (sent.option.key(), wider.key()) else { continue };
        let finding = SAME_VALUE_ON_TWO_LAYERS.finding(message).at(key.clone());
        findings.push(finding.related(other.clone(), "sent here").advice("remove one of the two"));
    }
}

check! { Plan(automatic_option_sent),
    /// an option that servers, relay agents or clients set by themselves
    ///
    /// A fixed value in its place breaks the exchange: it does not match the client's message.
    static AUTOMATIC_OPTION_SENT = "automatic-option-sent", Error, Plan, "RFC 2131, section 4.3.1";
    v4_plan!("", "router = \"10.64.4.1\"\ndhcp-server-id = \"10.64.0.10\"\n")
}

fn automatic_option_sent(context: &PlanContext<'_>, findings: &mut Findings) {
    let sent = context.plan.layers().flat_map(Layer::all_sends);
    for sent in sent.filter(|sent| is_automatic(&sent.definition)) {
        let definition = &sent.definition;
        let who =
            if definition.sent_by == Sender::Both { "servers and clients" } else { &definition.sent_by.to_string() };
        let message = format!("{} is set by {who} for each message and cannot be sent from a plan", definition.label());
        let finding = AUTOMATIC_OPTION_SENT.finding(message).at(sent.key.clone());
        let finding = finding.by(definition.reference.clone());
        findings.push(finding.advice(match definition.code {
            51 if definition.has_id("v4:51") => "lease = \"8h\" on the network or at the top of the plan",
            81 | 39 if definition.has_id("v4:81") || definition.has_id("v6:39") => {
                "fqdn = \"*.tarnfell.example\" on the layer, outside `send`: the full name of each client that sends its own"
            }
            _ => "remove it",
        }));
    }
}

fn is_automatic(definition: &Definition) -> bool {
    let assigned = !matches!(definition.status, Status::Unassigned | Status::Removed);
    assigned && (definition.automatic || matches!(definition.sent_by, Sender::Client | Sender::Relay))
}

check! { AnswerAndPlan(option_43_of_two_vendors, fleets_of_two_vendors),
    /// one client is sent sub-options of two vendors in option 43
    ///
    /// Option 43 does not say which vendor it belongs to: each vendor's devices read the other's octets as their own.
    static OPTION_43_OF_TWO_VENDORS = "option-43-of-two-vendors", Error, Answer, "RFC 2132, section 8.4";
    Example::PlanAndCodebook(
        "codebooks = [\"gannet.toml\"]\n[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
         [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n\
         vendor-specific = { hex = \"01040a40005b\" }\n\"gannet:controllers\" = \"10.64.0.90\"\n",
        "book = \"gannet\"\ntitle = \"Gannet radios\"\ncarriers = [\"v4:43\"]\n\n[[option]]\ncode = 1\n\
         name = \"controllers\"\nlayout = \"ipv4+\"\nreference = \"Gannet R1 manual, page 4\"\n",
    )
}

fn option_43_of_two_vendors(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    let mut own = sent.v4.iter().map(|sent| &sent.option).filter(|option| in_43(option));
    let Some(first) = own.next() else { return };
    let Some(other) = own.find(|other| book(other) != book(first)) else { return };
    findings.extend(of_two_vendors(&audience.to_string(), other, first));
}

fn in_43(option: &SentOption<'_>) -> bool {
    let carrier = Carrier::Vendor { family: Family::V4, code: 43, enterprise: None };
    option.is(Protocol::V4, 43) || option.definition.carriers.contains(&carrier)
}

/// The vendor's book whose option it is.
fn book<'o>(option: &'o SentOption<'_>) -> &'o str {
    option.definition.prefix().split(':').next().unwrap_or_default()
}

fn of_two_vendors(client: &str, other: &SentOption<'_>, first: &SentOption<'_>) -> Option<Finding> {
    let message = format!("{client}: option 43 holds sub-options of both {} and {}", book(first), book(other));
    let finding = OPTION_43_OF_TWO_VENDORS.finding(message).at(other.key()?.clone());
    let finding = finding.related(first.key()?.clone(), "the other vendor's");
    Some(finding.advice("only one of them, or v4:125, which separates vendors"))
}

/// A client may belong to several fleets, and is sent what each of them sends.
fn fleets_of_two_vendors(context: &PlanContext<'_>, findings: &mut Findings) {
    let fleets = &context.compiled.fleets;
    let first_in_43 = |fleet: &Fleet<'_>| fleet.layer.options.v4.iter().position(in_43);
    let vendors: Vec<(usize, &SentOption<'_>)> = fleets
        .iter()
        .enumerate()
        .filter_map(|(at, fleet)| Some((at, &fleet.layer.options.v4[first_in_43(fleet)?])))
        .collect();
    let mut books = HashMap::new();
    let classes: HashMap<usize, usize> = vendors
        .iter()
        .map(|(at, option)| {
            let next = books.len();
            (*at, *books.entry(book(option)).or_insert(next))
        })
        .collect();
    let meetings = Meetings::new(vendors.iter().map(|(at, _)| (*at, classes[at], &*fleets[*at].recognised)));
    for (at, own) in &vendors {
        let earlier = Among { items: 0..*at, not_of: Some(classes[at]) };
        let mut found = None;
        let _ = meetings.near(&fleets[*at].recognised, &earlier, &mut |other| {
            if !fleets[*at].recognised.may_share_clients(&fleets[other].recognised) {
                return ControlFlow::Continue(());
            }
            found = Some(other);
            ControlFlow::Break(())
        });
        let other = found.and_then(|other| vendors.iter().find(|(at, _)| *at == other));
        let Some((other, first)) = other else { continue };
        let clients = format!("clients of {} and {}", fleets[*other].name, fleets[*at].name);
        findings.extend(of_two_vendors(&clients, own, first));
    }
}

check! { Plan(option_obsolete),
    /// an option that is deprecated, obsolete, or was never documented
    ///
    /// New devices do not read it. Where another option replaced it, they request that one.
    static OPTION_OBSOLETE = "option-obsolete", Warning, Plan, "";
    v4_plan!("", "router = \"10.64.4.1\"\ntime-offset = 3600\n")
}

fn option_obsolete(context: &PlanContext<'_>, findings: &mut Findings) {
    let old =
        |status| matches!(status, Status::Deprecated | Status::Obsolete | Status::Tentative | Status::Undocumented);
    for sent in context.plan.layers().flat_map(Layer::all_sends).filter(|sent| old(sent.definition.status)) {
        let definition = &sent.definition;
        let finding = OPTION_OBSOLETE.finding(format!("{} is {}", definition.label(), definition.status));
        let finding = finding.at(sent.key.clone()).by(definition.reference.clone());
        findings.push(match &definition.replaced_by {
            Some(by) => finding.advice(by.clone()),
            None => finding.advice("remove it, unless your devices are known to read it"),
        });
    }
}

check! { Answer(carrier_beside_options),
    /// an option for vendors is sent as octets, and options of a codebook are put into the same option
    ///
    /// The octets and the options go into one option, one behind the other, and devices may read the first alone.
    static CARRIER_BESIDE_OPTIONS = "carrier-beside-options", Warning, Answer, "RFC 3925, section 4";
    Example::PlanAndCodebook(
        "codebooks = [\"gannet.toml\"]\n[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
         [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n\
         \"v4:125\" = { hex = \"00007ed90601040a40005a\" }\n\"gannet:controllers\" = \"10.64.0.90\"\n",
        "book = \"gannet\"\ntitle = \"Gannet radios\"\nenterprise = 32473\ncarriers = [\"v4:125\"]\n\n[[option]]\ncode = 1\n\
         name = \"controllers\"\nlayout = \"ipv4+\"\nreference = \"Gannet R1 manual, page 4\"\n",
    )
}

fn carrier_beside_options(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    for family in Family::ALL {
        for raw in sent[family].iter().filter(|one| one.option.definition.is_own_of(family.protocol())) {
            let code = raw.option.definition.code;
            let carried = |option: &SentOption<'_>| {
                option.definition.carriers.iter().any(|carrier| {
                    matches!(carrier, Carrier::Vendor { family: of, code: outer, enterprise: Some(_) } if (*of, *outer) == (family, code))
                })
            };
            let Some(other) = sent[family].iter().find(|other| carried(&other.option)) else { continue };
            let (Some(key), Some(beside)) = (raw.option.key(), other.option.key()) else { continue };
            let (label, put) = (raw.option.definition.label(), other.option.definition.spelled());
            let message = format!("{audience}: {label} is sent as octets, and {put} goes into the same option");
            let finding = CARRIER_BESIDE_OPTIONS.finding(message).at(key.clone());
            let finding = finding.related(beside.clone(), "this goes in, too");
            findings.push(finding.advice("the octets as options of the codebook, or no octets"));
        }
    }
}

check! { Answer(keys_lost),
    /// a layer sends a record or KEY=value text without keys that a wider layer sends in the same option
    ///
    /// A value replaces a value as a whole. Devices lose the keys, and fall back to what they were built with.
    static KEYS_LOST = "keys-lost", Warning, Answer, "";
    Example::PlanAndCodebook(
        "codebooks = [\"tern.toml\"]\n[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
         \"tern:settings\" = { SERVER = \"10.64.0.70\", VLAN = 64 }\n\
         [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n\
         \"tern:settings\" = { SERVER = \"10.64.0.71\" }\n",
        "book = \"tern\"\ntitle = \"Tern\"\ncarriers = [\"v4:43\"]\n\n[[option]]\ncode = 1\n\
         name = \"settings\"\nlayout = \"pairs(\\\",\\\" \\\"=\\\") { SERVER: ipv4, VLAN: u16 }\"\nreference = \"Tern manual, page 4\"\n",
    )
}

fn keys_lost(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    let all = Family::ALL.into_iter().flat_map(|family| sent[family].iter().map(move |one| (family.name(), one)));
    // What is changed is changed on purpose.
    for (family, one) in all.filter(|(_, one)| one.option.amended.is_none()) {
        let (Some((layer, wider)), Some(key)) = (one.overrides.first(), one.option.key()) else { continue };
        let (Some(Value::Record(own)), Some(Value::Record(theirs))) = (one.option.value(), wider.value()) else {
            continue;
        };
        let lost = theirs.iter().filter(|(name, _)| own.iter().all(|(known, _)| known != name));
        let lost: Vec<&str> = lost.map(|(name, _)| &**name).collect();
        if lost.is_empty() {
            continue;
        }
        let (name, names) = (one.option.definition.spelled(), lost.join(", "));
        let message = format!("{audience}: {name} is sent without {names}, which {} sends", layer.name);
        let finding = KEYS_LOST.finding(message).at(key.clone());
        let finding =
            wider.key().into_iter().fold(finding, |finding, there| finding.related(there.clone(), "sent here"));
        let quoted = heading::key(&name);
        findings.push(finding.advice(format!(
            "amend.{family}.{quoted} = {{ … }} in place of `send`, to change some keys and keep the others"
        )));
    }
}

check! { Plan(host_name_for_many),
    /// a host name is sent to more than one client
    ///
    /// All of them take the same name; in DNS and in every log they are one machine.
    static HOST_NAME_FOR_MANY = "host-name-for-many", Warning, Plan, "RFC 2132, section 3.14";
    v4_plan!("", "router = \"10.64.4.1\"\nhostname = \"desk\"\n")
}

fn host_name_for_many(context: &PlanContext<'_>, findings: &mut Findings) {
    let plan = context.plan;
    let of_one = plan.reservations.telling().filter_map(|row| row.layer()).count();
    let layers = plan.layers();
    // Reservations come last, and are for one client each.
    for sent in layers.take(plan.layers().count() - of_one).flat_map(|layer| &layer.sends.v4) {
        if sent.definition.has_id("v4:12") {
            let finding = HOST_NAME_FOR_MANY.finding("every client of this layer is sent the same host name");
            findings.push(finding.at(sent.key.clone()).advice("a host name on each reservation, or none"));
        }
    }
}

check! { Plan(code_unassigned),
    /// an option with an unassigned code
    ///
    /// The code may be assigned tomorrow, and then devices read these octets as something else. Codes 224 to 254 are
    /// for sites.
    static CODE_UNASSIGNED = "code-unassigned", Error, Plan, "RFC 3942, section 4";
    v4_plan!("", "router = \"10.64.4.1\"\n\"v4:190\" = { hex = \"01\" }\n")
}

fn code_unassigned(context: &PlanContext<'_>, findings: &mut Findings) {
    let nobodys = |status| matches!(status, Status::Unassigned | Status::Removed);
    for sent in context.plan.layers().flat_map(Layer::all_sends).filter(|sent| nobodys(sent.definition.status)) {
        let finding = CODE_UNASSIGNED.finding(format!("code {} is unassigned", sent.definition.code));
        let instead = match sent.definition.is_own_of(Protocol::V6) {
            true => "a vendor's option, defined in a codebook with carrier v6:17",
            false => "a code from 224 to 254, defined in a codebook",
        };
        findings.push(finding.at(sent.key.clone()).advice(instead));
    }
}
