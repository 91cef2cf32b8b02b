//! A value that remembers how it was computed. Formula, numbers and result come out of the same
//! arithmetic, so the working on paper cannot differ from the figure.

use std::ops::{Add, Div, Mul, Sub};

use crate::quantity::{self, Degrees, Percent, Quantity, Ratio};

const SUM: u8 = 1;
const PRODUCT: u8 = 2;
const ATOM: u8 = 3;

/// A quantity with the formula in symbols and the same formula with the numbers put in.
#[derive(Clone, Debug)]
pub struct Traced<Q> {
    /// The result.
    pub value: Q,
    /// The formula in symbols, e.g. `n × Voc × k_cold`.
    pub symbols: String,
    /// The same with numbers, e.g. `12 × 39.4 × 1.1274`.
    pub numbers: String,
    level: u8,
}

/// An input with its symbol.
pub fn given<Q: Quantity>(symbol: &str, value: Q) -> Traced<Q> {
    Traced { value, symbols: symbol.to_owned(), numbers: number(value.value()), level: ATOM }
}

/// A constant of the formula: its number is its symbol.
pub fn exact<Q: Quantity>(value: f64) -> Traced<Q> {
    let text = number(value);
    Traced { value: Q::of(value), symbols: text.clone(), numbers: text, level: ATOM }
}

/// A number for a working: six significant digits at most, a true minus sign, no trailing zeros.
pub fn number(value: f64) -> String {
    if value == 0.0 {
        return "0".to_owned();
    }
    let digits = (5.0 - value.abs().log10().floor()).clamp(0.0, 9.0) as usize;
    let mut text = format!("{:.*}", digits, value.abs());
    if text.contains('.') {
        text.truncate(text.trim_end_matches('0').trim_end_matches('.').len());
    }
    if value < 0.0 { format!("−{text}") } else { text }
}

impl<Q: Quantity> Traced<Q> {
    /// The result under a name of its own, for use in a further step.
    pub fn named(&self, symbol: &str) -> Traced<Q> {
        given(symbol, self.value)
    }

    fn call(self, name: &str, f: impl Fn(f64) -> f64) -> Traced<Q> {
        Traced {
            value: Q::of(f(self.value.value())),
            symbols: format!("{name}({})", self.symbols),
            numbers: format!("{name}({})", self.numbers),
            level: ATOM,
        }
    }

    /// Whole number at or below, with the slack of [`quantity::floor`].
    pub fn floor(self) -> Traced<Q> {
        self.call("floor", quantity::floor)
    }

    /// Whole number at or above, with the slack of [`quantity::ceil`].
    pub fn ceil(self) -> Traced<Q> {
        self.call("ceil", quantity::ceil)
    }

    /// The smaller of two.
    pub fn min(self, other: Traced<Q>) -> Traced<Q> {
        let pick = self.value.value() <= other.value.value();
        Traced {
            value: if pick { self.value } else { other.value },
            symbols: format!("min({}, {})", self.symbols, other.symbols),
            numbers: format!("min({}, {})", self.numbers, other.numbers),
            level: ATOM,
        }
    }

    /// The larger of two.
    pub fn max(self, other: Traced<Q>) -> Traced<Q> {
        let pick = self.value.value() >= other.value.value();
        Traced {
            value: if pick { self.value } else { other.value },
            symbols: format!("max({}, {})", self.symbols, other.symbols),
            numbers: format!("max({}, {})", self.numbers, other.numbers),
            level: ATOM,
        }
    }
}

impl Traced<Ratio> {
    /// Natural logarithm.
    pub fn ln(self) -> Traced<Ratio> {
        self.call("ln", f64::ln)
    }

    /// Square root.
    pub fn sqrt(self) -> Traced<Ratio> {
        self.call("sqrt", f64::sqrt)
    }

    /// The angle in radians whose sine this is, as a plain number.
    pub fn asin(self) -> Traced<Ratio> {
        self.call("asin", |x| x.clamp(-1.0, 1.0).asin())
    }

    /// The ratio in percent.
    pub fn percent(self) -> Traced<Percent> {
        let hundred = exact::<Percent>(100.0);
        self * hundred
    }
}

impl Traced<Ratio> {
    /// Raised to a power.
    pub fn power(self, exponent: Traced<Ratio>) -> Traced<Ratio> {
        Traced {
            value: Ratio(self.value.0.powf(exponent.value.0)),
            symbols: format!(
                "{}^{}",
                wrap(self.symbols, self.level, ATOM),
                wrap(exponent.symbols, exponent.level, ATOM)
            ),
            numbers: format!(
                "{}^{}",
                wrap(self.numbers, self.level, ATOM),
                wrap(exponent.numbers, exponent.level, ATOM)
            ),
            level: ATOM,
        }
    }

