//! What can be typed of shells.

use std::path::PathBuf;

use clap::ValueEnum;

#[derive(Debug, clap::Args)]
pub(crate) struct Shell {
    /// The shell for which to write completions, or man for manual pages
    #[arg(value_enum)]
    pub(crate) kind: ShellKind,
    /// Write a manual page for each command into this folder
    #[arg(long, value_name = "DIR")]
    pub(crate) to: Option<PathBuf>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum ShellKind {
    Bash,
    Zsh,
    Fish,
    Elvish,
    Man,
}

impl ShellKind {
    pub(crate) fn name(self) -> &'static str {
        match self {
            Self::Bash => "bash",
            Self::Zsh => "zsh",
            Self::Fish => "fish",
            Self::Elvish => "elvish",
            Self::Man => "man",
        }
    }
}
