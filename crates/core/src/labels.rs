//! Labels: a schedule by place, with texts built from the job's own figures, and the sheets they
//! are printed on at true size. Which labels a school asks for, and where, is data; rules are cited
//! by number and the wording is our own.

use std::collections::BTreeMap;

use serde::Serialize;
use utoipa::ToSchema;

use crate::editions::cited;
use crate::evaluate::Report;
use crate::figure::Subject;
use crate::job::{Building, CircuitKind, DeviceKind, Job, NodeKey, NodeKind};
use crate::library::Library;
use crate::one_line::{Anchor, Drawn, Layer, Mark, OneLineSheet};
use crate::plan::{PlanFound, indoors};
use crate::quantity::ceil;
use crate::school::Edition;
use crate::tables::{self, LabelRow};

/// A label in its place.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Label {
    /// Which of the usual ones.
    pub kind: String,
    /// Where it goes, in words.
    pub place: String,
    /// What it goes on.
    pub subject: Subject,
    /// Its lines, the first the largest; a figure that is open stands as a dash.
    pub lines: Vec<String>,
    /// Width and height, mm.
    pub size_mm: [f64; 2],
    /// How many of it.
    pub n: u32,
    /// Rule number.
    pub source: String,
    /// A figure in it is open: not to be printed for good.
    pub open: bool,
}

struct Maker<'a> {
    job: &'a Job,
    library: &'a Library,
    report: &'a Report,
    plan: &'a PlanFound,
    edition: Edition,
    found: Vec<Label>,
}

/// The labels of a job, place by place.
pub fn labels(job: &Job, library: &Library, report: &Report) -> Vec<Label> {
    let plan = PlanFound::of(job, library);
    let edition = job.settings.edition.unwrap_or_default();
    let mut m = Maker { job, library, report, plan: &plan, edition, found: Vec::new() };
    m.dc();
    m.ac();
    m.panels();
    m.whole();
    m.found
}

/// A number as a label has it: whole, rounded up, so that it never says too little.
fn up(value: Option<f64>, unit: &str) -> (String, bool) {
    match value {
        Some(v) => (format!("{:.0} {unit}", ceil(v)), false),
        None => (format!("– {unit}"), true),
    }
}

