//! Asking the servers that a plan names whether they serve what clients will request of them.
//!
//! Nothing is sent but to addresses that the plan names, and to those that its own name servers give for the names in it; the
//! system's resolver is never asked.

mod boot;
mod dnr;
mod dns;
mod echo;
mod roots;
mod web;

use std::fmt;
use std::io;
use std::net::{IpAddr, SocketAddr, TcpStream, UdpSocket};
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::{Duration, Instant};

use oplex::codebook::Service;
use oplex::compiled::{Compiled, Host, NamedServer};

pub use roots::Roots;

/// As many servers are asked at a time.
const AT_A_TIME: usize = 32;

/// What became of asking a server.
#[derive(Debug, Clone, PartialEq, Eq)]
#[non_exhaustive]
pub enum Verdict {
    /// It does what it should: what it says.
    Answers(String),
    /// It answers, and not what clients need: what is wrong.
    Wrong(String),
    /// Nothing comes back: what was tried.
    Silent(String),
    /// It was not asked: why.
    NotTried(String),
}

impl Verdict {
    /// Its name: `answers`, `wrong answer`, `no answer`, `not tried`.
    #[must_use]
    pub fn name(&self) -> &'static str {
        match self {
            Self::Answers(_) => "answers",
            Self::Wrong(_) => "wrong answer",
            Self::Silent(_) => "no answer",
            Self::NotTried(_) => "not tried",
        }
    }

    /// What there is to say of it.
    #[must_use]
    pub fn text(&self) -> &str {
        match self {
            Self::Answers(text) | Self::Wrong(text) | Self::Silent(text) | Self::NotTried(text) => text,
        }
    }

    /// Whether a client would be without what it needs.
    #[must_use]
    pub fn is_bad(&self) -> bool {
        matches!(self, Self::Wrong(_) | Self::Silent(_))
    }
}

impl fmt::Display for Verdict {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {}", self.name(), self.text())
    }
}

/// What became of asking one server.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Probed<'p> {
    /// Which server.
    pub server: NamedServer<'p>,
    /// The address that was asked, where it has one.
    pub address: Option<IpAddr>,
    /// What became of it.
    pub verdict: Verdict,
    /// How long it took.
    pub time: Duration,
}

/// What is needed for asking.
#[derive(Debug, Clone)]
pub(crate) struct Asking {
    /// How long an answer may take.
    pub(crate) timeout: Duration,
    /// What name servers are asked about: the plan's domains and the reverse zones of its subnets.
    pub(crate) zones: Vec<String>,
    /// The plan's own name servers.
    pub(crate) resolvers: Vec<IpAddr>,
    /// Whose certificates are good.
    pub(crate) roots: Roots,
}

/// Asks the servers that a plan names, those of the services that are wanted, many at a time; certificates are held against `roots`.
/// The results are in the order of services and hosts.
#[must_use]
pub fn probe<'p>(
    compiled: &'p Compiled<'p>,
    wanted: &dyn Fn(&NamedServer<'p>) -> bool,
    timeout: Duration,
    roots: &Roots,
    done: &(dyn Fn(usize, usize) + Sync),
) -> Vec<Probed<'p>> {
    let all = compiled.servers();
    let resolvers = all.iter().filter(|server| server.service == Service::Dns).filter_map(|server| match server.host {
        Host::Address(address) => Some(address),
        _ => None,
    });
    let asking = Asking { timeout, zones: dns::zones(compiled), resolvers: resolvers.collect(), roots: roots.clone() };
    let servers: Vec<NamedServer<'p>> = all.into_iter().filter(|server| wanted(server)).collect();
    let (next, finished) = (AtomicUsize::new(0), AtomicUsize::new(0));
    let results: Mutex<Vec<Option<Probed<'p>>>> = Mutex::new(servers.iter().map(|_| None).collect());
    std::thread::scope(|scope| {
        for _ in 0..AT_A_TIME.min(servers.len()) {
            scope.spawn(|| {
                loop {
                    let at = next.fetch_add(1, Ordering::Relaxed);
                    let Some(server) = servers.get(at) else { return };
                    let probed = one(server, &asking);
                    if let Ok(mut results) = results.lock() {
                        results[at] = Some(probed);
                    }
                    done(finished.fetch_add(1, Ordering::Relaxed) + 1, servers.len());
                }
            });
        }
    });
    results.into_inner().unwrap_or_default().into_iter().flatten().collect()
}

