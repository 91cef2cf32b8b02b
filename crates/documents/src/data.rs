//! The report as the template reads it: words and numbers as they are printed.

use std::collections::HashMap;
use std::collections::hash_map::Entry;

use heliant_core::figure::{
    Check, Field, Figure, Line, Stage, Subject, Value, Verdict, field_title,
};
use heliant_core::library::SheetKind;
use heliant_core::quantity::Unit;
use heliant_core::rules::rules;
use heliant_core::school::School;
use heliant_core::stages::test::JudgedReading;
use heliant_core::traced::number;
use serde_json::{Value as Json, json};

use crate::Pack;
use crate::cover::{at, cover, recorded_at};
use crate::found::{ALSO_LISTED, Found};
use crate::named::{subject, word};
use crate::printed::{kind, measured, printed, tape, value, yes_no};

/// What every paper says.
const NOTICE: &str = "Heliant computes with the values entered and the rules named by number. \
    It replaces neither the local code nor the authority having jurisdiction nor the judgement of \
    a licensed person: they have the last word. Check every figure before work begins.";

const SAFETY: [&str; 5] = [
    "Modules are live whenever there is light. A DC arc does not stop by itself: never part a \
        connector under load.",
    "Dead means proven dead: isolate, lock, prove the tester, test, prove the tester again.",
    "Nobody stands below while there is work on the roof. Hot modules burn.",
    "Connectors of one make on both halves; joined last, with the isolator open.",
    "Keep water out of boxes with DC in them.",
];

/// The data of the pack, and that of each appendix that is a document of its own: none where no
/// document has to hold more than `most` checks and figures.
pub(crate) fn pack(pack: &Pack, most: usize) -> (Json, Vec<Json>) {
    let mut papers = whole(pack);
    let lines = |stage: &Json, what: &str| stage[what].as_array().map_or(0, Vec::len);
    let stages = papers["stages"].as_array().cloned().unwrap_or_default();
    let all: usize = stages.iter().map(|s| lines(s, "checks") + lines(s, "figures")).sum();
    if all <= most {
        return (papers, Vec::new());
    }
    let parts = parted(&stages, most.max(1));
    let n = parts.len();
    papers["appendices"] = n.into();
    let kept = ["name", "school", "revision"].map(|field| (field, papers[field].clone()));
    let appendix = |(i, stages): (usize, Vec<Json>)| {
        let part = format!("appendix {} of {n}", i + 1);
        let mut data = json!({ "title": part, "part": part, "stages": stages });
        for (field, value) in &kept {
            data[field] = value.clone();
        }
        data
    };
    let appendices = parts.into_iter().enumerate().map(appendix).collect();
    // The papers need only what does not hold.
    for stage in papers["stages"].as_array_mut().into_iter().flatten() {
        stage["figures"] = json!([]);
        if let Some(checks) = stage["checks"].as_array_mut() {
            checks.retain(|c| c["verdict"] != "Holds" && c["alternative"] == false);
        }
    }
    (papers, appendices)
}

/// The checks and figures of all stages, in their order, by as many as a document takes.
fn parted(stages: &[Json], most: usize) -> Vec<Vec<Json>> {
    let (mut parts, mut room) = (vec![Vec::new()], most);
    for what in ["checks", "figures"] {
        for stage in stages {
            let mut rest = stage[what].as_array().map_or(&[][..], Vec::as_slice);
            while !rest.is_empty() {
                if room == 0 {
                    parts.push(Vec::new());
                    room = most;
                }
                let (own, later) = rest.split_at(rest.len().min(room));
                (room, rest) = (room - own.len(), later);
                let mut some = json!({ "title": stage["title"], "checks": [], "figures": [] });
                some[what] = own.into();
                parts.last_mut().expect("there is always one").push(some);
            }
        }
    }
    parts
}

