//! What is written beside lines and symbols: ratings, wire, raceway and length, as the report and
//! the plan have them.

use crate::evaluate::Report;
use crate::job::{Device, Job, Letter, NodeKey, RacewayKind, WayKey};
use crate::library::Library;
use crate::plan::PlanFound;
use crate::quantity::METRES_PER_FOOT;
use crate::school::School;
use crate::stages::runs::conductors;

/// What the words are taken from.
pub(super) struct Words<'a> {
    job: &'a Job,
    library: &'a Library,
    pub(super) plan: &'a PlanFound,
    report: &'a Report,
}

/// A number without noughts at its end.
fn short(value: f64, decimals: usize) -> String {
    let text = format!("{value:.decimals$}");
    match text.contains('.') {
        true => text.trim_end_matches('0').trim_end_matches('.').to_owned(),
        false => text,
    }
}

impl<'a> Words<'a> {
    pub(super) fn of(
        job: &'a Job,
        library: &'a Library,
        plan: &'a PlanFound,
        report: &'a Report,
    ) -> Self {
        Words { job, library, plan, report }
    }

    pub(super) fn school(&self) -> School {
        self.job.school
    }

    /// Whether a node is the board of the backup output.
    pub(super) fn is_backup(&self, key: &NodeKey) -> bool {
        let backup = self.job.protection.backup.as_ref();
        backup.and_then(|b| b.board.as_ref()) == Some(key)
    }

    /// A source: its letters, and what they are.
    pub(super) fn source(&self, letters: &[Letter]) -> [String; 2] {
        let Some(first) = letters.first() else { return [String::new(), String::new()] };
        let name = match letters {
            [one] => one.to_string(),
            [first, .., last] => format!("{first}–{last} ({})", letters.len()),
            [] => String::new(),
        };
        if let Some(s) = self.job.strings.iter().find(|s| s.letter == *first) {
            let model = self.library.module(&s.module).map_or("", |m| m.model.as_str());
            let cold = self.report.number("string.voc_cold_v", first.as_str());
            let volts = cold.map_or_else(String::new, |v| format!(" · {} V", short(v, 0)));
            return [name, format!("{} × {model}{volts}", s.n)];
        }
        let branch = self.job.branches.iter().find(|b| b.letter == *first);
        let unit = branch.and_then(|b| self.library.micro(&b.micro)).map_or("", |m| &m.model);
        [name, format!("{} × {unit}", branch.map_or(0, |b| b.units()))]
    }

    /// A node: what it is called, and what is printed on it.
    pub(super) fn node(&self, key: &NodeKey) -> [String; 2] {
        let Some(node) = self.plan.plan.nodes.get(key) else {
            return [key.to_string(), String::new()];
        };
        let name = if node.name.is_empty() { key.to_string() } else { node.name.clone() };
        let inverter = node.inverter.as_ref().and_then(|i| {
            let own = self.job.inverters.iter().find(|v| v.id == *i)?;
            self.library.inverter(&own.sheet)
        });
        if let Some(sheet) = inverter {
            let watts = sheet.ac_w.map(|w| whole(&format!("{} kW", short(w / 1000.0, 2))));
            let volts = sheet.ac_v.map(|v| whole(&format!("{} V", short(v, 0))));
            let amps = sheet.ac_a.map(|a| whole(&format!("{} A", short(a, 1))));
            let all: Vec<String> =
                [Some(sheet.model.clone()), watts, volts, amps].into_iter().flatten().collect();
            return [name, all.join(" ")];
        }
        let panel = node.panel.as_ref().map(|p| {
            let bus = p.bus_a.map(|a| whole(&format!("bus {} A", short(a, 0))));
            let main = p.main_a.map(|a| whole(&format!("main {} A", short(a, 0))));
            bus.into_iter().chain(main).collect::<Vec<_>>().join(", ")
        });
        [name, panel.unwrap_or_default()]
    }

    /// The conductor from a node to its electrode; empty where its size is open, absent where there
    /// is no electrode.
    pub(super) fn electrode(&self, key: &NodeKey) -> Option<String> {
        let led = self.report.bonding.electrodes_at(key);
        let sized = led.iter().find_map(|e| e.size.as_ref());
        let said = self.plan.plan.nodes.get(key)?.earthed.as_ref().and_then(|e| e.electrode);
        let size = sized.map(|s| format!("{s} {}", self.job.school.wire_unit()));
        (said == Some(true) || !led.is_empty()).then(|| size.unwrap_or_default())
    }

    /// A device: its rating.
    pub(super) fn device(&self, device: &Device) -> String {
        device.amps_a.map_or_else(String::new, |a| format!("{} A", short(a, 1)))
    }

    /// The overcurrent device of a circuit.
    pub(super) fn breaker(&self, at: usize) -> String {
        let circuit = self.plan.circuit(at);
        let planned = self.job.device_a(&self.plan.plan, circuit);
        let next = || self.report.number("ac.ocpd_a", self.plan.circuits[at].key.as_str());
        planned.or_else(next).map_or_else(String::new, |a| format!("{} A", short(a, 1)))
    }

    /// The conductors of a circuit in a way, and what they lie in.
    pub(super) fn segment(&self, at: usize, way: &WayKey) -> [String; 2] {
        let circuit = self.plan.circuit(at);
        let leg = circuit.legs.iter().find(|l| l.via.contains(way));
        let wire = leg.and_then(|l| {
            let size = l.wire.size(self.job.school)?;
            let unit = self.job.school.wire_unit();
            let kind = match self.job.school {
                School::Na => format!("{size} {unit} {}", l.wire.insulation.word()),
                School::Iec => format!("{size} {unit}"),
            };
            let n = conductors(self.job, self.library, circuit).len();
            Some(format!("{n} × {kind}"))
        });
        let earth = self.report.bonding.edges.iter().find(|e| e.way.as_ref() == Some(way));
        let earth = earth.and_then(|e| e.size.as_ref()).map(|size| match self.job.school {
            School::Na => whole(&format!("+ {size} G")),
            School::Iec => whole(&format!("+ {size} mm² PE")),
        });
        let own = self.plan.plan.ways.get(way);
        let mut raceways: Vec<String> = Vec::new();
        for part in own.into_iter().flat_map(|w| &w.parts) {
            let said = match &part.raceway {
                Some(r) => whole(&format!("{} {}", raceway_word(r.kind), r.size)),
                None => continue,
            };
            if !raceways.contains(&said) {
                raceways.push(said);
            }
        }
        let length: Option<f64> =
            own.and_then(|w| w.parts.iter().map(|p| p.length_m).sum::<Option<f64>>());
        let length = length.map(|m| match self.job.school {
            School::Na => whole(&format!("{} ft", short(m / METRES_PER_FOOT, 0))),
            School::Iec => whole(&format!("{} m", short(m, 1))),
        });
        let below: Vec<String> = raceways.into_iter().chain(length).collect();
        let above: Vec<String> = wire.into_iter().chain(earth).collect();
        [above.join(" "), below.join(" · ")]
    }
}

fn raceway_word(kind: RacewayKind) -> String {
    match kind.school() {
        School::Na => kind.key().to_uppercase(),
        School::Iec => kind.key().to_owned(),
    }
}

/// A space where no line ends; drawn as one like any other.
pub(super) const HELD: char = '\u{a0}';

/// Words that stand in one line.
fn whole(text: &str) -> String {
    text.replace(' ', HELD.encode_utf8(&mut [0; 2]))
}
