//! The drop drawing: what is placed, moved, split, led and taken out on it, by mouse and by keys.

use heliant_browser_tests::{Application, Driver, Page};
use thirtyfour::prelude::*;

use crate::jobs::{File, import};
use crate::planning::{desk, kept};

const KESTREL: &str = include_str!("../../../../data/demo/kestrel-lane.json");

async fn thing(page: &Page, key: &str) -> WebDriverResult<WebElement> {
    page.see(By::Css(format!("[data-thing='{key}']"))).await
}

/// Keys on a thing of the drawing.
async fn on(page: &Page, key: &str, keys: &[&str]) -> WebDriverResult<()> {
    thing(page, key).await?.focus().await?;
    for k in keys {
        let chain = page.browser.action_chain();
        match *k {
            "up" | "down" => {
                let arrow = if *k == "up" { Key::Up } else { Key::Down };
                chain.key_down(Key::Shift).send_keys(arrow).key_up(Key::Shift).perform().await?;
            }
            "delete" => chain.send_keys(Key::Delete).perform().await?,
            other => chain.send_keys(other).perform().await?,
        }
    }
    Ok(())
}

async fn lies_in(page: &Page, way: &str, part: usize, place: &str) -> WebDriverResult<()> {
    kept(page, &format!("plan.ways['{way}']?.parts[{}]?.place === '{place}'", part - 1))
        .await
        .map(drop)
}

