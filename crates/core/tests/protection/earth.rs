//! The bonding graph: every metal part on its way to the electrode, and the backup alone.

use heliant_core::Report;
use heliant_core::figure::{Value, Verdict};
use heliant_core::job::{
    CircuitKind, Device, DeviceKind, Earthed, End, Job, Material, NodeKind, Place,
};
use heliant_core::stages::earth::{BondBy, MetalPart};

use crate::{
    all, changed, check, cured, kestrel, near, node, number, pinyon, quarry, report, saltmarsh,
    verdict,
};

fn part<'r>(r: &'r Report, key: &str) -> &'r MetalPart {
    let all = &r.bonding.parts;
    all.iter().find(|p| p.key == key).unwrap_or_else(|| panic!("no {key} among {all:?}"))
}

fn path(r: &Report, key: &str) -> Vec<String> {
    r.bonding.path(part(r, key)).iter().map(|p| p.key.clone()).collect()
}

#[test]
fn frames_come_down_by_box_and_inverter_to_the_electrode() {
    let r = report(&kestrel());
    assert_eq!(path(&r, "frames se"), ["frames se", "node RB", "node INV1", "node MP"]);
    assert_eq!(part(&r, "frames se").steps_n, Some(3));
    // Metal raceway on its fittings.
    assert_eq!(path(&r, "way DC1")[0], "way DC1");
    assert!(r.bonding.edges.iter().any(|e| e.by == BondBy::Fittings && e.from == "way DC1"));
    // Open on the array 6 AWG, bare; in the raceway insulated.
    let lugs = r.bonding.edges.iter().find(|e| e.by == BondBy::Lugs).expect("lugs");
    assert_eq!((lugs.size.as_deref(), lugs.insulated), (Some("6"), false));
    let wire = r.bonding.edges.iter().find(|e| e.way.as_deref() == Some("DC1"));
    assert!(wire.is_some_and(|e| e.insulated && e.size.is_some()));
    assert_eq!(verdict(&r, "earth.electrode", "site"), Verdict::Pass);
}

#[test]
fn a_face_without_its_conductor_is_bonded_by_nothing() {
    let mut file = kestrel();
    file.job.roof.get_mut("sw").expect("its map").rails.bonded = Some(false);
    let r = report(&file);
    let own = check(&r, "earth.reaches", "sw");
    assert_eq!(own.verdict, Verdict::Fail);
    assert!(r.bonding.path(part(&r, "frames sw")).len() == 1);
    assert_eq!(verdict(&r, "earth.reaches", "se"), Verdict::Pass, "the other stays");
    assert_eq!(verdict(&report(&cured(&file, own)), "earth.reaches", "sw"), Verdict::Pass);
    // What clamps do is not known: open, and what hangs on it as well.
    let open = changed(pinyon(), |j| {
        for map in j.roof.values_mut() {
            map.rails.clamps_bond = None;
        }
    });
    let own = check(&open, "earth.reaches", "e");
    assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "rails.clamps_bond"));
    assert_eq!(verdict(&open, "earth.reaches", "A"), Verdict::Unknown, "units on those rails");
}

#[test]
fn a_case_off_the_earth_wire_is_not_earthed_but_passes_it_on() {
    let mut file = kestrel();
    node(&mut file.job, "RB").earthed = Some(Earthed { bonded: Some(false), ..Earthed::default() });
    let r = report(&file);
    let own = check(&r, "earth.reaches", "RB");
    assert_eq!(own.verdict, Verdict::Fail);
    assert_eq!(verdict(&r, "earth.reaches", "se"), Verdict::Pass, "the wire goes through it");
    assert_eq!(verdict(&report(&cured(&file, own)), "earth.reaches", "RB"), Verdict::Pass);
    // Nobody said it of the others: a habit that is listed.
    let habit = r.assumptions.iter().find(|a| a.key == "cases_bonded").expect("it is said");
    assert!(habit.subjects.iter().any(|s| s.to_string() == "INV1"));
    assert!(habit.subjects.iter().all(|s| s.to_string() != "RB"));
}

#[test]
fn units_are_bonded_by_their_mount_where_the_sheet_says_so() {
    let mut file = pinyon();
    let said = |file: &heliant_core::job::JobFile| verdict(&report(file), "earth.reaches", "A");
    assert_eq!(said(&file), Verdict::Pass);
    file.library.micros[0].mount_bonds = None;
    let r = report(&file);
    let own = check(&r, "earth.reaches", "A");
    assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "unit.mount_bonds"));
    file.library.micros[0].mount_bonds = Some(false);
    assert_eq!(said(&file), Verdict::Fail);
}

