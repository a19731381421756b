//! The list of jobs, and a new one.

use crate::error::{Handled, WebError, go, page, page_with};
use crate::forms::{Fields, by_key};
use crate::frame::Frame;
use crate::pages::begin;
use crate::pages::first::There;
use crate::request::{blocking, once};
use crate::shared::Shared;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Query};
use askama::Template;
use jiff::Timestamp;
use proof_job::installation::{Board, Installation, Lines, Nature, Party, Supply, validity};
use proof_job::job::{Job, JobCache, MadeAs};
use proof_standard::limits::inspection::Premises;
use proof_standard::limits::supply::EarthingSystem;
use proof_store::JobRow;
use serde::Deserialize;

/// Most jobs of one list.
const MOST_LISTED: u32 = 100;

#[derive(Deserialize)]
pub(crate) struct Search {
    #[serde(default)]
    q: String,
}

#[derive(Template)]
#[template(path = "jobs.html")]
struct JobsPage {
    frame: Frame,
    query: String,
    rows: Vec<JobRow>,
    full: bool,
    /// Rows that were altered past the program.
    altered: Vec<String>,
}

pub(crate) async fn list(shared: Data<Shared>, search: Query<Search>) -> Handled {
    let query = search.into_inner().q;
    let asked = query.clone();
    let altered = shared.altered.get().cloned().unwrap_or_default();
    let (rows, first) = blocking(move || {
        let rows = shared.store.jobs(&asked, MOST_LISTED)?;
        let first = if rows.is_empty() && asked.is_empty() { Some(There::from_store(&shared.store)?) } else { None };
        Ok((rows, first))
    })
    .await?;
    if let Some(there) = first {
        return crate::pages::first::drawn(there, Fields::default(), StatusCode::OK);
    }
    let full = rows.len() == MOST_LISTED as usize;
    page(&JobsPage { frame: Frame::outside("Jobs"), query, rows, full, altered })
}

#[derive(Template)]
#[template(path = "job_new.html")]
struct NewJobPage {
    frame: Frame,
    f: Fields,
    patterns: Vec<(String, String)>,
}

async fn new_drawn(shared: Data<Shared>, f: Fields, status: StatusCode) -> Handled {
    let patterns = blocking(move || begin::choices(&shared.store)).await?;
    page_with(status, &NewJobPage { frame: Frame::outside("New job"), f, patterns })
}

pub(crate) async fn new(shared: Data<Shared>) -> Handled {
    let store = shared.store.clone();
    let count = blocking(move || Ok(store.jobs("", 10_000)?.len())).await?;
    let f = Fields::from_values([
        ("reference", format!("J-{}", count + 1)),
        ("system", EarthingSystem::TnCS.name().to_owned()),
        ("premises", Premises::Dwelling.key().to_owned()),
        ("nature", Nature::New.key().to_owned()),
        ("lines", "single".to_owned()),
    ]);
    new_drawn(shared, f, StatusCode::OK).await
}

fn described(f: &mut Fields) -> Option<Job> {
    let reference = f.trimmed("reference").to_owned();
    if let Err(problem) = validity::reference(&reference) {
        f.wrong("reference", problem.to_string());
    }
    let title = f.line("title", validity::LONGEST_LINE);
    if title.is_empty() {
        f.wrong("title", "Say in a line what the job is, such as “Flat 2, new consumer unit”.");
    }
    let client = f.line("client", validity::LONGEST_LINE);
    let site = f.line("site", validity::LONGEST_LINE);
    let board = f.line("board", validity::LONGEST_LINE);
    let system = EarthingSystem::from_name(f.get("system")).unwrap_or_default();
    let lines = by_key(&Lines::ALL, f.get("lines"), Lines::key).unwrap_or_default();
    if f.any_wrong() {
        return None;
    }
    let boards = if board.is_empty() {
        Vec::new()
    } else {
        vec![Board {
            parallel_earth: None,
            conditional_ka: None,
            surge: String::new(),
            id: f.made_id("board"),
            name: board,
            location: String::new(),
            fed_by: proof_job::installation::Feed::Supply,
            system,
            lines,
            main_switch: proof_job::installation::MainSwitch::default(),
            rcds: Vec::new(),
        }]
    };
    let installation = Installation {
        client: Party { name: client, address: String::new() },
        site: Party { name: site.clone(), address: site },
        premises: by_key(&Premises::ALL, f.get("premises"), Premises::key).unwrap_or_default(),
        nature: by_key(&Nature::ALL, f.get("nature"), Nature::key).unwrap_or_default(),
        supply: Supply { system, lines, ..Supply::default() },
        boards,
        ..Installation::default()
    };
    Some(Job {
        id: f.made_id("job"),
        reference,
        title,
        created_at: Timestamp::now(),
        made_as: if f.ticked("practice") { MadeAs::Practice } else { MadeAs::Work },
        firm: proof_job::installation::Firm::default(),
        people: Vec::new(),
        instruments: Vec::new(),
        installation,
        readings: Vec::new(),
        events: Vec::new(),
        history: 0,
        kept: JobCache::default(),
    })
}

pub(crate) async fn create(shared: Data<Shared>, mut f: Fields) -> Handled {
    let again = |f: Fields| new_drawn(shared.clone(), f, StatusCode::UNPROCESSABLE_ENTITY);
    let Some(mut job) = described(&mut f) else { return again(f).await };
    let id = job.id;
    let from = f.get("from").to_owned();
    if !from.is_empty() {
        // The pattern brings the boards; the name typed is that of the first.
        job.installation.boards.clear();
    }
    let done = once(&shared, &f, move |store| {
        job.firm = store.firm()?;
        job.installation.house_rules = job.firm.house_rules.clone();
        job.installation.own_rows = store.own_rows()?;
        job.people = store.people()?;
        job.instruments = store.instruments()?;
        Ok(store.create_job(&job)?)
    })
    .await;
    match done {
        Ok(_) if from.is_empty() => Ok(go(&format!("/jobs/{id}"))),
        Ok(_) => {
            let asked = serde_urlencoded::to_string([("from", from.as_str()), ("board", f.trimmed("board"))]);
            Ok(go(&format!("/jobs/{id}/begin?{}", asked.unwrap_or_default())))
        }
        Err(WebError::Clash(_)) => {
            f.wrong("reference", "There is a job of this reference already: give another.");
            again(f).await
        }
        Err(other) => Err(other),
    }
}
