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

/// Where a bend lies that nobody measured, and how sharp it is.
pub(super) static BENDS: Assumption = Assumption {
    key: "bends_as_made",
    text: "Bends nobody measured are spread over their part, as wide as benders make them \
           (Chapter 9, Table 2; iec six times the size).",
};

/// What is pulled weighs as much as its copper and plastic.
pub(super) static WEIGHTS: Assumption = Assumption {
    key: "wire_weights",
    text: "Wires weigh what copper (8.96 kg/dm³), aluminium (2.70) and plastic (1.4) weigh.",
};

/// What nobody said of a part's rise.
pub(super) static LEVEL: Assumption = Assumption {
    key: "parts_level",
    text: "Tensions are those of level parts where nobody entered a rise; whether it pulls is \
           judged for parts straight up and straight down too.",
};

/// Resistance alone makes the drop.
pub(super) static RESISTANCE: Assumption = Assumption {
    key: "power_factor_1",
    text: "Power factor 1, and reactance left out: true below 1/0 AWG or 50 mm².",
};

/// The ground in a metal-clad cable whose print nobody entered.
pub(super) static CLAD: Assumption = Assumption {
    key: "clad_ground",
    text: "The ground in a metal-clad cable is the one cables of its size usually have: look at \
           the print on it.",
};

/// Cable that is there already is cut with room for its ends.
pub(super) static CUT_ENDS: Assumption = Assumption {
    key: "cut_ends",
    text: "A cut takes 0.3 m more at each end than the way is long.",
};