fn whole(pack: &Pack) -> Json {
    let report = pack.report;
    let job = pack.job;
    let found = &Found::of(report);
    let stages: Vec<Json> = [
        (Stage::Site, "Site"),
        (Stage::Equipment, "Equipment"),
        (Stage::Strings, "Strings"),
        (Stage::Roof, "Roof map"),
        (Stage::Runs, "Runs"),
        (Stage::Protection, "Protection"),
        (Stage::Earth, if job.school == School::Na { "Ground" } else { "Earth" }),
        (Stage::Test, "Test"),
    ]
    .into_iter()
    .map(|(stage, title)| {
        let summary = report.stages.iter().find(|s| s.stage == stage);
        json!({
            "title": title,
            "verdict": word(summary.map_or(Verdict::Unknown, |s| s.verdict)),
            "checks_n": report.checks.iter()
                .filter(|c| c.stage == stage && !c.alternative).count(),
            "checks": folded(report.checks.iter()
                .filter(|c| c.stage == stage && found.worked(&c.subject))
                .map(|c| check(c, pack, found))),
            "figures": folded(report.figures.iter()
                .filter(|f| f.stage == stage && found.worked(&f.subject))
                .map(|f| figure(f, pack, found))),
        })
    })
    .collect();
    json!({
        "name": job.name,
        "title": "pack",
        "part": "",
        "appendices": 0,
        "cover": cover(pack, found),
        "school": match job.school { School::Na => "North American", School::Iec => "IEC" },
        "revision": pack.revision,
        "saved": format!("{}, {}", at(job, pack.saved_at), pack.saved_by),
        "printed": format!("{}, {}", at(job, pack.printed_at), pack.printed_by),
        "verdict": word(report.verdict),
        "counts": { "stop": report.counts.fail, "caution": report.counts.warn,
            "open": report.counts.unknown, "holds": report.counts.pass },
        "demo": pack.library.heads().iter().any(|(.., head)| head.demo),
        "equipment": equipment(pack),
        "legs": crate::schedule::legs(pack, found),
        "ways": crate::schedule::ways(pack, found),
        "sheets": crate::sheets::sheets(pack),
        "strings": job.strings.iter().map(|s| json!({
            "letter": s.letter,
            "tape": tape(pack, &s.letter),
            "face": job.face(&s.face).map_or("", |f| f.name.as_str()),
            "n": s.n,
            "input": format!("{} input {}", s.inverter, s.mppt),
            "cold": found.value_of("string.voc_cold_v", &s.letter),
            "hot": found.value_of("string.vmp_hot_v", &s.letter),
        })).collect::<Vec<_>>(),
        "branches": job.branches.iter().map(|b| json!({
            "letter": b.letter,
            "tape": tape(pack, &b.letter),
            "face": job.face(&b.face).map_or("", |f| f.name.as_str()),
            "units": b.arms_n.iter().map(u32::to_string).collect::<Vec<_>>().join(" + "),
            "breaker": b.breaker_a.map_or_else(|| "open".to_owned(), |a| printed(a, Unit::A)),
            "amps": found.value_of("branch.i_a", &b.letter),
            "rise": found.value_of("branch.rise_total_pct", &b.letter),
        })).collect::<Vec<_>>(),
        "windows": report.string_windows.len(),
        "roof": crate::map_pages::faces(pack, found),
        "cuts": crate::map_pages::cuts(pack),
        "protection": crate::protection::protection(pack, found),
        "tapes": report.tapes.iter().map(|t| json!({
            "letter": t.letter, "tape": tape(pack, &t.letter), "hex": t.hex,
        })).collect::<Vec<_>>(),
        "stages": stages,
        "assumptions": report.assumptions.iter().map(|a| json!({
            "text": a.text,
            "by": a.confirmed_by,
            "of": a.subjects.iter().map(|s| subject(s, pack, found)).collect::<Vec<_>>().join(", "),
        })).collect::<Vec<_>>(),
        "readings": listed(pack).map(|r| reading(r, pack, found)).collect::<Vec<_>>(),
        "readings_said": readings_said(pack, found),
        "notice": NOTICE,
        "safety": SAFETY,
    })
}

/// What is said alike of several subjects, once: strings of one kind come to the same figures.
fn folded(all: impl Iterator<Item = Json>) -> Vec<Json> {
    let mut lines: Vec<Json> = Vec::new();
    let mut at: HashMap<String, usize> = HashMap::new();
    for mut own in all {
        let subject = own["subject"].take();
        match at.entry(own.to_string()) {
            Entry::Occupied(before) => {
                let line = &mut lines[*before.get()];
                let said = [&line["subject"], &subject].map(|s| s.as_str().unwrap_or_default());
                line["subject"] = said.join(", ").into();
            }
            Entry::Vacant(first) => {
                first.insert(lines.len());
                own["subject"] = subject;
                lines.push(own);
            }
        }
    }
    lines
}

fn equipment(pack: &Pack) -> Vec<Json> {
    let used = pack.job.used_sheets();
    let line = |of: SheetKind| {
        used.iter().filter(move |u| u.kind == of).filter_map(move |u| {
            let head = pack.library.head(of, u.sheet)?;
            let name = format!("{} {}", head.maker, head.model);
            Some(json!({
                "what": kind(of), "name": name, "revision": head.revision, "count": u.pieces_n,
            }))
        })
    };
    SheetKind::ALL.iter().copied().flat_map(line).collect()
}

