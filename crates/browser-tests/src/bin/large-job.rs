//! How long the screens of a large job take: 120 strings on 30 inverters over 60 ways. `large-job`
//! starts a server of its own; `HELIANT_TEST_DATABASE_URL` says on what PostgreSQL.

use heliant_browser_tests::{Application, Driver, Page};
use heliant_core::job::{self, JobInverter, JobString, Letter, Place, RacewayChoice, RacewayKind};
use thirtyfour::prelude::*;

const ROUNDS: usize = 5;
const INVERTERS: u32 = 30;

/// Kestrel Lane grown: four strings of ten to an inverter, two on each input; a way from the
/// roof to every inverter and one from there to the panel.
fn large() -> String {
    let text = include_str!("../../../../data/demo/kestrel-lane.json");
    let mut file = job::read(text).expect("a demo job reads").file;
    let job = &mut file.job;
    "120 strings".clone_into(&mut job.name);
    job.roof.clear();
    job.plan = job::Plan::default();
    let (string, inverter) = (job.strings[0].clone(), job.inverters[0].clone());
    let id = |i: u32| format!("INV{}", i + 1);
    job.inverters =
        (0..INVERTERS).map(|i| JobInverter { id: id(i).into(), ..inverter.clone() }).collect();
    let letter = |i: u32| -> Letter {
        let at = |k: u32| char::from_u32(65 + k).expect("a letter");
        let text =
            if i < 26 { at(i).to_string() } else { format!("{}{}", at(i / 26 - 1), at(i % 26)) };
        text.as_str().into()
    };
    job.strings = (0..4 * INVERTERS)
        .map(|i| JobString {
            letter: letter(i),
            n: 10,
            inverter: id(i / 4).into(),
            mppt: i / 2 % 2 + 1,
            modules: Vec::new(),
            ..string.clone()
        })
        .collect();
    job::settle(job, &mut Vec::new());
    for part in job.plan.ways.values_mut().flat_map(|w| &mut w.parts) {
        (part.place, part.length_m) = (Some(Place::Garage), Some(12.0));
        part.raceway = Some(RacewayChoice { kind: RacewayKind::Emt, size: "1-1/4".to_owned() });
    }
    for leg in job.plan.circuits.values_mut().flat_map(|c| &mut c.legs) {
        leg.wire.awg = Some("8".to_owned());
    }
    file.readings.clear();
    file.to_text()
}

/// Milliseconds from what `begin` does until `seen` is so, looked at once a frame.
async fn took(page: &Page, begin: &str, seen: &[&str]) -> WebDriverResult<Vec<f64>> {
    let looks: Vec<String> = seen.iter().map(|s| format!("() => {s}")).collect();
    let script = format!(
        "const done = arguments[arguments.length - 1];
         const looks = [{}];
         const found = [];
         const start = performance.now();
         {begin};
         const look = () => {{
             while (found.length < looks.length && looks[found.length]())
                 found.push(performance.now() - start);
             if (found.length === looks.length) done(found);
             else requestAnimationFrame(look);
         }};
         requestAnimationFrame(look);",
        looks.join(", ")
    );
    let found = page.browser.execute_async(script, Vec::new()).await?;
    found.convert()
}

/// From another stage of the job to what protects, its diagram, and what is bonded.
async fn staged(page: &Page) -> WebDriverResult<()> {
    let link = |name: &str| {
        format!(
            "[...document.querySelectorAll('nav a')]
                .find((a) => a.textContent.startsWith('{name}')).click()"
        )
    };
    let tab = "[...document.querySelectorAll('[role=tab]')]
        .find((t) => t.textContent.startsWith('One-line'))";
    let press =
        format!("{tab}.dispatchEvent(new MouseEvent('mousedown', {{ bubbles: true, button: 0 }}))");
    let (mut devices, mut diagram, mut bonding) = (Vec::new(), Vec::new(), Vec::new());
    for _ in 0..ROUNDS {
        page.stage("Runs").await?;
        let seen = "document.querySelector('[data-testid^=place-]') !== null";
        devices.push(took(page, &link("Protection"), &[seen]).await?[0]);
        let seen = "document.querySelector(\"svg[aria-label='One-line diagram']\") !== null";
        diagram.push(took(page, &press, &[seen]).await?[0]);
        let seen = "document.querySelector(\"svg[aria-label^='Bonding']\") !== null";
        bonding.push(took(page, &link("Ground"), &[seen]).await?[0]);
    }
    println!(
        "protection {:.0} ms, one-line {:.0} ms, ground {:.0} ms",
        median(devices),
        median(diagram),
        median(bonding)
    );
    Ok(())
}

