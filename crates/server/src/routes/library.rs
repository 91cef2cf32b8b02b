//! The company's data sheets: list, enter, judge, import, export, retire, and which jobs a newer
//! one concerns.

use diesel::Connection;
use heliant_core::figure::Verdict;
use heliant_core::job::{Choices, MAX_FILE_BYTES, Problem, choices};
use heliant_core::library::entry::read;
use heliant_core::library::table::{Becomes, PreviewRow, preview, read_csv, read_json, write_csv};
use heliant_core::library::{About, DataSheet, Field, Library, SheetKind};
use heliant_core::school::School;
use heliant_core::sheets::{Judged, judge as judge_sheet};
use heliant_core::watch::{Change, Stop, changes, watch};
use rocket::data::Data;
use rocket::http::{ContentType, Header};
use rocket::serde::json::Json;
use rocket::{State, get, post};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::jobs::Attachment;
use super::{body_json, body_text, parsed};
use crate::compute::computed;
use crate::guard::Guarded;
use crate::problem::{ApiError, ProblemBody};
use crate::records::Stored;
use crate::store::accounts::Role;
use crate::store::library::{self as store_library, Origin, SheetLine};
use crate::store::{Store, jobs as store_jobs};

/// Every data sheet with every revision.
#[utoipa::path(
    operation_id = "library",
    context_path = "/api",
    tag = "library",
    responses(
        (status = 200, body = Library),
        (status = 401, body = ProblemBody),
    ),
)]
#[get("/library")]
pub async fn all(signed: Guarded, store: &State<Store>) -> Result<Json<Library>, ApiError> {
    signed?;
    Ok(Json(store.run(store_library::all).await?))
}

/// What a form of a school may offer: sizes, kinds, ratings.
#[utoipa::path(
    context_path = "/api",
    tag = "library",
    params(("school" = School, Path)),
    responses(
        (status = 200, body = Choices),
        (status = 404, body = ProblemBody),
    ),
)]
#[get("/choices/<school>")]
pub async fn offered(signed: Guarded, school: &str) -> Result<Json<Choices>, ApiError> {
    signed?;
    let school = match school {
        "na" => School::Na,
        "iec" => School::Iec,
        _ => return Err(ApiError::NotFound("school")),
    };
    Ok(Json(choices(school)))
}

/// Every revision with who entered it, from what document and when.
#[utoipa::path(
    operation_id = "sheets",
    context_path = "/api",
    tag = "library",
    responses((status = 200, body = Vec<SheetLine>)),
)]
#[get("/sheets")]
pub async fn sheets(
    signed: Guarded,
    store: &State<Store>,
) -> Result<Json<Vec<SheetLine>>, ApiError> {
    signed?;
    Ok(Json(store.run(store_library::lines).await?))
}

fn kind_of(word: &str) -> Result<SheetKind, ApiError> {
    SheetKind::of(word).ok_or(ApiError::NotFound("kind of data sheet"))
}

/// The fields of a kind of data sheet, as its screen and its table have them.
#[utoipa::path(
    operation_id = "sheet_fields",
    context_path = "/api",
    tag = "library",
    params(("kind" = SheetKind, Path)),
    responses(
        (status = 200, body = Vec<Field>),
        (status = 404, body = ProblemBody),
    ),
)]
#[get("/sheets/<kind>/fields")]
pub async fn fields(signed: Guarded, kind: &str) -> Result<Json<Vec<Field>>, ApiError> {
    signed?;
    Ok(Json(kind_of(kind)?.fields()))
}

/// A data sheet as far as it is entered.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JudgeSheet {
    /// Kind.
    pub kind: SheetKind,
    /// The document so far.
    #[schema(value_type = Object)]
    pub document: serde_json::Value,
    /// The site it is looked at for.
    #[serde(default)]
    pub about: About,
    /// School of practice.
    pub school: School,
}

/// Judges a data sheet while it is entered; nothing is kept.
#[utoipa::path(
    operation_id = "judge_sheet",
    context_path = "/api",
    tag = "library",
    request_body = JudgeSheet,
    responses(
        (status = 200, body = Judged),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/sheets/judge", data = "<data>")]
pub async fn judge(signed: Guarded, data: Data<'_>) -> Result<Json<Judged>, ApiError> {
    signed?;
    let x: JudgeSheet = body_json(data).await?;
    if !x.document.is_object() {
        return Err(ApiError::invalid("/document", "is no object", "the fields of a data sheet"));
    }
    let judged = computed(move || judge_sheet(x.kind, &x.document, &x.about, x.school));
    Ok(Json(judged.await?))
}

/// A revision to be kept.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewSheet {
    /// Kind.
    pub kind: SheetKind,
    /// The document it is taken from: name, edition, date.
    #[schema(min_length = 1, max_length = 200)]
    pub from_document: String,
    /// The data sheet.
    #[schema(value_type = Object)]
    pub document: serde_json::Value,
}

