//! `oplex new`: a plan or a codebook to begin with.

use std::io::Write;
use std::net::{Ipv4Addr, Ipv6Addr};
use std::path::{Path, PathBuf};

use crate::args::New;
use crate::editor::schema;
use crate::exit::{DONE, Failure, Outcome, because};

pub(super) fn run(args: &New, out: &mut dyn Write) -> Outcome {
    let (text, kind) = if args.codebook { (CODEBOOK.to_owned(), Kind::Codebook) } else { (starter(args)?, Kind::Plan) };
    let Some(path) = &args.plan else {
        out.write_all(text.as_bytes())?;
        return Ok(DONE);
    };
    let shown = super::shown(path);
    crate::exit::leave_nothing_half_written();
    if path.exists() {
        return because(format!("{shown}: the file already exists; choose another name, or remove it"));
    }
    let wrong = |error: std::io::Error| Failure::Because(format!("{shown}: {}", oplex_io::files::reason(&error)));
    // Editors that know nothing of Oplex complete a file by its schema, which its first line names.
    let schema = kind.write_schema(path).map_err(wrong)?;
    let text = format!("#:schema {}\n{text}", kind.schema_name());
    oplex_io::staged::write(path, false, |file| file.write_all(text.as_bytes())).map_err(wrong)?;
    match kind {
        Kind::Plan => {
            let net = if args.v6 { &args.prefix } else { &args.subnet };
            writeln!(out, "{shown}: a starter plan for {net}")?;
        }
        Kind::Codebook => writeln!(out, "{shown}: a starter codebook")?,
    }
    writeln!(out, "{}: what editors complete it by\nNext: oplex check {shown}", super::shown(&schema))?;
    Ok(DONE)
}

/// What is begun.
#[derive(Clone, Copy)]
enum Kind {
    Plan,
    Codebook,
}

impl Kind {
    fn schema_name(self) -> &'static str {
        match self {
            Self::Plan => "plan.schema.json",
            Self::Codebook => "codebook.schema.json",
        }
    }

    /// Writes the schema beside a file; an earlier one is replaced by that of this version.
    fn write_schema(self, beside: &Path) -> std::io::Result<PathBuf> {
        let text = match self {
            Self::Plan => schema::PLAN,
            Self::Codebook => schema::CODEBOOK,
        };
        let path = beside.with_file_name(self.schema_name());
        oplex_io::staged::write(&path, true, |file| file.write_all(text.as_bytes()))?;
        Ok(path)
    }
}

/// The plan, with addresses out of the subnet and the prefix.
fn starter(args: &New) -> Result<String, Failure> {
    let network = &args.network;
    if network.is_empty() || !network.chars().all(|c| c.is_ascii_alphanumeric() || matches!(c, '-' | '_')) {
        return because(format!("`{network}` is not a network name; use letters, digits and hyphens"));
    }
    let v4 = if args.v6 { None } else { Some(Addresses::of_subnet(&args.subnet)?) };
    let v6 = if args.v6 || args.dual { Some(Addresses::of_prefix(&args.prefix)?) } else { None };
    let both: Vec<&Addresses> = v4.iter().chain(&v6).collect();
    let mut text = String::from(HEAD);
    if let Some(v4) = &v4 {
        text.push_str(&EVERYONE_V4.replace("ROUTER", &v4.router));
    }
    if let Some(v6) = &v6 {
        text.push_str(&EVERYONE_V6.replace("ROUTER", &v6.router));
    }
    let pools: Vec<String> = both.iter().map(|own| format!("\"{}\"", own.pool)).collect();
    text.push_str(&format!("\n[network.{network}]\n"));
    v4.iter().for_each(|v4| text.push_str(&format!("subnet = \"{}\"\n", v4.net)));
    v6.iter().for_each(|v6| text.push_str(&format!("prefix = \"{}\"\n", v6.net)));
    let first = both.first().map_or("", |own| own.pool.split('-').next().unwrap_or_default());
    text.push_str(&format!(
        "pool = [{}]\n# exclude = [\"{first}\"]  # addresses of the pool that are not leased\n",
        pools.join(", ")
    ));
    if let Some(v6) = &v6 {
        text.push_str(&ADVERTISE.replace("ROUTER", &v6.router));
    }
    if let Some(v4) = &v4 {
        text.push_str(&format!(
            "\n[network.{network}.send.v4]  # to everyone on this network\nrouter = \"{}\"\n",
            v4.router
        ));
    }
    let reserved = both.first().map_or("", |own| own.reserved.as_str());
    let family = if v4.is_some() { "v4" } else { "v6" };
    let option = if v4.is_some() {
        format!("tftp-server-address = [\"{reserved}\"]")
    } else {
        format!("sntp-servers = [\"{reserved}\"]")
    };
    text.push_str(&FLEET.replace("FAMILY", family).replace("OPTION", &option));
    text.push_str(&format!("\n[[reservation]]  # a single machine; many stand better in a CSV file\nnetwork = \"{network}\"\nmac = \"02:00:5e:00:53:01\"\n"));
    v4.iter().for_each(|v4| text.push_str(&format!("address = \"{}\"\n", v4.reserved)));
    v6.iter().for_each(|v6| text.push_str(&format!("address-v6 = \"{}\"\n", v6.reserved)));
    text.push_str("name = \"printer\"\n");
    let address = if both.len() == 1 { pools.join("") } else { format!("[{}]", pools.join(", ")) };
    let sent = match (&v4, &v6) {
        (Some(v4), _) => format!("{{ router = \"{}\" }}", v4.router),
        (None, Some(v6)) => format!("{{ \"v6:dns-servers\" = \"{}\" }}", v6.router),
        (None, None) => "{}".to_owned(),
    };
    text.push_str(&format!(
        "\n[[expect]]  # what must hold; check proves it\nclient = {{ network = \"{network}\", mac = \"02:00:5e:00:53:99\" }}\n\
         address = {address}\nsent = {sent}\n"
    ));
    Ok(text)
}

