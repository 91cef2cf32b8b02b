//! Where the inverter goes: each place by what its cables and its heat lose over a year, what the
//! cables cost, and what the place asks for.
//!
//! The model is simple and the same for every place, so that their order can be trusted more than
//! the numbers: every day is clear ([`sun`](crate::stages::site::sun)), the middle of each month
//! stands for its days, and the air swings by `(t_max + t_min) / 2 - 0.35 (t_max - t_min) cos(2 pi
//! (day - 20) / 365) - 5 cos(2 pi (hour - 3) / 24)`, half a year later south of the equator. A
//! place adds what `data/segment_places.csv` says, and 10 K in the sun. Above 45 °C at the inverter
//! it is taken to give 2 % less for each kelvin.

use serde::Serialize;
use utoipa::ToSchema;

use crate::figure::{Handle, Sheet, Subject, Working, said};
use crate::figures;
use crate::job::{
    Circuit, CircuitKey, CircuitKind, InverterPlace, Job, JobString, Letter, Mounting, Place,
    WireChoice,
};
use crate::library::Library;
use crate::quantity::{
    Cost, Kelvins, KilowattHours, Metres, Ohms, OhmsPerMetre, Ratio, Unit, above,
};
use crate::registry::{Bench, Registry};
use crate::school::School;
use crate::stages::runs::{Vdrop, resistance};
use crate::stages::site::{clear_sky_w_m2, days_since_2000};
use crate::tables;
use crate::traced::{Traced, exact, sum};

/// What the stage brings with it.
pub fn define(r: &mut Registry) {
    r.figures(CARDS);
    r.pass("places", &[], places);
}

figures! { Site;
    /// I² R of the strings over a year.
    DC_LOSS: KilowattHours = "place.dc_loss_kwh",
        "Lost in the DC cable, a clear year", "clear-sky model";
    /// I² R of the output over a year.
    AC_LOSS: KilowattHours = "place.ac_loss_kwh",
        "Lost in the AC cable, a clear year", "clear-sky model";
    /// What heat takes off the output over a year.
    HEAT: KilowattHours = "place.heat_loss_kwh",
        "Lost to heat at the inverter, a clear year", "clear-sky model";
    /// Cables by length and section.
    CABLE: Cost = "place.cable_cost", "Cables", "clear-sky model";
    /// Cables and what is lost in all years.
    TOTAL: Cost = "place.total_cost", "Cables and losses in all years", "clear-sky model";
}

/// Above this the inverter gives less.
const HEAT_FROM_C: f64 = 45.0;
/// How much warmer than the air an inverter stands in the sun, K.
const SUN_K: f64 = 10.0;
/// Share it gives less for each kelvin.
const HEAT_PER_K: f64 = 0.02;
/// Share of the modules' watts that leaves the inverter.
const EFFICIENCY: f64 = 0.97;
/// Cable between array and inverter from which both ends want a surge device, m (IEC 61643-32).
const BOTH_ENDS_M: f64 = 10.0;

/// Where prices come from.
const COSTS: &str = "prices";

/// A place with what it comes to.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PlaceRow {
    /// Its name.
    pub name: String,
    /// kWh lost in the DC cable in a clear year.
    pub dc_loss_kwh: Option<f64>,
    /// kWh lost in the AC cable in a clear year.
    pub ac_loss_kwh: Option<f64>,
    /// kWh lost to heat in a clear year.
    pub heat_loss_kwh: Option<f64>,
    /// Cost of the cables.
    pub cable_cost: Option<f64>,
    /// Cables and losses in all years.
    pub total_cost: Option<f64>,
    /// Hottest air at the inverter, °C.
    pub hottest_c: Option<f64>,
    /// What the place asks for: weather class, isolators, surge devices.
    pub asks: Vec<String>,
    /// The cheapest of all.
    pub best: bool,
}

