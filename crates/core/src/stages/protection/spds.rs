//! DC surge devices of a job: whether they are asked for, whether they stand on the way of every
//! string, at one end or both, and whether each stands the coldest morning. What is taken for one
//! and is none is said.

use std::collections::BTreeSet;

use super::dc::{Dc, devices_planned};
use super::surge::{BOTH_ENDS, BOTH_ENDS_M, NEEDED, UCPV};
use super::{SurgeInputs, surge};
use crate::figure::{Sheet, Subject, Value, Verdict};
use crate::figures;
use crate::job::{DeviceKind, JobInverter, NodeKey, SurgePolicy};
use crate::quantity::above;
use crate::school::School;

figures! { Protection;
    /// Whether surge devices that are asked for are there.
    FITTED: Rule = "spd.fitted", "DC surge devices", na "242", iec "IEC 60364-7-712";
    /// Whether both ends have one.
    ENDS: Rule = "spd.both_ends_fitted", "Surge devices at both ends", iec "IEC 61643-32";
    /// A surge device is taken for a fuse.
    MISTAKEN: Rule = "device.mistaken",
        "A surge device is no fuse", na "690.9(A)", iec "IEC 60364-5-53";
}

pub(super) fn of_job(dc: &Dc, sheet: &mut Sheet) {
    for inverter in &dc.bench.job.inverters {
        of_inverter(dc, sheet, inverter);
    }
    for d in dc.devices(DeviceKind::SurgeDevice) {
        sheet.subject = Subject::Device { node: d.node.clone(), device: d.device.clone() };
        dc.in_the_cold(sheet, &UCPV, "Ucpv", &d)
            .beyond(|short| format!("{short} too low: it conducts on a cold morning."))
            .cure("A device for higher volts.", Vec::new());
    }
    mistaken(dc, sheet);
}

/// The DC side of one inverter.
fn of_inverter<'a>(dc: &Dc<'a>, sheet: &mut Sheet, inverter: &'a JobInverter) {
    let strings = dc.of_inverter(&inverter.id);
    if strings.is_empty() {
        return;
    }
    sheet.subject = Subject::inverter(&inverter.id);
    let said = &dc.bench.job.protection;
    let by_length = sheet.school == School::Iec && said.surge == Some(SurgePolicy::ByLength);
    let length_m = longest_m(dc, &strings);
    let (needed, ends) = if by_length {
        match (said.surge_site, said.flashes_per_km2, length_m) {
            (Some(kind), Some(ng), Some(m)) => {
                let from = sheet.figures.len();
                let x = SurgeInputs {
                    kind,
                    ng_per_km2_year: ng,
                    length_m: m,
                    array_to_inverter_m: m,
                    ucpv_v: None,
                    voc_cold_v: None,
                };
                surge(sheet, &x);
                let said = |id: &str| {
                    let own = sheet.figures[from..].iter().find(|f| f.id == id)?;
                    if let Some(Value::Flag(is)) = &own.value { Some(*is) } else { None }
                };
                (said(NEEDED.id), said(BOTH_ENDS.id))
            }
            (kind, ng, length) => {
                let asks = [
                    (kind.is_none(), "protection.surge_site"),
                    (ng.is_none(), "protection.flashes_per_km2"),
                    (length.is_none(), "way.parts.length_m"),
                ];
                let open = asks.into_iter().filter(|(open, _)| *open).map(|(_, field)| field);
                sheet.known(&NEEDED, open);
                return;
            }
        }
    } else {
        sheet.word(&NEEDED, |w| {
            w.words("policy of the job", "always", "setting");
            Some(Value::Flag(true))
        });
        let far = sheet.school == School::Iec;
        (Some(true), length_m.map(|m| far && above(m, BOTH_ENDS_M)))
    };
    if needed == Some(true) {
        fitted(dc, sheet, inverter, &strings, by_length);
        both_ends(dc, sheet, inverter, &strings, ends, by_length);
    }
}

/// Length of the longest string's cable to its inverter, m.
fn longest_m(dc: &Dc, strings: &[usize]) -> Option<f64> {
    let mut most: Option<f64> = None;
    for i in strings {
        let legs = dc.circuits[*i].iter().flat_map(|at| &dc.plan.circuit(*at).legs);
        let m: f64 = legs.map(|l| dc.plan.length_m(l)).sum::<Option<f64>>()?;
        most = Some(most.map_or(m, |own| own.max(m)));
    }
    most
}

