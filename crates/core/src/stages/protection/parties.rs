//! The three parties: what each asks for, whether the plan meets it, what it takes, and where two
//! of them do not take the same thing for a disconnect.

use serde::Serialize;
use utoipa::ToSchema;

use super::through::{Keyed, at_end};
use crate::figure::{Sheet, Subject, Verdict, said};
use crate::figures;
use crate::job::{
    CircuitKind, Command, Demand, DemandKey, DemandKind, DeviceKind, Edit, End, Job, JobInverter,
    Node, NodeKey, NodeKind, Party, Place, WayKey,
};
use crate::plan::{PlanFound, indoors};
use crate::quantity::{Unit, above};
use crate::registry::Bench;
use crate::stages::earth::is_metal;
use crate::stages::runs::{Sources, clad};
use crate::tables;

figures! { Protection;
    /// Whether the plan meets a demand.
    MET: Rule = "demand.met", "Demand met", na "110.2, 705.12", iec "network code";
    /// Whether it is known who asked.
    SAID: Rule = "demand.said", "Who asked, when, and where it is written", "job";
    /// Whether parties take the same thing for a disconnect.
    AGREES: Rule = "demand.disconnect_agrees",
        "Parties agree on the disconnect", na "690.13, 705.20", iec "network code";
}

/// A demand with what it adds.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct DemandDrawn {
    /// Its key.
    pub demand: DemandKey,
    /// Plain title.
    pub title: String,
    /// Money it adds, its hours at the job's price in it; absent where prices are not told.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cost: Option<f64>,
    /// Hours it adds.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hours: Option<f64>,
    /// A label goes with it.
    pub label: bool,
    /// Whether the plan meets it.
    pub verdict: Verdict,
}

/// The demands of a job.
#[derive(Clone, Debug, Default)]
pub struct Demands(pub Vec<DemandDrawn>);

pub(super) fn demands_of_job(bench: &Bench, sheet: &mut Sheet) -> Demands {
    let job = bench.job;
    let plan = bench.found.get::<PlanFound>();
    let mut drawn = Vec::new();
    for (key, demand) in &job.demands {
        sheet.subject = Subject::Demand { demand: key.clone() };
        let row = tables::DEMANDS.iter().find(|r| r.kind == demand.what && r.party == demand.party);
        let rate =
            |key: Option<&String>| key.filter(|k| !k.is_empty()).map_or(0.0, |k| job.rate(k));
        let hours = rate(row.map(|r| &r.minutes)) / 60.0;
        let cost = rate(row.map(|r| &r.price)) + hours * job.rate("labour_h");
        let verdict = met(bench, plan, sheet, demand, cost);
        let open = [
            (demand.said_by.is_empty(), "demand.said_by"),
            (demand.said_on.is_empty(), "demand.said_on"),
            (demand.evidence.is_empty(), "demand.evidence"),
        ];
        sheet.known(&SAID, open.into_iter().filter(|(open, _)| *open).map(|(_, field)| field));
        drawn.push(DemandDrawn {
            demand: key.clone(),
            title: row.map_or_else(|| demand.text.clone(), |r| r.title.clone()),
            cost: Some(cost),
            hours: Some(hours),
            label: row.is_some_and(|r| r.label == "yes"),
            verdict,
        });
    }
    agrees(job, plan, sheet);
    Demands(drawn)
}

