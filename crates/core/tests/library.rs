//! Data sheets: entered, judged, read from tables; and what a newer one does to a job.

use heliant_core::figure::Verdict;
use heliant_core::job::Problem;
use heliant_core::library::entry::read;
use heliant_core::library::table::{
    Becomes, MAX_ROWS, Row, preview, read_csv, read_json, write_csv,
};
use heliant_core::library::{About, DataSheet};
use heliant_core::library::{Library, SheetKind};
use heliant_core::school::School;
use heliant_core::sheets::judge;
use serde_json::{Value, json};

fn demo() -> Library {
    serde_json::from_str(include_str!("../../../data/demo/library.json"))
        .expect("the demo library reads")
}

fn module() -> Value {
    json!({
        "sheet": "m", "revision": 1, "maker": "Maker", "model": "M-430",
        "ratings": {
            "voc_v": 39.4, "vmp_v": 33.0, "isc_a": 13.85, "imp_a": 13.05, "pmax_w": 430.0,
                "b_voc_pct_c": -0.26,
            "g_pmax_pct_c": -0.3, "a_isc_pct_c": 0.045, "max_system_v": 1000.0,
                "series_fuse_a": 25.0
        }
    })
}

fn with(mut document: Value, pointer: &str, value: Value) -> Value {
    *document.pointer_mut(pointer).expect("the field is there") = value;
    document
}

fn wrong(kind: SheetKind, document: Value) -> Vec<Problem> {
    read(kind, document).expect_err("it is wrong")
}

fn only(problems: &[Problem]) -> (&str, &str) {
    assert_eq!(problems.len(), 1, "{problems:?}");
    (problems[0].path.as_str(), problems[0].message.as_str())
}

#[test]
fn every_field_of_the_entry_is_a_field_of_the_document() {
    let library = demo();
    for (kind, document) in [
        (SheetKind::Module, serde_json::to_value(&library.modules[0])),
        (SheetKind::Inverter, serde_json::to_value(&library.inverters[0])),
    ] {
        let document = document.expect("JSON");
        for field in kind.fields() {
            let pointer = format!("/{}", field.key.replace("*", "0").replace('.', "/"));
            assert!(document.pointer(&pointer).is_some(), "{kind:?}: {pointer}");
        }
        let listed = kind.fields().len();
        // Every plain value of the document is offered: head, ratings or MPPT, the rest.
        let count = |v: &Value| {
            v.as_object()
                .map_or(0, |o| o.values().filter(|v| !v.is_object() && !v.is_array()).count())
        };
        let inner = document.get("ratings").map_or_else(|| count(&document["mppts"][0]), count);
        let exits = document.get("exits").map_or(0, count);
        assert_eq!(listed, count(&document) + inner + exits, "{kind:?}");
    }
}

#[test]
fn what_cannot_be_is_refused_at_its_field() {
    let cases = [
        ("/ratings/vmp_v", json!(39.4), "/ratings/vmp_v", "Vmp 39.4 V is not below Voc 39.4 V"),
        ("/ratings/imp_a", json!(14.0), "/ratings/imp_a", "Imp 14 A is not below Isc 13.85 A"),
        (
            "/ratings/b_voc_pct_c",
            json!(0.26),
            "/ratings/b_voc_pct_c",
            "volts and watts fall when a module gets warmer: this coefficient is negative",
        ),
        (
            "/ratings/a_isc_pct_c",
            json!(-0.045),
            "/ratings/a_isc_pct_c",
            "the current rises a little when a module gets warmer: this coefficient is positive",
        ),
    ];
    for (pointer, value, path, message) in cases {
        let problems = wrong(SheetKind::Module, with(module(), pointer, value));
        assert_eq!(only(&problems), (path, message));
    }
    let inverter = serde_json::to_value(&demo().inverters[0]).expect("JSON");
    let upside_down = with(inverter.clone(), "/mppts/1/mppt_min_v", json!(600));
    assert_eq!(
        only(&wrong(SheetKind::Inverter, upside_down)),
        ("/mppts/1/mppt_min_v", "tracking from 600 to 560 V is upside down")
    );
    let none = with(inverter, "/mppts", json!([]));
    assert_eq!(only(&wrong(SheetKind::Inverter, none)), ("/mppts", "has too few entries"));
}

