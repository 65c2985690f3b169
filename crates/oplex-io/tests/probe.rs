//! Asking web servers: each answer that there may be, by a server of the test's own on the loopback interface.

#![allow(clippy::unwrap_used, reason = "a test stops where it cannot go on")]

use std::io::{Read, Write};
use std::net::TcpListener;
use std::time::Duration;

use oplex::compiled::Compiled;
use oplex::plan::Plan;
use oplex_io::probe::{Roots, probe};

/// Answers one request with this.
fn answering(reply: &'static str) -> u16 {
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let port = listener.local_addr().unwrap().port();
    std::thread::spawn(move || {
        let (mut stream, _) = listener.accept().unwrap();
        let mut request = [0; 4096];
        let _ = stream.read(&mut request);
        let _ = stream.write_all(reply.as_bytes());
    });
    port
}

#[test]
fn what_web_servers_answer_is_judged() {
    let portal = |body: &str| {
        let head = format!(
            "HTTP/1.1 200 OK\r\ncontent-type: application/captive+json\r\ncontent-length: {}\r\n\r\n",
            body.len()
        );
        &*Box::leak((head + body).into_boxed_str())
    };
    let file = |text: &'static str| ("send.v6 = { bootfile-url = \"http://127.0.0.1:PORT/x.efi\" }", text);
    let login = |text: &'static str| ("send.v4 = { dhcp-captive-portal = \"http://127.0.0.1:PORT/api\" }", text);
    let cases = [
        (file("HTTP/1.1 200 OK\r\ncontent-length: 4\r\n\r\nefi\n"), "answers: has it, 4 octets"),
        (file("HTTP/1.1 404 Not Found\r\ncontent-length: 0\r\n\r\n"), "wrong answer: answers with status 404"),
        (
            file("HTTP/1.1 302 Found\r\nlocation: http://10.64.0.99/\r\ncontent-length: 0\r\n\r\n"),
            "wrong answer: redirects to http://10.64.0.99/ (status 302), which is not followed",
        ),
        (login(portal("{\"captive\": false}")), "answers: says that clients are free"),
        (
            login(portal("{\"captive\": true, \"user-portal-url\": \"https://portal.tarnfell.example/\"}")),
            "answers: says that clients are captive",
        ),
        (login(portal("{\"captive\": true}")), "wrong answer: says that clients are captive, and no user-portal-url"),
        (
            login(portal("{\"captive\": true, \"user-portal-url\": \"http://portal.tarnfell.example/\"}")),
            "wrong answer: has the user-portal-url http://portal.tarnfell.example/, which is no https URI (RFC 8908, section 5)",
        ),
        (login(portal("[]")), "wrong answer: does not say whether clients are captive (RFC 8908, section 5)"),
        (login(portal("captive")), "wrong answer: is no JSON of a length that clients read"),
        (
            login("HTTP/1.1 200 OK\r\ncontent-type: text/html\r\ncontent-length: 2\r\n\r\nhi"),
            "wrong answer: is of text/html, and clients require application/captive+json (RFC 8908)",
        ),
    ];
    for ((send, reply), expected) in cases {
        let send = send.replace("PORT", &answering(reply).to_string());
        let text = format!("[network.desk]\nsubnet = \"10.64.4.0/24\"\nprefix = \"2001:db8:64:4::/64\"\n{send}\n");
        let plan = Plan::read("plan.toml", &text, &mut |_| Err("no such file".into())).plan.unwrap();
        let compiled = Compiled::of(&plan);
        let probed = probe(&compiled, &|_| true, Duration::from_secs(5), &Roots::default(), &|_, _| {});
        assert_eq!(probed.len(), 1, "{text}");
        assert_eq!(probed[0].verdict.to_string(), expected);
        assert_eq!(probed[0].verdict.is_bad(), expected.starts_with("wrong"));
    }
    // Nobody listens there, and a name that no name server of the plan gives an address for is not looked up elsewhere.
    for (send, expected) in [
        ("http://127.0.0.1:9/x.efi", "wrong answer: refuses connections"),
        ("http://localhost/x.efi", "not tried: the plan names no name server that would resolve it"),
    ] {
        let text =
            format!("[network.desk]\nprefix = \"2001:db8:64:4::/64\"\nsend.v6 = {{ bootfile-url = \"{send}\" }}\n");
        let plan = Plan::read("plan.toml", &text, &mut |_| Err("no such file".into())).plan.unwrap();
        let compiled = Compiled::of(&plan);
        let probed = probe(&compiled, &|_| true, Duration::from_secs(2), &Roots::default(), &|_, _| {});
        assert_eq!(probed[0].verdict.to_string(), expected);
    }
}

/// A server that sends an octet now and then holds nobody for longer than the timeout.
#[test]
fn who_answers_drop_by_drop_does_not_answer() {
    // The second time is over while nothing comes, the first one between two octets.
    for pause in [100, 700] {
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let port = listener.local_addr().unwrap().port();
        std::thread::spawn(move || {
            let (mut stream, _) = listener.accept().unwrap();
            // The head of a TLS record of 16 KB, and then its octets, which come one by one.
            let _ = stream.write_all(&[22, 3, 3, 0x40, 0]);
            while stream.write_all(&[0]).is_ok() {
                std::thread::sleep(Duration::from_millis(pause));
            }
        });
        let text = format!(
            "[network.desk]\nsubnet = \"10.64.4.0/24\"\nsend.v4.v4-dnr = {{ priority = 1, authentication-domain = \"dns.tarnfell.example\", \
             addresses = \"127.0.0.1\", parameters = {{ alpn = {{ text = \"dot\" }}, port = {port} }} }}\n"
        );
        let plan = Plan::read("plan.toml", &text, &mut |_| Err("no such file".into())).plan.unwrap();
        let compiled = Compiled::of(&plan);
        let probed = probe(&compiled, &|_| true, Duration::from_secs(1), &Roots::default(), &|_, _| {});
        assert_eq!(probed[0].verdict.to_string(), format!("no answer: TLS on TCP port {port} for 1 s"), "{pause}");
        assert!(probed[0].time < Duration::from_secs(5), "{:?}", probed[0].time);
    }
}
