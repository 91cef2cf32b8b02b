//! Each rule at its edges: on the limit, just past it, with an input missing, outside its table.
//! Expected values come from the arithmetic beside them, or from the table row that is named.

mod bench;
mod branches;
mod conductors;
mod panel;
mod parallel;
mod raceways;
mod readings;
mod site;
mod sun;
mod window;
