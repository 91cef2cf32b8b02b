//! What a form may offer: the sizes the school's tables hold, so that no form keeps a list of its
//! own.

use serde::Serialize;
use utoipa::ToSchema;

use super::{Building, Cable, ColdMethod, Insulation, RacewayKind, validate::raceway_sizes};
use crate::school::School;
use crate::tables::{self, DemandRow};

/// A kind of raceway and the sizes it comes in.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RacewaySizes {
    /// The kind.
    pub kind: RacewayKind,
    /// Trade sizes (na) or millimetres (iec), smallest first.
    pub sizes: Vec<String>,
}

/// Everything a form of one school may offer.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Choices {
    /// The school.
    pub school: School,
    /// na: wire sizes, AWG and kcmil, smallest first.
    pub awg: Vec<String>,
    /// na: insulations the fill tables hold.
    pub insulations: Vec<Insulation>,
    /// iec: sections, mm², smallest first.
    pub mm2: Vec<f64>,
    /// iec: cables.
    pub cables: Vec<Cable>,
    /// Raceways with their sizes.
    pub raceways: Vec<RacewaySizes>,
    /// Standard breakers, A, smallest first.
    pub breakers_a: Vec<f64>,
    /// What parties usually ask for.
    pub demands: Vec<DemandRow>,
    /// Kinds of building.
    pub buildings: Vec<Building>,
    /// Ways to the cold volts.
    pub cold_methods: Vec<ColdMethod>,
}

/// What parties of a school usually ask for.
fn usual_demands(school: School) -> Vec<DemandRow> {
    tables::DEMANDS.iter().filter(|r| school.is_of(&r.school)).cloned().collect()
}

/// What the tables of a school hold.
pub fn choices(school: School) -> Choices {
    use RacewayKind::{Emt, Fmc, Heavy, Imc, Lfmc, Medium, Pvc40, Pvc80, Rmc};
    let kinds = [Emt, Rmc, Imc, Pvc40, Pvc80, Fmc, Lfmc, Medium, Heavy]
        .into_iter()
        .filter(|k| k.school() == school);
    let raceways = kinds
        .map(|kind| RacewaySizes { kind, sizes: raceway_sizes(kind) })
        .filter(|r| !r.sizes.is_empty())
        .collect();
    let (na, iec) = (school == School::Na, school == School::Iec);
    Choices {
        school,
        awg: tables::WIRES.iter().filter(|_| na).map(|w| w.size.clone()).collect(),
        insulations: [Insulation::Thwn2, Insulation::Xhhw2, Insulation::Use2, Insulation::Pv]
            .into_iter()
            .filter(|_| na)
            .collect(),
        mm2: tables::SOLAR_CABLES.iter().filter(|_| iec).map(|c| c.mm2).collect(),
        cables: [Cable::Solar, Cable::Pvc70, Cable::Xlpe90].into_iter().filter(|_| iec).collect(),
        raceways,
        breakers_a: school.breakers().to_vec(),
        demands: usual_demands(school),
        buildings: [
            Building::Dwelling12,
            Building::OtherRoof,
            Building::Building,
            Building::Ground,
        ]
        .into_iter()
        .filter(|b| b.is_of(school))
        .collect(),
        cold_methods: [ColdMethod::Coefficient, ColdMethod::Table, ColdMethod::Factor]
            .into_iter()
            .filter(|m| iec || *m != ColdMethod::Factor)
            .collect(),
    }
}
