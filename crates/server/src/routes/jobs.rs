//! Jobs: make, read, save, copy, import, export.

use chrono::{DateTime, Utc};
use diesel::Connection;
use heliant_core::job::incoming::{Incoming, incoming, settled_in};
use heliant_core::job::{
    self, Document, Job, JobFile, MAX_FILE_BYTES, MAX_PLAN_BYTES, Reading, VERSION,
};
use heliant_core::library::Library;
use heliant_core::school::School;
use heliant_core::work::Work;
use rocket::State;
use rocket::data::Data;
use rocket::get;
use rocket::http::ContentType;
use rocket::post;
use rocket::put;
use rocket::response::content::RawJson;
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{body_json, body_text};
use crate::attachment::Attachment;
use crate::compute::{Asker, Cost};
use crate::guard::{Guarded, Seated};
use crate::kept::{Bytes, KeptJson, Question};
use crate::packed::PackedReport;
use crate::problem::{ApiError, ProblemBody};
use crate::records::{JobView, Outcome, Stored};
use crate::store::Store;
use crate::store::accounts::Role;
use crate::store::jobs::{self as store_jobs, Save, Saved};
use crate::store::library::{self as store_library, Origin};
use crate::store::{job_list, rates as store_rates, readings};
use crate::timing::{Laps, Timed};

/// A new job.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewJob {
    /// Name.
    #[schema(min_length = 1, max_length = 120)]
    pub name: String,
    /// School of practice; a template's own where it begins as one.
    pub school: School,
    /// The template it begins as a copy of.
    #[serde(default)]
    pub template: Option<Uuid>,
    /// Who it is for.
    #[serde(default)]
    #[schema(max_length = 120)]
    pub customer: String,
    /// The zone whose clock hangs on the site, by its name in the IANA database.
    #[serde(default)]
    #[schema(max_length = 60)]
    pub time_zone: Option<String>,
}

/// A save: the job over the revision it was edited from.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SaveJob {
    /// The revision the edit started from.
    pub base_revision: i32,
    /// Version of the format that job and data sheets are of; the present one where absent.
    #[serde(default)]
    pub version: Option<u32>,
    /// The job.
    pub job: Job,
    /// Its data sheets.
    pub library: Library,
}

/// A job that was made, and what its import changed.
#[derive(Debug, Serialize, ToSchema)]
pub struct MadeJob {
    /// Id.
    pub id: Uuid,
    /// Changes an older file needed.
    pub changes: Vec<String>,
}

/// Makes a job; data sheets that are `offered` go into the company's library.
pub(super) async fn make(
    store: &Store,
    asker: &Asker,
    file: JobFile,
    account: &crate::store::accounts::Account,
    offered: Library,
    template: bool,
) -> Result<Uuid, ApiError> {
    let (by, id) = (account.name.clone(), account.id);
    let (file, report) = asker
        .quick(move || {
            let report = heliant_core::evaluate(&file.job, &file.library, &file.readings);
            (file, report)
        })
        .await?;
    store
        .run(move |db| {
            db.transaction(|db| {
                let document = format!("job file {}", file.job.name);
                let origin = Origin { by: &by, document: &document };
                store_library::add(db, &offered, origin)?;
                let made = store_jobs::create(db, &file, &report, &by, Some(id))?;
                if template {
                    job_list::mark_template(db, made)?;
                }
                Ok(made)
            })
        })
        .await
}