/// An edit on the drop drawing until its verdicts are drawn, and how fast a part is dragged.
async fn dropped(page: &Page, job: &str, way: &str) -> WebDriverResult<()> {
    page.open("/").await?;
    page.job(job, "Runs").await?;
    page.marked("route-map").await?;
    let part = format!("document.querySelector(\"[data-thing='part/{way}/1']\")");
    page.see(By::Css(format!("[data-thing='part/{way}/1']"))).await?;
    tokio::time::sleep(std::time::Duration::from_secs(1)).await;
    let mut edits = Vec::new();
    for round in 0..2 * ROUNDS {
        // Down and up again: each saves, is judged and drawn anew.
        let key = if round % 2 == 0 { "ArrowDown" } else { "ArrowUp" };
        let begin = format!(
            "window.was = {part}.ownerSVGElement.innerHTML;
             {part}.dispatchEvent(new KeyboardEvent('keydown',
                 {{ key: '{key}', shiftKey: true, bubbles: true }}))"
        );
        let seen = format!("{part}?.ownerSVGElement.innerHTML !== window.was");
        edits.push(took(page, &begin, &[&seen]).await?[0]);
        tokio::time::sleep(std::time::Duration::from_millis(300)).await;
    }
    println!("{job}: an edit on the drawing {:.0} ms to its verdicts", median(edits));
    let script = format!(
        "const done = arguments[arguments.length - 1];
         const part = {part}; const svg = part.ownerSVGElement;
         const r = part.firstElementChild.getBoundingClientRect();
         svg.setPointerCapture = () => {{}};
         const send = (to, kind, y) => to.dispatchEvent(new PointerEvent(kind, {{ bubbles: true,
             button: 0, pointerId: 1, clientX: r.x + r.width / 2, clientY: r.y + 30 + y }}));
         send(part, 'pointerdown', 0);
         const frames = []; let last = performance.now(); let n = 0;
         const step = (now) => {{
             frames.push(now - last); last = now; n += 1;
             if (n > 120) {{
                 send(svg, 'pointermove', 0); send(svg, 'pointerup', 0); done(frames);
             }}
             else {{ send(svg, 'pointermove', 20 + (n * 3) % 60); requestAnimationFrame(step); }}
         }};
         requestAnimationFrame(step);"
    );
    let frames: Vec<f64> = page.browser.execute_async(script, Vec::new()).await?.convert()?;
    let mut sorted = frames.clone();
    sorted.sort_by(f64::total_cmp);
    println!(
        "{job}: a part dragged, {:.1} ms a frame median, {:.1} ms at 95 %",
        median(frames),
        sorted[sorted.len() * 95 / 100]
    );
    Ok(())
}

fn median(mut all: Vec<f64>) -> f64 {
    all.sort_by(f64::total_cmp);
    all[all.len() / 2]
}

#[tokio::main]
async fn main() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = Page::new(driver.browser(1280, 800).await?, &application.url);
    page.sign_in("mira").await?;
    let script = "const done = arguments[arguments.length - 1];
        fetch('/api/jobs/import?offer=false', { method: 'POST', body: arguments[0],
            headers: { 'Content-Type': 'application/json' } })
            .then(async (r) => done(r.status + ' ' + (await r.text()).slice(0, 300)));";
    let answer = page.browser.execute_async(script, vec![large().into()]).await?;
    let answer: String = answer.convert()?;
    assert!(answer.starts_with("20"), "{answer}");
    let rows = |n: usize| {
        format!("document.querySelectorAll(\"[aria-label^='Working of string']\").length >= {n}")
    };
    let (first, all) = (rows(30), rows(120));
    let (mut opened, mut whole) = (Vec::new(), Vec::new());
    for _ in 0..ROUNDS {
        page.open("/").await?;
        page.see(By::XPath("//a[.='120 strings'] | //button[.='120 strings']")).await?;
        let open = "document.evaluate(\"//a[.='120 strings'] | //button[.='120 strings']\", \
            document, null, 9, null).singleNodeValue.click()";
        let found = took(&page, open, &[&first, &all]).await?;
        opened.push(found[0]);
        whole.push(found[1]);
    }
    println!("strings: first rows {:.0} ms, all {:.0} ms", median(opened), median(whole));
    staged(&page).await?;
    dropped(&page, "120 strings", "DC7").await?;
    dropped(&page, "Kestrel Lane workshop", "DC1").await?;
    page.browser.quit().await
}
