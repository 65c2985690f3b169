//! `oplex new`: a plan to begin with.

use std::fs::OpenOptions;
use std::io::Write;
use std::net::Ipv4Addr;

use crate::args::New;
use crate::exit::{DONE, Failure, Outcome, because};

pub(super) fn run(args: &New, out: &mut dyn Write) -> Outcome {
    let text = starter(&args.network, &args.subnet)?;
    let Some(path) = &args.plan else {
        out.write_all(text.as_bytes())?;
        return Ok(DONE);
    };
    let shown = super::shown(path);
    let file = OpenOptions::new().write(true).create_new(true).open(path);
    match file.and_then(|mut file| file.write_all(text.as_bytes())) {
        Ok(()) => {
            writeln!(out, "{shown}: a starter plan for {}\nNext: oplex check {shown}", args.subnet)?;
            Ok(DONE)
        }
        Err(error) if error.kind() == std::io::ErrorKind::AlreadyExists => {
            because(format!("{shown}: the file already exists; choose another name, or remove it"))
        }
        Err(error) => because(format!("{shown}: {}", oplex_io::files::reason(&error))),
    }
}

/// The plan, with addresses out of the subnet.
fn starter(network: &str, subnet: &str) -> Result<String, Failure> {
    if network.is_empty() || !network.chars().all(|c| c.is_ascii_alphanumeric() || matches!(c, '-' | '_')) {
        return because(format!("`{network}` is not a network name; use letters, digits and hyphens"));
    }
    let (first, length) = subnet.split_once('/').unwrap_or((subnet, ""));
    let length = length.parse::<u32>().ok().filter(|length| (8..=28).contains(length));
    let (Ok(first), Some(length)) = (first.parse::<Ipv4Addr>(), length) else {
        return because(format!("`{subnet}` is not a subnet such as 10.64.4.0/24, from /8 to /28"));
    };
    let size = 1u32 << (32 - length);
    let base = u32::from(first) & !(size - 1);
    let host = |at: u32| Ipv4Addr::from(base + at);
    // The lower addresses stay free for machines that have theirs for ever.
    let (router, pool, last) = (host(1), host((size / 8).clamp(4, 50)), host(size - 2));
    let reserved = host(2);
    Ok(format!(
        r#"# What clients are sent. `oplex check` finds mistakes, `oplex rehearse` shows what one client is sent.

title = "A new plan"
lease = "12h"  # how long addresses are leased, unless a network sets its own

[send.v4]  # to everyone
domain-server = ["{router}"]  # the DNS servers; here the router answers
domain-name = "site.example"  # what completes short names
# ntp-servers = ["{router}"]

[network.{network}]
subnet = "{subnet}"
pool = ["{pool}-{last}"]
# exclude = ["{pool}"]  # addresses of the pool that are not leased

[network.{network}.send.v4]  # to everyone on this network
router = "{router}"

# Devices of one kind are sent more. `oplex lookup` finds options.
# [fleet.phones]
# match = {{ vendor-class = "Tern *" }}
# [fleet.phones.send.v4]
# tftp-server-address = ["{reserved}"]

[[reservation]]  # a single machine; many stand better in a CSV file
network = "{network}"
mac = "02:00:5e:00:53:01"
address = "{reserved}"
name = "printer"

[[expect]]  # what must hold; check proves it
client = {{ network = "{network}", mac = "02:00:5e:00:53:99" }}
address = "{pool}-{last}"
sent = {{ router = "{router}" }}
"#,
        subnet = format_args!("{}/{length}", host(0)),
    ))
}
