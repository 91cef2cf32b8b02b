//! Where the box of a face's strings would best sit, as they run now.

use serde::Serialize;
use utoipa::ToSchema;

use super::leads::tail_m;
use super::map::Map;
use super::string::OnMap;
use crate::figure::{Sheet, Subject};
use crate::figures;
use crate::job::{FaceKey, JobString};
use crate::quantity::Metres;

figures! { Roof;
    /// Tails to the present place less those to the best one.
    BOX_MORE: Metres = "route.box_more_m", "Wire the place of the box costs more", "roof map";
}

/// Tails up to which all lines are tried.
const WHOLE_N: usize = 12;

/// A better place for the box.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct BoxPlace {
    /// Where, mm.
    pub at_mm: [f64; 2],
    /// Wire of all tails less than to the present place, m.
    pub less_m: f64,
}

/// A free exit and its lead.
type End = ([f64; 2], f64);

/// The best place for the box of a face; none where a tail is open or no place is better.
pub(super) fn box_place(
    sheet: &mut Sheet,
    map: &Map,
    face: &FaceKey,
    strings: &[&(&JobString, OnMap)],
) -> Option<BoxPlace> {
    let now = map.job.roof.get(face)?.box_mm?;
    let leads = map.leads(face).ok()?;
    let mut ends: Vec<End> = Vec::new();
    for (_, own) in strings {
        ends.push((own.tail_plus.as_ref()?.from_mm, leads.lead_plus_m));
        ends.push((own.tail_minus.as_ref()?.from_mm, leads.lead_minus_m));
    }
    let slack_m = map.slack_m;
    let wire = |at: [f64; 2]| -> f64 {
        ends.iter().map(|(exit, lead)| tail_m(*exit, at, slack_m, *lead)).sum()
    };
    let [xs, ys] = [0, 1].map(|axis| lines(&ends, slack_m, axis));
    let places = xs.iter().flat_map(|x| ys.iter().map(move |y| [*x, *y]));
    let best = places.min_by(|a, b| wire(*a).total_cmp(&wire(*b)))?;
    let (there, least) = (wire(now), wire(best).min(wire(now)));
    sheet.subject = Subject::Face { face: face.clone() };
    sheet.figure(&BOX_MORE, |w| {
        if ends.len() > WHOLE_N {
            w.note("Tried around the middle of all tails; another place may be better still.");
        }
        let now = w.given("tails to the box", Metres(there), "roof map");
        Some(now - w.given("to the best place, as the strings run", Metres(least), "roof map"))
    });
    (there - least > 0.05).then_some(BoxPlace { at_mm: best, less_m: there - least })
}

/// Lines along one axis on which the best place is looked for: through the exits, and where a lead
/// just reaches. Of many tails only around their middle.
fn lines(ends: &[End], slack_m: f64, axis: usize) -> Vec<f64> {
    let reach = |lead: f64| (lead - slack_m) * 1000.0;
    let mut all: Vec<(f64, f64)> = ends.iter().map(|(e, lead)| (e[axis], reach(*lead))).collect();
    if all.len() > WHOLE_N {
        all.sort_by(|a, b| a.0.total_cmp(&b.0));
        all = vec![all[all.len() / 2]];
    }
    all.into_iter().flat_map(|(at, reach)| [at, at - reach, at + reach]).collect()
}
