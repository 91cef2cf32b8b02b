//! Entering a data sheet: its fields by kind, what is wrong with what was entered, what is unusual
//! about it, and what the values mean on a site.

use std::sync::LazyLock;

use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use utoipa::ToSchema;

use super::{
    InverterSheet, Library, MicroSheet, ModuleRatings, ModuleSheet, OptimizerSheet, SheetKind,
    SheetRef,
};
use crate::branches::{BranchInputs, branch};
use crate::figure::{Bound, Check, Def, Figure, Sheet, Stage, Subject, SubjectKind, Verdict, said};
use crate::job::{ColdMethod, Problem};
use crate::quantity::{Amps, Percent, PercentPerKelvin, Ratio, Unit, Volts, Watts, above, below};
use crate::schema::Schema;
use crate::school::School;
use crate::strings::{
    OptimizerInputs, SiteTemps, Sources, WindowInputs, optimizer, voc_cold_of_one, window,
};
use crate::traced::{exact, given};

/// A field of a data sheet.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct Field {
    /// Path in the document, with dots; `mppts.*.` for a field of each MPPT. It is the column's
    /// name in CSV.
    pub key: &'static str,
    /// Plain title.
    pub title: &'static str,
    /// Unit; empty for words, `n` for counts.
    pub unit: &'static str,
    /// Heading it stands under.
    pub group: &'static str,
    /// What is entered: `number`, `text`, `flag`, or `choice`.
    pub input: &'static str,
}

const fn number(
    group: &'static str,
    key: &'static str,
    title: &'static str,
    unit: &'static str,
) -> Field {
    Field { key, title, unit, group, input: "number" }
}

const fn other(
    group: &'static str,
    key: &'static str,
    title: &'static str,
    input: &'static str,
) -> Field {
    Field { key, title, unit: "", group, input }
}

/// Fields every data sheet has.
const HEAD: [Field; 5] = [
    other("Sheet", "sheet", "Key", "text"),
    number("Sheet", "revision", "Revision", "n"),
    other("Sheet", "maker", "Maker", "text"),
    other("Sheet", "model", "Model", "text"),
    other("Sheet", "demo", "Sample data", "flag"),
];

const STC: &str = "At standard test conditions";
const WARM: &str = "With temperature";
const LIMITS: &str = "Limits";
const BODY: &str = "Size and weight";
const INPUT: &str = "Each MPPT";
const AC: &str = "AC side";

const MODULE: [Field; 19] = [
    number(STC, "ratings.pmax_w", "Pmax, rated power", "W"),
    number(STC, "ratings.voc_v", "Voc, open circuit", "V"),
    number(STC, "ratings.vmp_v", "Vmp, maximum power", "V"),
    number(STC, "ratings.isc_a", "Isc, short circuit", "A"),
    number(STC, "ratings.imp_a", "Imp, maximum power", "A"),
    number(WARM, "ratings.b_voc_pct_c", "Coefficient of Voc", "%/°C"),
    number(WARM, "ratings.c_vmp_pct_c", "Coefficient of Vmp", "%/°C"),
    number(WARM, "ratings.g_pmax_pct_c", "Coefficient of Pmax", "%/°C"),
    number(WARM, "ratings.a_isc_pct_c", "Coefficient of Isc", "%/°C"),
    number(WARM, "ratings.nmot_c", "NMOT", "°C"),
    number(LIMITS, "ratings.max_system_v", "System voltage", "V"),
    number(LIMITS, "ratings.series_fuse_a", "Series fuse rating", "A"),
    number(LIMITS, "ratings.cells_series_n", "Cells in series", "n"),
    number(LIMITS, "ratings.bifacial_gain", "Bifacial gain, share", ""),
    number(BODY, "width_mm", "Width", "mm"),
    number(BODY, "length_mm", "Length", "mm"),
    number(BODY, "depth_mm", "Frame depth", "mm"),
    number(BODY, "weight_kg", "Weight", "kg"),
    number(BODY, "lead_m", "Length of each lead", "m"),
];

