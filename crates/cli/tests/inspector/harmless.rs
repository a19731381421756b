//! What deserves no objection.

use crate::job::File;
use serde_json::{Value, json};

/// A variation, and how it is made; false where the job has nothing of the kind.
pub type Variation = (&'static str, fn(&mut File) -> bool);

fn at(f: &mut File, word: &str, change: impl FnOnce(&mut Value)) -> bool {
    f.at(word, change).is_some()
}

fn always(_: &mut Value) -> bool {
    true
}

/// All of them.
pub const HARMLESS: &[Variation] = &[
    ("earthing conductor of 25 mm²", |f| {
        always(&mut {
            f.supply()["earthing_mm2"] = json!(25.0);
            json!(0)
        })
    }),
    ("a bond of 16 mm²", |f| {
        always(&mut {
            f.supply()["bonds"][0]["mm2"] = json!(16.0);
            json!(0)
        })
    }),
    ("length of a bond not known", |f| {
        f.supply()["bonds"][0].as_object_mut().unwrap().remove("length_m");
        true
    }),
    ("a frequency of 50.0", |f| {
        always(&mut {
            f.supply()["frequency_hz"] = json!("50.0");
            json!(0)
        })
    }),
    ("maximum demand not given", |f| f.installation().as_object_mut().unwrap().remove("maximum_demand_a").is_some()),
    ("departures in writing", |f| {
        f.installation()["departures"] = json!("None. Labels are bilingual.");
        true
    }),
    ("comments on the existing installation", |f| {
        f.installation()["existing"] = json!("Nothing of it was seen.");
        true
    }),
    ("another kind of dwelling", |f| {
        if f.dwelling() {
            f.installation()["premises"] = json!("let_dwelling");
        }
        f.is("premises", "let_dwelling")
    }),
    ("a sooner inspection", |f| {
        always(&mut {
            f.installation()["next_inspection_months"] = json!(36);
            json!(0)
        })
    }),
    ("main switch of 125 A", |f| {
        always(&mut {
            f.board()["main_switch"]["rating_a"] = json!("125");
            json!(0)
        })
    }),
    ("a conditional rating", |f| {
        always(&mut {
            f.board()["conditional_ka"] = json!("16");
            json!(0)
        })
    }),
    ("the board elsewhere", |f| {
        always(&mut {
            f.board()["location"] = json!("under the stairs");
            json!(0)
        })
    }),
    ("a device that breaks more", |f| at(f, "Boiler", |c| c["device"]["breaking_ka"] = json!("10"))),
    ("a device marked 4.5 kA", |f| at(f, "Heater", |c| c["device"]["breaking_ka"] = json!("4.5"))),
    ("design current below the device", |f| at(f, "Heater", |c| c["design_current_a"] = json!("13"))),
    ("capacity as designed, with its source", |f| {
        at(f, "Heater", |c| {
            c["cable"]["kind"] = json!("singles");
            c["capacity_a"] = json!("24");
            c["capacity_source"] = json!("designer's sheet 4");
        })
    }),
    ("a load that cannot overload", |f| {
        at(f, "Boiler", |c| {
            c["cable"]["method"] = json!("103");
            c["no_overload"] = json!("a fixed element of 2 kW, which cannot draw more");
        })
    }),
    ("an outlet of 13 A on a ring", |f| at(f, "Sockets ring", |c| c["points"][0]["rating_a"] = json!("13"))),
    ("an outlet of 32 A behind 20 A", |f| at(f, "Sockets radial", |c| c["points"][0]["rating_a"] = json!("32"))),
    ("a residual device of type F", |f| f.rcd("Sockets ring", |rcd| rcd["detects"] = json!("F")).is_some()),
    ("a residual device of type B", |f| f.rcd("Heater", |rcd| rcd["detects"] = json!("B")).is_some()),
    ("type AC over plain sockets", |f| f.rcd("Sockets radial", |rcd| rcd["detects"] = json!("AC")).is_some()),
    ("a residual device of 10 mA", |f| f.rcd("Sockets radial", |rcd| rcd["idn_ma"] = json!("10")).is_some()),
    ("another label", |f| f.rcd("Sockets ring", |rcd| rcd["label"] = json!("RCBO 3, kitchen")).is_some()),
    ("a remark", |f| at(f, "Heater", |c| c["remarks"] = json!("hidden in a safe zone"))),
    ("an existing circuit", |f| at(f, "Boiler", |c| c["wiring"] = json!("existing"))),
    ("other names of points", |f| at(f, "Sockets ring", |c| c["points"][0]["name"] = json!("by the door"))),
    ("terminals not numbered", |f| at(f, "Sockets ring", |c| c["neutral_terminal"] = json!(""))),
    ("lights of a works without a residual device", |f| {
        f.is("premises", "industrial") && f.unprotected("Lights bindery").is_some()
    }),
    ("the heater's cable not hidden, and no residual device", |f| {
        if f.supply()["system"] == "TT" {
            return false;
        }
        at(f, "Heater", |c| c["serves"] = json!([])) && f.unprotected("Heater").is_some()
    }),
    ("a way named 5A", |f| at(f, "Heater", |c| c["way"] = json!("12A"))),
    ("read by nobody but the writer", |f| {
        for reading in f.readings() {
            reading["context"].as_object_mut().unwrap().remove("read_by");
        }
        true
    }),
    ("another instrument in the register", |f| {
        let mut other = f.job()["instruments"][0].clone();
        other["id"] = json!("00000000-0000-0000-0000-0000000000cc");
        other["calibration_due"] = json!("2020-01-01");
        f.job()["instruments"].as_array_mut().unwrap().push(other);
        true
    }),
    ("a person who took no part", |f| {
        let person = json!({"id": "00000000-0000-0000-0000-0000000000cd", "name": "Perrin Oake", "position": "mate"});
        f.job()["people"].as_array_mut().unwrap().push(person);
        true
    }),
    ("covers off and on again", |f| {
        let (board, item) = (f.board()["id"].clone(), json!("00000000-0000-0000-0000-0000000000ce"));
        f.insert(0, json!({"what": "altered", "item": item, "board": board, "alteration": "cover", "note": "front"}));
        let Some(at) = f.event("supply_exposed") else { return false };
        f.insert(at, json!({"what": "put_back", "item": item}));
        true
    }),
    ("a reading taken twice", |f| {
        let Some(first) = f.reading("Heater", "r1_r2", |_| true).cloned() else { return false };
        let mut again = first;
        again["id"] = json!("00000000-0000-0000-0000-0000000000cf");
        f.readings().push(again);
        true
    }),
    ("the indicator's figures kept", |f| {
        let Some(at) = f.event("proved_dead") else { return false };
        let shown = json!([{"pair": ["L", "N"], "volts": "3"}]);
        f.events()[at]["kind"]["shown"] = shown;
        true
    }),
    ("written before the proofs of the indicator were kept", |f| {
        let Some(at) = f.event("proved_dead") else { return false };
        let kind = f.events()[at]["kind"].as_object_mut().unwrap();
        kind.remove("before").is_some() && kind.remove("after").is_some()
    }),
    ("surge protection not required, with its reason", |f| {
        f.installation()["surge"] = json!({"decided": "not_required", "reason": "assessed, see sheet 9"});
        for board in f.boards() {
            board["surge"] = json!("");
        }
        f.readings().retain(|one| one["key"]["test"]["test"] != "surge_indicator");
        true
    }),
    ("a larger CPC", |f| at(f, "Boiler", |c| c["cable"]["cpc_is"] = json!("core"))),
    ("a supplier's neutral not said", |f| f.supply().as_object_mut().unwrap().remove("neutral_mm2").is_some()),
];
