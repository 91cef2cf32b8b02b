//! The pages of the roof map as the template reads them: joins and tails, what is cut, where boxes
//! sit, the grid of serial numbers.

use std::collections::BTreeMap;

use heliant_core::job::{FaceMap, ModuleKey, Placed};
use heliant_core::quantity::Unit;
use heliant_core::school::School;
use heliant_core::stages::roof::{Map, RoofFace, RoofTail};
use serde_json::{Value as Json, json};

use crate::Pack;
use crate::found::Found;
use crate::printed::{measured, tape, value};

/// Modules whose lower edges are closer than this are in one row, mm.
const ROW_MM: f64 = 200.0;

/// Every face that has a map.
pub(crate) fn faces(pack: &Pack, found: &Found) -> Vec<Json> {
    let map = Map::of(pack.job, pack.library);
    let none = FaceMap::default();
    let each = pack.report.roof.iter().map(|face| {
        let own = pack.job.roof.get(&face.face).unwrap_or(&none);
        json!({
            "name": face.name,
            "facts": facts(face, found),
            "strings": strings(pack, face),
            "grid": grid(&map, own),
        })
    });
    each.collect()
}

fn metres(m: f64, school: School) -> String {
    measured(m, Unit::M, school)
}

/// Figures of a face that are there, with their titles.
fn facts(face: &RoofFace, found: &Found) -> Vec<Json> {
    let ids = [
        "face.modules_n",
        "route.wire_m",
        "rail.length_m",
        "rail.attachments_n",
        "rail.splices_n",
        "rail.mid_clamps_n",
        "rail.end_clamps_n",
        "face.weight_kg",
        "attachment.weight_kg",
        "face.dead_load_kg_m2",
        "bond.lugs_n",
        "bond.conductor_m",
        "bond.single_use_n",
        "row.gap_m",
        "row.gap_min_m",
        "row.shaded_h",
    ];
    let key = face.face.as_str();
    let figures = ids.iter().filter_map(|id| found.figure(id, key));
    let mut facts: Vec<Json> = figures
        .map(
            |f| json!({ "title": f.title, "value": value(f.value.as_ref(), f.unit, found.school) }),
        )
        .collect();
    if let Some([x, y]) = face.box_mm {
        let node = face.node.as_ref().map_or("Box", |n| n.as_str());
        let [x, y] = [x, y].map(|mm| metres(mm / 1000.0, found.school));
        let value = format!("{x} from the left end of the eave, {y} up the slope");
        facts.push(json!({ "title": node, "value": value }));
    }
    facts
}

fn strings(pack: &Pack, face: &RoofFace) -> Vec<Json> {
    let school = pack.job.school;
    let lines = face.strings.iter().map(|s| {
        let own = pack.job.strings.iter().find(|o| o.letter == s.letter);
        let turned = own.map_or(0, |own| {
            let lies = |m: &&ModuleKey| {
                let face = pack.job.roof.get(&own.face);
                face.and_then(|f| f.modules.get(*m)).is_some_and(|p| p.turned)
            };
            own.modules.iter().filter(lies).count()
        });
        let jumpers = s
            .jumpers
            .iter()
            .map(|j| format!("{} behind {}{}", metres(j.m, school), s.letter, j.place));
        let tail = |tail: &Option<RoofTail>| {
            tail.as_ref().map_or_else(|| "open".to_owned(), |t| metres(t.wire_m, school))
        };
        json!({
            "letter": s.letter,
            "tape": tape(pack, &s.letter),
            "n": own.map_or(0, |o| o.modules.len()),
            "turned": turned,
            "jumpers": jumpers.collect::<Vec<_>>().join(", "),
            "plus": tail(&s.tail_plus),
            "minus": tail(&s.tail_minus),
        })
    });
    lines.collect()
}

/// What is cut for the map: jumpers by length, pieces of trunk, bridges.
pub(crate) fn cuts(pack: &Pack) -> Vec<Json> {
    let (faces, school) = (&pack.report.roof, pack.job.school);
    // By whole millimetres: lengths of stock are told apart by them.
    let mut jumpers: BTreeMap<u64, usize> = BTreeMap::new();
    for j in faces.iter().flat_map(|f| &f.strings).flat_map(|s| &s.jumpers) {
        *jumpers.entry((j.m * 1000.0).round() as u64).or_default() += 1;
    }
    let mut lines: Vec<Json> = jumpers
        .iter()
        .map(|(mm, n)| {
            let m = metres(*mm as f64 / 1000.0, school);
            json!({ "what": "Jumper", "n": n, "m": m, "about": "" })
        })
        .collect();
    for t in faces.iter().flat_map(|f| &f.trunks) {
        lines.extend(t.pieces.iter().map(|p| {
            let about = format!("branch {}, {} drops", t.letter, p.drops_n);
            json!({ "what": "Trunk cable", "n": 1, "m": metres(p.m, school), "about": about })
        }));
        lines.extend(t.bridges.iter().map(|b| {
            let about = format!("behind {}{}, with a connector pair", t.letter, b.place);
            let m = metres(b.m, school);
            json!({ "what": "Field-wired bridge", "n": 1, "m": m, "about": about })
        }));
    }
    lines
}

