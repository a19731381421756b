//! The order of the tests: which readings a circuit and the origin want, in the order they are
//! taken, and in which box of the schedule each goes.

use crate::calc::insulation::pairs;
use crate::conductor::{Conductor, Pair};
use crate::entry::Field;
use crate::house_rules::{NeutralEarth, NeutralReading};
use crate::installation::{Circuit, CircuitShape, Feeds, Installation, Lines, ZsMethod};
use crate::quantity::Volts;
use crate::quantity::approximate;
use crate::reading::{Key, Method, Place, Subject, Test};
use crate::standard::edition::RcdSchool;
use crate::standard::insulation::{VoltageBand, test_voltage};
use crate::standard::rcd::{ADDITIONAL_PROTECTION, HalfCycle, Multiple};

/// A stretch of the test order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Stage {
    /// Ring, between the ends.
    EndToEnd,
    /// Line and neutral linked.
    R1Rn,
    /// Line and CPC linked.
    R1R2,
    /// Insulation.
    Insulation,
    /// Polarity.
    Polarity,
    /// Live: loop impedance.
    Zs,
    /// Live: RCD.
    Rcd,
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
            Self::Insulation => "Insulation resistance",
            Self::Polarity => "Polarity",
            Self::Zs => "Earth fault loop, Zs",
            Self::Rcd => "RCD",
            Self::Origin => "At the origin",
            Self::Bonding => "Main bonding",
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
            (Self::Insulation, _) => "Links off, CPC back on the bar, loads out, switches on.",
            (Self::Polarity, _) => "Earned by R1+Rn and R1+R2 at every point, or seen at every terminal.",
            (Self::Zs, _) => "Everything put back and energised. Read at the far point at least.",
            (Self::Rcd, _) => "At the point nearest the board, loads off; then the button.",
            (Self::Origin, _) => "Ze with the earthing conductor off; fault current with it back on.",
            (Self::Bonding, _) => "One end off, isolated; copper to pipe beyond the clamp.",
        }
    }

    /// The usual caution, where the stage can hurt someone.
    pub const fn caution(self) -> Option<&'static str> {
        match self {
            Self::EndToEnd | Self::R1Rn | Self::R1R2 => {
                Some("Dead test. Isolated, locked and proved dead first; every link comes off again.")
            }
            Self::Insulation => {
                Some("500 V d.c. is on the tips: hold probes by their handles, nobody on the circuit, electronics out.")
            }
            Self::Zs | Self::Rcd => {
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

/// Conductors of a circuit, lines first, earth last.
pub fn conductors(circuit: &Circuit) -> &'static [Conductor] {
    match circuit.lines {
        Lines::Single => &[Conductor::L, Conductor::N, Conductor::E],
        Lines::Three => &[Conductor::L1, Conductor::L2, Conductor::L3, Conductor::N, Conductor::E],
    }
}

/// The steps of a circuit in test order.
pub fn circuit_steps(installation: &Installation, circuit: &Circuit) -> Vec<Step> {
    let mut steps = Vec::with_capacity(2 * circuit.points.len() + 16);
    let at_board = |test: Test| Key::on_circuit(circuit.id, Place::Board, test);
    let step = |slug: String, key: Key, stage: Stage, label: String, field: Field, goes_to: GoesTo| Step {
        slug,
        key,
        stage,
        label,
        field,
        goes_to,
        required: true,
        test_voltage: None,
    };
    if circuit.shape == CircuitShape::Ring {
        for (name, conductor, column) in [
            ("r1", Conductor::L, "ring r1 (line)"),
            ("rn", Conductor::N, "ring rn (neutral)"),
            ("r2", Conductor::E, "ring r2 (CPC)"),
        ] {
            let key = at_board(Test::RingEndToEnd { conductor });
            steps.push(step(name.into(), key, Stage::EndToEnd, name.into(), Field::Continuity, GoesTo::Column(column)));
        }
    }
    for (test, stage, prefix, skip) in [
        (Test::R1Rn, Stage::R1Rn, "rn", installation.house_rules.neutral_reading == NeutralReading::Skipped),
        (Test::R1R2, Stage::R1R2, "r2", false),
    ] {
        if skip {
            continue;
        }
        for point in &circuit.points {
            for &line in circuit.line_conductors() {
                let suffix = line.map(|line| format!("-{line}")).unwrap_or_default();
                let goes_to = if test == Test::R1R2 {
                    GoesTo::Extreme("R1+R2 (the highest of all points)")
                } else {
                    GoesTo::NotOnSchedule("polarity and remarks")
                };
                let label = line.map_or_else(|| point.name.clone(), |line| format!("{} {line}", point.name));
                let key = point_key(circuit, point.id, test, line);
                let slug = format!("{prefix}-p{}{suffix}", point.id.0);
                let mut one = step(slug, key, stage, label, Field::Continuity, goes_to);
                one.required = test == Test::R1R2;
                steps.push(one);
            }
        }
    }
    for (a, b) in pairs(conductors(circuit)) {
        let Ok(pair) = Pair::new(a, b) else { continue };
        let neutral_earth = pair == Pair::NEUTRAL_EARTH;
        if neutral_earth && installation.house_rules.neutral_earth == NeutralEarth::Skipped {
            continue;
        }
        let goes_to = match pair.both() {
            (Conductor::N, Conductor::E) => GoesTo::NotOnSchedule("kept: many schedules have no box for it"),
            (_, Conductor::E) => GoesTo::Extreme("insulation live–earth (the lowest)"),
            _ => GoesTo::Extreme("insulation live–live (the lowest)"),
        };
        let slug = format!("ir-{a}-{b}").to_lowercase();
        let key = at_board(Test::Insulation).between(pair);
        let mut one = step(slug, key, Stage::Insulation, format!("{pair}"), Field::Insulation, goes_to);
        one.test_voltage = Some(test_voltage(VoltageBand::UpTo500));
        one.required = !neutral_earth;
        steps.push(one);
    }
    steps.push(step(
        "polarity".into(),
        at_board(Test::Polarity),
        Stage::Polarity,
        "Polarity".into(),
        Field::Outcome,
        GoesTo::Column("polarity"),
    ));
    if installation.house_rules.zs_method == ZsMethod::Measured {
        for &line in circuit.line_conductors() {
            let suffix = line.map(|line| format!("-{line}").to_lowercase()).unwrap_or_default();
            let label = line.map_or_else(|| "Zs, far point".to_owned(), |line| format!("Zs {line}, far point"));
            let key = at_board(Test::Zs).on_line(line);
            steps.push(step(
                format!("zs{suffix}"),
                key,
                Stage::Zs,
                label,
                Field::Loop,
                GoesTo::Extreme("Zs (the highest)"),
            ));
        }
    }
    if let Some(rcd) = installation.rcd_of(circuit) {
        for (slug, label, multiple, half_cycle, required) in
            rcd_series(installation.rcd_school(), approximate(rcd.idn_ma))
        {
            let goes_to = match multiple {
                Multiple::Half => GoesTo::NotOnSchedule("it must not trip"),
                Multiple::One => GoesTo::Extreme("RCD time at IΔn (the slower)"),
                Multiple::Five => GoesTo::Extreme("RCD time at 5 IΔn (the slower)"),
            };
            let key = at_board(Test::RcdTrip { multiple, half_cycle });
            let mut one = step(slug.into(), key, Stage::Rcd, label.into(), Field::TripTime, goes_to);
            one.required = required;
            steps.push(one);
        }
        steps.push(step(
            "rcd-button".into(),
            at_board(Test::RcdButton),
            Stage::Rcd,
            "Test button".into(),
            Field::Outcome,
            GoesTo::Column("RCD test button"),
        ));
    }
    steps
}

type RcdStep = (&'static str, &'static str, Multiple, HalfCycle, bool);

fn rcd_series(school: RcdSchool, idn_ma: f64) -> Vec<RcdStep> {
    use HalfCycle::{Deg0, Deg180};
    match school {
        RcdSchool::Single => vec![("rcd-1", "Trip time at IΔn", Multiple::One, Deg0, true)],
        RcdSchool::Series => {
            let mut all = vec![
                ("rcd-half-0", "½ IΔn at 0°", Multiple::Half, Deg0, true),
                ("rcd-half-180", "½ IΔn at 180°", Multiple::Half, Deg180, true),
                ("rcd-1", "IΔn at 0°", Multiple::One, Deg0, true),
                ("rcd-1-180", "IΔn at 180°", Multiple::One, Deg180, true),
            ];
            if idn_ma <= ADDITIONAL_PROTECTION.get() {
                all.push(("rcd-5-0", "5 IΔn at 0°", Multiple::Five, Deg0, true));
                all.push(("rcd-5-180", "5 IΔn at 180°", Multiple::Five, Deg180, true));
            }
            all
        }
    }
}

/// Key of Ze.
pub const fn ze_key() -> Key {
    Key::of_supply(Test::Ze)
}

/// Key of the fault current between a pair at the origin.
pub const fn fault_current_key(pair: Pair) -> Key {
    Key::of_supply(Test::FaultCurrent).between(pair)
}

/// Key of a bond's continuity.
pub const fn bond_key(bond: uuid::Uuid) -> Key {
    Key {
        subject: Subject::Bond { bond },
        test: Test::BondContinuity,
        pair: None,
        line: None,
        method: Method::Instrument,
    }
}

/// The steps at the origin: bonding dead; supply polarity, Ze and fault current live.
pub fn origin_steps(installation: &Installation) -> Vec<Step> {
    let step = |slug: String, key: Key, stage: Stage, label: String, field: Field, place: &'static str| Step {
        slug,
        key,
        stage,
        label,
        field,
        goes_to: GoesTo::Particulars(place),
        required: true,
        test_voltage: None,
    };
    let mut steps: Vec<Step> = installation
        .supply
        .bonds
        .iter()
        .map(|bond| {
            let slug = format!("bond-{}", bond.id.simple());
            step(
                slug,
                bond_key(bond.id),
                Stage::Bonding,
                format!("Bond to {}", bond.to),
                Field::Continuity,
                "bonding continuity",
            )
        })
        .collect();
    steps.push(step(
        "supply-polarity".into(),
        Key::of_supply(Test::SupplyPolarity),
        Stage::Origin,
        "Polarity of the supply".into(),
        Field::Outcome,
        "supply polarity confirmed",
    ));
    steps.push(step("ze".into(), ze_key(), Stage::Origin, "Ze".into(), Field::Loop, "external loop impedance Ze"));
    for (slug, label, pair) in [
        ("pfc-ln", "Fault current line–neutral", Pair::LINE_NEUTRAL),
        ("pfc-le", "Fault current line–earth", Pair::LINE_EARTH),
    ] {
        steps.push(step(
            slug.into(),
            fault_current_key(pair),
            Stage::Origin,
            label.into(),
            Field::FaultCurrent,
            "prospective fault current, the larger",
        ));
    }
    steps
}

