//! The earth wire that is given for a way, or made into its metal-clad cable, against the one its
//! circuits and the rail bond that comes down to it need.

use super::assumptions::CLAD;
use super::carried::Carried;
use super::raceway::largest;
use crate::figure::{Sheet, Subject, Value, Verdict};
use crate::figures;
use crate::job::{CircuitKind, Earthing, Edit, Insulation, Job, Leg, Method, Part, Way, WayKey};
use crate::plan::PlanFound;
use crate::quantity::below;
use crate::school::School;
use crate::tables;

figures! { Runs;
    /// The earth wire a way needs.
    NEEDED: Size = "way.earth_needed",
        "Earth wire it needs", na "250.122, 250.120(C)", iec "IEC 60364-5-54";
    /// The earth wire that is there.
    EARTH: Rule = "way.earth", "Earth wire of the way", na "250.118, 250.122", iec "IEC 60364-5-54";
}

/// The earth wire of a way is judged where it is given, and where it is part of a cable.
/// `by_circuits` is what the circuits in it need.
pub(super) fn of_way(
    sheet: &mut Sheet,
    plan: &PlanFound,
    (key, way): (&WayKey, &Way),
    inside: &[(Carried, &Leg)],
    by_circuits: Option<&str>,
) {
    let power = || inside.iter().filter(|(c, _)| c.circuit.kind.is_power());
    let Some((first, leg)) = power().next() else { return };
    let (job, school) = (first.job, sheet.school);
    let clad = school == School::Na && way.parts.iter().any(|p| clad(p, leg));
    if way.earth.is_none() && !clad {
        return;
    }
    sheet.subject = Subject::Way { way: key.clone(), part: 1 };
    let bonds = bonds_to(job, plan, way, key);
    let needed = sheet.size(&NEEDED, crate::quantity::Unit::None, |w| {
        let Some(own) = by_circuits else {
            w.lack(school.wire_field());
            return None;
        };
        w.words("by its circuits", own, "the largest of them");
        for bond in &bonds {
            w.words("bond that comes down to it", bond, "job");
        }
        let all: Vec<String> = bonds.iter().cloned().chain([own.to_owned()]).collect();
        largest(school, &all).map(Value::Text)
    });
    let sizes: Option<Vec<String>> = power().map(|(_, l)| l.wire.awg.clone()).collect();
    let size = sizes.and_then(|sizes| largest(school, &sizes)).unwrap_or_default();
    let bundle = if clad { bundle(sheet, way, &size) } else { None };
    let there: Vec<String> = bundle.iter().chain(&way.earth).cloned().collect();
    let Some(needed) = needed.text().map(str::to_owned) else {
        sheet.judge(&EARTH, Verdict::Unknown).misses([school.wire_field()]);
        return;
    };
    let Some(there) = largest(school, &there) else {
        sheet.judge(&EARTH, Verdict::Unknown).misses(["way.bundle_earth"]);
        return;
    };
    let sections = school.section_mm2(&there).zip(school.section_mm2(&needed));
    let enough = sections.is_some_and(|(there, needed)| !below(there, needed));
    // Thinner than the table is right where it bears the fault (543.1.2), which is judged with the
    // loop.
    let ac = power().all(|(c, _)| c.circuit.kind.is_ac());
    if !enough && school == School::Iec && ac && job.protection.earthing == Some(Earthing::Tn) {
        return;
    }
    let unit = school.wire_unit();
    let verdict = if enough { Verdict::Pass } else { Verdict::Fail };
    let check = sheet
        .judge(&EARTH, verdict)
        .reason(format_args!("{there} {unit} is there, {needed} {unit} is needed."));
    if enough {
        return;
    }
    if clad && way.earth.is_none() {
        // One of several cables is enough: the others keep their own grounds.
        let cmil = tables::wire(&needed).map_or(f64::INFINITY, |w| w.cmil);
        let circuit = &plan.circuits[first.at].key;
        let at = first.circuit.legs.iter().position(|l| std::ptr::eq(l, *leg)).unwrap_or(0);
        let old = leg.wire.awg.as_deref().unwrap_or_default();
        if let Some((cable, ground)) = tables::clad_with_ground(old, cmil) {
            let edits = vec![
                Edit::new(format!("/plan/circuits/{circuit}/legs/{at}/wire/awg"), cable),
                Edit::new(format!("/plan/ways/{key}/bundle_earth"), ground),
            ];
            let text =
                format!("{circuit} in a cable of {cable} AWG, whose ground is {ground} AWG.");
            check.cure(text, edits).costs(larger_cost(job, way, first, old, cable));
        }
    }
    let edit = Edit::new(format!("/plan/ways/{key}/earth"), needed.as_str());
    let (text, cost) = match clad {
        true => {
            let text = format!("A conductor of {needed} {unit} beside the cable.");
            (text, beside_cost(job, way, &needed))
        }
        false => (format!("{needed} {unit} instead."), None),
    };
    check.cure(text, vec![edit]).costs(cost);
}

/// Metal-clad cable: a cable of its own that is no nonmetallic-sheathed one.
pub(crate) fn clad(part: &Part, leg: &Leg) -> bool {
    part.raceway.is_none() && part.method == Method::Cable && leg.wire.insulation != Insulation::Nm
}

/// The ground in the cable, of several in the largest: as printed, else as cables of its size
/// usually have it.
fn bundle(sheet: &mut Sheet, way: &Way, size: &str) -> Option<String> {
    if way.bundle_earth.is_some() {
        return way.bundle_earth.clone();
    }
    let usual = tables::clad_ground(size)?;
    sheet.assume(&CLAD);
    Some(usual.to_owned())
}

/// Bonding conductors that come down to where the way begins and go on in nothing else.
fn bonds_to(job: &Job, plan: &PlanFound, way: &Way, key: &WayKey) -> Vec<String> {
    let bond = |kind| kind == CircuitKind::Bond;
    let all = || plan.plan.circuits.values().filter(|c| bond(c.kind));
    let goes_on = all().any(|c| {
        c.from.node.as_ref() == Some(&way.from) || c.legs.iter().any(|l| l.via.contains(key))
    });
    if goes_on {
        return Vec::new();
    }
    let ends = all().filter(|c| c.to.as_ref().is_some_and(|t| t.node.as_ref() == Some(&way.from)));
    ends.filter_map(|c| c.legs.last()?.wire.size(job.school)).collect()
}

fn metres(way: &Way) -> Option<f64> {
    way.parts.iter().map(|p| p.length_m).sum()
}

fn mm2(size: &str) -> Option<f64> {
    tables::wire(size).map(tables::Wire::section_mm2)
}

/// What the larger cable of a circuit costs more: the metal in its conductors and its ground.
fn larger_cost(job: &Job, way: &Way, c: &Carried, old: &str, cable: &str) -> Option<f64> {
    let n = super::raceway::roles(c).len() as f64;
    let grounds = mm2(tables::clad_ground(cable)?)? - mm2(tables::clad_ground(old)?)?;
    let more_mm2 = n * (mm2(cable)? - mm2(old)?) + grounds;
    Some(more_mm2 * job.rate("cable_mm2_m") * metres(way)?)
}

/// What a conductor beside the cable costs, fastened.
fn beside_cost(job: &Job, way: &Way, size: &str) -> Option<f64> {
    let a_metre = job.conductor_cost(mm2(size)?);
    let work = job.rate("lay_open_m") / 60.0 * job.rate("labour_h");
    Some((a_metre + work) * metres(way)?)
}
