//! A part of a way in another method: a box where the method changes, and wire that may lie there.

use super::command::{missing, split};
use super::v2::free;
use super::{
    Circuit, Device, DeviceKind, Insulation, Leg, Method, Node, NodeKey, NodeKind, Plan,
    RacewayChoice, Way, WayKey,
};
use crate::problem::Problem;
use crate::quantity::{above, below};

/// Puts a part of a way into raceway, with a box at each end of it that is inside the way.
/// Sheathed cable and wire for dry places end in these boxes; other wire goes through unbroken.
pub(super) fn change_over(
    plan: &mut Plan,
    key: &WayKey,
    part: usize,
    raceway: &RacewayChoice,
    changes: &mut Vec<String>,
) -> Result<(), Problem> {
    let way = with_part(plan, key, part)?;
    let own = &mut way.parts[part];
    (own.method, own.raceway) = (Method::Raceway, Some(raceway.clone()));
    (own.listed, own.insulated) = (None, None);
    let last = way.parts.len();
    changes.push(format!(
        "part {} of way {key} is {} {}",
        part + 1,
        raceway.kind.key(),
        raceway.size
    ));
    // The way behind first, so that the number of the part stays what it is.
    let mut middle = key.clone();
    if part + 1 < last {
        let rest = boxed(plan, key, part + 1, NodeKind::JunctionBox)?;
        changes.push(format!("a box behind it; {rest} goes on from there"));
    }
    if part > 0 {
        middle = boxed(plan, key, part, NodeKind::JunctionBox)?;
        changes.push(format!("a box before it; it is way {middle} now"));
    }
    for (circuit, own) in &mut plan.circuits {
        if rewired(own, &middle) {
            changes.push(format!("circuit {circuit} is THWN-2 there"));
        }
    }
    Ok(())
}

/// A way that has this part.
fn with_part<'p>(plan: &'p mut Plan, key: &WayKey, part: usize) -> Result<&'p mut Way, Problem> {
    let way = plan.ways.get_mut(key).ok_or_else(|| missing("way", key))?;
    let last = way.parts.len();
    if part >= last {
        let message = format!("way {key} has no part {}", part + 1);
        return Err(Problem::new("", message, format!("1 to {last}")));
    }
    Ok(way)
}

/// A box behind the first parts of a way; gives the way with those behind it.
fn boxed(plan: &mut Plan, way: &WayKey, after: usize, kind: NodeKind) -> Result<WayKey, Problem> {
    let stem = match kind {
        NodeKind::PullBox => "PB",
        NodeKind::Isolator => "D",
        _ => "JB",
    };
    let node = free(stem, |k: &NodeKey| plan.nodes.contains_key(k));
    let rest = free(way, |k: &WayKey| plan.ways.contains_key(k));
    split(plan, way, after, &node, kind, &rest)?;
    let place = plan.ways[way].parts.last().and_then(|p| p.place);
    plan.nodes.insert(node.clone(), Node { place, ..Node::new(kind) });
    Ok(rest)
}

/// Sets a pull box into a way, `at_m` from the beginning of a part; the part is cut there.
pub(super) fn pull_box(
    plan: &mut Plan,
    key: &WayKey,
    part: usize,
    at_m: f64,
    changes: &mut Vec<String>,
) -> Result<(), Problem> {
    let rest = set_in(plan, key, part, at_m, NodeKind::PullBox)?;
    changes.push(format!("a pull box in way {key}; {rest} goes on from there"));
    Ok(())
}

/// Sets a switch into the last part of a way, that is seen open and can be locked so.
pub(super) fn disconnect(
    plan: &mut Plan,
    key: &WayKey,
    changes: &mut Vec<String>,
) -> Result<(), Problem> {
    let last = plan.ways.get(key).ok_or_else(|| missing("way", key))?.parts.len();
    let part = last.saturating_sub(1);
    let own = &mut with_part(plan, key, part)?.parts;
    match own[part].length_m {
        Some(_) => {}
        // A length nobody entered is open on both sides.
        None => own.push(own[part].clone()),
    }
    let half = plan.ways[key].parts[part].length_m.map_or(1.0, |m| m / 2.0);
    let rest = set_in(plan, key, part, half, NodeKind::Isolator)?;
    let node = plan.ways[key].to.clone();
    let device =
        Device { lockable: Some(true), visible: Some(true), ..Device::new(DeviceKind::Isolator) };
    if let Some(own) = plan.nodes.get_mut(&node) {
        own.devices.insert("DISC".into(), device);
    }
    changes.push(format!("disconnect {node} in way {key}; {rest} goes on from there"));
    Ok(())
}

/// Sets a node into a way, `at_m` from the beginning of a part, which is cut there; gives the way
/// behind it.
fn set_in(
    plan: &mut Plan,
    key: &WayKey,
    part: usize,
    at_m: f64,
    kind: NodeKind,
) -> Result<WayKey, Problem> {
    let way = with_part(plan, key, part)?;
    let own = &mut way.parts[part];
    let inside = own.length_m.filter(|length| above(at_m, 0.0) && below(at_m, *length));
    let after = match inside {
        Some(length) => {
            let behind = own.cut(at_m, length);
            way.parts.insert(part + 1, behind);
            part + 1
        }
        None if above(at_m, 0.0) => part + 1,
        None => part,
    };
    boxed(plan, key, after, kind)
}

