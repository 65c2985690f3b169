//! Name servers that are reached encrypted (RFC 7858; RFC 8484; RFC 9463).

use std::io;
use std::net::{IpAddr, SocketAddr, TcpStream};

use oplex::compiled::Encrypted;
use rustls::pki_types::ServerName;
use rustls::{CertificateError, ClientConnection, Error, Stream};

use super::{Asking, Hasty, Verdict, dns, is_patience, silent};

/// Asks a name server by each of the protocols that it is said to speak; the first that does not do is what is said of it.
pub(super) fn ask(server: &Encrypted, address: IpAddr, asking: &Asking) -> Verdict {
    let usual = ["dot".to_owned()];
    let protocols = if server.protocols.is_empty() { &usual[..] } else { &server.protocols };
    let (mut answers, mut untried) = (Vec::new(), Vec::new());
    for protocol in protocols {
        let Some(default) = port(protocol) else {
            // RFC 9250 and RFC 9114.
            let is_quic = matches!(&**protocol, "doq" | "h3");
            untried.push(format!("{protocol}{} is not tried", if is_quic { ", by QUIC," } else { "" }));
            continue;
        };
        let at = SocketAddr::new(address, server.port.unwrap_or(default));
        match connected(server, protocol, at, asking) {
            Ok(text) => answers.push(text),
            Err(verdict) => return verdict,
        }
    }
    let said = answers.into_iter().chain(untried.iter().cloned()).collect::<Vec<_>>().join("; ");
    if untried.len() == protocols.len() { Verdict::NotTried(said) } else { Verdict::Answers(said) }
}

/// The port of a protocol that goes by TLS over TCP.
fn port(protocol: &str) -> Option<u16> {
    match protocol {
        "dot" => Some(853),
        "h2" | "http/1.1" => Some(443),
        _ => None,
    }
}

/// What there is to say of a server that does what it should.
fn connected(server: &Encrypted, protocol: &str, at: SocketAddr, asking: &Asking) -> Result<String, Verdict> {
    let port = at.port();
    let stream = TcpStream::connect_timeout(&at, asking.timeout).map_err(|error| match error.kind() {
        io::ErrorKind::ConnectionRefused => Verdict::Wrong(format!("refuses connections on TCP port {port}")),
        _ => silent(&format!("TCP port {port}"), &error, asking.timeout),
    })?;
    let name = ServerName::try_from(server.name.clone())
        .map_err(|_| Verdict::Wrong(format!("no certificate can be for `{}`", server.name)))?;
    let config = asking.roots.config(protocol).map_err(|error| Verdict::NotTried(error.to_string()))?;
    let mut tls = ClientConnection::new(config, name).map_err(|error| Verdict::NotTried(error.to_string()))?;
    let failed = |error: &io::Error| match untrusted(error, &server.name, protocol) {
        Some(why) => Verdict::Wrong(format!("{why} (TCP port {port})")),
        None if is_patience(error) => silent(&format!("TLS on TCP port {port}"), error, asking.timeout),
        None => Verdict::Wrong(format!("ends the connection to TCP port {port} before it is encrypted")),
    };
    let mut stream = Hasty::new(&stream, asking.timeout);
    // It comes back early where the time is over after some octets.
    while tls.is_handshaking() {
        tls.complete_io(&mut stream).map_err(|error| failed(&error))?;
    }
    let chosen = tls.alpn_protocol().map(|chosen| String::from_utf8_lossy(chosen).into_owned());
    match (protocol, chosen.as_deref()) {
        // What is DNS by its port need not be told apart.
        ("dot", None | Some("dot")) => {}
        (wanted, Some(chosen)) if wanted == chosen => {}
        (wanted, _) => return Err(Verdict::Wrong(format!("does not speak {wanted} on TCP port {port}"))),
    }
    if protocol != "dot" {
        return Ok(format!("{protocol} on TCP port {port}"));
    }
    let zone = asking.zones.first().map_or(".", String::as_str);
    let said =
        dns::exchange_stream(&mut Stream::new(&mut tls, &mut stream), zone).map_err(|error| {
            match is_patience(&error) {
                true => silent(&format!("TLS about {zone}"), &error, asking.timeout),
                false => Verdict::Wrong(format!("gives no DNS message about {zone} by TLS")),
            }
        })?;
    match dns::refusal(&said, zone) {
        None => Ok(format!("{protocol} on TCP port {port}")),
        Some(why) => Err(Verdict::Wrong(why)),
    }
}

/// Why nothing is encrypted with a server of this name; `None` where that is no matter of TLS.
pub(super) fn untrusted(error: &io::Error, name: &str, protocol: &str) -> Option<String> {
    Some(match error.get_ref()?.downcast_ref::<Error>()? {
        Error::InvalidCertificate(CertificateError::UnknownIssuer) => {
            "its certificate is by an issuer that is not trusted".to_owned()
        }
        Error::InvalidCertificate(
            CertificateError::NotValidForName | CertificateError::NotValidForNameContext { .. },
        ) => format!("its certificate is not for {name}"),
        Error::InvalidCertificate(CertificateError::Expired | CertificateError::ExpiredContext { .. }) => {
            "its certificate has expired".to_owned()
        }
        Error::AlertReceived(rustls::AlertDescription::NoApplicationProtocol) => format!("does not speak {protocol}"),
        Error::InvalidMessage(_) => "does not speak TLS".to_owned(),
        other => other.to_string(),
    })
}