fn one<'p>(server: &NamedServer<'p>, asking: &Asking) -> Probed<'p> {
    let start = Instant::now();
    let probed = |address, verdict| Probed { server: server.clone(), address, verdict, time: start.elapsed() };
    let (name, port) = match &server.host {
        Host::Address(address) => return probed(Some(*address), ask(server, *address, None, asking)),
        Host::Name(name) => (name.clone(), None),
        Host::Uri(uri) => match authority(uri) {
            Some(found) => found,
            None => return probed(None, Verdict::NotTried(format!("`{uri}` names no host"))),
        },
    };
    let address = match name.trim_matches(['[', ']']).parse() {
        Ok(address) => Ok(address),
        Err(_) if asking.resolvers.is_empty() => {
            Err(Verdict::NotTried("the plan names no name server that would resolve it".to_owned()))
        }
        Err(_) => dns::resolve(&name, asking)
            .ok_or_else(|| Verdict::Wrong(format!("the plan's name servers have no address for {name}"))),
    };
    match address {
        Ok(address) => probed(Some(address), ask(server, address, port, asking)),
        Err(verdict) => probed(None, verdict),
    }
}

/// The host of a URI, and its port by its text or scheme.
fn authority(uri: &str) -> Option<(String, Option<u16>)> {
    let Some((scheme, rest)) = uri.split_once("://") else { return portal(uri) };
    let authority = rest.split(['/', '?', '#']).next()?.rsplit('@').next()?;
    let default = match scheme.to_ascii_lowercase().as_str() {
        "https" => Some(443),
        "http" => Some(80),
        "tftp" => Some(69),
        "ldap" => Some(389),
        "ldaps" => Some(636),
        _ => None,
    };
    let (host, port) = match authority.rsplit_once(':') {
        Some((host, port)) if !port.contains(']') => (host, port.parse().ok()),
        _ => (authority, None),
    };
    (!host.is_empty()).then(|| (host.to_owned(), port.or(default)))
}

/// The same of an iSCSI portal: `iscsi:SERVER:PROTOCOL:PORT:LUN:TARGET`, of which all but the first may be empty (RFC 4173,
/// section 5).
fn portal(text: &str) -> Option<(String, Option<u16>)> {
    let (_, rest) = text.split_once(':')?;
    let end = if rest.starts_with('[') { rest.find(']')? + 1 } else { rest.find(':')? };
    let (host, rest) = rest.split_at(end);
    let port = rest.split(':').nth(2)?;
    let port = if port.is_empty() { Some(3260) } else { port.parse().ok() };
    (!host.is_empty()).then(|| (host.to_owned(), port))
}

/// Asks a server at an address.
fn ask(server: &NamedServer<'_>, address: IpAddr, port: Option<u16>, asking: &Asking) -> Verdict {
    if let Err(why) = reachable(address) {
        return Verdict::NotTried(why);
    }
    match server.service {
        Service::Dns => dns::ask(address, asking),
        Service::Ntp => boot::time(address, asking.timeout),
        Service::Tftp => boot::file(address, server.file.as_deref(), asking.timeout),
        Service::Router => echo::ask(address, asking.timeout),
        Service::Dnr => match &server.encrypted {
            Some(encrypted) => dnr::ask(encrypted, address, asking),
            None => Verdict::NotTried("how it is reached is not known".to_owned()),
        },
        Service::Capwap => {
            datagrams(address, 5246, "a controller answers radio access points alone (RFC 5415)", asking.timeout)
        }
        Service::Log => match connects(address, Some(LOG), asking.timeout) {
            Verdict::Answers(text) => Verdict::Answers(text),
            _ => datagrams(address, LOG, "a log server answers no datagram", asking.timeout),
        },
        Service::File | Service::Portal if matches!(&server.host, Host::Uri(uri) if is_web(uri)) => {
            web::ask(&server.host.to_string(), address, server.service == Service::Portal, asking)
        }
        Service::File if matches!(&server.host, Host::Uri(uri) if uri.to_ascii_lowercase().starts_with("tftp://")) => {
            let uri = server.host.to_string();
            let path = uri.splitn(4, '/').nth(3).map(str::to_owned);
            boot::file(address, path.as_deref(), asking.timeout)
        }
        other => connects(address, port.or(default_port(other)), asking.timeout),
    }
}

fn is_web(uri: &str) -> bool {
    let uri = uri.to_ascii_lowercase();
    uri.starts_with("http://") || uri.starts_with("https://")
}

