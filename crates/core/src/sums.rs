//! Quick sums: the calculations without a job, for the counter and the phone. A calculation appears
//! on the screen and on the command line by being declared in [`ALL`].

use serde::Serialize;
use serde_json::{Map, Value as Json, json};
use utoipa::ToSchema;

use crate::cases;
use crate::figure::{Check, Figure, Sheet, Value, Verdict};
use crate::job::{Face, Job, JobFile, JobInverter, JobString, Problem};
use crate::library::{InverterSheet, Library, ModuleSheet};
use crate::schema::did_you_mean;
use crate::school::School;
use crate::tables;

/// What an input is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum InputKind {
    /// A number in the input's unit.
    Number,
    /// A whole number.
    Count,
    /// One of the options.
    Choice,
    /// A size or a name.
    Text,
    /// Yes or no.
    Flag,
}

/// An input of a sum.
#[derive(Clone, Copy, Debug, Serialize, ToSchema)]
pub struct Input {
    /// Its key; dots for what belongs together, `wires.0.n` for the first of several.
    pub key: &'static str,
    /// Plain title.
    pub title: &'static str,
    /// Unit; empty for none.
    pub unit: &'static str,
    /// What it is.
    pub kind: InputKind,
    /// What may be chosen.
    pub options: &'static [&'static str],
    /// What stands there to begin with, as JSON; made up, to be typed over.
    pub sample: &'static str,
    /// It may be left out.
    pub optional: bool,
}

/// A calculation that stands alone.
#[derive(Clone, Copy, Debug, Serialize, ToSchema)]
pub struct Sum {
    /// Its name on the command line.
    pub name: &'static str,
    /// Plain title.
    pub title: &'static str,
    /// One line on what it answers.
    pub about: &'static str,
    /// The school it is of.
    pub school: School,
    /// Its inputs, in the order they are asked.
    pub inputs: &'static [Input],
    /// The figures that answer it, the foremost first.
    pub answers: &'static [&'static str],
    /// The calculation behind it.
    #[serde(skip)]
    group: &'static str,
    /// Looks for the smallest section where none is given.
    #[serde(skip)]
    smallest: Option<&'static str>,
}

/// A sum that was done: inputs, figures with their working, verdicts.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Slip {
    /// Name of the sum.
    pub name: &'static str,
    /// Its title.
    pub title: &'static str,
    /// School of practice.
    pub school: School,
    /// The inputs as they were taken.
    #[schema(value_type = Object)]
    pub inputs: Map<String, Json>,
    /// The figures that answer it.
    pub answers: Vec<Figure>,
    /// Every figure.
    pub figures: Vec<Figure>,
    /// Every check.
    pub checks: Vec<Check>,
    /// The slip as plain text, to be copied.
    pub text: String,
}

const fn number(
    key: &'static str,
    title: &'static str,
    unit: &'static str,
    sample: &'static str,
) -> Input {
    Input { key, title, unit, kind: InputKind::Number, options: &[], sample, optional: false }
}

const fn count(key: &'static str, title: &'static str, sample: &'static str) -> Input {
    Input { key, title, unit: "", kind: InputKind::Count, options: &[], sample, optional: false }
}

const fn choice(
    key: &'static str,
    title: &'static str,
    options: &'static [&'static str],
    sample: &'static str,
) -> Input {
    Input { key, title, unit: "", kind: InputKind::Choice, options, sample, optional: false }
}

const fn text(
    key: &'static str,
    title: &'static str,
    unit: &'static str,
    sample: &'static str,
) -> Input {
    Input { key, title, unit, kind: InputKind::Text, options: &[], sample, optional: false }
}

const fn flag(key: &'static str, title: &'static str) -> Input {
    Input {
        key,
        title,
        unit: "",
        kind: InputKind::Flag,
        options: &[],
        sample: "false",
        optional: true,
    }
}

const fn optional(input: Input) -> Input {
    Input { optional: true, ..input }
}

