//! Rules about which layer sends what, and about options that no plan should send.

use crate::answer::Audience;
use crate::check::declare::{BothSent, PlanContext, check, checks, v4_plan};
use crate::codebook::{Carrier, Definition, Sender, Status};
use crate::compiled::{Fleet, SentOption};
use crate::family::{Family, Protocol};
use crate::finding::{Example, Finding, Severity, rule};
use crate::plan::{Layer, Plan};

// It speaks when all others have spoken.
rule! {
    /// a plan allows a rule that finds nothing, or that no plan may allow
    ///
    /// The problem is fixed or the name is misspelled, and one day the entry silences something new. Errors are never
    /// silenced.
    pub(in crate::check) static ALLOW_WITHOUT_EFFECT = "allow-without-effect", Warning, Plan, "";
    v4_plan!("", "router = \"10.64.4.1\"\n[check]\nallow = [\"no-domain\"]\n")
}

/// Takes away the findings that the plan allows, and says what it allows in vain.
pub(in crate::check) fn silence(plan: &Plan, findings: &mut Vec<Finding>) {
    for (name, spot) in &plan.allowed {
        let before = findings.len();
        findings.retain(|finding| finding.rule.name != name || finding.severity == Severity::Error);
        if findings.len() == before {
            let message = format!("`{name}` has no finding that may be allowed");
            findings.push(ALLOW_WITHOUT_EFFECT.finding(message).at(spot.clone()));
        }
    }
}

checks! {
    SAME_VALUE_ON_TWO_LAYERS, WITHHOLD_WITHOUT_EFFECT, AUTOMATIC_OPTION_SENT, OPTION_43_OF_TWO_VENDORS,
    OPTION_OBSOLETE, CODE_UNASSIGNED, HOST_NAME_FOR_MANY
}

check! { Answer(same_value_on_two_layers),
    /// a layer sends the same value as a wider layer
    ///
    /// It changes nothing today. Later, one of the two is changed and the other is forgotten.
    static SAME_VALUE_ON_TWO_LAYERS = "same-value-on-two-layers", Note, Answer, "";
    v4_plan!("", "router = \"10.64.4.1\"\ndomain-server = \"10.64.0.53\"\n")
}

