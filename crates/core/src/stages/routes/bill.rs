//! What a route is made of, counted: lengths by kind and size, fittings, wire by size, and the work
//! it takes.

use std::collections::BTreeMap;

use super::Counted;
use crate::figure::Field;
use crate::job::{BendKind, Insulation, Job, Leg, Method, NodeKind, Part, Place, Way, WayKey};
use crate::library::Library;
use crate::quantity::MM_PER_INCH;
use crate::school::School;
use crate::stages::runs::conductors;
use crate::tables;

/// Bore of a raceway its price is given for, mm.
const BORE_MM: f64 = 20.0;

/// One line of a bill: so many, of this price or time, times its factors.
pub(super) struct Line {
    pub(super) what: String,
    pub(super) n: f64,
    pub(super) rate: f64,
    pub(super) factors: Vec<f64>,
}

/// Material and work of a route, and what is missing for them.
#[derive(Default)]
pub(super) struct Bill {
    pub(super) material: Vec<Line>,
    /// Minutes.
    pub(super) work: Vec<Line>,
    pub(super) lacking: Vec<Field>,
}

/// What a part is laid as.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord)]
enum Laid {
    /// Raceway by kind and size.
    Raceway(&'static str, String),
    /// Metal-clad cable.
    Clad,
    /// Cable in a sheath.
    Sheathed,
    /// Wire in free air.
    Open,
}

impl Laid {
    fn of(school: School, part: &Part, nm: bool) -> Option<Self> {
        Some(match (&part.raceway, part.method) {
            (Some(r), _) => Laid::Raceway(r.kind.key(), r.size.clone()),
            (None, Method::Raceway) => return None,
            (None, Method::FreeAir) => Laid::Open,
            (None, Method::Cable) if school == School::Na && !nm => Laid::Clad,
            (None, Method::Cable) => Laid::Sheathed,
        })
    }

    fn name(&self) -> String {
        match self {
            Laid::Raceway(kind, size) => format!("{} {size}", kind.to_uppercase()),
            Laid::Clad => "metal-clad cable".to_owned(),
            Laid::Sheathed => "sheathed cable".to_owned(),
            Laid::Open => "open wire".to_owned(),
        }
    }

    /// Keys of its price and its time.
    fn rates(&self) -> (Option<String>, String) {
        match self {
            Laid::Raceway(kind, _) => (Some(format!("{kind}_m")), format!("lay_{kind}_m")),
            Laid::Clad => (Some("clad_m".to_owned()), "lay_cable_m".to_owned()),
            Laid::Sheathed => (Some("sheath_m".to_owned()), "lay_cable_m".to_owned()),
            Laid::Open => (None, "lay_open_m".to_owned()),
        }
    }
}

/// Where work takes longer.
fn slow_key(place: Option<Place>) -> Option<&'static str> {
    match place? {
        Place::UnderModules | Place::RoofSun | Place::RoofShade => Some("slow_roof_pct"),
        Place::Attic | Place::Cavity => Some("slow_attic_pct"),
        _ => None,
    }
}

fn bore_mm(raceway: (&str, &str)) -> Option<f64> {
    let (kind, size) = raceway;
    let na = tables::RACEWAYS.iter().find(|r| r.kind == kind && r.trade == size);
    let iec = tables::CONDUITS.iter().find(|r| r.class == kind && r.size_mm.to_string() == size);
    na.map(|r| r.id_in * MM_PER_INCH).or(iec.map(|r| r.id_mm))
}

impl Bill {
    pub(super) fn of(
        job: &Job,
        library: &Library,
        counted: Counted,
        earth_of: &dyn Fn(&WayKey) -> Option<String>,
    ) -> Self {
        let mut bill = Bill::default();
        bill.laid(job);
        bill.fittings(job, counted);
        bill.wire(job, library, earth_of);
        bill
    }

    fn lack(&mut self, field: Field) {
        if !self.lacking.contains(&field) {
            self.lacking.push(field);
        }
    }

    fn material(&mut self, job: &Job, what: &str, n: f64, key: &str) {
        self.priced(what, n, job.rate(key), Vec::new());
    }

    fn priced(&mut self, what: &str, n: f64, rate: f64, factors: Vec<f64>) {
        if n > 0.0 {
            self.material.push(Line { what: what.to_owned(), n, rate, factors });
        }
    }

