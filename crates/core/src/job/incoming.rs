//! Data sheets that come with a job file, held against the company's library: what each is there,
//! and under which revision the job keeps it.

use serde::Serialize;
use utoipa::ToSchema;

use super::{Job, applied};
use crate::library::entry::room;
use crate::library::{DataSheet, Library, SheetKind, SheetRef};

/// What a data sheet of a file is to the library.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Arrives {
    /// A sheet the library has not.
    New,
    /// A further revision of one it has.
    NewRevision,
    /// It is there just so.
    There,
    /// The library has this revision with other values: it gets a number of its own.
    Differs,
    /// Its number is too far ahead: it stays with the job.
    TooFarAhead,
}

/// A data sheet of a file.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Incoming {
    /// Kind.
    pub kind: SheetKind,
    /// Key of the sheet.
    pub sheet: String,
    /// Its revision in the file.
    pub revision: u32,
    /// Maker and model.
    pub name: String,
    /// What it is to the library.
    pub arrives: Arrives,
    /// The revision the job keeps it under.
    pub keeps: u32,
}

/// What each data sheet of a file is to the company's library.
pub fn incoming(file: &Library, company: &Library) -> Vec<Incoming> {
    let (theirs, ours) = (file.sheets(), company.sheets());
    let look = |sheet: &DataSheet| {
        let (kind, own) = (sheet.kind(), sheet.reference());
        let of_sheet = |all: &[DataSheet]| -> Vec<DataSheet> {
            let same = |s: &&DataSheet| s.kind() == kind && s.reference().sheet == own.sheet;
            all.iter().filter(same).cloned().collect()
        };
        let there = of_sheet(&ours);
        let newest = |all: &[DataSheet]| all.iter().map(|s| s.reference().revision).max();
        let same = there.iter().find(|s| s.reference().revision == own.revision);
        let arrives = match same {
            Some(same) if same == sheet => Arrives::There,
            Some(_) => Arrives::Differs,
            None if room(newest(&there), own.revision).is_err() => Arrives::TooFarAhead,
            None if there.is_empty() => Arrives::New,
            None => Arrives::NewRevision,
        };
        // A number that neither the library nor the file has.
        let free = newest(&there).max(newest(&of_sheet(&theirs))).map_or(1, |n| n + 1);
        let head = sheet.head();
        Incoming {
            kind,
            revision: own.revision,
            name: format!("{} {}", head.maker, head.model),
            sheet: own.sheet,
            arrives,
            keeps: if arrives == Arrives::Differs { free } else { own.revision },
        }
    };
    theirs.iter().map(look).collect()
}

/// A job and its data sheets with each sheet under the revision it is kept under; and those of them
/// that can be added to the library.
pub fn settled_in(job: Job, file: &Library, incoming: &[Incoming]) -> (Job, Library, Library) {
    let (mut job, mut kept, mut offered) = (job, Library::default(), Library::default());
    for (sheet, arrival) in file.sheets().into_iter().zip(incoming) {
        let from = sheet.reference();
        let sheet = sheet.with_revision(arrival.keeps);
        if arrival.keeps != from.revision {
            let to = SheetRef { revision: arrival.keeps, ..from.clone() };
            let edits = job.replacing(sheet.kind(), &from, &to);
            job = applied(&job, &edits).unwrap_or(job);
        }
        if !matches!(arrival.arrives, Arrives::There | Arrives::TooFarAhead) {
            sheet.clone().put_into(&mut offered);
        }
        sheet.put_into(&mut kept);
    }
    (job, kept, offered)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::{JobFile, read};

    fn kestrel() -> JobFile {
        read(include_str!("../../../../data/demo/kestrel-lane.json")).expect("it reads").file
    }

    fn arrives(file: &Library, company: &Library) -> Vec<Arrives> {
        incoming(file, company).iter().map(|i| i.arrives).collect()
    }

    #[test]
    fn a_sheet_is_new_there_or_another_than_the_librarys() {
        let file = kestrel().library;
        let all = file.sheets().len();
        assert_eq!(arrives(&file, &Library::default()), vec![Arrives::New; all]);
        assert_eq!(arrives(&file, &file), vec![Arrives::There; all]);
        let mut company = file.clone();
        company.modules[0].revision = 7;
        assert_eq!(incoming(&file, &company)[0].arrives, Arrives::NewRevision);
        company.modules[0].revision = file.modules[0].revision;
        company.modules[0].ratings.voc_v = Some(1.0);
        let seen = &incoming(&file, &company)[0];
        let next = file.modules[0].revision + 1;
        assert_eq!((seen.arrives, seen.keeps), (Arrives::Differs, next));
    }

    #[test]
    fn one_with_other_values_becomes_a_revision_of_its_own_wherever_the_job_names_it() {
        let JobFile { job, library: file, .. } = kestrel();
        let mut company = file.clone();
        company.modules[0].ratings.voc_v = Some(1.0);
        let seen = incoming(&file, &company);
        let (renamed, kept, offered) = settled_in(job.clone(), &file, &seen);
        let (old, new) = (file.modules[0].revision, file.modules[0].revision + 1);
        assert_eq!(kept.modules[0].revision, new);
        assert_eq!(kept.modules[0].ratings, file.modules[0].ratings, "the job's values stay");
        assert_eq!((offered.sheets().len(), offered.modules[0].revision), (1, new));
        let key = &file.modules[0].sheet;
        for (before, after) in job.strings.iter().zip(&renamed.strings) {
            let own = before.module.sheet == *key && before.module.revision == old;
            let wanted = if own { new } else { before.module.revision };
            assert_eq!(after.module.revision, wanted);
        }
    }

    #[test]
    fn a_number_far_ahead_blocks_no_sheet() {
        let mut file = kestrel().library;
        let company = file.clone();
        file.modules[0].revision = 9999;
        let seen = incoming(&file, &company);
        assert_eq!((seen[0].arrives, seen[0].keeps), (Arrives::TooFarAhead, 9999));
        let (_, kept, offered) = settled_in(kestrel().job, &file, &seen);
        assert_eq!((kept.modules[0].revision, offered.sheets().len()), (9999, 0));
        assert!(room(Some(4), 104).is_ok() && room(Some(4), 105).is_err());
        assert!(room(None, 2026).is_ok() && room(None, 9999).is_err());
    }
}
