//! What a person does: one function in, readings and events out, or a typed refusal.
//!
//! An action is a reading, a series, a walk of points, Ze, the cells of a sheet, an isolation, an alteration: what one
//! person did at one moment. It is recorded atomically, against the job as it is at that moment; whoever stores the
//! result asks inside the transaction that writes it. Lead compensation, the line-to-line rule, "that is a current and
//! no loop", the gates, what is altered and what is nulled are all here. Ids of what an action makes follow from the id
//! of the action, which the client made: sent twice, it makes the same.

mod card;
mod feed_refusal;
mod figure;
mod fitting;
mod judging;
mod log;
mod on_site;
mod paper;
pub mod paper_row;
mod reading;
mod received;
mod recorded;
mod refusal;
mod runs;
mod series;
mod sheet;
mod value;
mod walk;
mod withdraw;
mod ze;
mod ze_sent;

pub use card::{CardAction, CardKind};
pub use feed_refusal::FeedRefusal;
pub use figure::{Figure, Logged, With};
pub use fitting::Joined;
pub use log::{Log, Placed, placed};
pub use on_site::{Beginning, Energising, Isolating, Leaving, Powering};
pub use reading::leads_said;
pub use received::{Delivery, receive};
pub use recorded::{Actor, Recorded};
pub use refusal::{NotPlaced, NotZe, Refusal};
pub use runs::Runs;
pub use series::Series;
pub use sheet::{ChangedCells, SheetCell, SheetStep, shown_steps_of, steps_of};
pub use value::value_of;
pub use walk::{Opened, Walk, unread_in_walk, walk_steps};
pub use withdraw::{NotWithdrawn, withdraw_board, withdraw_circuit};
pub use ze::{Ze, ZeFigure, ze_steps};
pub use ze_sent::{ZeField, exposure, ze_line, ze_typed};

use proof_job::job::Job;
use proof_job::site::Alteration;
use uuid::Uuid;

/// What a person did.
#[derive(Debug, Clone)]
pub enum Action {
    /// One reading.
    Read(Figure),
    /// The automatic series of an RCD.
    Series(Series),
    /// Every point walked, only the highest written down.
    Walk(Walk),
    /// A reading of the search inside a circuit: the run open at a point.
    Opened(Opened),
    /// The cells of a schedule sheet, from paper.
    Sheet(ChangedCells),
    /// The log of an instrument.
    Log(Log),
    /// Ze filed, with the word that the earthing conductor is back on; or only that word.
    Ze(Ze),
    /// The earthing conductor taken off.
    Expose {
        /// Whom one spoke to, by name, of those who isolated it.
        spoke_to: String,
    },
    /// The day begun: who reads, with what, and whether it is right.
    Begin(Beginning),
    /// A board isolated and the indicator tried on every pair.
    Isolate(Isolating),
    /// A board that stood before, found in use.
    InUse(Uuid),
    /// Ways, or a whole board, left dead and locked for the next trade.
    LeaveDead(Leaving),
    /// Ways of a board energised, the others left dead and locked.
    Energise(Energising),
    /// Ways brought to power by the card of the run.
    Power(Powering),
    /// An outstanding point.
    AddPoint {
        /// On which circuit.
        circuit: Uuid,
        /// What is outstanding, and where.
        thing: String,
        /// How it was made safe.
        made_safe: String,
    },
    /// An outstanding point is done.
    PointDone(Uuid),
    /// Something altered.
    Alter {
        /// At which board.
        board: Uuid,
        /// On which circuit, if on one.
        circuit: Option<Uuid>,
        /// What.
        alteration: Alteration,
        /// Where exactly.
        note: String,
    },
    /// One item put back.
    PutBack(Uuid),
    /// The items of a list put back together: those of the list that still stand open.
    PutBackAll(Vec<Uuid>),
    /// What the card of the run says, done.
    Card(CardAction),
    /// A reading struck out.
    StrikeOut {
        /// Which.
        reading: Uuid,
        /// Why.
        reason: String,
    },
    /// The last entry taken back at once.
    TakeBack(Uuid),
    /// Readings that named no instrument were taken with this one.
    SayInstrument(Uuid),
    /// Findings judged in writing, by the marks that they were ticked with.
    Judge {
        /// Marks of the findings.
        ticked: Vec<String>,
        /// Position or qualification.
        position: String,
        /// The judgement.
        reason: String,
    },
}

/// Takes what a person did, against the job as it stands.
///
/// # Errors
/// [`Refusal`]: nothing is recorded, and why.
pub fn record(job: &Job, action: &Action, hand: &Actor) -> Result<Recorded, Refusal> {
    match action {
        Action::Read(figure) => reading::read(job, figure, hand),
        Action::Series(series) => series::record(job, series, hand),
        Action::Walk(walked) => walk::record(job, walked, hand),
        Action::Opened(opened) => walk::opened(job, opened, hand),
        Action::Sheet(given) => sheet::record(job, given, hand),
        Action::Log(given) => log::record(job, given, hand),
        Action::Ze(given) => ze::file(job, given, hand),
        Action::Expose { spoke_to: word } => ze::expose(job, word, hand),
        Action::Begin(given) => on_site::begin(job, given, hand),
        Action::Isolate(given) => on_site::isolate(job, given, hand),
        Action::InUse(board) => on_site::in_use(job, *board, hand),
        Action::LeaveDead(given) => on_site::leave_dead(job, given, hand),
        Action::Energise(given) => on_site::energise(job, given, hand),
        Action::Power(given) => on_site::power(job, given, hand),
        Action::AddPoint { circuit, thing, made_safe } => on_site::owe(job, *circuit, [thing, made_safe], hand),
        Action::PointDone(item) => on_site::point_done(job, *item, hand),
        Action::Alter { board, circuit, alteration, note } => {
            on_site::alter(job, (*board, *circuit), (*alteration, note), hand)
        }
        Action::PutBack(item) => on_site::put_back(job, *item, hand),
        Action::PutBackAll(items) => Ok(on_site::put_back_all(job, items, hand)),
        Action::Card(asked) => card::record(job, asked, hand),
        Action::StrikeOut { reading, reason } => judging::strike_out(job, *reading, reason, hand),
        Action::TakeBack(reading) => judging::take_back(job, *reading, hand),
        Action::SayInstrument(instrument) => judging::say_instrument(job, *instrument, hand),
        Action::Judge { ticked, position, reason } => judging::judge(job, ticked, [position, reason], hand),
    }
}
