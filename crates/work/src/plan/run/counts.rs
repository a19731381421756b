//! What a walk costs: readings, visits, points, changes of leads.

use super::{Order, Planned, Run};
use crate::plan::disturbance::step_disturbances;
use proof_job::installation::PointId;
use proof_job::reading::{Place, Stage, is_low_ohm};
use proof_job::site::{Leads, leads};
use proof_standard::conductor::Conductor;
use proof_standard::house_rules::LeadCompensation;
use rustc_hash::FxHashSet;
use uuid::Uuid;

/// What a walk costs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Counts {
    /// Readings to take.
    pub readings: usize,
    /// Times that a board is gone to.
    pub board_visits: usize,
    /// Points walked to.
    pub points: usize,
    /// Times that leads, adapter or pins change.
    pub lead_changes: usize,
    /// Times that the leads are nulled (or, where they are subtracted, measured).
    pub nulls: usize,
}

/// Where a person stands: at a board, or at a point of a circuit.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum WhereToStand {
    Board(Uuid),
    Point(Option<Uuid>, PointId),
}

impl Run<'_> {
    /// What the walk costs as planned, or what is left of it.
    pub fn counts(&self, left_only: bool) -> Counts {
        let mut counts = Counts::default();
        let mut stood: Option<WhereToStand> = None;
        let mut held: Option<Leads> = None;
        let mut measured: Vec<Leads> = Vec::new();
        let rule = self.installation().house_rules.leads;
        // Setting up a stage of a circuit, and of a line of three, is done at the board, whoever reads where.
        let mut set_up: FxHashSet<(Stage, Option<Uuid>, Option<Conductor>)> = FxHashSet::default();
        let key = |planned: &Planned| (planned.step.stage, planned.circuit, planned.step.key.line);
        for planned in self.planned.iter().filter(|planned| !left_only || !self.done(planned)) {
            counts.readings += 1;
            let fresh =
                !set_up.contains(&key(planned)) && !step_disturbances(self.installation(), &planned.step).is_empty();
            let board = WhereToStand::Board(planned.board);
            if fresh && self.order == Order::TestByTest {
                let line = planned.step.key.line;
                let with = |other: &&Planned| {
                    let same = other.step.stage == planned.step.stage && other.step.key.line == line;
                    other.board == planned.board && same
                };
                set_up.extend(self.planned.iter().filter(with).map(key));
            } else if fresh {
                set_up.insert(key(planned));
            }
            if (fresh || planned.at_board()) && stood != Some(board) {
                counts.board_visits += 1;
                stood = Some(board);
            }
            if let Some(point) = planned.place().and_then(Place::point) {
                let there = WhereToStand::Point(planned.circuit, point);
                if stood != Some(there) {
                    counts.points += 1;
                    stood = Some(there);
                }
            }
            if is_low_ohm(&planned.step) {
                let leads = leads(self.installation(), &planned.step);
                let changed = held != Some(leads);
                counts.lead_changes += usize::from(changed && held.is_some());
                counts.nulls += usize::from(match rule {
                    LeadCompensation::Hold => changed,
                    LeadCompensation::EveryTest => true,
                    LeadCompensation::Subtract => !measured.contains(&leads),
                });
                measured.push(leads);
                held = Some(leads);
            }
        }
        counts
    }
}
