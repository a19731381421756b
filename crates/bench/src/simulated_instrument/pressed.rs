//! What the simulated instrument shows when its button is pressed: as a line of a script says, or as a circuit of a job
//! would read.

use crate::meter::Meter;
use crate::site::{Visit, read_circuit};
use jiff::Timestamp;
use proof_job::job::Job;
use proof_job::reading::message::{At, FORMAT, Measured, Message, NoMessage, Unit, VERSION};
use proof_job::reading::{Key, Subject, Test, Value};
use proof_standard::conductor::{Conductor, Material};
use proof_standard::limits::conductors::mohm_per_m;
use proof_standard::limits::supply::EarthingSystem;
use proof_work::live_tests::Live;
use proof_work::plan::run::{Order, Planned, Run};
use rust_decimal::dec;
use std::collections::HashMap;
use uuid::Uuid;

/// Why a line presses nothing.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NotPressed {
    /// The first word.
    #[error("“{0}” is nothing it measures: {list}, or a line of JSON", list = Measured::ALL.map(Measured::key).join(", "))]
    Measured(String),
    /// A word behind it.
    #[error("“{0}” is not understood: a figure, its unit, a pair such as L-E, way and a number, point and a name")]
    Word(String),
    /// Nothing is shown.
    #[error("say what it shows, such as: low_resistance 0.34 ohm L-E")]
    NothingShown,
    /// It is no message.
    #[error("{0}")]
    NoMessage(#[from] NoMessage),
}

fn blank(reference: &str, id: Uuid, measured: Measured, shown: String) -> Message {
    Message {
        format: FORMAT.to_owned(),
        version: VERSION,
        id,
        instrument: reference.to_owned(),
        simulated: true,
        taken_at: None,
        measured,
        shown,
        unit: None,
        unsteady: false,
        between: None,
        test_v: None,
        residual_ma: None,
        multiple: None,
        half_cycle: None,
        at: None,
    }
}

fn pair(word: &str) -> Option<[Conductor; 2]> {
    let (a, b) = word.split_once(['-', '–'])?;
    let one = |letters: &str| serde_json::from_value(serde_json::Value::String(letters.to_uppercase())).ok();
    Some([one(a)?, one(b)?])
}

/// A line of a script: words such as `low_resistance 0.34 ohm L-E way 2 point Bench`, or a message as JSON. What the
/// instrument says of itself is its own: the id, its reference, that it is simulated.
///
/// # Errors
/// [`NotPressed`] with what is allowed.
pub fn pressed(line: &str, reference: &str, id: Uuid, now: Timestamp) -> Result<Message, NotPressed> {
    let line = line.trim();
    if line.starts_with('{') {
        let own = serde_json::json!({
            "format": FORMAT, "version": VERSION, "id": id, "instrument": reference, "simulated": true, "taken_at": now,
        });
        let unreadable = |error: serde_json::Error| NoMessage::Unreadable(error.to_string());
        let mut given: serde_json::Map<String, serde_json::Value> = serde_json::from_str(line).map_err(unreadable)?;
        // An id that the script gives is kept, so that one reading can be sent twice on purpose.
        let kept = given.get("id").cloned();
        given.extend(own.as_object().cloned().unwrap_or_default());
        given.extend(kept.map(|id| ("id".to_owned(), id)));
        return Ok(Message::read(&serde_json::Value::Object(given).to_string())?);
    }
    let mut words = line.split_whitespace();
    let first = words.next().unwrap_or_default();
    let measured = Measured::ALL.into_iter().find(|one| one.key() == first);
    let measured = measured.ok_or_else(|| NotPressed::Measured(first.to_owned()))?;
    let shown = words.next().ok_or(NotPressed::NothingShown)?.to_owned();
    let mut message = Message { taken_at: Some(now), ..blank(reference, id, measured, shown) };
    let mut at = At::default();
    while let Some(word) = words.next() {
        let mut named = || words.next().map(|name| name.replace('_', " "));
        match word {
            "way" => at.way = named(),
            "point" => at.point = named(),
            "step" => at.step = named(),
            "trip" if message.shown == "no" => "no trip".clone_into(&mut message.shown),
            _ => {
                let unit = Unit::ALL.into_iter().find(|unit| unit.key() == word);
                let volts = word.strip_suffix('V').and_then(|volts| volts.parse().ok());
                match (unit, pair(word), volts) {
                    (Some(unit), ..) => message.unit = Some(unit),
                    (None, Some(pair), _) => message.between = Some(pair),
                    (None, None, Some(volts)) => message.test_v = Some(volts),
                    _ => return Err(NotPressed::Word(word.to_owned())),
                }
            }
        }
    }
    message.at = (at != At::default()).then_some(at);
    message.check()?;
    Ok(message)
}

