//! Which device a circuit is on: where an AC circuit ends at a node with one free device for it, it
//! is on that one; with several the question stays open.

use std::collections::{BTreeMap, BTreeSet};

use crate::job::{Circuit, CircuitKey, Device, DeviceKey, DeviceKind, Node, NodeKey, Plan};

/// A device and those it feeds in its node, toward the grid.
pub fn chain<'n>(node: &'n Node, first: &DeviceKey) -> Vec<&'n DeviceKey> {
    let mut found: Vec<&DeviceKey> = Vec::new();
    let mut next = node.devices.get_key_value(first);
    while let Some((key, device)) = next {
        if found.contains(&key) {
            break;
        }
        found.push(key);
        next = device.feeds.as_ref().and_then(|f| node.devices.get_key_value(f));
    }
    found
}

/// Whether power flows through such a device.
pub(super) fn carries(device: &Device) -> bool {
    matches!(
        device.what,
        DeviceKind::Breaker | DeviceKind::Fuse | DeviceKind::Isolator | DeviceKind::Rcd
    )
}

/// Devices of a node at which a way through it begins, that ends an overcurrent and that no circuit
/// names.
fn free<'n>(node: &'n Node, taken: &BTreeSet<&DeviceKey>) -> Vec<&'n DeviceKey> {
    let fed: BTreeSet<&DeviceKey> =
        node.devices.values().filter(|d| carries(d)).filter_map(|d| d.feeds.as_ref()).collect();
    let ends = |first: &DeviceKey| {
        let own = chain(node, first);
        let clear = own.iter().all(|k| !taken.contains(k));
        clear && own.iter().any(|k| node.devices[*k].what.protects())
    };
    let heads = node.devices.iter().filter(|(k, d)| carries(d) && !fed.contains(k));
    heads.map(|(k, _)| k).filter(|k| ends(k)).collect()
}

/// Puts each AC circuit that ends at a node with one free device for it on that device.
pub(super) fn settle(plan: &mut Plan) {
    let mut taken: BTreeMap<&NodeKey, BTreeSet<&DeviceKey>> = BTreeMap::new();
    let mut loose: BTreeMap<&NodeKey, Vec<&CircuitKey>> = BTreeMap::new();
    for (key, circuit) in &plan.circuits {
        for end in circuit.ends() {
            let Some((at, node)) = end.node.as_ref().and_then(|n| plan.nodes.get_key_value(n))
            else {
                continue;
            };
            match &end.device {
                Some(first) => taken.entry(at).or_default().extend(chain(node, first)),
                None if circuit.kind.is_ac() && circuit.to.as_ref() == Some(end) => {
                    loose.entry(at).or_default().push(key);
                }
                None => {}
            }
        }
    }
    let none = BTreeSet::new();
    let put = loose.iter().filter_map(|(at, circuits)| {
        let [one] = circuits.as_slice() else { return None };
        let free = free(&plan.nodes[*at], taken.get(at).unwrap_or(&none));
        let [device] = free.as_slice() else { return None };
        Some(((*one).clone(), (*device).clone()))
    });
    let put: Vec<(CircuitKey, DeviceKey)> = put.collect();
    for (circuit, device) in put {
        let to = plan.circuits.get_mut(&circuit).and_then(|c| c.to.as_mut());
        to.expect("it ends there").device = Some(device);
    }
}

/// The devices of a node that no circuit names and that may be the one a circuit is on which ends
/// there.
pub fn candidates<'p>(plan: &'p Plan, key: &NodeKey) -> Vec<&'p DeviceKey> {
    let Some(node) = plan.nodes.get(key) else { return Vec::new() };
    let ends = plan.circuits.values().flat_map(Circuit::ends);
    let named = ends.filter(|e| e.node.as_ref() == Some(key));
    let taken = named.filter_map(|e| Some(chain(node, e.device.as_ref()?))).flatten().collect();
    free(node, &taken)
}
