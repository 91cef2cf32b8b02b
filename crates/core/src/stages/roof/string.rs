//! One string on the map: its joins, its tails, whether its modules are the ones it was planned
//! with.

use std::collections::BTreeMap;

use super::drawing::RoofTail;
use super::leads::{self, Exits, Join, path_m};
use super::map::{Lying, Map, Misplaced};
use crate::figure::{Bound, Check, Def, Handle, Sheet, Subject, Verdict, said};
use crate::figures;
use crate::job::{Edit, JobString, ModuleKey};
use crate::quantity::{Metres, Unit};
use crate::traced::exact;

figures! { Roof;
    /// Modules of a string: all there, each once, on its face.
    MODULES: Rule = "string.modules", "Modules of the string on the map", "job";
    /// Both leads of a join, less the slack for clips.
    REACH: Metres = "join.reach_m", "Reach of two leads", "module data sheet";
    /// From the one exit to the other, along frame and rail.
    PATH: Metres = "join.path_m", "Path of the join", "roof map, module data sheet";
    /// Wire from the free + beyond its lead to the box.
    TAIL_PLUS: Metres = "string.tail_plus_m", "Wire of the + tail", "roof map";
    /// The same from the free -.
    TAIL_MINUS: Metres = "string.tail_minus_m", "Wire of the − tail", "roof map";
    /// Whether the tails have an end.
    TAILS: Rule = "string.tails", "Tails to the box", "job";
}

/// A join.
#[derive(Debug)]
pub struct Joined {
    /// Place of the module before it, from 1.
    pub place: usize,
    /// The jumper it takes: planned, or the next in stock, m.
    pub jumper_m: Option<f64>,
    /// No jumper in stock reaches.
    lost: bool,
}

/// What a string comes to on the map.
#[derive(Debug, Default)]
pub struct OnMap {
    /// Its joins, in order.
    pub joins: Vec<Joined>,
    /// + tail.
    pub tail_plus: Option<RoofTail>,
    /// - tail.
    pub tail_minus: Option<RoofTail>,
    /// Jumpers it takes, planned or needed; none where a join cannot be.
    pub jumpers_m: Option<Vec<f64>>,
    /// Turned modules.
    pub turned_n: usize,
}

pub(super) fn string(sheet: &mut Sheet, map: &Map, string: &JobString) -> OnMap {
    sheet.subject = Subject::string(&string.letter);
    if string.modules.is_empty() {
        sheet.known(&MODULES, ["string.modules"]);
        return OnMap::default();
    }
    modules(sheet, map, string);
    let leads = map.leads(&string.face);
    let reach = sheet.figure(&REACH, |w| match &leads {
        Ok(l) => {
            let plus = w.given("+ lead", Metres(l.lead_plus_m), "module data sheet");
            let minus = w.given("− lead", Metres(l.lead_minus_m), "module data sheet");
            Some(plus + minus - w.given("slack for clips", Metres(map.slack_m), "setting"))
        }
        Err(missing) => {
            missing.iter().for_each(|f| w.lack(f));
            None
        }
    });
    let mut own = OnMap::default();
    let mut jumpers = Some(Vec::new());
    for place in 1..string.modules.len() {
        let joined = join(sheet, map, string, place, &reach);
        match joined.as_ref().map(|j| (j.jumper_m, j.lost)) {
            Some((Some(m), _)) => jumpers.iter_mut().for_each(|all| all.push(m)),
            Some((None, false)) => {}
            Some((None, true)) | None => jumpers = None,
        }
        own.joins.extend(joined);
    }
    own.jumpers_m = jumpers;
    let turned = |m: &&ModuleKey| map.lying(m).is_some_and(|l| l.placed.turned);
    own.turned_n = string.modules.iter().filter(turned).count();
    tails(sheet, map, string, &mut own);
    own
}

