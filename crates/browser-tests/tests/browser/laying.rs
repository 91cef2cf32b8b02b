//! Routes side by side, the company's prices, cable that is there, what a check would have changed
//! over, and what is pasted.

use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;

use crate::jobs::{File, import};
use crate::planning::{desk, kept};

const KESTREL: &str = include_str!("../../../../data/demo/kestrel-lane.json");

/// Waits for a text in a table, list or region of this name.
async fn says(page: &Page, name: &str, text: &str) -> WebDriverResult<()> {
    let path = format!("//*[@aria-label=\"{name}\"][contains(., \"{text}\")]");
    page.see(By::XPath(path)).await.map(drop)
}

/// Opens what is folded under a line.
async fn unfold(page: &Page, line: &str) -> WebDriverResult<()> {
    page.see(By::XPath(format!("//summary[normalize-space(.) = '{line}']"))).await?.click().await
}

/// Kestrel Lane as it is changed, imported and open at Runs.
async fn changed(
    driver: &Driver,
    application: &Application,
    change: impl FnOnce(&mut serde_json::Value),
) -> WebDriverResult<Page> {
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("tomas").await?;
    let mut file: serde_json::Value = serde_json::from_str(KESTREL).expect("the demo job");
    file["job"]["name"] = "Changed".into();
    change(&mut file["job"]);
    import(&page, &File::new("changed.json", &file.to_string())).await?;
    page.press("Import it").await?;
    page.marked("saving").await?;
    page.stage("Runs").await?;
    page.marked("route-map").await?;
    Ok(page)
}

