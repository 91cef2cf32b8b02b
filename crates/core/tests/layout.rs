//! The layout search misses nothing: a search by brute force, with its own arithmetic, finds the
//! same set.

use std::collections::BTreeSet;

use heliant_core::job::Mounting;
use heliant_core::library::{InverterRatings, ModuleRatings};
use heliant_core::school::School;
use heliant_core::search::{Layout, LayoutInputs, LayoutMppt, MpptUse, search};
use heliant_core::stages::strings::SiteTemps;
use proptest::prelude::*;

fn module() -> ModuleRatings {
    ModuleRatings {
        voc_v: Some(40.0),
        vmp_v: Some(33.0),
        isc_a: Some(13.0),
        imp_a: Some(12.0),
        pmax_w: Some(400.0),
        b_voc_pct_c: Some(-0.25),
        g_pmax_pct_c: Some(-0.3),
        max_system_v: Some(1000.0),
        ..ModuleRatings::default()
    }
}

fn inputs(faces: Vec<u32>, mppts: Vec<LayoutMppt>, vdc_max: f64, dc_w_max: f64) -> LayoutInputs {
    LayoutInputs {
        faces_modules_n: faces,
        module: module(),
        inverter: InverterRatings {
            vdc_max_v: Some(vdc_max),
            start_v: Some(60.0),
            mppt_min_v: Some(55.0),
            mppt_max_v: Some(400.0),
            mppt_isc_max_a: Some(30.0),
            mppt_imp_max_a: Some(25.0),
            mppt_w_max_w: Some(3600.0),
            dc_w_max_w: Some(dc_w_max),
            ..InverterRatings::default()
        },
        site: SiteTemps {
            t_min_c: Some(-15.0),
            t_max_c: Some(35.0),
            mounting: Some(Mounting::Flush),
            dc_ceiling_v: Some(600.0),
            ..SiteTemps::default()
        },
        mppts,
    }
}

/// Whether `p` strings of `n` fit an input, by the arithmetic of the figures.
fn fits(x: &LayoutInputs, input: &LayoutMppt, n: u32, p: u32) -> bool {
    let (n, p) = (f64::from(n), f64::from(p));
    let cold = n * 40.0 * (1.0 - 0.25 / 100.0 * (-15.0 - 25.0));
    // Cells at 35 + 35 = 70 °C.
    let vmp_hot = n * 33.0 * (1.0 - 0.3 / 100.0 * 45.0);
    let voc_hot = n * 40.0 * (1.0 - 0.25 / 100.0 * 45.0);
    cold <= x.inverter.vdc_max_v.expect("given") + 1e-6
        && vmp_hot >= 55.0 - 1e-6
        && voc_hot >= 60.0 - 1e-6
        && p * 13.0 <= input.mppt_isc_max_a.unwrap_or(30.0) + 1e-6
        && n * p * 400.0 <= input.mppt_w_max_w.unwrap_or(3600.0) + 1e-6
}

fn margin(x: &LayoutInputs, n: u32) -> f64 {
    let cold_limit = x.inverter.vdc_max_v.expect("given").min(600.0);
    let cold = (cold_limit - f64::from(n) * 40.0 * 1.1) / cold_limit * 100.0;
    let hot = (f64::from(n) * 33.0 * 0.865 - 55.0) / 55.0 * 100.0;
    cold.min(hot)
}

/// Every assignment of every input, one by one.
fn assignments(
    x: &LayoutInputs,
    at: usize,
    so_far: &mut Layout,
    left: &[u32],
    out: &mut Vec<(Layout, Vec<u32>)>,
) {
    if at == x.mppts.len() {
        out.push((so_far.clone(), left.to_vec()));
        return;
    }
    so_far.push(None);
    assignments(x, at + 1, so_far, left, out);
    so_far.pop();
    for face in 0..left.len() {
        for n in 1..=left[face] {
            for p in (1..=x.mppts[at].strings_max_n).take_while(|p| n * p <= left[face]) {
                if fits(x, &x.mppts[at], n, p) {
                    let mut rest = left.to_vec();
                    rest[face] -= n * p;
                    so_far.push(Some(MpptUse { face, n, p }));
                    assignments(x, at + 1, so_far, &rest, out);
                    so_far.pop();
                }
            }
        }
    }
}

/// Two layouts that differ only by swapping like inputs are one.
fn canonical(x: &LayoutInputs, layout: &Layout) -> Vec<(usize, Option<MpptUse>)> {
    let class = |i: usize| x.mppts.iter().position(|m| *m == x.mppts[i]).expect("it is there");
    let mut entries: Vec<_> = layout.iter().enumerate().map(|(i, u)| (class(i), *u)).collect();
    entries.sort();
    entries
}

