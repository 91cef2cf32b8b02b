//! A reading against what it should be.

use super::diagnosis::{Cause, causes, count_of};
use super::expected::{Expected, TestInputs};
use super::{LEAST_LIGHT_W_M2, PASS_PCT, WARN_PCT};
use crate::figure::{Bound, Check, Def, Handle, Sheet, Value, Verdict, Working, said};
use crate::figures;
use crate::quantity::{
    Amps, Celsius, Percent, PercentPerKelvin, Quantity, Ratio, Unit, Volts, above, below,
};
use crate::stages::strings::at_temperature;
use crate::traced::given;

figures! { Test;
    /// The reading of open-circuit volts.
    VOC: Volts = "test.voc_v", "Open-circuit volts", "IEC 62446-1";
    /// The reading of short-circuit current.
    ISC: Amps = "test.isc_a", "Short-circuit current", "IEC 62446-1";
    /// What the string would read on the coldest morning.
    VOC_SAFE: Volts = "test.voc_safe_v",
        "The string as read, on the coldest morning", na "690.7", iec "IEC 62548";
    /// How far the volts are off.
    VOC_OFF: Volts = "test.voc_off_v", "Off the expected volts", "IEC 62446-1";
    /// The same in percent.
    VOC_OFF_PCT: Percent = "test.voc_off_pct", "Off the expected volts", "IEC 62446-1";
    /// The current off, in percent.
    ISC_OFF_PCT: Percent = "test.isc_off_pct", "Off the expected current", "IEC 62446-1";
    /// First-ranked cause of the volts.
    CAUSE: Word = "diagnosis.cause", "Likely cause", "expected volts per module";
    /// Its count of modules or strings.
    MODULES_N: Count = "diagnosis.modules_n", "Modules concerned", "expected volts per module";
    /// First-ranked cause of the current.
    ISC_CAUSE: Word = "diagnosis.isc_cause", "Likely cause of the current", "expected current";
}

