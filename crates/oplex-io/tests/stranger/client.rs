//! Who a message is from, and which fleets and reservation are the client's.

use std::net::{Ipv4Addr, Ipv6Addr};

use serde_json::Value;

use crate::content::{Content, hex, list, number, text};

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Family {
    V4,
    V6,
}

impl Family {
    pub(crate) fn name(self) -> &'static str {
        if self == Self::V4 { "v4" } else { "v6" }
    }
}

/// A client as its message, and the relay messages around it, say who it is.
pub(crate) struct Client {
    pub(crate) family: Family,
    pub(crate) mac: Option<Vec<u8>>,
    pub(crate) sends: Vec<(u16, Vec<u8>)>,
    /// The codes that it requests.
    pub(crate) wants: Option<Vec<u16>>,
}

impl Client {
    pub(crate) fn sent(&self, code: u16) -> Option<&[u8]> {
        self.sends.iter().find(|(sent, _)| *sent == code).map(|(_, octets)| octets.as_slice())
    }

    pub(crate) fn requests(&self, code: u16) -> bool {
        self.wants.as_ref().is_none_or(|wants| wants.contains(&code))
    }

    /// The names by which a reservation may know it.
    fn keys(&self) -> Vec<String> {
        let mac = self.mac.iter().map(|mac| colon(mac));
        let identifier = |octets: &[u8]| match std::str::from_utf8(octets) {
            Ok(text) if !text.is_empty() && text.bytes().all(|c| c == b' ' || c.is_ascii_graphic()) => text.to_owned(),
            _ => format!("0x{}", data_encoding::HEXLOWER.encode(octets)),
        };
        let relayed = |circuit: Option<Vec<u8>>, remote: Option<Vec<u8>>| {
            let circuit = circuit.map(|octets| format!("circuit {}", identifier(&octets)));
            circuit.into_iter().chain(remote.map(|octets| format!("remote {}", identifier(&octets))))
        };
        match self.family {
            Family::V4 => {
                let own = self.sent(61).map(|id| format!("client {}", colon(id)));
                let inner = |code| self.sent(82).and_then(|octets| inner_option(octets, code).into_iter().next());
                own.into_iter().chain(mac).chain(relayed(inner(1), inner(2))).collect()
            }
            Family::V6 => {
                let own = self.sent(1).map(|duid| format!("duid {}", colon(duid)));
                let remote = self.sent(37).and_then(|octets| octets.get(4..)).map(<[u8]>::to_vec);
                own.into_iter().chain(mac).chain(relayed(self.sent(18).map(<[u8]>::to_vec), remote)).collect()
            }
        }
    }

    pub(crate) fn reservation<'c>(&self, content: &'c Content, network: &str) -> Option<&'c Value> {
        let here = |key: &String| {
            content.reservations.iter().find(|row| row["network"] == network && text(&row["client"]) == key)
        };
        self.keys().iter().find_map(here)
    }

    pub(crate) fn fleets<'c>(&self, content: &'c Content) -> Vec<&'c Value> {
        content.fleets.iter().filter(|fleet| self.fits(&fleet["match"])).collect()
    }

    fn fits(&self, condition: &Value) -> bool {
        let (kind, inside) = condition.as_object().unwrap().iter().next().unwrap();
        match kind.as_str() {
            "all" => !list(inside).is_empty() && list(inside).iter().all(|one| self.fits(one)),
            "any" => list(inside).iter().any(|one| self.fits(one)),
            "none" => !list(inside).iter().any(|one| self.fits(one)),
            "sends" => {
                let is_mac = inside["what"] == "mac";
                let texts = if is_mac {
                    self.mac.iter().map(|mac| colon(mac)).collect()
                } else {
                    let groups = list(&inside["reads"][self.family.name()]).iter();
                    let mut read = groups.map(|group| list(group).iter().flat_map(|one| self.read(one)).collect());
                    read.find(|texts: &Vec<String>| !texts.is_empty()).unwrap_or_default()
                };
                let patterns = list(&inside["patterns"]);
                texts.iter().any(|seen| patterns.iter().any(|pattern| fits(text(pattern), seen, is_mac)))
            }
            other => panic!("{other}"),
        }
    }

    /// The texts of a reading.
    fn read(&self, reading: &Value) -> Vec<String> {
        let Some(octets) = self.sent(number(&reading["option"]).unwrap() as u16) else { return Vec::new() };
        if !holds(&reading["when"], octets) {
            return Vec::new();
        }
        let reached = list(&reading["steps"]).iter().try_fold(vec![octets], |areas, step| {
            let inside: Option<Vec<Vec<&[u8]>>> = areas.into_iter().map(|area| into(area, step)).collect();
            inside.map(|all| all.concat())
        });
        let texts = reached.unwrap_or_default().into_iter().map(|octets| as_texts(octets, reading));
        texts.collect::<Option<Vec<_>>>().map(|all| all.concat()).unwrap_or_default()
    }
}

