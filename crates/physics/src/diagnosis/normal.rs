//! Normal equations of a fit: places along the line lie beside one another, a few values are common to
//! all; so they are tridiagonal with a border.

/// Most values common to all figures: length and four sizes.
pub(super) const MOST_COMMON: usize = 6;

/// Normal equations: a tridiagonal block for the places, a border for the common values.
pub(super) struct Normal {
    pub(super) diagonal: Vec<f64>,
    pub(super) beside: Vec<f64>,
    pub(super) border: Vec<[f64; MOST_COMMON]>,
    pub(super) corner: [[f64; MOST_COMMON]; MOST_COMMON],
    pub(super) right: Vec<f64>,
    pub(super) right_common: [f64; MOST_COMMON],
}

/// A step of the search: of the places, of the common values.
pub(super) struct Step {
    pub(super) along: Vec<f64>,
    pub(super) common: [f64; MOST_COMMON],
    /// Log determinant of the curvature, relative to the prior's of the places.
    pub(super) log_det: f64,
}

impl Normal {
    /// Nothing known yet of so many places.
    pub(super) fn new(free: usize) -> Self {
        Self {
            diagonal: vec![0.0; free],
            beside: vec![0.0; free],
            border: vec![[0.0; MOST_COMMON]; free],
            corner: [[0.0; MOST_COMMON]; MOST_COMMON],
            right: vec![0.0; free],
            right_common: [0.0; MOST_COMMON],
        }
    }

    #[allow(clippy::needless_range_loop)] // the indices are those of the equations
    /// Solves by eliminating the tridiagonal block into the corner.
    pub(super) fn solve(mut self, count: usize) -> Step {
        let free = self.diagonal.len();
        let mut log_det = 0.0;
        // Forward: D = L·diag(d)·Lᵀ, applied to the border and the right side.
        let mut pivots = Vec::with_capacity(free);
        for at in 0..free {
            if at > 0 {
                let factor = self.beside[at - 1] / pivots[at - 1];
                self.diagonal[at] -= factor * self.beside[at - 1];
                self.right[at] -= factor * self.right[at - 1];
                for value in 0..count {
                    self.border[at][value] -= factor * self.border[at - 1][value];
                }
            }
            let pivot = self.diagonal[at].max(1e-12);
            pivots.push(pivot);
            log_det += pivot.ln();
        }
        for at in 0..free {
            for a in 0..count {
                for b in 0..count {
                    self.corner[a][b] -= self.border[at][a] * self.border[at][b] / pivots[at];
                }
                self.right_common[a] -= self.border[at][a] * self.right[at] / pivots[at];
            }
        }
        let mut common = [0.0; MOST_COMMON];
        for a in 0..count {
            let pivot = self.corner[a][a].max(1e-9);
            log_det += pivot.ln();
            for b in a + 1..count {
                let factor = self.corner[b][a] / pivot;
                for c in a..count {
                    self.corner[b][c] -= factor * self.corner[a][c];
                }
                self.right_common[b] -= factor * self.right_common[a];
            }
            self.corner[a][a] = pivot;
        }
        for a in (0..count).rev() {
            let rest: f64 = (a + 1..count).map(|b| self.corner[a][b] * common[b]).sum();
            common[a] = (self.right_common[a] - rest) / self.corner[a][a];
        }
        let mut along = vec![0.0; free];
        for at in (0..free).rev() {
            let mut right = self.right[at];
            for value in 0..count {
                right -= self.border[at][value] * common[value];
            }
            if at + 1 < free {
                right -= self.beside[at] * along[at + 1];
            }
            along[at] = right / pivots[at];
        }
        Step { along, common, log_det }
    }
}
