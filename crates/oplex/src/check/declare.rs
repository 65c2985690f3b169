//! What a rule is declared with, and what rules are shown.

use crate::answer::{Audience, Chosen};
use crate::codebook::{Codebook, Definition};
use crate::compiled::{Compiled, LayerRef};
use crate::family::{Both, Protocol};
use crate::finding::{About, Example, Finding, Findings, Rule};
use crate::layout::{Atom, Node, Run, Scalar, ScalarForm, Topic, Value};
use crate::plan::{self, Plan};

use std::ops::Range;

use super::context::MessageContext;
use super::kinds::Kinds;
use super::scalars;
use super::scan::{Thing, each_thing};
use super::tree::{Inner, Tree, View};
use crate::packet::v4::MessageType;

/// A rule and how it finds.
pub(super) struct Check {
    pub(super) rule: Rule,
    pub(super) find: Find,
}

impl std::ops::Deref for Check {
    type Target = Rule;

    fn deref(&self) -> &Rule {
        &self.rule
    }
}

/// How a rule finds, and its declaration as [`rule!`](crate::finding::rule) has it.
macro_rules! check {
    (
        $find:ident($($how:tt)+),
        $(#[doc = $text:literal])+
        static $rule:ident = $name:literal, $severity:ident, $about:ident $(($($of:tt)+))?, $rfc:expr;
        $($examples:tt)+
    ) => {
        pub(in crate::check) static $rule: $crate::check::declare::Check = $crate::check::declare::Check {
            rule: $crate::finding::declared!(
                [$($text)+] $name, $severity, $about $(($($of)+))?, $rfc; $($examples)+
            ),
            find: $crate::check::declare::Find::$find($($how)+),
        };
    };
}
pub(super) use check;

/// Lists the rules of a file.
macro_rules! checks {
    ($($rule:ident),+) => {
        pub(super) static CHECKS: &[&$crate::check::declare::Check] = &[$(&$rule),+];
    };
}
pub(super) use checks;

/// What clients are sent by each family.
pub(super) type BothSent<'a> = Both<Vec<Chosen<'a>>>;

/// Looks at one value.
pub(super) type FindInValue = fn(&OptionValue<'_>) -> Option<Finding>;

/// Whether an option's values are to be looked at: said once for each option, as there are many rules and few of them are about
/// one option.
pub(super) type Wants = fn(&Codebook, &Definition) -> bool;

/// Looks at one single thing in an option's octets.
pub(super) type FindInAtom = fn(&AtomSeen<'_>) -> Option<Finding>;

/// Looks at an option that clients of a network are sent.
pub(super) type FindInSent = fn(&SentHere<'_>, &mut Findings);

/// Looks at a whole plan.
pub(super) type FindInPlan = fn(&PlanContext<'_>, &mut Findings);

/// Looks at what a network's clients are sent.
pub(super) type FindInAnswer = fn(&Audience<'_>, &BothSent<'_>, &mut Findings);

/// Looks at a whole message.
pub(super) type FindInMessage = fn(&MessageContext<'_>, &mut Findings);

pub(super) enum Find {
    /// Mistakes on these topics, which layouts report.
    Topics(&'static [Topic]),
    /// The same, and what the function finds in a value without mistakes, of the options that this is true of.
    TopicsAndValue(&'static [Topic], Wants, FindInValue),
    /// What the function finds in the value of an option that has no mistake on any topic.
    Value(FindInValue),
    /// The same in the values of the options that this is true of.
    ValueIf(Wants, FindInValue),
    /// What the function finds in single things.
    Atom(FindInAtom),
    /// It looks at the whole plan.
    Plan(FindInPlan),
    /// It looks at these options where clients of a network are sent them, on whatever layer, a reservation's included.
    Sent(&'static [(Protocol, u16)], FindInSent),
    /// It looks at what a network's clients are sent by both families: those of no fleet and those of each.
    Answer(FindInAnswer),
    /// The same, and it looks at the whole plan.
    AnswerAndPlan(FindInAnswer, FindInPlan),
    /// It looks at a whole message, without those that it carries.
    Message(FindInMessage),
    /// The same, and it looks at the values of options wherever they stand.
    MessageAndValue(FindInMessage, Wants, FindInValue),
    /// The same, and the values that it looks at are those of options inside others.
    MessageAndInside(FindInMessage, Wants, FindInValue),
    /// It looks at a request and its reply.
    Exchange(fn(&MessageContext<'_>, &MessageContext<'_>, &mut Findings)),
}

/// An option's value, wherever it came from.
pub(super) struct OptionValue<'v> {
    pub(super) definition: &'v Definition,
    pub(super) octets: &'v [u8],
    pub(super) view: View<'v>,
    pub(super) tree: &'v Tree<'v>,
    /// Its place in the tree; `None` where it is the outermost.
    pub(super) at: Option<usize>,
}

impl<'v> OptionValue<'v> {
    /// Whether it is this option, or one that is the same thing in another protocol.
    pub(super) fn is(&self, id: &str) -> bool {
        self.definition.is(id)
    }

    /// What it means. Where nothing is wrong with its form, it means something.
    pub(super) fn value(&self) -> &Value {
        static NOTHING: Value = Value::Empty;
        self.tree.value(self.at).unwrap_or(&NOTHING)
    }

    /// Hands in the single things in it, those of options inside as well.
    pub(super) fn each_thing(&self, mut hear: impl FnMut(&Thing<'v>)) {
        each_thing(self.view.codebook, self.definition, self.octets, &mut hear);
    }

    /// What the first of these single things comes to, for which it comes to anything.
    pub(super) fn find_thing<T>(&self, mut look: impl FnMut(&Thing<'v>) -> Option<T>) -> Option<T> {
        let mut found = None;
        self.each_thing(|thing| {
            if found.is_none() {
                found = look(thing);
            }
        });
        found
    }

    /// What these of its fields hold, where it is a record and they are single things.
    pub(super) fn record<const N: usize>(&self, names: [&str; N]) -> [Option<Scalar<'v>>; N] {
        let layout = self.view.codebook.layout(self.definition);
        if let Some(found) = scalars::at_fixed_places(layout.root(), self.octets, names) {
            return found;
        }
        let mut found = [None; N];
        self.each_thing(|thing| {
            let at = names.iter().position(|name| thing.is_field && thing.name == Some(name));
            if let Some(at) = at {
                found[at].get_or_insert(thing.scalar);
            }
        });
        found
    }

    /// The only thing in it, where its layout has one.
    pub(super) fn single(&self) -> Option<Scalar<'v>> {
        let layout = self.view.codebook.layout(self.definition);
        let first = || self.find_thing(|thing| Some(thing.scalar));
        let is_one = |mut node: &Node| loop {
            match node {
                Node::Atom(_) => return true,
                Node::Padded(_, inner) | Node::Sized(_, inner) | Node::Optional(inner) => node = &**inner,
                _ => return false,
            }
        };
        match layout.root() {
            node @ Node::Atom(_) => scalars::fixed(node, &mut &*self.octets).or_else(first),
            node if is_one(node) => first(),
            _ => None,
        }
    }

    /// Its text, where it is one.
    pub(super) fn text(&self) -> Option<&str> {
        // Text with nothing wrong is its octets.
        if let Node::Atom(Atom::Run(run, _)) = self.view.codebook.layout(self.definition).root()
            && !matches!(run, Run::Bytes | Run::TextAndOctets)
        {
            return core::str::from_utf8(self.octets).ok();
        }
        if let Scalar::Text(text) = self.single()? { Some(text) } else { None }
    }

    /// The option around it, where there is one.
    pub(super) fn outer(&self) -> Option<&Definition> {
        let outer = self.tree.all[self.at?].inside;
        outer.map_or(Some(self.tree.definition), |outer| self.tree.all[outer].definition)
    }

    /// What that means.
    pub(super) fn outer_value(&self) -> Option<&Value> {
        self.tree.value(self.tree.all[self.at?].inside)
    }

    /// Where its fields stand, from the first of these to the last, in octets of its payload.
    pub(super) fn fields(&self, names: &[&str]) -> Range<usize> {
        let rows = self.view.codebook.explain(self.definition, self.octets).rows;
        let mut fields = rows.iter().filter(|row| names.contains(&&*row.label)).map(|row| &row.octets);
        let Some(first) = fields.next() else { return 0..self.octets.len() };
        first.start..fields.next_back().unwrap_or(first).end
    }

    /// Where its payload begins, counted as its options are.
    pub(super) fn start(&self) -> usize {
        self.at.map_or(0, |at| self.tree.all[at].payload.start)
    }

    /// The options directly inside it.
    pub(super) fn inside(&self) -> impl Iterator<Item = &Inner<'_>> {
        self.tree.inside(self.at)
    }

    /// Whether the message that it stands in comes from a client; `None` where that is not known.
    pub(super) fn is_from_client(&self) -> Option<bool> {
        match self.view.message? {
            (Protocol::V4, kind) => MessageType(kind).is_reply().map(|reply| !reply),
            (Protocol::V6, kind) => Some(!matches!(kind, 2 | 7 | 10 | 13 | 15..=17 | 19 | 21)),
            (Protocol::Ra, _) => None,
        }
    }
}

/// A single thing in an option's octets.
pub(super) struct AtomSeen<'a> {
    pub(super) form: ScalarForm<'a>,
    pub(super) scalar: Scalar<'a>,
}

/// A plan, and what it comes to.
pub(super) struct PlanContext<'p> {
    pub(super) plan: &'p Plan,
    pub(super) compiled: &'p Compiled<'p>,
    /// The reservations with options of their own, by network.
    pub(super) of_reservations: Vec<Vec<&'p plan::Reservation>>,
    /// Which networks are alike.
    pub(super) kinds: Kinds,
}

impl<'p> PlanContext<'p> {
    pub(super) fn new(plan: &'p Plan, compiled: &'p Compiled<'p>) -> Self {
        let mut of_reservations = vec![Vec::new(); plan.networks.len()];
        for row in plan.reservations.telling().filter(|row| row.layer().is_some()) {
            of_reservations[row.network()].push(row);
        }
        Self { plan, compiled, of_reservations, kinds: Kinds::of(compiled) }
    }
}

/// An option that clients of a network are sent.
pub(super) struct SentHere<'p> {
    pub(super) codebook: &'p Codebook,
    pub(super) network: &'p plan::Network,
    pub(super) layer: LayerRef<'p>,
    /// As the plan says it.
    pub(super) sent: &'p plan::Sent,
}

impl SentHere<'_> {
    /// Whether it is one of the protocol's own, of this code.
    pub(super) fn is(&self, protocol: Protocol, code: u16) -> bool {
        self.sent.definition.code == code && self.sent.definition.is_own_of(protocol)
    }
}

impl Check {
    /// Whether it is about this option.
    pub(super) fn picks(&self, definition: &Definition) -> bool {
        match self.rule.about {
            About::Options(ids) => ids.iter().any(|id| definition.is(id)),
            _ => true,
        }
    }

    /// The topics on which it speaks.
    pub(super) fn topics(&self) -> &'static [Topic] {
        match self.find {
            Find::Topics(topics) | Find::TopicsAndValue(topics, ..) => topics,
            _ => &[],
        }
    }
}

/// A DHCPv4 message, written down.
pub(super) const fn v4_message(text: &'static str) -> Example {
    Example::Message(Protocol::V4, text)
}

/// A DHCPv6 message, written down.
pub(super) const fn v6_message(text: &'static str) -> Example {
    Example::Message(Protocol::V6, text)
}

/// A router advertisement or solicitation, written down.
pub(super) const fn ra_message(text: &'static str) -> Example {
    Example::Message(Protocol::Ra, text)
}

/// A DHCPDISCOVER and a DHCPOFFER, with nothing wrong but what these lines add.
macro_rules! v4_exchange {
    ($request:literal, $request_options:literal, $reply:literal, $reply_options:literal) => {
        Example::Exchange(
            Protocol::V4,
            concat!("type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\n", $request, "[options]\n", $request_options),
            concat!(
                "type = \"offer\"\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n",
                $reply,
                "[options]\ndhcp-server-id = \"10.64.0.67\"\naddress-time = \"8h\"\n",
                $reply_options
            ),
        )
    };
}
pub(super) use v4_exchange;

/// A request of DHCPv6 and its reply, written down.
macro_rules! v6_exchange {
    ($request:literal, $reply:literal) => {
        Example::Exchange(Protocol::V6, $request, $reply)
    };
}
pub(super) use v6_exchange;

/// A plan with nothing wrong, around the line that an example is about.
macro_rules! v4_plan {
    ($lines:literal) => {
        v4_plan!($lines, "router = \"10.64.4.1\"\n")
    };
    ($lines:literal, $sent:literal) => {
        crate::finding::Example::Plan(concat!(
            "[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n",
            "[network.control-room]\nsubnet = \"10.64.4.0/23\"\n",
            $lines,
            "[network.control-room.send.v4]\n",
            $sent
        ))
    };
}
pub(super) use v4_plan;

/// A plan with one IPv6 network, which goes on with these lines, and whose addresses may be managed.
macro_rules! v6_plan {
    (managed, $lines:literal) => {
        v6_plan!(concat!($lines, "advertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n"))
    };
    ($lines:expr) => {
        crate::finding::Example::Plan(concat!("[network.mast]\nprefix = \"2001:db8:64:40::/64\"\n", $lines))
    };
}
pub(super) use v6_plan;

/// The same function for both families.
macro_rules! both {
    ($find:ident) => {
        |context, findings| {
            $find::<std::net::Ipv4Addr>(context, findings);
            $find::<std::net::Ipv6Addr>(context, findings);
        }
    };
}
pub(super) use both;
