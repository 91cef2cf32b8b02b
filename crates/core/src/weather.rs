//! Hourly weather files: EPW, or CSV with time and dry-bulb. What the design temperatures are taken
//! from, and what is wrong with a file before anything is taken from it.
//!
//! The lowest expected ambient is the mean of the yearly minima, the high one the 98th percentile
//! of the hourly values of the hottest month ([`crate::site`] computes both). A typical year is put
//! together of months of several years and is milder than the record.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use serde_json::json;
use utoipa::ToSchema;

use crate::figure::{Edit, Sheet, Subject, SubjectKind, Value};
use crate::job::Problem;
use crate::library::table::{decimal, delimiter_of};
use crate::school::School;
use crate::site::{SiteInputs, T_MAX, T_MIN, site};
use crate::sun::days_since_2000;

/// Largest file that is read, bytes.
pub const MAX_BYTES: usize = 32 * 1024 * 1024;
/// A year with fewer hours does not count as one.
const YEAR_HOURS: u32 = 7884;
/// Above this the values are no °C of any place people build in.
const HOT_C: f64 = 58.0;
/// Width of a bin of the histogram, K.
const BIN_C: f64 = 2.0;
/// Rows that are wrong and named.
const NAMED: usize = 20;

/// Where the design temperatures were taken from; kept in the job.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WeatherRecord {
    /// The station, as the file names it.
    #[schema(max_length = 120)]
    pub station: String,
    /// Latitude, north positive, °.
    #[schema(minimum = -90, maximum = 90)]
    pub latitude_deg: Option<f64>,
    /// Longitude, east positive, °.
    #[schema(minimum = -180, maximum = 180)]
    pub longitude_deg: Option<f64>,
    /// First year.
    #[schema(minimum = 1800, maximum = 2200)]
    pub first_year: i32,
    /// Last year.
    #[schema(minimum = 1800, maximum = 2200)]
    pub last_year: i32,
    /// Hours with a value.
    #[schema(minimum = 0, maximum = 2000000)]
    pub hours_n: u32,
    /// A typical year, put together of several.
    pub typical: bool,
    /// Hours by temperature, the coldest bin first.
    #[schema(max_items = 100)]
    pub histogram: Vec<WeatherBin>,
}

/// Hours in a band of temperature.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WeatherBin {
    /// Lower end, °C; the band is 2 K wide.
    #[schema(minimum = -100, maximum = 100)]
    pub from_c: f64,
    /// Hours.
    #[schema(minimum = 0, maximum = 2000000)]
    pub hours_n: u32,
}

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
    let mut parsed = if text.starts_with("LOCATION,") { epw(text) } else { csv(text) }?;
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
    Ok(weighed(&mut parsed))
}

fn epw(text: &str) -> Result<Parsed, Vec<Problem>> {
    let mut lines = text.lines();
    let location: Vec<&str> = lines.next().unwrap_or_default().split(',').map(str::trim).collect();
    let number = |i: usize| location.get(i).and_then(|v| v.parse::<f64>().ok());
    let mut parsed = Parsed {
        format: "EPW",
        station: [location.get(1), location.get(3)]
            .into_iter()
            .flatten()
            .copied()
            .filter(|s| !s.is_empty())
            .collect::<Vec<_>>()
            .join(", "),
        latitude: number(6).filter(|l| l.abs() <= 90.0),
        longitude: number(7).filter(|l| l.abs() <= 180.0),
        hours: Vec::new(),
        empty_n: 0,
        warnings: Vec::new(),
    };
    let mut problems = Vec::new();
    // Seven more lines of heading, then an hour a line: year, month, day, hour 1 to 24, minute,
    // source, dry bulb.
    for (i, line) in text.lines().enumerate().skip(8).filter(|(_, l)| !l.trim().is_empty()) {
        let cells: Vec<&str> = line.split(',').map(str::trim).collect();
        let whole = |k: usize| cells.get(k).and_then(|c| c.parse::<i32>().ok());
        let (Some(year), Some(month), Some(day), Some(hour)) =
            (whole(0), whole(1), whole(2), whole(3))
        else {
            wrong(
                &mut problems,
                i + 1,
                "has no year, month, day and hour in front",
                "the layout of EPW",
            );
            continue;
        };
        match cells.get(6).and_then(|c| c.parse::<f64>().ok()) {
            Some(c) if c.abs() < 99.0 => {
                push(&mut parsed, &mut problems, i + 1, (year, month, day, f64::from(hour - 1)), c)
            }
            // 99.9 stands for a value that is missing.
            Some(_) => parsed.empty_n += 1,
            None => wrong(
                &mut problems,
                i + 1,
                "has no dry-bulb temperature in its seventh column",
                "°C, 99.9 where it is missing",
            ),
        }
    }
    done(parsed, problems)
}

