//! Rules about options that belong together in an answer, and about rules that a plan silences.

use super::{Check, Find, otherwise_fine};
use crate::answer::Told;
use crate::finding::{Finding, Rule, Severity};
use crate::layout::duration_text;
use crate::plan::Plan;

pub(super) static CHECKS: [&Check; 5] = [
    &BOOT_FILE_WITHOUT_SERVER,
    &BOOT_SERVERS_DIFFER,
    &NETBIOS_WITHOUT_NODE_TYPE,
    &SEARCH_WITHOUT_DOMAIN,
    &LEASE_UNUSUAL,
];

/// A plan's own word on its rules; it is looked at when all others have spoken.
pub(crate) static ALLOW_SILENCES_NOTHING: Rule = Rule {
    name: "allow-silences-nothing",
    severity: Severity::Warning,
    rfc: "",
    summary: "a plan allows what no rule finds, or what no plan may allow",
    why: "What it silenced is mended, or its name is misspelt, and one day it silences something new that nobody meant. \
          Errors are never silenced.",
    example: otherwise_fine!("", "router = \"10.64.4.1\"\n[check]\nallow = [\"no-domain\"]\n"),
};

/// Takes away the findings that the plan allows, and says what it allows in vain.
pub(super) fn silence(plan: &Plan, findings: &mut Vec<Finding>) {
    for (name, spot) in &plan.allowed {
        let before = findings.len();
        findings.retain(|finding| finding.rule.name != name || finding.severity == Severity::Error);
        if findings.len() == before {
            let message = format!("nothing that may be allowed is found by `{name}`");
            findings.push(ALLOW_SILENCES_NOTHING.finding(message).at(spot.clone()));
        }
    }
}

/// The option of this code, if it is told.
pub(super) fn told<'t, 'p>(all: &'t [Told<'p>], code: u16) -> Option<&'t Told<'p>> {
    all.iter().find(|told| told.sent.definition.is_top_level() && told.sent.definition.code == code)
}

static BOOT_FILE_WITHOUT_SERVER: Check = Check {
    rule: Rule {
        name: "boot-file-without-server",
        severity: Severity::Warning,
        rfc: "RFC 2132, section 9.5",
        summary: "devices are told a boot file and no server that has it, or the server's name and no file",
        why: "They look for the file where they got the address, or do not boot at all.",
        example: otherwise_fine!("", "router = \"10.64.4.1\"\nbootfile-name = \"domes/controller.efi\"\n"),
    },
    find: Find::Told(|whom, all, findings| {
        let (file, server, addresses) = (told(all, 67), told(all, 66), told(all, 150));
        let rule = &BOOT_FILE_WITHOUT_SERVER.rule;
        match (file, server) {
            // A file may also be named by a whole URL.
            (Some(file), None) if addresses.is_none() && !is_url(file) => {
                let finding = rule.finding(format!("{whom}: a boot file, and no server that has it"));
                let finding = finding.at(file.sent.key.clone());
                findings.push(finding.instead("server-name or tftp-server-address beside it"));
            }
            (None, Some(server)) => {
                let finding = rule.finding(format!("{whom}: a boot server, and no file")).as_severity(Severity::Note);
                findings.push(finding.at(server.sent.key.clone()).instead("bootfile-name beside it"));
            }
            _ => {}
        }
    }),
};

