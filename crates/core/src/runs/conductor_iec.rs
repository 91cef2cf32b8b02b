//! An IEC cable in one place: table value, heat, grouping, against the device or the current.

use serde::Deserialize;

use super::{F_TEMP, I_DESIGN, I_MAX, OCPD, run_defs};
use crate::figure::{Bound, Sheet, Verdict, said};
use crate::job::{Cable, CircuitKind};
use crate::quantity::{Amps, Celsius, Ratio, Unit, below};
use crate::tables;
use crate::traced::exact;

run_defs! {
    /// What I_z must reach.
    NEED "circuit.need_a" "Amps the cable must carry" "" "IEC 60364-4-43, IEC 62548";
    /// Grouping factor.
    F_GROUP "circuit.f_group" "Factor for grouping" "" "IEC 60364-5-52";
    /// Current-carrying capacity.
    IZ "circuit.iz_a" "Current-carrying capacity" "" "IEC 60364-5-52, EN 50618";
}

/// Reference installation.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Install {
    /// Solar cable free in air.
    FreeAir,
    /// Solar cable on a surface.
    OnSurface,
    /// Two solar cables touching on a surface.
    TwoTouching,
    /// In conduit.
    #[default]
    MethodB,
    /// Clipped direct.
    MethodC,
}

/// One cable in one place.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ConductorIec {
    /// What it carries.
    pub kind: CircuitKind,
    /// Isc of a module, A (dc).
    pub isc_a: Option<f64>,
    /// Strings in parallel: `pv_output` carries all, an unfused `pv_string` the fault of the
    /// others.
    pub p: Option<u32>,
    /// Bifacial gain.
    pub bifacial_gain: Option<f64>,
    /// Rated output, A (ac).
    pub rated_a: Option<f64>,
    /// Fuse or breaker, A.
    pub device_a: Option<f64>,
    /// Section, mm².
    pub mm2: Option<f64>,
    /// Cable.
    pub cable: Cable,
    /// How it lies.
    pub install: Install,
    /// Ambient there, all told, °C.
    pub ambient_c: Option<f64>,
    /// Circuits bunched or enclosed together.
    pub circuits_n: Option<u32>,
    /// Loaded conductors, 2 or 3.
    pub loaded_n: Option<u32>,
}

/// Figures and checks of a cable.
pub fn conductor_iec(sheet: &mut Sheet, x: &ConductorIec) {
    let p = x.p.unwrap_or(1);
    let i_max = sheet.figure(&I_MAX, |w| {
        if !x.kind.is_dc() {
            return w.need::<Amps>(
                "rated output",
                x.rated_a,
                "inverter.ac_a",
                "inverter data sheet",
            );
        }
        let carried = if x.kind == CircuitKind::PvOutput { p } else { 1 };
        let p = w.given("p", Ratio(f64::from(carried)), "strings on this cable");
        let isc = w.need::<Amps>("Isc", x.isc_a, "module.isc_a", "module data sheet")?;
        let gain = w.given("gain", Ratio(x.bifacial_gain.unwrap_or(0.0)), "bifacial gain");
        Some(exact::<Ratio>(1.25) * p * isc * (exact::<Ratio>(1.0) + gain))
    });
    sheet.figure(&I_DESIGN, |w| w.need::<Amps>("i_max", i_max, "module.isc_a", "circuit.i_max_a"));
    let need = sheet.figure(&NEED, |w| {
        if let Some(device) = x.device_a {
            return Some(w.given("protective device", Amps(device), "job"));
        }
        let i = w.need::<Amps>("i_max", i_max, "module.isc_a", "circuit.i_max_a")?;
        if x.kind == CircuitKind::PvString {
            let p = w.given("p", Ratio(f64::from(p)), "strings in parallel");
            Some(i * exact::<Ratio>(1.0).max(p - exact(1.0)))
        } else {
            Some(i)
        }
    });
    let iz = capacity(sheet, x);
    let known = x.mm2.is_some() && x.ambient_c.is_some();
    let check = sheet.hold(
        &IZ,
        Bound::at_least(
            need,
            if x.device_a.is_some() { "protective device" } else { "amps needed" },
            "module.isc_a",
        ),
        Verdict::Fail,
    );
    if iz.is_none() && known {
        check.verdict = Verdict::Fail;
        check.missing.clear();
        check.reason("Beyond the table: this cable is not allowed so.");
    } else if let Some(margin) = check.margin {
        check.reason(format!("{} short.", said(-margin, Unit::A)));
    }
    if let Some(device) = x.device_a {
        let verdict = match i_max {
            Some(i) if below(device, i) => Verdict::Fail,
            Some(_) => Verdict::Pass,
            None => Verdict::Unknown,
        };
        let check = sheet.judge(&OCPD, verdict);
        if i_max.is_none() {
            check.missing = vec!["inverter.ac_a".to_owned()];
        }
        check.reason(format!(
            "{} is below the current of the circuit, {}: it trips in full sun.",
            said(device, Unit::A),
            said(i_max.unwrap_or(0.0), Unit::A)
        ));
    }
}

