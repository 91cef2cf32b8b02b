//! The one-line diagram and the labels.

use std::collections::BTreeMap;

use heliant_core::Report;
use heliant_core::figure::Subject;
use heliant_core::job::{JobFile, JobString};
use heliant_core::labels::{Label, label_sheet, label_sheets, labels};
use heliant_core::one_line::{Layer, Mark, OneLine, Paper, Title, one_line};

use crate::{all, kestrel, pinyon, quarry, report, saltmarsh, tern};

fn drawn(file: &JobFile, r: &Report, paper: Paper) -> OneLine {
    let title = Title {
        revision: "Revision 3".to_owned(),
        date: "2026-11-02".to_owned(),
        by: "Tomas Brandt".to_owned(),
    };
    one_line(&file.job, &file.library, r, &title, paper)
}

fn diagram(file: &JobFile) -> OneLine {
    drawn(file, &report(file), Paper::A4)
}

fn words(diagram: &OneLine) -> Vec<String> {
    let marks = diagram.sheets.iter().flat_map(|s| &s.marks);
    let text = marks.filter_map(|m| match &m.mark {
        Mark::Text { text, .. } => Some(text.clone()),
        _ => None,
    });
    text.collect()
}

#[test]
fn electrodes_stand_below_what_they_are_connected_to() {
    // The backup board's own, with the conductor that leads to it.
    let d = diagram(&quarry());
    let marks = || d.sheets[0].marks.iter();
    let of = |m: &heliant_core::one_line::Drawn, key: &str| {
        m.subject.as_ref().is_some_and(|s| s.to_string() == key)
    };
    let board = marks().filter(|m| of(m, "BB"));
    let said: Vec<String> = board
        .filter_map(|m| match &m.mark {
            Mark::Text { text, .. } => Some(text.clone()),
            _ => None,
        })
        .collect();
    assert!(said.iter().any(|t| t == "16 mm²"), "{said:?}");
    // Of the service's panel it is said that it has one; where it is said that there is none,
    // nothing is drawn. The symbol is two lines down and three across.
    let below = |file: &JobFile| {
        let d = diagram(file);
        let own = d.sheets[0].marks.iter().filter(|m| of(m, "MP") && m.layer == Layer::Symbols);
        own.filter(|m| matches!(&m.mark, Mark::Line { points_mm, .. } if points_mm.len() == 2))
            .count()
    };
    let mut without = kestrel();
    let all = below(&without);
    let panel = without.job.plan.nodes.get_mut("MP").expect("a panel");
    panel.earthed.as_mut().expect("it is said").electrode = Some(false);
    assert_eq!(below(&without) + 5, all);
}

/// Lines of circuits as (x from, x to, y) on a sheet.
fn lanes(diagram: &OneLine, sheet: usize) -> Vec<(f64, f64, f64, Option<Subject>)> {
    let marks = diagram.sheets[sheet].marks.iter().filter(|m| m.layer == Layer::Circuits);
    let lines = marks.filter_map(|m| match &m.mark {
        Mark::Line { points_mm, .. } => {
            let ([x, y], [to, end]) = (points_mm[0], points_mm[points_mm.len() - 1]);
            assert!((y - end).abs() < 1e-9, "a circuit runs level");
            Some((x.min(to), x.max(to), y, m.subject.clone()))
        }
        _ => None,
    });
    lines.collect()
}

#[test]
fn every_circuit_is_on_it_with_its_wire_raceway_and_length() {
    let file = kestrel();
    let said = words(&diagram(&file));
    for wanted in
        ["A", "12 × BM-430", "533 V", "INV1", "MP", "45 A", "150 A", "Kestrel Lane workshop"]
    {
        assert!(said.iter().any(|t| t == wanted), "no {wanted} in {said:?}");
    }
    // 7.2 m of EMT 1 are 24 ft.
    assert!(said.iter().any(|t| t.contains("EMT 1 · 24 ft")), "{said:?}");
    assert!(said.iter().any(|t| t.contains("AWG THWN-2")));
    assert!(said.iter().any(|t| t == "Revision 3") && said.iter().any(|t| t == "1 / 1"));
    // Millimetres and metres in the other school.
    let said = words(&diagram(&quarry()));
    assert!(said.iter().any(|t| t.contains("2 × 6 mm²")), "{said:?}");
    assert!(said.iter().any(|t| t.contains("medium 25 · 6 m")), "{said:?}");
}

