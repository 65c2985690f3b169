//! Whole messages: read without copying, written without waste.

pub mod ra;
pub mod v4;
pub mod v6;
