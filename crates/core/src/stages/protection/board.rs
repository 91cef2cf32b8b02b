//! A panel as it is drawn: its bus with main, loads, what feeds it and what is free, and the ways
//! to bring PV onto it side by side, each with its figure, its verdict, and what it costs.

use serde::Serialize;
use utoipa::ToSchema;

use super::panel::{BUS, CENTRE, FAR, NEW, NEW_A, SMALLER, SMALLER_A, SUM, TAP};
use crate::figure::{Bound, Check, Figure, Rule, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{CircuitKey, CircuitKind, DeviceKey, DeviceKind, Edit, Job, Node, NodeKey, Panel};
use crate::quantity::Ratio;
use crate::school::School;
use crate::traced::sum;

figures! { Protection;
    /// Ways taken, with those PV takes.
    WAYS: Count = "panel.ways_n", "Ways taken in the panel", "panel";
}

/// What feeds a panel.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct BoardFeed {
    /// The circuit.
    pub circuit: CircuitKey,
    /// What it carries.
    pub kind: CircuitKind,
    /// Its breaker, A.
    pub breaker_a: Option<f64>,
    /// Rated output behind it, A.
    pub rated_a: Option<f64>,
    /// Ways it takes.
    pub ways_n: Option<f64>,
}

/// A way to bring PV onto a panel.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PanelChoice {
    /// The rule.
    pub id: &'static str,
    /// Plain title.
    pub title: &'static str,
    /// Its verdict.
    pub verdict: Verdict,
    /// What it comes to, A.
    pub figure_a: Option<f64>,
    /// What it may be at most, A.
    pub limit_a: Option<f64>,
    /// What it has to be at least, A: the load a smaller main still carries.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub least_a: Option<f64>,
    /// Money it takes besides the PV breaker; hours at the job's price in it. Absent where prices
    /// are not told.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cost: Option<f64>,
    /// Hours it takes.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hours: Option<f64>,
    /// The utility has to switch off.
    pub outage: bool,
    /// It is how the panel stands.
    pub built: bool,
    /// What makes the job stand so; empty where a hand is needed.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub edits: Vec<Edit>,
}

/// A panel as it is drawn.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Board {
    /// The node.
    pub node: NodeKey,
    /// Its busbar, A.
    pub bus_a: Option<f64>,
    /// Its main, A.
    pub main_a: Option<f64>,
    /// The main feeds the middle.
    pub centre_fed: bool,
    /// The PV breaker sits at the far end.
    pub pv_at_far_end: Option<bool>,
    /// Breakers of the loads, A.
    pub loads_a: Vec<f64>,
    /// What feeds it.
    pub feeds: Vec<BoardFeed>,
    /// Ways that are left; below nought: too many are taken.
    pub free_n: Option<f64>,
    /// The next size with ways enough; absent where it holds.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub next_n: Option<f64>,
    /// Current transformers in it.
    pub transformers: Vec<DeviceKey>,
    /// Ways to bring PV onto it (na).
    pub choices: Vec<PanelChoice>,
}

/// The panels of a job.
#[derive(Clone, Debug, Default)]
pub struct Boards(pub Vec<Board>);

/// Sizes panels are made in, ways.
fn sizes(school: School) -> &'static [f64] {
    match school {
        School::Na => &[8.0, 12.0, 16.0, 20.0, 24.0, 30.0, 40.0, 42.0, 54.0, 60.0, 84.0],
        School::Iec => &[6.0, 8.0, 12.0, 16.0, 18.0, 24.0, 36.0, 48.0, 54.0, 72.0, 96.0],
    }
}

/// Ways taken against ways there; gives what is left and the next size.
pub(super) fn ways(
    sheet: &mut Sheet,
    key: &NodeKey,
    panel: &Panel,
    feeds: &[BoardFeed],
) -> (Option<f64>, Option<f64>) {
    if panel.ways_n.is_none() && panel.taken_n.is_none() {
        sheet.known(&WAYS, ["panel.ways_n", "panel.taken_n"]);
        return (None, None);
    }
    let taken = sheet.count(&WAYS, |w| {
        let mut all = vec![w.need::<Ratio>("loads", panel.taken_n, "panel.taken_n", "panel")];
        for feed in feeds {
            all.push(w.need(&feed.circuit, feed.ways_n, "device.ways_n", "plan"));
        }
        sum(all)
    });
    let free = panel.ways_n.zip(taken.value()).map(|(there, taken)| there - taken);
    let next = taken.value().and_then(|n| sizes(sheet.school).iter().copied().find(|s| *s >= n));
    let edit = next.map(|n| Edit::new(format!("/plan/nodes/{key}/panel/ways_n"), n));
    let there = Bound::at_most((panel.ways_n, "panel.ways_n"), "ways of the panel");
    sheet
        .hold(&taken, there, Verdict::Fail)
        .beyond(|over| format!("{over} more than it has."))
        .cure(
            format_args!("A panel of {} ways in its place.", next.unwrap_or_default()),
            edit.into_iter().collect(),
        );
    let short = free.is_some_and(|n| n < 0.0);
    (free, next.filter(|_| short))
}

