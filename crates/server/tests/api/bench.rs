//! A server over an empty database with the demo data, and people who are signed in.

use std::path::PathBuf;

use heliant_server::compute::ComputeLimits;
use heliant_server::press::{PressSettings, beside};
use heliant_server::{Settings, demo, rocket, store};
use heliant_testing::TestDatabase;
use rocket::http::{ContentType, Cookie, Header, Method, Status};
use rocket::local::asynchronous::{Client, LocalResponse};
use serde_json::{Map, Value, json};

use crate::described;

/// A server and its database.
pub struct Bench {
    pub client: Client,
    pub database: TestDatabase,
}

/// What came back.
#[derive(Debug)]
pub struct Answer {
    pub status: Status,
    pub text: String,
    pub headers: Vec<(String, String)>,
}

impl Answer {
    /// The body as JSON.
    pub fn json(&self) -> Value {
        serde_json::from_str(&self.text).unwrap_or_else(|e| panic!("{e}: {}", self.text))
    }

    pub fn header(&self, name: &str) -> Option<&str> {
        self.headers.iter().find(|(n, _)| n.eq_ignore_ascii_case(name)).map(|(_, v)| v.as_str())
    }

    /// A cookie it sets.
    pub fn cookie(&self, name: &str) -> Cookie<'static> {
        let set = |(header, value): &(String, String)| {
            let cookie = Cookie::parse(value.clone()).ok()?.into_owned();
            (header.eq_ignore_ascii_case("set-cookie") && cookie.name() == name).then_some(cookie)
        };
        self.headers.iter().find_map(set).unwrap_or_else(|| panic!("no cookie {name}"))
    }

    /// Places of the problem named in the body.
    pub fn places(&self) -> Vec<String> {
        let errors = self.json()["errors"].as_array().cloned().unwrap_or_default();
        errors.iter().map(|e| e["path"].as_str().unwrap_or_default().to_owned()).collect()
    }
}

/// A figure or a check of a subject, in an answer.
pub fn found(answer: &Value, subject: &Value, list: &str, id: &str) -> Value {
    let subjects = answer["report"]["subjects"].as_array().expect("subjects");
    let own = subjects.iter().find(|s| {
        let also = s["also"].as_array().is_some_and(|also| also.contains(subject));
        also || s["subject"] == *subject
    });
    let own = own.expect("the subject");
    let all = own[list].as_array().expect("a list");
    let mut one = all.iter().find(|f| f["id"] == id).unwrap_or_else(|| panic!("no {id}")).clone();
    // On the wire a check that passes leaves its verdict out.
    if list == "checks" && one.get("verdict").is_none() {
        one["verdict"] = json!("pass");
    }
    one
}

