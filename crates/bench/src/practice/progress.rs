//! Progress of one person: what is weak comes again sooner.
//!
//! Five boxes; what was done cleanly goes one box on and is asked again after the days of that box, what was not goes back
//! to the first. A usual scheme of spaced repetition; the days are ours (common practice, no source).

use super::posed::Exercise;
use jiff::{SignedDuration, Timestamp};

/// Days until an exercise is asked again, by its box.
const DAYS: [i64; 5] = [0, 1, 3, 8, 21];

/// One exercise that was finished.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Done {
    /// Which.
    pub exercise: Exercise,
    /// When.
    pub at: Timestamp,
    /// Whether it was clean.
    pub clean: bool,
}

/// How a person stands with an exercise.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ExerciseProgress {
    /// Which.
    pub exercise: Exercise,
    /// How often it was finished.
    pub times: usize,
    /// How often cleanly.
    pub clean: usize,
    /// Its box, from zero.
    pub place: usize,
    /// When it is asked again; `None`: it was never done.
    pub due: Option<Timestamp>,
}

/// How a person stands with every exercise, in the order of the work.
pub fn standing(done: &[Done]) -> Vec<ExerciseProgress> {
    let of = |exercise: Exercise| {
        let mut all: Vec<&Done> = done.iter().filter(|one| one.exercise == exercise).collect();
        all.sort_by_key(|one| one.at);
        let place = all.iter().fold(0, |place: usize, one| if one.clean { (place + 1).min(DAYS.len() - 1) } else { 0 });
        let due =
            all.last().map(|last| last.at.checked_add(SignedDuration::from_hours(24 * DAYS[place])).unwrap_or(last.at));
        ExerciseProgress { exercise, times: all.len(), clean: all.iter().filter(|one| one.clean).count(), place, due }
    };
    Exercise::ALL.map(of).to_vec()
}

/// What to do next: what is due and weakest first, else the first that was never done, else what is due soonest.
pub fn next(standing: &[ExerciseProgress], now: Timestamp) -> Option<Exercise> {
    let due =
        standing.iter().filter(|one| one.due.is_some_and(|due| due <= now)).min_by_key(|one| (one.place, one.due));
    let new = standing.iter().find(|one| one.due.is_none());
    let soonest = standing.iter().min_by_key(|one| one.due);
    due.or(new).or(soonest).map(|one| one.exercise)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(hours: i64) -> Timestamp {
        Timestamp::from_second(1_790_000_000 + hours * 3600).unwrap()
    }

    #[test]
    fn what_is_weak_comes_again_sooner() {
        let done = |exercise, hours, clean| Done { exercise, at: at(hours), clean };
        assert_eq!(next(&standing(&[]), at(0)), Some(Exercise::ProveDead));
        let some = [done(Exercise::ProveDead, 0, true), done(Exercise::Radial, 1, false)];
        assert_eq!(next(&standing(&some), at(2)), Some(Exercise::Radial), "missed: at once");
        let some = [some[0], some[1], done(Exercise::Radial, 3, true)];
        assert_eq!(next(&standing(&some), at(4)), Some(Exercise::Null), "nothing is due: the next that is new");
        assert_eq!(next(&standing(&some), at(26)), Some(Exercise::ProveDead), "due after a day");
        let held =
            standing(&[done(Exercise::Ring, 0, true), done(Exercise::Ring, 30, true), done(Exercise::Ring, 31, false)]);
        assert_eq!((held[5].times, held[5].clean, held[5].place), (3, 2, 0), "back to the first box");
    }
}
