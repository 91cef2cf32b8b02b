//! Signing in and out, roles, people.

use diesel::RunQueryDsl;
use rocket::http::{Method, Status};
use serde_json::json;

use crate::bench::Bench;

#[rocket::async_test]
async fn a_session_is_a_cookie_no_script_can_read() {
    let bench = Bench::new().await;
    let answer = bench.sign_in("MIRA ", heliant_server::demo::PASSWORD).await;
    assert_eq!(answer.status, Status::Ok);
    assert_eq!(answer.json()["role"], "owner");
    for name in ["heliant_session", "heliant_device"] {
        let cookie = answer.cookie(name);
        let strict = Some(rocket::http::SameSite::Strict);
        assert_eq!((cookie.http_only(), cookie.same_site()), (Some(true), strict), "{name}");
    }
}

#[rocket::async_test]
async fn signing_out_ends_the_session_on_the_server() {
    let bench = Bench::new().await;
    let mira = bench.person("mira").await;
    assert_eq!(bench.get(&mira, "/api/session").await.json()["name"], "Mira Voss");
    assert_eq!(
        bench.send(Some(&mira), Method::Delete, "/api/session", "").await.status,
        Status::NoContent
    );
    assert_eq!(
        bench.get(&mira, "/api/session").await.status,
        Status::Unauthorized,
        "the old cookie is worth nothing"
    );
}

#[rocket::async_test]
async fn wrong_passwords_have_to_wait_and_say_so() {
    let bench = Bench::new().await;
    for _ in 0..5 {
        assert_eq!(bench.sign_in("tomas", "wrong").await.status, Status::Unauthorized);
    }
    let answer = bench.sign_in("tomas", heliant_server::demo::PASSWORD).await;
    assert_eq!(answer.status, Status::TooManyRequests, "even the right one, now");
    let wait: u64 = answer.header("Retry-After").and_then(|s| s.parse().ok()).expect("seconds");
    assert!((25..=30).contains(&wait), "half a minute after the fifth, not {wait} s");
    assert_eq!(
        bench.sign_in("ines", heliant_server::demo::PASSWORD).await.status,
        Status::Ok,
        "others are not held up"
    );
    // It is the database that counts: another server knows it too.
    let second = Bench {
        client: Bench::server(&bench.database).await,
        database: heliant_testing::TestDatabase::new(),
    };
    assert_eq!(
        second.sign_in("tomas", heliant_server::demo::PASSWORD).await.status,
        Status::TooManyRequests
    );
}

#[rocket::async_test]
async fn a_name_that_is_not_there_is_answered_like_a_wrong_password() {
    let bench = Bench::new().await;
    let (nobody, wrong) =
        (bench.sign_in("nobody", "wrong").await, bench.sign_in("mira", "wrong").await);
    assert_eq!(
        (nobody.status, nobody.json()["title"].clone()),
        (wrong.status, wrong.json()["title"].clone())
    );
}

#[rocket::async_test]
async fn passwords_are_kept_as_argon2id_and_sessions_as_hashes() {
    use diesel::sql_types::{Bool, Text};
    #[derive(diesel::QueryableByName)]
    struct Kept {
        #[diesel(sql_type = Text)]
        password_hash: String,
        #[diesel(sql_type = Bool)]
        token_kept: bool,
    }
    let bench = Bench::new().await;
    let mira = bench.person("mira").await;
    let token = mira.0.value().to_owned();
    let kept: Kept = diesel::sql_query(
        "SELECT password_hash, EXISTS (SELECT 1 FROM sessions \
         WHERE encode(token_hash, 'escape') = $1 OR encode(token_hash, 'hex') = $1) \
         AS token_kept FROM accounts WHERE sign_in = 'mira'",
    )
    .bind::<Text, _>(token)
    .get_result(&mut bench.database.connect())
    .expect("the account");
    assert!(kept.password_hash.starts_with("$argon2id$"), "{}", kept.password_hash);
    assert!(!kept.token_kept, "the cookie's own value is in the database");
}

