//! People from outside the company: an inspector sees the jobs given and nothing else, a link shows
//! one job until it ends.

use chrono::{TimeDelta, Utc};
use rocket::http::{Method, Status};
use serde_json::{Value, json};

use crate::bench::{Bench, Person};

fn tomorrow() -> String {
    (Utc::now() + TimeDelta::days(1)).to_rfc3339()
}

async fn guests(bench: &Bench, who: &Person, id: &str) -> Value {
    bench.get(who, &format!("/api/jobs/{id}/guests")).await.json()
}

async fn give(bench: &Bench, who: &Person, id: &str, account: &str, given: bool) -> Status {
    let body = json!({ "given": given }).to_string();
    let path = format!("/api/jobs/{id}/seats/{account}");
    bench.send(Some(who), Method::Put, &path, body).await.status
}

async fn names(bench: &Bench, who: &Person) -> Vec<String> {
    let page = bench.get(who, "/api/jobs").await.json();
    let mut names: Vec<String> = page["jobs"]
        .as_array()
        .expect("a list")
        .iter()
        .map(|j| j["name"].as_str().unwrap_or_default().to_owned())
        .collect();
    names.sort();
    names
}

#[rocket::async_test]
async fn an_inspector_sees_the_jobs_given_until_they_are_taken_back() {
    let bench = Bench::new().await;
    let (tomas, inspector) = (bench.person("tomas").await, bench.person("inspector").await);
    assert_eq!(names(&bench, &inspector).await, ["Kestrel Lane workshop", "Quarry Cottage"]);
    let page = bench.get(&inspector, "/api/jobs").await.json();
    assert_eq!((&page["all_n"], &page["found_n"]), (&json!(2), &json!(2)));
    let tern = bench.job(&tomas, "Tern Bay school hall").await;
    let job = format!("/api/jobs/{tern}");
    assert_eq!(bench.get(&inspector, &job).await.status, Status::NotFound);
    // There is no telling it from a job that is not.
    let nothing = bench.get(&inspector, "/api/jobs/00000000-0000-4000-8000-000000000000").await;
    assert_eq!(bench.get(&inspector, &job).await.text, nothing.text);
    let seat = guests(&bench, &tomas, &tern).await["seats"][0].clone();
    assert_eq!((&seat["name"], &seat["given"]), (&json!("Inspector's seat"), &json!(false)));
    let account = seat["account"].as_str().expect("an id");
    assert_eq!(give(&bench, &tomas, &tern, account, true).await, Status::Ok);
    // Given twice is given once.
    assert_eq!(give(&bench, &tomas, &tern, account, true).await, Status::Ok);
    assert_eq!(bench.get(&inspector, &job).await.status, Status::Ok);
    assert_eq!(names(&bench, &inspector).await.len(), 3);
    assert_eq!(give(&bench, &tomas, &tern, account, false).await, Status::Ok);
    assert_eq!(bench.get(&inspector, &job).await.status, Status::NotFound);
    // Only inspectors have seats: everybody else sees every job.
    let mira = bench.person("mira").await;
    let people = bench.get(&mira, "/api/accounts").await.json();
    let ines = people.as_array().expect("a list").iter().find(|a| a["sign_in"] == "ines");
    let ines = ines.expect("there")["id"].as_str().expect("an id").to_owned();
    assert_eq!(give(&bench, &tomas, &tern, &ines, true).await, Status::NotFound);
}

/// What an inspector may ask for of a job they see; everything else of the description is refused.
const OPEN: [(&str, &str); 28] = [
    ("get", "/api/health"),
    ("get", "/api/session"),
    ("post", "/api/session"),
    ("delete", "/api/session"),
    ("put", "/api/session/password"),
    ("post", "/api/session/reset"),
    ("post", "/api/session/link"),
    ("get", "/api/shown"),
    ("get", "/api/choices/{school}"),
    ("get", "/api/jobs"),
    ("get", "/api/events"),
    ("get", "/api/jobs/{id}"),
    ("get", "/api/jobs/{id}/export"),
    ("get", "/api/jobs/{id}/revisions"),
    ("get", "/api/jobs/{id}/revisions/{revision}"),
    ("get", "/api/jobs/{id}/revisions/{revision}/workings"),
    ("get", "/api/jobs/{id}/readings"),
    ("post", "/api/jobs/{id}/readings/preview"),
    ("post", "/api/jobs/{id}/readings/running"),
    ("get", "/api/jobs/{id}/roof/{format}"),
    ("get", "/api/jobs/{id}/one-line/{format}"),
    ("get", "/api/jobs/{id}/labels/{format}"),
    ("get", "/api/jobs/{id}/revisions/{revision}/one-line"),
    ("get", "/api/jobs/{id}/revisions/{revision}/labels"),
    ("get", "/api/jobs/{id}/revisions/{revision}/faults"),
    ("get", "/api/jobs/{id}/pack"),
    ("post", "/api/jobs/{id}/pack"),
    ("get", "/api/jobs/{id}/pack.pdf"),
];

