//! Weather files: what is taken from them, and every way they can be wrong.

use std::fmt::Write as _;

use heliant_core::stages::site::weather::{Weather, read};

/// Days of each month of a year.
fn days(year: i32) -> [u32; 12] {
    let leap = year % 4 == 0;
    [31, if leap { 29 } else { 28 }, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31]
}

/// Hours of whole years as a table: 5 °C, with `change` for what differs.
fn table(
    years: std::ops::RangeInclusive<i32>,
    change: impl Fn(i32, u32, u32, u32) -> Option<f64>,
) -> String {
    let mut text = "time,dry_bulb_c\n".to_owned();
    for year in years {
        for (m, n) in days(year).iter().enumerate() {
            for day in 1..=*n {
                for hour in 0..24 {
                    let month = m as u32 + 1;
                    if let Some(c) = change(year, month, day, hour) {
                        let _ = writeln!(text, "{year}-{month:02}-{day:02}T{hour:02}:00,{c}");
                    }
                }
            }
        }
    }
    text
}

fn taken(text: &str) -> Weather {
    read(text).unwrap_or_else(|p| panic!("{p:?}"))
}

fn refused(text: &str) -> (String, String, String) {
    let problems = read(text).expect_err("it is wrong");
    (problems[0].path.clone(), problems[0].message.clone(), problems[0].hint.clone())
}

#[test]
fn the_lowest_is_the_mean_of_whole_years_and_the_highest_of_the_hottest_month() {
    // Lowest −8, −11 and −14: −11. July holds 0 to 743 in hundredths above 20 °C.
    let text = table(2021..=2023, |year, month, day, hour| {
        if (month, day, hour) == (1, 20, 7) {
            return Some(-8.0 - 3.0 * f64::from(year - 2021));
        }
        Some(if month == 7 { 20.0 + f64::from((day - 1) * 24 + hour) / 100.0 } else { 5.0 })
    });
    let weather = taken(&text);
    assert!((weather.t_min_c + 11.0).abs() < 1e-9, "{}", weather.t_min_c);
    assert_eq!(weather.hottest_month, 7);
    // Each value three times: 2 232 values, place 0.98 x 2231 = 2186.38 counted from 0: value 728
    // (2186 / 3), then 729. 2186 / 3 = 728.67, so place 2186 is value 728, place 2187 value 729:
    // 27.28 + 0.38 x 0.01.
    assert!((weather.t_max_c - 27.2838).abs() < 1e-6, "{}", weather.t_max_c);
    assert_eq!(weather.record.hours_n, 3 * 8760);
    assert_eq!(weather.record.histogram.iter().map(|b| b.hours_n).sum::<u32>(), 3 * 8760);
    assert!(weather.warnings.is_empty(), "{:?}", weather.warnings);
    let pointers: Vec<&str> = weather.edits.iter().map(|e| e.pointer.as_str()).collect();
    assert!(pointers.contains(&"/site/t_min_c") && pointers.contains(&"/site/weather"));
}

#[test]
fn a_leap_year_has_its_day() {
    let weather = taken(&table(2020..=2020, |_, _, _, _| Some(5.0)));
    assert_eq!(weather.record.hours_n, 8784);
    assert_eq!(
        weather.warnings,
        ["One year only: take the record of more years for the lowest where there is one."]
    );
}

#[test]
fn a_missing_hour_is_counted() {
    // A leap year less one hour: 8 783.
    let weather = taken(&table(2020..=2020, |_, m, d, h| ((m, d, h) != (3, 9, 4)).then_some(5.0)));
    assert_eq!(weather.record.hours_n, 8783);
    assert_eq!(
        weather.warnings[0],
        "1 hour is missing; the longest gap has 1 h, in month 3 of 2020."
    );
}

#[test]
fn a_year_with_a_long_gap_does_not_count() {
    // 2022 lacks January to March: 90 days.
    let text = table(2021..=2022, |year, month, _, _| {
        if year == 2022 && month <= 3 {
            None
        } else {
            Some(if (year, month) == (2021, 1) { -10.0 } else { 4.0 })
        }
    });
    let weather = taken(&text);
    assert_eq!(weather.t_min_c, -10.0);
    assert!(
        weather
            .warnings
            .iter()
            .any(|w| w.contains("2160 hours are missing") && w.contains("2160 h")),
        "{:?}",
        weather.warnings
    );
    assert!(
        weather.warnings.iter().any(|w| w.contains("do not count for the lowest: 2022 (6600 h)")),
        "{:?}",
        weather.warnings
    );
}

#[test]
fn fahrenheit_is_not_taken_for_celsius() {
    let (_, message, hint) =
        refused(&table(2021..=2021, |_, month, _, _| Some(if month == 7 { 95.0 } else { 41.0 })));
    assert!(message.contains("values go up to 95") && message.contains("°F"), "{message}");
    // (95 − 32) / 1.8 = 35.
    assert_eq!(hint, "°C: 95 °F would be 35 °C");
}

#[test]
fn another_zone_and_the_change_of_the_clock_are_said() {
    let rows = "time,temp\n2023-03-26T00:00+01:00,4\n2023-03-26T01:00+01:00,4\n";
    let weather = taken(rows);
    assert!(weather.warnings.iter().any(|w| w.contains("UTC+01:00")), "{:?}", weather.warnings);
    let weather = taken(&format!("{rows}2023-03-26T03:00+02:00,5\n"));
    assert!(
        weather.warnings.iter().any(|w| w.contains("UTC+01:00 and UTC+02:00")),
        "{:?}",
        weather.warnings
    );
}

