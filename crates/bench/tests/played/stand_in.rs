//! A reading that an instrument sends, beside the card at hand: what fits is taken as it is shown, what does not is
//! refused with its reason; and what the instrument remembers over a switch-off.

use jiff::Timestamp;
use proof_bench::demo;
use proof_bench::simulated_instrument::{Memory, job_messages, pressed};
use proof_job::installation::Feed;
use proof_job::job::{Job, MadeAs};
use proof_job::reading::message::{At, FeedReply, Measured, Message, NoMessage, Unit};
use proof_job::reading::{Origin, Test, Value};
use proof_job::site::{Event, EventKind};
use proof_standard::conductor::Conductor;
use proof_work::actions::{Actor, Delivery, FeedRefusal, Joined, Refusal, ZeField, receive, ze_line, ze_steps};
use proof_work::plan::run::Order;
use rust_decimal::dec;
use std::fs;
use uuid::Uuid;

/// A job whose run asks for insulation of way 1, dead and prepared.
fn job() -> Job {
    let mut job = demo::jobs().remove(1);
    job.made_as = MadeAs::Practice;
    job
}

fn joined(job: &Job) -> Joined {
    let instrument = job.instruments.iter().find(|one| one.reference == "MFT-2").unwrap().id;
    Joined { instrument, read_by: "Maud Ferrow".into(), order: Order::default(), asked: None, last: None }
}

fn message(line: &str) -> Message {
    pressed(line, "MFT-2", Uuid::new_v4(), Timestamp::now()).unwrap()
}

fn sent(job: &Job, message: &Message) -> Result<(Value, Origin), Refusal> {
    let hand = Actor::new(Uuid::new_v4(), "Idris Kell", Timestamp::now());
    let (taken, _) = receive(job, message, &joined(job), &hand)?;
    let reading = &taken.readings[0];
    assert_eq!(reading.id, message.id);
    assert!(reading.context.simulated && reading.context.read_by.as_deref() == Some("Maud Ferrow"));
    Ok((reading.value.clone(), reading.context.origin))
}

#[test]
fn what_fits_the_card_is_taken_as_it_is_shown() {
    let job = job();
    for (line, value) in [
        ("insulation >999 megohm L-E 500V", Value::Over(dec!(999))),
        ("insulation 0.5 gigohm N-E way 1", Value::Number(dec!(500))),
        ("insulation 320 kilohm N-L 500V", Value::Number(dec!(0.320))),
        ("insulation OL L-E", Value::Over(dec!(999))),
    ] {
        assert_eq!(sent(&job, &message(line)).unwrap(), (value, Origin::Instrument), "{line}");
    }
    // The card on the screen is another.
    let way = job.installation.circuits.iter().find(|circuit| circuit.way == "1").unwrap().id;
    let elsewhere = Joined { asked: Some((way, "ir-n-l".into())), ..joined(&job) };
    let hand = Actor::new(Uuid::new_v4(), "Idris Kell", Timestamp::now());
    let (taken, into) = receive(&job, &message("insulation 340 megohm L-N"), &elsewhere, &hand).unwrap();
    assert_eq!(taken.readings[0].value, Value::Number(dec!(340)));
    assert!(matches!(into, Delivery::CurrentCard(planned) if planned.step.slug == "ir-n-l"));
}

#[test]
fn what_does_not_fit_is_refused_with_its_reason() {
    let job = job();
    let not_here = |line: &str| match sent(&job, &message(line)) {
        Err(Refusal::Feed(why)) => why,
        other => panic!("{line}: {other:?}"),
    };
    assert!(matches!(
        not_here("low_resistance 0.34 ohm L-E"),
        FeedRefusal::OtherTest { given: Measured::LowResistance, .. }
    ));
    assert!(matches!(not_here("insulation >999 megohm"), FeedRefusal::NoPair { .. }));
    assert!(matches!(not_here("insulation >999 megohm L1-L2"), FeedRefusal::OtherPair { .. }));
    assert!(matches!(not_here("insulation >999 megohm L-E 250V"), FeedRefusal::OtherRange { .. }));
    assert!(matches!(not_here("insulation >999 megohm L-E way 2"), FeedRefusal::OtherPlace { .. }));
    assert!(matches!(not_here("insulation >999 megohm L-E step r1"), FeedRefusal::OtherPlace { .. }));
    let other = Message { instrument: "MFT-9".into(), ..message("insulation >999 megohm L-E") };
    assert!(matches!(sent(&job, &other), Err(Refusal::Feed(FeedRefusal::OtherInstrument { .. }))));
    let mut work = job.clone();
    work.made_as = MadeAs::Work;
    let simulated = message("insulation >999 megohm L-E");
    assert!(matches!(sent(&work, &simulated), Err(Refusal::Feed(FeedRefusal::Simulated))));
    // An instrument that is none of a simulation's may come into work.
    let real = Message { simulated: false, ..simulated.clone() };
    let hand = Actor::new(Uuid::new_v4(), "Idris Kell", Timestamp::now());
    let (taken, _) = receive(&work, &real, &joined(&work), &hand).unwrap();
    assert!(!taken.readings[0].context.simulated);
    // A card that wants something done first.
    let mut undone = job.clone();
    undone.events.truncate(0);
    assert!(matches!(sent(&undone, &message("insulation >999 megohm L-E")), Err(Refusal::Feed(_))));
    // Stored already: nothing again.
    let mut had = job.clone();
    let (taken, _) = receive(&had, &simulated, &joined(&had), &hand).unwrap();
    had.readings.extend(taken.readings);
    let (again, into) = receive(&had, &simulated, &joined(&had), &hand).unwrap();
    assert!(again.readings.is_empty() && again.events.is_empty() && into == Delivery::Nowhere);
}

