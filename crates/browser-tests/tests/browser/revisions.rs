//! Revisions on the screen: named, compared, looked at, restored; undo over a reload.

use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;

async fn modules_of_a(page: &Page) -> WebDriverResult<Option<String>> {
    page.field("Modules in series of A").await?.prop("value").await
}

async fn saved(page: &Page, revision: u32) -> WebDriverResult<()> {
    page.reads("saving", &format!("Revision {revision}, saved")).await.map(drop)
}

#[tokio::test(flavor = "multi_thread")]
async fn a_revision_is_named_compared_looked_at_and_restored() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("tomas").await?;
    page.job("Kestrel Lane workshop", "Strings").await?;
    page.enter("Modules in series of A", "14").await?;
    saved(&page, 2).await?;
    page.enter("Modules in series of A", "13").await?;
    saved(&page, 3).await?;

    page.press("Revision 3, saved").await?;
    // Of one sitting: the newest stands for the two, the demo's own is somebody's too.
    page.press("Name revision 3").await?;
    page.enter("Name of revision 3", "as offered").await?;
    page.reads("revision-3", "as offered").await?;
    page.press("Compare revision 3").await?;
    let compared = page.reads("comparison", "String A, modules in series").await?;
    assert!(compared.contains("14") && compared.contains("13"), "{compared}");
    page.press("Compare revision 3").await?;
    let two = page.browser.find_all(By::Css("[data-testid='revision-2']")).await?;
    assert_eq!(two.len(), 1, "it begins the sitting before the named one");
    page.press("Compare revision 2").await?;
    page.reads("comparison", "Stop → Holds").await?;

    page.press("Look at revision 2").await?;
    page.see(By::XPath("//*[contains(., 'Revision 2 as it stood')]")).await?;
    page.gone(By::XPath("//*[@role='dialog']")).await?;
    assert_eq!(modules_of_a(&page).await?.as_deref(), Some("14"));
    let field = page.field("Modules in series of A").await?;
    let locked = field.prop("readOnly").await? == Some("true".to_owned())
        || field.prop("disabled").await? == Some("true".to_owned());
    assert!(locked, "an earlier revision is not edited");
    page.press("Back to revision 3").await?;
    assert_eq!(modules_of_a(&page).await?.as_deref(), Some("13"));

    page.press("Revision 3, saved").await?;
    page.press("Restore revision 2").await?;
    saved(&page, 4).await?;
    assert_eq!(modules_of_a(&page).await?.as_deref(), Some("14"));

    // Undone by the keys after a reload, step by step, and done again.
    page.browser.refresh().await?;
    saved(&page, 4).await?;
    page.browser.find(By::Css("h1")).await?.click().await?;
    page.keys(Key::Control + "z").await?;
    saved(&page, 5).await?;
    assert_eq!(modules_of_a(&page).await?.as_deref(), Some("13"));
    page.keys(Key::Control + "z").await?;
    saved(&page, 6).await?;
    assert_eq!(modules_of_a(&page).await?.as_deref(), Some("14"));
    page.keys(Key::Control + "z").await?;
    saved(&page, 7).await?;
    assert_eq!(modules_of_a(&page).await?.as_deref(), Some("12"));
    page.keys(Key::Control + Key::Shift + "z").await?;
    saved(&page, 8).await?;
    assert_eq!(modules_of_a(&page).await?.as_deref(), Some("14"));
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn who_only_looks_compares_and_restores_nothing() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("inspector").await?;
    page.job("Kestrel Lane workshop", "Hand over").await?;
    page.marked("revision-1").await?;
    for word in ["Restore", "Name"] {
        let path = format!("button[aria-label^='{word} revision']");
        assert!(page.browser.find_all(By::Css(path)).await?.is_empty(), "{word}");
    }
    page.browser.quit().await
}
