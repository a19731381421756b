//! Earthing and bonding, cables and devices.

use super::{EVERYWHERE, Mistake, m, remove};
use serde_json::json;

/// The mistakes of this group.
pub const ALL: &[Mistake] = &[
    m("sizes", "earthing conductor of 4 mm²", &["earthing_size"], |f| {
        if f.supply()["system"] == "TT" {
            return None;
        }
        f.supply()["earthing_mm2"] = json!(4.0);
        Some("particulars".into())
    }),
    m("sizes", "earthing conductor of 1.5 mm² on an electrode", &["earthing_size"], |f| {
        if f.supply()["system"] != "TT" {
            return None;
        }
        f.supply()["earthing_mm2"] = json!(1.5);
        Some("particulars".into())
    }),
    m("sizes", "main bond of 6 mm² under PME", &["bond_size"], |f| {
        if f.supply()["system"] != "TN-C-S" {
            return None;
        }
        f.supply()["bonds"][0]["mm2"] = json!(6.0);
        Some("particulars".into())
    }),
    m("sizes", "main bond of 4 mm²", &["bond_size"], |f| {
        f.supply()["bonds"][1]["mm2"] = json!(4.0);
        Some("particulars".into())
    }),
    m("sizes", "bond too small for a larger neutral", &["bond_size"], |f| {
        if f.supply()["system"] != "TN-C-S" {
            return None;
        }
        f.supply()["neutral_mm2"] = json!(50.0);
        f.supply()["tails_mm2"] = json!(50.0);
        f.supply()["earthing_mm2"] = json!(25.0);
        Some("particulars".into())
    }),
    m("sizes", "earthing conductor smaller than the bonds under PME", &["earthing_size"], |f| {
        if f.supply()["system"] != "TN-C-S" {
            return None;
        }
        f.supply()["earthing_mm2"] = json!(6.0);
        Some("particulars".into())
    }),
    m("sizes", "CPC of 1 mm² behind 40 A", &["cpc_size", "not_judged"], |f| {
        // On an electrode the fault current is a few amperes, which any conductor carries.
        if f.supply()["system"] == "TT" {
            return None;
        }
        f.at("Shower", |c| c["cable"]["cpc_mm2"] = json!(1.0))
    }),
    m("sizes", "separate CPC of 1.5 mm²", &["cpc_size"], |f| {
        f.at("Heater", |c| c["cable"]["cpc_is"] = json!("separate"))
    }),
    m("sizes", "armour for a CPC, no row for it", &["not_judged", "cpc_size"], |f| {
        f.at("Heater", |c| c["cable"]["cpc_is"] = json!("armour"))
    }),
    m("sizes", "ring in 1.5 mm²", &["cable_mismatch"], |f| {
        f.at("Sockets ring", |c| {
            (c["cable"]["line_mm2"], c["cable"]["neutral_mm2"]) = (json!(1.5), json!(1.5));
            c["cable"]["cpc_mm2"] = json!(1.0);
        })
    }),
    m("sizes", "ring in a stud wall", &["cable_mismatch"], |f| {
        f.at("Sockets ring", |c| c["cable"]["method"] = json!("103"))
    }),
    m("sizes", "device above its cable", &["cable_mismatch"], |f| {
        f.at("Boiler", |c| c["device"]["rating_a"] = json!("32"))
    }),
    m("sizes", "device above its cable in insulation", &["cable_mismatch"], |f| {
        f.at("Heater", |c| c["cable"]["method"] = json!("103"))
    }),
    m("sizes", "design current above the device", &["design_current"], |f| {
        f.at("Heater", |c| c["design_current_a"] = json!("22"))
    }),
    m("sizes", "rewirable fuse at the capacity of its cable", &["cable_mismatch"], |f| {
        f.at("Cooker", |c| {
            c["device"] = json!({"standard": "BS 3036", "rating_a": "45", "breaking_ka": "4"});
        })
    }),
    m("sizes", "table of another cable", &["not_judged"], |f| {
        f.at("Heater", |c| c["cable"]["kind"] = json!("singles"))
    }),
    m("sizes", "table of another insulation", &["not_judged"], |f| {
        f.0["version"] = json!(2);
        f.at("Cooker", |c| c["cable"]["insulation"] = json!("thermosetting90"))
    }),
    m("sizes", "no reference method", &["not_judged"], |f| f.at("Heater", |c| remove(&mut c["cable"], "method"))),
    m("sizes", "capacity without a source", &["not_judged"], |f| {
        f.at("Heater", |c| {
            c["cable"]["kind"] = json!("armoured");
            c["capacity_a"] = json!("40");
        })
    }),
    m("sizes", "capacity as designed below the device", &["cable_mismatch"], |f| {
        f.at("Heater", |c| {
            c["capacity_a"] = json!("12");
            c["capacity_source"] = json!("designer's sheet 4, grouped with five others");
        })
    }),
    m("sizes", "16 A outlet behind 20 A", &["outlet_rating"], |f| {
        f.at("Sockets radial", |c| c["points"][0]["rating_a"] = json!("16"))
    }),
    m("sizes", "main switch with one pole", &["main_switch"], |f| {
        if !f.dwelling() {
            return None;
        }
        f.board()["main_switch"]["poles"] = json!(1);
        f.board_place(0)
    }),
    m("sizes", "main switch of a board below with one pole, on its own electrode", &["main_switch"], |f| {
        let place = f.board_place(1)?;
        if f.boards()[1]["system"] != "TT" {
            return None;
        }
        f.boards()[1]["main_switch"]["poles"] = json!(1);
        Some(place)
    }),
    m("sizes", "main switch below the fuse before it", &["main_switch"], |f| {
        f.board()["main_switch"]["rating_a"] = json!("63");
        f.board_place(0)
    }),
    m("sizes", "a breaker marked with what none of its standard breaks", &["device_marking"], |f| {
        f.at("Boiler", |c| c["device"]["breaking_ka"] = json!("50"))
    }),
    m("sizes", "a rewirable fuse marked 16 kA", &["device_marking"], |f| {
        f.at("Heater", |c| {
            c["device"] = json!({"standard": "BS 3036", "rating_a": "15", "breaking_ka": "16"});
            remove(c, "rcd");
        })
    }),
    m("sizes", "breaking capacity not given", &["capacity_unknown"], |f| {
        f.at("Heater", |c| remove(&mut c["device"], "breaking_ka"))
    }),
    m("sizes", "breaking capacity under the fault level", &["breaking_capacity"], |f| {
        f.at("Lights", |c| c["device"]["breaking_ka"] = json!("0.5"))?;
        Some(EVERYWHERE)
    }),
];
