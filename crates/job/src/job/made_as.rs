//! What a job was made as: work, or something that simulated readings may go into and that is worth nothing outside.

use serde::{Deserialize, Serialize};

/// What a job was made as. Said when it is begun, changed by nobody.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum MadeAs {
    /// Work on a real installation.
    #[default]
    Work,
    /// To show the program.
    Demo,
    /// To practise.
    Practice,
}

impl MadeAs {
    /// Whether it is work: simulated readings never go into it, and the firm signs for it.
    #[allow(clippy::trivially_copy_pass_by_ref)] // what serde asks for
    pub const fn is_work(&self) -> bool {
        matches!(self, Self::Work)
    }

    /// What stands on every page and paper; nothing of work.
    pub const fn mark(self) -> Option<&'static str> {
        match self {
            Self::Work => None,
            Self::Demo => Some("Demonstration: no record of work"),
            Self::Practice => Some("Practice: no record of work"),
        }
    }
}
