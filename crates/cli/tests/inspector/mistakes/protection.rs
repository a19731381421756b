//! Protection against shock, and the devices that give it.

use super::{EVERYWHERE, Mistake, m, remove};
use serde_json::json;

/// The mistakes of this group.
pub const ALL: &[Mistake] = &[
    m("protection", "sockets without a residual device", &["no_additional_protection"], |f| {
        f.unprotected("Sockets radial")
    }),
    m("protection", "ring of sockets without a residual device", &["no_additional_protection"], |f| {
        f.unprotected("Sockets ring")
    }),
    m("protection", "sockets behind 100 mA", &["no_additional_protection"], |f| {
        f.rcd("Sockets radial", |rcd| rcd["idn_ma"] = json!("100"))
    }),
    m("protection", "sockets behind a delayed 30 mA", &["no_additional_protection"], |f| {
        f.rcd("Sockets radial", |rcd| rcd["kind"] = json!("S"))
    }),
    m("protection", "lights of a dwelling without a residual device", &["no_additional_protection"], |f| {
        if f.dwelling() { f.unprotected("Lights up") } else { None }
    }),
    m("protection", "shower without a residual device", &["no_additional_protection"], |f| f.unprotected("Shower")),
    m("protection", "shower behind 100 mA", &["no_additional_protection"], |f| {
        f.rcd("Shower", |rcd| rcd["idn_ma"] = json!("100"))
    }),
    m("protection", "hidden cable without a residual device", &["no_additional_protection"], |f| {
        f.unprotected("Heater")
    }),
    m("protection", "mobile equipment outdoors without a residual device", &["no_additional_protection"], |f| {
        f.at("Boiler", |c| c["serves"] = json!(["mobile_outdoors"])).filter(|_| f.supply()["system"] != "TT")
    }),
    m("protection", "RCBO without its residual part described", &["rcbo_undescribed"], |f| {
        f.at("Heater", |c| remove(c, "rcd"))
    }),
    m("protection", "type AC over electronics", &["rcd_type"], |f| {
        f.at("Heater", |c| c["points"][0]["carries"] = json!(["electronics"]))?;
        f.rcd("Heater", |rcd| rcd["detects"] = json!("AC"))
    }),
    m("protection", "type A over a drive", &["rcd_type"], |f| {
        f.at("Heater", |c| c["points"][0]["carries"] = json!(["drive"]))
    }),
    m("protection", "type A over a charging point that detects nothing", &["rcd_type"], |f| {
        f.at("Heater", |c| c["points"][0]["carries"] = json!(["vehicle_charger"]))
    }),
    m("protection", "type AC over a charging point", &["rcd_type"], |f| {
        f.rcd("Charger", |rcd| rcd["detects"] = json!("AC"))
    }),
    m("protection", "TT without a residual device", &["tt_without_rcd", "loop_over_limit"], |f| {
        if f.supply()["system"] == "TT" { f.unprotected("Boiler") } else { None }
    }),
    m(
        "protection",
        "own electrode, and a way without a residual device",
        &["tt_without_rcd", "loop_over_limit"],
        |f| {
            if f.boards().get(1)?["system"] == "TT" { f.unprotected("Studio lights") } else { None }
        },
    ),
    m("protection", "electrode too high for its residual device", &["loop_over_limit"], |f| {
        if f.supply()["system"] != "TT" {
            return None;
        }
        let boards = f.boards().iter_mut().flat_map(|board| board["rcds"].as_array_mut().expect("rcds"));
        boards.for_each(|rcd| rcd["idn_ma"] = json!("3000"));
        Some(EVERYWHERE)
    }),
    m("protection", "a device whose loop is too high", &["loop_over_limit", "loop_over_limit_rcd_disconnects"], |f| {
        if f.supply()["system"] == "TT" {
            return None;
        }
        f.at("Lights", |c| (c["device"]["trip"], c["device"]["rating_a"]) = (json!("D"), json!("32")))
    }),
    m("protection", "a fuse without a row at its time", &["not_judged"], |f| {
        if f.supply()["system"] == "TT" {
            return None;
        }
        f.at("Cooker", |c| {
            c["device"] = json!({"standard": "BS 88-2", "rating_a": "35", "breaking_ka": "80"});
            remove(c, "rcd");
        })
    }),
    m("protection", "a breaker by settings, without its setting", &["not_judged"], |f| {
        if f.supply()["system"] == "TT" {
            return None;
        }
        f.at("Cooker", |c| {
            c["device"] = json!({"standard": "BS EN 60947-2", "rating_a": "32", "breaking_ka": "36"});
            remove(c, "rcd");
        })
    }),
    m("protection", "surge protection not decided", &["particulars_missing"], |f| {
        remove(f.installation(), "surge");
        Some("particulars".into())
    }),
    m("protection", "surge protection not required, and no reason", &["particulars_missing"], |f| {
        f.installation()["surge"] = json!({"decided": "not_required"});
        Some("particulars".into())
    }),
    m("protection", "surge protection decided, and none fitted", &["decision_contradicted"], |f| {
        for board in f.boards() {
            remove(board, "surge");
        }
        Some(EVERYWHERE)
    }),
    m("protection", "arc protection not decided", &["particulars_missing"], |f| {
        remove(f.installation(), "arc");
        Some("particulars".into())
    }),
    m("protection", "arc protection decided, and none fitted", &["decision_contradicted"], |f| {
        f.installation()["arc"] = json!({"decided": "fitted", "reason": "timber frame"});
        Some(EVERYWHERE)
    }),
];
