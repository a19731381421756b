//! Questions as an assessor asks them: one at a time, judged with the working.

use crate::Shared;
use crate::error::{Handled, WebError, page_with};
use crate::forms::Fields;
use crate::frame::Frame;
use actix_web::http::StatusCode;
use actix_web::web::{Data, Query};
use askama::Template;
use proof_bench::questions::{Answer, Judged, Question, ask};
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
}

impl QuestionPage {
    /// The words that may be chosen; empty: a figure is asked.
    fn of(&self) -> &[String] {
        match &self.question.answer {
            Answer::OneOf { of, .. } => of,
            Answer::Number { .. } => &[],
        }
    }

    fn unit(&self) -> &'static str {
        match self.question.answer {
            Answer::Number { unit, .. } => unit,
            Answer::OneOf { .. } => "",
        }
    }
}

/// Which question.
#[derive(serde::Deserialize, Default)]
pub(crate) struct Which {
    q: Option<u64>,
}

/// A seed that nobody chose.
fn seed() -> u64 {
    Uuid::new_v4().as_u64_pair().0 >> 24
}

fn drawn(seed_asked: u64, f: Fields, judged: Option<Judged>, status: StatusCode) -> Handled {
    let question =
        ask(seed_asked).ok_or_else(|| WebError::NotFound("There is no such question: ask another.".into()))?;
    let frame = Frame::outside("Questions");
    page_with(status, &QuestionPage { frame, f, seed: seed_asked, next: seed(), question, judged })
}

pub(crate) async fn show(_: Data<Shared>, which: Query<Which>) -> Handled {
    // A seed without a question is passed over.
    let of = which.q.or_else(|| (0..20).map(|_| seed()).find(|seed| ask(*seed).is_some()));
    drawn(of.unwrap_or_default(), Fields::default(), None, StatusCode::OK)
}

pub(crate) async fn judge(f: Fields) -> Handled {
    let seed =
        f.get("q").parse().map_err(|_| WebError::Bad("The form does not say which question it answers.".into()))?;
    let question = ask(seed).ok_or_else(|| WebError::NotFound("There is no such question: ask another.".into()))?;
    let judged = question.judge(f.get("answer"));
    let mut f = f;
    let status = match &judged {
        Judged::NotUnderstood(allowed) => {
            f.wrong("answer", allowed.clone());
            StatusCode::UNPROCESSABLE_ENTITY
        }
        _ => StatusCode::OK,
    };
    drawn(seed, f, Some(judged), status)
}
