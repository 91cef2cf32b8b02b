//! The front before the application, as sockets meet it: what says nothing, too slowly or does not
//! read is dropped, and the others are served meanwhile.

use std::fs::File;
use std::io::{ErrorKind, Read, Write};
use std::net::{Ipv4Addr, SocketAddr, TcpListener, TcpStream};
use std::path::PathBuf;
use std::time::{Duration, Instant};

use diesel::prelude::*;
use heliant_server::front::{Front, Limits};
use heliant_server::schema::sign_in_failures;
use heliant_server::{Settings, demo, store};
use heliant_testing::TestDatabase;
use serde_json::json;
use tokio::runtime::Runtime;

use crate::bench::{Bench, large_map};

/// Longest wait for anything here.
const PATIENCE: Duration = Duration::from_secs(20);

/// An application behind its front, on a port of its own; it ends with its runtime.
struct Served {
    at: SocketAddr,
    database: TestDatabase,
    runtime: Option<Runtime>,
}

impl Served {
    fn new(limits: impl FnOnce(&mut Limits), proxy: Option<&str>) -> Served {
        Self::with(|_| (), limits, proxy)
    }

    fn with(
        change: impl FnOnce(&mut Settings),
        limits: impl FnOnce(&mut Limits),
        proxy: Option<&str>,
    ) -> Served {
        let database = TestDatabase::new();
        store::migrate(&database.url()).expect("the migrations run");
        assert!(demo::load(&database.url()).expect("the demo data loads"));
        let listener = TcpListener::bind((Ipv4Addr::LOCALHOST, 0)).expect("a free port");
        let at = listener.local_addr().expect("its address");
        let mut front = Front::new(proxy).expect("a front");
        limits(&mut front.limits);
        let runtime = Runtime::new().expect("a runtime");
        let mut settings = Bench::settings(&database);
        change(&mut settings);
        runtime.spawn(front.launch(settings, listener));
        Served { at, database, runtime: Some(runtime) }
    }

    fn connect(&self) -> TcpStream {
        let stream = TcpStream::connect(self.at).expect("the front listens");
        stream.set_read_timeout(Some(PATIENCE)).expect("a timeout");
        stream
    }

    /// One request on a connection of its own, and the whole answer.
    fn ask(&self, head: &str, body: &str) -> String {
        let mut stream = self.connect();
        let close = format!(
            "{head}\r\nHost: here\r\nConnection: close\r\nContent-Length: {}\r\n\r\n{body}",
            body.len()
        );
        stream.write_all(close.as_bytes()).expect("a request goes out");
        let mut answer = String::new();
        stream.read_to_string(&mut answer).expect("an answer comes in");
        answer
    }

    /// The cookie of somebody who signed in.
    fn session(&self) -> String {
        let body = json!({ "sign_in": "mira", "password": demo::PASSWORD }).to_string();
        let json = "Content-Type: application/json";
        let said = self.ask(&format!("POST /api/session HTTP/1.1\r\n{json}"), &body);
        let cookie = said.lines().find_map(|l| {
            let (name, value) = l.split_once(": ")?;
            let ours =
                name.eq_ignore_ascii_case("set-cookie") && value.starts_with("heliant_session");
            ours.then(|| value.split(';').next().unwrap_or_default().to_owned())
        });
        cookie.expect("a session")
    }

    /// A wrong password, and the address it was counted for.
    fn counted_for(&self, header: &str) -> String {
        let body = json!({ "sign_in": "mira", "password": "not this one" }).to_string();
        let json = "Content-Type: application/json";
        let answer = self.ask(&format!("POST /api/session HTTP/1.1\r\n{json}\r\n{header}"), &body);
        assert!(answer.starts_with("HTTP/1.1 401"), "{answer}");
        let mut db = self.database.connect();
        let newest = sign_in_failures::table
            .select(sign_in_failures::address)
            .order(sign_in_failures::at.desc());
        newest.first(&mut db).expect("the try is counted")
    }
}

