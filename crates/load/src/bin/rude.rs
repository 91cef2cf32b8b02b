//! What others notice of somebody who asks for the dearest computations and leaves at once
//! (`./heliant load --rude`): opening and saving beside them, the server's memory afterwards, and
//! how long the largest bodies take. Only for an address on this machine.

use std::io::{Read, Write};
use std::net::TcpStream;
use std::process::ExitCode;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::thread;
use std::time::{Duration, Instant};

use serde_json::{Map, Value, json};

type Result<T> = std::result::Result<T, Box<dyn std::error::Error + Send + Sync>>;

/// How long somebody is rude, s.
const RUDE_S: u64 = 60;
/// How long a rude caller stays.
const STAYS: Duration = Duration::from_millis(700);
/// When the memory is looked at afterwards, s.
const AFTER_S: u64 = 30;

/// Somebody who is signed in.
struct Person<'a> {
    host: &'a str,
    cookie: String,
}

/// What came back: the status, the cookie it sets, the body.
struct Answer {
    status: u16,
    cookie: Option<String>,
    body: Vec<u8>,
}

impl Person<'_> {
    fn open<'a>(host: &'a str, path: &str, body: &Value) -> Result<Person<'a>> {
        let nobody = Person { host, cookie: String::new() };
        let answer = nobody.ask("POST", path, &body.to_string())?;
        let cookie = answer.cookie.ok_or("no session")?;
        Ok(Person { host, cookie })
    }

    fn sign_in<'a>(host: &'a str, name: &str) -> Result<Person<'a>> {
        let body = json!({ "sign_in": name, "password": "sun-on-the-roof" });
        Self::open(host, "/api/session", &body)
    }

    /// Sends a request on a connection of its own.
    fn send(&self, method: &str, path: &str, body: &str) -> Result<TcpStream> {
        let mut stream = TcpStream::connect(self.host)?;
        stream.set_read_timeout(Some(Duration::from_secs(120)))?;
        let head = format!(
            "{method} {path} HTTP/1.1\r\nHost: {}\r\nConnection: close\r\nCookie: {}\r\n\
             Content-Type: application/json\r\nContent-Length: {}\r\n\r\n",
            self.host,
            self.cookie,
            body.len()
        );
        stream.write_all(head.as_bytes())?;
        // One that is refused early need not take all of it.
        let _ = stream.write_all(body.as_bytes());
        Ok(stream)
    }

    fn ask(&self, method: &str, path: &str, body: &str) -> Result<Answer> {
        let mut said = Vec::new();
        let read = self.send(method, path, body)?.read_to_end(&mut said);
        let end = said.windows(4).position(|w| w == b"\r\n\r\n");
        let end = end.ok_or_else(|| format!("{path}: no answer: {read:?}"))?;
        let head = String::from_utf8_lossy(&said[..end]).into_owned();
        let status = head.split(' ').nth(1).ok_or("no status")?.parse()?;
        let cookie = head.lines().find_map(|l| {
            let (name, value) = l.split_once(": ")?;
            let session =
                name.eq_ignore_ascii_case("set-cookie") && value.starts_with("heliant_session");
            session.then(|| value.split(';').next().unwrap_or_default().to_owned())
        });
        Ok(Answer { status, cookie, body: said.split_off(end + 4) })
    }

    fn json(&self, method: &str, path: &str, body: &Value) -> Result<Value> {
        let text = if body.is_null() { String::new() } else { body.to_string() };
        let answer = self.ask(method, path, &text)?;
        if answer.status != 200 {
            let said: String = String::from_utf8_lossy(&answer.body).chars().take(300).collect();
            return Err(format!("{method} {path}: {} {said}", answer.status).into());
        }
        Ok(serde_json::from_slice(&unchunked(&answer.body))?)
    }
}

