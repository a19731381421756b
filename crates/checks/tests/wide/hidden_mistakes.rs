//! Good jobs are corrupted in each of the ways that a review must see, alone and in pairs: every
//! mistake that is larger than the instrument's own uncertainty is found (common practice, no source,
//! and what physics gives). That good jobs raise nothing is held by `simulated_jobs`.

// No room for the mistake, or made and of no one circuit; all of one shape, whether they can fail or not.
#![allow(clippy::option_option, clippy::unnecessary_wraps)]

use jiff::{SignedDuration, Timestamp};
use proof_checks::good_job::{Wanted, good_job};
use proof_job::installation::Circuit;
use proof_job::job::Job;
use proof_job::reading::keys::set_key;
use proof_job::reading::{Key, Place, Reading, Subject, Test, Value};
use proof_job::site::{Alteration, Event, EventKind};
use proof_judge::finding::Kind;
use proof_standard::conductor::Pair;
use proof_standard::house_rules::ZsMethod;
use proof_standard::limits::rcd::{HalfCycle, Multiple};
use proof_standard::quantity::{Metres, SquareMillimetres, approximate};
use proof_standard::shape::Shape;
use proof_work::plan::sets::set_circuits;
use proof_work::review::{Finding, review};
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

/// A mistake: makes it, and says of which circuit (none: of a board or the origin); `None` where
/// the job has no room for it.
type Mistake = fn(&mut Job) -> Option<Option<Uuid>>;

fn on(job: &mut Job, circuit: Uuid, test: impl Fn(Test) -> bool) -> Vec<&mut Reading> {
    job.readings.iter_mut().filter(|r| r.key.subject.circuit() == Some(circuit) && test(r.key.test)).collect()
}

fn number(reading: &Reading) -> Decimal {
    reading.value.number().unwrap_or_default()
}

/// Ze as it was read.
fn ze_read(job: &Job) -> Option<Decimal> {
    job.readings.iter().find(|reading| reading.key.test == Test::Ze)?.value.number()
}

/// The highest figure of a test on a circuit.
fn highest(job: &Job, circuit: &Circuit, test: Test) -> Option<Decimal> {
    let of = |reading: &&Reading| reading.key.subject.circuit() == Some(circuit.id) && reading.key.test == test;
    job.readings.iter().filter(of).filter_map(|reading| reading.value.number()).max()
}

/// Copper at 20 °C, mΩ/m. Source: BS EN 60228, Table 1 (solid and stranded, class 1 and 2).
const COPPER: [(f64, f64); 6] = [(1.0, 18.1), (1.5, 12.1), (2.5, 7.41), (4.0, 4.61), (6.0, 3.08), (10.0, 1.83)];

/// Line and CPC of a circuit from end to end, Ω, by hand.
fn copper_ohm(circuit: &Circuit) -> f64 {
    let per_metre = |size: SquareMillimetres| COPPER.iter().find(|(mm2, _)| *mm2 == size.get()).unwrap().1 / 1000.0;
    let legs = circuit.points.iter().filter_map(|point| point.leg_m).chain(circuit.return_leg_m).map(Metres::get);
    let metres = circuit.length_m.map_or_else(|| legs.sum(), Metres::get);
    metres * (per_metre(circuit.cable.line_mm2) + per_metre(circuit.cable.cpc_mm2))
}

fn far_zs(job: &Job, circuit: &Circuit) -> Option<Decimal> {
    let key = Key::on_circuit(circuit.id, Place::Board, Test::Zs);
    job.readings.iter().find(|reading| reading.key == key)?.value.number()
}

fn set_zs(job: &mut Job, circuit: Uuid, value: Decimal) {
    for reading in on(job, circuit, |test| test == Test::Zs) {
        if reading.key.subject.place() == Some(&Place::Board) {
            reading.value = Value::Number(value);
        }
    }
}

fn main_circuits(job: &Job) -> Vec<Circuit> {
    job.installation.circuits_on(job.installation.boards[0].id).cloned().collect()
}

