//! Questions about live tests.
#![allow(clippy::unnecessary_wraps)] // one shape for every kind: some find nothing to ask

use super::question::{Question, number, one_of, pick, whole};
use crate::meter::Meter;
use crate::rig::SUPPLY_V;
use proof_standard::calc::rcd::{Trip, trips_rightly};
use proof_standard::limits::devices::{DeviceStandard, Disconnection, TripType, maximum_zs};
use proof_standard::limits::rcd::{Multiple, RcdKind, TripWindow, window};
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::limits::voltages::AT_POWER;
use proof_standard::quantity::{Amps, Millis, approximate};
use rust_decimal::Decimal;

fn hundredths(value: f64) -> f64 {
    (value * 100.0).round() / 100.0
}

pub(super) fn sum_of_the_loop(meter: &mut Meter) -> Option<Question> {
    let (ze, r1_r2) = (hundredths(meter.between(0.12, 0.34)), hundredths(meter.between(0.2, 1.1)));
    let zs = ze + r1_r2;
    Some(number(
        "loop",
        format!("Ze is {ze:.2} Ω and R1+R2 {r1_r2:.2} Ω. What is Zs by the sum, in Ω?"),
        (zs, "Ω", 2),
        format!("Ze + (R1+R2) = {zs:.2} Ω. Measured it is normally a little under the sum: there are paths beside it."),
    ))
}

pub(super) fn fault_current(meter: &mut Meter) -> Option<Question> {
    let (neutral, earth) = (hundredths(meter.between(0.08, 0.3)), hundredths(meter.between(0.1, 0.35)));
    let three = meter.share() < 0.4;
    let lower = neutral.min(earth);
    let single = SUPPLY_V / lower / 1000.0;
    let three_phase = 2.0 * SUPPLY_V / neutral / 1000.0;
    Some(if three {
        number(
            "prospective fault current",
            format!(
                "The highest line–neutral fault current of a three-phase supply comes from a loop of {neutral:.2} Ω at 230 V. What is recorded by doubling, in kA?"
            ),
            (three_phase, "kA", 2),
            format!("2 × 230 / {neutral:.2} = {three_phase:.2} kA, on the safe side; √3 of it is another school."),
        )
    } else {
        number(
            "prospective fault current",
            format!(
                "At the origin line–neutral reads {neutral:.2} Ω and line–earth {earth:.2} Ω, with everything in. What is the prospective fault current, in kA?"
            ),
            (single, "kA", 2),
            format!("The lower loop gives the higher current: 230 / {lower:.2} = {single:.2} kA."),
        )
    })
}

pub(super) fn eighty_percent(meter: &mut Meter) -> Option<Question> {
    let trip = pick(meter, &[TripType::B, TripType::C])?;
    let rating = pick(meter, &[6_i64, 10, 16, 20, 32])?;
    let maximum =
        maximum_zs(DeviceStandard::BsEn60898, Some(trip), Amps(Decimal::from(rating)), Disconnection::S0_4).ok()?;
    let (printed, limit) = (maximum.printed_ohm, maximum.eighty_percent_ohm);
    Some(number(
        "loop",
        format!(
            "The printed maximum Zs of a {}{rating} breaker to BS EN 60898 is {printed} Ω. With what is a cold reading compared, in Ω?",
            trip.letter()
        ),
        (approximate(limit), "Ω", 2),
        format!("0.8 × {printed} = {limit} Ω: the conductors are cold when it is read (BS 7671 Appendix 3)."),
    ))
}

pub(super) fn trip_time(meter: &mut Meter) -> Option<Question> {
    let kind = pick(meter, &[RcdKind::General, RcdKind::Selective])?;
    let multiple = pick(meter, &[Multiple::One, Multiple::Five])?;
    let TripWindow::Between { min_ms, max_ms } = window(kind, multiple).value else { return None };
    let words = format!("{} RCD to BS EN 61008-1 at {}", kind.label(), multiple.label());
    let least = min_ms.map_or(String::new(), |min| format!("from {} ms ", min.0));
    let working = format!("{words}: {least}to {} ms (Table 1, a.c.).", max_ms.0);
    if meter.share() < 0.5 {
        return Some(number(
            "RCD",
            format!("How long may a {words} take at the most, in ms?"),
            (approximate(max_ms.0), "ms", 0),
            working,
        ));
    }
    let ms = whole(meter, 15, 560);
    let shown = Decimal::from(ms as u64);
    let right = trips_rightly(window(kind, multiple).value, Trip::Ms(Millis(shown)));
    Some(one_of(
        "RCD",
        format!("A {words} trips in {ms} ms. Is that right?"),
        (if right { "yes" } else { "no" }, &["yes", "no"]),
        working,
        meter,
    ))
}

pub(super) fn voltages(meter: &mut Meter) -> Option<Question> {
    let (state, shown) = pick(meter, &AT_POWER.value)?;
    let states: Vec<&str> = AT_POWER.value.iter().map(|(state, _)| *state).collect();
    let [ln, le, ne] = shown;
    let working = format!("{state}: L–N {ln}, L–E {le}, N–E {ne}. Common practice, no source.");
    if meter.share() < 0.5 {
        return Some(one_of(
            "voltages",
            format!("At a live point an indicator shows L–N {ln}, L–E {le}, N–E {ne} V. What is it?"),
            (state, &states),
            working,
            meter,
        ));
    }
    let pair = whole(meter, 0, 2);
    let all: Vec<&str> = AT_POWER.value.iter().map(|(_, shown)| shown[pair]).fold(Vec::new(), |mut all, one| {
        if !all.contains(&one) {
            all.push(one);
        }
        all
    });
    Some(one_of(
        "voltages",
        format!(
            "{state}: what does an indicator show {} , in V?",
            ["line to neutral", "line to earth", "neutral to earth"][pair]
        )
        .replace(" ,", ","),
        (shown[pair], &all),
        working,
        meter,
    ))
}

pub(super) fn declared_ze(meter: &mut Meter) -> Option<Question> {
    let system = pick(meter, &[EarthingSystem::TnCS, EarthingSystem::TnS])?;
    let ohm = system.declared_ze().get();
    Some(number(
        "loop",
        format!("What is the highest Ze that is usually declared for {}, in Ω?", system.name()),
        (ohm, "Ω", 2),
        format!("{}: {ohm} Ω. Over it is a question for the distributor.", system.name()),
    ))
}
