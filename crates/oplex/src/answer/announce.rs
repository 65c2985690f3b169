//! What a network's router announces, as octets.

use crate::packet::ra::{ALL_NODES, ComposeError, Draft, Ends, Header, compose};
use crate::plan::Network;

/// The router advertisement of a network, and between whom it goes; `None` when the plan does not say what is announced.
/// Options that have no octets are left out.
///
/// # Errors
/// An option that no advertisement can hold.
pub fn announcement(network: &Network) -> Result<Option<(Vec<u8>, Ends)>, ComposeError> {
    let Some(said) = &network.v6.advertise else { return Ok(None) };
    let options = said.sends.iter();
    let options = options.filter_map(|sent| Some((sent.definition.code as u8, &sent.payload()?.octets[..])));
    let options: Vec<(u8, &[u8])> = options.collect();
    let ends = Ends { source: said.source, destination: ALL_NODES };
    let mut octets = Vec::new();
    compose(&Draft { header: Header::Advertisement(said.header), options: &options }, ends, &mut octets)?;
    Ok(Some((octets, ends)))
}
