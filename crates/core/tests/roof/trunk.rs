//! Trunk cable of microinverter branches on the map.

use heliant_core::figure::{Recording, Verdict};
use heliant_core::job::{self, FaceMap, Job, JobBranch, JobFile, ModuleKey, Placed, applied};
use heliant_core::search::{Reroute, reroute};
use heliant_core::{evaluate, evaluate_with};

use heliant_core::stages::roof::Pitch;
use heliant_core::work::Work;
use proptest::prelude::*;
use std::collections::BTreeSet;

use crate::{check, number, reason, report, stops};

/// Units lie 1.066 m apart along the eave and 1.71 m up the slope; leads of 0.25 m, a drop every
/// 1.3 m. Branch C crosses to the other roof.
fn pinyon() -> JobFile {
    job::read(include_str!("../../../../data/demo/pinyon-street.json"))
        .expect("the demo job reads")
        .file
}

#[test]
fn sections_lost_drops_and_bridges_follow_from_where_the_units_lie() {
    let r = report(&pinyon());
    assert!((number(&r, "trunk.path_m", "A8-A9") - 1.71).abs() < 1e-9);
    // (1.71 - 2 x 0.25) / 1.3 = 0.93: one section.
    assert!((number(&r, "trunk.sections_n", "A8-A9") - 1.0).abs() < 1e-9);
    // Past the vent 2.132 m: (2.132 - 0.5) / 1.3 = 1.26, two sections, one drop lost.
    assert!((number(&r, "trunk.sections_n", "B1-B2") - 2.0).abs() < 1e-9);
    let at = reason(&r, "trunk.sections_n", "B1-B2");
    assert_eq!(at, (Verdict::Warn, "1 drop is lost between them: seal it with a cap."));
    assert!((number(&r, "trunk.lost_n", "B") - 1.0).abs() < 1e-9);
    assert!((number(&r, "trunk.drops_n", "B") - 11.0).abs() < 1e-9);
    // Of C8 at (1523, 2955) to (600, 5200), 1.4 m over the gap, from (9700, 6600) to C9 at
    // (8985, 4665): 0.923 + 2.245 + 1.4 + 0.715 + 1.935, and 0.6 m for the connectors.
    assert!((number(&r, "trunk.bridge_m", "C8-C9") - (7.218 + 0.6)).abs() < 1e-9);
    assert_eq!(check(&r, "trunk.bridge_m", "C8-C9").verdict, Verdict::Pass);
    // One end, and both ends of a trunk that is fed in between.
    assert!((number(&r, "trunk.caps_n", "A") - 1.0).abs() < 1e-9);
    assert!((number(&r, "trunk.caps_n", "B") - 2.0).abs() < 1e-9);
}

#[test]
fn cable_and_reels_are_summed_from_the_pieces() {
    let mut file = pinyon();
    let r = report(&file);
    // B is fed before B5 and B6. From (1000, 150) to (1523, 4665) 5.038 m, to (2589, 4665) 6.104 m;
    // each with 0.1 m of slack and less 0.25 m of lead.
    let feeds = (5.038 - 0.15) + (6.104 - 0.15);
    assert!((number(&r, "trunk.feed_m", "B") - feeds).abs() < 1e-9);
    // 2 + 1 + 1 + 1 sections on the one arm, 4 on the other.
    assert!((number(&r, "trunk.cable_m", "B") - (9.0 * 1.3 + feeds)).abs() < 1e-9);
    // Pieces of 11, 6 and 5, 5 and 3, 2 drops on reels of 24: 11 + 6 + 5 + 2 and 5 + 3.
    assert!((number(&r, "trunk.reels_n", "site") - 2.0).abs() < 1e-9);
    assert!((number(&r, "trunk.left_n", "site") - 16.0).abs() < 1e-9);
    // What is cut from each, and what stays on it.
    let whole = evaluate_with(&file.job, &file.library, &[], Recording::Everything);
    let lines = &whole.figure("trunk.reels_n", "site").expect("reels").working;
    let said = |label: &str| {
        let line = lines.iter().find(|l| l.label == label).expect("a reel");
        serde_json::to_value(&line.value).expect("words")
    };
    assert_eq!(said("reel 1"), "11 of A, 6 of B, 5 of B, 2 of C; 0 left");
    assert_eq!(said("reel 2"), "5 of C, 3 of C; 16 left");
    file.library.micros[0].trunk.reel_n = Some(10.0);
    let r = report(&file);
    let at = reason(&r, "trunk.reels_n", "site");
    assert_eq!(at, (Verdict::Fail, "A piece of 11 drops, 10 are on a reel."));
    file.library.micros[0].trunk.reel_n = None;
    let open = report(&file);
    assert_eq!(check(&open, "trunk.reels_n", "site").missing, ["trunk.reel_n"]);
}

