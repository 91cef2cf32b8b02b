//! What is drawn from a plan when it is asked for: the one-line diagram, labels, and what follows
//! from a fault.

use heliant_core::Report;
use heliant_core::faults::{Fault, faults as faults_of};
use heliant_core::labels::{Label, label_sheet, label_sheets, labels as labels_of};
use heliant_core::one_line::{OneLine, Paper, Title, one_line as drawn};
use heliant_core::school::School;
use heliant_documents::{sheet_svg, sheets_dxf, sheets_pdf};
use rocket::http::{ContentType, Header};
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use rocket::{State, get};

use super::jobs::{Attachment, file_name};
use crate::compute::computed;
use crate::guard::Seated;
use crate::problem::{ApiError, ProblemBody};
use crate::records::Stored;
use crate::store::Store;
use crate::store::jobs as store_jobs;

/// The paper that is asked for; the school's where none is.
fn paper_of(asked: Option<&str>, school: School) -> Result<Paper, ApiError> {
    match (asked, school) {
        (Some("a4"), _) | (None, School::Iec) => Ok(Paper::A4),
        (Some("letter"), _) | (None, School::Na) => Ok(Paper::Letter),
        (Some(other), _) => {
            let message = format!("no paper `{other}`");
            Err(ApiError::invalid("/paper", message, "a4 or letter"))
        }
    }
}

fn diagram(stored: &Stored, report: &Report, paper: Paper) -> OneLine {
    let title = Title {
        revision: format!("Revision {}", stored.revision),
        date: stored.saved_at.format("%Y-%m-%d").to_string(),
        by: stored.saved_by.clone(),
    };
    let document = &stored.document;
    drawn(&document.job, &document.library, report, &title, paper)
}

async fn stored_at(
    store: &State<Store>,
    id: Uuid,
    revision: Option<i32>,
) -> Result<Stored, ApiError> {
    store.run(move |db| store_jobs::get(db, id, revision)).await
}

/// The one-line diagram of a job as it stood at a revision, on paper of a size, `a4` or `letter`.
#[utoipa::path(
    context_path = "/api",
    tag = "drawings",
    params(
        ("id" = Uuid, Path),
        ("revision" = i32, Path),
        ("paper" = Option<String>, Query, description = "a4 or letter; the school's where absent"),
    ),
    responses(
        (status = 200, body = OneLine),
        (status = 404, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[get("/jobs/<id>/revisions/<revision>/one-line?<paper>")]
pub async fn one_line(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    revision: i32,
    paper: Option<&str>,
    store: &State<Store>,
) -> Result<Json<OneLine>, ApiError> {
    seated?;
    let stored = stored_at(store, id, Some(revision)).await?;
    let paper = paper_of(paper, stored.document.job.school)?;
    Ok(Json(computed(move || diagram(&stored, &stored.report(), paper)).await?))
}

/// The labels of a job as it stood at a revision, place by place.
#[utoipa::path(
    context_path = "/api",
    tag = "drawings",
    params(("id" = Uuid, Path), ("revision" = i32, Path)),
    responses((status = 200, body = Vec<Label>), (status = 404, body = ProblemBody)),
)]
#[get("/jobs/<id>/revisions/<revision>/labels")]
pub async fn labels(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    revision: i32,
    store: &State<Store>,
) -> Result<Json<Vec<Label>>, ApiError> {
    seated?;
    let stored = stored_at(store, id, Some(revision)).await?;
    Ok(Json(computed(move || labels_for(&stored)).await?))
}

fn labels_for(stored: &Stored) -> Vec<Label> {
    labels_of(&stored.document.job, &stored.document.library, &stored.report())
}

/// Every fault that can be put into a plan, with what clears it.
#[utoipa::path(
    context_path = "/api",
    tag = "drawings",
    params(("id" = Uuid, Path), ("revision" = i32, Path)),
    responses((status = 200, body = Vec<Fault>), (status = 404, body = ProblemBody)),
)]
#[get("/jobs/<id>/revisions/<revision>/faults")]
pub async fn faults(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    revision: i32,
    store: &State<Store>,
) -> Result<Json<Vec<Fault>>, ApiError> {
    seated?;
    let stored = stored_at(store, id, Some(revision)).await?;
    let found = computed(move || {
        faults_of(&stored.document.job, &stored.document.library, &stored.report())
    });
    Ok(Json(found.await?))
}

