//! The servers that a plan tells clients to use.

use oplex::compiled::Compiled;

use crate::servers::demo;

#[test]
fn each_server_is_named_once_with_its_line_and_its_networks() {
    let loaded = demo();
    let plan = loaded.plan.as_ref().unwrap();
    let compiled = Compiled::of(plan);
    let shown: Vec<String> = compiled
        .servers()
        .iter()
        .map(|server| {
            let line = loaded.sources.location(server.spot.expect("it is in the plan")).line;
            let networks: Vec<&str> = server.networks.iter().map(|at| &*plan.networks[*at].name).collect();
            let file = server.file.as_ref().map(|file| format!(" {file}")).unwrap_or_default();
            let service = server.service.name();
            format!("{service} {}{file}, {}, line {line}: {}", server.host, server.option, networks.join(" "))
        })
        .collect();
    let expected = [
        "router 10.64.4.1, v4:3 router, line 33: control-room",
        "router 10.64.6.1, v4:3 router, line 45: intercoms",
        "router 10.64.7.1, v4:3 router, line 53: radios",
        "router 10.64.8.1, v4:3 router, line 65: domes",
        "router 10.64.16.1, v4:3 router, line 89: visitors",
        "dns 10.64.0.53, v4:6 domain-server, line 15: ",
        "dns 10.64.0.54, v4:6 domain-server, line 15: ",
        "dns 2001:db8:64::53, v6:23 dns-servers, line 20: ",
        "dns 2001:db8:64::54, v6:23 dns-servers, line 20: ",
        "ntp 10.64.0.123, v4:42 ntp-servers, line 17: ",
        "ntp 2001:db8:64::123, v6:56 ntp-server, line 109: mast",
        "tftp 10.64.0.80, v4:150 tftp-server-address, line 118: ",
        "tftp 10.64.0.80 domes/controller.efi, v4:150 tftp-server-address, line 147: ",
        "tftp 10.64.0.80 domes/third.efi, v4:150 tftp-server-address, line 159: domes",
        "file http://boot.tarnfell.example/controller.efi, v6:59 bootfile-url, line 150: ",
        "file http://boot.tarnfell.example/third.efi, v6:59 bootfile-url, line 159: domes",
        "portal https://portal.tarnfell.example/api, v4:114 dhcp-captive-portal, line 91: visitors",
        "capwap 10.64.0.90, v4:138 capwap-ac-v4, line 136: ",
        "capwap 10.64.0.91, v4:138 capwap-ac-v4, line 136: ",
    ];
    assert_eq!(shown, expected);
    assert_eq!(compiled.domains(), ["tarnfell.example", "domes.tarnfell.example", "visitors.tarnfell.example"]);
}
