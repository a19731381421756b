//! A reading that an instrument sent, dropped into the card at hand: after its test, unit, range and place are checked.

use super::reading::{Figure, With, read};
use super::runs::Runs;
use super::{Actor, Recorded, Refusal, ze_sent};
use crate::plan::run::{Order, Planned};
use proof_job::installation::{Circuit, Installation};
use proof_job::job::Job;
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

/// Why a reading of an instrument is not taken into the card at hand.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum FeedRefusal {
    /// A simulation's reading in a job of work.
    #[error("it is simulated, and this job was made as work: simulated readings go only into a demo or a practice job")]
    Simulated,
    /// Another instrument.
    #[error("it comes from {given}, and {joined} is joined")]
    OtherInstrument {
        /// As it calls itself.
        given: String,
        /// The one that is joined.
        joined: String,
    },
    /// Nothing is asked for.
    #[error("the run asks for no reading now")]
    NoCard,
    /// The earthing conductor is off.
    #[error("it is {}, and the earthing conductor is off: Ze alone is read until it is back on", .given.label())]
    EarthOff {
        /// What was measured.
        given: Measured,
    },
    /// Something is done first.
    #[error("{card} wants something done first: the card says what")]
    First {
        /// The reading that is asked for.
        card: String,
    },
    /// Another test.
    #[error("it is {}, and {card} takes {}", .given.label(), .wanted.map_or("pass or fail", Measured::label))]
    OtherTest {
        /// What was measured.
        given: Measured,
        /// The reading that is asked for.
        card: String,
        /// What it takes.
        wanted: Option<Measured>,
    },
    /// Other conductors.
    #[error("the probes were on {given}, and {card} is read {wanted}")]
    OtherPair {
        /// Under the probes.
        given: Pair,
        /// The reading that is asked for.
        card: String,
        /// The pair it is read between.
        wanted: Pair,
    },
    /// The pair is not said.
    #[error("it does not say which conductors the probes were on, and {card} may be any pair")]
    NoPair {
        /// The reading that is asked for.
        card: String,
    },
    /// Another range.
    #[error("it was read {given}, and {card} is read {wanted}")]
    OtherRange {
        /// As set.
        given: String,
        /// The reading that is asked for.
        card: String,
        /// As wanted.
        wanted: String,
    },
    /// Another place.
    #[error("it was read at {given}, and {card} is at hand")]
    OtherPlace {
        /// Where the instrument was told to be.
        given: String,
        /// The reading that is asked for.
        card: String,
    },
}

/// What a card asks for, in words.
fn describe(installation: &Installation, planned: &Planned) -> String {
    let circuit = planned.circuit.and_then(|id| installation.circuit(id));
    let way = circuit.map(|one| format!("way {} {}, ", one.way, one.description)).unwrap_or_default();
    format!("“{way}{}: {}”", planned.step.stage.label(), planned.step.label)
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
        let idn = circuit.and_then(|circuit| installation.rcd_of(circuit)).map(|rcd| rcd.idn_ma);
        if let (Some(given), Some(idn)) = (message.residual_ma, idn)
            && Decimal::from(given) != idn.0
        {
            return range(format!("at {given} mA"), format!("at {} mA", idn.0.normalize()));
        }
    }
    Ok(())
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

/// The reading of the run that a message belongs to: the card at hand.
fn current_card(job: &Job, runs: &Runs<'_>, message: &Message, joined: &Joined) -> Result<Planned, FeedRefusal> {
    let installation = &job.installation;
    let asked = joined.asked.as_ref().map(|(of, slug)| (*of, slug.as_str()));
    let last = joined.last.as_ref().and_then(|(of, slug)| runs.named(*of, slug));
    let mut planned = runs.current_card(asked, last).ok_or(FeedRefusal::NoCard)?;
    // Of insulation the probes may be on any pair that is left: the instrument says which.
    if planned.step.key.test == Test::Insulation && message.measured == Measured::Insulation {
        let card = || describe(installation, planned);
        let given = message.pair().ok_or_else(|| FeedRefusal::NoPair { card: card() })?;
        let wanted = planned.step.key.pair.unwrap_or(given);
        let on = runs.dead.on_pair(planned, &given.key());
        planned = on.ok_or_else(|| FeedRefusal::OtherPair { given, card: card(), wanted })?;
    }
    let card = describe(installation, planned);
    let circuit = planned.circuit.and_then(|id| installation.circuit(id));
    fits(installation, circuit, planned.board, &planned.step, message, &card)?;
    if !runs.is_prepared(planned) {
        return Err(FeedRefusal::First { card });
    }
    Ok(planned.clone())
}

/// Whether a reading of this instrument may come into a job at all.
pub(super) fn may_come(job: &Job, message: &Message, instrument: Uuid) -> Result<(), FeedRefusal> {
    if message.simulated && job.made_as.is_work() {
        return Err(FeedRefusal::Simulated);
    }
    let joined = job.instruments.iter().find(|one| one.id == instrument);
    let joined = joined.map_or_else(|| "none of the register".to_owned(), |one| one.reference.clone());
    let same = joined.eq_ignore_ascii_case(message.instrument.trim());
    if same { Ok(()) } else { Err(FeedRefusal::OtherInstrument { given: message.instrument.clone(), joined }) }
}

/// Where a message went.
#[derive(Debug, Clone, PartialEq)]
pub enum Delivery {
    /// Into a card: it is a reading of the job.
    Card(Planned),
    /// Into a field of Ze: it is held until the earthing conductor is back on, and filed with that word.
    Ze {
        /// The event by which the supply was exposed.
        exposure: Uuid,
    },
    /// It is stored already.
    Nowhere,
}

impl Delivery {
    /// The exposure under which it is held, if it is.
    pub const fn held(&self) -> Option<Uuid> {
        match self {
            Self::Ze { exposure } => Some(*exposure),
            Self::Card(_) | Self::Nowhere => None,
        }
    }
}

/// Takes a reading that an instrument sent into the card at hand, or holds it where Ze is read; where it went is told
/// with it.
///
/// # Errors
/// [`Refusal`]: it is not taken, and why. One that is stored already is taken again as nothing.
pub fn receive(job: &Job, message: &Message, joined: &Joined, hand: &Actor) -> Result<(Recorded, Delivery), Refusal> {
    if job.readings.iter().any(|reading| reading.id == message.id) {
        return Ok((Recorded::default(), Delivery::Nowhere));
    }
    may_come(job, message, joined.instrument)?;
    let settled = job.settled();
    if let Some(exposure) = ze_sent::exposure(job) {
        ze_sent::held(job, &settled, message, joined, hand)?;
        return Ok((Recorded::default(), Delivery::Ze { exposure: exposure.id }));
    }
    let runs = Runs::for_job(job, &settled, joined.order);
    let planned = current_card(job, &runs, message, joined)?;
    let figure = Figure {
        step: (*planned.step).clone(),
        typed: message.typed(),
        pressed: String::new(),
        with: With::received(message, joined.instrument, &joined.read_by),
    };
    let hand = Actor::new(message.id, &hand.by, hand.at);
    Ok((read(job, &figure, &hand)?, Delivery::Card(planned)))
}
