//! Rules about what stands on which layer, and about what nobody says.

use super::together::told as find_told;
use super::{Check, Find, Whom, otherwise_fine};
use crate::answer::{Told, told_v6_on};
use crate::codebook::{Carrier, Definition, Sender, Status};
use crate::finding::{Example, Finding, Rule, Severity};
use crate::layout::Value;
use crate::plan::{Layer, Sent};

pub(super) static CHECKS: [&Check; 10] = [
    &SAME_VALUE_ON_TWO_LAYERS,
    &WITHHOLDS_NOTHING,
    &NO_ROUTER,
    &NO_NAME_SERVER,
    &NO_DOMAIN,
    &STATIC_ROUTES_HIDE_ROUTER,
    &CODE_IS_MACHINERY,
    &TWO_VENDORS_IN_ONE_OPTION,
    &OPTION_NO_LONGER_USED,
    &CODE_NOT_ASSIGNED,
];

static SAME_VALUE_ON_TWO_LAYERS: Check = Check {
    rule: Rule {
        name: "same-value-on-two-layers",
        severity: Severity::Note,
        rfc: "",
        summary: "a layer says again what a wider layer says already",
        why: "It changes nothing today, and tomorrow somebody changes one of the two and not the other.",
        example: otherwise_fine!("", "router = \"10.64.4.1\"\ndomain-server = \"10.64.0.53\"\n"),
    },
    find: Find::Told(|whom, told, findings| {
        let prefixed = whom.network.v6.prefix.is_some() && whom.fleet.is_none();
        let by_v6 = if prefixed { told_v6_on(whom.plan, whom.network, None) } else { Vec::new() };
        for told in told.iter().filter(|_| whom.fleet.is_none()).chain(&by_v6) {
            let Some((layer, wider)) = told.overrides.first() else { continue };
            let octets = |sent: &Sent| sent.payload().map(|payload| payload.octets.clone());
            if octets(told.sent).is_some() && octets(told.sent) == octets(wider) {
                let message =
                    format!("{} is told {} already, with the same value", layer.name, told.sent.definition.name);
                let finding = SAME_VALUE_ON_TWO_LAYERS.rule.finding(message).at(told.sent.key.clone());
                findings.push(finding.related(wider.key.clone(), "told here").instead("leave one of the two out"));
            }
        }
    }),
};

static WITHHOLDS_NOTHING: Check = Check {
    rule: Rule {
        name: "withholds-nothing",
        severity: Severity::Warning,
        rfc: "",
        summary: "a layer withholds an option that no wider layer sends",
        why: "Either the option's name is wrong, and what should have gone is still told, or the line is left over.",
        example: otherwise_fine!("withhold = [\"ntp-servers\"]\n"),
    },
    find: Find::Plan(|plan, findings| {
        for layer in plan.layers() {
            let wider = || plan.everyone.all_sends().filter(|_| !std::ptr::eq(layer, &plan.everyone));
            for out in &layer.withheld {
                if !wider().any(|sent| std::sync::Arc::ptr_eq(&sent.definition, &out.definition)) {
                    let message =
                        format!("no wider layer sends {}, so there is nothing to withhold", out.definition.name);
                    let finding = WITHHOLDS_NOTHING.rule.finding(message).at(out.spot.clone());
                    findings.push(finding.instead("an option that everyone is sent, or leave it out"));
                }
            }
        }
    }),
};

/// Whether the routes lead anywhere: `0.0.0.0/0` is among them.
fn has_default_route(told: &Told<'_>) -> bool {
    let mut found = false;
    if let Some(payload) = told.sent.payload() {
        payload.value.leaves(&mut |leaf, _| found |= matches!(leaf, Value::Route4 { length: 0, .. }));
    }
    found
}

/// A finding about a network whose devices are not told something, at the network's name.
fn absent(check: &'static Check, whom: &Whom<'_>, message: &str, instead: &str) -> Finding {
    let network = whom.network;
    let finding = check.rule.finding(format!("devices on {} {message}", network.name));
    finding.at(network.spot.clone()).instead(instead.replace("NETWORK", &network.name))
}

/// Whether these are the devices of no fleet, on a network that has a subnet.
fn is_plain(whom: &Whom<'_>) -> bool {
    whom.fleet.is_none() && whom.network.subnet.is_some()
}