const INVERTER: [Field; 19] = [
    number("DC side", "vdc_max_v", "Largest DC volts", "V"),
    number("DC side", "start_v", "Start volts", "V"),
    number("DC side", "dc_w_max_w", "Module watts in all", "W"),
    number(INPUT, "mppts.*.connectors_n", "Connector pairs", "n"),
    number(INPUT, "mppts.*.mppt_min_v", "Tracking from", "V"),
    number(INPUT, "mppts.*.mppt_max_v", "Tracking up to", "V"),
    number(INPUT, "mppts.*.full_power_min_v", "Full power from", "V"),
    number(INPUT, "mppts.*.full_power_max_v", "Full power up to", "V"),
    number(INPUT, "mppts.*.mppt_imp_max_a", "Working amps", "A"),
    number(INPUT, "mppts.*.mppt_isc_max_a", "Short-circuit amps", "A"),
    number(INPUT, "mppts.*.mppt_w_max_w", "Module watts", "W"),
    number(AC, "ac_w", "Rated AC output", "W"),
    number(AC, "ac_v", "Nominal AC volts", "V"),
    number(AC, "ac_a", "Rated AC output current", "A"),
    other(AC, "three_phase", "Three-phase", "flag"),
    number(AC, "max_ocpd_a", "Largest overcurrent device", "A"),
    other(AC, "switch_on", "Switched on first", "choice"),
    number(AC, "reconnect_s", "Wait before feeding in again", "s"),
    number(BODY, "weight_kg", "Weight", "kg"),
];

const OPTIMIZER: [Field; 9] = [
    number("Input", "ratings.in_v_max_v", "Largest input volts", "V"),
    number("Input", "ratings.in_isc_max_a", "Largest input short-circuit current", "A"),
    number("Input", "ratings.in_w_max_w", "Largest module watts", "W"),
    number("Output", "ratings.out_a_max_a", "Largest output current", "A"),
    number("String", "ratings.n_min", "Fewest in a string", "n"),
    number("String", "ratings.n_max", "Most in a string", "n"),
    number("String", "ratings.string_w_max_w", "Most watts of a string", "W"),
    number("String", "ratings.string_v", "String volts the inverter holds", "V"),
    number("String", "ratings.safety_v", "Volts of one device when safe", "V"),
];

const MICRO: [Field; 12] = [
    number("Input", "in_v_max_v", "Largest input volts", "V"),
    number("Input", "mppt_min_v", "Tracking from", "V"),
    number("Input", "mppt_max_v", "Tracking up to", "V"),
    number("Input", "in_isc_max_a", "Largest input short-circuit current", "A"),
    number(AC, "ac_w", "Rated AC output", "W"),
    number(AC, "ac_v", "Nominal AC volts", "V"),
    number(AC, "ac_a", "Rated AC output current", "A"),
    number(AC, "branch_max_n", "Most units on a branch", "n"),
    number("Trunk cable", "trunk.pitch_m", "From drop to drop", "m"),
    number("Trunk cable", "trunk.section_ohm", "Loop resistance of a section", "ohm"),
    number(AC, "reconnect_s", "Wait before feeding in again", "s"),
    number(BODY, "weight_kg", "Weight", "kg"),
];

/// The fields of a kind, in the order a data sheet has them.
pub fn fields(kind: SheetKind) -> Vec<Field> {
    let own: &[Field] = match kind {
        SheetKind::Module => &MODULE,
        SheetKind::Inverter => &INVERTER,
        SheetKind::Optimizer => &OPTIMIZER,
        SheetKind::Micro => &MICRO,
    };
    HEAD.iter().chain(own).copied().collect()
}

/// One revision of a data sheet, of any kind.
#[derive(Clone, Debug, PartialEq)]
pub enum DataSheet {
    /// A module.
    Module(ModuleSheet),
    /// A string or hybrid inverter.
    Inverter(InverterSheet),
    /// An optimizer.
    Optimizer(OptimizerSheet),
    /// A microinverter.
    Micro(MicroSheet),
}

macro_rules! of_each {
    ($self:ident, $s:ident => $what:expr) => {
        match $self {
            DataSheet::Module($s) => $what,
            DataSheet::Inverter($s) => $what,
            DataSheet::Optimizer($s) => $what,
            DataSheet::Micro($s) => $what,
        }
    };
}

impl DataSheet {
    /// Its kind.
    pub fn kind(&self) -> SheetKind {
        match self {
            DataSheet::Module(_) => SheetKind::Module,
            DataSheet::Inverter(_) => SheetKind::Inverter,
            DataSheet::Optimizer(_) => SheetKind::Optimizer,
            DataSheet::Micro(_) => SheetKind::Micro,
        }
    }

    /// What a job names it by.
    pub fn reference(&self) -> SheetRef {
        of_each!(self, s => SheetRef { sheet: s.sheet.clone(), revision: s.revision })
    }

