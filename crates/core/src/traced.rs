//! A value that remembers how it was computed. Formula, numbers and result come out of the same
//! arithmetic, so the working on paper cannot differ from the figure.
//!
//! Where nobody asks for the working, nothing is remembered: a [`silent`] value stays silent
//! through every step. The arithmetic is the same, line by line.
//!
//! ```
//! use heliant_core::quantity::{Ratio, Volts};
//! use heliant_core::traced::given;
//!
//! let volts = given("n", Ratio(12.0)) * given("Voc", Volts(39.4));
//! assert_eq!(volts.value, Volts(12.0 * 39.4));
//! assert_eq!(volts.symbols(), "n × Voc");
//! assert_eq!(volts.numbers(), "12 × 39.4");
//! ```

use std::fmt;
use std::ops::{Add, Div, Mul, Sub};

use crate::quantity::{self, Degrees, Hours, Minutes, Percent, Quantity, Ratio};

const SUM: u8 = 1;
const PRODUCT: u8 = 2;
const ATOM: u8 = 3;

/// A quantity with the formula in symbols and the same formula with the numbers put in.
#[derive(Clone, Debug)]
pub struct Traced<Q> {
    /// The result.
    pub value: Q,
    text: Text,
}

/// What is remembered beside the value.
#[derive(Clone, Debug)]
enum Text {
    /// Nothing: the working was not asked for.
    Silent,
    /// A constant, whose number is its symbol; written out only where it meets a formula.
    Constant,
    /// A formula.
    Formula(Box<Formula>),
}

#[derive(Clone, Debug)]
struct Formula {
    /// In symbols, e.g. `n × Voc × k_cold`.
    symbols: String,
    /// The same with numbers, e.g. `12 × 39.4 × 1.1274`.
    numbers: String,
    /// How tightly the outermost operation binds.
    level: u8,
}

impl Formula {
    fn atom(symbols: String, numbers: String) -> Text {
        Text::Formula(Box::new(Formula { symbols, numbers, level: ATOM }))
    }
}

/// An input with its symbol.
pub fn given<Q: Quantity>(symbol: &str, value: Q) -> Traced<Q> {
    Traced { value, text: Formula::atom(symbol.to_owned(), number(value.value())) }
}

/// An input of which nothing is remembered.
pub fn silent<Q: Quantity>(value: Q) -> Traced<Q> {
    Traced { value, text: Text::Silent }
}

/// A constant of the formula: its number is its symbol.
pub fn exact<Q: Quantity>(value: f64) -> Traced<Q> {
    Traced { value: Q::of(value), text: Text::Constant }
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

/// A number as [`number`] writes it, written only where it is shown.
#[derive(Clone, Copy, Debug)]
pub struct Short(pub f64);

impl fmt::Display for Short {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        f.write_str(&number(self.0))
    }
}

impl<Q: Quantity> Traced<Q> {
    /// The result under a name of its own, for use in a further step.
    pub fn named(&self, symbol: &str) -> Traced<Q> {
        match self.text {
            Text::Silent => silent(self.value),
            _ => given(symbol, self.value),
        }
    }

    /// The formula in symbols; empty where nothing is remembered.
    pub fn symbols(&self) -> String {
        self.formula().map_or_else(String::new, |f| f.symbols)
    }

    /// The formula with the numbers put in; empty where nothing is remembered.
    pub fn numbers(&self) -> String {
        self.formula().map_or_else(String::new, |f| f.numbers)
    }

    fn is_silent(&self) -> bool {
        matches!(self.text, Text::Silent)
    }

    /// Both texts, without a copy.
    pub fn into_texts(self) -> (String, String) {
        self.into_formula().map_or_else(Default::default, |f| (f.symbols, f.numbers))
    }

    /// Whether it is nothing but a name or a constant of this text.
    pub fn is_called(&self, name: &str) -> bool {
        match &self.text {
            Text::Silent => name.is_empty(),
            Text::Constant => number(self.value.value()) == name,
            Text::Formula(formula) => formula.symbols == name,
        }
    }

    fn formula(&self) -> Option<Formula> {
        self.clone().into_formula()
    }

    fn into_formula(self) -> Option<Formula> {
        match self.text {
            Text::Silent => None,
            Text::Constant => {
                let text = number(self.value.value());
                Some(Formula { symbols: text.clone(), numbers: text, level: ATOM })
            }
            Text::Formula(formula) => Some(*formula),
        }
    }

