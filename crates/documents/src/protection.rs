//! Protection, panels, parties, earth and labels as the pack's template reads them, and the
//! drawings that go with them.

use std::fmt::Write as _;

use heliant_core::figure::Verdict;
use heliant_core::job::{DeviceKind, Party};
use heliant_core::labels::labels;
use heliant_core::one_line::{OneLineSheet, Paper, Title, one_line};
use heliant_core::plan::PlanFound;
use heliant_core::quantity::Unit;
use heliant_core::school::School;
use heliant_core::stages::earth::{BondBy, MetalPart, PartKind};
use heliant_core::stages::protection::EnclosureDrawing;
use serde_json::{Value as Json, json};

use crate::Pack;
use crate::cover::at;
use crate::found::Found;
use crate::named::{subject, word};
use crate::printed::printed;
use crate::roof::escaped;

/// The one-line of a pack, on the paper it is printed on.
pub(crate) fn diagram(pack: &Pack) -> Vec<OneLineSheet> {
    let paper = if pack.job.school == School::Na { Paper::Letter } else { Paper::A4 };
    let title = Title {
        revision: format!("Revision {}", pack.revision),
        date: at(pack.job, pack.saved_at),
        by: pack.saved_by.to_owned(),
    };
    one_line(pack.job, pack.library, pack.report, &title, paper).sheets
}

pub(crate) fn device(what: DeviceKind) -> &'static str {
    match what {
        DeviceKind::Breaker => "breaker",
        DeviceKind::Fuse => "fuse",
        DeviceKind::Isolator => "isolator",
        DeviceKind::SurgeDevice => "surge device",
        DeviceKind::Rcd => "residual-current device",
        DeviceKind::Bus => "busbar",
        DeviceKind::EarthBar => "earth bar",
        DeviceKind::Meter => "meter",
        DeviceKind::CurrentTransformer => "current transformer",
        DeviceKind::ShutdownStarter => "starter of the rapid shutdown",
    }
}

fn amps(a: Option<f64>) -> String {
    a.map_or_else(|| "–".to_owned(), |a| printed(a, Unit::A))
}

fn party(party: Party) -> &'static str {
    match party {
        Party::Fire => "Fire service",
        Party::Authority => "Wiring authority",
        Party::Network => "Network operator",
    }
}

fn bond(by: BondBy) -> &'static str {
    match by {
        BondBy::Lugs => "lugs and conductor",
        BondBy::Mount => "its mount",
        BondBy::EarthWire => "earth wire",
        BondBy::Conductor => "bonding conductor",
        BondBy::Fittings => "fittings",
    }
}

fn part(kind: PartKind) -> &'static str {
    match kind {
        PartKind::Frames => "frames and rails",
        PartKind::Units => "units",
        PartKind::Case => "case",
        PartKind::Inverter => "inverter",
        PartKind::Panel => "panel",
        PartKind::Raceway => "metal raceway",
        PartKind::Electrode => "electrode",
    }
}

/// The parts on the way to the electrode; nothing where there is none.
fn way_to_earth(pack: &Pack, found: &Found, part: &MetalPart) -> String {
    if part.steps_n.is_none() {
        return String::new();
    }
    let path = pack.report.bonding.path(part);
    path.iter().map(|p| subject(&p.subject, pack, found)).collect::<Vec<_>>().join(" – ")
}

pub(crate) fn protection(pack: &Pack, found: &Found) -> Json {
    let (job, report) = (pack.job, pack.report);
    // With the ratings that come from data sheets.
    let plan = PlanFound::of(job, pack.library).plan;
    let devices = plan.nodes.iter().flat_map(|(key, n)| {
        n.devices.iter().map(move |(d, own)| {
            let sheet = own.sheet.as_ref().map(|s| s.sheet.as_str());
            json!({
                "node": key, "device": d, "what": device(own.what),
                "sheet": sheet.unwrap_or("–"), "amps": amps(own.amps_a),
                "feeds": own.feeds,
            })
        })
    });
    let boards = report.boards.iter().map(|b| {
        json!({
            "node": b.node,
            "bus": amps(b.bus_a), "main": amps(b.main_a),
            "loads": b.loads_a.iter().map(|a| format!("{a:.0}")).collect::<Vec<_>>().join(" "),
            "feeds": b.feeds.iter().map(|f| {
                format!("{}: {} on {}", f.circuit, amps(f.rated_a), amps(f.breaker_a))
            }).collect::<Vec<_>>().join(", "),
            "choices": b.choices.iter().map(|c| json!({
                "title": c.title, "verdict": word(c.verdict), "outage": c.outage, "built": c.built,
            })).collect::<Vec<_>>(),
        })
    });
    let demands = job.demands.iter().map(|(key, d)| {
        let drawn = report.demands.iter().find(|r| r.demand == *key);
        json!({
            "party": party(d.party),
            "title": drawn.map_or("", |r| r.title.as_str()),
            "text": d.text, "by": d.said_by, "on": d.said_on, "evidence": d.evidence,
            "verdict": word(drawn.map_or(Verdict::Unknown, |r| r.verdict)),
        })
    });
    let bonding = report.bonding.parts.iter().filter(|p| p.metal).map(|p| {
        json!({
            "part": subject(&p.subject, pack, found), "kind": part(p.kind),
            "verdict": word(p.verdict), "path": way_to_earth(pack, found, p),
        })
    });
    let named = |key: &str| {
        let own = report.bonding.parts.iter().find(|p| p.key == key);
        own.map_or_else(|| key.to_owned(), |p| subject(&p.subject, pack, found))
    };
    let joints = report.bonding.edges.iter().filter(|e| e.size.is_some()).map(|e| {
        json!({
            "from": named(&e.from), "to": named(&e.to), "by": bond(e.by), "size": e.size,
            "how": if e.insulated { "insulated" } else { "bare" },
        })
    });
    let labels = labels(job, pack.library, report);
    let labels = labels.iter().map(|l| {
        json!({
            "place": l.place, "text": l.lines.join(" / "), "n": l.n, "source": l.source,
            "size": format!("{:.0} × {:.0} mm", l.size_mm[0], l.size_mm[1]), "open": l.open,
        })
    });
    json!({
        "diagrams": diagram(pack).len(),
        "devices": devices.collect::<Vec<_>>(),
        "enclosures": report.enclosures.iter().map(|e| e.node.to_string()).collect::<Vec<_>>(),
        "boards": boards.collect::<Vec<_>>(),
        "demands": demands.collect::<Vec<_>>(),
        "bonding": bonding.collect::<Vec<_>>(),
        "joints": joints.collect::<Vec<_>>(),
        "labels": labels.collect::<Vec<_>>(),
    })
}

