//! Captures that are made up: the demo's, and large ones to measure with.

mod bulk;
mod morning;

use std::path::{Path, PathBuf};

use oplex::plan::Plan;

pub(crate) fn write(args: &[String]) -> Result<Vec<PathBuf>, String> {
    let plan = plan()?;
    match args.iter().map(String::as_str).collect::<Vec<_>>()[..] {
        ["morning", path] => morning::write(&plan, Path::new(path))?,
        [kind @ ("mixed" | "dhcp"), size, path] => {
            let megabytes: u64 = size.parse().map_err(|_| format!("{size} is no number of megabytes"))?;
            bulk::write(&plan, kind == "mixed", megabytes, Path::new(path))?;
        }
        _ => return Err("say morning, mixed or dhcp, and the file".to_owned()),
    }
    Ok(args.last().map(PathBuf::from).into_iter().collect())
}

/// The demo's plan.
fn plan() -> Result<Plan, String> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).parent().ok_or("xtask stands in no workspace")?.join("demo");
    let read = |path: &str| std::fs::read_to_string(demo.join(path)).map_err(|error| format!("{path}: {error}"));
    let text = read("plan.toml")?;
    let loaded = Plan::read("plan.toml", &text, &mut |path| read(path).map_err(Into::into));
    loaded.plan.ok_or_else(|| "the demo's plan cannot be read".to_owned())
}
