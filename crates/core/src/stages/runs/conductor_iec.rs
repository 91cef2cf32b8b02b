//! An IEC cable in one place: table value, heat, grouping, against the device or the current.

use serde::Deserialize;

use super::{F_TEMP, I_DESIGN, I_MAX, INSTALLED};
use crate::figure::{Bound, Field, Handle, Sheet, Value, Verdict, said};
use crate::figures;
use crate::job::{Cable, CircuitKind};
use crate::quantity::{Amps, Celsius, Ratio, Unit, below};
use crate::tables;
use crate::traced::exact;

figures! { Runs;
    /// What I_z must reach.
    NEED: Amps = "circuit.need_a", "Amps the cable must carry", iec "IEC 60364-4-43, IEC 62548";
    /// Grouping factor.
    F_GROUP: Ratio = "circuit.f_group", "Factor for grouping", iec "IEC 60364-5-52";
    /// Current-carrying capacity.
    IZ: Amps = "circuit.iz_a", "Current-carrying capacity", iec "IEC 60364-5-52, EN 50618";
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
    /// A1: wires in conduit in an insulated wall.
    MethodA1,
    /// A2: multicore cable in conduit in an insulated wall.
    MethodA2,
    /// B1: wires in conduit on a wall.
    #[default]
    MethodB1,
    /// B2: multicore cable in conduit on a wall.
    MethodB2,
    /// C: clipped to a surface.
    MethodC,
    /// Wholly in thermal insulation for more than half a metre: half of C.
    InInsulation,
}

impl Install {
    fn in_air(self) -> bool {
        matches!(self, Install::FreeAir | Install::OnSurface | Install::TwoTouching)
    }

    /// What the table's amps are of.
    fn title(self) -> &'static str {
        match self {
            Install::FreeAir => "free in air",
            Install::OnSurface => "on a surface",
            Install::TwoTouching => "two touching on a surface",
            Install::MethodA1 => "method A1",
            Install::MethodA2 => "method A2",
            Install::MethodB1 => "method B1",
            Install::MethodB2 => "method B2",
            Install::MethodC | Install::InInsulation => "method C",
        }
    }
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
    /// What is missing for the device where one has to be there.
    #[serde(skip)]
    pub device_open: Option<Field>,
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
    /// Rated output of the optimizers that feed it, A; it takes the place of the module's Isc.
    #[serde(skip)]
    pub optimizer_a: Option<Option<f64>>,
}

/// Figures and checks of a cable; gives what it carries.
pub fn conductor_iec(sheet: &mut Sheet, x: &ConductorIec) -> Handle<Amps> {
    let p = x.p.unwrap_or(1);
    let i_max = sheet.figure(&I_MAX, |w| {
        if let Some(rated) = x.optimizer_a {
            let of_sheet = "optimizer data sheet";
            return w.need("rated output", rated, "optimizer.out_a_max_a", of_sheet);
        }
        if !x.kind.is_dc() {
            return w.need("rated output", x.rated_a, "inverter.ac_a", "inverter data sheet");
        }
        let carried = if x.kind == CircuitKind::PvOutput { p } else { 1 };
        let p = w.given("p", Ratio(f64::from(carried)), "strings on this cable");
        let isc = w.need::<Amps>("Isc", x.isc_a, "module.isc_a", "module data sheet")?;
        let gain = w.given("gain", Ratio(x.bifacial_gain.unwrap_or(0.0)), "bifacial gain");
        Some(exact::<Ratio>(1.25) * p * isc * (exact::<Ratio>(1.0) + gain))
    });
    sheet.figure(&I_DESIGN, |w| w.take("i_max", &i_max));
    let need = sheet.figure(&NEED, |w| {
        if let Some(device) = x.device_a {
            return Some(w.given("protective device", Amps(device), "job"));
        }
        if let Some(open) = x.device_open {
            w.lack(open);
            return None;
        }
        let i = w.take("i_max", &i_max)?;
        if x.kind == CircuitKind::PvString {
            let p = w.given("p", Ratio(f64::from(p)), "strings in parallel");
            Some(i * exact::<Ratio>(1.0).max(p - exact(1.0)))
        } else {
            Some(i)
        }
    });
    let iz = capacity(sheet, x);
    let title = if x.device_a.is_some() { "protective device" } else { "amps needed" };
    let check = sheet.hold(&iz, Bound::at_least(&need, title), Verdict::Fail);
    if iz.value().is_none() && x.mm2.is_some() && x.ambient_c.is_some() {
        check.verdict = Verdict::Fail;
        check.missing.clear();
        check.reason("Beyond the table: this cable is not allowed so.");
    } else {
        check.beyond(|short| format!("{short} short."));
    }
    if let Some(device) = x.device_a {
        device_check(sheet, device, &i_max);
    }
    iz
}

/// The device that is planned, against the current of the circuit.
fn device_check(sheet: &mut Sheet, device: f64, i_max: &Handle<Amps>) {
    let verdict = match i_max.value() {
        Some(i) if below(device, i) => Verdict::Fail,
        Some(_) => Verdict::Pass,
        None => Verdict::Unknown,
    };
    sheet.figure(&super::DEVICE, |w| Some(w.given("device", Amps(device), "job")));
    let check = sheet.judge(&INSTALLED, verdict).misses(i_max.missing().to_vec());
    check.figure = super::DEVICE.id;
    check.reason(format_args!(
        "{} is below the current of the circuit, {}: it trips in full sun.",
        said(device, Unit::A),
        said(i_max.value().unwrap_or(0.0), Unit::A)
    ));
}

