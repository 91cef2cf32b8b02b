//! Cable that is there already: where it fits, with what to spare, and where it is too short and by
//! how much.

use std::collections::BTreeMap;

use serde::Serialize;
use utoipa::ToSchema;

use crate::evaluate::{Report, evaluate};
use crate::figure::{Subject, Verdict};
use crate::job::{CircuitKey, Edit, Job, PieceKey, WireChoice};
use crate::library::Library;
use crate::school::School;
use crate::stages::runs::is_of_the_wire;
use crate::stages::runs::piece::{cuts, same_wire, used};

/// A piece held against a leg.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Reuse {
    /// The piece.
    pub piece: PieceKey,
    /// The circuit.
    pub circuit: CircuitKey,
    /// The leg, from 1.
    pub leg: usize,
    /// It is used there.
    pub used: bool,
    /// Cuts it takes.
    pub cuts_n: u32,
    /// Length of each, room for its ends in, m.
    pub cut_m: f64,
    /// What is left after them, m; below nought: too short by so much.
    pub left_m: f64,
    /// The worst of the checks that the wire decides, with this wire in the leg.
    pub verdict: Verdict,
    /// What speaks against it, by title.
    pub against: Vec<&'static str>,
    /// The wire that is planned is another.
    pub other_wire: bool,
    /// The edits that use it there, its wire with it.
    pub edits: Vec<Edit>,
}

/// Every piece in every leg its conductors suit; what fits first, the least waste before the most.
pub fn reuse(job: &Job, library: &Library) -> Vec<Reuse> {
    let mut found = Vec::new();
    // Pieces of one wire are tried together: heat, terminals, device and drop of a circuit go by
    // its own wire.
    let mut tried: Vec<(WireChoice, Report)> = Vec::new();
    for (key, piece) in &job.stock {
        let Some(taken) = used(job, library, key) else { continue };
        let at = tried.iter().position(|(w, _)| same_wire(job.school, w, &piece.wire));
        let at = at.unwrap_or_else(|| {
            tried.push((piece.wire.clone(), all_in(job, library, &piece.wire)));
            tried.len() - 1
        });
        let report = &tried[at].1;
        for (circuit, own) in job.plan.circuits.iter().filter(|(_, c)| c.kind.is_power()) {
            for (k, leg) in own.legs.iter().enumerate() {
                let Some(cut) = cuts(job, library, (circuit, k), piece) else { continue };
                let is_used = leg.piece.as_ref() == Some(key);
                let left_m = match is_used {
                    true => taken.left_of(circuit, k).unwrap_or(f64::NAN),
                    false => taken.cutting.clone().take(cut),
                };
                let (verdict, against) = judged(report, circuit, k, own.legs.len() > 1);
                found.push(Reuse {
                    piece: key.clone(),
                    circuit: circuit.clone(),
                    leg: k + 1,
                    used: is_used,
                    cuts_n: cut.n,
                    cut_m: cut.each_m,
                    left_m,
                    verdict,
                    against,
                    other_wire: !same_wire(job.school, &piece.wire, &leg.wire),
                    edits: edits(job.school, circuit, k, key, &piece.wire),
                });
            }
        }
    }
    let rank = |r: &Reuse| (!r.used, r.left_m < 0.0, r.verdict);
    found.sort_by(|a, b| {
        let by_left = a.left_m.abs().total_cmp(&b.left_m.abs());
        rank(a).cmp(&rank(b)).then(by_left).then_with(|| a.piece.cmp(&b.piece))
    });
    found
}

/// The job with one wire in every leg of its power circuits.
fn all_in(job: &Job, library: &Library, wire: &WireChoice) -> Report {
    let mut job = job.clone();
    let power = job.plan.circuits.values_mut().filter(|c| c.kind.is_power());
    for leg in power.flat_map(|c| &mut c.legs) {
        leg.wire = with_terminals(wire, leg.wire.terminal_c);
    }
    evaluate(&job, library, &[])
}

/// Terminals belong to the place and not to the cable.
fn with_terminals(wire: &WireChoice, terminal_c: Option<u32>) -> WireChoice {
    WireChoice { terminal_c, ..wire.clone() }
}

fn judged(
    report: &Report,
    circuit: &CircuitKey,
    leg: usize,
    several: bool,
) -> (Verdict, Vec<&'static str>) {
    let own = report.checks.iter().filter(|c| match &c.subject {
        Subject::Circuit { circuit: of, leg: at } => {
            of == circuit && is_of_the_wire(c.id) && (!several || at.is_none_or(|n| n == leg + 1))
        }
        _ => false,
    });
    let own: Vec<_> = own.collect();
    let verdict = own.iter().map(|c| c.verdict).max().unwrap_or(Verdict::Unknown);
    let bad = own.iter().filter(|c| c.verdict != Verdict::Pass).map(|c| c.title);
    (verdict, bad.collect())
}