#[test]
fn the_volts_rise_over_every_section_that_lies_there() {
    // The second arm of B: 5.954 m of feed are 4.58 sections with five units beyond, then four of
    // one: 22.9 + 4 + 3 + 2 + 1 = 32.9; the first 18.8 + 4 + 3 + 2 + 2 x 1 = 29.8.
    let rise = 1.38 * 0.0142 * 32.9 / 240.0 * 100.0;
    let on_map = number(&report(&pinyon()), "branch.rise_trunk_pct", "B");
    assert!((on_map - rise).abs() < 1e-9, "{on_map}");
    // Of A, fed at its first: (0.523 + 1.095 - 0.15) / 1.3 = 1.13 sections with eleven beyond.
    let rise = 1.38 * 0.0142 * (1.468 / 1.3 * 11.0 + 55.0) / 240.0 * 100.0;
    let on_map = number(&report(&pinyon()), "branch.rise_trunk_pct", "A");
    assert!((on_map - rise).abs() < 1e-9, "{on_map}");
}

#[test]
fn a_gap_no_trunk_runs_over_is_a_stop_until_it_is_bridged() {
    let stop_and_cure = |change: &dyn Fn(&mut Job), id: &str, at: &str, text: &str| {
        let mut file = pinyon();
        change(&mut file.job);
        let r = report(&file);
        assert_eq!(stops(&r), [format!("{id} {at}")]);
        assert_eq!(reason(&r, id, at).1, text);
        let cure = &check(&r, id, at).cures[0];
        let cured = applied(&file.job, &cure.edits).expect("a job");
        assert!(stops(&evaluate(&cured, &file.library, &[])).is_empty(), "{}", cure.text);
        cure.text.clone()
    };
    let unplanned = |j: &mut Job| j.branches[2].bridges.clear();
    let text = "The next unit is on another face: no trunk runs across.";
    let cure = stop_and_cure(&unplanned, "trunk.bridge_m", "C8-C9", text);
    assert_eq!(cure, "A field-wired bridge of 7.82 m behind C8, a connector pair.");
    // A11 moved 4 m up the slope: 1.066 + 4 = 5.066; (5.066 - 0.5) / 1.3 = 3.5, four sections.
    let far = |j: &mut Job| {
        let face = j.roof.get_mut("e").expect("e");
        face.modules.get_mut("e-26").expect("A11").y_mm += 4000.0;
        face.slope_m = Some(12.0);
    };
    let text = "4 sections: the trunk runs through up to 3.";
    let cure = stop_and_cure(&far, "trunk.sections_n", "A10-A11", text);
    assert_eq!(cure, "A field-wired bridge of 5.67 m behind A10, a connector pair.");
}

#[test]
fn what_is_not_known_of_a_trunk_is_open() {
    let missing = |change: &dyn Fn(&mut JobFile), id: &str, at: &str| {
        let mut file = pinyon();
        change(&mut file);
        let r = report(&file);
        let own = check(&r, id, at);
        assert_eq!(own.verdict, Verdict::Unknown, "{id} {at}");
        own.missing.join(" ")
    };
    let lead = |f: &mut JobFile| f.library.micros[0].lead_m = None;
    assert_eq!(missing(&lead, "trunk.sections_n", "A1-A2"), "unit.lead_m");
    let crossing = |f: &mut JobFile| f.job.roof.get_mut("e").expect("e").crossings.clear();
    assert_eq!(missing(&crossing, "trunk.bridge_m", "C8-C9"), "roof.crossing");
    let no_box = |f: &mut JobFile| f.job.roof.get_mut("e").expect("e").box_mm = None;
    assert_eq!(missing(&no_box, "trunk.feed_m", "A"), "face.box_mm");
    let loose = |f: &mut JobFile| f.job.branches[0].modules.clear();
    assert_eq!(missing(&loose, "branch.modules", "A"), "branch.modules");
}

#[test]
fn units_are_held_against_the_branch_they_were_planned_with() {
    let fails = |change: &dyn Fn(&mut Job), text: &str| {
        let mut file = pinyon();
        change(&mut file.job);
        let r = report(&file);
        assert_eq!(reason(&r, "branch.modules", "A"), (Verdict::Fail, text));
    };
    fails(&|j| j.branches[0].modules[1] = "e-99".into(), "e-99 is not on the map.");
    fails(&|j| j.branches[0].modules[1] = "e-11".into(), "e-11 stands in it twice.");
    fails(&|j| j.branches[0].modules[1] = "e-25".into(), "e-25 is in B too.");
    let short = |j: &mut Job| drop(j.branches[0].modules.pop());
    fails(&short, "10 units on the map, 11 on the branch.");
}

