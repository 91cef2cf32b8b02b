//! Geometry of the drawings, taken from the figures.

use serde::Serialize;
use utoipa::ToSchema;

use crate::figure::{Sheet, Subject, SubjectKind, Value};
use crate::job::{Job, JobInverter, Place, RacewayChoice};
use crate::library::{Library, SheetRef};
use crate::strings::{ColdBy, SiteTemps, Sources, WindowInputs, cold_by_each};
use crate::tables;

/// The tape that marks a circuit everywhere: a colour and, from the ninth on, a band pattern.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Tape {
    /// The string's letter.
    pub letter: String,
    /// Colour by name.
    pub colour: &'static str,
    /// Band pattern: 0 plain, then one band, two bands and so on.
    pub bands: u32,
}

const COLOURS: [&str; 8] = ["blue", "orange", "green", "violet", "yellow", "brown", "pink", "grey"];

pub(super) fn tapes(job: &Job) -> Vec<Tape> {
    let tape = |(i, letter): (usize, &String)| Tape {
        letter: letter.clone(),
        colour: COLOURS[i % COLOURS.len()],
        bands: (i / COLOURS.len()) as u32,
    };
    let branches = job.branches.iter().map(|b| &b.letter);
    job.strings.iter().map(|s| &s.letter).chain(branches).enumerate().map(tape).collect()
}

/// One string in the voltage window.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct WindowRow {
    /// Its letter.
    pub letter: String,
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
    pub inverter: String,
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

fn number(sheet: &Sheet, id: &str, letter: &str) -> Option<f64> {
    value(sheet, id, letter).and_then(Value::number)
}

fn value<'a>(sheet: &'a Sheet, id: &str, letter: &str) -> Option<&'a Value> {
    let figure = sheet.figures.iter().find(|f| {
        f.id == id && f.subject.kind == SubjectKind::String && f.subject.name == letter
    })?;
    figure.value.as_ref()
}

pub(super) fn string_windows(sheet: &Sheet, job: &Job, library: &Library) -> Vec<StringWindow> {
    job.inverters.iter().filter_map(|i| string_window(sheet, job, library, i)).collect()
}

fn string_window(
    sheet: &Sheet,
    job: &Job,
    library: &Library,
    inverter: &JobInverter,
) -> Option<StringWindow> {
    let data = library.inverter(&inverter.sheet)?;
    let site = SiteTemps::of(job);
    // Like strings are alike by every method too.
    let mut known: Vec<(&SheetRef, u32, u32, Vec<ColdBy>)> = Vec::new();
    let mut cold_by = |s: &'_ crate::job::JobString| -> Vec<ColdBy> {
        if let Some(same) =
            known.iter().find(|(m, n, mppt, _)| **m == s.module && (*n, *mppt) == (s.n, s.mppt))
        {
            return same.3.clone();
        }
        let (Some(module), Some(ratings)) = (library.module(&s.module), data.ratings_at(s.mppt))
        else {
            return Vec::new();
        };
        let sources = Sources::default();
        let x = WindowInputs {
            module: &module.ratings,
            inverter: &ratings,
            site: &site,
            n: s.n,
            method: job.site.cold_method,
            sources: &sources,
            n_pointer: None,
        };
        let by = cold_by_each(sheet, &Subject::new(SubjectKind::String, &s.letter), &x);
        if let Some(own) = job.strings.iter().find(|o| o.letter == s.letter) {
            known.push((&own.module, s.n, s.mppt, by.clone()));
        }
        by
    };
    let rows: Vec<WindowRow> = job
        .strings
        .iter()
        .enumerate()
        .filter(|(_, s)| s.inverter == inverter.id)
        .map(|(index, s)| {
            let voc_cold_v = number(sheet, "string.voc_cold_v", &s.letter);
            WindowRow {
                letter: s.letter.clone(),
                index,
                n: s.n,
                mppt: s.mppt,
                face: job.face(&s.face).map(|f| f.name.clone()).unwrap_or_default(),
                vmp_hot_v: number(sheet, "string.vmp_hot_v", &s.letter),
                vmp_cold_v: number(sheet, "string.vmp_cold_v", &s.letter),
                voc_hot_v: number(sheet, "string.voc_hot_v", &s.letter),
                voc_cold_one_v: voc_cold_v.map(|v| v / f64::from(s.n)),
                voc_cold_v,
                fixed_v: s
                    .optimizer
                    .as_ref()
                    .and_then(|o| library.optimizer(o))
                    .and_then(|o| o.ratings.string_v),
                safety_v: number(sheet, "string.safety_v", &s.letter),
                cold_by: if s.optimizer.is_some() { Vec::new() } else { cold_by(s) },
            }
        })
        .collect();
    let lowest = rows
        .iter()
        .filter_map(|r| Some((number(sheet, "string.limit_v", &r.letter)?, r.letter.as_str())))
        .min_by(|a, b| a.0.total_cmp(&b.0));
    let limit_v = lowest.map(|l| l.0).or(data.vdc_max_v);
    let binding = lowest.and_then(|(_, letter)| match value(sheet, "string.binding", letter) {
        Some(Value::Text(t)) => Some(t.clone()),
        _ => None,
    });
    let input = data.mppts.first().cloned().unwrap_or_default();
    let reach = rows
        .iter()
        .flat_map(|r| [r.voc_cold_v, r.fixed_v])
        .flatten()
        .chain(limit_v)
        .chain(input.mppt_max_v)
        .fold(100.0, f64::max)
        * 1.08;
    let step = [10.0, 20.0, 50.0, 100.0, 200.0, 250.0, 500.0]
        .into_iter()
        .find(|s| reach / s <= 8.0)
        .unwrap_or(1000.0);
    let ticks_v: Vec<f64> =
        (0..).map(|k| f64::from(k) * step).take_while(|t| *t <= reach).collect();
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
    pub run: String,
    /// Its place in the job's list, from 0.
    pub run_index: usize,
    /// The segment, from 0.
    pub segment: usize,
    /// The band it lies in, from 0.
    pub band: usize,
    /// The strings it carries, by letter; none for AC.
    pub strings: Vec<String>,
    /// The raceway, where there is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub raceway: Option<RacewayChoice>,
    /// Length one way, m.
    pub length_m: Option<f64>,
}

/// The way of the circuits through the places of the house, top to bottom.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Route {
    /// The places, from the roof down.
    pub bands: Vec<Band>,
    /// The segments, run by run.
    pub legs: Vec<Leg>,
    /// Length of all segments that have one, m.
    pub length_m: f64,
}

pub(super) fn route(job: &Job) -> Route {
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
