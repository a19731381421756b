//! The order of the tests: which readings a circuit and the origin want, in the order they are
//! taken, and in which box of the schedule each goes.

mod live;
mod origin;
mod unasked;

pub use live::{at_power, proposed_place};
pub use origin::{board_steps, feeder_steps, labels_wanted, origin_steps};
pub use unasked::{unasked_at_board, unasked_at_origin, unasked_steps, with_unasked};

use proof_job::installation::switching::{Switching, switchings};
use proof_job::installation::{Accessory, Circuit, Installation, Lines, Point, PointId, Position, conductors};
use proof_job::reading::entry::Field;
use proof_job::reading::keys::{followed_key, polarity_at_points_key, polarity_key, turned_over};
use proof_job::reading::{CurrentReadings, GoesTo, Key, Place, Stage, Step, Test, WorkedOut};
use proof_standard::calc::insulation::pairs;
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::house_rules::{
    ContinuityMethod, NeutralEarth, NeutralReading, PolarityBy, PolarityWhen, SequenceBy, SwitchedAt, TwinOutlets,
};
use proof_standard::limits::insulation::test_voltage;
use proof_standard::shape::Shape;
use std::sync::Arc;

/// Whether a radial is read by long lead instead of by a link.
pub fn by_long_lead(installation: &Installation, circuit: &Circuit) -> bool {
    circuit.shape == Shape::Radial && installation.house_rules.continuity == ContinuityMethod::R2
}

/// Whether line–neutral is read at the points.
fn neutral_is_read(installation: &Installation, circuit: &Circuit) -> bool {
    let rules = &installation.house_rules;
    circuit.has_neutral()
        && !by_long_lead(installation, circuit)
        && (rules.neutral_reading == NeutralReading::Noted || rules.polarity_by == PolarityBy::BothPairs)
}

/// The places of a point that a walk reads, with what is added to slug and label.
fn places(installation: &Installation, point: &Point, test: Test) -> Vec<(Place, String, String)> {
    let id = point.id;
    let switch = |position: &Position| {
        let place = Place::Switch { point: id, position: position.clone() };
        (place, format!("-{}", position.to_string().replace(' ', "")), format!(" {position}"))
    };
    if point.accessory.switches() && test == Test::R1Rn {
        return Vec::new();
    }
    if point.accessory.opens() {
        let mut all = vec![switch(&Position::On)];
        // By long lead the CPC of the switch box is read once.
        all.extend((test == Test::R1R2).then(|| switch(&Position::Open)));
        return all;
    }
    let mut all = vec![(Place::Point { point: id }, String::new(), String::new())];
    let twin = point.accessory == Accessory::Twin;
    let rule = installation.house_rules.twin_outlets;
    if twin && rule != TwinOutlets::One {
        all.push((Place::Outlet { point: id, outlet: 2 }, "-o2".to_owned(), " outlet 2".to_owned()));
    }
    if twin && rule == TwinOutlets::BothAndSwitches && test == Test::R1R2 {
        all.extend([1, 2].map(|outlet| switch(&Position::OutletOff(outlet))));
    }
    if !point.metalwork.is_empty() && test != Test::R1Rn {
        let place = Place::Metalwork { point: id, name: point.metalwork.clone() };
        all.push((place, "-metal".to_owned(), format!(" {}", point.metalwork)));
    }
    all
}

/// Where the combinations of a two-way switching are read: at its first lamp, or at its last switch.
fn read_combinations_at(installation: &Installation, switching: &Switching) -> Option<PointId> {
    let lamp = switching.lamps.first().filter(|_| installation.house_rules.switched_at == SwitchedAt::Lamp);
    lamp.or(switching.switches.last()).copied()
}

/// Every combination of the two-way switchings that are read at a point, beside the first.
fn combinations(
    installation: &Installation,
    circuit: &Circuit,
    switchings: &[Switching],
    point: &Point,
) -> Vec<(Place, String, String)> {
    let name = |id: &PointId| circuit.point(*id).map_or("", |point| point.name.as_str());
    let here = switchings.iter().filter(|one| read_combinations_at(installation, one) == Some(point.id));
    here.flat_map(Switching::throws)
        .map(|thrown| {
            let numbers = thrown.iter().map(|id| id.0.to_string()).collect::<Vec<_>>().join("-");
            let names = thrown.iter().map(name).collect::<Vec<_>>().join(" and ");
            let place = Place::Switched { point: point.id, thrown };
            (place, format!("-t-{numbers}"), format!(", {names} thrown"))
        })
        .collect()
}

