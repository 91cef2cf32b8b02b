//! How long a search goes on: as long as somebody waits for it and there is time left. A search
//! asks between its rounds, and answers with what it has.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

/// The word of whoever asked, shared between who computes and who waits. Without anybody to end it
/// a search goes on until it is through.
#[derive(Clone, Debug, Default)]
pub struct Work(Arc<State>);

#[derive(Debug, Default)]
struct State {
    ended: AtomicBool,
    cut: AtomicBool,
}

impl Work {
    /// Says that nobody waits any more, or that the time is up.
    pub fn end(&self) {
        self.0.ended.store(true, Ordering::Relaxed);
    }

    /// Whether a search is to go on. One that asks and is told no counts as cut short.
    pub fn goes_on(&self) -> bool {
        let ended = self.0.ended.load(Ordering::Relaxed);
        if ended {
            self.0.cut.store(true, Ordering::Relaxed);
        }
        !ended
    }

    /// Whether a search was cut short: what it found may be less than there is.
    pub fn cut(&self) -> bool {
        self.0.cut.load(Ordering::Relaxed)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn work_is_cut_only_where_it_was_asked_for_after_its_end() {
        let work = Work::default();
        let elsewhere = work.clone();
        assert!(work.goes_on() && !work.cut());
        elsewhere.end();
        assert!(!work.cut(), "it may have been through before");
        assert!(!work.goes_on() && work.cut() && elsewhere.cut());
    }
}
