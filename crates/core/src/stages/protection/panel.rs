//! The panel's busbar rules (705.12(B)). Several rules, of which one is enough; the others are
//! shown.

use serde::Deserialize;
use serde_json::Value;

use crate::figure::{
    Bound, Check, Def, Field, Handle, Rule, Sheet, Subject, Verdict, Working, said,
};
use crate::figures;
use crate::job::{Edit, NodeKey, SupplySide};
use crate::quantity::{Amps, Ratio, Unit, above, below};
use crate::school::{Edition, School};
use crate::tables;
use crate::traced::{Traced, exact};

figures! { Protection;
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
    /// 1.25 x inverter + main of a bus fed in the middle.
    CENTRE: Rule = "panel.centre_fed_120", "120 % rule, fed in the middle", na "705.12(B)(4)";
    /// Sources before the main against the service.
    TAP_A: Amps = "panel.supply_side_a", "Sources before the main", na "705.11";
    /// A connection before the main.
    TAP: Rule = "panel.supply_side", "Connection before the main", na "705.11";
    /// The smallest standard busbar with which the 120 % rule is met.
    NEW_A: Amps = "panel.new_bus_a", "Smallest busbar for the 120 % rule", na "705.12(B)(2)";
    /// A larger panel.
    NEW: Rule = "panel.new_panel", "A larger panel", na "705.12(B)(2)";
    /// The main against the busbar.
    MAIN: Rule = "panel.main_a", "Main against the busbar", na "408.36";
    /// Whether any rule is met.
    RULE: Rule = "panel.rule", "Busbar rule", na "705.12(B)";
}

/// The panel and what feeds it.
#[derive(Clone, Debug, Default, Deserialize)]
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
    /// The main feeds the middle of the bus; absent: not known.
    #[serde(default)]
    pub centre_fed: Option<bool>,
    /// The PV breaker sits at one end of a bus that is fed in the middle; absent: not known.
    #[serde(default)]
    pub pv_at_one_end: Option<bool>,
    /// The panel is in a one- or two-family dwelling; absent: not known.
    #[serde(default)]
    pub dwelling: Option<bool>,
    /// A connection before the main, built or compared.
    #[serde(skip)]
    pub supply_side: Option<SupplySide>,
    /// Breakers of what is connected before the main, A.
    #[serde(skip)]
    pub tapped_breaker_a: Option<f64>,
    /// Output of what is connected before the main, A.
    #[serde(skip)]
    pub tapped_a: Option<f64>,
    /// What comes to the panel besides what is connected before the main.
    #[serde(skip)]
    pub on_the_bus: OnTheBus,
    /// A panel of a job: what protects its bus has to be known.
    #[serde(skip)]
    pub of_job: bool,
}

/// What comes to a panel of which a part is connected before the main.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum OnTheBus {
    /// All of it is, or nothing is said to be before the main.
    #[default]
    All,
    /// Some is on the bus, some before the main.
    Some,
    /// All of it is before the main.
    Nothing,
    /// Which is which, nobody said.
    Open,
}

/// Busbars panels are made with, A.
const BUSBARS_A: [f64; 8] = [100.0, 125.0, 150.0, 200.0, 225.0, 320.0, 400.0, 600.0];
/// From a connection before the main to its overcurrent device, m (705.11(C)(1): 10 ft in
/// dwellings, 16.5 ft elsewhere; 10 ft anywhere before).
const TAP_M: [f64; 2] = [3.048, 5.03];
/// Least conductor of a connection before the main, AWG (705.11(A)).
const TAP_AWG: &str = "6";

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
    let far = judge(sheet, &FAR, &far_a, limit(), Some(far_end(x)));
    let bus_a = sheet.figure(&BUS_A, |w| inverter_and_main(w, x));
    let whole = judge(sheet, &BUS, &bus_a, bus(), None);
    let breaker_a = sheet.figure(&BREAKER_A, |w| {
        let pv = pv_breaker(w, x);
        let main = main_breaker(w, x);
        Some(pv? + main?)
    });
    let breaker = judge(sheet, &BREAKER, &breaker_a, limit(), Some(far_end(x)));
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
    let mut rules = vec![sum, far, whole];
    rules.extend(centre_fed(sheet, x, &far_a, limit()));
    let tap = supply_side(sheet, x);
    new_panel(sheet, x);
    let main = main_on_bus(sheet, x);
    let smaller = smaller_main(sheet, x);
    // The sum rule asks for a device that protects the bus.
    if let Some(main) = main.filter(|m| m.verdict != Verdict::Pass && x.of_job) {
        rules[0].verdict = rules[0].verdict.max(main.verdict);
        rules[0].missing.extend(main.missing);
    }
    let built = x.supply_side.as_ref().is_some_and(|t| t.chosen);
    let both = match (tap.filter(|_| built), x.on_the_bus) {
        // What is built before the main is not on the bus.
        (Some(tap), OnTheBus::Nothing) => {
            rules = vec![tap];
            None
        }
        (tap, OnTheBus::Some | OnTheBus::Open) => tap,
        _ => None,
    };
    // Counting the breaker is another way to read a rule, not a rule of its own.
    any_rule(sheet, x, &rules, both, smaller);
}

