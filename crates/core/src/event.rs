//! The one append-only log of what happened on site, and the state that follows from it.
//!
//! Isolation, proving dead, exposure of the supply, energising, nulling, alterations and putting
//! back, strike-outs. Group actions log each item.

use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

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
    /// A neutral out of the bar.
    NeutralOut,
    /// Lamps out.
    LampOut,
    /// A load or electronics disconnected.
    LoadOff,
    /// An SPD unplugged.
    SpdOut,
    /// A fly lead off.
    FlyLeadOff,
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
    /// Torque owed to a terminal.
    Torque,
    /// Anything else; the note says what.
    Other,
}

impl Alteration {
    /// In the order offered.
    pub const ALL: [Self; 21] = [
        Self::Link,
        Self::CrossedLegs,
        Self::EndsOut,
        Self::BondOff,
        Self::EarthOff,
        Self::NeutralOut,
        Self::LampOut,
        Self::LoadOff,
        Self::SpdOut,
        Self::FlyLeadOff,
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
            Self::NeutralOut => "neutral_out",
            Self::LampOut => "lamp_out",
            Self::LoadOff => "load_off",
            Self::SpdOut => "spd_out",
            Self::FlyLeadOff => "fly_lead_off",
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
            Self::NeutralOut => "neutral out of the bar",
            Self::LampOut => "lamps out",
            Self::LoadOff => "load disconnected",
            Self::SpdOut => "SPD unplugged",
            Self::FlyLeadOff => "fly lead off",
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

/// What happened.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(tag = "what", rename_all = "snake_case", deny_unknown_fields)]
pub enum EventKind {
    /// A board isolated and locked.
    Isolated {
        /// Which.
        board: Uuid,
        /// Only these of its circuits; none means the whole board.
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        circuits: Vec<Uuid>,
        /// The lock, and who keeps the key.
        lock: String,
        /// Site paperwork where the site wants it: risk assessment, permit.
        #[serde(default, skip_serializing_if = "String::is_empty")]
        paperwork: String,
    },
    /// A board proved dead: indicator proved, every pair, indicator proved again.
    ProvedDead {
        /// Which.
        board: Uuid,
        /// Only these of its circuits; none means the whole board.
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        circuits: Vec<Uuid>,
        /// How many pairs showed no indication.
        pairs: u8,
        /// What the indicator showed on each, V; none where it shows no figures.
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        shown: Vec<crate::isolation::PairShown>,
        /// The indicator used.
        #[serde(default, skip_serializing_if = "String::is_empty")]
        indicator: String,
    },
    /// A board looked at and found not isolated.
    NotIsolated {
        /// Which.
        board: Uuid,
        /// What the indicator showed.
        shown: Vec<crate::isolation::PairShown>,
        /// What that means.
        because: String,
    },
    /// Incoming terminals live, earth off, for Ze.
    SupplyExposed {
        /// At which board.
        board: Uuid,
    },
    /// Exposure ended: the earth is refitted.
    EarthRefitted {
        /// At which board.
        board: Uuid,
    },
    /// A board, or some of its circuits, energised.
    Energised {
        /// Which board.
        board: Uuid,
        /// Which circuits; none means all.
        #[serde(default)]
        circuits: Vec<Uuid>,
    },
    /// Circuits that stay dead and locked for a later stage of the work.
    LeftDead {
        /// At which board.
        board: Uuid,
        /// Which.
        circuits: Vec<Uuid>,
        /// The lock, and who keeps the key.
        lock: String,
        /// What they wait for.
        reason: String,
    },
    /// A point that is owed: what has not come, and how its tail was made safe.
    Owed {
        /// The item.
        item: Uuid,
        /// On which circuit.
        circuit: Uuid,
        /// What is owed, and where.
        thing: String,
        /// How it was made safe.
        made_safe: String,
    },
    /// What was owed is done.
    OwedDone {
        /// Which item.
        item: Uuid,
    },
    /// A finding judged in writing by a named competent person.
    Judged {
        /// Names the finding.
        finding: String,
        /// What it said when it was judged: with other numbers it is another finding.
        said: String,
        /// Position or qualification of the person.
        position: String,
        /// The judgement.
        reason: String,
    },
    /// Leads nulled.
    Nulled {
        /// Which lead set.
        lead_set: String,
        /// Which pair of its pins.
        #[serde(default, skip_serializing_if = "String::is_empty")]
        pins: String,
        /// Resistance of the leads where it is subtracted rather than nulled, Ω.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        subtract_ohm: Option<rust_decimal::Decimal>,
    },
    /// Something altered: an item on the put-back list.
    Altered {
        /// The item.
        item: Uuid,
        /// At which board.
        board: Uuid,
        /// On which circuit, if on one.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        circuit: Option<Uuid>,
        /// What.
        alteration: Alteration,
        /// Where exactly.
        note: String,
    },
    /// An item put back.
    PutBack {
        /// Which item.
        item: Uuid,
    },
    /// A reading struck out.
    StruckOut {
        /// Which.
        reading: Uuid,
        /// Why.
        reason: String,
    },
}

/// One line of the log.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Event {
    /// Made by the client.
    pub id: Uuid,
    /// When.
    pub at: Timestamp,
    /// Who.
    pub by: String,
    /// What.
    pub kind: EventKind,
}

impl Event {
    /// An event with an id of its own.
    pub fn new(by: &str, at: Timestamp, kind: EventKind) -> Self {
        Self { id: Uuid::new_v4(), at, by: by.to_owned(), kind }
    }
}

/// State of a board, as every page's frame says it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum BoardState {
    /// Nothing says it is dead: treat it as live.
    NotProved,
    /// Proved dead.
    ProvedDead,
    /// Incoming terminals live, earth off, under supervision.
    SupplyExposed,
    /// Energised.
    Energised,
}

