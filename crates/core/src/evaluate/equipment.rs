//! Equipment: whether anything is chosen, and whether a data sheet agrees with itself.

use crate::figure::{Def, Sheet, Stage, Subject, SubjectKind, Verdict};
use crate::job::Job;
use crate::library::Library;
use crate::library::entry::pmax_off;

static CHOSEN: Def = Def {
    id: "equipment.inverter",
    title: "Inverter chosen",
    stage: Stage::Equipment,
    na: "job",
    iec: "job",
};
pub(super) fn equipment(sheet: &mut Sheet, job: &Job, library: &Library) {
    sheet.subject = Subject::new(SubjectKind::Site, "site");
    let chosen = job.inverters.iter().any(|i| library.inverter(&i.sheet).is_some())
        || job.branches.iter().any(|b| library.micro(&b.micro).is_some());
    let check = sheet.judge(&CHOSEN, if chosen { Verdict::Pass } else { Verdict::Unknown });
    if !chosen {
        check.missing = vec!["inverters".to_owned()];
    }
    let mut seen = Vec::new();
    for r in job.strings.iter().map(|s| &s.module).chain(job.branches.iter().map(|b| &b.module)) {
        if seen.contains(&r) {
            continue;
        }
        seen.push(r);
        let Some(module) = library.module(r) else { continue };
        sheet.subject =
            Subject::new(SubjectKind::Module, format!("{} rev {}", module.model, module.revision));
        pmax_off(sheet, &module.ratings);
    }
}
