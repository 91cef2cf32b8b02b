//! The cold volts of a string by every method of its school, side by side.

use serde::Serialize;
use utoipa::ToSchema;

use super::window::{Cold, Window, WindowInputs, cold, voc_cold_check};
use crate::figure::{Recording, Sheet, Subject, Verdict};
use crate::job::ColdMethod;
use crate::school::School;

/// Cold volts of a string by one method.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ColdBy {
    /// The method.
    pub method: ColdMethod,
    /// The factor; absent where it cannot be had.
    pub k_cold: Option<f64>,
    /// Open-circuit volts on the coldest morning, V.
    pub voc_cold_v: Option<f64>,
    /// Room to the highest DC volts, V.
    pub margin_v: Option<f64>,
    /// What it comes to.
    pub verdict: Verdict,
    /// Most modules in series by it.
    pub n_max: Option<f64>,
}

impl ColdBy {
    fn of(method: ColdMethod, cold: &Cold, verdict: Verdict) -> Self {
        ColdBy {
            method,
            k_cold: cold.k_cold.value(),
            voc_cold_v: cold.voc.value(),
            margin_v: cold.margin.value(),
            verdict,
            n_max: cold.n_max.value(),
        }
    }
}

/// The methods of the school side by side. `own` is the string's window by its own method; the
/// others are computed by the same rules and checks.
pub fn cold_by_each(school: School, own: &Window, x: &WindowInputs) -> Vec<ColdBy> {
    let methods: &[ColdMethod] = match school {
        School::Na => &[ColdMethod::Coefficient, ColdMethod::Table],
        School::Iec => &[ColdMethod::Coefficient, ColdMethod::Table, ColdMethod::Factor],
    };
    let by = |method: &ColdMethod| {
        if *method == x.method {
            return ColdBy::of(*method, &own.cold, own.cold_verdict);
        }
        let x = WindowInputs { method: *method, n_pointer: None, ..x.clone() };
        let mut trial = Sheet::with(school, Subject::Sum, Recording::Nothing);
        let found = cold(&mut trial, &x);
        let verdict = voc_cold_check(&mut trial, &x, &found).verdict;
        ColdBy::of(*method, &found, verdict)
    };
    methods.iter().map(by).collect()
}
