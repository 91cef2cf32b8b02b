//! The strings of a job routed over one face of its roof map, beside what was there.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::question::{Field, lost, problems};
use super::start::{self, Along};
use super::tours::Tours;
use super::trunk;
use super::weights::Weights;
use super::{
    RouteAsk, RouteFace, RouteModule, RouteString, RoutedFace, WHOLE_N, answer, lost_at,
    routed_face,
};
use crate::job::{FaceKey, FaceMap, Job, JobString, Letter, ModuleKey};
use crate::library::Library;
use crate::problem::Problem;
use crate::stages::roof::Map;
use crate::work::Work;

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
    /// Each string keeps its modules and runs along them so; the least wire where absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub along: Option<Along>,
}

fn yes() -> bool {
    true
}

/// What a routing takes.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct RouteSum {
    /// Jumpers and tails of strings, trunk cable of branches, m.
    pub wire_m: f64,
    /// Jumpers; of branches gaps that take more than one section.
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
    /// The time was up, or nobody waited any more: it was not searched through.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    #[schema(required = false)]
    pub cut: bool,
}

impl RouteSum {
    fn with(self, other: RouteSum) -> RouteSum {
        RouteSum {
            wire_m: self.wire_m + other.wire_m,
            jumpers_n: self.jumpers_n + other.jumpers_n,
            turned_n: self.turned_n + other.turned_n,
        }
    }
}

/// Routes the strings and branches of one face.
///
/// # Errors
/// What is missing for it, or the modules that cannot be joined.
pub fn reroute(
    job: &Job,
    library: &Library,
    ask: &Reroute,
    work: &Work,
) -> Result<Rerouted, Vec<Problem>> {
    let strings = job.strings.iter().any(|s| s.face == ask.face && !ask.keep.contains(&s.letter));
    let units = trunk::asked(job, ask);
    if !strings && units.is_empty() {
        let message = "no string or branch of this face alone is to be routed";
        return Err(refused(ask, "", message, "plan one under Strings"));
    }
    let first = if strings { Some(strings_of(job, library, ask, work)?) } else { None };
    if units.is_empty() {
        return Ok(first.expect("there are strings where there are no units"));
    }
    let from = first.as_ref().map_or(job, |f| &f.job);
    let second = trunk::branches(from, library, ask, work)?;
    Ok(match first {
        None => second,
        Some(first) => {
            let bound_m = first.bound_m + second.bound_m;
            let after = first.after.with(second.after);
            Rerouted {
                job: second.job,
                before: first.before.zip(second.before).map(|(a, b)| a.with(b)),
                after,
                bound_m,
                gap_pct: gap_pct(after.wire_m, bound_m),
                cut: work.cut(),
            }
        }
    })
}

pub(super) fn gap_pct(wire_m: f64, bound_m: f64) -> Option<f64> {
    (bound_m > 0.0).then(|| (wire_m / bound_m - 1.0) * 100.0)
}

fn strings_of(
    job: &Job,
    library: &Library,
    ask: &Reroute,
    work: &Work,
) -> Result<Rerouted, Vec<Problem>> {
    let own: Vec<&JobString> = job
        .strings
        .iter()
        .filter(|s| s.face == ask.face && !ask.keep.contains(&s.letter))
        .collect();
    if let Some(along) = ask.along {
        return shaped(job, library, ask, &own, along);
    }
    let question = question(job, library, ask, &own)?;
    let problems = problems(&question);
    if !problems.is_empty() {
        return Err(problems);
    }
    let present = present(&question, job, &own);
    let before = present.as_ref().and_then(|(tours, field)| tours.cost(field).sum());
    let pinned = own.iter().flat_map(|s| &s.pinned).collect();
    let field = pinned_field(Field::of(&question, &question.faces[0]), &question, job, pinned);
    if present.is_none() && field.stays.contains(&true) {
        return Err(pins_unjoined(ask));
    }
    let begun = present.map(|(tours, _)| (tours, ask.turn));
    let goes_on = (ask.turn > 0 && before.is_some()) || field.stays.contains(&true);
    let begun = begun.filter(|_| goes_on);
    let asked = &question.faces[0];
    let face = &routed_face(&field, asked, WHOLE_N, begun.as_ref(), work)
        .map_err(|module| vec![lost(&field, asked, 0, module)])?;
    Ok(Rerouted {
        job: with(job, ask, face),
        before,
        after: RouteSum { wire_m: face.wire_m, jumpers_n: face.jumpers_n, turned_n: face.turned_n },
        bound_m: face.bound_m,
        gap_pct: gap_pct(face.wire_m, face.bound_m),
        cut: work.cut(),
    })
}

