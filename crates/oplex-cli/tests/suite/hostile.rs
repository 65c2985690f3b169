//! Nothing that a file, a packet or an argument says acts on the terminal: every command is given names that would, in every place
//! where a name can stand.

use std::collections::BTreeSet;
use std::path::Path;

use proptest::prelude::*;

use crate::oplex;

/// Characters that move the cursor, colour, delete, turn the direction of writing, or cannot be seen.
const HOSTILE: [char; 20] = [
    '\u{1b}', '\u{7}', '\u{8}', '\r', '\u{7f}', '\u{85}', '\u{9b}', '\u{ad}', '\u{61c}', '\u{200b}', '\u{200e}',
    '\u{200f}', '\u{2028}', '\u{2029}', '\u{202a}', '\u{202e}', '\u{2066}', '\u{2069}', '\u{2060}', '\u{feff}',
];

/// The characters of an output that no terminal should get.
fn acting(said: &str) -> Vec<char> {
    let all = said.chars().filter(|c| (c.is_control() && *c != '\n') || HOSTILE.contains(c));
    all.collect::<BTreeSet<_>>().into_iter().collect()
}

/// What is said, without the colours that the command itself sets: nothing else may begin like these.
fn without_colours(said: &str) -> String {
    let mut parts = said.split("\u{1b}[");
    let mut plain = parts.next().unwrap_or_default().to_owned();
    for part in parts {
        let digits = part.find(|c: char| !(c.is_ascii_digit() || c == ';')).unwrap_or(part.len());
        match part[digits..].strip_prefix('m') {
            Some(rest) => plain.push_str(rest),
            None => plain.push_str(&format!("\u{1b}[{part}")),
        }
    }
    plain
}

/// The commands that the program has, as its own help lists them.
fn commands() -> BTreeSet<String> {
    let help = oplex(&["--help"]).assert().code(0).get_output().stdout.clone();
    let help = String::from_utf8(help).unwrap();
    let list = help.split("Commands:\n").nth(1).unwrap().split("\n\n").next().unwrap();
    let words = list.lines().filter_map(|line| line.strip_prefix("  ")?.split(' ').next());
    words.filter(|word| !word.is_empty() && *word != "help").map(str::to_owned).collect()
}

