//! The layout of EPW: eight lines of heading, then an hour a line.

use super::{Parsed, done, push, wrong};
use crate::problem::Problem;

pub(super) fn epw(text: &str) -> Result<Parsed, Vec<Problem>> {
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