/// The readings that stand, and of the others the newest; in the order they were taken.
fn listed<'a>(pack: &Pack<'a>) -> impl Iterator<Item = &'a JudgedReading> {
    let readings = &pack.report.readings;
    let mut passed_over = others_n(pack).saturating_sub(ALSO_LISTED);
    readings.iter().filter(move |r| {
        let left_out = r.superseded && passed_over > 0;
        passed_over -= usize::from(left_out);
        !left_out
    })
}

/// How many readings were taken again later.
fn others_n(pack: &Pack) -> usize {
    pack.report.readings.iter().filter(|r| r.superseded).count()
}

/// What is left out of the readings, where something is.
fn readings_said(pack: &Pack, found: &Found) -> String {
    let (all, others) = (pack.report.readings.len(), others_n(pack));
    let mut said = Vec::new();
    if others > ALSO_LISTED {
        said.push(format!(
            "{all} readings were taken: the {} that stand and the newest {ALSO_LISTED} of those \
             that were taken again are listed here.",
            all - others
        ));
    }
    if found.worked_n() < all {
        said.push(format!(
            "Checks and workings are printed of {} of them: where many stand, of those that do not \
             hold; never of those that were taken again.",
            found.worked_n()
        ));
    }
    if !said.is_empty() {
        said.push("All of them are in the exported job file.".to_owned());
    }
    said.join(" ")
}

fn check(c: &Check, pack: &Pack, found: &Found) -> Json {
    let figure = found.judged(c);
    let limit = c.limit.as_ref().map(|l| {
        format!(
            "{} {} ({})",
            if l.at_most { "at most" } else { "at least" },
            measured(l.value, c.unit, found.school),
            l.title
        )
    });
    let margin = c.margin.map(|m| {
        let pct =
            c.margin_pct.map_or_else(String::new, |p| format!(", {}", printed(p, Unit::Percent)));
        format!("{}{pct}", measured(m, c.unit, found.school))
    });
    json!({
        "subject": subject(&c.subject, pack, found),
        "title": c.title,
        "id": c.id,
        "verdict": match (c.alternative, &c.subject, c.verdict) {
            (true, Subject::Reading { .. }, _) => "Read again",
            (true, _, Verdict::Fail) => "Not met",
            (.., verdict) => word(verdict),
        },
        "alternative": c.alternative,
        "value": figure.map_or_else(String::new, |f| value(f.value.as_ref(), f.unit, found.school)),
        "limit": limit.unwrap_or_default(),
        "margin": margin.unwrap_or_default(),
        "source": c.source,
        "missing": titles(&c.missing),
        "reason": c.reason.clone().unwrap_or_default(),
        "cures": c.cures.iter().map(|k| k.text.clone()).collect::<Vec<_>>(),
    })
}

/// What is missing, in words.
fn titles(missing: &[Field]) -> String {
    missing.iter().map(|f| field_title(f)).collect::<Vec<_>>().join(", ")
}

fn line(l: &Line) -> Json {
    let result = match &l.value {
        Value::Number(n) => format!("{} {}", number(*n), l.unit.sign()).trim_end().to_owned(),
        Value::Text(text) => text.clone(),
        Value::Flag(is) => yes_no(*is).to_owned(),
    };
    // A line that rests on another figure says which, in words.
    let source = rules().card(&l.source).map_or(l.source.as_str(), |c| c.title);
    json!({ "label": l.label, "symbols": l.symbols, "numbers": l.numbers, "value": result,
        "source": source })
}

fn figure(f: &Figure, pack: &Pack, found: &Found) -> Json {
    json!({
        "subject": subject(&f.subject, pack, found),
        "title": f.title,
        "id": f.id,
        "value": value(f.value.as_ref(), f.unit, found.school),
        "source": f.source,
        "working": f.working.iter().map(line).collect::<Vec<_>>(),
        "missing": titles(&f.missing),
        "note": f.note.clone().unwrap_or_default(),
    })
}

