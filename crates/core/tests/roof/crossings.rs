//! Strings and trunks that cross from face to face, optimizers, and what a map refuses.

use heliant_core::figure::Verdict;
use heliant_core::job::{self, Crossing, JobFile, applied};

use crate::{check, kestrel, number, reason, report};

/// Kestrel Lane with the last module of C on the other face, joined over the ridge.
fn over_the_ridge(over_m: f64) -> JobFile {
    let mut file = kestrel();
    file.job.strings[0].modules.retain(|m| *m != "se-007");
    file.job.strings[0].n = 11;
    file.job.strings[2].modules[6] = "se-007".into();
    let sw = file.job.roof.get_mut("sw").expect("sw");
    let crossing = Crossing { from_mm: [9500.0, 6900.0], to_mm: [300.0, 6800.0], over_m };
    sw.crossings.insert("se".into(), crossing);
    file
}

#[test]
fn a_join_over_two_faces_goes_by_its_crossing() {
    let r = report(&over_the_ridge(0.4));
    // + of C6 at (6970 + 816.48, 2350 + 861) to (9500, 6900): 1.71352 + 3.689; 0.4 over the ridge;
    // from (300, 6800) to - of se-007 at (1160 + 317.52, 4092 + 861): 1.17752 + 1.847.
    let path = 1.71352 + 3.689 + 0.4 + 1.17752 + 1.847;
    assert!((number(&r, "join.path_m", "C6-C7") - path).abs() < 1e-9);
    // 8.827 m less 2.3 m of reach: a jumper of ten metres, as one of five is too short.
    let own = check(&r, "join.path_m", "C6-C7");
    assert_eq!(own.verdict, Verdict::Fail);
    assert_eq!(own.cures[0].text, "A jumper of 10.00 m behind C6.");
    let file = over_the_ridge(0.4);
    let cured = applied(&file.job, &own.cures[0].edits).expect("a job");
    let after = heliant_core::evaluate(&cured, &file.library, &[]);
    assert_eq!(check(&after, "join.path_m", "C6-C7").verdict, Verdict::Pass);
    // The same crossing entered at the other face.
    let mut turned = over_the_ridge(0.4);
    let c = turned.job.roof.get_mut("sw").and_then(|f| f.crossings.remove("se")).expect("it");
    let back = Crossing { from_mm: c.to_mm, to_mm: c.from_mm, over_m: c.over_m };
    turned.job.roof.get_mut("se").expect("se").crossings.insert("sw".into(), back);
    assert!((number(&report(&turned), "join.path_m", "C6-C7") - path).abs() < 1e-9);
}

#[test]
fn crossings_that_cannot_be_are_refused_with_their_place() {
    let refused = |change: &dyn Fn(&mut JobFile)| {
        let mut file = over_the_ridge(0.0);
        change(&mut file);
        let problems = job::read(&file.to_text()).expect_err("refused");
        format!("{}: {}", problems[0].path, problems[0].message)
    };
    let crossing = Crossing { from_mm: [0.0, 0.0], to_mm: [0.0, 0.0], over_m: 0.0 };
    let put = move |file: &mut JobFile, from: &str, to: &str| {
        file.job.roof.get_mut(from).expect("a face").crossings.insert(to.into(), crossing);
    };
    let twice = refused(&|f| put(f, "se", "sw"));
    assert_eq!(twice, "/job/roof/sw/crossings/se: the crossing of se and sw stands twice");
    let nowhere = refused(&|f| put(f, "sw", "north"));
    assert_eq!(nowhere, "/job/roof/sw/crossings/north: sw cannot cross to `north`");
    let itself = refused(&|f| put(f, "sw", "sw"));
    assert_eq!(itself, "/job/roof/sw/crossings/sw: sw cannot cross to `sw`");
}

fn tern() -> JobFile {
    job::read(include_str!("../../../../data/demo/tern-bay.json")).expect("the demo job reads").file
}

#[test]
fn strings_of_optimizers_are_joined_by_the_optimizers_leads() {
    let mut file = tern();
    let r = report(&file);
    // Output leads of 0.95 m each, less 0.1 m of slack; from middle to middle 1.154 m.
    assert!((number(&r, "join.reach_m", "B") - 1.8).abs() < 1e-9);
    assert!((number(&r, "join.path_m", "B1-B2") - 1.154).abs() < 1e-9);
    assert_eq!(check(&r, "join.path_m", "B1-B2").verdict, Verdict::Pass);
    // Each optimizer and each module weighs on the face: 14 x (21.4 + 0.9) kg and the rails.
    let rails = number(&r, "rail.length_m", "w") * 0.9;
    assert!((number(&r, "face.weight_kg", "w") - (14.0 * 22.3 + rails)).abs() < 1e-9);
    // One that is joined nowhere sits nowhere: its weight is not known.
    let mut loose = file.clone();
    loose.job.strings[1].modules.pop();
    let open = report(&loose);
    assert_eq!(check(&open, "face.dead_load_kg_m2", "w").missing, ["string.modules"]);
    file.library.optimizers[0].lead_m = None;
    let open = report(&file);
    assert_eq!(check(&open, "join.path_m", "B1-B2").missing, ["optimizer.lead_m"]);
    file.library.optimizers[0].weight_kg = None;
    let open = report(&file);
    assert_eq!(check(&open, "face.dead_load_kg_m2", "w").missing, ["optimizer.weight_kg"]);
}

#[test]
fn modules_of_one_row_lie_half_landscape_and_half_portrait_in_tern_bay() {
    let file = tern();
    let own = &file.job.roof["s"];
    let landscape = own.modules.values().filter(|m| m.landscape).count();
    assert_eq!((landscape, own.modules.len()), (12, 20));
    let r = report(&file);
    assert_eq!(reason(&r, "face.fits", "s").0, Verdict::Pass);
    // Two rows of six lying, one of eight standing: 6 x 1.722 + 5 x 0.02 and 8 x 1.134 + 7 x 0.02.
    let metres = 2.0 * (2.0 * 10.432 + 9.212);
    assert!((number(&r, "rail.length_m", "s") - metres).abs() < 1e-9);
}
