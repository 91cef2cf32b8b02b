//! What holds a raceway or cable between two boxes: supports, couplings, and what PVC needs for its
//! growth in the heat.

use serde::Deserialize;

use crate::figure::{Sheet, Verdict};
use crate::figures;
use crate::quantity::{METRES_PER_FOOT, Metres, Millimetres, Ratio, below};
use crate::school::School;
use crate::tables;
use crate::traced::{Traced, exact};

figures! { Runs;
    /// Supports between two boxes.
    SUPPORTS: Count = "raceway.support_n", "Supports",
        na "358.30, 344.30, 352.30, 348.30, 350.30, 330.30, 334.30", iec "workshop practice";
    /// Couplings between two boxes.
    COUPLINGS: Count = "raceway.coupling_n", "Couplings", "lengths as they are sold";
    /// What a straight of PVC grows and shrinks by.
    EXPANSION: Millimetres = "raceway.expansion_mm", "Growth of PVC", na "352.44", iec "PVC";
    /// Whether it needs a fitting that gives.
    FITTING: Rule = "raceway.expansion_fitting_needed", "Expansion fitting", na "352.44", iec "PVC";
}

/// Growth of PVC, mm/(m·K).
const PVC_MM_PER_M_K: f64 = 0.0608;

/// Growth from which on a fitting is needed, mm (352.44: a quarter of an inch).
pub const FITTING_FROM_MM: f64 = 6.4;

/// One piece of raceway: 10 ft.
pub const NA_PIECE_M: f64 = 10.0 * METRES_PER_FOOT;

/// One piece of conduit where nobody set another, m.
pub const IEC_PIECE_M: f64 = 3.0;

/// A raceway or cable between two boxes.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SupportInputs {
    /// Its kind in the table.
    pub kind: String,
    /// Trade size or millimetres.
    pub trade: String,
    /// Length, ft.
    #[serde(default)]
    pub length_ft: Option<f64>,
    /// Length, m.
    #[serde(default)]
    pub length_m: Option<f64>,
    /// One piece, m; the school's where absent.
    #[serde(default)]
    pub piece_m: Option<f64>,
    /// Temperature swing, K; without one nothing is said of growth.
    #[serde(default)]
    pub dt_c: Option<f64>,
}

/// Figures of what holds it; `raceway.expansion_fitting_needed` is judged where the swing is known.
pub fn support(sheet: &mut Sheet, x: &SupportInputs) {
    let length = x.length_m.or(x.length_ft.map(|ft| ft * METRES_PER_FOOT));
    let school = sheet.school;
    let row = tables::support(&x.kind, &x.trade);
    let table = "raceway_supports";
    sheet.count(&SUPPORTS, |w| {
        let l = w.need::<Metres>("L", length, "way.parts.length_m", "measured");
        let Some(row) = row else {
            w.note(format!("The table holds no {} {}.", x.kind, x.trade));
            return None;
        };
        let from_box = w.given("from each box", Metres(row.from_box_m), table);
        let spacing = w.given("spacing", Metres(row.spacing_m), table);
        let between = (l? - exact::<Ratio>(2.0) * from_box) / spacing;
        let further = if below(between.value.0, 0.0) { exact(0.0) } else { between.ceil() };
        Some(exact::<Ratio>(1.0) + further)
    });
    sheet.count(&COUPLINGS, |w| {
        let l = w.need::<Metres>("L", length, "way.parts.length_m", "measured");
        let piece =
            x.piece_m.unwrap_or(if school == School::Na { NA_PIECE_M } else { IEC_PIECE_M });
        let piece = w.given("one piece", Metres(piece), "as it is sold");
        let pieces: Traced<Ratio> = (l? / piece).ceil();
        Some((pieces - exact(1.0)).max(exact(0.0)))
    });
    let Some(swing) = x.dt_c else { return };
    let growth = sheet.figure(&EXPANSION, |w| {
        let l = w.need::<Metres>("L", length, "way.parts.length_m", "measured");
        let per = w.given("growth, mm per m and K", Ratio(PVC_MM_PER_M_K), "PVC");
        let swing = w.given("swing, K", Ratio(swing), "coldest to hottest there");
        let l = l?;
        let metres = w.step("L in m", l / exact::<Metres>(1.0));
        Some(exact::<Millimetres>(1.0) * (per * metres * swing))
    });
    let verdict = match growth.value() {
        None => Verdict::Unknown,
        Some(mm) if below(mm, FITTING_FROM_MM) => Verdict::Pass,
        Some(_) => Verdict::Warn,
    };
    sheet
        .judge(&FITTING, verdict)
        .misses(growth.missing().to_vec())
        .reason("It grows and shrinks by a quarter of an inch (6.4 mm) and more.")
        .cure("An expansion fitting, and clamps that let it slide.", Vec::new());
}
