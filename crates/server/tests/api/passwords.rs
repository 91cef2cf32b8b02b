//! Floods of sign-ins, who has to wait and who has not, and passwords that change.

use std::net::SocketAddr;
use std::time::{Duration, Instant};

use heliant_server::demo::PASSWORD;
use rocket::futures::future::join_all;
use rocket::http::{ContentType, Cookie, Method, Status};
use serde_json::{Value, json};

use crate::bench::{Answer, Bench, Person, answer};

/// Signs in from an address, with a cookie.
async fn from(
    bench: &Bench,
    address: &str,
    name: &str,
    password: &str,
    cookie: Option<Cookie<'static>>,
) -> Answer {
    let body = json!({ "sign_in": name, "password": password }).to_string();
    let address: SocketAddr = address.parse().expect("an address");
    let mut request =
        bench.client.post("/api/session").header(ContentType::JSON).remote(address).body(body);
    if let Some(cookie) = cookie {
        request = request.cookie(cookie);
    }
    answer(request.dispatch().await).await
}

const ATTACKER: &str = "203.0.113.7:4000";
const OFFICE: &str = "198.51.100.2:4000";

#[rocket::async_test]
async fn asking_at_once_does_not_get_past_the_limit() {
    let bench = Bench::new().await;
    let tries = (0..30).map(|_| from(&bench, ATTACKER, "mira", "wrong", None));
    let answers = join_all(tries).await;
    let of = |status: Status| answers.iter().filter(|a| a.status == status).count();
    // Five are free; whoever is too many at once is not looked at and not counted.
    assert!(of(Status::Unauthorized) <= 5, "{} were looked at", of(Status::Unauthorized));
    assert_eq!(of(Status::Unauthorized) + of(Status::TooManyRequests), 30);
}

#[rocket::async_test]
async fn wrong_passwords_from_elsewhere_keep_nobody_out() {
    let bench = Bench::new().await;
    for _ in 0..5 {
        from(&bench, ATTACKER, "mira", "wrong", None).await;
    }
    let again = from(&bench, ATTACKER, "mira", PASSWORD, None).await;
    assert_eq!(again.status, Status::TooManyRequests, "the one who tried has to wait");
    assert_eq!(from(&bench, OFFICE, "mira", PASSWORD, None).await.status, Status::Ok);
    assert_eq!(from(&bench, ATTACKER, "tomas", PASSWORD, None).await.status, Status::Ok);
}

#[rocket::async_test]
async fn a_device_that_was_known_is_let_through_where_strangers_wait() {
    let bench = Bench::new().await;
    let signed = from(&bench, OFFICE, "mira", PASSWORD, None).await;
    let device = signed.cookie("heliant_device");
    // Behind the same address somebody tries, for her and for anybody.
    for i in 0..30 {
        from(&bench, OFFICE, &format!("nobody-{i}"), "wrong", None).await;
    }
    let stranger = from(&bench, OFFICE, "mira", PASSWORD, None).await;
    assert_eq!(stranger.status, Status::TooManyRequests);
    let known = from(&bench, OFFICE, "mira", PASSWORD, Some(device.clone())).await;
    assert_eq!(known.status, Status::Ok, "{}", known.text);
    let session = signed.cookie("heliant_session");
    assert_eq!(from(&bench, OFFICE, "mira", PASSWORD, Some(session)).await.status, Status::Ok);
    // It is known for her, not for others, and has a count of its own.
    let other = from(&bench, OFFICE, "tomas", PASSWORD, Some(device.clone())).await;
    assert_eq!(other.status, Status::TooManyRequests);
    for _ in 0..5 {
        from(&bench, OFFICE, "mira", "wrong", Some(device.clone())).await;
    }
    let worn = from(&bench, OFFICE, "mira", PASSWORD, Some(device)).await;
    assert_eq!(worn.status, Status::TooManyRequests, "a stolen device guesses no longer either");
}

async fn id_of(bench: &Bench, owner: &Person, name: &str) -> String {
    let people = bench.get(owner, "/api/accounts").await.json();
    let list = people.as_array().expect("a list");
    let own = list.iter().find(|p| p["sign_in"] == name).expect("there");
    own["id"].as_str().expect("an id").to_owned()
}

#[rocket::async_test]
async fn the_owner_unlocks_and_sees_how_often_it_was_wrong() {
    let bench = Bench::new().await;
    let mira = bench.person("mira").await;
    for _ in 0..5 {
        bench.sign_in("ines", "wrong").await;
    }
    assert_eq!(bench.sign_in("ines", PASSWORD).await.status, Status::TooManyRequests);
    let wrong = |people: Value| {
        let list = people.as_array().expect("a list").clone();
        list.into_iter().find(|p| p["sign_in"] == "ines").expect("there")["wrong_n"].clone()
    };
    assert_eq!(wrong(bench.get(&mira, "/api/accounts").await.json()), 5);
    let path = format!("/api/accounts/{}/unlock", id_of(&bench, &mira, "ines").await);
    let tomas = bench.person("tomas").await;
    let refused = bench.send(Some(&tomas), Method::Post, &path, "").await;
    assert_eq!(refused.status, Status::Forbidden);
    assert_eq!(bench.send(Some(&mira), Method::Post, &path, "").await.status, Status::NoContent);
    assert_eq!(bench.sign_in("ines", PASSWORD).await.status, Status::Ok);
    assert_eq!(wrong(bench.get(&mira, "/api/accounts").await.json()), 0);
}

