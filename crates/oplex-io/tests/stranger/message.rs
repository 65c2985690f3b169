//! Requests read, and replies written.

use std::net::{IpAddr, Ipv4Addr};

use serde_json::Value;

use crate::answer::{Answer, answer};
use crate::client::{Client, Family, mac_of};
use crate::content::{Content, hex, list, text};

/// What a server replies to a request from a network; `leased` addresses are taken already.
pub(crate) fn reply(content: &Content, family: Family, request: &[u8], network: &str, leased: u128) -> Vec<u8> {
    match family {
        Family::V4 => v4(content, request, network, leased),
        Family::V6 => v6(content, request, network, leased),
    }
}

fn only_last(content: &Content, family: Family, code: u16) -> bool {
    list(&content.root["composing"]["only_last"][family.name()]).iter().any(|one| one.as_u64() == Some(code.into()))
}

fn v4(content: &Content, request: &[u8], network: &str, leased: u128) -> Vec<u8> {
    let all = options_v4(&request[240..]);
    let find = |code: u16| all.iter().find(|(known, _)| *known == code).map(|(_, octets)| octets.clone());
    let mac = (request[1] == 1 && request[2] == 6).then(|| request[28..34].to_vec());
    let wants = find(55).map(|codes| codes.iter().map(|code| u16::from(*code)).collect::<Vec<_>>());
    let own = |code: u16| !matches!(code, 50..=55 | 57);
    let sends = all.iter().filter(|(code, _)| own(*code)).cloned().collect();
    let client = Client { family: Family::V4, mac, sends, wants };
    let told = answer(content, &client, network, leased);

    let offer = find(53) == Some(vec![1]);
    let server = text(&content.root["server"]["v4"]).parse().unwrap_or(Ipv4Addr::UNSPECIFIED);
    let wanted = |code: u16| {
        let always = [51, 58, 59].contains(&code);
        (always || client.requests(code)) && ![52, 53, 54, 61, 81, 82].contains(&code)
    };
    let stands = |code: u16| !(offer && only_last(content, Family::V4, code));
    let set: Vec<_> = told.options.iter().filter(|(code, _)| wanted(*code) && stands(*code)).cloned().collect();
    let requested = client.wants.clone().unwrap_or_default();
    // 1 before 3, if both are sent.
    let masked = set.iter().any(|(known, _)| *known == 1);
    let before = |code: u16| if code == 3 && masked { vec![1, 3] } else { vec![code] };
    let order = [51].into_iter().chain([61]).chain(requested.into_iter().flat_map(before));
    let mut options = vec![(53, vec![if offer { 2 } else { 5 }]), (54, server.octets().to_vec())];
    let echoed = [61, 82].map(|code| find(code).map(|octets| (code, octets)));
    let [identifier, relayed] = echoed;
    let name = told.name.clone().map(|name| (81, name));
    let pool: Vec<(u16, Vec<u8>)> = set.into_iter().chain(identifier).chain(name).collect();
    for code in order.chain(pool.iter().flat_map(|(code, _)| before(*code)).collect::<Vec<_>>()) {
        if !options.iter().any(|(known, _)| *known == code) {
            options.extend(pool.iter().find(|(known, _)| *known == code).cloned());
        }
    }
    options.extend(relayed);
    header_v4(request, &told, &options)
}

fn header_v4(request: &[u8], told: &Answer, options: &[(u16, Vec<u8>)]) -> Vec<u8> {
    let mut reply = vec![0; 240];
    reply[..3].copy_from_slice(&[2, request[1], request[2]]);
    reply[4..8].copy_from_slice(&request[4..8]);
    reply[10..12].copy_from_slice(&request[10..12]);
    if let Some(IpAddr::V4(address)) = told.address {
        reply[16..20].copy_from_slice(&address.octets());
    }
    reply[20..24].copy_from_slice(&told.siaddr);
    reply[24..44].copy_from_slice(&request[24..44]);
    reply[44..44 + told.sname.len()].copy_from_slice(&told.sname);
    reply[108..108 + told.file.len()].copy_from_slice(&told.file);
    reply[236..240].copy_from_slice(&[99, 130, 83, 99]);
    for (code, octets) in options {
        let pieces: Vec<&[u8]> = if octets.is_empty() { vec![&[]] } else { octets.chunks(255).collect() };
        for piece in pieces {
            reply.extend([*code as u8, piece.len() as u8]);
            reply.extend(piece);
        }
    }
    reply.push(255);
    reply.resize(reply.len().max(300), 0);
    reply
}

