//! Typed views over the rule tables in `data/`. The tables are compiled in; where each comes from
//! stands in `data/sources.toml`. Nothing is clamped in silence: past a table's bad end there is no
//! value.

use std::sync::LazyLock;

use serde::Deserialize;
use serde::de::DeserializeOwned;

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
            LazyLock::new(|| rows($file, include_str!(concat!("../../../data/", $file, ".csv"))));
    };
}

/// A row of NEC Table 310.16 or 310.17: amps by insulation column.
#[derive(Debug, Deserialize)]
pub struct Ampacity {
    /// AWG or kcmil.
    pub size: String,
    /// `cu` or `al`.
    pub material: String,
    /// 60 °C column, A.
    pub a60: Option<f64>,
    /// 75 °C column, A.
    pub a75: Option<f64>,
    /// 90 °C column, A.
    pub a90: Option<f64>,
}

impl Ampacity {
    /// The column of an insulation temperature: 60, 75 or 90.
    pub fn column(&self, insulation_c: u32) -> Option<f64> {
        match insulation_c {
            60 => self.a60,
            75 => self.a75,
            90 => self.a90,
            _ => None,
        }
    }
}

/// A row of 310.15(B)(1)(1).
#[derive(Debug, Deserialize)]
struct TemperatureFactor {
    #[cfg_attr(not(test), expect(dead_code, reason = "read by the test that looks for gaps"))]
    c_from: f64,
    c_to: f64,
    f60: Option<f64>,
    f75: Option<f64>,
    f90: Option<f64>,
}

#[derive(Debug, Deserialize)]
struct RangeFactor {
    #[serde(alias = "c_from")]
    from: f64,
    #[serde(alias = "c_to")]
    to: f64,
    factor: f64,
}

/// A row of 250.122.
#[derive(Debug, Deserialize)]
pub struct Egc {
    /// Rating of the protective device not above this, A.
    pub ocpd_a: f64,
    /// Copper size.
    pub cu: String,
    /// Aluminium size.
    pub al: String,
}

/// A raceway of Chapter 9, Table 4.
#[derive(Debug, Deserialize)]
pub struct Raceway {
    /// Kind, e.g. `emt`.
    pub kind: String,
    /// Trade size.
    pub trade: String,
    /// Inner diameter, in.
    pub id_in: f64,
    /// Whole inner area, in².
    pub area_in2: f64,
}

/// Dimensions and resistance of a wire, Chapter 9, Tables 5 and 8.
#[derive(Debug, Deserialize)]
pub struct Wire {
    /// AWG or kcmil.
    pub size: String,
    /// Circular mils.
    pub cmil: f64,
    /// THHN and THWN-2: diameter, in.
    pub thhn_od_in: f64,
    /// THHN and THWN-2: area, in².
    pub thhn_area_in2: f64,
    /// XHHW-2: diameter, in.
    pub xhhw_od_in: f64,
    /// XHHW-2: area, in².
    pub xhhw_area_in2: f64,
    /// PV wire: usual diameter, in.
    pub pv_od_in: Option<f64>,
    /// Copper, ohm per 1000 ft at 75 °C.
    pub r_cu_ohm_kft: f64,
    /// Aluminium, ohm per 1000 ft at 75 °C.
    pub r_al_ohm_kft: Option<f64>,
}

/// A place a route passes through.
#[derive(Debug, Deserialize)]
pub struct PlaceRow {
    /// Key.
    pub place: String,
    /// Plain title.
    pub title: String,
    /// Added to the site's high ambient, K.
    pub ambient_add_c: f64,
    /// `wet`, `damp` or `dry`.
    pub wet: String,
    /// `yes` or `no`.
    pub indoors: String,
    /// `yes` or `no`.
    pub sunlit: String,
    /// iec: ambient that is never gone below there, °C (60364-7-712).
    pub iec_ambient_min_c: Option<f64>,
}

/// A wiring method and where it may be: `yes`, `no`, or a condition.
#[derive(Debug, Deserialize)]
pub struct WiringMethod {
    /// Key of the method.
    pub method: String,
    /// DC inside a building (690.31(D)).
    pub dc_indoors: String,
    /// AC inside a building.
    pub ac_indoors: String,
    /// In a wet place.
    pub wet: String,
    /// In a damp place.
    pub damp: String,
    /// On a roof in the sun.
    pub sunlit_roof: String,
    /// Article of the code.
    pub rule: String,
}

/// A cable of IEC 60364-5-52.
#[derive(Debug, Deserialize)]
pub struct IecCable {
    /// `pvc70` or `xlpe90`.
    pub insulation: String,
    /// Conductor, mm².
    pub mm2: f64,
    /// Loaded conductors: 2 or 3.
    pub loaded_n: u32,
    /// Wires in conduit in an insulated wall, A.
    pub method_a1_a: f64,
    /// Multicore in conduit in an insulated wall, A.
    pub method_a2_a: f64,
    /// Wires in conduit on a wall, A.
    pub method_b1_a: f64,
    /// Multicore in conduit on a wall, A.
    pub method_b2_a: f64,
    /// Clipped to a surface, A.
    pub method_c_a: f64,
    /// Ohm per km at 20 °C.
    pub r20_ohm_km: f64,
    /// Usual outside diameter of one core, mm.
    pub od_mm: f64,
}

/// Solar cable of EN 50618.
#[derive(Debug, Deserialize)]
pub struct SolarCable {
    /// Conductor, mm².
    pub mm2: f64,
    /// One cable in free air, A.
    pub free_air_a: f64,
    /// One cable on a surface, A.
    pub on_surface_a: f64,
    /// Two touching on a surface, A.
    pub two_touching_a: f64,
    /// Ohm per km at 20 °C.
    pub r20_ohm_km: f64,
    /// Usual outside diameter, mm.
    pub od_mm: f64,
}

#[derive(Debug, Deserialize)]
struct IecFactor {
    kind: String,
    key: f64,
    factor: f64,
}

#[derive(Debug, Deserialize)]
struct UpTo {
    #[serde(alias = "c")]
    to: f64,
    factor: f64,
}

/// A conduit of IEC 61386.
#[derive(Debug, Deserialize)]
pub struct Conduit {
    /// `medium` or `heavy`.
    pub class: String,
    /// Nominal size, mm.
    pub size_mm: f64,
    /// Least inner diameter, mm.
    pub id_mm: f64,
}

#[derive(Debug, Deserialize)]
struct PlaceCost {
    key: String,
    value: f64,
}

#[derive(Debug, Deserialize)]
struct SiteWork {
    key: String,
    minutes: f64,
}

#[derive(Debug, Deserialize)]
struct Ratings {
    kind: String,
    ratings: String,
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
table!(RATINGS: Ratings = "standard_ratings");
table!(SITE_WORK: SiteWork = "site_work");
table!(PLACE_COSTS: PlaceCost = "place_costs");

/// Minutes of one piece of work on site.
///
/// # Panics
/// For a key that is not in the table.
pub fn site_minutes(key: &str) -> f64 {
    SITE_WORK
        .iter()
        .find(|r| r.key == key)
        .unwrap_or_else(|| panic!("data/site_work.csv: no row {key}"))
        .minutes
}

/// A price by which places of the inverter are compared.
///
/// # Panics
/// For a key that is not in the table.
pub fn place_cost(key: &str) -> f64 {
    PLACE_COSTS
        .iter()
        .find(|r| r.key == key)
        .unwrap_or_else(|| panic!("data/place_costs.csv: no row {key}"))
        .value
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
        let sources = include_str!("../../../data/sources.toml");
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