#[test]
fn entering_is_judged_as_far_as_it_goes() {
    let about = About { t_min_c: Some(-24.0), ..About::default() };
    // Nothing but Voc and its coefficient: the cold volts are known, what is missing is named.
    let half = json!({ "ratings": { "voc_v": 39.4, "b_voc_pct_c": -0.26 } });
    let judged = judge(SheetKind::Module, &half, &about, School::Na);
    assert!(judged.problems.is_empty(), "{:?}", judged.problems);
    let cold = judged
        .figures
        .iter()
        .find(|f| f.id == "module.voc_cold_v")
        .and_then(|f| f.value.as_ref())
        .and_then(|v| v.number());
    // 39.4 x (1 + 0.0026 x 49) = 44.4196 V.
    assert!((cold.expect("known") - 44.4196).abs() < 1e-4);
    let off = judged.checks.iter().find(|c| c.id == "module.pmax_off_pct").expect("asked");
    assert_eq!((off.verdict, off.missing.len()), (Verdict::Unknown, 3));
    // A field that is wrong is named, and the others are judged without it.
    let judged = judge(
        SheetKind::Module,
        &with(module(), "/ratings/voc_v", json!("39,4")),
        &about,
        School::Na,
    );
    assert_eq!(only(&judged.problems).0, "/ratings/voc_v");
    assert!(
        judged.checks.iter().any(|c| c.id == "module.pmax_off_pct" && c.verdict == Verdict::Pass)
    );
}

#[test]
fn what_is_unusual_is_a_caution() {
    let about = About::default();
    let caution = |document: Value, id: &str| {
        let judged = judge(SheetKind::Module, &document, &about, School::Na);
        assert!(judged.problems.is_empty(), "{:?}", judged.problems);
        let check =
            judged.checks.iter().find(|c| c.id == id).unwrap_or_else(|| panic!("{id} is judged"));
        check.verdict
    };
    assert_eq!(caution(module(), "module.series_fuse_a"), Verdict::Pass);
    assert_eq!(
        caution(with(module(), "/ratings/series_fuse_a", json!(13.0)), "module.series_fuse_a"),
        Verdict::Warn
    );
    // 460 W against 33.0 x 13.05 = 430.65 W: 6.8 % off.
    assert_eq!(
        caution(with(module(), "/ratings/pmax_w", json!(460.0)), "module.pmax_off_pct"),
        Verdict::Warn
    );
    // 443 W: 2.87 % off.
    assert_eq!(
        caution(with(module(), "/ratings/pmax_w", json!(443.0)), "module.pmax_off_pct"),
        Verdict::Pass
    );
    assert_eq!(
        caution(with(module(), "/ratings/b_voc_pct_c", json!(-0.11)), "module.b_voc_pct_c"),
        Verdict::Warn
    );
}

#[test]
fn an_inverter_says_how_many_of_a_module_it_takes() {
    let library = demo();
    let sheet = library
        .inverters
        .iter()
        .find(|i| i.sheet == "stellan-s8-2" && i.revision == 4)
        .expect("demo");
    let module = library
        .modules
        .iter()
        .find(|m| m.sheet == "brightmoor-bm-430" && m.revision == 2)
        .expect("demo");
    let about = About {
        t_min_c: Some(-24.0),
        t_max_c: Some(33.0),
        cell_rise_hot_c: Some(35.0),
        dc_ceiling_v: Some(600.0),
        module: Some(module.ratings.clone()),
    };
    let judged =
        judge(SheetKind::Inverter, &serde_json::to_value(sheet).expect("JSON"), &about, School::Na);
    let of = |id: &str| {
        judged
            .figures
            .iter()
            .find(|f| f.id == id)
            .and_then(|f| f.value.as_ref())
            .and_then(|v| v.number())
    };
    // 600 / 44.4196 = 13.5; 110 / (39.4 x (1 - 0.0026 x 43)) = 3.14, 90 / 28.743 = 3.13.
    assert_eq!((of("string.n_max"), of("string.n_min")), (Some(13.0), Some(4.0)));
}

fn csv(rows: &str) -> String {
    format!(
        "sheet,revision,maker,model,ratings.voc_v,ratings.vmp_v,ratings.isc_a,\
        ratings.imp_a,ratings.pmax_w\n{rows}"
    )
}

#[test]
fn a_table_written_is_read_as_it_was() {
    let library = demo();
    for kind in [SheetKind::Module, SheetKind::Inverter] {
        let text = write_csv(kind, &library);
        let rows = read_csv(kind, &text).expect("its own table");
        let wanted: Vec<DataSheet> =
            library.sheets().into_iter().filter(|s| s.kind() == kind).collect();
        assert_eq!(rows.iter().map(|r| r.sheet.clone()).collect::<Vec<_>>(), wanted);
        assert_eq!(rows[0].row, 2, "the header is row 1");
    }
    let text = serde_json::to_string(&library).expect("JSON");
    assert_eq!(read_json(&text).expect("its own file").len(), library.sheets().len());
}

