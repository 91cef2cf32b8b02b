//! The pack: the job on paper.

use chrono::Utc;
use heliant_core::figure::Recording;
use heliant_documents::{Pack, pack_pdf};
use rocket::State;
use rocket::get;
use rocket::http::{ContentType, Header};
use rocket::serde::uuid::Uuid;

use super::jobs::{Attachment, file_name};
use crate::compute::computed;
use crate::guard::Guarded;
use crate::problem::{ApiError, ProblemBody};
use crate::store::{Store, jobs as store_jobs};

/// The pack of a job as PDF.
#[utoipa::path(
    context_path = "/api",
    tag = "jobs",
    params(("id" = Uuid, Path)),
    responses(
        (status = 200, content_type = "application/pdf", body = Vec<u8>),
        (status = 404, body = ProblemBody),
    ),
)]
#[get("/jobs/<id>/pack.pdf")]
pub async fn pack(
    signed: Guarded,
    id: Uuid,
    store: &State<Store>,
) -> Result<Attachment<Vec<u8>>, ApiError> {
    let by = signed?.0.name;
    let stored = store.run(move |db| store_jobs::get(db, id, None)).await?;
    let name = file_name(&stored.document.job.name, "pdf");
    let set = computed(move || {
        let report = stored.report_with(Recording::Everything);
        pack_pdf(&Pack {
            job: &stored.document.job,
            library: &stored.document.library,
            report: &report,
            revision: stored.revision,
            saved_at: stored.saved_at,
            saved_by: &stored.saved_by,
            printed_at: Utc::now(),
            printed_by: &by,
        })
    });
    let body = set.await?.map_err(ApiError::Internal)?;
    Ok(Attachment {
        body,
        content_type: ContentType::PDF,
        disposition: Header::new("Content-Disposition", format!("inline; filename=\"{name}\"")),
    })
}