fn zs_below_ze(job: &mut Job) -> Option<Option<Uuid>> {
    let ze = ze_read(job)?;
    let circuit = main_circuits(job).into_iter().find(|circuit| far_zs(job, circuit).is_some())?;
    set_zs(job, circuit.id, (ze - dec!(0.06)).max(dec!(0.01)));
    Some(Some(circuit.id))
}

fn sum_and_measured_apart(job: &mut Job) -> Option<Option<Uuid>> {
    let circuit = main_circuits(job).into_iter().rfind(|circuit| far_zs(job, circuit).is_some())?;
    let sum = ze_read(job)? + highest(job, &circuit, Test::R1R2)?;
    // On a high loop an instrument tells less than a twentieth apart.
    set_zs(job, circuit.id, (sum + (sum * dec!(0.08)).max(dec!(0.12))).round_dp(2));
    Some(Some(circuit.id))
}

fn whole_above_circuit(job: &mut Job) -> Option<Option<Uuid>> {
    let board = job.installation.boards[0].id;
    let circuit = main_circuits(job).into_iter().next()?;
    let mut template = None;
    for reading in on(job, circuit.id, |test| test == Test::Insulation) {
        if reading.key.pair == Some(Pair::LINE_NEUTRAL) {
            reading.value = Value::Number(dec!(240));
            template = Some(reading.clone());
        }
    }
    let mut reading = template?;
    reading.id = Uuid::new_v4();
    reading.key = set_key(set_circuits(&job.installation, board, None), Some(Pair::LINE_NEUTRAL));
    reading.value = Value::Number(dec!(420));
    job.readings.push(reading);
    Some(None)
}

fn current_of_another_loop(job: &mut Job) -> Option<Option<Uuid>> {
    let own =
        |reading: &&mut Reading| reading.key.subject == Subject::Supply && reading.key.test == Test::LineNeutralLoop;
    let reading = job.readings.iter_mut().find(own)?;
    reading.value = Value::Number((number(reading) * dec!(1.5)).round_dp(2));
    Some(None)
}

fn five_slower_than_one(job: &mut Job) -> Option<Option<Uuid>> {
    let trip = |multiple| Test::RcdTrip { multiple, half_cycle: HalfCycle::Deg0 };
    for circuit in main_circuits(job) {
        let one = on(job, circuit.id, |test| test == trip(Multiple::One)).first().map(|reading| number(reading))?;
        if let Some(reading) = on(job, circuit.id, |test| test == trip(Multiple::Five)).into_iter().next() {
            reading.value = Value::Number(one + dec!(9));
            return Some(Some(circuit.id));
        }
    }
    None
}

fn highest_r1_r2(job: &mut Job, circuit: &Circuit) -> Option<usize> {
    let of = |reading: &Reading| reading.key.subject.circuit() == Some(circuit.id) && reading.key.test == Test::R1R2;
    let all = job.readings.iter().enumerate().filter(|(_, reading)| of(reading));
    all.max_by_key(|(_, reading)| number(reading)).map(|(index, _)| index)
}

fn ring_cannot_give(job: &mut Job) -> Option<Option<Uuid>> {
    let ring = job.installation.circuits.iter().find(|circuit| circuit.shape == Shape::Ring)?.clone();
    let index = highest_r1_r2(job, &ring)?;
    job.readings[index].value = Value::Number(number(&job.readings[index]) + dec!(0.2));
    Some(Some(ring.id))
}

fn under_length(job: &mut Job) -> Option<Option<Uuid>> {
    let radial = job
        .installation
        .circuits
        .iter()
        .find(|circuit| circuit.shape == Shape::Radial && circuit.points.len() == 1 && copper_ohm(circuit) > 0.2)?;
    let radial = radial.clone();
    for reading in on(job, radial.id, |test| test == Test::R1R2 || test == Test::R1Rn) {
        reading.value = Value::Number((number(reading) * dec!(0.3)).round_dp(2));
    }
    Some(Some(radial.id))
}

