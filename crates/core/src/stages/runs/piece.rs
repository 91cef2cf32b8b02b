//! Cable that is there already and is used in a leg: whether it is the wire that is planned, was
//! looked over, and whether the cuts of all its legs come out of it.

use std::collections::BTreeMap;

use super::assumptions::CUT_ENDS;
use super::carried::Carried;
use super::raceway::conductors;
use crate::figure::{Bound, Sheet, Verdict};
use crate::figures;
use crate::job::{CircuitKey, Job, PieceKey, StockPiece, WireChoice};
use crate::library::Library;
use crate::quantity::{Metres, above};
use crate::school::School;
use crate::traced::exact;

figures! { Runs;
    /// What is left of cable that is there after its cuts.
    LEFT: Metres = "leg.piece_left_m", "Left of the cable that is there", "measured";
    /// Whether it is the wire that is planned, and sound.
    PIECE: Rule = "leg.piece", "Cable that is there", na "110.12", iec "workshop practice";
}

/// More at each end of a cut than its way is long, m.
pub(crate) const CUT_END_M: f64 = 0.3;

/// The cuts that a leg takes of a piece.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Cuts {
    /// How many: one for each conductor, or one where all lie in one sheath.
    pub(crate) n: u32,
    /// Length of each, m.
    pub(crate) each_m: f64,
}

/// The cuts of a leg; none where a length is open or the cable has too few conductors in a sheath.
pub(crate) fn cuts(
    job: &Job,
    library: &Library,
    (circuit, leg): (&CircuitKey, usize),
    piece: &StockPiece,
) -> Option<Cuts> {
    let own = job.plan.circuits.get(circuit)?;
    let ways = own.legs.get(leg)?.via.iter().map(|key| job.plan.ways.get(key));
    let metres =
        |w: Option<&crate::job::Way>| -> Option<f64> { w?.parts.iter().map(|p| p.length_m).sum() };
    let length: f64 = ways.map(metres).sum::<Option<f64>>()?;
    let wires = conductors(job, library, own).len() as u32;
    let n = match piece.cores_n {
        1 => wires,
        cores if cores >= wires => 1,
        _ => return None,
    };
    Some(Cuts { n, each_m: length + 2.0 * CUT_END_M })
}

/// Cuts laid into pieces, the longest first, each into the first piece it fits.
#[derive(Clone, Debug)]
pub(crate) struct Cutting {
    free_m: Vec<f64>,
}

impl Cutting {
    /// Whole pieces.
    pub(crate) fn of(piece: &StockPiece) -> Option<Self> {
        Some(Cutting { free_m: vec![piece.length_m?; piece.pieces_n as usize] })
    }

    /// Takes cuts of a length; how much is left of the piece the last one came of, below nought
    /// where one finds no room.
    pub(crate) fn take(&mut self, cuts: Cuts) -> f64 {
        let mut left = f64::INFINITY;
        for _ in 0..cuts.n {
            let fitting = self.free_m.iter_mut().filter(|free| !above(cuts.each_m, **free));
            match fitting.min_by(|a, b| a.total_cmp(b)) {
                Some(free) => {
                    *free -= cuts.each_m;
                    left = *free;
                }
                None => return self.longest_m() - cuts.each_m,
            }
        }
        left
    }

    fn longest_m(&self) -> f64 {
        self.free_m.iter().copied().fold(0.0, f64::max)
    }
}

/// A piece in which every leg that uses it has been cut, the longest first.
pub(crate) fn used(job: &Job, library: &Library, key: &PieceKey) -> Option<Used> {
    let piece = job.stock.get(key)?;
    let mut cutting = Cutting::of(piece)?;
    let mut wanted: Vec<((CircuitKey, usize), Cuts)> = Vec::new();
    for (circuit, own) in &job.plan.circuits {
        for (k, _) in own.legs.iter().enumerate().filter(|(_, l)| l.piece.as_ref() == Some(key)) {
            wanted.push(((circuit.clone(), k), cuts(job, library, (circuit, k), piece)?));
        }
    }
    wanted.sort_by(|a, b| b.1.each_m.total_cmp(&a.1.each_m));
    let left = wanted.into_iter().map(|(leg, cuts)| (leg, (cuts, cutting.take(cuts)))).collect();
    Some(Used { left, cutting })
}