pub(crate) fn colon(octets: &[u8]) -> String {
    octets.iter().map(|octet| format!("{octet:02x}")).collect::<Vec<_>>().join(":")
}

fn big_endian(octets: &[u8]) -> u64 {
    octets.iter().fold(0, |number, octet| number << 8 | u64::from(*octet))
}

fn holds(when: &Value, payload: &[u8]) -> bool {
    if when.is_null() {
        return true;
    }
    let (skip, octets) = (number(&when["skip"]).unwrap(), number(&when["octets"]).unwrap());
    let Some(octets) = payload.get(skip..skip + octets) else { return false };
    let mut seen = big_endian(octets);
    if let Some(mask) = when["mask"].as_u64() {
        seen = u64::from(seen & mask != 0);
    }
    let among = |list: &Value| list.as_array().map(|all| all.iter().any(|one| one.as_u64() == Some(seen)));
    among(&when["is"]).unwrap_or(true) && !among(&when["is_not"]).unwrap_or(false)
}

/// How many octets a part takes, and where its content begins.
pub(crate) fn part(area: &[u8], part: &Value) -> Option<(usize, usize)> {
    let (whole, head) = match (number(&part["octets"]), number(&part["length"])) {
        (Some(octets), _) => (octets, 0),
        (_, Some(width)) => (width + big_endian(area.get(..width)?) as usize, width),
        _ => return None,
    };
    (whole <= area.len()).then_some((whole, head))
}

fn into<'o>(area: &'o [u8], step: &Value) -> Option<Vec<&'o [u8]>> {
    let (kind, what) = step.as_object().unwrap().iter().next().unwrap();
    match kind.as_str() {
        "skip" => Some(vec![&area[part(area, what)?.0..]]),
        "take" => part(area, what).map(|(whole, head)| vec![&area[head..whole]]),
        "each" => {
            let (mut rest, mut items) = (area, Vec::new());
            while !rest.is_empty() {
                let whole = list(what).iter().try_fold(0, |at, one| Some(at + part(&rest[at..], one)?.0))?;
                items.push(&rest[..whole]);
                rest = &rest[whole..];
            }
            Some(items)
        }
        "option" => {
            let (mut rest, mut found) = (area, Vec::new());
            while let [code, length, more @ ..] = rest {
                let octets = more.get(..usize::from(*length))?;
                if Some(u64::from(*code)) == what.as_u64() {
                    found.push(octets);
                }
                rest = &more[octets.len()..];
            }
            Some(found)
        }
        other => panic!("{other}"),
    }
}

fn inner_option(octets: &[u8], code: u8) -> Vec<Vec<u8>> {
    let found = into(octets, &serde_json::json!({ "option": code })).unwrap_or_default();
    found.into_iter().map(<[u8]>::to_vec).collect()
}

