//! Work that many items need, done by as many threads as the machine runs at once.

use std::sync::atomic::{AtomicUsize, Ordering};

/// More threads than this wait for memory only.
const MOST: usize = 8;

/// How many threads to use. It takes the system longer to say than a small plan takes to read.
pub(crate) fn threads() -> usize {
    std::thread::available_parallelism().map_or(1, |threads| threads.get().min(MOST))
}

/// What comes of each item, in their order. Each thread takes the next one when it is done with its last.
pub(crate) fn each<T: Sync, R: Send>(threads: usize, items: &[T], work: impl Fn(&T) -> R + Sync) -> Vec<R> {
    let next = AtomicUsize::new(0);
    let take_turns = || {
        let mut done = Vec::new();
        while let at = next.fetch_add(1, Ordering::Relaxed)
            && let Some(item) = items.get(at)
        {
            done.push((at, work(item)));
        }
        done
    };
    let mut done = std::thread::scope(|scope| {
        let others: Vec<_> = (1..threads.min(items.len())).map(|_| scope.spawn(take_turns)).collect();
        let mut done = take_turns();
        for other in others {
            done.extend(other.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)));
        }
        done
    });
    done.sort_unstable_by_key(|(at, _)| *at);
    done.into_iter().map(|(_, result)| result).collect()
}