/// A body without the lengths of its pieces, where it came in pieces.
fn unchunked(body: &[u8]) -> Vec<u8> {
    if body.first().is_none_or(|b| *b == b'{' || *b == b'[') {
        return body.to_vec();
    }
    let (mut whole, mut rest) = (Vec::new(), body);
    while let Some(end) = rest.windows(2).position(|w| w == b"\r\n") {
        let length = std::str::from_utf8(&rest[..end]).ok();
        let Some(n) = length.and_then(|l| usize::from_str_radix(l, 16).ok()) else { break };
        let Some(piece) = rest.get(end + 2..end + 2 + n) else { break };
        whole.extend_from_slice(piece);
        rest = rest.get(end + 4 + n..).unwrap_or_default();
    }
    whole
}

fn at(times: &mut [f64], share: f64) -> f64 {
    times.sort_unstable_by(f64::total_cmp);
    times.get(((times.len().max(1) - 1) as f64 * share) as usize).copied().unwrap_or(f64::NAN)
}

/// Memory of a process that lies in the machine's, MB.
fn resident_mb(pid: &str) -> Result<f64> {
    let status = std::fs::read_to_string(format!("/proc/{pid}/status"))?;
    let line = status.lines().find_map(|l| l.strip_prefix("VmRSS:")).ok_or("no VmRSS")?;
    Ok(line.trim().trim_end_matches("kB").trim().parse::<f64>()? / 1024.0)
}

/// Strings are named A to Z, AA to ZZ.
fn letter(i: usize) -> String {
    let at = |k: usize| char::from(b'A' + k as u8);
    if i < 26 { at(i).to_string() } else { format!("{}{}", at(i / 26 - 1), at(i % 26)) }
}

/// A string like another, without its modules.
fn like(string: &Value, i: usize, n: usize) -> Value {
    let mut own = string.clone();
    (own["letter"], own["n"]) = (json!(letter(i)), json!(n));
    if let Some(fields) = own.as_object_mut() {
        for field in ["modules", "pinned", "reversed", "jumpers", "plus_first"] {
            fields.remove(field);
        }
    }
    own
}

/// The question for the routing of a map of 5,000 modules.
fn routing(view: &Value) -> Value {
    let mut job = view["job"].clone();
    let string = job["strings"][0].clone();
    let face = string["face"].clone();
    let modules: Map<String, Value> = (0..5_000)
        .map(|i| {
            let (x, y) = ((i % 100) as f64 * 1160.0, (i / 100) as f64 * 1740.0);
            (format!("m{i}"), json!({ "x_mm": x, "y_mm": y }))
        })
        .collect();
    let key = face.as_str().unwrap_or_default();
    job["roof"] = json!({ key: { "modules": modules, "box_mm": [0, 0] } });
    job["strings"] = (0..250).map(|i| like(&string, i, 20)).collect();
    (job["plan"], job["routes"]) = (json!({}), json!([]));
    json!({ "job": job, "library": view["library"], "ask": { "face": face } })
}

/// A job of 500 strings on 50 inverters with a circuit each.
fn large(view: &Value) -> Value {
    let mut job = view["job"].clone();
    let (string, inverter) = (job["strings"][0].clone(), job["inverters"][0].clone());
    job["name"] = json!("Five hundred strings");
    job["inverters"] = (1..=50)
        .map(|i| {
            let mut own = inverter.clone();
            own["id"] = json!(format!("INV{i}"));
            own
        })
        .collect();
    job["strings"] = (0..500)
        .map(|i| {
            let mut own = like(&string, i, 10);
            (own["inverter"], own["mppt"]) =
                (json!(format!("INV{}", i / 10 + 1)), json!(i % 2 + 1));
            own
        })
        .collect();
    let circuit = job["plan"]["circuits"]["A"].clone();
    let circuits: Map<String, Value> = (0..500)
        .map(|i| {
            let mut own = circuit.clone();
            own["from"] = json!({ "string": letter(i) });
            (letter(i), own)
        })
        .collect();
    job["plan"]["circuits"] = circuits.into();
    (job["roof"], job["routes"]) = (json!({}), json!([]));
    job
}

