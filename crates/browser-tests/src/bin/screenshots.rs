//! Makes the pictures of docs/screenshots from the demo data: `screenshots FOLDER`.

use std::path::PathBuf;

use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;

#[tokio::main]
async fn main() -> WebDriverResult<()> {
    let folder =
        PathBuf::from(std::env::args().nth(1).unwrap_or_else(|| "docs/screenshots".to_owned()));
    std::fs::create_dir_all(&folder)?;
    let application = Application::start();
    let driver = Driver::start();
    desk(&driver, &application, &folder).await?;
    phone(&driver, &application, &folder).await
}

async fn shoot(page: &Page, folder: &std::path::Path, name: &str) -> WebDriverResult<()> {
    // Fonts and the last answer.
    page.browser
        .execute_async("document.fonts.ready.then(() => setTimeout(arguments[0], 250))", Vec::new())
        .await?;
    page.browser.screenshot(&folder.join(format!("{name}.png"))).await
}

async fn desk(
    driver: &Driver,
    application: &Application,
    folder: &std::path::Path,
) -> WebDriverResult<()> {
    let browser = driver.browser(1280, 800).await?;
    let page = Page::new(browser.clone(), &application.url);
    page.sign_in("mira").await?;
    shoot(&page, folder, "jobs").await?;
    page.press("Kestrel Lane workshop").await?;
    page.marked("string-window").await?;
    shoot(&page, folder, "strings").await?;
    tab(&page, "Ways").await?;
    page.marked("way-2").await?;
    page.browser
        .execute("document.querySelector('[data-testid=way-2]').focus()", Vec::new())
        .await?;
    page.see(By::XPath("//*[contains(., 'a way that is looked at, not kept')]")).await?;
    shoot(&page, folder, "ways").await?;
    for (stage, mark) in
        [("Site", "temperature-scale"), ("Equipment", "equipment-plan"), ("Runs", "route-map")]
    {
        page.stage(stage).await?;
        page.marked(mark).await?;
        if stage == "Equipment" {
            page.press("Inverter INV1, S8-2").await?;
        }
        shoot(&page, folder, &stage.to_lowercase()).await?;
    }
    page.stage("Roof map").await?;
    page.marked("roof-map-sw").await?;
    shoot(&page, folder, "roof").await?;
    page.stage("Test").await?;
    page.enter("Irradiance", "618").await?;
    page.enter("Temperature", "39.6").await?;
    page.fill("Voc read", "404.1").await?;
    page.marked("meter-strip").await?;
    shoot(&page, folder, "test").await?;
    page.stage("Hand over").await?;
    shoot(&page, folder, "hand-over").await?;
    page.open("/jobs").await?;
    more(&page, folder).await?;
    page.open("/jobs").await?;
    page.press("Light or dusk").await?;
    page.press("Quarry Cottage").await?;
    page.stage("Earth").await?;
    page.see(By::Css("svg[aria-label^='Bonding']")).await?;
    shoot(&page, folder, "earth-iec-dusk").await?;
    browser.quit().await
}

async fn tab(page: &Page, name: &str) -> WebDriverResult<()> {
    page.see(By::XPath(format!("//button[@role='tab'][starts-with(normalize-space(.), '{name}')]")))
        .await?
        .click()
        .await
}

/// Protection, the one-line, panels, routes, the watch, data sheets, quick sums.
async fn more(page: &Page, folder: &std::path::Path) -> WebDriverResult<()> {
    page.press("Saltmarsh Nursery").await?;
    page.stage("Protection").await?;
    let place = page.marked("place-CB1").await?;
    place
        .find(By::XPath(".//li/button[starts-with(normalize-space(.), 'DISC')]"))
        .await?
        .click()
        .await?;
    page.browser
        .execute("arguments[0].scrollIntoView({ block: 'center' })", vec![place.to_json()?])
        .await?;
    shoot(page, folder, "protection").await?;
    tab(page, "One-line").await?;
    page.see(By::Css("svg[aria-label^='One-line']")).await?;
    shoot(page, folder, "one-line").await?;
    page.open("/jobs").await?;
    page.press("Pinyon Street duplex").await?;
    page.stage("Protection").await?;
    tab(page, "Panels").await?;
    page.see(By::Css("table[aria-label='Ways to bring PV onto MP']")).await?;
    let panel = page.marked("panel-MP").await?;
    page.browser
        .execute("arguments[0].scrollIntoView({ block: 'start' })", vec![panel.to_json()?])
        .await?;
    shoot(page, folder, "panels").await?;
    page.open("/jobs").await?;
    page.press("Quarry Cottage").await?;
    page.stage("Runs").await?;
    page.press("Routes compared").await?;
    let table = page.see(By::Css("table[aria-label='Routes compared']")).await?;
    page.browser
        .execute("arguments[0].scrollIntoView({ block: 'center' })", vec![table.to_json()?])
        .await?;
    shoot(page, folder, "routes").await?;
    page.stage("Strings").await?;
    page.press("Decide").await?;
    page.marked("repair-1").await?;
    shoot(page, folder, "watch").await?;
    page.open("/library").await?;
    page.see(By::XPath("//nav//button[contains(., 'H6')][contains(., 'rev 2')]"))
        .await?
        .click()
        .await?;
    page.marked("concerned").await?;
    // Looked at in the background.
    page.see(By::XPath("//*[@role='status'][contains(., 'would stop')]")).await?;
    shoot(page, folder, "data-sheets").await?;
    page.open("/sums/na/wire-size").await?;
    page.reads("sum-slip", "Smallest size that passes").await?;
    shoot(page, folder, "sums").await
}

async fn phone(
    driver: &Driver,
    application: &Application,
    folder: &std::path::Path,
) -> WebDriverResult<()> {
    let browser = driver.browser(390, 844).await?;
    let page = Page::new(browser.clone(), &application.url);
    page.sign_in("ines").await?;
    page.press("Kestrel Lane workshop").await?;
    page.marked("string-window").await?;
    let here = page.browser.current_url().await?;
    page.open(&here.path().replace("strings", "roof")).await?;
    page.press("Plug in string B").await?;
    page.enter("Light now", "640").await?;
    page.enter("Back of a module", "38").await?;
    page.enter("Read after B1", "37.2").await?;
    page.enter("Read after B2", "37.4").await?;
    page.marked("plug-in").await?.scroll_into_view().await?;
    page.see(By::Css("[role='alert']")).await?.scroll_into_view().await?;
    shoot(&page, folder, "phone-roof").await?;
    page.open(&here.path().replace("strings", "test")).await?;
    page.enter("Irradiance", "612").await?;
    page.enter("Temperature", "39.2").await?;
    page.fill("Voc read", "404.1").await?;
    page.marked("meter-strip").await?;
    shoot(&page, folder, "phone-test").await?;
    browser.quit().await
}