fn walk(installation: &Installation, circuit: &Circuit, test: Test, steps: &mut Vec<Step>) {
    let (stage, prefix, goes_to) = match test {
        Test::R1Rn => (Stage::R1Rn, "rn", GoesTo::NotOnSchedule("polarity and remarks")),
        Test::R2 => (Stage::R2, "r2", GoesTo::Extreme("R2 (the highest of all points)")),
        _ => (Stage::R1R2, "r2", GoesTo::Extreme("R1+R2 (the highest of all points)")),
    };
    if circuit.shape == Shape::Ring {
        let other = if test == Test::R1Rn { Pair::LINE_NEUTRAL } else { Pair::LINE_EARTH };
        let key = Key::on_circuit(circuit.id, Place::Board, Test::RingBoardCheck).between(other);
        let goes_to = GoesTo::NotOnSchedule("it proves the cross before the walk");
        let label = "board".to_owned();
        steps.push(Step::new(format!("{prefix}-board"), key, stage, label, Field::Continuity, goes_to).optional());
    }
    let lines = if test == Test::R2 { &[None] } else { circuit.line_conductors() };
    let switched = if test == Test::R1R2 { switchings(circuit) } else { Vec::new() };
    // Of three lines every point is walked with the link on one of them, then it is moved to the next.
    for &line in lines {
        for point in &circuit.points {
            let thrown = combinations(installation, circuit, &switched, point);
            for (place, slug, said) in places(installation, point, test).into_iter().chain(thrown) {
                let suffix = line.map(|line| format!("-{line}")).unwrap_or_default();
                let named = line.map(|line| format!(" {line}")).unwrap_or_default();
                let slug = format!("{prefix}-p{}{slug}{suffix}", point.id.0);
                let key = Key::on_circuit(circuit.id, place, test).on_line(line);
                let label = format!("{}{said}{named}", point.name);
                let step = Step::new(slug, key, stage, label, Field::Continuity, goes_to);
                steps.push(if test == Test::R1Rn { step.optional() } else { step });
            }
        }
    }
}

pub(crate) fn insulation(installation: &Installation, circuit: &Circuit, steps: &mut Vec<Step>) {
    let at = |place: Place, test: Test| Key::on_circuit(circuit.id, place, test);
    let volts = *test_voltage(circuit.band.row());
    let stays = circuit.has_fixed_load();
    let school = installation.house_rules.neutral_earth == NeutralEarth::Joined && circuit.has_neutral();
    let turned = turned_over(circuit);
    let places =
        || std::iter::once((Place::Board, "", "")).chain(turned.clone().map(|place| (place, "-over", TURNED_OVER)));
    let mut add = |slug: String, key: Key, label: String, goes_to: GoesTo, required: bool| {
        let mut step = Step::new(slug, key, Stage::Insulation, label, Field::Insulation, goes_to);
        (step.test_voltage, step.required) = (Some(volts), required);
        steps.push(step);
    };
    if stays || school {
        let goes_to = GoesTo::Extreme(if stays {
            "insulation live–earth: line and neutral joined, since something stays"
        } else {
            "insulation live–earth: line and neutral joined"
        });
        for (place, slug, said) in places() {
            let key = at(place, Test::InsulationJoined);
            add(format!("ir-joined{slug}"), key, format!("live joined–E{said}"), goes_to, true);
        }
    }
    if stays {
        return;
    }
    for (a, b) in pairs(conductors(circuit)) {
        let Ok(pair) = Pair::new(a, b) else { continue };
        // Joined was the first look; apart says which conductor it is.
        let required = !(school && pair.is_to_earth());
        let to_line = !matches!(pair.both().0, Conductor::N | Conductor::E);
        for (place, slug, said) in places().filter(|(place, ..)| *place == Place::Board || to_line && required) {
            let key = at(place, Test::Insulation).between(pair);
            let slug = format!("ir-{a}-{b}{slug}").to_lowercase();
            add(slug, key, format!("{pair}{said}"), insulation_column(pair), required);
        }
    }
}

/// Said of the second reading of a circuit with two-way switches.
const TURNED_OVER: &str = ", a two-way switch turned over";

/// Where the insulation of a pair goes.
pub const fn insulation_column(pair: Pair) -> GoesTo {
    match pair.both() {
        (_, Conductor::E) => GoesTo::Extreme("insulation live–earth (the lowest)"),
        _ => GoesTo::Extreme("insulation live–live (the lowest)"),
    }
}

