//! The one-line and labels as SVG, PDF and DXF, read back.

use heliant_core::evaluate;
use heliant_core::job::{self, JobFile};
use heliant_core::labels::{label_sheets, labels};
use heliant_core::one_line::{Anchor, Drawn, Layer, Mark, OneLineSheet, Paper, Title, one_line};
use heliant_documents::{sheet_svg, sheets_dxf, sheets_pdf};

fn saltmarsh() -> JobFile {
    job::read(include_str!("../../../data/demo/saltmarsh-nursery.json"))
        .expect("the demo job reads")
        .file
}

fn diagram() -> Vec<OneLineSheet> {
    let file = saltmarsh();
    let report = evaluate(&file.job, &file.library, &[]);
    one_line(&file.job, &file.library, &report, &Title::default(), Paper::Letter).sheets
}

fn mark(layer: Layer, mark: Mark) -> Drawn {
    Drawn { layer, mark, subject: None, tape: None }
}

/// A sheet of one line, one circle and two words.
fn small() -> OneLineSheet {
    let text = |anchor, text: &str| Mark::Text {
        at_mm: [50.0, 20.0],
        size_mm: 3.6,
        anchor,
        text: text.to_owned(),
    };
    OneLineSheet {
        size_mm: [100.0, 40.0],
        text_mm: 3.6,
        marks: vec![
            mark(
                Layer::Cases,
                Mark::Line { points_mm: vec![[10.0, 10.0], [90.0, 10.0]], closed: false },
            ),
            mark(Layer::Symbols, Mark::Circle { at_mm: [50.0, 20.0], r_mm: 5.0 }),
            mark(Layer::Words, text(Anchor::Middle, "2 × 6 mm² < 5")),
            mark(Layer::Words, text(Anchor::Start, "A–F")),
        ],
    }
}

#[test]
fn an_svg_is_true_to_scale_and_stands_the_right_way_up() {
    let svg = sheet_svg(&small(), &[]);
    assert!(svg.contains("width=\"100mm\" height=\"40mm\""), "{svg}");
    // 40 mm of height: what is 10 mm above the foot is 30 mm below the top.
    assert!(svg.contains("points=\"10.00,30.00 90.00,30.00\""), "{svg}");
    assert!(svg.contains("stroke-dasharray"), "a case is dashed");
    assert!(svg.contains("2 × 6 mm² &lt; 5"), "words are escaped");
    assert!(svg.contains("text-anchor=\"start\"") && svg.contains("text-anchor=\"middle\""));
}

#[test]
fn the_line_of_a_string_has_the_colour_of_its_tape() {
    let file = saltmarsh();
    let report = evaluate(&file.job, &file.library, &[]);
    let tape = report.tapes.iter().find(|t| t.letter == "B").expect("a tape");
    let svg = sheet_svg(&diagram()[0], &report.tapes);
    assert!(svg.contains(&format!("stroke=\"{}\"", tape.hex)), "{}", tape.hex);
}

#[test]
fn a_pdf_has_a_page_a_sheet_of_its_own_size() {
    let pdf = sheets_pdf("Saltmarsh", &[small(), small()]);
    assert!(pdf.starts_with(b"%PDF-"));
    let text = String::from_utf8_lossy(&pdf);
    assert!(text.contains("/Count 2"), "two pages");
    // 100 x 40 mm are 283.46 x 113.39 points.
    assert!(text.contains("/MediaBox [0 0 283.46") && text.contains("113.38"), "{text}");
    assert!(text.contains("/BaseFont /Courier"));
    assert!(text.trim_end().ends_with("%%EOF"));
}

#[test]
fn words_of_a_pdf_are_in_its_own_letters_and_stand_in_their_middle() {
    let pdf = sheets_pdf("x", &[small()]);
    let has = |bytes: &[u8]| pdf.windows(bytes.len()).any(|w| w == bytes);
    // × is D7, ² is B2, – is 96; what is printed whole stands as it is or as hex.
    assert!(has(b"2 \xd7 6 mm\xb2 < 5") || has(b"<3220D72036206D6DB2203C2035>"));
    assert!(has(b"A\x96F") || has(b"<419646>"));
    // 13 letters of 4.5 x 0.6 mm are 35.1 mm: the middle one begins 17.55 mm before 50 mm, at
    // 32.45 mm = 91.98 points; the other at 50 mm = 141.73.
    let text = String::from_utf8_lossy(&pdf);
    assert!(text.contains("91.98"), "{text}");
    assert!(text.contains("141.73"), "{text}");
}

#[test]
fn a_dxf_names_its_layers_and_keeps_sheets_apart() {
    let dxf = sheets_dxf(&[small(), small()]);
    for layer in ["cases", "symbols", "words"] {
        assert!(dxf.contains(&format!("\n{layer}\n")), "{layer}");
    }
    assert!(dxf.contains("2 x 6 mm2 < 5") && dxf.contains("A-F"), "letters the format has");
    // The second sheet stands 60 mm below: 10 - 60.
    assert!(dxf.contains("\n-50.00\n"), "{dxf}");
    assert!(dxf.trim_end().ends_with("EOF"));
    // Words that begin where they stand are not centred.
    let groups: Vec<&str> = dxf.lines().collect();
    let after = |at: usize| groups.get(at + 1).copied();
    let held: Vec<_> =
        (0..groups.len()).filter(|k| k % 2 == 0 && groups[*k] == "72").filter_map(after).collect();
    assert_eq!(held, ["1", "0", "1", "0"]);
}

#[test]
fn a_whole_job_goes_through_every_format() {
    let sheets = diagram();
    assert_eq!(sheets.len(), 1);
    let svg = sheet_svg(&sheets[0], &[]);
    for word in ["INV1", "CB1", "ACP", "25 A", "100 A", "PVC40 2"] {
        assert!(svg.contains(word), "{word}");
        assert!(sheets_dxf(&sheets).contains(word), "{word}");
    }
    assert!(sheets_pdf("x", &sheets).len() > 2_000);
    let file = saltmarsh();
    let report = evaluate(&file.job, &file.library, &[]);
    let all = labels(&file.job, &file.library, &report);
    let printed = label_sheets(&all, [215.9, 279.4]);
    assert!(!printed.is_empty());
    let pdf = sheets_pdf("labels", &printed);
    let pages = format!("/Count {}", printed.len());
    assert!(String::from_utf8_lossy(&pdf).contains(&pages));
}
