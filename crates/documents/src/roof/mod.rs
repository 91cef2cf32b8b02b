//! The roof map as a drawing in open formats: SVG and DXF (R12) with layers, GeoJSON. Every place
//! comes from the core; one list of shapes serves both drawings.

mod formats;
mod geo;

use std::collections::HashSet;

use heliant_core::Report;
use heliant_core::job::{FaceKey, FaceMap, Job, JobBranch, JobString, ModuleKey};
use heliant_core::library::Library;
use heliant_core::stages::roof::{Map, RoofFace, outline};

pub(crate) use formats::{dxf as dxf_of, escaped};
pub use geo::{NoPlace, roof_geojson};

/// What a drawing is written as.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RoofFormat {
    /// Scalable vector graphics, a group for each layer.
    Svg,
    /// Drawing exchange, release 12, in millimetres.
    Dxf,
}

type Point = [f64; 2];

pub(crate) enum Form {
    /// A line through points, closed or not.
    Line(Vec<Point>, bool),
    Circle(Point, f64),
    /// Words with their middle here, so high.
    Text(Point, f64, String),
    /// Words that begin here, so high.
    Words(Point, f64, String),
}

pub(crate) struct Shape {
    pub(crate) layer: String,
    pub(crate) form: Form,
}

/// Millimetres between faces, which stand side by side.
const APART_MM: f64 = 2_000.0;
/// Room around the drawing, mm.
const MARGIN_MM: f64 = 500.0;

/// Each face of the report as SVG.
pub(crate) fn face_svgs(job: &Job, library: &Library, report: &Report) -> Vec<String> {
    let map = Map::of(job, library);
    let none = FaceMap::default();
    let one = |face: &RoofFace| {
        let own = job.roof.get(&face.face).unwrap_or(&none);
        formats::svg(&faced(&map, job, report, &face.face, own), &report.tapes)
    };
    report.roof.iter().map(one).collect()
}

/// Draws every face that has a map, side by side, the eave at the bottom.
pub fn roof_map(job: &Job, library: &Library, report: &Report, format: RoofFormat) -> String {
    let map = Map::of(job, library);
    let mut shapes = Vec::new();
    let mut left = 0.0;
    for face in &job.site.faces {
        let Some(own) = job.roof.get(&face.id) else { continue };
        let mut drawn = faced(&map, job, report, &face.id, own);
        let [low, high] = reach(&drawn);
        let title =
            Form::Text([(low[0] + high[0]) / 2.0, high[1] + 300.0], 200.0, face.name.clone());
        drawn.push(Shape { layer: "labels".to_owned(), form: title });
        let by = left - low[0];
        left += high[0] - low[0] + APART_MM;
        shapes.extend(drawn.into_iter().map(|s| moved(s, by)));
    }
    match format {
        RoofFormat::Svg => formats::svg(&shapes, &report.tapes),
        RoofFormat::Dxf => formats::dxf(&shapes),
    }
}

fn faced(map: &Map, job: &Job, report: &Report, face: &FaceKey, own: &FaceMap) -> Vec<Shape> {
    let mut shapes = Vec::new();
    let mut put = |layer: &str, form| shapes.push(Shape { layer: layer.to_owned(), form });
    if let Some(corners) = outline(own) {
        put("face", Form::Line(corners.to_vec(), true));
    }
    for o in own.obstructions.values() {
        let area = [o.x_mm, o.y_mm, o.x_mm + o.width_mm, o.y_mm + o.height_mm];
        put("obstructions", boxed(area));
    }
    if let Some(drawn) = report.roof.iter().find(|f| f.face == *face) {
        for [x, y, to_x, to_y] in &drawn.rails.rails_mm {
            put("rails", Form::Line(vec![[*x, *y], [*to_x, *to_y]], false));
        }
        for [x, y, to_x, to_y] in &drawn.rails.bond_mm {
            put("bonding", Form::Line(vec![[*x, *y], [*to_x, *to_y]], false));
        }
        for lug in &drawn.rails.lugs_mm {
            put("bonding", Form::Circle(*lug, 60.0));
        }
    }
    let leads = map.leads(face).ok();
    let units: HashSet<&ModuleKey> = job.branches.iter().flat_map(|b| &b.modules).collect();
    for (module, placed) in &own.modules {
        let Some(leads) = &leads else { continue };
        let [w, h] = leads.size_mm(placed.landscape);
        let [x, y] = [placed.x_mm, placed.y_mm];
        put("modules", boxed([x, y, x + w, y + h]));
        put("labels", Form::Text([x + w / 2.0, y + h - 250.0], 200.0, map.name(module)));
        if units.contains(module) {
            continue;
        }
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
    for branch in &job.branches {
        let layer = format!("string-{}", branch.letter);
        for line in trunk(map, branch, face, own) {
            put(&layer, Form::Line(line, false));
        }
        let here = branch.modules.iter().filter_map(|m| map.lying(m)).filter(|l| l.face == face);
        for [x, y] in here.filter_map(|l| map.middle(l)) {
            put(&layer, boxed([x - 60.0, y - 60.0, x + 60.0, y + 60.0]));
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

/// A trunk on a face: from unit to unit, and from the box to each arm's first.
fn trunk(map: &Map, b: &JobBranch, face: &FaceKey, own: &FaceMap) -> Vec<Vec<Point>> {
    let middle = |m: &ModuleKey| map.middle(map.lying(m).filter(|l| l.face == face)?);
    let across = |a: Point, b: Point| vec![a, [b[0], a[1]], b];
    let pairs = b.modules.windows(2).enumerate().filter(|(at, _)| at + 1 != b.before_feed());
    let hops = pairs.filter_map(|(_, p)| Some(across(middle(&p[0])?, middle(&p[1])?)));
    let first = b.first_units().into_iter().filter(|_| b.face == *face);
    let feeds = first.filter_map(|first| {
        let from = middle(first)?;
        let to = own.box_mm?;
        Some(vec![from, [from[0], to[1]], to])
    });
    hops.chain(feeds).collect()
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
        Form::Circle(at, _) | Form::Text(at, ..) | Form::Words(at, ..) => vec![*at],
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
        Form::Words(at, high, text) => Form::Words(on(at), high, text),
    };
    Shape { form, ..shape }
}
