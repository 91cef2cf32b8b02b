//! The question: modules as they lie, where the box sits, how many modules each string takes.

use std::collections::HashSet;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::tours::Cost;
use crate::job::MOST_MODULES;
use crate::problem::Problem;
use crate::stages::roof::{
    Exits, Join, Leads, Pitch, Pose, STOCK_M, join, laid_mm, path_m, tail_m,
};

/// Sections of trunk that a gap on one face takes at most.
const LONGEST_N: u32 = 60;

/// What is to be routed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RouteAsk {
    /// The module: size, exits and leads.
    pub module: Leads,
    /// Slack kept for clips at each join and tail, m.
    #[serde(default = "slack")]
    pub slack_m: f64,
    /// Stock lengths of jumpers, m.
    #[serde(default = "stock")]
    pub stock_m: Vec<f64>,
    /// Modules may be turned; where not, they stay as they lie.
    #[serde(default = "yes")]
    pub may_turn: bool,
    /// The faces.
    pub faces: Vec<RouteFace>,
}

/// A face to be routed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RouteFace {
    /// Its key.
    pub id: String,
    /// Where the box of its strings sits, mm.
    pub box_mm: [f64; 2],
    /// Its modules.
    pub modules: Vec<RouteModule>,
    /// Its strings.
    pub strings: Vec<RouteString>,
}

/// A module as it lies.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RouteModule {
    /// Its key.
    pub id: String,
    /// Lower left corner along the eave, mm.
    pub x_mm: f64,
    /// Lower left corner up the slope, mm.
    pub y_mm: f64,
    /// A quarter turn to the left.
    #[serde(default)]
    pub landscape: bool,
}

/// A string to be routed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RouteString {
    /// Its letter.
    pub letter: String,
    /// Modules in it.
    pub n: usize,
}

fn slack() -> f64 {
    crate::stages::roof::SLACK_M
}

fn stock() -> Vec<f64> {
    STOCK_M.to_vec()
}

fn yes() -> bool {
    true
}

/// Everything that is wrong with a question.
pub(super) fn problems(ask: &RouteAsk) -> Vec<Problem> {
    let mut found = Vec::new();
    let mut wrong = |place: String, message: String, hint: &str| {
        found.push(Problem::new(place, message, hint));
    };
    let m = &ask.module;
    let lengths = [
        ("width_mm", m.width_mm, "mm"),
        ("length_mm", m.length_mm, "mm"),
        ("lead_plus_m", m.lead_plus_m, "m"),
        ("lead_minus_m", m.lead_minus_m, "m"),
    ];
    for (field, value, unit) in lengths {
        if !(value.is_finite() && value > 0.0) {
            let message = format!("{value} {unit} is no length");
            wrong(format!("/module/{field}"), message, "the data sheet's, above 0");
        }
    }
    for (field, [u, v]) in [("exit_plus_mm", m.exit_plus_mm), ("exit_minus_mm", m.exit_minus_mm)] {
        let inside = (0.0..=m.width_mm).contains(&u) && (0.0..=m.length_mm).contains(&v);
        if !inside {
            let message = format!("({u}, {v}) is not on the module");
            wrong(format!("/module/{field}"), message, "[u, v] from its lower left corner, mm");
        }
    }
    if !(ask.slack_m.is_finite() && ask.slack_m >= 0.0) {
        wrong("/slack_m".into(), format!("{} m is no slack", ask.slack_m), "0 or more");
    }
    for (at, l) in ask.stock_m.iter().enumerate() {
        if !(l.is_finite() && *l > 0.0) {
            wrong(format!("/stock_m/{at}"), format!("{l} m is no length"), "above 0");
        }
    }
    for (at, face) in ask.faces.iter().enumerate() {
        face_problems(face, &format!("/faces/{at}"), &mut wrong);
    }
    found
}

fn face_problems(face: &RouteFace, path: &str, wrong: &mut impl FnMut(String, String, &str)) {
    if !face.box_mm.iter().all(|c| c.is_finite()) {
        wrong(format!("{path}/box_mm"), "is no place".into(), "[x, y] in mm");
    }
    if face.modules.len() > MOST_MODULES {
        let n = face.modules.len();
        let message = format!("{n} modules, of one face {MOST_MODULES} at most");
        wrong(format!("{path}/modules"), message, "split the face");
        return;
    }
    let mut seen = HashSet::new();
    for (at, module) in face.modules.iter().enumerate() {
        if !(module.x_mm.is_finite() && module.y_mm.is_finite()) {
            wrong(format!("{path}/modules/{at}"), "lies nowhere".into(), "x_mm and y_mm");
        }
        if !seen.insert(&module.id) {
            let message = format!("a second module {}", module.id);
            wrong(format!("{path}/modules/{at}/id"), message, "a key of its own");
        }
    }
    let mut letters = HashSet::new();
    for (at, string) in face.strings.iter().enumerate() {
        if string.n == 0 {
            wrong(format!("{path}/strings/{at}/n"), "0 modules".into(), "1 or more");
        }
        if !letters.insert(&string.letter) {
            let message = format!("a second string {}", string.letter);
            wrong(format!("{path}/strings/{at}/letter"), message, "a letter of its own");
        }
    }
    let asked = face.strings.iter().map(|s| s.n).fold(0, usize::saturating_add);
    if asked > face.modules.len() {
        let message = format!("{asked} modules in strings, {} on the face", face.modules.len());
        wrong(format!("{path}/strings"), message, "as many as lie there, or fewer");
    }
}

