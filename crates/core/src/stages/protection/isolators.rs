//! DC isolators: one for each string or input, as is set; volts, amps and poles of each.

use std::collections::BTreeSet;

use super::dc::{Dc, devices_planned};
use crate::figure::{Bound, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{DeviceKind, IsolatorPer, Node, NodeKey, NodeKind};
use crate::quantity::{Amps, Ratio, floor};
use crate::school::School;

figures! { Protection;
    /// Whether a string or input can be opened.
    FITTED: Rule = "isolator.fitted", "DC isolator", na "690.13, 690.15", iec "IEC 60364-7-712";
    /// Volts of the isolator.
    VOLTS: Volts = "isolator.volts_v",
        "Rated volts of the isolator", na "690.13(D)", iec "IEC 60947-3";
    /// Amps of the isolator.
    AMPS: Amps = "isolator.amps_a",
        "Rated current of the isolator", na "690.13(D)", iec "IEC 60947-3";
    /// Current it carries.
    CARRIED: Amps = "isolator.i_max_a",
        "Largest current through the isolator", na "690.8(A)", iec "IEC 62548";
    /// Two poles a string.
    POLES: Count = "isolator.poles_n", "Poles of the isolator", "two a string";
}

/// How many strings or inputs an isolator of so many poles opens; one where nobody said.
fn opens(poles_n: Option<f64>) -> usize {
    poles_n.map_or(1, |n| (floor(n / 2.0) as usize).max(1))
}

/// How many the isolators open that a string comes through in a node, and all strings that do.
/// Where no circuit names a device there, all strings of the node come through all its isolators.
fn opening(dc: &Dc, string: usize, key: &NodeKey, node: &Node) -> (usize, BTreeSet<usize>) {
    let named = node.devices.keys().any(|d| dc.through.contains_key(&(key, d)));
    let isolators = node.devices.iter().filter(|(_, d)| d.what == DeviceKind::Isolator);
    let (mut n, mut strings) = (0, BTreeSet::new());
    for (device, own) in isolators {
        match dc.through.get(&(key, device)) {
            Some(through) if through.contains(&string) => {
                n += opens(own.poles_n);
                strings.extend(through);
            }
            None if !named => n += opens(own.poles_n),
            _ => {}
        }
    }
    if !named {
        strings.clone_from(&dc.at[key]);
        // A node that is an isolator is one, whatever stands in it.
        n = n.max(usize::from(node.kind == NodeKind::Isolator));
    }
    (n, strings)
}

pub(super) fn of_job(dc: &Dc, sheet: &mut Sheet) {
    let job = dc.bench.job;
    let per = job.protection.isolators.unwrap_or(match sheet.school {
        School::Na => IsolatorPer::Input,
        School::Iec => IsolatorPer::String,
    });
    let mut seen: BTreeSet<(&str, u32)> = BTreeSet::new();
    for (i, s) in job.strings.iter().enumerate() {
        let input = (s.inverter.as_str(), s.mppt);
        let alone = match per {
            IsolatorPer::String => true,
            IsolatorPer::Input if !seen.insert(input) => continue,
            IsolatorPer::Input => false,
        };
        sheet.subject =
            if alone { Subject::string(&s.letter) } else { Subject::mppt(&s.inverter, s.mppt) };
        let group = if alone { &[i][..] } else { dc.of_input(s) };
        fitted(dc, sheet, group, alone);
    }
    ratings(dc, sheet);
}

fn fitted(dc: &Dc, sheet: &mut Sheet, group: &[usize], alone: bool) {
    let job = dc.bench.job;
    let asked_at = |strings: &BTreeSet<usize>| match alone {
        true => strings.len(),
        false => {
            let inputs = strings.iter().map(|i| (&job.strings[*i].inverter, job.strings[*i].mppt));
            inputs.map(|(i, m)| (i.as_str(), m)).collect::<BTreeSet<_>>().len()
        }
    };
    // Each string of the group has to come through a node that opens all that come through it.
    let opened = |i: &usize| {
        dc.nodes_of(*i).any(|(key, node)| {
            let (n, strings) = opening(dc, *i, key, node);
            n >= asked_at(&strings).max(1)
        })
    };
    let built_in = job.inverters.iter().find(|v| v.id == job.strings[group[0]].inverter);
    let built_in = built_in.and_then(|v| dc.bench.library.inverter(&v.sheet)?.dc_switch);
    // A switch of the inverter opens an input whole.
    let mates = dc.of_input(&job.strings[group[0]]).len();
    // Where nothing is said of it one switch on the side of the inverter is enough (712.537.2.1).
    let whole = !alone || mates == 1 || job.protection.isolators.is_none();
    let verdict = if group.iter().all(opened) || (whole && built_in == Some(true)) {
        Verdict::Pass
    } else if (whole && built_in.is_none()) || !devices_planned(dc.plan) {
        Verdict::Unknown
    } else {
        Verdict::Fail
    };
    let missing = if whole && built_in.is_none() { "inverter.dc_switch" } else { "node.devices" };
    sheet
        .judge(&FITTED, verdict)
        .misses([missing])
        .found("Nothing on its way opens it. A connector is never opened under load.")
        .cure("An isolator in an enclosure on its way, beside the inverter.", Vec::new());
}

fn ratings(dc: &Dc, sheet: &mut Sheet) {
    for d in dc.devices(DeviceKind::Isolator) {
        sheet.subject = Subject::Device { node: d.node.clone(), device: d.device.clone() };
        dc.in_the_cold(sheet, &VOLTS, "rated", &d)
            .beyond(|short| format!("{short} too low: it may not break the arc."))
            .cure("An isolator for higher volts, or more poles in series.", Vec::new());
        // Where no circuit names a device, the isolators of a node share its strings.
        let beside = dc.plan.plan.nodes[d.node].devices.values();
        let beside: usize =
            beside.filter(|o| o.what == DeviceKind::Isolator).map(|o| opens(o.poles_n)).sum();
        let all = d.strings.len();
        let each = if d.named { all } else { all.div_ceil(beside.max(1)) };
        let carried = sheet.figure(&CARRIED, |w| {
            let one = w.need::<Amps>(
                "one string, 1.25 × Isc",
                dc.string_a(&d.strings),
                "module.isc_a",
                "module data sheet",
            );
            Some(w.given("strings on a pole", Ratio(each.max(1) as f64), "plan") * one?)
        });
        let amps =
            sheet.figure(&AMPS, |w| w.need("rated", d.own.amps_a, "device.amps_a", "data sheet"));
        sheet
            .hold(&amps, Bound::at_least(&carried, "largest current through it"), Verdict::Fail)
            .beyond(|short| format!("{short} too little."))
            .cure("An isolator for more current.", Vec::new());
        // One string on two poles; several side by side on two each.
        let side_by_side = if d.named { 1 } else { opens(d.own.poles_n).min(all.max(1)) };
        let asked = 2.0 * side_by_side as f64;
        let poles =
            sheet.count(&POLES, |w| w.need("poles", d.own.poles_n, "device.poles_n", "data sheet"));
        sheet
            .hold(&poles, Bound::at_least(asked, "two for each string"), Verdict::Fail)
            .found("Plus and minus of a string are opened together.")
            .cure("An isolator with two poles for each string.", Vec::new());
    }
    for (key, node) in &dc.plan.plan.nodes {
        let alone = node.kind == NodeKind::Isolator && node.devices.is_empty();
        if alone && dc.at.contains_key(key) {
            sheet.subject = Subject::Node { node: key.clone() };
            sheet.known(&VOLTS, ["node.devices"]);
        }
    }
}
