//! A pack to test with.

use chrono::{TimeZone, Utc};
use heliant_core::Report;
use heliant_core::job::JobFile;

use crate::Pack;

/// The pack of a job file with its report, as if saved and printed at one moment.
pub(crate) fn pack_of<'a>(file: &'a JobFile, report: &'a Report) -> Pack<'a> {
    let at = Utc.with_ymd_and_hms(2026, 3, 4, 5, 6, 0).unwrap();
    Pack {
        job: &file.job,
        library: &file.library,
        report,
        origins: &[],
        revision: 7,
        saved_at: at,
        saved_by: "Tomas Brandt",
        printed_at: at,
        printed_by: "Mira Voss",
    }
}