/// The port of a service that is tried by a connection.
fn default_port(service: Service) -> Option<u16> {
    Some(match service {
        Service::Sip => 5060,
        Service::Lpr => 515,
        Service::Smtp => 25,
        Service::Pop3 => 110,
        Service::Web => 80,
        Service::Ldap => 389,
        Service::Iscsi => 3260,
        _ => return None,
    })
}

/// Any address of this machine, of the same family.
fn any(address: IpAddr) -> SocketAddr {
    if address.is_ipv4() { ([0, 0, 0, 0], 0).into() } else { ([0u16; 8], 0).into() }
}

/// Whether this machine has a way there at all.
fn reachable(address: IpAddr) -> Result<(), String> {
    // Nothing is sent by this.
    let found = UdpSocket::bind(any(address)).and_then(|socket| socket.connect((address, 9)));
    found.map_err(|error| match error.kind() {
        io::ErrorKind::NetworkUnreachable | io::ErrorKind::HostUnreachable => {
            "this machine is on no network that leads there".to_owned()
        }
        _ => format!("this machine cannot send there: {}", crate::files::reason(&error)),
    })
}

/// Whether a connection can be had.
fn connects(address: IpAddr, port: Option<u16>, timeout: Duration) -> Verdict {
    let Some(port) = port else { return Verdict::NotTried("its port is not known".to_owned()) };
    match TcpStream::connect_timeout(&(address, port).into(), timeout) {
        Ok(_) => Verdict::Answers(format!("takes connections on TCP port {port}")),
        Err(error) if error.kind() == io::ErrorKind::ConnectionRefused => {
            Verdict::Wrong(format!("refuses connections on TCP port {port}"))
        }
        Err(error) => silent(&format!("TCP port {port}"), &error, timeout),
    }
}

/// The port that log messages go to, by UDP as a rule, by TCP where a server takes connections.
const LOG: u16 = 514;

/// Whether no server takes datagrams there: then the machine reports it. Where it does not, there need be no server.
fn datagrams(address: IpAddr, port: u16, why: &str, timeout: Duration) -> Verdict {
    let refused = UdpSocket::bind(any(address)).and_then(|socket| {
        socket.connect((address, port))?;
        socket.set_read_timeout(Some(timeout))?;
        // It has no octets, so that no server takes it for something said.
        socket.send(&[])?;
        socket.recv(&mut [0; 16])
    });
    match refused {
        Err(error) if error.kind() == io::ErrorKind::ConnectionRefused => {
            Verdict::Wrong(format!("nothing listens on UDP port {port}"))
        }
        _ => Verdict::NotTried(format!("{why}; nothing refuses datagrams on UDP port {port}")),
    }
}

/// What was waited for in vain, or why there was no need to wait.
fn silent(what: &str, error: &io::Error, timeout: Duration) -> Verdict {
    Verdict::Silent(match error.kind() {
        _ if is_patience(error) => format!("{what} for {}", seconds(timeout)),
        io::ErrorKind::HostUnreachable | io::ErrorKind::NetworkUnreachable | io::ErrorKind::ConnectionRefused => {
            format!("{what}: the network reports no such host")
        }
        _ => format!("{what}: {}", crate::files::reason(error)),
    })
}

/// A connection on which all that is said takes no longer than a timeout: each octet may come late by itself.
struct Hasty<'s> {
    stream: &'s TcpStream,
    until: Instant,
}

impl<'s> Hasty<'s> {
    fn new(stream: &'s TcpStream, timeout: Duration) -> Self {
        Self { stream, until: Instant::now() + timeout }
    }

    fn left(&self) -> io::Result<Option<Duration>> {
        let left = self.until.saturating_duration_since(Instant::now());
        if left.is_zero() { Err(io::ErrorKind::TimedOut.into()) } else { Ok(Some(left)) }
    }
}

impl io::Read for Hasty<'_> {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        self.stream.set_read_timeout(self.left()?)?;
        let mut stream = self.stream;
        stream.read(into)
    }
}

impl io::Write for Hasty<'_> {
    fn write(&mut self, octets: &[u8]) -> io::Result<usize> {
        self.stream.set_write_timeout(self.left()?)?;
        let mut stream = self.stream;
        stream.write(octets)
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

/// Whether a test waited until a timeout.
fn is_patience(error: &io::Error) -> bool {
    matches!(error.kind(), io::ErrorKind::WouldBlock | io::ErrorKind::TimedOut)
}

fn seconds(time: Duration) -> String {
    format!("{} s", time.as_secs_f64())
}
