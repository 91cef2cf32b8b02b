//! Routing of strings, held against a brute-force search and a checker that share no code with it.

mod bound;
mod brute;
mod checker;

use heliant_core::search::{RouteAsk, RouteError, RouteFace, RouteModule, RouteString, route};
use heliant_core::stages::roof::{Join, Leads, Pose, join};
use proptest::prelude::*;

/// The demo module: exits at 0.28 and 0.72 of 1134 mm, half way up 1722 mm; leads of 1.2 m.
pub const DEMO: Leads = Leads {
    width_mm: 1134.0,
    length_mm: 1722.0,
    exit_plus_mm: [816.48, 861.0],
    exit_minus_mm: [317.52, 861.0],
    lead_plus_m: 1.2,
    lead_minus_m: 1.2,
};

/// Rows of modules with 20 mm between them, the left lower corner at 500, 500.
fn grid(columns: usize, rows: usize, landscape: bool) -> Vec<RouteModule> {
    let [w, h] = if landscape { [1722.0, 1134.0] } else { [1134.0, 1722.0] };
    let at = |i: usize, step: f64| 500.0 + i as f64 * (step + 20.0);
    let each = (0..rows).flat_map(|r| (0..columns).map(move |c| (r, c)));
    each.map(|(r, c)| RouteModule {
        id: format!("M{}", r * columns + c + 1),
        x_mm: at(c, w),
        y_mm: at(r, h),
        landscape,
    })
    .collect()
}

fn ask(modules: Vec<RouteModule>, sizes: &[usize], box_mm: [f64; 2]) -> RouteAsk {
    let letters = ["A", "B", "C", "D", "E", "F", "G", "H"];
    let strings = sizes
        .iter()
        .zip(letters)
        .map(|(n, letter)| RouteString { letter: letter.to_owned(), n: *n });
    let face = RouteFace { id: "S".into(), box_mm, modules, strings: strings.collect() };
    RouteAsk {
        module: DEMO,
        slack_m: 0.1,
        stock_m: vec![0.5, 1.0, 2.0, 3.0, 5.0, 10.0],
        may_turn: true,
        faces: vec![face],
    }
}

/// Routes, and holds the answer against the checker; gives wire and bound.
fn routed(ask: &RouteAsk) -> (f64, f64) {
    let answer = route(ask).expect("all are joined");
    checker::check(ask, &answer);
    (answer.wire_m, answer.faces[0].bound_m)
}

#[test]
fn leads_leave_a_module_where_it_lies() {
    // u, v of + are 816.48, 861 and of - 317.52, 861 on 1134 x 1722 mm; the corner is at 1000,
    // 2000.
    let at = |landscape, turned| {
        let e = DEMO.exits(Pose { corner_mm: [1000.0, 2000.0], landscape, turned });
        [e.plus, e.minus].concat()
    };
    let near = |got: Vec<f64>, wanted: [f64; 4]| {
        assert!(got.iter().zip(wanted).all(|(a, b)| (a - b).abs() < 1e-9), "{got:?} {wanted:?}");
    };
    near(at(false, false), [1816.48, 2861.0, 1317.52, 2861.0]);
    // 1000 + 1134 - 816.48; 2000 + 1722 - 861.
    near(at(false, true), [1317.52, 2861.0, 1816.48, 2861.0]);
    // 1000 + 1722 - 861; 2000 + 816.48.
    near(at(true, false), [1861.0, 2816.48, 1861.0, 2317.52]);
    // 1000 + 861; 2000 + 1134 - 816.48.
    near(at(true, true), [1861.0, 2317.52, 1861.0, 2816.48]);
}

#[test]
fn a_join_takes_the_next_jumper_in_stock() {
    let stock = [0.5, 1.0, 2.0];
    assert_eq!(join(2.3, 2.3, &stock), Join::Reaches, "on the reach is inside it");
    assert_eq!(join(2.31, 2.3, &stock), Join::Jumper(0.5));
    assert_eq!(join(2.8, 2.3, &stock), Join::Jumper(0.5), "0.5 m short takes 0.5 m");
    assert_eq!(join(2.81, 2.3, &stock), Join::Jumper(1.0));
    assert_eq!(join(4.31, 2.3, &stock), Join::Lost);
}

#[test]
fn a_row_out_and_back_has_both_ends_at_the_box() {
    // Four in a row, the box at the left end half way up: 500 + 861 mm. Every second one out, the
    // others back: the step is two modules, 2 x 1.154 m less 0.499 between exits = 1.809 < 2.3 m.
    // Both free leads lie within 1.2 - 0.1 m of the box or one module further.
    let ask = ask(grid(4, 1, false), &[4], [500.0, 1361.0]);
    let (wire, bound) = routed(&ask);
    // - of M1 lies 0.31752 m from the box, nothing; the other end is at M2: its + turned lies at
    // 500 + 1154 + 317.52, so 1.47152 m, and 1.47152 + 0.1 - 1.2 = 0.37152 m.
    assert!((wire - 0.37152).abs() < 1e-6, "{wire}");
    assert_eq!(wire, bound, "searched whole");
}

#[test]
fn modules_that_may_not_be_turned_stay() {
    let mut ask = ask(grid(4, 1, false), &[4], [500.0, 1361.0]);
    ask.may_turn = false;
    let answer = route(&ask).expect("all are joined");
    checker::check(&ask, &answer);
    assert_eq!(answer.faces[0].turned_n, 0);
    // Straight through, from M1 to M4: + of M4 lies at 500 + 3 x 1154 + 816.48 = 4.27848 m from
    // the box, 4.27848 + 0.1 - 1.2 - 0.5 = 3.17848 m; out and back needs jumpers instead.
    assert!(answer.wire_m <= 3.17848 + 1e-6, "{}", answer.wire_m);
}

