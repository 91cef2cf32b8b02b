//! Microinverter branches: how many units a breaker carries, and how far the voltage rises along
//! the trunk.
//!
//! In a trunk of `m` units fed from its end the section next to the feed carries all of them, the
//! last one only one: the rise is `I x r x (m + (m - 1) + ... + 1) = I x r x m(m + 1)/2`. Fed in
//! between, each arm stands on its own and the larger rise counts.

use serde::Deserialize;

use crate::figure::{Bound, Def, Sheet, Stage, Verdict, Working, said};
use crate::job::Cable;
use crate::library::{MicroSheet, ModuleRatings};
use crate::quantity::{
    Amps, Celsius, METRES_PER_FOOT, Metres, Ohms, Percent, PercentPerKelvin, Ratio, Unit, Volts,
    Watts,
};
use crate::runs::{I_OUT, Vdrop, output_device, resistance};
use crate::strings::{at_temperature, voc_cold_of_one};
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
    /// Amps of each phase: largest less smallest.
    PHASES "ac.phase_unbalance_a" "Difference of the phases" "" "setting";
    /// Vmp of one module on the hottest day.
    VMP_HOT "micro.vmp_hot_v" "Working volts of one module, hottest \
        day" "unit data sheet" "unit data sheet";
    /// Vmp of one module on the coldest morning.
    VMP_COLD "micro.vmp_cold_v" "Working volts of one module, coldest \
        morning" "unit data sheet" "unit data sheet";
    /// Isc of one module.
    ISC "micro.isc_a" "Short-circuit current of one module" "unit data sheet" "unit data sheet";
    /// Module watts by the unit's output.
    RATIO "micro.dc_ac_ratio" "Module watts to the unit's \
        output" "unit data sheet" "unit data sheet";
    /// Voc x k_cold of one module.
    VOC_COLD "micro.voc_cold_v" "Open-circuit volts of one module, coldest \
        morning" "unit data sheet" "unit data sheet";
}

/// Largest rise where the job sets none, %.
pub const RISE_PCT: f64 = 2.0;
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
            Some(n) => {
                by_breaker.min(w.given("by the maker", Ratio(f64::from(n)), "unit data sheet"))
            }
            None => by_breaker,
        })
    });
    sheet.count(&N, |w| Some(w.given("units", Ratio(f64::from(units)), "branch")));
    let check = sheet.hold(
        &N,
        Bound::at_most(most, "most units on the branch", "branch.breaker_a"),
        Verdict::Fail,
    );
    if let Some(most) = most {
        check.reason(format!("{units} units, {most} are allowed."));
        check.cure(format!("{most} on this branch, the others on another."), Vec::new());
    }
}

