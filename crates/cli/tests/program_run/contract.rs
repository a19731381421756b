//! The command-line contracts, asked of the program itself.

use crate::program::run;
use serde_json::{Value, json};

fn answer(args: &[&str], input: &Value) -> Value {
    let (code, out, err) = run(args, &input.to_string());
    assert_eq!((code, err.as_str()), (0, ""), "{args:?} {input}");
    serde_json::from_str(&out).unwrap()
}

fn refusal(args: &[&str], input: &str) -> String {
    let (code, out, err) = run(args, input);
    assert_eq!((code, out.as_str()), (2, ""), "{args:?} {input}: {err}");
    assert_eq!(err.lines().count(), 1, "{err}");
    err
}

/// Equal but for the last digits of a float.
fn same(given: &Value, wanted: &Value) -> bool {
    match (given, wanted) {
        (Value::Number(a), Value::Number(b)) => {
            let (a, b) = (a.as_f64().unwrap(), b.as_f64().unwrap());
            (a - b).abs() <= 1e-6 * (1.0 + b.abs())
        }
        (Value::Array(a), Value::Array(b)) => a.len() == b.len() && a.iter().zip(b).all(|(a, b)| same(a, b)),
        (Value::Object(a), Value::Object(b)) => {
            a.len() == b.len() && b.iter().all(|(key, b)| a.get(key).is_some_and(|a| same(a, b)))
        }
        (a, b) => a == b,
    }
}

fn ring(faults: &Value) -> Value {
    json!({"shape": "ring", "line_mm2": 2.5, "neutral_mm2": 2.5, "cpc_mm2": 1.5, "conductor_temp_c": 20,
        "points": [{"id": "A", "leg_m": 6}, {"id": "B", "leg_m": 9}, {"id": "B1", "spur_from": "B", "leg_m": 4},
                   {"id": "C", "leg_m": 4.5}, {"id": "D", "leg_m": 11}],
        "return_leg_m": 12.5, "faults": faults})
}

fn points<'a>(answer: &'a Value, key: &str) -> Vec<&'a Value> {
    answer["points"].as_array().unwrap().iter().map(|point| &point[key]).collect()
}

/// contracts.md: a general-purpose circuit simulator agrees with these to 1e-7.
#[test]
fn the_ring_of_the_contract() {
    let wanted = json!({
    "end_to_end": {"r1": 0.31863, "rn": 0.31863, "r2": 0.5203},
    "board_check": {"r1_rn": 0.159_315, "r1_r2": 0.197_612_66},
    "points": [
        {"id": "A", "r1_rn": 0.159_315, "r1_r2": 0.203_433_33},
        {"id": "B", "r1_rn": 0.159_315, "r1_r2": 0.208_624_74},
        {"id": "B1", "r1_rn": 0.218_595, "r1_r2": 0.286_664_74},
        {"id": "C", "r1_rn": 0.159_315, "r1_r2": 0.209_627_62},
        {"id": "D", "r1_rn": 0.159_315, "r1_r2": 0.207_607_74}
    ]});
    let given = answer(&["expect"], &ring(&json!([])));
    assert!(same(&given, &wanted), "{given}");
}

