//! A North American conductor through its segments: terminals, heat and number, overcurrent device.

use serde::Deserialize;

use super::{AMBIENT, DEVICE, F_TEMP, I_DESIGN, I_MAX, INSTALLED, OCPD, SIZE_MIN};
use crate::figure::{Bound, Field, Handle, Recording, Sheet, Subject, Value, Verdict, said};
use crate::figures;
use crate::job::{CircuitKind, Insulation, Material, Method, Place};
use crate::quantity::{Amps, Celsius, Kelvins, Ratio, Unit, above, below};
use crate::school::School;
use crate::tables;
use crate::traced::exact;

figures! { Runs;
    /// Number factor of the worst segment.
    F_COUNT: Ratio = "circuit.f_count", "Factor for number", na "310.15(C)(1)";
    /// Terminal column, without derating.
    TERMINAL: Amps = "circuit.ampacity_terminal_a", "Amps at the terminals", na "110.14(C), 310.16";
    /// Heat column times factors, worst segment.
    DERATED: Amps = "circuit.ampacity_derated_a",
        "Amps after heat and number", na "310.15, 310.16, 310.17";
    /// Lesser of the two.
    AMPACITY: Amps = "circuit.ampacity_a", "Ampacity", na "110.14(C), 310.15";
    /// Largest device the conductor may have.
    ALLOWED: Amps = "circuit.ocpd_allowed_a", "Largest device allowed", na "240.4(B), 240.4(D)";
}

/// Longest raceway that is a nipple, in: no factor for number, 60 % fill.
pub const NIPPLE_IN: f64 = 24.0;

/// Clearance from a sunlit roof from which on nothing is added, in (310.15(B)(2)).
const ROOF_CLEARANCE_IN: f64 = 7.0 / 8.0;

/// What a raceway on a sunlit roof adds to the ambient, K (310.15(B)(2)).
const ROOF_ADDER_C: f64 = 33.0;

/// Kind of a circuit that shares a raceway.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum SharedCircuit {
    /// A DC pair.
    Dc,
    /// Two conductors of one phase; line and neutral or line and line.
    SinglePhase,
    /// 120/240 V.
    SplitPhase,
    /// Two lines of 208Y/120.
    #[serde(rename = "two_of_208y")]
    TwoOf208y,
    /// Three phases.
    ThreePhase,
}

/// A circuit that shares a raceway.
#[derive(Clone, Copy, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Circuit {
    /// Its kind.
    pub kind: SharedCircuit,
    /// It has a neutral.
    #[serde(default)]
    pub neutral: bool,
    /// The neutral only measures.
    #[serde(default)]
    pub neutral_sense_only: bool,
    /// The loads are not linear.
    #[serde(default)]
    pub neutral_nonlinear: bool,
}

impl Circuit {
    /// Current-carrying conductors (310.15(E)).
    pub fn current_carrying(self) -> u32 {
        match self.kind {
            SharedCircuit::Dc | SharedCircuit::SinglePhase | SharedCircuit::SplitPhase => 2,
            SharedCircuit::TwoOf208y => 2 + u32::from(self.neutral && !self.neutral_sense_only),
            SharedCircuit::ThreePhase => 3 + u32::from(self.neutral && self.neutral_nonlinear),
        }
    }
}

/// A segment of the way.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SegmentNa {
    /// The place.
    pub place: Place,
    /// Added to the site's high ambient instead of the place's figure, K.
    pub ambient_add_c: Option<f64>,
    /// How the conductors lie.
    #[serde(default)]
    pub method: Method,
    /// Height above the roof, in; absent: judged with and without what a low one adds.
    pub roof_clearance_in: Option<f64>,
    /// Length of the whole raceway or bundle, in; absent: longer than a nipple.
    pub length_in: Option<f64>,
    /// Current-carrying conductors in the raceway or cable; 2 where absent.
    pub ccc_n: Option<u32>,
    /// The circuits that share it, this one too; wins over `ccc_n`.
    pub circuits: Option<Vec<Circuit>>,
}

