//! Frames in rows: how far the front row's shadow reaches, and when the row behind lies in it.

use serde::Serialize;
use utoipa::ToSchema;

use crate::figure::{Bound, Sheet, Subject, Verdict, said};
use crate::figures;
use crate::job::{Edit, Face, FaceMap, Site};
use crate::quantity::{Degrees, Hours, Metres, Unit, above, ceil};
use crate::stages::site::{declination_deg, sun_at};
use crate::traced::exact;

figures! { Roof;
    /// Upper edge of the front row above the lower edge of the row behind.
    HEIGHT: Metres = "row.height_m", "Front row above the foot of the next", "roof map";
    /// Height x cos(sun azimuth - face azimuth) / tan(sun elevation), the longest from 9 to 15 h.
    GAP_MIN: Metres = "row.gap_min_m", "Gap with no shade from 9 to 15 h, shortest day", "geometry";
    /// Gap between rows.
    GAP: Metres = "row.gap_m", "Gap between rows", "roof map";
    /// Hours of the shortest day in which the back row lies in shade.
    SHADED: Hours = "row.shaded_h", "Shaded hours of the shortest day", "geometry";
}

/// Hours between which the shortest day is to be free of shade, sun time.
const FREE_H: [f64; 2] = [9.0, 15.0];

/// When the row behind lies in the shade of the row before it, on one day. Hours are sun time.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct RowShade {
    /// Month, from 1.
    pub month: u32,
    /// Day of the month, from 1.
    pub day: u32,
    /// Sunrise and sunset; none where the sun does not rise.
    pub sun_h: Option<[f64; 2]>,
    /// From and to of every stretch in shade.
    pub shaded: Vec<[f64; 2]>,
    /// All of them together, h.
    pub shaded_h: f64,
    /// The gap at which no shade falls between 9 and 15 h, m.
    pub gap_min_m: f64,
}

/// The frames of a face as they are drawn.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct RoofRows {
    /// Rows.
    pub n: u32,
    /// Up the slope of one row, m.
    pub slope_m: f64,
    /// Gap between rows, m.
    pub gap_m: f64,
    /// Front row's upper edge above the lower edge of the next, m.
    pub height_m: f64,
    /// The shortest day; none where the latitude is not known.
    pub shortest: Option<RowShade>,
}

/// How high the sun stands, and where from north, clockwise, °.
type Sun = (f64, f64);

/// An hour of the day by its minutes.
fn hour(minutes: u32) -> f64 {
    f64::from(minutes) / 60.0
}

/// What casts the shadow, and where.
#[derive(Clone, Copy, Debug)]
struct Frames {
    height_m: f64,
    gap_m: f64,
    azimuth_deg: f64,
    lat_deg: f64,
}

impl Frames {
    /// The shadow of the front row behind it, m; none while the sun is down or behind the face.
    fn shadow_m(self, (elevation, azimuth): Sun) -> Option<f64> {
        let before = (azimuth - self.azimuth_deg).to_radians().cos();
        (elevation > 0.0 && before > 0.0)
            .then(|| self.height_m.max(0.0) * before / elevation.to_radians().tan())
    }

    /// The longest shadow of the hours that are to be free: m, the hour and the sun.
    fn longest(self, declination: f64) -> Option<(f64, f64, Sun)> {
        let [from, to] = FREE_H;
        let minutes = (from * 60.0) as u32..=(to * 60.0) as u32;
        let each = minutes.map(hour).map(|h| (h, sun_at(declination, h, self.lat_deg)));
        let shadows = each.filter_map(|(h, sun)| Some((self.shadow_m(sun)?, h, sun)));
        shadows.reduce(|a, b| if b.0 > a.0 { b } else { a })
    }

    fn day(self, month: u32, day: u32) -> Option<RowShade> {
        const MINUTES: u32 = 24 * 60;
        let declination = declination_deg(month, day)?;
        let mut sun_h: Option<[f64; 2]> = None;
        let mut shaded: Vec<[f64; 2]> = Vec::new();
        let mut last = None;
        for m in 0..=MINUTES {
            let sun = sun_at(declination, hour(m), self.lat_deg);
            if sun.0 > 0.0 {
                sun_h = Some([sun_h.map_or(hour(m), |h| h[0]), hour(m)]);
            }
            // A minute in shade counts to its end, and the day has no minute more.
            if m == MINUTES || !self.shadow_m(sun).is_some_and(|s| above(s, self.gap_m)) {
                continue;
            }
            match shaded.last_mut() {
                Some(span) if last == Some(m - 1) => span[1] = hour(m + 1),
                _ => shaded.push([hour(m), hour(m + 1)]),
            }
            last = Some(m);
        }
        Some(RowShade {
            month,
            day,
            sun_h,
            shaded_h: shaded.iter().map(|[from, to]| to - from).sum(),
            shaded,
            gap_min_m: self.longest(declination).map_or(0.0, |l| l.0),
        })
    }

