//! The inverter's output: current, overcurrent device, the network's threshold, loop impedance
//! (iec).

use serde::Deserialize;

use crate::figure::{Bound, Handle, Sheet, Verdict, said};
use crate::figures;
use crate::job::Earthing;
use crate::quantity::{Amps, Ohms, Ratio, Unit, Volts, Watts, above};
use crate::school::School;
use crate::tables;
use crate::traced::{Traced, exact};

figures! { Runs;
    /// Output current.
    I_OUT: Amps = "ac.i_out_a", "Output current", na "690.8(A)", iec "data sheet";
    /// Next standard device.
    OCPD: Amps = "ac.ocpd_a",
        "Overcurrent device of the output", na "240.6(A), 690.9(B)", iec "IEC 60364-4-43";
    /// Notify after or apply before.
    NETWORK: Rule = "ac.network", "Network operator's threshold", iec "setting";
    /// Largest loop impedance.
    ZS_MAX: Ohms = "circuit.zs_max_ohm", "Largest loop impedance", iec "IEC 60364-4-41";
    /// Measured loop impedance.
    ZS: Ohms = "circuit.zs_ohm", "Loop impedance", iec "IEC 60364-4-41";
    /// RA x I_dn of a TT system.
    TOUCH: Volts = "circuit.touch_v", "Touch volts at the RCD's current", iec "IEC 60364-4-41";
}

/// Highest touch volts of a TT system, V (411.5.3).
pub(crate) const TOUCH_V: f64 = 50.0;

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
    /// iec: how the supply is earthed; `tn` where absent.
    pub earthing: Option<Earthing>,
    /// iec, tt: resistance of the electrode and its conductor, ohm.
    pub ra_ohm: Option<f64>,
    /// iec, tt: rated residual current of the RCD, mA.
    pub rcd_ma: Option<f64>,
    /// One of a job's: the threshold and the loop are judged there, of all that feeds in.
    #[serde(skip)]
    pub of_job: bool,
}

/// Figures and checks of an output; gives its device.
pub fn ac(sheet: &mut Sheet, x: &AcInputs) -> Handle<Amps> {
    let of_sheet = "inverter data sheet";
    let amps = sheet.figure(&I_OUT, |w| match (x.rated_a, x.watts_w, x.volts_v) {
        (None, Some(watts), Some(volts)) => {
            let watts = w.given("rated watts", Watts(watts), of_sheet);
            let volts = w.given("volts", Volts(volts), of_sheet);
            Some(by_watts(watts, volts, x.three_phase))
        }
        (rated, ..) => w.need("rated output", rated, "inverter.ac_a", of_sheet),
    });
    let device = output_device(sheet, &amps);
    if let Some(most) = x.maker_max_ocpd_a {
        sheet
            .hold(&device, Bound::at_most(most, "largest device of the maker"), Verdict::Fail)
            .beyond(|over| format!("{over} above what the maker allows."));
    }
    if sheet.school == School::Iec && !x.of_job {
        network(sheet, x, &amps);
        if x.earthing == Some(Earthing::Tt) {
            touch(sheet, x);
        } else {
            loop_impedance(sheet, x, &device);
        }
    }
    device
}

/// Line current of an output of so many watts.
pub(crate) fn by_watts(
    watts: Traced<Watts>,
    volts: Traced<Volts>,
    three_phase: bool,
) -> Traced<Amps> {
    if three_phase { watts / (exact::<Ratio>(3.0).sqrt() * volts) } else { watts / volts }
}

/// Next standard breaker for an output: at least 1.25 x its current (na), at least its current
/// (iec).
pub(crate) fn output_device(sheet: &mut Sheet, amps: &Handle<Amps>) -> Handle<Amps> {
    let school = sheet.school;
    sheet.figure(&OCPD, |w| {
        let i = w.take("output", amps)?;
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

/// Amps per phase from which the network wants to be asked before.
const NETWORK_A: f64 = 16.0;

fn network(sheet: &mut Sheet, x: &AcInputs, amps: &Handle<Amps>) {
    let threshold = x.network_a.unwrap_or(NETWORK_A);
    let verdict = match amps.value() {
        Some(a) if above(a, threshold) => Verdict::Warn,
        Some(_) => Verdict::Pass,
        None => Verdict::Unknown,
    };
    sheet
        .judge(&NETWORK, verdict)
        .misses(amps.missing().to_vec())
        .reason(format_args!(
            "{} per phase, threshold {}: the network operator wants to be asked before.",
            said(amps.value().unwrap_or(0.0), Unit::A),
            said(threshold, Unit::A)
        ))
        .cure("Apply before the work and keep the answer with the job.", Vec::new());
}

/// In a TT system the loop is too large to trip a breaker: the RCD does, and RA x I_dn counts.
fn touch(sheet: &mut Sheet, x: &AcInputs) {
    let volts = sheet.figure(&TOUCH, |w| {
        let ra = w.need::<Ohms>("RA", x.ra_ohm, "ra_ohm", "measured");
        let rcd = x.rcd_ma.map(|ma| ma / 1000.0);
        let rcd = w.need::<Amps>("I_dn", rcd, "rcd_ma", "RCD");
        Some(ra? * rcd?)
    });
    sheet
        .hold(&volts, Bound::at_most(TOUCH_V, "touch volts"), Verdict::Fail)
        .reason("A fault to earth would leave more than 50 V on the case before the RCD trips.")
        .cure("A better electrode, or an RCD of a smaller residual current.", Vec::new());
}

fn loop_impedance(sheet: &mut Sheet, x: &AcInputs, device: &Handle<Amps>) {
    let Some(curve) = x.curve else { return };
    let k = match curve {
        Curve::B => 5.0,
        Curve::C => 10.0,
        Curve::D => 20.0,
    };
    let most = sheet.figure(&ZS_MAX, |w| {
        let u0 = w.need::<Volts>("U0", x.u0_v, "u0_v", "site");
        let device = w.take("In", device);
        let k = w.given("k", Ratio(k), "trip curve");
        Some(exact::<Ratio>(0.95) * u0? / (k * device?))
    });
    if x.zs_ohm.is_some() {
        let read = sheet.figure(&ZS, |w| w.need("measured", x.zs_ohm, "zs_ohm", "reading"));
        sheet
            .hold(&read, Bound::at_most(&most, "largest loop impedance"), Verdict::Fail)
            .reason("The breaker would trip too late.");
    }
}