/// A job whose supply is exposed, the earthing conductor off.
fn exposed(mut job: Job) -> Job {
    let board = job.installation.boards.iter().find(|one| one.fed_by == Feed::Supply).unwrap().id;
    job.made_as = MadeAs::Practice;
    let now = Timestamp::now();
    job.events.push(Event::new(Uuid::new_v4(), "Maud Ferrow", now, EventKind::SupplyExposed { board }));
    job
}

#[test]
fn while_the_earth_is_off_ze_alone_is_taken_and_held() {
    let job = exposed(job());
    let hand = Actor::new(Uuid::new_v4(), "Idris Kell", Timestamp::now());
    let sent = |line: &str| receive(&job, &message(line), &joined(&job), &hand);
    for line in ["loop 0.21 ohm L-E", "loop 210 milliohm", "loop 0.21 ohm L1-E step ze", "loop 0.21 ohm E-L"] {
        let (taken, went) = sent(line).unwrap();
        assert!(
            went.held() == Some(job.events.last().unwrap().id) && taken.readings.is_empty() && taken.events.is_empty(),
            "{line}"
        );
    }
    for line in ["insulation >999 megohm L-E", "fault_current 1.2 kiloampere L-E", "low_resistance 0.2 ohm L-E"] {
        assert!(matches!(sent(line), Err(Refusal::Feed(FeedRefusal::EarthOff { .. }))), "{line}");
    }
    assert!(matches!(sent("loop 0.21 ohm L-N"), Err(Refusal::Feed(FeedRefusal::OtherPair { .. }))));
    for line in ["loop 0.21 ohm way 1", "loop 0.21 ohm step zs"] {
        assert!(matches!(sent(line), Err(Refusal::Feed(FeedRefusal::OtherPlace { .. }))), "{line}");
    }
    assert!(matches!(sent("loop 21 ohm L-E"), Err(Refusal::NotZe(_))), "a current");
    let mut work = job.clone();
    work.made_as = MadeAs::Work;
    let simulated = receive(&work, &message("loop 0.21 ohm"), &joined(&work), &hand);
    assert!(matches!(simulated, Err(Refusal::Feed(FeedRefusal::Simulated))));
}

#[test]
fn a_figure_of_ze_goes_into_the_field_of_its_line() {
    let three = demo::jobs().into_iter().find(|job| ze_steps(&job.installation).len() == 3).unwrap();
    let one = job();
    let field = |stand: [ZeField; 3]| {
        move |slug: &str| match slug.chars().last() {
            Some('2') => stand[1],
            Some('3') => stand[2],
            _ => stand[0],
        }
    };
    let (empty, sent, typed) = (ZeField::Empty, ZeField::Sent, ZeField::Typed);
    let slugs: Vec<String> = ze_steps(&three.installation).into_iter().map(|step| step.slug).collect();
    assert!(slugs[1].ends_with('2') && slugs[2].ends_with('3'), "{slugs:?}");
    for (line, stand, into) in [
        ("loop 0.2 ohm L2-E", [empty, empty, empty], Some(1)),
        ("loop 0.2 ohm L2-E", [empty, sent, empty], Some(1)),
        ("loop 0.2 ohm L2-E", [empty, typed, empty], None),
        // Which line is not said: the first that is empty, and none of those that hold a figure.
        ("loop 0.2 ohm L-E", [sent, empty, empty], Some(1)),
        ("loop 0.2 ohm", [sent, typed, empty], Some(2)),
        ("loop 0.2 ohm", [sent, sent, sent], None),
    ] {
        let went = ze_line(&three.installation, &message(line), field(stand));
        assert_eq!(went.as_deref(), into.map(|at: usize| slugs[at].as_str()), "{line} {stand:?}");
    }
    for (stand, into) in [(empty, true), (sent, true), (typed, false)] {
        assert_eq!(ze_line(&one.installation, &message("loop 0.2 ohm"), |_| stand).is_some(), into, "{stand:?}");
    }
}

