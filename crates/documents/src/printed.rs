//! How values are printed on paper.

use heliant_core::figure::Value;
use heliant_core::library::SheetKind;
use heliant_core::quantity::{SPELLINGS, Unit};
use heliant_core::school::School;

use crate::Pack;

/// The tape of a string or branch in words.
pub(crate) fn tape(pack: &Pack, letter: &str) -> String {
    pack.report.tapes.iter().find(|t| t.letter == letter).map_or_else(String::new, |t| {
        match t.bands {
            0 => t.colour.to_owned(),
            n => format!("{}, {n} bands", t.colour),
        }
    })
}

/// A number with thin spaces in thousands and a true minus sign.
pub(crate) fn printed(n: f64, unit: Unit) -> String {
    let (text, sign) = (written(n, unit.format().decimals(n)), unit.sign());
    format!("{text}{}{sign}", if sign.is_empty() { "" } else { " " })
}

fn written(n: f64, d: usize) -> String {
    let text = format!("{:.d$}", n.abs());
    let (whole, rest) =
        text.split_once('.').map_or((text.as_str(), String::new()), |(w, r)| (w, format!(".{r}")));
    let mut grouped = String::new();
    for (i, c) in whole.chars().enumerate() {
        if i > 0 && (whole.len() - i).is_multiple_of(3) && whole.len() > 4 {
            grouped.push('\u{2009}');
        }
        grouped.push(c);
    }
    let minus =
        if n < 0.0 && text.bytes().any(|b| (b'1'..=b'9').contains(&b)) { "−" } else { "" };
    format!("{minus}{grouped}{rest}")
}

/// A number as the school's people measure it: lengths of the North American school in feet, with
/// the metres that workings go on with behind them.
pub(crate) fn measured(n: f64, unit: Unit, school: School) -> String {
    let metres = printed(n, unit);
    let feet = SPELLINGS.iter().find(|s| s.unit == unit && s.words.contains(&"ft"));
    match feet.filter(|_| school == School::Na && unit == Unit::M) {
        Some(feet) => {
            let (feet, d) = (n / feet.factor, feet.decimals);
            format!("{} ft ({metres})", written(feet, d))
        }
        None => metres,
    }
}

pub(crate) fn yes_no(is: bool) -> &'static str {
    if is { "yes" } else { "no" }
}

/// A value, `open` where there is none.
pub(crate) fn value(value: Option<&Value>, unit: Unit, school: School) -> String {
    match value {
        Some(Value::Number(n)) => measured(*n, unit, school),
        Some(Value::Text(t)) => t.clone(),
        Some(Value::Flag(is)) => yes_no(*is).to_owned(),
        None => "open".to_owned(),
    }
}

/// The word of a kind of data sheet on paper.
pub(crate) fn kind(kind: SheetKind) -> &'static str {
    match kind {
        SheetKind::Module => "module",
        SheetKind::Inverter => "inverter",
        SheetKind::Optimizer => "optimizer",
        SheetKind::Micro => "microinverter",
        SheetKind::Fuse => "fuse",
        SheetKind::Isolator => "isolator",
        SheetKind::Surge => "surge device",
        SheetKind::Breaker => "breaker",
        SheetKind::Combiner => "combiner",
        SheetKind::Enclosure => "enclosure",
    }
}
