//! A combiner: inputs with a spare one, its bus and disconnect against what all strings bring, its
//! volts.

use super::dc::Dc;
use crate::figure::{Bound, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{DeviceKind, NodeKind};
use crate::quantity::{Amps, Ratio};
use crate::stages::strings::COMBINER;
use crate::traced::exact;

figures! { Protection;
    /// What all its strings bring.
    DESIGN: Amps = "combiner.i_design_a",
        "Design current of its output", na "690.8(B)", iec "IEC 62548";
    /// Rating of its bus.
    BUS: Amps = "combiner.bus_a", "Bus of the combiner", "data sheet";
    /// Rating of its disconnect.
    DISCONNECT: Amps = "combiner.disconnect_a", "Disconnect of the combiner", na "690.13(D)",
        iec "data sheet";
    /// Its volts.
    VOLTS: Volts = "combiner.volts_v", "Rated volts of the combiner", "data sheet";
}

pub(super) fn of_job(dc: &Dc, sheet: &mut Sheet) {
    for (key, node) in dc.plan.plan.nodes.iter().filter(|(_, n)| n.kind == NodeKind::Combiner) {
        let Some(strings) = dc.at.get(key) else { continue };
        sheet.subject = Subject::Node { node: key.clone() };
        let of_sheet = node.enclosure.as_ref().and_then(|s| dc.bench.library.combiner(s));
        let rated = |what: DeviceKind| {
            let own = node.devices.values().filter(|d| d.what == what);
            own.filter_map(|d| d.amps_a).reduce(f64::min)
        };
        let fuses = node.devices.values().filter(|d| d.what == DeviceKind::Fuse).count();
        let printed = of_sheet.and_then(|s| s.inputs_n);
        let inputs = if fuses > 0 { Some(fuses as f64) } else { printed };
        let spare = dc.bench.job.protection.spare_n.unwrap_or(1);
        // What arrives takes an input, one string or several that were joined before.
        let arrive = dc.plan.into_node(key).iter().filter(|at| dc.plan.circuit(**at).kind.is_dc());
        let arrive = Some(arrive.count()).filter(|n| *n > 0).unwrap_or(strings.len());
        let wanted = arrive + spare as usize;
        let verdict = match inputs {
            None => Verdict::Unknown,
            Some(n) if n >= wanted as f64 => Verdict::Pass,
            // A spare one that is not there stops nothing.
            Some(n) if n >= arrive as f64 => Verdict::Warn,
            Some(_) => Verdict::Fail,
        };
        sheet
            .judge(&COMBINER, verdict)
            .misses(["node.devices"])
            .found(format_args!(
                "{} inputs for {arrive} circuits and {spare} spare.",
                inputs.unwrap_or(0.0),
            ))
            .cure(format_args!("A combiner with {wanted} inputs or more."), Vec::new());
        let factor = sheet.school.design_factor();
        let design = sheet.figure(&DESIGN, |w| {
            let one = w.need::<Amps>(
                "one string, 1.25 × Isc",
                dc.string_a(strings),
                "module.isc_a",
                "module data sheet",
            )?;
            let n = w.given("strings", Ratio(strings.len() as f64), "plan");
            Some(exact::<Ratio>(factor) * n * one)
        });
        let printed = [of_sheet.and_then(|s| s.bus_a), of_sheet.and_then(|s| s.disconnect_a)];
        let parts = [(&BUS, DeviceKind::Bus), (&DISCONNECT, DeviceKind::Isolator)];
        for ((def, what), printed) in parts.into_iter().zip(printed) {
            let own = rated(what).or(printed);
            let amps = sheet.figure(def, |w| w.need("rated", own, "device.amps_a", "data sheet"));
            sheet
                .hold(&amps, Bound::at_least(&design, "design current"), Verdict::Fail)
                .beyond(|short| format!("{short} too little for all its strings."))
                .cure("A combiner for more current, or fewer strings on it.", Vec::new());
        }
        let rated = of_sheet.and_then(|s| s.volts_v);
        let volts =
            sheet.figure(&VOLTS, |w| w.need("rated", rated, "combiner.volts_v", "data sheet"));
        let cold = Bound::at_least(dc.cold_v(strings), "string on the coldest morning");
        sheet
            .hold(&volts, cold, Verdict::Fail)
            .beyond(|short| format!("{short} too low."))
            .cure("A combiner for higher volts.", Vec::new());
    }
}
