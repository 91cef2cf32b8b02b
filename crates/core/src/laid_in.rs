//! What happens to a raceway when a circuit of another way is laid into it, and in the sizes beside
//! its own.

use serde::Serialize;
use utoipa::ToSchema;

use crate::evaluate::evaluate;
use crate::figure::{Check, Subject, Verdict};
use crate::job::{CircuitKey, Command, Edit, Job, Leg, WayKey, applied, choices, commanded};
use crate::library::Library;
use crate::stages::runs::RacewayCut;
use crate::watch::newly;

/// A raceway with a circuit more in it.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct LaidIn {
    /// The cut through it; none where a diameter is open.
    pub cut: Option<RacewayCut>,
    /// The worst of its checks.
    pub verdict: Verdict,
    /// Its checks.
    pub checks: Vec<Check>,
    /// Checks elsewhere that come to a stop or a caution by it: wires that get too warm, say.
    pub also: Vec<Check>,
    /// The edit that leads the circuit there; none where its way goes from and to other places, and
    /// the picture is all there is.
    pub command: Option<Command>,
}

/// Part `part` of a way, from 1, with a circuit of another way laid into it; none where one of them
/// is not there, or the circuit lies there already.
pub fn laid_in(
    job: &Job,
    library: &Library,
    (way, part): (&WayKey, usize),
    circuit: &CircuitKey,
) -> Option<LaidIn> {
    let own = job.plan.circuits.get(circuit)?;
    let target = job.plan.ways.get(way)?;
    if own.legs.iter().any(|l| l.via.contains(way)) {
        return None;
    }
    // A way beside it from the same place to the same place is left for it.
    let beside = |key: &WayKey| {
        job.plan.ways.get(key).is_some_and(|w| {
            (&w.from, &w.to) == (&target.from, &target.to)
                || (&w.from, &w.to) == (&target.to, &target.from)
        })
    };
    let place = own
        .legs
        .iter()
        .enumerate()
        .find_map(|(k, l)| l.via.iter().position(&beside).map(|at| (k, at)));
    let command = place.map(|(leg, at)| {
        let mut via = own.legs[leg].via.clone();
        via[at] = way.clone();
        Command::Reroute { circuit: circuit.clone(), leg, via }
    });
    let tried = match &command {
        Some(command) => commanded(job, command).ok()?.0,
        None => {
            let mut tried = job.clone();
            let legs = &mut tried.plan.circuits.get_mut(circuit)?.legs;
            let wire = legs.first().map(|l| l.wire.clone()).unwrap_or_default();
            legs.push(Leg::over(wire, vec![way.clone()]));
            tried
        }
    };
    let (before, after) = (evaluate(job, library, &[]), evaluate(&tried, library, &[]));
    let subject = Subject::Way { way: way.clone(), part };
    let checks: Vec<Check> =
        after.checks.iter().filter(|c| c.subject == subject).cloned().collect();
    // The circuit itself is longer than it would be where it only is looked at.
    let of_it = |s: &Subject| {
        command.is_none() && matches!(s, Subject::Circuit { circuit: own, .. } if own == circuit)
    };
    let also = [Verdict::Fail, Verdict::Warn].into_iter().flat_map(|v| newly(&before, &after, v));
    let also = also.map(|stop| stop.check).filter(|c| c.subject != subject && !of_it(&c.subject));
    Some(LaidIn {
        cut: after.raceway_cuts.iter().find(|c| c.subject == subject).cloned(),
        verdict: checks.iter().map(|c| c.verdict).max().unwrap_or(Verdict::Unknown),
        also: also.collect(),
        checks,
        command,
    })
}

/// A raceway in another size of its kind.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct OtherSize {
    /// The size as a job writes it.
    pub size: String,
    /// How full it is, %; none where a diameter is open.
    pub fill_pct: Option<f64>,
    /// The worst of the checks of the raceway: fill, jam, bends, pull.
    pub verdict: Verdict,
    /// The size it has.
    pub now: bool,
    /// The edit that takes it.
    pub edits: Vec<Edit>,
}

