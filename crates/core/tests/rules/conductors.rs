//! Conductors: terminals, heat, number, devices; earth wires; voltage drop.

use serde_json::{Value, json};

use crate::bench::{holds, with};

/// One string of 10 A modules on 10 AWG THWN-2 inside at 30 °C: 1.25 x 10 = 12.5 A, design 15.625
/// A.
fn na(change: Value, figures: Value, verdicts: Value) {
    let base = json!({ "kind": "pv_string", "isc_a": 10, "insulation": "THWN-2", "size": "10",
        "t_max_c": 30, "segments": [{ "place": "inside" }] });
    holds("conductor_na", "na", with(&base, change), figures, verdicts);
}

/// A pair of solar cable, 4 mm², in free air at 30 °C: 12.5 A needed of 55.
fn iec(change: Value, figures: Value, verdicts: Value) {
    let base = json!({ "kind": "pv_string", "isc_a": 10, "mm2": 4, "cable": "solar",
        "install": "free_air", "ambient_c": 30 });
    holds("conductor_iec", "iec", with(&base, change), figures, verdicts);
}

#[test]
fn terminals_and_heat_are_two_checks() {
    let figures = json!({ "circuit.i_max_a": 12.5, "circuit.i_design_a": 15.625,
        "circuit.ampacity_terminal_a": 35, "circuit.ampacity_derated_a": 40,
        "circuit.ampacity_a": 35 });
    na(
        json!({}),
        figures,
        json!({ "circuit.ampacity_terminal_a": "pass", "circuit.ampacity_derated_a": "pass" }),
    );
    na(json!({ "terminal_c": 60 }), json!({ "circuit.ampacity_terminal_a": 30 }), json!({}));
    na(
        json!({ "insulation": "NM" }),
        json!({ "circuit.ampacity_terminal_a": 30, "circuit.ampacity_derated_a": 40 }),
        json!({}),
    );
    na(json!({ "insulation": "THWN" }), json!({ "circuit.ampacity_derated_a": 35 }), json!({}));
}

#[test]
fn heat_takes_the_worse_row_and_ends_with_the_table() {
    for (t_max, factor) in
        [(30.0, 1.0), (30.5, 0.96), (35.0, 0.96), (40.0, 0.91), (40.1, 0.87), (85.0, 0.29)]
    {
        na(
            json!({ "t_max_c": t_max }),
            json!({ "circuit.f_temp": factor, "circuit.ampacity_derated_a": 40.0 * factor }),
            json!({}),
        );
    }
    na(
        json!({ "t_max_c": 85.1 }),
        json!({ "circuit.f_temp": null, "circuit.ampacity_derated_a": null }),
        json!({ "circuit.ampacity_derated_a": "fail" }),
    );
    na(
        json!({ "t_max_c": 71, "insulation": "THWN" }),
        json!({ "circuit.f_temp": null }),
        json!({ "circuit.ampacity_derated_a": "fail" }),
    );
}

#[test]
fn the_place_adds_its_heat() {
    for (place, ambient) in [
        ("attic", 47),
        ("under_modules", 40),
        ("underground", 20),
        ("garage", 30),
        ("roof_shade", 30),
    ] {
        na(
            json!({ "segments": [{ "place": place }] }),
            json!({ "circuit.ambient_c": ambient }),
            json!({}),
        );
    }
    na(
        json!({ "segments": [{ "place": "attic", "ambient_add_c": 5 }] }),
        json!({ "circuit.ambient_c": 35 }),
        json!({}),
    );
    // Closer than 7/8 in to a sunlit roof: 33 K more, in raceway or cable, XHHW-2 excepted.
    na(
        json!({ "segments": [{ "place": "roof_sun", "roof_clearance_in": 0.87 }] }),
        json!({ "circuit.ambient_c": 63 }),
        json!({}),
    );
    na(
        json!({ "segments": [{ "place": "roof_sun", "roof_clearance_in": 0.875 }] }),
        json!({ "circuit.ambient_c": 30 }),
        json!({}),
    );
    na(
        json!({ "insulation": "XHHW-2", "segments": [{ "place": "roof_sun",
            "roof_clearance_in": 0.1 }] }),
        json!({ "circuit.ambient_c": 30 }),
        json!({}),
    );
}

