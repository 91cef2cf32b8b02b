//! A face filled with modules: most of them first, then what looks straight.
//!
//! Rows lie one above the other from the lowest line that is free. Every stack of portrait and
//! landscape rows that the slope takes is tried (half and half), or the one kind that is asked. A
//! row is packed in two ways: in columns that all rows of its kind share, so that a face looks like
//! one field, or each row for itself, as wide as it is free there. The shared columns win where
//! they hold as many.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::job::{FaceKey, FaceMap, FrameRows, Job, MOST_MODULES, ModuleKey, Obstruction, Placed};
use crate::library::Library;
use crate::problem::Problem;
use crate::quantity::floor;
use crate::stages::roof::{GAP_MM, Leads, Map, Sides, outline};

/// How modules are laid.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Lay {
    /// Their length up the slope.
    #[default]
    Portrait,
    /// Their length along the eave.
    Landscape,
    /// Rows of both, whichever hold most.
    Both,
}

/// A face to be filled.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Fill {
    /// The face.
    pub face: FaceKey,
    /// How modules are laid.
    #[serde(default)]
    pub lay: Lay,
    /// No more than so many, from the eave up; all that find room where absent.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 5000)]
    pub most_n: Option<usize>,
}

/// A face filled.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Filled {
    /// The job with the modules on its map; strings of the face are to be routed anew.
    pub job: Job,
    /// Modules that lie there.
    pub modules_n: usize,
    /// Modules there would be room for.
    pub room_n: usize,
}

/// Fills a face.
///
/// # Errors
/// What is missing for it, or that no module finds room.
pub fn fill(job: &Job, library: &Library, ask: &Fill) -> Result<Filled, Vec<Problem>> {
    let at = format!("/job/roof/{}", ask.face);
    let one = |path: String, message: String, hint: &str| vec![Problem::new(path, message, hint)];
    let none = FaceMap::default();
    let own = job.roof.get(&ask.face).unwrap_or(&none);
    let Some(corners) = outline(own) else {
        let message = "the face has no size".to_owned();
        return Err(one(at, message, "width at the eave and length up the slope"));
    };
    let leads = Map::of(job, library).leads(&ask.face).map_err(|missing| {
        let message = format!("{} is not known", missing.join(", "));
        one(format!("{at}/module"), message, "a module whose data sheet says it")
    })?;
    let mut area = Area {
        corners,
        obstructions: own.obstructions.values().cloned().collect(),
        sides: Sides::of(own, job),
        leads,
        gap: own.gap_mm.unwrap_or(GAP_MM),
    };
    let mut cells = match (own.rows, own.slope_m) {
        (Some(rows), Some(slope)) => in_rows(&mut area, ask.lay, rows, slope * 1000.0),
        _ => area.best(ask.lay),
    };
    if cells.is_empty() {
        let [w, h] = leads.size_mm(ask.lay == Lay::Landscape);
        let message = format!(
            "no module of {w:.0} × {h:.0} mm finds room: {:.2} m are free up the slope",
            area.height_mm().max(0.0) / 1000.0
        );
        return Err(one(at, message, "a larger face, or less kept free along its sides"));
    }
    let room_n = cells.len();
    cells.truncate(ask.most_n.unwrap_or(MOST_MODULES).min(MOST_MODULES));
    let modules_n = cells.len();
    Ok(Filled { job: with(job, ask, cells), modules_n, room_n })
}

/// A place for a module: lower left corner, and whether it is landscape.
type Cell = (f64, f64, bool);

/// Each frame laid for itself, the front one first.
fn in_rows(area: &mut Area, lay: Lay, rows: FrameRows, slope_mm: f64) -> Vec<Cell> {
    let pitch = slope_mm + rows.gap_m * 1000.0;
    let wide = area.corners[1][0];
    area.corners = [[0.0, 0.0], [wide, 0.0], [wide, slope_mm], [0.0, slope_mm]];
    let mut all = Vec::new();
    for row in 0..rows.n {
        let foot = f64::from(row) * pitch;
        all.extend(area.best(lay).into_iter().map(|(x, y, landscape)| (x, y + foot, landscape)));
        area.obstructions.iter_mut().for_each(|o| o.y_mm -= pitch);
    }
    all
}

struct Area {
    corners: [[f64; 2]; 4],
    obstructions: Vec<Obstruction>,
    sides: Sides,
    leads: Leads,
    gap: f64,
}

impl Area {
    fn low_mm(&self) -> f64 {
        self.sides.eave_m * 1000.0
    }

    fn height_mm(&self) -> f64 {
        self.corners[2][1] - self.sides.ridge_m * 1000.0 - self.low_mm()
    }

