//! The words of findings, as they were when judgements still bound to words.
//!
//! Frozen: judgements written then are found by these lines. Whoever words a finding anew does so
//! where it is displayed, and leaves this file alone; a test holds it to a job of that time.

use crate::design::Described;
use crate::installation::inspection;
use crate::instrument::Distrust;
use crate::reading::{Stage, Value};
use crate::review::reason::{Compared, OddReading, Particular, Reason};
use crate::site::isolation::Lacking;
use crate::site::{BoardState, Breach, Wanted};
use crate::verdict::wording_1;

/// How steps were called then that are called otherwise now.
const CALLED_THEN: &[(&str, &str)] = &[
    ("PFC L–N", "Fault current line–neutral"),
    ("PFC L–E", "Fault current line–earth"),
    ("PFC here, L–N", "Fault current here, line–neutral"),
    ("PFC here, L–E", "Fault current here, line–earth"),
    ("PFC L", "Fault current L"),
    ("Loop impedance L–N", "Its loop, line–neutral"),
    ("Loop impedance L–E", "Its loop, line–earth"),
    ("Functional: switch each light on and off", "Functional: plug something in"),
    ("Functional: switch the equipment on and off", "Functional: plug something in"),
    ("Functional: switch the board on and off", "Functional: plug something in"),
];

fn label_then(label: &str) -> String {
    let begins = CALLED_THEN.iter().find_map(|(now, then)| Some((label.strip_prefix(now)?, then)));
    begins.map_or_else(|| label.to_owned(), |(rest, then)| format!("{then}{rest}"))
}

/// A reason with its step called as it was then: what a judgement binds to does not change with a name.
pub(super) fn labels_then(reason: &Reason) -> Reason {
    let mut then = reason.clone();
    match &mut then {
        Reason::Reading(reading) => reading.label = label_then(&reading.label),
        Reason::NotTested { label, .. } | Reason::NotTaken { label, .. } => *label = label_then(label),
        Reason::NotRead { labels, .. } => labels.iter_mut().for_each(|label| *label = label_then(label)),
        _ => {}
    }
    then
}

/// What was found, with the numbers.
pub(super) fn what(reason: &Reason) -> String {
    match reason {
        Reason::Particulars { missing } => particular(*missing).to_owned(),
        Reason::NoPoints => "it has no points".to_owned(),
        Reason::NotRead { stage, labels, live } => {
            let said = not_read(*stage, labels);
            if *live && stage.is_dead() { format!("energised with a dead test missing: {said}") } else { said }
        }
        Reason::NotTaken { label, seen, .. } => {
            format!("{label} is {}", if *seen { "not done" } else { "not read" })
        }
        Reason::PolarityOwed { wanting, live } => {
            let said = format!("polarity is not earned: {wanting}");
            if *live { format!("energised with a dead test missing: {said}") } else { said }
        }
        Reason::PolarityWrong { because } => format!("polarity: {because}"),
        Reason::InspectionOpen { open, of } => {
            format!("{open} of {of} items of the schedule of inspections are not answered")
        }
        Reason::DepartureUnexplained { item } => {
            format!("a departure without its reason: {}", inspection::text(item))
        }
        Reason::NotPutBack { alteration, note } => format!("{} is not put back: {note}", alteration.label()),
        Reason::Owed { thing, made_safe } => format!("owed: {thing}; made safe: {made_safe}"),
        Reason::EarthOff => "the earthing conductor is off (supply exposed)".to_owned(),
        Reason::DevicesBelow { ka, how, way, device, breaks_ka, more } => {
            let more = if *more > 0 { format!(" and {more} more") } else { String::new() };
            format!("the fault level is {ka} kA ({how}); way {way} {device} breaks {breaks_ka} kA{more}")
        }
        Reason::Reading(reading) => odd_reading(reading),
        Reason::NotTested { label, figure, value, .. } => {
            let said = if matches!(value, Value::Limitation(_)) { "limitation" } else { "not applicable" };
            format!("{}: {said}: {}", called(label, figure), value.reason().unwrap_or_default())
        }
        Reason::StruckOut { label, figure, value, .. } => format!(
            "{}: {} was read, failed and was struck out, and no figure took its place",
            called(label, figure),
            value.shown()
        ),
        Reason::Flaw(found) => super::wording::flaw(found),
        Reason::Slip(found) => super::wording::slip(found),
        Reason::Described(found) => of_description(found),
        Reason::Compared(found) => of_comparison(found),
        Reason::InstrumentDoubtful { why, readings } => {
            format!("{}: it took {readings} of the readings that stand", distrust(why))
        }
        Reason::LeadsUnsaid { readings } => {
            format!("{readings} low-resistance readings with leads neither nulled nor subtracted")
        }
        Reason::Breach { breach, .. } => breached(*breach),
        Reason::OutOfOrder { readings, wanted, board, state } => {
            let count = if *readings == 1 { "1 reading".to_owned() } else { format!("{readings} readings") };
            format!("{count} of {}, taken while the log has {board} {}", test_of(*wanted), standing(*state))
        }
    }
}

