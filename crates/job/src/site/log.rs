//! The log of a job: what happened, when, by whose hand. Nothing in it is ever rewritten.

use crate::installation::Lines;
use crate::reading::StrikeOuts;
use crate::site::Alteration;
use crate::site::isolation::pair_count;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

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
        /// The device of the circuits breaks their neutral too, so that nothing of them hangs on the bar.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        neutral: bool,
    },
    /// A board proved dead: indicator proved, every pair, indicator proved again. It proves only what
    /// [`crate::site::isolation::proves`] says.
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
        shown: Vec<crate::site::isolation::PairShown>,
        /// The indicator used.
        #[serde(default, skip_serializing_if = "String::is_empty")]
        indicator: String,
        /// The indicator was proved on a known source before; `None`: written before this was kept.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        before: Option<bool>,
        /// And again after.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        after: Option<bool>,
        /// Other sources that were isolated and proved with it.
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        sources: Vec<Uuid>,
        /// The point of work where circuits were proved, their board being live.
        #[serde(default, skip_serializing_if = "String::is_empty")]
        place: String,
    },
    /// A board looked at and found not isolated.
    NotIsolated {
        /// Which.
        board: Uuid,
        /// Only these of its circuits; none means the whole board.
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        circuits: Vec<Uuid>,
        /// What the indicator showed.
        shown: Vec<crate::site::isolation::PairShown>,
        /// What that means.
        because: String,
    },
    /// Incoming terminals live, earth off, for Ze.
    SupplyExposed {
        /// At which board.
        board: Uuid,
    },
    /// Exposure ended: the earth is refitted. Its incoming terminals were live meanwhile, so nothing is proved any more.
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
    /// A board that stood before, found energised and in use: not by this work.
    InUse {
        /// Which.
        board: Uuid,
    },
    /// Circuits that stay dead and locked for a later stage of the work.
    #[serde(rename = "left_dead")]
    LockedOff {
        /// At which board.
        board: Uuid,
        /// Which.
        circuits: Vec<Uuid>,
        /// The lock, and who keeps the key.
        lock: String,
        /// What they wait for.
        reason: String,
    },
    /// A point that is outstanding: what has not come, and how its tail was made safe.
    #[serde(rename = "owed")]
    PointOutstanding {
        /// The item.
        item: Uuid,
        /// On which circuit.
        circuit: Uuid,
        /// What has not come, and where.
        thing: String,
        /// How it was made safe.
        made_safe: String,
    },
    /// An outstanding point is done.
    #[serde(rename = "owed_done")]
    PointDone {
        /// Which item.
        item: Uuid,
    },
    /// A finding judged in writing by a named competent person.
    Judged {
        /// Names the finding.
        finding: String,
        /// What it said when it was judged.
        said: String,
        /// What was found, with its numbers, as JSON: with other numbers it is another finding. `None`:
        /// written when judgements were bound to what the finding said.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        bound: Option<String>,
        /// Position or qualification of the person.
        position: String,
        /// The judgement.
        reason: String,
    },
    /// Readings that named no instrument, said later to be taken with one.
    TakenWith {
        /// Which.
        readings: Vec<Uuid>,
        /// With which instrument.
        instrument: Uuid,
    },
    /// The day's work begun: battery, leads, tips together and apart, indicator and adapters looked at
    /// before use. Who wrote it is the event's; it stands for that person and day.
    BeforeUse {
        /// The instrument of the day.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        instrument: Option<Uuid>,
        /// Who reads, where another person writes.
        #[serde(default, skip_serializing_if = "String::is_empty")]
        read_by: String,
        /// What was found not right; empty: all as it should be.
        #[serde(default, skip_serializing_if = "String::is_empty")]
        wrong: String,
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
    /// An event.
    pub fn new(id: Uuid, by: &str, at: Timestamp, kind: EventKind) -> Self {
        Self { id, at, by: by.to_owned(), kind }
    }
}

impl EventKind {
    /// A whole board proved dead on every pair of its conductors, the indicator proved before and after.
    pub fn proved_dead(board: Uuid, lines: Lines, indicator: &str) -> Self {
        Self::ProvedDead {
            board,
            circuits: Vec::new(),
            pairs: pair_count(lines),
            shown: Vec::new(),
            indicator: indicator.to_owned(),
            before: Some(true),
            after: Some(true),
            sources: Vec::new(),
            place: String::new(),
        }
    }
}

impl<'a> StrikeOuts<'a> for &'a [Event] {
    fn strike_outs(self) -> impl Iterator<Item = (Uuid, &'a str)> {
        self.iter().filter_map(|event| match &event.kind {
            EventKind::StruckOut { reading, reason } => Some((*reading, reason.as_str())),
            _ => None,
        })
    }
}

impl<'a> StrikeOuts<'a> for &'a Vec<Event> {
    fn strike_outs(self) -> impl Iterator<Item = (Uuid, &'a str)> {
        self.as_slice().strike_outs()
    }
}

impl<'a, const N: usize> StrikeOuts<'a> for &'a [Event; N] {
    fn strike_outs(self) -> impl Iterator<Item = (Uuid, &'a str)> {
        self.as_slice().strike_outs()
    }
}
