//! Runs of a job: conductors, voltage drop, earth wires, raceways with their cuts, and the panel.

use serde_json::json;

use crate::figure::{Def, Edit, Figure, Sheet, Stage, Subject, SubjectKind, Value, Verdict, said};
use crate::job::{
    Cable, CircuitKind, Insulation, Job, JobString, Method, Place, RacewayChoice, Run, Segment,
};
use crate::library::{InverterSheet, Library, ModuleSheet};
use crate::quantity::Unit;
use crate::runs::{
    AC_OCPD, AcInputs, Circuit, ConductorIec, ConductorNa, CutWire, EgcInputs, FillInputs,
    FillWire, Install, PanelInputs, RacewayCut, SegmentNa, SharedCircuit, Vdrop, WireRole, ac,
    arrange, conductor_iec, conductor_na, egc, fill, panel, vdrop,
};
use crate::school::School;
use crate::tables;

static PLANNED: Def = Def {
    id: "runs.planned",
    title: "Circuits planned",
    stage: Stage::Runs,
    na: "job",
    iec: "job",
};
static PANEL_KNOWN: Def = Def {
    id: "panel.bus_a",
    title: "Main panel known",
    stage: Stage::Runs,
    na: "705.12(B)",
    iec: "",
};

const MM_PER_INCH: f64 = 25.4;

/// What a run carries, looked up once.
struct Carried<'a> {
    job: &'a Job,
    library: &'a Library,
    run: &'a Run,
    index: usize,
    strings: Vec<(&'a JobString, &'a ModuleSheet)>,
    inverter: Option<&'a InverterSheet>,
}

impl Carried<'_> {
    /// Circuits that lie side by side: one pair per string, or one.
    fn circuits(&self) -> u32 {
        if self.run.kind == CircuitKind::PvString { self.strings.len().max(1) as u32 } else { 1 }
    }

    /// Strings in parallel on one pair.
    fn parallel(&self) -> u32 {
        if self.run.kind == CircuitKind::PvOutput { self.strings.len().max(1) as u32 } else { 1 }
    }

    /// The module with the largest Isc: every pair of the run is sized for it.
    fn strongest(&self) -> Option<&ModuleSheet> {
        self.strings.iter().map(|(_, m)| *m).max_by(|a, b| {
            a.ratings.isc_a.unwrap_or(0.0).total_cmp(&b.ratings.isc_a.unwrap_or(0.0))
        })
    }

    fn three_phase(&self) -> bool {
        self.inverter.is_some_and(|i| i.three_phase)
    }

    /// Length of all segments; none where one is not known.
    fn length_m(&self) -> Option<f64> {
        if self.run.segments.is_empty() {
            None
        } else {
            self.run.segments.iter().map(|s| s.length_m).sum()
        }
    }

    fn edit(&self, rest: &str, value: impl Into<serde_json::Value>) -> Vec<Edit> {
        vec![Edit { pointer: format!("/runs/{}/{rest}", self.index), value: value.into() }]
    }
}

pub(super) fn runs(sheet: &mut Sheet, job: &Job, library: &Library) -> Vec<RacewayCut> {
    let mut cuts = Vec::new();
    if job.runs.is_empty() && job.branches.iter().all(|b| b.home_run_m.is_none()) {
        sheet.subject = Subject::new(SubjectKind::Site, "site");
        sheet.judge(&PLANNED, Verdict::Unknown).missing = vec!["runs".to_owned()];
    }
    let mut breakers = Vec::new();
    for (index, run) in job.runs.iter().enumerate() {
        let strings = run
            .strings
            .iter()
            .filter_map(|l| job.strings.iter().find(|s| &s.letter == l))
            .filter_map(|s| Some((s, library.module(&s.module)?)))
            .collect();
        let inverter = run
            .inverter
            .as_ref()
            .and_then(|id| job.inverters.iter().find(|i| &i.id == id))
            .and_then(|i| library.inverter(&i.sheet));
        let c = Carried { job, library, run, index, strings, inverter };
        let device = one_run(sheet, &c, &mut cuts);
        if !run.kind.is_dc() {
            breakers.push(device);
        }
    }
    if job.school == School::Na {
        busbar(sheet, job, library, &breakers);
    }
    cuts
}

