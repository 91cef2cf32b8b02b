//! Hourly weather files: EPW, or CSV with time and dry-bulb. What the design temperatures are taken
//! from, and what is wrong with a file before anything is taken from it.
//!
//! The lowest expected ambient is the mean of the yearly minima, the high one the 98th percentile
//! of the hourly values of the hottest month ([`site()`](super::site) computes both). A typical
//! year is put together of months of several years and is milder than the record.

mod csv;
mod epw;
mod record;

use serde::Serialize;
use utoipa::ToSchema;

use super::days_since_2000;
use crate::job::{Edit, WeatherRecord};
use crate::problem::Problem;

/// Largest file that is read, bytes.
pub const MAX_BYTES: usize = 32 * 1024 * 1024;

/// Above this the values are no °C of any place people build in.
const HOT_C: f64 = 58.0;

/// Rows that are wrong and named.
const NAMED: usize = 20;

/// The lowest value of a year.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct YearMin {
    /// The year.
    pub year: i32,
    /// Its lowest hourly value, °C.
    pub min_c: f64,
    /// Hours with a value.
    pub hours_n: u32,
    /// Enough of them to count as a year.
    pub counts: bool,
}

/// What a weather file holds.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Weather {
    /// Station and what the job keeps of it.
    pub record: WeatherRecord,
    /// `EPW` or `CSV`.
    pub format: &'static str,
    /// Year by year.
    pub years: Vec<YearMin>,
    /// The hottest month, from 1.
    pub hottest_month: u32,
    /// Lowest expected ambient, °C.
    pub t_min_c: f64,
    /// 2 % high ambient, °C.
    pub t_max_c: f64,
    /// What to know before it is used.
    pub warnings: Vec<String>,
    /// The edits that take it into a job.
    pub edits: Vec<Edit>,
}

struct Hour {
    year: i32,
    month: u32,
    /// Hours since 2000-01-01 12:00.
    at: i64,
    c: f64,
}

struct Parsed {
    format: &'static str,
    station: String,
    latitude: Option<f64>,
    longitude: Option<f64>,
    hours: Vec<Hour>,
    /// Rows without a value.
    empty_n: u32,
    warnings: Vec<String>,
}

/// Reads a weather file.
///
/// # Errors
/// What it is not, or the rows that are wrong, with what would be right.
pub fn read(text: &str) -> Result<Weather, Vec<Problem>> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let mut parsed = if text.starts_with("LOCATION,") { epw::epw(text) } else { csv::csv(text) }?;
    if parsed.hours.is_empty() {
        return Err(vec![Problem::new(
            "",
            "there is no hour with a temperature in it",
            "hourly values with their time",
        )]);
    }
    let hottest = parsed.hours.iter().map(|h| h.c).fold(f64::NEG_INFINITY, f64::max);
    if hottest > HOT_C {
        let message = format!(
            "values go up to {hottest:.0}: no place on earth is so hot in °C, so this is most \
                likely °F"
        );
        let hint = format!("°C: {hottest:.0} °F would be {:.0} °C", (hottest - 32.0) / 1.8);
        return Err(vec![Problem::new("", message, hint)]);
    }
    Ok(record::weighed(&mut parsed))
}

fn wrong(problems: &mut Vec<Problem>, row: usize, message: impl Into<String>, hint: &str) {
    if problems.len() < NAMED {
        problems.push(Problem::new(format!("/rows/{row}"), message, hint));
    }
}

fn done(parsed: Parsed, problems: Vec<Problem>) -> Result<Parsed, Vec<Problem>> {
    if problems.is_empty() { Ok(parsed) } else { Err(problems) }
}

/// Year, month, day, hour.
type Moment = (i32, i32, i32, f64);

fn push(
    parsed: &mut Parsed,
    problems: &mut Vec<Problem>,
    row: usize,
    (year, month, day, hour): Moment,
    c: f64,
) {
    let at = u32::try_from(month)
        .ok()
        .zip(u32::try_from(day).ok())
        .and_then(|(m, d)| days_since_2000(year, m, d, hour));
    match at {
        Some(days) if (1800..=2200).contains(&year) && (0.0..=24.0).contains(&hour) => {
            parsed.hours.push(Hour {
                year,
                month: month as u32,
                at: (days * 24.0).round() as i64,
                c,
            });
        }
        // A typical year may hold 29 February of a year that has none.
        _ if parsed.format == "EPW" && month == 2 && day == 29 => parsed.empty_n += 1,
        _ => wrong(
            problems,
            row,
            format!("{year}-{month:02}-{day:02} {hour} h is no hour of the calendar"),
            "a day that is there, hours 0 to 23",
        ),
    }
}