impl Drop for Served {
    fn drop(&mut self) {
        if let Some(runtime) = self.runtime.take() {
            runtime.shutdown_timeout(Duration::from_secs(2));
        }
    }
}

/// How long until the other side closes, and what it says before; panics where it does not.
fn closed(stream: &mut TcpStream) -> (Duration, String) {
    let (started, mut said) = (Instant::now(), Vec::new());
    match stream.read_to_end(&mut said) {
        Ok(_) => {}
        Err(e) if e.kind() == ErrorKind::ConnectionReset => {}
        Err(e) => panic!("still open: {e}"),
    }
    (started.elapsed(), String::from_utf8_lossy(&said).into_owned())
}

const HEALTH: &str = "GET /api/health HTTP/1.1\r\nHost: here\r\n\r\n";

/// Reads one answer that keeps its connection.
fn answer(stream: &mut TcpStream) -> String {
    let (mut said, mut byte) = (Vec::new(), [0]);
    while !said.ends_with(b"\r\n\r\n") {
        stream.read_exact(&mut byte).expect("a head comes in");
        said.push(byte[0]);
    }
    let head = String::from_utf8(said).expect("a head is text");
    let length =
        head.lines().find_map(|l| l.to_lowercase().strip_prefix("content-length: ")?.parse().ok());
    let mut body = vec![0; length.expect("it says how long it is")];
    stream.read_exact(&mut body).expect("a body comes in");
    head + &String::from_utf8(body).expect("the body is text")
}

#[test]
fn who_says_nothing_or_half_a_head_is_dropped_and_who_asks_on_is_not() {
    let served = Served::new(|l| l.head = Duration::from_secs(1), None);
    let mut silent = served.connect();
    let mut half = served.connect();
    half.write_all(b"GET /api/health HTTP/1.1\r\nHost: h").expect("it goes out");
    let mut kept = served.connect();
    for _ in 0..3 {
        kept.write_all(HEALTH.as_bytes()).expect("it goes out");
        assert!(answer(&mut kept).starts_with("HTTP/1.1 200"));
        std::thread::sleep(Duration::from_millis(600));
    }
    // 1.8 s are over: both have been closed meanwhile.
    for dropped in [&mut silent, &mut half] {
        let (after, said) = closed(dropped);
        assert!(after < Duration::from_secs(1), "{after:?}");
        assert!(!said.contains("200 OK"), "{said}");
    }
    assert!(closed(&mut kept).0 < PATIENCE);
}

#[test]
fn a_head_that_comes_in_drops_has_the_same_time() {
    let served = Served::new(|l| l.head = Duration::from_secs(1), None);
    let mut slow = served.connect();
    let started = Instant::now();
    slow.write_all(b"GET /api/health HTTP/1.1\r\n").expect("it goes out");
    let refused = (0..100).find(|n| {
        std::thread::sleep(Duration::from_millis(100));
        slow.write_all(format!("X-{n}: 1\r\n").as_bytes()).is_err()
    });
    assert!(refused.is_some(), "ten seconds of drops were read");
    assert!(started.elapsed() > Duration::from_secs(1));
}

