//! A whole job by hand, its clicks and keys counted: 20 modules on two faces, data sheets of the
//! module and the inverter entered anew, ways to wire, both runs, the panel, both tests, the pack.

use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;

/// What was measured, with how it came about.
const MEASURED: &str = include_str!("../../../../docs/performance.md");

/// A person at a desk: every press of a button of the mouse and every key is one.
struct Hand<'a> {
    page: &'a Page,
    clicks: usize,
    keys: usize,
}

impl Hand<'_> {
    async fn click(&mut self, name: &str) -> WebDriverResult<()> {
        self.clicks += 1;
        self.page.press(name).await
    }

    async fn stage(&mut self, name: &str) -> WebDriverResult<()> {
        self.clicks += 1;
        self.page.stage(name).await
    }

    /// An empty field is clicked into and typed in.
    async fn first(&mut self, label: &str, text: &str) -> WebDriverResult<()> {
        self.clicks += 1;
        let field = self.page.field(label).await?;
        field.scroll_into_view().await?;
        field.click().await?;
        self.type_on(text).await
    }

    /// Tab as often as it takes to come to a field, which marks what stands in it; typed over.
    async fn next(&mut self, label: &str, text: &str) -> WebDriverResult<()> {
        let field = self.page.field(label).await?;
        for _ in 0..15 {
            self.keys += 1;
            self.page.keys(Key::Tab + "").await?;
            if self.page.browser.active_element().await?.element_id() == field.element_id() {
                return self.type_on(text).await;
            }
        }
        Err(WebDriverError::FatalError(format!("Tab does not come to {label}")))
    }

    /// Tab to a list, and the letters that its line begins with.
    async fn letters(&mut self, label: &str, letters: &str, line: &str) -> WebDriverResult<()> {
        self.next(label, letters).await?;
        self.takes(label, line).await
    }

    /// The first letters of what was entered before; the field holds all of it.
    async fn begun(&mut self, label: &str, letters: &str, whole: &str) -> WebDriverResult<()> {
        self.type_on(letters).await?;
        let value = self.page.field(label).await?.value().await?;
        assert_eq!(value.as_deref(), Some(whole), "{label}");
        Ok(())
    }

    /// A list is clicked on, its line found by letters and taken by Enter.
    async fn pick(&mut self, label: &str, letters: &str, line: &str) -> WebDriverResult<()> {
        self.clicks += 1;
        self.keys += letters.chars().count() + 1;
        self.page.choose(label, line).await?;
        self.takes(label, line).await
    }

    async fn takes(&self, label: &str, line: &str) -> WebDriverResult<()> {
        let field = self.page.field(label).await?;
        let value = field.value().await?.unwrap_or_default();
        let chosen = field.find(By::Css(format!("option[value='{value}']"))).await?.text().await?;
        assert_eq!(chosen, line, "{label}");
        Ok(())
    }

    /// Keys wherever the cursor is.
    async fn type_on(&mut self, text: &str) -> WebDriverResult<()> {
        self.keys += text.chars().count();
        self.page.keys(text).await
    }

    async fn enter(&mut self) -> WebDriverResult<()> {
        self.keys += 1;
        self.page.keys(Key::Enter + "").await
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn a_whole_job_takes_the_clicks_and_keys_that_are_written_down() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("mira").await?;
    let mut hand = Hand { page: &page, clicks: 0, keys: 0 };

    hand.click("New job").await?;
    hand.type_on("Wren Road").await?;
    hand.enter().await?;
    page.see(By::XPath("//main//h2[.='Site']")).await?;
    hand.first("Lowest expected ambient", "-20").await?;
    hand.next("2 % high ambient", "34").await?;
    hand.letters("Array mounted", "f", "flush with the roof").await?;
    hand.letters("Building", "1", "1- or 2-family dwelling").await?;
    hand.click("Add a face").await?;
    hand.click("Add a face").await?;

    hand.stage("Equipment").await?;
    hand.click("Enter a new module").await?;
    page.field("Taken from (document, edition, date)").await?;
    hand.type_on("LK leaflet").await?;
    for (label, text) in [
        ("Maker", "Larkfield"),
        ("Model", "LK-400"),
        ("Pmax, rated power", "400"),
        ("Voc, open circuit", "37.1"),
        ("Vmp, maximum power", "31.2"),
        ("Isc, short circuit", "13.6"),
        ("Imp, maximum power", "12.82"),
        ("Coefficient of Voc", ".26"),
        ("Coefficient of Pmax", ".3"),
        ("System voltage", "1000"),
        ("Series fuse rating", "25"),
        ("Cells in series", "54"),
    ] {
        hand.next(label, text).await?;
    }
    hand.click("Keep revision 1").await?;
    hand.click("Done").await?;
    hand.click("Enter a new inverter").await?;
    hand.begun("Taken from (document, edition, date)", "L", "LK leaflet").await?;
    hand.next("Maker", "").await?;
    hand.begun("Maker", "L", "Larkfield").await?;
    for (label, text) in [
        ("Model", "LI-8"),
        ("Largest DC volts", "600"),
        ("Connector pairs", "2"),
        ("Tracking from", "90"),
        ("Tracking up to", "560"),
        ("Full power from", "240"),
        ("Full power up to", "480"),
        ("Working amps", "27"),
        ("Short-circuit amps", "34"),
    ] {
        hand.next(label, text).await?;
    }
    // The second input is like the first.
    hand.click("One more like it").await?;
    hand.first("Rated AC output", "7600").await?;
    hand.next("Nominal AC volts", "240").await?;
    hand.next("Rated AC output current", "32").await?;
    hand.click("Keep revision 1").await?;
    hand.click("Done").await?;
    hand.click("Use LI-8 rev 1").await?;
    page.see(By::XPath("//button[contains(., 'LK-400')]")).await?.click().await?;
    hand.clicks += 1;
    hand.click("Start a string of LK-400").await?;

    hand.stage("Strings").await?;
    page.see(By::XPath("//button[@role='tab'][starts-with(., 'Ways')]")).await?.click().await?;
    hand.clicks += 1;
    hand.first("on Face 1", "10").await?;
    hand.next("on Face 2", "10").await?;
    hand.enter().await?;
    page.see(By::XPath("//*[@data-testid='way-1'][contains(., '10')]")).await?;
    hand.click("Use way 1").await?;
    page.reads("string-window", "10 in series").await?;

    hand.stage("Runs").await?;
    hand.pick("Place of part 1 of AC1", "g", "Garage or shed").await?;
    hand.letters("Raceway of part 1 of AC1", "e", "EMT 1/2").await?;
    hand.next("Length of part 1 of AC1", "20").await?;
    hand.pick("Place of part 1 of DC1", "a", "Attic").await?;
    hand.letters("Raceway of part 1 of DC1", "e", "EMT 1/2").await?;
    hand.next("Length of part 1 of DC1", "60").await?;
    hand.click("Pick 3 open wires").await?;
    page.see(By::XPath("//ul[@aria-label='Wires picked']/li[3]")).await?;

    hand.stage("Protection").await?;
    page.see(By::XPath("//button[@role='tab'][starts-with(., 'Panels')]")).await?.click().await?;
    hand.clicks += 1;
    hand.first("Busbar rating", "200").await?;
    hand.next("Main breaker", "200").await?;

    hand.stage("Test").await?;
    hand.first("Irradiance", "800").await?;
    hand.letters("Temperature of", "c", "cell").await?;
    hand.next("Temperature", "25").await?;
    // 10 x (37.1 + 0.026 x 54 x 1.1 x ln 0.8) = 367.6 V at 25 °C.
    hand.next("Voc read", "367").await?;
    page.reads("expected", "Holds").await?;
    hand.enter().await?;
    page.see(By::XPath("//button[@aria-pressed='true'][.//*[starts-with(@aria-label, 'B,')]]"))
        .await?;
    hand.type_on("368").await?;
    page.reads("expected", "Holds").await?;
    hand.enter().await?;
    page.reads("readings", "368.0 V").await?;

    hand.click("Print pack").await?;
    page.see(By::XPath("//*[@role='dialog'][contains(., 'pack')]")).await?;
    let counts = (hand.clicks, hand.keys);
    page.browser.quit().await?;
    let said = format!("| {} clicks and {} keys |", counts.0, counts.1);
    assert!(MEASURED.contains(&said), "docs/performance.md does not say `{said}`");
    Ok(())
}
