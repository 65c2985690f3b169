//! Rules about text with a grammar of its own: time zones, postal addresses, names of realms and scopes.

use crate::check::declare::{OptionValue, check, checks};
use crate::finding::{Example, Finding};
use crate::layout::Value;

checks! {
    TIME_ZONE_MALFORMED, ISCSI_PATH_INCOMPLETE, NETBIOS_SCOPE_INVALID,
    SERVICE_SCOPE_NOT_ESCAPED, REALM_NOT_UPPER_CASE, COUNTRY_MALFORMED, CIVIC_ADDRESS_MALFORMED,
    CIVIC_ADDRESS_OUT_OF_ORDER, CIVIC_ADDRESS_NOT_THE_CLIENTS
}

check! { Value(time_zone_malformed),
    /// a time zone in the form of the other time zone option
    ///
    /// One option has a POSIX rule (CET-1CEST,…), the other a name (Europe/Oslo). Clients ignore what they cannot
    /// parse, and their clocks are wrong.
    static TIME_ZONE_MALFORMED = "time-zone-malformed", Error, Options("v4:100", "v4:101"), "RFC 4833, section 4";
    Example::Payload("v4:100", "4575726f70652f4f736c6f")
}

fn time_zone_malformed(one: &OptionValue<'_>) -> Option<Finding> {
    let is_rule = one.is("v4:100");
    if !is_rule && !one.octets.iter().any(|octet| matches!(octet, b',' | b' ')) {
        return None;
    }
    let zone = one.text()?;
    let message = match is_rule {
        true if is_posix_zone(zone) => return None,
        true => format!("{zone} is not a POSIX time zone"),
        false => format!("{zone} is not the name of a time zone"),
    };
    let finding = TIME_ZONE_MALFORMED.finding(message);
    Some(finding.advice("CET-1CEST,M3.5.0,M10.5.0/3 in pcode, Europe/Oslo in tcode"))
}

/// `std offset[dst[offset][,start[/time],end[/time]]]`, as POSIX has it and RFC 4833, section 4 describes it.
fn is_posix_zone(zone: &str) -> bool {
    let zoned = || {
        let rest = offset(zone_name(zone)?)?;
        if rest.is_empty() {
            return Some(());
        }
        let rest = zone_name(rest)?;
        let rest = if rest.is_empty() || rest.starts_with(',') { rest } else { offset(rest)? };
        if rest.is_empty() {
            return Some(());
        }
        let (start, end) = rest.strip_prefix(',')?.split_once(',')?;
        (change(start) && change(end)).then_some(())
    };
    zoned().is_some()
}

/// What follows the name of a zone: three letters or more, or letters, digits and signs in `<>`.
fn zone_name(text: &str) -> Option<&str> {
    if let Some(quoted) = text.strip_prefix('<') {
        let (name, rest) = quoted.split_once('>')?;
        let right = name.len() >= 3 && name.chars().all(|c| c.is_ascii_alphanumeric() || matches!(c, '+' | '-'));
        return right.then_some(rest);
    }
    let length = text.find(|c: char| !c.is_ascii_alphabetic()).unwrap_or(text.len());
    (length >= 3).then(|| &text[length..])
}

/// What follows `[+|-]hh[:mm[:ss]]`.
fn offset(text: &str) -> Option<&str> {
    let text = text.strip_prefix(['+', '-']).unwrap_or(text);
    let length = text.find(|c: char| !c.is_ascii_digit() && c != ':').unwrap_or(text.len());
    is_time(&text[..length], 24).then(|| &text[length..])
}

/// `hh[:mm[:ss]]`
fn is_time(text: &str, most: u16) -> bool {
    let parts: Vec<Option<u16>> = text.split(':').map(|part| part.parse().ok()).collect();
    matches!(&parts[..], [Some(hours), rest @ ..] if *hours <= most && rest.len() <= 2
        && rest.iter().all(|part| part.is_some_and(|part| part < 60)))
}

/// When the clocks change: `Jn`, `n` or `Mm.w.d`, with a time or without.
fn change(text: &str) -> bool {
    let (day, time) = text.split_once('/').map_or((text, None), |(day, time)| (day, Some(time)));
    let number =
        |text: &str, least: u16, most: u16| text.parse::<u16>().is_ok_and(|number| (least..=most).contains(&number));
    let right = match day.strip_prefix('M') {
        Some(rule) => {
            let parts: Vec<&str> = rule.split('.').collect();
            matches!(parts[..], [month, week, day] if number(month, 1, 12) && number(week, 1, 5) && number(day, 0, 6))
        }
        None => day.strip_prefix('J').map_or_else(|| number(day, 0, 365), |day| number(day, 1, 365)),
    };
    // Newer editions have hours up to a week, before and after.
    right && time.is_none_or(|time| is_time(time.strip_prefix(['+', '-']).unwrap_or(time), 167))
}