/// What it takes besides the PV breaker: price and minutes by the keys of the rates, and whether
/// the utility switches off.
fn takes(id: &str) -> (Option<&'static str>, Option<&'static str>, bool) {
    if id == SMALLER.id {
        (Some("main_breaker"), Some("main_breaker_min"), true)
    } else if id == TAP.id {
        (Some("supply_tap"), Some("supply_tap_min"), true)
    } else if id == NEW.id {
        (Some("panel_swap"), Some("panel_swap_min"), true)
    } else {
        (None, None, false)
    }
}

/// The ways side by side, out of the checks that were just made of this panel.
pub(super) fn choices(
    job: &Job,
    (checks, figures): (&[Check], &[Figure]),
    key: &NodeKey,
    panel: &Panel,
) -> Vec<PanelChoice> {
    let number = |id: &str| figures.iter().find(|f| f.id == id)?.value.as_ref()?.number();
    // A main that is smaller already needs no smaller one.
    let smaller_a = number(SMALLER_A.id).filter(|a| panel.main_a.is_none_or(|m| *a < m));
    let all: [&'static crate::figure::Def<Rule>; 7] =
        [&SUM, &FAR, &BUS, &CENTRE, &SMALLER, &TAP, &NEW];
    let tapped = panel.supply_side.as_ref().is_some_and(|t| t.chosen);
    let chosen = all.into_iter().filter_map(|def| {
        let check = checks.iter().find(|c| c.id == def.id)?;
        let (price, minutes, outage) = takes(def.id);
        let mut hours = minutes.map_or(0.0, |m| job.rate(m)) / 60.0;
        let mut cost = price.map_or(0.0, |p| job.rate(p));
        if outage {
            hours += job.rate("outage_min") / 60.0;
            cost += job.rate("outage");
        }
        cost += hours * job.rate("labour_h");
        let at = |field: &str| format!("/plan/nodes/{key}/panel/{field}");
        let edits = match smaller_a {
            Some(main) if def.id == SMALLER.id && check.verdict == Verdict::Pass => {
                vec![Edit::new(at("main_a"), main)]
            }
            _ if def.id == FAR.id && panel.pv_at_far_end == Some(false) => {
                vec![Edit::new(at("pv_at_far_end"), true)]
            }
            _ => Vec::new(),
        };
        let built = match tapped {
            true => def.id == TAP.id,
            false => !outage && check.verdict == Verdict::Pass,
        };
        let (id, title, verdict) = (def.id, def.title, check.verdict);
        let (figure_a, limit_a) = if id == SMALLER.id {
            (number(SMALLER_A.id), None)
        } else if id == NEW.id {
            (number(NEW_A.id), None)
        } else {
            (number(check.figure), check.limit.as_ref().map(|l| l.value))
        };
        Some(PanelChoice {
            id,
            title,
            verdict,
            figure_a,
            limit_a,
            least_a: panel.load_calc_a.filter(|_| id == SMALLER.id),
            cost: Some(cost),
            hours: Some(hours),
            outage,
            built,
            edits,
        })
    });
    chosen.collect()
}

/// The current transformers of a node.
pub(super) fn transformers(node: &Node) -> Vec<DeviceKey> {
    let own = node.devices.iter();
    own.filter(|(_, d)| d.what == DeviceKind::CurrentTransformer).map(|(k, _)| k.clone()).collect()
}

/// The checks of a panel from a place in the list on.
pub(super) fn own_checks(sheet: &Sheet, from: usize, key: &NodeKey) -> Vec<Check> {
    let of = |c: &&Check| matches!(&c.subject, Subject::Panel { panel } if panel == key);
    sheet.checks[from..].iter().filter(of).cloned().collect()
}
