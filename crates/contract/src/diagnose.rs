//! `proof diagnose`: what best explains the readings taken.

use super::expect::{copper_sizes, core_letter, metres, shape};
use super::strict::{Fields, Json, Range};
use proof_core::conductor::Core;
use proof_core::diagnosis::{Case, Diagnosis, Kind, ReadPoint, Shown, diagnose};
use proof_core::installation::Shape;
use proof_core::network::description::{OhmPerMetre, Refused};
use proof_core::quantity::{Celsius, Ohms};
use serde_json::{Map, Value, json};

const FIGURE: Range = Range::between(0.0, Ohms::MAX, "Ω");
const KEYS: &[&str] = &["circuit", "end_to_end", "board_check", "points"];
const CIRCUIT_KEYS: &[&str] = &["shape", "line_mm2", "neutral_mm2", "cpc_mm2", "length_m"];
const POINT_KEYS: &[&str] = &["id", "r1_rn", "r1_r2", "leg_m", "spur_from"];

/// Answers one document.
pub(crate) fn answer(input: &Json) -> Result<Value, Refused> {
    Ok(shown(&diagnose(&case(input)?)?))
}

fn case(input: &Json) -> Result<Case, Refused> {
    let fields = Fields::open(input, "", KEYS)?;
    let given =
        fields.get("circuit").ok_or_else(|| fields.refuse("circuit", "an object that describes the circuit"))?;
    let circuit = Fields::open(given, "circuit", CIRCUIT_KEYS)?;
    let shape = shape(&circuit)?;
    let sizes = copper_sizes(&circuit)?;
    let cores = OhmPerMetre::copper(sizes, Celsius::literal(20.0))
        .map_err(|(_, error)| Refused::new("circuit.cpc_mm2", error.given_mm2.to_string(), error.allowed))?;
    let length = circuit.get("length_m").map(|_| metres(&circuit, "length_m")).transpose()?;
    let points = fields
        .list("points", "a list of points, each with id and what was read")?
        .iter()
        .enumerate()
        .map(|(index, json)| point(json, index))
        .collect::<Result<_, _>>()?;
    Ok(Case {
        shape,
        cores,
        cpc_mm2: sizes[2],
        length,
        end_to_end: group(&fields, "end_to_end", ["r1", "rn", "r2"], shape)?,
        board_check: group(&fields, "board_check", ["r1_rn", "r1_r2"], shape)?,
        points,
    })
}

/// A figure, over range, or not taken.
fn figure(fields: &Fields<'_>, name: &str) -> Result<Option<Shown>, Refused> {
    match fields.get(name) {
        None => Ok(None),
        Some(Json::Null) => Ok(Some(None)),
        Some(json) => FIGURE.take(json).map(|ohm| Some(Some(ohm))).ok_or_else(|| {
            fields.refuse(name, &format!("{}, null for over range, or left out when not taken", FIGURE.text()))
        }),
    }
}

/// A group of figures that only a ring has.
fn group<const N: usize>(
    fields: &Fields<'_>,
    name: &str,
    keys: [&str; N],
    shape: Shape,
) -> Result<[Option<Shown>; N], Refused> {
    let mut figures = [None; N];
    let Some(json) = fields.get(name) else { return Ok(figures) };
    if shape == Shape::Radial {
        return Err(fields.refuse(name, "figures of a ring only: leave it out on a radial"));
    }
    let group = Fields::open(json, name, &keys)?;
    for (one, key) in figures.iter_mut().zip(keys) {
        *one = figure(&group, key)?;
    }
    Ok(figures)
}

fn point(json: &Json, index: usize) -> Result<ReadPoint, Refused> {
    let fields = Fields::open(json, &format!("points[{index}]"), POINT_KEYS)?;
    Ok(ReadPoint {
        id: fields.text("id", "a name")?.to_owned(),
        spur_from: fields.optional_text("spur_from", "the id of a point of this circuit")?.map(str::to_owned),
        leg: fields.get("leg_m").map(|_| metres(&fields, "leg_m")).transpose()?,
        r1_rn: figure(&fields, "r1_rn")?,
        r1_r2: figure(&fields, "r1_r2")?,
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
    let mut entry = named(kind.word());
    let letters = |cores: &[Core; 2]| json!(cores.map(core_letter));
    let mut put = |key: &str, value: Value| entry.insert(key.to_owned(), value);
    match kind {
        Kind::Spur { points } => {
            put("points", json!(points));
        }
        Kind::HighResistanceJoint { conductor, after } | Kind::Open { conductor, after } => {
            put("conductor", json!(core_letter(*conductor)));
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
        Kind::Bridge { .. } | Kind::OwnLeg | Kind::ParallelEarth { .. } | Kind::WrongLength | Kind::WrongCpc { .. } => {
        }
    }
    entry
}
