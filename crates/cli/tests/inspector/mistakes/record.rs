//! What was written down, and how.

use super::{EVERYWHERE, Mistake, m, remove};
use crate::job::{File, Place, number};
use serde_json::{Value, json};

/// Conductors of a circuit out and back once its tests were done, before the supply came on.
fn opened_again(f: &mut File, named: &str, alteration: &str, note: &str) -> Option<Place> {
    let (board, circuit) = (f.board()["id"].clone(), f.circuit(named)?["id"].clone());
    let item = json!("00000000-0000-0000-0000-000000000021");
    let at = f.event("supply_exposed")?;
    f.insert(at, json!({"what": "put_back", "item": item}));
    f.insert(
        at,
        json!({"what": "altered", "item": item, "board": board, "circuit": circuit,
        "alteration": alteration, "note": note}),
    );
    Some("circuit/".into())
}

fn judged(f: &mut File, position: &str, reason: &str) {
    let end = f.events().len();
    f.insert(
        end,
        json!({"what": "judged", "finding": "look_again:origin/earthing", "said": "x", "position": position,
        "reason": reason}),
    );
}

/// The mistakes of this group.
pub const ALL: &[Mistake] = &[
    m("record", "instrument not said", &["instrument_unsaid"], |f| {
        remove(&mut f.reading("Heater", "zs", |_| true)?["context"], "instrument");
        Some(EVERYWHERE)
    }),
    m("record", "instrument not in the register", &["instrument_unsaid"], |f| {
        f.reading("Heater", "insulation", |_| true)?["context"]["instrument"] =
            json!("00000000-0000-0000-0000-0000000000aa");
        Some(EVERYWHERE)
    }),
    m("record", "nobody wrote it", &["writer_unsaid"], |f| {
        f.reading("Heater", "r1_r2", |_| true)?["context"]["entered_by"] = json!("");
        Some(EVERYWHERE)
    }),
    m("record", "calibration ran out", &["instrument_doubtful"], |f| {
        f.job()["instruments"][0]["calibration_due"] = json!("2020-01-01");
        Some(EVERYWHERE)
    }),
    m("record", "calibration ran out before the residual device was tested", &["instrument_doubtful"], |f| {
        let mut old = f.job()["instruments"][0].clone();
        old["id"] = json!("00000000-0000-0000-0000-0000000000ab");
        old["reference"] = json!("RT-9");
        old["calibration_due"] = json!("2020-01-01");
        f.job()["instruments"].as_array_mut()?.push(old);
        f.reading("Sockets ring", "rcd_trip", |_| true)?["context"]["instrument"] =
            json!("00000000-0000-0000-0000-0000000000ab");
        Some(EVERYWHERE)
    }),
    m("record", "an ordinary circuit tested at 250 V", &["test_voltage"], |f| {
        f.reading("Heater", "insulation", |_| true)?["context"]["test_voltage_v"] = json!(250.0);
        Some("circuit/".into())
    }),
    m("record", "an ordinary circuit tested at 100 V", &["test_voltage"], |f| {
        f.reading("Sockets ring", "insulation", |_| true)?["context"]["test_voltage_v"] = json!(100.0);
        Some("circuit/".into())
    }),
    m("record", "above the instrument's range", &["hardly_possible", "look_again"], |f| {
        f.read("Heater", "r1_r2", &number("250"), "250")
    }),
    m("record", "insulation above what the instrument shows", &["hardly_possible"], |f| {
        f.read("Heater", "insulation", &number("4000"), "4000")
    }),
    m("record", "tripped in no time", &["hardly_possible"], |f| f.read("Sockets ring", "rcd_trip", &number("0"), "0")),
    m("record", "tripped in 0.45 ms", &["hardly_possible"], |f| {
        f.read("Sockets radial", "rcd_trip", &number("0.45"), "0.45")
    }),
    m("record", "no fault current", &["hardly_possible", "current_and_own_loop", "look_again"], |f| {
        if f.supply()["system"] == "TT" {
            return None;
        }
        f.at_origin("fault_current", |one| {
            (one["value"], one["typed"]) = (number("0.00"), json!("0.00"));
        })
    }),
    m("record", "r1 of 125 Ω", &["hardly_possible", "look_again"], |f| {
        f.read("Sockets ring", "ring_end_to_end", &number("125"), "125")
    }),
    m("record", "typed one figure, kept another", &["typed_differs"], |f| {
        let reading = f.reading("Heater", "r1_r2", |_| true)?;
        reading["typed"] = json!("9.9");
        Some("circuit/".into())
    }),
    m("record", "typed open, kept a number", &["typed_differs"], |f| {
        let reading = f.reading("Heater", "zs", |_| true)?;
        reading["typed"] = json!("open");
        Some("circuit/".into())
    }),
    m("record", "only walked, no figure", &["reading_missing", "no_figure"], |f| {
        f.read("Heater", "r1_r2", &json!({"is": "walked"}), "walked")
    }),
    m("record", "a limitation without a reason", &["limitation"], |f| {
        f.read("Heater", "insulation", &json!({"is": "limitation", "value": ""}), "lim")
    }),
    m("record", "a limitation on what new work must pass", &["limitation"], |f| {
        f.read("Heater", "r1_r2", &json!({"is": "limitation", "value": "no time"}), "lim no time")
    }),
    m("record", "not applicable, without a reason", &["limitation"], |f| {
        f.read("Heater", "zs", &json!({"is": "not_applicable", "value": ""}), "n/a")
    }),
    m("record", "a limitation on polarity", &["limitation", "polarity_owed"], |f| {
        f.read("Cabinet", "polarity", &json!({"is": "limitation", "value": "lamps not there"}), "lim lamps not there")
    }),
    m("record", "ring opened again after its tests", &["altered_after_test"], |f| {
        opened_again(f, "Sockets ring", "ends_out", "a socket moved")
    }),
    m("record", "conductors of a way out after its tests", &["altered_after_test"], |f| {
        opened_again(f, "Heater", "way_out", "device exchanged")
    }),
    m("record", "a ring that was a radial when it was read", &["reading_missing", "energised_untested"], |f| {
        f.at("Sockets radial", |c| c["shape"] = json!("ring"))
    }),
    m("record", "a radial that was a ring when it was read", &["shape_changed"], |f| {
        f.at("Sockets ring", |c| {
            c["shape"] = json!("radial");
            remove(c, "return_leg_m");
        })
    }),
    m("record", "neutral to earth not read", &["reading_missing", "energised_untested"], |f| {
        let circuit = f.circuit("Heater")?["id"].clone();
        let pair = json!(["N", "E"]);
        let of =
            |one: &Value| one["key"]["subject"]["circuit"] == circuit && one["key"]["test"]["test"] == "insulation";
        let before = f.readings().len();
        f.readings().retain(|one| !(of(one) && one["key"]["pair"] == pair));
        (f.readings().len() < before).then(|| "circuit/".into())
    }),
    m("record", "live to earth not read", &["reading_missing", "energised_untested"], |f| {
        let circuit = f.circuit("Heater")?["id"].clone();
        f.readings()
            .retain(|one| one["key"]["subject"]["circuit"] != circuit || one["key"]["test"]["test"] != "insulation");
        Some("circuit/".into())
    }),
    m("record", "a judgement by nobody", &["judgement_incomplete"], |f| {
        judged(f, "", "it is all right");
        let at = f.events().len() - 1;
        f.events()[at]["by"] = json!("");
        Some(EVERYWHERE)
    }),
    m("record", "a judgement without a reason", &["judgement_incomplete"], |f| {
        judged(f, "Supervisor", " ");
        Some(EVERYWHERE)
    }),
];