/// One figure down the column of three circuits whose copper differs.
fn copied_down_a_column(job: &mut Job) -> Option<Option<Uuid>> {
    let mut by_copper: Vec<(f64, Circuit)> = main_circuits(job)
        .into_iter()
        .filter(|circuit| far_zs(job, circuit).is_some())
        .filter_map(|circuit| Some((approximate(highest(job, &circuit, Test::R1R2)?), circuit)))
        .collect();
    by_copper.sort_by(|a, b| a.0.total_cmp(&b.0));
    let (least, most) = (by_copper.first()?.0, by_copper.last()?.0);
    if by_copper.len() < 3 || most * 0.9 - least * 1.1 < 0.12 {
        return None;
    }
    let zs = far_zs(job, &by_copper.last()?.1)?;
    for (_, circuit) in &by_copper {
        for reading in on(job, circuit.id, |test| test == Test::Zs) {
            reading.value = Value::Number(zs);
        }
    }
    Some(None)
}

/// One figure down the points of a radial.
fn copied_down_a_radial(job: &mut Job) -> Option<Option<Uuid>> {
    let radial = job.installation.circuits.iter().find(|circuit| {
        circuit.shape == Shape::Radial && circuit.points.len() >= 3 && copper_ohm(circuit) * 0.66 > 0.15
    })?;
    let radial = radial.clone();
    let index = highest_r1_r2(job, &radial)?;
    let value = job.readings[index].value.clone();
    for reading in on(job, radial.id, |test| test == Test::R1R2) {
        reading.value = value.clone();
    }
    Some(Some(radial.id))
}

fn out_of_order(job: &mut Job) -> Option<Option<Uuid>> {
    let live = job.events.iter().rfind(|event| matches!(event.kind, EventKind::Energised { .. }))?.at;
    let circuit = main_circuits(job).into_iter().next()?;
    for reading in on(job, circuit.id, |test| test == Test::Insulation).into_iter().take(1) {
        reading.context.taken_at = live.checked_add(SignedDuration::from_mins(5)).ok();
    }
    Some(Some(circuit.id))
}

fn instrument_out_of_calibration(job: &mut Job) -> Option<Option<Uuid>> {
    job.instruments[0].calibration_due = Some(jiff::civil::date(2026, 1, 31));
    Some(None)
}

fn a_dead_test_missing(job: &mut Job) -> Option<Option<Uuid>> {
    let circuit = main_circuits(job).into_iter().next()?;
    let of = |reading: &Reading| reading.key.subject.circuit() == Some(circuit.id);
    job.readings.retain(|reading| !(of(reading) && reading.key.test == Test::Insulation));
    Some(Some(circuit.id))
}

fn insulation_low(job: &mut Job) -> Option<Option<Uuid>> {
    let circuit = main_circuits(job).into_iter().next_back()?;
    let mut all = on(job, circuit.id, |test| test == Test::Insulation);
    all.first_mut()?.value = Value::Number(dec!(0.31));
    Some(Some(circuit.id))
}

fn rcd_slow(job: &mut Job) -> Option<Option<Uuid>> {
    for circuit in main_circuits(job) {
        let one = Test::RcdTrip { multiple: Multiple::One, half_cycle: HalfCycle::Deg0 };
        if let Some(reading) = on(job, circuit.id, |test| test == one).into_iter().next() {
            reading.value = Value::Number(dec!(512));
            return Some(Some(circuit.id));
        }
    }
    None
}

fn device_below_the_fault_level(job: &mut Job) -> Option<Option<Uuid>> {
    job.readings.retain(|reading| {
        reading.key.subject != Subject::Supply || !matches!(reading.key.test, Test::Zs | Test::LineNeutralLoop)
    });
    let mut found = false;
    for reading in job.readings.iter_mut().filter(|reading| reading.key.test == Test::FaultCurrent) {
        reading.value = Value::Number(dec!(9.2));
        found = true;
    }
    found.then_some(None)
}

fn a_link_left_in(job: &mut Job) -> Option<Option<Uuid>> {
    let board = job.installation.boards[0].id;
    let (item, alteration, note) = (Uuid::new_v4(), Alteration::Link, "way 1".to_owned());
    let kind = EventKind::Altered { item, board, circuit: None, alteration, note };
    job.events.push(Event { id: Uuid::new_v4(), at: Timestamp::UNIX_EPOCH, by: "A".into(), kind });
    Some(None)
}

