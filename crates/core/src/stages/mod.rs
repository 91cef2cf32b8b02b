//! The rules, a folder per stage in the order of the job. A stage's `define` brings its figures,
//! its passes over a job, its calculations, its quick sums and what it knows of data sheets.

pub mod branches;
pub mod earth;
pub mod equipment;
pub mod places;
pub mod protection;
pub mod roof;
pub mod routes;
pub mod runs;
pub mod site;
pub mod strings;
pub mod test;

use crate::registry::Registry;

/// What all stages bring with them.
pub fn define(r: &mut Registry) {
    site::define(r);
    equipment::define(r);
    strings::define(r);
    branches::define(r);
    roof::define(r);
    runs::define(r);
    protection::define(r);
    earth::define(r);
    places::define(r);
    routes::define(r);
    test::define(r);
}
