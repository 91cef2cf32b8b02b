//! What a string should read in today's light and warmth.

use serde::Deserialize;

use crate::figure::{Field, Handle, Sheet};
use crate::figures;
use crate::library::ModuleRatings;
use crate::quantity::{Amps, Celsius, Irradiance, Kelvins, PercentPerKelvin, Ratio, Volts, above};
use crate::traced::exact;

figures! { Test;
    /// Cell temperature at the reading.
    T_CELL: Celsius = "test.t_cell_c", "Cells at the reading", "IEC 61215, NMOT";
    /// Open-circuit volts to be expected.
    VOC_EXPECTED: Volts = "test.voc_expected_v", "Expected open-circuit volts", "IEC 62446-1";
    /// Short-circuit current to be expected.
    ISC_EXPECTED: Amps = "test.isc_expected_a", "Expected short-circuit current", "IEC 62446-1";
}

/// Readings of one string, or of `p` in parallel.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct TestInputs {
    /// The module.
    pub module: ModuleRatings,
    /// Modules in series.
    pub n: u32,
    /// Strings in parallel, for the current only; 1 where absent.
    pub p: Option<u32>,
    /// Irradiance in the plane of the modules, W/m².
    pub irradiance_w_m2: Option<f64>,
    /// Cell temperature as known, °C.
    pub cell_c: Option<f64>,
    /// Back of a module, °C.
    pub back_c: Option<f64>,
    /// Air, °C.
    pub ambient_c: Option<f64>,
    /// Open-circuit volts read.
    pub measured_voc_v: Option<f64>,
    /// Short-circuit amps read.
    pub measured_isc_a: Option<f64>,
    /// Irradiance at the start of the set, W/m².
    pub irradiance_first_w_m2: Option<f64>,
    /// Irradiance at its end, W/m².
    pub irradiance_last_w_m2: Option<f64>,
    /// Highest DC volts allowed, V.
    pub limit_v: Option<f64>,
    /// Lowest expected ambient, °C.
    pub t_min_c: Option<f64>,
    /// Limits that are not known, each of which could be lower than `limit_v`.
    #[serde(skip)]
    pub open_limits: Vec<Field>,
}

/// Open-circuit volts to be expected.
#[derive(Clone, Debug)]
pub struct Expected {
    /// Of the string.
    pub volts: Handle<Volts>,
    /// Of one module, V.
    pub one_v: Option<f64>,
}

pub(super) fn t_cell(sheet: &mut Sheet, x: &TestInputs) -> Handle<Celsius> {
    sheet.figure(&T_CELL, |w| {
        if let Some(cell) = x.cell_c {
            return Some(w.given("cells", Celsius(cell), "as entered"));
        }
        let g = w.need::<Irradiance>("G", x.irradiance_w_m2, "irradiance_w_m2", "meter");
        if let Some(back) = x.back_c {
            let back = w.given("back of a module", Celsius(back), "meter");
            // 3 K from back to cell at 1000 W/m².
            return Some(back + exact::<Kelvins>(3.0) * (g? / exact::<Irradiance>(1000.0)));
        }
        let ambient = w.need::<Celsius>("air", x.ambient_c, "cell_c, back_c or ambient_c", "meter");
        let nmot = w.need::<Celsius>("NMOT", x.module.nmot_c, "module.nmot_c", "module data sheet");
        Some(ambient? + (nmot? - exact(20.0)) * (g? / exact::<Irradiance>(800.0)))
    })
}

/// `n x [Voc x (1 + bVoc/100 x (Tc - 25)) + a x ln(G/1000)]`, and the same of one module.
pub(super) fn voc_expected(
    sheet: &mut Sheet,
    x: &TestInputs,
    t_cell: &Handle<Celsius>,
) -> Expected {
    let mut one_v = None;
    let volts = sheet.figure(&VOC_EXPECTED, |w| {
        let voc = w.need::<Volts>("Voc", x.module.voc_v, "module.voc_v", "module data sheet");
        let b = w.need::<PercentPerKelvin>(
            "bVoc",
            x.module.b_voc_pct_c,
            "module.b_voc_pct_c",
            "module data sheet",
        );
        let t = w.take("Tc", t_cell);
        let g = w.need::<Irradiance>("G", x.irradiance_w_m2, "irradiance_w_m2", "meter");
        let (voc, b, t, g) = (voc?, b?, t?, g?);
        if !above(g.value.0, 0.0) {
            w.note("Without light nothing can be expected.");
            return None;
        }
        let warm = w
            .step("warm", voc * (exact::<Ratio>(1.0) + (b * (t.clone() - exact(25.0))).fraction()));
        let cells = x.module.cells_series_n.unwrap_or(0.0);
        let a = if cells > 0.0 {
            let cells = w.given("cells", Ratio(cells), "module data sheet");
            // 26 mV per cell at 25 °C, ideality 1.1, in proportion to the absolute temperature.
            let absolute = (t - exact(-273.15)) / exact::<Kelvins>(298.15);
            w.step("a", exact::<Volts>(0.026) * cells * exact::<Ratio>(1.1) * absolute)
        } else {
            w.note("The light term is left out: the data sheet gives no cells in series.");
            exact::<Volts>(0.0)
        };
        let light = w.step("light", a * (g / exact::<Irradiance>(1000.0)).ln());
        let one = w.step("one module now", warm + light);
        one_v = Some(one.value.0);
        Some(w.given("n", Ratio(f64::from(x.n)), "modules in series") * one)
    });
    Expected { volts, one_v }
}

pub(super) fn isc_expected(
    sheet: &mut Sheet,
    x: &TestInputs,
    t_cell: &Handle<Celsius>,
) -> Handle<Amps> {
    sheet.figure(&ISC_EXPECTED, |w| {
        let p = w.given("p", Ratio(f64::from(x.p.unwrap_or(1))), "strings in parallel");
        let isc = w.need::<Amps>("Isc", x.module.isc_a, "module.isc_a", "module data sheet");
        let a = w.need::<PercentPerKelvin>(
            "aIsc",
            x.module.a_isc_pct_c,
            "module.a_isc_pct_c",
            "module data sheet",
        );
        let t = w.take("Tc", t_cell);
        let g = w.need::<Irradiance>("G", x.irradiance_w_m2, "irradiance_w_m2", "meter");
        let (isc, a, t, g) = (isc?, a?, t?, g?);
        if !above(g.value.0, 0.0) {
            w.note("Without light nothing can be expected.");
            return None;
        }
        Some(
            p * isc
                * (g / exact::<Irradiance>(1000.0))
                * (exact::<Ratio>(1.0) + (a * (t - exact(25.0))).fraction()),
        )
    })
}