/// A leg whose wire may not lie in wet raceway ends before the way and goes on behind it.
fn rewired(circuit: &mut Circuit, way: &WayKey) -> bool {
    let dry = |l: &Leg| matches!(l.wire.insulation, Insulation::Nm | Insulation::Thhn);
    let Some(at) = circuit.legs.iter().position(|l| dry(l) && l.via.contains(way)) else {
        return false;
    };
    let leg = circuit.legs.remove(at);
    let own = leg.via.iter().position(|w| w == way).expect("it is there");
    let mut wire = leg.wire.clone();
    (wire.insulation, wire.od_mm) = (Insulation::Thwn2, None);
    let legs = [
        Leg { via: leg.via[..own].to_vec(), ..leg.clone() },
        Leg::over(wire, vec![way.clone()]),
        Leg { via: leg.via[own + 1..].to_vec(), ..leg },
    ];
    circuit.legs.splice(at..at, legs.into_iter().filter(|l| !l.via.is_empty()));
    true
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::{Bend, BendKind, CircuitKind, End, Part, Place, RacewayKind, WireChoice};

    fn plan(insulation: Insulation) -> Plan {
        let mut plan = Plan::default();
        for (key, kind) in [("INV", NodeKind::Inverter), ("MP", NodeKind::Panel)] {
            plan.nodes.insert(key.into(), Node::new(kind));
        }
        let part = |place| Part {
            place: Some(place),
            method: Method::Cable,
            length_m: Some(4.0),
            ..Part::default()
        };
        let parts = [Place::Attic, Place::OutsideWallSun, Place::Garage].map(part).to_vec();
        let way = Way::between("INV".into(), "MP".into(), parts);
        plan.ways.insert("w1".into(), way);
        let wire = WireChoice { insulation, ..WireChoice::default() };
        let circuit = Circuit {
            kind: CircuitKind::InverterOut,
            name: String::new(),
            from: End::node(&"INV".into()),
            to: Some(End::node(&"MP".into())),
            neutral: false,
            ocpd_a: None,
            legs: vec![Leg::over(wire, vec!["w1".into()])],
        };
        plan.circuits.insert("AC".into(), circuit);
        plan
    }

    fn emt() -> RacewayChoice {
        RacewayChoice { kind: RacewayKind::Emt, size: "3/4".to_owned() }
    }

    #[test]
    fn the_middle_part_gets_a_box_at_both_ends_and_wire_for_the_wet() {
        let mut plan = plan(Insulation::Nm);
        change_over(&mut plan, &"w1".into(), 1, &emt(), &mut Vec::new()).expect("it can be done");
        let path: Vec<(&str, &str)> =
            plan.ways.values().map(|w| (w.from.as_str(), w.to.as_str())).collect();
        assert_eq!(plan.ways.len(), 3);
        let wall = plan.ways.values().find(|w| w.parts[0].place == Some(Place::OutsideWallSun));
        let wall = wall.expect("the wall");
        assert_eq!((wall.parts.len(), &wall.parts[0].raceway), (1, &Some(emt())));
        assert!(path.contains(&("INV", wall.from.as_str())), "{path:?}");
        assert!(path.contains(&(wall.to.as_str(), "MP")), "{path:?}");
        let legs = &plan.circuits["AC"].legs;
        let wires: Vec<Insulation> = legs.iter().map(|l| l.wire.insulation).collect();
        assert_eq!(wires, [Insulation::Nm, Insulation::Thwn2, Insulation::Nm]);
        assert!(legs.iter().all(|l| l.via.len() == 1));
    }

    #[test]
    fn a_pull_box_cuts_its_part_and_each_side_keeps_its_bends() {
        let mut plan = plan(Insulation::Thwn2);
        let bend = |at_m| Bend { deg: 90.0, kind: BendKind::Bent, radius_mm: None, at_m };
        let own = &mut plan.ways.get_mut("w1").expect("w1").parts[1];
        (own.rise_m, own.bends) = (Some(-2.0), Some(vec![bend(Some(0.5)), bend(Some(3.0))]));
        pull_box(&mut plan, &"w1".into(), 1, 1.0, &mut Vec::new()).expect("it can be done");
        let rest = plan.ways.iter().find(|(k, _)| *k != "w1").expect("the rest").1;
        let (before, behind) = (&plan.ways["w1"].parts[1], &rest.parts[0]);
        assert_eq!((before.length_m, before.rise_m), (Some(1.0), Some(-0.5)));
        assert_eq!((behind.length_m, behind.rise_m), (Some(3.0), Some(-1.5)));
        assert_eq!(before.bends, Some(vec![bend(Some(0.5))]));
        assert_eq!(behind.bends, Some(vec![bend(Some(2.0))]));
        assert_eq!(plan.nodes["PB"].kind, NodeKind::PullBox);
        assert!(pull_box(&mut plan, &"w1".into(), 9, 1.0, &mut Vec::new()).is_err());
    }

    #[test]
    fn wire_for_the_wet_goes_through_unbroken_and_an_end_needs_one_box() {
        let mut plan = plan(Insulation::Thwn2);
        change_over(&mut plan, &"w1".into(), 0, &emt(), &mut Vec::new()).expect("it can be done");
        assert_eq!(plan.ways.len(), 2);
        assert_eq!(plan.circuits["AC"].legs.len(), 1);
        assert_eq!(plan.circuits["AC"].legs[0].via.len(), 2);
        assert!(change_over(&mut plan, &"w1".into(), 4, &emt(), &mut Vec::new()).is_err());
    }
}