#[rocket::async_test]
async fn whatever_is_not_open_to_an_inspector_is_refused() {
    let bench = Bench::new().await;
    let inspector = bench.person("inspector").await;
    let own = bench.job(&inspector, "Quarry Cottage").await;
    let description: Value = serde_json::from_str(&heliant_server::openapi_text()).expect("JSON");
    let mut refused = 0;
    for (path, operations) in description["paths"].as_object().expect("paths") {
        for method in operations.as_object().expect("operations").keys() {
            let open = OPEN.contains(&(method.as_str(), path));
            // Taking back one's own pack is looked at where packs are.
            if open || (method.as_str(), path.as_str()) == ("delete", "/api/jobs/{id}/pack") {
                continue;
            }
            let there = path
                .replace("{id}", &own)
                .replace("{kind}", "module")
                .replace("{format}", "svg")
                .replace("{school}", "na")
                .replace("{revision}", "1")
                .replace("{account}", &own)
                .replace("{link}", &own)
                .replace("{reading}", "r1")
                .replace("{other}", "1")
                .replace("{name}", "x")
                .replace("{sheet}", "x")
                .replace("{key}", "kwh");
            let method: Method = method.to_uppercase().parse().expect("a method");
            let answer = bench.send(Some(&inspector), method, &there, "{}").await;
            assert_eq!(answer.status, Status::Forbidden, "{method} {there}: {}", answer.text);
            refused += 1;
        }
    }
    assert!(refused > 30, "{refused}");
    for (_, path) in OPEN {
        assert!(description["paths"][path].is_object(), "{path} is in the description");
    }
}

#[rocket::async_test]
async fn a_link_shows_one_job_and_ends() {
    let bench = Bench::new().await;
    let (tomas, ines) = (bench.person("tomas").await, bench.person("ines").await);
    let id = bench.job(&tomas, "Tern Bay school hall").await;
    let links = format!("/api/jobs/{id}/links");
    let until = json!({ "until": tomorrow() });
    assert_eq!(bench.post(&ines, &links, &until).await.status, Status::Forbidden);
    for wrong in [Utc::now() - TimeDelta::hours(1), Utc::now() + TimeDelta::days(400)] {
        let body = json!({ "until": wrong.to_rfc3339() });
        assert_eq!(bench.post(&tomas, &links, &body).await.places(), ["/until"]);
    }
    let made = bench.post(&tomas, &links, &until).await.json();
    let open = || async {
        bench
            .send(
                None,
                Method::Post,
                "/api/session/link",
                json!({ "token": made["token"] }).to_string(),
            )
            .await
    };
    let opened = open().await;
    assert_eq!((opened.status, &opened.json()["job"]), (Status::Ok, &json!(id)));
    let guest = Person(opened.cookie("heliant_session"));
    assert_eq!(names(&bench, &guest).await, ["Tern Bay school hall"]);
    let who = bench.get(&guest, "/api/session").await.json();
    assert_eq!(
        (&who["role"], &who["name"]),
        (&json!("inspector"), &json!("By a link of Tomas Brandt"))
    );
    let other = bench.job(&tomas, "Quarry Cottage").await;
    assert_eq!(bench.get(&guest, &format!("/api/jobs/{other}")).await.status, Status::NotFound);
    // Whoever signs out leaves the link to the others who have it.
    assert_eq!(
        bench.send(Some(&guest), Method::Delete, "/api/session", "").await.status,
        Status::NoContent
    );
    assert_eq!(open().await.status, Status::Ok);
    // One of the company who opens it stays who they are.
    let body = json!({ "token": made["token"] }).to_string();
    let by_tomas = bench.send(Some(&tomas), Method::Post, "/api/session/link", body).await;
    assert_eq!((by_tomas.status, &by_tomas.json()["job"]), (Status::Ok, &json!(id)));
    assert!(by_tomas.header("Set-Cookie").is_none(), "{:?}", by_tomas.headers);
    // It is nobody: not in the list of people, nor to be signed in to.
    let mira = bench.person("mira").await;
    let people = bench.get(&mira, "/api/accounts").await;
    assert!(!people.text.contains("By a link"), "{}", people.text);
    let link = made["id"].as_str().expect("an id");
    let none = bench.sign_in(&format!("link {link}"), "!").await;
    assert_eq!(none.status, Status::Unauthorized, "{}", none.text);
    assert_eq!(guests(&bench, &tomas, &id).await["links"][0]["made_by"], "Tomas Brandt");
    let of_other = format!("/api/jobs/{other}/links/{link}");
    assert_eq!(
        bench.send(Some(&tomas), Method::Delete, &of_other, "").await.status,
        Status::NotFound
    );
    let end = format!("{links}/{link}");
    assert_eq!(bench.send(Some(&tomas), Method::Delete, &end, "").await.status, Status::NoContent);
    assert_eq!(bench.get(&guest, &format!("/api/jobs/{id}")).await.status, Status::Unauthorized);
    assert_eq!(open().await.status, Status::NotFound);
    assert_eq!(guests(&bench, &tomas, &id).await["links"], json!([]));
}

