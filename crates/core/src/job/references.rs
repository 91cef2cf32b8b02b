//! Which data sheets a job refers to, and where: one list, which validation, the watch and the list
//! of equipment all read.

use super::{Edit, Job};
use crate::library::{SheetKind, SheetRef};

/// A reference of a job to a data sheet.
#[derive(Clone, Debug)]
pub struct Reference<'a> {
    /// JSON pointer below `/job`, by places in the lists.
    pub address: String,
    /// The same for an edit, by keys.
    pub by_key: String,
    /// Kind of the sheet.
    pub kind: SheetKind,
    /// The sheet and its revision.
    pub sheet: &'a SheetRef,
    /// How many pieces it stands for.
    pub pieces_n: u32,
}

/// How many pieces of a data sheet a job has.
#[derive(Clone, Debug, PartialEq)]
pub struct Used<'a> {
    /// Kind of the sheet.
    pub kind: SheetKind,
    /// The sheet and its revision.
    pub sheet: &'a SheetRef,
    /// Pieces in all.
    pub pieces_n: u32,
}

impl Job {
    /// Every reference to a data sheet.
    pub fn references(&self) -> Vec<Reference<'_>> {
        let mut found = Vec::new();
        let mut add = |list: &str, i: usize, key: &str, field: &str, kind, sheet, pieces_n| {
            let at = |member: &str| format!("/{list}/{member}/{field}");
            let (address, by_key) = (at(&i.to_string()), at(key));
            found.push(Reference { address, by_key, kind, sheet, pieces_n });
        };
        for (i, inverter) in self.inverters.iter().enumerate() {
            add("inverters", i, &inverter.id, "sheet", SheetKind::Inverter, &inverter.sheet, 1);
        }
        for (i, s) in self.strings.iter().enumerate() {
            add("strings", i, &s.letter, "module", SheetKind::Module, &s.module, s.n);
            if let Some(optimizer) = &s.optimizer {
                let kind = SheetKind::Optimizer;
                add("strings", i, &s.letter, "optimizer", kind, optimizer, s.n);
            }
        }
        for (i, b) in self.branches.iter().enumerate() {
            add("branches", i, &b.letter, "module", SheetKind::Module, &b.module, b.units());
            add("branches", i, &b.letter, "micro", SheetKind::Micro, &b.micro, b.units());
        }
        let mut at = |address: String, kind, sheet| {
            let by_key = address.clone();
            found.push(Reference { address, by_key, kind, sheet, pieces_n: 1 });
        };
        for (key, node) in &self.plan.nodes {
            if let Some(sheet) = &node.enclosure {
                at(format!("/plan/nodes/{key}/enclosure"), node.enclosure_kind(), sheet);
            }
            for (device, own) in &node.devices {
                if let (Some(kind), Some(sheet)) = (own.what.sheet_kind(), &own.sheet) {
                    at(format!("/plan/nodes/{key}/devices/{device}/sheet"), kind, sheet);
                }
            }
        }
        for (face, map) in &self.roof {
            // Its pieces are counted with strings and branches.
            if let Some(sheet) = &map.module {
                let at = format!("/roof/{face}/module");
                let kind = SheetKind::Module;
                found.push(Reference { address: at.clone(), by_key: at, kind, sheet, pieces_n: 0 });
            }
        }
        found
    }

    /// Each data sheet the job refers to, once, with its pieces.
    pub fn used_sheets(&self) -> Vec<Used<'_>> {
        let mut found: Vec<Used> = Vec::new();
        for r in self.references() {
            match found.iter_mut().find(|u| u.kind == r.kind && u.sheet == r.sheet) {
                Some(used) => used.pieces_n += r.pieces_n,
                None => {
                    found.push(Used { kind: r.kind, sheet: r.sheet, pieces_n: r.pieces_n });
                }
            }
        }
        found
    }

    /// The edits that put one revision of a sheet in place of another, wherever it is referred to.
    pub fn replacing(&self, kind: SheetKind, from: &SheetRef, to: &SheetRef) -> Vec<Edit> {
        let to = serde_json::to_value(to).expect("a reference is JSON");
        let uses = self.references().into_iter().filter(|r| r.kind == kind && r.sheet == from);
        uses.map(|r| Edit::new(r.by_key, to.clone())).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::{applied, read};

    #[test]
    fn every_reference_is_found_counted_and_can_be_replaced() {
        let text = include_str!("../../../../data/demo/kestrel-lane.json");
        let job = read(text).expect("a demo job reads").file.job;
        // Three strings of 12, 7 and 7 modules on one inverter.
        let used = job.used_sheets();
        let pieces = |kind| used.iter().filter(|u| u.kind == kind).map(|u| u.pieces_n).sum::<u32>();
        assert_eq!((pieces(SheetKind::Inverter), pieces(SheetKind::Module)), (1, 12 + 7 + 7));
        let from = job.strings[0].module.clone();
        let to = SheetRef { revision: 9, ..from.clone() };
        let edits = job.replacing(SheetKind::Module, &from, &to);
        assert_eq!(edits.len(), 3);
        let newer = applied(&job, &edits).expect("still a job");
        assert!(newer.strings.iter().all(|s| s.module.revision == 9));
    }
}