/// One wire size through one or more segments.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ConductorNa {
    /// What it carries.
    pub kind: CircuitKind,
    /// Isc of a module, A (dc).
    pub isc_a: Option<f64>,
    /// Strings carried by this wire.
    pub p: Option<u32>,
    /// Bifacial gain.
    pub bifacial_gain: Option<f64>,
    /// Rated output, A (ac).
    pub rated_a: Option<f64>,
    /// Metal.
    #[serde(default)]
    pub material: Material,
    /// Insulation.
    pub insulation: Insulation,
    /// Column of the heat check, °C; that of the insulation where absent.
    pub insulation_c: Option<u32>,
    /// Column of the terminal check, °C; 75 where absent.
    pub terminal_c: Option<u32>,
    /// The wire.
    pub size: Option<String>,
    /// Site's high ambient, °C.
    pub t_max_c: Option<f64>,
    /// The way.
    pub segments: Vec<SegmentNa>,
    /// Device that protects it, A.
    pub ocpd_a: Option<f64>,
    /// Also give the next standard device.
    #[serde(default)]
    pub pick_ocpd: bool,
    /// Also give the smallest size that passes.
    #[serde(default)]
    pub find_smallest: bool,
    /// Rated output of the optimizers that feed it, A; it takes the place of the module's Isc.
    #[serde(skip)]
    pub optimizer_a: Option<Option<f64>>,
    /// The smallest size, where a circuit like this one was asked for it before.
    #[serde(skip)]
    pub smallest: Option<Option<String>>,
}

/// What one segment leaves of a conductor.
struct Derated {
    place: &'static str,
    ambient: f64,
    adder: f64,
    place_add: f64,
    f_temp: Option<f64>,
    ccc: u32,
    f_count: f64,
    column: Option<f64>,
}

impl Derated {
    /// Amps for comparing segments; the figure itself is computed with its working.
    fn rank(&self) -> f64 {
        match (self.f_temp, self.column) {
            (Some(f), Some(a)) => a * f * self.f_count,
            _ => f64::NEG_INFINITY,
        }
    }
}

/// Figures and checks of a conductor; gives the smallest size that passes, where it is asked for.
pub fn conductor_na(sheet: &mut Sheet, x: &ConductorNa) -> Option<String> {
    let i_max = i_max(sheet, x);
    let i_design = sheet.figure(&I_DESIGN, |w| {
        let i = w.take("i_max", &i_max)?;
        Some(exact::<Ratio>(1.25) * i)
    });
    if let Some(size) = &x.size {
        let from = sheet.checks.len();
        sized(sheet, x, size, &i_max, &i_design);
        if let Some(high) = x.above_the_roof() {
            let mut better = sheet.trial();
            sized(&mut better, &high, size, &i_max, &i_design);
            sheet.open_between(from, &better, "segment.roof_clearance_mm");
        }
    }
    if x.pick_ocpd {
        sheet.figure(&OCPD, |w| {
            let i = w.take("i_design", &i_design)?;
            let next = tables::next_rating(School::Na.breakers(), i.value.0);
            if next.is_none() {
                w.note("No standard breaker of the table is large enough.");
            }
            next.map(|b| w.given("next standard breaker", Amps(b), "240.6(A)"))
        });
    }
    if !x.find_smallest {
        return None;
    }
    let smallest = x.smallest.clone().unwrap_or_else(|| smallest(x));
    sheet.size(&SIZE_MIN, Unit::None, |w| {
        let every = format_args!("every {} size from the smallest", x.material.key());
        w.words("tried", format_args!("{every}, each with all the checks above"), "310.16");
        w.take("i_max", &i_max)?;
        w.need::<Celsius>("t_max", x.t_max_c, "site.t_max_c", "site")?;
        if x.segments.is_empty() {
            w.lack("run.segments");
            return None;
        }
        if smallest.is_none() {
            w.note("No size of the table passes.");
        }
        smallest.clone().map(Value::Text)
    });
    smallest
}