/// Last value of a figure of this run.
fn last<'a>(sheet: &'a Sheet, id: &str) -> Option<&'a Value> {
    let of_run = |f: &&Figure| f.id == id && f.subject == sheet.subject;
    sheet.figures.iter().rev().find(of_run)?.value.as_ref()
}

fn text(value: Option<&Value>) -> Option<String> {
    match value {
        Some(Value::Text(t)) => Some(t.clone()),
        _ => None,
    }
}

/// One run; gives its overcurrent device, where there is one.
fn one_run(sheet: &mut Sheet, c: &Carried, cuts: &mut Vec<RacewayCut>) -> Option<f64> {
    sheet.subject = Subject::new(SubjectKind::Circuit, &c.run.id);
    let mut device = c.run.ocpd_a;
    if !c.run.kind.is_dc() {
        let inputs = AcInputs {
            rated_a: c.inverter.and_then(|i| i.ac_a),
            watts_w: c.inverter.and_then(|i| i.ac_w),
            volts_v: c.inverter.and_then(|i| i.ac_v),
            three_phase: c.three_phase(),
            maker_max_ocpd_a: c.inverter.and_then(|i| i.max_ocpd_a),
            network_a: c.job.settings.network_a,
            ..AcInputs::default()
        };
        ac(sheet, &inputs);
        device = device.or_else(|| last(sheet, AC_OCPD.id).and_then(Value::number));
    }
    let (earth, size) = match c.job.school {
        School::Na => na(sheet, c, device),
        School::Iec => iec(sheet, c, device),
    };
    drop(c, sheet);
    for (k, segment) in c.run.segments.iter().enumerate() {
        if let Some(raceway) = &segment.raceway {
            sheet.subject = Subject::new(SubjectKind::Raceway, format!("{}/{}", c.run.id, k + 1));
            if let Some(cut) =
                one_raceway(sheet, c, k, segment, raceway, earth.as_deref(), size.as_deref())
            {
                cuts.push(cut);
            }
        }
    }
    device
}

/// Conductor and earth wire, North American school: sizes of both.
fn na(sheet: &mut Sheet, c: &Carried, device: Option<f64>) -> (Option<String>, Option<String>) {
    let run = c.run;
    let module = c.strongest();
    let shared = if run.kind.is_dc() {
        vec![
            Circuit {
                kind: SharedCircuit::Dc,
                neutral: false,
                neutral_sense_only: false,
                neutral_nonlinear: false
            };
            c.circuits() as usize
        ]
    } else {
        let kind =
            if c.three_phase() { SharedCircuit::ThreePhase } else { SharedCircuit::SplitPhase };
        vec![Circuit {
            kind,
            neutral: run.neutral,
            neutral_sense_only: false,
            neutral_nonlinear: false,
        }]
    };
    let segment = |s: &Segment| SegmentNa {
        place: s.place,
        ambient_add_c: s.ambient_add_c,
        method: s.method,
        roof_clearance_in: s.roof_clearance_mm.map(|mm| mm / MM_PER_INCH),
        length_in: s.length_m.map(|m| m * 1000.0 / MM_PER_INCH),
        ccc_n: None,
        circuits: Some(shared.clone()),
    };
    let inputs = ConductorNa {
        kind: run.kind,
        isc_a: module.and_then(|m| m.ratings.isc_a),
        p: Some(c.parallel()),
        bifacial_gain: module.and_then(|m| m.ratings.bifacial_gain),
        rated_a: c.inverter.and_then(|i| i.ac_a),
        material: run.wire.material,
        insulation: run.wire.insulation,
        insulation_c: Some(if run.wire.insulation == Insulation::Thwn { 75 } else { 90 }),
        terminal_c: run.wire.terminal_c,
        size: run.wire.awg.clone(),
        t_max_c: c.job.site.t_max_c,
        segments: run.segments.iter().map(segment).collect(),
        ocpd_a: device,
        pick_ocpd: !run.kind.is_dc(),
        find_smallest: true,
    };
    let from = sheet.checks.len();
    conductor_na(sheet, &inputs);
    let smallest = text(last(sheet, "circuit.size_min"));
    if let Some(size) = &smallest {
        for check in &mut sheet.checks[from..] {
            check.cure(
                format!("{size} AWG is the smallest that passes."),
                c.edit("wire/awg", size.as_str()),
            );
        }
    }
    if run.wire.awg.is_none() {
        sheet.judge(&crate::runs::I_DESIGN, Verdict::Unknown).missing = vec!["wire.awg".to_owned()];
    }
    let gained = module.and_then(|m| m.ratings.isc_a.map(|i| i * (1.0 + m.ratings.gain())));
    egc(
        sheet,
        &EgcInputs {
            ocpd_a: device,
            isc_a: gained,
            p: Some(c.parallel()),
            dc: run.kind.is_dc(),
            material: run.wire.material,
            phase_installed: run.wire.awg.clone(),
            phase_needed: smallest,
            line_mm2: None,
        },
    );
    (text(last(sheet, "circuit.egc_awg")), run.wire.awg.clone())
}

