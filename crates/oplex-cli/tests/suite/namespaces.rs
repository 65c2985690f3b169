//! The lab's server in front of real clients, in network namespaces that the test makes and takes away again. It needs the rights of
//! an administrator, and clients: `.ci/run` installs them and runs this; what is not installed is said.

#![allow(clippy::print_stdout, reason = "what is not tried is said")]

mod servers;

use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use serde_json::Value;

use crate::oplex;

const MAC: &str = "02:00:5e:00:53:21";

/// Two machines with a cable between them.
struct Bench {
    server: String,
    client: String,
    folder: tempfile::TempDir,
}

fn must(command: &mut Command) -> String {
    let output = command.output().unwrap_or_else(|error| panic!("{command:?}: {error}"));
    let said = |octets: &[u8]| String::from_utf8_lossy(octets).into_owned();
    assert!(output.status.success(), "{command:?}: {}{}", said(&output.stdout), said(&output.stderr));
    said(&output.stdout)
}

fn ip(args: &str) {
    must(Command::new("ip").args(args.split(' ')));
}

impl Bench {
    fn new(name: &str) -> Self {
        let (server, client) = (format!("oplex-{name}-s"), format!("oplex-{name}-c"));
        let bench = Self { server, client, folder: tempfile::tempdir().unwrap() };
        bench.remove();
        let Self { server, client, .. } = &bench;
        ip(&format!("netns add {server}"));
        ip(&format!("netns add {client}"));
        ip(&format!("link add lab0 netns {server} type veth peer name lab1 netns {client}"));
        ip(&format!("-n {client} link set lab1 address {MAC}"));
        for (space, link) in [(server, "lab0"), (client, "lab1")] {
            ip(&format!("-n {space} link set lo up"));
            ip(&format!("-n {space} link set {link} up"));
        }
        // The server's own address, and those of the router on the networks that are tried.
        for address in ["10.64.0.67/32", "10.64.4.1/23", "10.64.8.1/21"] {
            ip(&format!("-n {server} addr add {address} dev lab0"));
        }
        bench
    }

    fn remove(&self) {
        for space in [&self.server, &self.client] {
            let _ = Command::new("ip").args(["netns", "del", space]).stderr(Stdio::null()).status();
        }
    }

    fn within(space: &str, program: &str) -> Command {
        let mut command = Command::new("ip");
        command.args(["netns", "exec", space, program]);
        command
    }

    /// A program where the clients are.
    fn client(&self, program: &str) -> Command {
        Self::within(&self.client, program)
    }

    /// A script there, whose mounts nobody else sees.
    fn script(&self, text: &str) -> String {
        let mut command = self.client("unshare");
        let output = command.args(["-m", "sh", "-c", text]).output().unwrap();
        String::from_utf8_lossy(&output.stdout).into_owned() + &String::from_utf8_lossy(&output.stderr)
    }

    /// The lab's server for a network of the demo, once it answers.
    fn serve(&self, network: &str, more: &[&str]) -> Running {
        let mut command = Self::within(&self.server, env!("CARGO_BIN_EXE_oplex"));
        let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
        command.args(["lab", "serve", "demo/plan.toml", "--interface", "lab0", "--network", network, "--for", "5m"]);
        let mut child = command.args(more).current_dir(root).stdout(Stdio::piped()).spawn().unwrap();
        let mut lines = BufReader::new(child.stdout.take().unwrap()).lines();
        let began = lines.by_ref().map_while(Result::ok).any(|line| line.starts_with("answering on lab0"));
        assert!(began, "the server does not begin");
        // Whoever logs must be read.
        std::thread::spawn(move || lines.for_each(drop));
        Running(child)
    }

    /// A file for a client to leave its environment in, and the script that does so.
    fn hook(&self, name: &str) -> (std::path::PathBuf, std::path::PathBuf) {
        let (script, left) = (self.folder.path().join(format!("{name}.sh")), self.folder.path().join(name));
        std::fs::write(&script, format!("#!/bin/sh\nenv >> {}\nexit 0\n", left.display())).unwrap();
        must(Command::new("chmod").arg("755").arg(&script));
        (script, left)
    }
}

impl Drop for Bench {
    fn drop(&mut self) {
        self.remove();
    }
}

/// A program that is told to end when it is not needed any more.
struct Running(Child);

impl Drop for Running {
    fn drop(&mut self) {
        let _ = Command::new("kill").args(["-TERM", &self.0.id().to_string()]).status();
        let _ = self.0.wait();
    }
}

fn is_there(program: &str) -> bool {
    let found = Path::new(program).exists()
        || std::env::var("PATH").unwrap_or_default().split(':').any(|folder| Path::new(folder).join(program).exists());
    if !found {
        println!("{program} is not installed: not tried");
    }
    found
}

