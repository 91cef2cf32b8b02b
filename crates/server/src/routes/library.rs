//! The company's data sheets: list, enter, judge, import, export, retire, and which jobs a newer
//! one concerns.

use diesel::{Connection, PgConnection};
use heliant_core::job::{Choices, MAX_FILE_BYTES, Problem, choices};
use heliant_core::library::entry::{read, room};
use heliant_core::library::table::{Becomes, PreviewRow, preview, read_csv, read_json, write_csv};
use heliant_core::library::{About, Field, Library, SheetKind};
use heliant_core::school::School;
use heliant_core::sheets::{Judged, judge as judge_sheet};
use rocket::data::Data;
use rocket::http::{ContentType, Header};
use rocket::serde::json::Json;
use rocket::{State, get, post};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{body_json, body_text, parsed, words};
use crate::attachment::Attachment;
use crate::compute::Asker;
use crate::guard::{Anybody, Guarded};
use crate::problem::{ApiError, ProblemBody};
use crate::store::Store;
use crate::store::accounts::Role;
use crate::store::library::{self as store_library, KnownWords, Origin, SheetLine, SheetPage};
use crate::watching::Watching;

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
pub async fn offered(
    anybody: Result<Anybody, ApiError>,
    school: &str,
) -> Result<Json<Choices>, ApiError> {
    anybody?;
    let school = match school {
        "na" => School::Na,
        "iec" => School::Iec,
        _ => return Err(ApiError::NotFound("school")),
    };
    Ok(Json(choices(school)))
}

/// A page of the revisions that hold every word in kind, maker, model, revision, watts or document:
/// who entered them, from what document and when.
#[utoipa::path(
    operation_id = "sheets",
    context_path = "/api",
    tag = "library",
    params(
        ("find" = Option<String>, Query, description = "Words, the first eight of them"),
        ("page" = Option<u32>, Query, description = "From 0 on, a hundred revisions each"),
    ),
    responses((status = 200, body = SheetPage)),
)]
#[get("/sheets?<find>&<page>")]
pub async fn sheets(
    signed: Guarded,
    find: Option<&str>,
    page: Option<u32>,
    store: &State<Store>,
) -> Result<Json<SheetPage>, ApiError> {
    signed?;
    let words = words(find);
    Ok(Json(store.run(move |db| store_library::page(db, &words, page.unwrap_or(0))).await?))
}

/// Makers and documents that data sheets were entered from, the latest first: what is offered while
/// another one is typed.
#[utoipa::path(
    operation_id = "known_words",
    context_path = "/api",
    tag = "library",
    responses((status = 200, body = KnownWords)),
)]
#[get("/sheets/known")]
pub async fn known(signed: Guarded, store: &State<Store>) -> Result<Json<KnownWords>, ApiError> {
    signed?;
    Ok(Json(store.run(store_library::known_words).await?))
}

/// Every revision of a sheet: who entered it, from what document and when.
#[utoipa::path(
    operation_id = "sheet_history",
    context_path = "/api",
    tag = "library",
    params(("kind" = SheetKind, Path), ("sheet" = String, Path)),
    responses(
        (status = 200, body = Vec<SheetLine>),
        (status = 404, body = ProblemBody),
    ),
)]
#[get("/sheets/<kind>/<sheet>/revisions")]
pub async fn history(
    signed: Guarded,
    kind: &str,
    sheet: &str,
    store: &State<Store>,
) -> Result<Json<Vec<SheetLine>>, ApiError> {
    signed?;
    let (kind, sheet) = (kind_of(kind)?, sheet.to_owned());
    Ok(Json(store.run(move |db| store_library::history(db, kind, &sheet)).await?))
}

pub(super) fn kind_of(word: &str) -> Result<SheetKind, ApiError> {
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
pub async fn judge(
    signed: Guarded,
    asker: Asker,
    data: Data<'_>,
) -> Result<Json<Judged>, ApiError> {
    signed?;
    let x: JudgeSheet = body_json(data).await?;
    if !x.document.is_object() {
        return Err(ApiError::invalid("/document", "is no object", "the fields of a data sheet"));
    }
    let judged = asker.quick(move || judge_sheet(x.kind, &x.document, &x.about, x.school));
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

/// A revision that was kept.
#[derive(Debug, Serialize, ToSchema)]
pub struct KeptSheet {
    /// Kind.
    pub kind: SheetKind,
    /// Key of the sheet.
    pub sheet: String,
    /// The revision.
    pub revision: u32,
}

/// Keeps a revision. Which jobs it concerns is looked at in the background.
#[utoipa::path(
    operation_id = "add_sheet",
    context_path = "/api",
    tag = "library",
    request_body = NewSheet,
    responses(
        (status = 200, body = KeptSheet),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/sheets", data = "<data>")]
pub async fn add(
    signed: Guarded,
    data: Data<'_>,
    store: &State<Store>,
    watching: &State<Watching>,
) -> Result<Json<KeptSheet>, ApiError> {
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
    let inside = |p: Problem| p.at(|own| format!("/document{own}"));
    let sheet =
        read(new.kind, new.document).map_err(|p| problems.extend(p.into_iter().map(inside)));
    let Ok(sheet) = sheet else { return Err(ApiError::Invalid(problems)) };
    if !problems.is_empty() {
        return Err(ApiError::Invalid(problems));
    }
    let (kind, r) = (sheet.kind(), sheet.reference());
    let kept = KeptSheet { kind, sheet: r.sheet, revision: r.revision };
    let put = move |db: &mut PgConnection| {
        let there = store_library::revisions(db, kind, &sheet.reference().sheet)?;
        let newest = there.last().map(|s| s.reference().revision);
        room(newest, sheet.reference().revision)
            .map_err(|p| ApiError::Invalid(vec![p.at(|_| "/document/revision".to_owned())]))?;
        store_library::put(db, &sheet, Origin { by: &by, document: &from })
    };
    if !store.run(put).await? {
        return Err(ApiError::invalid(
            "/document/revision",
            format!("{} revision {} is there", kept.sheet, kept.revision),
            "a revision never changes: take the next number",
        ));
    }
    watching.ask(kind, &kept.sheet);
    Ok(Json(kept))
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
    asker: Asker,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<Imported>, ApiError> {
    let signed = signed?;
    let by = signed.at_least(Role::Designer)?.name.clone();
    let text = body_text(data, MAX_FILE_BYTES).await?;
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
    let rows = asker.quick(move || match x.kind {
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
        (status = 200, content((String = "text/csv"), (Library = "application/json"))),
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