static NO_ROUTER: Check = Check {
    rule: Rule {
        name: "no-router",
        severity: Severity::Warning,
        rfc: "RFC 2132, section 3.5",
        summary: "a network's devices are told no router",
        why: "They reach their own subnet and nothing beyond it, which is rarely what was meant.",
        example: otherwise_fine!("", ""),
    },
    find: Find::Told(|whom, told, findings| {
        if is_plain(whom) && find_told(told, 3).is_none() && find_told(told, 121).is_none() {
            let instead = "router = \"…\" in [network.NETWORK.send.v4]";
            findings.push(absent(&NO_ROUTER, whom, "are told no router", instead));
        }
    }),
};

static NO_NAME_SERVER: Check = Check {
    rule: Rule {
        name: "no-name-server",
        severity: Severity::Warning,
        rfc: "RFC 2132, section 3.8",
        summary: "a network's devices are told no DNS server",
        why: "They have an address and a way out, and still nothing works for anybody who types a name.",
        example: Example::Plan(
            "[network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n",
        ),
    },
    find: Find::Told(|whom, told, findings| {
        if is_plain(whom) && find_told(told, 6).is_none() {
            let instead = "domain-server = [\"…\"] in [send.v4]";
            findings.push(absent(&NO_NAME_SERVER, whom, "are told no name server", instead));
        }
    }),
};

static NO_DOMAIN: Check = Check {
    rule: Rule {
        name: "no-domain",
        severity: Severity::Note,
        rfc: "RFC 2132, section 3.17",
        summary: "a network's devices are told a name server, but no domain",
        why: "Short names (`printer`) are then looked up as they stand, and are not found.",
        example: Example::Plan(
            "[send.v4]\ndomain-server = \"10.64.0.53\"\n[network.control-room]\nsubnet = \"10.64.4.0/23\"\n\
             [network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n",
        ),
    },
    find: Find::Told(|whom, told, findings| {
        let missing = |id| find_told(told, id).is_none();
        if is_plain(whom) && !missing(6) && missing(15) && missing(119) {
            findings.push(absent(&NO_DOMAIN, whom, "are told no domain", "domain-name = \"…\" in [send.v4]"));
        }
    }),
};

static STATIC_ROUTES_HIDE_ROUTER: Check = Check {
    rule: Rule {
        name: "static-routes-hide-router",
        severity: Severity::Warning,
        rfc: "RFC 3442, \"DHCP Client Behavior\"",
        summary: "classless routes without a default route beside a router",
        why: "A client that reads classless routes must ignore the router option, so it loses its way out; older \
              clients keep theirs, and the fault shows on some devices only.",
        example: otherwise_fine!(
            "",
            "router = \"10.64.4.1\"\nclassless-static-route = [\"10.64.8.0/21 via 10.64.4.2\"]\n"
        ),
    },
    find: Find::Told(|whom, told, findings| {
        let (Some(routes), Some(router)) = (find_told(told, 121), find_told(told, 3)) else { return };
        if routes.sent.payload().is_none() || has_default_route(routes) {
            return;
        }
        let message =
            format!("these routes hide the router from devices on {}, and lead nowhere else", whom.network.name);
        let finding = STATIC_ROUTES_HIDE_ROUTER.rule.finding(message).at(routes.sent.spot.clone());
        let finding = finding.related(router.sent.spot.clone(), "ignored by clients that read the routes");
        let gateway =
            router.sent.addresses().first().map_or_else(|| "…".to_owned(), |(address, ..)| address.to_string());
        findings.push(finding.instead(format!("\"0.0.0.0/0 via {gateway}\" as one more route")));
    }),
};

