//! Why an action is refused.

use super::feed_refusal::FeedRefusal;
use super::paper_row::NotInBox;
use crate::gate;
use jiff::civil::Date;
use proof_job::installation::validity::LONGEST_LINE;
use proof_job::reading::{Value, entry};
use proof_job::site::Wanted;
use proof_job::site::spoken_to::IsolatedBy;
use rust_decimal::Decimal;

/// Why a figure is no Ze, where something says so.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NotZe {
    /// It is the current that was shown beside it.
    #[error(
        "{0} is the fault current in kA: the current shown beside Ze is not recorded, and it is not Ze. Type the ohms."
    )]
    Current(Decimal),
    /// No loop of a supply with the distributor's earth is so high.
    #[error("{ohm} Ω is no loop of a {system} supply: it looks like a current. Type the ohms, such as 0.21.")]
    TooHigh {
        /// As typed, Ω.
        ohm: Decimal,
        /// Earthing arrangement.
        system: &'static str,
    },
    /// It is the loop of the fault-current test.
    #[error(
        "{0} Ω is the loop of the fault-current test, read with the earth on: paths in parallel are in it. Ze is read with the earthing conductor off."
    )]
    OwnLoop(Decimal),
}

/// What a field of an action lacks.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum Wanting {
    /// A lock.
    #[error("Name the lock, and who keeps its key.")]
    Lock,
    /// The lock of what stays dead.
    #[error("What stays dead is locked: name the lock and who keeps its key.")]
    LockOfRest,
    /// What it waits for.
    #[error("Say what it waits for.")]
    ReasonOfRest,
    /// Loads off first.
    #[error("Loads come off by the ways first.")]
    Loads,
    /// Main switch off.
    #[error("Main switch off, and locked.")]
    Locked,
    /// The device of the circuit off.
    #[error("The device of the circuit off, and locked.")]
    DeviceLocked,
    /// Where it is proved.
    #[error("Say where it is proved dead: the point of work, such as the new socket.")]
    PointOfWork,
    /// What is not right before use.
    #[error("Say what is not right.")]
    NotRight,
    /// The day of what is copied from paper.
    #[error("Say on which day it was read, such as 2026-11-20: it stands on the paper. What you typed is kept.")]
    PaperDay,
    /// The day of what a log gives no time of.
    #[error(
        "It has no time: give the day on which it was read, so that it can be held against the state of the board then."
    )]
    LogDay,
    /// Who was spoken to.
    #[error("Speak to them first, and write the name here: their lock is theirs to take off.")]
    Word,
    /// Which ways.
    #[error("Tick the ways that stay dead.")]
    Ways,
    /// Another source.
    #[error("Isolate this source too, and prove it: it may feed the board whose main switch is off.")]
    Source,
    /// Proved before.
    #[error("The indicator is proved before.")]
    Before,
    /// Proved after.
    #[error("The indicator is proved again after: without it nothing is proved.")]
    After,
    /// A pair.
    #[error("Every pair is tested: write 0 for no indication.")]
    Pair,
    /// What is outstanding.
    #[error("Say what is owed, and where.")]
    Thing,
    /// How the tail was made safe.
    #[error("Say how the tail was made safe.")]
    MadeSafe,
    /// The earth back on.
    #[error("Refit the earthing conductor now; the figures stay here and are filed when it is back on.")]
    Refitted,
    /// Ze read.
    #[error("Read it, or write lim and the reason.")]
    Ze,
    /// Who judges.
    #[error("Say by what right: position or qualification.")]
    Position,
    /// The judgement.
    #[error("Write why it may stand as it is.")]
    Judgement,
    /// Findings ticked.
    #[error("Tick what is judged: what it said when you ticked it is what the judgement holds for.")]
    Ticked,
}

