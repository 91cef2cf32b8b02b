//! The inverter's output: current, overcurrent device, the network's threshold, loop impedance
//! (iec).

use serde::Deserialize;

use super::run_defs;
use crate::figure::{Bound, Sheet, Verdict, said};
use crate::quantity::{Amps, Ohms, Ratio, Unit, Volts, Watts, above};
use crate::school::School;
use crate::tables;
use crate::traced::exact;

run_defs! {
    /// Output current.
    I_OUT "ac.i_out_a" "Output current" "690.8(A)" "data sheet";
    /// Next standard device.
    OCPD "ac.ocpd_a" "Overcurrent device of the output" "240.6(A), 690.9(B)" "IEC 60364-4-43";
    /// Notify after or apply before.
    NETWORK "ac.network" "Network operator's threshold" "" "setting";
    /// Largest loop impedance.
    ZS_MAX "circuit.zs_max_ohm" "Largest loop impedance" "" "IEC 60364-4-41";
    /// Measured loop impedance.
    ZS "circuit.zs_ohm" "Loop impedance" "" "IEC 60364-4-41";
}

/// Trip curve of a breaker.
#[derive(Clone, Copy, Debug, Deserialize)]
pub enum Curve {
    /// 5 x In.
    B,
    /// 10 x In.
    C,
    /// 20 x In.
    D,
}

/// What the output calculation reads.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct AcInputs {
    /// Rated output, A.
    pub rated_a: Option<f64>,
    /// Rated output, W; with `volts_v` where amps are not given.
    pub watts_w: Option<f64>,
    /// Nominal volts.
    pub volts_v: Option<f64>,
    /// Three-phase.
    pub three_phase: bool,
    /// Largest device the maker allows, A.
    pub maker_max_ocpd_a: Option<f64>,
    /// iec: threshold per phase, A; 16 where absent.
    pub network_a: Option<f64>,
    /// iec: trip curve.
    pub curve: Option<Curve>,
    /// iec: volts to earth.
    pub u0_v: Option<f64>,
    /// iec: measured loop impedance, ohm.
    pub zs_ohm: Option<f64>,
}

/// Figures and checks of an output.
pub fn ac(sheet: &mut Sheet, x: &AcInputs) {
    let school = sheet.school;
    let amps = sheet.figure(&I_OUT, |w| match (x.rated_a, x.watts_w, x.volts_v) {
        (None, Some(watts), Some(volts)) => {
            let watts = w.given("rated watts", Watts(watts), "inverter data sheet");
            let volts = w.given("volts", Volts(volts), "inverter data sheet");
            Some(if x.three_phase {
                watts / (exact::<Ratio>(3.0).sqrt() * volts)
            } else {
                watts / volts
            })
        }
        (rated, ..) => {
            w.need::<Amps>("rated output", rated, "inverter.ac_a", "inverter data sheet")
        }
    });
    let device = output_device(sheet, amps, "inverter.ac_a");
    if let Some(most) = x.maker_max_ocpd_a {
        let check = sheet.hold(
            &OCPD,
            Bound::at_most(Some(most), "largest device of the maker", ""),
            Verdict::Fail,
        );
        if let Some(margin) = check.margin {
            check.reason(format!("{} above what the maker allows.", said(-margin, Unit::A)));
        }
    }
    if school == School::Iec {
        iec(sheet, x, amps, device);
    }
}

/// Next standard breaker for an output: at least 1.25 x its current (na), at least its current
/// (iec).
/// `field` names the input where the current is missing.
pub(crate) fn output_device(sheet: &mut Sheet, amps: Option<f64>, field: &str) -> Option<f64> {
    let school = sheet.school;
    sheet.figure(&OCPD, |w| {
        let i = w.need::<Amps>("output", amps, field, "ac.i_out_a")?;
        let least = match school {
            School::Na => w.step("at least", exact::<Ratio>(school.design_factor()) * i),
            School::Iec => i,
        };
        let next = tables::next_rating(school.breakers(), least.value.0);
        if next.is_none() {
            w.note("No standard breaker of the table is large enough.");
        }
        next.map(|b| w.given("next standard breaker", Amps(b), "standard ratings"))
    })
}

fn iec(sheet: &mut Sheet, x: &AcInputs, amps: Option<f64>, device: Option<f64>) {
    let threshold = x.network_a.unwrap_or(16.0);
    let verdict = match amps {
        Some(a) if above(a, threshold) => Verdict::Warn,
        Some(_) => Verdict::Pass,
        None => Verdict::Unknown,
    };
    let check = sheet.judge(&NETWORK, verdict);
    if amps.is_none() {
        check.missing = vec!["inverter.ac_a".to_owned()];
    }
    check
        .reason(format!(
            "{} per phase, threshold {}: the network operator wants to be asked before.",
            said(amps.unwrap_or(0.0), Unit::A),
            said(threshold, Unit::A)
        ))
        .cure("Apply before the work and keep the answer with the job.", Vec::new());
    let Some(curve) = x.curve else { return };
    let k = match curve {
        Curve::B => 5.0,
        Curve::C => 10.0,
        Curve::D => 20.0,
    };
    let most = sheet.figure(&ZS_MAX, |w| {
        let u0 = w.need::<Volts>("U0", x.u0_v, "u0_v", "site");
        let device = w.need::<Amps>("In", device, "inverter.ac_a", "ac.ocpd_a");
        let k = w.given("k", Ratio(k), "trip curve");
        Some(exact::<Ratio>(0.95) * u0? / (k * device?))
    });
    if x.zs_ohm.is_some() {
        sheet.figure(&ZS, |w| w.need::<Ohms>("measured", x.zs_ohm, "zs_ohm", "reading"));
        sheet
            .hold(&ZS, Bound::at_most(most, "largest loop impedance", "u0_v"), Verdict::Fail)
            .reason("The breaker would trip too late.");
    }
}
