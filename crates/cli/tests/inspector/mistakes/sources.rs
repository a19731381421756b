//! Other sources, other voltages.

use super::{EVERYWHERE, Mistake, m, remove};
use crate::job::number;
use serde_json::json;

/// The mistakes of this group.
pub const ALL: &[Mistake] = &[
    m("sources", "no isolator named", &["source_incomplete"], |f| {
        f.installation()["sources"].get_mut(0)?["isolator"] = json!("");
        Some("particulars".into())
    }),
    m("sources", "no warning notices", &["source_incomplete"], |f| {
        f.installation()["sources"].get_mut(0)?["notices"] = json!(false);
        Some("particulars".into())
    }),
    m("sources", "notices not said", &["source_incomplete"], |f| {
        remove(f.installation()["sources"].get_mut(0)?, "notices");
        Some("particulars".into())
    }),
    m("sources", "a device that works in one direction only", &["source_incomplete"], |f| {
        f.installation()["sources"].get_mut(0)?["both_ways"] = json!(false);
        Some("particulars".into())
    }),
    m("sources", "no board named", &["source_incomplete"], |f| {
        remove(f.installation()["sources"].get_mut(0)?, "board");
        Some("particulars".into())
    }),
    m("sources", "a second source that was not proved dead", &["proof_of_dead"], |f| {
        f.installation()["sources"].get(0)?;
        let at = f.event("proved_dead")?;
        remove(&mut f.events()[at]["kind"], "sources");
        Some("board/".into())
    }),
    m("sources", "a source that came after the proof", &["proof_of_dead", "source_incomplete"], |f| {
        let board = f.board()["id"].clone();
        let one = json!({"id": "00000000-0000-0000-0000-000000000077", "kind": "storage", "board": board,
            "isolator": "garage", "notices": true, "both_ways": true});
        let sources = &mut f.installation()["sources"];
        if sources.is_null() {
            *sources = json!([]);
        }
        sources.as_array_mut()?.push(one);
        Some(EVERYWHERE)
    }),
    m("sources", "extra-low voltage insulated below its minimum", &["insulation_under_minimum"], |f| {
        f.read("Cabinet", "insulation", &number("0.4"), "0.4")
    }),
    m("sources", "extra-low voltage tested at the voltage of another band", &["test_voltage"], |f| {
        let reading = f.reading("Cabinet", "insulation", |_| true)?;
        reading["context"]["test_voltage_v"] = json!(1000.0);
        Some("circuit/".into())
    }),
];
