//! Microinverter branches: how many units a breaker carries, and how far the voltage rises along the trunk.
//!
//! In a trunk of `m` units fed from its end the section next to the feed carries all of them, the last one
//! only one: the rise is `I x r x (m + (m - 1) + ... + 1) = I x r x m(m + 1)/2`. Fed in between, each arm
//! stands on its own and the larger rise counts.

use serde::Deserialize;

use crate::figure::{Bound, Def, Sheet, Stage, Verdict, said};
use crate::job::Cable;
use crate::library::ModuleRatings;
use crate::quantity::{Amps, METRES_PER_FOOT, Metres, Ohms, Percent, Ratio, Unit, Volts};
use crate::runs::{I_OUT, Vdrop, output_device, resistance};
use crate::strings::voc_cold_of_one;
use crate::traced::{Traced, exact};

macro_rules! defs {
    ($($(#[$doc:meta])* $name:ident $id:literal $title:literal $na:literal $iec:literal;)*) => {$(
        $(#[$doc])*
        pub static $name: Def = Def { id: $id, title: $title, stage: Stage::Strings, na: $na, iec: $iec };
    )*};
}

defs! {
    /// Sum of the units' amps.
    I "branch.i_a" "Current of the branch" "690.8(A)" "data sheet";
    /// floor(share x breaker / unit amps), not above the maker's limit.
    N_MAX "branch.n_max" "Most units on the branch" "210.20(A), unit data sheet" "unit data sheet";
    /// Units of the branch.
    N "branch.n" "Units on the branch" "210.20(A), unit data sheet" "unit data sheet";
    /// I x r x m(m + 1)/2 of the worst arm.
    RISE_TRUNK "branch.rise_trunk_pct" "Voltage rise along the trunk" "setting" "setting";
    /// Trunk, home run and panel run.
    RISE_TOTAL "branch.rise_total_pct" "Voltage rise to the panel" "setting" "setting";
    /// Voc x k_cold of one module.
    VOC_COLD "micro.voc_cold_v" "Open-circuit volts of one module, coldest morning" "unit data sheet" "unit data sheet";
}

/// Largest rise where the job sets none, %.
const RISE_PCT: f64 = 2.0;
/// Share of the breaker that counts where the job sets none.
const SHARE: f64 = 0.8;

/// A wire between trunk and panel; it counts out and back.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
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
}

/// Figures and checks of a branch.
pub fn branch(sheet: &mut Sheet, x: &BranchInputs) {
    let units: u32 = x.arms_n.iter().sum();
    let amps = sheet.figure(&I, |w| {
        let n = w.given("units", Ratio(f64::from(units)), "branch");
        Some(n * w.need::<Amps>("one unit", x.unit_a, "unit.ac_a", "unit data sheet")?)
    });
    count(sheet, x, units);
    rise(sheet, x, amps);
    together(sheet, x, amps);
    cold(sheet, x);
}

fn count(sheet: &mut Sheet, x: &BranchInputs, units: u32) {
    let most = sheet.count(&N_MAX, |w| {
        let share = w.given("share", Ratio(x.share.unwrap_or(SHARE)), "setting");
        let breaker = w.need::<Amps>("breaker", x.breaker_a, "branch.breaker_a", "job");
        let unit = w.need::<Amps>("one unit", x.unit_a, "unit.ac_a", "unit data sheet");
        let by_breaker = w.step("by the breaker", (share * breaker? / unit?).floor());
        Some(match x.maker_max_n {
            Some(n) => by_breaker.min(w.given("by the maker", Ratio(f64::from(n)), "unit data sheet")),
            None => by_breaker,
        })
    });
    sheet.count(&N, |w| Some(w.given("units", Ratio(f64::from(units)), "branch")));
    let check = sheet.hold(&N, Bound::at_most(most, "most units on the branch", "branch.breaker_a"), Verdict::Fail);
    if let Some(most) = most {
        check.reason(format!("{units} units, {most} are allowed."));
        check.cure(format!("{most} on this branch, the others on another."), Vec::new());
    }
}

/// Rise of one arm of `m` units, in percent of the volts.
fn arm(w: &mut crate::figure::Working, x: &BranchInputs, m: u32) -> Option<Traced<Percent>> {
    let unit = w.need::<Amps>("one unit", x.unit_a, "unit.ac_a", "unit data sheet");
    let r = w.need::<Ohms>("r", x.section_ohm, "trunk.section_ohm", "trunk data sheet");
    let volts = w.need::<Volts>("volts", x.volts_v, "unit.ac_v", "unit data sheet");
    let m = w.given("m", Ratio(f64::from(m)), "units of the arm");
    let sections = m.clone() * (m + exact(1.0)) / exact::<Ratio>(2.0);
    Some((unit? * r? * sections / volts?).percent())
}

fn rise(sheet: &mut Sheet, x: &BranchInputs, amps: Option<f64>) {
    let trunk = sheet.figure(&RISE_TRUNK, |w| {
        // The rise grows with the count: the longest arm is the worst.
        arm(w, x, x.arms_n.iter().copied().max()?)
    });
    if x.runs.is_empty() {
        return;
    }
    sheet.figure(&RISE_TOTAL, |w| {
        let mut total = w.need::<Percent>("trunk", trunk, "trunk.section_ohm", "branch.rise_trunk_pct");
        for (k, run) in x.runs.iter().enumerate() {
            let wire = Vdrop { awg: run.awg.clone(), mm2: run.mm2, cable: run.cable, ..Vdrop::default() };
            let r = resistance(w, &wire);
            let metres = run.length_m.or(run.length_ft.map(|ft| ft * METRES_PER_FOOT));
            let length = w.need::<Metres>("L", metres, "run.length_m", "measured");
            let i = w.need::<Amps>("I", run.amps_a.or(amps), "unit.ac_a", "branch.i_a");
            let volts = w.need::<Volts>("volts", x.volts_v, "unit.ac_v", "unit data sheet");
            let drop = w.step("drop", exact::<Ratio>(2.0) * (length? * r?) * i?);
            let share = w.step(&format!("run {}", k + 1), (drop / volts?).percent());
            total = Some(total? + share);
        }
        total
    });
    let limit = x.limit_pct.unwrap_or(RISE_PCT);
    let check = sheet.hold(&RISE_TOTAL, Bound::at_most(Some(limit), "limit", ""), Verdict::Warn);
    if let Some(margin) = check.margin {
        check.reason(format!("{} above the limit: units may leave the grid on a sunny day.", said(-margin, Unit::Percent)));
    }
    check.cure("Thicker wire on the home run, or the feed moved to the middle of the trunk.", Vec::new());
}

/// Like branches together: their output and its breaker.
fn together(sheet: &mut Sheet, x: &BranchInputs, amps: Option<f64>) {
    let Some(branches) = x.branches_n else { return };
    let out = sheet.figure(&I_OUT, |w| {
        let n = w.given("branches", Ratio(f64::from(branches)), "job");
        Some(n * w.need::<Amps>("one branch", amps, "unit.ac_a", "branch.i_a")?)
    });
    output_device(sheet, out, "unit.ac_a");
}

fn cold(sheet: &mut Sheet, x: &BranchInputs) {
    let Some(module) = &x.module else { return };
    sheet.figure(&VOC_COLD, |w| voc_cold_of_one(w, module, x.t_min_c));
    sheet
        .hold(&VOC_COLD, Bound::at_most(x.unit_v_max_v, "largest input volts", "unit.v_max_v"), Verdict::Fail)
        .reason("The module's cold volts damage the unit.")
        .cure("A unit for higher input volts, or another module.", Vec::new());
}

/// The volts along an arm, from the feed to its end, as far above those at the feed.
pub fn along(unit_a: f64, section_ohm: f64, units: u32) -> Vec<f64> {
    let mut risen = 0.0;
    (0..units)
        .map(|k| {
            // Section k carries what lies beyond it.
            risen += unit_a * section_ohm * f64::from(units - k);
            risen
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::figure::{Subject, SubjectKind, Value};
    use crate::school::School;

    #[test]
    fn the_rise_along_the_arm_ends_in_the_figure() {
        // Worked example 7: 1.31 x 0.0142 x 12 x 13 / 2 = 1.45096 V, 0.605 % of 240 V.
        let volts = along(1.31, 0.0142, 12);
        assert_eq!(volts.len(), 12);
        assert!((volts[11] - 1.450_956).abs() < 1e-9);
        assert!(volts.windows(2).all(|p| p[0] < p[1]), "it rises all the way");
    }

    #[test]
    fn without_a_unit_nothing_is_good() {
        let mut sheet = Sheet::new(School::Na, Subject::new(SubjectKind::Circuit, "x"));
        branch(&mut sheet, &BranchInputs { arms_n: vec![12], breaker_a: Some(20.0), ..BranchInputs::default() });
        let check = sheet.checks.iter().find(|c| c.id == "branch.n").expect("the check");
        assert_eq!(check.verdict, Verdict::Unknown);
        assert!(sheet.figures.iter().all(|f| f.id == "branch.n" || !matches!(f.value, Some(Value::Number(_)))));
    }
}
