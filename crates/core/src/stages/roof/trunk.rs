//! The trunk cable of a branch on the map: sections from unit to unit, drops that are lost, bridges
//! over gaps, and what that takes off the reels.

use super::map::{Map, Misplaced};
use crate::figure::{Field, Handle, Sheet, Subject, Verdict, said};
use crate::figures;
use crate::job::{Edit, JobBranch, Letter, ModuleKey};
use crate::library::{Library, MicroSheet};
use crate::quantity::{Metres, Ratio, Unit, ceil};
use crate::traced::{Traced, exact};

figures! { Roof;
    /// Units of a branch: all on the map, each once.
    MODULES: Rule = "branch.modules", "Units of the branch on the map", "job";
    /// From the middle of a unit's module to the next, along frame and rail.
    PATH: Metres = "trunk.path_m", "From unit to unit", "roof map";
    /// max(1, ceil((path - 2 x lead) / pitch)).
    SECTIONS_N: Count = "trunk.sections_n", "Sections of trunk to the next unit", "unit data sheet";
    /// Field-wired, with its connector pair.
    BRIDGE: Metres = "trunk.bridge_m", "Field-wired bridge", "roof map";
    /// Trunk from the box to the first unit of each arm.
    FEED: Metres = "trunk.feed_m", "Trunk from the box to the first unit", "roof map";
    /// Drops between units that stay unused, and are sealed.
    LOST_N: Count = "trunk.lost_n", "Drops lost, to be sealed", "roof map";
    /// Drops of the trunk, units and lost ones.
    DROPS_N: Count = "trunk.drops_n", "Drops of the trunk", "roof map";
    /// Sections and feed.
    CABLE: Metres = "trunk.cable_m", "Trunk cable", "roof map";
    /// One at the end of each arm.
    CAPS_N: Count = "trunk.caps_n", "End caps", "roof map";
    /// Reels of trunk for all branches.
    REELS_N: Count = "trunk.reels_n", "Reels of trunk cable", "unit data sheet";
    /// Drops that stay on the reels.
    LEFT_N: Count = "trunk.left_n", "Drops left on the reels", "unit data sheet";
}

/// Sections between two units up to which the trunk runs through, where the job says nothing.
const SECTIONS_N_MOST: u32 = 3;
/// A field-wired bridge is longer than its path by so much, for both connectors, m.
const BRIDGE_M: f64 = 0.6;

/// What a trunk is made of.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Pitch {
    /// A unit's lead to its drop, m.
    pub lead_m: f64,
    /// From drop to drop, m.
    pub pitch_m: f64,
}

impl Pitch {
    /// By the unit's data sheet.
    ///
    /// # Errors
    /// The fields it does not say.
    pub fn of(sheet: Option<&MicroSheet>) -> Result<Pitch, Vec<Field>> {
        let Some(sheet) = sheet else { return Err(vec!["branch.micro"]) };
        match (sheet.lead_m, sheet.trunk.pitch_m) {
            (Some(lead_m), Some(pitch_m)) => Ok(Pitch { lead_m, pitch_m }),
            (lead, pitch) => {
                let fields = [("unit.lead_m", lead.is_none()), ("trunk.pitch_m", pitch.is_none())];
                Err(fields.into_iter().filter(|f| f.1).map(|f| f.0).collect())
            }
        }
    }

    /// Sections of trunk over a path between two units.
    pub fn sections(self, path_m: f64) -> u32 {
        ceil((path_m - 2.0 * self.lead_m) / self.pitch_m).max(1.0) as u32
    }
}

/// Sections up to which a job's trunks run through.
pub fn most_sections(job: &crate::job::Job) -> u32 {
    job.settings.trunk_sections_n.unwrap_or(SECTIONS_N_MOST)
}

/// From one unit to the next.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Hop {
    /// So many sections of trunk.
    Trunk(u32),
    /// A field-wired bridge, m.
    Bridge(f64),
    /// The feed: it comes between the two arms.
    Feed,
    /// Not known.
    Open,
}

