//! What the walk allocates: nothing.

use std::ops::Range;

use oplex::check;
use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::family::{Family, Protocol};
use oplex::layout::{Fault, Input, Scalar, ScalarForm, Visitor};
use oplex::packet::v4::{self, Draft, Message, MessageType};
use oplex::packet::{AnyMessage, Composer, Message as _, v6};
use oplex::plan::ClientFacts;
use oplex::server::{InMemory, Ingress, Server};
use oplex::specimen::Specimen;

/// Looks at everything, keeps nothing.
#[derive(Default)]
struct Count {
    scalars: usize,
    faults: usize,
}

impl<'l, 'o> Visitor<'l, 'o> for Count {
    fn scalar(&mut self, _: ScalarForm<'l>, _: Scalar<'o>, _: Range<usize>) {
        self.scalars += 1;
    }

    fn fault(&mut self, _: Fault) {
        self.faults += 1;
    }
}

#[test]
fn validating_a_payload_of_any_option_allocates_nothing() {
    let codebook = Codebook::standard();
    for option in codebook.definitions() {
        let Some(example) = &option.example else { continue };
        let octets = codebook.encode(option, &Input::from_text(example)).unwrap().octets;
        let layout = codebook.layout(option);
        // Layouts of nested options are parsed when they are first met, and kept.
        layout.walk(codebook, &octets, &mut Count::default());
        let mut count = Count::default();
        let allocated = allocation_counter::measure(|| layout.walk(codebook, &octets, &mut count));
        assert_eq!((allocated.count_total, count.faults), (0, 0), "{}", option.label());
        assert!(count.scalars > 0, "{}", option.label());
        let allocated = allocation_counter::measure(|| assert!(layout.fits(codebook, &octets), "{}", option.label()));
        assert_eq!(allocated.count_total, 0, "{}", option.label());
    }
}

#[test]
fn building_a_value_allocates_in_proportion_to_it() {
    let codebook = Codebook::standard();
    let servers = codebook.find("v4:dns").unwrap();
    let octets = vec![10; 4000];
    let allocated = allocation_counter::measure(|| {
        let decoded = codebook.decode(servers, &octets);
        assert!(decoded.1.is_empty());
    });
    assert!(allocated.bytes_max < 400 * octets.len() as u64, "{allocated:?}");
}

/// An acknowledgement, and everything it is made of.
const OPTIONS: [(u16, &[u8]); 8] = [
    (54, &[10, 64, 0, 67]),
    (51, &[0, 0, 0x70, 0x80]),
    (1, &[255, 255, 254, 0]),
    (3, &[10, 64, 4, 1]),
    (6, &[10, 64, 0, 53, 10, 64, 0, 54]),
    (15, b"tarnfell.example"),
    (82, &[1, 5, b'p', b'o', b'r', b't', b'7']),
    (121, &[21, 10, 64, 8, 10, 64, 4, 2, 0, 10, 64, 4, 1]),
];

#[test]
fn composing_allocates_nothing_once_its_buffers_are_there() {
    let long = [7; 200];
    let plenty: Vec<(u16, &[u8])> = OPTIONS.into_iter().chain([(224, &long[..]), (225, &long), (226, &long)]).collect();
    let mut composer = Composer::default();
    for options in [&OPTIONS[..], &plenty] {
        let draft = Draft { options, requested: &[121, 3, 6], ..Draft::new(MessageType::ACK) };
        let first = composer.compose(&draft).unwrap().octets.to_vec();
        let mut again = 0;
        let allocated = allocation_counter::measure(|| again = composer.compose(&draft).unwrap().octets.len());
        assert_eq!((allocated.count_total, again), (0, first.len()));
    }
}

