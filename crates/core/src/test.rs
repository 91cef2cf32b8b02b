//! Commissioning: what a string should read in today's light and warmth, whether it does, and if
//! not why.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::figure::{Def, Sheet, Stage, Value, Verdict, said};
use crate::library::ModuleRatings;
use crate::quantity::{
    Amps, Celsius, Irradiance, Kelvins, PercentPerKelvin, Ratio, Unit, Volts, above, below,
};
use crate::traced::{Traced, exact};

macro_rules! defs {
    ($($(#[$doc:meta])* $name:ident $id:literal $title:literal $source:literal;)*) => {$(
        $(#[$doc])*
        pub static $name: Def = Def { id: $id, title: $title, stage: Stage::Test, na: $source, iec: $source };
    )*};
}

defs! {
    /// Cell temperature at the reading.
    T_CELL "test.t_cell_c" "Cells at the reading" "IEC 61215, NMOT";
    /// Open-circuit volts to be expected.
    VOC_EXPECTED "test.voc_expected_v" "Expected open-circuit volts" "IEC 62446-1";
    /// Short-circuit current to be expected.
    ISC_EXPECTED "test.isc_expected_a" "Expected short-circuit current" "IEC 62446-1";
    /// The reading of open-circuit volts.
    VOC "test.voc_v" "Open-circuit volts" "IEC 62446-1";
    /// The reading of short-circuit current.
    ISC "test.isc_a" "Short-circuit current" "IEC 62446-1";
    /// How far the volts are off.
    VOC_OFF "test.voc_off_v" "Off the expected volts" "IEC 62446-1";
    /// The same in percent.
    VOC_OFF_PCT "test.voc_off_pct" "Off the expected volts" "IEC 62446-1";
    /// The current off, in percent.
    ISC_OFF_PCT "test.isc_off_pct" "Off the expected current" "IEC 62446-1";
    /// First-ranked cause of the volts.
    CAUSE "diagnosis.cause" "Likely cause" "expected volts per module";
    /// Its count of modules or strings.
    MODULES_N "diagnosis.modules_n" "Modules concerned" "expected volts per module";
    /// First-ranked cause of the current.
    ISC_CAUSE "diagnosis.isc_cause" "Likely cause of the current" "expected current";
}

/// Inside this the reading holds, %.
pub const PASS_PCT: f64 = 5.0;
/// Inside this it is a caution, %.
pub const WARN_PCT: f64 = 10.0;
/// Least light in which a short-circuit current says anything, W/m².
pub const LEAST_LIGHT_W_M2: f64 = 400.0;

/// Readings of one string, or of `p` in parallel.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct TestInputs {
    /// The module.
    pub module: ModuleRatings,
    /// Modules in series.
    pub n: u32,
    /// Strings in parallel, for the current only; 1 where absent.
    pub p: Option<u32>,
    /// Irradiance in the plane of the modules, W/m².
    pub irradiance_w_m2: Option<f64>,
    /// Cell temperature as known, °C.
    pub cell_c: Option<f64>,
    /// Back of a module, °C.
    pub back_c: Option<f64>,
    /// Air, °C.
    pub ambient_c: Option<f64>,
    /// Open-circuit volts read.
    pub measured_voc_v: Option<f64>,
    /// Short-circuit amps read.
    pub measured_isc_a: Option<f64>,
    /// Irradiance at the start of the set, W/m².
    pub irradiance_first_w_m2: Option<f64>,
    /// Irradiance at its end, W/m².
    pub irradiance_last_w_m2: Option<f64>,
}

/// A cause that would explain a reading, with the numbers that speak for it.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Cause {
    /// Code of the cause.
    pub code: &'static str,
    /// One sentence, with numbers.
    pub text: String,
    /// What the reading would be off the explanation, V.
    pub off_v: f64,
}

/// Expected values, verdicts and first-ranked causes. Gives the ranked causes of the volts.
pub fn test(sheet: &mut Sheet, x: &TestInputs) -> Vec<Cause> {
    let t_cell = t_cell(sheet, x);
    let one = voc_expected(sheet, x, t_cell);
    let isc = isc_expected(sheet, x, t_cell);
    let causes = match x.measured_voc_v {
        Some(reading) => judge_voc(sheet, x, one, reading),
        None => Vec::new(),
    };
    if let Some(reading) = x.measured_isc_a {
        judge_isc(sheet, x, isc, reading);
    }
    causes
}

