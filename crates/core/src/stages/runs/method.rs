//! Whether a wiring method is allowed in a place (na; 690.31 and the articles of the methods).

use serde::Deserialize;

use super::carried::Carried;
use super::raceway::{self, Earth};
use crate::figure::{Check, Sheet, Value, Verdict, Wording, said};
use crate::figures;
use crate::job::{
    Command, Insulation, Leg, Method, Part, Place, RacewayChoice, RacewayKind, Way, WayKey,
    WireChoice,
};
use crate::plan::indoors;
use crate::quantity::Unit;
use crate::school::School;
use crate::tables;

figures! { Runs;
    /// `yes`, `no`, or the condition.
    METHOD_ALLOWED: Size = "segment.method_allowed",
        "Wiring method allowed there", na "690.31, 300.9, 330.10, 334.12";
    /// Insulation against the wet.
    WET: Rule = "segment.insulation_wet", "Insulation for the place", na "310.10, 300.9";
    /// Conductors that lie open.
    OPEN_CONDUCTOR: Rule = "segment.method_open", "Open conductors", na "690.31(C)";
}

/// A wiring method of the table `wiring_methods`.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum WiringMethod {
    /// Electrical metallic tubing.
    Emt,
    /// Rigid metal conduit.
    Rmc,
    /// Intermediate metal conduit.
    Imc,
    /// Flexible metal conduit.
    Fmc,
    /// Liquidtight flexible metal conduit.
    Lfmc,
    /// Rigid PVC conduit, schedule 40.
    Pvc40,
    /// Rigid PVC conduit, schedule 80.
    Pvc80,
    /// Metal-clad cable.
    McCable,
    /// Nonmetallic-sheathed cable.
    NmCable,
    /// Single-conductor PV wire, open.
    PvWireOpen,
    /// Trunk cable of microinverters.
    TrunkCable,
}

impl WiringMethod {
    /// Key in the table.
    pub fn key(self) -> &'static str {
        match self {
            WiringMethod::Emt => "emt",
            WiringMethod::Rmc => "rmc",
            WiringMethod::Imc => "imc",
            WiringMethod::Fmc => "fmc",
            WiringMethod::Lfmc => "lfmc",
            WiringMethod::Pvc40 => "pvc40",
            WiringMethod::Pvc80 => "pvc80",
            WiringMethod::McCable => "mc_cable",
            WiringMethod::NmCable => "nm_cable",
            WiringMethod::PvWireOpen => "pv_wire_open",
            WiringMethod::TrunkCable => "trunk_cable",
        }
    }

    /// Whether it belongs to the array alone (690.31(C)).
    fn of_the_array(self) -> bool {
        matches!(self, WiringMethod::PvWireOpen | WiringMethod::TrunkCable)
    }
}

/// DC or AC.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Current {
    /// Direct current.
    Dc,
    /// Alternating current.
    Ac,
}

/// A method in a place.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MethodInputs {
    /// The method.
    pub method: WiringMethod,
    /// The place.
    pub place: Place,
    /// What it carries.
    pub current: Current,
}

/// What the table says of a method in a place: `yes`, `no`, or the conditions.
pub fn method_allowed(x: MethodInputs) -> String {
    if x.method.of_the_array() {
        let on_the_array =
            matches!(x.place, Place::UnderModules | Place::RoofSun | Place::RoofShade);
        return if on_the_array { "yes" } else { "no" }.to_owned();
    }
    let row = tables::wiring_method(x.method.key()).expect("every method has its row");
    let place = tables::place(x.place.key()).expect("every place has its row");
    let mut answers: Vec<&str> = Vec::new();
    if place.indoors == "yes" {
        answers.push(match x.current {
            Current::Dc => &row.dc_indoors,
            Current::Ac => &row.ac_indoors,
        });
    }
    match place.wet.as_str() {
        "wet" => answers.push(&row.wet),
        "damp" => answers.push(&row.damp),
        _ => {}
    }
    if x.place == Place::RoofSun {
        answers.push(&row.sunlit_roof);
    }
    if answers.contains(&"no") {
        return "no".to_owned();
    }
    let mut conditions: Vec<&str> = Vec::new();
    for answer in answers.into_iter().filter(|a| *a != "yes") {
        if !conditions.contains(&answer) {
            conditions.push(answer);
        }
    }
    if conditions.is_empty() { "yes".to_owned() } else { conditions.join("; ") }
}

