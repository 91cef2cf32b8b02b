//! Rails under the rows of modules: attachments, splices, weights, and how each metal part is
//! bonded.

use serde::Serialize;
use utoipa::ToSchema;

use super::leads::laid_mm;
use super::map::Map;
use crate::figure::{Field, Handle, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{Face, FaceMap, JobBranch, JobString, Placed, Rails};
use crate::library::Library;
use crate::quantity::{Kilograms, KilogramsPerMetre, Metres, Ratio, SquareMetres, ceil};
use crate::traced::exact;

figures! { Roof;
    /// Two rails under each row.
    LENGTH: Metres = "rail.length_m", "Rail", "roof map";
    /// 1 + ceil((length - 2 x cantilever) / span) of each rail.
    ATTACHMENTS_N: Count = "rail.attachments_n", "Attachments", "rail data sheet";
    /// Pieces of each rail less one.
    SPLICES_N: Count = "rail.splices_n", "Rail splices", "rail data sheet";
    /// Clamps between two modules, two each.
    MID_N: Count = "rail.mid_clamps_n", "Clamps between modules", "roof map";
    /// Clamps at the ends of a row, two each.
    END_N: Count = "rail.end_clamps_n", "Clamps at row ends", "roof map";
    /// Modules, units and rails.
    WEIGHT: Kilograms = "face.weight_kg", "Weight on the face", "data sheets";
    /// Weight by attachments.
    ON_ONE: Kilograms = "attachment.weight_kg", "Weight on an attachment", "data sheets";
    /// Weight by the area of the modules.
    DEAD_LOAD: KilogramsPerSquareMetre = "face.dead_load_kg_m2", "Dead load", "data sheets";
    /// One a rail row, or one a piece of rail where splices do not bond.
    LUGS_N: Count = "bond.lugs_n", "Lugs for bonding", na "690.43", iec "60364-7-712";
    /// Bonding conductor from the farthest lug to the box.
    CONDUCTOR: Metres = "bond.conductor_m",
        "Bonding conductor to the box", na "690.43", iec "60364-7-712";
    /// Whether every metal part is bonded.
    BONDED: Rule = "bond.whole", "Every metal part bonded", na "690.43", iec "60364-7-712";
    /// Parts that bite once: a lug or clamp that is moved takes a new one.
    SINGLE_USE_N: Count = "bond.single_use_n", "Parts for one use", "maker";
}

/// Between two attachments where nothing is said, m.
const SPAN_M: f64 = 1.2;
/// Weight of rail where nothing is said, kg/m.
const KG_PER_M: f64 = 0.9;
/// Share of a module's side at which a rail runs under it, from either end.
const CLAMP_SHARE: f64 = 0.25;
/// Modules whose lower edges are closer than this are in one row, mm.
const ROW_MM: f64 = 20.0;
/// Modules of a row farther apart than this are on rails of their own, mm.
const APART_MM: f64 = 300.0;

/// Rails and bonding as they are drawn.
#[derive(Clone, Debug, Default, PartialEq, Serialize, ToSchema)]
pub struct RoofRails {
    /// Each rail from end to end: x, y, x, y, mm.
    pub rails_mm: Vec<[f64; 4]>,
    /// Lugs, mm.
    pub lugs_mm: Vec<[f64; 2]>,
    /// The bonding conductor: from each lug to its line, along that, and to the box.
    pub bond_mm: Vec<[f64; 4]>,
}

/// Modules side by side on two rails.
#[derive(Clone, Debug)]
struct Row {
    /// From end to end along the rail, mm.
    along: [f64; 2],
    /// Where its two rails run, across, mm.
    at: [f64; 2],
    modules_n: usize,
}

impl Row {
    fn length_m(&self) -> f64 {
        (self.along[1] - self.along[0]) / 1000.0
    }
}

/// Attachments of one rail.
fn attachments(length_m: f64, span_m: f64, cantilever_m: f64) -> f64 {
    1.0 + ceil(((length_m - 2.0 * cantilever_m) / span_m).max(0.0)).max(1.0)
}

/// The rows of a face; `up_slope` turns along and across.
fn rows(own: &FaceMap, size: [f64; 2]) -> Vec<Row> {
    let up = own.rails.up_slope;
    // Along the rail and across it, from and size.
    let lies = |m: &Placed| {
        let [wide, high] = laid_mm(size, m.landscape);
        if up { (m.y_mm, m.x_mm, high, wide) } else { (m.x_mm, m.y_mm, wide, high) }
    };
    let mut all: Vec<_> = own.modules.values().map(lies).collect();
    all.sort_by(|a, b| a.1.total_cmp(&b.1).then(a.0.total_cmp(&b.0)));
    let mut lines: Vec<Vec<(f64, f64, f64, f64)>> = Vec::new();
    for m in all {
        match lines.last_mut() {
            Some(line) if m.1 - line[0].1 < ROW_MM && (m.3 - line[0].3).abs() < ROW_MM => {
                line.push(m);
            }
            _ => lines.push(vec![m]),
        }
    }
    let mut found: Vec<Row> = Vec::new();
    for mut line in lines {
        line.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut open: Option<Row> = None;
        for (from, across, wide, high) in line {
            match &mut open {
                Some(row) if from - row.along[1] <= APART_MM => {
                    row.along[1] = from + wide;
                    row.modules_n += 1;
                }
                _ => {
                    found.extend(open.take());
                    let at = [CLAMP_SHARE, 1.0 - CLAMP_SHARE].map(|s| across + high * s);
                    open = Some(Row { along: [from, from + wide], at, modules_n: 1 });
                }
            }
        }
        found.extend(open);
    }
    found
}

/// What one unit on each module weighs; none where its sheet does not say.
fn units_kg(map: &Map, library: &Library, face: &Face) -> Result<f64, Field> {
    let job = map.job;
    let on = |keys: &[crate::job::ModuleKey]| {
        keys.iter().filter(|m| map.lying(m).is_some_and(|l| *l.face == face.id)).count() as f64
    };
    // What is not joined yet sits nowhere: its weight is not known.
    let loose = |b: &JobBranch| b.face == face.id && b.modules.len() != b.units() as usize;
    if job.branches.iter().any(loose) {
        return Err("branch.modules");
    }
    let loose = |s: &JobString| {
        s.face == face.id && s.optimizer.is_some() && s.modules.len() != s.n as usize
    };
    if job.strings.iter().any(loose) {
        return Err("string.modules");
    }
    let mut sum = 0.0;
    for b in job.branches.iter().filter(|b| on(&b.modules) > 0.0) {
        let kg = library.micro(&b.micro).and_then(|m| m.weight_kg);
        sum += kg.ok_or("unit.weight_kg")? * on(&b.modules);
    }
    for s in job.strings.iter().filter(|s| on(&s.modules) > 0.0) {
        if let Some(optimizer) = &s.optimizer {
            let kg = library.optimizer(optimizer).and_then(|o| o.weight_kg);
            sum += kg.ok_or("optimizer.weight_kg")? * on(&s.modules);
        }
    }
    Ok(sum)
}

/// Rails, weights and bonding of a face.
pub(super) fn rails(
    sheet: &mut Sheet,
    map: &Map,
    library: &Library,
    face: &Face,
    own: &FaceMap,
) -> RoofRails {
    let Some(size) = map.size(&face.id).filter(|_| !own.modules.is_empty()) else {
        return RoofRails::default();
    };
    sheet.subject = Subject::Face { face: face.id.clone() };
    let rows = rows(own, size);
    let said = own.rails;
    let span = said.span_m.unwrap_or(SPAN_M);
    let cantilever = said.cantilever_m.unwrap_or(span / 3.0);
    let metres: f64 = rows.iter().map(|r| 2.0 * r.length_m()).sum();
    let length =
        sheet.figure(&LENGTH, |w| Some(w.given("two under each row", Metres(metres), "roof map")));
    let attachments = sheet.count(&ATTACHMENTS_N, |w| {
        w.given("span", Metres(span), if said.span_m.is_some() { "roof map" } else { "practice" });
        w.given("cantilever", Metres(cantilever), "roof map, or a third of the span");
        let mut all = Some(exact::<Ratio>(0.0));
        for (k, row) in rows.iter().enumerate() {
            let one = attachments(row.length_m(), span, cantilever);
            w.given(format_args!("row {}, each rail", k + 1), Metres(row.length_m()), "roof map");
            let both = w.given(format_args!("row {}", k + 1), Ratio(2.0 * one), "both rails");
            all = all.map(|sum| sum + both);
        }
        all
    });
    let pieces = |row: &Row| said.piece_m.map(|m| ceil(row.length_m() / m).max(1.0));
    let splices: Option<f64> = rows.iter().map(|r| Some(2.0 * (pieces(r)? - 1.0))).sum();
    let splices = sheet.count(&SPLICES_N, |w| {
        let Some(n) = splices else {
            w.lack("rails.piece_m");
            return None;
        };
        w.given("piece", Metres(said.piece_m?), "roof map");
        Some(w.given("pieces less one, each rail", Ratio(n), "roof map"))
    });
    sheet.known(&SPLICES_N, splices.missing().iter().copied());
    let between: usize = rows.iter().map(|r| r.modules_n - 1).sum();
    let mid = sheet.count(&MID_N, |w| {
        let n = w.given("gaps between modules", Ratio(between as f64), "roof map");
        Some(exact::<Ratio>(2.0) * n)
    });
    let ends = sheet.count(&END_N, |w| {
        let n = w.given("rows", Ratio(rows.len() as f64), "roof map");
        Some(exact::<Ratio>(4.0) * n)
    });
    weights(sheet, map, library, face, own, size, (&length, &attachments));
    bonding(sheet, own, &rows, splices.value(), &pieces, [&mid, &ends])
}

fn weights(
    sheet: &mut Sheet,
    map: &Map,
    library: &Library,
    face: &Face,
    own: &FaceMap,
    size: [f64; 2],
    (length, attachments): (&Handle<Metres>, &Handle<Ratio>),
) {
    let module = super::map::module_of(map.job, &face.id).and_then(|s| library.module(s));
    let units = units_kg(map, library, face);
    let n = own.modules.len() as f64;
    let weight = sheet.figure(&WEIGHT, |w| {
        let kg = module.and_then(|m| m.weight_kg);
        let one = w.need::<Kilograms>("one module", kg, "module.weight_kg", "module data sheet");
        let n = w.given("modules", Ratio(n), "roof map");
        let units = match units {
            Ok(kg) => Some(w.given("units", Kilograms(kg), "unit data sheet")),
            Err(field) => {
                w.lack(field);
                None
            }
        };
        let rail = own.rails.kg_per_m.unwrap_or(KG_PER_M);
        let rail = w.given("rail, a metre", KilogramsPerMetre(rail), "rail data sheet");
        let rails = w.step("rails", w_length(length)? * rail);
        Some(n * one? + units? + rails)
    });
    sheet.figure(&ON_ONE, |w| {
        let all = w.take("weight", &weight)?;
        Some(all / w.take("attachments", attachments)?)
    });
    let dead_load = sheet.figure(&DEAD_LOAD, |w| {
        let all = w.take("weight", &weight)?;
        let one = size[0] * size[1] / 1e6;
        Some(all / w.given("area of the modules", SquareMetres(n * one), "roof map"))
    });
    sheet.known(&DEAD_LOAD, dead_load.missing().iter().copied());
}

fn w_length(length: &Handle<Metres>) -> Option<crate::traced::Traced<Metres>> {
    length.quantity().map(crate::traced::silent)
}

fn bonding(
    sheet: &mut Sheet,
    own: &FaceMap,
    rows: &[Row],
    splices: Option<f64>,
    pieces: &impl Fn(&Row) -> Option<f64>,
    [mid, ends]: [&Handle<Ratio>; 2],
) -> RoofRails {
    let Rails { up_slope, splices_bond, clamps_bond, .. } = own.rails;
    // Rails without a splice ask nothing of splices.
    let whole = if splices == Some(0.0) { Some(true) } else { splices_bond };
    let mut missing: Vec<Field> = Vec::new();
    if clamps_bond.is_none() {
        missing.push("rails.clamps_bond");
    }
    if whole.is_none() {
        missing.push("rails.splices_bond");
    }
    // Clamps that bond join the two rails of a row through the frames.
    let lugs: Option<f64> = match (clamps_bond, whole) {
        (Some(true), Some(true)) => Some(rows.len() as f64),
        (Some(true), Some(false)) => rows.iter().map(pieces).sum(),
        (Some(false), Some(true)) => Some(rows.iter().map(|r| 2.0 + r.modules_n as f64).sum()),
        (Some(false), Some(false)) => {
            rows.iter().map(|r| Some(2.0 * pieces(r)? + r.modules_n as f64)).sum()
        }
        _ => None,
    };
    let lugs_n = sheet.count(&LUGS_N, |w| {
        missing.iter().for_each(|f| w.lack(f));
        let n = w.given("rows of rail", Ratio(rows.len() as f64), "roof map");
        if whole == Some(false) {
            w.note("Splices do not bond: every piece of rail takes a lug.");
        }
        match (clamps_bond, whole) {
            (Some(true), Some(true)) => Some(n),
            _ => Some(w.given("lugs", Ratio(lugs?), "rails, pieces and modules of each row")),
        }
    });
    sheet.count(&SINGLE_USE_N, |w| {
        let lugs = w.take("lugs", &lugs_n)?;
        Some(lugs + w.take("between modules", mid)? + w.take("at row ends", ends)?)
    });
    let line = bond_line(own, rows);
    let conductor = sheet.figure(&CONDUCTOR, |w| {
        let Some((_, m)) = line else {
            w.lack("face.box_mm");
            return None;
        };
        Some(w.given("from the farthest lug to the box", Metres(m), "roof map"))
    });
    missing.extend(conductor.missing());
    if clamps_bond == Some(false) {
        let check = sheet.judge(&BONDED, Verdict::Warn);
        check.reason("Clamps do not bond: every module frame takes a lug of its own.");
        check.cure("Bonding clamps, listed for module and rail.", Vec::new());
    } else {
        sheet.known(&BONDED, missing);
    }
    let place = |along: f64, across: f64| if up_slope { [across, along] } else { [along, across] };
    let lugs: Vec<[f64; 2]> = line
        .iter()
        .flat_map(|(at, _)| rows.iter().map(|r| [at.clamp(r.along[0], r.along[1]), r.at[0]]))
        .collect();
    let segment = |a: [f64; 2], b: [f64; 2]| {
        let [from, to] = [place(a[0], a[1]), place(b[0], b[1])];
        [from[0], from[1], to[0], to[1]]
    };
    let bond_mm = line.zip(own.box_mm).map(|((line, _), [x, y])| {
        let at_box = if up_slope { [y, x] } else { [x, y] };
        let across = || lugs.iter().map(|l| l[1]).chain([at_box[1]]);
        let low = across().fold(f64::INFINITY, f64::min);
        let high = across().fold(f64::NEG_INFINITY, f64::max);
        let aside = lugs.iter().chain([&at_box]).filter(|l| l[0] != line);
        let branches = aside.map(|l| segment(*l, [line, l[1]]));
        branches.chain([segment([line, low], [line, high])]).collect()
    });
    RoofRails {
        rails_mm: rows
            .iter()
            .flat_map(|r| r.at.map(|at| segment([r.along[0], at], [r.along[1], at])))
            .collect(),
        lugs_mm: lugs.iter().map(|l| place(l[0], l[1])).collect(),
        bond_mm: bond_mm.unwrap_or_default(),
    }
}

/// The line on which the lugs lie, as straight as the rows allow, and the conductor along it from
/// the farthest lug to the box, m. None while the box has no place.
fn bond_line(own: &FaceMap, rows: &[Row]) -> Option<(f64, f64)> {
    let [x, y] = own.box_mm?;
    let (box_along, box_across) = if own.rails.up_slope { (y, x) } else { (x, y) };
    let astray = |at: f64| -> f64 {
        let rows = rows.iter().map(|r| (at - at.clamp(r.along[0], r.along[1])).abs());
        rows.sum::<f64>() + (at - box_along).abs()
    };
    let ends = rows.iter().flat_map(|r| r.along);
    // Straight from the box where nothing is gained elsewhere.
    let line =
        std::iter::once(box_along).chain(ends).min_by(|a, b| astray(*a).total_cmp(&astray(*b)))?;
    let across = rows.iter().map(|r| r.at[0]).chain([box_across]);
    let low = across.clone().fold(f64::INFINITY, f64::min);
    let high = across.fold(f64::NEG_INFINITY, f64::max);
    Some((line, (high - low + astray(line)) / 1000.0))
}
