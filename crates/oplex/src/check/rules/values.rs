//! Rules about numbers and lists, and about parts of an option that must go together.

use crate::check::declare::{AtomSeen, OptionValue, check, checks};
use crate::finding::{Example, Finding, Severity};
use crate::layout::{Atom, Form, Scalar, Value};

checks! {
    LIST_ITEM_REPEATED, IPV6_ONLY_WAIT_TOO_SHORT, BOOT_MAGIC_WRONG, DUID_MALFORMED, FQDN_FLAGS_CONTRADICT,
    MTU_PLATEAU_OUT_OF_ORDER, ISNS_FLAGS_CONTRADICT, NWIP_FIRST_SUB_OPTION_WRONG, REQUEST_LIST_INCONSISTENT,
    DNR_PARAMETERS_INVALID, PSID_TOO_WIDE, AUTHENTICATION_INCONSISTENT, RA_LIFETIMES_OUT_OF_ORDER, RA_LIFETIME_ZERO
}

check! { Value(list_item_repeated),
    /// a list holds the same thing twice
    ///
    /// The second costs octets and changes nothing; usually one digit of it was meant to be another.
    static LIST_ITEM_REPEATED = "list-item-repeated", Warning, AnyOption, "";
    Example::Payload("v4:6", "0a4000350a400035")
}

fn list_item_repeated(one: &OptionValue<'_>) -> Option<Finding> {
    let item = match one.value {
        Value::Record(fields) => fields.iter().find_map(|(_, field)| twice(field)),
        value => twice(value),
    };
    item.map(|item| LIST_ITEM_REPEATED.finding(format!("{item} stands in the list twice")))
}

/// The first single thing that stands in a list again.
fn twice(value: &Value) -> Option<&Value> {
    let Value::List(items) = value else { return None };
    let again = |(at, item): &(usize, &Value)| item.is_leaf() && items[..*at].contains(item);
    items.iter().enumerate().find(again).map(|(_, item)| item)
}

check! { Value(ipv6_only_wait_too_short),
    /// a client is told to do without IPv4 for less than 300 seconds
    ///
    /// It would ask again and again all day; clients take 300 instead, whatever is written.
    static IPV6_ONLY_WAIT_TOO_SHORT = "ipv6-only-wait-too-short", Error, Options("v4:108"), "RFC 8925, section 3.4";
    Example::Payload("v4:108", "0000003c")
}

fn ipv6_only_wait_too_short(one: &OptionValue<'_>) -> Option<Finding> {
    match one.value {
        Value::Number(wait @ 1..300) => {
            let finding = IPV6_ONLY_WAIT_TOO_SHORT.finding(format!("{wait} seconds are too few"));
            Some(finding.instead("300 or more; 1800 is usual, and 0 leaves it to the client"))
        }
        _ => None,
    }
}

check! { Value(boot_magic_wrong),
    /// option 208 holds something other than its one value
    ///
    /// Boot loaders ignore it then, and with it, the older ones, the options 209 to 211.
    static BOOT_MAGIC_WRONG = "boot-magic-wrong", Error, Options("v4:208"), "RFC 5071, section 3.2";
    Example::Payload("v4:208", "f100747f")
}

fn boot_magic_wrong(one: &OptionValue<'_>) -> Option<Finding> {
    match one.value {
        Value::Bytes(octets) if octets[..] != [0xf1, 0, 0x74, 0x7e] => {
            Some(BOOT_MAGIC_WRONG.finding("this is not the magic number").instead("f1:00:74:7e"))
        }
        _ => None,
    }
}

check! { Atom(duid_malformed),
    /// a DUID is not of the form that its type has
    ///
    /// It still tells one machine from another, as long as nobody takes it apart; what looks for a hardware address in
    /// it finds none.
    static DUID_MALFORMED = "duid-malformed", Warning, Atoms("duid"), "RFC 8415, section 11";
    Example::Payload("v6:1", "0003000102005e")
}

