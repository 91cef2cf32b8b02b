//! Every way there is, found by trying them all, against the search.

use std::collections::BTreeSet;

use heliant_core::evaluate;
use heliant_core::figure::Verdict;
use heliant_core::job::{self};
use heliant_core::library::{InverterSheet, Mppt};
use heliant_core::search::{Ways, WaysAsk, ways};
use heliant_core::work::Work;
use proptest::prelude::*;

use crate::{VDC, edited, inverter, job_of};

/// An input in a way: class, face, modules in series, strings.
type Use = (usize, usize, u32, u32);

/// By the arithmetic of the figures: cold volts, hot volts, start, amps, watts of an input.
fn fits(watts_max: f64, n: u32, p: u32) -> bool {
    let (n, p) = (f64::from(n), f64::from(p));
    let cold = n * 40.0 * (1.0 - 0.25 / 100.0 * (-15.0 - 25.0));
    // Cells at 35 + 35 = 70 °C.
    let vmp_hot = n * 33.0 * (1.0 - 0.3 / 100.0 * 45.0);
    let voc_hot = n * 40.0 * (1.0 - 0.25 / 100.0 * 45.0);
    cold <= VDC + 1e-6
        && vmp_hot >= 55.0 - 1e-6
        && voc_hot >= 60.0 - 1e-6
        && p * 13.0 <= 30.0
        && n * p * 400.0 <= watts_max + 1e-6
}

fn margin(n: u32) -> f64 {
    let cold = (VDC - f64::from(n) * 40.0 * 1.1) / VDC * 100.0;
    let hot = (f64::from(n) * 33.0 * 0.865 - 55.0) / 55.0 * 100.0;
    cold.min(hot)
}

struct Brute<'a> {
    /// Inverter, class, connectors, watts of each input.
    inputs: Vec<(usize, usize, u32, f64)>,
    caps: Vec<f64>,
    ask: &'a WaysAsk,
    found: BTreeSet<Vec<Use>>,
}

impl Brute<'_> {
    fn go(&mut self, at: usize, left: &mut Vec<u32>, watts: &mut Vec<f64>, uses: &mut Vec<Use>) {
        if at == self.inputs.len() {
            let strings: u32 = uses.iter().map(|u| u.3).sum();
            let equal = !self.ask.equal_strings || uses.iter().all(|u| u.2 == uses[0].2);
            if left.iter().all(|l| *l == 0)
                && equal
                && self.ask.home_runs_max.is_none_or(|most| strings <= most)
            {
                let mut way = uses.clone();
                way.sort_unstable();
                self.found.insert(way);
            }
            return;
        }
        self.go(at + 1, left, watts, uses);
        let (inverter, class, connectors, watts_max) = self.inputs[at];
        for face in 0..left.len() {
            for n in 1..=left[face] {
                for p in 1..=connectors.min(left[face] / n) {
                    let more = f64::from(n * p) * 400.0;
                    if !fits(watts_max, n, p) || watts[inverter] + more > self.caps[inverter] + 1e-6
                    {
                        continue;
                    }
                    left[face] -= n * p;
                    watts[inverter] += more;
                    uses.push((class, face, n, p));
                    self.go(at + 1, left, watts, uses);
                    uses.pop();
                    watts[inverter] -= more;
                    left[face] += n * p;
                }
            }
        }
    }
}

fn brute(
    faces: &[u32],
    sheets: &[InverterSheet],
    on: &[usize],
    ask: &WaysAsk,
) -> BTreeSet<Vec<Use>> {
    let mut classes: Vec<(usize, &Mppt)> = Vec::new();
    let mut inputs = Vec::new();
    for (i, s) in on.iter().enumerate() {
        for m in &sheets[*s].mppts {
            let class = classes.iter().position(|c| *c == (*s, m)).unwrap_or_else(|| {
                classes.push((*s, m));
                classes.len() - 1
            });
            inputs.push((
                i,
                class,
                m.connectors_n.expect("given") as u32,
                m.mppt_w_max_w.expect("given"),
            ));
        }
    }
    let caps = on.iter().map(|s| sheets[*s].dc_w_max_w.expect("given")).collect();
    let mut brute = Brute { inputs, caps, ask, found: BTreeSet::new() };
    brute.go(0, &mut faces.to_vec(), &mut vec![0.0; on.len()], &mut Vec::new());
    brute.found
}

