//! How far a long check has come, on a terminal: nothing in the first second, then a bar that goes away at the end.

use std::io::{self, IsTerminal as _, Write as _};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::mpsc::{self, RecvTimeoutError};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use oplex_io::capture::Progress;

/// Work that takes no longer than this is not worth a bar.
const PATIENCE: Duration = Duration::from_secs(1);
const TICK: Duration = Duration::from_millis(100);

/// Whether nothing is shown.
static QUIET: AtomicBool = AtomicBool::new(false);

/// Shows nothing from now on, where that is wanted.
pub(crate) fn set_quiet(quiet: bool) {
    QUIET.store(quiet, Ordering::Relaxed);
}

/// What is being done just now.
#[derive(Debug, Default)]
pub(crate) struct Watch(Mutex<State>);

#[derive(Debug, Default, Clone)]
struct State {
    what: String,
    done: usize,
    of: usize,
    /// Since when this is done.
    since: Option<Instant>,
    reading: Option<Reading>,
}

/// A capture that is read.
#[derive(Debug, Clone)]
struct Reading {
    progress: Arc<Progress>,
    since: Instant,
    /// The octets of all files; 0 where that is not known.
    of: u64,
}

impl Reading {
    /// `312 MB of 1024 MB, 250 MB a second, 3 s left`, with how many thousandths that is.
    fn text(&self) -> (String, usize) {
        let done = self.progress.octets.load(Ordering::Relaxed);
        let seconds = self.since.elapsed().as_secs_f64().max(0.001);
        let (rate, megabytes) = (done as f64 / seconds, |octets: f64| format!("{:.0} MB", octets / 1e6));
        let speed = format!("{} a second", megabytes(rate));
        if self.of == 0 || rate == 0.0 {
            return (format!("{}, {speed}", megabytes(done as f64)), 0);
        }
        let left = self.of.saturating_sub(done) as f64 / rate;
        let text = format!("{} of {}, {speed}, {left:.0} s left", megabytes(done as f64), megabytes(self.of as f64));
        (text, (done.min(self.of) * 1000 / self.of) as usize)
    }
}

impl Watch {
    /// Begins work of unknown length.
    pub(crate) fn now(&self, what: String) {
        self.set(State { what: super::clean::line(&what).into_owned(), ..State::default() });
    }

    /// So many of so many things are done.
    pub(crate) fn count(&self, what: &str, done: usize, of: usize) {
        self.set(State { what: what.to_owned(), done, of, ..State::default() });
    }

    /// So many rules have looked at the plan.
    pub(crate) fn rules(&self, done: usize, of: usize) {
        self.count("checking by rules", done, of);
    }

    /// Captures of so many octets are read, 0 where that is not known.
    pub(crate) fn reading(&self, progress: &Arc<Progress>, of: u64) {
        let reading = Reading { progress: Arc::clone(progress), since: Instant::now(), of };
        self.set(State { reading: Some(reading), ..State::default() });
    }

    fn set(&self, mut state: State) {
        if let Ok(mut known) = self.0.lock() {
            let same = known.what == state.what && known.since.is_some();
            state.since = if same { known.since } else { Some(Instant::now()) };
            *known = state;
        }
    }

    fn state(&self) -> State {
        self.0.lock().map(|state| state.clone()).unwrap_or_default()
    }
}

/// Does the work; a bar on standard error shows how far it is when that is a terminal and it takes long.
pub(crate) fn while_watched<T>(work: impl FnOnce(&Watch) -> T) -> T {
    let watch = &Watch::default();
    if QUIET.load(Ordering::Relaxed) {
        return work(watch);
    }
    let (begun, (finished, wait)) = (Instant::now(), mpsc::channel::<()>());
    std::thread::scope(|scope| {
        scope.spawn(move || {
            let mut bar: Option<Bar> = None;
            // The sender is dropped when the work is done.
            while wait.recv_timeout(if bar.is_some() { TICK } else { PATIENCE }) == Err(RecvTimeoutError::Timeout) {
                draw(bar.get_or_insert_with(|| Bar::new(begun)), &watch.state());
            }
            if let Some(bar) = bar {
                bar.clear();
            }
        });
        let result = work(watch);
        drop(finished);
        result
    })
}

/// A line on standard error that is drawn over itself, where that is a terminal.
///
/// It is our own as what could be had for it links the library of mathematical functions, and loading that is a tenth of the time that
/// looking up an option takes.
struct Bar {
    terminal: Option<usize>,
    begun: Instant,
}

#[expect(clippy::disallowed_methods, reason = "what is drawn is clean already, but for what draws it over itself")]
impl Bar {
    const CELLS: usize = 30;

    fn new(begun: Instant) -> Self {
        let err = io::stderr();
        let size = err.is_terminal().then(|| terminal_size::terminal_size_of(&err)).flatten();
        Self { terminal: size.map(|(width, _)| usize::from(width.0)), begun }
    }

    /// `312 of 1024, 250 a second, 3 s left  ████████░░░░  4s`, as much of it as there is room for.
    fn draw(&self, text: &str, thousandths: usize) {
        let Some(room) = self.terminal.map(|width| width.saturating_sub(1)) else { return };
        let full = Self::CELLS * thousandths.min(1000) / 1000;
        let (full, left) = ("█".repeat(full), "░".repeat(Self::CELLS - full));
        let line = format!("{text}  {full}{left}  {}s", self.begun.elapsed().as_secs());
        let shown: String = line.chars().take(room).collect();
        // A terminal that is gone needs no bar.
        let _ = write!(io::stderr(), "\r{shown}\x1b[K");
    }

    fn clear(&self) {
        if self.terminal.is_some() {
            let _ = write!(io::stderr(), "\r\x1b[K");
        }
    }
}

/// `, 12 a second, 3 s left`, as far as that can be known.
fn left(done: usize, of: usize, since: Option<Instant>) -> String {
    let seconds = since.map_or(0.0, |since| since.elapsed().as_secs_f64());
    if done == 0 || seconds < 0.5 {
        return String::new();
    }
    let rate = done as f64 / seconds;
    format!(", {rate:.0} a second, {:.0} s left", of.saturating_sub(done) as f64 / rate)
}

fn draw(bar: &Bar, State { what, done, of, since, reading }: &State) {
    match reading {
        Some(reading) => {
            let (text, thousandths) = reading.text();
            bar.draw(&text, thousandths);
        }
        None if *of > 0 => {
            bar.draw(&format!("{what}, {done} of {of}{}", left(*done, *of, *since)), done * 1000 / of);
        }
        None => bar.draw(what, 0),
    }
}
