//! Microinverter branches: how many units a breaker carries, and how far the voltage rises along
//! the trunk.
//!
//! In a trunk of `m` units fed from its end the section next to the feed carries all of them, the
//! last one only one: the rise is `I x r x (m + (m - 1) + ... + 1) = I x r x m(m + 1)/2`. Fed in
//! between, each arm stands on its own and the larger rise counts.

use serde::Deserialize;

use crate::figure::{Bound, Def, Field, Handle, Sheet, Verdict, Working};
use crate::figures;
use crate::job::{Cable, Material};
use crate::library::{MicroSheet, ModuleRatings};
use crate::quantity::{
    Amps, Celsius, METRES_PER_FOOT, Metres, Ohms, Percent, PercentPerKelvin, Ratio, Volts, Watts,
};
use crate::school::School;
use crate::stages::roof::Spread;
use crate::stages::runs::{AC_OCPD, I_OUT, Vdrop, output_device, resistance};
use crate::stages::strings::{at_temperature, isc_with_gain, voc_cold_of_one};
use crate::traced::{Traced, exact};

figures! { Strings;
    /// Sum of the units' amps.
    I: Amps = "branch.i_a", "Current of the branch", na "690.8(A)", iec "data sheet";
    /// floor(share x breaker / unit amps), not above the maker's limit.
    N_MAX: Count = "branch.n_max",
        "Most units on the branch", na "210.20(A), unit data sheet", iec "unit data sheet";
    /// Units of the branch.
    N: Count = "branch.n",
        "Units on the branch", na "210.20(A), unit data sheet", iec "unit data sheet";
    /// I x r x m(m + 1)/2 of the worst arm.
    RISE_TRUNK: Percent = "branch.rise_trunk_pct", "Voltage rise along the trunk", "setting";
    /// Trunk, home run and panel run.
    RISE_TOTAL: Percent = "branch.rise_total_pct", "Voltage rise to the panel", "setting";
    /// Amps of each phase: largest less smallest.
    PHASES: Amps = "ac.phase_unbalance_a", "Difference of the phases", iec "setting";
    /// Vmp of one module on the hottest day.
    VMP_HOT: Volts = "micro.vmp_hot_v",
        "Working volts of one module, hottest day", "unit data sheet";
    /// Vmp of one module on the coldest morning.
    VMP_COLD: Volts = "micro.vmp_cold_v",
        "Working volts of one module, coldest morning", "unit data sheet";
    /// Isc of one module.
    ISC: Amps = "micro.isc_a", "Short-circuit current of one module", "unit data sheet";
    /// Module watts by the unit's output.
    RATIO: Ratio = "micro.dc_ac_ratio", "Module watts to the unit's output", "unit data sheet";
    /// Voc x k_cold of one module.
    VOC_COLD: Volts = "micro.voc_cold_v",
        "Open-circuit volts of one module, coldest morning", "unit data sheet";
}

/// Largest rise where the job sets none, %.
pub const RISE_PCT: f64 = 2.0;
/// Share of the breaker that counts where none is set: na 0.8 (210.20(A)), iec the whole.
fn share_of(school: School) -> f64 {
    match school {
        School::Na => 0.8,
        School::Iec => 1.0,
    }
}

/// A wire between trunk and panel; it counts out and back.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct BranchRun {
    /// na: copper, AWG.
    pub awg: Option<String>,
    /// iec: copper, mm².
    pub mm2: Option<f64>,
    /// iec: cable.
    pub cable: Option<Cable>,
    /// One way, ft.
    pub length_ft: Option<f64>,
    /// One way, m.
    pub length_m: Option<f64>,
    /// Its current, A; the branch's own where absent.
    pub amps_a: Option<f64>,
    /// Metal.
    #[serde(skip)]
    pub material: Material,
}

