//! Surge devices on the DC side: whether the cable is long enough to need them, at one end or both,
//! and whether a device stands the coldest morning (iec).

use serde::Deserialize;

use crate::figure::{Bound, Sheet, Value, Verdict};
use crate::figures;
use crate::job::SurgeSite;
use crate::quantity::{Metres, Ratio, Volts, above, below};
use crate::traced::exact;

figures! { Protection;
    /// Length of cable from which on surge devices are needed.
    L_CRIT: Metres = "spd.l_crit_m", "Critical length", iec "IEC 60364-7-712";
    /// Whether they are needed.
    NEEDED: Word = "spd.needed", "Surge devices needed", na "setting", iec "IEC 60364-7-712";
    /// Whether they are needed at both ends of the cable.
    BOTH_ENDS: Word = "spd.both_ends", "At both ends", iec "IEC 61643-32";
    /// Highest DC volts a device stands for good.
    UCPV: Volts = "spd.ucpv_v", "Volts the device stands", na "242", iec "IEC 61643-32";
}

/// Length between array and inverter from which on both ends need one, m.
pub(super) const BOTH_ENDS_M: f64 = 10.0;

/// Metres times flashes a km² and year.
fn constant(site: SurgeSite) -> f64 {
    match site {
        SurgeSite::Dwelling => 115.0,
        SurgeSite::Field => 200.0,
        SurgeSite::Service => 450.0,
    }
}

/// A DC cable and the device on it.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SurgeInputs {
    /// What the system stands on.
    pub kind: SurgeSite,
    /// Flashes to ground a km² and year.
    pub ng_per_km2_year: f64,
    /// Length of the DC cable, m.
    pub length_m: f64,
    /// From the array to the inverter along the cable, m.
    pub array_to_inverter_m: f64,
    /// Volts the device stands, V.
    #[serde(default)]
    pub ucpv_v: Option<f64>,
    /// Volts of the string on the coldest morning, V.
    #[serde(default)]
    pub voc_cold_v: Option<f64>,
}

/// Figures of the length rule; the device's volts are judged where both are known.
pub fn surge(sheet: &mut Sheet, x: &SurgeInputs) {
    let critical = sheet.figure(&L_CRIT, |w| {
        let k = w.given("of this kind", Ratio(constant(x.kind)), "IEC 60364-7-712");
        let ng = w.given("Ng, flashes a km² and year", Ratio(x.ng_per_km2_year), "lightning map");
        Some(exact::<Metres>(1.0) * (k / ng))
    });
    let needed = critical.value().map(|critical| !below(x.length_m, critical));
    sheet.word(&NEEDED, |w| {
        w.take("critical length", &critical)?;
        w.given("L", Metres(x.length_m), "measured");
        needed.map(Value::Flag)
    });
    sheet.word(&BOTH_ENDS, |w| {
        w.given("from array to inverter", Metres(x.array_to_inverter_m), "along the cable");
        needed.map(|needed| Value::Flag(needed && above(x.array_to_inverter_m, BOTH_ENDS_M)))
    });
    let Some((ucpv, cold)) = x.ucpv_v.zip(x.voc_cold_v) else { return };
    let ucpv = sheet.figure(&UCPV, |w| Some(w.given("Ucpv", Volts(ucpv), "data sheet")));
    sheet
        .hold(&ucpv, Bound::at_least(cold, "string on the coldest morning"), Verdict::Fail)
        .beyond(|short| format!("{short} too low: it conducts on a cold morning."))
        .cure("A device for higher volts.", Vec::new());
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::figure::Subject;
    use crate::school::School;

    fn said(x: SurgeInputs) -> (Option<Value>, Option<Value>, Option<Verdict>) {
        let mut sheet = Sheet::new(School::Iec, Subject::Sum);
        surge(&mut sheet, &x);
        let of = |id: &str| sheet.figures.iter().find(|f| f.id == id).and_then(|f| f.value.clone());
        let verdict = sheet.checks.first().map(|c| c.verdict);
        (of("spd.needed"), of("spd.both_ends"), verdict)
    }

    #[test]
    fn length_lightning_and_distance_say_where_devices_go() {
        // 200 / 4 = 50 m.
        let x = SurgeInputs {
            kind: SurgeSite::Field,
            ng_per_km2_year: 4.0,
            length_m: 50.0,
            array_to_inverter_m: 10.0,
            ucpv_v: None,
            voc_cold_v: None,
        };
        let (yes, no) = (Some(Value::Flag(true)), Some(Value::Flag(false)));
        assert_eq!(said(x), (yes.clone(), no.clone(), None), "on the length, and on the 10 m");
        assert_eq!(said(SurgeInputs { length_m: 49.9, ..x }), (no.clone(), no.clone(), None));
        let far = SurgeInputs { array_to_inverter_m: 10.1, ..x };
        assert_eq!(said(far), (yes.clone(), yes, None));
        let with = |ucpv: f64| SurgeInputs { ucpv_v: Some(ucpv), voc_cold_v: Some(900.0), ..x };
        assert_eq!(said(with(900.0)).2, Some(Verdict::Pass));
        assert_eq!(said(with(899.0)).2, Some(Verdict::Fail));
        // Without lightning no length is critical, and nothing can be said.
        assert_eq!(said(SurgeInputs { ng_per_km2_year: 0.0, ..x }).0, None);
    }
}
