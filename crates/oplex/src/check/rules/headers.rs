//! Rules about headers.

use std::net::Ipv4Addr;

use crate::check::context::MessageContext;
use crate::check::declare::{check, checks, v4_message, v6_message};
use crate::finding::{Finding, Findings};
use crate::octets::hex;
use crate::packet::Message as _;
use crate::packet::v4::{Header, MessageType};
use crate::packet::v6::{self, MOST_HOPS};

/// Where things stand in the header of DHCPv4 (RFC 2131, section 2).
const OP: usize = 0;
const HLEN: usize = 2;
const HOPS: usize = 3;
const SECS: usize = 8;
const FLAGS: usize = 10;
const CHADDR: usize = 28;

/// Where the header's addresses stand.
const ADDRESSES: [(&str, usize); 4] = [("ciaddr", 12), ("yiaddr", 16), ("siaddr", 20), ("giaddr", 24)];

/// The header's address of this name.
fn address(header: &Header, name: &str) -> Ipv4Addr {
    match name {
        "ciaddr" => header.ciaddr,
        "yiaddr" => header.yiaddr,
        "siaddr" => header.siaddr,
        _ => header.giaddr,
    }
}

checks! {
    OP_WRONG, HARDWARE_ADDRESS_LENGTH_WRONG, HARDWARE_ADDRESS_PADDING_NOT_ZERO, HEADER_FLAGS_RESERVED,
    HARDWARE_ADDRESS_NOT_ZERO, HOP_COUNT_TOO_LARGE, HEADER_FIELD_NOT_ZERO, HEADER_ADDRESS_MISSING, HEADER_TEXT_WITHOUT_NUL, BOOT_FIELDS_DIFFER,
    RECONFIGURE_WITH_TRANSACTION
}

check! { Message(op_wrong),
    /// the header's op is neither request nor reply, or does not match the message type
    ///
    /// Relay agents and clients dispatch on it, so this message goes the wrong way or nowhere.
    static OP_WRONG = "op-wrong", Error, Message(V4), "RFC 2131, section 2";
    v4_message("type = \"discover\"\nop = 2\nchaddr = \"02:00:5e:00:53:11\"\n")
}

fn op_wrong(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((_, header)) = context.v4() else { return };
    let op = header.op;
    let wanted = context.v4_type().and_then(MessageType::is_reply).map(|reply| if reply { 2 } else { 1 });
    let finding = match wanted {
        _ if !matches!(op, 1 | 2) => OP_WRONG.finding(format!("op is {op}")).advice("1 (request) or 2 (reply)"),
        Some(wanted) if op != wanted => {
            OP_WRONG.finding(format!("op is {op} in {}", context.called())).advice(wanted.to_string())
        }
        _ => return,
    };
    findings.push(finding.on(OP..OP + 1));
}

check! { Message(hardware_address_length_wrong),
    /// the hardware address length does not match the hardware type
    ///
    /// Servers identify the client by that many octets, so it gets another client's lease, or none.
    static HARDWARE_ADDRESS_LENGTH_WRONG = "hardware-address-length-wrong", Error, Message(V4), "RFC 2131, section 2";
    v4_message("type = \"discover\"\nhlen = 16\nchaddr = \"02:00:5e:00:53:11\"\n")
}

fn hardware_address_length_wrong(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((_, header)) = context.v4() else { return };
    let Some((wanted, rfc)) = header.other_hlen() else { return };
    let &Header { htype, hlen, .. } = header;
    let finding = HARDWARE_ADDRESS_LENGTH_WRONG.finding(format!("hlen is {hlen}, but hardware type is {htype}"));
    let at_most = if matches!(htype, 1 | 24 | 32) { "" } else { " at most" };
    findings.push(finding.by(rfc).on(HLEN..HLEN + 1).advice(format!("{wanted}{at_most}")));
}

check! { Message(hardware_address_padding_not_zero),
    /// octets after the end of the hardware address are not zero
    ///
    /// No RFC requires zeros, but a server that compares all sixteen octets sees a different client.
    static HARDWARE_ADDRESS_PADDING_NOT_ZERO = "hardware-address-padding-not-zero", Note, Message(V4),
        "RFC 2131, section 2";
    v4_message("type = \"discover\"\nchaddr = \"02:00:5e:00:53:11:ff\"\n")
}

