//! How long strings take to be routed, and how far from the best: `cargo bench -p heliant-core
//! --bench route`.

use heliant_core::search::{RouteAsk, RouteFace, RouteModule, RouteString, route, route_unproved};
use heliant_core::stages::roof::Leads;

fn main() {
    against_the_best();
    against_the_bound();
    divan::main();
}

/// A face of rows and columns, its box where said.
fn ask(columns: usize, rows: usize, sizes: &[usize], lead_m: f64, box_mm: [f64; 2]) -> RouteAsk {
    let modules = (0..columns * rows).map(|i| RouteModule {
        id: format!("M{i}"),
        x_mm: (i % columns) as f64 * 1154.0,
        y_mm: (i / columns) as f64 * 1742.0,
        landscape: false,
    });
    let strings =
        sizes.iter().enumerate().map(|(i, n)| RouteString { letter: format!("S{i}"), n: *n });
    let face = RouteFace {
        id: "S".into(),
        box_mm,
        modules: modules.collect(),
        strings: strings.collect(),
    };
    RouteAsk {
        module: Leads {
            width_mm: 1134.0,
            length_mm: 1722.0,
            exit_plus_mm: [816.48, 861.0],
            exit_minus_mm: [317.52, 861.0],
            lead_plus_m: lead_m,
            lead_minus_m: lead_m,
        },
        slack_m: 0.1,
        stock_m: vec![0.5, 1.0, 2.0, 3.0, 5.0, 10.0],
        may_turn: true,
        faces: vec![face],
    }
}

fn wire(routed: Result<heliant_core::search::Routed, heliant_core::search::RouteError>) -> f64 {
    routed.expect("all are joined").wire_m
}

/// Faces of 13 to 16 modules in two strings against the search of all routings.
fn against_the_best() {
    let (mut worst, mut off, mut n) = (0.0_f64, 0, 0);
    for (columns, rows, sizes) in [
        (7, 2, [7, 7]),
        (8, 2, [8, 8]),
        (4, 4, [8, 8]),
        (5, 3, [9, 6]),
        (13, 1, [6, 7]),
        (4, 4, [10, 6]),
    ] {
        for lead in [1.2, 0.9, 0.6] {
            for at in [[0.0, -300.0], [-400.0, 3000.0], [4000.0, 1700.0], [15_000.0, 9_000.0]] {
                let ask = ask(columns, rows, &sizes, lead, at);
                let (usual, best) = (wire(route_unproved(&ask)), wire(route(&ask)));
                let over = if best > 1e-6 { usual / best - 1.0 } else { usual - best };
                if over > 1e-6 {
                    println!("{columns} x {rows} {sizes:?} lead {lead} box {at:?}: {usual} {best}");
                    off += 1;
                }
                worst = worst.max(over);
                n += 1;
            }
        }
    }
    println!("{n} faces of 13 to 16: {off} not the best, the worst {:.2} % above", worst * 100.0);
}

/// Larger faces against what is proved.
fn against_the_bound() {
    for (columns, rows, strings, size) in [(13, 2, 2, 13), (20, 10, 20, 10), (50, 20, 50, 20)] {
        for lead in [1.2, 0.6] {
            let ask = ask(columns, rows, &vec![size; strings], lead, [-400.0, -300.0]);
            let began = std::time::Instant::now();
            let routed = route(&ask).expect("all are joined");
            let face = &routed.faces[0];
            println!(
                "{:5} modules, lead {lead}: {:8.2} m, bound {:8.2} m, {:3} jumpers, {:3} turned, \
                 {:.0} ms",
                columns * rows,
                face.wire_m,
                face.bound_m,
                face.jumpers_n,
                face.turned_n,
                began.elapsed().as_secs_f64() * 1000.0
            );
        }
    }
}

#[divan::bench(args = [(8, 2, 2), (13, 2, 2), (20, 10, 20), (50, 20, 50)], sample_count = 10)]
fn routed(bencher: divan::Bencher, (columns, rows, strings): (usize, usize, usize)) {
    let size = columns * rows / strings;
    let ask = ask(columns, rows, &vec![size; strings], 1.2, [-400.0, -300.0]);
    bencher.bench(|| route(divan::black_box(&ask)));
}
