//! A raceway of a way: how full it is with every wire of every circuit in it, and the cut through
//! it.

use super::assumptions::DIAMETERS;
use super::carried::Carried;
use super::fill::FILL;
use super::{CutWire, FillInputs, FillWire, RacewayCut, WireRole, arrange, fill};
use crate::figure::Sheet;
use crate::job::{
    Circuit, CircuitKind, Edit, Insulation, InverterKey, Job, Leg, Letter, Material, RacewayChoice,
    RacewayKind, Way, WayKey, WireChoice,
};
use crate::library::Library;
use crate::quantity::{MM_PER_INCH, below};
use crate::school::School;
use crate::tables;

/// One of the wires in a raceway.
pub(super) struct Wire {
    string: Option<Letter>,
    role: WireRole,
    /// Its kind, size and diameter.
    pub(super) fill: FillWire,
    /// Its metal.
    pub(super) material: Material,
}

/// The earth wire of a way.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Earth<'s> {
    /// None is needed: nothing in the way carries power.
    None,
    /// Its size is not known yet.
    Open,
    /// Its size as it is written.
    Sized(&'s str),
}

impl<'s> Earth<'s> {
    /// Of a size that may be open.
    pub(super) fn of(size: Option<&'s str>) -> Self {
        size.map_or(Earth::Open, Earth::Sized)
    }
}

/// What the wires of a circuit are.
pub(super) fn roles(c: &Carried) -> Vec<WireRole> {
    of_circuit(c.job.school, c.circuit, c.three_phase())
}

/// What the conductors of a circuit of the job are, as far as its data sheets tell its phases.
pub(crate) fn conductors(job: &Job, library: &Library, circuit: &Circuit) -> Vec<WireRole> {
    let own = |id: &InverterKey| circuit.from.inverter.as_ref().is_none_or(|from| from == id);
    let mut inverters = job.inverters.iter().filter(|i| own(&i.id));
    let three = inverters.any(|i| library.inverter(&i.sheet).is_some_and(|s| s.three_phase));
    of_circuit(job.school, circuit, three)
}

fn of_circuit(school: School, circuit: &Circuit, three_phase: bool) -> Vec<WireRole> {
    match circuit.kind {
        CircuitKind::PvString | CircuitKind::PvOutput => vec![WireRole::Plus, WireRole::Minus],
        CircuitKind::Bond => vec![WireRole::Earth],
        CircuitKind::Control => vec![WireRole::Control],
        CircuitKind::InverterOut | CircuitKind::MicroBranch | CircuitKind::AcFeeder => {
            // One line and the neutral is the IEC single-phase circuit; two lines the North
            // American one.
            let single_iec = school == School::Iec && !three_phase;
            let lines = if three_phase { 3 } else { 2 - usize::from(single_iec) };
            let neutral = usize::from(circuit.neutral || single_iec);
            let line = std::iter::repeat_n(WireRole::Line, lines);
            line.chain(std::iter::repeat_n(WireRole::Neutral, neutral)).collect()
        }
    }
}

/// Kind of a wire in the fill tables.
fn kind(school: School, wire: &WireChoice) -> &'static str {
    match (school, wire.insulation) {
        (School::Iec, _) => wire.cable.key(),
        (School::Na, Insulation::Xhhw2) => "xhhw",
        (School::Na, Insulation::Pv | Insulation::Use2) => "pv",
        (School::Na, _) => "thhn",
    }
}

/// The wires of a circuit; none where its size is open.
fn wires(c: &Carried, leg: &Leg) -> Option<Vec<Wire>> {
    let school = c.job.school;
    let size = leg.wire.size(school);
    let mut fill = a_wire(school, kind(school, &leg.wire), &size?);
    fill.od_mm = leg.wire.od_mm.filter(|_| school == School::Iec);
    fill.od_in = leg.wire.od_mm.filter(|_| school == School::Na).map(|mm| mm / MM_PER_INCH);
    let material = leg.wire.material;
    let single = c.circuit.kind == CircuitKind::PvString;
    let string = c.strings.first().filter(|_| single).map(|(s, _)| s.letter.clone());
    let wire = |role| Wire { string: string.clone(), role, fill: fill.clone(), material };
    Some(roles(c).into_iter().map(wire).collect())
}

fn a_wire(school: School, kind: &str, size: &str) -> FillWire {
    FillWire {
        kind: kind.to_owned(),
        size: (school == School::Na).then(|| size.to_owned()),
        mm2: if school == School::Iec { size.parse().ok() } else { None },
        n: 1,
        od_in: None,
        od_mm: None,
    }
}

/// The largest of several sizes as they are written.
pub(crate) fn largest(school: School, sizes: &[String]) -> Option<String> {
    let rank = |size: &String| match school {
        School::Na => tables::wire(size).map_or(0.0, |w| w.cmil),
        School::Iec => size.parse().unwrap_or(0.0),
    };
    sizes.iter().max_by(|a, b| rank(a).total_cmp(&rank(b))).cloned()
}

/// Wires of one kind and size together.
fn counted(wires: &[Wire]) -> Vec<FillWire> {
    let mut counted: Vec<FillWire> = Vec::new();
    for wire in wires {
        let same = |w: &&mut FillWire| {
            let (a, b) = (w, &wire.fill);
            (&a.kind, &a.size, a.mm2, a.od_in, a.od_mm)
                == (&b.kind, &b.size, b.mm2, b.od_in, b.od_mm)
        };
        match counted.iter_mut().find(same) {
            Some(own) => own.n += 1,
            None => counted.push(wire.fill.clone()),
        }
    }
    counted
}

