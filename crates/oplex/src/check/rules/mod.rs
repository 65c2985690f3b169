//! The rules, a file for each subject.

mod addresses;
mod advertisements;
mod advertising;
mod consistency;
mod containers;
mod exchange;
mod expectations;
mod families;
mod fleets;
mod frames;
mod headers;
pub(super) mod layers;
mod missing;
mod placement;
mod pools;
mod requests;
mod reservations;
mod services;
mod subnets;
mod text;
mod times;
mod topics;
mod values;

use super::declare::Check;

/// All of them; nothing depends on their order.
pub(super) static ALL: [&[&Check]; 23] = [
    addresses::CHECKS,
    advertisements::CHECKS,
    advertising::CHECKS,
    consistency::CHECKS,
    containers::CHECKS,
    exchange::CHECKS,
    expectations::CHECKS,
    families::CHECKS,
    fleets::CHECKS,
    frames::CHECKS,
    headers::CHECKS,
    layers::CHECKS,
    missing::CHECKS,
    placement::CHECKS,
    pools::CHECKS,
    requests::CHECKS,
    reservations::CHECKS,
    services::CHECKS,
    subnets::CHECKS,
    text::CHECKS,
    times::CHECKS,
    topics::CHECKS,
    values::CHECKS,
];
