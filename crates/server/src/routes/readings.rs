//! Readings: judged before they are kept, and kept for good.

use chrono::{DateTime, TimeDelta, Utc};
use heliant_core::job::{self, Job, JobFile, MOST_READINGS, Problem, Reading, ReadingValues};
use heliant_core::library::Library;
use heliant_core::stages::test::{Preview, Running, RunningAsk, plugging_in, preview as judge};
use heliant_core::work::Work;
use rocket::State;
use rocket::data::Data;
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use rocket::{get, post};
use serde::Deserialize;
use utoipa::ToSchema;

use super::body_json;
use super::jobs::TRIES;
use crate::compute::{Asker, Cost};
use crate::guard::{Guarded, Seated};
use crate::kept::{KeptJson, Question};
use crate::packed::ReadingPage;
use crate::problem::{ApiError, ProblemBody};
use crate::records::{Outcome, Stored};
use crate::store::Store;
use crate::store::accounts::Role;
use crate::store::jobs as store_jobs;
use crate::store::readings::{self as store_readings, Record};

/// Checks the values against the published schema, as those of a job with nothing but this string.
fn validated(stored: &Stored, values: &ReadingValues) -> Result<(), ApiError> {
    let job = &stored.document.job;
    if !job.strings.iter().any(|s| s.letter == values.string) {
        let known: Vec<&str> = job.strings.iter().map(|s| s.letter.as_str()).collect();
        return Err(ApiError::invalid(
            "/string",
            format!("no string `{}`", values.string),
            format!("one of {}", known.join(", ")),
        ));
    }
    let reading = Reading {
        id: "new".into(),
        at: "2026-01-01T00:00:00Z".to_owned(),
        by: "x".to_owned(),
        brought_by: None,
        withdrawn: None,
        values: values.clone(),
    };
    let file = JobFile::new(Job::new("x", job.school), Library::default(), vec![reading]);
    let value = serde_json::to_value(&file).map_err(|e| ApiError::Internal(e.to_string()))?;
    let moved = |p: Problem| p.at(|own| own.replacen("/readings/0/values", "", 1));
    job::read_value(value)
        .map_err(|problems| ApiError::Invalid(problems.into_iter().map(moved).collect()))?;
    if values.voc_v.is_none() && values.isc_a.is_none() {
        return Err(ApiError::invalid("", "holds no reading", "give voc_v or isc_a"));
    }
    Ok(())
}

/// Judges a reading without keeping it: expected values, and the verdict as soon as there is a
/// reading.
#[utoipa::path(
    context_path = "/api",
    tag = "readings",
    params(("id" = Uuid, Path)),
    request_body = ReadingValues,
    responses(
        (status = 200, body = Preview),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/jobs/<id>/readings/preview", data = "<data>")]
pub async fn preview(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    data: Data<'_>,
    question: Question,
) -> Result<Json<Preview>, ApiError> {
    let of = seated?.now(id);
    let values: ReadingValues = body_json(data).await?;
    let judged = move |stored: Stored| {
        // Nothing read yet is no fault of a preview: a stand-in passes the rule that a reading
        // holds something.
        let has_reading = values.voc_v.is_some() || values.isc_a.is_some();
        let stand_in = ReadingValues { voc_v: Some(0.0), ..values.clone() };
        validated(&stored, if has_reading { &values } else { &stand_in })?;
        judge(&stored.document.job, &stored.document.library, &values)
            .map(Json)
            .ok_or(ApiError::NotFound("string"))
    };
    question.asked(of, judged).await
}

/// A page of the readings of a job, the newest first, with what is said of each.
#[utoipa::path(
    operation_id = "readings",
    context_path = "/api",
    tag = "readings",
    params(
        ("id" = Uuid, Path),
        ("page" = Option<usize>, Query, description = "From 0 on, a hundred readings each"),
    ),
    responses((status = 200, body = ReadingPage), (status = 404, body = ProblemBody)),
)]
#[get("/jobs/<id>/readings?<page>")]
pub async fn list(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    page: Option<usize>,
    question: Question,
) -> Result<KeptJson, ApiError> {
    let (of, page) = (seated?.now(id), page.unwrap_or(0));
    let read = move |stored: Stored, _: &Work| Ok(ReadingPage::of(stored.report(), page));
    question.json(of, format!("readings {page}"), Cost::Quick, read).await
}

/// What a string should read after each of its modules while it is plugged together.
#[utoipa::path(
    operation_id = "plugging_in",
    context_path = "/api",
    tag = "readings",
    params(("id" = Uuid, Path)),
    request_body = RunningAsk,
    responses((status = 200, body = Running), (status = 422, body = ProblemBody)),
)]
#[post("/jobs/<id>/readings/running", data = "<data>")]
pub async fn running(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    data: Data<'_>,
    question: Question,
) -> Result<Json<Running>, ApiError> {
    let of = seated?.now(id);
    let ask: RunningAsk = body_json(data).await?;
    let running = move |stored: Stored| {
        let stand_in = ReadingValues { voc_v: Some(0.0), ..ask.values.clone() };
        validated(&stored, &stand_in)?;
        if ask.readings_v.len() > MOST_MODULES {
            let message = format!("{} readings", ask.readings_v.len());
            let hint = format!("{MOST_MODULES} at most, one for each module");
            return Err(ApiError::invalid("/readings_v", message, hint));
        }
        plugging_in(&stored.document.job, &stored.document.library, &ask)
            .map(Json)
            .ok_or(ApiError::NotFound("string"))
    };
    question.asked(of, running).await
}