fn edits(
    school: School,
    circuit: &CircuitKey,
    leg: usize,
    piece: &PieceKey,
    wire: &WireChoice,
) -> Vec<Edit> {
    let at = format!("/plan/circuits/{circuit}/legs/{leg}");
    let fields: BTreeMap<&str, serde_json::Value> = match school {
        School::Na => BTreeMap::from([
            ("awg", serde_json::json!(wire.awg)),
            ("material", serde_json::json!(wire.material)),
            ("insulation", serde_json::json!(wire.insulation)),
        ]),
        School::Iec => BTreeMap::from([
            ("mm2", serde_json::json!(wire.mm2)),
            ("cable", serde_json::json!(wire.cable)),
        ]),
    };
    let wires = fields.into_iter().map(|(f, v)| Edit::new(format!("{at}/wire/{f}"), v));
    let od = Edit::new(format!("{at}/wire/od_mm"), serde_json::json!(wire.od_mm));
    wires.chain([od, Edit::new(format!("{at}/piece"), piece.as_str())]).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::{Insulation, StockPiece, read};

    fn piece(awg: &str, length_m: f64) -> StockPiece {
        StockPiece {
            wire: WireChoice {
                awg: Some(awg.to_owned()),
                insulation: Insulation::Thwn2,
                ..WireChoice::default()
            },
            length_m: Some(length_m),
            cores_n: 1,
            pieces_n: 2,
            marks: "from the barn".to_owned(),
            sound: Some(true),
        }
    }

    #[test]
    fn a_piece_says_where_it_fits_and_by_how_much_it_is_short() {
        let text = include_str!("../../../data/demo/kestrel-lane.json");
        let mut file = read(text).expect("a demo job").file;
        file.job.stock.insert("S1".into(), piece("10", 21.0));
        file.job.stock.insert("S2".into(), piece("10", 19.0));
        let found = reuse(&file.job, &file.library);
        let of = |piece: &str, circuit: &str| {
            let own =
                found.iter().find(|r| r.piece.as_str() == piece && r.circuit.as_str() == circuit);
            own.expect("it was held against the leg")
        };
        // String A goes 19.5 m; with 0.3 m at both ends 20.1 m, once for each pole.
        let long = of("S1", "A");
        assert_eq!(long.cuts_n, 2);
        assert!((long.cut_m - 20.1).abs() < 1e-9 && (long.left_m - 0.9).abs() < 1e-9);
        assert_eq!(long.verdict, Verdict::Pass, "{:?}", long.against);
        assert!(long.other_wire, "8 AWG is planned");
        let short = of("S2", "A");
        assert!((short.left_m + 1.1).abs() < 1e-9, "{}", short.left_m);
        // The output needs 8 AWG: 41.7 A at terminals of 35 A.
        assert_eq!(of("S1", "AC1").verdict, Verdict::Fail);
        // Taken for A, nothing of it is left for B.
        let taken = crate::job::applied(&file.job, &long.edits).expect("it is taken");
        let after = reuse(&taken, &file.library);
        let b = after.iter().find(|r| r.piece.as_str() == "S1" && r.circuit.as_str() == "B");
        assert!(b.expect("B").left_m < 0.0);
        let a = after.iter().find(|r| r.used).expect("A uses it");
        assert!((a.left_m - 0.9).abs() < 1e-9 && !a.other_wire);
        let report = evaluate(&taken, &file.library, &[]);
        let own = report.checks.iter().find(|c| c.id == "leg.piece_left_m").expect("a check");
        assert_eq!(
            (own.verdict, own.margin.map(|m| (m * 10.0).round())),
            (Verdict::Pass, Some(9.0))
        );
    }

    #[test]
    fn what_nobody_looked_over_is_open_and_another_wire_stops() {
        let text = include_str!("../../../data/demo/kestrel-lane.json");
        let mut file = read(text).expect("a demo job").file;
        file.job.stock.insert("S1".into(), StockPiece { sound: None, ..piece("8", 30.0) });
        let leg = &mut file.job.plan.circuits.get_mut("A").expect("A").legs[0];
        leg.piece = Some("S1".into());
        let insulation = leg.wire.insulation;
        let of = |job: &Job| {
            let report = evaluate(job, &file.library, &[]);
            report.checks.iter().find(|c| c.id == "leg.piece").expect("a check").verdict
        };
        file.job.stock.get_mut("S1").expect("S1").wire.insulation = insulation;
        assert_eq!(of(&file.job), Verdict::Unknown);
        file.job.stock.get_mut("S1").expect("S1").wire.awg = Some("12".to_owned());
        assert_eq!(of(&file.job), Verdict::Fail);
    }
}
