//! Energising a board or part of it: what stands in the way, covers on, what stays dead and locked,
//! outstanding points.

use super::framed;
use crate::error::{Handled, WebError, go, page_with, status_of};
use crate::forms::Fields;
use crate::frame::{Frame, Section};
use crate::pages::findings::{FindingLine, lines};
use crate::request::{did, find_board, load, named, remember, remembered};
use crate::shared::Shared;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use askama::Template;
use proof_job::installation::Board;
use proof_job::job::Job;
use proof_job::site::spoken_to::{IsolatedBy, before_power};
use proof_job::site::{BoardState, is_same_person};
use proof_work::actions::{Action, Energising, Refusal};
use proof_work::gate::{in_the_way, to_energise};
use uuid::Uuid;

/// A way of the board.
pub(crate) struct Way {
    pub id: Uuid,
    pub name: String,
    pub wanted: bool,
    pub live: bool,
    pub stands: usize,
}

/// An outstanding point.
pub(crate) struct OutstandingRow {
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
    in_the_way: Vec<FindingLine>,
    left: Vec<String>,
    outstanding: Vec<OutstandingRow>,
    /// Who isolated it, when and with which lock.
    isolated: Vec<String>,
    /// Somebody else did: that person's word is asked.
    others: bool,
    refused: String,
    f: Fields,
}

/// Name of the tick of a circuit.
fn tick(circuit: Uuid) -> String {
    format!("c-{circuit}")
}

/// The circuits of a board that a form has ticked.
fn ticked(job: &Job, board: Uuid, f: &Fields) -> Vec<Uuid> {
    job.installation.circuits_on(board).map(|circuit| circuit.id).filter(|id| f.ticked(&tick(*id))).collect()
}

fn drawn(job: &Job, board: Uuid, wanted: &[Uuid], refused: String, f: Fields, status: StatusCode) -> Handled {
    let board = find_board(job, board)?.clone();
    let site = job.site();
    let whole = in_the_way(job.into(), board.id, &[]);
    let of = |circuit: Uuid| whole.iter().filter(|finding| finding.circuit() == Some(circuit)).count();
    let ways = job
        .installation
        .circuits_on(board.id)
        .map(|circuit| Way {
            id: circuit.id,
            name: format!("{} {}", circuit.way, circuit.description),
            wanted: wanted.contains(&circuit.id),
            live: site.circuit(board.id, circuit.id).0 == BoardState::Energised,
            stands: of(circuit.id),
        })
        .collect();
    let name = |id: Uuid| {
        job.installation.circuit(id).map_or_else(String::new, |c| format!("Way {} {}", c.way, c.description))
    };
    let mine = |id: Uuid| job.installation.circuit(id).is_some_and(|circuit| circuit.board == board.id);
    let standing = if wanted.is_empty() { whole } else { in_the_way(job.into(), board.id, wanted) };
    let (isolated, others) = spoken_to(before_power(&job.installation, &site, (board.id, wanted), ""), &f);
    let page = EnergisePage {
        isolated,
        others,
        frame: framed(&format!("Energise {}", board.name), Section::Run, job, &job.events),
        job: job.id,
        exposed: site.board(board.id).0 == BoardState::SupplyExposed,
        ways,
        in_the_way: lines(job.id, standing.into_iter()),
        left: site
            .left_dead()
            .iter()
            .filter(|left| mine(left.circuit))
            .map(|left| format!("{}: {}, {}", name(left.circuit), left.reason, left.lock))
            .collect(),
        outstanding: site
            .outstanding_points()
            .iter()
            .filter(|owed| mine(owed.circuit))
            .map(|owed| OutstandingRow {
                item: owed.item,
                text: format!("{}: {}; made safe: {}", name(owed.circuit), owed.thing, owed.made_safe),
            })
            .collect(),
        refused,
        board,
        f,
    };
    page_with(status, &page)
}

pub(crate) async fn show(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest) -> Handled {
    let (job, board) = path.into_inner();
    let head = load(&shared, job).await?;
    let mut f = Fields::default();
    f.put("by", remembered(&request, "writer"));
    let wanted = to_energise(&head.job, board);
    drawn(&head.job, board, &wanted, String::new(), f, StatusCode::OK)
}

/// Who is spoken to first, in words, and whether one of them is not the one who writes.
pub(crate) fn spoken_to(people: Vec<IsolatedBy>, f: &Fields) -> (Vec<String>, bool) {
    let others = people.iter().any(|person| !is_same_person(&person.name, f.get("by")));
    (people.iter().map(ToString::to_string).collect(), others)
}

/// The action that a form asks for.
fn asked(job: &Job, board: Uuid, f: &Fields) -> Result<Action, WebError> {
    match f.get("what") {
        "live" => Ok(Action::Energise(Energising {
            board,
            circuits: ticked(job, board, f),
            covers_on: f.ticked("covers"),
            lock: f.get("lock").to_owned(),
            reason: f.get("reason").to_owned(),
            spoke_to: f.get("word").to_owned(),
        })),
        "owed" => Ok(Action::AddPoint {
            circuit: f.get("circuit").parse().unwrap_or_default(),
            thing: f.get("thing").to_owned(),
            made_safe: f.get("made_safe").to_owned(),
        }),
        item => {
            item.strip_prefix("done-").and_then(|item| item.parse().ok()).map(Action::PointDone).ok_or_else(|| {
                WebError::Bad("That is not outstanding: load the page again. Nothing was stored.".into())
            })
        }
    }
}

pub(crate) async fn record(
    shared: Data<Shared>,
    path: Path<(Uuid, Uuid)>,
    request: HttpRequest,
    mut f: Fields,
) -> Handled {
    let (id, board) = path.into_inner();
    let head = load(&shared, id).await?;
    find_board(&head.job, board)?;
    let live = f.is("what", "live");
    let by = named(&request, &f);
    if by.is_empty() {
        f.wrong("by", "Give the name of the person who did this.");
        let wanted = ticked(&head.job, board, &f);
        let problem = "Give the name of the person who did this; nothing was stored".to_owned();
        return drawn(&head.job, board, &wanted, problem, f, StatusCode::UNPROCESSABLE_ENTITY);
    }
    let action = asked(&head.job, board, &f)?;
    if let Err(why) = did(&shared, id, &f, &by, action).await? {
        if matches!(why, Refusal::NotOutstanding) {
            return Err(WebError::Bad(why.to_string()));
        }
        f.marked(&why);
        let job = &load(&shared, id).await?.job;
        let wanted = if live { ticked(job, board, &f) } else { to_energise(job, board) };
        let problem = why.to_string().trim_end_matches('.').to_owned();
        return drawn(job, board, &wanted, problem, f, status_of(&why));
    }
    let to =
        if live { format!("/jobs/{id}/boards/{board}#state") } else { format!("/jobs/{id}/boards/{board}/energise") };
    let mut response = go(&to);
    remember(&mut response, &[("writer", &by)]);
    Ok(response)
}