static TWO_VENDORS_IN_ONE_OPTION: Check = Check {
    rule: Rule {
        name: "two-vendors-in-one-option",
        severity: Severity::Error,
        rfc: "RFC 2132, section 8.4",
        summary: "one device is told the sub-options of two vendors in option 43",
        why: "Option 43 does not say whose it is: each vendor's devices read the other's octets as their own.",
        example: Example::PlanAndCodebook(
            "codebooks = [\"gannet.toml\"]\n[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
             [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n\
             vendor-specific = { hex = \"010107\" }\n\"gannet:controllers\" = \"10.64.0.90\"\n",
            "book = \"gannet\"\ntitle = \"Gannet radios\"\ncarriers = [\"v4:43\"]\n\n[[option]]\ncode = 1\n\
             name = \"controllers\"\nlayout = \"ipv4+\"\nreference = \"Gannet R1 manual, page 4\"\n",
        ),
    },
    find: Find::Told(|whom, told, findings| {
        let in_43 = |sent: &Sent| {
            let definition = &sent.definition;
            definition.has_id("v4:43") || definition.carriers.contains(&Carrier::Vendor { code: 43, enterprise: None })
        };
        let mut told = told.iter().map(|told| told.sent).filter(|sent| in_43(sent));
        let Some(first) = told.next() else { return };
        // A device may belong to an earlier fleet as well, and is told what that says, too.
        let earlier = whom.earlier_fleets().flat_map(|fleet| &fleet.layer.sends).filter(|sent| in_43(sent));
        let book = |sent: &Sent| sent.definition.book().to_owned();
        let Some(other) = told.chain(earlier).find(|other| book(other) != book(first)) else { return };
        let message = format!("{whom} is told option 43 by {} and by {}", book(first), book(other));
        let finding = TWO_VENDORS_IN_ONE_OPTION.rule.finding(message).at(other.key.clone());
        let finding = finding.related(first.key.clone(), "the other vendor's");
        findings.push(finding.instead("only one of them; v4:125 keeps vendors apart"));
    }),
};

static CODE_IS_MACHINERY: Check = Check {
    rule: Rule {
        name: "code-is-machinery",
        severity: Severity::Error,
        rfc: "RFC 2131, section 4.3.1",
        summary: "an option that servers, relays or clients fill in by themselves",
        why: "A fixed value in its place breaks the exchange: the client asked something else, or does not believe it.",
        example: otherwise_fine!("", "router = \"10.64.4.1\"\ndhcp-server-id = \"10.64.0.10\"\n"),
    },
    find: Find::Plan(|plan, findings| {
        for sent in plan.layers().flat_map(Layer::all_sends).filter(|sent| is_machinery(&sent.definition)) {
            let definition = &sent.definition;
            let who = if definition.sent_by == Sender::Both {
                "servers and clients"
            } else {
                &definition.sent_by.to_string()
            };
            let message = format!("{} is not a plan's to send: {who} fill it in for each message", definition.label());
            let finding = CODE_IS_MACHINERY.rule.finding(message).at(sent.key.clone());
            let finding = finding.by(definition.reference.clone());
            let lease = "lease = \"8h\" on the network or at the top of the plan";
            findings.push(finding.instead(if definition.has_id("v4:51") { lease } else { "leave it out" }));
        }
    }),
};

static OPTION_NO_LONGER_USED: Check = Check {
    rule: Rule {
        name: "option-no-longer-used",
        severity: Severity::Warning,
        rfc: "",
        summary: "an option that is deprecated, obsolete, or was never documented",
        why: "New devices do not read it. Where something took its place, that is what they ask for.",
        example: otherwise_fine!("", "router = \"10.64.4.1\"\ntime-offset = 3600\n"),
    },
    find: Find::Plan(|plan, findings| {
        let old =
            |status| matches!(status, Status::Deprecated | Status::Obsolete | Status::Tentative | Status::Undocumented);
        for sent in plan.layers().flat_map(Layer::all_sends).filter(|sent| old(sent.definition.status)) {
            let definition = &sent.definition;
            let finding =
                OPTION_NO_LONGER_USED.rule.finding(format!("{} is {}", definition.label(), definition.status));
            let finding = finding.at(sent.key.clone()).by(definition.reference.clone());
            findings.push(match &definition.replaced_by {
                Some(by) => finding.instead(by.clone()),
                None => finding.instead("nothing, unless your devices are known to read it"),
            });
        }
    }),
};

static CODE_NOT_ASSIGNED: Check = Check {
    rule: Rule {
        name: "code-not-assigned",
        severity: Severity::Error,
        rfc: "RFC 3942, section 4",
        summary: "an option whose code is nobody's",
        why: "It may be assigned tomorrow, and then devices read these octets as something else. A site's own options \
              have the codes 224 to 254.",
        example: otherwise_fine!("", "router = \"10.64.4.1\"\n\"v4:190\" = { hex = \"01\" }\n"),
    },
    find: Find::Plan(|plan, findings| {
        let nobodys = |status| matches!(status, Status::Unassigned | Status::Removed);
        for sent in plan.layers().flat_map(Layer::all_sends).filter(|sent| nobodys(sent.definition.status)) {
            let finding = CODE_NOT_ASSIGNED.rule.finding(format!("the code {} is not assigned", sent.definition.code));
            let instead = match sent.definition.is_v6() {
                true => "an option of a vendor, defined in a codebook that travels in v6:17",
                false => "a code from 224 to 254, defined in a codebook",
            };
            findings.push(finding.at(sent.key.clone()).instead(instead));
        }
    }),
};

fn is_machinery(definition: &Definition) -> bool {
    let assigned = !matches!(definition.status, Status::Unassigned | Status::Removed);
    assigned && (definition.machinery || matches!(definition.sent_by, Sender::Client | Sender::Relay))
}
