//! The library, quick sums and weather files on the screen.

use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;

use crate::jobs::File;
use crate::planning::desk;

async fn library(driver: &Driver, application: &Application, who: &str) -> WebDriverResult<Page> {
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in(who).await?;
    page.press("Data sheets").await?;
    page.marked("sheet-list").await?;
    Ok(page)
}

#[tokio::test(flavor = "multi_thread")]
async fn a_module_is_entered_and_checked_while_it_is_typed() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = library(&driver, &application, "tomas").await?;
    page.press("New module").await?;
    page.enter("Maker", "Larkfield").await?;
    page.enter("Model", "LK-400").await?;
    page.enter("Taken from (document, edition, date)", "leaflet, May").await?;
    page.enter("Pmax, rated power", "400").await?;
    page.enter("Voc, open circuit", "33").await?;
    page.enter("Vmp, maximum power", "40").await?;
    page.see(By::XPath("//*[@role='alert'][contains(., 'Vmp 40 V is not below Voc 33 V')]"))
        .await?;
    assert!(!page.button("Keep revision 1").await?.is_enabled().await?);
    page.enter("Voc, open circuit", "40").await?;
    page.enter("Vmp, maximum power", "33").await?;
    page.enter("Coefficient of Voc", "-2.5").await?;
    page.see(By::XPath("//*[@role='alert'][contains(., '-2.5')]")).await?;
    // It can only be below nought: the sign need not be typed.
    page.enter("Coefficient of Voc", "0.25").await?;
    let field = page.field("Coefficient of Voc").await?;
    assert_eq!(field.value().await?.as_deref(), Some("-0.25"));
    // 40 x (1 + 0.0025 x 35) = 43.5 V at −10 °C.
    page.reads("meaning", "43.50 V").await?;
    // At Kestrel Lane: 40 x (1 + 0.0025 x 49) at −24 °C.
    page.choose("at the site of", "Kestrel Lane workshop").await?;
    page.reads("meaning", "44.90 V").await?;
    page.press("Keep revision 1").await?;
    page.reads("kept", "No job holds an older revision").await?;
    page.press("Done").await?;
    page.reads("sheet", "LK-400").await?;
    page.reads("sheet", "leaflet, May").await?;
    page.press("Retire").await?;
    page.reads("sheet-list", "rev 1, retired").await?;
    page.enter("Find a data sheet", "larkfield").await?;
    assert_eq!(page.browser.find_all(By::Css("[data-testid='sheet-list'] li")).await?.len(), 1);
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_table_is_imported_with_an_error_and_without() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = library(&driver, &application, "mira").await?;
    page.press("Import").await?;
    let head = "sheet;revision;maker;model;ratings.voc_v;ratings.vmp_v\n";
    let wrong =
        File::new("wrong.csv", &format!("{head}a;1;Maker;A;40,1;33,2\nb;1;Maker;B;33,2;40,1\n"));
    let input = page.browser.find(By::Css("input[aria-label='File of data sheets']")).await?;
    input.send_keys(wrong.path()).await?;
    page.reads("import-refused", "Nothing is imported").await?;
    page.reads("import-refused", "Row 3, ratings.vmp_v: Vmp 40.1 V is not below Voc 33.2 V")
        .await?;
    let right =
        File::new("right.csv", &format!("{head}a;1;Maker;A;40,1;33,2\nb;1;Maker;B;41,1;34,2\n"));
    input.send_keys(right.path()).await?;
    page.reads("import-preview", "Maker A rev 1").await?;
    assert!(
        !page.button("Import 2 revisions").await?.is_enabled().await?,
        "not without saying where it comes from"
    );
    page.see(By::XPath("//*[@role='dialog']//label[contains(., 'Taken from')]")).await?;
    page.enter("Taken from (document, edition, date)", "price list, March").await?;
    page.press("Import 2 revisions").await?;
    page.reads("import-done", "2 revisions were added").await?;
    page.press("Done").await?;
    page.reads("sheet-list", "A Maker").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn who_only_looks_enters_no_data_sheet() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = library(&driver, &application, "ines").await?;
    page.see(By::XPath("//nav//button[contains(., 'BM-430')][contains(., 'rev 2')]"))
        .await?
        .click()
        .await?;
    page.reads("sheet", "39.2 → 39.4").await?;
    page.gone(By::XPath(
        "//button[starts-with(., 'Enter revision') or starts-with(., 'New ') or \
        .='Import' or .='Retire']",
    ))
    .await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_quick_sum_is_typed_pasted_and_becomes_a_job() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("tomas").await?;
    page.press("Quick sums").await?;
    // 600 / (39.4 x 1.1274) = 13.5.
    page.reads("sum-slip", "Most modules in series").await?;
    page.enter("Coldest morning", "-30").await?;
    // 39.4 x (1 + 0.0026 x 55) x 12 = 540.4 V.
    page.reads("sum-slip", "540.4").await?;
    page.enter("Modules in series", "").await?;
    page.reads("sum-slip", "Modules in series is missing: enter it").await?;
    page.press("Paste inputs").await?;
    let area = page.browser.find(By::Css("textarea")).await?;
    area.send_keys("Modules in series: 11\nModule Voc 45.6 V\nweather fine").await?;
    page.press("Take them").await?;
    page.see(By::XPath(
        "//*[@role='status'][contains(., '2 inputs taken') and contains(., 'weather fine')]",
    ))
    .await?;
    // 11 x 45.6 x 1.143 = 573.3 V (573.33).
    page.reads("sum-slip", "573.3").await?;
    // A reload loses nothing, and nothing is made unasked.
    page.browser.refresh().await?;
    page.reads("sum-slip", "573.3").await?;
    page.press("Turn it into a job").await?;
    let asked = page.see(By::Css("[role='dialog']")).await?.text().await?;
    assert!(asked.contains("45.6") && asked.contains("11"), "{asked}");
    page.press("Make the job").await?;
    page.see(By::XPath("//header//h1[.='Quick sum: String window']")).await?;
    page.see(By::XPath("//main[contains(., '11 modules in 1 string')]")).await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn sums_of_the_other_school_speak_its_words() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("ines").await?;
    page.open("/sums/iec/wire-size").await?;
    page.reads("sum-slip", "IEC 60364-5-52").await?;
    page.enter("Fuse or breaker; ac: else the next standard size", "40").await?;
    page.enter("Rated output (ac)", "33").await?;
    // 41 A at 6 mm².
    page.reads("sum-slip", "41.00 A").await?;
    page.press("North American").await?;
    page.reads("sum-slip", "310.15, 110.14(C)").await?;
    page.gone(By::XPath("//button[.='Turn it into a job']")).await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn temperatures_are_taken_from_a_weather_file_or_it_says_why_not() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Quarry Cottage", "Site").await?;
    let input = page.browser.find(By::Css("input[aria-label='Weather file']")).await?;
    let hot = File::new("hot.csv", "time,dry_bulb\n2023-07-01T00:00,68\n2023-07-01T01:00,95\n");
    input.send_keys(hot.path()).await?;
    page.reads("weather-refused", "most likely °F").await?;
    page.press("Made-up station").await?;
    page.reads("weather-read", "2021: −12.4 °C").await?;
    page.press("Only compare").await?;
    page.reads("saving", "Revision 2, saved").await?;
    // −9.6 against −8 as typed: within 3 °C. 26.6 against 30: 3.4 apart, a caution.
    page.see(By::XPath("//main//li[contains(., '2 % high ambient')][contains(., 'Caution')]"))
        .await?;
    page.press("Made-up station").await?;
    page.see(By::XPath("//button[starts-with(normalize-space(.), 'Take −9.6')]"))
        .await?
        .click()
        .await?;
    page.reads("saving", "Revision 3, saved").await?;
    page.see(By::XPath("//main//li[contains(., '2 % high ambient')][contains(., 'Holds')]"))
        .await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn places_for_the_inverter_are_compared() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Quarry Cottage", "Site").await?;
    page.reads("place-recommended", "garage: cables and losses come to").await?;
    page.enter("DC to garage", "150").await?;
    page.reads("place-recommended", "loft: cables and losses come to").await?;
    page.enter("Latitude of the site, north +", "").await?;
    page.see(By::XPath("//main//p[contains(., 'latitude of the site')]")).await?;
    page.browser.quit().await
}
