//! What a handler asks of a request: the job loaded once and shared, who it is, what the browser
//! remembers; and an action done inside the transaction that stores it.

use crate::cpu_pool::on_cpu_pool;
use crate::error::WebError;
use crate::forms::Fields;
use crate::shared::Shared;
use actix_web::cookie::{Cookie, SameSite, time::Duration};
use actix_web::web::{self, Data};
use actix_web::{HttpRequest, HttpResponse};
use jiff::{Timestamp, Zoned};
use proof_job::installation::validity::LONGEST_LINE;
use proof_job::installation::{Board, Circuit};
use proof_job::job::Job;
use proof_store::{JobHead, Store};
use proof_work::actions::{Action, Actor, Refusal, record};
use std::sync::Arc;
use uuid::Uuid;

/// How long a browser remembers a choice: a year.
const REMEMBERED: Duration = Duration::days(365);

/// Runs work that touches the database off the workers' threads.
pub(crate) async fn blocking<T: Send + 'static>(
    work: impl FnOnce() -> Result<T, WebError> + Send + 'static,
) -> Result<T, WebError> {
    web::block(work).await.map_err(|error| WebError::Inside(error.to_string()))?
}

/// Does what a form asks of the database, once: `None` when it was sent before and is done.
pub(crate) async fn once<T: Send + 'static>(
    shared: &Data<Shared>,
    f: &Fields,
    work: impl FnOnce(&Store) -> Result<T, WebError> + Send + 'static,
) -> Result<Option<T>, WebError> {
    blocking(done_once(shared, f, work)).await
}

/// The same for work that takes long.
pub(crate) async fn once_heavily<T: Send + 'static>(
    shared: &Data<Shared>,
    f: &Fields,
    work: impl FnOnce(&Store) -> Result<T, WebError> + Send + 'static,
) -> Result<Option<T>, WebError> {
    on_cpu_pool(done_once(shared, f, work)).await
}

fn done_once<T, W: FnOnce(&Store) -> Result<T, WebError>>(
    shared: &Data<Shared>,
    f: &Fields,
    work: W,
) -> impl FnOnce() -> Result<Option<T>, WebError> + use<T, W> {
    let store = shared.store.with(f.sent(Timestamp::now()));
    move || {
        if store.was_sent()? {
            return Ok(None);
        }
        match work(&store) {
            Ok(done) => Ok(Some(done)),
            Err(WebError::SentBefore) => Ok(None),
            Err(other) => Err(other),
        }
    }
}

/// Changes the description of a job as it stands, once, in the transaction that looked at it: who adds clashes with
/// nobody. `None` when it was sent before and is done.
pub(crate) async fn change<T: Send + 'static>(
    shared: &Data<Shared>,
    f: &Fields,
    job: Uuid,
    work: impl FnOnce(&Job, &mut Job) -> Result<T, WebError> + Send + 'static,
) -> Result<Option<T>, WebError> {
    once(shared, f, move |store| store.edit(job, None, |edit| work(edit.whole, edit.job))?).await
}

/// Why a form was not taken, with the form as it is given back.
pub(crate) enum NotTaken {
    /// Something in it is wrong.
    Wrong(Fields),
    /// Others changed what it is about: theirs stand beside yours.
    Clash(Fields),
}

/// Edits a part of the description of a job: `filled` is the form of what stands, `apply` puts a form into it. A
/// change of another part meanwhile clashes with nothing; one of the same part is shown first.
pub(crate) async fn edit(
    shared: &Data<Shared>,
    f: &Fields,
    job: Uuid,
    filled: impl Fn(&Job) -> Result<Fields, WebError> + Send + 'static,
    apply: impl FnOnce(&mut Fields, &Job, &mut Job) -> Result<(), WebError> + Send + 'static,
) -> Result<Result<(), NotTaken>, WebError> {
    let revision = f.revision()?;
    let mut given = f.clone();
    let done = once(shared, f, move |store| {
        let work = |edit: proof_store::Edit<'_>| {
            let now = filled(edit.job).map_err(Err)?;
            // What was shown and is gone altogether is as what nobody remembers.
            let shown = edit.shown.as_ref().and_then(|job| filled(job).ok());
            if given.merge(shown.as_ref(), &now) {
                return Err(Ok(NotTaken::Clash(given)));
            }
            apply(&mut given, edit.whole, edit.job).map_err(Err)?;
            if given.any_wrong() { Err(Ok(NotTaken::Wrong(given))) } else { Ok(()) }
        };
        match store.edit(job, Some(revision), work)? {
            Ok(()) => Ok(Ok(())),
            Err(Ok(not_taken)) => Ok(Err(not_taken)),
            Err(Err(why)) => Err(why),
        }
    })
    .await?;
    Ok(done.unwrap_or(Ok(())))
}

/// The whole job, shared with whoever else reads it.
pub(crate) async fn load(shared: &Data<Shared>, job: Uuid) -> Result<Arc<JobHead>, WebError> {
    let store = shared.store.clone();
    blocking(move || Ok(store.job(job)?)).await
}

