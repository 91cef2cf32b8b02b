//! How people write units: what is typed in feet, inches or degrees Fahrenheit is kept in the unit
//! of its field.

use serde::Serialize;

use super::Unit;

/// A way to write a unit: `kept = typed × factor + offset`.
#[derive(Clone, Copy, Debug, Serialize)]
pub struct Spelling {
    /// The unit it comes to.
    pub unit: Unit,
    /// How it is written, lower case; the first is how it is shown.
    pub words: &'static [&'static str],
    /// What one of it is in `unit`.
    pub factor: f64,
    /// What nought of it is in `unit`.
    pub offset: f64,
    /// Decimals it is shown with.
    pub decimals: usize,
}

const fn row(
    unit: Unit,
    words: &'static [&'static str],
    factor: f64,
    offset: f64,
    decimals: usize,
) -> Spelling {
    Spelling { unit, words, factor, offset, decimals }
}

/// One inch is 25.4 mm and one foot 12 of them (international yard and pound agreement of 1959);
/// degrees Fahrenheit are 32 above freezing and nine to five of Celsius.
pub static SPELLINGS: [Spelling; 16] = [
    row(Unit::M, &["m", "metre", "metres", "meter", "meters"], 1.0, 0.0, 2),
    row(Unit::M, &["ft", "foot", "feet", "'", "′", "’"], 0.3048, 0.0, 1),
    row(Unit::M, &["in", "inch", "inches", "\"", "″", "”"], 0.0254, 0.0, 1),
    row(Unit::M, &["cm"], 0.01, 0.0, 1),
    row(Unit::M, &["mm"], 0.001, 0.0, 0),
    row(Unit::Mm, &["mm"], 1.0, 0.0, 0),
    row(Unit::Mm, &["in", "inch", "inches", "\"", "″", "”"], 25.4, 0.0, 2),
    row(Unit::Mm, &["ft", "foot", "feet", "'", "′", "’"], 304.8, 0.0, 3),
    row(Unit::Mm, &["cm"], 10.0, 0.0, 1),
    row(Unit::Mm, &["m", "metre", "metres", "meter", "meters"], 1000.0, 0.0, 3),
    row(Unit::Celsius, &["°c", "c", "celsius"], 1.0, 0.0, 1),
    row(Unit::Celsius, &["°f", "f", "fahrenheit"], 5.0 / 9.0, -32.0 * 5.0 / 9.0, 1),
    row(Unit::Kelvin, &["k", "°c", "c"], 1.0, 0.0, 1),
    row(Unit::Kelvin, &["°f", "f"], 5.0 / 9.0, 0.0, 1),
    row(Unit::Kg, &["kg"], 1.0, 0.0, 1),
    row(Unit::Kg, &["lb", "lbs", "pounds"], 0.453_592_37, 0.0, 1),
];

#[cfg(test)]
mod tests {
    use super::*;

    fn kept(unit: Unit, word: &str, typed: f64) -> f64 {
        let own = |s: &&Spelling| s.unit == unit && s.words.contains(&word);
        let mut found = SPELLINGS.iter().filter(own);
        let s = found.next().unwrap_or_else(|| panic!("no {word}"));
        assert!(found.next().is_none(), "{word} is written once for {unit:?}");
        typed * s.factor + s.offset
    }

    #[test]
    fn what_is_typed_comes_to_what_it_is() {
        for (unit, word, typed, wanted) in [
            (Unit::M, "ft", 60.0, 18.288),
            (Unit::M, "\"", 6.0, 0.1524),
            (Unit::Mm, "in", 67.8, 1722.12),
            (Unit::Celsius, "f", 212.0, 100.0),
            (Unit::Celsius, "f", -40.0, -40.0),
            // A rise of nine is a rise of five.
            (Unit::Kelvin, "f", 9.0, 5.0),
            (Unit::Kg, "lb", 100.0, 45.359_237),
        ] {
            let kept = kept(unit, word, typed);
            assert!((kept - wanted).abs() < 1e-9, "{typed} {word} is {kept}");
        }
    }

    #[test]
    fn every_spelling_is_written_once_in_its_unit_and_small() {
        for s in &SPELLINGS {
            for word in s.words {
                kept(s.unit, word, 1.0);
                assert_eq!(*word, word.to_lowercase());
            }
        }
    }
}
