//! Typed views over the rule tables in `data/`. The tables are compiled in; where each comes from
//! stands in `data/sources.toml`. Nothing is clamped in silence: past a table's bad end there is no
//! value.

mod rows;

use std::sync::LazyLock;

use serde::de::DeserializeOwned;

pub use rows::*;

use crate::quantity::{above, below};

fn rows<T: DeserializeOwned>(name: &str, text: &str) -> Vec<T> {
    csv::ReaderBuilder::new()
        .comment(Some(b'#'))
        .from_reader(text.as_bytes())
        .deserialize()
        .collect::<Result<_, _>>()
        .unwrap_or_else(|e| panic!("data/{name}.csv: {e}"))
}

macro_rules! table {
    ($(#[$doc:meta])* $vis:vis $name:ident: $row:ty = $file:literal) => {
        $(#[$doc])*
        $vis static $name: LazyLock<Vec<$row>> =
            LazyLock::new(|| {
                rows($file, include_str!(concat!("../../../../data/", $file, ".csv")))
            });
    };
}

table!(/// NEC Table 310.16.
    pub AMPACITY: Ampacity = "na_ampacity");
table!(/// NEC Table 310.17.
    pub AMPACITY_FREE_AIR: Ampacity = "na_ampacity_free_air");
table!(TEMPERATURE: TemperatureFactor = "na_temperature_factor");
table!(COUNT: RangeFactor = "na_count_factor");
table!(VOC: RangeFactor = "na_voc_correction");
table!(/// NEC Table 250.122.
    pub EGC: Egc = "na_egc");
table!(/// NEC Chapter 9, Table 4.
    pub RACEWAYS: Raceway = "na_raceways");
table!(/// NEC Chapter 9, Tables 5 and 8.
    pub WIRES: Wire = "na_wire_dimensions");
table!(/// Places of a route.
    pub PLACES: PlaceRow = "segment_places");
table!(/// Wiring methods and where they may be.
    pub METHODS: WiringMethod = "wiring_methods");
table!(/// IEC 60364-5-52 cables.
    pub IEC_CABLES: IecCable = "iec_cables");
table!(/// EN 50618 solar cable.
    pub SOLAR_CABLES: SolarCable = "iec_solar_cable");
table!(IEC_FACTORS: IecFactor = "iec_factors");
table!(SOLAR_AMBIENT: UpTo = "iec_solar_cable_ambient");
table!(GROUP_BEYOND_NINE: UpTo = "iec_group_beyond_nine");
table!(/// IEC 61386 conduit.
    pub CONDUITS: Conduit = "iec_conduit");
table!(METAL_CLAD: MetalClad = "na_metal_clad");
table!(/// What parties usually ask for.
    pub DEMANDS: DemandRow = "demands");
table!(/// Labels by school.
    pub LABELS: LabelRow = "labels");
table!(KNOCKOUTS: Knockout = "na_knockouts");
table!(SUPPORTS: Support = "raceway_supports");
table!(BENDS: BendRadius = "na_bend_radius");
table!(RATINGS: Ratings = "standard_ratings");
table!(/// Prices and times where nobody said others.
    pub RATES: Rate = "rates");

/// A price or a time of `data/rates.csv`.
///
/// # Panics
/// For a key that is not in the table.
pub fn rate(key: &str) -> f64 {
    let row = RATES.iter().find(|r| r.key == key);
    row.unwrap_or_else(|| panic!("data/rates.csv: no row {key}")).value
}

/// Diameter of the hole a raceway of this trade size comes in by, mm.
pub fn knockout_mm(trade: &str) -> Option<f64> {
    KNOCKOUTS.iter().find(|k| k.trade == trade).map(|k| k.hole_mm)
}

/// The ground usually made into a metal-clad cable of this size, AWG.
pub fn clad_ground(size: &str) -> Option<&'static str> {
    METAL_CLAD.iter().find(|r| r.size == size).map(|r| r.ground.as_str())
}

/// The smallest metal-clad cable not below this size whose ground is not below `ground_cmil`.
pub fn clad_with_ground(size: &str, ground_cmil: f64) -> Option<(&'static str, &'static str)> {
    let from = METAL_CLAD.iter().position(|r| r.size == size)?;
    let holds = |r: &&MetalClad| wire(&r.ground).is_some_and(|w| !below(w.cmil, ground_cmil));
    METAL_CLAD[from..].iter().find(holds).map(|r| (r.size.as_str(), r.ground.as_str()))
}

/// A series of standard ratings.
#[derive(Clone, Copy, Debug)]
pub enum RatingKind {
    /// NEC 240.6(A).
    NaBreaker,
    /// gPV fuses sold with the North American ratings.
    NaPvFuse,
    /// gPV fuses of IEC 60269-6.
    IecPvFuse,
    /// IEC 60898 and 60947.
    IecBreaker,
}

/// The ratings of a series, smallest first, A.
pub fn ratings(kind: RatingKind) -> &'static [f64] {
    static PARSED: LazyLock<[Vec<f64>; 4]> = LazyLock::new(|| {
        ["na_breaker", "na_pv_fuse", "iec_pv_fuse", "iec_breaker"].map(|key| {
            let row = RATINGS
                .iter()
                .find(|r| r.kind == key)
                .unwrap_or_else(|| panic!("data/standard_ratings.csv: no row {key}"));
            row.ratings
                .split(' ')
                .map(|r| {
                    r.parse()
                        .unwrap_or_else(|e| panic!("data/standard_ratings.csv, {key}: {r}: {e}"))
                })
                .collect()
        })
    });
    &PARSED[kind as usize]
}

