//! Work that takes long: so much of it at once, so long a wait for it, and an answer that says so. Readings are
//! stored and pages drawn beside it.

use crate::error::WebError;
use actix_web::rt::time::timeout;
use actix_web::web;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Duration;
use tokio::sync::Semaphore;

/// So much at once: as many as there are cores to spare.
const AT_ONCE: usize = 2;
/// So many wait for their turn.
const MOST_WAITING: usize = 12;
/// So long they wait for it …
const LONGEST_WAIT: Duration = Duration::from_secs(15);
/// … and so long for the work itself.
const LONGEST_WORK: Duration = Duration::from_secs(60);

static TURNS: Semaphore = Semaphore::const_new(AT_ONCE);
static WAITING: AtomicUsize = AtomicUsize::new(0);

/// One that waits, counted until it no longer does.
struct Waits;

impl Waits {
    fn begun() -> Option<Self> {
        let before = WAITING.fetch_add(1, Ordering::Relaxed);
        let waits = Self;
        (before < MOST_WAITING).then_some(waits)
    }
}

impl Drop for Waits {
    fn drop(&mut self) {
        WAITING.fetch_sub(1, Ordering::Relaxed);
    }
}

/// Does long work in its turn, off the threads that answer.
///
/// # Errors
/// [`WebError::Busy`] when others are before it for too long, or it takes too long itself.
pub(crate) async fn on_cpu_pool<T: Send + 'static>(
    work: impl FnOnce() -> Result<T, WebError> + Send + 'static,
) -> Result<T, WebError> {
    let busy = || WebError::Busy("The program is busy with others' papers and searches: try again in a moment.".into());
    let waits = Waits::begun().ok_or_else(busy)?;
    let turn = timeout(LONGEST_WAIT, TURNS.acquire()).await.map_err(|_| busy())?;
    let turn = turn.map_err(|error| WebError::Inside(error.to_string()))?;
    drop(waits);
    // The turn ends with the work, also where nobody waits for it any more.
    let done = web::block(move || {
        let _turn = turn;
        work()
    });
    let late = || {
        WebError::Busy(
            "This takes longer than a minute: look in a moment whether it is there, and try again if not.".into(),
        )
    };
    timeout(LONGEST_WORK, done).await.map_err(|_| late())?.map_err(|error| WebError::Inside(error.to_string()))?
}

#[cfg(test)]
mod tests {
    use super::*;

    /// More than may wait are told at once; what waits is done in its turn, and never more than so much at once.
    #[test]
    fn so_much_at_once_and_the_others_are_told() {
        actix_web::rt::System::new().block_on(told());
    }

    async fn told() {
        static RUNNING: AtomicUsize = AtomicUsize::new(0);
        static MOST: AtomicUsize = AtomicUsize::new(0);
        let one = || {
            on_cpu_pool(|| {
                let now = RUNNING.fetch_add(1, Ordering::SeqCst) + 1;
                MOST.fetch_max(now, Ordering::SeqCst);
                std::thread::sleep(Duration::from_millis(30));
                RUNNING.fetch_sub(1, Ordering::SeqCst);
                Ok(())
            })
        };
        let all = futures_util::future::join_all((0..30).map(|_| one())).await;
        let done = all.iter().filter(|one| one.is_ok()).count();
        let told = all.iter().filter(|one| matches!(one, Err(WebError::Busy(_)))).count();
        assert_eq!(done + told, 30);
        assert!((AT_ONCE + MOST_WAITING - 2..=AT_ONCE + MOST_WAITING).contains(&done), "{done}");
        assert_eq!(MOST.load(Ordering::SeqCst), AT_ONCE);
        assert!(one().await.is_ok(), "and then it is free again");
    }
}
