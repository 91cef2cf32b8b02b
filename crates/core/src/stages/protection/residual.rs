//! A fault to earth on the AC side (iec): the type of a residual-current device, the loop that
//! trips a breaker, what the protective conductor bears meanwhile, the electrode of a TT system.

use super::earth_loop::{earth_fault, earth_loop, thinnest, to_earth_v};
use super::through::at_end;
use crate::figure::{Bound, Handle, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{Cable, Device, DeviceKind, Earthing};
use crate::library::RcdType;
use crate::plan::PlanFound;
use crate::quantity::{Amps, Ohms, Ratio, SquareMillimetres, Volts, above, below};
use crate::registry::Bench;
use crate::school::School;
use crate::stages::runs::{RunsFound, TOUCH_V, ZS_MAX};
use crate::traced::exact;

figures! { Protection;
    /// The kind of residual current it sees.
    TYPE: Rule = "rcd.type", "Type of the residual-current device", iec "IEC 60364-7-712";
    /// How the supply is earthed.
    EARTHING: Rule = "supply.earthing", "Earthing of the supply", iec "IEC 60364-4-41";
    /// The loop a residual-current device needs.
    ZS_RESIDUAL: Ohms = "circuit.zs_residual_ohm",
        "Largest loop for the residual-current device", iec "IEC 60364-4-41";
    /// Section a protective conductor needs for it.
    ADIABATIC: SquareMillimetres = "circuit.adiabatic_mm2",
        "Section that bears the fault", iec "IEC 60364-5-54";
    /// Volts a case takes in a TT system.
    TOUCH: Volts = "rcd.touch_v", "Touch volts at the residual current", iec "IEC 60364-4-41";
    /// A TT system has a residual-current device.
    TT: Rule = "rcd.fitted", "Residual-current device of a TT system", iec "IEC 60364-4-41";
}

/// Longest a breaker takes that trips at once, s.
pub(crate) const AT_ONCE_S: f64 = 0.1;
/// Longest a residual-current device takes at its rated residual current, s (IEC 61008-1).
pub(crate) const RESIDUAL_S: f64 = 0.3;
/// It trips within the time of a final circuit from so many times its rated residual current
/// (IEC 60364-4-41).
const AT_ONCE_TIMES: f64 = 5.0;

pub(super) fn of_job(bench: &Bench, plan: &PlanFound, runs: &RunsFound, sheet: &mut Sheet) {
    let earthing = bench.job.protection.earthing;
    sheet.subject = Subject::Site;
    sheet.known(&EARTHING, earthing.is_none().then_some("protection.earthing"));
    for (at, own) in plan.circuits.iter().enumerate() {
        let circuit = plan.circuit(at);
        if !circuit.kind.is_ac() {
            continue;
        }
        sheet.subject = Subject::circuit(&own.key);
        let residual = residual(plan, at);
        rcd_type(bench, plan, sheet, at, &residual.all);
        match earthing {
            Some(Earthing::Tt) => tt(bench, sheet, &residual),
            Some(Earthing::Tn) => tn(bench, plan, runs, sheet, at, &residual),
            None => {}
        }
    }
}

/// Residual-current devices of a circuit.
#[derive(Default)]
pub(crate) struct Residual<'p> {
    /// Those on its way to the grid: they end a fault on it.
    pub(crate) clearing: Vec<&'p Device>,
    /// These, and those it comes through where it begins.
    all: Vec<&'p Device>,
    /// One stands where it ends that circuits come through which name it; this one names none.
    pub(crate) doubt: bool,
}

/// The residual-current devices a circuit comes through.
pub(crate) fn residual(plan: &PlanFound, at: usize) -> Residual<'_> {
    let mut found = Residual::default();
    for here in plan.to_the_grid(at) {
        if let Some(end) = &plan.circuit(here).to {
            let (own, others) = at_end(plan, here, end, is_residual);
            found.clearing.extend(own.into_iter().map(|(_, d)| d));
            found.doubt |= others;
        }
    }
    let begins = at_end(plan, at, &plan.circuit(at).from, is_residual).0;
    found.all = begins.into_iter().map(|(_, d)| d).chain(found.clearing.iter().copied()).collect();
    found
}

fn is_residual(device: &Device) -> bool {
    device.what == DeviceKind::Rcd || device.rcd.is_some()
}