fn i_max(sheet: &mut Sheet, x: &ConductorNa) -> Handle<Amps> {
    sheet.figure(&I_MAX, |w| {
        if let Some(rated) = x.optimizer_a {
            let of_sheet = "optimizer data sheet";
            w.need("rated output", rated, "optimizer.out_a_max_a", of_sheet)
        } else if x.kind.is_dc() {
            let p = w.given("p", Ratio(f64::from(x.p.unwrap_or(1))), "strings on this wire");
            let isc = w.need::<Amps>("Isc", x.isc_a, "module.isc_a", "module data sheet")?;
            let gain = w.given("gain", Ratio(x.bifacial_gain.unwrap_or(0.0)), "bifacial gain");
            Some(exact::<Ratio>(1.25) * p * isc * (exact::<Ratio>(1.0) + gain))
        } else {
            w.need("rated output", x.rated_a, "inverter.ac_a", "inverter data sheet")
        }
    })
}

impl ConductorNa {
    /// Column of the heat check, °C.
    fn heat_column(&self) -> u32 {
        self.insulation_c.unwrap_or(if self.insulation == Insulation::Thwn { 75 } else { 90 })
    }

    /// Whether the height above the roof counts in a segment (310.15(B)(2)).
    fn feels_the_roof(&self, segment: &SegmentNa) -> bool {
        segment.place == Place::RoofSun
            && segment.method != Method::FreeAir
            && self.insulation != Insulation::Xhhw2
    }

    /// The same with every clearance nobody entered at its better end; none where none is open.
    fn above_the_roof(&self) -> Option<ConductorNa> {
        let mut high = self.clone();
        let mut any = false;
        for segment in &mut high.segments {
            if self.feels_the_roof(segment) && segment.roof_clearance_in.is_none() {
                segment.roof_clearance_in = Some(ROOF_CLEARANCE_IN);
                any = true;
            }
        }
        any.then_some(high)
    }
}

fn derate(x: &ConductorNa, segment: &SegmentNa, size: &str, t_max: f64) -> Derated {
    let row = tables::place(segment.place.key()).expect("every place has its row");
    // A clearance nobody entered is taken at its worse end.
    let near_roof = x.feels_the_roof(segment)
        && segment.roof_clearance_in.is_none_or(|c| below(c, ROOF_CLEARANCE_IN));
    let adder = if near_roof { ROOF_ADDER_C } else { 0.0 };
    let place_add = segment.ambient_add_c.unwrap_or(row.ambient_add_c);
    let ambient = t_max + place_add + adder;
    let insulation_c = x.heat_column();
    let nipple = segment.length_in.is_some_and(|l| !above(l, NIPPLE_IN));
    let ccc = match &segment.circuits {
        Some(circuits) => circuits.iter().map(|c| c.current_carrying()).sum(),
        None => segment.ccc_n.unwrap_or(2),
    };
    let free_air = segment.method == Method::FreeAir;
    // A bundle in free air is hot inside as well (310.15(C)(1)).
    let f_count = if nipple { 1.0 } else { tables::count_factor(ccc) };
    Derated {
        place: row.title.as_str(),
        ambient,
        adder,
        place_add,
        f_temp: tables::temperature_factor(ambient, insulation_c),
        ccc,
        f_count,
        column: tables::ampacity(size, x.material.key(), free_air)
            .and_then(|r| r.column(insulation_c)),
    }
}