fn wrong(problems: &mut Vec<Problem>, row: usize, message: impl Into<String>, hint: &str) {
    if problems.len() < NAMED {
        problems.push(Problem::new(format!("/rows/{row}"), message, hint));
    }
}

fn done(parsed: Parsed, problems: Vec<Problem>) -> Result<Parsed, Vec<Problem>> {
    if problems.is_empty() { Ok(parsed) } else { Err(problems) }
}

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

/// Year, month, day, hour.
type Moment = (i32, i32, i32, f64);

/// The moment, and what follows: `2023-01-31T14:00`, a space for the T, seconds and an offset as
/// they come.
fn time(text: &str) -> Option<(Moment, &str)> {
    let (date, clock) = text.split_once(['T', ' '])?;
    let mut parts = date.splitn(3, '-').map(|p| p.parse::<i32>());
    let (Some(Ok(year)), Some(Ok(month)), Some(Ok(day))) =
        (parts.next(), parts.next(), parts.next())
    else {
        return None;
    };
    let end =
        clock.find(|c: char| !c.is_ascii_digit() && c != ':' && c != '.').unwrap_or(clock.len());
    let (clock, offset) = clock.split_at(end);
    let mut parts = clock.splitn(3, ':');
    let hour: f64 = parts.next()?.parse().ok()?;
    let minute: f64 = parts.next().map_or(Some(0.0), |m| m.parse().ok())?;
    Some(((year, month, day, hour + minute / 60.0), offset.trim()))
}

fn csv(text: &str) -> Result<Parsed, Vec<Problem>> {
    let header = text
        .lines()
        .find(|l| !l.trim_start().starts_with('#') && !l.trim().is_empty())
        .unwrap_or_default();
    let delimiter = delimiter_of(header);
    let names: Vec<String> = header
        .split(delimiter as char)
        .map(|c| c.trim().trim_matches('"').to_lowercase())
        .collect();
    let column = |words: &[&str]| names.iter().position(|n| words.iter().any(|w| n.contains(w)));
    let when = column(&["time", "date", "hour"]);
    let temperature = column(&["dry", "temp", "t_air", "_c", "°c"]);
    let (Some(when), Some(temperature)) = (when, temperature) else {
        let found = if names.len() < 2 { "one column".to_owned() } else { names.join(", ") };
        let hint = "a header with the columns time and dry_bulb_c, parted by comma, semicolon or \
            tab; or an EPW file";
        return Err(vec![Problem::new(
            "/rows/1",
            format!("the header has no time or no temperature: {found}"),
            hint,
        )]);
    };
    let mut parsed = Parsed {
        format: "CSV",
        station: String::new(),
        latitude: None,
        longitude: None,
        hours: Vec::new(),
        empty_n: 0,
        warnings: Vec::new(),
    };
    let mut problems = Vec::new();
    let mut offsets: Vec<String> = Vec::new();
    let mut seen_header = false;
    for (i, line) in text.lines().enumerate() {
        if let Some(note) = line.trim_start().strip_prefix('#') {
            heading(&mut parsed, note);
            continue;
        }
        if line.trim().is_empty() || !std::mem::replace(&mut seen_header, true) {
            continue;
        }
        let cells: Vec<&str> =
            line.split(delimiter as char).map(|c| c.trim().trim_matches('"')).collect();
        if cells.len() != names.len() {
            let hint = "where commas part the columns, numbers have a point";
            wrong(
                &mut problems,
                i + 1,
                format!("has {} cells, the header has {}", cells.len(), names.len()),
                hint,
            );
            continue;
        }
        let Some((at, offset)) = cells.get(when).and_then(|t| time(t)) else {
            wrong(
                &mut problems,
                i + 1,
                format!("`{}` is no time", cells.get(when).unwrap_or(&"")),
                "2023-01-31T14:00",
            );
            continue;
        };
        if !offsets.iter().any(|o| o == offset) {
            offsets.push(offset.to_owned());
        }
        match cells.get(temperature).copied().unwrap_or_default() {
            "" => parsed.empty_n += 1,
            cell => match decimal(cell, delimiter) {
                Ok(c) => push(&mut parsed, &mut problems, i + 1, at, c),
                Err((message, hint)) => wrong(&mut problems, i + 1, message, &hint),
            },
        }
    }
    match offsets.as_slice() {
        [one] if !one.is_empty() && one != "Z" && one != "+00:00" => {
            parsed.warnings.push(format!(
                "The times are those of UTC{one}; the design temperatures do not depend on it."
            ));
        }
        [_, _, ..] => {
            parsed.warnings.push(format!(
                "The times jump between {}: the clock is put forward and back. An hour is missing \
                    or double there; the design temperatures do not depend on it.",
                offsets.iter().map(|o| format!("UTC{o}")).collect::<Vec<_>>().join(" and ")
            ));
        }
        _ => {}
    }
    done(parsed, problems)
}