check! { Value(iscsi_path_incomplete),
    /// a root path that begins with iscsi: lacks some of its six parts, or has one that is malformed
    ///
    /// The boot loader reads the parts by position; with one missing it looks for the wrong disk, or for none.
    static ISCSI_PATH_INCOMPLETE = "iscsi-path-incomplete", Error, Options("v4:17"), "RFC 4173, section 5";
    Example::Payload("v4:17", "69736373693a31302e36342e302e37343a3a3a")
}

fn iscsi_path_incomplete(one: &OptionValue<'_>) -> Option<Finding> {
    let Value::Text(path) = one.value() else { return None };
    let rest = path.strip_prefix("iscsi:")?;
    // An address in brackets and the target's name may hold colons of their own.
    let (server, after) = match rest.strip_prefix('[') {
        Some(rest) => rest.split_once(']').unwrap_or((rest, "")),
        None => rest.split_once(':').map_or((rest, ""), |(server, _)| (server, &rest[server.len()..])),
    };
    let parts: Vec<&str> = after.splitn(5, ':').skip(1).collect();
    let number = |at: usize, most: u32| {
        parts.get(at).is_none_or(|part| part.is_empty() || part.parse::<u32>().is_ok_and(|number| number <= most))
    };
    // The LUN is up to four groups of four hexadecimal digits (section 5).
    let lun = parts.get(2).is_none_or(|lun| {
        lun.split('-').all(|group| group.len() <= 4 && group.bytes().all(|digit| digit.is_ascii_hexdigit()))
            && lun.split('-').count() <= 4
    });
    let what = match () {
        () if server.is_empty() => "the server's name is missing",
        () if !number(0, 255) => "the protocol is not a number up to 255; 6 is TCP",
        () if !number(1, 65_535) => "the port is not a number up to 65535",
        () if !lun => "the LUN is not hexadecimal in groups of up to four digits",
        () if parts.get(3).is_none_or(|target| target.is_empty()) => "the target's name is missing",
        () => return None,
    };
    let finding = ISCSI_PATH_INCOMPLETE.finding(what);
    Some(finding.advice("iscsi:SERVER:PROTOCOL:PORT:LUN:TARGET; only SERVER and TARGET are required"))
}

check! { Value(netbios_scope_invalid),
    /// a NetBIOS scope with a space in it
    ///
    /// The scope is written as a domain name is, and becomes part of every name that the client looks up.
    static NETBIOS_SCOPE_INVALID = "netbios-scope-invalid", Error, Options("v4:47"), "RFC 1001, section 14.1";
    Example::Payload("v4:47", "612062")
}

fn netbios_scope_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    let Value::Text(scope) = one.value() else { return None };
    scope.contains(' ').then(|| NETBIOS_SCOPE_INVALID.finding(format!("`{scope}` has a space in it")))
}

check! { Value(service_scope_not_escaped),
    /// a service scope holds a character that must be escaped as backslash and two digits
    ///
    /// Agents split the list in the wrong place, or drop it.
    static SERVICE_SCOPE_NOT_ESCAPED = "service-scope-not-escaped", Error, Options("v4:79"), "RFC 2608, section 6.4.1";
    Example::Payload("v4:79", "0161286229")
}

fn service_scope_not_escaped(one: &OptionValue<'_>) -> Option<Finding> {
    let wrong = unescaped(one.value().field("scopes")?.text()?)?;
    let finding = SERVICE_SCOPE_NOT_ESCAPED.finding(format!("`{}` must be escaped in a scope", wrong.escape_debug()));
    Some(finding.advice(format!("\\{:02x}", u32::from(wrong))))
}

/// The first reserved character that no escape stands for.
fn unescaped(scopes: &str) -> Option<char> {
    let mut rest = scopes.chars();
    while let Some(c) = rest.next() {
        match c {
            '\\' if rest.clone().take(2).filter(char::is_ascii_hexdigit).count() == 2 => {
                rest.nth(1);
            }
            '(' | ')' | '\\' | '!' | '<' | '=' | '>' | '~' | ';' | '*' | '+' => return Some(c),
            c if c.is_control() => return Some(c),
            _ => {}
        }
    }
    None
}

check! { Value(realm_not_upper_case),
    /// a Kerberos realm with lower-case letters
    ///
    /// Realms are compared case-sensitively, and this one is defined to be in upper case.
    static REALM_NOT_UPPER_CASE = "realm-not-upper-case", Error, Options("v4:122/6"), "RFC 3495, section 5.5";
    Example::Payload("v4:122/6", "047465737403636f6d00")
}

