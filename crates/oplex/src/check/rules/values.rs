//! Rules about numbers and lists, and about parts of an option that must go together.

use crate::check::declare::{AtomSeen, OptionValue, check, checks, v6_message};
use crate::family::Protocol;
use crate::finding::{Example, Finding, Severity};
use crate::layout::{Atom, Scalar, ScalarForm, Value};

checks! {
    IPV6_ONLY_WAIT_TOO_SHORT, BOOT_MAGIC_WRONG, DUID_MALFORMED, FQDN_FLAGS_CONTRADICT,
    MTU_PLATEAU_OUT_OF_ORDER, ISNS_FLAGS_CONTRADICT, NWIP_FIRST_SUB_OPTION_WRONG, REQUEST_LIST_INCONSISTENT,
    PSID_TOO_WIDE, QUADRANT_REPEATED, RA_FLAGS_RESERVED, RA_PADDING_TOO_LONG, AUTHENTICATION_INCONSISTENT, AUTHENTICATION_MISPLACED, RA_LIFETIMES_OUT_OF_ORDER, RA_LIFETIME_ZERO
}

check! { Value(ipv6_only_wait_too_short),
    /// the IPv6-only wait time is below 300 seconds
    ///
    /// Clients use 300 seconds instead, whatever is sent.
    static IPV6_ONLY_WAIT_TOO_SHORT = "ipv6-only-wait-too-short", Error, Options("v4:108"), "RFC 8925, section 3.4";
    Example::Payload("v4:108", "0000003c")
}

fn ipv6_only_wait_too_short(one: &OptionValue<'_>) -> Option<Finding> {
    match one.value() {
        Value::Number(wait @ 1..300) => {
            let finding = IPV6_ONLY_WAIT_TOO_SHORT.finding(format!("{wait} seconds is below the minimum of 300"));
            Some(finding.advice("300 or more; 1800 is usual, and 0 leaves it to the client"))
        }
        _ => None,
    }
}

check! { Value(boot_magic_wrong),
    /// option 208 does not hold its fixed value
    ///
    /// Boot loaders then ignore it, and older ones also ignore options 209 to 211.
    static BOOT_MAGIC_WRONG = "boot-magic-wrong", Error, Options("v4:208"), "RFC 5071, section 3.2";
    Example::Payload("v4:208", "f100747f")
}

fn boot_magic_wrong(one: &OptionValue<'_>) -> Option<Finding> {
    match one.value() {
        Value::Bytes(octets) if octets[..] != [0xf1, 0, 0x74, 0x7e] => {
            Some(BOOT_MAGIC_WRONG.finding("this is not the magic number f1:00:74:7e").advice("f1:00:74:7e"))
        }
        _ => None,
    }
}

check! { Atom(duid_malformed),
    /// a DUID does not have the form of its type
    ///
    /// It still distinguishes machines as an opaque value; software that looks for a hardware address in it finds none.
    static DUID_MALFORMED = "duid-malformed", Warning, Atoms("duid"), "RFC 8415, section 11";
    Example::Payload("v6:1", "0003000102005e")
}

fn duid_malformed(atom: &AtomSeen<'_>) -> Option<Finding> {
    let (ScalarForm::Atom(Atom::Duid), Scalar::Bytes(octets)) = (atom.form, atom.scalar) else { return None };
    let (kind, rest) = (u16::from_be_bytes([*octets.first()?, *octets.get(1)?]), octets.len() - 2);
    let ethernet = octets.get(2..4) == Some(&[0, 1]);
    // A hardware type and a time, an enterprise number, a hardware type; RFC 6355, section 4 for the UUID.
    let (name, wanted, fits) = match kind {
        1 if ethernet => ("by hardware address and time", "12 on Ethernet", rest == 12),
        1 => ("by hardware address and time", "7 or more", rest > 6),
        2 => ("by enterprise number", "5 or more", rest > 4),
        3 if ethernet => ("by hardware address", "8 on Ethernet", rest == 8),
        3 => ("by hardware address", "3 or more", rest > 2),
        4 => ("by UUID", "16", rest == 16),
        _ => return None,
    };
    (!fits).then(|| {
        DUID_MALFORMED.finding(format!("a DUID {name} has {wanted} octets after its type, this one has {rest}"))
    })
}

