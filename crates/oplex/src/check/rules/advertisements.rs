//! Rules about router advertisements and solicitations: the packet, the header, and what options say together.

use std::net::Ipv6Addr;

use crate::check::context::{MessageContext, Occurrence};
use crate::check::declare::{check, checks, ra_message};
use crate::check::firsts::Firsts;
use crate::family::Net;
use crate::finding::{Findings, Severity};
use crate::layout::Value;
use crate::packet::Message as _;
use crate::packet::ra::{HOP_LIMIT, Preference, checksum};

checks! {
    RA_HEADER_FLAGS_RESERVED, RA_HOP_LIMIT_NOT_255, RA_SOURCE_NOT_LINK_LOCAL, RA_CHECKSUM_WRONG, RA_CODE_NOT_ZERO, RA_PREFERENCE_INVALID,
    RA_REACHABLE_TIME_TOO_LONG, RA_PREFIX_REPEATED, RA_ADDRESSES_BY_BOTH, RA_ADDRESSES_BY_NONE
}

check! { Message(ra_header_flags_reserved),
    /// a reserved flag in the header of an advertisement is set
    ///
    /// Routers must leave them zero, and hosts ignore them.
    static RA_HEADER_FLAGS_RESERVED = "ra-header-flags-reserved", Error, Message(Ra), "RFC 4861, section 4.2";
    ra_message("managed = true\nunused = 1\n")
}

fn ra_header_flags_reserved(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(message) = context.ra().filter(|message| message.advertisement().is_some()) else { return };
    // M, O, the home agent (RFC 6275), two bits of preference (RFC 4191) and the proxy (RFC 4389).
    let reserved = message.octets().get(5).map_or(0, |flags| flags & 0x03);
    if reserved != 0 {
        let finding = RA_HEADER_FLAGS_RESERVED.finding(format!("reserved flags {reserved:#04x} are set")).borne();
        findings.push(finding.on(context.at(5..6)));
    }
}

check! { Message(ra_hop_limit_not_255),
    /// an advertisement or solicitation whose hop limit is not 255
    ///
    /// Receivers drop it: it may come from beyond the link.
    static RA_HOP_LIMIT_NOT_255 = "ra-hop-limit-not-255", Error, Message(Ra), "RFC 4861, section 6.1.2";
    ra_message("managed = true\nsource = \"fe80::1\"\nip-hop-limit = 64\n")
}

fn ra_hop_limit_not_255(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(message) = context.ra() else { return };
    if let Some(packet) = message.packet().filter(|packet| packet.hop_limit != HOP_LIMIT) {
        let message = format!("hop limit is {}; receivers accept only 255", packet.hop_limit);
        findings.push(RA_HOP_LIMIT_NOT_255.finding(message).advice("255").on(7..8));
    }
}

check! { Message(ra_source_not_link_local),
    /// an advertisement from an address that is not link-local
    ///
    /// Hosts drop it, as they know routers by their link-local addresses.
    static RA_SOURCE_NOT_LINK_LOCAL = "ra-source-not-link-local", Error, Message(Ra), "RFC 4861, section 6.1.2";
    ra_message("managed = true\nsource = \"2001:db8:64:10::1\"\n")
}

fn ra_source_not_link_local(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(message) = context.ra() else { return };
    // A host may ask before it has an address (RFC 4861, section 4.1).
    let Some(packet) = message.packet().filter(|_| message.advertisement().is_some()) else { return };
    if !packet.ends.source.is_unicast_link_local() {
        let message = format!("source address {} is not link-local", packet.ends.source);
        let finding = RA_SOURCE_NOT_LINK_LOCAL.finding(message).on(8..24);
        findings.push(finding.advice("the router's own address in fe80::/10"));
    }
}

check! { Message(ra_checksum_wrong),
    /// the checksum of an advertisement or solicitation is wrong
    ///
    /// Receivers drop it. In a capture on the sending machine it may only mean that the network card computes it later.
    static RA_CHECKSUM_WRONG = "ra-checksum-wrong", Error, Message(Ra), "RFC 4443, section 2.3";
    ra_message("managed = true\nsource = \"fe80::1\"\nchecksum = 1\n")
}

fn ra_checksum_wrong(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(message) = context.ra() else { return };
    let Some(packet) = message.packet() else { return };
    let (has, right) = (message.checksum(), checksum(packet.ends, message.octets()));
    if has != right {
        let finding = RA_CHECKSUM_WRONG.finding(format!("checksum is {has:#06x}, expected {right:#06x}"));
        findings.push(finding.advice(format!("{right:#06x}")).on(context.at(2..4)));
    }
}

check! { Message(ra_code_not_zero),
    /// an advertisement or solicitation with an ICMPv6 code other than 0
    ///
    /// Receivers drop it.
    static RA_CODE_NOT_ZERO = "ra-code-not-zero", Error, Message(Ra), "RFC 4861, section 6.1.2";
    ra_message("managed = true\ncode = 1\n")
}

fn ra_code_not_zero(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(message) = context.ra() else { return };
    if message.code() != 0 {
        let message = format!("ICMPv6 code is {}, expected 0", message.code());
        findings.push(RA_CODE_NOT_ZERO.finding(message).advice("0").on(context.at(1..2)));
    }
}

check! { Message(ra_preference_invalid),
    /// a router's preference is reserved, or is not medium although its lifetime is 0
    ///
    /// Hosts treat it as medium; a router with lifetime 0 is no default router.
    static RA_PREFERENCE_INVALID = "ra-preference-invalid", Error, Message(Ra), "RFC 4191, section 2.2";
    ra_message("managed = true\npreference = \"high\"\nlifetime = 0\n")
}

