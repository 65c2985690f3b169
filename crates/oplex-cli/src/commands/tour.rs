//! `oplex tour`: the whole job on the demo data.

use std::fs;
use std::io::Write;
use std::path::Path;
use std::process::{Command, Output, Stdio};

use crate::args::Tour;
use crate::exit::{DONE, Failure, Outcome, because};
use crate::render::style::{DIM, STRONG, in_style};

/// The demo, so that the tour needs nothing but the command itself.
const DEMO: [(&str, &[u8]); 9] = [
    ("demo/plan.toml", include_bytes!("../../demo/plan.toml")),
    ("demo/broken.toml", include_bytes!("../../demo/broken.toml")),
    ("demo/codebooks/tern-intercoms.toml", include_bytes!("../../demo/codebooks/tern-intercoms.toml")),
    ("demo/codebooks/gannet-radios.toml", include_bytes!("../../demo/codebooks/gannet-radios.toml")),
    ("demo/codebooks/tarnfell-domes.toml", include_bytes!("../../demo/codebooks/tarnfell-domes.toml")),
    ("demo/reservations.csv", include_bytes!("../../demo/reservations.csv")),
    ("demo/visitor-advertisement.toml", include_bytes!("../../demo/visitor-advertisement.toml")),
    ("demo/intercom-ack.toml", include_bytes!("../../demo/intercom-ack.toml")),
    ("demo/morning.pcapng", include_bytes!("../../demo/morning.pcapng")),
];

/// One step: what is going on, what a person types, and the exit code it ends with.
struct Step {
    story: &'static str,
    typed: &'static str,
    code: u8,
}

/// What is changed in a file before a step: where, what stood there, and what stands there then. In a folder it is the file
/// that has the text.
const EDITS: [(&str, &str, &str, &str); 2] = [
    (PUBLISH_AGAIN, "demo/plan.toml", "lease = \"8h\"", "lease = \"6h\""),
    (VERIFY_AGAIN, "releases/parts", "150a40080a400402", "150a40080a400403"),
];

const PUBLISH_AGAIN: &str =
    "oplex publish demo/plan.toml --store releases --note \"shorter leases in the control room\"";
const VERIFY_AGAIN: &str = "oplex verify --store releases";