/// The first section of the cable that holds every check, by trying them upward; its figures are on
/// the sheet. Without one: those of the last tried.
pub fn smallest_cable(sheet: &mut Sheet, x: &ConductorIec) {
    if x.mm2.is_some() {
        conductor_iec(sheet, x);
        return;
    }
    let sections: Vec<f64> = if x.cable == Cable::Solar {
        tables::SOLAR_CABLES.iter().map(|c| c.mm2).collect()
    } else {
        let own = tables::IEC_CABLES.iter();
        let own = own.filter(|c| c.insulation == x.cable.key() && c.loaded_n == 2);
        own.map(|c| c.mm2).collect()
    };
    let with = |mm2: &f64| ConductorIec { mm2: Some(*mm2), ..x.clone() };
    let holds = |mm2: &&f64| {
        let mut trial = sheet.trial();
        conductor_iec(&mut trial, &with(mm2));
        trial.holds()
    };
    let smallest = sections.iter().find(holds);
    // What is missing is said by the figures; no section is tried for want of it.
    let known = match x.kind.is_dc() {
        true => x.isc_a.is_some(),
        false => x.rated_a.is_some(),
    };
    let Some(tried) = smallest.or(sections.last()) else {
        conductor_iec(sheet, x);
        return;
    };
    conductor_iec(sheet, &with(tried));
    sheet.size(&super::SIZE_MIN, Unit::Mm2, |w| {
        if !known {
            w.lack(if x.kind.is_dc() { "module.isc_a" } else { "inverter.ac_a" });
        }
        if x.ambient_c.is_none() {
            w.lack("site.t_max_c");
        }
        if known && smallest.is_none() {
            w.note("No section of the table passes.");
        }
        let mm2 = *smallest?;
        w.given("first section that holds, mm²", Ratio(mm2), "tried upward");
        Some(Value::Number(mm2))
    });
}

fn capacity(sheet: &mut Sheet, x: &ConductorIec) -> Handle<Amps> {
    // Other cables have no table in air.
    let in_air = x.cable == Cable::Solar && x.install.in_air();
    let insulation = if x.cable == Cable::Solar { "xlpe90" } else { x.cable.key() };
    let by_ambient = |t: f64| {
        if in_air {
            tables::solar_ambient_factor(t)
        } else {
            tables::iec_ambient_factor(insulation, t)
        }
    };
    let rule = if in_air { "EN 50618" } else { "IEC 60364-5-52" };
    let circuits = x.circuits_n.unwrap_or(1);
    let f_temp = sheet.figure(&F_TEMP, |w| {
        let t = w.need::<Celsius>("ambient", x.ambient_c, "site.t_max_c", "site and place")?;
        let factor = by_ambient(t.value.0);
        if factor.is_none() {
            w.note("Past the end of the table: not allowed.");
        }
        factor.map(|f| w.given("factor for heat", Ratio(f), rule))
    });
    let f_group = sheet.figure(&F_GROUP, |w| {
        w.given("circuits together", Ratio(f64::from(circuits)), "raceway");
        let factor = tables::group_factor(circuits);
        if factor.is_none() {
            w.note("More than twenty circuits: past the end of the table.");
        }
        factor.map(|f| w.given("factor for grouping", Ratio(f), "IEC 60364-5-52"))
    });
    let loaded = x.loaded_n.unwrap_or(2);
    let row = |mm2: f64| tables::iec_cable(insulation, mm2, loaded);
    let in_air_row = |mm2: f64| tables::solar_cable(mm2).filter(|_| in_air);
    let table = |mm2: f64| match x.install {
        Install::FreeAir => in_air_row(mm2).map(|c| c.free_air_a),
        Install::OnSurface => in_air_row(mm2).map(|c| c.on_surface_a),
        Install::TwoTouching => in_air_row(mm2).map(|c| c.two_touching_a),
        Install::MethodA1 => row(mm2).map(|c| c.method_a1_a),
        Install::MethodA2 => row(mm2).map(|c| c.method_a2_a),
        Install::MethodB1 => row(mm2).map(|c| c.method_b1_a),
        Install::MethodB2 => row(mm2).map(|c| c.method_b2_a),
        Install::MethodC | Install::InInsulation => row(mm2).map(|c| c.method_c_a),
    };
    sheet.figure(&IZ, |w| {
        let row = match x.mm2 {
            None => w.need::<Amps>("table", None, "wire.mm2", ""),
            Some(mm2) => {
                let how = format_args!("{mm2} mm², {}, {loaded} loaded, {rule}", x.install.title());
                table(mm2).map(|a| w.given("table", Amps(a), how))
            }
        };
        let f_temp = w.take("f_temp", &f_temp);
        let f_group = w.take("f_group", &f_group);
        let product = row? * f_temp? * f_group?;
        Some(if x.install == Install::InInsulation {
            product * w.given("wholly in insulation", Ratio(0.5), "IEC 60364-5-52, 523.9")
        } else {
            product
        })
    })
}
