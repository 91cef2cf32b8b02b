//! What the newest revision of a data sheet does to the jobs that hold an older one. It is looked
//! at in the background; an answer says how far that is.

use heliant_core::library::SheetKind;
use heliant_core::watch::{Change, Effect, changes};
use rocket::serde::json::Json;
use rocket::{State, get};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::guard::Guarded;
use crate::problem::{ApiError, ProblemBody};
use crate::store::consequences::{self as store_consequences, Concerns, Tally};
use crate::store::{Store, library as store_library};
use crate::watching::{Watching, looked};

use super::library::kind_of;

/// Jobs of one answer.
const PAGE: i64 = 100;

/// A job a newer revision concerns.
#[derive(Debug, Serialize, ToSchema)]
pub struct Concerned {
    /// The job.
    pub id: Uuid,
    /// Its name.
    pub name: String,
    /// What the newest revision does to it.
    #[serde(flatten)]
    #[schema(value_type = Effect)]
    pub effect: serde_json::Value,
}

/// What a revision changes, and for whom, as far as that has been looked at.
#[derive(Debug, Serialize, ToSchema)]
pub struct Consequences {
    /// The fields that differ from the revision before.
    pub changes: Vec<Change>,
    /// Jobs that hold the sheet.
    pub of_n: i64,
    /// Those that have been looked at as they are now: ask again until all are.
    pub done_n: i64,
    /// Of those, the ones that hold an older revision.
    pub older_n: i64,
    /// Of those, the ones with something that would no longer hold.
    pub stops_n: i64,
    /// And the ones with no more than cautions.
    pub cautions_n: i64,
    /// A page of the jobs that hold an older one, the worst first.
    pub jobs: Vec<Concerned>,
}

/// What the newest revision of a sheet changes, and the jobs that hold an older one. Asking begins
/// to look at them; who asks again goes on waiting.
#[utoipa::path(
    operation_id = "sheet_consequences",
    context_path = "/api",
    tag = "library",
    params(
        ("kind" = SheetKind, Path),
        ("sheet" = String, Path),
        ("page" = Option<u32>, Query, description = "From 0 on, a hundred jobs each"),
    ),
    responses(
        (status = 200, body = Consequences),
        (status = 404, body = ProblemBody),
    ),
)]
#[get("/sheets/<kind>/<sheet>/consequences?<page>")]
pub async fn consequences(
    signed: Guarded,
    kind: &str,
    sheet: &str,
    page: Option<u32>,
    store: &State<Store>,
    watching: &State<Watching>,
) -> Result<Json<Consequences>, ApiError> {
    signed?;
    let (kind, sheet) = (kind_of(kind)?, sheet.to_owned());
    let (key, edition) = (sheet.clone(), watching.edition().to_owned());
    let skip = i64::from(page.unwrap_or(0)) * PAGE;
    let answer = store.run(move |db| {
        let revisions = store_library::revisions(db, kind, &key)?;
        let (newest, before) = revisions.split_last().ok_or(ApiError::NotFound("data sheet"))?;
        let changes = before.last().map_or_else(Vec::new, |old| changes(old, newest));
        let of = looked(newest, &edition);
        let Tally { of_n, done_n, older_n, stops_n, cautions_n } =
            store_consequences::tally(db, &of)?;
        let jobs = store_consequences::concerned(db, &of, skip, PAGE)?;
        let concerned = |c: Concerns| Concerned { id: c.id, name: c.name, effect: c.effect };
        let jobs = jobs.into_iter().map(concerned).collect();
        Ok(Consequences { changes, of_n, done_n, older_n, stops_n, cautions_n, jobs })
    });
    let answer = answer.await?;
    if answer.done_n < answer.of_n {
        watching.ask(kind, &sheet);
    }
    Ok(Json(answer))
}
