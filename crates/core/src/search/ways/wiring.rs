//! A way as it would stand in the job: its notes, its strings, its edits.

use serde_json::json;

use super::assign::Assigned;
use super::setup::Setup;
use super::{Way, WayUse, WaysAsk};
use crate::figure::{Recording, Sheet, Subject, Verdict};
use crate::job::{Edit, FaceKey, Job, JobString, Letter, settle};
use crate::library::{Headed, InverterSheet};
use crate::search::deal::Deal;
use crate::search::layout::Note;
use crate::stages::strings::{MpptString, SAME_PLANE, Sources, inverter_totals};

impl Setup<'_> {
    pub(super) fn way(&self, deal: &Deal, assigned: Vec<Assigned>, unused_n: u32) -> Way {
        let (mut uses, mut notes): (Vec<WayUse>, Vec<Note>) = (Vec::new(), Vec::new());
        for Assigned { inverter, mppt, choice, strings } in &assigned {
            let id = self.inverters[*inverter].0;
            let subject = format!("{id}/{mppt}");
            notes.extend(
                choice.notes.iter().map(|n| Note { subject: subject.clone(), ..n.clone() }),
            );
            let faces: Vec<&FaceKey> =
                strings.iter().map(|(f, _)| &self.ask.faces[*f].face).collect();
            let plane = |f: &FaceKey| self.job.face(f).map(|f| (f.tilt_deg, f.azimuth_deg));
            if faces.iter().any(|f| plane(f) != plane(faces[0])) {
                notes.push(Note::plain(&SAME_PLANE, subject.clone(), Verdict::Warn));
            }
            for (face, p) in strings {
                uses.push(WayUse {
                    inverter: (*id).clone(),
                    mppt: *mppt,
                    face: self.ask.faces[*face].face.clone(),
                    n: choice.n,
                    p: *p,
                });
            }
        }
        for (i, (id, sheet)) in self.inverters.iter().enumerate() {
            let loads: Vec<MpptString> = assigned
                .iter()
                .filter(|a| a.inverter == i)
                .map(|a| MpptString { module: &self.module.ratings, n: a.choice.n, p: a.choice.p })
                .collect();
            if loads.is_empty() {
                continue;
            }
            let mut totals = Sheet::with(self.job.school, Subject::Sum, Recording::Nothing);
            inverter_totals(&mut totals, &loads, sheet, &Sources::default());
            notes.extend(totals.checks.iter().filter_map(|c| Note::of(c, id)));
        }
        notes.sort_by_key(|n| std::cmp::Reverse(n.verdict));
        let count = |v: Verdict| notes.iter().filter(|n| n.verdict == v).count() as u32;
        let modules: u32 = uses.iter().map(|u| u.n * u.p).sum();
        let (strings, edits) = into_job(self.job, self.ask, &uses, self.inverters[0].1);
        Way {
            fails_n: count(Verdict::Fail),
            unbalance_w: f64::from(deal.unbalance_n) * self.pmax_w,
            strings_n: deal.strings_n,
            margin_pct: deal.margin_pct.is_finite().then_some(deal.margin_pct),
            unused_n,
            warns_n: count(Verdict::Warn),
            power_w: f64::from(modules) * self.pmax_w,
            notes,
            current: same_wiring(&self.job.strings, &strings),
            edits,
            uses,
        }
    }
}

fn same_wiring(a: &[JobString], b: &[JobString]) -> bool {
    let keys = |strings: &[JobString]| {
        let mut keys: Vec<_> = strings
            .iter()
            .map(|s| {
                (
                    s.inverter.clone(),
                    s.mppt,
                    s.face.clone(),
                    s.n,
                    s.module.sheet.clone(),
                    s.module.revision,
                )
            })
            .collect();
        keys.sort();
        keys
    };
    keys(a) == keys(b)
}

/// The letter at a place: A to Z, then AA and on.
fn letter_at(i: usize) -> String {
    let at = |k: usize| char::from(b'A' + (k % 26) as u8);
    if i < 26 { at(i).to_string() } else { format!("{}{}", letter_at(i / 26 - 1), at(i)) }
}

/// The strings of a way, and the edits that put them into the job. A string keeps its letter where
/// one like it stays.
fn into_job(
    job: &Job,
    ask: &WaysAsk,
    uses: &[WayUse],
    sheet: &InverterSheet,
) -> (Vec<JobString>, Vec<Edit>) {
    let mut strings: Vec<JobString> = Vec::new();
    for u in uses {
        for _ in 0..u.p {
            strings.push(JobString {
                letter: Letter::from(""),
                face: u.face.clone(),
                module: ask.module.clone(),
                n: u.n,
                inverter: u.inverter.clone(),
                mppt: u.mppt,
                ..JobString::default()
            });
        }
    }
    // The same string, then one of the same face, keeps its letter.
    let mut left: Vec<&JobString> = job.strings.iter().collect();
    type Like = fn(&JobString, &JobString) -> bool;
    let likes: [Like; 3] = [
        |a, b| a.face == b.face && a.inverter == b.inverter && a.mppt == b.mppt && a.n == b.n,
        |a, b| a.face == b.face && a.inverter == b.inverter && a.mppt == b.mppt,
        |a, b| a.face == b.face,
    ];
    for like in likes {
        for string in strings.iter_mut().filter(|s| s.letter.is_empty()) {
            if let Some(at) = left.iter().position(|old| like(old, string)) {
                let old = left.remove(at);
                string.letter = old.letter.clone();
                // One of as many modules lies on the roof as it did.
                if old.n == string.n {
                    string.modules.clone_from(&old.modules);
                    string.jumpers.clone_from(&old.jumpers);
                    string.reversed.clone_from(&old.reversed);
                    string.plus_first = old.plus_first;
                }
            }
        }
    }
    let mut next = 0;
    for i in 0..strings.len() {
        while strings[i].letter.is_empty() {
            let letter = Letter::from(letter_at(next));
            if strings.iter().any(|s| s.letter == letter)
                || job.branches.iter().any(|b| b.letter == letter)
            {
                next += 1;
            } else {
                strings[i].letter = letter;
            }
        }
    }
    strings.sort_by(|a, b| (a.letter.len(), &a.letter).cmp(&(b.letter.len(), &b.letter)));
    let mut edits = vec![Edit::new("/strings", json!(strings))];
    for inverter in &job.inverters {
        if inverter.sheet != sheet.reference()
            && job.inverters.iter().all(|j| j.sheet != sheet.reference())
        {
            edits.push(Edit::new(
                format!("/inverters/{}/sheet", inverter.id),
                json!(sheet.reference()),
            ));
        }
    }
    // The plan follows: what is gone takes its circuit with it, what is new gets one.
    let mut settled = job.clone();
    settled.strings.clone_from(&strings);
    settle(&mut settled, &mut Vec::new());
    if settled.plan != job.plan {
        edits.push(Edit::new("/plan", json!(settled.plan)));
    }
    (strings, edits)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn letters_go_on_after_z() {
        assert_eq!(
            [0, 25, 26, 51, 52, 701, 702].map(letter_at),
            ["A", "Z", "AA", "AZ", "BA", "ZZ", "AAA"]
        );
    }
}
