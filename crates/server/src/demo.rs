//! Demo data: our own scenario, loaded once into an empty database. Everything in it is made up.

use diesel::{Connection, PgConnection};
use heliant_core::library::Library;
use heliant_core::{evaluate, job};

use crate::hashing;
use crate::problem::ApiError;
use crate::store::accounts::{self, NewAccount, Role};
use crate::store::guests::{self, Given};
use crate::store::{self, jobs, library};

/// Password of every demo account; it exists in demo mode only.
pub const PASSWORD: &str = "sun-on-the-roof";

/// Name, name to sign in with and role of the demo accounts.
pub const PEOPLE: [(&str, &str, Role); 4] = [
    ("Mira Voss", "mira", Role::Owner),
    ("Tomas Brandt", "tomas", Role::Designer),
    ("Ines Rowe", "ines", Role::Field),
    ("Inspector's seat", "inspector", Role::Inspector),
];

/// The demo jobs the inspector was given a seat at.
pub const SEEN_BY_INSPECTOR: [&str; 2] = ["Kestrel Lane workshop", "Quarry Cottage"];

/// The demo jobs as files, in the order they are loaded.
pub const JOBS: [&str; 5] = [
    include_str!("../../../data/demo/quarry-cottage.json"),
    include_str!("../../../data/demo/kestrel-lane.json"),
    include_str!("../../../data/demo/pinyon-street.json"),
    include_str!("../../../data/demo/saltmarsh-nursery.json"),
    include_str!("../../../data/demo/tern-bay.json"),
];

const LIBRARY: &str = include_str!("../../../data/demo/library.json");

/// Loads the demo data where there are no accounts yet; says whether it did.
///
/// # Errors
/// Of the database, or where a demo file does not read.
pub fn load(url: &str) -> Result<bool, String> {
    let mut db = PgConnection::establish(url).map_err(|e| e.to_string())?;
    let text = |e: ApiError| format!("{e:?}");
    let sheets: Library =
        serde_json::from_str(LIBRARY).map_err(|e| format!("demo library: {e}"))?;
    db.transaction::<_, ApiError, _>(|db| {
        // Of several servers that start at once, one loads it.
        store::lock_for_start(db)?;
        if accounts::any(db)? {
            return Ok(false);
        }
        let mut inspector = None;
        for (name, sign_in, role) in PEOPLE {
            let made = accounts::create(
                db,
                &NewAccount {
                    name: name.into(),
                    sign_in: sign_in.into(),
                    role,
                    password_hash: hashing::hash(PASSWORD)?,
                },
            )?;
            inspector = made.filter(|a| a.role == Role::Inspector).or(inspector);
        }
        library::add(db, &sheets, library::Origin { by: PEOPLE[1].0, document: "demo data" })?;
        for file in JOBS {
            let opened = job::read(file).map_err(ApiError::Invalid)?;
            let file = opened.file;
            let report = evaluate(&file.job, &file.library, &file.readings);
            let id = jobs::create(db, &file, &report, PEOPLE[1].0, None)?;
            if let Some(inspector) = &inspector
                && SEEN_BY_INSPECTOR.contains(&file.job.name.as_str())
            {
                let given = Given { job: id, revision: None, by: PEOPLE[0].0 };
                guests::seat(db, inspector.id, given)?;
            }
        }
        Ok(true)
    })
    .map_err(text)
}