/// The files that the commands below read, with a name in every place where one can stand; `name` as TOML writes it in quotes.
fn files(place: &Path, name: &str) {
    let write = |file: &str, text: String| std::fs::write(place.join(file), text).unwrap();
    let plan = |more: &str| {
        format!(
            "title = \"{name}\"\ncodebooks = [\"book.toml\", \"{name}.toml\"]\nreservations = [\"r.csv\", \"{name}.csv\"]\n\
             server = \"10.64.0.67\"\nboot = {{ server = \"10.64.0.80\", file = \"{name}\" }}\n\
             [send.v4]\ndomain-server = [\"10.64.0.53\"]\nroot-path = \"{name}\"\n\"v4:225\" = {{ text = \"{name}\" }}\n\
             \"kite:{name}\" = \"{name}\"\n\"kite:tune\" = \"{name}\"\n\"{name}\" = 1\n[send.v6]\nbootfile-url = \"http://boot.tarnfell.example/{name}\"\n\
             [network.\"{name}\"]\nsubnet = \"10.64.4.0/24\"\nprefix = \"2001:db8:64:4::/64\"\n\
             pool = [\"10.64.4.20-10.64.4.90\", \"{name}\"]\nrelay = \"10.64.4.3\"\ninterface-id = \"{name}\"\n\
             withhold = [\"{name}\"]\nadvertise = {{ managed = true, portal = \"https://{name}\", search = [\"{name}\"] }}\n\
             send.v4 = {{ router = \"10.64.4.1\", hostname = \"{name}\" }}\n\
             [fleet.\"{name}\"]\nmatch = {{ vendor-class = \"{name}*\", hostname = \"{name}\" }}\nsend.v4 = {{ root-path = \"{name}\" }}\n\
             [fleet.\"{name}\".on.\"{name}\"]\npool = [\"10.64.4.40-10.64.4.49\"]\n\
             [[reservation]]\nnetwork = \"{name}\"\nmac = \"02:00:5e:00:53:11\"\naddress = \"10.64.4.9\"\nname = \"{name}\"\n\
             [[reservation]]\nnetwork = \"{name}\"\ncircuit-id = \"{name}\"\naddress = \"10.64.4.10\"\n\
             [[expect]]\ntitle = \"{name}\"\nfleets = [\"{name}\"]\nsent = {{ root-path = \"other\" }}\n\
             client = {{ network = \"{name}\", hostname = \"{name}\", vendor-class = \"{name}\" }}\n\
             [check]\nallow = [{{ rule = \"no-domain\", reason = \"{name}\" }}, \"{name}\"]\n{more}"
        )
    };
    write("plan.toml", plan(""));
    write("next.toml", plan("[network.yard]\nsubnet = \"10.64.9.0/24\"\n").replace("10.64.4.20", "10.64.4.21"));
    let good = format!(
        "title = \"{name}\"\nserver = \"10.64.0.67\"\n[send.v4]\ndomain-server = [\"10.64.0.53\"]\ndomain-name = \"tarnfell.example\"\n\
         [network.\"{name}\"]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\nsend.v4 = {{ router = \"10.64.4.1\" }}\n"
    );
    write("good.toml", good);
    write(
        "book.toml",
        format!(
            "book = \"kite\"\ntitle = \"{name}\"\ncarriers = [\"v4:43\"]\n[[option]]\ncode = 1\nname = \"tune\"\ntitle = \"{name}\"\n\
             layout = \"text\"\nsummary = \"{name}\"\nreference = \"{name}\"\n[[option]]\ncode = 2\nname = \"{name}\"\nlayout = \"{name}\"\n"
        ),
    );
    write(
        "message.toml",
        format!("type = \"ack\"\nfile = \"{name}\"\n[options]\nhostname = \"{name}\"\n\"{name}\" = 1\n"),
    );
    // In a spreadsheet the characters stand as they are.
    let raw: String = HOSTILE.iter().filter(|c| **c != '\r').collect();
    write(
        "r.csv",
        format!("mac,address,name,network,{raw}\n02:00:5e:00:53:12,10.64.4.11,{raw},{raw},{raw}\n{raw},,,,\n"),
    );
    write("raw.toml", format!("title = \"{raw}\"\n"));
    // What a syntax allows, with the characters as they are.
    let seen: String = HOSTILE.iter().filter(|c| !c.is_control()).collect();
    write("open.toml", good_with(&seen));
    // A store in which everything has such a name.
    let seen = write_seen(&seen);
    write("seen.toml", seen.clone());
    let publish = |note: &str| {
        let typed = ["publish", "seen.toml", "--store", "store", "--note", note, "--author", note];
        oplex(&typed).current_dir(place).assert().code(0)
    };
    publish("\u{9b}31m\u{202e}");
    write("seen.toml", seen.replace("4.90", "4.80"));
    publish("\u{1b}[7m");
    std::fs::write(place.join("store/parts/\u{9b}\u{202e}"), "{}").unwrap();
}

fn write_seen(name: &str) -> String {
    format!(
        "title = \"{name}\"\nserver = \"10.64.0.67\"\n[send.v4]\ndomain-server = [\"10.64.0.53\"]\ndomain-name = \"tarnfell.example\"\n\
         [network.\"{name}\"]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\nsend.v4 = {{ router = \"10.64.4.1\" }}\n"
    )
}

fn good_with(name: &str) -> String {
    format!(
        "title = \"{name}\"\n[network.\"{name}\"]\nsubnet = \"{name}\" # {name}\nsend.v4 = {{ router = \"{name}\", root-path = \"{name}\" }}\n"
    )
}