fn hardware_address_padding_not_zero(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((_, header)) = context.v4() else { return };
    let length = header.hardware().len();
    let rest = &header.chaddr[length..];
    if let Some(first) = rest.iter().position(|octet| *octet != 0) {
        let shown = hex::colon(&rest[first..]);
        let finding = HARDWARE_ADDRESS_PADDING_NOT_ZERO.finding(format!("the hardware address is followed by {shown}"));
        findings.push(finding.on(CHADDR + length + first..CHADDR + 16));
    }
}

check! { Message(hardware_address_not_zero),
    /// a hardware address in the header of a client on InfiniBand, or one whose identifier is not made of a DUID
    ///
    /// Its addresses have 20 octets, and the header has room for 16: only the client identifier distinguishes such clients.
    static HARDWARE_ADDRESS_NOT_ZERO = "hardware-address-not-zero", Error, Message(V4), "RFC 4390, section 2.1";
    v4_message("type = \"discover\"\nhtype = 32\nhlen = 0\nflags = 0x8000\n[options]\n\
        client-id = { type = 0, id = \"00:01:02\" }\n")
}

fn hardware_address_not_zero(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((_, header)) = context.v4().filter(|(_, header)| header.htype == 32) else { return };
    if header.chaddr != [0; 16] {
        let finding = HARDWARE_ADDRESS_NOT_ZERO.finding("chaddr is not zero, but the hardware type is 32 (InfiniBand)");
        findings.push(finding.on(CHADDR..CHADDR + 16));
    }
    let id = context.option(61).filter(|place| place.octets.first() != Some(&255));
    if let Some(place) = id {
        let message = format!("{} is not of type 255 (an IAID and a DUID)", context.label(61));
        findings.push(HARDWARE_ADDRESS_NOT_ZERO.finding(message).on(context.around(place)));
    }
}

check! { Message(header_flags_reserved),
    /// a reserved bit of the header's flags is set
    ///
    /// Clients must leave these bits zero, and servers and relay agents ignore them.
    static HEADER_FLAGS_RESERVED = "header-flags-reserved", Warning, Message(V4), "RFC 2131, section 2";
    v4_message("type = \"discover\"\nflags = 0x8001\nchaddr = \"02:00:5e:00:53:11\"\n")
}

fn header_flags_reserved(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((_, header)) = context.v4() else { return };
    let odd = header.flags & !Header::BROADCAST;
    if odd != 0 {
        let finding = HEADER_FLAGS_RESERVED.finding(format!("reserved flags {odd:#06x} are set"));
        findings.push(finding.on(FLAGS..FLAGS + 2).advice("0x8000 (broadcast) or 0"));
    }
}

check! { Message(hop_count_too_large),
    /// the hop count exceeds 16 (DHCPv4) or 8 (DHCPv6)
    ///
    /// The message is in a loop, or the network is too deep; relay agents must drop it.
    static HOP_COUNT_TOO_LARGE = "hop-count-too-large", Error, Message(V4, V6), "RFC 1542, section 4.1.1";
    v4_message("type = \"discover\"\nhops = 17\nchaddr = \"02:00:5e:00:53:11\"\n"),
    v6_message("type = \"relay-forward\"\nhops = 9\nlink = \"2001:db8:64:10::1\"\npeer = \"fe80::1\"\n[message]\ntype = \"information-request\"\n\
     options = { elapsed-time = 0, oro = [23, 32, 83] }\n")
}

fn hop_count_too_large(context: &MessageContext<'_>, findings: &mut Findings) {
    let hops = context.v4().map(|(_, header)| (header.hops, 16, HOPS, "RFC 1542, section 4.1.1"));
    let relayed = context.v6().filter(|message| message.message_type() == v6::MessageType::RELAY_FORWARD);
    let relay = relayed.and_then(|message| message.relay());
    let hops = hops.or_else(|| Some((relay?.hops, MOST_HOPS, 1, "RFC 8415, section 19.1.2")));
    if let Some((hops, most, at, rfc)) = hops.filter(|(hops, most, ..)| hops > most) {
        let finding = HOP_COUNT_TOO_LARGE.finding(format!("hop count {hops} exceeds {most}"));
        findings.push(finding.by(rfc).on(at..at + 1));
    }
}

