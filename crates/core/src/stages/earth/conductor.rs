//! Bonding conductors that are planned as circuits of their own: by the devices of what they bond,
//! by the rule for conductors that lie open, and to an electrode by the service.

use super::checks::{EXPOSED_AWG, frame_bond};
use crate::figure::{Assumption, Bound, Handle, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{Circuit, CircuitKind, Leg, Material, NodeKey, NodeKind, Place};
use crate::plan::PlanFound;
use crate::quantity::{SquareMillimetres, above, below};
use crate::registry::Bench;
use crate::school::School;
use crate::stages::runs::RunsFound;
use crate::tables;

figures! { Earth;
    /// A bonding conductor.
    BOND: SquareMillimetres = "bond.section_mm2",
        "Section of the bonding conductor", na "250.120(C), 250.122", iec "IEC 60364-7-712";
    /// What it has to be.
    NEEDED: SquareMillimetres = "bond.least_mm2",
        "Section the bonding conductor needs", na "250.102(D), 250.120(C)", iec "IEC 60364-7-712";
    /// A conductor to an electrode.
    TO_ELECTRODE: Rule = "bond.to_electrode",
        "Conductor to the electrode", na "250.66", iec "IEC 60364-5-54";
}

/// What kind of electrode it is, nobody said.
static ROD: Assumption = Assumption {
    key: "electrode_rod",
    text: "The electrode is a rod, a pipe or a plate: 6 AWG of copper is enough for it.",
};

/// To a rod no more is asked than this, AWG (250.66(A)).
const ROD_AWG: &str = "6";
/// The least to any, AWG (250.66).
const LEAST_AWG: &str = "8";
/// The largest main that it surely serves, A: with a service of 2 AWG of copper or thinner.
const LEAST_SERVES_A: f64 = 100.0;
/// Aluminium serves in the place of copper two sizes thinner (250.66, 250.122).
const AL_BY_CU: f64 = 1.589;
/// The thinnest earth wire, AWG (250.122).
const THINNEST_AWG: &str = "14";

pub(super) fn of_job(bench: &Bench, sheet: &mut Sheet) {
    let plan = bench.found.get::<PlanFound>();
    for (key, circuit) in plan.plan.circuits.iter().filter(|(_, c)| c.kind == CircuitKind::Bond) {
        sheet.subject = Subject::circuit(key);
        conductor(bench, plan, sheet, circuit);
    }
}

fn conductor(bench: &Bench, plan: &PlanFound, sheet: &mut Sheet, circuit: &Circuit) {
    let school = sheet.school;
    let copper = |l: &Leg| {
        let section = school.section_mm2(&l.wire.size(school)?)?;
        Some(if l.wire.material == Material::Al { section / AL_BY_CU } else { section })
    };
    let sizes: Option<Vec<f64>> = circuit.legs.iter().map(copper).collect();
    let own = sizes.and_then(|s| s.into_iter().reduce(f64::min));
    let section =
        sheet.figure(&BOND, |w| w.need("thinnest leg, copper", own, school.wire_field(), "job"));
    let ends: Vec<&NodeKey> = circuit.ends().filter_map(|e| plan.node_at(e)).collect();
    let kind = |n: &NodeKey| plan.plan.nodes.get(n).map(|n| n.kind);
    if school == School::Na && ends.iter().any(|n| kind(n) == Some(NodeKind::Electrode)) {
        to_electrode(plan, sheet, &ends, own);
        return;
    }
    let least = match school {
        School::Na => na(bench, plan, sheet, circuit, &ends, own),
        School::Iec => {
            let least = frame_bond(bench.job).and_then(|s| school.section_mm2(&s));
            let field = "protection.lightning_protection";
            sheet.figure(&NEEDED, |w| w.need("of frames", least, field, "IEC 60364-7-712"))
        }
    };
    sheet
        .hold(&section, Bound::at_least(&least, "asked of it"), Verdict::Fail)
        .beyond(|short| format!("{short} too thin for what it bonds, or for where it lies."))
        .cure("A thicker conductor, or one in a raceway.", Vec::new());
}

/// As large as the earth wires of the circuits that come to what it bonds (250.122), and 6 AWG
/// where it can be hit (250.120(C)).
fn na(
    bench: &Bench,
    plan: &PlanFound,
    sheet: &mut Sheet,
    circuit: &Circuit,
    ends: &[&NodeKey],
    own: Option<f64>,
) -> Handle<SquareMillimetres> {
    let earths = &bench.found.get::<RunsFound>().needed_earths;
    let there = plan
        .plan
        .circuits
        .iter()
        .filter(|(_, c)| c.kind.is_power() && plan.nodes_on(c).any(|n| ends.contains(&n)));
    let sized = there.map(|(key, _)| School::Na.section_mm2(earths.get(key)?.as_deref()?));
    let sized: Option<Vec<f64>> = sized.collect();
    let awg = |size| tables::wire(size).map_or(0.0, |w| w.section_mm2());
    let by_device = sized.map(|all| all.into_iter().fold(awg(THINNEST_AWG), f64::max));
    let open = awg(EXPOSED_AWG);
    // One that is thick enough for either place needs none.
    let hit = match open_to_harm(plan, circuit) {
        None if own.is_some_and(|own| !below(own, open)) => Some(true),
        said => said,
    };
    sheet.figure(&NEEDED, |w| {
        let by_device = w.need::<SquareMillimetres>(
            "largest earth wire of the circuits there",
            by_device,
            "circuit.ocpd_a",
            "250.122",
        );
        let Some(hit) = hit else {
            w.lack("way.parts.place");
            return None;
        };
        let by_device = by_device?;
        Some(if hit {
            by_device.max(w.given(
                "6 AWG where it lies open",
                SquareMillimetres(open),
                "250.120(C)",
            ))
        } else {
            by_device
        })
    })
}

/// Whether it lies open where it can be hit: not in a raceway, nor in a hollow space; none where
/// nobody said the place.
fn open_to_harm(plan: &PlanFound, circuit: &Circuit) -> Option<bool> {
    let mut parts = plan.ways(circuit).flat_map(|w| &w.parts).peekable();
    // A conductor without a way lies nobody knows where.
    let mut known = parts.peek().map(|_| false);
    for part in parts.filter(|p| p.raceway.is_none()) {
        match part.place {
            Some(Place::Cavity | Place::Attic) => {}
            Some(_) => return Some(true),
            None => known = None,
        }
    }
    known
}

/// 6 AWG serves a rod whatever the service; 8 AWG a small service only.
fn to_electrode(plan: &PlanFound, sheet: &mut Sheet, ends: &[&NodeKey], own: Option<f64>) {
    sheet.assume(&ROD);
    let awg = |size| tables::wire(size).map_or(0.0, |w| w.section_mm2());
    let main = ends.iter().find_map(|n| plan.plan.nodes.get(*n)?.panel.as_ref()?.main_a);
    let (verdict, missing) = match own {
        None => (Verdict::Unknown, School::Na.wire_field()),
        Some(own) if !below(own, awg(ROD_AWG)) => (Verdict::Pass, ""),
        Some(own) if below(own, awg(LEAST_AWG)) => (Verdict::Fail, ""),
        Some(_) => match main {
            None => (Verdict::Unknown, "panel.main_a"),
            Some(a) if above(a, LEAST_SERVES_A) => (Verdict::Warn, ""),
            Some(_) => (Verdict::Pass, ""),
        },
    };
    sheet
        .judge(&TO_ELECTRODE, verdict)
        .misses((!missing.is_empty()).then_some(missing))
        .found(match verdict {
            Verdict::Warn => "8 AWG serves a service of up to 2 AWG of copper only.",
            _ => "An electrode conductor is 8 AWG or thicker.",
        })
        .cure("6 AWG of copper to the electrode.", Vec::new());
}
