//! String fuses as they are planned: their rating between the least and the most, in a hot box too,
//! and their volts. Whether one is needed, and which, stands with the strings.

use super::dc::Dc;
use crate::figure::{Bound, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{CurrentKind, DeviceKind};
use crate::quantity::{Amps, Ratio};
use crate::school::School;
use crate::traced::exact;

figures! { Protection;
    /// The fuse that is planned.
    AMPS: Amps = "fuse.amps_a", "Rating of the fuse", na "690.9(B)", iec "IEC 62548";
    /// The least it may be.
    LEAST: Amps = "fuse.least_a", "Least rating of the fuse", na "690.9(B)", iec "IEC 62548";
    /// The most it may be (iec).
    MOST: Amps = "fuse.most_a", "Largest rating of the fuse", iec "IEC 62548";
    /// Against the most (iec).
    NOT_ABOVE: Rule = "fuse.not_above", "Fuse against the largest", iec "IEC 62548";
    /// Against what the modules bear, where no circuit names it.
    MODULE: Rule = "fuse.module",
        "Fuse against the module's rating", na "690.9(B)", iec "IEC 62548";
    /// What is left of it in a hot box.
    HOT: Amps = "fuse.hot_a", "Fuse in a hot box", na "690.9(B)", iec "IEC 60269-6";
    /// Volts of a breaker on DC.
    VOLTS_DC: Volts = "breaker.dc_volts_v",
        "Rated volts of the breaker on DC", na "690.9(C)", iec "IEC 60947-2";
    /// Whether it is for DC.
    KIND: Rule = "breaker.dc_kind", "Breaker for direct current", na "690.9(C)", iec "IEC 60947-2";
    /// Volts of the fuse.
    VOLTS: Volts = "fuse.volts_v", "Rated volts of the fuse", na "690.9(C)", iec "IEC 60269-6";
}

/// A breaker that DC is led through: its volts, and whether it is for DC.
fn breakers(dc: &Dc, sheet: &mut Sheet) {
    for d in dc.devices(DeviceKind::Breaker).into_iter().filter(|d| d.named) {
        sheet.subject = Subject::Device { node: d.node.clone(), device: d.device.clone() };
        dc.in_the_cold(sheet, &VOLTS_DC, "rated", &d)
            .beyond(|short| format!("{short} too low: the arc stands, and it burns."))
            .cure("A gPV fuse, or a breaker for DC of these volts.", Vec::new());
        let verdict = match d.own.current {
            Some(CurrentKind::Ac) => Verdict::Fail,
            Some(CurrentKind::Dc | CurrentKind::Both) => Verdict::Pass,
            None => Verdict::Unknown,
        };
        sheet
            .judge(&KIND, verdict)
            .misses(["device.current"])
            .found("It is made for alternating current: it does not break direct current.")
            .cure("A gPV fuse, or a breaker for DC.", Vec::new());
    }
}

pub(super) fn of_job(dc: &Dc, sheet: &mut Sheet) {
    breakers(dc, sheet);
    for d in dc.devices(DeviceKind::Fuse) {
        sheet.subject = Subject::Device { node: d.node.clone(), device: d.device.clone() };
        let beside = dc.plan.plan.nodes[d.node].devices.iter().filter(|(key, o)| {
            o.what == DeviceKind::Fuse && !dc.through.contains_key(&(d.node, *key))
        });
        if !d.named && beside.count() < d.strings.len() {
            sheet.known(&AMPS, ["circuit.to.device"]);
            continue;
        }
        // Strings with optimizers give what the device puts out, whatever the modules could.
        let optimizers = d.strings.iter().any(|i| dc.string(*i).optimizer.is_some());
        let each = d.strings.iter().map(|i| dc.module(*i)?.ratings.isc_gained_a());
        let each: Option<Vec<f64>> = each.collect();
        let each = each.filter(|all| !all.is_empty()).unwrap_or_default();
        // All that comes together before it flows through it. Where no circuit names a fuse of the
        // node each has one, whichever: the least goes by the largest, the most by the smallest.
        let all = each.iter().copied().reduce(|a, b| a + b).filter(|_| d.named);
        let isc = all.or(each.iter().copied().reduce(f64::max));
        let isc_most = all.or(each.iter().copied().reduce(f64::min));
        dc.in_the_cold(sheet, &VOLTS, "rated", &d)
            .beyond(|short| format!("{short} too low: it may not break the arc."))
            .cure("A fuse for higher volts.", Vec::new());
        if optimizers {
            continue;
        }
        let amps =
            sheet.figure(&AMPS, |w| w.need("rated", d.own.amps_a, "device.amps_a", "data sheet"));
        let school = sheet.school;
        let least = sheet.figure(&LEAST, |w| {
            let isc =
                w.need::<Amps>("Isc of its strings", isc, "module.isc_a", "module data sheet")?;
            Some(match school {
                School::Na => exact::<Ratio>(1.25) * exact::<Ratio>(1.25) * isc,
                School::Iec => exact::<Ratio>(1.5) * isc,
            })
        });
        sheet
            .hold(&amps, Bound::at_least(&least, "least rating"), Verdict::Fail)
            .beyond(|short| format!("{short} too small: it opens on a bright day."))
            .cure("The next larger fuse that the module allows.", Vec::new());
        if school == School::Iec {
            let most = sheet.figure(&MOST, |w| {
                let isc =
                    w.need::<Amps>("Isc of its strings", isc_most, "module.isc_a", "data sheet")?;
                Some(exact::<Ratio>(2.4) * isc)
            });
            sheet
                .hold_as(&NOT_ABOVE, &amps, Bound::at_most(&most, "largest rating"), Verdict::Fail)
                .beyond(|over| format!("{over} too large: a fault would not open it."))
                .cure("A smaller fuse.", Vec::new());
        }
        // One that a circuit names is held against it with the circuit.
        if !d.named {
            let bear = d.strings.iter().map(|i| dc.module(*i)?.ratings.series_fuse_a);
            let bear: Option<Vec<f64>> = bear.collect();
            let least = bear.and_then(|all| all.into_iter().reduce(f64::min));
            let bound = (least, "module.series_fuse_a");
            sheet
                .hold_as(&MODULE, &amps, Bound::at_most(bound, "module bears"), Verdict::Fail)
                .beyond(|over| format!("{over} more than the modules bear."))
                .cure("A smaller fuse, or fewer strings together.", Vec::new());
        }
        let of_sheet = d.own.sheet.as_ref().and_then(|s| dc.bench.library.fuse(s));
        if let Some(factor) = of_sheet.and_then(|s| s.hot_factor) {
            let hot = sheet.figure(&HOT, |w| {
                let rated = w.take("rated", &amps)?;
                Some(rated * w.given("left in a hot box", Ratio(factor), "fuse data sheet"))
            });
            let bears = isc.map(|a| 1.25 * a);
            sheet
                .hold(&hot, Bound::at_least((bears, "module.isc_a"), "1.25 × Isc"), Verdict::Fail)
                .beyond(|short| format!("{short} too little in the heat of the box."))
                .cure("A larger fuse where the module allows it, or a cooler box.", Vec::new());
        }
    }
}
