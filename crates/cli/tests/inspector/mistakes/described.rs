//! What is said of the installation.

use super::{Mistake, m, remove};
use crate::job::text;
use serde_json::json;

/// The mistakes of this group.
pub const ALL: &[Mistake] = &[
    m("described", "no client", &["particulars_missing"], |f| {
        f.installation()["client"]["name"] = json!(" ");
        Some("particulars".into())
    }),
    m("described", "no address", &["particulars_missing"], |f| {
        f.installation()["site"]["address"] = json!("");
        Some("particulars".into())
    }),
    m("described", "no extent", &["particulars_missing"], |f| {
        f.installation()["extent"] = json!("");
        Some("particulars".into())
    }),
    m("described", "no tails", &["particulars_missing"], |f| {
        remove(f.supply(), "tails_mm2");
        Some("particulars".into())
    }),
    m("described", "no earthing conductor", &["particulars_missing"], |f| {
        remove(f.supply(), "earthing_mm2");
        Some("particulars".into())
    }),
    m("described", "no size of a bond", &["particulars_missing"], |f| {
        remove(&mut f.supply()["bonds"][0], "mm2");
        Some("particulars".into())
    }),
    m("described", "no supply fuse", &["particulars_missing"], |f| {
        f.supply()["device"] = json!("");
        remove(f.supply(), "device_a");
        Some("particulars".into())
    }),
    m("described", "no bonds at all", &["particulars_missing"], |f| {
        f.supply()["bonds"] = json!([]);
        f.readings().retain(|one| one["key"]["subject"]["of"] != "bond");
        Some("particulars".into())
    }),
    m("described", "no electrode described", &["particulars_missing"], |f| {
        if f.supply()["system"] != "TT" {
            return None;
        }
        f.supply()["electrode"] = json!("");
        Some("particulars".into())
    }),
    m("described", "no main switch", &["particulars_missing"], |f| {
        f.board()["main_switch"] = json!({"kind": ""});
        f.board_place(0)
    }),
    m("described", "board's place blank", &["particulars_missing"], |f| {
        f.board()["location"] = json!("");
        f.board_place(0)
    }),
    m("described", "kind of cable not said", &["particulars_missing"], |f| {
        f.at("Heater", |c| c["cable"]["kind"] = json!("other"))
    }),
    m("described", "circuit without a description", &["particulars_missing"], |f| {
        f.at("Heater", |c| c["description"] = json!(""))
    }),
    m("described", "no points", &["particulars_missing"], |f| {
        let circuit = f.circuit("Heater")?["id"].clone();
        f.readings().retain(|one| {
            one["key"]["subject"]["circuit"] != circuit || one["key"]["subject"]["place"]["at"] == "board"
        });
        f.at("Heater", |c| c["points"] = json!([]))
    }),
    m("described", "a way numbered like a line of a three-phase way", &["way_clash"], |f| {
        let way = text(&f.circuit("Heater")?["way"]);
        f.at("Sockets radial", |c| c["way"] = json!(format!("{way}L1")))
    }),
    m("described", "inspection not answered", &["inspection_missing"], |f| {
        f.installation()["inspection"].as_array_mut()?.truncate(10);
        Some("inspection".into())
    }),
    m("described", "departure without its reason", &["inspection_missing"], |f| {
        f.installation()["inspection"][4]["outcome"] = json!("departure");
        Some("inspection".into())
    }),
    m("described", "limitation of the inspection without its reason", &["inspection_missing"], |f| {
        f.installation()["inspection"][4]["outcome"] = json!("limitation");
        Some("inspection".into())
    }),
];
