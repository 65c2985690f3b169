//! A morning at the observatory, as the trunk of its switch saw it: what goes well, and what does not.

use std::net::SocketAddr;
use std::path::Path;
use std::time::Duration;

use oplex::answer::{Ends, Played};
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::octets::Mac;
use oplex::packet::{Composer, Message as _, v4};
use oplex::plan::{ClientFacts, Plan};
use oplex_io::capture;

/// The second of November 2026, 06:58 UTC.
const START: Duration = Duration::from_secs(1_793_602_680);

/// A router that a guest brought along, which leases addresses of its own.
const STRANGER: [u8; 6] = [2, 0, 0x5e, 0, 0x53, 0xee];

struct Morning<'p> {
    plan: &'p Plan,
    compiled: Compiled<'p>,
    frames: Vec<(Duration, Vec<u8>)>,
}

pub(super) fn write(plan: &Plan, path: &Path) -> Result<(), String> {
    let mut morning = Morning { plan, compiled: Compiled::of(plan), frames: Vec::new() };
    morning.play()?;
    morning.frames.sort_by_key(|(at, _)| *at);
    let frames = morning.frames.iter().map(|(at, frame)| (START + *at, 0, frame.as_slice()));
    capture::write_timed(path, &[""], frames, true).map_err(|error| error.to_string())
}

fn mac(last: u8) -> Mac {
    Mac([2, 0, 0x5e, 0, 0x53, last])
}

/// Milliseconds after the start.
fn at(minutes: u64, milliseconds: u64) -> Duration {
    Duration::from_millis(minutes * 60_000 + milliseconds)
}