/// What is typed: `NAME` is the hostile name, `HEX` its octets, and a file's name is below the folder of the test.
const TYPED: &[&str] = &[
    "lookup NAME",
    "lookup tune --codebook book.toml",
    "lookup NAME --codebook NAME",
    "lookup --NAME",
    "encode v4:12 NAME",
    "encode v4:3 NAME",
    "encode NAME 1",
    "encode v4:12 NAME --as bytes",
    "encode v4:12 NAME --as NAME",
    "encode kite:tune NAME --codebook book.toml",
    "encode v4 message.toml",
    "encode v4 NAME",
    "decode v4:12 HEX",
    "decode v4:225 HEX",
    "decode v4:43 HEX --codebook book.toml",
    "decode v4:12 NAME",
    "decode NAME 00",
    "decode 00 --layout NAME",
    "decode HEX --layout text",
    "decode v4 HEX",
    "decode v6 HEX",
    "check plan.toml",
    "check book.toml",
    "check raw.toml",
    "check open.toml",
    "check good.toml",
    "check NAME.toml",
    "check plan.toml --format NAME",
    "check plan.toml --diff",
    "check .",
    "check plan.toml --format sarif",
    "editor --schema NAME",
    "shell NAME",
    "shell man --to NAME",
    "report plan.toml",
    "report good.toml --output NAME.html",
    "report hostile.pcapng --plan good.toml",
    "report NAME",
    "show good.toml --network NAME --svg",
    "new --network NAME",
    "new --subnet NAME",
    "new --v6 --prefix NAME",
    "new NAME/NAME",
    "show plan.toml",
    "show plan.toml --network NAME",
    "show good.toml",
    "show plan.toml --format csv",
    "show plan.toml --format yang",
    "show good.toml --capture NAME",
    "show raw.toml",
    "lab run good.toml --hours 1 --each 1",
    "lab run plan.toml --hours 1 --each 1",
    "lab run good.toml --clients NAME",
    "lab run good.toml --clients plan.toml",
    "lab run good.toml --hours 1 --each 1 --client 02:00:00:00:00:01",
    "lab serve good.toml --interface NAME --network NAME",
    "lab client --interface NAME --kind NAME",
    "lab client --interface NAME",
    "lab load good.toml --network NAME",
    "lab NAME",
    "probe plan.toml --only capwap",
    "probe plan.toml --only NAME",
    "probe NAME",
    "diff plan.toml next.toml",
    "diff plan.toml NAME.toml",
    "rehearse plan.toml --network NAME --mac 02:00:5e:00:53:11",
    "rehearse plan.toml --network NAME --mac 02:00:5e:00:53:77 --vendor-class NAME --hostname NAME",
    "rehearse plan.toml --network NAME --mac 02:00:5e:00:53:77 --why-not NAME",
    "rehearse plan.toml --network NAME --mac 02:00:5e:00:53:77 --explain root-path",
    "rehearse plan.toml --network NAME --mac 02:00:5e:00:53:77 --explain NAME",
    "rehearse plan.toml --network NAME --mac NAME",
    "rehearse plan.toml --network NAME --mac 02:00:5e:00:53:77 --wants NAME",
    "rehearse plan.toml --network NAME --mac 02:00:5e:00:53:77 --arch NAME",
    "rehearse plan.toml --relay NAME --mac 02:00:5e:00:53:77",
    "publish plan.toml --store out",
    "publish good.toml --store out",
    "publish good.toml --store NAME",
    "publish good.toml NAME",
    "publish good.toml --store store --after NAME",
    "publish open.toml --store store --note NAME --author NAME",
    "publish seen.toml --store store --note NAME --author NAME",
    "history --store store",
    "history --store NAME",
    "diff r1 NAME --store store",
    "diff r1 latest --store store",
    "show latest --store store",
    "show r9 --store store",
    "show NAME --network NAME --option NAME",
    "revert NAME --store store",
    "revert r1 --store store --write NAME",
    "verify --store store",
    "verify --store NAME",
    "verify --store store --trust NAME",
    "publish good.toml --store out --sign NAME",
    "verify --store store --prune NAME",
    "audit NAME",
    "audit hostile.pcapng --all",
    "audit hostile.pcapng --codes",
    "audit hostile.pcapng --plan good.toml --network NAME --client NAME",
    "audit hostile.pcapng --plan NAME --only NAME",
    "audit hostile.pcapng --store NAME --release NAME",
    "audit hostile.pcapng --plan good.toml --expectations NAME",
    "rules NAME",
    "tour --NAME",
    "NAME",
];