/// A job a newer revision concerns.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Concerned {
    /// The job.
    pub id: Uuid,
    /// Its name.
    pub name: String,
    /// The revision it holds.
    pub holds: u32,
    /// What would no longer hold.
    pub stops: Vec<Stop>,
    /// What would come to a caution.
    pub cautions: Vec<Stop>,
    /// The reason the older one is kept.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub kept: Option<String>,
}

/// What a revision changes, and for whom.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Consequences {
    /// The fields that differ from the revision before.
    pub changes: Vec<Change>,
    /// The jobs that hold an older one.
    pub jobs: Vec<Concerned>,
}

/// What is looked at for a newer revision: the company's sheets, and the jobs that hold the sheet.
fn concerning(
    db: &mut diesel::PgConnection,
    kind: SheetKind,
    sheet: &str,
) -> Result<(Library, Vec<Stored>), ApiError> {
    let ids = store_library::jobs_with(db, kind, sheet)?;
    let jobs = ids.into_iter().map(|id| store_jobs::get(db, id, None));
    let jobs = jobs.collect::<Result<_, _>>()?;
    Ok((store_library::all(db)?, jobs))
}

/// What the newest revision of a sheet changes, and for which of the jobs.
fn consequences(
    library: &Library,
    jobs: Vec<Stored>,
    kind: SheetKind,
    sheet: &str,
) -> Result<Consequences, ApiError> {
    let mut revisions: Vec<DataSheet> = library
        .sheets()
        .into_iter()
        .filter(|s| s.kind() == kind && s.head().sheet == sheet)
        .collect();
    revisions.sort_by_key(|s| s.head().revision);
    let Some(newest) = revisions.pop() else { return Err(ApiError::NotFound("data sheet")) };
    let changes = revisions.last().map_or_else(Vec::new, |old| changes(old, &newest));
    let concerned = |stored: Stored| {
        let held = &stored.document.library;
        let older = |s: &DataSheet| {
            let head = s.head();
            s.kind() == kind && head.sheet == sheet && head.revision < newest.head().revision
        };
        let old = held.sheets().into_iter().find(older)?;
        let seen = watch(&stored.document.job, held, &old, &newest, &[]);
        Some(Concerned {
            id: stored.id,
            name: stored.document.job.name,
            holds: old.head().revision,
            stops: seen.stops,
            cautions: seen.cautions,
            kept: seen.kept,
        })
    };
    let mut jobs: Vec<Concerned> = jobs.into_iter().filter_map(concerned).collect();
    let worst = |j: &Concerned| if j.stops.is_empty() { Verdict::Warn } else { Verdict::Fail };
    jobs.sort_by_key(|j| std::cmp::Reverse(worst(j)));
    Ok(Consequences { changes, jobs })
}

/// Keeps a revision, and says which jobs it concerns.
#[utoipa::path(
    operation_id = "add_sheet",
    context_path = "/api",
    tag = "library",
    request_body = NewSheet,
    responses(
        (status = 200, body = Consequences),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/sheets", data = "<data>")]
pub async fn add(
    signed: Guarded,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<Consequences>, ApiError> {
    let signed = signed?;
    let by = signed.at_least(Role::Designer)?.name.clone();
    let new: NewSheet = body_json(data).await?;
    let from = new.from_document.trim().to_owned();
    let mut problems = Vec::new();
    if from.is_empty() || from.chars().count() > 200 {
        problems.push(Problem::new(
            "/from_document",
            "has to say where the values come from",
            "1 to 200 characters: name, edition, date",
        ));
    }
    let inside = |p: Problem| Problem { path: format!("/document{}", p.path), ..p };
    let sheet =
        read(new.kind, new.document).map_err(|p| problems.extend(p.into_iter().map(inside)));
    let Ok(sheet) = sheet else { return Err(ApiError::Invalid(problems)) };
    if !problems.is_empty() {
        return Err(ApiError::Invalid(problems));
    }
    let (kind, r) = (sheet.kind(), sheet.reference());
    let key = r.sheet.clone();
    let (library, jobs) = store
        .run(move |db| {
            db.transaction(|db| {
                if !store_library::put(db, &sheet, Origin { by: &by, document: &from })? {
                    let text = format!("{} revision {} is there", r.sheet, r.revision);
                    return Err(ApiError::invalid(
                        "/document/revision",
                        text,
                        "a revision never changes: take the next number",
                    ));
                }
                concerning(db, kind, &r.sheet)
            })
        })
        .await?;
    Ok(Json(computed(move || consequences(&library, jobs, kind, &key)).await??))
}

/// What the newest revision of a sheet changes, and the jobs that hold an older one.
#[utoipa::path(
    operation_id = "sheet_consequences",
    context_path = "/api",
    tag = "library",
    params(("kind" = SheetKind, Path), ("sheet" = String, Path)),
    responses(
        (status = 200, body = Consequences),
        (status = 404, body = ProblemBody),
    ),
)]
#[get("/sheets/<kind>/<sheet>/consequences")]
pub async fn concerned(
    signed: Guarded,
    kind: &str,
    sheet: &str,
    store: &State<Store>,
) -> Result<Json<Consequences>, ApiError> {
    signed?;
    let (kind, sheet) = (kind_of(kind)?, sheet.to_owned());
    let key = sheet.clone();
    let (library, jobs) = store.run(move |db| concerning(db, kind, &key)).await?;
    Ok(Json(computed(move || consequences(&library, jobs, kind, &sheet)).await??))
}

