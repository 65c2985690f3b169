//! Rules about where clients boot from.

use std::net::Ipv4Addr;

use super::services::{at_key, find};
use crate::answer::{Audience, Chosen};
use crate::check::context::MessageContext;
use crate::check::declare::{BothSent, check, checks, v4_message, v4_plan};
use crate::finding::{Findings, Severity};

checks! {
    BOOT_FILE_WITHOUT_SERVER, BOOT_SERVERS_DIFFER, BOOT_OPTION_DIFFERS, BOOT_SERVER_BY_NAME, BOOT_FILE_OVERLOADED
}

check! { Answer(boot_file_without_server),
    /// a boot file is sent without its server, or a boot server without a file
    ///
    /// Clients look for the file on the DHCP server, or do not boot at all.
    static BOOT_FILE_WITHOUT_SERVER = "boot-file-without-server", Warning, Answer, "RFC 2132, section 9.5";
    v4_plan!("", "router = \"10.64.4.1\"\nbootfile-name = \"domes/controller.efi\"\n")
}

fn boot_file_without_server(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    let (file, server, addresses) = (find(sent, 67), find(sent, 66), find(sent, 150));
    let rule = &BOOT_FILE_WITHOUT_SERVER;
    match (file, server) {
        // A file may also be named by a whole URL.
        (Some(file), None) if addresses.is_none() && !is_url(file) => {
            let finding = rule.finding(format!("{audience}: a boot file is sent, but no server"));
            findings.extend(at_key(finding.advice("server-name or tftp-server-address in addition"), file));
        }
        (None, Some(server)) => {
            let finding = rule
                .finding(format!("{audience}: a boot server is sent, but no boot file"))
                .as_severity(Severity::Note);
            findings.extend(at_key(finding.advice("bootfile-name in addition"), server));
        }
        _ => {}
    }
}

fn is_url(chosen: &Chosen<'_>) -> bool {
    chosen.option.octets.as_ref().is_some_and(|octets| octets.windows(3).any(|three| three == b"://"))
}

check! { Answer(boot_servers_differ),
    /// the server name (66) is an address, and is not among the server addresses (150)
    ///
    /// Devices that read option 66 and devices that read option 150 fetch their files from two places, one of which is
    /// usually out of date.
    static BOOT_SERVERS_DIFFER = "boot-servers-differ", Warning, Answer, "RFC 5859, section 3";
    v4_plan!(
        "",
        "router = \"10.64.4.1\"\nbootfile-name = \"domes/controller.efi\"\nserver-name = \"10.64.0.80\"\n\
         tftp-server-address = [\"10.64.0.81\"]\n"
    )
}

fn boot_servers_differ(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    let (Some(name), Some(servers)) = (find(sent, 66), find(sent, 150)) else { return };
    let (Some(text), Some(addresses)) = (name.option.value(), servers.option.value()) else { return };
    let Ok(address) = text.to_string().parse::<Ipv4Addr>() else { return };
    if addresses.items().contains(&address.into()) || addresses.items().is_empty() {
        return;
    }
    let (Some(spot), Some(there)) = (name.option.spot(), servers.option.spot()) else { return };
    let message =
        format!("{audience}: server-name is {address}, which is not among the addresses in tftp-server-address");
    let finding = BOOT_SERVERS_DIFFER.finding(message).at(spot.clone());
    findings.push(finding.related(there.clone(), "the addresses"));
}

check! { Answer(boot_option_differs),
    /// an option that a layer sends differs from what `boot` says of the same thing
    ///
    /// The option is sent, and the header has what `boot` says: devices that read the one and devices that read the other boot from
    /// two places.
    static BOOT_OPTION_DIFFERS = "boot-option-differs", Warning, Answer, "RFC 2132, section 9.5";
    v4_plan!(
        "boot = { server = \"10.64.0.80\", file = \"domes/controller.efi\" }\n",
        "router = \"10.64.4.1\"\nbootfile-name = \"domes/old.efi\"\n"
    )
}

fn boot_option_differs(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    let layers = audience.layers();
    for choice in crate::answer::boot(&layers) {
        let boot = choice.boot;
        let own = &boot.option;
        let differs = |chosen: &&Chosen<'_>| chosen.option.is_same(own) && chosen.option.octets != own.octets;
        let Some(chosen) = sent.iter().flatten().find(differs).filter(|_| own.octets.is_some()) else { continue };
        let (Some(key), Some(beside)) = (chosen.option.key(), own.key()) else { continue };
        let label = own.definition.label();
        let message = format!("{audience}: {label} is not what `boot` says: {}", boot.text);
        let finding = BOOT_OPTION_DIFFERS.finding(message).at(key.clone());
        findings.push(finding.related(beside.clone(), "`boot` says so").advice("one of the two"));
    }
}

check! { Answer(boot_server_by_name),
    /// the boot server is given by its name alone
    ///
    /// `siaddr` stays 0.0.0.0 then. Many boot clients have no DNS, and ask the DHCP server for the file.
    static BOOT_SERVER_BY_NAME = "boot-server-by-name", Note, Answer, "RFC 2131, section 2";
    v4_plan!(
        "boot = { server = \"boot.tarnfell.example\", file = \"domes/controller.efi\" }\n",
        "router = \"10.64.4.1\"\n"
    )
}

fn boot_server_by_name(audience: &Audience<'_>, _: &BothSent<'_>, findings: &mut Findings) {
    let header = audience.boot();
    if let Some((host, spot)) =
        header.host.as_ref().filter(|_| header.server.is_none()).and_then(|host| Some((host, host.spot?)))
    {
        let message = format!("{audience}: the boot server is the name {}, and has no address", host.value);
        findings.push(
            BOOT_SERVER_BY_NAME
                .finding(message)
                .at(spot.clone())
                .advice("server = \"…\", its address, and host for the name"),
        );
    }
}

check! { Message(boot_file_overloaded),
    /// options stand in the header's `file` of a reply that has a boot file
    ///
    /// Boot clients that read the header, and not option 52, find options where they look for the file's name.
    static BOOT_FILE_OVERLOADED = "boot-file-overloaded", Warning, Message(V4), "RFC 2132, section 9.3";
    v4_message("type = \"offer\"\nchaddr = \"02:00:5e:00:53:11\"\nyiaddr = \"10.64.4.20\"\n[options]\n\
         dhcp-server-id = \"10.64.0.67\"\naddress-time = \"8h\"\nbootfile-name = \"domes/controller.efi\"\n\
         root-path = \"domes/a-path-of-more-octets-than-most-have-so-that-it-takes-the-room-of-many-others/and/on/and/on/to/here\"\n\
         merit-dump-file = \"domes/a-path-of-more-octets-than-most-have-so-that-it-takes-the-room-of-many-others/and/on/and/on/to/here\"\n\
         extension-file = \"domes/a-path-of-more-octets-than-most-have-so-that-it-takes-the-room-of-many-others/and/on/and/on/to\"\n\
         nis-domain = \"domes\"\n")
}

fn boot_file_overloaded(context: &MessageContext<'_>, findings: &mut Findings) {
    if context.overload() & 1 == 0 || !context.is_reply() {
        return;
    }
    if let Some(place) = context.option(67) {
        let message = "options stand in the header's `file`, where boot clients look for the boot file";
        let finding = BOOT_FILE_OVERLOADED.finding(message).on(context.around(place));
        findings.push(finding.advice("fewer or shorter options for clients that boot from the network"));
    }
}