#[test]
fn reading_and_validating_a_message_allocates_nothing() {
    let codebook = Codebook::standard();
    let draft = Draft { options: &OPTIONS, ..Draft::new(MessageType::ACK) };
    let mut composer = Composer::default();
    let octets = composer.compose(&draft).unwrap().octets.to_vec();
    let (mut buffer, mut count) = (Vec::new(), Count::default());
    let mut read = || {
        let message = Message::read(&octets).unwrap();
        for option in message.options() {
            let definition = codebook.own(Protocol::V4, option.code()).unwrap();
            codebook.layout(definition).walk(codebook, option.joined_in(&mut buffer), &mut count);
        }
        assert_eq!((message.count(), message.elements().count()), (9, 10));
    };
    read();
    assert_eq!(allocation_counter::measure(read).count_total, 0);
    assert!(count.scalars > 20 && count.faults == 0);
}

/// An acknowledgement, a reply and an advertisement as most clients get them: all rules look, and none has to allocate to find
/// nothing.
#[test]
fn rules_that_find_nothing_allocate_nothing() {
    let v4 = "type = \"ack\"\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n\
        address-time = \"8h\"\nrenewal-time = \"4h\"\nrebinding-time = \"7h\"\nsubnet-mask = \"255.255.254.0\"\n\
        router = [\"10.64.4.1\", \"10.64.4.2\"]\ndomain-server = [\"10.64.0.53\", \"10.64.0.54\"]\n\
        domain-name = \"tarnfell.example\"\nntp-servers = \"10.64.0.123\"\nbootfile-name = \"d/c.efi\"\n\
        broadcast-address = \"10.64.5.255\"\nmtu-interface = 1500\nclient-id = { hex = \"01:02:00:5e:00:53:11\" }\n";
    let v6 = "type = \"reply\"\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n\
        serverid = \"00:03:00:01:00:00:5e:00:53:01\"\n\
        ia-na = { iaid = 1, t1 = \"4h\", t2 = \"6h24m\", options = { iaaddr = { address = \"2001:db8:64:10::20\", \
        preferred-lifetime = \"8h\", valid-lifetime = \"12h\", options = {} } } }\n\
        ia-pd = { iaid = 1, t1 = \"4h\", t2 = \"6h24m\", options = { iaprefix = { preferred-lifetime = \"8h\", \
        valid-lifetime = \"12h\", prefix-length = 56, prefix = \"2001:db8:64:100::\", options = {} } } }\n\
        dns-servers = [\"2001:db8:64::53\", \"2001:db8:64::54\"]\ndomain-list = [\"tarnfell.example\", \"domes.tarnfell.example\"]\n\
        ntp-server = { srv-addr = \"2001:db8:64::123\" }\ncaptive-portal = \"https://portal.tarnfell.example/api\"\n\
        bootfile-url = \"http://boot.tarnfell.example/domes/controller.efi\"\nsol-max-rt = 3600\n";
    let ra = "other = true\nlifetime = 1800\n[options]\nsource-link-layer-address = \"00:00:5e:00:53:01\"\nmtu = { mtu = 1500 }\n\
        prefix-information = { length = 64, flags = \"on-link+autonomous\", valid = \"30d\", preferred = \"7d\", \
        prefix = \"2001:db8:64:10::\" }\nrdnss = { lifetime = \"30m\", servers = [\"2001:db8:64::53\", \"2001:db8:64::54\"] }\n\
        dnssl = { lifetime = \"30m\", domains = [\"tarnfell.example\", \"domes.tarnfell.example\"] }\n\
        captive-portal = \"https://portal.tarnfell.example/api\"\n";
    for (protocol, text) in [(Protocol::V4, v4), (Protocol::V6, v6), (Protocol::Ra, ra)] {
        let specimen = Specimen::read(protocol, "m.toml", text, &mut |path| Err(format!("no file {path}").into()));
        let octets = specimen.octets.unwrap_or_else(|| panic!("{:?}", specimen.findings));
        let look = || check::message(Codebook::standard(), AnyMessage::read(protocol, &octets).unwrap());
        assert_eq!(look(), [], "{}", protocol.name());
        assert_eq!(allocation_counter::measure(|| assert!(look().is_empty())).count_total, 0, "{}", protocol.name());
    }
}

