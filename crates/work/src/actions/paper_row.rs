//! The row of a circuit on a schedule brought in from paper: its boxes, what may stand in each, and
//! where a number belongs that stands in the wrong one.

use crate::plan::sequence::{by_long_lead, circuit_steps};
use crate::plan::substitute::is_turned_over;
use proof_job::installation::{Circuit, Installation, Lines};
use proof_job::reading::entry::Field;
use proof_job::reading::keys::far_loop_key;
use proof_job::reading::{CurrentReadings, GoesTo, Key, Place, Stage, Step, Subject, Test, Value};
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::limits::edition::RcdSchool;
use proof_standard::limits::rcd::{HalfCycle, Multiple};
use proof_standard::shape::Shape;
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

/// A cell of the row.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum PaperBox {
    /// Ring, line, end to end.
    R1,
    /// Ring, neutral.
    Rn,
    /// Ring, CPC.
    R2,
    /// Highest R1+R2.
    R1R2,
    /// Highest R2, by long lead.
    LongLead,
    /// Insulation between live conductors.
    LiveLive,
    /// Insulation between a line of three and neutral; of a single phase it stands in the box before.
    LineNeutral,
    /// Insulation to earth.
    LiveEarth,
    /// Insulation between neutral and earth.
    NeutralEarth,
    /// Polarity.
    Polarity,
    /// Highest Zs.
    Zs,
    /// RCD at IΔn.
    RcdOne,
    /// RCD at 5 IΔn.
    RcdFive,
    /// RCD button.
    RcdButton,
    /// Functional tests.
    Functional,
}

impl PaperBox {
    /// In the order of the schedule.
    pub const ALL: [Self; 15] = [
        Self::R1,
        Self::Rn,
        Self::R2,
        Self::R1R2,
        Self::LongLead,
        Self::LiveLive,
        Self::LineNeutral,
        Self::LiveEarth,
        Self::NeutralEarth,
        Self::Polarity,
        Self::Zs,
        Self::RcdOne,
        Self::RcdFive,
        Self::RcdButton,
        Self::Functional,
    ];