fn reading(r: &JudgedReading, pack: &Pack, found: &Found) -> Json {
    let v = &r.reading.values;
    let number =
        |n: Option<f64>, unit: Unit| n.map_or_else(|| "–".to_owned(), |n| printed(n, unit));
    let verdict = found.verdict(&r.reading.id);
    let warmth = match (v.cell_c, v.back_c, v.ambient_c) {
        (Some(t), ..) => format!("cells {}", printed(t, Unit::Celsius)),
        (_, Some(t), _) => format!("back {}", printed(t, Unit::Celsius)),
        (_, _, Some(t)) => format!("air {}", printed(t, Unit::Celsius)),
        _ => "–".to_owned(),
    };
    json!({
        "string": v.string,
        "at": recorded_at(pack.job, &r.reading.at),
        "by": r.reading.brought_by.as_ref().map_or_else(
            || r.reading.by.clone(),
            |who| format!("{}, brought in by {who}", r.reading.by),
        ),
        "light": number(v.irradiance_w_m2, Unit::WPerM2),
        "warmth": warmth,
        "voc": number(v.voc_v, Unit::V),
        "expected": found.value_of("test.voc_expected_v", &r.reading.id),
        "isc": number(v.isc_a, Unit::A),
        "verdict": match &r.reading.withdrawn {
            Some(_) => "Withdrawn",
            None => verdict.map_or("", word),
        },
        "withdrawn": r.reading.withdrawn.as_ref().map_or_else(String::new, |w| {
            format!("withdrawn by {}, {}: {}", w.by, recorded_at(pack.job, &w.at), w.reason)
        }),
        "superseded": r.superseded && r.reading.withdrawn.is_none(),
        "cause": r.causes.first().map(|c| c.text.clone()).unwrap_or_default(),
    })
}

#[cfg(test)]
mod tests {
    use heliant_core::evaluate_with;
    use heliant_core::figure::Recording;
    use heliant_core::job::{self, JobFile};

    use super::*;
    use crate::sample::pack_of;

    fn data(file: &JobFile) -> (Json, heliant_core::Report) {
        let all = Recording::Everything;
        let report = evaluate_with(&file.job, &file.library, &file.readings, all);
        (whole(&pack_of(file, &report)), report)
    }

    fn kestrel() -> JobFile {
        job::read(include_str!("../../../data/demo/kestrel-lane.json"))
            .expect("the demo job reads")
            .file
    }

