//! Every order and every way round, tried one after the other; and the plain out and back.

use heliant_core::search::RouteAsk;

use crate::checker::{exits, jumper_m, metres};

struct Brute<'a> {
    ask: &'a RouteAsk,
    /// + and - of each module, as it lies and turned.
    exits: Vec<[[[f64; 2]; 2]; 2]>,
    used: Vec<bool>,
    best: f64,
}

/// The least wire of one face, m.
pub fn least_wire_m(ask: &RouteAsk) -> f64 {
    let face = &ask.faces[0];
    let both = |m| [false, true].map(|turned| exits(ask, m, turned));
    let exits: Vec<_> = face.modules.iter().map(both).collect();
    let used = vec![false; exits.len()];
    let mut brute = Brute { ask, exits, used, best: f64::INFINITY };
    brute.string(0, 0.0);
    brute.best
}

impl Brute<'_> {
    fn string(&mut self, at: usize, wire: f64) {
        let Some(string) = self.ask.faces[0].strings.get(at) else {
            self.best = self.best.min(wire);
            return;
        };
        self.module(at, string.n, None, wire);
    }

    fn module(&mut self, at: usize, left: usize, last: Option<[f64; 2]>, wire: f64) {
        if wire >= self.best {
            return;
        }
        let to_box = self.ask.faces[0].box_mm;
        let tail = |exit, lead: f64| (metres(exit, to_box) + self.ask.slack_m - lead).max(0.0);
        if left == 0 {
            let more = tail(last.expect("a string has modules"), self.ask.module.lead_plus_m);
            self.string(at + 1, wire + more);
            return;
        }
        let ways = if self.ask.may_turn { 2 } else { 1 };
        for m in 0..self.exits.len() {
            if self.used[m] {
                continue;
            }
            for way in 0..ways {
                let [plus, minus] = self.exits[m][way];
                let more = match last {
                    None => Some(tail(minus, self.ask.module.lead_minus_m)),
                    Some(from) => jumper_m(self.ask, metres(from, minus)),
                };
                let Some(more) = more else { continue };
                self.used[m] = true;
                self.module(at, left - 1, Some(plus), wire + more);
                self.used[m] = false;
            }
        }
    }
}

/// Rows in pairs, each string out on the lower row and back on the upper; none turned.
pub fn out_and_back_m(ask: &RouteAsk, columns: usize) -> f64 {
    let face = &ask.faces[0];
    let rows: Vec<&[_]> = face.modules.chunks(columns).collect();
    let mut order = Vec::new();
    for pair in rows.chunks(2) {
        for c in 0..columns {
            order.extend(pair.iter().enumerate().map(|(upper, row)| (upper, &row[c])));
        }
    }
    let mut rest = order.as_slice();
    let mut wire = 0.0;
    for string in &face.strings {
        let (own, others) = rest.split_at(string.n);
        rest = others;
        let out = own.iter().filter(|(upper, _)| *upper == 0);
        let back = own.iter().rev().filter(|(upper, _)| *upper == 1);
        let ends: Vec<_> = out.chain(back).map(|(_, m)| exits(ask, m, false)).collect();
        let tail = |exit, lead: f64| (metres(exit, face.box_mm) + ask.slack_m - lead).max(0.0);
        wire += tail(ends[0][1], ask.module.lead_minus_m);
        wire += tail(ends[ends.len() - 1][0], ask.module.lead_plus_m);
        let joins = ends.windows(2).map(|p| jumper_m(ask, metres(p[0][0], p[1][1])));
        wire += joins.map(|m| m.expect("a join that can be")).sum::<f64>();
    }
    wire
}
