//! The pulls of a way: from box to box, and from conduit body to conduit body; where one does not
//! pull, where a pull box saves the most.

use super::assumptions::{BENDS as BENDS_AS_MADE, LEVEL};
use super::carried::Carried;
use super::laid::{copper_mm2, weight};
use super::pull::{BENDS, pull_of_job, tensions};
use super::raceway::{self, Earth, Wire};
use super::{PullInputs, PullPart};
use crate::figure::{Sheet, Subject, Verdict, said};
use crate::figures;
use crate::job::{Bend, BendKind, Command, Edit, Job, Leg, Part, WayKey};
use crate::quantity::{MM_PER_INCH, Metres, Ratio, Unit};
use crate::school::School;
use crate::tables;
use crate::traced::{exact, sum};

figures! { Runs;
    /// A wire left in a raceway, by which the next one can be pulled in.
    DRAW_WIRE: Metres = "raceway.draw_wire_m", "Draw wire to leave behind", "workshop practice";
}

/// What hangs out of each end of a draw wire, m.
const OUT_M: f64 = 1.0;

/// Friction with lubricant.
const LUBRICATED: f64 = 0.35;

/// Radius of a bend by the size of the conduit (iec).
const SIZES_PER_RADIUS: f64 = 6.0;

/// Shortest piece left on a side of a pull box, m.
const LEAST_M: f64 = 0.5;

/// One step of a path.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Step {
    /// A straight or a bend; none: a conduit body, where one pulls to and on from.
    pulled: Option<PullPart>,
    /// The part it lies in, from 0.
    part: usize,
    /// Where it begins, from the beginning of the part, m.
    from_m: f64,
}

/// The pull through parts that are raceway from one to the next; the first is part `at` of the way.
/// Of several pulls the hardest is shown.
pub(super) fn one_pull(
    sheet: &mut Sheet,
    job: &Job,
    (way, at): (&WayKey, usize),
    parts: &[Part],
    inside: &[(Carried, &Leg)],
    earth: Earth,
) {
    sheet.subject = Subject::Way { way: way.clone(), part: at + 1 };
    if parts.iter().any(|p| p.bends.is_none()) {
        sheet.known(&BENDS, ["way.parts.bends"]);
        return;
    }
    let wires = raceway::all_wires(inside, earth);
    let weight = wires.as_deref().and_then(|wires| weight(sheet, wires));
    let copper = |w: &Wire| copper_mm2(sheet.school, w);
    let thinnest = wires.as_ref().and_then(|all| {
        all.iter().map(copper).try_fold(f64::INFINITY, |least, mm2| Some(least.min(mm2?)))
    });
    let bends = || parts.iter().flat_map(|p| p.bends.iter().flatten());
    let bent = |b: &Bend| b.kind != BendKind::Body;
    if bends().filter(|b| bent(b)).any(|b| b.at_m.is_none() || b.radius_mm.is_none()) {
        sheet.assume(&BENDS_AS_MADE);
    }
    let school = sheet.school;
    let with = |steps: &[Step]| PullInputs {
        path: steps.iter().filter_map(|s| s.pulled).collect(),
        length_limit_m: job.settings.pull_length_m,
        w_n_per_m: weight,
        mu: job.settings.pull_mu,
        copper_mm2: thinnest,
        conductors_n: wires.as_ref().map(|w| w.len() as u32),
    };
    let level = path(school, parts, 0.0);
    let pulls: Vec<&[Step]> = level.split(|s| s.pulled.is_none()).collect();
    let hardest = |paths: &[&[Step]]| {
        let each = paths.iter().enumerate().map(|(i, steps)| (i, tried(sheet, &with(steps))));
        each.max_by(|a, b| a.1.partial_cmp(&b.1).unwrap_or(std::cmp::Ordering::Equal))
    };
    let own = if pulls.len() == 1 { 0 } else { hardest(&pulls).map_or(0, |(i, _)| i) };
    // A rise nobody entered may be anything between straight down and straight up.
    let mut steep = Vec::new();
    if parts.iter().any(|p| p.rise_m.is_none()) {
        for slope in [90.0, -90.0] {
            let path = path(school, parts, slope);
            let pulls: Vec<&[Step]> = path.split(|s| s.pulled.is_none()).collect();
            steep.extend(hardest(&pulls).map(|(_, tried)| tried.pull));
        }
        sheet.assume(&LEVEL);
    }
    sheet.figure(&DRAW_WIRE, |w| {
        let each = parts.iter().map(|p| p.length_m.map(exact::<Metres>));
        let Some(all) = sum(each) else {
            w.lack("way.parts.length_m");
            return None;
        };
        Some(all + exact::<Ratio>(2.0) * w.given("out of each end", Metres(OUT_M), "habit"))
    });
    let steps = pulls[own];
    let inputs = with(steps);
    let from = sheet.checks.len();
    let verdict = pull_of_job(sheet, &inputs).verdict;
    let eased = verdict == Verdict::Fail && {
        let slick = PullInputs { mu: Some(LUBRICATED), ..inputs };
        pull_of_job(&mut sheet.trial(), &slick).verdict == Verdict::Pass
    };
    let hard = sheet.checks[from..].iter().any(|c| c.verdict != Verdict::Pass);
    let saved = if hard { best_box(sheet, way, at, steps, &with) } else { None };
    let Some(check) = sheet.checks.last_mut() else { return };
    if verdict != Verdict::Unknown && steep.iter().any(|v| *v != verdict) {
        check.verdict = Verdict::Unknown;
        check.misses(["way.parts.rise_m"]);
        return;
    }
    if eased {
        let edit = Edit::new("/settings/pull_mu", LUBRICATED);
        check.cure(format_args!("Pulling lubricant: friction {LUBRICATED}."), vec![edit]);
    }
    let Some((text, command)) = saved else { return };
    for check in &mut sheet.checks[from..] {
        check.cures.retain(|c| !c.edits.is_empty());
        check.cure_by(&text, command.clone());
    }
}

