//! The plan brought in line with what the job makes power with: every string, branch and inverter
//! gets its circuit, and circuits of what is gone go.

use super::command::open_way;
use super::v2::free;
use super::{
    Circuit, CircuitKey, CircuitKind, End, Job, Leg, Letter, Node, NodeKey, NodeKind, Plan, WayKey,
};

fn has(plan: &Plan, is: impl Fn(&End) -> bool) -> bool {
    plan.circuits.values().any(|c| is(&c.from))
}

/// Brings the plan in line with strings, branches and inverters: what is gone takes its circuit
/// with it, what is new gets one; a plan with nothing in it begins as the plain way from the roof
/// to the panel, its lengths open.
pub fn settle(job: &mut Job, changes: &mut Vec<String>) {
    retire_gone(job, changes);
    for inverter in job.inverters.clone() {
        let plan = &mut job.plan;
        if !plan.nodes.values().any(|n| n.inverter.as_ref() == Some(&inverter.id)) {
            let key = free(&inverter.id, |k: &NodeKey| plan.nodes.contains_key(k));
            let node =
                Node { inverter: Some(inverter.id.clone()), ..Node::new(NodeKind::Inverter) };
            plan.nodes.insert(key, node);
        }
        if !has(plan, |e| e.inverter.as_ref() == Some(&inverter.id)) {
            let main = main_panel(plan);
            let at = plan.node_of(&inverter.id).expect("just added").clone();
            let like = plan.circuits.values().find(|c| c.kind == CircuitKind::InverterOut);
            let to = like.and_then(|c| c.to.clone()).unwrap_or_else(|| End::node(&main));
            let end = to.node.clone().unwrap_or(main);
            let way = new_way(plan, "AC", &at, &end);
            let circuit = circuit(CircuitKind::InverterOut, End::inverter(&inverter.id), Some(to));
            add(plan, &way, circuit, &way, changes);
        }
    }
    for s in job.strings.clone() {
        let plan = &mut job.plan;
        if has(plan, |e| e.string.as_ref() == Some(&s.letter)) {
            continue;
        }
        // One on the same inverter goes the same way.
        let letters: Vec<&Letter> =
            job.strings.iter().filter(|o| o.inverter == s.inverter).map(|o| &o.letter).collect();
        let like = plan.circuits.values().find(|c| {
            c.kind == CircuitKind::PvString
                && c.from.string.as_ref().is_some_and(|l| letters.contains(&l))
        });
        let mut own = circuit(CircuitKind::PvString, End::string(&s.letter), None);
        match like {
            Some(like) => (own.to, own.legs) = (like.to.clone(), like.legs.clone()),
            None => {
                let Some(at) = plan.node_of(&s.inverter).cloned() else { continue };
                let roof = free("RB", |k: &NodeKey| plan.nodes.contains_key(k));
                plan.nodes.insert(roof.clone(), Node::new(NodeKind::RoofBox));
                let way = new_way(plan, "DC", &roof, &at);
                own.legs = vec![Leg { via: vec![way], ..Leg::default() }];
            }
        }
        let key = free(&s.letter, |k: &CircuitKey| plan.circuits.contains_key(k));
        changes.push(format!("circuit {key} added"));
        plan.circuits.insert(key, own);
    }
    let branches: Vec<Letter> = job.branches.iter().map(|b| b.letter.clone()).collect();
    for letter in &branches {
        branch(&mut job.plan, letter, branches.len() > 1, changes);
    }
}

fn branch(plan: &mut Plan, letter: &Letter, several: bool, changes: &mut Vec<String>) {
    if has(plan, |e| e.branch.as_ref() == Some(letter)) {
        return;
    }
    let like = plan.circuits.values().find(|c| c.kind == CircuitKind::MicroBranch);
    let to = match like.and_then(|c| c.to.as_ref()?.node.clone()) {
        Some(node) => node,
        None => {
            let main = main_panel(plan);
            if several {
                let key = free("COMBINED", |k: &NodeKey| plan.nodes.contains_key(k));
                plan.nodes.insert(key.clone(), Node::new(NodeKind::Panel));
                let way = new_way(plan, "AC", &key, &main);
                let feeder =
                    circuit(CircuitKind::AcFeeder, End::node(&key), Some(End::node(&main)));
                add(plan, "FEEDER", feeder, &way, changes);
                key
            } else {
                main
            }
        }
    };
    let roof = free(&format!("{letter}-box"), |k: &NodeKey| plan.nodes.contains_key(k));
    plan.nodes.insert(roof.clone(), Node::new(NodeKind::RoofBox));
    let way = new_way(plan, letter, &roof, &to);
    let own = circuit(CircuitKind::MicroBranch, End::branch(letter), Some(End::node(&to)));
    add(plan, letter, own, &way, changes);
}

pub(super) fn circuit(kind: CircuitKind, from: End, to: Option<End>) -> Circuit {
    Circuit { kind, name: String::new(), from, to, neutral: false, ocpd_a: None, legs: Vec::new() }
}

fn add(plan: &mut Plan, key: &str, own: Circuit, way: &WayKey, changes: &mut Vec<String>) {
    let key = free(key, |k: &CircuitKey| plan.circuits.contains_key(k));
    changes.push(format!("circuit {key} added"));
    let legs = vec![Leg { via: vec![way.clone()], ..Leg::default() }];
    plan.circuits.insert(key, Circuit { legs, ..own });
}

/// The panel everything comes to: one that no circuit leaves, or a new one.
fn main_panel(plan: &mut Plan) -> NodeKey {
    let leaves = |key: &NodeKey| has(plan, |e| e.node.as_ref() == Some(key));
    let main = plan.nodes.iter().find(|(key, n)| n.kind == NodeKind::Panel && !leaves(key));
    if let Some((key, _)) = main {
        return key.clone();
    }
    let key = free("MP", |k: &NodeKey| plan.nodes.contains_key(k));
    plan.nodes.insert(key.clone(), Node::new(NodeKind::Panel));
    key
}

fn new_way(plan: &mut Plan, stem: &str, from: &NodeKey, to: &NodeKey) -> WayKey {
    let mut numbered = (1..).map(|n| WayKey::from(format!("{stem}{n}").as_str()));
    let key = numbered.find(|k| !plan.ways.contains_key(k)).expect("numbers do not end");
    plan.ways.insert(key.clone(), open_way(from, to));
    key
}

fn retire_gone(job: &mut Job, changes: &mut Vec<String>) {
    let legs = job.plan.circuits.values_mut().flat_map(|c| &mut c.legs);
    for leg in legs.filter(|l| l.piece.as_ref().is_some_and(|p| !job.stock.contains_key(p))) {
        leg.piece = None;
    }
    let there = |e: &End| {
        e.string.as_ref().is_none_or(|l| job.strings.iter().any(|s| s.letter == *l))
            && e.branch.as_ref().is_none_or(|l| job.branches.iter().any(|b| b.letter == *l))
            && e.inverter.as_ref().is_none_or(|i| job.inverters.iter().any(|v| v.id == *i))
    };
    job.plan.circuits.retain(|key, c| {
        let stays = there(&c.from) && c.to.as_ref().is_none_or(there);
        if !stays {
            changes.push(format!("circuit {key} taken out"));
        }
        stays
    });
    for node in job.plan.nodes.values_mut() {
        if node.inverter.as_ref().is_some_and(|i| !job.inverters.iter().any(|v| v.id == *i)) {
            (node.inverter, node.kind) = (None, NodeKind::JunctionBox);
        }
    }
}