#[test]
fn conductors_are_counted_as_they_are_laid() {
    // A line and the neutral of a single phase, whether or not somebody said the neutral.
    let mut file = quarry();
    file.job.plan.circuits.get_mut("AC1").expect("a circuit").neutral = true;
    let said = words(&diagram(&file));
    assert!(!said.iter().any(|t| t.starts_with("3 × ")), "{said:?}");
    // Two lines and the neutral.
    assert!(words(&diagram(&kestrel())).iter().any(|t| t.starts_with("3 × 8 AWG")));
}

#[test]
fn words_that_belong_together_stand_in_one_line() {
    for (name, file) in all() {
        for text in words(&diagram(&file)) {
            // A ground without its size, a length without its unit, a raceway without its size.
            let alone = ["G", "PE", "ft", "m", "+", "EMT", "PVC40"].contains(&text.as_str());
            assert!(!alone, "{name}: {text:?} stands alone");
            assert!(!text.contains('\u{a0}'), "{name}: {text:?}");
        }
    }
}

#[test]
fn no_line_crosses_another_on_the_demo_jobs() {
    for (name, file) in all() {
        let d = diagram(&file);
        for k in 0..d.sheets.len() {
            let lines = lanes(&d, k);
            // Level lines cross nothing level; two on one height must not lie on one another.
            for (i, a) in lines.iter().enumerate() {
                for b in &lines[..i] {
                    let apart = (a.2 - b.2).abs() > 1e-6 || a.0 >= b.1 - 1e-6 || b.0 >= a.1 - 1e-6;
                    assert!(apart, "{name}: {a:?} lies on {b:?}");
                }
            }
            // And none runs through a panel's bus or an inverter it has nothing to do with.
            let upright = d.sheets[k].marks.iter().filter(|m| m.layer == Layer::Symbols);
            let buses = upright.filter_map(|m| match (&m.mark, &m.subject) {
                (Mark::Line { points_mm, closed: false }, Some(Subject::Panel { panel }))
                    if points_mm.len() == 2 && (points_mm[0][0] - points_mm[1][0]).abs() < 1e-9 =>
                {
                    let ys = [points_mm[0][1], points_mm[1][1]];
                    Some((panel.clone(), points_mm[0][0], ys[0].min(ys[1]), ys[0].max(ys[1])))
                }
                _ => None,
            });
            for (panel, x, low, high) in buses {
                for (from, to, y, subject) in &lines {
                    let through = *from < x - 1.0 && *to > x + 1.0 && *y > low && *y < high;
                    let own = subject.as_ref().is_some_and(|s| matches!(s, Subject::Panel { .. }));
                    assert!(!through || own, "{name}: {subject:?} runs through {panel}");
                }
            }
        }
    }
}

#[test]
fn everything_stays_on_the_paper_and_letters_can_be_read() {
    for (name, file) in all() {
        let r = report(&file);
        for paper in [Paper::A4, Paper::Letter] {
            for sheet in &drawn(&file, &r, paper).sheets {
                let [width, height] = paper.size_mm();
                assert_eq!(sheet.size_mm, [width, height]);
                for m in &sheet.marks {
                    let points: Vec<[f64; 2]> = match &m.mark {
                        Mark::Line { points_mm, .. } => points_mm.clone(),
                        Mark::Circle { at_mm, .. } => vec![*at_mm],
                        Mark::Text { at_mm, size_mm, .. } => {
                            assert!(*size_mm >= 2.0, "{name}: letters of {size_mm} mm");
                            vec![*at_mm]
                        }
                    };
                    let inside =
                        |[x, y]: &[f64; 2]| (0.0..=width).contains(x) && (0.0..=height).contains(y);
                    assert!(points.iter().all(inside), "{name}, {paper:?}: {m:?}");
                }
            }
        }
    }
}