/// Why an action is refused. Nothing is stored.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum Refusal {
    /// What was typed is no reading.
    #[error("{0}")]
    Typed(#[from] entry::Refused),
    /// A button and the field say two things.
    #[error(
        "“{typed}” is in the field and {pressed} was pressed: empty the field, or press Store to keep what is in it."
    )]
    TwoAnswers {
        /// What stands in the field.
        typed: String,
        /// The button.
        pressed: String,
    },
    /// A limitation or the like over a figure.
    #[error(
        "{} {unit} is in force here, and only a figure takes the place of a figure: read it again, or strike it out with its reason first. What you typed is kept.",
        .figure.shown()
    )]
    FigureInForce {
        /// What is in force.
        figure: Value,
        /// Its unit; empty for an outcome.
        unit: &'static str,
    },
    /// Nobody writes.
    #[error("Who writes this down? Give a name under “written by”.")]
    NobodyWrites,
    /// Nobody does it.
    #[error("Give the name of the person who did this.")]
    Nobody,
    /// A text is too long or holds what no text may.
    #[error("{0}")]
    Text(#[from] proof_standard::text::BadText),
    /// A reading between lines without an instrument for it.
    #[error("A reading between lines is taken only with an instrument rated for it: name one whose register says so.")]
    LineToLine,
    /// Less than the leads alone.
    #[error("{ohm} Ω is less than the leads alone, {leads} Ω: measure the leads again, or read again.")]
    BelowLeads {
        /// As typed.
        ohm: Decimal,
        /// The leads.
        leads: Decimal,
    },
    /// What it is a reading of is not there any more.
    #[error("That is no reading of this job any more: load the page again.")]
    NoSuchStep,
    /// The id was used for another reading.
    #[error(
        "the reading {0} is stored already with other content: nothing was stored. Press Enter again to store it as a repeat."
    )]
    OtherContent(uuid::Uuid),
    /// A day that is none.
    #[error("“{0}” is no day: write it as 2026-11-20. What you typed is kept.")]
    NoDay(String),
    /// A day to come.
    #[error("{0} is not yet: what is copied from paper was read before. What you typed is kept.")]
    NotYet(Date),
    /// On that day the board was in no state for it.
    #[error("By its log {board} was not {} at any time on {day}: paper does not change that. What you typed is kept.", .wanted.label())]
    NotThatDay {
        /// Which board.
        board: String,
        /// As given.
        day: Date,
        /// What the test wants.
        wanted: Wanted,
    },
    /// The state of the site forbids it.
    #[error("{0}; or, if it was read on another day, tick “from paper” and give that day. What you typed is kept.")]
    NotNow(gate::Refusal),
    /// The state of the site forbids an action.
    #[error("{0}.")]
    Gate(gate::Refusal),
    /// Ze is filed in its own state.
    #[error(
        "Ze is read with the earth disconnected and filed when it is back on: use the page Ze (Origin, then Ze). What you typed is kept."
    )]
    ZeInItsOwnState,
    /// It is no Ze.
    #[error("{0}")]
    NotZe(#[from] NotZe),
    /// The earthing conductor is not off.
    #[error("Nothing was filed: the earthing conductor is not off, so this is no Ze.")]
    NotExposed,
    /// No board is fed by the supply.
    #[error("No board is fed by the supply: describe it first. Nothing was stored.")]
    NoOrigin,
    /// The board is not described.
    #[error("There is no such board in this job. Nothing was stored.")]
    NoSuchBoard,
    /// A series of another length.
    #[error("The series has {} figures and {given} were typed: {}; write nt where it did not trip.", .wanted.len(), .wanted.join(", "))]
    SeriesLength {
        /// Labels in the order of the series.
        wanted: Vec<String>,
        /// How many were typed.
        given: usize,
    },
    /// One figure of several is refused.
    #[error("{label}: {why}")]
    One {
        /// Which.
        label: String,
        /// Why.
        why: Box<Refusal>,
    },
    /// Fields are wanting or wrong, by name.
    #[error("see what is marked")]
    Fields(Vec<(String, Refusal)>),
    /// A text that no paper could print, with the field that holds it.
    #[error("{0}")]
    NotPrinted(String, Vec<(String, Refusal)>),
    /// Something is wanting.
    #[error("{0}")]
    Wanting(Wanting),
    /// A number that its box does not take.
    #[error("{0}")]
    Box(#[from] NotInBox),
    /// It is no walk of this circuit.
    #[error("That is no walk of this run: load the page again.")]
    NoWalk,
    /// The place of the highest.
    #[error("Say at which point the highest was read.")]
    NoPoint,
    /// Open at no point.
    #[error("Say which circuit is open at which of its points. Nothing was stored.")]
    OpenNowhere,
    /// No such pair.
    #[error("“{0}” is no pair of this circuit. Nothing was stored.")]
    NoSuchPair(String),
    /// Closed meanwhile.
    #[error("That item is closed already.")]
    ClosedAlready,
    /// Not outstanding.
    #[error("That is not outstanding: load the page again. Nothing was stored.")]
    NotOutstanding,
    /// Which circuit is it on.
    #[error("not stored: say which circuit, what is outstanding, and how it was made safe")]
    PointsUnsaid(Vec<(String, Refusal)>),
    /// No way is ticked.
    #[error("tick the ways that are energised")]
    NoWays,
    /// What is live, or may be, is not left dead.
    #[error("way {0} is not dead and locked: isolate it and prove it dead before it is left so")]
    NotDead(String),
    /// What is left dead is unsaid.
    #[error("say of what stays dead how it is locked, and what it waits for")]
    LeftUnsaid(Vec<(String, Refusal)>),
    /// Somebody else isolated it, left it dead or took its earth off.
    #[error("{}: speak to them first, and write whom you spoke to", .people.iter().map(ToString::to_string).collect::<Vec<_>>().join("; "))]
    NotSpokenTo {
        /// Who is not named yet.
        people: Vec<IsolatedBy>,
        /// The field that names them.
        fields: Vec<(String, Refusal)>,
    },
    /// The measured leads.
    #[error("Give what the leads alone read, such as 0.07.")]
    LeadsUnread,
    /// The step of the card is gone.
    #[error("“{0}” is no step of this run any more: load the page again.")]
    NoCard(String),
    /// Striking out wants a reason.
    #[error("Striking out wants its reason, up to {LONGEST_LINE} characters. Go back; nothing was struck out.")]
    NoReason,
    /// No such reading.
    #[error("reading {0} is not known here")]
    NoSuchReading(uuid::Uuid),
    /// No such instrument, or nothing to say it of.
    #[error("Choose an instrument of the register; nothing was stored.")]
    NoSuchInstrument,
    /// An instrument's reading does not fit the card at hand.
    #[error("{0}")]
    Feed(#[from] super::feed_refusal::FeedRefusal),
    /// A reading of a log has no place in this job.
    #[error("{0}")]
    NotPlaced(NotPlaced),
    /// It is not the last entry any more.
    #[error("That is not the last entry any more: strike it out on the page of its circuit.")]
    NotLast,
}

impl Refusal {
    /// Whether the state of the job forbids it, rather than what was given.
    pub fn is_of_state(&self) -> bool {
        match self {
            Self::NotNow(_)
            | Self::Gate(_)
            | Self::ZeInItsOwnState
            | Self::NotExposed
            | Self::NoOrigin
            | Self::OtherContent(_)
            | Self::FigureInForce { .. }
            | Self::ClosedAlready
            | Self::NotLast
            | Self::NoWays
            | Self::NotDead(_)
            | Self::LeftUnsaid(_)
            | Self::NotSpokenTo { .. }
            | Self::PointsUnsaid(_) => true,
            Self::One { why, .. } => why.is_of_state(),
            _ => false,
        }
    }

    /// What is wrong with each field, where fields are named.
    pub fn fields(&self) -> &[(String, Self)] {
        match self {
            Self::Fields(fields)
            | Self::NotSpokenTo { fields, .. }
            | Self::PointsUnsaid(fields)
            | Self::LeftUnsaid(fields)
            | Self::NotPrinted(_, fields) => fields,
            _ => &[],
        }
    }
}

/// Why a reading is not placed.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum NotPlaced {
    /// It may not come into this job.
    #[error("{0}")]
    Feed(#[from] FeedRefusal),
    /// It does not say where.
    #[error("it does not say where it was read: give way, point or step")]
    NoPlace,
    /// Nothing of this job is there.
    #[error("this job has no {0}")]
    NoSuchPlace(String),
    /// The place is there; what was measured is not read there.
    #[error("{} is not read at {place}{}", .measured, .because.as_ref().map(|why| format!(": {why}")).unwrap_or_default())]
    NotRead {
        /// What was measured.
        measured: &'static str,
        /// Where.
        place: String,
        /// What is wrong, where one reading comes near.
        because: Option<String>,
    },
    /// It may be several readings.
    #[error("it may be {}: give the step", .0.join(" or "))]
    Several(Vec<String>),
    /// The same id stands above.
    #[error("the same id stands above: it is the same reading")]
    Twice,
    /// It is stored already.
    #[error("it is stored already")]
    Stored,
    /// Its figure, or the order of the work, forbids it.
    #[error("{0}")]
    Refused(Box<Refusal>),
}
