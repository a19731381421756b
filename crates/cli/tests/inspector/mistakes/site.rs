//! How the site stood.

use super::{EVERYWHERE, Mistake, m};
use crate::job::text;
use serde_json::json;

/// The mistakes of this group.
pub const ALL: &[Mistake] = &[
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
