//! A circuit's conductors and its protective conductor, IEC school. The worst part of its ways
//! rules.

use super::carried::Carried;
use super::fitted::Fitted;
use super::na::Sized;
use super::{ConductorIec, EgcInputs, I_DESIGN, IZ, Install, conductor_iec, egc};
use crate::figure::{Sheet, Subject, Verdict};
use crate::job::{Cable, Leg, Method, Part, Place, WayKey};
use crate::quantity::above;
use crate::tables;

/// Sections the tables hold, mm².
pub(super) fn sections() -> impl Iterator<Item = f64> {
    tables::SOLAR_CABLES.iter().map(|s| s.mm2)
}

/// Longest piece wholly in insulation that does not count, m (523.9).
const SHORT_M: f64 = 0.5;

/// A part of a leg's ways, with the way it is of.
type At<'p> = (&'p WayKey, &'p Part);

pub(super) fn conductors(sheet: &mut Sheet, c: &Carried, device: &Fitted) -> Sized {
    let legs = &c.circuit.legs;
    let mut least: Option<f64> = None;
    let key = &c.plan.circuits[c.at].key;
    for (k, leg) in legs.iter().enumerate() {
        sheet.subject = c.leg_subject(k);
        let iz = one_leg(sheet, c, k, leg, device);
        least = if k == 0 { iz } else { least.zip(iz).map(|(a, b)| a.min(b)) };
    }
    let earths = legs.iter().enumerate().map(|(k, leg)| {
        sheet.subject = c.leg_subject(k);
        egc(sheet, &EgcInputs { line_mm2: leg.wire.mm2, ..EgcInputs::default() }).written()
    });
    let earths = earths.collect();
    sheet.subject = Subject::circuit(key);
    Sized { earths, ampacity_a: least }
}

/// One leg; gives what it carries where it carries least.
fn one_leg(sheet: &mut Sheet, c: &Carried, k: usize, leg: &Leg, device: &Fitted) -> Option<f64> {
    super::na::assume_attic(sheet, c, leg);
    let ways = leg.via.iter().filter_map(|key| Some((key, c.plan.plan.ways.get(key)?)));
    let parts: Vec<At> = ways.flat_map(|(key, w)| w.parts.iter().map(move |p| (key, p))).collect();
    let mut worst: Option<(f64, Sheet)> = None;
    for at in &parts {
        let mut own = sheet.aside();
        let iz = in_part(&mut own, c, device, leg, *at, leg.wire.mm2).unwrap_or(f64::NEG_INFINITY);
        let opener = own.checks.iter().any(|k| k.verdict == Verdict::Unknown);
        let before = worst.as_ref();
        if before.is_none_or(|(least, _)| iz < *least || (opener && iz <= *least)) {
            worst = Some((iz, own));
        }
    }
    let Some((iz, mut own)) = worst else {
        sheet.known(&I_DESIGN, ["circuit.legs"]);
        return None;
    };
    if own.checks.iter().any(|k| k.verdict == Verdict::Fail)
        && let Some(mm2) = smallest(sheet, c, device, leg, &parts)
    {
        for check in &mut own.checks {
            let text = format_args!("{mm2} mm² is the smallest that passes.");
            check.cure(text, c.wire_edit(k, "mm2", mm2));
        }
    }
    sheet.append(own);
    Some(iz).filter(|iz| iz.is_finite())
}

/// The conductor in one part. What nobody said of the insulation around it is judged at both ends.
fn in_part(
    sheet: &mut Sheet,
    c: &Carried,
    device: &Fitted,
    leg: &Leg,
    (way, part): At,
    mm2: Option<f64>,
) -> Option<f64> {
    let hidden = matches!(part.place, Some(Place::Cavity | Place::Attic));
    let insulated = part.insulated.unwrap_or(hidden);
    let from = sheet.checks.len();
    let x = inputs(c, device, leg, way, part, mm2, insulated);
    let iz = conductor_iec(sheet, &x).value();
    if part.insulated.is_none() && hidden {
        let mut better = sheet.trial();
        conductor_iec(&mut better, &inputs(c, device, leg, way, part, mm2, false));
        sheet.open_between(from, &better, "way.parts.insulated");
    }
    if part.place.is_none() {
        for check in &mut sheet.checks[from..] {
            if check.verdict == Verdict::Pass && check.id == IZ.id {
                check.verdict = Verdict::Unknown;
                check.misses(["way.parts.place"]);
            }
        }
    }
    iz
}

fn inputs(
    c: &Carried,
    device: &Fitted,
    leg: &Leg,
    way: &WayKey,
    part: &Part,
    mm2: Option<f64>,
    insulated: bool,
) -> ConductorIec {
    let module = c.strongest();
    let row = part.place.and_then(|p| tables::place(p.key()));
    let add = part.ambient_add_c.or(row.map(|r| r.ambient_add_c)).unwrap_or(0.0);
    let least = row.and_then(|r| r.iec_ambient_min_c).unwrap_or(f64::NEG_INFINITY);
    let long = part.length_m.is_none_or(|m| above(m, SHORT_M));
    let install = match (part.method, leg.wire.cable) {
        (Method::Raceway, _) if insulated => Install::MethodA1,
        (Method::Raceway, _) => Install::MethodB1,
        (Method::FreeAir | Method::Cable, _) if insulated && long => Install::InInsulation,
        // Plus and minus of a pair lie side by side.
        (Method::FreeAir | Method::Cable, Cable::Solar) => Install::TwoTouching,
        (Method::FreeAir | Method::Cable, _) => Install::MethodC,
    };
    ConductorIec {
        kind: c.circuit.kind,
        isc_a: module.and_then(|m| m.ratings.isc_a),
        p: Some(c.parallel()),
        bifacial_gain: module.and_then(|m| m.ratings.bifacial_gain),
        rated_a: c.rated_a(),
        device_a: device.amps_a,
        device_open: device.lacks.filter(|_| device.amps_a.is_none()),
        mm2,
        cable: leg.wire.cable,
        install,
        ambient_c: c.job.site.t_max_c.map(|t| (t + add).max(least)),
        circuits_n: Some(c.loads.get(way).map_or(1, |l| l.circuits_n.max(1))),
        loaded_n: Some(if c.three_phase() { 3 } else { 2 }),
        optimizer_a: c.optimizer_a(),
    }
}

fn smallest(sheet: &Sheet, c: &Carried, device: &Fitted, leg: &Leg, parts: &[At]) -> Option<f64> {
    sections().find(|mm2| {
        parts.iter().all(|at| {
            let mut trial = sheet.trial();
            in_part(&mut trial, c, device, leg, *at, Some(*mm2));
            trial.holds()
        })
    })
}
