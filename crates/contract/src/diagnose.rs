//! `proof diagnose`: what best explains the readings taken.

use super::expect::copper;
use super::numbers::{Length, Number, OrNull, Resistance, Size};
use proof_physics::diagnosis::{Case, Diagnosis, Kind, ReadPoint, ShownOhms, diagnose};
use proof_physics::network::description::Refused;
use proof_standard::conductor::Core;
use proof_standard::quantity::Celsius;
use proof_standard::shape::Shape;
use serde::Deserialize;
use serde_json::{Map, Value, json};

/// The document.
#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with circuit and points")]
pub(crate) struct DiagnoseRequest {
    circuit: CircuitAsked,
    end_to_end: Option<EndToEnd>,
    board_check: Option<BoardCheck>,
    points: Vec<PointAsked>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object that describes the circuit")]
struct CircuitAsked {
    shape: Shape,
    line_mm2: Size,
    neutral_mm2: Size,
    cpc_mm2: Size,
    length_m: Option<Number<Length>>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with r1, rn and r2")]
struct EndToEnd {
    r1: Figure,
    rn: Figure,
    r2: Figure,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with r1_rn and r1_r2")]
struct BoardCheck {
    r1_rn: Figure,
    r1_r2: Figure,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with id and what was read")]
struct PointAsked {
    id: String,
    r1_rn: Figure,
    r1_r2: Figure,
    leg_m: Option<Number<Length>>,
    spur_from: Option<String>,
}

/// A figure, over range (null), or not taken.
type Figure = Option<OrNull<Resistance>>;

fn figure(given: Figure) -> Option<ShownOhms> {
    given.map(|figure| figure.0)
}

/// Answers one document.
pub(crate) fn answer(asked: DiagnoseRequest) -> Result<Value, Refused> {
    Ok(shown(&diagnose(&case(asked)?)?))
}

fn case(asked: DiagnoseRequest) -> Result<Case, Refused> {
    let circuit = asked.circuit;
    let sizes = [&circuit.line_mm2, &circuit.neutral_mm2, &circuit.cpc_mm2].map(|size| size.0);
    if circuit.shape == Shape::Radial {
        let given = [("end_to_end", asked.end_to_end.is_some()), ("board_check", asked.board_check.is_some())];
        if let Some((key, _)) = given.into_iter().find(|(_, given)| *given) {
            return Err(Refused::new(key, "an object", "figures of a ring only: leave it out on a radial"));
        }
    }
    let cores = copper(sizes, Celsius::literal(20.0))
        .map_err(|refused| Refused::new(format!("circuit.{}", refused.key), refused.given, refused.allowed))?;
    Ok(Case {
        shape: circuit.shape,
        cores,
        cpc_mm2: sizes[2],
        length: circuit.length_m.as_ref().map(Number::metres),
        end_to_end: asked.end_to_end.map_or([None; 3], |ends| [ends.r1, ends.rn, ends.r2].map(figure)),
        board_check: asked.board_check.map_or([None; 2], |check| [check.r1_rn, check.r1_r2].map(figure)),
        points: asked
            .points
            .into_iter()
            .map(|point| ReadPoint {
                id: point.id,
                spur_from: point.spur_from,
                leg: point.leg_m.as_ref().map(Number::metres),
                r1_rn: figure(point.r1_rn),
                r1_r2: figure(point.r1_r2),
            })
            .collect(),
    })
}

fn shown(diagnosis: &Diagnosis) -> Value {
    let explanations: Vec<Value> = diagnosis
        .explanations
        .iter()
        .map(|one| {
            let mut entry = match &one.kinds[..] {
                [] => named("healthy"),
                [kind] => part(kind, one.at[0].size),
                kinds => {
                    let mut several = named("several");
                    let parts = kinds.iter().zip(&one.at).map(|(kind, at)| Value::Object(part(kind, at.size)));
                    several.insert("parts".into(), parts.collect());
                    several
                }
            };
            entry.insert("share".into(), json!(one.share));
            Value::Object(entry)
        })
        .collect();
    json!({"explanations": explanations, "next": {"do": diagnosis.next.what, "because": diagnosis.next.because}})
}

fn named(kind: &str) -> Map<String, Value> {
    Map::from_iter([("kind".to_owned(), json!(kind))])
}

fn part(kind: &Kind, size: f64) -> Map<String, Value> {
    let mut entry = named(kind.label());
    let letters = |cores: &[Core; 2]| json!(cores.map(Core::letter));
    let mut put = |key: &str, value: Value| entry.insert(key.to_owned(), value);
    match kind {
        Kind::Spur { points } => {
            put("points", json!(points));
        }
        Kind::HighResistanceJoint { conductor, after } | Kind::Open { conductor, after } => {
            put("conductor", json!(conductor.letter()));
            if let Some(after) = after {
                put("after", json!(after));
            }
        }
        Kind::Cross { conductors, after } => {
            put("conductors", letters(conductors));
            if let Some(after) = after {
                put("after", json!(after));
            }
        }
        Kind::Contact { at } | Kind::SwitchOff { at } => {
            put("at", json!(at));
        }
        Kind::Swap { at, conductors } => {
            put("at", json!(at));
            put("conductors", letters(conductors));
        }
        Kind::LeadsNotNulled => {
            put("ohm", json!(size));
        }
        Kind::OwnLeg { step } => {
            if let Some(step) = step {
                put("steps", json!([step]));
            }
        }
        Kind::Bridge { .. } | Kind::ParallelEarth { .. } | Kind::WrongLength | Kind::WrongCpc { .. } => {}
    }
    entry
}
