//! The order of the tests: which readings a circuit and the origin want, in the order they are
//! taken, and in which box of the schedule each goes.

mod live;
mod origin;

use crate::calc::insulation::pairs;
use crate::conductor::{Conductor, Pair};
use crate::entry::Field;
use crate::house_rules::{
    BondingBy, ContinuityMethod, NeutralEarth, NeutralReading, PolarityBy, PolarityWhen, TwinOutlets,
};
use crate::installation::{Accessory, Circuit, CircuitShape, Feeds, Installation, Lines, Point};
use crate::quantity::Volts;
use crate::reading::{Key, Method, Place, Settled, Subject, Test};
use crate::standard::insulation::{VoltageBand, test_voltage};
pub use live::proposed_place;
pub use origin::{board_steps, labels_wanted, origin_done, origin_steps};

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
            (Self::Polarity, _) => "Earned by R1+Rn and R1+R2 at every point, or seen at every terminal.",
            (Self::Zs, _) => "Everything put back and energised. Read at the far point at least.",
            (Self::Rcd, _) => "At the point nearest the board, loads off; then the button.",
            (Self::Functional, _) => "Work each switch, isolator, interlock and button; plug something in.",
            (Self::Origin, _) => "Ze with the earthing conductor off; fault current with it back on.",
            (Self::Bonding, _) => "One end off, isolated; copper to pipe beyond the clamp.",
        }
    }

    /// The usual caution, where the stage can hurt someone.
    pub const fn caution(self) -> Option<&'static str> {
        match self {
            Self::EndToEnd | Self::R1Rn | Self::R1R2 | Self::R2 => {
                Some("Dead test. Isolated, locked and proved dead first; every link comes off again.")
            }
            Self::Insulation => {
                Some("500 V d.c. is on the tips: hold probes by their handles, nobody on the circuit, electronics out.")
            }
            Self::Zs | Self::Rcd | Self::Functional => {
                Some("Live test. Covers on, GS 38 leads, no dead test outstanding, everything put back.")
            }
            Self::Origin => Some(
                "Live terminals. Isolate the installation before the earthing conductor comes off; refit it before writing anything down.",
            ),
            Self::Bonding => {
                Some("Never take a bond off until everything is isolated; refit it the moment the reading is taken.")
            }
            Self::Polarity => None,
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
    /// Insulation test voltage.
    pub test_voltage: Option<Volts>,
}

/// Key of the highest-wins R1+R2 and R1+Rn readings: at a point, on a line.
pub fn point_key(circuit: &Circuit, point: crate::reading::PointId, test: Test, line: Option<Conductor>) -> Key {
    Key::on_circuit(circuit.id, Place::Point { point }, test).on_line(line)
}

/// Key of polarity as seen by eye.
pub const fn polarity_key(circuit: uuid::Uuid) -> Key {
    let mut key = Key::on_circuit(circuit, Place::Board, Test::Polarity);
    key.method = Method::ByEye;
    key
}

/// Conductors of a circuit, lines first, earth last.
pub const fn conductors(circuit: &Circuit) -> &'static [Conductor] {
    if circuit.has_neutral() {
        conductors_of(circuit.lines)
    } else {
        &[Conductor::L1, Conductor::L2, Conductor::L3, Conductor::E]
    }
}

/// Conductors of so many lines, lines first, earth last.
pub const fn conductors_of(lines: Lines) -> &'static [Conductor] {
    match lines {
        Lines::Single => &[Conductor::L, Conductor::N, Conductor::E],
        Lines::Three => &[Conductor::L1, Conductor::L2, Conductor::L3, Conductor::N, Conductor::E],
    }
}

/// Whether a radial is read by long lead instead of by a link.
pub fn by_long_lead(installation: &Installation, circuit: &Circuit) -> bool {
    circuit.shape == CircuitShape::Radial && installation.house_rules.continuity == ContinuityMethod::R2
}

/// Whether line–neutral is read at the points.
fn neutral_is_read(installation: &Installation, circuit: &Circuit) -> bool {
    let rules = &installation.house_rules;
    circuit.has_neutral()
        && !by_long_lead(installation, circuit)
        && (rules.neutral_reading == NeutralReading::Noted || rules.polarity_by == PolarityBy::BothPairs)
}

impl Step {
    fn new(slug: String, key: Key, stage: Stage, label: String, field: Field, goes_to: GoesTo) -> Self {
        Self { slug, key, stage, label, field, goes_to, required: true, test_voltage: None }
    }

    fn optional(mut self) -> Self {
        self.required = false;
        self
    }

