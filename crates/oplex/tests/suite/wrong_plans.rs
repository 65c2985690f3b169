//! Plans that cannot work, as administrators write them: each is found, and what is nearly the same and right is not.

use crate::marked::in_plan;

/// A plan of both families with nothing wrong, but for what stands in it besides: in the network, in what that sends by DHCPv4 and
/// DHCPv6, and behind everything.
fn plan(network: &str, v4: &str, v6: &str, rest: &str) -> String {
    format!(
        "server = \"10.64.0.67\"\nserver-duid = \"00:03:00:01:00:00:5e:00:53:67\"\n[send.v4]\ndomain-server = [\"10.64.0.53\"]\n\
         domain-name = \"tarnfell.example\"\n[network.yard]\nsubnet = \"10.64.4.0/24\"\npool = [\"10.64.4.20-10.64.4.90\"]\n{network}\n\
         [network.yard.send.v4]\nrouter = \"10.64.4.1\"\n{v4}\n[network.yard.send.v6]\n{v6}\n{rest}\n"
    )
}

const BY_IPV6: &str =
    "prefix = \"2001:db8:64:4::/64\"\nadvertise = { other = true, name-servers = [\"2001:db8:64::53\"] }\n";

#[track_caller]
fn holds(text: &str, expected: &[&str]) {
    let found = in_plan(text);
    let spoken: Vec<String> = found.iter().map(|one| format!("{} {}", one.severity, one.rule.name)).collect();
    assert_eq!(spoken, expected, "{text}\n{found:#?}");
}

#[test]
fn addresses_are_held_against_the_links() {
    for (network, sent, expected) in [
        ("", "", &[][..]),
        ("", "subnet-mask = \"255.255.255.0\"", &[]),
        ("", "subnet-mask = \"255.255.255.255\"", &["error subnet-mask-differs"]),
        ("", "broadcast-address = \"10.64.4.255\"", &[]),
        ("", "broadcast-address = \"255.255.255.255\"", &[]),
        ("", "broadcast-address = \"10.64.4.127\"", &["error broadcast-address-differs"]),
        ("", "ntp-servers = [\"10.64.4.0\"]", &["error sent-address-of-no-host"]),
        ("", "ntp-servers = [\"10.64.4.255\"]", &["error sent-address-of-no-host"]),
        ("", "ntp-servers = [\"10.64.4.30\"]", &["error sent-address-leasable"]),
        ("", "classless-static-route = [\"0.0.0.0/0 via 10.64.4.1\", \"10.0.0.0/8 via 10.64.4.2\"]", &[]),
        ("", "classless-static-route = [\"0.0.0.0/0 via 10.64.4.1\", \"10.0.0.0/8 via 0.0.0.0\"]", &[]),
        (
            "",
            "classless-static-route = [\"0.0.0.0/0 via 10.64.4.1\", \"10.0.0.0/8 via 10.77.0.1\"]",
            &["error route-off-link"],
        ),
        (
            "",
            "static-route = { destination = \"10.9.0.1\", router = \"10.77.0.1\" }",
            &["warning option-obsolete", "error route-off-link"],
        ),
        ("", "netbios-node-type = \"h-node\"", &["warning netbios-without-servers"]),
        ("", "netbios-node-type = \"b-node\"", &[]),
        ("lease = \"infinite\"", "", &["warning lease-unusual"]),
        ("", "hostname = \"desk\"", &["warning host-name-for-many"]),
        ("", "ipv6-only-preferred = \"30m\"", &["warning ipv6-only-without-ipv6"]),
        ("ipv6 = \"elsewhere\"", "ipv6-only-preferred = \"30m\"", &[]),
        ("subnet = [\"10.64.5.0/24\"]", "", &["error file-not-toml"]),
    ] {
        holds(&plan(network, sent, "", ""), expected);
    }
    // A link with two subnets has two routers, two masks and two broadcast addresses.
    let two = |sent: &str| plan("", sent, "", "").replace("\"10.64.4.0/24\"", "[\"10.64.4.0/24\", \"10.65.4.0/24\"]");
    holds(&two("").replace("\"10.64.4.1\"", "[\"10.64.4.1\", \"10.65.4.1\"]"), &[]);
    holds(&two("broadcast-address = \"10.65.4.255\""), &["warning no-router"]);
    holds(&two("").replace("10.64.4.1\"", "10.66.4.1\""), &["error router-outside-subnet"]);
    for (server, wrong) in
        [("10.64.4.30", true), ("0.0.0.0", true), ("224.0.0.5", true), ("10.64.4.255", true), ("10.64.4.9", false)]
    {
        let expected = if wrong { &["error server-of-no-host"][..] } else { &[] };
        holds(&plan("", "", "", "").replace("10.64.0.67", server), expected);
    }
    // A mask for everyone fits no larger subnet, and a router of one network not the others.
    let wide =
        plan("", "", "", "[network.mast]\nsubnet = \"10.64.8.0/22\"\n[network.mast.send.v4]\nrouter = \"10.64.8.1\"");
    holds(&wide.replace("[send.v4]", "[send.v4]\nsubnet-mask = \"255.255.255.0\""), &["error subnet-mask-differs"]);
}

