//! Equipment: whether anything is chosen, whether a data sheet agrees with itself, what is unusual
//! about it.

mod inverter;
mod module;
mod system;

use crate::figure::{Sheet, Subject};
use crate::figures;
use crate::library::SheetKind;
use crate::registry::{Bench, Registry};

figures! { Equipment;
    /// Whether there is an inverter or a unit.
    CHOSEN: Rule = "equipment.inverter", "Inverter chosen", "job";
}

/// What the stage brings with it.
pub fn define(r: &mut Registry) {
    for cards in [CARDS, system::CARDS, module::CARDS, inverter::CARDS] {
        r.figures(cards);
    }
    r.pass("equipment", &[], equipment_of_job);
    r.meaning(SheetKind::Module, module::meaning);
    r.meaning(SheetKind::Inverter, inverter::meaning);
}

/// Nothing rests on the equipment's own checks.
struct EquipmentFound;

fn equipment_of_job(bench: &Bench, sheet: &mut Sheet) -> EquipmentFound {
    let library = bench.library;
    let used = bench.job.used_sheets();
    sheet.subject = Subject::Site;
    let makes_ac = [SheetKind::Inverter, SheetKind::Micro];
    let chosen = used.iter().any(|u| makes_ac.contains(&u.kind) && library.has(u.kind, u.sheet));
    sheet.known(&CHOSEN, (!chosen).then_some("inverters"));
    system::system(sheet, bench.job, library);
    for used in used.iter().filter(|u| u.kind == SheetKind::Module) {
        let Some(m) = library.module(used.sheet) else { continue };
        sheet.subject = Subject::Module { model: m.model.clone(), revision: m.revision };
        module::pmax_off(sheet, &m.ratings);
    }
    EquipmentFound
}