/// `(reading - expected) / expected` in percent, as a figure.
fn off_pct<Q>(
    sheet: &mut Sheet,
    def: &'static Def<Percent>,
    reading: Q,
    expected: &Handle<Q>,
) -> Handle<Percent>
where
    Q: Quantity + std::ops::Sub<Output = Q> + std::ops::Div<Output = Ratio>,
{
    sheet.figure(def, |w| {
        let expected = w.take("expected", expected)?;
        let reading = w.given("reading", reading, "meter");
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

/// Judges the volts; gives their causes, the likeliest first.
pub(super) fn judge_voc(
    sheet: &mut Sheet,
    x: &TestInputs,
    expected: &Expected,
    reading: f64,
) -> Vec<Cause> {
    sheet.figure(&VOC, |w| Some(w.given("reading", Volts(reading), "meter")));
    sheet.figure(&VOC_OFF, |w| {
        let expected = w.take("expected", &expected.volts)?;
        Some(w.given("reading", Volts(reading), "meter") - expected)
    });
    let off = off_pct(sheet, &VOC_OFF_PCT, Volts(reading), &expected.volts);
    let known = expected.one_v.zip(expected.volts.value()).zip(off.value());
    let Some(((one, volts), off)) = known else {
        return without_light(sheet, x, expected, reading);
    };
    let half_off = !below((reading - volts).abs(), one / 2.0);
    let verdict = match banded(off) {
        _ if reading < 0.0 => Verdict::Fail,
        Verdict::Pass if half_off => Verdict::Warn,
        other => other,
    };
    let causes = causes(x, one, reading);
    let first = &causes[0];
    let count = count_of(x, one, reading, first.code);
    let check = sheet.judge(&VOC, verdict);
    check.unit = Unit::V;
    check.reason(&first.text);
    cure_voc(check, first.code);
    coldest_morning(sheet, x, expected, reading);
    let lines = |w: &mut Working| {
        let one = w.given("one module now", Volts(one), expected.volts.id());
        let expected = w.take("expected", &expected.volts)?;
        let reading = w.given("reading", Volts(reading), "meter");
        w.step("off, in modules", (reading - expected) / one);
        Some(())
    };
    sheet.word(&CAUSE, |w| {
        lines(w);
        Some(Value::Text(first.code.to_owned()))
    });
    sheet.count(&MODULES_N, |w| {
        lines(w);
        Some(w.given("modules or strings", Ratio(count), CAUSE.id))
    });
    causes
}

/// Polarity, and volts above what the string may reach, need no light reading.
fn without_light(
    sheet: &mut Sheet,
    x: &TestInputs,
    expected: &Expected,
    reading: f64,
) -> Vec<Cause> {
    let reversed = reading < 0.0;
    let too_high = x.limit_v.filter(|limit| above(reading.abs(), *limit));
    let verdict = if reversed || too_high.is_some() { Verdict::Fail } else { Verdict::Unknown };
    let check = sheet.judge(&VOC, verdict).misses(expected.volts.missing().to_vec());
    check.unit = Unit::V;
    let read = said(reading, Unit::V);
    if reversed {
        check.reason(format_args!("The pair is reversed, or the probes are: {read}."));
        cure_voc(check, "reversed_pair");
    } else if let Some(limit) = too_high {
        check.reason(format_args!(
            "{read} is above the {} the string may reach, whatever the light.",
            said(limit, Unit::V)
        ));
        cure_voc(check, "extra_module");
    } else {
        check.reason("Nothing can be expected yet: light and temperature make the expected volts.");
    }
    coldest_morning(sheet, x, expected, reading);
    if reversed {
        sheet.word(&CAUSE, |w| {
            w.given("reading", Volts(reading), "meter");
            Some(Value::Text("reversed_pair".to_owned()))
        });
        sheet.count(&MODULES_N, |w| Some(w.given("pairs", Ratio(1.0), CAUSE.id)));
    }
    Vec::new()
}

/// The reading carried to the coldest morning, against the highest volts allowed: a string with a
/// module too many is kept off the inverter however well it reads.
fn coldest_morning(sheet: &mut Sheet, x: &TestInputs, expected: &Expected, reading: f64) {
    let Some(limit) = x.limit_v else { return };
    let safe = sheet.figure(&VOC_SAFE, |w| {
        let expected = w.take("expected", &expected.volts)?;
        let read = w.given("|reading|", Volts(reading.abs()), "meter");
        let of_sheet = "module data sheet";
        let voc = w.need::<Volts>("Voc", x.module.voc_v, "module.voc_v", of_sheet);
        let b = x.module.b_voc_pct_c;
        let b = w.need::<PercentPerKelvin>("bVoc", b, "module.b_voc_pct_c", of_sheet);
        let t = w.need::<Celsius>("t_min", x.t_min_c, "site.t_min_c", "site");
        let k = w.step("k_cold", at_temperature(b?, t?));
        let n = w.given("n", Ratio(f64::from(x.n)), "modules in series");
        Some(read / expected * n * voc? * k)
    });
    let most = Bound::at_most(limit, "highest DC volts allowed");
    let check = sheet.hold(&safe, most, Verdict::Fail);
    if safe.value().is_none() && above(reading.abs(), limit) {
        check.verdict = Verdict::Fail;
        check.missing.clear();
    }
    if check.verdict == Verdict::Pass && !x.open_limits.is_empty() {
        check.verdict = Verdict::Unknown;
        check.misses(x.open_limits.iter().copied());
    }
    check
        .reason(if check.verdict == Verdict::Fail {
            "On the coldest morning the string passes the highest volts allowed: it would damage \
             the inverter."
        } else {
            "It cannot be said yet what the string would read on the coldest morning, or how much \
             it may."
        })
        .cure("Keep the isolator locked off; count the modules of the string.", Vec::new());
}

fn cure_voc(check: &mut Check, code: &str) {
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

/// Judges the current.
pub(super) fn judge_isc(sheet: &mut Sheet, x: &TestInputs, expected: &Handle<Amps>, reading: f64) {
    sheet.figure(&ISC, |w| Some(w.given("reading", Amps(reading), "meter")));
    let off = off_pct(sheet, &ISC_OFF_PCT, Amps(reading), expected);
    let unsteady = match (x.irradiance_first_w_m2, x.irradiance_last_w_m2) {
        (Some(a), Some(b)) => above((a - b).abs() / ((a + b) / 2.0) * 100.0, PASS_PCT),
        _ => false,
    };
    let dim = x.irradiance_w_m2.is_none_or(|g| below(g, LEAST_LIGHT_W_M2));
    let verdict = match off.value() {
        Some(off) if !dim && !unsteady => banded(off),
        _ => Verdict::Unknown,
    };
    let check = sheet.judge(&ISC, verdict);
    check.unit = Unit::A;
    if verdict == Verdict::Unknown {
        check.misses(expected.missing().to_vec());
        check.reason(if unsteady {
            "The light moved more than 5 % during the set: wait for a steady sky."
        } else {
            "Below 400 W/m² the current says nothing: wait for more light."
        });
    } else {
        let off = said(off.value().unwrap_or(0.0), Unit::Percent);
        check.reason(format_args!("{off} off the expected current."));
        check.cure(
            "Shade, soiling or a poor joint: clean, wait for even light and read again.",
            Vec::new(),
        );
    }
    let Some(expected) = expected.value() else { return };
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
    sheet.word(&ISC_CAUSE, |w| {
        let ratio = given("reading", Amps(reading)) / given("expected", Amps(expected));
        w.step("reading by expected", ratio);
        Some(Value::Text(code.to_owned()))
    });
}
