//! What would explain a reading: causes with the numbers that speak for each.

use serde::Serialize;
use utoipa::ToSchema;

use super::TestInputs;
use crate::figure::said;
use crate::quantity::{Unit, above, below};

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

pub(super) fn count_of(x: &TestInputs, one: f64, reading: f64, code: &str) -> f64 {
    match code {
        "reversed_pair" | "bypass_section" => 1.0,
        "strings_in_series" => 2.0,
        "extra_module" | "missing_or_bypassed" => off_modules(x, one, reading).2,
        _ => 0.0,
    }
}

/// Causes that explain a reading, the likeliest first.
pub(super) fn causes(x: &TestInputs, one: f64, reading: f64) -> Vec<Cause> {
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
