//! The job on paper and in drawings: report and records to what the press sets, the roof map to
//! SVG and DXF. Computes nothing; every value comes out of the report. The pages are set by
//! `heliant-press`, a program of its own, from the order made here.

mod cover;
mod data;
mod drawn;
mod found;
mod map_pages;
mod named;
mod printed;
mod protection;
mod roof;
#[cfg(test)]
mod sample;
mod schedule;
mod sheets;
mod window;

use std::collections::BTreeMap;

use chrono::{DateTime, Utc};
use heliant_core::Report;
use heliant_core::job::Job;
use heliant_core::library::Library;
use serde::Serialize;
use serde_json::Value as Json;

pub use drawn::{sheet_svg, sheets_dxf, sheets_pdf};
pub use roof::{NoPlace, RoofFormat, roof_geojson, roof_map};
pub use sheets::SheetOrigin;

/// What goes into the pack.
#[derive(Debug)]
pub struct Pack<'a> {
    /// The job.
    pub job: &'a Job,
    /// Its data sheets.
    pub library: &'a Library,
    /// Its report.
    pub report: &'a Report,
    /// Where its data sheets come from, as far as the company knows.
    pub origins: &'a [SheetOrigin],
    /// Its revision.
    pub revision: i32,
    /// When that was saved.
    pub saved_at: DateTime<Utc>,
    /// By whom.
    pub saved_by: &'a str,
    /// When it is printed.
    pub printed_at: DateTime<Utc>,
    /// By whom.
    pub printed_by: &'a str,
}

/// What the press is told to set: the template's name, what the document is told apart by, and the
/// files the template reads, by name.
#[derive(Debug, Serialize)]
pub struct Order {
    /// Which template.
    pub template: &'static str,
    /// What the document is told apart by.
    pub ident: String,
    /// Data as JSON, drawings as SVG.
    pub files: BTreeMap<String, String>,
}

impl Order {
    /// The pack of a job: one document, or where that would hold more than `most` checks and
    /// figures the papers, and the appendix of checks and workings in documents of its own.
    pub fn to_pack(pack: &Pack, most: usize) -> Vec<Order> {
        let (papers, appendices) = data::pack(pack, most);
        let n = appendices.len();
        let template = if n == 0 { "pack" } else { "papers" };
        let appendix = |(i, data): (usize, Json)| Order {
            template: "appendix",
            ident: format!("{} pack appendix {}", pack.job.name, i + 1),
            files: BTreeMap::from([("pack.json".to_owned(), data.to_string())]),
        };
        let appendices = appendices.into_iter().enumerate().map(appendix);
        std::iter::once(Order::papers(pack, template, &papers)).chain(appendices).collect()
    }

    fn papers(pack: &Pack, template: &'static str, data: &Json) -> Order {
        let mut files = BTreeMap::from([("pack.json".to_owned(), data.to_string())]);
        for (i, drawing) in pack.report.string_windows.iter().enumerate() {
            files.insert(format!("window-{i}.svg"), window::svg(drawing, &pack.report.tapes));
        }
        let faces = roof::face_svgs(pack.job, pack.library, pack.report);
        for (i, svg) in faces.into_iter().enumerate() {
            files.insert(format!("roof-{i}.svg"), svg);
        }
        for (i, sheet) in protection::diagram(pack).iter().enumerate() {
            let svg = drawn::sheet_svg(sheet, &pack.report.tapes);
            files.insert(format!("one-line-{i}.svg"), svg);
        }
        for (i, enclosure) in pack.report.enclosures.iter().enumerate() {
            let svg = protection::enclosure_svg(enclosure);
            files.insert(format!("enclosure-{i}.svg"), svg);
        }
        Order { template, ident: format!("{} pack", pack.job.name), files }
    }
}
