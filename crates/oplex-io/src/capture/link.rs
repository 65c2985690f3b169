//! What stands before the IP packet in a frame.

use super::net::Tunnel;

/// What octets are.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Layer {
    Ethernet,
    /// What this EtherType says.
    EtherType(u16),
    /// Logical link control (IEEE 802.2).
    Llc,
    Ppp,
    Mpls,
    /// IPv4 or IPv6, as the first four bits say.
    Ip,
}

/// The way through a frame.
#[derive(Debug, Clone, Default)]
pub(super) struct Way {
    /// The hardware address of who sent it.
    pub(super) hardware: Option<[u8; 6]>,
    /// The VLANs that it is in, sixteen bits each, the outer one highest.
    pub(super) vlans: u64,
    /// The tunnels that it goes through, the outer one first.
    pub(super) tunnels: Vec<Tunnel>,
}

fn word(octets: &[u8], at: usize) -> Option<u16> {
    Some(u16::from_be_bytes([*octets.get(at)?, *octets.get(at + 1)?]))
}

fn mac(octets: &[u8], at: usize) -> Option<[u8; 6]> {
    octets.get(at..at + 6)?.try_into().ok()
}

/// The layer in a frame of a link type, and its octets; `None` for link types that are not known, and for frames that hold no
/// packet.
pub(super) fn payload<'f>(link_type: u32, frame: &'f [u8], way: &mut Way) -> Option<(Layer, &'f [u8])> {
    match link_type {
        1 => Some((Layer::Ethernet, frame)),
        // Loopback: the family, in the order of the machine or of the network. The packet says it as well.
        0 | 108 => Some((Layer::Ip, frame.get(4..)?)),
        9 | 50 => Some((Layer::Ppp, frame)),
        51 => Some((Layer::EtherType(0x8864), frame)),
        12 | 14 | 101 | 228 | 229 => Some((Layer::Ip, frame)),
        105 => wireless(frame, way),
        113 => {
            way.hardware = mac(frame, 6).filter(|_| word(frame, 4) == Some(6));
            Some((ether_type(word(frame, 14)?), frame.get(16..)?))
        }
        127 => {
            let length = u16::from_le_bytes([*frame.get(2)?, *frame.get(3)?]);
            wireless(frame.get(usize::from(length)..)?, way)
        }
        276 => {
            way.hardware = mac(frame, 12).filter(|_| frame.get(11) == Some(&6));
            Some((ether_type(word(frame, 0)?), frame.get(20..)?))
        }
        _ => None,
    }
}

/// A length up to 1500, an EtherType from 1536 on (IEEE 802.3). Linux writes 4 for frames of the former kind.
fn ether_type(number: u16) -> Layer {
    if number < 1536 { Layer::Llc } else { Layer::EtherType(number) }
}

/// What stands in a layer of a link: the next one, and its octets.
pub(super) fn inside<'f>(layer: Layer, octets: &'f [u8], way: &mut Way) -> Option<(Layer, &'f [u8])> {
    match layer {
        Layer::Ethernet => {
            way.hardware = mac(octets, 6);
            Some((ether_type(word(octets, 12)?), &octets[14..]))
        }
        Layer::EtherType(0x8100 | 0x88a8 | 0x9100 | 0x9200) => {
            way.vlans = way.vlans << 16 | u64::from((word(octets, 0)? & 0x0fff) + 1);
            Some((ether_type(word(octets, 2)?), &octets[4..]))
        }
        Layer::EtherType(0x0800 | 0x86dd) => Some((Layer::Ip, octets)),
        // PPPoE: version, code, session, length, and in a session PPP (RFC 2516, section 4).
        Layer::EtherType(0x8864) => Some((Layer::Ppp, octets.get(6..)?)),
        Layer::EtherType(0x8847 | 0x8848) => Some((Layer::Mpls, octets)),
        Layer::EtherType(0x6558) => Some((Layer::Ethernet, octets)),
        Layer::EtherType(_) | Layer::Ip => None,
        // SNAP with an EtherType (RFC 1042).
        Layer::Llc => match octets {
            [0xaa, 0xaa, 0x03, 0, 0, 0, high, low, rest @ ..] => {
                Some((ether_type(u16::from_be_bytes([*high, *low])), rest))
            }
            _ => None,
        },
        Layer::Ppp => {
            let octets = octets.strip_prefix(&[0xff, 0x03]).unwrap_or(octets);
            let octets = if octets.first()? % 2 == 1 { octets } else { octets.get(1..)? };
            matches!(octets.first()?, 0x21 | 0x57).then(|| (Layer::Ip, &octets[1..]))
        }
        Layer::Mpls => {
            way.tunnels.push(Tunnel::Mpls);
            let mut rest = octets;
            // The last label says so (RFC 3032, section 2.1).
            while rest.get(2)? & 1 == 0 {
                rest = rest.get(4..)?;
            }
            let rest = rest.get(4..)?;
            // Ethernet over MPLS has a control word that begins with four zero bits (RFC 4385, section 3).
            match rest.first()? >> 4 {
                4 | 6 => Some((Layer::Ip, rest)),
                0 => Some((Layer::Ethernet, rest.get(4..)?)),
                _ => None,
            }
        }
    }
}

/// A data frame of a wireless network (IEEE 802.11, clause 9.2.3); one that is encrypted holds nothing to be read.
fn wireless<'f>(frame: &'f [u8], way: &mut Way) -> Option<(Layer, &'f [u8])> {
    let (control, flags) = (*frame.first()?, *frame.get(1)?);
    let (to, from) = (flags & 1 != 0, flags & 2 != 0);
    // Of type data, with data in it, and in the clear.
    if control & 0x0c != 0x08 || control & 0x40 != 0 || flags & 0x40 != 0 {
        return None;
    }
    let quality = control & 0x80 != 0;
    let source = match (to, from) {
        (true, true) => 24,
        (false, true) => 16,
        _ => 10,
    };
    way.hardware = mac(frame, source);
    let high_throughput = quality && flags & 0x80 != 0;
    let header =
        24 + if to && from { 6 } else { 0 } + if quality { 2 } else { 0 } + if high_throughput { 4 } else { 0 };
    Some((Layer::Llc, frame.get(header..)?))
}