    /// Maker and model.
    pub fn name(&self) -> (&str, &str) {
        of_each!(self, s => (&s.maker, &s.model))
    }

    /// The document.
    pub fn document(&self) -> Value {
        of_each!(self, s => serde_json::to_value(s).expect("a data sheet has only string keys"))
    }

    /// Puts it into a library.
    pub fn put_into(self, library: &mut Library) {
        match self {
            DataSheet::Module(s) => library.modules.push(s),
            DataSheet::Inverter(s) => library.inverters.push(s),
            DataSheet::Optimizer(s) => library.optimizers.push(s),
            DataSheet::Micro(s) => library.micros.push(s),
        }
    }
}

impl Library {
    /// Every sheet in it, modules first.
    pub fn sheets(&self) -> Vec<DataSheet> {
        let modules = self.modules.iter().cloned().map(DataSheet::Module);
        let inverters = self.inverters.iter().cloned().map(DataSheet::Inverter);
        let optimizers = self.optimizers.iter().cloned().map(DataSheet::Optimizer);
        modules
            .chain(inverters)
            .chain(optimizers)
            .chain(self.micros.iter().cloned().map(DataSheet::Micro))
            .collect()
    }
}

fn schema(kind: SheetKind) -> &'static Schema {
    static ALL: LazyLock<[Schema; 4]> = LazyLock::new(|| {
        [
            Schema::of::<ModuleSheet>("Module"),
            Schema::of::<InverterSheet>("Inverter"),
            Schema::of::<OptimizerSheet>("Optimizer"),
            Schema::of::<MicroSheet>("Microinverter"),
        ]
    });
    let at = SheetKind::ALL.iter().position(|k| *k == kind).expect("every kind is listed");
    &ALL[at]
}

/// Reads a data sheet.
///
/// # Errors
/// Everything wrong with it, each with its place in the document.
pub fn read(kind: SheetKind, document: Value) -> Result<DataSheet, Vec<Problem>> {
    let mut problems = schema(kind).problems(&document);
    for p in &mut problems {
        signs(p, &document);
    }
    if !problems.is_empty() {
        return Err(problems);
    }
    let sheet = kept(kind, document).map_err(|e| vec![Problem::new("", e.to_string(), "")])?;
    let problems = problems_of(&sheet, "");
    if problems.is_empty() { Ok(sheet) } else { Err(problems) }
}

/// A data sheet that was checked when it was kept.
///
/// # Errors
/// Where it is no longer of the kind's shape.
pub fn kept(kind: SheetKind, document: Value) -> Result<DataSheet, serde_json::Error> {
    Ok(match kind {
        SheetKind::Module => DataSheet::Module(serde_json::from_value(document)?),
        SheetKind::Inverter => DataSheet::Inverter(serde_json::from_value(document)?),
        SheetKind::Optimizer => DataSheet::Optimizer(serde_json::from_value(document)?),
        SheetKind::Micro => DataSheet::Micro(serde_json::from_value(document)?),
    })
}

/// A coefficient with the wrong sign says so in words.
fn signs(problem: &mut Problem, document: &Value) {
    let falls =
        ["b_voc_pct_c", "c_vmp_pct_c", "g_pmax_pct_c"].iter().any(|f| problem.path.ends_with(f));
    let value = document.pointer(&problem.path).and_then(Value::as_f64);
    match value {
        Some(v) if falls && v > 0.0 => {
            "volts and watts fall when a module gets warmer: this coefficient is negative"
                .clone_into(&mut problem.message);
            problem.hint = format!("−{v}?");
        }
        Some(v) if problem.path.ends_with("a_isc_pct_c") && v < 0.0 => {
            "the current rises a little when a module gets warmer: this coefficient is positive"
                .clone_into(&mut problem.message);
            problem.hint = format!("{}?", -v);
        }
        _ => {}
    }
}

/// What does not fit together in a sheet whose fields are each in range; places below `path`.
pub fn problems_of(sheet: &DataSheet, path: &str) -> Vec<Problem> {
    let mut found = Vec::new();
    match sheet {
        DataSheet::Module(m) => module(&m.ratings, path, &mut found),
        DataSheet::Inverter(i) => inverter(i, path, &mut found),
        DataSheet::Optimizer(o) => {
            let r = &o.ratings;
            ordered(
                &mut found,
                &format!("{path}/ratings/n_min"),
                "a string",
                (r.n_min, r.n_max),
                "",
            );
        }
        DataSheet::Micro(m) => ordered(
            &mut found,
            &format!("{path}/mppt_min_v"),
            "tracking",
            (m.mppt_min_v, m.mppt_max_v),
            " V",
        ),
    }
    found
}