/// Lines `# station: …`, `# latitude: …`, `# longitude: …` before the table.
fn heading(parsed: &mut Parsed, note: &str) {
    let Some((key, value)) = note.split_once(':') else { return };
    let value = value.trim();
    match key.trim().to_lowercase().as_str() {
        "station" => parsed.station = value.chars().take(120).collect(),
        "latitude" => parsed.latitude = value.parse().ok().filter(|l: &f64| l.abs() <= 90.0),
        "longitude" => parsed.longitude = value.parse().ok().filter(|l: &f64| l.abs() <= 180.0),
        _ => {}
    }
}

/// The year the values count for. A typical year is one, whatever years its months are of.
fn years(parsed: &Parsed, typical: bool) -> Vec<YearMin> {
    let mut years: BTreeMap<i32, (f64, u32)> = BTreeMap::new();
    let newest = parsed.hours.iter().map(|h| h.year).max().unwrap_or(0);
    for h in &parsed.hours {
        let entry =
            years.entry(if typical { newest } else { h.year }).or_insert((f64::INFINITY, 0));
        *entry = (entry.0.min(h.c), entry.1 + 1);
    }
    let alone = years.len() == 1;
    years
        .into_iter()
        .map(|(year, (min_c, hours_n))| YearMin {
            year,
            min_c,
            hours_n,
            counts: alone || hours_n >= YEAR_HOURS,
        })
        .collect()
}

/// Thousands apart, for a sentence.
fn grouped(n: usize) -> String {
    let digits = n.to_string();
    if digits.len() < 5 {
        digits
    } else {
        format!("{} {}", &digits[..digits.len() - 3], &digits[digits.len() - 3..])
    }
}

