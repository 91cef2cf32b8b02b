//! A face on the map: its modules against its sizes, against one another and against what its
//! strings and branches were planned with; and the wire its routing takes.

use serde::Serialize;
use utoipa::ToSchema;

use super::drawing::outline;
use super::leads::Leads;
use super::map::Map;
use super::string::OnMap;
use crate::figure::{Sheet, Subject, Verdict, said};
use crate::figures;
use crate::job::{Edit, Face, FaceKey, FaceMap, Job, JobBranch, JobString, ModuleKey, Placed};
use crate::quantity::{Metres, Ratio, Unit, above, below, floor};
use crate::school::School;
use crate::traced::{exact, sum};

figures! { Roof;
    /// Modules that lie on a face, against those of its strings and branches.
    MODULES_N: Count = "face.modules_n", "Modules on the face", "roof map";
    /// Whether each lies on the face, beside the others and clear of what stands there.
    FITS: Rule = "face.fits", "Modules fit the face", "roof map";
    /// Whether what is to be kept free along the sides is free.
    FREE: Rule = "face.free", "Paths kept free", na "IFC 1205.2", iec "fire service, maker";
    /// Jumpers and tails of the strings of a face.
    WIRE: Metres = "route.wire_m", "Jumpers and tails", "roof map";
    /// Jumpers of the strings of a face.
    JUMPERS_N: Count = "route.jumpers_n", "Jumpers", "roof map";
    /// Modules that lie the other way round.
    TURNED_N: Count = "route.turned_n", "Turned modules", "roof map";
}

/// A string has no more, whatever its volts.
const MOST_IN_SERIES: i64 = 200;
/// Rounding that is no overlap, mm.
const TOUCH_MM: f64 = 0.5;

pub(super) fn face(sheet: &mut Sheet, map: &Map, face: &Face, strings: &[&(&JobString, OnMap)]) {
    sheet.subject = Subject::Face { face: face.id.clone() };
    let Some(own) = map.job.roof.get(&face.id) else { return };
    count(sheet, map, face, own);
    fits(sheet, map, &face.id, own);
    free(sheet, map, &face.id, own);
    route(sheet, strings);
}

fn count(sheet: &mut Sheet, map: &Map, face: &Face, own: &FaceMap) {
    let job = map.job;
    let on_map = own.modules.len();
    sheet.count(&MODULES_N, |w| Some(w.given("on the map", Ratio(on_map as f64), "roof map")));
    let strings: Vec<&JobString> = job.strings.iter().filter(|s| s.face == face.id).collect();
    let planned = planned_on(map, &face.id);
    let verdict = if planned == on_map { Verdict::Pass } else { Verdict::Fail };
    let check = sheet.judge(&MODULES_N, verdict);
    check.reason(format_args!("{on_map} on the map, {planned} in strings and branches."));
    // Where one string is short or long by that, it may take what lies there.
    let off = on_map as i64 - planned as i64;
    for s in &strings {
        let n = i64::from(s.n) + off;
        if (1..=MOST_IN_SERIES).contains(&n) && (strings.len() == 1 || s.modules.len() as i64 == n)
        {
            let edit = Edit::new(format!("/strings/{}/n", s.letter), n);
            check.cure(format_args!("String {} of {n}, as the map has it.", s.letter), vec![edit]);
        }
    }
    let free: Vec<&ModuleKey> =
        own.modules.keys().filter(|m| map.strings_of(m).is_empty()).collect();
    if off > 0 && free.len() as i64 >= off {
        let mut rest = own.modules.clone();
        for key in free.iter().rev().take(off as usize) {
            rest.remove(*key);
        }
        let value = serde_json::to_value(&rest).expect("a map is JSON");
        let edit = Edit::new(format!("/roof/{}/modules", face.id), value);
        check.cure(format_args!("{off} taken off the map: they are in no string."), vec![edit]);
    }
}

/// Modules that strings and branches have on a face.
pub(super) fn planned_on(map: &Map, face: &FaceKey) -> usize {
    let strings = map.job.strings.iter().filter(|s| s.face == *face).map(|s| s.n as usize);
    let units = map.job.branches.iter().map(|b| units_on(map, b, face));
    strings.chain(units).sum()
}

/// Units of a branch on a face: where they lie, or all on its own face while they lie nowhere.
fn units_on(map: &Map, b: &JobBranch, face: &FaceKey) -> usize {
    let elsewhere = |m: &&ModuleKey| map.lying(m).is_some_and(|l| *l.face != b.face);
    if *face == b.face {
        (b.units() as usize).saturating_sub(b.modules.iter().filter(elsewhere).count())
    } else {
        b.modules.iter().filter(|m| map.lying(m).is_some_and(|l| l.face == face)).count()
    }
}

/// A box on the face, mm: left, lower, right, upper.
type Area = [f64; 4];

fn area(leads: &Leads, placed: &Placed) -> Area {
    let [w, h] = leads.size_mm(placed.landscape);
    [placed.x_mm, placed.y_mm, placed.x_mm + w, placed.y_mm + h]
}

