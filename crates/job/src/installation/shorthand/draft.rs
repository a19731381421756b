//! What a typed line has said so far.

use crate::installation::{CableFamily, Feeds, Lines, PointId};
use proof_standard::limits::capacity::ReferenceMethod;
use proof_standard::limits::devices::{DeviceStandard, TripType};
use proof_standard::quantity::{Amps, Kiloamps, Metres, Milliamps, SquareMillimetres};
use proof_standard::shape::Shape;
use rust_decimal::Decimal;

/// What a line says.
#[derive(Debug, Clone, PartialEq)]
pub struct CircuitLine {
    /// Way of the board.
    pub way: String,
    /// Ring or radial.
    pub shape: Shape,
    /// What it feeds.
    pub feeds: Feeds,
    /// Single or three phase.
    pub lines: Lines,
    /// Product standard of its device.
    pub standard: DeviceStandard,
    /// Type of a breaker.
    pub trip: Option<TripType>,
    /// Rating, A.
    pub rating_a: Amps,
    /// Residual current of an RCBO, mA.
    pub idn_ma: Option<Milliamps>,
    /// Breaking capacity, kA.
    pub breaking_ka: Option<Kiloamps>,
    /// Line, neutral (none on a three-phase circuit without one), CPC.
    pub sizes: Sizes,
    /// Whole length.
    pub length: Option<Metres>,
    /// Legs in order.
    pub legs: Vec<Metres>,
    /// Number of points.
    pub points: u16,
    /// Reference method.
    pub method: Option<ReferenceMethod>,
    /// Kind of cable, where it is said.
    pub kind: Option<CableFamily>,
    /// Industrial outlets, and what they are rated at.
    pub industrial: Option<Amps>,
    /// Terminal of the neutral.
    pub neutral_terminal: String,
    /// Terminal of the CPC.
    pub cpc_terminal: String,
    /// Existing wiring.
    pub existing: bool,
    /// The points that are the work; empty: all.
    pub work: Vec<PointId>,
    /// What it is.
    pub description: String,
}

/// Line, neutral where there is one, CPC, mm².
pub(super) type Sizes = (SquareMillimetres, Option<SquareMillimetres>, SquareMillimetres);

/// What was not understood, word by word.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{}", .0.join(" "))]
pub struct NotUnderstood(pub Vec<String>);

#[derive(Default)]
pub(super) struct Draft {
    pub(super) way: Option<String>,
    pub(super) shape: Option<Shape>,
    pub(super) feeds: Option<Feeds>,
    pub(super) three: bool,
    pub(super) standard: Option<DeviceStandard>,
    pub(super) trip: Option<TripType>,
    pub(super) rating: Option<Decimal>,
    /// A rating without its device: `32A`.
    pub(super) bare_rating: Option<Decimal>,
    pub(super) rcbo: bool,
    pub(super) idn: Option<Decimal>,
    pub(super) breaking: Option<Decimal>,
    pub(super) sizes: Option<Sizes>,
    pub(super) length: Option<Metres>,
    pub(super) legs: Vec<Metres>,
    pub(super) points: Option<u16>,
    pub(super) method: Option<ReferenceMethod>,
    pub(super) kind: Option<CableFamily>,
    pub(super) industrial: Option<Amps>,
    pub(super) neutral: String,
    pub(super) cpc: String,
    pub(super) existing: bool,
    pub(super) work: Vec<PointId>,
    pub(super) quoted: Option<String>,
    /// Words of the name, each with whether it says something else as well.
    pub(super) left_over: Vec<(String, bool)>,
    pub(super) problems: Vec<String>,
}
