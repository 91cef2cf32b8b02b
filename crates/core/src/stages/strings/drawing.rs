//! The voltage window of each inverter with its strings, as it is drawn.

use serde::Serialize;
use utoipa::ToSchema;

use super::pass::{FoundString, FoundStrings};
use super::{ColdBy, SiteTemps, Sources, WindowInputs, cold_by_each};
use crate::figure::Sheet;
use crate::job::{InverterKey, JobInverter, JobString, Letter};
use crate::library::{InverterSheet, SheetRef};
use crate::registry::Bench;

/// One string in the voltage window.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct WindowRow {
    /// Its letter.
    pub letter: Letter,
    /// Its place in the job's list, from 0.
    pub index: usize,
    /// Modules in series.
    pub n: u32,
    /// The MPPT, from 1.
    pub mppt: u32,
    /// The face's name.
    pub face: String,
    /// Working volts, hottest day.
    pub vmp_hot_v: Option<f64>,
    /// Working volts, coldest morning.
    pub vmp_cold_v: Option<f64>,
    /// Open-circuit volts, hottest day.
    pub voc_hot_v: Option<f64>,
    /// Open-circuit volts, coldest morning.
    pub voc_cold_v: Option<f64>,
    /// Cold volts of one module: how far the end mark moves for a module more or fewer.
    pub voc_cold_one_v: Option<f64>,
    /// With optimizers: the volts the inverter holds the string at.
    pub fixed_v: Option<f64>,
    /// With optimizers: the volts of the string when safe.
    pub safety_v: Option<f64>,
    /// Cold volts by each method of the school, side by side.
    pub cold_by: Vec<ColdBy>,
}

/// An inverter's voltage window with its strings.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct StringWindow {
    /// The inverter's id.
    pub inverter: InverterKey,
    /// Its model.
    pub model: String,
    /// Right end of the axis, V.
    pub axis_max_v: f64,
    /// Marks of the axis, V.
    pub ticks_v: Vec<f64>,
    /// Lower end of the tracking window (of the first MPPT), V.
    pub tracking_min_v: Option<f64>,
    /// Upper end of the tracking window, V.
    pub tracking_max_v: Option<f64>,
    /// Lower end of the full-power window, V.
    pub full_power_min_v: Option<f64>,
    /// Upper end of the full-power window, V.
    pub full_power_max_v: Option<f64>,
    /// Start volts.
    pub start_v: Option<f64>,
    /// The limit that binds in the cold, V.
    pub limit_v: Option<f64>,
    /// Which limit that is.
    pub binding: Option<String>,
    /// The strings.
    pub rows: Vec<WindowRow>,
}

/// Every inverter's window.
#[derive(Debug, Default)]
pub struct StringWindows(pub Vec<StringWindow>);

pub(super) fn string_windows(bench: &Bench, _: &mut Sheet) -> StringWindows {
    let site = SiteTemps::of(bench.job);
    let windows = bench.job.inverters.iter().filter_map(|i| string_window(bench, &site, i));
    StringWindows(windows.collect())
}

/// Like strings are alike by every method too: what they come to, by module, count and input.
type Known<'a> = Vec<(&'a SheetRef, u32, u32, Vec<ColdBy>)>;

fn cold_by<'a>(
    bench: &Bench<'a>,
    data: &InverterSheet,
    site: &SiteTemps,
    (s, found): (&'a JobString, &FoundString),
    known: &mut Known<'a>,
) -> Vec<ColdBy> {
    let FoundString::Window(own) = found else { return Vec::new() };
    let alike = known.iter().find(|(m, n, input, _)| (*m, *n, *input) == (&s.module, s.n, s.mppt));
    if let Some((.., by)) = alike {
        return by.clone();
    }
    let module = bench.library.module(&s.module);
    let (Some(module), Some(ratings)) = (module, data.ratings_at(s.mppt)) else {
        return Vec::new();
    };
    let x = WindowInputs {
        module: &module.ratings,
        inverter: &ratings,
        site,
        n: s.n,
        method: bench.job.site.cold_method,
        sources: &Sources::default(),
        n_pointer: None,
    };
    let by = cold_by_each(bench.job.school, own, &x);
    known.push((&s.module, s.n, s.mppt, by.clone()));
    by
}

fn string_window(bench: &Bench, site: &SiteTemps, inverter: &JobInverter) -> Option<StringWindow> {
    let (job, library) = (bench.job, bench.library);
    let data = library.inverter(&inverter.sheet)?;
    let found = &bench.found.get::<FoundStrings>().0;
    let on = || {
        let strings = job.strings.iter().zip(found).enumerate();
        strings.filter(|(_, (s, _))| s.inverter == inverter.id)
    };
    let mut known = Known::new();
    let rows: Vec<WindowRow> = on()
        .map(|(index, (s, found))| {
            let window = match found {
                FoundString::Window(window) => Some(window),
                _ => None,
            };
            let voc_cold_v = window.and_then(|w| w.cold.voc.value());
            let optimizer = s.optimizer.as_ref().and_then(|o| library.optimizer(o));
            WindowRow {
                letter: s.letter.clone(),
                index,
                n: s.n,
                mppt: s.mppt,
                face: job.face(&s.face).map(|f| f.name.clone()).unwrap_or_default(),
                vmp_hot_v: window.and_then(|w| w.vmp_hot.value()),
                vmp_cold_v: window.and_then(|w| w.vmp_cold.value()),
                voc_hot_v: window.and_then(|w| w.voc_hot.value()),
                voc_cold_one_v: voc_cold_v.map(|v| v / f64::from(s.n)),
                voc_cold_v,
                fixed_v: optimizer.and_then(|o| o.ratings.string_v),
                safety_v: match found {
                    FoundString::Optimizers(safety) => safety.value(),
                    _ => None,
                },
                cold_by: cold_by(bench, data, site, (s, found), &mut known),
            }
        })
        .collect();
    let limits = on().filter_map(|(_, (_, found))| match found {
        FoundString::Window(w) => Some((w.cold.limit.value()?, w.binding.text())),
        _ => None,
    });
    let lowest = limits.min_by(|a, b| a.0.total_cmp(&b.0));
    let limit_v = lowest.map(|l| l.0).or(data.vdc_max_v);
    let binding = lowest.and_then(|l| l.1).map(str::to_owned);
    let input = data.mppts.first().cloned().unwrap_or_default();
    let volts = rows.iter().flat_map(|r| [r.voc_cold_v, r.fixed_v]).flatten();
    let reach = volts.chain(limit_v).chain(input.mppt_max_v).fold(100.0, f64::max) * 1.08;
    let steps = [10.0, 20.0, 50.0, 100.0, 200.0, 250.0, 500.0];
    let step = steps.into_iter().find(|s| reach / s <= 8.0).unwrap_or(1000.0);
    let ticks_v = (0..).map(|k| f64::from(k) * step).take_while(|t| *t <= reach).collect();
    Some(StringWindow {
        inverter: inverter.id.clone(),
        model: data.model.clone(),
        axis_max_v: reach,
        ticks_v,
        tracking_min_v: input.mppt_min_v,
        tracking_max_v: input.mppt_max_v,
        full_power_min_v: input.full_power_min_v,
        full_power_max_v: input.full_power_max_v,
        start_v: data.start_v,
        limit_v,
        binding,
        rows,
    })
}
