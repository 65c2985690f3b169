//! What Oplex reads from and writes to the world: plan files and release stores.

pub mod capture;
pub mod files;
pub mod staged;
pub mod store;
