//! Holds a capture against the RFCs, and against a plan where one is named, and prints what is wrong.
//!
//! `cargo run -p oplex-io --example audit_a_capture -- demo/morning.pcapng demo/plan.toml`

#![allow(clippy::print_stdout, reason = "an example that prints")]

use std::path::Path;

use oplex::audit::{Audit, Policy};
use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex_io::capture::{Capture, Checked, checked};
use oplex_io::files::{self, Reach};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut args = std::env::args().skip(1);
    let capture = Capture::open(Path::new(&args.next().ok_or("name a capture")?))?;
    let loaded = args.next().map(|path| files::plan(Path::new(&path), Reach::Folder)).transpose()?;
    let compiled = loaded.as_ref().and_then(|loaded| loaded.plan.as_ref()).map(Compiled::of);
    let codebook = compiled.as_ref().map_or(Codebook::standard(), |compiled| &compiled.codebook);
    let mut audit = match &compiled {
        Some(compiled) => Audit::against(compiled, Policy::default()),
        None => Audit::new(codebook, Policy::default()),
    };
    // Several threads read and check; this one puts messages together to conversations.
    checked(vec![capture], codebook, false, &mut |item| match item {
        Checked::Message(message, found) => audit.add(&message.seen, found),
        Checked::Damage(_, damage) => println!("octet {}: {}", damage.offset, damage.why),
        Checked::Nothing => {}
    });
    for kind in audit.finish().kinds {
        println!("{} {}x from frame {}: {} ({})", kind.severity, kind.count, kind.frame, kind.message, kind.rule.name);
    }
    Ok(())
}