/// Rows from the ridge down, each from left to right: what a module is called, and its serial.
fn grid(map: &Map, own: &FaceMap) -> Vec<Vec<Json>> {
    let mut all: Vec<(&ModuleKey, &Placed)> = own.modules.iter().collect();
    all.sort_by(|a, b| b.1.y_mm.total_cmp(&a.1.y_mm));
    let mut rows: Vec<Vec<(&ModuleKey, &Placed)>> = Vec::new();
    for m in all {
        match rows.last_mut() {
            Some(row) if row[0].1.y_mm - m.1.y_mm < ROW_MM => row.push(m),
            _ => rows.push(vec![m]),
        }
    }
    for row in &mut rows {
        row.sort_by(|a, b| a.1.x_mm.total_cmp(&b.1.x_mm));
    }
    let cell = |(key, placed): &(&ModuleKey, &Placed)| {
        let serial = placed.serial.as_deref().unwrap_or_default();
        json!({ "name": map.name(key), "serial": serial })
    };
    rows.iter().map(|row| row.iter().map(cell).collect()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sample::pack_of;
    use heliant_core::evaluate;
    use heliant_core::job::{self, JobFile};

    fn of(file: &JobFile, read: impl Fn(&Pack) -> Json) -> Json {
        let report = evaluate(&file.job, &file.library, &[]);
        read(&pack_of(file, &report))
    }

    fn demo(text: &str) -> JobFile {
        job::read(text).expect("the demo job reads").file
    }

    #[test]
    fn the_pages_of_a_face_have_its_strings_its_facts_and_its_grid() {
        let mut file = demo(include_str!("../../../data/demo/kestrel-lane.json"));
        let sw = file.job.roof.get_mut("sw").expect("sw");
        sw.modules.get_mut("sw-008").expect("B1").serial = Some("BM4300001".into());
        // C2 to C3 with a jumper of a metre.
        file.job.strings[2].jumpers.insert("sw-002".into(), 1.0);
        let pages = of(&file, |p| faces(p, &Found::of(p.report)).into());
        let sw = &pages[1];
        assert_eq!(sw["name"], "south-west");
        let b = &sw["strings"][0];
        assert_eq!((b["letter"].as_str(), b["turned"].as_u64()), (Some("B"), Some(1)));
        assert_eq!(sw["strings"][1]["jumpers"], "3.3 ft (1.00 m) behind C2");
        let fact = |title: &str| {
            let all = sw["facts"].as_array().expect("facts");
            let own = all.iter().find(|f| f["title"] == title);
            own.unwrap_or_else(|| panic!("{title}"))["value"].clone()
        };
        assert_eq!(fact("Attachments"), "32");
        assert_eq!(
            fact("RB"),
            "4.9 ft (1.50 m) from the left end of the eave, 5.2 ft (1.60 m) up the slope"
        );
        // The row at the ridge first, from left to right.
        let grid = sw["grid"].as_array().expect("rows");
        assert_eq!((grid.len(), grid[0].as_array().map(Vec::len)), (2, Some(7)));
        assert_eq!(grid[0][0]["name"], "B1");
        assert_eq!(grid[0][0]["serial"], "BM4300001");
        assert_eq!(grid[1][6]["name"], "C7");
        let cut = of(&file, |p| cuts(p).into());
        assert_eq!(
            cut[0],
            json!({ "what": "Jumper", "n": 1, "m": "3.3 ft (1.00 m)", "about": "" })
        );
    }

    #[test]
    fn trunks_are_cut_into_their_pieces_and_bridges() {
        let file = demo(include_str!("../../../data/demo/pinyon-street.json"));
        let cut = of(&file, |p| cuts(p).into());
        let lines = cut.as_array().expect("lines");
        let of_what = |what: &str| lines.iter().filter(|l| l["what"] == what).count();
        assert_eq!((of_what("Trunk cable"), of_what("Field-wired bridge")), (6, 1));
        // 0.523 + 1.095 - 0.15 of feed and ten sections of 1.3 m.
        assert_eq!(lines[0]["m"], "47.5 ft (14.47 m)");
        assert_eq!(lines[0]["about"], "branch A, 11 drops");
        assert_eq!(lines[6]["about"], "behind C8, with a connector pair");
    }
}
