//! Ways to wire a job, faces filled with modules, strings routed over them. A search asks the
//! rules; what it finds is a proposal, and nothing is edited.

mod deal;
mod fill;
mod layout;
mod route;
mod ways;

pub use fill::{Fill, Filled, Lay, fill};
pub use layout::{
    Choice, Found, Layout, LayoutInputs, LayoutMppt, MpptUse, Note, choices, layout, search,
};
pub use route::{
    Along, Reroute, Rerouted, RouteAsk, RouteError, RouteFace, RouteModule, RouteString, RouteSum,
    Routed, RoutedFace, RoutedJumper, RoutedString, WHOLE_N, reroute, route, route_unproved,
};
pub use ways::{Remedy, Way, WayFace, WayUse, Ways, WaysAsk, ask_of, ways};

use serde_json::json;

use crate::registry::{Extra, Registry};

/// What the search brings with it.
pub fn define(r: &mut Registry) {
    r.figures(layout::CARDS);
    r.calculation_with::<LayoutInputs>("layout", |sheet, x| {
        let best = layout(sheet, x);
        Extra::from_iter([("layout.best".to_owned(), json!(best))])
    });
}
