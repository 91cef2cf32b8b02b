//! The running volts while a string is plugged together: after each module one module more.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::expected::{self, TestInputs};
use crate::figure::{Figure, Handle, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{Job, ReadingValues};
use crate::library::{Library, ModuleRatings};
use crate::quantity::{Ratio, Volts, below};

figures! { Test;
    /// Open-circuit volts of one module now.
    VOC_ONE: Volts = "test.voc_expected_one_v", "Expected volts of one module", "IEC 62446-1";
    /// The first module after which the running volts are off by about one module.
    FIRST_BAD: Count = "test.first_bad_n", "First module that is wrong", "IEC 62446-1";
}

/// Running volts of a string, as a case file has them.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct RunningInputs {
    /// The module.
    pub module: ModuleRatings,
    /// Cell temperature, °C.
    pub cell_c: Option<f64>,
    /// Irradiance in the plane of the modules, W/m².
    pub irradiance_w_m2: Option<f64>,
    /// Volts after 1, 2, 3 ... modules.
    pub readings_v: Vec<f64>,
}

/// What one module gives now, and the first reading that is off.
pub fn running(sheet: &mut Sheet, x: &RunningInputs) {
    let inputs = TestInputs {
        module: x.module.clone(),
        cell_c: x.cell_c,
        irradiance_w_m2: x.irradiance_w_m2,
        ..TestInputs::default()
    };
    let readings: Vec<Option<f64>> = x.readings_v.iter().map(|v| Some(*v)).collect();
    judged(sheet, &inputs, &readings);
}

fn judged(sheet: &mut Sheet, x: &TestInputs, readings: &[Option<f64>]) -> Handle<Volts> {
    // A single module of the string, on a sheet of its own: the string's figures are not asked.
    let mut aside = sheet.aside();
    let alone = TestInputs { n: 1, ..x.clone() };
    let t_cell = expected::t_cell(&mut aside, &alone);
    let volts = expected::voc_expected(&mut aside, &alone, &t_cell).volts;
    let one = sheet.figure(&VOC_ONE, |w| w.take("one module now", &volts));
    let first = one.value().and_then(|one| first_off(one, readings));
    let read_n = readings.iter().flatten().count();
    sheet.count(&FIRST_BAD, |w| {
        w.take("one module now", &one)?;
        match first {
            Some(k) => {
                Some(w.given("off by half a module or more after", Ratio(k as f64), "meter"))
            }
            None => {
                w.note(format!("All {read_n} readings grow by one module each."));
                None
            }
        }
    });
    let check = match (one.value(), first) {
        // Also where nothing is missing and there is no light.
        (None, _) => {
            let missing = one.missing().iter().copied();
            sheet.judge(&FIRST_BAD, Verdict::Unknown).misses(missing)
        }
        (Some(_), None) if read_n == 0 => sheet.known(&FIRST_BAD, ["readings_v"]),
        (Some(_), None) => sheet.judge(&FIRST_BAD, Verdict::Pass),
        (Some(_), Some(_)) => sheet.judge(&FIRST_BAD, Verdict::Fail),
    };
    if let Some((one, k)) = one.value().zip(first) {
        check.reason(why(one, k, readings));
    }
    one
}

/// The first reading that is off by half a module or more, from 1.
fn first_off(one: f64, readings: &[Option<f64>]) -> Option<usize> {
    let each = readings.iter().enumerate();
    let off = |(i, read): (usize, &Option<f64>)| {
        let read = (*read)?;
        let off = (read - (i + 1) as f64 * one).abs();
        (!below(off, one / 2.0)).then_some(i + 1)
    };
    each.filter_map(off).next()
}

/// What speaks for the module that is wrong.
fn why(one: f64, k: usize, readings: &[Option<f64>]) -> String {
    let read = readings[k - 1].unwrap_or_default();
    let before = if k == 1 { Some(0.0) } else { readings[k - 2] };
    let expected = k as f64 * one;
    let off = format!("After {k} it reads {read:.1} V, {expected:.1} V are expected");
    let Some(before) = before else {
        return format!("{off}; the one before was not read.");
    };
    let grew = (read - before) / one;
    if read < 0.0 && k == 1 {
        format!("{off}: the meter's leads or the module's are the wrong way round.")
    } else if (grew + 1.0).abs() < 0.25 {
        format!("{off}: module {k} takes one away, its leads are the wrong way round.")
    } else if grew.abs() < 0.25 {
        format!("{off}: module {k} adds nothing, its joint is open or it is left out.")
    } else if grew > 1.5 {
        format!("{off}: more than one module came with it.")
    } else {
        format!("{off}: module {k} adds {:.2} of a module.", grew)
    }
}

/// Running volts of a string of a job.
#[derive(Clone, Debug, Default, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RunningAsk {
    /// The string, with today's light and warmth.
    pub values: ReadingValues,
    /// Volts after 1, 2, 3 ... modules; none where it was not read.
    #[serde(default)]
    #[schema(max_items = 200)]
    pub readings_v: Vec<Option<f64>>,
}

/// What a string should read after each of its modules, and the first that is wrong.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Running {
    /// Expected volts after 1, 2, 3 ... modules; empty where light or warmth are not known.
    pub expected_v: Vec<f64>,
    /// The first module that is wrong, from 1.
    pub first_bad_n: Option<usize>,
    /// Why.
    pub reason: Option<String>,
    /// What it came to.
    pub verdict: Verdict,
    /// Inputs that are missing, by field.
    #[schema(value_type = Vec<String>)]
    pub missing: Vec<&'static str>,
    /// Its figures, with their working.
    pub figures: Vec<Figure>,
}

/// Judges the running volts of a string; none where it is not of the job.
pub fn plugging_in(job: &Job, library: &Library, ask: &RunningAsk) -> Option<Running> {
    let x = super::pass::inputs(job, library, &ask.values)?;
    let subject = Subject::string(&ask.values.string);
    let mut sheet = Sheet::new(job.school, subject);
    let one = judged(&mut sheet, &x, &ask.readings_v);
    let check = sheet.checks.pop()?;
    let after = |one: f64| (1..=x.n).map(|k| f64::from(k) * one).collect();
    Some(Running {
        expected_v: one.value().map(after).unwrap_or_default(),
        first_bad_n: one.value().and_then(|one| first_off(one, &ask.readings_v)),
        reason: check.reason,
        verdict: check.verdict,
        missing: check.missing,
        figures: sheet.figures,
    })
}
