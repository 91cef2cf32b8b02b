//! Readings of jobs: records that are only ever added, of what was taken and of what was withdrawn.

use std::collections::HashMap;

use chrono::{DateTime, SecondsFormat, Utc};
use diesel::prelude::*;
use heliant_core::evaluate::Report;
use heliant_core::job::{Reading, ReadingValues, Withdrawn, stored_reading};
use serde_json::Value as Json;
use uuid::Uuid;

use super::{as_json, news, notify, version_of, written};
use crate::problem::ApiError;
use crate::records::{Stored, count};
use crate::schema::{jobs, readings, withdrawals};

pub(super) fn add_reading_row(
    db: &mut PgConnection,
    job: Uuid,
    id: Uuid,
    reading: &Reading,
    entered_by: Option<Uuid>,
) -> Result<(), ApiError> {
    let taken_at = DateTime::parse_from_rfc3339(&reading.at);
    let taken_at = taken_at.map_or_else(|_| Utc::now(), |t| t.with_timezone(&Utc));
    diesel::insert_into(readings::table)
        .values((
            readings::id.eq(id),
            readings::job_id.eq(job),
            readings::taken_at.eq(taken_at),
            readings::taken_by.eq(&reading.by),
            readings::entered_by.eq(entered_by),
            readings::reading.eq(as_json(reading)?),
            readings::version.eq(written()),
        ))
        .execute(db)?;
    Ok(())
}

/// The readings of a job, oldest first.
///
/// # Errors
/// Of the database, or where a reading does not read.
pub fn readings_of(db: &mut PgConnection, id: Uuid) -> Result<Vec<Reading>, ApiError> {
    let rows: Vec<(i32, Json)> = readings::table
        .filter(readings::job_id.eq(id))
        .order(readings::seq)
        .select((readings::version, readings::reading))
        .load(db)?;
    let taken_back: Vec<(String, DateTime<Utc>, String, String)> = withdrawals::table
        .filter(withdrawals::job_id.eq(id))
        .select((
            withdrawals::reading,
            withdrawals::withdrawn_at,
            withdrawals::withdrawn_by,
            withdrawals::reason,
        ))
        .load(db)?;
    let mut taken_back: HashMap<String, Withdrawn> = taken_back
        .into_iter()
        .map(|(id, at, by, reason)| (id, Withdrawn { at: moment(at), by, reason }))
        .collect();
    let read = |(version, reading)| {
        let mut reading = stored_reading(version_of(version), reading)?;
        // One that was withdrawn before it came with a file says so itself.
        reading.withdrawn = reading.withdrawn.or(taken_back.remove(reading.id.as_str()));
        Ok(reading)
    };
    rows.into_iter().map(read).collect()
}

/// A moment as records write it.
pub fn moment(at: DateTime<Utc>) -> String {
    at.to_rfc3339_opts(SecondsFormat::Secs, true)
}

/// A reading as it will be kept.
pub fn new_reading(values: ReadingValues, by: &str, key: Uuid, at: DateTime<Utc>) -> Reading {
    let (id, by) = (key.to_string().into(), by.to_owned());
    Reading { id, at: moment(at), by, brought_by: None, withdrawn: None, values }
}

/// The job a reading is of.
///
/// # Errors
/// Of the database.
pub fn job_of_reading(db: &mut PgConnection, key: Uuid) -> Result<Option<Uuid>, ApiError> {
    Ok(readings::table.find(key).select(readings::job_id).first(db).optional()?)
}

/// What is recorded of readings: one that was taken, or that one counts for nothing.
#[derive(Clone, Debug)]
pub enum Record {
    /// Taken, under this key, entered by this account.
    Taken {
        /// The reading.
        reading: Box<Reading>,
        /// Its key.
        key: Uuid,
        /// Who entered it.
        entered_by: Uuid,
    },
    /// Withdrawn.
    Withdrawn {
        /// Which reading, by its id in the job.
        reading: String,
        /// By whom.
        by: String,
        /// Why.
        reason: String,
        /// When.
        at: DateTime<Utc>,
    },
}

impl Record {
    fn by(&self) -> &str {
        match self {
            Record::Taken { reading, .. } => &reading.by,
            Record::Withdrawn { by, .. } => by,
        }
    }

    /// Whether the readings hold it already.
    pub fn is_in(&self, readings: &[Reading]) -> bool {
        match self {
            Record::Taken { reading, .. } => found(readings, reading.id.as_str()).is_some(),
            Record::Withdrawn { reading, .. } => {
                found(readings, reading).is_some_and(|i| readings[i].withdrawn.is_some())
            }
        }
    }

    /// The readings with it.
    ///
    /// # Errors
    /// Where what is to be withdrawn is not among them.
    pub fn put_into(&self, readings: &mut Vec<Reading>) -> Result<(), ApiError> {
        match self {
            Record::Taken { reading, .. } => readings.push(Reading::clone(reading)),
            Record::Withdrawn { reading, by, reason, at } => {
                let i = found(readings, reading).ok_or(ApiError::NotFound("reading"))?;
                let (by, reason) = (by.clone(), reason.clone());
                readings[i].withdrawn = Some(Withdrawn { at: moment(*at), by, reason });
            }
        }
        Ok(())
    }

    /// Writes it for a job that holds it already.
    fn write(&self, db: &mut PgConnection, stored: &Stored) -> Result<(), ApiError> {
        let job = stored.id;
        match self {
            Record::Taken { reading, key, entered_by } => {
                add_reading_row(db, job, *key, reading, Some(*entered_by))
            }
            Record::Withdrawn { reading, by, reason, at } => {
                diesel::insert_into(withdrawals::table)
                    .values((
                        withdrawals::reading.eq(reading),
                        withdrawals::job_id.eq(job),
                        withdrawals::withdrawn_at.eq(at),
                        withdrawals::withdrawn_by.eq(by),
                        withdrawals::reason.eq(reason),
                        withdrawals::record_n.eq(count(&stored.readings)),
                    ))
                    .execute(db)?;
                Ok(())
            }
        }
    }
}

fn found(readings: &[Reading], id: &str) -> Option<usize> {
    readings.iter().position(|r| r.id.as_str() == id)
}

/// Keeps a record, with the report of the job that holds it already. Says whether the job was still
/// as it was before: where not, nothing is written.
///
/// # Errors
/// Of the database.
pub fn record(
    db: &mut PgConnection,
    stored: &Stored,
    report: &Report,
    record: &Record,
) -> Result<bool, ApiError> {
    db.transaction(|db| {
        let still = jobs::table
            .find(stored.id)
            .filter(jobs::revision.eq(stored.revision))
            .filter(jobs::readings_n.eq(count(&stored.readings) - 1));
        let changed = diesel::update(still)
            .set((
                jobs::verdict.eq(report.verdict.word()),
                jobs::counts.eq(as_json(&report.counts)?),
                jobs::updated_at.eq(Utc::now()),
                jobs::updated_by.eq(record.by()),
                jobs::readings_n.eq(count(&stored.readings)),
            ))
            .execute(db)?;
        if changed == 0 {
            return Ok(false);
        }
        record.write(db, stored)?;
        notify(db, &news(stored.id, stored.revision, "read"))?;
        Ok(true)
    })
}
