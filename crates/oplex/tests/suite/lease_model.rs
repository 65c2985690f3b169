//! A server and its leases against a model that is a table of who has what until when: offers, requests, renewals, releases and
//! declines in any order, lost, doubled and late, with a clock that jumps and a server that starts again.

use std::collections::BTreeMap;
use std::net::{IpAddr, Ipv4Addr};

use oplex::check;
use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::packet::{AnyMessage, Composer, Message as _, v4, v6};
use oplex::plan::Plan;
use oplex::server::{InMemory, Ingress, Server};
use proptest::prelude::*;

const PLAN: &str = "server = \"10.64.0.67\"\nlease = \"10m\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\n\
    pool = [\"10.64.4.20-10.64.4.22\", \"2001:db8:64:4::20-2001:db8:64:4::22\"]\nprefix = \"2001:db8:64:4::/64\"\n\
    advertise = { managed = true }\nsend.v4 = { router = \"10.64.4.1\" }\n";

/// How many addresses each family has, which are fewer than there are clients.
const POOL: usize = 3;
const CLIENTS: u8 = 6;
const LEASE: u64 = 600;
const OFFERED: u64 = 60;
const DECLINED: u64 = 3600;

/// What happens next.
#[derive(Debug, Clone, Copy)]
enum Event {
    /// A client looks for servers.
    Looks(u8),
    /// A client requests what it was offered last.
    Requests(u8),
    /// A client renews what it had last, whether it still has it or not.
    Renews(u8),
    Releases(u8),
    /// A client has found that somebody uses what it was leased.
    Declines(u8),
    /// The clock goes on, or jumps.
    Clock(i32),
    /// The server starts again, with the leases that it had.
    Restarts,
    /// A request of before arrives again: it was doubled, or others have overtaken it.
    Again(prop::sample::Index),
    /// The reply to the next request gets lost.
    Loses,
}

fn events() -> impl Strategy<Value = Vec<Event>> {
    let client = 0..CLIENTS;
    let event = prop_oneof![
        4 => client.clone().prop_map(Event::Looks),
        4 => client.clone().prop_map(Event::Requests),
        3 => client.clone().prop_map(Event::Renews),
        1 => client.clone().prop_map(Event::Releases),
        1 => client.prop_map(Event::Declines),
        2 => (1..400_i32).prop_map(Event::Clock),
        1 => prop_oneof![-2000..0_i32, 3000..9000_i32].prop_map(Event::Clock),
        1 => Just(Event::Restarts),
        2 => any::<prop::sample::Index>().prop_map(Event::Again),
        2 => Just(Event::Loses),
    ];
    prop::collection::vec(event, 1..80)
}

/// What a server says to a client.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Said {
    Offers(IpAddr),
    Leases(IpAddr, u64),
    /// It has nothing for the client, or what the client wants is not its.
    Refuses,
    Nothing,
}

/// How clients of a family speak.
trait Speech {
    fn looks(&mut self, client: u8) -> Vec<u8>;
    fn requests(&mut self, client: u8, address: IpAddr) -> Vec<u8>;
    fn renews(&mut self, client: u8, address: IpAddr) -> Vec<u8>;
    fn gives_back(&mut self, client: u8, address: IpAddr, declined: bool) -> Vec<u8>;
    fn said(&mut self, reply: &[u8]) -> Said;
    /// Whether a client is leased what it requests, or nothing.
    fn insists(&self) -> bool;
}

#[derive(Default)]
struct V4(Composer);

const SERVER: [u8; 4] = [10, 64, 0, 67];

impl V4 {
    fn message(&mut self, kind: v4::MessageType, client: u8, ciaddr: Ipv4Addr, options: &[(u16, &[u8])]) -> Vec<u8> {
        let header = v4::Header { ciaddr, ..v4::Header::from_client(7, [2, 0, 0x5e, 0, 0x53, client]) };
        self.0.compose(&v4::Draft { header, options, ..v4::Draft::new(kind) }).unwrap().octets.to_vec()
    }
}

fn four(address: IpAddr) -> Ipv4Addr {
    let IpAddr::V4(address) = address else { panic!("{address} is of the other family") };
    address
}

impl Speech for V4 {
    fn insists(&self) -> bool {
        true
    }

    fn looks(&mut self, client: u8) -> Vec<u8> {
        self.message(v4::MessageType::DISCOVER, client, Ipv4Addr::UNSPECIFIED, &[])
    }

    fn requests(&mut self, client: u8, address: IpAddr) -> Vec<u8> {
        let options: [(u16, &[u8]); 2] = [(50, &four(address).octets()), (54, &SERVER)];
        self.message(v4::MessageType::REQUEST, client, Ipv4Addr::UNSPECIFIED, &options)
    }

