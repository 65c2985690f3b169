//! Options of vendors on their way into messages and back: whatever a vendor's options hold, what carries them is read again.

use oplex::codebook::{Assembled, Carrier, Codebook, Definition, OptionOctets, OptionToSend, Origins, assemble, split};
use oplex::family::Family;
use oplex::layout::Layout;
use proptest::prelude::*;

/// A book whose options hold any octets, in one of the options that carry vendors'.
fn book(carrier: Carrier) -> Codebook {
    let mut codebook = Codebook::standard().clone();
    for code in 1..=8 {
        let layout: Layout = "bytes*".parse().unwrap();
        codebook.define(Definition::new("tern", code, &format!("part-{code}"), layout).carried(carrier));
    }
    codebook
}

/// The options in what carries them, read by another hand: RFC 2132, section 8.4; RFC 3925, section 4; RFC 8415, section 21.17.
fn inside(family: Family, outer: u16, octets: &[u8]) -> Vec<(u16, Vec<u8>)> {
    let mut all: Vec<(u16, Vec<u8>)> = Vec::new();
    let mut left = octets;
    let mut blocks = Vec::new();
    match (family, outer) {
        (Family::V4, 43) => blocks.push(left),
        (Family::V4, _) => {
            while let [_, _, _, _, length, rest @ ..] = left {
                let (block, rest) = rest.split_at(usize::from(*length));
                blocks.push(block);
                left = rest;
            }
        }
        (Family::V6, _) => blocks.push(&left[4..]),
    }
    for mut block in blocks {
        while !block.is_empty() {
            let (code, length, rest) = match family {
                Family::V4 => (u16::from(block[0]), usize::from(block[1]), &block[2..]),
                Family::V6 => (
                    u16::from_be_bytes([block[0], block[1]]),
                    usize::from(u16::from_be_bytes([block[2], block[3]])),
                    &block[4..],
                ),
            };
            let (own, rest) = rest.split_at(length);
            // A part that goes on is joined with the one before (RFC 3396).
            match all.last_mut().filter(|(known, before)| {
                *known == code && before.len() % if outer == 43 { 255 } else { 253 } == 0 && !before.is_empty()
            }) {
                Some((_, before)) if family == Family::V4 => before.extend(own),
                _ => all.push((code, own.to_vec())),
            }
            block = rest;
        }
    }
    all
}

fn payloads(most: usize) -> impl Strategy<Value = Vec<(u16, Vec<u8>)>> {
    // Each code once: of several instances of one the parts would join.
    prop::collection::btree_map(1u16..=8, prop::collection::vec(any::<u8>(), 0..most), 1..6)
        .prop_map(|all| all.into_iter().collect())
}

