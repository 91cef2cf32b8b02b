//! Laws that hold whatever is entered, and how a figure is written down.

use heliant_core::figure::{Recording, Sheet, Subject, Value, Verdict};
use heliant_core::job::{self, ColdMethod, Job, RacewayKind};
use heliant_core::library::{InverterRatings, Library, ModuleRatings};
use heliant_core::school::School;
use heliant_core::stages::runs::{FillInputs, FillWire, arrange, fill};
use heliant_core::stages::strings::{SiteTemps, Sources, WindowInputs, window};
use heliant_core::{evaluate, evaluate_with};
use proptest::prelude::*;

fn kestrel() -> (Job, Library) {
    let file = job::read(include_str!("../../../data/demo/kestrel-lane.json"))
        .expect("the demo job reads")
        .file;
    (file.job, file.library)
}

fn cold(n: u32, t_min: f64, voc: f64, b: f64) -> (f64, Verdict) {
    let module = ModuleRatings {
        voc_v: Some(voc),
        b_voc_pct_c: Some(b),
        max_system_v: Some(1000.0),
        ..ModuleRatings::default()
    };
    let inverter = InverterRatings { vdc_max_v: Some(600.0), ..InverterRatings::default() };
    let site =
        SiteTemps { t_min_c: Some(t_min), dc_ceiling_v: Some(1000.0), ..SiteTemps::default() };
    let mut sheet = Sheet::new(School::Na, Subject::Sum);
    window(
        &mut sheet,
        &WindowInputs {
            module: &module,
            inverter: &inverter,
            site: &site,
            n,
            method: ColdMethod::Coefficient,
            sources: &Sources::default(),
            n_pointer: None,
        },
    );
    let value = sheet
        .figures
        .iter()
        .find(|f| f.id == "string.voc_cold_v")
        .and_then(|f| f.value.as_ref())
        .and_then(Value::number);
    let check = sheet.checks.iter().find(|c| c.id == "string.voc_cold_v").expect("the check");
    (value.expect("cold volts"), check.verdict)
}

