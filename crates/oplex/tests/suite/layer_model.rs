//! Who sends what, against a model that is a list of layers: of one option the narrowest that speaks of it decides, whether by
//! sending or by withholding. The same by a plan, by its release, and in the octets of the last reply.

use std::collections::BTreeMap;

use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::packet::{Message as _, v4, v6};
use oplex::plan::{ClientFacts, Loaded, Plan};
use oplex::release::{self, Document};
use proptest::prelude::*;

/// Options of both families that hold addresses and nothing else is said of, by code and name.
const OPTIONS: [(Family, u16, &str); 5] = [
    (Family::V4, 7, "log-server"),
    (Family::V4, 9, "lpr-server"),
    (Family::V4, 42, "ntp-servers"),
    (Family::V6, 22, "sip-server-a"),
    (Family::V6, 27, "nis-servers"),
];

/// The layers from wide to narrow, for a client of both fleets: fleets apply in the order written, and what they say of a network
/// is narrower than what they say everywhere.
const LAYERS: usize = 7;
const TABLES: [&str; LAYERS] =
    ["", "network.desk", "fleet.phones", "fleet.spares", "fleet.phones.on.desk", "fleet.spares.on.desk", "reservation"];

/// What a layer says of an option.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Says {
    Nothing,
    Sends(u8),
    Withholds,
}

/// What a layer says, option by option, and how many hours its leases last.
#[derive(Debug, Clone)]
struct Layer {
    says: Vec<Says>,
    lease: Option<u8>,
}

fn layer() -> impl Strategy<Value = Layer> {
    let says = prop_oneof![
        5 => Just(Says::Nothing),
        4 => (1..200_u8).prop_map(Says::Sends),
        2 => Just(Says::Withholds),
    ];
    let lease = prop::option::weighted(0.3, 1..100_u8);
    (prop::collection::vec(says, OPTIONS.len()), lease).prop_map(|(says, lease)| Layer { says, lease })
}

fn address(family: Family, last: u8) -> String {
    match family {
        Family::V4 => format!("10.64.0.{last}"),
        Family::V6 => format!("2001:db8:64::{last:x}"),
    }
}

fn octets(family: Family, last: u8) -> Vec<u8> {
    match family {
        Family::V4 => vec![10, 64, 0, last],
        Family::V6 => vec![0x20, 1, 0xd, 0xb8, 0, 0x64, 0, 0, 0, 0, 0, 0, 0, 0, 0, last],
    }
}

/// What a layer says as a plan writes it, in the table of that name.
fn written(table: &str, layer: &Layer) -> String {
    let mut text = match table {
        "" => "server = \"10.64.0.67\"\n".to_owned(),
        "reservation" => {
            "[[reservation]]\nnetwork = \"desk\"\nmac = \"02:00:5e:00:53:11\"\naddress = \"10.64.4.9\"\n".to_owned()
        }
        table => format!("[{table}]\n"),
    };
    text += match table {
        "network.desk" => {
            "subnet = \"10.64.4.0/24\"\npool = [\"10.64.4.20-10.64.4.90\", \"2001:db8:64:4::20-2001:db8:64:4::90\"]\n\
             prefix = \"2001:db8:64:4::/64\"\nadvertise = { managed = true }\n"
        }
        "fleet.phones" => "match = { vendor-class = \"Tern *\" }\n",
        "fleet.spares" => "match = { hostname = \"spare-*\" }\n",
        _ => "",
    };
    let said = |says: Says| move |(_, known): &(&(Family, u16, &str), &Says)| **known == says;
    let all = || OPTIONS.iter().zip(&layer.says);
    let withheld: Vec<String> = all()
        .filter(said(Says::Withholds))
        .map(|((family, _, name), _)| format!("\"{}:{name}\"", family.protocol().name()))
        .collect();
    if !withheld.is_empty() {
        text += &format!("withhold = [{}]\n", withheld.join(", "));
    }
    for ((family, _, name), says) in all() {
        if let Says::Sends(last) = says {
            let family_name = family.protocol().name();
            text += &format!("send.{family_name}.{name} = \"{}\"\n", address(*family, *last));
        }
    }
    // A reservation has no times of its own.
    let lease = layer.lease.filter(|_| table != "reservation");
    text + &lease.map(|hours| format!("lease = \"{hours}h\"\n")).unwrap_or_default()
}

/// A client of none of the fleets, one or both, with a reservation or without.
#[derive(Debug, Clone, Copy)]
struct Who {
    phone: bool,
    spare: bool,
    reserved: bool,
}

