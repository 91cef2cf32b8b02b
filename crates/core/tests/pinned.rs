//! The reports of the demo jobs, whole: every figure with its working, every check with its cures,
//! every drawing. A change that is meant shows here line by line before it is accepted
//! (`INSTA_UPDATE=always cargo test -p heliant-core --test pinned`).

use std::fmt::Write as _;

use heliant_core::figure::{Check, Figure, Recording, Value};
use heliant_core::{Report, evaluate_with, job};
use serde_json::json;

fn value(value: &Value) -> String {
    serde_json::to_string(value).expect("a value is JSON")
}

fn figure(out: &mut String, f: &Figure) {
    let unit = f.unit.sign();
    let shown = f.value.as_ref().map_or_else(|| "open".to_owned(), value);
    let _ = writeln!(out, "{} of {} = {shown} {unit} [{}; {}]", f.id, f.subject, f.title, f.source);
    for l in &f.working {
        let formula = if l.symbols.is_empty() {
            String::new()
        } else {
            format!(" = {} = {}", l.symbols, l.numbers)
        };
        let source = if l.source.is_empty() { String::new() } else { format!("   [{}]", l.source) };
        let _ = writeln!(
            out,
            "    {}{formula} = {} {}{source}",
            l.label,
            value(&l.value),
            l.unit.sign()
        );
    }
    if !f.missing.is_empty() {
        let _ = writeln!(out, "    missing: {}", f.missing.join(", "));
    }
    if let Some(note) = &f.note {
        let _ = writeln!(out, "    note: {note}");
    }
}

fn check(out: &mut String, c: &Check) {
    let alternative = if c.alternative { ", one of several" } else { "" };
    let _ = writeln!(
        out,
        "{} of {}: {}{alternative} [{}; {}]",
        c.id,
        c.subject,
        c.verdict.word(),
        c.title,
        c.source
    );
    if c.figure != c.id {
        let _ = writeln!(out, "    judges {}", c.figure);
    }
    if let Some(l) = &c.limit {
        let end = if l.at_most { "at most" } else { "at least" };
        let _ = writeln!(out, "    {end} {} {}: {}", l.value, c.unit.sign(), l.title);
    }
    if let Some(margin) = c.margin {
        let _ = writeln!(out, "    room {margin} {}, {:?} %", c.unit.sign(), c.margin_pct);
    }
    if !c.missing.is_empty() {
        let _ = writeln!(out, "    missing: {}", c.missing.join(", "));
    }
    if let Some(reason) = &c.reason {
        let _ = writeln!(out, "    because: {reason}");
    }
    for cure in &c.cures {
        let edits: Vec<String> =
            cure.edits.iter().map(|e| format!("{} := {}", e.pointer, e.value)).collect();
        let _ = writeln!(out, "    cure: {} {}", cure.text, edits.join("; "));
    }
}

fn pinned(report: &Report) -> String {
    let mut out = format!("{:?} {:?}\n\nFIGURES\n", report.verdict, report.counts);
    for f in &report.figures {
        figure(&mut out, f);
    }
    out.push_str("\nCHECKS\n");
    for c in &report.checks {
        check(&mut out, c);
    }
    let readings: Vec<_> = report
        .readings
        .iter()
        .map(|r| json!({ "superseded": r.superseded, "strip": r.strip, "causes": r.causes }))
        .collect();
    let cuts: Vec<_> = report
        .raceway_cuts
        .iter()
        .map(|c| json!({ "of": c.subject.to_string(), "inner_mm": c.inner_mm, "wires": c.wires }))
        .collect();
    let mut drawn = json!({
        "tapes": report.tapes,
        "string_windows": report.string_windows,
        "branches": report.branches,
        "route": report.route,
        "raceway_cuts": cuts,
        "places": report.places,
        "readings": readings,
    });
    // Whether an object keeps its order depends on what else is built with it.
    drawn.sort_all_objects();
    let _ = writeln!(
        out,
        "\nDRAWINGS\n{}",
        serde_json::to_string_pretty(&drawn).expect("drawings are JSON")
    );
    out
}

macro_rules! pin {
    ($($name:ident $file:literal;)*) => {$(
        #[test]
        fn $name() {
            let text = include_str!(concat!("../../../data/demo/", $file, ".json"));
            let file = job::read(text).expect("a demo job reads").file;
            let report =
                evaluate_with(&file.job, &file.library, &file.readings, Recording::Everything);
            insta::assert_snapshot!(pinned(&report));
        }
    )*};
}

pin! {
    kestrel_lane "kestrel-lane";
    quarry_cottage "quarry-cottage";
    pinyon_street "pinyon-street";
    tern_bay "tern-bay";
}