fn sized(
    sheet: &mut Sheet,
    x: &ConductorNa,
    size: &str,
    i_max: &Handle<Amps>,
    i_design: &Handle<Amps>,
) {
    let terminal_c = if x.insulation == Insulation::Nm { 60 } else { x.terminal_c.unwrap_or(75) };
    let row = tables::ampacity(size, x.material.key(), false);
    let terminal = sheet.figure(&TERMINAL, |w| {
        w.words("wire", format_args!("{size} AWG {}", x.material.key()), "job");
        let column = row.and_then(|r| r.column(terminal_c));
        let source = format_args!("Table 310.16, {terminal_c} °C");
        w.need("terminal column", column, "wire.awg", source)
    });
    sheet
        .hold(&terminal, Bound::at_least(i_design, "design current"), Verdict::Fail)
        .reason(format_args!("{size} AWG is too small for its terminals."));

    let worst = x.t_max_c.and_then(|t| {
        let all = x.segments.iter().map(|s| derate(x, s, size, t));
        all.reduce(|a, b| if b.rank() < a.rank() { b } else { a })
    });
    let derated = heat(sheet, x, worst.as_ref());
    let check = sheet.hold(&derated, Bound::at_least(i_max, "largest current"), Verdict::Fail);
    if derated.value().is_none() && worst.is_some() {
        check.verdict = Verdict::Fail;
        check.missing.clear();
        check.reason("Beyond the table: this wire is not allowed in that heat.");
    } else {
        check.beyond(|short| format!("{short} short in the worst segment."));
    }
    let ampacity = sheet.figure(&AMPACITY, |w| {
        let a = w.take("terminals", &terminal);
        let b = w.take("heat and number", &derated);
        Some(a?.min(b?))
    });
    if let Some(device) = x.ocpd_a {
        device_check(sheet, x, size, device, (&terminal, &ampacity), i_design);
    }
}

/// The worst segment's heat. Without ambient or segments there is none: every figure of the heat
/// says which is missing.
fn heat(sheet: &mut Sheet, x: &ConductorNa, worst: Option<&Derated>) -> Handle<Amps> {
    let open: Field = if x.t_max_c.is_none() { "site.t_max_c" } else { "run.segments" };
    let column = x.heat_column();
    let beyond = "Past the end of the table: not allowed.";
    sheet.figure(&AMBIENT, |w| {
        let t = w.need::<Celsius>("t_max", x.t_max_c, "site.t_max_c", "site")?;
        let Some(d) = worst else {
            w.lack("run.segments");
            return None;
        };
        w.words("place", d.place, "job");
        let add = w.given("place adds", Kelvins(d.place_add), "places table or as entered");
        let sun = w.given("roof in the sun adds", Kelvins(d.adder), "310.15(B)(2)");
        Some(t + add + sun)
    });
    let f_temp = sheet.figure(&F_TEMP, |w| {
        let Some(d) = worst else {
            w.lack(open);
            return None;
        };
        w.given("ambient", Celsius(d.ambient), "circuit.ambient_c");
        if d.f_temp.is_none() {
            w.note(beyond);
        }
        let source = format_args!("Table 310.15(B)(1)(1), {column} °C");
        d.f_temp.map(|f| w.given("factor for heat", Ratio(f), source))
    });
    let f_count = sheet.figure(&F_COUNT, |w| {
        let Some(d) = worst else {
            w.lack(open);
            return None;
        };
        w.given("current-carrying conductors", Ratio(f64::from(d.ccc)), "raceway");
        Some(w.given("factor for number", Ratio(d.f_count), "Table 310.15(C)(1)"))
    });
    sheet.figure(&DERATED, |w| {
        let Some(d) = worst else {
            w.lack(open);
            return None;
        };
        w.words("worst segment", d.place, "job");
        let heat = d.column.map(|a| w.given("heat column", Amps(a), format_args!("{column} °C")));
        let f_temp = w.take("f_temp", &f_temp);
        let f_count = w.take("f_count", &f_count);
        if heat.is_none() || f_temp.is_none() {
            w.note(beyond);
        }
        Some(heat? * f_temp? * f_count?)
    })
}

