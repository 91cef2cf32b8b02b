//! The quick sum of a busbar: one panel and one inverter, with what is known of its ends.

use serde::Deserialize;

use super::{PanelInputs, panel};
use crate::figure::Sheet;
use crate::school::School;
use crate::tables;

/// Where the PV breaker sits on the bus.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
enum Sits {
    #[serde(rename = "opposite the main")]
    Opposite,
    #[serde(rename = "elsewhere")]
    Elsewhere,
    #[serde(rename = "not known")]
    NotKnown,
}

/// The busbar of one panel and one inverter.
#[derive(Debug, Deserialize)]
pub(super) struct BusbarSum {
    bus_a: Option<f64>,
    main_a: Option<f64>,
    inverter_a: Option<f64>,
    loads_a: Option<f64>,
    pv_breaker_a: Option<f64>,
    pv_sits: Sits,
    load_calc_a: Option<f64>,
}

pub(super) fn busbar(sheet: &mut Sheet, x: &BusbarSum) {
    let next = |amps: f64| tables::next_rating(School::Na.breakers(), 1.25 * amps);
    panel(
        sheet,
        &PanelInputs {
            bus_a: x.bus_a,
            main_a: x.main_a,
            load_breakers_a: x.loads_a.into_iter().collect(),
            pv_breaker_a: x.pv_breaker_a.or(x.inverter_a.and_then(next)),
            inverter_a: x.inverter_a,
            pv_at_far_end: match x.pv_sits {
                Sits::Opposite => Some(true),
                Sits::Elsewhere => Some(false),
                Sits::NotKnown => None,
            },
            load_calc_a: x.load_calc_a,
            ..PanelInputs::default()
        },
    );
}
