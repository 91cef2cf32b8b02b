//! The run schedule: every leg of every circuit with its conductor, and every way with its parts.

use heliant_core::figure::{Figure, Value};
use heliant_core::job::{
    Bend, BendKind, Cable, Circuit, CircuitKey, CircuitKind, End, Insulation, Leg, Material,
    Method, NodeKey, Part, Place, RacewayKind, Way, WireChoice,
};
use heliant_core::quantity::Unit;
use heliant_core::school::School;
use serde_json::{Value as Json, json};

use crate::Pack;
use crate::found::Found;
use crate::printed::{measured, printed, tape, value};

/// A line for each leg of each circuit, the circuits in the order of the current.
pub(crate) fn legs(pack: &Pack, found: &Found) -> Vec<Json> {
    let mut circuits: Vec<_> = pack.job.plan.circuits.iter().collect();
    circuits.sort_by_key(|(_, c)| downstream(c.kind));
    circuits.into_iter().flat_map(|(key, c)| of_circuit(pack, found, key, c)).collect()
}

/// How far down the current a kind of circuit is; what carries none comes last.
fn downstream(kind: CircuitKind) -> u8 {
    match kind {
        CircuitKind::PvString | CircuitKind::MicroBranch => 0,
        CircuitKind::PvOutput => 1,
        CircuitKind::InverterOut => 2,
        CircuitKind::AcFeeder => 3,
        CircuitKind::Bond | CircuitKind::Control => 4,
    }
}

fn of_circuit(pack: &Pack, found: &Found, key: &CircuitKey, circuit: &Circuit) -> Vec<Json> {
    let none = [Leg::default()];
    let legs = if circuit.legs.is_empty() { &none[..] } else { &circuit.legs };
    let line = |(i, leg): (usize, &Leg)| {
        // What is said of a leg stands under it where there are several.
        let figure = |id: &str| -> Option<&Figure> {
            let of_leg = found.figure(id, &format!("{key}/{}", i + 1));
            of_leg.or_else(|| found.figure(id, key.as_str()))
        };
        let of = |ids: &[&str]| {
            let first = ids.iter().find_map(|id| figure(id));
            first.map_or_else(|| "–".to_owned(), |f| value(f.value.as_ref(), f.unit, found.school))
        };
        let device = pack.job.plan.protected_a(circuit);
        json!({
            "circuit": name(&circuit.name, key.as_str()),
            "leg": if legs.len() > 1 { (i + 1).to_string() } else { String::new() },
            "kind": kind(circuit.kind),
            "tape": circuit.from.string.as_ref().or(circuit.from.branch.as_ref())
                .map_or_else(String::new, |letter| tape(pack, letter)),
            "from": end(pack, &circuit.from),
            "to": circuit.to.as_ref().map_or_else(String::new, |to| end(pack, to)),
            "via": leg.via.iter().map(|w| way_name(pack, w.as_str())).collect::<Vec<_>>()
                .join(", "),
            "length": of(&["circuit.length_m"]),
            "wire": match &leg.piece {
                None => wire(pack.job.school, &leg.wire),
                Some(piece) => format!("{}, from {piece}", wire(pack.job.school, &leg.wire)),
            },
            "least": of(&["circuit.size_min"]),
            "earth": of(&["circuit.egc_awg", "circuit.pe_mm2"]),
            "device": device.map_or_else(|| of(&["circuit.ocpd_a"]), |a| printed(a, Unit::A)),
            "amps": of(&["circuit.i_max_a", "circuit.i_design_a"]),
            "drop": of(&["circuit.vdrop_pct"]),
        })
    };
    legs.iter().enumerate().map(line).collect()
}