#[tokio::test(flavor = "multi_thread")]
async fn two_routes_are_compared_one_is_chosen_and_the_other_kept() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    page.press("Routes compared").await?;
    says(&page, "Routes compared", "First route").await?;
    // By keys: its name, Enter.
    page.enter("Name of another route", "Outside").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'Outside is drawn from here on')]"))
        .await?;
    kept(&page, "job.routes?.length === 1 && job.route === 'Outside'").await?;
    page.choose("Place of part 1 of DC1", "Outside wall, in shade").await?;
    page.choose("Raceway of part 1 of DC1", "EMT 1").await?;
    page.choose("Raceway of part 2 of DC1", "EMT 1").await?;
    kept(&page, "plan.ways.DC1.parts[0].place === 'outside_wall_shade'").await?;
    // 6.1 m of it are seen from now on; the first route stops at its fill.
    says(&page, "Routes compared", "20.0 ft").await?;
    says(&page, "Routes compared", "Fill of the raceway (DC1/1)").await?;
    page.press("Working of Outside").await?;
    says(&page, "Material of Outside", "EMT 1, m").await?;
    says(&page, "Work on site of Outside", "wire pulled, m").await?;
    page.press("Choose First route").await?;
    kept(&page, "job.route === 'First route' && plan.ways.DC1.parts[0].place === 'attic'").await?;
    says(&page, "Routes compared", "Outside").await?;
    page.press("Choose Outside").await?;
    kept(&page, "job.route === 'Outside' && job.routes[0].name === 'First route'").await?;
    page.press("Take out First route").await?;
    kept(&page, "(job.routes ?? []).length === 0 && job.route === 'Outside'").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn the_owner_sets_a_price_and_a_job_takes_it_when_told() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("mira").await?;
    page.press("Prices").await?;
    page.enter("An hour of one person on site", "-4").await?;
    page.see(By::XPath("//*[contains(., '0 to 1000000')]")).await?;
    page.enter("An hour of one person on site", "80").await?;
    page.see(By::XPath("//*[contains(., '65 as it came')]")).await?;
    page.press("Jobs").await?;
    page.press("Kestrel Lane workshop").await?;
    page.stage("Runs").await?;
    page.press("Routes compared").await?;
    page.see(By::XPath("//p[contains(., 'an hour of one person on site')]")).await?;
    page.press("Count with today’s prices").await?;
    kept(&page, "job.rates?.labour_h === 80").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn cable_that_is_there_says_where_it_fits_and_is_used() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    page.press("Cable that is there").await?;
    page.press("Enter a cable").await?;
    page.fill("Length of S1", "70 ft").await?;
    page.fill("Pieces of S1", "2").await?;
    // 70 ft are 21.336 m; A takes 20.1 m of each: 4.06 ft are left.
    says(&page, "Where S1 fits", "4.1 ft").await?;
    page.press("Use S1 in A").await?;
    kept(&page, "plan.circuits.A.legs[0].piece === 'S1'").await?;
    kept(&page, "plan.circuits.A.legs[0].wire.awg === '10'").await?;
    says(&page, "Where S1 fits", "used here").await?;
    // Nothing of it is left for B, and nobody looked it over yet.
    says(&page, "Where S1 fits", "too short").await?;
    page.press("Checks of circuit A").await?;
    page.choose("S1 is sound", "yes").await?;
    kept(&page, "job.stock.S1.sound === true").await?;
    page.press("Not in A").await?;
    kept(&page, "plan.circuits.A.legs[0].piece == null").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn metal_clad_cable_in_the_wet_is_changed_over_by_a_press() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = changed(&driver, &application, |job| {
        for part in job["plan"]["ways"]["DC1"]["parts"].as_array_mut().expect("parts") {
            part["method"] = "cable".into();
            part["listed"] = true.into();
            part.as_object_mut().expect("a part").remove("raceway");
        }
        let wall = &mut job["plan"]["ways"]["DC1"]["parts"][2];
        wall["place"] = "outside_wall_sun".into();
        wall["listed"] = false.into();
    })
    .await?;
    page.press("Verdict of part 3 of DC1").await?;
    page.reads("slip", "Change over in a box to EMT").await?;
    page.press("Change over").await?;
    kept(&page, "Object.values(plan.nodes).some((n) => n.kind === 'junction_box')").await?;
    kept(
        &page,
        "Object.values(plan.ways).some((w) => w.parts[0].raceway?.kind === 'emt' \
        && w.parts[0].place === 'outside_wall_sun')",
    )
    .await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_hard_pull_gets_its_box_where_it_saves_the_most() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    page.fill("Bends of part 1 of AC1", "90, 90, 90, 90, 90").await?;
    page.press("Verdict of part 1 of AC1").await?;
    page.reads("slip", "A pull box").await?;
    page.press("Set the pull box").await?;
    kept(&page, "Object.values(plan.nodes).some((n) => n.kind === 'pull_box')").await?;
    kept(&page, "plan.circuits.AC1.legs[0].via.length === 2").await?;
    // A conduit body does the same for one bend.
    page.fill("Bends of part 1 of AC1", "90, 90 body, 90 elbow").await?;
    kept(&page, "plan.ways.AC1.parts[0].bends[1].kind === 'body'").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn the_earth_wire_without_room_is_cured_by_the_next_size() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    // Six wires fit without the ground: 2.6 x 0.0366 in² and so on; with it 3/4 is too small.
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    page.press("Verdict of part 1 of DC1").await?;
    page.reads("slip", "Fill of the raceway").await?;
    page.reads("cut-through", "7 wires, ground counted").await?;
    says(&page, "Sizes beside it", "27.86 %").await?;
    page.press("Take size 1").await?;
    kept(&page, "plan.ways.DC1.parts[0].raceway.size === '1'").await?;
    // What happens to the output's pipe with a string in it: only looked at, nothing is changed.
    page.press("Verdict of part 1 of AC1").await?;
    page.choose("What if this were in AC1 too", "A").await?;
    says(&page, "A in AC1", "is only looked at here").await?;
    page.reads("cut-through", "with A in it").await?;
    kept(&page, "plan.circuits.A.legs[0].via.join() === 'DC1'").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn pasted_lengths_and_a_budget_of_drop_are_taken_or_refused() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    unfold(&page, "Paste lengths into DC1").await?;
    page.enter_text("Lengths of DC1, one a line", "attic 20 ft\ncavity 31\ngarage 4 m").await?;
    page.press("Take them into DC1").await?;
    page.see(By::XPath("//*[@role='alert'][contains(., 'Line 2, “cavity 31”, has no unit')]"))
        .await?;
    kept(&page, "plan.ways.DC1.parts[0].length_m === 6.1").await?;
    page.field("Lengths of DC1, one a line").await?.send_keys(Key::Control + "a").await?;
    page.enter_text("Lengths of DC1, one a line", "attic 20 ft\ncavity 31 ft\ngarage 4 m").await?;
    page.press("Take them into DC1").await?;
    kept(&page, "plan.ways.DC1.parts[1].length_m === 9.4488").await?;
    unfold(&page, "Share one budget of drop over DC and AC").await?;
    says(&page, "Budget shared", "cheapest").await?;
    page.fill("From modules to panel", "3").await?;
    let take = By::XPath(
        "//tr[contains(., 'cheapest')]//button[starts-with(normalize-space(.), 'Share it')]",
    );
    page.see(take).await?.click().await?;
    kept(
        &page,
        "Math.abs(job.settings.vdrop_dc_pct + job.settings.vdrop_ac_pct - 3) < 1e-9 \
            || Math.abs(job.settings.vdrop_dc_pct + job.settings.vdrop_ac_pct - 4) < 1e-9",
    )
    .await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn what_stands_round_a_panel_is_entered_in_inches() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    page.press("3 devices in MP").await?;
    page.fill("Free depth before MP", "34 in").await?;
    kept(&page, "plan.nodes.MP.stand.free_depth_mm === 863.6").await?;
    page.press("Verdict of MP").await?;
    page.reads("slip", "863.6 mm deep, 914 mm are asked").await?;
    page.press("Devices in INV1").await?;
    page.choose("A board is behind INV1", "no").await?;
    page.press("Verdict of INV1").await?;
    page.reads("slip", "A board behind it that does not burn").await?;
    page.browser.quit().await
}
