//! Boxes: room for their wires, length for what is pulled through them, depth under modules.

use std::collections::BTreeMap;

use serde::Deserialize;

use crate::figure::{Bound, Sheet, Verdict};
use crate::figures;
use crate::quantity::{CubicInches, Inches, Millimetres, Ratio};
use crate::tables;
use crate::traced::{Traced, exact, sum};

figures! { Runs;
    /// Room the wires of a box take.
    BOX_FILL: CubicInches = "box.fill_in3", "Room the wires take", na "314.16";
    /// Length a box needs for what is pulled through.
    LENGTH_MIN: Inches = "box.length_min_in", "Length the box needs", na "314.28(A)";
    /// Its length against that.
    BOX_LENGTH: Rule = "box.length_in", "Length of the box", na "314.28(A)";
    /// How much too high a box under modules stands; below nought where it fits.
    CONFLICT: Millimetres = "box.conflict_mm", "Height over what is free", "measured";
    /// A box under modules against the room there.
    DEPTH: Rule = "box.depth_mm", "Height of the box under modules", "measured";
}

/// A wire that counts by its room: 6 AWG and smaller.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Deserialize)]
pub enum BoxWire {
    /// 14 AWG.
    #[serde(rename = "14")]
    Awg14,
    /// 12 AWG.
    #[serde(rename = "12")]
    Awg12,
    /// 10 AWG.
    #[serde(rename = "10")]
    Awg10,
    /// 8 AWG.
    #[serde(rename = "8")]
    Awg8,
    /// 6 AWG.
    #[serde(rename = "6")]
    Awg6,
}

impl BoxWire {
    /// Every size, thinnest first, as it is written and with the room it takes, in³ (314.16(B)).
    const ALL: [(BoxWire, &str, f64); 5] = [
        (BoxWire::Awg14, "14", 2.0),
        (BoxWire::Awg12, "12", 2.25),
        (BoxWire::Awg10, "10", 2.5),
        (BoxWire::Awg8, "8", 3.0),
        (BoxWire::Awg6, "6", 5.0),
    ];

    /// The wire of a size as it is written; none for 4 AWG and larger.
    pub fn of(size: &str) -> Option<Self> {
        Self::ALL.iter().find(|(_, word, _)| *word == size).map(|(own, ..)| *own)
    }

    fn row(self) -> (&'static str, f64) {
        let (_, word, room) = Self::ALL[self as usize];
        (word, room)
    }
}

/// A box with what is in it; each of the three checks is made where its fields are there.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct BoxInputs {
    /// How many wires of each size; sizes 14 to 6 AWG.
    pub wires: Option<BTreeMap<BoxWire, u32>>,
    /// Earth wires by size.
    pub egc: Vec<BoxWire>,
    /// Clamps inside.
    pub clamps: bool,
    /// Devices, by the largest wire on each.
    pub devices: Vec<BoxWire>,
    /// Room of the box, in³.
    pub volume_in3: Option<f64>,
    /// Trade sizes of the raceways on one wall and row.
    pub entries_trade: Option<Vec<String>>,
    /// Pulled straight through; else at an angle or in a U.
    pub straight: Option<bool>,
    /// Inner length, in.
    pub length_in: Option<f64>,
    /// Depth, mm.
    pub depth_mm: Option<f64>,
    /// Height of what it stands on, mm.
    pub stands_on_mm: Option<f64>,
    /// Free height below the modules, mm.
    pub module_clearance_mm: Option<f64>,
}

/// Figures and checks of a box.
pub fn boxed(sheet: &mut Sheet, x: &BoxInputs) {
    if let Some(wires) = &x.wires {
        room(sheet, x, wires);
    }
    if let Some(entries) = &x.entries_trade {
        length(sheet, x, entries);
    }
    if x.depth_mm.is_some() || x.stands_on_mm.is_some() || x.module_clearance_mm.is_some() {
        depth(sheet, x);
    }
}

/// Room of the largest of several sizes.
fn largest<'s>(sizes: impl Iterator<Item = &'s BoxWire>) -> f64 {
    sizes.map(|s| s.row().1).fold(0.0, f64::max)
}