/// A branch of like units, single phase.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct BranchInputs {
    /// AC amps of one unit.
    pub unit_a: Option<f64>,
    /// Nominal AC volts.
    pub volts_v: Option<f64>,
    /// Breaker of the branch, A.
    pub breaker_a: Option<f64>,
    /// Share of the breaker that counts; 0.8 where absent.
    pub share: Option<f64>,
    /// Most units by the maker.
    pub maker_max_n: Option<u32>,
    /// Units of each arm: one arm is fed from its end, two in between.
    pub arms_n: Vec<u32>,
    /// Loop resistance of one trunk section, ohm.
    pub section_ohm: Option<f64>,
    /// Home run, panel run and so on.
    pub runs: Vec<BranchRun>,
    /// Largest rise in all, %; 2 where absent.
    pub limit_pct: Option<f64>,
    /// Like branches together.
    pub branches_n: Option<u32>,
    /// The module on each unit.
    pub module: Option<ModuleRatings>,
    /// Lowest ambient, °C.
    pub t_min_c: Option<f64>,
    /// Largest input volts of a unit, V.
    pub unit_v_max_v: Option<f64>,
    /// Sections of trunk as the units lie on the roof; one before each unit where absent.
    #[serde(skip)]
    pub spread: Option<Spread>,
}

impl BranchInputs {
    /// Sections before each unit of an arm, from the feed on.
    fn sections(&self, arm: usize) -> Vec<f64> {
        let units = self.arms_n.get(arm).map_or(0, |n| *n as usize);
        let first = self.arms_n.first().map_or(0, |n| *n as usize);
        let mut all = vec![1.0; units];
        let Some(spread) = &self.spread else { return all };
        let gap = |at: usize| spread.gaps.get(at).copied().unwrap_or(1.0);
        for (k, section) in all.iter_mut().enumerate() {
            *section = match (k, self.arms_n.len(), arm) {
                (0, ..) => spread.feeds.get(arm).copied().unwrap_or(1.0),
                // Of two arms the first runs back from the feed.
                (_, 2, 0) => gap(units - 1 - k),
                (_, 2, _) => gap(first + k - 1),
                _ => gap(k - 1),
            };
        }
        all
    }
}

/// What a branch comes to.
#[derive(Clone, Debug)]
pub struct Branch {
    /// Its current.
    pub amps: Handle<Amps>,
    /// Rise along the trunk.
    pub rise_trunk: Handle<Percent>,
    /// Rise of trunk and runs, where there are runs.
    pub rise_total: Option<Handle<Percent>>,
}

impl Branch {
    /// Rise of the whole, or of the trunk where there is no home run, %.
    pub fn rise_pct(&self) -> Option<f64> {
        self.rise_total.as_ref().unwrap_or(&self.rise_trunk).value()
    }
}

/// Figures and checks of a branch.
pub fn branch(sheet: &mut Sheet, x: &BranchInputs) -> Branch {
    let units: u32 = x.arms_n.iter().sum();
    let amps = sheet.figure(&I, |w| {
        let n = w.given("units", Ratio(f64::from(units)), "branch");
        Some(n * one_unit(w, x)?)
    });
    count(sheet, x, units);
    let rise_trunk = sheet.figure(&RISE_TRUNK, |w| {
        // Without gaps the rise grows with the count; with them any arm may be the worst.
        let weight = |arm: usize| carried(&x.sections(arm));
        arm(w, x, (0..x.arms_n.len()).max_by(|a, b| weight(*a).total_cmp(&weight(*b)))?)
    });
    let rise_total = (!x.runs.is_empty()).then(|| rise(sheet, x, &amps, &rise_trunk));
    together(sheet, x, &amps);
    cold(sheet, x);
    Branch { amps, rise_trunk, rise_total }
}

fn one_unit(w: &mut Working, x: &BranchInputs) -> Option<Traced<Amps>> {
    w.need("one unit", x.unit_a, "unit.ac_a", "unit data sheet")
}

