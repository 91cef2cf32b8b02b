//! What is drawn from a plan when it is asked for: the one-line diagram, labels, and what follows
//! from a fault.

use heliant_core::Report;
use heliant_core::faults::{Fault, faults as faults_of};
use heliant_core::labels::{Label, label_sheet, label_sheets, labels as labels_of};
use heliant_core::one_line::{OneLine, Paper, Title, one_line as drawn};
use heliant_core::school::School;
use heliant_core::work::Work;
use heliant_documents::{sheet_svg, sheets_dxf, sheets_pdf};
use rocket::get;
use rocket::http::ContentType;
use rocket::serde::uuid::Uuid;

use crate::attachment::Attachment;
use crate::compute::Cost;
use crate::guard::Seated;
use crate::kept::{Bytes, KeptJson, Question};
use crate::problem::{ApiError, ProblemBody};
use crate::records::Stored;

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
    question: Question,
) -> Result<KeptJson, ApiError> {
    let of = seated?.at(id, revision);
    let paper = paper.map(str::to_owned);
    let what = format!("one-line {paper:?}");
    let drawn = move |stored: Stored, _: &Work| {
        let paper = paper_of(paper.as_deref(), stored.document.job.school)?;
        Ok(diagram(&stored, &stored.report(), paper))
    };
    question.json(of, what, Cost::Quick, drawn).await
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
    question: Question,
) -> Result<KeptJson, ApiError> {
    let of = seated?.at(id, revision);
    question.json(of, "labels", Cost::Quick, |stored, _| Ok(labels_for(&stored))).await
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
    question: Question,
) -> Result<KeptJson, ApiError> {
    let of = seated?.at(id, revision);
    let found = |stored: Stored, _: &Work| {
        let document = &stored.document;
        Ok(faults_of(&document.job, &document.library, &stored.report()))
    };
    question.json(of, "faults", Cost::Quick, found).await
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
    question: Question,
) -> Result<Attachment<Bytes>, ApiError> {
    let of = seated?.now(id);
    let (written, content_type) = match format {
        "svg" => (OneLineFile::Svg(sheet.unwrap_or(1)), ContentType::SVG),
        "dxf" => (OneLineFile::Dxf, ContentType::new("image", "vnd.dxf")),
        "pdf" => (OneLineFile::Pdf, ContentType::PDF),
        _ => return Err(ApiError::NotFound("format")),
    };
    let paper = paper.map(str::to_owned);
    let what = format!("one-line {written:?} {paper:?}");
    let drawn = move |stored: Stored, _: &Work| {
        let paper = paper_of(paper.as_deref(), stored.document.job.school)?;
        let report = stored.report();
        let sheets = diagram(&stored, &report, paper).sheets;
        if sheets.is_empty() {
            let message = "there is no circuit to draw";
            return Err(ApiError::invalid(
                "/job/plan/circuits",
                message,
                "plan the circuits first",
            ));
        }
        Ok(match written {
            OneLineFile::Svg(n) => {
                let own = sheets.get(n.saturating_sub(1)).ok_or(ApiError::NotFound("sheet"))?;
                sheet_svg(own, &report.tapes).into()
            }
            OneLineFile::Dxf => sheets_dxf(&sheets).into(),
            OneLineFile::Pdf => sheets_pdf(&stored.document.job.name, &sheets).into(),
        })
    };
    let body = question.answer(of, what, Cost::Quick, drawn).await?;
    let name = question.name(id, "one-line", format).await?;
    Ok(Attachment::file(body, content_type, &name))
}

/// A file of the one-line diagram; of an SVG the sheet, from 1.
#[derive(Clone, Copy, Debug)]
enum OneLineFile {
    Svg(usize),
    Dxf,
    Pdf,
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
    question: Question,
) -> Result<Attachment<Bytes>, ApiError> {
    let of = seated?.now(id);
    let (one, content_type) = match format {
        "pdf" => (None, ContentType::PDF),
        "svg" => (Some(label.unwrap_or(1)), ContentType::SVG),
        _ => return Err(ApiError::NotFound("format")),
    };
    let paper = paper.map(str::to_owned);
    let what = format!("labels {one:?} {paper:?}");
    let drawn = move |stored: Stored, _: &Work| {
        let [wide, high] = paper_of(paper.as_deref(), stored.document.job.school)?.size_mm();
        let all = labels_for(&stored);
        if all.is_empty() {
            let message = "there is nothing to label";
            return Err(ApiError::invalid(
                "/job/plan/circuits",
                message,
                "plan the circuits first",
            ));
        }
        let Some(n) = one else {
            // Labels stand upright.
            let sheets = label_sheets(&all, [high, wide]);
            return Ok(sheets_pdf(&stored.document.job.name, &sheets).into());
        };
        let own = all.get(n.saturating_sub(1)).ok_or(ApiError::NotFound("label"))?;
        Ok(sheet_svg(&label_sheet(own), &[]).into())
    };
    let body = question.answer(of, what, Cost::Quick, drawn).await?;
    let name = question.name(id, "labels", format).await?;
    Ok(Attachment::file(body, content_type, &name))
}
