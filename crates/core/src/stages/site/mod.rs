//! Site: what must be known before anything is sized.

mod pass;
mod sun;
mod temperatures;
pub mod weather;

pub use pass::Ceiling;
pub use sun::{SunInputs, clear_sky_w_m2, days_since_2000, declination_deg, sun, sun_at};
pub use temperatures::{Design, SiteInputs, ceiling_v, cell_hot, site, station};

use crate::registry::Registry;

/// What the stage brings with it.
pub fn define(r: &mut Registry) {
    r.figures(temperatures::CARDS);
    r.figures(sun::CARDS);
    r.pass("site", &[], pass::site_of_job);
    r.calculation::<SiteInputs>("site", |sheet, x| {
        site(sheet, x);
    });
    r.calculation("sun", sun);
}
