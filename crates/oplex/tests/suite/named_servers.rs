//! The servers that a plan names to clients.

use oplex::codebook::{Chapter, Codebook, Service};
use oplex::compiled::Compiled;
use oplex::plan::Plan;

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

/// A site's own option can name a service as well.
#[test]
fn a_book_of_ones_own_names_servers() {
    let book = "book = \"mill\"\ncarriers = [\"v4:43\"]\n\
                [[option]]\ncode = 1\nname = \"wheel\"\nlayout = \"{ server: ipv4, path: text }\"\nservice = \"web\"\n\
                [[option]]\ncode = 2\nname = \"flour\"\nlayout = \"name+\"\nservice = \"mail\"\n";
    let text = "codebooks = [\"mill.toml\"]\n[network.mill]\nsubnet = \"10.64.9.0/24\"\n\
                send.v4 = { \"mill:wheel\" = { server = \"10.64.0.12\", path = \"10.64.0.13\" }, domain-server = \"224.0.0.9\" }\n";
    let loaded = Plan::read("plan.toml", text, &mut |_| Ok(book.to_owned()));
    // What is no service is said where it stands.
    let wrong: Vec<&str> = loaded.findings.iter().map(|finding| finding.rule.name).collect();
    assert!(wrong.contains(&"value-wrong-kind"), "{:?}", loaded.findings);
    let book = book.replace("\"mail\"", "\"smtp\"");
    let loaded = Plan::read("plan.toml", text, &mut |_| Ok(book.clone()));
    let plan = loaded.plan.as_ref().unwrap();
    let compiled = Compiled::of(plan);
    let servers = compiled.servers();
    let shown: Vec<String> =
        servers.iter().map(|server| format!("{} {} {}", server.service.name(), server.host, server.option)).collect();
    // A group is nobody's address.
    assert_eq!(shown, ["web 10.64.0.12 mill:1 wheel", "web 10.64.0.13 mill:1 wheel"]);
}

/// Which standard option names which service.
#[test]
fn standard_options_name_services() {
    let codebook = Codebook::standard();
    let of = |service: Service| {
        let all = codebook.chapters().iter().flat_map(Chapter::options);
        let named = all.filter(|option| option.service == Some(service)).map(|option| option.id().to_string());
        named.collect::<Vec<_>>().join(" ")
    };
    let expected = [
        (Service::Router, "v4:3"),
        (Service::Dns, "v4:6 v6:23 ra:25"),
        (Service::Ntp, "v4:42 v6:31 v6:56"),
        (Service::Tftp, "v4:66 v4:150"),
        (Service::File, "v6:59"),
        (Service::Portal, "v4:114 v6:103 ra:37"),
        (Service::Sip, "v4:120 v6:21 v6:22"),
        (Service::Log, "v4:7"),
        (Service::Lpr, "v4:9"),
        (Service::Smtp, "v4:69"),
        (Service::Pop3, "v4:70"),
        (Service::Web, "v4:72"),
        (Service::Capwap, "v4:138 v6:52"),
        (Service::Ldap, "v4:95"),
        (Service::Iscsi, "v4:17"),
        (Service::Dnr, "v4:162 v6:144 ra:144"),
        (Service::Domain, "v4:15 v4:119 v6:24 ra:31"),
    ];
    assert_eq!(expected.len(), Service::ALL.len());
    for (service, options) in expected {
        assert_eq!(of(service), options, "{}", service.name());
    }
}

/// Name servers that are reached encrypted, as each protocol says it: by address or, without one, by name.
#[test]
fn encrypted_name_servers_say_how_they_are_reached() {
    let text = "[send.v4]\nv4-dnr = [{ priority = 1, authentication-domain = \"dns.tarnfell.example\", addresses = [\"10.64.0.53\", \
                \"10.64.0.54\"], parameters = { alpn = [{ text = \"dot\" }, { text = \"h2\" }], dohpath = \"/dns-query{?dns}\" } }, \
                { priority = 2, authentication-domain = \"other.tarnfell.example\", addresses = \"10.64.0.53\", parameters = { alpn = { \
                text = \"dot\" }, port = 8853 } }]\n[send.v6]\nv6-dnr = { priority = 0, authentication-domain = \"alias.tarnfell.example\" }\n\
                [network.a]\nsubnet = \"10.64.4.0/24\"\nprefix = \"2001:db8:64:4::/64\"\n[network.a.advertise]\nother = true\n\
                encrypted-name-servers = [{ priority = 1, name = \"dns.tarnfell.example\", addresses = [\"2001:db8:64::53\"], parameters = { \
                alpn = { text = \"doq\" } } }]\n";
    let loaded = Plan::read("plan.toml", text, &mut |_| Err("no such file".into()));
    let plan = loaded.plan.as_ref().unwrap();
    assert_eq!(loaded.findings.iter().map(|finding| &*finding.message).collect::<Vec<_>>(), [""; 0]);
    let compiled = Compiled::of(plan);
    let shown = compiled.servers().into_iter().filter_map(|server| {
        let own = server.encrypted?;
        let (protocols, networks) = (own.protocols.join("+"), server.networks.len());
        Some(format!("{} {} {protocols} {:?} {:?} {networks}", server.host, own.name, own.port, own.path))
    });
    assert_eq!(
        shown.collect::<Vec<_>>(),
        [
            "10.64.0.53 dns.tarnfell.example dot+h2 None Some(\"/dns-query{?dns}\") 0",
            "10.64.0.53 other.tarnfell.example dot Some(8853) None 0",
            "10.64.0.54 dns.tarnfell.example dot+h2 None Some(\"/dns-query{?dns}\") 0",
            "2001:db8:64::53 dns.tarnfell.example doq None None 1",
            "alias.tarnfell.example alias.tarnfell.example  None None 0",
        ]
    );
}
