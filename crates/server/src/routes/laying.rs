//! Questions about the runs of a plan that need not be saved: its wires, routes side by side, cable
//! that is there, a circuit in another raceway.

use heliant_core::job::{CircuitKey, Document, Job, MAX_PLAN_BYTES, WayKey};
use heliant_core::laid_in::{LaidIn, OtherSize, laid_in, other_sizes};
use heliant_core::library::Library;
use heliant_core::reuse::{Reuse, reuse};
use heliant_core::routes::{Routes, compare_routes};
use heliant_core::wires::{
    BudgetShares, WireOptions, Wires, share_budget, smallest_wires, wire_options,
};
use heliant_core::work::Work;
use rocket::data::Data;
use rocket::post;
use rocket::serde::json::Json;
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::body_text;
use super::jobs::parse_plan;
use super::plan::Trial;
use crate::compute::{Asker, Cost};
use crate::guard::Guarded;
use crate::problem::{ApiError, ProblemBody};

/// Answers a question about a plan; `fields` of the body are the question, and beside the plan.
async fn answered<Q, A>(
    (data, asker, cost): (Data<'_>, &Asker, Cost),
    fields: &'static [&'static str],
    answer: impl FnOnce(Document, Q, &Work) -> Result<A, ApiError> + Send + 'static,
) -> Result<Json<A>, ApiError>
where
    Q: DeserializeOwned,
    A: Send + 'static,
{
    let text = body_text(data, MAX_PLAN_BYTES).await?;
    let place = asker.place(cost).await?;
    let found = place.run(move |work| {
        let (rest, plan) = parse_plan(&text, fields)?;
        let place = fields.first().map_or_else(String::new, |f| format!("/{f}"));
        let asked = serde_json::from_value(serde_json::Value::Object(rest))
            .map_err(|e| ApiError::invalid(&place, e.to_string(), "see /api/openapi.json"))?;
        answer(plan, asked, work)
    });
    Ok(Json(found.await??))
}

fn circuit(plan: &Document, key: &CircuitKey, at: &str) -> Result<(), ApiError> {
    if plan.job.plan.circuits.contains_key(key) {
        return Ok(());
    }
    Err(ApiError::invalid(at, format!("no circuit `{key}`"), "a circuit of the plan"))
}

/// Nothing more is asked.
#[derive(Deserialize)]
struct Nothing {}

/// A question for the smallest wires of a plan.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AskWires {
    /// The job.
    pub job: Job,
    /// Its data sheets.
    pub library: Library,
    /// The circuits; every leg whose wire is not picked where absent or empty.
    #[serde(default)]
    pub circuits: Vec<CircuitKey>,
}

#[derive(Deserialize)]
struct OfCircuits {
    #[serde(default)]
    circuits: Option<Vec<CircuitKey>>,
}

/// The smallest wire of each leg with which all checks of its circuit hold; nothing is kept.
#[utoipa::path(
    operation_id = "wires",
    context_path = "/api",
    tag = "plan",
    request_body = AskWires,
    responses((status = 200, body = Wires), (status = 422, body = ProblemBody)),
)]
#[post("/wires", data = "<data>")]
pub async fn wires(signed: Guarded, asker: Asker, data: Data<'_>) -> Result<Json<Wires>, ApiError> {
    signed?;
    let answer = |plan: Document, asked: OfCircuits, work: &Work| {
        let named = asked.circuits.unwrap_or_default();
        named.iter().try_for_each(|key| circuit(&plan, key, "/circuits"))?;
        Ok(smallest_wires(&plan.job, &plan.library, &named, work))
    };
    answered((data, &asker, Cost::Dear), &["circuits"], answer).await
}

/// A question for a circuit in other wire.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AskOptions {
    /// The job.
    pub job: Job,
    /// Its data sheets.
    pub library: Library,
    /// The circuit.
    pub circuit: CircuitKey,
}

#[derive(Deserialize)]
struct OfCircuit {
    #[serde(default)]
    circuit: CircuitKey,
}

/// A circuit in thinner and thicker wire: what it drops, loses and costs; nothing is kept.
#[utoipa::path(
    operation_id = "wire_options",
    context_path = "/api",
    tag = "plan",
    request_body = AskOptions,
    responses((status = 200, body = WireOptions), (status = 422, body = ProblemBody)),
)]
#[post("/wires/options", data = "<data>")]
pub async fn options(
    signed: Guarded,
    asker: Asker,
    data: Data<'_>,
) -> Result<Json<WireOptions>, ApiError> {
    signed?;
    let answer = |plan: Document, asked: OfCircuit, work: &Work| {
        circuit(&plan, &asked.circuit, "/circuit")?;
        Ok(wire_options(&plan.job, &plan.library, &asked.circuit, work))
    };
    answered((data, &asker, Cost::Dear), &["circuit"], answer).await
}

/// A question for one budget of voltage drop.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AskBudget {
    /// The job.
    pub job: Job,
    /// Its data sheets.
    pub library: Library,
    /// From the modules to the panel, %.
    #[schema(minimum = 0.2, maximum = 20)]
    pub budget_pct: f64,
}

#[derive(Deserialize)]
struct Budget {
    #[serde(default)]
    budget_pct: f64,
}