/// The method a part of a way is, with a wire in it; none where nobody said which cable it is.
fn method_of(part: &Part, wire: &WireChoice) -> Option<WiringMethod> {
    let sheathed = wire.insulation == Insulation::Nm;
    Some(match (part.method, &part.raceway) {
        (_, Some(raceway)) => match raceway.kind {
            RacewayKind::Emt => WiringMethod::Emt,
            RacewayKind::Rmc => WiringMethod::Rmc,
            RacewayKind::Imc => WiringMethod::Imc,
            RacewayKind::Fmc => WiringMethod::Fmc,
            RacewayKind::Lfmc => WiringMethod::Lfmc,
            RacewayKind::Pvc40 => WiringMethod::Pvc40,
            RacewayKind::Pvc80 => WiringMethod::Pvc80,
            RacewayKind::Medium | RacewayKind::Heavy => return None,
        },
        (Method::FreeAir, None) => WiringMethod::PvWireOpen,
        (Method::Cable, None) if sheathed => WiringMethod::NmCable,
        (Method::Cable, None) => WiringMethod::McCable,
        (Method::Raceway, None) => return None,
    })
}

/// Whether what lies in a part of a way may lie there: the method, and each wire's insulation (na).
pub(super) fn in_part(
    sheet: &mut Sheet,
    (key, way, k): (&WayKey, &Way, usize),
    inside: &[(Carried, &Leg)],
    earth: Earth,
) {
    let part = &way.parts[k];
    let Some(place) = part.place.filter(|_| sheet.school == School::Na) else { return };
    let mut judged: Vec<(WiringMethod, Current)> = Vec::new();
    let mut dry: Vec<Insulation> = Vec::new();
    for (c, leg) in inside.iter().filter(|(c, _)| c.circuit.kind.is_power()) {
        let current = if c.is_dc() { Current::Dc } else { Current::Ac };
        let open = part.method == Method::FreeAir && part.raceway.is_none();
        let insulation = leg.wire.insulation;
        if !open || matches!(insulation, Insulation::Pv | Insulation::Use2) {
            let own = method_of(part, &leg.wire).map(|m| (m, current));
            if let Some(own) = own.filter(|own| !judged.contains(own)) {
                judged.push(own);
                let x = MethodInputs { method: own.0, place, current };
                let word = method(sheet, x);
                let check = judge(sheet, x, word.text().unwrap_or_default(), part.listed);
                if check.verdict == Verdict::Fail {
                    let cure = changed_over(sheet, (key, way, k), place, inside, earth);
                    if let (Some((text, command)), Some(check)) = (cure, sheet.checks.last_mut()) {
                        check.cures.clear();
                        check.cure_by(text, command);
                    }
                }
            }
        } else if !dry.contains(&insulation) {
            // Only PV wire and the like may lie open, and only at the array.
            dry.push(insulation);
            sheet
                .judge(&OPEN_CONDUCTOR, Verdict::Fail)
                .reason("This wire may not lie open: only PV wire may, and only at the array.")
                .cure("A raceway, or PV wire as far as the array goes.", Vec::new());
        }
        wet(sheet, part, place, insulation, &mut dry);
    }
}

/// What the table allows only where the method is listed or marked so is open until that is said.
fn judge<'s>(sheet: &'s mut Sheet, x: MethodInputs, word: &str, listed: Option<bool>) -> &'s Check {
    let verdict = match (word, listed) {
        ("no", _) => Verdict::Fail,
        (word, listed) if word.contains("if ") => match listed {
            Some(true) => Verdict::Pass,
            Some(false) => Verdict::Fail,
            None => Verdict::Unknown,
        },
        _ => Verdict::Pass,
    };
    let name = x.method.key().to_uppercase().replace('_', " ");
    let dc_in_metal = x.current == Current::Dc && indoors(x.place);
    sheet
        .judge(&METHOD_ALLOWED, verdict)
        .misses(["way.parts.listed"])
        .because(|| {
            if word != "no" {
                format!("{name}: {word}.")
            } else if dc_in_metal {
                format!("{name}: DC inside a building lies in metal raceway or metal-clad cable.")
            } else {
                format!("{name} is not for this place.")
            }
        })
        .cure(
            if dc_in_metal {
                "Metal raceway or metal-clad cable here (690.31(D))."
            } else {
                "Change over in a box to a method that may be there: metal or PVC raceway with wet \
                 fittings outside."
            },
            Vec::new(),
        )
}