proptest! {
    #[test]
    fn more_modules_never_lower_the_cold_volts(n in 1_u32..40, t in -40.0..25.0,
        voc in 20.0..60.0, b in -0.5..-0.1) {
        let (few, verdict) = cold(n, t, voc, b);
        let (more, next) = cold(n + 1, t, voc, b);
        prop_assert!(more > few);
        prop_assert!(next >= verdict, "one module more does not turn a stop into a hold");
    }

    #[test]
    fn a_colder_morning_never_lowers_the_cold_volts(n in 1_u32..40, t in -40.0..20.0,
        voc in 20.0..60.0, b in -0.5..-0.1) {
        prop_assert!(cold(n, t - 5.0, voc, b).0 >= cold(n, t, voc, b).0);
    }

    #[test]
    fn a_larger_raceway_never_fills_more(count in 1_u32..12) {
        let filled = |trade: &str| {
            let wire = FillWire { kind: "thhn".to_owned(), size: Some("10".to_owned()), mm2: None,
                n: count, od_in: None, od_mm: None };
            let inputs = FillInputs {
                kind: RacewayKind::Emt,
                trade: Some(trade.to_owned()),
                size_mm: None,
                wires: vec![wire],
                length_in: None,
                limit_pct: None,
                jam_od_in: None,
            };
            let mut sheet = Sheet::new(School::Na, Subject::Sum);
            let verdict = fill(&mut sheet, &inputs).check.verdict;
            (sheet.figures.iter().find(|f| f.id == "raceway.fill_pct")
                .and_then(|f| f.value.as_ref()).and_then(Value::number), verdict)
        };
        let sizes = ["1/2", "3/4", "1", "1-1/4"].map(filled);
        for pair in sizes.windows(2) {
            prop_assert!(pair[0].0 > pair[1].0, "{pair:?}");
            prop_assert!(pair[0].1 >= pair[1].1, "{pair:?}");
        }
    }

    #[test]
    fn whatever_is_entered_gives_a_report(
        t_min in proptest::option::of(-70.0..40.0),
        t_max in proptest::option::of(-20.0..60.0),
        n in proptest::collection::vec(1_u32..=200, 3),
        mppt in proptest::collection::vec(1_u32..=2, 3),
        bus in proptest::option::of(1.0..10_000.0),
        hidden in 0_usize..14,
    ) {
        let (mut job, mut library) = kestrel();
        job.site.t_min_c = t_min;
        job.site.t_max_c = t_max;
        for (s, (n, mppt)) in job.strings.iter_mut().zip(n.into_iter().zip(mppt)) {
            (s.n, s.mppt) = (n, mppt);
        }
        let panel = job.plan.nodes.get_mut("MP").and_then(|n| n.panel.as_mut());
        panel.expect("the demo job has a panel").bus_a = bus;
        let r = &mut library.modules[0].ratings;
        let fields = [&mut r.voc_v, &mut r.vmp_v, &mut r.isc_a, &mut r.imp_a, &mut r.pmax_w,
            &mut r.b_voc_pct_c, &mut r.g_pmax_pct_c,
            &mut r.a_isc_pct_c, &mut r.max_system_v, &mut r.series_fuse_a, &mut r.cells_series_n,
                &mut r.nmot_c];
        if let Some(field) = fields.into_iter().nth(hidden) {
            *field = None;
        }
        let report = evaluate(&job, &library, &[]);
        for f in &report.figures {
            prop_assert!(!matches!(f.value, Some(Value::Number(v)) if !v.is_finite()),
                "{} is not finite", f.id);
            prop_assert!(f.value.is_some() || !f.missing.is_empty() || f.note.is_some(),
                "{} of {}: no value and no reason", f.id, f.subject);
        }
        for c in &report.checks {
            prop_assert!(c.verdict != Verdict::Unknown || !c.missing.is_empty()
                || c.reason.is_some(), "{} of {}: open without a word", c.id,
                c.subject);
        }
    }

    #[test]
    fn wires_that_fit_lie_inside_and_apart(diameters in proptest::collection::vec(2.0_f64..8.0,
        1..9), inner in 12.0_f64..40.0) {
        let wires = diameters.iter().map(|&diameter_mm| heliant_core::stages::runs::CutWire {
            string: None,
            role: heliant_core::stages::runs::WireRole::Line,
            size: String::new(),
            diameter_mm,
            x_mm: 0.0,
            y_mm: 0.0,
            fits: true,
        });
        let laid = arrange(inner, wires.collect());
        prop_assert_eq!(laid.len(), diameters.len());
        let placed: Vec<_> = laid.iter().filter(|w| w.fits).collect();
        for (i, a) in placed.iter().enumerate() {
            prop_assert!(a.x_mm.hypot(a.y_mm) + a.diameter_mm / 2.0 <= inner / 2.0 + 1e-6,
                "through the wall");
            for b in &placed[..i] {
                let apart = (a.x_mm - b.x_mm).hypot(a.y_mm - b.y_mm);
                prop_assert!(apart >= (a.diameter_mm + b.diameter_mm) / 2.0 - 1e-6,
                    "one wire in another");
            }
        }
    }
}

#[test]
fn every_number_stands_at_the_end_of_its_working() {
    let (job, library) = kestrel();
    let report = evaluate_with(&job, &library, &[], Recording::Everything);
    assert!(report.figures.len() > 80, "{} figures", report.figures.len());
    for f in &report.figures {
        assert!(!f.source.is_empty(), "{} rests on nothing", f.id);
        if let (Some(Value::Number(value)), Some(last)) = (&f.value, f.working.last()) {
            assert_eq!(last.value, Value::Number(*value), "{} of {}", f.id, f.subject);
        }
        assert!(f.value.is_none() || !f.working.is_empty(), "{} has no working", f.id);
    }
}

#[test]
fn ids_end_in_their_unit() {
    let (job, library) = kestrel();
    for f in evaluate(&job, &library, &[]).figures {
        let ending = match f.unit.sign() {
            "V" => "_v",
            "A" => "_a",
            "W" => "_w",
            "%" => "_pct",
            "°C" => "_c",
            "m" => "_m",
            "Ω" => "_ohm",
            _ => continue,
        };
        // Verdict ids of the schema (panel.sum, panel.bus_125) are checks, not figures.
        assert!(f.id.ends_with(ending), "{} is in {}", f.id, f.unit.sign());
    }
}