fn module(m: &ModuleRatings, path: &str, found: &mut Vec<Problem>) {
    let mut smaller =
        |field: &str, small: (&str, Option<f64>), large: (&str, Option<f64>), unit: &str| {
            if let (Some(a), Some(b)) = (small.1, large.1)
                && !below(a, b)
            {
                let (small, large) = (small.0, large.0);
                found.push(Problem::new(
                    format!("{path}/ratings/{field}"),
                    format!("{small} {a} {unit} is not below {large} {b} {unit}"),
                    format!("{small} is always the smaller one: are they swapped?"),
                ));
            }
        };
    smaller("vmp_v", ("Vmp", m.vmp_v), ("Voc", m.voc_v), "V");
    smaller("imp_a", ("Imp", m.imp_a), ("Isc", m.isc_a), "A");
    if let (Some(p), Some(v), Some(i)) = (m.pmax_w, m.vmp_v, m.imp_a)
        && (p / (v * i) - 1.0).abs() > 0.5
    {
        found.push(Problem::new(
            format!("{path}/ratings/pmax_w"),
            format!("{p} W is far from Vmp × Imp = {:.0} W", v * i),
            "check the three against the data sheet",
        ));
    }
}

fn ordered(
    found: &mut Vec<Problem>,
    path: &str,
    what: &str,
    (low, high): (Option<f64>, Option<f64>),
    unit: &str,
) {
    // A count may be one number; a range of volts needs some width.
    let upside_down =
        |low: f64, high: f64| if unit.is_empty() { above(low, high) } else { !below(low, high) };
    if let (Some(low), Some(high)) = (low, high)
        && upside_down(low, high)
    {
        found.push(Problem::new(
            path,
            format!("{what} from {low} to {high}{unit} is upside down"),
            "the lower end goes first",
        ));
    }
}

fn inverter(inverter: &InverterSheet, path: &str, found: &mut Vec<Problem>) {
    for (k, m) in inverter.mppts.iter().enumerate() {
        let at = format!("{path}/mppts/{k}");
        ordered(found, &format!("{at}/mppt_min_v"), "tracking", (m.mppt_min_v, m.mppt_max_v), " V");
        ordered(
            found,
            &format!("{at}/full_power_min_v"),
            "full power",
            (m.full_power_min_v, m.full_power_max_v),
            " V",
        );
        if let (Some(high), Some(max)) = (m.mppt_max_v, inverter.vdc_max_v)
            && above(high, max)
        {
            found.push(Problem::new(
                format!("{at}/mppt_max_v"),
                format!("tracking up to {high} V is above the largest DC volts, {max} V"),
                "check both against the data sheet",
            ));
        }
    }
}

