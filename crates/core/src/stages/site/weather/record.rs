//! What a file's hours come to: years, gaps, the hottest month, the design temperatures.

use std::collections::BTreeMap;

use serde_json::json;

use super::{Hour, Parsed, Weather, YearMin};
use crate::figure::{Recording, Sheet, Subject};
use crate::job::{Edit, WeatherBin, WeatherRecord};
use crate::quantity::below;
use crate::school::School;
use crate::stages::site::{SiteInputs, site};

/// Share of each month's hours that a year needs to count as one: with a winter missing, no other
/// month makes up for it.
const MONTH_SHARE: f64 = 0.9;

/// Days of the months; February without its leap day.
const DAYS: [u32; 12] = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];

/// Whether every month is there.
fn whole(months: &[u32; 12]) -> bool {
    let needed = |days: u32| f64::from(days * 24) * MONTH_SHARE;
    months.iter().zip(DAYS).all(|(n, days)| !below(f64::from(*n), needed(days)))
}

/// Width of a bin of the histogram, K.
const BIN_C: f64 = 2.0;

/// The year the values count for. A typical year is one, whatever years its months are of.
fn years(parsed: &Parsed, typical: bool) -> Vec<YearMin> {
    let mut years: BTreeMap<i32, (f64, u32, [u32; 12])> = BTreeMap::new();
    let newest = parsed.hours.iter().map(|h| h.year).max().unwrap_or(0);
    for h in &parsed.hours {
        let entry = years.entry(if typical { newest } else { h.year }).or_insert((
            f64::INFINITY,
            0,
            [0; 12],
        ));
        (entry.0, entry.1) = (entry.0.min(h.c), entry.1 + 1);
        entry.2[h.month as usize - 1] += 1;
    }
    years
        .into_iter()
        .map(|(year, (min_c, hours_n, months))| YearMin {
            year,
            min_c,
            hours_n,
            counts: whole(&months),
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

pub(super) fn weighed(parsed: &mut Parsed) -> Weather {
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
        parsed.warnings.push(format!(
            "No year is whole ({} hours in all; every month needs nine tenths of its own): the \
             coldest or the hottest days may be missing.",
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
            "Years with a month that is not there by nine tenths do not count for the lowest: {}.",
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
    let mut sheet = Sheet::with(School::Iec, Subject::Site, Recording::Nothing);
    let inputs = SiteInputs {
        yearly_min_c: Some(counted.clone()),
        hottest_month_hourly_c: Some(hottest.clone()),
        ..SiteInputs::default()
    };
    let design = site(&mut sheet, &inputs);
    let known = |c: Option<f64>| c.unwrap_or(f64::NAN);
    let (t_min_c, t_max_c) = (known(design.t_min_c), known(design.t_max_c));
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
