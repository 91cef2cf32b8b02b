//! The panel's busbar rules (705.12(B)). Several rules, of which one is enough; the others are
//! shown.

use serde::Deserialize;

use crate::figure::{Bound, Def, Field, Handle, Rule, Sheet, Subject, Verdict, Working, said};
use crate::figures;
use crate::job::Edit;
use crate::quantity::{Amps, Ratio, Unit, above, below};
use crate::school::School;
use crate::tables;
use crate::traced::{Traced, exact};

figures! { Runs;
    /// All breakers without the main.
    SUM_A: Amps = "panel.sum_a", "All breakers but the main", na "705.12(B)(3)";
    /// Against the bus.
    SUM: Rule = "panel.sum", "Sum rule", na "705.12(B)(3)";
    /// 1.2 x bus.
    LIMIT_120: Amps = "panel.limit_120_a", "120 % of the busbar", na "705.12(B)(2)";
    /// 1.25 x inverter + main.
    FAR_A: Amps = "panel.far_end_120_a", "Inverter and main, far end", na "705.12(B)(2)";
    /// Against 120 %.
    FAR: Rule = "panel.far_end_120", "120 % rule, far end", na "705.12(B)(2)";
    /// 1.25 x inverter + main.
    BUS_A: Amps = "panel.bus_125_a", "Inverter and main", na "705.12(B)(1)";
    /// Against the bus.
    BUS: Rule = "panel.bus_125", "100 % rule", na "705.12(B)(1)";
    /// PV breaker + main.
    BREAKER_A: Amps = "panel.far_end_120_breaker_a",
        "PV breaker and main, far end", na "705.12(B)(2)";
    /// The same counting the breaker.
    BREAKER: Rule = "panel.far_end_120_breaker",
        "120 % rule, counting the breaker", na "705.12(B)(2)";
    /// Whether both ways of counting agree.
    AGREES: Rule = "panel.breaker_count_agrees", "Both ways of counting agree", na "705.12(B)(2)";
    /// Largest main that makes 120 % pass.
    SMALLER_A: Amps = "panel.smaller_main_a",
        "Largest main for the 120 % rule", na "705.12(B)(2), 240.6(A)";
    /// Against the load calculation.
    SMALLER: Rule = "panel.smaller_main", "A smaller main", na "705.12(B)(2), 220";
    /// Whether any rule is met.
    RULE: Rule = "panel.rule", "Busbar rule", na "705.12(B)";
}

/// The panel and what feeds it.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PanelInputs {
    /// Busbar rating, A.
    pub bus_a: Option<f64>,
    /// Main breaker, A.
    pub main_a: Option<f64>,
    /// Breakers that feed loads, A; empty: not entered. A panel with no loads is written `[0]`.
    pub load_breakers_a: Vec<f64>,
    /// PV breaker, A.
    pub pv_breaker_a: Option<f64>,
    /// Inverter output current, A.
    pub inverter_a: Option<f64>,
    /// PV breaker opposite the main; absent: not known.
    pub pv_at_far_end: Option<bool>,
    /// Load calculation, A.
    pub load_calc_a: Option<f64>,
}

const BUS_FIELD: &str = "panel.bus_a";

/// What one of the rules comes to.
struct Judged {
    verdict: Verdict,
    missing: Vec<Field>,
}

/// Every busbar rule with its figure, and whether one of them is met.
pub fn panel(sheet: &mut Sheet, x: &PanelInputs) {
    let bus = || Bound::at_most((x.bus_a, BUS_FIELD), "busbar");
    let loads = (!x.load_breakers_a.is_empty()).then(|| x.load_breakers_a.iter().sum());
    let all = sheet.figure(&SUM_A, |w| {
        let loads = w.need::<Amps>("load breakers", loads, "panel.load_breakers_a", "panel");
        let pv = pv_breaker(w, x);
        Some(loads? + pv?)
    });
    let mut sum = judge(sheet, &SUM, &all, bus(), None);
    // Loads nobody entered can only add to it.
    let alone = x.pv_breaker_a.zip(x.bus_a).is_some_and(|(pv, bus)| above(pv, bus));
    if let Some(check) = sheet.checks.last_mut().filter(|_| loads.is_none() && alone) {
        check.verdict = Verdict::Fail;
        check.missing.clear();
        check.reason("The PV breaker alone is above the busbar.");
        sum = Judged { verdict: Verdict::Fail, missing: Vec::new() };
    }
    let limit = sheet.figure(&LIMIT_120, |w| {
        let bus = w.need::<Amps>("busbar", x.bus_a, BUS_FIELD, "panel")?;
        Some(exact::<Ratio>(1.2) * bus)
    });
    let limit = || Bound::at_most(&limit, "120 % of the busbar");
    let far_a = sheet.figure(&FAR_A, |w| inverter_and_main(w, x));
    let far = judge(sheet, &FAR, &far_a, limit(), Some(x.pv_at_far_end));
    let bus_a = sheet.figure(&BUS_A, |w| inverter_and_main(w, x));
    let whole = judge(sheet, &BUS, &bus_a, bus(), None);
    let breaker_a = sheet.figure(&BREAKER_A, |w| {
        let pv = pv_breaker(w, x);
        let main = main_breaker(w, x);
        Some(pv? + main?)
    });
    let breaker = judge(sheet, &BREAKER, &breaker_a, limit(), Some(x.pv_at_far_end));
    // With the end not known both are open together, or one fails at either end: that is said.
    let countable = far_a.value().is_some() && breaker_a.value().is_some() && x.bus_a.is_some();
    let agrees = match (far.verdict, breaker.verdict) {
        _ if !countable => Verdict::Unknown,
        (a, b) if a == b => Verdict::Pass,
        _ => Verdict::Warn,
    };
    let missing = [far_a.missing(), breaker_a.missing()].concat();
    let check = sheet.judge(&AGREES, agrees);
    check.misses(missing.into_iter().chain(x.bus_a.is_none().then_some(BUS_FIELD)));
    if agrees == Verdict::Warn {
        check
            .reason(
                "By current the rule passes, by breaker it does not, or the other way round: \
                 inspectors differ.",
            )
            .cure("Ask the authority which way it counts before the work.", Vec::new());
    }
    let smaller = smaller_main(sheet, x);
    // Counting the breaker is another way to read a rule, not a rule of its own.
    any_rule(sheet, &[sum, far, whole], smaller);
}

