//! Sheets of marks in millimetres (the one-line diagram, labels) as SVG, PDF and DXF. Letters are
//! as wide as each other, so that words stand in their middle without a font at hand.

use std::fmt::Write as _;

use heliant_core::one_line::{Anchor, Drawn, Layer, Mark, OneLineSheet};
use heliant_core::stages::strings::Tape;
use pdf_writer::{Content, Finish, Name, Pdf, Rect, Ref, Str};

use crate::roof::{Form, Shape, dxf_of, escaped};

/// Points of a PDF in a millimetre.
const PT_MM: f64 = 72.0 / 25.4;
/// Width of a letter by its height.
const LETTER: f64 = 0.6;
/// Height of a letter by the size of its font.
const CAP: f64 = 0.72;

fn width_mm(layer: Layer) -> f64 {
    match layer {
        Layer::Circuits => 0.45,
        Layer::Symbols => 0.35,
        Layer::Frame => 0.25,
        Layer::Cases | Layer::Words => 0.2,
    }
}

/// A sheet as SVG, true to scale.
pub fn sheet_svg(sheet: &OneLineSheet, tapes: &[Tape]) -> String {
    let [width, height] = sheet.size_mm;
    let mut out = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{width}mm\" height=\"{height}mm\" \
         viewBox=\"0 0 {width} {height}\" fill=\"none\" stroke=\"#15202B\" \
         font-family=\"monospace\">\n"
    );
    let at = |[x, y]: &[f64; 2]| format!("{x:.2},{:.2}", height - y);
    for own in &sheet.marks {
        let wide = width_mm(own.layer);
        let dash = if own.layer == Layer::Cases { " stroke-dasharray=\"1.4 0.9\"" } else { "" };
        let colour = colour(own, tapes);
        let _ = match &own.mark {
            Mark::Line { points_mm, closed } => {
                let tag = if *closed { "polygon" } else { "polyline" };
                let points: Vec<String> = points_mm.iter().map(at).collect();
                let points = points.join(" ");
                writeln!(out, "<{tag} points=\"{points}\" stroke-width=\"{wide}\"{dash}{colour}/>")
            }
            Mark::Circle { at_mm: [x, y], r_mm } => {
                let y = height - y;
                writeln!(
                    out,
                    "<circle cx=\"{x:.2}\" cy=\"{y:.2}\" r=\"{r_mm}\" stroke-width=\"{wide}\"/>"
                )
            }
            Mark::Text { at_mm: [x, y], size_mm, anchor, text } => {
                let (y, font, text) = (height - y, size_mm / CAP * 0.9, escaped(text));
                let held = if *anchor == Anchor::Middle { "middle" } else { "start" };
                writeln!(
                    out,
                    "<text x=\"{x:.2}\" y=\"{y:.2}\" font-size=\"{font:.2}\" \
                     text-anchor=\"{held}\" fill=\"#15202B\" stroke=\"none\">{text}</text>"
                )
            }
        };
    }
    out.push_str("</svg>\n");
    out
}

/// The colour of a tape on the line of its string.
fn colour(own: &Drawn, tapes: &[Tape]) -> String {
    let tape = own.tape.as_ref().filter(|_| own.layer == Layer::Circuits);
    let tape = tape.and_then(|letter| tapes.iter().find(|t| t.letter == *letter));
    tape.map_or_else(String::new, |t| format!(" stroke=\"{}\"", t.hex))
}

/// Sheets as a PDF, a page each, true to scale.
pub fn sheets_pdf(title: &str, sheets: &[OneLineSheet]) -> Vec<u8> {
    let mut pdf = Pdf::new();
    let [catalog, tree, font, info] = [1, 2, 3, 4].map(Ref::new);
    let page_ref = |k: usize| Ref::new(5 + 2 * k as i32);
    let content_ref = |k: usize| Ref::new(6 + 2 * k as i32);
    pdf.catalog(catalog).pages(tree);
    let kids = (0..sheets.len()).map(page_ref);
    pdf.pages(tree).kids(kids).count(sheets.len() as i32);
    pdf.type1_font(font).base_font(Name(b"Courier")).encoding_predefined(Name(b"WinAnsiEncoding"));
    pdf.document_info(info).title(pdf_writer::TextStr(title));
    for (k, sheet) in sheets.iter().enumerate() {
        let [width, height] = sheet.size_mm.map(|mm| (mm * PT_MM) as f32);
        let mut page = pdf.page(page_ref(k));
        page.media_box(Rect::new(0.0, 0.0, width, height)).parent(tree).contents(content_ref(k));
        page.resources().fonts().pair(Name(b"F"), font);
        page.finish();
        pdf.stream(content_ref(k), &content(sheet));
    }
    pdf.finish()
}

