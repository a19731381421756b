//! Energising a board or part of it: what stands in the way, covers on, what stays dead and locked,
//! points owed.

use super::state::{remember_writer, who};
use super::{blocking, find_board, framed, remembered};
use crate::Shared;
use crate::error::{Handled, WebError, go, page_with};
use crate::fields::Fields;
use crate::frame::Frame;
use crate::pages::review::{Line, lines};
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use askama::Template;
use jiff::Timestamp;
use proof_core::gate::{Refusal, in_the_way, may_energise, to_energise};
use proof_core::installation::Board;
use proof_core::installation::validity::LONGEST_LINE;
use proof_core::job::Job;
use proof_core::site::{BoardState, Event, EventKind, board_state, circuit_state, left_dead, owed};
use uuid::Uuid;

/// A way of the board.
pub struct Way {
    pub id: Uuid,
    pub name: String,
    pub wanted: bool,
    pub live: bool,
    pub stands: usize,
}

/// A point owed.
pub struct OwedRow {
    pub item: Uuid,
    pub text: String,
}

#[derive(Template)]
#[template(path = "energise.html")]
struct EnergisePage {
    frame: Frame,
    job: Uuid,
    board: Board,
    exposed: bool,
    ways: Vec<Way>,
    in_the_way: Vec<Line>,
    left: Vec<String>,
    owed: Vec<OwedRow>,
    refused: String,
    f: Fields,
}

/// Name of the tick of a circuit.
fn tick(circuit: Uuid) -> String {
    format!("c-{circuit}")
}

/// The circuits of a board that a form has ticked.
fn ticked(job: &Job, board: Uuid, f: &Fields) -> Vec<Uuid> {
    job.installation.circuits_of(board).map(|circuit| circuit.id).filter(|id| f.ticked(&tick(*id))).collect()
}

fn drawn(job: &Job, board: Uuid, wanted: &[Uuid], refused: Option<Refusal>, f: Fields, status: StatusCode) -> Handled {
    let board = find_board(job, board)?.clone();
    let whole = in_the_way(job.into(), board.id, &[]);
    let of = |circuit: Uuid| whole.iter().filter(|finding| finding.circuit() == Some(circuit)).count();
    let ways = job
        .installation
        .circuits_of(board.id)
        .map(|circuit| Way {
            id: circuit.id,
            name: format!("{} {}", circuit.way, circuit.description),
            wanted: wanted.contains(&circuit.id),
            live: circuit_state(&job.events, board.id, circuit.id).0 == BoardState::Energised,
            stands: of(circuit.id),
        })
        .collect();
    let name = |id: Uuid| {
        job.installation.circuit(id).map_or_else(String::new, |c| format!("Way {} {}", c.way, c.description))
    };
    let mine = |id: Uuid| job.installation.circuit(id).is_some_and(|circuit| circuit.board == board.id);
    let standing = if wanted.is_empty() { whole } else { in_the_way(job.into(), board.id, wanted) };
    let page = EnergisePage {
        frame: framed(&format!("Energise {}", board.name), "run", job, &job.events),
        job: job.id,
        exposed: board_state(&job.events, board.id).0 == BoardState::SupplyExposed,
        ways,
        in_the_way: lines(job.id, standing.into_iter()),
        left: left_dead(&job.events)
            .into_iter()
            .filter(|left| mine(left.circuit))
            .map(|left| format!("{}: {}, {}", name(left.circuit), left.reason, left.lock))
            .collect(),
        owed: owed(&job.events)
            .into_iter()
            .filter(|owed| mine(owed.circuit))
            .map(|owed| OwedRow {
                item: owed.item,
                text: format!("{}: {}; made safe: {}", name(owed.circuit), owed.thing, owed.made_safe),
            })
            .collect(),
        refused: refused.map(|refusal| refusal.why).unwrap_or_default(),
        board,
        f,
    };
    page_with(status, &page)
}

async fn load(shared: &Data<Shared>, job: Uuid) -> Result<Job, WebError> {
    let store = shared.store.clone();
    blocking(move || Ok(store.job(job)?.job.clone())).await
}

pub async fn show(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest) -> Handled {
    let (job, board) = path.into_inner();
    let job = load(&shared, job).await?;
    let mut f = Fields::default();
    f.put("by", remembered(&request, "writer"));
    let wanted = to_energise(&job.installation, &job.events, board);
    drawn(&job, board, &wanted, None, f, StatusCode::OK)
}

