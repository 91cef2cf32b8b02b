//! The branches of a job routed over one face: each arm is a string that begins at the box, and its
//! other end is free.

use super::job::{Reroute, Rerouted, RouteSum, box_of, face_of, free, gap_pct, pins_unjoined};
use super::question::Field;
use super::tours::Tours;
use super::{RouteFace, RouteString, RoutedFace, WHOLE_N, question, routed_face};
use crate::job::{Job, JobBranch, Letter, ModuleKey};
use crate::library::Library;
use crate::problem::Problem;
use crate::stages::roof::{Map, Pitch, most_sections, path_m};
use crate::work::Work;

/// The branches that are asked for: those of the face that lie on no other and do not stay.
pub(super) fn asked<'a>(job: &'a Job, ask: &Reroute) -> Vec<&'a JobBranch> {
    let here = |m: &ModuleKey| job.roof.get(&ask.face).is_some_and(|f| f.modules.contains_key(m));
    let own = |b: &&JobBranch| b.face == ask.face && !ask.keep.contains(&b.letter);
    job.branches.iter().filter(own).filter(|b| b.modules.iter().all(here)).collect()
}

/// Routes the branches of a face.
pub(super) fn branches(
    job: &Job,
    library: &Library,
    ask: &Reroute,
    work: &Work,
) -> Result<Rerouted, Vec<Problem>> {
    let own = asked(job, ask);
    let map = face_of(job, ask)?;
    let box_mm = box_of(map, ask)?;
    let at = format!("/job/roof/{}", ask.face);
    let one = |path: String, message: &str, hint: &str| vec![Problem::new(path, message, hint)];
    let found = Map::of(job, library);
    let Some(size) = found.size(&ask.face) else {
        let hint = "enter a revision of the sheet that says them";
        return Err(one("/library/modules".into(), "the module has no width and length", hint));
    };
    let micro = &own[0].micro;
    if own.iter().any(|b| b.micro != *micro) {
        let hint = "let one stay and route the other";
        return Err(one("/job/branches".into(), "two kinds of unit on one face", hint));
    }
    let pitch = Pitch::of(library.micro(micro)).map_err(|missing| {
        let message = format!("the unit's {} is not on its data sheet", missing.join(", "));
        one("/library/micros".into(), &message, "enter a revision of the sheet that says it")
    })?;
    let letters: Vec<&Letter> = own.iter().map(|b| &b.letter).collect();
    let arms = own.iter().flat_map(|b| {
        let letter = b.letter.to_string();
        b.arms_n.iter().map(move |n| RouteString { letter: letter.clone(), n: *n as usize })
    });
    let modules = free(job, map, &letters);
    let id = ask.face.to_string();
    let face = RouteFace { id, box_mm, modules, strings: arms.collect() };
    let asked: usize = face.strings.iter().map(|s| s.n).sum();
    if asked > face.modules.len() {
        let message = format!("{asked} units in branches, {} on the face", face.modules.len());
        return Err(one(format!("{at}/modules"), &message, "as many as lie there, or fewer"));
    }
    let mut field = Field::trunk(&face, size, pitch, found.slack_m);
    let pinned = |m: &str| own.iter().any(|b| b.pinned.iter().any(|p| p.as_str() == m));
    field.stays = face.modules.iter().map(|m| pinned(&m.id)).collect();
    // One section a unit is there in any routing.
    let least_m: f64 = face.strings.iter().map(|s| (s.n - 1) as f64 * pitch.pitch_m).sum();
    let present = present(&face, &own);
    let before = present.as_ref().and_then(|tours| tours.cost(&field).sum());
    if present.is_none() && field.stays.contains(&true) {
        return Err(pins_unjoined(ask));
    }
    let goes_on = ask.turn > 0 || field.stays.contains(&true);
    let begun = present.filter(|_| goes_on).map(|tours| (tours, ask.turn));
    let done = routed_face(&field, &face, WHOLE_N, begun.as_ref(), work)
        .map_err(|module| vec![question::lost(&field, &face, 0, module)])?;
    let sum = |s: RouteSum| RouteSum { wire_m: s.wire_m + least_m, ..s };
    let after = RouteSum { wire_m: done.wire_m, jumpers_n: done.jumpers_n, turned_n: 0 };
    let bound_m = done.bound_m + least_m;
    Ok(Rerouted {
        job: with(job, &own, &done, |pair| {
            let middle = |m: &ModuleKey| found.middle(found.lying(m)?);
            let [a, b] = [middle(&pair[0]), middle(&pair[1])];
            let path = a.zip(b).map_or(0.0, |(a, b)| path_m(a, b));
            pitch.sections(path) > most_sections(job)
        }),
        before: before.map(sum),
        after: sum(after),
        bound_m,
        gap_pct: gap_pct(done.wire_m + least_m, bound_m),
        cut: work.cut(),
    })
}

/// The arms as they lie; none where not every unit is on the face.
fn present(face: &RouteFace, own: &[&JobBranch]) -> Option<Tours> {
    let place = |key: &ModuleKey| face.modules.iter().position(|m| m.id == key.as_str());
    let mut strings = Vec::new();
    for b in own {
        if b.modules.len() != b.units() as usize {
            return None;
        }
        let order: Vec<usize> = b.modules.iter().map(place).collect::<Option<_>>()?;
        let (back, on) = order.split_at(b.before_feed());
        if !back.is_empty() {
            strings.push(back.iter().rev().copied().collect());
        }
        strings.push(on.to_vec());
    }
    Some(Tours { strings, turned: vec![false; face.modules.len()] })
}

/// The job with its branches as they are routed, bridges where no trunk runs.
fn with(
    job: &Job,
    own: &[&JobBranch],
    done: &RoutedFace,
    bridged: impl Fn(&[ModuleKey]) -> bool,
) -> Job {
    let mut next = job.clone();
    let mut arms = done.strings.iter();
    for asked in own {
        let mut modules: Vec<ModuleKey> = Vec::new();
        for arm in arms.by_ref().take(asked.arms_n.len()) {
            modules.reverse();
            modules.extend(arm.modules.iter().map(|m| ModuleKey::from(m.as_str())));
        }
        let gaps = modules
            .windows(2)
            .enumerate()
            .filter(|(at, pair)| at + 1 != asked.before_feed() && bridged(pair));
        let bridges = gaps.map(|(_, pair)| pair[0].clone()).collect();
        if let Some(b) = next.branches.iter_mut().find(|b| b.letter == asked.letter) {
            (b.modules, b.bridges) = (modules, bridges);
        }
    }
    next
}