/// What the log says of a board, or of one of its circuits.
fn state_of(
    events: &[Event],
    board: Uuid,
    concerns: impl Fn(&[Uuid]) -> bool,
) -> (BoardState, Option<(Timestamp, &str)>) {
    let mut state = (BoardState::NotProved, None);
    for event in events {
        let next = match &event.kind {
            EventKind::Isolated { board: b, circuits, .. } if *b == board && concerns(circuits) => {
                BoardState::NotProved
            }
            EventKind::NotIsolated { board: b, .. } if *b == board => BoardState::NotProved,
            EventKind::ProvedDead { board: b, circuits, .. } if *b == board && concerns(circuits) => {
                BoardState::ProvedDead
            }
            EventKind::EarthRefitted { board: b } if *b == board => BoardState::ProvedDead,
            EventKind::SupplyExposed { board: b } if *b == board => BoardState::SupplyExposed,
            EventKind::Energised { board: b, circuits } if *b == board && concerns(circuits) => BoardState::Energised,
            _ => continue,
        };
        state = (next, Some((event.at, event.by.as_str())));
    }
    state
}

/// The state of a board, since when, and by whose word. A board with some of its circuits live is
/// energised; isolating one circuit alone leaves it so.
pub fn board_state(events: &[Event], board: Uuid) -> (BoardState, Option<(Timestamp, &str)>) {
    let mut state = state_of(events, board, <[Uuid]>::is_empty);
    let partly = events.iter().rev().find(|event| {
        matches!(&event.kind, EventKind::Energised { board: b, circuits } if *b == board && !circuits.is_empty())
    });
    if let Some(event) = partly
        && !proved_after(events, board, event)
    {
        state = (BoardState::Energised, Some((event.at, event.by.as_str())));
    }
    state
}

/// Whether the whole board was isolated or proved dead after an event, in the order of the log.
fn proved_after(events: &[Event], board: Uuid, event: &Event) -> bool {
    events.iter().rev().take_while(|other| other.id != event.id).any(|other| match &other.kind {
        EventKind::Isolated { board: b, circuits, .. } | EventKind::ProvedDead { board: b, circuits, .. } => {
            *b == board && circuits.is_empty()
        }
        EventKind::NotIsolated { board: b, .. }
        | EventKind::EarthRefitted { board: b }
        | EventKind::SupplyExposed { board: b } => *b == board,
        _ => false,
    })
}