fn pv_breaker(w: &mut Working, x: &PanelInputs) -> Option<Traced<Amps>> {
    w.need("PV breaker", x.pv_breaker_a, "inverter.ac_a", "circuit.ocpd_a")
}

fn main_breaker(w: &mut Working, x: &PanelInputs) -> Option<Traced<Amps>> {
    w.need("main", x.main_a, "panel.main_a", "panel")
}

fn inverter(w: &mut Working, x: &PanelInputs) -> Option<Traced<Amps>> {
    w.need("inverter", x.inverter_a, "inverter.ac_a", "inverter data sheet")
}

fn inverter_and_main(w: &mut Working, x: &PanelInputs) -> Option<Traced<Amps>> {
    let inverter = inverter(w, x);
    let main = main_breaker(w, x);
    Some(exact::<Ratio>(1.25) * inverter? + main?)
}

/// Judges a figure under the rule's own id, as one of several of which one is enough. `far_end` is
/// what is known of the breaker's place, for a rule that asks for the far end: one that fails even
/// there fails, whatever is known.
fn judge(
    sheet: &mut Sheet,
    rule: &'static Def<Rule>,
    figure: &Handle<Amps>,
    bound: Bound,
    far_end: Option<Option<bool>>,
) -> Judged {
    let check = sheet.hold_as(rule, figure, bound, Verdict::Fail);
    check.beyond(|over| format!("{over} over.")).alternative();
    if far_end == Some(None) && check.verdict == Verdict::Pass {
        check.verdict = Verdict::Unknown;
        check.misses(["panel.pv_at_far_end"]);
        check.reason("It holds only where the PV breaker sits at the far end of the bus.");
    }
    if far_end == Some(Some(false)) {
        check.verdict = Verdict::Fail;
        check.missing.clear();
        check.reason("The PV breaker is not at the end of the bus away from the main.");
        check.cure("Move the PV breaker to the far end and label it so.", Vec::new());
    }
    Judged { verdict: check.verdict, missing: check.missing.clone() }
}

/// The largest main that makes the 120 % rule pass, where it still carries the load, A.
fn smaller_main(sheet: &mut Sheet, x: &PanelInputs) -> Option<f64> {
    let main = sheet.figure(&SMALLER_A, |w| {
        let bus = w.need::<Amps>("busbar", x.bus_a, BUS_FIELD, "panel");
        let inverter = inverter(w, x);
        let taken = exact::<Ratio>(1.25) * inverter?;
        let room = w.step("room", exact::<Ratio>(1.2) * bus? - taken);
        let main = tables::last_rating(School::Na.breakers(), room.value.0);
        if main.is_none() {
            w.note("No standard breaker is that small.");
        }
        main.map(|m| w.given("largest standard breaker", Amps(m), "240.6(A)"))
    });
    let known = x.bus_a.is_some() && x.inverter_a.is_some();
    let verdict = match (main.value(), x.load_calc_a) {
        (None, _) if known => Verdict::Fail,
        (Some(m), Some(load)) if below(m, load) => Verdict::Fail,
        (Some(_), Some(_)) => Verdict::Pass,
        _ => Verdict::Unknown,
    };
    let missing = if known { &["panel.load_calc_a"] } else { main.missing() };
    let check = sheet.judge(&SMALLER, verdict).alternative();
    check.misses(missing.iter().copied());
    match (main.value(), x.load_calc_a) {
        (Some(m), Some(load)) => check.reason(format_args!(
            "A {} main against a load of {}.",
            said(m, Unit::A),
            said(load, Unit::A)
        )),
        (None, _) if known => check.reason("No standard main leaves room for the inverter."),
        _ => check,
    };
    main.value().filter(|_| verdict == Verdict::Pass)
}

fn any_rule(sheet: &mut Sheet, rules: &[Judged], smaller_main_a: Option<f64>) {
    let any = |verdict| rules.iter().any(|r| r.verdict == verdict);
    let verdict = if any(Verdict::Pass) {
        Verdict::Pass
    } else if any(Verdict::Unknown) {
        Verdict::Unknown
    } else {
        Verdict::Fail
    };
    let panel = match &sheet.subject {
        Subject::Panel { panel } => Some(panel.clone()),
        _ => None,
    };
    let check = sheet.judge(&RULE, verdict);
    check.misses(rules.iter().flat_map(|r| r.missing.iter().copied()));
    check.reason(match verdict {
        Verdict::Unknown => "None of the busbar rules is known to be met.",
        _ => "None of the busbar rules is met.",
    });
    match smaller_main_a {
        Some(main) => check.cure(
            format_args!(
                "A main of {} makes the 120 % rule pass and still carries the load.",
                said(main, Unit::A)
            ),
            panel
                .map(|p| Edit::new(format!("/plan/nodes/{p}/panel/main_a"), main))
                .into_iter()
                .collect(),
        ),
        None => check.cure("A supply-side connection (705.11), or a larger panel.", Vec::new()),
    };
}
