//! What is said of a board's state: what was altered and put back, that it is in use, what stays dead.

use super::board;
use crate::error::{Handled, WebError, go, status_of};
use crate::forms::{Fields, by_key};
use crate::request::{did, find_board, load, named, remember, who};
use crate::shared::Shared;
use actix_web::HttpRequest;
use actix_web::web::{Data, Path};
use proof_job::site::Alteration;
use proof_work::actions::{Action, Leaving};
use uuid::Uuid;

/// The action that the form asks for.
fn asked(board: Uuid, f: &Fields) -> Result<Action, WebError> {
    match f.get("what") {
        "altered" => Ok(Action::Alter {
            board,
            circuit: f.get("circuit").parse().ok(),
            alteration: by_key(&Alteration::ALL, f.get("alteration"), Alteration::key)
                .ok_or_else(|| WebError::Bad("Say what was altered. Nothing was stored.".into()))?,
            note: f.trimmed("note").to_owned(),
        }),
        "all" if !f.ticked("seen") => Err(WebError::Bad(
            "Say that each item of the list is back before all are closed together. Nothing was stored.".into(),
        )),
        "all" => Ok(Action::PutBackAll(f.ids("items"))),
        item => item
            .parse()
            .map(Action::PutBack)
            .map_err(|_| WebError::Bad("Say which item was put back. Nothing was stored.".into())),
    }
}

pub(crate) async fn put_back(
    shared: Data<Shared>,
    path: Path<(Uuid, Uuid)>,
    request: HttpRequest,
    f: Fields,
) -> Handled {
    let (job, board) = path.into_inner();
    let by = who(&request, &f)?;
    find_board(&load(&shared, job).await?.job, board)?;
    let action = asked(board, &f)?;
    did(&shared, job, &f, &by, action).await??;
    Ok(go(&format!("/jobs/{job}/boards/{board}#put-back")))
}

/// A board that stood before, found energised and in use.
pub(crate) async fn in_use(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest, f: Fields) -> Handled {
    let (job, board) = path.into_inner();
    let by = who(&request, &f)?;
    did(&shared, job, &f, &by, Action::InUse(board)).await??;
    let to = if f.is("then", "run") { format!("/jobs/{job}/run") } else { format!("/jobs/{job}/boards/{board}#state") };
    let mut response = go(&to);
    remember(&mut response, &[("writer", &by)]);
    Ok(response)
}

/// Ways, or the whole board, left dead and locked.
pub(crate) async fn leave_dead(
    shared: Data<Shared>,
    path: Path<(Uuid, Uuid)>,
    request: HttpRequest,
    mut f: Fields,
) -> Handled {
    let (id, board) = path.into_inner();
    let circuits = {
        let head = load(&shared, id).await?;
        find_board(&head.job, board)?;
        let all = head.job.installation.circuits_on(board).map(|circuit| circuit.id);
        all.filter(|circuit| f.ticked(&format!("c-{circuit}"))).collect()
    };
    let by = named(&request, &f);
    let given = Leaving {
        board,
        circuits,
        whole: f.ticked("whole"),
        lock: f.get("lock").to_owned(),
        reason: f.get("reason").to_owned(),
    };
    if let Err(why) = did(&shared, id, &f, &by, Action::LeaveDead(given)).await? {
        f.marked(&why);
        if why.fields().is_empty() {
            f.wrong("ways", format!("Not stored: {why}."));
        }
        return board::again(shared, &request, (id, board), f, status_of(&why)).await;
    }
    let mut response = go(&format!("/jobs/{id}/boards/{board}#state"));
    remember(&mut response, &[("writer", &by)]);
    Ok(response)
}