/// The point of a figure lost in the writing: 0.64 becomes 6.4.
fn a_point_lost(job: &mut Job) -> Option<Option<Uuid>> {
    let circuit = main_circuits(job).into_iter().find(|circuit| far_zs(job, circuit).is_some())?;
    let zs = far_zs(job, &circuit)?;
    set_zs(job, circuit.id, zs * dec!(10));
    Some(Some(circuit.id))
}

/// The rows of two circuits written the one in the other's place.
/// On an electrode the loop is a hundred ohms: no live reading tells tenths of an ohm of copper.
fn loop_tells_copper(job: &Job) -> Option<()> {
    (ze_read(job)? < dec!(2)).then_some(())
}

fn two_rows_exchanged(job: &mut Job) -> Option<Option<Uuid>> {
    loop_tells_copper(job)?;
    let circuits: Vec<Circuit> =
        main_circuits(job).into_iter().filter(|circuit| far_zs(job, circuit).is_some()).collect();
    let read = |circuit: &Circuit| highest(job, circuit, Test::R1R2);
    let pairs = circuits.iter().flat_map(|a| circuits.iter().map(move |b| (a, b)));
    let (a, b) = pairs
        .filter(|(a, b)| a.shape == b.shape)
        .find(|(a, b)| read(a).zip(read(b)).is_some_and(|(a, b)| (a - b).abs() > dec!(0.35)))?;
    let (of_a, of_b) = (read(a)?, read(b)?);
    for (circuit, figure) in [(a.id, of_b), (b.id, of_a)] {
        for reading in on(job, circuit, |test| test == Test::R1R2) {
            reading.value = Value::Number(figure);
        }
    }
    Some(Some(a.id))
}

/// The long lead left out of the null: as much on every figure of one circuit, the live loop is true.
fn a_lead_in_the_reading(job: &mut Job) -> Option<Option<Uuid>> {
    loop_tells_copper(job)?;
    let circuit = main_circuits(job).into_iter().find(|circuit| far_zs(job, circuit).is_some())?;
    let mut found = false;
    for reading in on(job, circuit.id, |test| test == Test::R1R2) {
        reading.value = Value::Number(number(reading) + dec!(0.34));
        found = true;
    }
    found.then_some(Some(circuit.id))
}

fn mistakes() -> Vec<(&'static str, Mistake, &'static [Kind])> {
    use Kind::*;
    vec![
        ("Zs below Ze", zs_below_ze, &[ZsBelowZe]),
        ("sum and measured apart", sum_and_measured_apart, &[SumAndMeasured, LoopOverLimit, LoopByRcd]),
        ("whole above a circuit", whole_above_circuit, &[WholeAboveCircuit]),
        ("a current of another loop", current_of_another_loop, &[CurrentAndLoop]),
        ("×5 slower than ×1", five_slower_than_one, &[FiveSlower, RcdFails]),
        ("R1+R2 that the ring cannot give", ring_cannot_give, &[RingCannotGive, LoopOverLimit, LoopByRcd]),
        ("R1+R2 under what the length allows", under_length, &[UnderLength]),
        ("one figure down a column", copied_down_a_column, &[CopiedDown]),
        ("one figure down a radial", copied_down_a_radial, &[CopiedDown]),
        ("out of order", out_of_order, &[OutOfOrder]),
        ("instrument out of calibration", instrument_out_of_calibration, &[InstrumentDoubtful]),
        ("a dead test missing", a_dead_test_missing, &[EnergisedUntested]),
        ("insulation under the minimum", insulation_low, &[InsulationLow]),
        ("an RCD too slow", rcd_slow, &[RcdFails]),
        ("a device below the fault level", device_below_the_fault_level, &[BreakingCapacity]),
        ("a link left in", a_link_left_in, &[NotPutBack]),
        ("the point of a figure lost", a_point_lost, &[SumAndMeasured, LoopOverLimit, LoopByRcd]),
        ("two rows exchanged", two_rows_exchanged, &[SumAndMeasured, UnderLength, LoopOverLimit, LoopByRcd]),
        ("a lead in the reading", a_lead_in_the_reading, &[SumAndMeasured, RingCannotGive, LoopOverLimit, LoopByRcd]),
    ]
}

