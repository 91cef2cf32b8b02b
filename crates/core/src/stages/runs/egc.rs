//! The earth wire: equipment grounding conductor (na) or protective conductor (iec).

use serde::Deserialize;

use crate::figure::{Sheet, Value, Wording};
use crate::figures;
use crate::job::Material;
use crate::quantity::{Amps, Ratio, SquareMillimetres, above, below};
use crate::school::School;
use crate::tables;
use crate::traced::exact;

figures! { Runs;
    /// Rating the earth wire is sized by.
    RATING: Amps = "circuit.egc_rating_a",
        "Rating the grounding conductor goes by", na "250.122, 690.45";
    /// Equipment grounding conductor.
    EGC: Word = "circuit.egc_awg", "Equipment grounding conductor", na "250.122";
    /// Protective conductor.
    PE: SquareMillimetres = "circuit.pe_mm2", "Protective conductor", iec "IEC 60364-5-54";
}

/// What the earth wire is sized by.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct EgcInputs {
    /// na: rating of the protective device, A.
    pub ocpd_a: Option<f64>,
    /// na, no dc device: module Isc, bifacial gain in, A.
    pub isc_a: Option<f64>,
    /// na: strings in parallel on the wire.
    pub p: Option<u32>,
    /// na: dc, so not raised for a larger phase wire.
    pub dc: bool,
    /// na: metal.
    pub material: Material,
    /// na: phase wire as run.
    pub phase_installed: Option<String>,
    /// na: phase wire that ampacity with derating needs.
    pub phase_needed: Option<String>,
    /// iec: line conductor, mm².
    pub line_mm2: Option<f64>,
}

/// The size of the earth wire, by school.
pub fn egc(sheet: &mut Sheet, x: &EgcInputs) -> Wording {
    match sheet.school {
        School::Na => na(sheet, x),
        School::Iec => iec(sheet, x),
    }
}

fn iec(sheet: &mut Sheet, x: &EgcInputs) -> Wording {
    let section = sheet.figure(&PE, |w| {
        let line = w.need::<SquareMillimetres>("line", x.line_mm2, "wire.mm2", "job")?;
        let s = line.value.0;
        Some(if !above(s, 16.0) {
            line
        } else if !above(s, 35.0) {
            w.given("16 mm² up to 35", SquareMillimetres(16.0), "IEC 60364-5-54")
        } else {
            line / exact::<Ratio>(2.0)
        })
    });
    Wording::from(&section)
}

fn na(sheet: &mut Sheet, x: &EgcInputs) -> Wording {
    let rating = sheet.figure(&RATING, |w| match x.ocpd_a {
        Some(a) => Some(w.given("protective device", Amps(a), "job")),
        // An ac circuit has a device; a dc one may have none.
        None if !x.dc && x.isc_a.is_none() => {
            w.lack("circuit.to.device");
            None
        }
        None => {
            let p = w.given("p", Ratio(f64::from(x.p.unwrap_or(1))), "strings on this wire");
            let isc = w.need::<Amps>("Isc", x.isc_a, "module.isc_a", "module data sheet")?;
            Some(exact::<Ratio>(1.5625) * p * isc)
        }
    });
    sheet.word(&EGC, |w| {
        let rating = w.take("rating", &rating)?;
        let row = tables::EGC.iter().find(|r| !above(rating.value.0, r.ocpd_a))?;
        let base = if x.material == Material::Al { &row.al } else { &row.cu };
        w.words("by rating", base.as_str(), format!("Table 250.122, to {} A", row.ocpd_a));
        let mut size = base.clone();
        if let (false, Some(installed), Some(needed)) = (x.dc, &x.phase_installed, &x.phase_needed)
        {
            let [base, run, enough] =
                [base, installed, needed].map(|s| tables::wire(s).map(|r| r.cmil));
            let (base, run, enough) = (base?, run?, enough?);
            if above(run, enough) {
                let base = w.given("base, cmil", Ratio(base), "Chapter 9, Table 8");
                let run = w.given("installed, cmil", Ratio(run), "Chapter 9, Table 8");
                let enough = w.given("needed, cmil", Ratio(enough), "Chapter 9, Table 8");
                let raised = w.step("raised, cmil", base * run / enough);
                size = tables::WIRES.iter().find(|r| !below(r.cmil, raised.value.0))?.size.clone();
                w.words("first size not below", size.as_str(), "250.122(B)");
            }
        }
        if let Some(installed) = &x.phase_installed {
            let [earth, phase] = [&size, installed].map(|s| tables::wire(s).map(|r| r.cmil));
            if above(earth?, phase?) {
                size.clone_from(installed);
                w.words("never more than the phase wire", size.as_str(), "250.122(A)");
            }
        }
        Some(Value::Text(size))
    })
}
