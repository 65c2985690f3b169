//! Rules about reservations.

use super::pools::sent_hosts;
use crate::check::declare::{PlanContext, both, check, checks, v4_plan, v6_plan};
use crate::family::Address;
use crate::finding::{Findings, Severity};
use crate::octets::Mac;
use crate::plan::{ClientKey, Reservation};

checks! {
    RESERVATION_OUTSIDE_SUBNET, RESERVATION_REPEATED, RESERVATION_NAME_REPEATED, SENT_ADDRESS_RESERVED,
    RESERVATION_IN_POOL, RESERVATION_OF_NO_CLIENT
}

check! { Plan(reservation_of_no_client),
    /// a reservation for a hardware address that no client has
    ///
    /// Multicast and broadcast addresses and the one of zeros are no machine's own, so the address is never leased.
    static RESERVATION_OF_NO_CLIENT = "reservation-of-no-client", Error, Plan, "RFC 9542, section 2.1";
    v4_plan!(
        "",
        "router = \"10.64.4.1\"\n[[reservation]]\nnetwork = \"control-room\"\nmac = \"ff:ff:ff:ff:ff:ff\"\naddress = \"10.64.4.11\"\n"
    )
}

fn reservation_of_no_client(context: &PlanContext<'_>, findings: &mut Findings) {
    for row in context.plan.reservations.iter() {
        let ClientKey::Mac(mac) = row.client() else { continue };
        let what = match mac {
            Mac([0xff, 0xff, 0xff, 0xff, 0xff, 0xff]) => "the broadcast address",
            Mac([0, 0, 0, 0, 0, 0]) => "no address at all",
            Mac([first, ..]) if first & 1 == 1 => "a multicast address",
            _ => continue,
        };
        let finding = RESERVATION_OF_NO_CLIENT.finding(format!("{mac} is {what}, which no client has"));
        findings.push(finding.at(row.client_spot()).advice("the hardware address of the machine"));
    }
}

check! { Plan(both!(outside)),
    /// a reserved address is outside its network's subnet, or is the subnet's network or broadcast address
    ///
    /// The client gets an address with which it cannot communicate.
    static RESERVATION_OUTSIDE_SUBNET = "reservation-outside-subnet", Error, Plan, "";
    v4_plan!(
        "",
        "router = \"10.64.4.1\"\n[[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:11\"\naddress = \"10.64.6.11\"\n"
    ),
    v6_plan!("advertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n\
         [[reservation]]\nnetwork = \"mast\"\nmac = \"02:00:5e:00:53:41\"\naddress-v6 = \"2001:db8:64:4::41\"\n")
}

fn outside<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    for (row, address, spot) in context.plan.reservations.with_address::<A>() {
        let network = &context.plan.networks[row.network()];
        let side = network.sides.of::<A>();
        let Some(subnet) = side.subnet_with(address).or_else(|| side.subnet()) else {
            let message = format!("{address} is reserved on {}, which has no {}", network.name, A::NET_WORD);
            findings.push(RESERVATION_OUTSIDE_SUBNET.finding(message).at(spot));
            continue;
        };
        let reserved = subnet.reserved().find(|(known, _)| *known == address);
        let what = match reserved {
            _ if !subnet.net.holds(address) => "not in".to_owned(),
            Some((_, what)) => format!("{what} of"),
            None => continue,
        };
        let message = format!("{address} is {what} {}", subnet.net.trunc());
        let finding = RESERVATION_OUTSIDE_SUBNET.finding(message).at(spot);
        findings.push(finding.related(subnet.spot.clone(), format!("the {}", A::NET_WORD)));
    }
}

check! { Plan(reservation_repeated),
    /// two reservations for one address, or for one client on one network
    ///
    /// Two clients get the same address, or one gets the first of two.
    static RESERVATION_REPEATED = "reservation-repeated", Error, Plan, "";
    v4_plan!(
        "",
        "router = \"10.64.4.1\"\n[[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:11\"\naddress = \"10.64.4.11\"\n\
     [[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:12\"\naddress = \"10.64.4.11\"\n"
    ),
    v6_plan!("advertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n\
     [[reservation]]\nnetwork = \"mast\"\nmac = \"02:00:5e:00:53:41\"\naddress-v6 = \"2001:db8:64:40::41\"\n\
     [[reservation]]\nnetwork = \"mast\"\nmac = \"02:00:5e:00:53:42\"\naddress-v6 = \"2001:db8:64:40::41\"\n")
}

fn reservation_repeated(context: &PlanContext<'_>, findings: &mut Findings) {
    address_repeated::<std::net::Ipv4Addr>(context, findings);
    address_repeated::<std::net::Ipv6Addr>(context, findings);
    delegated_repeated(context, findings);
    for (later, first) in context.plan.reservations.of_one_client() {
        let network = &context.plan.networks[later.network()].name;
        let message = format!("{} already has a reservation on {network}", later.client());
        let finding = RESERVATION_REPEATED.finding(message).at(later.client_spot());
        findings.push(finding.related(first.client_spot(), "here"));
    }
}

