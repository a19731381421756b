//! `proof calc NAME`: the arithmetic of the trade, one document in, one out.

use super::numbers::{
    CableSize, Capacity, Currents, Exact, FaultCurrent, FaultTime, Impedance, KFactor, Length, Lines, Loop, Number,
    OneOf, OrNoTrip, PhaseCount, Rating, Reading, Residual, Size, StandardSizes, TestTemperature, Times, TripTime,
    WorkingTemperature,
};
use super::strict::{Json, read};
use proof_physics::network::description::Refused;
use proof_standard::calc::electrode::electrode;
use proof_standard::calc::fault_current::{FaultCurrentMethod, Measured, Phases, fault_current};
use proof_standard::calc::insulation::{combine, pairs};
use proof_standard::calc::rcd::{RcdTest, RcdVerdict, Trip};
use proof_standard::calc::{loop_impedance, rcd, ring};
use proof_standard::conductor::Material;
use proof_standard::limits::conductors::{mohm_per_m, resistance, table};
use proof_standard::limits::devices::{DeviceStandard, Disconnection, MaximumZs, NoMaximum, TripType, maximum_zs};
use proof_standard::limits::earthing::{adiabatic_mm2, bond_reading, earthing_and_bonding, next_standard_size};
use proof_standard::limits::edition::RcdSchool;
use proof_standard::limits::rcd::{RcdKind, TripWindow};
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::quantity::{Amps, Celsius, Kiloamps, Milliamps, Millis, SquareMillimetres, approximate};
use rust_decimal::{Decimal, dec};
use serde::Deserialize;
use serde::de::DeserializeOwned;
use serde_json::{Value, json};

