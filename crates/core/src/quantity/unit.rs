//! Units, and how values in them are written: the one table that screen, paper and sentences share.

use serde::Serialize;
use utoipa::ToSchema;

/// The unit a figure is given in, as it stands on the wire. SI inside; inches only where a
/// rule table is written in them.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub enum Unit {
    /// No unit: a factor or a ratio.
    #[serde(rename = "ratio")]
    None,
    /// A count.
    #[serde(rename = "n")]
    Count,
    /// Volts.
    V,
    /// Amperes.
    A,
    /// Watts.
    W,
    /// Volt-amperes.
    #[serde(rename = "VA")]
    Va,
    /// Ohms.
    #[serde(rename = "ohm")]
    Ohm,
    /// Ohms per metre.
    #[serde(rename = "ohm/m")]
    OhmPerM,
    /// Metres.
    #[serde(rename = "m")]
    M,
    /// Kilometres.
    #[serde(rename = "km")]
    Km,
    /// Kilowatt-hours.
    #[serde(rename = "kWh")]
    KWh,
    /// Money, in the currency of the price list.
    #[serde(rename = "cost")]
    Cost,
    /// Degrees Celsius, a temperature.
    #[serde(rename = "degC")]
    Celsius,
    /// Kelvin, a temperature difference.
    #[serde(rename = "K")]
    Kelvin,
    /// Percent per kelvin: a temperature coefficient as data sheets give it.
    #[serde(rename = "%/K")]
    PercentPerKelvin,
    /// Percent.
    #[serde(rename = "%")]
    Percent,
    /// Inches.
    #[serde(rename = "in")]
    Inch,
    /// Square inches.
    #[serde(rename = "in2")]
    Inch2,
    /// Millimetres.
    #[serde(rename = "mm")]
    Mm,
    /// Square millimetres.
    #[serde(rename = "mm2")]
    Mm2,
    /// Watts per square metre.
    #[serde(rename = "W/m2")]
    WPerM2,
    /// Degrees of arc.
    #[serde(rename = "deg")]
    Degree,
    /// Square metres.
    #[serde(rename = "m2")]
    M2,
    /// Kilograms.
    #[serde(rename = "kg")]
    Kg,
    /// Kilograms per metre.
    #[serde(rename = "kg/m")]
    KgPerM,
    /// Kilograms per square metre.
    #[serde(rename = "kg/m2")]
    KgPerM2,
    /// Hours.
    #[serde(rename = "h")]
    Hour,
    /// Minutes.
    #[serde(rename = "min")]
    Minute,
    /// Newtons.
    N,
    /// Newtons per metre.
    #[serde(rename = "N/m")]
    NPerM,
    /// Cubic inches.
    #[serde(rename = "in3")]
    Inch3,
}

/// How values of a unit are written.
#[derive(Clone, Copy, Debug, Serialize)]
pub struct Format {
    /// The unit.
    pub unit: Unit,
    /// What stands behind the number.
    pub sign: &'static str,
    /// Decimals of a value below a hundred, and from there on.
    pub decimals: [usize; 2],
    /// The same in a sentence.
    pub said: [usize; 2],
}

const fn row(unit: Unit, sign: &'static str, decimals: [usize; 2], said: [usize; 2]) -> Format {
    Format { unit, sign, decimals, said }
}

/// Every unit's format.
pub static FORMATS: [Format; 31] = [
    row(Unit::None, "", [4, 4], [4, 4]),
    row(Unit::Count, "", [0, 0], [0, 0]),
    row(Unit::V, "V", [2, 1], [1, 0]),
    row(Unit::A, "A", [2, 1], [1, 0]),
    row(Unit::W, "W", [0, 0], [0, 0]),
    row(Unit::Va, "VA", [0, 0], [0, 0]),
    row(Unit::Ohm, "ohm", [4, 4], [4, 4]),
    row(Unit::OhmPerM, "ohm/m", [4, 4], [4, 4]),
    row(Unit::M, "m", [2, 2], [2, 2]),
    row(Unit::Km, "km", [1, 1], [1, 1]),
    row(Unit::KWh, "kWh", [1, 1], [1, 1]),
    row(Unit::Cost, "", [2, 0], [2, 0]),
    row(Unit::Celsius, "°C", [1, 1], [1, 1]),
    row(Unit::Kelvin, "K", [1, 1], [1, 1]),
    row(Unit::PercentPerKelvin, "%/°C", [3, 3], [3, 3]),
    row(Unit::Percent, "%", [2, 1], [1, 0]),
    row(Unit::Inch, "in", [3, 3], [3, 3]),
    row(Unit::Inch2, "in²", [4, 4], [4, 4]),
    row(Unit::Mm, "mm", [2, 2], [2, 2]),
    row(Unit::Mm2, "mm²", [1, 1], [1, 1]),
    row(Unit::WPerM2, "W/m²", [0, 0], [0, 0]),
    row(Unit::Degree, "°", [2, 2], [2, 2]),
    row(Unit::M2, "m²", [2, 1], [1, 0]),
    row(Unit::Kg, "kg", [1, 0], [1, 0]),
    row(Unit::KgPerM, "kg/m", [2, 2], [2, 2]),
    row(Unit::KgPerM2, "kg/m²", [1, 1], [1, 1]),
    row(Unit::Hour, "h", [2, 2], [1, 1]),
    row(Unit::Minute, "min", [1, 1], [1, 1]),
    row(Unit::N, "N", [1, 0], [0, 0]),
    row(Unit::NPerM, "N/m", [1, 0], [0, 0]),
    row(Unit::Inch3, "in³", [2, 2], [2, 2]),
];

fn of(two: [usize; 2], value: f64) -> usize {
    two[usize::from(value.abs() >= 100.0)]
}

impl Format {
    /// Decimals a value has on screen and paper. A ratio that is whole has none.
    pub fn decimals(&self, value: f64) -> usize {
        if self.unit == Unit::None && value.fract() == 0.0 { 0 } else { of(self.decimals, value) }
    }

    /// Decimals a value has in a sentence.
    pub fn said(&self, value: f64) -> usize {
        of(self.said, value)
    }
}

impl Unit {
    /// How its values are written.
    pub fn format(self) -> &'static Format {
        &FORMATS[self as usize]
    }

    /// The unit as it is printed after a number.
    pub fn sign(self) -> &'static str {
        self.format().sign
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_unit_stands_at_its_own_place_in_the_table() {
        for (i, format) in FORMATS.iter().enumerate() {
            assert_eq!(format.unit as usize, i, "{:?}", format.unit);
            assert_eq!(format.unit.format().unit, format.unit);
        }
    }

    #[test]
    fn large_volts_have_a_decimal_fewer() {
        let volts = Unit::V.format();
        assert_eq!((volts.decimals(99.9), volts.decimals(-100.0)), (2, 1));
        assert_eq!((volts.said(99.9), volts.said(100.0)), (1, 0));
        // A count of modules as a ratio is not 12.0000.
        assert_eq!((Unit::None.format().decimals(12.0), Unit::None.format().decimals(0.5)), (0, 4));
    }
}
