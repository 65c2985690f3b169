//! What a client is sent: its layers come to a set of options, an address and times.

use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};

use serde_json::{Map, Value};

use crate::client::{Client, Family, edited};
use crate::content::{Content, hex, list, number, text};

pub(crate) struct Answer {
    pub(crate) options: Vec<(u16, Vec<u8>)>,
    pub(crate) address: Option<IpAddr>,
    pub(crate) delegated: Option<(Ipv6Addr, u8)>,
    pub(crate) siaddr: [u8; 4],
    pub(crate) sname: Vec<u8>,
    pub(crate) file: Vec<u8>,
    pub(crate) lease: u32,
    pub(crate) preferred: u32,
    pub(crate) renew: u32,
    pub(crate) rebind: u32,
    /// The option with the client's full name.
    pub(crate) name: Option<Vec<u8>>,
}

/// One option of the set.
#[derive(Clone)]
struct Sent {
    id: String,
    code: u16,
    octets: Vec<u8>,
    carriers: Option<Vec<Value>>,
}

impl Sent {
    fn of(entry: &Value) -> Self {
        Self {
            id: text(&entry["option"]).to_owned(),
            code: number(&entry["code"]).unwrap() as u16,
            octets: hex(&entry["hex"]),
            carriers: entry["carriers"].as_array().cloned(),
        }
    }
}

/// `leased` addresses of its pool are taken already.
pub(crate) fn answer(content: &Content, client: &Client, name: &str, leased: u128) -> Answer {
    let (family, network) = (client.family, content.network(name));
    let (fleets, reservation) = (client.fleets(content), client.reservation(content, name));
    let on = |fleet: &&Value| list(&fleet["on"]).iter().find(|on| on["network"] == name).cloned();
    let places: Vec<Value> = fleets.iter().filter_map(on).collect();
    let mut layers: Vec<&Value> = vec![&content.root["everyone"], network];
    layers.extend(&fleets);
    layers.extend(&places);
    layers.extend(reservation.map(|row| &row["says"]).filter(|says| !says.is_null()));

    let mut set = layered(&layers, family);
    set.extend(booted(&layers, family, &set));
    set.sort_by(|one, other| {
        let book = |sent: &Sent| sent.id.split(':').next().unwrap().to_owned();
        (one.code, book(one)).cmp(&(other.code, book(other)))
    });
    let address = reserved(reservation, family).or_else(|| free(content, network, &fleets, family, leased));
    if let (Family::V4, Some(IpAddr::V4(address))) = (family, address) {
        near(&mut set, network, address);
    }
    let times = times(&layers, family, &set);
    let [lease, preferred, renew, rebind] = times;
    let mut computed = Vec::new();
    if family == Family::V4 {
        let mask = |net: &(IpAddr, u8)| u32::MAX.checked_shl(32 - u32::from(net.1)).unwrap_or(0);
        let nets: Vec<(IpAddr, u8)> = list(&network["subnets"]).iter().map(|one| net(text(one))).collect();
        let own =
            nets.iter().find(|net| address.is_some_and(|address| bits(address) & u128::from(mask(net)) == bits(net.0)));
        computed.extend(own.or_else(|| nets.first()).map(|net| (1, mask(net).to_be_bytes().to_vec())));
        computed
            .extend([(51, lease), (58, renew), (59, rebind)].map(|(code, time)| (code, time.to_be_bytes().to_vec())));
    }
    let header = |key: &str, most: usize, wanted: &dyn Fn(&str) -> bool| {
        let entry = boot_keys(&layers).into_iter().find(|(_, entry)| entry["key"] == key).map(|(_, entry)| entry);
        let said =
            entry.map(|entry| text(&entry["text"]).to_owned()).filter(|said| wanted(said) && !said.contains('\0'));
        said.filter(|said| said.len() <= most)
    };
    let is_address = |said: &str| said.parse::<Ipv4Addr>().is_ok();
    let siaddr = header("server", 64, &is_address).map(|said| said.parse::<Ipv4Addr>().unwrap().octets());
    let named = header("host", 63, &|_| true).or_else(|| header("server", 63, &|said| !is_address(said)));
    Answer {
        options: assembled(family, computed, &set),
        address,
        delegated: delegated(reservation, content, network, leased),
        siaddr: siaddr.unwrap_or_default(),
        sname: named.unwrap_or_default().into_bytes(),
        file: header("file", 127, &|_| true).unwrap_or_default().into_bytes(),
        lease,
        preferred,
        renew,
        rebind,
        name: full_name(&layers, client),
    }
}

