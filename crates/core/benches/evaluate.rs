//! How long a job takes from what was entered to its report: `cargo bench --workspace --bench evaluate`.

use heliant_core::evaluate;
use heliant_core::job::{self, Job, JobFile, Mounting};
use heliant_core::library::{InverterRatings, ModuleRatings};
use heliant_core::school::School;
use heliant_core::strings::{LayoutInputs, LayoutMppt, SiteTemps, search};

fn main() {
    divan::main();
}

fn kestrel() -> JobFile {
    job::read(include_str!("../../../data/demo/kestrel-lane.json")).expect("the demo job reads").file
}

/// The demo job grown to 1,000 modules: 100 strings of ten on 50 inverters.
fn thousand() -> (Job, JobFile) {
    let file = kestrel();
    let mut job = file.job.clone();
    let (string, inverter) = (job.strings[0].clone(), job.inverters[0].clone());
    job.inverters = (1..=50).map(|i| job::JobInverter { id: format!("INV{i}"), ..inverter.clone() }).collect();
    let letter = |i: u32| {
        let at = |k: u32| char::from_u32(65 + k).expect("a letter");
        if i < 26 { at(i).to_string() } else { format!("{}{}", at(i / 26 - 1), at(i % 26)) }
    };
    job.strings = (0..100)
        .map(|i| job::JobString { letter: letter(i), n: 10, inverter: format!("INV{}", i / 2 + 1), mppt: i % 2 + 1, ..string.clone() })
        .collect();
    job.runs[0].strings = job.strings.iter().map(|s| s.letter.clone()).collect();
    (job, file)
}

#[divan::bench]
fn kestrel_lane(bencher: divan::Bencher) {
    let file = kestrel();
    bencher.bench(|| evaluate(divan::black_box(&file.job), &file.library, &file.readings));
}

#[divan::bench]
fn thousand_modules(bencher: divan::Bencher) {
    let (job, file) = thousand();
    bencher.bench(|| evaluate(divan::black_box(&job), &file.library, &[]));
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
        inverter: InverterRatings { mppt_w_max_w: None, dc_w_max_w: None, ..sheet.ratings_at(1).expect("input 1") },
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