check! { Value(fqdn_flags_contradict),
    /// the flags of a client FQDN option contradict each other
    ///
    /// N says that the server does not update DNS, S that it does. Servers differ in which flag they follow.
    static FQDN_FLAGS_CONTRADICT = "fqdn-flags-contradict", Error, Options("v4:81", "v6:39"), "RFC 4702, section 2.1";
    Example::Payload("v4:81", "0d000004646f6d6500")
}

fn fqdn_flags_contradict(one: &OptionValue<'_>) -> Option<Finding> {
    let flags = one.value().field("flags")?;
    let is_v4 = one.is("v4:81");
    if flags.flag("n") && flags.flag("s") {
        let finding = FQDN_FLAGS_CONTRADICT.finding("the flags n and s exclude each other");
        return Some(if is_v4 { finding } else { finding.by("RFC 4704, section 4.1") });
    }
    if flags.flag("o") && one.is_from_client() == Some(true) {
        let finding = FQDN_FLAGS_CONTRADICT.finding("a client must not set the flag o");
        return Some(if is_v4 { finding } else { finding.by("RFC 4704, section 4.1") });
    }
    (is_v4 && !flags.flag("e")).then(|| {
        let finding = FQDN_FLAGS_CONTRADICT.finding("the name is ASCII text, which is deprecated");
        finding.as_severity(Severity::Warning).advice("the flag e, and the name in wire format")
    })
}

check! { Value(mtu_plateau_out_of_order),
    /// the path MTU plateau sizes are not in ascending order
    ///
    /// Clients go through them in order; out of order, they stop at a size that is too small.
    static MTU_PLATEAU_OUT_OF_ORDER = "mtu-plateau-out-of-order", Error, Options("v4:25"), "RFC 2132, section 4.7";
    Example::Payload("v4:25", "05dc0128")
}

fn mtu_plateau_out_of_order(one: &OptionValue<'_>) -> Option<Finding> {
    (!numbers(one.value()).is_sorted()).then(|| {
        MTU_PLATEAU_OUT_OF_ORDER.finding("these sizes are not in ascending order").advice("the smallest first")
    })
}

fn numbers(value: &Value) -> Vec<u64> {
    value.items().iter().filter_map(Value::number).collect()
}

check! { Value(isns_flags_contradict),
    /// the security flags or the addresses of an iSNS option contradict each other
    ///
    /// With IPsec exactly one mode of each pair must be chosen, and a heartbeat uses the first address.
    static ISNS_FLAGS_CONTRADICT = "isns-flags-contradict", Error, Options("v4:83"), "RFC 4174, section 2";
    Example::Payload("v4:83", "000100010001000000030a40004a")
}

fn isns_flags_contradict(one: &OptionValue<'_>) -> Option<Finding> {
    let set = |field: &str, name: &str| one.value().field(field).is_some_and(|flags| flags.flag(name));
    let flag = |name| set("security", name);
    let addresses = one.value().field("addresses").map_or(0, |addresses| addresses.items().len());
    let message = match () {
        () if set("admin-flags", "enabled") && set("admin-flags", "heartbeat") && addresses < 2 => {
            "with heartbeat, the first address is for the heartbeat, and a server must follow"
        }
        // Without the first bit the rest must be ignored (RFC 4174, section 2.4).
        () if !flag("enabled") => return None,
        () if flag("ike-ipsec") && flag("main-mode") == flag("aggressive-mode") => {
            "with ike-ipsec, one of main-mode and aggressive-mode must be set"
        }
        () if flag("ike-ipsec") && flag("transport-mode") == flag("tunnel-mode") => {
            "with ike-ipsec, one of transport-mode and tunnel-mode must be set"
        }
        () => return None,
    };
    Some(ISNS_FLAGS_CONTRADICT.finding(message))
}

check! { Value(nwip_first_sub_option_wrong),
    /// option 63 does not begin with the sub-option that says where its settings are
    ///
    /// Exactly one of the sub-options 1 to 4 must come first, and 5 to 11 may only follow 2 or 3.
    static NWIP_FIRST_SUB_OPTION_WRONG = "nwip-first-sub-option-wrong", Error, Options("v4:63"), "RFC 2242, section 3";
    Example::Payload("v4:63", "080103")
}