/// A branch's trunk on the map.
#[derive(Clone, Debug, Default)]
pub struct OnTrunk {
    /// Behind each unit but the last.
    pub hops: Vec<Hop>,
    /// Trunk from the box to each arm's first unit, m.
    pub feeds_m: Vec<f64>,
    /// Drops of each piece that is cut from a reel, with how long it is, m.
    pub pieces: Vec<(u32, f64)>,
    /// Units on the map, in order.
    pub units_n: usize,
}

/// How far apart the units of a branch lie, in sections of trunk: a bridge and a long feed count by
/// their length.
#[derive(Clone, Debug, PartialEq)]
pub struct Spread {
    /// From unit to unit.
    pub gaps: Vec<f64>,
    /// From the box to the first unit of each arm; one where the box has no place yet.
    pub feeds: Vec<f64>,
}

/// How a branch is spread on the map; none where it does not lie there whole.
pub fn spread(map: &Map, library: &Library, b: &JobBranch) -> Option<Spread> {
    let pitch = Pitch::of(library.micro(&b.micro)).ok()?;
    if b.modules.len() != b.units() as usize {
        return None;
    }
    let gap = |pair: &[ModuleKey]| {
        let path = between(map, &pair[0], &pair[1])?;
        Some(if bridged(map, b, pair, pitch, path) {
            (path + BRIDGE_M) / pitch.pitch_m
        } else {
            f64::from(pitch.sections(path))
        })
    };
    let feed = |first: &ModuleKey| {
        let m = (from_box(map, b, first)? + map.slack_m - pitch.lead_m).max(0.0);
        Some((m / pitch.pitch_m).max(1.0))
    };
    Some(Spread {
        gaps: b.modules.windows(2).map(gap).collect::<Option<_>>()?,
        feeds: b.first_units().into_iter().map(|first| feed(first).unwrap_or(1.0)).collect(),
    })
}

/// From the box to the middle of a unit's module, m.
fn from_box(map: &Map, b: &JobBranch, first: &ModuleKey) -> Option<f64> {
    let at_box = map.job.roof.get(&b.face)?.box_mm?;
    let lying = map.lying(first)?;
    map.path_m((lying.face, map.middle(lying)?), (&b.face, at_box))
}

/// A gap that no trunk runs over: planned as a bridge, too far, or onto another face.
fn bridged(map: &Map, b: &JobBranch, pair: &[ModuleKey], pitch: Pitch, path_m: f64) -> bool {
    let face = |m: &ModuleKey| map.lying(m).map(|l| l.face);
    b.bridges.contains(&pair[0])
        || face(&pair[0]) != face(&pair[1])
        || pitch.sections(path_m) > most_sections(map.job)
}

/// Between the middles of two modules, along frame and rail, m.
fn between(map: &Map, a: &ModuleKey, b: &ModuleKey) -> Option<f64> {
    let (a, b) = (map.lying(a)?, map.lying(b)?);
    map.path_m((a.face, map.middle(a)?), (b.face, map.middle(b)?))
}

pub(super) fn trunk(sheet: &mut Sheet, map: &Map, library: &Library, b: &JobBranch) -> OnTrunk {
    sheet.subject = Subject::Branch { branch: b.letter.clone() };
    let mut own = OnTrunk { units_n: b.modules.len(), ..OnTrunk::default() };
    if b.modules.is_empty() {
        sheet.known(&MODULES, ["branch.modules"]);
        return own;
    }
    modules(sheet, map, b);
    let pitch = Pitch::of(library.micro(&b.micro));
    for place in 1..b.modules.len() {
        let at_feed = place == b.before_feed();
        own.hops.push(if at_feed { Hop::Feed } else { hop(sheet, map, b, place, &pitch) });
    }
    sheet.subject = Subject::Branch { branch: b.letter.clone() };
    let Ok(pitch) = pitch else { return own };
    feeds(sheet, map, b, pitch, &mut own);
    own.pieces = pieces(&own, pitch);
    sums(sheet, b, pitch, &own);
    own
}

