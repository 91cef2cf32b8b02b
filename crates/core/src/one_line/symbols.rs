//! Symbols, drawn by us after the public standards of the schools: contacts and fuses in the manner
//! of IEEE 315 (na) and of IEC 60617 (iec). Millimetres on paper.

use super::lanes::{Laid, Line, Stand};
use super::words::{self, Words};
use super::{Anchor, Drawn, Layer, Mark, OneLineSheet, Paper, Point, Title};
use crate::figure::Subject;
use crate::job::{Device, DeviceKind, Job, Letter, Node, NodeKey, NodeKind};
use crate::school::School;

/// Height of letters, mm.
const TEXT_MM: f64 = 2.5;
/// Height of what is less important, mm.
const SMALL_MM: f64 = 2.1;
/// Width of a letter by its height.
const LETTER: f64 = 0.75;
/// Half the width of a symbol on a line, mm.
const HALF: f64 = 2.6;

/// Marks as they are drawn.
struct Pen {
    marks: Vec<Drawn>,
    subject: Option<Subject>,
    tape: Option<Letter>,
}

impl Pen {
    fn put(&mut self, layer: Layer, mark: Mark) {
        let (subject, tape) = (self.subject.clone(), self.tape.clone());
        self.marks.push(Drawn { layer, mark, subject, tape });
    }

    fn line(&mut self, layer: Layer, points: &[Point]) {
        self.put(layer, Mark::Line { points_mm: points.to_vec(), closed: false });
    }

    fn boxed(&mut self, layer: Layer, [x, y]: Point, [to_x, to_y]: Point) {
        let points_mm = vec![[x, y], [to_x, y], [to_x, to_y], [x, to_y]];
        self.put(layer, Mark::Line { points_mm, closed: true });
    }

    fn circle(&mut self, at_mm: Point, r_mm: f64) {
        self.put(Layer::Symbols, Mark::Circle { at_mm, r_mm });
    }

    fn text(&mut self, at_mm: Point, size_mm: f64, anchor: Anchor, text: impl Into<String>) {
        let text = text.into();
        if !text.is_empty() {
            self.put(Layer::Words, Mark::Text { at_mm, size_mm, anchor, text });
        }
    }
}

/// Words in lines no longer than there is room.
fn wrapped(text: &str, room_mm: f64, size_mm: f64) -> Vec<String> {
    let most = (room_mm / (size_mm * LETTER)).floor().max(6.0) as usize;
    let mut lines: Vec<String> = Vec::new();
    for word in text.split(' ') {
        match lines.last_mut() {
            Some(line) if line.chars().count() + 1 + word.chars().count() <= most => {
                line.push(' ');
                line.push_str(word);
            }
            _ => lines.push(word.to_owned()),
        }
    }
    // A sign between two words is not needed where a line ends between them.
    let said = lines.iter().map(|line| line.trim_end_matches(" ·").replace(words::HELD, " "));
    said.collect()
}

/// What stands on a line where it comes to a node.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Inline {
    Fuse,
    Breaker,
    Switch,
    Joint,
    Nothing,
}

/// Draws a sheet.
pub(super) fn draw(laid: &Laid, words: &Words, paper: Paper) -> OneLineSheet {
    let mut pen = Pen { marks: Vec::new(), subject: None, tape: None };
    for (key, stand) in &laid.nodes {
        if let Some(node) = words.plan.plan.nodes.get(key) {
            pen.subject = Some(subject_of(key, node));
            case(&mut pen, words, key, node, stand, laid);
        }
    }
    for line in &laid.lines {
        circuit(&mut pen, laid, words, line);
    }
    OneLineSheet { size_mm: paper.size_mm(), text_mm: SMALL_MM, marks: pen.marks }
}

fn subject_of(key: &NodeKey, node: &Node) -> Subject {
    match node.kind {
        NodeKind::Panel => Subject::Panel { panel: key.clone() },
        _ => Subject::Node { node: key.clone() },
    }
}

