//! The plan as a graph: nodes where conductors end, join, turn or are switched; ways between them;
//! circuits that go over ways in legs.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{
    CircuitKey, CircuitKind, Device, DeviceKey, Earthed, FaceKey, InverterKey, Letter, Method,
    NodeKey, Panel, PieceKey, Place, RacewayChoice, WayKey, WireChoice,
};
use crate::library::{SheetKind, SheetRef};

/// What stands at a node.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum NodeKind {
    /// Modules whose leads begin here.
    Array,
    /// Box at the array's edge.
    RoofBox,
    /// Box that is only pulled through.
    PullBox,
    /// Box in which conductors are joined or part.
    JunctionBox,
    /// Tee or body that joins two raceways.
    Tee,
    /// Parallel strings become one circuit.
    Combiner,
    /// A switch that isolates.
    Isolator,
    /// Enclosure with devices.
    Enclosure,
    /// An inverter.
    Inverter,
    /// Panel or board with a busbar.
    Panel,
    /// Meter.
    Meter,
    /// Earth electrode.
    Electrode,
}

/// A node of the plan.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Node {
    /// What it is.
    pub kind: NodeKind,
    /// What it is called; its key where absent.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 80)]
    pub name: String,
    /// Where it is; absent: not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub place: Option<Place>,
    /// The face of an array.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub face: Option<FaceKey>,
    /// The inverter that stands here.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub inverter: Option<InverterKey>,
    /// The busbar of a panel and what feeds and loads it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub panel: Option<Panel>,
    /// Ways of 17.5 mm the enclosure has, all rails together.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 1000)]
    pub ways_n: Option<f64>,
    /// Data sheet of the enclosure, or of the combiner; what it says holds where nothing is said
    /// here.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub enclosure: Option<SheetRef>,
    /// Rails the ways are on.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 20)]
    pub rails_n: Option<u32>,
    /// Entry holes for raceways and cables.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 200)]
    pub entries_n: Option<u32>,
    /// The widest of them, mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 5, maximum = 200)]
    pub entry_mm: Option<f64>,
    /// How it is earthed; absent: not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub earthed: Option<Earthed>,
    /// Devices in it by key.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub devices: BTreeMap<DeviceKey, Device>,
    /// What a box measures; absent: not said.
    #[serde(default, rename = "box", skip_serializing_if = "Option::is_none")]
    pub size: Option<BoxSize>,
    /// What is round it where it stands; absent: not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stand: Option<Stand>,
}

/// What is round a panel, an inverter or an isolator where it stands.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Stand {
    /// Free depth before it, mm.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 20000)]
    pub free_depth_mm: Option<f64>,
    /// Free width before it, mm.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 20000)]
    pub free_width_mm: Option<f64>,
    /// Free height before it, mm.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 20000)]
    pub free_height_mm: Option<f64>,
    /// The wall behind it burns (wood, boards); absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub wall_burns: Option<bool>,
    /// A board that does not burn is behind it; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub backing_board: Option<bool>,
    /// From this isolator to the inverter, m.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 1000)]
    pub to_inverter_m: Option<f64>,
    /// It is seen from the inverter; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub in_sight: Option<bool>,
}

/// What a box measures.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct BoxSize {
    /// na: room inside, in³.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 100000)]
    pub volume_in3: Option<f64>,
    /// Length inside, along the pull, mm.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 10, maximum = 5000)]
    pub length_mm: Option<f64>,
    /// Pulled straight through; else at an angle or in a U; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub straight: Option<bool>,
    /// Clamps inside; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub clamps: Option<bool>,
    /// Depth, mm.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 2000)]
    pub depth_mm: Option<f64>,
    /// Height of what it stands on, mm.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 2000)]
    pub stands_on_mm: Option<f64>,
}

impl Node {
    /// The kind of data sheet its enclosure has.
    pub fn enclosure_kind(&self) -> SheetKind {
        match self.kind {
            NodeKind::Combiner => SheetKind::Combiner,
            _ => SheetKind::Enclosure,
        }
    }

    /// A node of a kind, with nothing said of it yet.
    pub fn new(kind: NodeKind) -> Self {
        Node {
            kind,
            name: String::new(),
            place: None,
            face: None,
            inverter: None,
            panel: None,
            ways_n: None,
            enclosure: None,
            rails_n: None,
            entries_n: None,
            entry_mm: None,
            earthed: None,
            devices: BTreeMap::new(),
            size: None,
            stand: None,
        }
    }
}