#[rocket::async_test]
async fn each_role_may_do_what_it_may_and_no_more() {
    let bench = Bench::new().await;
    let mira = bench.person("mira").await;
    let id = bench.job(&mira, "Kestrel Lane workshop").await;
    let view = bench.get(&mira, &format!("/api/jobs/{id}")).await.json();
    let reading = json!({ "string": "C", "irradiance_w_m2": 600, "back_c": 39, "voc_v": 258 });
    let new = json!({ "name": "One more", "school": "na" });
    for (name, plans, reads, manages) in [
        ("mira", true, true, true),
        ("tomas", true, true, false),
        ("ines", false, true, false),
        ("inspector", false, false, false),
    ] {
        let person = bench.person(name).await;
        let may = |allowed: bool| if allowed { Status::Ok } else { Status::Forbidden };
        assert_eq!(
            bench.get(&person, &format!("/api/jobs/{id}")).await.status,
            Status::Ok,
            "{name} looks"
        );
        assert_eq!(
            bench.get(&person, &format!("/api/jobs/{id}/export")).await.status,
            Status::Ok,
            "{name} exports"
        );
        assert_eq!(
            bench.post(&person, "/api/jobs", &new).await.status,
            may(plans),
            "{name} makes a job"
        );
        assert_eq!(
            bench.post(&person, &format!("/api/jobs/{id}/duplicate"), &json!({})).await.status,
            may(plans),
            "{name} copies"
        );
        let export = bench.get(&mira, &format!("/api/jobs/{id}/export")).await.json();
        assert_eq!(
            bench.post(&person, "/api/jobs/import", &export).await.status,
            may(plans),
            "{name} imports"
        );
        let saved = bench.save(&person, &view, |_| {}).await.status;
        assert_eq!(saved == Status::Forbidden, !plans, "{name} saves: {saved}");
        assert_eq!(
            bench.post(&person, &format!("/api/jobs/{id}/readings"), &reading).await.status,
            may(reads),
            "{name} reads"
        );
        assert_eq!(
            bench.get(&person, "/api/accounts").await.status,
            may(manages),
            "{name} sees people"
        );
        let entry = json!({ "name": "New", "sign_in": format!("new-{name}"), "role": "owner",
            "password": "0123456789" });
        assert_eq!(
            bench.post(&person, "/api/accounts", &entry).await.status,
            may(manages),
            "{name} lets somebody in"
        );
    }
}

#[rocket::async_test]
async fn nobody_gets_anything_unsigned() {
    let bench = Bench::new().await;
    let mira = bench.person("mira").await;
    let id = bench.job(&mira, "Kestrel Lane workshop").await;
    for path in ["/api/jobs", "/api/library", "/api/accounts", "/api/events", "/api/choices/na"] {
        assert_eq!(
            bench.send(None, Method::Get, path, "").await.status,
            Status::Unauthorized,
            "{path}"
        );
    }
    for part in ["", "/revisions", "/revisions/1", "/export", "/pack.pdf"] {
        let answer = bench.send(None, Method::Get, &format!("/api/jobs/{id}{part}"), "").await;
        assert_eq!(
            (answer.status, answer.header("Content-Type")),
            (Status::Unauthorized, Some("application/problem+json")),
            "{part}"
        );
    }
    for (method, part) in [
        (Method::Put, ""),
        (Method::Post, "/readings"),
        (Method::Post, "/readings/preview"),
        (Method::Post, "/duplicate"),
    ] {
        let answer = bench.send(None, method, &format!("/api/jobs/{id}{part}"), "{}").await;
        assert_eq!(answer.status, Status::Unauthorized, "{part}");
    }
}

#[rocket::async_test]
async fn shutting_somebody_out_ends_their_sessions_and_the_last_owner_stays() {
    let bench = Bench::new().await;
    let (mira, ines) = (bench.person("mira").await, bench.person("ines").await);
    let people = bench.get(&mira, "/api/accounts").await.json();
    let id_of = |name: &str| {
        people.as_array().expect("a list").iter().find(|p| p["sign_in"] == name)
            .expect("there")["id"].clone()
    };
    let path = |name: &str| format!("/api/accounts/{}", id_of(name).as_str().expect("an id"));
    let out = json!({ "role": "field", "disabled": true }).to_string();
    assert_eq!(bench.send(Some(&mira), Method::Patch, &path("ines"), out).await.status, Status::Ok);
    assert_eq!(bench.get(&ines, "/api/jobs").await.status, Status::Unauthorized);
    assert_eq!(
        bench.sign_in("ines", heliant_server::demo::PASSWORD).await.status,
        Status::Unauthorized
    );
    let down = json!({ "role": "designer", "disabled": false }).to_string();
    let answer = bench.send(Some(&mira), Method::Patch, &path("mira"), down).await;
    assert_eq!(answer.status, Status::Forbidden);
    assert!(answer.text.contains("last one"), "{}", answer.text);
}

#[rocket::async_test]
async fn a_bad_account_is_refused_at_the_field() {
    let bench = Bench::new().await;
    let mira = bench.person("mira").await;
    let entry = json!({ "name": " ", "sign_in": "x", "role": "field", "password": "short" });
    let answer = bench.post(&mira, "/api/accounts", &entry).await;
    assert_eq!(
        (answer.status, answer.places()),
        (Status::UnprocessableEntity, vec!["/name".to_owned(), "/password".to_owned()])
    );
    let taken =
        json!({ "name": "Other", "sign_in": "Tomas", "role": "field", "password": "0123456789" });
    assert_eq!(bench.post(&mira, "/api/accounts", &taken).await.places(), ["/sign_in"]);
}

#[rocket::async_test]
async fn the_callers_address_is_not_its_own_word() {
    let bench = Bench::new().await;
    // Thirty wrong passwords from one address make it wait, whatever it says of itself and whatever
    // name it tries.
    let mut last = Status::Ok;
    for i in 0..31 {
        let body = json!({ "sign_in": format!("nobody-{i}"), "password": "wrong" }).to_string();
        let address: &'static str = Box::leak(format!("10.0.0.{i}").into_boxed_str());
        last = bench
            .send_with(None, Method::Post, "/api/session", body, &[("X-Real-IP", address)])
            .await
            .status;
    }
    assert_eq!(last, Status::TooManyRequests);
}
