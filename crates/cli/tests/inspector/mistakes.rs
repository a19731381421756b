//! What deserves an objection: from the standard, and from what practitioners get wrong.

use crate::job::{File, Place, number, text};
use serde_json::{Value, json};

/// A mistake, and the codes by which it may be found.
pub struct Mistake {
    pub group: &'static str,
    pub name: &'static str,
    pub codes: &'static [&'static str],
    pub make: fn(&mut File) -> Option<Place>,
}

const fn m(
    group: &'static str,
    name: &'static str,
    codes: &'static [&'static str],
    make: fn(&mut File) -> Option<Place>,
) -> Mistake {
    Mistake { group, name, codes, make }
}

fn remove(value: &mut Value, key: &str) {
    value.as_object_mut().expect("an object").remove(key);
}

/// Anywhere.
const EVERYWHERE: Place = Place::new();

/// Earthing and bonding, cables and devices.
pub const SIZES: &[Mistake] = &[
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

/// Protection against shock, and the devices that give it.
pub const PROTECTION: &[Mistake] = &[
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

/// Other sources, other voltages.
pub const SOURCES: &[Mistake] = &[
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

/// How the site stood.
pub const SITE: &[Mistake] = &[
    m("site", "two pairs of three proved", &["proof_of_dead"], |f| {
        let at = f.event("proved_dead")?;
        f.events()[at]["kind"]["pairs"] = json!(2);
        Some("board/".into())
    }),
    m("site", "a pair at 230 V", &["proof_of_dead"], |f| {
        let at = f.event("proved_dead")?;
        let pair = json!(["L", "E"]);
        f.events()[at]["kind"]["shown"] = json!([{"pair": pair, "volts": "230"}]);
        Some("board/".into())
    }),
    m("site", "the indicator lit", &["proof_of_dead"], |f| {
        let at = f.event("proved_dead")?;
        let pair = json!(["L", "N"]);
        f.events()[at]["kind"]["shown"] = json!([{"pair": pair, "volts": "0", "lit": true}]);
        Some("board/".into())
    }),
    m("site", "the indicator not proved again", &["proof_of_dead"], |f| {
        let at = f.event("proved_dead")?;
        f.events()[at]["kind"]["after"] = json!(false);
        Some("board/".into())
    }),
    m("site", "the indicator not proved before", &["proof_of_dead"], |f| {
        let at = f.event("proved_dead")?;
        f.events()[at]["kind"]["before"] = json!(false);
        Some("board/".into())
    }),
    m("site", "never proved dead", &["out_of_order"], |f| {
        let at = f.event("proved_dead")?;
        f.events().remove(at);
        Some(EVERYWHERE)
    }),
    m("site", "energised with the earth off", &["gate_broken", "supply_exposed"], |f| {
        let at = f.event("earth_refitted")?;
        f.events().remove(at);
        Some("board/".into())
    }),
    m("site", "energised with a link in", &["gate_broken"], |f| {
        let board = f.board()["id"].clone();
        let at = f.event("supply_exposed")?;
        let item = json!("00000000-0000-0000-0000-000000000011");
        f.insert(at, json!({"what": "altered", "item": item, "board": board, "alteration": "link", "note": "way 3"}));
        let end = f.events().len();
        f.insert(end, json!({"what": "put_back", "item": item}));
        Some("board/".into())
    }),
    m("site", "a link still in", &["not_put_back"], |f| {
        let board = f.board()["id"].clone();
        let at = f.event("supply_exposed")?;
        let item = json!("00000000-0000-0000-0000-000000000011");
        f.insert(at, json!({"what": "altered", "item": item, "board": board, "alteration": "link", "note": "way 3"}));
        Some("board/".into())
    }),
    m("site", "a neutral out of a live board", &["gate_broken"], |f| {
        let board = f.board()["id"].clone();
        let item = json!("00000000-0000-0000-0000-000000000012");
        let end = f.events().len();
        f.insert(
            end,
            json!({"what": "altered", "item": item, "board": board, "alteration": "neutral_out", "note": "4"}),
        );
        let end = f.events().len();
        f.insert(end, json!({"what": "put_back", "item": item}));
        Some("board/".into())
    }),
    m("site", "a bond off before anything was proved", &["gate_broken"], |f| {
        let board = f.board()["id"].clone();
        let item = json!("00000000-0000-0000-0000-000000000013");
        f.insert(0, json!({"what": "altered", "item": item, "board": board, "alteration": "bond_off", "note": "gas"}));
        let at = f.event("supply_exposed")?;
        f.insert(at, json!({"what": "put_back", "item": item}));
        Some("board/".into())
    }),
    m("site", "the earth off while another board is not proved", &["gate_broken"], |f| {
        let mut board = f.board().clone();
        board["id"] = json!("00000000-0000-0000-0000-000000000014");
        board["name"] = json!("Landlord's board");
        board["rcds"] = json!([]);
        f.boards().push(board);
        Some("board/".into())
    }),
    m("site", "a dead test after the power was on", &["out_of_order"], |f| {
        f.reading("Heater", "r1_r2", |_| true)?["context"]["taken_at"] = json!("2026-12-24T09:00:00Z");
        Some("circuit/".into())
    }),
    m("site", "a live test before the power was on", &["out_of_order"], |f| {
        f.reading("Heater", "zs", |_| true)?["context"]["taken_at"] = json!("2020-01-01T09:00:00Z");
        let at = f.event("isolated")?;
        f.events()[at]["at"] = json!("2019-12-31T09:00:00Z");
        Some("circuit/".into())
    }),
    m("site", "a dead test after the lock came off for Ze", &["out_of_order"], |f| {
        let at = f.event("earth_refitted")?;
        let when: jiff::Timestamp = text(&f.events()[at]["at"]).parse().ok()?;
        let when = when + jiff::SignedDuration::from_millis(500);
        f.reading("Heater", "r1_r2", |_| true)?["context"]["taken_at"] = json!(when.to_string());
        Some("circuit/".into())
    }),
    m("site", "the board below live while its feeder was dead", &["gate_broken"], |f| {
        f.boards().get(1)?;
        let live: Vec<usize> = f
            .events()
            .iter()
            .enumerate()
            .filter(|(_, event)| event["kind"]["what"] == "energised")
            .map(|(at, _)| at)
            .collect();
        let (first, second) = (*live.first()?, *live.get(1)?);
        let (a, b) = (f.events()[first]["kind"].clone(), f.events()[second]["kind"].clone());
        (f.events()[first]["kind"], f.events()[second]["kind"]) = (b, a);
        Some("board/".into())
    }),
];

/// What was written down, and how.
pub const RECORD: &[Mistake] = &[
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
        let (board, circuit) = (f.board()["id"].clone(), f.circuit("Sockets ring")?["id"].clone());
        let at = f.event("supply_exposed")?;
        let item = json!("00000000-0000-0000-0000-000000000021");
        f.insert(
            at,
            json!({"what": "altered", "item": item, "board": board, "circuit": circuit,
            "alteration": "ends_out", "note": "a socket moved"}),
        );
        let at = f.event("supply_exposed")?;
        f.insert(at, json!({"what": "put_back", "item": item}));
        Some("circuit/".into())
    }),
    m("record", "conductors of a way out after its tests", &["altered_after_test"], |f| {
        let (board, circuit) = (f.board()["id"].clone(), f.circuit("Heater")?["id"].clone());
        let at = f.event("supply_exposed")?;
        let item = json!("00000000-0000-0000-0000-000000000022");
        f.insert(
            at,
            json!({"what": "altered", "item": item, "board": board, "circuit": circuit,
            "alteration": "way_out", "note": "device exchanged"}),
        );
        let at = f.event("supply_exposed")?;
        f.insert(at, json!({"what": "put_back", "item": item}));
        Some("circuit/".into())
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
        let end = f.events().len();
        f.insert(
            end,
            json!({"what": "judged", "finding": "look_again:origin/earthing", "said": "x", "position": "",
            "reason": "it is all right"}),
        );
        let end = f.events().len() - 1;
        f.events()[end]["by"] = json!("");
        Some(EVERYWHERE)
    }),
    m("record", "a judgement without a reason", &["judgement_incomplete"], |f| {
        let end = f.events().len();
        f.insert(
            end,
            json!({"what": "judged", "finding": "look_again:origin/earthing", "said": "x",
            "position": "Supervisor", "reason": " "}),
        );
        Some(EVERYWHERE)
    }),
];

/// What is said of the installation.
pub const DESCRIBED: &[Mistake] = &[
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

/// The readings themselves.
pub const READINGS: &[Mistake] = &[
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

/// All of them.
pub fn all() -> impl Iterator<Item = &'static Mistake> {
    [SIZES, PROTECTION, SOURCES, SITE, RECORD, DESCRIBED, READINGS].into_iter().flatten()
}
