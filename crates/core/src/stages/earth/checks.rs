//! What is asked of the bonding graph: every metal part comes to an electrode, conductors are large
//! enough where they are exposed, an out-building has an electrode of its own.

use std::collections::HashMap;

use super::graph::{BondEdge, Bonding, MetalPart, PartKind};
use crate::figure::{Check, Sheet, Subject, Value, Verdict};
use crate::figures;
use crate::job::{Edit, Job, NodeKey, NodeKind, Place};
use crate::plan::PlanFound;
use crate::quantity::{Unit, below};
use crate::registry::Bench;
use crate::school::School;

figures! { Earth;
    /// Whether a metal part comes to an electrode.
    REACHES: Rule = "earth.reaches",
        "Bonded to the electrode", na "690.43, 250.4", iec "IEC 60364-4-41";
    /// An electrode where the supply comes in.
    ELECTRODE: Rule = "earth.electrode", "Earth electrode", na "690.47, 250.50",
        iec "IEC 60364-5-54";
    /// An electrode of an out-building.
    OUT_BUILDING: Rule = "earth.out_building",
        "Electrode of the out-building", na "250.32", iec "IEC 60364-5-54";
    /// Bonding conductor of frames.
    FRAME_BOND: Size = "earth.frame_bond", "Bonding conductor of the frames", na "250.120(C)",
        iec "IEC 60364-7-712";
    /// How earth wires end in a box.
    JOINT: Rule = "earth.joint", "Where earth wires meet", na "250.148", iec "IEC 60364-5-54";
}

/// The smallest exposed conductor on an array, AWG (250.120(C)).
pub(super) const EXPOSED_AWG: &str = "6";
/// Frames, mm² (IEC 60364-7-712): without and with lightning protection.
const FRAMES_MM2: [f64; 2] = [6.0, 16.0];
/// Earth wires from which on a bar serves better than a crimp.
const MANY: usize = 3;

/// Size of the bonding conductor of frames as it is written; open where it depends on what nobody
/// said.
pub(super) fn frame_bond(job: &Job) -> Option<String> {
    match job.school {
        School::Na => Some(EXPOSED_AWG.to_owned()),
        School::Iec => {
            let own = job.protection.frame_bond_mm2.unwrap_or(FRAMES_MM2[0]);
            let lightning = job.protection.lightning_protection?;
            Some(if lightning { own.max(FRAMES_MM2[1]) } else { own }.to_string())
        }
    }
}

pub(super) fn of_job(bench: &Bench, sheet: &mut Sheet, bonding: &Bonding) {
    let plan = bench.found.get::<PlanFound>();
    if plan.plan.nodes.is_empty() {
        return;
    }
    sheet.subject = Subject::Site;
    let size = sheet.size(&FRAME_BOND, Unit::None, |w| {
        let own = frame_bond(bench.job);
        if own.is_none() {
            w.lack("protection.lightning_protection");
        }
        if let Some(own) = &own {
            w.words("copper", own, "open on the array");
        }
        own.map(|size| Value::Text(format!("{size} {}", bench.job.school.wire_unit())))
    });
    let check = sheet.known(&FRAME_BOND, size.missing().iter().copied());
    if check.verdict == Verdict::Pass && bench.job.protection.lightning_protection == Some(true) {
        lightning(bench, bonding, check);
    }
    electrodes(plan, sheet, bonding);
    let known = bonding.known_ways();
    for part in bonding.parts.iter().filter(|p| p.metal && p.kind != PartKind::Electrode) {
        reaches(bench, sheet, part, known.get(part.key.as_str()) == Some(&true));
    }
    joints(plan, sheet, bonding);
}

/// With lightning protection the frames are bonded by as much all the way (IEC 62305-3).
fn lightning(bench: &Bench, bonding: &Bonding, check: &mut Check) {
    let school = bench.job.school;
    let least = frame_bond(bench.job).and_then(|s| school.section_mm2(&s));
    let (Some(least), School::Iec) = (least, school) else { return };
    let thin = |a: &str, b: &str| {
        let between = |e: &&BondEdge| (e.from == a && e.to == b) || (e.from == b && e.to == a);
        let mut own = bonding.edges.iter().filter(between);
        !own.any(|e| {
            let size = e.size.as_ref().and_then(|s| school.section_mm2(s));
            size.is_some_and(|s| !below(s, least))
        })
    };
    let frames = bonding.parts.iter().filter(|p| p.kind == PartKind::Frames);
    let any = frames
        .into_iter()
        .any(|p| bonding.path(p).windows(2).any(|pair| thin(&pair[0].key, &pair[1].key)));
    if any {
        check.verdict = Verdict::Unknown;
        check.misses(["way.earth"]).reason(format_args!(
            "No conductor of {least} mm² is planned the whole way from the frames to the earth; \
             none is needed where the separation distance is kept."
        ));
    }
}

