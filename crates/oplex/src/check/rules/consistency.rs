//! Rules about options beside each other in one message.

use smallvec::SmallVec;

use crate::check::context::{MessageContext, Occurrence};
use crate::check::declare::{OptionValue, check, checks, v4_message, v6_message};
use crate::check::firsts::Firsts;
use crate::codebook::{Codebook, Definition};
use crate::family::Protocol;
use crate::finding::{Finding, Findings, Severity};
use crate::layout::{Value, duration_text};
use crate::packet::v4::MessageType;
use crate::packet::{Message as _, v6};

checks! {
    MESSAGE_TIMES_OUT_OF_ORDER, IAID_REPEATED, EXCLUDED_PREFIX_DOES_NOT_FIT, REFRESH_TIME_WITH_ADDRESSES,
    VENDOR_OPTION_REPEATED, TWO_HOST_NAMES, BOOT_OPTIONS_INCOMPLETE, AUTHENTICATION_WITHOUT_CLIENT_ID,
    AUTO_CONFIG_MISPLACED, BULK_REPLY_WITH_OTHER_ADDRESSES, MULTICAST_DOMAIN_REPEATED
}

check! { MessageAndValue(lease_times, has_times, times_of),
    /// T1, T2 and the lease are not in ascending order, or a preferred lifetime exceeds the valid lifetime
    ///
    /// The client loses its address before it renews it, or contacts every server at once.
    static MESSAGE_TIMES_OUT_OF_ORDER = "message-times-out-of-order", Error, Message(V4, V6), "RFC 2131, section 4.4.5";
    v4_message("type = \"ack\"\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n\
     address-time = \"8h\"\nrenewal-time = \"9h\"\n"),
    v6_message("type = \"reply\"\n[options]\nserverid = \"00:03:00:01:00:00:5e:00:53:01\"\n\
        ia-na = { iaid = 1, t1 = \"8h\", t2 = \"4h\", options = {} }\n")
}

fn lease_times(context: &MessageContext<'_>, findings: &mut Findings) {
    if context.protocol() != Protocol::V4 {
        return;
    }
    let times = [58, 59, 51].into_iter().filter_map(|code| Some((code, u32::try_from(context.number(code)?).ok()?)));
    let times: SmallVec<[(u16, u32); 3]> = times.collect();
    for pair in times.windows(2) {
        let [(earlier, first), (later, then)] = *pair else { continue };
        if first >= then && then != u32::MAX {
            let [one, other] = [earlier, later].map(|code| context.label(code));
            let message = format!("{one} ({}) is not below {other} ({})", duration_text(first), duration_text(then));
            let octets = context.option(earlier).map(|place| context.around(place)).unwrap_or_default();
            findings.push(MESSAGE_TIMES_OUT_OF_ORDER.finding(message).on(octets));
        }
    }
}

/// Identity associations with T1 and T2, and those with an identity at least.
const WITH_TIMES: [u16; 3] = [3, 25, 138];
const WITH_LIFETIMES: [u16; 2] = [5, 26];
const WITH_IDENTITY: [u16; 4] = [3, 4, 25, 138];

fn has_times(_: &Codebook, definition: &Definition) -> bool {
    let of_these = WITH_TIMES.contains(&definition.code) || WITH_LIFETIMES.contains(&definition.code);
    of_these && definition.is_own_of(Protocol::V6)
}

fn times_of(one: &OptionValue<'_>) -> Option<Finding> {
    // Where the earlier of the two stands, four octets before the later (RFC 8415, sections 21.4, 21.6, 21.21 and 21.22; RFC 8947,
    // section 11.1).
    let at = match one.definition.code {
        5 => 16,
        26 => 0,
        _ => 4,
    };
    let both = one.octets.get(at..at + 8).and_then(|both| both.first_chunk::<8>());
    let [earlier, later] = both.map(|both| {
        let both = u64::from_be_bytes(*both);
        [(both >> 32) as u32, both as u32]
    })?;
    let is_with_times = WITH_TIMES.contains(&one.definition.code);
    // Of T1 and T2, zero leaves the time to the client.
    if earlier <= later || (is_with_times && (earlier == 0 || later == 0)) {
        return None;
    }
    // What a client says here the server must ignore (RFC 8415, sections 21.4, 21.6, 21.21 and 21.22).
    if one.is_from_client() == Some(true) {
        return None;
    }
    let (names, fields) = match is_with_times {
        true => (("T1", "T2"), ("t1", "t2")),
        false => (("the preferred lifetime", "the valid lifetime"), ("preferred-lifetime", "valid-lifetime")),
    };
    let [shorter, longer] = [later, earlier].map(duration_text);
    let message = format!("{} is {longer}, but {} is {shorter}", names.0, names.1);
    let finding = MESSAGE_TIMES_OUT_OF_ORDER.finding(message).advice(format!("{} up to {shorter}", names.0));
    let rfc = "RFC 8415, sections 21.4, 21.6, 21.21 and 21.22";
    Some(finding.by(rfc).on(one.fields(&[fields.0, fields.1])))
}

