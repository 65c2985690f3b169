//! What became of asking the servers that a plan names.

use std::net::IpAddr;

use oplex::compiled::Compiled;
use oplex::finding::Sources;
use oplex_io::probe::Probed;
use serde::Serialize;

use super::FromForm;

/// All servers.
#[derive(Serialize)]
pub(crate) struct ProbeForm<'f> {
    plan: String,
    servers: Vec<ServerForm<'f>>,
}

#[derive(Serialize)]
struct ServerForm<'f> {
    service: &'static str,
    host: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    address: Option<IpAddr>,
    #[serde(skip_serializing_if = "Option::is_none")]
    file: Option<&'f str>,
    /// What a certificate must be for, of a name server that is reached encrypted.
    #[serde(skip_serializing_if = "Option::is_none")]
    name: Option<&'f str>,
    option: &'f str,
    /// All where there are none.
    networks: Vec<&'f str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    from: Option<FromForm>,
    verdict: &'static str,
    text: &'f str,
    seconds: f64,
}

impl<'f> ProbeForm<'f> {
    pub(crate) fn of(plan: String, compiled: &'f Compiled<'_>, all: &'f [Probed<'_>], sources: &'f Sources) -> Self {
        let one = |probed: &'f Probed<'_>| ServerForm {
            service: probed.server.service.name(),
            host: probed.server.host.to_string(),
            address: probed.address,
            file: probed.server.file.as_deref(),
            name: probed.server.encrypted.as_ref().map(|encrypted| &*encrypted.name),
            option: &probed.server.option,
            networks: probed.server.networks.iter().map(|at| &*compiled.networks[*at].name).collect(),
            from: probed.server.spot.map(|spot| {
                let at = sources.location(spot);
                FromForm { file: at.file, line: at.line }
            }),
            verdict: probed.verdict.name(),
            text: probed.verdict.text(),
            seconds: probed.time.as_secs_f64(),
        };
        Self { plan, servers: all.iter().map(one).collect() }
    }
}
