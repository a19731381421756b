//! An instrument that is joined to this browser and job.

use crate::feed::FeedLine;
use crate::forms::Fields;
use crate::shared::Shared;
use actix_web::HttpRequest;
use actix_web::web::Data;
use askama::Template;
use proof_job::job::Job;
use proof_store::Feed;
use std::sync::Arc;
use uuid::Uuid;

/// What the browser of who joined remembers: which feed it holds.
pub(super) const HOLDER: &str = "feed";

/// What is joined, for the strip.
pub(crate) struct Joined {
    pub feed: Arc<Feed>,
    pub line: FeedLine,
    pub name: String,
}

#[derive(Template)]
#[template(path = "feed.html")]
pub(super) struct Strip {
    pub job: Uuid,
    pub joined: Option<Joined>,
    /// Sent beside a changed part.
    pub swapped: bool,
    /// Something came in, and is not shown over what is being typed.
    pub waiting: bool,
    /// The last that came was not taken.
    pub newest_refused: bool,
    /// A simulated instrument may be joined.
    pub simulated: bool,
    pub instruments: Vec<(String, String)>,
    pub f: Fields,
    pub problem: String,
}

impl Strip {
    fn options(&self) -> Vec<(&str, &str)> {
        self.instruments.iter().map(|(id, name)| (id.as_str(), name.as_str())).collect()
    }
}

/// The instruments of the register, to choose from.
pub(crate) fn choices(job: &Job) -> Vec<(String, String)> {
    let named = |id: String, name: String| (id, name);
    job.instruments.iter().map(|one| named(one.id.to_string(), format!("{} {}", one.reference, one.kind))).collect()
}

/// What is joined to a job.
pub(crate) fn joined(request: &HttpRequest, job: &Job) -> Option<Joined> {
    let shared = request.app_data::<Data<Shared>>()?;
    let (feed, line) = shared.feeds.for_job(job.id)?;
    let known = job.instruments.iter().find(|one| one.id == feed.instrument);
    let name = known.map_or_else(String::new, |one| format!("{} {}", one.reference, one.kind));
    Some(Joined { feed, line, name })
}