/// How a bend is made.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum BendKind {
    /// Bent on site.
    #[default]
    Bent,
    /// An elbow as it is sold.
    Elbow,
    /// A conduit body with a cover: one pulls to it and on from it.
    Body,
}

/// A bend of a part.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Bend {
    /// Its angle, °.
    #[schema(minimum = 1, maximum = 180)]
    pub deg: f64,
    /// How it is made.
    #[serde(default)]
    pub kind: BendKind,
    /// Radius to the middle of the raceway, mm; where absent, what benders of the size make.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 10, maximum = 10000)]
    pub radius_mm: Option<f64>,
    /// Where it is, from the beginning of the part, m; absent: not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 5000)]
    pub at_m: Option<f64>,
}

/// One part of a way: one place, one method.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Part {
    /// The place; absent: not said.
    #[serde(default)]
    pub place: Option<Place>,
    /// How the conductors lie there.
    #[serde(default)]
    pub method: Method,
    /// Length one way, m.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 5000)]
    pub length_m: Option<f64>,
    /// Added to the site's high ambient instead of the place's figure, K.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -30, maximum = 60)]
    pub ambient_add_c: Option<f64>,
    /// Height above the roof, mm; below 23 mm (7/8 in) in the sun the wire gets hotter.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 2000)]
    pub roof_clearance_mm: Option<f64>,
    /// iec: it lies in thermal insulation; absent: not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub insulated: Option<bool>,
    /// na: the method is listed or marked for what the place asks of it (wet, sunlight); absent:
    /// not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub listed: Option<bool>,
    /// The raceway, where there is one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub raceway: Option<RacewayChoice>,
    /// Its bends, in order; absent: not said, empty: none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_items = 20)]
    pub bends: Option<Vec<Bend>>,
    /// How much higher its end lies than its beginning, m; below nought where it goes down; absent:
    /// not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -5000, maximum = 5000)]
    pub rise_m: Option<f64>,
    /// Earth over it where it is buried, mm; absent: not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 5000)]
    pub cover_mm: Option<f64>,
    /// iec: it is buried under a drive; absent: not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub under_drive: Option<bool>,
}

impl Part {
    /// Cuts the part at a place inside it; gives what is behind. Its rise is shared by length, a
    /// bend of which nobody said where it is lies where it would lie evenly spread.
    pub(super) fn cut(&mut self, at_m: f64, length_m: f64) -> Part {
        let mut behind = self.clone();
        (self.length_m, behind.length_m) = (Some(at_m), Some(length_m - at_m));
        let share = at_m / length_m;
        behind.rise_m = self.rise_m.map(|rise| rise * (1.0 - share));
        self.rise_m = self.rise_m.map(|rise| rise * share);
        if let Some(bends) = self.bends.take() {
            let gaps = (bends.len() + 1) as f64;
            let (mut first, mut rest) = (Vec::new(), Vec::new());
            for (i, bend) in bends.into_iter().enumerate() {
                let spread = length_m * (i + 1) as f64 / gaps;
                if bend.at_m.unwrap_or(spread) <= at_m {
                    first.push(bend);
                } else {
                    rest.push(Bend { at_m: bend.at_m.map(|m| m - at_m), ..bend });
                }
            }
            (self.bends, behind.bends) = (Some(first), Some(rest));
        }
        behind
    }

    /// The same part from its other end: what rose falls, and bends come in the other order.
    pub(super) fn turn(&mut self) {
        self.rise_m = self.rise_m.map(|rise| -rise);
        let length = self.length_m;
        if let Some(bends) = &mut self.bends {
            bends.reverse();
        }
        for bend in self.bends.iter_mut().flatten() {
            bend.at_m = bend.at_m.zip(length).map(|(at, length)| length - at);
        }
    }
}

/// One raceway or cable run from node to node; its parts one after the other.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = PlanWay)]
pub struct Way {
    /// What it is called; its key where absent.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 80)]
    pub name: String,
    /// Where it begins.
    pub from: NodeKey,
    /// Where it ends.
    pub to: NodeKey,
    /// Its parts, in order.
    #[serde(default)]
    #[schema(max_items = 50)]
    pub parts: Vec<Part>,
    /// The earth wire, as it is written: AWG (na) or mm² (iec). Absent: computed, one for all that
    /// lies in the way.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 6)]
    pub earth: Option<String>,
    /// na: the ground inside a metal-clad cable, as printed on it, AWG; absent: as cables of its
    /// size usually have it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 6)]
    pub bundle_earth: Option<String>,
}