impl Morning<'_> {
    fn play(&mut self) -> Result<(), String> {
        // The control room comes to work.
        for place in 0..6u8 {
            let own = mac(0x21 + place);
            self.client(
                "control-room",
                own,
                place.into(),
                &[("hostname", "desk")],
                at(2 * u64::from(place), 130),
                Family::V4,
            )?;
            self.client("control-room", own, place.into(), &[], at(2 * u64::from(place), 900), Family::V6)?;
        }
        self.phones()?;
        self.visitors()?;
        self.mast()?;
        self.moved()?;
        // A radio on a link where no relay agent passes its requests on.
        let lost = self.messages("radios", mac(0x72), 3, &[("vendor-class", "Gannet A1")], Family::V4)?;
        for (second, again) in [0u64, 4, 12, 28].into_iter().zip(0..) {
            let again: u64 = again;
            self.add(99, mac(0x72), at(31, second * 1000 + 70 * again), &lost[0])?;
        }
        // The dome's controller is relayed; the server's side of its router sees it.
        self.client("domes", mac(0x33), 0, &[("arch", "x64-uefi"), ("circuit-id", "dome-3")], at(40, 5), Family::V4)?;
        Ok(())
    }

    /// Intercom phones, of which the third gets settings that are not the plan's.
    fn phones(&mut self) -> Result<(), String> {
        for place in 0..4u8 {
            let own = mac(0x91 + place);
            let mut played =
                self.messages("intercoms", own, place.into(), &[("vendor-class", "Tern D2")], Family::V4)?;
            if place == 2 {
                for message in played.iter_mut().filter(|message| !message.from_client) {
                    // The text of the settings: another server, of the same length.
                    let text = b"SERVER=10.64.0.70";
                    let found = message.octets.windows(text.len()).position(|octets| octets == text);
                    let found = found.ok_or("the phones' settings are not where they were")?;
                    message.octets[found + text.len() - 1] = b'1';
                }
            }
            self.add_all(6, own, at(5, 400 * u64::from(place)), &played)?;
        }
        Ok(())
    }

    /// Visitors, whose Wi-Fi somebody's travel router answers as well.
    fn visitors(&mut self) -> Result<(), String> {
        for place in 0..5u8 {
            let (own, start) = (mac(0xa1 + place), at(12 + u64::from(place), 40));
            let played = self.messages("visitors", own, place.into(), &[], Family::V4)?;
            self.add_all(16, own, start, &played)?;
            if place >= 3 {
                let foreign = foreign(&played[0].octets)?;
                self.add(16, Mac(STRANGER), start + Duration::from_millis(1), &foreign)?;
            }
            self.client("visitors", own, place.into(), &[], start + Duration::from_millis(600), Family::V6)?;
        }
        Ok(())
    }

    /// The weather mast: three sensors ask for settings, one never does.
    fn mast(&mut self) -> Result<(), String> {
        for place in 0..4u8 {
            let own = mac(0x61 + place);
            let played = self.messages("mast", own, 0, &[], Family::V6)?;
            let count = if place == 3 { 2 } else { played.len() };
            self.add_all(40, own, at(20, 350 * u64::from(place)), &played[..count])?;
        }
        Ok(())
    }

    /// A laptop comes from the visitor centre to the control room, and asks for the address that it had.
    fn moved(&mut self) -> Result<(), String> {
        let own = mac(0xa1);
        let had = self.messages("visitors", own, 0, &[], Family::V4)?;
        let mut request = had[2].clone();
        let given = v4::Message::read(&had[1].octets).map_err(|error| error.to_string())?.header().yiaddr;
        let header = v4::Header::from_client(0x0a11, own);
        let options: [(u16, &[u8]); 2] = [(50, &given.octets()), (55, &[1, 3, 6, 15])];
        let draft = v4::Draft { header, options: &options, ..v4::Draft::new(v4::MessageType::REQUEST) };
        let mut composer = Composer::default();
        request.octets = composer.compose(&draft).map_err(|error| error.to_string())?.octets.to_vec();
        let options: [(u16, &[u8]); 2] = [(54, &[10, 64, 0, 67]), (56, b"this address is not of this network")];
        let draft = v4::Draft { header: header.answered(), options: &options, ..v4::Draft::new(v4::MessageType::NAK) };
        let octets = composer.compose(&draft).map_err(|error| error.to_string())?.octets.to_vec();
        let end = |text: &str| text.parse::<SocketAddr>().map_err(|error| error.to_string());
        let ends = Ends::Udp(end("10.64.0.67:67")?, end("255.255.255.255:68")?);
        let refused = Played { name: "DHCPNAK".into(), from_client: false, ends, octets };
        self.add_all(4, own, at(45, 10), &[request, refused])?;
        self.client("control-room", own, 9, &[], at(45, 80), Family::V4)
    }

    /// What a client and the plan's server say.
    fn messages(
        &self,
        network: &str,
        mac: Mac,
        leased: u32,
        described: &[(&str, &str)],
        family: Family,
    ) -> Result<Vec<Played>, String> {
        let network = self.plan.networks.iter().position(|known| known.name == network);
        let network = network.ok_or("the demo has other networks")?;
        let mut facts = ClientFacts { mac: Some(mac), leased, ..ClientFacts::on(network) };
        for (key, text) in described {
            facts.describe(&self.compiled.codebook, key, text).map_err(|error| error.to_string())?;
        }
        facts.wants.v4 = Some(facts.common_requests());
        let of_fleet = self.compiled.answer(family, &facts).ok_or("the network has no addresses")?;
        // Devices of a fleet request what the plan says of them.
        let requests = of_fleet.fleets.iter().find_map(|fleet| fleet.requests.as_deref());
        let wants = requests.map(<[u16]>::to_vec);
        facts.wants.v4 = wants.or(facts.wants.v4);
        let answer = self.compiled.answer(family, &facts).ok_or("the network has no addresses")?;
        Ok(self.compiled.exchange(&facts, &answer).map_err(|error| error.to_string())?.messages)
    }

    fn client(
        &mut self,
        network: &str,
        mac: Mac,
        leased: u32,
        described: &[(&str, &str)],
        start: Duration,
        family: Family,
    ) -> Result<(), String> {
        let vlan = match network {
            "control-room" => 4,
            "visitors" => 16,
            "domes" => 1,
            _ => return Err(format!("no VLAN is known for {network}")),
        };
        let played = self.messages(network, mac, leased, described, family)?;
        self.add_all(vlan, mac, start, &played)
    }

    /// Adds messages, each a few milliseconds after the one before.
    fn add_all(&mut self, vlan: u16, mac: Mac, start: Duration, played: &[Played]) -> Result<(), String> {
        for (message, place) in played.iter().zip(0u64..) {
            self.add(vlan, mac, start + Duration::from_micros(2310 * place), message)?;
        }
        Ok(())
    }

    fn add(&mut self, vlan: u16, mac: Mac, at: Duration, played: &Played) -> Result<(), String> {
        let mut frame = capture::frame_of(played.ends, played.from_client, &played.octets, mac)
            .ok_or("a message is longer than a datagram")?;
        frame.splice(12..12, [0x81, 0, (vlan >> 8) as u8, vlan as u8]);
        self.frames.push((at, frame));
        Ok(())
    }
}

/// What the travel router offers.
fn foreign(discover: &[u8]) -> Result<Played, String> {
    let header = v4::Message::read(discover).map_err(|error| error.to_string())?.header();
    let header = v4::Header { yiaddr: [192, 168, 8, 105].into(), ..header.answered() };
    let own = [192, 168, 8, 1];
    let options: [(u16, &[u8]); 5] =
        [(54, &own), (51, &[0, 0, 0x0e, 0x10]), (1, &[255, 255, 255, 0]), (3, &own), (6, &own)];
    let draft = v4::Draft { header, options: &options, ..v4::Draft::new(v4::MessageType::OFFER) };
    let octets = Composer::default().compose(&draft).map_err(|error| error.to_string())?.octets.to_vec();
    let ends = Ends::Udp(SocketAddr::from((own, 67)), SocketAddr::from(([255, 255, 255, 255], 68)));
    // It comes from the router's own card.
    Ok(Played { name: "DHCPOFFER".into(), from_client: true, ends, octets })
}