/// The quickest of some tries.
async fn quickest(bench: &Bench, names: &[String]) -> Duration {
    let mut best = Duration::MAX;
    for (i, name) in names.iter().enumerate() {
        let began = Instant::now();
        let answer = from(bench, &format!("192.0.2.{i}:1"), name, "wrong", None).await;
        assert_eq!(answer.status, Status::Unauthorized, "{}", answer.text);
        best = best.min(began.elapsed());
    }
    best
}

#[rocket::async_test]
async fn names_that_are_there_are_not_told_by_the_time_an_answer_takes() {
    let bench = Bench::new().await;
    let mira = bench.person("mira").await;
    let path = format!("/api/accounts/{}", id_of(&bench, &mira, "ines").await);
    let out = json!({ "role": "field", "disabled": true }).to_string();
    assert_eq!(bench.send(Some(&mira), Method::Patch, &path, out).await.status, Status::Ok);
    let alike = |name: &str| vec![name.to_owned(); 12];
    let (known, disabled) =
        (quickest(&bench, &alike("tomas")).await, quickest(&bench, &alike("ines")).await);
    let unknown = quickest(&bench, &alike("nobody")).await;
    // One hash each; two would be twice the time, none a hundredth.
    for (what, time) in [("disabled", disabled), ("unknown", unknown)] {
        let ratio = time.as_secs_f64() / known.as_secs_f64();
        assert!((0.5..1.7).contains(&ratio), "{what}: {time:?} against {known:?}");
    }
}

#[rocket::async_test]
async fn a_flood_of_sign_ins_leaves_the_connections_to_others() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let flood = join_all((0..150).map(|i| {
        let (bench, address) = (&bench, format!("203.0.{}.{}:1", i / 250, i % 250));
        async move { from(bench, &address, &format!("nobody-{i}"), "wrong", None).await.status }
    }));
    let others = async {
        let mut slowest = Duration::ZERO;
        for _ in 0..20 {
            let began = Instant::now();
            let answer = bench.get(&tomas, "/api/session").await;
            assert_eq!(answer.status, Status::Ok, "{}", answer.text);
            slowest = slowest.max(began.elapsed());
        }
        slowest
    };
    let (statuses, slowest) = rocket::tokio::join!(flood, others);
    // 32 wait and two are looked at; the rest is sent away and may come again.
    let sent_away = statuses.iter().filter(|s| **s == Status::ServiceUnavailable).count();
    assert!(sent_away > 0 && statuses.contains(&Status::Unauthorized), "{statuses:?}");
    assert!(slowest < Duration::from_secs(3), "a connection waits three seconds at most");
}

#[rocket::async_test]
async fn changing_ones_password_ends_the_other_sessions() {
    let bench = Bench::new().await;
    let (here, there) = (bench.person("tomas").await, bench.person("tomas").await);
    let put = |old: &str, new: &str| {
        let body = json!({ "old": old, "new": new }).to_string();
        let (bench, here) = (&bench, &here);
        async move { bench.send(Some(here), Method::Put, "/api/session/password", body).await }
    };
    assert_eq!(put("wrong", "another-password").await.places(), ["/old"]);
    assert_eq!(put(PASSWORD, "short").await.places(), ["/new"]);
    assert_eq!(bench.get(&there, "/api/session").await.status, Status::Ok);
    assert_eq!(put(PASSWORD, "another-password").await.status, Status::NoContent);
    assert_eq!(bench.get(&here, "/api/session").await.status, Status::Ok);
    assert_eq!(bench.get(&there, "/api/session").await.status, Status::Unauthorized);
    assert_eq!(bench.sign_in("tomas", PASSWORD).await.status, Status::Unauthorized);
    assert_eq!(bench.sign_in("tomas", "another-password").await.status, Status::Ok);
}

#[rocket::async_test]
async fn a_link_sets_a_password_once_and_ends_every_session() {
    let bench = Bench::new().await;
    let (mira, ines) = (bench.person("mira").await, bench.person("ines").await);
    let path = format!("/api/accounts/{}/password-link", id_of(&bench, &mira, "ines").await);
    let refused = bench.send(Some(&ines), Method::Post, &path, "").await;
    assert_eq!(refused.status, Status::Forbidden);
    let make = || async {
        let link = bench.send(Some(&mira), Method::Post, &path, "").await;
        assert_eq!(link.status, Status::Ok, "{}", link.text);
        link.json()["token"].as_str().expect("a token").to_owned()
    };
    let (earlier, token) = (make().await, make().await);
    let set = |token: &str, password: &str| {
        let body = json!({ "token": token, "password": password }).to_string();
        let bench = &bench;
        async move { bench.send(None, Method::Post, "/api/session/reset", body).await }
    };
    assert_eq!(set(&earlier, "another-password").await.status, Status::NotFound, "only the newest");
    assert_eq!(set(&token, "short").await.places(), ["/password"]);
    assert_eq!(set(&token, "another-password").await.status, Status::NoContent);
    assert_eq!(set(&token, "a-third-password").await.status, Status::NotFound, "it serves once");
    assert_eq!(bench.get(&ines, "/api/session").await.status, Status::Unauthorized);
    assert_eq!(bench.sign_in("ines", "another-password").await.status, Status::Ok);
    assert_eq!(bench.get(&mira, "/api/session").await.status, Status::Ok);
    // One that is older than a day holds no more.
    use diesel::RunQueryDsl;
    let old = make().await;
    diesel::sql_query("UPDATE password_links SET expires_at = now() - interval '1 second'")
        .execute(&mut bench.database.connect())
        .expect("as if a day had gone");
    assert_eq!(set(&old, "another-password").await.status, Status::NotFound);
}