/// The modules against what the string was planned with.
fn modules(sheet: &mut Sheet, map: &Map, string: &JobString) {
    let all = &string.modules;
    let planned = string.n as usize;
    let misplaced = map.misplaced(&string.letter, all);
    let elsewhere = all.iter().find_map(|m| {
        let lying = map.lying(m)?;
        (*lying.face != string.face).then_some((m, lying.face))
    });
    let (verdict, reason) = if let Some(wrong) = &misplaced {
        let reason = match wrong {
            Misplaced::Gone(m) => format!("{m} is not on the map."),
            Misplaced::Shared(m, other) => format!("{m} is in string {other} too."),
            Misplaced::Twice(m) => format!("{m} stands in it twice."),
        };
        (Verdict::Fail, reason)
    } else if all.len() != planned {
        let reason = format!("{} modules on the map, {planned} in the string.", all.len());
        (Verdict::Fail, reason)
    } else if let Some((m, face)) = elsewhere {
        let reason = format!("{m} lies on {face}: it gets other light than the rest.");
        (Verdict::Warn, reason)
    } else {
        (Verdict::Pass, String::new())
    };
    let check = sheet.judge(&MODULES, verdict);
    check.reason(reason);
    if misplaced.is_none() && all.len() != planned {
        let n = all.len();
        check.cure(
            format_args!("String {} of {n}, as it lies.", string.letter),
            vec![Edit::new(format!("/strings/{}/n", string.letter), n)],
        );
    }
}

/// A module of the string by its place: what it is called on the map, its key, how it lies.
struct Placed<'a> {
    name: String,
    key: &'a ModuleKey,
    lying: Lying<'a>,
}

/// The join behind a place, from 1; none where one of the two is not on the map.
fn join(
    sheet: &mut Sheet,
    map: &Map,
    string: &JobString,
    place: usize,
    reach: &Handle<Metres>,
) -> Option<Joined> {
    let named = |place: usize| {
        let key = &string.modules[place - 1];
        Some(Placed { name: format!("{}{place}", string.letter), key, lying: map.lying(key)? })
    };
    let (a, b) = (named(place)?, named(place + 1)?);
    sheet.subject = Subject::Join { string: string.letter.clone(), place };
    let crossing = a.lying.face != b.lying.face;
    let both = map.exits(a.lying).zip(map.exits(b.lying));
    let ends = both.map(|(ea, eb)| facing(string.plus_first, ea, eb));
    let path = sheet.figure(&PATH, |w| {
        let Some((from, to)) = ends else {
            for face in [a.lying.face, b.lying.face] {
                map.leads(face).err().into_iter().flatten().for_each(|f| w.lack(f));
            }
            return None;
        };
        if crossing {
            let over = map.path_m((a.lying.face, from), (b.lying.face, to));
            if over.is_none() {
                w.lack("roof.crossing");
            }
            return Some(w.given("over the crossing", Metres(over?), "roof map"));
        }
        let along = |i: usize| Metres((from[i] - to[i]).abs() / 1000.0);
        let dx = w.given("along the eave", along(0), "roof map");
        Some(dx + w.given("up the slope", along(1), "roof map"))
    });
    let planned = string.jumpers.get(a.key).copied();
    let bound = match (planned, reach.value()) {
        (Some(jumper), Some(reach)) => {
            let title = format!("leads and a jumper of {}", said(jumper, Unit::M));
            Bound::at_most(reach + jumper, title)
        }
        _ => Bound::at_most(reach, "reach of the leads"),
    };
    let like = Like::at(string, a.key, b.key);
    let check = sheet.hold(&path, bound, Verdict::Fail);
    if like.is_some() {
        check.verdict = Verdict::Fail;
    }
    let lengths = path.value().zip(reach.value());
    let taken = lengths.map(|(path, reach)| leads::join(path, reach, &map.stock_m));
    let needed = match taken {
        Some(Join::Jumper(m)) => Some(m),
        _ => None,
    };
    if check.verdict == Verdict::Fail {
        let short = needed.is_some() || matches!(taken, Some(Join::Lost));
        check.beyond(|over| format!("{over} short."));
        if let Some(like) = like {
            let (sign, name) = (like.sign(), &b.name);
            let across = match check.margin {
                Some(room) if short => {
                    format!(" Crossed over it is {} short.", said(-room, Unit::M))
                }
                _ => " Crossed over the leads reach.".to_owned(),
            };
            check.reason(format_args!("{sign} of {} meets {sign} of {name}.{across}", a.name));
            crossed(check, map, string, if string.reversed.contains(b.key) { &b } else { &a });
        } else {
            cures(check, map, string, [&b, &a], needed);
        }
    }
    Some(Joined {
        place,
        jumper_m: planned.or(needed),
        lost: planned.is_none() && !matches!(taken, Some(Join::Reaches | Join::Jumper(_))),
    })
}