fn cut(a: Area, b: Area) -> bool {
    let apart = |i: usize| b[i + 2] - TOUCH_MM <= a[i] || a[i + 2] - TOUCH_MM <= b[i];
    !apart(0) && !apart(1)
}

fn fits(sheet: &mut Sheet, map: &Map, face: &FaceKey, own: &FaceMap) {
    let leads = match map.leads(face) {
        Ok(leads) => leads,
        Err(missing) => {
            sheet.known(&FITS, missing);
            return;
        }
    };
    let areas: Vec<(&ModuleKey, Area)> =
        own.modules.iter().map(|(key, placed)| (key, area(&leads, placed))).collect();
    let mut wrong = overlaps(&areas);
    for (key, o) in &own.obstructions {
        let c = o.clearance_mm;
        let kept = [o.x_mm - c, o.y_mm - c, o.x_mm + o.width_mm + c, o.y_mm + o.height_mm + c];
        let name = if o.name.is_empty() { key.as_str() } else { &o.name };
        let near = areas.iter().filter(|(_, a)| cut(*a, kept));
        wrong.extend(near.map(|(m, _)| format!("{m} is too near {name}.")));
        if outline(own).is_some_and(|corners| !inside(&corners, kept_whole(o))) {
            wrong.push(format!("{name} does not stand on the face."));
        }
    }
    if let Some(corners) = outline(own) {
        let off = areas.iter().filter(|(_, a)| !inside(&corners, *a) || between_rows(own, *a));
        wrong.extend(off.map(|(m, _)| format!("{m} does not lie on the face.")));
        let verdict = if wrong.is_empty() { Verdict::Pass } else { Verdict::Fail };
        sheet.judge(&FITS, verdict).because(|| listed(&wrong));
    } else if wrong.is_empty() {
        sheet.known(&FITS, ["face.eave_m", "face.slope_m"]);
    } else {
        sheet.judge(&FITS, Verdict::Fail).because(|| listed(&wrong));
    }
}

fn kept_whole(o: &crate::job::Obstruction) -> Area {
    [o.x_mm, o.y_mm, o.x_mm + o.width_mm, o.y_mm + o.height_mm]
}

/// The first few, and how many more.
fn listed(wrong: &[String]) -> String {
    const FEW: usize = 3;
    let first = wrong.iter().take(FEW).map(String::as_str).collect::<Vec<_>>().join(" ");
    match wrong.len().saturating_sub(FEW) {
        0 => first,
        more => format!("{first} And {more} more."),
    }
}

/// Modules that lie over one another: swept from the left.
fn overlaps(areas: &[(&ModuleKey, Area)]) -> Vec<String> {
    let mut by_left: Vec<&(&ModuleKey, Area)> = areas.iter().collect();
    by_left.sort_by(|a, b| a.1[0].total_cmp(&b.1[0]));
    let mut found = Vec::new();
    for (i, (key, own)) in by_left.iter().enumerate() {
        let beside = by_left[i + 1..].iter().take_while(|(_, o)| o[0] < own[2] - TOUCH_MM);
        let over = beside.filter(|(_, other)| cut(*own, *other));
        found.extend(over.map(|(other, _)| format!("{key} and {other} lie over one another.")));
    }
    found
}

/// Whether a box lies within a face: its four corners between the slanted sides.
fn inside(corners: &[[f64; 2]; 4], [left, low, right, high]: Area) -> bool {
    let [[x0, y0], [x1, _], [x2, y2], [x3, _]] = *corners;
    let slope = y2 - y0;
    let edges = |y: f64| (x0 + (x3 - x0) * y / slope, x1 + (x2 - x1) * y / slope);
    let between = |y: f64| {
        let (from, to) = edges(y);
        !below(left + TOUCH_MM, from) && !above(right - TOUCH_MM, to)
    };
    !below(low + TOUCH_MM, y0) && !above(high - TOUCH_MM, y2) && between(low) && between(high)
}

/// Whether a box hangs over the gap between two frames.
fn between_rows(own: &FaceMap, [_, low, _, high]: Area) -> bool {
    let Some((rows, slope)) = own.rows.zip(own.slope_m) else { return false };
    let pitch = (slope + rows.gap_m) * 1000.0;
    let foot = floor((low + TOUCH_MM) / pitch) * pitch;
    above(high - TOUCH_MM, foot + slope * 1000.0)
}

/// What is kept free along the sides of a face, m.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct Sides {
    /// Along the eave.
    pub eave_m: f64,
    /// Along the ridge.
    pub ridge_m: f64,
    /// Along the left side.
    pub left_m: f64,
    /// Along the right side.
    pub right_m: f64,
    /// Along at least one of the two slanted sides.
    pub one_side_m: f64,
}

/// Kept from every edge of a roof where nothing else is said, m.
const EDGE_M: f64 = 0.3;
/// na: a path to the ridge and along one side (IFC 1205.2).
const PATH_M: f64 = 0.91;

impl Sides {
    /// What is asked of a face; where nobody said whether paths for the fire service are asked,
    /// they are.
    pub fn of(own: &FaceMap, job: &Job) -> Self {
        Sides::asked(own, job, job.settings.fire_paths.unwrap_or(true))
    }