/// A node: its case, its bus, what hangs beside the lines.
fn case(pen: &mut Pen, words: &Words, key: &NodeKey, node: &Node, stand: &Stand, laid: &Laid) {
    let [name, rating] = words.node(key);
    let (x, [low, high]) = (stand.x, stand.y);
    // The rating of a device on the highest lane stands inside.
    let (low, high) = (low - 4.2, high + 5.4);
    let half = half_of(laid);
    match node.kind {
        NodeKind::Inverter => {
            pen.boxed(Layer::Symbols, [x - half, low], [x + half, high]);
            pen.line(Layer::Symbols, &[[x - half, low], [x + half, high]]);
            let inset = half * 0.5;
            pen.text([x - inset, high - 3.2], 2.6, Anchor::Middle, "=");
            pen.text([x + inset, low + 1.2], 2.6, Anchor::Middle, "~");
        }
        NodeKind::Panel => {
            for off in [-0.25, 0.25] {
                pen.line(Layer::Symbols, &[[x + off, low], [x + off, high]]);
            }
            if !words.plan.leads_on(key) && !words.is_backup(key) {
                grid(pen, node, words, [x, stand.out]);
            }
        }
        NodeKind::Meter => {
            let y = (low + high) / 2.0;
            pen.circle([x, y], 2.8);
            pen.text([x, y - 0.9], TEXT_MM, Anchor::Middle, "M");
        }
        NodeKind::Electrode => ground(pen, [x, low + 2.0]),
        NodeKind::Tee => {}
        _ => {
            pen.boxed(Layer::Cases, [x - half, low], [x + half, high]);
            if node.kind == NodeKind::Combiner {
                let bus = x + half * 0.55;
                pen.line(Layer::Symbols, &[[bus, low + 2.0], [bus, high - 2.0]]);
            }
        }
    }
    let surged = node.devices.values().any(|d| d.what == DeviceKind::SurgeDevice);
    if surged {
        surge(pen, words.school(), [x, low]);
    }
    if let Some(size) = words.electrode(key).filter(|_| node.kind != NodeKind::Electrode) {
        let x = if surged { x + half } else { x };
        pen.line(Layer::Symbols, &[[x, low], [x, low - 2.0]]);
        ground(pen, [x, low - 2.0]);
        pen.text([x + 2.4, low - 3.6], SMALL_MM, Anchor::Start, size);
    }
    // Beside it stands the next one's.
    let room = laid.step * 0.75;
    let mut y = high + 1.0;
    for line in wrapped(&rating, room, SMALL_MM).iter().rev().filter(|l| !l.is_empty()) {
        pen.text([x, y], SMALL_MM, Anchor::Middle, line.as_str());
        y += SMALL_MM + 0.5;
    }
    pen.text([x, y], TEXT_MM, Anchor::Middle, name);
}

/// Half the width of a case, mm.
fn half_of(laid: &Laid) -> f64 {
    (laid.step * 0.2).clamp(3.5, 6.5)
}

/// From the last panel to the grid: its main, the meter, the network.
fn grid(pen: &mut Pen, node: &Node, words: &Words, [x, y]: Point) {
    let main = node.panel.as_ref().and_then(|p| p.main_a);
    let end = x + 9.0;
    pen.line(Layer::Circuits, &[[x, y], [end - HALF * 2.0, y]]);
    symbol(pen, words.school(), Inline::Breaker, [end - HALF, y]);
    if let Some(amps) = main {
        pen.text([end - HALF, y + 2.0], SMALL_MM, Anchor::Middle, format!("{amps:.0} A"));
    }
    pen.line(Layer::Circuits, &[[end, y], [end + 2.0, y]]);
    pen.circle([end + 4.6, y], 2.6);
    pen.text([end + 4.6, y - 0.9], TEXT_MM, Anchor::Middle, "M");
    pen.line(Layer::Circuits, &[[end + 7.2, y], [end + 9.4, y]]);
    pen.circle([end + 11.8, y], 2.4);
    let wave = |k: usize| {
        let t = k as f64 / 12.0;
        [end + 10.4 + 2.8 * t, y + 0.9 * (t * std::f64::consts::TAU).sin()]
    };
    let wave: Vec<Point> = (0..=12).map(wave).collect();
    pen.line(Layer::Symbols, &wave);
}

