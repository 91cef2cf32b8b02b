//! What makes power: inverters, strings, branches of microinverters.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Circuit, FaceKey, InverterKey, Job, Letter, ModuleKey, Plan};
use crate::library::SheetRef;

/// An inverter of the job.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JobInverter {
    /// Key within the job.
    pub id: InverterKey,
    /// Its data sheet.
    pub sheet: SheetRef,
    /// The phase a single-phase one feeds on a three-phase supply, 1 to 3: that line and the
    /// neutral, or that line and the next; absent: not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 3)]
    pub phase: Option<u32>,
}

/// A string: modules in series on one MPPT.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JobString {
    /// Its letter; tape, labels and tests go by it.
    pub letter: Letter,
    /// The face its modules lie on.
    pub face: FaceKey,
    /// Its modules' data sheet.
    pub module: SheetRef,
    /// Modules in series.
    #[schema(minimum = 1, maximum = 200)]
    pub n: u32,
    /// The inverter it goes to.
    pub inverter: InverterKey,
    /// The MPPT, counted from 1.
    #[schema(minimum = 1, maximum = 50)]
    pub mppt: u32,
    /// The optimizer on each module, where there are any: the inverter then holds the string at
    /// fixed volts.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub optimizer: Option<SheetRef>,
    /// Its modules on the roof map, in order: + of each joins - of the next.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 200)]
    pub modules: Vec<ModuleKey>,
    /// The other way round: - of each joins + of the next.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub plus_first: bool,
    /// Modules that are joined the wrong way round: turned, with the joins left where they were.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 200)]
    pub reversed: Vec<ModuleKey>,
    /// Modules that stay in it, the way they lie, when the face is routed again.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 200)]
    pub pinned: Vec<ModuleKey>,
    /// Jumpers that are planned, m, by the module each comes behind.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub jumpers: BTreeMap<ModuleKey, f64>,
}

/// A branch of microinverters on one trunk cable.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JobBranch {
    /// Its letter; tape, labels and tests go by it. No string of the job has the same.
    pub letter: Letter,
    /// The face its modules lie on.
    pub face: FaceKey,
    /// Its modules' data sheet.
    pub module: SheetRef,
    /// Its units' data sheet.
    pub micro: SheetRef,
    /// Units of each arm: one arm is fed from its end, two in between.
    #[schema(min_items = 1, max_items = 2)]
    pub arms_n: Vec<u32>,
    /// Breaker, A; its home run is a circuit of the plan.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 200)]
    pub breaker_a: Option<f64>,
    /// The phase it feeds on a three-phase supply, 1 to 3.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 3)]
    pub phase: Option<u32>,
    /// Its modules on the roof map, in order along the trunk. One arm is fed before the first; of
    /// two the first arm ends at the feed and the second begins there.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 200)]
    pub modules: Vec<ModuleKey>,
    /// Modules behind which the trunk is cut and a field-wired cable bridges the gap.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 200)]
    pub bridges: Vec<ModuleKey>,
    /// Modules that stay on it when the face is routed again.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 200)]
    pub pinned: Vec<ModuleKey>,
}

impl Job {
    /// Rating of the device of a circuit, A: what is planned there, or a branch's own breaker.
    pub fn device_a(&self, plan: &Plan, circuit: &Circuit) -> Option<f64> {
        let branch = || {
            let letter = circuit.from.branch.as_ref()?;
            self.branches.iter().find(|b| b.letter == *letter)?.breaker_a
        };
        plan.protected_a(circuit).or_else(branch)
    }
}

impl JobBranch {
    /// Units of all arms.
    pub fn units(&self) -> u32 {
        self.arms_n.iter().sum()
    }

    /// Units along the trunk before its feed: those of the first of two arms; none of one arm.
    pub fn before_feed(&self) -> usize {
        if self.arms_n.len() > 1 { self.arms_n[0] as usize } else { 0 }
    }

    /// The module of each arm's first unit, as it is fed; none that is not on the map.
    pub fn first_units(&self) -> Vec<&ModuleKey> {
        let feed = self.before_feed();
        let at = [feed.checked_sub(1), Some(feed)].into_iter().flatten();
        at.filter_map(|at| self.modules.get(at)).collect()
    }
}