/// The first rating that is not below `amps`.
pub fn next_rating(ratings: &[f64], amps: f64) -> Option<f64> {
    ratings.iter().copied().find(|r| !below(*r, amps))
}

/// The largest rating that is not above `amps`.
pub fn last_rating(ratings: &[f64], amps: f64) -> Option<f64> {
    ratings.iter().copied().rev().find(|r| !above(*r, amps))
}

/// Voltage correction of 690.7(A). 25 °C and warmer 1; between two rows the colder one; below -40
/// °C none.
pub fn voc_correction(t_min_c: f64) -> Option<f64> {
    if !below(t_min_c, 25.0) {
        return Some(1.0);
    }
    VOC.iter().find(|r| !below(t_min_c, r.from)).map(|r| r.factor)
}

/// Ambient correction of 310.15(B)(1)(1) for an insulation column. Between two rows the hotter one.
pub fn temperature_factor(ambient_c: f64, insulation_c: u32) -> Option<f64> {
    let row = TEMPERATURE.iter().find(|r| !above(ambient_c, r.c_to))?;
    match insulation_c {
        60 => row.f60,
        75 => row.f75,
        90 => row.f90,
        _ => None,
    }
}

/// Adjustment of 310.15(C)(1) for a number of current-carrying conductors.
pub fn count_factor(n: u32) -> f64 {
    COUNT.iter().find(|r| f64::from(n) <= r.to).map_or(1.0, |r| r.factor)
}

/// A row of 310.16 (`free_air` false) or 310.17.
pub fn ampacity(size: &str, material: &str, free_air: bool) -> Option<&'static Ampacity> {
    let table = if free_air { &*AMPACITY_FREE_AIR } else { &*AMPACITY };
    table.iter().find(|r| r.size == size && r.material == material)
}

/// The row of supports for a kind and size: by trade size (na) or millimetres (iec); a row without
/// sizes takes any. Intermediate metal conduit is held as rigid.
pub fn support(kind: &str, size: &str) -> Option<&'static Support> {
    let kind = if kind == "imc" { "rmc" } else { kind };
    let wanted = size_number(size);
    SUPPORTS.iter().filter(|r| r.kind == kind).find(|r| match (&r.trade_from, &r.trade_to) {
        (Some(from), Some(to)) => wanted
            .zip(size_number(from))
            .zip(size_number(to))
            .is_some_and(|((w, from), to)| !below(w, from) && !above(w, to)),
        _ => true,
    })
}

/// A trade size as a number: `1-1/4` is 1.25, `3/4` is 0.75; millimetres as they are.
pub fn size_number(size: &str) -> Option<f64> {
    let (whole, part) = size.split_once('-').unwrap_or(("0", size));
    let part = match part.split_once('/') {
        Some((a, b)) => a.parse::<f64>().ok()? / b.parse::<f64>().ok()?,
        None => part.parse().ok()?,
    };
    Some(whole.parse::<f64>().ok()? + part)
}

/// Radius of a bend as benders make it, by trade size, in (Chapter 9, Table 2).
pub fn bend_radius_in(trade: &str) -> Option<f64> {
    BENDS.iter().find(|r| r.trade == trade).map(|r| r.radius_in)
}

/// Dimensions of a wire size.
pub fn wire(size: &str) -> Option<&'static Wire> {
    WIRES.iter().find(|w| w.size == size)
}

/// The row of a place.
pub fn place(key: &str) -> Option<&'static PlaceRow> {
    PLACES.iter().find(|p| p.place == key)
}

/// IEC ambient factor in conduit or on a surface: the first row at or above the temperature, none
/// past the last.
pub fn iec_ambient_factor(insulation: &str, ambient_c: f64) -> Option<f64> {
    IEC_FACTORS.iter().find(|r| r.kind == insulation && !above(ambient_c, r.key)).map(|r| r.factor)
}

/// Ambient factor of solar cable in air, 60 °C base.
pub fn solar_ambient_factor(ambient_c: f64) -> Option<f64> {
    SOLAR_AMBIENT.iter().find(|r| !above(ambient_c, r.to)).map(|r| r.factor)
}

/// IEC grouping factor for circuits bunched or enclosed together; none past twenty.
pub fn group_factor(circuits: u32) -> Option<f64> {
    let n = f64::from(circuits);
    let near = IEC_FACTORS.iter().find(|r| r.kind == "group" && r.key == n).map(|r| r.factor);
    near.or_else(|| GROUP_BEYOND_NINE.iter().find(|r| n > 9.0 && n <= r.to).map(|r| r.factor))
}