/// Modules of a string at most.
const MOST_MODULES: usize = 200;

/// How far the clock of whoever sends a reading may be ahead.
const AHEAD: TimeDelta = TimeDelta::minutes(5);
/// How long a reading may wait for a signal.
const WAITED: TimeDelta = TimeDelta::days(30);

/// When a reading was taken: as its sender says where it waited for a signal, else now.
fn taken(at: Option<&str>) -> Result<DateTime<Utc>, ApiError> {
    let now = Utc::now();
    let Some(at) = at else { return Ok(now) };
    let wrong = |message: &str| ApiError::invalid("/at", message, "as 2026-10-14T17:36:00Z");
    let at = DateTime::parse_from_rfc3339(at).map_err(|_| wrong("is no date and time"))?;
    let at = at.with_timezone(&Utc);
    if at > now + AHEAD {
        return Err(wrong("is in the future: look at the clock of the device"));
    }
    if at < now - WAITED {
        return Err(wrong("is more than 30 days ago"));
    }
    Ok(at)
}

/// Adds a reading for good, with who and when. Sent again under the same key it is added once.
#[utoipa::path(
    operation_id = "add_reading",
    context_path = "/api",
    tag = "readings",
    params(
        ("id" = Uuid, Path),
        ("key" = Option<Uuid>, Query, description = "The reading's id, made by the sender"),
        ("at" = Option<String>, Query, description = "When it was taken, where it had to wait"),
    ),
    request_body = ReadingValues,
    responses(
        (status = 200, body = Outcome),
        (status = 403, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/jobs/<id>/readings?<key>&<at>", data = "<data>")]
pub async fn add(
    signed: Guarded,
    asker: Asker,
    id: Uuid,
    key: Option<Uuid>,
    at: Option<&str>,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<Outcome>, ApiError> {
    let signed = signed?;
    let account = signed.at_least(Role::Field)?;
    let values: ReadingValues = body_json(data).await?;
    let account_id = account.id;
    let key = key.unwrap_or_else(Uuid::new_v4);
    let reading = store_readings::new_reading(values, &account.name, key, taken(at)?);
    let of = store.run(move |db| store_readings::job_of_reading(db, key)).await?;
    if of.is_some_and(|job| job != id) {
        return Err(ApiError::invalid("/key", "is a reading of another job", "a new key"));
    }
    let record = Record::Taken { reading: reading.into(), key, entered_by: account_id };
    recorded(store, &asker, id, record).await
}

/// Why a reading is withdrawn.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Withdraw {
    /// Why.
    #[schema(min_length = 1, max_length = 200)]
    pub reason: String,
}

/// Withdraws a reading: it stays on record, with who, when and why, and counts for nothing.
#[utoipa::path(
    operation_id = "withdraw_reading",
    context_path = "/api",
    tag = "readings",
    params(("id" = Uuid, Path), ("reading" = String, Path)),
    request_body = Withdraw,
    responses(
        (status = 200, body = Outcome),
        (status = 404, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/jobs/<id>/readings/<reading>/withdraw", data = "<data>")]
pub async fn withdraw(
    signed: Guarded,
    asker: Asker,
    id: Uuid,
    reading: &str,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<Outcome>, ApiError> {
    let signed = signed?;
    let by = signed.at_least(Role::Field)?.name.clone();
    let asked: Withdraw = body_json(data).await?;
    let reason = asked.reason.trim().to_owned();
    if !(1..=200).contains(&reason.chars().count()) {
        let hint = "say in a few words why it does not count, 200 characters at most";
        return Err(ApiError::invalid("/reason", "is empty or too long", hint));
    }
    let record = Record::Withdrawn { reading: reading.to_owned(), by, reason, at: Utc::now() };
    recorded(store, &asker, id, record).await
}

/// Keeps a record of readings, however often others come before; once however often it is sent.
async fn recorded(
    store: &Store,
    asker: &Asker,
    id: Uuid,
    record: Record,
) -> Result<Json<Outcome>, ApiError> {
    for _ in 0..TRIES {
        let record = record.clone();
        let mut stored = store.run(move |db| store_jobs::get(db, id, None)).await?;
        if record.is_in(&stored.readings) {
            // It came through before, and only the answer was lost.
            let report = asker.quick(move || (stored.report(), stored)).await?;
            return Ok(Json(Outcome::of(report.1, report.0)));
        }
        let full = stored.readings.len() >= MOST_READINGS;
        if full && matches!(record, Record::Taken { .. }) {
            let hint = "copy the job and read on there: the copy begins without readings";
            let text = format!("the job holds {MOST_READINGS} readings, as many as its file may");
            return Err(ApiError::invalid("", text, hint));
        }
        let (stored, report, record) = asker
            .quick(move || {
                if let Record::Taken { reading, .. } = &record {
                    validated(&stored, &reading.values)?;
                }
                record.put_into(&mut stored.readings)?;
                let report = stored.report();
                Ok::<_, ApiError>((stored, report, record))
            })
            .await??;
        let (kept, stored, report) = store
            .run(move |db| {
                let kept = store_readings::record(db, &stored, &report, &record)?;
                Ok((kept, stored, report))
            })
            .await?;
        if kept {
            return Ok(Json(Outcome::of(stored, report)));
        }
    }
    Err(ApiError::Busy)
}
