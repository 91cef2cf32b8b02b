//! Every screen under axe-core's rules of WCAG 2 A and AA, in both themes, on a desk and on a
//! phone: nothing serious, nothing critical.

use std::fmt::Write as _;

use heliant_browser_tests::{Application, Driver, Page};
use serde_json::Value;
use thirtyfour::prelude::*;

/// One of the front end's own development packages.
const AXE: &str =
    concat!(env!("CARGO_MANIFEST_DIR"), "/../../web/node_modules/axe-core/axe.min.js");

const RUN: &str = "\
    const done = arguments[0]; \
    axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa'] }) \
        .then((r) => done(r.violations.filter((v) => ['serious', 'critical'].includes(v.impact)) \
            .map((v) => ({ id: v.id, help: v.help, \
                nodes: v.nodes.slice(0, 4).map((n) => `${n.html.slice(0, 200)} | ` + \
                    [...n.any, ...n.all].map((c) => c.message).join(' ')) })))) \
        .catch((e) => done([{ id: 'not run', help: String(e), nodes: [] }]))";

/// What is wrong with the page as it is, in lines.
async fn wrong(page: &Page, said: &mut String, where_: &str) -> WebDriverResult<()> {
    // What is still loading is not the screen.
    let settled = "document.fonts.ready.then(() => setTimeout(arguments[0], 300))";
    page.browser.execute_async(settled, Vec::new()).await?;
    let axe = std::fs::read_to_string(AXE).expect("axe-core: npm ci in web");
    page.browser.execute(&axe, Vec::new()).await?;
    let found = page.browser.execute_async(RUN, Vec::new()).await?;
    for violation in found.json().as_array().into_iter().flatten() {
        let text = |v: &Value, key: &str| v[key].as_str().unwrap_or_default().to_owned();
        let _ = writeln!(said, "{where_}: {} ({})", text(violation, "id"), text(violation, "help"));
        for node in violation["nodes"].as_array().into_iter().flatten() {
            let _ = writeln!(said, "    {}", node.as_str().unwrap_or_default());
        }
    }
    Ok(())
}

/// Opens every screen in one theme at one size and gathers what is wrong with it.
async fn every_screen(theme: &str, width: u32, height: u32) -> WebDriverResult<String> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(width, height).await?, &application.url);
    let mut said = String::new();
    page.open("/").await?;
    let choose = format!("localStorage.setItem('heliant.theme', '{theme}')");
    page.browser.execute(&choose, Vec::new()).await?;
    page.open("/").await?;
    page.field("Name").await?;
    wrong(&page, &mut said, "sign in").await?;
    page.sign_in("mira").await?;
    wrong(&page, &mut said, "jobs").await?;
    for (path, mark) in [
        ("/library?sheet=inverter/marrow-h6/2", "[data-testid='sheet']"),
        ("/sums/na/wire-size", "[data-testid='sum-slip']"),
        ("/people", "main"),
        ("/me", "main"),
    ] {
        page.open(path).await?;
        page.see(By::Css(mark)).await?;
        wrong(&page, &mut said, path).await?;
    }
    for (job, stages) in [
        (
            "Kestrel Lane workshop",
            ["site", "equipment", "strings", "roof", "runs", "test", "handover"].as_slice(),
        ),
        ("Pinyon Street duplex", ["strings", "roof"].as_slice()),
        ("Quarry Cottage", ["strings", "runs"].as_slice()),
    ] {
        page.open("/jobs").await?;
        page.press(job).await?;
        page.marked("saving").await?;
        let here = page.browser.current_url().await?.path().to_owned();
        let base = here.rsplit_once('/').map_or(here.as_str(), |(base, _)| base).to_owned();
        for stage in stages {
            page.open(&format!("{base}/{stage}")).await?;
            page.see(By::Css("main h2")).await?;
            wrong(&page, &mut said, &format!("{job}, {stage}")).await?;
        }
    }
    page.keys("/").await?;
    page.see(By::Css("[role='dialog']")).await?;
    wrong(&page, &mut said, "find or do").await?;
    page.browser.action_chain().send_keys(Key::Escape).perform().await?;
    page.gone(By::Css("[role='dialog']")).await?;
    page.press("Revision 1, saved").await?;
    page.press("Name revision 1").await?;
    wrong(&page, &mut said, "revisions").await?;
    page.browser.quit().await?;
    Ok(said)
}

#[tokio::test(flavor = "multi_thread")]
async fn a_desk_in_the_light() -> WebDriverResult<()> {
    let said = every_screen("light", 1280, 800).await?;
    assert!(said.is_empty(), "{said}");
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_desk_at_dusk() -> WebDriverResult<()> {
    let said = every_screen("dusk", 1280, 800).await?;
    assert!(said.is_empty(), "{said}");
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_phone_in_the_light() -> WebDriverResult<()> {
    let said = every_screen("light", 390, 844).await?;
    assert!(said.is_empty(), "{said}");
    Ok(())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_phone_at_dusk() -> WebDriverResult<()> {
    let said = every_screen("dusk", 390, 844).await?;
    assert!(said.is_empty(), "{said}");
    Ok(())
}