/// Cautions of an input: 1.25 x Isc above 30 A, Imp above 25 A, cold Vmp above 400 V.
fn warns(n: u32, p: u32) -> u32 {
    let (n, p) = (f64::from(n), f64::from(p));
    let beyond = [p * 13.0 * 1.25 > 30.0, p * 12.0 > 25.0, n * 33.0 * 1.12 > 400.0];
    beyond.into_iter().filter(|b| *b).count() as u32
}

/// Cautions, strings, margin, balance.
type Score = (u32, u32, f64, u32);

fn score(way: &[Use]) -> Score {
    let sizes: Vec<u32> = way.iter().map(|u| u.2 * u.3).collect();
    let unbalance = sizes.iter().max().unwrap_or(&0) - sizes.iter().min().unwrap_or(&0);
    (
        way.iter().map(|u| warns(u.2, u.3)).sum(),
        way.iter().map(|u| u.3).sum(),
        way.iter().map(|u| margin(u.2)).fold(f64::INFINITY, f64::min),
        unbalance,
    )
}

/// The better one first: fewest cautions, fewest strings, largest margin, best balance.
fn ranked(mut scores: Vec<Score>) -> Vec<Score> {
    scores
        .sort_by(|a, b| (a.0, a.1).cmp(&(b.0, b.1)).then(b.2.total_cmp(&a.2)).then(a.3.cmp(&b.3)));
    scores
}

/// The list agrees with brute force where every module is placed.
pub fn agree(
    faces: &[u32],
    sheets: &[InverterSheet],
    on: &[usize],
    change: impl Fn(&mut WaysAsk),
) -> Ways {
    let (job, library, mut ask) = job_of(faces, sheets, on);
    change(&mut ask);
    let wanted = brute(faces, sheets, on, &ask);
    let got = ways(&job, &library, &ask, &[], &Work::default()).expect("a question in order");
    if wanted.is_empty() {
        assert!(
            got.ways.iter().all(|w| w.unused_n > 0),
            "{faces:?}: brute force places them all nowhere"
        );
        return got;
    }
    let scores = ranked(wanted.iter().map(|w| score(w)).collect());
    assert_eq!(got.ways.len(), wanted.len().min(24), "{faces:?} {ask:?}");
    for (way, (warned, strings, margin, unbalance)) in got.ways.iter().zip(&scores) {
        let own = way.uses.iter().map(|u| warns(u.n, u.p)).sum::<u32>();
        assert_eq!(own, *warned, "{faces:?} {way:?}");
        assert_eq!(
            (way.unbalance_w, way.strings_n, way.unused_n),
            (f64::from(*unbalance) * 400.0, *strings, 0),
            "{faces:?}"
        );
        assert!(
            (way.margin_pct.expect("has strings") - margin).abs() < 1e-6,
            "{way:?}, wanted {margin}"
        );
        assert_eq!(way.fails_n, 0, "{way:?}");
    }
    if got.feasible_exact && ask.home_runs_max.is_none() {
        assert_eq!(got.feasible_n, Some(wanted.len() as f64));
    }
    assert!(got.searched_part.is_none());
    got
}

