//! Quick sums of the branches.

use crate::registry::{Input, Sum, count, number, optional};
use crate::school::School;

const BRANCH: &[Input] = &[
    number("unit_a", "One unit", "A", "1.31"),
    number("volts_v", "Volts", "V", "240"),
    number("breaker_a", "Breaker", "A", "20"),
    optional(count("maker_max_n", "Most by the maker", "11")),
    count("arms_n.0", "Units on the branch", "11"),
    number("section_ohm", "Loop resistance of a trunk section", "ohm", "0.0142"),
];

const BRANCH_ANSWERS: &[&str] = &["branch.n_max", "branch.i_a", "branch.rise_trunk_pct"];

pub(super) static SUMS: &[Sum] = &[
    Sum {
        name: "branch",
        title: "Microinverter branch",
        about: "Units on a breaker, rise along the trunk",
        school: School::Na,
        inputs: BRANCH,
        answers: BRANCH_ANSWERS,
        calculation: "micro",
    },
    Sum {
        name: "branch",
        title: "Microinverter branch",
        about: "Units on a breaker, rise along the trunk",
        school: School::Iec,
        inputs: BRANCH,
        answers: BRANCH_ANSWERS,
        calculation: "micro",
    },
];