    fn call<R: Quantity>(self, name: &str, f: impl Fn(f64) -> f64) -> Traced<R> {
        let value = R::of(f(self.value.value()));
        let text = self.into_formula().map_or(Text::Silent, |inner| {
            let called = |inner: &str| format!("{name}({inner})");
            Formula::atom(called(&inner.symbols), called(&inner.numbers))
        });
        Traced { value, text }
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
        let first = self.value.value() <= other.value.value();
        self.either("min", other, first)
    }

    /// The larger of two.
    pub fn max(self, other: Traced<Q>) -> Traced<Q> {
        let first = self.value.value() >= other.value.value();
        self.either("max", other, first)
    }

    fn either(self, name: &str, other: Traced<Q>, first: bool) -> Traced<Q> {
        let value = if first { self.value } else { other.value };
        let silent = self.is_silent() || other.is_silent();
        let text = match (self.into_formula(), other.into_formula()) {
            (Some(a), Some(b)) if !silent => {
                let called = |a: &str, b: &str| format!("{name}({a}, {b})");
                Formula::atom(called(&a.symbols, &b.symbols), called(&a.numbers, &b.numbers))
            }
            _ => Text::Silent,
        };
        Traced { value, text }
    }
}

impl Traced<Ratio> {
    /// Natural logarithm.
    pub fn ln(self) -> Traced<Ratio> {
        self.call("ln", f64::ln)
    }

    /// e to this power.
    pub fn exp(self) -> Traced<Ratio> {
        self.call("exp", f64::exp)
    }

    /// Square root.
    pub fn sqrt(self) -> Traced<Ratio> {
        self.call("sqrt", f64::sqrt)
    }

    /// The angle in radians whose sine this is, as a plain number.
    pub fn asin(self) -> Traced<Ratio> {
        self.call("asin", |x| x.clamp(-1.0, 1.0).asin())
    }

    /// As percent.
    pub fn percent(self) -> Traced<Percent> {
        self * exact::<Percent>(100.0)
    }

    /// To the power of another.
    pub fn power(self, exponent: Traced<Ratio>) -> Traced<Ratio> {
        let value = Ratio(self.value.0.powf(exponent.value.0));
        let text = match (self.into_formula(), exponent.into_formula()) {
            (Some(a), Some(b)) => {
                let raised = |base, exp| {
                    format!("{}^{}", wrap(base, a.level, ATOM), wrap(exp, b.level, ATOM))
                };
                Formula::atom(raised(a.symbols, b.symbols), raised(a.numbers, b.numbers))
            }
            _ => Text::Silent,
        };
        Traced { value, text }
    }

    /// The angle in degrees whose cosine this is.
    pub fn acos(self) -> Traced<Degrees> {
        self.call("acos", |x| x.clamp(-1.0, 1.0).acos().to_degrees())
    }
}

impl Traced<Degrees> {
    /// Sine.
    pub fn sin(self) -> Traced<Ratio> {
        self.call("sin", |x| x.to_radians().sin())
    }

    /// Cosine.
    pub fn cos(self) -> Traced<Ratio> {
        self.call("cos", |x| x.to_radians().cos())
    }
}

impl<Q: Quantity> Traced<Q> {
    /// The number of its units, to be multiplied with what one of them is worth.
    pub fn bare(self) -> Traced<Ratio> {
        Traced { value: Ratio(self.value.value()), text: self.text }
    }
}

impl Traced<Minutes> {
    /// As hours.
    pub fn hours(self) -> Traced<Hours> {
        let hours = self / exact::<Minutes>(60.0);
        Traced { value: Hours(hours.value.0), text: hours.text }
    }
}

impl Traced<Percent> {
    /// The percentage as a fraction of one.
    pub fn fraction(self) -> Traced<Ratio> {
        self / exact::<Percent>(100.0)
    }
}

/// Sum of several terms; none where there are none.
pub fn sum<Q>(terms: impl IntoIterator<Item = Option<Traced<Q>>>) -> Option<Traced<Q>>
where
    Q: Quantity + Add<Output = Q>,
{
    let mut total: Option<Traced<Q>> = None;
    for term in terms {
        let term = term?;
        total = Some(match total {
            Some(so_far) => so_far + term,
            None => term,
        });
    }
    total
}

fn wrap(text: String, level: u8, least: u8) -> String {
    if level < least { format!("({text})") } else { text }
}

/// The text of `a sign b`. A negative number or a looser operation on the right is bracketed.
fn joined<A, B>(a: Traced<A>, sign: &str, b: Traced<B>, level: u8, right_least: u8) -> Text
where
    A: Quantity,
    B: Quantity,
{
    if a.is_silent() || b.is_silent() {
        return Text::Silent;
    }
    let (Some(a), Some(b)) = (a.into_formula(), b.into_formula()) else { return Text::Silent };
    let bracketed = b.numbers.starts_with('−') || b.level < right_least;
    let right = if bracketed { format!("({})", b.numbers) } else { b.numbers };
    let left = wrap(a.symbols, a.level, level);
    let symbols = format!("{left} {sign} {}", wrap(b.symbols, b.level, right_least));
    let numbers = format!("{} {sign} {right}", wrap(a.numbers, a.level, level));
    Text::Formula(Box::new(Formula { symbols, numbers, level }))
}

