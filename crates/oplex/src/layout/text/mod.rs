//! Between the text of a layout and its checked form.

pub(in crate::layout) mod lex;
pub(in crate::layout) mod parse;
pub(in crate::layout) mod parse_parts;
pub(in crate::layout) mod print;
