//! What the figures of circuits and ways take by habit.

use crate::figure::Assumption;

/// Nobody said what the terminals are marked for.
pub(super) static TERMINALS_75: Assumption = Assumption {
    key: "terminals_75",
    text: "Terminals at both ends are marked for 75 °C (110.14(C)).",
};

/// A neutral that is not counted.
pub(super) static NEUTRAL: Assumption = Assumption {
    key: "neutral_unbalance",
    text: "The neutral carries only the unbalance of the two lines, so it is not counted \
           (310.15(E)).",
};

/// The heat of an attic.
pub(super) static ATTIC: Assumption = Assumption {
    key: "attic_17",
    text: "An attic or loft is 17 K hotter than the air outside on the hottest day.",
};

/// Outside diameters of the tables.
pub(super) static DIAMETERS: Assumption = Assumption {
    key: "usual_diameters",
    text: "PV wire and IEC cables have the usual outside diameters; nobody measured them.",
};

/// Resistance alone makes the drop.
pub(super) static RESISTANCE: Assumption = Assumption {
    key: "power_factor_1",
    text: "Power factor 1, and reactance left out: true below 1/0 AWG or 50 mm².",
};
