//! A codebook out of a table that a program has, such as one that a vendor publishes: written as a file, and checked before it is.

#![allow(clippy::print_stdout, reason = "an example shows what it does")]

use std::fmt::Write as _;

use oplex::codebook::Codebook;
use oplex::layout::Input;
use oplex::octets::hex;

/// Code, name, layout and what it is for.
const TABLE: [(u16, &str, &str, &str); 4] = [
    (1, "controllers", "ipv4+", "Controllers to report to, best first."),
    (2, "country", "text{2}", "The country whose radio rules apply."),
    (3, "channels", "u8+", "The channels that may be used."),
    (4, "schedule", "{ from: u8 in 0..=23, to: u8 in 0..=23 }", "The hours of the day in which the radio is on."),
];

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut book = "book = \"gannet\"\ntitle = \"Gannet radio access points\"\ncarriers = [\"v4:43\"]\n".to_owned();
    for (code, name, layout, summary) in TABLE {
        write!(
            book,
            "\n[[option]]\ncode = {code}\nname = \"{name}\"\nlayout = \"{layout}\"\nsummary = \"{summary}\"\nreference = \"Gannet table\"\n"
        )?;
    }
    // An error names the line of the file that is wrong.
    let codebook = Codebook::with("gannet.toml", &book)?;
    println!("{book}");
    for (option, value) in
        [("gannet:controllers", "10.64.0.90, 10.64.0.91"), ("gannet:schedule", "{ from = 6, to = 22 }")]
    {
        let payload = codebook.encode(codebook.find(option)?, &Input::from_text(value))?;
        println!("{option} {value}: {}", hex::spaced(&payload.octets));
    }
    Ok(())
}
