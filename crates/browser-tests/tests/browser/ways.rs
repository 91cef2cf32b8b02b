//! Ways to wire a job, trying out, strings with optimizers and branches: chosen, compared and
//! changed on the screen.

use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;

use crate::planning::desk;

async fn tab(page: &Page, name: &str) -> WebDriverResult<()> {
    page.see(By::XPath(format!("//button[@role='tab'][starts-with(normalize-space(.), '{name}')]")))
        .await?
        .click()
        .await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_way_is_looked_at_and_chosen_by_keyboard() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Strings").await?;
    tab(&page, "Ways").await?;
    page.see(By::XPath("//*[@data-testid='way-1'][contains(., 'as it is')]")).await?;
    // From the tab: the fields and ticks of the question, then the list, whose rows the arrows go
    // through.
    page.browser
        .execute("document.querySelector('[data-testid=way-1]').focus()", Vec::new())
        .await?;
    page.keys(Key::Down + "").await?;
    // The second way is 6 + 6 and 7 + 7: the window shows it before it is kept.
    page.see(By::XPath("//*[contains(., 'a way that is looked at, not kept')]")).await?;
    page.see(By::XPath(
        "//*[@data-testid='string-window']//*[contains(@aria-label, 'String D, 6 in series')]",
    ))
    .await?;
    page.reads("saving", "Revision 1, saved").await?;
    page.keys(Key::Enter + "").await?;
    page.reads("saving", "Revision 2, saved").await?;
    page.reads("moved", "A: 12 to 6 modules").await?;
    page.see(By::XPath("//*[@data-testid='way-2'][contains(., 'as it is')]")).await?;
    page.keys(Key::Control + "z").await?;
    page.reads("saving", "Revision 3, saved").await?;
    page.see(By::XPath("//*[@data-testid='way-1'][contains(., 'as it is')]")).await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn ways_are_filtered_compared_and_what_fails_is_told() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Strings").await?;
    tab(&page, "Ways").await?;
    page.marked("way-2").await?;
    page.see(By::XPath("//input[@aria-label='Compare way 1']")).await?.click().await?;
    page.see(By::XPath("//input[@aria-label='Compare way 2']")).await?.click().await?;
    let side = page.see(By::XPath("//section[@aria-label='Side by side']")).await?;
    let text = side.text().await?;
    assert!(
        text.contains("input 1: 12 south-east") && text.contains("input 1: 6 + 6 south-east"),
        "{text}"
    );
    // Two strings at most, so 14 in one: 14 x 39.4 x 1.1274 = 621.9 V, 21.9 V over.
    page.enter("strings ≤", "2").await?;
    page.see(By::XPath("//section[@aria-label='What would make it fit']")).await?;
    let miss = page.see(By::XPath("//section[@aria-label='Nearest miss']")).await?.text().await?;
    assert!(miss.contains("14 south-west") && miss.contains("21.87 V beyond"), "{miss}");
    page.reads("saving", "Revision 1, saved").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_colder_morning_is_tried_dropped_and_kept() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Quarry Cottage", "Strings").await?;
    tab(&page, "What if").await?;
    page.enter("Coldest morning", "-20").await?;
    // 14 x 39.7 x (1 + 0.0025 x 45) = 618.3 V.
    page.reads("what-moves", "A: 602 to 618 V cold").await?;
    page.press("Drop it").await?;
    page.reads("what-moves", "Change something").await?;
    page.reads("saving", "Revision 1, saved").await?;
    page.press("One degree colder").await?;
    page.reads("what-moves", "A: 602 to 603 V cold").await?;
    page.press("Keep it").await?;
    page.reads("saving", "Revision 2, saved").await?;
    page.see(By::XPath("//main[contains(., 'coldest morning −9.0 °C')]")).await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_module_is_dragged_from_one_string_to_another() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Strings").await?;
    let (from, to) = (page.marked("tape-A").await?, page.marked("tape-B").await?);
    page.browser
        .action_chain()
        .move_to_element_center(&from)
        .click_and_hold()
        .move_to_element_center(&to)
        .release()
        .perform()
        .await?;
    page.reads("moved", "A: 12 to 11 modules").await?;
    page.reads("moved", "B: 7 to 8 modules").await?;
    // B and C share an input and differ now, the reading taken on A is one module off, and the roof
    // map has another count for both strings and both faces: stops, until it is undone.
    page.reads("moved", "6 stop more").await?;
    page.press("Undo").await?;
    page.reads("moved", "6 stop fewer").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_newer_data_sheet_is_watched_from_the_revision_to_the_repair() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("tomas").await?;
    page.press("Data sheets").await?;
    page.see(By::XPath("//nav//button[contains(., 'H6')][contains(., 'rev 2')]"))
        .await?
        .click()
        .await?;
    page.reads("concerned", "Quarry Cottage").await?;
    page.press("Enter revision 3").await?;
    page.enter("Taken from (document, edition, date)", "H6 data sheet, edition 5").await?;
    // 14 x 440 W = 6 160 W; revision 3 takes 6 000 W in all.
    page.enter("Module watts in all", "6000").await?;
    page.press("Keep revision 3").await?;
    page.reads("kept", "9000 → 6000 W").await?;
    page.reads("kept", "Quarry Cottage holds revision 1").await?;
    page.press("Done").await?;
    page.press("Quarry Cottage").await?;
    page.reads("watch", "revision 3 of the data sheet is out, this job holds 1").await?;
    page.press("Decide").await?;
    let first = page.marked("repair-1").await?.text().await?;
    // 6 000 W in all are 13 modules, 3 500 W an input seven: seven and six.
    assert!(first.contains("modules"), "{first}");
    page.see(By::XPath("//*[@data-testid='repair-1']//button[.='Do this']")).await?.click().await?;
    page.reads("saving", "Revision 2, saved").await?;
    page.gone(By::Css("[data-testid='watch']")).await?;
    page.reads("totals", "0 stop").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn the_older_data_sheet_is_kept_with_a_reason() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Quarry Cottage", "Strings").await?;
    page.press("Decide").await?;
    let repairs = page.marked("decide").await?.text().await?;
    assert!(
        repairs.contains("string A: 14 to 7 modules; new string B of 7 on INV1 input 2")
            && repairs.contains("+1 cable pair"),
        "{repairs}"
    );
    assert!(!page.button("Keep 1").await?.is_enabled().await?, "not without a reason");
    page.enter_text("Keep revision 1, because", "hardware 1 hangs on the wall").await?;
    page.press("Keep 1").await?;
    page.gone(By::Css("[data-testid='watch']")).await?;
    page.browser.refresh().await?;
    page.reads("saving", "Revision 2, saved").await?;
    page.gone(By::Css("[data-testid='watch']")).await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_branch_grows_is_fed_in_its_middle_and_is_too_long() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Pinyon Street duplex", "Strings").await?;
    page.press("Working of branch A").await?;
    page.enter("Units of A", "12").await?;
    page.reads("saving", "Revision 2, saved").await?;
    page.reads("slip", "Stop").await?;
    page.reads("slip", "12 units, 11 are allowed").await?;
    page.enter("Units of A", "6").await?;
    page.enter("Units of the second arm of A", "5").await?;
    page.reads("slip", "Holds").await?;
    page.see(By::XPath(
        "//*[@data-testid='branch-rise']//*[contains(@aria-label, 'Branch A, 11 units')]",
    ))
    .await?;
    page.press("Add a branch").await?;
    page.reads("saving", "Revision 5, saved").await?;
    page.see(By::XPath(
        "//*[@data-testid='branch-rise']//*[contains(@aria-label, 'Branch D, 10 units')]",
    ))
    .await?;
    page.press("Take out branch D").await?;
    page.reads("saving", "Revision 6, saved").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_string_gets_optimizers_and_loses_them() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Strings").await?;
    page.press("With optimizers").await?;
    page.choose("Optimizer of A", "P-460 rev 1").await?;
    page.reads("saving", "Revision 2, saved").await?;
    page.press("Verdict of string A").await?;
    // Its 750 V are above the 600 V of inverter and house.
    page.reads("slip", "750.0 V").await?;
    page.choose("Optimizer of A", "no optimizer").await?;
    page.reads("saving", "Revision 3, saved").await?;
    page.press("Verdict of string A").await?;
    // 12 x 39.4 x 1.1274.
    page.reads("slip", "533.0").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn ways_are_marked_for_comparing_by_keyboard() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "ines", "Kestrel Lane workshop", "Strings").await?;
    tab(&page, "Ways").await?;
    page.marked("way-2").await?;
    page.browser
        .execute("document.querySelector('[data-testid=way-1]').focus()", Vec::new())
        .await?;
    page.keys(" ").await?;
    page.keys(Key::End + "").await?;
    page.keys(" ").await?;
    page.see(By::XPath("//section[@aria-label='Side by side']//th[.='Way 2']")).await?;
    // Who only looks chooses nothing.
    page.gone(By::XPath("//button[.='Use it']")).await?;
    page.keys(Key::Enter + "").await?;
    page.reads("saving", "Revision 1, saved").await?;
    page.keys(Key::Escape + "").await?;
    page.gone(By::XPath("//*[contains(., 'a way that is looked at, not kept')]/ancestor::main"))
        .await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_job_without_a_temperature_says_what_the_search_lacks() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Quarry Cottage", "Site").await?;
    page.enter("Lowest expected ambient", "").await?;
    page.reads("saving", "Revision 2, saved").await?;
    page.stage("Strings").await?;
    tab(&page, "Ways").await?;
    page.see(By::XPath(
        "//*[@role='alert'][contains(., 'lowest expected ambient is missing: cold volts cannot be \
         had')]",
    ))
    .await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn cold_volts_stand_side_by_side_on_the_slip() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Quarry Cottage", "Strings").await?;
    page.press("Verdict of string A").await?;
    // 14 x 39.7 x 1.0825, 1.14 and 1.15.
    for text in ["module coefficient: rules", "601.7 V", "633.6 V", "639.2 V"] {
        page.reads("slip", text).await?;
    }
    page.browser.quit().await
}