check! { Message(iaid_repeated),
    /// two identity associations of one type have the same IAID
    ///
    /// It cannot be determined which of the two a reply belongs to.
    static IAID_REPEATED = "iaid-repeated", Error, Message(V6), "RFC 8415, section 12";
    v6_message("type = \"solicit\"\noptions = [{ clientid = \"00:03:00:01:02:00:5e:00:53:11\", elapsed-time = 0, oro = [23, 82] }, \
         { ia-na = { iaid = 1, t1 = 0, t2 = 0, options = {} } }, { ia-na = { iaid = 1, t1 = 0, t2 = 0, options = {} } }]\n")
}

fn iaid_repeated(context: &MessageContext<'_>, findings: &mut Findings) {
    let mut known = Firsts::new();
    let identity = |place: &&Occurrence<'_>| WITH_IDENTITY.contains(&place.code) && place.is_own_of(Protocol::V6);
    for place in context.options.iter().filter(identity) {
        // It is the first that each of them has.
        let Some(iaid) = place.octets.first_chunk().map(|iaid| u32::from_be_bytes(*iaid)) else { continue };
        if let Some(first) = known.first((place.code, iaid, place.inside), place.around.start) {
            let message = format!("{} has the same IAID {iaid} as the one at octet {first}", context.label(place.code));
            let start = place.around.start + 4;
            findings.push(IAID_REPEATED.finding(message).on(start..start + 4));
        }
    }
}

check! { Value(excluded_prefix_does_not_fit),
    /// an excluded prefix is not longer than the delegated prefix, or has too few or too many octets
    ///
    /// The router cannot determine which prefix to leave out, and uses it on its own networks.
    static EXCLUDED_PREFIX_DOES_NOT_FIT = "excluded-prefix-does-not-fit", Error, Options("v6:67"), "RFC 6603, section 4.2";
    v6_message("type = \"reply\"\n[options]\nserverid = \"00:03:00:01:00:00:5e:00:53:01\"\n\
         ia-pd = { iaid = 1, t1 = \"4h\", t2 = \"6h\", options = { iaprefix = { preferred-lifetime = \"8h\", valid-lifetime = \"12h\", \
         prefix-length = 56, prefix = \"2001:db8:64:100::\", options = { pd-exclude = { prefix-length = 56, subnet-id = \"01\" } } } } }\n")
}

fn excluded_prefix_does_not_fit(one: &OptionValue<'_>) -> Option<Finding> {
    one.outer().filter(|outer| outer.is_own_of(Protocol::V6) && outer.code == 26)?;
    let outer = one.outer_value();
    let length = |value: &Value| value.field("prefix-length")?.number();
    let (outer, length) = (length(outer?)?, length(one.value())?);
    let has = one.octets.len() - 1;
    let needed = (length.saturating_sub(outer) as usize).div_ceil(8);
    let message = if length <= outer {
        format!("a prefix of {length} bits cannot be excluded from one of {outer}")
    } else if has != needed {
        let octets = if needed == 1 { "1 octet" } else { &format!("{needed} octets") };
        format!("a prefix of {length} bits in one of {outer} takes {octets}, but {has} are present")
    } else {
        return None;
    };
    Some(EXCLUDED_PREFIX_DOES_NOT_FIT.finding(message))
}

check! { Message(refresh_time_with_addresses),
    /// a Reply that assigns addresses or prefixes has an Information Refresh Time (32)
    ///
    /// The option is for clients without addresses. Others refresh their settings when they renew, and ignore it.
    static REFRESH_TIME_WITH_ADDRESSES = "refresh-time-with-addresses", Warning, Message(V6), "RFC 8415, section 21.23";
    v6_message("type = \"reply\"\n[options]\nserverid = \"00:03:00:01:00:00:5e:00:53:01\"\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n\
         ia-na = { iaid = 1, t1 = \"4h\", t2 = \"6h\", options = {} }\ninformation-refresh-time = 86400\n")
}

