//! `oplex diff`: what changes between two plans, and for which clients.

use std::io::Write;
use std::path::Path;

use oplex::compiled::Compiled;

use super::changes::Changes;
use super::releases;
use crate::args::{Diff, Format};
use crate::exit::{DONE, ERRORS, Outcome};
use crate::forms::{self, ChangesForm};
use crate::render::style::{STRONG, in_style};

pub(super) fn run(args: &Diff, out: &mut dyn Write) -> Outcome {
    let load = |path: &Path| releases::plan(path, &args.store, args.trust);
    let (old, new) = (load(&args.old)?, load(&args.new)?);
    let (before, after) = (releases::readable(&old, &args.old)?, releases::readable(&new, &args.new)?);
    let sides = [Compiled::of(before), Compiled::of(after)];
    let changes = Changes::between(&sides[0], &sides[1]);
    let errors = [super::errors(&old), super::errors(&new)];
    match args.format.format {
        Format::Json => {
            let (old, new) = (args.old.display().to_string(), args.new.display().to_string());
            let changed = changes.form();
            forms::document(out, "oplex-diff/1", &ChangesForm { old, new, errors, changed })?;
        }
        Format::Text => {
            let (old, new) = (super::shown(&args.old), super::shown(&args.new));
            super::draw_errors(errors[0], &old, out)?;
            super::draw_errors(errors[1], &new, out)?;
            let verdict = match changes.verdict() {
                None => format!("{old} and {new} send the same octets to every client"),
                Some(verdict) => format!("{old} and {new}: {verdict}"),
            };
            writeln!(out, "{}", in_style(STRONG, verdict))?;
            changes.draw(out)?;
        }
    }
    Ok(if errors == [0, 0] { DONE } else { ERRORS })
}
