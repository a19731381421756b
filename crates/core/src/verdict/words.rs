//! How reasons are said today. What is worded as it was at first is said in the wording of then; what
//! is worded anew gets its line here.

use crate::verdict::reason::{LowInsulation, Reason};
use crate::verdict::wording_1;
use std::fmt::{Display, Formatter, Result};

impl Display for Reason {
    fn fmt(&self, f: &mut Formatter<'_>) -> Result {
        match self {
            Self::InsulationLow { commonly } => commonly.fmt(f),
            _ => f.write_str(&wording_1::reason(self)),
        }
    }
}

impl Display for LowInsulation {
    fn fmt(&self, f: &mut Formatter<'_>) -> Result {
        f.write_str(match self {
            Self::Neon => {
                "about a quarter of a megohm between live conductors: commonly a neon indicator; turn its switch off and read again"
            }
            _ => wording_1::low_insulation(*self),
        })
    }
}
