//! Rules about text with a grammar of its own: URIs, time zones, postal addresses, names of realms and scopes.

use std::net::Ipv4Addr;

use crate::check::declare::{OptionValue, check, checks};
use crate::finding::{Example, Finding, Severity};
use crate::layout::Value;

checks! {
    URI_NOT_HTTPS, CAPTIVE_PORTAL_BY_ADDRESS, TIME_ZONE_MALFORMED, LOGIN_URL_MALFORMED, ISCSI_PATH_INCOMPLETE,
    SERVICE_SCOPE_NOT_ESCAPED, REALM_NOT_UPPER_CASE, COUNTRY_MALFORMED, CIVIC_ADDRESS_MALFORMED,
    CIVIC_ADDRESS_OUT_OF_ORDER, CIVIC_ADDRESS_NOT_THE_CLIENTS
}

check! { Value(uri_not_https),
    /// a URI that must use https does not
    ///
    /// Devices trust what they fetch there with their configuration, and refuse any other scheme.
    static URI_NOT_HTTPS = "uri-not-https", Error, Options("v4:143", "v4:161", "v4:114"), "";
    Example::Payload(
        "v4:143",
        "001168747470733a2f2f622e6578616d706c650010687474703a2f2f622e6578616d706c65",
    )
}

fn uri_not_https(one: &OptionValue<'_>) -> Option<Finding> {
    let known = [
        ("v4:143", "RFC 8572, section 8.3", Severity::Error),
        ("v4:161", "RFC 8520, section 10", Severity::Error),
        // RFC 8910 leaves the scheme open; the API it leads to does not.
        ("v4:114", "RFC 8908, section 4", Severity::Warning),
    ];
    let (_, rfc, severity) = known.into_iter().find(|(id, ..)| one.is(id))?;
    let mut plain = None;
    one.value.leaves(&mut |leaf, _| {
        if let Value::Text(uri) = leaf
            && !uri.to_ascii_lowercase().starts_with("https:")
            && !uri.starts_with("urn:ietf:params:capport:")
        {
            plain.get_or_insert(uri);
        }
    });
    let finding = URI_NOT_HTTPS.finding(format!("{} does not begin with https", plain?));
    Some(finding.as_severity(severity).by(rfc).advice("https://…"))
}

check! { Value(captive_portal_by_address),
    /// a captive portal's URI has an address in place of a name
    ///
    /// Its certificate is checked against a name, so devices warn their users or refuse.
    static CAPTIVE_PORTAL_BY_ADDRESS = "captive-portal-by-address", Warning, Options("v4:114"), "RFC 8910, section 2";
    Example::Payload("v4:114", "68747470733a2f2f31302e36342e302e392f617069")
}

fn captive_portal_by_address(one: &OptionValue<'_>) -> Option<Finding> {
    let Value::Text(uri) = one.value else { return None };
    let host = uri.split("://").nth(1)?.split(['/', '?', '#']).next()?;
    let literal = host.starts_with('[') || host.split(':').next()?.parse::<Ipv4Addr>().is_ok();
    literal.then(|| {
        CAPTIVE_PORTAL_BY_ADDRESS
            .finding(format!("the host {host} is an address"))
            .advice("the portal's name, as in its certificate")
    })
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
    let Value::Text(zone) = one.value else { return None };
    let posix = zone.chars().any(|c| c.is_ascii_digit()) && !zone.starts_with(':');
    let message = match () {
        () if one.is("v4:100") && !posix => format!("{zone} is not a POSIX time zone"),
        () if one.is("v4:101") && zone.contains([',', ' ']) => format!("{zone} is not the name of a time zone"),
        () => return None,
    };
    let finding = TIME_ZONE_MALFORMED.finding(message);
    Some(finding.advice("CET-1CEST,M3.5.0,M10.5.0/3 in pcode, Europe/Oslo in tcode"))
}

check! { Value(login_url_malformed),
    /// option 98 holds something other than URLs separated by single spaces
    ///
    /// Devices try the URLs one after the other and stop at the first that is malformed.
    static LOGIN_URL_MALFORMED = "login-url-malformed", Error, Options("v4:98"),
        "RFC 2485, \"User Authentication Protocol Option\"";
    Example::Payload("v4:98", "6c6f67696e2e6578616d706c65")
}

fn login_url_malformed(one: &OptionValue<'_>) -> Option<Finding> {
    let Value::Text(list) = one.value else { return None };
    let wrong = list
        .split(' ')
        .find(|url| !matches!(url.split_once("://"), Some(("http" | "https", rest)) if !rest.is_empty()))?;
    Some(LOGIN_URL_MALFORMED.finding(format!("`{wrong}` is not a URL")).advice("https://…"))
}

check! { Value(iscsi_path_incomplete),
    /// a root path that begins with iscsi: lacks some of its six parts
    ///
    /// The boot loader reads the parts by position; with one missing it looks for the wrong disk, or for none.
    static ISCSI_PATH_INCOMPLETE = "iscsi-path-incomplete", Error, Options("v4:17"), "RFC 4173, section 5";
    Example::Payload("v4:17", "69736373693a31302e36342e302e37343a3a3a")
}

fn iscsi_path_incomplete(one: &OptionValue<'_>) -> Option<Finding> {
    let Value::Text(path) = one.value else { return None };
    let rest = path.strip_prefix("iscsi:")?;
    // An address in brackets and the target's name may hold colons of their own.
    let after_server = rest.strip_prefix('[').map_or(rest, |rest| rest.split_once(']').map_or("", |(_, rest)| rest));
    let target = after_server.splitn(5, ':').nth(4).unwrap_or_default();
    target.is_empty().then(|| {
        let finding = ISCSI_PATH_INCOMPLETE.finding("the target's name is missing");
        finding.advice("iscsi:SERVER:PROTOCOL:PORT:LUN:TARGET; only SERVER and TARGET are required")
    })
}

check! { Value(service_scope_not_escaped),
    /// a service scope holds a character that must be escaped as backslash and two digits
    ///
    /// Agents split the list in the wrong place, or drop it.
    static SERVICE_SCOPE_NOT_ESCAPED = "service-scope-not-escaped", Error, Options("v4:79"), "RFC 2608, section 6.4.1";
    Example::Payload("v4:79", "0161286229")
}

fn service_scope_not_escaped(one: &OptionValue<'_>) -> Option<Finding> {
    let wrong = unescaped(one.value.field("scopes")?.text()?)?;
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
    static REALM_NOT_UPPER_CASE = "realm-not-upper-case", Error, Options("v4:122"), "RFC 3495, section 5.5";
    Example::Payload("v4:122", "060a047465737403636f6d00")
}

fn realm_not_upper_case(one: &OptionValue<'_>) -> Option<Finding> {
    let realm = one.value.option(6)?.text()?;
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
    let country = one.value.field("country")?.text()?;
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
    one.value.field("elements")?.items().iter().find_map(|element| {
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
    let parts = one.value.field("elements")?.items().iter();
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
    let what = one.value.field("what").filter(|what| what.number().is_some_and(|what| what < 2));
    what.map(|what| {
        let finding = CIVIC_ADDRESS_NOT_THE_CLIENTS.finding(format!("this is the address of the {what}"));
        finding.advice("what = client")
    })
}
