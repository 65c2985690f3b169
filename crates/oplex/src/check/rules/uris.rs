//! Rules about URIs: which scheme, which form, and where they lead.

use std::net::Ipv4Addr;

use iri_string::types::UriStr;

use crate::check::declare::{OptionValue, check, checks};
use crate::finding::{Example, Finding, Severity};
use crate::layout::{Node, Scalar, Value};

checks! {
    URI_NOT_HTTPS, CAPTIVE_PORTAL_BY_ADDRESS, CAPTIVE_PORTAL_NAME_UNKNOWN, LOGIN_URL_MALFORMED,
    BOOTSTRAP_SERVER_MALFORMED, MUD_URL_MALFORMED
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
    let is_secure = |uri: &str| {
        let secure = uri.get(..6).is_some_and(|scheme| scheme.eq_ignore_ascii_case("https:"));
        secure || uri.starts_with("urn:")
    };
    // Most are, and nothing stands before them.
    let is_single = matches!(one.view.codebook.layout(one.definition).root(), Node::Atom(_));
    if is_single && one.octets.get(..6).is_some_and(|scheme| scheme.eq_ignore_ascii_case(b"https:")) {
        return None;
    }
    let plain = one.find_thing(|thing| match thing.scalar {
        Scalar::Text(uri) if !is_secure(uri) => Some(uri),
        _ => None,
    })?;
    let known = [
        ("v4:143", "RFC 8572, section 8.3", Severity::Error),
        ("v4:161", "RFC 8520, section 10", Severity::Error),
        // RFC 8910 leaves the scheme open; the API it leads to does not.
        ("v4:114", "RFC 8908, section 4", Severity::Warning),
    ];
    let (_, rfc, severity) = known.into_iter().find(|(id, ..)| one.is(id))?;
    let finding = URI_NOT_HTTPS.finding(format!("{} does not begin with https", plain));
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
    // Nearly all names begin with a letter, and need no second look.
    let scheme = one.octets.iter().position(|octet| *octet == b':')?;
    matches!(one.octets[scheme + 1..], [b'/', b'/', b'[' | b'0'..=b'9', ..]).then_some(())?;
    let after = one.text()?.split_once(':')?.1.strip_prefix("//")?;
    let host = after.split(['/', '?', '#']).next()?;
    let literal = host.starts_with('[') || host.split(':').next()?.parse::<Ipv4Addr>().is_ok();
    literal.then(|| {
        CAPTIVE_PORTAL_BY_ADDRESS
            .finding(format!("the host {host} is an address"))
            .advice("the portal's name, as in its certificate")
    })
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
    let Value::Text(list) = one.value() else { return None };
    let wrong = list.split(' ').find(|url| !is_web(url))?;
    Some(LOGIN_URL_MALFORMED.finding(format!("`{wrong}` is not a URL of http or https")).advice("https://…"))
}

/// A URI of the web, with its host.
fn is_web(text: &str) -> bool {
    let Ok(uri) = UriStr::new(text) else { return false };
    let scheme = uri.scheme_str().to_ascii_lowercase();
    let host = uri.authority_components().is_some_and(|authority| !authority.host().is_empty());
    host && matches!(&*scheme, "http" | "https")
}

check! { Value(captive_portal_name_unknown),
    /// a captive portal's URN other than the one that means that there is no portal
    ///
    /// Devices know `urn:ietf:params:capport:unrestricted` alone, and take any other for a portal that they cannot reach.
    static CAPTIVE_PORTAL_NAME_UNKNOWN = "captive-portal-name-unknown", Error, Options("v4:114", "ra:37"),
        "RFC 8910, section 4.1";
    Example::Payload("v4:114", "75726e3a696574663a706172616d733a636170706f72743a6e6f7468696e67")
}

fn captive_portal_name_unknown(one: &OptionValue<'_>) -> Option<Finding> {
    const NONE: &str = "urn:ietf:params:capport:unrestricted";
    if !one.octets.starts_with(b"urn:") {
        return None;
    }
    let uri = one.text().filter(|uri| *uri != NONE)?;
    Some(CAPTIVE_PORTAL_NAME_UNKNOWN.finding(format!("{uri} is not registered")).advice(NONE))
}

check! { Value(bootstrap_server_malformed),
    /// a bootstrap server that is more or less than https, a host and a port
    ///
    /// Devices add their own path, and ignore an entry that has one.
    static BOOTSTRAP_SERVER_MALFORMED = "bootstrap-server-malformed", Error, Options("v4:143", "v6:136"),
        "RFC 8572, section 8.3";
    Example::Payload("v4:143", "001968747470733a2f2f737a74702e6578616d706c652f70617468")
}

fn bootstrap_server_malformed(one: &OptionValue<'_>) -> Option<Finding> {
    let wrong = one.value().items().iter().filter_map(Value::text).find(|text| {
        let Ok(uri) = UriStr::new(text) else { return false };
        let authority = uri.authority_components();
        let port = authority.and_then(|authority| authority.port());
        let port = port.is_none_or(|port| port.parse::<u16>().is_ok_and(|port| port > 0));
        let user = authority.is_some_and(|authority| authority.userinfo().is_some());
        user || !port || !uri.path_str().is_empty() || uri.query_str().is_some() || uri.fragment().is_some()
    })?;
    let finding = BOOTSTRAP_SERVER_MALFORMED.finding(format!("{wrong} is not https://HOST or https://HOST:PORT"));
    Some(finding.advice("https://HOST:PORT"))
}

check! { Value(mud_url_malformed),
    /// a MUD URL that is not a URI of https
    ///
    /// The MUD manager fetches the device's description there, and gives the device nothing if it cannot.
    static MUD_URL_MALFORMED = "mud-url-malformed", Error, Options("v4:161", "v6:112"), "RFC 8520, section 10";
    Example::Payload("v4:161", "68747470733a2f2f5b6d75642e6578616d706c652f")
}

fn mud_url_malformed(one: &OptionValue<'_>) -> Option<Finding> {
    // Octets that are reserved may follow a space.
    let url = one.octets.split(|octet| *octet == b' ').next().unwrap_or_default();
    let url = String::from_utf8_lossy(url);
    // Text of another scheme is another rule's.
    let https = url.to_ascii_lowercase().starts_with("https:");
    let wrong = match https {
        true => !is_web(&url),
        false => one.text().is_none(),
    };
    wrong.then(|| MUD_URL_MALFORMED.finding(format!("{url} is not a URI of https")).advice("https://…"))
}