fn modules(sheet: &mut Sheet, map: &Map, b: &JobBranch) {
    let (n, planned) = (b.modules.len(), b.units() as usize);
    let misplaced = map.misplaced(&b.letter, &b.modules);
    let reason = match &misplaced {
        Some(Misplaced::Gone(m)) => format!("{m} is not on the map."),
        Some(Misplaced::Shared(m, other)) => format!("{m} is in {other} too."),
        Some(Misplaced::Twice(m)) => format!("{m} stands in it twice."),
        None if n != planned => format!("{n} units on the map, {planned} on the branch."),
        None => String::new(),
    };
    let verdict = if reason.is_empty() { Verdict::Pass } else { Verdict::Fail };
    let check = sheet.judge(&MODULES, verdict);
    check.reason(reason);
    if misplaced.is_none() && n != planned && b.arms_n.len() == 1 {
        let edit = Edit::new(format!("/branches/{}/arms_n", b.letter), serde_json::json!([n]));
        check.cure(format_args!("Branch {} of {n}, as it lies.", b.letter), vec![edit]);
    }
}

/// From the unit at a place, from 1, to the next.
fn hop(
    sheet: &mut Sheet,
    map: &Map,
    b: &JobBranch,
    place: usize,
    pitch: &Result<Pitch, Vec<Field>>,
) -> Hop {
    let (from, to) = (&b.modules[place - 1], &b.modules[place]);
    let faces = [from, to].map(|m| map.lying(m).map(|l| l.face));
    let [Some(face), Some(next_face)] = faces else { return Hop::Open };
    sheet.subject = Subject::Join { string: b.letter.clone(), place };
    let crossing = face != next_face;
    let found = between(map, from, to);
    let path = sheet.figure(&PATH, |w| {
        if found.is_none() {
            w.lack(if crossing { "roof.crossing" } else { "face.module" });
        }
        Some(w.given("from middle to middle", Metres(found?), "roof map"))
    });
    let planned = b.bridges.contains(from);
    if planned || crossing {
        let bridge = bridge(sheet, &path);
        let Some(m) = bridge.value() else {
            sheet.known(&BRIDGE, bridge.missing().iter().copied());
            return Hop::Open;
        };
        let verdict = if planned { Verdict::Pass } else { Verdict::Fail };
        let check = sheet.judge(&BRIDGE, verdict);
        if !planned {
            check.reason("The next unit is on another face: no trunk runs across.");
            bridging(check, b, from, place, m);
        }
        return Hop::Bridge(m);
    }
    let sections = sheet.count(&SECTIONS_N, |w| {
        let path = w.take("path", &path);
        let pitch = match pitch {
            Ok(pitch) => pitch,
            Err(missing) => {
                missing.iter().for_each(|f| w.lack(f));
                return None;
            }
        };
        let lead = w.given("lead", Metres(pitch.lead_m), "unit data sheet");
        let drops = w.given("pitch", Metres(pitch.pitch_m), "unit data sheet");
        let over = (path? - exact::<Ratio>(2.0) * lead) / drops;
        Some(over.ceil().max(exact(1.0)))
    });
    let most = most_sections(map.job);
    let Some(n) = sections.value().map(|n| n as u32) else {
        sheet.known(&SECTIONS_N, sections.missing().iter().copied());
        return Hop::Open;
    };
    let reach = path.value().unwrap_or(0.0) + BRIDGE_M;
    if n > most {
        let check = sheet.judge(&SECTIONS_N, Verdict::Fail);
        check.reason(format_args!("{n} sections: the trunk runs through up to {most}."));
        bridging(check, b, from, place, reach);
        return Hop::Bridge(reach);
    }
    let verdict = if n > 1 { Verdict::Warn } else { Verdict::Pass };
    let check = sheet.judge(&SECTIONS_N, verdict);
    match n - 1 {
        0 => {}
        1 => {
            check.reason("1 drop is lost between them: seal it with a cap.");
        }
        lost => {
            check.reason(format_args!("{lost} drops are lost between them: seal each with a cap."));
        }
    }
    if n > 1 {
        bridging(check, b, from, place, reach);
    }
    Hop::Trunk(n)
}

fn bridge(sheet: &mut Sheet, path: &Handle<Metres>) -> Handle<Metres> {
    sheet.figure(&BRIDGE, |w| {
        let path = w.take("path", path)?;
        Some(path + w.given("for both connectors", Metres(BRIDGE_M), "practice"))
    })
}

