//! Leads: which are in use for a step, and whether they are nulled.

use crate::installation::{Accessory, Installation, Point, PointId};
use crate::reading::{Place, Reading, Step, Subject, Test};
use crate::site::{Event, EventKind};
use proof_standard::house_rules::LeadCompensation;
use proof_standard::limits::outlets::INDUSTRIAL_A;
use proof_standard::quantity::{Amps, Metres};
use rust_decimal::Decimal;
use uuid::Uuid;

/// The lead that reaches from the main earthing terminal to a point.
pub const LONG_LEAD: &str = "long lead and probe";

/// As far as two leads reach from one another (common practice, no source).
const REACH: Metres = Metres::literal(3.0);

/// Leads in use, and the pair of pins of an adapter.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Leads {
    /// Lead set.
    pub set: &'static str,
    /// Pair of pins; empty where there are no pins.
    pub pins: &'static str,
}

/// The leads that a step is read with.
pub fn leads(installation: &Installation, step: &Step) -> Leads {
    let plain = |set| Leads { set, pins: "" };
    if let Subject::Bond { bond } = &step.key.subject {
        let metres = installation.supply.bonds.iter().find(|other| other.id == *bond).and_then(|bond| bond.length_m);
        let far = metres.is_some_and(|metres| metres > REACH);
        return plain(if far { LONG_LEAD } else { "clips" });
    }
    let Subject::Place { circuit, place } = &step.key.subject else { return plain("clips") };
    if step.key.test == Test::R2 {
        return plain(LONG_LEAD);
    }
    let Some(point) = place.point() else { return plain("clips") };
    let accessory = installation.circuit(*circuit).and_then(|circuit| circuit.point(point)).map(|p| p.accessory);
    let plugged = matches!(accessory, Some(Accessory::Outlet | Accessory::Twin))
        && matches!(place, Place::Point { .. } | Place::Outlet { .. } | Place::Switch { .. } | Place::Switched { .. });
    if accessory == Some(Accessory::Industrial) {
        let rating = point_of(installation, *circuit, point).and_then(|point| point.rating_a);
        return Leads { set: adapter(rating), pins: pins(step) };
    }
    match (plugged, step.key.test) {
        (true, Test::R1Rn) => Leads { set: "plug-in lead", pins: "L–N" },
        (true, Test::R1R2) => Leads { set: "plug-in lead", pins: "L–E" },
        _ => plain("probes"),
    }
}

fn point_of(installation: &Installation, circuit: Uuid, point: PointId) -> Option<&Point> {
    installation.circuit(circuit)?.point(point)
}

/// The adapter lead for an industrial outlet: each rating has its own plug (BS EN 60309-2, from memory).
fn adapter(rating: Option<Amps>) -> &'static str {
    const NAMES: [&str; 4] = [
        "adapter lead, industrial 16 A",
        "adapter lead, industrial 32 A",
        "adapter lead, industrial 63 A",
        "adapter lead, industrial 125 A",
    ];
    let place = rating.and_then(|rating| INDUSTRIAL_A.iter().position(|amps| *amps == rating.get()));
    place.map_or("adapter lead, industrial", |place| NAMES[place])
}

/// The pins of a plug between which a step of continuity is read.
fn pins(step: &Step) -> &'static str {
    use proof_standard::conductor::Conductor::{L1, L2, L3};
    match (step.key.test, step.key.line) {
        (Test::R1Rn, Some(L1)) => "L1–N",
        (Test::R1Rn, Some(L2)) => "L2–N",
        (Test::R1Rn, Some(L3)) => "L3–N",
        (Test::R1Rn, _) => "L–N",
        (_, Some(L1)) => "L1–E",
        (_, Some(L2)) => "L2–E",
        (_, Some(L3)) => "L3–E",
        _ => "L–E",
    }
}

/// The state of the leads as the log and the readings leave it.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct LeadState {
    /// Lead set and pins last nulled.
    pub nulled: Option<(String, String)>,
    /// A low-resistance reading was taken since.
    pub read_since: bool,
    /// Resistances of leads, noted to be subtracted: set, pins, Ω.
    pub noted: Vec<(String, String, Decimal)>,
}

impl LeadState {
    /// From the log and the readings, both in the order stored.
    pub fn from_job(events: &[Event], readings: &[Reading]) -> Self {
        let mut state = Self::default();
        let mut at = None;
        for event in events {
            if let EventKind::Nulled { lead_set, pins, subtract_ohm } = &event.kind {
                if let Some(ohm) = subtract_ohm {
                    state.noted.retain(|(set, p, _)| (set, p) != (lead_set, pins));
                    state.noted.push((lead_set.clone(), pins.clone(), *ohm));
                } else {
                    state.nulled = Some((lead_set.clone(), pins.clone()));
                    at = Some(event.at);
                }
            }
        }
        state.read_since = at.is_some_and(|at| {
            readings.iter().any(|reading| {
                let low = !matches!(reading.context.null, crate::reading::LeadNull::Unknown);
                low && reading.context.stored_at > at
            })
        });
        state
    }

    /// Whether these leads may be read with under a rule.
    pub fn serves(&self, rule: LeadCompensation, leads: Leads) -> bool {
        let these = |set: &str, pins: &str| set == leads.set && pins == leads.pins;
        match rule {
            LeadCompensation::Subtract => self.noted.iter().any(|(set, pins, _)| these(set, pins)),
            LeadCompensation::Hold => self.nulled.as_ref().is_some_and(|(set, pins)| these(set, pins)),
            LeadCompensation::EveryTest => {
                !self.read_since && self.nulled.as_ref().is_some_and(|(set, pins)| these(set, pins))
            }
        }
    }

    /// What is subtracted for these leads, Ω.
    pub fn subtract(&self, leads: Leads) -> Option<Decimal> {
        let found = self.noted.iter().find(|(set, pins, _)| set == leads.set && pins == leads.pins);
        found.map(|(.., ohm)| *ohm)
    }
}
