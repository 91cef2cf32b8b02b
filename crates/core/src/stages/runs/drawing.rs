//! The plan as it is drawn: places as bands from the roof down, nodes and ways in columns from
//! where the power comes from to where it goes, a lane of its own for each way of a band that would
//! lie on another.

use std::collections::BTreeMap;

use serde::Serialize;
use utoipa::ToSchema;

use crate::figure::Sheet;
use crate::job::{
    CircuitKey, CircuitKind, Letter, NodeKey, NodeKind, Place, Plan, RacewayChoice, Way, WayKey,
};
use crate::plan::PlanFound;
use crate::registry::Bench;
use crate::tables;

/// A place the ways pass through, with the air there on the hottest day.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Band {
    /// The place; absent: the band of what has no place yet.
    pub place: Option<Place>,
    /// High ambient of the site and what the place adds, °C.
    pub ambient_c: Option<f64>,
    /// How many lanes it is high.
    pub lanes: usize,
}

/// A node where it is drawn.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RouteNode {
    /// Its key.
    pub node: NodeKey,
    /// What it is.
    pub kind: NodeKind,
    /// The band it stands in, from 0.
    pub band: usize,
    /// The lane in the band, from 0.
    pub lane: usize,
    /// The column, from 0.
    pub column: usize,
}

/// A part of a way where it is drawn.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RoutePart {
    /// The band it lies in, from 0.
    pub band: usize,
    /// The lane in the band, from 0.
    pub lane: usize,
    /// Its first column.
    pub from: usize,
    /// The column behind its last.
    pub to: usize,
    /// The raceway, where there is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub raceway: Option<RacewayChoice>,
    /// Length one way, m.
    pub length_m: Option<f64>,
}

/// A circuit that lies in a way.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RouteCircuit {
    /// Its key.
    pub circuit: CircuitKey,
    /// What it carries.
    pub kind: CircuitKind,
    /// The string whose tape it has.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub string: Option<Letter>,
}

/// A way where it is drawn.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RouteWay {
    /// Its key.
    pub way: WayKey,
    /// The node it begins at.
    pub from: NodeKey,
    /// The node it ends at.
    pub to: NodeKey,
    /// Its parts.
    pub parts: Vec<RoutePart>,
    /// What lies in it.
    pub circuits: Vec<RouteCircuit>,
}

/// The plan through the places of the house, top to bottom.
#[derive(Clone, Debug, Default, Serialize, ToSchema)]
pub struct Route {
    /// The places, from the roof down.
    pub bands: Vec<Band>,
    /// Columns in all.
    pub columns: usize,
    /// The nodes.
    pub nodes: Vec<RouteNode>,
    /// The ways.
    pub ways: Vec<RouteWay>,
    /// Length of all parts that have one, m.
    pub length_m: f64,
}

/// The columns a way takes between its nodes: one for each part, at least one.
fn width(way: &Way) -> usize {
    way.parts.len().max(1)
}

/// The column of each node: behind everything that leads to it. In a ring of ways it ends after a
/// round for each node.
fn columns(plan: &Plan) -> BTreeMap<&NodeKey, usize> {
    let mut at: BTreeMap<&NodeKey, usize> = plan.nodes.keys().map(|k| (k, 0)).collect();
    for _ in 0..plan.nodes.len().min(MOST_COLUMNS) {
        let mut moved = false;
        for way in plan.ways.values() {
            let behind = at.get(&way.from).copied().unwrap_or(0) + 1 + width(way);
            if let Some(to) = at.get_mut(&way.to).filter(|to| **to < behind) {
                *to = behind;
                moved = true;
            }
        }
        if !moved {
            break;
        }
    }
    at
}

/// Rounds after which a drawing is no longer put in order: longer chains are not drawn by hand.
const MOST_COLUMNS: usize = 200;

/// Lanes of a band, each with the columns that are taken in it.
#[derive(Default)]
struct Lanes(Vec<Vec<(usize, usize)>>);