/// A line for each part of each way, the ways as the current goes down them.
pub(crate) fn ways(pack: &Pack, found: &Found) -> Vec<Json> {
    let route = &pack.report.route.ways;
    let column = |key: &str| {
        let own = route.iter().find(|w| w.way.as_str() == key);
        own.and_then(|w| w.parts.first()).map_or(usize::MAX, |p| p.from)
    };
    let mut ways: Vec<_> = pack.job.plan.ways.iter().collect();
    ways.sort_by_key(|(key, _)| column(key.as_str()));
    let lines = ways.into_iter().flat_map(|(key, way)| {
        let parts = way.parts.iter().enumerate().map(move |(i, part)| {
            let subject = format!("{key}/{}", i + 1);
            let text = |id: &str| {
                let figure = found.figure(id, &subject);
                figure.map_or_else(
                    || "–".to_owned(),
                    |f| value(f.value.as_ref(), f.unit, found.school),
                )
            };
            json!({
                "way": name(&way.name, key.as_str()),
                "from": node_name(pack, &way.from),
                "to": node_name(pack, &way.to),
                "place": part.place.map_or("not said", place),
                "lies": lies(part),
                "length": part
                    .length_m
                    .map_or_else(|| "open".to_owned(), |m| measured(m, Unit::M, found.school)),
                "fill": text("raceway.fill_pct"),
                "bends": bends(part),
                "held": held(found, &subject),
                "pulled": pulled(pack, found, way, &subject),
            })
        });
        parts.collect::<Vec<_>>()
    });
    lines.collect()
}

/// The bends of a part.
fn bends(part: &Part) -> String {
    match part.bends.as_deref() {
        None if part.raceway.is_some() => "not said".to_owned(),
        None | Some([]) => "–".to_owned(),
        Some(all) => all.iter().map(bend).collect::<Vec<_>>().join(", "),
    }
}

fn bend(bend: &Bend) -> String {
    match bend.kind {
        BendKind::Bent => format!("{}°", bend.deg),
        BendKind::Elbow => format!("{}° elbow", bend.deg),
        BendKind::Body => format!("{}° body", bend.deg),
    }
}

/// What holds the parts from this one on that are of one kind and size.
fn held(found: &Found, subject: &str) -> String {
    let count = |id: &str, what: &str| {
        let own = found.figure(id, subject)?.value.as_ref()?.number()?;
        Some(format!("{own} {what}"))
    };
    let both = [count("raceway.support_n", "supports"), count("raceway.coupling_n", "couplings")];
    both.into_iter().flatten().collect::<Vec<_>>().join(", ")
}

/// Where the pull that begins with this part is pulled from, and how hard.
fn pulled(pack: &Pack, found: &Found, way: &Way, subject: &str) -> String {
    let text = |id: &str| match found.figure(id, subject)?.value.as_ref()? {
        Value::Text(word) => Some(word.clone()),
        _ => None,
    };
    let Some(direction) = text("raceway.pull_direction") else { return String::new() };
    let (end, tension) = if direction == "reverse" {
        (&way.from, "raceway.pull_tension_reverse_n")
    } else {
        (&way.to, "raceway.pull_tension_n")
    };
    // From body to body the hardest pull is shown, which ends at no node.
    let parts = way.parts.iter().flat_map(|p| p.bends.iter().flatten());
    let place = match parts.filter(|b| b.kind == BendKind::Body).count() {
        0 => format!("at {}", node_name(pack, end)),
        n => format!("{} pulls, the hardest", n + 1),
    };
    let left = found.value_of("raceway.draw_wire_m", subject);
    format!("{place}, {}; leave a draw wire of {left}", found.value_of(tension, subject))
}

fn name(name: &str, key: &str) -> String {
    if name.is_empty() { key.to_owned() } else { name.to_owned() }
}

fn way_name(pack: &Pack, key: &str) -> String {
    let way = pack.job.plan.ways.iter().find(|(k, _)| k.as_str() == key);
    way.map_or_else(|| key.to_owned(), |(_, way)| name(&way.name, key))
}

