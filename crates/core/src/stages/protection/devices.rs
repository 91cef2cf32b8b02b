//! Devices of the AC side against all that comes through them: amps, volts, poles, kind; what is
//! said of one in two places; what nothing comes through.

use std::collections::BTreeSet;

use crate::figure::{Bound, Sheet, Subject, Verdict, said};
use crate::figures;
use crate::job::{CurrentKind, Device, DeviceKey, DeviceKind, Edit, NodeKey, NodeKind};
use crate::library::Library;
use crate::plan::{PlanFound, Through, chain};
use crate::quantity::{Amps, Ratio, Unit};
use crate::registry::Bench;
use crate::school::School;
use crate::stages::runs::Sources;
use crate::traced::exact;

figures! { Protection;
    /// Current a disconnect is for.
    NEED: Amps = "disconnect.need_a", "Current of the disconnect", na "690.8(B)", iec "data sheet";
    /// Rating of a disconnect.
    AMPS: Amps = "disconnect.amps_a", "Rating of the disconnect", na "690.13(D)", iec "data sheet";
    /// Current that comes through a device.
    THROUGH: Amps = "device.through_a", "Current through the device", na "690.8(B), 705.28",
        iec "IEC 60364-4-43";
    /// Rating of a device.
    RATED: Amps = "device.amps_a", "Rating of the device", na "690.9(B), 705.30",
        iec "IEC 60364-5-53, 536.4";
    /// Volts of a device.
    VOLTS: Volts = "device.volts_v", "Rated volts of the device", na "110.4, 240.85",
        iec "IEC 60364-5-53";
    /// Poles of a device.
    POLES: Count = "device.poles_n", "Poles of the device", na "210.4, 240.15",
        iec "IEC 60364-5-53, 536";
    /// Whether it is for this kind of current.
    KIND: Rule = "device.kind", "Device for this current", na "110.3(B)", iec "IEC 60364-5-53";
    /// Whether sheet and entry say the same of it.
    ONE_RATING: Rule = "device.one_rating", "Rating of sheet and entry", "data sheet";
    /// Whether a circuit comes through it.
    USED: Rule = "device.used", "A circuit comes through it", "plan";
}

pub(super) fn of_job(bench: &Bench, plan: &PlanFound, sheet: &mut Sheet) {
    for through in plan.ac_devices() {
        let node = &plan.plan.nodes[&through.node];
        match through.device.as_ref().and_then(|d| node.devices.get_key_value(d)) {
            Some((key, own)) => one(bench, plan, sheet, through, key, own),
            None => {
                sheet.subject = Subject::Node { node: through.node.clone() };
                switch(sheet, &sources(bench, through), None);
            }
        }
    }
    twice_said(bench, sheet);
    unused(plan, sheet);
}

fn sources<'a>(bench: &Bench<'a>, through: &Through) -> Sources<'a> {
    Sources::of(bench.job, bench.library, &through.inverters, &through.branches)
}

fn one(
    bench: &Bench,
    plan: &PlanFound,
    sheet: &mut Sheet,
    through: &Through,
    key: &DeviceKey,
    own: &Device,
) {
    sheet.subject = Subject::Device { node: through.node.clone(), device: key.clone() };
    let sources = sources(bench, through);
    match own.what {
        DeviceKind::Isolator => switch(sheet, &sources, own.amps_a),
        DeviceKind::Breaker | DeviceKind::Fuse | DeviceKind::Rcd => {
            amps(sheet, through, &sources, own);
        }
        _ => return,
    }
    volts(sheet, &sources, own);
    if own.what != DeviceKind::Fuse {
        poles(plan, sheet, through, &sources, own);
    }
    kind(bench.library, sheet, own);
}

/// A switch against what comes through it.
fn switch(sheet: &mut Sheet, sources: &Sources, rated: Option<f64>) {
    let carried = sources.fullest_a();
    let factor = sheet.school.design_factor();
    let need = sheet.figure(&NEED, |w| {
        let i = w.need::<Amps>("output", carried, "inverter.ac_a", "data sheets")?;
        Some(exact::<Ratio>(factor) * i)
    });
    let amps = sheet.figure(&AMPS, |w| w.need("rated", rated, "device.amps_a", "data sheet"));
    sheet
        .hold(&amps, Bound::at_least(&need, "current it is for"), Verdict::Fail)
        .beyond(|short| format!("{short} too little."))
        .cure("A disconnect for more current.", Vec::new());
}

/// A breaker, a fuse or a residual-current device against the sum of what comes through it.
fn amps(sheet: &mut Sheet, through: &Through, sources: &Sources, own: &Device) {
    let several = through.inverters.len() + through.branches.len() > 1;
    if !several && own.what != DeviceKind::Rcd {
        // That of one source is held against its circuit.
        return;
    }
    let carried = sources.fullest_a();
    let factor = match own.what {
        DeviceKind::Rcd => 1.0,
        _ => sheet.school.design_factor(),
    };
    let need = sheet.figure(&THROUGH, |w| {
        let i =
            w.need::<Amps>("all that comes through", carried, "inverter.ac_a", "data sheets")?;
        Some(exact::<Ratio>(factor) * i)
    });
    let amps = sheet.figure(&RATED, |w| w.need("rated", own.amps_a, "device.amps_a", "data sheet"));
    sheet
        .hold(&amps, Bound::at_least(&need, "what comes through it"), Verdict::Fail)
        .beyond(|short| match several {
            true => format!("{short} too little for all that comes through it."),
            false => format!("{short} too little."),
        })
        .cure("A device of its own for each, or one for the sum.", Vec::new());
}

