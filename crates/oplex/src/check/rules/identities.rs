//! Rules about hardware addresses, and about structures of other protocols inside options.

use crate::check::declare::{OptionValue, check, checks};
use crate::finding::{Example, Finding, Severity};
use crate::layout::Value;

checks! {
    LINK_LAYER_ADDRESS_INVALID, LINK_LAYER_BLOCK_INVALID, KERBEROS_NAME_MALFORMED, RADIUS_ATTRIBUTE_MALFORMED,
    MACHINE_IDENTIFIER_WITHOUT_TYPE, NAME_PARTIAL
}

fn octets<'v>(value: &'v Value, field: &str) -> Option<&'v [u8]> {
    match value.field(field)? {
        Value::Bytes(octets) => Some(octets),
        _ => None,
    }
}

/// The hardware types whose addresses have six octets (RFC 2464, RFC 2734): Ethernet and IEEE 802.
const SIX: [u64; 2] = [1, 6];

check! { Value(link_layer_address_invalid),
    /// a link-layer address that does not fit its hardware type
    ///
    /// Servers that identify clients by it cannot find the client.
    static LINK_LAYER_ADDRESS_INVALID = "link-layer-address-invalid", Error, Options("v6:79", "v6:139"), "";
    Example::Payload("v6:79", "000102005e0053")
}

fn link_layer_address_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    let kind = one.value().field("hardware-type")?.number()?;
    let length = octets(one.value(), "address")?.len();
    let message = match () {
        () if kind == 0 => "hardware type 0 is reserved".to_owned(),
        () if SIX.contains(&kind) && length != 6 => {
            format!("an address of hardware type {kind} has 6 octets, not {length}")
        }
        () if length == 0 => "the address is missing".to_owned(),
        () => return None,
    };
    Some(LINK_LAYER_ADDRESS_INVALID.finding(message))
}

check! { Value(link_layer_block_invalid),
    /// a block of link-layer addresses that runs over into the first octet
    ///
    /// Its bits say what kind of address it is, so the last addresses of the block would be of another kind.
    static LINK_LAYER_BLOCK_INVALID = "link-layer-block-invalid", Error, Options("v6:139"), "RFC 8947, section 12";
    Example::Payload("v6:139", "0001000603ffffffffff0000000100000001")
}

fn link_layer_block_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    let address: [u8; 6] = octets(one.value(), "address")?.try_into().ok()?;
    let extra = one.value().field("extra-addresses")?.number()?;
    let first = crate::octets::number(&address);
    // Six bits of the first octet count on beside the 40 after it.
    let crosses = first >> 42 != (first + extra) >> 42 || first >> 40 != (first + extra) >> 40;
    crosses.then(|| {
        let mac = crate::octets::Mac(address);
        LINK_LAYER_BLOCK_INVALID.finding(format!("{extra} addresses after {mac} do not fit behind its first octet"))
    })
}

check! { Value(kerberos_name_malformed),
    /// a Kerberos name or realm that is not encoded in DER
    ///
    /// Clients cannot read it, and do not find their key distribution center.
    static KERBEROS_NAME_MALFORMED = "kerberos-name-malformed", Error, Options("v6:75", "v6:76", "v6:77"),
        "RFC 6784, section 3";
    Example::Payload("v6:76", "4558414d504c45")
}

fn kerberos_name_malformed(one: &OptionValue<'_>) -> Option<Finding> {
    // A PrincipalName is a SEQUENCE, a Realm a GeneralString (RFC 4120, sections 5.2.1 and 5.2.2).
    let (tag, name) = if one.is("v6:75") { (0x30, "SEQUENCE (0x30)") } else { (0x1b, "GeneralString (0x1b)") };
    let message = match der(one.octets) {
        Some((found, content)) if found == tag && !content.is_empty() => return None,
        Some((found, _)) if found != tag => format!("it begins with the tag {found:#04x}, not that of a {name}"),
        Some(_) => "it is empty".to_owned(),
        None => "its length is not the one that its encoding says".to_owned(),
    };
    Some(KERBEROS_NAME_MALFORMED.finding(message))
}

