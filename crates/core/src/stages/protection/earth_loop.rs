//! The loop of a fault to earth on the AC side, from the service to the far end of a circuit, and
//! the current it drives.

use crate::figure::{Field, Handle, Sheet, Subject, Working};
use crate::figures;
use crate::job::{CircuitKind, Leg, Material, WayKey};
use crate::plan::PlanFound;
use crate::quantity::{Amps, Metres, Ohms, OhmsPerMetre, Volts};
use crate::registry::Bench;
use crate::school::School;
use crate::stages::runs::{RunsFound, Vdrop, is_208y, resistance};
use crate::traced::Traced;

figures! { Protection;
    /// Loop as it is planned.
    ZS: Ohms = "circuit.zs_planned_ohm",
        "Loop impedance as planned", na "250.4(A)(5)", iec "IEC 60364-4-41";
    /// Current of a fault to earth.
    FAULT: Amps = "circuit.earth_fault_a",
        "Current of a fault to earth", na "250.4(A)(5)", iec "IEC 60364-4-41";
}

/// Every AC circuit's loop and what it drives (na); the other school holds them against its rules.
pub(super) fn of_job(bench: &Bench, plan: &PlanFound, runs: &RunsFound, sheet: &mut Sheet) {
    for at in (0..plan.circuits.len()).filter(|at| plan.circuit(*at).kind.is_ac()) {
        sheet.subject = Subject::circuit(&plan.circuits[at].key);
        let planned = earth_loop(bench, plan, runs, sheet, at);
        earth_fault(sheet, to_earth_v(bench, plan, at), &planned);
    }
}

/// What the loop drives.
pub(super) fn earth_fault(
    sheet: &mut Sheet,
    u0: Option<f64>,
    planned: &Handle<Ohms>,
) -> Handle<Amps> {
    sheet.figure(&FAULT, |w| {
        let u0 = w.need::<Volts>("U0", u0, "inverter.ac_v", "data sheets, line to earth")?;
        Some(u0 / w.take("Zs", planned)?)
    })
}

/// Volts from a line to earth of what feeds a circuit: of 208 and of three phases by the root of
/// three, of two lines with their neutral between (na) half.
pub(super) fn to_earth_v(bench: &Bench, plan: &PlanFound, at: usize) -> Option<f64> {
    let own = &plan.circuits[at];
    let of = |v: f64, three_phase: bool| match bench.job.school {
        _ if three_phase => v / 3.0_f64.sqrt(),
        School::Na if is_208y(v) => v / 3.0_f64.sqrt(),
        School::Na if v > 130.0 => v / 2.0,
        _ => v,
    };
    let inverters = own.inverters.iter().map(|i| {
        let sheet = bench.library.inverter(&bench.job.inverters[*i].sheet)?;
        Some(of(sheet.ac_v?, sheet.three_phase))
    });
    let units = own.branches.iter().map(|i| {
        let sheet = bench.library.micro(&bench.job.branches[*i].micro)?;
        Some(of(sheet.ac_v?, false))
    });
    let all: Vec<f64> = inverters.chain(units).collect::<Option<_>>()?;
    // The lowest drives the least.
    all.into_iter().reduce(f64::min)
}

/// The legs a fault current comes through from the grid: those of the circuit and of all that lead
/// on from where it ends; the backup output is fed through the inverter's other one. What is not
/// planned yet is named.
fn legs_to_the_grid<'p>(
    bench: &Bench,
    plan: &'p PlanFound,
    at: usize,
) -> Result<Vec<&'p Leg>, Field> {
    let mut chain = plan.to_the_grid(at);
    let board = bench.job.protection.backup.as_ref().and_then(|b| b.board.as_ref());
    let ends = plan.circuit(at).to.as_ref().and_then(|e| plan.node_at(e));
    if ends.is_some() && ends == board {
        let other = |o: &usize| {
            let shares = |i| plan.circuits[*o].inverters.contains(i);
            plan.circuit(*o).kind == CircuitKind::InverterOut
                && !chain.contains(o)
                && plan.circuits[at].inverters.iter().any(shares)
        };
        if let Some(other) = (0..plan.circuits.len()).find(other) {
            chain.extend(plan.to_the_grid(other));
        }
    }
    let circuits = || chain.iter().map(|at| plan.circuit(*at));
    if circuits().any(|c| c.to.is_none()) {
        return Err("circuit.to.node");
    }
    if circuits().any(|c| c.legs.is_empty()) {
        return Err("circuit.legs");
    }
    Ok(circuits().flat_map(|c| &c.legs).collect())
}

/// The thinnest earth wire of ways as it is written; none where one is open.
pub(super) fn thinnest(school: School, runs: &RunsFound, via: &[WayKey]) -> Option<String> {
    let each = via.iter().map(|way| {
        let size = runs.earths.get(way)?;
        Some((school.section_mm2(size)?, size))
    });
    let each: Vec<(f64, &String)> = each.collect::<Option<_>>()?;
    each.into_iter().min_by(|a, b| a.0.total_cmp(&b.0)).map(|(_, size)| size.clone())
}

/// Resistance of a metre of a conductor, warm; an earth wire is of copper.
fn metre(
    w: &mut Working,
    school: School,
    size: Option<String>,
    leg: &Leg,
    earth: bool,
) -> Option<Traced<OhmsPerMetre>> {
    let Some(size) = size else {
        w.lack(school.wire_field());
        return None;
    };
    let own = match school {
        School::Na => {
            let material = if earth { Material::Cu } else { leg.wire.material };
            Vdrop { awg: Some(size), material, ..Vdrop::default() }
        }
        School::Iec => {
            Vdrop { mm2: size.parse().ok(), cable: Some(leg.wire.cable), ..Vdrop::default() }
        }
    };
    resistance(w, &own)
}

/// What is before the service: measured or told (iec), by the fault current there (na).
fn outside(bench: &Bench, w: &mut Working, u0: Option<f64>) -> Option<Traced<Ohms>> {
    let said = &bench.job.protection;
    match bench.job.school {
        School::Iec => {
            w.need("Ze", said.ze_ohm, "protection.ze_ohm", "network operator or measured")
        }
        School::Na => {
            let amps = said.fault_ka.map(|ka| ka * 1000.0);
            let u0 = w.need::<Volts>("U0", u0, "inverter.ac_v", "data sheets, line to earth");
            let amps =
                w.need::<Amps>("from the grid", amps, "protection.fault_ka", "network operator");
            let ohm = u0? / amps?;
            Some(w.step("Ze", ohm))
        }
    }
}

/// The loop outside, and line and earth wire of every leg on the way to the grid.
pub(super) fn earth_loop(
    bench: &Bench,
    plan: &PlanFound,
    runs: &RunsFound,
    sheet: &mut Sheet,
    at: usize,
) -> Handle<Ohms> {
    let school = sheet.school;
    let u0 = to_earth_v(bench, plan, at);
    let legs = legs_to_the_grid(bench, plan, at);
    sheet.figure(&ZS, |w| {
        let mut sum = outside(bench, w, u0);
        let legs = legs.map_err(|field| w.lack(field)).ok()?;
        for leg in legs {
            let length = plan.length_m(leg);
            let length = w.need::<Metres>("L", length, "way.parts.length_m", "plan");
            let line = metre(w, school, leg.wire.size(school), leg, false);
            let earth = metre(w, school, thinnest(school, runs, &leg.via), leg, true);
            let both = line.zip(earth).zip(length).map(|((line, earth), m)| (line + earth) * m);
            sum = sum.zip(both).map(|(a, b)| a + b);
        }
        sum
    })
}