/// The options behind the cookie, those that stand several times joined.
fn options_v4(mut octets: &[u8]) -> Vec<(u16, Vec<u8>)> {
    let mut all: Vec<(u16, Vec<u8>)> = Vec::new();
    loop {
        match octets {
            [0, rest @ ..] => octets = rest,
            [255, ..] | [] | [_] => return all,
            [code, length, rest @ ..] => {
                let (own, rest) = rest.split_at(usize::from(*length));
                match all.iter_mut().find(|(known, _)| *known == u16::from(*code)) {
                    Some((_, known)) => known.extend(own),
                    None => all.push(((*code).into(), own.to_vec())),
                }
                octets = rest;
            }
        }
    }
}

fn options_v6(mut octets: &[u8]) -> Vec<(u16, Vec<u8>)> {
    let mut all = Vec::new();
    while let [a, b, c, d, rest @ ..] = octets {
        let (own, rest) = rest.split_at(usize::from(u16::from_be_bytes([*c, *d])));
        all.push((u16::from_be_bytes([*a, *b]), own.to_vec()));
        octets = rest;
    }
    all
}

fn put_v6(into: &mut Vec<u8>, code: u16, octets: &[u8]) {
    into.extend(code.to_be_bytes());
    into.extend((octets.len() as u16).to_be_bytes());
    into.extend(octets);
}

fn v6(content: &Content, request: &[u8], network: &str, leased: u128) -> Vec<u8> {
    // The relay messages, the outermost first, and the message in them.
    let (mut relays, mut inner) = (Vec::new(), request.to_vec());
    while inner[0] == 12 {
        let options = options_v6(&inner[34..]);
        let next = options.iter().find(|(code, _)| *code == 9).unwrap().1.clone();
        relays.push((inner[..34].to_vec(), options));
        inner = next;
    }
    let own = options_v6(&inner[4..]);
    let mut sends: Vec<(u16, Vec<u8>)> = Vec::new();
    for options in relays.iter().rev().map(|(_, options)| options).chain([&own]) {
        let new: Vec<_> = options
            .iter()
            .filter(|(code, _)| *code != 9 && !sends.iter().any(|(known, _)| known == code))
            .cloned()
            .collect();
        sends.extend(new);
    }
    let find = |code: u16| own.iter().find(|(known, _)| *known == code).map(|(_, octets)| octets.clone());
    let wants = find(6)
        .map(|codes| codes.chunks_exact(2).map(|code| u16::from_be_bytes([code[0], code[1]])).collect::<Vec<_>>());
    let mac = find(1).and_then(|duid| mac_of(&duid));
    let client = Client { family: Family::V6, mac, sends, wants };
    let told = answer(content, &client, network, leased);

    let rapid = inner[0] == 1 && find(14).is_some();
    let kind = if inner[0] == 1 && !rapid { 2 } else { 7 };
    let mut reply = vec![kind];
    reply.extend(&inner[1..4]);
    if let Some(duid) = find(1) {
        put_v6(&mut reply, 1, &duid);
    }
    let server = &content.root["server"]["duid"];
    put_v6(&mut reply, 2, &if *server == Value::Null { vec![0, 2, 0, 0, 0x7e, 0xd9, 0] } else { hex(server) });
    let lifetimes = [told.preferred.to_be_bytes(), told.lease.to_be_bytes()].concat();
    let mut association = |code: u16, inside: Option<(u16, Vec<u8>)>, status: u8| {
        let Some(asked) = find(code) else { return };
        let mut octets = asked[..4].to_vec();
        octets.extend([told.renew.to_be_bytes(), told.rebind.to_be_bytes()].concat());
        let (code_inside, octets_inside) = inside.unwrap_or((13, vec![0, status]));
        put_v6(&mut octets, code_inside, &octets_inside);
        put_v6(&mut reply, code, &octets);
    };
    let address = told.address.map(|address| match address {
        IpAddr::V6(address) => (5, [&address.octets()[..], &lifetimes].concat()),
        IpAddr::V4(_) => panic!("{address}"),
    });
    association(3, address, 2);
    let prefix = told.delegated.map(|(prefix, length)| (26, [&lifetimes[..], &[length], &prefix.octets()].concat()));
    association(25, prefix, 6);
    if rapid {
        put_v6(&mut reply, 14, &[]);
    }
    for (code, octets) in &told.options {
        let alone = inner[0] == 11 || !matches!(code, 32 | 83);
        if client.requests(*code) && alone && (kind == 7 || !only_last(content, Family::V6, *code)) {
            put_v6(&mut reply, *code, octets);
        }
    }
    if let Some(name) = told.name.filter(|_| inner[0] != 11 && client.requests(39)) {
        put_v6(&mut reply, 39, &name);
    }
    for (head, options) in relays.into_iter().rev() {
        let mut around = [&[13], &head[1..]].concat();
        if let Some((_, interface)) = options.iter().find(|(code, _)| *code == 18) {
            put_v6(&mut around, 18, interface);
        }
        put_v6(&mut around, 9, &reply);
        reply = around;
    }
    reply
}