/// A cable by insulation, section and loaded conductors: amps by reference method. Resistance and
/// diameter do not depend on how many are loaded.
pub fn iec_cable(insulation: &str, mm2: f64, loaded_n: u32) -> Option<&'static IecCable> {
    let row =
        |c: &&IecCable| (c.insulation.as_str(), c.mm2, c.loaded_n) == (insulation, mm2, loaded_n);
    IEC_CABLES.iter().find(row)
}

/// The row of a wiring method.
pub fn wiring_method(key: &str) -> Option<&'static WiringMethod> {
    METHODS.iter().find(|m| m.method == key)
}

/// Solar cable by section.
pub fn solar_cable(mm2: f64) -> Option<&'static SolarCable> {
    SOLAR_CABLES.iter().find(|c| c.mm2 == mm2)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_table_loads_and_is_named_in_sources() {
        let sources = include_str!("../../../../data/sources.toml");
        let dir = concat!(env!("CARGO_MANIFEST_DIR"), "/../../data");
        for entry in std::fs::read_dir(dir).unwrap() {
            let name = entry.unwrap().file_name().into_string().unwrap();
            if let Some(stem) = name.strip_suffix(".csv") {
                assert!(
                    sources.contains(&format!("[{stem}]")),
                    "{stem} has no entry in sources.toml"
                );
            }
        }
        assert_eq!(AMPACITY.len(), 35);
        assert_eq!(RACEWAYS.len(), 46);
        assert_eq!(PLACES.len(), 11);
        assert_eq!(CONDUITS.len(), 12);
    }

    #[test]
    fn bigger_wire_carries_more_and_resists_less() {
        for material in ["cu", "al"] {
            for column in [60, 75, 90] {
                let amps: Vec<f64> = AMPACITY
                    .iter()
                    .filter(|r| r.material == material)
                    .filter_map(|r| r.column(column))
                    .collect();
                assert!(amps.windows(2).all(|w| w[0] < w[1]), "{material} {column}");
            }
        }
        assert!(
            WIRES
                .windows(2)
                .all(|w| w[0].cmil < w[1].cmil && w[0].r_cu_ohm_kft > w[1].r_cu_ohm_kft)
        );
        assert!(
            SOLAR_CABLES
                .windows(2)
                .all(|w| w[0].free_air_a < w[1].free_air_a && w[0].r20_ohm_km > w[1].r20_ohm_km)
        );
    }

    #[test]
    fn bigger_raceway_holds_more_and_area_is_that_of_its_diameter() {
        for pair in RACEWAYS.windows(2).filter(|p| p[0].kind == p[1].kind) {
            assert!(pair[0].area_in2 < pair[1].area_in2, "{} {}", pair[0].kind, pair[1].trade);
        }
        for r in RACEWAYS.iter() {
            let area = std::f64::consts::PI / 4.0 * r.id_in * r.id_in;
            assert!((area / r.area_in2 - 1.0).abs() < 0.005, "{} {}: {area}", r.kind, r.trade);
        }
    }

    #[test]
    fn factors_fall_with_heat_and_number_without_gaps() {
        assert!(
            TEMPERATURE.windows(2).all(|w| w[0].c_to + 1.0 == w[1].c_from && w[0].f90 > w[1].f90)
        );
        assert!(COUNT.windows(2).all(|w| w[0].to + 1.0 == w[1].from && w[0].factor > w[1].factor));
        assert!(VOC.windows(2).all(|w| w[0].from == w[1].to + 1.0 && w[0].factor < w[1].factor));
    }

    #[test]
    fn between_two_rows_the_worse_one_counts() {
        assert_eq!(temperature_factor(35.5, 90), Some(0.91));
        assert_eq!(temperature_factor(35.0, 90), Some(0.96));
        assert_eq!(temperature_factor(86.0, 90), None);
        assert_eq!(temperature_factor(58.0, 60), None);
        assert_eq!(voc_correction(-5.5), Some(1.14));
        assert_eq!(voc_correction(25.0), Some(1.0));
        assert_eq!(voc_correction(24.5), Some(1.02));
        assert_eq!(voc_correction(-40.1), None);
    }

    #[test]
    fn grouping_goes_to_twenty_and_no_further() {
        assert_eq!(group_factor(9), Some(0.50));
        assert_eq!(group_factor(10), Some(0.45));
        assert_eq!(group_factor(13), Some(0.41));
        assert_eq!(group_factor(20), Some(0.38));
        assert_eq!(group_factor(21), None);
    }

    #[test]
    fn next_rating_takes_an_exact_one() {
        let breakers = ratings(RatingKind::NaBreaker);
        assert_eq!(next_rating(breakers, 60.0), Some(60.0));
        assert_eq!(next_rating(breakers, 60.1), Some(70.0));
        assert_eq!(next_rating(breakers, 601.0), None);
        assert_eq!(last_rating(breakers, 14.5), None);
        assert_eq!(last_rating(breakers, 180.6), Some(175.0));
    }
}
