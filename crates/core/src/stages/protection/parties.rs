//! The three parties: what each asks for, whether the plan meets it, what it takes, and where two
//! of them do not take the same thing for a disconnect.

use serde::Serialize;
use utoipa::ToSchema;

use crate::figure::{Sheet, Subject, Verdict, said};
use crate::figures;
use crate::job::{
    CircuitKind, Command, Demand, DemandKey, DemandKind, Device, DeviceKind, Edit, Job, NodeKind,
    Party, Place, WayKey,
};
use crate::plan::{PlanFound, indoors};
use crate::quantity::{Unit, above};
use crate::registry::Bench;
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
    /// Money it adds, its hours at the job's price in it.
    pub cost: f64,
    /// Hours it adds.
    pub hours: f64,
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
            cost,
            hours,
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
    let way = ac_way(plan);
    let check = sheet.judge(&MET, verdict).misses([missing]).found(why);
    match (demand.what, way) {
        (DemandKind::AcDisconnect, Some(way)) if demand.met.is_none() => {
            let text =
                format!("A visible, lockable disconnect in way {way}: {cost:.0} by the prices.");
            check.cure_by(text, Command::SetDisconnect { way });
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

/// The way in which the output of the first inverter or the feeder comes to its panel.
fn ac_way(plan: &PlanFound) -> Option<WayKey> {
    let ac = |c: &&crate::job::Circuit| {
        matches!(c.kind, CircuitKind::InverterOut | CircuitKind::AcFeeder)
    };
    let feeder =
        plan.plan.circuits.values().filter(ac).max_by_key(|c| c.kind == CircuitKind::AcFeeder);
    feeder.and_then(|c| c.legs.last()?.via.last().cloned())
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

fn metal_raceway(plan: &PlanFound) -> Found {
    let dc = (0..plan.circuits.len()).filter(|at| plan.circuit(*at).kind.is_dc());
    let parts = dc.flat_map(|at| plan.ways(plan.circuit(at)).collect::<Vec<_>>());
    let plastic = parts.flat_map(|w| &w.parts).any(|p| {
        let metal = p.raceway.as_ref().is_some_and(|r| crate::stages::earth::is_metal(r.kind));
        p.place.is_some_and(indoors) && !metal
    });
    match plastic {
        true => (Verdict::Fail, "", "DC lies indoors in something else.".to_owned()),
        false => (Verdict::Pass, "", String::new()),
    }
}

fn roof_disconnect(plan: &PlanFound, demand: &Demand) -> Found {
    let up = |p: Option<Place>| {
        matches!(p, Some(Place::UnderModules | Place::RoofSun | Place::RoofShade))
    };
    let switch = |d: &Device| d.what == DeviceKind::Isolator;
    let any = plan.plan.nodes.iter().any(|(key, n)| {
        let opens = n.kind == NodeKind::Isolator || n.devices.values().any(switch);
        opens && (demand.at.as_ref() == Some(key) || (demand.at.is_none() && up(n.place)))
    });
    match any {
        true => (Verdict::Pass, "", String::new()),
        false => (Verdict::Fail, "", "No disconnect stands at the array.".to_owned()),
    }
}

/// Switches of the AC side by what they are: seen open and locked, locked only, or neither.
fn switches(plan: &PlanFound, demand: &Demand) -> (bool, bool) {
    let ac = (0..plan.circuits.len()).filter(|at| plan.circuit(*at).kind.is_ac());
    let (mut visible, mut locked) = (false, false);
    for at in ac {
        let c = plan.circuit(at);
        for node in plan.nodes_on(c) {
            if demand.at.as_ref().is_some_and(|own| own != node) {
                continue;
            }
            let Some(own) = plan.plan.nodes.get(node) else { continue };
            for (key, device) in own.devices.iter().filter(|(_, d)| d.what.switches()) {
                if demand.device.as_ref().is_some_and(|own| own != key) {
                    continue;
                }
                let lockable = device.lockable == Some(true);
                visible |= lockable && device.visible == Some(true);
                locked |= lockable;
            }
        }
    }
    (visible, locked)
}

fn ac_disconnect(plan: &PlanFound, demand: &Demand) -> Found {
    let (visible, locked) = switches(plan, demand);
    match (visible, locked, demand.breaker_will_do) {
        (true, ..) | (_, true, Some(true)) => (Verdict::Pass, "", String::new()),
        (false, true, None) => (Verdict::Unknown, "demand.breaker_will_do", String::new()),
        (false, true, Some(false)) => (
            Verdict::Fail,
            "",
            "What is there can be locked, but its contacts are not seen to be open.".to_owned(),
        ),
        (false, false, _) => (
            Verdict::Fail,
            "",
            "Nothing between inverter and panel is said to be locked open.".to_owned(),
        ),
    }
}

fn export_limit(bench: &Bench, demand: &Demand) -> Found {
    let Some(limit) = demand.limit_w else {
        return (Verdict::Unknown, "demand.limit_w", String::new());
    };
    let watts = bench.job.inverters.iter().map(|i| bench.library.inverter(&i.sheet)?.ac_w);
    match watts.sum::<Option<f64>>() {
        Some(w) if !above(w, limit) => (Verdict::Pass, "", String::new()),
        Some(w) => (
            Verdict::Unknown,
            "demand.met",
            format!("{} can go out, {} may.", said(w, Unit::W), said(limit, Unit::W)),
        ),
        None => (Verdict::Unknown, "inverter.ac_w", String::new()),
    }
}

/// A breaker that one party takes as the disconnect and another does not.
fn agrees(job: &Job, plan: &PlanFound, sheet: &mut Sheet) {
    let asks: Vec<(&DemandKey, &Demand)> =
        job.demands.iter().filter(|(_, d)| d.what == DemandKind::AcDisconnect).collect();
    let of = |is: bool| asks.iter().find(|(_, d)| d.breaker_will_do == Some(is));
    let (Some((_, takes)), Some((key, refuses))) = (of(true), of(false)) else { return };
    sheet.subject = Subject::Demand { demand: (*key).clone() };
    let (visible, _) = switches(plan, refuses);
    let verdict = if visible { Verdict::Pass } else { Verdict::Warn };
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
