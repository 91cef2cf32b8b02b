//! In the hand: 390 by 844, targets of 48 pixels, text of 16 and more.

use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;

async fn phone(driver: &Driver, application: &Application, who: &str) -> WebDriverResult<Page> {
    let page = Page::new(driver.browser(390, 844).await?, &application.url);
    page.sign_in(who).await?;
    page.press("Kestrel Lane workshop").await?;
    page.marked("saving").await?;
    Ok(page)
}

async fn to_stage(page: &Page, stage: &str) -> WebDriverResult<()> {
    page.see(By::Css("nav button[aria-expanded='false']")).await?.click().await?;
    page.stage(stage).await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_reading_is_taken_by_phone() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = phone(&driver, &application, "ines").await?;
    to_stage(&page, "Test").await?;
    page.press("String C, 7 modules").await?;
    page.reads("expected", "open: irradiance, a temperature").await?;
    page.enter("Irradiance", "618").await?;
    page.enter("Temperature", "39.6").await?;
    // One module 36.93 V now, seven 258.5 V.
    page.reads("expected", "expected 258.5 V").await?;
    page.fill("Voc read", "221.7").await?;
    // 258.5 - 221.7 = 36.8 V: one module.
    page.reads("cause", "one module short").await?;
    page.reads("meter-strip", "221.7 V").await?;
    page.fill("Voc read", "-258.1").await?;
    page.reads("cause", "reversed").await?;
    page.fill("Voc read", "258.1").await?;
    page.reads("expected", "Holds").await?;
    page.press("Keep this reading").await?;
    page.reads("readings", "258.1 V").await?;
    page.browser.refresh().await?;
    page.press("String C, 7 modules").await?;
    page.reads("readings", "258.1 V").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn what_is_typed_stays_when_the_signal_goes() -> WebDriverResult<()> {
    let (mut application, driver) = (Application::start(), Driver::start());
    let page = phone(&driver, &application, "ines").await?;
    to_stage(&page, "Test").await?;
    page.enter("Irradiance", "618").await?;
    page.enter("Temperature", "39.6").await?;
    page.fill("Voc read", "443").await?;
    page.reads("expected", "Holds").await?;
    page.browser.refresh().await?;
    page.reads("expected", "Holds").await?;
    assert_eq!(page.field("Voc read").await?.value().await?.as_deref(), Some("443"));
    application.kill();
    page.press("Keep this reading").await?;
    page.reads("waiting", "1 reading waits for a signal").await?;
    // The next string goes on in the same light.
    page.press("String B, 7 modules").await?;
    page.reads("carried", "just now").await?;
    assert_eq!(page.field("Irradiance").await?.value().await?.as_deref(), Some("618"));
    application.restart();
    page.gone(By::Css("[data-testid='waiting']")).await?;
    page.press("String A, 12 modules").await?;
    let all = page.reads("readings", "443.0 V").await?;
    assert_eq!(all.matches("443.0 V").count(), 1, "it is added once: {all}");
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn targets_and_text_are_large_enough_and_nothing_runs_over_the_edge() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = phone(&driver, &application, "tomas").await?;
    for stage in ["Test", "Site", "Equipment", "Strings", "Runs", "Hand over"] {
        to_stage(&page, stage).await?;
        let wide =
            page.browser.execute("return document.documentElement.scrollWidth", Vec::new()).await?;
        assert_eq!(wide.json().as_u64(), Some(390), "{stage} is wider than the phone");
    }
    to_stage(&page, "Test").await?;
    page.enter("Irradiance", "618").await?;
    page.enter("Temperature", "39.6").await?;
    page.fill("Voc read", "404").await?;
    page.marked("cause").await?;
    let small = page
        .browser
        .execute(
            r#"const seen = (e) => {
                const r = e.getBoundingClientRect();
                return r.width > 0 && r.height > 0;
            };
            const targets = [...document.querySelectorAll(`main button, main input, main select,
                nav button, main a`)].filter(seen)
                .filter((e) => e.getBoundingClientRect().height < 47.5)
                    .map((e) => `target ${e.outerHTML.slice(0, 90)}`);
            const texts = [...document.querySelectorAll('main *, aside *')].filter(seen)
                .filter((e) => [...e.childNodes].some((n) => n.nodeType === 3
                    && n.textContent.trim()))
                .filter((e) => {
                    const svg = e.ownerSVGElement;
                    const drawn = svg && svg.getBoundingClientRect().width;
                    const scale = svg ? drawn / svg.viewBox.baseVal.width : 1;
                    return parseFloat(getComputedStyle(e).fontSize) * scale < 14.9; })
                .filter((e) => !e.closest('[role=img][aria-label*=tape]'))
                .map((e) => `text ${e.tagName} ${e.textContent.slice(0, 60)}`);
            return [...targets, ...texts];"#,
            Vec::new(),
        )
        .await?;
    let small: Vec<String> = small.convert()?;
    assert!(small.is_empty(), "{small:#?}");
    page.browser.quit().await
}
