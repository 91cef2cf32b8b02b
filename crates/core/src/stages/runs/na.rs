//! A run's conductors and its earth wire, North American school.

use super::pass::{Carried, Sizes};
use super::{
    Circuit, ConductorNa, EgcInputs, I_DESIGN, SegmentNa, SharedCircuit, conductor_na, egc,
};
use crate::figure::Sheet;
use crate::job::{Insulation, Segment};
use crate::quantity::MM_PER_INCH;

pub(super) fn conductors(sheet: &mut Sheet, c: &Carried, device: Option<f64>) -> Sizes {
    let run = c.run;
    let module = c.strongest();
    let circuit = |kind, neutral| Circuit {
        kind,
        neutral,
        neutral_sense_only: false,
        neutral_nonlinear: false,
    };
    let shared = if run.kind.is_dc() {
        vec![circuit(SharedCircuit::Dc, false); c.circuits() as usize]
    } else if c.three_phase() {
        vec![circuit(SharedCircuit::ThreePhase, run.neutral)]
    } else {
        vec![circuit(SharedCircuit::SplitPhase, run.neutral)]
    };
    let segment = |s: &Segment| SegmentNa {
        place: s.place,
        ambient_add_c: s.ambient_add_c,
        method: s.method,
        roof_clearance_in: s.roof_clearance_mm.map(|mm| mm / MM_PER_INCH),
        length_in: s.length_m.map(|m| m * 1000.0 / MM_PER_INCH),
        ccc_n: None,
        circuits: Some(shared.clone()),
    };
    let inputs = ConductorNa {
        kind: run.kind,
        isc_a: module.and_then(|m| m.ratings.isc_a),
        p: Some(c.parallel()),
        bifacial_gain: module.and_then(|m| m.ratings.bifacial_gain),
        rated_a: c.inverter.and_then(|i| i.ac_a),
        material: run.wire.material,
        insulation: run.wire.insulation,
        insulation_c: Some(if run.wire.insulation == Insulation::Thwn { 75 } else { 90 }),
        terminal_c: run.wire.terminal_c,
        size: run.wire.awg.clone(),
        t_max_c: c.job.site.t_max_c,
        segments: run.segments.iter().map(segment).collect(),
        ocpd_a: device,
        pick_ocpd: !run.kind.is_dc(),
        find_smallest: true,
    };
    let from = sheet.checks.len();
    let smallest = conductor_na(sheet, &inputs);
    if let Some(size) = &smallest {
        for check in &mut sheet.checks[from..] {
            let text = format_args!("{size} AWG is the smallest that passes.");
            check.cure(text, c.edit("wire/awg", size.as_str()));
        }
    }
    if run.wire.awg.is_none() {
        sheet.known(&I_DESIGN, ["wire.awg"]);
    }
    let gained = module.and_then(|m| m.ratings.isc_a.map(|i| i * (1.0 + m.ratings.gain())));
    let earth = egc(
        sheet,
        &EgcInputs {
            ocpd_a: device,
            isc_a: gained,
            p: Some(c.parallel()),
            dc: run.kind.is_dc(),
            material: run.wire.material,
            phase_installed: run.wire.awg.clone(),
            phase_needed: smallest,
            line_mm2: None,
        },
    );
    Sizes { wire: run.wire.awg.clone(), earth: earth.written() }
}
