//! The few styles there are. Whether they reach the terminal is decided where the output goes.

use std::fmt;

use anstyle::{AnsiColor, Style};

pub(crate) const STRONG: Style = Style::new().bold();
pub(crate) const DIM: Style = Style::new().dimmed();
pub(crate) const GOOD: Style = AnsiColor::Green.on_default().bold();
/// Green that fills, which is too bright where it is bold.
pub(crate) const PLENTY: Style = AnsiColor::Green.on_default();
pub(crate) const BAD: Style = AnsiColor::Magenta.on_default().bold();
pub(crate) const ODD: Style = AnsiColor::Yellow.on_default().bold();
pub(crate) const AID: Style = AnsiColor::Cyan.on_default();

/// `text` in a style.
pub(crate) fn in_style(style: Style, text: impl fmt::Display) -> String {
    format!("{style}{text}{style:#}")
}