proptest! {
    #[test]
    fn what_carries_vendors_options_is_read_again(given in payloads(600), carrier in 0usize..3) {
        let carrier = [
            Carrier::IN_43,
            Carrier::Vendor { family: Family::V4, code: 125, enterprise: Some(32_473) },
            Carrier::Vendor { family: Family::V6, code: 17, enterprise: Some(32_473) },
        ][carrier];
        let Carrier::Vendor { family, code, .. } = carrier else { unreachable!() };
        let codebook = book(carrier);
        let parts = given.iter().map(|(code, octets)| {
            OptionToSend::new(family, codebook.find(&format!("tern:{code}")).unwrap(), octets, *code)
        });
        let whole: Vec<Assembled<'_, u16>> = assemble(family, parts);
        prop_assert_eq!(whole.len(), 1);
        prop_assert_eq!(whole[0].code, code);
        // Which of them went into it is kept, in their order.
        prop_assert_eq!(whole[0].from.to_vec(), given.iter().map(|(code, _)| *code).collect::<Vec<_>>());
        prop_assert_eq!(inside(family, code, &whole[0].octets), given.clone());
        let definition = codebook.own(family.protocol(), code).unwrap();
        let by_vendor = codebook.by_vendor(definition, Some("tern"));
        let (_, faults) = codebook.decode(by_vendor.as_ref().map_or(definition, |(_, known)| known), &whole[0].octets);
        prop_assert!(faults.is_empty(), "{:?}", faults);
    }

    /// A long payload travels in parts, and the parts are the payload.
    #[test]
    fn parts_are_the_payload(octets in prop::collection::vec(any::<u8>(), 0..1200)) {
        let parts: Vec<&[u8]> = split(&octets).collect();
        prop_assert_eq!(parts.concat(), octets.clone());
        prop_assert!(parts.iter().all(|part| part.len() <= 255));
        prop_assert_eq!(parts.len(), octets.len().div_ceil(255).max(1));
    }

    /// Borrowed, in place or owned: the same octets are the same.
    #[test]
    fn octets_are_the_same_wherever_they_are(four: [u8; 4]) {
        let owned = four.to_vec();
        let all = [OptionOctets::from(four), OptionOctets::from(&four), OptionOctets::from(&owned), OptionOctets::from(owned.clone())];
        for one in &all {
            prop_assert_eq!(&**one, &four[..]);
            prop_assert!(all.iter().all(|other| other == one));
            prop_assert_eq!(one.clone().into_vec(), four.to_vec());
            prop_assert_eq!(format!("{one:?}"), format!("{four:?}"));
        }
    }
}

/// What is made of one has no list, and reads as one all the same.
#[test]
fn origins_read_alike() {
    let (one, several) = (Origins::one('a'), Origins::from(vec!['a', 'b']));
    assert_eq!((&one[..], &several[..]), (&['a'][..], &['a', 'b'][..]));
    assert_eq!(one, Origins::from(vec!['a']));
    assert_ne!(one, several);
    assert_eq!(format!("{one:?} {several:?}"), "['a'] ['a', 'b']");
}

/// Of two for one code of DHCPv4 the later counts, DHCPv6 keeps both; two vendors share option 125 and not option 17.
#[test]
fn several_for_one_code() {
    let codebook = Codebook::standard();
    let [router, servers] = ["v4:3", "v6:23"].map(|id| codebook.find(id).unwrap());
    let two = assemble(
        Family::V4,
        [
            OptionToSend::new(Family::V4, router, [10, 64, 4, 1], 'a'),
            OptionToSend::new(Family::V4, router, [10, 64, 4, 2], 'b'),
        ],
    );
    assert_eq!((two.len(), &*two[0].octets, &two[0].from[..]), (1, &[10, 64, 4, 2][..], &['b'][..]));
    let both = assemble(
        Family::V6,
        [OptionToSend::new(Family::V6, servers, &[0; 16], 'a'), OptionToSend::new(Family::V6, servers, &[1; 16], 'b')],
    );
    assert_eq!(both.iter().map(|one| one.code).collect::<Vec<_>>(), [23, 23]);
    for (family, code, expected) in [(Family::V4, 125, 1), (Family::V6, 17, 2)] {
        let mut codebook = Codebook::standard().clone();
        for (vendor, enterprise) in [("tern", 32_473), ("gannet", 9)] {
            let carrier = Carrier::Vendor { family, code, enterprise: Some(enterprise) };
            codebook.define(Definition::new(vendor, 1, "led", "u8".parse().unwrap()).carried(carrier));
        }
        let [tern, gannet] = ["tern:1", "gannet:1"].map(|id| codebook.find(id).unwrap());
        let whole =
            assemble(family, [OptionToSend::new(family, tern, &[7], 1), OptionToSend::new(family, gannet, &[8], 2)]);
        assert_eq!(whole.iter().filter(|one| one.code == code).count(), expected, "{code}");
        let definition = codebook.own(family.protocol(), code).unwrap();
        assert!(whole.iter().all(|one| codebook.decode(definition, &one.octets).1.is_empty()));
    }
}
