//! How many requests a server answers, against composing the same reply alone in the same run.
//!
//! `cargo bench -p oplex --bench servers` prints for DHCPv4 and DHCPv6 the median time of a reply from a small plan, and from
//! one with 1,000,000 reservations, their ratio to composing, and how many replies that is in a second.

#![allow(clippy::print_stdout, clippy::unwrap_used, reason = "a bench prints, and stops when it cannot go on")]

mod turns;

use std::fmt::Write as _;
use std::hint::black_box;

use oplex::compiled::Compiled;
use oplex::packet::{Composer, Message as _, v4, v6};
use oplex::plan::{Loaded, Plan};
use oplex::server::{InMemory, Ingress, Server};
use turns::{in_turns, print_ratios};

/// A plan with so many reservations on its network.
fn plan(rows: usize) -> Loaded {
    let mut table = "network,mac,address\n".to_owned();
    for row in 0..rows {
        let [_, a, b, c] = (row as u32).to_be_bytes();
        writeln!(table, "desk,02:00:00:{a:02x}:{b:02x}:{c:02x},10.{}.{b}.{c}", 128 + a).unwrap();
    }
    let text = "reservations = \"r.csv\"\nserver = \"10.64.0.67\"\nserver-duid = \"00:03:00:01:00:00:5e:00:53:67\"\n\
        [send.v4]\ndomain-server = [\"10.64.0.53\", \"10.64.0.54\"]\ndomain-name = \"tarnfell.example\"\nntp-servers = \"10.64.0.123\"\n\
        domain-search = [\"tarnfell.example\", \"domes.tarnfell.example\"]\n\
        [send.v6]\ndns-servers = [\"2001:db8:64::53\", \"2001:db8:64::54\"]\ndomain-list = \"tarnfell.example\"\n\
        [network.desk]\nsubnet = \"10.0.0.0/8\"\nprefix = \"2001:db8:64:4::/64\"\n\
        pool = [\"10.64.4.20-10.64.5.250\", \"2001:db8:64:4::1000-2001:db8:64:4::1fff\"]\nsend.v4 = { router = \"10.64.4.1\" }\n\
        [fleet.intercoms]\nmatch = { vendor-class = \"Tern *\" }\nsend.v4 = { tftp-server-address = \"10.64.0.80\" }\n\
        [fleet.radios]\nmatch = { vendor-class = \"Gannet *\" }\nsend.v4 = { capwap-ac-v4 = \"10.64.0.90\" }\n";
    Plan::read("plan.toml", text, &mut |_| Ok(table.clone()))
}

fn requests() -> [Vec<u8>; 2] {
    let mut composer = Composer::default();
    let header = v4::Header::from_client(7, [2, 0, 0x5e, 0, 0x53, 0x11]);
    let options: [(u16, &[u8]); 5] = [
        (50, &[10, 64, 4, 20]),
        (54, &[10, 64, 0, 67]),
        (55, &[1, 121, 3, 6, 15, 119, 42, 150]),
        (60, b"Tern D2"),
        (61, &[1, 2, 0, 0x5e, 0, 0x53, 0x11]),
    ];
    let draft = v4::Draft { header, options: &options, ..v4::Draft::new(v4::MessageType::REQUEST) };
    let four = composer.compose(&draft).unwrap().octets.to_vec();
    let options: [(u16, &[u8]); 4] = [
        (1, &[0, 3, 0, 1, 2, 0, 0x5e, 0, 0x53, 0x11]),
        (2, &[0, 3, 0, 1, 0, 0, 0x5e, 0, 0x53, 0x67]),
        (3, &[0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0]),
        (6, &[0, 23, 0, 24]),
    ];
    let header = v6::Header::Transaction(7);
    let draft = v6::Draft { message_type: v6::MessageType::REQUEST, header, options: &options };
    [four, composer.compose(&draft).unwrap().to_vec()]
}

fn main() {
    let [small, large] = [plan(3), plan(1_000_000)];
    let [of_small, of_large] = [&small, &large].map(|loaded| Compiled::of(loaded.plan.as_ref().unwrap()));
    for (name, request) in ["DHCPv4", "DHCPv6"].into_iter().zip(requests()) {
        let ingress = Ingress::on("desk");
        let mut servers = [&of_small, &of_large].map(|compiled| (Server::new(compiled), InMemory::default()));
        let reply = servers[0].0.answer(&request, &ingress, &mut servers[0].1).unwrap().octets.to_vec();
        let mut composer = Composer::default();
        let [(one, leases), (other, more)] = &mut servers;
        let times = in_turns(
            2000,
            &mut [
                &mut || composed(black_box(&reply), &mut composer),
                &mut || one.answer(black_box(&request), &ingress, leases).unwrap().octets.len() as u64,
                &mut || other.answer(black_box(&request), &ingress, more).unwrap().octets.len() as u64,
            ],
        );
        println!("\n{name}: a reply of {} octets", reply.len());
        print_ratios(&["composed alone", "answered, from a small plan", "answered, 1,000,000 reservations"], &times);
        println!(
            "{:.0} replies a second; with 1,000,000 reservations {:.2} x the time",
            1e9 / times[1],
            times[2] / times[1]
        );
    }
}

/// The yardstick: the options of the reply, put into a message again.
fn composed(reply: &[u8], composer: &mut Composer) -> u64 {
    if reply.len() >= 300 {
        let message = v4::Message::read(reply).unwrap();
        let mut options = [(0, &[][..]); 32];
        let mut count = 0;
        for option in message.options().filter(|option| option.code() != 53) {
            options[count] = (option.code(), option.octets().unwrap());
            count += 1;
        }
        let draft =
            v4::Draft { header: message.header(), options: &options[..count], ..v4::Draft::new(v4::MessageType::ACK) };
        return composer.compose(&draft).unwrap().octets.len() as u64;
    }
    let message = v6::Message::read(reply).unwrap();
    let mut options = [(0, &[][..]); 32];
    let mut count = 0;
    for option in message.options() {
        options[count] = (option.code(), option.octets().unwrap());
        count += 1;
    }
    let header = v6::Header::Transaction(7);
    let draft = v6::Draft { message_type: v6::MessageType::REPLY, header, options: &options[..count] };
    composer.compose(&draft).unwrap().len() as u64
}