fn t_cell(sheet: &mut Sheet, x: &TestInputs) -> Option<f64> {
    sheet.figure(&T_CELL, |w| {
        if let Some(cell) = x.cell_c {
            return Some(w.given("cells", Celsius(cell), "as entered"));
        }
        let g = w.need::<Irradiance>("G", x.irradiance_w_m2, "irradiance_w_m2", "meter");
        if let Some(back) = x.back_c {
            let back = w.given("back of a module", Celsius(back), "meter");
            // 3 K from back to cell at 1000 W/m².
            return Some(back + exact::<Kelvins>(3.0) * (g? / exact::<Irradiance>(1000.0)));
        }
        let ambient = w.need::<Celsius>("air", x.ambient_c, "cell_c, back_c or ambient_c", "meter");
        let nmot = w.need::<Celsius>("NMOT", x.module.nmot_c, "module.nmot_c", "module data sheet");
        Some(ambient? + (nmot? - exact(20.0)) * (g? / exact::<Irradiance>(800.0)))
    })
}

/// `n x [Voc x (1 + bVoc/100 x (Tc - 25)) + a x ln(G/1000)]`; gives one module's volts.
fn voc_expected(sheet: &mut Sheet, x: &TestInputs, t_cell: Option<f64>) -> Option<f64> {
    let mut one_v = None;
    sheet.figure(&VOC_EXPECTED, |w| {
        let voc = w.need::<Volts>("Voc", x.module.voc_v, "module.voc_v", "module data sheet");
        let b = w.need::<PercentPerKelvin>(
            "bVoc",
            x.module.b_voc_pct_c,
            "module.b_voc_pct_c",
            "module data sheet",
        );
        let t = w.need::<Celsius>("Tc", t_cell, "cell_c, back_c or ambient_c", "test.t_cell_c");
        let g = w.need::<Irradiance>("G", x.irradiance_w_m2, "irradiance_w_m2", "meter");
        let (voc, b, t, g) = (voc?, b?, t?, g?);
        if !above(g.value.0, 0.0) {
            w.note("Without light nothing can be expected.");
            return None;
        }
        let warm = w
            .step("warm", voc * (exact::<Ratio>(1.0) + (b * (t.clone() - exact(25.0))).fraction()));
        let cells = x.module.cells_series_n.unwrap_or(0.0);
        let a = if cells > 0.0 {
            let cells = w.given("cells", Ratio(cells), "module data sheet");
            // 26 mV per cell at 25 °C, ideality 1.1, in proportion to the absolute temperature.
            let absolute = (t - exact(-273.15)) / exact::<Kelvins>(298.15);
            w.step("a", exact::<Volts>(0.026) * cells * exact::<Ratio>(1.1) * absolute)
        } else {
            w.note("The light term is left out: the data sheet gives no cells in series.");
            exact::<Volts>(0.0)
        };
        let light = w.step("light", a * (g / exact::<Irradiance>(1000.0)).ln());
        let one = w.step("one module now", warm + light);
        one_v = Some(one.value.0);
        Some(w.given("n", Ratio(f64::from(x.n)), "modules in series") * one)
    });
    one_v
}

fn isc_expected(sheet: &mut Sheet, x: &TestInputs, t_cell: Option<f64>) -> Option<f64> {
    sheet.figure(&ISC_EXPECTED, |w| {
        let p = w.given("p", Ratio(f64::from(x.p.unwrap_or(1))), "strings in parallel");
        let isc = w.need::<Amps>("Isc", x.module.isc_a, "module.isc_a", "module data sheet");
        let a = w.need::<PercentPerKelvin>(
            "aIsc",
            x.module.a_isc_pct_c,
            "module.a_isc_pct_c",
            "module data sheet",
        );
        let t = w.need::<Celsius>("Tc", t_cell, "cell_c, back_c or ambient_c", "test.t_cell_c");
        let g = w.need::<Irradiance>("G", x.irradiance_w_m2, "irradiance_w_m2", "meter");
        let (isc, a, t, g) = (isc?, a?, t?, g?);
        if !above(g.value.0, 0.0) {
            w.note("Without light nothing can be expected.");
            return None;
        }
        Some(
            p * isc
                * (g / exact::<Irradiance>(1000.0))
                * (exact::<Ratio>(1.0) + (a * (t - exact(25.0))).fraction()),
        )
    })
}