/// Somebody asks and leaves on so many connections while others work.
fn rude<'a>(
    what: &str,
    pid: &str,
    connections: usize,
    ask: impl Fn(usize) -> Result<TcpStream> + Sync,
    other: &Person<'a>,
    job: &str,
) -> Result<()> {
    let before = resident_mb(pid)?;
    let (over, asked) = (AtomicBool::new(false), AtomicUsize::new(0));
    let (mut opens, mut saves, mut most) = (Vec::new(), Vec::new(), before);
    thread::scope(|scope| -> Result<()> {
        for _ in 0..connections {
            scope.spawn(|| {
                while !over.load(Ordering::Relaxed) {
                    let stream = ask(asked.fetch_add(1, Ordering::Relaxed));
                    thread::sleep(STAYS);
                    drop(stream);
                }
            });
        }
        let work = || -> Result<()> {
            let began = Instant::now();
            let path = format!("/api/jobs/{job}");
            let mut view = other.json("GET", &path, &Value::Null)?;
            while began.elapsed() < Duration::from_secs(RUDE_S) {
                let start = Instant::now();
                other.json("GET", &path, &Value::Null)?;
                opens.push(start.elapsed().as_secs_f64() * 1000.0);
                let mut edited = view["job"].clone();
                edited["strings"][1]["n"] = json!(6 + saves.len() % 5);
                let body = json!({ "base_revision": view["revision"], "job": edited,
                    "library": view["library"] });
                let start = Instant::now();
                let saved = other.json("PUT", &path, &body)?;
                saves.push(start.elapsed().as_secs_f64() * 1000.0);
                view["revision"] = saved["revision"].clone();
                most = most.max(resident_mb(pid)?);
                thread::sleep(Duration::from_millis(100));
            }
            Ok(())
        };
        let worked = { work }();
        over.store(true, Ordering::Relaxed);
        worked
    })?;
    let n = saves.len();
    println!("{what}: {connections} connections for {RUDE_S} s, {} asked", asked.into_inner());
    for (did, times) in [("open", &mut opens), ("save", &mut saves)] {
        println!(
            "  others {did}: {n} times, median {:.1} ms, 95 % {:.1} ms, slowest {:.0} ms",
            at(times, 0.5),
            at(times, 0.95),
            at(times, 1.0)
        );
    }
    thread::sleep(Duration::from_secs(AFTER_S));
    let after = resident_mb(pid)?;
    println!(
        "  memory of the server: {before:.0} MB before, {most:.0} MB at most, {after:.0} MB \
         {AFTER_S} s after"
    );
    Ok(())
}

/// How long bodies as large as they may be take, and searches over as much as there may be.
fn bodies(person: &Person, view: &Value, big: &Value) -> Result<()> {
    let word = "w".repeat(3_900_000);
    let with = |more: Value| {
        let mut body = json!({ "job": big, "library": view["library"] });
        for (key, value) in more.as_object().into_iter().flatten() {
            body[key] = value.clone();
        }
        body.to_string()
    };
    let many: Map<String, Value> = (0..300_000).map(|i| (format!("x{i}"), json!(1))).collect();
    let table = |text: String| json!({ "kind": "module", "text": text, "preview": true });
    let wide = json!({ "a": 1 }).to_string();
    let strings = format!("[{}1]", format!("{wide},").repeat(3_500_000));
    for (what, path, body) in [
        ("one unknown key of 3.9 MB", "/api/try", json!({ &word: 1 }).to_string()),
        ("300,000 unknown keys", "/api/try", json!(many).to_string()),
        ("a file of 30 MB that is none", "/api/jobs/import/look", strings),
        (
            "a table of 3 MB that opens a quote",
            "/api/sheets/import",
            table(format!("sheet,revision,maker,model\n\"{}", "a,1,b,c\n".repeat(370_000)))
                .to_string(),
        ),
        ("a header of 3 MB", "/api/sheets/import", table("sheets,".repeat(430_000)).to_string()),
        ("500 strings tried", "/api/try", with(json!({}))),
        ("500 strings, all wires", "/api/wires", with(json!({ "circuits": [] }))),
        ("500 strings, a budget", "/api/wires/budget", with(json!({ "budget_pct": 4 }))),
        ("500 strings, other wire", "/api/wires/options", with(json!({ "circuit": "A" }))),
        ("500 strings, ways", "/api/ways", with(json!({}))),
        ("5,000 modules routed", "/api/roof/route", routing(view).to_string()),
    ] {
        let start = Instant::now();
        let answer = person.ask("POST", path, &body)?;
        println!(
            "  {what}: {:.2} s, {} ({} KB in, {} KB out)",
            start.elapsed().as_secs_f64(),
            answer.status,
            body.len() / 1024,
            answer.body.len() / 1024
        );
    }
    Ok(())
}

