//! One reading wanted: its stage, what may be typed, and in which box its number goes.

use crate::reading::entry::Field;
use crate::reading::{Key, Subject, Test};
use proof_standard::quantity::Volts;

/// Whether a step is read on the low-resistance range, so that leads matter.
pub const fn is_low_ohm(step: &Step) -> bool {
    matches!(step.field, crate::reading::entry::Field::Continuity)
}

/// A stretch of the test order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Stage {
    /// Ring, between the ends.
    EndToEnd,
    /// Line and neutral linked.
    R1Rn,
    /// Line and CPC linked.
    R1R2,
    /// CPC by long lead.
    R2,
    /// Insulation.
    Insulation,
    /// Polarity.
    Polarity,
    /// Each line followed to its far end, dead.
    Sequence,
    /// Live: loop impedance.
    Zs,
    /// Live: RCD.
    Rcd,
    /// Live: does it do what it is there for.
    Functional,
    /// At the origin.
    Origin,
    /// Bonding.
    Bonding,
}

impl Stage {
    /// Heading of the stage.
    pub const fn label(self) -> &'static str {
        match self {
            Self::EndToEnd => "Ring, end to end",
            Self::R1Rn => "R1+Rn at each point",
            Self::R1R2 => "R1+R2 at each point",
            Self::R2 => "R2 by long lead at each point",
            Self::Insulation => "Insulation resistance",
            Self::Polarity => "Polarity",
            Self::Sequence => "Phase sequence, dead",
            Self::Zs => "Earth fault loop, Zs",
            Self::Rcd => "RCD",
            Self::Functional => "Functional tests",
            Self::Origin => "At the origin",
            Self::Bonding => "Earthing and bonding",
        }
    }

    /// The figure that the stage is after.
    pub const fn figure(self) -> &'static str {
        match self {
            Self::EndToEnd => "r1, rn, r2",
            Self::R1Rn => "R1+Rn",
            Self::R1R2 => "R1+R2",
            Self::R2 => "R2",
            Self::Insulation => "insulation",
            Self::Polarity => "polarity",
            Self::Sequence => "phase sequence",
            Self::Zs => "Zs",
            Self::Rcd => "trip time",
            Self::Functional | Self::Origin | Self::Bonding => "",
        }
    }

    /// What to connect, in a line.
    pub const fn hook_up(self, ring: bool) -> &'static str {
        match (self, ring) {
            (Self::EndToEnd, _) => "Both ends of the ring out; read line to line, neutral to neutral, CPC to CPC.",
            (Self::R1Rn, true) => {
                "Cross the legs: line of one with neutral of the other. Read line–neutral at each point."
            }
            (Self::R1Rn, false) => "Link line and neutral at the board. Read line–neutral at each point.",
            (Self::R1R2, true) => "Cross the legs: line of one with CPC of the other. Read line–CPC at each point.",
            (Self::R1R2, false) => "Link line and CPC at the board. Read line–CPC at each point.",
            (Self::R2, _) => "Long lead from the main earthing terminal, nulled first. Read to the CPC of each point.",
            (Self::Insulation, _) => "Links off, CPC back on the bar, loads out, switches on.",
            (Self::Polarity, _) => "Proved by R1+Rn and R1+R2 at every point, or seen at every terminal.",
            (Self::Sequence, _) => {
                "One line linked to CPC at the board: it alone reads at the far end. Then the next line."
            }
            (Self::Zs, _) => "Everything put back and energised. Read at the far point at least.",
            (Self::Rcd, _) => "At the point nearest the board, loads off; then the button.",
            (Self::Functional, _) => "Work each switch, isolator, interlock and test button of it.",
            (Self::Origin, _) => {
                "Ze with the earth disconnected: incoming line to the means of earthing. Fault current with it back on."
            }
            (Self::Bonding, _) => {
                "Isolated, one end off. One lead on the conductor, the other on the metal beyond the clamp."
            }
        }
    }
}

