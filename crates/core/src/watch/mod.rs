//! The data sheet watch: what a newer revision changes, what a job then no longer holds, and the
//! repairs, ranked by what they cost on site.

mod changes;
mod cost;
mod repairs;

pub use changes::{Change, changes, newer};
pub use cost::SiteCost;

use serde::Serialize;
use utoipa::ToSchema;

use crate::evaluate::{Report, evaluate};
use crate::figure::{Check, Verdict};
use crate::job::{Edit, Job, applied};
use crate::library::{DataSheet, InverterSheet, Library, SheetKind, SheetRef};
use crate::work::Work;
use repairs::Mending;

/// A check that holds no longer.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Stop {
    /// The check as it comes to now.
    pub check: Check,
    /// How far it is beyond the limit, in the check's unit.
    pub over: Option<f64>,
}

/// One way to mend a job.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Repair {
    /// What is done, in one sentence.
    pub text: String,
    /// What must be opened again.
    pub opens: Vec<String>,
    /// What it costs on site.
    pub cost: SiteCost,
    /// What stops besides: it is mended with it, and is in the cost.
    pub also: Vec<Stop>,
    /// What comes to a caution by it.
    pub cautions: Vec<Stop>,
    /// The edits that do it, the newer revision with them.
    pub edits: Vec<Edit>,
    /// The data sheet it brings in besides the newer revision.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub inverter: Option<SheetRef>,
}

/// A newer revision of a sheet a job uses, and what it does to the job.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Watch {
    /// Kind of the sheet.
    pub kind: SheetKind,
    /// Key of the sheet.
    pub sheet: String,
    /// Maker and model.
    pub name: String,
    /// The revision the job holds.
    pub from: u32,
    /// The newer one.
    pub to: u32,
    /// What changed.
    pub changes: Vec<Change>,
    /// What no longer holds.
    pub stops: Vec<Stop>,
    /// What comes to a caution.
    pub cautions: Vec<Stop>,
    /// What holds again.
    pub healed_n: u32,
    /// The reason the older one is kept, where somebody decided so.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub kept: Option<String>,
    /// The edits that take the newer revision and nothing else.
    pub accept: Vec<Edit>,
    /// Repairs, the cheapest on site first.
    pub repairs: Vec<Repair>,
    /// The time was up, or nobody waited any more: it was not searched through.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    #[schema(required = false)]
    pub cut: bool,
}

pub(crate) fn same_check(a: &Check, b: &Check) -> bool {
    a.id == b.id && a.subject == b.subject
}

/// Checks that came to `verdict` and did not before.
pub(crate) fn newly(before: &Report, after: &Report, verdict: Verdict) -> Vec<Stop> {
    let was = |c: &&Check| !before.checks.iter().any(|b| same_check(b, c) && b.verdict >= verdict);
    let now = after.checks.iter().filter(|c| c.verdict == verdict && !c.alternative).filter(was);
    now.map(|c| Stop { check: c.clone(), over: c.margin.map(|m| -m) }).collect()
}

/// A job before and after it takes a newer revision.
struct Taken {
    before: Report,
    after: Report,
    accept: Vec<Edit>,
    taken: Job,
    known: Library,
}

impl Taken {
    fn of(job: &Job, library: &Library, old: &DataSheet, new: &DataSheet) -> Taken {
        let before = evaluate(job, library, &[]);
        let mut known = library.clone();
        new.clone().put_into(&mut known);
        let accept = job.replacing(new.kind(), &old.reference(), &new.reference());
        let taken = applied(job, &accept).unwrap_or_else(|| job.clone());
        let after = evaluate(&taken, &known, &[]);
        Taken { before, after, accept, taken, known }
    }

    fn newly(&self, verdict: Verdict) -> Vec<Stop> {
        newly(&self.before, &self.after, verdict)
    }
}

/// The reason a job keeps a revision in place of a newer one, where somebody decided so.
fn kept(job: &Job, old: &DataSheet, new: &DataSheet) -> Option<String> {
    let (from, to) = (old.reference().revision, new.reference());
    let kept = job.kept_sheets.iter().find(|k| {
        k.kind == new.kind() && k.sheet == to.sheet && k.revision == from && k.newer == to.revision
    });
    kept.map(|k| k.reason.clone())
}

/// What a newer revision does to a job, without a way to mend it.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Effect {
    /// The revision the job holds.
    pub holds: u32,
    /// What would no longer hold.
    pub stops: Vec<Stop>,
    /// What would come to a caution.
    pub cautions: Vec<Stop>,
    /// The reason the older one is kept, where somebody decided so.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub kept: Option<String>,
}

/// What a newer revision does to a job; none where the job holds no older one.
pub fn effect(job: &Job, library: &Library, new: &DataSheet) -> Option<Effect> {
    let to = new.reference();
    let old = library.sheets().into_iter().find(|s| {
        let own = s.reference();
        s.kind() == new.kind() && own.sheet == to.sheet && own.revision < to.revision
    })?;
    let seen = Taken::of(job, library, &old, new);
    Some(Effect {
        holds: old.reference().revision,
        stops: seen.newly(Verdict::Fail),
        cautions: seen.newly(Verdict::Warn),
        kept: kept(job, &old, new),
    })
}

/// What a newer revision does to a job. `others` are inverters that might take its place.
pub fn watch(
    job: &Job,
    library: &Library,
    old: &DataSheet,
    new: &DataSheet,
    others: &[InverterSheet],
    work: &Work,
) -> Watch {
    let seen = Taken::of(job, library, old, new);
    let (stops, cautions) = (seen.newly(Verdict::Fail), seen.newly(Verdict::Warn));
    let Taken { before, after, accept, taken, known } = seen;
    let healed = |c: &&Check| {
        c.verdict == Verdict::Fail
            && after.checks.iter().any(|a| same_check(a, c) && a.verdict < Verdict::Fail)
    };
    let repairs = if stops.is_empty() {
        Vec::new()
    } else {
        let accept = &accept;
        Mending { job, taken: &taken, known, before: &before, accept, work }.repairs(new, others)
    };
    let head = new.head();
    Watch {
        kind: new.kind(),
        name: format!("{} {}", head.maker, head.model),
        from: old.reference().revision,
        to: head.revision,
        sheet: head.sheet.to_owned(),
        changes: changes(old, new),
        cautions,
        healed_n: before.checks.iter().filter(healed).count() as u32,
        stops,
        kept: kept(job, old, new),
        accept,
        repairs,
        cut: work.cut(),
    }
}
