//! Which data sheets a job refers to, and where: one list, which validation, the watch and the list
//! of equipment all read.

use super::{DeviceKey, Edit, FaceKey, Job, NodeKey};
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

/// Where a reference stands.
enum At<'a> {
    /// In a list of the job.
    Listed { list: &'static str, i: usize, key: &'a str, field: &'static str },
    /// The enclosure of a node.
    Enclosure { node: &'a NodeKey },
    /// A device of a node.
    Device { node: &'a NodeKey, device: &'a DeviceKey },
    /// The map of a face.
    Map { face: &'a FaceKey },
}

/// An address that is the same by places and by keys.
fn both(address: String) -> [String; 2] {
    [address.clone(), address]
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
        self.refer(|at, kind, sheet, pieces_n| {
            let [address, by_key] = match at {
                At::Listed { list, i, key, field } => {
                    [format!("/{list}/{i}/{field}"), format!("/{list}/{key}/{field}")]
                }
                At::Enclosure { node } => both(format!("/plan/nodes/{node}/enclosure")),
                At::Device { node, device } => {
                    both(format!("/plan/nodes/{node}/devices/{device}/sheet"))
                }
                At::Map { face } => both(format!("/roof/{face}/module")),
            };
            found.push(Reference { address, by_key, kind, sheet, pieces_n });
        });
        found
    }

    /// Calls for every place that refers to a data sheet, with the pieces it stands for.
    fn refer<'j>(&'j self, mut found: impl FnMut(At<'j>, SheetKind, &'j SheetRef, u32)) {
        for (i, inverter) in self.inverters.iter().enumerate() {
            let at = At::Listed { list: "inverters", i, key: &inverter.id, field: "sheet" };
            found(at, SheetKind::Inverter, &inverter.sheet, 1);
        }
        for (i, s) in self.strings.iter().enumerate() {
            let at = |field| At::Listed { list: "strings", i, key: &s.letter, field };
            found(at("module"), SheetKind::Module, &s.module, s.n);
            if let Some(optimizer) = &s.optimizer {
                found(at("optimizer"), SheetKind::Optimizer, optimizer, s.n);
            }
        }
        for (i, b) in self.branches.iter().enumerate() {
            let at = |field| At::Listed { list: "branches", i, key: &b.letter, field };
            found(at("module"), SheetKind::Module, &b.module, b.units());
            found(at("micro"), SheetKind::Micro, &b.micro, b.units());
        }
        for (key, node) in &self.plan.nodes {
            if let Some(sheet) = &node.enclosure {
                found(At::Enclosure { node: key }, node.enclosure_kind(), sheet, 1);
            }
            for (device, own) in &node.devices {
                if let (Some(kind), Some(sheet)) = (own.what.sheet_kind(), &own.sheet) {
                    found(At::Device { node: key, device }, kind, sheet, 1);
                }
            }
        }
        for (face, map) in &self.roof {
            // Its pieces are counted with strings and branches.
            if let Some(sheet) = &map.module {
                found(At::Map { face }, SheetKind::Module, sheet, 0);
            }
        }
    }

    /// Each data sheet the job refers to, once, with its pieces.
    pub fn used_sheets(&self) -> Vec<Used<'_>> {
        let mut found: Vec<Used> = Vec::new();
        self.refer(|_, kind, sheet, pieces_n| {
            match found.iter_mut().find(|u| u.kind == kind && u.sheet == sheet) {
                Some(used) => used.pieces_n += pieces_n,
                None => found.push(Used { kind, sheet, pieces_n }),
            }
        });
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
