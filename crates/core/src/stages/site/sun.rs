//! Where the sun stands, and what a clear sky gives on a face. Geometric position, no refraction,
//! by the low-precision formulas of the Astronomical Almanac: within 0.01° from 1950 to 2050.

use serde::Deserialize;

use crate::figure::{Handle, Sheet, Working};
use crate::figures;
use crate::quantity::{Degrees, Irradiance, Ratio};
use crate::traced::{Traced, exact};

figures! { Site;
    /// Angle from the zenith.
    ZENITH: Degrees = "sun.zenith_deg", "Sun from the zenith", "Astronomical Almanac";
    /// From north, clockwise.
    AZIMUTH: Degrees = "sun.azimuth_deg", "Sun from north, clockwise", "Astronomical Almanac";
    /// Angle between the sun and the face's normal.
    AOI: Degrees = "sun.aoi_deg", "Sun from the face's normal", "geometry";
    /// Direct and diffuse light of a clear sky on the face.
    CLEAR: Irradiance = "sun.clear_w_m2", "Clear sky on the face", "air mass model";
}

/// Direct light outside the air as the model takes it, W/m².
const DIRECT_W_M2: f64 = 1353.0;
/// Share of the direct light that comes from all of the sky.
const DIFFUSE_SHARE: f64 = 0.1;

/// A moment, a place, a face.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SunInputs {
    /// Year, UTC.
    pub year: i32,
    /// Month, from 1.
    pub month: u32,
    /// Day of the month, from 1.
    pub day: u32,
    /// Hour, UTC, decimal.
    pub hour_ut: f64,
    /// Latitude, north positive, °.
    pub lat_deg: f64,
    /// Longitude, east positive, °.
    pub lon_deg: f64,
    /// Tilt of the face, °.
    pub tilt_deg: Option<f64>,
    /// Azimuth of the face from north, clockwise, °.
    pub face_azimuth_deg: Option<f64>,
}

/// Days since 2000-01-01 12:00 UTC; none for a date that is not in the calendar.
pub fn days_since_2000(year: i32, month: u32, day: u32, hour_ut: f64) -> Option<f64> {
    let leap = year % 4 == 0 && (year % 100 != 0 || year % 400 == 0);
    let lengths = [31, if leap { 29 } else { 28 }, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];
    let length = *lengths.get((month as usize).checked_sub(1)?)?;
    if day == 0 || day > length {
        return None;
    }
    // Days of whole years since 2000, in the Gregorian calendar; 2000 itself is a leap year.
    let before = |y: i32| {
        (y.div_euclid(4) - y.div_euclid(100) + y.div_euclid(400)) as i64 + 365 * i64::from(y)
    };
    let years = before(year - 1) - before(1999);
    let days =
        years + i64::from(lengths[..month as usize - 1].iter().sum::<u32>()) + i64::from(day) - 1;
    Some(days as f64 - 0.5 + hour_ut / 24.0)
}

/// Declination and hour angle of the sun, °.
fn sun_angles(n: f64, hour_ut: f64, lon_deg: f64) -> (f64, f64) {
    let longitude = 280.460 + 0.985_647_4 * n;
    let anomaly = (357.528 + 0.985_600_3 * n).to_radians();
    let ecliptic = (longitude + 1.915 * anomaly.sin() + 0.020 * (2.0 * anomaly).sin()).to_radians();
    let obliquity = (23.439 - 0.000_000_4 * n).to_radians();
    let right_ascension = (obliquity.cos() * ecliptic.sin()).atan2(ecliptic.cos()).to_degrees();
    let declination = (obliquity.sin() * ecliptic.sin()).asin().to_degrees();
    // Sidereal time at Greenwich, in hours of 15°.
    let midnight = n - hour_ut / 24.0;
    let sidereal_h = 6.697_374_6 + 0.065_709_824_42 * midnight + 1.002_737_909 * hour_ut;
    let hour_angle =
        (sidereal_h * 15.0 + lon_deg - right_ascension + 180.0).rem_euclid(360.0) - 180.0;
    (declination, hour_angle)
}

