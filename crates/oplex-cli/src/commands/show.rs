//! `oplex show`: all that a plan says, as tables to read before it is published.

use std::io::Write;

use oplex::answer::Audience;
use oplex::codebook::OptionOctets;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::layout::duration_text;
use unicode_width::UnicodeWidthStr;

use crate::args::{Show, ShowFormat};
use crate::exit::{DONE, ERRORS, Outcome, because};
use crate::forms::{self, AddressesForm, LayerForm, PlanForm, SentForm};
use crate::map::{self, Maps};
use crate::render::clean;
use crate::render::option::shown;
use crate::render::style::{AID, DIM, STRONG, in_style};

pub(super) fn run(args: &Show, out: &mut dyn Write) -> Outcome {
    let loaded = super::releases::plan(&args.plan, &args.store, args.trust)?;
    let plan = super::releases::readable(&loaded, &args.plan)?;
    let only = match &args.network {
        None => None,
        Some(name) => match plan.network(name) {
            Some(at) => Some(at),
            None => {
                let known: Vec<&str> = plan.networks.iter().map(|network| network.name.as_str()).collect();
                return because(format!("unknown network `{name}`; the plan has {}", oplex::nearest::some_of(known)));
            }
        },
    };
    let compiled = Compiled::of(plan);
    if let (Some(query), Some(at)) = (&args.option, only) {
        return one_option(&compiled, at, query, args, out);
    }
    if let (true, Some(at)) = (args.svg, only) {
        let strips = Maps::of(&compiled).network(at);
        writeln!(out, "{}", map::document(&compiled.networks[at].name, &strips))?;
        return Ok(if super::errors(&loaded) > 0 { ERRORS } else { DONE });
    }
    let form = PlanForm::new(plan, &compiled, &loaded.sources, only);
    let errors = super::errors(&loaded);
    if let Some(path) = &args.capture {
        let count = super::replies::write(&compiled, only, path, args.force)?;
        let s = if count == 1 { "" } else { "s" };
        writeln!(out, "{}: {count} frame{s}, every distinct reply once", super::shown(path))?;
        return Ok(if errors > 0 { ERRORS } else { DONE });
    }
    match args.format {
        ShowFormat::Json => forms::document(out, "oplex-plan/1", &form)?,
        ShowFormat::Csv => super::sheet::write(&form, out)?,
        ShowFormat::Yang => yang(&compiled, out)?,
        ShowFormat::Text => {
            super::draw_errors(errors, "the plan", out)?;
            draw(&form, &Maps::of(&compiled), only, out)?;
        }
    }
    Ok(if errors > 0 { ERRORS } else { DONE })
}

/// What the model of a DHCPv6 server holds, and beside it what it does not.
fn yang(compiled: &Compiled<'_>, out: &mut dyn Write) -> std::io::Result<()> {
    let forms::Yang { data, left_out } = forms::yang(compiled);
    forms::plain(out, &data)?;
    let mut err = clean::stderr();
    for what in &left_out {
        writeln!(err, "not in this form: {}", clean::line(what))?;
    }
    err.end()
}

/// The octets of one option as clients of no fleet on a network are sent it, and nothing else, for a form or a script.
fn one_option(compiled: &Compiled<'_>, at: usize, query: &str, args: &Show, out: &mut dyn Write) -> Outcome {
    let definition = super::option(&compiled.codebook, query)?;
    let audience = Audience { compiled, at, fleet: None, reservation: None };
    let families = Family::ALL.into_iter().filter(|family| audience.network().sides.has(*family));
    let mut found = Vec::new();
    for family in families {
        let own = definition.is_own_of(family.protocol());
        let whole = compiled
            .payloads(family, at)
            .unwrap_or_default()
            .into_iter()
            .filter(|sent| own && sent.code == definition.code);
        found.extend(whole.map(|sent| sent.octets.into_vec()));
        // A vendor's option by itself, as the form of a carrier may want it.
        let sent = audience.sent(family).into_iter().filter(|sent| !own && sent.option.definition.is_same(definition));
        found.extend(sent.filter_map(|sent| sent.option.octets.map(OptionOctets::into_vec)));
    }
    found.dedup();
    if found.is_empty() {
        let network = clean::line(&audience.network().name).into_owned();
        return because(format!("{} is not sent to clients of no fleet on {network}", definition.label()));
    }
    if args.format == ShowFormat::Json {
        let hex = found.iter().map(|octets| oplex::octets::hex::plain(octets)).collect();
        let form = forms::SentOctetsForm {
            network: audience.network().name.to_string(),
            option: definition.id().to_string(),
            hex,
        };
        forms::document(out, "oplex-sent/1", &form)?;
        return Ok(DONE);
    }
    for octets in &found {
        super::put(out, octets, args.as_form)?;
    }
    Ok(DONE)
}

