//! `oplex shell`: completions for shells, and manual pages.

use std::io::Write;
use std::path::Path;

use clap::CommandFactory as _;
use clap_complete::env::Shells;
use clap_mangen::Man;

use super::shown;
use crate::args::{Args, Shell, ShellKind};
use crate::exit::{DONE, Failure, Outcome, because};
use crate::shell::VARIABLE;

pub(super) fn run(args: &Shell, out: &mut dyn Write) -> Outcome {
    match (args.kind, &args.to) {
        (ShellKind::Man, Some(folder)) => pages(folder, out),
        (ShellKind::Man, None) => {
            out.write_all(&page(Args::command())?)?;
            Ok(DONE)
        }
        (_, Some(_)) => because("--to is for manual pages; completions are written to standard output"),
        (kind, None) => registration(kind, out),
    }
}

/// What a shell reads when it starts: it asks the command itself, so that a newer one needs no other.
fn registration(kind: ShellKind, out: &mut dyn Write) -> Outcome {
    let shells = Shells::builtins();
    let Some(shell) = shells.completer(kind.name()) else {
        return because(format!("there are no completions for {}", kind.name()));
    };
    let mut script = Vec::new();
    shell.write_registration(VARIABLE, "oplex", "oplex", "oplex", &mut script)?;
    out.write_all(&script)?;
    Ok(DONE)
}

fn page(command: clap::Command) -> std::io::Result<Vec<u8>> {
    let mut page = Vec::new();
    Man::new(command).render(&mut page)?;
    Ok(page)
}

/// Writes a page for each command; what is there of these names is replaced.
fn pages(folder: &Path, out: &mut dyn Write) -> Outcome {
    let wrong =
        |error: std::io::Error| Failure::Because(format!("{}: {}", shown(folder), oplex_io::files::reason(&error)));
    std::fs::create_dir_all(folder).map_err(wrong)?;
    crate::exit::leave_nothing_half_written();
    let mut root = Args::command().disable_help_subcommand(true);
    // This names each command by those that it is under: `oplex-lab-run`.
    root.build();
    let (mut all, mut count) = (vec![root], 0);
    while let Some(command) = all.pop() {
        all.extend(command.get_subcommands().cloned());
        let name = command.get_display_name().unwrap_or_else(|| command.get_name()).to_owned();
        let octets = page(command).map_err(wrong)?;
        let path = folder.join(format!("{name}.1"));
        oplex_io::staged::write(&path, true, |file| file.write_all(&octets)).map_err(wrong)?;
        count += 1;
    }
    writeln!(out, "{}: {count} manual pages", shown(folder))?;
    Ok(DONE)
}
