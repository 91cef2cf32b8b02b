//! Each stage's own forms and lists.

use std::time::Duration;

use heliant_browser_tests::{Application, Driver};
use thirtyfour::prelude::*;

use crate::planning::desk;

/// How long a pack may take, unoptimised and beside other tests.
const PRESS: Duration = Duration::from_secs(420);

#[tokio::test(flavor = "multi_thread")]
async fn the_panel_is_entered_and_its_rules_follow() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Protection").await?;
    page.see(By::XPath("//button[@role='tab'][starts-with(., 'Panels')]")).await?.click().await?;
    // 1.25 x 33.3 + 200 = 241.6 A: over 240 A by 1.6.
    page.enter("Main breaker", "200").await?;
    page.reads("moved", "stop more").await?;
    page.enter("Main breaker", "198").await?;
    page.reads("moved", "stop fewer").await?;
    page.enter("Breakers that feed loads, A; 0 where there are none", "40, 30 x").await?;
    page.see(By::XPath("//*[@role='alert'][contains(., 'such as 40 30 20')]")).await?;
    page.enter("Breakers that feed loads, A; 0 where there are none", "40, 30 20").await?;
    page.reads("saving", "Revision 4, saved").await?;
    assert_eq!(
        page.field("Breakers that feed loads, A; 0 where there are none")
            .await?
            .value()
            .await?
            .as_deref(),
        Some("40 30 20")
    );
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_limit_of_the_job_is_set_and_taken_back() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    // A drops 0.33 %, B and C 0.56 %.
    page.enter("Most voltage drop, DC", "0.5").await?;
    page.reads("moved", "2 caution more").await?;
    page.enter("Most voltage drop, DC", "-1").await?;
    page.see(By::XPath("//*[@role='alert'][contains(., 'too small')]")).await?;
    page.enter("Most voltage drop, DC", "").await?;
    page.reads("moved", "2 caution fewer").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn lengths_are_feet_in_one_school_and_metres_in_the_other() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    // 6.1 m is 20.01 ft; 100 ft are 30.48 m.
    assert_eq!(
        page.field("Length of part 1 of DC1").await?.value().await?.as_deref(),
        Some("20.01")
    );
    page.enter("Length of part 1 of DC1", "100").await?;
    page.reads("route-map", "100 ft").await?;
    let export = page.browser.execute_async(
        "fetch(location.pathname.replace('/jobs/', '/api/jobs/').replace('/runs', \
            '/export')).then((r) => r.json())
                .then((f) => arguments[0](f.job.plan.ways.DC1.parts[0].length_m))",
        Vec::new(),
    );
    assert_eq!(export.await?.json().as_f64(), Some(30.48));
    page.open("/jobs").await?;
    page.job("Quarry Cottage", "Runs").await?;
    page.reads("route-map", " m").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn faces_are_named_turned_and_taken_out_when_nothing_lies_on_them() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Site").await?;
    assert!(!page.button("Take out south-east").await?.is_enabled().await?, "string A lies on it");
    page.press("Add a face").await?;
    page.button("Take out Face 3").await?;
    assert_eq!(page.browser.find_all(By::Css("[data-testid='compass'] path")).await?.len(), 3);
    page.press("Take out Face 3").await?;
    page.gone(By::Css("[aria-label='Take out Face 3']")).await?;
    page.enter("Lowest expected ambient", "40").await?;
    page.see(By::XPath("//*[@role='alert'][contains(., 'not below the highest')]")).await?;
    page.enter("Lowest expected ambient", "-35").await?;
    // 12 x 39.4 x (1 + 0.0026 x 60) = 546.6 V.
    page.stage("Strings").await?;
    page.reads("string-window", "547").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_slip_has_an_address_of_its_own() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "inspector", "Kestrel Lane workshop", "Strings").await?;
    page.see(By::XPath("//button[@role='tab'][contains(., 'Inputs')]")).await?.click().await?;
    page.see(By::XPath("//button[contains(., 'Module watts on the inverter')]"))
        .await?
        .click()
        .await?;
    // 26 x 430 = 11 180 W, with a thin space.
    page.reads("slip", "11\u{2009}180").await?;
    page.browser.refresh().await?;
    page.reads("slip", "Module watts on the inverter").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_way_holds_what_is_led_over_it() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    page.press("Take out circuit C").await?;
    // Four 8 AWG and the ground: (4 x 0.0366 + 0.0211) / 0.533 = 31.43 %.
    page.reads("moved", "2 stop fewer").await?;
    page.press("Verdict of part 1 of DC1").await?;
    page.reads("slip", "31.43").await?;
    page.choose("Raceway of part 1 of DC1", "EMT 1/2").await?;
    // The same in 1/2 EMT: / 0.304 = 55.10 %.
    page.reads("slip", "55.10").await?;
    // A string without its circuit is planned again where the others go.
    page.press("Plan the circuits").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'circuit C added')]")).await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_box_is_set_into_a_way_and_taken_out_again() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    page.press("A box behind part 1 of DC1").await?;
    page.reads("route-map", "BOX-2").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'way DC1 split at BOX-2')]")).await?;
    assert_eq!(
        page.field("Ways of A, with commas").await?.value().await?.as_deref(),
        Some("DC1, DC1-2")
    );
    // Leading it over ways that do not meet changes nothing and says why.
    page.enter("Ways of A, with commas", "DC1, AC1").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'does not meet')]")).await?;
    page.press("Join the ways at BOX-2").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'joined')]")).await?;
    assert_eq!(page.field("Ways of A, with commas").await?.value().await?.as_deref(), Some("DC1"));
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn the_pack_and_the_file_are_there_for_whoever_looks() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "inspector", "Quarry Cottage", "Hand over").await?;
    // Asked for from the top, seen on the page too.
    page.press("Print pack").await?;
    let dialog = "//*[@role='dialog']//*[@data-testid='pack']";
    page.see(By::XPath(dialog)).await?;
    page.browser.action_chain().send_keys(Key::Escape).perform().await?;
    let link = page.see_within(By::LinkText("Open the pack (PDF)"), PRESS).await?;
    let pack = link.attr("href").await?.expect("a link");
    let file = page.button("Export the job file").await?.attr("href").await?.expect("a link");
    for (link, kind, start) in [(pack, "application/pdf", "%PDF-"), (file, "application/json", "{")]
    {
        let script = format!(
            "fetch('{link}').then(async (r) => arguments[0]([r.status, \
                r.headers.get('content-type'), (await r.text()).slice(0, {})]))",
            start.len()
        );
        let got = page.browser.execute_async(script, Vec::new()).await?;
        assert_eq!(got.json(), &serde_json::json!([200, kind, start]));
    }
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn the_owner_lets_somebody_in() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = heliant_browser_tests::Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("mira").await?;
    page.press("People").await?;
    page.press("Let in").await?;
    page.see(By::XPath("//*[@role='alert'][contains(., '10 to 1000 characters')]")).await?;
    page.field("Name, as it stands on records").await?.send_keys("Oona Field").await?;
    page.field("Name to sign in with").await?.send_keys("oona").await?;
    page.field("First password, ten characters or more")
        .await?
        .send_keys(heliant_server::demo::PASSWORD)
        .await?;
    page.press("Let in").await?;
    page.see(By::XPath("//li[contains(., 'Oona Field')]")).await?;
    page.open("/jobs").await?;
    page.press("Sign out").await?;
    page.sign_in("oona").await?;
    page.see(By::XPath("//header[contains(., 'Oona Field, field')]")).await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_reading_taken_again_takes_the_place_of_the_first() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "ines", "Kestrel Lane workshop", "Test").await?;
    page.see(By::XPath("//button[contains(., '7 modules')][.//*[starts-with(@aria-label, 'B,')]]"))
        .await?
        .click()
        .await?;
    page.reads("readings", "2 modules short").await?;
    page.enter("Irradiance", "618").await?;
    page.enter("Temperature", "39.6").await?;
    page.fill("Voc read", "258.3").await?;
    page.press("Keep this reading").await?;
    page.reads("readings", "258.3 V").await?;
    let text = page.reads("readings", "read again since").await?;
    assert!(
        text.find("258.3").expect("there") < text.find("185.1").expect("still there"),
        "newest first: {text}"
    );
    page.reads("totals", "4 stop").await?;
    page.browser.quit().await
}
