//! Messages inside messages.

use oplex::packet::{AnyMessage, MessageOption};

/// As many messages as are drawn inside each other; more relay agents no message passes.
pub(super) const DEEPEST: usize = 40;

/// The message that an option carries, and where it begins in that which carries it.
pub(super) fn carried<'o>(message: &AnyMessage<'o>, option: &MessageOption<'o>) -> Option<(AnyMessage<'o>, usize)> {
    let (inner, at) = message.relayed()?;
    let inner = inner.ok().filter(|_| option.place(0) == at)?;
    Some((inner, at))
}
