//! The meter strip, as it is drawn.

use serde::Serialize;
use utoipa::ToSchema;

use super::{PASS_PCT, TestInputs};

/// The meter strip: what each count of modules would read now, the band that holds, the reading.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct MeterStrip {
    /// Left end, V.
    pub from_v: f64,
    /// Right end, V.
    pub to_v: f64,
    /// Band of a reading that holds: from, V.
    pub band_from_v: f64,
    /// Band of a reading that holds: to, V.
    pub band_to_v: f64,
    /// Marks: volts of so many modules.
    pub marks: Vec<StripMark>,
    /// The reading, V.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub reading_v: Option<f64>,
}

/// A mark of the meter strip.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct StripMark {
    /// Modules.
    pub modules_n: u32,
    /// Their volts now.
    pub volts_v: f64,
}

/// Geometry of the meter strip; none where nothing can be expected.
pub(super) fn strip(x: &TestInputs, expected: Option<f64>) -> Option<MeterStrip> {
    let expected = expected?;
    let one = expected / f64::from(x.n);
    // 5 %, but never half a module or more.
    let half_band = (expected * PASS_PCT / 100.0).min(one / 2.0);
    let (mut from, mut to) = ((expected - 4.5 * one).max(0.0), expected + 1.5 * one);
    if let Some(v) = x.measured_voc_v {
        from = from.min(v - one / 2.0);
        to = to.max(v + one / 2.0);
    }
    let first = (from / one).ceil().max(0.0) as u32;
    let last = (to / one).floor() as u32;
    let step = ((last.saturating_sub(first)) / 8 + 1).max(1);
    let marks = (first..=last)
        .filter(|k| k.abs_diff(x.n) % step == 0)
        .map(|k| StripMark { modules_n: k, volts_v: f64::from(k) * one })
        .collect();
    Some(MeterStrip {
        from_v: from,
        to_v: to,
        band_from_v: expected - half_band,
        band_to_v: expected + half_band,
        marks,
        reading_v: x.measured_voc_v,
    })
}