    /// The angle in degrees whose cosine this is.
    pub fn acos(self) -> Traced<Degrees> {
        let angle = self.call("acos", |x| x.clamp(-1.0, 1.0).acos().to_degrees());
        Traced {
            value: Degrees(angle.value.0),
            symbols: angle.symbols,
            numbers: angle.numbers,
            level: ATOM,
        }
    }
}

impl Traced<Degrees> {
    fn trig(self, name: &str, f: impl Fn(f64) -> f64) -> Traced<Ratio> {
        let angle = self.call(name, |x| f(x.to_radians()));
        Traced {
            value: Ratio(angle.value.0),
            symbols: angle.symbols,
            numbers: angle.numbers,
            level: ATOM,
        }
    }

    /// Sine.
    pub fn sin(self) -> Traced<Ratio> {
        self.trig("sin", f64::sin)
    }

    /// Cosine.
    pub fn cos(self) -> Traced<Ratio> {
        self.trig("cos", f64::cos)
    }
}

impl Traced<Percent> {
    /// The percentage as a fraction of one.
    pub fn fraction(self) -> Traced<Ratio> {
        let hundred = exact::<Percent>(100.0);
        self / hundred
    }
}

fn wrap(text: String, level: u8, least: u8) -> String {
    if level < least { format!("({text})") } else { text }
}

fn joined<A, B, C: Quantity>(
    a: Traced<A>,
    sign: &str,
    b: Traced<B>,
    value: C,
    level: u8,
    right_least: u8,
) -> Traced<C> {
    let bracketed = b.numbers.starts_with('−') || b.level < right_least;
    let right_numbers = if bracketed { format!("({})", b.numbers) } else { b.numbers };
    Traced {
        value,
        symbols: format!(
            "{} {sign} {}",
            wrap(a.symbols, a.level, level),
            wrap(b.symbols, b.level, right_least)
        ),
        numbers: format!("{} {sign} {right_numbers}", wrap(a.numbers, a.level, level)),
        level,
    }
}

macro_rules! operator {
    ($trait:ident $method:ident $sign:literal $level:expr, $right:expr) => {
        impl<A, B> $trait<Traced<B>> for Traced<A>
        where
            A: $trait<B> + Copy,
            B: Copy,
            A::Output: Quantity,
        {
            type Output = Traced<A::Output>;
            fn $method(self, other: Traced<B>) -> Traced<A::Output> {
                let value = self.value.$method(other.value);
                joined(self, $sign, other, value, $level, $right)
            }
        }
    };
}
operator!(Add add "+" SUM, SUM);
operator!(Sub sub "−" SUM, PRODUCT);
operator!(Mul mul "×" PRODUCT, PRODUCT);
operator!(Div div "/" PRODUCT, ATOM);

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::{Celsius, PercentPerKelvin, Volts};

    #[test]
    fn formula_numbers_and_result_agree() {
        let b = given("bVoc", PercentPerKelvin(-0.27));
        let k =
            exact::<Ratio>(1.0) + (b * (given("t_min", Celsius(-16.0)) - exact(25.0))).fraction();
        assert_eq!(k.symbols, "1 + bVoc × (t_min − 25) / 100");
        assert_eq!(k.numbers, "1 + (−0.27 × (−16 − 25) / 100)");
        // 1 + 0.0027 x 41, worked example 1
        assert!((k.value.0 - 1.1107).abs() < 1e-12);
        let v = given("n", Ratio(11.0)) * given("Voc", Volts(45.6)) * k.named("k_cold");
        assert_eq!(v.numbers, "11 × 45.6 × 1.1107");
        assert!((v.value.0 - 557.12712).abs() < 1e-9);
    }

    #[test]
    fn brackets_stand_where_the_arithmetic_needs_them() {
        let two = exact::<Ratio>(2.0);
        let e = two.clone() / (two.clone() * two.clone()) - (two.clone() - two.clone());
        assert_eq!(e.symbols, "2 / (2 × 2) − (2 − 2)");
        assert_eq!(e.value.0, 0.5);
        let f = exact::<Ratio>(25.0) - exact(-4.0);
        assert_eq!(f.numbers, "25 − (−4)");
    }

    #[test]
    fn numbers_are_short() {
        assert_eq!(number(557.127_12), "557.127");
        assert_eq!(number(-24.0), "−24");
        assert_eq!(number(0.006_090_2), "0.0060902");
        assert_eq!(number(11180.0), "11180");
    }
}
