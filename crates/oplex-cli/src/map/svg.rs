//! A strip of a map as SVG. Where things stand is said in per cent, so that a strip is as wide as the page and its text keeps
//! its size.

use maud::{Markup, PreEscaped, html};
use serde_json::{Value, json};

use super::{Mark, Segment, Strip, What};
use crate::render::clean;

/// The colours, for light and for dark; a page sets `data-theme` where its reader chose one.
pub(crate) const PALETTE: &str = include_str!("palette.css");

/// Width of a drawing by itself, and about that of one on a wide page.
const WIDTH: f64 = 1040.0;

/// About the width of a character.
const CHARACTER: f64 = 7.0;

/// Height of a strip without marks below it.
const BAR: u32 = 26;

/// One strip. Its parts can be reached by keyboard where `reached`.
pub(crate) fn strip(strip: &Strip, reached: bool) -> Markup {
    let height = if strip.marks.is_empty() { BAR } else { BAR + 14 };
    let label = format!("Map of {}", strip.net);
    html! {
        svg.strip width="100%" height=(height) role="group" aria-label=(label) { (parts(strip, 0, reached)) }
    }
}

/// What a strip is drawn from by the script of a page that has too many to be drawn at once: the net, each segment with its
/// class, begin, width, label and sentence, and each mark with its class, place and sentence.
pub(crate) fn data(strip: &Strip) -> Value {
    let shares = |share: f64| (share * 10_000.0).round() / 100.0;
    let segments = strip.segments.iter().map(|segment| {
        let text = label(segment).map(|(_, text)| text);
        json!([class(&segment.what), shares(segment.from), shares(segment.to - segment.from), text, segment.sentence()])
    });
    let marks = strip.marks.iter().map(|mark| {
        let class = if mark.servers > 0 { "server" } else { "reserved" };
        json!([class, shares(mark.at), mark.sentence()])
    });
    json!([strip.net, segments.collect::<Vec<_>>(), marks.collect::<Vec<_>>()])
}

/// A whole document: the strips of a network, with a title and what the colours mean.
pub(crate) fn document(name: &str, strips: &[Strip]) -> String {
    let name = clean::line(name);
    let mut y = 34;
    let mut drawn = Vec::new();
    for strip in strips {
        drawn.push((strip, y));
        y += if strip.marks.is_empty() { BAR + 38 } else { BAR + 52 };
    }
    let kinds = legend(strips);
    let mut x = 10.0;
    let keys = kinds.iter().map(|(class, label)| {
        let own = x;
        x += 34.0 + CHARACTER * label.chars().count() as f64;
        (own, class, label)
    });
    let keys: Vec<_> = keys.collect();
    let title = format!("Addresses of {name}");
    let drawing = html! {
        svg.page xmlns="http://www.w3.org/2000/svg" width=(WIDTH) height=(y + 30) role="img" {
            title { (title) }
            style { (PreEscaped(PALETTE)) }
            rect.paper width="100%" height="100%" {}
            text.head x="10" y="22" { (title) }
            @for (strip, y) in drawn {
                text.dim x="10" y=(y + 12) { (strip.net) }
                svg x="10" width=(WIDTH - 20.0) y=(y + 20) height=(BAR + 14) { (parts(strip, 0, false)) }
            }
            @for (x, class, label) in keys {
                (key(class, x, y + 4))
                text x=(x + 22.0) y=(y + 16) { (label) }
            }
        }
    };
    drawing.into_string()
}

/// The sign of a kind, as the legend shows it.
pub(crate) fn key(class: &str, x: f64, y: u32) -> Markup {
    match class {
        "reserved" => html! { circle.reserved cx=(x + 8.0) cy=(y + 8) r="4.5" {} },
        "server" => html! { rect.server x=(x + 4.0) y=(y + 4) width="9" height="9" {} },
        class => html! { rect class=(class) x=(x) y=(y) width="16" height="16" rx="3" {} },
    }
}

/// The kinds that are drawn, each with its class and what it means.
pub(crate) fn legend<'s>(strips: impl IntoIterator<Item = &'s Strip>) -> Vec<(&'static str, String)> {
    let strips: Vec<&Strip> = strips.into_iter().collect();
    let segments = || strips.iter().flat_map(|strip| &strip.segments);
    let mut fleets: Vec<String> = Vec::new();
    for segment in segments() {
        if matches!(segment.what, What::Fleet(_)) && !fleets.contains(&segment.what.name()) {
            fleets.push(segment.what.name());
        }
    }
    let has = |wanted: &str| segments().any(|segment| class(&segment.what) == wanted);
    let plain = [("pool", "pool"), ("excluded", "excluded"), ("several", "many small ranges"), ("free", "in no pool")];
    let mut kinds: Vec<(&str, String)> = Vec::new();
    kinds.extend(plain.into_iter().filter(|(class, _)| has(class)).map(|(class, label)| (class, label.to_owned())));
    if !fleets.is_empty() {
        kinds.insert(kinds.len().min(1), ("fleet", fleets.join(", ")));
    }
    let any = |is: fn(&Mark) -> usize| strips.iter().any(|strip| strip.marks.iter().any(|mark| is(mark) > 0));
    if any(|mark| mark.reservations) {
        kinds.push(("reserved", "reserved".to_owned()));
    }
    if any(|mark| mark.servers) {
        kinds.push(("server", "sent as a server's or router's".to_owned()));
    }
    kinds
}

fn class(what: &What) -> &'static str {
    match what {
        What::Free => "free",
        What::Never(_) => "never",
        What::Pool => "pool",
        What::Excluded => "excluded",
        What::Fleet(_) => "fleet",
        What::Several { .. } => "several",
    }
}

fn parts(strip: &Strip, y: u32, reached: bool) -> Markup {
    let tab = reached.then_some("0");
    html! {
        @for segment in &strip.segments {
            rect class=(class(&segment.what)) tabindex=[tab] role="img" x=(percent(segment.from)) y=(y)
                width=(percent(segment.to - segment.from)) height=(BAR) { title { (segment.sentence()) } }
        }
        @for (middle, label) in strip.segments.iter().filter_map(label) {
            text.over x=(percent(middle)) y=(y + 17) text-anchor="middle" aria-hidden="true" { (label) }
        }
        @for mark in &strip.marks {
            @if mark.servers > 0 {
                rect.server tabindex=[tab] role="img" x=(percent(mark.at)) y=(y + BAR + 3) width="9" height="9"
                    transform="translate(-4.5 0)" { title { (mark.sentence()) } }
            } @else {
                circle.reserved tabindex=[tab] role="img" cx=(percent(mark.at)) cy=(y + BAR + 8) r="4.5" {
                    title { (mark.sentence()) }
                }
            }
        }
    }
}

/// What stands in a segment, where there is room, and where its middle is.
fn label(segment: &Segment) -> Option<(f64, String)> {
    let room = (segment.to - segment.from) * WIDTH - 8.0;
    let range = format!("{}-{}", segment.first, segment.last);
    let count = match segment.count {
        0..=9_999_999 => segment.count.to_string(),
        count => format!("2^{}", count.ilog2()),
    };
    let texts = match segment.what {
        What::Free | What::Never(_) => vec![],
        What::Several { ranges, .. } => vec![format!("{ranges} ranges")],
        _ => vec![range, count],
    };
    let fits = |text: &String| text.chars().count() as f64 * CHARACTER < room;
    let text = texts.into_iter().find(fits)?;
    Some(((segment.from + segment.to) / 2.0, text))
}

fn percent(share: f64) -> String {
    format!("{:.2}%", share * 100.0)
}