/// A session.
#[derive(Clone)]
pub struct Person(pub Cookie<'static>);

impl Bench {
    pub async fn new() -> Self {
        Self::with(|_| ()).await
    }

    /// A server that is set up otherwise.
    pub async fn with(change: impl FnOnce(&mut Settings)) -> Self {
        let database = TestDatabase::new();
        store::migrate(&database.url()).expect("the migrations run");
        assert!(demo::load(&database.url()).expect("the demo data loads"));
        Self::with_database(database, change).await
    }

    /// A server over a database that is there.
    pub async fn with_database(database: TestDatabase, change: impl FnOnce(&mut Settings)) -> Self {
        let mut settings = Self::settings(&database);
        change(&mut settings);
        Bench { client: Self::client(settings).await, database }
    }

    /// One more server before the same database.
    pub async fn server(database: &TestDatabase) -> Client {
        Self::client(Self::settings(database)).await
    }

    async fn client(settings: Settings) -> Client {
        Client::untracked(rocket(settings)).await.expect("a server")
    }

    pub fn settings(database: &TestDatabase) -> Settings {
        Settings {
            database_url: database.url(),
            web: PathBuf::from("tests/api/web"),
            secure_cookies: false,
            pool_size: 4,
            ip_header: None,
            press: PressSettings::new(beside(&std::env::current_exe().expect("a test")), None),
            computing: ComputeLimits::default(),
        }
    }

    pub async fn sign_in(&self, name: &str, password: &str) -> Answer {
        let body = json!({ "sign_in": name, "password": password });
        self.send(None, Method::Post, "/api/session", body.to_string()).await
    }

    /// A demo account, signed in.
    pub async fn person(&self, name: &str) -> Person {
        let answer = self.sign_in(name, demo::PASSWORD).await;
        assert_eq!(answer.status, Status::Ok, "{}", answer.text);
        Person(answer.cookie("heliant_session"))
    }

    pub async fn send(
        &self,
        who: Option<&Person>,
        method: Method,
        path: &str,
        body: impl Into<String>,
    ) -> Answer {
        self.send_with(who, method, path, body, &[]).await
    }

    pub async fn send_with(
        &self,
        who: Option<&Person>,
        method: Method,
        path: &str,
        body: impl Into<String>,
        headers: &[(&'static str, &'static str)],
    ) -> Answer {
        let mut request =
            self.client.req(method, path.to_owned()).header(ContentType::JSON).body(body.into());
        for (name, value) in headers {
            request.add_header(Header::new(*name, *value));
        }
        if let Some(person) = who {
            request = request.cookie(person.0.clone());
        }
        let answer = answer(request.dispatch().await).await;
        described::check(method, path, answer.status.code, answer.header("Content-Type"));
        answer
    }

    pub async fn get(&self, who: &Person, path: &str) -> Answer {
        self.send(Some(who), Method::Get, path, "").await
    }

    pub async fn post(&self, who: &Person, path: &str, body: &Value) -> Answer {
        self.send(Some(who), Method::Post, path, body.to_string()).await
    }

    /// The id of a demo job.
    pub async fn job(&self, who: &Person, name: &str) -> String {
        let answer = self.get(who, "/api/jobs").await;
        assert_eq!(answer.status, Status::Ok, "{}", answer.text);
        let jobs = answer.json()["jobs"].clone();
        let job = jobs
            .as_array()
            .expect("a list")
            .iter()
            .find(|j| j["name"] == name)
            .expect("the demo job")
            .clone();
        job["id"].as_str().expect("an id").to_owned()
    }

    /// Saves a job over a revision, changed by `change`.
    pub async fn save(
        &self,
        who: &Person,
        view: &Value,
        change: impl FnOnce(&mut Value),
    ) -> Answer {
        let mut body = json!({ "base_revision": view["revision"], "job": view["job"],
            "library": view["library"] });
        change(&mut body);
        let path = format!("/api/jobs/{}", view["id"].as_str().expect("an id"));
        self.send(Some(who), Method::Put, &path, body.to_string()).await
    }
}

pub async fn answer(response: LocalResponse<'_>) -> Answer {
    let status = response.status();
    let headers =
        response.headers().iter().map(|h| (h.name().to_string(), h.value().to_owned())).collect();
    let bytes = response.into_bytes().await.unwrap_or_default();
    Answer { status, headers, text: String::from_utf8_lossy(&bytes).into_owned() }
}

/// A face of so many modules in rows of a hundred, in strings of twenty.
pub fn large_map(n: usize) -> Value {
    let mut file: Value = serde_json::from_str(demo::JOBS[1]).expect("the demo job");
    let job = &mut file["job"];
    let string = job["strings"][0].clone();
    let face = string["face"].as_str().expect("a face").to_owned();
    let modules: Map<_, _> = (0..n)
        .map(|i| {
            let (x, y) = ((i % 100) as f64 * 1160.0, (i / 100) as f64 * 1740.0);
            (format!("m{i}"), json!({ "x_mm": x, "y_mm": y }))
        })
        .collect();
    job["roof"] = json!({ &face: { "modules": modules, "box_mm": [0, 0] } });
    let letter = |i: usize| {
        let at = |k: usize| char::from(b'A' + k as u8);
        format!("{}{}", at(i / 26), at(i % 26))
    };
    let strings = (0..n / 20).map(|i| {
        let mut own = string.clone();
        own["letter"] = json!(letter(i));
        own["n"] = json!(20);
        for field in ["modules", "pinned", "reversed", "jumpers", "plus_first"] {
            own.as_object_mut().expect("a string").remove(field);
        }
        own
    });
    job["strings"] = strings.collect();
    (job["plan"], job["routes"]) = (json!({}), json!([]));
    json!({ "job": job, "library": file["library"], "ask": { "face": face } })
}
