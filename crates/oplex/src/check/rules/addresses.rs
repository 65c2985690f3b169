//! Rules about addresses and prefixes in options, wherever they stand.

use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};

use crate::check::declare::{AtomSeen, OptionValue, check, checks};
use crate::family::Net;
use crate::finding::{Example, Finding};
use crate::layout::{Atom, Prefix6, Role, Scalar, ScalarForm, Value};

checks! {
    ADDRESS_NOT_A_HOST, ADDRESS_NOT_A_GROUP, STATIC_ROUTE_DEFAULT, DELEGATED_PREFIX_HOST_BITS_SET, RA_PREFIX_HOST_BITS_SET,
    RA_PREFIX_LINK_LOCAL, RA_AUTONOMOUS_PREFIX_NOT_64, MULTICAST_PREFIX_INVALID, SIXRD_PREFIX_DOES_NOT_FIT
}

check! { Atom(address_not_a_host),
    /// an address that cannot belong to a host, where a host's is required
    ///
    /// 0.0.0.0, 255.255.255.255, loopback and multicast addresses lead to no server or router. Usually it is a
    /// placeholder that was never filled in.
    static ADDRESS_NOT_A_HOST = "address-not-a-host", Error, Atoms("ipv4", "ipv6"), "RFC 1122, section 3.2.1.3";
    Example::Payload("v4:6", "7f000001"), Example::Payload("v6:23", "ff020000000000000000000000000001")
}

fn address_not_a_host(atom: &AtomSeen<'_>) -> Option<Finding> {
    let address = match (atom.form, atom.scalar) {
        (ScalarForm::Atom(Atom::Ipv4(Role::Host)), Scalar::Ipv4(address)) => IpAddr::from(address),
        (ScalarForm::Atom(Atom::Ipv6(Role::Host)), Scalar::Ipv6(address)) => IpAddr::from(address),
        _ => return None,
    };
    let what = not_a_host(address)?;
    let finding = ADDRESS_NOT_A_HOST.finding(format!("{address} is {what}, not the address of a host"));
    Some(if address.is_ipv6() { finding.by("RFC 4291, section 2") } else { finding })
}

check! { Atom(address_not_a_group),
    /// an address that is not multicast, where a multicast group's is required
    ///
    /// Nodes cannot join it, and hear nothing.
    static ADDRESS_NOT_A_GROUP = "address-not-a-group", Error, Atoms("ipv4", "ipv6"), "RFC 4291, section 2.7";
    Example::Payload("v6:56/2", "20010db8000000000000000000000001")
}

fn address_not_a_group(atom: &AtomSeen<'_>) -> Option<Finding> {
    let address = match (atom.form, atom.scalar) {
        (ScalarForm::Atom(Atom::Ipv4(Role::Group)), Scalar::Ipv4(address)) => IpAddr::from(address),
        (ScalarForm::Atom(Atom::Ipv6(Role::Group)), Scalar::Ipv6(address)) => IpAddr::from(address),
        _ => return None,
    };
    (!address.is_multicast())
        .then(|| ADDRESS_NOT_A_GROUP.finding(format!("{address} is not the address of a multicast group")))
}

pub(super) fn not_a_host(address: IpAddr) -> Option<&'static str> {
    match address {
        _ if address.is_unspecified() => Some("the unspecified address"),
        _ if address.is_loopback() => Some("a loopback address"),
        _ if address.is_multicast() => Some("a multicast address"),
        IpAddr::V4(address) if address.is_broadcast() => Some("the broadcast address"),
        // A mask is never meant as an address, unless a field calls for one.
        IpAddr::V4(address) if address.octets()[0] >= 240 => Some("in the reserved range 240.0.0.0/4"),
        _ => None,
    }
}

check! { Value(static_route_default),
    /// a static route whose destination is 0.0.0.0
    ///
    /// That destination is not legal here. A default route is sent in the router option, or in a classless route.
    static STATIC_ROUTE_DEFAULT = "static-route-default", Error, Options("v4:33"), "RFC 2132, section 5.8";
    Example::Payload("v4:33", "000000000a400401")
}