    /// The stack of rows that holds most, the straightest of those.
    fn best(&self, lay: Lay) -> Vec<Cell> {
        let room = self.height_mm();
        let high = |landscape| self.leads.size_mm(landscape)[1] + self.gap;
        let most = |landscape| floor(((room + self.gap) / high(landscape)).max(0.0)) as usize;
        let stacks: Vec<(usize, usize)> = match lay {
            Lay::Portrait => vec![(most(false), 0)],
            Lay::Landscape => vec![(0, most(true))],
            Lay::Both => (0..=most(false))
                .map(|upright| {
                    let left = room + self.gap - upright as f64 * high(false);
                    (upright, floor((left / high(true)).max(0.0)) as usize)
                })
                .collect(),
        };
        let mut best: Vec<Cell> = Vec::new();
        for (upright, flat) in stacks {
            // Landscape rows lie nearest to the eave.
            let rows: Vec<bool> =
                (0..flat).map(|_| true).chain((0..upright).map(|_| false)).collect();
            // Shared columns are tried first, so a looser packing has to hold more.
            for path_left in [true, false] {
                for shared in [true, false] {
                    let cells = self.rows(&rows, path_left, shared);
                    if cells.len() > best.len() {
                        best = cells;
                    }
                }
            }
        }
        best
    }

    fn rows(&self, rows: &[bool], path_left: bool, shared: bool) -> Vec<Cell> {
        let mut y = self.low_mm();
        let mut spans = Vec::new();
        for &landscape in rows {
            let high = self.leads.size_mm(landscape)[1];
            spans.push((y, landscape, self.free(y, y + high, path_left)));
            y += high + self.gap;
        }
        let mut cells = Vec::new();
        for (y, landscape, free) in &spans {
            let step = self.leads.size_mm(*landscape)[0] + self.gap;
            // Columns begin where the widest row of the kind does.
            let alike = spans.iter().filter(|(_, kind, _)| kind == landscape);
            let first = alike.flat_map(|(_, _, free)| free.first()).map(|s| s.0);
            let origin = if shared { first.reduce(f64::min) } else { None };
            for (left, right) in free {
                let start = match origin {
                    Some(origin) => origin + ((left - origin) / step - 1e-9).ceil() * step,
                    None => *left,
                };
                let n = floor(((right - start + self.gap) / step).max(0.0)) as usize;
                cells.extend((0..n).map(|i| (start + i as f64 * step, *y, *landscape)));
            }
        }
        cells
    }

    /// What is free between two lines of the face, mm from left to right.
    fn free(&self, low: f64, high: f64, path_left: bool) -> Vec<(f64, f64)> {
        let [[x0, _], [x1, _], [x2, y2], [x3, _]] = self.corners;
        let at = |y: f64, from: f64, to: f64| from + (to - from) * y / y2;
        let (path, other) = (self.sides.one_side_m, 0.0);
        let (left_path, right_path) = if path_left { (path, other) } else { (other, path) };
        let left = at(low, x0, x3).max(at(high, x0, x3));
        let right = at(low, x1, x2).min(at(high, x1, x2));
        let mut spans = vec![(
            left + self.sides.left_m.max(left_path) * 1000.0,
            right - self.sides.right_m.max(right_path) * 1000.0,
        )];
        for o in &self.obstructions {
            let c = o.clearance_mm;
            if o.y_mm - c >= high || o.y_mm + o.height_mm + c <= low {
                continue;
            }
            let (from, to) = (o.x_mm - c, o.x_mm + o.width_mm + c);
            spans =
                spans.into_iter().flat_map(|(l, r)| [(l, r.min(from)), (l.max(to), r)]).collect();
        }
        spans.retain(|(l, r)| r > l);
        spans
    }
}

/// The job with the modules laid; their keys are free in the whole job.
fn with(job: &Job, ask: &Fill, cells: Vec<Cell>) -> Job {
    let mut next = job.clone();
    let laid = |m: &ModuleKey| job.roof.get(&ask.face).is_some_and(|f| f.modules.contains_key(m));
    for s in next.strings.iter_mut().filter(|s| s.face == ask.face || s.modules.iter().any(laid)) {
        s.modules.clear();
        s.jumpers.clear();
        s.reversed.clear();
        s.pinned.clear();
    }
    for b in next.branches.iter_mut().filter(|b| b.face == ask.face || b.modules.iter().any(laid)) {
        b.modules.clear();
        b.bridges.clear();
        b.pinned.clear();
    }
    next.roof.entry(ask.face.clone()).or_default().modules.clear();
    let taken = |key: &ModuleKey| next.roof.values().any(|m| m.modules.contains_key(key));
    let stem = (0..)
        .map(|i| if i == 0 { ask.face.to_string() } else { format!("{}.{i}", ask.face) })
        .find(|stem| (1..=cells.len()).all(|n| !taken(&numbered(stem, n))))
        .expect("numbers do not end");
    let modules = cells.into_iter().enumerate().map(|(i, (x_mm, y_mm, landscape))| {
        let placed = Placed { x_mm, y_mm, landscape, ..Placed::default() };
        (numbered(&stem, i + 1), placed)
    });
    let modules = modules.collect();
    if let Some(face) = next.roof.get_mut(&ask.face) {
        face.modules = modules;
    }
    next
}

/// Keys that sort as they count.
fn numbered(stem: &str, n: usize) -> ModuleKey {
    format!("{stem}-{n:03}").into()
}
