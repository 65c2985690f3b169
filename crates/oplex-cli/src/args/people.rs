//! Which output is for people.

use super::{CheckFormat, Command, Format, Lab, ShowFormat};

impl Command {
    /// Whether what it writes is for people to read, and not for programs or to be pasted.
    pub(crate) fn is_for_people(&self) -> bool {
        let form = match self {
            Self::Encode(_) | Self::New(_) | Self::Editor(_) | Self::Shell(_) => return false,
            Self::Report(_) | Self::Tour(_) => return true,
            Self::Check(args) => return args.format == CheckFormat::Text && !args.diff,
            Self::Show(args) => return args.format == ShowFormat::Text && !args.svg && args.option.is_none(),
            Self::Lookup(args) => &args.format,
            Self::Decode(args) => &args.format,
            Self::Diff(args) => &args.format,
            Self::Rehearse(args) => &args.format,
            Self::Publish(args) => &args.format,
            Self::History(args) => &args.format,
            Self::Revert(args) => &args.format,
            Self::Verify(args) => &args.format,
            Self::Audit(args) => &args.format,
            Self::Probe(args) => &args.format,
            Self::Rules(args) => &args.format,
            Self::Lab(Lab::Run(args)) => &args.format,
            Self::Lab(Lab::Serve(args)) => &args.format,
            Self::Lab(Lab::Client(args)) => &args.format,
            Self::Lab(Lab::Load(args)) => &args.format,
        };
        form.format == Format::Text
    }
}