    fn asked(own: &FaceMap, job: &Job, fire_paths: bool) -> Self {
        let frames = own.rows.is_some();
        let paths = job.school == School::Na && fire_paths && !frames;
        let edge = if frames { 0.0 } else { EDGE_M };
        let said = own.free;
        // Who says what is kept free on both sides has chosen the path.
        let chosen = said.left_m.is_some() && said.right_m.is_some();
        Sides {
            eave_m: said.eave_m.unwrap_or(edge),
            ridge_m: said.ridge_m.unwrap_or(if paths { PATH_M } else { edge }),
            left_m: said.left_m.unwrap_or(edge),
            right_m: said.right_m.unwrap_or(edge),
            one_side_m: if paths && !chosen { PATH_M } else { 0.0 },
        }
    }
}

/// Room between modules and the sides of a face, m: eave, ridge, left, right.
fn room(corners: &[[f64; 2]; 4], areas: &[Area]) -> [f64; 4] {
    let [[x0, y0], [x1, _], [x2, y2], [x3, _]] = *corners;
    let at = |y: f64, from: f64, to: f64| from + (to - from) * (y - y0) / (y2 - y0);
    let least =
        |room: &dyn Fn(&Area) -> f64| areas.iter().map(room).fold(f64::INFINITY, f64::min) / 1000.0;
    [
        least(&|a| a[1] - y0),
        least(&|a| y2 - a[3]),
        least(&|a| a[0] - at(a[1], x0, x3).max(at(a[3], x0, x3))),
        least(&|a| at(a[1], x1, x2).min(at(a[3], x1, x2)) - a[2]),
    ]
}

fn free(sheet: &mut Sheet, map: &Map, face: &FaceKey, own: &FaceMap) {
    let (Some(corners), Ok(leads)) = (outline(own), map.leads(face)) else { return };
    let areas: Vec<Area> = own.modules.values().map(|p| area(&leads, p)).collect();
    let room = room(&corners, &areas);
    let short = |fire_paths: bool| short_of(&Sides::asked(own, map.job, fire_paths), room);
    let (strict, lax) = (short(true), short(false));
    let wrong = match map.job.settings.fire_paths {
        Some(true) => strict,
        Some(false) => lax,
        None if strict.is_some() && lax.is_none() => {
            sheet.known(&FREE, ["settings.fire_paths"]);
            return;
        }
        None => lax,
    };
    let verdict = if wrong.is_none() { Verdict::Pass } else { Verdict::Fail };
    sheet.judge(&FREE, verdict).because(|| wrong.unwrap_or_default());
}

/// What is not free, in words.
fn short_of(asked: &Sides, [eave, ridge, left, right]: [f64; 4]) -> Option<String> {
    let sides = [
        ("eave", eave, asked.eave_m),
        ("ridge", ridge, asked.ridge_m),
        ("left side", left, asked.left_m),
        ("right side", right, asked.right_m),
        ("wider of the two sides", left.max(right), asked.one_side_m),
    ];
    let tight = sides.into_iter().find(|(_, there, wanted)| below(*there, *wanted));
    tight.map(|(side, there, wanted)| {
        let [there, wanted] = [there, wanted].map(|m| said(m, Unit::M));
        format!("{there} free along the {side}, {wanted} asked.")
    })
}

fn route(sheet: &mut Sheet, strings: &[&(&JobString, OnMap)]) {
    if strings.iter().all(|(s, _)| s.modules.is_empty()) {
        return;
    }
    let jumpers = || strings.iter().map(|(s, own)| (s, own.jumpers_m.as_deref()));
    sheet.figure(&WIRE, |w| {
        let jumpers = sum(jumpers().map(|(s, all)| {
            let Some(all) = all else {
                w.lack("string.modules");
                return None;
            };
            let metres = Metres(all.iter().fold(0.0, |sum, m| sum + m));
            Some(w.given(format_args!("jumpers of {}", s.letter), metres, "roof map"))
        }));
        let tails = sum(strings.iter().map(|(s, own)| {
            let Some((plus, minus)) = own.tail_plus.as_ref().zip(own.tail_minus.as_ref()) else {
                w.lack("face.box_mm");
                return None;
            };
            let metres = Metres(plus.wire_m + minus.wire_m);
            Some(w.given(format_args!("tails of {}", s.letter), metres, "roof map"))
        }));
        Some(jumpers? + tails?)
    });
    sheet.count(&JUMPERS_N, |w| {
        sum(std::iter::once(Some(exact(0.0))).chain(jumpers().map(|(s, all)| {
            let Some(all) = all else {
                w.lack("string.modules");
                return None;
            };
            Some(w.given(&s.letter, Ratio(all.len() as f64), "roof map"))
        })))
    });
    sheet.count(&TURNED_N, |w| {
        let turned = strings.iter().map(|(_, own)| own.turned_n).sum::<usize>();
        Some(w.given("turned", Ratio(turned as f64), "roof map"))
    });
}
