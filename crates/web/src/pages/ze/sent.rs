//! Figures of Ze that a joined instrument sent: held in their fields until the earthing conductor is back on.

use crate::error::WebError;
use crate::forms::Fields;
use crate::pages::run::feed::Joined;
use crate::request::blocking;
use crate::shared::Shared;
use actix_web::web::Data;
use proof_job::job::Job;
use proof_store::HeldMessage;
use proof_work::actions::{With, ZeField, ZeFigure, exposure, ze_line, ze_typed};
use std::collections::HashSet;
use uuid::Uuid;

/// The instrument that is joined, as the strip tells it.
pub(super) struct Strip {
    pub joined: Joined,
    /// How many figures came since the earthing conductor is off; so many were put into their fields.
    pub placed: usize,
    pub beside: Vec<Beside>,
}

/// What came and was put into no field.
pub(crate) struct Beside {
    pub shown: String,
    /// It came when the earthing conductor was ticked as put back; else every field that it may be of holds a figure.
    pub earth_restored: bool,
}

/// What instruments sent since the earthing conductor is off.
pub(super) async fn held(shared: &Data<Shared>, job: &Job) -> Result<Vec<HeldMessage>, WebError> {
    let Some(exposure) = exposure(job).map(|event| event.id) else { return Ok(Vec::new()) };
    let store = shared.store.clone();
    blocking(move || Ok(store.held(exposure)?)).await
}

fn id_field(slug: &str) -> String {
    format!("id-{slug}")
}

/// The figure of an instrument that stands in a field as it was sent.
pub(super) fn in_field<'a>(held: &'a [HeldMessage], f: &Fields, slug: &str) -> Option<&'a HeldMessage> {
    let id: Uuid = f.get(&id_field(slug)).parse().ok()?;
    held.iter().find(|one| one.message.id == id && ze_typed(&one.message) == f.trimmed(slug))
}

/// Puts what came since into its fields; which fields, and what found none. With the earthing conductor back on a loop is no
/// Ze: what comes when that is ticked goes into no field.
pub(super) fn put(job: &Job, held: &[HeldMessage], f: &mut Fields) -> (HashSet<String>, Vec<Beside>) {
    let placed = f.get("placed").parse().unwrap_or(0);
    let earth_restored = f.ticked("refitted");
    let (mut changed, mut beside) = (HashSet::new(), Vec::new());
    for one in held.iter().skip(placed) {
        let field = |slug: &str| match (f.trimmed(slug), in_field(held, f, slug)) {
            ("", _) => ZeField::Empty,
            (_, Some(_)) => ZeField::Sent,
            (_, None) => ZeField::Typed,
        };
        match ze_line(&job.installation, &one.message, field).filter(|_| !earth_restored) {
            Some(slug) => {
                f.set(&slug, &ze_typed(&one.message));
                f.set(&id_field(&slug), &one.message.id.to_string());
                changed.insert(slug);
            }
            None => beside.push(Beside { shown: one.message.typed(), earth_restored }),
        }
    }
    f.set("placed", &held.len().to_string());
    (changed, beside)
}

/// The figure of a line as the form has it: the instrument's own where it stands as it was sent.
pub(super) fn figure(held: &[HeldMessage], f: &Fields, slug: String) -> ZeFigure {
    if let Some(one) = in_field(held, f, &slug) {
        let with = With::received(&one.message, one.instrument, &one.read_by);
        return ZeFigure { typed: ze_typed(&one.message), id: one.message.id, with, slug };
    }
    let id = f.get(&id_field(&slug)).parse().ok();
    // Typed over what an instrument sent: a reading of its own.
    let id = id.filter(|id| !held.iter().any(|one| one.message.id == *id));
    // What no line has is a limitation, where a reason is given.
    let excuse = f.trimmed("excuse");
    let typed = if f.trimmed(&slug).is_empty() && !excuse.is_empty() {
        format!("lim {excuse}")
    } else {
        f.get(&slug).to_owned()
    };
    ZeFigure { typed, id: id.unwrap_or_else(|| f.made_id(&slug)), with: f.with(), slug }
}
