//! The panel's busbar rules (705.12(B)). Several rules, of which one is enough; the others are
//! shown.

use serde::Deserialize;

use super::run_defs;
use crate::figure::{Bound, Check, Sheet, Verdict, said};
use crate::quantity::{Amps, Ratio, Unit, below};
use crate::school::School;
use crate::tables;
use crate::traced::{Traced, exact};

run_defs! {
    /// All breakers without the main.
    SUM_A "panel.sum_a" "All breakers but the main" "705.12(B)(3)" "";
    /// Against the bus.
    SUM "panel.sum" "Sum rule" "705.12(B)(3)" "";
    /// 1.2 x bus.
    LIMIT_120 "panel.limit_120_a" "120 % of the busbar" "705.12(B)(2)" "";
    /// 1.25 x inverter + main.
    FAR_A "panel.far_end_120_a" "Inverter and main, far end" "705.12(B)(2)" "";
    /// Against 120 %.
    FAR "panel.far_end_120" "120 % rule, far end" "705.12(B)(2)" "";
    /// 1.25 x inverter + main.
    BUS_A "panel.bus_125_a" "Inverter and main" "705.12(B)(1)" "";
    /// Against the bus.
    BUS "panel.bus_125" "100 % rule" "705.12(B)(1)" "";
    /// PV breaker + main.
    BREAKER_A "panel.far_end_120_breaker_a" "PV breaker and main, far end" "705.12(B)(2)" "";
    /// The same counting the breaker.
    BREAKER "panel.far_end_120_breaker" "120 % rule, counting the breaker" "705.12(B)(2)" "";
    /// Whether both ways of counting agree.
    AGREES "panel.breaker_count_agrees" "Both ways of counting agree" "705.12(B)(2)" "";
    /// Largest main that makes 120 % pass.
    SMALLER_A "panel.smaller_main_a" "Largest main for the 120 % rule" "705.12(B)(2), 240.6(A)" "";
    /// Against the load calculation.
    SMALLER "panel.smaller_main" "A smaller main" "705.12(B)(2), 220" "";
    /// Whether any rule is met.
    RULE "panel.rule" "Busbar rule" "705.12(B)" "";
}

/// The panel and what feeds it.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PanelInputs {
    /// Busbar rating, A.
    pub bus_a: Option<f64>,
    /// Main breaker, A.
    pub main_a: Option<f64>,
    /// Breakers that feed loads, A.
    pub load_breakers_a: Vec<f64>,
    /// PV breaker, A.
    pub pv_breaker_a: Option<f64>,
    /// Inverter output current, A.
    pub inverter_a: Option<f64>,
    /// PV breaker opposite the main.
    #[serde(default = "yes")]
    pub pv_at_far_end: bool,
    /// Load calculation, A.
    pub load_calc_a: Option<f64>,
}

fn yes() -> bool {
    true
}

const BUS_FIELD: &str = "panel.bus_a";

/// Every busbar rule with its figure, and whether one of them is met.
pub fn panel(sheet: &mut Sheet, x: &PanelInputs) {
    let bus = Bound::at_most(x.bus_a, "busbar", BUS_FIELD);
    sheet.figure(&SUM_A, |w| {
        let loads = w.given("load breakers", Amps(x.load_breakers_a.iter().sum()), "panel");
        let pv = w.need::<Amps>("PV breaker", x.pv_breaker_a, "inverter.ac_a", "circuit.ocpd_a");
        Some(loads + pv?)
    });
    judge_as(sheet, &SUM_A, &SUM, bus.clone());
    let limit = sheet.figure(&LIMIT_120, |w| {
        let bus = w.need::<Amps>("busbar", x.bus_a, BUS_FIELD, "panel")?;
        Some(exact::<Ratio>(1.2) * bus)
    });
    let inverter_and_main = |w: &mut crate::figure::Working| -> Option<Traced<Amps>> {
        let inverter =
            w.need::<Amps>("inverter", x.inverter_a, "inverter.ac_a", "inverter data sheet");
        let main = w.need::<Amps>("main", x.main_a, "panel.main_a", "panel");
        Some(exact::<Ratio>(1.25) * inverter? + main?)
    };
    let bound_120 = Bound::at_most(limit, "120 % of the busbar", BUS_FIELD);
    sheet.figure(&FAR_A, inverter_and_main);
    let far = judge_as(sheet, &FAR_A, &FAR, bound_120.clone());
    not_far(far, x);
    let by_current = far.verdict;
    sheet.figure(&BUS_A, inverter_and_main);
    judge_as(sheet, &BUS_A, &BUS, bus);
    sheet.figure(&BREAKER_A, |w| {
        let pv = w.need::<Amps>("PV breaker", x.pv_breaker_a, "inverter.ac_a", "circuit.ocpd_a");
        let main = w.need::<Amps>("main", x.main_a, "panel.main_a", "panel");
        Some(pv? + main?)
    });
    let breaker = judge_as(sheet, &BREAKER_A, &BREAKER, bound_120);
    not_far(breaker, x);
    let by_breaker = breaker.verdict;
    let agrees = match (by_current, by_breaker) {
        (Verdict::Unknown, _) | (_, Verdict::Unknown) => Verdict::Unknown,
        (a, b) if a == b => Verdict::Pass,
        _ => Verdict::Warn,
    };
    sheet
        .judge(&AGREES, agrees)
        .reason(
            "By current the rule passes, by breaker it does not, or the other way round: \
            inspectors differ.",
        )
        .cure("Ask the authority which way it counts before the work.", Vec::new());
    smaller_main(sheet, x);
    // Counting the breaker is another way to read a rule, not a rule of its own.
    rule(sheet, &[&SUM, &FAR, &BUS]);
}