/// A verdict with what is missing and why.
type Found = (Verdict, &'static str, String);

fn met(bench: &Bench, plan: &PlanFound, sheet: &mut Sheet, demand: &Demand, cost: f64) -> Verdict {
    let (verdict, missing, why) = judged(bench, plan, sheet, demand);
    let own = match &sheet.subject {
        Subject::Demand { demand } => demand.clone(),
        _ => return verdict,
    };
    let way = match demand.what {
        DemandKind::AcDisconnect if verdict != Verdict::Pass => way_without(plan, demand),
        _ => None,
    };
    let check = sheet.judge(&MET, verdict).misses([missing]).found(why);
    match (demand.what, way) {
        (DemandKind::AcDisconnect, Some(way)) if demand.met.is_none() => {
            let text = format!("A visible, lockable disconnect in way {way}.");
            check.cure_by(text, Command::SetDisconnect { way }).costs(Some(cost));
        }
        _ => {
            let edit = Edit::new(format!("/demands/{own}/met"), true);
            check.cure(
                "Meet it, and say so here.",
                if demand.met == Some(false) { vec![edit] } else { Vec::new() },
            );
        }
    }
    verdict
}

/// The way nearest the grid of the first source that is not seen to be open: a disconnect there
/// serves all that comes through it.
fn way_without(plan: &PlanFound, demand: &Demand) -> Option<WayKey> {
    let (source, _) = switches(plan, demand).into_iter().find(|(_, s)| s.seen != Some(true))?;
    let chain = plan.to_the_grid(source);
    let mut ways = chain.iter().rev().filter_map(|at| plan.circuit(*at).legs.last()?.via.last());
    ways.next().cloned()
}

/// What the plan says of a demand; what only a person can say is as somebody said.
fn judged(bench: &Bench, plan: &PlanFound, sheet: &Sheet, demand: &Demand) -> Found {
    let by_hand = || match demand.met {
        Some(true) => (Verdict::Pass, "", String::new()),
        Some(false) => (Verdict::Fail, "", "Somebody looked: it is not met.".to_owned()),
        None => (Verdict::Unknown, "demand.met", String::new()),
    };
    if demand.met.is_some() {
        return by_hand();
    }
    let of_check = |id: &str| {
        let own = sheet.checks.iter().filter(|c| c.id == id);
        let worst = own.map(|c| c.verdict).max().unwrap_or(Verdict::Unknown);
        let why = if worst == Verdict::Fail { "The plan does not do it yet." } else { "" };
        (worst, "demand.met", why.to_owned())
    };
    match demand.what {
        DemandKind::FreePaths => match bench.job.settings.fire_paths {
            Some(true) => (Verdict::Pass, "", String::new()),
            Some(false) => (Verdict::Fail, "", "No path is kept free on the roof.".to_owned()),
            None => (Verdict::Unknown, "settings.fire_paths", String::new()),
        },
        DemandKind::RapidShutdown => of_check("shutdown.by"),
        DemandKind::BackingBoard => of_check("node.wall"),
        DemandKind::MetalRaceway => metal_raceway(plan),
        DemandKind::RoofDisconnect => roof_disconnect(plan, demand),
        DemandKind::AcDisconnect => ac_disconnect(plan, demand),
        DemandKind::ExportLimit => export_limit(bench, demand),
        _ => by_hand(),
    }
}

/// DC indoors in metal raceway, or in metal-clad cable; open where nobody said the place of what
/// lies in something else.
fn metal_raceway(plan: &PlanFound) -> Found {
    let (mut any, mut open) = (false, false);
    for at in (0..plan.circuits.len()).filter(|at| plan.circuit(*at).kind.is_dc()) {
        any = true;
        for leg in &plan.circuit(at).legs {
            let ways = leg.via.iter().filter_map(|key| plan.plan.ways.get(key));
            for part in ways.flat_map(|w| &w.parts) {
                let metal = part.raceway.as_ref().is_some_and(|r| is_metal(r.kind));
                if metal || clad(part, leg) {
                    continue;
                }
                match part.place {
                    None => open = true,
                    Some(place) if indoors(place) => {
                        let why = "DC lies indoors in something else.";
                        return (Verdict::Fail, "", why.to_owned());
                    }
                    Some(_) => {}
                }
            }
        }
    }
    match (any, open) {
        (false, _) => (Verdict::Unknown, "plan.circuits", String::new()),
        (true, true) => (Verdict::Unknown, "way.parts.place", String::new()),
        (true, false) => (Verdict::Pass, "", String::new()),
    }
}

/// Circuits that begin at strings or branches: what has to be opened at the array.
fn of_arrays(plan: &PlanFound) -> Vec<usize> {
    let begins = |at: &usize| {
        let from = &plan.circuit(*at).from;
        from.string.is_some() || from.branch.is_some()
    };
    (0..plan.circuits.len()).filter(begins).collect()
}

/// Each string and each branch can be opened on the roof, or where the demand says.
fn roof_disconnect(plan: &PlanFound, demand: &Demand) -> Found {
    let there = |key: &NodeKey, n: &Node| match &demand.at {
        Some(own) => own == key,
        None => matches!(n.place, Some(Place::UnderModules | Place::RoofSun | Place::RoofShade)),
    };
    let opens = |n: &Node| {
        n.kind == NodeKind::Isolator || n.devices.values().any(|d| d.what == DeviceKind::Isolator)
    };
    let opened = |at: &usize| {
        let chain = match plan.circuit(*at).kind.is_ac() {
            true => plan.to_the_grid(*at),
            false => vec![*at],
        };
        let mut nodes = chain.iter().flat_map(|at| plan.nodes_on(plan.circuit(*at)));
        nodes.any(|key| plan.plan.nodes.get(key).is_some_and(|n| there(key, n) && opens(n)))
    };
    let arrays = of_arrays(plan);
    let without: Vec<&str> =
        arrays.iter().filter(|at| !opened(at)).map(|at| plan.circuits[*at].key.as_str()).collect();
    match (arrays.is_empty(), without.is_empty()) {
        (true, _) => (Verdict::Unknown, "plan.circuits", String::new()),
        (false, true) => (Verdict::Pass, "", String::new()),
        (false, false) => {
            let why = format!("No disconnect stands at the array for {}.", without.join(", "));
            (Verdict::Fail, "", why)
        }
    }
}

/// What is known of several: yes where one is, no where none is.
fn any(each: impl Iterator<Item = Option<bool>>) -> Option<bool> {
    let mut open = false;
    for one in each {
        match one {
            Some(true) => return Some(true),
            None => open = true,
            Some(false) => {}
        }
    }
    if open { None } else { Some(false) }
}

/// What is known of all of several: no where one is not.
fn all(each: impl Iterator<Item = Option<bool>>) -> Option<bool> {
    any(each.map(|one| one.map(|is| !is))).map(|is| !is)
}

/// Whether a circuit can be locked open on its way to the grid, and whether that is seen.
#[derive(Clone, Copy)]
struct Switched {
    locked: Option<bool>,
    seen: Option<bool>,
}

/// The switches a source comes through on its way to the grid; a disconnect of which nothing is
/// entered may be either.
fn switched(plan: &PlanFound, source: usize, demand: &Demand) -> Switched {
    let mut each: Vec<Switched> = Vec::new();
    let here = |node: &NodeKey| demand.at.as_ref().is_none_or(|own| own == node);
    let mut take = |(key, device): Keyed| {
        if demand.device.as_ref().is_none_or(|own| own == key) {
            let locked = device.lockable;
            each.push(Switched { locked, seen: all([locked, device.visible].into_iter()) });
        }
    };
    let mut bare = false;
    for at in plan.to_the_grid(source) {
        let circuit = plan.circuit(at);
        let ends: Vec<&End> = circuit.ends().collect();
        for end in &ends {
            if plan.node_at(end).is_some_and(here) {
                at_end(plan, at, end, |d| d.what.switches()).0.into_iter().for_each(&mut take);
            }
        }
        let between = plan
            .nodes_on(circuit)
            .filter(|n| here(n) && !ends.iter().any(|e| plan.node_at(e) == Some(*n)));
        for node in between.filter_map(|n| plan.plan.nodes.get(n)) {
            node.devices.iter().filter(|(_, d)| d.what.switches()).for_each(&mut take);
            bare |= node.kind == NodeKind::Isolator && node.devices.is_empty();
        }
    }
    if bare {
        each.push(Switched { locked: None, seen: None });
    }
    Switched { locked: any(each.iter().map(|s| s.locked)), seen: any(each.iter().map(|s| s.seen)) }
}

/// The sources of the AC side, each with what opens it.
fn switches(plan: &PlanFound, demand: &Demand) -> Vec<(usize, Switched)> {
    let source = |at: &usize| {
        matches!(plan.circuit(*at).kind, CircuitKind::InverterOut | CircuitKind::MicroBranch)
    };
    let sources = (0..plan.circuits.len()).filter(source);
    sources.map(|at| (at, switched(plan, at, demand))).collect()
}

/// Every source can be locked open, seen to be open unless a breaker will do.
fn ac_disconnect(plan: &PlanFound, demand: &Demand) -> Found {
    let sources = switches(plan, demand);
    if sources.is_empty() {
        return (Verdict::Unknown, "plan.circuits", String::new());
    }
    let seen = all(sources.iter().map(|(_, s)| s.seen));
    let locked = all(sources.iter().map(|(_, s)| s.locked));
    let of = |is: &dyn Fn(&Switched) -> bool| {
        let own = sources.iter().filter(|(_, s)| is(s));
        own.map(|(at, _)| plan.circuits[*at].key.as_str()).collect::<Vec<_>>().join(", ")
    };
    match (seen, locked, demand.breaker_will_do) {
        (Some(true), ..) | (_, Some(true), Some(true)) => (Verdict::Pass, "", String::new()),
        (_, Some(false), _) => {
            let without = of(&|s| s.locked == Some(false));
            let why = format!("Nothing between {without} and the panel is said to be locked open.");
            (Verdict::Fail, "", why)
        }
        (None, Some(true), _) => (Verdict::Unknown, "device.visible", String::new()),
        (_, None, Some(true)) | (None, None, _) => {
            (Verdict::Unknown, "device.lockable", String::new())
        }
        (Some(false), _, Some(false)) => {
            let without = of(&|s| s.seen == Some(false));
            let why = format!(
                "What is there for {without} can be locked, but its contacts are not seen to be \
                 open."
            );
            (Verdict::Fail, "", why)
        }
        (Some(false), _, _) => (Verdict::Unknown, "demand.breaker_will_do", String::new()),
    }
}

/// All that can go out, against what may: inverters and units.
fn export_limit(bench: &Bench, demand: &Demand) -> Found {
    let Some(limit) = demand.limit_w else {
        return (Verdict::Unknown, "demand.limit_w", String::new());
    };
    let job = bench.job;
    let sources = Sources::all(job, bench.library);
    if sources.is_empty() {
        return (Verdict::Unknown, "inverters", String::new());
    }
    let unsaid = |i: &JobInverter| bench.library.inverter(&i.sheet).and_then(|s| s.ac_w).is_none();
    match sources.watts() {
        Some(watts) if !above(watts, limit) => (Verdict::Pass, "", String::new()),
        Some(watts) => (
            Verdict::Unknown,
            "demand.met",
            format!("{} can go out, {} may.", said(watts, Unit::W), said(limit, Unit::W)),
        ),
        None if job.inverters.iter().any(unsaid) => {
            (Verdict::Unknown, "inverter.ac_w", String::new())
        }
        None => (Verdict::Unknown, "unit.ac_w", String::new()),
    }
}

/// A breaker that one party takes as the disconnect and another does not.
fn agrees(job: &Job, plan: &PlanFound, sheet: &mut Sheet) {
    let asks: Vec<(&DemandKey, &Demand)> =
        job.demands.iter().filter(|(_, d)| d.what == DemandKind::AcDisconnect).collect();
    let of = |is: bool| asks.iter().find(|(_, d)| d.breaker_will_do == Some(is));
    let unsaid = asks.iter().find(|(_, d)| d.breaker_will_do.is_none());
    if let (Some((key, _)), true) = (unsaid, asks.len() > 1) {
        sheet.subject = Subject::Demand { demand: (*key).clone() };
        sheet.known(&AGREES, ["demand.breaker_will_do"]);
        return;
    }
    let (Some((_, takes)), Some((key, refuses))) = (of(true), of(false)) else { return };
    sheet.subject = Subject::Demand { demand: (*key).clone() };
    let seen = all(switches(plan, refuses).iter().map(|(_, s)| s.seen));
    let verdict = if seen == Some(true) { Verdict::Pass } else { Verdict::Warn };
    sheet
        .judge(&AGREES, verdict)
        .found(format_args!(
            "The breaker that {} takes as the disconnect is refused by {}: on the day of \
             inspection the job would stop.",
            party(takes.party),
            party(refuses.party)
        ))
        .cure("What the stricter of them takes serves both.", Vec::new());
}

fn party(party: Party) -> &'static str {
    match party {
        Party::Fire => "the fire service",
        Party::Authority => "the wiring authority",
        Party::Network => "the network operator",
    }
}