#[test]
fn marks_semicolons_and_decimal_commas_are_read() {
    let text =
        "\u{feff}sheet;revision;maker;model;ratings.voc_v;ratings.vmp_v\nm;1;Maker;M;39,4;33,0\n";
    let rows = read_csv(SheetKind::Module, text).expect("a table of the continent");
    let DataSheet::Module(m) = &rows[0].sheet else { panic!("a module") };
    assert_eq!((m.ratings.voc_v, m.ratings.vmp_v), (Some(39.4), Some(33.0)));
    let text = "sheet\trevision\tmaker\tmodel\tmppts_n\tmppts.all.mppt_min_v\tmppts.2.mppt_min_v\n\
        i\t1\tMaker\tI\t3\t90\t120\n";
    let rows = read_csv(SheetKind::Inverter, text).expect("tabs");
    let DataSheet::Inverter(i) = &rows[0].sheet else { panic!("an inverter") };
    assert_eq!(
        i.mppts.iter().map(|m| m.mppt_min_v).collect::<Vec<_>>(),
        [Some(90.0), Some(120.0), Some(90.0)],
        "its own column goes before that of all"
    );
}

#[test]
fn every_wrong_row_is_named_with_what_would_be_right() {
    let text = csv("a,1,Maker,A,39.4,33.0,13.85,13.05,430\n\
                    b,1,Maker,B,33.0,39.4,13.85,13.05,430\n\
                    c,one,Maker,C,39.4,33.0,13.85,13.05,430\n\
                    d,1,Maker,D,39.4 V,33.0,13.85,13.05,430\n\
                    e,1,Maker,E,39.4,33.0\n\
                    \n\
                    f,1,,F,39.4,33.0,13.85,13.05,430\n");
    let problems = read_csv(SheetKind::Module, &text).expect_err("five rows are wrong");
    let said: Vec<(&str, &str)> =
        problems.iter().map(|p| (p.path.as_str(), p.message.as_str())).collect();
    assert_eq!(
        said,
        [
            ("/rows/3/ratings.vmp_v", "Vmp 39.4 V is not below Voc 33 V"),
            ("/rows/4/revision", "`one` is not a number"),
            ("/rows/5/ratings.voc_v", "`39.4 V` is not a number"),
            ("/rows/6", "has 6 cells, the header has 9"),
            ("/rows/7/maker", "`maker` is missing"),
        ]
    );
}

#[test]
fn a_table_that_is_none_says_why() {
    let message = |kind: SheetKind, text: &str| {
        let problems = read_csv(kind, text).expect_err("it is none");
        (problems[0].path.clone(), problems[0].message.clone(), problems[0].hint.clone())
    };
    let (path, text, _) = message(SheetKind::Module, "sheet|revision|maker|model\na|1|b|c\n");
    assert_eq!((path.as_str(), text.as_str()), ("/rows/1", "the columns are parted by `|`"));
    let (_, text, hint) =
        message(SheetKind::Module, "sheet,revision,maker,model,ratings.voc\na,1,b,c,39\n");
    assert_eq!(
        (text.as_str(), hint.as_str()),
        ("unknown column `ratings.voc`", "did you mean `ratings.voc_v`?")
    );
    let (_, text, _) = message(SheetKind::Module, "sheet,maker,model\na,b,c\n");
    assert_eq!(text, "the column `revision` is missing");
    let (_, text, hint) =
        message(SheetKind::Module, &csv("a,1,Maker,A,\"39,4\",33.0,13.85,13.05,430\n"));
    assert_eq!(
        (text.as_str(), hint.as_str()),
        ("`39,4` has a decimal comma", "write a point, or part the columns by semicolons")
    );
    let (path, text, _) =
        message(SheetKind::Module, "sheet;revision;maker;model;weight_kg\na;1;b;c;1,234\n");
    assert_eq!(
        (path.as_str(), text.as_str()),
        ("/rows/2/weight_kg", "`1,234` can be read in two ways")
    );
    let (_, text, _) = message(SheetKind::Module, "");
    assert_eq!(text, "the first row is no header of this kind of data sheet");
    let (_, text, _) = message(SheetKind::Module, &csv(""));
    assert_eq!(text, "there is no row under the header");
    let many: String =
        (0..50_000).map(|i| format!("m{i},1,Maker,M{i},39.4,33.0,13.85,13.05,430\n")).collect();
    let (_, text, hint) = message(SheetKind::Module, &csv(&many));
    assert_eq!(
        (text.as_str(), hint),
        ("the table has 50000 rows", format!("at most {MAX_ROWS} at a time: split it"))
    );
    let (_, text, _) = message(
        SheetKind::Inverter,
        "sheet,revision,maker,model,mppts.all.mppt_min_v\ni,1,Maker,I,90\n",
    );
    assert_eq!(text, "stands for all MPPTs, but how many is not said");
}

