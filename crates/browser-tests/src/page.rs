//! What a person does on a page: sign in, click, type, look.

use std::time::Duration;

use heliant_server::demo::PASSWORD;
use thirtyfour::prelude::*;

/// How long something may take to show.
pub const WAIT: Duration = Duration::from_secs(20);

/// A browser on the application.
pub struct Page {
    /// The browser.
    pub browser: WebDriver,
    url: String,
}

/// An XPath string, whatever quotes are in it.
fn quoted(text: &str) -> String {
    if text.contains('\'') { format!("\"{text}\"") } else { format!("'{text}'") }
}

impl Page {
    /// A browser on the application at `url`.
    pub fn new(browser: WebDriver, url: &str) -> Self {
        Page { browser, url: url.to_owned() }
    }

    /// Opens a path of the application.
    ///
    /// # Errors
    /// Of the browser.
    pub async fn open(&self, path: &str) -> WebDriverResult<()> {
        self.browser.goto(format!("{}{path}", self.url)).await
    }

    /// Waits for an element.
    ///
    /// # Errors
    /// Where it does not show in time.
    pub async fn see(&self, by: By) -> WebDriverResult<WebElement> {
        self.see_within(by, WAIT).await
    }

    /// Waits for an element that may take longer.
    ///
    /// # Errors
    /// Where it does not show in time.
    pub async fn see_within(&self, by: By, wait: Duration) -> WebDriverResult<WebElement> {
        // What is drawn anew while it is looked at is looked for again.
        let mut tries = 0;
        loop {
            let query = self.browser.query(by.clone()).wait(wait, Duration::from_millis(50));
            let error = match query.and_displayed().first().await {
                Ok(element) => return Ok(element),
                Err(error) => error,
            };
            tries += 1;
            if tries < 4 && error.to_string().contains("stale") {
                continue;
            }
            let page = self.browser.find(By::Css("body")).await?.text().await.unwrap_or_default();
            let page: String = page.chars().take(600).collect();
            return Err(WebDriverError::FatalError(format!("{error}; the page says: {page}")));
        }
    }

    /// Waits until no such element is there.
    ///
    /// # Errors
    /// Where it stays.
    pub async fn gone(&self, by: By) -> WebDriverResult<()> {
        self.browser.query(by).wait(WAIT, Duration::from_millis(50)).wait_until_gone().await
    }

    /// The element marked for tests.
    ///
    /// # Errors
    /// Where it does not show in time.
    pub async fn marked(&self, id: &str) -> WebDriverResult<WebElement> {
        self.see(By::Css(format!("[data-testid='{id}']"))).await
    }

    /// Waits for a text inside the element marked for tests; gives all of its text.
    ///
    /// # Errors
    /// Where it does not show in time.
    pub async fn reads(&self, id: &str, text: &str) -> WebDriverResult<String> {
        let by = By::XPath(format!(
            "//*[@data-testid='{id}'][contains(normalize-space(.), {})]",
            quoted(text)
        ));
        match self.see(by).await {
            Ok(element) => element.text().await,
            Err(error) => {
                let is = self.marked(id).await?.text().await?;
                Err(WebDriverError::FatalError(format!(
                    "`{id}` should hold `{text}` and holds `{is}` ({error})"
                )))
            }
        }
    }

    /// A button, link or other thing to press, by its name; what it says after a colon may be left
    /// out.
    ///
    /// # Errors
    /// Where it does not show in time.
    pub async fn button(&self, name: &str) -> WebDriverResult<WebElement> {
        let name = quoted(name);
        self.see(By::XPath(format!(
            "//*[self::button or self::a or @role='button' or @role='option' \
                or @role='menuitem'][@aria-label={name} \
                or starts-with(@aria-label, concat({name}, ': ')) or normalize-space(.)={name}]"
        )))
        .await
    }

    /// Presses it.
    ///
    /// # Errors
    /// Where it does not show in time.
    pub async fn press(&self, name: &str) -> WebDriverResult<()> {
        // What is drawn anew between finding and pressing is found again.
        let mut tries = 0;
        loop {
            let button = self.button(name).await?;
            let pressed = match button.scroll_into_view().await {
                Ok(()) => button.click().await,
                Err(error) => Err(error),
            };
            tries += 1;
            match pressed {
                Err(error) if tries < 4 && error.to_string().contains("stale") => {}
                done => return done,
            }
        }
    }

