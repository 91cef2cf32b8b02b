//! Protection and earth: enclosures, panels, parties, the bonding graph and what if it fails, by
//! mouse and keyboard, from the screen to the database and back.

use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;

use crate::planning::{desk, kept};

async fn tab(page: &Page, name: &str) -> WebDriverResult<()> {
    let xpath = format!("//button[@role='tab'][starts-with(normalize-space(.), '{name}')]");
    page.see(By::XPath(xpath)).await?.click().await
}

/// The check's line in the list of the stage.
async fn open_check(page: &Page, subject: &str, title: &str) -> WebDriverResult<()> {
    let xpath = format!(
        "//main//li/button[contains(., '{subject}')][contains(., '{title}')][not(@aria-pressed)]"
    );
    page.see(By::XPath(xpath)).await?.click().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_combiner_keeps_its_spare_way_and_devices_move_on_their_rail() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Saltmarsh Nursery", "Protection").await?;
    // Four fused inputs for three strings and a spare one.
    open_check(&page, "CB1", "Inputs of the combiner").await?;
    page.reads("slip", "Holds").await?;
    let place = page.marked("place-CB1").await?;
    place.find(By::XPath(".//li/button[contains(., 'SPARE')]")).await?.click().await?;
    page.press("Take out device SPARE in CB1").await?;
    page.reads("moved", "1 caution more").await?;
    open_check(&page, "CB1", "Inputs of the combiner").await?;
    page.reads("slip", "3 inputs for 3 circuits and 1 spare").await?;
    page.keys(Key::Control + "z").await?;
    page.reads("moved", "1 caution fewer").await?;
    // By keys: the isolator one way to the right, then on top of the surge device.
    let isolator =
        "//*[@data-testid='place-CB1']//*[@role='button'][starts-with(@aria-label, 'DISC')]";
    let own = page.see(By::XPath(isolator)).await?;
    page.browser.execute("arguments[0].focus()", vec![own.to_json()?]).await?;
    page.keys(Key::Right + "").await?;
    // 7 ways at the left before, 8 now, of 4 of 12.
    let job = kept(&page, "plan.nodes.CB1.devices.DISC.left_ways === 8").await?;
    assert_eq!(job["plan"]["nodes"]["CB1"]["devices"]["DISC"]["rail"], 1);
    let own = page.see(By::XPath(isolator)).await?;
    page.browser.execute("arguments[0].focus()", vec![own.to_json()?]).await?;
    page.keys(Key::Right + "").await?;
    page.see(By::XPath(format!("{isolator}[contains(@aria-label, 'must move')]"))).await?;
    open_check(&page, "CB1", "Every device in its place").await?;
    page.reads("slip", "DISC must move").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn the_breaker_is_moved_to_the_far_end_and_the_rule_passes() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Protection").await?;
    tab(&page, "Panels").await?;
    page.choose("PV breaker opposite the main", "no").await?;
    page.enter("Main breaker", "175").await?;
    // 1.25 x 33.3 + 175 = 216.6 A: inside 240, past 200, and the sum is past too.
    kept(&page, "plan.nodes.MP.panel.main_a === 175").await?;
    open_check(&page, "Panel MP", "Busbar rule").await?;
    page.reads("slip", "None of the busbar rules is met").await?;
    page.press("Move it to the far end").await?;
    page.reads("slip", "Holds").await?;
    kept(&page, "plan.nodes.MP.panel.pv_at_far_end === true").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_smaller_main_is_taken_with_what_it_costs() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Pinyon Street duplex", "Protection").await?;
    tab(&page, "Panels").await?;
    let row = "//table[@aria-label='Ways to bring PV onto MP']//tr[contains(., 'A smaller main')]";
    // 180 and the utility's 150, 2.25 h at 65.
    let text = page.see(By::XPath(row)).await?.text().await?;
    assert!(text.contains("476") && text.contains("the utility switches off"), "{text}");
    page.press("Make the main 175 A").await?;
    page.reads("moved", "1 stop fewer").await?;
    kept(&page, "plan.nodes.MP.panel.main_a === 175").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_board_that_is_too_small_is_swapped() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Tern Bay school hall", "Protection").await?;
    tab(&page, "Boards").await?;
    // 34 of the loads and 4 of the breaker: 38 of 36.
    page.enter("Ways of MP taken by loads", "34").await?;
    page.reads("panel-MP", "2 too few").await?;
    page.reads("panel-MP", "48 ways are the next size").await?;
    open_check(&page, "Panel MP", "Ways taken in the panel").await?;
    page.press("Do it: 48").await?;
    page.reads("panel-MP", "10 ways free").await?;
    kept(&page, "plan.nodes.MP.panel.ways_n === 48").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_panel_that_bursts_at_the_fault_current_is_found() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Protection").await?;
    tab(&page, "Panels").await?;
    // 9.5 kA of the supply and 40 A of the inverter against 9 kA.
    page.enter("MP breaks, with its main and loads", "9").await?;
    page.reads("moved", "1 stop more").await?;
    open_check(&page, "Panel MP", "Interrupting rating of the panel").await?;
    page.reads("slip", "540 A too little for its main and breakers").await?;
    page.enter("MP breaks, with its main and loads", "22").await?;
    page.reads("slip", "Holds").await?;
    kept(&page, "plan.nodes.MP.panel.breaking_ka === 22").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_late_demand_says_what_it_changes_and_costs() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Protection").await?;
    tab(&page, "Parties").await?;
    page.from_menu("A demand of the network operator", "A visible and lockable disconnect").await?;
    let key = "network-ac-disconnect";
    page.enter_text(&format!("Who said {key}"), "the operator's desk").await?;
    page.choose(&format!("A breaker will do for {key}"), "no").await?;
    // 130 and 75 minutes at 65 an hour: 211.
    page.reads("demands-sum", "211").await?;
    page.reads(&format!("demand-{key}"), "adds 211, 1.3 h and a label").await?;
    page.press("What would meet it").await?;
    page.reads("slip", "contacts are not seen to be open").await?;
    page.press("Set the disconnect").await?;
    kept(&page, "plan.nodes.D?.devices.DISC?.visible === true").await?;
    page.reads("slip", "Holds").await?;
    // It is on the diagram and gets a label.
    tab(&page, "One-line").await?;
    page.see(By::Css("[aria-label='One-line diagram'] [aria-label='D']")).await?;
    tab(&page, "Labels").await?;
    page.see(By::XPath("//*[@aria-label='Labels by place']//li[contains(., 'PV AC DISCONNECT')]"))
        .await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_face_that_nothing_bonds_is_found_and_mended() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Ground").await?;
    let face = |state: &str| {
        let xpath =
            format!("//*[@role='button'][@aria-label='south-west, frames and rails: {state}']");
        By::XPath(xpath)
    };
    let own = page.see(face("Holds")).await?;
    page.browser.execute("arguments[0].focus()", vec![own.to_json()?]).await?;
    page.keys(Key::Enter + "").await?;
    page.choose("south-west: a conductor leads from its lugs to the box", "no").await?;
    page.see(face("Stop")).await?;
    page.reads("moved", "1 stop more").await?;
    open_check(&page, "Face sw", "Bonded to the electrode").await?;
    page.reads("slip", "Nothing joins it to the electrode").await?;
    page.press("Do it: true").await?;
    page.see(face("Holds")).await?;
    kept(&page, "job.roof.sw.rails.bonded === true").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_fault_is_put_in_and_the_plan_says_what_clears_it() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Quarry Cottage", "Protection").await?;
    tab(&page, "If it fails").await?;
    page.choose("What if", "a line touches a case").await?;
    // 230 / (0.3 + 6 x 2 x 3.08 / 1000 x 1.1965) = 668 A: 10 x 32 are enough.
    page.reads("fault", "Cleared").await?;
    page.reads("fault", "668").await?;
    page.reads("fault", "100 ms").await?;
    let marked = "[aria-label='One-line diagram'] [aria-label='Circuit AC1'][aria-pressed='true']";
    page.see(By::Css(marked)).await?;
    // A weaker supply: the same fault is cleared by nothing.
    tab(&page, "Practice").await?;
    page.enter("Loop outside, Ze", "1").await?;
    page.reads("saving", "saved").await?;
    tab(&page, "If it fails").await?;
    page.choose("What if", "a line touches a case").await?;
    page.reads("fault", "Nothing clears it").await?;
    page.choose("What if", "the grid's neutral is gone in backup").await?;
    page.reads("fault", "Its own electrode holds the earth").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn the_diagram_and_the_labels_are_taken_away_as_files() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "ines", "Pinyon Street duplex", "Protection").await?;
    tab(&page, "One-line").await?;
    let link = page.see(By::XPath("//a[.='PDF']")).await?.attr("href").await?.unwrap_or_default();
    let script = "const done = arguments[1];
        fetch(arguments[0]).then((r) => r.text()).then((t) => done(t.slice(0, 60)));";
    let read = |url: String| {
        let browser = page.browser.clone();
        async move {
            let answer = browser.execute_async(script, vec![url.into()]).await?;
            WebDriverResult::Ok(answer.json().as_str().unwrap_or_default().to_owned())
        }
    };
    assert!(read(link.clone()).await?.starts_with("%PDF-"), "{link}");
    assert!(read(link.replace("/pdf", "/svg")).await?.starts_with("<svg"), "{link}");
    assert!(read(link.replace("/pdf", "/dxf")).await?.contains("SECTION"), "{link}");
    tab(&page, "Labels").await?;
    let link = page.see(By::XPath("//a[contains(., 'true size')]")).await?;
    let link = link.attr("href").await?.unwrap_or_default();
    assert!(read(link.clone()).await?.starts_with("%PDF-"), "{link}");
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn protection_and_earth_fit_a_phone() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(390, 844).await?, &application.url);
    page.sign_in("tomas").await?;
    page.press("Saltmarsh Nursery").await?;
    page.see(By::Css("nav[aria-label='Stages of the job']")).await?;
    let here = page.browser.current_url().await?;
    let at =
        |to: &str| here.path().rsplit_once('/').map_or(String::new(), |(a, _)| format!("{a}/{to}"));
    for to in ["protection", "protection?view=panels", "protection?view=parties", "earth"] {
        page.open(&at(to)).await?;
        page.see(By::Css("main h2")).await?;
        let wide =
            page.browser.execute("return document.documentElement.scrollWidth", Vec::new()).await?;
        assert!(wide.json().as_u64().unwrap_or(9999) <= 390, "{to} is {} wide", wide.json());
    }
    page.browser.quit().await
}
