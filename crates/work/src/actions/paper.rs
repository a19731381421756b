//! What is copied from paper: it was read before, on a day that is said, and in a state that the site was in
//! on that day as far as its log goes.

use super::figure::Logged;
use super::refusal::Wanting;
use super::{Actor, Refusal, With};
use jiff::civil::Date;
use proof_job::job::Job;
use proof_job::reading::Key;
use proof_job::site;
use proof_job::site::{Wanted, held_on, taken_on};

/// The day on which it was read, of what was copied from paper and of what a log gives no time of; else `None`.
pub(super) fn day(with: &With, hand: &Actor) -> Result<Option<Date>, Refusal> {
    let wanting = match (with.paper, with.logged) {
        (_, Some(Logged::NoTime)) => Wanting::LogDay,
        (true, None) => Wanting::PaperDay,
        _ => return Ok(None),
    };
    let typed = with.paper_on.trim();
    if typed.is_empty() {
        return Err(Refusal::Wanting(wanting));
    }
    let day: Date = typed.parse().map_err(|_| Refusal::NoDay(typed.to_owned()))?;
    if day > site::day(hand.at) {
        return Err(Refusal::NotYet(day));
    }
    Ok(Some(day))
}

/// Paper excuses no order: where the log knows the board on that day, it was in the right state then.
pub(super) fn in_order(job: &Job, key: &Key, day: Date) -> Result<(), Refusal> {
    let wanted = Wanted::for_key(key);
    if matches!(wanted, Wanted::Incoming | Wanted::Nothing) {
        return Ok(());
    }
    let Some((board, circuit)) = taken_on(&job.installation, &key.subject) else { return Ok(()) };
    if held_on(&job.events, wanted, (board, circuit), day) == Some(false) {
        let name = job.installation.board(board).map_or("the board", |board| board.name.as_str());
        return Err(Refusal::NotThatDay { board: name.to_owned(), day, wanted });
    }
    Ok(())
}