fn breached(breach: Breach) -> String {
    match breach {
        Breach::EnergisedEarthOff => "energised while an earth or a bond was off on the supply".to_owned(),
        Breach::EnergisedItemsOpen { count: 1 } => "energised with 1 item not put back".to_owned(),
        Breach::EnergisedItemsOpen { count } => format!("energised with {count} items not put back"),
        Breach::EnergisedBelowDead => "energised while what feeds it was dead".to_owned(),
        Breach::ExposedNotDead => {
            "the earthing conductor was taken off while a board on the supply was not proved dead".to_owned()
        }
        Breach::AlteredNotDead { alteration } => {
            format!("{}: conductors were touched that were not proved dead", alteration.label())
        }
        Breach::NotProved { lacking } => format!(
            "its record of proving dead proves nothing: {}",
            match lacking {
                Lacking::Pairs { tested, of } => format!("{tested} of {of} pairs were tested"),
                Lacking::Indication => "the indicator showed something".to_owned(),
                Lacking::Indicator => "the indicator was not proved before, or not again after".to_owned(),
                Lacking::Source => "another source was not isolated with it".to_owned(),
            }
        ),
    }
}

fn of_description(found: &Described) -> String {
    match found {
        Described::RingTooThin { mm2, least_mm2 } => {
            format!(
                "a ring in {mm2} mm²: at least {least_mm2} mm² (BS 7671 433.1.204 (30/32 A ring: at least 2.5 mm² (1.5 mineral-insulated), each leg 20 A))"
            )
        }
        Described::LegCarries { amps } => {
            format!("each leg carries {amps} A by its reference method, less than 20 A")
        }
        Described::DeviceOverCable { device, amps } => {
            format!("{device} behind cable of {amps} A (no grouping or ambient factors)")
        }
        Described::NoAdditionalProtection => {
            "socket-outlets up to 32 A without an RCD of 30 mA or less (BS 7671 411.3.3, from memory)".to_owned()
        }
        Described::CapacityUnknown => "the breaking capacity of its device is not given".to_owned(),
        Described::RcdBlind { rcd, detects, carries, wanted } => format!(
            "RCD {rcd} is type {detects:?}, and the circuit feeds a {}: type {wanted:?} (BS 7671 531.3.3 (type of RCD by the residual current of what it feeds), from memory: check against your own copy)",
            carries.label()
        ),
        Described::TripTogether { rcd, idn_ma, board } => format!(
            "RCD {rcd} ({idn_ma} mA, not delayed) feeds {board}, whose circuits have RCDs of their own: a fault there may trip both"
        ),
    }
}

fn of_comparison(found: &Compared) -> String {
    match found {
        Compared::SameAtEveryPoint { ohm, points, cable_ohm } => format!(
            "R1+R2 is {ohm} Ω at each of {points} points, and {cable_ohm} Ω of cable lies between board and end"
        ),
        Compared::SameOnWays { zs, ohm, ways, least_ohm, most_ohm } => format!(
            "{} is {ohm} Ω on each of ways {}, and their copper lies between {least_ohm} and {most_ohm} Ω",
            if *zs { "Zs" } else { "R1+R2" },
            ways.join(", ")
        ),
        Compared::FiveSlower { one_ms, five_ms } => {
            format!("the RCD trips in {five_ms} ms at 5 IΔn, slower than the {one_ms} ms at IΔn")
        }
        Compared::RingCannotGive { read, r1, r2, quarter, spurs } => {
            let more = spurs.map(|ohm| format!(", {ohm} Ω more on the spurs")).unwrap_or_default();
            format!("the highest R1+R2 is {read} Ω, and r1 {r1} with r2 {r2} give (r1 + r2)/4 = {quarter} Ω{more}")
        }
        Compared::UnderLength { read, expected } => {
            format!("the highest R1+R2 is {read} Ω, and {expected} Ω is what the length of its cable gives")
        }
    }
}

