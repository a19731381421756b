//! The log, the state that follows from it, the put-back list.

use jiff::Timestamp;
use proof_job::installation::Lines;
use proof_job::site::{
    Alteration, BoardState, Event, EventKind, Replay, board_state, circuit_state, left_dead, open_items,
    outstanding_points,
};
use uuid::Uuid;

fn proved(board: Uuid) -> EventKind {
    EventKind::proved_dead(board, Lines::Single, "VI-1")
}

fn log(kinds: Vec<EventKind>) -> Vec<Event> {
    kinds.into_iter().map(|kind| Event::new(uuid::Uuid::new_v4(), "A. Fitter", Timestamp::UNIX_EPOCH, kind)).collect()
}

#[test]
fn isolation_alone_proves_nothing() {
    let board = Uuid::new_v4();
    let isolated =
        EventKind::Isolated { board, circuits: vec![], lock: "key 4".into(), paperwork: String::new(), neutral: false };
    assert_eq!(board_state(&log(vec![isolated.clone()]), board).0, BoardState::NotProved);
    let proved = log(vec![isolated.clone(), proved(board)]);
    assert_eq!(board_state(&proved, board).0, BoardState::ProvedDead);
    assert_eq!(board_state(&proved, Uuid::new_v4()).0, BoardState::NotProved);
}

#[test]
fn energising_ends_proved_dead_and_exposure_is_a_state_of_its_own() {
    let board = Uuid::new_v4();
    let mut events = log(vec![proved(board), EventKind::SupplyExposed { board }]);
    assert_eq!(board_state(&events, board).0, BoardState::SupplyExposed);
    events.extend(log(vec![EventKind::EarthRefitted { board }]));
    assert_eq!(board_state(&events, board).0, BoardState::NotProved, "the lock came off for it");
    events.extend(log(vec![EventKind::Energised { board, circuits: vec![] }]));
    assert_eq!(board_state(&events, board).0, BoardState::Energised);
}

#[test]
fn one_circuit_may_be_live_and_another_locked_off() {
    let (board, live, dead) = (Uuid::new_v4(), Uuid::new_v4(), Uuid::new_v4());
    let mut events = log(vec![proved(board), EventKind::Energised { board, circuits: vec![live] }]);
    assert_eq!(board_state(&events, board).0, BoardState::Energised);
    assert_eq!(circuit_state(&events, board, live).0, BoardState::Energised);
    assert_eq!(circuit_state(&events, board, dead).0, BoardState::NotProved, "the main switch is on: prove it again");
    let locked = EventKind::LockedOff { board, circuits: vec![dead], lock: "key 9".into(), reason: "heater".into() };
    events.extend(log(vec![locked]));
    assert_eq!(left_dead(&events).iter().map(|left| left.circuit).collect::<Vec<_>>(), [dead]);
    // One circuit isolated again: the board stays energised, the circuit is not dead until proved.
    let isolated = |circuits| EventKind::Isolated {
        board,
        circuits,
        lock: "key 4".into(),
        paperwork: String::new(),
        neutral: false,
    };
    events.extend(log(vec![isolated(vec![live])]));
    assert_eq!(board_state(&events, board).0, BoardState::Energised);
    assert_eq!(circuit_state(&events, board, live).0, BoardState::NotProved);
    events.extend(log(vec![isolated(vec![])]));
    assert_eq!(board_state(&events, board).0, BoardState::NotProved);
    events.extend(log(vec![proved(board), EventKind::Energised { board, circuits: vec![] }]));
    assert_eq!(circuit_state(&events, board, dead).0, BoardState::Energised);
    assert_eq!(left_dead(&events), []);
}

#[test]
fn a_point_is_owed_until_it_is_done() {
    let (item, circuit) = (Uuid::new_v4(), Uuid::new_v4());
    let what = EventKind::PointOutstanding {
        item,
        circuit,
        thing: "lamp, stair".into(),
        made_safe: "connector, boxed".into(),
    };
    let mut events = log(vec![what]);
    assert_eq!(outstanding_points(&events).len(), 1);
    events.extend(log(vec![EventKind::PointDone { item }]));
    assert_eq!(outstanding_points(&events), []);
}

#[test]
fn items_stand_open_until_each_is_put_back() {
    let board = Uuid::new_v4();
    let items = [Uuid::new_v4(), Uuid::new_v4()];
    let altered = |item| EventKind::Altered {
        item,
        board,
        circuit: None,
        alteration: Alteration::Link,
        note: "L to CPC, way 3".into(),
    };
    let events = log(vec![altered(items[0]), altered(items[1]), EventKind::PutBack { item: items[0] }]);
    let open = open_items(&events);
    assert_eq!(open.len(), 1);
    assert_eq!(open[0].item, items[1]);
}

/// What the log said at each moment is what the one state machine says of the log up to then.
#[test]
fn a_replay_says_at_each_moment_what_the_log_said_then() {
    let (board, live, dead, other) = (Uuid::new_v4(), Uuid::new_v4(), Uuid::new_v4(), Uuid::new_v4());
    let isolated = |circuits| EventKind::Isolated {
        board,
        circuits,
        lock: "key 4".into(),
        paperwork: String::new(),
        neutral: false,
    };
    let kinds = vec![
        isolated(vec![]),
        proved(board),
        EventKind::SupplyExposed { board },
        EventKind::EarthRefitted { board },
        EventKind::Energised { board, circuits: vec![live] },
        isolated(vec![live]),
        EventKind::Energised { board, circuits: vec![] },
    ];
    let mut events = log(kinds);
    for (minute, event) in (0..).zip(events.iter_mut()) {
        event.at = Timestamp::UNIX_EPOCH + jiff::SignedDuration::from_mins(minute);
    }
    let mut replay = Replay::from_events(&events);
    for (minute, event) in events.iter().enumerate() {
        let then = &events[..=minute];
        for late in [0, 59] {
            let at = event.at + jiff::SignedDuration::from_secs(late);
            assert_eq!(replay.at(board, None, at), Some(board_state(then, board).0), "{minute}");
            for circuit in [live, dead] {
                assert_eq!(
                    replay.at(board, Some(circuit), at),
                    Some(circuit_state(then, board, circuit).0),
                    "{minute}"
                );
            }
            assert_eq!(replay.at(other, None, at), None, "the log says nothing of it");
        }
    }
}