/// Judges a figure under the rule's own id, as one of several of which one is enough.
fn judge_as<'a>(
    sheet: &'a mut Sheet,
    figure: &'static crate::figure::Def,
    rule: &'static crate::figure::Def,
    bound: Bound,
) -> &'a mut Check {
    let check = sheet.hold(figure, bound, Verdict::Fail);
    check.id = rule.id;
    check.title = rule.title;
    if let Some(margin) = check.margin {
        check.reason(format!("{} over.", said(-margin, Unit::A)));
    }
    check.alternative()
}

fn not_far(check: &mut Check, x: &PanelInputs) {
    if !x.pv_at_far_end {
        check.verdict = Verdict::Fail;
        check.missing.clear();
        check.reason("The PV breaker is not at the end of the bus away from the main.");
        check.cure("Move the PV breaker to the far end and label it so.", Vec::new());
    }
}

fn smaller_main(sheet: &mut Sheet, x: &PanelInputs) {
    let main = sheet.figure(&SMALLER_A, |w| {
        let bus = w.need::<Amps>("busbar", x.bus_a, BUS_FIELD, "panel");
        let inverter =
            w.need::<Amps>("inverter", x.inverter_a, "inverter.ac_a", "inverter data sheet");
        let room = w.step("room", exact::<Ratio>(1.2) * bus? - exact::<Ratio>(1.25) * inverter?);
        let main = tables::last_rating(School::Na.breakers(), room.value.0);
        if main.is_none() {
            w.note("No standard breaker is that small.");
        }
        main.map(|m| w.given("largest standard breaker", Amps(m), "240.6(A)"))
    });
    let known = x.bus_a.is_some() && x.inverter_a.is_some();
    let verdict = match (main, x.load_calc_a) {
        (None, _) if known => Verdict::Fail,
        (Some(m), Some(load)) if below(m, load) => Verdict::Fail,
        (Some(_), Some(_)) => Verdict::Pass,
        _ => Verdict::Unknown,
    };
    let check = sheet.judge(&SMALLER, verdict).alternative();
    if verdict == Verdict::Unknown {
        check.missing = vec![if known { "panel.load_calc_a" } else { BUS_FIELD }.to_owned()];
    }
    check.reason(match main {
        Some(m) => format!(
            "A {} main against a load of {}.",
            said(m, Unit::A),
            said(x.load_calc_a.unwrap_or(0.0), Unit::A)
        ),
        None => "No standard main leaves room for the inverter.".to_owned(),
    });
}

fn rule(sheet: &mut Sheet, rules: &[&'static crate::figure::Def]) {
    let verdicts: Vec<(Verdict, Vec<String>)> = rules
        .iter()
        .filter_map(|r| sheet.checks.iter().find(|c| c.id == r.id && c.subject == sheet.subject))
        .map(|c| (c.verdict, c.missing.clone()))
        .collect();
    let met = verdicts.iter().any(|(v, _)| *v == Verdict::Pass);
    let open = verdicts.iter().any(|(v, _)| *v == Verdict::Unknown);
    let verdict = if met {
        Verdict::Pass
    } else if open {
        Verdict::Unknown
    } else {
        Verdict::Fail
    };
    let smaller = sheet
        .checks
        .iter()
        .find(|c| c.id == SMALLER.id)
        .is_some_and(|c| c.verdict == Verdict::Pass);
    let main = sheet
        .figures
        .iter()
        .find(|f| f.id == SMALLER_A.id)
        .and_then(|f| f.value.as_ref())
        .and_then(crate::figure::Value::number);
    let check = sheet.judge(&RULE, verdict);
    if verdict == Verdict::Unknown {
        check.missing = verdicts.into_iter().flat_map(|(_, m)| m).fold(Vec::new(), |mut all, m| {
            if !all.contains(&m) {
                all.push(m);
            }
            all
        });
    }
    check.reason("None of the busbar rules is met.");
    match main.filter(|_| smaller) {
        Some(m) => check.cure(
            format!(
                "A main of {} makes the 120 % rule pass and still carries the load.",
                said(m, Unit::A)
            ),
            vec![crate::figure::Edit {
                pointer: "/panel/main_a".to_owned(),
                value: serde_json::json!(m),
            }],
        ),
        None => check.cure("A supply-side connection (705.11), or a larger panel.", Vec::new()),
    };
}
