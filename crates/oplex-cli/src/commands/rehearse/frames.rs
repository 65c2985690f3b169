//! An exchange as frames for a packet analyser.

use std::path::Path;
use std::time::SystemTime;

use oplex::answer::Played;
use oplex::plan::ClientFacts;
use oplex_io::capture;

use crate::exit::{Failure, because};

/// Writes the messages as frames, a millisecond apart.
pub(super) fn write<'m>(
    path: &Path,
    replace: bool,
    client: &ClientFacts,
    messages: impl Iterator<Item = &'m Played>,
) -> Result<(), Failure> {
    let own = client.own_mac().unwrap_or_default();
    let Some(frames) = messages
        .map(|played| capture::frame_of(played.ends, played.from_client, &played.octets, own))
        .collect::<Option<Vec<_>>>()
    else {
        return because("a message is longer than a datagram");
    };
    crate::exit::leave_nothing_half_written();
    Ok(capture::write(path, SystemTime::now(), &frames, replace)?)
}
