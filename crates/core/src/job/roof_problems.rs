//! What a schema cannot say of a roof map: faces that are there, keys that stand once.

use std::collections::HashMap;

use super::{FaceKey, Job, MOST_MODULES, ModuleKey, keys};
use crate::problem::Problem;

/// Every problem of a job's roof map.
pub(super) fn roof_problems(job: &Job) -> Vec<Problem> {
    let mut found = Vec::new();
    let mut say = |path: String, message: String, hint: String| {
        found.push(Problem::new(path, message, hint));
    };
    let mut seen: HashMap<&ModuleKey, &FaceKey> = HashMap::new();
    for (face, map) in &job.roof {
        let at = format!("/job/roof/{face}");
        if job.face(face).is_none() {
            say(at.clone(), format!("no face `{face}`"), "a face of the site".into());
        }
        if let Some((message, hint)) = keys::problem(face) {
            say(at.clone(), message, hint);
        }
        if map.modules.len() > MOST_MODULES {
            let message = format!("{} modules are more than a face holds", map.modules.len());
            say(
                format!("{at}/modules"),
                message,
                format!("{MOST_MODULES} at most; split the face"),
            );
        }
        let modules = map.modules.keys().map(|k| ("modules", k.as_str()));
        let obstructions = map.obstructions.keys().map(|k| ("obstructions", k.as_str()));
        for (list, key) in modules.chain(obstructions) {
            if let Some((message, hint)) = keys::problem(key) {
                say(format!("{at}/{list}"), message, hint);
            }
        }
        for key in map.modules.keys() {
            if let Some(other) = seen.insert(key, face) {
                let message = format!("module {key} lies on face {other} already");
                say(format!("{at}/modules/{key}"), message, "a key of its own".into());
            }
        }
        for other in map.crossings.keys() {
            let at = format!("{at}/crossings/{other}");
            let back = || job.roof.get(other).is_some_and(|m| m.crossings.contains_key(face));
            if other == face || job.face(other).is_none() {
                say(at, format!("{face} cannot cross to `{other}`"), "another face".into());
            } else if other < face && back() {
                let message = format!("the crossing of {other} and {face} stands twice");
                say(at, message, format!("enter it at {other} or {face}"));
            }
        }
        if map.slope_m.is_none() != map.eave_m.is_none() {
            let missing = if map.slope_m.is_none() { "slope_m" } else { "eave_m" };
            say(format!("{at}/{missing}"), "is missing".into(), "both sizes, or neither".into());
        }
    }
    for (i, string) in job.strings.iter().enumerate() {
        for (key, m) in string.jumpers.iter().filter(|(_, m)| !(**m > 0.0 && **m <= 100.0)) {
            let at = format!("/job/strings/{i}/jumpers/{key}");
            say(at, format!("{m} m is no jumper"), "above 0, up to 100 m".into());
        }
    }
    for (i, m) in job.settings.jumpers_m.iter().enumerate() {
        if !(*m > 0.0 && *m <= 100.0) {
            let at = format!("/job/settings/jumpers_m/{i}");
            say(at, format!("{m} m is no jumper"), "above 0, up to 100 m".into());
        }
    }
    found
}