/// What a form does, or why it does not.
fn asked(job: &Job, board: Uuid, f: &mut Fields, by: &str) -> Result<Vec<Event>, Result<Refusal, WebError>> {
    let event = |kind| Event::new(by, Timestamp::now(), kind);
    match f.get("what").to_owned().as_str() {
        "live" => {
            let wanted = ticked(job, board, f);
            let all: Vec<Uuid> = job.installation.circuits_of(board).map(|circuit| circuit.id).collect();
            let left: Vec<Uuid> = all
                .iter()
                .filter(|id| !wanted.contains(id) && circuit_state(&job.events, board, **id).0 != BoardState::Energised)
                .copied()
                .collect();
            if wanted.is_empty() {
                let why = "tick the ways that are energised".to_owned();
                return Err(Ok(Refusal { why, in_the_way: Vec::new() }));
            }
            let (lock, reason) = (f.line("lock", LONGEST_LINE), f.line("reason", LONGEST_LINE));
            if !left.is_empty() {
                if lock.is_empty() {
                    f.wrong("lock", "What stays dead is locked: name the lock and who keeps its key.");
                }
                if reason.is_empty() {
                    f.wrong("reason", "Say what it waits for.");
                }
            }
            may_energise(job.into(), board, &wanted, f.ticked("covers")).map_err(Ok)?;
            if f.any_wrong() {
                let why = "say of what stays dead how it is locked, and what it waits for".to_owned();
                return Err(Ok(Refusal { why, in_the_way: Vec::new() }));
            }
            let circuits = if left.is_empty() { Vec::new() } else { wanted };
            let mut events = vec![event(EventKind::Energised { board, circuits })];
            if !left.is_empty() {
                events.push(event(EventKind::LeftDead { board, circuits: left, lock, reason }));
            }
            Ok(events)
        }
        "owed" => {
            let circuit = f
                .get("circuit")
                .parse()
                .ok()
                .filter(|id| job.installation.circuit(*id).is_some_and(|circuit| circuit.board == board));
            let (thing, made_safe) = (f.line("thing", LONGEST_LINE), f.line("made_safe", LONGEST_LINE));
            if thing.is_empty() {
                f.wrong("thing", "Say what is owed, and where.");
            }
            if made_safe.is_empty() {
                f.wrong("made_safe", "Say how the tail was made safe.");
            }
            match circuit {
                Some(circuit) if !f.any_wrong() => {
                    Ok(vec![event(EventKind::Owed { item: Uuid::new_v4(), circuit, thing, made_safe })])
                }
                _ => {
                    let why = "not stored: say which circuit, what is owed, and how it was made safe".to_owned();
                    Err(Ok(Refusal { why, in_the_way: Vec::new() }))
                }
            }
        }
        item => {
            let item = item.strip_prefix("done-").and_then(|item| item.parse::<Uuid>().ok());
            match item.filter(|item| owed(&job.events).iter().any(|owed| owed.item == *item)) {
                Some(item) => Ok(vec![event(EventKind::OwedDone { item })]),
                None => Err(Err(WebError::Bad("That is not owed: load the page again. Nothing was stored.".into()))),
            }
        }
    }
}

pub async fn record(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest, mut f: Fields) -> Handled {
    let (id, board) = path.into_inner();
    let job = load(&shared, id).await?;
    find_board(&job, board)?;
    let by = match who(&request, &f) {
        Ok(by) => by,
        Err(error) => {
            f.wrong("by", "Give the name of the person who did this.");
            let refusal = Refusal { why: error.to_string(), in_the_way: Vec::new() };
            let wanted = ticked(&job, board, &f);
            return drawn(&job, board, &wanted, Some(refusal), f, StatusCode::UNPROCESSABLE_ENTITY);
        }
    };
    let live = f.is("what", "live");
    let events = match asked(&job, board, &mut f, &by) {
        Ok(events) => events,
        Err(Err(error)) => return Err(error),
        Err(Ok(refusal)) => {
            let wanted =
                if live { ticked(&job, board, &f) } else { to_energise(&job.installation, &job.events, board) };
            return drawn(&job, board, &wanted, Some(refusal), f, StatusCode::CONFLICT);
        }
    };
    let store = shared.store.clone();
    blocking(move || Ok(store.append_events(id, &events)?)).await?;
    let to =
        if live { format!("/jobs/{id}/boards/{board}#state") } else { format!("/jobs/{id}/boards/{board}/energise") };
    let mut response = go(&to);
    remember_writer(&mut response, &by);
    Ok(response)
}