/// Lines and symbols of each subject on the first sheet; words may say other figures.
fn places(file: &JobFile) -> BTreeMap<String, Vec<String>> {
    let d = diagram(file);
    let marks = d.sheets[0].marks.iter().filter(|m| m.layer != Layer::Frame);
    let mut at: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for m in marks.filter(|m| !matches!(m.mark, Mark::Text { .. })) {
        let of = m.subject.as_ref().map_or_else(String::new, Subject::to_string);
        at.entry(of).or_default().push(format!("{:?}", m.mark));
    }
    at
}

/// What was drawn and stands elsewhere now.
fn moved(before: &JobFile, after: &JobFile) -> Vec<String> {
    let (before, after) = (places(before), places(after));
    assert!(before.keys().all(|k| after.contains_key(k)), "nothing goes");
    before.into_iter().filter(|(k, marks)| after[k] != *marks).map(|(k, _)| k).collect()
}

/// One more string like the first, on a circuit like that one's.
fn with_string(file: &JobFile, letter: &str, like: &str) -> JobFile {
    let mut more = file.clone();
    let own = more.job.strings.iter().find(|s| s.letter.as_str() == like).expect("a string");
    let own = JobString { letter: letter.into(), modules: Vec::new(), ..own.clone() };
    more.job.strings.push(own);
    let mut circuit = more.job.plan.circuits[like].clone();
    circuit.from.string = Some(letter.into());
    if let Some(to) = &mut circuit.to {
        to.device = None;
    }
    more.job.plan.circuits.insert(letter.into(), circuit);
    more
}

#[test]
fn a_string_has_its_place_before_it_comes() {
    // A fourth string on a combiner of four fuses, as the last string of the job.
    let file = saltmarsh();
    let more = with_string(&file, "G", "A");
    assert!(places(&more).contains_key("G"), "{:?}", places(&more).keys());
    assert_eq!(moved(&file, &more), Vec::<String>::new());
    // A fourth on an inverter of two inputs with two connectors each.
    let file = kestrel();
    let more = with_string(&file, "D", "B");
    assert_eq!(moved(&file, &more), ["RB"], "its box is taller, nothing else moves");
    // Six connectors keep six places.
    let mut file = kestrel();
    for mppt in &mut file.library.inverters[0].mppts {
        mppt.connectors_n = Some(3.0);
    }
    let mut more = file.clone();
    for letter in ["D", "E", "F"] {
        more = with_string(&more, letter, "B");
    }
    assert_eq!(moved(&file, &more), ["RB"]);
    // A second, third and fourth on the hybrid: its box and enclosure are taller.
    let file = quarry();
    let mut more = file.clone();
    for letter in ["X", "Y", "Z"] {
        more = with_string(&more, letter, "A");
    }
    let moved = moved(&file, &more);
    assert_eq!(moved, ["ENC", "RB"]);
}

#[test]
fn what_comes_to_a_panel_later_moves_nothing() {
    // The nursery before its second inverter came.
    let file = saltmarsh();
    let mut before = file.clone();
    let job = &mut before.job;
    job.inverters.retain(|i| i.id.as_str() == "INV1");
    job.strings.retain(|s| s.inverter.as_str() == "INV1");
    job.plan.circuits.retain(|key, _| !["D", "E", "F", "OUT2", "AC2"].contains(&key.as_str()));
    // The bus it comes to is longer and the box of the array taller; what follows stays.
    assert_eq!(moved(&before, &file), ["ACP", "ARR"]);
    assert!(!places(&before).contains_key("INV2") && places(&file).contains_key("INV2"));
}