/// Every wire that lies in a way, the earth wire too; none where a size is open.
pub(super) fn all_wires(inside: &[(Carried, &Leg)], earth: Earth) -> Option<Vec<Wire>> {
    let (first, _) = inside.first()?;
    let school = first.job.school;
    let each: Option<Vec<Vec<Wire>>> = inside.iter().map(|(c, leg)| wires(c, leg)).collect();
    let mut wires: Vec<Wire> = each?.into_iter().flatten().collect();
    let earth_kind = if school == School::Na { "thhn" } else { "pvc70" };
    match earth {
        Earth::Open => return None,
        Earth::None => {}
        Earth::Sized(size) => {
            let fill = a_wire(school, earth_kind, size);
            let material = Material::default();
            wires.push(Wire { string: None, role: WireRole::Earth, fill, material });
        }
    }
    Some(wires)
}

/// The smallest raceway of a kind that holds all that lies in a way.
pub(super) fn smallest(
    sheet: &Sheet,
    kind: RacewayKind,
    inside: &[(Carried, &Leg)],
    earth: Earth,
) -> Option<String> {
    let wires = counted(&all_wires(inside, earth)?);
    let (trade, size_mm, length_in, limit_pct, jam_od_in) = (None, None, None, None, None);
    let x = FillInputs { kind, trade, size_mm, wires, length_in, limit_pct, jam_od_in };
    fill(&mut sheet.trial(), &x).smallest
}

/// Diameter of three wires alike that lie in a raceway with none as thick, in: they can wedge.
fn three_alike_in(school: School, wires: &[FillWire]) -> Option<f64> {
    let each: Option<Vec<(f64, u32)>> =
        wires.iter().map(|w| Some((w.diameter_mm(school)?, w.n))).collect();
    let each = each?;
    let most = each.iter().map(|(d, _)| *d).reduce(f64::max)?;
    let n: u32 = each.iter().filter(|(d, _)| !below(*d, most)).map(|(_, n)| n).sum();
    (n == 3).then_some(most / MM_PER_INCH)
}

/// The raceway of part `k`: its fill, and its cut where every diameter is known.
pub(super) fn one(
    sheet: &mut Sheet,
    way: &Way,
    key: &WayKey,
    k: usize,
    raceway: &RacewayChoice,
    inside: &[(Carried, &Leg)],
    earth: Earth,
) -> Option<RacewayCut> {
    let (first, _) = inside.first()?;
    let school = first.job.school;
    let size_field = school.wire_field();
    let Some(wires) = all_wires(inside, earth) else {
        sheet.known(&FILL, [size_field]);
        return None;
    };
    let whole = first.plan.whole_m(way, |p| p.raceway.is_some());
    let inputs = FillInputs {
        kind: raceway.kind,
        trade: (school == School::Na).then(|| raceway.size.clone()),
        size_mm: if school == School::Iec { raceway.size.parse().ok() } else { None },
        jam_od_in: three_alike_in(school, &counted(&wires)),
        wires: counted(&wires),
        length_in: whole.map(|m| m * 1000.0 / MM_PER_INCH),
        limit_pct: first.job.settings.fill_limit_pct,
    };
    let measured = |w: &FillWire| w.od_in.or(w.od_mm).is_some();
    let usual = |w: &FillWire| !measured(w) && (w.kind == "pv" || school == School::Iec);
    if inputs.wires.iter().any(usual) {
        sheet.assume(&DIAMETERS);
    }
    let filled = fill(sheet, &inputs);
    if let Some(better) = filled.smallest {
        let edit = Edit::new(format!("/plan/ways/{key}/parts/{k}/raceway/size"), better.as_str());
        let text = match school {
            School::Na => format!("{} {better} holds them.", raceway.kind.key().to_uppercase()),
            School::Iec => format!("{better} mm holds them."),
        };
        filled.check.cure(text, vec![edit]);
    }
    cut(sheet, raceway, wires, school)
}

fn cut(
    sheet: &Sheet,
    raceway: &RacewayChoice,
    wires: Vec<Wire>,
    school: School,
) -> Option<RacewayCut> {
    let kind = raceway.kind.key();
    let inner_mm = match school {
        School::Na => {
            let mut rows = tables::RACEWAYS.iter();
            rows.find(|r| r.kind == kind && r.trade == raceway.size)?.id_in * MM_PER_INCH
        }
        School::Iec => {
            let mut rows = tables::CONDUITS.iter();
            rows.find(|r| r.class == kind && r.size_mm.to_string() == raceway.size)?.id_mm
        }
    };
    let laid = |wire: Wire| {
        let size = wire.fill.size.clone().or(wire.fill.mm2.map(|mm2| mm2.to_string()));
        Some(CutWire {
            diameter_mm: wire.fill.diameter_mm(school)?,
            string: wire.string,
            role: wire.role,
            size: size.unwrap_or_default(),
            x_mm: 0.0,
            y_mm: 0.0,
            fits: true,
        })
    };
    Some(RacewayCut {
        subject: sheet.subject.clone(),
        kind: kind.to_owned(),
        size: raceway.size.clone(),
        inner_mm,
        wires: arrange(inner_mm, wires.into_iter().map(laid).collect::<Option<_>>()?),
    })
}
