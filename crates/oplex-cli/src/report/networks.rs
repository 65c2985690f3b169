//! Networks on a page: the map of their addresses, what is left of them, and how full their largest reply is.

use maud::{Markup, PreEscaped, html};
use oplex::compiled::Compiled;
use oplex::layout::duration_text;
use oplex::packet::v4::DATAGRAM_HEADERS;
use serde_json::Value;

use super::{Section, matrix};
use crate::forms::{AddressesForm, NetworkForm, PlanForm};
use crate::map::{self, Maps, Strip, draw_strip, key, legend};

/// As many networks are open when the page is opened.
const OPEN: usize = 12;

/// As many maps are drawn when the page is opened; of more each is drawn when its network is opened.
const DRAWN: usize = 200;

/// As many replies are composed to know their size.
const REPLIES: usize = 50_000;

pub(super) fn section(form: &PlanForm<'_>, compiled: &Compiled<'_>, maps: &Maps<'_>) -> Section {
    let open = form.networks.len() <= OPEN;
    let measured = REPLIES / (1 + compiled.fleets.len());
    let strips: Vec<Vec<Strip>> = (0..form.networks.len()).map(|at| maps.network(at)).collect();
    let default = form.everyone.lease.unwrap_or(oplex::plan::DEFAULT_LEASE);
    let kinds = legend(strips.iter().flatten());
    let later = form.networks.len() > DRAWN;
    let content = html! {
        p.dim { "A map runs from the first address to the last. The wider a part, the more addresses it has, but not to scale." }
        ul.keys { @for (class, label) in kinds {
            li { svg width="18" height="18" aria-hidden="true" { (key(class, 1.0, 1)) } (label) }
        } }
        @for (at, (network, strips)) in form.networks.iter().zip(&strips).enumerate() {
            details.card data-row open[open] {
                summary { (head(network, default)) @if at < measured { (budget(compiled, at, !later)) } }
                (body(network, strips, later))
            }
        }
        @if later { (later_maps(&strips)) }
        @if form.networks.len() > measured {
            p.dim { "The largest reply is measured on the first " (measured) " networks." }
        }
    };
    Section { id: "networks", title: "Networks".to_owned(), content }
}

fn head(network: &NetworkForm<'_>, default: u32) -> Markup {
    let nets: Vec<&str> = network.subnets.iter().chain(&network.prefixes).map(String::as_str).collect();
    let lease = duration_text(network.layer.lease.unwrap_or(default));
    html! {
        b { (network.network) } span.dim { (nets.join(", ")) }
        @for side in [&network.v4, &network.v6] {
            @if !side.pools.is_empty() { span { (side.left) " to lease for " (lease) } }
        }
    }
}

/// How full the largest reply by DHCPv4 is, with a bar, which is left out where there are very many.
fn budget(compiled: &Compiled<'_>, at: usize, bar: bool) -> Markup {
    let Some(largest) = compiled.largest_reply(at) else { return html! {} };
    let used = largest.budget.used + DATAGRAM_HEADERS;
    let limit = largest.budget.limit.octets + DATAGRAM_HEADERS;
    let whose = largest.fleet.map(|fleet| format!(", to {fleet}")).unwrap_or_default();
    let text = format!("largest reply {used} of {limit} octets{whose}");
    let (low, high) = (limit * 9 / 10, limit);
    html! {
        span.push.dim {
            @if bar { meter min="0" max=(limit) low=(low) high=(high) optimum="0" value=(used) aria-label=(text) {} " " }
            (text)
        }
    }
}

/// What maps are drawn from later. Nothing in it ends the element that it stands in, as all `<` are written as escapes.
fn later_maps(strips: &[Vec<Strip>]) -> Markup {
    let all: Vec<Vec<Value>> = strips.iter().map(|strips| drawn(strips).map(map::data).collect()).collect();
    let text = serde_json::to_string(&all).unwrap_or_default().replace('<', "\\u003c");
    html! { script #maps type="application/json" { (PreEscaped(text)) } }
}

/// The strips that have something in them.
fn drawn(strips: &[Strip]) -> impl Iterator<Item = &Strip> {
    strips.iter().filter(|strip| !strip.is_bare())
}

fn body(network: &NetworkForm<'_>, strips: &[Strip], later: bool) -> Markup {
    let drawn: Vec<&Strip> = drawn(strips).filter(|_| !later).collect();
    html! {
        @if !drawn.is_empty() {
            div.map {
                @for strip in &drawn { p.net { (strip.net) } (draw_strip(strip, true)) }
                p.said role="status" {}
            }
        }
        (addresses(&network.v4)) (addresses(&network.v6))
        @for range in &network.delegates { p { span.dim { "delegates " } (range) } }
        @if let Some(said) = &network.advertises {
            @let lifetime = duration_text(said.lifetime.into());
            p { span.dim { "The router advertises " }
                @if said.managed { "managed, " } @if said.other { "other, " } "router for " (lifetime) ": hosts are " (said.mode) }
            ul { @for option in &said.options { li { (option.option) " " span.dim { (option.name) } " " (matrix::value(option)) } } }
        }
        @if !network.relays.is_empty() { p { span.dim { "relay agents " } (network.relays.join(", ")) } }
    }
}

fn addresses(side: &AddressesForm<'_>) -> Markup {
    html! {
        @if !side.pools.is_empty() {
            p { span.dim { "leases " } (side.pools.join(", "))
                @if !side.exclusions.is_empty() { span.dim { " without " } (side.exclusions.join(", ")) }
                @for (fleet, count) in &side.fleets { span.dim { ", and to " } (fleet) span.dim { " alone " } (count) }
            }
        }
    }
}
