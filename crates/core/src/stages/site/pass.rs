//! The site of a job.

use super::temperatures::{
    DC_CEILING, SiteInputs, T_CELL_HOT, T_MAX, T_MIN, ceiling_v, site, station,
};
use crate::figure::{Field, Sheet, Subject};
use crate::quantity::Celsius;
use crate::registry::Bench;

/// The DC ceiling of the building, V; absent where its kind is not known.
#[derive(Clone, Copy, Debug, Default)]
pub struct Ceiling(pub Option<f64>);

pub(super) fn site_of_job(bench: &Bench, sheet: &mut Sheet) -> Ceiling {
    let job = bench.job;
    sheet.subject = Subject::Site;
    let s = &job.site;
    let record = |values: &[f64]| (!values.is_empty()).then(|| values.to_vec());
    for (def, value, of_record) in [
        (&T_MIN, s.t_min_c, !s.yearly_min_c.is_empty()),
        (&T_MAX, s.t_max_c, !s.hottest_month_hourly_c.is_empty()),
    ] {
        if !of_record {
            sheet.figure(def, |w| w.need::<Celsius>("as entered", value, def.id, "site"));
        }
        if value.is_none() || !of_record {
            sheet.known(def, absent(value, def.id));
        }
    }
    let inputs = SiteInputs {
        yearly_min_c: record(&s.yearly_min_c),
        hottest_month_hourly_c: record(&s.hottest_month_hourly_c),
        t_min_c_entered: s.t_min_c,
        t_max_c_entered: s.t_max_c,
        t_max_c: s.t_max_c,
        mounting: s.mounting,
        cell_rise_hot_c: s.cell_rise_hot_c,
        building: s.building,
    };
    site(sheet, &inputs);
    let here = s.latitude_deg.zip(s.longitude_deg);
    let there = s.weather.as_ref().and_then(|w| w.latitude_deg.zip(w.longitude_deg));
    if let (Some(here), Some(there)) = (here, there) {
        station(sheet, here, there);
    }
    let rise = s.cell_rise_hot_c.or(s.mounting.map(|m| m.cell_rise_c()));
    sheet.known(&T_CELL_HOT, absent(rise, "site.mounting"));
    let ceiling = s.building.and_then(|b| ceiling_v(job.school, b));
    sheet.known(&DC_CEILING, absent(ceiling, "site.building"));
    Ceiling(ceiling)
}

fn absent(value: Option<f64>, field: Field) -> Option<Field> {
    if value.is_none() { Some(field) } else { None }
}