/// The raceway of part `part` of a way, from 1, in the size before, its own, and the size behind.
pub fn other_sizes(
    job: &Job,
    library: &Library,
    (way, part): (&WayKey, usize),
) -> Option<Vec<OtherSize>> {
    let own = job.plan.ways.get(way)?.parts.get(part.checked_sub(1)?)?.raceway.as_ref()?;
    let sizes = choices(job.school).raceways.into_iter().find(|r| r.kind == own.kind)?.sizes;
    let at = sizes.iter().position(|s| *s == own.size)?;
    let subject = Subject::Way { way: way.clone(), part };
    let pointer = format!("/plan/ways/{way}/parts/{}/raceway/size", part - 1);
    let from = at.saturating_sub(1);
    let beside = sizes.iter().enumerate().take(at + 2).skip(from).map(|(i, size)| {
        let edits = vec![Edit::new(pointer.clone(), size.as_str())];
        let report = evaluate(&applied(job, &edits)?, library, &[]);
        let of = |s: &Subject| *s == subject;
        let fill = report.figures.iter().find(|f| f.id == "raceway.fill_pct" && of(&f.subject));
        let raceway = |c: &&Check| of(&c.subject) && c.id.starts_with("raceway.");
        let verdict = report.checks.iter().filter(raceway).map(|c| c.verdict).max();
        Some(OtherSize {
            size: size.clone(),
            fill_pct: fill.and_then(|f| f.value.as_ref()?.number()),
            verdict: verdict.unwrap_or(Verdict::Unknown),
            now: i == at,
            edits,
        })
    });
    beside.collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::{NodeKey, RacewayKind, Way, read};

    #[test]
    fn the_sizes_beside_say_what_they_would_be() {
        let text = include_str!("../../../data/demo/kestrel-lane.json");
        let file = read(text).expect("a demo job").file;
        let of = |part: usize| {
            let all = other_sizes(&file.job, &file.library, (&"DC1".into(), part));
            all.expect("a raceway")
        };
        let [half, now, one] = &of(1)[..] else { panic!("three sizes") };
        assert_eq!((half.size.as_str(), now.size.as_str(), one.size.as_str()), ("1/2", "3/4", "1"));
        assert!(now.now && !one.now);
        // Six wires of 8 AWG at 0.0366 in² and a ground of 10 AWG at 0.0211: 0.2407 in² in 0.533
        // and in 0.864.
        assert!((now.fill_pct.expect("a fill") - 0.2407 / 0.533 * 100.0).abs() < 1e-9);
        assert!((one.fill_pct.expect("a fill") - 0.2407 / 0.864 * 100.0).abs() < 1e-9);
        assert_eq!((now.verdict, one.verdict), (Verdict::Fail, Verdict::Pass));
        assert!(other_sizes(&file.job, &file.library, (&"DC1".into(), 9)).is_none());
    }

    #[test]
    fn a_string_in_the_pipe_of_the_others_fills_it_and_warms_them() {
        let text = include_str!("../../../data/demo/kestrel-lane.json");
        let mut file = read(text).expect("a demo job").file;
        let way: WayKey = "DC1".into();
        let (from, to): (NodeKey, NodeKey) =
            (file.job.plan.ways["DC1"].from.clone(), file.job.plan.ways["DC1"].to.clone());
        // String C lies in a pipe of its own beside the others.
        let parts = file.job.plan.ways["DC1"].parts.clone();
        file.job.plan.ways.insert("DC2".into(), Way::between(from, to, parts));
        file.job.plan.circuits.get_mut("C").expect("C").legs[0].via = vec!["DC2".into()];
        let before = evaluate(&file.job, &file.library, &[]);
        let fill = |checks: &[Check]| -> f64 {
            let own = checks.iter().find(|c| c.id == "raceway.fill_pct").expect("a fill");
            own.limit.as_ref().expect("a limit").value - own.margin.expect("a margin")
        };
        let subject = Subject::Way { way: way.clone(), part: 1 };
        let own: Vec<Check> =
            before.checks.iter().filter(|c| c.subject == subject).cloned().collect();
        let found =
            laid_in(&file.job, &file.library, (&way, 1), &"C".into()).expect("it can be tried");
        assert!(fill(&found.checks) > fill(&own));
        // Four wires and the ground before, six and the ground with it.
        assert_eq!(found.cut.expect("a cut").wires.len(), 7);
        let Some(Command::Reroute { via, .. }) = found.command else {
            panic!("it can be led there")
        };
        assert_eq!(via, std::slice::from_ref(&way));
        assert!(laid_in(&file.job, &file.library, (&way, 1), &"A".into()).is_none(), "it is there");
        // The output’s way begins and ends elsewhere: it is only looked at.
        let looked = laid_in(&file.job, &file.library, (&"AC1".into(), 1), &"A".into());
        let looked = looked.expect("it can be looked at");
        assert!(looked.command.is_none() && looked.cut.is_some());
        let emt =
            |p: &crate::job::Part| p.raceway.as_ref().map(|r| r.kind) == Some(RacewayKind::Emt);
        assert!(file.job.plan.ways["AC1"].parts.iter().all(emt));
    }
}
