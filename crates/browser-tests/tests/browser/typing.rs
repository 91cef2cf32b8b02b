//! What is typed: other units are read and shown, nothing is lost by leaving, Enter goes on, and a
//! reading is withdrawn with a reason.

use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;

async fn value(page: &Page, label: &str) -> WebDriverResult<String> {
    Ok(page.field(label).await?.value().await?.unwrap_or_default())
}

#[tokio::test(flavor = "multi_thread")]
async fn units_are_read_as_typed_and_shown_as_chosen() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("mira").await?;
    page.job("Quarry Cottage", "Site").await?;
    // -11 °C is 12.2 °F.
    page.enter("Lowest expected ambient", "12.2 F").await?;
    page.see(By::XPath("//*[@data-testid='saving'][contains(., 'Revision 2, saved')]")).await?;
    assert_eq!(value(&page, "Lowest expected ambient").await?, "-11");
    page.enter("Tilt, °", "4/12").await?;
    page.see(By::XPath("//*[@data-testid='saving'][contains(., 'Revision 3, saved')]")).await?;
    assert_eq!(value(&page, "Tilt, °").await?, "18.43");
    page.open("/me").await?;
    page.choose("Temperatures", "degrees Fahrenheit").await?;
    page.choose("Lengths", "feet").await?;
    page.see(By::XPath("//p[contains(., 'Kept.')]")).await?;
    page.open("/jobs").await?;
    page.job("Quarry Cottage", "Site").await?;
    assert_eq!(value(&page, "Lowest expected ambient").await?, "12.2");
    // 60 °C is 140 °F: what is refused is said as it was typed.
    page.enter("2 % high ambient", "150").await?;
    page.see(By::XPath("//*[@role='alert'][contains(., '140 °F')]")).await?;
    page.enter("2 % high ambient", "86").await?;
    page.stage("Runs").await?;
    page.press("DC1 Roof to inverter").await?;
    page.enter("Length of part 1 of DC1", "60' 6\"").await?;
    page.see(By::XPath("//*[@data-testid='saving'][contains(., 'saved')]")).await?;
    assert_eq!(value(&page, "Length of part 1 of DC1").await?, "60.5");
    page.enter("Length of part 1 of DC1", "six").await?;
    page.see(By::XPath("//*[@role='alert'][contains(., 'cannot be read')]")).await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn what_is_half_typed_survives_reload_back_and_a_stage() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("mira").await?;
    page.job("Quarry Cottage", "Site").await?;
    page.enter_text("Contact", ", or the neighbour").await?;
    page.browser.refresh().await?;
    assert!(value(&page, "Contact").await?.ends_with(", or the neighbour"));
    // By a key to another stage, and by Back.
    page.enter_text("Customer", " and son").await?;
    page.browser.back().await?;
    page.browser.forward().await?;
    assert!(value(&page, "Customer").await?.ends_with(" and son"));
    // What is too long is refused at its field, and blocks nothing else.
    page.fill("Name", &"x".repeat(121)).await?;
    page.see(By::XPath("//*[@role='alert'][contains(., '1 too many')]")).await?;
    page.fill("Address", "Upper Fold 2").await?;
    page.see(By::XPath("//*[@data-testid='saving'][contains(., 'saved')]")).await?;
    page.open("/jobs?find=upper+fold+2").await?;
    page.button("Quarry Cottage").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn enter_keeps_a_reading_and_goes_on_and_one_is_withdrawn() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("ines").await?;
    page.job("Saltmarsh Nursery", "Test").await?;
    page.choose("Temperature of", "cell").await?;
    page.enter("Irradiance", "1000").await?;
    page.enter("Temperature", "25").await?;
    // Judged while it is typed: in full light at 25 °C ten modules read ten times their sheet.
    let expected = page.reads("expected", "expected").await?;
    let volts = expected.split_whitespace().nth(1).unwrap_or_default().to_owned();
    page.enter_text("Voc read", &volts).await?;
    page.reads("expected", "Holds").await?;
    page.keys(Key::Enter + "").await?;
    // The next string, in the same light, the cursor where it is typed.
    page.reads("carried", "just now").await?;
    let chosen = "//button[@aria-pressed='true'][.//*[starts-with(@aria-label, 'B,')]]";
    page.see(By::XPath(chosen)).await?;
    let focused = page.browser.active_element().await?;
    assert_eq!(focused.id().await?, page.field("Voc read").await?.id().await?);
    // One that does not hold stays on the screen with its cause.
    page.keys("12" + Key::Enter).await?;
    page.reads("readings", "12.00 V").await?;
    page.see(By::XPath(chosen)).await?;
    page.press("Withdraw 12.00 V of B").await?;
    page.press("Withdraw it").await?;
    page.see(By::XPath("//*[@role='alert'][contains(., 'The reason is empty')]")).await?;
    page.enter_text("Why it does not count", "probe on the frame").await?;
    page.press("Withdraw it").await?;
    page.reads("readings", "withdrawn by Ines Rowe").await?;
    page.reads("readings", "probe on the frame").await?;
    page.gone(By::XPath("//button[starts-with(@aria-label, 'Withdraw 12')]")).await?;
    page.browser.quit().await
}
