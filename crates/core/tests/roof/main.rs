//! The roof map of a whole job: joins, tails, faces, faces filled and routed.

mod crossings;
mod faces;
mod frames;
mod trunk;

use heliant_core::figure::{Check, Verdict};
use heliant_core::job::{self, FaceMap, Job, JobFile, Obstruction, Placed, applied};
use heliant_core::search::{Along, Reroute, reroute};
use heliant_core::work::Work;
use heliant_core::{Report, evaluate};

fn kestrel() -> JobFile {
    job::read(include_str!("../../../../data/demo/kestrel-lane.json"))
        .expect("the demo job reads")
        .file
}

fn report(file: &JobFile) -> Report {
    evaluate(&file.job, &file.library, &[])
}

fn check<'r>(report: &'r Report, id: &str, subject: &str) -> &'r Check {
    report.check(id, subject).unwrap_or_else(|| panic!("{id} of {subject}"))
}

fn reason<'r>(report: &'r Report, id: &str, subject: &str) -> (Verdict, &'r str) {
    let c = check(report, id, subject);
    (c.verdict, c.reason.as_deref().unwrap_or_default())
}

fn number(report: &Report, id: &str, subject: &str) -> f64 {
    let figure = report.figure(id, subject).unwrap_or_else(|| panic!("{id} of {subject}"));
    figure.value.as_ref().and_then(|v| v.number()).unwrap_or_else(|| panic!("{id} is open"))
}

/// Stops of the roof map, by id and subject.
fn stops(report: &Report) -> Vec<String> {
    let own = report.checks.iter().filter(|c| c.verdict == Verdict::Fail);
    own.filter(|c| serde_json::to_value(c.stage).expect("a word") == "roof")
        .map(|c| format!("{} {}", c.id, c.subject))
        .collect()
}

#[test]
fn a_module_the_wrong_way_round_stops_both_its_joins_and_is_cured_in_two_ways() {
    let mut file = kestrel();
    let before = report(&file);
    assert_eq!(stops(&before), ["join.path_m B4-B5", "join.path_m B5-B6"]);
    let at = reason(&before, "join.path_m", "B4-B5");
    assert_eq!(at, (Verdict::Fail, "+ of B4 meets + of B5. Crossed over the leads reach."));
    let at = reason(&before, "join.path_m", "B5-B6").1;
    assert!(at.starts_with("− of B5 meets − of B6."), "{at}");
    for cure in &check(&before, "join.path_m", "B4-B5").cures {
        let cured = applied(&file.job, &cure.edits).expect("a job");
        let after = evaluate(&cured, &file.library, &[]);
        assert!(stops(&after).is_empty(), "{}: {:?}", cure.text, stops(&after));
    }
    // With leads of 0.6 m crossing takes a jumper on either side: 1.154 m of path, 1.1 m of reach.
    file.library.modules[0].lead_m = Some(0.6);
    let short = report(&file);
    let text = "+ of B4 meets + of B5. Crossed over it is 0.05 m short.";
    assert_eq!(reason(&short, "join.path_m", "B4-B5").1, text);
    let cures = &check(&short, "join.path_m", "B4-B5").cures;
    assert!(cures[1].text.ends_with("2 jumpers, 1.00 m in all."), "{}", cures[1].text);
    let cured = applied(&file.job, &cures[1].edits).expect("a job");
    let own = cured.strings.iter().find(|s| s.letter == "B").expect("B");
    assert_eq!(own.jumpers.values().copied().collect::<Vec<_>>(), [0.5, 0.5]);
    let after = evaluate(&cured, &file.library, &[]);
    assert_eq!(check(&after, "join.path_m", "B4-B5").verdict, Verdict::Pass);
}

#[test]
fn a_join_that_does_not_reach_says_how_short_it_is_and_which_jumper_mends_it() {
    let mut file = kestrel();
    file.library.modules[0].lead_m = Some(0.6);
    let report = report(&file);
    // A7 to A8 goes back from the right: 1.154 + 0.499 = 1.653 m; 0.6 + 0.6 - 0.1 = 1.1 m.
    let own = check(&report, "join.path_m", "A7-A8");
    assert_eq!(own.reason.as_deref(), Some("0.55 m short."));
    let limit = own.limit.as_ref().map_or(0.0, |l| l.value);
    assert!((limit - 1.1).abs() < 1e-9, "{limit}");
    // 0.553 m takes the next in stock above 0.5 m.
    assert_eq!(own.cures.last().expect("a cure").text, "A jumper of 1.00 m behind A7.");
}