const MOUNTINGS: &[&str] = &["flush", "raised", "ground"];
const KINDS: &[&str] = &["pv_string", "pv_output", "inverter_out", "micro_branch", "ac_feeder"];
const PLACES: &[&str] = &[
    "under_modules",
    "roof_sun",
    "roof_shade",
    "attic",
    "inside",
    "cavity",
    "garage",
    "outside_wall_sun",
    "outside_wall_shade",
    "sheltered",
    "underground",
];

const VOC: Input = number("module.voc_v", "Module Voc", "V", "39.4");
const B_VOC: Input = number("module.b_voc_pct_c", "Coefficient of Voc", "%/°C", "-0.26");
const IN_SERIES: Input = count("n", "Modules in series", "12");

const WINDOW: [Input; 19] = [
    IN_SERIES,
    count("p", "Strings in parallel", "1"),
    VOC,
    number("module.vmp_v", "Module Vmp", "V", "33.0"),
    number("module.isc_a", "Module Isc", "A", "13.85"),
    number("module.imp_a", "Module Imp", "A", "13.05"),
    number("module.pmax_w", "Module Pmax", "W", "430"),
    B_VOC,
    number("module.g_pmax_pct_c", "Coefficient of Pmax", "%/°C", "-0.30"),
    number("module.max_system_v", "Module system voltage", "V", "1000"),
    number("inverter.vdc_max_v", "Inverter: largest DC volts", "V", "600"),
    optional(number("inverter.start_v", "Inverter: start volts", "V", "110")),
    number("inverter.mppt_min_v", "Inverter: tracking from", "V", "90"),
    number("inverter.mppt_max_v", "Inverter: tracking up to", "V", "560"),
    optional(number(
        "inverter.mppt_isc_max_a",
        "Inverter: short-circuit amps of an input",
        "A",
        "30",
    )),
    number("site.t_min_c", "Coldest morning", "°C", "-24"),
    number("site.t_max_c", "Hottest air", "°C", "33"),
    choice("site.mounting", "Mounted", MOUNTINGS, "\"flush\""),
    number("site.dc_ceiling_v", "DC ceiling of the building", "V", "600"),
];
const WINDOW_ANSWERS: &[&str] =
    &["string.n_max", "string.n_min", "string.voc_cold_v", "string.vmp_hot_v"];

const EXPECTED: [Input; 9] = [
    IN_SERIES,
    VOC,
    B_VOC,
    number("module.isc_a", "Module Isc", "A", "13.85"),
    optional(number("module.a_isc_pct_c", "Coefficient of Isc", "%/°C", "0.045")),
    optional(count("module.cells_series_n", "Cells in series", "54")),
    number("irradiance_w_m2", "Light on the modules", "W/m²", "800"),
    number("back_c", "Back of a module", "°C", "40"),
    optional(number("measured_voc_v", "Volts read", "V", "")),
];
const EXPECTED_ANSWERS: &[&str] = &["test.voc_expected_v", "test.isc_expected_a", "test.t_cell_c"];

const WIRE_NA: [Input; 10] = [
    choice("kind", "Circuit", KINDS, "\"pv_string\""),
    optional(number("isc_a", "Module Isc (pv)", "A", "13.85")),
    optional(count("p", "Strings on this wire (pv)", "1")),
    optional(number("rated_a", "Rated output (ac)", "A", "")),
    choice(
        "insulation",
        "Insulation",
        &["THWN-2", "XHHW-2", "USE-2", "THWN", "THHN", "PV", "NM"],
        "\"THWN-2\"",
    ),
    choice("material", "Metal", &["cu", "al"], "\"cu\""),
    number("t_max_c", "Hottest air", "°C", "33"),
    choice("segments.0.place", "Hottest place on the way", PLACES, "\"attic\""),
    count("segments.0.ccc_n", "Conductors that carry current there", "2"),
    optional(text("size", "Size to check; the smallest is found besides", "AWG", "\"\"")),
];
const WIRE_NA_ANSWERS: &[&str] = &["circuit.size_min", "circuit.i_design_a", "circuit.ampacity_a"];