fn sheets() -> impl Strategy<Value = Vec<InverterSheet>> {
    let input =
        (1_u32..=2, prop_oneof![Just(2000.0), Just(3600.0)]).prop_map(|(c, w)| (f64::from(c), w));
    let sheet = (proptest::collection::vec(input, 1..=2), prop_oneof![Just(3600.0), Just(9000.0)]);
    proptest::collection::vec(sheet, 1..=2).prop_map(|all| {
        all.into_iter()
            .enumerate()
            .map(|(i, (inputs, w))| inverter(&format!("i{i}"), &inputs, w))
            .collect()
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]
    #[test]
    fn brute_force_finds_the_same_list(
        faces in proptest::collection::vec(1_u32..9, 1..=2),
        sheets in sheets(),
        twice in any::<bool>(),
        equal in any::<bool>(),
        home_runs in proptest::option::of(2_u32..5),
    ) {
        let on: Vec<usize> = if twice { vec![0, 0] } else { (0..sheets.len()).collect() };
        agree(&faces, &sheets, &on, |ask| {
            ask.equal_strings = equal;
            ask.home_runs_max = home_runs;
        });
    }
}

/// Every way to wire modules of two faces where strings of both may share an input: what each input
/// takes of each face.
fn mixed(
    inputs: &[(u32, f64)],
    left: [u32; 2],
    so_far: &mut Vec<(u32, [u32; 2])>,
    out: &mut BTreeSet<Vec<(u32, [u32; 2])>>,
) {
    let Some(((connectors, watts), rest)) = inputs.split_first() else {
        if left == [0, 0] {
            let mut way = so_far.clone();
            way.sort_unstable();
            out.insert(way);
        }
        return;
    };
    mixed(rest, left, so_far, out);
    for n in 1..=left[0].max(left[1]) {
        for a in 0..=*connectors {
            for b in 0..=connectors - a {
                if a + b == 0 || a * n > left[0] || b * n > left[1] || !fits(*watts, n, a + b) {
                    continue;
                }
                so_far.push((n, [a, b]));
                mixed(rest, [left[0] - a * n, left[1] - b * n], so_far, out);
                so_far.pop();
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]
    #[test]
    fn brute_force_finds_the_same_where_faces_may_mix(a in 1_u32..9, b in 1_u32..9,
        inputs in 1_usize..=3, connectors in 1_u32..=3) {
        let sheet = inverter("like", &vec![(f64::from(connectors), 3600.0); inputs], 100_000.0);
        let (job, library, mut ask) = job_of(&[a, b], &[sheet], &[0]);
        ask.faces_may_mix = true;
        let mut wanted = BTreeSet::new();
        mixed(&vec![(connectors, 3600.0); inputs], [a, b], &mut Vec::new(), &mut wanted);
        let got = ways(&job, &library, &ask, &[], &Work::default()).expect("in order");
        if wanted.is_empty() {
            prop_assert!(got.ways.iter().all(|w| w.unused_n > 0));
        } else {
            prop_assert_eq!(got.feasible_n, Some(wanted.len() as f64));
            prop_assert_eq!(got.ways.len(), wanted.len().min(24));
            let alone = |(n, p): &(u32, [u32; 2])| (0, 0, *n, p[0] + p[1]);
            let uses = wanted.iter().map(|way| way.iter().map(alone).collect::<Vec<Use>>());
            let scores = ranked(uses.map(|way| score(&way)).collect());
            for (way, (_, strings, _, unbalance)) in got.ways.iter().zip(scores) {
                prop_assert_eq!((way.unbalance_w, way.strings_n),
                    (f64::from(unbalance) * 400.0, strings));
            }
        }
    }

    #[test]
    fn every_way_holds_when_it_is_put_in_and_places_what_it_says(
        faces in proptest::collection::vec(0_u32..20, 1..=3),
        inverters in 1_usize..=2,
        mix in any::<bool>(),
    ) {
        let sheet = inverter("two", &[(2.0, 3600.0), (1.0, 2800.0)], 6000.0);
        let (job, library, mut ask) = job_of(&faces, &[sheet], &vec![0; inverters]);
        ask.faces_may_mix = mix;
        let total: u32 = faces.iter().sum();
        for way in ways(&job, &library, &ask, &[], &Work::default()).expect("in order").ways {
            let put = edited(&job, &way.edits);
            prop_assert_eq!(put.strings.iter().map(|s| s.n).sum::<u32>() + way.unused_n, total);
            prop_assert_eq!(put.strings.len() as u32, way.strings_n);
            let report = evaluate(&put, &library, &[]);
            let fails = report.checks.iter().filter(|c| c.stage
                == heliant_core::figure::Stage::Strings && c.verdict == Verdict::Fail);
            prop_assert_eq!(fails.count(), 0, "{:?}", way.uses);
            let letters: BTreeSet<&job::Letter> = put.strings.iter().map(|s| &s.letter).collect();
            prop_assert_eq!(letters.len(), put.strings.len());
        }
    }
}
