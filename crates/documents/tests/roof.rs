//! The roof map as a drawing: read back by its layers and places.

use heliant_core::evaluate;
use heliant_core::job::{self, JobFile};
use heliant_documents::{NoPlace, RoofFormat, roof_geojson, roof_map};

fn kestrel() -> JobFile {
    job::read(include_str!("../../../data/demo/kestrel-lane.json"))
        .expect("the demo job reads")
        .file
}

fn drawn(file: &JobFile, format: RoofFormat) -> String {
    let report = evaluate(&file.job, &file.library, &[]);
    roof_map(&file.job, &file.library, &report, format)
}

/// What stands in a layer of the SVG.
fn group<'t>(svg: &'t str, layer: &str) -> &'t str {
    let from = svg.split_once(&format!("<g id=\"{layer}\"")).expect("the layer").1;
    from.split_once("</g>").expect("its end").0
}

/// An entity of a DXF: kind, layer, and the values of its groups.
type Entity = (String, String, Vec<(u16, String)>);

fn entities(dxf: &str) -> Vec<Entity> {
    let lines: Vec<&str> = dxf.lines().collect();
    assert_eq!(lines.len() % 2, 0, "groups are pairs of lines");
    let pairs = lines.chunks(2).map(|p| (p[0].parse::<u16>().expect("a code"), p[1].to_owned()));
    let from = pairs.skip_while(|(_, v)| v != "ENTITIES").skip(1);
    let mut all: Vec<Entity> = Vec::new();
    for (code, value) in from {
        match (code, all.last_mut()) {
            (0, _) => all.push((value, String::new(), Vec::new())),
            (8, Some(last)) => last.1 = value,
            (_, Some(last)) => last.2.push((code, value)),
            (_, None) => panic!("{code} before any entity"),
        }
    }
    all
}

#[test]
fn every_module_and_lead_is_in_its_layer() {
    let file = kestrel();
    let svg = drawn(&file, RoofFormat::Svg);
    let n = |layer: &str, tag: &str| group(&svg, layer).matches(tag).count();
    assert_eq!(n("face", "<polygon"), 2);
    assert_eq!(n("obstructions", "<polygon"), 1);
    assert_eq!(n("modules", "<polygon"), 26);
    assert_eq!((n("plus", "<circle"), n("minus", "<circle")), (26, 26));
    // 11 joins and two tails; 6 and two.
    assert_eq!(n("string-A", "<polyline"), 13);
    assert_eq!(n("string-B", "<polyline"), 8);
    // 26 modules and two faces have names.
    assert_eq!(n("labels", "<text"), 28);
    assert!(group(&svg, "labels").contains(">south-east</text>"));
    assert!(group(&svg, "string-A").contains("#1F63B0"), "its tape");
}

#[test]
fn a_dxf_has_the_same_things_in_millimetres() {
    let file = kestrel();
    let dxf = drawn(&file, RoofFormat::Dxf);
    let all = entities(&dxf);
    let n = |kind: &str, layer: &str| all.iter().filter(|e| e.0 == kind && e.1 == layer).count();
    assert_eq!(n("POLYLINE", "modules"), 26);
    assert_eq!(n("VERTEX", "modules"), 4 * 26);
    assert_eq!((n("CIRCLE", "plus"), n("CIRCLE", "minus")), (26, 26));
    assert_eq!(n("POLYLINE", "string-A"), 13);
    assert_eq!(n("SEQEND", ""), all.iter().filter(|e| e.0 == "POLYLINE").count());
    assert_eq!(all.last().map(|e| e.0.as_str()), Some("EOF"));
    // The first join of A: + of A1 at 1160 + 816.48, 4092 + 861; - of A2 at 2314 + 317.52.
    // South-east stands first, its eave corner at 0, 0.
    let of_a: Vec<_> = all.iter().filter(|e| e.0 == "VERTEX" && e.1 == "string-A").collect();
    let at = |i: usize| {
        let value = |code| of_a[i].2.iter().find(|(c, _)| *c == code).map(|(_, v)| v.as_str());
        (value(10), value(20))
    };
    assert_eq!(at(0), (Some("1976.48"), Some("4953.00")));
    assert_eq!(at(1), (Some("2631.52"), Some("4953.00")));
    // South-west stands two metres beside it: 9 000 + 2 000, and C1 at 1 200 from its corner.
    let modules: Vec<_> = all.iter().filter(|e| e.0 == "VERTEX" && e.1 == "modules").collect();
    let x = modules[4 * 12].2.iter().find(|(c, _)| *c == 10).map(|(_, v)| v.as_str());
    assert_eq!(x, Some("12200.00"));
}

#[test]
fn names_are_written_so_that_each_format_reads_them() {
    let mut file = kestrel();
    file.job.site.faces[0].name = "a<b & söuth".to_owned();
    assert!(drawn(&file, RoofFormat::Svg).contains(">a&lt;b &amp; söuth</text>"));
    let dxf = drawn(&file, RoofFormat::Dxf);
    assert!(dxf.contains("\na<b & s_uth\n") && dxf.is_ascii());
}

#[test]
fn a_job_without_a_map_is_an_empty_drawing() {
    let mut file = kestrel();
    file.job.roof.clear();
    let svg = drawn(&file, RoofFormat::Svg);
    assert!(svg.starts_with("<svg") && svg.ends_with("</svg>\n") && !svg.contains("<g "));
    let all = entities(&drawn(&file, RoofFormat::Dxf));
    let kinds: Vec<&str> = all.iter().map(|e| e.0.as_str()).collect();
    assert_eq!(kinds, ["ENDSEC", "EOF"]);
}

