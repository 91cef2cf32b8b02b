//! Readings of a job, judged; and a reading judged before it is kept.

use std::collections::{BTreeMap, HashMap};

use serde::Serialize;
use utoipa::ToSchema;

use super::reading::ISC;
use super::strip::{MeterStrip, strip};
use super::{Cause, TestInputs, test};
use crate::figure::{Bound, Check, Field, Figure, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{Job, JobString, Reading, ReadingValues};
use crate::library::{Library, ModuleRatings};
use crate::quantity::{Amps, Ratio};
use crate::registry::Bench;
use crate::stages::strings::SiteTemps;
use crate::traced::exact;

/// How far strings alike may be apart, % (IEC 62446-1, 6.5).
const LIKE_PCT: f64 = 5.0;

figures! { Test;
    /// How far strings alike are apart.
    LIKE: Percent = "test.isc_like_pct", "Short-circuit current of strings alike", "IEC 62446-1";
    /// Whether a string was read.
    TAKEN: Rule = "test.taken", "Open-circuit volts read", "IEC 62446-1";
}

/// A reading with what it was judged by. Its figures and checks stand under the reading's id.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct JudgedReading {
    /// The reading.
    pub reading: Reading,
    /// Whether a later one of the same kind took its place, or it was withdrawn.
    pub superseded: bool,
    /// The meter strip.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub strip: Option<MeterStrip>,
    /// Causes of the volts, likeliest first.
    pub causes: Vec<Cause>,
}

/// A reading judged before it is kept: expected values as soon as light and warmth are known.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Preview {
    /// Its figures.
    pub figures: Vec<Figure>,
    /// Its checks.
    pub checks: Vec<Check>,
    /// The meter strip.
    pub strip: Option<MeterStrip>,
    /// Causes, likeliest first.
    pub causes: Vec<Cause>,
}

/// What limits the volts of a string, by field, V.
fn limits(
    job: &Job,
    library: &Library,
    s: &JobString,
    module: &ModuleRatings,
) -> [(Field, Option<f64>); 3] {
    let inverter = job.inverters.iter().find(|i| i.id == s.inverter);
    let inverter = inverter.and_then(|i| library.inverter(&i.sheet));
    let vdc_max = inverter.and_then(|i| i.ratings_at(s.mppt)).and_then(|r| r.vdc_max_v);
    [
        ("inverter.vdc_max_v", vdc_max),
        ("module.max_system_v", module.max_system_v),
        ("site.dc_ceiling_v", SiteTemps::of(job).dc_ceiling_v),
    ]
}

pub(super) fn inputs(job: &Job, library: &Library, v: &ReadingValues) -> Option<TestInputs> {
    let s = job.strings.iter().find(|s| s.letter == v.string)?;
    let mut module: ModuleRatings = library.module(&s.module)?.ratings.clone();
    if let Some(device) = &s.optimizer {
        // Before pairing each device shows its safe volts, whatever the light: no coefficient, no
        // light term, no current.
        let safe = library.optimizer(device).and_then(|o| o.ratings.safety_v);
        module = ModuleRatings {
            voc_v: safe,
            b_voc_pct_c: Some(0.0),
            cells_series_n: None,
            isc_a: None,
            ..module
        };
    }
    // Optimizers hold the string at fixed volts: there the cold changes nothing.
    let limits = limits(job, library, s, &module);
    let limits = limits.into_iter().filter(|_| s.optimizer.is_none());
    let (known, open): (Vec<_>, Vec<_>) = limits.partition(|(_, limit)| limit.is_some());
    Some(TestInputs {
        limit_v: known.iter().filter_map(|(_, limit)| *limit).reduce(f64::min),
        open_limits: open.into_iter().map(|(field, _)| field).collect(),
        t_min_c: job.site.t_min_c,
        module,
        n: s.n,
        p: Some(1),
        irradiance_w_m2: v.irradiance_w_m2,
        cell_c: v.cell_c,
        back_c: v.back_c,
        ambient_c: v.ambient_c,
        measured_voc_v: v.voc_v,
        measured_isc_a: v.isc_a,
        ..TestInputs::default()
    })
}

/// Readings of a job, judged.
#[derive(Debug, Default)]
pub struct ReadingsFound(pub Vec<JudgedReading>);

