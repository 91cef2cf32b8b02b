//! Equipment: whether anything is chosen, and whether a data sheet agrees with itself.

use crate::figure::{Def, Sheet, Stage, Subject, SubjectKind, Verdict};
use crate::job::Job;
use crate::library::Library;
use crate::library::entry::pmax_off;

static CHOSEN: Def = Def { id: "equipment.inverter", title: "Inverter chosen", stage: Stage::Equipment, na: "job", iec: "job" };
pub(super) fn equipment(sheet: &mut Sheet, job: &Job, library: &Library) {
    sheet.subject = Subject::new(SubjectKind::Site, "site");
    let chosen = job.inverters.iter().any(|i| library.inverter(&i.sheet).is_some());
    let check = sheet.judge(&CHOSEN, if chosen { Verdict::Pass } else { Verdict::Unknown });
    if !chosen {
        check.missing = vec!["inverters".to_owned()];
    }
    let mut seen = Vec::new();
    for s in &job.strings {
        if seen.contains(&&s.module) {
            continue;
        }
        seen.push(&s.module);
        let Some(module) = library.module(&s.module) else { continue };
        sheet.subject = Subject::new(SubjectKind::Module, format!("{} rev {}", module.model, module.revision));
        pmax_off(sheet, &module.ratings);
    }
}
