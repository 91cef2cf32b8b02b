//! The enclosure to scale: rails of ways of 17.5 mm with the devices on them, what has no room or
//! sits on another, the next size up, and the entry holes against what comes in.

use serde::Serialize;
use utoipa::ToSchema;

use crate::figure::{Bound, Sheet, Subject, Verdict, said};
use crate::figures;
use crate::job::{DeviceKey, DeviceKind, Edit, Method, Node, NodeKey, NodeKind, Way, WayKey};
use crate::plan::PlanFound;
use crate::quantity::{Ratio, Unit, above, ceil};
use crate::registry::Bench;
use crate::school::School;
use crate::tables;
use crate::traced::sum;

figures! { Protection;
    /// Ways of 17.5 mm that the devices take.
    WAYS_N: Count = "enclosure.ways_n", "Ways the devices take", "data sheets, 17.5 mm each";
    /// Whether every device has its place.
    CLOSES: Rule = "enclosure.closes", "Every device in its place", "17.5 mm a way";
    /// Raceways and cables that come in.
    ENTRIES_N: Count = "enclosure.entries_n", "Raceways and cables that come in", "plan";
    /// The widest hole they need.
    ENTRY: Millimetres = "enclosure.entry_mm", "Widest hole needed", na "knockouts",
        iec "EN 60423";
}

/// A device where it sits.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Sitting {
    /// Its key.
    pub device: DeviceKey,
    /// What it is.
    pub what: DeviceKind,
    /// Ways to the left of it.
    pub left_ways: f64,
    /// Its width, ways.
    pub ways_n: f64,
    /// Whether its place was chosen.
    pub placed: bool,
    /// Whether it sits there: inside the rail and on no other.
    pub fits: bool,
}

/// A rail.
#[derive(Clone, Debug, Default, PartialEq, Serialize, ToSchema)]
pub struct RailDrawn {
    /// Its ways.
    pub ways_n: f64,
    /// What sits on it, from the left.
    pub devices: Vec<Sitting>,
}

/// A raceway or bunch of cables that comes in.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Entry {
    /// The way it is of.
    pub way: WayKey,
    /// Holes it takes.
    pub holes_n: u32,
    /// Width of the hole, mm; absent where nobody said how it comes in.
    pub hole_mm: Option<f64>,
}

/// An enclosure as it is drawn.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct EnclosureDrawing {
    /// The node.
    pub node: NodeKey,
    /// Its rails, from the top.
    pub rails: Vec<RailDrawn>,
    /// Devices without room, with their ways; absent where nobody entered a width.
    pub without: Vec<Without>,
    /// What comes in.
    pub entries: Vec<Entry>,
    /// The next size that holds it all: rails and ways on each; absent where it holds.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub next: Option<[u32; 2]>,
}

/// A device without room.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Without {
    /// Its key.
    pub device: DeviceKey,
    /// What it is.
    pub what: DeviceKind,
    /// Its width, ways.
    pub ways_n: Option<f64>,
}

/// The enclosures of a job.
#[derive(Clone, Debug, Default)]
pub struct Enclosures(pub Vec<EnclosureDrawing>);

/// Sizes enclosures are made in: rails, ways on each.
const SIZES: [[u32; 2]; 13] = [
    [1, 4],
    [1, 6],
    [1, 8],
    [1, 12],
    [1, 18],
    [2, 12],
    [2, 18],
    [2, 24],
    [3, 18],
    [3, 24],
    [4, 18],
    [4, 24],
    [6, 24],
];

/// Devices in the order the current comes through them, then by key.
fn in_order(node: &Node) -> Vec<&DeviceKey> {
    let depth = |key: &DeviceKey| crate::plan::chain(node, key).len();
    let mut keys: Vec<&DeviceKey> = node.devices.keys().collect();
    keys.sort_by_cached_key(|key| (std::cmp::Reverse(depth(key)), (*key).clone()));
    keys
}