/// How a value is displayed.
fn displayed(measured: Measured, value: &Value) -> Option<(String, Option<Unit>)> {
    let unit = measured.units()[0];
    Some(match value {
        Value::Number(number) => (number.to_string(), Some(unit)),
        Value::Over(over) => (format!(">{over}"), Some(unit)),
        Value::Open => ("OL".to_owned(), None),
        Value::NoTrip => ("no trip".to_owned(), None),
        _ => return None,
    })
}

/// What the copper of a bond and the supply of a simulated job read.
fn elsewhere(job: &Job, key: &Key, visit: &Visit, meter: &mut Meter) -> Option<Value> {
    let supply = &job.installation.supply;
    Some(match (&key.subject, key.test) {
        (Subject::Bond { bond }, _) => {
            let bond = supply.bonds.iter().find(|one| one.id == *bond)?;
            let metres = bond.length_m.map_or(4.0, proof_standard::quantity::Metres::get);
            let mohm = bond.mm2.and_then(|size| mohm_per_m(Material::Copper, size).ok());
            // As 10 mm² where its size is not said: IEC 60228, mΩ/m.
            Value::Number(meter.clipped(metres * mohm.unwrap_or(1.83) / 1000.0))
        }
        (_, Test::Insulation | Test::InsulationJoined) => Value::Over(dec!(999)),
        (_, Test::EarthingConductor) => Value::Number(meter.clipped(0.01)),
        (_, Test::Ze) => Value::Number(crate::meter::shown(visit.ze, 2)),
        (_, Test::FaultCurrent) => {
            let behind =
                if key.pair == Some(proof_standard::conductor::Pair::LINE_EARTH) { visit.ze } else { visit.neutral };
            Value::Number(crate::meter::shown(0.23 / behind, 2))
        }
        _ => return None,
    })
}

/// Every reading that the run of a job still wants and an instrument shows, in its order, as a sound installation would
/// give it. What is looked at is not among them.
pub fn job_messages(job: &Job, reference: &str, seed: u64) -> Vec<Message> {
    let settled = job.settled();
    let (run, live) = (Run::new(job, &settled, Order::default()), Live::new(job, &settled, Order::default()));
    let mut meter = Meter::new(seed);
    let mut visit = Visit {
        instrument: Uuid::nil(),
        read_by: String::new(),
        entered_by: String::new(),
        clock: job.created_at,
        // A supply as a distributor's usually is, an electrode as rods often are; simulated.
        ze: if job.installation.supply.system == EarthingSystem::Tt { 46.0 } else { 0.17 },
        neutral: 0.16,
    };
    let mut values: HashMap<Key, Value> = HashMap::new();
    for circuit in &job.installation.circuits {
        let readings = read_circuit(&job.installation, circuit, Vec::new(), &mut visit, &mut meter, |_| true);
        values.extend(readings.into_iter().map(|reading| (reading.key, reading.value)));
    }
    let left: Vec<&Planned> = run.left().chain(live.left()).collect();
    let mut all = Vec::new();
    for planned in left {
        let step = &planned.step;
        let Some(measured) = Measured::for_field(step.field) else { continue };
        let value = values.get(&step.key).cloned().or_else(|| elsewhere(job, &step.key, &visit, &mut meter));
        let Some((shown, unit)) = value.and_then(|value| displayed(measured, &value)) else { continue };
        let circuit = planned.circuit.and_then(|id| job.installation.circuit(id));
        let point = step.key.subject.place().and_then(|place| circuit?.point(place.point()?));
        let (multiple, half_cycle) = match step.key.test {
            Test::RcdTrip { multiple, half_cycle } => (Some(multiple), Some(half_cycle)),
            _ => (None, None),
        };
        let at = At {
            board: job.installation.board(planned.board).map(|board| board.name.clone()),
            way: circuit.map(|circuit| circuit.way.clone()),
            point: point.map(|point| point.name.clone()),
            step: Some(step.slug.clone()),
        };
        let name = format!("{seed} {reference} {} {}", planned.circuit_or_board(), step.slug);
        all.push(Message {
            unit,
            between: step.key.pair.map(|pair| [pair.both().0, pair.both().1]),
            test_v: step.test_voltage.map(|volts| volts.get() as u16),
            multiple,
            half_cycle,
            at: Some(at),
            ..blank(reference, Uuid::new_v5(&job.id, name.as_bytes()), measured, shown)
        });
    }
    all
}