/// Says which module is not joined.
pub(super) fn lost(field: &Field, face: &RouteFace, at: usize, module: usize) -> Problem {
    let id = &face.modules[module].id;
    let nearest = (0..field.len())
        .filter(|o| *o != module)
        .map(|o| field.least_path_m(module, o))
        .reduce(f64::min)
        .unwrap_or(0.0);
    let longest = field.stock_m.last().copied().unwrap_or(0.0);
    Problem::new(
        format!("/faces/{at}/modules/{module}"),
        format!(
            "{id} cannot be reached: its nearest join is {nearest:.2} m, leads and the longest \
             jumper bridge {:.2} m",
            field.reach_m + longest
        ),
        "a longer jumper in stock, or a string of its own for what lies apart",
    )
}

/// A face as the search sees it.
pub(super) struct Field {
    exits: Vec<[Exits; 2]>,
    /// Lower edge of each module, mm: modules of one row share it.
    pub row: Vec<f64>,
    /// Middle of each module, mm.
    pub middle: Vec<[f64; 2]>,
    /// Whether modules may be turned.
    pub may_turn: bool,
    /// What two leads reach, m.
    pub reach_m: f64,
    /// Jumpers in stock, ascending, m.
    pub stock_m: Vec<f64>,
    /// Modules of each string.
    pub sizes: Vec<usize>,
    /// Modules that lie as they lie; of the others none is said.
    pub fixed: Vec<Option<bool>>,
    /// Modules that stay in their string.
    pub stays: Vec<bool>,
    tails: Vec<[[f64; 2]; 2]>,
    away: Vec<[f64; 2]>,
}

impl Field {
    pub fn of(ask: &RouteAsk, face: &RouteFace) -> Self {
        let leads = &ask.module;
        let pose = |m: &RouteModule, turned| Pose {
            corner_mm: [m.x_mm, m.y_mm],
            landscape: m.landscape,
            turned,
        };
        let exits: Vec<[Exits; 2]> = face
            .modules
            .iter()
            .map(|m| [false, true].map(|turned| leads.exits(pose(m, turned))))
            .collect();
        let middle = |m: &RouteModule| {
            let [w, h] = leads.size_mm(m.landscape);
            [m.x_mm + w / 2.0, m.y_mm + h / 2.0]
        };
        let tails = exits.iter().map(|both| {
            both.map(|e| {
                let tail = |exit, lead| tail_m(exit, face.box_mm, ask.slack_m, lead);
                [tail(e.plus, leads.lead_plus_m), tail(e.minus, leads.lead_minus_m)]
            })
        });
        let leads_m = leads.lead_plus_m + leads.lead_minus_m;
        let away = exits.iter().map(|both| {
            both.map(|e| {
                let [plus, minus] = [e.plus, e.minus].map(|exit| path_m(exit, face.box_mm));
                plus + minus + 2.0 * ask.slack_m - leads_m
            })
        });
        let mut stock_m = ask.stock_m.clone();
        stock_m.sort_by(f64::total_cmp);
        Field {
            tails: tails.collect(),
            away: away.collect(),
            row: face.modules.iter().map(|m| m.y_mm).collect(),
            middle: face.modules.iter().map(middle).collect(),
            may_turn: ask.may_turn,
            reach_m: leads.reach_m(ask.slack_m),
            stock_m,
            sizes: face.strings.iter().map(|s| s.n).collect(),
            fixed: vec![None; exits.len()],
            stays: vec![false; exits.len()],
            exits,
        }
    }

