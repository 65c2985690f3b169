//! Which of many descriptions of clients may have clients in common, found without holding each against each.
//!
//! A description is kept under the first single thing that it wants, such as the vendor class, as the span of texts that its
//! patterns can fit: `Tern *` fits from `Tern ` to the last text that begins so. Two descriptions whose spans of one thing are
//! apart share no client. Spans lie in a tree, so that those that meet another are found in n log n steps for all.

use std::borrow::Cow;
use std::cmp::Ordering;
use std::collections::HashMap;
use std::mem::discriminant;
use std::ops::{ControlFlow, Range};

use super::overlap::{self, SINGLE};
use super::texts::Texts;
use super::{Fact, Match, Pattern};
use smallvec::{SmallVec, smallvec};

use crate::octets::hex;

/// Descriptions by the things that they want.
#[derive(Debug, Clone, Default)]
pub(crate) struct Meetings {
    /// By the place of the thing in [`SINGLE`].
    by_fact: [Spans; SINGLE.len()],
    /// Those that want none of these things.
    others: Spans,
    /// By a pattern that is more than a beginning, as it is written.
    by_pattern: HashMap<String, Vec<usize>>,
}

/// Spans in the order of their beginnings, and the furthest end in each part of them.
#[derive(Debug, Clone, Default)]
struct Spans {
    all: Vec<Span>,
    /// A binary tree over them, its root at 1.
    nodes: Vec<Node>,
}

#[derive(Debug, Clone)]
struct Span {
    first: String,
    last: End<'static>,
    /// Whether every text between these fits the pattern, as far as patterns show.
    whole: bool,
    /// Whose it is.
    item: usize,
    /// What those have in common that are not held against each other.
    class: usize,
}

/// The last of the texts that are meant: this one, or the last that begins with it.
#[derive(Debug, Clone, PartialEq, Eq)]
struct End<'t> {
    text: Cow<'t, str>,
    open: bool,
}

#[derive(Debug, Clone, Copy)]
struct Node {
    /// The span that ends last.
    furthest: usize,
    /// The class that all spans below have.
    class: Option<usize>,
    /// The first and the last item below.
    items: (usize, usize),
    /// Whether some span below is whole.
    whole: bool,
}

/// Which items are looked for.
#[derive(Debug, Clone)]
pub(crate) struct Among {
    /// Those in this range.
    pub(crate) items: Range<usize>,
    /// Those of any class but this one.
    pub(crate) not_of: Option<usize>,
}

impl Among {
    pub(crate) const ALL: Self = Self { items: 0..usize::MAX, not_of: None };
}

/// Which spans are looked for.
struct Query<'a> {
    among: &'a Among,
    /// Whole ones only.
    whole: bool,
}

impl Query<'_> {
    fn may_be_in(&self, node: &Node) -> bool {
        let Among { items, not_of } = self.among;
        let of_class = not_of.is_none() || node.class != *not_of;
        of_class && node.items.0 < items.end && node.items.1 >= items.start && (node.whole || !self.whole)
    }
}

/// Is shown items, and may say that it has seen enough.
type Visit<'v> = &'v mut dyn FnMut(usize) -> ControlFlow<()>;

