//! `oplex probe` in front of real servers, good and broken ones, in a namespace of their own.

use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use serde_json::Value;

use super::{Bench, Running, ip, is_there, must};

/// A machine with these addresses, on which servers run.
struct Machine {
    space: &'static str,
    folder: tempfile::TempDir,
    running: Vec<Running>,
}

impl Machine {
    fn new(space: &'static str, addresses: &[&str]) -> Self {
        let machine = Self { space, folder: tempfile::tempdir().unwrap(), running: Vec::new() };
        machine.remove();
        ip(&format!("netns add {space}"));
        ip(&format!("-n {space} link set lo up"));
        for address in addresses {
            ip(&format!("-n {space} addr add {address}/32 dev lo"));
        }
        must(Command::new("chmod").arg("755").arg(machine.folder.path()));
        machine
    }

    fn remove(&self) {
        let _ = Command::new("ip").args(["netns", "del", self.space]).stderr(Stdio::null()).status();
    }

    fn place(&self) -> &str {
        self.folder.path().to_str().unwrap()
    }

    fn write(&self, name: &str, text: impl AsRef<[u8]>) {
        let path = self.folder.path().join(name);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(path, text).unwrap();
    }

    fn start(&mut self, program: &str, args: &str) {
        let mut command = Bench::within(self.space, program);
        command.args(args.split(' ')).stdout(Stdio::null()).stderr(Stdio::null());
        self.running.push(Running(command.spawn().unwrap()));
    }

    /// A name server on an address, with zones and what else there is to say.
    fn names(&mut self, address: &str, more: &str) {
        let (place, file) = (self.place().to_owned(), format!("names-{address}.conf"));
        let text = format!(
            "server:\n directory: \"{place}\"\n chroot: \"\"\n username: \"\"\n pidfile: \"\"\n interface: {address}\n \
             access-control: 10.0.0.0/8 allow\n do-daemonize: no\n use-syslog: no\n{more}"
        );
        self.write(&file, text);
        self.start("unbound", &format!("-d -c {place}/{file}"));
    }

    /// What the probe of a plan says of these servers, once `ready` finds in it that they have begun.
    fn probed<const N: usize>(
        &self,
        args: &[&str],
        wanted: [(&str, &str, Option<&str>); N],
        ready: impl Fn(&[String; N]) -> bool,
    ) -> [String; N] {
        let began = Instant::now();
        loop {
            let mut probe = Bench::within(self.space, env!("CARGO_BIN_EXE_oplex"));
            let output = probe.args(["probe", "--timeout", "1s", "--format", "json"]).args(args).output().unwrap();
            assert_eq!(output.status.code(), Some(1), "{output:?}");
            let said: Value = serde_json::from_slice(&output.stdout).unwrap();
            let said_of = |one: &Value| one["file"].as_str().or(one["name"].as_str()).map(str::to_owned);
            let servers = said["servers"].as_array().unwrap().clone();
            let all = wanted.map(|(service, host, file)| {
                let is =
                    |one: &&Value| one["service"] == service && one["host"] == host && said_of(one).as_deref() == file;
                let one = servers.iter().find(is).unwrap_or_else(|| panic!("{service} {host}"));
                format!("{}: {}", one["verdict"].as_str().unwrap(), one["text"].as_str().unwrap())
            });
            if ready(&all) || began.elapsed() > Duration::from_secs(20) {
                break all;
            }
            std::thread::sleep(Duration::from_millis(300));
        }
    }
}

impl Drop for Machine {
    fn drop(&mut self) {
        self.running.clear();
        self.remove();
    }
}

const SOA: &str = "3600 IN SOA ns.tarnfell.example. root.tarnfell.example. 1 3600 600 86400 3600";

fn zones(names: &[&str]) -> String {
    names.iter().map(|name| format!(" local-data: \"{name} {SOA}\"\n")).collect()
}

