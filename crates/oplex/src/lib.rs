//! Oplex
pub mod answer;
pub mod check;
pub mod codebook;
mod document;
pub mod finding;
pub mod layout;
pub mod nearest;
pub mod octets;
pub mod plan;
pub mod release;
