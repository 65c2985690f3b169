//! Messages as they are given: in arguments, or on standard input, one or many.

use oplex::family::Protocol;
use oplex::octets::hex;
use oplex::packet::AnyMessage;

use super::standard_input;
use crate::exit::{Failure, because};

/// What was given.
pub(super) enum Input {
    /// One message.
    One(Vec<u8>),
    /// Several lines of standard input, each a message.
    Lines(Vec<Line>),
}

/// A line that is not empty.
pub(super) struct Line {
    /// Counts all lines from 1.
    pub(super) frame: usize,
    /// Its octets, or why it has none.
    pub(super) octets: Result<Vec<u8>, String>,
}

/// The octets that were given, or standard input for `-`: there they may be hexadecimal, or themselves, which a first octet
/// that no text begins with tells.
pub(super) fn messages(given: &str, protocol: Protocol) -> Result<Input, Failure> {
    if given != "-" {
        return if given.is_empty() {
            because(format!("octets are missing: oplex decode {} OCTETS", protocol.name()))
        } else {
            octets_of_text(given).map(Input::One)
        };
    }
    let input = standard_input()?;
    match str::from_utf8(&input) {
        Ok(text) if !input.first().is_some_and(|first| begins(protocol, *first)) => in_lines(text, protocol),
        _ => Ok(Input::One(input)),
    }
}

/// Several lines are several messages, unless only all of them together are one, as in a dump of a file.
fn in_lines(text: &str, protocol: Protocol) -> Result<Input, Failure> {
    let numbered = text.lines().enumerate().filter(|(_, line)| !line.trim().is_empty());
    let octets = |line: &str| hex::parse(line).map_err(|error| format!("the octets are not hexadecimal: {error}"));
    let lines: Vec<Line> = numbered.map(|(at, line)| Line { frame: at + 1, octets: octets(line) }).collect();
    if lines.len() < 2 {
        return octets_of_text(text).map(Input::One);
    }
    let plain = |octets: &[u8]| AnyMessage::plainly(octets) == Some(protocol);
    let whole = |line: &Line| line.octets.as_ref().is_ok_and(|octets| plain(octets));
    let reads = |line: &Line| line.octets.as_ref().is_ok_and(|octets| AnyMessage::read(protocol, octets).is_ok());
    match hex::parse(text) {
        Ok(all) if !lines.iter().all(whole) && (plain(&all) || !lines.iter().any(reads)) => Ok(Input::One(all)),
        _ => Ok(Input::Lines(lines)),
    }
}

/// Whether a message of the protocol may begin with this octet, and no text does.
fn begins(protocol: Protocol, first: u8) -> bool {
    let message = match protocol {
        Protocol::V4 => matches!(first, 1 | 2),
        Protocol::V6 => first < 32,
        Protocol::Ra => matches!(first, 133 | 134 | 0x60),
    };
    message && !first.is_ascii_whitespace()
}

pub(super) fn octets_of_text(text: &str) -> Result<Vec<u8>, Failure> {
    hex::parse(text).or_else(|error| because(format!("the octets are not hexadecimal: {error}")))
}

/// What a message of the protocol is, for a sentence.
pub(super) fn message_of(protocol: Protocol) -> &'static str {
    match protocol {
        Protocol::V4 => "a DHCPv4 message",
        Protocol::V6 => "a DHCPv6 message",
        Protocol::Ra => "a router advertisement or solicitation",
    }
}