/// The client's own option with its full name in place of what it sends.
fn full_name(layers: &[&Value], client: &Client) -> Option<Vec<u8>> {
    let (code, id, none) = if client.family == Family::V4 { (81, "v4:81", 8) } else { (39, "v6:39", 4) };
    let fqdn = layers.iter().fold(None, |wider, layer| match &layer["fqdn"] {
        Value::Null => wider.filter(|_| !list(&layer["withheld"]).iter().any(|out| text(out) == id)),
        own => Some(own),
    })?;
    let (_, sent) = client.sends.iter().find(|(known, _)| *known == code)?;
    let dns = client.family == Family::V6 || sent[0] & 4 != 0;
    let own = &sent[if code == 81 { 3 } else { 1 }..];
    let first = match own {
        [length, rest @ ..] if dns => rest.get(..usize::from(*length))?,
        _ => own.split(|octet| *octet == b'.').next()?,
    };
    let wishes = sent[0] & 1 != 0 && sent[0] & none == 0;
    let flags = match (fqdn["updates"].as_bool().unwrap(), wishes) {
        (true, true) => 1,
        (true, false) => sent[0] & none,
        (false, wishes) => none + if wishes { 2 } else { 0 },
    };
    let mut octets = vec![flags | if code == 81 { sent[0] & 4 } else { 0 }];
    octets.extend([255, 255].iter().filter(|_| code == 81));
    let labels: Vec<&[u8]> =
        text(&fqdn["name"]).split('.').map(|label| if label == "*" { first } else { label.as_bytes() }).collect();
    let host = |octet: &u8| octet.is_ascii_alphanumeric() || [b'-', b'_'].contains(octet);
    if labels.iter().any(|label| label.is_empty() || !label.iter().all(host)) {
        return None;
    }
    if dns {
        labels.iter().for_each(|label| octets.extend([&[label.len() as u8], *label].concat()));
        octets.push(0);
    } else {
        octets.extend(labels.join(&b'.'));
    }
    Some(octets)
}

fn layered(layers: &[&Value], family: Family) -> Vec<Sent> {
    let mut set: Vec<Sent> = Vec::new();
    for layer in layers {
        set.retain(|sent| !list(&layer["withheld"]).iter().any(|id| text(id) == sent.id));
        for amend in list(&layer["amends"][family.name()]) {
            for sent in set.iter_mut().filter(|sent| sent.id == text(&amend["option"])) {
                let mut octets = sent.octets.clone();
                for edit in list(&amend["edits"]) {
                    octets = edited(octets, edit);
                }
                if let Some(known) = list(&amend["becomes"]).iter().find(|one| hex(&one["from"]) == octets) {
                    octets = hex(&known["to"]);
                }
                sent.octets = octets;
            }
        }
        let own: Vec<Sent> = list(&layer["options"][family.name()]).iter().map(Sent::of).collect();
        set.retain(|sent| !own.iter().any(|new| new.id == sent.id));
        set.extend(own);
    }
    set
}

/// The keys of `boot` that count, each with the place of its layer.
fn boot_keys<'l>(layers: &[&'l Value]) -> Vec<(usize, &'l Value)> {
    let mut keys: Vec<(usize, &Value)> = Vec::new();
    for (depth, layer) in layers.iter().enumerate() {
        keys.retain(|(_, known)| !list(&layer["boot_withheld"]).contains(&known["key"]));
        for entry in list(&layer["boot"]) {
            keys.retain(|(_, known)| known["key"] != entry["key"]);
            keys.push((depth, entry));
        }
    }
    keys
}

fn booted(layers: &[&Value], family: Family, set: &[Sent]) -> Vec<Sent> {
    let keys = boot_keys(layers);
    let hosted = keys.iter().any(|(_, entry)| entry["key"] == "host");
    let counts = |(depth, entry): &&(usize, &Value)| {
        let id = text(&entry["sends"]["option"]);
        let withheld =
            layers[depth + 1..].iter().any(|layer| list(&layer["withheld"]).iter().any(|out| text(out) == id));
        let second = hosted && entry["key"] == "server" && id == "v4:66";
        id.starts_with(&format!("{}:", family.name())) && !withheld && !second && !set.iter().any(|sent| sent.id == id)
    };
    keys.iter().filter(counts).map(|(_, entry)| Sent::of(&entry["sends"])).collect()
}