/// Addresses of a network, as text.
struct Addresses {
    net: String,
    router: String,
    reserved: String,
    pool: String,
}

impl Addresses {
    fn of_subnet(subnet: &str) -> Result<Self, Failure> {
        let (first, length) = subnet.split_once('/').unwrap_or((subnet, ""));
        let length = length.parse::<u32>().ok().filter(|length| (8..=28).contains(length));
        let (Ok(first), Some(length)) = (first.parse::<Ipv4Addr>(), length) else {
            return because(format!("`{subnet}` is not a subnet such as 10.64.4.0/24, from /8 to /28"));
        };
        let size = 1u32 << (32 - length);
        let base = u32::from(first) & !(size - 1);
        let host = |at: u32| Ipv4Addr::from(base + at).to_string();
        // The lower addresses stay free for machines that have theirs for ever.
        let pool = format!("{}-{}", host((size / 8).clamp(4, 50)), host(size - 2));
        Ok(Self { net: format!("{}/{length}", host(0)), router: host(1), reserved: host(2), pool })
    }

    fn of_prefix(prefix: &str) -> Result<Self, Failure> {
        let first = prefix.strip_suffix("/64").and_then(|first| first.parse::<Ipv6Addr>().ok());
        let Some(first) = first else {
            return because(format!("`{prefix}` is not a prefix such as 2001:db8:64:4::/64"));
        };
        let base = u128::from(first) >> 64 << 64;
        let host = |at: u128| Ipv6Addr::from(base + at).to_string();
        let pool = format!("{}-{}", host(0x1000), host(0x1fff));
        Ok(Self { net: format!("{}/64", host(0)), router: host(1), reserved: host(2), pool })
    }
}

const HEAD: &str = "# What clients are sent. `oplex check` finds mistakes, `oplex rehearse` shows what one client is sent.\n\n\
    title = \"A new plan\"\nlease = \"12h\"  # how long addresses are leased, unless a network sets its own\n";

const EVERYONE_V4: &str = "\n[send.v4]  # to everyone\ndomain-server = [\"ROUTER\"]  # the DNS servers; here the router answers\n\
    domain-name = \"site.example\"  # what completes short names\n# ntp-servers = [\"ROUTER\"]\n";

const EVERYONE_V6: &str =
    "\n[send.v6]  # to everyone, by DHCPv6\ndns-servers = [\"ROUTER\"]\ndomain-list = [\"site.example\"]\n";

const ADVERTISE: &str = "# What the router advertises decides whether hosts use DHCPv6: managed for addresses, other for settings alone.\n\
    advertise = { managed = true, name-servers = [\"ROUTER\"], search = [\"site.example\"] }\n";

/// A book with each kind of option that manuals have.
const CODEBOOK: &str = include_str!("starter-codebook.toml");

const FLEET: &str = "\n# Devices of one kind are sent more. `oplex lookup` finds options.\n# [fleet.phones]\n\
    # match = { vendor-class = \"Tern *\" }\n# [fleet.phones.send.FAMILY]\n# OPTION\n";