fn nwip_first_sub_option_wrong(one: &OptionValue<'_>) -> Option<Finding> {
    let Value::Options(options) = one.value() else { return None };
    let codes: Vec<u16> = options.iter().map(|option| option.code).collect();
    let (first, rest) = codes.split_first()?;
    let wrong = !(1..=4).contains(first)
        || rest.iter().any(|code| (1..=4).contains(code))
        || (!rest.is_empty() && !matches!(first, 2 | 3));
    let message = "the first sub-option must be 1, 2, 3 or 4, and 5 to 11 may only follow 2 or 3";
    let finding = || NWIP_FIRST_SUB_OPTION_WRONG.finding(message).advice("{ nwip-exist-in-options-area = true, … }");
    wrong.then(finding)
}

check! { Value(request_list_inconsistent),
    /// a client requests codes that cannot be sent, half of a pair, or routes after the router
    ///
    /// Pad, end and rapid commit cannot be requested; and classless routes requested after the router may not fit into
    /// the reply.
    static REQUEST_LIST_INCONSISTENT = "request-list-inconsistent", Warning, Options("v4:55"), "RFC 2132, section 9.8";
    Example::Payload("v4:55", "010306 50")
}

fn request_list_inconsistent(one: &OptionValue<'_>) -> Option<Finding> {
    let place = |code| one.octets.iter().position(|at| *at == code);
    if let Some(code) = one.octets.iter().find(|code| matches!(code, 0 | 80 | 255)) {
        let (severity, rfc) =
            if *code == 80 { (Severity::Error, "RFC 4039, section 3") } else { (Severity::Warning, "") };
        let finding = REQUEST_LIST_INCONSISTENT.finding(format!("{code} cannot be requested"));
        return Some(if rfc.is_empty() { finding } else { finding.by(rfc).as_severity(severity) });
    }
    if let [Some(_), None] | [None, Some(_)] = [place(147), place(148)] {
        let finding = REQUEST_LIST_INCONSISTENT.finding("147 and 148 must be requested together");
        return Some(finding.as_severity(Severity::Error).by("RFC 8973, section 5.2.3").advice("both, or neither"));
    }
    let routes = place(121)?;
    if place(3).is_none() {
        let finding = REQUEST_LIST_INCONSISTENT.finding("121 is requested without 3");
        let finding = finding.as_severity(Severity::Error).by("RFC 3442, \"DHCP Client Behavior\"");
        return Some(finding.advice("both; a server may know only one"));
    }
    let late = [3, 33].into_iter().filter_map(place).any(|other| other < routes);
    late.then(|| {
        let finding = REQUEST_LIST_INCONSISTENT.finding("121 is requested after 3 or 33");
        finding.as_severity(Severity::Error).by("RFC 3442, \"DHCP Client Behavior\"").advice("121 before both")
    })
}

check! { Value(psid_too_wide),
    /// a port set identifier has bits set below its length
    ///
    /// It is left-aligned, and the bits after its length must be zero; otherwise readers compute a different set of
    /// ports.
    static PSID_TOO_WIDE = "psid-too-wide", Error, Options("v4:159"), "RFC 7618, section 9";
    Example::Payload("v4:159", "06083401")
}

fn psid_too_wide(one: &OptionValue<'_>) -> Option<Finding> {
    // Without a length there is no identifier, and receivers ignore the field.
    let length = one.value().field("psid-len")?.number().filter(|length| *length > 0)? as u32;
    let psid = one.value().field("psid")?.number()? as u16;
    (psid.unbounded_shl(length) != 0).then(|| {
        // Written as a number, it is to be shifted; else its bits below are to be cleared.
        let shifted = psid.unbounded_shl(16 - length);
        let number = length < 16 && psid >> length == 0;
        let kept = if number { shifted } else { psid & u16::MAX.unbounded_shl(16 - length) };
        let finding = PSID_TOO_WIDE.finding(format!("{psid:#06x} has bits set below its length {length}"));
        finding.advice(format!("{kept:#06x}"))
    })
}

