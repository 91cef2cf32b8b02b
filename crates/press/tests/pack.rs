//! The pack as set: a document, the same for the same data, whatever is written in it.

use chrono::{TimeZone, Utc};
use heliant_core::evaluate_with;
use heliant_core::figure::Recording;
use heliant_core::job::{self, JobFile};
use heliant_documents::{Order, Pack};

fn set(file: &JobFile) -> Vec<u8> {
    let report = evaluate_with(&file.job, &file.library, &file.readings, Recording::Everything);
    let at = Utc.with_ymd_and_hms(2026, 3, 4, 5, 6, 0).unwrap();
    let pack = Pack {
        job: &file.job,
        library: &file.library,
        report: &report,
        origins: &[],
        revision: 7,
        saved_at: at,
        saved_by: "Tomas Brandt",
        printed_at: at,
        printed_by: "Mira Voss",
    };
    set_each(&Order::to_pack(&pack, 100_000)).remove(0)
}

/// Every document of a pack.
fn set_each(orders: &[Order]) -> Vec<Vec<u8>> {
    let set = |order: &Order| {
        let order = serde_json::to_string(order).expect("an order is JSON");
        let order = serde_json::from_str(&order).expect("the press reads it");
        heliant_press::set(order, |_| ()).expect("the pack is set")
    };
    orders.iter().map(set).collect()
}

fn quarry() -> JobFile {
    job::read(include_str!("../../../data/demo/quarry-cottage.json"))
        .expect("the demo job reads")
        .file
}

fn holds(pdf: &[u8], text: &str) -> bool {
    pdf.windows(text.len()).any(|w| w == text.as_bytes())
}

#[test]
fn the_same_data_gives_the_same_document() {
    let first = set(&quarry());
    assert!(first.starts_with(b"%PDF-1."));
    assert!(first == set(&quarry()), "two settings of one job differ");
    assert!(holds(&first, "AtkinsonHyperlegibleNext") && !holds(&first, "DejaVuSans"));
}

#[test]
fn other_scripts_and_markup_characters_are_set_as_they_are() {
    let mut file = quarry();
    file.job.name = "Дом у моря #let x = [*] $y$ <z> & \\ \"".to_owned();
    file.job.contact = "Σπίτι · בית · *bold* _it_ @ref `raw` //comment".to_owned();
    file.job.site.faces[0].name = "<script>&amp;".to_owned();
    let pdf = set(&file);
    assert!(holds(&pdf, "DejaVuSans"), "no font stands in for Cyrillic");
}

#[test]
fn an_empty_job_has_a_pack_too() {
    let job = job::Job::new("New", heliant_core::school::School::Na);
    assert!(set(&JobFile::new(job, Default::default(), Vec::new())).len() > 1000);
}

#[test]
fn branches_and_optimizers_have_their_place() {
    for text in [
        include_str!("../../../data/demo/pinyon-street.json"),
        include_str!("../../../data/demo/tern-bay.json"),
    ] {
        let file = job::read(text).expect("the demo job reads").file;
        let whole = set(&file);
        assert!(whole.starts_with(b"%PDF-1."));
        let mut bare = file.clone();
        bare.job.branches.clear();
        bare.job.strings.clear();
        bare.job.plan = job::Plan::default();
        assert!(whole.len() > set(&bare).len(), "what is planned takes room");
    }
}
