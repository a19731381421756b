//! Questions as an assessor asks them: one at a time, judged with the working.

use crate::error::{Handled, WebError, page_with};
use crate::forms::Fields;
use crate::frame::Frame;
use crate::request::{blocking, once, remembered};
use crate::shared::Shared;
use actix_web::HttpRequest;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Query};
use askama::Template;
use jiff::Timestamp;
use proof_bench::practice::Exercise;
use proof_bench::questions::{Answered, ExpectedAnswer, Judged, Question, Stop, ask, on_the_way, seed_of, weak};
use proof_store::Store;
use uuid::Uuid;

#[derive(Template)]
#[template(path = "questions.html")]
struct QuestionPage {
    frame: Frame,
    f: Fields,
    seed: u64,
    next: u64,
    question: Question,
    judged: Option<Judged>,
    /// The exercise that it stands on the way of.
    from: Option<Uuid>,
    /// Who answers, as this browser remembers; empty: nothing is kept.
    person: String,
    answered: usize,
    right: usize,
}

impl QuestionPage {
    /// The words that may be chosen; empty: a figure is asked.
    fn options(&self) -> &[String] {
        match &self.question.answer {
            ExpectedAnswer::OneOf { of, .. } => of,
            ExpectedAnswer::Number { .. } | ExpectedAnswer::Pointed { .. } => &[],
        }
    }

    /// The row that is pointed at; empty: nothing is pointed at.
    fn stops(&self) -> &[Stop] {
        match &self.question.answer {
            ExpectedAnswer::Pointed { stops, .. } => stops,
            _ => &[],
        }
    }

    fn unit(&self) -> &'static str {
        match self.question.answer {
            ExpectedAnswer::Number { unit, .. } => unit,
            ExpectedAnswer::OneOf { .. } | ExpectedAnswer::Pointed { .. } => "",
        }
    }
}

/// Which question.
#[derive(serde::Deserialize, Default)]
pub(crate) struct QuestionQuery {
    q: Option<u64>,
    /// On the way of an exercise that was begun.
    from: Option<Uuid>,
}

/// A seed that nobody chose.
fn seed() -> u64 {
    Uuid::new_v4().as_u64_pair().0 >> 24
}

/// What is known of who answers: how many, how many right, which kinds are weak.
struct Stands {
    person: String,
    answered: usize,
    right: usize,
    weak: Vec<&'static str>,
}

fn stands(store: &Store, person: &str) -> Result<Stands, WebError> {
    let answers: Vec<Answered> = if person.is_empty() {
        Vec::new()
    } else {
        store.answers(person)?.into_iter().map(|(kind, right)| Answered { kind, right }).collect()
    };
    let right = answers.iter().filter(|one| one.right).count();
    Ok(Stands { person: person.to_owned(), answered: answers.len(), right, weak: weak(&answers) })
}

/// The seed of the next question: every other time one of a weak kind, where there is one.
fn next(weak: &[&str]) -> u64 {
    let from = seed();
    let kinds = if from.is_multiple_of(2) { weak } else { &[] };
    seed_of(kinds, from).or_else(|| seed_of(&[], from)).unwrap_or_default()
}

async fn drawn(
    shared: Data<Shared>,
    person: String,
    (seed_asked, from): (u64, Option<Uuid>),
    f: Fields,
    judged: Option<Judged>,
) -> Handled {
    let question =
        ask(seed_asked).ok_or_else(|| WebError::NotFound("There is no such question: ask another.".into()))?;
    let status = match judged {
        Some(Judged::NotUnderstood(_)) => StatusCode::UNPROCESSABLE_ENTITY,
        _ => StatusCode::OK,
    };
    let stands = blocking(move || stands(&shared.store, &person)).await?;
    let Stands { person, answered, right, weak } = stands;
    let (frame, next) = (Frame::outside("Questions"), next(&weak));
    page_with(
        status,
        &QuestionPage { frame, f, seed: seed_asked, next, question, judged, from, person, answered, right },
    )
}

/// The kinds that go with an exercise that was begun.
fn kinds(store: &Store, practice: Uuid) -> Result<&'static [&'static str], WebError> {
    let exercise = Exercise::from_key(&store.practice(practice)?.exercise);
    Ok(exercise.map_or(&[], on_the_way))
}

pub(crate) async fn show(shared: Data<Shared>, which: Query<QuestionQuery>, request: HttpRequest) -> Handled {
    let QuestionQuery { q, from } = which.into_inner();
    let person = remembered(&request, "writer");
    let (kept, who) = (shared.clone(), person.clone());
    let of = blocking(move || match (q, from) {
        (Some(seed), _) => Ok(seed),
        (None, Some(practice)) => Ok(seed_of(kinds(&kept.store, practice)?, seed()).unwrap_or_default()),
        (None, None) => Ok(next(&stands(&kept.store, &who)?.weak)),
    })
    .await?;
    drawn(shared, person, (of, from), Fields::default(), None).await
}

pub(crate) async fn judge(shared: Data<Shared>, request: HttpRequest, mut f: Fields) -> Handled {
    let seed =
        f.get("q").parse().map_err(|_| WebError::Bad("The form does not say which question it answers.".into()))?;
    let question = ask(seed).ok_or_else(|| WebError::NotFound("There is no such question: ask another.".into()))?;
    let judged = question.judge(f.get("answer"));
    let (from, person) = (f.get("from").parse().ok(), remembered(&request, "writer"));
    if let Judged::NotUnderstood(allowed) = &judged {
        f.wrong("answer", allowed.clone());
    } else if !person.is_empty() && !f.ticked("again") {
        let (right, kind, who) = (judged == Judged::Right, question.kind, person.clone());
        once(&shared, &f, move |store| Ok(store.answered(&who, kind, right, Timestamp::now())?)).await?;
    }
    drawn(shared, person, (seed, from), f, Some(judged)).await
}