fn node_name(pack: &Pack, key: &NodeKey) -> String {
    let node = pack.job.plan.nodes.get(key);
    node.map_or_else(|| key.to_string(), |node| name(&node.name, key.as_str()))
}

fn end(pack: &Pack, end: &End) -> String {
    let named = [
        end.string.as_ref().map(|s| format!("string {s}")),
        end.branch.as_ref().map(|b| format!("branch {b}")),
        end.inverter.as_ref().map(|i| format!("inverter {i}")),
        end.node.as_ref().map(|n| node_name(pack, n)),
    ];
    named.into_iter().flatten().next().unwrap_or_default()
}

fn kind(kind: CircuitKind) -> &'static str {
    match kind {
        CircuitKind::PvString => "PV string",
        CircuitKind::PvOutput => "PV output",
        CircuitKind::InverterOut => "Inverter output",
        CircuitKind::MicroBranch => "Branch",
        CircuitKind::AcFeeder => "AC feeder",
        CircuitKind::Bond => "Bonding",
        CircuitKind::Control => "Control",
    }
}

/// A conductor as it is written on a drum.
fn wire(school: School, wire: &WireChoice) -> String {
    match school {
        School::Na => {
            let Some(awg) = &wire.awg else { return "open".to_owned() };
            let metal = match wire.material {
                Material::Cu => "copper",
                Material::Al => "aluminium",
            };
            let insulation = match wire.insulation {
                Insulation::Thwn2 => "THWN-2",
                Insulation::Xhhw2 => "XHHW-2",
                Insulation::Use2 => "USE-2",
                Insulation::Thwn => "THWN",
                Insulation::Thhn => "THHN",
                Insulation::Pv => "PV wire",
                Insulation::Nm => "NM",
            };
            // Above 4/0 sizes are in thousands of circular mils.
            let large = awg.parse::<u32>().is_ok_and(|n| n >= 250);
            let size = if large { format!("{awg} kcmil") } else { format!("AWG {awg}") };
            format!("{size} {metal} {insulation}")
        }
        School::Iec => {
            let Some(mm2) = wire.mm2 else { return "open".to_owned() };
            let cable = match wire.cable {
                Cable::Solar => "solar cable",
                Cable::Pvc70 => "PVC 70 °C",
                Cable::Xlpe90 => "XLPE 90 °C",
            };
            format!("{mm2} mm² {cable}")
        }
    }
}

fn lies(part: &Part) -> String {
    match part.method {
        Method::Cable => "cable".to_owned(),
        Method::FreeAir => "free air".to_owned(),
        Method::Raceway => part.raceway.as_ref().map_or_else(
            || "raceway, size open".to_owned(),
            |r| {
                let kind = match r.kind {
                    RacewayKind::Emt => "EMT",
                    RacewayKind::Rmc => "RMC",
                    RacewayKind::Imc => "IMC",
                    RacewayKind::Pvc40 => "PVC schedule 40",
                    RacewayKind::Pvc80 => "PVC schedule 80",
                    RacewayKind::Fmc => "FMC",
                    RacewayKind::Lfmc => "LFMC",
                    RacewayKind::Medium => "conduit, medium duty",
                    RacewayKind::Heavy => "conduit, heavy duty",
                };
                let unit = if r.kind.school() == School::Iec { " mm" } else { " in" };
                format!("{kind} {}{unit}", r.size)
            },
        ),
    }
}

fn place(place: Place) -> &'static str {
    match place {
        Place::UnderModules => "under the modules",
        Place::RoofSun => "roof, sun",
        Place::RoofShade => "roof, shade",
        Place::Attic => "attic or loft",
        Place::Inside => "inside",
        Place::Cavity => "cavity wall",
        Place::Garage => "garage",
        Place::OutsideWallSun => "outside wall, sun",
        Place::OutsideWallShade => "outside wall, shade",
        Place::Sheltered => "sheltered",
        Place::Underground => "in the ground",
    }
}