#[test]
fn faults_do_what_they_say() {
    let read = |faults: Value| answer(&["expect"], &ring(&faults));
    let own = read(json!([{"kind": "own_leg"}]));
    assert!(same(&own["board_check"], &json!({"r1_rn": 0, "r1_r2": 0})), "{own}");
    // A line–neutral reversal shows only in the third step, line–CPC only in the second, neutral–CPC in both.
    for (conductors, second, third) in [(["L", "N"], false, true), (["L", "E"], true, false), (["N", "E"], true, true)]
    {
        let swapped = read(json!([{"kind": "swap", "at": "C", "conductors": conductors}]));
        assert_eq!((swapped["points"][3]["r1_rn"].is_null(), swapped["points"][3]["r1_r2"].is_null()), (second, third));
        assert!(!swapped["points"][1]["r1_r2"].is_null());
    }
    let off = read(json!([{"kind": "contact", "at": "B", "ohm": null}]));
    assert!(
        off["points"][1]["r1_rn"].is_null()
            && off["points"][1]["r1_r2"].is_null()
            && !off["points"][2]["r1_rn"].is_null()
    );
    let added = read(json!([{"kind": "contact", "at": "A", "ohm": 0.1}, {"kind": "contact", "at": "A", "ohm": 0.05}]));
    assert!(same(&added["points"][0], &json!({"id": "A", "r1_rn": 0.309_315, "r1_r2": 0.353_433_33})));
    let open = read(json!([{"kind": "open", "conductor": "L", "after": "A"}]));
    assert!(open["end_to_end"]["r1"].is_null() && !open["end_to_end"]["rn"].is_null());
    assert!(points(&open, "r1_rn").iter().all(|ohm| ohm.is_f64()), "one leg carries the whole load");
    let joint = read(json!([{"kind": "high_resistance_joint", "conductor": "N", "into": "board", "ohm": 0.8}]));
    assert!(same(&joint["end_to_end"]["rn"], &json!(1.11863)));
    let crossed = read(json!([{"kind": "cross", "conductors": ["L", "N"], "after": "B"}]));
    assert!(crossed["end_to_end"]["r1"].is_null() && crossed["end_to_end"]["rn"].is_null());
    let both = read(
        json!([{"kind": "cross", "conductors": ["L", "N"], "after": "A"}, {"kind": "cross", "conductors": ["L", "N"], "after": "C"}]),
    );
    assert!(same(&both["end_to_end"]["r1"], &json!(0.31863)));
    let bridged = read(json!([{"kind": "bridge", "from": "A", "to": "D", "leg_m": 2}]));
    assert!(bridged["end_to_end"]["r1"].as_f64().unwrap() < 0.2);
    let metal = read(json!([{"kind": "parallel_earth", "between": ["board", "C"], "ohm": 0.02}]));
    assert!(metal["end_to_end"]["r2"].as_f64().unwrap() < 0.5203 && same(&metal["end_to_end"]["r1"], &json!(0.31863)));
}

#[test]
fn a_radial_has_neither_ends_nor_check_and_order_does_not_matter() {
    let radial = json!({"shape": "radial", "line_mm2": 2.5, "neutral_mm2": 2.5, "cpc_mm2": 1.5,
        "points": [{"id": "S2", "spur_from": "S1", "leg_m": 1}, {"id": "S1", "spur_from": "A", "leg_m": 2}, {"id": "A", "leg_m": 10}]});
    let given = answer(&["expect"], &radial);
    let wanted = json!({"points": [
        {"id": "S2", "r1_rn": 13.0 * 0.01482, "r1_r2": 13.0 * 0.01951},
        {"id": "S1", "r1_rn": 12.0 * 0.01482, "r1_r2": 12.0 * 0.01951},
        {"id": "A", "r1_rn": 0.1482, "r1_r2": 0.1951}]});
    assert!(same(&given, &wanted), "{given}");
    let cold = json!({"shape": "radial", "line_mm2": 2.5, "neutral_mm2": 2.5, "cpc_mm2": 1.5, "conductor_temp_c": 5, "points": [{"id": "A", "leg_m": 10}]});
    assert!(same(&answer(&["expect"], &cold)["points"][0]["r1_rn"], &json!(0.1482 * 0.94)));
    let empty =
        json!({"shape": "ring", "line_mm2": 4, "neutral_mm2": 4, "cpc_mm2": 1.5, "points": [], "return_leg_m": 0});
    assert!(same(
        &answer(&["expect"], &empty),
        &json!({"end_to_end": {"r1": 0, "rn": 0, "r2": 0}, "board_check": {"r1_rn": 0, "r1_r2": 0}, "points": []})
    ));
}

