//! The number of a point within its circuit.

use serde::{Deserialize, Serialize};

/// A point of a circuit by its number, unique in the circuit and never used again.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(transparent)]
pub struct PointId(pub u32);