macro_rules! operator {
    ($trait:ident $method:ident $sign:literal $level:expr, $right:expr) => {
        impl<A, B> $trait<Traced<B>> for Traced<A>
        where
            A: $trait<B> + Quantity,
            B: Quantity,
            A::Output: Quantity,
        {
            type Output = Traced<A::Output>;
            fn $method(self, other: Traced<B>) -> Traced<A::Output> {
                let value = self.value.$method(other.value);
                Traced { value, text: joined(self, $sign, other, $level, $right) }
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

    fn k_cold(b: Traced<PercentPerKelvin>, t: Traced<Celsius>) -> Traced<Ratio> {
        exact::<Ratio>(1.0) + (b * (t - exact(25.0))).fraction()
    }

    #[test]
    fn formula_numbers_and_result_agree() {
        let k = k_cold(given("bVoc", PercentPerKelvin(-0.27)), given("t_min", Celsius(-16.0)));
        assert_eq!(k.symbols(), "1 + bVoc × (t_min − 25) / 100");
        assert_eq!(k.numbers(), "1 + (−0.27 × (−16 − 25) / 100)");
        // 1 + 0.0027 x 41, worked example 1
        assert!((k.value.0 - 1.1107).abs() < 1e-12);
        let v = given("n", Ratio(11.0)) * given("Voc", Volts(45.6)) * k.named("k_cold");
        assert_eq!(v.numbers(), "11 × 45.6 × 1.1107");
        assert!((v.value.0 - 557.12712).abs() < 1e-9);
    }

    #[test]
    fn what_is_silent_stays_silent_and_comes_to_the_same() {
        let loud = k_cold(given("bVoc", PercentPerKelvin(-0.27)), given("t_min", Celsius(-16.0)));
        let quiet = k_cold(silent(PercentPerKelvin(-0.27)), silent(Celsius(-16.0)));
        assert_eq!(quiet.value, loud.value);
        for text in [quiet.symbols(), quiet.numbers(), quiet.named("k").symbols()] {
            assert_eq!(text, "");
        }
        // One silent part is enough: a formula with a hole in it would be a wrong one.
        let mixed = given("n", Ratio(2.0)) * quiet.max(exact(1.0));
        assert_eq!(mixed.numbers(), "");
        assert_eq!(mixed.value.0, 2.0 * loud.value.0);
    }

    #[test]
    fn brackets_stand_where_the_arithmetic_needs_them() {
        let two = exact::<Ratio>(2.0);
        let e = two.clone() / (two.clone() * two.clone()) - (two.clone() - two.clone());
        assert_eq!(e.symbols(), "2 / (2 × 2) − (2 − 2)");
        assert_eq!(e.value.0, 0.5);
        let f = exact::<Ratio>(25.0) - exact(-4.0);
        assert_eq!(f.numbers(), "25 − (−4)");
    }

    #[test]
    fn functions_are_written_as_they_are_computed() {
        let x = || given("x", Ratio(0.25));
        assert_eq!(x().sqrt().numbers(), "sqrt(0.25)");
        assert_eq!(x().sqrt().value.0, 0.5);
        assert_eq!(x().max(exact(1.0)).symbols(), "max(x, 1)");
        assert_eq!((x() + exact(1.0)).power(exact(2.0)).numbers(), "(0.25 + 1)^2");
        assert_eq!((x() + exact(1.0)).power(exact(2.0)).value.0, 1.5625);
        assert_eq!(given("a", Degrees(60.0)).cos().symbols(), "cos(a)");
        assert!((exact::<Ratio>(0.5).acos().value.0 - 60.0).abs() < 1e-12);
    }

    #[test]
    fn a_sum_lacks_what_a_term_lacks() {
        let term = |v: f64| Some(given("a", Volts(v)));
        assert_eq!(sum([term(1.0), term(2.5)]).map(|t| t.value), Some(Volts(3.5)));
        assert!(sum([term(1.0), None]).is_none());
        assert!(sum::<Volts>([]).is_none());
    }

    #[test]
    fn numbers_are_short() {
        assert_eq!(number(557.127_12), "557.127");
        assert_eq!(number(-24.0), "−24");
        assert_eq!(number(0.006_090_2), "0.0060902");
        assert_eq!(number(11180.0), "11180");
    }
}