/// Conductor and protective conductor, IEC school: sections of both. The worst segment rules.
fn iec(sheet: &mut Sheet, c: &Carried, device: Option<f64>) -> (Option<String>, Option<String>) {
    let run = c.run;
    let mut worst: Option<(f64, Sheet)> = None;
    for segment in &run.segments {
        let trial = iec_segment(sheet, c, device, segment, run.wire.mm2);
        let iz = trial
            .figures
            .iter()
            .find(|f| f.id == "circuit.iz_a")
            .and_then(|f| f.value.as_ref())
            .and_then(Value::number);
        let iz = iz.unwrap_or(f64::NEG_INFINITY);
        if worst.as_ref().is_none_or(|(least, _)| iz < *least) {
            worst = Some((iz, trial));
        }
    }
    match worst {
        Some((_, mut trial)) => {
            if trial.checks.iter().any(|k| k.verdict == Verdict::Fail)
                && let Some(mm2) = smallest_iec(sheet, c, device)
            {
                for check in &mut trial.checks {
                    check.cure(
                        format!("{mm2} mm² is the smallest that passes."),
                        c.edit("wire/mm2", mm2),
                    );
                }
            }
            sheet.figures.append(&mut trial.figures);
            sheet.checks.append(&mut trial.checks);
        }
        None => {
            sheet.judge(&crate::runs::I_DESIGN, Verdict::Unknown).missing =
                vec!["run.segments".to_owned()];
        }
    }
    egc(sheet, &EgcInputs { line_mm2: run.wire.mm2, ..EgcInputs::default() });
    let earth = last(sheet, "circuit.pe_mm2").and_then(Value::number).map(|n| n.to_string());
    (earth, run.wire.mm2.map(|n| n.to_string()))
}