const WIRE_IEC: [Input; 9] = [
    choice("kind", "Circuit", KINDS, "\"inverter_out\""),
    optional(number("isc_a", "Module Isc (pv)", "A", "")),
    optional(count("p", "Strings in parallel (pv)", "")),
    optional(number("rated_a", "Rated output (ac)", "A", "26.1")),
    optional(number("device_a", "Fuse or breaker", "A", "32")),
    choice("cable", "Cable", &["solar", "pvc70", "xlpe90"], "\"pvc70\""),
    choice(
        "install",
        "How it lies",
        &["free_air", "on_surface", "two_touching", "method_b", "method_c"],
        "\"method_b\"",
    ),
    number("ambient_c", "Hottest there", "°C", "30"),
    optional(number("mm2", "Section to check; else the smallest is found", "mm²", "")),
];
const WIRE_IEC_ANSWERS: &[&str] = &["circuit.size_min", "circuit.iz_a", "circuit.need_a"];

const FILL_NA: [Input; 10] = [
    choice("kind", "Raceway", &["emt", "rmc", "imc", "pvc40", "pvc80", "fmc", "lfmc"], "\"emt\""),
    optional(text("trade", "Trade size to check", "", "\"3/4\"")),
    choice("wires.0.kind", "Wires", &["thhn", "xhhw", "pv"], "\"thhn\""),
    text("wires.0.size", "Size", "AWG", "\"10\""),
    count("wires.0.n", "How many", "4"),
    optional(choice("wires.1.kind", "Earth wire", &["thhn", "xhhw"], "\"thhn\"")),
    optional(text("wires.1.size", "Size of the earth wire", "AWG", "\"10\"")),
    optional(count("wires.1.n", "How many earth wires", "1")),
    optional(number("length_in", "Length, where it is a nipple", "in", "")),
    optional(number("jam_od_in", "Diameter of one of three like cables", "in", "")),
];
const FILL_IEC: [Input; 9] = [
    choice("kind", "Conduit", &["medium", "heavy"], "\"medium\""),
    optional(number("size_mm", "Size to check", "mm", "20")),
    choice("wires.0.kind", "Cables", &["solar", "pvc70", "xlpe90"], "\"solar\""),
    number("wires.0.mm2", "Section", "mm²", "6"),
    count("wires.0.n", "How many", "4"),
    optional(choice("wires.1.kind", "Protective conductor", &["pvc70", "xlpe90"], "\"pvc70\"")),
    optional(number("wires.1.mm2", "Its section", "mm²", "6")),
    optional(count("wires.1.n", "How many", "1")),
    optional(number("limit_pct", "Space factor", "%", "40")),
];
const FILL_ANSWERS: &[&str] = &["raceway.size", "raceway.fill_pct", "raceway.limit_pct"];

const VDROP_NA: [Input; 7] = [
    text("awg", "Size", "AWG", "\"10\""),
    choice("material", "Metal", &["cu", "al"], "\"cu\""),
    number("length_ft", "One way", "ft", "88"),
    number("amps_a", "Amps", "A", "13.05"),
    number("volts_v", "Volts", "V", "396"),
    flag("three_phase", "Three-phase"),
    number("limit_pct", "Limit", "%", "2"),
];
const VDROP_IEC: [Input; 7] = [
    number("mm2", "Section", "mm²", "6"),
    choice("cable", "Cable", &["solar", "pvc70", "xlpe90"], "\"solar\""),
    number("length_m", "One way", "m", "24"),
    number("amps_a", "Amps", "A", "13.26"),
    number("volts_v", "Volts", "V", "464.8"),
    flag("three_phase", "Three-phase"),
    number("limit_pct", "Limit", "%", "3"),
];
const VDROP_ANSWERS: &[&str] = &["circuit.vdrop_pct", "circuit.vdrop_v", "circuit.loss_w"];

const AC_NA: [Input; 4] = [
    optional(number("rated_a", "Rated output", "A", "33.3")),
    optional(number("watts_w", "or rated watts", "W", "")),
    optional(number("volts_v", "at volts", "V", "")),
    optional(number("maker_max_ocpd_a", "Largest device the maker allows", "A", "50")),
];
const AC_IEC: [Input; 7] = [
    optional(number("rated_a", "Rated output", "A", "26.1")),
    optional(number("watts_w", "or rated watts", "W", "")),
    optional(number("volts_v", "at volts", "V", "")),
    optional(number("maker_max_ocpd_a", "Largest device the maker allows", "A", "40")),
    optional(choice("curve", "Trip curve", &["B", "C", "D"], "\"B\"")),
    optional(number("u0_v", "Volts to earth", "V", "230")),
    optional(number("zs_ohm", "Loop impedance read", "ohm", "")),
];
const AC_ANSWERS: &[&str] = &["ac.ocpd_a", "ac.i_out_a", "circuit.zs_max_ohm"];

