//! The job on paper and in drawings: report and records to PDF, the roof map to SVG and DXF.
//! Computes nothing; every value comes out of the report. The page is set by the typesetter from
//! `templates/pack.typ`, which reads the data made here.

mod data;
mod map_pages;
mod printed;
mod roof;
#[cfg(test)]
mod sample;
mod typeset;
mod window;

use chrono::{DateTime, Utc};
use heliant_core::Report;
use heliant_core::job::Job;
use heliant_core::library::Library;

pub use roof::{NoPlace, RoofFormat, roof_geojson, roof_map};

/// What goes into the pack.
#[derive(Debug)]
pub struct Pack<'a> {
    /// The job.
    pub job: &'a Job,
    /// Its data sheets.
    pub library: &'a Library,
    /// Its report.
    pub report: &'a Report,
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

/// Sets the pack as a tagged PDF.
///
/// # Errors
/// What the typesetter says; a fault of ours, since the data is checked before.
pub fn pack_pdf(pack: &Pack) -> Result<Vec<u8>, String> {
    let mut files = vec![("pack.json".to_owned(), data::pack(pack).to_string().into_bytes())];
    for (i, drawing) in pack.report.string_windows.iter().enumerate() {
        files.push((
            format!("window-{i}.svg"),
            window::svg(drawing, &pack.report.tapes).into_bytes(),
        ));
    }
    for (i, svg) in roof::face_svgs(pack.job, pack.library, pack.report).into_iter().enumerate() {
        files.push((format!("roof-{i}.svg"), svg.into_bytes()));
    }
    typeset::pdf(include_str!("../templates/pack.typ"), files, &format!("{} pack", pack.job.name))
}
