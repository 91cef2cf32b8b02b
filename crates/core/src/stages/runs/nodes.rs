//! Whether the devices of a node find room in its enclosure.

use crate::figure::{Bound, Sheet, Subject, Verdict};
use crate::figures;
use crate::quantity::Ratio;
use crate::registry::Bench;

figures! { Runs;
    /// Ways of 17.5 mm that the devices of an enclosure take.
    WAYS_N: Count = "enclosure.ways_n", "Ways the devices take", "data sheets, 17.5 mm each";
}

/// Nothing rests on the nodes.
pub(super) struct NodesFound;

pub(super) fn nodes_of_job(bench: &Bench, sheet: &mut Sheet) -> NodesFound {
    for (key, node) in &bench.job.plan.nodes {
        let said = node.ways_n.is_some() || node.devices.values().any(|d| d.ways_n.is_some());
        if node.devices.is_empty() || !said {
            continue;
        }
        sheet.subject = Subject::Node { node: key.clone() };
        let taken = sheet.count(&WAYS_N, |w| {
            let mut sum = None;
            for (name, device) in &node.devices {
                let own = w.need::<Ratio>(name, device.ways_n, "device.ways_n", "job");
                sum = match sum {
                    None => Some(own?),
                    Some(sum) => Some(sum + own?),
                };
            }
            sum
        });
        let there = Bound::at_most((node.ways_n, "node.ways_n"), "ways of the enclosure");
        sheet
            .hold(&taken, there, Verdict::Fail)
            .beyond(|over| format!("{over} more than it has: it does not close."))
            .cure("A larger enclosure, or a second one beside it.", Vec::new());
    }
    NodesFound
}
