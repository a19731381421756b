//! The log of a board: what was altered and put back; who did it.

use super::{blocking, find_board};
use crate::Shared;
use crate::error::{Handled, WebError, go};
use crate::fields::Fields;
use actix_web::HttpRequest;
use actix_web::web::{Data, Path};
use jiff::Timestamp;
use proof_core::gate::may_alter;
use proof_core::installation::validity::LONGEST_LINE;
use proof_core::site::{Alteration, Event, EventKind, open_items};
use uuid::Uuid;

/// Who did it: as typed, else as this browser remembers.
///
/// # Errors
/// Without a name.
pub fn who(request: &HttpRequest, f: &Fields) -> Result<String, WebError> {
    let typed = f.trimmed("by");
    let by = if typed.is_empty() { super::remembered(request, "writer") } else { typed.to_owned() };
    if by.is_empty() || by.chars().count() > LONGEST_LINE {
        return Err(WebError::Bad("Give the name of the person who did this; go back, nothing was stored.".into()));
    }
    Ok(by)
}

/// Remembers who wrote, in this browser.
pub fn remember_writer(response: &mut actix_web::HttpResponse, writer: &str) {
    if let Ok(value) = super::remember("writer", writer).1.parse() {
        response.headers_mut().append(actix_web::http::header::SET_COOKIE, value);
    }
}

pub async fn put_back(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest, f: Fields) -> Handled {
    let (job, board) = path.into_inner();
    let by = who(&request, &f)?;
    let now = Timestamp::now();
    blocking(move || {
        let job_of = shared.store.head(job)?.job;
        find_board(&job_of, board)?;
        let events = shared.store.events(job)?;
        let open = open_items(&events);
        let event = |kind| Event::new(&by, now, kind);
        let new: Vec<Event> = match f.get("what") {
            "altered" => {
                let alteration = Alteration::from_key(f.get("alteration"))
                    .ok_or_else(|| WebError::Bad("Say what was altered. Nothing was stored.".into()))?;
                let note: String = f.trimmed("note").chars().take(LONGEST_LINE).collect();
                let circuit: Option<Uuid> = f.get("circuit").parse().ok();
                if let Err(refusal) = may_alter(&job_of.installation, &events, board, circuit) {
                    return Err(WebError::Clash(format!("{}. Nothing was stored.", refusal.why)));
                }
                vec![event(EventKind::Altered { item: Uuid::new_v4(), board, circuit, alteration, note })]
            }
            "all" if !f.ticked("seen") => {
                return Err(WebError::Bad(
                    "Say that each item of the list is back before all are closed together. Nothing was stored.".into(),
                ));
            }
            "all" => open
                .iter()
                .filter(|item| item.board == board && f.get("items").split(',').any(|id| id == item.item.to_string()))
                .map(|item| event(EventKind::PutBack { item: item.item }))
                .collect(),
            item => {
                let item: Uuid = item
                    .parse()
                    .map_err(|_| WebError::Bad("Say which item was put back. Nothing was stored.".into()))?;
                if !open.iter().any(|other| other.item == item) {
                    return Err(WebError::Clash("That item is closed already.".into()));
                }
                vec![event(EventKind::PutBack { item })]
            }
        };
        Ok(shared.store.append_events(job, &new)?)
    })
    .await?;
    Ok(go(&format!("/jobs/{job}/boards/{board}#put-back")))
}
