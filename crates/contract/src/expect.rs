//! `proof expect`: what an ohmmeter will read on a circuit.

use super::strict::{Fields, Json, Range};
use proof_core::conductor::Core;
use proof_core::installation::Shape;
use proof_core::network::circuit;
use proof_core::network::circuit::TwoSteps;
use proof_core::network::description::{Description, Fault, OhmPerMetre, Point, Refused, SegmentName};
use proof_core::quantity::{Celsius, Metres, Ohms, SquareMillimetres};
use proof_core::standard::conductors::COPPER_MOHM_PER_M;
use serde_json::{Value, json};

const LENGTH: Range = Range::between(Metres::MIN, Metres::MAX, "m");
const RESISTANCE: Range = Range::between(Ohms::MIN, Ohms::MAX, "Ω");
const TEMPERATURE: Range = Range::between(Celsius::MIN, Celsius::MAX, "°C");
const CORES: &str = "L, N or E";

/// Answers one document.
pub(crate) fn answer(input: &Json) -> Result<Value, Refused> {
    let expected = circuit::expect(&describe(input)?)?;
    let two = |read: &TwoSteps| json!({"r1_rn": read.r1_rn, "r1_r2": read.r1_r2});
    let mut output = serde_json::Map::new();
    if let Some(ends) = expected.end_to_end {
        output.insert("end_to_end".into(), json!({"r1": ends.r1, "rn": ends.rn, "r2": ends.r2}));
    }
    if let Some(check) = &expected.board_check {
        output.insert("board_check".into(), two(check));
    }
    let ids = Fields::open(input, "", KEYS)?.list("points", "a list of points")?;
    let points: Vec<Value> = ids
        .iter()
        .zip(&expected.points)
        .map(|(point, read)| {
            let id = Fields::open(point, "points", POINT_KEYS).and_then(|fields| fields.text("id", "a name"))?;
            Ok(json!({"id": id, "r1_rn": read.r1_rn, "r1_r2": read.r1_r2}))
        })
        .collect::<Result<_, Refused>>()?;
    output.insert("points".into(), points.into());
    Ok(output.into())
}

const KEYS: &[&str] =
    &["shape", "line_mm2", "neutral_mm2", "cpc_mm2", "conductor_temp_c", "points", "return_leg_m", "faults"];
const POINT_KEYS: &[&str] = &["id", "spur_from", "leg_m"];

const SIZES: [&str; 3] = ["line_mm2", "neutral_mm2", "cpc_mm2"];

/// Ring or radial.
pub(super) fn shape(fields: &Fields<'_>) -> Result<Shape, Refused> {
    fields.choice("shape", "ring or radial", |name| match name {
        "ring" => Some(Shape::Ring),
        "radial" => Some(Shape::Radial),
        _ => None,
    })
}

/// Sizes of line, neutral and CPC, copper.
pub(super) fn copper_sizes(fields: &Fields<'_>) -> Result<[SquareMillimetres; 3], Refused> {
    let allowed = COPPER_MOHM_PER_M.map(|(mm2, _)| mm2.to_string()).join(", ");
    let mut sizes = [SquareMillimetres::literal(1.0); 3];
    for (size, name) in sizes.iter_mut().zip(SIZES) {
        let refuse = || fields.refuse(name, &format!("a copper size: {allowed} mm²"));
        let given = fields.number(name, &Range::between(f64::MIN, f64::MAX, "mm²")).map_err(|_| refuse())?;
        let known = COPPER_MOHM_PER_M.iter().find(|(mm2, _)| *mm2 == given);
        *size = known.and_then(|_| SquareMillimetres::new(given).ok()).ok_or_else(refuse)?;
    }
    Ok(sizes)
}

/// The letter of a core.
pub(super) const fn core_letter(core: Core) -> &'static str {
    match core {
        Core::L => "L",
        Core::N => "N",
        Core::E => "E",
    }
}

fn describe(input: &Json) -> Result<Description, Refused> {
    let fields = Fields::open(input, "", KEYS)?;
    let shape = shape(&fields)?;
    let sizes = copper_sizes(&fields)?;
    let temperature = fields.optional_number("conductor_temp_c", &TEMPERATURE)?.unwrap_or(20.0);
    let temperature = Celsius::new(temperature).map_err(|_| fields.refuse("conductor_temp_c", &TEMPERATURE.text()))?;
    let cores = OhmPerMetre::copper(sizes, temperature)
        .map_err(|(core, error)| Refused::new(SIZES[core.index()], error.given_mm2.to_string(), error.allowed))?;
    let points = fields
        .list("points", "a list of points, each with id and leg_m")?
        .iter()
        .enumerate()
        .map(|(index, json)| point(json, index))
        .collect::<Result<_, _>>()?;
    let return_leg = fields.get("return_leg_m").map(|_| metres(&fields, "return_leg_m")).transpose()?;
    let faults = match fields.get("faults") {
        None => Vec::new(),
        Some(_) => fields
            .list("faults", "a list of faults")?
            .iter()
            .enumerate()
            .map(|(index, json)| fault(json, index))
            .collect::<Result<_, _>>()?,
    };
    Ok(Description { shape, cores, points, return_leg, faults })
}

/// A length that must be there.
pub(super) fn metres(fields: &Fields<'_>, name: &str) -> Result<Metres, Refused> {
    Metres::new(fields.number(name, &LENGTH)?).map_err(|_| fields.refuse(name, &LENGTH.text()))
}