fn weighed(parsed: &mut Parsed) -> Weather {
    let distinct: std::collections::BTreeSet<i32> = parsed.hours.iter().map(|h| h.year).collect();
    let count = parsed.hours.len();
    let typical = distinct.len() > 1 && count <= 8784 + 24;
    if !typical {
        gaps(parsed);
    }
    if parsed.empty_n > 0 {
        parsed.warnings.push(format!(
            "{} rows have no temperature and are left out.",
            grouped(parsed.empty_n as usize)
        ));
    }
    let mut years = years(parsed, typical);
    if years.iter().all(|y| !y.counts) {
        for y in &mut years {
            y.counts = true;
        }
        parsed
            .warnings
            .push("No year is whole: the coldest or the hottest days may be missing.".to_owned());
    } else if years.len() == 1 && years[0].hours_n < YEAR_HOURS {
        parsed.warnings.push(format!(
            "Only {} hours: less than a year. The coldest or the hottest days may be missing.",
            grouped(count)
        ));
    }
    let left_out: Vec<String> = years
        .iter()
        .filter(|y| !y.counts)
        .map(|y| format!("{} ({} h)", y.year, grouped(y.hours_n as usize)))
        .collect();
    if !left_out.is_empty() {
        parsed.warnings.push(format!(
            "Years that are not whole do not count for the lowest: {}.",
            left_out.join(", ")
        ));
    }
    let counted: Vec<f64> = years.iter().filter(|y| y.counts).map(|y| y.min_c).collect();
    if typical {
        parsed.warnings.push(
            "A typical year, put together of months of several: milder than the record. A colder \
                morning than its lowest comes."
                .to_owned(),
        );
    } else if counted.len() == 1 {
        parsed.warnings.push(
            "One year only: take the record of more years for the lowest where there is one."
                .to_owned(),
        );
    }
    let (hottest_month, hottest) = hottest_month(&parsed.hours);
    let mut sheet = Sheet::new(School::Iec, Subject::new(SubjectKind::Site, "site"));
    let inputs = SiteInputs {
        yearly_min_c: Some(counted.clone()),
        hottest_month_hourly_c: Some(hottest.clone()),
        ..SiteInputs::default()
    };
    site(&mut sheet, &inputs);
    let of = |id: &str| {
        sheet
            .figures
            .iter()
            .find(|f| f.id == id)
            .and_then(|f| f.value.as_ref())
            .and_then(Value::number)
            .unwrap_or(f64::NAN)
    };
    let (t_min_c, t_max_c) = (of(T_MIN.id), of(T_MAX.id));
    let record = WeatherRecord {
        station: parsed.station.clone(),
        latitude_deg: parsed.latitude,
        longitude_deg: parsed.longitude,
        first_year: distinct.first().copied().unwrap_or(0),
        last_year: distinct.last().copied().unwrap_or(0),
        hours_n: count as u32,
        typical,
        histogram: histogram(&parsed.hours),
    };
    let tenth = |v: f64| (v * 10.0).round() / 10.0;
    let edits = [
        ("/site/weather", json!(record)),
        ("/site/yearly_min_c", json!(counted)),
        ("/site/hottest_month_hourly_c", json!(hottest)),
        ("/site/t_min_c", json!(tenth(t_min_c))),
        ("/site/t_max_c", json!(tenth(t_max_c))),
    ];
    Weather {
        record,
        format: parsed.format,
        years,
        hottest_month,
        t_min_c,
        t_max_c,
        warnings: std::mem::take(&mut parsed.warnings),
        edits: edits
            .into_iter()
            .map(|(pointer, value)| Edit { pointer: pointer.to_owned(), value })
            .collect(),
    }
}

/// Hours that are missing between the first and the last, and hours that stand twice.
fn gaps(parsed: &mut Parsed) {
    parsed.hours.sort_by_key(|h| h.at);
    let (mut missing, mut double, mut longest): (i64, usize, (i64, usize)) = (0, 0, (0, 0));
    for (i, pair) in parsed.hours.windows(2).enumerate() {
        match pair[1].at - pair[0].at {
            0 => double += 1,
            step => {
                missing += step - 1;
                if step - 1 > longest.0 {
                    longest = (step - 1, i);
                }
            }
        }
    }
    if missing > 0 {
        let before = &parsed.hours[longest.1];
        let text = format!(
            "{} {} missing; the longest gap has {} h, in month {} of {}.",
            grouped(missing as usize),
            if missing == 1 { "hour is" } else { "hours are" },
            grouped(longest.0 as usize),
            before.month,
            before.year
        );
        parsed.warnings.push(text);
    }
    if double > 0 {
        parsed.warnings.push(format!("{} hours stand twice.", grouped(double)));
    }
}

/// The calendar month with the highest mean over all years, and its values.
fn hottest_month(hours: &[Hour]) -> (u32, Vec<f64>) {
    let mut months: BTreeMap<u32, Vec<f64>> = BTreeMap::new();
    for h in hours {
        months.entry(h.month).or_default().push(h.c);
    }
    let mean = |v: &[f64]| v.iter().sum::<f64>() / v.len() as f64;
    months.into_iter().max_by(|a, b| mean(&a.1).total_cmp(&mean(&b.1))).unwrap_or((1, Vec::new()))
}

fn histogram(hours: &[Hour]) -> Vec<WeatherBin> {
    let bin = |c: f64| (c / BIN_C).floor() as i64;
    let (Some(low), Some(high)) =
        (hours.iter().map(|h| bin(h.c)).min(), hours.iter().map(|h| bin(h.c)).max())
    else {
        return Vec::new();
    };
    let mut bins = vec![0_u32; (high - low + 1) as usize];
    for h in hours {
        bins[(bin(h.c) - low) as usize] += 1;
    }
    bins.iter()
        .enumerate()
        .map(|(i, n)| WeatherBin { from_c: (low + i as i64) as f64 * BIN_C, hours_n: *n })
        .collect()
}
