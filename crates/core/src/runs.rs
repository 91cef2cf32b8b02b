//! Runs: conductors sized by heat, number and terminals, their overcurrent devices, voltage drop,
//! the raceway they lie in, the earth wire beside them, and the panel they end in.

mod ac;
mod conductor_iec;
mod conductor_na;
mod cut;
mod egc;
mod fill;
mod panel;
mod vdrop;

pub(crate) use ac::output_device;
pub use ac::{AcInputs, I_OUT, OCPD as AC_OCPD, ac};
pub use conductor_iec::{ConductorIec, Install, conductor_iec};
pub use conductor_na::{Circuit, ConductorNa, SegmentNa, SharedCircuit, conductor_na};
pub use cut::{CutWire, RacewayCut, WireRole, arrange};
pub use egc::{EgcInputs, egc};
pub use fill::{FillInputs, FillWire, fill};
pub use panel::{PanelInputs, panel};
pub(crate) use vdrop::resistance;
pub use vdrop::{Vdrop, vdrop};

use crate::figure::{Def, Stage};

/// Largest current of a circuit.
pub static I_MAX: Def = Def {
    id: "circuit.i_max_a",
    title: "Largest current of the circuit",
    stage: Stage::Runs,
    na: "690.8(A)",
    iec: "IEC 62548",
};
/// Current a conductor and its device are sized for.
pub static I_DESIGN: Def = Def {
    id: "circuit.i_design_a",
    title: "Design current",
    stage: Stage::Runs,
    na: "690.8(B)",
    iec: "IEC 60364-4-43",
};
/// Overcurrent device.
pub static OCPD: Def = Def {
    id: "circuit.ocpd_a",
    title: "Overcurrent device",
    stage: Stage::Runs,
    na: "240.4, 240.6(A)",
    iec: "IEC 60364-4-43",
};
/// Ambient of the worst segment.
pub static AMBIENT: Def = Def {
    id: "circuit.ambient_c",
    title: "Ambient of the worst segment",
    stage: Stage::Runs,
    na: "310.15(B)",
    iec: "IEC 60364-5-52",
};
/// Heat factor of the worst segment.
pub static F_TEMP: Def = Def {
    id: "circuit.f_temp",
    title: "Factor for heat",
    stage: Stage::Runs,
    na: "310.15(B)(1)(1)",
    iec: "IEC 60364-5-52",
};

/// Declares the figures of a calculation, one line each, all of the stage Runs.
macro_rules! run_defs {
    ($($(#[$doc:meta])* $name:ident $id:literal $title:literal $na:literal $iec:literal;)*) => {$(
        $(#[$doc])*
        pub static $name: $crate::figure::Def =
            $crate::figure::Def { id: $id, title: $title, stage: $crate::figure::Stage::Runs, na: $na, iec: $iec };
    )*};
}
pub(crate) use run_defs;
