//! Rules about reservations.

use std::collections::HashMap;
use std::net::Ipv4Addr;

use super::{Check, Find, otherwise_fine};
use crate::finding::{Rule, Severity, Spot};
use crate::plan::{Plan, Reservation};

pub(super) static CHECKS: [&Check; 4] =
    [&RESERVATION_OUTSIDE_SUBNET, &RESERVED_TWICE, &TOLD_ADDRESS_IS_RESERVED, &RESERVATION_IN_POOL];

/// Every reservation that has an address.
fn addressed(plan: &Plan) -> impl Iterator<Item = (&Reservation, Ipv4Addr, &Spot)> {
    plan.reservations.iter().filter_map(|one| one.address.as_ref().map(|(address, spot)| (one, *address, spot)))
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
            let Some(subnet) = &plan.networks[one.network].subnet else { continue };
            let what = match subnet.reserved() {
                _ if !subnet.holds(address) => "is not in",
                Some((own, _)) if address == own => "is the own address of",
                Some((_, broadcast)) if address == broadcast => "is the broadcast address of",
                _ => continue,
            };
            let message = format!("{address} {what} {}", subnet.net.trunc());
            let finding = RESERVATION_OUTSIDE_SUBNET.rule.finding(message).at(spot.clone());
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
        let mut addresses: HashMap<Ipv4Addr, &Spot> = HashMap::new();
        for (_, address, spot) in addressed(plan) {
            if let Some(first) = addresses.insert(address, spot) {
                let finding = RESERVED_TWICE.rule.finding(format!("{address} is reserved already")).at(spot.clone());
                findings.push(finding.related(first.clone(), "here"));
            }
        }
        let mut clients = HashMap::new();
        for one in &plan.reservations {
            if let Some(first) = clients.insert((one.network, &one.client), &one.client_spot) {
                let message =
                    format!("{} has a reservation on {} already", one.client, plan.networks[one.network].name);
                let finding = RESERVED_TWICE.rule.finding(message).at(one.client_spot.clone());
                findings.push(finding.related(first.clone(), "here"));
            }
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
        let reserved: HashMap<Ipv4Addr, &Spot> = addressed(plan).map(|(_, address, spot)| (address, spot)).collect();
        if reserved.is_empty() {
            return;
        }
        for sent in plan.layers().flat_map(|layer| &layer.sends) {
            for (address, name, spot) in sent.addresses() {
                let place = matches!(name, Some("destination" | "mask" | "network"));
                if let Some(at) = reserved.get(&address).filter(|_| !place && !sent.definition.any_address) {
                    let message = format!("{address} is told as {}, and reserved for a client", sent.definition.name);
                    let finding = TOLD_ADDRESS_IS_RESERVED.rule.finding(message).at((*at).clone());
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
            let network = &plan.networks[one.network];
            if network.lends(address) {
                let message = format!("{address} lies in the pool of {}", network.name);
                let finding = RESERVATION_IN_POOL.rule.finding(message).at(spot.clone());
                findings.push(finding.instead("an address outside the pool, or exclude this one"));
            }
        }
    }),
};
