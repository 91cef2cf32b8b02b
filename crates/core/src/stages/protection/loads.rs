//! A dwelling's load by the optional method (220.82): floor, circuits and nameplates, the first
//! 10 kVA whole and 40 % of the rest, and the larger of cooling and heating.

use crate::figure::{Handle, Sheet};
use crate::figures;
use crate::job::LoadSheet;
use crate::quantity::{Amps, Ratio, VoltAmperes, Volts};
use crate::traced::{exact, sum};

figures! { Protection;
    /// Floor, circuits and appliances as they are.
    GENERAL: VoltAmperes = "panel.general_va", "General loads", na "220.82(B)";
    /// With their demand.
    LOAD_VA: VoltAmperes = "panel.load_va", "Calculated load", na "220.82";
    /// The same at the service's volts.
    LOAD: Amps = "panel.load_calculated_a", "Calculated load", na "220.82";
}

/// For each square metre of floor, VA (220.82(B)(1)).
const FLOOR_VA_M2: f64 = 33.0;
/// For each small-appliance or laundry circuit, VA (220.82(B)(2)).
const CIRCUIT_VA: f64 = 1500.0;
/// What counts whole, VA.
const WHOLE_VA: f64 = 10_000.0;
/// Share of what is above.
const ABOVE: f64 = 0.4;
/// Share of central electric heating (220.82(C)).
const HEATING: f64 = 0.65;
/// Volts of the service where nobody said.
const VOLTS_V: f64 = 240.0;

/// The load of a dwelling, appliance by appliance.
pub fn load_sheet(sheet: &mut Sheet, x: &LoadSheet) {
    load(sheet, x);
}

/// As [`load_sheet`]; gives the amps.
pub(super) fn load(sheet: &mut Sheet, x: &LoadSheet) -> Handle<Amps> {
    let general = sheet.figure(&GENERAL, |w| {
        let floor = w.need::<Ratio>("floor, m²", x.floor_m2, "panel.loads.floor_m2", "job");
        let va = w.given("for each m²", VoltAmperes(FLOOR_VA_M2), "220.82(B)(1)");
        let floor = floor.map(|m2| w.step("by floor", m2 * va));
        let circuits = w.need::<Ratio>(
            "circuits",
            x.small_circuits_n.map(f64::from),
            "panel.loads.small_circuits_n",
            "job",
        );
        let each = w.given("for each circuit", VoltAmperes(CIRCUIT_VA), "220.82(B)(2)");
        let circuits = circuits.map(|n| w.step("small appliances and laundry", n * each));
        let mut all = vec![floor, circuits];
        for a in &x.appliances {
            all.push(Some(w.given(&a.name, VoltAmperes(a.va), "nameplate")));
        }
        sum(all)
    });
    let all = sheet.figure(&LOAD_VA, |w| {
        let general = w.take("general", &general)?;
        let whole = exact::<VoltAmperes>(WHOLE_VA);
        let counted = if general.value.0 > WHOLE_VA {
            let rest = w.step("above 10 kVA", general - whole.clone());
            w.step("with its demand", whole + exact::<Ratio>(ABOVE) * rest)
        } else {
            general
        };
        let cooling =
            w.need::<VoltAmperes>("cooling", x.cooling_va, "panel.loads.cooling_va", "nameplate");
        let heating =
            w.need::<VoltAmperes>("heating", x.heating_va, "panel.loads.heating_va", "nameplate");
        let heating = heating.map(|va| w.step("65 % of it", exact::<Ratio>(HEATING) * va));
        let larger = w.step("the larger", cooling?.max(heating?));
        Some(counted + larger)
    });
    sheet.figure(&LOAD, |w| {
        let va = w.take("load", &all)?;
        let volts = w.given("service", Volts(x.volts_v.unwrap_or(VOLTS_V)), "job");
        Some(va / volts)
    })
}