fn realm_not_upper_case(one: &OptionValue<'_>) -> Option<Finding> {
    let realm = one.value().text()?;
    realm
        .chars()
        .any(|c| c.is_ascii_lowercase())
        .then(|| REALM_NOT_UPPER_CASE.finding(format!("{realm} has lower-case letters")).advice(realm.to_uppercase()))
}

check! { Value(country_malformed),
    /// a country that is not two capital letters
    ///
    /// It is the ISO 3166 code in capitals; emergency services interpret the rest of the address by it.
    static COUNTRY_MALFORMED = "country-malformed", Error, Options("v4:99"), "RFC 4776, section 3.1";
    Example::Payload("v4:99", "026e6f")
}

fn country_malformed(one: &OptionValue<'_>) -> Option<Finding> {
    let country = one.value().field("country")?.text()?;
    (!country.chars().all(|c| c.is_ascii_uppercase())).then(|| {
        let finding = COUNTRY_MALFORMED.finding(format!("`{country}` is not a country code"));
        finding.advice(country.to_uppercase())
    })
}

check! { Value(civic_address_malformed),
    /// a script or an extension of a civic address is malformed
    ///
    /// Readers choose the rendering by the script, and find extensions by their name space.
    static CIVIC_ADDRESS_MALFORMED = "civic-address-malformed", Error, Options("v4:99"), "RFC 4776, section 3.4";
    Example::Payload("v4:99", "024e4f80046c61746e")
}

fn civic_address_malformed(one: &OptionValue<'_>) -> Option<Finding> {
    one.value().field("elements")?.items().iter().find_map(|element| {
        let catype = element.field("catype")?.number()?;
        let text = element.field("value")?.text()?;
        match catype {
            128 if !is_script(text) => {
                let finding = CIVIC_ADDRESS_MALFORMED.finding(format!("`{text}` is not a script code"));
                Some(finding.advice("four letters, the first a capital: Latn"))
            }
            40 if text.splitn(3, ' ').filter(|part| !part.is_empty()).count() < 3 => {
                let finding =
                    CIVIC_ADDRESS_MALFORMED.finding(format!("`{text}` does not have the three parts of an extension"));
                let finding = finding.by("RFC 6848, section 3.2");
                Some(finding.advice("name space, name and text, separated by spaces"))
            }
            _ => None,
        }
    })
}

/// A tag of ISO 15924: `Latn`.
fn is_script(text: &str) -> bool {
    matches!(text.as_bytes(), [first, rest @ ..]
        if first.is_ascii_uppercase() && rest.len() == 3 && rest.iter().all(u8::is_ascii_lowercase))
}

check! { Value(civic_address_out_of_order),
    /// the elements of a civic address are not in ascending order
    ///
    /// They should ascend within one language, so that readers can see where another language begins.
    static CIVIC_ADDRESS_OUT_OF_ORDER = "civic-address-out-of-order", Warning, Options("v4:99"),
        "RFC 4776, section 3.4";
    Example::Payload("v4:99", "024e4f1c01370304546172 6e")
}

fn civic_address_out_of_order(one: &OptionValue<'_>) -> Option<Finding> {
    let parts = one.value().field("elements")?.items().iter();
    let kinds: Vec<u64> = parts.filter_map(|part| part.field("catype")?.number()).collect();
    // A language (0) or a script (128) begins the parts anew.
    let falls = |pair: &&[u64]| pair[0] > pair[1] && !matches!(pair[1], 0 | 128) && pair[0] != 128;
    let pair = kinds.windows(2).find(falls)?;
    Some(CIVIC_ADDRESS_OUT_OF_ORDER.finding(format!("element {} comes after element {}", pair[1], pair[0])))
}

check! { Value(civic_address_not_the_clients),
    /// a civic address that is not the client's own
    ///
    /// It should be used only if the client is known to be close to that place: emergency services are sent there.
    static CIVIC_ADDRESS_NOT_THE_CLIENTS = "civic-address-not-the-clients", Warning, Options("v4:99"),
        "RFC 4776, section 3.1";
    Example::Payload("v4:99", "004e4f")
}

fn civic_address_not_the_clients(one: &OptionValue<'_>) -> Option<Finding> {
    let what = one.value().field("what").filter(|what| what.number().is_some_and(|what| what < 2));
    what.map(|what| {
        let finding = CIVIC_ADDRESS_NOT_THE_CLIENTS.finding(format!("this is the address of the {what}"));
        finding.advice("what = client")
    })
}
