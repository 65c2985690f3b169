//! Frames as capture files hold them: pcap and pcapng, of either order of octets.

use std::borrow::Cow;
use std::io::Read;
use std::time::Duration;

use pcap_file::Endianness;
use pcap_file::pcap::{PcapReader, PcapTsResolution};
use pcap_file::pcapng::blocks::enhanced_packet::EnhancedPacketOption;
use pcap_file::pcapng::blocks::opt_common::CommonOption;
use pcap_file::pcapng::blocks::packet::PacketOption;
use pcap_file::pcapng::{Block, PcapNgReader, PcapNgState, RawBlock};

use super::read::Damage;

/// A frame.
#[derive(Debug, Clone)]
pub(super) struct Frame<'f> {
    /// When it was seen; `None` where the file does not say.
    pub(super) at: Option<Duration>,
    /// The interface that it was seen on, counted over all sections of a file.
    pub(super) interface: u32,
    /// What it begins with, by the number of the link type (the registry of LINKTYPE values).
    pub(super) link_type: u32,
    /// Where its octets begin in the file.
    pub(super) offset: u64,
    pub(super) octets: &'f [u8],
    /// How many octets were sent.
    pub(super) sent: usize,
    /// The comments about it in the capture.
    pub(super) comment: Option<String>,
    /// What of its block cannot be read.
    pub(super) damage: Option<Damage>,
}

/// What a file has next.
pub(super) enum Next<'f> {
    Frame(Frame<'f>),
    /// A block that holds no frame.
    Other,
    /// Something that cannot be read; whether what follows it can.
    Damage(Damage, bool),
    End,
}

/// A capture file.
pub(super) enum Frames<R: Read> {
    Pcap { reader: Box<PcapReader<R>>, offset: u64 },
    Pcapng(Box<Pcapng<R>>),
}

/// A file of blocks in sections, of which each has interfaces of its own.
pub(super) struct Pcapng<R: Read> {
    reader: PcapNgReader<R>,
    /// How many interfaces the sections before had, and how many this one.
    before: u32,
    here: u32,
}

/// The numbers with which files of these kinds begin.
const PCAPNG: [u8; 4] = [0x0a, 0x0d, 0x0d, 0x0a];
const PCAP: [[u8; 4]; 4] =
    [[0xa1, 0xb2, 0xc3, 0xd4], [0xd4, 0xc3, 0xb2, 0xa1], [0xa1, 0xb2, 0x3c, 0x4d], [0x4d, 0x3c, 0xb2, 0xa1]];

/// Octets of the header of a pcap file, and of that of each of its frames.
const FILE_HEADER: u64 = 24;
const FRAME_HEADER: u64 = 16;

/// The types of blocks: a section, an interface, and three that hold a frame.
const SECTION: u32 = 0x0a0d_0d0a;
const INTERFACE: u32 = 1;
const PACKET: u32 = 2;
const SIMPLE: u32 = 3;
const ENHANCED: u32 = 6;

impl<R: Read> Frames<R> {
    /// Begins to read a file whose first octets are these, through a buffer of so many, which no frame is larger than.
    pub(super) fn new(first: [u8; 4], reader: R, buffer: usize) -> Result<Self, String> {
        if first == PCAPNG {
            let reader = PcapNgReader::with_capacity(reader, buffer)
                .map_err(|error| format!("its first block cannot be read: {error}"))?;
            return Ok(Self::Pcapng(Box::new(Pcapng { reader, before: 0, here: 0 })));
        }
        if PCAP.contains(&first) {
            let reader = PcapReader::with_capacity(reader, buffer)
                .map_err(|error| format!("its header cannot be read: {error}"))?;
            return Ok(Self::Pcap { reader: Box::new(reader), offset: FILE_HEADER });
        }
        Err("it is no capture: neither pcap nor pcapng, plain or compressed by gzip".to_owned())
    }

    /// How many octets of the file were read.
    pub(super) fn offset(&self) -> u64 {
        match self {
            Self::Pcap { offset, .. } => *offset,
            Self::Pcapng(file) => file.reader.bytes_parsed(),
        }
    }

    /// What comes next.
    pub(super) fn step(&mut self) -> Next<'_> {
        match self {
            Self::Pcap { reader, offset } => of_pcap(reader, offset),
            Self::Pcapng(file) => file.step(),
        }
    }
}

fn of_pcap<'f, R: Read>(reader: &'f mut PcapReader<R>, offset: &mut u64) -> Next<'f> {
    let (header, begins) = (reader.header(), *offset);
    let packet = match reader.next_raw_packet() {
        None => return Next::End,
        Some(Err(error)) => return Next::Damage(cut_short(begins, &error), false),
        Some(Ok(packet)) => packet,
    };
    *offset += FRAME_HEADER + packet.data.len() as u64;
    let fraction = match header.ts_resolution {
        PcapTsResolution::MicroSecond => Duration::from_micros(packet.ts_frac.into()),
        PcapTsResolution::NanoSecond => Duration::from_nanos(packet.ts_frac.into()),
    };
    let Cow::Borrowed(octets) = packet.data else { return Next::Other };
    Next::Frame(Frame {
        at: Some(Duration::from_secs(packet.ts_sec.into()) + fraction),
        interface: 0,
        link_type: header.datalink.into(),
        offset: begins + FRAME_HEADER,
        octets,
        // One that says to have been shorter than what is there of it was as long as that.
        sent: (packet.orig_len as usize).max(octets.len()),
        comment: None,
        damage: None,
    })
}

