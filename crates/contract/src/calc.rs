//! `proof calc NAME`: the arithmetic of the trade, one document in, one out.

use super::strict::{Fields, Json, Range};
use proof_core::calc::electrode::electrode;
use proof_core::calc::fault_current::{FaultSchool, Measured, Phases, fault_current};
use proof_core::calc::insulation::{Insulation, combine, pairs};
use proof_core::calc::loop_impedance;
use proof_core::calc::loop_impedance::Loop;
use proof_core::calc::rcd;
use proof_core::calc::rcd::{RcdTest, RcdVerdict, Trip};
use proof_core::calc::ring;
use proof_core::conductor::Material;
use proof_core::network::description::Refused;
use proof_core::quantity::{Celsius, Metres, SquareMillimetres, approximate, exact};
use proof_core::standard::conductors::{mohm_per_m, resistance, table};
use proof_core::standard::devices::{DeviceStandard, Disconnection, MaximumZs, TripType, maximum_zs};
use proof_core::standard::earthing::{
    STANDARD_SIZES_MM2, adiabatic_mm2, bond_reading, earthing_and_bonding, next_standard_size,
};
use proof_core::standard::edition::RcdSchool;
use proof_core::standard::rcd::{RcdKind, TripWindow};
use proof_core::standard::supply::EarthingSystem;
use rust_decimal::{Decimal, dec};
use serde_json::{Value, json};

/// The calculators.
pub(crate) const NAMES: &[&str] = &[
    "conductor",
    "ring",
    "max-zs",
    "loop",
    "fault-current",
    "ir-pairs",
    "ir-combine",
    "rcd",
    "main-bonding",
    "adiabatic",
    "electrode",
];

const LENGTH: Range = Range::between(Metres::MIN, Metres::MAX, "m");
const OHM: Range = Range::between(0.0, 1_000_000.0, "Ω");
const OHM_ABOVE_ZERO: Range = Range::between(0.000_1, 1_000_000.0, "Ω");
const KILOAMPS: Range = Range::between(0.0, 1_000.0, "kA");
const TEST_TEMPERATURE: Range = Range::between(Celsius::MIN, Celsius::MAX, "°C");
const WORKING_TEMPERATURE: Range = Range::between(Celsius::MIN, 250.0, "°C");
const RESIDUAL: Range = Range::between(0.1, 30_000.0, "mA");
const MEGOHMS: Range = Range::between(0.0, 1_000_000.0, "MΩ");
const MILLIS: Range = Range::between(0.0, 1_000_000.0, "ms");
const MOST_CONDUCTORS: usize = 60;
const MOST_READINGS: usize = 10_000;

/// Answers one document by the calculator's name.
pub(crate) fn answer(name: &str, input: &Json) -> Result<Value, Refused> {
    match name {
        "conductor" => conductor(input),
        "ring" => ring_of(input),
        "max-zs" => max_zs(input),
        "loop" => loop_of(input),
        "fault-current" => fault(input),
        "ir-pairs" => ir_pairs(input),
        "ir-combine" => ir_combine(input),
        "rcd" => rcd_of(input),
        "main-bonding" => main_bonding(input),
        "adiabatic" => adiabatic(input),
        _ => electrode_of(input),
    }
}

fn number(decimal: Decimal) -> f64 {
    approximate(decimal)
}

fn size(fields: &Fields<'_>, name: &str, material: Material) -> Result<SquareMillimetres, Refused> {
    let allowed = table(material).iter().map(|(mm2, _)| mm2.to_string()).collect::<Vec<_>>().join(", ");
    let refuse = || fields.refuse(name, &format!("a size in the table: {allowed} mm²"));
    let given = fields.number(name, &Range::between(f64::MIN, f64::MAX, "mm²")).map_err(|_| refuse())?;
    let known = table(material).iter().any(|(mm2, _)| *mm2 == given);
    SquareMillimetres::new(given).ok().filter(|_| known).ok_or_else(refuse)
}

fn conductor(input: &Json) -> Result<Value, Refused> {
    let fields = Fields::open(input, "", &["mm2", "material", "length_m", "temp_c"])?;
    let material = fields
        .optional_choice("material", "copper or aluminium", |name| match name {
            "copper" => Some(Material::Copper),
            "aluminium" => Some(Material::Aluminium),
            _ => None,
        })?
        .unwrap_or_default();
    let mm2 = size(&fields, "mm2", material)?;
    let length = fields.number("length_m", &LENGTH)?;
    let temperature = fields.optional_number("temp_c", &TEST_TEMPERATURE)?.unwrap_or(20.0);
    let refuse = |error: String| Refused::new("mm2", mm2.get().to_string(), error);
    let length = Metres::new(length).map_err(|error| refuse(error.to_string()))?;
    let temperature = Celsius::new(temperature).map_err(|error| refuse(error.to_string()))?;
    let per_metre = mohm_per_m(material, mm2).map_err(|error| refuse(error.to_string()))?;
    let ohm = resistance(material, mm2, length, temperature).map_err(|error| refuse(error.to_string()))?;
    Ok(json!({"mohm_per_m": per_metre, "ohm": ohm.get()}))
}

