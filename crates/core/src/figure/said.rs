//! A value in a sentence.

use std::fmt;

use crate::quantity::Unit;

/// A value with its unit, rounded as it is said; written out only when it is printed.
#[derive(Clone, Copy, Debug)]
pub struct Said {
    value: f64,
    unit: Unit,
}

/// A value for a sentence, with its unit.
pub fn said(value: f64, unit: Unit) -> Said {
    Said { value, unit }
}

impl fmt::Display for Said {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        let format = self.unit.format();
        let decimals = format.said(self.value);
        let text = format!("{:.*}", decimals, self.value.abs());
        if self.value < 0.0 && text.bytes().any(|b| (b'1'..=b'9').contains(&b)) {
            f.write_str("−")?;
        }
        f.write_str(&text)?;
        if format.sign.is_empty() { Ok(()) } else { write!(f, " {}", format.sign) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn volts_are_said_with_a_decimal_below_a_hundred() {
        for (value, unit, text) in [
            (99.94, Unit::V, "99.9 V"),
            (532.95, Unit::V, "533 V"),
            (-21.86, Unit::V, "−21.9 V"),
            (-0.04, Unit::A, "0.0 A"),
            (2.5, Unit::Percent, "2.5 %"),
            (11180.0, Unit::W, "11180 W"),
            (1.2, Unit::Count, "1"),
        ] {
            assert_eq!(said(value, unit).to_string(), text);
        }
    }
}