#[test]
fn tails_are_what_the_leads_lack_to_the_box() {
    let report = report(&kestrel());
    let metres = |id: &str| {
        let figure = report.figure(id, "A").expect("a figure");
        figure.value.as_ref().and_then(|v| v.number()).expect("a number")
    };
    // - of A1 at (1160 + 317.52, 4092 + 861), the box at (1500, 1600): 0.02248 + 3.353 m of path,
    // + 0.1 of slack - 1.2 of lead.
    assert!((metres("string.tail_minus_m") - 2.27548).abs() < 1e-9);
    // + of A12 at (1160 + 816.48, 2350 + 861): 0.47648 + 1.611 + 0.1 - 1.2.
    assert!((metres("string.tail_plus_m") - 0.98748).abs() < 1e-9);
    let wire = report.figure("route.wire_m", "se").and_then(|f| f.value.as_ref()?.number());
    assert!((wire.expect("metres") - (2.27548 + 0.98748)).abs() < 1e-9);
}

#[test]
fn strings_are_held_against_the_modules_they_were_planned_with() {
    let judged = |change: &dyn Fn(&mut Job)| {
        let mut file = kestrel();
        change(&mut file.job);
        let report = report(&file);
        let (verdict, text) = reason(&report, "string.modules", "C");
        (verdict, text.to_owned())
    };
    assert_eq!(judged(&|_| {}).0, Verdict::Pass);
    let fails = |change: &dyn Fn(&mut Job), text: &str| {
        assert_eq!(judged(change), (Verdict::Fail, text.to_owned()));
    };
    fails(&|j| j.strings[2].modules[1] = "sw-001".into(), "sw-001 stands in it twice.");
    fails(&|j| j.strings[2].modules[0] = "sw-008".into(), "sw-008 is in string B too.");
    fails(&|j| j.strings[2].modules[0] = "sw-099".into(), "sw-099 is not on the map.");
    fails(&|j| j.strings[2].n = 6, "7 modules on the map, 6 in the string.");
    // Another face has other light; the way of the join over the ridge is not known.
    let elsewhere = |j: &mut Job| {
        j.strings[0].modules.remove(0);
        j.strings[2].modules[0] = "se-007".into();
    };
    let (verdict, text) = judged(&elsewhere);
    assert_eq!(
        (verdict, text.as_str()),
        (Verdict::Warn, "se-007 lies on se: it gets other light than the rest.")
    );
    let mut file = kestrel();
    elsewhere(&mut file.job);
    let report = report(&file);
    let crossing = check(&report, "join.path_m", "C1-C2");
    assert_eq!((crossing.verdict, &*crossing.missing), (Verdict::Unknown, &["roof.crossing"][..]));
}

#[test]
fn counts_of_map_and_strings_are_brought_together_either_way() {
    let mut file = kestrel();
    file.job.strings[0].n = 11;
    file.job.strings[0].modules.pop();
    let report = report(&file);
    let own = check(&report, "face.modules_n", "se");
    assert_eq!(own.reason.as_deref(), Some("12 on the map, 11 in strings and branches."));
    let texts: Vec<&str> = own.cures.iter().map(|c| c.text.as_str()).collect();
    let off = "1 taken off the map: they are in no string.";
    assert_eq!(texts, ["String A of 12, as the map has it.", off]);
    for cure in &own.cures {
        let cured = applied(&file.job, &cure.edits).expect("a job");
        let after = evaluate(&cured, &file.library, &[]);
        assert_eq!(check(&after, "face.modules_n", "se").verdict, Verdict::Pass, "{}", cure.text);
    }
}