/// Makes an empty job, or one that begins as a copy of a template.
#[utoipa::path(
    context_path = "/api",
    tag = "jobs",
    request_body = NewJob,
    responses(
        (status = 200, body = MadeJob),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/jobs", data = "<data>")]
pub async fn create(
    signed: Guarded,
    asker: Asker,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<MadeJob>, ApiError> {
    let signed = signed?;
    let account = signed.at_least(Role::Designer)?;
    let new: NewJob = body_json(data).await?;
    let (mut job, library) = match new.template {
        None => (Job::new("", new.school), Library::default()),
        Some(id) => {
            let template = store.run(move |db| {
                job_list::template(db, id)?;
                store_jobs::get(db, id, None)
            });
            let Document { job, library } = template.await?.document;
            (job, library)
        }
    };
    job.name = new.name.trim().to_owned();
    job.customer = new.customer.trim().to_owned();
    job.time_zone = new.time_zone.or(job.time_zone);
    // Today's prices, whatever those of the template were.
    job.rates = store.run(store_rates::all).await?;
    let file = JobFile::new(job, library, Vec::new());
    let id = make(store, &asker, checked(file)?, account, Library::default(), false).await?;
    Ok(Json(MadeJob { id, changes: Vec::new() }))
}

/// What a job file holds, before it is imported.
#[derive(Debug, Serialize, ToSchema)]
pub struct LookedAt {
    /// What the job is called.
    pub name: String,
    /// Changes an older file needs.
    pub changes: Vec<String>,
    /// Readings that come with it: they are marked as brought in.
    pub readings_n: usize,
    /// Its data sheets, and what each is to the company's library.
    pub sheets: Vec<Incoming>,
}

/// A job file, and what its data sheets are to the company's library.
async fn looked_at(
    data: Data<'_>,
    asker: &Asker,
    store: &Store,
) -> Result<(job::Opened, Vec<Incoming>), ApiError> {
    let text = body_text(data, MAX_FILE_BYTES).await?;
    let opened = asker.quick(move || job::read(&text)).await?.map_err(ApiError::Invalid)?;
    let company = store.run(store_library::all).await?;
    let sheets = incoming(&opened.file.library, &company);
    Ok((opened, sheets))
}

/// Looks at a job file; nothing is kept.
#[utoipa::path(
    operation_id = "look_at_job_file",
    context_path = "/api",
    tag = "jobs",
    request_body = JobFile,
    responses(
        (status = 200, body = LookedAt),
        (status = 413, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/jobs/import/look", data = "<data>")]
pub async fn look(
    signed: Guarded,
    asker: Asker,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<LookedAt>, ApiError> {
    signed?.at_least(Role::Designer)?;
    let (job::Opened { file, changes }, sheets) = looked_at(data, &asker, store).await?;
    let JobFile { job, readings, .. } = file;
    Ok(Json(LookedAt { name: job.name, changes, readings_n: readings.len(), sheets }))
}

/// Makes a job of a job file. Readings are marked as brought in. A data sheet that the company has
/// with other values becomes a revision of its own; what the company has not goes into its library
/// where that is asked for.
#[utoipa::path(
    context_path = "/api",
    tag = "jobs",
    params(("offer" = Option<bool>, Query, description = "Adds its data sheets to the library")),
    request_body = JobFile,
    responses(
        (status = 200, body = MadeJob),
        (status = 413, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/jobs/import?<offer>", data = "<data>")]
pub async fn import(
    signed: Guarded,
    asker: Asker,
    offer: Option<bool>,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<MadeJob>, ApiError> {
    let signed = signed?;
    let account = signed.at_least(Role::Designer)?;
    let (job::Opened { file, mut changes }, sheets) = looked_at(data, &asker, store).await?;
    let (job, library, offered) = settled_in(file.job, &file.library, &sheets);
    for s in sheets.iter().filter(|s| s.keeps != s.revision) {
        changes.push(format!(
            "{} revision {} has other values than the company's: here it is revision {}",
            s.name, s.revision, s.keeps
        ));
    }
    let by = &account.name;
    let brought = |r: Reading| Reading { brought_by: Some(by.clone()), ..r };
    let readings = file.readings.into_iter().map(brought).collect();
    let offered = if offer == Some(true) { offered } else { Library::default() };
    let id =
        make(store, &asker, JobFile::new(job, library, readings), account, offered, false).await?;
    Ok(Json(MadeJob { id, changes }))
}

/// Copies a job, without its readings: they belong to the roof they were taken on.
#[utoipa::path(
    context_path = "/api",
    tag = "jobs",
    params(("id" = Uuid, Path)),
    responses(
        (status = 200, body = MadeJob),
        (status = 404, body = ProblemBody),
    ),
)]
#[post("/jobs/<id>/duplicate")]
pub async fn duplicate(
    signed: Guarded,
    asker: Asker,
    id: Uuid,
    store: &State<Store>,
) -> Result<Json<MadeJob>, ApiError> {
    let signed = signed?;
    let account = signed.at_least(Role::Designer)?;
    let stored = store.run(move |db| store_jobs::get(db, id, None)).await?;
    let mut document = stored.document;
    let name: String = document.job.name.chars().take(113).collect();
    document.job.name = format!("{name} (copy)");
    let file = JobFile::new(document.job, document.library, Vec::new());
    let id = make(store, &asker, file, account, Library::default(), false).await?;
    Ok(Json(MadeJob { id, changes: Vec::new() }))
}

/// A template to be made.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewTemplate {
    /// What the template is called.
    #[schema(min_length = 1, max_length = 120)]
    pub name: String,
}

/// Makes a template of a job: a copy without what belongs to one site alone, customer, contact,
/// address, serial numbers and readings.
#[utoipa::path(
    context_path = "/api",
    tag = "jobs",
    params(("id" = Uuid, Path)),
    request_body = NewTemplate,
    responses(
        (status = 200, body = MadeJob),
        (status = 404, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/jobs/<id>/template", data = "<data>")]
pub async fn template(
    signed: Guarded,
    asker: Asker,
    id: Uuid,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<MadeJob>, ApiError> {
    let signed = signed?;
    let account = signed.at_least(Role::Designer)?;
    let new: NewTemplate = body_json(data).await?;
    let Document { mut job, library } =
        store.run(move |db| store_jobs::get(db, id, None)).await?.document;
    job.name = new.name.trim().to_owned();
    for own in [&mut job.customer, &mut job.contact, &mut job.address] {
        own.clear();
    }
    for module in job.roof.values_mut().flat_map(|face| face.modules.values_mut()) {
        module.serial = None;
    }
    // Cable that lies in one yard is not in the next.
    job.stock.clear();
    for leg in job.plan.circuits.values_mut().flat_map(|c| &mut c.legs) {
        leg.piece = None;
    }
    let file = JobFile::new(job, library, Vec::new());
    let opened = checked(file)?;
    let id = make(store, &asker, opened, account, Library::default(), true).await?;
    Ok(Json(MadeJob { id, changes: Vec::new() }))
}

/// A file that holds against its own schema and rules.
fn checked(file: JobFile) -> Result<JobFile, ApiError> {
    let value = serde_json::to_value(&file).map_err(|e| ApiError::Internal(e.to_string()))?;
    Ok(job::read_value(value).map_err(ApiError::Invalid)?.file)
}

/// A job as it stands.
#[utoipa::path(
    context_path = "/api",
    tag = "jobs",
    params(("id" = Uuid, Path)),
    responses(
        (status = 200, body = JobView),
        (status = 404, body = ProblemBody),
    ),
)]
#[get("/jobs/<id>")]
pub async fn read(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    question: Question,
) -> Result<KeptJson, ApiError> {
    question.json(seated?.now(id), "view", Cost::Quick, |stored, _| Ok(JobView::from(stored))).await
}

/// Saves a job as a new revision; a conflict where somebody saved in between.
#[utoipa::path(
    context_path = "/api",
    tag = "jobs",
    params(("id" = Uuid, Path)),
    request_body = SaveJob,
    responses(
        (status = 200, body = Outcome),
        (status = 409, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[put("/jobs/<id>", data = "<data>")]
pub async fn save(
    signed: Guarded,
    asker: Asker,
    mut laps: Laps,
    id: Uuid,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Timed<RawJson<String>>, ApiError> {
    let signed = signed?;
    let by = signed.at_least(Role::Designer)?.name.clone();
    let text = body_text(data, MAX_PLAN_BYTES).await?;
    laps.lap("body");
    let cost = Cost::of_body(&text);
    let known = store.run(move |db| readings::readings_of(db, id)).await?;
    laps.lap("readings");
    let own = by.clone();
    let place = asker.place(cost).await?;
    laps.lap("place");
    let mut ready = place
        .run(move |_| {
            let (base, document) = parse_save(&text)?;
            Ready::of(id, base, &own, document, &known)
        })
        .await??;
    drop(place);
    laps.lap("compute");
    for _ in 0..TRIES {
        let Ready { base, document, wanted, report } = ready;
        match store.run(move |db| store_jobs::save(db, &wanted)).await? {
            Saved::Done(revision, saved_at) => {
                laps.lap("commit");
                let answer = answer_of(revision, saved_at, &by, &report)?;
                laps.lap("answer");
                return Ok(Timed::new(RawJson(answer), laps));
            }
            Saved::ReadMeanwhile => {
                let known = store.run(move |db| readings::readings_of(db, id)).await?;
                let own = by.clone();
                let again = asker.place(cost).await?;
                ready = again.run(move |_| Ready::of(id, base, &own, document, &known)).await??;
                laps.lap("again");
            }
            Saved::Late => {
                let stored = store.run(move |db| store_jobs::get(db, id, None)).await?;
                let current = asker.quick(move || stored.into()).await?;
                return Err(ApiError::Conflict(Box::new(current)));
            }
        }
    }
    Err(ApiError::Busy)
}

/// A save that is ready to be kept, and what the job comes to as it goes out: put together in one
/// place, so that a save waits for one alone.
struct Ready {
    base: i32,
    document: Document,
    wanted: Save,
    report: String,
}

impl Ready {
    fn of(
        id: Uuid,
        base: i32,
        by: &str,
        document: Document,
        readings: &[Reading],
    ) -> Result<Ready, ApiError> {
        let report = heliant_core::evaluate(&document.job, &document.library, readings);
        let wanted = Save::new(id, base, by, &document, &report, readings)?;
        let report = serde_json::to_string(&PackedReport::from(report));
        let report = report.map_err(|e| ApiError::Internal(e.to_string()))?;
        Ok(Ready { base, document, wanted, report })
    }
}

/// An [`Outcome`] whose report is written already.
fn answer_of(
    revision: i32,
    saved_at: DateTime<Utc>,
    saved_by: &str,
    report: &str,
) -> Result<String, ApiError> {
    let head = serde_json::json!({ "revision": revision, "saved_at": saved_at,
        "saved_by": saved_by });
    let head = head.to_string();
    let open = head.strip_suffix('}').ok_or_else(|| ApiError::Internal(head.clone()))?;
    Ok(format!("{open},\"report\":{report}}}"))
}

/// How often a save or a reading is computed again because a reading came in between.
pub(super) const TRIES: usize = 20;

/// A save is checked like a job file, so that every problem has its place.
fn parse_save(text: &str) -> Result<(i32, Document), ApiError> {
    let (mut rest, document) = parse_plan(text, &["base_revision"])?;
    let base = rest.remove("base_revision").and_then(|v| v.as_i64());
    let base = base.and_then(|v| i32::try_from(v).ok());
    let hint = "the revision the edit started from";
    let missing = || ApiError::invalid("/base_revision", "is missing or no revision", hint);
    Ok((base.ok_or_else(missing)?, document))
}

/// Job and data sheets of a body, checked like a job file and brought up from the version it names;
/// the fields named are left aside for the caller.
pub(super) fn parse_plan(
    text: &str,
    aside: &[&str],
) -> Result<(serde_json::Map<String, serde_json::Value>, Document), ApiError> {
    let invalid =
        |message: String| ApiError::invalid("", message, "an object with job and library");
    let mut body: serde_json::Map<String, serde_json::Value> =
        serde_json::from_str(text).map_err(|e| invalid(format!("not a JSON object: {e}")))?;
    let rest = aside.iter().filter_map(|f| Some(((*f).to_owned(), body.remove(*f)?))).collect();
    body.insert("format".to_owned(), "heliant-job".into());
    if body.get("version").is_none_or(serde_json::Value::is_null) {
        body.insert("version".to_owned(), VERSION.into());
    }
    let opened = job::read_value(body.into()).map_err(ApiError::Invalid)?;
    Ok((rest, Document { job: opened.file.job, library: opened.file.library }))
}

/// The job as a file.
#[utoipa::path(
    context_path = "/api",
    tag = "jobs",
    params(("id" = Uuid, Path)),
    responses(
        (status = 200, body = JobFile),
        (status = 404, body = ProblemBody),
    ),
)]
#[get("/jobs/<id>/export")]
pub async fn export(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    question: Question,
) -> Result<Attachment<Bytes>, ApiError> {
    let of = seated?.now(id);
    let text = |stored: Stored, _: &Work| Ok(stored.file().to_text().into());
    let body = question.answer(of, "export", Cost::Quick, text).await?;
    let name = question.name(id, "", "heliant.json").await?;
    Ok(Attachment::file(body, ContentType::JSON, &name))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_save_without_its_revision_says_so() {
        let file =
            serde_json::json!({ "job": Job::new("x", School::Na), "library": Library::default() });
        for base in ["", r#""base_revision": 1.5,"#, r#""base_revision": -99999999999,"#] {
            let body = file.to_string().replacen('{', &format!("{{{base}"), 1);
            let Err(ApiError::Invalid(problems)) = parse_save(&body) else {
                panic!("{body} is no save")
            };
            assert_eq!(problems[0].path, "/base_revision", "{body}");
        }
        let Err(ApiError::Invalid(problems)) = parse_save(r#"{"base_revision": 1, "extra": 2}"#)
        else {
            panic!("no job in it")
        };
        let mut places: Vec<&str> = problems.iter().map(|p| p.path.as_str()).collect();
        places.sort_unstable();
        assert_eq!(places, ["/extra", "/job", "/library"]);
    }
}
