//! How full a raceway is: every wire counts, the earth wire too.

use std::f64::consts::PI;

use serde::Deserialize;

use super::conductor_na::NIPPLE_IN;
use crate::figure::{Bound, Check, Handle, Sheet, Value, Verdict, Wording, Working};
use crate::figures;
use crate::job::{Cable, RacewayKind};
use crate::quantity::{
    Inches, MM_PER_INCH, Millimetres, Percent, Ratio, SquareInches, SquareMillimetres, Unit, above,
    below,
};
use crate::school::School;
use crate::tables;
use crate::traced::{Traced, exact, sum};

figures! { Runs;
    /// Areas of the wires by inner area.
    FILL: Percent = "raceway.fill_pct",
        "Fill of the raceway", na "Chapter 9, Tables 1, 4 and 5", iec "space factor";
    /// Limit of the fill.
    LIMIT: Percent = "raceway.limit_pct",
        "Fill allowed", na "Chapter 9, Table 1", iec "space factor";
    /// Most wires of one kind and size.
    N_MAX: Count = "raceway.n_max", "Most wires of this size", na "Chapter 9, note 7";
    /// Area of all wires.
    WIRES: SquareInches = "raceway.wires_in2", "Area of all wires", na "Chapter 9, Table 5";
    /// Smallest size that passes.
    SIZE: Size = "raceway.size",
        "Smallest raceway that passes", na "Chapter 9, Tables 1 and 4", iec "IEC 61386-21";
    /// 1.05 x inner diameter / outside diameter of three like cables.
    JAM: Ratio = "raceway.jam_ratio",
        "Jam ratio", na "Chapter 9, Table 1, note", iec "workshop practice";
}

/// Wires of one kind and size.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FillWire {
    /// na `thhn xhhw pv`; iec `solar pvc70 xlpe90`.
    pub kind: String,
    /// na: AWG.
    pub size: Option<String>,
    /// iec: mm².
    pub mm2: Option<f64>,
    /// How many.
    pub n: u32,
    /// na: measured diameter, in; wins over the table.
    pub od_in: Option<f64>,
    /// iec: measured diameter, mm; wins over the table.
    pub od_mm: Option<f64>,
}

/// A raceway and what lies in it.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FillInputs {
    /// Kind of raceway.
    pub kind: RacewayKind,
    /// na: trade size.
    pub trade: Option<String>,
    /// iec: nominal size, mm.
    pub size_mm: Option<f64>,
    /// Every wire, earth too.
    pub wires: Vec<FillWire>,
    /// na: length, in; 24 and less is a nipple.
    pub length_in: Option<f64>,
    /// iec: space factor, %; 40 where absent.
    pub limit_pct: Option<f64>,
    /// na: outside diameter of three like cables, in.
    pub jam_od_in: Option<f64>,
}

impl FillInputs {
    fn wires_n(&self) -> u32 {
        self.wires.iter().map(|w| w.n).sum()
    }

    /// The wires, where note 7 counts them: three and more of one kind and size, none measured.
    fn alike(&self) -> Option<&FillWire> {
        let first = self.wires.iter().find(|w| w.n > 0)?;
        let same = |w: &&FillWire| w.kind == first.kind && w.size == first.size;
        let rest = self.wires.iter().filter(|w| w.n > 0);
        let alike = rest.clone().all(|w| same(&w) && w.od_in.is_none());
        (alike && self.wires_n() >= 3).then_some(first)
    }

    fn limit(&self, school: School) -> (f64, &'static str) {
        match school {
            School::Iec => (self.limit_pct.unwrap_or(40.0), "space factor"),
            School::Na if self.length_in.is_some_and(|l| !above(l, NIPPLE_IN)) => {
                (60.0, "nipple up to 24 in")
            }
            School::Na => match self.wires_n() {
                1 => (53.0, "one wire"),
                2 => (31.0, "two wires"),
                _ => (40.0, "three wires and more"),
            },
        }
    }
}

impl FillWire {
    /// Outside diameter in mm: measured, else that of the table.
    pub fn diameter_mm(&self, school: School) -> Option<f64> {
        match school {
            School::Na => self.od_in.or_else(|| self.na_row().and_then(|r| r.0)).map(|d| d * 25.4),
            School::Iec => self.od_mm.or_else(|| self.iec_od()),
        }
    }

    /// Diameter and area of the North American table.
    fn na_row(&self) -> Option<(Option<f64>, Option<f64>)> {
        let row = tables::wire(self.size.as_deref()?)?;
        Some(match self.kind.as_str() {
            "thhn" => (Some(row.thhn_od_in), Some(row.thhn_area_in2)),
            "xhhw" => (Some(row.xhhw_od_in), Some(row.xhhw_area_in2)),
            "pv" => (row.pv_od_in, None),
            _ => return None,
        })
    }