fn pinyon() -> JobFile {
    job::read(include_str!("../../../data/demo/pinyon-street.json"))
        .expect("the demo job reads")
        .file
}

#[test]
fn trunks_rails_and_bonding_have_their_layers() {
    let svg = drawn(&pinyon(), RoofFormat::Svg);
    let n = |layer: &str, tag: &str| group(&svg, layer).matches(tag).count();
    // Ten ways from unit to unit and a feed; a square for each of eleven units.
    assert_eq!((n("string-A", "<polyline"), n("string-A", "<polygon")), (11, 11));
    // Two arms of four ways each, both fed.
    assert_eq!(n("string-B", "<polyline"), 10);
    // A row of eight, one that the vent parts, one of eight on the east roof; two on the west.
    assert_eq!((n("rails", "<polyline"), n("bonding", "<circle")), (12, 6));
    // Units take leads of their own: none of the modules' is drawn.
    assert!(!svg.contains("id=\"plus\""));
}

#[test]
fn faces_and_modules_lie_on_the_globe_where_they_look() {
    let mut file = kestrel();
    assert_eq!(roof_geojson(&file.job, &file.library), Err(NoPlace));
    // On the equator a degree either way is 6371008.8 m x pi / 180 = 111195.08 m.
    (file.job.site.latitude_deg, file.job.site.longitude_deg) = (Some(0.0), Some(20.0));
    file.job.site.faces[0].azimuth_deg = 180.0;
    file.job.site.faces[0].tilt_deg = 60.0;
    let map = roof_geojson(&file.job, &file.library).expect("a place");
    let features = map["features"].as_array().expect("features");
    assert_eq!(features.len(), 2 + 26);
    let face = &features[0];
    assert_eq!(
        (&face["properties"]["face"], &face["properties"]["tilt_deg"]),
        (&"se".into(), &60.0.into())
    );
    let corner = |i: usize, axis: usize| {
        let degrees = face["geometry"]["coordinates"][0][i][axis].as_f64().expect("degrees");
        (degrees - if axis == 0 { 20.0 } else { 0.0 }) * 111_195.08
    };
    // Toward the south the eave of 9 m runs east, and 7 m up a slope of 60° are 3.5 m north.
    assert!((corner(1, 0) - 9.0).abs() < 0.01 && corner(1, 1).abs() < 0.01);
    assert!((corner(2, 1) - 3.5).abs() < 0.01, "{}", corner(2, 1));
    assert_eq!(face["geometry"]["coordinates"][0][0], face["geometry"]["coordinates"][0][4]);
    assert_eq!(features[1]["properties"]["place"], "A12");
}

/// Every position of a map.
fn positions(value: &serde_json::Value, found: &mut Vec<[f64; 2]>) {
    let Some(list) = value.as_array() else { return };
    match list.as_slice() {
        [x, y] if x.is_number() => {
            found.push([x.as_f64().expect("longitude"), y.as_f64().expect("latitude")]);
        }
        _ => list.iter().for_each(|inner| positions(inner, found)),
    }
}

#[test]
fn no_position_lies_beyond_the_date_line_and_none_stands_twice() {
    let mut file = kestrel();
    for (lat, lon) in [(-16.8, 180.0), (-16.8, -180.0), (-16.8, 179.99999), (89.99, 12.0)] {
        (file.job.site.latitude_deg, file.job.site.longitude_deg) = (Some(lat), Some(lon));
        for azimuth in [0.0, 90.0, 180.0, 270.0] {
            file.job.site.faces[0].azimuth_deg = azimuth;
            let map = roof_geojson(&file.job, &file.library).expect("a place");
            for feature in map["features"].as_array().expect("features") {
                let mut all = Vec::new();
                positions(&feature["geometry"]["coordinates"], &mut all);
                assert!(all.iter().all(|[x, y]| x.abs() <= 180.0 && y.abs() <= 90.0), "{feature}");
                // The shape lies on one side, or in two parts on both.
                let wide = all.iter().any(|p| (p[0] - all[0][0]).abs() > 1.0);
                let two = feature["geometry"]["type"] == "MultiPolygon";
                assert!(!wide || two, "{feature}");
            }
        }
    }
    // An upright face is a line from above: each of its points once.
    (file.job.site.latitude_deg, file.job.site.longitude_deg) = (Some(40.0), Some(20.0));
    file.job.site.faces[0].tilt_deg = 90.0;
    let map = roof_geojson(&file.job, &file.library).expect("a place");
    let face = &map["features"][0]["geometry"];
    assert_eq!(face["type"], "LineString", "{face}");
    let mut all = Vec::new();
    positions(&face["coordinates"], &mut all);
    assert_eq!(all.len(), 2);
    assert_ne!(all[0], all[1]);
}

#[test]
fn a_drawing_says_its_unit_and_no_name_is_a_code_of_the_format() {
    let mut file = kestrel();
    file.job.site.faces[0].name = "50 % %%d west".to_owned();
    let dxf = drawn(&file, RoofFormat::Dxf);
    // Millimetres are 4 (DXF reference, INSUNITS).
    assert!(dxf.contains("9\n$INSUNITS\n70\n4\n"), "{}", &dxf[..200]);
    let names: Vec<String> = entities(&dxf)
        .into_iter()
        .filter(|(kind, ..)| kind == "TEXT")
        .filter_map(|(.., groups)| groups.into_iter().find(|(code, _)| *code == 1))
        .map(|(_, text)| text)
        .collect();
    // Three percent signs are one that is drawn.
    assert!(names.contains(&"50 %%% %%%%%%d west".to_owned()), "{names:?}");
}
