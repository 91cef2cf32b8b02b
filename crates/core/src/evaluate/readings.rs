//! Readings of a job, judged; and a reading judged before it is kept.

use serde::Serialize;
use utoipa::ToSchema;

use crate::figure::{Check, Def, Figure, Sheet, Stage, Subject, SubjectKind, Verdict};
use crate::job::{Job, Reading, ReadingValues};
use crate::library::{Library, ModuleRatings};
use crate::test::{Cause, MeterStrip, TestInputs, strip, test};

static TAKEN: Def = Def {
    id: "test.taken",
    title: "Open-circuit volts read",
    stage: Stage::Test,
    na: "IEC 62446-1",
    iec: "IEC 62446-1",
};

/// A reading with what it was judged by. Its figures and checks stand under the reading's id.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct JudgedReading {
    /// The reading.
    pub reading: Reading,
    /// Whether a later one of the same kind took its place.
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

fn inputs(job: &Job, library: &Library, v: &ReadingValues) -> Option<TestInputs> {
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
    Some(TestInputs {
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

pub(super) fn readings(
    sheet: &mut Sheet,
    job: &Job,
    library: &Library,
    readings: &[Reading],
) -> Vec<JudgedReading> {
    for s in &job.strings {
        let read = readings.iter().any(|r| r.values.string == s.letter && r.values.voc_v.is_some());
        if !read {
            sheet.subject = Subject::new(SubjectKind::String, &s.letter);
            sheet.judge(&TAKEN, Verdict::Unknown).missing = vec!["readings".to_owned()];
        }
    }
    let mut judged = Vec::new();
    for (i, reading) in readings.iter().enumerate() {
        let later = |has: fn(&ReadingValues) -> bool| {
            has(&reading.values)
                && readings[i + 1..]
                    .iter()
                    .any(|r| r.values.string == reading.values.string && has(&r.values))
        };
        let voc_superseded = later(|v| v.voc_v.is_some());
        let isc_superseded = later(|v| v.isc_a.is_some());
        let Some(inputs) = inputs(job, library, &reading.values) else {
            judged.push(JudgedReading {
                reading: reading.clone(),
                superseded: true,
                strip: None,
                causes: Vec::new(),
            });
            continue;
        };
        let mut own = Sheet::new(sheet.school, Subject::new(SubjectKind::Reading, &reading.id));
        let causes = test(&mut own, &inputs);
        for check in &mut own.checks {
            check.alternative =
                if check.id == "test.isc_a" { isc_superseded } else { voc_superseded };
        }
        let strip = strip(&own, &inputs);
        let superseded = own.checks.iter().all(|c| c.alternative);
        sheet.figures.append(&mut own.figures);
        sheet.checks.append(&mut own.checks);
        judged.push(JudgedReading { reading: reading.clone(), superseded, strip, causes });
    }
    judged
}

/// Judges a reading that is not kept yet; none where the string is not of the job.
pub fn preview(job: &Job, library: &Library, values: &ReadingValues) -> Option<Preview> {
    let inputs = inputs(job, library, values)?;
    let mut sheet = Sheet::new(job.school, Subject::new(SubjectKind::Reading, "preview"));
    let causes = test(&mut sheet, &inputs);
    let strip = strip(&sheet, &inputs);
    Some(Preview { figures: sheet.figures, checks: sheet.checks, strip, causes })
}
