//! The list of jobs: import with an error and without, copies, finding, an installation with many,
//! a huge job.

use std::path::PathBuf;

use heliant_browser_tests::{Application, Driver, Page};
use heliant_server::demo::JOBS;
use thirtyfour::prelude::*;

/// A job as version 2 wrote it.
const VERSION_2: &str = include_str!("../../../core/tests/judged/base/na-string.json");
const KESTREL: &str = include_str!("../../../../data/demo/kestrel-lane.json");

/// A file that goes away with the test.
pub struct File(PathBuf);

impl File {
    pub fn new(name: &str, text: &str) -> Self {
        let path = std::env::temp_dir().join(format!("heliant-{}-{name}", std::process::id()));
        std::fs::write(&path, text).expect("a file for the test");
        File(path)
    }

    /// Where it is, as it is typed into a file field.
    pub fn path(&self) -> String {
        self.0.display().to_string()
    }
}

impl Drop for File {
    fn drop(&mut self) {
        let _ = std::fs::remove_file(&self.0);
    }
}

pub async fn import(page: &Page, file: &File) -> WebDriverResult<()> {
    page.button("Import a job file").await?;
    let input = page.browser.find(By::Css("input[type='file']")).await?;
    input.send_keys(file.path()).await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_file_is_imported_or_every_wrong_place_is_named() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("tomas").await?;
    let mut wrong: serde_json::Value = serde_json::from_str(KESTREL).expect("the demo job");
    wrong["job"]["strings"][0]["n"] = 0.into();
    wrong["job"]["site"]["t_min_c"] = "cold".into();
    let wrong = File::new("wrong.json", &wrong.to_string());
    import(&page, &wrong).await?;
    let said = page.see(By::Css("main [role='alert']")).await?.text().await?;
    for part in [
        "was not imported",
        "/job/strings/0/n",
        "at least 1",
        "/job/site/t_min_c",
        "write a number",
    ] {
        assert!(said.contains(part), "{part} in {said}");
    }
    // The browser reads a file some time after it is chosen: it has to stay until then.
    let none = File::new("none.json", "{ this is no JSON");
    import(&page, &none).await?;
    page.see(By::XPath("//*[@role='alert'][contains(., 'not JSON')]")).await?;
    assert_eq!(
        page.browser.find_all(By::Css("[data-testid='jobs'] li")).await?.len(),
        JOBS.len(),
        "nothing half imported"
    );

    let right =
        File::new("right.json", &KESTREL.replace("Kestrel Lane workshop", "Мастерская 工房"));
    import(&page, &right).await?;
    page.reads("import", "2 readings come with it, marked as brought in by you").await?;
    page.press("Import it").await?;
    page.see(By::XPath("//header//h1[.='Мастерская 工房']")).await?;
    page.open("/jobs").await?;
    let older = VERSION_2
        .replace("\"version\": 2", "\"version\": 1")
        .replace("\"n\":", "\"modules_n\":")
        .replace("base na string", "Older file");
    let older = File::new("older.json", &older);
    import(&page, &older).await?;
    page.see(By::XPath("//*[@role='dialog'][contains(., '/job/strings/2/modules_n: now n')]"))
        .await?;
    page.press("Import it").await?;
    page.see(By::XPath("//header//h1[.='Older file']")).await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_copy_stands_beside_its_original_and_is_found() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("tomas").await?;
    page.from_menu("More about Kestrel Lane workshop", "Copy").await?;
    page.button("Kestrel Lane workshop (copy)").await?;
    page.keys("/").await?;
    page.keys("copy").await?;
    page.gone(By::XPath("//a[.='Quarry Cottage']")).await?;
    page.press("Kestrel Lane workshop (copy)").await?;
    page.stage("Test").await?;
    page.see(By::XPath("//main[contains(., 'None yet.')]")).await?;
    page.browser.quit().await
}

/// The demo job with many strings: 1000 modules.
fn huge() -> String {
    let mut file: serde_json::Value = serde_json::from_str(KESTREL).expect("the demo job");
    let string = file["job"]["strings"][1].clone();
    let letters = (0..100).map(|i| {
        if i < 26 {
            letter(i).to_string()
        } else {
            format!("{}{}", letter(i / 26 - 1), letter(i % 26))
        }
    });
    let strings: Vec<serde_json::Value> = letters
        .map(|l| {
            let mut s = string.clone();
            s["letter"] = l.into();
            s["n"] = 10.into();
            s
        })
        .collect();
    let circuits = file["job"]["plan"]["circuits"].as_object_mut().expect("circuits");
    let like = circuits["B"].clone();
    circuits.retain(|key, _| key == "AC1");
    for s in &strings {
        let letter = s["letter"].as_str().expect("a letter").to_owned();
        let mut own = like.clone();
        own["from"] = serde_json::json!({ "string": letter });
        circuits.insert(letter, own);
    }
    file["job"]["strings"] = strings.into();
    file["job"]["name"] = "Thousand modules".into();
    file["readings"] = serde_json::json!([]);
    file.to_string()
}

