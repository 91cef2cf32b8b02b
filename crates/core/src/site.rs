//! Site: design temperatures, how hot a cell gets, and the DC ceiling of the building.

use serde::Deserialize;

use crate::figure::{Bound, Def, Sheet, Stage, Verdict};
use crate::job::{Building, Mounting};
use crate::quantity::{Celsius, Degrees, Kelvins, Kilometres, Ratio, Volts, slack};
use crate::traced::{exact, given};

/// Lowest expected ambient from a weather record.
pub static T_MIN: Def = Def {
    id: "site.t_min_c",
    title: "Lowest expected ambient",
    stage: Stage::Site,
    na: "690.7",
    iec: "IEC 62548",
};
/// 2 % high ambient from a weather record.
pub static T_MAX: Def = Def {
    id: "site.t_max_c",
    title: "2 % high ambient",
    stage: Stage::Site,
    na: "310.15(B)",
    iec: "IEC 62548",
};
/// Cell temperature on the hottest day.
pub static T_CELL_HOT: Def = Def {
    id: "site.t_cell_hot_c",
    title: "Cells on the hottest day",
    stage: Stage::Site,
    na: "by mounting",
    iec: "by mounting",
};
/// DC ceiling of the building.
pub static DC_CEILING: Def = Def {
    id: "site.dc_ceiling_v",
    title: "DC ceiling of the building",
    stage: Stage::Site,
    na: "690.7",
    iec: "IEC 62548",
};

/// Distance of the weather station from the site.
pub static STATION: Def = Def {
    id: "site.station_km",
    title: "Weather station from the site",
    stage: Stage::Site,
    na: "great circle",
    iec: "great circle",
};

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

/// Design temperatures from a record where there is one, cell temperature, DC ceiling.
pub fn site(sheet: &mut Sheet, inputs: &SiteInputs) {
    if let Some(years) = inputs.yearly_min_c.as_deref().filter(|y| !y.is_empty()) {
        let mean = sheet.figure(&T_MIN, |w| {
            let sum =
                w.given("sum of the yearly minima", Kelvins(years.iter().sum()), "weather record");
            let n = w.given("years", Ratio(years.len() as f64), "weather record");
            Some(exact::<Celsius>(0.0) + sum / n)
        });
        compare(sheet, &T_MIN, inputs.t_min_c_entered, mean);
    }
    let mut t_max = inputs.t_max_c;
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
        compare(sheet, &T_MAX, inputs.t_max_c_entered, high);
        t_max = t_max.or(high);
    }
    cell_hot(sheet, t_max, inputs.mounting, inputs.cell_rise_hot_c);
    if let Some(building) = inputs.building {
        let ceiling = sheet.school.dc_ceiling_v(building);
        sheet.figure(&DC_CEILING, |w| {
            w.need::<Volts>("ceiling", ceiling, "site.building", "by building")
        });
    }
}

/// `site.t_cell_hot_c = t_max + rise`; not given where neither mounting nor rise is known.
pub fn cell_hot(
    sheet: &mut Sheet,
    t_max_c: Option<f64>,
    mounting: Option<Mounting>,
    rise_c: Option<f64>,
) -> Option<f64> {
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
    sheet.figure(&STATION, |w| {
        let [a, b] = [("site", here.0), ("station", there.0)]
            .map(|(what, v)| w.given(&format!("latitude of the {what}"), Degrees(v), what));
        let [c, d] = [("site", here.1), ("station", there.1)]
            .map(|(what, v)| w.given(&format!("longitude of the {what}"), Degrees(v), what));
        let two = exact::<Ratio>(2.0);
        let north = ((b.clone() - a.clone()) / two.clone()).sin();
        let east = ((d - c) / two.clone()).sin();
        let h = w.step("h", north.clone() * north + a.cos() * b.cos() * east.clone() * east);
        Some(exact::<Kilometres>(2.0 * EARTH_KM) * h.sqrt().asin())
    });
    sheet
        .hold(&STATION, Bound::at_most(Some(STATION_FAR_KM), "near enough", ""), Verdict::Warn)
        .reason("A station this far off, or higher up or at the sea, may have other mornings.")
        .cure("Take a nearer station, or note why this one stands for the site.", Vec::new());
}

fn compare(sheet: &mut Sheet, def: &'static Def, entered: Option<f64>, record: Option<f64>) {
    let (Some(entered), Some(record)) = (entered, record) else { return };
    let low = Bound::at_least(Some(entered - ENTRY_OFF_C), "as entered, less 3 °C", "");
    let high = Bound::at_most(Some(entered + ENTRY_OFF_C), "as entered, plus 3 °C", "");
    let bound = if record < entered { low } else { high };
    sheet
        .hold(def, bound, Verdict::Warn)
        .reason(format!(
            "The weather record gives {record:.1} °C, {entered:.1} °C is entered: {:.1} °C apart.",
            (record - entered).abs()
        ))
        .cure("Enter the figure of the record, or note why the site differs.", Vec::new());
}