#[test]
fn an_electrode_nobody_spoke_of_leaves_everything_open() {
    let mut file = kestrel();
    node(&mut file.job, "MP").earthed = None;
    let r = report(&file);
    assert_eq!(verdict(&r, "earth.electrode", "site"), Verdict::Unknown);
    let own = check(&r, "earth.reaches", "INV1");
    assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "node.earthed.electrode"));
    node(&mut file.job, "MP").earthed =
        Some(Earthed { electrode: Some(false), ..Earthed::default() });
    let r = report(&file);
    assert_eq!(verdict(&r, "earth.electrode", "site"), Verdict::Fail);
    assert_eq!(verdict(&r, "earth.reaches", "INV1"), Verdict::Fail);
}

#[test]
fn an_out_building_has_an_electrode_of_its_own() {
    let out = |electrode: Option<bool>| {
        changed(saltmarsh(), |j| {
            node(j, "ACP").earthed =
                Some(Earthed { out_building: Some(true), electrode, ..Earthed::default() });
        })
    };
    assert_eq!(verdict(&out(Some(true)), "earth.out_building", "ACP"), Verdict::Pass);
    assert_eq!(verdict(&out(Some(false)), "earth.out_building", "ACP"), Verdict::Fail);
    assert_eq!(verdict(&out(None), "earth.out_building", "ACP"), Verdict::Unknown);
    // Nobody said where a panel stands that is fed through the ground: with an electrode it holds
    // in either case, without one it is open; one above the ground is not asked.
    let unsaid = |electrode: bool, place: Place| {
        changed(saltmarsh(), |j| {
            let electrode = Some(electrode);
            node(j, "ACP").earthed = Some(Earthed { electrode, ..Earthed::default() });
            j.plan.ways.get_mut("FEED").expect("a way").parts[0].place = Some(place);
        })
    };
    let r = unsaid(true, Place::Underground);
    assert_eq!(verdict(&r, "earth.out_building", "ACP"), Verdict::Pass);
    let r = unsaid(false, Place::Underground);
    let own = check(&r, "earth.out_building", "ACP");
    assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "node.earthed.out_building"));
    assert!(unsaid(false, Place::Inside).check("earth.out_building", "ACP").is_none());
}

/// A bonding conductor of Kestrel Lane between two nodes, in a way of one part.
fn bond(j: &mut Job, from: &str, to: &str, awg: &str, place: Option<Place>) {
    let mut way = j.plan.ways["AC1"].clone();
    (way.from, way.to) = (from.into(), to.into());
    way.parts.truncate(1);
    (way.parts[0].place, way.parts[0].raceway) = (place, None);
    j.plan.ways.insert("BOND".into(), way);
    let mut circuit = j.plan.circuits["AC1"].clone();
    circuit.kind = CircuitKind::Bond;
    circuit.from = End { node: Some(from.into()), ..End::default() };
    circuit.to = Some(End { node: Some(to.into()), ..End::default() });
    circuit.legs[0].wire.awg = Some(awg.to_owned());
    circuit.legs[0].via = vec!["BOND".into()];
    j.plan.circuits.insert("BOND".into(), circuit);
}

#[test]
fn a_bonding_conductor_goes_by_the_devices_of_what_it_bonds() {
    // To the panel comes 45 A: 10 AWG by 250.122; open on a wall 6 AWG by 250.120(C).
    let with = |awg: &str, place: Option<Place>| {
        let r = changed(kestrel(), |j| bond(j, "INV1", "MP", awg, place));
        check(&r, "bond.section_mm2", "BOND").clone()
    };
    assert_eq!(with("10", Some(Place::Cavity)).verdict, Verdict::Pass);
    assert_eq!(with("12", Some(Place::Cavity)).verdict, Verdict::Fail);
    assert_eq!(with("10", Some(Place::OutsideWallShade)).verdict, Verdict::Fail);
    assert_eq!(with("6", Some(Place::OutsideWallShade)).verdict, Verdict::Pass);
    // In no place that is known: open, unless it is thick enough for either.
    let own = with("10", None);
    assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "way.parts.place"));
    assert_eq!(with("6", None).verdict, Verdict::Pass);
    // One that has no way lies nobody knows where.
    let lost = changed(kestrel(), |j| {
        bond(j, "INV1", "MP", "10", Some(Place::Cavity));
        j.plan.circuits.get_mut("BOND").expect("it").legs[0].via.clear();
    });
    assert_eq!(verdict(&lost, "bond.section_mm2", "BOND"), Verdict::Unknown);
    // Aluminium stands for copper two sizes thinner.
    let aluminium = |awg: &str| {
        let r = changed(kestrel(), |j| {
            bond(j, "INV1", "MP", awg, Some(Place::Cavity));
            j.plan.circuits.get_mut("BOND").expect("it").legs[0].wire.material = Material::Al;
        });
        verdict(&r, "bond.section_mm2", "BOND")
    };
    assert_eq!((aluminium("10"), aluminium("8")), (Verdict::Fail, Verdict::Pass));
    // 6 AWG is 26 240 circular mils: 13.30 mm².
    let r = changed(kestrel(), |j| bond(j, "INV1", "MP", "6", Some(Place::Garage)));
    near(number(&r, "bond.least_mm2", "BOND"), 26_240.0 * 0.000_506_707_479_1);
}