#[test]
fn clients_and_fleets_that_cannot_be_are_found() {
    let reserved = |mac: &str, more: &str| {
        plan(
            "",
            "",
            "",
            &format!("[[reservation]]\nnetwork = \"yard\"\nmac = \"{mac}\"\naddress = \"10.64.4.200\"\n{more}"),
        )
    };
    for (mac, wrong) in [
        ("02:00:5e:00:53:11", false),
        ("01:00:5e:00:00:01", true),
        ("ff:ff:ff:ff:ff:ff", true),
        ("00:00:00:00:00:00", true),
    ] {
        holds(&reserved(mac, ""), if wrong { &["error reservation-of-no-client"] } else { &[] });
    }
    holds(
        &reserved("02:00:5e:00:53:11", "send.v4 = { bootfile-name = \"a.efi\" }"),
        &["warning boot-file-without-server"],
    );
    holds(&reserved("02:00:5e:00:53:11", "send.v4 = { hostname = \"desk\" }"), &[]);
    // The machine belongs to a fleet that has the server.
    let fleet = "send.v4 = { bootfile-name = \"a.efi\" }\n[fleet.boot]\nmatch = { mac = \"02:00:5e:00:53:*\" }\n\
                 send.v4 = { server-name = \"boot.tarnfell.example\", bootfile-name = \"b.efi\" }";
    holds(&reserved("02:00:5e:00:53:11", fleet), &[]);
    for (matches, wrong) in [
        ("{ all = [{ vendor-class = \"Tern *\" }, { vendor-class = \"Gannet *\" }] }", true),
        ("{ vendor-class = \"Tern *\", all = { vendor-class = \"Tern D*\" } }", false),
        ("{ mac = \"02:00:5e:00:53:30-02:00:5e:00:53:3f\", none = [{ mac = \"02:00:5e:*\" }] }", true),
        ("{ mac = \"02:00:5e:*\", none = [{ mac = \"02:00:5e:00:53:30-02:00:5e:00:53:3f\" }] }", false),
        ("{ mac = \"02:*\", all = { mac = \"06:00:00:00:00:00-06:ff:ff:ff:ff:ff\" } }", true),
    ] {
        let other = format!("[fleet.odd]\nmatch = {matches}\nsend.v4 = {{ log-server = \"10.64.0.9\" }}");
        let expected = if wrong { &["error fleet-without-clients"][..] } else { &[] };
        holds(&plan("", "", "", &other), expected);
    }
    let boot = |one: &str, other: &str| {
        let fleet = |name: &str, arch: &str| {
            format!(
                "[fleet.{name}]\nmatch = {{ arch = \"{arch}\" }}\nsend.v4 = {{ log-server = \"10.64.0.{}\" }}\n",
                name.len()
            )
        };
        plan("", "", "", &(fleet("one", one) + &fleet("other", other)))
    };
    holds(&boot("x64-uefi", "x86-bios"), &[]);
    holds(&boot("x64-uefi", "7"), &["warning fleet-shadowed", "warning fleets-disagree"]);
    holds(&boot("x64-uefi", "-1"), &["error value-wrong-kind", "error key-missing"][..1]);
    let excluded = "exclude = [\"10.64.4.30-10.64.4.39\"]";
    let pool = "[fleet.terns]\nmatch = { vendor-class = \"Tern *\" }\non.yard.pool = [\"10.64.4.30-10.64.4.39\"]";
    holds(&plan(excluded, "", "", pool), &["warning pool-too-small"]);
}

#[test]
fn what_routers_advertise_is_held_against_what_hosts_do() {
    for (from, to, expected) in [
        ("", "", &[][..]),
        ("2001:db8:64:4::/64", "ff05::/64", &["error subnet-not-unicast"]),
        ("2001:db8:64:4::/64", "fe80::/64", &["error subnet-not-unicast", "warning ra-prefix-link-local"]),
        (
            "name-servers = [\"2001:db8:64::53\"]",
            "name-servers = [\"::ffff:10.0.0.1\"]",
            &["error server-out-of-scope"],
        ),
        ("name-servers = [\"2001:db8:64::53\"]", "name-servers = [\"fec0::53\"]", &["warning server-out-of-scope"]),
        ("other = true", "other = true, from = \"2001:db8::1\"", &["error advertised-from-elsewhere"]),
        ("other = true", "other = true, valid = 0", &["note ra-lifetime-zero"]),
        ("other = true, name-servers = [\"2001:db8:64::53\"]", "", &["error dhcpv6-not-used"]),
    ] {
        let network = if from.is_empty() { BY_IPV6.to_owned() } else { BY_IPV6.replace(from, to) };
        let v6 = "dns-servers = [\"2001:db8:64::53\"]";
        let v6 = if expected.iter().any(|one| one.contains("out-of-scope")) { "" } else { v6 };
        holds(&plan(&network, "", v6, ""), expected);
    }
    // Each prefix has its own flags and lifetimes.
    let two = "prefix = [\"2001:db8:64:4::/64\", { prefix = \"2001:db8:9:4::/64\", preferred = 0, valid = \"2h\" }]\n\
               advertise = { other = true, name-servers = [\"2001:db8:64::53\"] }";
    holds(&plan(two, "", "", ""), &["note ra-lifetime-zero"]);
    let delegates = "delegate = [\"2001:db8:6400::/40 as /56\", \"2001:db8:6480::/48 as /56\"]";
    holds(&plan(&format!("{BY_IPV6}{delegates}"), "", "", ""), &["error delegations-overlap"]);
    let bits = "delegate = [\"2001:db8:6401::/40 as /56\"]";
    holds(&plan(&format!("{BY_IPV6}{bits}"), "", "", ""), &["error subnet-host-bits-set"]);
    let other = "[send.v6]\ndns-servers = [\"fe80::53\"]\n[network.mast]\nprefix = \"2001:db8:64:5::/64\"\nadvertise = { other = true }";
    let v6_of_all = plan("prefix = \"2001:db8:64:4::/64\"\nadvertise = { other = true }", "", "", other);
    holds(&v6_of_all, &["warning server-out-of-scope"]);
}