fn run(host: &str, pid: &str) -> Result<()> {
    let (tomas, ines) = (Person::sign_in(host, "tomas")?, Person::sign_in(host, "ines")?);
    let found = tomas.json("GET", "/api/jobs?find=Kestrel", &Value::Null)?;
    let kestrel = found["jobs"][0]["id"].as_str().ok_or("no Kestrel Lane")?.to_owned();
    let copy = tomas.json("POST", &format!("/api/jobs/{kestrel}/duplicate"), &Value::Null)?;
    let job = copy["id"].as_str().ok_or("no copy")?.to_owned();
    let view = tomas.json("GET", &format!("/api/jobs/{job}"), &Value::Null)?;
    let big = large(&view);
    let file = json!({ "format": "heliant-job", "version": view["version"], "job": big,
        "library": view["library"] });
    let made = tomas.json("POST", "/api/jobs/import", &file)?;
    let huge = made["id"].as_str().ok_or("no job")?.to_owned();

    let route = routing(&view).to_string();
    let budget = json!({ "job": big, "library": view["library"], "budget_pct": 4 }).to_string();
    let dear = |n: usize| match n % 3 {
        0 => ines.send("POST", "/api/wires/budget", &budget),
        _ => ines.send("POST", "/api/roof/route", &route),
    };
    rude("one who may only look", pid, 8, dear, &tomas, &job)?;

    let until = json!({ "until": chrono::Utc::now() + chrono::TimeDelta::days(1) });
    let link = tomas.json("POST", &format!("/api/jobs/{huge}/links"), &until)?;
    let guest = Person::open(host, "/api/session/link", &json!({ "token": link["token"] }))?;
    let at = format!("/api/jobs/{huge}/revisions/1");
    let looks = [
        format!("/api/jobs/{huge}"),
        format!("{at}/workings"),
        format!("{at}/faults"),
        format!("{at}/one-line"),
        format!("/api/jobs/{huge}/export"),
        format!("{at}/labels"),
    ];
    let look = |n: usize| guest.send("GET", &looks[n % looks.len()], "");
    rude("a guest of a link", pid, 16, look, &tomas, &job)?;

    println!("bodies up to their limit:");
    bodies(&tomas, &view, &big)
}

fn main() -> ExitCode {
    let mut arguments = std::env::args().skip(1);
    let (Some(url), Some(pid)) = (arguments.next(), arguments.next()) else {
        eprintln!("usage: rude URL PID");
        return ExitCode::FAILURE;
    };
    let host = url.trim_start_matches("http://").trim_end_matches('/');
    if !host.starts_with("127.0.0.1:") {
        eprintln!("{host} is not on this machine");
        return ExitCode::FAILURE;
    }
    match run(host, &pid) {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => {
            eprintln!("{error}");
            ExitCode::FAILURE
        }
    }
}
