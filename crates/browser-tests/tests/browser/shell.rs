//! The shell: find-or-do, keys, roles, live updates, themes, and that nothing is reported broken
//! underneath.

use std::time::Duration;

use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;

use crate::planning::desk;

#[tokio::test(flavor = "multi_thread")]
async fn everything_is_found_and_done_from_one_line() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Strings").await?;
    page.keys("/").await?;
    let line = page.field("Find or do").await?;
    line.send_keys("b 8").await?;
    page.button("String B: 8 in series").await?;
    line.send_keys(Key::Enter + "").await?;
    page.reads("moved", "B: 7 to 8 modules").await?;

    page.keys("/").await?;
    page.field("Find or do").await?.send_keys("panel mp far end 120").await?;
    page.see(By::XPath("//*[@role='option'][contains(., 'Panel')]")).await?;
    page.keys(Key::Enter + "").await?;
    // 1.25 x 33.3 + 150 = 191.6 A
    page.reads("slip", "191.6").await?;
    page.see(By::XPath("//main//h2[.='Protection']")).await?;

    page.keys("]").await?;
    page.see(By::XPath("//main//h2[.='Ground']")).await?;
    page.keys("[").await?;
    page.see(By::XPath("//main//h2[.='Protection']")).await?;

    page.keys("/").await?;
    page.field("Find or do").await?.send_keys("no such thing at all").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'Nothing has all of these words')]"))
        .await?;
    page.keys(Key::Escape + "").await?;
    page.keys("?").await?;
    page.see(By::XPath("//*[@role='dialog'][contains(., 'find or do')]")).await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn what_one_saves_the_other_sees() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let tomas = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Strings").await?;
    let ines = desk(&driver, &application, "ines", "Kestrel Lane workshop", "Strings").await?;
    tomas.enter("Modules in series of A", "11").await?;
    ines.reads("moved", "Revision 2 by Tomas Brandt").await?;
    // 11 x 39.4 x 1.1274 = 488.6 V
    ines.reads("string-window", "489").await?;
    ines.stage("Test").await?;
    tomas.stage("Test").await?;
    ines.see(By::XPath("//button[contains(., '7 modules')][.//*[starts-with(@aria-label, 'C,')]]"))
        .await?
        .click()
        .await?;
    tomas
        .see(By::XPath("//button[contains(., '7 modules')][.//*[starts-with(@aria-label, 'C,')]]"))
        .await?
        .click()
        .await?;
    ines.enter("Irradiance", "618").await?;
    ines.enter("Temperature", "39.6").await?;
    ines.fill("Voc read", "258.2").await?;
    ines.press("Keep this reading").await?;
    tomas.reads("readings", "258.2 V").await?;
    ines.browser.quit().await?;
    tomas.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn who_only_looks_changes_nothing() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "inspector", "Kestrel Lane workshop", "Strings").await?;
    assert!(page.field("Modules in series of A").await?.attr("readonly").await?.is_some());
    assert!(page.field("Face of A").await?.attr("disabled").await?.is_some());
    for name in ["Add a string", "Take out string A"] {
        let by =
            By::XPath(format!("//button[normalize-space(.)='{name}' or @aria-label='{name}']"));
        assert!(page.browser.find_all(by).await?.is_empty(), "{name}");
    }
    page.press("String A, 12 in series, south-east").await?;
    page.keys(Key::Right + "").await?;
    page.stage("Test").await?;
    page.see(By::XPath("//main[contains(., 'Your role looks')]")).await?;
    page.reads("saving", "Revision 1, saved").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_wrong_password_is_said_and_the_right_one_lets_in_by_keyboard() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.open("/").await?;
    page.field("Name").await?;
    page.keys("mira" + Key::Tab).await?;
    page.keys("wrong" + Key::Enter).await?;
    page.see(By::XPath("//*[@role='alert'][contains(., 'Name or password is wrong')]")).await?;
    page.enter("Password", heliant_server::demo::PASSWORD).await?;
    page.marked("jobs").await?;
    page.press("Sign out").await?;
    page.field("Password").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn every_view_opens_in_both_themes_without_a_complaint_of_the_browser() -> WebDriverResult<()>
{
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("mira").await?;
    for job in ["Kestrel Lane workshop", "Quarry Cottage"] {
        page.press("Light or dusk").await?;
        page.job(job, "Strings").await?;
        let earth = if job.starts_with('K') { "Ground" } else { "Earth" };
        page.see(By::XPath(format!("//nav//*[.='{earth}']"))).await?;
        for stage in ["Site", "Equipment", "Runs", "Test", "Hand over"] {
            page.stage(stage).await?;
            let wide = page
                .browser
                .execute("return document.documentElement.scrollWidth", Vec::new())
                .await?;
            assert_eq!(
                wide.json().as_u64(),
                Some(1280),
                "{stage} of {job} is wider than the screen"
            );
        }
        page.keys("/").await?;
        page.field("Find or do").await?;
        page.keys(Key::Escape + "").await?;
        page.open("/jobs").await?;
    }
    page.press("People").await?;
    page.see(By::XPath("//main[contains(., 'Ines Rowe')]")).await?;
    tokio::time::sleep(Duration::from_millis(300)).await;
    let log = page.browser.browser_log().await?;
    let complaints: Vec<String> =
        log.iter().map(|e| format!("{e:?}")).filter(|e| !e.contains("/api/session")).collect();
    assert!(complaints.is_empty(), "{complaints:#?}");
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_link_from_the_owner_sets_a_password_and_ones_own_is_changed() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("mira").await?;
    page.open("/people").await?;
    page.press("New password for Ines Rowe").await?;
    let link = page.see(By::Css("input[aria-label='Link that sets the password']")).await?;
    let link = link.value().await?.expect("a link");
    // Whoever has the link needs no session.
    page.browser.delete_all_cookies().await?;
    page.browser.goto(&link).await?;
    for field in ["The new one, ten characters or more", "The new one again"] {
        page.field(field).await?.send_keys("a-new-password").await?;
    }
    page.press("Set the password").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'It is set')]")).await?;
    assert!(!page.browser.current_url().await?.as_str().contains('#'), "the token is gone");
    page.press("To the sign-in").await?;
    page.field("Name").await?.send_keys("ines").await?;
    page.field("Password").await?.send_keys("a-new-password").await?;
    page.press("Sign in").await?;
    page.press("Ines Rowe, field").await?;
    page.field("Your password so far").await?.send_keys("a-new-password").await?;
    page.field("The new one, ten characters or more").await?.send_keys("another-password").await?;
    page.field("The new one again").await?.send_keys("another-passw0rd").await?;
    page.press("Set the password").await?;
    page.see(By::XPath("//*[@role='alert'][contains(., 'the same twice')]")).await?;
    let again = page.field("The new one again").await?;
    again.clear().await?;
    again.send_keys("another-password").await?;
    page.press("Set the password").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'It is changed')]")).await?;
    page.browser.quit().await
}
