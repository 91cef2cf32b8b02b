//! What is asked of the search.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::job::{FaceKey, Job};
use crate::library::{Headed, Library, SheetRef};

/// Modules of a face to be wired.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WayFace {
    /// The face.
    pub face: FaceKey,
    /// Its modules.
    #[schema(minimum = 0, maximum = 5000)]
    pub modules_n: u32,
}

/// What is asked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WaysAsk {
    /// The module's data sheet.
    pub module: SheetRef,
    /// Modules of each face.
    pub faces: Vec<WayFace>,
    /// All strings the same length.
    #[serde(default)]
    pub equal_strings: bool,
    /// Strings of different faces may share an input.
    #[serde(default)]
    pub faces_may_mix: bool,
    /// Strings in all at most.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 500)]
    pub home_runs_max: Option<u32>,
    /// Only ways that use every module.
    #[serde(default)]
    pub use_all: bool,
    /// Strings on one input at most; its connectors where absent. More need a combiner.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 20)]
    pub strings_per_input: Option<u32>,
}

/// What a job has now, as a question; none where no module is known.
pub fn ask_of(job: &Job, library: &Library) -> Option<WaysAsk> {
    let module = job
        .strings
        .first()
        .map(|s| s.module.clone())
        .or_else(|| library.modules.first().map(Headed::reference))?;
    let on = |face: &str| job.strings.iter().filter(|s| s.face == face).map(|s| s.n).sum();
    let faces = job
        .site
        .faces
        .iter()
        .map(|f| WayFace { face: f.id.clone(), modules_n: on(&f.id) })
        .collect();
    Some(WaysAsk {
        module,
        faces,
        equal_strings: false,
        faces_may_mix: false,
        home_runs_max: None,
        use_all: false,
        strings_per_input: None,
    })
}
