//! Plain routings to begin with: rows one after the other, pairs of rows out and back, and every
//! second module out with the others back.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::question::Field;
use super::tours::{Cost, Tours};
use super::weights::{Room, Weights};

/// Rows whose lower edges are closer than this are one, mm.
const ROW_MM: f64 = 200.0;

/// How the modules of a string follow one another.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Along {
    /// Line by line, there and back.
    Through,
    /// Every second one out, the others back.
    EverySecond,
    /// Out on one line, back on its neighbour.
    OutAndBack,
}

/// The plain routings that are tried: lines taken at once, and how a string runs along them.
const PLAIN: [(usize, Along); 3] =
    [(1, Along::Through), (1, Along::EverySecond), (2, Along::OutAndBack)];

/// The best of the plain routings.
pub(super) fn plain(field: &Field, weights: &Weights) -> Tours {
    best_of(field, weights, &[rows(field), columns(field)], &PLAIN)
}

/// The best in which every string runs as it is asked.
pub(super) fn shaped(field: &Field, weights: &Weights, along: Along) -> Tours {
    let asked: Vec<_> = PLAIN.into_iter().filter(|(_, a)| *a == along).collect();
    // Along the longer lines: few rows of many modules, or few columns.
    let (rows, columns) = (rows(field), columns(field));
    let longer = if rows.len() <= columns.len() { rows } else { columns };
    best_of(field, weights, &[longer], &asked)
}

fn rows(field: &Field) -> Vec<Vec<usize>> {
    lines(field, |m| field.row[m], |m| field.middle[m][0])
}

fn columns(field: &Field) -> Vec<Vec<usize>> {
    lines(field, |m| field.middle[m][0], |m| field.middle[m][1])
}

fn best_of(
    field: &Field,
    weights: &Weights,
    fields: &[Vec<Vec<usize>>],
    tried: &[(usize, Along)],
) -> Tours {
    let mut best: Option<(Cost, Tours)> = None;
    let mut room = Room::default();
    for lines in fields {
        for &(at_once, along) in tried {
            for from_the_other_end in [false, true] {
                let mut lines = lines.clone();
                if from_the_other_end {
                    lines.iter_mut().for_each(|l| l.reverse());
                }
                let mut tours = cut(field, &banded(&lines, at_once), along);
                for order in &mut tours.strings {
                    weights.settle(order, &mut tours.turned, true, &mut room);
                }
                let cost = tours.cost(field);
                if best.as_ref().is_none_or(|(least, _)| cost < *least) {
                    best = Some((cost, tours));
                }
            }
        }
    }
    best.map(|(_, tours)| tours).unwrap_or_default()
}

/// A module and the line it lies in.
type Placed = (usize, usize);

/// Modules by lines: those that lie across from one another within [`ROW_MM`], each line in order.
fn lines(
    field: &Field,
    across: impl Fn(usize) -> f64,
    along: impl Fn(usize) -> f64,
) -> Vec<Vec<usize>> {
    let mut all: Vec<usize> = (0..field.len()).collect();
    all.sort_by(|a, b| across(*a).total_cmp(&across(*b)));
    let mut lines: Vec<Vec<usize>> = Vec::new();
    for m in all {
        match lines.last_mut() {
            Some(line) if across(m) - across(line[line.len() - 1]) < ROW_MM => line.push(m),
            _ => lines.push(vec![m]),
        }
    }
    for line in &mut lines {
        line.sort_by(|a, b| along(*a).total_cmp(&along(*b)));
    }
    lines
}

/// All modules, some lines at once, one band there and the next back.
fn banded(lines: &[Vec<usize>], at_once: usize) -> Vec<Placed> {
    let mut all = Vec::new();
    for (at, band) in lines.chunks(at_once).enumerate() {
        let longest = band.iter().map(Vec::len).max().unwrap_or(0);
        let mut own: Vec<Placed> = (0..longest)
            .flat_map(|i| {
                band.iter().enumerate().filter_map(move |(l, line)| Some((*line.get(i)?, l)))
            })
            .collect();
        if at % 2 == 1 {
            own.reverse();
        }
        all.append(&mut own);
    }
    all
}

/// The modules cut into strings of the sizes asked.
fn cut(field: &Field, all: &[Placed], along: Along) -> Tours {
    let mut rest = all;
    let strings = field.sizes.iter().map(|n| {
        let (own, others) = rest.split_at(*n);
        rest = others;
        arranged(own, along)
    });
    Tours { strings: strings.collect(), turned: vec![false; field.len()] }
}

fn arranged(own: &[Placed], along: Along) -> Vec<usize> {
    let each = own.iter().enumerate();
    let out = |at: usize, line: usize| match along {
        Along::Through => true,
        Along::EverySecond => at.is_multiple_of(2),
        Along::OutAndBack => line == own[0].1,
    };
    let (there, back): (Vec<_>, Vec<_>) = each.partition(|(at, (_, line))| out(*at, *line));
    there.iter().chain(back.iter().rev()).map(|(_, (m, _))| *m).collect()
}
