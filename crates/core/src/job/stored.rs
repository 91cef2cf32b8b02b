//! What was kept by an earlier version of the program, read as the present one writes it. What is
//! kept carries the version of the job file it was written in; every kind of record goes through
//! the same migration as a job file.

use std::fmt;

use serde::de::DeserializeOwned;
use serde_json::{Value, json};

use super::migrate::migrate;
use super::{Document, Reading, VERSION};
use crate::library::SheetKind;
use crate::library::entry::{DataSheet, kept};

/// Why a record cannot be read.
#[derive(Debug, PartialEq, Eq)]
pub enum Unreadable {
    /// A newer version of the program wrote it.
    Newer {
        /// The version it was written in.
        version: u32,
    },
    /// It is not of the form its version has.
    Broken(String),
}

impl fmt::Display for Unreadable {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        match self {
            Unreadable::Newer { version } => {
                write!(f, "written in version {version} of the format; this reads up to {VERSION}")
            }
            Unreadable::Broken(why) => write!(f, "a record does not read: {why}"),
        }
    }
}

/// A part of a file, brought up to the current version by itself.
fn upgraded(version: u32, pointer: &str, part: Value) -> Result<Value, Unreadable> {
    if version == VERSION {
        return Ok(part);
    }
    if version > VERSION {
        return Err(Unreadable::Newer { version });
    }
    let empty = json!({ "modules": [], "inverters": [], "optimizers": [], "micros": [] });
    let mut file = json!({ "version": version, "job": {}, "library": empty, "readings": [] });
    let broken = |why: &str| Unreadable::Broken(why.to_owned());
    match pointer {
        "" => {
            let fields = part.as_object().ok_or_else(|| broken("no object"))?.clone();
            file.as_object_mut().ok_or_else(|| broken("no object"))?.extend(fields);
        }
        _ => {
            let list = pointer.trim_end_matches("/0");
            let place = file.pointer_mut(list).ok_or_else(|| broken("no such part"))?;
            *place = json!([part]);
        }
    }
    migrate(&mut file).map_err(Unreadable::Broken)?;
    file.pointer_mut(pointer).map(Value::take).ok_or_else(|| broken("lost on the way"))
}

fn parsed<T: DeserializeOwned>(value: Value) -> Result<T, Unreadable> {
    serde_json::from_value(value).map_err(|e| Unreadable::Broken(e.to_string()))
}

/// The job and the data sheets of a revision, as `version` wrote them.
///
/// # Errors
/// Where a newer version wrote it, or it is not of the form of its version.
pub fn stored(version: u32, document: Value) -> Result<Document, Unreadable> {
    let file = upgraded(version, "", document)?;
    parsed(json!({ "job": file["job"], "library": file["library"] }))
}

/// A reading, as `version` wrote it.
///
/// # Errors
/// As [`stored`].
pub fn stored_reading(version: u32, reading: Value) -> Result<Reading, Unreadable> {
    parsed(upgraded(version, "/readings/0", reading)?)
}

/// A data sheet, as `version` wrote it.
///
/// # Errors
/// As [`stored`].
pub fn stored_sheet(
    version: u32,
    kind: SheetKind,
    document: Value,
) -> Result<DataSheet, Unreadable> {
    let document = upgraded(version, &format!("/library/{}/0", kind.list()), document)?;
    kept(kind, document).map_err(|e| Unreadable::Broken(e.to_string()))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::{Job, Letter};
    use crate::library::Library;
    use crate::school::School;

    fn document() -> Value {
        json!({ "job": Job::new("Barn", School::Na), "library": Library::default() })
    }

    #[test]
    fn what_this_version_wrote_reads_as_it_is() {
        let read = stored(VERSION, document()).expect("the current form");
        assert_eq!(read.job, Job::new("Barn", School::Na));
    }

    #[test]
    fn an_older_document_is_brought_up() {
        // Version 1 counted the modules of a string as `modules_n` and had one inverter.
        let mut old = document();
        old["job"].as_object_mut().expect("a job").remove("plan");
        old["job"]["inverter"] = json!({ "id": "INV1", "sheet": { "sheet": "h6", "revision": 1 } });
        let module = json!({ "sheet": "m", "revision": 1 });
        old["job"]["strings"] = json!([{
            "letter": "A", "face": "f", "module": module, "modules_n": 9, "inverter": "INV1",
            "mppt": 1,
        }]);
        let read = stored(1, old).expect("version 1").job;
        assert_eq!((read.strings[0].n, read.inverters.len()), (9, 1));
    }

    #[test]
    fn what_a_newer_program_wrote_is_not_guessed_at() {
        let newer = Unreadable::Newer { version: VERSION + 1 };
        assert_eq!(stored(VERSION + 1, document()).map(|_| ()), Err(newer));
        let broken = stored(VERSION, json!({ "job": 3 }));
        assert!(matches!(broken, Err(Unreadable::Broken(_))), "{broken:?}");
    }

    #[test]
    fn readings_and_sheets_go_the_same_way() {
        let reading = json!({ "id": "r", "at": "2026-01-01T00:00:00Z", "by": "Ines",
            "values": { "string": "A", "voc_v": 400.0 } });
        for version in 1..=VERSION {
            let read = stored_reading(version, reading.clone()).expect("a reading");
            assert_eq!(read.values.string, Letter::from("A"));
            let sheet = json!({ "sheet": "m", "revision": 1, "maker": "M", "model": "X",
                "ratings": {} });
            let read = stored_sheet(version, SheetKind::Module, sheet).expect("a sheet");
            assert_eq!(read.reference().sheet, "m");
        }
    }
}
