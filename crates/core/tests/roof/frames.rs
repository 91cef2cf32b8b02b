//! Frames in rows with the shade they cast, rails, weights and bonding.

use heliant_core::figure::Verdict;
use heliant_core::job::{self, FrameRows, JobFile, applied};
use heliant_core::search::{Fill, Lay, fill};
use heliant_core::stages::roof::row_shade;
use heliant_core::stages::site::{declination_deg, sun_at};
use heliant_core::{Report, evaluate};

use crate::{check, kestrel, number, report};

fn saltmarsh() -> JobFile {
    job::read(include_str!("../../../../data/demo/saltmarsh-nursery.json"))
        .expect("the demo job reads")
        .file
}

#[test]
fn the_sun_stands_where_published_tables_have_it() {
    // Altitude and azimuth from south at 40° north by sun time, as tables of heating engineers have
    // them for the 21st of December and June.
    let winter = [
        (8.0, 5.5, 53.0),
        (9.0, 14.0, 41.9),
        (10.0, 20.7, 29.4),
        (11.0, 25.0, 15.2),
        (12.0, 26.6, 0.0),
    ];
    let summer = [(8.0, 37.4, 90.7), (10.0, 59.8, 65.8), (11.0, 69.2, 41.9), (12.0, 73.5, 0.0)];
    for (month, hours) in [(12, winter.as_slice()), (6, summer.as_slice())] {
        let declination = declination_deg(month, 21).expect("a day");
        for (hour, altitude, from_south) in hours {
            let (up, azimuth) = sun_at(declination, *hour, 40.0);
            assert!((up - altitude).abs() < 0.1, "{month} {hour}: {up}");
            assert!((180.0 - azimuth - from_south).abs() < 0.15, "{month} {hour}: {azimuth}");
        }
    }
    assert_eq!(declination_deg(2, 30), None);
}

/// Rows at 40° north, 3.5 m up a slope of 30°, to the south.
fn at_forty(gap_m: f64, step_m: f64) -> JobFile {
    let mut file = saltmarsh();
    file.job.site.latitude_deg = Some(40.0);
    let face = file.job.roof.get_mut("f").expect("f");
    face.rows = Some(FrameRows { n: 3, gap_m, step_m });
    file
}

#[test]
fn the_gap_that_keeps_midwinter_free_follows_from_the_sun_at_nine() {
    let r = report(&at_forty(4.0, 0.0));
    assert!((number(&r, "row.height_m", "f") - 1.75).abs() < 1e-9);
    // 1.75 m x cos 41.9° / tan 14.0° = 5.22 m; the table's tenth of a degree is 5 cm.
    let least = number(&r, "row.gap_min_m", "f");
    assert!((least - 5.22).abs() < 0.06, "{least}");
    let own = check(&r, "row.gap_m", "f");
    assert_eq!(own.verdict, Verdict::Warn);
    let file = at_forty(4.0, 0.0);
    let cured = applied(&file.job, &own.cures[0].edits).expect("a job");
    let after = evaluate(&cured, &file.library, &[]);
    assert_eq!(check(&after, "row.gap_m", "f").verdict, Verdict::Pass);
    // Ground that rises by 0.5 m a row: 1.25 of 1.75.
    let rising = report(&at_forty(4.0, 0.5));
    let share = number(&rising, "row.gap_min_m", "f") / least;
    assert!((share - 1.25 / 1.75).abs() < 1e-9, "{share}");
}

#[test]
fn shaded_hours_agree_with_the_profile_angle_of_the_sun() {
    // Toward the south the row behind is free while tan(profile) > t = 1.75 / 4. With latitude f
    // and declination d that is cos h > -tan d (t cos f + sin f) / (cos f - t sin f).
    let (f, d) = (40.0_f64.to_radians(), declination_deg(12, 21).expect("a day").to_radians());
    let t = 1.75 / 4.0;
    let free = (-d.tan() * (t * f.cos() + f.sin()) / (f.cos() - t * f.sin())).acos();
    let rise = (-f.tan() * d.tan()).acos();
    let wanted = 2.0 * (rise - free).to_degrees() / 15.0;
    let hours = number(&report(&at_forty(4.0, 0.0)), "row.shaded_h", "f");
    // Minute by minute, at four edges.
    assert!((hours - wanted).abs() < 4.0 / 60.0, "{hours} of {wanted}");
    assert!((wanted - 5.29).abs() < 0.01, "{wanted}");
    let file = at_forty(4.0, 0.0);
    let own = &file.job.roof["f"];
    let day = |month, day| row_shade(&file.job.site, &file.job.site.faces[0], own, month, day);
    let winter = day(12, 21).expect("rows");
    assert_eq!(winter.shaded.len(), 2, "morning and evening: {:?}", winter.shaded);
    let noon = day(6, 21).expect("rows");
    assert!(noon.shaded.iter().all(|[from, to]| *to <= 8.5 || *from >= 15.5), "{noon:?}");
    assert_eq!(day(2, 30), None);
}

