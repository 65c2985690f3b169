//! Which fleets a client belongs to, and why.

use std::cell::RefCell;
use std::mem::Discriminant;

use smallvec::SmallVec;

use crate::codebook::Codebook;
use crate::compiled::{Compiled, Fleet};
use crate::family::Family;
use crate::plan::{ClientFacts, ClientKey, Fact, Match, Reservation, Texts};

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
pub(super) fn recognised<'a>(compiled: &'a Compiled<'a>, facts: &ClientFacts, family: Family) -> Vec<&'a Fleet<'a>> {
    let client = Client::new(&compiled.codebook, facts, family);
    let candidates = compiled.candidates(|fact, look| client.with_texts(fact, look));
    candidates.filter(|fleet| client.is(&fleet.recognised, None)).collect()
}

impl<'p> Compiled<'p> {
    /// The fleets that the client of a reservation surely belongs to, whatever else it sends, in the order in which they apply.
    pub(crate) fn fleets_of<'a>(&'a self, row: &Reservation) -> impl Iterator<Item = &'a Fleet<'a>> {
        let mut facts = ClientFacts::on(row.network());
        match row.client() {
            ClientKey::Mac(mac) => facts.mac = Some(*mac),
            ClientKey::ClientId(id) => facts.send(Family::V4, 61, id.to_vec()),
            ClientKey::Duid(duid) => facts.duid = Some(duid.clone()),
            // Any client may be there.
            ClientKey::CircuitId(_) | ClientKey::RemoteId(_) => {}
        }
        recognised(self, &facts, Family::V4).into_iter()
    }
}

/// A condition of a fleet that a client does not meet.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Unfit {
    /// The condition: `vendor-class is Tern *`.
    pub wanted: String,
    /// What the client sends of that.
    pub seen: Vec<String>,
}

impl<'p> Compiled<'p> {
    /// What of a client fits which patterns of a fleet; nothing where it does not belong to the fleet.
    ///
    /// ```
    /// use oplex::compiled::Compiled;
    /// use oplex::family::Family;
    /// use oplex::plan::ClientFacts;
    /// # use oplex::plan::Plan;
    /// # let text = "server = \"10.64.0.67\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\n\
    /// #             send.v4 = { router = \"10.64.4.1\" }\n[fleet.phones]\nmatch = { vendor-class = \"Tern D2*\" }\n\
    /// #             send.v4 = { log-server = \"10.64.0.57\" }\n";
    /// # let plan = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into())).plan.expect("it is TOML");
    ///
    /// let compiled = Compiled::of(&plan);
    /// let mut phone = ClientFacts::on(0);
    /// phone.describe(&plan.codebook, "vendor-class", "Tern D2 4.1")?;
    /// let fits = compiled.fits(&compiled.fleets[0], &phone, Family::V4);
    /// assert_eq!((&*fits[0].fact, &*fits[0].seen, &*fits[0].pattern), ("vendor-class", "Tern D2 4.1", "Tern D2*"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn fits(&self, fleet: &Fleet<'_>, facts: &ClientFacts, family: Family) -> Vec<Fit> {
        let mut fits = Vec::new();
        let belongs = Client::new(&self.codebook, facts, family).is(&fleet.recognised, Some(&mut fits));
        if belongs { fits } else { Vec::new() }
    }

    /// The conditions of a fleet that a client does not meet; none where it belongs to the fleet.
    ///
    /// ```
    /// use oplex::compiled::Compiled;
    /// use oplex::family::Family;
    /// use oplex::plan::ClientFacts;
    /// # use oplex::plan::Plan;
    /// # let text = "server = \"10.64.0.67\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\n\
    /// #             send.v4 = { router = \"10.64.4.1\" }\n[fleet.phones]\nmatch = { vendor-class = \"Tern D2*\" }\n\
    /// #             send.v4 = { log-server = \"10.64.0.57\" }\n";
    /// # let plan = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into())).plan.expect("it is TOML");
    ///
    /// let compiled = Compiled::of(&plan);
    /// let mut radio = ClientFacts::on(0);
    /// radio.describe(&plan.codebook, "vendor-class", "Heron A1")?;
    /// let unfit = compiled.unfit(&compiled.fleets[0], &radio, Family::V4);
    /// // As text and, as it could be either, as octets.
    /// assert_eq!((unfit.len(), &*unfit[0].seen[0]), (1, "Heron A1"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn unfit(&self, fleet: &Fleet<'_>, facts: &ClientFacts, family: Family) -> Vec<Unfit> {
        let client = Client::new(&self.codebook, facts, family);
        let mut unfit = Vec::new();
        client.unfit(&fleet.recognised, &mut unfit);
        unfit
    }
}

