//! Typed quantities. Arithmetic that makes no physical sense does not compile: a temperature
//! and a temperature difference are different types, volts are not added to amps.

mod spelling;
mod unit;

use std::ops::{Add, Div, Mul, Sub};

pub use spelling::{SPELLINGS, Spelling};
pub use unit::{FORMATS, Format, Unit};

/// A number with a physical kind.
pub trait Quantity: Copy {
    /// The unit of [`Quantity::value`].
    const UNIT: Unit;
    /// The number in [`Quantity::UNIT`].
    fn value(self) -> f64;
    /// A quantity of this kind.
    fn of(value: f64) -> Self;
}

macro_rules! quantities {
    ($($(#[$doc:meta])* $name:ident $unit:ident),* $(,)?) => {$(
        $(#[$doc])*
        #[derive(Clone, Copy, Debug, PartialEq, PartialOrd)]
        pub struct $name(pub f64);
        impl Quantity for $name {
            const UNIT: Unit = Unit::$unit;
            fn value(self) -> f64 { self.0 }
            fn of(value: f64) -> Self { Self(value) }
        }
    )*};
}

quantities! {
    /// A pure number: a factor, a count, a share.
    Ratio None,
    /// Volts.
    Volts V,
    /// Amperes.
    Amps A,
    /// Watts.
    Watts W,
    /// Volt-amperes.
    VoltAmperes Va,
    /// Ohms.
    Ohms Ohm,
    /// Ohms per metre of conductor.
    OhmsPerMetre OhmPerM,
    /// Metres.
    Metres M,
    /// Kilometres.
    Kilometres Km,
    /// Kilowatt-hours.
    KilowattHours KWh,
    /// Money, in the currency of the price list.
    Cost Cost,
    /// A temperature in degrees Celsius.
    Celsius Celsius,
    /// A difference of temperatures in kelvin.
    Kelvins Kelvin,
    /// A temperature coefficient in percent per kelvin.
    PercentPerKelvin PercentPerKelvin,
    /// Percent.
    Percent Percent,
    /// Inches.
    Inches Inch,
    /// Square inches.
    SquareInches Inch2,
    /// Millimetres.
    Millimetres Mm,
    /// Square millimetres.
    SquareMillimetres Mm2,
    /// Irradiance in watts per square metre.
    Irradiance WPerM2,
    /// An angle in degrees.
    Degrees Degree,
    /// Square metres.
    SquareMetres M2,
    /// Kilograms.
    Kilograms Kg,
    /// Kilograms per metre.
    KilogramsPerMetre KgPerM,
    /// Kilograms per square metre.
    KilogramsPerSquareMetre KgPerM2,
    /// Hours.
    Hours Hour,
    /// Minutes.
    Minutes Minute,
    /// Newtons.
    Newtons N,
    /// Newtons per metre.
    NewtonsPerMetre NPerM,
    /// Cubic inches.
    CubicInches Inch3,
}

macro_rules! vectors {
    ($($name:ident)*) => {$(
        impl Add for $name { type Output = $name; fn add(self, o: Self) -> Self {
            Self(self.0 + o.0) } }
        impl Sub for $name { type Output = $name; fn sub(self, o: Self) -> Self {
            Self(self.0 - o.0) } }
    )*};
}
vectors!(
    KilowattHours Cost Ratio Volts Amps Watts Ohms Metres Kelvins Percent SquareInches
    SquareMillimetres Irradiance Degrees SquareMetres Kilograms Millimetres Inches Newtons
    NewtonsPerMetre CubicInches Minutes VoltAmperes OhmsPerMetre
);

macro_rules! scaled {
    ($($name:ident)*) => {$(
        impl Mul<$name> for Ratio { type Output = $name; fn mul(self, o: $name) -> $name {
            $name(self.0 * o.0) } }
        impl Mul<Ratio> for $name { type Output = $name; fn mul(self, o: Ratio) -> $name {
            $name(self.0 * o.0) } }
        impl Div<Ratio> for $name { type Output = $name; fn div(self, o: Ratio) -> $name {
            $name(self.0 / o.0) } }
        impl Div for $name { type Output = Ratio; fn div(self, o: Self) -> Ratio {
            Ratio(self.0 / o.0) } }
    )*};
}
scaled!(
    KilowattHours Cost Volts Amps Watts Ohms OhmsPerMetre Metres Kilometres Kelvins PercentPerKelvin
    Percent Inches SquareInches Millimetres SquareMillimetres Irradiance Degrees SquareMetres
    Kilograms Newtons NewtonsPerMetre CubicInches Hours Minutes VoltAmperes
);

macro_rules! products {
    ($($a:ident * $b:ident = $c:ident),* $(,)?) => {$(
        impl Mul<$b> for $a { type Output = $c; fn mul(self, o: $b) -> $c { $c(self.0 * o.0) } }
    )*};
}
products! {
    Ratio * Ratio = Ratio,
    Amps * Ohms = Volts,
    Ohms * Amps = Volts,
    Volts * Amps = Watts,
    OhmsPerMetre * Metres = Ohms,
    Metres * OhmsPerMetre = Ohms,
    PercentPerKelvin * Kelvins = Percent,
    Inches * Inches = SquareInches,
    Millimetres * Millimetres = SquareMillimetres,
    Metres * Metres = SquareMetres,
    Metres * KilogramsPerMetre = Kilograms,
    NewtonsPerMetre * Metres = Newtons,
}

impl Div for Ratio {
    type Output = Ratio;
    fn div(self, o: Self) -> Ratio {
        Ratio(self.0 / o.0)
    }
}

impl Div<SquareMetres> for Kilograms {
    type Output = KilogramsPerSquareMetre;
    fn div(self, o: SquareMetres) -> KilogramsPerSquareMetre {
        KilogramsPerSquareMetre(self.0 / o.0)
    }
}

impl Div<Metres> for Newtons {
    type Output = NewtonsPerMetre;
    fn div(self, o: Metres) -> NewtonsPerMetre {
        NewtonsPerMetre(self.0 / o.0)
    }
}

impl Div<Volts> for Watts {
    type Output = Amps;
    fn div(self, o: Volts) -> Amps {
        Amps(self.0 / o.0)
    }
}

impl Div<Volts> for VoltAmperes {
    type Output = Amps;
    fn div(self, o: Volts) -> Amps {
        Amps(self.0 / o.0)
    }
}

impl Div<Ohms> for Volts {
    type Output = Amps;
    fn div(self, o: Ohms) -> Amps {
        Amps(self.0 / o.0)
    }
}

impl Div<Amps> for Volts {
    type Output = Ohms;
    fn div(self, o: Amps) -> Ohms {
        Ohms(self.0 / o.0)
    }
}

impl Sub for Celsius {
    type Output = Kelvins;
    fn sub(self, o: Self) -> Kelvins {
        Kelvins(self.0 - o.0)
    }
}

impl Add<Kelvins> for Celsius {
    type Output = Celsius;
    fn add(self, o: Kelvins) -> Celsius {
        Celsius(self.0 + o.0)
    }
}

/// Slack against rounding noise: 1e-9, relative, never less than that of one.
pub fn slack(y: f64) -> f64 {
    1e-9 * y.abs().max(1.0)
}

/// `x > y` beyond rounding noise, so that exactly on a limit is inside it.
pub fn above(x: f64, y: f64) -> bool {
    x > y + slack(y)
}

/// `x < y` beyond rounding noise.
pub fn below(x: f64, y: f64) -> bool {
    x < y - slack(y)
}

/// Whole number at or below `x`, after adding the slack.
pub fn floor(x: f64) -> f64 {
    (x + slack(x)).floor()
}

/// Whole number at or above `x`, after taking off the slack.
pub fn ceil(x: f64) -> f64 {
    (x - slack(x)).ceil()
}

/// Millimetres in an inch.
pub const MM_PER_INCH: f64 = 25.4;

/// Metres in a foot.
pub const METRES_PER_FOOT: f64 = 0.3048;

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn on_a_limit_is_inside_it() {
        // 12 x 40.0 x 1.25 = 600 V on a 600 V ceiling.
        assert!(!above(12.0 * 40.0 * 1.25, 600.0));
        assert!(above(600.001, 600.0));
        assert!(!below(0.1 + 0.2, 0.3));
    }

    #[test]
    fn floor_and_ceil_forgive_rounding_noise() {
        // 0.7 / 0.1 is 6.999999999999999 in binary.
        assert_eq!(floor(0.7 / 0.1), 7.0);
        // 0.1 x 3 is 0.30000000000000004.
        assert_eq!(ceil(0.1 * 3.0 / 0.1), 3.0);
    }

    #[test]
    fn a_difference_of_temperatures_is_no_temperature() {
        let Kelvins(rise) = Celsius(68.0) - Celsius(25.0);
        assert_eq!(rise, 43.0);
        assert_eq!(Celsius(33.0) + Kelvins(35.0), Celsius(68.0));
    }
}
