//! `oplex check`: what is wrong with a plan or a codebook.

use std::io::Write;

use oplex::check;
use oplex::finding::{Finding, any_error};
use oplex::plan::{Loaded, Plan};

use super::shown;
use crate::args::{Check, Format};
use crate::exit::{CANNOT, DONE, ERRORS, Outcome};
use crate::render::findings;
use crate::render::json::{self, FindingForm};
use crate::render::style::{BAD, GOOD, in_style};

pub(super) fn run(args: &Check, out: &mut dyn Write) -> Outcome {
    let loaded = oplex_io::files::plan_or_codebook(&args.file)?;
    let found = check::plan(&loaded);
    match args.format.format {
        Format::Json => {
            for finding in &found {
                json::line(out, &FindingForm::new(finding, &loaded.sources))?;
            }
        }
        Format::Text => {
            writeln!(out, "{}: {}", shown(&args.file), verdict(&loaded, &found))?;
            findings::draw_all(out, &found, &loaded.sources)?;
        }
    }
    Ok(code(&loaded, &found))
}

/// A file that is not TOML could not be checked at all.
pub(super) fn code(loaded: &Loaded, found: &[Finding]) -> u8 {
    match loaded.plan {
        None => CANNOT,
        Some(_) if any_error(found) => ERRORS,
        Some(_) => DONE,
    }
}

fn verdict(loaded: &Loaded, found: &[Finding]) -> String {
    match &loaded.plan {
        None => in_style(BAD, "cannot be read as a plan"),
        Some(plan) if found.is_empty() => format!("{} ({})", in_style(GOOD, "nothing wrong"), extent(loaded, plan)),
        Some(_) => {
            let tally = findings::tally(found);
            if any_error(found) { in_style(BAD, tally) } else { format!("{}; {tally}", in_style(GOOD, "no errors")) }
        }
    }
}

/// `4 networks, 17 options`
fn extent(loaded: &Loaded, plan: &Plan) -> String {
    let counted = |count, one: &str| if count == 1 { format!("1 {one}") } else { format!("{count} {one}s") };
    if loaded.is_codebook {
        let own = plan.codebook.definitions().filter(|definition| definition.book() != "v4").count();
        return format!("a codebook of {}", counted(own, "option"));
    }
    let options: usize = plan.layers().map(|layer| layer.sends.len()).sum();
    format!("{}, {}", counted(plan.networks.len(), "network"), counted(options, "option"))
}