    /// The shortest day of its place.
    fn shortest(self) -> Option<RowShade> {
        let (month, day) = shortest_day(self.lat_deg);
        self.day(month, day)
    }
}

/// The shortest day of a place: month and day.
fn shortest_day(lat_deg: f64) -> (u32, u32) {
    if lat_deg >= 0.0 { (12, 21) } else { (6, 21) }
}

fn frames(site: &Site, face: &Face, own: &FaceMap) -> Option<Frames> {
    let rows = own.rows?;
    Some(Frames {
        height_m: height_m(face, own)?,
        gap_m: rows.gap_m,
        azimuth_deg: face.azimuth_deg,
        lat_deg: site.latitude_deg?,
    })
}

fn height_m(face: &Face, own: &FaceMap) -> Option<f64> {
    Some(own.slope_m? * face.tilt_deg.to_radians().sin() - own.rows?.step_m)
}

/// When the rows of a face shade one another on a day of the year; none where it has no rows, or
/// their size or the latitude is not known, or the day is not in the calendar.
pub fn row_shade(
    site: &Site,
    face: &Face,
    own: &FaceMap,
    month: u32,
    day: u32,
) -> Option<RowShade> {
    frames(site, face, own)?.day(month, day)
}

/// Figures of the rows of a face, and what is drawn of them.
pub(super) fn rows(sheet: &mut Sheet, site: &Site, face: &Face, own: &FaceMap) -> Option<RoofRows> {
    let rows = own.rows?;
    let slope_m = own.slope_m?;
    let found = frames(site, face, own);
    let drawn = RoofRows {
        n: rows.n,
        slope_m,
        gap_m: rows.gap_m,
        height_m: height_m(face, own).unwrap_or(0.0),
        shortest: found.and_then(Frames::shortest),
    };
    if rows.n < 2 {
        return Some(drawn);
    }
    sheet.subject = Subject::Face { face: face.id.clone() };
    let height = sheet.figure(&HEIGHT, |w| {
        let slope = w.given("slope", Metres(slope_m), "roof map");
        let tilt = w.given("tilt", Degrees(face.tilt_deg), "site");
        let step = w.given("step", Metres(rows.step_m), "roof map");
        Some(slope * tilt.sin() - step)
    });
    let gap = sheet.figure(&GAP, |w| Some(w.given("measured", Metres(rows.gap_m), "roof map")));
    let least = sheet.figure(&GAP_MIN, |w| {
        let height = w.take("height", &height);
        let Some((f, day)) = found.zip(drawn.shortest.as_ref()) else {
            w.lack("site.latitude_deg");
            return None;
        };
        let Some((_, hour, sun)) = f.longest(declination_deg(day.month, day.day)?) else {
            w.note("From 9 to 15 h the sun does not stand before the face.");
            return Some(exact(0.0));
        };
        w.note(format!("At {hour:.2} h of sun time the shadow is longest."));
        let elevation = w.given("elevation", Degrees(sun.0), "sun, shortest day");
        let sun = w.given("sun azimuth", Degrees(sun.1), "sun, shortest day");
        let own = w.given("face azimuth", Degrees(face.azimuth_deg), "site");
        let before = w.step("before the face", (sun - own).cos());
        let tangent = w.step("tan(elevation)", elevation.clone().sin() / elevation.cos());
        Some((height? * before / tangent).max(exact(0.0)))
    });
    sheet.figure(&SHADED, |w| {
        let Some(day) = &drawn.shortest else {
            w.lack("site.latitude_deg");
            return None;
        };
        w.note("Minute by minute, while the shadow is longer than the gap.");
        Some(w.given("in shade", Hours(day.shaded_h), "sun, shortest day"))
    });
    let check = sheet.hold(&gap, Bound::at_least(&least, "with no shade"), Verdict::Warn);
    check.beyond(|over| format!("The row behind lies in shade at midwinter: {over} short."));
    if let Some(m) = least.value() {
        let m = ceil(m * 20.0) / 20.0;
        let edit = Edit::new(format!("/roof/{}/rows/gap_m", face.id), m);
        check.cure(format_args!("A gap of {}.", said(m, Unit::M)), vec![edit]);
    }
    Some(drawn)
}
