//! The plan's graph under Runs, from the screen to the database and back.

use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;

use crate::jobs::{File, import};
use crate::planning::{desk, kept};

const COMBINER: &str = include_str!("../../../core/tests/plan/systems/combiner-two-inverters.json");

#[tokio::test(flavor = "multi_thread")]
async fn a_sub_panel_and_its_feeder_are_put_in_and_come_back() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    page.enter("Key of a new node", "SUB").await?;
    page.choose("What stands there", "Panel").await?;
    page.press("Add the node").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'node SUB added')]")).await?;
    page.enter("Key of a new way", "FEED1").await?;
    page.choose("It begins at", "SUB").await?;
    page.choose("It ends at", "MP").await?;
    page.press("Add the way").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'way FEED1')]")).await?;

    // The feeder goes from the sub-panel's breaker to the main panel.
    page.press("Devices in SUB").await?;
    page.enter("Key of a new device in SUB", "MAIN").await?;
    page.press("Add the device").await?;
    page.enter("Amps of MAIN in SUB", "60").await?;
    page.enter("Key of a new circuit", "FEED").await?;
    page.choose("Circuit begins at", "SUB, at MAIN").await?;
    page.choose("Circuit ends at", "MP").await?;
    page.press("Add the circuit").await?;
    page.enter("Ways of FEED, with commas", "FEED1").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'FEED goes over FEED1')]")).await?;
    // The inverter now goes to the sub-panel.
    page.choose("AC1 ends at", "SUB").await?;
    let job = kept(&page, "plan.circuits.AC1?.to?.node === 'SUB'").await?;
    let plan = &job["plan"];
    assert_eq!(plan["nodes"]["SUB"]["devices"]["MAIN"]["amps_a"], 60.0);
    assert_eq!(plan["circuits"]["FEED"]["from"]["device"], "MAIN");
    assert_eq!(plan["circuits"]["FEED"]["legs"][0]["via"][0], "FEED1");

    // Its ways still come to MP: that is said, and it is no stop.
    page.browser.refresh().await?;
    page.press("Checks of circuit AC1").await?;
    let row = By::XPath("//main//button[contains(., 'Circuit AC1') and contains(., 'Way of')]");
    page.see(row).await?.click().await?;
    page.see(By::XPath("//aside[contains(., 'Its ways do not come to SUB.')]")).await?;
    page.press("Take out circuit FEED").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'circuit FEED taken out')]")).await?;
    kept(&page, "!plan.circuits.FEED").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn six_strings_a_combiner_and_two_inverters_stand_on_the_screen() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("tomas").await?;
    let file = File::new("combiner.json", COMBINER);
    import(&page, &file).await?;
    page.press("Import it").await?;
    page.marked("saving").await?;
    page.stage("Runs").await?;
    let map = page.marked("route-map").await?.text().await?;
    for node in ["CB", "INV1", "INV2", "ACP", "MP"] {
        assert!(map.contains(node), "{node} in {map}");
    }
    // Fourteen of eighteen ways; a wider surge device no longer finds room.
    page.press("10 devices in CB").await?;
    page.enter("Width of SPD in CB", "8").await?;
    // Counted, and on its rail.
    page.reads("moved", "2 stop more").await?;
    page.stage("Protection").await?;
    let full = "//main//li/button[contains(., 'CB')][contains(., 'Ways the devices take')]";
    page.see(By::XPath(full)).await?.click().await?;
    page.see(By::XPath("//aside[contains(., 'more than it has')]")).await?;
    page.stage("Runs").await?;
    page.press("10 devices in CB").await?;
    // A fuse that is taken out leaves its circuit at the node, and the string without a fuse.
    page.press("Take out device F3 in CB").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'circuit C ends at CB')]")).await?;
    let job = kept(&page, "!plan.nodes.CB.devices.F3").await?;
    let plan = &job["plan"];
    assert_eq!(plan["circuits"]["C"]["to"], serde_json::json!({ "node": "CB" }));
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_way_carries_all_or_none_at_a_press() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    let carries = "//section[.//button[starts-with(normalize-space(.), 'DC1')]]//summary";
    page.see(By::XPath(carries)).await?.click().await?;
    page.press("DC1 carries none").await?;
    page.see(By::XPath(format!("{carries}[contains(., 'Carries 0 of 4 circuits')]"))).await?;
    page.press("DC1 carries all").await?;
    page.see(By::XPath(format!("{carries}[contains(., 'Carries 4 of 4 circuits')]"))).await?;
    // The output of the inverter does not belong there: it is taken off again.
    page.field("AC1").await?.click().await?;
    page.see(By::XPath(format!("{carries}[contains(., 'Carries 3 of 4 circuits')]"))).await?;
    page.reads("saving", "Revision 4, saved").await?;
    page.browser.quit().await
}
