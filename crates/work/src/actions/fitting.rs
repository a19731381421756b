//! Whether what an instrument sends fits a step.

use super::feed_refusal::FeedRefusal;
use crate::plan::run::Order;
use proof_job::installation::{Circuit, Installation};
use proof_job::reading::message::{At, Measured, Message};
use proof_job::reading::{Step, Test};
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::limits::rcd::{HalfCycle, Multiple};
use rust_decimal::Decimal;
use uuid::Uuid;

/// Who joined an instrument to the run, and for which card.
#[derive(Debug, Clone)]
pub struct Joined {
    /// The instrument of the register that is joined.
    pub instrument: Uuid,
    /// Who holds the probes; empty: who joined.
    pub read_by: String,
    /// The order of the run.
    pub order: Order,
    /// The card on the screen of who joined, if there is one.
    pub asked: Option<(Uuid, String)>,
    /// The reading taken before: what comes after it is at hand where no screen shows a card.
    pub last: Option<(Uuid, String)>,
}

/// The pair that a test is read between, as far as the test alone says it.
pub(super) fn pair_of(step: &Step) -> Option<Pair> {
    step.key.pair.or(match step.key.test {
        Test::R1Rn | Test::LineNeutralLoop => Some(Pair::LINE_NEUTRAL),
        Test::R1R2 | Test::Zs | Test::Ze => Some(Pair::LINE_EARTH),
        _ => None,
    })
}

/// A line of three is a line.
fn plain(pair: Pair) -> Pair {
    let line = |one: Conductor| match one {
        Conductor::L1 | Conductor::L2 | Conductor::L3 => Conductor::L,
        other => other,
    };
    let (a, b) = pair.both();
    Pair::new(line(a), line(b)).unwrap_or(pair)
}

/// Whether the pair under the probes is the one a step is read between; on one line of three, that line.
fn same_pair(step: &Step, given: Pair) -> Option<Pair> {
    let wanted = pair_of(step)?;
    let (a, b) = given.both();
    let other_line = step.key.line.is_some_and(|line| a != Conductor::L && a != line && b != line);
    let same = wanted == given || (step.key.pair.is_none() && plain(wanted) == plain(given) && !other_line);
    (!same).then_some(wanted)
}

/// Why what was measured, and how the instrument was set, does not fit a step.
pub(super) fn misfit(
    installation: &Installation,
    circuit: Option<&Circuit>,
    step: &Step,
    message: &Message,
    card: &str,
) -> Result<(), FeedRefusal> {
    let card = || card.to_owned();
    let wanted = Measured::for_field(step.field);
    if wanted != Some(message.measured) {
        return Err(FeedRefusal::OtherTest { given: message.measured, card: card(), wanted });
    }
    if let Some(given) = message.pair()
        && let Some(wanted) = same_pair(step, given)
    {
        return Err(FeedRefusal::OtherPair { given, card: card(), wanted });
    }
    let range = |given: String, wanted: String| Err(FeedRefusal::OtherRange { given, card: card(), wanted });
    if let (Some(given), Some(wanted)) = (message.test_v, step.test_voltage)
        && f64::from(given) != wanted.get()
    {
        return range(format!("at {given} V"), format!("at {} V", wanted.get()));
    }
    if let Test::RcdTrip { multiple, half_cycle } = step.key.test {
        if let Some(given) = message.multiple.filter(|given| *given != multiple) {
            return range(times(given), times(multiple));
        }
        if let Some(given) = message.half_cycle.filter(|given| *given != half_cycle) {
            return range(from(given), from(half_cycle));
        }
        let idn = circuit.and_then(|circuit| installation.rcd_for(circuit)).map(|rcd| rcd.idn_ma);
        if let (Some(given), Some(idn)) = (message.residual_ma, idn)
            && Decimal::from(given) != idn.0
        {
            return range(format!("at {given} mA"), format!("at {} mA", idn.0.normalize()));
        }
    }
    Ok(())
}

/// Whether where an instrument was told to be is where a step is read.
pub(super) fn is_at(installation: &Installation, circuit: Option<&Circuit>, board: Uuid, step: &Step, at: &At) -> bool {
    let same = |a: &str, b: &str| a.trim().eq_ignore_ascii_case(b.trim());
    let name = installation.board(board).map_or("", |board| board.name.as_str());
    let point = step.key.subject.place().and_then(|place| circuit?.point(place.point()?));
    at.board.as_ref().is_none_or(|given| same(given, name))
        && at.way.as_ref().is_none_or(|given| circuit.is_some_and(|circuit| same(given, &circuit.way)))
        && at.step.as_ref().is_none_or(|given| same(given, &step.slug))
        && at.point.as_ref().is_none_or(|given| {
            point.is_some_and(|point| same(given, &point.name) || same(given, &point.id.0.to_string()))
        })
}

/// Why a message does not fit a step: what was measured, how the instrument was set, or where it was told to be.
pub(super) fn fits(
    installation: &Installation,
    circuit: Option<&Circuit>,
    board: Uuid,
    step: &Step,
    message: &Message,
    card: &str,
) -> Result<(), FeedRefusal> {
    misfit(installation, circuit, step, message, card)?;
    match message.at.as_ref().filter(|at| !is_at(installation, circuit, board, step, at)) {
        Some(at) => Err(FeedRefusal::OtherPlace { given: describe_place(at), card: card.to_owned() }),
        None => Ok(()),
    }
}

pub(super) fn describe_place(at: &At) -> String {
    let named = |what: &str, name: &Option<String>| name.as_ref().map(|name| format!("{what} {name}"));
    let all = [named("board", &at.board), named("way", &at.way), named("point", &at.point), named("step", &at.step)];
    all.into_iter().flatten().collect::<Vec<_>>().join(", ")
}

fn times(multiple: Multiple) -> String {
    match multiple {
        Multiple::Half => "at ½ IΔn",
        Multiple::One => "at IΔn",
        Multiple::Five => "at 5 IΔn",
    }
    .to_owned()
}

fn from(half_cycle: HalfCycle) -> String {
    match half_cycle {
        HalfCycle::Deg0 => "from 0°",
        HalfCycle::Deg180 => "from 180°",
    }
    .to_owned()
}