check! { Message(header_field_not_zero),
    /// a header field is set in a message that leaves it zero
    ///
    /// Receivers should ignore it. Some do not, and act on an address that was never assigned.
    static HEADER_FIELD_NOT_ZERO = "header-field-not-zero", Warning, Message(V4), "RFC 2131, section 4.4.1, table 5";
    v4_message("type = \"discover\"\nciaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n")
}

fn header_field_not_zero(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((_, header)) = context.v4() else { return };
    let Some(message_type) = context.v4_type() else { return };
    let (zero, rfc): (&[&str], &str) = match message_type {
        MessageType::DISCOVER => (&["ciaddr", "yiaddr", "siaddr"], "RFC 2131, section 4.4.1, table 5"),
        MessageType::DECLINE => (&["ciaddr", "yiaddr", "siaddr", "secs", "flags"], "RFC 2131, section 4.4.1, table 5"),
        MessageType::RELEASE => (&["yiaddr", "siaddr", "secs", "flags"], "RFC 2131, section 4.4.1, table 5"),
        MessageType::REQUEST | MessageType::INFORM => (&["yiaddr", "siaddr"], "RFC 2131, section 4.4.1, table 5"),
        MessageType::OFFER => (&["ciaddr", "secs", "hops"], "RFC 2131, section 4.3.1, table 3"),
        MessageType::ACK => (&["secs", "hops"], "RFC 2131, section 4.3.1, table 3"),
        MessageType::NAK => (&["ciaddr", "yiaddr", "siaddr", "secs", "hops"], "RFC 2131, section 4.3.1, table 3"),
        _ => return,
    };
    for name in zero {
        findings.extend(not_zero(context, header, name).map(|finding| finding.by(rfc)));
    }
}

fn not_zero(context: &MessageContext<'_>, header: &Header, name: &str) -> Option<Finding> {
    let Header { secs, hops, .. } = *header;
    let (shown, octets) = match name {
        "secs" if secs != 0 => (secs.to_string(), SECS..SECS + 2),
        "hops" if hops != 0 => (hops.to_string(), HOPS..HOPS + 1),
        "flags" if header.flags & Header::BROADCAST != 0 => ("broadcast".to_owned(), FLAGS..FLAGS + 2),
        "secs" | "hops" | "flags" => return None,
        _ => {
            let (_, at) = ADDRESSES.into_iter().find(|(known, _)| *known == name)?;
            let address = address(header, name);
            (!address.is_unspecified()).then(|| (address.to_string(), at..at + 4))?
        }
    };
    Some(HEADER_FIELD_NOT_ZERO.finding(format!("{name} is {shown} in {}", context.called())).on(octets))
}

check! { Message(header_address_missing),
    /// the address that a message is about is missing from its header
    ///
    /// An offer without an address offers nothing, and a release without one releases nothing.
    static HEADER_ADDRESS_MISSING = "header-address-missing", Error, Message(V4), "RFC 2131, section 4.3.1, table 3";
    v4_message("type = \"offer\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n\
        address-time = \"8h\"\n")
}

fn header_address_missing(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((message, header)) = context.v4() else { return };
    let zero = |name| address(header, name).is_unspecified();
    // Without an address come only the offers of RFC 2563, section 2.3, RFC 8925, section 3.3 and RFC 6656,
    // section 4.2. An acknowledgement of an information request names the client's own address or none.
    let may_be_absent = [116, 108, 220].iter().any(|code| message.has(*code));
    let (name, rfc) = match context.v4_type() {
        Some(MessageType::OFFER) if zero("yiaddr") && !may_be_absent => ("yiaddr", "RFC 2131, section 4.3.1, table 3"),
        Some(MessageType::ACK) if zero("yiaddr") && message.has(51) && !may_be_absent => {
            ("yiaddr", "RFC 2131, section 4.3.1, table 3")
        }
        Some(MessageType::RELEASE | MessageType::INFORM) if zero("ciaddr") => {
            ("ciaddr", "RFC 2131, section 4.4.1, table 5")
        }
        Some(MessageType::LEASEQUERY) if zero("giaddr") => ("giaddr", "RFC 4388, section 6.3"),
        Some(MessageType::LEASEACTIVE | MessageType::LEASEUNASSIGNED) if zero("ciaddr") => {
            ("ciaddr", "RFC 4388, section 6.4.1")
        }
        _ => return,
    };
    let at = ADDRESSES.iter().find(|(known, _)| *known == name).map_or(0, |(_, at)| *at);
    let finding = HEADER_ADDRESS_MISSING.finding(format!("{} has no {name}", context.called()));
    findings.push(finding.by(rfc).on(at..at + 4));
}

