//! Runs: conductors sized by heat, number and terminals, their overcurrent devices, voltage drop,
//! the raceway they lie in, the earth wire beside them, and the panel they end in.

mod ac;
mod assumptions;
mod boxes;
mod carried;
mod conductor_iec;
mod conductor_na;
mod cut;
mod drawing;
mod earth_wire;
mod egc;
mod fill;
mod fitted;
mod iec;
mod laid;
mod lines;
mod method;
mod na;
mod nodes;
mod pass;
pub(crate) mod piece;
mod pull;
mod pulls;
mod quick;
mod raceway;
mod reach;
mod stand;
mod sums;
mod support;
mod vdrop;

pub use ac::{AcInputs, Curve, I_OUT, NETWORK, OCPD as AC_OCPD, ac};
pub(crate) use ac::{TOUCH_V, ZS_MAX, by_watts, output_device};
pub use boxes::{BoxInputs, boxed};
use conductor_iec::IZ;
pub use conductor_iec::{ConductorIec, Install, conductor_iec, smallest_cable};
use conductor_na::{AMPACITY, DERATED, TERMINAL};
pub use conductor_na::{Circuit, ConductorNa, SegmentNa, SharedCircuit, conductor_na};
pub use cut::{CutWire, RacewayCut, WireRole, arrange};
pub use drawing::{Band, Route, RouteCircuit, RouteNode, RoutePart, RouteWay};
pub(crate) use earth_wire::clad;
pub use egc::{EgcInputs, egc};
pub use fill::{FILL, Fill, FillInputs, FillWire, fill};
pub(crate) use lines::{Sources, is_208y};
pub use method::{Current, MethodInputs, WiringMethod, method, method_allowed};
pub use nodes::NodesFound;
pub(crate) use pass::PANEL_KNOWN;
pub use pass::RunsFound;
pub use pull::{PullInputs, PullPart, pull};
pub(crate) use raceway::{conductors, largest as largest_size};
pub use support::{SupportInputs, support};
pub(crate) use vdrop::resistance;
pub use vdrop::{Vdrop, vdrop};

use crate::figures;
use crate::plan::PlanFound;
use crate::registry::{Registry, need};

/// Whether a circuit's wire decides a check: of heat and number, of terminals, of its device, of
/// the drop.
pub fn is_of_the_wire(check: &str) -> bool {
    [TERMINAL.id, DERATED.id, INSTALLED.id, IZ.id, vdrop::VDROP_PCT.id].contains(&check)
}

/// What the stage brings with it.
pub fn define(r: &mut Registry) {
    for cards in [
        CARDS,
        ac::CARDS,
        boxes::CARDS,
        conductor_iec::CARDS,
        conductor_na::CARDS,
        earth_wire::CARDS,
        egc::CARDS,
        fill::CARDS,
        fitted::CARDS,
        laid::CARDS,
        method::CARDS,
        piece::CARDS,
        stand::CARDS,
        pass::CARDS,
        pull::CARDS,
        pulls::CARDS,
        reach::CARDS,
        support::CARDS,
        vdrop::CARDS,
    ] {
        r.figures(cards);
    }
    r.pass("plan", &[], |bench, _| PlanFound::of(bench.job, bench.library));
    r.pass("runs", &[need::<PlanFound>()], pass::runs_of_job);
    r.pass("nodes", &[need::<PlanFound>(), need::<RunsFound>()], nodes::nodes_of_job);
    r.pass("route", &[need::<PlanFound>()], drawing::route);
    r.calculation::<ConductorNa>("conductor_na", |sheet, x| {
        conductor_na(sheet, x);
    })
    .verdict_named("circuit.ocpd_a", &INSTALLED);
    r.calculation::<ConductorIec>("conductor_iec", |sheet, x| {
        conductor_iec(sheet, x);
    })
    .verdict_named("circuit.ocpd_a", &INSTALLED);
    r.calculation("wire_sum", quick::wire);
    r.calculation("cable_sum", quick::cable);
    r.calculation::<EgcInputs>("egc", |sheet, x| {
        egc(sheet, x);
    });
    r.calculation::<Vdrop>("vdrop", |sheet, x| {
        vdrop(sheet, x);
    });
    r.calculation::<FillInputs>("fill", |sheet, x| {
        fill(sheet, x);
    });
    r.calculation::<MethodInputs>("method", |sheet, x| {
        method(sheet, *x);
    });
    r.calculation("pull", pull);
    r.calculation("support", support);
    r.calculation("box", boxed);
    r.calculation::<AcInputs>("ac", |sheet, x| {
        ac(sheet, x);
    });
    r.sums(sums::SUMS);
}

figures! { Runs;
    /// Largest current of a circuit.
    I_MAX: Amps = "circuit.i_max_a",
        "Largest current of the circuit", na "690.8(A)", iec "IEC 62548";
    /// Current a conductor and its device are sized for.
    I_DESIGN: Amps = "circuit.i_design_a", "Design current", na "690.8(B)", iec "IEC 60364-4-43";
    /// Overcurrent device.
    OCPD: Amps = "circuit.ocpd_a", "Overcurrent device", na "240.4, 240.6(A)", iec "IEC 60364-4-43";
    /// Ambient of the worst segment.
    AMBIENT: Celsius = "circuit.ambient_c",
        "Ambient of the worst segment", na "310.15(B)", iec "IEC 60364-5-52";
    /// Heat factor of the worst segment.
    F_TEMP: Ratio = "circuit.f_temp", "Factor for heat", na "310.15(B)(1)(1)", iec "IEC 60364-5-52";
    /// The device that is planned.
    DEVICE: Amps = "circuit.ocpd_installed_a", "Installed device", "job";
    /// Whether the device that is planned protects the conductor and carries the circuit.
    INSTALLED: Rule = "circuit.ocpd_installed",
        "Installed overcurrent device", na "240.4, 240.6(A)", iec "IEC 60364-4-43";
    /// Smallest size that passes every check of the conductor.
    SIZE_MIN: Size = "circuit.size_min",
        "Smallest size that passes", na "310.15, 110.14(C)", iec "IEC 60364-5-52";
}
