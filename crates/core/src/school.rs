//! The two schools of practice and everything in which they differ. Calculations ask the school
//! for a factor, a table or a word; none of them branches on it twice.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::tables::{self, RatingKind};

/// A school of practice. A job picks one; units, tables and wording follow.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum School {
    /// North American: AWG, trade sizes, circuit rules in the manner of NEC 690 and 705.
    Na,
    /// IEC: mm², metric conduit, in the manner of IEC 60364 and 62446-1.
    Iec,
}

impl School {
    /// The field of a wire's size, where it is missing.
    pub fn wire_field(self) -> &'static str {
        match self {
            School::Na => "wire.awg",
            School::Iec => "wire.mm2",
        }
    }

    /// Whether a row of a table is of this school, by its column of schools: na, iec or both.
    pub fn is_of(self, column: &str) -> bool {
        let own = match self {
            School::Na => "na",
            School::Iec => "iec",
        };
        column == "both" || column == own
    }

    /// From how many times its rating a breaker that is of no curve is taken to trip at once; none
    /// where breakers are sold by their curve.
    pub fn trip_times(self) -> Option<f64> {
        match self {
            School::Na => Some(10.0),
            School::Iec => None,
        }
    }

    /// What a wire's size is written in.
    pub fn wire_unit(self) -> &'static str {
        match self {
            School::Na => "AWG",
            School::Iec => "mm²",
        }
    }

    /// Section of a wire by its size as it is written, mm².
    pub fn section_mm2(self, size: &str) -> Option<f64> {
        match self {
            School::Iec => size.parse().ok(),
            School::Na => tables::wire(size).map(tables::Wire::section_mm2),
        }
    }

    /// Factor on the other strings' Isc in a fault: 1.25 in na, 1 in iec.
    pub fn fault_factor(self) -> f64 {
        match self {
            School::Na => 1.25,
            School::Iec => 1.0,
        }
    }

    /// From the largest current to the design current: 1.25 in na (690.8(B)), 1 in iec.
    pub fn design_factor(self) -> f64 {
        match self {
            School::Na => 1.25,
            School::Iec => 1.0,
        }
    }

    /// Standard breakers, smallest first.
    pub fn breakers(self) -> &'static [f64] {
        tables::ratings(match self {
            School::Na => RatingKind::NaBreaker,
            School::Iec => RatingKind::IecBreaker,
        })
    }

    /// gPV fuse links, smallest first.
    pub fn fuses(self) -> &'static [f64] {
        tables::ratings(match self {
            School::Na => RatingKind::NaPvFuse,
            School::Iec => RatingKind::IecPvFuse,
        })
    }

    /// Limits of voltage drop in percent where the job sets none: dc, ac.
    pub fn vdrop_limits_pct(self) -> (f64, f64) {
        match self {
            School::Na => (2.0, 2.0),
            School::Iec => (3.0, 2.0),
        }
    }
}

/// Edition of the North American code whose rule numbers are cited.
#[derive(
    Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, utoipa::ToSchema,
)]
pub enum Edition {
    /// 2017.
    #[serde(rename = "2017")]
    Y2017,
    /// 2020.
    #[serde(rename = "2020")]
    Y2020,
    /// 2023.
    #[default]
    #[serde(rename = "2023")]
    Y2023,
}
