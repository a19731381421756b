//! Practice at the bench: the list of exercises, one at work, what it earned. None of this is kept in any job.

mod make;
mod parts;
pub(crate) mod questions;
pub(crate) mod tried;
mod view;

use crate::cpu_pool::on_cpu_pool;
use crate::error::{Handled, WebError, go, html, page, page_with};
use crate::forms::Fields;
use crate::frame::Frame;
use crate::request::{blocking, is_partial, remember, remembered, who};
use crate::shared::Shared;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, Query};
use actix_web::{HttpRequest, HttpResponse};
use askama::Template;
use jiff::Timestamp;
use parts::{HINT, answer, hints};
use proof_bench::practice::made::pose_at;
use proof_bench::practice::marks::{Answers, Marks, mark};
use proof_bench::practice::progress::{self, Done};
use proof_bench::practice::{Ask, Exercise, Level, Posed};
use proof_bench::rig::{act::Act, bench::Bench};
use proof_store::{Practice, PracticeBegun, Store};
use uuid::Uuid;
use view::View;

/// Most exercises that are listed as begun.
const MOST_LISTED: u32 = 12;
/// Longest name of what is pointed at: a row and a column.
const MOST_POINTED: usize = 20;

/// An exercise in the list.
pub(crate) struct ExerciseLine {
    exercise: Exercise,
    times: usize,
    clean: usize,
    next: bool,
    due: String,
}

#[derive(Template)]
#[template(path = "bench.html")]
struct ListPage {
    frame: Frame,
    f: Fields,
    lines: Vec<ExerciseLine>,
    levels: Vec<(&'static str, &'static str)>,
    done: HandedIn,
    /// Begun and not handed in: which, in words.
    begun: Vec<(Uuid, String)>,
}

#[derive(Template)]
#[template(path = "bench_page.html")]
struct WorkPage {
    frame: Frame,
    view: View,
}

#[derive(Template)]
#[template(path = "bench_work.html")]
struct WorkPart {
    view: View,
}

#[derive(Template)]
#[template(path = "bench_marks.html")]
struct MarksPage {
    frame: Frame,
    posed: Posed,
    exercise: String,
    marks: Marks,
    minutes: i64,
    hints: usize,
    taken: Vec<String>,
}

fn posed(store: &Store, practice: &Practice) -> Result<Posed, WebError> {
    if practice.exercise == tried::KEY {
        return tried::posed(store, practice);
    }
    Exercise::at_level(&practice.exercise)
        .and_then(|(exercise, level)| pose_at(exercise, level, practice.seed))
        .ok_or_else(|| WebError::NotFound(format!("There is no exercise “{}”.", practice.exercise)))
}

/// What was handed in: which, its title, the day, whether clean.
type HandedIn = Vec<(Uuid, String, String, bool)>;

/// An exercise by its key, with its level where that is not the usual one.
fn titled(key: &str) -> Option<String> {
    let (exercise, level) = Exercise::at_level(key)?;
    let title = exercise.title();
    Some(if level == Level::Usual { title.to_owned() } else { format!("{title}, {}", level.label()) })
}

fn listed(store: &Store, person: &str) -> Result<(Vec<ExerciseLine>, HandedIn), WebError> {
    let now = Timestamp::now();
    let all = store.practised(person)?;
    let done: Vec<Done> = all
        .iter()
        .filter_map(|one| {
            Some(Done { exercise: Exercise::from_key(&one.exercise)?, at: one.finished_at, clean: one.clean })
        })
        .collect();
    let standing = progress::standing(&done);
    let next = progress::next(&standing, now);
    let lines = standing.iter().map(|one| ExerciseLine {
        exercise: one.exercise,
        times: one.times,
        clean: one.clean,
        next: next == Some(one.exercise),
        due: match one.due {
            None => "new".into(),
            Some(due) if due <= now => "again now".into(),
            Some(due) => format!("again on {}", crate::frame::day(&due.to_string())),
        },
    });
    let recent = all.iter().rev().take(12).map(|one| {
        let title = titled(&one.exercise).unwrap_or_default();
        (one.id, title, crate::frame::day(&one.finished_at.to_string()), one.clean)
    });
    Ok((lines.collect(), recent.collect()))
}