#[cfg(test)]
mod tests {
    use heliant_core::evaluate_with;
    use heliant_core::figure::Recording;
    use heliant_core::job;

    use super::*;
    use crate::sample::pack_of;

    #[test]
    fn every_leg_and_every_part_has_its_line() {
        for text in [
            include_str!("../../../data/demo/kestrel-lane.json"),
            include_str!("../../../data/demo/quarry-cottage.json"),
        ] {
            let file = job::read(text).expect("a demo job reads").file;
            let all = Recording::Everything;
            let report = evaluate_with(&file.job, &file.library, &file.readings, all);
            let pack = pack_of(&file, &report);
            let found = Found::of(&report);
            let (legs, ways) = (legs(&pack, &found), ways(&pack, &found));
            let plan = &file.job.plan;
            let legs_n: usize = plan.circuits.values().map(|c| c.legs.len().max(1)).sum();
            let parts_n: usize = plan.ways.values().map(|w| w.parts.len()).sum();
            assert_eq!((legs.len(), ways.len()), (legs_n, parts_n));
            let kinds: Vec<&str> = legs.iter().filter_map(|l| l["kind"].as_str()).collect();
            let outputs = kinds.iter().skip_while(|k| **k == kinds[0]);
            assert!(outputs.clone().all(|k| *k != kinds[0]), "strings first: {kinds:?}");
            assert!(ways[0]["from"].as_str().is_some_and(|from| from == "RB"), "{}", ways[0]);
            let power = |l: &&Json| l["kind"] != "Bonding" && l["kind"] != "Control";
            for leg in legs.iter().filter(power) {
                assert!(
                    leg["length"].as_str().is_some_and(|l| l.ends_with(" m") || l.ends_with(" m)")),
                    "{leg}"
                );
                assert!(leg["drop"].as_str().is_some_and(|d| d.ends_with(" %")), "{leg}");
                assert_ne!(leg["from"], "", "{leg}");
            }
        }
    }

    #[test]
    fn the_schedule_says_what_holds_a_way_and_where_it_is_pulled() {
        let text = include_str!("../../../data/demo/kestrel-lane.json");
        let file = job::read(text).expect("a demo job reads").file;
        let report = evaluate_with(&file.job, &file.library, &[], Recording::Nothing);
        let pack = pack_of(&file, &report);
        let found = Found::of(&report);
        let ways = ways(&pack, &found);
        let of = |way: &str| {
            ways.iter().find(|w| w["way"] == way).unwrap_or_else(|| panic!("no {way}: {ways:?}"))
        };
        let dc = of("Roof box to inverter");
        // Attic and cavity are 15.5 m of one size: 1 + ceil((15.5 - 1.828) / 3.05), and
        // ceil(15.5 / 3.048) - 1.
        assert_eq!((&dc["held"], &dc["bends"]), (&json!("6 supports, 5 couplings"), &json!("90°")));
        assert!(dc["pulled"].as_str().is_some_and(|p| p.starts_with("at INV1, 254 N")), "{dc}");
        assert_eq!(of("Inverter to panel")["bends"], "90°, 90°");
        let legs = legs(&pack, &found);
        assert_eq!(legs[0]["tape"], "blue", "{}", legs[0]);
    }

    #[test]
    fn conductors_are_written_as_on_the_drum() {
        let large = WireChoice { awg: Some("350".to_owned()), ..WireChoice::default() };
        assert_eq!(wire(School::Na, &large), "350 kcmil copper THWN-2");
        let small = WireChoice { awg: Some("4/0".to_owned()), ..WireChoice::default() };
        assert_eq!(wire(School::Na, &small), "AWG 4/0 copper THWN-2");
        let metric = WireChoice { mm2: Some(2.5), ..WireChoice::default() };
        assert_eq!(wire(School::Iec, &metric), "2.5 mm² solar cable");
        assert_eq!(wire(School::Iec, &small), "open");
    }
}
