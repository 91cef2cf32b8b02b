//! A table with a time and a temperature column.

use super::{Moment, Parsed, done, push, wrong};
use crate::library::table::{decimal, delimiter_of};
use crate::problem::Problem;

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

pub(super) fn csv(text: &str) -> Result<Parsed, Vec<Problem>> {
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