fn duid_malformed(atom: &AtomSeen<'_>) -> Option<Finding> {
    let (Form::Atom(Atom::Duid), Scalar::Bytes(octets)) = (atom.form, atom.scalar) else { return None };
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
        DUID_MALFORMED.finding(format!("a DUID {name} has {wanted} octets after its type, and this has {rest}"))
    })
}

check! { Value(fqdn_flags_contradict),
    /// the flags of a client's full name contradict each other
    ///
    /// N says that the server shall not update DNS, S that it shall. Each server takes one of them for the truth.
    static FQDN_FLAGS_CONTRADICT = "fqdn-flags-contradict", Error, Options("v4:81", "v6:39"), "RFC 4702, section 2.1";
    Example::Payload("v4:81", "0d000004646f6d6500")
}

fn fqdn_flags_contradict(one: &OptionValue<'_>) -> Option<Finding> {
    let flags = one.value.field("flags")?;
    let is_v4 = one.is("v4:81");
    if flags.flag("n") && flags.flag("s") {
        let finding = FQDN_FLAGS_CONTRADICT.finding("the flags n and s exclude each other");
        return Some(if is_v4 { finding } else { finding.by("RFC 4704, section 4.1") });
    }
    (is_v4 && !flags.flag("e")).then(|| {
        let finding = FQDN_FLAGS_CONTRADICT.finding("the name is written as ASCII text, which is deprecated");
        finding.as_severity(Severity::Warning).instead("the flag e, and the name in wire form")
    })
}

check! { Value(mtu_plateau_out_of_order),
    /// the sizes for path MTU discovery are not in ascending order
    ///
    /// Clients walk through them in order; out of order, they stop at a size that is too small.
    static MTU_PLATEAU_OUT_OF_ORDER = "mtu-plateau-out-of-order", Error, Options("v4:25"), "RFC 2132, section 4.7";
    Example::Payload("v4:25", "05dc0128")
}

fn mtu_plateau_out_of_order(one: &OptionValue<'_>) -> Option<Finding> {
    (!numbers(one.value).is_sorted())
        .then(|| MTU_PLATEAU_OUT_OF_ORDER.finding("these sizes do not ascend").instead("the smallest first"))
}

fn numbers(value: &Value) -> Vec<u64> {
    value.items().iter().filter_map(Value::number).collect()
}

check! { Value(isns_flags_contradict),
    /// the security flags or the addresses of an iSNS option do not go together
    ///
    /// With IPsec exactly one mode of each pair must be chosen, and a heartbeat takes the first address for itself.
    static ISNS_FLAGS_CONTRADICT = "isns-flags-contradict", Error, Options("v4:83"), "RFC 4174, section 2";
    Example::Payload("v4:83", "000100010001000000030a40004a")
}

fn isns_flags_contradict(one: &OptionValue<'_>) -> Option<Finding> {
    let set = |field: &str, name: &str| one.value.field(field).is_some_and(|flags| flags.flag(name));
    let flag = |name| set("security", name);
    let addresses = one.value.field("addresses").map_or(0, |addresses| addresses.items().len());
    let message = match () {
        () if flag("ike-ipsec") && flag("main-mode") == flag("aggressive-mode") => {
            "with ike-ipsec, one of main-mode and aggressive-mode must be set"
        }
        () if flag("ike-ipsec") && flag("transport-mode") == flag("tunnel-mode") => {
            "with ike-ipsec, one of transport-mode and tunnel-mode must be set"
        }
        () if set("admin-flags", "heartbeat") && addresses < 2 => {
            "with heartbeat, the first address is the heartbeat's and a server must follow"
        }
        () => return None,
    };
    Some(ISNS_FLAGS_CONTRADICT.finding(message))
}