fn count(sheet: &mut Sheet, x: &BranchInputs, units: u32) {
    let usual = share_of(sheet.school);
    let most = sheet.count(&N_MAX, |w| {
        let share = w.given("share", Ratio(x.share.unwrap_or(usual)), "setting");
        let breaker = w.need::<Amps>("breaker", x.breaker_a, "branch.breaker_a", "job");
        let unit = one_unit(w, x);
        let by_breaker = w.step("by the breaker", (share * breaker? / unit?).floor());
        Some(match x.maker_max_n {
            Some(n) => {
                by_breaker.min(w.given("by the maker", Ratio(f64::from(n)), "unit data sheet"))
            }
            None => by_breaker,
        })
    });
    let on_branch = sheet.count(&N, |w| Some(w.given("units", Ratio(f64::from(units)), "branch")));
    let bound = Bound::at_most(&most, "most units on the branch");
    let check = sheet.hold(&on_branch, bound, Verdict::Fail);
    if let Some(most) = most.value() {
        check.reason(format_args!("{units} units, {most} are allowed."));
        check.cure(format_args!("{most} on this branch, the others on another."), Vec::new());
    }
}

/// Sections of an arm, each as often as units lie beyond it.
fn carried(sections: &[f64]) -> f64 {
    sections.iter().zip((1..=sections.len()).rev()).map(|(s, beyond)| s * beyond as f64).sum()
}

/// Rise of one arm, in percent of the volts.
fn arm(w: &mut Working, x: &BranchInputs, arm: usize) -> Option<Traced<Percent>> {
    let unit = one_unit(w, x);
    let r = w.need::<Ohms>("r", x.section_ohm, "trunk.section_ohm", "trunk data sheet");
    let volts = w.need::<Volts>("volts", x.volts_v, "unit.ac_v", "unit data sheet");
    let own = x.sections(arm);
    let sections = if own.iter().all(|s| *s == 1.0) {
        let m = w.given("m", Ratio(own.len() as f64), "units of the arm");
        m.clone() * (m + exact(1.0)) / exact::<Ratio>(2.0)
    } else {
        w.given("sections, each by the units beyond it", Ratio(carried(&own)), "roof map")
    };
    Some((unit? * r? * sections / volts?).percent())
}

fn rise(
    sheet: &mut Sheet,
    x: &BranchInputs,
    amps: &Handle<Amps>,
    trunk: &Handle<Percent>,
) -> Handle<Percent> {
    let total = sheet.figure(&RISE_TOTAL, |w| {
        let mut total = w.take("trunk", trunk);
        for (k, run) in x.runs.iter().enumerate() {
            let (awg, mm2, cable) = (run.awg.clone(), run.mm2, run.cable);
            let material = run.material;
            let r = resistance(w, &Vdrop { awg, material, mm2, cable, ..Vdrop::default() });
            let metres = run.length_m.or(run.length_ft.map(|ft| ft * METRES_PER_FOOT));
            let length = w.need::<Metres>("L", metres, "run.length_m", "measured");
            let i = match run.amps_a {
                Some(own) => Some(w.given("I", Amps(own), amps.id())),
                None => w.take("I", amps),
            };
            let volts = w.need::<Volts>("volts", x.volts_v, "unit.ac_v", "unit data sheet");
            let drop = w.step("drop", exact::<Ratio>(2.0) * (length? * r?) * i?);
            let share = w.step(format_args!("run {}", k + 1), (drop / volts?).percent());
            total = Some(total? + share);
        }
        total
    });
    let limit = x.limit_pct.unwrap_or(RISE_PCT);
    sheet
        .hold(&total, Bound::at_most(limit, "limit"), Verdict::Warn)
        .beyond(|over| format!("{over} above the limit: units may leave the grid on a sunny day."))
        .cure(
            "Thicker wire on the home run, or the feed moved to the middle of the trunk.",
            Vec::new(),
        );
    total
}

/// Like branches together: their output and its breaker.
fn together(sheet: &mut Sheet, x: &BranchInputs, amps: &Handle<Amps>) {
    let Some(branches) = x.branches_n else { return };
    let out = sheet.figure(&I_OUT, |w| {
        let n = w.given("branches", Ratio(f64::from(branches)), "job");
        Some(n * w.take("one branch", amps)?)
    });
    output_device(sheet, &out);
}

