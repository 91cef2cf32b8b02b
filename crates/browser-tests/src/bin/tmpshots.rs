use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;
#[tokio::main]
async fn main() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 1400).await?, &application.url);
    page.sign_in("mira").await?;
    page.press("Kestrel Lane workshop").await?;
    page.stage("Runs").await?;
    page.press("Routes compared").await?;
    page.enter("Name of another route", "Outside").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'Outside is drawn from here on')]"))
        .await?;
    page.choose("Place of part 1 of DC1", "Outside wall, in shade").await?;
    page.choose("Raceway of part 1 of DC1", "EMT 1").await?;
    page.choose("Raceway of part 2 of DC1", "EMT 1").await?;
    page.press("Working of Outside").await?;
    tokio::time::sleep(std::time::Duration::from_millis(1500)).await;
    let go = |sel: &str| {
        format!(
            "const e=[...document.querySelectorAll('button')].find(b=>b.textContent.startsWith('{sel}')); e && e.scrollIntoView()"
        )
    };
    page.browser.execute(&go("Routes compared"), vec![]).await?;
    page.browser.screenshot(std::path::Path::new("/tmp/s1.png")).await?;
    page.press("Working of Outside").await?;
    page.press("Cable that is there").await?;
    page.press("Enter a cable").await?;
    page.fill("Length of S1", "70 ft").await?;
    page.fill("Pieces of S1", "2").await?;
    page.see(By::XPath("//summary[contains(., 'Share one budget')]")).await?.click().await?;
    tokio::time::sleep(std::time::Duration::from_millis(1500)).await;
    page.browser.execute(&go("Cable that is"), vec![]).await?;
    page.browser.screenshot(std::path::Path::new("/tmp/s2.png")).await?;
    page.browser.execute("document.querySelector('[aria-label=\"Budget shared\"]').scrollIntoView({block:'center'})", vec![]).await?;
    page.browser.screenshot(std::path::Path::new("/tmp/s3.png")).await?;
    page.press("Verdict of part 1 of AC1").await?;
    page.choose("What if this were in AC1 too", "A").await?;
    tokio::time::sleep(std::time::Duration::from_millis(1200)).await;
    page.browser.screenshot(std::path::Path::new("/tmp/s4.png")).await?;
    page.open("/prices").await?;
    tokio::time::sleep(std::time::Duration::from_millis(900)).await;
    page.browser.screenshot(std::path::Path::new("/tmp/s5.png")).await?;
    page.browser.quit().await
}