impl Maker<'_> {
    fn row(&self, kind: &str) -> Option<&'static LabelRow> {
        let of = |r: &&LabelRow| r.kind == kind && self.job.school.is_of(&r.school);
        tables::LABELS.iter().find(of)
    }

    /// Puts a label, its figures in the places of its text.
    fn put(
        &mut self,
        kind: &str,
        place: String,
        subject: Subject,
        n: u32,
        with: &[(String, bool)],
    ) {
        let Some(row) = self.row(kind) else { return };
        let mut text = row.text.clone();
        for (k, (value, _)) in with.iter().enumerate() {
            text = text.replace(&format!("{{{k}}}"), value);
        }
        let lines = text.split('|').map(|l| l.trim().to_owned()).collect();
        let source = cited(self.edition, &row.source).into_owned();
        let open = with.iter().any(|(_, open)| *open);
        let size_mm = [row.width_mm, row.height_mm];
        let kind = kind.to_owned();
        self.found.push(Label { kind, place, subject, lines, size_mm, n, source, open });
    }

    /// The highest volts of the strings of an inverter.
    fn dc_volts(&self, strings: &[usize]) -> Option<f64> {
        let each = strings.iter().map(|i| {
            let s = &self.job.strings[*i];
            let held = s.optimizer.as_ref().and_then(|o| self.library.optimizer(o));
            let held = held.and_then(|o| o.ratings.string_v);
            held.or_else(|| self.report.number("string.voc_cold_v", s.letter.as_str()))
        });
        each.collect::<Option<Vec<f64>>>()?.into_iter().reduce(f64::max)
    }

    fn name(&self, key: &NodeKey) -> String {
        let own = self.plan.plan.nodes.get(key);
        match own.map(|n| n.name.as_str()) {
            None | Some("") => key.to_string(),
            Some(name) => format!("{key}, {name}"),
        }
    }

    /// DC: at every switch, box and raceway it comes through.
    fn dc(&mut self) {
        // The worst of the circuits that come through a node stands on its label.
        let mut worst: BTreeMap<NodeKey, [Option<f64>; 2]> = BTreeMap::new();
        for (at, own) in self.plan.circuits.iter().enumerate() {
            let circuit = self.plan.circuit(at);
            if !circuit.kind.is_dc() {
                continue;
            }
            let both = [
                self.dc_volts(&own.strings),
                self.report.number("circuit.i_max_a", own.key.as_str()),
            ];
            for key in self.plan.ways(circuit).flat_map(|w| [&w.from, &w.to]) {
                let own = worst.entry(key.clone()).or_insert([Some(0.0); 2]);
                for (own, new) in own.iter_mut().zip(both) {
                    *own = own.zip(new).map(|(a, b)| a.max(b));
                }
            }
        }
        for (key, [volts, amps]) in worst {
            let Some(node) = self.plan.plan.nodes.get(&key) else { continue };
            let switch = matches!(node.kind, NodeKind::Isolator | NodeKind::Inverter)
                || node.devices.values().any(|d| d.what == DeviceKind::Isolator);
            let kind = if switch { "dc_switch" } else { "dc_box" };
            let (place, subject) = (self.name(&key), Subject::Node { node: key });
            self.put(kind, place, subject, 1, &[up(volts, "V"), up(amps, "A")]);
        }
        let plan = self.plan;
        for (key, way) in &plan.plan.ways {
            let lying = self.plan.lying_in(key);
            let dc = lying.iter().any(|l| self.plan.circuit(l.circuit).kind.is_dc());
            let inside = way.parts.iter().filter(|p| p.place.is_some_and(indoors));
            let length: Option<f64> = inside.clone().map(|p| p.length_m).sum();
            if !dc || inside.count() == 0 {
                continue;
            }
            // Every 3 m (10 ft) and behind each wall.
            let n = length.map_or(1, |m| ceil(m / 3.048) as u32 + 1);
            let subject = Subject::Way { way: key.clone(), part: 1 };
            let name = if way.name.is_empty() { key.to_string() } else { way.name.clone() };
            self.put("dc_raceway", name, subject, n, &[]);
        }
    }

    /// AC: the output at its disconnect and at its breaker.
    fn ac(&mut self) {
        let plan = self.plan;
        for (at, own) in plan.circuits.iter().enumerate() {
            let circuit = plan.circuit(at);
            let output = matches!(
                circuit.kind,
                CircuitKind::InverterOut | CircuitKind::AcFeeder | CircuitKind::MicroBranch
            );
            let Some(end) = circuit.to.as_ref().and_then(|e| plan.node_at(e)) else {
                continue;
            };
            if !output {
                continue;
            }
            let volts = own
                .inverters
                .first()
                .and_then(|i| self.library.inverter(&self.job.inverters[*i].sheet)?.ac_v)
                .or_else(|| {
                    let b = &self.job.branches[*own.branches.first()?];
                    self.library.micro(&b.micro)?.ac_v
                });
            let with =
                [up(self.report.number("circuit.i_max_a", own.key.as_str()), "A"), up(volts, "V")];
            let place = format!("{} on {}", own.key, self.name(end));
            self.put("ac_breaker", place, Subject::circuit(&own.key), 1, &with);
            for key in plan.ways(circuit).map(|w| &w.to).filter(|k| *k != end) {
                let Some(node) = plan.plan.nodes.get(key) else { continue };
                if node.kind == NodeKind::Isolator {
                    let subject = Subject::Node { node: key.clone() };
                    self.put("ac_disconnect", self.name(key), subject, 1, &with);
                }
            }
        }
    }

    /// Every panel on the way, and the one the service comes in at.
    fn panels(&mut self) {
        let plan = self.plan;
        for (key, node) in &plan.plan.nodes {
            if node.kind != NodeKind::Panel {
                continue;
            }
            let subject = Subject::Panel { panel: key.clone() };
            let fed = plan.into_node(key).iter().any(|at| plan.circuit(*at).kind.is_power());
            if fed {
                self.put("two_sources", self.name(key), subject.clone(), 1, &[]);
            }
            let far = node.panel.as_ref().and_then(|p| p.pv_at_far_end) == Some(true);
            if fed && far {
                self.put("do_not_move", self.name(key), subject, 1, &[]);
            }
        }
        if let Some(board) = self.job.protection.backup.as_ref().and_then(|b| b.board.clone()) {
            let place = self.name(&board);
            self.put("backup", place, Subject::Panel { panel: board }, 1, &[]);
        }
    }

    /// Rapid shutdown at its starter, and where the service comes in.
    fn whole(&mut self) {
        let on_building = self.job.site.building.is_some_and(|b| b != Building::Ground);
        let plan = self.plan;
        for (key, node) in &plan.plan.nodes {
            for (device, own) in &node.devices {
                if own.what == DeviceKind::ShutdownStarter && on_building {
                    let subject = Subject::Device { node: key.clone(), device: device.clone() };
                    let place = format!("{} in {}", device, self.name(key));
                    self.put("shutdown", place, subject, 1, &[]);
                }
            }
        }
    }
}