/// What is begun and not handed in, of everybody: a bench is gone on with by whoever sits there.
fn begun(store: &Store) -> Result<Vec<(Uuid, String)>, WebError> {
    let words = |one: PracticeBegun| {
        let title = titled(&one.exercise).unwrap_or_else(|| "A circuit of a job".to_owned());
        let who = if one.person.is_empty() { String::new() } else { format!(", {}", one.person) };
        (one.id, format!("{title}{who}, begun {}", crate::frame::day(&one.begun_at.to_string())))
    };
    Ok(store.practice_begun(MOST_LISTED)?.into_iter().map(words).collect())
}

async fn list_drawn(shared: Data<Shared>, f: Fields, status: StatusCode) -> Handled {
    let person = f.trimmed("by").to_owned();
    let (lines, done, begun) = blocking(move || {
        let (lines, done) = listed(&shared.store, &person)?;
        Ok((lines, done, begun(&shared.store)?))
    })
    .await?;
    let levels = Level::ALL.map(|level| (level.key(), level.label())).into();
    page_with(status, &ListPage { frame: Frame::outside("Practice"), f, lines, levels, done, begun })
}

pub(crate) async fn list(shared: Data<Shared>, request: HttpRequest) -> Handled {
    let mut f = Fields::default();
    f.put("by", remembered(&request, "writer"));
    f.put("level", Level::default().key());
    list_drawn(shared, f, StatusCode::OK).await
}

/// Begins an exercise, with a seed of its own.
pub(crate) async fn begin(shared: Data<Shared>, request: HttpRequest, mut f: Fields) -> Handled {
    // The level stands beside the list; of another of the kind it is in the key.
    let exercise = Exercise::at_level(f.get("exercise"));
    let level =
        if f.get("level").is_empty() { exercise.map(|(_, level)| level) } else { Level::from_key(f.get("level")) };
    let Some((exercise, level)) = exercise.zip(level).map(|((exercise, _), level)| (exercise, level)) else {
        return Err(WebError::Bad(format!(
            "There is no exercise “{}” at the level “{}”: choose one of the list.",
            f.get("exercise"),
            f.get("level")
        )));
    };
    if f.trimmed("by").is_empty() && remembered(&request, "writer").is_empty() {
        f.wrong("by", "Give your name: progress is kept by it.");
        return list_drawn(shared, f, StatusCode::UNPROCESSABLE_ENTITY).await;
    }
    let person = who(&request, &f)?;
    let id = f.made_id("practice");
    // The same form sent twice begins the same exercise.
    let seed = f.get("seed").parse().unwrap_or_else(|_| Practice::seed_of(id));
    let begun = Practice { seed, ..Practice::begun(id, &person, &exercise.key_at(level), Timestamp::now()) };
    blocking(move || Ok(shared.store.begin_practice(&begun)?)).await?;
    let mut response = go(&format!("/practice/{id}"));
    remember(&mut response, &[("writer", &person)]);
    Ok(response)
}

/// Which way is in hand.
#[derive(serde::Deserialize, Default)]
pub(crate) struct Shows {
    way: Option<usize>,
}

async fn loaded(shared: &Data<Shared>, id: Uuid) -> Result<(Practice, Posed, Bench), WebError> {
    let shared = shared.clone();
    blocking(move || {
        let practice = shared.store.practice(id)?;
        let posed = posed(&shared.store, &practice)?;
        let bench = shared.benches.after(&practice, &posed);
        Ok((practice, posed, bench))
    })
    .await
}

pub(crate) async fn show(shared: Data<Shared>, path: Path<Uuid>, shows: Query<Shows>) -> Handled {
    let (practice, posed, bench) = loaded(&shared, path.into_inner()).await?;
    if practice.finished_at.is_some() {
        return marked(practice, posed, bench).await;
    }
    let mut f = Fields::default();
    if let Some(way) = shows.way {
        f.put("shown_way", way.to_string());
    }
    let view = View::from_practice(&practice, &posed, &bench, f);
    page(&WorkPage { frame: Frame::outside(&posed.title), view })
}