/// The state of one circuit of a board: its own where it was energised, or isolated, apart from
/// the others.
pub fn circuit_state(events: &[Event], board: Uuid, circuit: Uuid) -> (BoardState, Option<(Timestamp, &str)>) {
    state_of(events, board, |circuits| circuits.is_empty() || circuits.contains(&circuit))
}

/// A circuit that stays dead and locked for a later stage.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LeftDead<'a> {
    /// Which circuit.
    pub circuit: Uuid,
    /// The lock, and who keeps the key.
    pub lock: &'a str,
    /// What it waits for.
    pub reason: &'a str,
}

/// Circuits left dead and locked, in the order of the log, without those energised since.
pub fn left_dead(events: &[Event]) -> Vec<LeftDead<'_>> {
    let mut left: Vec<(Uuid, LeftDead<'_>)> = Vec::new();
    for event in events {
        match &event.kind {
            EventKind::LeftDead { board, circuits, lock, reason } => {
                for circuit in circuits {
                    left.retain(|(_, other)| other.circuit != *circuit);
                    left.push((*board, LeftDead { circuit: *circuit, lock, reason }));
                }
            }
            EventKind::Energised { board, circuits } => {
                left.retain(|(at, other)| at != board || !(circuits.is_empty() || circuits.contains(&other.circuit)));
            }
            _ => {}
        }
    }
    left.into_iter().map(|(_, left)| left).collect()
}

/// A point owed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Owed<'a> {
    /// The item.
    pub item: Uuid,
    /// On which circuit.
    pub circuit: Uuid,
    /// What is owed, and where.
    pub thing: &'a str,
    /// How it was made safe.
    pub made_safe: &'a str,
}

/// Points owed and not yet done, oldest first.
pub fn owed(events: &[Event]) -> Vec<Owed<'_>> {
    let mut all = Vec::new();
    for event in events {
        match &event.kind {
            EventKind::Owed { item, circuit, thing, made_safe } => {
                all.push(Owed { item: *item, circuit: *circuit, thing, made_safe });
            }
            EventKind::OwedDone { item } => all.retain(|other: &Owed<'_>| other.item != *item),
            _ => {}
        }
    }
    all
}

/// An open item of the put-back list.
#[derive(Debug, Clone, PartialEq)]
pub struct OpenItem<'a> {
    /// The item.
    pub item: Uuid,
    /// At which board.
    pub board: Uuid,
    /// On which circuit.
    pub circuit: Option<Uuid>,
    /// What.
    pub alteration: Alteration,
    /// Where exactly.
    pub note: &'a str,
    /// Since when.
    pub since: Timestamp,
    /// By whom.
    pub by: &'a str,
}

/// What was altered and not yet put back, oldest first.
pub fn open_items(events: &[Event]) -> Vec<OpenItem<'_>> {
    let mut open = Vec::new();
    for event in events {
        match &event.kind {
            EventKind::Altered { item, board, circuit, alteration, note } => open.push(OpenItem {
                item: *item,
                board: *board,
                circuit: *circuit,
                alteration: *alteration,
                note,
                since: event.at,
                by: &event.by,
            }),
            EventKind::PutBack { item } => open.retain(|other| other.item != *item),
            _ => {}
        }
    }
    open
}

#[cfg(test)]
mod tests {
    use super::*;

    fn proved(board: Uuid) -> EventKind {
        EventKind::ProvedDead { board, circuits: vec![], pairs: 3, shown: Vec::new(), indicator: String::new() }
    }

    fn log(kinds: Vec<EventKind>) -> Vec<Event> {
        kinds.into_iter().map(|kind| Event::new("A. Fitter", Timestamp::UNIX_EPOCH, kind)).collect()
    }

