//! Current transformers: the conductor each is around, the way its arrow points, the ratio that was
//! entered, and one too many where the inverter reports already.

use crate::figure::{Sheet, Subject, Verdict, said};
use crate::figures;
use crate::job::{CircuitKey, CircuitKind, Ct, CtMeasures, DeviceKey, DeviceKind, Edit, NodeKey};
use crate::plan::PlanFound;
use crate::quantity::Unit;
use crate::registry::Bench;

figures! { Protection;
    /// The conductor it is around.
    AROUND: Rule = "ct.around", "Conductor of the transformer", "meter's manual";
    /// The way its arrow points.
    ARROW: Rule = "ct.direction", "Arrow of the transformer", "meter's manual";
    /// The ratio that was entered.
    RATIO: Rule = "ct.ratio", "Ratio entered in the meter", "printed on it";
    /// A second one for production.
    SECOND: Rule = "ct.second", "One measurement of production", "inverter data sheet";
}

pub(super) fn of_job(bench: &Bench, sheet: &mut Sheet) {
    let plan = bench.found.get::<PlanFound>();
    let mut counting = Vec::new();
    for (node, own) in &plan.plan.nodes {
        let cts = own.devices.iter().filter(|(_, d)| d.what == DeviceKind::CurrentTransformer);
        for (device, own) in cts {
            let ct = own.ct.clone().unwrap_or_default();
            sheet.subject = Subject::Device { node: node.clone(), device: device.clone() };
            around(plan, sheet, &ct);
            arrow(sheet, node, device, &ct);
            ratio(sheet, node, device, &ct);
            if ct.measures == Some(CtMeasures::Production) {
                counting.push((node, device, ct));
            }
        }
    }
    for (i, (node, device, ct)) in counting.iter().enumerate() {
        let again = counting[..i].iter().any(|(.., other)| other.around == ct.around);
        let reports = ct.around.as_ref().and_then(|c| reported(bench, plan, c));
        let verdict = match (again, reports) {
            (true, _) | (_, Some(true)) => Verdict::Fail,
            (false, Some(false)) => Verdict::Pass,
            (false, None) => Verdict::Unknown,
        };
        sheet.subject = Subject::Device { node: (*node).clone(), device: (*device).clone() };
        sheet
            .judge(&SECOND, verdict)
            .misses(["inverter.reports"])
            .found("What is made is measured already: it would count twice.")
            .cure("Leave this transformer out.", Vec::new());
    }
}

/// Whether the inverters behind a circuit report what they make.
fn reported(bench: &Bench, plan: &PlanFound, circuit: &CircuitKey) -> Option<bool> {
    let own = plan.circuits.iter().find(|c| c.key == *circuit)?;
    let each = own
        .inverters
        .iter()
        .map(|i| bench.library.inverter(&bench.job.inverters[*i].sheet)?.reports);
    let each: Vec<bool> = each.collect::<Option<_>>()?;
    (!each.is_empty()).then(|| each.into_iter().any(|r| r))
}

fn around(plan: &PlanFound, sheet: &mut Sheet, ct: &Ct) {
    let kind = ct.around.as_ref().and_then(|c| plan.plan.circuits.get(c)).map(|c| c.kind);
    let makes = kind.map(|k| {
        matches!(k, CircuitKind::InverterOut | CircuitKind::MicroBranch | CircuitKind::AcFeeder)
    });
    let (verdict, why) = match (ct.measures, makes) {
        (None, _) => (Verdict::Unknown, ""),
        (Some(CtMeasures::Grid), None) | (Some(CtMeasures::Production), Some(true)) => {
            (Verdict::Pass, "")
        }
        (Some(CtMeasures::Grid), Some(_)) => {
            (Verdict::Fail, "Around an output it sees what is made, not what comes from the grid.")
        }
        (Some(CtMeasures::Production), _) => {
            (Verdict::Fail, "It is around no output: it does not see what is made.")
        }
    };
    sheet
        .judge(&AROUND, verdict)
        .misses(["device.ct.measures"])
        .found(why)
        .cure("Around the conductors it is meant for.", Vec::new());
}

fn edit(node: &NodeKey, device: &DeviceKey, field: &str, to: impl Into<serde_json::Value>) -> Edit {
    Edit::new(format!("/plan/nodes/{node}/devices/{device}/ct/{field}"), to)
}

fn arrow(sheet: &mut Sheet, node: &NodeKey, device: &DeviceKey, ct: &Ct) {
    let verdict = match (ct.toward_grid, ct.wanted_toward_grid) {
        (Some(is), Some(wanted)) if is == wanted => Verdict::Pass,
        (Some(_), Some(_)) => Verdict::Fail,
        _ => Verdict::Unknown,
    };
    let open = [
        (ct.toward_grid.is_none(), "device.ct.toward_grid"),
        (ct.wanted_toward_grid.is_none(), "device.ct.wanted_toward_grid"),
    ];
    let turned = ct.wanted_toward_grid.map(|to| edit(node, device, "toward_grid", to));
    sheet
        .judge(&ARROW, verdict)
        .misses(open.into_iter().filter(|(open, _)| *open).map(|(_, field)| field))
        .found("It sits the wrong way round: import would read as export.")
        .cure("Turn it round.", turned.into_iter().collect());
}

fn ratio(sheet: &mut Sheet, node: &NodeKey, device: &DeviceKey, ct: &Ct) {
    let verdict = match (ct.primary_a, ct.entered_a) {
        (Some(printed), Some(entered)) if printed == entered => Verdict::Pass,
        (Some(_), Some(_)) => Verdict::Fail,
        _ => Verdict::Unknown,
    };
    let open = [
        (ct.primary_a.is_none(), "device.ct.primary_a"),
        (ct.entered_a.is_none(), "device.ct.entered_a"),
    ];
    let [printed, entered] = [ct.primary_a, ct.entered_a].map(Option::unwrap_or_default);
    sheet
        .judge(&RATIO, verdict)
        .misses(open.into_iter().filter(|(open, _)| *open).map(|(_, field)| field))
        .found(format_args!(
            "{} is printed on it, {} was entered: every reading is off by that.",
            said(printed, Unit::A),
            said(entered, Unit::A)
        ))
        .cure(
            format_args!("Enter {} in the meter.", said(printed, Unit::A)),
            vec![edit(node, device, "entered_a", printed)],
        );
}
