//! Laws of data sheets, weather files, sums and places that hold whatever is entered.

use std::fmt::Write as _;

use heliant_core::evaluate;
use heliant_core::figure::Value;
use heliant_core::job::{self, JobFile};
use heliant_core::library::DataSheet;
use heliant_core::library::entry::read;
use heliant_core::library::table::{read_csv, write_csv};
use heliant_core::library::{Library, ModuleSheet, SheetKind};
use heliant_core::school::School;
use heliant_core::stages::site::weather;
use heliant_core::sums::{find, run, sample};
use heliant_core::watch::changes;
use proptest::prelude::*;
use serde_json::json;

fn module(voc: f64, share: f64, isc: f64, b: f64) -> ModuleSheet {
    let vmp = voc * share;
    let imp = isc * share;
    let document = json!({
        "sheet": "m", "revision": 1, "maker": "Maker, \"the\" best; of all", "model": "M\t1",
        "ratings": { "voc_v": voc, "vmp_v": vmp, "isc_a": isc, "imp_a": imp, "pmax_w": vmp * imp,
            "b_voc_pct_c": b },
    });
    match read(SheetKind::Module, document).expect("in order") {
        DataSheet::Module(m) => m,
        _ => unreachable!("a module was read"),
    }
}

fn quarry() -> JobFile {
    job::read(include_str!("../../../data/demo/quarry-cottage.json"))
        .expect("the demo job reads")
        .file
}