check! { Value(authentication_inconsistent),
    /// the algorithm or the replay detection method does not belong to the protocol
    ///
    /// The receiver cannot verify the message, and drops it.
    static AUTHENTICATION_INCONSISTENT = "authentication-inconsistent", Error, Options("v4:90"), "RFC 3118, section 6";
    Example::Payload("v4:90", "0001000000000000000001746f6b656e")
}

fn authentication_inconsistent(one: &OptionValue<'_>) -> Option<Finding> {
    let part = |name| one.value().field(name).and_then(Value::number);
    let (protocol, algorithm) = part("protocol").zip(part("algorithm"))?;
    // Protocol 3 and its algorithm: RFC 6704, section 3.1.2.
    let (wanted, rfc) = match protocol {
        0 => (0, "RFC 3118, section 6"),
        1 => (1, "RFC 3118, section 6"),
        3 => (1, "RFC 6704, section 3.1.2"),
        _ => return None,
    };
    let message = if algorithm != wanted {
        format!("algorithm {algorithm} with protocol {protocol}, which has {wanted}")
    } else if part("rdm").is_some_and(|rdm| rdm != 0) {
        format!("protocol {protocol} detects replays with a counter (0)")
    } else {
        return None;
    };
    Some(AUTHENTICATION_INCONSISTENT.finding(message).by(rfc))
}

check! { Value(authentication_misplaced),
    /// authentication of a kind that this type of message does not have
    ///
    /// The receiver cannot verify the message, or learns a key that it must not keep.
    static AUTHENTICATION_MISPLACED = "authentication-misplaced", Error, Options("v4:90", "v6:11"), "";
    v6_message("type = \"reply\"\n[options]\nserverid = \"00:03:00:01:00:00:5e:00:53:01\"\n\
        auth = { protocol = \"reconfigure-key\", algorithm = 1, rdm = 0, replay-detection = 7, information = { type = \"hmac-md5\", value = \"000102030405060708090a0b0c0d0e0f\" } }\n")
}

fn authentication_misplaced(one: &OptionValue<'_>) -> Option<Finding> {
    let protocol = one.value().field("protocol")?.number()?;
    let information = one.value().field("information").unwrap_or(&Value::Empty);
    let kind = information.field("type").and_then(Value::number);
    let (what, rfc) = match (one.view.message?, protocol, kind) {
        ((Protocol::V6, 7), 3, Some(2)) => ("a digest (2); a Reply has a key (1)", "RFC 8415, section 20.4.1"),
        ((Protocol::V6, 10), 3, Some(1)) => ("a key (1); a Reconfigure has a digest (2)", "RFC 8415, section 20.4.1"),
        ((Protocol::V4, kind), 3, Some(1)) if kind != 5 => {
            ("a nonce (1), which only a DHCPACK has", "RFC 6704, section 3.1.3")
        }
        ((Protocol::V4, kind), 3, Some(2)) if kind != 9 => {
            ("a digest (2), which only a DHCPFORCERENEW has", "RFC 6704, section 3.1.3")
        }
        ((Protocol::V4, 3 | 7), 1, None) if information.field("secret-id").is_none() => {
            ("no authentication information", "RFC 3118, sections 5.5.1 and 5.5.6")
        }
        _ => return None,
    };
    Some(AUTHENTICATION_MISPLACED.finding(format!("it holds {what}")).by(rfc))
}

check! { Value(quadrant_repeated),
    /// a quadrant of link-layer addresses is preferred twice
    ///
    /// Each may stand once; servers ignore those after the first.
    static QUADRANT_REPEATED = "quadrant-repeated", Error, Options("v6:140"), "RFC 8948, section 4.1";
    Example::Payload("v6:140", "00010002")
}

fn quadrant_repeated(one: &OptionValue<'_>) -> Option<Finding> {
    let quadrants: Vec<u64> = one.value().items().iter().filter_map(|item| item.field("quadrant")?.number()).collect();
    let again = quadrants.iter().enumerate().find(|(at, quadrant)| quadrants[..*at].contains(quadrant));
    again.map(|(_, quadrant)| QUADRANT_REPEATED.finding(format!("quadrant {quadrant} occurs twice")).borne())
}