fn cold(sheet: &mut Sheet, x: &BranchInputs) {
    let Some(module) = &x.module else { return };
    let cold = sheet.figure(&VOC_COLD, |w| voc_cold_of_one(w, module, x.t_min_c));
    let most = Bound::at_most((x.unit_v_max_v, "unit.v_max_v"), "largest input volts");
    sheet
        .hold(&cold, most, Verdict::Fail)
        .reason("The module's cold volts damage the unit.")
        .cure("A unit for higher input volts, or another module.", Vec::new());
}

/// One module on one unit, besides the cold volts.
#[derive(Clone, Debug, Default)]
pub struct MatchInputs<'a> {
    /// The module.
    pub module: Option<&'a ModuleRatings>,
    /// The unit.
    pub micro: Option<&'a MicroSheet>,
    /// Lowest ambient, °C.
    pub t_min_c: Option<f64>,
    /// Cells on the hottest day, °C.
    pub t_cell_hot_c: Option<f64>,
}

/// Working volts inside the unit's tracking range, amps and watts inside what it takes.
pub fn dc_match(sheet: &mut Sheet, x: &MatchInputs) {
    let (Some(m), Some(unit)) = (x.module, x.micro) else { return };
    let of_module = "module data sheet";
    let coefficient = m.c_vmp_pct_c.or(m.g_pmax_pct_c);
    let mut vmp = |def: &'static Def<Volts>, temperature: Option<f64>, field: Field| {
        sheet.figure(def, |w| {
            let vmp = w.need::<Volts>("Vmp", m.vmp_v, "module.vmp_v", of_module);
            let c = w.need::<PercentPerKelvin>("c", coefficient, "module.g_pmax_pct_c", of_module);
            let t = w.need::<Celsius>("t", temperature, field, "site");
            let k = w.step("k", at_temperature(c?, t?));
            Some(vmp? * k)
        })
    };
    let hot = vmp(&VMP_HOT, x.t_cell_hot_c, "site.t_max_c");
    let cold = vmp(&VMP_COLD, x.t_min_c, "site.t_min_c");
    let from = Bound::at_least((unit.mppt_min_v, "unit.mppt_min_v"), "tracking from");
    sheet
        .hold(&hot, from, Verdict::Warn)
        .reason("On the hottest days the unit tracks no more and gives less.")
        .cure("A module with more volts, or another unit.", Vec::new());
    let up_to = Bound::at_most((unit.mppt_max_v, "unit.mppt_max_v"), "tracking up to");
    sheet
        .hold(&cold, up_to, Verdict::Warn)
        .reason("On the coldest mornings the unit tracks no more and gives less.")
        .cure("A module with fewer volts, or another unit.", Vec::new());
    let isc = sheet.figure(&ISC, |w| isc_with_gain(w, m, m.gain()));
    let most = Bound::at_most((unit.in_isc_max_a, "unit.in_isc_max_a"), "largest input current");
    sheet
        .hold(&isc, most, Verdict::Fail)
        .reason("The module's current is more than the unit bears.")
        .cure("A unit for more current.", Vec::new());
    let ratio = sheet.figure(&RATIO, |w| {
        let p = w.need::<Watts>("Pmax", m.pmax_w, "module.pmax_w", of_module);
        let ac = w.need::<Watts>("rated AC output", unit.ac_w, "unit.ac_w", "unit data sheet");
        Some(p? / ac?)
    });
    sheet
        .hold(&ratio, Bound::at_most(1.5, "usual range up to"), Verdict::Warn)
        .reason("The unit clips often: many watts for its output.")
        .cure("Check the maker's own range; it goes before this one.", Vec::new());
}

/// A branch among others: its current, and the phase it feeds where there are three.
#[derive(Clone, Debug)]
pub struct OnPhase {
    /// Its current.
    pub amps: Handle<Amps>,
    /// The phase, 1 to 3; the first where nothing is said.
    pub phase: Option<u32>,
}