    fn renews(&mut self, client: u8, address: IpAddr) -> Vec<u8> {
        self.message(v4::MessageType::REQUEST, client, four(address), &[])
    }

    fn gives_back(&mut self, client: u8, address: IpAddr, declined: bool) -> Vec<u8> {
        let (address, none) = (four(address), Ipv4Addr::UNSPECIFIED);
        let octets = address.octets();
        let options: [(u16, &[u8]); 2] = [(50, &octets), (54, &SERVER)];
        match declined {
            true => self.message(v4::MessageType::DECLINE, client, none, &options),
            false => self.message(v4::MessageType::RELEASE, client, address, &options[1..]),
        }
    }

    fn said(&mut self, reply: &[u8]) -> Said {
        let message = v4::Message::read(reply).unwrap();
        let address = message.header().yiaddr.into();
        let lease = message.get(Codebook::standard(), v4::ADDRESS_TIME).unwrap();
        match message.message_type() {
            Some(v4::MessageType::OFFER) => Said::Offers(address),
            Some(v4::MessageType::ACK) => Said::Leases(address, lease.unwrap().as_secs()),
            Some(v4::MessageType::NAK) => Said::Refuses,
            other => panic!("a server sends {other:?}"),
        }
    }
}

/// By DHCPv6, with what the server calls itself once it has said so.
#[derive(Default)]
struct V6(Vec<u8>);

impl V6 {
    fn message(&self, kind: v6::MessageType, client: u8, address: Option<IpAddr>, to_server: bool) -> Vec<u8> {
        let mut association = vec![0; 12];
        association[3] = 1;
        if let Some(IpAddr::V6(address)) = address {
            association.extend([0, 5, 0, 24]);
            association.extend(address.octets());
            association.extend([0; 8]);
        }
        let duid = [0, 3, 0, 1, 2, 0, 0x5e, 0, 0x53, client];
        let own: &[(u16, &[u8])] = &[(1, &duid), (2, &self.0), (3, &association), (8, &[0, 0])];
        let options: Vec<(u16, &[u8])> = own.iter().copied().filter(|(code, _)| *code != 2 || to_server).collect();
        let draft = v6::Draft { message_type: kind, header: v6::Header::Transaction(7), options: &options };
        Composer::default().compose(&draft).unwrap().to_vec()
    }
}

impl Speech for V6 {
    fn insists(&self) -> bool {
        false
    }

    fn looks(&mut self, client: u8) -> Vec<u8> {
        self.message(v6::MessageType::SOLICIT, client, None, false)
    }

    fn requests(&mut self, client: u8, address: IpAddr) -> Vec<u8> {
        self.message(v6::MessageType::REQUEST, client, Some(address), true)
    }

    fn renews(&mut self, client: u8, address: IpAddr) -> Vec<u8> {
        self.message(v6::MessageType::RENEW, client, Some(address), true)
    }

    fn gives_back(&mut self, client: u8, address: IpAddr, declined: bool) -> Vec<u8> {
        let kind = if declined { v6::MessageType::DECLINE } else { v6::MessageType::RELEASE };
        self.message(kind, client, Some(address), true)
    }

    fn said(&mut self, reply: &[u8]) -> Said {
        let message = v6::Message::read(reply).unwrap();
        self.0 = message.option(2).unwrap().joined().into_owned();
        let association = message.get(Codebook::standard(), v6::IA_NA).unwrap();
        let leased = association.and_then(|own| own.addresses.into_iter().find(|one| !one.valid.is_zero()));
        match (leased, message.message_type()) {
            (Some(one), v6::MessageType::ADVERTISE) => Said::Offers(one.address.into()),
            (Some(one), _) => Said::Leases(one.address.into(), one.valid.as_secs()),
            (None, _) => Said::Refuses,
        }
    }
}

/// Who has an address until when, by the clock of the server. Nobody has what was declined.
#[derive(Debug, Default)]
struct Model {
    held: BTreeMap<IpAddr, (Option<u8>, u64)>,
    now: u64,
}

impl Model {
    fn is_free(&self, address: IpAddr, client: u8) -> bool {
        self.held.get(&address).is_none_or(|(by, until)| *by == Some(client) || *until <= self.now)
    }

    /// What a client has, or had last if nobody else has had it since.
    fn of(&self, client: u8) -> Option<IpAddr> {
        self.held.iter().find(|(_, (by, _))| *by == Some(client)).map(|(address, _)| *address)
    }

    /// Whether a client can be leased something at all.
    fn has_any(&self, client: u8) -> bool {
        let taken = self.held.keys().filter(|address| !self.is_free(**address, client)).count();
        taken < POOL
    }

    fn keep(&mut self, address: IpAddr, client: u8, until: u64) {
        self.held.retain(|other, (by, _)| *other == address || *by != Some(client));
        self.held.insert(address, (Some(client), until));
    }
}