check! { Value(ra_flags_reserved),
    /// a reserved flag of an advertised prefix is set
    ///
    /// Routers must leave them zero, and hosts ignore them.
    static RA_FLAGS_RESERVED = "ra-flags-reserved", Error, Options("ra:3"), "RFC 4861, section 4.6.2";
    Example::Payload("ra:3", "40c800278d0000093a800000000020010db8006400100000000000000000")
}

fn ra_flags_reserved(one: &OptionValue<'_>) -> Option<Finding> {
    // On link, autonomous, router address (RFC 6275), prefix per client (RFC 9762).
    let [Some(Scalar::Number(flags))] = one.record(["flags"]) else { return None };
    let reserved = flags & 0x0f;
    (reserved != 0).then(|| RA_FLAGS_RESERVED.finding(format!("reserved flags {reserved:#04x} are set")).borne())
}

check! { Value(ra_padding_too_long),
    /// an option of an advertisement with more zeros at its end than it needs
    ///
    /// They fill up the last eight octets; more of them are only longer.
    static RA_PADDING_TOO_LONG = "ra-padding-too-long", Error, Options("ra:31", "ra:37"), "RFC 8106, section 5.2";
    Example::Payload("ra:31", "000000000e10 0474617266 00 0000000000000000 00000000000000000000")
}

fn ra_padding_too_long(one: &OptionValue<'_>) -> Option<Finding> {
    one.octets.ends_with(&[0; 8]).then_some(())?;
    let mut end = None;
    one.each_thing(|thing| end = Some(thing.octets.end));
    // Code and length are of the option, which ends with the first eight octets that hold all of the last thing in it.
    let needed = (end? + 2).next_multiple_of(8) - 2;
    let more = one.octets.len().checked_sub(needed).filter(|more| *more > 0)?;
    Some(RA_PADDING_TOO_LONG.finding(format!("{more} octets of zeros more than are needed")).borne())
}

check! { Value(ra_lifetimes_out_of_order),
    /// a prefix is preferred for longer than it is valid
    ///
    /// Hosts make no address of such a prefix (RFC 4862, section 5.5.3).
    static RA_LIFETIMES_OUT_OF_ORDER = "ra-lifetimes-out-of-order", Error, Options("ra:3"), "RFC 4861, section 4.6.2";
    Example::Payload("ra:3", "40c000000e1000001c200000000020010db8006400100000000000000000")
}

fn ra_lifetimes_out_of_order(one: &OptionValue<'_>) -> Option<Finding> {
    let [Some(Scalar::Seconds(valid)), Some(Scalar::Seconds(preferred))] = one.record(["valid", "preferred"]) else {
        return None;
    };
    let shown = |seconds: u32| Value::Seconds(seconds).to_string();
    (preferred > valid).then(|| {
        let message = format!("preferred lifetime {} exceeds valid lifetime {}", shown(preferred), shown(valid));
        RA_LIFETIMES_OUT_OF_ORDER.finding(message).advice(format!("preferred = {} or less", shown(valid)))
    })
}

check! { Value(ra_lifetime_zero),
    /// an advertisement with a lifetime of 0
    ///
    /// Hosts remove the servers, domains, route or prefix at once. That is correct only when these are going away.
    static RA_LIFETIME_ZERO = "ra-lifetime-zero", Note, Options("ra:3", "ra:24", "ra:25", "ra:31", "ra:38"),
        "RFC 8106, section 5.1";
    Example::Payload("ra:25", "00000000000020010db8006400000000000000000053")
}

fn ra_lifetime_zero(one: &OptionValue<'_>) -> Option<Finding> {
    let names = ["lifetime", "valid", "preferred"];
    let mut lifetimes = names.into_iter().zip(one.record(names));
    let (name, _) = lifetimes.find(|(_, lifetime)| *lifetime == Some(Scalar::Seconds(0)))?;
    let prefix = one.is("ra:3");
    let message = match name {
        "preferred" => "preferred is 0, so hosts use addresses of this prefix for no new connection",
        "valid" => "valid is 0, so hosts form no address of this prefix, and give up theirs within two hours",
        _ => "lifetime is 0, so hosts remove this",
    };
    let finding = RA_LIFETIME_ZERO.finding(message);
    Some(if prefix { finding.by("RFC 4862, sections 5.5.3 and 5.5.4") } else { finding })
}
