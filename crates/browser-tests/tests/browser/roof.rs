//! The roof map: modules turned, cured, laid and routed on the screen.

use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;

use crate::planning::desk;

/// The job as the server keeps it, once it holds what is waited for.
async fn kept(page: &Page, holds: &str) -> WebDriverResult<serde_json::Value> {
    page.reads("saving", "saved").await?;
    let script = format!(
        "const done = arguments[0];
         const at = location.pathname.replace('/jobs/', '/api/jobs/').replace('/roof', '');
         const ask = (left) => fetch(at).then((r) => r.json()).then(({{ job }}) => {{
           if ({holds}) done(job);
           else if (left === 0) done(null);
           else setTimeout(() => ask(left - 1), 100);
         }});
         ask(50);"
    );
    let answer = page.browser.execute_async(&script, Vec::new()).await?;
    assert!(!answer.json().is_null(), "never kept: {holds}");
    Ok(answer.json().clone())
}

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