#[test]
fn a_reader_that_stalls_is_dropped() {
    // More than the system holds back for a reader.
    const SIZE: u64 = 64 << 20;
    let web = PathBuf::from(env!("CARGO_TARGET_TMPDIR")).join("stalls");
    std::fs::create_dir_all(web.join("assets")).expect("a folder");
    let large = File::create(web.join("assets/large.bin")).expect("a file");
    large.set_len(SIZE).expect("zeros");
    let served = Served::with(|s| s.web = web, |l| l.still = Duration::from_secs(1), None);
    let mut stalled = served.connect();
    let asked = "GET /assets/large.bin HTTP/1.1\r\nHost: here\r\nConnection: close\r\n\r\n";
    stalled.write_all(asked.as_bytes()).expect("it goes out");
    std::thread::sleep(Duration::from_secs(4));
    let (_, got) = closed(&mut stalled);
    assert!(got.starts_with("HTTP/1.1 200"), "{:.200}", got);
    assert!((got.len() as u64) < SIZE, "{} bytes were held for it", got.len());

    // Whoever reads gets all of it, longer though it takes.
    let mut slow = served.connect();
    slow.write_all(asked.as_bytes()).expect("it goes out");
    let (mut piece, mut read) = (vec![0; 1 << 20], 0);
    let started = Instant::now();
    while let Ok(n @ 1..) = slow.read(&mut piece) {
        read += n as u64;
        let due = Duration::from_secs(3).mul_f64(read as f64 / SIZE as f64);
        std::thread::sleep(due.saturating_sub(started.elapsed()));
    }
    assert!(read > SIZE, "{read}");
    assert!(started.elapsed() > Duration::from_secs(2));
}

#[test]
fn a_sender_that_stalls_is_dropped() {
    let served = Served::new(|l| l.still = Duration::from_secs(1), None);
    let mut stalled = served.connect();
    let head = "POST /api/session HTTP/1.1\r\nHost: here\r\nContent-Type: application/json\r\n";
    write!(stalled, "{head}Content-Length: 100\r\n\r\n{{").expect("it goes out");
    let (after, said) = closed(&mut stalled);
    assert!(after < Duration::from_secs(5), "{after:?}");
    assert!(!said.contains("200 OK"), "{said}");
}

#[test]
fn half_open_connections_do_not_stop_the_others() {
    let files = rlimit::increase_nofile_limit(8_192).expect("a limit");
    assert!(files >= 4_096, "this machine allows {files} open files");
    let served = Served::new(|_| (), None);
    // Both ends are of this process: 1,100 take 2,200 of its files.
    let half: Vec<TcpStream> = (0..1_100)
        .map(|_| {
            let mut stream = served.connect();
            stream.write_all(b"GET / HTTP/1.1\r\n").expect("it goes out");
            stream
        })
        .collect();
    for _ in 0..20 {
        let answer = served.ask("GET /api/health HTTP/1.1", "");
        assert!(answer.starts_with("HTTP/1.1 200"), "{answer}");
    }
    drop(half);
}

#[test]
fn a_head_without_end_is_refused() {
    let served = Served::new(|l| l.head_bytes = 16 * 1024, None);
    let mut stream = served.connect();
    let _ = stream.write_all(b"GET /api/health HTTP/1.1\r\nX: ");
    let _ = stream.write_all(&vec![b'a'; 64 * 1024]);
    let (_, said) = closed(&mut stream);
    assert!(said.is_empty() || said.starts_with("HTTP/1.1 431"), "{said}");
}

#[test]
fn the_callers_address_is_its_own_unless_a_proxy_is_named() {
    let open = Served::new(|_| (), None);
    assert_eq!(open.counted_for("X-Real-IP: 203.0.113.7"), "127.0.0.1");
    let behind = Served::new(|_| (), Some("X-Real-IP"));
    assert_eq!(behind.counted_for("X-Real-IP: 203.0.113.7"), "203.0.113.7");
    assert_eq!(behind.counted_for("X-Real-IP: nobody"), "127.0.0.1");
    assert!(Front::new(Some("two words")).is_err());
}

#[test]
fn bodies_in_pieces_and_heads_alone_pass() {
    let served = Served::new(|_| (), None);
    let body = json!({ "sign_in": "mira", "password": demo::PASSWORD }).to_string();
    let mut stream = served.connect();
    let head = "POST /api/session HTTP/1.1\r\nHost: here\r\nContent-Type: application/json\r\n";
    write!(stream, "{head}Transfer-Encoding: chunked\r\n\r\n").expect("it goes out");
    let (first, rest) = body.split_at(10);
    for piece in [first, rest, ""] {
        write!(stream, "{:x}\r\n{piece}\r\n", piece.len()).expect("it goes out");
        std::thread::sleep(Duration::from_millis(20));
    }
    let signed_in = answer(&mut stream);
    assert!(signed_in.starts_with("HTTP/1.1 200"), "{signed_in}");
    let head = served.ask("HEAD /api/health HTTP/1.1", "");
    assert!(head.starts_with("HTTP/1.1 200") && head.ends_with("\r\n\r\n"), "{head}");
    // As old programs ask, without a word about the host.
    let mut old = served.connect();
    old.write_all(b"GET /api/health HTTP/1.0\r\n\r\n").expect("it goes out");
    let (_, said) = closed(&mut old);
    assert!(said.starts_with("HTTP/1.0 200"), "{said}");
}