#[test]
fn however_many_outputs_leave_a_panel_they_stay_on_the_paper() {
    // Eight feeders more out of the AC panel, each to a board of its own.
    let mut file = saltmarsh();
    let plan = &mut file.job.plan;
    for k in 0..8 {
        let board = format!("X{k}");
        plan.nodes.insert(board.as_str().into(), plan.nodes["MP"].clone());
        let mut way = plan.ways["FEED"].clone();
        way.to = board.as_str().into();
        plan.ways.insert(board.as_str().into(), way);
        let mut circuit = plan.circuits["FEED"].clone();
        circuit.to.as_mut().expect("an end").node = Some(board.as_str().into());
        circuit.legs[0].via = vec![board.as_str().into()];
        plan.circuits.insert(board.as_str().into(), circuit);
    }
    let d = diagram(&file);
    let ys: Vec<f64> = lanes(&d, 0).into_iter().map(|(_, _, y, _)| y).collect();
    assert!(ys.len() > 20 && ys.iter().all(|y| *y > 24.0), "above the title block: {ys:?}");
}

#[test]
fn a_box_on_the_roof_moves_nothing_on_the_ac_side() {
    // Between the roof box and the inverter of Kestrel Lane, for all three strings.
    let file = kestrel();
    let mut more = file.clone();
    let plan = &mut more.job.plan;
    plan.nodes.insert("PB".into(), plan.nodes["RB"].clone());
    let way = plan.ways.iter().find(|(_, w)| w.from.as_str() == "RB").expect("a way");
    let (key, mut before) = (way.0.clone(), way.1.clone());
    let mut behind = before.clone();
    before.to = "PB".into();
    behind.from = "PB".into();
    plan.ways.insert(key.clone(), before);
    plan.ways.insert("from PB".into(), behind);
    for circuit in plan.circuits.values_mut() {
        for leg in &mut circuit.legs {
            if let Some(at) = leg.via.iter().position(|w| *w == key) {
                leg.via.insert(at + 1, "from PB".into());
            }
        }
    }
    let moved = moved(&file, &more);
    let ac = ["AC1", "MP", "INV1"];
    assert!(ac.iter().all(|k| !moved.iter().any(|m| m == k)), "{moved:?}");
    assert!(places(&more).contains_key("PB"));
}

#[test]
fn two_combiners_of_an_inverter_stand_one_below_the_other() {
    // The strings of the second combiner moved to the first inverter.
    let mut file = saltmarsh();
    let job = &mut file.job;
    job.inverters.truncate(1);
    for s in &mut job.strings {
        s.inverter = "INV1".into();
    }
    job.plan.ways.get_mut("FIELD-2").expect("a way").to = "INV1".into();
    job.plan.circuits.retain(|key, _| key.as_str() != "AC2");
    let d = diagram(&file);
    let tall = |key: &str| {
        let marks = d.sheets[0].marks.iter().filter(|m| {
            m.layer == Layer::Cases && m.subject.as_ref().is_some_and(|s| s.to_string() == key)
        });
        let ys = marks.flat_map(|m| match &m.mark {
            Mark::Line { points_mm, .. } => points_mm.iter().map(|p| p[1]).collect(),
            _ => Vec::new(),
        });
        let ys: Vec<f64> = ys.collect();
        (ys.iter().copied().fold(f64::MAX, f64::min), ys.iter().copied().fold(0.0, f64::max))
    };
    let (one, two) = (tall("CB1"), tall("CB2"));
    assert!(two.1 < one.0, "{one:?} {two:?}");
}

#[test]
fn like_strings_of_a_large_job_are_one_lane_and_sheets_follow() {
    let mut file = saltmarsh();
    // Twenty more like A: fourteen and more are not drawn one by one.
    for k in 0..20 {
        let letter = format!("S{k}");
        let like = file.job.strings[0].clone();
        let letter_key = letter.as_str();
        file.job.strings.push(JobString { letter: letter_key.into(), modules: Vec::new(), ..like });
        let mut circuit = file.job.plan.circuits["A"].clone();
        circuit.from.string = Some(letter_key.into());
        circuit.to.as_mut().expect("an end").device = None;
        file.job.plan.circuits.insert(letter_key.into(), circuit);
    }
    let d = diagram(&file);
    let said = words(&d);
    // A, B, C and the twenty differ in nothing that is drawn.
    assert!(said.iter().any(|t| t.contains("(23)")), "{said:?}");
    assert_eq!(d.sheets.len(), 1);
    // Nothing planned: nothing drawn.
    file.job.plan.circuits.clear();
    assert!(diagram(&file).sheets.is_empty());
}