impl Who {
    fn facts(self) -> ClientFacts {
        let mac = [2, 0, 0x5e, 0, 0x53, if self.reserved { 0x11 } else { 0x12 }];
        let mut facts = ClientFacts { mac: Some(mac.into()), ..ClientFacts::on(0) };
        let codebook = Codebook::standard();
        if self.phone {
            facts.describe(codebook, "vendor-class", "Tern D2").unwrap();
        }
        if self.spare {
            facts.describe(codebook, "hostname", "spare-4").unwrap();
        }
        facts
    }

    /// Whether a layer is for it, by its place.
    fn has(self, layer: usize) -> bool {
        match layer {
            2 | 4 => self.phone,
            3 | 5 => self.spare,
            6 => self.reserved,
            _ => true,
        }
    }
}

/// What the model says that a client is sent, and for how many seconds it is leased what.
fn modelled(layers: &[Layer], who: Who, family: Family) -> (BTreeMap<u16, Vec<u8>>, Option<u32>) {
    let (mut sent, mut lease) = (BTreeMap::new(), None);
    for (at, layer) in layers.iter().enumerate().filter(|(at, _)| who.has(*at)) {
        for ((of, code, _), says) in OPTIONS.iter().zip(&layer.says).filter(|((of, ..), _)| *of == family) {
            match says {
                Says::Nothing => {}
                Says::Sends(last) => _ = sent.insert(*code, octets(*of, *last)),
                Says::Withholds => _ = sent.remove(code),
            }
        }
        lease = layer.lease.filter(|_| at != 6).map(|hours| u32::from(hours) * 3600).or(lease);
    }
    (sent, lease)
}

/// Of the options of the model those that an answer has, and those that stand in the last message of its exchange.
fn answered(compiled: &Compiled<'_>, facts: &ClientFacts, family: Family) -> [BTreeMap<u16, Vec<u8>>; 2] {
    let is = |code: u16| OPTIONS.iter().any(|(of, known, _)| *of == family && *known == code);
    let answer = compiled.answer(family, facts).unwrap();
    let own = answer.sent.iter().filter(|chosen| chosen.option.definition.is_own_of(family.protocol()));
    let own = own.filter(|chosen| is(chosen.option.definition.code));
    let sent = own.map(|chosen| (chosen.option.definition.code, chosen.option.octets.as_deref().unwrap().to_vec()));
    let last = compiled.exchange(facts, &answer).unwrap().messages.pop().unwrap().octets;
    let on_the_wire: Vec<(u16, Vec<u8>)> = match family {
        Family::V4 => {
            let message = v4::Message::read(&last).unwrap();
            message.options().map(|option| (option.code(), option.joined().into_owned())).collect()
        }
        Family::V6 => {
            let message = v6::Message::read(&last).unwrap();
            message.options().map(|option| (option.code(), option.joined().into_owned())).collect()
        }
    };
    [sent.collect(), on_the_wire.into_iter().filter(|(code, _)| is(*code)).collect()]
}

fn read(layers: &[Layer]) -> Loaded {
    let text: String = TABLES.iter().zip(layers).map(|(table, layer)| written(table, layer)).collect();
    let loaded = Plan::read("plan.toml", &text, &mut |path| Err(format!("no file {path}").into()));
    assert!(loaded.findings.is_empty(), "{:?}\n{text}", loaded.findings);
    loaded
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 120, ..ProptestConfig::default() })]

    #[test]
    fn the_narrowest_layer_decides(layers in prop::collection::vec(layer(), LAYERS)) {
        let loaded = read(&layers);
        let plan = loaded.plan.as_ref().unwrap();
        let written = serde_json::to_string(&release::compile(plan, &loaded.sources).unwrap()).unwrap();
        let document: Document = serde_json::from_str(&written).unwrap();
        let (compiled, published) = (Compiled::of(plan), document.compiled().unwrap());
        for bits in 0..8 {
            let who = Who { phone: bits & 1 != 0, spare: bits & 2 != 0, reserved: bits & 4 != 0 };
            // Clients that send no list of what they request are sent all of it.
            let mut facts = who.facts();
            facts.wants.v6 = Some(OPTIONS.iter().filter(|(of, ..)| *of == Family::V6).map(|(_, code, _)| *code).collect());
            for family in Family::ALL {
                let (sent, lease) = modelled(&layers, who, family);
                for from in [&compiled, &published] {
                    let [chosen, on_the_wire] = answered(from, &facts, family);
                    prop_assert_eq!(&chosen, &sent, "{:?} {:?}", who, family);
                    prop_assert_eq!(&on_the_wire, &sent, "{:?} {:?}", who, family);
                    let timers = from.answer(family, &facts).unwrap().timers;
                    if let Some(lease) = lease {
                        prop_assert_eq!(timers.lease.seconds, lease, "{:?} {:?}", who, family);
                    }
                }
            }
        }
    }
}
