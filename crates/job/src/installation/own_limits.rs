//! The row of the firm's own copy that a circuit uses.

use super::own_row::{OwnLimit, OwnRow};
use crate::installation::Installation;
use proof_standard::limits::rcd::{Multiple, RcdKind, TripWindow, window};
use proof_standard::limits::{LimitRow, OWN_COPY};
use proof_standard::quantity::{Millis, exact};
use rust_decimal::Decimal;

impl Installation {
    /// The firm's own row of a limit: the one written last; one of the amendment that the job is verified
    /// to before one of none, and none of another.
    pub fn own_row(&self, limit: &OwnLimit) -> Option<&OwnRow> {
        let of = |amendment: &str| {
            let stands = |row: &&OwnRow| row.limit == *limit && row.amendment == amendment && row.check().is_ok();
            self.own_rows.iter().rev().find(stands)
        };
        if self.own_rows.is_empty() {
            return None;
        }
        of(&self.amendment).or_else(|| of(""))
    }

    /// What the distributor declares at most for Ze, Ω: by the firm's own copy, else as here.
    pub fn declared_ze(&self) -> LimitRow<Decimal> {
        let (system, ours) = (self.supply.system, self.supply.system.declared_ze());
        match self.own_row(&OwnLimit::DeclaredZe { system }) {
            Some(row) => LimitRow::new(row.value, OWN_COPY),
            None => LimitRow::new(exact(ours.get()).unwrap_or_default(), ours.source),
        }
    }

    /// Trip times of a residual device: the longest by the firm's own copy, else as here.
    pub fn trip_window(&self, kind: RcdKind, multiple: Multiple) -> LimitRow<TripWindow> {
        let ours = window(kind, multiple);
        match (*ours, self.own_row(&OwnLimit::TripTime { kind, multiple })) {
            (TripWindow::Between { min_ms, .. }, Some(row)) => {
                LimitRow::new(TripWindow::Between { min_ms, max_ms: Millis(row.value) }, OWN_COPY)
            }
            _ => ours,
        }
    }

    /// The edition by its name, with the later amendment that the job is verified to.
    pub fn verified_to(&self) -> String {
        let name = self.edition.rules().name;
        if self.amendment.is_empty() { name.to_owned() } else { format!("{name}, as amended by {}", self.amendment) }
    }
}
