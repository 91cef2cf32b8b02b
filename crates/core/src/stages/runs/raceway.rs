//! A raceway of a run: how full it is, and the cut through it.

use super::fill::FILL;
use super::pass::{Carried, Sizes};
use super::{CutWire, FillInputs, FillWire, RacewayCut, WireRole, arrange, fill};
use crate::figure::Sheet;
use crate::job::{CircuitKind, Insulation, Letter, RacewayChoice};
use crate::quantity::MM_PER_INCH;
use crate::school::School;
use crate::tables;

/// A wire's string, where it belongs to one, and what it is.
type Wire = (Option<Letter>, WireRole);

/// The wires of a run's circuits, the earth wire left out.
fn wires(c: &Carried) -> Vec<Wire> {
    match c.run.kind {
        CircuitKind::PvString => {
            let pair = |letter: &Letter| {
                [WireRole::Plus, WireRole::Minus].map(|role| (Some(letter.clone()), role))
            };
            c.strings.iter().flat_map(|(s, _)| pair(&s.letter)).collect()
        }
        CircuitKind::PvOutput => vec![(None, WireRole::Plus), (None, WireRole::Minus)],
        _ => {
            // One line and the neutral is the IEC single-phase circuit; two lines the North
            // American one.
            let single_iec = c.job.school == School::Iec && !c.three_phase();
            let lines = if c.three_phase() { 3 } else { 2 - usize::from(single_iec) };
            let neutral = usize::from(c.run.neutral || single_iec);
            let line = std::iter::repeat_n((None, WireRole::Line), lines);
            line.chain(std::iter::repeat_n((None, WireRole::Neutral), neutral)).collect()
        }
    }
}

/// Kind of a run's wire in the fill tables.
fn kind(c: &Carried) -> &'static str {
    match (c.job.school, c.run.wire.insulation) {
        (School::Iec, _) => c.run.wire.cable.key(),
        (School::Na, Insulation::Xhhw2) => "xhhw",
        (School::Na, Insulation::Pv | Insulation::Use2) => "pv",
        (School::Na, _) => "thhn",
    }
}

/// The raceway of segment `k`: its fill, and its cut where every diameter is known.
pub(super) fn one(
    sheet: &mut Sheet,
    c: &Carried,
    k: usize,
    raceway: &RacewayChoice,
    sizes: &Sizes,
) -> Option<RacewayCut> {
    let school = c.job.school;
    let wires = wires(c);
    let (Some(size), Some(earth)) = (&sizes.wire, &sizes.earth) else {
        sheet.known(&FILL, [if school == School::Na { "wire.awg" } else { "wire.mm2" }]);
        return None;
    };
    let wire = |kind: &str, size: &str, n: u32| FillWire {
        kind: kind.to_owned(),
        size: (school == School::Na).then(|| size.to_owned()),
        mm2: if school == School::Iec { size.parse().ok() } else { None },
        n,
        od_in: None,
        od_mm: None,
    };
    let conductor = wire(kind(c), size, wires.len() as u32);
    let earth_wire = wire(if school == School::Na { "thhn" } else { "pvc70" }, earth, 1);
    let diameters = (conductor.diameter_mm(school), earth_wire.diameter_mm(school));
    let inputs = FillInputs {
        kind: raceway.kind,
        trade: (school == School::Na).then(|| raceway.size.clone()),
        size_mm: if school == School::Iec { raceway.size.parse().ok() } else { None },
        wires: vec![conductor, earth_wire],
        length_in: c.run.segments[k].length_m.map(|m| m * 1000.0 / MM_PER_INCH),
        limit_pct: c.job.settings.fill_limit_pct,
        jam_od_in: None,
    };
    let filled = fill(sheet, &inputs);
    if let Some(better) = filled.smallest {
        let kind = raceway.kind.key().to_uppercase();
        let edits = c.edit(&format!("segments/{k}/raceway/size"), better.as_str());
        filled.check.cure(format_args!("{kind} {better} holds them."), edits);
    }
    cut(sheet, raceway, wires, diameters, (size, earth))
}

fn cut(
    sheet: &Sheet,
    raceway: &RacewayChoice,
    wires: Vec<Wire>,
    diameters: (Option<f64>, Option<f64>),
    sizes: (&str, &str),
) -> Option<RacewayCut> {
    let (conductor_mm, earth_mm) = (diameters.0?, diameters.1?);
    let kind = raceway.kind.key();
    let inner_mm = match raceway.kind.school() {
        School::Na => {
            let mut rows = tables::RACEWAYS.iter();
            rows.find(|r| r.kind == kind && r.trade == raceway.size)?.id_in * MM_PER_INCH
        }
        School::Iec => {
            let mut rows = tables::CONDUITS.iter();
            rows.find(|r| r.class == kind && r.size_mm.to_string() == raceway.size)?.id_mm
        }
    };
    let laid = |string, role, size: &str, diameter_mm| CutWire {
        string,
        role,
        size: size.to_owned(),
        diameter_mm,
        x_mm: 0.0,
        y_mm: 0.0,
        fits: true,
    };
    let mut laid_in: Vec<CutWire> =
        wires.into_iter().map(|(string, role)| laid(string, role, sizes.0, conductor_mm)).collect();
    laid_in.push(laid(None, WireRole::Earth, sizes.1, earth_mm));
    Some(RacewayCut {
        subject: sheet.subject.clone(),
        kind: kind.to_owned(),
        size: raceway.size.clone(),
        inner_mm,
        wires: arrange(inner_mm, laid_in),
    })
}
