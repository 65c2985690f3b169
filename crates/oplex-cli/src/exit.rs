//! How the command ends.

use std::fmt;
use std::io::{self, Write};
use std::path::Path;

use crate::render::clean::{self, Clean};

/// Done, and nothing at severity error.
pub(crate) const DONE: u8 = 0;
/// Done, and there are errors.
pub(crate) const ERRORS: u8 = 1;
/// It could not be done.
pub(crate) const CANNOT: u8 = 2;

/// Ended by a signal, as shells say it of an interrupt.
const TOLD_TO_END: i32 = 130;

/// Why something could not be done.
#[derive(Debug)]
pub(crate) enum Failure {
    /// With a reason for people, which may be several lines.
    Because(String),
    /// With findings that are drawn already.
    Drawn(String),
    /// Output could not be written.
    Output(io::Error),
}

/// What a command comes to: an exit code, or why there is none.
pub(crate) type Outcome = Result<u8, Failure>;

/// Fails with this reason.
pub(crate) fn because<T>(why: impl fmt::Display) -> Result<T, Failure> {
    Err(Failure::Because(why.to_string()))
}

impl From<io::Error> for Failure {
    fn from(error: io::Error) -> Self {
        Self::Output(error)
    }
}

impl From<oplex_io::files::FileError> for Failure {
    fn from(error: oplex_io::files::FileError) -> Self {
        let hint = meant(&error.path).map_or_else(String::new, |near| format!("; did you mean {near}?"));
        Self::Because(format!("{error}{hint}"))
    }
}

/// A file of nearly the same name beside one that is not there.
fn meant(path: &Path) -> Option<String> {
    if path.exists() {
        return None;
    }
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    // What all files of a kind end in makes no two names alike.
    let ending = path.extension().map_or_else(String::new, |ending| format!(".{}", ending.to_string_lossy()));
    let name = path.file_stem()?.to_str()?;
    let beside = std::fs::read_dir(folder).ok()?.take(BESIDE);
    let beside = beside.filter_map(|entry| Some(entry.ok()?.file_name().to_str()?.strip_suffix(&ending)?.to_owned()));
    let beside: Vec<String> = beside.collect();
    let near = oplex::nearest::nearest(name, beside.iter().map(String::as_str))?;
    let near = format!("{near}{ending}");
    Some(clean::line(&path.with_file_name(near).display().to_string()).into_owned())
}

/// Where output goes. When it cannot be written the command goes on all the same, as its verdict is what counts: a reader that has
/// seen enough must not turn errors into success.
pub(crate) struct Out<W: Write> {
    to: Clean<W>,
    failed: Option<io::Error>,
    /// The first line, to be said elsewhere when the output is lost.
    first: Vec<u8>,
    /// Whether nothing is written behind the first line, and whether that has ended.
    first_alone: bool,
    ended: bool,
}

/// As many files are looked at for one of nearly the same name.
const BESIDE: usize = 1000;

/// As much of the first line as is kept.
const FIRST: usize = 200;

impl<W: Write> Out<W> {
    /// `first_alone` passes the first line alone, which is the answer.
    pub(crate) fn new(to: W, first_alone: bool) -> Self {
        Self { to: Clean::new(to), failed: None, first: Vec::new(), first_alone, ended: false }
    }

    /// The exit code, given that of the command: a full disk is a failure, unless errors were found.
    pub(crate) fn finish(mut self, code: u8, err: &mut dyn Write) -> u8 {
        if self.failed.is_none() {
            self.failed = self.to.end().err();
        }
        match self.failed {
            None => code,
            // Whoever reads the output has seen enough.
            Some(error) if error.kind() == io::ErrorKind::BrokenPipe => code,
            Some(error) => {
                let first = String::from_utf8_lossy(&self.first);
                let first = first.lines().next().unwrap_or_default();
                let _ = writeln!(err, "oplex: the output cannot be written: {}", oplex_io::files::reason(&error));
                let _ = writeln!(err, "It begins: {}", clean::line(&anstream::adapter::strip_str(first).to_string()));
                if code == DONE { CANNOT } else { code }
            }
        }
    }
}

impl<W: Write> Write for Out<W> {
    fn write(&mut self, octets: &[u8]) -> io::Result<usize> {
        let room = FIRST.saturating_sub(self.first.len()).min(octets.len());
        self.first.extend_from_slice(&octets[..room]);
        let all = octets.len();
        let octets = match octets.iter().position(|octet| *octet == b'\n').filter(|_| self.first_alone) {
            _ if self.ended => return Ok(all),
            Some(end) => {
                self.ended = true;
                &octets[..=end]
            }
            None => octets,
        };
        if self.failed.is_none() {
            match self.to.write(octets) {
                Ok(written) if self.ended => return Ok(if written == octets.len() { all } else { written }),
                Ok(written) => return Ok(written),
                Err(error) if error.kind() == io::ErrorKind::Interrupted => return Err(error),
                Err(error) => self.failed = Some(error),
            }
        }
        Ok(all)
    }

    fn flush(&mut self) -> io::Result<()> {
        if self.failed.is_none() {
            self.failed = self.to.flush().err();
        }
        Ok(())
    }
}

/// When the command is asked to end from here on, it takes away what it has begun to write.
pub(crate) fn leave_nothing_half_written() {
    // Where no handler can be set, what is begun stays behind, under a name that says whose it is.
    let _ = ctrlc::set_handler(|| {
        oplex_io::staged::discard();
        std::process::exit(TOLD_TO_END);
    });
}

/// The exit code of an outcome; what went wrong is said on `err`.
pub(crate) fn code(outcome: Outcome, err: &mut dyn Write) -> u8 {
    match outcome {
        Ok(code) => code,
        Err(Failure::Output(error)) => {
            let _ = writeln!(err, "oplex: the output cannot be written: {}", oplex_io::files::reason(&error));
            CANNOT
        }
        Err(Failure::Because(why)) => {
            let _ = writeln!(err, "oplex: {}", clean::lines(&why));
            CANNOT
        }
        Err(Failure::Drawn(why)) => {
            let _ = write!(err, "oplex: {why}");
            CANNOT
        }
    }
}