/// Puts devices on rails: those whose place was chosen there, the others where there is room.
fn on_rails(node: &Node, rails: u32, each: f64) -> (Vec<RailDrawn>, Vec<Without>) {
    let mut drawn = vec![RailDrawn { ways_n: each, devices: Vec::new() }; rails as usize];
    let mut without = Vec::new();
    let order = in_order(node);
    let chosen = |key: &&DeviceKey| node.devices[*key].rail.is_some();
    let (placed, free): (Vec<&DeviceKey>, Vec<&DeviceKey>) = order.into_iter().partition(chosen);
    for key in placed.into_iter().chain(free) {
        let device = &node.devices[key];
        let lacking = || Without { device: key.clone(), what: device.what, ways_n: device.ways_n };
        let Some(ways) = device.ways_n else {
            without.push(lacking());
            continue;
        };
        if ways == 0.0 {
            // A bus or bar that takes no way of a rail.
            continue;
        }
        let sits = |left: f64, fits: bool| Sitting {
            device: key.clone(),
            what: device.what,
            left_ways: left,
            ways_n: ways,
            placed: device.rail.is_some(),
            fits,
        };
        if let Some(rail) = device.rail {
            let Some(own) = drawn.get_mut(rail.saturating_sub(1) as usize) else {
                without.push(lacking());
                continue;
            };
            let left = device.left_ways.unwrap_or_else(|| end_of(own));
            let fits = !above(left + ways, each) && free_between(own, left, left + ways);
            own.devices.push(sits(left, fits));
            continue;
        }
        let room = drawn.iter().position(|r| gap(r, ways).is_some());
        match room {
            Some(rail) => {
                let left = gap(&drawn[rail], ways).unwrap_or(0.0);
                drawn[rail].devices.push(sits(left, true));
            }
            None => without.push(lacking()),
        }
    }
    for rail in &mut drawn {
        rail.devices.sort_by(|a, b| a.left_ways.total_cmp(&b.left_ways));
    }
    (drawn, without)
}

fn end_of(rail: &RailDrawn) -> f64 {
    rail.devices.iter().map(|d| d.left_ways + d.ways_n).fold(0.0, f64::max)
}

fn free_between(rail: &RailDrawn, from: f64, to: f64) -> bool {
    let apart = |d: &Sitting| !above(to, d.left_ways) || !above(d.left_ways + d.ways_n, from);
    rail.devices.iter().all(apart)
}

/// The first place on a rail that is free for so many ways.
fn gap(rail: &RailDrawn, ways: f64) -> Option<f64> {
    let ends = rail.devices.iter().map(|d| d.left_ways + d.ways_n);
    let mut starts: Vec<f64> = ends.chain([0.0]).collect();
    starts.sort_by(f64::total_cmp);
    let here =
        |left: &f64| !above(left + ways, rail.ways_n) && free_between(rail, *left, left + ways);
    starts.into_iter().find(here)
}

/// The smallest usual size on whose rails all devices find room.
fn next_size(node: &Node) -> Option<[u32; 2]> {
    let mut bare = node.clone();
    for device in bare.devices.values_mut() {
        (device.rail, device.left_ways) = (None, None);
    }
    SIZES.into_iter().find(|[rails, each]| on_rails(&bare, *rails, f64::from(*each)).1.is_empty())
}

/// The hole a raceway of a trade size takes, or a metric one by its outside, mm.
fn hole_mm(school: School, size: &str) -> Option<f64> {
    match school {
        School::Na => tables::knockout_mm(size),
        // A metric conduit is named by its outside; its fitting is threaded to that.
        School::Iec => size.parse::<f64>().ok().map(|mm| mm + 0.5),
    }
}

/// What comes into a node by its ways.
fn entries(plan: &PlanFound, school: School, key: &NodeKey) -> Vec<Entry> {
    plan.ways_at(key).map(|(way, own)| entry(plan, school, key, way, own)).collect()
}

fn entry(plan: &PlanFound, school: School, key: &NodeKey, way: &WayKey, own: &Way) -> Entry {
    let part = if own.from == *key { own.parts.first() } else { own.parts.last() };
    let raceway = part.and_then(|p| p.raceway.as_ref());
    let open = part.is_some_and(|p| p.method == Method::FreeAir);
    // Wire in free air comes in wire by wire, each through a gland.
    let wires = plan.lying_in(way).len() as u32 * 2;
    Entry {
        way: way.clone(),
        holes_n: if open { wires.max(1) } else { 1 },
        hole_mm: raceway.and_then(|r| hole_mm(school, &r.size)),
    }
}

pub(super) fn enclosures_of_job(bench: &Bench, sheet: &mut Sheet) -> Enclosures {
    let plan = bench.found.get::<PlanFound>();
    let mut drawn = Vec::new();
    for (key, node) in &plan.plan.nodes {
        if node.devices.is_empty() {
            continue;
        }
        sheet.subject = Subject::Node { node: key.clone() };
        // Panels and switches have their rooms by themselves, where nobody said otherwise.
        let own = matches!(node.kind, NodeKind::Panel | NodeKind::Isolator | NodeKind::Inverter);
        let sized = node.devices.values().any(|d| d.ways_n.is_some());
        if node.ways_n.is_none() && (own || !sized) {
            continue;
        }
        drawn.push(one(plan, sheet, key, node));
    }
    Enclosures(drawn)
}