/// What a pull comes to, the worst first: whether it pulls, its other checks, its tension.
#[derive(Clone, Copy, PartialEq, PartialOrd)]
struct Tried {
    pull: Verdict,
    all: Verdict,
    tension_n: f64,
}

fn tried(sheet: &Sheet, x: &PullInputs) -> Tried {
    let mut trial = sheet.trial();
    let pull = pull_of_job(&mut trial, x).verdict;
    let all = trial.checks.iter().map(|c| c.verdict).max().unwrap_or(Verdict::Pass);
    let least = |id: &&str| trial.figures.iter().find(|f| f.id == *id)?.value.as_ref()?.number();
    let tension_n = tensions().iter().filter_map(least).fold(f64::INFINITY, f64::min);
    let tension_n = if tension_n.is_finite() { tension_n } else { 0.0 };
    Tried { pull, all: all.max(pull), tension_n }
}

/// Where a pull box saves the most: behind a bend, or in the middle of a straight.
fn best_box(
    sheet: &Sheet,
    way: &WayKey,
    at: usize,
    steps: &[Step],
    with: &dyn Fn(&[Step]) -> PullInputs,
) -> Option<(String, Command)> {
    let whole = tried(sheet, &with(steps));
    let mut best: Option<(Tried, usize, f64)> = None;
    for (i, step) in steps.iter().enumerate() {
        let Some(length) = step.pulled.and_then(|p| p.straight_m) else { continue };
        // At its ends, where a bend is beside it, and in its middle.
        for share in [0.0, 0.5, 1.0] {
            let here = length * share;
            let own = step.pulled?;
            let cut =
                |m: f64| Step { pulled: Some(PullPart { straight_m: Some(m), ..own }), ..*step };
            let first: Vec<Step> = steps[..i].iter().copied().chain([cut(here)]).collect();
            let rest: Vec<Step> =
                [cut(length - here)].into_iter().chain(steps[i + 1..].iter().copied()).collect();
            let metres =
                |steps: &[Step]| -> f64 { steps.iter().filter_map(|s| s.pulled?.straight_m).sum() };
            if metres(&first) < LEAST_M || metres(&rest) < LEAST_M {
                continue;
            }
            let (a, b) = (tried(sheet, &with(&first)), tried(sheet, &with(&rest)));
            let worst = if a > b { a } else { b };
            if best.is_none_or(|(own, ..)| worst < own) {
                best = Some((worst, i, here));
            }
        }
    }
    let (after, i, here) = best.filter(|(after, ..)| *after < whole)?;
    let (part, at_m) = (at + steps[i].part, steps[i].from_m + here);
    let saves = if whole.tension_n > 0.0 {
        let newtons = |n: f64| said(n, Unit::N);
        format!(": {} at most instead of {}", newtons(after.tension_n), newtons(whole.tension_n))
    } else {
        String::new()
    };
    let text = format!("A pull box {} along part {}{saves}.", said(at_m, Unit::M), part + 1);
    let at_m = (at_m * 100.0).round() / 100.0;
    Some((text, Command::PullBox { way: way.clone(), part, at_m }))
}

/// Straights, bends and bodies of a pull; what nobody said of a part's rise is `slope`, °.
fn path(school: School, parts: &[Part], slope: f64) -> Vec<Step> {
    let mut path = Vec::new();
    for (k, part) in parts.iter().enumerate() {
        let none = Vec::new();
        let bends = part.bends.as_ref().unwrap_or(&none);
        let slope_deg = Some(match (part.rise_m, part.length_m) {
            (Some(rise), Some(length)) if length > 0.0 => {
                (rise / length).clamp(-1.0, 1.0).asin().to_degrees()
            }
            (Some(_), _) => 0.0,
            (None, _) => slope,
        });
        let straight = |from_m: f64, m: Option<f64>| Step {
            pulled: Some(PullPart { straight_m: m, slope_deg, ..PullPart::default() }),
            part: k,
            from_m,
        };
        let bend = |from_m: f64, b: &Bend| Step {
            pulled: (b.kind != BendKind::Body).then(|| PullPart {
                bend_deg: Some(b.deg),
                radius_m: radius_m(school, part, b),
                ..PullPart::default()
            }),
            part: k,
            from_m,
        };
        let Some(length) = part.length_m else {
            path.push(straight(0.0, None));
            path.extend(bends.iter().map(|b| bend(0.0, b)));
            continue;
        };
        let gaps = (bends.len() + 1) as f64;
        let spread = |i: usize| length * (i + 1) as f64 / gaps;
        let mut placed: Vec<(f64, &Bend)> =
            bends.iter().enumerate().map(|(i, b)| (b.at_m.unwrap_or(spread(i)), b)).collect();
        placed.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut from = 0.0;
        for (at, b) in placed {
            path.push(straight(from, Some((at - from).max(0.0))));
            path.push(bend(at, b));
            from = at;
        }
        path.push(straight(from, Some((length - from).max(0.0))));
    }
    path
}

