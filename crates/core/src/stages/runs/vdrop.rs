//! Voltage drop and loss of a circuit. Power factor 1; reactance is left out below 50 mm² or 1/0
//! AWG.

use serde::Deserialize;

use crate::figure::{Bound, Check, Sheet, Verdict, Working};
use crate::figures;
use crate::job::{Cable, Material};
use crate::quantity::{Amps, METRES_PER_FOOT, Metres, OhmsPerMetre, Ratio, Volts, Watts};
use crate::tables;
use crate::traced::{Traced, exact, sum};

figures! { Runs;
    /// One way.
    LENGTH: Metres = "circuit.length_m", "Length, one way", "measured";
    /// Voltage drop.
    VDROP: Volts = "circuit.vdrop_v",
        "Voltage drop", na "Chapter 9, Table 8", iec "IEC 60364-5-52, annex G";
    /// Voltage drop in percent.
    VDROP_PCT: Percent = "circuit.vdrop_pct", "Voltage drop in percent", "setting";
    /// Watts lost.
    LOSS: Watts = "circuit.loss_w",
        "Watts lost in the wire", na "Chapter 9, Table 8", iec "IEC 60364-5-52, annex G";
}

/// A conductor, its length, current and volts.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Vdrop {
    /// na: wire size.
    pub awg: Option<String>,
    /// na: metal.
    #[serde(default)]
    pub material: Material,
    /// iec: section, mm².
    pub mm2: Option<f64>,
    /// iec: cable.
    pub cable: Option<Cable>,
    /// One way, ft.
    pub length_ft: Option<f64>,
    /// One way, m.
    pub length_m: Option<f64>,
    /// Current, A.
    pub amps_a: Option<f64>,
    /// Volts the percentage is of.
    pub volts_v: Option<f64>,
    /// Three-phase: sqrt(3) instead of 2.
    #[serde(default)]
    pub three_phase: bool,
    /// Limit, %.
    pub limit_pct: Option<f64>,
    /// Further lengths of other wire in series.
    #[serde(skip)]
    pub further: Vec<Vdrop>,
}

/// IEC resistance at 70 °C by that at 20 °C: 1 + 0.00393 x (70 - 20).
const R70_BY_R20: f64 = 1.0 + 0.00393 * (70.0 - 20.0);

/// Resistance of a metre of the conductor, warm.
pub(crate) fn resistance(w: &mut Working, x: &Vdrop) -> Option<Traced<OhmsPerMetre>> {
    if let Some(mm2) = x.mm2 {
        let cable = x.cable.unwrap_or(Cable::Solar);
        let r20 = match cable {
            Cable::Solar => tables::solar_cable(mm2).map(|c| c.r20_ohm_km),
            _ => tables::iec_cable(cable.key(), mm2, 2).map(|c| c.r20_ohm_km),
        };
        if r20.is_none() {
            w.note(format!("The table of this cable holds no {mm2} mm²."));
            return None;
        }
        let r20 = w.need::<OhmsPerMetre>(
            "R at 20 °C",
            r20.map(|r| r / 1000.0),
            "wire.mm2",
            format_args!("{mm2} mm²"),
        )?;
        let warm = w.given("1 + 0.00393 × 50", Ratio(R70_BY_R20), "working temperature 70 °C");
        return Some(w.step("R", r20 * warm));
    }
    let row = x.awg.as_deref().and_then(tables::wire);
    let per_kft = row.and_then(|r| {
        if x.material == Material::Al { r.r_al_ohm_kft } else { Some(r.r_cu_ohm_kft) }
    });
    // ohm per 1000 ft over the metres in 1000 ft
    let size = x.awg.as_deref().unwrap_or("");
    if per_kft.is_none() && !size.is_empty() {
        let last = tables::WIRES.last().map_or("", |w| &w.size);
        let metal = x.material.key();
        w.note(format!("Table 8 as it is carried here ends at {last}; no {metal} {size} in it."));
        return None;
    }
    w.need(
        "R",
        per_kft.map(|r| r / (1000.0 * METRES_PER_FOOT)),
        "wire.awg",
        format_args!("{size} AWG, {} ohm/kft at 75 °C", per_kft.unwrap_or(0.0)),
    )
}

/// The length of one wire, one way.
fn one_length(w: &mut Working, x: &Vdrop) -> Option<Traced<Metres>> {
    match (x.length_m, x.length_ft) {
        (None, Some(ft)) => {
            let ft = w.given("length, ft", Ratio(ft), "measured");
            Some(ft * exact::<Metres>(METRES_PER_FOOT))
        }
        (m, _) => w.need("length", m, "way.parts.length_m", "measured"),
    }
}

/// Figures and check of the voltage drop; gives the check back, for cures.
pub fn vdrop<'a>(sheet: &'a mut Sheet, x: &Vdrop) -> &'a mut Check {
    let length = sheet.figure(&LENGTH, |w| {
        let mut whole = one_length(w, x);
        for leg in &x.further {
            let further = one_length(w, leg);
            whole = Some(whole? + further?);
        }
        whole
    });
    let amps = |w: &mut Working| w.need::<Amps>("I", x.amps_a, "amps", "data sheet");
    let drop = sheet.figure(&VDROP, |w| {
        let factor = if x.three_phase { exact::<Ratio>(3.0).sqrt() } else { exact(2.0) };
        if x.further.is_empty() {
            let r = resistance(w, x);
            let l = w.take("L", &length);
            let i = amps(w);
            return Some(factor * (l? * r?) * i?);
        }
        let ohms = sum(std::iter::once(x).chain(&x.further).enumerate().map(|(k, leg)| {
            let r = resistance(w, leg);
            let l = one_length(w, leg);
            Some(w.step(format_args!("leg {}", k + 1), l? * r?))
        }));
        let i = amps(w);
        Some(factor * ohms? * i?)
    });
    let pct = sheet.figure(&VDROP_PCT, |w| {
        let drop = w.take("drop", &drop);
        let volts = w.need::<Volts>("volts", x.volts_v, "volts", "data sheet");
        Some((drop? / volts?).percent())
    });
    sheet.figure(&LOSS, |w| {
        let drop = w.take("drop", &drop);
        let i = amps(w);
        let watts: Traced<Watts> = drop? * i?;
        Some(if x.three_phase { exact::<Ratio>(3.0).sqrt() * watts } else { watts })
    });
    let limit = (x.limit_pct, "settings.vdrop_dc_pct");
    sheet.hold(&pct, Bound::at_most(limit, "limit"), Verdict::Warn)
}
