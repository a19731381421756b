//! Ze in its own state: the supply exposed, filed only when the earthing conductor is back on.

use super::refusal::Wanting;
use super::{Actor, Figure, Recorded, Refusal, With, on_site, reading};
use crate::gate::check_expose;
use crate::plan::sequence::origin_steps;
use jiff::ToSpan;
use proof_job::installation::{Feed, Installation};
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Reading, Step, Test};
use proof_job::site::spoken_to::before_exposure;
use proof_job::site::{Event, EventKind};
use uuid::Uuid;

/// A figure of Ze: that of a line.
#[derive(Debug, Clone, Default)]
pub struct ZeFigure {
    /// Slug of its step.
    pub slug: String,
    /// What stands in the field.
    pub typed: String,
    /// Of the reading that it becomes; of one that an instrument sent, the instrument's own.
    pub id: Uuid,
    /// How it was read.
    pub with: With,
}

/// Ze as typed.
#[derive(Debug, Clone, Default)]
pub struct Ze {
    /// A figure for each line.
    pub figures: Vec<ZeFigure>,
    /// The earthing conductor is back on.
    pub earth_restored: bool,
    /// Nothing was read: only the word that it is back on.
    pub only_restored: bool,
}

/// The steps that read Ze: one a line.
pub fn ze_steps(installation: &Installation) -> Vec<Step> {
    origin_steps(installation).into_iter().filter(|step| step.key.test == Test::Ze).collect()
}

/// The board at the origin.
pub(super) fn origin_board(installation: &Installation) -> Result<Uuid, Refusal> {
    let fed = installation.boards.iter().find(|board| board.fed_by == Feed::Supply);
    fed.map(|board| board.id).ok_or(Refusal::NoOrigin)
}

/// Takes the earthing conductor off: nothing else is open, everything is proved dead.
pub(super) fn expose(job: &Job, word: &str, hand: &Actor) -> Result<Recorded, Refusal> {
    let board = origin_board(&job.installation)?;
    check_expose(job, board).map_err(Refusal::Gate)?;
    on_site::spoken_to(&before_exposure(&job.installation, &job.site(), &hand.by), word)?;
    Ok(Recorded { events: vec![hand.event(EventKind::SupplyExposed { board })], ..Recorded::default() })
}

/// Files the figures with the word that the earthing conductor is back on; or only that word.
pub(super) fn file(job: &Job, ze: &Ze, hand: &Actor) -> Result<Recorded, Refusal> {
    let board = origin_board(&job.installation)?;
    if job.site().earth_off(board).is_none() {
        return Err(Refusal::NotExposed);
    }
    let mut wrong: Vec<(String, Refusal)> = Vec::new();
    if hand.by.trim().is_empty() {
        wrong.push(("entered_by".to_owned(), Refusal::NobodyWrites));
    }
    if !ze.earth_restored {
        wrong.push(("refitted".to_owned(), Refusal::Wanting(Wanting::Refitted)));
    }
    let settled = job.settled();
    let mut readings = Vec::new();
    for step in ze_steps(&job.installation) {
        let slug = step.slug.clone();
        let figure = ze.figures.iter().find(|one| one.slug == slug && !one.typed.trim().is_empty());
        let Some(figure) = figure else {
            if !ze.only_restored {
                wrong.push((slug, Refusal::Wanting(Wanting::Ze)));
            }
            continue;
        };
        match line(job, &settled, step, figure, hand) {
            Ok(reading) => readings.push(reading),
            Err(why) => wrong.push((slug, why)),
        }
    }
    if !wrong.is_empty() {
        return Err(Refusal::Fields(wrong));
    }
    // The figures were read before the conductor went back on, though both are told at one moment.
    let earth_restored = Event { at: hand.at + 1.microsecond(), ..hand.event(EventKind::EarthRefitted { board }) };
    Ok(Recorded { readings, events: vec![earth_restored] })
}

/// The reading that a figure becomes.
pub(super) fn line(
    job: &Job,
    settled: &CurrentReadings<'_>,
    step: Step,
    given: &ZeFigure,
    hand: &Actor,
) -> Result<Reading, Refusal> {
    let figure = Figure { step, typed: given.typed.clone(), pressed: String::new(), with: given.with.clone() };
    reading::made(job, settled, &figure, hand, given.id)
}
