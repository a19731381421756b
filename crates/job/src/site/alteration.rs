//! What is altered for a test and must be put back.

use serde::{Deserialize, Serialize};

/// Something altered for a test that must be put back.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Alteration {
    /// A link between conductors at the board.
    Link,
    /// Ring legs crossed in a connector.
    CrossedLegs,
    /// Ring ends out of their terminals.
    EndsOut,
    /// A bond off.
    BondOff,
    /// The earthing conductor off.
    EarthOff,
    /// A tail, or the neutral of the supply, off.
    TailOff,
    /// A neutral out of the bar.
    NeutralOut,
    /// The functional-earth lead of a residual device off the bar: without it the device may not trip on a lost neutral.
    FeLeadOff,
    /// Lamps out.
    LampOut,
    /// A load or electronics disconnected.
    LoadOff,
    /// An SPD unplugged.
    SpdOut,
    /// A fly lead off.
    #[serde(rename = "fly_lead_off")]
    EarthTailOff,
    /// An accessory held off earthed metal.
    AccessoryOff,
    /// A neon indicator out.
    NeonOut,
    /// A dimmer out.
    DimmerOut,
    /// An appliance unplugged or isolated.
    ApplianceOut,
    /// A temporary front fitted.
    TemporaryFront,
    /// A blank out.
    BlankOut,
    /// Cover screws out.
    CoverScrews,
    /// Conductors of a way out of its terminals.
    WayOut,
    /// A cover off.
    Cover,
    /// The torque of a terminal, not yet set.
    Torque,
    /// Anything else; the note says what.
    Other,
}

impl Alteration {
    /// In the order offered.
    pub const ALL: [Self; 23] = [
        Self::Link,
        Self::CrossedLegs,
        Self::EndsOut,
        Self::BondOff,
        Self::EarthOff,
        Self::TailOff,
        Self::NeutralOut,
        Self::FeLeadOff,
        Self::LampOut,
        Self::LoadOff,
        Self::SpdOut,
        Self::EarthTailOff,
        Self::AccessoryOff,
        Self::NeonOut,
        Self::DimmerOut,
        Self::ApplianceOut,
        Self::TemporaryFront,
        Self::BlankOut,
        Self::CoverScrews,
        Self::WayOut,
        Self::Cover,
        Self::Torque,
        Self::Other,
    ];

    /// Whether it bears on no earth or bond: covers and screws may be off while Ze is read.
    pub const fn is_small(self) -> bool {
        matches!(self, Self::Cover | Self::CoverScrews | Self::Torque | Self::BlankOut | Self::TemporaryFront)
    }

    /// Whether it takes off what serves every board on the supply: an earth, a bond, a tail.
    pub const fn takes_earth_off(self) -> bool {
        matches!(self, Self::EarthOff | Self::BondOff | Self::TailOff)
    }

    /// Whether it is done inside the board, among what else is connected there.
    pub const fn is_in_board(self) -> bool {
        matches!(
            self,
            Self::Link
                | Self::CrossedLegs
                | Self::EndsOut
                | Self::BondOff
                | Self::EarthOff
                | Self::TailOff
                | Self::NeutralOut
                | Self::FeLeadOff
                | Self::WayOut
                | Self::BlankOut
        )
    }

    /// Whether conductors are touched for it, so that they must be proved dead before. What is only
    /// opened, unplugged or switched is done before the proof, or stands for getting at it.
    pub const fn touches_conductors(self) -> bool {
        match self {
            Self::Link
            | Self::CrossedLegs
            | Self::EndsOut
            | Self::BondOff
            | Self::EarthOff
            | Self::TailOff
            | Self::NeutralOut
            | Self::FeLeadOff
            | Self::LoadOff
            | Self::EarthTailOff
            | Self::AccessoryOff
            | Self::DimmerOut
            | Self::WayOut
            | Self::Torque
            | Self::Other => true,
            Self::LampOut
            | Self::SpdOut
            | Self::NeonOut
            | Self::ApplianceOut
            | Self::TemporaryFront
            | Self::BlankOut
            | Self::CoverScrews
            | Self::Cover => false,
        }
    }

    /// Key in forms.
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|alteration| alteration.key() == key)
    }

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Link => "link",
            Self::CrossedLegs => "crossed_legs",
            Self::EndsOut => "ends_out",
            Self::BondOff => "bond_off",
            Self::EarthOff => "earth_off",
            Self::TailOff => "tail_off",
            Self::NeutralOut => "neutral_out",
            Self::FeLeadOff => "fe_lead_off",
            Self::LampOut => "lamp_out",
            Self::LoadOff => "load_off",
            Self::SpdOut => "spd_out",
            Self::EarthTailOff => "fly_lead_off",
            Self::AccessoryOff => "accessory_off",
            Self::NeonOut => "neon_out",
            Self::DimmerOut => "dimmer_out",
            Self::ApplianceOut => "appliance_out",
            Self::TemporaryFront => "temporary_front",
            Self::BlankOut => "blank_out",
            Self::CoverScrews => "cover_screws",
            Self::WayOut => "way_out",
            Self::Cover => "cover",
            Self::Torque => "torque",
            Self::Other => "other",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Link => "link at the board",
            Self::CrossedLegs => "ring legs crossed",
            Self::EndsOut => "ring ends out",
            Self::BondOff => "bond off",
            Self::EarthOff => "earthing conductor off",
            Self::TailOff => "tail or main neutral off",
            Self::NeutralOut => "neutral out of the bar",
            Self::FeLeadOff => "functional-earth lead off",
            Self::LampOut => "lamps out",
            Self::LoadOff => "load disconnected",
            Self::SpdOut => "SPD unplugged",
            Self::EarthTailOff => "earth tail off the back box",
            Self::AccessoryOff => "accessory held off metal",
            Self::NeonOut => "neon indicator out",
            Self::DimmerOut => "dimmer out",
            Self::ApplianceOut => "appliance unplugged",
            Self::TemporaryFront => "temporary front fitted",
            Self::BlankOut => "blank out",
            Self::CoverScrews => "cover screws out",
            Self::WayOut => "conductors out of the way",
            Self::Cover => "cover off",
            Self::Torque => "torque owed",
            Self::Other => "other",
        }
    }
}
