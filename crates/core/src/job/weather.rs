//! The weather file the design temperatures are of.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Where the design temperatures were taken from; kept in the job.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WeatherRecord {
    /// The station, as the file names it.
    #[schema(max_length = 120)]
    pub station: String,
    /// Latitude, north positive, °.
    #[schema(minimum = -90, maximum = 90)]
    pub latitude_deg: Option<f64>,
    /// Longitude, east positive, °.
    #[schema(minimum = -180, maximum = 180)]
    pub longitude_deg: Option<f64>,
    /// First year.
    #[schema(minimum = 1800, maximum = 2200)]
    pub first_year: i32,
    /// Last year.
    #[schema(minimum = 1800, maximum = 2200)]
    pub last_year: i32,
    /// Hours with a value.
    #[schema(minimum = 0, maximum = 2000000)]
    pub hours_n: u32,
    /// A typical year, put together of several.
    pub typical: bool,
    /// Hours by temperature, the coldest bin first.
    #[schema(max_items = 100)]
    pub histogram: Vec<WeatherBin>,
}

/// Hours in a band of temperature.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WeatherBin {
    /// Lower end, °C; the band is 2 K wide.
    #[schema(minimum = -100, maximum = 100)]
    pub from_c: f64,
    /// Hours.
    #[schema(minimum = 0, maximum = 2000000)]
    pub hours_n: u32,
}
