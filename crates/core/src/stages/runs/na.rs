//! A circuit's conductors and its earth wire, North American school, leg by leg.

use super::assumptions::{ATTIC, NEUTRAL, TERMINALS_75};
use super::carried::Carried;
use super::{
    AMPACITY, ConductorNa, DERATED, EgcInputs, I_DESIGN, INSTALLED, SegmentNa, SharedCircuit,
    conductor_na, egc,
};
use crate::figure::{Sheet, Subject, Verdict};
use crate::job::{Insulation, Leg, Method, Part, Place, Way};
use crate::plan::PlanFound;
use crate::quantity::MM_PER_INCH;
use crate::tables;

/// What a circuit's conductors come to.
#[derive(Debug, Default)]
pub(super) struct Sized {
    /// The earth wire of each leg; absent where it is open.
    pub earths: Vec<Option<String>>,
    /// Amps its wire carries where it carries least.
    pub ampacity_a: Option<f64>,
}

/// Length of a way that is a raceway from box to box, or a bundle, in; none where it is not known.
fn whole_in(plan: &PlanFound, way: &Way) -> Option<f64> {
    let method = way.parts.first()?.method;
    let metres = plan.whole_m(way, |p| p.method == method && method != Method::Cable)?;
    Some(metres * 1000.0 / MM_PER_INCH)
}

fn segments(c: &Carried, leg: &Leg) -> Vec<SegmentNa> {
    let mut segments = Vec::new();
    for key in &leg.via {
        let Some(way) = c.plan.plan.ways.get(key) else { continue };
        let ccc_n = c.loads.get(key).map(|l| l.ccc_n);
        let length_in = whole_in(c.plan, way);
        segments.extend(way.parts.iter().filter_map(|part| {
            Some(SegmentNa {
                place: part.place?,
                ambient_add_c: part.ambient_add_c,
                method: part.method,
                roof_clearance_in: part.roof_clearance_mm.map(|mm| mm / MM_PER_INCH),
                length_in,
                ccc_n,
                circuits: None,
            })
        }));
    }
    segments
}

/// The attic's heat is a habit where nobody said what it is there.
pub(super) fn assume_attic(sheet: &mut Sheet, c: &Carried, leg: &Leg) {
    let ways = leg.via.iter().filter_map(|key| c.plan.plan.ways.get(key));
    let attic = |p: &Part| p.place == Some(Place::Attic) && p.ambient_add_c.is_none();
    if ways.flat_map(|w| &w.parts).any(attic) {
        sheet.assume(&ATTIC);
    }
}

/// Whether a part of a leg's ways has no place yet.
fn place_open(c: &Carried, leg: &Leg) -> bool {
    let ways = leg.via.iter().filter_map(|key| c.plan.plan.ways.get(key));
    ways.flat_map(|w| &w.parts).any(|p| p.place.is_none())
}

/// Conductors that were asked for, with the smallest size that passes.
pub(super) type Sizes = Vec<(ConductorNa, Option<String>)>;

pub(super) fn conductors(
    sheet: &mut Sheet,
    c: &Carried,
    device: Option<f64>,
    sizes: &mut Sizes,
) -> Sized {
    let legs = &c.circuit.legs;
    let mut least: Option<f64> = None;
    let mut needed: Vec<Option<String>> = Vec::new();
    for (k, leg) in legs.iter().enumerate() {
        sheet.subject = c.leg_subject(k);
        let (ampacity, smallest) = one_leg(sheet, c, k, leg, device, sizes);
        least = match (least, ampacity) {
            (_, None) => None,
            (None, Some(a)) if k == 0 => Some(a),
            (least, Some(a)) => least.map(|l| l.min(a)),
        };
        needed.push(smallest);
    }
    let module = c.strongest();
    // Optimizers give what they put out, whatever the modules could (690.8(A)).
    let given = c.optimizer_a().map(|a| a.map(|a| a / 1.25));
    let gained = given.unwrap_or(module.and_then(|m| m.ratings.isc_gained_a()));
    let p = if c.optimizer_a().is_some() { 1 } else { c.carried_n() };
    let key = &c.plan.circuits[c.at].key;
    let earths = legs.iter().zip(needed).enumerate().map(|(k, (leg, needed))| {
        sheet.subject = c.leg_subject(k);
        let x = EgcInputs {
            ocpd_a: device,
            isc_a: gained,
            p: Some(p),
            dc: c.is_dc(),
            material: leg.wire.material,
            phase_installed: leg.wire.awg.clone(),
            phase_needed: needed,
            line_mm2: None,
        };
        egc(sheet, &x).written()
    });
    let earths = earths.collect();
    sheet.subject = Subject::circuit(key);
    Sized { earths, ampacity_a: least }
}

/// One leg; gives the amps it carries and the smallest size that would pass.
fn one_leg(
    sheet: &mut Sheet,
    c: &Carried,
    k: usize,
    leg: &Leg,
    device: Option<f64>,
    sizes: &mut Sizes,
) -> (Option<f64>, Option<String>) {
    let module = c.strongest();
    let inputs = ConductorNa {
        kind: c.circuit.kind,
        isc_a: module.and_then(|m| m.ratings.isc_a),
        p: Some(c.carried_n()),
        bifacial_gain: module.and_then(|m| m.ratings.bifacial_gain),
        rated_a: c.rated_a(),
        material: leg.wire.material,
        insulation: leg.wire.insulation,
        insulation_c: None,
        terminal_c: leg.wire.terminal_c,
        size: leg.wire.awg.clone(),
        t_max_c: c.job.site.t_max_c,
        segments: segments(c, leg),
        ocpd_a: device,
        pick_ocpd: !c.is_dc(),
        find_smallest: true,
        optimizer_a: c.optimizer_a(),
        smallest: None,
    };
    // Circuits that are alike have the same smallest size; it is looked for once.
    let like = sizes.iter().find(|(like, _)| *like == inputs).map(|(_, size)| size.clone());
    let fresh = like.is_none();
    let inputs = ConductorNa { smallest: like, ..inputs };
    if leg.wire.terminal_c.is_none() && leg.wire.insulation != Insulation::Nm {
        sheet.assume(&TERMINALS_75);
    }
    if c.circuit.neutral && c.shared() == SharedCircuit::SplitPhase {
        sheet.assume(&NEUTRAL);
    }
    assume_attic(sheet, c, leg);
    let (from, figures) = (sheet.checks.len(), sheet.figures.len());
    let smallest = conductor_na(sheet, &inputs);
    if fresh {
        sizes.push((inputs, smallest.clone()));
    }
    let open = place_open(c, leg);
    for check in &mut sheet.checks[from..] {
        if open && check.verdict == Verdict::Pass && [DERATED.id, INSTALLED.id].contains(&check.id)
        {
            check.verdict = Verdict::Unknown;
            check.misses(["way.parts.place"]);
        }
    }
    // A size the fill tables do not hold is none to offer.
    if let Some(size) = smallest.as_ref().filter(|s| tables::wire(s).is_some()) {
        for check in &mut sheet.checks[from..] {
            let text = format_args!("{size} AWG is the smallest that passes.");
            check.cure(text, c.wire_edit(k, "awg", size.as_str()));
        }
    }
    if leg.wire.awg.is_none() {
        sheet.known(&I_DESIGN, ["wire.awg"]);
    }
    let carried = sheet.figures[figures..].iter().find(|f| f.id == AMPACITY.id);
    let ampacity = carried.and_then(|f| f.value.as_ref()?.number()).filter(|_| !open);
    (ampacity, smallest)
}
