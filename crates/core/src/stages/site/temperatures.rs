//! Site: design temperatures, how hot a cell gets, and the DC ceiling of the building.

use serde::Deserialize;

use crate::figure::{Bound, Handle, Sheet, Verdict};
use crate::figures;
use crate::job::{Building, Mounting};
use crate::quantity::{Celsius, Degrees, Kelvins, Kilometres, Ratio, Volts, slack};
use crate::school::School;
use crate::traced::{exact, given};

figures! { Site;
    /// Lowest expected ambient from a weather record.
    T_MIN: Celsius = "site.t_min_c", "Lowest expected ambient", na "690.7", iec "IEC 62548";
    /// 2 % high ambient from a weather record.
    T_MAX: Celsius = "site.t_max_c", "2 % high ambient", na "310.15(B)", iec "IEC 62548";
    /// Cell temperature on the hottest day.
    T_CELL_HOT: Celsius = "site.t_cell_hot_c", "Cells on the hottest day", "by mounting";
    /// DC ceiling of the building.
    DC_CEILING: Volts = "site.dc_ceiling_v",
        "DC ceiling of the building", na "690.7", iec "IEC 62548";
    /// Distance of the weather station from the site.
    STATION: Kilometres = "site.station_km", "Weather station from the site", "great circle";
}

/// Mean radius of the earth.
const EARTH_KM: f64 = 6371.0;
/// A station farther off says little of a site.
const STATION_FAR_KM: f64 = 50.0;

/// Farthest an entry may be off the weather record before it is a caution, K.
pub const ENTRY_OFF_C: f64 = 3.0;

/// What the site calculation reads.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct SiteInputs {
    /// Lowest value of each year, °C.
    pub yearly_min_c: Option<Vec<f64>>,
    /// Hourly values of the hottest month, °C, in any order.
    pub hottest_month_hourly_c: Option<Vec<f64>>,
    /// Lowest ambient as entered, °C.
    pub t_min_c_entered: Option<f64>,
    /// High ambient as entered, °C.
    pub t_max_c_entered: Option<f64>,
    /// High ambient used for the cells, °C; absent: that of the record.
    pub t_max_c: Option<f64>,
    /// Mounting of the array.
    pub mounting: Option<Mounting>,
    /// Cell rise as entered, K.
    pub cell_rise_hot_c: Option<f64>,
    /// Kind of building.
    pub building: Option<Building>,
}

/// Design temperatures as a record gives them.
#[derive(Clone, Copy, Debug)]
pub struct Design {
    /// Mean of the yearly minima, °C; absent without a record.
    pub t_min_c: Option<f64>,
    /// High ambient used for the cells, °C.
    pub t_max_c: Option<f64>,
}

/// Design temperatures from a record where there is one, cell temperature, DC ceiling.
pub fn site(sheet: &mut Sheet, inputs: &SiteInputs) -> Design {
    let mut design = Design { t_min_c: None, t_max_c: inputs.t_max_c };
    if let Some(years) = inputs.yearly_min_c.as_deref().filter(|y| !y.is_empty()) {
        let mean = sheet.figure(&T_MIN, |w| {
            let sum =
                w.given("sum of the yearly minima", Kelvins(years.iter().sum()), "weather record");
            let n = w.given("years", Ratio(years.len() as f64), "weather record");
            Some(exact::<Celsius>(0.0) + sum / n)
        });
        compare(sheet, inputs.t_min_c_entered, &mean);
        design.t_min_c = mean.value();
    }
    if let Some(hours) = inputs.hottest_month_hourly_c.as_deref().filter(|h| !h.is_empty()) {
        let high = sheet.figure(&T_MAX, |w| {
            let mut sorted = hours.to_vec();
            sorted.sort_by(f64::total_cmp);
            // Place 0.98 x (count - 1) counted from 0, linear between neighbours.
            let count = w.given("hours", Ratio(sorted.len() as f64), "weather record");
            let place = w.step("place", exact::<Ratio>(0.98) * (count - exact(1.0)));
            let low = (place.value.0 + slack(place.value.0)).floor();
            let a = w.given("value below", Celsius(sorted[low as usize]), "weather record");
            let b = w.given(
                "value above",
                Celsius(sorted[(low as usize + 1).min(sorted.len() - 1)]),
                "weather record",
            );
            Some(a.clone() + (b - a) * (place - given("place below", Ratio(low))))
        });
        compare(sheet, inputs.t_max_c_entered, &high);
        design.t_max_c = design.t_max_c.or(high.value());
    }
    cell_hot(sheet, design.t_max_c, inputs.mounting, inputs.cell_rise_hot_c);
    if let Some(building) = inputs.building {
        let ceiling = ceiling_v(sheet.school, building);
        sheet.figure(&DC_CEILING, |w| {
            w.need::<Volts>("ceiling", ceiling, "site.building", "by building")
        });
    }
    design
}