fn refresh_time_with_addresses(context: &MessageContext<'_>, findings: &mut Findings) {
    let refresh = context.option(32).filter(|_| context.is(v6::MessageType::REPLY.0));
    let leases = || WITH_IDENTITY.into_iter().any(|code| context.has(code));
    if let Some(place) = refresh.filter(|_| leases()) {
        let message = "a Reply with an Information Refresh Time assigns addresses or prefixes";
        findings.push(REFRESH_TIME_WITH_ADDRESSES.finding(message).on(context.around(place)));
    }
}

check! { Message(vendor_option_repeated),
    /// two options (16, 17) with the same enterprise number in a DHCPv6 message
    ///
    /// They are not joined, and devices of that vendor read one of them.
    static VENDOR_OPTION_REPEATED = "vendor-option-repeated", Error, Message(V6), "RFC 8415, sections 21.16 and 21.17";
    v6_message("type = \"reply\"\noptions = [{ serverid = \"00:03:00:01:00:00:5e:00:53:01\", vendor-opts = { enterprise = 32473, options = {} } }, \
         { vendor-opts = { enterprise = 32473, options = {} } }]\n")
}

fn vendor_option_repeated(context: &MessageContext<'_>, findings: &mut Findings) {
    if !context.marks.is_repeated {
        return;
    }
    let mut known = Firsts::new();
    for place in context.top().filter(|place| matches!(place.code, 16 | 17)) {
        let value = context.value(place);
        let Some(enterprise) = value.and_then(|value| value.field("enterprise")?.number()) else { continue };
        if let Some(first) = known.first((place.code, enterprise), place.around.start) {
            let label = context.label(place.code);
            let message = format!("{label} of enterprise {enterprise} is repeated; it first occurs at octet {first}");
            findings.push(VENDOR_OPTION_REPEATED.finding(message).on(context.around(place)));
        }
    }
}

check! { Message(two_host_names),
    /// a client sends both an FQDN (81) and a host name (12)
    ///
    /// Servers should ignore the host name then; those that do not register the client twice.
    static TWO_HOST_NAMES = "two-host-names", Error, Message(V4), "RFC 4702, section 3.1";
    v4_message("type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\nhostname = \"dome-3\"\n\
         client-fqdn = { flags = \"s+e\", rcode1 = 0, rcode2 = 0, name = \"dome-3.tarnfell.example.\" }\n")
}

fn two_host_names(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((message, _)) = context.v4() else { return };
    if !context.is_reply()
        && message.has(81)
        && let Some(octets) = context.option(12).map(|place| context.around(place))
    {
        let message = format!("{} is sent along with {}", context.label(12), context.label(81));
        findings.push(TWO_HOST_NAMES.finding(message).on(octets));
    }
}

check! { Message(boot_options_incomplete),
    /// a client that boots from the network sends some of 93, 94 and 97, but not all
    ///
    /// Boot servers choose the file by them, and need all three from each client.
    static BOOT_OPTIONS_INCOMPLETE = "boot-options-incomplete", Warning, Message(V4), "RFC 4578, section 2";
    v4_message("type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\nclient-system = [7]\n")
}

fn boot_options_incomplete(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((message, _)) = context.v4() else { return };
    let codes = [93, 94, 97];
    let Some(first) = codes.into_iter().find_map(|code| context.option(code)) else { return };
    let missing: Vec<String> =
        codes.into_iter().filter(|code| !message.has(*code)).map(|code| context.label(code)).collect();
    if !missing.is_empty() {
        let octets = context.around(first);
        let message = format!("{} {} missing", missing.join(" and "), if missing.len() == 1 { "is" } else { "are" });
        findings.push(BOOT_OPTIONS_INCOMPLETE.finding(message).on(octets));
    }
    // What the boot server sends besides, clients must request (RFC 4578, section 2.4).
    let discovers = context.is(MessageType::DISCOVER.0) || context.is(MessageType::REQUEST.0);
    if let Some(place) = context.option(93).filter(|_| discovers && codes.into_iter().all(|code| message.has(code))) {
        let list = context.option(55);
        let requested = list.map_or(&[][..], |list| &list.octets);
        if let Some(code) = (128..=135).find(|code| !requested.contains(code)) {
            let message =
                format!("a client that boots from the network must request 128 to 135, but {code} is missing");
            let finding = BOOT_OPTIONS_INCOMPLETE.finding(message).by("RFC 4578, section 2.4");
            findings.push(finding.on(context.around(list.unwrap_or(place))));
        }
    }
}

