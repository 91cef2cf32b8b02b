//! Bettering a routing: stretches of neighbouring strings are taken out, and their modules put back
//! where they cost least, over and over; a worse routing is kept now and then, ever less often.
//!
//! After Christiaens and Vanden Berghe, "Slack Induction by String Removals for Vehicle Routing
//! Problems" (Transportation Science 54, 2020), with strings of a fixed count instead of vehicles
//! of a capacity, and with modules that may lie two ways round.

use super::question::Field;
use super::tours::{Cost, Tours};
use super::weights::{Room, Weights, laid};
use crate::work::Work;

/// Modules taken out at a time, on average.
const OUT_N: f64 = 8.0;
/// Longest stretch taken out of one string.
const STRETCH_N: usize = 8;
/// Neighbours looked at around a module.
const NEAR_N: usize = 60;
/// What a worse routing may cost more at the beginning and at the end, m.
const WARM_M: f64 = 1.5;
const COLD_M: f64 = 0.02;
/// A place that would be best is passed over once in so many.
const BLINK: usize = 100;
/// What laying modules the other way round may still gain after they are put back, m.
const MENDED_M: f64 = 2.0;

/// Rounds between two looks at whether the search is to go on.
const ASKS: usize = 64;

/// Rounds for a face of so many modules: each takes some three microseconds, and more where the
/// tables no longer lie in the processor's cache.
fn rounds(modules: usize) -> usize {
    modules
        * match modules {
            0..=40 => 100,
            41..=400 => 130,
            _ => 70,
        }
}

/// A fixed sequence that looks random: xorshift64* by Vigna.
struct Dice(u64);

impl Dice {
    fn next(&mut self) -> u64 {
        self.0 ^= self.0 >> 12;
        self.0 ^= self.0 << 25;
        self.0 ^= self.0 >> 27;
        self.0.wrapping_mul(0x2545_F491_4F6C_DD1D) >> 11
    }

    /// Below n.
    fn below(&mut self, n: usize) -> usize {
        (self.next() % n as u64) as usize
    }

    /// From 0 to 1.
    fn share(&mut self) -> f64 {
        self.next() as f64 / (1_u64 << 53) as f64
    }
}

struct Search<'f> {
    field: &'f Field,
    weights: Weights,
    tours: Tours,
    /// The string each module is in; none: left off.
    of: Vec<Option<usize>>,
    /// What each string weighs.
    weighs: Vec<f64>,
    near: Vec<Vec<usize>>,
    dice: Dice,
    kept: Vec<Kept>,
    out: Vec<usize>,
    room: Room,
}

/// A string as it was, with which way round its modules lay.
struct Kept {
    string: usize,
    order: Vec<usize>,
    turned: Vec<bool>,
    weight: f64,
    /// What its ends and joins weigh while modules are out of it: one more than modules.
    joins: Vec<f64>,
}

/// The best routing found from another one, never a worse one. Each turn goes another way about it.
pub(super) fn improve(
    field: &Field,
    weights: Weights,
    (start, turn): (Tours, u32),
    work: &Work,
) -> Tours {
    let mut best: (Cost, Tours) = (start.cost(field), start.clone());
    let mut search = Search::new(field, weights, start, turn);
    let rounds = rounds(field.len());
    let cooling = (COLD_M / WARM_M).powf(1.0 / rounds as f64);
    let mut warmth = WARM_M;
    let mut weight: f64 = search.weighs.iter().sum();
    let mut least = weight;
    for round in 0..rounds {
        if round % ASKS == 0 && !work.goes_on() {
            break;
        }
        if let Some(more) = search.round(warmth) {
            weight += more;
            if weight < least - 1e-7 {
                least = weight;
                let cost = search.tours.cost(field);
                if cost < best.0 {
                    best = (cost, search.tours.clone());
                }
            }
        }
        warmth *= cooling;
    }
    best.1
}