fn volts(sheet: &mut Sheet, sources: &Sources, own: &Device) {
    let most = sources.all_volts().reduce(f64::max);
    let rated =
        sheet.figure(&VOLTS, |w| w.need("rated", own.volts_v, "device.volts_v", "data sheet"));
    let least = Bound::at_least((most, "inverter.ac_v"), "volts between its poles");
    sheet
        .hold(&rated, least, Verdict::Fail)
        .beyond(|short| format!("{short} too low for the supply it opens."))
        .cure("A device for higher volts.", Vec::new());
}

/// Every line is opened, and where the school asks for it the neutral.
fn poles(plan: &PlanFound, sheet: &mut Sheet, through: &Through, sources: &Sources, own: &Device) {
    let lines = sources.lines_n();
    let neutral = through.circuits.iter().any(|at| plan.circuit(*at).neutral) || lines == 1;
    let all = sheet.school == School::Iec && own.what != DeviceKind::Breaker;
    let least = lines + usize::from(all && neutral);
    let poles =
        sheet.count(&POLES, |w| w.need("poles", own.poles_n, "device.poles_n", "data sheet"));
    let title = if all { "all live conductors" } else { "lines to open" };
    sheet
        .hold(&poles, Bound::at_least(least as f64, title), Verdict::Fail)
        .beyond(|short| format!("{short} too few: a conductor stays live behind it."))
        .cure(format_args!("A device of {least} poles."), Vec::new());
}

/// A device for direct current opens no alternating one, and a fuse for modules is one.
fn kind(library: &Library, sheet: &mut Sheet, own: &Device) {
    let photovoltaic = own.what == DeviceKind::Fuse
        && own.sheet.as_ref().is_some_and(|s| library.fuse(s).is_some());
    let wrong = own.current == Some(CurrentKind::Dc) || photovoltaic;
    let verdict = if wrong { Verdict::Fail } else { Verdict::Pass };
    sheet
        .judge(&KIND, verdict)
        .reason("It is made for direct current.")
        .cure("A device for alternating current.", Vec::new());
}

/// What is entered of a device and what its data sheet says are one number.
fn twice_said(bench: &Bench, sheet: &mut Sheet) {
    for (node, stands) in &bench.job.plan.nodes {
        for (key, own) in &stands.devices {
            let Some(entered) = own.amps_a else { continue };
            let Some(printed) = printed_a(bench.library, own) else { continue };
            if printed == entered {
                continue;
            }
            sheet.subject = Subject::Device { node: node.clone(), device: key.clone() };
            let at = format!("/plan/nodes/{node}/devices/{key}/amps_a");
            sheet
                .judge(&ONE_RATING, Verdict::Unknown)
                .misses(["device.amps_a"])
                .reason(format_args!(
                    "Its data sheet says {}, {} is entered: which of them is there?",
                    said(printed, Unit::A),
                    said(entered, Unit::A)
                ))
                .offer(
                    format_args!("{}, as its data sheet says.", said(printed, Unit::A)),
                    vec![Edit::new(at, printed)],
                );
        }
    }
}

/// The rating a data sheet gives a device, A.
fn printed_a(library: &Library, own: &Device) -> Option<f64> {
    let sheet = own.sheet.as_ref()?;
    match own.what {
        DeviceKind::Breaker | DeviceKind::Rcd => library.breaker(sheet)?.amps_a,
        DeviceKind::Fuse => library.fuse(sheet)?.amps_a,
        DeviceKind::Isolator | DeviceKind::ShutdownStarter => library.isolator(sheet)?.amps_a,
        _ => None,
    }
}

/// A breaker in a board that no circuit of the plan comes through.
fn unused(plan: &PlanFound, sheet: &mut Sheet) {
    let mut used: BTreeSet<(&NodeKey, &DeviceKey)> = BTreeSet::new();
    for circuit in plan.plan.circuits.values() {
        for end in circuit.ends() {
            used.extend(plan.devices_at(end).map(|(node, key, _)| (node, key)));
        }
    }
    // What stands in a board that an inverter backs up is of its loads.
    let backed = |key: &NodeKey| plan.into_node(key).iter().any(|at| plan.is_backup(*at));
    let boards = plan.plan.nodes.iter().filter(|(_, n)| n.kind == NodeKind::Panel);
    for (key, node) in boards.filter(|(key, _)| !backed(key)) {
        // What hangs on one that is used is on its way.
        let heads = node.devices.iter().filter(|(_, d)| d.what.protects());
        for (device, _) in heads {
            let on = chain(node, device).iter().any(|d| used.contains(&(key, *d)));
            if on {
                continue;
            }
            sheet.subject = Subject::Device { node: key.clone(), device: device.clone() };
            sheet.judge(&USED, Verdict::Warn).reason(
                "No circuit of the plan comes through it: it is taken for a breaker of the \
                 loads.",
            );
        }
    }
}