pub(super) fn readings_of_job(bench: &Bench, sheet: &mut Sheet) -> ReadingsFound {
    let (job, library, readings) = (bench.job, bench.library, bench.readings);
    for s in &job.strings {
        let read = |r: &Reading| {
            r.values.string == s.letter && r.values.voc_v.is_some() && r.withdrawn.is_none()
        };
        if !readings.iter().any(read) {
            sheet.subject = Subject::string(&s.letter);
            sheet.known(&TAKEN, ["readings"]);
        }
    }
    let mut judged = Vec::new();
    // The last that was taken stands, in whatever order they came in: one may have waited for a
    // signal. What was withdrawn does not.
    let last = |has: fn(&ReadingValues) -> bool| {
        let mut last: HashMap<&str, (Option<i64>, usize)> = HashMap::new();
        let stands = |r: &Reading| r.withdrawn.is_none() && has(&r.values);
        for (i, r) in readings.iter().enumerate().filter(|(_, r)| stands(r)) {
            let own = (r.instant(), i);
            let known = last.entry(r.values.string.as_str()).or_insert(own);
            *known = own.max(*known);
        }
        last
    };
    let last_voc = last(|v| v.voc_v.is_some());
    let last_isc = last(|v| v.isc_a.is_some());
    for (i, reading) in readings.iter().enumerate() {
        let later = |last: &HashMap<&str, (Option<i64>, usize)>, read: bool| {
            read && last.get(reading.values.string.as_str()).is_some_and(|(_, at)| *at != i)
        };
        let voc_superseded = later(&last_voc, reading.values.voc_v.is_some());
        let isc_superseded = later(&last_isc, reading.values.isc_a.is_some());
        let judged_by = inputs(job, library, &reading.values);
        let Some(inputs) = judged_by.filter(|_| reading.withdrawn.is_none()) else {
            judged.push(JudgedReading {
                reading: reading.clone(),
                superseded: true,
                strip: None,
                causes: Vec::new(),
            });
            continue;
        };
        sheet.subject = Subject::Reading { reading: reading.id.clone() };
        let from = sheet.checks.len();
        let tested = test(sheet, &inputs);
        for check in &mut sheet.checks[from..] {
            check.alternative = if check.id == ISC.id { isc_superseded } else { voc_superseded };
        }
        judged.push(JudgedReading {
            reading: reading.clone(),
            superseded: sheet.checks[from..].iter().all(|c| c.alternative),
            strip: strip(&inputs, tested.expected_v),
            causes: tested.causes,
        });
    }
    like_strings(job, &judged, sheet);
    ReadingsFound(judged)
}

/// Short-circuit currents of strings alike, taken in the same light: within five percent of one
/// another. Without a reading of the light that is a caution, since it may have changed.
fn like_strings(job: &Job, judged: &[JudgedReading], sheet: &mut Sheet) {
    type Alike<'j> = Vec<(&'j JobString, f64)>;
    let mut groups: BTreeMap<(&str, &str, u32), Alike> = BTreeMap::new();
    for r in judged.iter().filter(|r| !r.superseded) {
        let v = &r.reading.values;
        let (Some(isc), None) = (v.isc_a, v.irradiance_w_m2) else { continue };
        let Some(s) = job.strings.iter().find(|s| s.letter == v.string) else { continue };
        if s.optimizer.is_none() {
            let like = (s.face.as_str(), s.module.sheet.as_str(), s.module.revision);
            groups.entry(like).or_default().push((s, isc));
        }
    }
    for group in groups.into_values().filter(|g| g.len() > 1) {
        let by = |a: &&(&JobString, f64), b: &&(&JobString, f64)| a.1.total_cmp(&b.1);
        let (Some(least), Some(most)) = (group.iter().min_by(by), group.iter().max_by(by)) else {
            continue;
        };
        sheet.subject = Subject::string(&least.0.letter);
        let share = sheet.figure(&LIKE, |w| {
            let low = w.given(&least.0.letter, Amps(least.1), "reading");
            let high = w.given(&most.0.letter, Amps(most.1), "reading");
            Some((exact::<Ratio>(1.0) - low / high).percent())
        });
        sheet
            .hold(&share, Bound::at_most(LIKE_PCT, "strings alike"), Verdict::Warn)
            .beyond(|over| {
                format!("{over} beyond that, or the light changed: read again with the light.")
            })
            .cure("Read again in steady light; then look for soiling, shade, a joint.", Vec::new());
    }
}

/// Judges a reading that is not kept yet; none where the string is not of the job.
pub fn preview(job: &Job, library: &Library, values: &ReadingValues) -> Option<Preview> {
    let inputs = inputs(job, library, values)?;
    let mut sheet = Sheet::new(job.school, Subject::Reading { reading: "preview".into() });
    let tested = test(&mut sheet, &inputs);
    let strip = strip(&inputs, tested.expected_v);
    Some(Preview { figures: sheet.figures, checks: sheet.checks, strip, causes: tested.causes })
}