#[test]
fn what_expect_refuses_it_refuses_by_name() {
    let with = |key: &str, value: Value| {
        let mut input = ring(&json!([]));
        input[key] = value;
        input.to_string()
    };
    let fault = |fault: Value| ring(&json!([fault])).to_string();
    let radial = |fault: Value| {
        json!({"shape": "radial", "line_mm2": 2.5, "neutral_mm2": 2.5, "cpc_mm2": 1.5, "points": [{"id": "A", "leg_m": 1}, {"id": "B", "leg_m": 1}], "faults": [fault]})
            .to_string()
    };
    let many: Vec<Value> = (0..501).map(|n| json!({"id": format!("p{n}"), "leg_m": 1})).collect();
    for (input, key) in [
        (String::new(), "standard input"),
        ("[]".into(), "standard input"),
        ("[\"ring\",2.5,2.5,1.5,null,[],1,[]]".into(), "standard input"),
        (with("points", json!([["A", null, 1]])), "points[0]"),
        (with("shape", json!({"kind": "ring"})), "shape"),
        ("{\"shape\":\"ring\",\"shape\":\"ring\"}".into(), "shape"),
        (with("colour", json!("red")), "colour"),
        (with("shape", json!("star")), "shape"),
        (with("line_mm2", json!(3)), "line_mm2"),
        (with("neutral_mm2", json!("2.5")), "neutral_mm2"),
        (with("cpc_mm2", json!(-1.5)), "cpc_mm2"),
        (with("conductor_temp_c", json!(-21)), "conductor_temp_c"),
        (with("conductor_temp_c", json!(91)), "conductor_temp_c"),
        (with("return_leg_m", json!(-1)), "return_leg_m"),
        (with("return_leg_m", json!(null)), "return_leg_m"),
        (with("points", json!("none")), "points"),
        (with("points", json!(many)), "points"),
        (with("points", json!([{"id": "A", "leg_m": 1}, {"id": "A", "leg_m": 1}])), "points[1].id"),
        (with("points", json!([{"id": "board", "leg_m": 1}])), "points[0].id"),
        (with("points", json!([{"id": "", "leg_m": 1}])), "points[0].id"),
        (with("points", json!([{"id": "A"}])), "points[0].leg_m"),
        (with("points", json!([{"id": "A", "leg_m": -0.1}])), "points[0].leg_m"),
        (with("points", json!([{"id": "A", "leg_m": 1, "spur_from": "Z"}])), "points[0].spur_from"),
        (with("points", json!([{"id": "A", "leg_m": 1, "spur_from": "A"}])), "points[0].spur_from"),
        (with("points", json!([{"id": "A", "leg_m": 1, "spur_from": "B"}, {"id": "B", "leg_m": 1, "spur_from": "A"}])), "points[0].spur_from"),
        (with("faults", json!({})), "faults"),
        (fault(json!("open")), "faults[0]"),
        (fault(json!({"conductor": "L"})), "faults[0].kind"),
        (fault(json!({"kind": "rust"})), "faults[0].kind"),
        (fault(json!({"kind": "open", "conductor": "L"})), "faults[0].after"),
        (fault(json!({"kind": "open", "conductor": "L", "after": "A", "into": "B"})), "faults[0].after"),
        (fault(json!({"kind": "open", "conductor": "X", "after": "A"})), "faults[0].conductor"),
        (fault(json!({"kind": "open", "conductor": "L", "after": "B1"})), "faults[0].after"),
        (fault(json!({"kind": "open", "conductor": "L", "after": "Z"})), "faults[0].after"),
        (fault(json!({"kind": "high_resistance_joint", "conductor": "L", "after": "A", "ohm": -1})), "faults[0].ohm"),
        (fault(json!({"kind": "high_resistance_joint", "conductor": "L", "after": "A"})), "faults[0].ohm"),
        (fault(json!({"kind": "contact", "at": "board", "ohm": 0.1})), "faults[0].at"),
        (fault(json!({"kind": "contact", "at": "A"})), "faults[0].ohm"),
        (fault(json!({"kind": "bridge", "from": "board", "to": "A", "leg_m": 1})), "faults[0].from"),
        (fault(json!({"kind": "swap", "at": "A", "conductors": ["L", "L"]})), "faults[0].conductors"),
        (fault(json!({"kind": "swap", "at": "A", "conductors": ["L"]})), "faults[0].conductors"),
        (fault(json!({"kind": "parallel_earth", "between": ["A"], "ohm": 1})), "faults[0].between"),
        (fault(json!({"kind": "own_leg", "at": "A"})), "faults[0].at"),
        (radial(json!({"kind": "own_leg"})), "faults[0].kind"),
        (radial(json!({"kind": "open", "conductor": "L", "after": "B"})), "faults[0].after"),
        (radial(json!({"kind": "open", "conductor": "L", "into": "board"})), "faults[0].into"),
        (ring(&json!([{"kind": "swap", "at": "A", "conductors": ["L", "N"]}, {"kind": "swap", "at": "A", "conductors": ["L", "N"]}])).to_string(), "faults[1].kind"),
        (ring(&json!([{"kind": "cross", "conductors": ["L", "N"], "after": "A"}, {"kind": "cross", "conductors": ["L", "E"], "into": "B"}])).to_string(), "faults[1].kind"),
    ] {
        let error = refusal(&["expect"], &input);
        assert!(error.starts_with(&format!("{key}:")), "{input}\n{error}");
        assert!(error.contains("is not allowed") && error.trim_end().len() > key.len() + 20, "{error}");
    }
}