    /// Key in forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::R1 => "r1",
            Self::Rn => "rn",
            Self::R2 => "r2",
            Self::R1R2 => "r1r2",
            Self::LongLead => "r2long",
            Self::LiveLive => "ll",
            Self::LineNeutral => "ln",
            Self::LiveEarth => "le",
            Self::NeutralEarth => "ne",
            Self::Polarity => "pol",
            Self::Zs => "zs",
            Self::RcdOne => "rcd1",
            Self::RcdFive => "rcd5",
            Self::RcdButton => "button",
            Self::Functional => "functional",
        }
    }

    /// Head of its column.
    pub const fn head(self) -> &'static str {
        match self {
            Self::R1 => "r1 Ω",
            Self::Rn => "rn Ω",
            Self::R2 => "r2 Ω",
            Self::R1R2 => "R1+R2 Ω",
            Self::LongLead => "R2 by long lead Ω",
            Self::LiveLive => "Ins. L–L, L–N MΩ",
            Self::LineNeutral => "Ins. L–N of three MΩ",
            Self::LiveEarth => "Ins. L–E MΩ",
            Self::NeutralEarth => "Ins. N–E MΩ",
            Self::Polarity => "Polarity",
            Self::Zs => "Zs Ω",
            Self::RcdOne => "RCD IΔn ms",
            Self::RcdFive => "RCD 5 IΔn ms",
            Self::RcdButton => "Button",
            Self::Functional => "Functional",
        }
    }

    /// Head of its column where there is little room; the unit is said above.
    pub const fn short(self) -> &'static str {
        match self {
            Self::R1 => "r1",
            Self::Rn => "rn",
            Self::R2 => "r2",
            Self::R1R2 => "R1+R2",
            Self::LongLead => "R2 long",
            Self::LiveLive => "L–L, L–N",
            Self::LineNeutral => "L–N",
            Self::LiveEarth => "L–E",
            Self::NeutralEarth => "N–E",
            Self::Polarity => "Pol.",
            Self::Zs => "Zs",
            Self::RcdOne => "RCD IΔn",
            Self::RcdFive => "RCD 5 IΔn",
            Self::RcdButton => "Button",
            Self::Functional => "Funct.",
        }
    }

    /// The boxes that a board has: those of three lines, of the long lead, of 5 IΔn only where one is taken.
    pub fn for_board(installation: &Installation, board: Uuid) -> Vec<Self> {
        let any = |wanted: &dyn Fn(&Circuit) -> bool| installation.circuits_on(board).any(wanted);
        let taken = |cell: &Self| match cell {
            Self::LineNeutral => any(&|circuit| circuit.lines == Lines::Three),
            Self::LongLead => any(&|circuit| by_long_lead(installation, circuit)),
            Self::RcdFive => installation.rcd_school() == RcdSchool::Series,
            _ => true,
        };
        Self::ALL.into_iter().filter(taken).collect()
    }

    /// The lines that a circuit has a row for each; a single phase has one row.
    pub fn rows(circuit: &Circuit) -> Vec<Option<Conductor>> {
        match circuit.lines {
            Lines::Single => vec![None],
            Lines::Three => circuit.line_conductors().to_vec(),
        }
    }

    /// Written once a circuit, in the row of its first line.
    const fn is_once(self) -> bool {
        !matches!(self, Self::R1R2 | Self::LongLead | Self::LiveLive | Self::LineNeutral | Self::LiveEarth | Self::Zs)
    }

    /// The pair that its number is read between, of one line of three.
    fn pair_on(self, line: Conductor) -> Option<Pair> {
        let (a, b) = match (self, line) {
            (Self::LiveLive, Conductor::L1) => (Conductor::L1, Conductor::L2),
            (Self::LiveLive, Conductor::L2) => (Conductor::L2, Conductor::L3),
            (Self::LiveLive, _) => (Conductor::L1, Conductor::L3),
            (Self::LineNeutral, _) => (line, Conductor::N),
            (Self::LiveEarth, _) => (line, Conductor::E),
            _ => return None,
        };
        Pair::new(a, b).ok()
    }

    /// The highest of all points, written once, of the circuit as a whole.
    fn for_whole_circuit(self, circuit: &Circuit, line: Option<Conductor>) -> Option<Step> {
        let (slug, test, stage, label, column) = match self {
            Self::R1R2 => ("r1r2", Test::R1R2, Stage::R1R2, "R1+R2, the highest", "R1+R2"),
            Self::LongLead => ("r2long", Test::R2, Stage::R2, "R2 by long lead, the highest", "R2"),
            _ => return None,
        };
        Some(Step {
            slug: slug.into(),
            key: Key::on_circuit(circuit.id, Place::Board, test).on_line(line),
            stage,
            label: label.into(),
            field: Field::Continuity,
            goes_to: GoesTo::Column(column),
            required: false,
            unused: false,
            test_voltage: None,
            open_board: false,
        })
    }

    /// The step that its number is a reading of.
    ///
    /// # Errors
    /// Why the circuit has no such box, with where a number would go.
    pub fn step(self, installation: &Installation, circuit: &Circuit, line: Option<Conductor>) -> Result<Step, NoBox> {
        let ring = circuit.shape == Shape::Ring;
        if !ring && matches!(self, Self::R1 | Self::Rn | Self::R2) {
            return Err(NoBox::EndsOfRadial);
        }
        let has_rcd = installation.rcd_for(circuit).is_some();
        if !has_rcd && matches!(self, Self::RcdOne | Self::RcdFive | Self::RcdButton) {
            return Err(NoBox::NoRcd);
        }
        match (circuit.lines, line) {
            (Lines::Single, _) if self == Self::LineNeutral => return Err(NoBox::InLiveLive),
            (Lines::Three, None) if !self.is_once() => return Err(NoBox::ThreeLines),
            (Lines::Three, Some(line)) if self.is_once() && circuit.line_conductors().first() != Some(&Some(line)) => {
                return Err(NoBox::Once);
            }
            _ => {}
        }
        if let Some(step) = self.for_whole_circuit(circuit, line) {
            let taken = self != Self::LongLead || by_long_lead(installation, circuit);
            return if taken { Ok(step) } else { Err(NoBox::NotTaken) };
        }
        let steps = circuit_steps(installation, circuit);
        let trip = |multiple| Test::RcdTrip { multiple, half_cycle: HalfCycle::Deg0 };
        let turned = |step: &Step| is_turned_over(step);
        let wanted = |step: &&Step| match self {
            Self::R1 => step.key.test == Test::RingEndToEnd { conductor: Conductor::L },
            Self::Rn => step.key.test == Test::RingEndToEnd { conductor: Conductor::N },
            Self::R2 => step.key.test == Test::RingEndToEnd { conductor: Conductor::E },
            _ if turned(step) => false,
            Self::LiveLive | Self::LineNeutral | Self::LiveEarth
                if line.is_some_and(|line| self.pair_on(line).is_some()) =>
            {
                let pair = line.and_then(|line| self.pair_on(line));
                step.key.test == Test::Insulation && step.key.pair == pair
                    || self == Self::LiveEarth && step.key.test == Test::InsulationJoined
            }
            Self::LiveLive => step.key.pair == Some(Pair::LINE_NEUTRAL) && step.key.test == Test::Insulation,
            Self::LiveEarth => {
                step.key.test == Test::InsulationJoined
                    || step.key.pair == Some(Pair::LINE_EARTH) && step.key.test == Test::Insulation
            }
            Self::NeutralEarth => step.key.pair == Some(Pair::NEUTRAL_EARTH) && step.key.test == Test::Insulation,
            Self::Functional => step.key.test == Test::Functional,
            Self::Polarity => step.key.test == Test::Polarity,
            Self::Zs => step.key == far_loop_key(circuit.id, line),
            Self::RcdOne => step.key.test == trip(Multiple::One),
            Self::RcdFive => step.key.test == trip(Multiple::Five),
            Self::RcdButton => step.key.test == Test::RcdButton,
            Self::R1R2 | Self::LongLead | Self::LineNeutral => false,
        };
        steps.into_iter().find(|step| wanted(&step)).ok_or(match self {
            Self::LiveLive | Self::LineNeutral | Self::NeutralEarth => NoBox::Joined,
            Self::Zs => NoBox::Summed,
            Self::RcdFive => NoBox::TimedOnce,
            _ => NoBox::NotTaken,
        })
    }
}

