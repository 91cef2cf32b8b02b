//! How figures and checks come about: what is missing is named, on a limit is inside it, cures only
//! where they are needed.

use heliant_core::figure::{Bound, Recording, Sheet, Subject, Value, Verdict, said};
use heliant_core::figures;
use heliant_core::quantity::{Amps, Degrees, Percent, Ratio, Unit, Volts, Watts, ceil, floor};
use heliant_core::school::School;
use heliant_core::tables;
use heliant_core::traced::{exact, given};

figures! { Strings;
    /// Some volts.
    VOLTS: Volts = "x.volts_v", "Volts", na "100.1", iec "IEC 1";
    /// Twice as many.
    TWICE: Volts = "x.twice_v", "Twice the volts", na "100.2", iec "IEC 2";
    /// A count.
    COUNT: Count = "x.n", "Count", na "100.3", iec "IEC 3";
    /// Yes or no.
    YES: Word = "x.yes", "Yes or no", "a choice";
    /// A size, by name or in millimetres.
    TRADE: Size = "x.size", "Size", "a table";
    /// A check without a figure.
    ALONE: Rule = "x.alone", "Alone", "a rule";
}

fn sheet(school: School) -> Sheet {
    Sheet::new(school, Subject::string(&"A".into()))
}

fn volts(s: &mut Sheet, value: f64) -> heliant_core::figure::Handle<Volts> {
    s.figure(&VOLTS, |w| Some(w.given("v", Volts(value), "")))
}

#[test]
fn a_figure_carries_its_working_and_the_schools_source() {
    let mut s = sheet(School::Iec);
    let value = s.figure(&VOLTS, |w| {
        let n = w.given("n", Ratio(3.0), "job");
        Some(n * w.need::<Volts>("one", Some(40.0), "one_v", "data sheet")?)
    });
    assert_eq!((value.value(), value.quantity()), (Some(120.0), Some(Volts(120.0))));
    let f = &s.figures[0];
    assert_eq!((f.source, f.unit, f.subject.to_string().as_str()), ("IEC 1", Unit::V, "A"));
    let lines: Vec<_> = f
        .working
        .iter()
        .map(|l| (l.label.as_str(), l.numbers.as_str(), l.source.as_str()))
        .collect();
    assert_eq!(lines, [("n", "", "job"), ("one", "", "data sheet"), ("Volts", "3 × 40", "")]);
}

#[test]
fn what_is_missing_is_named_once_and_handed_on() {
    let mut s = sheet(School::Na);
    let open = s.figure(&VOLTS, |w| {
        let a = w.need::<Volts>("a", None, "a_v", "");
        let b = w.need::<Volts>("b", None, "b_v", "");
        let again = w.need::<Volts>("a", None, "a_v", "");
        Some(a? + b? + again?)
    });
    assert_eq!(open.missing(), ["a_v", "b_v"]);
    let twice = s.figure(&TWICE, |w| Some(exact::<Ratio>(2.0) * w.take("volts", &open)?));
    assert_eq!(s.figures[1].missing, ["a_v", "b_v"], "what it rests on misses them");
    let check = s.hold(&twice, Bound::at_most(10.0, "limit"), Verdict::Fail);
    assert_eq!(
        (check.verdict, check.missing.clone(), check.margin),
        (Verdict::Unknown, vec!["a_v", "b_v"], None)
    );
    // A limit that rests on what is open is open for the same reason.
    let known = volts(&mut s, 5.0);
    let check = s.hold(&known, Bound::at_most(&twice, "twice"), Verdict::Fail);
    assert_eq!((check.verdict, check.missing.len()), (Verdict::Unknown, 2));
}

#[test]
fn a_figure_taken_into_another_stands_there_under_its_id() {
    let mut s = sheet(School::Na);
    let one = volts(&mut s, 40.0);
    let twice = s.figure(&TWICE, |w| Some(exact::<Ratio>(2.0) * w.take("one", &one)?));
    assert_eq!(twice.value(), Some(80.0));
    let lines = &s.figures[1].working;
    assert_eq!((lines[0].label.as_str(), lines[0].source.as_str()), ("one", "x.volts_v"));
    assert_eq!(lines[1].symbols, "2 × one");
}

