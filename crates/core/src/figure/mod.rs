//! The vocabulary everything speaks: a [`Figure`] with its [`Line`]s of working, a [`Check`] of a
//! figure against a limit, its [`Verdict`], and the [`Cure`]s that would mend it.
//!
//! A figure is declared once by [`figures!`](crate::figures), computed on a [`Sheet`], and gives a
//! [`Handle`] to those that rest on it.

mod assumption;
mod check;
mod def;
mod field_title;
mod handle;
mod said;
mod sheet;
mod subject;
mod value;
mod working;

pub use assumption::{Assumed, Assumption};
pub use check::{Against, Bound, Check, Cure, Limit, Verdict};
pub use def::{Card, Count, Def, Kind, Rule, Size, Stage, Word, kind};
pub use field_title::{field_title, field_titles};
pub use handle::{Handle, Wording};
pub use said::{Said, said};
pub use sheet::{Recording, Sheet};
pub use subject::Subject;
pub use value::{Field, Figure, Line, Value};
pub use working::Working;