check! { Message(bulk_reply_with_other_addresses),
    /// a reply to a bulk lease query with the client's other addresses (92)
    ///
    /// Each of them has a message of its own there, and requestors would count them twice.
    static BULK_REPLY_WITH_OTHER_ADDRESSES = "bulk-reply-with-other-addresses", Error, Message(V4), "RFC 6926, section 5";
    v4_message("type = \"leaseactive\"\nop = 2\nciaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\ngiaddr = \"10.64.4.1\"\n[options]\n\
        dhcp-server-id = \"10.64.0.67\"\nbase-time = 1\nassociated-ip = [\"10.64.4.21\"]\n")
}

fn bulk_reply_with_other_addresses(context: &MessageContext<'_>, findings: &mut Findings) {
    // Only a bulk reply says when it was made (152).
    if context.v4().is_none() || !context.is(MessageType::LEASEACTIVE.0) || !context.has(152) {
        return;
    }
    if let Some(place) = context.option(92) {
        let message = format!("{} is in a reply to a bulk lease query", context.label(92));
        findings.push(BULK_REPLY_WITH_OTHER_ADDRESSES.finding(message).on(context.around(place)));
    }
}

check! { Message(multicast_domain_repeated),
    /// two options (104) about the same multicast domain, or two about all the others
    ///
    /// A node cannot say which of the two counts, and takes part in neither.
    static MULTICAST_DOMAIN_REPEATED = "multicast-domain-repeated", Error, Message(V6), "RFC 7774, section 2.3";
    v6_message("type = \"reply\"\noptions = [{ serverid = \"00:03:00:01:00:00:5e:00:53:01\" }, \
        { mpl-parameters = { hex = \"8014001e01000a0a000301000a0a000a\" } }, { mpl-parameters = { hex = \"8014001e01000a0a000301000a0a000a\" } }]\n")
}

fn multicast_domain_repeated(context: &MessageContext<'_>, findings: &mut Findings) {
    if !context.marks.is_repeated {
        return;
    }
    let mut known = Firsts::new();
    for place in context.top().filter(|place| place.is(Protocol::V6, 104)) {
        let domain = place.octets.get(16..).filter(|domain| !domain.is_empty());
        if let Some(first) = known.first(domain, place.around.start) {
            let label = context.label(104);
            let message = format!("{label} is about the same domain as the one at octet {first}");
            findings.push(MULTICAST_DOMAIN_REPEATED.finding(message).on(context.around(place)));
        }
    }
}

check! { Message(authentication_without_client_id),
    /// a client sends authentication (90) without a client identifier (61)
    ///
    /// The server selects the key by the client identifier, and can verify nothing without it.
    static AUTHENTICATION_WITHOUT_CLIENT_ID = "authentication-without-client-id", Error, Message(V4),
        "RFC 3118, section 5.5.1";
    v4_message("type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\n\
         authentication = { hex = \"0101000000000000000001\" }\n")
}

fn authentication_without_client_id(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((message, _)) = context.v4().filter(|_| context.has(90)) else { return };
    let delayed = message.option(90).filter(|option| option.joined().first() == Some(&1));
    if let Some(option) = delayed.filter(|_| context.is(MessageType::DISCOVER.0) && !message.has(61)) {
        let message = format!("{} without {}", context.label(90), context.label(61));
        findings.push(AUTHENTICATION_WITHOUT_CLIENT_ID.finding(message).on(option.around()));
    }
}

check! { Message(auto_config_misplaced),
    /// an offer with an address has the auto-configuration option (116)
    ///
    /// The option applies only to an offer without an address, and clients ignore it here.
    static AUTO_CONFIG_MISPLACED = "auto-config-misplaced", Warning, Message(V4), "RFC 2563, section 2.3";
    v4_message("type = \"offer\"\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n\
         address-time = \"8h\"\nauto-config = \"do-not-auto-configure\"\n")
}

fn auto_config_misplaced(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((_message, header)) = context.v4() else { return };
    let leases = context.is(MessageType::OFFER.0) && !header.yiaddr.is_unspecified();
    let configures = context.is(MessageType::OFFER.0) && !leases && context.number(116) == Some(1);
    if let Some(place) = context.option(116).filter(|_| configures) {
        let message = format!("{} is 1 in an offer without an address; it must be 0", context.label(116));
        let finding = AUTO_CONFIG_MISPLACED.finding(message).as_severity(Severity::Error);
        findings.push(finding.on(context.around(place)));
    }
    if let Some(octets) = context.option(116).map(|place| context.around(place)).filter(|_| leases) {
        let message = format!("{} is sent along with address {}", context.label(116), header.yiaddr);
        findings.push(AUTO_CONFIG_MISPLACED.finding(message).on(octets));
    }
}
