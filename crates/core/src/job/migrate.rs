//! Older versions of the job file, brought up to the current one step by step. Every change is
//! listed.

use serde_json::{Map, Value, json};

use super::{VERSION, v2};

/// Brings a file up to [`VERSION`] in place and says what it changed. `Err` for a version that is
/// unknown.
pub(super) fn migrate(file: &mut Value) -> Result<Vec<String>, String> {
    let mut changes = Vec::new();
    loop {
        match file.get("version").and_then(Value::as_u64) {
            Some(1) => from_1(file, &mut changes),
            Some(2) => from_2(file, &mut changes)?,
            Some(3) => raised(file, 4),
            Some(4) => raised(file, 5),
            Some(5) => raised(file, 6),
            Some(6) => raised(file, 7),
            Some(v) if v == u64::from(VERSION) => return Ok(changes),
            Some(v) => {
                return Err(format!(
                    "version {v} is not one this program reads; it reads 1 to {VERSION}"
                ));
            }
            // The schema says what is wrong with a missing version or one of the wrong type.
            None => return Ok(changes),
        }
    }
}

/// Version 1 had one `inverter`, `modules_n` for the count of a string, and no readings.
fn from_1(file: &mut Value, changes: &mut Vec<String>) {
    let Some(root) = file.as_object_mut() else { return };
    root.insert("version".to_owned(), json!(2));
    if !root.contains_key("readings") {
        root.insert("readings".to_owned(), json!([]));
        changes.push("/readings: added, empty".to_owned());
    }
    let Some(job) = root.get_mut("job").and_then(Value::as_object_mut) else { return };
    if let Some(inverter) = job.remove("inverter") {
        job.insert("inverters".to_owned(), json!([inverter]));
        changes.push("/job/inverter: now the first of /job/inverters".to_owned());
    }
    let strings = job
        .get_mut("strings")
        .and_then(Value::as_array_mut)
        .map(Vec::as_mut_slice)
        .unwrap_or_default();
    for (i, string) in strings.iter_mut().filter_map(Value::as_object_mut).enumerate() {
        rename(string, "modules_n", "n", &format!("/job/strings/{i}"), changes);
    }
}

/// Version 2 had runs with segments of their own, one panel, and home runs that stood with their
/// branches. They become the plan's nodes, ways and circuits.
fn from_2(file: &mut Value, changes: &mut Vec<String>) -> Result<(), String> {
    let Some(root) = file.as_object_mut() else { return Ok(()) };
    root.insert("version".to_owned(), json!(3));
    let Some(job) = root.get_mut("job").and_then(Value::as_object_mut) else { return Ok(()) };
    if job.contains_key("plan") {
        return Err(
            "a file of version 2 has no plan; its version is 3, or its plan goes".to_owned()
        );
    }
    let old: v2::Old = serde_json::from_value(Value::Object(job.clone()))
        .map_err(|e| format!("runs, strings or branches of a file of version 2: {e}"))?;
    let plan = v2::plan(&old);
    for (was, now) in [("runs", "its ways and circuits"), ("panel", "the panel of its node MP")] {
        if job.remove(was).is_some() {
            changes.push(format!("/job/{was}: now {now} in /job/plan"));
        }
    }
    let branches = job.get_mut("branches").and_then(Value::as_array_mut);
    for branch in branches.into_iter().flatten().filter_map(Value::as_object_mut) {
        branch.remove("home_run_m");
        branch.remove("wire");
    }
    if old.has_branches() {
        changes.push("/job/branches: home runs and their wire are circuits of the plan".to_owned());
    }
    let plan = serde_json::to_value(plan).map_err(|e| e.to_string())?;
    job.insert("plan".to_owned(), plan);
    Ok(())
}

/// Version 3 knew neither customer, contact and time zone nor readings that were withdrawn; version
/// 4 neither bends and rise of a way nor sizes of its boxes; version 5 neither kept routes,
/// cable that is there, prices, nor what is round a panel. What is new may be absent.
fn raised(file: &mut Value, to: u32) {
    if let Some(root) = file.as_object_mut() {
        root.insert("version".to_owned(), json!(to));
    }
}

fn rename(
    object: &mut Map<String, Value>,
    from: &str,
    to: &str,
    place: &str,
    changes: &mut Vec<String>,
) {
    if let Some(value) = object.remove(from) {
        object.insert(to.to_owned(), value);
        changes.push(format!("{place}/{from}: now {to}"));
    }
}