#[test]
fn a_clearance_nobody_measured_is_judged_at_both_ends() {
    // 12.5 A; 10 AWG at 30 + 33 = 63 °C: 40 x 0.65 = 26 A holds even there.
    let low = json!({ "circuit.ambient_c": 63, "circuit.ampacity_derated_a": 26.0 });
    let on_the_roof = json!({ "segments": [{ "place": "roof_sun" }] });
    na(on_the_roof.clone(), low, json!({ "circuit.ampacity_derated_a": "pass" }));
    // Three strings: 37.5 A needs the 40 A that only a clear raceway leaves: open.
    let three = with(&on_the_roof, json!({ "p": 3 }));
    na(three, json!({}), json!({ "circuit.ampacity_derated_a": "unknown" }));
    // Four strings, 50 A: it fails at either end.
    let four = with(&on_the_roof, json!({ "p": 4 }));
    na(four, json!({}), json!({ "circuit.ampacity_derated_a": "fail" }));
    // In free air, and with XHHW-2, the clearance adds nothing.
    let free = json!({ "segments": [{ "place": "roof_sun", "method": "free_air" }] });
    na(free, json!({ "circuit.ambient_c": 30 }), json!({}));
}

#[test]
fn the_number_of_wires_counts_but_not_in_a_nipple() {
    for (wires, factor) in [
        (3, 1.0),
        (4, 0.8),
        (6, 0.8),
        (7, 0.7),
        (9, 0.7),
        (10, 0.5),
        (20, 0.5),
        (21, 0.45),
        (31, 0.4),
        (41, 0.35),
    ] {
        na(
            json!({ "segments": [{ "place": "inside", "ccc_n": wires }] }),
            json!({ "circuit.f_count": factor }),
            json!({}),
        );
    }
    na(
        json!({ "segments": [{ "place": "inside", "ccc_n": 9, "length_in": 24 }] }),
        json!({ "circuit.f_count": 1.0 }),
        json!({}),
    );
    na(
        json!({ "segments": [{ "place": "inside", "ccc_n": 9, "length_in": 24.1 }] }),
        json!({ "circuit.f_count": 0.7 }),
        json!({}),
    );
    // 10 AWG in free air: 55 A at 90 °C; the terminals stay with the raceway table. A bundle of
    // nine is hot inside there too: 55 x 0.7.
    na(
        json!({ "segments": [{ "place": "inside", "ccc_n": 9, "method": "free_air" }] }),
        json!({ "circuit.ampacity_derated_a": 38.5 }),
        json!({}),
    );
    let figures = json!({ "circuit.f_count": 1.0, "circuit.ampacity_derated_a": 55,
        "circuit.ampacity_terminal_a": 35 });
    na(
        json!({ "segments": [{ "place": "inside", "ccc_n": 3, "method": "free_air" }] }),
        figures,
        json!({}),
    );
}

#[test]
fn which_wires_carry_current_depends_on_the_circuit() {
    for (circuit, factor) in [
        (json!({ "kind": "dc" }), 1.0),
        (json!({ "kind": "split_phase", "neutral": true }), 1.0),
        (json!({ "kind": "two_of_208y", "neutral": true }), 1.0),
        (json!({ "kind": "three_phase" }), 1.0),
        (json!({ "kind": "three_phase", "neutral": true, "neutral_nonlinear": true }), 0.8),
    ] {
        na(
            json!({ "segments": [{ "place": "inside", "circuits": [circuit] }] }),
            json!({ "circuit.f_count": factor }),
            json!({}),
        );
    }
    // Two of 208Y/120 with a neutral that counts are 3 each: 6; where it only senses 2 each: 4;
    // both 0.8, three circuits 9 and 6.
    let two = |sense: bool| {
        json!({ "kind": "two_of_208y", "neutral": true,
        "neutral_sense_only": sense })
    };
    na(
        json!({ "segments": [{ "place": "inside", "circuits": [two(false), two(false),
            two(false)] }] }),
        json!({ "circuit.f_count": 0.7 }),
        json!({}),
    );
    na(
        json!({ "segments": [{ "place": "inside", "circuits": [two(true), two(true),
            two(true)] }] }),
        json!({ "circuit.f_count": 0.8 }),
        json!({}),
    );
}

#[test]
fn the_worst_segment_rules() {
    let segments = json!({ "segments": [{ "place": "attic" }, { "place": "inside", "ccc_n": 10 },
        { "place": "garage" }] });
    // Attic 47 °C: 40 x 0.82 = 32.8; ten wires: 40 x 0.5 = 20.
    na(segments, json!({ "circuit.ampacity_derated_a": 20, "circuit.f_count": 0.5 }), json!({}));
}

