//! Who asks for more than their share: words of any length, plans of any size, more at once than
//! can be computed, searches nobody waits for.

use heliant_server::compute::ComputeLimits;
use heliant_server::demo;
use rocket::futures::future::join_all;
use rocket::http::{Method, Status};
use serde_json::{Map, Value, json};
use std::time::Duration;

use crate::bench::{Answer, Bench, Person, large_map};

/// The longest answer to something that is wrong, bytes: fifty problems at their longest.
const BOUNDED: usize = 100_000;

fn kestrel() -> Value {
    serde_json::from_str(demo::JOBS[1]).expect("the demo job")
}

/// Job and data sheets of the demo job, as a question has them.
fn question(more: Value) -> Value {
    let file = kestrel();
    let mut question = json!({ "job": file["job"], "library": file["library"] });
    for (key, value) in more.as_object().expect("fields") {
        question[key] = value.clone();
    }
    question
}

async fn refused(bench: &Bench, who: &Person, path: &str, body: String) -> Value {
    let answer = bench.send(Some(who), Method::Post, path, body).await;
    assert_eq!(answer.status, Status::UnprocessableEntity, "{}", cut(&answer));
    assert!(answer.text.len() < BOUNDED, "{} bytes", answer.text.len());
    answer.json()
}

fn cut(answer: &Answer) -> String {
    answer.text.chars().take(300).collect()
}

#[rocket::async_test]
async fn one_word_of_a_megabyte_is_refused_in_a_few_bytes() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let word = "w".repeat(1_000_000);
    for body in [
        question(json!({ &word: 1 })),
        {
            let mut deep = question(json!({}));
            deep["job"]["site"][&word] = json!(1);
            deep
        },
        {
            let mut price = question(json!({}));
            price["job"]["rates"] = json!({ &word: 1 });
            price
        },
        {
            let mut size = question(json!({}));
            size["job"]["plan"]["circuits"]["A"]["legs"][0]["wire"]["awg"] = json!(word);
            size
        },
    ] {
        let problem = refused(&bench, &tomas, "/api/try", body.to_string()).await;
        assert!(problem["errors"][0]["path"].as_str().is_some_and(|p| p.len() < 1000));
    }
}

#[rocket::async_test]
async fn fifty_problems_are_told_and_the_others_counted() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let unknown: Map<String, Value> = (0..500).map(|i| (format!("x{i}"), json!(1))).collect();
    let problem = refused(&bench, &tomas, "/api/try", question(unknown.into()).to_string()).await;
    let errors = problem["errors"].as_array().expect("a list");
    assert_eq!(errors.len(), 51);
    assert_eq!(errors[50]["message"], "and 450 more problems");
    let detail = problem["detail"].as_str().expect("a text");
    assert!(detail.ends_with(" And 499 more."), "{detail}");
    // Keys that stand twice are found in the text and counted the same way.
    let twice: String = (0..300).map(|_| "\"a\": 1, ").collect();
    let file = format!("{{ {twice} \"b\": 1 }}");
    let problem = refused(&bench, &tomas, "/api/jobs/import/look", file).await;
    assert_eq!(problem["errors"][50]["message"], "and 249 more problems");
}

#[rocket::async_test]
async fn a_table_that_opens_a_quote_is_read_no_further() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let header = "sheet,revision,maker,model";
    for table in [
        format!("{header}\n\"{}", "a,1,b,c\n".repeat(350_000)),
        format!("\"{}", "sheet,".repeat(500_000)),
        "sheet,".repeat(500_000),
    ] {
        let body = json!({ "kind": "module", "text": table, "preview": true });
        let answer = bench.post(&tomas, "/api/sheets/import", &body).await;
        assert!(answer.status.code >= 400, "{}", cut(&answer));
        assert!(answer.text.len() < BOUNDED, "{} bytes", answer.text.len());
    }
}

#[rocket::async_test]
async fn a_plan_that_is_too_large_is_refused_where_it_comes_in() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let mut file = kestrel();
    for i in 0..5_000 {
        file["job"]["plan"]["nodes"][format!("n{i}")] = json!({ "kind": "pull_box" });
    }
    for path in ["/api/jobs/import/look", "/api/jobs/import"] {
        let problem = refused(&bench, &tomas, path, file.to_string()).await;
        assert_eq!(problem["errors"][0]["path"], "/job/plan/nodes");
        assert_eq!(problem["errors"][0]["hint"], "at most 2000");
    }
}

