//! A message as its rules see it.

use std::borrow::Cow;
use std::cell::OnceCell;
use std::ops::Range;

use smallvec::SmallVec;

use crate::codebook::{Codebook, Condition, Definition, MessageBits, Picked};
use crate::family::Protocol;
use crate::layout::{Atom, NestedOptions, Node, Value};
use crate::octets;
use crate::packet::v4::Element;
use crate::packet::{AnyMessage, Message as _, MessageOption, ra, v4, v6};

/// A message, and what its rules ask about most.
pub(super) struct MessageContext<'m> {
    pub(super) message: AnyMessage<'m>,
    pub(super) codebook: &'m Codebook,
    /// The number of its type; `None` for BOOTP.
    pub(super) kind: Option<u8>,
    /// The type of the message around this one, and the code of the option of that which carries it.
    pub(super) around: Option<(Option<(Protocol, u8)>, u16)>,
    /// Its options and those inside them, in the order of their octets.
    pub(super) options: SmallVec<[Occurrence<'m>; ROOM]>,
    /// Where the first option of each code below 256 stands at the top, counted from 1; 0 where none does, as rules look for many that
    /// are not there, and the greatest number for a place beyond it.
    firsts: [u8; 256],
    /// What is so of some option: rules that look for nothing else need not look at each.
    pub(super) marks: Marks,
    /// What else is so of it, where codebooks ask that.
    condition: Option<Condition>,
    /// Its type, in that condition.
    types: MessageBits,
    header: OnceCell<v4::Header>,
    odd_framing: OnceCell<bool>,
    /// Where the last option ends, unless one was split.
    end: Option<usize>,
}

/// What is so of some option at the top of a message.
#[derive(Default)]
pub(super) struct Marks {
    /// Its book says something against messages of this type.
    pub(super) is_against_message: bool,
    /// It is of no use, or no codebook knows it.
    pub(super) is_not_in_use: bool,
    /// It belongs inside another.
    pub(super) is_misplaced: bool,
    /// It came in several parts.
    pub(super) is_split: bool,
    /// Another of its code may be there.
    pub(super) is_repeated: bool,
}

/// An option of a message, at its top or inside another.
pub(super) struct Occurrence<'m> {
    pub(super) code: u16,
    pub(super) definition: Option<&'m Definition>,
    /// The option it stands in, by its place among all; `None` at the top.
    pub(super) inside: Option<usize>,
    /// All of it with its code and length, in octets of the message; of a split one its first part.
    pub(super) around: Range<usize>,
    /// Its octets, joined if it was split.
    pub(super) octets: Cow<'m, [u8]>,
    /// Its value, decoded when a rule wants it.
    /// In a box, as most are never decoded, and all are moved.
    value: OnceCell<Option<Box<Value>>>,
    /// Whether it stands in several parts.
    pub(super) is_split: bool,
    /// Whether its book says something against messages of this type.
    pub(super) is_against_message: bool,
}

impl Occurrence<'_> {
    /// Whether it is an option of this protocol, at the top or inside: codes of vendors and others mean something else.
    pub(super) fn is(&self, protocol: Protocol, code: u16) -> bool {
        self.code == code && self.is_own_of(protocol)
    }

    /// Whether it is one of the protocol's own options, known or not.
    pub(super) fn is_own_of(&self, protocol: Protocol) -> bool {
        self.definition.map_or(self.inside.is_none(), |definition| definition.is_own_of(protocol))
    }
}

/// Options that most messages have no more of.
const ROOM: usize = 24;

fn condition_of(message: &AnyMessage<'_>) -> Option<Condition> {
    let AnyMessage::V4(message) = message else { return None };
    let header = message.header();
    match [header.yiaddr, header.ciaddr].map(|address| !address.is_unspecified()) {
        [true, _] => Some(Condition::Leasing),
        // An acknowledgement that names the client's own address and gives none.
        [false, true] => Some(Condition::Informing),
        [false, false] => None,
    }
}

impl<'m> MessageContext<'m> {
    /// A message whose options are to be added.
    pub(super) fn new(codebook: &'m Codebook, message: AnyMessage<'m>) -> Self {
        let (kind, condition) = (message.type_number(), condition_of(&message));
        let mut types = MessageBits::default();
        types.add(None, kind.into_iter());
        types.add(condition, kind.into_iter());
        Self {
            message,
            codebook,
            kind,
            condition,
            types,
            around: None,
            options: SmallVec::new(),
            firsts: [0; 256],
            marks: Marks::default(),
            header: OnceCell::new(),
            odd_framing: OnceCell::new(),
            end: Some(0),
        }
    }

