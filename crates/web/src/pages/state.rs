//! The log of a board: isolation, proving dead, energising; what was altered and put back.

use super::{blocking, find_board};
use crate::Shared;
use crate::error::{Handled, WebError, go};
use crate::fields::Fields;
use actix_web::HttpRequest;
use actix_web::web::{Data, Path};
use jiff::Timestamp;
use proof_core::event::{Alteration, BoardState, Event, EventKind, board_state, open_items};
use proof_core::validity::LONGEST_LINE;
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

pub async fn record(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest, f: Fields) -> Handled {
    let (job, board) = path.into_inner();
    let by = who(&request, &f)?;
    let now = Timestamp::now();
    let writer = by.clone();
    blocking(move || {
        let head = shared.store.head(job)?;
        let events = shared.store.events(job)?;
        find_board(&head.job, board)?;
        let event = |kind| Event::new(&by, now, kind);
        let new = match f.get("what") {
            "live" => {
                let open = open_items(&events).iter().filter(|item| item.board == board).count();
                if open > 0 {
                    return Err(WebError::Clash(format!(
                        "{open} items stand open on the put-back list: put them back and close them first. Nothing was stored."
                    )));
                }
                vec![event(EventKind::Energised { board, circuits: Vec::new() })]
            }
            "exposed" => {
                if board_state(&events, board).0 != BoardState::ProvedDead {
                    return Err(WebError::Clash("The supply is exposed for Ze from proved dead only. Nothing was stored.".into()));
                }
                vec![event(EventKind::SupplyExposed { board })]
            }
            "refitted" => {
                if board_state(&events, board).0 != BoardState::SupplyExposed {
                    return Err(WebError::Clash("The earthing conductor was not off. Nothing was stored.".into()));
                }
                vec![event(EventKind::EarthRefitted { board })]
            }
            other => return Err(WebError::Bad(format!("“{other}” is nothing that happens to a board: live, exposed or refitted."))),
        };
        Ok(shared.store.append_events(job, &new)?)
    })
    .await?;
    let mut response = go(&format!("/jobs/{job}/boards/{board}#state"));
    remember_writer(&mut response, &writer);
    Ok(response)
}

fn remember_writer(response: &mut actix_web::HttpResponse, writer: &str) {
    if let Ok(value) = super::remember("writer", writer).1.parse() {
        response.headers_mut().append(actix_web::http::header::SET_COOKIE, value);
    }
}

pub async fn put_back(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, request: HttpRequest, f: Fields) -> Handled {
    let (job, board) = path.into_inner();
    let by = who(&request, &f)?;
    let now = Timestamp::now();
    blocking(move || {
        find_board(&shared.store.head(job)?.job, board)?;
        let events = shared.store.events(job)?;
        let open = open_items(&events);
        let event = |kind| Event::new(&by, now, kind);
        let new: Vec<Event> = match f.get("what") {
            "altered" => {
                let alteration = Alteration::from_key(f.get("alteration"))
                    .ok_or_else(|| WebError::Bad("Say what was altered. Nothing was stored.".into()))?;
                let note: String = f.trimmed("note").chars().take(LONGEST_LINE).collect();
                let circuit = f.get("circuit").parse().ok();
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