/// A server with one place and little patience.
async fn narrow(change: impl FnOnce(&mut ComputeLimits)) -> Bench {
    Bench::with(|settings| {
        settings.computing =
            ComputeLimits { places: 1, waiting_each: 1, ..ComputeLimits::default() };
        change(&mut settings.computing);
    })
    .await
}

fn routing() -> Value {
    question(json!({ "ask": { "face": "sw" } }))
}

#[rocket::async_test]
async fn more_than_a_queue_holds_is_told_when_to_come_again() {
    let bench = narrow(|_| ()).await;
    let tomas = bench.person("tomas").await;
    let body = routing();
    let all = (0..6).map(|_| bench.post(&tomas, "/api/roof/route", &body));
    let answers = join_all(all.collect::<Vec<_>>()).await;
    let (done, full): (Vec<_>, Vec<_>) = answers.iter().partition(|a| a.status == Status::Ok);
    assert!(!done.is_empty() && !full.is_empty(), "{} of 6 were answered", done.len());
    for answer in full {
        assert_eq!(answer.status, Status::ServiceUnavailable, "{}", cut(answer));
        assert_eq!(answer.json()["type"], "/problems/no-place");
        assert!(
            answer.header("Retry-After").is_some_and(|s| s.parse::<u64>().is_ok_and(|s| s > 0))
        );
    }
    // When it is over there is a place again.
    assert_eq!(bench.post(&tomas, "/api/roof/route", &routing()).await.status, Status::Ok);
}

#[rocket::async_test]
async fn what_has_a_deadline_answers_with_what_it_has_and_says_so() {
    let bench = narrow(|limits| limits.deadline = Duration::ZERO).await;
    let tomas = bench.person("tomas").await;
    let mut bare = question(json!({ "budget_pct": 3 }));
    bare["job"]["plan"]["circuits"]["A"]["legs"][0]["wire"] = json!({});
    let asked = |path: &'static str, mut body: Value, more: &'static str| {
        if more != "budget_pct" {
            body.as_object_mut().expect("an object").remove("budget_pct");
        }
        let (bench, tomas) = (&bench, &tomas);
        async move {
            let answer = bench.post(tomas, path, &body).await;
            assert_eq!(answer.status, Status::Ok, "{path}: {}", cut(&answer));
            answer.json()
        }
    };
    // More modules than are searched whole, which takes no time to speak of.
    assert_eq!(asked("/api/roof/route", large_map(60), "").await["cut"], true);
    let shares = asked("/api/wires/budget", bare.clone(), "budget_pct").await;
    assert_eq!(shares, json!({ "shares": [], "cut": true }));
    assert_eq!(asked("/api/wires", bare.clone(), "").await["cut"], true);
    let mut options = bare.clone();
    options["circuit"] = json!("A");
    assert_eq!(asked("/api/wires/options", options, "").await["cut"], true);
    let routes = asked("/api/routes", bare, "").await;
    assert_eq!(routes["rows"].as_array().map(Vec::len), Some(1), "the drawn one");
    // With time enough nothing is cut, and nothing says so.
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let done = bench.post(&tomas, "/api/roof/route", &routing()).await;
    assert_eq!(done.json().get("cut"), None, "{}", cut(&done));
}

#[rocket::async_test]
async fn a_table_that_goes_out_computes_nothing_where_it_is_opened() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let mut sheet = kestrel()["library"]["modules"][0].clone();
    sheet["sheet"] = json!("formula");
    sheet["revision"] = json!(1);
    sheet["maker"] = json!("=HYPERLINK(1)");
    sheet["model"] = json!("@SUM(1)");
    let added = json!({ "kind": "module", "document": sheet, "from_document": "x" });
    let added = bench.post(&tomas, "/api/sheets", &added).await;
    assert_eq!(added.status, Status::Ok, "{}", added.text);
    let table = bench.get(&tomas, "/api/sheets/module/export").await;
    assert!(table.text.contains(",'=HYPERLINK(1),'@SUM(1),"), "{}", table.text);
    assert!(!table.text.contains(",=") && !table.text.contains(",@"));
}