fn iec_segment(
    sheet: &Sheet,
    c: &Carried,
    device: Option<f64>,
    segment: &Segment,
    mm2: Option<f64>,
) -> Sheet {
    let module = c.strongest();
    let add = segment
        .ambient_add_c
        .or_else(|| tables::place(segment.place.key()).map(|p| p.ambient_add_c))
        .unwrap_or(0.0);
    let install = match (segment.method, c.run.wire.cable) {
        (Method::Raceway, _) => Install::MethodB,
        (Method::FreeAir, Cable::Solar) if segment.place == Place::UnderModules => {
            Install::TwoTouching
        }
        (Method::FreeAir | Method::Cable, Cable::Solar) => Install::OnSurface,
        _ => Install::MethodC,
    };
    let mut trial = Sheet::new(sheet.school, sheet.subject.clone());
    conductor_iec(
        &mut trial,
        &ConductorIec {
            kind: c.run.kind,
            isc_a: module.and_then(|m| m.ratings.isc_a),
            p: Some(c.parallel()),
            bifacial_gain: module.and_then(|m| m.ratings.bifacial_gain),
            rated_a: c.inverter.and_then(|i| i.ac_a),
            device_a: device,
            mm2,
            cable: c.run.wire.cable,
            install,
            ambient_c: c.job.site.t_max_c.map(|t| t + add),
            circuits_n: Some(c.circuits()),
            loaded_n: Some(if c.three_phase() { 3 } else { 2 }),
        },
    );
    trial
}

/// Sections the IEC tables hold.
fn sections() -> impl Iterator<Item = f64> {
    tables::SOLAR_CABLES.iter().map(|s| s.mm2)
}

fn smallest_iec(sheet: &Sheet, c: &Carried, device: Option<f64>) -> Option<f64> {
    sections().find(|mm2| {
        let passes = |s: &Segment| {
            iec_segment(sheet, c, device, s, Some(*mm2))
                .checks
                .iter()
                .all(|k| k.verdict == Verdict::Pass)
        };
        c.run.segments.iter().all(passes)
    })
}

/// Voltage drop of each circuit of the run, with the size that would hold it.
fn drop(c: &Carried, sheet: &mut Sheet) {
    let run = c.run;
    let (dc, ac) = c.job.school.vdrop_limits_pct();
    let base = |amps_a: Option<f64>, volts_v: Option<f64>, limit_pct: f64| Vdrop {
        awg: if c.job.school == School::Na { run.wire.awg.clone() } else { None },
        material: run.wire.material,
        mm2: if c.job.school == School::Iec { run.wire.mm2 } else { None },
        cable: Some(run.wire.cable),
        length_ft: None,
        length_m: c.length_m(),
        amps_a,
        volts_v,
        three_phase: !run.kind.is_dc() && c.three_phase(),
        limit_pct: Some(limit_pct),
    };
    if run.kind.is_dc() {
        let limit = c.job.settings.vdrop_dc_pct.unwrap_or(dc);
        let p = f64::from(c.parallel());
        for (s, m) in &c.strings {
            sheet.subject = Subject::new(SubjectKind::Circuit, format!("{} {}", run.id, s.letter));
            let fixed = s
                .optimizer
                .as_ref()
                .map(|o| c.library.optimizer(o).and_then(|o| o.ratings.string_v));
            let (amps, volts) = match fixed {
                // The devices hold the string at fixed volts: its watts at these are the amps.
                Some(volts) => {
                    (m.ratings.pmax_w.zip(volts).map(|(w, v)| w * f64::from(s.n) / v), volts)
                }
                None => {
                    (m.ratings.imp_a.map(|i| i * p), m.ratings.vmp_v.map(|v| v * f64::from(s.n)))
                }
            };
            hold_drop(sheet, c, &base(amps, volts, limit));
            if run.kind == CircuitKind::PvOutput {
                break;
            }
        }
    } else {
        let limit = c.job.settings.vdrop_ac_pct.unwrap_or(ac);
        hold_drop(
            sheet,
            c,
            &base(c.inverter.and_then(|i| i.ac_a), c.inverter.and_then(|i| i.ac_v), limit),
        );
    }
}

