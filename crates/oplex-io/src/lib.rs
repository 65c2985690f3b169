//! What Oplex reads from and writes to the world: plan files, captures, release stores, and the sockets of the lab.
#![cfg_attr(docsrs, feature(doc_cfg))]

pub mod capture;
pub mod files;
#[cfg(target_os = "linux")]
pub mod lab;
pub mod probe;
pub mod staged;
pub mod store;
