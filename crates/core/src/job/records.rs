//! Readings taken on a string.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Letter, ReadingKey};

/// A reading taken on a string. Readings are only ever added.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Reading {
    /// Its id.
    pub id: ReadingKey,
    /// When it was taken, UTC, as RFC 3339 writes it.
    #[schema(min_length = 1, max_length = 40, format = DateTime)]
    pub at: String,
    /// Who took it.
    #[schema(min_length = 1, max_length = 120)]
    pub by: String,
    /// Who brought it in with a file; none for one that was entered here.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 120)]
    pub brought_by: Option<String>,
    /// Taken back: it stays on record and counts for nothing.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub withdrawn: Option<Withdrawn>,
    /// What was read.
    pub values: ReadingValues,
}

/// Why a reading counts for nothing.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Withdrawn {
    /// When, UTC, as RFC 3339 writes it.
    #[schema(min_length = 1, max_length = 40, format = DateTime)]
    pub at: String,
    /// By whom.
    #[schema(min_length = 1, max_length = 120)]
    pub by: String,
    /// Why.
    #[schema(min_length = 1, max_length = 200)]
    pub reason: String,
}

impl Reading {
    /// When it was taken, in seconds since 1970; none where that is no date and time.
    pub fn instant(&self) -> Option<i64> {
        instant(&self.at)
    }
}

/// RFC 3339: `2026-10-14T17:36:00Z`, fractions of a second left out, an offset taken off.
fn instant(text: &str) -> Option<i64> {
    let number = |from: usize, to: usize| text.get(from..to)?.parse::<i64>().ok();
    let (year, month, day) = (number(0, 4)?, number(5, 7)?, number(8, 10)?);
    let (hour, minute, second) = (number(11, 13)?, number(14, 16)?, number(17, 19)?);
    let rest = text.get(19..)?;
    let zone = rest.trim_start_matches(|c: char| c == '.' || c.is_ascii_digit());
    let offset_min = match zone.split_at_checked(1)? {
        ("Z" | "z", "") => 0,
        (sign @ ("+" | "-"), clock) => {
            let (hours, minutes) = clock.split_once(':')?;
            let all = hours.parse::<i64>().ok()? * 60 + minutes.parse::<i64>().ok()?;
            if sign == "+" { all } else { -all }
        }
        _ => return None,
    };
    // Days of the civil calendar: years begin in March, so that a leap day is the last of its year.
    let (y, m) = if month > 2 { (year, month - 3) } else { (year - 1, month + 9) };
    let days =
        365 * y + y.div_euclid(4) - y.div_euclid(100) + y.div_euclid(400) + (153 * m + 2) / 5 + day
            - 719_469;
    Some(((days * 24 + hour) * 60 + minute - offset_min) * 60 + second)
}

/// What a meter said, and the light and warmth it said it in.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ReadingValues {
    /// The string, by letter.
    pub string: Letter,
    /// Irradiance in the plane of the modules, W/m².
    #[serde(default)]
    #[schema(minimum = 0, maximum = 2000)]
    pub irradiance_w_m2: Option<f64>,
    /// Cell temperature as known, °C; goes first.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -60, maximum = 120)]
    pub cell_c: Option<f64>,
    /// Back of a module, °C.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -60, maximum = 120)]
    pub back_c: Option<f64>,
    /// Air, °C; needs the module's NMOT.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -60, maximum = 70)]
    pub ambient_c: Option<f64>,
    /// Open-circuit volts, V; negative as the meter shows it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -3000, maximum = 3000)]
    pub voc_v: Option<f64>,
    /// Short-circuit amps, A.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -1000, maximum = 1000)]
    pub isc_a: Option<f64>,
}

#[cfg(test)]
mod tests {
    use super::instant;

    #[test]
    fn a_moment_is_the_same_in_every_zone() {
        assert_eq!(instant("1970-01-01T00:00:00Z"), Some(0));
        // 20,740 days and 17 h 36 min: 14 October is day 287 of the 57th year after 1970, with
        // fourteen leap days before it: 56 x 365 + 14 + 286 = 20,740.
        let there = 20_740 * 86_400 + 17 * 3_600 + 36 * 60;
        assert_eq!(instant("2026-10-14T17:36:00Z"), Some(there));
        assert_eq!(instant("2026-10-14T19:36:00+02:00"), Some(there));
        assert_eq!(instant("2026-10-14T12:06:00.25-05:30"), Some(there));
        // A leap day is a day.
        let [before, after] =
            ["2024-02-29T00:00:00Z", "2024-03-01T00:00:00Z"].map(|t| instant(t).expect("a moment"));
        assert_eq!(after - before, 86_400);
        for none in ["", "yesterday", "2026-10-14", "2026-10-14T17:36:00", "2026-10-14T17:36:00Q"] {
            assert_eq!(instant(none), None, "{none}");
        }
    }
}
