//! `oplex lab`: a plan or release, tried with stand-in clients.

#[cfg(target_os = "linux")]
mod client;
#[cfg(target_os = "linux")]
mod load;
mod page;
mod run;
#[cfg(target_os = "linux")]
mod serve;

use std::io::Write;

use oplex::compiled::Compiled;

use crate::args::Lab;
#[cfg(not(target_os = "linux"))]
use crate::exit::because;
use crate::exit::{Failure, Outcome};

#[cfg(target_os = "linux")]
pub(super) fn run(args: &Lab, out: &mut dyn Write) -> Outcome {
    match args {
        Lab::Run(args) => run::run(args, out),
        Lab::Serve(args) => serve::run(args, out),
        Lab::Client(args) => client::run(args, out),
        Lab::Load(args) => load::run(args, out),
    }
}

#[cfg(not(target_os = "linux"))]
pub(super) fn run(args: &Lab, out: &mut dyn Write) -> Outcome {
    match args {
        Lab::Run(args) => run::run(args, out),
        Lab::Serve(_) | Lab::Client(_) | Lab::Load(_) => {
            because("a lab on real sockets needs Linux; oplex lab run needs none")
        }
    }
}

/// The place of a network in a plan.
fn network(compiled: &Compiled<'_>, name: &str) -> Result<usize, Failure> {
    super::audit::subject::network(Some(compiled), name)
}

#[cfg(target_os = "linux")]
impl From<oplex_io::lab::LabError> for Failure {
    fn from(error: oplex_io::lab::LabError) -> Self {
        Self::Because(error.to_string())
    }
}