fn ring_of(input: &Json) -> Result<Value, Refused> {
    let fields = Fields::open(input, "", &["r1", "rn", "r2", "line_mm2", "cpc_mm2"])?;
    let [r1, rn, r2] = ["r1", "rn", "r2"].map(|name| fields.number(name, &OHM));
    let (r1, rn, r2) = (r1?, rn?, r2?);
    let line = size(&fields, "line_mm2", Material::Copper)?;
    let cpc = size(&fields, "cpc_mm2", Material::Copper)?;
    let by_table = ring::r2_by_table(r1, line, cpc)
        .map_err(|error| Refused::new("cpc_mm2", cpc.get().to_string(), error.to_string()))?;
    Ok(json!({
        "r1_rn": ring::quarter(r1, rn),
        "r1_r2": ring::quarter(r1, r2),
        "r2_expected_size_ratio": ring::r2_by_size(r1, line, cpc),
        "r2_expected_table_ratio": by_table,
    }))
}

const DEVICES: &str = "BS EN 60898, BS EN 61009, BS 88-2, BS 88-3, BS 3036 or BS 1362";

fn maximum(fields: &Fields<'_>) -> Result<MaximumZs, Refused> {
    let device = fields.choice("device", DEVICES, DeviceStandard::from_name)?;
    let trip =
        fields.optional_choice("type", "B, C or D", |name| TripType::ALL.into_iter().find(|t| t.letter() == name))?;
    let rating = fields.decimal("rating_a", &Range::above_zero(10_000.0, "A"))?;
    let times = "0.2, 0.4, 1 or 5";
    let seconds = fields
        .decimal("disconnection_s", &Range::above_zero(1_000.0, "s"))
        .map_err(|_| fields.refuse("disconnection_s", times))?;
    let time = Disconnection::from_seconds(seconds).ok_or_else(|| fields.refuse("disconnection_s", times))?;
    maximum_zs(device, trip, rating.normalize(), time).map_err(|error| {
        use proof_core::standard::devices::NoMaximum;
        let key = match error {
            NoMaximum::TypeWanted(_) | NoMaximum::TypeOnFuse(_) => "type",
            NoMaximum::Rating { .. } => "rating_a",
            NoMaximum::FuseTime { .. } => "disconnection_s",
        };
        fields.refuse(key, &error.to_string())
    })
}

fn max_zs(input: &Json) -> Result<Value, Refused> {
    let fields = Fields::open(input, "", &["device", "type", "rating_a", "disconnection_s"])?;
    let maximum = maximum(&fields)?;
    let mut output =
        json!({"printed_ohm": number(maximum.printed_ohm), "eighty_percent_ohm": number(maximum.eighty_percent_ohm)});
    if let Some(ia) = maximum.ia_a {
        output["ia_a"] = json!(number(ia));
    }
    Ok(output)
}