impl Meetings {
    /// Items, each with its class and its description.
    pub(crate) fn new<'m>(items: impl Iterator<Item = (usize, usize, &'m Match)>) -> Self {
        let mut all = Self::default();
        for (item, class, wanted) in items {
            let keyed = SINGLE.iter().enumerate().find_map(|(at, fact)| Some((at, wanted.wants(fact)?)));
            let (spans, patterns) = match keyed {
                Some((at, patterns)) => (&mut all.by_fact[at], patterns),
                None => (&mut all.others, [].as_slice()),
            };
            let mut push = |(first, last), whole| spans.all.push(Span { first, last, whole, item, class });
            if keyed.is_none() {
                push((String::new(), End::of_all()), true);
            }
            for pattern in patterns {
                push(span(pattern), is_whole(pattern));
                if let Pattern::Text(text) = pattern
                    && !is_whole(pattern)
                {
                    all.by_pattern.entry(text.clone()).or_default().push(item);
                }
            }
        }
        all.by_fact.iter_mut().chain([&mut all.others]).for_each(Spans::finish);
        all
    }

    /// Visits the items that may share clients with this description, as far as their spans show; some of them several times.
    pub(crate) fn near(&self, wanted: &Match, among: &Among, visit: Visit<'_>) -> ControlFlow<()> {
        for (fact, spans) in SINGLE.iter().zip(&self.by_fact) {
            match wanted.wants(fact) {
                Some(patterns) => {
                    patterns.iter().map(span).try_for_each(|(first, last)| {
                        spans.visit(&first, &last, &Query { among, whole: false }, visit)
                    })?;
                }
                None => spans.visit_all(among, visit)?,
            }
        }
        self.others.visit_all(among, visit)
    }

    /// Visits the items in which a client may be whose facts have these texts.
    pub(crate) fn of_client(&self, texts: impl Fn(&Fact, &mut dyn FnMut(&Texts)), visit: &mut dyn FnMut(usize)) {
        let mut visit = |item| {
            visit(item);
            ControlFlow::Continue(())
        };
        for (fact, spans) in SINGLE.iter().zip(&self.by_fact).filter(|(_, spans)| !spans.all.is_empty()) {
            texts(fact, &mut |texts| {
                for text in texts.iter() {
                    let last = End { text: Cow::Borrowed(text), open: false };
                    let _ = spans.visit(text, &last, &Query { among: &Among::ALL, whole: false }, &mut visit);
                }
            });
        }
        let _ = self.others.visit_all(&Among::ALL, &mut visit);
    }

    /// Visits the items in which this description may lie as a whole: those that want nothing which it does not want.
    pub(crate) fn around(&self, wanted: &Match, among: &Among, visit: Visit<'_>) -> ControlFlow<()> {
        if wanted.has_alternatives() {
            return self.near(wanted, among, visit);
        }
        for (fact, spans) in SINGLE.iter().zip(&self.by_fact).filter(|(_, spans)| !spans.all.is_empty()) {
            let mut all = Vec::new();
            wanted.all_wants(fact, &mut all);
            // All patterns of one of its conditions lie in the other's, and so does the first.
            for pattern in all.into_iter().filter_map(<[_]>::first) {
                let (first, last) = span(pattern);
                let (text, whole) = (begun(pattern).unwrap_or(first), last.open);
                spans.visit(&text, &End { text: Cow::Borrowed(&text), open: false }, &Query { among, whole }, visit)?;
                let Pattern::Text(text) = pattern else { continue };
                let same = self.by_pattern.get(text).into_iter().flatten();
                same.copied().filter(|item| among.items.contains(item)).try_for_each(&mut *visit)?;
            }
        }
        self.others.visit_all(among, visit)
    }
}

impl Match {
    /// Whether one of several conditions is enough somewhere.
    fn has_alternatives(&self) -> bool {
        match self {
            Self::Any(_) => true,
            Self::All(all) => all.iter().any(Self::has_alternatives),
            Self::None(_) | Self::Sends { .. } => false,
        }
    }

    /// The patterns of which one must fit this thing, by the first condition on it.
    pub(super) fn wants(&self, wanted: &Fact) -> Option<&[Pattern]> {
        match self {
            Self::Sends { fact, patterns, .. } if discriminant(fact) == discriminant(wanted) => Some(patterns),
            Self::All(all) => all.iter().find_map(|one| one.wants(wanted)),
            _ => None,
        }
    }

    /// The same by every condition on it.
    fn all_wants<'m>(&'m self, wanted: &Fact, into: &mut Vec<&'m [Pattern]>) {
        match self {
            Self::Sends { fact, patterns, .. } if discriminant(fact) == discriminant(wanted) => into.push(patterns),
            Self::All(all) => all.iter().for_each(|one| one.all_wants(wanted, into)),
            _ => {}
        }
    }
}

