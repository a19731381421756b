//! Live tests of a circuit: the loop to earth and to neutral, the RCD, what it is there for.

use proof_job::installation::{Accessory, Circuit, Feeds, Installation, Lines, Point};
use proof_job::reading::entry::Field;
use proof_job::reading::{CurrentReadings, GoesTo, Key, Place, Stage, Step, Test, highest_r1_r2};
use proof_standard::house_rules::{NeutralLoop, SequenceBy, ZsAt, ZsMethod};
use proof_standard::limits::edition::RcdSchool;
use proof_standard::limits::rcd::{ADDITIONAL_PROTECTION, HalfCycle, Multiple};
use proof_standard::quantity::Milliamps;

pub(super) fn live_steps(installation: &Installation, circuit: &Circuit, at_points: bool, steps: &mut Vec<Step>) {
    let at_board = |test: Test| Key::on_circuit(circuit.id, Place::Board, test);
    if installation.house_rules.zs_method == ZsMethod::Measured {
        for &line in circuit.line_conductors() {
            let suffix = line.map(|line| format!("-{line}").to_lowercase()).unwrap_or_default();
            let of_line = line.map(|line| format!(" {line}")).unwrap_or_default();
            let label = match installation.fed_by(circuit) {
                Some(board) => format!("Zdb{of_line}, at {}", board.name),
                None => format!("Zs{of_line}, far point"),
            };
            let goes_to = GoesTo::Extreme("Zs (the highest)");
            let key = at_board(Test::Zs).on_line(line);
            let step = Step::new(format!("zs{suffix}"), key, Stage::Zs, label, Field::Loop, goes_to);
            steps.push(step.at_open_board(installation.fed_by(circuit).is_some()));
        }
    }
    loops(installation, circuit, at_points, steps);
    rcd_steps(installation, circuit, steps);
    sequence_at_outlets(installation, circuit, steps);
    functional_steps(circuit, steps);
}

/// Every point may be read as well as the far one; line–neutral beside it.
fn loops(installation: &Installation, circuit: &Circuit, at_points: bool, steps: &mut Vec<Step>) {
    let rules = &installation.house_rules;
    let single = circuit.lines == Lines::Single;
    let every = rules.zs_method == ZsMethod::Measured && rules.zs_at == ZsAt::Every;
    let at_points = at_points || every;
    if single && at_points && circuit.points.len() > 1 {
        for point in circuit.points.iter().filter(|point| !point.accessory.switches()) {
            let key = Key::on_circuit(circuit.id, Place::Point { point: point.id }, Test::Zs);
            let (slug, label) = (format!("zs-p{}", point.id.0), format!("Zs at {}", point.name));
            let mut step = Step::new(slug, key, Stage::Zs, label, Field::Loop, GoesTo::Extreme("Zs (the highest)"));
            step.required = every;
            steps.push(step);
        }
    }
    if single {
        let key = Key::on_circuit(circuit.id, Place::Board, Test::LineNeutralLoop);
        let goes_to = GoesTo::NotOnSchedule("the loop that an overload between line and neutral meets");
        let label = match installation.fed_by(circuit) {
            Some(board) => format!("Line–neutral loop, at {}", board.name),
            None => "Line–neutral loop".to_owned(),
        };
        let step = Step::new("zs-ln".into(), key, Stage::Zs, label, Field::Loop, goes_to);
        let mut step = step.at_open_board(installation.fed_by(circuit).is_some());
        step.required = rules.neutral_loop == NeutralLoop::Noted;
        steps.push(step);
    }
}

fn rcd_steps(installation: &Installation, circuit: &Circuit, steps: &mut Vec<Step>) {
    let at_board = |test: Test| Key::on_circuit(circuit.id, Place::Board, test);
    let Some(rcd) = installation.rcd_for(circuit) else { return };
    // A device over several ways is tested once, at the first of them.
    let here = installation.rcd_test_circuit(circuit).is_none_or(|first| first.id == circuit.id);
    for (slug, label, multiple, half_cycle, required) in rcd_series(installation.rcd_school(), rcd.idn_ma) {
        let goes_to = match multiple {
            Multiple::Half => GoesTo::NotOnSchedule("it must not trip"),
            Multiple::One => GoesTo::Extreme("RCD time at IΔn (the slower)"),
            Multiple::Five => GoesTo::Extreme("RCD time at 5 IΔn (the slower)"),
        };
        let key = at_board(Test::RcdTrip { multiple, half_cycle });
        let mut one = Step::new(slug.into(), key, Stage::Rcd, label.into(), Field::TripTime, goes_to);
        one.required = required && here;
        steps.push(one);
    }
    let mut button = Step::new(
        "rcd-button".into(),
        at_board(Test::RcdButton),
        Stage::Rcd,
        "Test button".into(),
        Field::Outcome,
        GoesTo::Column("RCD test button"),
    );
    button.required = here;
    steps.push(button);
}