fn is_found(findings: &[Finding], kinds: &[Kind], of: Option<Uuid>) -> bool {
    findings.iter().any(|finding| kinds.contains(&finding.kind()) && (of.is_none() || finding.circuit() == of))
}

fn job(seed: u64) -> Job {
    let job =
        good_job(seed, Wanted { below: seed.is_multiple_of(3), series: seed.is_multiple_of(2), electrode: false });
    assert!(job.installation.house_rules.zs_method == ZsMethod::Summed || !job.readings.is_empty());
    job
}

#[test]
fn every_mistake_alone_is_found() {
    for (name, mistake, kinds) in mistakes() {
        let (mut made, mut found) = (0, 0);
        for seed in 0..crate::of_all(75, 150) {
            let mut job = job(seed);
            let Some(of) = mistake(&mut job) else { continue };
            made += 1;
            let findings = review((&job).into());
            let hit = is_found(&findings, kinds, of);
            assert!(hit, "{name}, seed {seed}: {findings:#?}");
            found += usize::from(hit);
        }
        assert!(made >= 10, "{name}: the good jobs had room for it only {made} times");
        assert_eq!(found, made, "{name}");
    }
}

/// Two mistakes at once hide neither, unless the second overwrote what the first had written.
#[test]
fn every_pair_of_mistakes_is_found() {
    let all = mistakes();
    let (mut made, mut hidden) = (0, Vec::new());
    for (i, (first_name, first, first_kinds)) in all.iter().enumerate() {
        for (second_name, second, second_kinds) in &all[i + 1..] {
            for seed in 200..200 + crate::of_all(2, 6) {
                let mut job = job(seed);
                let sound = job.readings.clone();
                let Some(first_of) = first(&mut job) else { continue };
                let before = job.readings.clone();
                let Some(second_of) = second(&mut job) else { continue };
                let findings = review((&job).into());
                made += 1;
                // Where the first wrote over the live figure of that very circuit, what would contradict
                // the second is gone; the first is still told.
                let evidence_gone = second_of.is_some()
                    && sound.iter().zip(&before).any(|(old, new)| {
                        old.id == new.id
                            && old.value != new.value
                            && new.key.subject.circuit() == second_of
                            && new.key.test == Test::Zs
                    })
                    && is_found(&findings, first_kinds, first_of);
                if !evidence_gone && !is_found(&findings, second_kinds, second_of) {
                    hidden.push(format!("{second_name} after {first_name}, seed {seed}"));
                }
                let changed: Vec<Uuid> = before
                    .iter()
                    .filter(|old| {
                        job.readings.iter().find(|new| new.id == old.id).is_none_or(|new| new.value != old.value)
                    })
                    .map(|old| old.id)
                    .collect();
                let overwritten = changed.iter().any(|id| {
                    let reading = before.iter().find(|reading| reading.id == *id);
                    reading.is_some_and(|reading| first_of.is_none() || reading.key.subject.circuit() == first_of)
                });
                if !overwritten && !is_found(&findings, first_kinds, first_of) {
                    hidden.push(format!("{first_name} under {second_name}, seed {seed}"));
                }
            }
        }
    }
    assert!(made > 100, "only {made} pairs");
    assert_eq!(hidden, Vec::<String>::new());
}

/// A mistake smaller than the instrument's own uncertainty accuses nobody.
#[test]
fn what_the_instrument_cannot_tell_is_no_finding() {
    for seed in 0..60 {
        let mut job = job(seed);
        for reading in job.readings.iter_mut().filter(|reading| reading.key.test == Test::Zs) {
            if let Value::Number(zs) = &mut reading.value
                && reading.key.subject.circuit().is_some()
            {
                *zs -= dec!(0.01).min(*zs * dec!(0.01)).round_dp(2);
            }
        }
        let apart = review((&job).into()).into_iter().filter(|finding| finding.kind() == Kind::SumAndMeasured).count();
        assert_eq!(apart, 0, "seed {seed}");
    }
    assert!(approximate(dec!(0.01)) < 0.02);
}