fn ohms(fields: &Fields<'_>, name: &str) -> Result<Ohms, Refused> {
    Ohms::new(fields.number(name, &RESISTANCE)?).map_err(|_| fields.refuse(name, &RESISTANCE.text()))
}

fn point(json: &Json, index: usize) -> Result<Point, Refused> {
    let fields = Fields::open(json, &format!("points[{index}]"), POINT_KEYS)?;
    Ok(Point {
        id: fields.text("id", "a name")?.to_owned(),
        spur_from: fields.optional_text("spur_from", "the id of a point of this circuit")?.map(str::to_owned),
        leg: metres(&fields, "leg_m")?,
    })
}

const KINDS: &[(&str, &[&str])] = &[
    ("high_resistance_joint", &["kind", "conductor", "after", "into", "ohm"]),
    ("open", &["kind", "conductor", "after", "into"]),
    ("cross", &["kind", "conductors", "after", "into"]),
    ("contact", &["kind", "at", "ohm"]),
    ("swap", &["kind", "at", "conductors"]),
    ("bridge", &["kind", "from", "to", "leg_m"]),
    ("parallel_earth", &["kind", "between", "ohm"]),
    ("own_leg", &["kind"]),
];

fn fault(json: &Json, index: usize) -> Result<Fault, Refused> {
    let path = format!("faults[{index}]");
    let kinds = KINDS.iter().map(|(kind, _)| *kind).collect::<Vec<_>>().join(", ");
    let Json::Object(entries) = json else {
        return Err(Refused::new(path, json.shown(), format!("an object whose kind is one of {kinds}")));
    };
    let given = entries.iter().find(|(key, _)| key == "kind").map(|(_, value)| value);
    let named = |value: &Json| KINDS.iter().find(|(kind, _)| matches!(value, Json::Text(text) if text == kind));
    let (kind, keys) = given.and_then(named).ok_or_else(|| {
        Refused::new(format!("{path}.kind"), given.map_or("nothing".to_owned(), Json::shown), format!("one of {kinds}"))
    })?;
    let fields = Fields::open(json, &path, keys)?;
    let at = |name: &str| fields.text(name, "the id of a point").map(str::to_owned);
    Ok(match *kind {
        "high_resistance_joint" => Fault::HighResistanceJoint {
            conductor: conductor(&fields)?,
            segment: segment(&fields)?,
            ohm: ohms(&fields, "ohm")?,
        },
        "open" => Fault::Open { conductor: conductor(&fields)?, segment: segment(&fields)? },
        "cross" => Fault::Cross { conductors: conductors(&fields)?, segment: segment(&fields)? },
        "contact" => {
            let ohm = match fields.get("ohm") {
                Some(Json::Null) => None,
                _ => Some(ohms(&fields, "ohm").map_err(|refused| {
                    Refused::new(
                        refused.key,
                        refused.given,
                        format!("{}, or null for a switch that is off", refused.allowed),
                    )
                })?),
            };
            Fault::Contact { at: at("at")?, ohm }
        }
        "swap" => Fault::Swap { at: at("at")?, conductors: conductors(&fields)? },
        "bridge" => Fault::Bridge { from: at("from")?, to: at("to")?, leg: metres(&fields, "leg_m")? },
        "parallel_earth" => Fault::ParallelEarth { between: two_places(&fields)?, ohm: ohms(&fields, "ohm")? },
        _ => Fault::OwnLeg,
    })
}

fn core(name: &str) -> Option<Core> {
    match name {
        "L" => Some(Core::L),
        "N" => Some(Core::N),
        "E" => Some(Core::E),
        _ => None,
    }
}

fn conductor(fields: &Fields<'_>) -> Result<Core, Refused> {
    fields.choice("conductor", CORES, core)
}

fn conductors(fields: &Fields<'_>) -> Result<[Core; 2], Refused> {
    let allowed = "two different conductors of L, N, E, such as [\"L\",\"N\"]";
    let list = fields.list("conductors", allowed)?;
    let cores: Vec<Core> =
        list.iter().filter_map(|json| if let Json::Text(name) = json { core(name) } else { None }).collect();
    match (list.len(), cores.as_slice()) {
        (2, [a, b]) if a != b => Ok([*a, *b]),
        _ => Err(Refused::new(fields.key("conductors"), written(list), allowed)),
    }
}

fn written(list: &[Json]) -> String {
    format!("[{}]", list.iter().map(Json::shown).collect::<Vec<_>>().join(","))
}

fn two_places(fields: &Fields<'_>) -> Result<[String; 2], Refused> {
    let allowed = "two places, each board or the id of a point";
    let list = fields.list("between", allowed)?;
    match list {
        [Json::Text(a), Json::Text(b)] => Ok([a.clone(), b.clone()]),
        _ => Err(Refused::new(fields.key("between"), written(list), allowed)),
    }
}

fn segment(fields: &Fields<'_>) -> Result<SegmentName, Refused> {
    let allowed = "a segment named by exactly one of after and into";
    match (fields.get("after"), fields.get("into")) {
        (Some(_), Some(_)) => Err(Refused::new(fields.key("after"), "after and into together", allowed)),
        (Some(_), None) => Ok(SegmentName::After(fields.text("after", "board or the id of a point")?.to_owned())),
        (None, Some(_)) => Ok(SegmentName::Into(fields.text("into", "board or the id of a point")?.to_owned())),
        (None, None) => Err(Refused::new(fields.key("after"), "neither after nor into", allowed)),
    }
}