const FUSE: [Input; 3] = [
    number("module.isc_a", "Module Isc", "A", "13.85"),
    number("module.series_fuse_a", "Module series fuse rating", "A", "25"),
    count("p", "Strings in parallel", "3"),
];
const FUSE_ANSWERS: &[&str] = &["string.fuse_needed", "string.fuse_a", "string.fuse_fault_a"];

const PANEL: [Input; 6] = [
    number("bus_a", "Busbar", "A", "200"),
    number("main_a", "Main breaker", "A", "150"),
    number("inverter_a", "Inverter output", "A", "33.3"),
    number("load_breakers_a.0", "Load breakers, all together", "A", "180"),
    optional(number("pv_breaker_a", "PV breaker", "A", "45")),
    flag("pv_at_far_end", "PV breaker at the far end"),
];
const PANEL_ANSWERS: &[&str] = &["panel.far_end_120_a", "panel.bus_125_a", "panel.smaller_main_a"];

const BRANCH: [Input; 6] = [
    number("unit_a", "One unit", "A", "1.31"),
    number("volts_v", "Volts", "V", "240"),
    number("breaker_a", "Breaker", "A", "20"),
    optional(count("maker_max_n", "Most by the maker", "11")),
    count("arms_n.0", "Units on the branch", "11"),
    number("section_ohm", "Loop resistance of a trunk section", "ohm", "0.0142"),
];
const BRANCH_ANSWERS: &[&str] = &["branch.n_max", "branch.i_a", "branch.rise_trunk_pct"];

macro_rules! sums {
    ($($name:literal $group:literal $title:literal $about:literal $school:ident $inputs:ident $answers:ident $smallest:expr;)*) => {
        /// Every quick sum.
        pub static ALL: &[Sum] = &[$(Sum {
            name: $name, title: $title, about: $about, school: School::$school, inputs: &$inputs, answers: $answers,
            group: $group, smallest: $smallest,
        }),*];
    };
}

sums! {
    "string-window" "string" "String window" "How many in series between the cold and the hot \
        day" Na WINDOW WINDOW_ANSWERS None;
    "string-window" "string" "String window" "How many in series between the cold and the hot \
        day" Iec WINDOW WINDOW_ANSWERS None;
    "expected-volts" "test" "Expected volts" "What a string reads now" Na EXPECTED EXPECTED_ANSWERS None;
    "expected-volts" "test" "Expected volts" "What a string reads now" Iec EXPECTED EXPECTED_ANSWERS None;
    "wire-size" "conductor_na" "Wire size" "The smallest wire that \
        carries it" Na WIRE_NA WIRE_NA_ANSWERS Some("size");
    "wire-size" "conductor_iec" "Cable size" "The smallest cable that \
        carries it" Iec WIRE_IEC WIRE_IEC_ANSWERS Some("mm2");
    "voltage-drop" "vdrop" "Voltage drop" "Volts and watts lost on the \
        way" Na VDROP_NA VDROP_ANSWERS None;
    "voltage-drop" "vdrop" "Voltage drop" "Volts and watts lost on the \
        way" Iec VDROP_IEC VDROP_ANSWERS None;
    "raceway-fill" "fill" "Raceway fill" "Whether the wires fit, every wire \
        counted" Na FILL_NA FILL_ANSWERS None;
    "raceway-fill" "fill" "Conduit fill" "Whether the cables fit, every one \
        counted" Iec FILL_IEC FILL_ANSWERS None;
    "breaker" "ac" "Breaker" "The device of an inverter's output" Na AC_NA AC_ANSWERS None;
    "breaker" "ac" "Breaker" "The device of an inverter's output, and its \
        loop" Iec AC_IEC AC_ANSWERS None;
    "string-fuse" "parallel" "String fuse" "Whether parallel strings need fuses, and \
        which" Na FUSE FUSE_ANSWERS None;
    "string-fuse" "parallel" "String fuse" "Whether parallel strings need fuses, and \
        which" Iec FUSE FUSE_ANSWERS None;
    "busbar" "panel" "Busbar" "Which rule lets the inverter onto the \
        panel" Na PANEL PANEL_ANSWERS None;
    "branch" "micro" "Microinverter branch" "Units on a breaker, rise along the \
        trunk" Na BRANCH BRANCH_ANSWERS None;
    "branch" "micro" "Microinverter branch" "Units on a breaker, rise along the \
        trunk" Iec BRANCH BRANCH_ANSWERS None;
}

