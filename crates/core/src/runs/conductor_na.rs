//! A North American conductor through its segments: terminals, heat and number, overcurrent device.

use serde::Deserialize;

use super::{AMBIENT, F_TEMP, I_DESIGN, I_MAX, OCPD, run_defs};
use crate::figure::{Bound, Sheet, Subject, Value, Verdict, said};
use crate::job::{CircuitKind, Insulation, Material, Method, Place};
use crate::quantity::{Amps, Celsius, Kelvins, Ratio, Unit, above, below};
use crate::school::School;
use crate::tables;
use crate::traced::exact;

run_defs! {
    /// Number factor of the worst segment.
    F_COUNT "circuit.f_count" "Factor for number" "310.15(C)(1)" "";
    /// Terminal column, without derating.
    TERMINAL "circuit.ampacity_terminal_a" "Amps at the terminals" "110.14(C), 310.16" "";
    /// Heat column times factors, worst segment.
    DERATED "circuit.ampacity_derated_a" "Amps after heat and number" "310.15, 310.16, 310.17" "";
    /// Lesser of the two.
    AMPACITY "circuit.ampacity_a" "Ampacity" "110.14(C), 310.15" "";
    /// Largest device the conductor may have.
    ALLOWED "circuit.ocpd_allowed_a" "Largest device allowed" "240.4(B), 240.4(D)" "";
    /// Smallest size that passes every check of the conductor.
    SIZE_MIN "circuit.size_min" "Smallest size that passes" "310.15, 110.14(C)" "";
}

/// Longest raceway that is a nipple, in: no factor for number, 60 % fill.
pub const NIPPLE_IN: f64 = 24.0;

/// Clearance from a sunlit roof from which on nothing is added, in (310.15(B)(2)).
const ROOF_CLEARANCE_IN: f64 = 7.0 / 8.0;

/// What a raceway on a sunlit roof adds to the ambient, K (310.15(B)(2)).
const ROOF_ADDER_C: f64 = 33.0;

/// Kind of a circuit that shares a raceway.
#[derive(Clone, Copy, Debug, Deserialize)]
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
#[derive(Clone, Copy, Debug, Deserialize)]
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
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SegmentNa {
    /// The place.
    pub place: Place,
    /// Added to the site's high ambient instead of the place's figure, K.
    pub ambient_add_c: Option<f64>,
    /// How the conductors lie.
    #[serde(default)]
    pub method: Method,
    /// Height above the roof, in.
    pub roof_clearance_in: Option<f64>,
    /// Length, in; absent: longer than a nipple.
    pub length_in: Option<f64>,
    /// Current-carrying conductors in the raceway or cable; 2 where absent.
    pub ccc_n: Option<u32>,
    /// The circuits that share it, this one too; wins over `ccc_n`.
    pub circuits: Option<Vec<Circuit>>,
}

/// One wire size through one or more segments.
#[derive(Clone, Debug, Deserialize)]
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
    /// Column of the heat check, °C; 90 where absent.
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

/// Figures and checks of a conductor.
pub fn conductor_na(sheet: &mut Sheet, x: &ConductorNa) {
    let i_max = i_max(sheet, x);
    let i_design = sheet.figure(&I_DESIGN, |w| {
        let i = w.need::<Amps>("i_max", i_max, "module.isc_a", "circuit.i_max_a")?;
        Some(exact::<Ratio>(1.25) * i)
    });
    if let Some(size) = &x.size {
        sized(sheet, x, size, i_max, i_design);
    }
    if x.pick_ocpd {
        sheet.figure(&OCPD, |w| {
            let i = w.need::<Amps>("i_design", i_design, "inverter.ac_a", "circuit.i_design_a")?;
            let next = tables::next_rating(School::Na.breakers(), i.value.0);
            if next.is_none() {
                w.note("No standard breaker of the table is large enough.");
            }
            next.map(|b| w.given("next standard breaker", Amps(b), "240.6(A)"))
        });
    }
    if x.find_smallest {
        let smallest = smallest(x);
        sheet.text(&SIZE_MIN, |w| {
            w.words(
                "tried",
                format!(
                    "every {} size from the smallest, each with all the checks above",
                    x.material.key()
                ),
                "310.16",
            );
            if smallest.is_none() {
                w.note("No size of the table passes.");
            }
            smallest.map(Value::Text)
        });
    }
}

