//! What it takes to lay a way: its pulls, what holds it, earth over what is buried.

use super::assumptions::WEIGHTS;
use super::carried::Carried;
use super::pulls::one_pull;
use super::raceway::{Earth, Wire};
use super::support::{FITTING, IEC_PIECE_M, NA_PIECE_M};
use super::{SupportInputs, support};
use crate::figure::{Bound, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{Edit, Insulation, Job, Leg, Material, Method, Part, Place, Way, WayKey};
use crate::quantity::{Millimetres, NewtonsPerMetre, Ratio};
use crate::school::School;
use crate::tables;
use crate::traced::{exact, sum};

figures! { Runs;
    /// Weight of a metre of all that is pulled.
    WEIGHT: NewtonsPerMetre = "raceway.pull_w_n_per_m", "Weight of what is pulled", "wire tables";
    /// Earth over a buried part.
    COVER: Millimetres = "way.cover_mm", "Earth over it", na "300.5", iec "IEC 60364-5-52";
}

/// Standard gravity, m/s².
const G: f64 = 9.806_65;

/// kg of a metre of one mm²: copper, aluminium, plastic.
const COPPER: f64 = 8.96e-3;
const ALUMINIUM: f64 = 2.70e-3;
const PLASTIC: f64 = 1.4e-3;

/// Everything about laying a way that is not its fill.
pub(super) fn of_way(
    sheet: &mut Sheet,
    key: &WayKey,
    way: &Way,
    inside: &[(Carried, &Leg)],
    earth: Earth,
) {
    let Some((first, _)) = inside.first() else { return };
    let job = first.job;
    let mut at = 0;
    while at < way.parts.len() {
        let held = |p: &Part| {
            let buried = p.place == Some(Place::Underground);
            (buried, p.raceway.as_ref().map(|r| (r.kind, r.size.clone())))
        };
        let own = held(&way.parts[at]);
        let like = way.parts[at..].iter().take_while(|p| held(p) == own).count();
        sheet.subject = Subject::Way { way: key.clone(), part: at + 1 };
        supports(sheet, job, &way.parts[at..at + like], inside);
        at += like;
    }
    let mut at = 0;
    while at < way.parts.len() {
        let pulled = way.parts[at..].iter().take_while(|p| p.raceway.is_some()).count();
        if pulled > 0 {
            one_pull(sheet, job, (key, at), &way.parts[at..at + pulled], inside, earth);
        }
        at += pulled.max(1);
    }
    for (k, part) in way.parts.iter().enumerate() {
        if part.place == Some(Place::Underground) {
            sheet.subject = Subject::Way { way: key.clone(), part: k + 1 };
            cover(sheet, (key, k), part);
        }
    }
}

/// Metal of a wire, mm².
pub(super) fn copper_mm2(school: School, wire: &Wire) -> Option<f64> {
    match school {
        School::Na => tables::wire(wire.fill.size.as_deref()?).map(tables::Wire::section_mm2),
        School::Iec => wire.fill.mm2,
    }
}

/// Weight of a metre of all wires, N/m; none where a diameter is not known.
pub(super) fn weight(sheet: &mut Sheet, wires: &[Wire]) -> Option<f64> {
    let school = sheet.school;
    sheet.assume(&WEIGHTS);
    let weight = sheet.figure(&WEIGHT, |w| {
        let mut each: Vec<(f64, f64, f64, u32)> = Vec::new();
        for wire in wires {
            let metal = copper_mm2(school, wire)?;
            let od = wire.fill.diameter_mm(school)?;
            let kg = if wire.material == Material::Al { ALUMINIUM } else { COPPER };
            let own = (metal, od, kg);
            match each.iter_mut().find(|(m, o, k, _)| (*m, *o, *k) == own) {
                Some((.., n)) => *n += 1,
                None => each.push((metal, od, kg, 1)),
            }
        }
        sum(each.into_iter().map(|(metal, od, kg, n)| {
            let plastic = (std::f64::consts::PI / 4.0 * od * od - metal).max(0.0);
            let one = G * (metal * kg + plastic * PLASTIC);
            let label = format_args!("{metal:.2} mm² in {od:.2} mm, each");
            let one = w.given(label, NewtonsPerMetre(one), "metal and plastic");
            Some(exact::<Ratio>(f64::from(n)) * one)
        }))
    });
    weight.value()
}

/// What holds parts of one kind and size that follow one another.
fn supports(sheet: &mut Sheet, job: &Job, parts: &[Part], inside: &[(Carried, &Leg)]) {
    let Some(first) = parts.first() else { return };
    let nm = inside.iter().any(|(_, leg)| leg.wire.insulation == Insulation::Nm);
    let (kind, size) = match (&first.raceway, first.method, job.school) {
        (Some(r), _, School::Na) => (r.kind.key().to_owned(), r.size.clone()),
        (Some(r), _, School::Iec) => ("iec_rigid".to_owned(), r.size.clone()),
        (None, Method::Cable, School::Na) if nm => ("nm_cable".to_owned(), String::new()),
        (None, Method::Cable, School::Na) => ("mc_cable".to_owned(), String::new()),
        _ => return,
    };
    // Under ground nothing holds it but the earth.
    if first.place == Some(Place::Underground) {
        return;
    }
    let plastic = kind.starts_with("pvc") || kind == "iec_rigid";
    let outdoors = |p: &&Part| {
        let row = p.place.and_then(|place| tables::place(place.key()));
        p.place != Some(Place::Underground) && row.is_none_or(|r| r.indoors == "no" || is_attic(p))
    };
    let swings = plastic && parts.iter().any(|p| outdoors(&p));
    let hottest = job.site.t_max_c.map(|t| {
        let added = parts.iter().filter(outdoors).filter_map(|p| {
            let row = p.place.and_then(|place| tables::place(place.key()));
            p.ambient_add_c.or(row.map(|r| r.ambient_add_c))
        });
        t + added.fold(0.0, f64::max)
    });
    let swing = hottest.zip(job.site.t_min_c).map(|(hot, cold)| hot - cold);
    let school_piece = if job.school == School::Na { NA_PIECE_M } else { IEC_PIECE_M };
    support(
        sheet,
        &SupportInputs {
            kind,
            trade: size,
            length_ft: None,
            length_m: parts.iter().map(|p| p.length_m).sum(),
            piece_m: job.settings.piece_m.or(Some(school_piece)),
            dt_c: swing.filter(|_| swings),
        },
    );
    if swings && swing.is_none() {
        let open = [(job.site.t_min_c, "site.t_min_c"), (job.site.t_max_c, "site.t_max_c")];
        sheet.known(&FITTING, open.into_iter().filter(|(t, _)| t.is_none()).map(|(_, f)| f));
    }
}

fn is_attic(part: &Part) -> bool {
    part.place == Some(Place::Attic)
}

/// Least earth over a buried part, mm (300.5; IEC: workshop practice).
fn least_cover_mm(school: School, part: &Part, under_drive: bool) -> f64 {
    use crate::job::RacewayKind::{Imc, Rmc};
    match (school, part.raceway.as_ref().map(|r| r.kind)) {
        (School::Iec, _) if under_drive => 600.0,
        (School::Iec, _) => 500.0,
        (School::Na, Some(Rmc | Imc)) => 150.0,
        (School::Na, Some(_)) => 450.0,
        (School::Na, None) => 600.0,
    }
}

fn cover(sheet: &mut Sheet, (way, k): (&WayKey, usize), part: &Part) {
    let school = sheet.school;
    let own = sheet.figure(&COVER, |w| {
        w.need::<Millimetres>("earth over it", part.cover_mm, "way.parts.cover_mm", "measured")
    });
    let open = school == School::Iec && part.under_drive.is_none();
    let least = least_cover_mm(school, part, part.under_drive.unwrap_or(true));
    let mut better = sheet.trial();
    let from = sheet.checks.len();
    let with_tape = "with warning tape above it";
    sheet
        .hold(&own, Bound::at_least(least, with_tape), Verdict::Fail)
        .beyond(|over| format!("{over} too shallow: a spade finds it."))
        .cure(
            format_args!("{least} mm of earth, and warning tape."),
            vec![Edit::new(format!("/plan/ways/{way}/parts/{k}/cover_mm"), least)],
        );
    if open {
        let own = better.figure(&COVER, |w| {
            w.need::<Millimetres>("earth over it", part.cover_mm, "way.parts.cover_mm", "measured")
        });
        let least = least_cover_mm(school, part, false);
        better.hold(&own, Bound::at_least(least, with_tape), Verdict::Fail);
        sheet.open_between(from, &better, "way.parts.under_drive");
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::{RacewayChoice, RacewayKind};

    #[test]
    fn earth_over_a_way_goes_by_what_lies_there() {
        let raceway = Some(RacewayChoice { kind: RacewayKind::Emt, size: "3/4".to_owned() });
        let emt = Part { raceway, ..Part::default() };
        let rmc = RacewayChoice { kind: RacewayKind::Rmc, size: "1".to_owned() };
        let least = |p: &Part| least_cover_mm(School::Na, p, true);
        assert_eq!(least(&emt), 450.0);
        assert_eq!(least(&Part { raceway: Some(rmc), ..emt.clone() }), 150.0);
        assert_eq!(least(&Part { raceway: None, ..emt.clone() }), 600.0);
        assert_eq!(least_cover_mm(School::Iec, &emt, true), 600.0);
        assert_eq!(least_cover_mm(School::Iec, &emt, false), 500.0);
    }
}
