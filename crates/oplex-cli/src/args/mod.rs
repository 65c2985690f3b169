//! What can be typed.

use std::ffi::OsString;
use std::path::PathBuf;

use clap::{ColorChoice, CommandFactory as _, FromArgMatches as _, Parser, Subcommand, ValueEnum};
use clap_complete::ArgValueCandidates;
use oplex_io::files::Reach;

mod audit;
mod lab;
mod people;
mod rehearse;
mod report;
mod shell;
mod store;

pub(crate) use audit::Audit;
pub(crate) use lab::{Lab, LabClient, LabLoad, LabRun, LabServe};
pub(crate) use rehearse::Rehearse;
pub(crate) use report::Report;
pub(crate) use shell::{Shell, ShellKind};
pub(crate) use store::{History, Publish, Releases, Revert, Said, Verify};

/// What the command is for.
const ABOUT: &str = "Define, encode, decode, check and publish DHCP options";

#[derive(Debug, Parser)]
#[command(name = "oplex", version, about = ABOUT, max_term_width = 100)]
pub(crate) struct Args {
    #[command(subcommand)]
    pub(crate) command: Command,
    #[command(flatten)]
    pub(crate) global: Global,
}

/// The same without its commands.
#[derive(Debug, Parser)]
#[command(name = "oplex", version, about = ABOUT, max_term_width = 100)]
struct Root {
    #[command(flatten)]
    _global: Global,
}

/// What every command takes.
#[derive(Debug, clap::Args)]
pub(crate) struct Global {
    /// Whether there are colours: auto, which is on a terminal and where NO_COLOR is not set, always or never
    #[arg(
        long,
        global = true,
        value_name = "WHEN",
        default_value = "auto",
        hide_default_value = true,
        hide_possible_values = true
    )]
    pub(crate) color: ColorChoice,
    /// Write the first line alone, which is the answer, and show no progress
    #[arg(short, long, global = true)]
    pub(crate) quiet: bool,
}

impl Args {
    /// Reads what was typed. What a command takes is put together for that command alone, as most of the time from start to end
    /// would go by with it otherwise; of the others nothing has to be known where the first word is a command's name.
    pub(crate) fn read<T: Into<OsString>>(typed: impl IntoIterator<Item = T>) -> Result<Self, clap::Error> {
        let typed: Vec<OsString> = typed.into_iter().map(Into::into).collect();
        let commands = match typed.get(1).map(|first| deferred(|name| first == name)) {
            Some(named) if !named.is_empty() => named,
            _ => deferred(|_| true),
        };
        let mut root = Root::command().subcommand_required(true).arg_required_else_help(true).subcommands(commands);
        let mut matches = root.try_get_matches_from_mut(typed)?;
        Self::from_arg_matches_mut(&mut matches).map_err(|error| error.format(&mut root))
    }
}