/// The tag and content of octets that are one element of DER (X.690, section 8.1).
fn der(octets: &[u8]) -> Option<(u8, &[u8])> {
    let [tag, length, rest @ ..] = octets else { return None };
    let (length, rest) = match length & 0x7f {
        more if length & 0x80 != 0 => {
            let (length, rest) = rest.split_at_checked(usize::from(more)).filter(|_| (1..=2).contains(&more))?;
            (crate::octets::number(length) as usize, rest)
        }
        short => (usize::from(short), rest),
    };
    (rest.len() == length).then_some((*tag, rest))
}

check! { Value(radius_attribute_malformed),
    /// a RADIUS attribute whose value has a length that its type does not have
    ///
    /// The server cannot use it, and gives the client something else.
    static RADIUS_ATTRIBUTE_MALFORMED = "radius-attribute-malformed", Error, Options("v6:81"), "RFC 6911, section 3";
    Example::Payload("v6:81", "a80600000000")
}

fn radius_attribute_malformed(one: &OptionValue<'_>) -> Option<Finding> {
    one.value().items().iter().find_map(|attribute| {
        let kind = attribute.field("type")?.number()?;
        let length = octets(attribute, "value")?.len();
        // RFC 6911, sections 3.1 to 3.3; RFC 4818, section 3.
        let (lengths, rfc) = match kind {
            168 | 169 => (16..=16, "RFC 6911, section 3"),
            123 => (2..=18, "RFC 4818, section 3"),
            _ => return None,
        };
        (!lengths.contains(&length)).then(|| {
            let wanted = if lengths.start() == lengths.end() {
                format!("{}", lengths.start())
            } else {
                format!("{} to {}", lengths.start(), lengths.end())
            };
            let message = format!("attribute {kind} has a value of {wanted} octets, not {length}");
            RADIUS_ATTRIBUTE_MALFORMED.finding(message).by(rfc)
        })
    })
}

check! { Value(machine_identifier_without_type),
    /// a machine identifier of 16 octets, without its type in front
    ///
    /// Boot servers read the first octet of the identifier as its type, and know the machine by nothing.
    static MACHINE_IDENTIFIER_WITHOUT_TYPE = "machine-identifier-without-type", Error, Options("v4:97"),
        "RFC 4578, section 2.3";
    Example::Payload("v4:97", "33221100554477668899aabbccddeeff")
}

fn machine_identifier_without_type(one: &OptionValue<'_>) -> Option<Finding> {
    (one.octets.len() == 16).then(|| {
        let finding = MACHINE_IDENTIFIER_WITHOUT_TYPE.finding("16 octets, where a type (0) and 16 octets are wanted");
        finding.advice("{ type = guid, id = … }")
    })
}

check! { Value(name_partial),
    /// the client's name is a partial one: its root label is missing
    ///
    /// A client that knows only part of its name sends it so; a server should answer with the whole name.
    static NAME_PARTIAL = "name-partial", Note, Options("v4:81", "v6:39"), "RFC 4704, section 4.2";
    Example::Payload("v6:39", "0103666f6f")
}

fn name_partial(one: &OptionValue<'_>) -> Option<Finding> {
    let name =
        one.value().field("name").and_then(Value::text).filter(|name| !name.is_empty() && !name.ends_with('.'))?;
    // In ASCII (RFC 4702, section 2.3.1, deprecated) nothing tells the one from the other.
    if !matches!(one.value().field("name"), Some(Value::Name(_))) {
        return None;
    }
    let finding = NAME_PARTIAL.finding(format!("`{name}` is a partial name: it ends without the root label"));
    let severity = if one.is_from_client() == Some(false) { Severity::Warning } else { Severity::Note };
    let rfc = if one.is("v4:81") { "RFC 4702, section 2.3.1" } else { "RFC 4704, section 4.2" };
    Some(finding.as_severity(severity).by(rfc).advice(format!("`{name}.` with a final dot, if it is the whole name")))
}