#[test]
fn the_device_is_the_next_size_but_small_wires_have_a_cap() {
    let out = |rated: f64, size: &str, device: f64| {
        json!({ "kind": "inverter_out",
        "rated_a": rated, "size": size, "ocpd_a": device })
    };
    // 6 AWG: 65 A at the terminals, next size 70.
    na(
        out(40.0, "6", 70.0),
        json!({ "circuit.ocpd_allowed_a": 70 }),
        json!({ "circuit.ocpd_a": "pass" }),
    );
    na(out(40.0, "6", 80.0), json!({}), json!({ "circuit.ocpd_a": "fail" }));
    // 14, 12, 10 AWG copper: 15, 20, 30 A.
    na(
        out(10.0, "14", 15.0),
        json!({ "circuit.ocpd_allowed_a": 15 }),
        json!({ "circuit.ocpd_a": "pass" }),
    );
    na(out(10.0, "14", 20.0), json!({}), json!({ "circuit.ocpd_a": "fail" }));
    na(
        out(16.0, "12", 20.0),
        json!({ "circuit.ocpd_allowed_a": 20 }),
        json!({ "circuit.ocpd_a": "pass" }),
    );
    na(
        out(24.0, "10", 30.0),
        json!({ "circuit.ocpd_allowed_a": 30 }),
        json!({ "circuit.ocpd_a": "pass" }),
    );
    na(out(24.0, "10", 35.0), json!({}), json!({ "circuit.ocpd_a": "fail" }));
}

#[test]
fn the_smallest_wire_that_passes_is_found() {
    // 12.5 A and 15.6 A: 14 AWG has 20 A at the terminals and 25 x 1.0.
    na(json!({ "find_smallest": true }), json!({ "circuit.size_min": "14" }), json!({}));
    // 30 A modules: 37.5 and 46.9 A: 8 AWG, 50 and 55 A.
    na(
        json!({ "isc_a": 30, "find_smallest": true }),
        json!({ "circuit.size_min": "8" }),
        json!({}),
    );
    // Aluminium: 8 AWG has 40, 6 AWG 50 A at the terminals.
    na(
        json!({ "isc_a": 30, "material": "al", "size": "6", "find_smallest": true }),
        json!({ "circuit.size_min": "6" }),
        json!({}),
    );
}

#[test]
fn how_a_cable_lies_decides_what_it_carries() {
    for (install, amps) in [("free_air", 55.0), ("on_surface", 52.0), ("two_touching", 44.0)] {
        iec(
            json!({ "install": install }),
            json!({ "circuit.iz_a": amps, "circuit.need_a": 12.5 }),
            json!({ "circuit.iz_a": "pass" }),
        );
    }
    iec(
        json!({ "cable": "xlpe90", "install": "method_b1" }),
        json!({ "circuit.iz_a": 42 }),
        json!({}),
    );
    iec(
        json!({ "cable": "xlpe90", "install": "method_c" }),
        json!({ "circuit.iz_a": 45 }),
        json!({}),
    );
    iec(
        json!({ "cable": "pvc70", "install": "method_c" }),
        json!({ "circuit.iz_a": 36 }),
        json!({}),
    );
    // In an insulated wall: wires 26 A, multicore 25 A; wholly in insulation half of C.
    for (install, amps) in [("method_a1", 26.0), ("method_a2", 25.0), ("in_insulation", 18.0)] {
        iec(
            json!({ "cable": "pvc70", "install": install }),
            json!({ "circuit.iz_a": amps }),
            json!({}),
        );
    }
}

#[test]
fn solar_cable_has_no_credit_for_cold_and_ends_at_90() {
    for (ambient, factor) in
        [(-20.0, 1.0), (60.0, 1.0), (60.1, 0.92), (70.0, 0.92), (80.0, 0.84), (90.0, 0.75)]
    {
        iec(json!({ "ambient_c": ambient }), json!({ "circuit.iz_a": 55.0 * factor }), json!({}));
    }
    iec(
        json!({ "ambient_c": 90.1 }),
        json!({ "circuit.iz_a": null }),
        json!({ "circuit.iz_a": "fail" }),
    );
}

#[test]
fn grouping_goes_on_beyond_nine() {
    for (circuits, factor) in [
        (1, 1.0),
        (2, 0.8),
        (9, 0.5),
        (10, 0.45),
        (12, 0.45),
        (13, 0.41),
        (16, 0.41),
        (17, 0.38),
        (20, 0.38),
    ] {
        iec(
            json!({ "cable": "xlpe90", "install": "method_b1", "circuits_n": circuits }),
            json!({ "circuit.f_group": factor, "circuit.iz_a": 42.0 * factor }),
            json!({}),
        );
    }
}