fn draw(form: &PlanForm<'_>, maps: &Maps<'_>, only: Option<usize>, out: &mut dyn Write) -> std::io::Result<()> {
    let counted = |count: usize, what: &str| format!("{count} {what}{}", if count == 1 { "" } else { "s" });
    let (networks, fleets) = (counted(form.networks.len(), "network"), counted(form.fleets.len(), "fleet"));
    let title = match (&form.networks[..], form.title) {
        ([network], _) if only.is_some() => format!("network {}", network.network),
        (_, Some(title)) => {
            format!("{title}: {networks}, {fleets}, {}", counted(form.reservations.len(), "reservation"))
        }
        (_, None) => format!("{networks}, {fleets}, {}", counted(form.reservations.len(), "reservation")),
    };
    writeln!(out, "{}", in_style(STRONG, clean::line(&title)))?;
    addresses(form, out)?;
    let drawn = form.networks.iter().enumerate().take(MAPS);
    let drawn = drawn.map(|(at, network)| (network.network, maps.network(only.unwrap_or(at))));
    map::draw_text(out, &drawn.collect::<Vec<_>>())?;
    if form.networks.len() > MAPS {
        writeln!(out, "  and {} more networks; --network NAME draws one", form.networks.len() - MAPS)?;
    }
    options(form, out)?;
    if !form.fleets.is_empty() {
        heading("Fleets, in the order in which they apply", out)?;
        for fleet in &form.fleets {
            writeln!(out, "  {}  {}", in_style(AID, clean::line(fleet.fleet)), clean::line(&fleet.recognised))?;
            for on in fleet.on.iter().filter(|on| !on.pools.is_empty()) {
                writeln!(out, "    on {}: only for them {}", clean::line(on.network), on.pools.join(", "))?;
            }
        }
    }
    reservations(form, out)
}

/// As many networks are drawn.
const MAPS: usize = 50;

fn heading(text: &str, out: &mut dyn Write) -> std::io::Result<()> {
    writeln!(out, "\n{}", in_style(STRONG, text))
}

/// Rows in columns as wide as their widest cells; the last column is as long as it is.
fn table(head: &[&str], rows: &[Vec<String>], out: &mut dyn Write) -> std::io::Result<()> {
    let column = |at: usize| {
        let cells = rows.iter().filter_map(|row| row.get(at)).map(|cell| width(cell));
        cells.chain([head[at].width()]).max().unwrap_or(0).min(VALUE)
    };
    let widths: Vec<usize> = (0..head.len()).map(column).collect();
    let line = |cells: &[&str]| {
        let mut text = String::new();
        for (cell, column) in cells.iter().zip(&widths) {
            let gap = " ".repeat(column.saturating_sub(width(cell)));
            text.push_str(&format!("  {cell}{gap}"));
        }
        text.trim_end().to_owned()
    };
    writeln!(out, "{}", in_style(DIM, line(head)))?;
    for row in rows {
        let cells: Vec<&str> = row.iter().map(String::as_str).collect();
        writeln!(out, "{}", line(&cells))?;
    }
    Ok(())
}

/// The columns that a cell takes, without what sets its style.
fn width(cell: &str) -> usize {
    anstream::adapter::strip_str(cell).to_string().width()
}

/// Where each network's addresses come from, and how many are left.
fn addresses(form: &PlanForm<'_>, out: &mut dyn Write) -> std::io::Result<()> {
    heading("Addresses", out)?;
    let default = form.everyone.lease.unwrap_or(oplex::plan::DEFAULT_LEASE);
    let mut rows = Vec::new();
    for network in &form.networks {
        let name = clean::line(network.network).into_owned();
        let lease = duration_text(network.layer.lease.unwrap_or(default));
        let mut named = false;
        let mut side = |nets: &[String], own: &AddressesForm<'_>, lease: &str| {
            let lines = nets.len().max(own.pools.len()).max(own.exclusions.len());
            for at in 0..lines {
                let cell = |list: &[String]| list.get(at).cloned().unwrap_or_default();
                let first = |text: &str| if at == 0 { text.to_owned() } else { String::new() };
                let leased = !own.pools.is_empty();
                let alone: Vec<String> =
                    own.fleets.iter().map(|(fleet, count)| format!("{count} of {}", clean::line(fleet))).collect();
                let left =
                    if alone.is_empty() { own.left.clone() } else { format!("{}, {}", own.left, alone.join(", ")) };
                let left = first(if leased { &left } else { "" });
                rows.push(vec![
                    if std::mem::replace(&mut named, true) { String::new() } else { name.clone() },
                    cell(nets),
                    cell(&own.pools),
                    cell(&own.exclusions),
                    left,
                    first(if leased { lease } else { "" }),
                ]);
            }
        };
        side(&network.subnets, &network.v4, &lease);
        side(&network.prefixes, &network.v6, &lease);
        for range in &network.delegates {
            let name = if std::mem::replace(&mut named, true) { String::new() } else { name.clone() };
            rows.push(vec![name, String::new(), format!("delegates {range}")]);
        }
    }
    table(&["network", "subnet or prefix", "pool", "excluded", "left", "lease"], &rows, out)
}