#[test]
fn a_face_holds_its_modules_apart_on_it_and_clear() {
    let judged = |change: &dyn Fn(&mut FaceMap)| {
        let mut file = kestrel();
        change(file.job.roof.get_mut("se").expect("a map"));
        let report = report(&file);
        let (verdict, text) = reason(&report, "face.fits", "se");
        (verdict, text.to_owned())
    };
    let module = |m: &mut FaceMap, x: f64, y: f64| {
        let placed = m.modules.get_mut("se-001").expect("a module");
        (placed.x_mm, placed.y_mm) = (x, y);
    };
    assert_eq!(judged(&|_| {}).0, Verdict::Pass);
    let (verdict, text) = judged(&|m| module(m, 1200.0, 2350.0));
    assert_eq!((verdict, &*text), (Verdict::Fail, "se-001 and se-002 lie over one another."));
    assert_eq!(judged(&|m| module(m, -10.0, 500.0)).1, "se-001 does not lie on the face.");
    // The chimney ends at 2 000 mm and keeps 100 mm free.
    assert_eq!(judged(&|m| module(m, 5600.0, 350.0)).1, "se-001 is too near chimney.");
    let outside = judged(&|m| {
        let o = Obstruction {
            name: "vent".into(),
            x_mm: 8_900.0,
            y_mm: 6_900.0,
            width_mm: 200.0,
            height_mm: 200.0,
            clearance_mm: 0.0,
        };
        m.obstructions.insert("v".into(), o);
    });
    assert_eq!(outside.1, "vent does not stand on the face.");
    // Without its sizes nobody knows.
    let open = judged(&|m| (m.eave_m, m.slope_m) = (None, None));
    assert_eq!(open.0, Verdict::Unknown);
}

#[test]
fn paths_that_nobody_asked_for_or_left_out_are_open() {
    let judged = |asked: Option<bool>, lift: f64| {
        let mut file = kestrel();
        file.job.settings.fire_paths = asked;
        for placed in file.job.roof.get_mut("se").expect("a map").modules.values_mut() {
            placed.y_mm += lift;
        }
        let report = report(&file);
        check(&report, "face.free", "se").verdict
    };
    // 7 000 - 2 350 - 3 464 = 1 186 mm to the ridge: 0.91 is free; 0.5 m higher only an edge is.
    assert_eq!(judged(Some(true), 0.0), Verdict::Pass);
    assert_eq!(judged(Some(true), 500.0), Verdict::Fail);
    assert_eq!(judged(Some(false), 500.0), Verdict::Pass);
    assert_eq!(judged(None, 500.0), Verdict::Unknown);
    assert_eq!(judged(None, 1_000.0), Verdict::Fail, "0.186 m is no edge either");
}

#[test]
fn a_face_is_routed_and_searched_on_never_to_something_worse() {
    let file = kestrel();
    let ask = |keep: &[&str], turn| Reroute {
        face: "sw".into(),
        keep: keep.iter().map(|l| (*l).into()).collect(),
        turn,
        may_turn: true,
        along: None,
    };
    let done =
        reroute(&file.job, &file.library, &ask(&[], 0), &Work::default()).expect("it routes");
    assert!(done.before.is_none(), "a module was the wrong way round");
    let after = evaluate(&done.job, &file.library, &[]);
    assert!(stops(&after).is_empty(), "{:?}", stops(&after));
    let wire = after.figure("route.wire_m", "sw").and_then(|f| f.value.as_ref()?.number());
    assert!((wire.expect("metres") - done.after.wire_m).abs() < 1e-6, "map and search agree");
    // B through and C through as planned take 20.44 m.
    assert!(done.after.wire_m < 20.44 && done.bound_m <= done.after.wire_m);

    let on = reroute(&done.job, &file.library, &ask(&[], 1), &Work::default()).expect("it routes");
    assert_eq!(on.before.map(|b| b.wire_m), Some(done.after.wire_m));
    assert!(on.after.wire_m <= done.after.wire_m);

    // B stays: only C is laid anew, over its own modules.
    let kept =
        reroute(&done.job, &file.library, &ask(&["B"], 0), &Work::default()).expect("it routes");
    let modules = |job: &Job, i: usize| job.strings[i].modules.clone();
    assert_eq!(modules(&kept.job, 1), modules(&done.job, 1));
}