/// The places compared, and the recommendation.
#[derive(Clone, Debug, Default, Serialize, ToSchema)]
pub struct Places {
    /// Place by place, as they stand in the job.
    pub rows: Vec<PlaceRow>,
    /// Which one, and why, with numbers; absent where something is open.
    pub recommendation: Option<String>,
    /// What is missing.
    pub missing: Vec<String>,
}

/// One hour of the year as it stands for many.
struct Hour {
    /// How many hours it stands for.
    weight: f64,
    /// Air, °C.
    air_c: f64,
    /// Light on each face, W/m².
    faces_w_m2: Vec<f64>,
}

const MONTH_DAYS: [f64; 12] =
    [31.0, 28.0, 31.0, 30.0, 31.0, 30.0, 31.0, 31.0, 30.0, 31.0, 30.0, 31.0];

fn year(latitude: f64, t_min: f64, t_max: f64, faces: &[(f64, f64)]) -> Vec<Hour> {
    let mut hours = Vec::new();
    let mut day = 0.0;
    for (month, length) in MONTH_DAYS.iter().enumerate() {
        let middle = day + length / 2.0;
        day += length;
        for hour in 0..24 {
            let at = f64::from(hour) + 0.5;
            // Solar time: the longitude is that of Greenwich.
            let n = days_since_2000(2023, month as u32 + 1, 15, at).unwrap_or(0.0);
            let season = if latitude < 0.0 { middle + 182.5 } else { middle };
            let turn = |x: f64| (2.0 * std::f64::consts::PI * x).cos();
            let air_c = (t_max + t_min) / 2.0
                - 0.35 * (t_max - t_min) * turn((season - 20.0) / 365.0)
                - 5.0 * turn((at - 3.0) / 24.0);
            let light = |(tilt, azimuth): &(f64, f64)| {
                clear_sky_w_m2(n, at, latitude, 0.0, *tilt, *azimuth)
            };
            hours.push(Hour {
                weight: *length,
                air_c,
                faces_w_m2: faces.iter().map(light).collect(),
            });
        }
    }
    hours
}

/// What flows in a year: sums over its hours.
struct Flows {
    /// Sum of I² of each string, A²h.
    dc_a2h: Vec<f64>,
    /// Sum of I² of the output, A²h.
    ac_a2h: f64,
    /// What leaves the inverter, hour by hour.
    output: Vec<Output>,
}

/// What leaves the inverter in an hour that stands for many.
struct Output {
    /// How many hours it stands for.
    weight: f64,
    /// Air, °C.
    air_c: f64,
    /// kW.
    kw: f64,
}

impl Output {
    /// kWh that heat takes off where a place adds so much to the air.
    fn lost_kwh(&self, add_c: f64) -> f64 {
        let too_hot = (self.air_c + add_c - HEAT_FROM_C).max(0.0);
        self.weight * self.kw * (too_hot * HEAT_PER_K).min(1.0)
    }
}

impl PlaceRow {
    /// All that is lost in a clear year, kWh.
    fn lost_kwh(&self) -> Option<f64> {
        Some(self.dc_loss_kwh? + self.ac_loss_kwh? + self.heat_loss_kwh?)
    }
}