fn attached(body: Vec<u8>, name: &str, content_type: ContentType) -> Attachment<Vec<u8>> {
    let disposition = format!("attachment; filename=\"{name}\"");
    Attachment { body, content_type, disposition: Header::new("Content-Disposition", disposition) }
}

/// The one-line diagram as a file, `svg` (a sheet, from 1), `dxf` or `pdf`.
#[utoipa::path(
    operation_id = "one_line_file",
    context_path = "/api",
    tag = "drawings",
    params(
        ("id" = Uuid, Path),
        ("format" = String, Path, description = "svg, dxf or pdf"),
        ("paper" = Option<String>, Query, description = "a4 or letter; the school's where absent"),
        ("sheet" = Option<usize>, Query, description = "Of an svg, from 1; 1 where absent"),
    ),
    responses(
        (status = 200, content(
            (String = "image/svg+xml"),
            (String = "image/vnd.dxf"),
            (String = "application/pdf"),
        )),
        (status = 404, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[get("/jobs/<id>/one-line/<format>?<paper>&<sheet>")]
pub async fn one_line_file(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    format: &str,
    paper: Option<&str>,
    sheet: Option<usize>,
    store: &State<Store>,
) -> Result<Attachment<Vec<u8>>, ApiError> {
    seated?;
    let stored = stored_at(store, id, None).await?;
    let paper = paper_of(paper, stored.document.job.school)?;
    let name = stored.document.job.name.clone();
    let drawn = computed(move || {
        let report = stored.report();
        (diagram(&stored, &report, paper), report.tapes)
    });
    let (diagram, tapes) = drawn.await?;
    if diagram.sheets.is_empty() {
        let message = "there is no circuit to draw";
        return Err(ApiError::invalid("/job/plan/circuits", message, "plan the circuits first"));
    }
    let file = file_name(&format!("{name} one-line"), format);
    match format {
        "svg" => {
            let own = diagram.sheets.get(sheet.unwrap_or(1).saturating_sub(1));
            let own = own.ok_or(ApiError::NotFound("sheet"))?;
            Ok(attached(sheet_svg(own, &tapes).into_bytes(), &file, ContentType::SVG))
        }
        "dxf" => {
            let dxf = ContentType::new("image", "vnd.dxf");
            Ok(attached(sheets_dxf(&diagram.sheets).into_bytes(), &file, dxf))
        }
        "pdf" => Ok(attached(sheets_pdf(&name, &diagram.sheets), &file, ContentType::PDF)),
        _ => Err(ApiError::NotFound("format")),
    }
}

/// The labels as a file at true size: all of them on sheets as `pdf`, or one, from 1, as `svg` for
/// a label printer.
#[utoipa::path(
    operation_id = "label_file",
    context_path = "/api",
    tag = "drawings",
    params(
        ("id" = Uuid, Path),
        ("format" = String, Path, description = "pdf, or svg of one"),
        ("paper" = Option<String>, Query, description = "a4 or letter; the school's where absent"),
        ("label" = Option<usize>, Query, description = "Of an svg: which, from 1"),
    ),
    responses(
        (status = 200, content((String = "image/svg+xml"), (String = "application/pdf"))),
        (status = 404, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[get("/jobs/<id>/labels/<format>?<paper>&<label>")]
pub async fn label_file(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    format: &str,
    paper: Option<&str>,
    label: Option<usize>,
    store: &State<Store>,
) -> Result<Attachment<Vec<u8>>, ApiError> {
    seated?;
    let stored = stored_at(store, id, None).await?;
    let [wide, high] = paper_of(paper, stored.document.job.school)?.size_mm();
    let name = stored.document.job.name.clone();
    let all = computed(move || labels_for(&stored)).await?;
    if all.is_empty() {
        let message = "there is nothing to label";
        return Err(ApiError::invalid("/job/plan/circuits", message, "plan the circuits first"));
    }
    let file = file_name(&format!("{name} labels"), format);
    match format {
        // Labels stand upright.
        "pdf" => Ok(attached(
            sheets_pdf(&name, &label_sheets(&all, [high, wide])),
            &file,
            ContentType::PDF,
        )),
        "svg" => {
            let own = all.get(label.unwrap_or(1).saturating_sub(1));
            let own = own.ok_or(ApiError::NotFound("label"))?;
            Ok(attached(sheet_svg(&label_sheet(own), &[]).into_bytes(), &file, ContentType::SVG))
        }
        _ => Err(ApiError::NotFound("format")),
    }
}