    /// Adds an option that this is the definition of.
    #[inline(always)]
    pub(super) fn add(
        &mut self,
        option: &MessageOption<'m>,
        definition: Option<(&'m Definition, &'m Picked)>,
        octets: Cow<'m, [u8]>,
    ) {
        let (code, around, is_split) = (option.code(), option.around(), option.is_split());
        let is_against_message = self.mark(code, definition.map(|(_, picked)| picked), is_split);
        self.end = self.end.filter(|_| !is_split).map(|_| around.end);
        let value = OnceCell::new();
        self.options.push(Occurrence {
            code,
            definition: definition.map(|(definition, _)| definition),
            inside: None,
            around,
            octets,
            value,
            is_split,
            is_against_message,
        });
    }

    /// Notes what is so of the next option, and says whether its book says something against messages of this type.
    #[inline(always)]
    fn mark(&mut self, code: u16, picked: Option<&Picked>, is_split: bool) -> bool {
        let here = (self.options.len() + 1).min(usize::from(u8::MAX)) as u8;
        match self.firsts.get_mut(usize::from(code)) {
            Some(first) if *first == 0 => *first = here,
            _ => self.marks.is_repeated = true,
        }
        self.marks.is_split |= is_split;
        let Some(picked) = picked else {
            self.marks.is_not_in_use = true;
            return false;
        };
        let is_against_message = picked.messages.meet(self.types);
        self.marks.is_not_in_use |= picked.is_not_in_use;
        self.marks.is_misplaced |= picked.is_only_inside;
        self.marks.is_against_message |= is_against_message;
        is_against_message
    }

    /// Adds what stands inside the option that was added last.
    pub(super) fn add_nested(&mut self, option: &MessageOption<'m>, nested: &mut NestedOptions) {
        let top = self.options.len() - 1;
        for one in nested.drain(..) {
            let around = option.position(one.around.start)..option.position(one.around.end.saturating_sub(1)) + 1;
            let octets = match option.octets() {
                Some(whole) => Cow::Borrowed(whole.get(one.payload).unwrap_or_default()),
                None => Cow::Owned(option.joined().get(one.payload).unwrap_or_default().to_vec()),
            };
            self.options.push(Occurrence {
                code: one.code,
                definition: self.codebook.nested(one.chapter, one.code),
                inside: Some(one.inside.map_or(top, |at| top + 1 + at)),
                around,
                octets,
                is_against_message: false,
                value: OnceCell::new(),
                is_split: false,
            });
        }
    }

    /// Whether it is one that a fact of a codebook is about.
    pub(super) fn fulfils(&self, when: Option<Condition>) -> bool {
        when.is_none() || when == self.condition
    }

    /// An option that was split, as it stands in the message.
    pub(super) fn split(&self, place: &Occurrence<'_>) -> Option<MessageOption<'m>> {
        if !place.is_split {
            return None;
        }
        self.message.options().into_iter().find(|option| option.at() == place.around.start)
    }

    pub(super) fn protocol(&self) -> Protocol {
        self.message.protocol()
    }

    /// The message and its header, where it is of DHCPv4.
    pub(super) fn v4(&self) -> Option<(v4::Message<'m>, &v4::Header)> {
        let AnyMessage::V4(message) = self.message else { return None };
        Some((message, self.header.get_or_init(|| message.header())))
    }

    /// The message, where it is of DHCPv6.
    pub(super) fn v6(&self) -> Option<v6::Message<'m>> {
        if let AnyMessage::V6(message) = self.message { Some(message) } else { None }
    }