/// Several branches together: output, breaker, and on three phases how far these differ. Gives the
/// breaker.
pub fn branches_together(
    sheet: &mut Sheet,
    branches: &[OnPhase],
    three_phase: bool,
    limit_a: Option<f64>,
) -> Handle<Amps> {
    let on = |phase: u32| branches.iter().filter(move |b| b.phase.unwrap_or(1) == phase);
    let sum = |w: &mut Working, phase: Option<u32>| -> Option<Traced<Amps>> {
        let mut total: Option<Traced<Amps>> = None;
        for (k, b) in branches.iter().enumerate() {
            if phase.is_some_and(|n| b.phase.unwrap_or(1) != n) {
                continue;
            }
            let one = w.take(format_args!("branch {}", k + 1), &b.amps)?;
            total = Some(match total {
                Some(t) => t + one,
                None => one,
            });
        }
        total.or_else(|| Some(exact(0.0)))
    };
    let fullest = (1..=3).max_by(|a, b| {
        let amps = |p: u32| on(p).filter_map(|b| b.amps.value()).sum::<f64>();
        amps(*a).total_cmp(&amps(*b)).then(b.cmp(a))
    });
    let out = sheet.figure(&I_OUT, |w| sum(w, fullest.filter(|_| three_phase)));
    let device = output_device(sheet, &out);
    let open = device.value().is_none();
    let verdict = if open { Verdict::Unknown } else { Verdict::Pass };
    sheet.judge(&AC_OCPD, verdict).misses(device.missing().to_vec());
    if three_phase {
        unbalance(sheet, sum, limit_a);
    }
    device
}

fn unbalance(
    sheet: &mut Sheet,
    sum: impl Fn(&mut Working, Option<u32>) -> Option<Traced<Amps>>,
    limit_a: Option<f64>,
) {
    let unbalance = sheet.figure(&PHASES, |w| {
        let mut phases: Vec<Traced<Amps>> = Vec::new();
        for phase in 1..=3 {
            let amps = sum(w, Some(phase))?;
            phases.push(w.step(format_args!("L{phase}"), amps));
        }
        let most = phases.iter().cloned().reduce(Traced::max)?;
        let least = phases.into_iter().reduce(Traced::min)?;
        Some(most - least)
    });
    let allowed = Bound::at_most(limit_a.unwrap_or(16.0), "allowed by the network");
    sheet
        .hold(&unbalance, allowed, Verdict::Warn)
        .reason("The phases are fed unevenly.")
        .cure("Move a branch from the fullest phase to the emptiest.", Vec::new());
}

/// The volts along an arm, from the feed to its end, as far above those at the feed. None where the
/// unit's amps or the trunk's resistance are not known.
pub fn along(x: &BranchInputs, arm: usize) -> Option<Vec<f64>> {
    let per_section = x.unit_a? * x.section_ohm?;
    let sections = x.sections(arm);
    let mut risen = 0.0;
    let volts = sections.iter().enumerate().map(|(k, section)| {
        // A section carries what lies beyond it.
        risen += per_section * section * (sections.len() - k) as f64;
        risen
    });
    Some(volts.collect())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::figure::{Subject, Value};

    #[test]
    fn the_rise_along_the_arm_ends_in_the_figure() {
        // Worked example 7: 1.31 x 0.0142 x 12 x 13 / 2 = 1.45096 V, 0.605 % of 240 V.
        let branch = BranchInputs {
            unit_a: Some(1.31),
            section_ohm: Some(0.0142),
            arms_n: vec![12],
            ..BranchInputs::default()
        };
        let volts = along(&branch, 0).expect("all is known");
        assert_eq!(volts.len(), 12);
        assert!((volts[11] - 1.450_956).abs() < 1e-9);
        assert!(volts.windows(2).all(|p| p[0] < p[1]), "it rises all the way");
    }

    #[test]
    fn without_a_unit_nothing_is_good() {
        let mut sheet = Sheet::new(School::Na, Subject::Sum);
        branch(
            &mut sheet,
            &BranchInputs { arms_n: vec![12], breaker_a: Some(20.0), ..BranchInputs::default() },
        );
        let check = sheet.checks.iter().find(|c| c.id == "branch.n").expect("the check");
        assert_eq!(check.verdict, Verdict::Unknown);
        assert!(
            sheet
                .figures
                .iter()
                .all(|f| f.id == "branch.n" || !matches!(f.value, Some(Value::Number(_))))
        );
    }
}
