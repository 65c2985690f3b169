//! Any octets as a capture file: it is read to its end, and audited against a plan.

#![no_main]

use std::path::Path;
use std::sync::LazyLock;

use libfuzzer_sys::fuzz_target;
use oplex::audit::{Audit, Checker, Policy};
use oplex::compiled::Compiled;
use oplex::plan::Plan;
use oplex_io::capture::{Capture, Item};

const PLAN: &str = "server = \"10.64.0.67\"\nserver-duid = \"00:03:00:01:00:00:5e:00:53:67\"\n[network.yard]\n\
    subnet = \"10.64.4.0/23\"\nprefix = \"2001:db8:64:4::/64\"\n\
    pool = [\"10.64.4.20-10.64.5.250\", \"2001:db8:64:4::1000-2001:db8:64:4::1fff\"]\ndelegate = \"2001:db8:6400::/55 as /56\"\n\
    advertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n\
    send.v4 = { router = \"10.64.4.1\", domain-server = \"10.64.0.53\" }\nsend.v6 = { dns-servers = \"2001:db8:64::53\" }\n\
    [fleet.some]\nmatch = { any = [{ vendor-class = \"T*\" }, { arch = 7 }] }\nlease = \"1h\"\n\
    [[reservation]]\nnetwork = \"yard\"\nmac = \"02:00:5e:00:53:07\"\naddress = \"10.64.4.7\"\n";

static LOADED: LazyLock<Plan> =
    LazyLock::new(|| Plan::read("plan.toml", PLAN, &mut |_| Err(String::new().into())).plan.expect("it is a plan"));

fuzz_target!(|octets: &[u8]| {
    let Ok(capture) = Capture::of_octets(octets.to_vec(), Path::new("x")) else { return };
    let compiled = Compiled::of(&LOADED);
    let mut audit = Audit::against(&compiled, Policy::default());
    let mut checker = Checker::new(&compiled.codebook);
    for item in capture {
        if let Item::Message(message) = item {
            let found = checker.findings(&message.seen);
            assert!(
                found
                    .iter()
                    .all(|finding| finding.octets.as_ref().is_none_or(|at| at.end <= message.seen.octets.len()))
            );
            audit.add(&message.seen, found);
        }
    }
    let summary = audit.finish();
    let told: usize = audit.closed().map(|one| one.findings.len()).sum();
    assert!(told as u64 <= summary.kinds.iter().map(|kind| kind.count).sum::<u64>());
});
