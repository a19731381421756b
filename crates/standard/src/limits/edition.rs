//! Which edition of the standard a job is verified to. Data, chosen per job; a job never
//! changes edition by itself. A licensed person's local code prevails.

use crate::limits::Source;
use serde::{Deserialize, Serialize};

/// The editions that Proof knows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub enum EditionId {
    /// BS 7671:2018+A2:2022.
    #[default]
    #[serde(rename = "BS 7671:2018+A2:2022")]
    Bs7671Y2018A2,
    /// BS 7671:2008+A3:2015.
    #[serde(rename = "BS 7671:2008+A3:2015")]
    Bs7671Y2008A3,
}

/// How an RCD is timed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum RcdSchool {
    /// One a.c. test at IΔn.
    #[default]
    Single,
    /// ½, 1 and 5 times IΔn at 0° and 180°.
    Series,
}

/// One edition's own rules and the places where it prints them.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Edition {
    /// Which edition.
    pub id: EditionId,
    /// Its name as it stands on a certificate.
    pub name: &'static str,
    /// The RCD test it asks for.
    pub rcd_school: RcdSchool,
    /// Lighting in dwellings wants additional protection (411.3.4).
    pub lighting_protected: bool,
    /// It asks for a decision on surge protection and on arc detection (443.4, 421.1.7).
    pub decides_surge_and_arc: bool,
    /// Where it prints the insulation minimum.
    pub insulation: Source,
    /// Where it asks for RCD tests.
    pub rcd: Source,
    /// Where it asks for polarity.
    pub polarity: Source,
    /// Where it asks for continuity.
    pub continuity: Source,
}

const Y2018: Edition = Edition {
    id: EditionId::Bs7671Y2018A2,
    name: "BS 7671:2018+A2:2022",
    rcd_school: RcdSchool::Single,
    lighting_protected: true,
    decides_surge_and_arc: true,
    insulation: Source::published("BS 7671:2018+A2:2022", "Table 64, 643.3", ""),
    rcd: Source::published("BS 7671:2018+A2:2022", "643.7, 643.8", ""),
    polarity: Source::memory("BS 7671:2018+A2:2022", "643.6", ""),
    continuity: Source::memory("BS 7671:2018+A2:2022", "643.2", ""),
};

const Y2008: Edition = Edition {
    id: EditionId::Bs7671Y2008A3,
    name: "BS 7671:2008+A3:2015",
    rcd_school: RcdSchool::Series,
    lighting_protected: false,
    decides_surge_and_arc: false,
    insulation: Source::memory("BS 7671:2008+A3:2015", "Table 61, 612.3", ""),
    rcd: Source::memory("BS 7671:2008+A3:2015", "612.8, 612.10", ""),
    polarity: Source::memory("BS 7671:2008+A3:2015", "612.6", ""),
    continuity: Source::memory("BS 7671:2008+A3:2015", "612.2", ""),
};

impl EditionId {
    /// The editions in the order offered.
    pub const ALL: [Self; 2] = [Self::Bs7671Y2018A2, Self::Bs7671Y2008A3];

    /// The rules of this edition.
    pub const fn rules(self) -> &'static Edition {
        match self {
            Self::Bs7671Y2018A2 => &Y2018,
            Self::Bs7671Y2008A3 => &Y2008,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_editions_differ_in_their_rcd_school() {
        assert_eq!(EditionId::default().rules().rcd_school, RcdSchool::Single);
        assert_eq!(EditionId::Bs7671Y2008A3.rules().rcd_school, RcdSchool::Series);
        for id in EditionId::ALL {
            assert_eq!(id.rules().id, id);
            assert_eq!(serde_json::to_value(id).unwrap(), id.rules().name);
        }
    }
}