impl<'f> Search<'f> {
    fn new(field: &'f Field, weights: Weights, mut tours: Tours, turn: u32) -> Self {
        let mut of = vec![None; field.len()];
        let mut room = Room::default();
        let mut weighs = Vec::new();
        for (s, order) in tours.strings.iter_mut().enumerate() {
            for m in order.iter() {
                of[*m] = Some(s);
            }
            weighs.push(weights.settle(order, &mut tours.turned, true, &mut room));
        }
        let near = (0..field.len()).map(|m| near(field, m)).collect();
        let dice = Dice(0x9E37_79B9_7F4A_7C15 ^ u64::from(turn) << 32);
        let (kept, out) = (Vec::new(), Vec::new());
        Search { field, weights, tours, of, weighs, near, dice, kept, out, room }
    }

    /// Takes stretches out and puts their modules back; what the routing weighs more, where it is
    /// another one now.
    fn round(&mut self, warmth: f64) -> Option<f64> {
        self.take_out();
        self.sort_out();
        for at in 0..self.out.len() {
            self.put_back(self.out[at]);
        }
        let before: f64 = self.kept.iter().map(|k| k.weight).sum();
        let room = -warmth * self.dice.share().max(f64::MIN_POSITIVE).ln();
        // Turning modules mends no more than so much.
        let as_put: f64 = self.kept.iter().flat_map(|k| &k.joins).sum();
        if as_put > before + room + MENDED_M {
            self.restore();
            return None;
        }
        let both_ends = self.dice.below(4) == 0;
        let mut after = 0.0;
        for k in &self.kept {
            let order = &mut self.tours.strings[k.string];
            let turned = &mut self.tours.turned;
            let weight = self.weights.settle(order, turned, both_ends, &mut self.room);
            self.weighs[k.string] = weight;
            after += weight;
        }
        if after < before + room {
            return Some(after - before);
        }
        self.restore();
        None
    }

    /// Takes a stretch out of some strings around one module.
    fn take_out(&mut self) {
        self.kept.clear();
        self.out.clear();
        let seed = self.dice.below(self.field.len());
        let longest = self.tours.strings.iter().map(Vec::len).max().unwrap_or(1).min(STRETCH_N);
        let most = (4.0 * OUT_N / (1.0 + longest as f64) - 1.0).max(1.0) as usize;
        let strings = 1 + self.dice.below(most + 1);
        for at in 0..self.near[seed].len() {
            let module = self.near[seed][at];
            let Some(string) = self.of[module] else {
                // One that no string has: left off, or taken out just now.
                if self.out.len() < STRETCH_N && !self.out.contains(&module) {
                    self.out.push(module);
                }
                continue;
            };
            if self.kept.iter().any(|k| k.string == string) {
                continue;
            }
            if self.kept.len() == strings {
                break;
            }
            self.keep(string);
            let order = &mut self.tours.strings[string];
            let length = 1 + self.dice.below(order.len().min(longest));
            let place = order.iter().position(|m| *m == module).unwrap_or(0);
            let first = (place + 1).saturating_sub(length);
            let last = place.min(order.len() - length);
            let from = first + self.dice.below(last + 1 - first);
            let (of, out, stays) = (&mut self.of, &mut self.out, &self.field.stays);
            let mut place = 0;
            order.retain(|m| {
                let stretch = (from..from + length).contains(&place);
                place += 1;
                let stays = !stretch || stays[*m];
                if !stays {
                    of[*m] = None;
                    out.push(*m);
                }
                stays
            });
            let joins = self.joins(string);
            if let Some(kept) = self.kept.last_mut() {
                kept.joins = joins;
            }
        }
    }

    fn keep(&mut self, string: usize) {
        let order = self.tours.strings[string].clone();
        let turned = order.iter().map(|m| self.tours.turned[*m]).collect();
        self.kept.push(Kept {
            string,
            order,
            turned,
            weight: self.weighs[string],
            joins: Vec::new(),
        });
    }

