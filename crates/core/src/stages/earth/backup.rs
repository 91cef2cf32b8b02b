//! A backup output while the grid, and its neutral, is gone: an electrode of its own, the neutral
//! connected to it, and devices that trip on what the inverter alone can drive.

use super::graph::Bonding;
use crate::figure::{Sheet, Subject, Verdict, said};
use crate::figures;
use crate::job::{DeviceKind, NodeKey};
use crate::plan::PlanFound;
use crate::quantity::{Amps, Ratio, Unit, above};
use crate::registry::Bench;
use crate::stages::protection::residual;

figures! { Earth;
    /// Its electrode.
    ELECTRODE: Rule = "backup.electrode",
        "Electrode of the backup output", na "250.30", iec "IEC 60364-8-82";
    /// Its neutral.
    NEUTRAL: Rule = "backup.neutral",
        "Neutral while the grid is gone", na "250.30", iec "IEC 60364-8-82";
    /// What it takes to trip a breaker at once.
    TRIP: Amps = "backup.trip_a", "Current that trips the largest breaker", na "250.4",
        iec "IEC 60364-4-41";
    /// Whether a fault is cleared.
    CLEARS: Rule = "backup.clears",
        "A fault is cleared without the grid", na "250.4(A)(5)", iec "IEC 60364-4-41";
}

pub(super) fn of_job(bench: &Bench, sheet: &mut Sheet, bonding: &Bonding) {
    let plan = bench.found.get::<PlanFound>();
    let Some(backup) = &bench.job.protection.backup else {
        unsaid(plan, sheet);
        return;
    };
    // A route that is compared may do without the nodes it names.
    let there = |node: &Option<NodeKey>| node.clone().filter(|n| plan.plan.nodes.contains_key(n));
    let (board, electrode) = (there(&backup.board), there(&backup.electrode));
    sheet.subject = match &board {
        Some(board) => Subject::Node { node: board.clone() },
        None => Subject::Site,
    };
    // Its own earth is the one the board's comes to.
    let joined = board.as_ref().zip(electrode.as_ref()).map(|(b, e)| bonding.joined(b, e));
    let (verdict, missing) = match joined {
        Some(Some(true)) => (Verdict::Pass, None),
        Some(Some(false)) => (Verdict::Fail, None),
        Some(None) => (Verdict::Unknown, Some("circuit.legs")),
        None if electrode.is_none() => (Verdict::Unknown, Some("protection.backup.electrode")),
        None => (Verdict::Unknown, Some("protection.backup.board")),
    };
    sheet
        .judge(&ELECTRODE, verdict)
        .misses(missing)
        .found("No conductor leads from its board to it.")
        .cure("A bonding circuit from the backup board to the electrode.", Vec::new());
    let verdict = match backup.neutral_earthed {
        None => Verdict::Unknown,
        Some(true) => Verdict::Pass,
        Some(false) => Verdict::Fail,
    };
    sheet
        .judge(&NEUTRAL, verdict)
        .misses(["protection.backup.neutral_earthed"])
        .found("Without the grid nothing holds the neutral at earth: no device sees a fault.")
        .cure("A relay that connects neutral and earth while the grid is gone.", Vec::new());
    clears(sheet, plan, board.as_ref(), backup.fault_a);
}

/// A board that an inverter backs up is drawn, and nothing is said of it.
fn unsaid(plan: &PlanFound, sheet: &mut Sheet) {
    let Some(at) = (0..plan.circuits.len()).find(|at| plan.is_backup(*at)) else { return };
    let board = plan.circuit(at).to.as_ref().and_then(|e| e.node.clone());
    sheet.subject = match board {
        Some(node) => Subject::Node { node },
        None => Subject::circuit(&plan.circuits[at].key),
    };
    sheet.known(&ELECTRODE, ["protection.backup.electrode"]);
    sheet.known(&NEUTRAL, ["protection.backup.neutral_earthed"]);
    sheet.known(&CLEARS, ["protection.backup.fault_a"]);
}

/// A residual-current device trips on little; a breaker wants more than an inverter may drive.
fn clears(sheet: &mut Sheet, plan: &PlanFound, board: Option<&NodeKey>, fault_a: Option<f64>) {
    let Some(node) = board.and_then(|b| plan.plan.nodes.get(b)) else {
        sheet.known(&CLEARS, ["protection.backup.board"]);
        return;
    };
    // At its head: on the way of everything that feeds it. Where one stands elsewhere in the board
    // it serves what is behind it.
    let feeds = board.map_or(&[][..], |b| plan.into_node(b));
    let head = feeds.iter().map(|at| residual(plan, *at)).collect::<Vec<_>>();
    let heads = !head.is_empty() && head.iter().all(|r| !r.clearing.is_empty());
    let doubt = head.is_empty() || head.iter().any(|r| r.doubt);
    let beside = node.devices.values().any(|d| d.what == DeviceKind::Rcd || d.rcd.is_some());
    let breakers = || node.devices.values().filter(|d| d.what == DeviceKind::Breaker);
    let habit = sheet.school.trip_times();
    // One of which nothing is known may be the largest.
    let lacks = if breakers().next().is_none() {
        Some("node.devices")
    } else if breakers().any(|d| d.amps_a.is_none()) {
        Some("device.amps_a")
    } else {
        breakers().any(|d| d.trip_times.or(habit).is_none()).then_some("device.trip_times")
    };
    let largest = breakers()
        .filter_map(|d| Some((d.amps_a?, d.trip_times.or(habit)?)))
        .max_by(|a, b| (a.0 * a.1).total_cmp(&(b.0 * b.1)))
        .filter(|_| lacks.is_none());
    let trip = sheet.figure(&TRIP, |w| {
        let Some((amps, times)) = largest else {
            w.lack(lacks.unwrap_or("node.devices"));
            return None;
        };
        let amps = w.given("largest breaker", Amps(amps), "plan");
        Some(w.given("trips at once from, times", Ratio(times), "trip curve") * amps)
    });
    let verdict = match (heads, trip.value(), fault_a) {
        (true, ..) => Verdict::Pass,
        (false, None, _) | (false, _, None) => Verdict::Unknown,
        (false, Some(trip), Some(fault)) if above(trip, fault) && beside && doubt => {
            Verdict::Unknown
        }
        (false, Some(trip), Some(fault)) if above(trip, fault) => Verdict::Fail,
        (false, Some(_), Some(_)) => Verdict::Pass,
    };
    let open = [
        (beside && doubt, "circuit.to.device"),
        (trip.value().is_none(), lacks.unwrap_or("node.devices")),
        (fault_a.is_none(), "protection.backup.fault_a"),
    ];
    sheet
        .judge(&CLEARS, verdict)
        .misses(open.into_iter().filter(|(open, _)| *open).map(|(_, field)| field))
        .found(format_args!(
            "The inverter alone drives {}, the breaker trips at once from {}.",
            said(fault_a.unwrap_or(0.0), Unit::A),
            said(trip.value().unwrap_or(0.0), Unit::A)
        ))
        .cure("A residual-current device at the head of the backup board.", Vec::new());
}