/// Servers of a network as the demo names them, of which one file is missing and one name server is dead.
#[test]
#[ignore = "needs network namespaces and real servers"]
fn servers_are_asked_for_what_the_plan_needs() {
    if !["unbound", "chronyd", "in.tftpd", "nginx"].iter().all(|program| is_there(&format!("/usr/sbin/{program}"))) {
        return;
    }
    let addresses = ["10.64.0.53", "10.64.0.54", "10.64.0.80", "10.64.0.123", "10.64.4.1"];
    let mut machine = Machine::new("oplex-probe", &addresses);
    let place = machine.place().to_owned();
    machine.write("files/domes/controller.efi", "efi\n");
    let domains =
        zones(&["tarnfell.example.", "domes.tarnfell.example.", "visitors.tarnfell.example.", "10.in-addr.arpa."]);
    machine.names(
        "10.64.0.53",
        &format!(
            " local-zone: \"example.\" static\n local-zone: \"10.in-addr.arpa.\" static\n \
             local-data: \"boot.tarnfell.example. 3600 IN A 10.64.0.80\"\n{domains}"
        ),
    );
    machine.write(
        "clock.conf",
        format!("bindaddress 10.64.0.123\nallow all\nlocal stratum 8\ncmdport 0\nbindcmdaddress /\npidfile {place}/clock.pid\n"),
    );
    machine.write(
        "pages.conf",
        format!(
            "daemon off; pid {place}/pages.pid; error_log stderr; events {{}} http {{ access_log off; \
             server {{ listen 10.64.0.80:80; root {place}/files/domes; }} }}"
        ),
    );
    machine.start("chronyd", &format!("-x -d -f {place}/clock.conf"));
    machine.start("nginx", &format!("-e stderr -c {place}/pages.conf"));
    machine.start("in.tftpd", &format!("-L --address 10.64.0.80:69 -s {place}/files"));
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/plan.toml");
    let wanted = [
        ("dns", "10.64.0.53", None),
        ("dns", "10.64.0.54", None),
        ("ntp", "10.64.0.123", None),
        ("tftp", "10.64.0.80", Some("domes/controller.efi")),
        ("tftp", "10.64.0.80", Some("domes/third.efi")),
        ("file", "http://boot.tarnfell.example/controller.efi", None),
        ("file", "http://boot.tarnfell.example/third.efi", None),
        ("portal", "https://portal.tarnfell.example/api", None),
        ("router", "10.64.4.1", None),
        ("router", "10.64.6.1", None),
    ];
    let ready = |all: &[String; 10]| [0, 2, 3, 5].iter().all(|at| all[*at].starts_with("answers"));
    let mut said = machine.probed(&[demo.to_str().unwrap()], wanted, ready);
    // How far the clock is off, and how long an echo takes, is another thing each time.
    said[2].truncate(said[2].find(',').unwrap_or(said[2].len()));
    said[8].truncate(said[8].find(" after").unwrap_or(said[8].len()));
    let expected = [
        "answers: authoritative and recursive, by UDP and TCP, about 11 zones; no machine has a name in 8 reverse zones",
        "wrong answer: nothing listens on UDP port 53",
        "answers: stratum 8",
        "answers: has domes/controller.efi, 4 octets",
        "wrong answer: has no file domes/third.efi",
        "answers: has it, 4 octets",
        "wrong answer: answers with status 404",
        "wrong answer: the plan's name servers have no address for portal.tarnfell.example",
        "answers: an echo",
        "not tried: this machine is on no network that leads there",
    ];
    assert_eq!(said, expected);
}