/// The ways out of a join that does not reach: one of the two turned, or a jumper.
fn cures(
    check: &mut Check,
    map: &Map,
    string: &JobString,
    both: [&Placed; 2],
    jumper: Option<f64>,
) {
    for Placed { name, key, lying } in both {
        if cured_by_turning(map, string, key, *lying) {
            let at = format!("/roof/{}/modules/{key}/turned", lying.face);
            let edit = Edit::new(at, !lying.placed.turned);
            check.cure(format_args!("Turn {name} before it is clamped: no jumper."), vec![edit]);
        }
    }
    let [_, Placed { name, key, .. }] = both;
    let Some(m) = jumper else {
        check.cure("Another order, or a box between: no jumper in stock reaches.", Vec::new());
        return;
    };
    let mut jumpers = string.jumpers.clone();
    jumpers.insert((*key).clone(), m);
    let value = serde_json::to_value(&jumpers).expect("a map is JSON");
    let text = format!("A jumper of {} behind {name}.", said(m, Unit::M));
    check.cure(text, vec![Edit::new(format!("/strings/{}/jumpers", string.letter), value)]);
}

/// The exits that a join leads from and to.
fn facing(plus_first: bool, a: Exits, b: Exits) -> ([f64; 2], [f64; 2]) {
    if plus_first { (a.minus, b.plus) } else { (a.plus, b.minus) }
}

/// Like leads that meet, because one of two modules is joined the wrong way round.
#[derive(Clone, Copy, PartialEq)]
enum Like {
    Plus,
    Minus,
}

impl Like {
    fn at(string: &JobString, a: &ModuleKey, b: &ModuleKey) -> Option<Like> {
        let [a, b] = [a, b].map(|m| string.reversed.contains(m));
        // The string leaves a module by its +, or its - where it begins with +.
        (a != b).then_some(if a == string.plus_first { Like::Plus } else { Like::Minus })
    }

    fn sign(self) -> &'static str {
        match self {
            Like::Plus => "+",
            Like::Minus => "−",
        }
    }
}

/// The two ways out for a module that is joined the wrong way round: turned back, or left as it
/// lies with its leads crossed over and jumpers where they do not reach.
fn crossed(check: &mut Check, map: &Map, string: &JobString, wrong: &Placed) {
    let Placed { name, key, lying } = wrong;
    let rest: Vec<&ModuleKey> = string.reversed.iter().filter(|m| m != key).collect();
    let at = |field: &str| format!("/strings/{}/{field}", string.letter);
    let joined = || Edit::new(at("reversed"), serde_json::json!(rest));
    let turned = format!("/roof/{}/modules/{key}/turned", lying.face);
    check.cure(
        format_args!("Turn {name} back before it is clamped: no jumper."),
        vec![Edit::new(turned, !lying.placed.turned), joined()],
    );
    let Some(jumpers) = across(map, string, key, *lying) else { return };
    let text = match jumpers.values().copied().reduce(|a, b| a + b) {
        None => format!("Leave {name} as it lies and cross its leads: both reach."),
        Some(m) => {
            let (n, m) = (jumpers.len(), said(m, Unit::M));
            format!("Leave {name} as it lies and cross its leads: {n} jumpers, {m} in all.")
        }
    };
    let mut edits = vec![joined()];
    if !jumpers.is_empty() {
        let all: BTreeMap<_, _> = string.jumpers.clone().into_iter().chain(jumpers).collect();
        edits.push(Edit::new(at("jumpers"), serde_json::json!(all)));
    }
    check.cure(text, edits);
}