#[test]
fn rows_without_a_latitude_are_open() {
    let mut file = at_forty(4.0, 0.0);
    file.job.site.latitude_deg = None;
    let r = report(&file);
    assert_eq!(check(&r, "row.gap_m", "f").missing, ["site.latitude_deg"]);
    assert_eq!(check(&r, "row.gap_m", "f").verdict, Verdict::Unknown);
}

#[test]
fn frames_are_filled_row_by_row_and_nothing_hangs_over_a_gap() {
    let file = at_forty(4.0, 0.0);
    let ask = Fill { face: "f".into(), lay: Lay::Portrait, most_n: None };
    let done = fill(&file.job, &file.library, &ask).expect("room");
    // 11.6 m hold ten of 1.134 m with 20 mm between; 3.5 m hold two of 1.722 m; three frames.
    assert_eq!(done.modules_n, 60);
    let r = evaluate(&done.job, &file.library, &[]);
    assert_eq!(check(&r, "face.fits", "f").verdict, Verdict::Pass);
    let mut moved = done.job.clone();
    let face = moved.roof.get_mut("f").expect("f");
    let last = face.modules.values_mut().max_by(|a, b| a.y_mm.total_cmp(&b.y_mm)).expect("one");
    last.y_mm += 200.0;
    let r = evaluate(&moved, &file.library, &[]);
    assert_eq!(check(&r, "face.fits", "f").verdict, Verdict::Fail);
}

#[test]
fn rails_attachments_and_weights_are_counted_row_by_row() {
    let r = report(&kestrel());
    let sw = |id: &str| number(&r, id, "sw");
    // Two rows of seven: 7 x 1.134 + 6 x 0.02 = 8.058 m, two rails each.
    assert!((sw("rail.length_m") - 4.0 * 8.058).abs() < 1e-9);
    // (8.058 - 2 x 0.4) / 1.2 = 6.05: seven spans, eight attachments a rail.
    assert!((sw("rail.attachments_n") - 32.0).abs() < 1e-9);
    // Two pieces of 4.2 m a rail.
    assert!((sw("rail.splices_n") - 4.0).abs() < 1e-9);
    assert!((sw("rail.mid_clamps_n") - 24.0).abs() < 1e-9);
    assert!((sw("rail.end_clamps_n") - 8.0).abs() < 1e-9);
    let weight = 14.0 * 21.3 + 4.0 * 8.058 * 0.9;
    assert!((sw("face.weight_kg") - weight).abs() < 1e-9);
    assert!((sw("attachment.weight_kg") - weight / 32.0).abs() < 1e-9);
    let area = 14.0 * 1.134 * 1.722;
    assert!((sw("face.dead_load_kg_m2") - weight / area).abs() < 1e-9);
    // Up the slope: seven columns of 2 x 1.722 + 0.02 = 3.464 m.
    let mut file = kestrel();
    file.job.roof.get_mut("sw").expect("sw").rails.up_slope = true;
    let up = report(&file);
    assert!((number(&up, "rail.length_m", "sw") - 14.0 * 3.464).abs() < 1e-9);
}

/// The bonding of the south-west face, its rails as they are said.
fn bonded(splices: Option<bool>, clamps: Option<bool>) -> Report {
    let mut file = kestrel();
    let rails = &mut file.job.roof.get_mut("sw").expect("sw").rails;
    (rails.splices_bond, rails.clamps_bond) = (splices, clamps);
    report(&file)
}

#[test]
fn every_metal_part_is_bonded_or_named() {
    let r = bonded(Some(true), Some(true));
    assert_eq!(check(&r, "bond.whole", "sw").verdict, Verdict::Pass);
    // A lug a row; with clamps of 24 and 8 they are parts for one use.
    assert!((number(&r, "bond.lugs_n", "sw") - 2.0).abs() < 1e-9);
    assert!((number(&r, "bond.single_use_n", "sw") - 34.0).abs() < 1e-9);
    // From the upper row's rail at 4092 + 1722 / 4 straight down to the box at 1600 mm.
    assert!((number(&r, "bond.conductor_m", "sw") - (4522.5 - 1600.0) / 1000.0).abs() < 1e-9);
    // A lug for each of the two pieces of a row's rails.
    let r = bonded(Some(false), Some(true));
    assert!((number(&r, "bond.lugs_n", "sw") - 4.0).abs() < 1e-9);
    // A lug for each module and rail.
    let r = bonded(Some(true), Some(false));
    assert!((number(&r, "bond.lugs_n", "sw") - (14.0 + 4.0)).abs() < 1e-9);
    assert_eq!(check(&r, "bond.whole", "sw").verdict, Verdict::Warn);
    let r = bonded(None, None);
    let own = check(&r, "bond.whole", "sw");
    assert_eq!(own.missing, ["rails.clamps_bond", "rails.splices_bond"]);
    assert_eq!(own.verdict, Verdict::Unknown);
}