const STEPS: [Step; 29] = [
    Step {
        story: "The domes have a router of their own now, and the control room needs a way there.\n\
                There is an option for routes. Which one?",
        typed: "oplex lookup route",
        code: 0,
    },
    Step { story: "It is option 121. What is its format?", typed: "oplex lookup v4:121", code: 0 },
    Step {
        story: "The route as text, and the octets that a device receives.",
        typed: "oplex encode v4:121 \"10.64.8.0/21 via 10.64.4.2, 0.0.0.0/0 via 10.64.4.1\"",
        code: 0,
    },
    Step {
        story: "The intercoms' manual has settings as KEY=value text. The vendor's options are defined once, in a codebook.",
        typed: "oplex encode --codebook demo/codebooks/tern-intercoms.toml --as escaped tern:settings \"{ SERVER = 10.64.0.70, PORT = 5061 }\"",
        code: 0,
    },
    Step {
        story: "The codebook of the radios is checked before any plan uses it.",
        typed: "oplex check demo/codebooks/gannet-radios.toml",
        code: 0,
    },
    Step {
        story: "One plan holds everything that the observatory sends to its devices. This one has seen a bad afternoon.",
        typed: "oplex check demo/broken.toml",
        code: 1,
    },
    Step {
        story: "Why is it an error if a name server is inside a pool?",
        typed: "oplex rules sent-address-leasable",
        code: 0,
    },
    Step {
        story: "The correct plan, and how much of a datagram its replies take.",
        typed: "oplex check demo/plan.toml",
        code: 0,
    },
    Step {
        story: "All of one network before anything is published: where its addresses come from, and which layer sends what.",
        typed: "oplex show demo/plan.toml --network control-room",
        code: 0,
    },
    Step {
        story: "What does an intercom receive in the control room, and why? Nothing is sent for that:\n\
                the exchange is played against the plan, octet for octet. On the desks only the VLAN of its settings is another one.",
        typed: "oplex rehearse demo/plan.toml --network control-room --mac 02:00:5e:00:53:61 --vendor-class \"Tern D2\"",
        code: 0,
    },
    Step {
        story: "The third dome's controller boots from the network, and has a reservation.",
        typed: "oplex rehearse demo/plan.toml --network domes --mac 02:00:5e:00:53:33 --arch x64-uefi --wants 1,3,6,12,15,66,67,125",
        code: 0,
    },
    Step {
        story: "The boot server and the file stand in the header, where boot clients look, and in the options that say the same.\n\
                The file is its own. Which line sends it, and which value does that override?",
        typed: "oplex rehearse demo/plan.toml --network domes --mac 02:00:5e:00:53:33 --arch x64-uefi --explain bootfile-name",
        code: 0,
    },
    Step {
        story: "A visitor's laptop speaks both families, and must learn nothing of the house; the portal is all it gets. A packet\n\
                analyser shows the same: the frames are kept in a file.",
        typed: "oplex rehearse demo/plan.toml --network visitors --mac 02:00:5e:00:53:77 --hostname laptop --wants 1,3,6,15,42,114,121,v6:23,v6:24,v6:103 --leased 40 --capture visitor.pcapng",
        code: 0,
    },
    Step {
        story: "The sensors on the weather mast use IPv6 only, and no server leases them an address. Do they request the time at all?",
        typed: "oplex rehearse demo/plan.toml --network mast --mac 02:00:5e:00:53:41",
        code: 0,
    },
    Step {
        story: "Each hut of the guests has a router, which requests a prefix. The relay agent's address says which network it is on.",
        typed: "oplex rehearse demo/plan.toml --relay 2001:db8:64:20::1 --duid 00:03:00:01:02:00:5e:00:53:61 --delegation",
        code: 0,
    },
    Step {
        story: "The sensors request the time, because their router sets O. This is an advertisement on the visitors' network, as a whole packet.",
        typed: "oplex encode ra demo/visitor-advertisement.toml | oplex decode ra -",
        code: 0,
    },
    Step {
        story: "And this is what an intercom receives, as a whole message.",
        typed: "oplex encode v4 demo/intercom-ack.toml | oplex decode v4 - --codebook demo/codebooks/tern-intercoms.toml",
        code: 0,
    },
    Step {
        story: "The plan is published: a release holds all that a server needs to answer any client, and is never changed.",
        typed: "oplex publish demo/plan.toml --store releases --note \"as agreed\"",
        code: 0,
    },
    Step {
        story: "In the control room a lease of 8 hours is too long. The plan gets 6, and is published again: that is what changes.",
        typed: PUBLISH_AGAIN,
        code: 0,
    },
    Step {
        story: "It was the wrong network. The first release is published again, as the third: releases are added, never taken away.",
        typed: "oplex revert r1 --store releases --note \"that was the wrong network\"",
        code: 0,
    },
    Step { story: "Who published what, and when?", typed: "oplex history --store releases", code: 0 },
    Step {
        story: "One option of a release, in the form that another system's page takes.",
        typed: "oplex show latest --store releases --network control-room --option v4:121 --as colon",
        code: 0,
    },
    Step {
        story: "One morning a phone does not register, and a visitor is without the Internet. What was captured at the switch is held\n\
                against the latest release.",
        typed: "oplex audit demo/morning.pcapng --store releases",
        code: 1,
    },
    Step { story: "An octet in the store is changed by hand. It is found and named.", typed: VERIFY_AGAIN, code: 1 },
    Step {
        story: "A week later a capture shows these octets in option 121 of an answer. Are they ours?\n\
                Octet by octet, they are the two routes of the plan.",
        typed: "oplex decode v4:121 15:0a:40:08:0a:40:04:02:00:0a:40:04:01",
        code: 0,
    },
    Step {
        story: "Option 43 does not say which vendor it belongs to. The codebook of the radios decodes it.",
        typed: "oplex decode v4:43 --codebook demo/codebooks/gannet-radios.toml 07080a40005a0a40005b08024e4f",
        code: 0,
    },
    Step {
        story: "The next release is tried before anybody gets it. It is published to a store of its own.",
        typed: "oplex publish demo/plan.toml --store bench --note \"to be tried\"",
        code: 0,
    },
    Step {
        story: "Stand-in clients live a morning on its networks, in simulated time: desktops, intercoms, radios, boot clients, sensors,\n\
                and the machines that are reserved for. Who is without an address, and which pool runs out?",
        typed: "oplex lab run latest --store bench --hours 6 --capture bench.pcapng",
        code: 0,
    },
    Step {
        story: "All that they and the server said is in a capture, and is as the release has it.",
        typed: "oplex audit bench.pcapng --store bench",
        code: 0,
    },
];