fn flows(job: &Job, library: &Library, latitude: f64, t_min: f64, t_max: f64) -> Option<Flows> {
    let faces: Vec<(f64, f64)> =
        job.site.faces.iter().map(|f| (f.tilt_deg, f.azimuth_deg)).collect();
    let rise =
        job.site.cell_rise_hot_c.or(job.site.mounting.map(Mounting::cell_rise_c)).unwrap_or(30.0);
    let inverters: Vec<_> =
        job.inverters.iter().filter_map(|i| library.inverter(&i.sheet)).collect();
    let most: f64 = inverters.iter().map(|i| i.ac_w).sum::<Option<f64>>()?;
    let three_phase = inverters.iter().any(|i| i.three_phase);
    let volts = inverters.first()?.ac_v?;
    let mut found = Flows { dc_a2h: vec![0.0; job.strings.len()], ac_a2h: 0.0, output: Vec::new() };
    for hour in year(latitude, t_min, t_max, &faces) {
        let mut watts = 0.0;
        for (k, s) in job.strings.iter().enumerate() {
            let m = &library.module(&s.module)?.ratings;
            let light =
                hour.faces_w_m2[job.site.faces.iter().position(|f| f.id == s.face)?] / 1000.0;
            let cell = hour.air_c + rise * light;
            let power = m.pmax_w?
                * f64::from(s.n)
                * light
                * (1.0 + m.g_pmax_pct_c.unwrap_or(-0.35) / 100.0 * (cell - 25.0));
            let fixed = s
                .optimizer
                .as_ref()
                .and_then(|o| library.optimizer(o))
                .and_then(|o| o.ratings.string_v);
            let amps = fixed.map_or(m.imp_a? * light, |v| power / v);
            found.dc_a2h[k] += amps * amps * hour.weight;
            watts += power;
        }
        let out = (watts * EFFICIENCY).min(most);
        let amps = if three_phase { out / (volts * 3.0_f64.sqrt()) } else { out / volts };
        found.ac_a2h += amps * amps * hour.weight;
        found.output.push(Output { weight: hour.weight, air_c: hour.air_c, kw: out / 1000.0 });
    }
    Some(found)
}

/// Hours of full current that lose as much in a circuit's wire as a clear year does; none where the
/// site's place or weather is open, or where strings of several planes or branches flow in it.
pub(crate) fn full_hours(job: &Job, library: &Library, key: &CircuitKey) -> Option<f64> {
    let site = &job.site;
    let found = flows(job, library, site.latitude_deg?, site.t_min_c?, site.t_max_c?)?;
    hours_of(job, library, &found, key)
}

/// What is lost in all circuits in a clear year, kWh, where `loss_w` is what each loses at full
/// current; none where it cannot be said of one of them.
pub(crate) fn lost_kwh(
    job: &Job,
    library: &Library,
    loss_w: impl Fn(&CircuitKey) -> Option<f64>,
) -> Option<f64> {
    let site = &job.site;
    let found = flows(job, library, site.latitude_deg?, site.t_min_c?, site.t_max_c?)?;
    let power = job.plan.circuits.iter().filter(|(_, c)| c.kind.is_power());
    let each =
        power.map(|(key, _)| Some(hours_of(job, library, &found, key)? * loss_w(key)? / 1000.0));
    each.sum()
}

fn hours_of(job: &Job, library: &Library, found: &Flows, key: &CircuitKey) -> Option<f64> {
    let circuit = job.plan.circuits.get(key)?;
    match circuit.kind {
        CircuitKind::PvString => {
            let letter = circuit.from.string.as_ref()?;
            let at = job.strings.iter().position(|s| s.letter == *letter)?;
            let s = &job.strings[at];
            let m = &library.module(&s.module)?.ratings;
            let fixed = match &s.optimizer {
                Some(o) => Some(library.optimizer(o)?.ratings.string_v?),
                None => None,
            };
            let full = match fixed {
                Some(volts) => m.pmax_w? * f64::from(s.n) / volts,
                None => m.imp_a?,
            };
            Some(found.dc_a2h[at] / (full * full))
        }
        // Strings alike in one plane rise and fall together.
        CircuitKind::PvOutput => {
            let node = circuit.from.node.as_ref()?;
            let ends =
                |c: &&Circuit| c.to.as_ref().is_some_and(|to| to.node.as_ref() == Some(node));
            let own = job.plan.circuits.values().filter(ends);
            let letters: Vec<&Letter> = own.filter_map(|c| c.from.string.as_ref()).collect();
            let strings = job.strings.iter().enumerate();
            let own: Vec<_> = strings.filter(|(_, s)| letters.contains(&&s.letter)).collect();
            let (at, first) = *own.first()?;
            let alike = |s: &JobString| s.face == first.face && s.module == first.module;
            let full = library.module(&first.module)?.ratings.imp_a?;
            let plain = own.iter().all(|(_, s)| alike(s) && s.optimizer.is_none());
            let whole = own.len() == letters.len() && plain;
            whole.then(|| found.dc_a2h[at] / (full * full))
        }
        // Outputs are taken to rise and fall as all of them together do.
        CircuitKind::InverterOut | CircuitKind::AcFeeder
            if job.branches.is_empty() && !job.inverters.is_empty() =>
        {
            let each = job.inverters.iter().map(|i| library.inverter(&i.sheet)?.ac_a);
            let full: f64 = each.sum::<Option<f64>>()?;
            Some(found.ac_a2h / (full * full))
        }
        _ => None,
    }
}