#[test]
fn a_row_that_is_parted_stands_on_rails_of_its_own() {
    let mut file = kestrel();
    let sw = file.job.roof.get_mut("sw").expect("sw");
    // The middle one of the upper row is off: two rows of three, 3 x 1.134 + 2 x 0.02 = 3.442 m.
    sw.modules.remove("sw-011");
    let r = report(&file);
    let metres = 2.0 * (8.058 + 2.0 * 3.442);
    assert!((number(&r, "rail.length_m", "sw") - metres).abs() < 1e-9);
    // (3.442 - 0.8) / 1.2 = 2.2: three spans, four attachments; eight on the long rails.
    assert!((number(&r, "rail.attachments_n", "sw") - 2.0 * (8.0 + 4.0 + 4.0)).abs() < 1e-9);
    // No splice under 4.2 m; the lugs of the right half leave the straight line from the box.
    assert!((number(&r, "rail.splices_n", "sw") - 2.0).abs() < 1e-9);
    assert!((number(&r, "bond.lugs_n", "sw") - 3.0).abs() < 1e-9);
    // Line at the box, x 1500; the right half begins at 1200 + 4 x 1154 = 5816.
    let metres = (4522.5 - 1600.0 + 5816.0 - 1500.0) / 1000.0;
    assert!((number(&r, "bond.conductor_m", "sw") - metres).abs() < 1e-9);
    let drawn = &r.roof[1].rails;
    assert_eq!((drawn.rails_mm.len(), drawn.lugs_mm.len(), drawn.bond_mm.len()), (6, 3, 2));
}

#[test]
fn span_cantilever_and_piece_are_as_they_are_said() {
    let mut file = kestrel();
    let rails = &mut file.job.roof.get_mut("sw").expect("sw").rails;
    (rails.span_m, rails.cantilever_m, rails.kg_per_m) = (Some(1.8), Some(0.2), Some(1.1));
    let r = report(&file);
    // (8.058 - 0.4) / 1.8 = 4.25: five spans, six attachments on each of four rails.
    assert!((number(&r, "rail.attachments_n", "sw") - 24.0).abs() < 1e-9);
    let weight = 14.0 * 21.3 + 4.0 * 8.058 * 1.1;
    assert!((number(&r, "attachment.weight_kg", "sw") - weight / 24.0).abs() < 1e-9);
    file.job.roof.get_mut("sw").expect("sw").rails.piece_m = None;
    let open = report(&file);
    assert_eq!(check(&open, "rail.splices_n", "sw").missing, ["rails.piece_m"]);
    file.library.modules[0].weight_kg = None;
    let open = report(&file);
    assert_eq!(check(&open, "face.dead_load_kg_m2", "sw").missing, ["module.weight_kg"]);
}

#[test]
fn a_single_frame_shades_nothing_and_has_no_gap_to_judge() {
    let mut file = at_forty(4.0, 0.0);
    file.job.roof.get_mut("f").and_then(|f| f.rows.as_mut()).expect("rows").n = 1;
    let r = report(&file);
    assert!(r.check("row.gap_m", "f").is_none());
    // A face that looks away from the sun of midwinter casts no shadow behind it in those hours.
    let mut north = at_forty(0.5, 0.0);
    north.job.site.faces[0].azimuth_deg = 0.0;
    let r = report(&north);
    assert!(number(&r, "row.gap_min_m", "f").abs() < 1e-9);
    assert_eq!(check(&r, "row.gap_m", "f").verdict, Verdict::Pass);
    // South of the equator the shortest day is in June.
    let mut south = at_forty(4.0, 0.0);
    south.job.site.latitude_deg = Some(-40.0);
    south.job.site.faces[0].azimuth_deg = 0.0;
    let day = report(&south).roof[0].rows.clone().and_then(|r| r.shortest).expect("a day");
    assert_eq!((day.month, day.day), (6, 21));
    // The sun stands within a tenth of a degree as high as at 40° north in December.
    assert!((day.gap_min_m - 5.22).abs() < 0.08, "{}", day.gap_min_m);
}