fn loop_of(input: &Json) -> Result<Value, Refused> {
    let keys = ["ze", "r1_r2", "device", "type", "rating_a", "disconnection_s", "measured_zs", "working_c", "test_c"];
    let fields = Fields::open(input, "", &keys)?;
    let given = Loop {
        ze: fields.decimal("ze", &OHM)?,
        r1_r2: fields.decimal("r1_r2", &OHM)?,
        measured_zs: fields.optional_decimal("measured_zs", &OHM)?,
        working_c: fields.optional_decimal("working_c", &WORKING_TEMPERATURE)?.unwrap_or(dec!(70)),
        test_c: fields.optional_decimal("test_c", &TEST_TEMPERATURE)?.unwrap_or(dec!(20)),
    };
    let maximum = maximum(&fields)?;
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

/// A number or a list of one to three, one a line.
fn lines(fields: &Fields<'_>, name: &str, range: &Range) -> Result<Option<Vec<Decimal>>, Refused> {
    let allowed = format!("{}, or a list of one to three, one a line", range.text());
    let take = |json: &Json| {
        range.take(json).and_then(exact).ok_or_else(|| Refused::new(fields.key(name), json.shown(), &allowed))
    };
    match fields.get(name) {
        None => Ok(None),
        Some(Json::List(list)) if (1..=3).contains(&list.len()) => {
            list.iter().map(take).collect::<Result<_, _>>().map(Some)
        }
        Some(Json::List(list)) => Err(Refused::new(fields.key(name), format!("a list of {}", list.len()), &allowed)),
        Some(json) => Ok(Some(vec![take(json)?])),
    }
}

fn measured(fields: &Fields<'_>, ohm: &str, ka: &str) -> Result<Option<Measured>, Refused> {
    match (lines(fields, ohm, &OHM_ABOVE_ZERO)?, lines(fields, ka, &KILOAMPS)?) {
        (Some(_), Some(_)) => Err(Refused::new(fields.key(ohm), format!("{ohm} and {ka} together"), "one of the two")),
        (Some(loops), None) => Ok(Some(Measured::Ohms(loops))),
        (None, Some(currents)) => Ok(Some(Measured::Kiloamps(currents))),
        (None, None) => Ok(None),
    }
}

fn fault(input: &Json) -> Result<Value, Refused> {
    let keys = [
        "line_neutral_ohm",
        "line_neutral_ka",
        "line_earth_ohm",
        "line_earth_ka",
        "phases",
        "school",
        "line_line_ohm",
        "breaking_capacity_ka",
    ];
    let fields = Fields::open(input, "", &keys)?;
    let line_neutral = measured(&fields, "line_neutral_ohm", "line_neutral_ka")?
        .ok_or_else(|| fields.refuse("line_neutral_ohm", "line_neutral_ohm or line_neutral_ka"))?;
    let line_earth = measured(&fields, "line_earth_ohm", "line_earth_ka")?;
    let school = fields.optional_choice("school", "double, root3 or line_line", |name| match name {
        "double" => Some(FaultSchool::Double),
        "root3" => Some(FaultSchool::Root3),
        "line_line" => Some(FaultSchool::LineLine),
        _ => None,
    })?;
    let line_line = fields.optional_decimal("line_line_ohm", &OHM_ABOVE_ZERO)?;
    let phases = match fields.get("phases") {
        Some(Json::Number(n)) if *n == 1.0 => Phases::Single,
        Some(Json::Number(n)) if *n == 3.0 => Phases::Three(school.unwrap_or_default(), line_line),
        _ => return Err(fields.refuse("phases", "1 or 3")),
    };
    if line_line.is_some() && !matches!(phases, Phases::Three(FaultSchool::LineLine, _)) {
        return Err(fields.refuse("line_line_ohm", "only with phases 3 and school line_line"));
    }
    let capacity = fields.optional_decimal("breaking_capacity_ka", &Range::above_zero(1_000.0, "kA"))?;
    let found = fault_current(&line_neutral, line_earth.as_ref(), phases, capacity).map_err(|_| {
        fields.refuse(
            "line_line_ohm",
            &format!("the line–line loop, {}, for the school line_line", OHM_ABOVE_ZERO.text()),
        )
    })?;
    Ok(json!({
        "pscc_ka": number(found.pscc_ka),
        "pefc_ka": found.pefc_ka.map(number),
        "recorded_ka": number(found.recorded_ka),
        "within": found.within,
        "warnings": found.warnings.iter().map(ToString::to_string).collect::<Vec<_>>(),
    }))
}

fn ir_pairs(input: &Json) -> Result<Value, Refused> {
    let fields = Fields::open(input, "", &["conductors"])?;
    let allowed = format!("a list of 2 to {MOST_CONDUCTORS} different names, earth last, neutral before it");
    let list = fields.list("conductors", &allowed)?;
    let refuse = |given: String| Refused::new("conductors", given, &allowed);
    if !(2..=MOST_CONDUCTORS).contains(&list.len()) {
        return Err(refuse(format!("a list of {}", list.len())));
    }
    let mut names: Vec<&str> = Vec::new();
    for json in list {
        match json {
            Json::Text(name) if name.is_empty() => return Err(refuse("an empty name".to_owned())),
            Json::Text(name) if names.contains(&name.as_str()) => return Err(refuse(format!("\"{name}\" twice"))),
            Json::Text(name) => names.push(name),
            other => return Err(refuse(other.shown())),
        }
    }
    Ok(json!({"pairs": pairs(&names)}))
}

fn ir_combine(input: &Json) -> Result<Value, Refused> {
    let fields = Fields::open(input, "", &["mohm"])?;
    let allowed = format!("a list of 1 to {MOST_READINGS} readings, each {} or {{\"over\": MΩ}}", MEGOHMS.text());
    let list = fields.list("mohm", &allowed)?;
    if !(1..=MOST_READINGS).contains(&list.len()) {
        return Err(Refused::new("mohm", format!("a list of {}", list.len()), allowed));
    }
    let mut readings = Vec::with_capacity(list.len());
    for (index, json) in list.iter().enumerate() {
        let path = format!("mohm[{index}]");
        readings.push(match json {
            Json::Object(_) => {
                let over = Fields::open(json, &path, &["over"])?;
                Insulation::Over(over.decimal("over", &Range::between(0.001, 1_000_000.0, "MΩ"))?)
            }
            other => {
                let value = MEGOHMS.take(other).and_then(exact);
                Insulation::Reads(value.ok_or_else(|| {
                    Refused::new(path, other.shown(), format!("{} or {{\"over\": MΩ}}", MEGOHMS.text()))
                })?)
            }
        });
    }
    let (at_least, at_most) = combine(&readings);
    Ok(json!({"at_least_mohm": at_least, "at_most_mohm": at_most}))
}

fn rcd_of(input: &Json) -> Result<Value, Refused> {
    let fields = Fields::open(input, "", &["idn_ma", "kind", "school", "readings"])?;
    let idn = fields.decimal("idn_ma", &RESIDUAL)?;
    let kind = fields.choice("kind", "general, S, BS 4293 or BS 7288", RcdKind::from_name)?;
    let school = fields
        .optional_choice("school", "single or series", |name| match name {
            "single" => Some(RcdSchool::Single),
            "series" => Some(RcdSchool::Series),
            _ => None,
        })?
        .unwrap_or_default();
    let keys = RcdTest::ALL.map(RcdTest::key);
    let allowed = format!("an object with any of {}", keys.join(", "));
    let given =
        Fields::open(fields.get("readings").ok_or_else(|| fields.refuse("readings", &allowed))?, "readings", &keys)?;
    let mut readings = Vec::new();
    for test in RcdTest::ALL {
        match given.get(test.key()) {
            None => {}
            Some(Json::Text(text)) if text == "no_trip" => readings.push((test, Trip::NoTrip)),
            Some(json) => {
                let ms = MILLIS.take(json).and_then(exact);
                let allowed = format!("{} or \"no_trip\"", MILLIS.text());
                readings.push((test, Trip::Ms(ms.ok_or_else(|| given.refuse(test.key(), &allowed))?)));
            }
        }
    }
    let judged = rcd::judge(kind, idn, school, &readings);
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

fn main_bonding(input: &Json) -> Result<Value, Refused> {
    let fields = Fields::open(input, "", &["system", "line_mm2", "neutral_mm2", "length_m"])?;
    let system = fields
        .choice("system", "TN-S, TN-C-S or TT", |name| EarthingSystem::ALL.into_iter().find(|s| s.name() == name))?;
    let allowed = STANDARD_SIZES_MM2.map(|mm2| mm2.to_string()).join(", ");
    let standard_size = |name: &str| {
        let refuse = || fields.refuse(name, &format!("a standard size: {allowed} mm²"));
        let given = fields.number(name, &Range::between(f64::MIN, f64::MAX, "mm²")).map_err(|_| refuse())?;
        if STANDARD_SIZES_MM2.contains(&given) { Ok(given) } else { Err(refuse()) }
    };
    let (line, neutral) = (standard_size("line_mm2")?, standard_size("neutral_mm2")?);
    let length = fields.number("length_m", &LENGTH)?;
    let length = Metres::new(length).map_err(|_| fields.refuse("length_m", &LENGTH.text()))?;
    let (earthing, bonding) = earthing_and_bonding(system, line, neutral);
    let per_metre = SquareMillimetres::new(bonding)
        .ok()
        .and_then(|mm2| mohm_per_m(Material::Copper, mm2).ok())
        .ok_or_else(|| fields.refuse("neutral_mm2", "a size whose bond stands in the resistance table"))?;
    let (expected, limit) = bond_reading(per_metre, length);
    Ok(json!({"earthing_mm2": earthing, "bonding_mm2": bonding, "ohm_expected": expected, "ohm_limit": limit}))
}

fn adiabatic(input: &Json) -> Result<Value, Refused> {
    let fields = Fields::open(input, "", &["fault_a", "time_s", "k"])?;
    let fault = fields.number("fault_a", &Range::between(0.0, 1_000_000.0, "A"))?;
    let time = fields.number("time_s", &Range::between(0.0, 1_000.0, "s"))?;
    let k = fields.number("k", &Range::between(1.0, 1_000.0, "A·√s/mm²"))?;
    let mm2 = adiabatic_mm2(fault, time, k);
    let largest = table(Material::Copper).last().map_or(0.0, |(mm2, _)| *mm2);
    Ok(json!({"mm2": mm2, "next_size_mm2": next_standard_size(mm2).filter(|size| *size <= largest)}))
}

fn electrode_of(input: &Json) -> Result<Value, Refused> {
    let fields = Fields::open(input, "", &["ra_ohm", "idn_ma"])?;
    let judged = electrode(fields.decimal("ra_ohm", &OHM)?, fields.decimal("idn_ma", &RESIDUAL)?);
    Ok(json!({
        "touch_v": number(judged.touch_v),
        "limit_ohm": number(judged.limit_ohm),
        "within_50v": judged.within_50v,
        "stable": judged.stable,
    }))
}
