//! The cable of a circuit: what kind it is, what it is made of, how it is installed.

use proof_standard::conductor::Material;
use proof_standard::limits::capacity::ReferenceMethod;
use proof_standard::quantity::{Celsius, SquareMillimetres};
use serde::{Deserialize, Serialize};
use std::fmt;

/// A family of cables: what decides which tables and which rules hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum CableFamily {
    /// Flat, two or three cores and a bare CPC.
    TwinAndEarth,
    /// Single cores in conduit or trunking.
    Singles,
    /// Steel wire armoured.
    Armoured,
    /// Mineral insulated.
    MineralInsulated,
    /// Flexible cord or cable.
    Flexible,
    /// None of these.
    Other,
}

impl CableFamily {
    /// In the order offered.
    pub const ALL: [Self; 6] =
        [Self::TwinAndEarth, Self::Singles, Self::Armoured, Self::MineralInsulated, Self::Flexible, Self::Other];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::TwinAndEarth => "twin-and-earth",
            Self::Singles => "singles",
            Self::Armoured => "armoured",
            Self::MineralInsulated => "mineral-insulated",
            Self::Flexible => "flexible",
            Self::Other => "other",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::TwinAndEarth => "twin-and-earth",
            Self::Singles => "singles in conduit or trunking",
            Self::Armoured => "steel wire armoured",
            Self::MineralInsulated => "mineral insulated",
            Self::Flexible => "flexible",
            Self::Other => "another kind",
        }
    }
}

/// Spellings met in files written before kinds were a list: the first that a text holds decides.
const SPELLINGS: &[(&str, CableFamily)] = &[
    ("armour", CableFamily::Armoured),
    ("steel wire", CableFamily::Armoured),
    ("swa", CableFamily::Armoured),
    ("mineral", CableFamily::MineralInsulated),
    ("micc", CableFamily::MineralInsulated),
    ("twin", CableFamily::TwinAndEarth),
    ("t&e", CableFamily::TwinAndEarth),
    ("single", CableFamily::Singles),
    ("conduit", CableFamily::Singles),
    ("trunking", CableFamily::Singles),
    ("flex", CableFamily::Flexible),
];

/// The kind of a cable: its family, and the words of a file that named it otherwise, kept as typed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(from = "String", into = "String")]
#[cfg_attr(feature = "schema", schemars(with = "String"))]
pub struct CableKind {
    family: CableFamily,
    as_typed: Option<Box<str>>,
}

impl CableKind {
    /// Its family.
    pub const fn family(&self) -> CableFamily {
        self.family
    }

    /// Its words: the key of its family, or as typed.
    pub fn text(&self) -> &str {
        self.as_typed.as_deref().unwrap_or(self.family.key())
    }
}

impl From<CableFamily> for CableKind {
    fn from(family: CableFamily) -> Self {
        Self { family, as_typed: None }
    }
}

/// A kind as a file names it. Read once, at the border; what fits no kind stays as typed.
impl From<String> for CableKind {
    fn from(text: String) -> Self {
        if let Some(family) = CableFamily::ALL.into_iter().find(|family| family.key() == text) {
            return family.into();
        }
        let lower = text.to_lowercase();
        let spelt = SPELLINGS.iter().find(|(spelling, _)| lower.contains(spelling));
        Self { family: spelt.map_or(CableFamily::Other, |(_, family)| *family), as_typed: Some(text.into()) }
    }
}

impl From<CableKind> for String {
    fn from(kind: CableKind) -> Self {
        kind.text().to_owned()
    }
}

impl fmt::Display for CableKind {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.text())
    }
}

/// Insulation of a cable, by the temperature that its conductors may reach.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Insulation {
    /// Thermoplastic, 70 °C.
    Thermoplastic70,
    /// Thermosetting, 90 °C.
    Thermosetting90,
}

impl Insulation {
    /// In the order offered.
    pub const ALL: [Self; 2] = [Self::Thermoplastic70, Self::Thermosetting90];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Thermoplastic70 => "thermoplastic70",
            Self::Thermosetting90 => "thermosetting90",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Thermoplastic70 => "thermoplastic, 70 °C",
            Self::Thermosetting90 => "thermosetting, 90 °C",
        }
    }

    /// The temperature that its conductors work at.
    pub const fn working(self) -> Celsius {
        match self {
            Self::Thermoplastic70 => Celsius::literal(70.0),
            Self::Thermosetting90 => Celsius::literal(90.0),
        }
    }
}

/// What the protective conductor of a circuit is: it decides the factors k and the working temperature.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum CpcIs {
    /// A core of the cable, or bunched with its cores.
    #[default]
    Core,
    /// A conductor of its own, apart from them.
    Separate,
    /// The steel armour.
    Armour,
}

impl CpcIs {
    /// In the order offered.
    pub const ALL: [Self; 3] = [Self::Core, Self::Separate, Self::Armour];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Core => "core",
            Self::Separate => "separate",
            Self::Armour => "armour",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Core => "in the cable or bunched with it",
            Self::Separate => "apart from the cable",
            Self::Armour => "the steel armour",
        }
    }

    /// Whether nothing was said.
    #[allow(clippy::trivially_copy_pass_by_ref)] // serde hands a reference
    pub fn is_default(&self) -> bool {
        *self == Self::Core
    }
}

/// The cable of a circuit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Cable {
    /// Kind of cable.
    pub kind: CableKind,
    /// Its insulation, by the temperature that its conductors may reach; `None`: not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub insulation: Option<Insulation>,
    /// Material.
    #[serde(default)]
    pub material: Material,
    /// Line conductor.
    pub line_mm2: SquareMillimetres,
    /// Neutral conductor; none on a three-phase circuit that has no neutral.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub neutral_mm2: Option<SquareMillimetres>,
    /// Circuit protective conductor.
    pub cpc_mm2: SquareMillimetres,
    /// What that conductor is.
    #[serde(default, skip_serializing_if = "CpcIs::is_default")]
    pub cpc_is: CpcIs,
    /// How it is installed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub method: Option<ReferenceMethod>,
}

impl Cable {
    /// The temperature that its conductors work at: by its insulation, thermoplastic where nobody said.
    pub fn working(&self) -> Celsius {
        self.insulation.unwrap_or(Insulation::Thermoplastic70).working()
    }

    /// Line, neutral (a dash where there is none) and CPC, as `2.5/2.5/1.5`, mm².
    pub fn sizes_shown(&self) -> String {
        let neutral = self.neutral_mm2.map_or_else(|| "–".to_owned(), |mm2| mm2.get().to_string());
        format!("{}/{neutral}/{}", self.line_mm2.get(), self.cpc_mm2.get())
    }
}