fn surge_nodes<'a>(dc: &Dc<'a>, i: usize) -> BTreeSet<&'a NodeKey> {
    let has = |n: &crate::job::Node| n.devices.values().any(|d| d.what == DeviceKind::SurgeDevice);
    dc.nodes_of(i).filter(|(_, n)| has(n)).map(|(key, _)| key).collect()
}

fn built_in(dc: &Dc, inverter: &JobInverter) -> Option<bool> {
    dc.bench.library.inverter(&inverter.sheet).and_then(|s| s.dc_surge)
}

/// What is asked for and not there: the policy of the job makes it a caution, the rule a stop.
fn worse(by_rule: bool) -> Verdict {
    if by_rule { Verdict::Fail } else { Verdict::Warn }
}

fn fitted(dc: &Dc, sheet: &mut Sheet, inverter: &JobInverter, strings: &[usize], by_rule: bool) {
    let built_in = built_in(dc, inverter);
    let without: Vec<&str> = strings
        .iter()
        .filter(|i| surge_nodes(dc, **i).is_empty())
        .map(|i| dc.string(*i).letter.as_str())
        .collect();
    let verdict = match (without.is_empty(), built_in) {
        (true, _) | (_, Some(true)) => Verdict::Pass,
        (false, None) => Verdict::Unknown,
        (false, Some(false)) if !devices_planned(dc.plan) => Verdict::Unknown,
        (false, Some(false)) => worse(by_rule),
    };
    let missing = if built_in.is_none() { "inverter.dc_surge" } else { "node.devices" };
    let check = sheet.judge(&FITTED, verdict).misses([missing]);
    check.because(|| {
        let none = format!("No surge device on the way of {}.", without.join(", "));
        let nodes = strings.iter().flat_map(|i| dc.nodes_of(*i));
        let fused = nodes.filter(|(_, n)| n.devices.values().any(|d| d.what == DeviceKind::Fuse));
        let fuses: BTreeSet<&str> = fused.map(|(key, _)| key.as_str()).collect();
        if fuses.is_empty() {
            return none;
        }
        let fuses = fuses.into_iter().collect::<Vec<_>>().join(", ");
        format!("{none} What stands in {fuses} are fuses: they end an overcurrent, no surge.")
    });
    check.cure("A surge device in the enclosure the string comes through.", Vec::new());
}

fn both_ends(
    dc: &Dc,
    sheet: &mut Sheet,
    inverter: &JobInverter,
    strings: &[usize],
    ends: Option<bool>,
    by_rule: bool,
) {
    if sheet.school != School::Iec || ends == Some(false) {
        return;
    }
    if ends.is_none() {
        sheet.known(&ENDS, ["way.parts.length_m"]);
        return;
    }
    let in_it = built_in(dc, inverter) == Some(true);
    let at = dc.plan.node_of(&inverter.id);
    let short: Vec<&str> = strings
        .iter()
        .filter(|i| {
            let nodes = surge_nodes(dc, **i);
            let own = usize::from(in_it && at.is_none_or(|n| !nodes.contains(n)));
            nodes.len() + own < 2
        })
        .map(|i| dc.string(*i).letter.as_str())
        .collect();
    let verdict = match (short.is_empty(), devices_planned(dc.plan)) {
        (true, _) => Verdict::Pass,
        (false, false) => Verdict::Unknown,
        (false, true) => worse(by_rule),
    };
    sheet
        .judge(&ENDS, verdict)
        .misses(["node.devices"])
        .found(format_args!(
            "More than 10 m of cable, and {} has no device at both ends.",
            short.join(", ")
        ))
        .cure("One where the cable leaves the array, one at the inverter.", Vec::new());
}

/// A string that ends at a surge device as if that were a fuse.
fn mistaken(dc: &Dc, sheet: &mut Sheet) {
    for d in dc.devices(DeviceKind::SurgeDevice) {
        if !dc.through.contains_key(&(d.node, d.device)) {
            continue;
        }
        sheet.subject = Subject::Device { node: d.node.clone(), device: d.device.clone() };
        sheet
            .judge(&MISTAKEN, Verdict::Fail)
            .found(
                "A circuit is led through it: a surge device sits between a pole and earth and \
                 ends no overcurrent.",
            )
            .cure("The circuit on a fuse or isolator; the surge device beside it.", Vec::new());
    }
}
