//! The schedule of inspections: what is looked at before any test, by area, in our own words.

pub use super::inspection_answer::{InspectionAnswer, InspectionOutcome};
use super::{CableFamily, Carried, Installation};
use proof_standard::limits::supply::EarthingSystem;

/// What an item is asked of: what an installation does not have is not asked.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum AppliesTo {
    /// Of every installation.
    Always,
    /// Where an electrode is the means of earthing, or another source stands.
    Electrode,
    /// Where another source than the supply is described.
    OtherSource,
    /// Where a circuit is protected otherwise than by disconnection.
    OtherMeasure,
    /// Where a cable is armoured.
    Armoured,
    /// Where a drive turns something, and in premises that are no dwelling.
    Machines,
}

impl AppliesTo {
    /// Whether it is asked of an installation.
    pub fn is_asked(self, installation: &Installation) -> bool {
        match self {
            Self::Always => true,
            Self::Electrode => {
                let tt = |system| system == EarthingSystem::Tt;
                tt(installation.supply.system)
                    || installation.boards.iter().any(|board| tt(board.system))
                    || !installation.sources.is_empty()
            }
            Self::OtherSource => !installation.sources.is_empty(),
            Self::OtherMeasure => installation.circuits.iter().any(|circuit| circuit.band.is_extra_low()),
            Self::Armoured => {
                let mut cables = installation.circuits.iter().filter(|circuit| !installation.out_of_scope(circuit));
                cables.any(|circuit| circuit.cable.kind.family() == CableFamily::Armoured)
            }
            Self::Machines => {
                let mut points = installation.circuits.iter().flat_map(|circuit| &circuit.points);
                !installation.premises.is_dwelling()
                    || points.any(|point| point.connected_load.contains(&Carried::Drive))
            }
        }
    }
}

/// One item.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Item {
    /// Names the item in forms and files.
    pub key: &'static str,
    /// Area of the installation.
    pub area: &'static str,
    /// What is looked at.
    pub text: &'static str,
    /// It is looked at before the power is on: what is only labelled may come last.
    pub before_power: bool,
    /// Of what it is asked.
    pub asked: AppliesTo,
    /// It bears on one altered circuit: minor works are asked it too.
    pub minor: bool,
}

const fn item(key: &'static str, area: &'static str, text: &'static str) -> Item {
    Item { key, area, text, before_power: true, asked: AppliesTo::Always, minor: false }
}

const fn only(asked: AppliesTo, key: &'static str, area: &'static str, text: &'static str) -> Item {
    Item { asked, ..item(key, area, text) }
}

/// One that minor works are asked too: the earthing and bonding that the circuit rests on, its device,
/// its cable, its points.
const fn each(key: &'static str, area: &'static str, text: &'static str) -> Item {
    Item { minor: true, ..item(key, area, text) }
}

const fn last(key: &'static str, area: &'static str, text: &'static str) -> Item {
    Item { before_power: false, ..item(key, area, text) }
}

/// The items in the order walked (common practice, no source: worded for this product).
pub const ITEMS: &[Item] = &[
    item("intake-condition", "Intake", "Service head, meter and tails sound, fixed and reachable"),
    item("intake-isolation", "Intake", "A means to isolate the whole installation, marked and in reach"),
    each("earthing-conductor", "Earthing", "Earthing conductor: size, route, terminations and its label"),
    each("earthing-bonds", "Earthing", "Main bonds to every extraneous part: size, clamps, labels"),
    only(AppliesTo::Electrode, "earthing-electrode", "Earthing", "Earth electrode: in place, protected, its label"),
    only(
        AppliesTo::OtherSource,
        "sources-isolation",
        "Other sources",
        "Each source can be isolated and locked; it cannot feed a dead supply by mistake; notices at every point of isolation",
    ),
    only(
        AppliesTo::OtherSource,
        "sources-earthing",
        "Other sources",
        "Earthing and changeover are right while the supply is away; devices work in both directions",
    ),
    item(
        "measures-basic",
        "Protective measures",
        "Basic protection: insulation, barriers and enclosures; nothing live in reach",
    ),
    only(
        AppliesTo::OtherMeasure,
        "measures-other",
        "Protective measures",
        "Other measures than disconnection (SELV, PELV, separation): source, and wiring kept apart",
    ),
    item("board-fixing", "Boards", "Enclosures fixed, undamaged, barriers in, blanks where ways are empty"),
    each("board-devices", "Boards", "Devices of the right kind, type, rating and breaking capacity for their ways"),
    item("board-terminations", "Boards", "Terminations tight to the maker's torque; no bare copper outside"),
    item("board-neutrals", "Boards", "Neutral and protective conductors on the numbered terminals of their ways"),
    each("board-rcd", "Boards", "RCDs where additional protection is asked for; surge and arc devices where chosen"),
    last("board-labels", "Boards", "Circuit chart, RCD and next-inspection labels, warning notices in place"),
    each("cable-routes", "Cables", "Cables in permitted zones or protected, supported, not strained"),
    each("cable-identity", "Cables", "Conductors identified by colour or marking at every termination"),
    each("cable-sizes", "Cables", "Sizes and reference methods as designed; no grouping beyond it"),
    each("cable-barriers", "Cables", "Fire barriers made good and sealed where cables pass"),
    each(
        "cable-influences",
        "Cables",
        "Chosen for where it is: water, dust, heat, cold, knocks, sun, corrosion, animals",
    ),
    Item {
        minor: true,
        ..only(
            AppliesTo::Armoured,
            "cable-armour",
            "Cables",
            "Armoured cables: the gland grips the armour, no strand cut or loose, earth tag under it bolted and connected, shroud on",
        )
    },
    item("cable-segregation", "Cables", "Low voltage kept apart from other services and extra-low voltage"),
    each("points-fixing", "Points", "Accessories fixed, undamaged, right for their place and load"),
    each("points-cpc", "Points", "Protective conductors sleeved and connected at every point and metal box"),
    each("points-switching", "Points", "Single-pole switching in the line only; isolators beside fixed equipment"),
    item("points-heat", "Points", "Lamps and heating clear of what could scorch"),
    item("special-wet", "Special places", "Baths, showers and wet trades: zones, bonding and RCDs as required"),
    item("special-outdoor", "Special places", "Outdoor and garden supplies: protection against water, soil and spades"),
    only(
        AppliesTo::Machines,
        "special-machines",
        "Special places",
        "Machines: isolation for maintenance, emergency switching where it is needed, guards not interfered with",
    ),
];

/// The items that an installation is asked, in the order walked.
pub fn asked(installation: &Installation) -> impl Iterator<Item = &'static Item> {
    let bears = |item: &&Item| item.minor || !installation.is_minor();
    ITEMS.iter().filter(|item| item.asked.is_asked(installation)).filter(bears)
}

/// The areas in order.
pub fn areas() -> Vec<&'static str> {
    let mut areas: Vec<&'static str> = ITEMS.iter().map(|item| item.area).collect();
    areas.dedup();
    areas
}

/// Words of an item by its key.
pub fn text(key: &str) -> &'static str {
    ITEMS.iter().find(|item| item.key == key).map_or("unknown item", |item| item.text)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn keys_are_unique_and_areas_stand_together() {
        let mut keys: Vec<_> = ITEMS.iter().map(|item| item.key).collect();
        keys.sort_unstable();
        keys.dedup();
        assert_eq!(keys.len(), ITEMS.len());
        let mut sorted = areas();
        sorted.sort_unstable();
        sorted.dedup();
        assert_eq!(sorted.len(), areas().len(), "an area is split");
    }
}
