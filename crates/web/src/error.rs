//! One error for all handlers, one match to its status, one page that says it.

use crate::frame::Frame;
use actix_web::http::StatusCode;
use actix_web::{HttpResponse, ResponseError};
use askama::Template;
use proof_store::{Refused, StoreError};
use proof_work::actions::Refusal;
use std::fmt;

/// What a handler may fail with.
#[derive(Debug)]
pub(crate) enum WebError {
    /// There is no such page, job, circuit or certificate.
    NotFound(String),
    /// The request makes no sense; says what does.
    Bad(String),
    /// It clashes with what is stored.
    Clash(String),
    /// A certificate stands, and nobody said why it is replaced.
    ReplacementUnsaid(String),
    /// It was sent before, and is done.
    SentBefore,
    /// The address itself makes no sense.
    Malformed(String),
    /// The page is there, and does not do this.
    Method(String),
    /// What came was too slow.
    Slow(String),
    /// Others are before it.
    Busy(String),
    /// Our fault.
    Inside(String),
}

impl fmt::Display for WebError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::NotFound(text)
            | Self::Bad(text)
            | Self::Clash(text)
            | Self::ReplacementUnsaid(text)
            | Self::Malformed(text)
            | Self::Method(text)
            | Self::Slow(text)
            | Self::Busy(text)
            | Self::Inside(text) => f.write_str(text),
            Self::SentBefore => f.write_str("This was sent before and is stored."),
        }
    }
}

impl From<StoreError> for WebError {
    fn from(error: StoreError) -> Self {
        let text = error.to_string();
        match error {
            StoreError::Unknown(_) => Self::NotFound(text),
            StoreError::SentBefore => Self::SentBefore,
            StoreError::Refused(Refused::ReplacementUnsaid) => Self::ReplacementUnsaid(text),
            StoreError::Differs(_) | StoreError::Conflict | StoreError::Refused(_) => Self::Clash(text),
            StoreError::Unreadable(_)
            | StoreError::Row { .. }
            | StoreError::Sqlite(_)
            | StoreError::Pool(_)
            | StoreError::Migration(_) => Self::Inside(text),
        }
    }
}

impl From<Refusal> for WebError {
    fn from(refusal: Refusal) -> Self {
        let text = refusal.to_string();
        match refusal {
            Refusal::NoSuchReading(_) => Self::NotFound(text),
            refusal if refusal.is_of_state() => Self::Clash(text),
            _ => Self::Bad(text),
        }
    }
}

impl From<askama::Error> for WebError {
    fn from(error: askama::Error) -> Self {
        Self::Inside(error.to_string())
    }
}

#[derive(Template)]
#[template(path = "error.html")]
struct ErrorPage<'a> {
    frame: Frame,
    heading: &'a str,
    text: &'a str,
}

impl ResponseError for WebError {
    fn status_code(&self) -> StatusCode {
        match self {
            Self::NotFound(_) => StatusCode::NOT_FOUND,
            Self::Bad(_) => StatusCode::UNPROCESSABLE_ENTITY,
            Self::Clash(_) | Self::ReplacementUnsaid(_) | Self::SentBefore => StatusCode::CONFLICT,
            Self::Malformed(_) => StatusCode::BAD_REQUEST,
            Self::Method(_) => StatusCode::METHOD_NOT_ALLOWED,
            Self::Slow(_) => StatusCode::REQUEST_TIMEOUT,
            Self::Busy(_) => StatusCode::SERVICE_UNAVAILABLE,
            Self::Inside(_) => StatusCode::INTERNAL_SERVER_ERROR,
        }
    }

    fn error_response(&self) -> HttpResponse {
        let heading = match self {
            Self::NotFound(_) => "Not here",
            Self::Bad(_) => "Not understood",
            Self::Clash(_) | Self::ReplacementUnsaid(_) => "Not stored",
            Self::SentBefore => "Stored already",
            Self::Malformed(_) => "No such address",
            Self::Method(_) => "Not done this way",
            Self::Slow(_) => "Too slow",
            Self::Busy(_) => "Busy",
            Self::Inside(_) => "Something went wrong in the program",
        };
        if let Self::Inside(text) = self {
            tracing::error!(text, "inside");
        }
        let text = self.to_string();
        let page = ErrorPage { frame: Frame::outside(heading), heading, text: &text };
        let body = page.render().unwrap_or_else(|_| format!("{heading}: {text}"));
        let mut response = HttpResponse::build(self.status_code());
        match self {
            Self::Busy(_) => response.insert_header(("retry-after", "5")),
            Self::Method(_) => response.insert_header(("allow", "GET, HEAD, POST")),
            _ => &mut response,
        };
        response.content_type("text/html; charset=utf-8").body(body)
    }
}

/// The status of a form that is given back with a refusal.
pub(crate) fn status_of(refusal: &Refusal) -> StatusCode {
    if refusal.is_of_state() { StatusCode::CONFLICT } else { StatusCode::UNPROCESSABLE_ENTITY }
}

/// Result of a handler.
pub(crate) type Handled = Result<HttpResponse, WebError>;

/// Renders a page.
pub(crate) fn page(template: &impl Template) -> Handled {
    page_with(StatusCode::OK, template)
}

/// Renders a page with a status.
pub(crate) fn page_with(status: StatusCode, template: &impl Template) -> Handled {
    Ok(html(status, template.render()?))
}

/// A page, or a part of one, that is rendered already.
pub(crate) fn html(status: StatusCode, body: String) -> HttpResponse {
    HttpResponse::build(status)
        .content_type("text/html; charset=utf-8")
        .insert_header(("cache-control", "no-store"))
        .body(body)
}

/// The same, with what was done: the page says so once.
pub(crate) fn go_done(to: &str, what: &str) -> HttpResponse {
    let (page, place) = to.split_once('#').map_or((to, ""), |(page, place)| (page, place));
    let sign = if page.contains('?') { '&' } else { '?' };
    let place = if place.is_empty() { String::new() } else { format!("#{place}") };
    go(&format!("{page}{sign}done={what}{place}"))
}

/// Whether a path is one of this program's own: `//elsewhere` and `/\\elsewhere` are other hosts to a browser.
fn is_own(path: &str) -> bool {
    let plain = path.bytes().all(|byte| byte.is_ascii_graphic() && byte != b'\\');
    path.starts_with('/') && !path.starts_with("//") && plain
}

/// Sends the browser to another page (303, so that a reload repeats nothing); never to another site.
pub(crate) fn go(to: &str) -> HttpResponse {
    let to = if is_own(to) { to } else { "/" };
    HttpResponse::SeeOther().insert_header(("location", to)).finish()
}
