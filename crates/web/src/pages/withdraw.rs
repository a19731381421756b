//! A circuit or a board that was added by mistake, withdrawn: gone from plan, schedule and papers, kept in the
//! file.

use crate::error::{Handled, WebError, go_done};
use crate::forms::Fields;
use crate::request::{change, named};
use crate::shared::Shared;
use actix_web::HttpRequest;
use actix_web::web::{Data, Path};
use jiff::Timestamp;
use proof_job::installation::Installation;
use proof_job::job::Job;
use proof_work::actions::{Actor, NotWithdrawn, withdraw_board, withdraw_circuit};
use uuid::Uuid;

async fn withdrawn(
    shared: &Data<Shared>,
    request: &HttpRequest,
    job: Uuid,
    f: Fields,
    how: impl FnOnce(&Job, &str, &Actor) -> Result<Installation, NotWithdrawn> + Send + 'static,
) -> Result<(), WebError> {
    let (by, reason) = (named(request, &f), f.trimmed("reason").to_owned());
    let hand = Actor::new(f.made_id("withdrawn"), by, Timestamp::now());
    change(shared, &f, job, move |whole, job| {
        let refused =
            |why: NotWithdrawn| WebError::Clash(format!("Not withdrawn: {why}. Go back; nothing was changed."));
        job.installation = how(whole, &reason, &hand).map_err(refused)?;
        Ok(())
    })
    .await?;
    Ok(())
}

pub(crate) async fn circuit(
    shared: Data<Shared>,
    path: Path<(Uuid, Uuid)>,
    request: HttpRequest,
    f: Fields,
) -> Handled {
    let (job, id) = path.into_inner();
    withdrawn(&shared, &request, job, f, move |job, reason, hand| withdraw_circuit(job, id, reason, hand)).await?;
    Ok(go_done(&format!("/jobs/{job}#withdrawn"), "withdrawn"))
}

pub(crate) async fn board(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest, f: Fields) -> Handled {
    let (job, id) = path.into_inner();
    withdrawn(&shared, &request, job, f, move |job, reason, hand| withdraw_board(job, id, reason, hand)).await?;
    Ok(go_done(&format!("/jobs/{job}#withdrawn"), "withdrawn"))
}
