//! Why what an instrument sends is not taken.

use proof_job::reading::message::Measured;
use proof_standard::conductor::Pair;

/// Why a reading of an instrument is not taken into the card at hand.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum FeedRefusal {
    /// A simulation's reading in a job of work.
    #[error("it is simulated, and this job was made as work: simulated readings go only into a demo or a practice job")]
    Simulated,
    /// Another instrument.
    #[error("it comes from {given}, and {joined} is joined")]
    OtherInstrument {
        /// As it calls itself.
        given: String,
        /// The one that is joined.
        joined: String,
    },
    /// Nothing is asked for.
    #[error("the run asks for no reading now")]
    NoCard,
    /// The earthing conductor is off.
    #[error("it is {}, and the earthing conductor is off: Ze alone is read until it is back on", .given.label())]
    EarthOff {
        /// What was measured.
        given: Measured,
    },
    /// Something is done first.
    #[error("{card} wants something done first: the card says what")]
    First {
        /// The reading that is asked for.
        card: String,
    },
    /// Another test.
    #[error("it is {}, and {card} takes {}", .given.label(), .wanted.map_or("pass or fail", Measured::label))]
    OtherTest {
        /// What was measured.
        given: Measured,
        /// The reading that is asked for.
        card: String,
        /// What it takes.
        wanted: Option<Measured>,
    },
    /// Other conductors.
    #[error("the probes were on {given}, and {card} is read {wanted}")]
    OtherPair {
        /// Under the probes.
        given: Pair,
        /// The reading that is asked for.
        card: String,
        /// The pair it is read between.
        wanted: Pair,
    },
    /// The pair is not said.
    #[error("it does not say which conductors the probes were on, and {card} may be any pair")]
    NoPair {
        /// The reading that is asked for.
        card: String,
    },
    /// Another range.
    #[error("it was read {given}, and {card} is read {wanted}")]
    OtherRange {
        /// As set.
        given: String,
        /// The reading that is asked for.
        card: String,
        /// As wanted.
        wanted: String,
    },
    /// Another place.
    #[error("it was read at {given}, and {card} is at hand")]
    OtherPlace {
        /// Where the instrument was told to be.
        given: String,
        /// The reading that is asked for.
        card: String,
    },
}