/// Keeps the routers that the client reaches.
fn near(set: &mut [Sent], network: &Value, address: Ipv4Addr) {
    let nets: Vec<(IpAddr, u8)> = list(&network["subnets"]).iter().map(|one| net(text(one))).collect();
    let mask = |length: u8| u128::from(u32::MAX.checked_shl(32 - u32::from(length)).unwrap_or(0));
    let holds = |net: &(IpAddr, u8), address: u128| address & mask(net.1) == bits(net.0);
    let Some(own) = nets.iter().find(|net| holds(net, bits(address.into()))).filter(|_| nets.len() > 1) else { return };
    for sent in set.iter_mut().filter(|sent| sent.id == "v4:3") {
        let routers = sent.octets.chunks_exact(4);
        let kept =
            routers.filter(|router| holds(own, bits(Ipv4Addr::from(<[u8; 4]>::try_from(*router).unwrap()).into())));
        let kept: Vec<u8> = kept.flatten().copied().collect();
        if !kept.is_empty() {
            sent.octets = kept;
        }
    }
}

fn times(layers: &[&Value], family: Family, set: &[Sent]) -> [u32; 4] {
    let said = |what: &str| layers.iter().rev().find_map(|layer| layer[what].as_u64()).map(|time| time as u32);
    let lease = said("lease").unwrap_or(86_400);
    let preferred = if family == Family::V6 { said("preferred").unwrap_or(lease) } else { lease };
    let option = |id: &str| {
        let octets = &set.iter().find(|sent| sent.id == id && family == Family::V4)?.octets;
        Some(u32::from_be_bytes(octets.as_slice().try_into().ok()?))
    };
    let part = |of: u64, whole: u64| match preferred {
        u32::MAX => u32::MAX,
        time => (u64::from(time) * of / whole) as u32,
    };
    let default = if family == Family::V4 { part(7, 8) } else { part(4, 5) };
    let renew = option("v4:58").or_else(|| said("renew")).unwrap_or_else(|| part(1, 2));
    let rebind = option("v4:59").or_else(|| said("rebind")).unwrap_or(default);
    [lease, preferred, renew, rebind]
}

fn assembled(family: Family, computed: Vec<(u16, Vec<u8>)>, set: &[Sent]) -> Vec<(u16, Vec<u8>)> {
    let mut whole = computed;
    let mut carried: Vec<(u16, Option<u32>, Vec<&Sent>)> = Vec::new();
    let own = [Value::Object(Map::new())];
    for sent in set {
        for carrier in sent.carriers.as_deref().unwrap_or(&own) {
            let Some(outer) = number(&carrier["option"]) else {
                whole.retain(|(code, _)| family == Family::V6 || *code != sent.code);
                whole.push((sent.code, sent.octets.clone()));
                continue;
            };
            let key = (outer as u16, carrier["enterprise"].as_u64().map(|number| number as u32));
            match carried.iter_mut().find(|(code, enterprise, _)| (*code, *enterprise) == key) {
                Some((_, _, all)) => all.push(sent),
                None => carried.push((key.0, key.1, vec![sent])),
            }
        }
    }
    for (code, enterprise, all) in carried {
        let octets = framed(family, code, enterprise, &all);
        match whole.iter_mut().find(|(known, _)| *known == code && family == Family::V4) {
            Some((_, known)) => known.extend(octets),
            None => whole.push((code, octets)),
        }
    }
    if family == Family::V4 {
        whole.sort_by_key(|(code, _)| *code);
    }
    whole
}

fn framed(family: Family, carrier: u16, enterprise: Option<u32>, all: &[&Sent]) -> Vec<u8> {
    let head: Vec<u8> = enterprise.map(|number| number.to_be_bytes().to_vec()).unwrap_or_default();
    if family == Family::V6 {
        let each = all.iter().flat_map(|sent| {
            let length = (sent.octets.len() as u16).to_be_bytes();
            [&sent.code.to_be_bytes()[..], &length, &sent.octets].concat()
        });
        return head.into_iter().chain(each).collect();
    }
    let most = if carrier == 125 { 253 } else { 255 };
    let parts = all.iter().flat_map(|sent| {
        let pieces: Vec<&[u8]> = if sent.octets.is_empty() { vec![&[]] } else { sent.octets.chunks(most).collect() };
        pieces.into_iter().map(|piece| match carrier {
            124 => piece.to_vec(),
            _ => [&[sent.code as u8, piece.len() as u8], piece].concat(),
        })
    });
    if enterprise.is_none() {
        return parts.flatten().collect();
    }
    let mut blocks: Vec<Vec<u8>> = vec![Vec::new()];
    for one in parts {
        if blocks.last().unwrap().len() + one.len() > 255 {
            blocks.push(Vec::new());
        }
        blocks.last_mut().unwrap().extend(one);
    }
    blocks.into_iter().flat_map(|block| [&head[..], &[block.len() as u8], &block].concat()).collect()
}