/// Copper 14, 12, 10 not above 15, 20, 30 A; aluminium 12, 10 not above 15, 25 A (240.4(D)).
fn small_conductor_cap(size: &str, material: Material) -> Option<f64> {
    match (material, size) {
        (Material::Cu, "14") => Some(15.0),
        (Material::Cu, "12") => Some(20.0),
        (Material::Cu, "10") => Some(30.0),
        (Material::Al, "12") => Some(15.0),
        (Material::Al, "10") => Some(25.0),
        _ => None,
    }
}

/// The largest device a conductor of this ampacity may have: the next standard one (240.4(B)), and
/// for small conductors what 240.4(D) allows.
fn largest_device(size: &str, material: Material, ampacity: f64) -> f64 {
    let next = tables::next_rating(School::Na.breakers(), ampacity).unwrap_or(ampacity);
    small_conductor_cap(size, material).map_or(next, |cap| next.min(cap))
}

/// The device that is planned, against what the conductor may have and what the circuit carries.
/// Where the heat is not known yet the terminals say what it may have at most.
fn device_check(
    sheet: &mut Sheet,
    x: &ConductorNa,
    size: &str,
    device: f64,
    (terminal, ampacity): (&Handle<Amps>, &Handle<Amps>),
    i_design: &Handle<Amps>,
) {
    let allowed = sheet.figure(&ALLOWED, |w| {
        let a = w.take("ampacity", ampacity)?;
        let next = tables::next_rating(School::Na.breakers(), a.value.0);
        let next = next.map_or(a, |b| w.given("next standard breaker", Amps(b), "240.4(B)"));
        Some(match small_conductor_cap(size, x.material) {
            Some(cap) => next.min(w.given("small conductor", Amps(cap), "240.4(D)")),
            None => next,
        })
    });
    sheet.figure(&DEVICE, |w| Some(w.given("device", Amps(device), "job")));
    let too_small = i_design.value().is_some_and(|i| below(device, i));
    let heat_open = !ampacity.missing().is_empty();
    let at_best = terminal.value().map(|t| largest_device(size, x.material, t));
    let most = allowed.value().or(at_best.filter(|_| heat_open));
    let over = most.is_some_and(|a| above(device, a));
    let verdict = match (allowed.value(), i_design.value()) {
        (None, _) if !heat_open => Verdict::Fail,
        _ if over || too_small => Verdict::Fail,
        (Some(_), Some(_)) => Verdict::Pass,
        _ => Verdict::Unknown,
    };
    let check = sheet.judge(&INSTALLED, verdict);
    check.figure = DEVICE.id;
    check.unit = Unit::A;
    check.misses(allowed.missing().iter().chain(i_design.missing()).copied());
    let device = said(device, Unit::A);
    match most {
        Some(a) if over => check.reason(format_args!(
            "{device} is above the {} this conductor may have.",
            said(a, Unit::A)
        )),
        _ if too_small => check.reason(format_args!(
            "{device} is below the design current, {}: it trips in full sun.",
            said(i_design.value().unwrap_or(0.0), Unit::A)
        )),
        _ if heat_open => check.reason("What heat leaves of the conductor is not known yet."),
        _ => check.reason("The conductor is not allowed in that heat, so no device protects it."),
    };
}

/// The smallest size of the material for which every check passes.
fn smallest(x: &ConductorNa) -> Option<String> {
    let material = x.material.key();
    let free_air = x.segments.iter().any(|s| s.method == Method::FreeAir);
    let sizes = tables::AMPACITY.iter().filter(|r| r.material == material);
    let usable = |size: &str| !free_air || tables::ampacity(size, material, true).is_some();
    let mut trial = ConductorNa { find_smallest: false, pick_ocpd: false, ..x.clone() };
    sizes.map(|r| &r.size).filter(|size| usable(size)).find_map(|size| {
        trial.size = Some(size.clone());
        let mut sheet = Sheet::with(School::Na, Subject::Sum, Recording::Nothing);
        conductor_na(&mut sheet, &trial);
        sheet.holds().then(|| size.clone())
    })
}