/// `|reading - expected| / expected` in percent, as a figure.
fn off_pct<Q>(sheet: &mut Sheet, def: &'static Def, reading: Q, expected: Option<Q>) -> Option<f64>
where
    Q: crate::quantity::Quantity + std::ops::Sub<Output = Q> + std::ops::Div<Output = Ratio>,
{
    sheet.figure(def, |w| {
        let expected = w.given("expected", expected?, "above");
        let reading: Traced<Q> = w.given("reading", reading, "meter");
        Some(((reading - expected.clone()) / expected).percent())
    })
}

fn banded(off_pct: f64) -> Verdict {
    if !above(off_pct.abs(), PASS_PCT) {
        Verdict::Pass
    } else if !above(off_pct.abs(), WARN_PCT) {
        Verdict::Warn
    } else {
        Verdict::Fail
    }
}

fn judge_voc(sheet: &mut Sheet, x: &TestInputs, one: Option<f64>, reading: f64) -> Vec<Cause> {
    let n = f64::from(x.n);
    let expected = one.map(|o| o * n);
    sheet.figure(&VOC, |w| Some(w.given("reading", Volts(reading), "meter")));
    sheet.figure(&VOC_OFF, |w| {
        let expected = w.given("expected", Volts(expected?), "test.voc_expected_v");
        Some(w.given("reading", Volts(reading), "meter") - expected)
    });
    let off = off_pct(sheet, &VOC_OFF_PCT, Volts(reading), expected.map(Volts));
    let (Some(one), Some(expected), Some(off)) = (one, expected, off) else {
        let missing = sheet
            .figures
            .iter()
            .find(|f| f.id == VOC_EXPECTED.id)
            .map(|f| f.missing.clone())
            .unwrap_or_default();
        let check = sheet.judge(&VOC, Verdict::Unknown);
        check.missing = missing;
        check.reason("Nothing can be expected yet: light and temperature make the expected volts.");
        return Vec::new();
    };
    let half_off = !below((reading - expected).abs(), one / 2.0);
    let verdict = match banded(off) {
        _ if reading < 0.0 => Verdict::Fail,
        Verdict::Pass if half_off => Verdict::Warn,
        other => other,
    };
    let causes = causes(x, one, reading);
    let first = causes[0].clone();
    let count = count_of(x, one, reading, first.code);
    let check = sheet.judge(&VOC, verdict);
    check.unit = Unit::V;
    check.reason(first.text.clone());
    cure_voc(check, first.code);
    let lines = |w: &mut crate::figure::Working| {
        let one = w.given("one module now", Volts(one), "test.voc_expected_v");
        let expected = w.given("expected", Volts(expected), "test.voc_expected_v");
        let reading = w.given("reading", Volts(reading), "meter");
        w.step("off, in modules", (reading - expected) / one);
    };
    sheet.text(&CAUSE, |w| {
        lines(w);
        Some(Value::Text(first.code.to_owned()))
    });
    sheet.count(&MODULES_N, |w| {
        lines(w);
        Some(w.given("modules or strings", Ratio(count), "diagnosis.cause"))
    });
    causes
}

fn cure_voc(check: &mut crate::figure::Check, code: &str) {
    let text = match code {
        "reversed_pair" => {
            "Prove the probes first; then change over the pair at the box, isolator open, before \
                it reaches the inverter."
        }
        "open_circuit" => {
            "Isolator and fuse first, then the joints from the home run inward. Connectors stay \
                closed under load."
        }
        "strings_in_series" => {
            "Keep it away from the inverter: find where the end of one string is joined to the \
                start of another."
        }
        "extra_module" => "Count the modules of the string on the roof against the plan.",
        "missing_or_bypassed" => {
            "Compare with the running volts taken while plugging in: the joint where they stopped \
                growing is the place."
        }
        "bypass_section" => "Look for shade on one module, then read the modules one by one.",
        _ => "Read again in steady light, with the temperature taken at the same moment.",
    };
    check.cure(text, Vec::new());
}

/// Deviation in modules: d above, s short, j the whole number nearest.
fn off_modules(x: &TestInputs, one: f64, reading: f64) -> (f64, f64, f64) {
    let d = (reading - one * f64::from(x.n)) / one;
    (d, -d, d.abs().round())
}

fn first_code(x: &TestInputs, one: f64, reading: f64) -> &'static str {
    let expected = one * f64::from(x.n);
    let (d, s, j) = off_modules(x, one, reading);
    if reading < 0.0 && above(reading.abs(), one / 2.0) {
        "reversed_pair"
    } else if !above(reading.abs(), one / 2.0) {
        "open_circuit"
    } else if !above((reading / expected - 2.0).abs(), 0.05) {
        "strings_in_series"
    } else if above(d, 0.5) {
        if above((d - j).abs(), 0.25) { "unclear" } else { "extra_module" }
    } else if below(s, 0.2) {
        "ok"
    } else if j >= 1.0 && !above((s - j).abs(), 0.25) {
        "missing_or_bypassed"
    } else if !above(s, 0.6) {
        "bypass_section"
    } else {
        "unclear"
    }
}