/// The raceway that may lie in a part with all that is in it, the smallest that holds it, and what
/// a change over to it takes.
fn changed_over(
    sheet: &Sheet,
    (key, way, k): (&WayKey, &Way, usize),
    place: Place,
    inside: &[(Carried, &Leg)],
    earth: Earth,
) -> Option<(String, Command)> {
    let power = || inside.iter().filter(|(c, _)| c.circuit.kind.is_power());
    let may = |method: WiringMethod| {
        power().all(|(c, _)| {
            let current = if c.is_dc() { Current::Dc } else { Current::Ac };
            let word = method_allowed(MethodInputs { method, place, current });
            word != "no" && !word.contains("if ")
        })
    };
    let kinds = [
        (WiringMethod::Emt, RacewayKind::Emt),
        (WiringMethod::Pvc80, RacewayKind::Pvc80),
        (WiringMethod::Rmc, RacewayKind::Rmc),
        (WiringMethod::Lfmc, RacewayKind::Lfmc),
    ];
    let (_, kind) = kinds.into_iter().find(|(method, _)| may(*method))?;
    let size = raceway::smallest(sheet, kind, inside, earth)?;
    let part = &way.parts[k];
    let boxes = usize::from(k > 0) + usize::from(k + 1 < way.parts.len());
    let name = format!("{} {size}", kind.key().to_uppercase());
    let length = part.length_m.map_or("a length".to_owned(), |m| said(m, Unit::M).to_string());
    let boxed = match boxes {
        0 => String::new(),
        1 => " in a box".to_owned(),
        n => format!(" in {n} boxes"),
    };
    let text = format!(
        "Change over{boxed} to {name}: {length} of it, 2 connectors, wet fittings outside."
    );
    let raceway = RacewayChoice { kind, size };
    Some((text, Command::ChangeOver { way: key.clone(), part: k, raceway }))
}

/// Insulation that is only for dry places.
fn wet(
    sheet: &mut Sheet,
    part: &Part,
    place: Place,
    insulation: Insulation,
    seen: &mut Vec<Insulation>,
) {
    let row = tables::place(place.key()).expect("every place has its row");
    let bad = match insulation {
        Insulation::Thhn => row.wet == "wet",
        Insulation::Nm => row.wet != "dry",
        _ => false,
    };
    if insulation == Insulation::Use2 && row.indoors == "yes" && !seen.contains(&insulation) {
        seen.push(insulation);
        sheet
            .judge(&WET, Verdict::Fail)
            .reason("USE-2 without another marking is not for the inside of a building (338.12).")
            .cure("THWN-2, XHHW-2 or PV wire from the wall on.", Vec::new());
        return;
    }
    if !bad || seen.contains(&insulation) {
        return;
    }
    seen.push(insulation);
    let inside = if part.raceway.is_some() { ", inside a raceway too (300.9)" } else { "" };
    let name = if insulation == Insulation::Nm { "Nonmetallic-sheathed cable" } else { "THHN" };
    sheet
        .judge(&WET, Verdict::Fail)
        .reason(format_args!("{name} is not for {} places{inside}.", row.wet))
        .cure("THWN-2 or XHHW-2.", Vec::new());
}

/// The figure of a method in a place.
pub fn method(sheet: &mut Sheet, x: MethodInputs) -> Wording {
    sheet.size(&METHOD_ALLOWED, Unit::None, |w| {
        w.words("method", x.method.key(), "job");
        w.words("place", x.place.key(), "job");
        Some(Value::Text(method_allowed(x)))
    })
}