/// The first wire of a kind of circuit in the job.
fn wire(job: &Job, kind: CircuitKind) -> Option<&WireChoice> {
    let own = job.plan.circuits.values().find(|c| c.kind == kind && !c.legs.is_empty());
    own.and_then(|c| c.legs.first()).map(|l| &l.wire)
}

fn section_mm2(job: &Job, wire: &WireChoice) -> Option<f64> {
    match job.school {
        School::Iec => wire.mm2,
        School::Na => tables::wire(wire.awg.as_deref()?).map(tables::Wire::section_mm2),
    }
}

/// Weather class and distances a place asks for.
fn asks(job: &Job, x: &InverterPlace, hottest_c: Option<f64>) -> Vec<String> {
    let na = job.school == School::Na;
    let mut found = Vec::new();
    found.push(
        match x.place {
            Place::RoofSun
            | Place::RoofShade
            | Place::UnderModules
            | Place::OutsideWallSun
            | Place::OutsideWallShade => {
                if na {
                    "enclosure type 3R or better; wet location"
                } else {
                    "IP65 and proof against sunlight"
                }
            }
            Place::Sheltered => {
                if na {
                    "enclosure type 3R; damp location"
                } else {
                    "IP54 or better"
                }
            }
            _ => {
                if na {
                    "enclosure type 1; dry location"
                } else {
                    "IP20 is enough; dry room"
                }
            }
        }
        .to_owned(),
    );
    if na {
        found.push(
            "an isolating device in the inverter or within sight and 3 m of it (690.15)".to_owned(),
        );
        if matches!(x.place, Place::Attic | Place::Inside | Place::Garage | Place::Cavity) {
            found.push(
                "DC in metal raceway or metal-clad cable inside the building (690.31(D))"
                    .to_owned(),
            );
        }
    } else {
        found.push("a DC isolator beside the inverter".to_owned());
        if x.dc_m.is_some_and(|m| above(m, BOTH_ENDS_M)) {
            found.push(format!(
                "surge devices at both ends: {} along the cable is more than {}",
                said(x.dc_m.unwrap_or(0.0), Unit::M),
                said(BOTH_ENDS_M, Unit::M)
            ));
        }
    }
    if let Some(c) = hottest_c.filter(|c| above(*c, HEAT_FROM_C)) {
        found.push(format!(
            "shade and air around it: {} on the hottest day",
            said(c, Unit::Celsius)
        ));
    }
    found
}

