//! `proof diagnose`, asked of the program itself.

use crate::program::run;
use serde_json::{Value, json};

fn answer(input: &Value) -> Value {
    let (code, out, err) = run(&["diagnose"], &input.to_string());
    assert_eq!((code, err.as_str()), (0, ""), "{input}");
    let answer: Value = serde_json::from_str(&out).unwrap();
    let shares: Vec<f64> =
        answer["explanations"].as_array().unwrap().iter().map(|one| one["share"].as_f64().unwrap()).collect();
    assert!(shares.len() <= 8 && shares.iter().sum::<f64>() <= 1.0 + 1e-9 && shares.windows(2).all(|w| w[0] >= w[1]));
    assert!(answer["next"]["do"].is_string() && answer["next"]["because"].is_string());
    answer
}

fn ring(ends: &Value, points: &[(Value, Value)]) -> Value {
    let points: Vec<Value> = points
        .iter()
        .enumerate()
        .map(|(n, (rn, r2))| json!({"id": format!("S{}", n + 1), "r1_rn": rn, "r1_r2": r2}))
        .collect();
    json!({"circuit": {"shape": "ring", "line_mm2": 2.5, "neutral_mm2": 2.5, "cpc_mm2": 1.5, "length_m": 48},
        "end_to_end": ends, "points": points})
}

fn sound() -> Vec<(Value, Value)> {
    [0.22, 0.23, 0.24, 0.24, 0.24, 0.23, 0.22].map(|r2| (json!(0.18), json!(r2))).to_vec()
}

#[test]
fn the_document_of_the_contract() {
    let ends = json!({"r1": 0.36, "rn": 0.36, "r2": 0.59});
    let found = answer(&ring(&ends, &[(json!(0.18), json!(0.23)), (json!(0.18), Value::Null)]));
    assert_eq!(found["explanations"][0]["kind"], "swap");
    assert_eq!(found["explanations"][0]["at"], "S2");
    assert_eq!(found["explanations"][0]["conductors"], json!(["L", "N"]));
}

/// Each trade rule of practice.md about a ring, as figures.
#[test]
fn what_the_trade_reads_from_a_ring() {
    let ends = json!({"r1": 0.36, "rn": 0.36, "r2": 0.59});
    let with = |index: usize, rn: Value, r2: Value| {
        let mut points = sound();
        points[index] = (rn, r2);
        points
    };
    let arch = |most: f64| [0.12, 0.25, 0.36, 0.43, 0.49, 0.5, 0.49, 0.43, 0.36, 0.25, 0.12].map(|share| share * most);
    let own: Vec<(Value, Value)> = arch(0.36)
        .into_iter()
        .zip(arch(0.475))
        .map(|(rn, r2)| (json!((rn * 100.0).round() / 100.0), json!((r2 * 100.0).round() / 100.0)))
        .collect();
    for (what, ends, points, keys) in [
        ("healthy", ends.clone(), sound(), json!({"kind": "healthy"})),
        (
            "a spur of about 8 m",
            ends.clone(),
            with(3, json!(0.30), json!(0.40)),
            json!({"kind": "spur", "points": ["S4"]}),
        ),
        ("equal rise", ends.clone(), with(2, json!(0.48), json!(0.54)), json!({"kind": "contact", "at": "S3"})),
        ("both open", ends.clone(), with(4, Value::Null, Value::Null), json!({"kind": "switch_off", "at": "S5"})),
        (
            "open in step 3",
            ends.clone(),
            with(4, json!(0.18), Value::Null),
            json!({"kind": "swap", "conductors": ["L", "N"]}),
        ),
        (
            "open in step 2",
            ends.clone(),
            with(4, Value::Null, json!(0.24)),
            json!({"kind": "swap", "conductors": ["L", "E"]}),
        ),
        ("own leg", ends.clone(), own, json!({"kind": "own_leg"})),
        (
            "rn higher",
            json!({"r1": 0.36, "rn": 0.66, "r2": 0.59}),
            sound().into_iter().map(|(_, r2)| (json!(0.23), r2)).collect(),
            json!({"kind": "high_resistance_joint", "conductor": "N"}),
        ),
        (
            "everything a tenth high",
            json!({"r1": 0.46, "rn": 0.46, "r2": 0.69}),
            sound()
                .into_iter()
                .map(|(_, r2)| (json!(0.28), json!((r2.as_f64().unwrap() * 100.0 + 10.0).round() / 100.0)))
                .collect(),
            json!({"kind": "leads_not_nulled"}),
        ),
    ] {
        let found = answer(&ring(&ends, &points));
        for (key, value) in keys.as_object().unwrap() {
            assert_eq!(&found["explanations"][0][key], value, "{what}: {found}");
        }
    }
}