/// Strings that keep their modules and run along them as it is asked.
fn shaped(
    job: &Job,
    library: &Library,
    ask: &Reroute,
    own: &[&JobString],
    along: Along,
) -> Result<Rerouted, Vec<Problem>> {
    let (mut next, mut before, mut after) = (job.clone(), Some(NOTHING), NOTHING);
    for s in own {
        let mut question = question(&next, library, ask, &[s])?;
        let face = &mut question.faces[0];
        face.modules.retain(|m| s.modules.iter().any(|own| own.as_str() == m.id));
        if face.modules.len() != s.n as usize {
            let at = format!("/job/strings/{}/modules", s.letter);
            let message = format!("string {} does not lie on the map whole", s.letter);
            return Err(vec![Problem::new(at, message, "route it first")]);
        }
        let face = &question.faces[0];
        let pinned = s.pinned.iter().collect();
        let field = pinned_field(Field::of(&question, face), &question, &next, pinned);
        let present = present(&question, &next, &[s]);
        let was = present.and_then(|(tours, field)| tours.cost(&field).sum());
        before = before.zip(was).map(|(all, one)| all.with(one));
        let tours = start::shaped(&field, &Weights::of(&field), along);
        if let Some(module) = lost_at(&field, &tours) {
            return Err(vec![lost(&field, face, 0, module)]);
        }
        let done = answer(&field, face, &tours, 0);
        after = after.with(RouteSum {
            wire_m: done.wire_m,
            jumpers_n: done.jumpers_n,
            turned_n: done.turned_n,
        });
        next = with(&next, ask, &done);
    }
    // As one asks is not the least: nothing is proved of it.
    Ok(Rerouted { job: next, before, after, bound_m: 0.0, gap_pct: None, cut: false })
}

const NOTHING: RouteSum = RouteSum { wire_m: 0.0, jumpers_n: 0, turned_n: 0 };

/// A face of which some modules stay: they lie as they lie, in the string they are in. Where no
/// module is to be turned, all lie as they lie.
fn pinned_field(
    mut field: Field,
    question: &RouteAsk,
    job: &Job,
    pinned: BTreeSet<&ModuleKey>,
) -> Field {
    let face = &question.faces[0];
    let placed = job.roof.get(face.id.as_str()).map(|f| &f.modules);
    for (at, m) in face.modules.iter().enumerate() {
        let key = ModuleKey::from(m.id.as_str());
        field.stays[at] = pinned.contains(&key);
        if field.stays[at] || !question.may_turn {
            field.fixed[at] = placed.and_then(|all| all.get(&key)).map(|p| p.turned);
        }
    }
    field.may_turn = true;
    field
}

pub(super) fn pins_unjoined(ask: &Reroute) -> Vec<Problem> {
    let message = "modules are pinned, but not every string is joined";
    refused(ask, "", message, "take the pins off, or join the strings first")
}

fn refused(ask: &Reroute, field: &str, message: &str, hint: &str) -> Vec<Problem> {
    vec![Problem::new(format!("/job/roof/{}{field}", ask.face), message, hint)]
}

/// The map of the face that is asked for.
pub(super) fn face_of<'a>(job: &'a Job, ask: &Reroute) -> Result<&'a FaceMap, Vec<Problem>> {
    let hint = "fill it with modules first";
    job.roof.get(&ask.face).ok_or_else(|| refused(ask, "", "this face has no map", hint))
}

/// Where its box sits, mm.
pub(super) fn box_of(face: &FaceMap, ask: &Reroute) -> Result<[f64; 2], Vec<Problem>> {
    let hint = "put it on the map";
    face.box_mm.ok_or_else(|| refused(ask, "/box_mm", "the box has no place", hint))
}

fn question(
    job: &Job,
    library: &Library,
    ask: &Reroute,
    own: &[&JobString],
) -> Result<RouteAsk, Vec<Problem>> {
    let face = face_of(job, ask)?;
    let map = Map::of(job, library);
    let leads = map.leads(&ask.face).map_err(|missing| {
        let message = format!("the module's {} is not on its data sheet", missing.join(", "));
        let hint = "enter a revision of the sheet that says it";
        vec![Problem::new("/library/modules", message, hint)]
    })?;
    let box_mm = box_of(face, ask)?;
    let letters: Vec<&Letter> = own.iter().map(|s| &s.letter).collect();
    let strings = own.iter().map(|s| RouteString { letter: s.letter.to_string(), n: s.n as usize });
    Ok(RouteAsk {
        module: leads,
        slack_m: map.slack_m,
        stock_m: map.stock_m.clone(),
        may_turn: ask.may_turn,
        faces: vec![RouteFace {
            id: ask.face.to_string(),
            box_mm,
            modules: free(job, face, &letters),
            strings: strings.collect(),
        }],
    })
}

/// Modules of a face that are in no string or branch but those.
pub(super) fn free(job: &Job, face: &FaceMap, but: &[&Letter]) -> Vec<RouteModule> {
    let strings = job.strings.iter().map(|s| (&s.letter, &s.modules));
    let branches = job.branches.iter().map(|b| (&b.letter, &b.modules));
    let kept = strings.chain(branches).filter(|(letter, _)| !but.contains(letter));
    let taken: BTreeSet<&ModuleKey> = kept.flat_map(|(_, modules)| modules).collect();
    let free = face.modules.iter().filter(|(key, _)| !taken.contains(key));
    free.map(|(key, placed)| RouteModule {
        id: key.to_string(),
        x_mm: placed.x_mm,
        y_mm: placed.y_mm,
        landscape: placed.landscape,
    })
    .collect()
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
