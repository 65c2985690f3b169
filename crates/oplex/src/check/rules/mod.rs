//! The rules, a file for each subject.

mod addresses;
mod advertisements;
mod advertising;
mod agreement;
mod boot;
mod consistency;
mod containers;
mod dns_servers;
mod exchange;
mod expectations;
mod families;
mod fleets;
pub(super) mod frames;
mod headers;
mod hosts;
mod identities;
pub(super) mod layers;
mod leasequeries;
mod links;
mod lists;
mod locations;
pub(super) mod missing;
mod placement;
mod pools;
pub(super) mod registry;
mod relays;
mod requests;
mod reservations;
mod services;
mod softwires;
mod subnets;
mod text;
mod times;
mod topics;
pub(crate) mod traffic;
mod uris;
mod values;
mod wider;

use super::declare::Check;

/// All of them; nothing depends on their order.
pub(super) static ALL: [&[&Check]; 37] = [
    addresses::CHECKS,
    agreement::CHECKS,
    advertisements::CHECKS,
    advertising::CHECKS,
    boot::CHECKS,
    consistency::CHECKS,
    containers::CHECKS,
    dns_servers::CHECKS,
    exchange::CHECKS,
    expectations::CHECKS,
    families::CHECKS,
    fleets::CHECKS,
    frames::CHECKS,
    headers::CHECKS,
    layers::CHECKS,
    hosts::CHECKS,
    identities::CHECKS,
    leasequeries::CHECKS,
    links::CHECKS,
    lists::CHECKS,
    locations::CHECKS,
    softwires::CHECKS,
    missing::CHECKS,
    placement::CHECKS,
    pools::CHECKS,
    registry::CHECKS,
    relays::CHECKS,
    requests::CHECKS,
    reservations::CHECKS,
    services::CHECKS,
    subnets::CHECKS,
    text::CHECKS,
    times::CHECKS,
    topics::CHECKS,
    uris::CHECKS,
    values::CHECKS,
    wider::CHECKS,
];