/// Millimetres of a way.
const WAY_MM: f64 = 17.5;
/// From rail to rail, and the height of a device, mm.
const RAIL_MM: f64 = 125.0;
const DEVICE_MM: f64 = 85.0;

/// An enclosure to scale, rail by rail.
pub(crate) fn enclosure_svg(own: &EnclosureDrawing) -> String {
    let ways = own.rails.iter().map(|r| r.ways_n).fold(1.0, f64::max);
    let (width, height) = (ways * WAY_MM + 40.0, own.rails.len() as f64 * RAIL_MM + 20.0);
    let mut out = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {width} {height}\" \
         font-family=\"sans-serif\" font-size=\"9\" text-anchor=\"middle\" fill=\"none\" \
         stroke=\"#15202B\">\n<rect x=\"2\" y=\"2\" width=\"{}\" height=\"{}\" rx=\"4\"/>\n",
        width - 4.0,
        height - 4.0
    );
    for (k, rail) in own.rails.iter().enumerate() {
        let top = 10.0 + k as f64 * RAIL_MM + (RAIL_MM - DEVICE_MM) / 2.0;
        let middle = top + DEVICE_MM / 2.0;
        let _ = writeln!(
            out,
            "<line x1=\"20\" y1=\"{middle}\" x2=\"{}\" y2=\"{middle}\" stroke=\"#8A949C\"/>",
            20.0 + rail.ways_n * WAY_MM
        );
        for d in &rail.devices {
            let (x, w) = (20.0 + d.left_ways * WAY_MM, d.ways_n * WAY_MM);
            let stroke = if d.fits { "#15202B" } else { "#B0261C" };
            let _ = writeln!(
                out,
                "<rect x=\"{x}\" y=\"{top}\" width=\"{w}\" height=\"{DEVICE_MM}\" fill=\"#FFFFFF\" \
                 stroke=\"{stroke}\"/><text x=\"{}\" y=\"{}\" fill=\"#15202B\" stroke=\"none\">{}\
                 </text>",
                x + w / 2.0,
                middle + 3.0,
                escaped(d.device.as_str())
            );
        }
    }
    out.push_str("</svg>\n");
    out
}

#[cfg(test)]
mod tests {
    use heliant_core::evaluate;
    use heliant_core::job;

    use super::*;
    use crate::sample::pack_of;

    fn quarry() -> Json {
        let text = include_str!("../../../data/demo/quarry-cottage.json");
        let file = job::read(text).expect("the demo job reads").file;
        let report = evaluate(&file.job, &file.library, &file.readings);
        protection(&pack_of(&file, &report), &Found::of(&report))
    }

    fn row<'j>(all: &'j Json, list: &str, is: impl Fn(&Json) -> bool) -> &'j Json {
        let rows = all[list].as_array().expect("a list");
        rows.iter().find(|r| is(r)).unwrap_or_else(|| panic!("not among {rows:?}"))
    }

    #[test]
    fn a_rating_that_stands_on_the_data_sheet_is_printed() {
        let packed = quarry();
        // Nobody typed the 16 A of the backup board's breaker.
        let own = row(&packed, "devices", |d| d["device"] == "C16");
        assert_eq!((&own["amps"], &own["sheet"]), (&json!("16.00 A"), &json!("alder-c16")));
    }

    #[test]
    fn joints_and_ways_to_earth_say_places_by_their_names() {
        let packed = quarry();
        let own = row(&packed, "joints", |j| j["by"] == "lugs and conductor");
        assert_eq!(
            (&own["from"], &own["to"], &own["size"]),
            (&json!("Face s"), &json!("RB"), &json!("6"))
        );
        let inverter = row(&packed, "bonding", |p| p["part"] == "INV1");
        assert_eq!(inverter["path"], "INV1 – MP");
    }

    #[test]
    fn an_enclosure_is_drawn_to_scale() {
        let text = include_str!("../../../data/demo/saltmarsh-nursery.json");
        let file = job::read(text).expect("the demo job reads").file;
        let report = evaluate(&file.job, &file.library, &file.readings);
        let own = report.enclosures.iter().find(|e| e.node == "CB1").expect("it is drawn");
        let svg = enclosure_svg(own);
        // Twelve ways of 17.5 mm and 20 mm at either side; the isolator takes four of them.
        assert!(svg.contains("viewBox=\"0 0 250 "), "{svg}");
        assert!(svg.contains("width=\"70\"") && svg.contains(">DISC\n") || svg.contains(">DISC<"));
    }
}
