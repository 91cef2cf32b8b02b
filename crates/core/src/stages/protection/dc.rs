//! The DC side: which strings come through which node and which device, and what they bring there.

use std::collections::{BTreeMap, BTreeSet};

use super::{combiner, fuses, isolators, shutdown, spds};
use crate::figure::{Against, Bound, Check, Def, Sheet, Verdict};
use crate::job::{Device, DeviceKey, DeviceKind, InverterKey, JobString, Node, NodeKey};
use crate::library::ModuleSheet;
use crate::plan::{PlanFound, chain};
use crate::quantity::Volts;
use crate::registry::Bench;
use crate::stages::strings::{FoundString, FoundStrings};

/// Nothing rests on it.
pub(super) struct DcFound;

/// The strings of a job by the places of the plan they come through.
pub(super) struct Dc<'a> {
    pub(super) bench: &'a Bench<'a>,
    pub(super) plan: &'a PlanFound,
    /// Strings that come through a node, by their places in the job's list.
    pub(super) at: BTreeMap<&'a NodeKey, BTreeSet<usize>>,
    /// Strings whose circuit ends at a device, and at what it feeds in its node.
    pub(super) through: BTreeMap<(&'a NodeKey, &'a DeviceKey), BTreeSet<usize>>,
    /// Strings of which it is said which device of a node they come to.
    led: BTreeMap<&'a NodeKey, BTreeSet<usize>>,
    /// Nodes each string comes through.
    nodes: Vec<Vec<&'a NodeKey>>,
    /// DC circuits each string comes through, by their places in the plan's list.
    pub(super) circuits: Vec<Vec<usize>>,
    /// Strings of each input.
    inputs: BTreeMap<(&'a InverterKey, u32), Vec<usize>>,
}

impl<'a> Dc<'a> {
    fn of(bench: &'a Bench<'a>) -> Self {
        let plan = bench.found.get::<PlanFound>();
        let (at, through, led) = Default::default();
        let n = bench.job.strings.len();
        let (nodes, circuits, inputs) = (vec![Vec::new(); n], vec![Vec::new(); n], BTreeMap::new());
        let mut dc = Dc { bench, plan, at, through, led, nodes, circuits, inputs };
        for (i, s) in bench.job.strings.iter().enumerate() {
            dc.inputs.entry((&s.inverter, s.mppt)).or_default().push(i);
        }
        for (at, own) in plan.circuits.iter().enumerate() {
            let circuit = plan.circuit(at);
            if !circuit.kind.is_dc() {
                continue;
            }
            let input = own.strings.iter().filter_map(|i| {
                plan.node_of(&bench.job.strings[*i].inverter).filter(|_| circuit.to.is_none())
            });
            for node in plan.nodes_on(circuit).chain(input) {
                dc.at.entry(node).or_default().extend(&own.strings);
            }
            for end in circuit.ends() {
                let (Some(node), Some(device)) = (&end.node, &end.device) else { continue };
                let Some((key, stands)) = plan.plan.nodes.get_key_value(node) else { continue };
                if circuit.to.as_ref() == Some(end) {
                    dc.led.entry(key).or_default().extend(&own.strings);
                }
                for device in chain(stands, device) {
                    dc.through.entry((key, device)).or_default().extend(&own.strings);
                }
            }
            for i in &own.strings {
                dc.circuits[*i].push(at);
            }
        }
        for (node, strings) in &dc.at {
            for i in strings {
                dc.nodes[*i].push(node);
            }
        }
        dc
    }

    /// The strings of an input.
    pub(super) fn of_input(&self, string: &'a JobString) -> &[usize] {
        self.inputs.get(&(&string.inverter, string.mppt)).map_or(&[], Vec::as_slice)
    }

    /// The strings of an inverter, in the order of the job.
    pub(super) fn of_inverter(&self, inverter: &'a InverterKey) -> Vec<usize> {
        let own = self.inputs.range((inverter, 0)..=(inverter, u32::MAX));
        let mut all: Vec<usize> = own.flat_map(|(_, strings)| strings).copied().collect();
        all.sort_unstable();
        all
    }