macro_rules! defs {
    ($($(#[$doc:meta])* $name:ident $id:literal $title:literal;)*) => {$(
        $(#[$doc])*
        static $name: Def = Def { id: $id, title: $title, stage: Stage::Equipment, na: "data sheet", iec: "data sheet" };
    )*};
}

defs! {
    /// Pmax against Vmp x Imp.
    PMAX_OFF "module.pmax_off_pct" "Rated power against Vmp × Imp";
    /// Series fuse rating against Isc.
    FUSE "module.series_fuse_a" "Series fuse rating against Isc";
    /// Coefficient of Voc against what modules have.
    B_VOC "module.b_voc_pct_c" "Coefficient of Voc";
    /// Coefficient of Pmax against what modules have.
    G_PMAX "module.g_pmax_pct_c" "Coefficient of Pmax";
    /// Cold volts of one module.
    VOC_COLD "module.voc_cold_v" "Open-circuit volts of one module, coldest morning";
    /// Full-power range inside the tracking range.
    FULL_POWER "inverter.full_power_min_v" "Full power inside the tracking range";
    /// Working current against the short-circuit current an input bears.
    IMP_MAX "inverter.mppt_imp_max_a" "Working current below the short-circuit current";
    /// Watts of the inputs against those in all.
    W_MAX "inverter.mppts_w" "Watts of the inputs together";
}

/// Farthest Pmax may be off Vmp x Imp, %.
const PMAX_OFF_PCT: f64 = 3.0;

/// `module.pmax_off_pct`, held against 3 %.
pub(crate) fn pmax_off(sheet: &mut Sheet, r: &ModuleRatings) {
    sheet.figure(&PMAX_OFF, |w| {
        let p = w.need::<Watts>("Pmax", r.pmax_w, "module.pmax_w", "module data sheet");
        let v = w.need::<Volts>("Vmp", r.vmp_v, "module.vmp_v", "module data sheet");
        let i = w.need::<Amps>("Imp", r.imp_a, "module.imp_a", "module data sheet");
        let product = w.step("Vmp × Imp", v? * i?);
        let off = w.step("off", (p? / product - exact::<Ratio>(1.0)).percent());
        Some(given::<Percent>("off", Percent(off.value.0.abs())))
    });
    let check =
        sheet.hold(&PMAX_OFF, Bound::at_most(Some(PMAX_OFF_PCT), "allowed", ""), Verdict::Warn);
    check.reason(format!(
        "The three do not fit together within {}.",
        said(PMAX_OFF_PCT, Unit::Percent)
    ));
    check.cure("Check the three against the maker's data sheet.", Vec::new());
}

/// The site a data sheet is looked at for, and the module that stands for modules.
#[derive(Clone, Debug, Default, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct About {
    /// Lowest expected ambient, °C.
    pub t_min_c: Option<f64>,
    /// 2 % high ambient, °C.
    pub t_max_c: Option<f64>,
    /// Cell rise on a hot day, K.
    pub cell_rise_hot_c: Option<f64>,
    /// DC ceiling of the building, V.
    pub dc_ceiling_v: Option<f64>,
    /// The module an inverter, optimizer or microinverter is looked at with.
    pub module: Option<ModuleRatings>,
}

/// What is said of a data sheet while it is entered.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Judged {
    /// What has to be mended before it can be kept.
    pub problems: Vec<Problem>,
    /// What is unusual.
    pub checks: Vec<Check>,
    /// What the values mean.
    pub figures: Vec<Figure>,
}

/// Judges a data sheet as far as it is entered: fields that are wrong are named and left out of the
/// rest.
pub fn judge(kind: SheetKind, document: &Value, about: &About, school: School) -> Judged {
    let mut rest = document.clone();
    // The head may be half written: it says nothing of the values.
    for (field, value) in [
        ("sheet", json!("x")),
        ("revision", json!(1)),
        ("maker", json!("x")),
        ("model", json!("x")),
    ] {
        if rest.get(field).is_none_or(|v| v.is_null() || v == "") {
            rest[field] = value;
        }
    }
    let mut problems = schema(kind).problems(&rest);
    for p in &mut problems {
        signs(p, document);
        if let Some(field) = rest.pointer_mut(&p.path) {
            *field = Value::Null;
        }
    }
    let mut sheet = Sheet::new(school, Subject::new(SubjectKind::Module, "sheet"));
    match read(kind, rest) {
        Ok(read) => meaning(&mut sheet, &read, about),
        Err(more) => {
            let new: Vec<Problem> =
                more.into_iter().filter(|m| problems.iter().all(|p| p.path != m.path)).collect();
            problems.extend(new);
        }
    }
    Judged { problems, checks: sheet.checks, figures: sheet.figures }
}

fn usual(sheet: &mut Sheet, def: &'static Def, value: Option<f64>, (low, high): (f64, f64)) {
    let Some(value) = value else { return };
    sheet.figure(def, |w| Some(w.given("as entered", PercentPerKelvin(value), "data sheet")));
    let bound = if below(value, low) {
        Bound::at_least(Some(low), "usual from", "")
    } else {
        Bound::at_most(Some(high), "usual up to", "")
    };
    sheet
        .hold(def, bound, Verdict::Warn)
        .reason(format!(
            "Modules have {low} to {high} %/°C as a rule. Is it entered per kelvin in \
            percent?"
        ))
        .cure(
            "Look at the unit in the maker's data sheet: mV/°C and %/°C are easily taken for \
            one another.",
            Vec::new(),
        );
}