fn i_max(sheet: &mut Sheet, x: &ConductorNa) -> Option<f64> {
    sheet.figure(&I_MAX, |w| {
        if x.kind.is_dc() {
            let p = w.given("p", Ratio(f64::from(x.p.unwrap_or(1))), "strings on this wire");
            let isc = w.need::<Amps>("Isc", x.isc_a, "module.isc_a", "module data sheet")?;
            let gain = w.given("gain", Ratio(x.bifacial_gain.unwrap_or(0.0)), "bifacial gain");
            Some(exact::<Ratio>(1.25) * p * isc * (exact::<Ratio>(1.0) + gain))
        } else {
            w.need::<Amps>("rated output", x.rated_a, "inverter.ac_a", "inverter data sheet")
        }
    })
}

fn derate(x: &ConductorNa, segment: &SegmentNa, size: &str, t_max: f64) -> Derated {
    let row = tables::place(segment.place.key()).expect("every place has its row");
    let near_roof = segment.place == Place::RoofSun
        && segment.method != Method::FreeAir
        && x.insulation != Insulation::Xhhw2
        && segment.roof_clearance_in.is_some_and(|c| below(c, ROOF_CLEARANCE_IN));
    let adder = if near_roof { ROOF_ADDER_C } else { 0.0 };
    let place_add = segment.ambient_add_c.unwrap_or(row.ambient_add_c);
    let ambient = t_max + place_add + adder;
    let insulation_c = x.insulation_c.unwrap_or(90);
    let nipple = segment.length_in.is_some_and(|l| !above(l, NIPPLE_IN));
    let ccc = match &segment.circuits {
        Some(circuits) => circuits.iter().map(|c| c.current_carrying()).sum(),
        None => segment.ccc_n.unwrap_or(2),
    };
    let free_air = segment.method == Method::FreeAir;
    let f_count = if free_air || nipple { 1.0 } else { tables::count_factor(ccc) };
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
    i_max: Option<f64>,
    i_design: Option<f64>,
) {
    let terminal_c = if x.insulation == Insulation::Nm { 60 } else { x.terminal_c.unwrap_or(75) };
    let row = tables::ampacity(size, x.material.key(), false);
    let terminal = sheet.figure(&TERMINAL, |w| {
        w.words("wire", format!("{size} AWG {}", x.material.key()), "job");
        w.need::<Amps>(
            "terminal column",
            row.and_then(|r| r.column(terminal_c)),
            "wire.awg",
            format!("Table 310.16, {terminal_c} °C"),
        )
    });
    sheet
        .hold(&TERMINAL, Bound::at_least(i_design, "design current", "module.isc_a"), Verdict::Fail)
        .reason(format!("{size} AWG is too small for its terminals."));

    let worst = x.t_max_c.and_then(|t| {
        let all: Vec<Derated> = x.segments.iter().map(|s| derate(x, s, size, t)).collect();
        all.into_iter().reduce(|a, b| if b.rank() < a.rank() { b } else { a })
    });
    let derated = heat(sheet, x, worst.as_ref());
    let known = worst.is_some();
    let check = sheet.hold(
        &DERATED,
        Bound::at_least(i_max, "largest current", "module.isc_a"),
        Verdict::Fail,
    );
    if derated.is_none() && known {
        check.verdict = Verdict::Fail;
        check.missing.clear();
        check.reason("Beyond the table: this wire is not allowed in that heat.");
    } else if let Some(margin) = check.margin {
        check.reason(format!("{} short in the worst segment.", said(-margin, Unit::A)));
    }
    let ampacity = sheet.figure(&AMPACITY, |w| {
        let a = w.need::<Amps>("terminals", terminal, "wire.awg", "circuit.ampacity_terminal_a");
        let b = if known {
            derated.map(|d| w.given("heat and number", Amps(d), "circuit.ampacity_derated_a"))
        } else {
            w.need::<Amps>("heat and number", None, "site.t_max_c", "")
        };
        Some(a?.min(b?))
    });
    if let Some(device) = x.ocpd_a {
        device_check(sheet, x, size, device, ampacity, i_design);
    }
}

