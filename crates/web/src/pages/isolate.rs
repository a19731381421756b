//! Isolation of a board: loads off, locked, the indicator proved before, every pair, proved again.

use super::state::who;
use super::{blocking, find_board, framed, remembered};
use crate::Shared;
use crate::error::{Handled, WebError, go, page_with};
use crate::fields::Fields;
use crate::frame::Frame;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use askama::Template;
use jiff::Timestamp;
use proof_core::conductor::Pair;
use proof_core::installation::validity::LONGEST_LINE;
use proof_core::installation::{Board, Feeds};
use proof_core::job::Job;
use proof_core::site::isolation::{Isolation, PairShown, interpret, pairs};
use proof_core::site::{Event, EventKind};
use serde::Deserialize;
use uuid::Uuid;

/// A pair to be proved.
pub struct Row {
    pub field: String,
    pub pair: Pair,
}

#[derive(Template)]
#[template(path = "isolate.html")]
struct IsolatePage {
    frame: Frame,
    job: Uuid,
    board: Board,
    ways: Vec<String>,
    last_off: String,
    rows: Vec<Row>,
    indicators: Vec<String>,
    people: Vec<String>,
    then: String,
    found: String,
    f: Fields,
}

#[derive(Deserialize, Default)]
pub struct Then {
    then: Option<String>,
}

fn field_of(pair: Pair) -> String {
    let (a, b) = pair.both();
    format!("v-{a}-{b}").to_lowercase()
}

/// Only to a sheet of this job: nothing typed into an address leads elsewhere.
fn own_sheet(job: Uuid, board: Uuid, then: &str) -> String {
    if then == "run" { format!("/jobs/{job}/run") } else { format!("/jobs/{job}/boards/{board}#state") }
}

fn drawn(
    job: &Job,
    events: &[Event],
    board: Uuid,
    then: &str,
    found: String,
    f: Fields,
    status: StatusCode,
) -> Handled {
    let board = find_board(job, board)?.clone();
    let ways: Vec<_> = job.installation.circuits_of(board.id).collect();
    let lights = ways.iter().find(|circuit| circuit.feeds == Feeds::Lighting);
    page_with(
        status,
        &IsolatePage {
            frame: framed(&format!("Isolate {}", board.name), "run", job, events),
            job: job.id,
            last_off: lights.map(|c| format!("{} {}", c.way, c.description)).unwrap_or_default(),
            ways: ways.iter().map(|circuit| circuit.way.clone()).collect(),
            rows: pairs(board.lines).into_iter().map(|pair| Row { field: field_of(pair), pair }).collect(),
            indicators: job.instruments.iter().map(|one| one.reference.clone()).collect(),
            people: job.people.iter().map(|person| person.name.clone()).collect(),
            then: then.to_owned(),
            board,
            found,
            f,
        },
    )
}

pub async fn show(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, query: Query<Then>, request: HttpRequest) -> Handled {
    let (job, board) = path.into_inner();
    let store = shared.store.clone();
    let (head, events) = blocking(move || Ok((store.head(job)?, store.events(job)?))).await?;
    let mut f = Fields::default();
    f.put("by", remembered(&request, "writer"));
    f.put("lock", remembered(&request, "lock"));
    f.put("indicator", remembered(&request, "indicator"));
    drawn(&head.job, &events, board, query.then.as_deref().unwrap_or_default(), String::new(), f, StatusCode::OK)
}

pub async fn record(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest, mut f: Fields) -> Handled {
    let (job, board_id) = path.into_inner();
    let store = shared.store.clone();
    let (head, events) = blocking(move || Ok((store.head(job)?, store.events(job)?))).await?;
    let board = find_board(&head.job, board_id)?;
    let then = f.get("then").to_owned();
    let by = who(&request, &f).unwrap_or_default();
    if by.is_empty() {
        f.wrong("by", "Give the name of the person who did this.");
    }
    let lock = f.line("lock", LONGEST_LINE);
    let paperwork = f.line("paperwork", LONGEST_LINE);
    let indicator = f.line("indicator", LONGEST_LINE);
    if lock.is_empty() {
        f.wrong("lock", "Name the lock, and who keeps its key.");
    }
    for (tick, wanted) in [
        ("loads", "Loads come off by the ways first."),
        ("locked", "Main switch off, and locked."),
        ("before", "The indicator is proved before."),
        ("after", "The indicator is proved again after: without it nothing is proved."),
    ] {
        if !f.ticked(tick) {
            f.wrong(tick, wanted);
        }
    }
    let mut shown = Vec::new();
    for pair in pairs(board.lines) {
        let name = field_of(pair);
        match f.decimal(&name, "volts such as 0 or 230") {
            Some(volts) => shown.push(PairShown { pair, volts }),
            None => f.wrong(&name, "Every pair is tested: write 0 for no indication."),
        }
    }
    let meaning = interpret(board.lines, &shown);
    // What shows voltage is said and kept, whatever else is left out.
    if let (Isolation::NotIsolated(because), false) = (&meaning, by.is_empty()) {
        let kind = EventKind::NotIsolated { board: board_id, shown, because: (*because).to_owned() };
        let event = Event::new(&by, Timestamp::now(), kind);
        let store = shared.store.clone();
        let events = blocking(move || {
            store.append_events(job, &[event])?;
            Ok(store.events(job)?)
        })
        .await?;
        let found = format!("{}. It is in the log; the board is not proved dead.", sentence(because));
        return drawn(&head.job, &events, board_id, &then, found, f, StatusCode::CONFLICT);
    }
    if f.any_wrong() {
        return drawn(&head.job, &events, board_id, &then, String::new(), f, StatusCode::UNPROCESSABLE_ENTITY);
    }
    let now = Timestamp::now();
    let pairs = u8::try_from(shown.len()).unwrap_or(u8::MAX);
    let log = [
        Event::new(
            &by,
            now,
            EventKind::Isolated { board: board_id, circuits: Vec::new(), lock: lock.clone(), paperwork },
        ),
        Event::new(
            &by,
            now,
            EventKind::ProvedDead { board: board_id, circuits: Vec::new(), pairs, shown, indicator: indicator.clone() },
        ),
    ];
    blocking(move || Ok::<_, WebError>(shared.store.append_events(job, &log)?)).await?;
    let mut response = go(&own_sheet(job, board_id, &then));
    let cookies = [("writer", &by), ("lock", &lock), ("indicator", &indicator)];
    super::circuit::set_cookies(
        &mut response,
        cookies.iter().map(|(name, value)| super::remember(name, value)).collect(),
    );
    Ok(response)
}

fn sentence(text: &str) -> String {
    let mut characters = text.chars();
    characters.next().map_or_else(String::new, |first| first.to_uppercase().chain(characters).collect())
}