/// What is left of a piece.
pub(crate) struct Used {
    /// Of each leg its cuts, and what is left of the piece after them; below nought: too short by
    /// so much.
    left: BTreeMap<(CircuitKey, usize), (Cuts, f64)>,
    /// What is free in the pieces.
    pub(crate) cutting: Cutting,
}

impl Used {
    /// What is left of the piece behind the cuts of a leg, from 0.
    pub(crate) fn left_of(&self, circuit: &CircuitKey, leg: usize) -> Option<f64> {
        self.left.get(&(circuit.clone(), leg)).map(|(_, left)| *left)
    }
}

/// Whether two wires are the same to use.
pub(crate) fn same_wire(school: School, a: &WireChoice, b: &WireChoice) -> bool {
    match school {
        School::Na => (&a.awg, a.material, a.insulation) == (&b.awg, b.material, b.insulation),
        School::Iec => (a.mm2, a.cable) == (b.mm2, b.cable),
    }
}

/// The legs of a circuit that use cable that is there.
pub(super) fn of_circuit(sheet: &mut Sheet, c: &Carried) {
    let key = &c.plan.circuits[c.at].key;
    for (k, leg) in c.circuit.legs.iter().enumerate() {
        let Some(name) = &leg.piece else { continue };
        let Some(piece) = c.job.stock.get(name) else { continue };
        sheet.subject = c.leg_subject(k);
        sheet.assume(&CUT_ENDS);
        let own = used(c.job, c.library, name);
        let own = own.as_ref().and_then(|u| u.left.get(&(key.clone(), k)));
        let left = sheet.figure(&LEFT, |w| {
            w.words("piece", name, &piece.marks);
            let length = w.need::<Metres>("length", piece.length_m, "stock.length_m", "measured");
            let Some((cuts, left)) = own else {
                w.lack("way.parts.length_m");
                return None;
            };
            let cut = w.given("each cut, ends in", Metres(cuts.each_m), "way");
            w.given("cuts", crate::quantity::Ratio(f64::from(cuts.n)), "conductors");
            let others = w.given(
                "taken by cuts before it",
                Metres(length?.value.0 - cuts.each_m - left),
                "the same piece",
            );
            Some(exact::<Metres>(piece.length_m?) - cut - others)
        });
        sheet
            .hold(&left, Bound::at_least(0.0, "left of it"), Verdict::Fail)
            .beyond(|short| format!("It is {short} too short."))
            .cure("Another piece, or new cable.", Vec::new());
        let same = same_wire(sheet.school, &piece.wire, &leg.wire);
        let verdict = match (same, piece.sound) {
            (false, _) | (_, Some(false)) => Verdict::Fail,
            (true, None) => Verdict::Unknown,
            (true, Some(true)) => Verdict::Pass,
        };
        sheet.judge(&PIECE, verdict).misses(["stock.sound"]).reason(if same {
            "It was looked over and is not sound, or nobody looked."
        } else {
            "It is not the wire that is planned here."
        });
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn cuts_come_out_of_the_shortest_piece_that_holds_them() {
        let piece = StockPiece {
            wire: WireChoice::default(),
            length_m: Some(10.0),
            cores_n: 1,
            pieces_n: 2,
            marks: String::new(),
            sound: Some(true),
        };
        let mut cutting = Cutting::of(&piece).expect("measured");
        // Two of 6.6 m come of a piece each; 3.4 m are left of both, and one of 3.4 m fits exactly.
        assert!((cutting.take(Cuts { n: 2, each_m: 6.6 }) - 3.4).abs() < 1e-9);
        assert!(cutting.take(Cuts { n: 1, each_m: 3.4 }).abs() < 1e-9);
        // The next of 4 m is 0.6 m too long for what is left.
        assert!((cutting.take(Cuts { n: 1, each_m: 4.0 }) + 0.6).abs() < 1e-9);
    }
}
