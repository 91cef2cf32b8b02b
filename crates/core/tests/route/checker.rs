//! Holds an answer against its question, with arithmetic of its own.

use std::collections::HashMap;

use heliant_core::search::{RouteAsk, RouteModule, Routed};

/// + and - of a module on the face, by the four formulas.
pub fn exits(ask: &RouteAsk, m: &RouteModule, turned: bool) -> [[f64; 2]; 2] {
    let (w, l) = (ask.module.width_mm, ask.module.length_mm);
    [ask.module.exit_plus_mm, ask.module.exit_minus_mm].map(|[u, v]| {
        let [dx, dy] = match (m.landscape, turned) {
            (false, false) => [u, v],
            (false, true) => [w - u, l - v],
            (true, false) => [l - v, u],
            (true, true) => [v, w - u],
        };
        [m.x_mm + dx, m.y_mm + dy]
    })
}

pub fn metres(a: [f64; 2], b: [f64; 2]) -> f64 {
    ((a[0] - b[0]).abs() + (a[1] - b[1]).abs()) / 1000.0
}

/// The jumper over a path, m: 0 within reach, none beyond stock.
pub fn jumper_m(ask: &RouteAsk, path: f64) -> Option<f64> {
    let short = path - (ask.module.lead_plus_m + ask.module.lead_minus_m - ask.slack_m);
    if short <= 1e-9 {
        return Some(0.0);
    }
    ask.stock_m.iter().copied().filter(|s| *s >= short - 1e-9).reduce(f64::min)
}

fn same(got: f64, wanted: f64, what: &str) {
    assert!((got - wanted).abs() < 1e-6, "{what}: {got}, wanted {wanted}");
}

pub fn check(ask: &RouteAsk, answer: &Routed) {
    let mut total = 0.0;
    for (face, routed) in ask.faces.iter().zip(&answer.faces) {
        assert_eq!(face.id, routed.id);
        let known: HashMap<&str, &RouteModule> =
            face.modules.iter().map(|m| (m.id.as_str(), m)).collect();
        let mut used: Vec<&str> = Vec::new();
        let (mut wire, mut jumpers_n, mut turned_n) = (0.0, 0, 0);
        assert_eq!(face.strings.len(), routed.strings.len());
        for (asked, string) in face.strings.iter().zip(&routed.strings) {
            assert_eq!((&asked.letter, asked.n), (&string.letter, string.modules.len()));
            assert!(ask.may_turn || string.turned.is_empty());
            turned_n += string.turned.len();
            let mut order: Vec<&str> = string.modules.iter().map(String::as_str).collect();
            used.extend(&order);
            if string.plus_first {
                order.reverse();
            }
            let at = |id: &str| exits(ask, known[id], string.turned.iter().any(|t| t == id));
            let mut jumpers = Vec::new();
            for pair in order.windows(2) {
                let path = metres(at(pair[0])[0], at(pair[1])[1]);
                let m = jumper_m(ask, path).expect("a join that can be");
                if m > 0.0 {
                    jumpers.push(m);
                }
            }
            let told: Vec<f64> = string.jumpers.iter().map(|j| j.m).collect();
            assert_eq!(told, jumpers, "string {}", string.letter);
            let tail = |exit, lead: f64| (metres(exit, face.box_mm) + ask.slack_m - lead).max(0.0);
            let plus = tail(at(order[order.len() - 1])[0], ask.module.lead_plus_m);
            let minus = tail(at(order[0])[1], ask.module.lead_minus_m);
            same(string.tail_plus_m, plus, "+ tail");
            same(string.tail_minus_m, minus, "- tail");
            wire += plus + minus + jumpers.iter().sum::<f64>();
            jumpers_n += jumpers.len();
        }
        used.sort_unstable();
        let all = used.len();
        used.dedup();
        assert_eq!(used.len(), all, "no module twice");
        same(routed.wire_m, wire, "wire of the face");
        assert_eq!((routed.jumpers_n, routed.turned_n), (jumpers_n, turned_n));
        assert!(routed.bound_m <= routed.wire_m + 1e-9);
        total += wire;
    }
    same(answer.wire_m, total, "wire in all");
}