#[test]
fn a_conductor_to_an_electrode_goes_by_the_service() {
    let with = |awg: &str, main_a: Option<f64>| {
        let r = changed(kestrel(), |j| {
            let mut rod = j.plan.nodes["RB"].clone();
            (rod.kind, rod.stand) = (NodeKind::Electrode, None);
            j.plan.nodes.insert("ROD".into(), rod);
            node(j, "MP").panel.as_mut().expect("a panel").main_a = main_a;
            bond(j, "MP", "ROD", awg, Some(Place::OutsideWallShade));
        });
        assert!(r.assumptions.iter().any(|a| a.key == "electrode_rod"));
        check(&r, "bond.to_electrode", "BOND").clone()
    };
    assert_eq!(with("6", Some(200.0)).verdict, Verdict::Pass, "enough for a rod");
    assert_eq!(with("10", Some(100.0)).verdict, Verdict::Fail);
    assert_eq!(with("8", Some(100.0)).verdict, Verdict::Pass);
    assert_eq!(with("8", Some(150.0)).verdict, Verdict::Warn);
    let open = with("8", None);
    assert_eq!((open.verdict, open.missing[0]), (Verdict::Unknown, "panel.main_a"));
}

#[test]
fn frames_are_bonded_thicker_under_lightning_protection() {
    let size = |lightning: Option<bool>, rule: Option<f64>| {
        let r = changed(quarry(), |j| {
            j.protection.lightning_protection = lightning;
            j.protection.frame_bond_mm2 = rule;
        });
        r.figure("earth.frame_bond", "site").and_then(|f| f.value.clone())
    };
    let text = |t: &str| Some(Value::Text(t.to_owned()));
    assert_eq!(size(Some(false), None), text("6 mm²"));
    assert_eq!(size(Some(true), None), text("16 mm²"));
    assert_eq!(size(Some(false), Some(4.0)), text("4 mm²"), "where the local rule says so");
    assert_eq!(size(None, None), None);
}

#[test]
fn a_bonding_conductor_is_thick_enough() {
    // 16 mm² to the electrode against 6 of the frames.
    let r = report(&quarry());
    crate::near(number(&r, "bond.section_mm2", "EARTH"), 16.0);
    assert_eq!(verdict(&r, "bond.section_mm2", "EARTH"), Verdict::Pass);
    let thin = changed(quarry(), |j| {
        j.plan.circuits.get_mut("EARTH").expect("it").legs[0].wire.mm2 = Some(4.0);
    });
    assert_eq!(verdict(&thin, "bond.section_mm2", "EARTH"), Verdict::Fail);
}

#[test]
fn many_earth_wires_in_a_crimp_are_a_caution() {
    let with = |bar: bool| {
        changed(saltmarsh(), |j| {
            node(j, "CB1").kind = heliant_core::job::NodeKind::JunctionBox;
            node(j, "CB1").earthed = Some(Earthed { bar: Some(bar), ..Earthed::default() });
            // A third way comes in.
            let way = j.plan.ways["TO-CB2"].clone();
            let mut way = way;
            way.to = "CB1".into();
            j.plan.ways.insert("TO-CB2".into(), way);
        })
    };
    assert_eq!(verdict(&with(true), "earth.joint", "CB1"), Verdict::Pass);
    assert_eq!(verdict(&with(false), "earth.joint", "CB1"), Verdict::Warn);
}

