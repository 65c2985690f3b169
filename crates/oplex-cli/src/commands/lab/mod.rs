//! `oplex lab`: a plan or release, tried with stand-in clients.

mod page;
mod run;

use std::io::Write;

use crate::args::Lab;
use crate::exit::Outcome;

pub(super) fn run(args: &Lab, out: &mut dyn Write) -> Outcome {
    match args {
        Lab::Run(args) => run::run(args, out),
    }
}