/// contracts.md check values, then one of each kind.
#[test]
fn the_calculators() {
    for (name, input, wanted) in [
        ("conductor", json!({"mm2": 2.5, "length_m": 40}), json!({"mohm_per_m": 7.41, "ohm": 0.2964})),
        ("conductor", json!({"mm2": 10, "length_m": 27}), json!({"mohm_per_m": 1.83, "ohm": 0.04941})),
        (
            "conductor",
            json!({"mm2": 16, "material": "aluminium", "length_m": 100, "temp_c": 70}),
            json!({"mohm_per_m": 1.91, "ohm": 0.2292}),
        ),
        (
            "ring",
            json!({"r1": 0.72, "rn": 0.72, "r2": 1.20, "line_mm2": 2.5, "cpc_mm2": 1.5}),
            json!({"r1_rn": 0.36, "r1_r2": 0.48, "r2_expected_size_ratio": 1.2, "r2_expected_table_ratio": 1.175_708_5}),
        ),
        (
            "max-zs",
            json!({"device": "BS EN 60898", "type": "B", "rating_a": 32, "disconnection_s": 0.4}),
            json!({"printed_ohm": 1.37, "eighty_percent_ohm": 1.10, "ia_a": 160}),
        ),
        (
            "max-zs",
            json!({"device": "BS 88-2", "rating_a": 63, "disconnection_s": 5}),
            json!({"printed_ohm": 0.78, "eighty_percent_ohm": 0.62}),
        ),
        (
            "max-zs",
            json!({"device": "BS EN 61009", "type": "C", "rating_a": 16, "disconnection_s": 0.2}),
            json!({"printed_ohm": 1.37, "eighty_percent_ohm": 1.10, "ia_a": 160}),
        ),
        (
            "loop",
            json!({"ze": 0.4, "r1_r2": 0.7, "device": "BS EN 60898", "type": "B", "rating_a": 32, "disconnection_s": 0.4}),
            json!({"zs_sum": 1.1, "limit_printed": 1.37, "limit_eighty": 1.1, "within_eighty": true, "within_temperature": true, "zs_at_working": 1.24, "measured_below_ze": false}),
        ),
        (
            "loop",
            json!({"ze": 0.4, "r1_r2": 0.7, "measured_zs": 0.3, "device": "BS EN 60898", "type": "B", "rating_a": 32, "disconnection_s": 0.4}),
            json!({"zs_sum": 1.1, "limit_printed": 1.37, "limit_eighty": 1.1, "within_eighty": null, "within_temperature": null, "zs_at_working": 1.24, "measured_below_ze": true}),
        ),
        (
            "fault-current",
            json!({"line_neutral_ohm": [0.25, 0.23], "line_earth_ka": 1.2, "phases": 1, "breaking_capacity_ka": 6}),
            json!({"pscc_ka": 1.0, "pefc_ka": 1.2, "recorded_ka": 1.2, "within": true, "warnings": []}),
        ),
        ("ir-pairs", json!({"conductors": ["L", "N", "E"]}), json!({"pairs": [["E", "L"], ["E", "N"], ["N", "L"]]})),
        (
            "ir-pairs",
            json!({"conductors": ["L1", "L2", "L3", "N", "E"]}),
            json!({"pairs": [["E", "L1"], ["E", "L2"], ["E", "L3"], ["E", "N"], ["N", "L1"], ["N", "L2"], ["N", "L3"], ["L1", "L2"], ["L1", "L3"], ["L2", "L3"]]}),
        ),
        ("ir-combine", json!({"mohm": [2, 2]}), json!({"at_least_mohm": 1, "at_most_mohm": 1})),
        ("ir-combine", json!({"mohm": [{"over": 999}]}), json!({"at_least_mohm": 999, "at_most_mohm": null})),
        ("ir-combine", json!({"mohm": [0, {"over": 999}]}), json!({"at_least_mohm": 0, "at_most_mohm": 0})),
        (
            "rcd",
            json!({"idn_ma": 30, "kind": "general", "readings": {"one_0": 24.6}}),
            json!({"verdict": "pass", "recorded_one_ms": 24.6, "recorded_five_ms": null, "missing": [],
                "findings": [{"test": "one_0", "min_ms": null, "max_ms": 300, "must_not_trip": false, "value": 24.6, "ok": true}]}),
        ),
        (
            "rcd",
            json!({"idn_ma": 100, "kind": "S", "school": "series", "readings": {"half_0": "no_trip", "half_180": "no_trip", "one_0": 180, "one_180": "no_trip"}}),
            json!({"verdict": "fail", "recorded_one_ms": null, "recorded_five_ms": null, "missing": [],
                "findings": [
                    {"test": "half_0", "min_ms": null, "max_ms": null, "must_not_trip": true, "value": "no_trip", "ok": true},
                    {"test": "half_180", "min_ms": null, "max_ms": null, "must_not_trip": true, "value": "no_trip", "ok": true},
                    {"test": "one_0", "min_ms": 130, "max_ms": 500, "must_not_trip": false, "value": 180, "ok": true},
                    {"test": "one_180", "min_ms": 130, "max_ms": 500, "must_not_trip": false, "value": "no_trip", "ok": false}]}),
        ),
        (
            "main-bonding",
            json!({"system": "TN-C-S", "line_mm2": 25, "neutral_mm2": 25, "length_m": 27}),
            json!({"earthing_mm2": 16, "bonding_mm2": 10, "ohm_expected": 0.04941, "ohm_limit": 0.05}),
        ),
        (
            "main-bonding",
            json!({"system": "TT", "line_mm2": 70, "neutral_mm2": 70, "length_m": 60}),
            json!({"earthing_mm2": 35, "bonding_mm2": 25, "ohm_expected": 0.04362, "ohm_limit": 0.05}),
        ),
        ("adiabatic", json!({"fault_a": 1000, "time_s": 0.4, "k": 115}), json!({"mm2": 5.499_613, "next_size_mm2": 6})),
        (
            "adiabatic",
            json!({"fault_a": 50000, "time_s": 1, "k": 115}),
            json!({"mm2": 434.782_609, "next_size_mm2": null}),
        ),
        (
            "electrode",
            json!({"ra_ohm": 180, "idn_ma": 30}),
            json!({"touch_v": 5.4, "limit_ohm": 1667, "within_50v": true, "stable": true}),
        ),
    ] {
        let given = answer(&["calc", name], &input);
        assert!(same(&given, &wanted), "{name} {input}\n{given}\n{wanted}");
    }
}

