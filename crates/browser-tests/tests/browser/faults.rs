//! What goes wrong around the application: nothing that was typed is lost.

use diesel::{Connection, RunQueryDsl, sql_query};
use heliant_browser_tests::{Application, Driver};
use thirtyfour::prelude::*;

use crate::planning::desk;

/// Saves a revision of the demo job as another server would whose event was missed.
fn somebody_saves(application: &Application, n: u32) {
    application
        .database
        .connect()
        .transaction(|db| {
            sql_query(format!(
                "INSERT INTO job_revisions (job_id, revision, version, document, saved_by) \
                 SELECT job_id, 2, version, jsonb_set(document, '{{job,strings,1,n}}', '{n}'), \
                 'Mira Voss' FROM job_revisions \
                 WHERE document->'job'->>'name' = 'Kestrel Lane workshop'"
            ))
            .execute(db)?;
            sql_query("UPDATE jobs SET revision = 2 WHERE name = 'Kestrel Lane workshop'")
                .execute(db)
        })
        .expect("a revision by somebody else");
}

#[tokio::test(flavor = "multi_thread")]
async fn in_a_conflict_both_versions_are_offered_and_mine_can_stay() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Strings").await?;
    somebody_saves(&application, 9);
    page.enter("Modules in series of A", "11").await?;
    let dialog = page.see(By::Css("[role='dialog']")).await?;
    let text = dialog.text().await?;
    assert!(text.contains("Mira Voss saved in between"), "{text}");
    assert!(text.contains("strings/0/n 11 12") && text.contains("strings/1/n 7 9"), "{text}");
    page.press("Keep mine as revision 3").await?;
    page.reads("saving", "Revision 3, saved").await?;
    assert_eq!(page.field("Modules in series of A").await?.value().await?.as_deref(), Some("11"));
    assert_eq!(page.field("Modules in series of B").await?.value().await?.as_deref(), Some("7"));
    page.stage("Hand over").await?;
    page.see(By::XPath("//section[.//h2[.='Revisions']]//li[contains(., 'Mira Voss')]")).await?;
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn in_a_conflict_theirs_can_stand_and_mine_be_had_back() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Strings").await?;
    somebody_saves(&application, 9);
    page.enter("Modules in series of A", "11").await?;
    page.press("Take theirs").await?;
    page.gone(By::Css("[role='dialog']")).await?;
    assert_eq!(page.field("Modules in series of A").await?.value().await?.as_deref(), Some("12"));
    assert_eq!(page.field("Modules in series of B").await?.value().await?.as_deref(), Some("9"));
    page.press("String A, 12 in series, south-east").await?;
    page.keys(Key::Control + "z").await?;
    page.reads("saving", "Revision 3, saved").await?;
    assert_eq!(page.field("Modules in series of A").await?.value().await?.as_deref(), Some("11"));
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_database_that_stops_while_somebody_types_loses_nothing() -> WebDriverResult<()> {
    let (application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Strings").await?;
    application.database.go_away();
    page.enter("Modules in series of A", "11").await?;
    page.reads("saving", "Not saved: the server is away").await?;
    page.enter("Modules in series of B", "8").await?;
    application.database.come_back();
    page.reads("saving", ", saved").await?;
    page.reads("string-window", "489").await?;
    page.browser.refresh().await?;
    page.marked("string-window").await?;
    assert_eq!(page.field("Modules in series of A").await?.value().await?.as_deref(), Some("11"));
    assert_eq!(page.field("Modules in series of B").await?.value().await?.as_deref(), Some("8"));
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn an_edit_survives_the_server_being_killed_and_the_page_being_closed() -> WebDriverResult<()>
{
    let (mut application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Strings").await?;
    let here = page.browser.current_url().await?;
    application.kill();
    page.enter("Modules in series of A", "11").await?;
    page.reads("saving", "Not saved: the server is away").await?;
    page.browser.goto("about:blank").await?;
    application.restart();
    page.browser.goto(here.as_str()).await?;
    page.reads("saving", "Revision 2, saved").await?;
    assert_eq!(page.field("Modules in series of A").await?.value().await?.as_deref(), Some("11"));
    page.browser.quit().await
}

#[tokio::test(flavor = "multi_thread")]
async fn a_server_killed_amid_saves_leaves_whole_revisions_only() -> WebDriverResult<()> {
    let (mut application, driver) = (Application::start(), Driver::start());
    let page = desk(&driver, &application, "tomas", "Kestrel Lane workshop", "Strings").await?;
    page.press("String B, 7 in series, south-west").await?;
    for _ in 0..3 {
        // Saves run while the server dies.
        page.keys(Key::Right + Key::Right + Key::Left + Key::Left + Key::Right).await?;
        application.kill();
        let broken: Broken = sql_query(
            "SELECT count(*) AS broken FROM jobs j WHERE j.revision <> \
             (SELECT max(revision) FROM job_revisions r WHERE r.job_id = j.id) \
             OR j.revision <> (SELECT count(*) FROM job_revisions r WHERE r.job_id = j.id)",
        )
        .get_result(&mut application.database.connect())
        .expect("the database answers");
        assert_eq!(broken.broken, 0, "a job and its revisions do not agree");
        application.restart();
        page.reads("saving", ", saved").await?;
    }
    // Seven and one more each round: nothing typed was lost.
    assert_eq!(page.field("Modules in series of B").await?.value().await?.as_deref(), Some("10"));
    page.browser.quit().await
}

#[derive(diesel::QueryableByName)]
struct Broken {
    #[diesel(sql_type = diesel::sql_types::BigInt)]
    broken: i64,
}