#[test]
fn a_line_that_is_no_message_is_told() {
    let whole = serde_json::to_string(&message("insulation >999 megohm L-E 500V")).unwrap();
    assert!(Message::read(&whole).is_ok());
    let changed = |from: &str, to: &str| Message::read(&whole.replace(from, to)).unwrap_err();
    assert!(matches!(changed("proof-feed", "other"), NoMessage::Other(..)));
    assert!(matches!(changed("\"version\":1", "\"version\":2"), NoMessage::Other(..)));
    assert!(matches!(changed("\"simulated\":true,", ""), NoMessage::Unreadable(_)));
    assert!(matches!(changed("megohm", "ohm"), NoMessage::Unit(Measured::Insulation, Some(Unit::Ohm))));
    assert!(matches!(changed("[\"L\",\"E\"]", "[\"E\",\"E\"]"), NoMessage::Same(Conductor::E)));
    assert!(matches!(changed(">999", ">9\\u000799"), NoMessage::Text("shown")));
    assert!(matches!(changed("\"shown\"", "\"shows\""), NoMessage::Unreadable(_)));
    assert!(matches!(Message::read(&"x".repeat(9000)), Err(NoMessage::TooLong)));
    let long = Message { at: Some(At { way: Some("3".repeat(300)), ..At::default() }), ..message("insulation OL L-E") };
    assert!(matches!(long.check(), Err(NoMessage::Text("at.way"))));
    for line in ["", "volts 230", "insulation", "insulation 3 megohm sideways", "{\"measured\":7}"] {
        assert!(pressed(line, "MFT-2", Uuid::new_v4(), Timestamp::now()).is_err(), "{line}");
    }
}

#[test]
fn what_is_made_is_remembered_and_what_was_cut_short_was_never_sent() {
    let folder = std::env::temp_dir().join(Uuid::new_v4().to_string());
    fs::create_dir(&folder).unwrap();
    let path = folder.join("memory.jsonl");
    let readings = job_messages(&job(), "MFT-2", 3);
    assert!(readings.len() > 20 && readings.iter().all(|one| one.simulated && one.check().is_ok()));
    let mut memory = Memory::in_file(&path).unwrap();
    for message in &readings[..5] {
        memory.keep(message.clone()).unwrap();
        memory.keep(message.clone()).unwrap();
    }
    memory.answered(FeedReply::Accepted { id: readings[0].id }).unwrap();
    memory.answered(FeedReply::Refused { id: Some(readings[2].id), because: "another card".into() }).unwrap();
    let waiting = |memory: &Memory| memory.waiting(0).into_iter().map(|(number, _)| number).collect::<Vec<_>>();
    assert_eq!(waiting(&memory), [1, 3, 4]);
    drop(memory);
    let whole = fs::read_to_string(&path).unwrap();
    assert_eq!(whole.lines().count(), 7, "each once");
    // Switched off in the middle of a line.
    for cut in [1, 20, 100] {
        fs::write(&path, format!("{whole}{}", &whole[..cut])).unwrap();
        let mut memory = Memory::in_file(&path).unwrap();
        assert_eq!(waiting(&memory), [1, 3, 4]);
        memory.keep(readings[5].clone()).unwrap();
        drop(memory);
        assert_eq!(waiting(&Memory::in_file(&path).unwrap()), [1, 3, 4, 5], "what comes after is whole");
    }
    fs::write(&path, "no memory\n").unwrap();
    assert!(Memory::in_file(&path).is_err());
    fs::remove_dir_all(folder).unwrap();
}

/// What is left at power of a finished job, sent in its order: each goes into a card, and nothing is left.
#[test]
fn what_is_left_at_power_is_sent_to_its_end() {
    let mut job = demo::jobs().remove(0);
    job.made_as = MadeAs::Practice;
    let at_power =
        |test: Test| matches!(test, Test::Zs | Test::FaultCurrent | Test::RcdTrip { .. } | Test::LineNeutralLoop);
    let before = job.readings.len();
    job.readings.retain(|reading| !at_power(reading.key.test));
    assert!(before > job.readings.len() + 10, "it was read whole");
    let mut kinds = Vec::new();
    for message in job_messages(&job, "MFT-2", 9) {
        let hand = Actor::new(message.id, "Idris Kell", Timestamp::now());
        let (taken, went) = receive(&job, &message, &joined(&job), &hand)
            .unwrap_or_else(|why| panic!("{} {:?}: {why}", message.typed(), message.at));
        assert!(matches!(went, Delivery::CurrentCard(_)));
        job.readings.extend(taken.readings);
        job.events.extend(taken.events);
        kinds.push(message.measured);
    }
    for kind in [Measured::FaultCurrent, Measured::Loop, Measured::TripTime] {
        assert!(kinds.contains(&kind), "{kind:?}");
    }
    assert!(job_messages(&job, "MFT-2", 9).is_empty(), "nothing is left");
}
