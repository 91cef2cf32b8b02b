//! The way of the circuits through the house, as it is drawn.

use serde::Serialize;
use utoipa::ToSchema;

use crate::figure::Sheet;
use crate::job::{Letter, Place, RacewayChoice, RunKey};
use crate::registry::Bench;
use crate::tables;

/// A place the runs pass through, with the air there on the hottest day.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Band {
    /// The place.
    pub place: Place,
    /// High ambient of the site and what the place adds, °C.
    pub ambient_c: Option<f64>,
}

/// One segment of a run in the drawing.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Leg {
    /// The run's id.
    pub run: RunKey,
    /// Its place in the job's list, from 0.
    pub run_index: usize,
    /// The segment, from 0.
    pub segment: usize,
    /// The band it lies in, from 0.
    pub band: usize,
    /// The strings it carries, by letter; none for AC.
    pub strings: Vec<Letter>,
    /// The raceway, where there is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub raceway: Option<RacewayChoice>,
    /// Length one way, m.
    pub length_m: Option<f64>,
}

/// The way of the circuits through the places of the house, top to bottom.
#[derive(Clone, Debug, Default, Serialize, ToSchema)]
pub struct Route {
    /// The places, from the roof down.
    pub bands: Vec<Band>,
    /// The segments, run by run.
    pub legs: Vec<Leg>,
    /// Length of all segments that have one, m.
    pub length_m: f64,
}

pub(super) fn route(bench: &Bench, _: &mut Sheet) -> Route {
    let job = bench.job;
    let segments = || job.runs.iter().flat_map(|r| &r.segments);
    let mut places: Vec<Place> = segments().map(|s| s.place).collect();
    places.sort_unstable();
    places.dedup();
    let legs = job.runs.iter().enumerate().flat_map(|(run_index, run)| {
        let places = &places;
        run.segments.iter().enumerate().map(move |(segment, s)| Leg {
            run: run.id.clone(),
            run_index,
            segment,
            band: places.binary_search(&s.place).unwrap_or(0),
            strings: run.strings.clone(),
            raceway: s.raceway.clone(),
            length_m: s.length_m,
        })
    });
    let ambient =
        |place: Place| Some(job.site.t_max_c? + tables::place(place.key())?.ambient_add_c);
    Route {
        legs: legs.collect(),
        length_m: segments().filter_map(|s| s.length_m).sum(),
        bands: places.iter().map(|&place| Band { place, ambient_c: ambient(place) }).collect(),
    }
}