/// A fact, and what a client sends of it.
type SentTexts = (Discriminant<Fact>, Texts);

/// So many facts that fleets look at take no allocation.
const FEW: usize = 4;

struct Client<'a> {
    codebook: &'a Codebook,
    facts: &'a ClientFacts,
    family: Family,
    /// What it sends of facts that were looked at: several fleets look at the same.
    seen: RefCell<SmallVec<[SentTexts; FEW]>>,
}

impl<'a> Client<'a> {
    fn new(codebook: &'a Codebook, facts: &'a ClientFacts, family: Family) -> Self {
        Self { codebook, facts, family, seen: RefCell::default() }
    }

    /// Looks at what it sends of a fact.
    fn with_texts<T>(&self, fact: &Fact, look: impl FnOnce(&Texts) -> T) -> T {
        let read = || self.facts.texts_of(self.codebook, fact, self.family);
        // Options are many, and one fact.
        if matches!(fact, Fact::Option(_)) {
            return look(&read());
        }
        let kind = std::mem::discriminant(fact);
        let mut seen = self.seen.borrow_mut();
        let at = seen.iter().position(|(known, _)| *known == kind).unwrap_or_else(|| {
            seen.push((kind, read()));
            seen.len() - 1
        });
        look(&seen[at].1)
    }

    /// Which conditions it does not meet: of several that must hold each that does not, of alternatives all.
    fn unfit(&self, wanted: &Match, into: &mut Vec<Unfit>) {
        if self.is(wanted, None) {
            return;
        }
        match wanted {
            Match::All(all) | Match::Any(all) => all.iter().for_each(|one| self.unfit(one, into)),
            Match::None(none) => {
                let hits = none.iter().filter(|one| self.is(one, None));
                into.extend(hits.map(|hit| Unfit { wanted: format!("not {hit}"), seen: self.seen(hit) }));
            }
            Match::Sends { .. } => into.push(Unfit { wanted: wanted.to_string(), seen: self.seen(wanted) }),
        }
    }

    /// What it sends of what a condition is about.
    fn seen(&self, wanted: &Match) -> Vec<String> {
        match wanted {
            Match::All(all) | Match::Any(all) | Match::None(all) => all.iter().flat_map(|one| self.seen(one)).collect(),
            Match::Sends { fact, .. } => self.with_texts(fact, |texts| texts.iter().map(str::to_owned).collect()),
        }
    }

    /// Whether it meets a condition; why is added to `by`.
    fn is(&self, wanted: &Match, mut by: Option<&mut Vec<Fit>>) -> bool {
        match wanted {
            // A fleet without conditions has no clients.
            Match::All(all) => !all.is_empty() && all.iter().all(|one| self.is(one, by.as_deref_mut())),
            Match::Any(any) => any.iter().any(|one| self.is(one, by.as_deref_mut())),
            Match::None(none) => {
                let hit = none.iter().any(|one| self.is(one, None));
                let not = |none: &Match| Fit { fact: "not".to_owned(), seen: String::new(), pattern: none.to_string() };
                if let Some(by) = by.filter(|_| !hit) {
                    by.extend(none.iter().map(not));
                }
                !hit
            }
            Match::Sends { fact, patterns, .. } => {
                let fit = |texts: &Texts| {
                    let pairs = texts.iter().flat_map(|text| patterns.iter().map(move |pattern| (text, pattern)));
                    let Some((text, pattern)) = pairs.into_iter().find(|(text, pattern)| pattern.fits(text)) else {
                        return false;
                    };
                    if let Some(by) = by {
                        by.push(Fit { fact: fact.to_string(), seen: text.to_owned(), pattern: pattern.to_string() });
                    }
                    true
                };
                self.with_texts(fact, fit)
            }
        }
    }
}
