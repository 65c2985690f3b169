//! A UDP loop that answers clients from a release. Sockets and leases are the program's own; what is answered comes from Oplex.
//!
//! To be run anywhere, it answers one client on the loopback interface and ends.

#![allow(clippy::print_stdout, reason = "an example shows what it does")]

use std::net::UdpSocket;
use std::time::Duration;

use oplex::octets::hex;
use oplex::packet::{Composer, Message as _, v4};
use oplex::plan::Plan;
use oplex::release::{Document, compile};
use oplex::server::{InMemory, Ingress, Server};

const PLAN: &str = "server = \"10.64.0.67\"\n[send.v4]\ndomain-server = \"10.64.0.53\"\n[network.desk]\n\
    subnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\nsend.v4 = { router = \"10.64.4.1\" }\n";

fn main() -> Result<(), Box<dyn std::error::Error>> {
    // A store gives this document: `oplex_io::store::Store::new(path).latest()`, and `document` of what that gives.
    let loaded = Plan::read("plan.toml", PLAN, &mut |path| Err(format!("no file {path}").into()));
    let document: Document = compile(loaded.plan.as_ref().ok_or("it is no plan")?, &loaded.sources)?;

    let socket = UdpSocket::bind("127.0.0.1:0")?;
    socket.set_read_timeout(Some(Duration::from_secs(5)))?;
    let address = socket.local_addr()?;
    let client = std::thread::spawn(move || ask(address));
    serve(&socket, &document, 1)?;
    println!("{}", client.join().map_err(|_| "the client has ended")??);
    Ok(())
}

/// Answers so many requests.
fn serve(socket: &UdpSocket, document: &Document, count: usize) -> Result<(), Box<dyn std::error::Error>> {
    let compiled = document.compiled()?;
    let (mut server, mut leases) = (Server::new(&compiled), InMemory::default());
    let mut buffer = [0; 1500];
    for _ in 0..count {
        let (length, from) = socket.recv_from(&mut buffer)?;
        // Which network a client is on says the interface; or, where a relay agent forwards it, the message itself.
        if let Some(reply) = server.answer(&buffer[..length], &Ingress::on("desk"), &mut leases) {
            // A real server sends this to where `reply` says: to a relay agent, to the client, or to all.
            socket.send_to(reply.octets, from)?;
        }
    }
    Ok(())
}

/// A client that looks for a server, and what it is offered.
fn ask(server: std::net::SocketAddr) -> Result<String, String> {
    let told = |error: &dyn std::fmt::Display| error.to_string();
    let socket = UdpSocket::bind("127.0.0.1:0").map_err(|error| told(&error))?;
    let mut composer = Composer::default();
    let header = v4::Header::from_client(7, [2, 0, 0x5e, 0, 0x53, 0x11]);
    let options: [(u16, &[u8]); 1] = [(55, &[1, 3, 6])];
    let discover = v4::Draft { header, options: &options, ..v4::Draft::new(v4::MessageType::DISCOVER) };
    let discover = composer.compose(&discover).map_err(|error| told(&error))?;
    socket.send_to(discover.octets, server).map_err(|error| told(&error))?;
    let mut buffer = [0; 1500];
    let (length, _) = socket.recv_from(&mut buffer).map_err(|error| told(&error))?;
    let offer = v4::Message::read(&buffer[..length]).map_err(|error| told(&error))?;
    let router = offer.option(3).map(|option| hex::plain(&option.joined())).unwrap_or_default();
    Ok(format!("offered {}, router {router}", offer.header().yiaddr))
}