    #[test]
    fn isolation_alone_proves_nothing() {
        let board = Uuid::new_v4();
        let isolated = EventKind::Isolated { board, circuits: vec![], lock: "key 4".into(), paperwork: String::new() };
        assert_eq!(board_state(&log(vec![isolated.clone()]), board).0, BoardState::NotProved);
        let proved = log(vec![isolated.clone(), proved(board)]);
        assert_eq!(board_state(&proved, board).0, BoardState::ProvedDead);
        assert_eq!(board_state(&proved, Uuid::new_v4()).0, BoardState::NotProved);
    }

    #[test]
    fn energising_ends_proved_dead_and_exposure_is_a_state_of_its_own() {
        let board = Uuid::new_v4();
        let mut events = log(vec![proved(board), EventKind::SupplyExposed { board }]);
        assert_eq!(board_state(&events, board).0, BoardState::SupplyExposed);
        events.extend(log(vec![EventKind::EarthRefitted { board }]));
        assert_eq!(board_state(&events, board).0, BoardState::ProvedDead);
        events.extend(log(vec![EventKind::Energised { board, circuits: vec![] }]));
        assert_eq!(board_state(&events, board).0, BoardState::Energised);
    }

    #[test]
    fn one_circuit_may_be_live_and_another_locked_off() {
        let (board, live, dead) = (Uuid::new_v4(), Uuid::new_v4(), Uuid::new_v4());
        let mut events = log(vec![proved(board), EventKind::Energised { board, circuits: vec![live] }]);
        assert_eq!(board_state(&events, board).0, BoardState::Energised);
        assert_eq!(circuit_state(&events, board, live).0, BoardState::Energised);
        assert_eq!(circuit_state(&events, board, dead).0, BoardState::ProvedDead);
        let locked = EventKind::LeftDead { board, circuits: vec![dead], lock: "key 9".into(), reason: "heater".into() };
        events.extend(log(vec![locked]));
        assert_eq!(left_dead(&events).iter().map(|left| left.circuit).collect::<Vec<_>>(), [dead]);
        // One circuit isolated again: the board stays energised, the circuit is not dead until proved.
        let isolated =
            |circuits| EventKind::Isolated { board, circuits, lock: "key 4".into(), paperwork: String::new() };
        events.extend(log(vec![isolated(vec![live])]));
        assert_eq!(board_state(&events, board).0, BoardState::Energised);
        assert_eq!(circuit_state(&events, board, live).0, BoardState::NotProved);
        events.extend(log(vec![isolated(vec![])]));
        assert_eq!(board_state(&events, board).0, BoardState::NotProved);
        events.extend(log(vec![proved(board), EventKind::Energised { board, circuits: vec![] }]));
        assert_eq!(circuit_state(&events, board, dead).0, BoardState::Energised);
        assert_eq!(left_dead(&events), []);
    }

    #[test]
    fn a_point_is_owed_until_it_is_done() {
        let (item, circuit) = (Uuid::new_v4(), Uuid::new_v4());
        let what = EventKind::Owed { item, circuit, thing: "lamp, stair".into(), made_safe: "connector, boxed".into() };
        let mut events = log(vec![what]);
        assert_eq!(owed(&events).len(), 1);
        events.extend(log(vec![EventKind::OwedDone { item }]));
        assert_eq!(owed(&events), []);
    }

    #[test]
    fn items_stand_open_until_each_is_put_back() {
        let board = Uuid::new_v4();
        let items = [Uuid::new_v4(), Uuid::new_v4()];
        let altered = |item| EventKind::Altered {
            item,
            board,
            circuit: None,
            alteration: Alteration::Link,
            note: "L to CPC, way 3".into(),
        };
        let events = log(vec![altered(items[0]), altered(items[1]), EventKind::PutBack { item: items[0] }]);
        let open = open_items(&events);
        assert_eq!(open.len(), 1);
        assert_eq!(open[0].item, items[1]);
    }
}