fn capacity(sheet: &mut Sheet, x: &ConductorIec) -> Option<f64> {
    let in_air =
        x.cable == Cable::Solar && !matches!(x.install, Install::MethodB | Install::MethodC);
    let insulation = if x.cable == Cable::Solar { "xlpe90" } else { x.cable.key() };
    let f_temp = x.ambient_c.and_then(|t| {
        if in_air {
            tables::solar_ambient_factor(t)
        } else {
            tables::iec_ambient_factor(insulation, t)
        }
    });
    let circuits = x.circuits_n.unwrap_or(1);
    let f_group = tables::group_factor(circuits);
    sheet.figure(&F_TEMP, |w| {
        w.need::<Celsius>("ambient", x.ambient_c, "site.t_max_c", "site and place")?;
        if f_temp.is_none() {
            w.note("Past the end of the table: not allowed.");
        }
        f_temp.map(|f| {
            w.given("factor for heat", Ratio(f), if in_air { "EN 50618" } else { "IEC 60364-5-52" })
        })
    });
    sheet.figure(&F_GROUP, |w| {
        w.given("circuits together", Ratio(f64::from(circuits)), "raceway");
        if f_group.is_none() {
            w.note("More than twenty circuits: past the end of the table.");
        }
        f_group.map(|f| w.given("factor for grouping", Ratio(f), "IEC 60364-5-52"))
    });
    let table = x.mm2.and_then(|mm2| match x.install {
        Install::MethodB => tables::iec_cable(insulation, mm2).map(|c| c.method_b_a),
        Install::MethodC => tables::iec_cable(insulation, mm2).map(|c| c.method_c_a),
        Install::FreeAir if in_air => tables::solar_cable(mm2).map(|c| c.free_air_a),
        Install::OnSurface if in_air => tables::solar_cable(mm2).map(|c| c.on_surface_a),
        Install::TwoTouching if in_air => tables::solar_cable(mm2).map(|c| c.two_touching_a),
        _ => None,
    });
    sheet.figure(&IZ, |w| {
        let row = match x.mm2 {
            None => w.need::<Amps>("table", None, "wire.mm2", ""),
            Some(mm2) => table.map(|a| {
                w.given(
                    "table",
                    Amps(a),
                    format!("{mm2} mm², {}", if in_air { "EN 50618" } else { "IEC 60364-5-52" }),
                )
            }),
        };
        if x.ambient_c.is_none() {
            w.need::<Celsius>("ambient", None, "site.t_max_c", "");
        }
        let f_temp = f_temp.map(|f| w.given("f_temp", Ratio(f), "circuit.f_temp"));
        let f_group = f_group.map(|f| w.given("f_group", Ratio(f), "circuit.f_group"));
        let three = x.loaded_n == Some(3) && !in_air;
        let product = row? * f_temp? * f_group?;
        Some(if three {
            product * w.given("three loaded", Ratio(0.87), "IEC 60364-5-52")
        } else {
            product
        })
    })
}