/// Units on a small face, their middles as they stand there; 1.3 m of pitch and 0.25 m of lead.
fn small() -> (JobFile, Vec<(ModuleKey, [f64; 2])>) {
    let mut file = pinyon();
    // A gap behind the second column, one module that stands apart.
    let corners = [
        (1000.0, 500.0),
        (2066.0, 500.0),
        (5200.0, 500.0),
        (1000.0, 2210.0),
        (2066.0, 2210.0),
        (5200.0, 3400.0),
        (8600.0, 500.0),
    ];
    let keys = (1..).map(|n| ModuleKey::from(format!("s-{n}").as_str()));
    let placed = corners.map(|(x_mm, y_mm)| Placed { x_mm, y_mm, ..Placed::default() });
    let modules: Vec<(ModuleKey, Placed)> = keys.zip(placed).collect();
    let middles = modules.iter().map(|(k, p)| (k.clone(), [p.x_mm + 523.0, p.y_mm + 845.0]));
    let middles = middles.collect();
    let own = FaceMap {
        eave_m: Some(12.0),
        slope_m: Some(8.0),
        box_mm: Some([4000.0, 100.0]),
        modules: modules.into_iter().collect(),
        ..FaceMap::default()
    };
    file.job.roof = [("e".into(), own)].into();
    file.job.branches.truncate(1);
    file.job.branches[0].modules.clear();
    file.job.branches[0].arms_n = vec![4, 3];
    (file, middles)
}

/// All orders of what is left.
fn orders(left: &[usize], so_far: &mut Vec<usize>, each: &mut impl FnMut(&[usize])) {
    if left.is_empty() {
        return each(so_far);
    }
    for m in left {
        let rest: Vec<usize> = left.iter().filter(|o| *o != m).copied().collect();
        so_far.push(*m);
        orders(&rest, so_far, each);
        so_far.pop();
    }
}

#[test]
fn branches_are_routed_with_the_least_cable_there_is() {
    let (file, middles) = small();
    let ask = Reroute { face: "e".into(), keep: Vec::new(), turn: 0, may_turn: true, along: None };
    let done = reroute(&file.job, &file.library, &ask, &Work::default()).expect("all are joined");
    let path = |a: [f64; 2], b: [f64; 2]| ((a[0] - b[0]).abs() + (a[1] - b[1]).abs()) / 1000.0;
    let sections = |a: [f64; 2], b: [f64; 2]| ((path(a, b) - 0.5) / 1.3 - 1e-9).ceil().max(1.0);
    let arm = |order: &[usize]| -> f64 {
        let feed = (path(middles[order[0]].1, [4000.0, 100.0]) + 0.1 - 0.25).max(0.0);
        let hops = order.windows(2).map(|p| sections(middles[p[0]].1, middles[p[1]].1) * 1.3);
        feed + hops.sum::<f64>()
    };
    let mut least = f64::INFINITY;
    orders(&(0..7).collect::<Vec<_>>(), &mut Vec::new(), &mut |order| {
        least = least.min(arm(&order[..4]) + arm(&order[4..]));
    });
    assert!((done.after.wire_m - least).abs() < 1e-6, "{} of {least}", done.after.wire_m);
    assert!((done.bound_m - least).abs() < 1e-6, "searched whole");
    // The job has them in order along the trunk, fed between the fourth and the fifth.
    let own = &done.job.branches[0];
    let at = |m: &ModuleKey| middles.iter().position(|(k, _)| k == m).expect("on the face");
    let order: Vec<usize> = own.modules.iter().map(at).collect();
    let first: Vec<usize> = order[..4].iter().rev().copied().collect();
    assert!((arm(&first) + arm(&order[4..]) - least).abs() < 1e-6);
    // What lies more than three sections apart is bridged.
    let r = evaluate(&done.job, &file.library, &[]);
    assert!(stops(&r).iter().all(|s| !s.starts_with("trunk")), "{:?}", stops(&r));
    let again = Reroute { turn: 1, ..ask };
    let again =
        reroute(&done.job, &file.library, &again, &Work::default()).expect("all are joined");
    assert!((again.before.expect("was there").wire_m - least).abs() < 1e-6);
}

#[test]
fn a_pinned_unit_stays_on_its_branch() {
    let (mut file, _) = small();
    file.job.branches[0].arms_n = vec![4];
    let second = JobBranch { letter: "B".into(), arms_n: vec![3], ..file.job.branches[0].clone() };
    file.job.branches.push(second);
    let ask = Reroute { face: "e".into(), keep: Vec::new(), turn: 0, may_turn: true, along: None };
    let free = reroute(&file.job, &file.library, &ask, &Work::default()).expect("all are joined");
    // The first units of both are put into the other branch by hand, and one is pinned there.
    file.job = free.job.clone();
    let [a, b] = [0, 1].map(|i| file.job.branches[i].modules[0].clone());
    file.job.branches[0].modules[0] = b.clone();
    file.job.branches[1].modules[0] = a.clone();
    file.job.branches[1].pinned = vec![a.clone()];
    let done = reroute(&file.job, &file.library, &ask, &Work::default()).expect("all are joined");
    assert!(done.job.branches[1].modules.contains(&a));
    assert!(done.after.wire_m >= free.after.wire_m - 1e-9, "the best was found without the pin");
    assert!(done.after.wire_m <= done.before.expect("joined").wire_m + 1e-9);
}