    /// Whether it should read open: a switch in its open position.
    pub fn expects_open(&self) -> bool {
        matches!(&self.key.subject, Subject::Place { place, .. } if place.expects_open())
    }
}

/// The places of a point that a walk reads, with what is added to slug and label.
fn places(installation: &Installation, point: &Point, test: Test) -> Vec<(Place, String, String)> {
    let id = point.id;
    let switch = |position: &str| Place::Switch { point: id, position: position.to_owned() };
    let slugged = |position: &str| format!("-{}", position.replace(' ', ""));
    if point.accessory.switches() {
        if test == Test::R1Rn {
            return Vec::new();
        }
        let mut all: Vec<_> =
            point.accessory.routes().iter().map(|route| (switch(route), slugged(route), format!(" {route}"))).collect();
        if test == Test::R1R2 {
            all.push((switch("open"), slugged("open"), " open".to_owned()));
        } else {
            // By long lead the CPC of the switch box is read once.
            all.truncate(1);
        }
        return all;
    }
    let mut all = vec![(Place::Point { point: id }, String::new(), String::new())];
    let twin = point.accessory == Accessory::Twin;
    let rule = installation.house_rules.twin_outlets;
    if twin && rule != TwinOutlets::One {
        all.push((Place::Outlet { point: id, outlet: 2 }, "-o2".to_owned(), " outlet 2".to_owned()));
    }
    if twin && rule == TwinOutlets::BothAndSwitches && test == Test::R1R2 {
        for position in ["off 1", "off 2"] {
            all.push((switch(position), slugged(position), format!(" {position}")));
        }
    }
    if !point.metalwork.is_empty() && test != Test::R1Rn {
        let place = Place::Metalwork { point: id, name: point.metalwork.clone() };
        all.push((place, "-metal".to_owned(), format!(" {}", point.metalwork)));
    }
    all
}

fn walk(installation: &Installation, circuit: &Circuit, test: Test, steps: &mut Vec<Step>) {
    let (stage, prefix, goes_to) = match test {
        Test::R1Rn => (Stage::R1Rn, "rn", GoesTo::NotOnSchedule("polarity and remarks")),
        Test::R2 => (Stage::R2, "r2", GoesTo::Extreme("R2 (the highest of all points)")),
        _ => (Stage::R1R2, "r2", GoesTo::Extreme("R1+R2 (the highest of all points)")),
    };
    if circuit.shape == CircuitShape::Ring {
        let other = if test == Test::R1Rn { Pair::LINE_NEUTRAL } else { Pair::LINE_EARTH };
        let key = Key::on_circuit(circuit.id, Place::Board, Test::RingBoardCheck).between(other);
        let goes_to = GoesTo::NotOnSchedule("it proves the cross before the walk");
        let label = "board".to_owned();
        steps.push(Step::new(format!("{prefix}-board"), key, stage, label, Field::Continuity, goes_to).optional());
    }
    let lines = if test == Test::R2 { &[None] } else { circuit.line_conductors() };
    for point in &circuit.points {
        for (place, slug, said) in places(installation, point, test) {
            for &line in lines {
                let suffix = line.map(|line| format!("-{line}")).unwrap_or_default();
                let named = line.map(|line| format!(" {line}")).unwrap_or_default();
                let slug = format!("{prefix}-p{}{slug}{suffix}", point.id.0);
                let key = Key::on_circuit(circuit.id, place.clone(), test).on_line(line);
                let label = format!("{}{said}{named}", point.name);
                let step = Step::new(slug, key, stage, label, Field::Continuity, goes_to);
                steps.push(if test == Test::R1Rn { step.optional() } else { step });
            }
        }
    }
}

fn insulation(installation: &Installation, circuit: &Circuit, steps: &mut Vec<Step>) {
    let at_board = |test: Test| Key::on_circuit(circuit.id, Place::Board, test);
    let joined = circuit.has_what_stays();
    if joined {
        let goes_to = GoesTo::Extreme("insulation live–earth: line and neutral joined, since something stays");
        let label = "live joined–E".to_owned();
        let key = at_board(Test::InsulationJoined);
        let mut step = Step::new("ir-joined".into(), key, Stage::Insulation, label, Field::Insulation, goes_to);
        step.test_voltage = Some(test_voltage(VoltageBand::UpTo500));
        steps.push(step);
        return;
    }
    for (a, b) in pairs(conductors(circuit)) {
        let Ok(pair) = Pair::new(a, b) else { continue };
        let neutral_earth = pair == Pair::NEUTRAL_EARTH;
        if neutral_earth && installation.house_rules.neutral_earth == NeutralEarth::Skipped {
            continue;
        }
        let key = at_board(Test::Insulation).between(pair);
        let slug = format!("ir-{a}-{b}").to_lowercase();
        let mut one =
            Step::new(slug, key, Stage::Insulation, format!("{pair}"), Field::Insulation, insulation_column(pair));
        one.test_voltage = Some(test_voltage(VoltageBand::UpTo500));
        one.required = !neutral_earth;
        steps.push(one);
    }
}