/// The year a day of the year is taken in: no leap year.
const YEAR: i32 = 2025;

/// Declination of the sun at noon of a day of the year, °; none for a day that is not in the
/// calendar.
pub fn declination_deg(month: u32, day: u32) -> Option<f64> {
    Some(sun_angles(days_since_2000(YEAR, month, day, 12.0)?, 12.0, 0.0).0)
}

/// Height of the sun and where it stands from north, clockwise, at an hour of sun time (12 is
/// noon), °.
pub fn sun_at(declination_deg: f64, sun_h: f64, lat_deg: f64) -> (f64, f64) {
    let (f, d) = (lat_deg.to_radians(), declination_deg.to_radians());
    let h = ((sun_h - 12.0) * 15.0).to_radians();
    let up = f.sin() * d.sin() + f.cos() * d.cos() * h.cos();
    let east = -d.cos() * h.sin();
    let north = d.sin() * f.cos() - d.cos() * f.sin() * h.cos();
    (up.asin().to_degrees(), east.atan2(north).to_degrees().rem_euclid(360.0))
}

/// Position of the sun, and clear-sky light on the face where one is given.
pub fn sun(sheet: &mut Sheet, x: &SunInputs) {
    let angles = days_since_2000(x.year, x.month, x.day, x.hour_ut)
        .map(|n| sun_angles(n, x.hour_ut, x.lon_deg));
    let inputs = |w: &mut Working| -> Option<[Traced<Degrees>; 3]> {
        let Some((declination, hour_angle)) = angles else {
            w.note(format!("{}-{:02}-{:02} is no day of the calendar.", x.year, x.month, x.day));
            return None;
        };
        let latitude = w.given("latitude", Degrees(x.lat_deg), "site");
        let declination = w.given("declination", Degrees(declination), "date and time");
        Some([
            latitude,
            declination,
            w.given("hour angle", Degrees(hour_angle), "time and longitude"),
        ])
    };
    let zenith = sheet.figure(&ZENITH, |w| {
        let [f, d, h] = inputs(w)?;
        Some((f.clone().sin() * d.clone().sin() + f.cos() * d.cos() * h.cos()).acos())
    });
    let azimuth = sheet.figure(&AZIMUTH, |w| {
        let [f, d, h] = inputs(w)?;
        let east = w.step("east", exact::<Ratio>(0.0) - d.clone().cos() * h.clone().sin());
        let north =
            w.step("north", d.clone().sin() * f.clone().cos() - d.cos() * f.sin() * h.cos());
        let angle = east.value.0.atan2(north.value.0).to_degrees().rem_euclid(360.0);
        Some(w.given("angle of east over north", Degrees(angle), "from north, clockwise"))
    });
    if let (Some(tilt), Some(face)) = (x.tilt_deg, x.face_azimuth_deg) {
        on_face(sheet, &zenith, &azimuth, tilt, face);
    }
}

/// Clear-sky light on a face, W/m², by the same formulas as [`sun`], for sums over many hours. `n`
/// is in days since 2000-01-01 12:00 UTC.
pub fn clear_sky_w_m2(
    n: f64,
    hour_ut: f64,
    lat_deg: f64,
    lon_deg: f64,
    tilt_deg: f64,
    azimuth_deg: f64,
) -> f64 {
    let (declination, hour_angle) = sun_angles(n, hour_ut, lon_deg);
    let (f, d, h) = (lat_deg.to_radians(), declination.to_radians(), hour_angle.to_radians());
    let up = f.sin() * d.sin() + f.cos() * d.cos() * h.cos();
    if up <= 0.0 {
        return 0.0;
    }
    let east = -d.cos() * h.sin();
    let north = d.sin() * f.cos() - d.cos() * f.sin() * h.cos();
    let (tilt, azimuth) = (tilt_deg.to_radians(), azimuth_deg.to_radians());
    let facing = up * tilt.cos() + tilt.sin() * (east * azimuth.sin() + north * azimuth.cos());
    let direct = DIRECT_W_M2 * 0.7_f64.powf((1.0 / up).powf(0.678));
    direct * facing.max(0.0) + DIFFUSE_SHARE * direct * (1.0 + tilt.cos()) / 2.0
}