/// The steps of a circuit in test order.
pub fn circuit_steps(installation: &Installation, circuit: &Circuit) -> Vec<Step> {
    steps_of(installation, circuit, true)
}

/// The steps of a circuit, each to be held by many.
#[derive(Debug)]
pub struct Steps(Vec<Arc<Step>>);

impl WorkedOut for Steps {
    const DESCRIBED: bool = true;
}

impl std::ops::Deref for Steps {
    type Target = [Arc<Step>];

    fn deref(&self) -> &Self::Target {
        &self.0
    }
}

/// The steps of a circuit in test order, worked out once where the job is kept.
pub fn steps_kept(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Arc<Steps> {
    let work = || Steps(circuit_steps(installation, circuit).into_iter().map(Arc::new).collect());
    settled.cached(installation, circuit, work)
}

/// The same without Zs at each point where none was read, and with what was read and is no longer asked for: what a
/// review looks at.
pub fn reviewed_steps(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Vec<Step> {
    let at_point = |reading: &proof_job::reading::Reading| {
        reading.key.test == Test::Zs && reading.key.subject.place() != Some(&Place::Board)
    };
    let steps = steps_of(installation, circuit, settled.standing_of(circuit.id).any(at_point));
    with_unasked(steps, circuit, settled)
}

/// The steps of a circuit in test order, with those that only its readings stand for: what a page shows.
pub fn shown_steps(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Vec<Step> {
    with_unasked(circuit_steps(installation, circuit), circuit, settled)
}

fn steps_of(installation: &Installation, circuit: &Circuit, zs_at_points: bool) -> Vec<Step> {
    let mut steps = tested_steps(installation, circuit, zs_at_points);
    let stood: Vec<PointId> = circuit
        .points
        .iter()
        .filter(|point| installation.point_out_of_scope(circuit, point))
        .map(|point| point.id)
        .collect();
    for step in steps.iter_mut().filter(|step| step.key.subject.place().and_then(Place::point).is_some()) {
        // A point that stood before may be read, to compare; it is no part of the work.
        step.required &= step.key.subject.place().and_then(Place::point).is_none_or(|point| !stood.contains(&point));
    }
    if installation.out_of_scope(circuit) {
        // The work does not touch it: nothing is asked of it, and what is read all the same is judged.
        for step in &mut steps {
            step.required = false;
        }
    }
    steps
}

/// Extra-low voltage has no loop to earth: its insulation, its polarity, and that it works.
fn extra_low_steps(installation: &Installation, circuit: &Circuit, steps: &mut Vec<Step>) {
    insulation(installation, circuit, steps);
    let goes_to = GoesTo::Column("polarity");
    let key = polarity_key(circuit.id);
    steps.push(Step::new("polarity".into(), key, Stage::Polarity, "Polarity".into(), Field::Outcome, goes_to));
    live::functional_steps(circuit, steps);
}

fn tested_steps(installation: &Installation, circuit: &Circuit, zs_at_points: bool) -> Vec<Step> {
    let rules = &installation.house_rules;
    let mut steps = Vec::with_capacity(2 * circuit.points.len() + 16);
    let at_board = |test: Test| Key::on_circuit(circuit.id, Place::Board, test);
    if circuit.shape == Shape::Ring {
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
    if circuit.band.is_extra_low() {
        extra_low_steps(installation, circuit, &mut steps);
        return steps;
    }
    if neutral_is_read(installation, circuit) {
        walk(installation, circuit, Test::R1Rn, &mut steps);
    }
    let long_lead = by_long_lead(installation, circuit);
    walk(installation, circuit, if long_lead { Test::R2 } else { Test::R1R2 }, &mut steps);
    if circuit.lines == Lines::Three && rules.sequence == SequenceBy::Continuity {
        let label = "L1, L2, L3: the same at both ends".to_owned();
        let goes_to = GoesTo::Column("phase sequence confirmed");
        let key = followed_key(circuit.id);
        steps.push(Step::new("sequence".into(), key, Stage::Sequence, label, Field::Outcome, goes_to));
    }
    let at_points = long_lead && rules.polarity_by != PolarityBy::Eye;
    let said = if at_points { "Polarity, by instrument at each point" } else { "Polarity" };
    let mut polarity = Step::new(
        "polarity".into(),
        if at_points { polarity_at_points_key(circuit.id) } else { polarity_key(circuit.id) },
        Stage::Polarity,
        said.into(),
        Field::Outcome,
        GoesTo::Column("polarity"),
    );
    // By instrument it falls out of the walk; see [`crate::plan::polarity`].
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