/// Between labels, and round them, mm.
const GAP_MM: f64 = 6.0;
const MARGIN_MM: f64 = 10.0;

/// The labels on sheets of paper at true size, each as often as it is needed.
pub fn label_sheets(labels: &[Label], paper_mm: [f64; 2]) -> Vec<OneLineSheet> {
    let blank = || OneLineSheet { size_mm: paper_mm, text_mm: TEXT_MM, marks: Vec::new() };
    let [width, height] = paper_mm;
    let mut sheets: Vec<OneLineSheet> = Vec::new();
    let (mut x, mut top, mut row) = (MARGIN_MM, height - MARGIN_MM, 0.0_f64);
    for label in labels {
        let [w, h] = label.size_mm;
        for _ in 0..label.n {
            if x + w > width - MARGIN_MM {
                (x, top, row) = (MARGIN_MM, top - row - GAP_MM, 0.0);
            }
            if sheets.is_empty() || top - h < MARGIN_MM {
                sheets.push(blank());
                (x, top, row) = (MARGIN_MM, height - MARGIN_MM, 0.0);
            }
            let sheet = sheets.last_mut().expect("just pushed");
            sheet.marks.extend(marks(label, [x, top - h]));
            x += w + GAP_MM;
            row = row.max(h);
        }
    }
    sheets
}

/// One label alone, for a label printer.
pub fn label_sheet(label: &Label) -> OneLineSheet {
    OneLineSheet { size_mm: label.size_mm, text_mm: TEXT_MM, marks: marks(label, [0.0, 0.0]) }
}

/// The smallest letters of a label, mm.
const TEXT_MM: f64 = 2.4;
/// Width of a letter by its height.
const LETTER: f64 = 0.76;

fn marks(label: &Label, [x, y]: [f64; 2]) -> Vec<Drawn> {
    let [w, h] = label.size_mm;
    let put = |layer, mark| Drawn { layer, mark, subject: Some(label.subject.clone()), tape: None };
    let points_mm = vec![[x, y], [x + w, y], [x + w, y + h], [x, y + h]];
    let mut marks = vec![put(Layer::Frame, Mark::Line { points_mm, closed: true })];
    let n = label.lines.len() as f64;
    let step = h / (n + 0.6);
    for (k, text) in label.lines.iter().enumerate() {
        let fits = (w - 4.0) / (text.chars().count().max(1) as f64 * LETTER);
        let most = if k == 0 { step * 0.7 } else { step * 0.6 };
        let size_mm = most.min(fits).max(1.2);
        let at_mm = [x + w / 2.0, y + h - step * (k as f64 + 0.95)];
        let text = text.clone();
        marks.push(put(Layer::Words, Mark::Text { at_mm, size_mm, anchor: Anchor::Middle, text }));
    }
    marks
}
