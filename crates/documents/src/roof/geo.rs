//! The faces and modules as GeoJSON (RFC 7946), seen from above.

use heliant_core::job::{Face, FaceMap, Job};
use heliant_core::library::Library;
use heliant_core::stages::roof::{Map, laid_mm, outline};
use serde_json::{Value, json};

type Point = [f64; 2];

/// Mean radius of the earth, m.
const EARTH_M: f64 = 6_371_008.8;

/// The site has no latitude and longitude.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct NoPlace;

/// A face laid level on the map, the left end of its eave at the site's point.
struct Laid<'a> {
    face: &'a Face,
    own: &'a FaceMap,
    lat_deg: f64,
    lon_deg: f64,
}

impl Laid<'_> {
    /// Level metres up the slope: a frame's own slope is foreshortened, the gaps between rows are
    /// level already.
    fn level_m(&self, y_mm: f64) -> f64 {
        let flat = self.face.tilt_deg.to_radians().cos();
        let y = y_mm / 1000.0;
        match (self.own.rows, self.own.slope_m) {
            (Some(rows), Some(slope)) => {
                let row = (y / (slope + rows.gap_m)).floor();
                let on_it = (y - row * (slope + rows.gap_m)).min(slope);
                row * (slope * flat + rows.gap_m) + on_it * flat
            }
            _ => y * flat,
        }
    }

    /// Longitude and latitude of a place on the face; east of 180° it goes on to more.
    fn place(&self, [x, y]: Point) -> Point {
        let (along, up) = (x / 1000.0, self.level_m(y));
        let azimuth = self.face.azimuth_deg.to_radians();
        // Upslope is away from where the face looks; the eave runs to the right of that.
        let east = -along * azimuth.cos() - up * azimuth.sin();
        let north = along * azimuth.sin() - up * azimuth.cos();
        let lat = (self.lat_deg + (north / EARTH_M).to_degrees()).clamp(-90.0, 90.0);
        let round = self.lat_deg.to_radians().cos().max(LEAST_ROUND) * EARTH_M;
        let lon = self.lon_deg + (east / round).to_degrees();
        let exact = |deg: f64| (deg * 1e8).round() / 1e8;
        [exact(lon), exact(lat)]
    }

    /// The geometry of a shape: a polygon, two of them where it lies on both sides of 180°, or the
    /// line it is seen as from above where it stands upright.
    fn geometry(&self, corners: &[Point]) -> Value {
        let ring: Vec<Point> = corners.iter().map(|c| self.place(*c)).collect();
        let west = |edge: f64| move |p: Point| edge - p[0];
        let east = |edge: f64| move |p: Point| p[0] - edge;
        let back = |ring: Vec<Point>, by: f64| ring.into_iter().map(|[x, y]| [x + by, y]).collect();
        let parts = [
            back(cut(&ring, east(180.0)), -360.0),
            cut(&cut(&ring, west(180.0)), east(-180.0)),
            back(cut(&ring, west(-180.0)), 360.0),
        ];
        let parts: Vec<Vec<Point>> = parts.into_iter().map(once).filter(|p| p.len() > 1).collect();
        let closed = |ring: &Vec<Point>| -> Vec<Point> {
            // Outer rings run against the clock and end where they begin.
            ring.iter().chain(ring.first()).copied().collect()
        };
        let areas: Vec<_> = parts.iter().filter(|p| wide(p)).map(closed).collect();
        match (areas.as_slice(), parts.first().map(|p| longest(p))) {
            ([], Some(line)) => json!({ "type": "LineString", "coordinates": line }),
            ([], None) => json!({ "type": "Point", "coordinates": [self.lon_deg, self.lat_deg] }),
            ([one], _) => json!({ "type": "Polygon", "coordinates": [one] }),
            (several, _) => {
                let each: Vec<_> = several.iter().map(|ring| [ring]).collect();
                json!({ "type": "MultiPolygon", "coordinates": each })
            }
        }
    }
}

/// The round of a parallel is not taken as less than this share of the equator's: at the poles
/// there is no east.
const LEAST_ROUND: f64 = 0.01;

/// The part of a ring on the side on which `inside` is not negative (Sutherland and Hodgman,
/// Communications of the ACM 17, 1974).
fn cut(ring: &[Point], inside: impl Fn(Point) -> f64) -> Vec<Point> {
    let mut kept = Vec::new();
    for (i, &to) in ring.iter().enumerate() {
        let from = ring[(i + ring.len() - 1) % ring.len()];
        let (a, b) = (inside(from), inside(to));
        if (a < 0.0) != (b < 0.0) {
            let t = a / (a - b);
            kept.push([from[0] + t * (to[0] - from[0]), from[1] + t * (to[1] - from[1])]);
        }
        if b >= 0.0 {
            kept.push(to);
        }
    }
    kept
}

/// A position is written to so many degrees, a millimetre on the ground.
const STEP_DEG: f64 = 1e-8;

/// Whether a ring has an area that can be told from that of a line.
fn wide(ring: &[Point]) -> bool {
    let [from, to] = longest(ring);
    let across = |p: &Point| {
        ((to[0] - from[0]) * (p[1] - from[1]) - (to[1] - from[1]) * (p[0] - from[0])).abs()
    };
    let length = (to[0] - from[0]).hypot(to[1] - from[1]);
    ring.iter().any(|p| across(p) > 2.0 * STEP_DEG * length)
}

/// The two points of a ring that lie farthest apart.
fn longest(ring: &[Point]) -> [Point; 2] {
    let far = |[a, b]: &[Point; 2]| (a[0] - b[0]).hypot(a[1] - b[1]);
    let pairs = ring.iter().flat_map(|a| ring.iter().map(move |b| [*a, *b]));
    pairs.max_by(|a, b| far(a).total_cmp(&far(b))).unwrap_or_default()
}

/// A ring in which no point stands twice.
fn once(ring: Vec<Point>) -> Vec<Point> {
    let mut kept: Vec<Point> = Vec::new();
    for p in ring {
        if !kept.contains(&p) {
            kept.push(p);
        }
    }
    kept
}

/// Every face with a size, and every module on it.
///
/// # Errors
/// Where the site has no latitude and longitude.
pub fn roof_geojson(job: &Job, library: &Library) -> Result<Value, NoPlace> {
    let (Some(lat_deg), Some(lon_deg)) = (job.site.latitude_deg, job.site.longitude_deg) else {
        return Err(NoPlace);
    };
    let map = Map::of(job, library);
    let mut features = Vec::new();
    for face in &job.site.faces {
        let Some(own) = job.roof.get(&face.id) else { continue };
        let laid = Laid { face, own, lat_deg, lon_deg };
        if let Some(corners) = outline(own) {
            features.push(json!({
                "type": "Feature",
                "geometry": laid.geometry(&corners),
                "properties": { "kind": "face", "face": face.id, "name": face.name,
                    "tilt_deg": face.tilt_deg, "azimuth_deg": face.azimuth_deg,
                    "modules_n": own.modules.len() },
            }));
        }
        let Some(size) = map.size(&face.id) else { continue };
        for (key, m) in &own.modules {
            let [wide, high] = laid_mm(size, m.landscape);
            let (x, y) = (m.x_mm, m.y_mm);
            let corners = [[x, y], [x + wide, y], [x + wide, y + high], [x, y + high]];
            features.push(json!({
                "type": "Feature",
                "geometry": laid.geometry(&corners),
                "properties": { "kind": "module", "face": face.id, "module": key,
                    "place": map.name(key), "serial": m.serial },
            }));
        }
    }
    Ok(json!({ "type": "FeatureCollection", "features": features }))
}