#[test]
fn three_phase_fault_current_by_school() {
    let of = |school: &str, more: Value| {
        let mut input = json!({"line_neutral_ohm": 0.2, "phases": 3, "school": school});
        for (key, value) in more.as_object().unwrap() {
            input[key] = value.clone();
        }
        answer(&["calc", "fault-current"], &input)
    };
    let double = of("double", json!({}));
    assert!(
        same(&double["pscc_ka"], &json!(2.3)) && double["warnings"][0].as_str().unwrap().contains("reduced neutral")
    );
    let root3 = of("root3", json!({}));
    assert!(
        same(&root3["pscc_ka"], &json!(1.15 * 3.0_f64.sqrt()))
            && root3["warnings"][0].as_str().unwrap().contains("13 %")
    );
    assert!(same(&root3["recorded_ka"], &json!(2.0)), "rounded up: {root3}");
    let line_line = of("line_line", json!({"line_line_ohm": 0.2}));
    assert!(same(&line_line["pscc_ka"], &json!(2.0 * 2.0 / 3.0_f64.sqrt())));
    let over = of("double", json!({"breaking_capacity_ka": 2}));
    assert_eq!(over["within"], json!(false));
}

#[test]
fn what_the_calculators_refuse_they_refuse_by_name() {
    for (name, input, key) in [
        ("conductor", json!({"mm2": 2.4, "length_m": 1}), "mm2"),
        ("conductor", json!({"mm2": 2.5, "material": "aluminium", "length_m": 1}), "mm2"),
        ("conductor", json!({"mm2": 2.5, "material": "gold", "length_m": 1}), "material"),
        ("conductor", json!({"mm2": 2.5}), "length_m"),
        ("conductor", json!({"mm2": 2.5, "length_m": -1}), "length_m"),
        ("conductor", json!({"mm2": 2.5, "length_m": 1, "temp_c": 400}), "temp_c"),
        ("ring", json!({"r1": -0.1, "rn": 0, "r2": 0, "line_mm2": 2.5, "cpc_mm2": 1.5}), "r1"),
        ("ring", json!({"r1": "0,72", "rn": 0, "r2": 0, "line_mm2": 2.5, "cpc_mm2": 1.5}), "r1"),
        ("max-zs", json!({"device": "BS EN 60898", "rating_a": 32, "disconnection_s": 0.4}), "type"),
        ("max-zs", json!({"device": "BS EN 60898", "type": "E", "rating_a": 32, "disconnection_s": 0.4}), "type"),
        ("max-zs", json!({"device": "BS 3036", "type": "B", "rating_a": 30, "disconnection_s": 0.4}), "type"),
        ("max-zs", json!({"device": "BS 3036", "rating_a": 30, "disconnection_s": 0.2}), "disconnection_s"),
        ("max-zs", json!({"device": "BS 3036", "rating_a": 30, "disconnection_s": 1}), "disconnection_s"),
        ("max-zs", json!({"device": "BS 3036", "rating_a": 31, "disconnection_s": 5}), "rating_a"),
        ("max-zs", json!({"device": "BS 3036", "rating_a": 30, "disconnection_s": 3}), "disconnection_s"),
        ("max-zs", json!({"device": "MCB", "rating_a": 30, "disconnection_s": 5}), "device"),
        ("loop", json!({"r1_r2": 1, "device": "BS 88-2", "rating_a": 32, "disconnection_s": 5}), "ze"),
        ("fault-current", json!({"phases": 1}), "line_neutral_ohm"),
        ("fault-current", json!({"line_neutral_ohm": 0, "phases": 1}), "line_neutral_ohm"),
        ("fault-current", json!({"line_neutral_ohm": 1, "line_neutral_ka": 1, "phases": 1}), "line_neutral_ohm"),
        ("fault-current", json!({"line_neutral_ohm": [1, 1, 1, 1], "phases": 3}), "line_neutral_ohm"),
        ("fault-current", json!({"line_neutral_ohm": [], "phases": 3}), "line_neutral_ohm"),
        ("fault-current", json!({"line_neutral_ohm": 1, "phases": 2}), "phases"),
        ("fault-current", json!({"line_neutral_ohm": 1, "phases": 3, "school": "line_line"}), "line_line_ohm"),
        ("fault-current", json!({"line_neutral_ohm": 1, "phases": 3, "line_line_ohm": 1}), "line_line_ohm"),
        ("ir-pairs", json!({"conductors": ["L"]}), "conductors"),
        ("ir-pairs", json!({"conductors": ["L", "L"]}), "conductors"),
        ("ir-pairs", json!({"conductors": ["L", 2]}), "conductors"),
        ("ir-combine", json!({"mohm": []}), "mohm"),
        ("ir-combine", json!({"mohm": [-1]}), "mohm[0]"),
        ("ir-combine", json!({"mohm": [1, {"above": 9}]}), "mohm[1].above"),
        ("ir-combine", json!({"mohm": [{"over": 0}]}), "mohm[0].over"),
        ("rcd", json!({"idn_ma": 0, "kind": "general", "readings": {}}), "idn_ma"),
        ("rcd", json!({"idn_ma": 30, "kind": "slow", "readings": {}}), "kind"),
        ("rcd", json!({"idn_ma": 30, "kind": "S"}), "readings"),
        ("rcd", json!({"idn_ma": 30, "kind": "S", "readings": {"two_0": 1}}), "readings.two_0"),
        ("rcd", json!({"idn_ma": 30, "kind": "S", "readings": {"one_0": "trip"}}), "readings.one_0"),
        ("main-bonding", json!({"system": "IT", "line_mm2": 25, "neutral_mm2": 25, "length_m": 1}), "system"),
        ("main-bonding", json!({"system": "TT", "line_mm2": 24, "neutral_mm2": 25, "length_m": 1}), "line_mm2"),
        ("adiabatic", json!({"fault_a": 1, "time_s": 1, "k": 0}), "k"),
        ("electrode", json!({"ra_ohm": -1, "idn_ma": 30}), "ra_ohm"),
        ("electrode", json!({"ra_ohm": 1, "idn_ma": 1e-300}), "idn_ma"),
        ("fault-current", json!({"line_neutral_ohm": 1e-300, "phases": 3}), "line_neutral_ohm"),
        ("adiabatic", json!({"fault_a": 1e6, "time_s": 1, "k": 1e-300}), "k"),
        ("electrode", json!({"ra_ohm": 1, "idn_ma": 30, "place": "garden"}), "place"),
    ] {
        let error = refusal(&["calc", name], &input.to_string());
        assert!(error.starts_with(&format!("{key}:")), "{name} {input}\n{error}");
    }
    assert!(refusal(&["calc", "ring"], "{\"r1\":1e999}").contains("out of range"));
    assert!(refusal(&["calc", "ring"], "{\"r1\":NaN}").contains("JSON document"));
    assert!(refusal(&["calc", "ring"], &"[".repeat(100_000)).contains("JSON document"));
}

