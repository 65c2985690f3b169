//! Large captures: many clients, with other traffic between their messages or without.

use std::fs::File;
use std::io::BufWriter;
use std::net::SocketAddr;
use std::path::Path;
use std::time::Duration;

use oplex::answer::{Ends, Played};
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::octets::Mac;
use oplex::plan::{ClientFacts, Plan};
use oplex_io::capture;
use pcap_file::DataLink;
use pcap_file::pcapng::PcapNgWriter;
use pcap_file::pcapng::blocks::enhanced_packet::EnhancedPacketBlock;
use pcap_file::pcapng::blocks::interface_description::InterfaceDescriptionBlock;

/// The networks whose clients come by, each on a VLAN of its own.
const NETWORKS: [(&str, u16); 4] = [("control-room", 4), ("intercoms", 6), ("visitors", 16), ("huts", 20)];

/// As many machines each of them has.
const MACHINES: u32 = 150;

struct Writer {
    to: PcapNgWriter<BufWriter<File>>,
    at: Duration,
    octets: u64,
}

impl Writer {
    fn add(&mut self, frame: &[u8]) -> Result<(), String> {
        // So slow that a machine has ended its conversation before it comes again.
        self.at += Duration::from_millis(40);
        self.octets += frame.len() as u64 + 32;
        let block = EnhancedPacketBlock {
            interface_id: 0,
            timestamp: self.at,
            original_len: frame.len() as u32,
            data: frame.into(),
            options: Vec::new(),
        };
        self.to.write_pcapng_block(block).map(|_| ()).map_err(|error| error.to_string())
    }
}

/// Writes so many megabytes; of a mixed capture a tenth is of DHCP.
pub(super) fn write(plan: &Plan, mixed: bool, megabytes: u64, path: &Path) -> Result<(), String> {
    let compiled = Compiled::of(plan);
    let file = BufWriter::with_capacity(1 << 20, File::create(path).map_err(|error| error.to_string())?);
    let mut to = PcapNgWriter::new(file).map_err(|error| error.to_string())?;
    let interface = InterfaceDescriptionBlock { linktype: DataLink::ETHERNET, snaplen: 0, options: Vec::new() };
    to.write_pcapng_block(interface).map_err(|error| error.to_string())?;
    let mut writer = Writer { to, at: Duration::from_secs(1_793_602_680), octets: 0 };
    let (mut of_dhcp, mut client) = (0u64, 0u32);
    let other = others();
    while writer.octets < megabytes * 1_000_000 {
        let before = writer.octets;
        exchange(plan, &compiled, client, &mut writer)?;
        of_dhcp += writer.octets - before;
        client += 1;
        let mut kind = client as usize;
        while mixed && of_dhcp * 10 > writer.octets {
            writer.add(&other[kind % other.len()])?;
            kind += 1;
        }
    }
    Ok(())
}

/// One client's exchange by either family.
fn exchange(plan: &Plan, compiled: &Compiled<'_>, client: u32, writer: &mut Writer) -> Result<(), String> {
    let (name, vlan) = NETWORKS[client as usize % NETWORKS.len()];
    let network = plan.networks.iter().position(|known| known.name == name).ok_or("the demo has other networks")?;
    // The same machines come again and again.
    let machine = client % (NETWORKS.len() as u32 * MACHINES);
    let [_, _, mid, low] = machine.to_be_bytes();
    let mac = Mac([2, 0, 0x5e, 0x10, mid, low]);
    let mut facts = ClientFacts { mac: Some(mac), leased: machine / 4, ..ClientFacts::on(network) };
    facts.wants.v4 = Some(facts.common_requests());
    let family = if name == "huts" || (name != "intercoms" && machine / 4 % 2 == 1) { Family::V6 } else { Family::V4 };
    let answer = compiled.answer(family, &facts).ok_or("the network has no addresses")?;
    for played in compiled.exchange(&facts, &answer).map_err(|error| error.to_string())?.messages {
        let mut frame = capture::frame_of(played.ends, played.from_client, &played.octets, mac)
            .ok_or("a message is longer than a datagram")?;
        frame.splice(12..12, [0x81, 0, (vlan >> 8) as u8, vlan as u8]);
        writer.add(&frame)?;
    }
    Ok(())
}

/// Frames of other traffic: the web over both families, names, and short ones.
fn others() -> Vec<Vec<u8>> {
    let udp = |from: &str, to: &str, length: usize| {
        let end = |text: &str| text.parse::<SocketAddr>().unwrap_or(SocketAddr::from(([10, 64, 4, 9], 443)));
        let ends = Ends::Udp(end(from), end(to));
        let played = Played { name: "".into(), from_client: true, ends, octets: vec![0x40; length] };
        capture::frame_of(played.ends, played.from_client, &played.octets, Mac([2, 0, 0x5e, 0, 0x53, 9]))
            .unwrap_or_default()
    };
    // As TCP: the protocol's number is all that is looked at.
    let tcp = |mut frame: Vec<u8>| {
        let number = if frame.get(12) == Some(&0x86) { 20 } else { 23 };
        frame[number] = 6;
        frame
    };
    vec![
        tcp(udp("10.64.4.31:50000", "198.51.100.7:443", 1400)),
        tcp(udp("198.51.100.7:443", "10.64.4.31:50000", 1400)),
        udp("10.64.4.31:50001", "10.64.0.53:53", 40),
        udp("10.64.0.53:53", "10.64.4.31:50001", 180),
        tcp(udp("[2001:db8:64:4::31]:50000", "[2001:db8:9::7]:443", 20)),
        tcp(udp("[2001:db8:9::7]:443", "[2001:db8:64:4::31]:50000", 1400)),
        udp("[2001:db8:9::7]:443", "[2001:db8:64:4::31]:50002", 1200),
        tcp(udp("10.64.4.31:50000", "198.51.100.7:443", 12)),
    ]
}