    /// A field by its label.
    ///
    /// # Errors
    /// Where it does not show in time.
    pub async fn field(&self, label: &str) -> WebDriverResult<WebElement> {
        let label = quoted(label);
        self.see(By::XPath(format!(
            "//*[self::input or self::select or self::textarea][@aria-label={label} \
             or @id=//label[normalize-space(.)={label}]/@for \
             or ancestor::label[starts-with(normalize-space(.), {label})]]"
        )))
        .await
    }

    /// Types into a field in place of what was there, and leaves it by Enter.
    ///
    /// # Errors
    /// Where there is no such field.
    pub async fn enter(&self, label: &str, text: &str) -> WebDriverResult<()> {
        let field = self.field(label).await?;
        field.scroll_into_view().await?;
        field.send_keys(Key::Control + "a").await?;
        field.send_keys(Key::Backspace + text).await?;
        field.send_keys(Key::Enter + "").await
    }

    /// Types into a field in place of what was there, and leaves it by Tab.
    ///
    /// # Errors
    /// Where there is no such field.
    pub async fn fill(&self, label: &str, text: &str) -> WebDriverResult<()> {
        let field = self.field(label).await?;
        field.scroll_into_view().await?;
        field.send_keys(Key::Control + "a").await?;
        field.send_keys(Key::Backspace + text).await?;
        field.send_keys(Key::Tab + "").await
    }

    /// Chooses from the menu of a thing.
    ///
    /// # Errors
    /// Where there is no such thing or line.
    pub async fn from_menu(&self, menu: &str, line: &str) -> WebDriverResult<()> {
        self.press(menu).await?;
        self.press(line).await
    }

    /// Types into a field without leaving it.
    ///
    /// # Errors
    /// Where there is no such field.
    pub async fn enter_text(&self, label: &str, text: &str) -> WebDriverResult<()> {
        let field = self.field(label).await?;
        field.scroll_into_view().await?;
        field.send_keys(text).await
    }

    /// Picks from a list by what stands in it.
    ///
    /// # Errors
    /// Where there is no such field or line.
    pub async fn choose(&self, label: &str, line: &str) -> WebDriverResult<()> {
        let field = self.field(label).await?;
        field.scroll_into_view().await?;
        // Some lists are there when they are come to.
        field.focus().await?;
        thirtyfour::components::SelectElement::new(&field).await?.select_by_exact_text(line).await
    }

    /// Presses keys wherever the focus is.
    ///
    /// # Errors
    /// Of the browser.
    pub async fn keys(&self, keys: impl Into<TypingData>) -> WebDriverResult<()> {
        self.browser.active_element().await?.send_keys(keys).await
    }

    /// Signs in with a demo account and waits for the list of jobs.
    ///
    /// # Errors
    /// Where the list does not show.
    pub async fn sign_in(&self, name: &str) -> WebDriverResult<()> {
        self.open("/").await?;
        self.field("Name").await?.send_keys(name).await?;
        self.field("Password").await?.send_keys(PASSWORD).await?;
        self.press("Sign in").await?;
        self.marked("jobs").await.map(drop)
    }

    /// Opens a job from the list, then one of its stages.
    ///
    /// # Errors
    /// Where either does not show.
    pub async fn job(&self, job: &str, stage: &str) -> WebDriverResult<()> {
        self.press(job).await?;
        self.marked("saving").await?;
        self.stage(stage).await
    }

    /// Goes to a stage of the open job by the drop.
    ///
    /// # Errors
    /// Where it does not show.
    pub async fn stage(&self, stage: &str) -> WebDriverResult<()> {
        let name = quoted(stage);
        let link =
            self.see(By::XPath(format!("//nav//a[.//span[normalize-space(.)={name}]]"))).await?;
        link.click().await?;
        self.see(By::XPath(format!("//main//h2[normalize-space(.)={name}]"))).await.map(drop)
    }
}
