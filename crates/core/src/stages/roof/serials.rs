//! Serial numbers of the modules of a face: each once, all of one pattern, all entered.

use std::collections::HashMap;

use super::map::Map;
use crate::figure::{Sheet, Subject, Verdict};
use crate::figures;
use crate::job::FaceKey;
use crate::quantity::Ratio;

figures! { Roof;
    /// Modules whose serial number is entered.
    SERIALS_N: Count = "face.serials_n", "Serial numbers entered", "job";
}

/// Holds the serial numbers of a face against one another and against all others of the job. A face
/// on which none was entered yet is not judged.
pub(super) fn serials(sheet: &mut Sheet, map: &Map, face: &FaceKey) {
    let Some(own) = map.job.roof.get(face) else { return };
    let entered: Vec<(&_, &str)> = own
        .modules
        .iter()
        .filter_map(|(key, placed)| Some((key, placed.serial.as_deref()?)))
        .collect();
    if entered.is_empty() {
        return;
    }
    sheet.subject = Subject::Face { face: face.clone() };
    let read = entered.len();
    sheet.count(&SERIALS_N, |w| Some(w.given("entered", Ratio(read as f64), "roof map")));
    let twice = entered.iter().find_map(|(key, serial)| {
        let other = map.bearing(serial).iter().find(|other| *other != key)?;
        Some(format!("{serial} is at {} and at {}.", map.name(key), map.name(other)))
    });
    if let Some(twice) = twice {
        sheet.judge(&SERIALS_N, Verdict::Fail).reason(twice);
        return;
    }
    if let Some(odd) = odd(map, &entered) {
        sheet.judge(&SERIALS_N, Verdict::Warn).reason(odd);
        return;
    }
    let open = own.modules.len() - read;
    let missing = (open > 0).then_some("module.serial");
    sheet.known(&SERIALS_N, missing).because(|| format!("{open} of {} open.", own.modules.len()));
}

/// The first serial number that is written otherwise than most: longer, shorter, letters where the
/// others have digits.
fn odd(map: &Map, entered: &[(&crate::job::ModuleKey, &str)]) -> Option<String> {
    let mut patterns: HashMap<String, usize> = HashMap::new();
    for (_, serial) in entered {
        *patterns.entry(pattern(serial)).or_default() += 1;
    }
    let (usual, n) = patterns.iter().max_by(|a, b| a.1.cmp(b.1).then(b.0.cmp(a.0)))?;
    // Two that differ say nothing about which of them is wrong.
    if *n < 3 {
        return None;
    }
    let (key, serial) = entered.iter().find(|(_, serial)| pattern(serial) != *usual)?;
    let (is, most) = (serial.chars().count(), usual.chars().count());
    Some(format!(
        "{serial} at {} is not written like the others: {is} characters, most have {most}.",
        map.name(key)
    ))
}

/// How a serial number is written: digits as 9, letters as A, the rest as it is.
fn pattern(serial: &str) -> String {
    serial
        .chars()
        .map(|c| match c {
            _ if c.is_ascii_digit() => '9',
            _ if c.is_alphabetic() => 'A',
            _ => c,
        })
        .collect()
}