/// The way out: a bridge behind a unit.
fn bridging(
    check: &mut crate::figure::Check,
    b: &JobBranch,
    behind: &ModuleKey,
    place: usize,
    m: f64,
) {
    let all: Vec<&ModuleKey> = b.bridges.iter().chain([behind]).collect();
    let edit = Edit::new(format!("/branches/{}/bridges", b.letter), serde_json::json!(all));
    let (letter, m) = (&b.letter, said(m, Unit::M));
    let text = format!("A field-wired bridge of {m} behind {letter}{place}, a connector pair.");
    check.cure(text, vec![edit]);
}

fn feeds(sheet: &mut Sheet, map: &Map, b: &JobBranch, pitch: Pitch, own: &mut OnTrunk) {
    let at_box = map.job.roof.get(&b.face).and_then(|f| f.box_mm);
    let mut feeds_m = Vec::new();
    let feed = sheet.figure(&FEED, |w| {
        if at_box.is_none() {
            w.lack("face.box_mm");
        }
        let mut all: Option<Traced<Metres>> = None;
        for first in b.first_units() {
            let Some(path) = from_box(map, b, first) else {
                if at_box.is_some() {
                    w.lack("roof.crossing");
                }
                return None;
            };
            let path = w.given(format_args!("from the box to {first}"), Metres(path), "roof map");
            let slack = w.given("slack", Metres(map.slack_m), "setting");
            let lead = w.given("lead", Metres(pitch.lead_m), "unit data sheet");
            let one = w.step("feed", (path + slack - lead).max(exact(0.0)));
            feeds_m.push(one.value.0);
            all = Some(match all {
                Some(before) => before + one,
                None => one,
            });
        }
        all
    });
    if !feed.missing().is_empty() {
        sheet.known(&FEED, feed.missing().iter().copied());
    }
    own.feeds_m = feeds_m;
}

/// The pieces the trunk is cut into: drops of each, and how long it is with its feed, m.
fn pieces(own: &OnTrunk, pitch: Pitch) -> Vec<(u32, f64)> {
    let mut all = vec![(1u32, 0.0)];
    let more = |all: &mut Vec<(u32, f64)>, n: u32| {
        if let Some((drops, m)) = all.last_mut() {
            (*drops, *m) = (*drops + n, *m + f64::from(n) * pitch.pitch_m);
        }
    };
    let fed = own.feeds_m.clone();
    let mut feeds = fed.into_iter();
    // Of two arms the first is fed at its end; of one at its beginning.
    let two = own.hops.contains(&Hop::Feed);
    if !two {
        all[0].1 += feeds.next().unwrap_or(0.0);
    }
    for hop in &own.hops {
        match hop {
            Hop::Trunk(n) => more(&mut all, *n),
            Hop::Open => more(&mut all, 1),
            Hop::Bridge(_) => all.push((1, 0.0)),
            Hop::Feed => {
                if let Some(last) = all.last_mut() {
                    last.1 += feeds.next().unwrap_or(0.0);
                }
                all.push((1, feeds.next().unwrap_or(0.0)));
            }
        }
    }
    all
}

fn sums(sheet: &mut Sheet, b: &JobBranch, pitch: Pitch, own: &OnTrunk) {
    if own.hops.contains(&Hop::Open) || own.feeds_m.is_empty() {
        return;
    }
    let lost = lost_n(&own.hops);
    let units = own.units_n as f64;
    let lost_n = sheet.count(&LOST_N, |w| {
        Some(w.given("sections beyond one a unit", Ratio(f64::from(lost)), "roof map"))
    });
    sheet.count(&DROPS_N, |w| {
        Some(w.given("units", Ratio(units), "branch") + w.take("lost", &lost_n)?)
    });
    let sections: u32 = own.hops.iter().map(|h| if let Hop::Trunk(n) = h { *n } else { 0 }).sum();
    let feed: f64 = own.feeds_m.iter().sum();
    sheet.figure(&CABLE, |w| {
        let n = w.given("sections", Ratio(f64::from(sections)), "roof map");
        let one = w.given("pitch", Metres(pitch.pitch_m), "unit data sheet");
        Some(n * one + w.given("feed", Metres(feed), FEED.card().id))
    });
    let arms = b.arms_n.len() as f64;
    sheet.count(&CAPS_N, |w| Some(w.given("ends", Ratio(arms), "one at the end of each arm")));
}

