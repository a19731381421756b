//! A reading that an instrument sent, dropped into the card at hand: after its test, unit, range and place are checked.

use super::feed_refusal::FeedRefusal;
use super::figure::{Figure, With};
use super::fitting::{Joined, fits};
use super::reading::read;
use super::runs::Runs;
use super::{Actor, Recorded, Refusal, ze_sent};
use crate::plan::run::Planned;
use proof_job::installation::Installation;
use proof_job::job::Job;
use proof_job::reading::Test;
use proof_job::reading::message::{Measured, Message};
use uuid::Uuid;

/// What a card asks for, in words.
fn describe(installation: &Installation, planned: &Planned) -> String {
    let circuit = planned.circuit.and_then(|id| installation.circuit(id));
    let way = circuit.map(|one| format!("way {} {}, ", one.way, one.description)).unwrap_or_default();
    format!("“{way}{}: {}”", planned.step.stage.label(), planned.step.label)
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
    CurrentCard(Planned),
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
            Self::CurrentCard(_) | Self::Nowhere => None,
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
    Ok((read(job, &figure, &hand)?, Delivery::CurrentCard(planned)))
}
