//! A vendor's manual says: settings as KEY=value text in option 224. What octets is that, and what do they mean?

#![allow(clippy::print_stdout, reason = "an example shows what it does")]

use oplex::codebook::Codebook;
use oplex::finding::Sources;
use oplex::layout::Input;
use oplex::octets::hex;

const MANUAL: &str = r#"
book = "tern"
title = "Tern intercoms"

[[option]]
code = 224
carrier = "v4"
name = "settings"
layout = 'pairs("," "=") { SERVER!: ipv4, PORT: u16 in 1.. }'
summary = "How the intercom finds its call server."
reference = "Tern D2 manual, page 9"
"#;

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut sources = Sources::default();
    let file = sources.add("tern.toml", MANUAL);
    let mut codebook = Codebook::standard().clone();
    assert!(codebook.add(&sources, file).is_empty(), "the codebook is in order");

    let settings = codebook.find("tern:settings")?;
    let written = Input::from_text("{ SERVER = 10.64.0.70, PORT = 5061 }");
    let payload = codebook.encode(settings, &written)?;
    println!("{}", hex::escaped(&payload.octets));

    let (value, faults) = codebook.decode(settings, b"SERVER=10.64.0.70,PORT=0");
    println!("{}", value.ok_or("nothing was read")?);
    for fault in faults {
        println!("octets {} to {}: {}", fault.octets.start, fault.octets.end - 1, fault.kind);
    }
    Ok(())
}