/// Radius of a bend, m: as measured, else what benders of the size make.
fn radius_m(school: School, part: &Part, bend: &Bend) -> Option<f64> {
    let made = || {
        let size = &part.raceway.as_ref()?.size;
        match school {
            School::Na => tables::bend_radius_in(size).map(|r| r * MM_PER_INCH),
            School::Iec => size.parse::<f64>().ok().map(|mm| mm * SIZES_PER_RADIUS),
        }
    };
    bend.radius_mm.or_else(made).map(|mm| mm / 1000.0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::{RacewayChoice, RacewayKind};

    fn part(length_m: f64, bends: Vec<Bend>) -> Part {
        let raceway = Some(RacewayChoice { kind: RacewayKind::Emt, size: "3/4".to_owned() });
        Part { length_m: Some(length_m), bends: Some(bends), raceway, ..Part::default() }
    }

    fn bend(deg: f64, at_m: Option<f64>) -> Bend {
        Bend { deg, kind: BendKind::Bent, radius_mm: None, at_m }
    }

    fn straights(steps: &[Step]) -> Vec<f64> {
        steps.iter().filter_map(|s| s.pulled?.straight_m).collect()
    }

    #[test]
    fn bends_lie_where_they_were_measured_and_else_evenly() {
        let of = |parts: &[Part]| straights(&path(School::Na, parts, 0.0));
        assert_eq!(of(&[part(6.0, vec![bend(90.0, Some(1.5))])]), [1.5, 4.5]);
        let even = [part(6.0, vec![bend(90.0, None), bend(45.0, None)])];
        assert_eq!(of(&even), [2.0, 2.0, 2.0]);
        assert_eq!(of(&[part(6.0, Vec::new()), part(2.0, Vec::new())]), [6.0, 2.0]);
    }

    #[test]
    fn a_body_ends_a_pull_and_counts_no_degrees() {
        let body = Bend { kind: BendKind::Body, ..bend(90.0, Some(2.0)) };
        let steps = path(School::Na, &[part(6.0, vec![bend(90.0, Some(1.0)), body])], 0.0);
        let pulls: Vec<&[Step]> = steps.split(|s| s.pulled.is_none()).collect();
        assert_eq!(pulls.len(), 2);
        assert_eq!(straights(pulls[0]), [1.0, 1.0]);
        assert_eq!(straights(pulls[1]), [4.0]);
        assert!(pulls[1].iter().all(|s| s.pulled.is_some_and(|p| p.bend_deg.is_none())));
    }

    #[test]
    fn a_rise_of_half_the_length_is_thirty_degrees() {
        let up = Part { rise_m: Some(2.0), ..part(4.0, Vec::new()) };
        let slope = path(School::Na, &[up], 0.0)[0].pulled.and_then(|p| p.slope_deg);
        assert!((slope.expect("a straight") - 30.0).abs() < 1e-9, "{slope:?}");
        // 4.5 in of 3/4 by the bender's table.
        let radius = path(School::Na, &[part(4.0, vec![bend(90.0, None)])], 0.0)[1].pulled;
        assert_eq!(radius.and_then(|p| p.radius_m), Some(4.5 * 0.0254));
    }

    #[test]
    fn the_box_stands_where_the_harder_half_is_easiest() {
        // Five quarter bends 4 m apart: behind the second or the third, never at an end.
        let bends = (1..=5).map(|i| bend(90.0, Some(4.0 * f64::from(i)))).collect();
        let steps = path(School::Na, &[part(24.0, bends)], 0.0);
        let with = |steps: &[Step]| PullInputs {
            path: steps.iter().filter_map(|s| s.pulled).collect(),
            length_limit_m: None,
            w_n_per_m: Some(4.0),
            mu: None,
            copper_mm2: Some(5.26),
            conductors_n: Some(4),
        };
        let sheet = Sheet::new(School::Na, Subject::Sum);
        let (text, command) = best_box(&sheet, &"w1".into(), 0, &steps, &with).expect("it helps");
        let Command::PullBox { at_m, part, .. } = command else { panic!("a pull box") };
        assert_eq!(part, 0);
        assert!((8.0..=16.0).contains(&at_m), "{text}");
    }
}