#[test]
fn wrong_words_exit_with_two_and_help_teaches() {
    let (code, out, err) = run(&["calc", "bananas"], "");
    assert_eq!((code, out.as_str()), (2, ""));
    assert!(err.contains("fault-current"), "{err}");
    assert_eq!(run(&["dance"], "").0, 2);
    let (code, help, _) = run(&["--help"], "");
    assert_eq!(code, 0);
    assert!(help.contains("proof demo") && help.contains("the licensed"), "{help}");
    assert!(run(&["expect", "--help"], "").1.contains("Example"));
    for (args, says) in [
        (&["export", "G-1", "--db", "/nowhere/none.db"][..], "no such database"),
        (&["import", "/nowhere/none.json", "--db", "/nowhere/none.db"], "none.json"),
        (&["certificate", "/nowhere/none.json"], "none.json"),
        (&["serve", "--listen", "0.0.0.0:7671"], "until there are accounts"),
        (&["serve", "--db", "/nowhere/none.db", "--listen", "127.0.0.1:0"], "none.db"),
    ] {
        let error = refusal(args, "");
        assert!(error.contains(says), "{args:?}: {error}");
    }
}

#[test]
fn a_job_goes_through_files_and_databases_without_loss() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name).to_str().unwrap().to_owned();
    let job = proof_bench::demo::jobs().remove(0);
    std::fs::write(
        path("job.json"),
        proof_paper::job_file::write(&job, &proof_job::installation::Documents::new()).unwrap(),
    )
    .unwrap();
    let (code, out, err) = run(&["import", &path("job.json"), "--db", &path("a.db")], "");
    assert_eq!(code, 0, "{err}");
    assert!(out.contains("G-101"));
    let (_, exported, _) = run(&["export", "G-101", "--db", &path("a.db")], "");
    assert_eq!(exported.as_bytes(), std::fs::read(path("job.json")).unwrap());
    assert!(refusal(&["import", &path("job.json"), "--db", &path("a.db")], "").contains("already"));
    assert!(refusal(&["export", "G-999", "--db", &path("a.db")], "").contains("no job"));
    let (code, _, err) = run(&["certificate", &path("job.json"), "--output", &path("c.pdf")], "");
    assert_eq!(code, 0, "{err}");
    assert!(std::fs::read(path("c.pdf")).unwrap().starts_with(b"%PDF-"));
    std::fs::write(path("cut.json"), &exported[..exported.len() / 2]).unwrap();
    assert!(refusal(&["import", &path("cut.json"), "--db", &path("b.db")], "").contains("not a whole job file"));
    assert!(!folder.path().join("b.db").exists(), "nothing is made for a file that is refused");
}

#[test]
fn a_port_in_use_is_a_clear_message() {
    let taken = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let address = taken.local_addr().unwrap().to_string();
    let error = refusal(&["demo", "--listen", &address], "");
    assert!(error.contains("another program has this port"), "{error}");
}
