//! A fault to earth on the AC side (iec): the type of a residual-current device, the loop that
//! trips a breaker, what the protective conductor bears meanwhile, the electrode of a TT system.

use crate::figure::{Bound, Handle, Sheet, Subject, Verdict, Working};
use crate::figures;
use crate::job::{Cable, CircuitKind, Device, DeviceKind, Earthing, WayKey};
use crate::library::RcdType;
use crate::plan::PlanFound;
use crate::quantity::{Amps, Metres, Ohms, OhmsPerMetre, Ratio, SquareMillimetres, Volts};
use crate::registry::Bench;
use crate::stages::runs::{RunsFound, TOUCH_V, Vdrop, ZS_MAX, resistance};
use crate::traced::{Traced, exact};

figures! { Protection;
    /// The kind of residual current it sees.
    TYPE: Rule = "rcd.type", "Type of the residual-current device", iec "IEC 60364-7-712";
    /// How the supply is earthed.
    EARTHING: Rule = "supply.earthing", "Earthing of the supply", iec "IEC 60364-4-41";
    /// Loop as it is planned.
    ZS: Ohms = "circuit.zs_planned_ohm", "Loop impedance as planned", iec "IEC 60364-4-41";
    /// Current of a fault to earth.
    FAULT: Amps = "circuit.earth_fault_a", "Current of a fault to earth", iec "IEC 60364-4-41";
    /// Section a protective conductor needs for it.
    ADIABATIC: SquareMillimetres = "circuit.adiabatic_mm2",
        "Section that bears the fault", iec "IEC 60364-5-54";
    /// Volts a case takes in a TT system.
    TOUCH: Volts = "rcd.touch_v", "Touch volts at the residual current", iec "IEC 60364-4-41";
    /// A TT system has a residual-current device.
    TT: Rule = "rcd.fitted", "Residual-current device of a TT system", iec "IEC 60364-4-41";
}

/// Longest a breaker takes that trips at once, s.
const AT_ONCE_S: f64 = 0.1;

pub(super) fn of_job(bench: &Bench, plan: &PlanFound, runs: &RunsFound, sheet: &mut Sheet) {
    let earthing = bench.job.protection.earthing;
    sheet.subject = Subject::Site;
    sheet.known(&EARTHING, earthing.is_none().then_some("protection.earthing"));
    for (at, own) in plan.circuits.iter().enumerate() {
        let circuit = plan.circuit(at);
        if circuit.kind != CircuitKind::InverterOut {
            continue;
        }
        sheet.subject = Subject::circuit(&own.key);
        let needs = own.inverters.first().and_then(|i| {
            let sheet = &bench.job.inverters[*i].sheet;
            bench.library.inverter(sheet)
        });
        let volts = needs.and_then(|i| i.ac_v.map(|v| (v, i.three_phase)));
        let u0 = volts.map(|(v, three)| if three { v / 3.0_f64.sqrt() } else { v });
        let needs = needs.and_then(|i| i.rcd).unwrap_or(RcdType::B);
        let rcds = rcds(plan, at);
        rcd_type(sheet, &rcds, needs);
        match earthing {
            Some(Earthing::Tt) => tt(bench, sheet, &rcds),
            Some(Earthing::Tn) => tn(bench, plan, runs, sheet, at, u0),
            None => {}
        }
    }
}

/// Residual-current devices where the circuit ends, and those its end feeds.
pub(crate) fn rcds(plan: &PlanFound, at: usize) -> Vec<&Device> {
    let circuit = plan.circuit(at);
    let ends = [Some(&circuit.from), circuit.to.as_ref()].into_iter().flatten();
    let mut found = Vec::new();
    for end in ends {
        let Some(node) = plan.node_at(end).and_then(|n| plan.plan.nodes.get(n)) else { continue };
        let own: Vec<&Device> = match &end.device {
            Some(first) => {
                super::dc::chain(node, first).into_iter().map(|d| &node.devices[d]).collect()
            }
            None => node.devices.values().collect(),
        };
        let residual = |d: &&Device| d.what == DeviceKind::Rcd || d.rcd.is_some();
        found.extend(own.into_iter().filter(residual));
    }
    found
}

fn rcd_type(sheet: &mut Sheet, rcds: &[&Device], needs: RcdType) {
    let Some(rcd) = rcds.first() else { return };
    let verdict = match rcd.rcd {
        None => Verdict::Unknown,
        Some(own) if own >= needs => Verdict::Pass,
        Some(_) => Verdict::Fail,
    };
    sheet
        .judge(&TYPE, verdict)
        .misses(["device.rcd"])
        .found(format_args!(
            "Type {} is needed: direct current of the inverter blinds a lesser one.",
            needs.word()
        ))
        .cure(format_args!("A residual-current device of type {}.", needs.word()), Vec::new());
}

