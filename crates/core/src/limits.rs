//! How much a job may hold: what is read, what the schema says, and what is quick come from here.

/// Most nodes of a plan: several times a large plant.
pub const MOST_NODES: usize = 2_000;
/// Most ways of a plan.
pub const MOST_WAYS: usize = 2_000;
/// Most circuits: 500 strings, and all they could come together in.
pub const MOST_CIRCUITS: usize = 2_000;
/// Most modules of a face.
pub const MOST_MODULES: usize = 5_000;
