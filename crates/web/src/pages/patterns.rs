//! Patterns of the firm: kept from a board or a whole job, taken out.

use crate::error::{Handled, WebError, go, go_done};
use crate::forms::Fields;
use crate::request::{find_board, once};
use crate::shared::Shared;
use actix_web::web::{Data, Path};
use proof_job::installation::pattern;
use proof_job::installation::validity::LONGEST_LINE;
use uuid::Uuid;

async fn kept(shared: &Data<Shared>, job: Uuid, only: Option<Uuid>, mut f: Fields) -> Handled {
    let name = f.line("pattern", LONGEST_LINE);
    if name.is_empty() || f.any_wrong() {
        return Err(WebError::Bad(format!(
            "A pattern has a name of up to {LONGEST_LINE} characters. Go back; nothing was stored."
        )));
    }
    let id = f.made_id("pattern");
    once(shared, &f, move |store| {
        let head = store.head(job)?;
        if let Some(board) = only {
            find_board(&head.job, board)?;
        }
        let made = pattern::from_installation(&head.job.installation, only, id, name);
        if made.boards.is_empty() {
            return Err(WebError::Bad("A pattern has a board: describe one first. Nothing was stored.".into()));
        }
        Ok(store.save_pattern(&made)?)
    })
    .await?;
    Ok(go_done("/firm#patterns", "pattern"))
}

/// Keeps a whole job as a pattern.
pub(crate) async fn keep_job(shared: Data<Shared>, path: Path<Uuid>, f: Fields) -> Handled {
    kept(&shared, path.into_inner(), None, f).await
}

/// Keeps a board as a pattern.
pub(crate) async fn keep_board(shared: Data<Shared>, path: Path<(Uuid, Uuid)>, f: Fields) -> Handled {
    let (job, board) = path.into_inner();
    kept(&shared, job, Some(board), f).await
}

/// Takes a pattern out. Jobs begun from it stay as they are.
pub(crate) async fn remove(shared: Data<Shared>, path: Path<Uuid>, f: Fields) -> Handled {
    let id = path.into_inner();
    once(&shared, &f, move |store| Ok(store.remove_pattern(id)?)).await?;
    Ok(go("/firm#patterns"))
}