#[test]
fn the_backup_stands_alone_while_the_grid_is_gone() {
    let r = report(&quarry());
    for id in ["backup.electrode", "backup.neutral", "backup.clears"] {
        assert_eq!(verdict(&r, id, "BB"), Verdict::Pass, "{id}");
    }
    // Its electrode does not serve the rest of the house.
    assert_eq!(path(&r, "node INV1").last().map(String::as_str), Some("node MP"));
    let loose = changed(quarry(), |j| {
        j.plan.circuits.remove("EARTH");
    });
    assert_eq!(verdict(&loose, "backup.electrode", "BB"), Verdict::Fail);
    let floats = changed(quarry(), |j| {
        j.protection.backup.as_mut().expect("it").neutral_earthed = Some(false);
    });
    assert_eq!(verdict(&floats, "backup.neutral", "BB"), Verdict::Fail);
    // Without the residual device 16 A of curve C trip from 160 A; the inverter drives 40.
    let weak = changed(quarry(), |j| {
        node(j, "BB").devices.retain(|k, _| !["RCD", "Q1"].contains(&k.as_str()));
        j.plan.circuits.get_mut("BACKUP").expect("it").to.as_mut().expect("its end").device = None;
    });
    crate::near(number(&weak, "backup.trip_a", "BB"), 160.0);
    assert_eq!(verdict(&weak, "backup.clears", "BB"), Verdict::Fail);
    // A breaker of which nothing is known may be the largest; one without a curve trips at any.
    let open = changed(quarry(), |j| {
        node(j, "BB").devices.retain(|k, _| !["RCD", "Q1"].contains(&k.as_str()));
        j.plan.circuits.get_mut("BACKUP").expect("it").to.as_mut().expect("its end").device = None;
        node(j, "BB").devices.insert("B2".into(), Device::new(DeviceKind::Breaker));
    });
    assert_eq!(verdict(&open, "backup.clears", "BB"), Verdict::Unknown);
    assert_eq!(check(&open, "backup.clears", "BB").missing, ["device.amps_a"]);
    let unsaid = changed(quarry(), |j| {
        *j.protection.backup.as_mut().expect("it") = heliant_core::job::Backup::default();
    });
    assert_eq!(verdict(&unsaid, "backup.electrode", "site"), Verdict::Unknown);
    // A board that a compared route does without.
    let gone = changed(quarry(), |j| {
        j.protection.backup.as_mut().expect("it").board = Some("NOWHERE".into());
    });
    assert_eq!(verdict(&gone, "backup.clears", "site"), Verdict::Unknown);
}

#[test]
fn every_way_to_the_electrode_ends_there() {
    for (name, file) in all() {
        let r = report(&file);
        for p in r.bonding.parts.iter().filter(|p| p.verdict == Verdict::Pass) {
            let path = r.bonding.path(p);
            let steps = p.steps_n.expect("it is reached") as usize;
            assert_eq!(path.len(), steps + 1, "{name}: {}", p.key);
            let last = path.last().expect("itself at least");
            assert_eq!(last.steps_n, Some(0), "{name}: {}", p.key);
            // Each step is along something that is known to join the two.
            for pair in path.windows(2) {
                let joined = r.bonding.edges.iter().any(|e| {
                    let ends = [&e.from, &e.to];
                    e.known && ends.contains(&&pair[0].key) && ends.contains(&&pair[1].key)
                });
                assert!(joined, "{name}: {} to {}", pair[0].key, pair[1].key);
            }
        }
    }
}

#[test]
fn a_residual_device_of_one_load_does_not_clear_the_others() {
    // The feeder comes to the breaker; the residual device stands beside it, behind nothing.
    let to = |device: Option<&str>| {
        changed(quarry(), |j| {
            let feeder = j.plan.circuits.get_mut("BACKUP").expect("it");
            feeder.to.as_mut().expect("an end").device = device.map(Into::into);
        })
    };
    assert_eq!(verdict(&to(Some("RCD")), "backup.clears", "BB"), Verdict::Pass);
    // 40 A alone against 10 x 16 A.
    assert_eq!(verdict(&to(Some("C16")), "backup.clears", "BB"), Verdict::Fail);
    // Where none is named all of the board are on its way.
    assert_eq!(verdict(&to(None), "backup.clears", "BB"), Verdict::Pass);
}

#[test]
fn the_electrode_of_the_backup_is_one_its_board_comes_to() {
    let from = |node: &str| {
        let r = changed(quarry(), |j| {
            let lone = j.plan.nodes["EE"].clone();
            j.plan.nodes.insert("LONE".into(), lone);
            let circuit = j.plan.circuits.get_mut("EARTH").expect("it");
            circuit.from.node = Some(node.into());
        });
        check(&r, "backup.electrode", "BB").clone()
    };
    assert_eq!(from("BB").verdict, Verdict::Pass);
    // By the service's panel: the earth wires of the ways join them.
    assert_eq!(from("MP").verdict, Verdict::Pass);
    assert_eq!(from("LONE").verdict, Verdict::Fail);
}
