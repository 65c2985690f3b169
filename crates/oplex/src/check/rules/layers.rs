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
    /// a plan allows what no rule finds, or what no plan may allow
    ///
    /// What it silenced is mended, or its name is misspelt, and one day it silences something new that nobody meant.
    /// Errors are never silenced.
    pub(in crate::check) static ALLOW_WITHOUT_EFFECT = "allow-without-effect", Warning, Plan, "";
    v4_plan!("", "router = \"10.64.4.1\"\n[check]\nallow = [\"no-domain\"]\n")
}

/// Takes away the findings that the plan allows, and says what it allows in vain.
pub(in crate::check) fn silence(plan: &Plan, findings: &mut Vec<Finding>) {
    for (name, spot) in &plan.allowed {
        let before = findings.len();
        findings.retain(|finding| finding.rule.name != name || finding.severity == Severity::Error);
        if findings.len() == before {
            let message = format!("nothing that may be allowed is found by `{name}`");
            findings.push(ALLOW_WITHOUT_EFFECT.finding(message).at(spot.clone()));
        }
    }
}

checks! {
    SAME_VALUE_ON_TWO_LAYERS, WITHHOLD_WITHOUT_EFFECT, AUTOMATIC_OPTION_SENT, OPTION_43_OF_TWO_VENDORS,
    OPTION_OBSOLETE, CODE_UNASSIGNED
}

check! { Answer(same_value_on_two_layers),
    /// a layer says again what a wider layer says already
    ///
    /// It changes nothing today, and tomorrow somebody changes one of the two and not the other.
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
        let message = format!("{layer} sends {name} with the value that a wider layer sends already");
        let (Some(key), Some(other)) = (sent.option.key(), wider.key()) else { continue };
        let finding = SAME_VALUE_ON_TWO_LAYERS.finding(message).at(key.clone());
        findings.push(finding.related(other.clone(), "sent here").instead("leave one of the two out"));
    }
}

check! { Plan(withhold_without_effect),
    /// a layer withholds an option that no wider layer sends
    ///
    /// Either the option's name is wrong, and what should have gone is still told, or the line is left over.
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
                findings.push(finding.instead("an option that everyone is sent, or leave it out"));
            }
        }
    }
}

check! { Plan(automatic_option_sent),
    /// an option that servers, relays or clients fill in by themselves
    ///
    /// A fixed value in its place breaks the exchange: the client asked something else, or does not believe it.
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
        findings.push(finding.instead(if definition.has_id("v4:51") { lease } else { "leave it out" }));
    }
}

fn is_automatic(definition: &Definition) -> bool {
    let assigned = !matches!(definition.status, Status::Unassigned | Status::Removed);
    assigned && (definition.machinery || matches!(definition.sent_by, Sender::Client | Sender::Relay))
}

check! { Answer(option_43_of_two_vendors),
    /// one device is told the sub-options of two vendors in option 43
    ///
    /// Option 43 does not say whose it is: each vendor's devices read the other's octets as their own.
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
    let message = format!("{audience} is sent option 43 by {} and by {}", book(first), book(other));
    let finding = OPTION_43_OF_TWO_VENDORS.finding(message).at(key.clone());
    let finding = finding.related(first_key.clone(), "the other vendor's");
    findings.push(finding.instead("only one of them; v4:125 keeps vendors apart"));
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
    /// New devices do not read it. Where something took its place, that is what they ask for.
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
            Some(by) => finding.instead(by.clone()),
            None => finding.instead("nothing, unless your devices are known to read it"),
        });
    }
}

check! { Plan(code_unassigned),
    /// an option whose code is nobody's
    ///
    /// It may be assigned tomorrow, and then devices read these octets as something else. A site's own options have the
    /// codes 224 to 254.
    static CODE_UNASSIGNED = "code-unassigned", Error, Plan, "RFC 3942, section 4";
    v4_plan!("", "router = \"10.64.4.1\"\n\"v4:190\" = { hex = \"01\" }\n")
}

fn code_unassigned(context: &PlanContext<'_>, findings: &mut Vec<Finding>) {
    let nobodys = |status| matches!(status, Status::Unassigned | Status::Removed);
    for sent in context.plan.layers().flat_map(Layer::all_sends).filter(|sent| nobodys(sent.definition.status)) {
        let finding = CODE_UNASSIGNED.finding(format!("the code {} is not assigned", sent.definition.code));
        let instead = match sent.definition.is_own_of(Protocol::V6) {
            true => "an option of a vendor, defined in a codebook that travels in v6:17",
            false => "a code from 224 to 254, defined in a codebook",
        };
        findings.push(finding.at(sent.key.clone()).instead(instead));
    }
}