    /// What stands at each place of a string: its beginning, its joins, its end.
    fn joins(&self, string: usize) -> Vec<f64> {
        let (w, order) = (&self.weights, &self.tours.strings[string]);
        let lies = |m: &usize| laid(*m, self.tours.turned[*m]);
        let [Some(first), Some(last)] = [order.first(), order.last()] else { return vec![0.0] };
        let between = order.windows(2).map(|p| w.join(lies(&p[0]), lies(&p[1])));
        let first = std::iter::once(w.first(lies(first)));
        first.chain(between).chain([w.last(lies(last))]).collect()
    }

    fn restore(&mut self) {
        for k in &self.kept {
            for m in &self.tours.strings[k.string] {
                self.of[*m] = None;
            }
        }
        for k in self.kept.drain(..) {
            for (m, turned) in k.order.iter().zip(k.turned) {
                self.of[*m] = Some(k.string);
                self.tours.turned[*m] = turned;
            }
            self.tours.strings[k.string] = k.order;
            self.weighs[k.string] = k.weight;
        }
    }

    /// The order in which modules are put back: by chance, the farthest or the nearest first.
    fn sort_out(&mut self) {
        let field = self.field;
        let far = |m: &usize| field.tail_plus_m(*m, false) + field.tail_minus_m(*m, false);
        match self.dice.below(10) {
            0..4 => {
                for at in (1..self.out.len()).rev() {
                    self.out.swap(at, self.dice.below(at + 1));
                }
            }
            4..7 => self.out.sort_by(|a, b| far(b).total_cmp(&far(a))),
            _ => self.out.sort_by(|a, b| far(a).total_cmp(&far(b))),
        }
    }

    /// Puts a module where it costs least among strings that are not whole.
    fn put_back(&mut self, module: usize) {
        struct Seat {
            more: f64,
            kept: usize,
            at: usize,
            turned: bool,
            joins: (f64, f64),
        }
        let mut best: Option<Seat> = None;
        let (strings, sizes) = (&self.tours.strings, &self.field.sizes);
        let mut blink = self.dice.below(BLINK);
        for (kept, k) in self.kept.iter().enumerate() {
            let order = &strings[k.string];
            if order.len() == sizes[k.string] {
                continue;
            }
            let mut before: Option<usize> = None;
            for (at, parted) in k.joins.iter().enumerate() {
                let after = order.get(at).map(|m| laid(*m, self.tours.turned[*m]));
                // The first place is looked at whatever the dice say: there has to be one.
                blink = blink.checked_sub(1).unwrap_or(BLINK - 1);
                if best.is_none() || blink > 0 {
                    for turned in [false, true].into_iter().take(self.weights.ways) {
                        let joins = self.weights.between(before, laid(module, turned), after);
                        let more = joins.0 + joins.1 - parted;
                        if best.as_ref().is_none_or(|seat| more < seat.more) {
                            best = Some(Seat { more, kept, at, turned, joins });
                        }
                    }
                }
                before = after;
            }
        }
        let Some(seat) = best else { return };
        let k = &mut self.kept[seat.kept];
        k.joins[seat.at] = seat.joins.0;
        k.joins.insert(seat.at + 1, seat.joins.1);
        self.tours.strings[k.string].insert(seat.at, module);
        self.tours.turned[module] = seat.turned;
        self.of[module] = Some(k.string);
    }
}

/// The modules around one, itself first.
fn near(field: &Field, module: usize) -> Vec<usize> {
    let [x, y] = field.middle[module];
    let far = |m: &usize| {
        let [a, b] = field.middle[*m];
        (a - x).abs() + (b - y).abs()
    };
    let mut all: Vec<usize> = (0..field.len()).collect();
    let most = NEAR_N.min(all.len());
    if most < all.len() {
        all.select_nth_unstable_by(most, |a, b| far(a).total_cmp(&far(b)));
        all.truncate(most);
    }
    all.sort_by(|a, b| far(a).total_cmp(&far(b)));
    all
}