    fn work(&mut self, job: &Job, what: &str, n: f64, key: &str) {
        if n > 0.0 {
            let what = what.to_owned();
            self.work.push(Line { what, n, rate: job.rate(key), factors: Vec::new() });
        }
    }

    /// Metres of raceway, cable and trench, with the time they take where they lie.
    fn laid(&mut self, job: &Job) {
        let mut metres: BTreeMap<(Laid, Option<&str>), f64> = BTreeMap::new();
        let mut trench_m = 0.0;
        for (key, way) in &job.plan.ways {
            let legs = lying(job, key);
            let nm = legs.iter().any(|(_, l)| l.wire.insulation == Insulation::Nm);
            if legs.is_empty() {
                continue;
            }
            for part in &way.parts {
                let (Some(laid), Some(m)) = (Laid::of(job.school, part, nm), part.length_m) else {
                    let open =
                        if part.length_m.is_none() { "way.parts.length_m" } else { "raceway.size" };
                    self.lack(open);
                    continue;
                };
                if part.place.is_none() {
                    self.lack("way.parts.place");
                }
                // A raceway holds all that lies there; cables and wires lie beside one another.
                let beside = match laid {
                    Laid::Raceway(..) => 1.0,
                    _ => legs.len() as f64,
                };
                *metres.entry((laid, slow_key(part.place))).or_default() += m * beside;
                if part.place == Some(Place::Underground) {
                    trench_m += m;
                }
            }
        }
        let mut priced: BTreeMap<Laid, f64> = BTreeMap::new();
        for ((laid, slow), m) in metres {
            let (_, time) = laid.rates();
            let what = match slow {
                Some("slow_roof_pct") => format!("{} on the roof, m", laid.name()),
                Some(_) => format!("{} in attic or cavity, m", laid.name()),
                None => format!("{}, m", laid.name()),
            };
            let factors: Vec<f64> = slow.iter().map(|key| 1.0 + job.rate(key) / 100.0).collect();
            self.work.push(Line { what, n: m, rate: job.rate(&time), factors });
            *priced.entry(laid).or_default() += m;
        }
        for (laid, m) in priced {
            let (Some(price), _) = laid.rates() else { continue };
            let factors = match &laid {
                Laid::Raceway(kind, size) => match bore_mm((kind, size)) {
                    Some(bore) => vec![bore / BORE_MM],
                    None => {
                        self.lack("raceway.size");
                        continue;
                    }
                },
                _ => Vec::new(),
            };
            self.priced(&format!("{}, m", laid.name()), m, job.rate(&price), factors);
        }
        self.work(job, "trench, m", trench_m, "trench_m");
    }

    /// Bends, bodies, supports, couplings, entries, boxes and pulls.
    fn fittings(&mut self, job: &Job, counted: Counted) {
        let used = || job.plan.ways.iter().filter(|(k, _)| !lying(job, k).is_empty());
        let parts = || used().flat_map(|(_, w)| &w.parts);
        let bends = |kind: BendKind| {
            let all = parts().flat_map(|p| p.bends.iter().flatten());
            all.filter(|b| b.kind == kind).count() as f64
        };
        if parts().any(|p| p.raceway.is_some() && p.bends.is_none()) {
            self.lack("way.parts.bends");
        }
        let (bent, elbows, bodies) =
            (bends(BendKind::Bent), bends(BendKind::Elbow), bends(BendKind::Body));
        let entries: usize = used().map(|(_, w)| 2 * runs(w)).sum();
        let boxes = job.plan.nodes.values().filter(|n| is_box(n.kind)).count() as f64;
        let pulls: usize = used().map(|(_, w)| pulls(w)).sum();
        if counted.supports_n.is_none() || counted.couplings_n.is_none() {
            self.lack("way.parts.length_m");
        }
        let (supports, couplings) =
            (counted.supports_n.unwrap_or(0.0), counted.couplings_n.unwrap_or(0.0));
        self.material(job, "elbows", elbows, "elbow");
        self.material(job, "bodies", bodies, "body");
        self.material(job, "supports", supports, "support");
        self.material(job, "couplings", couplings, "coupling");
        self.material(job, "entries into boxes", entries as f64, "entry");
        self.material(job, "boxes", boxes, "box");
        self.work(job, "bends made", bent, "bend");
        self.work(job, "elbows and bodies", elbows + bodies, "elbow_min");
        self.work(job, "supports", supports, "support_min");
        self.work(job, "couplings", couplings, "coupling_min");
        self.work(job, "entries into boxes", entries as f64, "entry_min");
        self.work(job, "boxes", boxes, "box_min");
        self.work(job, "pulls", pulls as f64, "pull_min");
    }