/// Drops lost between units.
pub(super) fn lost_n(hops: &[Hop]) -> u32 {
    hops.iter().map(|h| if let Hop::Trunk(n) = h { n - 1 } else { 0 }).sum()
}

/// A reel of trunk, and what is cut from it.
struct Reel {
    /// Drops that are left.
    left: u32,
    /// Drops of each piece, with its branch.
    pieces: Vec<String>,
}

impl Reel {
    fn cut(&mut self, drops: u32, of: &Letter) {
        self.left -= drops;
        self.pieces.push(format!("{drops} of {of}"));
    }
}

/// Reels for the branches of one unit: pieces laid on reels, the longest first.
pub(super) fn reels(sheet: &mut Sheet, library: &Library, trunks: &[(&JobBranch, OnTrunk)]) {
    let whole = |t: &&(&JobBranch, OnTrunk)| !t.1.pieces.is_empty();
    let Some((first, _)) = trunks.iter().find(whole) else { return };
    sheet.subject = Subject::Site;
    // One kind of unit is the rule; another one's trunk does not fit.
    let (mut missing, mut beyond) = (false, None);
    let mut reels: Vec<Reel> = Vec::new();
    let mut kinds: Vec<&crate::library::SheetRef> = vec![&first.micro];
    for (b, _) in trunks.iter().filter(whole) {
        if !kinds.contains(&&b.micro) {
            kinds.push(&b.micro);
        }
    }
    for kind in kinds {
        let Some(reel_n) = library.micro(kind).and_then(|m| m.trunk.reel_n) else {
            missing = true;
            continue;
        };
        let reel_n = reel_n as u32;
        let own = trunks.iter().filter(|(b, _)| b.micro == *kind);
        let mut drops: Vec<(u32, &Letter)> =
            own.flat_map(|(b, t)| t.pieces.iter().map(|p| (p.0, &b.letter))).collect();
        drops.sort_by_key(|(n, _)| std::cmp::Reverse(*n));
        let begun = reels.len();
        for (n, letter) in drops {
            if n > reel_n {
                beyond = Some((n, reel_n));
                continue;
            }
            match reels[begun..].iter_mut().find(|r| r.left >= n) {
                Some(reel) => reel.cut(n, letter),
                None => {
                    let mut reel = Reel { left: reel_n, pieces: Vec::new() };
                    reel.cut(n, letter);
                    reels.push(reel);
                }
            }
        }
    }
    let (reels_n, left) = (reels.len(), reels.iter().map(|r| r.left).sum::<u32>());
    let lacking =
        |w: &mut crate::figure::Working| missing.then(|| w.lack("trunk.reel_n")).is_some();
    let counted = sheet.count(&REELS_N, |w| {
        if lacking(w) {
            return None;
        }
        for (k, reel) in reels.iter().enumerate() {
            let cut = reel.pieces.join(", ");
            let label = format!("reel {}", k + 1);
            w.words(&label, format_args!("{cut}; {} left", reel.left), "drops of each piece");
        }
        w.note("Pieces are laid on reels, the longest first.");
        Some(w.given("reels", Ratio(reels_n as f64), "pieces of all branches"))
    });
    sheet.count(&LEFT_N, |w| {
        if lacking(w) {
            return None;
        }
        Some(w.given("drops left", Ratio(f64::from(left)), "pieces of all branches"))
    });
    match beyond {
        Some((n, reel_n)) => {
            let check = sheet.judge(&REELS_N, Verdict::Fail);
            check.reason(format_args!("A piece of {n} drops, {reel_n} are on a reel."));
            check.cure("A bridge between two units of that branch.", Vec::new());
        }
        None => {
            sheet.known(&REELS_N, counted.missing().iter().copied());
        }
    }
}