#[test]
fn a_board_that_only_backs_up_has_no_grid() {
    // The grid's wave is drawn once, at the service's board.
    let waves = |file: &JobFile| {
        let d = diagram(file);
        let marks = d.sheets[0].marks.iter();
        marks
            .filter(|m| matches!(&m.mark, Mark::Line { points_mm, .. } if points_mm.len() == 13))
            .count()
    };
    assert_eq!(waves(&quarry()), 1);
    assert_eq!(waves(&tern()), 1);
}

fn label<'l>(all: &'l [Label], kind: &str, place: &str) -> &'l Label {
    let own = all.iter().find(|l| l.kind == kind && l.place.contains(place));
    own.unwrap_or_else(|| panic!("no {kind} at {place} in {all:?}"))
}

fn labels_of(file: &JobFile) -> Vec<Label> {
    labels(&file.job, &file.library, &report(file))
}

#[test]
fn labels_say_the_figures_of_the_job_rounded_up() {
    let all = labels_of(&kestrel());
    // 12 x 39.4 x 1.1274 = 533.03 V; 1.25 x 13.85 = 17.31 A of one string.
    let own = label(&all, "dc_switch", "INV1");
    assert_eq!(own.lines[1], "at most 534 V, 18 A");
    assert!(!own.open);
    // 33.3 A at 240 V.
    assert_eq!(label(&all, "ac_breaker", "AC1").lines[1], "34 A, 240 V");
    for kind in ["two_sources", "do_not_move"] {
        label(&all, kind, "MP");
    }
    label(&all, "shutdown", "RSD");
    // 6.1 m of attic, 9.4 of cavity, 4.0 of garage: 19.5 m, every 3.048 m and one more.
    assert_eq!(label(&all, "dc_raceway", "Roof box to inverter").n, 8);
    // A figure that is open stands as a dash and is said.
    let mut bare = kestrel();
    bare.job.site.t_min_c = None;
    let all = labels_of(&bare);
    let own = label(&all, "dc_switch", "INV1");
    assert!(own.open && own.lines[1].starts_with("at most – V"), "{own:?}");
}

#[test]
fn labels_are_of_the_school_and_the_edition() {
    let mut file = kestrel();
    assert_eq!(label(&labels_of(&file), "do_not_move", "MP").source, "705.12(B)(2)");
    file.job.settings.edition = Some(heliant_core::school::Edition::Y2017);
    assert_eq!(label(&labels_of(&file), "do_not_move", "MP").source, "705.12(B)(2)(3)(b)");
    let iec = labels_of(&quarry());
    assert!(iec.iter().all(|l| l.source.starts_with("IEC")), "{iec:?}");
    label(&iec, "backup", "BB");
    assert!(iec.iter().all(|l| l.kind != "do_not_move"));
    label(&labels_of(&pinyon()), "ac_disconnect", "RD");
}

#[test]
fn labels_are_printed_at_their_own_size_as_often_as_they_are_needed() {
    let all = labels_of(&kestrel());
    let own = label(&all, "two_sources", "MP");
    assert_eq!(label_sheet(own).size_mm, own.size_mm);
    let sheets = label_sheets(&all, [210.0, 297.0]);
    let frames = sheets.iter().flat_map(|s| &s.marks).filter(|m| m.layer == Layer::Frame);
    let pieces: u32 = all.iter().map(|l| l.n).sum();
    assert_eq!(frames.clone().count() as u32, pieces);
    // Every one is inside its paper and as wide as it says.
    let widths: Vec<f64> = all.iter().map(|l| l.size_mm[0]).collect();
    for m in frames {
        let Mark::Line { points_mm, .. } = &m.mark else { panic!("a frame is a line") };
        let wide = points_mm[1][0] - points_mm[0][0];
        assert!(widths.iter().any(|w| (w - wide).abs() < 1e-9));
        assert!(points_mm.iter().all(|[x, y]| *x <= 210.0 && *y >= 0.0 && *y <= 297.0));
    }
}