fn bits(address: IpAddr) -> u128 {
    match address {
        IpAddr::V4(address) => u32::from(address).into(),
        IpAddr::V6(address) => address.into(),
    }
}

fn net(text: &str) -> (IpAddr, u8) {
    let (address, length) = text.split_once('/').unwrap();
    (address.parse().unwrap(), length.parse().unwrap())
}

fn reserved(row: Option<&Value>, family: Family) -> Option<IpAddr> {
    let key = if family == Family::V4 { "address" } else { "address_v6" };
    row?[key].as_str()?.parse().ok()
}

/// The ranges of a family in a list.
fn ranges(texts: &Value, family: Family) -> Vec<(u128, u128)> {
    let ends = list(texts).iter().map(|range| {
        let (first, last) = text(range).split_once('-').unwrap_or((text(range), text(range)));
        (first.parse::<IpAddr>().unwrap(), last.parse::<IpAddr>().unwrap())
    });
    ends.filter(|(first, _)| first.is_ipv4() == (family == Family::V4))
        .map(|(first, last)| (bits(first), bits(last)))
        .collect()
}

fn free(content: &Content, network: &Value, fleets: &[&Value], family: Family, leased: u128) -> Option<IpAddr> {
    let name = text(&network["name"]);
    let pools_of = |fleet: &Value| {
        let on = list(&fleet["on"]).iter().find(|on| text(&on["network"]) == name);
        on.map(|on| ranges(&on["pools"], family)).unwrap_or_default()
    };
    let own = fleets.iter().map(|fleet| pools_of(fleet)).find(|pools| !pools.is_empty());
    let mut taken = ranges(&network["excluded"], family);
    if own.is_none() {
        taken.extend(content.fleets.iter().flat_map(pools_of));
    }
    let rows = content.reservations.iter().filter(|row| text(&row["network"]) == name);
    taken.extend(rows.filter_map(|row| reserved(Some(row), family)).map(|address| (bits(address), bits(address))));
    let (key, width, most) = if family == Family::V4 { ("subnets", 32, 30) } else { ("prefixes", 128, 126) };
    for (address, length) in list(&network[key]).iter().map(|one| net(text(one))).filter(|net| net.1 <= most) {
        taken.push((bits(address), bits(address)));
        let last = bits(address) | ((1u128 << (width - length)) - 1);
        taken.extend((family == Family::V4).then_some((last, last)));
    }
    let pools = own.unwrap_or_else(|| ranges(&network["pools"], family));
    let addresses = pools.iter().flat_map(|(first, last)| *first..=*last);
    let mut free = addresses.filter(|address| !taken.iter().any(|(first, last)| first <= address && address <= last));
    let found = free.nth(leased as usize)?;
    Some(match family {
        Family::V4 => Ipv4Addr::from(found as u32).into(),
        Family::V6 => Ipv6Addr::from(found).into(),
    })
}

fn delegated(row: Option<&Value>, content: &Content, network: &Value, leased: u128) -> Option<(Ipv6Addr, u8)> {
    let prefix = |text: &str| match net(text) {
        (IpAddr::V6(address), length) => (address, length),
        (IpAddr::V4(_), _) => panic!("{text}"),
    };
    if let Some(own) = row.and_then(|row| row["delegated"].as_str()) {
        return Some(prefix(own));
    }
    let (within, length) = text(list(&network["delegates"]).first()?).split_once(" as /")?;
    let ((first, _), length) = (prefix(within), length.parse::<u8>().unwrap());
    let rows = content.reservations.iter().filter(|row| row["network"] == network["name"]);
    let taken: Vec<(Ipv6Addr, u8)> = rows.filter_map(|row| row["delegated"].as_str()).map(prefix).collect();
    let end = |(address, length): (Ipv6Addr, u8)| u128::from(address) | ((1u128 << (128 - length)) - 1);
    let all = (0..).map(|at: u128| (Ipv6Addr::from(u128::from(first) + (at << (128 - length))), length));
    let meets = |one: (Ipv6Addr, u8), other: (Ipv6Addr, u8)| {
        one.0 <= Ipv6Addr::from(end(other)) && other.0 <= Ipv6Addr::from(end(one))
    };
    all.filter(|one| !taken.iter().any(|other| meets(*one, *other))).nth(leased as usize)
}
