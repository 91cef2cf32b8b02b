//! The roof map as a drawing in open formats: SVG and DXF (R12), with layers. Every place comes
//! from the core; one list of shapes serves both.

use std::fmt::Write as _;

use heliant_core::job::{FaceMap, Job, JobString, ModuleKey};
use heliant_core::library::Library;
use heliant_core::stages::roof::{Map, outline};
use heliant_core::stages::strings::Tape;

/// What a drawing is written as.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RoofFormat {
    /// Scalable vector graphics, a group for each layer.
    Svg,
    /// Drawing exchange, release 12, in millimetres.
    Dxf,
}

type Point = [f64; 2];

enum Form {
    /// A line through points, closed or not.
    Line(Vec<Point>, bool),
    Circle(Point, f64),
    /// Words with their middle here, so high.
    Text(Point, f64, String),
}

struct Shape {
    layer: String,
    form: Form,
}

/// Millimetres between faces, which stand side by side.
const APART_MM: f64 = 2_000.0;
/// Room around the drawing, mm.
const MARGIN_MM: f64 = 500.0;

/// Draws every face that has a map, side by side, the eave at the bottom.
pub fn roof_map(job: &Job, library: &Library, tapes: &[Tape], format: RoofFormat) -> String {
    let map = Map::of(job, library);
    let mut shapes = Vec::new();
    let mut left = 0.0;
    for face in &job.site.faces {
        let Some(own) = job.roof.get(&face.id) else { continue };
        let mut drawn = faced(&map, job, face.id.as_str(), own);
        let [low, high] = reach(&drawn);
        let title =
            Form::Text([(low[0] + high[0]) / 2.0, high[1] + 300.0], 200.0, face.name.clone());
        drawn.push(Shape { layer: "labels".to_owned(), form: title });
        let by = left - low[0];
        left += high[0] - low[0] + APART_MM;
        shapes.extend(drawn.into_iter().map(|s| moved(s, by)));
    }
    match format {
        RoofFormat::Svg => svg(&shapes, tapes),
        RoofFormat::Dxf => dxf(&shapes),
    }
}

fn faced(map: &Map, job: &Job, face: &str, own: &FaceMap) -> Vec<Shape> {
    let mut shapes = Vec::new();
    let mut put = |layer: &str, form| shapes.push(Shape { layer: layer.to_owned(), form });
    if let Some(corners) = outline(own) {
        put("face", Form::Line(corners.to_vec(), true));
    }
    for o in own.obstructions.values() {
        let area = [o.x_mm, o.y_mm, o.x_mm + o.width_mm, o.y_mm + o.height_mm];
        put("obstructions", boxed(area));
    }
    let key = |k: &str| heliant_core::job::FaceKey::from(k);
    let leads = map.leads(&key(face)).ok();
    for (module, placed) in &own.modules {
        let Some(leads) = &leads else { continue };
        let [w, h] = leads.size_mm(placed.landscape);
        let [x, y] = [placed.x_mm, placed.y_mm];
        put("modules", boxed([x, y, x + w, y + h]));
        put("labels", Form::Text([x + w / 2.0, y + h - 150.0], 120.0, map.name(module)));
        let Some(exits) = map.lying(module).and_then(|l| map.exits(l)) else { continue };
        put("plus", Form::Circle(exits.plus, 40.0));
        put("minus", Form::Circle(exits.minus, 40.0));
    }
    for string in job.strings.iter().filter(|s| s.face == *face) {
        let layer = format!("string-{}", string.letter);
        for join in joins(map, string) {
            put(&layer, Form::Line(join, false));
        }
        for tail in own.box_mm.iter().flat_map(|at_box| tails(map, string, *at_box)) {
            put(&layer, Form::Line(tail, false));
        }
    }
    if let Some([x, y]) = own.box_mm {
        put("boxes", boxed([x - 150.0, y - 100.0, x + 150.0, y + 100.0]));
    }
    shapes
}

fn boxed([l, b, r, t]: [f64; 4]) -> Form {
    Form::Line(vec![[l, b], [r, b], [r, t], [l, t]], true)
}

/// The leads by which a string leaves a module and comes to it.
fn leads_of(map: &Map, string: &JobString, module: &ModuleKey) -> Option<(Point, Point)> {
    let exits = map.exits(map.lying(module).filter(|l| *l.face == string.face)?)?;
    // By +, or by - where it begins with +; a reversed one the other way round.
    let by_plus = string.plus_first == string.reversed.contains(module);
    Some(if by_plus { (exits.plus, exits.minus) } else { (exits.minus, exits.plus) })
}

fn joins(map: &Map, string: &JobString) -> Vec<Vec<Point>> {
    let pairs = string.modules.windows(2);
    let ends = pairs.filter_map(|p| {
        let ((from, _), (_, to)) = (leads_of(map, string, &p[0])?, leads_of(map, string, &p[1])?);
        Some(vec![from, to])
    });
    ends.collect()
}

/// The free leads of both ends, along rail and eave to the box.
fn tails(map: &Map, string: &JobString, at_box: Point) -> Vec<Vec<Point>> {
    let first = string.modules.first().and_then(|m| Some(leads_of(map, string, m)?.1));
    let last = string.modules.last().and_then(|m| Some(leads_of(map, string, m)?.0));
    let ends = [first, last].into_iter().flatten();
    ends.map(|end| vec![end, [end[0], at_box[1]], at_box]).collect()
}

fn points(form: &Form) -> Vec<Point> {
    match form {
        Form::Line(points, _) => points.clone(),
        Form::Circle(at, _) | Form::Text(at, ..) => vec![*at],
    }
}

/// Lower left and upper right of what is drawn; a square metre where nothing is.
fn reach(shapes: &[Shape]) -> [Point; 2] {
    let all = shapes.iter().flat_map(|s| points(&s.form)).map(|p| [p, p]);
    let wide = |[a, b]: [Point; 2], [c, d]: [Point; 2]| {
        [[a[0].min(c[0]), a[1].min(c[1])], [b[0].max(d[0]), b[1].max(d[1])]]
    };
    all.reduce(wide).unwrap_or([[0.0, 0.0], [1_000.0, 1_000.0]])
}

fn moved(shape: Shape, by: f64) -> Shape {
    let on = |[x, y]: Point| [x + by, y];
    let form = match shape.form {
        Form::Line(points, closed) => Form::Line(points.into_iter().map(on).collect(), closed),
        Form::Circle(at, r) => Form::Circle(on(at), r),
        Form::Text(at, high, text) => Form::Text(on(at), high, text),
    };
    Shape { form, ..shape }
}

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

fn svg(shapes: &[Shape], tapes: &[Tape]) -> String {
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
        let colour = tape.map_or("#15202B", |t| t.hex);
        let _ = writeln!(
            out,
            "<g id=\"{layer}\" fill=\"none\" stroke=\"{colour}\" stroke-width=\"12\">"
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
                Form::Text(p, size, text) => {
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

fn escaped(text: &str) -> String {
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

fn dxf(shapes: &[Shape]) -> String {
    let mut g = Groups(String::new());
    g.put(0, "SECTION");
    g.put(2, "HEADER");
    g.put(9, "$ACADVER");
    g.put(1, "AC1009");
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
            Form::Text(p, size, text) => {
                g.entity("TEXT", &s.layer);
                g.at(*p);
                g.put(40, size);
                // One line, in the letters the format is sure to have.
                let plain = |c: char| if c.is_ascii_graphic() || c == ' ' { c } else { '_' };
                g.put(1, text.chars().map(plain).collect::<String>());
                g.put(72, 1);
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
