//! Which fleets a client belongs to, and why.

use crate::codebook::Codebook;
use crate::compiled::{Compiled, Fleet};
use crate::family::Family;
use crate::plan::{ClientFacts, ClientKey, Match, Reservation};

/// A fleet that a client belongs to, and why.
#[derive(Debug, Clone)]
pub struct Recognised<'a> {
    /// The fleet.
    pub fleet: &'a Fleet<'a>,
    /// What of the client fits which pattern.
    pub by: Vec<Fit>,
}

/// Something a client sends that fits a pattern.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Fit {
    /// What it is, as a plan writes it.
    pub fact: String,
    /// What the client sends.
    pub seen: String,
    /// The pattern that it fits.
    pub pattern: String,
}

/// The fleets that a client belongs to, in the order in which they apply.
pub(super) fn recognised<'a>(compiled: &'a Compiled<'a>, facts: &ClientFacts, family: Family) -> Vec<Recognised<'a>> {
    let client = Client { codebook: &compiled.codebook, facts, family };
    let one = |fleet: &'a Fleet<'a>| {
        let mut by = Vec::new();
        client.is(&fleet.recognised, &mut by).then_some(Recognised { fleet, by })
    };
    compiled.fleets.iter().filter_map(one).collect()
}

impl<'p> Compiled<'p> {
    /// The fleets that the client of a reservation surely belongs to, whatever else it sends, in the order in which they apply.
    pub(crate) fn fleets_of<'a>(&'a self, row: &Reservation) -> impl Iterator<Item = &'a Fleet<'a>> {
        let mut facts = ClientFacts::on(row.network());
        match row.client() {
            ClientKey::Mac(mac) => facts.mac = Some(*mac),
            ClientKey::ClientId(id) => facts.send(Family::V4, 61, id.to_vec()),
            ClientKey::Duid(duid) => facts.duid = Some(duid.clone()),
        }
        recognised(self, &facts, Family::V4).into_iter().map(|known| known.fleet)
    }
}

struct Client<'a> {
    codebook: &'a Codebook,
    facts: &'a ClientFacts,
    family: Family,
}

impl Client<'_> {
    fn is(&self, wanted: &Match, by: &mut Vec<Fit>) -> bool {
        match wanted {
            // A fleet without conditions has no clients.
            Match::All(all) => !all.is_empty() && all.iter().all(|one| self.is(one, by)),
            Match::Any(any) => any.iter().any(|one| self.is(one, by)),
            Match::None(none) => {
                let hit = none.iter().any(|one| self.is(one, &mut Vec::new()));
                if !hit {
                    by.extend(none.iter().map(|none| Fit {
                        fact: "not".to_owned(),
                        seen: String::new(),
                        pattern: none.to_string(),
                    }));
                }
                !hit
            }
            Match::Sends { fact, patterns, .. } => {
                let texts = self.facts.texts(self.codebook, fact, self.family);
                let pairs = texts.iter().flat_map(|text| patterns.iter().map(move |pattern| (text, pattern)));
                let mut fitting = pairs.filter(|(text, pattern)| pattern.fits(text));
                let Some((text, pattern)) = fitting.next() else { return false };
                by.push(Fit { fact: fact.to_string(), seen: text.clone(), pattern: pattern.to_string() });
                true
            }
        }
    }
}