/// A circuit: its source, its line with what stands on it, and its words.
fn circuit(pen: &mut Pen, laid: &Laid, words: &Words, line: &Line) {
    let own = &words.plan.circuits[line.at];
    pen.subject = Some(Subject::circuit(&own.key));
    pen.tape = line.letters.first().cloned();
    let y = line.y;
    let points = laid.points(line);
    let Some(last) = points.last() else { return };
    let circuit = words.plan.circuit(line.at);
    let sourced = circuit.from.string.is_some() || circuit.from.branch.is_some();
    let mut pieces: Vec<f64> = Vec::new();
    if sourced {
        source(pen, words, line, laid.left);
        pieces.push(laid.left - 5.0);
    } else {
        // It leaves the middle of the node it begins at.
        let first = line.nodes.first().and_then(|(_, n)| laid.nodes.get(n));
        pieces.push(first.map_or(points[0][0], |s| s.x));
    }
    let middle = points.len().saturating_sub(1);
    for (k, (point, (_, node))) in points.iter().zip(&line.nodes).enumerate() {
        let stands = words.plan.plan.nodes.get(node);
        let ends = k == middle;
        if k == 0 && !sourced {
            leaving(pen, words, line.at, stands, *point, &mut pieces);
            continue;
        }
        let (what, said, shift) = arriving(words, line.at, stands, ends);
        if what == Inline::Nothing {
            continue;
        }
        let x = point[0] + shift;
        if what == Inline::Joint {
            pen.circle([x, y], 0.6);
            continue;
        }
        symbol(pen, words.school(), what, [x, y]);
        pen.text([x, y + 2.2], SMALL_MM, Anchor::Middle, said);
        pieces.extend([x - HALF, x + HALF]);
    }
    pieces.push(last[0]);
    for pair in pieces.chunks_exact(2).filter(|pair| pair[1] > pair[0]) {
        pen.line(Layer::Circuits, &[[pair[0], y], [pair[1], y]]);
    }
    // Between the cases, and before the breaker of a panel.
    let half = half_of(laid);
    let named = [&circuit.from, circuit.to.as_ref().unwrap_or(&circuit.from)];
    let [leaves, arrives] = named.map(|e| e.device.is_some());
    let room = |node: &NodeKey, last: bool| {
        let kind = words.plan.plan.nodes.get(node).map(|n| n.kind);
        let [before, behind] = match kind {
            Some(NodeKind::Panel) => [10.5, 2.0],
            Some(NodeKind::Tee) => [1.0, 1.0],
            _ => [half + 1.4, half + 1.4],
        };
        [
            if last && arrives { f64::max(before, 10.5) } else { before },
            if leaves { f64::max(behind, 14.5) } else { behind },
        ]
    };
    let mut from = if sourced { laid.left } else { points[0][0] };
    for (k, (point, (way, node))) in points.iter().zip(&line.nodes).enumerate() {
        let [before, behind] = room(node, k == middle);
        if let Some(way) = way {
            segment(pen, words, line.at, way, [from, point[0] - before], y);
        }
        from = point[0] + behind;
    }
    pen.tape = None;
}

/// What stands where a circuit begins in a node: the last device it comes through there.
fn leaving(
    pen: &mut Pen,
    words: &Words,
    at: usize,
    node: Option<&Node>,
    [x, y]: Point,
    pieces: &mut Vec<f64>,
) {
    let circuit = words.plan.circuit(at);
    let named = circuit.from.device.as_ref().and_then(|d| node?.devices.get(d));
    let Some((what, device)) = named.and_then(|d| Some((inline(d)?, d))) else { return };
    let x = x + HALF + 7.5;
    symbol(pen, words.school(), what, [x, y]);
    pen.text([x, y + 2.2], SMALL_MM, Anchor::Middle, words.device(device));
    pieces.extend([x - HALF, x + HALF]);
}

fn inline(device: &Device) -> Option<Inline> {
    match device.what {
        DeviceKind::Fuse => Some(Inline::Fuse),
        DeviceKind::Breaker | DeviceKind::Rcd => Some(Inline::Breaker),
        DeviceKind::Isolator => Some(Inline::Switch),
        _ => None,
    }
}