pub(super) fn run(_: &Tour, out: &mut dyn Write) -> Outcome {
    let place = unpacked().or_else(|error| because(format!("the demo cannot be unpacked: {error}")))?;
    writeln!(out, "{}", in_style(STRONG, "A day at Tarn Fell Observatory"))?;
    writeln!(out, "The observatory and its vendors are made up. The commands and their output are real.")?;
    for (index, step) in STEPS.iter().enumerate() {
        writeln!(out, "\n{} {}", in_style(STRONG, format!("{}.", index + 1)), step.story)?;
        writeln!(out, "\n{} {}\n", in_style(DIM, "$"), in_style(STRONG, step.typed))?;
        edit(step, place.path()).or_else(|error| because(format!("{}: {error}", step.typed)))?;
        out.write_all(&play(step, place.path())?)?;
    }
    writeln!(out, "\nThat was the whole job. To begin your own plan, copy demo/plan.toml or run oplex new.")?;
    Ok(DONE)
}

fn unpacked() -> std::io::Result<tempfile::TempDir> {
    let place = tempfile::tempdir()?;
    for (name, text) in DEMO {
        let path = place.path().join(name);
        fs::create_dir_all(path.parent().unwrap_or(place.path()))?;
        fs::write(path, text)?;
    }
    Ok(place)
}

/// Changes a file as the story says.
fn edit(step: &Step, place: &Path) -> std::io::Result<()> {
    for (_, at, from, to) in EDITS.iter().filter(|(before, ..)| *before == step.typed) {
        let path = place.join(at);
        let files = if path.is_dir() {
            fs::read_dir(&path)?.map(|entry| Ok(entry?.path())).collect::<std::io::Result<Vec<_>>>()?
        } else {
            vec![path]
        };
        for file in files {
            let text = fs::read_to_string(&file)?;
            if text.contains(from) {
                fs::write(&file, text.replacen(from, to, 1))?;
            }
        }
    }
    Ok(())
}

/// Runs what is typed in the place where the demo lies, each command reading what the one before it wrote.
fn play(step: &Step, place: &Path) -> Result<Vec<u8>, Failure> {
    let mut input = Vec::new();
    let mut output = None;
    for typed in step.typed.split(" | ") {
        let ended = run_one(typed, place, &input).or_else(|error| because(format!("{typed}: {error}")))?;
        input.clone_from(&ended.stdout);
        output = Some(ended);
    }
    let Some(output) = output else { return Ok(Vec::new()) };
    if output.status.code() != Some(i32::from(step.code)) {
        let err = String::from_utf8_lossy(&output.stderr);
        return because(format!("the tour went wrong at: {}\n{err}", step.typed));
    }
    Ok([output.stdout, output.stderr].concat())
}

#[expect(clippy::disallowed_methods, reason = "nothing is printed there")]
fn run_one(typed: &str, place: &Path, input: &[u8]) -> std::io::Result<Output> {
    let mut command = Command::new(std::env::current_exe()?);
    command.args(shell_words(typed).into_iter().skip(1)).current_dir(place);
    // The output is caught and relayed, so the commands cannot see whether a terminal will show it.
    if anstream::AutoStream::choice(&std::io::stdout()) != anstream::ColorChoice::Never {
        command.env("CLICOLOR_FORCE", "1");
    }
    let mut child = command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn()?;
    if let Some(mut stdin) = child.stdin.take() {
        // Who reads nothing has closed it already.
        let _ = stdin.write_all(input);
    }
    child.wait_with_output()
}

/// The words of a typed line; the quotes hold words together, as in a shell.
fn shell_words(typed: &str) -> Vec<String> {
    let mut words = vec![String::new()];
    let mut quoted = false;
    for c in typed.chars() {
        match c {
            '"' => quoted = !quoted,
            ' ' if !quoted => words.push(String::new()),
            c => words.iter_mut().last().into_iter().for_each(|word| word.push(c)),
        }
    }
    words
}