/// The sum of this name and school.
pub fn find(name: &str, school: School) -> Option<&'static Sum> {
    ALL.iter().find(|s| s.name == name && s.school == school)
}

/// The inputs a sum begins with.
pub fn sample(sum: &Sum) -> Map<String, Json> {
    let value = |i: &Input| serde_json::from_str::<Json>(i.sample).ok().filter(|v| v != "");
    sum.inputs.iter().filter_map(|i| Some((i.key.to_owned(), value(i)?))).collect()
}

/// Puts a value at a key with dots into a tree of objects and lists.
fn put(tree: &mut Json, key: &str, value: Json) {
    let mut at = tree;
    for part in key.split('.') {
        at = match part.parse::<usize>() {
            Ok(i) => {
                if !at.is_array() {
                    *at = json!([]);
                }
                let list = at.as_array_mut().expect("just made");
                while list.len() <= i {
                    list.push(Json::Null);
                }
                &mut list[i]
            }
            Err(_) => {
                if !at.is_object() {
                    *at = json!({});
                }
                at.as_object_mut().expect("just made").entry(part).or_insert(Json::Null)
            }
        };
    }
    *at = value;
}

/// Checks the inputs and puts them together as the calculation reads them.
fn gathered(sum: &Sum, inputs: &Map<String, Json>) -> Result<Map<String, Json>, Vec<Problem>> {
    let mut problems = Vec::new();
    let mut tree = json!({});
    for key in inputs.keys().filter(|k| !sum.inputs.iter().any(|i| i.key == k.as_str())) {
        let hint = did_you_mean(key, sum.inputs.iter().map(|i| i.key), 4).unwrap_or_default();
        problems.push(Problem::new(format!("/{key}"), "is no input of this sum", hint));
    }
    for i in sum.inputs {
        let value = inputs.get(i.key).filter(|v| !v.is_null() && *v != "");
        let Some(value) = value else {
            if !i.optional {
                problems.push(Problem::new(
                    format!("/{}", i.key),
                    format!("{} is missing", i.title),
                    "enter it",
                ));
            }
            continue;
        };
        let number = value.as_f64().filter(|n| n.is_finite());
        let right = match i.kind {
            InputKind::Number => number.is_some(),
            InputKind::Count => {
                number.is_some_and(|n| n.fract() == 0.0 && (0.0..=100_000.0).contains(&n))
            }
            InputKind::Choice => value.as_str().is_some_and(|v| i.options.contains(&v)),
            InputKind::Text => value.is_string(),
            InputKind::Flag => value.is_boolean(),
        };
        if !right {
            let wanted = match i.kind {
                InputKind::Number => "a number".to_owned(),
                InputKind::Count => "a whole number".to_owned(),
                InputKind::Choice => format!("one of {}", i.options.join(", ")),
                InputKind::Text => "a size as it is written, in quotes".to_owned(),
                InputKind::Flag => "true or false".to_owned(),
            };
            problems.push(Problem::new(
                format!("/{}", i.key),
                format!("{}: {value} is not right", i.title),
                wanted,
            ));
            continue;
        }
        let value = match (i.kind, number) {
            (InputKind::Count, Some(n)) => json!(n as u64),
            _ => value.clone(),
        };
        put(&mut tree, i.key, value);
    }
    // A line of wires without a count is none.
    if let Some(wires) = tree.get_mut("wires").and_then(Json::as_array_mut) {
        wires.retain(|w| w.get("n").is_some_and(|n| n.as_f64() > Some(0.0)));
    }
    if problems.is_empty() {
        Ok(tree.as_object().cloned().unwrap_or_default())
    } else {
        Err(problems)
    }
}