/// What the plan has for the client by DHCPv4: the value of an option as text.
fn rehearsed(args: &[&str]) -> impl Fn(&str) -> String {
    let assert = oplex(&[&["rehearse", "demo/plan.toml", "--format", "json"], args].concat()).assert();
    let said: Value = serde_json::from_slice(&assert.get_output().stdout).unwrap();
    move |name| match name {
        "address" => said["v4"]["addresses"][0]["address"].as_str().unwrap().to_owned(),
        _ => {
            let options = said["v4"]["options"].as_array().unwrap();
            let option = options.iter().find(|option| option["option"] == name).unwrap_or_else(|| panic!("{name}"));
            match &option["value"] {
                Value::Array(all) => all.iter().map(|one| one.as_str().unwrap()).collect::<Vec<_>>().join(" "),
                Value::String(text) => text.clone(),
                other => other.to_string(),
            }
        }
    }
}

/// What a client left under a name: the last line of it.
fn left(text: &str, name: &str) -> String {
    let line = text.lines().rev().find_map(|line| line.strip_prefix(name)?.strip_prefix('='));
    line.unwrap_or_else(|| panic!("nothing is said of {name} in\n{text}")).to_owned()
}

#[test]
#[ignore = "needs network namespaces and real clients"]
fn real_clients_get_what_was_rehearsed() {
    let bench = Bench::new("desk");
    let server = bench.serve("control-room", &["--advertise"]);
    let capture = bench.folder.path().join("seen.pcap");
    let mut watcher = Bench::within(&bench.server, "tcpdump");
    let mut watcher = watcher.args(["-i", "lab0", "-U", "-w"]).arg(&capture).stderr(Stdio::piped()).spawn().unwrap();
    let heard = BufReader::new(watcher.stderr.take().unwrap()).lines().map_while(Result::ok);
    assert!(heard.into_iter().any(|line| line.contains("listening on")));
    let plan = rehearsed(&["--network", "control-room", "--mac", MAC, "--v4"]);
    let mut tried = 0;

    if is_there("busybox") {
        let (script, file) = bench.hook("busybox");
        let mut command = bench.client("busybox");
        command.args([
            "udhcpc", "-i", "lab1", "-f", "-n", "-q", "-t", "5", "-T", "2", "-O", "119", "-O", "121", "-O", "42",
        ]);
        must(command.arg("-s").arg(script));
        let got = std::fs::read_to_string(file).unwrap();
        for (name, option) in
            [("ip", "address"), ("router", "v4:3"), ("dns", "v4:6"), ("ntpsrv", "v4:42"), ("domain", "v4:15")]
        {
            assert_eq!(left(&got, name), plan(option), "{name}");
        }
        assert_eq!(left(&got, "search"), plan("v4:119"));
        assert_eq!(left(&got, "staticroutes"), "10.64.8.0/21 10.64.4.2 0.0.0.0/0 10.64.4.1");
        assert_eq!(left(&got, "lease"), "28800");
        tried += 1;
    }
    if is_there("dhcpcd") {
        let (script, file) = bench.hook("dhcpcd");
        let said = bench.script(&format!(
            "mkdir -p /var/lib/dhcpcd; mount -t tmpfs none /var/lib/dhcpcd
             for family in 4 6; do
                 timeout 40 dhcpcd -$family -1 -B --noarp -f /dev/null -c {} -o domain_name_servers,routers,domain_name \
                     -o dhcp6_name_servers,dhcp6_domain_search lab1
             done",
            script.display()
        ));
        let got = std::fs::read_to_string(file).unwrap_or_else(|error| panic!("{error}: {said}"));
        for (name, option) in
            [("ip_address", "address"), ("routers", "v4:3"), ("domain_name_servers", "v4:6"), ("domain_name", "v4:15")]
        {
            assert_eq!(left(&got, &format!("new_{name}")), plan(option), "{name}");
        }
        assert_eq!(left(&got, "nd1_flags"), "M");
        assert!(left(&got, "new_dhcp6_ia_na1_ia_addr1").starts_with("2001:db8:64:4::1"), "{got}");
        assert_eq!(left(&got, "new_dhcp6_name_servers"), "2001:db8:64::53 2001:db8:64::54");
        tried += 1;
    }
    if is_there("/lib/systemd/systemd-networkd") {
        let got = bench.script(
            "mount -o remount,bind,ro /sys; mkdir -p /run/systemd/netif /run/systemd/network
             mount -t tmpfs -o mode=0755,uid=$(id -u systemd-network),gid=$(id -g systemd-network) none /run/systemd/netif
             mount -t tmpfs -o mode=0755 none /run/systemd/network
             printf '[Match]\\nName=lab1\\n[Network]\\nDHCP=yes\\n[DHCPv4]\\nClientIdentifier=mac\\n' > /run/systemd/network/lab.network
             /lib/systemd/systemd-networkd & own=$!
             for second in 1 2 3 4 5 6 7 8 9 10 11 12 13 14 15 16 17 18 19 20; do
                 sleep 1; ip -6 addr show dev lab1 | grep -q 2001:db8:64:4::1 && [ -e /run/systemd/netif/leases/2 ] && break
             done
             cat /run/systemd/netif/leases/*; ip -6 addr show dev lab1; kill $own; wait",
        );
        for (name, option) in
            [("ADDRESS", "address"), ("ROUTER", "v4:3"), ("DNS", "v4:6"), ("NTP", "v4:42"), ("DOMAINNAME", "v4:15")]
        {
            assert_eq!(left(&got, name), plan(option), "{name}");
        }
        assert!(got.contains("inet6 2001:db8:64:4::1"), "{got}");
        tried += 1;
    }
    assert!(tried > 0, "no client is installed");
    // The stand-in client beside them, and a second server where one answers already.
    let own = must(bench.client(env!("CARGO_BIN_EXE_oplex")).args([
        "lab",
        "client",
        "--interface",
        "lab1",
        "--mac",
        "02:00:5e:00:53:29",
        "--kind",
        "sensor",
        "--for",
        "20s",
    ]));
    assert!(own.starts_with("A client of kind sensor on lab1 has what it needs\n"), "{own}");
    let mut second = bench.client(env!("CARGO_BIN_EXE_oplex"));
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/plan.toml");
    second.args(["lab", "serve", "--interface", "lab1", "--network", "control-room"]).arg(demo);
    let refused = second.output().unwrap();
    assert_eq!(refused.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&refused.stderr).contains("answers on this link already"), "{refused:?}");

    let _ = Command::new("kill").args(["-INT", &watcher.id().to_string()]).status();
    watcher.wait().unwrap();
    drop(server);
    // What the clients say is theirs, and some of it is against the RFCs; what the server says is as planned and right.
    let capture = capture.to_str().unwrap();
    let audit = oplex(&[
        "audit",
        capture,
        "--plan",
        "demo/plan.toml",
        "--network",
        "control-room",
        "--all",
        "--format",
        "json",
    ]);
    let audit = String::from_utf8_lossy(&audit.assert().get_output().stdout).into_owned();
    let lines: Vec<Value> = audit.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let mut replies = 0;
    for one in lines.iter().filter(|line| line["format"] == "oplex-conversation/1") {
        let messages = one["messages"].as_array().unwrap();
        replies += messages.iter().filter(|message| message["from_client"] == false).count();
        for finding in one["findings"].as_array().unwrap().iter().filter(|finding| finding["severity"] != "note") {
            let of = messages.iter().find(|message| message["frame"] == finding["frame"]).unwrap();
            assert_eq!(of["from_client"], true, "{finding}");
        }
    }
    assert!(replies >= 4 * tried, "{replies} replies");
}

#[test]
#[ignore = "needs network namespaces and a virtual machine"]
fn boot_firmware_finds_its_file() {
    if !is_there("qemu-system-x86_64") {
        return;
    }
    let bench = Bench::new("boot");
    let _server = bench.serve("domes", &[]);
    let space = &bench.client;
    ip(&format!("-n {space} link add switch type bridge"));
    ip(&format!("-n {space} tuntap add tap0 mode tap"));
    for link in ["lab1", "tap0"] {
        ip(&format!("-n {space} link set {link} master switch"));
    }
    for link in ["tap0", "switch"] {
        ip(&format!("-n {space} link set {link} up"));
    }
    let log = bench.folder.path().join("screen");
    let mut machine = bench.client("qemu-system-x86_64");
    machine.args("-machine pc,accel=tcg -m 64 -nographic -no-reboot -boot n -netdev tap,id=n,ifname=tap0,script=no,downscript=no".split(' '));
    machine.args(["-device", "virtio-net-pci,netdev=n,mac=02:00:5e:00:53:33"]).stdin(Stdio::null());
    machine.stdout(std::fs::File::create(&log).unwrap()).stderr(Stdio::null());
    let machine = Running(machine.spawn().unwrap());
    // The third dome has an address and a file of its own; its firmware says what it was sent.
    let plan = rehearsed(&["--network", "domes", "--mac", "02:00:5e:00:53:33", "--arch", "x86-bios", "--v4"]);
    let wanted = [
        format!("net0: {}/255.255.248.0 gw {}", plan("address"), plan("v4:3")),
        " server: 10.64.0.80".into(),
        "Filename: domes/third.efi".into(),
    ];
    let began = Instant::now();
    let screen = loop {
        std::thread::sleep(Duration::from_millis(500));
        let screen = String::from_utf8_lossy(&std::fs::read(&log).unwrap()).into_owned();
        if wanted.iter().all(|line| screen.contains(line)) || began.elapsed() > Duration::from_secs(90) {
            break screen;
        }
    };
    drop(machine);
    for line in &wanted {
        assert!(screen.contains(line), "{line} is not in\n{screen}");
    }
}
