//! Long lists come in pages, and what is found in them is found in the database.

use diesel::RunQueryDsl;
use rocket::http::Status;
use serde_json::{Value, json};

use crate::bench::Bench;

#[rocket::async_test]
async fn jobs_come_in_pages_and_are_found_by_every_word() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    let more = format!(
        "INSERT INTO jobs (id, name, said, school, revision, verdict, counts, updated_by, \
             updated_at) \
         SELECT gen_random_uuid(), 'Barn ' || n || ' 100%', 'Barn ' || n || ' 100%', school, 1, \
             verdict, counts, 'Ines Rowe', now() - make_interval(mins => n) \
         FROM jobs, generate_series(1, 240) n WHERE id = '{id}'"
    );
    diesel::sql_query(more).execute(&mut bench.database.connect()).expect("more jobs");
    let list = |query: &str| {
        let (bench, path) = (&bench, format!("/api/jobs?{query}"));
        let tomas = tomas.clone();
        async move {
            let answer = bench.get(&tomas, &path).await;
            assert_eq!(answer.status, Status::Ok, "{}", answer.text);
            let page = answer.json();
            let names: Vec<String> = page["jobs"]
                .as_array()
                .expect("a list")
                .iter()
                .map(|j| j["name"].as_str().unwrap_or_default().to_owned())
                .collect();
            (names, page["found_n"].as_i64(), page["all_n"].as_i64())
        }
    };
    let all = Some(240 + heliant_server::demo::JOBS.len() as i64);
    let (first, found, of) = list("page=0").await;
    assert_eq!((first.len(), found, of), (100, all, all));
    let (last, ..) = list("page=2").await;
    assert_eq!((last.len(), last.last().map(String::as_str)), (45, Some("Barn 240 100%")));
    assert_eq!(list("page=9").await.0.len(), 0);
    // Every word, in name or person, in whatever case; signs of a pattern stand for themselves.
    assert_eq!(list("find=rowe+barn+24").await.0.len(), 4, "24, 124, 224 and 240");
    assert_eq!(list("find=100%25").await.1, Some(240));
    assert_eq!(list("find=_").await.1, Some(0));
    assert_eq!(list("find=barn+brandt").await.1, Some(0));
}

#[rocket::async_test]
async fn data_sheets_come_in_pages_and_are_found_by_every_word() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let demo = bench.get(&tomas, "/api/sheets").await.json()["all_n"].as_i64().expect("a count");
    // 140 revisions of one more module, the watts of each its own.
    let more = "INSERT INTO sheets (kind, sheet, revision, document, entered_by, from_document, \
            version) \
        SELECT kind, 'larkfield-9', n, document || jsonb_build_object('sheet', 'larkfield-9', \
            'maker', 'Larkfield', 'model', 'L9_' || n, 'revision', n, 'ratings', \
            document->'ratings' || jsonb_build_object('pmax_w', 300 + n)), 'Ines Rowe', \
            'leaflet, May', version \
        FROM (SELECT * FROM sheets WHERE kind = 'module' LIMIT 1) s, generate_series(1, 140) n";
    diesel::sql_query(more).execute(&mut bench.database.connect()).expect("more sheets");
    let page = |query: &str| {
        let (bench, tomas, path) = (&bench, tomas.clone(), format!("/api/sheets?{query}"));
        async move { bench.get(&tomas, &path).await.json() }
    };
    let lines = |page: &Value| page["sheets"].as_array().map_or(0, Vec::len);
    let (first, second) = (page("").await, page("page=1").await);
    assert_eq!(first["all_n"].as_i64(), Some(demo + 140));
    assert_eq!([lines(&first), lines(&second)], [100, usize::try_from(demo).unwrap() + 40]);
    assert_eq!(lines(&page("page=9").await), 0);
    let found = page("find=larkfield+l9_140").await;
    assert_eq!((found["found_n"].as_i64(), lines(&found)), (Some(1), 1));
    let newest = &found["sheets"][0];
    assert_eq!((newest["revision"].as_i64(), &newest["superseded"]), (Some(140), &json!(false)));
    // 300 + 39 W; as a kind, by document, and by a sign that is none of a pattern here.
    let watts = page("find=module+339").await;
    assert_eq!(watts["sheets"][0]["superseded"], json!(true), "{watts}");
    assert_eq!(page("find=leaflet").await["found_n"].as_i64(), Some(140));
    assert_eq!(page("find=L9%25").await["found_n"].as_i64(), Some(0));

    let history = bench.get(&tomas, "/api/sheets/module/larkfield-9/revisions").await.json();
    let history = history.as_array().expect("a list").clone();
    assert_eq!((history.len(), history[0]["revision"].as_i64()), (140, Some(140)));
    for path in ["module/nobody", "toaster/larkfield-9"] {
        let answer = bench.get(&tomas, &format!("/api/sheets/{path}/revisions")).await;
        assert_eq!(answer.status, Status::NotFound, "{}", answer.text);
    }
}

#[rocket::async_test]
async fn readings_beyond_the_newest_are_asked_for_in_pages() {
    let bench = Bench::new().await;
    let ines = bench.person("ines").await;
    let id = bench.job(&ines, "Kestrel Lane workshop").await;
    // The demo has two readings, of A and of B; a hundred and fifty of C follow.
    let more = format!(
        "WITH more AS (INSERT INTO readings (id, job_id, taken_at, taken_by, reading, version) \
            SELECT u, job_id, now(), taken_by, jsonb_set(jsonb_set(reading, '{{id}}', \
                to_jsonb(u::text)), '{{values,string}}', '\"C\"'), version \
            FROM (SELECT gen_random_uuid() AS u, r.* FROM readings r, generate_series(1, 150) \
                WHERE r.job_id = '{id}' AND r.seq = (SELECT min(seq) FROM readings \
                    WHERE job_id = '{id}')) x RETURNING 1) \
         UPDATE jobs SET readings_n = 2 + (SELECT count(*) FROM more) WHERE id = '{id}'"
    );
    diesel::sql_query(more).execute(&mut bench.database.connect()).expect("more readings");
    let view = bench.get(&ines, &format!("/api/jobs/{id}")).await.json();
    let report = &view["report"];
    assert_eq!(report["readings_n"], 152);
    // The newest hundred, and what stands of the other strings.
    let sent = report["readings"].as_array().expect("a list");
    assert_eq!(sent.len(), 102);
    let of_readings = |subjects: &Value| {
        let all = subjects.as_array().expect("subjects").clone();
        let own = |s: &Value| s["kind"] == "reading";
        all.iter()
            .map(|s| {
                let also = s["also"].as_array().map_or(0, |a| a.iter().filter(|s| own(s)).count());
                usize::from(own(&s["subject"])) + also
            })
            .sum::<usize>()
    };
    assert_eq!(of_readings(&report["subjects"]), 102);
    let page = |n: u32| {
        let (bench, path) = (&bench, format!("/api/jobs/{id}/readings?page={n}"));
        let ines = ines.clone();
        async move { bench.get(&ines, &path).await.json() }
    };
    let (first, second) = (page(0).await, page(1).await);
    assert_eq!(
        (first["readings_n"].as_i64(), second["readings_n"].as_i64()),
        (Some(152), Some(152))
    );
    let lengths = [&first, &second].map(|p| p["readings"].as_array().map(Vec::len));
    assert_eq!(lengths, [Some(100), Some(52)]);
    assert_eq!(of_readings(&second["subjects"]), 52);
    // Newest first: the demo's own end the list.
    assert_eq!(second["readings"][51]["reading"]["values"]["string"], json!("A"));
    assert_eq!(page(7).await["readings"], json!([]));
}