/// At every outlet of three phases the sequence is shown to be kept (BS 7671 643.9, from memory); not where
/// each line was followed dead.
fn sequence_at_outlets(installation: &Installation, circuit: &Circuit, steps: &mut Vec<Step>) {
    let by_tester = installation.house_rules.sequence == SequenceBy::Tester;
    let three = circuit.lines == Lines::Three && by_tester;
    let outlets = circuit.points.iter().filter(|point| three && point.accessory == Accessory::Industrial);
    steps.extend(outlets.map(|point| {
        let key = Key::on_circuit(circuit.id, Place::Point { point: point.id }, Test::PhaseSequence);
        let goes_to = GoesTo::NotOnSchedule("kept: the sequence is the same at every outlet");
        let (slug, label) = (format!("sequence-p{}", point.id.0), format!("Phase sequence at {}", point.name));
        Step::new(slug, key, Stage::Functional, label, Field::Outcome, goes_to)
    }));
}

/// What a circuit is there for: its switches and isolators work, its arc detection trips by its button.
pub(super) fn functional_steps(circuit: &Circuit, steps: &mut Vec<Step>) {
    let at_board = |test: Test| Key::on_circuit(circuit.id, Place::Board, test);
    if circuit.arc_detection {
        let label = "AFDD test button".to_owned();
        let goes_to = GoesTo::Column("AFDD test button");
        let key = at_board(Test::AfddButton);
        steps.push(Step::new("afdd-button".into(), key, Stage::Functional, label, Field::Outcome, goes_to));
    }
    let worked = functional_list(circuit);
    let label = if worked.is_empty() {
        format!("Functional: {}", bare(circuit.feeds))
    } else {
        format!("Functional: {worked}")
    };
    let goes_to = GoesTo::NotOnSchedule("kept: the declaration says that it was done");
    let mut step =
        Step::new("functional".into(), at_board(Test::Functional), Stage::Functional, label, Field::Outcome, goes_to);
    step.required = !worked.is_empty();
    steps.push(step);
}

/// What there is to be tried where no switch and no isolator is named.
const fn bare(feeds: Feeds) -> &'static str {
    match feeds {
        Feeds::Sockets => "plug something in",
        Feeds::Lighting => "switch each light on and off",
        Feeds::Fixed => "switch the equipment on and off",
        Feeds::Board => "switch the board on and off",
    }
}

/// What there is to be worked on a circuit, in words; empty where there are only outlets.
fn functional_list(circuit: &Circuit) -> String {
    let count = |wanted: fn(Accessory) -> bool| circuit.points.iter().filter(|point| wanted(point.accessory)).count();
    let said = |count: usize, one: &str, many: &str| match count {
        0 => None,
        1 => Some(one.to_owned()),
        n => Some(format!("{n} {many}")),
    };
    let switches = said(count(Accessory::switches), "the switch", "switches");
    let isolators = said(count(|what| what == Accessory::Equipment), "the isolator", "isolators");
    [switches, isolators].into_iter().flatten().collect::<Vec<_>>().join(", ")
}

/// Where a live test of a circuit is best read, in words: Zs at the point with the highest R1+R2,
/// the RCD at the outlet nearest the board.
pub fn proposed_place(circuit: &Circuit, settled: &CurrentReadings<'_>, step: &Step) -> Option<String> {
    if step.key.subject.place() != Some(&Place::Board) {
        return None;
    }
    match step.key.test {
        Test::Zs | Test::LineNeutralLoop => match highest_r1_r2(circuit, settled) {
            Some((ohm, point)) => {
                Some(format!("at {}: the highest R1+R2, {ohm} Ω, was read there", circuit.point(point)?.name))
            }
            None => Some(format!("at {}: the last on the run", circuit.main_points().last()?.name)),
        },
        Test::RcdTrip { .. } | Test::RcdButton => {
            let socket = |point: &&Point| !point.accessory.switches();
            let by_order = circuit.main_points().find(socket).filter(|_| circuit.runs_in_order());
            let read = |point: &&Point| {
                let key = Key::on_circuit(circuit.id, Place::Point { point: point.id }, Test::R1R2);
                settled.float(&key).unwrap_or(f64::INFINITY)
            };
            let nearest =
                by_order.or_else(|| circuit.main_points().filter(socket).min_by(|a, b| read(a).total_cmp(&read(b))))?;
            Some(format!("at {}: the outlet nearest the board", nearest.name))
        }
        _ => None,
    }
}

/// What to know before a live test: the range of the instrument, what is reset, what is off.
pub fn at_power(installation: &Installation, circuit: &Circuit, step: &Step) -> Option<&'static str> {
    match step.key.test {
        Test::Zs if !installation.upstream_rcds(circuit).is_empty() => {
            Some("No-trip range: a residual device stands over it. It reads less precisely.")
        }
        Test::RcdTrip { multiple: Multiple::Half, .. } => Some("It must not trip. Loads off."),
        Test::RcdTrip { .. } => Some("Loads off. Reset the device before the next test."),
        Test::RcdButton => Some("Press, and reset it."),
        Test::AfddButton => Some("Press, and reset it as its maker says."),
        _ => None,
    }
}

pub(super) type RcdStep = (&'static str, &'static str, Multiple, HalfCycle, bool);

pub(super) fn rcd_series(school: RcdSchool, idn: Milliamps) -> Vec<RcdStep> {
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
            if idn <= *ADDITIONAL_PROTECTION {
                all.push(("rcd-5-0", "5 IΔn at 0°", Multiple::Five, Deg0, true));
                all.push(("rcd-5-180", "5 IΔn at 180°", Multiple::Five, Deg180, true));
            }
            all
        }
    }
}
