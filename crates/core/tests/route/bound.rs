//! What is proved of a routing against faces whose best routing is known.

use heliant_core::search::{RouteAsk, route, route_unproved};

use crate::{ask, checker, grid};

/// Faces of up to nine modules, in one to three strings, with the box on every side.
fn small() -> Vec<RouteAsk> {
    let shapes: [(usize, usize, bool, &[usize]); 5] = [
        (9, 1, false, &[9]),
        (4, 2, false, &[4, 4]),
        (3, 3, true, &[3, 3, 3]),
        (4, 2, true, &[5, 2]),
        (2, 4, false, &[8]),
    ];
    let boxes = [[0.0, 0.0], [-300.0, 4_000.0], [12_000.0, 2_000.0]];
    let mut all = Vec::new();
    for (columns, rows, landscape, sizes) in shapes {
        for at in boxes {
            for (lead, may_turn) in [(1.2, true), (0.7, true), (0.5, false)] {
                let mut one = ask(grid(columns, rows, landscape), sizes, at);
                (one.module.lead_plus_m, one.module.lead_minus_m) = (lead, lead);
                one.may_turn = may_turn;
                all.push(one);
            }
        }
    }
    all
}

#[test]
fn no_bound_is_above_the_best_routing() {
    let mut told = 0;
    for ask in small() {
        // Searched whole, so this is the best; the other search has the bound that large faces get.
        let best = route(&ask).expect("all are joined").wire_m;
        let large = route_unproved(&ask).expect("all are joined");
        checker::check(&ask, &large);
        let face = &large.faces[0];
        assert!(face.bound_m <= best + 1e-6, "bound {} above {best}", face.bound_m);
        assert!(face.wire_m >= best - 1e-6, "{} below {best}", face.wire_m);
        told += usize::from(face.bound_m > 0.1);
    }
    assert!(told > 20, "{told} bounds say anything");
}

#[test]
fn the_search_of_large_faces_finds_the_best_of_small_ones_nearly_always() {
    let all = small();
    let over = all.iter().filter(|ask| {
        let best = route(ask).expect("all are joined").wire_m;
        let found = route_unproved(ask).expect("all are joined").wire_m;
        found > best * 1.03 + 1e-6
    });
    let over = over.count();
    assert!(over * 10 <= all.len(), "{over} of {} are more than 3 % above", all.len());
}
