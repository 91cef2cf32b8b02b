//! The real interface driven in a headless browser: the server as it is shipped, a database of its
//! own, Chromium.

mod application;
mod driver;
mod page;

pub use application::Application;
pub use driver::Driver;
pub use page::{Page, WAIT};