/// No loop trips a breaker: a residual-current device does.
fn tt(bench: &Bench, sheet: &mut Sheet, rcds: &[&Device]) {
    let verdict = if rcds.is_empty() { Verdict::Fail } else { Verdict::Pass };
    sheet
        .judge(&TT, verdict)
        .found("The earth of a TT system does not trip a breaker.")
        .cure("A residual-current device at its head.", Vec::new());
    let Some(rcd) = rcds.first() else { return };
    let touch = sheet.figure(&TOUCH, |w| {
        let ra = bench.job.protection.ra_ohm;
        let ra = w.need::<Ohms>("RA", ra, "protection.ra_ohm", "measured");
        let amps = rcd.rcd_ma.map(|ma| ma / 1000.0);
        let amps = w.need::<Amps>("I_dn", amps, "device.rcd_ma", "data sheet");
        Some(ra? * amps?)
    });
    sheet
        .hold(&touch, Bound::at_most(TOUCH_V, "touch volts"), Verdict::Fail)
        .beyond(|over| format!("{over} too much on a case before it trips."))
        .cure("A better electrode, or a smaller residual current.", Vec::new());
}

/// The loop trips the breaker at once, and the protective conductor bears it.
fn tn(
    bench: &Bench,
    plan: &PlanFound,
    runs: &RunsFound,
    sheet: &mut Sheet,
    at: usize,
    u0: Option<f64>,
) {
    let key = &plan.circuits[at].key;
    let device = runs.devices.get(key).copied().flatten();
    let trip = plan.plan.breaker_of(plan.circuit(at)).and_then(|d| d.trip_times);
    let most = sheet.figure(&ZS_MAX, |w| {
        let u0 = w.need::<Volts>("U0", u0, "inverter.ac_v", "inverter data sheet");
        let device = w.need::<Amps>("In", device, "circuit.ocpd_a", "plan");
        let k = w.need::<Ratio>("k", trip, "device.trip_times", "trip curve");
        Some(exact::<Ratio>(0.95) * u0? / (k? * device?))
    });
    let planned = planned_loop(bench, plan, runs, sheet, at);
    sheet
        .hold(&planned, Bound::at_most(&most, "largest loop impedance"), Verdict::Fail)
        .beyond(|over| format!("{over} too much: the breaker trips too late."))
        .cure("Thicker cable, or a breaker of a faster curve.", Vec::new());
    adiabatic(plan, runs, sheet, at, u0, &planned);
}

/// The thinnest protective conductor of ways, mm²; none where one is open.
fn thinnest_mm2(runs: &RunsFound, via: &[WayKey]) -> Option<f64> {
    let mut each = via.iter().map(|way| runs.earths.get(way)?.parse::<f64>().ok());
    let least = each.try_fold(f64::INFINITY, |least, s| Some(least.min(s?)));
    least.filter(|s| s.is_finite())
}

/// Resistance of a metre of a conductor, warm.
fn metre(w: &mut Working, mm2: Option<f64>, cable: Cable) -> Option<Traced<OhmsPerMetre>> {
    if mm2.is_none() {
        w.lack("wire.mm2");
        return None;
    }
    resistance(w, &Vdrop { mm2, cable: Some(cable), ..Vdrop::default() })
}

/// The loop outside, and line and protective conductor of every leg.
fn planned_loop(
    bench: &Bench,
    plan: &PlanFound,
    runs: &RunsFound,
    sheet: &mut Sheet,
    at: usize,
) -> Handle<Ohms> {
    let circuit = plan.circuit(at);
    sheet.figure(&ZS, |w| {
        let ze = bench.job.protection.ze_ohm;
        let ze = w.need::<Ohms>("Ze", ze, "protection.ze_ohm", "network operator or measured");
        let mut sum = ze;
        for leg in &circuit.legs {
            let length = plan.length_m(leg);
            let length = w.need::<Metres>("L", length, "way.parts.length_m", "plan");
            let line = metre(w, leg.wire.mm2, leg.wire.cable);
            let earth = metre(w, thinnest_mm2(runs, &leg.via), leg.wire.cable);
            let both = line.zip(earth).zip(length).map(|((line, earth), m)| (line + earth) * m);
            sum = sum.zip(both).map(|(a, b)| a + b);
        }
        sum
    })
}

fn adiabatic(
    plan: &PlanFound,
    runs: &RunsFound,
    sheet: &mut Sheet,
    at: usize,
    u0: Option<f64>,
    planned: &Handle<Ohms>,
) {
    let fault = sheet.figure(&FAULT, |w| {
        let u0 = w.need::<Volts>("U0", u0, "inverter.ac_v", "inverter data sheet")?;
        Some(u0 / w.take("Zs", planned)?)
    });
    let circuit = plan.circuit(at);
    let via = circuit.legs.iter().flat_map(|l| &l.via).cloned().collect::<Vec<_>>();
    let least = thinnest_mm2(runs, &via);
    let pvc = circuit.legs.iter().any(|l| l.wire.cable == Cable::Pvc70);
    let needed = sheet.figure(&ADIABATIC, |w| {
        let i = w.take("I", &fault)?;
        let k = w.given("k", Ratio(if pvc { 115.0 } else { 143.0 }), "insulation");
        let t = w.given("t, s", Ratio(AT_ONCE_S), "breaker that trips at once");
        Some(exact::<SquareMillimetres>(1.0) * (i.bare() * t.sqrt() / k))
    });
    let least = (least, "wire.mm2");
    sheet
        .hold(&needed, Bound::at_most(least, "protective conductor"), Verdict::Fail)
        .beyond(|over| format!("{over} too thin: it burns before the breaker opens."))
        .cure("A thicker protective conductor.", Vec::new());
}
