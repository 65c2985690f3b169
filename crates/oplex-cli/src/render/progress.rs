//! How far a long check has come, on a terminal: nothing in the first second, then a bar that goes away at the end.

use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::mpsc::{self, RecvTimeoutError};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};
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
    let (finished, wait) = mpsc::channel::<()>();
    std::thread::scope(|scope| {
        scope.spawn(move || {
            let mut bar: Option<ProgressBar> = None;
            // The sender is dropped when the work is done.
            while wait.recv_timeout(if bar.is_some() { TICK } else { PATIENCE }) == Err(RecvTimeoutError::Timeout) {
                draw(bar.get_or_insert_with(new_bar), &watch.state());
            }
            if let Some(bar) = bar {
                bar.finish_and_clear();
            }
        });
        let result = work(watch);
        drop(finished);
        result
    })
}

/// A bar that draws nothing unless standard error is a terminal.
fn new_bar() -> ProgressBar {
    let bar = ProgressBar::with_draw_target(Some(1), ProgressDrawTarget::stderr()).with_elapsed(PATIENCE);
    if let Ok(style) = ProgressStyle::with_template("{msg}  {bar:30}  {elapsed}") {
        bar.set_style(style);
    }
    bar
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

fn draw(bar: &ProgressBar, State { what, done, of, since, reading }: &State) {
    if let Some(reading) = reading {
        let (text, thousandths) = reading.text();
        bar.set_message(text);
        bar.set_length(1000);
        bar.set_position(thousandths as u64);
        return bar.tick();
    }
    bar.set_message(if *of > 0 { format!("{what}, {done} of {of}{}", left(*done, *of, *since)) } else { what.clone() });
    bar.set_length((*of).max(1) as u64);
    bar.set_position(*done as u64);
    bar.tick();
}
