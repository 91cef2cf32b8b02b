//! A run's conductors and its protective conductor, IEC school. The worst segment rules.

use super::pass::{Carried, Sizes};
use super::{ConductorIec, EgcInputs, I_DESIGN, Install, conductor_iec, egc};
use crate::figure::{Sheet, Verdict};
use crate::job::{Cable, Method, Place, Segment};
use crate::tables;

/// Sections the tables hold, mm².
pub(super) fn sections() -> impl Iterator<Item = f64> {
    tables::SOLAR_CABLES.iter().map(|s| s.mm2)
}

pub(super) fn conductors(sheet: &mut Sheet, c: &Carried, device: Option<f64>) -> Sizes {
    let run = c.run;
    let mut worst: Option<(f64, Sheet)> = None;
    for segment in &run.segments {
        let mut own = sheet.aside();
        let iz = conductor_iec(&mut own, &inputs(c, device, segment, run.wire.mm2)).value();
        let iz = iz.unwrap_or(f64::NEG_INFINITY);
        if worst.as_ref().is_none_or(|(least, _)| iz < *least) {
            worst = Some((iz, own));
        }
    }
    match worst {
        Some((_, mut own)) => {
            if own.checks.iter().any(|k| k.verdict == Verdict::Fail)
                && let Some(mm2) = smallest(sheet, c, device)
            {
                for check in &mut own.checks {
                    let text = format_args!("{mm2} mm² is the smallest that passes.");
                    check.cure(text, c.edit("wire/mm2", mm2));
                }
            }
            sheet.append(own);
        }
        None => {
            sheet.known(&I_DESIGN, ["run.segments"]);
        }
    }
    let earth = egc(sheet, &EgcInputs { line_mm2: run.wire.mm2, ..EgcInputs::default() });
    Sizes { wire: run.wire.mm2.map(|n| n.to_string()), earth: earth.written() }
}

fn inputs(c: &Carried, device: Option<f64>, segment: &Segment, mm2: Option<f64>) -> ConductorIec {
    let module = c.strongest();
    let of_place = || tables::place(segment.place.key()).map(|p| p.ambient_add_c);
    let add = segment.ambient_add_c.or_else(of_place).unwrap_or(0.0);
    let install = match (segment.method, c.run.wire.cable) {
        (Method::Raceway, _) => Install::MethodB,
        (Method::FreeAir, Cable::Solar) if segment.place == Place::UnderModules => {
            Install::TwoTouching
        }
        (Method::FreeAir | Method::Cable, Cable::Solar) => Install::OnSurface,
        _ => Install::MethodC,
    };
    ConductorIec {
        kind: c.run.kind,
        isc_a: module.and_then(|m| m.ratings.isc_a),
        p: Some(c.parallel()),
        bifacial_gain: module.and_then(|m| m.ratings.bifacial_gain),
        rated_a: c.inverter.and_then(|i| i.ac_a),
        device_a: device,
        mm2,
        cable: c.run.wire.cable,
        install,
        ambient_c: c.job.site.t_max_c.map(|t| t + add),
        circuits_n: Some(c.circuits()),
        loaded_n: Some(if c.three_phase() { 3 } else { 2 }),
    }
}

fn smallest(sheet: &Sheet, c: &Carried, device: Option<f64>) -> Option<f64> {
    sections().find(|mm2| {
        c.run.segments.iter().all(|segment| {
            let mut trial = sheet.trial();
            conductor_iec(&mut trial, &inputs(c, device, segment, Some(*mm2)));
            trial.holds()
        })
    })
}