#[test]
fn a_missing_limit_leaves_the_check_open() {
    let mut s = sheet(School::Na);
    let v = volts(&mut s, 5.0);
    let check = s.hold(&v, Bound::at_most((None, "limit_v"), "limit"), Verdict::Fail);
    assert_eq!((check.verdict, check.missing.clone()), (Verdict::Unknown, vec!["limit_v"]));
    assert!(check.limit.is_none());
}

#[test]
fn margins_are_positive_inside_on_both_sides() {
    let mut s = sheet(School::Na);
    let v = volts(&mut s, 90.0);
    let most = s.hold(&v, Bound::at_most(120.0, "most"), Verdict::Fail);
    assert_eq!(
        (most.verdict, most.margin, most.margin_pct),
        (Verdict::Pass, Some(30.0), Some(25.0))
    );
    let least = s.hold(&v, Bound::at_least(120.0, "least"), Verdict::Warn);
    assert_eq!(
        (least.verdict, least.margin, least.margin_pct),
        (Verdict::Warn, Some(-30.0), Some(-25.0))
    );
    assert_eq!(
        least.beyond(|over| format!("{over} short")).reason.as_deref(),
        Some("30.0 V short")
    );
    let zero = s.hold(&v, Bound::at_least(0.0, "least"), Verdict::Warn);
    assert_eq!((zero.margin, zero.margin_pct), (Some(90.0), None), "no percent of nothing");
}

#[test]
fn the_verdict_beyond_a_limit_is_the_calls_own() {
    for (worse, verdict) in [(Verdict::Warn, Verdict::Warn), (Verdict::Fail, Verdict::Fail)] {
        let mut s = sheet(School::Na);
        let over = volts(&mut s, 600.000_001);
        assert_eq!(s.hold(&over, Bound::at_most(600.0, ""), worse).verdict, verdict);
        // A billionth of the limit is noise.
        let noise = volts(&mut s, 600.000_000_5);
        assert_eq!(s.hold(&noise, Bound::at_most(600.0, ""), worse).verdict, Verdict::Pass);
    }
}

#[test]
fn a_check_of_its_own_says_which_figure_it_judges() {
    let mut s = sheet(School::Na);
    let v = volts(&mut s, 90.0);
    let check = s.hold_as(&ALONE, &v, Bound::at_most(80.0, "most"), Verdict::Fail);
    assert_eq!((check.id, check.figure, check.title), ("x.alone", "x.volts_v", "Alone"));
    assert_eq!((check.verdict, check.unit), (Verdict::Fail, Unit::V));
}

#[test]
fn what_holds_has_no_reason_and_no_cure() {
    let mut s = sheet(School::Na);
    let pass = s.judge(&VOLTS, Verdict::Pass).reason("why").cure("how", Vec::new());
    assert!(pass.reason.is_none() && pass.cures.is_empty());
    let open = s.judge(&VOLTS, Verdict::Unknown).reason("why").cure("how", Vec::new());
    assert!(
        open.reason.is_some() && open.cures.is_empty(),
        "what is open is not cured but filled in"
    );
    assert_eq!(s.judge(&VOLTS, Verdict::Fail).cure("how", Vec::new()).cures.len(), 1);
    let known = s.known(&ALONE, None);
    assert_eq!((known.verdict, known.missing.len()), (Verdict::Pass, 0));
    let unknown = s.known(&ALONE, ["a", "b"]);
    assert_eq!((unknown.verdict, unknown.missing.clone()), (Verdict::Unknown, vec!["a", "b"]));
}