/// A client, its message, and the address that it wants.
type Request = (u8, Vec<u8>, Option<IpAddr>);

/// Plays the events, and holds each reply against the model.
fn play(speech: &mut dyn Speech, events: &[Event]) -> Result<(), TestCaseError> {
    let read = Plan::read("plan.toml", PLAN, &mut |path| Err(format!("no file {path}").into()));
    let plan = read.plan.expect("it is TOML");
    let compiled = Compiled::of(&plan);
    let (mut server, mut leases) = (Server::new(&compiled), InMemory::default());
    let mut model = Model { now: 1_000_000, ..Model::default() };
    let (mut offered, mut had) = ([None; CLIENTS as usize], [None; CLIENTS as usize]);
    let (mut sent, mut lost) = (Vec::<Request>::new(), false);
    leases.at(model.now);
    for event in events {
        let (client, request, wanted) = match *event {
            Event::Looks(client) => (client, speech.looks(client), None),
            Event::Requests(client) => {
                let Some(address) = offered[usize::from(client)] else { continue };
                (client, speech.requests(client, address), Some(address))
            }
            Event::Renews(client) => {
                let Some(address) = had[usize::from(client)] else { continue };
                (client, speech.renews(client, address), Some(address))
            }
            Event::Releases(client) | Event::Declines(client) => {
                let Some(address) = had[usize::from(client)].take() else { continue };
                let declined = matches!(event, Event::Declines(_));
                server.answer(&speech.gives_back(client, address, declined), &Ingress::on("desk"), &mut leases);
                if model.of(client) == Some(address) {
                    model.held.remove(&address);
                    if declined {
                        model.held.insert(address, (None, model.now + DECLINED));
                    }
                }
                continue;
            }
            Event::Clock(seconds) => {
                model.now = model.now.saturating_add_signed(seconds.into());
                leases.at(model.now);
                continue;
            }
            Event::Restarts => {
                server = Server::new(&compiled);
                continue;
            }
            Event::Loses => {
                lost = true;
                continue;
            }
            Event::Again(_) if sent.is_empty() => continue,
            Event::Again(which) => which.get(&sent).clone(),
        };
        sent.push((client, request.clone(), wanted));
        let reply = server.answer(&request, &Ingress::on("desk"), &mut leases).map(|reply| reply.octets.to_vec());
        let said = reply.as_deref().map_or(Said::Nothing, |reply| speech.said(reply));
        if let Some(reply) = &reply {
            let protocol = AnyMessage::plainly(reply).expect("a server's replies are plainly of one protocol");
            let found = check::message_to_send(&compiled.codebook, AnyMessage::read(protocol, reply).unwrap());
            prop_assert_eq!(found, [], "{:?}", event);
        }
        match said {
            Said::Offers(address) | Said::Leases(address, _) => {
                prop_assert!(model.is_free(address, client), "{event:?}: {address} is another's: {model:?}");
                // By DHCPv6 a server may lease another one: what the client had last, or where what it requests is another's by now.
                let own = model.of(client) == Some(address);
                let other = |wanted| !speech.insists() && (own || !model.is_free(wanted, client));
                let right = wanted.is_none_or(|wanted| wanted == address || other(wanted));
                prop_assert!(right, "{event:?}: {address}, not {wanted:?}");
            }
            // What a client still has it can keep, and what is free it can be offered.
            Said::Refuses | Said::Nothing => match wanted {
                None => prop_assert!(!model.has_any(client), "{event:?}: {said:?} with {model:?}"),
                Some(wanted) => {
                    let own = model.of(client) == Some(wanted) && model.held[&wanted].1 > model.now;
                    prop_assert!(!own, "{event:?}: {said:?} with {model:?}");
                }
            },
        }
        match said {
            Said::Offers(address) => {
                if let Some(own) = model.of(client).filter(|own| model.held[own].1 > model.now) {
                    prop_assert_eq!(own, address, "{:?}: it has another", event);
                }
                let before = model.held.get(&address).filter(|(by, _)| *by == Some(client)).map_or(0, |held| held.1);
                model.keep(address, client, before.max(model.now + OFFERED));
                offered[usize::from(client)] = Some(address).filter(|_| !lost).or(offered[usize::from(client)]);
            }
            Said::Leases(address, seconds) => {
                prop_assert_eq!(seconds, LEASE);
                model.keep(address, client, model.now + LEASE);
                had[usize::from(client)] = Some(address).filter(|_| !lost).or(had[usize::from(client)]);
            }
            Said::Refuses | Said::Nothing => {}
        }
        lost = false;
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, ..ProptestConfig::default() })]

    #[test]
    fn leases_are_those_of_a_table(events in events()) {
        play(&mut V4::default(), &events)?;
        play(&mut V6::default(), &events)?;
    }
}