#[test]
fn a_preview_says_what_becomes_of_each_row_and_refuses_a_changed_revision() {
    let library = demo();
    let there = library.modules[0].clone();
    let mut next = there.clone();
    next.revision = 9;
    let mut new = there.clone();
    new.sheet = "never-seen".to_owned();
    let rows: Vec<Row> = [there.clone(), next, new]
        .into_iter()
        .enumerate()
        .map(|(i, m)| Row { row: i + 2, sheet: DataSheet::Module(m) })
        .collect();
    let lines = preview(&rows, &library).expect("in order");
    assert_eq!(
        lines.iter().map(|l| l.becomes).collect::<Vec<_>>(),
        [Becomes::There, Becomes::NewRevision, Becomes::New]
    );
    let mut changed = there;
    changed.ratings.voc_v = Some(39.9);
    let rows = [
        Row { row: 2, sheet: DataSheet::Module(changed.clone()) },
        Row { row: 3, sheet: DataSheet::Module(changed) },
    ];
    let problems = preview(&rows, &library).expect_err("a revision never changes");
    assert_eq!(
        problems[0].hint, "a revision never changes: give it number 3",
        "the demo library has revisions 1 and 2"
    );
    assert!(
        problems.iter().any(|p| p.path == "/rows/3/revision" && p.message.contains("stands twice")),
        "{problems:?}"
    );
}

#[test]
fn optimizers_and_microinverters_go_out_and_in_like_the_others() {
    let library = demo();
    for kind in [SheetKind::Optimizer, SheetKind::Micro] {
        let rows = read_csv(kind, &write_csv(kind, &library)).expect("its own table");
        let wanted: Vec<DataSheet> =
            library.sheets().into_iter().filter(|s| s.kind() == kind).collect();
        assert_eq!(rows.into_iter().map(|r| r.sheet).collect::<Vec<_>>(), wanted);
        for field in kind.fields() {
            let pointer = format!("/{}", field.key.replace('.', "/"));
            assert!(wanted[0].document().pointer(&pointer).is_some(), "{kind:?}: {pointer}");
        }
    }
}

#[test]
fn optimizers_and_microinverters_are_looked_at_with_a_module() {
    let library = demo();
    let module = library
        .modules
        .iter()
        .find(|m| m.sheet == "brightmoor-bm-430" && m.revision == 2)
        .expect("demo");
    let about =
        About { t_min_c: Some(-24.0), module: Some(module.ratings.clone()), ..About::default() };
    let number = |judged: &heliant_core::sheets::Judged, id: &str| {
        judged
            .figures
            .iter()
            .find(|f| f.id == id)
            .and_then(|f| f.value.as_ref())
            .and_then(|v| v.number())
            .unwrap_or(f64::NAN)
    };
    let optimizer = serde_json::to_value(&library.optimizers[0]).expect("JSON");
    let judged = judge(SheetKind::Optimizer, &optimizer, &about, School::Iec);
    // 39.4 x (1 + 0.0026 x 49).
    assert!((number(&judged, "optimizer.voc_cold_v") - 44.4196).abs() < 1e-4);
    let small = with(optimizer.clone(), "/ratings/in_v_max_v", json!(44));
    let judged = judge(SheetKind::Optimizer, &small, &about, School::Iec);
    let cold = judged.checks.iter().find(|c| c.id == "optimizer.voc_cold_v").expect("judged");
    assert_eq!(cold.verdict, Verdict::Fail);
    let upside_down = with(optimizer, "/ratings/n_min", json!(30));
    assert_eq!(
        only(&wrong(SheetKind::Optimizer, upside_down)),
        ("/ratings/n_min", "a string from 30 to 25 is upside down")
    );
    let micro = serde_json::to_value(&library.micros[0]).expect("JSON");
    let judged = judge(SheetKind::Micro, &micro, &about, School::Na);
    // 0.8 x 20 / 1.38 = 11.6, the maker's 11; 1.38 x 0.0142 x 66 / 240.
    assert_eq!(number(&judged, "branch.n_max"), 11.0);
    assert!(
        (number(&judged, "branch.rise_trunk_pct") - 1.38 * 0.0142 * 66.0 / 240.0 * 100.0).abs()
            < 1e-9
    );
    let upside_down = with(micro, "/mppt_min_v", json!(55));
    assert_eq!(
        only(&wrong(SheetKind::Micro, upside_down)),
        ("/mppt_min_v", "tracking from 55 to 50 V is upside down")
    );
}

