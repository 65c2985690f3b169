//! Captures: messages as the frames they travel in, written to files that packet analysers open, and read from what was captured.
//!
//! ```no_run
//! use oplex_io::capture::{Capture, Item};
//!
//! let mut capture = Capture::open("morning.pcapng".as_ref())?;
//! for item in &mut capture {
//!     match item {
//!         Item::Message(message) => println!("frame {}: {:?}", message.seen.frame, message.seen.message()),
//!         Item::Damage(damage) => println!("octet {}: {}", damage.offset, damage.why),
//!     }
//! }
//! println!("{} frames", capture.frames());
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod checked;
mod fragments;
mod frames;
mod link;
mod net;
mod read;
mod write;

pub use checked::{Checked, WHILE, checked};
pub use read::{Capture, Damage, Item, Message, Progress, Tunnel};
pub use write::{End, RELAY, SERVER, frame, frame_icmpv6, frame_of, multicast, write, write_timed};
