//! Why the store did not do it, one by one.

use uuid::Uuid;

/// Most acts of one exercise.
pub const MOST_ACTS: usize = 2000;

/// What is stored already under the same id or name, and differs.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Differs {
    /// A form.
    #[error("this form was sent before with other content: load the page again, nothing was stored")]
    Form,
    /// A job.
    #[error("there is a job {0} already: nothing was stored")]
    Job(String),
    /// A reading of a file.
    #[error("the reading {0} is stored already: nothing was stored")]
    ReadingOfFile(Uuid),
    /// A reading.
    #[error("the reading {0} is stored already with other content: nothing was stored")]
    Reading(Uuid),
    /// An event.
    #[error("the event {0} is stored already: nothing was stored")]
    Event(Uuid),
}

/// What would lose something, or wants something first.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Refused {
    /// The reference is another job's.
    #[error("there is a job {0} already: give another reference")]
    JobTaken(String),
    /// The reference is another instrument's.
    #[error("there is an instrument {0} already: give another reference")]
    InstrumentTaken(String),
    /// The name is another pattern's.
    #[error("there is a pattern “{0}” already: give another name, or take that one out on the firm's page")]
    PatternTaken(String),
    /// Too many.
    #[error("the firm keeps 200 patterns already: take one out on the firm's page first")]
    TooManyPatterns,
    /// A circuit that has readings would go.
    #[error("way {0} has readings: it cannot be taken out")]
    WayHasReadings(String),
    /// A point that has readings would go.
    #[error("point {point} of way {way} has readings: it cannot be taken out")]
    PointHasReadings {
        /// Its name.
        point: String,
        /// Its circuit's way.
        way: String,
    },
    /// No key yet.
    #[error("the firm has no signing key yet: make one on the firm's page")]
    NoKey,
    /// No copy of the key.
    #[error(
        "the firm's key was not exported yet: keep a copy of it first, on the firm's page, or it is lost with this database"
    )]
    KeyNotExported,
    /// The key is the one in use.
    #[error("this key is in use already")]
    KeyInUse,
    /// Another key than the one that was opened.
    #[error("the firm's key was replaced meanwhile: load the page again")]
    KeyReplaced,
    /// The demonstration key for work, or another for a demonstration.
    #[error("the demonstration key signs jobs made as demo or practice, and nothing else signs those")]
    NotForDemonstration,
    /// What a job was made as.
    #[error("what a job was made as stays so: begin another")]
    MadeAs,
    /// Why a key is replaced.
    #[error("say why the key is replaced: it goes on record")]
    KeyReplacementUnsaid,
    /// The key in the database.
    #[error("the firm's key cannot be read: {0}")]
    KeyUnreadable(String),
    /// Why a certificate is replaced.
    #[error("a certificate of this job is in force: say why it is replaced, it is printed on the new one")]
    ReplacementUnsaid,
    /// The papers could not be drawn.
    #[error("{0}")]
    PapersNotDrawn(String),
    /// The instrument is another job's.
    #[error("the instrument at {0} is joined to job {1}: leave it there first")]
    FeedTaken(String, String),
    /// An exercise without end.
    #[error("an exercise takes {} acts: hand it in, and begin another", MOST_ACTS)]
    TooManyActs,
    /// A file cannot be made.
    #[error("{0}: {1}")]
    File(String, String),
    /// A file is there already.
    #[error("{0} is there already: give another name, nothing was overwritten")]
    FileThere(String),
    /// A copy that cannot be put back.
    #[error("{0} cannot be put back: {1}")]
    NoBackup(String, String),
    /// The database is in use, without a pause.
    #[error("the database is in use without a pause: stop the program and try again")]
    InUse,
    /// A certificate that was altered in the database.
    #[error("certificate {0} does not have its digest: the database was altered")]
    Altered(String),
}
