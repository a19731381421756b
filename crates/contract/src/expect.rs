//! `proof expect`: what an ohmmeter will read on a circuit.

use super::numbers::{Length, Number, OrNull, Resistance, Size, TestTemperature};
use super::strict::Json;
use proof_physics::network::circuit;
use proof_physics::network::circuit::TwoSteps;
use proof_physics::network::description::{Description, Fault, OhmPerMetre, Point, Refused, SegmentName};
use proof_standard::conductor::Core;
use proof_standard::quantity::{Celsius, Metres, Ohms, SquareMillimetres};
use proof_standard::shape::Shape;
use serde::Deserialize;
use serde_json::{Value, json};

/// The document.
#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object that describes a circuit")]
pub(crate) struct ExpectRequest {
    shape: Shape,
    line_mm2: Size,
    neutral_mm2: Size,
    cpc_mm2: Size,
    conductor_temp_c: Option<Number<TestTemperature>>,
    points: Vec<PointAsked>,
    return_leg_m: Option<Number<Length>>,
    faults: Option<Vec<FaultAsked>>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with id and leg_m")]
struct PointAsked {
    id: String,
    spur_from: Option<String>,
    leg_m: Number<Length>,
}

#[derive(Deserialize)]
#[serde(rename = "by kind", rename_all = "snake_case", deny_unknown_fields, expecting = "an object with a kind")]
enum FaultAsked {
    HighResistanceJoint { conductor: Core, after: Option<String>, into: Option<String>, ohm: Number<Resistance> },
    Open { conductor: Core, after: Option<String>, into: Option<String> },
    Cross { conductors: Vec<Json>, after: Option<String>, into: Option<String> },
    Contact { at: String, ohm: OrNull<Resistance> },
    Swap { at: String, conductors: Vec<Json> },
    Bridge { from: String, to: String, leg_m: Number<Length> },
    ParallelEarth { between: Vec<Json>, ohm: Number<Resistance> },
    OwnLeg {},
}

/// Answers one document.
pub(crate) fn answer(asked: ExpectRequest) -> Result<Value, Refused> {
    let description = describe(asked)?;
    let expected = circuit::expect(&description)?;
    let two = |read: &TwoSteps| json!({"r1_rn": read.r1_rn, "r1_r2": read.r1_r2});
    let mut output = serde_json::Map::new();
    if let Some(ends) = expected.end_to_end {
        output.insert("end_to_end".into(), json!({"r1": ends.r1, "rn": ends.rn, "r2": ends.r2}));
    }
    if let Some(check) = &expected.board_check {
        output.insert("board_check".into(), two(check));
    }
    let points = description.points.iter().zip(&expected.points);
    let points = points.map(|(point, read)| json!({"id": point.id, "r1_rn": read.r1_rn, "r1_r2": read.r1_r2}));
    output.insert("points".into(), points.collect());
    Ok(output.into())
}

impl Number<Length> {
    /// The length.
    pub(crate) fn metres(&self) -> Metres {
        Metres::new(self.0).unwrap_or(Metres::literal(0.0))
    }
}

fn ohms(number: &Number<Resistance>) -> Ohms {
    Ohms::new(number.0).unwrap_or(Ohms::literal(0.0))
}

fn describe(asked: ExpectRequest) -> Result<Description, Refused> {
    let sizes = [&asked.line_mm2, &asked.neutral_mm2, &asked.cpc_mm2].map(|size| size.0);
    let temperature = asked.conductor_temp_c.and_then(|given| Celsius::new(given.0).ok());
    let faults = asked.faults.unwrap_or_default().into_iter().enumerate();
    Ok(Description {
        shape: asked.shape,
        cores: copper(sizes, temperature.unwrap_or(Celsius::literal(20.0)))?,
        points: asked
            .points
            .into_iter()
            .map(|point| Point { leg: point.leg_m.metres(), id: point.id, spur_from: point.spur_from })
            .collect(),
        return_leg: asked.return_leg_m.as_ref().map(Number::metres),
        faults: faults.map(|(index, fault)| fault_of(fault, &format!("faults[{index}]"))).collect::<Result<_, _>>()?,
    })
}

/// Ω/m of line, neutral and CPC.
pub(super) fn copper(sizes: [SquareMillimetres; 3], temperature: Celsius) -> Result<OhmPerMetre, Refused> {
    OhmPerMetre::copper(sizes, temperature).map_err(|(core, error)| {
        let key = ["line_mm2", "neutral_mm2", "cpc_mm2"][core.index()];
        Refused::new(key, error.given_mm2.to_string(), error.allowed)
    })
}

fn fault_of(asked: FaultAsked, path: &str) -> Result<Fault, Refused> {
    Ok(match asked {
        FaultAsked::HighResistanceJoint { conductor, after, into, ohm } => {
            Fault::HighResistanceJoint { conductor, segment: segment(after, into, path)?, ohm: ohms(&ohm) }
        }
        FaultAsked::Open { conductor, after, into } => Fault::Open { conductor, segment: segment(after, into, path)? },
        FaultAsked::Cross { conductors, after, into } => {
            Fault::Cross { conductors: two_cores(&conductors, path)?, segment: segment(after, into, path)? }
        }
        FaultAsked::Contact { at, ohm } => Fault::Contact { at, ohm: ohm.0.and_then(|ohm| Ohms::new(ohm).ok()) },
        FaultAsked::Swap { at, conductors } => Fault::Swap { at, conductors: two_cores(&conductors, path)? },
        FaultAsked::Bridge { from, to, leg_m } => Fault::Bridge { from, to, leg: leg_m.metres() },
        FaultAsked::ParallelEarth { between, ohm } => {
            Fault::ParallelEarth { between: two_places(&between, path)?, ohm: ohms(&ohm) }
        }
        FaultAsked::OwnLeg {} => Fault::OwnLeg,
    })
}

fn two_cores(list: &[Json], path: &str) -> Result<[Core; 2], Refused> {
    let core = |json: &Json| match json {
        Json::Text(name) => Core::ALL.into_iter().find(|core| core.letter() == name),
        _ => None,
    };
    match list {
        [a, b] => core(a).zip(core(b)).filter(|(a, b)| a != b).map(|(a, b)| [a, b]),
        _ => None,
    }
    .ok_or_else(|| {
        let allowed = "two different conductors of L, N, E, such as [\"L\",\"N\"]";
        Refused::new(format!("{path}.conductors"), written(list), allowed)
    })
}

fn two_places(list: &[Json], path: &str) -> Result<[String; 2], Refused> {
    let [Json::Text(a), Json::Text(b)] = list else {
        let allowed = "two places, each board or the id of a point";
        return Err(Refused::new(format!("{path}.between"), written(list), allowed));
    };
    Ok([a.clone(), b.clone()])
}

fn written(list: &[Json]) -> String {
    format!("[{}]", list.iter().map(Json::shown).collect::<Vec<_>>().join(","))
}

fn segment(after: Option<String>, into: Option<String>, path: &str) -> Result<SegmentName, Refused> {
    let refuse = |given: &str| {
        Err(Refused::new(format!("{path}.after"), given, "a segment named by exactly one of after and into"))
    };
    match (after, into) {
        (Some(_), Some(_)) => refuse("after and into together"),
        (None, None) => refuse("neither after nor into"),
        (Some(after), None) => Ok(SegmentName::After(after)),
        (None, Some(into)) => Ok(SegmentName::Into(into)),
    }
}
