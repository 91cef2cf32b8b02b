//! Calculations behind the quick sums that ask for less than a job knows: the wire with the device
//! it needs, the panel with what is known of its ends.

use serde::Deserialize;

use super::ac::{AcInputs, ac};
use super::conductor_iec::{ConductorIec, Install, smallest_cable};
use super::conductor_na::{ConductorNa, SegmentNa, conductor_na};
use crate::figure::Sheet;
use crate::job::{Cable, CircuitKind, Insulation, Material, Method, Place};

/// What an inverter or a feeder puts out: amps, or watts at volts.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(default)]
struct Output {
    rated_a: Option<f64>,
    watts_w: Option<f64>,
    volts_v: Option<f64>,
    three_phase: bool,
}

impl Output {
    /// Its amps, and the next standard device; figures of an AC circuit only.
    fn of(&self, sheet: &mut Sheet, kind: CircuitKind) -> (Option<f64>, Option<f64>) {
        if kind.is_dc() {
            return (None, None);
        }
        let inputs = AcInputs {
            rated_a: self.rated_a,
            watts_w: self.watts_w,
            volts_v: self.volts_v,
            three_phase: self.three_phase,
            ..AcInputs::default()
        };
        let mut aside = sheet.trial();
        let device = ac(&mut aside, &inputs).value();
        let rated = aside.figures.iter().find(|f| f.id == super::I_OUT.id);
        (rated.and_then(|f| f.value.as_ref()?.number()), device)
    }
}

/// What the terminals are marked for.
#[derive(Clone, Copy, Debug, Deserialize)]
enum Terminals {
    #[serde(rename = "60 °C")]
    C60,
    #[serde(rename = "75 °C")]
    C75,
}

/// The smallest wire for a circuit and the device that protects it (na).
#[derive(Debug, Deserialize)]
pub(super) struct WireSum {
    kind: CircuitKind,
    isc_a: Option<f64>,
    p: Option<u32>,
    bifacial_gain: Option<f64>,
    #[serde(flatten)]
    output: Output,
    material: Material,
    insulation: Insulation,
    terminals: Option<Terminals>,
    t_max_c: Option<f64>,
    place: Place,
    method: Option<Method>,
    roof_clearance_in: Option<f64>,
    circuits_n: Option<u32>,
    ocpd_a: Option<f64>,
    size: Option<String>,
}

pub(super) fn wire(sheet: &mut Sheet, x: &WireSum) {
    let (rated_a, device) = x.output.of(sheet, x.kind);
    let each = if x.output.three_phase && !x.kind.is_dc() { 3 } else { 2 };
    let segment = SegmentNa {
        place: x.place,
        ambient_add_c: None,
        method: x.method.unwrap_or_default(),
        roof_clearance_in: x.roof_clearance_in,
        length_in: None,
        ccc_n: Some(each * x.circuits_n.unwrap_or(1).max(1)),
        circuits: None,
    };
    conductor_na(
        sheet,
        &ConductorNa {
            kind: x.kind,
            isc_a: x.isc_a,
            p: x.p,
            bifacial_gain: x.bifacial_gain,
            rated_a,
            material: x.material,
            insulation: x.insulation,
            insulation_c: None,
            terminal_c: x.terminals.map(|t| match t {
                Terminals::C60 => 60,
                Terminals::C75 => 75,
            }),
            size: x.size.clone(),
            t_max_c: x.t_max_c,
            segments: vec![segment],
            // An AC circuit has a device; without one given it is the next standard size.
            ocpd_a: x.ocpd_a.or(device),
            pick_ocpd: !x.kind.is_dc(),
            find_smallest: true,
            optimizer_a: None,
            smallest: None,
        },
    );
}

/// The smallest cable for a circuit and the device that protects it (iec).
#[derive(Debug, Deserialize)]
pub(super) struct CableSum {
    kind: CircuitKind,
    isc_a: Option<f64>,
    p: Option<u32>,
    bifacial_gain: Option<f64>,
    #[serde(flatten)]
    output: Output,
    device_a: Option<f64>,
    cable: Cable,
    install: Install,
    ambient_c: Option<f64>,
    circuits_n: Option<u32>,
    mm2: Option<f64>,
}

pub(super) fn cable(sheet: &mut Sheet, x: &CableSum) {
    let (rated_a, device) = x.output.of(sheet, x.kind);
    let three = x.output.three_phase && !x.kind.is_dc();
    smallest_cable(
        sheet,
        &ConductorIec {
            kind: x.kind,
            isc_a: x.isc_a,
            p: x.p,
            bifacial_gain: x.bifacial_gain,
            rated_a,
            device_a: x.device_a.or(device),
            device_open: None,
            mm2: x.mm2,
            cable: x.cable,
            install: x.install,
            ambient_c: x.ambient_c,
            circuits_n: x.circuits_n,
            loaded_n: Some(if three { 3 } else { 2 }),
            optimizer_a: None,
        },
    );
}
