//! Laws that hold whatever is planned: nothing overlaps in an enclosure or on the diagram, and what
//! carries more is never better off.

use heliant_core::figure::Verdict;
use heliant_core::job::{Device, DeviceKind, JobFile, JobString};
use heliant_core::labels::{label_sheets, labels};
use heliant_core::one_line::{Layer, Mark, Paper, Title, one_line};
use proptest::prelude::*;

use crate::{changed, check, kestrel, node, quarry, report, saltmarsh, verdict};

/// Saltmarsh with so many more strings at each of its combiners.
fn grown(at_first: usize, at_second: usize) -> JobFile {
    let mut file = saltmarsh();
    for (like, n) in [("A", at_first), ("D", at_second)] {
        for k in 0..n {
            let letter = format!("{like}{k}");
            let own = file.job.strings.iter().find(|s| s.letter == like).expect("a string");
            // One module fewer each, so that none is like another.
            let own = JobString {
                letter: letter.as_str().into(),
                modules: Vec::new(),
                n: own.n - 1 - k as u32 % 5,
                ..own.clone()
            };
            file.job.strings.push(own);
            let mut circuit = file.job.plan.circuits[like].clone();
            circuit.from.string = Some(letter.as_str().into());
            circuit.to.as_mut().expect("an end").device = None;
            file.job.plan.circuits.insert(letter.as_str().into(), circuit);
        }
    }
    file
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn devices_of_an_enclosure_never_lie_on_one_another(
        widths in proptest::collection::vec((1_u32..9, prop::option::of((0_u32..3, 0_u32..20)))
            , 0..14),
        rails in 1_u32..4,
    ) {
        let mut file = saltmarsh();
        let own = node(&mut file.job, "CB1");
        (own.enclosure, own.ways_n, own.rails_n) = (None, Some(f64::from(12 * rails)), Some(rails));
        own.devices.retain(|_, d| d.what == DeviceKind::Bus);
        for (k, (wide, place)) in widths.iter().enumerate() {
            let mut device = Device::new(DeviceKind::SurgeDevice);
            device.ways_n = Some(f64::from(*wide));
            if let Some((rail, left)) = place {
                (device.rail, device.left_ways) = (Some(rail + 1), Some(f64::from(*left)));
            }
            own.devices.insert(format!("X{k}").as_str().into(), device);
        }
        let r = report(&file);
        let drawn = r.enclosures.iter().find(|e| e.node == "CB1").expect("it is drawn");
        let mut shown = drawn.without.iter().filter(|w| w.what != DeviceKind::Bus).count();
        let mut all_fit = drawn.without.is_empty();
        for rail in &drawn.rails {
            shown += rail.devices.len();
            all_fit &= rail.devices.iter().all(|d| d.fits);
            let fitting: Vec<_> = rail.devices.iter().filter(|d| d.fits).collect();
            for (i, a) in fitting.iter().enumerate() {
                prop_assert!(a.left_ways + a.ways_n <= rail.ways_n + 1e-9, "{a:?}");
                for b in &fitting[..i] {
                    let apart = a.left_ways >= b.left_ways + b.ways_n - 1e-9
                        || b.left_ways >= a.left_ways + a.ways_n - 1e-9;
                    prop_assert!(apart, "{a:?} lies on {b:?}");
                }
            }
        }
        prop_assert_eq!(shown, widths.len(), "every device is on a rail or named");
        let closes = verdict(&r, "enclosure.closes", "CB1") == Verdict::Pass;
        prop_assert_eq!(closes, all_fit);
        let wide: u32 = widths.iter().map(|(w, _)| w).sum();
        prop_assert!(!closes || wide <= 12 * rails);
    }

    #[test]
    fn the_120_percent_rule_is_its_arithmetic(bus in 60_u32..400, main in 30_u32..400) {
        let r = changed(kestrel(), |job| {
            let panel = node(job, "MP").panel.as_mut().expect("a panel");
            (panel.bus_a, panel.main_a) = (Some(f64::from(bus)), Some(f64::from(main)));
            panel.pv_at_far_end = Some(true);
        });
        // 1.25 x 33.3 A and the main, of 120 % of the bus.
        let holds = 1.25 * 33.3 + f64::from(main) <= 1.2 * f64::from(bus) + 1e-9;
        let own = check(&r, "panel.far_end_120", "MP");
        prop_assert_eq!(own.verdict == Verdict::Pass, holds, "{:?}", own);
        // A main above its bus is a stop whatever the rules say.
        let main_holds = check(&r, "panel.main_a", "MP").verdict == Verdict::Pass;
        prop_assert_eq!(main_holds, main <= bus);
    }

    #[test]
    fn the_diagram_of_any_number_of_strings_keeps_its_lines_apart(
        first in 0_usize..12, second in 0_usize..12,
    ) {
        let file = grown(first, second);
        let r = report(&file);
        let title = Title::default();
        for paper in [Paper::A4, Paper::Letter] {
            let d = one_line(&file.job, &file.library, &r, &title, paper);
            prop_assert!(!d.sheets.is_empty());
            for sheet in &d.sheets {
                let [width, height] = sheet.size_mm;
                let mut lines: Vec<(f64, f64, f64)> = Vec::new();
                for m in sheet.marks.iter().filter(|m| m.layer == Layer::Circuits) {
                    let Mark::Line { points_mm, .. } = &m.mark else { continue };
                    let ([x, y], [to, _]) = (points_mm[0], points_mm[points_mm.len() - 1]);
                    prop_assert!(x >= 0.0 && to <= width && y >= 0.0 && y <= height, "{m:?}");
                    let own = (x.min(to), x.max(to), y);
                    let on = |b: &(f64, f64, f64)| {
                        (own.2 - b.2).abs() < 1e-6 && own.0 < b.1 - 1e-6 && b.0 < own.1 - 1e-6
                    };
                    prop_assert!(!lines.iter().any(on), "{m:?} lies on another");
                    lines.push(own);
                }
            }
        }
    }

    #[test]
    fn a_joint_that_is_taken_away_bonds_nothing_more(which in 0_usize..64) {
        let file = quarry();
        let bonded = |file: &JobFile| {
            let r = report(file);
            let own: Vec<String> = r.bonding.parts.iter()
                .filter(|p| p.verdict == Verdict::Pass)
                .map(|p| p.subject.to_string())
                .collect();
            own
        };
        let before = bonded(&file);
        let mut less = file.clone();
        let circuits: Vec<_> = less.job.plan.circuits.keys().cloned().collect();
        less.job.plan.circuits.remove(&circuits[which % circuits.len()]);
        for part in bonded(&less) {
            prop_assert!(before.contains(&part), "{part} is bonded by what was taken away");
        }
    }

    #[test]
    fn labels_are_all_printed_whatever_the_paper(wide in 150_u32..420, high in 120_u32..420) {
        let file = kestrel();
        let all = labels(&file.job, &file.library, &report(&file));
        let sheets = label_sheets(&all, [f64::from(wide), f64::from(high)]);
        let frames = sheets.iter().flat_map(|s| &s.marks).filter(|m| m.layer == Layer::Frame);
        prop_assert_eq!(frames.count() as u32, all.iter().map(|l| l.n).sum::<u32>());
    }
}
