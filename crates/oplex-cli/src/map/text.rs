//! A strip of a map in characters.

use std::io::{self, Write};

use super::{Mark, Strip, What};
use crate::render::clean;
use crate::render::style::{AID, DIM, PLENTY, STRONG, in_style};

/// Characters of a strip.
const WIDTH: usize = 72;

/// Draws the strips of networks, each under the name of its network, and what their signs mean.
pub(crate) fn draw(out: &mut dyn Write, networks: &[(&str, Vec<Strip>)]) -> io::Result<()> {
    let drawn = || networks.iter().flat_map(|(name, strips)| strips.iter().map(move |strip| (*name, strip)));
    let drawn = || drawn().filter(|(_, strip)| !strip.is_bare());
    if drawn().next().is_none() {
        return Ok(());
    }
    let about = "Map, from the first address to the last; the wider, the more addresses, but not to scale";
    writeln!(out, "\n{}", in_style(STRONG, about))?;
    for (name, strip) in drawn() {
        writeln!(out, "  {}  {}", in_style(AID, clean::line(name)), in_style(DIM, &strip.net))?;
        let (cells, signs) = lines(strip);
        writeln!(out, "  {cells}")?;
        if !signs.is_empty() {
            writeln!(out, "  {signs}")?;
        }
    }
    let kinds: [Kind; 5] = [
        (|what| matches!(what, What::Pool), POOL, "pool"),
        (|what| matches!(what, What::Fleet(_)), FLEET, "only for one fleet"),
        (|what| matches!(what, What::Excluded), EXCLUDED, "excluded"),
        (|what| matches!(what, What::Several { .. }), SEVERAL, "many small ranges"),
        (|what| matches!(what, What::Free), FREE, "in no pool"),
    ];
    let has = |is: fn(&What) -> bool| drawn().any(|(_, strip)| strip.segments.iter().any(|one| is(&one.what)));
    let mut legend: Vec<String> = Vec::new();
    legend.extend(kinds.into_iter().filter(|(is, ..)| has(*is)).map(|(_, sign, what)| format!("{sign} {what}")));
    let any = |is: fn(&Mark) -> usize| drawn().any(|(_, strip)| strip.marks.iter().any(|mark| is(mark) > 0));
    if any(|mark| mark.reservations) {
        legend.push("r reserved".to_owned());
    }
    if any(|mark| mark.servers) {
        legend.push("s sent to clients as a server's or router's".to_owned());
    }
    writeln!(out, "  {}", in_style(DIM, legend.join("   ")))
}

/// Whether something is of a kind, the sign of it, and what it means.
type Kind = (fn(&What) -> bool, char, &'static str);

const POOL: char = '█';
const FLEET: char = '▒';
const EXCLUDED: char = 'x';
const SEVERAL: char = '#';
const FREE: char = '·';

/// A strip in characters, and a line of its marks below, where it has any.
fn lines(strip: &Strip) -> (String, String) {
    let (mut cells, mut places) = (String::new(), Vec::new());
    let mut next = 0;
    for segment in &strip.segments {
        // Each has one character at least, but for single addresses that no client can have.
        let least = usize::from(!matches!(segment.what, What::Never(_)));
        let count = column(segment.to).saturating_sub(next).max(least);
        places.push((segment, next, count));
        next += count;
        let run = |sign: char| String::from(sign).repeat(count);
        cells.push_str(&match segment.what {
            What::Pool => in_style(PLENTY, run(POOL)),
            What::Fleet(_) => in_style(AID, run(FLEET)),
            What::Excluded => in_style(DIM, run(EXCLUDED)),
            What::Several { .. } => run(SEVERAL),
            What::Free | What::Never(_) => in_style(DIM, run(FREE)),
        });
    }
    let mut signs = vec![' '; next];
    for mark in &strip.marks {
        let Some((segment, start, count)) = places.iter().find(|(segment, ..)| mark.at <= segment.to) else { continue };
        let inside = (mark.at - segment.from) / (segment.to - segment.from).max(f64::EPSILON);
        let at = start + (inside * *count as f64) as usize;
        let at = at.min(start + count.saturating_sub(1)).min(next.saturating_sub(1));
        // A server is what is looked for.
        if signs[at] != 's' {
            signs[at] = if mark.servers > 0 { 's' } else { 'r' };
        }
    }
    (cells, signs.into_iter().collect::<String>().trim_end().to_owned())
}

fn column(share: f64) -> usize {
    (share * WIDTH as f64).round() as usize
}