fn content(sheet: &OneLineSheet) -> Vec<u8> {
    let mut c = Content::new();
    let pt = |mm: f64| (mm * PT_MM) as f32;
    for own in &sheet.marks {
        c.set_line_width(pt(width_mm(own.layer)));
        match own.layer {
            Layer::Cases => c.set_dash_pattern([pt(1.4), pt(0.9)], 0.0),
            _ => c.set_dash_pattern([], 0.0),
        };
        match &own.mark {
            Mark::Line { points_mm, closed } => {
                for (k, [x, y]) in points_mm.iter().enumerate() {
                    if k == 0 {
                        c.move_to(pt(*x), pt(*y))
                    } else {
                        c.line_to(pt(*x), pt(*y))
                    };
                }
                if *closed {
                    c.close_and_stroke()
                } else {
                    c.stroke()
                };
            }
            Mark::Circle { at_mm: [x, y], r_mm } => {
                circle(&mut c, [pt(*x), pt(*y)], pt(*r_mm));
            }
            Mark::Text { at_mm: [x, y], size_mm, anchor, text } => {
                let font = size_mm / CAP * 0.9;
                let bytes = win_ansi(text);
                let wide = bytes.len() as f64 * font * LETTER;
                let x = if *anchor == Anchor::Middle { x - wide / 2.0 } else { *x };
                c.begin_text().set_font(Name(b"F"), pt(font)).next_line(pt(x), pt(*y));
                c.show(Str(&bytes)).end_text();
            }
        }
    }
    c.finish().into_vec()
}

/// A circle of four curves.
fn circle(c: &mut Content, [x, y]: [f32; 2], r: f32) {
    const K: f32 = 0.552_284_8;
    c.move_to(x + r, y);
    c.cubic_to(x + r, y + K * r, x + K * r, y + r, x, y + r);
    c.cubic_to(x - K * r, y + r, x - r, y + K * r, x - r, y);
    c.cubic_to(x - r, y - K * r, x - K * r, y - r, x, y - r);
    c.cubic_to(x + K * r, y - r, x + r, y - K * r, x + r, y);
    c.close_and_stroke();
}

/// Letters as the encoding of the page has them; a question mark where it has none.
fn win_ansi(text: &str) -> Vec<u8> {
    let one = |c: char| match c {
        '–' => 0x96,
        '—' => 0x97,
        '−' => b'-',
        ' '..='~' => c as u8,
        '\u{a0}'..='\u{ff}' => c as u32 as u8,
        _ => b'?',
    };
    text.chars().map(one).collect()
}

/// Sheets as DXF, below one another.
pub fn sheets_dxf(sheets: &[OneLineSheet]) -> String {
    let mut shapes = Vec::new();
    let mut down = 0.0;
    for sheet in sheets {
        let moved = |[x, y]: &[f64; 2]| [*x, y - down];
        for own in &sheet.marks {
            let form = match &own.mark {
                Mark::Line { points_mm, closed } => {
                    Form::Line(points_mm.iter().map(moved).collect(), *closed)
                }
                Mark::Circle { at_mm, r_mm } => Form::Circle(moved(at_mm), *r_mm),
                Mark::Text { at_mm, size_mm, anchor, text } => {
                    let plain = text.replace('×', "x").replace('²', "2").replace('–', "-");
                    match anchor {
                        Anchor::Middle => Form::Text(moved(at_mm), *size_mm, plain),
                        Anchor::Start => Form::Words(moved(at_mm), *size_mm, plain),
                    }
                }
            };
            shapes.push(Shape { layer: own.layer.word().to_owned(), form });
        }
        down += sheet.size_mm[1] + 20.0;
    }
    dxf_of(&shapes)
}