proptest! {
    #[test]
    fn a_table_gives_back_every_number_and_word_as_it_was(voc in 20.0..60.0, share in 0.7..0.95,
        isc in 1.0..20.0, b in -0.5..-0.1) {
        let library = Library { modules: vec![module(voc, share, isc, b)], ..Library::default() };
        let rows = read_csv(SheetKind::Module, &write_csv(SheetKind::Module, &library))
            .expect("its own table");
        prop_assert_eq!(&rows[0].sheet, &DataSheet::Module(library.modules[0].clone()));
    }

    #[test]
    fn numbers_mean_the_same_with_a_point_and_with_a_comma(whole in 20_u32..60,
        part in 0_u32..100) {
        let table = |mark: char, delimiter: char| {
            let d = delimiter;
            format!("sheet{d}revision{d}maker{d}model{d}ratings.voc_v\n\
                m{d}1{d}M{d}M{d}{whole}{mark}{part:02}\n")
        };
        let voc = |text: &str| match &read_csv(SheetKind::Module, text)
            .expect("in order")[0].sheet {
            DataSheet::Module(m) => m.ratings.voc_v,
            _ => None,
        };
        prop_assert_eq!(voc(&table('.', ',')), voc(&table(',', ';')));
        prop_assert_eq!(voc(&table('.', ';')), voc(&table(',', '\t')));
    }

    #[test]
    fn a_revision_differs_from_itself_in_nothing(voc in 20.0..60.0, share in 0.7..0.95,
        isc in 1.0..20.0, b in -0.5..-0.1, more in 0.1..5.0) {
        let one = module(voc, share, isc, b);
        let same = DataSheet::Module(one.clone());
        prop_assert!(changes(&same, &same).is_empty());
        let mut two = one.clone();
        two.ratings.voc_v = Some(voc + more);
        let found = changes(&same, &DataSheet::Module(two.clone()));
        prop_assert_eq!(found.iter().map(|c| c.field.as_str()).collect::<Vec<_>>(),
            ["ratings.voc_v"]);
        let back = changes(&DataSheet::Module(two), &same);
        prop_assert_eq!((&back[0].from, &back[0].to), (&found[0].to, &found[0].from));
    }

    #[test]
    fn design_temperatures_lie_inside_the_file_and_move_with_it(
        values in proptest::collection::vec(-30.0_f64..30.0, 48..200),
        by in -10.0_f64..10.0,
    ) {
        let file = |add: f64| {
            let mut text = "time,dry_bulb_c\n".to_owned();
            for (i, v) in values.iter().enumerate() {
                let _ = writeln!(text, "2023-06-{:02}T{:02}:00,{:.3}", i / 24 + 1, i % 24, v + add);
            }
            weather::read(&text).expect("it reads")
        };
        let (plain, moved) = (file(0.0), file(by));
        let (low, high) = values.iter().fold((f64::MAX, f64::MIN), |(l, h),
            v| (l.min(*v), h.max(*v)));
        prop_assert!((plain.t_min_c - low).abs() < 1e-3);
        prop_assert!(plain.t_max_c <= high + 1e-3 && plain.t_max_c >= plain.t_min_c);
        prop_assert!((moved.t_min_c - plain.t_min_c - by).abs() < 2e-3
            && (moved.t_max_c - plain.t_max_c - by).abs() < 2e-3);
        prop_assert_eq!(plain.record.histogram.iter().map(|b| b.hours_n).sum::<u32>() as usize,
            values.len());
    }

    #[test]
    fn a_longer_wire_never_drops_less(length in 1.0_f64..200.0, more in 0.1_f64..50.0,
        amps in 1.0_f64..40.0) {
        let sum = find("voltage-drop", School::Iec).expect("declared");
        let drop = |metres: f64| {
            let mut inputs = sample(sum);
            inputs.insert("length_m".to_owned(), json!(metres));
            inputs.insert("amps_a".to_owned(), json!(amps));
            run(sum, &inputs).expect("in order").answers[0].value.as_ref().and_then(Value::number)
                .expect("a number")
        };
        prop_assert!(drop(length + more) > drop(length));
    }

    #[test]
    fn a_place_farther_from_the_array_never_loses_less(metres in 1.0_f64..80.0,
        more in 0.5_f64..40.0) {
        let losses = |dc_m: f64| {
            let mut file = quarry();
            file.job.places[0].dc_m = Some(dc_m);
            let row = evaluate(&file.job, &file.library, &[]).places.rows[0].clone();
            (row.dc_loss_kwh.expect("known"), row.total_cost.expect("known"))
        };
        let (near, far) = (losses(metres), losses(metres + more));
        prop_assert!(far.0 > near.0 && far.1 > near.1);
    }

    #[test]
    fn one_more_unit_never_lowers_the_rise(units in 2_u32..11, feed in 1_u32..10) {
        let rise = |arms_n: Vec<u32>| {
            let mut file = job::read(include_str!("../../../data/demo/pinyon-street.json"))
                .expect("the demo job reads").file;
            file.job.branches[0].arms_n = arms_n;
            let report = evaluate(&file.job, &file.library, &[]);
            report.figure("branch.rise_total_pct", "A").and_then(|f| f.value.as_ref())
                .and_then(Value::number).expect("known")
        };
        prop_assert!(rise(vec![units + 1]) > rise(vec![units]));
        // Wherever it is fed in between, it rises less than fed from its end.
        let first = feed.min(units - 1);
        prop_assert!(rise(vec![first, units - first]) < rise(vec![units]));
    }

    #[test]
    fn text_that_is_no_file_never_breaks_the_readers(text in "\\PC{0,200}") {
        // Whatever comes, it is read or refused with at least one problem, and nothing panics.
        for kind in SheetKind::ALL {
            if let Err(problems) = read_csv(*kind, &text) {
                prop_assert!(!problems.is_empty());
            }
        }
        if let Err(problems) = heliant_core::library::table::read_json(&text) {
            prop_assert!(!problems.is_empty());
        }
        if let Err(problems) = weather::read(&text) {
            prop_assert!(!problems.is_empty());
        }
        if let Err(problems) = weather::read(&format!("LOCATION,{text}\n{}{text}\n",
            "x\n".repeat(7))) {
            prop_assert!(!problems.is_empty());
        }
    }

    #[test]
    fn rows_of_any_cells_never_break_the_table(
        cells in proptest::collection::vec("[0-9a-z.,;\"\\- ]{0,8}", 9),
    ) {
        let head = "sheet,revision,maker,model,mppts_n,mppts.all.mppt_min_v,mppts.2.mppt_max_v,\
            vdc_max_v,three_phase";
        let _ = read_csv(SheetKind::Inverter, &format!("{head}\n{}\n", cells.join(",")));
        let _ = weather::read(&format!("time,dry_bulb\n{},{}\n", cells[0], cells[1]));
    }
}
