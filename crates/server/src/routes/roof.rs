//! The roof map: faces filled with modules, strings routed over them.

use heliant_core::job::{FaceKey, Job, MAX_PLAN_BYTES, MOST_MODULES};
use heliant_core::library::Library;
use heliant_core::search::{Fill, Filled, Reroute, Rerouted, fill as fill_face, reroute};
use heliant_core::stages::roof::{RowShade, row_shade};
use heliant_core::stages::site::declination_deg;
use heliant_core::work::Work;
use heliant_documents::{NoPlace, RoofFormat, roof_geojson, roof_map};
use rocket::State;
use rocket::data::Data;
use rocket::http::ContentType;
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use rocket::{get, post};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::jobs::parse_plan;
use super::{body_text, parsed};
use crate::attachment::Attachment;
use crate::compute::{Asker, Cost};
use crate::guard::{Guarded, Seated};
use crate::kept::{Bytes, Question};
use crate::problem::{ApiError, ProblemBody};
use crate::records::Stored;
use crate::store::Store;
use crate::store::jobs::{self as store_jobs, SerialElsewhere};

/// A face to be filled.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AskFill {
    /// The job.
    pub job: Job,
    /// Its data sheets.
    pub library: Library,
    /// What is asked.
    pub ask: Fill,
}

/// A face to be routed.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AskRoute {
    /// The job.
    pub job: Job,
    /// Its data sheets.
    pub library: Library,
    /// What is asked.
    pub ask: Reroute,
}

/// Rows of frames on a day of the year.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AskShade {
    /// The job.
    pub job: Job,
    /// Its data sheets.
    pub library: Library,
    /// What is asked.
    pub ask: ShadeDay,
}

/// A face and a day of the year.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ShadeDay {
    /// The face.
    pub face: FaceKey,
    /// Month, from 1.
    #[schema(minimum = 1, maximum = 12)]
    pub month: u32,
    /// Day of the month, from 1.
    #[schema(minimum = 1, maximum = 31)]
    pub day: u32,
}

/// Modules laid on a face; nothing is kept.
#[utoipa::path(
    operation_id = "fill_face",
    context_path = "/api",
    tag = "roof",
    request_body = AskFill,
    responses((status = 200, body = Filled), (status = 422, body = ProblemBody)),
)]
#[post("/roof/fill", data = "<data>")]
pub async fn fill(signed: Guarded, asker: Asker, data: Data<'_>) -> Result<Json<Filled>, ApiError> {
    signed?;
    let text = body_text(data, MAX_PLAN_BYTES).await?;
    let done = asker.quick(move || {
        let (job, library, ask) = asked(&text)?;
        fill_face(&job, &library, &ask).map_err(ApiError::Invalid)
    });
    Ok(Json(done.await??))
}

/// The strings of a face routed; nothing is kept.
#[utoipa::path(
    operation_id = "route_face",
    context_path = "/api",
    tag = "roof",
    request_body = AskRoute,
    responses((status = 200, body = Rerouted), (status = 422, body = ProblemBody)),
)]
#[post("/roof/route", data = "<data>")]
pub async fn route(
    signed: Guarded,
    asker: Asker,
    data: Data<'_>,
) -> Result<Json<Rerouted>, ApiError> {
    signed?;
    let text = body_text(data, MAX_PLAN_BYTES).await?;
    let place = asker.place(Cost::Dear).await?;
    let done = place.run(move |work| {
        let (job, library, ask) = asked(&text)?;
        reroute(&job, &library, &ask, work).map_err(ApiError::Invalid)
    });
    Ok(Json(done.await??))
}