check! { Message(header_text_without_nul),
    /// `sname` or `file` holds text up to its last octet, without a NUL
    ///
    /// Receivers that look for the NUL read on into the next field.
    static HEADER_TEXT_WITHOUT_NUL = "header-text-without-nul", Warning, Message(V4), "RFC 2131, section 2";
    v4_message("type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\nsname = { hex = \"61616161616161616161616161616161616161616161616161616161616161616161\
         616161616161616161616161616161616161616161616161616161616161\" }\n")
}

fn header_text_without_nul(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((message, _)) = context.v4() else { return };
    let bits = context.overload();
    for (bit, name, octets, at) in [(1, "file", message.file(), 108), (2, "sname", message.sname(), 44)] {
        if bits & bit == 0 && !octets.contains(&0) {
            let finding = HEADER_TEXT_WITHOUT_NUL.finding(format!("`{name}` has no terminating NUL"));
            findings.push(finding.on(at..at + octets.len()));
        }
    }
}

check! { Message(boot_fields_differ),
    /// a header field names a different boot server or file than its option (66, 67)
    ///
    /// The options are for messages whose header fields hold options. Some devices read the field, some the option.
    static BOOT_FIELDS_DIFFER = "boot-fields-differ", Warning, Message(V4), "RFC 2132, sections 9.4 and 9.5";
    v4_message("type = \"offer\"\nchaddr = \"02:00:5e:00:53:11\"\nyiaddr = \"10.64.4.20\"\nfile = \"domes/old.efi\"\n[options]\n\
         dhcp-server-id = \"10.64.0.67\"\naddress-time = \"8h\"\nbootfile-name = \"domes/controller.efi\"\n")
}

fn boot_fields_differ(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((message, _)) = context.v4() else { return };
    let bits = context.overload();
    for (bit, name, octets, at, code) in [(1, "file", message.file(), 108, 67), (2, "sname", message.sname(), 44, 66)] {
        let field = octets.split(|octet| *octet == 0).next().unwrap_or_default();
        let place = context.option(code).filter(|_| bits & bit == 0 && !field.is_empty());
        let Some(option) = place.map(|place| &place.octets) else { continue };
        let end = option.iter().rposition(|octet| *octet != 0).map_or(0, |last| last + 1);
        if option[..end] != *field {
            let [field, option] = [field, &option[..end]].map(|text| String::from_utf8_lossy(text).into_owned());
            let message = format!("`{name}` is `{field}`, but option {code} is `{option}`");
            findings.push(BOOT_FIELDS_DIFFER.finding(message).on(at..at + octets.len()));
        }
    }
}

check! { Message(reconfigure_with_transaction),
    /// a Reconfigure has a transaction ID
    ///
    /// It is not part of a transaction, so the ID is zero. Clients ignore it, but it misleads readers of captures.
    static RECONFIGURE_WITH_TRANSACTION = "reconfigure-with-transaction", Warning, Message(V6),
        "RFC 8415, section 18.3.11";
    v6_message("type = \"reconfigure\"\ntransaction = 7\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n\
         serverid = \"00:03:00:01:00:00:5e:00:53:01\"\nreconf-msg = \"renew\"\n\
         auth = { protocol = \"reconfigure-key\", algorithm = 1, rdm = 0, replay-detection = 7, information = { type = \"hmac-md5\", value = \"000102030405060708090a0b0c0d0e0f\" } }\n")
}

fn reconfigure_with_transaction(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(message) = context.v6() else { return };
    let transaction =
        message.transaction().filter(|_| message.message_type() == v6::MessageType::RECONFIGURE).unwrap_or(0);
    if transaction != 0 {
        let message = format!("the transaction ID is {transaction:#08x}");
        findings.push(RECONFIGURE_WITH_TRANSACTION.finding(message).advice("0x000000").on(1..4));
    }
}