/// A calculator: its name, and its answer to a document.
type Calculator = (&'static str, fn(&[u8]) -> Result<Value, Refused>);

/// The calculators.
pub(crate) const ALL: [Calculator; 11] = [
    ("conductor", |document| asked(document, conductor)),
    ("ring", |document| asked(document, ring_of)),
    ("max-zs", |document| asked(document, max_zs)),
    ("loop", |document| asked(document, loop_of)),
    ("fault-current", |document| asked(document, fault)),
    ("ir-pairs", |document| asked(document, ir_pairs)),
    ("ir-combine", |document| asked(document, ir_combine)),
    ("rcd", |document| asked(document, rcd_of)),
    ("main-bonding", |document| asked(document, main_bonding)),
    ("adiabatic", |document| asked(document, adiabatic)),
    ("electrode", |document| asked(document, electrode_of)),
];

/// Most names of conductors, and most readings, of one document.
const MOST_CONDUCTORS: usize = 60;
const MOST_READINGS: usize = 10_000;

fn asked<T: DeserializeOwned>(document: &[u8], answer: fn(T) -> Result<Value, Refused>) -> Result<Value, Refused> {
    answer(read(document)?)
}

fn number(figure: impl Into<Decimal>) -> f64 {
    approximate(figure.into())
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with mm2 and length_m")]
struct Conductor {
    mm2: Number<CableSize>,
    material: Option<Material>,
    length_m: Number<Length>,
    temp_c: Option<Number<TestTemperature>>,
}

fn conductor(asked: Conductor) -> Result<Value, Refused> {
    let material = asked.material.unwrap_or_default();
    let refuse = || {
        let sizes: Vec<String> = table(material).iter().map(|(mm2, _)| mm2.to_string()).collect();
        Refused::new("mm2", asked.mm2.0.to_string(), format!("a size in the table: {} mm²", sizes.join(", ")))
    };
    let mm2 = SquareMillimetres::new(asked.mm2.0).map_err(|_| refuse())?;
    let temperature = asked.temp_c.and_then(|given| Celsius::new(given.0).ok()).unwrap_or(Celsius::literal(20.0));
    let per_metre = mohm_per_m(material, mm2).map_err(|_| refuse())?;
    let ohm = resistance(material, mm2, asked.length_m.metres(), temperature).map_err(|_| refuse())?;
    Ok(json!({"mohm_per_m": per_metre, "ohm": ohm.get()}))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with r1, rn, r2, line_mm2 and cpc_mm2")]
struct Ring {
    r1: Number<Impedance>,
    rn: Number<Impedance>,
    r2: Number<Impedance>,
    line_mm2: Size,
    cpc_mm2: Size,
}

fn ring_of(asked: Ring) -> Result<Value, Refused> {
    let Ring { r1, rn, r2, line_mm2, cpc_mm2 } = asked;
    let (line, cpc) = (line_mm2.0, cpc_mm2.0);
    let by_table = ring::r2_by_table(r1.0, line, cpc)
        .map_err(|error| Refused::new("cpc_mm2", cpc.get().to_string(), error.to_string()))?;
    Ok(json!({
        "r1_rn": ring::quarter(r1.0, rn.0),
        "r1_r2": ring::quarter(r1.0, r2.0),
        "r2_expected_size_ratio": ring::r2_by_size(r1.0, line, cpc),
        "r2_expected_table_ratio": by_table,
    }))
}

/// A device whose maximum Zs stands in the tables: one that trips by its settings is no question of a table.
struct Tabled(DeviceStandard);

impl<'de> Deserialize<'de> for Tabled {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        const NAMES: &[&str] = &["BS EN 60898", "BS EN 61009", "BS 88-2", "BS 88-3", "BS 3036", "BS 1362"];
        let name = String::deserialize(deserializer)?;
        let found = DeviceStandard::from_name(&name).filter(|found| DeviceStandard::TABLED.contains(found));
        found.map(Self).ok_or_else(|| serde::de::Error::unknown_variant(&name, NAMES))
    }
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with device, rating_a and disconnection_s")]
struct MaxZs {
    device: Tabled,
    r#type: Option<TripType>,
    rating_a: Exact<Rating>,
    disconnection_s: OneOf<Times>,
}

fn maximum(
    device: DeviceStandard,
    trip: Option<TripType>,
    rating: Amps,
    time: Disconnection,
) -> Result<MaximumZs, Refused> {
    maximum_zs(device, trip, rating.normalize(), time).map_err(|error| {
        let (key, given) = match error {
            NoMaximum::TypeWanted(_) | NoMaximum::TypeOnFuse(_) => {
                ("type", trip.map_or("nothing".to_owned(), |trip| format!("{:?}", trip.letter())))
            }
            NoMaximum::Rating { .. } => ("rating_a", rating.to_string()),
            NoMaximum::SettingWanted(_) => ("device", device.name().to_owned()),
            NoMaximum::FuseTime { .. } => ("disconnection_s", time.seconds().to_string()),
        };
        Refused::new(key, given, error.to_string())
    })
}

fn max_zs(asked: MaxZs) -> Result<Value, Refused> {
    let maximum = maximum(asked.device.0, asked.r#type, Amps(asked.rating_a.0), asked.disconnection_s.0)?;
    let mut output =
        json!({"printed_ohm": number(maximum.printed_ohm), "eighty_percent_ohm": number(maximum.eighty_percent_ohm)});
    if let Some(ia) = maximum.ia_a {
        output["ia_a"] = json!(number(ia));
    }
    Ok(output)
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with ze, r1_r2 and the device")]
struct LoopAsked {
    ze: Exact<Impedance>,
    r1_r2: Exact<Impedance>,
    device: Tabled,
    r#type: Option<TripType>,
    rating_a: Exact<Rating>,
    disconnection_s: OneOf<Times>,
    measured_zs: Option<Exact<Impedance>>,
    working_c: Option<Exact<WorkingTemperature>>,
    test_c: Option<Exact<TestTemperature>>,
}

fn loop_of(asked: LoopAsked) -> Result<Value, Refused> {
    let given = loop_impedance::Loop {
        ze: asked.ze.0,
        r1_r2: asked.r1_r2.0,
        measured_zs: asked.measured_zs.map(|given| given.0),
        working_c: asked.working_c.map_or(dec!(70), |given| given.0),
        test_c: asked.test_c.map_or(dec!(20), |given| given.0),
    };
    let maximum = maximum(asked.device.0, asked.r#type, Amps(asked.rating_a.0), asked.disconnection_s.0)?;
    let judged = loop_impedance::judge(&given, &maximum);
    Ok(json!({
        "zs_sum": number(judged.zs_sum),
        "limit_printed": number(maximum.printed_ohm),
        "limit_eighty": number(maximum.eighty_percent_ohm),
        "within_eighty": judged.within_eighty,
        "within_temperature": judged.within_temperature,
        "zs_at_working": number(judged.zs_at_working),
        "measured_below_ze": judged.measured_below_ze,
    }))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with line_neutral_ohm or line_neutral_ka, and phases")]
struct Fault {
    line_neutral_ohm: Option<Lines<Loop>>,
    line_neutral_ka: Option<Lines<Currents>>,
    line_earth_ohm: Option<Lines<Loop>>,
    line_earth_ka: Option<Lines<Currents>>,
    phases: OneOf<PhaseCount>,
    school: Option<FaultCurrentMethod>,
    line_line_ohm: Option<Exact<Loop>>,
    breaking_capacity_ka: Option<Exact<Capacity>>,
}

/// Loops or currents, not both.
fn measured(
    ohm: Option<Lines<Loop>>,
    ka: Option<Lines<Currents>>,
    keys: [&str; 2],
) -> Result<Option<Measured>, Refused> {
    match (ohm, ka) {
        (Some(_), Some(_)) => {
            Err(Refused::new(keys[0], format!("{} and {} together", keys[0], keys[1]), "one of the two"))
        }
        (Some(loops), None) => Ok(Some(Measured::Ohms(loops.0))),
        (None, Some(currents)) => Ok(Some(Measured::Kiloamps(currents.0.into_iter().map(Kiloamps).collect()))),
        (None, None) => Ok(None),
    }
}

fn fault(asked: Fault) -> Result<Value, Refused> {
    let keys = ["line_neutral_ohm", "line_neutral_ka"];
    let line_neutral = measured(asked.line_neutral_ohm, asked.line_neutral_ka, keys)?
        .ok_or_else(|| Refused::new(keys[0], "nothing", keys.join(" or ")))?;
    let line_earth = measured(asked.line_earth_ohm, asked.line_earth_ka, ["line_earth_ohm", "line_earth_ka"])?;
    let line_line = asked.line_line_ohm.map(|given| given.0);
    let refuse = |allowed: &str| {
        Refused::new("line_line_ohm", line_line.map_or("nothing".to_owned(), |ohm| ohm.to_string()), allowed)
    };
    let phases = match asked.phases.0 {
        1 => Phases::Single,
        _ => Phases::Three(asked.school.unwrap_or_default(), line_line),
    };
    if line_line.is_some() && !matches!(phases, Phases::Three(FaultCurrentMethod::LineLine, _)) {
        return Err(refuse("only with phases 3 and school line_line"));
    }
    let capacity = asked.breaking_capacity_ka.map(|given| Kiloamps(given.0));
    let found = fault_current(&line_neutral, line_earth.as_ref(), phases, capacity)
        .map_err(|_| refuse("the line–line loop, in Ω, for the school line_line"))?;
    Ok(json!({
        "pscc_ka": number(found.pscc_ka),
        "pefc_ka": found.pefc_ka.map(number),
        "recorded_ka": number(found.recorded_ka),
        "within": found.within,
        "warnings": found.warnings.iter().map(ToString::to_string).collect::<Vec<_>>(),
    }))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with conductors")]
struct Pairs {
    conductors: Vec<Json>,
}

fn ir_pairs(asked: Pairs) -> Result<Value, Refused> {
    let list = &asked.conductors;
    let refuse = |given: String| {
        let allowed = format!("a list of 2 to {MOST_CONDUCTORS} different names, earth last, neutral before it");
        Err(Refused::new("conductors", given, allowed))
    };
    if !(2..=MOST_CONDUCTORS).contains(&list.len()) {
        return refuse(format!("a list of {}", list.len()));
    }
    let mut names: Vec<&str> = Vec::new();
    for json in list {
        match json {
            Json::Text(name) if name.is_empty() => return refuse("an empty name".to_owned()),
            Json::Text(name) if names.contains(&name.as_str()) => return refuse(format!("{name:?} twice")),
            Json::Text(name) => names.push(name),
            other => return refuse(other.shown()),
        }
    }
    Ok(json!({"pairs": pairs(&names)}))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with mohm")]
struct Parallel {
    mohm: Vec<Reading>,
}

fn ir_combine(asked: Parallel) -> Result<Value, Refused> {
    if !(1..=MOST_READINGS).contains(&asked.mohm.len()) {
        let allowed = format!("a list of 1 to {MOST_READINGS} readings");
        return Err(Refused::new("mohm", format!("a list of {}", asked.mohm.len()), allowed));
    }
    let readings: Vec<_> = asked.mohm.into_iter().map(|reading| reading.0).collect();
    let (at_least, at_most) = combine(&readings);
    Ok(json!({"at_least_mohm": at_least, "at_most_mohm": at_most}))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with idn_ma, kind and readings")]
struct Rcd {
    idn_ma: Exact<Residual>,
    kind: RcdKind,
    school: Option<RcdSchool>,
    readings: Trips,
}

type TripAsked = Option<OrNoTrip<TripTime>>;

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with any of half_0, half_180, one_0, one_180, five_0, five_180")]
struct Trips {
    half_0: TripAsked,
    half_180: TripAsked,
    one_0: TripAsked,
    one_180: TripAsked,
    five_0: TripAsked,
    five_180: TripAsked,
}

#[expect(clippy::unnecessary_wraps, reason = "answers like the others")]
fn rcd_of(asked: Rcd) -> Result<Value, Refused> {
    let Trips { half_0, half_180, one_0, one_180, five_0, five_180 } = asked.readings;
    let given = [half_0, half_180, one_0, one_180, five_0, five_180];
    let readings: Vec<(RcdTest, Trip)> = RcdTest::ALL
        .into_iter()
        .zip(given)
        .filter_map(|(test, trip)| Some((test, trip?.0.map_or(Trip::NoTrip, |ms| Trip::Ms(Millis(ms))))))
        .collect();
    let judged = rcd::judge(asked.kind, Milliamps(asked.idn_ma.0), asked.school.unwrap_or_default(), &readings);
    let findings: Vec<Value> = judged
        .findings
        .iter()
        .map(|finding| {
            let (min, max, no_trip) = match finding.window {
                TripWindow::NoTrip => (None, None, true),
                TripWindow::Between { min_ms, max_ms } => (min_ms.map(number), Some(number(max_ms)), false),
            };
            let value = match finding.value {
                Trip::Ms(ms) => json!(number(ms)),
                Trip::NoTrip => json!("no_trip"),
            };
            json!({"test": finding.test.key(), "min_ms": min, "max_ms": max, "must_not_trip": no_trip, "value": value, "ok": finding.ok})
        })
        .collect();
    Ok(json!({
        "verdict": match judged.verdict {
            RcdVerdict::Pass => "pass",
            RcdVerdict::Fail => "fail",
            RcdVerdict::Incomplete => "incomplete",
        },
        "recorded_one_ms": judged.recorded_one_ms.map(number),
        "recorded_five_ms": judged.recorded_five_ms.map(number),
        "findings": findings,
        "missing": judged.missing.iter().map(|test| test.key()).collect::<Vec<_>>(),
    }))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with system, line_mm2, neutral_mm2 and length_m")]
struct Bonding {
    system: EarthingSystem,
    line_mm2: OneOf<StandardSizes>,
    neutral_mm2: OneOf<StandardSizes>,
    length_m: Number<Length>,
}

fn main_bonding(asked: Bonding) -> Result<Value, Refused> {
    let (earthing, bonding) = earthing_and_bonding(asked.system, asked.line_mm2.0, asked.neutral_mm2.0);
    let per_metre = SquareMillimetres::new(bonding).ok().and_then(|mm2| mohm_per_m(Material::Copper, mm2).ok());
    let per_metre = per_metre.ok_or_else(|| {
        Refused::new("neutral_mm2", asked.neutral_mm2.0.to_string(), "a size whose bond stands in the resistance table")
    })?;
    let (expected, limit) = bond_reading(per_metre, asked.length_m.metres());
    Ok(json!({"earthing_mm2": earthing, "bonding_mm2": bonding, "ohm_expected": expected, "ohm_limit": limit}))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with fault_a, time_s and k")]
struct Adiabatic {
    fault_a: Number<FaultCurrent>,
    time_s: Number<FaultTime>,
    k: Number<KFactor>,
}

#[expect(clippy::unnecessary_wraps, reason = "answers like the others")]
fn adiabatic(asked: Adiabatic) -> Result<Value, Refused> {
    let mm2 = adiabatic_mm2(asked.fault_a.0, asked.time_s.0, asked.k.0);
    let largest = table(Material::Copper).last().map_or(0.0, |(mm2, _)| *mm2);
    Ok(json!({"mm2": mm2, "next_size_mm2": next_standard_size(mm2).filter(|size| *size <= largest)}))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields, expecting = "an object with ra_ohm and idn_ma")]
struct Electrode {
    ra_ohm: Exact<Impedance>,
    idn_ma: Exact<Residual>,
}

#[expect(clippy::unnecessary_wraps, reason = "answers like the others")]
fn electrode_of(asked: Electrode) -> Result<Value, Refused> {
    let judged = electrode(asked.ra_ohm.0, Milliamps(asked.idn_ma.0));
    Ok(json!({
        "touch_v": number(judged.touch_v),
        "limit_ohm": number(judged.limit_ohm),
        "within_50v": judged.within_50v,
        "stable": judged.stable,
    }))
}