/// A neutral joint of a 2.5/2.5 ring reads the same at every point: it is not placed.
#[test]
fn no_more_than_the_readings_hold() {
    let joint = ring(
        &json!({"r1": 0.36, "rn": 0.76, "r2": 0.59}),
        &sound().into_iter().map(|(_, r2)| (json!(0.24), r2)).collect::<Vec<_>>(),
    );
    let found = answer(&joint);
    assert_eq!(found["explanations"][0]["kind"], "high_resistance_joint");
    assert!(found["explanations"][0].get("after").is_none(), "{found}");
    assert!(found["next"]["do"].as_str().unwrap().contains("Open the circuit at"), "{found}");
    // Open in both steps: a switch, or neutral and CPC exchanged. Both are named, neither is sure.
    let mut points = sound();
    points[3] = (Value::Null, Value::Null);
    let found = answer(&ring(&json!({"r1": 0.36, "rn": 0.36, "r2": 0.59}), &points));
    let [first, second] = [&found["explanations"][0], &found["explanations"][1]];
    assert_eq!((&first["kind"], &second["kind"]), (&json!("switch_off"), &json!("swap")));
    assert!(first["share"].as_f64().unwrap() < 0.9 && second["share"].as_f64().unwrap() > 0.05, "{found}");
    assert!(found["next"]["do"].as_str().unwrap().starts_with("Switch S4 on"), "{found}");
    // Two faults that leave one trace each are named together.
    let mut points = sound();
    points[1] = (json!(0.53), json!(0.58));
    points[5] = (json!(0.18), Value::Null);
    let found = answer(&ring(&json!({"r1": 0.36, "rn": 0.36, "r2": 0.59}), &points));
    assert_eq!(found["explanations"][0]["kind"], "several");
    assert_eq!(found["explanations"][0]["parts"].as_array().unwrap().len(), 2);
}

/// A figure that was not taken and that the explanations disagree on is what to read next.
#[test]
fn a_reading_not_taken_is_asked_for() {
    let found = answer(&json!({"circuit": {"shape": "radial", "line_mm2": 2.5, "neutral_mm2": 2.5, "cpc_mm2": 1.5},
        "points": [{"id": "A", "r1_rn": 0.12}, {"id": "B", "r1_rn": null}, {"id": "C", "r1_rn": null}]}));
    let next = found["next"]["do"].as_str().unwrap();
    assert!(next.starts_with("Read line–CPC at"), "{found}");
}

#[test]
fn a_figure_that_nothing_explains_is_to_be_read_again() {
    let mut points = sound();
    points[2] = (json!(0.02), json!(0.9));
    let found = answer(&ring(&json!({"r1": 0.36, "rn": 0.36, "r2": 0.59}), &points));
    assert!(found["next"]["do"].as_str().unwrap().starts_with("Read S3 again"), "{found}");
}

#[test]
fn what_it_refuses_it_refuses_by_name() {
    let sound = ring(&json!({"r1": 0.36, "rn": 0.36, "r2": 0.59}), &sound());
    let with = |change: &dyn Fn(&mut Value)| {
        let mut input = sound.clone();
        change(&mut input);
        input
    };
    for (input, says) in [
        (json!([]), "standard input"),
        (with(&|i| i["extra"] = json!(1)), "extra"),
        (with(&|i| i["circuit"]["colour"] = json!("red")), "circuit.colour"),
        (with(&|i| i["circuit"]["shape"] = json!("star")), "circuit.shape"),
        (with(&|i| i["circuit"]["cpc_mm2"] = json!(1.7)), "circuit.cpc_mm2"),
        (with(&|i| i["circuit"]["length_m"] = json!(-1)), "circuit.length_m"),
        (
            with(&|i| {
                i.as_object_mut().unwrap().remove("circuit");
            }),
            "circuit",
        ),
        (with(&|i| i["end_to_end"]["r1"] = json!("0.36")), "end_to_end.r1"),
        (with(&|i| i["end_to_end"]["r3"] = json!(0.36)), "end_to_end.r3"),
        (with(&|i| i["board_check"] = json!({"r1_rn": -0.1})), "board_check.r1_rn"),
        (with(&|i| i["points"] = json!([])), "points"),
        (with(&|i| i["points"][0]["id"] = json!("board")), "points[0].id"),
        (with(&|i| i["points"][1]["id"] = json!("S1")), "points[1].id"),
        (with(&|i| i["points"][1]["spur_from"] = json!("S9")), "points[1].spur_from"),
        (with(&|i| i["points"][1]["spur_from"] = json!("S2")), "points[1].spur_from"),
        (with(&|i| i["points"][1]["r1_r2"] = json!(1e12)), "points[1].r1_r2"),
        (with(&|i| i["points"][1]["leg_m"] = Value::Null), "points[1].leg_m"),
        (with(&|i| i["circuit"]["shape"] = json!("radial")), "end_to_end"),
        (json!({"circuit": sound["circuit"], "points": [{"id": "A"}]}), "at least 2 readings"),
    ] {
        let (code, out, err) = run(&["diagnose"], &input.to_string());
        assert_eq!((code, out.as_str(), err.lines().count()), (2, "", 1), "{input}: {err}");
        assert!(err.contains(says), "{says}: {err}");
    }
    assert_eq!(run(&["diagnose"], "{\"circuit\":1,\"circuit\":2}").0, 2);
}