    /// A face of units on trunks: each sits in the middle of its module, a trunk begins at the box
    /// and ends where it ends. What lies beyond one section a unit stands as a jumper of whole
    /// sections; so does a bridge.
    pub fn trunk(face: &RouteFace, size_mm: [f64; 2], pitch: Pitch, slack_m: f64) -> Self {
        let middle = |m: &RouteModule| {
            let [across, up] = laid_mm(size_mm, m.landscape);
            [m.x_mm + across / 2.0, m.y_mm + up / 2.0]
        };
        let middles: Vec<[f64; 2]> = face.modules.iter().map(middle).collect();
        let Pitch { lead_m, pitch_m } = pitch;
        let away = middles.iter().map(|m| path_m(*m, face.box_mm) + slack_m - lead_m);
        Field {
            exits: middles.iter().map(|m| [Exits { plus: *m, minus: *m }; 2]).collect(),
            row: face.modules.iter().map(|m| m.y_mm).collect(),
            may_turn: false,
            reach_m: 2.0 * lead_m + pitch_m,
            stock_m: (1..=LONGEST_N).map(|n| f64::from(n) * pitch_m).collect(),
            sizes: face.strings.iter().map(|s| s.n).collect(),
            fixed: vec![None; middles.len()],
            stays: vec![false; middles.len()],
            tails: away.clone().map(|m| [[0.0, m.max(0.0)]; 2]).collect(),
            away: away.map(|m| [m; 2]).collect(),
            middle: middles,
        }
    }

    /// Modules of the face.
    pub fn len(&self) -> usize {
        self.exits.len()
    }

    /// Which way round a module may lie.
    pub fn ways_round(&self) -> &'static [bool] {
        if self.may_turn { &[false, true] } else { &[false] }
    }

    /// Whether a module may lie this way round.
    pub fn may_lie(&self, module: usize, turned: bool) -> bool {
        (self.may_turn || !turned) && self.fixed[module].is_none_or(|fixed| fixed == turned)
    }

    /// Metres from + of one to - of the next.
    pub fn path_m(&self, a: usize, a_turned: bool, b: usize, b_turned: bool) -> f64 {
        let from = self.exits[a][usize::from(a_turned)].plus;
        path_m(from, self.exits[b][usize::from(b_turned)].minus)
    }

    /// The shortest path from one module's + to another's -, or the other way.
    pub fn least_path_m(&self, a: usize, b: usize) -> f64 {
        let round = self.ways_round();
        let both = round.iter().flat_map(|s| round.iter().map(move |t| (*s, *t)));
        both.map(|(s, t)| self.path_m(a, s, b, t).min(self.path_m(b, t, a, s)))
            .fold(f64::INFINITY, f64::min)
    }

    /// The join from + of one to - of the next.
    pub fn join(&self, a: usize, a_turned: bool, b: usize, b_turned: bool) -> Join {
        join(self.path_m(a, a_turned, b, b_turned), self.reach_m, &self.stock_m)
    }

    /// Where the leads of a module leave it, mm.
    pub fn exits(&self, module: usize, turned: bool) -> Exits {
        self.exits[module][usize::from(turned)]
    }

    /// Whether no other module can be joined to this one.
    pub fn alone(&self, module: usize) -> bool {
        let others = (0..self.len()).filter(|o| *o != module);
        let longest = self.stock_m.last().copied().unwrap_or(0.0);
        others.map(|o| self.least_path_m(module, o)).all(|p| p > self.reach_m + longest + 1e-9)
    }

    /// Between a module's own exits, along frame and rail, m.
    pub fn across_m(&self) -> f64 {
        self.exits.first().map_or(0.0, |[e, _]| path_m(e.plus, e.minus))
    }

    /// What both tails would take from one module, leads counted, m; below zero close to the box.
    pub fn far_m(&self, module: usize) -> f64 {
        let round = self.ways_round().iter();
        let far = round.map(|&t| self.away[module][usize::from(t)]);
        far.fold(f64::INFINITY, f64::min)
    }

    /// The join's cost.
    pub fn arc(&self, a: usize, a_turned: bool, b: usize, b_turned: bool) -> Cost {
        match self.join(a, a_turned, b, b_turned) {
            Join::Reaches => Cost::default(),
            Join::Jumper(m) => Cost::jumper(m),
            Join::Lost => Cost::LOST,
        }
    }

    /// Wire from the + of a string's last module, m.
    pub fn tail_plus_m(&self, module: usize, turned: bool) -> f64 {
        self.tails[module][usize::from(turned)][0]
    }

    /// Wire from the - of a string's first module, m.
    pub fn tail_minus_m(&self, module: usize, turned: bool) -> f64 {
        self.tails[module][usize::from(turned)][1]
    }

    /// Cost of a module's being the first of a string.
    pub fn first(&self, module: usize, turned: bool) -> Cost {
        Cost::wire(self.tail_minus_m(module, turned))
    }

    /// Cost of a module's being the last of a string.
    pub fn last(&self, module: usize, turned: bool) -> Cost {
        Cost::wire(self.tail_plus_m(module, turned))
    }
}