/// Where a name is tried, and how.
struct Place {
    folder: tempfile::TempDir,
    name: String,
    hex: String,
}

impl Place {
    fn with(name: &str) -> Self {
        let folder = tempfile::tempdir().unwrap();
        let written: String = name.chars().map(|c| format!("\\u{:04x}", u32::from(c))).collect();
        files(folder.path(), &written);
        crate::audit::hostile(&folder.path().join("hostile.pcapng"), name);
        let hex = name.bytes().map(|octet| format!("{octet:02x}")).collect();
        Self { folder, name: name.to_owned(), hex }
    }

    /// What of all that is said when this is typed acts on a terminal.
    fn acting(&self, line: &str, form: &str) -> Option<String> {
        let colours = form == "in colours";
        let line = format!("{line} {}", if colours { "" } else { form });
        let word = |word: &str| word.replace("NAME", &self.name).replace("HEX", &self.hex);
        let args: Vec<String> = line.split(' ').filter(|part| !part.is_empty()).map(word).collect();
        let args: Vec<&str> = args.iter().map(String::as_str).collect();
        let command = oplex(&args).current_dir(self.folder.path());
        let command = if colours { command.env_remove("NO_COLOR").env("CLICOLOR_FORCE", "1") } else { command };
        let output = command.assert().get_output().clone();
        let said = String::from_utf8([output.stdout, output.stderr].concat()).unwrap();
        // A style that the command itself never sets.
        let styled = said.contains(REVERSE);
        let said = if colours { without_colours(&said) } else { said };
        assert!(!said.contains("panicked"), "{line}: {said}");
        let acting = acting(&said);
        (styled || !acting.is_empty()).then(|| format!("{line}: {acting:?}"))
    }
}

const REVERSE: &str = "\u{1b}[7m";

const FORMS: [&str; 4] = ["", "--format json", "--format junit", "in colours"];

#[test]
fn nothing_that_is_said_acts_on_the_terminal() {
    let place = Place::with(&HOSTILE.iter().collect::<String>());
    let tried: BTreeSet<String> = TYPED.iter().filter_map(|line| line.split(' ').next()).map(str::to_owned).collect();
    let missing: Vec<String> = commands().difference(&tried).cloned().collect();
    assert_eq!(missing, <[String; 0]>::default(), "a command that this test does not try");
    let all = TYPED.iter().flat_map(|line| FORMS.map(|form| (line, form)));
    let wrong: Vec<String> = all.filter_map(|(line, form)| place.acting(line, form)).collect();
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, ..ProptestConfig::default() })]

    /// The same with names of any such characters and of what stands in sequences and in markup, in some of the places.
    #[test]
    fn no_name_acts_on_the_terminal(
        name in prop::collection::vec(prop_oneof![
            2 => prop::sample::select(HOSTILE.to_vec()).prop_map(String::from),
            2 => prop::sample::select("[]0;7mABKxé\"'<&>\\{}=,-*".chars().collect::<Vec<_>>()).prop_map(String::from),
            1 => Just(REVERSE.to_owned()),
        ], 1..24),
        typed in prop::collection::vec((prop::sample::select(TYPED.to_vec()), prop::sample::select(FORMS.to_vec())), 12),
    ) {
        let place = Place::with(&name.concat());
        let wrong: Vec<String> = typed.into_iter().filter_map(|(line, form)| place.acting(line, form)).collect();
        prop_assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    }
}
