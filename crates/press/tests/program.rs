//! The program as the server calls it: an order in, a PDF out, its phases and limits, and what it
//! says of an order that is none.

use std::io::Write;
use std::process::{Command, Output, Stdio};

use serde_json::{Value, json};

/// The smallest data the template reads; the contact is a text of many lines.
fn order(name: &str, contact: &str) -> Value {
    let data = json!({
        "name": name, "title": "pack", "part": "", "appendices": 0, "school": "IEC", "revision": 1,
        "saved": "", "printed": "", "verdict": "Holds",
        "counts": { "stop": 0, "caution": 0, "open": 0, "holds": 0 }, "demo": false,
        "cover": {
            "customer": "", "contact": contact, "address": "", "rules": "", "clock": "UTC",
            "system": [], "assumed_n": 0, "confirmed_n": 0, "not_covered": [], "signers": [],
        },
        "equipment": [], "legs": [], "ways": [], "sheets": [], "strings": [], "branches": [],
        "windows": 0, "roof": [], "cuts": [],
        "tapes": [], "stages": [], "assumptions": [], "readings": [],
        "readings_said": "", "notice": "", "safety": [],
        "protection": {
            "diagrams": 0, "devices": [], "enclosures": [], "boards": [], "demands": [],
            "bonding": [], "joints": [], "labels": [],
        },
    });
    json!({ "template": "pack", "ident": "test", "files": { "pack.json": data.to_string() } })
}

fn press(arguments: &[&str], order: &str) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_heliant-press"))
        .args(arguments)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("the press starts");
    // A press that ends at once does not read.
    let _ = child.stdin.take().expect("a pipe").write_all(order.as_bytes());
    child.wait_with_output().expect("it ends")
}

fn said(output: &Output) -> String {
    String::from_utf8_lossy(&output.stderr).into_owned()
}

fn set(order: &Value) -> Vec<u8> {
    let output = press(&[], &order.to_string());
    assert!(output.status.success(), "{}", said(&output));
    assert_eq!(said(&output), "setting\nwriting\n", "each phase is said as it begins");
    output.stdout
}

fn holds(pdf: &[u8], text: &str) -> bool {
    pdf.windows(text.len()).any(|w| w == text.as_bytes())
}

#[test]
fn an_order_becomes_a_document() {
    let pdf = set(&order("Quarry Cottage", ""));
    assert!(pdf.starts_with(b"%PDF-1.") && pdf.trim_ascii_end().ends_with(b"%%EOF"));
}

#[test]
fn scripts_that_our_fonts_lack_are_set_with_debians() {
    let plain = set(&order("Quarry Cottage", ""));
    for (text, font) in [
        ("太阳能", "WenQuanYi"),
        ("屋根の太陽光", "WenQuanYi"),
        ("태양광", "WenQuanYi"),
        ("सौर ऊर्जा", "Lohit"),
        ("พลังงานแสงอาทิตย์", "Garuda"),
    ] {
        let pdf = set(&order("Quarry Cottage", text));
        assert!(holds(&pdf, font), "{text} is not set with {font}");
        assert!(!holds(&plain, font), "{font} is there without need");
    }
}

#[test]
fn what_no_font_holds_is_said_on_the_paper() {
    // A letter of a script nobody has installed: the document says that there is one.
    let (with, without) = (set(&order("x", "\u{12000}")), set(&order("x", "a")));
    assert!(with.len() > without.len() + 200, "{} and {}", with.len(), without.len());
}

#[test]
fn a_long_word_does_not_leave_the_page() {
    // 3,000 letters in one line would be one line; broken they fill further pages' worth of lines.
    let pages = |pdf: &[u8]| {
        let text = String::from_utf8_lossy(pdf).into_owned();
        text.matches("/Type/Page").count() - text.matches("/Type/Pages").count()
    };
    let (short, long) = (set(&order("x", "word")), set(&order("x", &"w".repeat(20_000))));
    assert!(pages(&long) > pages(&short), "{} and {}", pages(&long), pages(&short));
}

#[test]
fn an_order_that_is_none_is_refused_in_words() {
    for (text, wanted) in [
        ("", "the order"),
        ("{", "the order"),
        (r#"{"template":"pack","ident":"x","files":{},"more":1}"#, "unknown field"),
        (r#"{"template":"letter","ident":"x","files":{}}"#, "there is no template letter"),
        (r#"{"template":"pack","ident":"x","files":{}}"#, "error: "),
    ] {
        let output = press(&[], text);
        assert!(!output.status.success() && output.stdout.is_empty(), "{text}");
        assert!(said(&output).contains(wanted), "{text}: {}", said(&output));
    }
}

#[test]
fn its_limits_are_its_own() {
    let text = order("x", &"many words ".repeat(2000)).to_string();
    let output = press(&["--memory-mb", "60"], &text);
    assert!(!output.status.success() && output.stdout.is_empty(), "in 60 MB");
    let much = order("x", &"many words ".repeat(300_000)).to_string();
    let output = press(&["--cpu-s", "1"], &much);
    assert!(!output.status.success() && output.stdout.is_empty(), "in a second");
}
