//! A hostile name in a command line and in the files that it reads: what comes out acts on no terminal.
#![no_main]
#![allow(dead_code, reason = "the modules of the command are here as a whole")]

use std::path::Path;

use libfuzzer_sys::fuzz_target;

#[path = "../../crates/oplex-cli/src/args/mod.rs"]
mod args;
#[path = "../../crates/oplex-cli/src/commands/mod.rs"]
#[allow(unused_imports, reason = "the program itself uses them")]
mod commands;
#[path = "../../crates/oplex-cli/src/editor/mod.rs"]
mod editor;
#[path = "../../crates/oplex-cli/src/exit.rs"]
mod exit;
#[path = "../../crates/oplex-cli/src/forms/mod.rs"]
mod forms;
#[path = "../../crates/oplex-cli/src/map/mod.rs"]
mod map;
#[path = "../../crates/oplex-cli/src/rehearsal.rs"]
mod rehearsal;
#[path = "../../crates/oplex-cli/src/render/mod.rs"]
mod render;
#[path = "../../crates/oplex-cli/src/report/mod.rs"]
mod report;
#[path = "../../crates/oplex-cli/src/shell.rs"]
mod shell;

/// What writes no files; `NAME` is the name, `HEX` its octets.
const TYPED: [&str; 22] = [
    "lookup NAME",
    "lookup tune --codebook book.toml",
    "encode v4:12 NAME",
    "encode v4:3 NAME",
    "encode NAME 1",
    "encode kite:tune NAME --codebook book.toml",
    "encode v4 message.toml",
    "decode v4:12 HEX",
    "decode v4:125 HEX",
    "decode v4:43 HEX --codebook book.toml",
    "decode NAME 00",
    "decode 00 --layout NAME",
    "decode v4 HEX",
    "decode v6 HEX",
    "decode ra HEX",
    "check plan.toml",
    "check plan.toml --format junit",
    "check book.toml",
    "show plan.toml",
    "diff plan.toml next.toml",
    "rehearse plan.toml --network NAME --mac 02:00:5e:00:53:77 --vendor-class NAME --hostname NAME",
    "rules NAME",
];

fuzz_target!(|given: (u8, bool, &str, &str)| {
    let (which, json, name, plan) = given;
    // What reads standard input would wait.
    if name == "-" || name.contains('\0') {
        return;
    }
    let folder = Path::new("/dev/shm/oplex-fuzz-command");
    let _ = std::fs::create_dir_all(folder);
    let _ = std::env::set_current_dir(folder);
    let written: String = name.chars().map(|c| format!("\\U{:08x}", u32::from(c))).collect();
    let files = [
        (
            "plan.toml",
            format!(
                "title = \"{written}\"\ncodebooks = [\"book.toml\", \"{written}\"]\nreservations = \"r.csv\"\n[send.v4]\nroot-path = \"{written}\"\n\
                 [network.\"{written}\"]\nsubnet = \"10.64.4.0/24\"\npool = [\"10.64.4.20-10.64.4.90\"]\n[fleet.\"{written}\"]\n\
                 match = {{ hostname = \"{written}*\" }}\nsend.v4 = {{ root-path = \"{written}\" }}\n{plan}"
            ),
        ),
        ("next.toml", format!("[network.\"{written}\"]\nsubnet = \"10.64.4.0/24\"\n{plan}")),
        ("r.csv", format!("mac,address,name,network\n02:00:5e:00:53:12,10.64.4.11,{name},{name}\n")),
        (
            "book.toml",
            format!(
                "book = \"kite\"\ncarriers = [\"v4:43\"]\n[[option]]\ncode = 1\nname = \"tune\"\nlayout = \"text\"\nsummary = \"{written}\"\n\
                 reference = \"{written}\"\n[[option]]\ncode = 2\nname = \"{written}\"\nlayout = \"{written}\"\n"
            ),
        ),
        ("message.toml", format!("type = \"ack\"\n[options]\nhostname = \"{written}\"\n\"{written}\" = 1\n")),
    ];
    for (file, text) in files {
        let _ = std::fs::write(file, text);
    }
    let hex: String = name.bytes().map(|octet| format!("{octet:02x}")).collect();
    let line = TYPED[usize::from(which) % TYPED.len()];
    let words = std::iter::once("oplex").chain(line.split(' '));
    let mut typed: Vec<String> = words.map(|word| word.replace("NAME", name).replace("HEX", &hex)).collect();
    if json && !line.contains("junit") {
        typed.extend(["--format".to_owned(), "json".to_owned()]);
    }
    let Ok(args) = args::Args::read(&typed) else { return };
    let (mut said, mut wrong) = (Vec::new(), Vec::new());
    {
        let mut out = exit::Out::new(&mut said, false);
        let mut err = render::clean::Clean::new(&mut wrong);
        let code = exit::code(commands::run(args, &mut out), &mut err);
        out.finish(code, &mut err);
    }
    for said in [said, wrong] {
        let said = String::from_utf8(said).expect("what is said is text");
        let plain = anstream::adapter::strip_str(&said).to_string();
        let acting = plain.chars().find(|c| render::clean::acts(*c) && *c != '\n');
        assert_eq!(acting, None, "{typed:?}\n{plain}");
    }
});
