//! Ways to wire a job, searched by tables. The search asks the rules of the strings what an input
//! may take; it edits nothing.

mod deal;
mod layout;
mod ways;

pub use layout::{
    Choice, Found, Layout, LayoutInputs, LayoutMppt, MpptUse, Note, choices, layout, search,
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