/// What stands on a line where it comes to a node, what is written at it, and how far before the
/// middle of the node it stands.
fn arriving(words: &Words, at: usize, node: Option<&Node>, ends: bool) -> (Inline, String, f64) {
    let nothing = (Inline::Nothing, String::new(), 0.0);
    let Some(node) = node else { return nothing };
    let circuit = words.plan.circuit(at);
    let named = circuit.to.as_ref().filter(|_| ends).and_then(|e| e.device.as_ref());
    let named = named.and_then(|d| node.devices.get(d));
    if let Some((what, device)) = named.and_then(|d| Some((inline(d)?, d))) {
        return (what, words.device(device), -5.2);
    }
    let has = |what: DeviceKind| node.devices.values().find(|d| d.what == what);
    match node.kind {
        NodeKind::Panel if ends => (Inline::Breaker, words.breaker(at), -5.2),
        NodeKind::Isolator => {
            let said = has(DeviceKind::Isolator).map_or_else(String::new, |d| words.device(d));
            (Inline::Switch, said, 0.0)
        }
        NodeKind::Enclosure | NodeKind::Combiner => match has(DeviceKind::Isolator) {
            Some(device) => (Inline::Switch, words.device(device), 0.0),
            None => (Inline::Joint, String::new(), 0.0),
        },
        NodeKind::RoofBox | NodeKind::JunctionBox | NodeKind::PullBox | NodeKind::Tee => {
            (Inline::Joint, String::new(), 0.0)
        }
        _ => nothing,
    }
}

/// The conductors above a line, the raceway and length below it.
fn segment(
    pen: &mut Pen,
    words: &Words,
    at: usize,
    way: &crate::job::WayKey,
    [from, to]: Point,
    y: f64,
) {
    let x = (from + to) / 2.0;
    let room = to - from;
    let [above, below] = words.segment(at, way);
    // One line above, where there is room for one; what is longer goes on below.
    let mut lines = wrapped(&above, room, SMALL_MM).into_iter();
    if let Some(first) = lines.next() {
        pen.text([x, y + 1.0], SMALL_MM, Anchor::Middle, first);
    }
    for (k, line) in lines.chain(wrapped(&below, room, SMALL_MM)).enumerate() {
        let down = SMALL_MM + 0.9 + k as f64 * (SMALL_MM + 0.4);
        pen.text([x, y - down], SMALL_MM, Anchor::Middle, line);
    }
}

/// Modules: a rectangle with the sign of light; a branch with the sign of AC in it.
fn source(pen: &mut Pen, words: &Words, line: &Line, left: f64) {
    let (x, y) = (left - 15.0, line.y);
    pen.boxed(Layer::Symbols, [x, y - 2.6], [x + 10.0, y + 2.6]);
    match words.school() {
        School::Na => {
            pen.line(Layer::Symbols, &[[x, y + 2.6], [x + 3.0, y], [x, y - 2.6]]);
        }
        School::Iec => {
            for off in [0.0, 2.0] {
                let (a, b) = ([x + 1.4 + off, y + 4.6], [x + 3.0 + off, y + 2.9]);
                pen.line(Layer::Symbols, &[a, b, [b[0] - 0.9, b[1] + 0.3]]);
            }
        }
    }
    let [name, what] = words.source(&line.letters);
    pen.text([x + 6.2, y - 0.8], TEXT_MM, Anchor::Middle, name);
    for (k, own) in wrapped(&what, 24.0, SMALL_MM).iter().enumerate() {
        let down = 3.0 + (k as f64 + 1.0) * (SMALL_MM + 0.2);
        pen.text([x - 3.0, y - down], SMALL_MM, Anchor::Start, own.as_str());
    }
}

