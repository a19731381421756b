//! The readings themselves.

use super::{Mistake, m};
use crate::job::number;
use serde_json::{Value, json};

/// The mistakes of this group.
pub const ALL: &[Mistake] = &[
    m("readings", "Ze left out", &["reading_missing"], |f| {
        // An electrode of its own stands for it.
        if f.supply()["system"] == "TT" {
            return None;
        }
        let before = f.readings().len();
        f.readings().retain(|one| one["key"]["test"]["test"] != "ze");
        (f.readings().len() < before).then(|| "origin/".into())
    }),
    m("readings", "supply polarity wrong", &["polarity_wrong"], |f| {
        f.at_origin("supply_polarity", |one| {
            (one["value"], one["typed"]) = (json!({"is": "fail"}), json!("fail"));
        })
    }),
    m("readings", "insulation under the minimum", &["insulation_under_minimum"], |f| {
        f.read("Heater", "insulation", &number("0.6"), "0.6")
    }),
    m("readings", "insulation low for new wiring", &["insulation_doubtful"], |f| {
        f.read("Heater", "insulation", &number("1.6"), "1.6")
    }),
    m("readings", "CPC open", &["not_continuous"], |f| f.read("Heater", "r1_r2", &json!({"is": "open"}), "open")),
    m("readings", "R1+R2 not what the cable gives", &["look_again", "under_length"], |f| {
        f.read("Shower", "r1_r2", &number("0.61"), "0.61")
    }),
    m("readings", "loop over the limit", &["loop_over_limit", "loop_over_limit_rcd_disconnects"], |f| {
        if f.supply()["system"] == "TT" {
            return None;
        }
        f.read("Cooker", "zs", &number("1.9"), "1.9")
    }),
    m("readings", "residual device too slow", &["rcd_fails"], |f| {
        f.read("Sockets ring", "rcd_trip", &number("340"), "340")
    }),
    m("readings", "residual device did not trip", &["rcd_fails"], |f| {
        f.reading("Sockets ring", "rcd_trip", |one| one["key"]["test"]["multiple"] == "one").map(|one| {
            (one["value"], one["typed"]) = (json!({"is": "no_trip"}), json!("nt"));
        })?;
        Some("circuit/".into())
    }),
    m("readings", "ends of the ring apart", &["look_again"], |f| {
        f.reading("Sockets ring", "ring_end_to_end", |one| one["key"]["test"]["conductor"] == "N").map(|one| {
            (one["value"], one["typed"]) = (number("0.91"), json!("0.91"));
        })?;
        Some("circuit/".into())
    }),
    m("readings", "a bond of ohms", &["bond_over_limit", "not_continuous"], |f| {
        let bond = f.readings().iter_mut().find(|one| one["key"]["subject"]["of"] == "bond")?;
        (bond["value"], bond["typed"]) = (number("2.4"), json!("2.4"));
        Some("origin/".into())
    }),
    m("readings", "a switch that does not break", &["polarity_wrong"], |f| {
        let open = |one: &Value| one["value"]["is"] == "open";
        let one = f.reading("Lights", "r1_r2", open)?;
        (one["value"], one["typed"]) = (number("0.14"), json!("0.14"));
        Some("circuit/".into())
    }),
    m("readings", "residual device not tested", &["reading_missing"], |f| {
        let circuit = f.circuit("Sockets ring")?["id"].clone();
        f.readings()
            .retain(|one| one["key"]["subject"]["circuit"] != circuit || one["key"]["test"]["test"] != "rcd_trip");
        Some("circuit/".into())
    }),
    m("readings", "switches not worked", &["reading_missing"], |f| {
        let circuit = f.circuit("Lights")?["id"].clone();
        f.readings()
            .retain(|one| one["key"]["subject"]["circuit"] != circuit || one["key"]["test"]["test"] != "functional");
        Some("circuit/".into())
    }),
    m("readings", "labels not in place", &["outcome_failed"], |f| {
        let labels = f.readings().iter_mut().find(|one| one["key"]["test"]["test"] == "labelling")?;
        (labels["value"], labels["typed"]) = (json!({"is": "fail"}), json!("fail"));
        Some("board/".into())
    }),
];