fn count_of(x: &TestInputs, one: f64, reading: f64, code: &str) -> f64 {
    match code {
        "reversed_pair" | "bypass_section" => 1.0,
        "strings_in_series" => 2.0,
        "extra_module" | "missing_or_bypassed" => off_modules(x, one, reading).2,
        _ => 0.0,
    }
}

/// Causes that explain a reading, the likeliest first.
fn causes(x: &TestInputs, one: f64, reading: f64) -> Vec<Cause> {
    let n = f64::from(x.n);
    let expected = one * n;
    let (_, s, j) = off_modules(x, one, reading);
    let code = first_code(x, one, reading);
    let plural = |k: f64| if k == 1.0 { "one module".to_owned() } else { format!("{k} modules") };
    let cause =
        |code, text: String, would: f64| Cause { code, text, off_v: (reading - would).abs() };
    let short = expected - reading;
    let now = said(one, Unit::V);
    let mut list = vec![match code {
        "reversed_pair" => cause(
            code,
            format!(
                "The pair is reversed, or the probes are: {} where {} is expected.",
                said(reading, Unit::V),
                said(expected, Unit::V)
            ),
            -expected,
        ),
        "open_circuit" => cause(
            code,
            format!(
                "{} is near nothing: an open joint, a blown fuse or an isolator that is off.",
                said(reading, Unit::V)
            ),
            0.0,
        ),
        "strings_in_series" => cause(
            code,
            format!(
                "{} is two strings' worth: two strings joined in series.",
                said(reading, Unit::V)
            ),
            2.0 * expected,
        ),
        "extra_module" => cause(
            code,
            format!("Reads {} too many: a module is {now} now.", plural(j)),
            expected + j * one,
        ),
        "missing_or_bypassed" => cause(
            code,
            format!(
                "Reads {} short: left out or bypassed. A module is {now} now, the reading is {} \
                    low.",
                plural(j),
                said(short, Unit::V)
            ),
            expected - j * one,
        ),
        "bypass_section" => cause(
            code,
            format!(
                "{} low, part of one module ({now}): a bypass section conducts, from shade or a \
                    fault.",
                said(short, Unit::V)
            ),
            expected - one / 3.0,
        ),
        "ok" => cause(
            code,
            format!(
                "Within {} of what {} modules give now.",
                said((reading - expected).abs(), Unit::V),
                x.n
            ),
            expected,
        ),
        _ => cause(
            "unclear",
            format!(
                "Off by {:.2} modules ({}): it fits no single cause.",
                s.abs(),
                said(short.abs(), Unit::V)
            ),
            expected,
        ),
    }];
    if code == "missing_or_bypassed" && j % 2.0 == 0.0 {
        let turned = j / 2.0;
        list.push(cause(
            "turned_round",
            format!(
                "{} turned round inside the string: each takes its own volts off twice.",
                plural(turned)
            ),
            expected - j * one,
        ));
    }
    if matches!(code, "missing_or_bypassed" | "unclear" | "bypass_section") && s > 0.0 {
        let sections = (s * 3.0).round().max(1.0);
        let would = expected - sections * one / 3.0;
        if code != "bypass_section" || sections > 1.0 {
            list.push(cause(
                "bypass_sections",
                format!("{sections} bypass sections on separate modules."),
                would,
            ));
        }
        if let (Some(voc), Some(b)) = (x.module.voc_v, x.module.b_voc_pct_c) {
            let hotter = short / (n * voc * -b / 100.0);
            list.push(cause(
                "hotter_cells",
                format!("Cells {} hotter than entered would read so.", said(hotter, Unit::Kelvin)),
                reading,
            ));
        }
    }
    list
}

