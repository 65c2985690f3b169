//! The lab on real sockets: a stand-in server for a bench or a namespace, and one stand-in client. Only on Linux, where a socket can
//! be held to one interface.

mod client;
mod load;
mod server;
mod sockets;

use std::fmt;
use std::io;

use oplex::family::Protocol;

pub use client::{Activity, live};
pub use load::{Load, Loaded, load};
pub use server::{Exchange, Serving, serve};
pub use sockets::Interface;

/// Why a lab cannot go on.
#[derive(Debug)]
#[non_exhaustive]
pub enum LabError {
    /// There is no such interface, or it says nothing of itself.
    Interface(String, io::Error),
    /// A socket cannot be had or used: which, and why.
    Socket(&'static str, io::Error),
    /// Another server answers on the link already.
    Answered {
        /// By which protocol.
        protocol: Protocol,
        /// From where.
        from: std::net::IpAddr,
    },
}

impl fmt::Display for LabError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Interface(name, error) if error.kind() == io::ErrorKind::NotFound => {
                write!(f, "this machine has no interface {name}")
            }
            Self::Interface(name, error) => {
                write!(f, "the interface {name} cannot be used: {}", crate::files::reason(error))
            }
            Self::Socket(what, error) => {
                let reason = crate::files::reason(error);
                write!(f, "{what}: {reason}")?;
                match error.kind() {
                    io::ErrorKind::PermissionDenied => {
                        f.write_str("; ports below 1024 need the rights of an administrator")
                    }
                    io::ErrorKind::AddrInUse => f.write_str("; another program on this machine has it"),
                    _ => Ok(()),
                }
            }
            Self::Answered { protocol: Protocol::Ra, from } => {
                write!(f, "the router {from} advertises on this link already; --advertise is for links without one")
            }
            Self::Answered { protocol, from } => {
                write!(
                    f,
                    "a {protocol} server at {from} answers on this link already; a lab is for links where none does"
                )
            }
        }
    }
}

impl std::error::Error for LabError {}

/// Runs something that waits, on one thread.
fn run<T>(work: impl Future<Output = Result<T, LabError>>) -> Result<T, LabError> {
    let runtime = tokio::runtime::Builder::new_current_thread().enable_all().build();
    runtime.map_err(|error| LabError::Socket("waiting for packets", error))?.block_on(work)
}