#[test]
fn what_a_routing_of_branches_lacks_is_said() {
    let said = |change: &dyn Fn(&mut JobFile)| {
        let (mut file, _) = small();
        change(&mut file);
        let ask =
            Reroute { face: "e".into(), keep: Vec::new(), turn: 0, may_turn: true, along: None };
        let problems = reroute(&file.job, &file.library, &ask, &Work::default())
            .expect_err("not to be routed");
        format!("{}: {}", problems[0].path, problems[0].message)
    };
    let pitch = said(&|f| f.library.micros[0].trunk.pitch_m = None);
    assert_eq!(pitch, "/library/micros: the unit's trunk.pitch_m is not on its data sheet");
    let no_box = said(&|f| f.job.roof.get_mut("e").expect("e").box_mm = None);
    assert_eq!(no_box, "/job/roof/e/box_mm: the box has no place");
    let few = said(&|f| f.job.branches[0].arms_n = vec![4, 4]);
    assert_eq!(few, "/job/roof/e/modules: 8 units in branches, 7 on the face");
    let across = said(&|f| f.job.branches[0].modules = vec!["s-1".into(), "w-1".into()]);
    assert_eq!(across, "/job/roof/e: no string or branch of this face alone is to be routed");
}

proptest! {
    /// Sections are what a plain walk along the trunk counts: one more for every pitch begun.
    #[test]
    fn sections_are_pitches_begun(path in 0.0..40.0f64, lead in 0.0..1.0f64, pitch in 0.5..3.0f64) {
        let sections = Pitch { lead_m: lead, pitch_m: pitch }.sections(path);
        let mut counted = 1;
        while 2.0 * lead + f64::from(counted) * pitch < path - 1e-9 {
            counted += 1;
        }
        prop_assert_eq!(sections, counted);
    }

    /// Wherever the modules of a branch lie, its drops are its units and what is lost between them,
    /// and its pieces hold them all.
    #[test]
    fn drops_are_units_and_what_is_lost(places in prop::collection::vec((0u8..8, 0u8..4), 4..12)) {
        let mut file = small().0;
        let places: BTreeSet<(u8, u8)> = places.into_iter().collect();
        let face = file.job.roof.get_mut("e").expect("e");
        (face.eave_m, face.slope_m) = (Some(20.0), Some(12.0));
        face.modules = places
            .iter()
            .map(|(x, y)| {
                let placed = Placed {
                    x_mm: 1000.0 + f64::from(*x) * 1900.0,
                    y_mm: 500.0 + f64::from(*y) * 2300.0,
                    ..Placed::default()
                };
                (ModuleKey::from(format!("s-{x}{y}").as_str()), placed)
            })
            .collect();
        let own = &mut file.job.branches[0];
        own.modules = face.modules.keys().cloned().collect();
        own.arms_n = vec![own.modules.len() as u32];
        let r = report(&file);
        let trunk = &r.roof[0].trunks[0];
        let lost: u32 = trunk.lost.iter().map(|l| l.n).sum();
        let drops: u32 = trunk.pieces.iter().map(|p| p.drops_n).sum();
        prop_assert_eq!(drops, own_units(&file) + lost);
        prop_assert!((number(&r, "trunk.drops_n", "A") - f64::from(drops)).abs() < 1e-9);
        prop_assert_eq!(trunk.pieces.len(), trunk.bridges.len() + 1);
    }
}

fn own_units(file: &JobFile) -> u32 {
    file.job.branches[0].units()
}

#[test]
fn how_far_a_trunk_runs_through_is_a_setting() {
    let mut file = pinyon();
    file.job.settings.trunk_sections_n = Some(1);
    let r = report(&file);
    // Past the vent two sections: with one at most that is a bridge of 2.132 + 0.6 m.
    let at = reason(&r, "trunk.sections_n", "B1-B2");
    assert_eq!(at, (Verdict::Fail, "2 sections: the trunk runs through up to 1."));
    assert!((r.roof[0].trunks[1].bridges[0].m - 2.732).abs() < 1e-9);
    // It parts the trunk, and takes volts by its length: 2.732 m are 2.1 sections, not two.
    assert_eq!(r.roof[0].trunks[1].pieces.len(), 3);
}
