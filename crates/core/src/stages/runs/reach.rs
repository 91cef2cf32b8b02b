//! Whether the plan leads everything that makes power the whole way: from where a circuit begins to
//! where it ends, and on from there toward the grid.

use super::carried::Carried;
use crate::figure::{Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{Circuit, CircuitKind, JobString, NodeKey, NodeKind};
use crate::plan::PlanFound;
use crate::registry::Bench;

figures! { Runs;
    /// Whether there is anything to judge.
    PLANNED: Rule = "runs.planned", "Circuits planned", "job";
    /// Whether a circuit's way is planned, and leads where the circuit goes.
    WAY: Rule = "circuit.way", "Way of the circuit", "job";
}

/// What has no circuit although others have one.
pub(super) fn without_circuit(bench: &Bench, sheet: &mut Sheet, plan: &PlanFound) {
    let job = bench.job;
    let begins = |is: &dyn Fn(&Circuit) -> bool| plan.plan.circuits.values().any(is);
    let strings = job
        .strings
        .iter()
        .filter(|s| !begins(&|c| c.from.string.as_ref() == Some(&s.letter)))
        .map(|s| Subject::string(&s.letter));
    let branches = job
        .branches
        .iter()
        .filter(|b| !begins(&|c| c.from.branch.as_ref() == Some(&b.letter)))
        .map(|b| Subject::Branch { branch: b.letter.clone() });
    let inverters = job
        .inverters
        .iter()
        .filter(|i| plan.output_of(&i.id).is_none())
        .map(|i| Subject::inverter(&i.id));
    for subject in strings.chain(branches).chain(inverters) {
        sheet.subject = subject;
        sheet.known(&PLANNED, ["plan.circuits"]);
    }
}

/// Holds a circuit's ways against its ends.
pub(super) fn of_circuit(sheet: &mut Sheet, c: &Carried) {
    if c.circuit.legs.iter().all(|l| l.via.is_empty()) {
        sheet.known(&WAY, ["circuit.legs"]);
        return;
    }
    if let Some(against) = contradiction(c) {
        sheet.judge(&WAY, Verdict::Fail).reason(against);
    } else if let Some(open) = open_end(c) {
        sheet.known(&WAY, ["circuit.legs"]).reason(open);
    } else if let Some(end) = c.plan.loose_end(c.at) {
        sheet.known(&WAY, ["plan.circuits"]).reason(format_args!("Nothing leads on from {end}."));
    } else {
        sheet.judge(&WAY, Verdict::Pass);
    }
}

/// What the circuit says against what its strings say.
fn contradiction(c: &Carried) -> Option<String> {
    let (first, _) = c.strings.first()?;
    let input = |s: &JobString| (s.inverter.clone(), s.mppt);
    if c.circuit.kind == CircuitKind::PvOutput {
        let other = c.strings.iter().map(|(s, _)| *s).find(|s| input(s) != input(first))?;
        return Some(format!(
            "It joins string {} on input {} of {} with string {} on input {} of {}.",
            first.letter, first.mppt, first.inverter, other.letter, other.mppt, other.inverter
        ));
    }
    let to = c.circuit.to.as_ref()?;
    let named = to.inverter.as_ref();
    let there = || c.plan.plan.nodes.get(to.node.as_ref()?)?.inverter.as_ref();
    let goes = named.or_else(there)?;
    let wrong = *goes != first.inverter;
    wrong.then(|| format!("It goes to {goes}, its string to {}.", first.inverter))
}

/// Where its ways do not come to its ends, or have a gap.
fn open_end(c: &Carried) -> Option<String> {
    if c.circuit.legs.iter().any(|l| l.via.is_empty()) {
        return Some("One of its legs has no way yet.".to_owned());
    }
    let plan = c.plan;
    let starts = plan.node_at(&c.circuit.from);
    let input = c.strings.first().and_then(|(s, _)| plan.node_of(&s.inverter));
    let ends = match &c.circuit.to {
        Some(end) => plan.node_at(end),
        None => input,
    };
    let mut walks = walks(c);
    if let Some(node) = starts {
        walks.retain(|(from, _)| *from == node);
        if walks.is_empty() {
            return Some(format!("Its ways do not begin at {node}."));
        }
    }
    let node = ends?;
    let there = walks.iter().any(|(_, to)| *to == node);
    (!there).then(|| format!("Its ways do not come to {node}."))
}

/// Where its ways may begin and end: they are followed from either end of the first.
fn walks<'p>(c: &Carried<'p>) -> Vec<(&'p NodeKey, &'p NodeKey)> {
    let mut ways = c.plan.ways(c.circuit);
    let Some(first) = ways.next() else { return Vec::new() };
    let mut walks = vec![(&first.from, &first.to), (&first.to, &first.from)];
    for way in ways {
        let on = |(start, here): (&'p NodeKey, &'p NodeKey)| match (&way.from, &way.to) {
            (from, to) if from == here => Some((start, to)),
            (from, to) if to == here => Some((start, from)),
            _ => None,
        };
        walks = walks.into_iter().filter_map(on).collect();
    }
    walks
}

impl PlanFound {
    /// The node at which an AC circuit ends although the grid is not there and nothing leads on;
    /// the same for strings that come to a combiner.
    pub(crate) fn loose_end(&self, at: usize) -> Option<&NodeKey> {
        let circuit = self.circuit(at);
        let key = circuit.to.as_ref()?.node.as_ref()?;
        let node = self.plan.nodes.get(key)?;
        let last = match circuit.kind.is_dc() {
            true => node.kind != NodeKind::Combiner,
            false => matches!(node.kind, NodeKind::Panel | NodeKind::Meter),
        };
        let on = |at: &usize| {
            let kind = self.circuit(*at).kind;
            kind.is_power() && kind.is_dc() == circuit.kind.is_dc()
        };
        (!last && !self.out_of_node(key).iter().any(on)).then_some(key)
    }
}