impl Way {
    /// A way from node to node with its parts.
    pub fn between(from: NodeKey, to: NodeKey, parts: Vec<Part>) -> Self {
        Way { name: String::new(), from, to, parts, earth: None, bundle_earth: None }
    }
}

/// Where a circuit begins or ends: one of the four.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct End {
    /// The tails of a string.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub string: Option<Letter>,
    /// The trunk of a branch.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub branch: Option<Letter>,
    /// An inverter: its output, or the inputs its strings go to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub inverter: Option<InverterKey>,
    /// A node: combiner, panel, box.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub node: Option<NodeKey>,
    /// The device of that node it is connected to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub device: Option<DeviceKey>,
}

impl End {
    /// At a string.
    pub fn string(letter: &Letter) -> Self {
        End { string: Some(letter.clone()), ..End::default() }
    }

    /// At a branch.
    pub fn branch(letter: &Letter) -> Self {
        End { branch: Some(letter.clone()), ..End::default() }
    }

    /// At an inverter.
    pub fn inverter(key: &InverterKey) -> Self {
        End { inverter: Some(key.clone()), ..End::default() }
    }

    /// At a node.
    pub fn node(key: &NodeKey) -> Self {
        End { node: Some(key.clone()), ..End::default() }
    }
}

/// One unspliced length of one wire: the unit of the pull and of the cut list.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Leg {
    /// The conductor.
    pub wire: WireChoice,
    /// The ways it goes, in order.
    #[schema(max_items = 50)]
    pub via: Vec<WayKey>,
    /// Cable that is there already and is used here.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub piece: Option<PieceKey>,
}

impl Leg {
    /// A wire over ways.
    pub fn over(wire: WireChoice, via: Vec<WayKey>) -> Self {
        Leg { wire, via, piece: None }
    }
}

/// A circuit: from an end to an end, in legs.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Circuit {
    /// What it carries.
    pub kind: CircuitKind,
    /// What it is called; its key where absent.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 80)]
    pub name: String,
    /// Where its power comes from.
    pub from: End,
    /// Where it goes; a string's absent end is the input its string goes to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to: Option<End>,
    /// A neutral runs along (ac).
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub neutral: bool,
    /// Overcurrent device that protects it, A, where none of its ends names one; ac where absent:
    /// the next standard size.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 10000)]
    pub ocpd_a: Option<f64>,
    /// Its legs, from its beginning on.
    #[serde(default)]
    #[schema(max_items = 20)]
    pub legs: Vec<Leg>,
}

impl Circuit {
    /// Where it begins and, where that is said, where it ends.
    pub fn ends(&self) -> impl Iterator<Item = &End> {
        std::iter::once(&self.from).chain(&self.to)
    }
}

impl Plan {
    /// The overcurrent device a circuit's ends name.
    fn device_at(&self, end: &End) -> Option<&Device> {
        let node = self.nodes.get(end.node.as_ref()?)?;
        node.devices.get(end.device.as_ref()?).filter(|d| d.what.protects())
    }

    /// Rating of the overcurrent device that is planned for a circuit, A: of the larger where both
    /// ends name one, since that is the one its conductors have to stand.
    pub fn protected_a(&self, circuit: &Circuit) -> Option<f64> {
        let named = circuit.ends().filter_map(|e| self.device_at(e)?.amps_a);
        named.reduce(f64::max).or(circuit.ocpd_a)
    }

    /// Every inverter that stands at a node, with the node.
    pub fn inverters_at(&self) -> impl Iterator<Item = (&InverterKey, &NodeKey)> {
        self.nodes.iter().filter_map(|(key, node)| Some((node.inverter.as_ref()?, key)))
    }

    /// The node an inverter stands at.
    pub fn node_of(&self, inverter: &InverterKey) -> Option<&NodeKey> {
        self.inverters_at().find(|(own, _)| *own == inverter).map(|(_, key)| key)
    }
}

/// The plan of a job's circuits.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Plan {
    /// Nodes by key.
    pub nodes: BTreeMap<NodeKey, Node>,
    /// Ways by key.
    pub ways: BTreeMap<WayKey, Way>,
    /// Circuits by key.
    pub circuits: BTreeMap<CircuitKey, Circuit>,
}