fn same_value_on_two_layers(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Vec<Finding>) {
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

check! { Plan(withhold_without_effect),
    /// a layer withholds an option that no wider layer sends
    ///
    /// Either the option's name is wrong, and the intended option is still sent, or the line is a leftover.
    static WITHHOLD_WITHOUT_EFFECT = "withhold-without-effect", Warning, Plan, "";
    v4_plan!("withhold = [\"ntp-servers\"]\n")
}

fn withhold_without_effect(context: &PlanContext<'_>, findings: &mut Vec<Finding>) {
    let everyone = &context.plan.everyone;
    for layer in context.plan.layers() {
        let wider = || everyone.all_sends().filter(|_| !std::ptr::eq(layer, everyone));
        for out in &layer.withheld {
            if !wider().any(|sent| std::sync::Arc::ptr_eq(&sent.definition, &out.definition)) {
                let name = &out.definition.name;
                let message = format!("no wider layer sends {name}, so there is nothing to withhold");
                let finding = WITHHOLD_WITHOUT_EFFECT.finding(message).at(out.spot.clone());
                findings.push(finding.advice("an option that a wider layer sends, or remove the line"));
            }
        }
    }
}

check! { Plan(automatic_option_sent),
    /// an option that servers, relay agents or clients set by themselves
    ///
    /// A fixed value in its place breaks the exchange: it does not match the client's message.
    static AUTOMATIC_OPTION_SENT = "automatic-option-sent", Error, Plan, "RFC 2131, section 4.3.1";
    v4_plan!("", "router = \"10.64.4.1\"\ndhcp-server-id = \"10.64.0.10\"\n")
}

fn automatic_option_sent(context: &PlanContext<'_>, findings: &mut Vec<Finding>) {
    let sent = context.plan.layers().flat_map(Layer::all_sends);
    for sent in sent.filter(|sent| is_automatic(&sent.definition)) {
        let definition = &sent.definition;
        let who =
            if definition.sent_by == Sender::Both { "servers and clients" } else { &definition.sent_by.to_string() };
        let message = format!("{} is set by {who} for each message and cannot be sent from a plan", definition.label());
        let finding = AUTOMATIC_OPTION_SENT.finding(message).at(sent.key.clone());
        let finding = finding.by(definition.reference.clone());
        let lease = "lease = \"8h\" on the network or at the top of the plan";
        findings.push(finding.advice(if definition.has_id("v4:51") { lease } else { "remove it" }));
    }
}

fn is_automatic(definition: &Definition) -> bool {
    let assigned = !matches!(definition.status, Status::Unassigned | Status::Removed);
    assigned && (definition.automatic || matches!(definition.sent_by, Sender::Client | Sender::Relay))
}

check! { Answer(option_43_of_two_vendors),
    /// one client is sent sub-options of two vendors in option 43
    ///
    /// Option 43 does not say which vendor it belongs to: each vendor's devices read the other's octets as their own.
    static OPTION_43_OF_TWO_VENDORS = "option-43-of-two-vendors", Error, Answer, "RFC 2132, section 8.4";
    Example::PlanAndCodebook(
        "codebooks = [\"gannet.toml\"]\n[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
         [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n\
         vendor-specific = { hex = \"010107\" }\n\"gannet:controllers\" = \"10.64.0.90\"\n",
        "book = \"gannet\"\ntitle = \"Gannet radios\"\ncarriers = [\"v4:43\"]\n\n[[option]]\ncode = 1\n\
         name = \"controllers\"\nlayout = \"ipv4+\"\nreference = \"Gannet R1 manual, page 4\"\n",
    )
}

fn option_43_of_two_vendors(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Vec<Finding>) {
    let in_43 = |option: &SentOption<'_>| {
        let carrier = Carrier::Vendor { family: Family::V4, code: 43, enterprise: None };
        option.is(Protocol::V4, 43) || option.definition.carriers.contains(&carrier)
    };
    let mut own = sent.v4.iter().map(|sent| &sent.option).filter(|option| in_43(option));
    let Some(first) = own.next() else { return };
    // A client may belong to an earlier fleet as well, and is sent what that sends, too.
    let earlier = earlier_fleets(audience).flat_map(|fleet| &fleet.layer.options.v4).filter(|option| in_43(option));
    let book = |option: &SentOption<'_>| option.definition.prefix().split(':').next().unwrap_or_default().to_owned();
    let Some(other) = own.chain(earlier).find(|other| book(other) != book(first)) else { return };
    let (Some(key), Some(first_key)) = (other.key(), first.key()) else { return };
    let message = format!("{audience}: option 43 holds sub-options of both {} and {}", book(first), book(other));
    let finding = OPTION_43_OF_TWO_VENDORS.finding(message).at(key.clone());
    let finding = finding.related(first_key.clone(), "the other vendor's");
    findings.push(finding.advice("only one of them, or v4:125, which separates vendors"));
}

/// The fleets before this one that some of its clients may belong to, too.
fn earlier_fleets<'a>(audience: &Audience<'a>) -> impl Iterator<Item = &'a Fleet<'a>> {
    let own = audience.fleet;
    let before =
        audience.compiled.fleets.iter().take_while(move |fleet| own.is_some_and(|own| !std::ptr::eq(*fleet, own)));
    before.filter(move |fleet| own.is_some_and(|own| own.recognised.may_share_clients(&fleet.recognised)))
}

check! { Plan(option_obsolete),
    /// an option that is deprecated, obsolete, or was never documented
    ///
    /// New devices do not read it. Where another option replaced it, they request that one.
    static OPTION_OBSOLETE = "option-obsolete", Warning, Plan, "";
    v4_plan!("", "router = \"10.64.4.1\"\ntime-offset = 3600\n")
}

fn option_obsolete(context: &PlanContext<'_>, findings: &mut Vec<Finding>) {
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

check! { Plan(host_name_for_many),
    /// a host name is sent to more than one client
    ///
    /// All of them take the same name; in DNS and in every log they are one machine.
    static HOST_NAME_FOR_MANY = "host-name-for-many", Warning, Plan, "RFC 2132, section 3.14";
    v4_plan!("", "router = \"10.64.4.1\"\nhostname = \"desk\"\n")
}

fn host_name_for_many(context: &PlanContext<'_>, findings: &mut Vec<Finding>) {
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

fn code_unassigned(context: &PlanContext<'_>, findings: &mut Vec<Finding>) {
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
