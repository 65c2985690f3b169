//! Rules about reservations.

use std::net::Ipv4Addr;

use super::{Check, Find, otherwise_fine};
use crate::finding::{Rule, Severity, Spot};
use crate::plan::{Plan, Reservation};

pub(super) static CHECKS: [&Check; 5] =
    [&RESERVATION_OUTSIDE_SUBNET, &RESERVED_TWICE, &NAME_USED_TWICE, &TOLD_ADDRESS_IS_RESERVED, &RESERVATION_IN_POOL];

/// Every reservation that has an address.
fn addressed(plan: &Plan) -> impl Iterator<Item = (&Reservation, Ipv4Addr, Spot)> {
    plan.reservations.iter().filter_map(|one| one.address().map(|(address, spot)| (one, address, spot)))
}

static RESERVATION_OUTSIDE_SUBNET: Check = Check {
    rule: Rule {
        name: "reservation-outside-subnet",
        severity: Severity::Error,
        rfc: "",
        summary: "a reserved address is not in its network's subnet, or is the subnet's own or its broadcast address",
        why: "The client gets an address with which it reaches nobody.",
        example: otherwise_fine!(
            "",
            "router = \"10.64.4.1\"\n[[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:11\"\naddress = \"10.64.6.11\"\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        for (one, address, spot) in addressed(plan) {
            let Some(subnet) = &plan.networks[one.network()].subnet else { continue };
            let what = match subnet.reserved() {
                _ if !subnet.holds(address) => "is not in",
                Some((own, _)) if address == own => "is the own address of",
                Some((_, broadcast)) if address == broadcast => "is the broadcast address of",
                _ => continue,
            };
            let message = format!("{address} {what} {}", subnet.net.trunc());
            let finding = RESERVATION_OUTSIDE_SUBNET.rule.finding(message).at(spot);
            findings.push(finding.related(subnet.spot.clone(), "the subnet"));
        }
    }),
};

static RESERVED_TWICE: Check = Check {
    rule: Rule {
        name: "reserved-twice",
        severity: Severity::Error,
        rfc: "",
        summary: "two reservations for one address, or for one client on one network",
        why: "Two clients get the same address, or one gets the first of two.",
        example: otherwise_fine!(
            "",
            "router = \"10.64.4.1\"\n[[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:11\"\naddress = \"10.64.4.11\"\n\
             [[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:12\"\naddress = \"10.64.4.11\"\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        for (later, first) in plan.reservations.of_one_address() {
            let (Some((address, spot)), Some((_, known))) = (later.address(), first.address()) else { continue };
            let finding = RESERVED_TWICE.rule.finding(format!("{address} is reserved already")).at(spot);
            findings.push(finding.related(known, "here"));
        }
        for (later, first) in plan.reservations.of_one_client() {
            let network = &plan.networks[later.network()].name;
            let message = format!("{} has a reservation on {network} already", later.client());
            let finding = RESERVED_TWICE.rule.finding(message).at(later.client_spot());
            findings.push(finding.related(first.client_spot(), "here"));
        }
    }),
};

static NAME_USED_TWICE: Check = Check {
    rule: Rule {
        name: "name-used-twice",
        severity: Severity::Warning,
        rfc: "",
        summary: "two reservations have the same name",
        why: "Whoever looks a machine up by its name changes the wrong one, and where names go into DNS one hides the other. \
              One machine on two networks may well have one name; then it is a note.",
        example: otherwise_fine!(
            "",
            "router = \"10.64.4.1\"\n[[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:11\"\nname = \"door\"\n\
             [[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:12\"\nname = \"door\"\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        for (later, first) in plan.reservations.of_one_name() {
            let (Some((name, spot)), Some((_, known))) = (later.name(), first.name()) else { continue };
            let finding = NAME_USED_TWICE.rule.finding(format!("{} is called {name}, too", first.client()));
            let apart = later.network() != first.network();
            let finding = if apart { finding.as_severity(Severity::Note) } else { finding };
            findings.push(finding.at(spot).related(known, "here"));
        }
    }),
};

static TOLD_ADDRESS_IS_RESERVED: Check = Check {
    rule: Rule {
        name: "told-address-is-reserved",
        severity: Severity::Warning,
        rfc: "",
        summary: "an address that devices are told as a router or server is reserved for a client",
        why: "It is right when that client is the server. Otherwise two machines have one address.",
        example: otherwise_fine!(
            "",
            "router = \"10.64.4.1\"\n[[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:11\"\naddress = \"10.64.4.1\"\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        for sent in plan.layers().flat_map(|layer| &layer.sends) {
            for (address, name, spot) in sent.addresses() {
                let place = matches!(name, Some("destination" | "mask" | "network"));
                let reserved = plan.reservations.at(address).filter(|_| !place && !sent.definition.any_address);
                if let Some((_, at)) = reserved.and_then(Reservation::address) {
                    let message = format!("{address} is told as {}, and reserved for a client", sent.definition.name);
                    let finding = TOLD_ADDRESS_IS_RESERVED.rule.finding(message).at(at);
                    findings.push(finding.related(spot, "told here"));
                }
            }
        }
    }),
};

static RESERVATION_IN_POOL: Check = Check {
    rule: Rule {
        name: "reservation-in-pool",
        severity: Severity::Note,
        rfc: "",
        summary: "a reserved address lies in a pool",
        why: "Oplex lends it to nobody else. Other tools that read the pool may, and people who count its addresses \
              count one too many.",
        example: otherwise_fine!(
            "pool = [\"10.64.4.20-10.64.4.200\"]\n",
            "router = \"10.64.4.1\"\n[[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:11\"\naddress = \"10.64.4.21\"\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        for (one, address, spot) in addressed(plan) {
            let network = &plan.networks[one.network()];
            if network.lends(address) {
                let message = format!("{address} lies in the pool of {}", network.name);
                let finding = RESERVATION_IN_POOL.rule.finding(message).at(spot);
                findings.push(finding.instead("an address outside the pool, or exclude this one"));
            }
        }
    }),
};