check! { Value(nwip_first_sub_option_wrong),
    /// option 63 does not begin with the sub-option that says where its settings are
    ///
    /// Exactly one of the sub-options 1 to 4 must stand first, and 5 to 11 only follow 2 or 3.
    static NWIP_FIRST_SUB_OPTION_WRONG = "nwip-first-sub-option-wrong", Error, Options("v4:63"), "RFC 2242, section 3";
    Example::Payload("v4:63", "080103")
}

fn nwip_first_sub_option_wrong(one: &OptionValue<'_>) -> Option<Finding> {
    let Value::Options(options) = one.value else { return None };
    let codes: Vec<u16> = options.iter().map(|option| option.code).collect();
    let (first, rest) = codes.split_first()?;
    let wrong = !(1..=4).contains(first)
        || rest.iter().any(|code| (1..=4).contains(code))
        || (!rest.is_empty() && !matches!(first, 2 | 3));
    let message = "the first sub-option does not say where the others are";
    let finding = || NWIP_FIRST_SUB_OPTION_WRONG.finding(message).instead("{ nwip-exist-in-options-area = true, … }");
    wrong.then(finding)
}

check! { Value(request_list_inconsistent),
    /// a client asks for what nobody can send, for half of a pair, or for routes after the router
    ///
    /// Pad, end and rapid commit cannot be asked for; and classless routes asked for after the router may not fit into
    /// the answer.
    static REQUEST_LIST_INCONSISTENT = "request-list-inconsistent", Warning, Options("v4:55"), "RFC 2132, section 9.8";
    Example::Payload("v4:55", "010306 50")
}

fn request_list_inconsistent(one: &OptionValue<'_>) -> Option<Finding> {
    let asked = numbers(one.value);
    let place = |code| asked.iter().position(|at| *at == code);
    if let Some(code) = asked.iter().find(|code| matches!(code, 0 | 80 | 255)) {
        let (severity, rfc) =
            if *code == 80 { (Severity::Error, "RFC 4039, section 3") } else { (Severity::Warning, "") };
        let finding = REQUEST_LIST_INCONSISTENT.finding(format!("{code} is nothing that can be asked for"));
        return Some(if rfc.is_empty() { finding } else { finding.by(rfc).as_severity(severity) });
    }
    if let [Some(_), None] | [None, Some(_)] = [place(147), place(148)] {
        let finding = REQUEST_LIST_INCONSISTENT.finding("one of 147 and 148 is asked for without the other");
        return Some(finding.as_severity(Severity::Error).by("RFC 8973, section 5.2.3").instead("both, or neither"));
    }
    let routes = place(121)?;
    let late = [3, 33].into_iter().filter_map(place).any(|other| other < routes);
    late.then(|| {
        let finding = REQUEST_LIST_INCONSISTENT.finding("121 is asked for after 3 or 33");
        finding.as_severity(Severity::Error).by("RFC 3442, \"DHCP Client Behavior\"").instead("121 before both")
    })
}

check! { Value(dnr_parameters_invalid),
    /// the service parameters of an encrypted DNS server are out of order, doubled, or address hints
    ///
    /// Clients must throw the whole option away then, and fall back to DNS that anybody can read.
    static DNR_PARAMETERS_INVALID = "dnr-parameters-invalid", Error, Options("v4:162"), "RFC 9463, section 3.1.8";
    Example::Payload("v4:162", "001500010503646e7300040a400035000400040a400035")
}

fn dnr_parameters_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    one.value.items().iter().find_map(|server| {
        let Some(Value::Options(parameters)) = server.field("parameters") else { return None };
        let codes: Vec<u16> = parameters.iter().map(|parameter| parameter.code).collect();
        let message = match codes.iter().find(|code| matches!(code, 4 | 6)) {
            Some(4) => "ipv4hint must not stand here; the addresses are in front",
            Some(_) => "ipv6hint must not stand here; the addresses are in front",
            None if !codes.is_sorted_by(|a, b| a < b) => "the parameters must stand in ascending order, each once",
            None => return None,
        };
        Some(DNR_PARAMETERS_INVALID.finding(message))
    })
}

