//! What is copied from paper has its day, and excuses no order: where the log knows the board on that day, it
//! was in the right state then.

use jiff::civil::{Date, date};
use jiff::tz::TimeZone;
use proof_bench::demo;
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Origin, Step, Test};
use proof_job::site::{Event, EventKind, Wanted, held_on};
use proof_work::actions::{Action, Actor, Figure, Recorded, Refusal, With, record};
use proof_work::plan::sequence::circuit_steps;
use uuid::Uuid;

const MONDAY: Date = date(2026, 11, 23);

/// Proved dead on Monday at nine, energised on Wednesday at nine.
fn job() -> Job {
    let mut job = demo::jobs().swap_remove(0);
    job.readings.clear();
    let (board, lines) = (job.installation.boards[0].id, job.installation.boards[0].lines);
    let event = |number: u128, day: Date, kind| {
        let at = day.at(9, 0, 0, 0).to_zoned(TimeZone::UTC).unwrap().timestamp();
        Event::new(Uuid::from_u128(number), "Idris Kell", at, kind)
    };
    let wednesday = MONDAY.saturating_add(jiff::Span::new().days(2));
    job.events = vec![
        event(1, MONDAY, EventKind::proved_dead(board, lines, "VI-1")),
        event(2, wednesday, EventKind::Energised { board, circuits: Vec::new() }),
    ];
    job
}

fn step(job: &Job, test: Test) -> Step {
    let circuit = &job.installation.circuits[6];
    circuit_steps(&job.installation, circuit).into_iter().find(|step| step.key.test == test).unwrap()
}

fn read(job: &Job, test: Test, paper_on: &str) -> Result<Recorded, Refusal> {
    let with = With { paper: true, paper_on: paper_on.into(), ..With::default() };
    let figure = Figure { step: step(job, test), typed: "0.41".into(), pressed: String::new(), with };
    let friday = date(2026, 11, 27).at(12, 0, 0, 0).to_zoned(TimeZone::UTC).unwrap().timestamp();
    record(job, &Action::Read(figure), &Actor::new(Uuid::new_v4(), "Idris Kell", friday))
}

#[test]
fn a_state_of_a_day_is_any_that_was_held_on_it() {
    let job = job();
    let board = (job.installation.boards[0].id, None);
    let held = |wanted, day| held_on(&job.events, wanted, board, date(2026, 11, day));
    // Nothing is known of the Sunday before; on Wednesday it was dead, then live.
    assert_eq!(
        [22, 23, 24, 25, 26].map(|day| held(Wanted::Dead, day)),
        [None, Some(true), Some(true), Some(true), Some(false)]
    );
    assert_eq!(
        [22, 23, 24, 25, 26].map(|day| held(Wanted::Live, day)),
        [None, Some(false), Some(false), Some(true), Some(true)]
    );
    assert_eq!(held_on(&job.events, Wanted::Live, (Uuid::nil(), None), MONDAY), None);
}

#[test]
fn a_live_reading_of_a_day_on_which_the_board_was_dead_is_refused() {
    let job = job();
    for (test, day, taken) in [
        (Test::Zs, "2026-11-24", false),
        (Test::Zs, "2026-11-25", true),
        (Test::Zs, "2026-11-20", true),
        (Test::R1R2, "2026-11-24", true),
        (Test::R1R2, "2026-11-26", false),
    ] {
        let done = read(&job, test, day);
        assert_eq!(done.is_ok(), taken, "{test:?} {day}: {done:?}");
        match done {
            Ok(done) => {
                let context = &done.readings[0].context;
                assert_eq!((context.origin, context.taken_at), (Origin::Paper, None));
                assert_eq!(context.read_on.map(|on| on.to_string()).as_deref(), Some(day));
                assert!(done.events.is_empty(), "paper alters nothing");
            }
            Err(why) => assert!(matches!(why, Refusal::NotThatDay { .. }), "{why}"),
        }
    }
}

#[test]
fn its_day_is_said_and_is_not_to_come() {
    let job = job();
    for (day, code) in [("", "Wanting(PaperDay)"), ("24/11", "NoDay(\"24/11\")"), ("2026-11-28", "NotYet(2026-11-28)")]
    {
        assert_eq!(format!("{:?}", read(&job, Test::R1R2, day).unwrap_err()), code);
    }
}

#[test]
fn an_instrument_is_trusted_by_the_day_on_the_paper() {
    use proof_judge::finding::Kind;
    use proof_work::review::review;
    let mut job = job();
    job.instruments[0].calibration_due = Some(date(2026, 11, 22));
    let mut reading = read(&job, Test::R1R2, "2026-11-24").unwrap().readings.remove(0);
    reading.context.instrument = Some(job.instruments[0].id);
    job.readings.push(reading);
    let doubted = |job: &Job| review(job.into()).iter().any(|one| one.kind() == Kind::InstrumentDoubtful);
    assert!(doubted(&job));
    job.readings[0].context.read_on = Some(date(2026, 11, 20));
    assert!(!doubted(&job));
    assert_eq!(CurrentReadings::new(&job.readings, &job.events).standing().count(), 1);
}
