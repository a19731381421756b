//! The automatic series of an RCD entered in one go, in the order in which the instrument shows it.

use crate::error::{Handled, go, status_of};
use crate::forms::{Fields, by_key};
use crate::request::did;
use crate::shared::Shared;
use actix_web::HttpRequest;
use actix_web::web::{Data, Path};
use proof_job::instrument::SeriesOrder;
use proof_work::actions::{Action, Series};
use uuid::Uuid;

pub(crate) async fn enter(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest, f: Fields) -> Handled {
    let (job, circuit) = path.into_inner();
    let order = by_key(&SeriesOrder::ALL, f.get("order"), SeriesOrder::key).unwrap_or_default();
    let series = Series { circuit, order, figures: f.get("series").to_owned(), with: f.with() };
    if let Err(why) = did(&shared, job, &f, f.trimmed("entered_by"), Action::Series(series)).await? {
        let (problem, status) = (format!("Nothing of the series was stored. {why}"), status_of(&why));
        return super::circuit::given_back(&shared, (job, circuit), &request, f, problem, status).await;
    }
    let mut response = go(&format!("/jobs/{job}/circuits/{circuit}?at=rcd-button&last=rcd-1"));
    super::entry::remember_entry(&mut response, &f);
    Ok(response)
}
