//! The system in numbers: modules, their watts, and the AC output of what they feed.

use crate::figure::{Sheet, Subject};
use crate::figures;
use crate::job::{Job, Used};
use crate::library::{Library, SheetKind};
use crate::quantity::{Ratio, Watts};
use crate::traced::sum;

figures! { Equipment;
    /// Modules of all strings and branches.
    MODULES: Count = "system.modules_n", "Modules of the system", "job";
    /// Pmax of every module, added up.
    DC: Watts = "system.dc_w", "Module watts of the system", "data sheets";
    /// Rated AC output of every inverter and microinverter, added up.
    AC: Watts = "system.ac_w", "AC output of the system", "data sheets";
}

/// Modules, DC and AC watts of a job; open where a data sheet does not say its own.
pub(super) fn system(sheet: &mut Sheet, job: &Job, library: &Library) {
    let used = job.used_sheets();
    let of = |kind: SheetKind| {
        used.iter().filter(move |u| u.kind == kind && u.pieces_n > 0 && library.has(kind, u.sheet))
    };
    let named = |u: &Used| {
        let head = library.head(u.kind, u.sheet);
        head.map_or_else(String::new, |h| format!("{} rev {}", h.model, h.revision))
    };
    let pieces = |u: &Used| Ratio(f64::from(u.pieces_n));
    sheet.subject = Subject::Site;
    sheet.count(&MODULES, |w| {
        let each = of(SheetKind::Module);
        let all = sum(each.map(|u| Some(w.given(named(u), pieces(u), "job"))));
        if all.is_none() {
            w.lack("strings");
        }
        all
    });
    sheet.figure(&DC, |w| {
        let each = of(SheetKind::Module).map(|u| {
            let n = w.given("modules", pieces(u), "job");
            let pmax = library.module(u.sheet).and_then(|m| m.ratings.pmax_w);
            Some(n * w.need::<Watts>("Pmax", pmax, "module.pmax_w", named(u))?)
        });
        let all = sum(each);
        if of(SheetKind::Module).next().is_none() {
            w.lack("strings");
        }
        all
    });
    sheet.figure(&AC, |w| {
        let none = || of(SheetKind::Inverter).chain(of(SheetKind::Micro)).next().is_none();
        let each = of(SheetKind::Inverter).chain(of(SheetKind::Micro)).map(|u| {
            let (ac_w, field) = match u.kind {
                SheetKind::Inverter => (library.inverter(u.sheet)?.ac_w, "inverter.ac_w"),
                _ => (library.micro(u.sheet)?.ac_w, "micro.ac_w"),
            };
            let n = w.given("pieces", pieces(u), "job");
            Some(n * w.need::<Watts>("rated AC output", ac_w, field, named(u))?)
        });
        let all = sum(each);
        if none() {
            w.lack("inverters");
        }
        all
    });
}

#[cfg(test)]
mod tests {
    use crate::figure::{Figure, Value};
    use crate::job::{Job, read};
    use crate::library::Library;
    use crate::school::School;

    fn figures(job: &Job, library: &Library) -> Vec<Figure> {
        let report = crate::evaluate(job, library, &[]);
        report.figures.into_iter().filter(|f| f.id.starts_with("system.")).collect()
    }

    #[test]
    fn every_module_and_every_output_is_added_up() {
        let kestrel = include_str!("../../../../../data/demo/kestrel-lane.json");
        let pinyon = include_str!("../../../../../data/demo/pinyon-street.json");
        for (text, wanted) in [
            // 12 + 7 + 7 modules of 430 W; one inverter of 8000 W.
            (kestrel, [26.0, 26.0 * 430.0, 8000.0]),
            // 31 modules of 395 W, each with a unit of 330 W.
            (pinyon, [31.0, 31.0 * 395.0, 31.0 * 330.0]),
        ] {
            let file = read(text).expect("a demo job reads").file;
            let found = figures(&file.job, &file.library);
            let values: Vec<_> = found.iter().map(|f| f.value.clone()).collect();
            assert_eq!(values, wanted.map(|n| Some(Value::Number(n))), "{}", file.job.name);
        }
    }

    #[test]
    fn an_empty_job_lacks_what_would_be_counted() {
        let found = figures(&Job::new("x", School::Iec), &Library::default());
        let lacking: Vec<_> = found.iter().map(|f| f.missing.clone()).collect();
        assert_eq!(lacking, [["strings"], ["strings"], ["inverters"]]);
    }
}
