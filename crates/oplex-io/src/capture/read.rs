//! Messages out of captures.

use std::collections::HashMap;
use std::fs::File;
use std::io::{BufReader, Chain, Cursor, Read};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::Duration;

use flate2::read::MultiGzDecoder;
use oplex::audit::{CapturedMessage, Frame as AuditFrame};
use oplex::family::Protocol;
use oplex::octets::Mac;

use super::fragments::Fragments;
use super::frames::{Frame, Frames, Next};
use super::link::Way;
use super::net::{self, Found};
use crate::files::{FileError, reason};

pub use super::net::Tunnel;

/// A capture that is read: pcap or pcapng, plain or compressed by gzip. It gives the messages of DHCP and of routers; other frames
/// are passed over. What it keeps is bounded, whatever the file says: 8 MB of the file, and 256 packets in fragments.
///
/// # What is understood
/// Ethernet with VLANs, LLC and SNAP; Linux cooked captures of both versions; raw IP; loopback; PPP and PPPoE; 802.11, with and
/// without radiotap, in the clear; IPv4 and IPv6 with their options and extension headers, in fragments as well; IP in IP, IPv6 in
/// IP, GRE, VXLAN and MPLS; UDP ports 67, 68, 4011, 546 and 547, and the ICMPv6 types 133 and 134.
pub struct Capture {
    frames: Frames<Box<dyn Read + Send>>,
    fragments: Fragments,
    /// The numbers of interfaces and VLANs.
    links: HashMap<(u32, u64), u32>,
    count: u64,
    last: Duration,
    ended: bool,
    /// What of the last frame's block could not be read.
    damage: Option<Damage>,
    /// Where progress is reported, and how far it was at the last report.
    progress: Option<Arc<Progress>>,
    reported: (u64, u64),
}

/// What a capture has.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Item {
    /// A message.
    Message(Message),
    /// Something that cannot be read. What follows it is read as far as that is possible.
    Damage(Damage),
}

/// A message of a capture.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Message {
    /// The message, with its time, frame and addresses.
    pub seen: CapturedMessage,
    /// Where the octets of its frame begin in the file, uncompressed; of one in fragments those of the last fragment.
    pub offset: u64,
    /// Where it begins in its frame; `None` where it comes from several.
    pub at: Option<usize>,
    /// The tunnels that it goes through, the outer one first.
    pub tunnels: Vec<Tunnel>,
}

/// Something in a capture that cannot be read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Damage {
    /// Where it begins in the file, uncompressed.
    pub offset: u64,
    /// What is wrong with it.
    pub why: String,
}

/// How far captures were read.
#[derive(Debug, Default)]
pub struct Progress {
    /// How many frames were read.
    pub frames: AtomicU64,
    /// How many octets were read, uncompressed.
    pub octets: AtomicU64,
}

/// As many octets of a file are kept: no frame and no other block of a file is larger.
const BUFFER: usize = 8 << 20;

/// Progress is reported each time so many frames were read.
const OFTEN: u64 = 4096;

/// More links are not distinguished.
const LINKS: usize = 65_536;

/// The numbers with which files of gzip begin (RFC 1952, section 2.3.1).
const GZIP: [u8; 2] = [0x1f, 0x8b];

impl Capture {
    /// Opens a file.
    ///
    /// # Errors
    /// A file that cannot be read, or that is no capture.
    pub fn open(path: &Path) -> Result<Self, FileError> {
        let wrong = |why: String| FileError { path: path.to_owned(), why };
        let file = File::open(path).map_err(|error| wrong(reason(&error)))?;
        Self::read(file, path)
    }

    /// Reads a capture that is in memory.
    ///
    /// # Errors
    /// Octets that are no capture.
    pub fn of_octets(octets: Vec<u8>, name: &Path) -> Result<Self, FileError> {
        // Compressed ones come to more.
        let buffer = if octets.starts_with(&GZIP) { BUFFER } else { octets.len().clamp(64, BUFFER) };
        Self::through(Cursor::new(octets), name, buffer)
    }

    /// Reads a capture from anything, which is called by this name where something is wrong with it.
    ///
    /// # Errors
    /// Octets that cannot be read, or that are no capture.
    pub fn read(from: impl Read + Send + 'static, name: &Path) -> Result<Self, FileError> {
        Self::through(from, name, BUFFER)
    }

