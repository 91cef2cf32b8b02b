//! Data sheets of what protects and switches: fuses, isolators, surge devices, breakers, combiners,
//! and the enclosures they stand in. Each is a head and a list of numbers.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::field::{Field, number, other};
use super::{BODY, LIMITS, SheetData, ordered};
use crate::problem::Problem;

const ROOM: &str = "Room";
const SWITCH: &str = "As a disconnect";

/// Declares data sheets whose values are numbers and yes-or-no: group, title, unit and range of
/// each stand once.
macro_rules! device_sheets {
    ($(
        $(#[doc = $doc:literal])*
        $sheet:ident {
            numbers { $(
                $(#[doc = $nd:literal])*
                $n:ident: $group:expr, $title:literal, $unit:literal, $min:tt, $max:tt;
            )* }
            $(yes_or_no [ $(#[doc = $fd:literal])* $f:ident: $fgroup:expr, $ftitle:literal ])*
        }
    )*) => {$(
        $(#[doc = $doc])*
        #[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
        #[serde(deny_unknown_fields)]
        pub struct $sheet {
            /// Key of the sheet, the same over all its revisions.
            #[schema(min_length = 1, max_length = 60)]
            pub sheet: String,
            /// Revision of the data sheet, from 1.
            #[schema(minimum = 1, maximum = 9999)]
            pub revision: u32,
            /// Maker.
            #[schema(min_length = 1, max_length = 80)]
            pub maker: String,
            /// Model.
            #[schema(min_length = 1, max_length = 80)]
            pub model: String,
            /// Made-up sample data: not for a real job.
            #[serde(default)]
            pub demo: bool,
            $(
                $(#[doc = $nd])*
                #[serde(default)]
                #[schema(minimum = $min, maximum = $max)]
                pub $n: Option<f64>,
            )*
            $(
                $(#[doc = $fd])*
                #[serde(default)]
                pub $f: bool,
            )*
        }

        impl $sheet {
            const OWN: &'static [Field] = &[
                $(number($group, stringify!($n), $title, $unit),)*
                $(other($fgroup, stringify!($f), $ftitle, "flag"),)*
            ];
        }
    )*};
}

device_sheets! {
    /// One revision of a gPV fuse's data sheet, its holder included.
    FuseSheet {
        numbers {
            /// Rated current, A.
            amps_a: LIMITS, "Rated current", "A", 0.1, 1000;
            /// Rated DC volts, V.
            volts_v: LIMITS, "Rated DC volts", "V", 1, 3000;
            /// Breaking capacity, kA.
            breaking_ka: LIMITS, "Breaking capacity", "kA", 0.1, 500;
            /// What is left of its rating in a hot box; 1 where it is not derated.
            hot_factor: LIMITS, "Left of it in a hot box", "", 0.3, 1;
            /// Width of its holder, in ways of 17.5 mm.
            ways_n: BODY, "Width, ways of 17.5 mm", "n", 0.5, 20;
        }
    }
    /// One revision of an isolator's data sheet.
    IsolatorSheet {
        numbers {
            /// Rated current, A.
            amps_a: LIMITS, "Rated current", "A", 1, 5000;
            /// Rated volts of a string through it, V.
            volts_v: LIMITS, "Rated volts", "V", 1, 3000;
            /// Poles.
            poles_n: LIMITS, "Poles", "n", 1, 20;
            /// Width, in ways of 17.5 mm.
            ways_n: BODY, "Width, ways of 17.5 mm", "n", 0.5, 100;
        }
        yes_or_no [
            /// It can be locked open.
            lockable: SWITCH, "Can be locked open"
        ]
        yes_or_no [
            /// Its contacts are seen to be open.
            visible: SWITCH, "Contacts are seen open"
        ]
    }
    /// One revision of a surge device's data sheet.
    SurgeSheet {
        numbers {
            /// Highest DC volts it stands for good (Ucpv), V.
            ucpv_v: LIMITS, "Volts it stands (Ucpv)", "V", 1, 3000;
            /// Type of test: 1, 2 or 3.
            class_n: LIMITS, "Type (1, 2 or 3)", "n", 1, 3;
            /// Nominal discharge current, kA.
            discharge_ka: LIMITS, "Nominal discharge current", "kA", 0.1, 200;
            /// Width, in ways of 17.5 mm.
            ways_n: BODY, "Width, ways of 17.5 mm", "n", 0.5, 100;
        }
    }
    /// One revision of a breaker's data sheet.
    BreakerSheet {
        numbers {
            /// Rated current, A.
            amps_a: LIMITS, "Rated current", "A", 0.5, 10000;
            /// Rated volts, V.
            volts_v: LIMITS, "Rated volts", "V", 1, 3000;
            /// Poles.
            poles_n: LIMITS, "Poles", "n", 1, 4;
            /// Interrupting rating, kA.
            breaking_ka: LIMITS, "Interrupting rating", "kA", 0.1, 500;
            /// It trips at once from this many times its rated current: 5 (B), 10 (C), 20 (D).
            trip_times: LIMITS, "Trips at once from, times rated", "", 2, 30;
            /// Width, in ways of 17.5 mm.
            ways_n: BODY, "Width, ways of 17.5 mm", "n", 0.5, 100;
        }
        yes_or_no [
            /// It can be locked open.
            lockable: SWITCH, "Can be locked open"
        ]
        yes_or_no [
            /// Its contacts are seen to be open.
            visible: SWITCH, "Contacts are seen open"
        ]
    }
    /// One revision of a combiner's data sheet.
    CombinerSheet {
        numbers {
            /// Fused inputs.
            inputs_n: LIMITS, "Fused inputs", "n", 1, 200;
            /// Rating of its bus, A.
            bus_a: LIMITS, "Rating of the bus", "A", 1, 10000;
            /// Rated DC volts, V.
            volts_v: LIMITS, "Rated DC volts", "V", 1, 3000;
            /// Rating of its disconnect, A.
            disconnect_a: LIMITS, "Rating of the disconnect", "A", 1, 10000;
            /// Rails for devices.
            rails_n: ROOM, "Rails", "n", 1, 20;
            /// Ways of 17.5 mm on a rail.
            rail_ways_n: ROOM, "Ways of 17.5 mm on a rail", "n", 1, 100;
            /// Entry holes.
            entries_n: ROOM, "Entry holes", "n", 0, 200;
            /// The widest of them, mm.
            entry_mm: ROOM, "Widest entry hole", "mm", 5, 200;
        }
    }
    /// One revision of an enclosure's data sheet.
    EnclosureSheet {
        numbers {
            /// Rails for devices.
            rails_n: ROOM, "Rails", "n", 1, 20;
            /// Ways of 17.5 mm on a rail.
            rail_ways_n: ROOM, "Ways of 17.5 mm on a rail", "n", 1, 100;
            /// Entry holes.
            entries_n: ROOM, "Entry holes", "n", 0, 200;
            /// The widest of them, mm.
            entry_mm: ROOM, "Widest entry hole", "mm", 5, 200;
            /// Width outside, mm.
            width_mm: BODY, "Width", "mm", 50, 3000;
            /// Height outside, mm.
            height_mm: BODY, "Height", "mm", 50, 3000;
            /// Depth outside, mm.
            depth_mm: BODY, "Depth", "mm", 20, 1000;
        }
    }
}

macro_rules! nothing_else {
    ($($sheet:ident),*) => {$(
        impl SheetData for $sheet {
            const FIELDS: &'static [Field] = Self::OWN;

            fn problems(&self, _: &str, _: &mut Vec<Problem>) {}
        }
    )*};
}

nothing_else!(FuseSheet, IsolatorSheet, SurgeSheet, BreakerSheet, EnclosureSheet);

impl SheetData for CombinerSheet {
    const FIELDS: &'static [Field] = Self::OWN;

    /// Its disconnect carries no more than its bus.
    fn problems(&self, path: &str, found: &mut Vec<Problem>) {
        let both = (self.disconnect_a, self.bus_a);
        ordered(found, &format!("{path}/disconnect_a"), "disconnect and bus", both, "");
    }
}
