//! Values made up for any layout.

use oplex::layout::{
    Atom, BitField, Bound, Head, Layout, Meaning, Nested, Nesting, Node, Number, Prefix6, Route4, Run, Slots,
    SubOption, Value,
};

/// A value for a layout, the same one for the same seed.
pub(crate) fn value(layout: &Layout, nesting: &dyn Nesting, seed: u64) -> Value {
    Maker { state: seed | 1, nesting, slots: Slots::default(), depth: 0 }.node(layout.root())
}

struct Maker<'n> {
    state: u64,
    nesting: &'n dyn Nesting,
    slots: Slots,
    depth: usize,
}

/// A code that no chapter has an option for.
const UNKNOWN: u16 = 253;

impl Maker<'_> {
    fn random(&mut self) -> u64 {
        // xorshift64*: no more than a source of variety.
        self.state ^= self.state >> 12;
        self.state ^= self.state << 25;
        self.state ^= self.state >> 27;
        self.state.wrapping_mul(0x2545_f491_4f6c_dd1d)
    }

    fn up_to(&mut self, most: usize) -> usize {
        (self.random() >> 16) as usize % (most + 1)
    }

    fn node(&mut self, node: &Node) -> Value {
        match node {
            Node::Atom(atom) => self.atom(atom),
            Node::Record(fields) => {
                let mut record = Vec::new();
                for field in fields.iter().filter(|field| !matches!(field.node, Node::Zeros(_))) {
                    // Once one optional part is absent, so are those after it.
                    if matches!(field.node, Node::Optional(_)) && self.up_to(2) == 0 {
                        break;
                    }
                    let value = self.node(&field.node);
                    if let (Some(slot), Some(number)) = (field.keep, number(&value)) {
                        self.slots[usize::from(slot)] = number;
                    }
                    record.push((field.name.clone(), value));
                }
                Value::Record(record)
            }
            Node::Repeat(item, count) => {
                let more = count.max.map_or(3, |max| max - count.min).min(3);
                let length = count.min + self.up_to(more);
                Value::List((0..length).map(|_| self.node(item)).collect())
            }
            Node::Optional(inner) | Node::Sized(_, inner) => self.node(inner),
            Node::Options(nested) => self.options(nested),
            Node::Choice(choice) => match choice.arm(choice.by.pick(&self.slots)) {
                Some(arm) => self.node(arm),
                None => Value::Empty,
            },
            Node::Pairs(pairs) => {
                let mut record = Vec::new();
                for key in &pairs.keys {
                    if key.required || self.up_to(1) == 0 || record.is_empty() {
                        record.push((key.name.clone(), self.atom(&key.atom)));
                    }
                }
                Value::Record(record)
            }
            Node::Padded(_, inner) => self.node(inner),
            Node::Zeros(_) => Value::Empty,
            Node::Bits(fields) => {
                Value::Record(fields.iter().map(|field| (field.name.clone(), self.bits(field))).collect())
            }
            other => unreachable!("nothing generates {other:?} yet"),
        }
    }

    fn options(&mut self, nested: &Nested) -> Value {
        let least = nested.count.min;
        let chapter = self.nesting.chapter(nested, None);
        let names: Vec<String> = self.nesting.names(chapter).into_iter().map(str::to_owned).collect();
        self.depth += 1;
        let mut options = Vec::new();
        if names.is_empty() || self.depth > 3 {
            let octets = self.octets(1, 5);
            options.extend((0..least).map(|_| SubOption {
                code: UNKNOWN,
                name: None,
                value: Value::Bytes(octets.clone()),
            }));
        } else {
            for _ in 0..least + self.up_to(2) {
                let name = &names[self.up_to(names.len() - 1)];
                let code = self.nesting.code(chapter, name).unwrap();
                let layout = self.nesting.definition(chapter, code).unwrap().layout;
                let outer = std::mem::take(&mut self.slots);
                let value = self.node(layout.root());
                self.slots = outer;
                options.push(SubOption { code, name: Some(name.as_str().into()), value });
            }
        }
        self.depth -= 1;
        Value::Options(options)
    }

    fn octets(&mut self, least: usize, most: usize) -> Vec<u8> {
        let length = least + self.up_to(most - least);
        (0..length).map(|_| self.random() as u8).collect()
    }

    fn word(&mut self, length: usize) -> String {
        let letters = b"abcdefghijklmnopqrstuvwxyz0123456789";
        (0..length).map(|_| char::from(letters[self.up_to(letters.len() - 1)])).collect()
    }

    fn name(&mut self) -> String {
        let count = 1 + self.up_to(3);
        let labels: Vec<String> = (0..count)
            .map(|_| {
                let n = 1 + self.up_to(9);
                self.word(n)
            })
            .collect();
        labels.join(".")
    }

    fn atom(&mut self, atom: &Atom) -> Value {
        match atom {
            Atom::Number(form) => self.number(form),
            Atom::Bool => Value::Bool(self.up_to(1) == 1),
            Atom::Seconds(Some(bound)) => Value::Seconds(self.within(Some(*bound), 0, u32::MAX.into()) as u32),
            Atom::Seconds(None) => {
                Value::Seconds(if self.up_to(9) == 0 { u32::MAX } else { self.random() as u32 >> 1 })
            }
            Atom::Ipv4(_) => Value::Ipv4((self.random() as u32).into()),
            Atom::Netmask => Value::Ipv4(u32::MAX.unbounded_shl(self.up_to(32) as u32).into()),
            Atom::Ipv6(_) => Value::Ipv6((u128::from(self.random()) << 64 | u128::from(self.random())).into()),
            Atom::Mac => Value::Mac(self.octets(6, 6).try_into().unwrap()),
            Atom::Uuid | Atom::Guid => Value::Uuid(self.octets(16, 16).try_into().unwrap()),
            Atom::Duid => Value::Bytes(self.octets(3, 20)),
            Atom::Empty => Value::Empty,
            Atom::Name => Value::Name(self.name()),
            Atom::PartialName => {
                let name = self.name();
                Value::Name(match self.up_to(2) {
                    0 => String::new(),
                    1 => name + ".",
                    _ => name,
                })
            }
            Atom::Names(_) => {
                let tail = self.name();
                let count = 1 + self.up_to(2);
                let under = |maker: &mut Self| Value::Name(format!("{}.{tail}", maker.word(4)));
                Value::List((0..count).map(|_| under(self)).collect())
            }
            Atom::Run(run, count) => {
                let length = count.min + self.up_to(count.max.map_or(12, |max| (max - count.min).min(12)));
                match run {
                    Run::Bytes if self.up_to(2) == 0 => Value::Bytes(self.word(length).into_bytes()),
                    Run::Bytes => Value::Bytes(self.octets(length, length)),
                    Run::Uri => Value::Text(format!("https://{}/{}", self.name(), self.word(length))),
                    Run::DottedName => Value::Text(self.name()),
                    Run::Utf8 if length > 3 => Value::Text(format!("é, {}", self.word(length - 4))),
                    Run::Text if length > 3 && count.max.is_none() => {
                        Value::Text(format!("a b/{}", self.word(length - 4)))
                    }
                    Run::TextAndOctets if length > 3 => {
                        Value::Raw([b"a \0".to_vec(), self.octets(length - 3, length - 3)].concat())
                    }
                    Run::Text | Run::Utf8 | Run::TextAndOctets => Value::Text(self.word(length)),
                    other => unreachable!("nothing generates {other:?} yet"),
                }
            }
            Atom::Route4 => {
                let length = self.up_to(32) as u8;
                let kept = u32::MAX.unbounded_shl(u32::from(32 - length));
                let destination = (self.random() as u32 & kept).into();
                Value::Route4(Route4 { destination, length, router: (self.random() as u32).into() })
            }
            Atom::Ipv6Head(head) => {
                let octets = match head {
                    Head::Octets(count) => *count as u32,
                    _ => 8 * self.up_to(2) as u32,
                };
                Value::Ipv6(
                    ((u128::from(self.random()) << 64 | 1 << 64) & u128::MAX.unbounded_shl(128 - 8 * octets)).into(),
                )
            }
            Atom::Prefix6 => {
                let length = self.up_to(128) as u8;
                let kept = u128::MAX.unbounded_shl(u32::from(128 - length));
                Value::Prefix6(Prefix6 { prefix: ((u128::from(self.random()) << 64) & kept).into(), length })
            }
            other => unreachable!("nothing generates {other:?} yet"),
        }
    }

    fn within(&mut self, bound: Option<Bound>, min: i128, max: i128) -> i128 {
        let bound = bound.unwrap_or(Bound { min: None, max: None });
        let (min, max) = (bound.min.unwrap_or(min).max(min), bound.max.unwrap_or(max).min(max));
        min + i128::from(self.random()) % (max - min + 1)
    }

    fn number(&mut self, form: &Number) -> Value {
        let bits = 8 * form.octets as u32;
        match &form.meaning {
            Meaning::Member(of) if of.open && self.up_to(3) == 0 => {
                let number = self.within(form.bound, 0, (1i128 << bits) - 1) as u64;
                Value::Member(number, of.name_of(number).map(Into::into))
            }
            Meaning::Member(of) => {
                let (number, name) = &of.members[self.up_to(of.members.len() - 1)];
                Value::Member(*number, Some(name.clone()))
            }
            Meaning::Flags(of) => {
                let set: Vec<_> = of.members.iter().filter(|_| self.up_to(1) == 0).collect();
                let named = set.iter().fold(0, |named, (bit, _)| named | bit);
                // What has no name is shown as a number after those that have one.
                let free = !of.members.iter().fold(0, |bits, (bit, _)| bits | bit) & (u64::MAX >> (64 - bits));
                let unnamed = if of.open { self.random() & free } else { 0 };
                let shown = (unnamed != 0).then(|| format!("{unnamed:#04x}").into());
                let names = set.into_iter().map(|(_, name)| name.clone()).chain(shown);
                Value::Flags(named | unnamed, names.collect())
            }
            Meaning::Plain | Meaning::Unit(_) if form.signed => {
                Value::Integer(self.within(form.bound, -(1 << (bits - 1)), (1 << (bits - 1)) - 1) as i64)
            }
            Meaning::Plain | Meaning::Unit(_) | Meaning::Code(_) => {
                Value::Number(self.within(form.bound, 0, (1i128 << bits) - 1) as u64)
            }
            other => unreachable!("nothing generates {other:?} yet"),
        }
    }

    fn bits(&mut self, field: &BitField) -> Value {
        if field.is_reserved() {
            return Value::Number(0);
        }
        if let Some(of) = &field.of {
            let (number, name) = &of.members[self.up_to(of.members.len() - 1)];
            return Value::Member(*number, Some(name.clone()));
        }
        let whole = field.width - field.fraction.unwrap_or(0);
        let (min, max) =
            if field.signed { (-(1i128 << (whole - 1)), (1 << (whole - 1)) - 1) } else { (0, (1 << whole) - 1) };
        let number = self.within(field.bound, min, max);
        match field.fraction {
            Some(_) => Value::Decimal(number as f64),
            None if field.signed => Value::Integer(number as i64),
            None => Value::Number(number as u64),
        }
    }
}

fn number(value: &Value) -> Option<u64> {
    match value {
        Value::Number(number) | Value::Member(number, _) | Value::Flags(number, _) => Some(*number),
        _ => None,
    }
}