/// When the rows of a face shade one another on a day.
#[utoipa::path(
    operation_id = "shade_of_rows",
    context_path = "/api",
    tag = "roof",
    request_body = AskShade,
    responses((status = 200, body = RowShade), (status = 422, body = ProblemBody)),
)]
#[post("/roof/shade", data = "<data>")]
pub async fn shade(
    signed: Guarded,
    asker: Asker,
    data: Data<'_>,
) -> Result<Json<RowShade>, ApiError> {
    signed?;
    let text = body_text(data, MAX_PLAN_BYTES).await?;
    let done = asker.quick(move || {
        let (job, _, ask): (Job, Library, ShadeDay) = asked(&text)?;
        let ShadeDay { face, month, day } = ask;
        if declination_deg(month, day).is_none() {
            let message = format!("{day}. {month}. is no day of the calendar");
            return Err(ApiError::invalid("/ask/day", message, "a day of that month"));
        }
        let own = job.site.faces.iter().find(|f| f.id == face).zip(job.roof.get(&face));
        own.and_then(|(face, map)| row_shade(&job.site, face, map, month, day)).ok_or_else(|| {
            let at = format!("/job/roof/{face}/rows");
            let hint = "rows, length up the slope, and the latitude under Site";
            ApiError::invalid(&at, "the shade of these rows is not known", hint)
        })
    });
    Ok(Json(done.await??))
}

/// Job, data sheets and question of a body.
fn asked<A: DeserializeOwned>(text: &str) -> Result<(Job, Library, A), ApiError> {
    let (mut rest, plan) = parse_plan(text, &["ask"])?;
    let ask = serde_json::from_value(rest.remove("ask").unwrap_or_default())
        .map_err(|e| ApiError::invalid("/ask", e.to_string(), "see /api/openapi.json"))?;
    Ok((plan.job, plan.library, ask))
}

/// Serial numbers that were scanned for a job.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AskSerials {
    /// The numbers.
    #[schema(max_items = 5000)]
    pub serials: Vec<String>,
}

/// Which of these serial numbers are on the map of another job.
#[utoipa::path(
    operation_id = "serials_elsewhere",
    context_path = "/api",
    tag = "roof",
    params(("id" = Uuid, Path)),
    request_body = AskSerials,
    responses((status = 200, body = [SerialElsewhere]), (status = 422, body = ProblemBody)),
)]
#[post("/jobs/<id>/serials", data = "<data>")]
pub async fn serials(
    signed: Guarded,
    id: Uuid,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<Vec<SerialElsewhere>>, ApiError> {
    signed?;
    let ask: AskSerials = parsed(&body_text(data, MAX_PLAN_BYTES).await?)?;
    if ask.serials.len() > MOST_MODULES {
        let hint = format!("{MOST_MODULES} at most");
        return Err(ApiError::invalid("/serials", "too many at once", hint));
    }
    let found = store.run(move |db| store_jobs::serials_elsewhere(db, id, &ask.serials)).await?;
    Ok(Json(found))
}

/// The roof map of a job as a drawing, `svg`, `dxf` or `geojson`.
#[utoipa::path(
    operation_id = "roof_drawing",
    context_path = "/api",
    tag = "roof",
    params(("id" = Uuid, Path), ("format" = String, Path, description = "svg, dxf or geojson")),
    responses(
        (status = 200, content(
            (String = "image/svg+xml"),
            (String = "image/vnd.dxf"),
            (String = "application/geo+json"),
        )),
        (status = 404, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[get("/jobs/<id>/roof/<format>")]
pub async fn drawing(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    format: &str,
    question: Question,
) -> Result<Attachment<Bytes>, ApiError> {
    let of = seated?.now(id);
    let (written, content_type) = match format {
        "svg" => (Some(RoofFormat::Svg), ContentType::SVG),
        "dxf" => (Some(RoofFormat::Dxf), ContentType::new("image", "vnd.dxf")),
        "geojson" => (None, ContentType::new("application", "geo+json")),
        _ => return Err(ApiError::NotFound("format")),
    };
    let drawn = move |stored: Stored, _: &Work| {
        let document = &stored.document;
        let (job, library) = (&document.job, &document.library);
        match written {
            Some(written) => Ok(roof_map(job, library, &stored.report(), written).into()),
            None => roof_geojson(job, library).map(|g| g.to_string().into()).map_err(|NoPlace| {
                let message = "the site has no latitude and longitude";
                ApiError::invalid("/job/site/latitude_deg", message, "enter both under Site")
            }),
        }
    };
    let body = question.answer(of, format!("roof {format}"), Cost::Quick, drawn).await?;
    let name = question.name(id, "", format).await?;
    Ok(Attachment::file(body, content_type, &name))
}