    /// The message, where it is a router advertisement or solicitation.
    pub(super) fn ra(&self) -> Option<ra::Message<'m>> {
        if let AnyMessage::Ra(message) = self.message { Some(message) } else { None }
    }

    /// Whether it is of this type.
    pub(super) fn is(&self, kind: u8) -> bool {
        self.kind == Some(kind)
    }

    /// The options at the top.
    pub(super) fn top(&self) -> impl Iterator<Item = &Occurrence<'m>> + Clone {
        self.options.iter().filter(|place| place.inside.is_none())
    }

    /// Where the first option of this code at the top stands among all.
    pub(super) fn position(&self, code: u16) -> Option<usize> {
        match self.firsts.get(usize::from(code)) {
            Some(0) => None,
            Some(first) if *first < u8::MAX => Some(usize::from(*first) - 1),
            _ => self.options.iter().position(|place| place.code == code && place.inside.is_none()),
        }
    }

    /// The first option of this code at the top.
    pub(super) fn option(&self, code: u16) -> Option<&Occurrence<'m>> {
        self.options.get(self.position(code)?)
    }

    pub(super) fn has(&self, code: u16) -> bool {
        self.position(code).is_some()
    }

    /// What an option holds.
    pub(super) fn value<'c>(&'c self, place: &'c Occurrence<'m>) -> Option<&'c Value> {
        let decode = || self.codebook.decode(place.definition?, &place.octets).0.map(Box::new);
        place.value.get_or_init(decode).as_deref()
    }

    /// The number in the option of this code at the top.
    pub(super) fn number(&self, code: u16) -> Option<u64> {
        let place = self.option(code)?;
        // Most are numbers and nothing else, which need not be decoded.
        let layout = self.codebook.layout(place.definition?);
        match layout.root() {
            Node::Atom(Atom::Seconds(_)) if place.octets.len() == 4 => Some(octets::number(&place.octets)),
            Node::Atom(Atom::Number(number)) if !number.signed && place.octets.len() == number.octets => {
                Some(octets::number(&place.octets))
            }
            _ => self.value(place)?.number(),
        }
    }

    /// What it is called in a finding: `a DHCPOFFER`, `an Advertise`.
    pub(super) fn called(&self) -> String {
        let name = match self.message {
            AnyMessage::V4(message) => message.message_type().map(|kind| kind.to_string()),
            AnyMessage::V6(message) => Some(message.message_type().to_string()),
            AnyMessage::Ra(message) => {
                let advertisement = message.advertisement().is_some();
                Some(if advertisement { "router advertisement" } else { "router solicitation" }.to_owned())
            }
        };
        match name {
            None => "a message without a type".to_owned(),
            Some(name) if name.starts_with("a message") => name,
            Some(name) if name.starts_with(['A', 'I']) => format!("an {name}"),
            Some(name) => format!("a {name}"),
        }
    }

    /// How one of the protocol's options is called: `v4:54 dhcp-server-id`.
    pub(super) fn label(&self, code: u16) -> String {
        self.codebook.label(self.protocol(), code)
    }

    /// Octets of the message, counted from where it was read.
    pub(super) fn at(&self, octets: Range<usize>) -> Range<usize> {
        let base = self.message.base();
        base + octets.start..base + octets.end
    }

    /// An option with its code and length, counted from where the message was read.
    pub(super) fn around(&self, place: &Occurrence<'_>) -> Range<usize> {
        self.at(place.around.clone())
    }

    /// All of the message.
    pub(super) fn whole(&self) -> Range<usize> {
        self.at(0..self.message.octets().len())
    }

    /// Whether it comes from a server, by its type, or by its header when it has none.
    pub(super) fn is_reply(&self) -> bool {
        let Some((_, header)) = self.v4() else { return false };
        self.v4_type().and_then(v4::MessageType::is_reply).unwrap_or(header.op == 2)
    }

    /// The type of a message of DHCPv4.
    pub(super) fn v4_type(&self) -> Option<v4::MessageType> {
        self.kind.map(v4::MessageType).filter(|_| self.protocol() == Protocol::V4)
    }

    /// What option 52 says, as its bits; 0 where it is not there.
    pub(super) fn overload(&self) -> u8 {
        match self.message {
            AnyMessage::V4(message) if self.has(52) => message.overload(),
            _ => 0,
        }
    }

    /// Whether its last option ends where the message does.
    pub(super) fn is_filled(&self) -> bool {
        self.end == Some(self.message.octets().len())
    }

    /// Whether anything stands in a message of DHCPv4 but options, pads, and an end of each field with nothing behind it.
    pub(super) fn has_odd_framing(&self) -> bool {
        let AnyMessage::V4(message) = self.message else { return false };
        let octets = message.octets();
        *self.odd_framing.get_or_init(|| {
            // Where options stand in one field and each in one part, what follows the last is looked at alone.
            let rest = self.end.filter(|_| !self.has(52)).map_or(&[][..], |end| &octets[end..]);
            let end = rest.iter().position(|octet| *octet != 0);
            if let Some((255, after)) = end.and_then(|end| rest[end..].split_first())
                && after.iter().fold(0, |all, octet| all | octet) == 0
            {
                return false;
            }
            message.elements().any(|element| match element {
                Element::Part(_) | Element::Pads(_) => false,
                Element::End { octets: end, .. } => octets[end].iter().skip(1).any(|octet| *octet != 0),
                Element::NoEnd { .. } | Element::Overrun { .. } => true,
            })
        })
    }
}