/// Cautions of an input: 1.25 x Isc above what it bears, Imp above 25 A, cold Vmp above 400 V.
fn warns(input: &LayoutMppt, u: &MpptUse) -> u32 {
    let (n, p) = (f64::from(u.n), f64::from(u.p));
    let isc_max = input.mppt_isc_max_a.unwrap_or(30.0);
    let beyond = [p * 13.0 * 1.25 > isc_max, p * 12.0 > 25.0, n * 33.0 * 1.12 > 400.0];
    beyond.into_iter().filter(|b| *b).count() as u32
}

/// Cautions, strings, margin, balance.
type Score = (u32, u32, f64, u32);

fn score(x: &LayoutInputs, layout: &Layout) -> Score {
    let each = x.mppts.iter().zip(layout).filter_map(|(m, u)| Some(warns(m, u.as_ref()?)));
    let used: Vec<MpptUse> = layout.iter().copied().flatten().collect();
    let sizes = used.iter().map(|u| u.n * u.p);
    let unbalance = sizes.clone().max().unwrap_or(0) - sizes.min().unwrap_or(0);
    let worst = used.iter().map(|u| margin(x, u.n)).fold(f64::INFINITY, f64::min);
    (each.sum(), used.iter().map(|u| u.p).sum(), worst, unbalance)
}

/// The better one first: fewest cautions, fewest strings, largest margin, best balance.
fn order(a: &Score, b: &Score) -> std::cmp::Ordering {
    (a.0, a.1).cmp(&(b.0, b.1)).then(b.2.total_cmp(&a.2)).then(a.3.cmp(&b.3))
}

fn brute(x: &LayoutInputs) -> (usize, u32, Option<Score>) {
    let mut all = Vec::new();
    assignments(x, 0, &mut Vec::new(), &x.faces_modules_n, &mut all);
    let total: u32 = x.faces_modules_n.iter().sum();
    for unused in 0..total {
        if f64::from(total - unused) * 400.0 > x.inverter.dc_w_max_w.expect("given") + 1e-6 {
            continue;
        }
        let fitting: Vec<&Layout> = all
            .iter()
            .filter(|(_, left)| left.iter().sum::<u32>() == unused)
            .map(|(l, _)| l)
            .collect();
        if !fitting.is_empty() {
            let distinct: BTreeSet<_> = fitting.iter().map(|l| canonical(x, l)).collect();
            let best = fitting.iter().map(|l| score(x, l)).min_by(order);
            return (distinct.len(), unused, best);
        }
    }
    (0, total, None)
}

fn agree(x: &LayoutInputs) {
    let (feasible, unused, best) = brute(x);
    let found = search(x, School::Na);
    assert_eq!((found.feasible_n, found.unused_n), (feasible as u128, unused), "{x:?}");
    match (best, &found.best) {
        (None, None) => {}
        (Some(best), Some(layout)) => {
            let got = score(x, layout);
            assert_eq!((got.0, got.1, got.3), (best.0, best.1, best.3), "{layout:?}");
            assert!((got.2 - best.2).abs() < 1e-6, "{layout:?}: {got:?}, wanted {best:?}");
            let used: u32 = layout.iter().flatten().map(|u| u.n * u.p).sum();
            assert_eq!(used + unused, x.faces_modules_n.iter().sum::<u32>());
            for (input, u) in x.mppts.iter().zip(layout) {
                assert!(
                    u.is_none_or(|u| u.p <= input.strings_max_n && fits(x, input, u.n, u.p)),
                    "{layout:?}"
                );
            }
        }
        (best, found) => panic!("{best:?} and {found:?}"),
    }
}

fn input() -> impl Strategy<Value = LayoutMppt> {
    (
        1_u32..=2,
        prop_oneof![Just(None), Just(Some(2000.0)), Just(Some(3600.0))],
        prop_oneof![Just(None), Just(Some(14.0))],
    )
        .prop_map(|(strings_max_n, mppt_w_max_w, mppt_isc_max_a)| LayoutMppt {
            strings_max_n,
            mppt_w_max_w,
            mppt_isc_max_a,
            ..LayoutMppt::default()
        })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]
    #[test]
    fn brute_force_finds_the_same(
        faces in proptest::collection::vec(1_u32..9, 1..=2),
        mppts in proptest::collection::vec(input(), 1..=3),
        vdc_max in prop_oneof![Just(200.0), Just(320.0), Just(480.0)],
        dc_w_max in prop_oneof![Just(4000.0), Just(12_000.0)],
    ) {
        agree(&inputs(faces, mppts, vdc_max, dc_w_max));
    }
}

#[test]
fn four_like_inputs_and_three_faces() {
    let like = LayoutMppt { strings_max_n: 2, ..LayoutMppt::default() };
    agree(&inputs(
        vec![6, 4, 5],
        vec![like.clone(), like.clone(), like.clone(), like],
        320.0,
        12_000.0,
    ));
}

#[test]
fn nothing_fits_a_face_of_one() {
    // One module gives 33 x 0.865 = 28.5 V hot, the input tracks from 55 V.
    agree(&inputs(
        vec![1],
        vec![LayoutMppt { strings_max_n: 1, ..LayoutMppt::default() }],
        480.0,
        12_000.0,
    ));
}