/// Rise of one arm of `m` units, in percent of the volts.
fn arm(w: &mut Working, x: &BranchInputs, m: u32) -> Option<Traced<Percent>> {
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
        let mut total =
            w.need::<Percent>("trunk", trunk, "trunk.section_ohm", "branch.rise_trunk_pct");
        for (k, run) in x.runs.iter().enumerate() {
            let wire =
                Vdrop { awg: run.awg.clone(), mm2: run.mm2, cable: run.cable, ..Vdrop::default() };
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
        check.reason(format!(
            "{} above the limit: units may leave the grid on a sunny day.",
            said(-margin, Unit::Percent)
        ));
    }
    check.cure(
        "Thicker wire on the home run, or the feed moved to the middle of the trunk.",
        Vec::new(),
    );
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
        .hold(
            &VOC_COLD,
            Bound::at_most(x.unit_v_max_v, "largest input volts", "unit.v_max_v"),
            Verdict::Fail,
        )
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
    let coefficient = m.c_vmp_pct_c.or(m.g_pmax_pct_c);
    let mut vmp = |def: &'static Def, temperature: Option<f64>, field: &str| {
        sheet.figure(def, |w| {
            let vmp = w.need::<Volts>("Vmp", m.vmp_v, "module.vmp_v", "module data sheet");
            let c = w.need::<PercentPerKelvin>(
                "c",
                coefficient,
                "module.g_pmax_pct_c",
                "module data sheet",
            );
            let t = w.need::<Celsius>("t", temperature, field, "site");
            let k = w.step("k", at_temperature(c?, t?));
            Some(vmp? * k)
        })
    };
    vmp(&VMP_HOT, x.t_cell_hot_c, "site.t_max_c");
    vmp(&VMP_COLD, x.t_min_c, "site.t_min_c");
    sheet
        .hold(
            &VMP_HOT,
            Bound::at_least(unit.mppt_min_v, "tracking from", "unit.mppt_min_v"),
            Verdict::Warn,
        )
        .reason("On the hottest days the unit tracks no more and gives less.")
        .cure("A module with more volts, or another unit.", Vec::new());
    sheet
        .hold(
            &VMP_COLD,
            Bound::at_most(unit.mppt_max_v, "tracking up to", "unit.mppt_max_v"),
            Verdict::Warn,
        )
        .reason("On the coldest mornings the unit tracks no more and gives less.")
        .cure("A module with fewer volts, or another unit.", Vec::new());
    sheet.figure(&ISC, |w| w.need::<Amps>("Isc", m.isc_a, "module.isc_a", "module data sheet"));
    sheet
        .hold(
            &ISC,
            Bound::at_most(unit.in_isc_max_a, "largest input current", "unit.in_isc_max_a"),
            Verdict::Fail,
        )
        .reason("The module's current is more than the unit bears.")
        .cure("A unit for more current.", Vec::new());
    sheet.figure(&RATIO, |w| {
        let p = w.need::<Watts>("Pmax", m.pmax_w, "module.pmax_w", "module data sheet");
        let ac = w.need::<Watts>("rated AC output", unit.ac_w, "unit.ac_w", "unit data sheet");
        Some(p? / ac?)
    });
    sheet
        .hold(&RATIO, Bound::at_most(Some(1.5), "usual range up to", ""), Verdict::Warn)
        .reason("The unit clips often: many watts for its output.")
        .cure("Check the maker's own range; it goes before this one.", Vec::new());
}

/// Several branches together: output, breaker, and on three phases how far these differ.
pub fn branches_together(
    sheet: &mut Sheet,
    branches: &[(Option<f64>, Option<u32>)],
    three_phase: bool,
    limit_a: Option<f64>,
) {
    let on = |phase: u32| branches.iter().filter(move |(_, p)| p.unwrap_or(1) == phase);
    let sum = |w: &mut Working, phase: Option<u32>| -> Option<Traced<Amps>> {
        let mut total: Option<Traced<Amps>> = None;
        for (k, (amps, _)) in branches
            .iter()
            .enumerate()
            .filter(|(_, (_, p))| phase.is_none_or(|n| p.unwrap_or(1) == n))
        {
            let one =
                w.need::<Amps>(&format!("branch {}", k + 1), *amps, "unit.ac_a", "branch.i_a")?;
            total = Some(match total {
                Some(t) => t + one,
                None => one,
            });
        }
        total.or_else(|| Some(exact(0.0)))
    };
    let fullest = (1..=3).max_by(|a, b| {
        let amps = |p: u32| on(p).filter_map(|(a, _)| *a).sum::<f64>();
        amps(*a).total_cmp(&amps(*b)).then(b.cmp(a))
    });
    let out = sheet.figure(&I_OUT, |w| sum(w, fullest.filter(|_| three_phase)));
    let device = output_device(sheet, out, "unit.ac_a");
    sheet.judge(
        &crate::runs::AC_OCPD,
        if device.is_some() { Verdict::Pass } else { Verdict::Unknown },
    );
    if three_phase {
        sheet.figure(&PHASES, |w| {
            let mut phases: Vec<Traced<Amps>> = Vec::new();
            for phase in 1..=3 {
                let amps = sum(w, Some(phase))?;
                phases.push(w.step(&format!("L{phase}"), amps));
            }
            let most = phases.iter().cloned().reduce(Traced::max)?;
            let least = phases.into_iter().reduce(Traced::min)?;
            Some(most - least)
        });
        sheet
            .hold(
                &PHASES,
                Bound::at_most(Some(limit_a.unwrap_or(16.0)), "allowed by the network", ""),
                Verdict::Warn,
            )
            .reason("The phases are fed unevenly.")
            .cure("Move a branch from the fullest phase to the emptiest.", Vec::new());
    }
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