fn room(sheet: &mut Sheet, x: &BoxInputs, wires: &BTreeMap<BoxWire, u32>) {
    let taken = sheet.figure(&BOX_FILL, |w| {
        let mut terms: Vec<Option<Traced<CubicInches>>> = Vec::new();
        for (size, n) in wires.iter().filter(|(_, n)| **n > 0) {
            let (size, room) = size.row();
            let label = format_args!("{n} of {size} AWG, each");
            let one = w.given(label, CubicInches(room), "Table 314.16(B)(1)");
            terms.push(Some(exact::<Ratio>(f64::from(*n)) * one));
        }
        if !x.egc.is_empty() {
            let earth = largest(x.egc.iter());
            let one = w.given("largest earth wire", CubicInches(earth), "314.16(B)(5)");
            // Up to four count as one, each further one as a quarter.
            let further = x.egc.len().saturating_sub(4) as f64;
            terms.push(Some(exact::<Ratio>(1.0 + further / 4.0) * one));
        }
        if x.clamps {
            let own = largest(wires.iter().filter(|(_, n)| **n > 0).map(|(s, _)| s));
            terms.push(Some(w.given("clamps inside", CubicInches(own), "314.16(B)(2)")));
        }
        for size in &x.devices {
            let own = w.given("wire on a device", CubicInches(size.row().1), "314.16(B)(4)");
            terms.push(Some(exact::<Ratio>(2.0) * own));
        }
        sum(terms).or_else(|| Some(exact(0.0)))
    });
    let there = Bound::at_most((x.volume_in3, "node.volume_in3"), "room of the box");
    sheet
        .hold(&taken, there, Verdict::Fail)
        .beyond(|over| format!("{over} more than the box holds."))
        .cure("A deeper box, or an extension ring.", Vec::new());
}

fn length(sheet: &mut Sheet, x: &BoxInputs, entries: &[String]) {
    let inches = |trade: &String| tables::size_number(trade);
    let least = sheet.figure(&LENGTH_MIN, |w| {
        let mut sizes: Vec<f64> = entries.iter().map(inches).collect::<Option<_>>()?;
        sizes.sort_by(|a, b| b.total_cmp(a));
        let (largest, others) = sizes.split_first()?;
        let large = w.given("largest raceway", Inches(*largest), "job");
        let Some(straight) = x.straight else {
            w.lack("node.straight");
            return None;
        };
        if straight {
            return Some(exact::<Ratio>(8.0) * large);
        }
        let others = others.iter().map(|o| Some(w.given("another", Inches(*o), "job")));
        let beside = sum(others.collect::<Vec<_>>());
        let six = exact::<Ratio>(6.0) * large;
        Some(match beside {
            Some(beside) => six + beside,
            None => six,
        })
    });
    let own = Bound::at_most((x.length_in, "node.length_mm"), "length of the box");
    sheet
        .hold_as(&BOX_LENGTH, &least, own, Verdict::Fail)
        .beyond(|over| format!("{over} too short for what is pulled through."))
        .cure("A longer box.", Vec::new());
}

fn depth(sheet: &mut Sheet, x: &BoxInputs) {
    let conflict = sheet.figure(&CONFLICT, |w| {
        let deep = w.need::<Millimetres>("depth", x.depth_mm, "node.depth_mm", "data sheet");
        let on = w.need::<Millimetres>("stands on", x.stands_on_mm, "node.stands_on_mm", "job");
        let free = w.need::<Millimetres>(
            "free below the modules",
            x.module_clearance_mm,
            "site.module_clearance_mm",
            "measured",
        );
        Some(deep? + on? - free?)
    });
    sheet
        .hold_as(&DEPTH, &conflict, Bound::at_most(0.0, "free height"), Verdict::Fail)
        .beyond(|over| format!("{over} higher than the room below the modules."))
        .cure("A flatter box, or one beside the array.", Vec::new());
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::figure::{Subject, Value};
    use crate::school::School;

    #[test]
    fn a_size_that_is_not_in_the_table_is_refused() {
        let read =
            |size: &str| serde_json::from_str::<BoxInputs>(&format!("{{\"egc\": [\"{size}\"]}}"));
        assert!(read("10").is_ok());
        assert!(read("4").unwrap_err().to_string().contains("unknown variant `4`"));
        assert_eq!((BoxWire::of("8"), BoxWire::of("1/0")), (Some(BoxWire::Awg8), None));
    }

    #[test]
    fn a_straight_or_an_angle_has_to_be_said() {
        let mut sheet = Sheet::new(School::Na, Subject::Sum);
        let entries_trade = Some(vec!["2".to_owned()]);
        let x = BoxInputs { entries_trade, length_in: Some(20.0), ..BoxInputs::default() };
        boxed(&mut sheet, &x);
        let check = sheet.checks.last().expect("the length");
        assert_eq!(check.verdict, Verdict::Unknown);
        assert_eq!(check.missing, ["node.straight"]);
        assert!(sheet.figures.iter().all(|f| f.value.as_ref().and_then(Value::number).is_none()));
    }
}
