//! Jobs read lately, kept as read with what follows from them. What is kept is used only while the database
//! still holds just that: its revision and the last reading and event of the job are compared on every use.

use crate::JobHead;
use proof_job::job::Job;
use std::sync::{Arc, Mutex, PoisonError};
use uuid::Uuid;

/// Most bytes kept, as [`weight`] has them: the jobs used last, and always the one in use. Some twenty of
/// 3,000 readings, three or four of 20,000.
const MOST_BYTES: usize = 192 << 20;

/// About how much memory a job takes with what follows from it, bytes: an estimate, on the high side, of a reading with
/// its places in the indexes, an event, a point with its steps and what is planned of them.
pub(crate) fn weight(job: &Job) -> usize {
    let points: usize = job.installation.circuits.iter().map(|circuit| 1 + circuit.points.len()).sum();
    (64 << 10) + 2_048 * job.readings.len() + 1_024 * job.events.len() + 4_096 * points
}

/// Revision of the description, last reading, last event.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Version {
    /// Revision of the description.
    pub revision: i64,
    /// Last reading, 0 when there is none.
    pub reading: i64,
    /// Last event, 0 when there is none.
    pub event: i64,
    /// Revision of the registers.
    pub registers: i64,
    /// How many certificates it has.
    pub certificates: i64,
    /// Which of the databases that stood here, one after another.
    pub generation: u64,
}

impl Version {
    /// Whether another is as late or later, in all.
    pub(crate) const fn is_before(self, other: Self) -> bool {
        self.generation == other.generation
            && self.revision <= other.revision
            && self.reading <= other.reading
            && self.event <= other.event
            && self.registers <= other.registers
            && self.certificates <= other.certificates
    }

    /// Whether another is described alike: what it says but for its readings and events.
    pub(crate) const fn is_described_as(self, other: Self) -> bool {
        self.revision == other.revision && self.registers == other.registers && self.certificates == other.certificates
    }
}

/// One job as it was last read. It is locked while it is read or grown, so that no two do the same; other
/// jobs go on.
pub(crate) type Slot = Arc<Mutex<Option<(Version, Arc<JobHead>)>>>;

/// A job that is kept.
#[derive(Debug)]
struct RecentJob {
    id: Uuid,
    slot: Slot,
    bytes: usize,
}

/// The jobs kept, the latest used last.
#[derive(Debug, Default)]
pub(crate) struct Recent(Mutex<Vec<RecentJob>>);

impl Recent {
    /// The place of a job, empty when it was not read lately.
    pub(crate) fn slot(&self, id: Uuid) -> Slot {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let kept = match all.iter().position(|kept| kept.id == id) {
            Some(at) => all.remove(at),
            None => RecentJob { id, slot: Slot::default(), bytes: 0 },
        };
        let slot = kept.slot.clone();
        all.push(kept);
        slot
    }

    /// Says how much a job takes now, bytes; those used longest ago go where it is too much for all.
    pub(crate) fn weigh(&self, id: Uuid, bytes: usize) {
        self.weigh_within(id, bytes, MOST_BYTES);
    }

    fn weigh_within(&self, id: Uuid, bytes: usize, most: usize) {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(kept) = all.iter_mut().find(|kept| kept.id == id) {
            kept.bytes = bytes;
        }
        let mut sum: usize = all.iter().map(|kept| kept.bytes).sum();
        while sum > most && all.len() > 1 {
            sum -= all.remove(0).bytes;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::{Recent, Uuid};
    use std::sync::PoisonError;

    #[test]
    fn the_ones_used_last_are_kept_as_far_as_they_go() {
        let recent = Recent::default();
        let ids: Vec<Uuid> = (0..40).map(Uuid::from_u128).collect();
        let kept = || -> Vec<Uuid> {
            recent.0.lock().unwrap_or_else(PoisonError::into_inner).iter().map(|one| one.id).collect()
        };
        for id in &ids {
            recent.slot(*id);
            recent.weigh_within(*id, 10, 400);
        }
        assert_eq!(kept(), ids, "forty small ones fit");
        recent.slot(ids[0]);
        recent.weigh_within(ids[0], 310, 400);
        assert_eq!(kept(), [&ids[31..], &ids[..1]].concat(), "one grew: the others used longest ago go");
        recent.weigh_within(ids[0], 5_000, 400);
        assert_eq!(kept(), [ids[0]], "the one in use is kept whatever it takes");
    }
}
