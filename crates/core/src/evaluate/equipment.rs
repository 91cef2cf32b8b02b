//! Equipment: whether anything is chosen, and whether a data sheet agrees with itself.

use crate::figure::{Bound, Def, Sheet, Stage, Subject, SubjectKind, Verdict, said};
use crate::job::Job;
use crate::library::Library;
use crate::quantity::{Amps, Percent, Ratio, Unit, Volts, Watts};
use crate::traced::{exact, given};

static CHOSEN: Def = Def { id: "equipment.inverter", title: "Inverter chosen", stage: Stage::Equipment, na: "job", iec: "job" };
static PMAX_OFF: Def = Def {
    id: "module.pmax_off_pct",
    title: "Rated power against Vmp × Imp",
    stage: Stage::Equipment,
    na: "module data sheet",
    iec: "module data sheet",
};

/// Farthest Pmax may be off Vmp x Imp, %.
const PMAX_OFF_PCT: f64 = 3.0;

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
        let r = &module.ratings;
        sheet.subject = Subject::new(SubjectKind::Module, format!("{} rev {}", module.model, module.revision));
        sheet.figure(&PMAX_OFF, |w| {
            let p = w.need::<Watts>("Pmax", r.pmax_w, "module.pmax_w", "module data sheet");
            let v = w.need::<Volts>("Vmp", r.vmp_v, "module.vmp_v", "module data sheet");
            let i = w.need::<Amps>("Imp", r.imp_a, "module.imp_a", "module data sheet");
            let product = w.step("Vmp × Imp", v? * i?);
            let off = w.step("off", (p? / product - exact::<Ratio>(1.0)).percent());
            Some(given::<Percent>("off", Percent(off.value.0.abs())))
        });
        let check = sheet.hold(&PMAX_OFF, Bound::at_most(Some(PMAX_OFF_PCT), "allowed", ""), Verdict::Warn);
        check.reason(format!("The three do not fit together within {}.", said(PMAX_OFF_PCT, Unit::Percent)));
        check.cure("Check the three against the maker's data sheet.", Vec::new());
    }
}