/// A link to a job that shows a revision, or the present one.
async fn link(bench: &Bench, who: &Person, id: &str, revision: Value) -> Person {
    let body = json!({ "until": tomorrow(), "revision": revision });
    let made = bench.post(who, &format!("/api/jobs/{id}/links"), &body).await;
    assert_eq!(made.status, Status::Ok, "{}", made.text);
    let token = json!({ "token": made.json()["token"] }).to_string();
    let opened = bench.send(None, Method::Post, "/api/session/link", token).await;
    Person(opened.cookie("heliant_session"))
}

#[rocket::async_test]
async fn a_guest_sees_the_revision_given_and_no_prices_or_notes() {
    let bench = Bench::new().await;
    let (mira, tomas) = (bench.person("mira").await, bench.person("tomas").await);
    let id = bench.job(&tomas, "Kestrel Lane workshop").await;
    let job = format!("/api/jobs/{id}");
    let view = bench.get(&tomas, &job).await.json();
    let saved = bench.save(&tomas, &view, |b| {
        b["job"]["notes"] = json!("haggles over everything");
        b["job"]["rates"] = json!({ "labour_h": 123.75, "kwh": 0.7751 });
    });
    assert_eq!(saved.await.status, Status::Ok);
    let given = link(&bench, &tomas, &id, json!(2)).await;
    let present = link(&bench, &tomas, &id, Value::Null).await;
    let second = bench.get(&tomas, &job).await.json();
    let saved = bench.save(&tomas, &second, |b| b["job"]["strings"][0]["n"] = json!(11)).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    let seen = |who: Person| {
        let (bench, job) = (&bench, &job);
        async move {
            let view = bench.get(&who, job).await.json();
            let lines = bench.get(&who, &format!("{job}/revisions")).await.json();
            let numbers: Vec<_> =
                lines.as_array().expect("a list").iter().map(|l| l["revision"].clone()).collect();
            (view["revision"].clone(), view["job"]["strings"][0]["n"].clone(), json!(numbers))
        }
    };
    assert_eq!(seen(given.clone()).await, (json!(2), json!(12), json!([2])));
    assert_eq!(seen(present.clone()).await, (json!(3), json!(11), json!([3])));
    assert_eq!(seen(tomas.clone()).await.2, json!([3, 2, 1]));
    let earlier = format!("{job}/revisions?before=3");
    assert_eq!(bench.get(&present, &earlier).await.json(), json!([]));
    for (who, own, other) in [(&given, 2, 3), (&given, 2, 1), (&present, 3, 2)] {
        for what in ["", "/workings", "/labels", "/faults", "/one-line"] {
            let at = |revision: i32| format!("{job}/revisions/{revision}{what}");
            assert_eq!(bench.get(who, &at(own)).await.status, Status::Ok, "{what}");
            assert_eq!(bench.get(who, &at(other)).await.status, Status::NotFound, "{what}");
        }
    }
    // Nothing of what goes out to them has the prices, what follows from them, or the notes.
    for path in [job.clone(), format!("{job}/export"), format!("{job}/revisions/2/workings")] {
        let (own, told) = (bench.get(&tomas, &path).await, bench.get(&given, &path).await);
        assert_eq!(told.status, Status::Ok, "{path}");
        for secret in ["haggles", "123.75", "0.7751", "\"rates\"", "\"cost\"", "place.total_cost"] {
            assert!(!told.text.contains(secret), "{path} says {secret}");
        }
        let secret = ["haggles", "123.75"].iter().any(|s| own.text.contains(s));
        assert!(secret || path.ends_with("workings"), "{path} has nothing to hide");
    }
    let line = bench.get(&given, "/api/jobs").await.json()["jobs"][0].clone();
    assert_eq!((&line["revision"], &line["verdict"]), (&json!(2), &second["report"]["verdict"]));
    // Nor does looking for a word say whether it is in the notes.
    assert_eq!(bench.get(&present, "/api/jobs?find=haggles").await.json()["found_n"], 0);
    assert_eq!(bench.get(&tomas, "/api/jobs?find=haggles").await.json()["found_n"], 1);
    // A seat is given the same way, and changed.
    let account = guests(&bench, &mira, &id).await["seats"][0]["account"].clone();
    let seat = format!("{job}/seats/{}", account.as_str().expect("an id"));
    let put = |body: Value| {
        let (bench, seat, mira) = (&bench, &seat, &mira);
        async move { bench.send(Some(mira), Method::Put, seat, body.to_string()).await }
    };
    let none = put(json!({ "given": true, "revision": 9 })).await;
    assert_eq!(none.places(), ["/revision"]);
    let given = put(json!({ "given": true, "revision": 1 })).await.json();
    assert_eq!(given["seats"][0]["revision"], 1);
    let inspector = bench.person("inspector").await;
    assert_eq!(bench.get(&inspector, &job).await.json()["revision"], 1);
    put(json!({ "given": true })).await;
    assert_eq!(bench.get(&inspector, &job).await.json()["revision"], 3);
}

