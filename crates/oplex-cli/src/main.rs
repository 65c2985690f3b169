//! The command `oplex`.

use std::process::ExitCode;

use clap::Parser;

mod args;
mod commands;
mod exit;
mod forms;
mod map;
mod rehearsal;
mod render;
mod report;

#[expect(clippy::disallowed_methods, reason = "this is what makes it clean")]
fn main() -> ExitCode {
    let args = match args::Args::try_parse() {
        Ok(args) => args,
        // Help and version go to stdout and are no mistake; clap knows which is which.
        Err(error) => {
            let code = if error.use_stderr() { exit::CANNOT } else { exit::DONE };
            return ExitCode::from(if harmless(error).print().is_ok() { code } else { exit::CANNOT });
        }
    };
    // Standard error stays unlocked: a bar may be drawn there meanwhile, by another thread.
    let (mut out, mut err) = (exit::Out::new(anstream::stdout().lock()), render::clean::stderr());
    let code = exit::code(commands::run(args, &mut out), &mut err);
    ExitCode::from(out.finish(code, &mut err))
}

/// The same error, of arguments in which nothing acts on the terminal: what was typed is repeated in it.
fn harmless(error: clap::Error) -> clap::Error {
    let typed: Vec<String> = std::env::args_os().map(|arg| arg.to_string_lossy().into_owned()).collect();
    let clean: Vec<_> = typed.iter().map(|arg| render::clean::line(arg).into_owned()).collect();
    if clean == typed { error } else { args::Args::try_parse_from(clean).err().unwrap_or(error) }
}
