//! Rules about addresses whose role no layout can say alone.

use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};

use super::addresses::not_a_host;
use crate::check::declare::{AtomSeen, OptionValue, check, checks};
use crate::family::Protocol;
use crate::finding::{Example, Finding};
use crate::layout::{Route4, Scalar, Value};

checks! {
    BROADCAST_ADDRESS_INVALID, ROUTER_SOLICITATION_ADDRESS_INVALID, ROUTER_OF_ROUTE_NOT_A_HOST, LEASED_ADDRESS_INVALID,
    SERVER_ADDRESS_INVALID
}

fn ipv4(value: &Value) -> Option<Ipv4Addr> {
    if let Value::Ipv4(address) = value { Some(*address) } else { None }
}

fn address(value: &Value) -> Option<IpAddr> {
    match value {
        Value::Ipv4(address) => Some((*address).into()),
        Value::Ipv6(address) => Some((*address).into()),
        _ => None,
    }
}

check! { Value(broadcast_address_invalid),
    /// a broadcast address that cannot be one
    ///
    /// Hosts send to it what is meant for all on the link, and no host receives it.
    static BROADCAST_ADDRESS_INVALID = "broadcast-address-invalid", Error, Options("v4:28"), "RFC 1122, section 3.2.1.3";
    Example::Payload("v4:28", "e0000001")
}

fn broadcast_address_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    let Some(Scalar::Ipv4(address)) = one.single() else { return None };
    // 255.255.255.255 is one, and so may a host's address look, as masks go down to /31.
    let what = not_a_host(address.into()).filter(|_| !address.is_broadcast())?;
    Some(BROADCAST_ADDRESS_INVALID.finding(format!("{address} is {what}, not a broadcast address")))
}

check! { Value(router_solicitation_address_invalid),
    /// an address for router solicitations that is neither a router's, nor that of all routers, nor the broadcast address
    ///
    /// Hosts look for their router there, and find none.
    static ROUTER_SOLICITATION_ADDRESS_INVALID = "router-solicitation-address-invalid", Error, Options("v4:32"),
        "RFC 2132, section 5.7";
    Example::Payload("v4:32", "00000000")
}

fn router_solicitation_address_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    const ALL_ROUTERS: Ipv4Addr = Ipv4Addr::new(224, 0, 0, 2);
    let address = ipv4(one.value()).filter(|address| !address.is_broadcast() && *address != ALL_ROUTERS)?;
    let what = not_a_host(address.into())?;
    let finding = ROUTER_SOLICITATION_ADDRESS_INVALID.finding(format!("{address} is {what}"));
    Some(finding.advice("a router's address, 224.0.0.2 or 255.255.255.255"))
}

check! { Atom(router_of_route_not_a_host),
    /// a route by way of an address that no router can have
    ///
    /// Hosts install it, and everything for its destination is lost.
    static ROUTER_OF_ROUTE_NOT_A_HOST = "router-of-route-not-a-host", Error, Atoms("route4"),
        "RFC 3442, \"DHCP Client Behavior\"";
    Example::Payload("v4:121", "180a0000e0000001")
}

fn router_of_route_not_a_host(atom: &AtomSeen<'_>) -> Option<Finding> {
    let Scalar::Route4(Route4 { router, .. }) = atom.scalar else { return None };
    // 0.0.0.0 is a destination on the link itself.
    let what = not_a_host(router.into()).filter(|_| !router.is_unspecified())?;
    let finding =
        ROUTER_OF_ROUTE_NOT_A_HOST.finding(format!("the router {router} is {what}, not the address of a host"));
    Some(finding.advice("the address of a router on the client's link, or `on-link`"))
}

check! { Value(leased_address_invalid),
    /// an address in an identity association that no host can have
    ///
    /// Clients discard it, and renew with none.
    static LEASED_ADDRESS_INVALID = "leased-address-invalid", Error, Options("v6:5"), "RFC 8415, section 21.6";
    Example::Payload("v6:5", "ff0200000000000000000000000000010000000100000002")
}

fn leased_address_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    let address = Ipv6Addr::from(*one.octets.first_chunk::<16>()?);
    let what = not_a_host(address.into())?;
    let finding = LEASED_ADDRESS_INVALID.finding(format!("{address} is {what}, not the address of a host"));
    // A client without a wish should leave the option out, and may not.
    let wish = address.is_unspecified() && one.is_from_client() != Some(false);
    Some(if wish { finding.borne() } else { finding })
}

check! { Value(server_address_invalid),
    /// an address of a server that no server can have
    ///
    /// Clients send to it, or refuse the option.
    static SERVER_ADDRESS_INVALID = "server-address-invalid", Error, Options("v4:146", "v6:88", "v6:104", "v4:83"), "";
    Example::Payload("v6:88", "00000000000000000000000000000001"),
    Example::Payload("v4:146", "007f0000010000000000")
}

fn server_address_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    match one.definition.code {
        146 => {
            let named = |name| address(one.value().field(name)?);
            // 0.0.0.0 is no secondary server (RFC 6731, section 4.3).
            let secondary = named("secondary").filter(|address| !address.is_unspecified());
            named("primary").into_iter().chain(secondary).find_map(wrong)
        }
        // A multicast group's is allowed (RFC 7341, section 7.2).
        88 => one.value().items().iter().filter_map(address).filter(|address| !address.is_multicast()).find_map(wrong),
        104 if one.definition.is_own_of(Protocol::V6) => {
            let domain = address(one.value().field("domain")?)?;
            let finding = || SERVER_ADDRESS_INVALID.finding(format!("the domain {domain} is not a multicast address"));
            (!domain.is_multicast()).then(|| finding().by("RFC 7774, section 2.3"))
        }
        83 => isns(one),
        _ => None,
    }
}

fn wrong(address: IpAddr) -> Option<Finding> {
    let what = not_a_host(address)?;
    Some(SERVER_ADDRESS_INVALID.finding(format!("{address} is {what}, not the address of a host")))
}

/// With a heartbeat the first address is its multicast group (RFC 4174, section 2.3).
fn isns(one: &OptionValue<'_>) -> Option<Finding> {
    let flags = one.value().field("admin-flags")?;
    let heartbeat = flags.flag("enabled") && flags.flag("heartbeat");
    let mut addresses = one.value().field("addresses")?.items().iter().filter_map(address);
    if heartbeat {
        let group = addresses.next().filter(|address| !address.is_multicast());
        if let Some(group) = group {
            let message = format!("the heartbeat address {group} is not a multicast address");
            return Some(SERVER_ADDRESS_INVALID.finding(message));
        }
    }
    addresses.find_map(wrong)
}