#[test]
fn what_is_not_finite_is_no_figure() {
    let mut s = sheet(School::Na);
    let none =
        s.figure(&VOLTS, |w| Some(w.given("v", Volts(5.0), "") / w.given("zero", Ratio(0.0), "")));
    assert!(none.value().is_none() && s.figures[0].value.is_none());
    let negative = s.count(&COUNT, |w| Some(w.given("x", Ratio(-1.0), "").sqrt()));
    assert!(negative.value().is_none());
}

#[test]
fn a_count_a_word_a_flag_and_a_size_are_figures_too() {
    let mut s = sheet(School::Na);
    s.count(&COUNT, |w| Some(w.given("n", Ratio(7.0), "")));
    assert_eq!((s.figures[0].unit, &s.figures[0].value), (Unit::Count, &Some(Value::Number(7.0))));
    assert_eq!(serde_json::to_value(&s.figures[0]).expect("JSON")["unit"], "n");
    let yes = s.word(&YES, |_| Some(Value::Flag(true)));
    assert_eq!((yes.flag(), yes.text()), (Some(true), None));
    assert_eq!(serde_json::to_value(&s.figures[1]).expect("JSON")["value"], true);
    let trade = s.size(&TRADE, Unit::None, |_| Some(Value::Text("3/4".to_owned())));
    let metric = s.size(&TRADE, Unit::Mm, |_| Some(Value::Number(20.0)));
    assert_eq!((trade.written(), metric.written()), (Some("3/4".into()), Some("20".into())));
    assert_eq!(s.figures[3].unit, Unit::Mm);
    let open = s.word(&YES, |w| {
        w.lack("something");
        None
    });
    assert_eq!((open.flag(), open.missing()), (None, ["something"].as_slice()));
}

#[test]
fn only_the_workings_asked_for_are_kept_and_nothing_else_differs() {
    let compute = |recording: Recording| {
        let mut s = Sheet::with(School::Na, Subject::Site, recording);
        for letter in ["A", "B"] {
            s.subject = Subject::string(&letter.into());
            let v = volts(&mut s, 90.0);
            s.hold(&v, Bound::at_most(80.0, "most"), Verdict::Fail).reason("too many");
        }
        s
    };
    let quiet = compute(Recording::Nothing);
    assert!(quiet.figures.iter().all(|f| f.working.is_empty()));
    let loud = compute(Recording::Everything);
    assert!(loud.figures.iter().all(|f| !f.working.is_empty()));
    assert_eq!(format!("{:?}", quiet.checks), format!("{:?}", loud.checks));
    let values = |s: &Sheet| s.figures.iter().map(|f| f.value.clone()).collect::<Vec<_>>();
    assert_eq!(values(&quiet), values(&loud));
    let one = compute(Recording::Subject(Subject::string(&"B".into())));
    let kept: Vec<usize> = one.figures.iter().map(|f| f.working.len()).collect();
    assert_eq!(kept, [0, 1]);
    let other = compute(Recording::Stage(heliant_core::figure::Stage::Runs));
    assert!(other.figures.iter().all(|f| f.working.is_empty()));
    assert!(loud.trial().figures.is_empty(), "a trial starts empty");
}

#[test]
fn verdicts_are_ordered_from_good_to_bad() {
    assert!(
        Verdict::Pass < Verdict::Warn
            && Verdict::Warn < Verdict::Unknown
            && Verdict::Unknown < Verdict::Fail
    );
}

#[test]
fn numbers_in_sentences_are_short_and_have_a_true_minus() {
    for (value, unit, text) in [
        (-38.8, Unit::V, "−38.8 V"),
        (533.03, Unit::V, "533 V"),
        (-0.01, Unit::V, "0.0 V"),
        (9.96, Unit::A, "10.0 A"),
        (11_180.4, Unit::W, "11180 W"),
        (3.0, Unit::Count, "3"),
        (-24.04, Unit::Celsius, "−24.0 °C"),
    ] {
        assert_eq!(said(value, unit).to_string(), text);
    }
}

