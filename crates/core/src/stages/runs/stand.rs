//! What is round a node where it stands: room to work before a panel, an isolator near its
//! inverter, the wall behind an inverter.

use crate::figure::{Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{Edit, Node, NodeKey, NodeKind, Stand};
use crate::plan::PlanFound;
use crate::quantity::{above, below};
use crate::registry::Bench;
use crate::school::School;

figures! { Runs;
    /// Free room before a panel.
    WORK_SPACE: Rule = "node.work_space",
        "Room to work before it", na "110.26(A)", iec "IEC 60364-7-729";
    /// An isolator near its inverter.
    NEAR: Rule = "node.isolator_near", "Isolator near the inverter", na "690.15";
    /// The wall behind an inverter.
    WALL: Rule = "node.wall", "Wall behind the inverter", na "110.3(B)", iec "IEC 60364-4-42";
}

/// Depth, width, height that stay free, mm (110.26(A): 3 ft, 30 in, 6 ft 6 in; IEC: a gangway).
fn least_mm(school: School) -> [f64; 3] {
    match school {
        School::Na => [914.0, 762.0, 1981.0],
        School::Iec => [700.0, 700.0, 2000.0],
    }
}

/// From which distance on an isolator is too far from its inverter, m (690.15: 10 ft).
const NEAR_M: f64 = 3.048;

/// Checks of every node by what stands there.
pub(super) fn of_node(bench: &Bench, sheet: &mut Sheet, key: &NodeKey, node: &Node) {
    let stand = node.stand.clone().unwrap_or_default();
    sheet.subject = Subject::Node { node: key.clone() };
    match node.kind {
        NodeKind::Panel => work_space(sheet, &stand),
        NodeKind::Inverter => wall(sheet, key, &stand),
        NodeKind::Isolator if sheet.school == School::Na && dc(bench, key) => {
            near(bench, sheet, key, &stand);
        }
        _ => {}
    }
}

fn work_space(sheet: &mut Sheet, stand: &Stand) {
    let there = [
        ("deep", stand.free_depth_mm, "node.free_depth_mm"),
        ("wide", stand.free_width_mm, "node.free_width_mm"),
        ("high", stand.free_height_mm, "node.free_height_mm"),
    ];
    let sides = there.into_iter().zip(least_mm(sheet.school));
    let short: Vec<String> = sides
        .clone()
        .filter_map(|((how, own, _), least)| {
            own.filter(|own| below(*own, least))
                .map(|own| format!("{own} mm {how}, {least} mm are asked"))
        })
        .collect();
    let open = sides.filter(|((_, own, _), _)| own.is_none()).map(|((.., field), _)| field);
    let open: Vec<_> = open.collect();
    let verdict = match (short.is_empty(), open.is_empty()) {
        (false, _) => Verdict::Fail,
        (true, false) => Verdict::Unknown,
        (true, true) => Verdict::Pass,
    };
    let check = sheet.judge(&WORK_SPACE, verdict).misses(open);
    if !short.is_empty() {
        check
            .reason(format_args!("{}.", short.join("; ")))
            .cure("Another place for it, or the way before it kept free.", Vec::new());
    }
}

fn wall(sheet: &mut Sheet, key: &NodeKey, stand: &Stand) {
    let verdict = match (stand.wall_burns, stand.backing_board) {
        (Some(false), _) | (_, Some(true)) => Verdict::Pass,
        (Some(true), Some(false)) => Verdict::Fail,
        _ => Verdict::Unknown,
    };
    let missing = match stand.wall_burns {
        None => "node.wall_burns",
        Some(_) => "node.backing_board",
    };
    let edit = Edit::new(format!("/plan/nodes/{key}/stand/backing_board"), true);
    sheet
        .judge(&WALL, verdict)
        .misses([missing])
        .reason("It hangs on a wall that burns, with nothing behind it.")
        .cure("A board behind it that does not burn.", vec![edit]);
}

fn near(bench: &Bench, sheet: &mut Sheet, key: &NodeKey, stand: &Stand) {
    let plan = bench.found.get::<PlanFound>();
    // As the wire goes it is no nearer than it stands.
    let distance = stand.to_inverter_m.or_else(|| wire_m(plan, key).filter(|m| !above(*m, NEAR_M)));
    let verdict = match (distance, stand.in_sight) {
        (Some(m), _) if above(m, NEAR_M) => Verdict::Fail,
        (_, Some(false)) => Verdict::Fail,
        (Some(_), Some(true)) => Verdict::Pass,
        _ => Verdict::Unknown,
    };
    let open =
        [(distance.is_none(), "node.to_inverter_m"), (stand.in_sight.is_none(), "node.in_sight")];
    sheet
        .judge(&NEAR, verdict)
        .misses(open.into_iter().filter(|(open, _)| *open).map(|(_, field)| field))
        .reason("An isolator stands within sight of the inverter and 3 m (10 ft) of it.")
        .cure("An isolator beside the inverter, or one in it.", Vec::new());
}

/// Whether DC goes through an isolator.
fn dc(bench: &Bench, key: &NodeKey) -> bool {
    bench.found.get::<PlanFound>().dc_comes_to(key)
}

/// Length of the one way from an isolator to an inverter, m.
fn wire_m(plan: &PlanFound, key: &NodeKey) -> Option<f64> {
    let inverter = |n: &NodeKey| plan.plan.nodes.get(n).is_some_and(|n| n.inverter.is_some());
    let own = plan
        .plan
        .ways
        .values()
        .find(|w| (w.from == *key && inverter(&w.to)) || (w.to == *key && inverter(&w.from)))?;
    own.parts.iter().map(|p| p.length_m).sum()
}