fn heat(sheet: &mut Sheet, x: &ConductorNa, worst: Option<&Derated>) -> Option<f64> {
    let t_max = x.t_max_c;
    sheet.figure(&AMBIENT, |w| {
        let t = w.need::<Celsius>("t_max", t_max, "site.t_max_c", "site")?;
        let Some(d) = worst else {
            w.need::<Kelvins>("place", None, "run.segments", "");
            return None;
        };
        w.words("place", d.place, "job");
        let add = w.given("place adds", Kelvins(d.place_add), "places table or as entered");
        let sun = w.given("roof in the sun adds", Kelvins(d.adder), "310.15(B)(2)");
        Some(t + add + sun)
    });
    // Without ambient or segments there is no worst segment: every figure of the heat says which is
    // missing.
    let open = if t_max.is_none() { "site.t_max_c" } else { "run.segments" };
    sheet.figure(&F_TEMP, |w| {
        let Some(d) = worst else {
            w.need::<Ratio>("heat", None, open, "");
            return None;
        };
        w.given("ambient", Celsius(d.ambient), "circuit.ambient_c");
        let column = x.insulation_c.unwrap_or(90);
        if d.f_temp.is_none() {
            w.note("Past the end of the table: not allowed.");
        }
        d.f_temp.map(|f| {
            w.given("factor for heat", Ratio(f), format!("Table 310.15(B)(1)(1), {column} °C"))
        })
    });
    sheet.figure(&F_COUNT, |w| {
        let Some(d) = worst else {
            w.need::<Ratio>("number", None, open, "");
            return None;
        };
        w.given("current-carrying conductors", Ratio(f64::from(d.ccc)), "raceway");
        Some(w.given("factor for number", Ratio(d.f_count), "Table 310.15(C)(1)"))
    });
    sheet.figure(&DERATED, |w| {
        let Some(d) = worst else {
            w.need::<Amps>("heat", None, open, "");
            return None;
        };
        w.words("worst segment", d.place, "job");
        let column = d.column.map(|a| {
            w.given("heat column", Amps(a), format!("{} °C", x.insulation_c.unwrap_or(90)))
        });
        let f_temp = d.f_temp.map(|f| w.given("f_temp", Ratio(f), "circuit.f_temp"));
        let f_count = w.given("f_count", Ratio(d.f_count), "circuit.f_count");
        if column.is_none() || f_temp.is_none() {
            w.note("Past the end of the table: not allowed.");
        }
        Some(column? * f_temp? * f_count)
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

fn device_check(
    sheet: &mut Sheet,
    x: &ConductorNa,
    size: &str,
    device: f64,
    ampacity: Option<f64>,
    i_design: Option<f64>,
) {
    let allowed = sheet.figure(&ALLOWED, |w| {
        let a = w.given("ampacity", Amps(ampacity?), "circuit.ampacity_a");
        let next = tables::next_rating(School::Na.breakers(), a.value.0);
        let next = next.map_or(a, |b| w.given("next standard breaker", Amps(b), "240.4(B)"));
        Some(match small_conductor_cap(size, x.material) {
            Some(cap) => next.min(w.given("small conductor", Amps(cap), "240.4(D)")),
            None => next,
        })
    });
    let too_small = i_design.is_some_and(|i| below(device, i));
    let verdict = match (allowed, i_design) {
        (None, _) if x.t_max_c.is_some() => Verdict::Fail,
        (Some(a), _) if above(device, a) => Verdict::Fail,
        _ if too_small => Verdict::Fail,
        (Some(_), Some(_)) => Verdict::Pass,
        _ => Verdict::Unknown,
    };
    let reason = match allowed {
        None => "The conductor is not allowed in that heat, so no device protects it.".to_owned(),
        Some(a) if above(device, a) => format!(
            "{} is above the {} this conductor may have.",
            said(device, Unit::A),
            said(a, Unit::A)
        ),
        Some(_) => format!(
            "{} is below the design current, {}: it trips in full sun.",
            said(device, Unit::A),
            said(i_design.unwrap_or(0.0), Unit::A)
        ),
    };
    let check = sheet.judge(&OCPD, verdict);
    check.unit = Unit::A;
    if verdict == Verdict::Unknown {
        check.missing =
            vec![if x.t_max_c.is_none() { "site.t_max_c" } else { "inverter.ac_a" }.to_owned()];
    }
    check.reason(reason);
}

/// The smallest size of the material for which every check passes.
fn smallest(x: &ConductorNa) -> Option<String> {
    let free_air = x.segments.iter().any(|s| s.method == Method::FreeAir);
    let sizes = tables::AMPACITY.iter().filter(|r| r.material == x.material.key());
    sizes.filter(|r| !free_air || tables::ampacity(&r.size, &r.material, true).is_some()).find_map(
        |r| {
            let trial = ConductorNa {
                size: Some(r.size.clone()),
                find_smallest: false,
                pick_ocpd: false,
                ..x.clone()
            };
            let mut sheet =
                Sheet::new(School::Na, Subject::new(crate::figure::SubjectKind::Circuit, ""));
            conductor_na(&mut sheet, &trial);
            sheet.checks.iter().all(|c| c.verdict == Verdict::Pass).then(|| r.size.clone())
        },
    )
}