fn static_route_default(one: &OptionValue<'_>) -> Option<Finding> {
    let everywhere = |route: &Value| route.field("destination") == Some(&Value::Ipv4(Ipv4Addr::UNSPECIFIED));
    one.value().items().iter().any(everywhere).then(|| {
        let finding = STATIC_ROUTE_DEFAULT.finding("0.0.0.0 is not a destination for a static route");
        finding.advice("router, or classless-static-route with 0.0.0.0/0")
    })
}

check! { Value(delegated_prefix_host_bits_set),
    /// a delegated prefix has bits set below its length
    ///
    /// They should be zero. Usually an address was written, or the length is too short.
    static DELEGATED_PREFIX_HOST_BITS_SET = "delegated-prefix-host-bits-set", Warning, Options("v6:26"),
        "RFC 8415, section 21.22";
    Example::Payload("v6:26", "000070800000a8c03820010db8006401000000000000000001")
}

fn delegated_prefix_host_bits_set(one: &OptionValue<'_>) -> Option<Finding> {
    // Behind both lifetimes.
    let (length, prefix) = one.octets.get(8..)?.split_first()?;
    let prefix = Net::new(Ipv6Addr::from(*prefix.first_chunk::<16>()?), *length).filter(has_host_bits)?;
    let message = format!("{} has bits set below the length {}", prefix.address(), prefix.length());
    Some(DELEGATED_PREFIX_HOST_BITS_SET.finding(message).advice(prefix.first().to_string()))
}

/// The prefix that two fields of a record say.
fn prefix(one: &OptionValue<'_>, prefix: &str, length: &str) -> Option<Net<Ipv6Addr>> {
    let [Some(Scalar::Ipv6(address)), Some(Scalar::Number(length))] = one.record([prefix, length]) else { return None };
    Net::new(address, u8::try_from(length).ok()?)
}

fn has_host_bits(prefix: &Net<Ipv6Addr>) -> bool {
    prefix.trunc() != *prefix
}

check! { Value(ra_prefix_host_bits_set),
    /// an advertised prefix or route has bits set below its length
    ///
    /// They must be zero. Usually the router's own address was written in place of its prefix.
    static RA_PREFIX_HOST_BITS_SET = "ra-prefix-host-bits-set", Error, Options("ra:3", "ra:24"),
        "RFC 4861, section 4.6.2";
    Example::Payload("ra:3", "40c000278d0000093a800000000020010db8006400100000000000000001")
}

fn ra_prefix_host_bits_set(one: &OptionValue<'_>) -> Option<Finding> {
    let prefix = prefix(one, "prefix", "length").filter(has_host_bits)?;
    // With R set, the router's whole address stands there (RFC 6275, section 7.2).
    let is_address = one.is("ra:3") && flags(one) & 0x20 != 0;
    (!is_address).then(|| {
        let message = format!("{} has bits set below the length {}", prefix.address(), prefix.length());
        RA_PREFIX_HOST_BITS_SET.finding(message).advice(prefix.first().to_string())
    })
}

fn flags(one: &OptionValue<'_>) -> u64 {
    if let [Some(Scalar::Number(flags))] = one.record(["flags"]) { flags } else { 0 }
}

check! { Value(ra_prefix_link_local),
    /// the link-local prefix is advertised
    ///
    /// Every host has it already, and ignores the option.
    static RA_PREFIX_LINK_LOCAL = "ra-prefix-link-local", Warning, Options("ra:3"), "RFC 4861, section 4.6.2";
    Example::Payload("ra:3", "40c000278d0000093a8000000000fe800000000000000000000000000000")
}

fn ra_prefix_link_local(one: &OptionValue<'_>) -> Option<Finding> {
    let prefix = prefix(one, "prefix", "length")?;
    let local = prefix.address().is_unicast_link_local() && prefix.length() >= 10;
    local.then(|| RA_PREFIX_LINK_LOCAL.finding(format!("{prefix} is the link-local prefix")))
}