/// Compares the places of a job. Figures stand under the place's name.
fn places(bench: &Bench, sheet: &mut Sheet) -> Places {
    let (job, library) = (bench.job, bench.library);
    if job.places.is_empty() {
        return Places::default();
    }
    let mut missing: Vec<String> = Vec::new();
    let mut need = |known: bool, field: &str| {
        if !known {
            missing.push(field.to_owned());
        }
    };
    let s = &job.site;
    need(s.latitude_deg.is_some(), "site.latitude_deg");
    need(s.t_min_c.is_some(), "site.t_min_c");
    need(s.t_max_c.is_some(), "site.t_max_c");
    need(!job.strings.is_empty(), "strings");
    need(!job.inverters.is_empty(), "inverters");
    let (dc, ac) = (
        wire(job, CircuitKind::PvString).or(wire(job, CircuitKind::PvOutput)),
        wire(job, CircuitKind::InverterOut),
    );
    need(dc.is_some(), "plan.circuits: a string's circuit with its wire");
    need(ac.is_some(), "plan.circuits: the inverter's output with its wire");
    let year = match (s.latitude_deg, s.t_min_c, s.t_max_c) {
        (Some(lat), Some(low), Some(high)) if missing.is_empty() => {
            flows(job, library, lat, low, high)
        }
        _ => None,
    };
    let three_phase =
        job.inverters.iter().any(|i| library.inverter(&i.sheet).is_some_and(|i| i.three_phase));
    let mut rows: Vec<PlaceRow> = Vec::new();
    for x in &job.places {
        let add = tables::place(x.place.key()).map_or(0.0, |p| p.ambient_add_c)
            + if matches!(x.place, Place::RoofSun | Place::OutsideWallSun) { SUN_K } else { 0.0 };
        let hottest_c = s.t_max_c.map(|t| t + add);
        let mut row = PlaceRow {
            name: x.name.clone(),
            dc_loss_kwh: None,
            ac_loss_kwh: None,
            heat_loss_kwh: None,
            cable_cost: None,
            total_cost: None,
            hottest_c,
            asks: asks(job, x, hottest_c),
            best: false,
        };
        if let (Some(flows), Some(dc), Some(ac)) = (&year, dc, ac) {
            sheet.subject = Subject::Place { place: x.name.clone() };
            Common { job, flows, dc, ac, three_phase }.place(sheet, x, add, &mut row);
        }
        rows.push(row);
    }
    let cheapest = rows
        .iter()
        .enumerate()
        .filter_map(|(i, r)| Some((i, r.total_cost?)))
        .min_by(|a, b| a.1.total_cmp(&b.1))
        .map(|(i, _)| i);
    if let Some(best) = cheapest {
        rows[best].best = true;
    }
    Places { recommendation: cheapest.and_then(|best| recommended(&rows, best)), rows, missing }
}

/// What every place has in common.
struct Common<'a> {
    job: &'a Job,
    flows: &'a Flows,
    dc: &'a WireChoice,
    ac: &'a WireChoice,
    three_phase: bool,
}