/// Whether a circuit feeds something that an RCD should cover as additional protection
/// (sockets up to 32 A; lighting in dwellings: BS 7671 411.3.3 and 411.3.4, from memory).
pub fn wants_additional_protection(circuit: &Circuit) -> bool {
    circuit.feeds == Feeds::Sockets && circuit.device.rating_a <= rust_decimal::dec!(32)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench::demo;

    #[test]
    fn slugs_are_unique_and_the_order_is_dead_before_live() {
        for job in demo::jobs() {
            for circuit in &job.installation.circuits {
                let steps = circuit_steps(&job.installation, circuit);
                let mut slugs: Vec<_> = steps.iter().map(|step| step.slug.clone()).collect();
                slugs.sort();
                slugs.dedup();
                assert_eq!(slugs.len(), steps.len());
                assert!(steps.windows(2).all(|w| w[0].stage <= w[1].stage));
            }
        }
    }

    #[test]
    fn the_older_edition_asks_for_the_series() {
        let mut installation = demo::jobs()[0].installation.clone();
        let circuit = installation.circuits.iter().find(|c| c.rcd.is_some()).unwrap().clone();
        let trips = |i: &Installation| circuit_steps(i, &circuit).iter().filter(|s| s.field == Field::TripTime).count();
        assert_eq!(trips(&installation), 1);
        installation.edition = crate::standard::EditionId::Bs7671Y2008A3;
        assert_eq!(trips(&installation), 6);
    }

    #[test]
    fn house_rules_change_the_plan() {
        let mut installation = demo::jobs()[0].installation.clone();
        let circuit = installation.circuits[0].clone();
        let before = circuit_steps(&installation, &circuit).len();
        installation.house_rules.neutral_reading = NeutralReading::Skipped;
        installation.house_rules.neutral_earth = NeutralEarth::Skipped;
        installation.house_rules.zs_method = ZsMethod::Summed;
        assert_eq!(circuit_steps(&installation, &circuit).len(), before - circuit.points.len() - 2);
    }

    #[test]
    fn three_phase_has_ten_pairs() {
        let installation = Installation::default();
        let mut circuit = demo::jobs()[0].installation.circuits[0].clone();
        circuit.lines = Lines::Three;
        circuit.shape = CircuitShape::Radial;
        let steps = circuit_steps(&installation, &circuit);
        assert_eq!(steps.iter().filter(|step| step.stage == Stage::Insulation).count(), 10);
    }
}