#[test]
fn a_string_runs_along_its_modules_as_one_asks() {
    let file = kestrel();
    let run = |along| {
        let keep = Vec::new();
        let ask = Reroute { face: "se".into(), keep, turn: 0, may_turn: true, along: Some(along) };
        reroute(&file.job, &file.library, &ask, &Work::default()).expect("it routes")
    };
    // Two rows of six, as planned: out on the upper row, back on the lower one.
    let rows = |done: &heliant_core::search::Rerouted| -> Vec<bool> {
        let face = &done.job.roof["se"];
        let own = &done.job.strings[0].modules;
        own.iter().map(|m| face.modules[m].y_mm > 3000.0).collect()
    };
    let out_and_back = run(Along::OutAndBack);
    let upper = rows(&out_and_back);
    assert!(upper[..6].iter().all(|u| *u == upper[0]), "{upper:?}");
    assert!(upper[6..].iter().all(|u| *u != upper[0]), "{upper:?}");
    // Every second one out: neighbours in order are two apart, or meet at the far end.
    let second = run(Along::EverySecond);
    let face = &second.job.roof["se"];
    let at = |i: usize| &face.modules[&second.job.strings[0].modules[i]];
    let far = (at(0).x_mm - at(1).x_mm).abs() + (at(0).y_mm - at(1).y_mm).abs();
    assert!(far > 1700.0, "{far}");
    let through = run(Along::Through);
    for done in [&out_and_back, &second, &through] {
        let report = evaluate(&done.job, &file.library, &[]);
        assert_eq!(check(&report, "string.modules", "A").verdict, Verdict::Pass);
        let wire = number(&report, "route.wire_m", "se");
        assert!((wire - done.after.wire_m).abs() < 1e-6, "map and answer agree");
        // 3.26 m as planned; nothing is proved of what one asks.
        assert!((done.before.expect("joined").wire_m - 3.26296).abs() < 1e-6);
        assert_eq!((done.bound_m, done.gap_pct), (0.0, None));
    }
    let mut loose = file.job.clone();
    loose.strings[0].modules.clear();
    let along = Some(Along::Through);
    let ask = Reroute { face: "se".into(), keep: Vec::new(), turn: 0, may_turn: true, along };
    let problems =
        reroute(&loose, &file.library, &ask, &Work::default()).expect_err("nothing to run along");
    assert_eq!(problems[0].message, "string A does not lie on the map whole");
}

#[test]
fn what_is_pinned_stays_in_its_string_as_it_lies_and_the_rest_is_routed() {
    let mut file = kestrel();
    let ask = |face: &str, may_turn| Reroute {
        face: face.into(),
        keep: Vec::new(),
        turn: 0,
        may_turn,
        along: None,
    };
    let routed = |job: &Job, ask: &Reroute| {
        reroute(job, &file.library, ask, &Work::default()).expect("it routes")
    };
    // Routed, then two modules are put into the other string by hand and pinned there.
    file.job = routed(&file.job, &ask("sw", true)).job;
    let [b, c] = [1, 2].map(|i| file.job.strings[i].modules.clone());
    let (from_b, from_c) = (b[3].clone(), c[3].clone());
    file.job.strings[1].modules[3] = from_c.clone();
    file.job.strings[2].modules[3] = from_b.clone();
    file.job.strings[1].pinned = vec![from_c.clone()];
    file.job.strings[2].pinned = vec![from_b.clone()];
    let lies = |job: &Job, m: &job::ModuleKey| job.roof["sw"].modules[m].turned;
    let before = [lies(&file.job, &from_b), lies(&file.job, &from_c)];
    let done = routed(&file.job, &ask("sw", true));
    let own = |i: usize| done.job.strings[i].modules.clone();
    assert!(own(1).contains(&from_c) && own(2).contains(&from_b), "{:?}", done.job.strings);
    assert_eq!([lies(&done.job, &from_b), lies(&done.job, &from_c)], before);
    let was = done.before.expect("all were joined").wire_m;
    assert!(done.after.wire_m <= was + 1e-9, "{} of {was}", done.after.wire_m);
    assert!(done.bound_m <= done.after.wire_m);
    let mut all: Vec<_> = own(1).into_iter().chain(own(2)).collect();
    all.sort();
    all.dedup();
    assert_eq!(all.len(), 14, "each once");
    // Without the pins no routing is worse.
    let mut free = file.job.clone();
    free.strings.iter_mut().for_each(|s| s.pinned.clear());
    assert!(routed(&free, &ask("sw", true)).after.wire_m <= done.after.wire_m + 1e-9);
    // Pins ask for joined strings.
    let mut loose = file.job.clone();
    loose.strings[1].modules.pop();
    let problems =
        reroute(&loose, &file.library, &ask("sw", true), &Work::default()).expect_err("not joined");
    assert_eq!(problems[0].message, "modules are pinned, but not every string is joined");
    // Where nothing may be turned, turned modules stay turned.
    let placed: Vec<bool> = file.job.roof["sw"].modules.values().map(|m| m.turned).collect();
    let as_placed = routed(&free, &ask("sw", false));
    let after: Vec<bool> = as_placed.job.roof["sw"].modules.values().map(|m| m.turned).collect();
    assert_eq!(placed, after);
}