/// Does one act, the one after those that the page showed; one that came late does nothing, and the page shows how it
/// stands.
pub(crate) async fn act(shared: Data<Shared>, request: HttpRequest, path: Path<Uuid>, f: Fields) -> Handled {
    let id = path.into_inner();
    let text = f.trimmed("act").to_owned();
    if let Some(way) = text.strip_prefix("show ") {
        let mut f = f.clone();
        f.set("shown_way", way);
        return worked(&shared, &request, id, f, None).await;
    }
    // What is pointed at is an answer, and no act.
    if !f.get("points").is_empty() {
        let pointed = f.get("points").split_once(':').filter(|(name, _)| ["place", "cell"].contains(name));
        let Some(pointed) = pointed.filter(|(_, value)| value.len() <= MOST_POINTED) else {
            return Err(WebError::Bad(
                "Nothing of that name is on the bench: point at one of the page's places.".into(),
            ));
        };
        return worked(&shared, &request, id, f.clone(), Some(pointed)).await;
    }
    if text != HINT {
        text.parse::<Act>().map_err(|error| WebError::Bad(format!("{error}: press one of the page's buttons.")))?;
    }
    let after = f.get("at").parse().map_err(|_| {
        WebError::Bad("The form does not say which act it is: load the page again. Nothing was done.".into())
    })?;
    let store = shared.store.clone();
    blocking(move || Ok(store.add_act(id, after, &text)?)).await?;
    worked(&shared, &request, id, f, None).await
}

/// Fills in what is pointed at. Where two places are asked for, the first field that is empty, else the last; a place
/// that stands in one already is taken out.
fn point(f: &mut Fields, asks: &[Ask], (name, value): (&str, &str)) {
    let asked = |one: &&str| one.strip_suffix('2').unwrap_or(one) == name && asks.iter().any(|ask| ask.name() == *one);
    let fields: Vec<&str> = ["place", "place2", "cell"].into_iter().filter(asked).collect();
    if let Some(held) = fields.iter().find(|field| f.is(field, value)) {
        return f.set(held, "");
    }
    if let Some(field) = fields.iter().find(|field| f.get(field).is_empty()).or(fields.last()) {
        f.set(field, value);
    }
}

async fn worked(
    shared: &Data<Shared>,
    request: &HttpRequest,
    id: Uuid,
    mut f: Fields,
    pointed: Option<(&str, &str)>,
) -> Handled {
    let (practice, posed, bench) = loaded(shared, id).await?;
    if practice.finished_at.is_some() {
        return Ok(to_marks(request, id));
    }
    if let Some(pointed) = pointed {
        point(&mut f, &posed.asks, pointed);
    }
    let view = View::from_practice(&practice, &posed, &bench, f);
    if is_partial(request) {
        return Ok(html(StatusCode::OK, WorkPart { view }.render()?));
    }
    // Without scripts the answers that are typed come back with the page.
    page(&WorkPage { frame: Frame::outside(&posed.title), view })
}

/// Hands it in.
pub(crate) async fn finish(shared: Data<Shared>, request: HttpRequest, path: Path<Uuid>, f: Fields) -> Handled {
    let id = path.into_inner();
    let (practice, posed, bench) = loaded(&shared, id).await?;
    if practice.finished_at.is_none() {
        let answers: Answers = posed.asks.iter().map(|ask| (ask.name().to_owned(), answer(&f, ask))).collect();
        on_cpu_pool(move || {
            let clean = mark(&posed, &bench, &answers).is_clean();
            Ok(shared.store.finish_practice(id, &answers, clean, Timestamp::now())?)
        })
        .await?;
    }
    Ok(to_marks(&request, id))
}

/// To what it earned: another page, also for whoever asked for a part.
fn to_marks(request: &HttpRequest, id: Uuid) -> HttpResponse {
    let to = format!("/practice/{id}");
    if is_partial(request) { HttpResponse::Ok().insert_header(("hx-redirect", to)).finish() } else { go(&to) }
}

async fn marked(practice: Practice, posed: Posed, bench: Bench) -> Handled {
    // How few readings would have done is played through.
    let (posed, bench, practice, marks) = on_cpu_pool(move || {
        let marks = mark(&posed, &bench, &practice.answers);
        Ok((posed, bench, practice, marks))
    })
    .await?;
    let spent = practice.finished_at.map_or(0, |at| at.duration_since(practice.begun_at).as_mins());
    let taken = bench.readings.iter().map(|one| view::taken(&posed.bench.rig, one)).collect();
    let frame = Frame::outside(&posed.title);
    let exercise = practice.exercise.clone();
    page(&MarksPage { frame, exercise, marks, minutes: spent, hints: hints(&practice), taken, posed })
}
