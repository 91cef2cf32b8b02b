//! How long a job takes from what was entered to its report: `cargo bench --workspace --bench
//! evaluate`.

use heliant_core::faults::faults;
use heliant_core::figure::Recording;
use heliant_core::job::{self, Job, JobFile, Mounting};
use heliant_core::library::{InverterRatings, Library, ModuleRatings, Mppt};
use heliant_core::one_line::{Paper, Title, one_line};
use heliant_core::plan::PlanFound;
use heliant_core::school::School;
use heliant_core::search::{LayoutInputs, LayoutMppt, WayFace, WaysAsk, ask_of, search, ways};
use heliant_core::stages::strings::SiteTemps;
use heliant_core::work::Work;
use heliant_core::{evaluate, evaluate_with};

fn main() {
    divan::main();
}

fn kestrel() -> JobFile {
    job::read(include_str!("../../../data/demo/kestrel-lane.json"))
        .expect("the demo job reads")
        .file
}

/// The demo job grown to strings of ten, two to an inverter; a hundred of them are 1,000 modules.
fn large(strings: u32) -> (Job, JobFile) {
    let file = kestrel();
    let mut job = file.job.clone();
    let (string, inverter) = (job.strings[0].clone(), job.inverters[0].clone());
    job.inverters = (1..=strings.div_ceil(2))
        .map(|i| job::JobInverter { id: format!("INV{i}").into(), ..inverter.clone() })
        .collect();
    let letter = |i: u32| {
        let at = |k: u32| char::from_u32(65 + k).expect("a letter");
        if i < 26 { at(i).to_string() } else { format!("{}{}", at(i / 26 - 1), at(i % 26)) }
    };
    job.strings = (0..strings)
        .map(|i| job::JobString {
            letter: letter(i).into(),
            n: 10,
            inverter: format!("INV{}", i / 2 + 1).into(),
            mppt: i % 2 + 1,
            ..string.clone()
        })
        .collect();
    job::settle(&mut job, &mut Vec::new());
    (job, file)
}

#[divan::bench]
fn kestrel_lane(bencher: divan::Bencher) {
    let file = kestrel();
    bencher.bench(|| evaluate(divan::black_box(&file.job), &file.library, &file.readings));
}

#[divan::bench]
fn kestrel_lane_with_workings(bencher: divan::Bencher) {
    let file = kestrel();
    let all = Recording::Everything;
    bencher.bench(|| {
        let job = divan::black_box(&file.job);
        evaluate_with(job, &file.library, &file.readings, all.clone())
    });
}

/// Modules in the job by tens of strings: time has to grow as they do.
#[divan::bench(args = [10, 25, 50, 100, 200])]
fn strings_of_ten(bencher: divan::Bencher, strings: u32) {
    let (job, file) = large(strings);
    bencher.bench(|| evaluate(divan::black_box(&job), &file.library, &[]));
}

#[divan::bench(args = [10, 25, 50, 100, 200])]
fn strings_of_ten_with_workings(bencher: divan::Bencher, strings: u32) {
    let (job, file) = large(strings);
    let all = Recording::Everything;
    bencher.bench(|| evaluate_with(divan::black_box(&job), &file.library, &[], all.clone()));
}

#[divan::bench]
fn read_a_job_file(bencher: divan::Bencher) {
    let text = kestrel().to_text();
    bencher.bench(|| job::read(divan::black_box(&text)));
}

/// Faces over the like inputs of one inverter, two strings each.
fn layout(faces: &[u32], inputs: usize) -> LayoutInputs {
    let file = kestrel();
    let sheet = &file.library.inverters[0];
    LayoutInputs {
        faces_modules_n: faces.to_vec(),
        module: ModuleRatings { ..file.library.modules[0].ratings.clone() },
        inverter: InverterRatings {
            mppt_w_max_w: None,
            dc_w_max_w: None,
            ..sheet.ratings_at(1).expect("input 1")
        },
        site: SiteTemps {
            t_min_c: Some(-24.0),
            t_max_c: Some(33.0),
            mounting: Some(Mounting::Flush),
            dc_ceiling_v: Some(600.0),
            ..SiteTemps::default()
        },
        mppts: vec![LayoutMppt { strings_max_n: 2, ..LayoutMppt::default() }; inputs],
    }
}