fn delegated_repeated(context: &PlanContext<'_>, findings: &mut Findings) {
    let rows = context.plan.reservations.telling();
    let mut all: Vec<_> = rows.filter_map(|row| row.delegated().map(|(net, spot)| (net.trunc(), spot, row))).collect();
    all.sort_by_key(|(net, ..)| (net.first(), net.length()));
    for pair in all.windows(2) {
        let [(net, known, first), (inner, spot, _)] = pair else { continue };
        if net.meets(inner) {
            let message = format!("{inner} is already delegated to {}, with {net}", first.client());
            let finding = RESERVATION_REPEATED.finding(message).at(spot.clone());
            findings.push(finding.related(known.clone(), "here"));
        }
    }
}

fn address_repeated<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    for (later, first) in context.plan.reservations.of_one_address::<A>() {
        let (Some((address, spot)), Some((_, known))) = (later.address::<A>(), first.address::<A>()) else { continue };
        let message = format!("{address} is already reserved for {}", first.client());
        findings.push(RESERVATION_REPEATED.finding(message).at(spot).related(known, "here"));
    }
}

check! { Plan(reservation_name_repeated),
    /// two reservations have the same name
    ///
    /// A look-up of a machine by name finds the wrong one, and in DNS one name hides the other. For one machine
    /// on two networks this may be intended; then it is a note.
    static RESERVATION_NAME_REPEATED = "reservation-name-repeated", Warning, Plan, "";
    v4_plan!(
        "",
        "router = \"10.64.4.1\"\n[[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:11\"\nname = \"door\"\n\
         [[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:12\"\nname = \"door\"\n"
    )
}

fn reservation_name_repeated(context: &PlanContext<'_>, findings: &mut Findings) {
    for (later, first) in context.plan.reservations.of_one_name() {
        let (Some((name, spot)), Some((_, known))) = (later.name(), first.name()) else { continue };
        let finding = RESERVATION_NAME_REPEATED.finding(format!("{} also has the name {name}", first.client()));
        let apart = later.network() != first.network();
        let finding = if apart { finding.as_severity(Severity::Note) } else { finding };
        findings.push(finding.at(spot).related(known, "here").on_network(later.network()));
    }
}

check! { Plan(both!(sent_address_reserved)),
    /// an address that is sent as a router or server is reserved for a client
    ///
    /// This is correct if that client is the server. Otherwise two machines have one address.
    static SENT_ADDRESS_RESERVED = "sent-address-reserved", Warning, Plan, "";
    v4_plan!(
        "",
        "router = \"10.64.4.1\"\n[[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:11\"\naddress = \"10.64.4.1\"\n"
    ),
    v6_plan!("advertise = { managed = true, name-servers = \"2001:db8:64:40::53\" }\n\
         [[reservation]]\nnetwork = \"mast\"\nmac = \"02:00:5e:00:53:41\"\naddress-v6 = \"2001:db8:64:40::53\"\n")
}

fn sent_address_reserved<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    let plan = context.plan;
    for (sent, address, spot) in sent_hosts::<A>(plan) {
        if let Some((_, at)) = plan.reservations.at(address).and_then(Reservation::address::<A>) {
            let message = format!("{address} is sent as {}, but reserved for a client", sent.definition.name);
            let finding = SENT_ADDRESS_RESERVED.finding(message).at(at);
            findings.push(finding.related(spot, "sent here"));
        }
    }
}

check! { Plan(both!(in_pool)),
    /// a reserved address is inside a pool
    ///
    /// Oplex leases it to no other client. Other tools that read the pool may, and the count of free addresses is one
    /// too high.
    static RESERVATION_IN_POOL = "reservation-in-pool", Note, Plan, "";
    v4_plan!(
        "pool = [\"10.64.4.20-10.64.4.200\"]\n",
        "router = \"10.64.4.1\"\n[[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:11\"\naddress = \"10.64.4.21\"\n"
    ),
    v6_plan!("pool = [\"2001:db8:64:40::100-2001:db8:64:40::1ff\"]\n\
         advertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n\
         [[reservation]]\nnetwork = \"mast\"\nmac = \"02:00:5e:00:53:41\"\naddress-v6 = \"2001:db8:64:40::141\"\n")
}

fn in_pool<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    let leased: Vec<_> = context.plan.networks.iter().map(|network| network.sides.of::<A>().leased()).collect();
    for (row, address, spot) in context.plan.reservations.with_address::<A>() {
        let network = &context.plan.networks[row.network()];
        if leased[row.network()].holds(address.bits()) {
            let message = format!("{address} is inside the pool of {}", network.name);
            let finding = RESERVATION_IN_POOL.finding(message).at(spot).on_network(row.network());
            findings.push(finding.advice("an address outside the pool, or exclude this one"));
        }
    }
}