/// The jumpers both joins of a module take as it lies; none where one is out of reach.
fn across(
    map: &Map,
    string: &JobString,
    key: &ModuleKey,
    lying: Lying,
) -> Option<BTreeMap<ModuleKey, f64>> {
    let reach = map.leads(lying.face).ok()?.reach_m(map.slack_m);
    let mut jumpers = BTreeMap::new();
    for pair in string.modules.windows(2).filter(|p| p.contains(key)) {
        let [a, b] = [map.exits(map.lying(&pair[0])?)?, map.exits(map.lying(&pair[1])?)?];
        let (from, to) = facing(string.plus_first, a, b);
        match leads::join(path_m(from, to), reach, &map.stock_m) {
            Join::Reaches => {}
            Join::Jumper(m) => {
                jumpers.insert(pair[0].clone(), m);
            }
            Join::Lost => return None,
        }
    }
    Some(jumpers)
}

/// Whether every join of a module reaches without a jumper once it is turned.
fn cured_by_turning(map: &Map, string: &JobString, key: &ModuleKey, lying: Lying) -> bool {
    let Ok(leads) = map.leads(lying.face) else { return false };
    let mut pose = super::map::pose(lying.placed);
    pose.turned = !pose.turned;
    let turned = leads.exits(pose);
    let reach = leads.reach_m(map.slack_m);
    let reaches = |(from, to)| leads::join(path_m(from, to), reach, &[]) == Join::Reaches;
    let exits = |m: &ModuleKey| {
        let other = map.lying(m).filter(|o| o.face == lying.face)?;
        map.exits(other)
    };
    string.modules.windows(2).all(|pair| {
        let ends = if pair[0] == *key {
            exits(&pair[1]).map(|other| facing(string.plus_first, turned, other))
        } else if pair[1] == *key {
            exits(&pair[0]).map(|other| facing(string.plus_first, other, turned))
        } else {
            return true;
        };
        ends.is_some_and(reaches)
    })
}

/// The free leads of both ends, and what they lack to the box.
fn tails(sheet: &mut Sheet, map: &Map, string: &JobString, own: &mut OnMap) {
    sheet.subject = Subject::string(&string.letter);
    let at_box = map.job.roof.get(&string.face).and_then(|m| m.box_mm);
    let [Some(first), Some(last)] = [string.modules.first(), string.modules.last()] else { return };
    let (plus, minus) = if string.plus_first { (first, last) } else { (last, first) };
    let leads = map.leads(&string.face);
    let mut tail = |def: &'static Def<Metres>, module: &ModuleKey, is_plus: bool| {
        let lying = map.lying(module).filter(|l| *l.face == string.face);
        let exits = lying.and_then(|l| map.exits(l));
        let exit = exits.map(|e| if is_plus { e.plus } else { e.minus });
        let figure = sheet.figure(def, |w| {
            let leads = match &leads {
                Ok(leads) => leads,
                Err(missing) => {
                    missing.iter().for_each(|f| w.lack(f));
                    return None;
                }
            };
            if at_box.is_none() {
                w.lack("face.box_mm");
            }
            let Some(exit) = exit else {
                w.lack("string.modules");
                return None;
            };
            let path = w.given(
                format_args!("path from {module} to the box"),
                Metres(path_m(exit, at_box?)),
                "roof map",
            );
            let slack = w.given("slack", Metres(map.slack_m), "setting");
            let lead = if is_plus { leads.lead_plus_m } else { leads.lead_minus_m };
            let lead = w.given("lead", Metres(lead), "module data sheet");
            Some((path + slack - lead).max(exact(0.0)))
        });
        let drawn = exit.zip(at_box).zip(figure.value());
        let drawn = drawn.map(|((from_mm, to_mm), wire_m)| RoofTail { from_mm, to_mm, wire_m });
        (drawn, figure.missing().to_vec())
    };
    let (tail_plus, missing) = tail(&TAIL_PLUS, plus, true);
    let (tail_minus, more) = tail(&TAIL_MINUS, minus, false);
    (own.tail_plus, own.tail_minus) = (tail_plus, tail_minus);
    sheet.known(&TAILS, missing.into_iter().chain(more));
}
