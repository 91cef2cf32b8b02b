//! The strings of a job routed over one face of its roof map, beside what was there.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::question::Field;
use super::tours::Tours;
use super::{
    RouteAsk, RouteError, RouteFace, RouteModule, RouteString, RoutedFace, WHOLE_N, routed,
};
use crate::job::{FaceKey, Job, JobString, Letter, ModuleKey};
use crate::library::Library;
use crate::problem::Problem;
use crate::stages::roof::Map;

/// Which strings are to be routed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Reroute {
    /// The face.
    pub face: FaceKey,
    /// Strings that stay as they are.
    #[serde(default)]
    pub keep: Vec<Letter>,
    /// Goes on from what is there, in its n-th turn; begins anew where 0.
    #[serde(default)]
    pub turn: u32,
    /// Modules may be turned.
    #[serde(default = "yes")]
    pub may_turn: bool,
}

fn yes() -> bool {
    true
}

/// What a routing takes.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct RouteSum {
    /// Jumpers and tails, m.
    pub wire_m: f64,
    /// Jumpers.
    pub jumpers_n: usize,
    /// Turned modules.
    pub turned_n: usize,
}

/// A face routed again.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Rerouted {
    /// The job with its strings as they are routed.
    pub job: Job,
    /// What was there; none where not every string was joined.
    pub before: Option<RouteSum>,
    /// What is there now.
    pub after: RouteSum,
    /// What no routing of these strings can go below, m.
    pub bound_m: f64,
    /// By how much more than that it is, in percent of it.
    pub gap_pct: Option<f64>,
}

/// Routes the strings of one face.
///
/// # Errors
/// What is missing for it, or the modules that cannot be joined.
pub fn reroute(job: &Job, library: &Library, ask: &Reroute) -> Result<Rerouted, Vec<Problem>> {
    let own: Vec<&JobString> = job
        .strings
        .iter()
        .filter(|s| s.face == ask.face && !ask.keep.contains(&s.letter))
        .collect();
    let question = question(job, library, ask, &own)?;
    let present = present(&question, job, &own);
    let before = present.as_ref().and_then(|(tours, field)| tours.cost(field).sum());
    let begun = present.map(|(tours, _)| (tours, ask.turn));
    let begun = begun.filter(|_| ask.turn > 0 && before.is_some());
    let answer = routed(&question, WHOLE_N, begun).map_err(|e| match e {
        RouteError::Invalid(problems) | RouteError::Lost(problems) => problems,
    })?;
    let face = &answer.faces[0];
    let gap = face.bound_m > 0.0;
    Ok(Rerouted {
        job: with(job, ask, face),
        before,
        after: RouteSum { wire_m: face.wire_m, jumpers_n: face.jumpers_n, turned_n: face.turned_n },
        bound_m: face.bound_m,
        gap_pct: gap.then(|| (face.wire_m / face.bound_m - 1.0) * 100.0),
    })
}

fn question(
    job: &Job,
    library: &Library,
    ask: &Reroute,
    own: &[&JobString],
) -> Result<RouteAsk, Vec<Problem>> {
    let at = format!("/job/roof/{}", ask.face);
    let one = |path: String, message: &str, hint: &str| vec![Problem::new(path, message, hint)];
    let Some(face) = job.roof.get(&ask.face) else {
        return Err(one(at, "this face has no map", "fill it with modules first"));
    };
    let map = Map::of(job, library);
    let leads = map.leads(&ask.face).map_err(|missing| {
        let message = format!("the module's {} is not on its data sheet", missing.join(", "));
        one("/library/modules".into(), &message, "enter a revision of the sheet that says it")
    })?;
    let Some(box_mm) = face.box_mm else {
        return Err(one(format!("{at}/box_mm"), "the box has no place", "put it on the map"));
    };
    if own.is_empty() {
        return Err(one(at, "no string of this face is to be routed", "plan one under Strings"));
    }
    let kept = job.strings.iter().filter(|s| !own.iter().any(|o| o.letter == s.letter));
    let taken: BTreeSet<&ModuleKey> = kept.flat_map(|s| &s.modules).collect();
    let free = face.modules.iter().filter(|(key, _)| !taken.contains(key));
    let modules = free.map(|(key, placed)| RouteModule {
        id: key.to_string(),
        x_mm: placed.x_mm,
        y_mm: placed.y_mm,
        landscape: placed.landscape,
    });
    let strings = own.iter().map(|s| RouteString { letter: s.letter.to_string(), n: s.n as usize });
    Ok(RouteAsk {
        module: leads,
        slack_m: map.slack_m,
        stock_m: map.stock_m.clone(),
        may_turn: ask.may_turn,
        faces: vec![RouteFace {
            id: ask.face.to_string(),
            box_mm,
            modules: modules.collect(),
            strings: strings.collect(),
        }],
    })
}

/// The strings as they are; none where not every module is on the map and joined.
fn present(question: &RouteAsk, job: &Job, own: &[&JobString]) -> Option<(Tours, Field)> {
    let face = &question.faces[0];
    let place = |key: &ModuleKey| face.modules.iter().position(|m| m.id == key.as_str());
    let placed = &job.roof.get(own[0].face.as_str())?.modules;
    let field = Field::of(question, face);
    let mut tours = Tours { strings: Vec::new(), turned: vec![false; field.len()] };
    for s in own {
        let mut order: Vec<usize> = s.modules.iter().map(place).collect::<Option<_>>()?;
        if order.len() != s.n as usize || !s.reversed.is_empty() {
            return None;
        }
        if s.plus_first {
            order.reverse();
        }
        tours.strings.push(order);
    }
    for (at, m) in face.modules.iter().enumerate() {
        tours.turned[at] = placed.get(m.id.as_str()).is_some_and(|p| p.turned);
    }
    Some((tours, field))
}

/// The job with a face as it was routed.
fn with(job: &Job, ask: &Reroute, routed: &RoutedFace) -> Job {
    let mut next = job.clone();
    for s in &routed.strings {
        let Some(own) = next.strings.iter_mut().find(|o| o.letter == s.letter.as_str()) else {
            continue;
        };
        own.modules = s.modules.iter().map(|m| m.as_str().into()).collect();
        own.plus_first = s.plus_first;
        own.reversed.clear();
        own.jumpers = s.jumpers.iter().map(|j| (j.after.as_str().into(), j.m)).collect();
    }
    if let Some(face) = next.roof.get_mut(&ask.face) {
        for s in &routed.strings {
            for m in &s.modules {
                if let Some(placed) = face.modules.get_mut(m.as_str()) {
                    placed.turned = s.turned.contains(m);
                }
            }
        }
    }
    next
}
