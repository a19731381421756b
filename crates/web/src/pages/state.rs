//! The put-back list of a board: what was altered and put back; who did it.

use crate::Shared;
use crate::error::{Handled, WebError, go};
use crate::forms::{Fields, by_key};
use crate::request::{did, find_board, load, who};
use actix_web::HttpRequest;
use actix_web::web::{Data, Path};
use proof_core::site::Alteration;
use proof_core::taking::Deed;
use uuid::Uuid;

/// The deed that the form asks for.
fn asked(board: Uuid, f: &Fields) -> Result<Deed, WebError> {
    match f.get("what") {
        "altered" => Ok(Deed::Alter {
            board,
            circuit: f.get("circuit").parse().ok(),
            alteration: by_key(&Alteration::ALL, f.get("alteration"), Alteration::key)
                .ok_or_else(|| WebError::Bad("Say what was altered. Nothing was stored.".into()))?,
            note: f.trimmed("note").to_owned(),
        }),
        "all" if !f.ticked("seen") => Err(WebError::Bad(
            "Say that each item of the list is back before all are closed together. Nothing was stored.".into(),
        )),
        "all" => Ok(Deed::PutBackAll(f.ids("items"))),
        item => item
            .parse()
            .map(Deed::PutBack)
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
    let deed = asked(board, &f)?;
    did(&shared, job, &f, &by, deed).await??;
    Ok(go(&format!("/jobs/{job}/boards/{board}#put-back")))
}