/// A site that signs its own certificates: of a name server and a captive portal, one that is for another name, a zone whose
/// signatures are missing, and a log server that nobody runs.
#[test]
#[ignore = "needs network namespaces and real servers"]
fn what_is_encrypted_or_signed_is_held_against_who_is_trusted() {
    if !["/usr/sbin/unbound", "/usr/sbin/nginx", "openssl"].iter().all(|program| is_there(program)) {
        return;
    }
    let addresses = ["10.64.0.52", "10.64.0.53", "10.64.0.55", "10.64.0.80"];
    let mut machine = Machine::new("oplex-tls", &addresses);
    let place = machine.place().to_owned();
    let openssl = |args: &str| must(Command::new("openssl").args(args.split(' ')).current_dir(&place));
    openssl("req -x509 -newkey rsa:2048 -nodes -keyout ca.key -out ca.pem -days 2 -subj /CN=Tarn");
    for name in ["dns", "portal"] {
        machine.write(&format!("{name}.ext"), format!("subjectAltName=DNS:{name}.tarnfell.example\n"));
        openssl(&format!("req -newkey rsa:2048 -nodes -keyout {name}.key -out {name}.csr -subj /CN={name}"));
        let sign = "-CA ca.pem -CAkey ca.key -CAcreateserial -days 2";
        openssl(&format!("x509 -req -in {name}.csr {sign} -extfile {name}.ext -out {name}.pem"));
    }
    // The zone is to be signed, says who is trusted, and the server that has it signs nothing.
    machine
        .names("10.64.0.55", &format!(" local-zone: \"tarnfell.example.\" static\n{}", zones(&["tarnfell.example."])));
    machine.names(
        "10.64.0.53",
        &format!(
            " module-config: \"validator iterator\"\n trust-anchor: \"tarnfell.example. DS 32473 8 2 {}\"\n\
             stub-zone:\n name: \"tarnfell.example.\"\n stub-addr: 10.64.0.55\n",
            "5a".repeat(32)
        ),
    );
    let tls = format!(
        " interface: 10.64.0.52@853\n interface: 10.64.0.52@443\n tls-service-key: {place}/dns.key\n tls-service-pem: {place}/dns.pem\n \
         local-zone: \"tarnfell.example.\" static\n local-data: \"portal.tarnfell.example. 3600 IN A 10.64.0.80\"\n{}",
        zones(&["tarnfell.example."])
    );
    machine.names("10.64.0.52", &tls);
    machine.write("api", "{\"captive\": false}");
    machine.write(
        "pages.conf",
        format!(
            "daemon off; pid {place}/pages.pid; error_log stderr; events {{}} http {{ access_log off; server {{ \
             listen 10.64.0.80:443 ssl; ssl_certificate {place}/portal.pem; ssl_certificate_key {place}/portal.key; \
             location = /api {{ root {place}; default_type application/captive+json; }} }} }}"
        ),
    );
    machine.start("nginx", &format!("-e stderr -c {place}/pages.conf"));
    machine.write(
        "plan.toml",
        "[send.v4]\ndomain-name = \"tarnfell.example\"\ndomain-server = [\"10.64.0.53\", \"10.64.0.52\"]\nlog-server = \"10.64.0.80\"\n\
         dhcp-captive-portal = \"https://portal.tarnfell.example/api\"\n\
         v4-dnr = [{ priority = 1, authentication-domain = \"dns.tarnfell.example\", addresses = \"10.64.0.52\", parameters = { \
         alpn = [{ text = \"dot\" }, { text = \"h2\" }, { text = \"doq\" }] } }, { priority = 2, authentication-domain = \"other.tarnfell.example\", addresses = \
         \"10.64.0.52\", parameters = { alpn = { text = \"dot\" } } }, { priority = 3, authentication-domain = \"dns.tarnfell.example\", \
         addresses = \"10.64.0.80\", parameters = { alpn = { text = \"dot\" }, port = 443 } }]\n\
         [network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\nsend.v4.router = \"10.64.4.1\"\n",
    );
    let wanted = [
        ("dns", "10.64.0.53", None),
        ("dnr", "10.64.0.52", Some("dns.tarnfell.example")),
        ("dnr", "10.64.0.52", Some("other.tarnfell.example")),
        ("dnr", "10.64.0.80", Some("dns.tarnfell.example")),
        ("portal", "https://portal.tarnfell.example/api", None),
        ("log", "10.64.0.80", None),
    ];
    let ready = |all: &[String; 6]| !all[..5].iter().any(|one| one.contains("listens") || one.contains("refuses"));
    let (plan, ca) = (format!("{place}/plan.toml"), format!("{place}/ca.pem"));
    let said = machine.probed(&[&plan, "--ca", &ca], wanted, |all| ready(all) && all[4].starts_with("answers"));
    let expected = [
        "wrong answer: finds the signatures of tarnfell.example wrong (DNSSEC bogus)",
        "answers: dot on TCP port 853; h2 on TCP port 443; doq, by QUIC, is not tried",
        "wrong answer: its certificate is not for other.tarnfell.example (TCP port 853)",
        "wrong answer: does not speak dot (TCP port 443)",
        "answers: says that clients are free",
        "wrong answer: nothing listens on UDP port 514",
    ];
    assert_eq!(said, expected);
    // The common roots know nothing of the site's own.
    let strangers = machine.probed(&[&plan], wanted, ready);
    assert_eq!(strangers[1], "wrong answer: its certificate is by an issuer that is not trusted (TCP port 853)");
    assert_eq!(strangers[4], "wrong answer: its certificate is by an issuer that is not trusted");
    let mut probe = Bench::within(machine.space, env!("CARGO_BIN_EXE_oplex"));
    let output = probe.args(["probe", &plan, "--ca", &plan]).output().unwrap();
    assert_eq!(output.status.code(), Some(2));
    let said = String::from_utf8_lossy(&output.stderr).into_owned();
    assert!(said.ends_with("it has no certificate of an issuer in PEM (-----BEGIN CERTIFICATE-----)\n"), "{said}");
}