/// Which layer sends what, and where a narrower one overrides it.
fn options(form: &PlanForm<'_>, out: &mut dyn Write) -> std::io::Result<()> {
    heading("Options, from the widest layer to the narrowest", out)?;
    let mut rows = Rows::default();
    rows.add(&form.everyone.layer, &form.everyone.options, &form.everyone.withheld);
    for network in &form.networks {
        let advertised = network.advertises.as_ref().map_or(&[][..], |said| &said.options);
        rows.add(&format!("router of {}", network.network), advertised, &[]);
        rows.add(&network.layer.layer, &network.layer.options, &network.layer.withheld);
    }
    let fleets =
        form.fleets.iter().flat_map(|fleet| std::iter::once(&fleet.layer).chain(fleet.on.iter().map(|on| &on.layer)));
    let reservations = form.reservations.iter().filter_map(|row| row.layer.as_ref());
    for LayerForm { layer, options, withheld, .. } in fleets.chain(reservations) {
        rows.add(layer, options, withheld);
    }
    // What others say stands below, as lines are long enough.
    table(&["layer", "option", "name", "value", "line"], &rows.0, out)
}

#[derive(Default)]
struct Rows(Vec<Vec<String>>);

impl Rows {
    fn add(&mut self, layer: &str, options: &[SentForm<'_>], withheld: &[String]) {
        let mut layer = layer;
        for option in options {
            self.0.push(row(layer, option));
            layer = "";
            let by = match &option.overrides.overridden_by[..] {
                [] => continue,
                [one, two, rest @ ..] if !rest.is_empty() => {
                    let over = if option.overrides.overridden_by_more { "over " } else { "" };
                    format!("{one}, {two} and {over}{} more", rest.len())
                }
                some => some.join(", "),
            };
            let by = in_style(DIM, clean::line(&format!("otherwise by {by}")));
            self.0.push(vec![String::new(), String::new(), String::new(), by]);
        }
        for out in withheld {
            self.0.push(vec![clean::line(layer).into_owned(), out.clone(), String::new(), "(withheld)".to_owned()]);
            layer = "";
        }
    }
}

/// Characters of the column for values.
const VALUE: usize = 56;

fn row(layer: &str, option: &SentForm<'_>) -> Vec<String> {
    let value = match (&option.changes, &option.value) {
        (Some(changes), _) => format!("changes {changes}"),
        (None, Some(value)) => shown(value),
        (None, None) => option.hex.clone().unwrap_or_default(),
    };
    let value = clean::line(&value).into_owned();
    let cut = || format!("{}…", value.chars().take(VALUE - 1).collect::<String>());
    let value = if value.width() > VALUE { cut() } else { value };
    // A vendor's option does not say in which family it is sent.
    let own = ["v4:", "v6:", "ra:"].iter().any(|prefix| option.option.starts_with(prefix));
    let name = match (option.by, own) {
        (by @ ("boot" | "fqdn"), _) => format!("{} ({by})", option.name),
        (_, false) => format!("{} ({})", option.name, option.family),
        (_, true) => option.name.to_owned(),
    };
    // The plan's own lines need no file.
    let line = option.from.as_ref().map(|from| match from.file.rsplit('/').next() {
        Some(file) if !file.ends_with(".toml") => format!("{file}:{}", from.line),
        _ => from.line.to_string(),
    });
    let cells = [layer.to_owned(), option.option.clone(), name, value, line.unwrap_or_default()];
    cells.map(|cell| clean::line(&cell).into_owned()).to_vec()
}

/// As many reservations as anybody reads.
const MOST: usize = 40;

fn reservations(form: &PlanForm<'_>, out: &mut dyn Write) -> std::io::Result<()> {
    if form.reservations.is_empty() {
        return Ok(());
    }
    heading("Reservations", out)?;
    let rows = form.reservations.iter().take(MOST).map(|row| {
        let addresses =
            row.addresses.iter().cloned().chain(row.delegated.iter().map(|prefix| format!("delegated {prefix}")));
        let sends = row.layer.iter().flat_map(|layer| &layer.options).map(|option| option.name);
        let cells = [
            row.client.clone(),
            row.name.unwrap_or_default().to_owned(),
            row.network.to_owned(),
            addresses.collect::<Vec<_>>().join(", "),
            sends.collect::<Vec<_>>().join(", "),
        ];
        cells.map(|cell| clean::line(&cell).into_owned()).to_vec()
    });
    table(&["client", "name", "network", "addresses", "sends"], &rows.collect::<Vec<_>>(), out)?;
    match form.reservations.len().saturating_sub(MOST) {
        0 => Ok(()),
        more => writeln!(out, "  and {more} more; --format json lists all"),
    }
}