#[test]
fn a_better_place_for_the_box_is_found_and_priced() {
    let mut file = kestrel();
    let far = report(&file);
    // Tails of A leave at (1477.52, 4953) and (1976.48, 3211); both leads of 1.2 m less 0.1 m of
    // slack reach a box that lies 1.1 m from either: 499 + 1742 mm apart, 41 mm are left over.
    let better = far.roof[0].better_box.as_ref().expect("a better place");
    let present = 2.27548 + 0.98748;
    assert!((better.less_m - (present - 0.04096)).abs() < 1e-6, "{better:?}");
    assert!((number(&far, "route.box_more_m", "se") - better.less_m).abs() < 1e-9);
    file.job.roof.get_mut("se").expect("se").box_mm = Some(better.at_mm);
    let near = report(&file);
    assert!(near.roof[0].better_box.is_none(), "{:?}", near.roof[0].better_box);
    assert!((number(&near, "route.wire_m", "se") - 0.04096).abs() < 1e-6);
}

#[test]
fn what_a_routing_lacks_is_said() {
    let file = kestrel();
    let ask = Reroute { face: "sw".into(), keep: Vec::new(), turn: 0, may_turn: true, along: None };
    let told = |job: &Job, library: &heliant_core::library::Library| {
        let problems =
            reroute(job, library, &ask, &Work::default()).expect_err("something is missing");
        (problems[0].path.clone(), problems[0].message.clone())
    };
    let mut job = file.job.clone();
    job.roof.get_mut("sw").expect("a map").box_mm = None;
    let (path, message) = told(&job, &file.library);
    assert_eq!((&*path, &*message), ("/job/roof/sw/box_mm", "the box has no place"));
    let mut library = file.library.clone();
    library.modules[0].exits.plus_u_mm = None;
    assert!(told(&file.job, &library).1.contains("module.exits.plus_u_mm"));
    let mut job = file.job.clone();
    job.strings[1].n = 8;
    let message = told(&job, &file.library).1;
    assert_eq!(message, "15 modules in strings, 14 on the face");
    let mut job = file.job.clone();
    job.roof.clear();
    assert_eq!(told(&job, &file.library).1, "this face has no map");
}

#[test]
fn a_map_that_cannot_be_is_refused_with_its_place() {
    let refused = |change: &dyn Fn(&mut JobFile)| {
        let mut file = kestrel();
        change(&mut file);
        let problems = job::validate(&file);
        problems.into_iter().map(|p| (p.path, p.message)).collect::<Vec<_>>()
    };
    assert!(refused(&|_| {}).is_empty());
    let twice = refused(&|f| {
        let map = f.job.roof.get_mut("sw").expect("a map");
        map.modules.insert("se-001".into(), Placed::default());
    });
    assert_eq!(
        twice,
        [(
            "/job/roof/sw/modules/se-001".to_owned(),
            "module se-001 lies on face se already".to_owned()
        )]
    );
    let one = |change: &dyn Fn(&mut JobFile)| refused(change)[0].clone();
    let far = one(&|f| {
        f.job.roof.insert("north".into(), FaceMap::default());
    });
    assert_eq!(far, ("/job/roof/north".into(), "no face `north`".into()));
    let slash = one(&|f| {
        let map = f.job.roof.get_mut("sw").expect("a map");
        map.modules.insert("a/b".into(), Placed::default());
    });
    assert_eq!(slash.0, "/job/roof/sw/modules");
    let half = one(&|f| f.job.roof.get_mut("sw").expect("a map").slope_m = None);
    assert_eq!(half.0, "/job/roof/sw/slope_m");
    let jumper = one(&|f| {
        f.job.strings[0].jumpers.insert("se-001".into(), -1.0);
    });
    assert_eq!(jumper, ("/job/strings/0/jumpers/se-001".into(), "-1 m is no jumper".into()));
    let many = one(&|f| {
        let map = f.job.roof.get_mut("sw").expect("a map");
        map.modules.extend((0..5_000).map(|i| (format!("m{i}").into(), Placed::default())));
    });
    assert_eq!(many.1, "5014 modules are more than a face holds");
}

