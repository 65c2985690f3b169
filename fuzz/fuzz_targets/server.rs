//! Any octets as requests, one after the other: a server replies with messages that can be read, or not at all.

#![no_main]

use std::sync::LazyLock;

use libfuzzer_sys::fuzz_target;
use oplex::compiled::Compiled;
use oplex::family::Protocol;
use oplex::packet::AnyMessage;
use oplex::packet::v4::COOKIE;
use oplex::plan::Plan;
use oplex::server::{InMemory, Ingress, Server};

const PLAN: &str = "server = \"10.64.0.67\"\nfqdn = \"*.tarnfell.example\"\n[network.yard]\nsubnet = [\"10.64.9.0/24\", \"10.64.10.0/24\"]\nprefix = \"2001:db8:64:9::/64\"\n\
    pool = [\"10.64.9.20-10.64.9.22\", \"2001:db8:64:9::100-2001:db8:64:9::101\"]\ndelegate = \"2001:db8:6400::/55 as /56\"\n\
    relay = [\"10.64.9.2\", \"2001:db8:64:9::1\"]\nboot = { server = \"10.64.0.80\", file = \"yard.efi\" }\n\
    send.v4 = { router = [\"10.64.9.1\", \"10.64.10.1\"] }\nsend.v6 = { dns-servers = \"2001:db8:64::53\" }\n\
    [fleet.some]\nmatch = { any = [{ vendor-class = \"T*\" }, { arch = 7 }, { user-class = \"*x\" }, { circuit-id = \"*\" }] }\nlease = \"1h\"\n\
    [[reservation]]\nnetwork = \"yard\"\nmac = \"00:00:00:00:00:07\"\naddress = \"10.64.9.7\"\nsend.v4 = { hostname = \"seven\" }\n";

static LOADED: LazyLock<Plan> =
    LazyLock::new(|| Plan::read("plan.toml", PLAN, &mut |_| Err(String::new().into())).plan.expect("it is a plan"));

fuzz_target!(|octets: &[u8]| {
    let compiled = Compiled::of(&LOADED);
    let (mut server, mut leases) = (Server::new(&compiled), InMemory::default());
    let mut rest = octets;
    // Each begins with what it is, and how long.
    while let [kind, length, more @ ..] = rest {
        let (body, left) = more.split_at(usize::from(*length).min(more.len()));
        rest = left;
        let request = match kind % 2 {
            0 => {
                let (hardware, options) = body.split_at(body.len().min(4));
                [&[1, 1, 6][..], &[0; 25], &[0, 0], hardware, &vec![0; 206 - hardware.len()], &COOKIE, options].concat()
            }
            _ => body.to_vec(),
        };
        leases.at(u64::from(*kind) * 100);
        if let Some(reply) = server.answer(&request, &Ingress::on("yard"), &mut leases) {
            assert!(
                [Protocol::V4, Protocol::V6]
                    .into_iter()
                    .any(|protocol| AnyMessage::read(protocol, reply.octets).is_ok())
            );
        }
    }
});
