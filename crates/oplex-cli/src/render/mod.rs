//! How results look: text for people, JSON for programs.

pub(crate) mod clean;
pub(crate) mod findings;
pub(crate) mod json;
pub(crate) mod octets;
pub(crate) mod style;
