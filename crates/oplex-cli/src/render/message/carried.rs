//! Messages inside messages.

use oplex::packet::{AnyMessage, MessageOption};

/// As many messages as are drawn inside each other; more relay agents no message passes.
const DEEPEST: usize = 40;

/// The message that another carries, and where it begins in that.
#[derive(Clone, Copy)]
pub(crate) struct Carried<'o> {
    pub(crate) inner: AnyMessage<'o>,
    pub(crate) at: usize,
}

impl<'o> Carried<'o> {
    /// What a message carries that is so deep inside others.
    pub(crate) fn by(message: &AnyMessage<'o>, depth: usize) -> Option<Self> {
        let (inner, at) = message.relayed().filter(|_| depth < DEEPEST)?;
        Some(Self { inner: inner.ok()?, at })
    }

    /// Whether this is the option that it stands in.
    pub(crate) fn stands_in(&self, option: &MessageOption<'_>) -> bool {
        option.position(0) == self.at
    }
}