/// Odd and hostile but lawful input: it answers, whatever the figures are.
#[test]
fn it_answers_whatever_is_lawful() {
    let mut seed = 88_u64;
    let mut roll = move |sides: u64| {
        seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (seed >> 33) % sides
    };
    for _ in 0..60 {
        let is_ring = roll(2) == 0;
        let figure = |roll: &mut dyn FnMut(u64) -> u64| match roll(6) {
            0 => Value::Null,
            1 => json!(0),
            2 => json!(roll(100_000) as f64 / 7.0),
            _ => json!(roll(200) as f64 / 100.0),
        };
        let count = 1 + roll(7);
        let points: Vec<Value> = (0..count)
            .map(|n| {
                let mut point = json!({"id": format!("p{n}"), "r1_rn": figure(&mut roll), "r1_r2": figure(&mut roll)});
                if roll(4) == 0 {
                    point["leg_m"] = json!(roll(30));
                }
                if n > 0 && roll(4) == 0 {
                    point["spur_from"] = json!(format!("p{}", roll(n)));
                }
                point
            })
            .collect();
        let mut input = json!({"circuit": {"shape": if is_ring { "ring" } else { "radial" },
            "line_mm2": 2.5, "neutral_mm2": 2.5, "cpc_mm2": 1.5}, "points": points});
        if roll(2) == 0 {
            input["circuit"]["length_m"] = json!(roll(3) * 40);
        }
        if is_ring {
            input["end_to_end"] = json!({"r1": figure(&mut roll), "r2": figure(&mut roll)});
            input["board_check"] = json!({"r1_r2": figure(&mut roll)});
        }
        answer(&input);
    }
}

/// A circuit of hundreds of points is given up within its budget of suspicions, which is said; one of sixty is not.
#[test]
fn a_very_long_circuit_is_given_up_and_says_so() {
    let asked = |count: usize| {
        let points: Vec<String> = (0..count)
            .map(|n| {
                format!("{{\"id\":\"P{n}\",\"r1_rn\":0.9,\"r1_r2\":{}}}", if n == count / 3 { "1.6" } else { "1.2" })
            })
            .collect();
        let (end, cpc) = (0.03 * count as f64, 0.05 * count as f64);
        let input = format!(
            "{{\"circuit\":{{\"shape\":\"ring\",\"line_mm2\":2.5,\"neutral_mm2\":2.5,\"cpc_mm2\":1.5,\"length_m\":{}}},\"end_to_end\":{{\"r1\":{end},\"rn\":{end},\"r2\":{cpc}}},\"points\":[{}]}}",
            4 * count,
            points.join(",")
        );
        let (code, said, error) = run(&["diagnose"], &input);
        assert_eq!(code, 0, "{error}");
        serde_json::from_str::<serde_json::Value>(&said).unwrap()
    };
    let early =
        |said: &serde_json::Value| said["next"]["because"].as_str().unwrap().contains("not everything was tried");
    assert!(!early(&asked(60)));
    let long = asked(500);
    assert!(early(&long), "{}", long["next"]);
    let shares: f64 = long["explanations"].as_array().unwrap().iter().map(|one| one["share"].as_f64().unwrap()).sum();
    assert!(shares < 0.99, "what was not tried keeps its share: {shares}");
}