#[divan::bench]
fn layout_of_60_on_6_inputs(bencher: divan::Bencher) {
    let x = layout(&[24, 20, 16], 6);
    bencher.bench(|| search(divan::black_box(&x), School::Na));
}

#[divan::bench]
fn layout_of_600_on_30_inputs(bencher: divan::Bencher) {
    let x = layout(&[240, 200, 160], 30);
    bencher.bench(|| search(divan::black_box(&x), School::Na));
}

/// The demo job with so many inverters of `inputs` inputs, so many watts in all for each, and these
/// modules on its faces.
fn wired(
    faces: &[u32],
    inverters: usize,
    inputs: usize,
    watts_in_all: f64,
) -> (Job, Library, WaysAsk) {
    let file = kestrel();
    let (mut job, mut library) = (file.job, file.library);
    let like = Mppt { mppt_w_max_w: Some(10_000.0), ..library.inverters[0].mppts[0].clone() };
    library.inverters[0].mppts = vec![like; inputs];
    library.inverters[0].dc_w_max_w = Some(watts_in_all * inputs as f64);
    let (face, inverter) = (job.site.faces[0].clone(), job.inverters[0].clone());
    job.site.faces = (0..faces.len())
        .map(|i| job::Face {
            id: format!("f{i}").into(),
            azimuth_deg: 90.0 * i as f64,
            ..face.clone()
        })
        .collect();
    job.inverters = (1..=inverters)
        .map(|i| job::JobInverter { id: format!("INV{i}").into(), ..inverter.clone() })
        .collect();
    job.strings.clear();
    job.plan = job::Plan::default();
    let mut ask = ask_of(&job, &library).expect("the library has a module");
    ask.faces = faces
        .iter()
        .enumerate()
        .map(|(i, n)| WayFace { face: format!("f{i}").into(), modules_n: *n })
        .collect();
    (job, library, ask)
}

#[divan::bench(args = [(60, 2, 3), (600, 10, 3), (600, 30, 2)])]
fn ways_to_wire(bencher: divan::Bencher, (modules, inverters, inputs): (u32, usize, usize)) {
    let (job, library, ask) = wired(
        &[modules * 2 / 5, modules / 3, modules - modules * 2 / 5 - modules / 3],
        inverters,
        inputs,
        9500.0,
    );
    bencher.bench(|| ways(divan::black_box(&job), &library, &ask, &[], &Work::default()));
}

/// Each inverter takes fewer watts than its inputs, and not all modules can be placed.
#[divan::bench]
fn ways_to_wire_where_inverters_are_overloaded(bencher: divan::Bencher) {
    let (job, library, ask) = wired(&[240, 200, 160], 10, 3, 5000.0);
    bencher.bench(|| ways(divan::black_box(&job), &library, &ask, &[], &Work::default()));
}

#[divan::bench]
fn ways_to_wire_where_faces_may_mix(bencher: divan::Bencher) {
    let (job, library, mut ask) = wired(&[24, 20, 16], 2, 3, 9500.0);
    ask.faces_may_mix = true;
    bencher.bench(|| ways(divan::black_box(&job), &library, &ask, &[], &Work::default()));
}

#[divan::bench]
fn ways_where_far_too_many_modules_are_asked(bencher: divan::Bencher) {
    let (job, library, ask) = wired(&[240, 200, 160], 1, 2, 9500.0);
    bencher.bench(|| ways(divan::black_box(&job), &library, &ask, &[], &Work::default()));
}

/// A chain of boxes before the inverter, with the strings in its first fifty ways.
fn long_chain(boxes: usize) -> job::JobFile {
    let mut file = kestrel();
    let plan = &mut file.job.plan;
    let mut via = Vec::new();
    for i in 0..boxes {
        let (from, to) = (format!("n{i}"), format!("n{}", i + 1));
        let to = if i + 1 == boxes { "INV1".to_owned() } else { to };
        plan.nodes.insert(from.as_str().into(), job::Node::new(job::NodeKind::PullBox));
        let parts = plan.ways["DC1"].parts[..1].to_vec();
        let (name, from, to) = (String::new(), from.into(), to.into());
        let way = job::WayKey::from(format!("w{i}"));
        plan.ways.insert(way.clone(), job::Way { name, ..job::Way::between(from, to, parts) });
        via.push(way);
    }
    via.truncate(50);
    for circuit in plan.circuits.values_mut().filter(|c| c.kind == job::CircuitKind::PvString) {
        circuit.legs[0].via.clone_from(&via);
    }
    file
}