    fn all<'a>(packed: &'a Json, what: &str) -> Vec<&'a Json> {
        packed["stages"]
            .as_array()
            .into_iter()
            .flatten()
            .flat_map(|s| s[what].as_array().into_iter().flatten())
            .collect()
    }

    #[test]
    fn every_figure_is_there_with_working_and_source() {
        let (packed, report) = data(&kestrel());
        let figures = all(&packed, "figures");
        // Several subjects of which the same is said stand on one line.
        let of = |lines: &[&Json]| -> usize {
            let subjects = |l: &&Json| l["subject"].as_str().map_or(0, |s| s.split(", ").count());
            lines.iter().map(subjects).sum()
        };
        assert_eq!(of(&figures), report.figures.len());
        for f in figures {
            assert!(!f["source"].as_str().unwrap_or_default().is_empty(), "{f}");
            assert!(
                f["value"] == "open" || f["working"].as_array().is_some_and(|w| !w.is_empty()),
                "{f}"
            );
        }
        let cold = all(&packed, "figures")
            .into_iter()
            .find(|f| f["id"] == "string.voc_cold_v" && f["subject"] == "String A")
            .expect("there");
        // 12 x 39.4 x 1.1274
        assert_eq!(cold["value"], "533.0 V");
        assert!(cold["working"].to_string().contains("12 × 39.4 × 1.1274"), "{cold}");
        assert_eq!(of(&all(&packed, "checks")), report.checks.len());
        // B and C have seven modules each.
        let both =
            |f: &&Json| f["id"] == "string.voc_cold_v" && f["subject"] == "String B, String C";
        assert!(all(&packed, "figures").into_iter().any(|f| both(&f)), "like strings once");
    }

    #[test]
    fn readings_have_who_and_when_and_the_worse_of_two_verdicts() {
        let mut file = kestrel();
        file.readings[0].values.isc_a = Some(4.0);
        let (packed, _) = data(&file);
        let first = &packed["readings"][0];
        assert_eq!(
            (first["by"].as_str(), first["at"].as_str()),
            // Six hours behind Greenwich in October.
            (Some("Ines Rowe"), Some("2026-10-14 11:36 MDT"))
        );
        // The volts hold; 4.0 A is half of 13.85 x 0.612 x 1.0072 = 8.54 A.
        assert_eq!(first["verdict"], "Stop");
        assert_eq!(packed["readings"][1]["verdict"], "Stop");
        assert!(
            packed["readings"][1]["cause"].as_str().is_some_and(|c| c.contains("2 modules short"))
        );
    }

    /// So many readings of A, C and B in turn, of what 12 and 7 modules give.
    fn with_readings(n: u32) -> JobFile {
        let mut file = kestrel();
        let [of, volts] = [["A", "C", "B"], ["441.8", "256.5", "256.5"]];
        let one = file.readings[0].clone();
        file.readings = (0..n)
            .map(|i| {
                let mut reading = one.clone();
                let k = i as usize % 3;
                reading.id = format!("d0000000-0000-4000-8000-{i:012}").into();
                reading.values.string = of[k].into();
                reading.values.voc_v = volts[k].parse().ok();
                reading
            })
            .collect();
        file
    }

    #[test]
    fn of_many_readings_those_that_stand_are_worked_and_the_newest_listed() {
        let (few, _) = data(&with_readings(3));
        assert_eq!(few["readings_said"], "");
        let (packed, report) = data(&with_readings(603));
        assert_eq!(report.readings.iter().filter(|r| !r.superseded).count(), 3);
        let listed = packed["readings"].as_array().expect("a list");
        // 600 were taken again; of those the first hundred are left out.
        assert_eq!(listed.len(), 503);
        assert_eq!(listed.iter().filter(|r| r["superseded"] == false).count(), 3);
        let said = packed["readings_said"].as_str().expect("said");
        assert!(said.starts_with("603 readings were taken: the 3 that stand"), "{said}");
        assert!(said.contains("printed of 3 of them") && said.contains("exported job file"));
        let worked = |f: &&Json| f["id"] == "test.voc_expected_v";
        let figures: Vec<&Json> = all(&packed, "figures").into_iter().filter(worked).collect();
        let subjects: Vec<&str> = figures
            .iter()
            .flat_map(|f| f["subject"].as_str().unwrap_or_default().split(", "))
            .collect();
        assert_eq!(subjects.len(), 3, "{subjects:?}");
        assert!(subjects.contains(&"Reading 603 on B"), "{subjects:?}");
    }

    #[test]
    fn a_large_appendix_is_parted_and_nothing_of_it_is_lost() {
        let file = kestrel();
        let report = evaluate_with(&file.job, &file.library, &file.readings, Recording::Everything);
        let of = pack_of(&file, &report);
        let (whole, none) = pack(&of, 10_000);
        assert!(none.is_empty() && whole["appendices"] == 0);
        let (papers, parts) = pack(&of, 200);
        assert_eq!(papers["appendices"], parts.len());
        assert_eq!(parts[1]["part"], format!("appendix 2 of {}", parts.len()));
        for what in ["checks", "figures"] {
            let lines =
                |data: &Json| -> Vec<Json> { all(data, what).into_iter().cloned().collect() };
            let parted: Vec<Json> = parts.iter().flat_map(lines).collect();
            assert_eq!(parted, lines(&whole), "{what}");
        }
        for part in &parts {
            let n = all(part, "checks").len() + all(part, "figures").len();
            assert!((1..=200).contains(&n), "{n} lines");
        }
        // The papers name what does not hold, as before.
        let telling = |data: &Json| -> Vec<Json> {
            let own = all(data, "checks").into_iter().filter(|c| c["verdict"] != "Holds");
            own.filter(|c| c["alternative"] == false).cloned().collect()
        };
        assert_eq!(telling(&papers), telling(&whole));
        assert!(all(&papers, "figures").is_empty());
    }

    #[test]
    fn job_revision_and_notice_are_on_it() {
        let (packed, _) = data(&kestrel());
        assert_eq!(
            (packed["name"].as_str(), packed["revision"].as_i64()),
            (Some("Kestrel Lane workshop"), Some(7))
        );
        assert_eq!(packed["saved"], "2026-03-03 22:06 MST, Tomas Brandt");
        assert!(packed["notice"].as_str().is_some_and(|n| n.contains("last word")));
        assert_eq!(packed["demo"], true);
    }

    #[test]
    fn numbers_are_printed_as_on_paper() {
        assert_eq!(printed(-1234.5, Unit::V), "−1234.5 V");
        assert_eq!(printed(12_000.0, Unit::W), "12\u{2009}000 W");
        assert_eq!(printed(-0.001, Unit::V), "0.00 V");
        // 18.288 m / 0.3048 = 60 ft; other units are the same in both schools.
        assert_eq!(measured(18.288, Unit::M, School::Na), "60.0 ft (18.29 m)");
        assert_eq!(measured(18.288, Unit::M, School::Iec), "18.29 m");
        assert_eq!(measured(-20.0, Unit::Celsius, School::Na), printed(-20.0, Unit::Celsius));
    }
}
