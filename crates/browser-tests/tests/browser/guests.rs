//! People from outside the company: a seat at a job, and a link that ends.

use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;

#[tokio::test(flavor = "multi_thread")]
async fn an_inspector_is_given_a_job_and_a_link_shows_it_until_it_ends() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let tomas = Page::new(driver.browser(1280, 800).await?, &application.url);
    tomas.sign_in("tomas").await?;
    tomas.job("Tern Bay school hall", "Hand over").await?;
    let seat = tomas.field("Inspector's seat").await?;
    assert!(!seat.is_selected().await?);
    seat.click().await?;
    tomas.press("Make a link").await?;
    let link = tomas.field("Link to the job").await?.value().await?.unwrap_or_default();
    assert!(link.contains("/look#"), "{link}");

    let inspector = Page::new(driver.browser(1280, 800).await?, &application.url);
    inspector.sign_in("inspector").await?;
    inspector.button("Quarry Cottage").await?;
    inspector.gone(By::XPath("//a[.='Pinyon Street duplex']")).await?;
    inspector.gone(By::XPath("//nav//a[.='Data sheets']")).await?;
    inspector.job("Tern Bay school hall", "Strings").await?;
    inspector.see(By::XPath("//header[contains(., 'you look, others plan')]")).await?;
    inspector.browser.quit().await?;

    let guest = Page::new(driver.browser(390, 844).await?, &application.url);
    guest.browser.goto(&link).await?;
    guest.see(By::XPath("//header//h1[.='Tern Bay school hall']")).await?;
    let address = guest.browser.current_url().await?;
    assert!(address.fragment().is_none(), "the token is out of the address: {address}");
    guest.open("/jobs").await?;
    guest.button("Tern Bay school hall").await?;
    guest.gone(By::XPath("//a[.='Quarry Cottage']")).await?;

    tomas.reads("guests", "A link by Tomas Brandt, the present revision, ends").await?;
    tomas
        .see(By::XPath("//button[starts-with(@aria-label, 'End the link')]"))
        .await?
        .click()
        .await?;
    tomas.gone(By::XPath("//button[starts-with(@aria-label, 'End the link')]")).await?;
    guest.open("/jobs").await?;
    guest.field("Password").await?;
    guest.browser.goto(&link).await?;
    guest.see(By::XPath("//*[contains(., 'This link has ended')]")).await?;
    guest.browser.quit().await?;
    tomas.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_link_shows_the_revision_that_was_chosen_and_no_prices() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let tomas = Page::new(driver.browser(1280, 800).await?, &application.url);
    tomas.sign_in("tomas").await?;
    tomas.job("Kestrel Lane workshop", "Hand over").await?;
    tomas.choose("What they see", "revision 1 as it is now").await?;
    tomas.press("Make a link").await?;
    let link = tomas.field("Link to the job").await?.value().await?.unwrap_or_default();
    tomas.reads("guests", "A link by Tomas Brandt, revision 1, ends").await?;
    tomas.stage("Strings").await?;
    tomas.fill("Modules in series of A", "11").await?;
    tomas.see(By::XPath("//*[@data-testid='moved']")).await?;
    tomas.browser.quit().await?;

    let guest = Page::new(driver.browser(1280, 800).await?, &application.url);
    guest.browser.goto(&link).await?;
    guest.see(By::XPath("//header//h1[.='Kestrel Lane workshop']")).await?;
    guest.stage("Hand over").await?;
    guest.see(By::XPath("//*[contains(., 'revision 1, saved')]")).await?;
    guest.see(By::XPath("//*[@data-testid='revision-1']")).await?;
    guest.gone(By::XPath("//*[@data-testid='revision-2']")).await?;
    guest.gone(By::XPath("//button[starts-with(@aria-label, 'Compare revision')]")).await?;
    guest.stage("Protection").await?;
    guest.gone(By::XPath("//*[@data-testid='demands-sum']")).await?;
    guest.browser.quit().await
}
