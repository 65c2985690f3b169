//! The command `oplex`.

use std::process::ExitCode;

use clap::Parser;

mod args;
mod commands;
mod exit;
mod forms;
mod render;

fn main() -> ExitCode {
    let args = match args::Args::try_parse() {
        Ok(args) => args,
        // Help and version go to stdout and are no mistake; clap knows which is which.
        Err(error) => {
            let code = if error.use_stderr() { exit::CANNOT } else { exit::DONE };
            let _ = error.print();
            return ExitCode::from(code);
        }
    };
    // Standard error stays unlocked: a bar may be drawn there meanwhile, by another thread.
    let (mut out, mut err) = (anstream::stdout().lock(), anstream::stderr());
    ExitCode::from(exit::code(commands::run(args, &mut out), &mut err))
}