/// A contact or a fuse on a line.
fn symbol(pen: &mut Pen, school: School, what: Inline, [x, y]: Point) {
    let (a, b) = ([x - HALF, y], [x + HALF, y]);
    let arc = |up: f64| {
        let at = |k: usize| {
            let angle = std::f64::consts::PI * (1.0 - k as f64 / 10.0);
            [x + HALF * angle.cos(), y + up * angle.sin()]
        };
        (0..=10).map(at).collect::<Vec<Point>>()
    };
    match (what, school) {
        (Inline::Fuse, School::Na) => {
            let at = |k: usize| {
                let t = k as f64 / 16.0;
                [x - HALF + 2.0 * HALF * t, y + 1.2 * (t * std::f64::consts::TAU).sin()]
            };
            let wave: Vec<Point> = (0..=16).map(at).collect();
            pen.line(Layer::Symbols, &wave);
        }
        (Inline::Fuse, School::Iec) => {
            pen.boxed(Layer::Symbols, [x - HALF, y - 0.9], [x + HALF, y + 0.9]);
            pen.line(Layer::Symbols, &[a, b]);
        }
        (Inline::Breaker, School::Na) => pen.line(Layer::Symbols, &arc(1.6)),
        (Inline::Breaker, School::Iec) => {
            pen.line(Layer::Symbols, &[a, [x + HALF * 0.8, y + 1.7]]);
            let c = [b[0], y];
            pen.line(Layer::Symbols, &[[c[0] - 0.6, y - 0.6], [c[0] + 0.6, y + 0.6]]);
            pen.line(Layer::Symbols, &[[c[0] - 0.6, y + 0.6], [c[0] + 0.6, y - 0.6]]);
        }
        (Inline::Switch, School::Na) => {
            pen.line(Layer::Symbols, &[a, [x + HALF * 0.8, y + 1.7]]);
            pen.circle(b, 0.4);
        }
        (Inline::Switch, School::Iec) => {
            pen.line(Layer::Symbols, &[a, [x + HALF * 0.8, y + 1.7]]);
            pen.line(Layer::Symbols, &[[b[0], y - 0.7], [b[0], y + 0.7]]);
        }
        (Inline::Joint | Inline::Nothing, _) => {}
    }
}

/// A surge device below a case, to earth.
fn surge(pen: &mut Pen, school: School, [x, y]: Point) {
    let top = y;
    pen.line(Layer::Symbols, &[[x, top], [x, top - 0.8]]);
    pen.boxed(Layer::Symbols, [x - 0.9, top - 3.6], [x + 0.9, top - 0.8]);
    match school {
        School::Na => {
            pen.line(Layer::Symbols, &[[x, top - 0.8], [x, top - 1.9]]);
            pen.line(Layer::Symbols, &[[x, top - 3.6], [x, top - 2.5]]);
        }
        School::Iec => {
            let arrow =
                [[x, top - 0.8], [x, top - 2.9], [x - 0.4, top - 2.3], [x + 0.4, top - 2.3]];
            pen.line(Layer::Symbols, &arrow);
        }
    }
    ground(pen, [x, top - 3.6]);
}

fn ground(pen: &mut Pen, [x, y]: Point) {
    pen.line(Layer::Symbols, &[[x, y], [x, y - 0.8]]);
    for (k, half) in [1.6, 1.05, 0.5].into_iter().enumerate() {
        let down = y - 0.8 - k as f64 * 0.6;
        pen.line(Layer::Symbols, &[[x - half, down], [x + half, down]]);
    }
}

/// The frame and the title block.
pub(super) fn frame(
    sheet: &mut OneLineSheet,
    job: &Job,
    title: &Title,
    paper: Paper,
    (k, n): (usize, usize),
) {
    let [width, height] = paper.size_mm();
    let mut pen = Pen { marks: Vec::new(), subject: None, tape: None };
    pen.boxed(Layer::Frame, [7.0, 7.0], [width - 7.0, height - 7.0]);
    let (left, top) = (width - 7.0 - 118.0, 7.0 + 17.0);
    pen.boxed(Layer::Frame, [left, 7.0], [width - 7.0, top]);
    pen.line(Layer::Frame, &[[left, 7.0 + 8.0], [width - 7.0, 7.0 + 8.0]]);
    pen.line(Layer::Frame, &[[left + 74.0, 7.0], [left + 74.0, top]]);
    let lines = [
        ([left + 2.0, top - 4.6], 3.2, job.name.clone()),
        ([left + 2.0, top - 7.8], 2.0, job.address.replace('\n', ", ")),
        ([left + 76.0, top - 4.6], 2.4, title.revision.clone()),
        ([left + 76.0, top - 7.8], 2.0, title.date.clone()),
        ([left + 2.0, 7.0 + 3.0], 2.0, job.customer.clone()),
        ([left + 76.0, 7.0 + 4.6], 2.0, title.by.clone()),
        ([left + 76.0, 7.0 + 1.6], 2.0, format!("{k} / {n}")),
    ];
    for (at, size, text) in lines {
        pen.text(at, size, Anchor::Start, text);
    }
    for mark in &mut pen.marks {
        mark.layer = Layer::Frame;
    }
    sheet.marks.append(&mut pen.marks);
}