fn compute(sum: &Sum, tree: &Map<String, Json>) -> Result<Sheet, Vec<Problem>> {
    cases::compute_sheet(sum.group, sum.school, tree).map_err(|e| vec![Problem::new("", e, "")])
}

/// The first section of a cable that holds, by trying them upward.
fn smallest_mm2(sum: &Sum, tree: &Map<String, Json>) -> Result<Sheet, Vec<Problem>> {
    let solar = tree.get("cable").and_then(Json::as_str) == Some("solar");
    let sizes: Vec<f64> = if solar {
        tables::SOLAR_CABLES.iter().map(|c| c.mm2).collect()
    } else {
        let key = tree.get("cable").and_then(Json::as_str).unwrap_or("pvc70");
        tables::IEC_CABLES.iter().filter(|c| c.insulation == key).map(|c| c.mm2).collect()
    };
    let mut last = None;
    for mm2 in sizes {
        let mut tried = tree.clone();
        tried.insert("mm2".to_owned(), json!(mm2));
        let mut sheet = compute(sum, &tried)?;
        let holds =
            !sheet.checks.is_empty() && sheet.checks.iter().all(|c| c.verdict == Verdict::Pass);
        sheet.count(&SIZE_MIN, |w| {
            Some(w.given(
                "first section that holds, mm²",
                crate::quantity::Ratio(mm2),
                "tried upward",
            ))
            .filter(|_| holds)
        });
        if holds {
            return Ok(sheet);
        }
        last = Some(sheet);
    }
    match last {
        Some(sheet) => Ok(sheet),
        None => compute(sum, tree),
    }
}

static SIZE_MIN: crate::figure::Def = crate::figure::Def {
    id: "circuit.size_min",
    title: "Smallest size that passes",
    stage: crate::figure::Stage::Runs,
    na: "",
    iec: "IEC 60364-5-52",
};

/// Does a sum.
///
/// # Errors
/// What is missing, wrong or none of its inputs, by key.
pub fn run(sum: &'static Sum, inputs: &Map<String, Json>) -> Result<Slip, Vec<Problem>> {
    let mut tree = gathered(sum, inputs)?;
    if sum.group == "conductor_na" {
        tree.insert("find_smallest".to_owned(), json!(true));
    }
    let sheet = match sum.smallest {
        Some("mm2") if !tree.contains_key("mm2") => smallest_mm2(sum, &tree)?,
        _ => compute(sum, &tree)?,
    };
    let taken: Map<String, Json> = sum
        .inputs
        .iter()
        .filter_map(|i| Some((i.key.to_owned(), inputs.get(i.key)?.clone())))
        .filter(|(_, v)| !v.is_null())
        .collect();
    let answers: Vec<Figure> = sum
        .answers
        .iter()
        .filter_map(|id| sheet.figures.iter().rev().find(|f| f.id == *id).cloned())
        .collect();
    let text = as_text(sum, &taken, &sheet, &answers);
    Ok(Slip {
        name: sum.name,
        title: sum.title,
        school: sum.school,
        inputs: taken,
        answers,
        figures: sheet.figures,
        checks: sheet.checks,
        text,
    })
}

fn said(figure: &Figure) -> String {
    match &figure.value {
        Some(Value::Number(n)) => {
            format!("{} {}", crate::traced::number(*n), figure.unit.sign()).trim_end().to_owned()
        }
        Some(Value::Text(t)) => t.clone(),
        Some(Value::Flag(f)) => if *f { "yes" } else { "no" }.to_owned(),
        None if figure.missing.is_empty() => {
            figure.note.clone().unwrap_or_else(|| "none".to_owned())
        }
        None => format!("open: {} missing", figure.missing.join(", ")),
    }
}