static BOOT_SERVERS_DIFFER: Check = Check {
    rule: Rule {
        name: "boot-servers-differ",
        severity: Severity::Warning,
        rfc: "RFC 5859, section 3",
        summary: "the server's name (66) is an address, and not among the addresses of the servers (150)",
        why: "Devices that read the one and devices that read the other fetch their files from two places, of which one is \
              usually forgotten.",
        example: otherwise_fine!(
            "",
            "router = \"10.64.4.1\"\nbootfile-name = \"domes/controller.efi\"\nserver-name = \"10.64.0.80\"\n\
             tftp-server-address = [\"10.64.0.81\"]\n"
        ),
    },
    find: Find::Told(|whom, all, findings| {
        let (Some(name), Some(servers)) = (told(all, 66), told(all, 150)) else { return };
        let text = name.sent.payload().map(|payload| payload.value.to_string()).unwrap_or_default();
        let Ok(address) = text.parse::<std::net::Ipv4Addr>() else { return };
        let known = servers.sent.addresses();
        if !known.is_empty() && !known.iter().any(|(known, ..)| *known == address) {
            let message = format!("{whom}: the server's name says {address}, and the servers' addresses do not");
            let finding = BOOT_SERVERS_DIFFER.rule.finding(message).at(name.sent.spot.clone());
            findings.push(finding.related(servers.sent.spot.clone(), "the addresses"));
        }
    }),
};

fn is_url(told: &Told<'_>) -> bool {
    told.sent.payload().is_some_and(|payload| payload.octets.windows(3).any(|three| three == b"://"))
}

static NETBIOS_WITHOUT_NODE_TYPE: Check = Check {
    rule: Rule {
        name: "netbios-without-node-type",
        severity: Severity::Note,
        rfc: "RFC 2132, section 8.7",
        summary: "devices are told NetBIOS name servers and not whether to ask them (46)",
        why: "Without a node type many ask by broadcast alone, and the servers are never used.",
        example: otherwise_fine!("", "router = \"10.64.4.1\"\nnetbios-name-srv = \"10.64.0.64\"\n"),
    },
    find: Find::Told(|whom, all, findings| {
        let Some(servers) = told(all, 44).filter(|_| told(all, 46).is_none()) else { return };
        let finding = NETBIOS_WITHOUT_NODE_TYPE.rule.finding(format!("{whom}: name servers, and no node type"));
        findings.push(finding.at(servers.sent.key.clone()).instead("netbios-node-type = \"h-node\""));
    }),
};

static SEARCH_WITHOUT_DOMAIN: Check = Check {
    rule: Rule {
        name: "search-without-domain",
        severity: Severity::Note,
        rfc: "RFC 3397, section 4",
        summary: "devices are told domains to search and no domain of their own (15)",
        why: "Some take the first domain searched for their own, some have none and register nowhere.",
        example: otherwise_fine!(
            "withhold = [\"domain-name\"]\n",
            "router = \"10.64.4.1\"\ndomain-search = [\"tarnfell.example\"]\n"
        ),
    },
    find: Find::Told(|whom, all, findings| {
        let Some(search) = told(all, 119).filter(|_| told(all, 15).is_none()) else { return };
        let finding = SEARCH_WITHOUT_DOMAIN.rule.finding(format!("{whom}: domains to search, and no domain-name"));
        findings.push(finding.at(search.sent.key.clone()));
    }),
};

static LEASE_UNUSUAL: Check = Check {
    rule: Rule {
        name: "lease-unusual",
        severity: Severity::Warning,
        rfc: "",
        summary: "a lease of less than five minutes, or of more than ninety days",
        why: "Short leases keep clients and servers busy, and every outage of the server is one of the network. Long ones \
              hold addresses of machines that are long gone, and keep old values alive.",
        example: otherwise_fine!("lease = \"2m\"\n"),
    },
    find: Find::Plan(|plan, findings| {
        for layer in plan.layers() {
            let Some((lease, spot)) = &layer.lease else { continue };
            let short = *lease < 300;
            if short || (*lease > 90 * 86_400 && *lease != u32::MAX) {
                let message = format!("{} lends addresses for {}", layer.name, duration_text(*lease));
                let finding = LEASE_UNUSUAL.rule.finding(message).at(spot.clone());
                findings.push(finding.instead(if short {
                    "lease = \"1h\", or more"
                } else {
                    "lease = \"30d\", or less"
                }));
            }
        }
    }),
};
