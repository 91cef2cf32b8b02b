//! Headers, origins, addresses, what is said of faults, and a database that goes away.

use rocket::http::{Method, Status};
use serde_json::json;

use crate::bench::Bench;

#[rocket::async_test]
async fn every_answer_carries_the_security_headers() {
    let bench = Bench::new().await;
    for path in
        ["/", "/jobs", "/assets/app.js", "/api/health", "/api/jobs", "/nowhere.php", "/api/nowhere"]
    {
        let answer = bench.send(None, Method::Get, path, "").await;
        assert_eq!(answer.header("X-Content-Type-Options"), Some("nosniff"), "{path}");
        assert_eq!(answer.header("X-Frame-Options"), Some("DENY"), "{path}");
        let policy = answer.header("Content-Security-Policy").unwrap_or_default();
        assert!(
            policy.contains("default-src 'none'") && !policy.contains("unsafe"),
            "{path}: {policy}"
        );
        assert_eq!(answer.header("Server"), None, "{path}");
    }
}

#[rocket::async_test]
async fn the_page_carries_a_nonce_of_its_own_each_time() {
    let bench = Bench::new().await;
    let (one, two) = (
        bench.send(None, Method::Get, "/", "").await,
        bench.send(None, Method::Get, "/jobs/x/strings", "").await,
    );
    assert!(!one.text.contains("{{nonce}}") && one.text != two.text);
    let nonce =
        one.text.split("content=\"").nth(1).and_then(|t| t.split('"').next()).expect("a nonce");
    assert!(
        one.header("Content-Security-Policy")
            .is_some_and(|p| p.contains(&format!("'nonce-{nonce}'")))
    );
}

#[rocket::async_test]
async fn files_outside_the_front_end_stay_where_they_are() {
    let bench = Bench::new().await;
    for path in [
        "/assets/../../main.rs",
        "/assets/%2e%2e/%2e%2e/main.rs",
        "/assets/..%2f..%2fmain.rs",
        "/assets/.env",
    ] {
        let answer = bench.send(None, Method::Get, path, "").await;
        assert!(
            answer.status.class().is_client_error() || !answer.text.contains("mod bench"),
            "{path}: {}",
            answer.status
        );
    }
}

#[rocket::async_test]
async fn a_request_from_another_site_changes_nothing() {
    let bench = Bench::new().await;
    let mira = bench.person("mira").await;
    let new = json!({ "name": "From elsewhere", "school": "na" }).to_string();
    let foreign = [("Origin", "https://elsewhere.example"), ("Host", "127.0.0.1:8400")];
    let answer =
        bench.send_with(Some(&mira), Method::Post, "/api/jobs", new.clone(), &foreign).await;
    assert_eq!(
        (answer.status, answer.json()["type"].clone()),
        (Status::Forbidden, json!("/problems/wrong-origin"))
    );
    // A browser that says no origin still says that it comes from elsewhere.
    for site in ["cross-site", "same-site"] {
        let site = [("Sec-Fetch-Site", site), ("Host", "127.0.0.1:8400")];
        let answer =
            bench.send_with(Some(&mira), Method::Post, "/api/jobs", new.clone(), &site).await;
        assert_eq!(answer.status, Status::Forbidden, "{site:?}");
    }
    let other_scheme = [("Origin", "https://127.0.0.1:8400"), ("Host", "127.0.0.1:8400")];
    let answer =
        bench.send_with(Some(&mira), Method::Post, "/api/jobs", new.clone(), &other_scheme).await;
    assert_eq!(answer.status, Status::Forbidden);
    let secure = Bench::with(|s| s.secure_cookies = true).await;
    let signed = secure.person("mira").await;
    let sent =
        secure.send_with(Some(&signed), Method::Post, "/api/jobs", new.clone(), &other_scheme);
    assert_eq!(sent.await.status, Status::Ok, "behind a proxy that speaks TLS it is ours");
    let ours = [("Origin", "http://127.0.0.1:8400"), ("Host", "127.0.0.1:8400")];
    assert_eq!(
        bench.send_with(Some(&mira), Method::Post, "/api/jobs", new, &ours).await.status,
        Status::Ok
    );
}

#[rocket::async_test]
async fn the_health_of_server_and_database_is_told() {
    let bench = Bench::new().await;
    assert_eq!(bench.send(None, Method::Get, "/api/health", "").await.status, Status::Ok);
    bench.database.go_away();
    assert_eq!(
        bench.send(None, Method::Get, "/api/health", "").await.status,
        Status::ServiceUnavailable
    );
    bench.database.come_back();
    assert_eq!(bench.send(None, Method::Get, "/api/health", "").await.status, Status::Ok);
}

#[rocket::async_test]
async fn a_database_that_goes_away_is_said_and_taken_up_again() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    let view = bench.get(&tomas, &format!("/api/jobs/{id}")).await.json();
    bench.database.go_away();
    for _ in 0..2 {
        let answer = bench.save(&tomas, &view, |b| b["job"]["notes"] = json!("away")).await;
        assert_eq!(
            (answer.status, answer.json()["type"].clone()),
            (Status::ServiceUnavailable, json!("/problems/database-away"))
        );
    }
    bench.database.come_back();
    let saved = bench.save(&tomas, &view, |b| b["job"]["notes"] = json!("back")).await;
    assert_eq!(
        (saved.status, saved.json()["revision"].as_i64()),
        (Status::Ok, Some(2)),
        "{}",
        saved.text
    );
}

/// Whether two texts say the same: the order of an object's fields is the build's.
fn same_json(a: &str, b: &str) -> bool {
    let read = |text| serde_json::from_str::<serde_json::Value>(text).expect("is JSON");
    read(a) == read(b)
}

#[test]
fn the_catalogue_the_front_end_ships_with_is_current() {
    let kept = include_str!("../../../../web/src/api/catalogue.json");
    let current = same_json(kept, &heliant_core::catalogue::catalogue_text());
    assert!(current, "write it anew: heliant-server catalogue > web/src/api/catalogue.json");
}

#[rocket::async_test]
async fn the_description_of_the_api_is_current() {
    let kept = include_str!("../../../../web/src/api/openapi.json");
    let current = same_json(kept, &heliant_server::openapi_text());
    assert!(current, "write it anew: heliant-server openapi > web/src/api/openapi.json");
    let bench = Bench::new().await;
    let served = bench.send(None, Method::Get, "/api/openapi.json", "").await.json();
    for path in [
        "/api/jobs/{id}",
        "/api/jobs/{id}/revisions/{revision}",
        "/api/accounts/{id}",
        "/api/choices/{school}",
    ] {
        let parameters: Vec<_> = path.split(['{', '}']).skip(1).step_by(2).collect();
        let methods =
            served["paths"][path].as_object().unwrap_or_else(|| panic!("{path} is not described"));
        for (method, described) in methods {
            let named: Vec<&str> = described["parameters"]
                .as_array()
                .into_iter()
                .flatten()
                .filter(|p| p["in"] == "path")
                .filter_map(|p| p["name"].as_str())
                .collect();
            assert_eq!(named, parameters, "{method} {path}");
        }
    }
}
