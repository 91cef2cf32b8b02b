//! Which program made something that is kept: other rules or another press make it otherwise.

use std::fmt::Write as _;
use std::path::Path;
use std::time::UNIX_EPOCH;

/// Tells this program and those named apart from others, by size and time of their files. Two that
/// are alike but were copied at different times count as different: then a thing is made again.
pub(crate) fn edition(programs: &[&Path]) -> String {
    let own = std::env::current_exe().ok();
    let mut said = env!("CARGO_PKG_VERSION").to_owned();
    for path in own.as_deref().into_iter().chain(programs.iter().copied()) {
        if let Ok(about) = path.metadata() {
            let changed = about.modified().ok().and_then(|t| t.duration_since(UNIX_EPOCH).ok());
            // Writing to a string does not fail.
            let _ = write!(said, " {}-{}", about.len(), changed.map_or(0, |d| d.as_millis()));
        }
    }
    said
}
