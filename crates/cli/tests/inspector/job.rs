//! A job file as an inspector has it before him: JSON, altered by hand. Nothing here knows the rules.

use serde_json::{Value, json};

/// A whole job file.
#[derive(Clone)]
pub struct File(pub Value);

/// Where an objection belongs: part of the place that `proof check` names.
pub type Place = String;

impl File {
    pub fn job(&mut self) -> &mut Value {
        &mut self.0["job"]
    }

    pub fn installation(&mut self) -> &mut Value {
        &mut self.0["job"]["installation"]
    }

    pub fn supply(&mut self) -> &mut Value {
        &mut self.0["job"]["installation"]["supply"]
    }

    pub fn is(&self, pointer: &str, value: &str) -> bool {
        self.0.pointer(&format!("/job/installation/{pointer}")).and_then(Value::as_str) == Some(value)
    }

    pub fn dwelling(&self) -> bool {
        self.is("premises", "dwelling")
    }

    pub fn boards(&mut self) -> &mut Vec<Value> {
        self.installation()["boards"].as_array_mut().expect("boards")
    }

    pub fn board(&mut self) -> &mut Value {
        &mut self.boards()[0]
    }

    pub fn circuits(&mut self) -> &mut Vec<Value> {
        self.installation()["circuits"].as_array_mut().expect("circuits")
    }

    pub fn readings(&mut self) -> &mut Vec<Value> {
        self.job()["readings"].as_array_mut().expect("readings")
    }

    pub fn events(&mut self) -> &mut Vec<Value> {
        self.job()["events"].as_array_mut().expect("events")
    }

    /// The first circuit whose description holds a word, and where it is.
    pub fn circuit(&mut self, word: &str) -> Option<&mut Value> {
        self.circuits().iter_mut().find(|one| one["description"].as_str().is_some_and(|text| text.contains(word)))
    }

    /// Alters that circuit; where it is.
    pub fn at(&mut self, word: &str, change: impl FnOnce(&mut Value)) -> Option<Place> {
        let circuit = self.circuit(word)?;
        change(circuit);
        Some(format!("circuit/{}", text(&circuit["id"])))
    }

    /// Takes the residual device off a circuit that has one, and makes its device a plain breaker.
    pub fn unprotected(&mut self, word: &str) -> Option<Place> {
        self.at(word, |circuit| {
            circuit.as_object_mut().expect("a circuit").remove("rcd");
            circuit["device"]["standard"] = json!("BS EN 60898");
        })
    }

    /// Alters the residual device of a circuit; where the circuit is.
    pub fn rcd(&mut self, word: &str, change: impl Fn(&mut Value)) -> Option<Place> {
        let circuit = self.circuit(word)?;
        let (rcd, place) = (circuit["rcd"].clone(), format!("circuit/{}", text(&circuit["id"])));
        let rcds = self.boards().iter_mut().flat_map(|board| board["rcds"].as_array_mut().expect("rcds"));
        rcds.filter(|one| one["id"] == rcd).for_each(change);
        (!rcd.is_null()).then_some(place)
    }

    /// The place of the first board, or of the one after it.
    pub fn board_place(&mut self, index: usize) -> Option<Place> {
        self.boards().get(index).map(|board| format!("board/{}", text(&board["id"])))
    }

    /// The first standing reading of a test on a circuit that `wanted` takes.
    pub fn reading(&mut self, word: &str, test: &str, wanted: impl Fn(&Value) -> bool) -> Option<&mut Value> {
        let circuit = text(&self.circuit(word)?["id"]);
        self.readings().iter_mut().find(|one| {
            one["key"]["subject"]["circuit"].as_str() == Some(circuit.as_str())
                && one["key"]["test"]["test"].as_str() == Some(test)
                && wanted(one)
        })
    }

    /// Alters a reading of a circuit; where the circuit is.
    pub fn read(&mut self, word: &str, test: &str, value: &Value, typed: &str) -> Option<Place> {
        let reading = self.reading(word, test, |_| true)?;
        (reading["value"], reading["typed"]) = (value.clone(), json!(typed));
        Some(format!("circuit/{}", text(&reading["key"]["subject"]["circuit"])))
    }

    /// Alters the first reading at the origin of a test.
    pub fn at_origin(&mut self, test: &str, change: impl FnOnce(&mut Value)) -> Option<Place> {
        let reading = self.readings().iter_mut().find(|one| {
            one["key"]["subject"]["of"].as_str() == Some("supply") && one["key"]["test"]["test"].as_str() == Some(test)
        })?;
        change(reading);
        Some("origin/".into())
    }

    /// The place in the log of the first event of a kind.
    pub fn event(&mut self, what: &str) -> Option<usize> {
        self.events().iter().position(|event| event["kind"]["what"].as_str() == Some(what))
    }

    /// Writes an event into the log before the one at `at`, a second earlier.
    pub fn insert(&mut self, at: usize, kind: Value) {
        let when = self.events().get(at).map(|event| text(&event["at"]));
        let last = || text(&json!("2026-12-01T10:00:00Z"));
        let when: jiff::Timestamp = when.unwrap_or_else(last).parse().expect("a moment");
        let when = when - jiff::SignedDuration::from_secs(1);
        let id = uuid::Uuid::new_v5(&uuid::Uuid::NAMESPACE_OID, format!("{at} {kind}").as_bytes());
        let event = json!({"id": id, "at": when.to_string(), "by": "Idris Kell", "kind": kind});
        let at = at.min(self.events().len());
        self.events().insert(at, event);
    }
}

pub fn text(value: &Value) -> String {
    value.as_str().unwrap_or_default().to_owned()
}

pub fn number(value: &str) -> Value {
    json!({"is": "number", "value": value})
}