check! { Value(ra_autonomous_prefix_not_64),
    /// an autonomous prefix is not 64 bits long
    ///
    /// On Ethernet and Wi-Fi interface identifiers have 64 bits, so hosts ignore the prefix and form no address.
    static RA_AUTONOMOUS_PREFIX_NOT_64 = "ra-autonomous-prefix-not-64", Error, Options("ra:3"),
        "RFC 4862, section 5.5.3";
    Example::Payload("ra:3", "38c000278d0000093a800000000020010db8006400000000000000000000")
}

fn ra_autonomous_prefix_not_64(one: &OptionValue<'_>) -> Option<Finding> {
    let prefix = prefix(one, "prefix", "length")?;
    (flags(one) & 0x40 != 0 && prefix.length() != 64).then(|| {
        let finding = RA_AUTONOMOUS_PREFIX_NOT_64.finding(format!("{prefix} is autonomous")).borne();
        finding.advice("a prefix of 64 bits, or no `autonomous`")
    })
}

check! { Value(multicast_prefix_invalid),
    /// a prefix for IPv4-embedded multicast has a wrong length or range
    ///
    /// Clients discard the option, and IPv4 multicast groups stay unreachable.
    static MULTICAST_PREFIX_INVALID = "multicast-prefix-invalid", Error, Options("v6:113"), "RFC 8115, section 3";
    Example::Payload("v6:113", "40ff0e0db80001000060ff3e00000000000000000000600064ff9b0000000000000000")
}

fn multicast_prefix_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    ["asm-prefix", "ssm-prefix", "unicast-prefix"].into_iter().find_map(|name| {
        let Value::Prefix6(Prefix6 { prefix, length }) = one.value().field(name)? else { return None };
        let why = not_for_multicast(name, *prefix, *length)?;
        Some(MULTICAST_PREFIX_INVALID.finding(format!("{name} is {prefix}/{length}: {why}")))
    })
}

fn not_for_multicast(name: &str, prefix: Ipv6Addr, length: u8) -> Option<&'static str> {
    // The ranges of RFC 4291, section 2.7 and RFC 4607, section 1.
    let is_ssm = prefix.segments()[0] & 0xfff0 == 0xff30 && prefix.segments()[1] == 0;
    match name {
        _ if length == 0 => None,
        "unicast-prefix" if ![32, 40, 48, 56, 64, 96].contains(&length) => {
            Some("its length must be 32, 40, 48, 56, 64 or 96")
        }
        "unicast-prefix" => None,
        _ if length != 96 => Some("its length must be 96"),
        _ if !prefix.is_multicast() => Some("it is not a multicast prefix"),
        "asm-prefix" if is_ssm => Some("it is in the source-specific range ff3x::/32"),
        "ssm-prefix" if !is_ssm => Some("it is not in the source-specific range ff3x::/32"),
        _ => None,
    }
}

check! { Value(sixrd_prefix_does_not_fit),
    /// a 6rd prefix leaves no room for the IPv4 address, or has bits set below its length
    ///
    /// The bits of the IPv4 address follow the prefix; together they must fit in an IPv6 address.
    static SIXRD_PREFIX_DOES_NOT_FIT = "sixrd-prefix-does-not-fit", Error, Options("v4:212"), "RFC 5969, section 7.1.1";
    Example::Payload("v4:212", "007020010db80000000000000000000000000a400057")
}

fn sixrd_prefix_does_not_fit(one: &OptionValue<'_>) -> Option<Finding> {
    let ipv4 = one.value().field("ipv4-mask-len")?.number()?;
    let prefix = prefix(one, "prefix", "prefix-len")?;
    let length = u64::from(prefix.length());
    let message = match (32 - ipv4) + length > 128 {
        true => format!("{length} bits of prefix and {} of address exceed 128", 32 - ipv4),
        false if has_host_bits(&prefix) => format!("{} has bits set below its length {length}", prefix.address()),
        false => return None,
    };
    let finding = SIXRD_PREFIX_DOES_NOT_FIT.finding(message);
    Some(if has_host_bits(&prefix) { finding.advice(prefix.first().to_string()) } else { finding })
}