/// Ways to share a budget of voltage drop over DC and AC, with the wires they ask for.
#[utoipa::path(
    operation_id = "share_budget",
    context_path = "/api",
    tag = "plan",
    request_body = AskBudget,
    responses((status = 200, body = BudgetShares), (status = 422, body = ProblemBody)),
)]
#[post("/wires/budget", data = "<data>")]
pub async fn budget(
    signed: Guarded,
    asker: Asker,
    data: Data<'_>,
) -> Result<Json<BudgetShares>, ApiError> {
    signed?;
    let answer = |plan: Document, Budget { budget_pct }: Budget, work: &Work| {
        if !(0.2..=20.0).contains(&budget_pct) {
            let message = format!("{budget_pct} % is no budget of voltage drop");
            return Err(ApiError::invalid("/budget_pct", message, "0.2 to 20 %"));
        }
        Ok(share_budget(&plan.job, &plan.library, budget_pct, work))
    };
    answered((data, &asker, Cost::Dear), &["budget_pct"], answer).await
}

/// The route that is drawn and those kept beside it, side by side.
#[utoipa::path(
    operation_id = "compare_routes",
    context_path = "/api",
    tag = "plan",
    request_body = Trial,
    responses((status = 200, body = Routes), (status = 422, body = ProblemBody)),
)]
#[post("/routes", data = "<data>")]
pub async fn routes(
    signed: Guarded,
    asker: Asker,
    data: Data<'_>,
) -> Result<Json<Routes>, ApiError> {
    signed?;
    let answer = |plan: Document, _: Nothing, work: &Work| {
        Ok(compare_routes(&plan.job, &plan.library, work))
    };
    answered((data, &asker, Cost::Dear), &[], answer).await
}

/// Cable that is there already, held against every leg.
#[utoipa::path(
    operation_id = "reuse",
    context_path = "/api",
    tag = "plan",
    request_body = Trial,
    responses((status = 200, body = Vec<Reuse>), (status = 422, body = ProblemBody)),
)]
#[post("/reuse", data = "<data>")]
pub async fn pieces(
    signed: Guarded,
    asker: Asker,
    data: Data<'_>,
) -> Result<Json<Vec<Reuse>>, ApiError> {
    signed?;
    answered((data, &asker, Cost::Quick), &[], |plan: Document, _: Nothing, _: &Work| {
        Ok(reuse(&plan.job, &plan.library))
    })
    .await
}

/// A question for a raceway with a circuit more in it.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AskLaidIn {
    /// The job.
    pub job: Job,
    /// Its data sheets.
    pub library: Library,
    /// The way.
    pub way: WayKey,
    /// The part of it, from 1.
    pub part: usize,
    /// The circuit that is laid into it.
    pub circuit: CircuitKey,
}

#[derive(Deserialize)]
struct LaidAsk {
    way: WayKey,
    part: usize,
    circuit: CircuitKey,
}

/// A raceway with a circuit of another way in it: what happens to its cut, its fill and its wires.
#[utoipa::path(
    operation_id = "laid_in",
    context_path = "/api",
    tag = "plan",
    request_body = AskLaidIn,
    responses((status = 200, body = LaidIn), (status = 422, body = ProblemBody)),
)]
#[post("/laid-in", data = "<data>")]
pub async fn laid(signed: Guarded, asker: Asker, data: Data<'_>) -> Result<Json<LaidIn>, ApiError> {
    signed?;
    let answer = |plan: Document, asked: LaidAsk, _: &Work| {
        circuit(&plan, &asked.circuit, "/circuit")?;
        let (way, part) = (&asked.way, asked.part);
        laid_in(&plan.job, &plan.library, (way, part), &asked.circuit).ok_or_else(|| {
            let message = format!("{} cannot be laid into {way}", asked.circuit);
            ApiError::invalid("/way", message, "a way of the plan it does not lie in")
        })
    };
    answered((data, &asker, Cost::Quick), &["way", "part", "circuit"], answer).await
}

/// A question for a raceway in the sizes beside its own.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AskSizes {
    /// The job.
    pub job: Job,
    /// Its data sheets.
    pub library: Library,
    /// The way.
    pub way: WayKey,
    /// The part of it, from 1.
    pub part: usize,
}

#[derive(Deserialize)]
struct OfPart {
    way: WayKey,
    part: usize,
}

/// A raceway in the size before, its own, and the size behind.
#[utoipa::path(
    operation_id = "raceway_sizes",
    context_path = "/api",
    tag = "plan",
    request_body = AskSizes,
    responses((status = 200, body = Vec<OtherSize>), (status = 422, body = ProblemBody)),
)]
#[post("/raceway-sizes", data = "<data>")]
pub async fn sizes(
    signed: Guarded,
    asker: Asker,
    data: Data<'_>,
) -> Result<Json<Vec<OtherSize>>, ApiError> {
    signed?;
    let answer = |plan: Document, OfPart { way, part }: OfPart, _: &Work| {
        other_sizes(&plan.job, &plan.library, (&way, part)).ok_or_else(|| {
            let message = format!("part {part} of {way} has no raceway");
            ApiError::invalid("/way", message, "a part of the plan that is raceway")
        })
    };
    answered((data, &asker, Cost::Quick), &["way", "part"], answer).await
}