fn cut_short(offset: u64, error: &dyn std::fmt::Display) -> Damage {
    Damage { offset, why: format!("what follows cannot be read: {error}") }
}

impl<R: Read> Pcapng<R> {
    fn step(&mut self) -> Next<'_> {
        let begins = self.reader.bytes_parsed();
        let (block, state) = match self.reader.next_raw_block() {
            None => return Next::End,
            Some(Err(error)) => return Next::Damage(cut_short(begins, &error), false),
            Some(Ok(read)) => read,
        };
        match block.type_ {
            SECTION => {
                self.before += std::mem::take(&mut self.here);
                Next::Other
            }
            INTERFACE => {
                self.here += 1;
                Next::Other
            }
            PACKET | SIMPLE | ENHANCED => of_block(block, state, begins, self.before),
            _ => Next::Other,
        }
    }
}

fn of_block<'f>(block: RawBlock<'f>, state: &PcapNgState, begins: u64, before: u32) -> Next<'f> {
    // Type and length of the block, and its fields in front of the frame.
    let offset = begins + 8 + if block.type_ == SIMPLE { 4 } else { 20 };
    let damage =
        |error: &dyn std::fmt::Display| Damage { offset: begins, why: format!("this block cannot be read: {error}") };
    // What stands behind a frame does not cost it.
    let (read, in_vain) = match block.clone().try_into_block(state) {
        Ok(read) => (Ok(read), None),
        Err(error) => match without_options(block, state) {
            Some(bare) => (bare.try_into_block(state), Some(damage(&error))),
            None => (Err(error), None),
        },
    };
    let (interface, at, sent, octets, comment) = match read {
        Ok(Block::EnhancedPacket(packet)) => {
            let comment = noted(packet.options.iter().filter_map(|option| match option {
                EnhancedPacketOption::Common(common) => Some(common),
                _ => None,
            }));
            (packet.interface_id, Some(packet.timestamp), packet.original_len, packet.data, comment)
        }
        Ok(Block::Packet(packet)) => {
            let comment = noted(packet.options.iter().filter_map(|option| match option {
                PacketOption::Common(common) => Some(common),
                _ => None,
            }));
            (packet.interface_id.into(), Some(packet.timestamp), packet.original_len, packet.data, comment)
        }
        Ok(Block::SimplePacket(packet)) => (0, None, packet.original_len, packet.data, None),
        Ok(_) => return Next::Other,
        Err(error) => return Next::Damage(damage(&error), true),
    };
    let Some(described) = state.interfaces().get(interface as usize) else {
        let why = format!("this frame is of interface {interface}, which the file does not describe");
        return Next::Damage(Damage { offset: begins, why }, true);
    };
    let Cow::Borrowed(octets) = octets else { return Next::Other };
    Next::Frame(Frame {
        at,
        interface: before + interface,
        link_type: described.linktype.into(),
        offset,
        octets,
        sent: (sent as usize).max(octets.len()),
        comment,
        damage: in_vain,
    })
}

/// The same block without what stands behind its frame; `None` where nothing does.
fn without_options<'f>(block: RawBlock<'f>, state: &PcapNgState) -> Option<RawBlock<'f>> {
    let Cow::Borrowed(body) = block.body else { return None };
    // In front of the frame stand five numbers, of which the fourth says how many octets there are of it.
    let captured: [u8; 4] = body.get(12..16)?.try_into().ok()?;
    let captured = match state.endianness() {
        Endianness::Big => u32::from_be_bytes(captured),
        Endianness::Little => u32::from_le_bytes(captured),
    };
    let end = (captured as usize).checked_next_multiple_of(4)?.checked_add(20)?;
    let bare = body.get(..end).filter(|bare| bare.len() < body.len() && block.type_ != SIMPLE)?;
    Some(RawBlock { body: Cow::Borrowed(bare), ..block })
}

/// As much of what was noted about a frame is kept.
const NOTE: usize = 400;

/// What was noted about a frame, several notes one after the other.
fn noted<'o>(options: impl Iterator<Item = &'o CommonOption<'o>>) -> Option<String> {
    let mut all: Option<String> = None;
    for option in options {
        let CommonOption::Comment(text) = option else { continue };
        let known = all.get_or_insert_default();
        let between = if known.is_empty() { "" } else { "; " };
        let room = NOTE.saturating_sub(known.chars().count());
        known.extend(between.chars().chain(text.chars()).take(room));
    }
    all
}