    /// Conductors by section, the earth wires of raceways among them, pulled and connected.
    fn wire(&mut self, job: &Job, library: &Library, earth_of: &dyn Fn(&WayKey) -> Option<String>) {
        let mut by_size: BTreeMap<String, f64> = BTreeMap::new();
        let (mut pulled_m, mut ends) = (0.0, 0.0);
        for circuit in job.plan.circuits.values() {
            // What is not led anywhere costs nothing known.
            if circuit.legs.is_empty() || circuit.legs.iter().any(|l| l.via.is_empty()) {
                self.lack("circuit.legs");
            }
            let n = conductors(job, library, circuit).len() as f64;
            for leg in &circuit.legs {
                ends += 2.0 * n;
                let size = leg.wire.size(job.school);
                let Some(size) = size else {
                    self.lack(job.school.wire_field());
                    continue;
                };
                for part in
                    leg.via.iter().filter_map(|k| job.plan.ways.get(k)).flat_map(|w| &w.parts)
                {
                    let m = part.length_m.unwrap_or(0.0) * n;
                    // What is there already is pulled and not bought.
                    if leg.piece.is_none() {
                        *by_size.entry(size.clone()).or_default() += m;
                    }
                    if part.raceway.is_some() {
                        pulled_m += m;
                    }
                }
            }
        }
        for (key, way) in &job.plan.ways {
            let power = lying(job, key).iter().any(|(kind, _)| kind.is_power());
            // A cable has its own.
            let own =
                |p: &&Part| p.method != Method::Cable || p.raceway.is_some() || way.earth.is_some();
            let metres = |p: &Part| p.length_m.unwrap_or(0.0);
            let earth_m: f64 = way.parts.iter().filter(own).map(metres).sum();
            if !power || earth_m == 0.0 {
                continue;
            }
            let Some(size) = way.earth.clone().or_else(|| earth_of(key)) else {
                self.lack(job.school.wire_field());
                continue;
            };
            *by_size.entry(size).or_default() += earth_m;
            pulled_m += way.parts.iter().filter(|p| p.raceway.is_some()).map(metres).sum::<f64>();
            ends += 2.0;
        }
        for (size, m) in by_size {
            let name = format!("{size} {}, m", job.school.wire_unit());
            let mm2 = job.school.section_mm2(&size);
            let a_metre = mm2.map(|mm2| job.conductor_cost(mm2));
            match a_metre {
                Some(a_metre) => self.priced(&name, m, a_metre, Vec::new()),
                None => self.lack("wire.awg"),
            }
        }
        self.work(job, "wire pulled, m", pulled_m, "pull_m");
        self.work(job, "ends of conductors", ends, "end_min");
    }
}

/// Legs that lie in a way, with what their circuit carries.
fn lying<'j>(job: &'j Job, way: &WayKey) -> Vec<(crate::job::CircuitKind, &'j Leg)> {
    let legs = job.plan.circuits.values().flat_map(|c| c.legs.iter().map(|l| (c.kind, l)));
    legs.filter(|(_, l)| l.via.contains(way)).collect()
}

/// Stretches of a way that are one raceway or one cable.
fn runs(way: &Way) -> usize {
    let kind = |p: &Part| (p.method, p.raceway.clone());
    let enters = |p: &Part| p.raceway.is_some() || p.method == Method::Cable;
    let mut n = 0;
    for (i, part) in way.parts.iter().enumerate().filter(|(_, p)| enters(p)) {
        if i == 0 || kind(&way.parts[i - 1]) != kind(part) {
            n += 1;
        }
    }
    n
}

/// Pulls of a way: one for each stretch of raceway, and one more for each body in it.
fn pulls(way: &Way) -> usize {
    let mut n = 0;
    for (i, part) in way.parts.iter().enumerate().filter(|(_, p)| p.raceway.is_some()) {
        n += usize::from(i == 0 || way.parts[i - 1].raceway.is_none());
        n += part.bends.iter().flatten().filter(|b| b.kind == BendKind::Body).count();
    }
    n
}

fn is_box(kind: NodeKind) -> bool {
    matches!(kind, NodeKind::RoofBox | NodeKind::PullBox | NodeKind::JunctionBox | NodeKind::Tee)
}
