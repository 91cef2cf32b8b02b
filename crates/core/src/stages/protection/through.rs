//! The devices a circuit comes through: those its end names and what they feed, or, where it names
//! none, what stands in the node.

use crate::job::{Device, DeviceKey, End};
use crate::plan::{PlanFound, chain};

/// A device with its key in its node.
pub(super) type Keyed<'p> = (&'p DeviceKey, &'p Device);

/// Devices of a sort that a circuit comes through at one of its ends, and whether there are such as
/// only others come through. Where no circuit names a device, all of the node are on its way.
pub(super) fn at_end<'p>(
    plan: &'p PlanFound,
    at: usize,
    end: &'p End,
    sort: impl Fn(&Device) -> bool,
) -> (Vec<Keyed<'p>>, bool) {
    let Some((key, node)) = plan.node_at(end).and_then(|n| plan.plan.nodes.get_key_value(n)) else {
        return (Vec::new(), false);
    };
    if let Some(first) = &end.device {
        let own = chain(node, first).into_iter().map(|d| (d, &node.devices[d]));
        return (own.filter(|(_, d)| sort(d)).collect(), false);
    }
    let beside = plan.into_node(key).iter().chain(plan.out_of_node(key)).filter(|o| **o != at);
    let ends = beside.flat_map(|o| plan.circuit(*o).ends());
    let here = ends.filter(|e| plan.node_at(e) == Some(key));
    let theirs: Vec<&DeviceKey> =
        here.filter_map(|e| Some(chain(node, e.device.as_ref()?))).flatten().collect();
    let (others, own): (Vec<Keyed>, Vec<Keyed>) =
        node.devices.iter().filter(|(_, d)| sort(d)).partition(|(k, _)| theirs.contains(k));
    (own, !others.is_empty())
}