fn letter(i: u32) -> char {
    char::from_u32(65 + i).expect("a letter")
}

#[tokio::test(flavor = "multi_thread")]
async fn a_job_of_a_thousand_modules_opens_and_is_worked_on() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("tomas").await?;
    let file = File::new("huge.json", &huge());
    import(&page, &file).await?;
    page.see(By::XPath("//main[contains(., '1000 modules in 100 strings')]")).await?;
    // A hundred like strings are one row until they differ.
    let rows = || async {
        page.browser
            .find_all(By::Css("[data-testid='string-window'] [role='button']"))
            .await
            .map(|r| r.len())
    };
    assert_eq!(rows().await?, 1);
    page.enter("Modules in series of CV", "14").await?;
    page.reads("moved", "CV: 10 to 14 modules").await?;
    assert_eq!(rows().await?, 2);
    for stage in ["Runs", "Test", "Hand over", "Equipment"] {
        page.stage(stage).await?;
    }
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn jobs_are_narrowed_put_away_and_deleted_by_the_owner() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("mira").await?;
    page.reads("jobs", "a newer data sheet waits for a decision").await?;
    page.choose("School", "IEC").await?;
    page.gone(By::XPath("//a[normalize-space(.)='Kestrel Lane workshop']")).await?;
    page.button("Quarry Cottage").await?;
    // It stands in the address: Back comes back to it.
    page.press("Quarry Cottage").await?;
    page.marked("saving").await?;
    page.browser.back().await?;
    page.button("Quarry Cottage").await?;
    page.gone(By::XPath("//a[normalize-space(.)='Kestrel Lane workshop']")).await?;
    page.from_menu("More about Quarry Cottage", "Put away").await?;
    page.gone(By::XPath("//a[normalize-space(.)='Quarry Cottage']")).await?;
    // It is said, with the way back.
    page.reads("said", "Quarry Cottage is put away.").await?;
    page.press("Undo").await?;
    page.button("Quarry Cottage").await?;
    page.reads("said", "Quarry Cottage is taken back.").await?;
    page.from_menu("More about Quarry Cottage", "Put away").await?;
    page.gone(By::XPath("//a[normalize-space(.)='Quarry Cottage']")).await?;
    page.choose("School", "any").await?;
    page.button("Kestrel Lane workshop").await?;
    page.field("put away").await?.click().await?;
    page.gone(By::XPath("//a[normalize-space(.)='Kestrel Lane workshop']")).await?;
    page.from_menu("More about Quarry Cottage", "Delete").await?;
    page.enter_text("Type its name", "Quarry").await?;
    assert!(!page.button("Delete it for good").await?.is_enabled().await?);
    page.enter_text("Type its name", " Cottage").await?;
    page.press("Delete it for good").await?;
    page.see(By::XPath("//*[contains(., 'No job was put away.')]")).await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_template_begins_a_job_for_a_customer() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("tomas").await?;
    page.from_menu("More about Kestrel Lane workshop", "Make a template of it").await?;
    page.fill("What the template is called", "Two faces").await?;
    page.press("Make the template").await?;
    page.button("Two faces").await?;
    page.gone(By::XPath("//a[.='Quarry Cottage']")).await?;
    page.press("New job").await?;
    page.enter_text("Name", "Lark Street").await?;
    page.enter_text("Customer, if known", "Robin Amsel").await?;
    page.choose("Begins as", "Two faces").await?;
    page.press("Start the job").await?;
    page.see(By::XPath("//main//h2[.='Site']")).await?;
    assert_eq!(page.field("Customer").await?.value().await?.as_deref(), Some("Robin Amsel"));
    assert_eq!(page.field("Address").await?.value().await?.as_deref(), Some(""));
    // Lines stay lines.
    let notes = page.field("Notes").await?;
    notes.clear().await?;
    notes.send_keys("Key under the mat" + Key::Enter + "dog in the yard" + Key::Tab).await?;
    page.see(By::XPath("//*[@data-testid='saving'][contains(., 'Revision 2, saved')]")).await?;
    page.browser.refresh().await?;
    let kept = page.field("Notes").await?.value().await?;
    assert_eq!(kept.as_deref(), Some("Key under the mat\ndog in the yard"));
    page.open("/jobs?find=amsel").await?;
    page.button("Lark Street").await?;
    page.browser.quit().await
}