#[test]
fn decimal_commas_semicolons_marks_and_empty_cells() {
    let weather = taken(
        "\u{feff}Datum/Time;Temp °C\n2023-01-01 00:00;-3,5\n2023-01-01 01:00;\n2023-01-01 \
            02:00;−4,5\n",
    );
    assert_eq!((weather.t_min_c, weather.record.hours_n), (-4.5, 2));
    assert!(
        weather.warnings.iter().any(|w| w.contains("1 rows have no temperature")),
        "{:?}",
        weather.warnings
    );
    // Where commas part the columns, one in a number cuts it in two, quotes or not: it is refused,
    // not read as −3.
    let problems = read("time,t_air\n2023-01-01T00:00,-3,5\n");
    assert!(problems.is_err_and(|p| p[0].path == "/rows/2" && p[0].message.contains("3 cells")));
}

#[test]
fn what_is_no_weather_file_says_so() {
    let (path, message, hint) = refused("a;b;c\n1;2;3\n");
    assert_eq!(
        (path.as_str(), message.as_str()),
        ("/rows/1", "the header has no time or no temperature: a, b, c")
    );
    assert!(hint.contains("dry_bulb_c"));
    assert_eq!(refused("").0, "/rows/1");
    let (path, message, _) = refused("time,dry_bulb\nyesterday,4\n");
    assert_eq!((path.as_str(), message.as_str()), ("/rows/2", "`yesterday` is no time"));
    let (_, message, hint) = refused("time,dry_bulb\n2023-02-29T00:00,4\n");
    assert!(message.contains("2023-02-29") && hint.contains("a day that is there"), "{message}");
    let (_, message, _) = refused("time,dry_bulb\n2023-02-28T00:00,cold\n");
    assert_eq!(message, "`cold` is not a number");
    assert_eq!(
        refused("time,dry_bulb\n2023-02-28T00:00,\n").1,
        "there is no hour with a temperature in it"
    );
}

fn epw(year_of: impl Fn(u32) -> i32, c: impl Fn(u32) -> f64) -> String {
    let mut text = "LOCATION,Made Up,County,Land,source,12345,54.5,-2.5,0,210\n".to_owned();
    for line in [
        "DESIGN CONDITIONS,0",
        "TYPICAL/EXTREME PERIODS,0",
        "GROUND TEMPERATURES,0",
        "HOLIDAYS",
        "COMMENTS 1",
        "COMMENTS 2",
        "DATA PERIODS,1",
    ] {
        let _ = writeln!(text, "{line}");
    }
    for (m, n) in days(2021).iter().enumerate() {
        for day in 1..=*n {
            for hour in 1..=24 {
                let month = m as u32 + 1;
                let _ = writeln!(
                    text,
                    "{},{month},{day},{hour},60,A,{},1,80,99000",
                    year_of(month),
                    c(month)
                );
            }
        }
    }
    text
}

#[test]
fn a_typical_year_is_one_year_and_milder_than_the_record() {
    // Months of four years, as such files are put together.
    let weather = taken(&epw(
        |month| 2003 + (month as i32 % 4) * 3,
        |month| {
            if month == 1 {
                -9.5
            } else if month == 8 {
                26.0
            } else {
                8.0
            }
        },
    ));
    assert_eq!(
        (weather.format, weather.record.typical, weather.record.hours_n),
        ("EPW", true, 8760)
    );
    assert_eq!((weather.t_min_c, weather.t_max_c), (-9.5, 26.0));
    assert_eq!(weather.record.station, "Made Up, Land");
    assert_eq!(
        (weather.record.latitude_deg, weather.record.longitude_deg),
        (Some(54.5), Some(-2.5))
    );
    assert!(
        weather.warnings.iter().any(|w| w.contains("milder than the record")),
        "{:?}",
        weather.warnings
    );
    assert!(
        !weather.warnings.iter().any(|w| w.contains("missing")),
        "the years of its months say nothing of gaps: {:?}",
        weather.warnings
    );
}

#[test]
fn values_an_epw_marks_as_missing_are_left_out() {
    let weather = taken(&epw(|_| 2021, |month| if month == 2 { 99.9 } else { 8.0 }));
    assert_eq!(weather.record.hours_n, 8760 - 28 * 24);
    assert!(
        weather.warnings.iter().any(|w| w.contains("672 rows have no temperature")),
        "{:?}",
        weather.warnings
    );
    let (path, message, _) = refused(&epw(|_| 2021, |_| 8.0).replacen("A,8,1", "A,warm,1", 1));
    assert_eq!((path.as_str(), message.contains("seventh column")), ("/rows/9", true));
}

#[test]
fn the_station_of_the_demo_reads() {
    let weather = taken(include_str!("../../../data/demo/weather-station.csv"));
    assert_eq!(
        (weather.record.first_year, weather.record.last_year, weather.record.hours_n),
        (2021, 2023, 26_280)
    );
    // (−12.4 − 7.0 − 9.5) / 3.
    assert!((weather.t_min_c + 28.9 / 3.0).abs() < 1e-9, "{}", weather.t_min_c);
    assert!(weather.record.station.contains("made up"));
}