#[test]
fn angles_and_powers_remember_themselves() {
    let sixty = given("a", Degrees(60.0));
    assert!((sixty.clone().cos().value.0 - 0.5).abs() < 1e-12);
    assert!((sixty.clone().sin().value.0 - 0.75_f64.sqrt()).abs() < 1e-12);
    assert_eq!(sixty.clone().cos().symbols(), "cos(a)");
    let back = sixty.cos().acos();
    assert!((back.value.0 - 60.0).abs() < 1e-9);
    assert_eq!(back.symbols(), "acos(cos(a))");
    // Rounding noise outside of -1 to 1 is no error.
    assert_eq!(exact::<Ratio>(1.0 + 1e-12).acos().value.0, 0.0);
    let power = exact::<Ratio>(0.7).power(given("AM", Ratio(2.0)));
    assert!((power.value.0 - 0.49).abs() < 1e-12);
    assert_eq!((power.symbols().as_str(), power.numbers().as_str()), ("0.7^AM", "0.7^2"));
}

#[test]
fn percent_and_products_keep_their_kind() {
    let share = (given("a", Amps(3.0)) / given("b", Amps(4.0))).percent();
    assert_eq!((share.value, share.numbers().as_str()), (Percent(75.0), "3 / 4 × 100"));
    let watts: Watts = Volts(240.0) * Amps(2.5);
    assert_eq!(watts, Watts(600.0));
    assert_eq!(
        (floor(2.999_999_999_9), ceil(3.000_000_000_1), floor(2.9), ceil(3.1)),
        (3.0, 3.0, 2.0, 4.0)
    );
}

#[test]
fn tables_answer_at_their_edges() {
    assert_eq!(tables::next_rating(&[15.0, 20.0, 25.0], 20.0), Some(20.0));
    assert_eq!(tables::next_rating(&[15.0, 20.0, 25.0], 20.000_1), Some(25.0));
    assert_eq!(tables::next_rating(&[15.0, 20.0, 25.0], 25.1), None);
    assert_eq!(tables::last_rating(&[15.0, 20.0, 25.0], 24.9), Some(20.0));
    assert_eq!(tables::last_rating(&[15.0, 20.0, 25.0], 14.9), None);
    assert_eq!(tables::voc_correction(25.0), Some(1.0));
    assert_eq!(tables::voc_correction(-41.0), None);
    assert_eq!(tables::temperature_factor(30.0, 60), Some(1.0));
    assert_eq!(tables::temperature_factor(56.0, 60), None);
    assert_eq!(tables::count_factor(100), 0.35);
    assert_eq!(
        (tables::group_factor(9), tables::group_factor(20), tables::group_factor(21)),
        (Some(0.5), Some(0.38), None)
    );
    assert_eq!(
        tables::iec_ambient_factor("pvc70", 20.0),
        Some(1.03),
        "no more credit than the table gives"
    );
    assert_eq!(tables::iec_ambient_factor("pvc70", 60.5), None);
    assert_eq!(tables::solar_ambient_factor(90.0), Some(0.75));
    assert_eq!(tables::ampacity("10", "cu", false).and_then(|a| a.column(75)), Some(35.0));
    assert_eq!(tables::ampacity("10", "cu", true).and_then(|a| a.column(75)), Some(50.0));
    assert!(
        tables::ampacity("14", "al", false).is_none()
            && tables::wire("7").is_none()
            && tables::place("moon").is_none()
    );
}

#[test]
fn the_schools_differ_where_they_do() {
    assert_eq!((School::Na.design_factor(), School::Iec.design_factor()), (1.25, 1.0));
    assert_eq!((School::Na.fault_factor(), School::Iec.fault_factor()), (1.25, 1.0));
    assert_eq!(
        (School::Na.vdrop_limits_pct(), School::Iec.vdrop_limits_pct()),
        ((2.0, 2.0), (3.0, 2.0))
    );
    assert!(School::Na.breakers().contains(&45.0) && !School::Iec.breakers().contains(&45.0));
    assert!(School::Iec.fuses().contains(&16.0) && !School::Na.fuses().contains(&16.0));
}