/// Whether the unit was written with the number: it is meant so.
fn with_unit(typed: &str) -> bool {
    typed.chars().any(|c| c.is_alphabetic() || c == 'Ω')
}

/// Why a value is no resistance of copper, wherever it is typed. With its unit it is taken.
pub fn no_copper(typed: &str, value: &Value) -> Option<NotInBox> {
    match value {
        Value::Number(number) if *number > MOST_COPPER && !with_unit(typed) => Some(NotInBox::NoCopper(*number)),
        Value::Over(over) => Some(NotInBox::OverRange(*over)),
        _ => None,
    }
}

/// Why a value is no loop of a supply with the distributor's earth, wherever it is typed.
pub fn no_loop(installation: &Installation, typed: &str, value: &Value) -> Option<NotInBox> {
    let own_earth = installation.supply.system == proof_standard::limits::supply::EarthingSystem::Tt;
    match value {
        Value::Number(number) if *number > MOST_LOOP && !own_earth && !with_unit(typed) => {
            Some(NotInBox::NoLoop(*number))
        }
        Value::Over(over) => Some(NotInBox::OverRange(*over)),
        _ => None,
    }
}

/// Why a circuit has no such box, with where a number would go.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum NoBox {
    /// The ends of a ring on a radial.
    #[error("it is a radial: its continuity goes in R1+R2")]
    EndsOfRadial,
    /// No residual device.
    #[error("no RCD covers it: name one under its details first")]
    NoRcd,
    /// Three lines in one box.
    #[error("it has three lines: each has a row of its own")]
    ThreeLines,
    /// Line and neutral of a single phase.
    #[error("of a single phase it goes in Ins. L–L, L–N")]
    InLiveLive,
    /// Once a circuit.
    #[error("once a circuit: in the row of its first line")]
    Once,
    /// Live conductors joined.
    #[error("something stays on it: line and neutral are read joined, to earth, in Ins. L–E")]
    Joined,
    /// Zs summed by house rule.
    #[error("by house rule its Zs is summed, not read")]
    Summed,
    /// Timed once.
    #[error("by this job's method RCDs are timed once, at IΔn")]
    TimedOnce,
    /// This job does not take it.
    #[error("this job does not take it")]
    NotTaken,
}