#[test]
fn small_faces_are_routed_as_a_search_of_every_order_does() {
    let faces: [(usize, usize, bool, &[usize]); 5] = [
        (5, 1, false, &[5]),
        (3, 2, false, &[6]),
        (3, 2, true, &[3, 3]),
        (2, 3, false, &[2, 4]),
        (5, 1, true, &[2, 3]),
    ];
    for (columns, rows, landscape, sizes) in faces {
        for (at, lead, may_turn) in
            [([0.0, 0.0], 1.2, true), ([3000.0, 5000.0], 0.6, true), ([9000.0, 0.0], 0.6, false)]
        {
            let mut ask = ask(grid(columns, rows, landscape), sizes, at);
            ask.may_turn = may_turn;
            (ask.module.lead_plus_m, ask.module.lead_minus_m) = (lead, lead);
            let (wire, bound) = routed(&ask);
            let best = brute::least_wire_m(&ask);
            assert!((wire - best).abs() < 1e-5, "{columns} x {rows} {at:?}: {wire}, best {best}");
            assert!((bound - best).abs() < 1e-5, "{bound} {best}");
        }
    }
}

#[test]
fn modules_that_no_string_takes_are_left_out() {
    let ask = ask(grid(3, 2, false), &[4], [0.0, 0.0]);
    let (wire, _) = routed(&ask);
    let best = brute::least_wire_m(&ask);
    assert!((wire - best).abs() < 1e-5, "{wire}, best {best}");
}

#[test]
fn what_lies_too_far_apart_is_named() {
    let mut modules = grid(14, 1, false);
    // 15 m beyond the last but one: leads of 2.3 m and a jumper of 10 m do not bridge it.
    modules[13].x_mm += 15_000.0;
    let far = ask(modules, &[14], [0.0, 0.0]);
    match route(&far) {
        Err(RouteError::Lost(problems)) => {
            assert_eq!(problems[0].path, "/faces/0/modules/13");
            assert!(problems[0].message.starts_with("M14 cannot be reached"), "{problems:?}");
        }
        other => panic!("{other:?}"),
    }
    // A string of its own needs no join.
    let mut apart = far;
    apart.faces[0].strings =
        [("A", 13), ("B", 1)].map(|(l, n)| RouteString { letter: l.into(), n }).to_vec();
    let answer = route(&apart).expect("each is joined to its like");
    checker::check(&apart, &answer);
    assert_eq!(answer.faces[0].strings[1].modules, ["M14"]);
}

#[test]
fn a_wrong_question_is_told_whole() {
    let mut wrong = ask(grid(3, 1, false), &[2, 2], [0.0, 0.0]);
    wrong.module.lead_plus_m = 0.0;
    wrong.slack_m = -0.1;
    wrong.stock_m = vec![0.5, -1.0];
    wrong.module.exit_minus_mm = [2000.0, 0.0];
    wrong.faces[0].modules[1].id = "M1".into();
    wrong.faces[0].modules[2].x_mm = f64::NAN;
    wrong.faces[0].strings[1].letter = "A".into();
    let Err(RouteError::Invalid(problems)) = route(&wrong) else { panic!("it is wrong") };
    let paths: Vec<&str> = problems.iter().map(|p| p.path.as_str()).collect();
    assert_eq!(
        paths,
        [
            "/module/lead_plus_m",
            "/module/exit_minus_mm",
            "/slack_m",
            "/stock_m/1",
            "/faces/0/modules/1/id",
            "/faces/0/modules/2",
            "/faces/0/strings/1/letter",
            "/faces/0/strings",
        ]
    );
    assert_eq!(problems[7].message, "4 modules in strings, 3 on the face");
}

#[test]
fn an_empty_face_takes_nothing() {
    let answer = route(&ask(Vec::new(), &[], [0.0, 0.0])).expect("nothing to join");
    assert_eq!((answer.wire_m, answer.faces[0].bound_m), (0.0, 0.0));
}

#[test]
fn larger_faces_are_never_worse_than_out_and_back() {
    for (columns, rows, sizes) in
        [(13, 2, vec![13, 13]), (7, 4, vec![14, 7, 7]), (10, 6, vec![10; 6])]
    {
        for lead in [1.2, 0.6] {
            let mut ask = ask(grid(columns, rows, false), &sizes, [300.0, 1000.0]);
            (ask.module.lead_plus_m, ask.module.lead_minus_m) = (lead, lead);
            let (wire, bound) = routed(&ask);
            let plain = brute::out_and_back_m(&ask, columns);
            assert!(wire <= plain + 1e-6, "{columns} x {rows}: {wire}, plain {plain}");
            assert!(bound <= wire + 1e-9 && bound > 0.0, "{bound} {wire}");
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn whatever_the_face_each_module_is_joined_once(
        columns in 4_usize..9,
        rows in 2_usize..5,
        landscape: bool,
        may_turn: bool,
        lead in 0.5_f64..1.5,
        at in (-2_000.0_f64..15_000.0, -2_000.0_f64..9_000.0),
        share in 2_usize..7,
    ) {
        let all = columns * rows;
        let mut sizes = vec![all / share + 1; all / (all / share + 1)];
        let rest = all - sizes.iter().sum::<usize>();
        sizes.extend((rest > 0).then_some(rest));
        let mut ask = ask(grid(columns, rows, landscape), &sizes, [at.0, at.1]);
        ask.may_turn = may_turn;
        (ask.module.lead_plus_m, ask.module.lead_minus_m) = (lead, lead);
        let (wire, bound) = routed(&ask);
        prop_assert!(bound <= wire + 1e-9, "{} {}", bound, wire);
        prop_assert_eq!(routed(&ask), (wire, bound), "the same again");
    }
}
