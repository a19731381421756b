//! What each house rule would change in a job.

use super::framed;
use crate::error::{Handled, page};
use crate::frame::{Frame, Section};
use crate::request::{blocking, load};
use crate::shared::Shared;
use actix_web::HttpResponse;
use actix_web::web::{Data, Path, Query};
use askama::Template;
use proof_standard::house_rules::RULES;
use proof_work::plan::run::{Counts, Order};
use proof_work::rule_effects::{Effect, cost, effect};
use std::collections::HashMap;
use uuid::Uuid;

/// A way that is not in use, and what it would change.
struct RuleRow {
    question: &'static str,
    used: &'static str,
    way: &'static str,
    effect: String,
}

#[derive(Template)]
#[template(path = "schools.html")]
struct SchoolsPage {
    frame: Frame,
    job: Uuid,
    rows: Vec<RuleRow>,
}

/// From so much to so much, of what differs.
fn counted(before: Counts, after: Counts) -> String {
    let all = [
        ("readings", before.readings, after.readings),
        ("nulls", before.nulls, after.nulls),
        ("visits to a board", before.board_visits, after.board_visits),
        ("points walked to", before.points, after.points),
        ("lead changes", before.lead_changes, after.lead_changes),
    ];
    let differs = all.into_iter().filter(|(_, before, after)| before != after);
    differs.map(|(what, before, after)| format!("{what} {before} → {after}")).collect::<Vec<_>>().join(", ")
}

fn describe(effect: &Effect) -> String {
    match effect {
        Effect::Plan(before, after) => format!("In this job: {}.", counted(*before, *after)),
        Effect::Readings => "In this job: as many readings, taken in another way or another order.".to_owned(),
        Effect::Altered => {
            "In this job: the same readings; what is linked or taken out for them is another.".to_owned()
        }
        Effect::Judged(before, after) => {
            format!("No reading of this job changes; it is judged otherwise: findings {before} → {after}.")
        }
        Effect::Nothing => "Changes nothing in this job as it stands.".to_owned(),
    }
}

/// What the way that a form has just chosen would change, in a line.
pub(crate) async fn one(shared: Data<Shared>, path: Path<Uuid>, query: Query<HashMap<String, String>>) -> Handled {
    let head = load(&shared, path.into_inner()).await?;
    let chosen = query.into_inner();
    let line = blocking(move || {
        let rule = RULES.iter().find_map(|rule| Some((rule, chosen.get(rule.key)?)));
        let Some((rule, way)) = rule else { return Ok(String::new()) };
        if (rule.chosen)(&head.job.installation.house_rules) == way {
            return Ok("As it is in this job.".to_owned());
        }
        let order = Order::default();
        Ok(describe(&effect(&head.job, &cost(&head.job, order), rule, way, order)))
    })
    .await?;
    Ok(HttpResponse::Ok().content_type("text/html; charset=utf-8").body(line))
}

/// Every way that is not in use.
pub(crate) async fn all(shared: Data<Shared>, path: Path<Uuid>) -> Handled {
    let head = load(&shared, path.into_inner()).await?;
    let job = head.job.clone();
    let rows = blocking(move || {
        let order = Order::default();
        let before = cost(&job, order);
        let rules = &job.installation.house_rules;
        let ways = RULES.iter().flat_map(|rule| {
            let used = (rule.chosen)(rules);
            (rule.ways)().into_iter().filter(move |(key, _)| *key != used).map(move |(key, label)| (rule, key, label))
        });
        let row = |(rule, key, way): (&'static proof_standard::house_rules::Rule, &str, &'static str)| RuleRow {
            question: rule.question,
            used: (rule.label)(rules),
            way,
            effect: describe(&effect(&job, &before, rule, key, order)),
        };
        Ok(ways.map(row).collect::<Vec<_>>())
    })
    .await?;
    let frame = framed("House rules", Section::Particulars, &head.job, &head.job.events);
    page(&SchoolsPage { frame, job: head.job.id, rows })
}
