//! The circuits of a job: each with its device, its conductors leg by leg, its voltage drop; then
//! the ways with what lies in them.

use std::collections::BTreeMap;

use super::assumptions::RESISTANCE;
use super::carried::{Carried, Loads, loads};
use super::na::Sized;
use super::raceway::Earth;
use super::reach::{self, PLANNED};
use super::{
    FILL, RacewayCut, Vdrop, earth_wire, fitted, iec, laid, method, na, piece, raceway, vdrop,
};
use crate::figure::{Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{CircuitKey, CircuitKind, JobString, Leg, Letter, Method, WayKey};
use crate::library::ModuleSheet;
use crate::plan::PlanFound;
use crate::registry::Bench;
use crate::school::School;
use crate::tables;

figures! { Runs;
    /// Communication keeps out of ways with power.
    APART: Rule = "way.control_apart",
        "Communication apart from power", na "725.136, 800.133", iec "IEC 60364-5-52";
    /// DC and AC keep out of one raceway.
    DC_APART: Rule = "way.dc_apart",
        "DC apart from AC", na "690.31(B)", iec "IEC 60364-5-52, 528";
    /// Whether the main panel is known.
    PANEL_KNOWN: Rule = "panel.bus_a", "Main panel known", na "705.12(B)";
}

/// What the circuits of a job come to, for what rests on them.
#[derive(Debug, Default)]
pub struct RunsFound {
    /// The cut through each raceway.
    pub cuts: Vec<RacewayCut>,
    /// Rating of the device of each AC circuit, A; absent where none is entered.
    pub devices: BTreeMap<CircuitKey, Option<f64>>,
    /// Rated output of what feeds each AC circuit, A; absent where it is not known.
    pub outputs: BTreeMap<CircuitKey, Option<f64>>,
    /// Ampacity of each string's wire, A, where it can be had.
    pub string_amps: BTreeMap<Letter, f64>,
    /// Ampacity of each wire that carries several strings, A, where it can be had.
    pub output_amps: BTreeMap<CircuitKey, f64>,
    /// Strings whose circuit has a fuse.
    pub fused: Vec<Letter>,
    /// The earth wire of each way with power, as it is written; absent where it is open.
    pub earths: BTreeMap<WayKey, String>,
    /// The earth wire each power circuit asks for, as it is written; absent where it is open.
    pub needed_earths: BTreeMap<CircuitKey, Option<String>>,
}

impl RunsFound {
    /// Rated output of what feeds an AC circuit, A.
    pub fn output_of(&self, circuit: &CircuitKey) -> Option<f64> {
        self.outputs.get(circuit).copied().flatten()
    }
}

pub(super) fn runs_of_job(bench: &Bench, sheet: &mut Sheet) -> RunsFound {
    let plan = bench.found.get::<PlanFound>();
    let mut found = RunsFound::default();
    if plan.circuits.is_empty() {
        sheet.subject = Subject::Site;
        sheet.known(&PLANNED, ["plan.circuits"]);
        return found;
    }
    let loads = loads(bench, plan);
    let (mut sized, mut sizes) = (Vec::new(), na::Sizes::new());
    for at in 0..plan.circuits.len() {
        let c = Carried::of(bench, plan, &loads, at);
        let own = one_circuit(sheet, &c, &mut sizes, &mut found);
        let each: Option<Vec<String>> = own.earths.iter().cloned().collect();
        let largest = each.and_then(|each| raceway::largest(bench.job.school, &each));
        found.needed_earths.insert(plan.circuits[at].key.clone(), largest);
        sized.push(own);
    }
    reach::without_circuit(bench, sheet, plan);
    ways(bench, sheet, plan, &loads, &sized, &mut found);
    found
}

/// One circuit; gives what its conductors come to.
fn one_circuit(
    sheet: &mut Sheet,
    c: &Carried,
    sizes: &mut na::Sizes,
    found: &mut RunsFound,
) -> Sized {
    let key = &c.plan.circuits[c.at].key;
    if !c.circuit.kind.is_power() {
        return Sized::default();
    }
    sheet.subject = Subject::circuit(key);
    let fitted = fitted::of_circuit(sheet, c);
    let device = fitted.amps_a;
    if !c.is_dc() {
        found.devices.insert(key.clone(), device);
        found.outputs.insert(key.clone(), c.rated_a());
    }
    reach::of_circuit(sheet, c);
    let from = sheet.checks.len();
    if c.circuit.legs.is_empty() {
        fitted::installed(sheet, c, &fitted, from);
        return Sized::default();
    }
    let sized = match c.job.school {
        School::Na => na::conductors(sheet, c, device, sizes),
        School::Iec => iec::conductors(sheet, c, &fitted),
    };
    sheet.subject = Subject::circuit(key);
    fitted::installed(sheet, c, &fitted, from);
    if let (CircuitKind::PvString, Some((s, _))) = (c.circuit.kind, c.strings.first()) {
        if let Some(amps) = sized.ampacity_a {
            found.string_amps.insert(s.letter.clone(), amps);
        }
        if device.is_some() {
            found.fused.push(s.letter.clone());
        }
    }
    if let (CircuitKind::PvOutput, Some(amps)) = (c.circuit.kind, sized.ampacity_a) {
        found.output_amps.insert(key.clone(), amps);
    }
    drop(c, sheet);
    piece::of_circuit(sheet, c);
    sized
}

/// Voltage drop of a circuit over all its legs, with the size that would hold it.
fn drop(c: &Carried, sheet: &mut Sheet) {
    let school = c.job.school;
    let (dc, ac) = school.vdrop_limits_pct();
    let flows = match (c.is_dc(), c.strings.first()) {
        (true, None) => return,
        (true, Some((s, m))) => flows(c, s, m),
        (false, _) => (c.rated_a(), c.ac_v()),
    };
    let limit_pct = if c.is_dc() {
        c.job.settings.vdrop_dc_pct.unwrap_or(dc)
    } else {
        c.job.settings.vdrop_ac_pct.unwrap_or(ac)
    };
    let mut legs = c.circuit.legs.iter().map(|leg| Vdrop {
        awg: leg.wire.awg.clone().filter(|_| school == School::Na),
        material: leg.wire.material,
        mm2: leg.wire.mm2.filter(|_| school == School::Iec),
        cable: Some(leg.wire.cable),
        length_ft: None,
        length_m: c.plan.length_m(leg),
        amps_a: flows.0,
        volts_v: flows.1,
        three_phase: !c.is_dc() && c.three_phase(),
        limit_pct: Some(limit_pct),
        further: Vec::new(),
    });
    let Some(mut whole) = legs.next() else { return };
    whole.further = legs.collect();
    hold_drop(sheet, c, &whole);
}

/// Working amps and volts of a string, or of all that share its pair.
fn flows(c: &Carried, s: &JobString, m: &ModuleSheet) -> (Option<f64>, Option<f64>) {
    let n = f64::from(s.n);
    let Some(optimizer) = &s.optimizer else {
        let p = f64::from(c.carried_n());
        return (m.ratings.imp_a.map(|i| i * p), m.ratings.vmp_v.map(|v| v * n));
    };
    // The devices hold the string at fixed volts: its watts at these are the amps.
    let volts = c.library.optimizer(optimizer).and_then(|o| o.ratings.string_v);
    (m.ratings.pmax_w.zip(volts).map(|(w, v)| w * n / v), volts)
}

fn hold_drop(sheet: &mut Sheet, c: &Carried, x: &Vdrop) {
    if !c.is_dc() {
        sheet.assume(&RESISTANCE);
    }
    let mut trial = sheet.trial();
    let check = vdrop(sheet, x);
    if check.verdict != Verdict::Warn {
        return;
    }
    check.beyond(|over| format!("{over} over the limit: the loss is paid every sunny hour."));
    if !x.further.is_empty() {
        check.cure("Thicker wire in the longest leg.", Vec::new());
        return;
    }
    let mut passes = |y: Vdrop| vdrop(&mut trial, &y).verdict == Verdict::Pass;
    match c.job.school {
        School::Na => {
            let usable = |s: &&String| tables::ampacity(s, x.material.key(), false).is_some();
            let mut sizes = tables::WIRES.iter().map(|w| &w.size).filter(usable);
            let holds = sizes.find(|s| passes(Vdrop { awg: Some((*s).clone()), ..x.clone() }));
            if let Some(size) = holds {
                let edits = c.wire_edit(0, "awg", size.as_str());
                check.cure(format_args!("{size} AWG holds it."), edits);
            }
        }
        School::Iec => {
            let holds = iec::sections().find(|s| passes(Vdrop { mm2: Some(*s), ..x.clone() }));
            if let Some(mm2) = holds {
                check.cure(format_args!("{mm2} mm² holds it."), c.wire_edit(0, "mm2", mm2));
            }
        }
    }
}

/// The ways: what may lie there, how full a raceway is, the cut through it.
fn ways(
    bench: &Bench,
    sheet: &mut Sheet,
    plan: &PlanFound,
    loads: &Loads,
    sized: &[Sized],
    found: &mut RunsFound,
) {
    for (key, way) in &plan.plan.ways {
        let lying = plan.lying_in(key);
        let inside: Vec<(Carried, &Leg)> = lying
            .iter()
            .map(|l| {
                let c = Carried::of(bench, plan, loads, l.circuit);
                let leg = &c.circuit.legs[l.leg];
                (c, leg)
            })
            .collect();
        if inside.is_empty() {
            continue;
        }
        let needed = {
            let power = inside.iter().zip(lying).filter(|((c, _), _)| c.circuit.kind.is_power());
            let each = power.map(|(_, l)| sized[l.circuit].earths.get(l.leg).cloned().flatten());
            let each = each.collect::<Option<Vec<_>>>();
            each.and_then(|each| raceway::largest(bench.job.school, &each))
        };
        let earth = way.earth.clone().or_else(|| needed.clone());
        let control = inside.iter().any(|(c, _)| c.circuit.kind == CircuitKind::Control);
        let power = inside.iter().any(|(c, _)| c.circuit.kind.is_power());
        if control && power {
            sheet.subject = Subject::Way { way: key.clone(), part: 1 };
            sheet
                .judge(&APART, Verdict::Fail)
                .reason("Communication and power lie in the same way.")
                .cure("A way of its own for the communication cable.", Vec::new());
        }
        let dc = inside.iter().any(|(c, _)| c.is_dc());
        let ac = inside.iter().any(|(c, _)| c.circuit.kind.is_ac());
        let one = way.parts.iter().position(|p| p.raceway.is_some());
        if let (true, true, Some(k)) = (dc, ac, one) {
            sheet.subject = Subject::Way { way: key.clone(), part: k + 1 };
            sheet
                .judge(&DC_APART, Verdict::Fail)
                .reason("DC of the modules and AC lie in one raceway.")
                .cure("A raceway of its own for each, or a barrier between them.", Vec::new());
        }
        let laid = if power { Earth::of(earth.as_deref()) } else { Earth::None };
        for (k, part) in way.parts.iter().enumerate() {
            sheet.subject = Subject::Way { way: key.clone(), part: k + 1 };
            if let Some(choice) = &part.raceway {
                found.cuts.extend(raceway::one(sheet, way, key, k, choice, &inside, laid));
            } else if part.method == Method::Raceway {
                // Which raceway it is, nobody said: how full it is rests on that.
                sheet.known(&FILL, ["raceway.size"]);
            }
            method::in_part(sheet, (key, way, k), &inside, laid);
        }
        laid::of_way(sheet, key, way, &inside, laid);
        earth_wire::of_way(sheet, plan, (key, way), &inside, needed.as_deref());
        if let (true, Some(earth)) = (power, earth) {
            found.earths.insert(key.clone(), earth);
        }
    }
}