/// Why something does not belong in a box.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NotInBox {
    /// There is no such box.
    #[error("No such box: {0}.")]
    NoBox(#[from] NoBox),
    /// A number where right or wrong is asked.
    #[error("{} is no outcome: {}.", .0, belongs(*.0))]
    NoOutcome(Decimal),
    /// Too high for copper, Ω.
    #[error("{} Ω is no copper of a circuit: {}. Where the instrument shows it, write its unit: {} ohm.", .0, belongs(*.0), .0)]
    NoCopper(Decimal),
    /// Over range in a box of ohms.
    #[error(">{0} is how insulation over range is written: it belongs in Ins., MΩ. No path at all is written open.")]
    OverRange(Decimal),
    /// Too high for a loop, Ω.
    #[error("{} Ω is no loop of this supply: {}. Where the instrument shows it, write its unit: {} ohm.", .0, belongs(*.0), .0)]
    NoLoop(Decimal),
    /// Too fast for a trip, ms.
    #[error("No RCD trips in {0} ms: was it shown in seconds? Write ms. A loop or copper belongs in Zs or R1+R2, Ω.")]
    NoTrip(Decimal),
    /// Read point by point.
    #[error("Not taken here: read point by point: the highest of them.")]
    ReadPointByPoint,
}

/// Copper of a circuit and a loop of a supply with the distributor's earth are below these (common practice, no
/// source).
const MOST_COPPER: Decimal = dec!(20);

const MOST_LOOP: Decimal = dec!(20);

/// A number in a text, its decimal mark a point or a comma.
pub(super) fn number(text: &str) -> Option<Decimal> {
    text.replace(',', ".").parse().ok()
}

/// Where a number would belong by its size.
fn belongs(number: Decimal) -> &'static str {
    if number >= MOST_COPPER { "it belongs in Ins., MΩ, or in RCD, ms" } else { "it belongs in a box of ohms" }
}

/// Whether the box may be written here: not where points were read one by one, whose highest it is.
pub fn is_open(circuit: &Circuit, settled: &CurrentReadings<'_>, of: PaperBox) -> bool {
    let test = match of {
        PaperBox::R1R2 => Test::R1R2,
        PaperBox::LongLead => Test::R2,
        _ => return true,
    };
    !settled.standing_of(circuit.id).any(|reading| {
        reading.key.test == test
            && matches!(&reading.key.subject, Subject::Place { place, .. } if *place != Place::Board)
    })
}

/// The box that the head of a column means, as schedules write it.
pub fn by_head(head: &str) -> Option<PaperBox> {
    let text: String = head.to_lowercase().chars().filter(|c| c.is_alphanumeric() || "+-½".contains(*c)).collect();
    let has = |word: &str| text.contains(word);
    Some(match () {
        () if has("longlead") => PaperBox::LongLead,
        () if has("r1+r2") || has("r1r2") => PaperBox::R1R2,
        () if has("button") => PaperBox::RcdButton,
        () if has("5i") || has("fivetimes") || has("5x") || has("x5") => PaperBox::RcdFive,
        () if has("rcd") || has("trip") => PaperBox::RcdOne,
        () if has("zs") => PaperBox::Zs,
        () if has("pol") => PaperBox::Polarity,
        () if has("functional") || has("works") => PaperBox::Functional,
        () if has("ins") && (has("ofthree")) => PaperBox::LineNeutral,
        () if (has("ins") || has("mohm") || has("mω")) && (has("n-e") || has("ne") || has("neutral-earth")) => {
            PaperBox::NeutralEarth
        }
        () if (has("ins") || has("mohm") || has("mω"))
            && (has("l-e") || has("le") || has("earth") || has("live-e")) =>
        {
            PaperBox::LiveEarth
        }
        () if has("ins") || has("mohm") || has("mω") => PaperBox::LiveLive,
        () if has("rn") => PaperBox::Rn,
        () if has("r2") => PaperBox::R2,
        () if has("r1") => PaperBox::R1,
        () => return None,
    })
}