impl Lanes {
    /// The first lane that is free over these columns.
    fn take(&mut self, from: usize, to: usize) -> usize {
        let free = |lane: &Vec<(usize, usize)>| lane.iter().all(|(a, b)| to <= *a || *b <= from);
        let lane = self.0.iter().position(free).unwrap_or(self.0.len());
        if lane == self.0.len() {
            self.0.push(Vec::new());
        }
        self.0[lane].push((from, to));
        lane
    }
}

/// The places of a plan from the roof down; what has no place yet stands below all that have.
fn places(plan: &Plan) -> Vec<Option<Place>> {
    let parts = plan.ways.values().flat_map(|w| &w.parts).map(|p| p.place);
    let nodes = plan.nodes.values().filter_map(|n| n.place).map(Some);
    let mut places: Vec<Option<Place>> = parts.chain(nodes).collect();
    if plan.ways.values().any(|w| w.parts.is_empty()) || places.is_empty() {
        places.push(None);
    }
    places.sort_unstable_by_key(|p| (p.is_none(), *p));
    places.dedup();
    places
}

pub(super) fn route(bench: &Bench, _: &mut Sheet) -> Route {
    let found = bench.found.get::<PlanFound>();
    let plan = &found.plan;
    if plan.nodes.is_empty() {
        return Route::default();
    }
    let places = places(plan);
    let band = |place: Option<Place>| places.iter().position(|p| *p == place).unwrap_or(0);
    let at = columns(plan);
    let mut lanes: Vec<Lanes> = places.iter().map(|_| Lanes::default()).collect();
    let mut beside: BTreeMap<&NodeKey, Vec<Place>> = BTreeMap::new();
    for way in plan.ways.values() {
        for (node, part) in [(&way.from, way.parts.first()), (&way.to, way.parts.last())] {
            beside.entry(node).or_default().extend(part.and_then(|p| p.place));
        }
    }
    // A node without a place of its own stands where a way ends, above the ground where one does.
    let stands = |key: &NodeKey| {
        let places = beside.get(key)?;
        let above = places.iter().find(|p| **p != Place::Underground);
        above.or(places.first()).copied()
    };
    let mut nodes = Vec::new();
    for (key, node) in &plan.nodes {
        let band = band(node.place.or_else(|| stands(key)));
        let column = at[key];
        let lane = lanes[band].take(column, column + 1);
        nodes.push(RouteNode { node: key.clone(), kind: node.kind, band, lane, column });
    }
    let mut ways = Vec::new();
    for (key, way) in &plan.ways {
        let start = at.get(&way.from).map_or(0, |c| c + 1);
        let end = at.get(&way.to).copied().unwrap_or(0).max(start + width(way));
        let last = way.parts.len().saturating_sub(1);
        let mut parts = Vec::new();
        for (k, part) in way.parts.iter().enumerate() {
            let (from, to) = (start + k, if k == last { end } else { start + k + 1 });
            let band = band(part.place);
            let lane = lanes[band].take(from, to);
            let (raceway, length_m) = (part.raceway.clone(), part.length_m);
            parts.push(RoutePart { band, lane, from, to, raceway, length_m });
        }
        let circuits = found.lying_in(key).iter().map(|laid| {
            let circuit = found.circuit(laid.circuit);
            RouteCircuit {
                circuit: found.circuits[laid.circuit].key.clone(),
                kind: circuit.kind,
                string: circuit.from.string.clone(),
            }
        });
        let circuits = circuits.collect();
        let (from, to) = (way.from.clone(), way.to.clone());
        ways.push(RouteWay { way: key.clone(), from, to, parts, circuits });
    }
    let ambient = |place: Option<Place>| {
        Some(bench.job.site.t_max_c? + tables::place(place?.key())?.ambient_add_c)
    };
    let bands = places.iter().zip(&lanes).map(|(&place, l)| Band {
        place,
        ambient_c: ambient(place),
        lanes: l.0.len().max(1),
    });
    let ends = ways.iter().flat_map(|w| w.parts.iter().map(|p| p.to));
    Route {
        bands: bands.collect(),
        columns: ends.chain(nodes.iter().map(|n| n.column + 1)).max().unwrap_or(0),
        length_m: plan.ways.values().flat_map(|w| &w.parts).filter_map(|p| p.length_m).sum(),
        nodes,
        ways,
    }
}
