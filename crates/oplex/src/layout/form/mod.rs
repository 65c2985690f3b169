//! What a layout is once it is parsed, and what can be sent from that alone.

pub(in crate::layout) mod atom;
pub(in crate::layout) mod node;
pub(in crate::layout) mod selector;
pub(in crate::layout) mod unit;
pub(in crate::layout) mod validate;