fn on_face(
    sheet: &mut Sheet,
    zenith: &Handle<Degrees>,
    azimuth: &Handle<Degrees>,
    tilt: f64,
    face: f64,
) {
    let aoi = sheet.figure(&AOI, |w| {
        let z = w.take("zenith", zenith)?;
        let a = w.take("azimuth", azimuth)?;
        let tilt = w.given("tilt", Degrees(tilt), "face");
        let face = w.given("face", Degrees(face), "face");
        Some(
            (z.clone().cos() * tilt.clone().cos() + z.sin() * tilt.sin() * (a - face).cos()).acos(),
        )
    });
    sheet.figure(&CLEAR, |w| {
        if zenith.value().is_some_and(|z| z >= 90.0) {
            return Some(w.given("sun below the horizon", Irradiance(0.0), "sun.zenith_deg"));
        }
        let z = w.take("zenith", zenith)?;
        let aoi = w.take("from the normal", &aoi)?;
        let tilt = w.given("tilt", Degrees(tilt), "face");
        let air_mass = w.step("AM", exact::<Ratio>(1.0) / z.cos());
        let passed = exact::<Ratio>(0.7).power(air_mass.power(exact(0.678)));
        let direct = w.step("direct", exact::<Irradiance>(DIRECT_W_M2) * passed);
        let facing = w.step("facing", aoi.cos().max(exact(0.0)));
        let sky =
            w.step("share of the sky", (exact::<Ratio>(1.0) + tilt.cos()) / exact::<Ratio>(2.0));
        Some(direct.clone() * facing + exact::<Ratio>(DIFFUSE_SHARE) * direct * sky)
    });
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn light_by_the_short_way_is_light_by_the_long_way() {
        use crate::figure::{Subject, Value};
        use crate::school::School;
        for (month, hour_ut, lat, tilt, azimuth) in [
            (6, 9.5, 52.0, 35.0, 140.0),
            (12, 12.0, 52.0, 60.0, 180.0),
            (3, 16.0, -33.0, 20.0, 10.0),
            (6, 1.0, 52.0, 35.0, 180.0),
        ] {
            let mut sheet = Sheet::new(School::Iec, Subject::Site);
            let x = SunInputs {
                year: 2023,
                month,
                day: 15,
                hour_ut,
                lat_deg: lat,
                lon_deg: 5.0,
                tilt_deg: Some(tilt),
                face_azimuth_deg: Some(azimuth),
            };
            sun(&mut sheet, &x);
            let long = sheet
                .figures
                .iter()
                .find(|f| f.id == "sun.clear_w_m2")
                .and_then(|f| f.value.as_ref())
                .and_then(Value::number);
            let n = days_since_2000(2023, month, 15, hour_ut).expect("a day");
            let short = clear_sky_w_m2(n, hour_ut, lat, 5.0, tilt, azimuth);
            assert!(
                (short - long.expect("a value")).abs() < 1e-6,
                "{month} {hour_ut}: {short}, {long:?}"
            );
        }
    }

    #[test]
    fn days_count_from_noon_of_the_first_of_january_2000() {
        assert_eq!(days_since_2000(2000, 1, 1, 12.0), Some(0.0));
        // 366 days of 2000.
        assert_eq!(days_since_2000(2001, 1, 1, 12.0), Some(366.0));
        // 2000 to 2023: 24 x 365 + 6 leap days, then 31 + 28.
        assert_eq!(days_since_2000(2024, 2, 29, 12.0), Some(24.0 * 365.0 + 6.0 + 31.0 + 28.0));
        // 365 days of 1999 back.
        assert_eq!(days_since_2000(1999, 1, 1, 12.0), Some(-365.0));
        for (year, month, day) in
            [(2023, 2, 29), (2100, 2, 29), (2024, 13, 1), (2024, 0, 1), (2024, 4, 31), (2024, 4, 0)]
        {
            assert_eq!(days_since_2000(year, month, day, 0.0), None, "{year}-{month}-{day}");
        }
    }
}