/// Whether a sheet is offered.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Retire {
    /// Not offered any more.
    pub retired: bool,
}

/// Retires a sheet, or takes it back.
#[utoipa::path(
    operation_id = "retire_sheet",
    context_path = "/api",
    tag = "library",
    params(("kind" = SheetKind, Path), ("sheet" = String, Path)),
    request_body = Retire,
    responses(
        (status = 200, body = Retire),
        (status = 404, body = ProblemBody),
    ),
)]
#[post("/sheets/<kind>/<sheet>/retire", data = "<data>")]
pub async fn retire(
    signed: Guarded,
    kind: &str,
    sheet: &str,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<Retire>, ApiError> {
    let signed = signed?;
    let by = signed.at_least(Role::Designer)?.name.clone();
    let (kind, sheet) = (kind_of(kind)?, sheet.to_owned());
    let x: Retire = body_json(data).await?;
    let retired = x.retired;
    store.run(move |db| store_library::set_retired(db, kind, &sheet, retired, &by)).await?;
    Ok(Json(x))
}

/// A file of data sheets.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ImportSheets {
    /// Kind of a table; absent for JSON, which says it itself.
    #[serde(default)]
    pub kind: Option<SheetKind>,
    /// The file's text.
    pub text: String,
    /// The document the values come from.
    #[serde(default)]
    pub from_document: String,
    /// Only say what would be done.
    pub preview: bool,
}

/// What an import does, or did.
#[derive(Debug, Serialize, ToSchema)]
pub struct Imported {
    /// Row by row.
    pub rows: Vec<PreviewRow>,
    /// Revisions that were added; 0 in a preview.
    pub added_n: usize,
}

/// Imports data sheets, all or none; every row that is wrong is named.
#[utoipa::path(
    operation_id = "import_sheets",
    context_path = "/api",
    tag = "library",
    request_body = ImportSheets,
    responses(
        (status = 200, body = Imported),
        (status = 413, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/sheets/import", data = "<data>")]
pub async fn import(
    signed: Guarded,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<Imported>, ApiError> {
    let signed = signed?;
    let by = signed.at_least(Role::Designer)?.name.clone();
    let text = body_text(data, 4 * MAX_FILE_BYTES).await?;
    let x: ImportSheets = parsed(&text)?;
    let from = x.from_document.trim().to_owned();
    if !x.preview && from.is_empty() {
        return Err(ApiError::invalid(
            "/from_document",
            "has to say where the values come from",
            "name, edition, date",
        ));
    }
    let only_preview = x.preview;
    let rows = computed(move || match x.kind {
        Some(kind) => read_csv(kind, &x.text),
        None => read_json(&x.text),
    });
    let rows = rows.await?.map_err(ApiError::Invalid)?;
    let done = store
        .run(move |db| {
            db.transaction(|db| {
                let lines = preview(&rows, &store_library::all(db)?).map_err(ApiError::Invalid)?;
                let mut added_n = 0;
                if !only_preview {
                    for (row, line) in rows.iter().zip(&lines) {
                        if line.becomes != Becomes::There {
                            added_n += usize::from(store_library::put(
                                db,
                                &row.sheet,
                                Origin { by: &by, document: &from },
                            )?);
                        }
                    }
                }
                Ok(Imported { rows: lines, added_n })
            })
        })
        .await?;
    Ok(Json(done))
}

/// The data sheets of a kind as a table, or all of them as JSON (kind `all`).
#[utoipa::path(
    operation_id = "export_sheets",
    context_path = "/api",
    tag = "library",
    params(("kind" = String, Path)),
    responses(
        (status = 200, body = String),
        (status = 404, body = ProblemBody),
    ),
)]
#[get("/sheets/<kind>/export")]
pub async fn export(
    signed: Guarded,
    kind: &str,
    store: &State<Store>,
) -> Result<Attachment<String>, ApiError> {
    signed?;
    let library = store.run(store_library::all).await?;
    let named = |name: String| {
        Header::new("Content-Disposition", format!("attachment; filename=\"{name}\""))
    };
    if kind == "all" {
        let text = serde_json::to_string_pretty(&library)
            .map_err(|e| ApiError::Internal(e.to_string()))?;
        return Ok(Attachment {
            body: text + "\n",
            content_type: ContentType::JSON,
            disposition: named("data-sheets.json".to_owned()),
        });
    }
    let kind = kind_of(kind)?;
    Ok(Attachment {
        body: write_csv(kind, &library),
        content_type: ContentType::CSV,
        disposition: named(format!("{}.csv", kind.list())),
    })
}