/// Whether the PV breaker is at the far end; a bus fed in the middle has none.
fn far_end(x: &PanelInputs) -> Option<bool> {
    if x.centre_fed == Some(true) { Some(false) } else { x.pv_at_far_end }
}

/// The 120 % rule of a bus that is fed in the middle; nothing where it is known not to be.
fn centre_fed(
    sheet: &mut Sheet,
    x: &PanelInputs,
    far_a: &Handle<Amps>,
    limit: Bound,
) -> Option<Judged> {
    if x.centre_fed != Some(true) {
        return None;
    }
    let check = sheet.hold_as(&CENTRE, far_a, limit, Verdict::Fail);
    check.beyond(|over| format!("{over} over.")).alternative();
    let asks = [
        (x.dwelling, "site.building", "It holds in dwellings of one or two families only."),
        (x.pv_at_one_end, "panel.pv_at_one_end", "The PV breaker is not at one end of the bus."),
    ];
    Some(asked(check, asks))
}

/// A check that holds only where all of these are so, each with its field and what is said where it
/// is not.
fn asked<const N: usize>(
    check: &mut Check,
    asks: [(Option<bool>, &'static str, &str); N],
) -> Judged {
    for (is, field, why) in asks {
        match is {
            Some(true) => {}
            Some(false) => {
                check.verdict = Verdict::Fail;
                check.missing.clear();
                check.reason(why);
            }
            None if check.verdict != Verdict::Fail => {
                check.verdict = Verdict::Unknown;
                check.misses([field]);
            }
            None => {}
        }
    }
    Judged { verdict: check.verdict, missing: check.missing.clone() }
}

/// A connection before the main: sources against the service, its wire, its device.
fn supply_side(sheet: &mut Sheet, x: &PanelInputs) -> Option<Judged> {
    let tap = x.supply_side.as_ref()?;
    let breakers = sheet.edition == Edition::Y2017;
    let sources = sheet.figure(&TAP_A, |w| {
        let own =
            w.need("breakers", x.tapped_breaker_a.or(x.pv_breaker_a), "circuit.ocpd_a", "plan");
        if breakers {
            return own;
        }
        w.need("outputs", x.tapped_a.or(x.inverter_a), "inverter.ac_a", "inverter data sheets")
    });
    let near = |m: f64| match (x.dwelling, breakers) {
        (_, true) | (Some(true), _) => Some(!above(m, TAP_M[0])),
        (Some(false), _) => Some(!above(m, TAP_M[1])),
        (None, _) if !above(m, TAP_M[0]) => Some(true),
        (None, _) if above(m, TAP_M[1]) => Some(false),
        (None, _) => None,
    };
    let distance = tap.to_device_m.map(near);
    let field = if distance == Some(None) { "site.building" } else { "panel.to_device_m" };
    let service = (tap.service_a, "panel.service_a");
    let check = sheet
        .hold_as(&TAP, &sources, Bound::at_most(service, "service"), Verdict::Fail)
        .alternative();
    check.beyond(|over| format!("{over} above the rating of the service."));
    let cmil = tap.awg.as_deref().map(|s| tables::wire(s).map_or(0.0, |w| w.cmil));
    let least = tables::wire(TAP_AWG).map_or(0.0, |w| w.cmil);
    let asks = [
        (cmil.map(|c| !below(c, least)), "wire.awg", "Its wire is thinner than 6 AWG."),
        (
            distance.flatten(),
            field,
            "Its overcurrent device is farther away than 10 ft (16.5 ft where it is no dwelling).",
        ),
    ];
    Some(asked(check, asks))
}

/// The smallest busbar that is made with which the 120 % rule is met.
fn new_panel(sheet: &mut Sheet, x: &PanelInputs) {
    let bus = sheet.figure(&NEW_A, |w| {
        let all = inverter_and_main(w, x)?;
        let least = w.step("busbar at least", all / exact::<Ratio>(1.2));
        let next = BUSBARS_A.into_iter().find(|b| !below(*b, least.value.0));
        if next.is_none() {
            w.note("No usual busbar is large enough.");
        }
        next.map(|b| w.given("next usual busbar", Amps(b), "panels as they are made"))
    });
    let verdict = match bus.value() {
        Some(_) => Verdict::Pass,
        None if bus.missing().is_empty() => Verdict::Fail,
        None => Verdict::Unknown,
    };
    sheet.judge(&NEW, verdict).alternative().misses(bus.missing().iter().copied());
}

/// A main above its busbar protects it no more.
fn main_on_bus(sheet: &mut Sheet, x: &PanelInputs) -> Option<Judged> {
    let (Some(main), Some(bus)) = (x.main_a, x.bus_a) else {
        let open = [(x.main_a, "panel.main_a"), (x.bus_a, BUS_FIELD)];
        let open = open.into_iter().filter(|(a, _)| a.is_none()).map(|(_, field)| field);
        let missing: Vec<Field> = open.collect();
        if x.of_job {
            sheet.known(&MAIN, missing.iter().copied());
        }
        return x.of_job.then_some(Judged { verdict: Verdict::Unknown, missing });
    };
    let verdict = if above(main, bus) { Verdict::Fail } else { Verdict::Pass };
    let text = (said(main, Unit::A), said(bus, Unit::A));
    let panel = panel_of(sheet);
    sheet
        .judge(&MAIN, verdict)
        .reason(format_args!("A main of {} does not protect a busbar of {}.", text.0, text.1))
        .cure(
            format_args!("A main of {} or less, or a larger panel.", text.1),
            edits(panel.as_ref(), "main_a", tables::last_rating(School::Na.breakers(), bus)),
        );
    Some(Judged { verdict, missing: Vec::new() })
}

/// The panel a sheet is about; none in a sum.
fn panel_of(sheet: &Sheet) -> Option<NodeKey> {
    match &sheet.subject {
        Subject::Panel { panel } => Some(panel.clone()),
        _ => None,
    }
}

/// The edit that sets a field of a panel.
fn edits(panel: Option<&NodeKey>, field: &str, to: Option<impl Into<Value>>) -> Vec<Edit> {
    let both = panel.zip(to);
    both.map(|(p, to)| Edit::new(format!("/plan/nodes/{p}/panel/{field}"), to))
        .into_iter()
        .collect()
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
    let panel = panel_of(sheet);
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
        let edits = edits(panel.as_ref(), "pv_at_far_end", Some(true));
        check.cure("Move the PV breaker to the far end and label it so.", edits);
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

/// Whether one of the rules holds, and the connection before the main where a part comes so.
fn any_rule(
    sheet: &mut Sheet,
    x: &PanelInputs,
    rules: &[Judged],
    tap: Option<Judged>,
    smaller_main_a: Option<f64>,
) {
    let any = |verdict| rules.iter().any(|r| r.verdict == verdict);
    let verdict = if any(Verdict::Pass) {
        Verdict::Pass
    } else if any(Verdict::Unknown) {
        Verdict::Unknown
    } else {
        Verdict::Fail
    };
    let verdict = match (&tap, x.on_the_bus) {
        (None, _) => verdict,
        // All of it on the bus is more than is.
        (Some(tap), OnTheBus::Open) if verdict != Verdict::Pass => {
            tap.verdict.max(Verdict::Unknown)
        }
        (Some(tap), _) => verdict.max(tap.verdict),
    };
    let panel = panel_of(sheet);
    let check = sheet.judge(&RULE, verdict);
    if x.on_the_bus == OnTheBus::Open {
        check.misses(["panel.supply_side.circuits"]);
    }
    check.misses(tap.iter().flat_map(|t| t.missing.iter().copied()));
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
            edits(panel.as_ref(), "main_a", Some(main)),
        ),
        None => check.cure("A supply-side connection (705.11), or a larger panel.", Vec::new()),
    };
}