    fn iec_od(&self) -> Option<f64> {
        let mm2 = self.mm2?;
        if self.kind == Cable::Solar.key() {
            tables::solar_cable(mm2).map(|c| c.od_mm)
        } else {
            tables::iec_cable(&self.kind, mm2, 2).map(|c| c.od_mm)
        }
    }

    fn area_in2(&self, w: &mut Working) -> Option<Traced<SquareInches>> {
        let (od, area) = self.na_row().unwrap_or((None, None));
        let (size, kind) = (self.size.as_deref().unwrap_or("?"), &self.kind);
        let label = format_args!("{size} AWG {kind}");
        if let (None, Some(area)) = (self.od_in, area) {
            return Some(w.given(label, SquareInches(area), "Chapter 9, Table 5"));
        }
        let source = if self.od_in.is_some() { "measured diameter" } else { "usual diameter" };
        let od = self.od_in.or(od);
        let d = w.need::<Inches>(format_args!("{label}, diameter"), od, "wires.od_in", source)?;
        Some(w.step(label, exact::<Ratio>(PI) / exact(4.0) * (d.clone() * d)))
    }

    fn square_mm(&self, w: &mut Working) -> Option<Traced<SquareMillimetres>> {
        let source = if self.od_mm.is_some() { "measured" } else { "usual diameter" };
        let label = format_args!("{} mm² {}, diameter", self.mm2.unwrap_or(0.0), self.kind);
        let od = self.diameter_mm(School::Iec);
        let d = w.need::<Millimetres>(label, od, "wires.od_mm", source)?;
        Some(d.clone() * d)
    }
}

/// What a raceway comes to.
pub struct Fill<'s> {
    /// The check of the fill, for cures.
    pub check: &'s mut Check,
    /// The smallest size that passes, as a job writes it.
    pub smallest: Option<String>,
}

/// Figures and checks of a raceway.
pub fn fill<'s>(sheet: &'s mut Sheet, x: &FillInputs) -> Fill<'s> {
    let (limit, why) = x.limit(sheet.school);
    let (filled, size, counted) = match sheet.school {
        School::Na => na(sheet, x, limit, why),
        School::Iec => {
            let (filled, size) = iec(sheet, x, limit);
            (filled, size, false)
        }
    };
    let at = sheet.checks.len();
    sheet.hold(&filled, Bound::at_most(limit, why), Verdict::Fail);
    if let Some(od) = x.jam_od_in {
        jam(sheet, x, od);
    }
    let check = &mut sheet.checks[at];
    if counted && check.verdict == Verdict::Fail {
        check.verdict = Verdict::Pass;
    }
    if let Some(margin) = check.margin {
        check.reason(format_args!(
            "{:.1} % over what is allowed: the wires are hard to pull and get too warm.",
            -margin
        ));
    }
    Fill { check, smallest: size.written() }
}

/// How many of `area` pass in `inner` by note 7: a decimal of 0.8 and more counts as one more.
fn by_count(inner: Traced<SquareInches>, area: Traced<SquareInches>, limit: f64) -> Traced<Ratio> {
    (exact::<Percent>(limit).fraction() * inner / area + exact(0.2)).floor()
}

/// Fill and size; and whether the count of note 7 passes, whatever the fill says.
fn na(
    sheet: &mut Sheet,
    x: &FillInputs,
    limit: f64,
    why: &str,
) -> (Handle<Percent>, Wording, bool) {
    let table = "Chapter 9, Table 4";
    sheet.figure(&LIMIT, |w| Some(w.given(why, Percent(limit), "Chapter 9, Table 1")));
    let area = sheet.figure(&WIRES, |w| {
        sum(x.wires.iter().map(|wire| {
            let one = wire.area_in2(w)?;
            Some(exact::<Ratio>(f64::from(wire.n)) * one)
        }))
    });
    let of_kind = || tables::RACEWAYS.iter().filter(|r| r.kind == x.kind.key());
    let inner = x.trade.as_deref().and_then(|t| of_kind().find(|r| r.trade == t));
    let filled = sheet.figure(&FILL, |w| {
        let area = w.take("all wires", &area);
        let (kind, trade) = (x.kind.key().to_uppercase(), x.trade.as_deref().unwrap_or("?"));
        let label = format_args!("inside of {kind} {trade}");
        let inner = w.need::<SquareInches>(label, inner.map(|r| r.area_in2), "raceway.size", table);
        Some((area? / inner?).percent())
    });
    let wires_n = f64::from(x.wires_n());
    let one = x.alike().and_then(|wire| {
        let mut aside = Working::default();
        wire.area_in2(&mut aside).map(|a| a.value)
    });
    let most = one.map(|one| {
        sheet.count(&N_MAX, |w| {
            let one = w.given("one wire", one, "Chapter 9, Table 5");
            let inner = inner.map(|r| r.area_in2);
            let inner = w.need::<SquareInches>("inside", inner, "raceway.size", table)?;
            Some(by_count(inner, one, limit))
        })
    });
    let counted = most.and_then(|m| m.value()).is_some_and(|m| !above(wires_n, m));
    let size = sheet.size(&SIZE, Unit::None, |w| {
        let area = w.take("all wires", &area)?.value.0;
        let pct = |r: &tables::Raceway| area / r.area_in2 * 100.0;
        let enough = |r: &tables::Raceway| {
            let inner = exact(r.area_in2);
            one.is_some_and(|one| !above(wires_n, by_count(inner, exact(one.0), limit).value.0))
        };
        let size = of_kind().find(|r| !above(pct(r), limit) || enough(r));
        match size {
            Some(r) => {
                let text = format_args!("{} with {:.1} %", r.trade, pct(r));
                w.words("first that passes", text, table);
            }
            None => w.note("No size of this kind passes."),
        }
        size.map(|r| Value::Text(r.trade.clone()))
    });
    (filled, size, counted)
}