fn as_text(sum: &Sum, inputs: &Map<String, Json>, sheet: &Sheet, answers: &[Figure]) -> String {
    let mut out = vec![sum.title.to_owned(), String::new()];
    for i in sum.inputs {
        if let Some(value) = inputs.get(i.key) {
            let value = value.as_str().map_or_else(|| value.to_string(), str::to_owned);
            out.push(format!("{}: {value} {}", i.title, i.unit).trim_end().to_owned());
        }
    }
    out.push(String::new());
    for f in answers {
        out.push(format!("{} = {}   [{}]", f.title, said(f), f.source));
        out.push(cases::working(f));
    }
    for c in sheet.checks.iter().filter(|c| !c.alternative) {
        let word = match c.verdict {
            Verdict::Pass => "holds",
            Verdict::Warn => "CAUTION",
            Verdict::Fail => "STOP",
            Verdict::Unknown => "open",
        };
        let reason = c.reason.as_ref().map_or_else(String::new, |r| format!(": {r}"));
        out.push(format!("{word}: {}{reason}", c.title));
    }
    out.push("The local code and a licensed person have the last word.".to_owned());
    out.join("\n") + "\n"
}

/// A sum as a job: its site, module, inverter and string where it has them, and its slip as the
/// job's notes.
///
/// # Errors
/// As [`run`].
pub fn into_job(sum: &'static Sum, inputs: &Map<String, Json>) -> Result<JobFile, Vec<Problem>> {
    let slip = run(sum, inputs)?;
    let tree = gathered(sum, inputs)?;
    let mut job = Job::new(format!("Quick sum: {}", sum.title), sum.school);
    job.notes = slip.text.chars().take(4000).collect();
    let mut library = Library::default();
    let number = |pointer: &str| Json::Object(tree.clone()).pointer(pointer).and_then(Json::as_f64);
    job.site.t_min_c = number("/site/t_min_c");
    job.site.t_max_c = number("/site/t_max_c");
    if let Some(mounting) = Json::Object(tree.clone()).pointer("/site/mounting") {
        job.site.mounting = serde_json::from_value(mounting.clone()).ok();
    }
    let head = json!({ "sheet": "quick-sum", "revision": 1, "maker": "typed into a quick sum", "model": "typed" });
    if let Some(ratings) = tree.get("module") {
        let mut document = head.clone();
        document["ratings"] = ratings.clone();
        if let Ok(module) = serde_json::from_value::<ModuleSheet>(document) {
            library.modules.push(module);
        }
    }
    if let Some(inverter) = tree.get("inverter") {
        let mut document = head;
        let (mut mppt, mut whole) = (Map::new(), Map::new());
        for (key, value) in inverter.as_object().into_iter().flatten() {
            let own = matches!(key.as_str(), "vdc_max_v" | "start_v" | "dc_w_max_w");
            if own { &mut whole } else { &mut mppt }.insert(key.clone(), value.clone());
        }
        document["mppts"] = json!([mppt]);
        document.as_object_mut().expect("it is one").extend(whole);
        if let Ok(inverter) = serde_json::from_value::<InverterSheet>(document) {
            library.inverters.push(inverter);
        }
    }
    if let (Some(module), Some(inverter), Some(n)) =
        (library.modules.first(), library.inverters.first(), number("/n"))
    {
        job.site.faces.push(Face {
            id: "face1".to_owned(),
            name: "Face 1".to_owned(),
            tilt_deg: 30.0,
            azimuth_deg: 180.0,
        });
        job.inverters.push(JobInverter { id: "INV1".to_owned(), sheet: inverter.reference() });
        let strings = number("/p").unwrap_or(1.0).clamp(1.0, 26.0) as u8;
        job.strings = (0..strings)
            .map(|i| JobString {
                letter: char::from(b'A' + i).to_string(),
                face: "face1".to_owned(),
                module: module.reference(),
                n: n as u32,
                inverter: "INV1".to_owned(),
                mppt: 1,
                optimizer: None,
            })
            .collect();
    } else {
        library = Library::default();
    }
    let problems = crate::job::validate(&JobFile::new(job.clone(), library.clone(), Vec::new()));
    if problems.is_empty() { Ok(JobFile::new(job, library, Vec::new())) } else { Err(problems) }
}