fn meaning(sheet: &mut Sheet, read: &DataSheet, about: &About) {
    let site = SiteTemps {
        t_min_c: about.t_min_c,
        t_max_c: about.t_max_c,
        mounting: None,
        cell_rise_hot_c: about.cell_rise_hot_c,
        dc_ceiling_v: about.dc_ceiling_v,
    };
    match read {
        DataSheet::Module(m) => {
            let r = &m.ratings;
            pmax_off(sheet, r);
            usual(sheet, &B_VOC, r.b_voc_pct_c, (-0.40, -0.20));
            usual(sheet, &G_PMAX, r.g_pmax_pct_c, (-0.55, -0.20));
            if r.series_fuse_a.is_some() {
                sheet.figure(&FUSE, |w| {
                    w.need::<Amps>(
                        "series fuse",
                        r.series_fuse_a,
                        "module.series_fuse_a",
                        "data sheet",
                    )
                });
                sheet
                    .hold(
                        &FUSE,
                        Bound::at_least(r.isc_a, "Isc of the module", "module.isc_a"),
                        Verdict::Warn,
                    )
                    .reason("A series fuse rating below Isc would blow in the sun.")
                    .cure("Check both against the maker's data sheet.", Vec::new());
            }
            sheet.figure(&VOC_COLD, |w| voc_cold_of_one(w, r, about.t_min_c));
        }
        DataSheet::Inverter(i) => inverter_meaning(sheet, i, about, &site),
        DataSheet::Optimizer(o) => {
            if let Some(module) = &about.module {
                let n = o.ratings.n_min.unwrap_or(1.0) as u32;
                optimizer(
                    sheet,
                    &OptimizerInputs {
                        module: module.clone(),
                        optimizer: o.ratings.clone(),
                        site,
                        n,
                    },
                );
            }
        }
        DataSheet::Micro(m) => branch(
            sheet,
            &BranchInputs {
                unit_a: m.ac_a,
                volts_v: m.ac_v,
                breaker_a: Some(20.0),
                maker_max_n: m.branch_max_n.map(|n| n as u32),
                arms_n: vec![m.branch_max_n.unwrap_or(1.0) as u32],
                section_ohm: m.trunk.section_ohm,
                module: about.module.clone(),
                t_min_c: about.t_min_c,
                unit_v_max_v: m.in_v_max_v,
                ..BranchInputs::default()
            },
        ),
    }
}

fn inverter_meaning(sheet: &mut Sheet, i: &InverterSheet, about: &About, site: &SiteTemps) {
    for (k, m) in i.mppts.iter().enumerate() {
        sheet.subject = Subject::new(SubjectKind::Mppt, format!("sheet/{}", k + 1));
        if let (Some(full), Some(from)) = (m.full_power_min_v, m.mppt_min_v) {
            sheet.figure(&FULL_POWER, |w| {
                Some(w.given("full power from", Volts(full), "data sheet"))
            });
            sheet
                .hold(&FULL_POWER, Bound::at_least(Some(from), "tracking from", ""), Verdict::Warn)
                .reason("The full-power range begins below the tracking range.")
                .cure("Check both against the maker's data sheet.", Vec::new());
        }
        if let (Some(imp), Some(isc)) = (m.mppt_imp_max_a, m.mppt_isc_max_a) {
            sheet.figure(&IMP_MAX, |w| Some(w.given("working current", Amps(imp), "data sheet")));
            sheet
                .hold(
                    &IMP_MAX,
                    Bound::at_most(Some(isc), "largest short-circuit current", ""),
                    Verdict::Warn,
                )
                .reason("An input bears more short-circuit current than it works with.")
                .cure("Are the two swapped?", Vec::new());
        }
        if let (Some(module), Some(ratings)) = (&about.module, i.ratings_at(k as u32 + 1)) {
            let sources = Sources::default();
            let mut own = Sheet::new(sheet.school, sheet.subject.clone());
            let x = WindowInputs {
                module,
                inverter: &ratings,
                site,
                n: 1,
                method: ColdMethod::Coefficient,
                sources: &sources,
                n_pointer: None,
            };
            window(&mut own, &x);
            sheet.figures.extend(
                own.figures
                    .into_iter()
                    .filter(|f| f.id == "string.n_min" || f.id == "string.n_max"),
            );
        }
    }
    sheet.subject = Subject::new(SubjectKind::Inverter, "sheet");
    let watts: Option<f64> = i.mppts.iter().map(|m| m.mppt_w_max_w).sum();
    if let (Some(watts), Some(all)) = (watts, i.dc_w_max_w) {
        sheet.figure(&W_MAX, |w| Some(w.given("inputs together", Watts(watts), "data sheet")));
        sheet
            .hold(&W_MAX, Bound::at_least(Some(all), "module watts in all", ""), Verdict::Warn)
            .reason("The inputs together take fewer watts than the inverter in all.")
            .cure("Check both against the maker's data sheet.", Vec::new());
    }
}
