//! Shapes written as SVG, a group for each layer, and as DXF (R12).

use std::fmt::Write as _;

use heliant_core::stages::strings::Tape;

use super::{Form, MARGIN_MM, Point, Shape, reach};

/// Layers in the order they first appear.
fn layers(shapes: &[Shape]) -> Vec<&str> {
    let mut layers: Vec<&str> = Vec::new();
    for s in shapes {
        if !layers.contains(&s.layer.as_str()) {
            layers.push(&s.layer);
        }
    }
    layers
}

pub(super) fn svg(shapes: &[Shape], tapes: &[Tape]) -> String {
    let [low, high] = reach(shapes);
    let (left, top) = (low[0] - MARGIN_MM, high[1] + MARGIN_MM);
    let (width, height) = (high[0] - left + MARGIN_MM, top - low[1] + MARGIN_MM);
    let mut out = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {width:.0} {height:.0}\" \
         font-family=\"sans-serif\" text-anchor=\"middle\">\n"
    );
    let at = |[x, y]: Point| format!("{:.1},{:.1}", x - left, top - y);
    for layer in layers(shapes) {
        let tape = layer.strip_prefix("string-");
        let tape = tape.and_then(|l| tapes.iter().find(|t| t.letter == *l));
        let (colour, wide) = match (tape, layer) {
            (Some(tape), _) => (tape.hex, 30),
            (None, "rails") => ("#8A949C", 16),
            (None, "bonding") => ("#1B7446", 20),
            _ => ("#15202B", 12),
        };
        let _ = writeln!(
            out,
            "<g id=\"{layer}\" fill=\"none\" stroke=\"{colour}\" stroke-width=\"{wide}\">"
        );
        for s in shapes.iter().filter(|s| s.layer == layer) {
            let _ = match &s.form {
                Form::Line(points, closed) => {
                    let tag = if *closed { "polygon" } else { "polyline" };
                    let points: Vec<String> = points.iter().map(|p| at(*p)).collect();
                    writeln!(out, "<{tag} points=\"{}\"/>", points.join(" "))
                }
                Form::Circle(c, r) => {
                    let (x, y) = (c[0] - left, top - c[1]);
                    writeln!(out, "<circle cx=\"{x:.1}\" cy=\"{y:.1}\" r=\"{r}\"/>")
                }
                Form::Text(p, size, text) | Form::Words(p, size, text) => {
                    let (x, y, text) = (p[0] - left, top - p[1], escaped(text));
                    writeln!(
                        out,
                        "<text x=\"{x:.1}\" y=\"{y:.1}\" font-size=\"{size}\" fill=\"{colour}\" \
                         stroke=\"none\">{text}</text>"
                    )
                }
            };
        }
        out.push_str("</g>\n");
    }
    out.push_str("</svg>\n");
    out
}

pub(crate) fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;")
}

/// Pairs of group code and value, as the format has them.
struct Groups(String);

impl Groups {
    fn put(&mut self, code: u16, value: impl std::fmt::Display) {
        let _ = write!(self.0, "{code}\n{value}\n");
    }

    fn entity(&mut self, kind: &str, layer: &str) {
        self.put(0, kind);
        self.put(8, layer);
    }

    fn at(&mut self, [x, y]: Point) {
        self.put(10, format_args!("{x:.2}"));
        self.put(20, format_args!("{y:.2}"));
        self.put(30, 0);
    }
}

/// A text in which no two percent signs begin a code of the format: three of them stand for one.
fn literal(text: &str) -> String {
    if text.contains("%%") { text.replace('%', "%%%") } else { text.to_owned() }
}

pub(crate) fn dxf(shapes: &[Shape]) -> String {
    let mut g = Groups(String::new());
    g.put(0, "SECTION");
    g.put(2, "HEADER");
    g.put(9, "$ACADVER");
    g.put(1, "AC1009");
    // Drawn in millimetres: decimal, metric.
    for (name, value) in [("$LUNITS", 2), ("$MEASUREMENT", 1), ("$INSUNITS", 4)] {
        g.put(9, name);
        g.put(70, value);
    }
    g.put(0, "ENDSEC");
    g.put(0, "SECTION");
    g.put(2, "TABLES");
    g.put(0, "TABLE");
    g.put(2, "LAYER");
    let layers = layers(shapes);
    g.put(70, layers.len());
    for layer in layers {
        g.put(0, "LAYER");
        g.put(2, layer);
        g.put(70, 0);
        g.put(62, 7);
        g.put(6, "CONTINUOUS");
    }
    g.put(0, "ENDTAB");
    g.put(0, "ENDSEC");
    g.put(0, "SECTION");
    g.put(2, "ENTITIES");
    for s in shapes {
        match &s.form {
            Form::Line(points, closed) => {
                g.entity("POLYLINE", &s.layer);
                g.put(66, 1);
                g.at([0.0, 0.0]);
                g.put(70, u8::from(*closed));
                for p in points {
                    g.entity("VERTEX", &s.layer);
                    g.at(*p);
                }
                g.put(0, "SEQEND");
            }
            Form::Circle(c, r) => {
                g.entity("CIRCLE", &s.layer);
                g.at(*c);
                g.put(40, r);
            }
            Form::Text(p, size, text) | Form::Words(p, size, text) => {
                g.entity("TEXT", &s.layer);
                g.at(*p);
                g.put(40, size);
                // One line, in the letters the format is sure to have.
                let plain = |c: char| if c.is_ascii_graphic() || c == ' ' { c } else { '_' };
                g.put(1, literal(&text.chars().map(plain).collect::<String>()));
                g.put(72, u8::from(matches!(s.form, Form::Text(..))));
                g.put(11, format_args!("{:.2}", p[0]));
                g.put(21, format_args!("{:.2}", p[1]));
                g.put(31, 0);
            }
        }
    }
    g.put(0, "ENDSEC");
    g.put(0, "EOF");
    g.0
}
