//! The core's tests, one binary.

#![allow(clippy::unwrap_used, reason = "a test that cannot go on should stop")]

mod advertisements;
mod agreement;
mod allocations;
mod amends;
mod answers;
mod clients;
mod codebook;
mod codebook_files;
mod composed;
mod differences;
mod explained;
mod families;
mod faults;
mod generate;
mod hosts;
mod keys;
mod large_plans;
mod layers;
mod layouts;
mod lookups;
mod many_fleets;
mod marked;
mod message_rules;
mod messages;
mod messages_v6;
mod padding;
mod payload_rules;
mod plan_rules;
mod plans;
mod plans_v6;
mod reference;
mod registry;
mod releases;
mod rooms;
mod rules;
mod shown;
mod shown_to_people;
mod spellings;
mod structs;
mod suggestions;
mod typed;
mod vectors;
mod walking;
mod wrong_plans;
