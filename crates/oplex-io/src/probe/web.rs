//! Files and portals at URIs (RFC 9110; RFC 8908).

use std::io;
use std::net::{IpAddr, SocketAddr};
use std::time::Duration;

use serde_json::Value;
use ureq::config::Config;
use ureq::http::Uri;
use ureq::tls::TlsConfig;
use ureq::unversioned::resolver::{ResolvedSocketAddrs, Resolver};
use ureq::unversioned::transport::{DefaultConnector, NextTimeout};
use ureq::{Agent, Error};

use super::{Asking, Verdict, dnr, seconds};

/// As many octets of what a portal says are read.
const LONGEST: u64 = 64 << 10;

/// Leads to the one address that was asked for already: the system's resolver is not asked.
#[derive(Debug)]
struct Only(IpAddr);

impl Resolver for Only {
    fn resolve(&self, uri: &Uri, _: &Config, _: NextTimeout) -> Result<ResolvedSocketAddrs, Error> {
        let default = if uri.scheme_str() == Some("https") { 443 } else { 80 };
        let mut found = self.empty();
        found.push(SocketAddr::new(self.0, uri.port_u16().unwrap_or(default)));
        Ok(found)
    }
}

/// Asks for what is at a URI: whether it is there, or, of a portal, whether it says what clients want to know.
pub(super) fn ask(uri: &str, address: IpAddr, portal: bool, asking: &Asking) -> Verdict {
    let timeout = asking.timeout;
    // A redirect may lead to anybody, and a proxy of this machine is none of the clients'.
    let config = Agent::config_builder()
        .timeout_global(Some(timeout))
        .max_redirects(0)
        .max_redirects_will_error(false)
        .http_status_as_error(false)
        .proxy(None)
        .tls_config(TlsConfig::builder().root_certs(asking.roots.of_web()).build())
        .build();
    let agent = Agent::with_parts(config, DefaultConnector::default(), Only(address));
    let accept = if portal { "application/captive+json" } else { "*/*" };
    let mut reply = match agent.get(uri).header("accept", accept).call() {
        Ok(reply) => reply,
        Err(error) => return failed(&error, uri, timeout),
    };
    let (status, headers) = (reply.status(), reply.headers());
    let header = |name: &str| headers.get(name).and_then(|value| value.to_str().ok()).map(str::to_owned);
    if status.is_redirection() {
        let to = header("location").unwrap_or_default();
        return Verdict::Wrong(format!("redirects to {to} (status {}), which is not followed", status.as_u16()));
    }
    if !status.is_success() {
        return Verdict::Wrong(format!("answers with status {}", status.as_u16()));
    }
    let (kind, length) = (header("content-type"), header("content-length"));
    if !portal {
        let length = length.map(|length| format!(", {length} octets")).unwrap_or_default();
        return Verdict::Answers(format!("has it{length}"));
    }
    let is_portal = kind.as_deref().is_some_and(|kind| kind.split(';').next() == Some("application/captive+json"));
    if !is_portal {
        let kind = kind.unwrap_or_else(|| "no type".to_owned());
        return Verdict::Wrong(format!("is of {kind}, and clients require application/captive+json (RFC 8908)"));
    }
    let body = reply.body_mut().with_config().limit(LONGEST).read_to_vec();
    match body.ok().and_then(|octets| serde_json::from_slice::<Value>(&octets).ok()) {
        Some(said) => captive(&said),
        None => Verdict::Wrong("is no JSON of a length that clients read".to_owned()),
    }
}

/// What a portal says (RFC 8908, section 5).
fn captive(said: &Value) -> Verdict {
    match (said["captive"].as_bool(), said["user-portal-url"].as_str()) {
        (None, _) => Verdict::Wrong("does not say whether clients are captive (RFC 8908, section 5)".to_owned()),
        (Some(true), None) => Verdict::Wrong("says that clients are captive, and no user-portal-url".to_owned()),
        (Some(_), Some(url)) if !url.starts_with("https://") => {
            Verdict::Wrong(format!("has the user-portal-url {url}, which is no https URI (RFC 8908, section 5)"))
        }
        (Some(captive), _) => Verdict::Answers(
            if captive { "says that clients are captive" } else { "says that clients are free" }.to_owned(),
        ),
    }
}

fn failed(error: &Error, uri: &str, timeout: Duration) -> Verdict {
    let host = || uri.parse().ok().and_then(|uri: Uri| uri.host().map(str::to_owned)).unwrap_or_default();
    match error {
        Error::Io(error) if error.kind() == io::ErrorKind::ConnectionRefused => {
            Verdict::Wrong("refuses connections".to_owned())
        }
        Error::Io(error) => {
            let why = dnr::untrusted(error, &host(), "http/1.1");
            Verdict::Wrong(why.unwrap_or_else(|| crate::files::reason(error)))
        }
        Error::Timeout(_) => Verdict::Silent(format!("an answer for {}", seconds(timeout))),
        Error::BadUri(why) => Verdict::NotTried(why.clone()),
        other => Verdict::Wrong(other.to_string()),
    }
}