fn judge_isc(sheet: &mut Sheet, x: &TestInputs, expected: Option<f64>, reading: f64) {
    sheet.figure(&ISC, |w| Some(w.given("reading", Amps(reading), "meter")));
    let off = off_pct(sheet, &ISC_OFF_PCT, Amps(reading), expected.map(Amps));
    let unsteady = match (x.irradiance_first_w_m2, x.irradiance_last_w_m2) {
        (Some(a), Some(b)) => above((a - b).abs() / ((a + b) / 2.0) * 100.0, PASS_PCT),
        _ => false,
    };
    let dim = x.irradiance_w_m2.is_none_or(|g| below(g, LEAST_LIGHT_W_M2));
    let missing = sheet
        .figures
        .iter()
        .find(|f| f.id == ISC_EXPECTED.id)
        .map(|f| f.missing.clone())
        .unwrap_or_default();
    let verdict = match off {
        Some(off) if !dim && !unsteady => banded(off),
        _ => Verdict::Unknown,
    };
    let check = sheet.judge(&ISC, verdict);
    check.unit = Unit::A;
    if verdict == Verdict::Unknown {
        check.missing = missing;
        check.reason(if unsteady {
            "The light moved more than 5 % during the set: wait for a steady sky."
        } else {
            "Below 400 W/m² the current says nothing: wait for more light."
        });
        check.missing.retain(|m| !m.is_empty());
    } else {
        check.reason(format!(
            "{} off the expected current.",
            said(off.unwrap_or(0.0), Unit::Percent)
        ));
        check.cure(
            "Shade, soiling or a poor joint: clean, wait for even light and read again.",
            Vec::new(),
        );
    }
    if let Some(expected) = expected {
        let r = reading / expected;
        let code = if !below(r, 1.8) && !above(r, 2.2) {
            "parallel_pair"
        } else if below(r, 0.95) {
            "shade_soiling_or_joint"
        } else if !above(r, 1.05) {
            "ok"
        } else {
            "unclear"
        };
        sheet.text(&ISC_CAUSE, |w| {
            w.step("reading by expected", w_ratio(reading, expected));
            Some(Value::Text(code.to_owned()))
        });
    }
}

fn w_ratio(reading: f64, expected: f64) -> Traced<Ratio> {
    crate::traced::given("reading", Amps(reading))
        / crate::traced::given("expected", Amps(expected))
}

/// The meter strip: what each count of modules would read now, the band that holds, the reading.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct MeterStrip {
    /// Left end, V.
    pub from_v: f64,
    /// Right end, V.
    pub to_v: f64,
    /// Band of a reading that holds: from, V.
    pub band_from_v: f64,
    /// Band of a reading that holds: to, V.
    pub band_to_v: f64,
    /// Marks: volts of so many modules.
    pub marks: Vec<StripMark>,
    /// The reading, V.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub reading_v: Option<f64>,
}

/// A mark of the meter strip.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct StripMark {
    /// Modules.
    pub modules_n: u32,
    /// Their volts now.
    pub volts_v: f64,
}

/// Geometry of the meter strip; none where nothing can be expected.
pub fn strip(sheet: &Sheet, x: &TestInputs) -> Option<MeterStrip> {
    let expected =
        sheet.figures.iter().find(|f| f.id == VOC_EXPECTED.id)?.value.as_ref()?.number()?;
    let one = expected / f64::from(x.n);
    // 5 %, but never half a module or more.
    let half_band = (expected * PASS_PCT / 100.0).min(one / 2.0);
    let (mut from, mut to) = ((expected - 4.5 * one).max(0.0), expected + 1.5 * one);
    if let Some(v) = x.measured_voc_v {
        from = from.min(v - one / 2.0);
        to = to.max(v + one / 2.0);
    }
    let first = (from / one).ceil().max(0.0) as u32;
    let last = (to / one).floor() as u32;
    let step = ((last.saturating_sub(first)) / 8 + 1).max(1);
    let marks = (first..=last)
        .filter(|k| k.abs_diff(x.n) % step == 0)
        .map(|k| StripMark { modules_n: k, volts_v: f64::from(k) * one })
        .collect();
    Some(MeterStrip {
        from_v: from,
        to_v: to,
        band_from_v: expected - half_band,
        band_to_v: expected + half_band,
        marks,
        reading_v: x.measured_voc_v,
    })
}