#[tokio::test(flavor = "multi_thread")]
async fn a_part_is_dragged_to_another_place_and_a_way_is_drawn() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    page.field("All places").await?.click().await?;
    // Its lines lead on into the next band: what is grabbed is the part itself.
    let part = page.see(By::Css("[data-thing='part/DC1/1'] > rect")).await?;
    // From the attic over the thin band of what is inside: 35 px to its lower edge and half of 24.
    let down = 35 + 14;
    let chain = page.browser.action_chain();
    chain
        .move_to_element_center(&part)
        .click_and_hold()
        .move_by_offset(0, down / 2)
        .move_by_offset(0, down - down / 2)
        .release()
        .perform()
        .await?;
    lies_in(&page, "DC1", 1, "inside").await?;
    page.browser
        .action_chain()
        .key_down(Key::Control)
        .send_keys("z")
        .key_up(Key::Control)
        .perform()
        .await?;
    lies_in(&page, "DC1", 1, "attic").await?;
    // From the handle of a box that is picked to the panel.
    thing(&page, "node/RB").await?.click().await?;
    let handle = page.see(By::Css("[data-thing='node/RB'] circle")).await?;
    let panel = thing(&page, "node/MP").await?;
    page.browser
        .action_chain()
        .move_to_element_center(&handle)
        .click_and_hold()
        .move_by_offset(30, 30)
        .move_to_element_center(&panel)
        .release()
        .perform()
        .await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'way RB-1 from RB to MP added')]")).await?;
    kept(&page, "plan.ways['RB-1']?.to === 'MP'").await?;
    // What is picked is taken out by a key.
    on(&page, "part/RB-1/1", &[" ", "delete"]).await?;
    kept(&page, "!plan.ways['RB-1']").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn the_run_of_kestrel_lane_is_built_from_nothing_by_keys() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("tomas").await?;
    let mut file: serde_json::Value = serde_json::from_str(KESTREL).expect("the demo job");
    file["job"]["name"] = "From nothing".into();
    file["job"]["plan"] = serde_json::json!({});
    let file = File::new("nothing.json", &file.to_string());
    import(&page, &file).await?;
    page.press("Import it").await?;
    page.marked("saving").await?;
    page.stage("Runs").await?;
    page.button("Plan the circuits").await?.focus().await?;
    page.keys(Key::Enter + "").await?;
    // The array's way: attic, wall cavity, garage.
    on(&page, "part/DC1/1", &["down", "down", "down", "down", "p"]).await?;
    lies_in(&page, "DC1", 1, "attic").await?;
    on(&page, "part/DC1/2", &["down", "down", "p"]).await?;
    lies_in(&page, "DC1", 2, "cavity").await?;
    on(&page, "part/DC1/3", &["down"]).await?;
    lies_in(&page, "DC1", 3, "garage").await?;
    on(&page, "part/AC1/1", &["up", "up", "up", "up", "up"]).await?;
    lies_in(&page, "AC1", 1, "garage").await?;
    for (part, raceway, length, bends) in [
        (1, "EMT 1", "20 ft", "90 @ 19 ft"),
        (2, "EMT 1", "30' 10\"", "90"),
        (3, "EMT 1", "4 m", "90"),
    ] {
        page.choose(&format!("Raceway of part {part} of DC1"), raceway).await?;
        page.enter(&format!("Length of part {part} of DC1"), length).await?;
        page.enter(&format!("Bends of part {part} of DC1"), bends).await?;
        page.enter(&format!("Rise of part {part} of DC1"), "-2 ft").await?;
    }
    page.press("Pick 4 open wires").await?;
    // 13.85 A by 1.5625 is 21.6 A: 12 AWG ends at 25 A.
    page.see(By::XPath(
        "//ul[@aria-label='Wires picked']/li[contains(., 'A') and contains(., '12 AWG')]",
    ))
    .await?;
    let job = kept(&page, "plan.circuits.A?.legs[0]?.wire?.awg === '12'").await?;
    let parts = &job["plan"]["ways"]["DC1"]["parts"];
    assert_eq!(parts[0]["bends"][0]["deg"], 90.0);
    // 19 ft are 5.7912 m, 30' 10" 9.3980 m.
    assert!((parts[0]["bends"][0]["at_m"].as_f64().expect("m") - 5.7912).abs() < 1e-9);
    assert!((parts[1]["length_m"].as_f64().expect("m") - 9.398).abs() < 1e-9);
    page.reads("route-map", "31 ft").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn too_many_bends_are_cured_by_a_box_on_the_way() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    page.enter("Bends of part 2 of DC1", "ninety").await?;
    page.see(By::XPath("//*[contains(., 'is no bend: as 90, 45 @ 3.5, 90 body, or none')]"))
        .await?;
    // What was typed stays until it is right.
    let field = page.field("Bends of part 2 of DC1").await?;
    assert_eq!(field.value().await?.as_deref(), Some("ninety"));
    page.enter("Bends of part 2 of DC1", "90, 720").await?;
    page.see(By::XPath("//*[@role='alert'][contains(., '720')]")).await?;
    page.enter("Bends of part 2 of DC1", "90, 90, 90").await?;
    // 90 + 270 + 90 between the roof box and the inverter.
    page.reads("moved", "stop more").await?;
    thing(&page, "part/DC1/2").await?.click().await?;
    page.see(By::XPath("//*[@data-testid='picked-bar'][contains(., 'DC1, part 2')]")).await?;
    on(&page, "part/DC1/2", &["b"]).await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'way DC1 split at JB1; DC1-1 goes on')]"))
        .await?;
    // 90 + 270 before the box is what one pull may go round; 90 behind it.
    page.reads("moved", "stop fewer").await?;
    let job = kept(&page, "plan.nodes.JB1").await?;
    let ways = &job["plan"]["ways"];
    // 9.4 m in two halves.
    assert_eq!(ways["DC1"]["parts"][1]["length_m"], 4.7);
    assert_eq!(ways["DC1-1"]["parts"][0]["length_m"], 4.7);
    // Joined again by a key on the box, with all that was in it.
    on(&page, "node/JB1", &["j"]).await?;
    kept(&page, "!plan.nodes.JB1 && plan.ways.DC1.parts.length === 4").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_circuit_is_led_anew_on_the_drawing() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    on(&page, "node/RB", &[" "]).await?;
    page.choose("Way from RB to", "INV1").await?;
    page.press("Draw the way").await?;
    kept(&page, "plan.ways['RB-1']?.to === 'INV1'").await?;
    page.press("Ways of circuit C").await?;
    page.press("Lead it anew").await?;
    on(&page, "part/RB-1/1", &[" "]).await?;
    page.reads("led-over", "RB-1").await?;
    page.press("Lead it so").await?;
    page.see(By::XPath("//*[@role='status'][contains(., 'circuit C goes over RB-1')]")).await?;
    let job = kept(&page, "plan.circuits.C.legs[0].via[0] === 'RB-1'").await?;
    assert_eq!(job["plan"]["circuits"]["B"]["legs"][0]["via"][0], "DC1");
    // Four of 8 AWG and the ground are left in DC1: 31.43 %, two stops fewer.
    page.press("Verdict of part 1 of DC1").await?;
    page.reads("slip", "31.43").await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_phone_has_the_drop_as_a_list_that_edits_the_same() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(390, 844).await?, &application.url);
    page.sign_in("tomas").await?;
    page.press("Kestrel Lane workshop").await?;
    page.marked("saving").await?;
    page.see(By::Css("nav button[aria-expanded='false']")).await?.click().await?;
    page.stage("Runs").await?;
    page.reads("route-list", "RB").await?;
    let rows = page.browser.find_all(By::Css("[data-testid='route-list'] > li")).await?;
    assert_eq!(rows.len(), 7, "three boxes and four parts");
    page.see(By::XPath("//*[@data-testid='route-list']//button[contains(., 'DC1 2')]"))
        .await?
        .click()
        .await?;
    page.press("Down one place").await?;
    lies_in(&page, "DC1", 2, "garage").await?;
    page.press("Up one place").await?;
    lies_in(&page, "DC1", 2, "cavity").await?;
    assert!(page.browser.find_all(By::Css("[data-testid='route-map']")).await?.is_empty());
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn other_wire_is_held_beside_and_taken() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Runs").await?;
    page.see(By::XPath("//summary[contains(., 'Other wire for A')]")).await?.click().await?;
    let table = page.see(By::Css("table[aria-label='Other wire for A']")).await?;
    let text = table.text().await?;
    // 39.0 m of conductor: 2 x 19.5 m are 128 ft.
    for said in ["12 AWG", "8 AWG", "now", "128"] {
        assert!(text.contains(said), "{said} in {text}");
    }
    page.press("Use 10 AWG").await?;
    kept(&page, "plan.circuits.A.legs[0].wire.awg === '10'").await?;
    page.see(By::XPath(
        "//table[@aria-label='Other wire for A']//tr[contains(., '10 AWG') and contains(., 'now')]",
    ))
    .await?;
    page.browser.quit().await
}