fn one(plan: &PlanFound, sheet: &mut Sheet, key: &NodeKey, node: &Node) -> EnclosureDrawing {
    let taken = sheet.count(&WAYS_N, |w| {
        let each = node
            .devices
            .iter()
            .map(|(name, device)| w.need::<Ratio>(name, device.ways_n, "device.ways_n", "job"));
        let each: Vec<_> = each.collect();
        sum(each)
    });
    let rails = node.rails_n.unwrap_or(1);
    let each = node.ways_n.map(|n| n / f64::from(rails));
    let (rails, without) = match each {
        Some(each) => on_rails(node, rails, each),
        None => (Vec::new(), Vec::new()),
    };
    let sitting = rails.iter().flat_map(|r| &r.devices);
    let wrong: Vec<&str> = sitting.filter(|d| !d.fits).map(|d| d.device.as_str()).collect();
    let over: Vec<&str> =
        without.iter().filter(|d| d.ways_n.is_some()).map(|d| d.device.as_str()).collect();
    let verdict = match (each, taken.value()) {
        (None, _) | (_, None) => Verdict::Unknown,
        _ if wrong.is_empty() && over.is_empty() => Verdict::Pass,
        _ => Verdict::Fail,
    };
    let full = taken.value().zip(node.ways_n).is_some_and(|(taken, there)| above(taken, there));
    let next = if full || verdict == Verdict::Fail { next_size(node) } else { None };
    let (text, edits) = larger(key, next);
    let there = Bound::at_most((node.ways_n, "node.ways_n"), "ways of the enclosure");
    sheet
        .hold(&taken, there, Verdict::Fail)
        .beyond(|over| format!("{over} more than it has: it does not close."))
        .cure(&text, edits.clone());
    let field = if each.is_none() { "node.ways_n" } else { "device.ways_n" };
    let moved = wrong.iter().flat_map(|d| {
        let at = format!("/plan/nodes/{key}/devices/{d}");
        ["rail", "left_ways"].map(|f| Edit::new(format!("{at}/{f}"), serde_json::Value::Null))
    });
    let moved: Vec<Edit> = moved.collect();
    let check = sheet.judge(&CLOSES, verdict).misses([field]).because(|| {
        let mut said = Vec::new();
        if !wrong.is_empty() {
            said.push(format!("{} must move: another device or the rail's end.", wrong.join(", ")));
        }
        if !over.is_empty() {
            said.push(format!("No rail has room for {}.", over.join(", ")));
        }
        said.join(" ")
    });
    if !wrong.is_empty() {
        check.cure("Each of them where there is room.", moved);
    }
    if !over.is_empty() {
        check.cure(&text, edits);
    }
    let next = next.filter(|_| verdict == Verdict::Fail);
    let entries = entries(plan, sheet.school, key);
    holes(sheet, node, &entries);
    EnclosureDrawing { node: key.clone(), rails, without, entries, next }
}

/// A larger enclosure in the place of one: in words, and as edits.
fn larger(node: &NodeKey, next: Option<[u32; 2]>) -> (String, Vec<Edit>) {
    let Some([rails, each]) = next else {
        return ("A second one beside it.".to_owned(), Vec::new());
    };
    let at = |field: &str| format!("/plan/nodes/{node}/{field}");
    // Its data sheet is that of the smaller one.
    let edits = vec![
        Edit::new(at("enclosure"), serde_json::Value::Null),
        Edit::new(at("ways_n"), rails * each),
        Edit::new(at("rails_n"), rails),
    ];
    (format!("The next enclosure up: {rails} × {each} ways."), edits)
}

/// Entry holes against what comes in; asked where somebody said what the enclosure has.
fn holes(sheet: &mut Sheet, node: &Node, entries: &[Entry]) {
    if entries.is_empty() || (node.entries_n.is_none() && node.entry_mm.is_none()) {
        return;
    }
    let n = sheet.count(&ENTRIES_N, |w| {
        let each = entries.iter().map(|e| {
            Some(w.given(format_args!("way {}", e.way), Ratio(f64::from(e.holes_n)), "plan"))
        });
        let each: Vec<_> = each.collect();
        sum(each)
    });
    let there = (node.entries_n.map(f64::from), "node.entries_n");
    sheet
        .hold(&n, Bound::at_most(there, "entry holes"), Verdict::Fail)
        .beyond(|over| format!("{over} more than it has."))
        .cure("An enclosure with more entries, or holes that its maker allows.", Vec::new());
    let known: Option<Vec<f64>> =
        entries.iter().filter(|e| e.holes_n == 1).map(|e| e.hole_mm).collect();
    let widest = known.as_ref().and_then(|k| k.iter().copied().reduce(f64::max));
    if known.as_ref().is_some_and(Vec::is_empty) {
        return;
    }
    let widest = sheet.figure(&ENTRY, |w| w.need("hole", widest, "raceway.size", "raceways"));
    let there = Bound::at_most((node.entry_mm, "node.entry_mm"), "widest entry hole");
    let need = said(ceil(widest.value().unwrap_or(0.0)), Unit::Mm);
    sheet
        .hold(&widest, there, Verdict::Fail)
        .beyond(|over| format!("{over} wider than its widest hole."))
        .cure(format_args!("An enclosure with an entry of {need}, or a hole punched."), Vec::new());
}