    fn through(from: impl Read + Send + 'static, name: &Path, buffer: usize) -> Result<Self, FileError> {
        let wrong = |why: String| FileError { path: PathBuf::from(name), why };
        let (first, whole) = peek(from).map_err(|error| wrong(reason(&error)))?;
        let (first, whole): ([u8; 4], Box<dyn Read + Send>) = match first[..2] == GZIP {
            true => {
                let inside = MultiGzDecoder::new(BufReader::with_capacity(1 << 16, whole));
                let (first, whole) =
                    peek(inside).map_err(|error| wrong(format!("it cannot be decompressed: {error}")))?;
                (first, Box::new(whole))
            }
            false => (first, Box::new(whole)),
        };
        let frames = Frames::new(first, whole, buffer).map_err(wrong)?;
        Ok(Self {
            frames,
            fragments: Fragments::default(),
            links: HashMap::new(),
            count: 0,
            last: Duration::ZERO,
            ended: false,
            damage: None,
            progress: None,
            reported: (0, 0),
        })
    }

    /// The same, and it adds to this how far it is.
    #[must_use]
    pub fn telling(self, progress: &Arc<Progress>) -> Self {
        Self { progress: Some(Arc::clone(progress)), ..self }
    }

    fn tell(&mut self) {
        let now = (self.count, self.octets());
        if let Some(progress) = &self.progress {
            progress.frames.fetch_add(now.0 - self.reported.0, Ordering::Relaxed);
            progress.octets.fetch_add(now.1 - self.reported.1, Ordering::Relaxed);
        }
        self.reported = now;
    }

    /// How many frames were read until now.
    #[must_use]
    pub fn frames(&self) -> u64 {
        self.count
    }

    /// How many octets of the file were read until now, uncompressed.
    #[must_use]
    pub fn octets(&self) -> u64 {
        self.frames.offset()
    }
}

/// What was looked at, and what follows it.
type Whole<R> = Chain<Cursor<Vec<u8>>, R>;

/// The first four octets, and all of them; zeros where there are fewer.
fn peek<R: Read>(mut from: R) -> std::io::Result<([u8; 4], Whole<R>)> {
    let mut first = Vec::with_capacity(4);
    from.by_ref().take(4).read_to_end(&mut first)?;
    let mut four = [0; 4];
    four[..first.len()].copy_from_slice(&first);
    Ok((four, Cursor::new(first).chain(from)))
}

impl Iterator for Capture {
    type Item = Item;

    fn next(&mut self) -> Option<Item> {
        while !self.ended {
            if let Some(damage) = self.damage.take() {
                return Some(Item::Damage(damage));
            }
            if self.count - self.reported.0 >= OFTEN {
                self.tell();
            }
            match self.frames.step() {
                Next::End => {
                    self.ended = true;
                    self.tell();
                }
                Next::Other => {}
                Next::Damage(damage, goes_on) => {
                    self.ended = !goes_on;
                    return Some(Item::Damage(damage));
                }
                Next::Frame(mut frame) => {
                    self.damage = frame.damage.take();
                    self.count += 1;
                    self.last = frame.at.unwrap_or(self.last);
                    let mut way = Way::default();
                    let of = (frame.interface, self.last);
                    let found = net::message(frame.link_type, frame.octets, &mut self.fragments, of, &mut way);
                    if let Some(found) = found {
                        let links = &mut self.links;
                        return Some(Item::Message(message(&frame, found, way, (self.count, self.last), links)));
                    }
                }
            }
        }
        None
    }
}

/// The message that was found in a frame.
fn message(
    frame: &Frame<'_>,
    found: Found,
    way: Way,
    (number, at): (u64, Duration),
    links: &mut HashMap<(u32, u64), u32>,
) -> Message {
    let next = links.len() as u32;
    let key = (frame.interface, way.vlans);
    let link = match links.get(&key) {
        Some(link) => *link,
        None if links.len() >= LINKS => 0,
        None => *links.entry(key).or_insert(next),
    };
    let protocol = match (found.of_router, found.source.is_ipv4()) {
        (true, _) => Protocol::Ra,
        (_, true) => Protocol::V4,
        (_, false) => Protocol::V6,
    };
    // What is missing of the frame is missing of the message, where the lengths in it do not say.
    let missing = if found.missing > 0 { frame.sent.saturating_sub(frame.octets.len()).max(1) } else { 0 };
    Message {
        seen: CapturedMessage {
            at,
            frame: AuditFrame { file: 0, number },
            link,
            protocol,
            source: found.source,
            destination: found.destination,
            hardware: way.hardware.map(Mac),
            octets: found.octets,
            missing: if found.of_router { missing } else { found.missing },
            checksum_wrong: found.checksum_wrong,
            comment: frame.comment.as_deref().map(Arc::from),
        },
        offset: frame.offset,
        at: found.at,
        tunnels: way.tunnels,
    }
}