    pub(super) fn string(&self, i: usize) -> &'a JobString {
        &self.bench.job.strings[i]
    }

    pub(super) fn module(&self, i: usize) -> Option<&'a ModuleSheet> {
        self.bench.library.module(&self.string(i).module)
    }

    /// Nodes that a string comes through, with what stands there.
    pub(super) fn nodes_of(&self, i: usize) -> impl Iterator<Item = (&'a NodeKey, &'a Node)> {
        self.nodes[i].iter().filter_map(|key| Some((*key, self.plan.plan.nodes.get(*key)?)))
    }

    /// Devices of a kind in nodes that strings come through, with the strings that come through
    /// each: those of its circuits, or, where no circuit names a device there, all of the node. A
    /// fuse that none names is one of those that come to no named device.
    pub(super) fn devices(&self, what: DeviceKind) -> Vec<Through<'a>> {
        let mut found = Vec::new();
        for (key, strings) in &self.at {
            let Some(node) = self.plan.plan.nodes.get(*key) else { continue };
            let named = node.devices.keys().any(|d| self.through.contains_key(&(*key, d)));
            for (device, own) in node.devices.iter().filter(|(_, d)| d.what == what) {
                let through = self.through.get(&(*key, device)).cloned();
                let led = self.led.get(key);
                let loose = || strings.iter().filter(|i| led.is_none_or(|l| !l.contains(i)));
                let own_named = through.is_some();
                let strings = match through {
                    Some(own) => own,
                    None if named && what == DeviceKind::Fuse && loose().next().is_some() => {
                        loose().copied().collect()
                    }
                    // A surge device hangs beside what the strings flow through.
                    None if named && what != DeviceKind::SurgeDevice => continue,
                    None => strings.clone(),
                };
                found.push(Through { node: key, device, own, strings, named: own_named });
            }
        }
        found
    }

    /// The largest cold volts of strings: what a device has to stand.
    pub(super) fn cold_v(&self, strings: &BTreeSet<usize>) -> Against {
        let found = self.bench.found.get::<FoundStrings>();
        let mut most: Option<f64> = None;
        for i in strings {
            let own: Against = match found.0.get(*i) {
                Some(FoundString::Window(w)) => (&w.cold.voc).into(),
                Some(FoundString::Optimizers(_)) => {
                    let sheet = self.string(*i).optimizer.as_ref();
                    let held = sheet.and_then(|o| self.bench.library.optimizer(o));
                    (held.and_then(|o| o.ratings.string_v), "optimizer.string_v").into()
                }
                _ => (None, "strings").into(),
            };
            match own.value() {
                None => return own,
                Some(v) => most = Some(most.map_or(v, |m| m.max(v))),
            }
        }
        (most, "strings").into()
    }

    /// The volts of a device against the coldest morning of the strings that come through it.
    pub(super) fn in_the_cold<'s>(
        &self,
        sheet: &'s mut Sheet,
        def: &'static Def<Volts>,
        label: &str,
        d: &Through,
    ) -> &'s mut Check {
        let volts =
            sheet.figure(def, |w| w.need(label, d.own.volts_v, "device.volts_v", "data sheet"));
        let cold = Bound::at_least(self.cold_v(&d.strings), "string on the coldest morning");
        sheet.hold(&volts, cold, Verdict::Fail)
    }

    /// Largest current of one of the strings, A (690.8(A)): 1.25 x Isc with its gain, or what its
    /// optimizers put out.
    pub(super) fn string_a(&self, strings: &BTreeSet<usize>) -> Option<f64> {
        let one = |i: &usize| match &self.string(*i).optimizer {
            Some(o) => self.bench.library.optimizer(o)?.ratings.out_a_max_a,
            None => self.module(*i)?.ratings.isc_gained_a().map(|isc| 1.25 * isc),
        };
        let each: Vec<f64> = strings.iter().map(one).collect::<Option<_>>()?;
        each.into_iter().reduce(f64::max)
    }
}

/// A device with the strings that come through it.
pub(super) struct Through<'a> {
    pub(super) node: &'a NodeKey,
    pub(super) device: &'a DeviceKey,
    pub(super) own: &'a Device,
    pub(super) strings: BTreeSet<usize>,
    /// A circuit is led to it, or to one that feeds it.
    pub(super) named: bool,
}

/// Whether anybody entered a device yet: a plan without any is not planned to that depth.
pub(super) fn devices_planned(plan: &PlanFound) -> bool {
    plan.plan.nodes.values().any(|n| !n.devices.is_empty() || n.enclosure.is_some())
}

pub(super) fn dc_of_job(bench: &Bench, sheet: &mut Sheet) -> DcFound {
    if !bench.job.strings.is_empty() {
        let dc = Dc::of(bench);
        isolators::of_job(&dc, sheet);
        spds::of_job(&dc, sheet);
        fuses::of_job(&dc, sheet);
        combiner::of_job(&dc, sheet);
    }
    shutdown::of_job(bench, sheet);
    DcFound
}