/// Where a number goes on paper.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum GoesTo {
    /// A column of the schedule of test results.
    Column(&'static str),
    /// The highest (or lowest) of several goes to a column.
    Extreme(&'static str),
    /// The particulars at the origin.
    Particulars(&'static str),
    /// Not on the schedule; kept all the same.
    NotOnSchedule(&'static str),
}

impl GoesTo {
    /// In words.
    pub fn shown(self) -> String {
        match self {
            Self::Column(column) | Self::Extreme(column) => format!("goes to the schedule: {column}"),
            Self::Particulars(place) => format!("goes to the certificate: {place}"),
            Self::NotOnSchedule(why) => format!("not on the schedule: {why}"),
        }
    }
}

impl Stage {
    /// Whether it is read on a circuit that is dead.
    pub fn is_dead(self) -> bool {
        self < Self::Zs || self == Self::Bonding
    }
}

/// One reading wanted.
#[derive(Debug, Clone, PartialEq)]
pub struct Step {
    /// Names the step in a form: unique in its circuit (or at the origin).
    pub slug: String,
    /// What the reading is of.
    pub key: Key,
    /// Its stage.
    pub stage: Stage,
    /// Its name.
    pub label: String,
    /// What may be typed.
    pub field: Field,
    /// Where the number goes.
    pub goes_to: GoesTo,
    /// A certificate wants it.
    pub required: bool,
    /// The method chosen for the job does without it: it is shown only where it was read.
    pub unused: bool,
    /// Insulation test voltage.
    pub test_voltage: Option<Volts>,
    /// It is read live at the open terminals of a board.
    pub open_board: bool,
}

impl Step {
    /// The usual caution, where the step can hurt someone: what is special about it.
    pub const fn caution(&self) -> Option<&'static str> {
        match (self.stage, self.key.test) {
            (Stage::EndToEnd | Stage::R1Rn | Stage::R1R2 | Stage::R2 | Stage::Sequence, _) => {
                Some("Dead test. Isolated, locked and proved dead first; every link comes off again.")
            }
            (Stage::Insulation, _) => {
                Some("500 V d.c. is on the tips: hold probes by their handles, nobody on the circuit, electronics out.")
            }
            _ if self.open_board => Some(
                "Live test at open terminals. The earth stays on; gloves and eye protection, GS 38 leads, nobody else near; the cover goes back on at once.",
            ),
            (Stage::Zs | Stage::Rcd | Stage::Functional, _) => {
                Some("Live test. Covers on, GS 38 leads, no dead test outstanding, everything put back.")
            }
            (Stage::Origin, Test::Ze | Test::Electrode) => Some(
                "Live terminals. The board's main switch is off and locked before the earthing conductor comes off; refit it before writing anything down.",
            ),
            (Stage::Origin, _) => Some(
                "Live terminals. The earthing conductor stays on. Gloves and eye protection at the open board, GS 38 leads.",
            ),
            (Stage::Bonding, _) => {
                Some("Never take a bond off until everything is isolated; refit it the moment the reading is taken.")
            }
            (Stage::Polarity, _) => None,
        }
    }

    /// What to connect, in a line.
    pub const fn hook_up(&self, ring: bool) -> &'static str {
        match self.key.test {
            Test::EarthingConductor => {
                "Isolated, one end disconnected. One lead on its disconnected end, the other on its far end."
            }
            Test::Ze => "The earth disconnected: from the incoming line to the means of earthing.",
            Test::FaultCurrent | Test::Zs if matches!(self.stage, Stage::Origin) => {
                "The earth back on: at the incoming terminals."
            }
            _ => self.stage.hook_up(ring),
        }
    }

    /// A step; asked of every circuit it suits, at a closed board.
    pub fn new(slug: String, key: Key, stage: Stage, label: String, field: Field, goes_to: GoesTo) -> Self {
        Self {
            slug,
            key,
            stage,
            label,
            field,
            goes_to,
            required: true,
            unused: false,
            test_voltage: None,
            open_board: false,
        }
    }

    /// Whether it is read at an open board.
    #[must_use]
    pub fn at_open_board(mut self, open: bool) -> Self {
        self.open_board = open;
        self
    }

    /// May be left out.
    #[must_use]
    pub fn optional(mut self) -> Self {
        self.required = false;
        self
    }

    /// Kept, but not asked, where its place is not used.
    #[must_use]
    pub fn unused_if(mut self, unused: bool) -> Self {
        self.required &= !unused;
        self.unused = unused;
        self
    }

    /// Whether it should read open: a switch in its open position.
    pub fn expects_open(&self) -> bool {
        matches!(&self.key.subject, Subject::Place { place, .. } if place.expects_open())
    }
}
