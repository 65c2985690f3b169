//! How results look to people.

pub(crate) mod budget;
pub(crate) mod clean;
pub(crate) mod expected;
pub(crate) mod findings;
pub(crate) mod junit;
pub(crate) mod message;
pub(crate) mod octets;
pub(crate) mod option;
pub(crate) mod progress;
pub(crate) mod sarif;
pub(crate) mod style;
pub(crate) mod traffic;
pub(crate) mod wrap;
