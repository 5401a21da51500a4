//! Memory for what hosts say, shared by all that are surveyed at a time.

use bradawl_survey::collected::MAX_BYTES;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering::Relaxed};

/// Bytes for the answers of all hosts together.
const ALL: usize = 4 * MAX_BYTES;

/// What all hosts have said that is still held.
#[derive(Debug, Clone)]
pub struct Budget {
    held: Arc<AtomicUsize>,
    /// A host with less is never turned away.
    fair: usize,
}

impl Budget {
    /// Room for so many hosts at a time.
    pub fn new(jobs: usize) -> Self {
        Budget { held: Arc::default(), fair: ALL / jobs.max(1) }
    }

    /// One host's part of it.
    pub(crate) fn share(&self) -> Share {
        let own =
            Own { held: Arc::clone(&self.held), taken: AtomicUsize::new(0), over: AtomicBool::new(false) };
        Share { own: Arc::new(own), fair: self.fair }
    }
}

/// What one host has said; given back when the last holder is gone.
#[derive(Debug, Clone)]
pub(crate) struct Share {
    own: Arc<Own>,
    fair: usize,
}

#[derive(Debug)]
struct Own {
    held: Arc<AtomicUsize>,
    taken: AtomicUsize,
    over: AtomicBool,
}

impl Share {
    /// Takes so many bytes more; whether there is room for them: there is, as
    /// long as all together or the host alone stay below their part.
    pub fn take(&self, bytes: usize) -> bool {
        let own = self.own.taken.fetch_add(bytes, Relaxed) + bytes;
        let all = self.own.held.fetch_add(bytes, Relaxed) + bytes;
        let room = all <= ALL || own <= self.fair;
        if !room {
            self.own.over.store(true, Relaxed);
        }
        room
    }

    /// Whether there was no room for something.
    pub fn is_over(&self) -> bool {
        self.own.over.load(Relaxed)
    }
}

impl Drop for Own {
    fn drop(&mut self) {
        self.held.fetch_sub(self.taken.load(Relaxed), Relaxed);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_greedy_are_turned_away_and_the_modest_never() {
        let budget = Budget::new(16);
        let greedy: Vec<Share> = (0..4).map(|_| budget.share()).collect();
        assert!(greedy.iter().all(|share| share.take(MAX_BYTES)));
        let modest = budget.share();
        assert!(modest.take(ALL / 16) && !modest.is_over());
        assert!(!modest.take(1) && modest.is_over());
        drop(greedy);
        assert!(budget.share().take(MAX_BYTES), "what they held is given back");
    }
}
