//! The command `oplex`.

use std::process::ExitCode;

use clap::CommandFactory as _;

mod args;
mod commands;
mod editor;
mod exit;
mod forms;
mod map;
mod rehearsal;
mod render;
mod report;
mod shell;

#[expect(clippy::disallowed_methods, reason = "this is what makes it clean")]
fn main() -> ExitCode {
    if std::env::var_os(shell::VARIABLE).is_some() {
        clap_complete::CompleteEnv::with_factory(args::Args::command).var(shell::VARIABLE).complete();
    }
    let args = match args::Args::read(std::env::args_os()) {
        Ok(args) => args,
        // Help and version go to stdout and are no mistake; clap knows which is which.
        Err(error) => {
            let code = if error.use_stderr() { exit::CANNOT } else { exit::DONE };
            return ExitCode::from(if harmless(error).print().is_ok() { code } else { exit::CANNOT });
        }
    };
    // An editor speaks at standard output itself, which nobody else may hold meanwhile.
    if let args::Command::Editor(args) = &args.command
        && args.schema.is_none()
    {
        return ExitCode::from(exit::code(commands::serve_editor(args), &mut render::clean::stderr()));
    }
    colour(args.global.color).write_global();
    render::progress::set_quiet(args.global.quiet);
    // Standard error stays unlocked: a bar may be drawn there meanwhile, by another thread.
    let width = if args.command.is_for_people() { render::wrap::width() } else { None };
    let out = render::wrap::Wrap::new(anstream::stdout().lock(), width);
    let (mut out, mut err) = (exit::Out::new(out, args.global.quiet), render::clean::stderr());
    let code = exit::code(commands::run(args, &mut out), &mut err);
    ExitCode::from(out.finish(code, &mut err))
}

fn colour(choice: clap::ColorChoice) -> anstream::ColorChoice {
    match choice {
        clap::ColorChoice::Auto => anstream::ColorChoice::Auto,
        clap::ColorChoice::Always => anstream::ColorChoice::Always,
        clap::ColorChoice::Never => anstream::ColorChoice::Never,
    }
}

/// The same error, of arguments in which nothing acts on the terminal: what was typed is repeated in it.
fn harmless(error: clap::Error) -> clap::Error {
    let typed: Vec<String> = std::env::args_os().map(|arg| arg.to_string_lossy().into_owned()).collect();
    let clean: Vec<_> = typed.iter().map(|arg| render::clean::line(arg).into_owned()).collect();
    if clean == typed { error } else { args::Args::read(clean).err().unwrap_or(error) }
}