#[rocket::async_test]
async fn a_guests_tenth_look_is_the_first_ones_answer() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Kestrel Lane workshop").await;
    let guest = link(&bench, &tomas, &id, Value::Null).await;
    let job = format!("/api/jobs/{id}");
    let first = bench.get(&guest, &job).await;
    assert_eq!(bench.get(&guest, &job).await.text, first.text);
    // What the company is told is another answer, and a reading makes a new one.
    assert_ne!(bench.get(&tomas, &job).await.text, first.text);
    let reading = json!({ "string": "A", "voc_v": 441.8 });
    let kept = bench.post(&tomas, &format!("{job}/readings"), &reading).await;
    assert_eq!(kept.status, Status::Ok, "{}", kept.text);
    let after = bench.get(&guest, &job).await.json();
    let before = first.json()["report"]["readings_n"].as_u64().expect("a number");
    assert_eq!(after["report"]["readings_n"], before + 1);
}

#[rocket::async_test]
async fn a_job_with_guests_is_deleted_like_any_other() {
    let bench = Bench::new().await;
    let (mira, inspector) = (bench.person("mira").await, bench.person("inspector").await);
    let id = bench.job(&mira, "Quarry Cottage").await;
    let until = json!({ "until": tomorrow() });
    let made = bench.post(&mira, &format!("/api/jobs/{id}/links"), &until).await;
    assert_eq!(made.status, Status::Ok, "{}", made.text);
    let path = format!("/api/jobs/{id}?name=Quarry%20Cottage");
    assert_eq!(bench.send(Some(&mira), Method::Delete, &path, "").await.status, Status::NoContent);
    assert_eq!(names(&bench, &inspector).await, ["Kestrel Lane workshop"]);
    let token = json!({ "token": made.json()["token"] }).to_string();
    let opened = bench.send(None, Method::Post, "/api/session/link", token).await;
    assert_eq!(opened.status, Status::NotFound, "there is nothing left to see");
}

#[rocket::async_test]
async fn units_are_shown_as_the_company_says_or_as_one_chose() {
    let bench = Bench::new().await;
    let (mira, ines) = (bench.person("mira").await, bench.person("ines").await);
    let put = |who: Person, path: &'static str, body: Value| {
        let bench = &bench;
        async move { bench.send(Some(&who), Method::Put, path, body.to_string()).await }
    };
    assert_eq!(bench.get(&ines, "/api/shown").await.json(), json!({ "own": {}, "company": {} }));
    let feet = json!({ "length": "ft" });
    assert_eq!(
        put(ines.clone(), "/api/shown/company", feet.clone()).await.status,
        Status::Forbidden
    );
    assert_eq!(put(mira.clone(), "/api/shown/company", feet.clone()).await.status, Status::Ok);
    let own = put(ines.clone(), "/api/shown", json!({ "temperature": "f" })).await.json();
    assert_eq!(own, json!({ "own": { "temperature": "f" }, "company": { "length": "ft" } }));
    assert_eq!(bench.get(&mira, "/api/shown").await.json()["own"], json!({}));
    let wrong = put(ines, "/api/shown", json!({ "temperature": "r" })).await;
    assert_eq!(wrong.status, Status::UnprocessableEntity);
}