#[test]
fn a_device_asks_for_more_than_the_current() {
    let ac = json!({ "kind": "inverter_out", "rated_a": 20, "cable": "pvc70",
        "install": "method_b1", "ambient_c": 30, "device_a": 25 });
    iec(
        ac.clone(),
        json!({ "circuit.iz_a": 32, "circuit.need_a": 25 }),
        json!({ "circuit.iz_a": "pass" }),
    );
    iec(
        with(&ac, json!({ "device_a": 40 })),
        json!({ "circuit.need_a": 40 }),
        json!({ "circuit.iz_a": "fail" }),
    );
    // Three loaded conductors have a column of their own: B1, PVC, 4 mm²: 28 A.
    iec(with(&ac, json!({ "loaded_n": 3 })), json!({ "circuit.iz_a": 28.0 }), json!({}));
    // Unfused strings: the others feed the fault, 1.25 x 10 x (4 - 1).
    iec(json!({ "p": 4 }), json!({ "circuit.need_a": 37.5 }), json!({}));
}

#[test]
fn the_grounding_conductor_goes_by_its_table() {
    let egc = |inputs: Value, wanted: &str| {
        holds("egc", "na", inputs, json!({ "circuit.egc_awg": wanted }), json!({}))
    };
    for (device, wanted) in
        [(15, "14"), (20, "12"), (21, "10"), (60, "10"), (100, "8"), (200, "6"), (400, "3")]
    {
        egc(json!({ "ocpd_a": device, "phase_installed": "250", "phase_needed": "250" }), wanted);
    }
    egc(
        json!({ "ocpd_a": 60, "material": "al", "phase_installed": "2", "phase_needed": "2" }),
        "8",
    );
    // Never more than the phase wire.
    egc(json!({ "ocpd_a": 60, "phase_installed": "12", "phase_needed": "12" }), "12");
    for (line, wanted) in [(10.0, 10.0), (16.0, 16.0), (25.0, 16.0), (35.0, 16.0)] {
        holds(
            "egc",
            "iec",
            json!({ "line_mm2": line }),
            json!({ "circuit.pe_mm2": wanted }),
            json!({}),
        );
    }
}

#[test]
fn voltage_drop_and_loss() {
    // 10 AWG: 1.24 ohm per 1000 ft; 2 x 50 ft x 1.24/1000 x 10 A = 1.24 V of 330 V, 12.4 W.
    let na = json!({ "awg": "10", "length_ft": 50, "amps_a": 10, "volts_v": 330, "limit_pct": 2 });
    holds(
        "vdrop",
        "na",
        na.clone(),
        json!({ "circuit.vdrop_v": 1.24, "circuit.vdrop_pct": 124.0 / 330.0,
            "circuit.loss_w": 12.4, "circuit.length_m": 15.24 }),
        json!({ "circuit.vdrop_pct": "pass" }),
    );
    holds(
        "vdrop",
        "na",
        with(&na, json!({ "length_ft": null, "length_m": 15.24 })),
        json!({ "circuit.vdrop_v": 1.24 }),
        json!({}),
    );
    // Exactly 2 % passes: 6.6 V of 330 V.
    holds(
        "vdrop",
        "na",
        with(&na, json!({ "volts_v": 62 })),
        json!({ "circuit.vdrop_pct": 2.0 }),
        json!({ "circuit.vdrop_pct": "pass" }),
    );
    holds(
        "vdrop",
        "na",
        with(&na, json!({ "volts_v": 61.9 })),
        json!({}),
        json!({ "circuit.vdrop_pct": "warn" }),
    );
    // Three-phase: sqrt(3) in place of 2.
    let three = with(&na, json!({ "three_phase": true }));
    holds(
        "vdrop",
        "na",
        three,
        json!({ "circuit.vdrop_v": 0.62 * 3.0_f64.sqrt(), "circuit.loss_w": 18.6 }),
        json!({}),
    );
    // iec: 4 mm² solar, 5.09 ohm/km x 1.1965, 2 x 20 m x 10 A.
    let iec = json!({ "mm2": 4, "cable": "solar", "length_m": 20, "amps_a": 10, "volts_v": 400,
        "limit_pct": 3 });
    holds(
        "vdrop",
        "iec",
        iec,
        json!({ "circuit.vdrop_v": 400.0 * 0.00509 * 1.1965 }),
        json!({ "circuit.vdrop_pct": "pass" }),
    );
    holds(
        "vdrop",
        "na",
        with(&na, json!({ "length_ft": null })),
        json!({ "circuit.vdrop_v": null }),
        json!({ "circuit.vdrop_pct": "unknown" }),
    );
}
