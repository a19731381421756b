//! Current-carrying capacity of twin-and-earth cable by reference method, A.
//!
//! No grouping or ambient factors: those are the designer's matter.

use crate::limits::{LimitRow, Source};
use crate::quantity::{Amps, SquareMillimetres, exact};
use serde::{Deserialize, Serialize};

sources! {
    TABLE: "current-carrying capacity" = Source::memory("BS 7671", "Table 4D5", "twin-and-earth, copper, PVC 70 °C, no grouping or ambient factors");
}

/// How a cable is installed (BS 7671 Table 4A2).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub enum ReferenceMethod {
    /// In an insulated wall.
    A,
    /// In conduit or trunking on a wall. Not in Table 4D5.
    B,
    /// Clipped direct.
    C,
    /// In the ground. Not in Table 4D5.
    D,
    /// In free air or on tray. Not in Table 4D5.
    E,
    /// Above a ceiling, insulation up to 100 mm.
    #[serde(rename = "100")]
    M100,
    /// Above a ceiling, insulation over 100 mm.
    #[serde(rename = "101")]
    M101,
    /// In a stud wall, touching the surface.
    #[serde(rename = "102")]
    M102,
    /// In a stud wall, not touching.
    #[serde(rename = "103")]
    M103,
}

impl ReferenceMethod {
    /// In the order offered.
    pub const ALL: [Self; 9] =
        [Self::A, Self::B, Self::C, Self::D, Self::E, Self::M100, Self::M101, Self::M102, Self::M103];

    /// Name as printed on a schedule.
    pub const fn name(self) -> &'static str {
        match self {
            Self::A => "A",
            Self::B => "B",
            Self::C => "C",
            Self::D => "D",
            Self::E => "E",
            Self::M100 => "100",
            Self::M101 => "101",
            Self::M102 => "102",
            Self::M103 => "103",
        }
    }

    /// Parses the printed name.
    pub fn from_name(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|method| method.name().eq_ignore_ascii_case(name.trim()))
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::A => "A in an insulated wall",
            Self::B => "B conduit or trunking on a wall",
            Self::C => "C clipped direct",
            Self::D => "D in the ground",
            Self::E => "E free air or tray",
            Self::M100 => "100 above a ceiling, thin insulation",
            Self::M101 => "101 above a ceiling, thick insulation",
            Self::M102 => "102 stud wall, touching",
            Self::M103 => "103 stud wall, not touching",
        }
    }

    const fn column(self) -> Option<usize> {
        match self {
            Self::C => Some(0),
            Self::A => Some(1),
            Self::M100 => Some(2),
            Self::M101 => Some(3),
            Self::M102 => Some(4),
            Self::M103 => Some(5),
            Self::B | Self::D | Self::E => None,
        }
    }
}

/// mm², then A by method C, A, 100, 101, 102, 103.
pub const TWIN_AND_EARTH_A: LimitRow<[(f64, [f64; 6]); 7]> = LimitRow::new(
    [
        (1.0, [16.0, 11.5, 13.0, 10.5, 13.0, 8.0]),
        (1.5, [20.0, 14.5, 16.0, 13.0, 16.0, 10.0]),
        (2.5, [27.0, 20.0, 21.0, 17.0, 21.0, 13.5]),
        (4.0, [37.0, 26.0, 27.0, 22.0, 27.0, 17.5]),
        (6.0, [47.0, 32.0, 34.0, 27.0, 35.0, 23.5]),
        (10.0, [64.0, 44.0, 45.0, 36.0, 47.0, 32.0]),
        (16.0, [85.0, 57.0, 57.0, 46.0, 63.0, 42.5]),
    ],
    TABLE,
);

/// Capacity of twin-and-earth, or `None` where Table 4D5 has no such column or row.
pub fn twin_and_earth(size: SquareMillimetres, method: ReferenceMethod) -> Option<Amps> {
    let column = method.column()?;
    TWIN_AND_EARTH_A.iter().find(|(mm2, _)| *mm2 == size.get()).and_then(|(_, row)| exact(row[column])).map(Amps)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::approximate;

    /// BS 7671 Table 4D5, from memory.
    #[test]
    fn rows_of_the_table() {
        let a =
            |size, method| twin_and_earth(SquareMillimetres::literal(size), method).map(|amps| approximate(amps.get()));
        assert_eq!(a(2.5, ReferenceMethod::C), Some(27.0));
        assert_eq!(a(2.5, ReferenceMethod::M103), Some(13.5));
        assert_eq!(a(6.0, ReferenceMethod::M102), Some(35.0));
        assert_eq!(a(2.5, ReferenceMethod::B), None);
        assert_eq!(a(25.0, ReferenceMethod::C), None);
    }

    #[test]
    fn capacity_rises_with_size_in_every_column() {
        for column in 0..6 {
            assert!(TWIN_AND_EARTH_A.windows(2).all(|w| w[0].1[column] < w[1].1[column]));
        }
    }
}
