//! Live updates reach the browsers of every server before the same database.

use std::time::Duration;

use rocket::futures::StreamExt;
use rocket::http::{Method, Status};
use rocket::tokio::io::{AsyncBufReadExt, BufReader};
use rocket::tokio::time::timeout;
use serde_json::{Value, json};

use crate::bench::{Bench, Person};

#[rocket::async_test]
async fn what_one_server_saves_the_browsers_of_another_hear() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let second = Bench::server(&bench.database).await;
    let response = second.get("/api/events").cookie(tomas.0.clone()).dispatch().await;
    assert_eq!(response.status(), Status::Ok);
    let lines = BufReader::new(response).lines();
    let events = rocket::futures::stream::unfold(lines, |mut lines| async move {
        let line = lines.next_line().await.ok().flatten()?;
        Some((line, lines))
    })
    .filter_map(
        |line| async move { serde_json::from_str::<Value>(line.strip_prefix("data:")?).ok() },
    )
    .filter(|event| std::future::ready(event["job"].is_string()));
    let mut events = Box::pin(events);

    let id = bench.job(&tomas, "Quarry Cottage").await;
    let view = bench.get(&tomas, &format!("/api/jobs/{id}")).await.json();
    // The other server may still be taking up its connection.
    let mut heard = None;
    let mut current = view;
    for i in 0..10 {
        current = bench
            .save(&tomas, &current, |b| b["job"]["notes"] = json!(format!("{i}")))
            .await
            .json();
        if let Ok(Some(event)) = timeout(Duration::from_millis(700), events.next()).await {
            heard = Some(event);
            break;
        }
    }
    let heard = heard.expect("an event within ten saves");
    assert_eq!((heard["job"].as_str(), heard["what"].as_str()), (Some(id.as_str()), Some("saved")));
    assert!(heard["revision"].as_i64() >= Some(2), "{heard}");
}

#[rocket::async_test]
async fn a_stream_ends_with_its_link_however_much_is_said() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    let until = (chrono::Utc::now() + chrono::TimeDelta::seconds(3)).to_rfc3339();
    let (links, body) = (format!("/api/jobs/{id}/links"), json!({ "until": until }));
    let made = bench.post(&tomas, &links, &body).await.json();
    let token = json!({ "token": made["token"] }).to_string();
    let opened = bench.send(None, Method::Post, "/api/session/link", token).await;
    let guest = Person(opened.cookie("heliant_session"));
    let second = Bench::server(&bench.database).await;
    let response = second.get("/api/events").cookie(guest.0.clone()).dispatch().await;
    assert_eq!(response.status(), Status::Ok);
    let mut lines = BufReader::new(response).lines();
    let over = async { while let Ok(Some(_)) = lines.next_line().await {} };
    // Something is said more often than a session is looked at.
    let saying = async {
        let mut view = bench.get(&tomas, &format!("/api/jobs/{id}")).await.json();
        for n in 0.. {
            let saved = bench.save(&tomas, &view, |b| b["job"]["notes"] = json!(format!("{n}")));
            view["revision"] = saved.await.json()["revision"].clone();
            rocket::tokio::time::sleep(Duration::from_millis(200)).await;
        }
    };
    rocket::tokio::select! {
        ended = timeout(Duration::from_secs(20), over) => ended.expect("it ends with its date"),
        () = saying => unreachable!("it goes on saying"),
    }
    let gone = second.get("/api/events").cookie(guest.0).dispatch().await;
    assert_eq!(gone.status(), Status::Unauthorized);
}
