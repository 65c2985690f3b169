//! `oplex probe`: what is said where nothing can be asked. With servers it is tried in a namespace, see `namespaces`.

use snapbox::str;

use crate::oplex;

#[test]
fn what_cannot_be_asked_is_said() {
    oplex(&["probe", "demo/plan.toml", "--only", "ntpd"]).assert().code(2).stderr_eq(str![[r#"
oplex: there is no service `ntpd`; did you mean ntp? There are router, dns, ntp, tftp, file, portal, sip, log, lpr, smtp, pop3, web, capwap, ldap, iscsi, dnr

"#]]);
    oplex(&["probe", "demo/plan.toml", "--timeout", "2h"]).assert().code(2).stderr_eq(str![[r#"
oplex: --timeout is between a second and a minute

"#]]);
    oplex(&["probe", "demo/plan.toml", "--network", "mast", "--only", "portal"]).assert().code(0).stdout_eq(str![[
        r#"
The plan names no server that could be asked

"#
    ]]);
    // Nothing is sent to a server of whose protocols none is spoken here.
    let place = tempfile::tempdir().unwrap();
    let path = place.path().join("plan.toml");
    let plan = "[network.desk]\nprefix = \"2001:db8:64:4::/64\"\nadvertise = { managed = true }\n\
                [network.desk.send.v6]\nv6-dnr = { priority = 1, authentication-domain = \"dns.tarnfell.example\", addresses = \"::1\", \
                parameters = { alpn = { text = \"doq\" } } }\n";
    std::fs::write(&path, plan).unwrap();
    let json = oplex(&["probe", path.to_str().unwrap(), "--only", "dnr", "--format", "json"]).assert().code(0);
    let json: serde_json::Value = serde_json::from_slice(&json.get_output().stdout).unwrap();
    assert_eq!(json["format"], "oplex-probe/1");
    let first = &json["servers"][0];
    assert_eq!(
        (&first["service"], &first["host"], &first["name"], &first["verdict"], &first["text"], &first["from"]["line"]),
        (
            &"dnr".into(),
            &"::1".into(),
            &"dns.tarnfell.example".into(),
            &"not tried".into(),
            &"doq, by QUIC, is not tried".into(),
            &5.into()
        )
    );
}

/// What is wrong comes first, with the line that names the server; what answers comes behind it.
#[test]
fn what_is_wrong_comes_first() {
    let place = tempfile::tempdir().unwrap();
    let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let port = listener.local_addr().unwrap().port();
    // A web server that has the file, for as many requests as there are.
    std::thread::spawn(move || {
        for stream in listener.incoming() {
            let mut stream = stream.unwrap();
            let _ = std::io::Read::read(&mut stream, &mut [0; 4096]);
            let _ = std::io::Write::write_all(&mut stream, b"HTTP/1.1 200 OK\r\ncontent-length: 4\r\n\r\nefi\n");
        }
    });
    let plan = format!(
        "[network.good]\nprefix = \"2001:db8:64:4::/64\"\n\
         send.v6 = {{ bootfile-url = \"http://127.0.0.1:{port}/x.efi\" }}\n\
         [network.bad]\nprefix = \"2001:db8:64:5::/64\"\n\
         send.v6 = {{ bootfile-url = \"http://127.0.0.1:9/y.efi\" }}\n\
         [network.odd]\nprefix = \"2001:db8:64:6::/64\"\n\
         send.v6 = {{ bootfile-url = \"http://boot.tarnfell.example/z.efi\" }}\n"
    );
    let path = place.path().join("plan.toml");
    std::fs::write(&path, plan).unwrap();
    let path = path.to_str().unwrap();
    oplex(&["probe", path]).assert().code(1).stdout_eq(str![[r#"
Of 3 servers 1 gives a wrong answer, 1 was not tried

wrong answer  file    http://127.0.0.1:9/y.efi (127.0.0.1)  refuses connections
                      v6:59 bootfile-url, [..]plan.toml:6, [..] ms

answers       file    http://127.0.0.1:[..]/x.efi (127.0.0.1)  has it, 4 octets
                      v6:59 bootfile-url, [..]plan.toml:3, [..] ms
not tried     file    http://boot.tarnfell.example/z.efi  the plan names no name server that would resolve it
                      v6:59 bootfile-url, [..]plan.toml:9, [..] ms

"#]]);
    oplex(&["probe", path, "--network", "good"]).assert().code(0).stdout_eq(str![[r#"
The server answers

answers       file    http://127.0.0.1:[..]/x.efi (127.0.0.1)  has it, 4 octets
                      v6:59 bootfile-url, [..]plan.toml:3, [..] ms

"#]]);
}

/// Directories and disks are tried by a connection to the port that is named; a path that is no disk is nobody's.
#[test]
fn directories_and_disks_are_tried_by_a_connection() {
    let place = tempfile::tempdir().unwrap();
    let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let port = listener.local_addr().unwrap().port();
    let plan = format!(
        "[network.desk]\nsubnet = \"10.64.4.0/24\"\nprefix = \"2001:db8:64:4::/64\"\nadvertise = {{ managed = true }}\n\
         send.v4.router = \"10.64.4.1\"\nsend.v4.root-path = \"iscsi:127.0.0.1::{port}::iqn.2026-01.example.tarnfell:dome\"\n\
         send.v4.ldap = {{ text = \"ldap://127.0.0.1:{port}/dc=tarnfell\" }}\n\
         send.v6.bootfile-url = \"iscsi:[::ffff:127.0.0.1]:6:9:1:iqn.2026-01.example.tarnfell:mast\"\n\
         [network.yard]\nsubnet = \"10.64.5.0/24\"\nsend.v4 = {{ router = \"10.64.5.1\", root-path = \"127.0.0.1:/export/dome\" }}\n"
    );
    let path = place.path().join("plan.toml");
    std::fs::write(&path, plan).unwrap();
    let said = oplex(&["probe", path.to_str().unwrap(), "--only", "ldap,iscsi", "--format", "json"]).assert().code(1);
    let said: serde_json::Value = serde_json::from_slice(&said.get_output().stdout).unwrap();
    let mut shown: Vec<String> = said["servers"]
        .as_array()
        .unwrap()
        .iter()
        .map(|one| format!("{} {} {}", one["service"], one["verdict"], one["text"]).replace('"', ""))
        .collect();
    shown.sort_unstable();
    let expected = [
        "iscsi answers takes connections on TCP port ".to_owned() + &port.to_string(),
        "iscsi wrong answer refuses connections on TCP port 9".to_owned(),
        "ldap answers takes connections on TCP port ".to_owned() + &port.to_string(),
    ];
    assert_eq!(shown, expected);
}