/// `site.t_cell_hot_c = t_max + rise`; not given where neither mounting nor rise is known.
pub fn cell_hot(
    sheet: &mut Sheet,
    t_max_c: Option<f64>,
    mounting: Option<Mounting>,
    rise_c: Option<f64>,
) -> Handle<Celsius> {
    let rise = rise_c.or(mounting.map(Mounting::cell_rise_c));
    let source = if rise_c.is_some() { "as entered" } else { "by mounting" };
    sheet.figure(&T_CELL_HOT, |w| {
        let t_max = w.need::<Celsius>("t_max", t_max_c, "site.t_max_c", "site");
        let rise = w.need::<Kelvins>("rise", rise, "site.mounting", source);
        Some(t_max? + rise?)
    })
}

/// `site.station_km`, by the haversine formula; a caution beyond 50 km.
pub fn station(sheet: &mut Sheet, here: (f64, f64), there: (f64, f64)) {
    let far = sheet.figure(&STATION, |w| {
        let [a, b] = [("site", here.0), ("station", there.0)]
            .map(|(what, v)| w.given(format_args!("latitude of the {what}"), Degrees(v), what));
        let [c, d] = [("site", here.1), ("station", there.1)]
            .map(|(what, v)| w.given(format_args!("longitude of the {what}"), Degrees(v), what));
        let two = exact::<Ratio>(2.0);
        let north = ((b.clone() - a.clone()) / two.clone()).sin();
        let east = ((d - c) / two.clone()).sin();
        let h = w.step("h", north.clone() * north + a.cos() * b.cos() * east.clone() * east);
        Some(exact::<Kilometres>(2.0 * EARTH_KM) * h.sqrt().asin())
    });
    sheet
        .hold(&far, Bound::at_most(STATION_FAR_KM, "near enough"), Verdict::Warn)
        .reason("A station this far off, or higher up or at the sea, may have other mornings.")
        .cure("Take a nearer station, or note why this one stands for the site.", Vec::new());
}

/// Highest DC volts a kind of building allows (690.7); none where the school does not know the
/// kind.
pub fn ceiling_v(school: School, building: Building) -> Option<f64> {
    building.is_of(school).then_some(match building {
        Building::Dwelling12 => 600.0,
        Building::OtherRoof | Building::Building => 1000.0,
        Building::Ground => 1500.0,
    })
}

/// An entry against the record it should be of.
fn compare(sheet: &mut Sheet, entered: Option<f64>, of_record: &Handle<Celsius>) {
    let (Some(entered), Some(record)) = (entered, of_record.value()) else { return };
    let low = Bound::at_least(entered - ENTRY_OFF_C, "as entered, less 3 °C");
    let high = Bound::at_most(entered + ENTRY_OFF_C, "as entered, plus 3 °C");
    let bound = if record < entered { low } else { high };
    sheet
        .hold(of_record, bound, Verdict::Warn)
        .reason(format_args!(
            "The weather record gives {record:.1} °C, {entered:.1} °C is entered: {:.1} °C apart.",
            (record - entered).abs()
        ))
        .cure("Enter the figure of the record, or note why the site differs.", Vec::new());
}
