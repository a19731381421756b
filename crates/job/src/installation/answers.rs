//! What was found behind odd readings, drawn into the description of its circuit: a spur, another length,
//! another CPC, metal beside it. Each says what it changed, and can be taken back.

use super::PointId;
use jiff::Timestamp;
use proof_standard::quantity::{Metres, SquareMillimetres};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// What was found.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(tag = "found", rename_all = "snake_case", deny_unknown_fields)]
pub enum CircuitAnswer {
    /// One cable behind a point: it hangs on a spur of about so many metres.
    Spur {
        /// Which point.
        point: PointId,
        /// About how long.
        length_m: Metres,
    },
    /// Two or more: contacts, or a joint, to be found.
    MoreCables {
        /// Behind which point.
        point: PointId,
    },
    /// The circuit is another length.
    Length {
        /// About how long.
        length_m: Metres,
    },
    /// Its CPC is of another size.
    Cpc {
        /// Which.
        mm2: SquareMillimetres,
    },
    /// Metal runs beside its CPC.
    MetalBeside,
}

/// One thing that an answer changed, as it was before and is after.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(tag = "of", rename_all = "snake_case", deny_unknown_fields)]
pub enum Change {
    /// The point that another hangs on.
    SpurFrom {
        /// Which point hangs.
        point: PointId,
        /// Before.
        before: Option<PointId>,
        /// After.
        after: Option<PointId>,
    },
    /// The cable that leads to a point, m.
    Leg {
        /// Which point.
        point: PointId,
        /// Before.
        before: Option<Metres>,
        /// After.
        after: Option<Metres>,
    },
    /// The last leg of a ring, m.
    ReturnLeg {
        /// Before.
        before: Option<Metres>,
        /// After.
        after: Option<Metres>,
    },
    /// The whole length, m.
    Length {
        /// Before.
        before: Option<Metres>,
        /// After.
        after: Option<Metres>,
    },
    /// The size of the CPC, mm².
    Cpc {
        /// Before.
        before: SquareMillimetres,
        /// After.
        after: SquareMillimetres,
    },
    /// Metal beside the CPC.
    Metal {
        /// Before; `None`: as its board.
        before: Option<bool>,
        /// After.
        after: Option<bool>,
    },
    /// A remark for the schedule.
    Remark {
        /// Before.
        before: String,
        /// After.
        after: String,
    },
}

/// An answer as it stands in the description.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Answered {
    /// Names it.
    pub id: Uuid,
    /// Who said so.
    pub by: String,
    /// When.
    pub at: Timestamp,
    /// What was found.
    pub answer: CircuitAnswer,
    /// What it changed, in order.
    pub changes: Vec<Change>,
}
