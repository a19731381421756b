//! Firm, people, instruments; the look of the pages.

use super::{blocking, remember};
use crate::Shared;
use crate::error::{Handled, WebError, go, page_with};
use crate::fields::Fields;
use crate::frame::Frame;
use actix_web::http::StatusCode;
use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse};
use askama::Template;
use proof_core::installation::{Firm, HouseRules, Instrument, Person};
use proof_core::validity::LONGEST_LINE;
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

#[derive(Template)]
#[template(path = "firm.html")]
struct FirmPage {
    frame: Frame,
    f: Fields,
    people: Vec<Person>,
    instruments: Vec<Instrument>,
}

async fn drawn(shared: Data<Shared>, f: Fields, status: StatusCode) -> Handled {
    let (firm, people, instruments) =
        blocking(move || Ok((shared.store.firm()?, shared.store.people()?, shared.store.instruments()?))).await?;
    let mut f = f;
    // What was typed stands first; what is stored fills the rest.
    for (name, value) in [
        ("firm_name", firm.name),
        ("firm_address", firm.address),
        ("firm_contact", firm.contact),
        ("over_range", "999".into()),
    ] {
        if f.get(name).is_empty() && f.error(name).is_empty() {
            f.put(name, value);
        }
    }
    page_with(status, &FirmPage { frame: Frame::outside("Firm"), f, people, instruments })
}

pub async fn show(shared: Data<Shared>) -> Handled {
    drawn(shared, Fields::default(), StatusCode::OK).await
}

pub async fn save_firm(shared: Data<Shared>, mut f: Fields) -> Handled {
    let firm = Firm {
        name: f.line("firm_name", LONGEST_LINE),
        address: f.line("firm_address", LONGEST_LINE),
        contact: f.line("firm_contact", LONGEST_LINE),
        house_rules: HouseRules::default(),
    };
    if firm.name.is_empty() {
        f.wrong("firm_name", "Give the name that stands on certificates.");
    }
    if f.any_wrong() {
        return drawn(shared, f, StatusCode::UNPROCESSABLE_ENTITY).await;
    }
    blocking(move || Ok(shared.store.set_firm(&firm)?)).await?;
    Ok(go("/firm"))
}

pub async fn save_person(shared: Data<Shared>, mut f: Fields) -> Handled {
    let person = Person {
        id: Uuid::new_v4(),
        name: f.line("person_name", LONGEST_LINE),
        position: f.line("person_position", LONGEST_LINE),
    };
    if person.name.is_empty() {
        f.wrong("person_name", "Give a name.");
    }
    if f.any_wrong() {
        return drawn(shared, f, StatusCode::UNPROCESSABLE_ENTITY).await;
    }
    blocking(move || Ok(shared.store.save_person(&person)?)).await?;
    Ok(go("/firm"))
}

pub async fn save_instrument(shared: Data<Shared>, mut f: Fields) -> Handled {
    let kind = f.line("kind", LONGEST_LINE);
    let reference = f.line("instrument_reference", LONGEST_LINE);
    for (name, text, problem) in [
        ("kind", &kind, "Say what it measures, such as multifunction tester."),
        ("instrument_reference", &reference, "Give your own reference, such as MFT-2."),
    ] {
        if text.is_empty() {
            f.wrong(name, problem);
        }
    }
    let due = f.trimmed("due").to_owned();
    let calibration_due = due.parse().ok();
    if !due.is_empty() && calibration_due.is_none() {
        f.wrong("due", format!("“{due}” is no date: write it as 2027-06-30."));
    }
    let over_range_mohm = f.decimal("over_range", "MΩ that it shows when over range, such as 999").unwrap_or(dec!(999));
    if over_range_mohm <= Decimal::ZERO {
        f.wrong("over_range", "An over-range display is above 0 MΩ.");
    }
    if f.any_wrong() {
        return drawn(shared, f, StatusCode::UNPROCESSABLE_ENTITY).await;
    }
    let instrument =
        Instrument { id: Uuid::new_v4(), kind, reference, calibration_due, over_range_mohm, ..Instrument::default() };
    let store = shared.store.clone();
    match blocking(move || Ok(store.save_instrument(&instrument)?)).await {
        Ok(()) => Ok(go("/firm")),
        Err(WebError::Clash(problem)) => {
            f.wrong("instrument_reference", problem);
            drawn(shared, f, StatusCode::CONFLICT).await
        }
        Err(other) => Err(other),
    }
}

/// Remembers paper, night or the system's look; goes back to where the form stood.
pub async fn look(request: HttpRequest, f: Fields) -> Handled {
    let look = match f.get("look") {
        look @ ("paper" | "night") => look,
        _ => "system",
    };
    let back = request
        .headers()
        .get("referer")
        .and_then(|referer| referer.to_str().ok())
        .and_then(|referer| referer.split_once("://"))
        .and_then(|(_, rest)| rest.find('/').map(|at| rest[at..].to_owned()))
        .unwrap_or_else(|| "/".to_owned());
    Ok(HttpResponse::SeeOther().insert_header(("location", back)).insert_header(remember("look", look)).finish())
}

/// The look that this browser remembers, as a style sheet: works without scripts.
pub async fn look_sheet(request: HttpRequest) -> HttpResponse {
    let sheet = match super::remembered(&request, "look").as_str() {
        "night" => include_str!("../../styles/night.css"),
        "paper" => include_str!("../../styles/paper.css"),
        _ => "",
    };
    HttpResponse::Ok().content_type("text/css; charset=utf-8").insert_header(("cache-control", "no-store")).body(sheet)
}