fn hold_drop(sheet: &mut Sheet, c: &Carried, x: &Vdrop) {
    let school = sheet.school;
    let check = vdrop(sheet, x);
    if check.verdict != Verdict::Warn {
        return;
    }
    let over = check.margin.map_or(0.0, |m| -m);
    check.reason(format!(
        "{} over the limit: the loss is paid every sunny hour.",
        said(over, Unit::Percent)
    ));
    let passes = |y: Vdrop| {
        let mut trial = Sheet::new(school, Subject::new(SubjectKind::Circuit, ""));
        vdrop(&mut trial, &y).verdict == Verdict::Pass
    };
    match school {
        School::Na => {
            let sizes = tables::WIRES
                .iter()
                .map(|w| &w.size)
                .filter(|s| tables::ampacity(s, x.material.key(), false).is_some());
            if let Some(size) =
                sizes.into_iter().find(|s| passes(Vdrop { awg: Some((*s).clone()), ..x.clone() }))
            {
                check.cure(format!("{size} AWG holds it."), c.edit("wire/awg", size.as_str()));
            }
        }
        School::Iec => {
            if let Some(mm2) = sections().find(|s| passes(Vdrop { mm2: Some(*s), ..x.clone() })) {
                check.cure(format!("{mm2} mm² holds it."), c.edit("wire/mm2", json!(mm2)));
            }
        }
    }
}

/// Kind of a wire in the fill tables.
fn fill_kind(c: &Carried) -> &'static str {
    match (c.job.school, c.run.wire.insulation) {
        (School::Iec, _) => c.run.wire.cable.key(),
        (School::Na, Insulation::Xhhw2) => "xhhw",
        (School::Na, Insulation::Pv | Insulation::Use2) => "pv",
        (School::Na, _) => "thhn",
    }
}

fn one_raceway(
    sheet: &mut Sheet,
    c: &Carried,
    k: usize,
    segment: &Segment,
    raceway: &RacewayChoice,
    earth: Option<&str>,
    size: Option<&str>,
) -> Option<RacewayCut> {
    let school = c.job.school;
    let mut roles: Vec<(Option<String>, WireRole)> = Vec::new();
    match c.run.kind {
        CircuitKind::PvString => {
            for (s, _) in &c.strings {
                roles
                    .extend([WireRole::Plus, WireRole::Minus].map(|r| (Some(s.letter.clone()), r)));
            }
        }
        CircuitKind::PvOutput => roles.extend([(None, WireRole::Plus), (None, WireRole::Minus)]),
        _ => {
            // One line and the neutral is the IEC single-phase circuit; two lines the North
            // American one.
            let single_iec = school == School::Iec && !c.three_phase();
            let lines = if c.three_phase() { 3 } else { 2 - usize::from(single_iec) };
            roles.extend((0..lines).map(|_| (None, WireRole::Line)));
            if c.run.neutral || single_iec {
                roles.push((None, WireRole::Neutral));
            }
        }
    }
    let wire = |kind: &str, size: &str, n: u32| FillWire {
        kind: kind.to_owned(),
        size: (school == School::Na).then(|| size.to_owned()),
        mm2: if school == School::Iec { size.parse().ok() } else { None },
        n,
        od_in: None,
        od_mm: None,
    };
    let (Some(size), Some(earth)) = (size, earth) else {
        let check = sheet.judge(&FILL_KNOWN, Verdict::Unknown);
        check.missing = vec![if school == School::Na { "wire.awg" } else { "wire.mm2" }.to_owned()];
        return None;
    };
    let conductor = wire(fill_kind(c), size, roles.len() as u32);
    let earth_wire = wire(if school == School::Na { "thhn" } else { "pvc70" }, earth, 1);
    let diameters = (conductor.diameter_mm(school), earth_wire.diameter_mm(school));
    let inputs = FillInputs {
        kind: raceway.kind,
        trade: (school == School::Na).then(|| raceway.size.clone()),
        size_mm: if school == School::Iec { raceway.size.parse().ok() } else { None },
        wires: vec![conductor, earth_wire],
        length_in: segment.length_m.map(|m| m * 1000.0 / MM_PER_INCH),
        limit_pct: c.job.settings.fill_limit_pct,
        jam_od_in: None,
    };
    let check = fill(sheet, &inputs);
    if check.verdict == Verdict::Fail {
        let index = sheet.checks.len() - 1;
        let better = match last(sheet, "raceway.size") {
            Some(Value::Text(t)) => Some(t.clone()),
            Some(Value::Number(n)) => Some(n.to_string()),
            _ => None,
        };
        if let Some(better) = better {
            let kind = raceway.kind.key().to_uppercase();
            let edits = c.edit(&format!("segments/{k}/raceway/size"), better.as_str());
            sheet.checks[index].cure(format!("{kind} {better} holds them."), edits);
        }
    }
    cut(sheet, raceway, roles, diameters, (size, earth))
}