impl Common<'_> {
    fn per_metre(&self, w: &mut Working, wire: &WireChoice) -> Option<Traced<OhmsPerMetre>> {
        let na = self.job.school == School::Na;
        let choice = Vdrop {
            awg: wire.awg.clone().filter(|_| na),
            material: wire.material,
            mm2: wire.mm2.filter(|_| !na),
            cable: Some(wire.cable),
            ..Vdrop::default()
        };
        resistance(w, &choice)
    }

    /// Figures of a place that adds `add_c` to the air.
    fn place(&self, sheet: &mut Sheet, x: &InverterPlace, add_c: f64, row: &mut PlaceRow) {
        let hours = "sum of I² over the hours, A²h";
        let dc_loss = sheet.figure(&DC_LOSS, |w| {
            let r = self.per_metre(w, self.dc);
            let length = w.need::<Metres>("L", x.dc_m, "places.dc_m", "job");
            let sum = Ratio(self.flows.dc_a2h.iter().sum());
            let sum = w.given(hours, sum, "clear sky, every string");
            let both = w.step("out and back", exact::<Ratio>(2.0) * (length? * r?));
            Some(kwh(sum, both))
        });
        let ac_loss = sheet.figure(&AC_LOSS, |w| {
            let r = self.per_metre(w, self.ac);
            let length = w.need::<Metres>("L", x.ac_m, "places.ac_m", "job");
            let sum = Ratio(self.flows.ac_a2h);
            let sum = w.given(hours, sum, "clear sky, 97 % through the inverter");
            let conductors = exact::<Ratio>(if self.three_phase { 3.0 } else { 2.0 });
            let all = w.step("conductors that carry", conductors * (length? * r?));
            Some(kwh(sum, all))
        });
        let heat_loss = sheet.figure(&HEAT, |w| {
            let lost: f64 = self.flows.output.iter().map(|o| o.lost_kwh(add_c)).sum();
            let model = "2 % less for each kelvin above 45 °C at the inverter";
            w.words("model", model, "assumed; the maker's curve goes before it");
            w.given("warmer than the air there", Kelvins(add_c), "place");
            Some(w.given("sum over the hours", KilowattHours(lost), "clear sky"))
        });
        let cables = self.cables(sheet, x);
        row.dc_loss_kwh = dc_loss.value();
        row.ac_loss_kwh = ac_loss.value();
        row.heat_loss_kwh = heat_loss.value();
        row.cable_cost = cables.value();
        let lost_kwh = row.lost_kwh();
        let total = sheet.figure(&TOTAL, |w| {
            let cable = w.take("cables", &cables)?;
            let lost = w.given("lost a year", KilowattHours(lost_kwh?), "the three above");
            let years = w.given("years", Ratio(self.job.rate("years")), COSTS);
            let price = w.given("a kWh", Cost(self.job.rate("kwh")), COSTS);
            Some(cable + years * lost.bare() * price)
        });
        row.total_cost = total.value();
    }

    fn cables(&self, sheet: &mut Sheet, x: &InverterPlace) -> Handle<Cost> {
        let pairs = 2.0 * self.job.strings.len() as f64;
        let cables = [
            ("DC", self.dc, x.dc_m, pairs),
            ("AC", self.ac, x.ac_m, if self.three_phase { 5.0 } else { 3.0 }),
        ];
        sheet.figure(&CABLE, |w| {
            let base = w.given("a metre", Cost(self.job.rate("cable_m")), COSTS);
            let copper = w.given("a metre and mm²", Cost(self.job.rate("cable_mm2_m")), COSTS);
            sum(cables.into_iter().map(|(name, wire, length, conductors)| {
                let section = section_mm2(self.job, wire);
                let label = format_args!("{name} section, mm²");
                let mm2 = w.need::<Ratio>(label, section, "wire", "plan");
                let label = format_args!("{name} length, m");
                let metres = w.need::<Ratio>(label, length, "places", "job");
                let a_metre = base.clone() + copper.clone() * mm2?;
                Some(w.step(name, exact::<Ratio>(conductors) * metres? * a_metre))
            }))
        })
    }
}

/// A²h x ohm are Wh.
fn kwh(sum: Traced<Ratio>, ohms: Traced<Ohms>) -> Traced<KilowattHours> {
    sum * (ohms / exact::<Ohms>(1.0)) * exact::<KilowattHours>(0.001)
}

fn recommended(rows: &[PlaceRow], best: usize) -> Option<String> {
    let first = &rows[best];
    let total = first.total_cost?;
    let second = rows
        .iter()
        .enumerate()
        .filter(|(i, _)| *i != best)
        .filter_map(|(_, r)| Some((r, r.total_cost?)))
        .min_by(|a, b| a.1.total_cmp(&b.1));
    let Some((second, other)) = second else {
        return Some(format!(
            "{}: the only place with all its numbers, {:.0} in cables and losses.",
            first.name, total
        ));
    };
    Some(format!(
        "{}: cables and losses come to {total:.0}, against {other:.0} for {}. It loses {} a clear \
            year (DC {}, AC {}, heat {}), {} there; its cables cost {:.0} against {:.0}.",
        first.name,
        second.name,
        said(first.lost_kwh()?, Unit::KWh),
        said(first.dc_loss_kwh?, Unit::KWh),
        said(first.ac_loss_kwh?, Unit::KWh),
        said(first.heat_loss_kwh?, Unit::KWh),
        said(second.lost_kwh()?, Unit::KWh),
        first.cable_cost?,
        second.cable_cost?,
    ))
}