#[divan::bench]
fn as_many_nodes_as_a_plan_holds_are_built_and_validated(bencher: divan::Bencher) {
    let file = long_chain(job::MOST_NODES - 3);
    assert!(job::validate(&file).is_empty());
    bencher.bench(|| {
        let problems = job::validate(divan::black_box(&file));
        (problems.len(), PlanFound::of(&file.job, &file.library).circuits.len())
    });
}

/// Nodes and ways: time has to grow as they do, and not with their square.
#[divan::bench(args = [50, 500, 5000])]
fn a_chain_of_boxes(bencher: divan::Bencher, boxes: usize) {
    let file = long_chain(boxes);
    bencher.bench(|| evaluate(divan::black_box(&file.job), &file.library, &[]));
}

/// What a plan of so many nodes is asked besides: every fault, and what moved.
#[divan::bench(args = [50, 500, 5000])]
fn faults_of_a_chain_of_boxes(bencher: divan::Bencher, boxes: usize) {
    let file = long_chain(boxes);
    let report = evaluate(&file.job, &file.library, &[]);
    bencher.bench(|| faults(divan::black_box(&file.job), &file.library, &report));
}

/// Feeders from panels of their own that all come to the main one.
#[divan::bench(args = [50, 500, 5000])]
fn feeders_to_one_panel(bencher: divan::Bencher, feeders: usize) {
    let mut file = kestrel();
    let plan = &mut file.job.plan;
    let like = plan.circuits["AC1"].clone();
    let end = |node: &str| job::End { node: Some(node.into()), ..job::End::default() };
    for i in 0..feeders {
        let (from, way) = (format!("p{i}"), job::WayKey::from(format!("f{i}")));
        plan.nodes.insert(from.as_str().into(), job::Node::new(job::NodeKind::Panel));
        let parts = plan.ways["AC1"].parts[..1].to_vec();
        plan.ways.insert(way.clone(), job::Way::between(from.as_str().into(), "MP".into(), parts));
        let mut own = like.clone();
        own.kind = job::CircuitKind::AcFeeder;
        (own.from, own.to) = (end(&from), Some(end("MP")));
        own.legs.truncate(1);
        own.legs[0].via = vec![way];
        plan.circuits.insert(format!("f{i}").as_str().into(), own);
    }
    bencher.bench(|| evaluate(divan::black_box(&file.job), &file.library, &[]));
}

/// So many strings of ten with the plan that is made for them: ways of 12 m, wires, and an isolator
/// for each input at its inverter.
fn planned(strings: u32) -> JobFile {
    let (mut job, mut file) = large(strings);
    job.plan = job::Plan::default();
    job.roof.clear();
    job::settle(&mut job, &mut Vec::new());
    for part in job.plan.ways.values_mut().flat_map(|w| &mut w.parts) {
        part.length_m = Some(12.0);
    }
    for leg in job.plan.circuits.values_mut().flat_map(|c| &mut c.legs) {
        leg.wire.awg = Some("8".to_owned());
    }
    for node in job.plan.nodes.values_mut().filter(|n| n.kind == job::NodeKind::Inverter) {
        for input in ["Q1", "Q2"] {
            let isolator = job::Device::new(job::DeviceKind::Isolator);
            node.devices.insert(input.into(), isolator);
        }
    }
    file.job = job;
    file
}

#[divan::bench(args = [26, 100])]
fn strings_of_ten_with_a_plan(bencher: divan::Bencher, strings: u32) {
    let file = planned(strings);
    bencher.bench(|| evaluate(divan::black_box(&file.job), &file.library, &[]));
}

#[divan::bench(args = [26, 120])]
fn one_line_of_strings(bencher: divan::Bencher, strings: u32) {
    let file = planned(strings);
    let report = evaluate(&file.job, &file.library, &[]);
    let title = Title::default();
    let paper = Paper::Letter;
    bencher.bench(|| one_line(divan::black_box(&file.job), &file.library, &report, &title, paper));
}