/// What a client gets, and every octet of its exchange: what layers send is borrowed, and what is put together is put
/// together once.
#[test]
fn an_answer_and_its_exchange_take_few_allocations() {
    let loaded = crate::servers::demo();
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    // Of no fleet, of one that changes its vendor's options, of one that boots, and behind a relay agent; pinned, too.
    let kinds = [None, Some(("vendor-class", "Tern D2")), Some(("arch", "x64-uefi")), Some(("circuit-id", "port-7"))];
    let networks = 0..compiled.networks.len();
    let of_kinds = networks.flat_map(|network| kinds.map(|kind| (network, kind, 0x19)));
    let mut answered = 0;
    for (network, kind, last) in of_kinds.chain([(0, None, 0x11), (1, None, 0x41), (3, None, 0x33), (5, None, 0x61)]) {
        let mut facts = ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, last].into()), ..ClientFacts::on(network) };
        kind.into_iter().for_each(|(key, text)| facts.describe(&compiled.codebook, key, text).unwrap());
        for family in Family::ALL {
            let answer = || compiled.answer(family, &facts);
            if answer().is_none() {
                continue;
            }
            let exchange = || compiled.exchange(&facts, &answer().unwrap()).unwrap();
            // What is made when it is first asked for is there.
            answered += usize::from(exchange().messages.len() >= 2);
            let [one, both] = [&(|| drop(answer())) as &dyn Fn(), &|| drop(exchange())]
                .map(|what| allocation_counter::measure(what).count_total);
            let network = &compiled.networks[network].name;
            assert!(one <= 8 && both <= 20, "{kind:?} on {network}, {}: {one} and {both}", family.name());
        }
    }
    assert!(answered > 40, "{answered}");
}

/// From a request's octets to its reply's, once the server has seen such a client: what is put together is kept.
#[test]
fn a_reply_takes_few_allocations() {
    let loaded = crate::servers::demo();
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let (mut server, mut leases) = (Server::new(&compiled), InMemory::default());
    let mut composer = Composer::default();
    let mac = [2, 0, 0x5e, 0, 0x53, 0x19];
    let header = v4::Header::from_client(7, mac);
    let mut discover = |more: &[(u16, &[u8])]| {
        let options = [&[(55, &[1, 3, 6, 15, 42, 43][..])], more].concat();
        let draft = Draft { header, options: &options, ..Draft::new(MessageType::DISCOVER) };
        composer.compose(&draft).unwrap().octets.to_vec()
    };
    // Of no fleet, of one that changes its vendor's options, of one that boots, and behind a relay agent.
    let of_v4 = [
        discover(&[]),
        discover(&[(60, b"Tern D2")]),
        discover(&[(93, &[0, 7])]),
        discover(&[(82, b"\x01\x06port-7")]),
    ];
    let duid = [&[0, 3, 0, 1], &mac[..]].concat();
    let mut solicit = |more: &[(u16, &[u8])]| {
        let options: &[(u16, &[u8])] = &[(1, &duid), (3, &[0; 12]), (6, &[0, 23, 0, 24, 0, 82]), (8, &[0, 0])];
        let options = [options, more].concat();
        let header = v6::Header::Transaction(7);
        let draft = v6::Draft { message_type: v6::MessageType::SOLICIT, header, options: &options };
        composer.compose(&draft).unwrap().to_vec()
    };
    let of_v6 = [solicit(&[]), solicit(&[(16, b"\0\0\x7e\xd9\0\x07Tern D2")]), solicit(&[(61, &[0, 7])])];
    for request in of_v4.iter().chain(&of_v6) {
        let mut answer = || {
            let reply = server.answer(request, &Ingress::on("control-room"), &mut leases);
            reply.expect("the demo leases both").octets.len()
        };
        let first = answer();
        let mut again = 0;
        let allocated = allocation_counter::measure(|| again = answer());
        assert_eq!(again, first);
        assert!(allocated.count_total <= 12, "{}", allocated.count_total);
    }
}