/// Every device of its way is of the type that what feeds in asks for, or of a better one.
fn rcd_type(bench: &Bench, plan: &PlanFound, sheet: &mut Sheet, at: usize, rcds: &[&Device]) {
    if rcds.is_empty() {
        return;
    }
    // What no maker says otherwise may send smooth direct current.
    let inverters = plan.circuits[at].inverters.iter().map(|i| {
        let sheet = bench.library.inverter(&bench.job.inverters[*i].sheet);
        sheet.and_then(|s| s.rcd).unwrap_or(RcdType::B)
    });
    let units = !plan.circuits[at].branches.is_empty();
    let needs = inverters.chain(units.then_some(RcdType::B)).max().unwrap_or(RcdType::B);
    let verdict = if rcds.iter().any(|d| d.rcd.is_some_and(|own| own < needs)) {
        Verdict::Fail
    } else if rcds.iter().any(|d| d.rcd.is_none()) {
        Verdict::Unknown
    } else {
        Verdict::Pass
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
fn tt(bench: &Bench, sheet: &mut Sheet, residual: &Residual) {
    let verdict = match (residual.clearing.is_empty(), residual.doubt) {
        (false, _) => Verdict::Pass,
        (true, true) => Verdict::Unknown,
        (true, false) => Verdict::Fail,
    };
    sheet
        .judge(&TT, verdict)
        .misses(["circuit.to.device"])
        .found("The earth of a TT system does not trip a breaker.")
        .cure("A residual-current device at its head.", Vec::new());
    if residual.clearing.is_empty() {
        return;
    }
    // The one that trips on least ends the fault.
    let least = residual.clearing.iter().filter_map(|d| d.rcd_ma).reduce(f64::min);
    let touch = sheet.figure(&TOUCH, |w| {
        let ra = bench.job.protection.ra_ohm;
        let ra = w.need::<Ohms>("RA", ra, "protection.ra_ohm", "measured");
        let amps = least.map(|ma| ma / 1000.0);
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
    residual: &Residual,
) {
    let u0 = to_earth_v(bench, plan, at);
    let key = &plan.circuits[at].key;
    let device = runs.devices.get(key).copied().flatten();
    let trip = plan.guard_of(at).device().and_then(|d| d.trip_times);
    let most = sheet.figure(&ZS_MAX, |w| {
        let u0 = w.need::<Volts>("U0", u0, "inverter.ac_v", "inverter data sheet");
        let device = w.need::<Amps>("In", device, "circuit.ocpd_a", "plan");
        let k = w.need::<Ratio>("k", trip, "device.trip_times", "trip curve");
        Some(exact::<Ratio>(0.95) * u0? / (k? * device?))
    });
    // A residual-current device on its way trips on far less.
    let least = residual.clearing.iter().filter_map(|d| d.rcd_ma).reduce(f64::min);
    let by_residual = (!residual.clearing.is_empty()).then(|| {
        sheet.figure(&ZS_RESIDUAL, |w| {
            let u0 = w.need::<Volts>("U0", u0, "inverter.ac_v", "inverter data sheet");
            let amps = least.map(|ma| ma / 1000.0);
            let amps = w.need::<Amps>("I_dn", amps, "device.rcd_ma", "data sheet");
            Some(u0? / (exact::<Ratio>(AT_ONCE_TIMES) * amps?))
        })
    });
    let planned = earth_loop(bench, plan, runs, sheet, at);
    let trips = planned.value().zip(most.value()).is_some_and(|(zs, most)| !above(zs, most));
    let bound = match by_residual.as_ref().filter(|_| !trips) {
        Some(by_residual) => Bound::at_most(by_residual, "for the residual-current device"),
        None => Bound::at_most(&most, "largest loop impedance"),
    };
    sheet
        .hold(&planned, bound, Verdict::Fail)
        .beyond(|over| format!("{over} too much: the breaker trips too late."))
        .cure(
            "Thicker cable, a breaker of a faster curve, or a residual-current device.",
            Vec::new(),
        );
    let by_residual = by_residual.is_some() && !trips;
    adiabatic(plan, runs, sheet, at, u0, &planned, by_residual);
}

fn adiabatic(
    plan: &PlanFound,
    runs: &RunsFound,
    sheet: &mut Sheet,
    at: usize,
    u0: Option<f64>,
    planned: &Handle<Ohms>,
    by_residual: bool,
) {
    let fault = earth_fault(sheet, u0, planned);
    let circuit = plan.circuit(at);
    let via = circuit.legs.iter().flat_map(|l| &l.via).cloned().collect::<Vec<_>>();
    let least = thinnest(School::Iec, runs, &via).and_then(|s| School::Iec.section_mm2(&s));
    // One by the table bears it without a sum (543.1.1).
    let by_table = runs.needed_earths.get(&plan.circuits[at].key).cloned().flatten();
    let by_table = by_table.and_then(|s| School::Iec.section_mm2(&s));
    if least.zip(by_table).is_some_and(|(there, table)| !below(there, table)) {
        return;
    }
    let pvc = circuit.legs.iter().any(|l| l.wire.cable == Cable::Pvc70);
    let needed = sheet.figure(&ADIABATIC, |w| {
        let i = w.take("I", &fault)?;
        let k = w.given("k", Ratio(if pvc { 115.0 } else { 143.0 }), "insulation");
        let (t, what) = match by_residual {
            true => (RESIDUAL_S, "residual-current device"),
            false => (AT_ONCE_S, "breaker that trips at once"),
        };
        let t = w.given("t, s", Ratio(t), what);
        Some(exact::<SquareMillimetres>(1.0) * (i.bare() * t.sqrt() / k))
    });
    let least = (least, "wire.mm2");
    sheet
        .hold(&needed, Bound::at_most(least, "protective conductor"), Verdict::Fail)
        .beyond(|over| format!("{over} too thin: it burns before the breaker opens."))
        .cure("A thicker protective conductor.", Vec::new());
}