/// Does what a form says, once, inside the transaction that stores it. The inner error: it was refused.
pub(crate) async fn did(
    shared: &Data<Shared>,
    job: Uuid,
    f: &Fields,
    by: &str,
    action: Action,
) -> Result<Result<(), Refusal>, WebError> {
    let now = Timestamp::now();
    if let Err(refusal) = printed(f) {
        return Ok(Err(refusal));
    }
    // A reading is known by its own id, whatever else its form holds.
    let (id, sent) = if let Action::Read(_) = &action {
        (reading_id(f)?, None)
    } else {
        let sent = f.sent(now);
        (sent.as_ref().map_or_else(Uuid::new_v4, |sent| sent.id), sent)
    };
    let hand = Actor::new(id, by, now);
    let store = shared.store.with(sent);
    blocking(move || Ok(store.record(job, |job| record(job, &action, &hand))?.map(|_| ()))).await
}

/// Texts of an action that papers print later.
const PRINTED: [&str; 9] = ["by", "entered_by", "read_by", "note", "lock", "reason", "thing", "made_safe", "position"];

/// Whether what an action says can be printed; what cannot is marked at its field.
fn printed(f: &Fields) -> Result<(), Refusal> {
    for name in PRINTED {
        if let Some(character) = proof_paper::not_printed(f.get(name)) {
            let code = u32::from(character);
            let spoken = crate::words::sentence(&name.replace('_', " "));
            let why = format!(
                "{spoken}: the character “{character}” (U+{code:04X}) is in no typeface here and could not be printed: take it out."
            );
            return Err(Refusal::NotPrinted(
                why.clone(),
                vec![(name.to_owned(), Refusal::NotPrinted(why, Vec::new()))],
            ));
        }
    }
    Ok(())
}

fn reading_id(f: &Fields) -> Result<Uuid, WebError> {
    f.get("id").parse().map_err(|_| WebError::Bad("The form has no id for its reading: load the page again.".into()))
}

/// The circuit of a job, or why there is none.
pub(crate) fn find_circuit(job: &Job, id: Uuid) -> Result<&Circuit, WebError> {
    job.installation.circuit(id).ok_or_else(|| WebError::NotFound("There is no such circuit in this job.".into()))
}

/// The board of a job, or why there is none.
pub(crate) fn find_board(job: &Job, id: Uuid) -> Result<&Board, WebError> {
    job.installation.board(id).ok_or_else(|| WebError::NotFound("There is no such board in this job.".into()))
}

/// Whether htmx asks, for the changed part only.
pub(crate) fn is_partial(request: &HttpRequest) -> bool {
    request.headers().contains_key("hx-request")
}

/// A remembered choice of this browser.
pub(crate) fn remembered(request: &HttpRequest, name: &str) -> String {
    let Some(cookie) = request.cookie(name) else { return String::new() };
    serde_urlencoded::from_str::<Vec<(String, String)>>(&format!("v={}", cookie.value()))
        .ok()
        .and_then(|pairs| pairs.into_iter().next())
        .map(|(_, value)| value)
        .unwrap_or_default()
}

/// Remembers choices in this browser.
pub(crate) fn remember(response: &mut HttpResponse, choices: &[(&'static str, &str)]) {
    for (name, value) in choices {
        let encoded = serde_urlencoded::to_string([("v", value)]).unwrap_or_default();
        let encoded = encoded.strip_prefix("v=").unwrap_or_default().to_owned();
        let cookie = Cookie::build(*name, encoded)
            .path("/")
            .max_age(REMEMBERED)
            .same_site(SameSite::Strict)
            .http_only(true)
            .finish();
        if let Err(error) = response.add_cookie(&cookie) {
            tracing::warn!(%error, name, "a choice could not be remembered");
        }
    }
}

/// The instrument to offer: the one remembered, else the only one that is in calibration.
pub(crate) fn offered(job: &Job, remembered: &str) -> String {
    let known = job.instruments.iter().any(|one| one.id.to_string() == remembered);
    let only = || job.only_instrument(Zoned::now().date()).map(|one| one.id.to_string());
    if known { remembered.to_owned() } else { only().unwrap_or_default() }
}

/// Who did it: as typed, else as this browser remembers; empty where nobody is named.
pub(crate) fn named(request: &HttpRequest, f: &Fields) -> String {
    let typed = f.trimmed("by");
    if typed.is_empty() { remembered(request, "writer") } else { typed.to_owned() }
}

/// Who did it.
///
/// # Errors
/// Without a name.
pub(crate) fn who(request: &HttpRequest, f: &Fields) -> Result<String, WebError> {
    let by = named(request, f);
    if by.is_empty() {
        return Err(WebError::Bad("Give the name of the person who did this; go back, nothing was stored.".into()));
    }
    proof_standard::text::line("by", &by, LONGEST_LINE)
        .map_err(|why| WebError::Bad(format!("{why} Nothing was stored.")))
}
