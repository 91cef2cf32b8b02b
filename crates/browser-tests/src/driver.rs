//! ChromeDriver in a process group of its own, ended as a group.

use std::io::{BufRead, BufReader};
use std::os::unix::process::CommandExt;
use std::process::{Child, Command, Stdio};
use std::sync::atomic::{AtomicU32, Ordering};

use thirtyfour::prelude::*;

const ARGUMENTS: [&str; 12] = [
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-dev-shm-usage",
    "--disable-quic",
    "--no-first-run",
    "--no-default-browser-check",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--hide-scrollbars",
    "--force-device-scale-factor=1",
];

/// A ChromeDriver.
pub struct Driver {
    process: Child,
    url: String,
    profiles: std::path::PathBuf,
    opened: AtomicU32,
}

impl Driver {
    /// Starts one on a free port.
    ///
    /// # Panics
    /// Where Debian's package chromium-driver is missing.
    pub fn start() -> Self {
        let mut process = Command::new("chromedriver")
            .arg("--port=0")
            .process_group(0)
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .expect("chromedriver starts: Debian's package chromium-driver");
        let mut lines = BufReader::new(process.stdout.take().expect("its output is piped")).lines();
        let port = lines
            .find_map(|line| {
                let line = line.ok()?;
                line.split_once("started successfully on port ")
                    .map(|(_, p)| p.trim_end_matches('.').to_owned())
            })
            .expect("chromedriver says its port");
        // Its pipe must not fill up.
        std::thread::spawn(move || lines.for_each(drop));
        let profiles =
            std::env::temp_dir().join(format!("heliant-browser-{}-{port}", std::process::id()));
        Driver {
            process,
            url: format!("http://127.0.0.1:{port}"),
            profiles,
            opened: AtomicU32::new(0),
        }
    }

    /// A browser with a fresh profile and a viewport of this size.
    ///
    /// # Errors
    /// Where Chromium does not start.
    pub async fn browser(&self, width: u32, height: u32) -> WebDriverResult<WebDriver> {
        let mut capabilities = DesiredCapabilities::chrome();
        for argument in ARGUMENTS {
            capabilities.add_arg(argument)?;
        }
        let profile = self.profiles.join(self.opened.fetch_add(1, Ordering::Relaxed).to_string());
        capabilities.add_arg(&format!("--user-data-dir={}", profile.display()))?;
        let browser = WebDriver::new(&self.url, capabilities).await?;
        browser
            .cdp()
            .emulation()
            .set_device_metrics_override(width, height, 1.0, width < 600)
            .await?;
        Ok(browser)
    }
}

impl Drop for Driver {
    fn drop(&mut self) {
        let group = format!("-{}", self.process.id());
        let _ = Command::new("kill").args(["-KILL", "--", &group]).status();
        let _ = self.process.wait();
        let _ = std::fs::remove_dir_all(&self.profiles);
    }
}