fn ra_preference_invalid(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(message) = context.ra() else { return };
    let Some(said) = message.advertisement() else { return };
    let message = match said.preference {
        Preference::Reserved => "preference 10 is reserved".to_owned(),
        Preference::High | Preference::Low if said.router_lifetime == 0 => {
            format!("the preference is {}, but the router lifetime is 0", said.preference.name())
        }
        _ => return,
    };
    findings.push(RA_PREFERENCE_INVALID.finding(message).advice("medium").on(context.at(5..6)));
}

check! { Message(ra_reachable_time_too_long),
    /// the reachable time of an advertisement exceeds one hour
    ///
    /// Packets are sent to a neighbour that is gone for all that time. The field counts milliseconds.
    static RA_REACHABLE_TIME_TOO_LONG = "ra-reachable-time-too-long", Error, Message(Ra), "RFC 4861, section 6.2.1";
    ra_message("managed = true\nreachable = 7200000\n")
}

fn ra_reachable_time_too_long(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(message) = context.ra() else { return };
    let reachable = message.advertisement().map_or(0, |said| said.reachable_time);
    if reachable > 3_600_000 {
        let finding =
            RA_REACHABLE_TIME_TOO_LONG.finding(format!("reachable time {reachable} ms exceeds 3600000 ms (one hour)"));
        findings.push(finding.on(context.at(8..12)));
    }
}

check! { Message(ra_prefix_repeated),
    /// an advertisement has two options for the same prefix, or two routes to it
    ///
    /// The lifetimes and flags of the second may or may not replace those of the first.
    static RA_PREFIX_REPEATED = "ra-prefix-repeated", Error, Message(Ra), "RFC 4191, section 2.3";
    ra_message("managed = true\n[[options]]\nroute-information = { length = 48, preference = \"high\", lifetime = \"30m\", prefix = \"2001:db8:64::\" }\n\
         [[options]]\nroute-information = { length = 48, preference = \"low\", lifetime = \"30m\", prefix = \"2001:db8:64::\" }\n")
}

fn ra_prefix_repeated(context: &MessageContext<'_>, findings: &mut Findings) {
    if !context.marks.is_repeated {
        return;
    }
    for (code, what) in [(3, "prefix"), (24, "route")] {
        let mut known: Firsts<Net<Ipv6Addr>, ()> = Firsts::new();
        for place in context.top().filter(|place| place.code == code) {
            let Some(net) = context.value(place).and_then(prefix) else { continue };
            if known.first(net, ()).is_some() {
                let finding = RA_PREFIX_REPEATED.finding(format!("duplicate {what} {net}")).on(context.around(place));
                // RFC 4861 does not forbid it for prefixes, and hosts take the last.
                findings.push(if code == 3 {
                    finding.as_severity(Severity::Warning).by("RFC 4861, section 6.3.4")
                } else {
                    finding
                });
            }
        }
    }
}

/// The prefix that an option is about.
fn prefix(value: &Value) -> Option<Net<Ipv6Addr>> {
    let Value::Ipv6(address) = value.field("prefix")? else { return None };
    Net::new(*address, u8::try_from(value.field("length")?.number()?).ok()?)
}

check! { Message(ra_addresses_by_both),
    /// hosts get addresses by DHCPv6, and also form addresses of an autonomous prefix
    ///
    /// Each host then has several addresses. Often this is intended; if only leased addresses should be used, the
    /// prefix must not be autonomous.
    static RA_ADDRESSES_BY_BOTH = "ra-addresses-by-both", Note, Message(Ra), "RFC 4861, section 4.2";
    ra_message("managed = true\n[options]\n\
        prefix-information = { length = 64, flags = \"on-link+autonomous\", valid = \"30d\", preferred = \"7d\", prefix = \"2001:db8:64:10::\" }\n")
}

fn ra_addresses_by_both(context: &MessageContext<'_>, findings: &mut Findings) {
    let managed = context.ra().and_then(|message| message.advertisement()).is_some_and(|said| said.managed);
    let autonomous = context.top().find(|place| is_autonomous(place));
    if let Some(place) = autonomous.filter(|_| managed) {
        let message = "M is set, and the prefix is autonomous";
        findings.push(RA_ADDRESSES_BY_BOTH.finding(message).on(context.around(place)));
    }
}

/// Whether hosts form addresses of the prefix that this option advertises.
fn is_autonomous(place: &Occurrence<'_>) -> bool {
    // The flags are the second octet (RFC 4861, section 4.6.2).
    place.code == 3 && place.octets.get(1).is_some_and(|flags| flags & 0x40 != 0)
}

check! { Message(ra_addresses_by_none),
    /// the managed flag is not set, and no prefix is autonomous
    ///
    /// Hosts keep only their link-local addresses, and reach nothing beyond the link.
    static RA_ADDRESSES_BY_NONE = "ra-addresses-by-none", Warning, Message(Ra), "RFC 4861, section 4.2";
    ra_message("other = true\n")
}

fn ra_addresses_by_none(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(said) = context.ra().and_then(|message| message.advertisement()) else { return };
    let autonomous = context.top().any(is_autonomous);
    // Without a default router it may only add to what another advertises.
    if !said.managed && !autonomous && said.router_lifetime > 0 {
        let message = "M is not set and no prefix is autonomous, so hosts get no address";
        let finding = RA_ADDRESSES_BY_NONE.finding(message).on(context.at(5..6));
        findings.push(finding.advice("an autonomous prefix, or M with a DHCPv6 pool"));
    }
}