/// The commands: the enumeration of what was typed, and what each takes, which is put together when it is the one.
macro_rules! commands {
    ($(#[doc = $about:literal] $(#[$more:meta])* $name:literal $variant:ident($args:ty) by $augment:expr,)*) => {
        #[derive(Debug, Subcommand)]
        pub(crate) enum Command {
            $(#[doc = $about] $(#[$more])* #[command(name = $name)] $variant($args),)*
        }

        /// Those of these names.
        fn deferred(wanted: impl Fn(&str) -> bool) -> Vec<clap::Command> {
            let mut commands = Vec::new();
            $(if wanted($name) {
                commands.push(clap::Command::new($name).about($about.trim_start()).defer(|command| {
                    // What it is made of says what that is, not what the command is.
                    $augment(command).about($about.trim_start())
                }));
            })*
            commands
        }
    };
}

/// What there is of labs.
fn labs(command: clap::Command) -> clap::Command {
    <Lab as Subcommand>::augment_subcommands(command).subcommand_required(true).arg_required_else_help(true)
}

commands! {
    /// Look up an option: its layout, who sends it, where it is defined
    "lookup" Lookup(Lookup) by <Lookup as clap::Args>::augment_args,
    /// Encode a value
    "encode" Encode(Encode) by <Encode as clap::Args>::augment_args,
    /// Decode octets and explain each one
    "decode" Decode(Decode) by <Decode as clap::Args>::augment_args,
    /// Write a starter plan, or a starter codebook
    "new" New(New) by <New as clap::Args>::augment_args,
    /// Check a plan or a codebook
    "check" Check(Check) by <Check as clap::Args>::augment_args,
    /// Show all that a plan says, as tables
    "show" Show(Show) by <Show as clap::Args>::augment_args,
    /// Show what changes between two plans or releases, and for whom
    "diff" Diff(Diff) by <Diff as clap::Args>::augment_args,
    /// Rehearse what one client is sent under a plan, and why, octet for octet
    "rehearse" Rehearse(Box<Rehearse>) by <Box<Rehearse> as clap::Args>::augment_args,
    /// Publish a plan without errors as the next release
    "publish" Publish(Publish) by <Publish as clap::Args>::augment_args,
    /// List the releases of a store, the latest first
    "history" History(History) by <History as clap::Args>::augment_args,
    /// Publish an earlier release again, or write its plan and files
    "revert" Revert(Revert) by <Revert as clap::Args>::augment_args,
    /// Read a whole store, and name what was changed, is missing or does not belong
    "verify" Verify(Verify) by <Verify as clap::Args>::augment_args,
    /// Hold captured traffic against the RFCs, and against a plan or release
    "audit" Audit(Box<Audit>) by <Box<Audit> as clap::Args>::augment_args,
    /// Write a plan, a release or a capture as one page to look at, print and send
    "report" Report(Report) by <Report as clap::Args>::augment_args,
    /// Ask the servers that a plan names whether they serve what clients will request of them
    "probe" Probe(Probe) by <Probe as clap::Args>::augment_args,
    /// Try a plan or release with stand-in clients before it is published
    #[command(subcommand)]
    "lab" Lab(Lab) by labs,
    /// Serve an editor that shows, completes and mends plans and codebooks while they are written
    "editor" Editor(Editor) by <Editor as clap::Args>::augment_args,
    /// Write completions for a shell, or manual pages
    "shell" Shell(Shell) by <Shell as clap::Args>::augment_args,
    /// List the rules, or explain one
    "rules" Rules(Rules) by <Rules as clap::Args>::augment_args,
    /// Play the whole job, step by step, on a made-up observatory
    "tour" Tour(Tour) by <Tour as clap::Args>::augment_args,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Lookup {
    /// An id (v4:121), a name, part of one, a code, an RFC ("rfc 3442"), or a word ("phone")
    #[arg(required_unless_present = "count", add = ArgValueCandidates::new(crate::shell::options))]
    pub(crate) query: Vec<String>,
    /// Count the known options and sub-options
    #[arg(long, conflicts_with = "query")]
    pub(crate) count: bool,
    #[command(flatten)]
    pub(crate) books: Books,
    #[command(flatten)]
    pub(crate) format: Form,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Encode {
    /// The option: v4:121, v4:router, tern:settings; or v4 for a whole message
    #[arg(add = ArgValueCandidates::new(crate::shell::options_and_messages))]
    pub(crate) option: String,
    /// The value as text, or - to read it from standard input; for a message, its TOML file
    #[arg(allow_hyphen_values = true)]
    pub(crate) value: String,
    /// Output form of the octets
    #[arg(long = "as", value_enum, default_value = "hex")]
    pub(crate) as_form: OctetForm,
    /// Add code and length, and split long options (RFC 3396)
    #[arg(long)]
    pub(crate) framed: bool,
    /// Read the value as JSON
    #[arg(long)]
    pub(crate) json: bool,
    #[command(flatten)]
    pub(crate) books: Books,
    #[command(flatten)]
    pub(crate) trust: Trust,
    #[command(flatten)]
    pub(crate) format: Form,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Decode {
    /// The option (v4:121, v4:router, tern:settings), or v4, v6 or ra for a whole message, and its octets in hexadecimal, in any
    /// common grouping, or - to read them from standard input, where a message may also come as it is, and several lines are
    /// several messages
    #[arg(required = true, value_name = "OPTION OCTETS", add = ArgValueCandidates::new(crate::shell::options_and_messages))]
    pub(crate) given: Vec<String>,
    /// The request that the message replies to, in hexadecimal
    #[arg(long, value_name = "OCTETS")]
    pub(crate) request: Option<String>,
    /// Decode the octets with this layout, in place of that of an option, which may be left out
    #[arg(long, value_name = "LAYOUT")]
    pub(crate) layout: Option<String>,
    #[command(flatten)]
    pub(crate) books: Books,
    #[command(flatten)]
    pub(crate) format: Form,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Check {
    /// The plans and codebooks, or folders, in which all of them are checked
    #[arg(required = true, value_name = "FILE")]
    pub(crate) files: Vec<PathBuf>,
    /// Mend what leaves no doubt, and say what is left
    #[arg(long)]
    pub(crate) fix: bool,
    /// Show what --fix would write, and write nothing
    #[arg(long, conflicts_with = "format")]
    pub(crate) diff: bool,
    #[command(flatten)]
    pub(crate) trust: Trust,
    /// Output format: text, JSON, JUnit XML for test reports, or SARIF for code review
    #[arg(long, value_enum, default_value = "text")]
    pub(crate) format: CheckFormat,
}

#[derive(Debug, clap::Args)]
pub(crate) struct New {
    /// The file to write; standard output by default
    pub(crate) plan: Option<PathBuf>,
    /// The name of its network
    #[arg(long, value_name = "NAME", default_value = "office")]
    pub(crate) network: String,
    /// The subnet of its network
    #[arg(long, value_name = "SUBNET", default_value = "10.64.0.0/24")]
    pub(crate) subnet: String,
    /// The IPv6 prefix of its network
    #[arg(long, value_name = "PREFIX", default_value = "2001:db8:64::/64")]
    pub(crate) prefix: String,
    /// A plan for IPv6 only
    #[arg(long, conflicts_with = "dual")]
    pub(crate) v6: bool,
    /// A plan for both families
    #[arg(long)]
    pub(crate) dual: bool,
    /// A codebook of a vendor's options in place of a plan
    #[arg(long, conflicts_with_all = ["network", "subnet", "prefix", "v6", "dual"])]
    pub(crate) codebook: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Show {
    /// The plan file, or a release: r7, latest
    pub(crate) plan: PathBuf,
    /// Only this network, and what concerns it
    #[arg(long, value_name = "NAME")]
    pub(crate) network: Option<String>,
    /// The octets of this option alone, as clients of no fleet on the network are sent it
    #[arg(long, value_name = "OPTION", requires = "network", add = ArgValueCandidates::new(crate::shell::options))]
    pub(crate) option: Option<String>,
    /// Output form of these octets
    #[arg(long = "as", value_enum, default_value = "hex", requires = "option")]
    pub(crate) as_form: OctetForm,
    #[command(flatten)]
    pub(crate) store: Releases,
    #[command(flatten)]
    pub(crate) trust: Trust,
    /// The map of the network's addresses as a drawing (SVG), and nothing else
    #[arg(long, requires = "network", conflicts_with_all = ["option", "format", "capture"])]
    pub(crate) svg: bool,
    /// Write every distinct reply, and what routers advertise, as frames to a capture file
    #[arg(long, value_name = "FILE", conflicts_with = "option")]
    pub(crate) capture: Option<PathBuf>,
    /// Replace the capture file, if it is a capture
    #[arg(long, requires = "capture")]
    pub(crate) force: bool,
    /// Output format
    #[arg(long, value_enum, default_value = "text")]
    pub(crate) format: ShowFormat,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Probe {
    /// The plan file, or a release: r7, latest
    pub(crate) plan: PathBuf,
    /// Only the servers that clients on this network are sent
    #[arg(long, value_name = "NAME")]
    pub(crate) network: Option<String>,
    /// Only these services, separated by commas: dns, ntp, tftp, router and others
    #[arg(long, value_name = "SERVICES", value_delimiter = ',')]
    pub(crate) only: Vec<String>,
    /// How long an answer may take, up to a minute
    #[arg(long, value_name = "TIME", default_value = "2s", value_parser = oplex::layout::duration)]
    pub(crate) timeout: u32,
    /// A file of certificates (PEM): trust whom these are of, in place of the common roots
    #[arg(long, value_name = "FILE")]
    pub(crate) ca: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) store: Releases,
    #[command(flatten)]
    pub(crate) trust: Trust,
    #[command(flatten)]
    pub(crate) format: Form,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Diff {
    /// The plan before, or a release: r7, latest
    pub(crate) old: PathBuf,
    /// The plan or release after
    pub(crate) new: PathBuf,
    #[command(flatten)]
    pub(crate) store: Releases,
    #[command(flatten)]
    pub(crate) trust: Trust,
    #[command(flatten)]
    pub(crate) format: Form,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Editor {
    /// Write the JSON Schema of these files, and serve nothing
    #[arg(long, value_name = "FILES", value_enum)]
    pub(crate) schema: Option<SchemaOf>,
    #[command(flatten)]
    pub(crate) trust: Trust,
}

/// What there are JSON Schemas of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum SchemaOf {
    Plan,
    Codebook,
    /// A message that is written down
    Message,
    /// The manifest of a release
    Release,
    /// What clients get by a release
    Content,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Rules {
    /// Explain this rule, with an example
    #[arg(add = ArgValueCandidates::new(crate::shell::rules))]
    pub(crate) name: Option<String>,
    #[command(flatten)]
    pub(crate) format: Form,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Tour {}

/// Codebooks besides the standard ones.
#[derive(Debug, clap::Args)]
pub(crate) struct Books {
    /// An additional codebook (may be given several times)
    #[arg(long = "codebook", value_name = "FILE")]
    pub(crate) codebooks: Vec<PathBuf>,
}

/// The files that a plan names.
#[derive(Debug, Clone, Copy, clap::Args)]
pub(crate) struct Trust {
    /// Read codebooks and tables outside the folder of the plan that names them
    #[arg(long)]
    trust_paths: bool,
}

impl Trust {
    pub(crate) fn reach(self) -> Reach {
        if self.trust_paths { Reach::Anywhere } else { Reach::Folder }
    }
}

/// The form of the output.
#[derive(Debug, clap::Args)]
pub(crate) struct Form {
    /// Output format
    #[arg(long, value_enum, default_value = "text")]
    pub(crate) format: Format,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum Format {
    Text,
    Json,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum ShowFormat {
    Text,
    Json,
    /// A line for each option: network, layer, code, name, value and octets
    Csv,
    /// What the IETF's model of a DHCPv6 server holds (RFC 9243), as JSON
    Yang,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum CheckFormat {
    Text,
    Json,
    /// A test for every rule and every expectation, as JUnit XML
    Junit,
    /// The findings, with their places and what to write instead, as SARIF 2.1.0
    Sarif,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum OctetForm {
    /// 0a400401
    Hex,
    /// 0a:40:04:01
    Colon,
    /// 0a 40 04 01
    Spaced,
    /// CkAEAQ==
    Base64,
    /// \x0a@\x04\x01
    Escaped,
    /// The octets themselves
    Raw,
}
