//! The cut through a raceway, to scale: where the wires come to lie when they are laid in one by
//! one, the thickest first, each as low as it goes.

use serde::Serialize;
use utoipa::ToSchema;

use crate::figure::Subject;
use crate::job::Letter;

/// What a wire in the cut is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WireRole {
    /// Positive of a string.
    Plus,
    /// Negative of a string.
    Minus,
    /// Line of an AC circuit.
    Line,
    /// Neutral.
    Neutral,
    /// Communication.
    Control,
    /// Earth.
    Earth,
}

/// A wire in the cut; millimetres from the centre, y upward.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct CutWire {
    /// The string it belongs to, by letter; none for AC and earth.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub string: Option<Letter>,
    /// What it is.
    pub role: WireRole,
    /// Size as printed.
    pub size: String,
    /// Outside diameter, mm.
    pub diameter_mm: f64,
    /// Centre, mm.
    pub x_mm: f64,
    /// Centre, mm.
    pub y_mm: f64,
    /// False where it found no room and lies over others.
    pub fits: bool,
}

/// The cut through one raceway.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RacewayCut {
    /// The raceway.
    pub subject: Subject,
    /// Kind and size, as the job writes them.
    pub kind: String,
    /// Size.
    pub size: String,
    /// Inner diameter, mm.
    pub inner_mm: f64,
    /// The wires.
    pub wires: Vec<CutWire>,
}

/// Lays the wires into a circle of `inner_mm`.
///
/// A candidate place touches the wall and one wire, or two wires, or lies at the bottom alone; the
/// lowest free one is taken. Two circles of radius r_i + r around (x_i, y_i) meet where a third of
/// radius r touches both.
pub fn arrange(inner_mm: f64, mut wires: Vec<CutWire>) -> Vec<CutWire> {
    wires.sort_by(|a, b| b.diameter_mm.total_cmp(&a.diameter_mm));
    let wall = inner_mm / 2.0;
    // Centres and radii of the wires that found room.
    let mut placed: Vec<(f64, f64, f64)> = Vec::new();
    let mut no_room_for = f64::INFINITY;
    for wire in &mut wires {
        let r = wire.diameter_mm / 2.0;
        // Where one of this size found no room the next finds none either.
        let best =
            if wire.diameter_mm < no_room_for { lowest_free(wall, r, &placed) } else { None };
        wire.fits = best.is_some();
        (wire.x_mm, wire.y_mm) = best.unwrap_or((0.0, wall - r));
        match best {
            Some((x, y)) => placed.push((x, y, r)),
            None => no_room_for = no_room_for.min(wire.diameter_mm),
        }
    }
    wires
}

/// The lowest place where a wire of radius `r` touches what holds it and overlaps nothing; of two
/// as low the one further left.
fn lowest_free(wall: f64, r: f64, placed: &[(f64, f64, f64)]) -> Option<(f64, f64)> {
    let mut best: Option<(f64, f64)> = None;
    let free = |(x, y): (f64, f64)| {
        let reach = wall + 1e-6 - r;
        reach >= 0.0
            && x * x + y * y <= reach * reach
            && placed.iter().all(|(px, py, pr)| {
                let (dx, dy, apart) = (x - px, y - py, r + pr - 1e-6);
                dx * dx + dy * dy >= apart * apart
            })
    };
    let mut tried = |at: (f64, f64)| {
        let lower = best.is_none_or(|b| at.1.total_cmp(&b.1).then(at.0.total_cmp(&b.0)).is_lt());
        if lower && free(at) {
            best = Some(at);
        }
    };
    tried((0.0, r - wall));
    for (k, &(ax, ay, ar)) in placed.iter().enumerate() {
        meet((0.0, 0.0), wall - r, (ax, ay), ar + r).into_iter().flatten().for_each(&mut tried);
        for &(bx, by, br) in &placed[..k] {
            meet((ax, ay), ar + r, (bx, by), br + r).into_iter().flatten().for_each(&mut tried);
        }
    }
    best
}

/// Where two circles meet: none, or two points.
fn meet(a: (f64, f64), ra: f64, b: (f64, f64), rb: f64) -> Option<[(f64, f64); 2]> {
    let (dx, dy) = (b.0 - a.0, b.1 - a.1);
    let d = (dx * dx + dy * dy).sqrt();
    if d < 1e-9 || ra < 0.0 || d > ra + rb || d < (ra - rb).abs() {
        return None;
    }
    let along = (ra * ra - rb * rb + d * d) / (2.0 * d);
    let across = (ra * ra - along * along).max(0.0).sqrt();
    let (mx, my) = (a.0 + dx * along / d, a.1 + dy * along / d);
    Some([
        (mx + dy * across / d, my - dx * across / d),
        (mx - dy * across / d, my + dx * across / d),
    ])
}

#[cfg(test)]
mod tests {
    use super::*;

    fn wire(diameter_mm: f64) -> CutWire {
        CutWire {
            string: None,
            role: WireRole::Plus,
            size: String::new(),
            diameter_mm,
            x_mm: 0.0,
            y_mm: 0.0,
            fits: false,
        }
    }

    #[test]
    fn wires_neither_overlap_nor_leave_the_raceway() {
        // Six 4.17 mm wires and a smaller one in 20.9 mm: 3/4 EMT with 10 AWG.
        let laid = arrange(20.93, (0..6).map(|_| wire(4.17)).chain([wire(3.3)]).collect());
        for (i, a) in laid.iter().enumerate() {
            assert!(a.fits);
            assert!(a.x_mm.hypot(a.y_mm) + a.diameter_mm / 2.0 <= 20.93 / 2.0 + 1e-5);
            for b in &laid[..i] {
                assert!(
                    (a.x_mm - b.x_mm).hypot(a.y_mm - b.y_mm) + 1e-5
                        >= (a.diameter_mm + b.diameter_mm) / 2.0
                );
            }
        }
        // The first lies at the bottom.
        assert_eq!((laid[0].x_mm, laid[0].y_mm), (0.0, 4.17 / 2.0 - 20.93 / 2.0));
    }

    #[test]
    fn what_has_no_room_is_said() {
        let laid = arrange(10.0, vec![wire(8.0), wire(8.0)]);
        assert!(laid[0].fits);
        assert!(!laid[1].fits);
    }
}