const fn particular(missing: Particular) -> &'static str {
    match missing {
        Particular::Client => "the client's name is not given",
        Particular::Address => "the address of the site is not given",
        Particular::Extent => "the extent of the work that the certificate covers is not given",
        Particular::Board => "no board is described",
        Particular::Circuit => "no circuit is described",
        Particular::Bonds => "no main bonding conductor is described",
        Particular::Firm => "the firm that issues the certificate is not named",
        Particular::Tails => "the size of the tails is not given",
        Particular::Earthing => "the size of the earthing conductor is not given",
        Particular::SupplyDevice => "the distributor's device and its rating are not given",
        Particular::Electrode => "the electrode is not described",
        Particular::BondSize => "the size of a bond is not given",
        Particular::MainSwitch => "the main switch is not described: kind, poles, rating",
        Particular::BoardPlace => "it is not said where the board is",
        Particular::CableKind => "the kind of its cable is not given",
        Particular::Description => "it is not said what the circuit is",
    }
}

fn not_read(stage: Stage, labels: &[String]) -> String {
    let all = match labels {
        [first, second, .., _] if labels.len() > 4 => format!("{first}, {second} and {} more", labels.len() - 2),
        few => few.join(", "),
    };
    match stage {
        Stage::Polarity | Stage::Zs => format!("{all} not read"),
        Stage::Functional => format!("{all} not done"),
        stage => format!("{}: {all} not read", stage.label()),
    }
}

fn distrust(why: &Distrust) -> String {
    match why {
        Distrust::OutOfCalibration { name, due, on } => {
            format!("{name} was out of calibration: due {due}, read {on}")
        }
        Distrust::NoDate { name } => format!("{name} has no calibration date"),
        Distrust::NeverChecked { name, of } => format!("{name} has no check of its {} range", of.key()),
        Distrust::CheckedLongAgo { name, on, days } => format!("{name} was last checked on {on}, {days} days before"),
        // Later than this wording: said as it is said now.
        Distrust::NotRight { .. } => why.to_string(),
        Distrust::ShowedWrong { name, of, read, fixed, on } => {
            format!("{name} showed {read} {} for {fixed} on {on}", of.unit())
        }
    }
}

/// A point that is only numbered is spoken of with what is read at it.
fn called(label: &str, figure: &str) -> String {
    if label.starts_with(|c: char| c.is_ascii_digit()) { format!("{figure} at {label}") } else { label.to_owned() }
}

fn odd_reading(reading: &OddReading) -> String {
    let what = called(&reading.label, reading.figure);
    let said = format!("{what} {} {}", reading.value.shown(), reading.unit);
    let notes = reading.reasons.iter().map(wording_1::reason).collect::<Vec<_>>().join("; ");
    if reading.outside {
        format!(
            "{}: outside its limit ({}){}{notes}",
            said.trim(),
            reading.bound.as_ref().map(wording_1::bound).unwrap_or_default(),
            if notes.is_empty() { "" } else { "; " }
        )
    } else {
        format!("{}: {notes}", said.trim())
    }
}

/// What a test is called that was taken in the wrong state.
const fn test_of(wanted: Wanted) -> &'static str {
    match wanted {
        Wanted::Dead => "a dead test",
        Wanted::Exposed => "Ze, read with the earthing conductor off",
        Wanted::EarthOn => "a fault current, read with the earth back on",
        Wanted::Live | Wanted::Incoming | Wanted::Nothing => "a live test",
    }
}

const fn standing(state: BoardState) -> &'static str {
    match state {
        BoardState::NotProved => "not proved dead",
        BoardState::ProvedDead => "proved dead",
        BoardState::SupplyExposed => "exposed",
        BoardState::Energised => "energised",
    }
}