fn iec(sheet: &mut Sheet, x: &FillInputs, limit: f64) -> (Handle<Percent>, Wording) {
    let table = "IEC 61386-21";
    // Square of diameters: pi/4 stands on both sides.
    let mut squares: Option<f64> = None;
    let of_class = || tables::CONDUITS.iter().filter(|c| c.class == x.kind.key());
    let inner = x.size_mm.and_then(|s| of_class().find(|c| c.size_mm == s));
    let filled = sheet.figure(&FILL, |w| {
        let total = sum(x.wires.iter().map(|wire| {
            let n = exact::<Ratio>(f64::from(wire.n));
            Some(n * wire.square_mm(w)?)
        }));
        squares = total.as_ref().map(|t| t.value.0);
        let (size, class) = (x.size_mm.unwrap_or(0.0), x.kind.key());
        let label = format_args!("inner diameter of {size} {class}");
        let d = w.need::<Millimetres>(label, inner.map(|c| c.id_mm), "raceway.size", table)?;
        Some((total? / (d.clone() * d)).percent())
    });
    let size = sheet.size(&SIZE, Unit::Mm, |w| {
        let Some(squares) = squares else {
            w.lack("wires.od_mm");
            return None;
        };
        let pct = |id: f64| squares / (id * id) * 100.0;
        let size = of_class().find(|c| !above(pct(c.id_mm), limit));
        match size {
            Some(c) => {
                let text = format_args!("{} with {:.1} %", c.size_mm, pct(c.id_mm));
                w.words("first that passes", text, table);
            }
            None => w.note("No size of this class passes."),
        }
        size.map(|c| {
            w.given("size", Millimetres(c.size_mm), table);
            Value::Number(c.size_mm)
        })
    });
    (filled, size)
}

fn jam(sheet: &mut Sheet, x: &FillInputs, od: f64) {
    let kind = x.kind.key();
    let ratio = sheet.figure(&JAM, |w| {
        let like = "three like cables";
        let mut na = tables::RACEWAYS.iter().filter(|r| r.kind == kind);
        let mut iec = tables::CONDUITS.iter().filter(|c| c.class == kind);
        let ratio = if x.kind.school() == School::Na {
            let row = na.find(|r| Some(r.trade.as_str()) == x.trade.as_deref());
            let (id, table) = (row.map(|r| r.id_in), "Chapter 9, Table 4");
            let id = w.need::<Inches>("inner diameter", id, "raceway.size", table)?;
            id / w.given("outside diameter", Inches(od), like)
        } else {
            let row = iec.find(|c| Some(c.size_mm) == x.size_mm).map(|c| c.id_mm);
            let id =
                w.need::<Millimetres>("inner diameter", row, "raceway.size", "IEC 61386-21")?;
            id / w.given("outside diameter", Millimetres(od * MM_PER_INCH), like)
        };
        Some(exact::<Ratio>(1.05) * ratio)
    });
    let verdict = match ratio.value() {
        None => Verdict::Unknown,
        Some(r) if below(r, 2.8) || above(r, 3.2) => Verdict::Pass,
        Some(_) => Verdict::Warn,
    };
    sheet
        .judge(&JAM, verdict)
        .misses(ratio.missing().to_vec())
        .reason("Between 2.8 and 3.2 three like cables can wedge side by side in a bend.")
        .cure("The next larger raceway.", Vec::new());
}
