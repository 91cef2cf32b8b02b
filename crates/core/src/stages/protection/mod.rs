//! Protection: what ends an overcurrent or a surge, what opens a circuit, the enclosure all of it
//! sits in, the panel it ends in, and how its current transformers sit.

mod ac;
mod board;
mod busbar;
mod combiner;
mod ct;
mod dc;
mod devices;
mod earth_loop;
mod enclosure;
mod fuses;
mod isolators;
mod loads;
mod network;
mod panel;
mod parties;
mod quick;
mod residual;
mod shutdown;
mod spds;
mod supply;
mod surge;
mod through;

pub use board::{Board, BoardFeed, Boards, PanelChoice};
pub use enclosure::{CLOSES, EnclosureDrawing, Enclosures, Entry, RailDrawn, Sitting, WAYS_N};
pub use isolators::FITTED as ISOLATED;
pub use loads::load_sheet;
pub use panel::{OnTheBus, PanelInputs, panel};
pub use parties::{DemandDrawn, Demands};
pub(crate) use residual::{AT_ONCE_S, RESIDUAL_S, residual};
pub use surge::{SurgeInputs, surge};

use crate::plan::PlanFound;
use crate::registry::{Registry, need};
use crate::stages::branches::BranchesFound;
use crate::stages::runs::{NodesFound, RunsFound};
use crate::stages::strings::FoundStrings;

/// What the stage brings with it.
pub fn define(r: &mut Registry) {
    for cards in [
        ac::CARDS,
        board::CARDS,
        busbar::CARDS,
        combiner::CARDS,
        ct::CARDS,
        devices::CARDS,
        earth_loop::CARDS,
        enclosure::CARDS,
        fuses::CARDS,
        isolators::CARDS,
        loads::CARDS,
        network::CARDS,
        panel::CARDS,
        parties::CARDS,
        residual::CARDS,
        shutdown::CARDS,
        spds::CARDS,
        supply::CARDS,
        surge::CARDS,
    ] {
        r.figures(cards);
    }
    let dc =
        [need::<PlanFound>(), need::<RunsFound>(), need::<FoundStrings>(), need::<BranchesFound>()];
    r.pass("dc protection", &dc, dc::dc_of_job);
    let ac = [need::<PlanFound>(), need::<RunsFound>()];
    r.pass("ac protection", &ac, ac::ac_of_job);
    r.pass("boards", &ac, busbar::busbar_of_job);
    let demands = [need::<PlanFound>(), need::<dc::DcFound>(), need::<NodesFound>()];
    r.pass("demands", &demands, parties::demands_of_job);
    r.pass("enclosures", &[need::<PlanFound>()], enclosure::enclosures_of_job);
    r.calculation("busbar_sum", quick::busbar);
    r.calculation("spd", surge);
    r.calculation("panel", panel);
    r.calculation("load_sheet", load_sheet);
}