/// Where the insulation of a pair goes.
pub const fn insulation_column(pair: Pair) -> GoesTo {
    match pair.both() {
        (Conductor::N, Conductor::E) => GoesTo::NotOnSchedule("kept: many schedules have no box for it"),
        (_, Conductor::E) => GoesTo::Extreme("insulation live–earth (the lowest)"),
        _ => GoesTo::Extreme("insulation live–live (the lowest)"),
    }
}

/// The steps of a circuit in test order.
pub fn circuit_steps(installation: &Installation, circuit: &Circuit) -> Vec<Step> {
    steps_of(installation, circuit, true)
}

/// The same without Zs at each point where none was read: what a review looks at.
pub fn reviewed_steps(installation: &Installation, circuit: &Circuit, settled: &Settled<'_>) -> Vec<Step> {
    let at_point = |reading: &crate::reading::Reading| {
        reading.key.test == Test::Zs && reading.key.subject.place() != Some(&Place::Board)
    };
    steps_of(installation, circuit, settled.standing_of(circuit.id).any(at_point))
}

fn steps_of(installation: &Installation, circuit: &Circuit, zs_at_points: bool) -> Vec<Step> {
    let rules = &installation.house_rules;
    let mut steps = Vec::with_capacity(2 * circuit.points.len() + 16);
    let at_board = |test: Test| Key::on_circuit(circuit.id, Place::Board, test);
    if circuit.shape == CircuitShape::Ring {
        for (name, conductor, column) in [
            ("r1", Conductor::L, "ring r1 (line)"),
            ("rn", Conductor::N, "ring rn (neutral)"),
            ("r2", Conductor::E, "ring r2 (CPC)"),
        ] {
            let key = at_board(Test::RingEndToEnd { conductor });
            let goes_to = GoesTo::Column(column);
            steps.push(Step::new(name.into(), key, Stage::EndToEnd, name.into(), Field::Continuity, goes_to));
        }
    }
    if neutral_is_read(installation, circuit) {
        walk(installation, circuit, Test::R1Rn, &mut steps);
    }
    let long_lead = by_long_lead(installation, circuit);
    walk(installation, circuit, if long_lead { Test::R2 } else { Test::R1R2 }, &mut steps);
    let mut polarity = Step::new(
        "polarity".into(),
        polarity_key(circuit.id),
        Stage::Polarity,
        "Polarity".into(),
        Field::Outcome,
        GoesTo::Column("polarity"),
    );
    // By instrument it falls out of the walk; see [`crate::polarity`].
    polarity.required = long_lead || rules.polarity_by == PolarityBy::Eye;
    if rules.polarity_when == PolarityWhen::WithContinuity {
        steps.push(polarity);
        insulation(installation, circuit, &mut steps);
    } else {
        insulation(installation, circuit, &mut steps);
        steps.push(polarity);
    }
    live::live_steps(installation, circuit, zs_at_points, &mut steps);
    steps
}

/// Key of a bond's continuity, measured or seen.
pub const fn bond_key(bond: uuid::Uuid, by: BondingBy) -> Key {
    Key {
        subject: Subject::Bond { bond },
        test: Test::BondContinuity,
        pair: None,
        line: None,
        method: bonding_method(by),
    }
}

/// Key of the earthing conductor's continuity, measured or seen.
pub const fn earthing_key(by: BondingBy) -> Key {
    let mut key = Key::of_supply(Test::EarthingConductor);
    key.method = bonding_method(by);
    key
}

const fn bonding_method(by: BondingBy) -> Method {
    match by {
        BondingBy::Measured => Method::Instrument,
        BondingBy::Seen => Method::ByEye,
    }
}

/// Whether a circuit feeds something that an RCD should cover as additional protection
/// (sockets up to 32 A; lighting in dwellings: BS 7671 411.3.3 and 411.3.4, from memory).
pub fn wants_additional_protection(circuit: &Circuit) -> bool {
    circuit.feeds == Feeds::Sockets && circuit.device.rating_a <= rust_decimal::dec!(32)
}

#[cfg(test)]
mod tests;