#[test]
fn serial_numbers_stand_once_and_are_written_alike() {
    let judged = |serials: &[(&str, &str, &str)]| {
        let mut file = kestrel();
        for (face, module, serial) in serials {
            let map = file.job.roof.get_mut(*face).expect("a map");
            map.modules.get_mut(*module).expect("a module").serial = Some((*serial).to_owned());
        }
        let report = report(&file);
        let own = report.check("face.serials_n", "se");
        own.map(|c| (c.verdict, c.reason.clone().unwrap_or_default()))
    };
    assert_eq!(judged(&[]), None, "nobody began yet");
    let one = [("se", "se-007", "BM43000017")];
    assert_eq!(judged(&one), Some((Verdict::Unknown, "11 of 12 open.".to_owned())));
    // The same on another face: A1 is se-007, C2 is sw-002.
    let twice = [one[0], ("sw", "sw-002", "BM43000017")];
    let told = "BM43000017 is at A1 and at C2.";
    assert_eq!(judged(&twice), Some((Verdict::Fail, told.to_owned())));
    let keys: Vec<String> = (1..=12).map(|i| format!("se-{i:03}")).collect();
    let serials: Vec<String> = (1..=12).map(|i| format!("BM430000{i:02}")).collect();
    let all = || keys.iter().zip(&serials).map(|(k, s)| ("se", k.as_str(), s.as_str()));
    assert_eq!(judged(&all().collect::<Vec<_>>()), Some((Verdict::Pass, String::new())));
    // One digit fewer, and a letter among the digits. A12 is se-001.
    for (wrong, n) in [("BM4300001", 9), ("BM4300O001", 10)] {
        let mut odd: Vec<_> = all().collect();
        odd[0].2 = wrong;
        let told =
            format!("{wrong} at A12 is not written like the others: {n} characters, most have 10.");
        assert_eq!(judged(&odd), Some((Verdict::Warn, told)));
    }
}

#[test]
fn a_string_that_begins_with_plus_is_joined_the_other_way_round() {
    let mut file = kestrel();
    // C through from the right with + first: - of each to + of the next is the same 0.655 m.
    let own = &mut file.job.strings[2];
    own.modules.reverse();
    own.plus_first = true;
    let turned = report(&file);
    let before = report(&kestrel());
    let wire = |r: &Report, id: &str| {
        let figure = r.figure(id, "C").expect("a figure");
        figure.value.as_ref().and_then(|v| v.number()).expect("a number")
    };
    for id in ["string.tail_plus_m", "string.tail_minus_m"] {
        assert!((wire(&turned, id) - wire(&before, id)).abs() < 1e-9, "{id}");
    }
    assert_eq!(check(&turned, "join.path_m", "C1-C2").verdict, Verdict::Pass);
    // One of it joined the wrong way round: its - meets the - of the one before.
    file.job.strings[2].reversed = vec!["sw-006".into()];
    let wrong = report(&file);
    let told = reason(&wrong, "join.path_m", "C1-C2").1;
    assert!(told.starts_with("− of C1 meets − of C2."), "{told}");
}

#[test]
fn without_its_leads_a_map_is_open_and_says_what_the_sheet_lacks() {
    let mut file = kestrel();
    file.library.modules[0].exits.minus_v_mm = None;
    let report = report(&file);
    for (id, subject) in [("join.path_m", "A1-A2"), ("string.tails", "A"), ("face.fits", "se")] {
        let own = check(&report, id, subject);
        assert_eq!(own.verdict, Verdict::Unknown, "{id}");
        assert!(own.missing.contains(&"module.exits.minus_v_mm"), "{id}: {:?}", own.missing);
    }
    assert!(report.figure("route.wire_m", "se").is_some_and(|f| f.value.is_none()));
}

#[test]
fn a_job_without_a_map_is_not_judged_on_it() {
    let mut file = kestrel();
    file.job.roof.clear();
    for string in &mut file.job.strings {
        string.modules.clear();
        string.reversed.clear();
    }
    let report = report(&file);
    let own = report.stages.iter().find(|s| serde_json::json!(s.stage) == "roof").expect("a stage");
    // Open, and no check of its own: nothing was drawn.
    assert_eq!(own.verdict, Verdict::Unknown);
    assert_eq!(own.counts, heliant_core::evaluate::Counts::default());
    assert!(report.roof.is_empty());
}