/// An electrode somewhere, and one of its own in each other building.
fn electrodes(plan: &PlanFound, sheet: &mut Sheet, bonding: &Bonding) {
    sheet.subject = Subject::Site;
    let rooted = |p: &MetalPart| p.verdict == Verdict::Pass;
    let said = plan.plan.nodes.values().filter(|n| n.kind == NodeKind::Panel);
    let said: Vec<Option<bool>> =
        said.map(|n| n.earthed.as_ref().and_then(|e| e.electrode)).collect();
    let verdict = if bonding.parts.iter().any(rooted) {
        Verdict::Pass
    } else if said.contains(&None) || said.is_empty() {
        Verdict::Unknown
    } else {
        Verdict::Fail
    };
    sheet
        .judge(&ELECTRODE, verdict)
        .misses(["node.earthed.electrode"])
        .found("No panel is said to have one, and none is planned.")
        .cure("An electrode with its conductor to the panel.", Vec::new());
    let at_electrodes = bonding.cases_at_electrodes();
    for (key, node) in &plan.plan.nodes {
        let said = node.earthed.as_ref();
        let out = match said.and_then(|e| e.out_building) {
            // What is fed through the ground may stand in another building.
            None if node.kind == NodeKind::Panel && through_the_ground(plan, key) => None,
            None | Some(false) => continue,
            is => is,
        };
        sheet.subject = Subject::Node { node: key.clone() };
        let near = at_electrodes.contains(super::graph::case(key).as_str());
        let electrode = if near { Some(true) } else { said.and_then(|e| e.electrode) };
        let (verdict, missing) = match (electrode, out) {
            (Some(true), _) => (Verdict::Pass, None),
            (None, _) => (Verdict::Unknown, Some("node.earthed.electrode")),
            (Some(false), None) => (Verdict::Unknown, Some("node.earthed.out_building")),
            (Some(false), Some(_)) => (Verdict::Fail, None),
        };
        sheet
            .judge(&OUT_BUILDING, verdict)
            .misses(missing)
            .found("A panel in another building has an electrode of its own there.")
            .cure("An electrode at the building.", Vec::new());
    }
}

/// Whether a circuit leads on from a panel through the ground.
fn through_the_ground(plan: &PlanFound, panel: &NodeKey) -> bool {
    let ac = plan.out_of_node(panel).iter().map(|at| plan.circuit(*at));
    let ac = ac.filter(|c| c.kind.is_ac());
    ac.flat_map(|c| plan.ways(c))
        .flat_map(|w| &w.parts)
        .any(|p| p.place == Some(Place::Underground))
}

/// `known`: all that joins it to the electrode is known.
fn reaches(bench: &Bench, sheet: &mut Sheet, part: &MetalPart, known: bool) {
    sheet.subject = part.subject.clone();
    let open = match part.kind {
        PartKind::Frames => "rails.clamps_bond",
        PartKind::Units => "unit.mount_bonds",
        _ => "node.earthed.electrode",
    };
    // What keeps it open lies on its way: frames, units, or the end of it.
    let missing = match part.verdict {
        Verdict::Unknown if known => "node.earthed.electrode",
        _ => open,
    };
    let edits = match &part.subject {
        Subject::Node { node } => {
            let said = bench.job.plan.nodes.get(node).and_then(|n| n.earthed.as_ref());
            let loose = said.is_some_and(|e| e.bonded == Some(false));
            let at = format!("/plan/nodes/{node}/earthed/bonded");
            loose.then(|| Edit::new(at, true))
        }
        Subject::Face { face } => {
            let led = bench.job.roof.get(face).and_then(|m| m.rails.bonded);
            let at = format!("/roof/{face}/rails/bonded");
            (led == Some(false)).then(|| Edit::new(at, true))
        }
        _ => None,
    };
    let cure = match part.kind {
        PartKind::Frames => "A bonding conductor from its lugs to the box.",
        PartKind::Units => "A washer that bites, or a conductor from case to rail.",
        PartKind::Raceway => "Its fittings in cases of metal, or a bonding bushing.",
        _ => "A conductor from its case to the earth wire.",
    };
    sheet
        .judge(&REACHES, part.verdict)
        .misses([missing])
        .found("Nothing joins it to the electrode: one fault, and who touches it stands at mains.")
        .cure(cure, edits.into_iter().collect());
}

/// Where several earth wires meet, a bar is easier to service than a crimp.
fn joints(plan: &PlanFound, sheet: &mut Sheet, bonding: &Bonding) {
    let mut wires: HashMap<&str, usize> = HashMap::new();
    let wired = bonding.edges.iter().filter(|e| e.by != super::graph::BondBy::Fittings);
    for end in wired.flat_map(|e| [e.from.as_str(), e.to.as_str()]) {
        *wires.entry(end).or_default() += 1;
    }
    for (key, node) in &plan.plan.nodes {
        let wired = wires.get(super::graph::case(key).as_str()).copied().unwrap_or(0);
        let box_like = matches!(
            node.kind,
            NodeKind::RoofBox | NodeKind::JunctionBox | NodeKind::Combiner | NodeKind::Enclosure
        );
        let Some(bar) = node.earthed.as_ref().and_then(|e| e.bar) else { continue };
        if !box_like || wired < MANY {
            continue;
        }
        sheet.subject = Subject::Node { node: key.clone() };
        let verdict = if bar { Verdict::Pass } else { Verdict::Warn };
        sheet
            .judge(&JOINT, verdict)
            .found(format_args!("{wired} earth wires in one crimp: it is cut to add another."))
            .cure(
                "A bar for the earth wires.",
                vec![Edit::new(format!("/plan/nodes/{key}/earthed/bar"), true)],
            );
    }
}