check! { Value(psid_too_wide),
    /// a port set identifier has bits below its length
    ///
    /// It is written from the left, and what follows its length must be zero; readers otherwise take another set of
    /// ports than the server meant.
    static PSID_TOO_WIDE = "psid-too-wide", Error, Options("v4:159"), "RFC 7618, section 9";
    Example::Payload("v4:159", "06083401")
}

fn psid_too_wide(one: &OptionValue<'_>) -> Option<Finding> {
    let length = one.value.field("psid-len")?.number()? as u32;
    let psid = one.value.field("psid")?.number()? as u16;
    (psid.unbounded_shl(length) != 0).then(|| {
        let kept = psid & u16::MAX.unbounded_shl(16 - length);
        let finding = PSID_TOO_WIDE.finding(format!("{psid:#06x} has bits below its {length}"));
        finding.instead(format!("{kept:#06x}"))
    })
}

check! { Value(authentication_inconsistent),
    /// the algorithm or the way of replay detection does not belong to the protocol
    ///
    /// The other side cannot tell how to verify the message, and drops it.
    static AUTHENTICATION_INCONSISTENT = "authentication-inconsistent", Error, Options("v4:90"), "RFC 3118, section 6";
    Example::Payload("v4:90", "0001000000000000000001746f6b656e")
}

fn authentication_inconsistent(one: &OptionValue<'_>) -> Option<Finding> {
    let part = |name| one.value.field(name).and_then(Value::number);
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
        format!("protocol {protocol} detects replays by a counter (0)")
    } else {
        return None;
    };
    Some(AUTHENTICATION_INCONSISTENT.finding(message).by(rfc))
}

check! { Value(ra_lifetimes_out_of_order),
    /// a prefix is preferred for longer than it is valid
    ///
    /// Hosts make no address of such a prefix (RFC 4862, section 5.5.3).
    static RA_LIFETIMES_OUT_OF_ORDER = "ra-lifetimes-out-of-order", Error, Options("ra:3"), "RFC 4861, section 4.6.2";
    Example::Payload("ra:3", "40c000000e1000001c200000000020010db8006400100000000000000000")
}

fn ra_lifetimes_out_of_order(one: &OptionValue<'_>) -> Option<Finding> {
    let [Value::Seconds(valid), Value::Seconds(preferred)] =
        ["valid", "preferred"].map(|name| one.value.field(name)).map(|field| field.unwrap_or(&Value::Empty))
    else {
        return None;
    };
    let shown = |seconds: &u32| Value::Seconds(*seconds).to_string();
    (preferred > valid).then(|| {
        let message = format!("preferred for {}, and valid for {}", shown(preferred), shown(valid));
        RA_LIFETIMES_OUT_OF_ORDER.finding(message).instead(format!("preferred = {} or less", shown(valid)))
    })
}

check! { Value(ra_lifetime_zero),
    /// an advertisement takes something back: its lifetime is 0
    ///
    /// Hosts forget the servers, domains, route or prefix at once. That is right when they go away, and only then.
    static RA_LIFETIME_ZERO = "ra-lifetime-zero", Note, Options("ra:3", "ra:24", "ra:25", "ra:31", "ra:38"),
        "RFC 8106, section 5.1";
    Example::Payload("ra:25", "00000000000020010db8006400000000000000000053")
}

fn ra_lifetime_zero(one: &OptionValue<'_>) -> Option<Finding> {
    let over = |name: &&str| one.value.field(name) == Some(&Value::Seconds(0));
    let name = ["lifetime", "valid"].into_iter().find(over)?;
    let rule = RA_LIFETIME_ZERO.finding(format!("{name} is 0: hosts forget this"));
    Some(if one.is("ra:3") { rule.by("RFC 4861, section 6.3.4") } else { rule })
}