fn as_texts(octets: &[u8], reading: &Value) -> Option<Vec<String>> {
    let spelled =
        std::str::from_utf8(octets).ok().filter(|text| !text.chars().any(char::is_control)).map(str::to_owned);
    Some(match text(&reading["as"]) {
        "text" => vec![spelled?],
        "octets" => spelled.into_iter().chain([colon(octets)]).collect(),
        "hex" => vec![colon(octets)],
        "number" => {
            let number = big_endian(octets).to_string();
            let name = reading["names"][&number].as_str().map(str::to_owned);
            std::iter::once(number).chain(name).collect()
        }
        "ipv4" => vec![Ipv4Addr::from(<[u8; 4]>::try_from(octets).ok()?).to_string()],
        "ipv6" => vec![Ipv6Addr::from(<[u8; 16]>::try_from(octets).ok()?).to_string()],
        form @ ("name" | "partial-name") => {
            let (mut rest, mut labels, mut root) = (octets, Vec::new(), false);
            while let [length, more @ ..] = rest {
                root = *length == 0;
                let label = more.get(..usize::from(*length))?;
                labels.extend((!root).then(|| String::from_utf8_lossy(label).into_owned()));
                rest = &more[label.len()..];
            }
            let dot = if root && form == "partial-name" { "." } else { "" };
            vec![labels.join(".") + dot]
        }
        other => panic!("{other}"),
    })
}

fn fits(pattern: &str, seen: &str, is_mac: bool) -> bool {
    if is_mac && !pattern.contains(['*', '?']) {
        let (first, last) = pattern.split_once('-').unwrap_or((pattern, pattern));
        return first <= seen && seen <= last;
    }
    let (pattern, seen): (Vec<char>, Vec<char>) = (pattern.chars().collect(), seen.chars().collect());
    // Whether what is left of the text may be what is left of the pattern, from the back to the front.
    let mut row: Vec<bool> = (0..=seen.len()).map(|at| at == seen.len()).collect();
    for wanted in pattern.iter().rev() {
        let next = row.clone();
        for at in (0..=seen.len()).rev() {
            row[at] = match wanted {
                '*' => next[at] || (at < seen.len() && row[at + 1]),
                wanted => at < seen.len() && (*wanted == '?' || *wanted == seen[at]) && next[at + 1],
            };
        }
    }
    row[0]
}

/// The Ethernet address in a DUID.
pub(crate) fn mac_of(duid: &[u8]) -> Option<Vec<u8>> {
    let ([0, 1, 0, 1, _, _, _, _, octets @ ..] | [0, 3, 0, 1, octets @ ..]) = duid else { return None };
    (octets.len() == 6).then(|| octets.to_vec())
}

/// What an edit of an amendment makes of octets.
pub(crate) fn edited(octets: Vec<u8>, edit: &Value) -> Vec<u8> {
    let (kind, what) = edit.as_object().unwrap().iter().next().unwrap();
    match kind.as_str() {
        "first" => [hex(what), octets].concat(),
        "last" => [octets, hex(what)].concat(),
        "set" => {
            let start = list(&what["skip"]).iter().fold(0, |at, one| at + part(&octets[at..], one).unwrap().0);
            let whole = if what["part"].is_null() {
                octets.len() - start
            } else {
                part(&octets[start..], &what["part"]).unwrap().0
            };
            [&octets[..start], &hex(&what["hex"]), &octets[start + whole..]].concat()
        }
        "pair" => {
            let [between, equals, key] = ["between", "equals", "key"].map(|name| text(&what[name]));
            let all = String::from_utf8(octets).unwrap();
            let mut pairs: Vec<String> =
                all.split(between).filter(|pair| !pair.is_empty()).map(str::to_owned).collect();
            let at = pairs.iter().position(|pair| pair.split(equals).next() == Some(key));
            match (what["value"].as_str(), at) {
                (Some(value), Some(at)) => pairs[at] = format!("{key}{equals}{value}"),
                (Some(value), None) => pairs.push(format!("{key}{equals}{value}")),
                (None, Some(at)) => drop(pairs.remove(at)),
                (None, None) => {}
            }
            pairs.join(between).into_bytes()
        }
        other => panic!("{other}"),
    }
}
