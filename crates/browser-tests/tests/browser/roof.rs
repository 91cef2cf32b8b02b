//! The roof map: modules turned, cured, laid and routed on the screen.

use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;

use crate::planning::{desk, kept};

async fn module(page: &Page, name: &str) -> WebDriverResult<WebElement> {
    page.see(By::Css(format!("[data-name='{name}'] text"))).await
}

const STRING_B: &str = "job.strings.find((s) => s.letter === 'B')";

#[tokio::test(flavor = "multi_thread")]
async fn a_module_is_turned_stops_and_is_cured_either_way() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Roof map").await?;
    // As planned B5 lies the wrong way round; its slip stands open, with two ways out.
    page.see(By::XPath("//aside[contains(., '+ of B4 meets + of B5')]")).await?;
    page.press("Turn it").await?;
    kept(&page, &format!("!{STRING_B}.reversed?.length")).await?;
    page.reads("moved", "2 stop fewer").await?;

    // C3 is turned by key: both its joins stop, and its leads are crossed.
    module(&page, "C3").await?.click().await?;
    page.keys("t").await?;
    page.reads("moved", "2 stop more").await?;
    page.see(By::XPath("//aside[contains(., '+ of C2 meets + of C3')]")).await?;
    page.press("Cross its leads").await?;
    let job = kept(&page, "!job.strings.find((s) => s.letter === 'C').reversed?.length").await?;
    assert_eq!(job["roof"]["sw"]["modules"]["sw-003"]["turned"], true);
    page.reads("moved", "2 stop fewer").await?;

    // It walks by arrow: from C3 to C4, which comes off the map and back by undo.
    module(&page, "C3").await?.click().await?;
    page.keys(Key::Right + Key::Delete).await?;
    kept(&page, "!job.roof.sw.modules['sw-004']").await?;
    page.press("Undo").await?;
    kept(&page, "job.roof.sw.modules['sw-004']").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_face_is_laid_routed_and_routed_again_with_a_string_that_stays() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Roof map").await?;
    let on = |face: &str, button: &str| {
        By::XPath(format!("//section[.//h2[.='{face}']]//button[starts-with(., '{button}')]"))
    };
    page.see(on("south-west", "Lay 14")).await?.click().await?;
    page.see(By::XPath("//*[@role='status'][contains(., '14 modules laid')]")).await?;
    kept(&page, &format!("!{STRING_B}.modules?.length")).await?;
    page.see(on("south-west", "Route all")).await?.click().await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'Routed: ')]")).await?;
    let job = kept(&page, &format!("{STRING_B}.modules?.length === 7")).await?;
    let first = job["strings"][1]["modules"].clone();
    page.gone(By::XPath("//aside//*[normalize-space(.)='Stop']")).await?;

    // B stays; C is laid anew by a search that begins with what is there.
    page.see(By::Css("[aria-label='String B stays as it is']")).await?.click().await?;
    page.see(on("south-west", "Search on")).await?.click().await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'as much wire as before')]")).await?;
    let job = kept(&page, &format!("{STRING_B}.modules?.length === 7")).await?;
    assert_eq!(job["strings"][1]["modules"], first);

    // A module is pinned by key, and what is left is routed again around it.
    page.see(By::Css("[aria-label='String B stays as it is']")).await?.click().await?;
    module(&page, "B2").await?.click().await?;
    page.keys("p").await?;
    let second = first[1].as_str().expect("a key");
    kept(&page, &format!("{STRING_B}.pinned?.includes('{second}')")).await?;
    page.see(on("south-west", "Route all")).await?.click().await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'Routed: ')]")).await?;
    let job = kept(&page, &format!("{STRING_B}.modules.includes('{second}')")).await?;
    assert_eq!(job["strings"][1]["pinned"], serde_json::json!([second]));

    // The joins of a string are there to be read.
    page.see(By::XPath("//tr[.//*[contains(., 'joins')]][1]//button")).await?.click().await?;
    page.see(By::XPath("//ol[@aria-label='String A']/li[11]")).await?;
    // A face that is too small says so, and nothing is lost.
    page.enter("Length up the slope", "6").await?;
    page.see(on("south-east", "Lay 12")).await?.click().await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'finds room')]")).await?;
    kept(&page, "Object.keys(job.roof.se.modules).length === 12").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn serials_are_scanned_one_after_the_other_and_a_second_one_is_caught() -> WebDriverResult<()>
{
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Roof map").await?;
    let scan = async |serial: &str| {
        let field = page.field("Serial number, south-east").await?;
        field.scroll_into_view().await?;
        field.send_keys(serial.to_owned() + Key::Enter).await
    };
    // Along the eave: A12, A11, and on.
    scan("BM4300001").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'A12 entered.')]")).await?;
    scan("BM4300002").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'A11 entered.')]")).await?;
    scan("BM4300001").await?;
    let told = "//*[@role='status'][contains(., 'BM4300001 is at A12 already.')]";
    page.see(By::XPath(told)).await?;
    let field = page.field("Serial number, south-east").await?;
    assert_eq!(field.value().await?.as_deref(), Some("BM4300001"), "what was scanned stays");
    field.send_keys(Key::Control + "a").await?;
    // A scanner that sends two at once.
    scan("BM4300003 BM4300004").await?;
    page.see(By::XPath("//*[@role='status'][contains(., '2 serials in one scan')]")).await?;
    let job = kept(&page, "job.roof.se.modules['se-002'].serial === 'BM4300002'").await?;
    assert_eq!(job["roof"]["se"]["modules"]["se-001"]["serial"], "BM4300001");
    page.see(By::XPath("//button[contains(., 'Serial numbers entered')]")).await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn on_the_roof_each_module_has_its_volts_and_the_wrong_one_is_named() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(390, 844).await?, &application.url);
    page.sign_in("ines").await?;
    page.press("Kestrel Lane workshop").await?;
    page.marked("string-window").await?;
    let here = page.browser.current_url().await?;
    page.open(&here.path().replace("strings", "roof")).await?;
    page.press("Plug in string B").await?;
    page.enter("Light now", "800").await?;
    page.enter("Back of a module", "37.6").await?;
    // Cells at 37.6 + 3 x 0.8 = 40 °C: 37.50 V each (cases/cumulative.json).
    page.reads("plug-in", "37.50").await?;
    page.enter("Read after B1", "37.4").await?;
    page.enter("Read after B2", "75.1").await?;
    page.enter("Read after B3", "75.0").await?;
    page.see(By::XPath("//*[@role='alert'][contains(., 'module 3 adds nothing')]")).await?;
    // Light and warmth stay for the next string.
    page.press("Plug in string C").await?;
    assert_eq!(page.field("Light now").await?.value().await?.as_deref(), Some("800"));
    let wide = "document.documentElement.scrollWidth";
    let wide = page.browser.execute(&format!("return {wide}"), Vec::new()).await?;
    assert_eq!(wide.json().as_u64(), Some(390), "nothing is scrolled sideways");
    page.browser.quit().await
}
