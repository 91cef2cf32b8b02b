//! How long a browser with an empty cache takes to the first screen that can be used: `first-screen
//! http://127.0.0.1:PORT`.

use std::time::Instant;

use heliant_browser_tests::{Driver, Page};
use thirtyfour::prelude::*;

const ROUNDS: usize = 9;

#[tokio::main]
async fn main() -> WebDriverResult<()> {
    let url = std::env::args().nth(1).unwrap_or_else(|| "http://127.0.0.1:8400".to_owned());
    let driver = Driver::start();
    let mut sign_in = Vec::new();
    let mut job = Vec::new();
    for _ in 0..ROUNDS {
        let browser = driver.browser(1280, 800).await?;
        let page = Page::new(browser.clone(), &url);
        let start = Instant::now();
        page.open("/").await?;
        page.field("Password").await?;
        sign_in.push(start.elapsed().as_millis());
        page.sign_in("tomas").await?;
        let start = Instant::now();
        page.press("Kestrel Lane workshop").await?;
        page.marked("string-window").await?;
        job.push(start.elapsed().as_millis());
        browser.quit().await?;
    }
    sign_in.sort_unstable();
    job.sort_unstable();
    println!(
        "first screen usable: median {} ms, slowest {} ms",
        sign_in[ROUNDS / 2],
        sign_in[ROUNDS - 1]
    );
    println!(
        "a job opened from the list: median {} ms, slowest {} ms",
        job[ROUNDS / 2],
        job[ROUNDS - 1]
    );
    Ok(())
}