#[test]
fn an_inverter_that_is_odd_is_a_caution() {
    let sheet = serde_json::to_value(
        demo().inverters.iter().find(|i| i.sheet == "marrow-h6").expect("demo"),
    )
    .expect("JSON");
    let verdict = |document: Value, id: &str| {
        let judged = judge(SheetKind::Inverter, &document, &About::default(), School::Iec);
        assert!(judged.problems.is_empty(), "{:?}", judged.problems);
        judged.checks.iter().find(|c| c.id == id && c.verdict != Verdict::Pass).map(|c| c.verdict)
    };
    assert_eq!(verdict(sheet.clone(), "inverter.full_power_min_v"), None);
    assert_eq!(
        verdict(
            with(sheet.clone(), "/mppts/0/full_power_min_v", json!(90)),
            "inverter.full_power_min_v"
        ),
        Some(Verdict::Warn)
    );
    assert_eq!(
        verdict(
            with(sheet.clone(), "/mppts/1/mppt_imp_max_a", json!(25)),
            "inverter.mppt_imp_max_a"
        ),
        Some(Verdict::Warn)
    );
    // Twice 7 000 W against 15 000 W in all.
    assert_eq!(
        verdict(with(sheet, "/dc_w_max_w", json!(15_000)), "inverter.mppts_w"),
        Some(Verdict::Warn)
    );
}

#[test]
fn json_that_is_no_library_says_what_it_wants() {
    let message = |text: &str| read_json(text).expect_err("it is none")[0].clone();
    assert!(message("[1]").message.contains("not an object"));
    assert!(message("{").message.starts_with("not JSON"));
    assert_eq!(message("{}").message, "there is no data sheet in it");
    assert_eq!(message(r#"{"toasters": []}"#).path, "/toasters");
    let wrong = message(
        r#"{"modules": [{"sheet": "m", "revision": 0, "maker": "M", "model": "M",
            "ratings": {}}]}"#,
    );
    assert_eq!((wrong.path.as_str(), wrong.hint.as_str()), ("/modules/0/revision", "at least 1"));
}

#[test]
fn what_begins_like_a_formula_goes_out_as_text_and_comes_back_as_it_was() {
    for name in ["=1+1", "+x", "-x", "@SUM(A1)", "'quoted", "plain", "-1"] {
        let mut document = module();
        document["maker"] = json!(name);
        let sheet = read(SheetKind::Module, document).expect("a module");
        let library = json!({ "modules": [sheet.document()] });
        let library: Library = serde_json::from_value(library).expect("a library");
        let text = write_csv(SheetKind::Module, &library);
        let formula = name.starts_with(['=', '+', '-', '@']);
        assert_eq!(text.contains(&format!(",'{name},")), formula, "{text}");
        // Numbers stay numbers: a coefficient that falls is no formula.
        assert!(text.contains(",-0.26,"), "{text}");
        let rows = read_csv(SheetKind::Module, &text).expect("its own table");
        assert_eq!(rows[0].sheet, sheet, "{name}");
    }
}

#[test]
fn a_quote_that_is_not_closed_ends_the_reading_where_it_is_seen() {
    let head = "sheet,revision,maker,model";
    let long = format!("{head}\na,1,b,\"{}", "c,1,d,e\n".repeat(100_000));
    let problems = read_csv(SheetKind::Module, &long).expect_err("no table");
    assert_eq!(problems.len(), 1);
    assert_eq!(problems[0].path, "/rows/2");
    assert!(problems[0].hint.contains("a quote opened and not closed"), "{problems:?}");
    let wide = "sheet,".repeat(2_000);
    let problems = read_csv(SheetKind::Module, &wide).expect_err("no table");
    assert!(problems[0].message.contains("columns"), "{problems:?}");
    // Many rows that are wrong: fifty are told.
    let rows: String = (0..300).map(|i| format!("s{i},x,b,c\n")).collect();
    let problems = read_csv(SheetKind::Module, &format!("{head}\n{rows}")).expect_err("wrong");
    assert_eq!(problems.len(), 51);
    assert!(problems[50].message.starts_with("and "), "{:?}", problems[50]);
}