/// The texts that a pattern can fit lie between these.
fn span(pattern: &Pattern) -> (String, End<'static>) {
    match pattern {
        Pattern::Macs(first, last) => (hex::colon(first), End { text: hex::colon(last).into(), open: false }),
        Pattern::Text(text) => {
            let begins = text.find(['*', '?']).map_or(&**text, |sign| &text[..sign]);
            (begins.to_owned(), End { text: begins.to_owned().into(), open: begins.len() < text.len() })
        }
    }
}

/// The first of the hardware addresses that begin as a pattern does.
fn begun(pattern: &Pattern) -> Option<String> {
    let Pattern::Text(text) = pattern else { return None };
    overlap::begun(text).map(|(first, _)| hex::colon(&first))
}

/// Whether a pattern is a text or a beginning, or addresses.
fn is_whole(pattern: &Pattern) -> bool {
    match pattern {
        Pattern::Macs(..) => true,
        Pattern::Text(text) => !text.strip_suffix('*').unwrap_or(text).contains(['*', '?']),
    }
}

impl End<'_> {
    fn of_all() -> Self {
        Self { text: Cow::Borrowed(""), open: true }
    }

    /// Whether a text is not behind it.
    fn reaches(&self, text: &str) -> bool {
        text <= &*self.text || (self.open && text.starts_with(&*self.text))
    }
}

impl Ord for End<'_> {
    fn cmp(&self, other: &Self) -> Ordering {
        let shared = self.text.len().min(other.text.len());
        self.text.as_bytes()[..shared].cmp(&other.text.as_bytes()[..shared]).then_with(|| {
            match self.text.len().cmp(&other.text.len()) {
                Ordering::Equal => self.open.cmp(&other.open),
                // What is open ends behind all that begin with it.
                Ordering::Less if self.open => Ordering::Greater,
                Ordering::Greater if other.open => Ordering::Less,
                by_length => by_length,
            }
        })
    }
}

impl PartialOrd for End<'_> {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl Spans {
    fn finish(&mut self) {
        self.all.sort_by(|one, other| one.first.cmp(&other.first).then(one.item.cmp(&other.item)));
        let leaves = self.all.len().next_power_of_two();
        if self.all.is_empty() {
            return;
        }
        // Places behind the last span are as the last span.
        let leaf = |at: usize| {
            let at = at.min(self.all.len() - 1);
            let Span { item, class, whole, .. } = self.all[at];
            Node { furthest: at, class: Some(class), items: (item, item), whole }
        };
        let mut nodes = vec![leaf(0); leaves];
        nodes.extend((0..leaves).map(leaf));
        for at in (1..leaves).rev() {
            let (left, right) = (nodes[2 * at], nodes[2 * at + 1]);
            let further = self.all[left.furthest].last >= self.all[right.furthest].last;
            let furthest = if further { left.furthest } else { right.furthest };
            let items = (left.items.0.min(right.items.0), left.items.1.max(right.items.1));
            let class = left.class.filter(|class| right.class == Some(*class));
            nodes[at] = Node { furthest, class, items, whole: left.whole || right.whole };
        }
        self.nodes = nodes;
    }

    fn visit_all(&self, among: &Among, visit: Visit<'_>) -> ControlFlow<()> {
        self.visit("", &End::of_all(), &Query { among, whole: false }, visit)
    }

    /// Visits the spans that meet this one.
    fn visit(&self, first: &str, last: &End<'_>, query: &Query<'_>, visit: Visit<'_>) -> ControlFlow<()> {
        let limit = self.all.partition_point(|span| last.reaches(&span.first));
        let leaves = self.nodes.len() / 2;
        let mut open: SmallVec<[(usize, usize, usize); 16]> = smallvec![(1, 0, leaves)];
        while let Some((node, from, to)) = open.pop() {
            let Some(here) = self.nodes.get(node).filter(|_| from < limit) else { continue };
            if !query.may_be_in(here) || !self.all[here.furthest].last.reaches(first) {
                continue;
            }
            if to - from == 1 {
                visit(self.all[from].item)?;
                continue;
            }
            let middle = from.midpoint(to);
            open.push((2 * node + 1, middle, to));
            open.push((2 * node, from, middle));
        }
        ControlFlow::Continue(())
    }
}