#[test]
fn a_form_is_no_other_method_whatever_it_says() {
    let served = Served::new(|_| (), None);
    for kind in ["application/x-www-form-urlencoded", " Application/X-WWW-Form-URLencoded; a=b"] {
        let head = format!("POST /api/session HTTP/1.1\r\nContent-Type:{kind}");
        let said = served.ask(&head, "_method=delete");
        assert!(said.starts_with("HTTP/1.1 415") && said.contains("/problems/form"), "{said}");
    }
    // By its own name it is the method it is.
    assert!(served.ask("DELETE /api/session HTTP/1.1", "").starts_with("HTTP/1.1 204"));
}

#[test]
fn whoever_leaves_ends_what_was_computed_for_them() {
    // One place, and no end but that nobody waits: a routing of so many modules takes minutes here.
    let alone = |settings: &mut Settings| {
        settings.computing.places = 1;
        settings.computing.deadline = Duration::from_secs(3600);
    };
    let served = Served::with(alone, |_| (), None);
    let cookie = served.session();
    let body = large_map(4_000).to_string();
    let mut rude = served.connect();
    write!(
        rude,
        "POST /api/roof/route HTTP/1.1\r\nHost: here\r\nCookie: {cookie}\r\n\
         Content-Type: application/json\r\nContent-Length: {}\r\n\r\n{body}",
        body.len()
    )
    .expect("it goes out");
    rude.set_read_timeout(Some(Duration::from_secs(3))).expect("a timeout");
    assert!(rude.read(&mut [0; 1]).is_err(), "it is still being routed");
    // While it is, nobody else has the one place.
    drop(rude);
    let said = served.ask(&format!("GET /api/jobs HTTP/1.1\r\nCookie: {cookie}"), "");
    let list = said.split("\r\n\r\n").nth(1).expect("a body");
    let list: serde_json::Value = serde_json::from_str(list).expect("JSON");
    let id = list["jobs"][0]["id"].as_str().expect("a job");
    let said = served.ask(&format!("GET /api/jobs/{id} HTTP/1.1\r\nCookie: {cookie}"), "");
    assert!(said.starts_with("HTTP/1.1 200"), "{}", &said[..said.len().min(300)]);
}

#[test]
fn live_updates_come_through_as_they_are_said() {
    let served = Served::new(|l| l.still = Duration::from_secs(2), None);
    let cookie = served.session();
    let mut stream = served.connect();
    write!(stream, "GET /api/events HTTP/1.1\r\nHost: here\r\nCookie: {cookie}\r\n\r\n")
        .expect("it goes out");
    let mut heard = String::new();
    let mut buffer = [0; 4096];
    let mut db = served.database.connect();
    // Said each time until it is heard: the stream may not stand yet.
    for _ in 0..100 {
        diesel::sql_query("SELECT pg_notify('heliant', '{\"job\":\"from the database\"}')")
            .execute(&mut db)
            .expect("it is said");
        stream.set_read_timeout(Some(Duration::from_millis(200))).expect("a timeout");
        if let Ok(n) = stream.read(&mut buffer) {
            heard.push_str(&String::from_utf8_lossy(&buffer[..n]));
        }
        if heard.contains("from the database") {
            break;
        }
    }
    assert!(heard.contains("text/event-stream") && heard.contains("from the database"), "{heard}");
}