static FILL_KNOWN: Def = Def {
    id: "raceway.fill_pct",
    title: "Fill of the raceway",
    stage: Stage::Runs,
    na: "Chapter 9, Tables 1, 4 and 5",
    iec: "space factor",
};

fn cut(
    sheet: &Sheet,
    raceway: &RacewayChoice,
    roles: Vec<(Option<String>, WireRole)>,
    diameters: (Option<f64>, Option<f64>),
    sizes: (&str, &str),
) -> Option<RacewayCut> {
    let (conductor_mm, earth_mm) = (diameters.0?, diameters.1?);
    let kind = raceway.kind.key();
    let inner_mm = match raceway.kind.school() {
        School::Na => {
            tables::RACEWAYS.iter().find(|r| r.kind == kind && r.trade == raceway.size)?.id_in
                * MM_PER_INCH
        }
        School::Iec => {
            tables::CONDUITS
                .iter()
                .find(|r| r.class == kind && r.size_mm.to_string() == raceway.size)?
                .id_mm
        }
    };
    let laid = |string, role, size: &str, diameter_mm| CutWire {
        string,
        role,
        size: size.to_owned(),
        diameter_mm,
        x_mm: 0.0,
        y_mm: 0.0,
        fits: true,
    };
    let mut wires: Vec<CutWire> =
        roles.into_iter().map(|(string, role)| laid(string, role, sizes.0, conductor_mm)).collect();
    wires.push(laid(None, WireRole::Earth, sizes.1, earth_mm));
    Some(RacewayCut {
        subject: sheet.subject.clone(),
        kind: kind.to_owned(),
        size: raceway.size.clone(),
        inner_mm,
        wires: arrange(inner_mm, wires),
    })
}

fn busbar(sheet: &mut Sheet, job: &Job, library: &Library, breakers: &[Option<f64>]) {
    sheet.subject = Subject::new(SubjectKind::Panel, "panel");
    let Some(p) = &job.panel else {
        sheet.judge(&PANEL_KNOWN, Verdict::Unknown).missing = vec!["panel.bus_a".to_owned()];
        return;
    };
    let amps = job.inverters.iter().map(|i| library.inverter(&i.sheet).and_then(|s| s.ac_a));
    let units = job
        .branches
        .iter()
        .map(|b| library.micro(&b.micro).and_then(|m| m.ac_a).map(|a| a * f64::from(b.units())));
    let inverter_a = if job.inverters.is_empty() && job.branches.is_empty() {
        None
    } else {
        amps.chain(units).sum()
    };
    // The branches come together on one breaker.
    let combined =
        sheet.figures.iter().find(|f| f.id == AC_OCPD.id && f.subject.kind == SubjectKind::Site);
    let combined = combined.map(|f| f.value.as_ref().and_then(Value::number));
    let pv_breaker_a = if breakers.is_empty() && combined.is_none() {
        None
    } else {
        breakers.iter().copied().chain(combined).sum()
    };
    panel(
        sheet,
        &PanelInputs {
            bus_a: p.bus_a,
            main_a: p.main_a,
            load_breakers_a: p.load_breakers_a.clone(),
            pv_breaker_a,
            inverter_a,
            pv_at_far_end: p.pv_at_far_end,
            load_calc_a: p.load_calc_a,
        },
    );
}
