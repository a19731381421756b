//! The steps at the origin and at a board: earthing conductor and bonding dead; supply polarity, Ze
//! and fault current live; phase sequence, functional tests and labels of a board.

use super::circuit_steps;
use super::live::rcd_series;
use proof_job::installation::{Board, Feed, Installation, Lines};
use proof_job::reading::entry::Field;
use proof_job::reading::keys::{
    board_current_key, board_loop_key, bond_key, current_key, earthing_key, electrode_key, line_pairs, lines_of,
    own_loop_key, ze_key,
};
use proof_job::reading::{GoesTo, Key, Place, Stage, Step, Subject, Test};
use proof_judge::supply_chain::own_electrode;
use proof_standard::calc::fault_current::FaultCurrentMethod;
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::house_rules::{BondingBy, SequenceBy};
use proof_standard::limits::supply::EarthingSystem;

/// The steps at the origin: earthing conductor and bonding dead; supply polarity, Ze and fault
/// current live.
pub fn origin_steps(installation: &Installation) -> Vec<Step> {
    let step = |slug: String, key: Key, stage: Stage, label: String, field: Field, place: &'static str| {
        Step::new(slug, key, stage, label, field, GoesTo::Particulars(place))
    };
    // Minor works take no earth off: whether earthing and bonding are adequate is looked at.
    let by = if installation.is_minor() { BondingBy::Seen } else { installation.house_rules.bonding };
    let field = if by == BondingBy::Seen { Field::Outcome } else { Field::Continuity };
    let label = "Earthing conductor".to_owned();
    let mut steps = vec![step(
        "earthing".into(),
        earthing_key(by),
        Stage::Bonding,
        label,
        field,
        "continuity of the earthing conductor",
    )];
    steps.extend(installation.supply.bonds.iter().map(|bond| {
        let slug = format!("bond-{}", bond.id.simple());
        let kind = if bond.supplementary { "Supplementary bond to" } else { "Bond to" };
        step(slug, bond_key(bond.id, by), Stage::Bonding, format!("{kind} {}", bond.to), field, "bonding continuity")
    }));
    steps.push(step(
        "supply-polarity".into(),
        Key::for_supply(Test::SupplyPolarity),
        Stage::Origin,
        "Polarity of the supply".into(),
        Field::Outcome,
        "supply polarity confirmed",
    ));
    live_steps(installation, &mut steps);
    steps
}

/// A slug or label with its line.
fn on(text: &str, line: Option<Conductor>, between: &str) -> String {
    line.map_or_else(|| text.to_owned(), |line| format!("{text}{between}{line}"))
}

fn live_steps(installation: &Installation, steps: &mut Vec<Step>) {
    let supply = &installation.supply;
    let three = supply.lines == Lines::Three;
    let line_line = three && installation.house_rules.fault_school == FaultCurrentMethod::LineLine;
    let step = |slug: String, key: Key, label: String, field: Field, place: &'static str| {
        Step::new(slug.to_lowercase(), key, Stage::Origin, label, field, GoesTo::Particulars(place))
    };
    for &line in lines_of(supply.lines) {
        let (slug, label) = (on("ze", line, "-"), on("Ze", line, " "));
        // On an electrode the loop with the earth off is through the electrode: it is its Ra.
        let label = if supply.system == EarthingSystem::Tt { format!("{label} (Ra by loop test)") } else { label };
        let mut ze = step(slug, ze_key(line), label, Field::Loop, "external loop impedance Ze, the highest");
        // Where the origin is no part of the work the earth stays on: the loop there says the rest.
        ze.required = installation.includes_origin();
        steps.push(ze);
    }
    if supply.system == EarthingSystem::Tt {
        let label = "Electrode, Ra".to_owned();
        let place = "resistance of the earth electrode";
        let mut electrode = step("electrode".into(), electrode_key(None), label, Field::Loop, place);
        electrode.required = installation.includes_origin() && !installation.is_minor();
        steps.push(electrode);
    }
    let pairs = [("ln", "L–N", Pair::LINE_NEUTRAL), ("le", "L–E", Pair::LINE_EARTH)];
    for (short, said, pair) in pairs {
        for &line in lines_of(supply.lines) {
            let (slug, label) = (on(&format!("pfc-{short}"), line, "-"), on(&format!("PFC {said}"), line, " "));
            let place = "prospective fault current (PFC), the larger";
            let mut current = step(slug, current_key(pair, line), label, Field::FaultCurrent, place);
            current.required = !installation.is_minor();
            steps.push(current.unused_if(line_line));
            let (slug, label) =
                (on(&format!("loop-{short}"), line, "-"), on(&format!("Loop impedance {said}"), line, " "));
            let mut own = step(slug, own_loop_key(pair, line), label, Field::Loop, "").optional();
            own.goes_to = GoesTo::NotOnSchedule("the loop of the fault-current test is not Ze: paths are in it");
            own.required = !installation.includes_origin() && pair == Pair::LINE_EARTH;
            // Where the earth stays on, this loop stands for Ze, whatever the currents are had from.
            let stands_for_ze = own.required;
            steps.push(own.unused_if(line_line && !stands_for_ze));
        }
    }
    for (index, pair) in line_pairs().into_iter().enumerate().filter(|_| line_line) {
        let slug = format!("pfc-{}-{}", pair.both().0, pair.both().1);
        let place = "prospective fault current (PFC), the larger";
        let mut current = step(slug, current_key(pair, None), format!("PFC {pair}"), Field::FaultCurrent, place);
        current.required = index == 0 && !installation.is_minor();
        steps.push(current);
    }
}

/// Whether the phases of a board are followed dead along the circuit that feeds it: not at the origin, nor
/// along a circuit that the work leaves as it was, of which nothing is asked.
fn is_followed(installation: &Installation, board: &Board) -> bool {
    let Feed::Circuit { circuit } = board.fed_by else { return false };
    let feeder = installation.circuit(circuit);
    installation.house_rules.sequence == SequenceBy::Continuity
        && feeder.is_some_and(|feeder| feeder.lines == Lines::Three && !installation.out_of_scope(feeder))
}

/// The steps of a board as a whole: what is read or worked there and belongs to no one circuit.
pub fn board_steps(installation: &Installation, board: &Board) -> Vec<Step> {
    let mut steps = Vec::new();
    let key = |test: Test| Key { subject: Subject::Board { board: board.id }, ..Key::for_supply(test) };
    let mut push = |slug: &str, key: Key, label: String, field: Field, required: bool, goes_to: GoesTo| {
        let mut step = Step::new(slug.to_owned(), key, Stage::Functional, label, field, goes_to);
        step.required = required && !installation.is_minor();
        step.open_board = matches!(step.field, Field::Loop | Field::FaultCurrent);
        step.unused = step.key.test == Test::PhaseSequence && !required;
        steps.push(step);
    };
    if own_electrode(installation, board) {
        let goes_to = GoesTo::Particulars("resistance of this board's earth electrode");
        push("electrode", electrode_key(Some(board.id)), "Electrode, Ra".into(), Field::Loop, true, goes_to);
    }
    if board.fed_by != Feed::Supply {
        let goes_to = GoesTo::Particulars("fault level at this board");
        for (slug, said, pair) in [("pfc-ln", "L–N", Pair::LINE_NEUTRAL), ("pfc-le", "L–E", Pair::LINE_EARTH)] {
            let label = format!("PFC here, {said}");
            push(slug, board_current_key(board.id, pair), label, Field::FaultCurrent, false, goes_to);
            let own = slug.replace("pfc", "loop");
            let kept = GoesTo::NotOnSchedule("the loop of the fault-current test at this board");
            push(&own, board_loop_key(board.id, pair), format!("Loop impedance {said}"), Field::Loop, false, kept);
        }
    }
    // A residual main device covers every way, and is timed here.
    if let Some(main) = board.main_switch.residual() {
        for (slug, label, multiple, half_cycle, required) in rcd_series(installation.rcd_school(), main.idn_ma) {
            let key = key(Test::RcdTrip { multiple, half_cycle });
            let goes_to = GoesTo::Particulars("main residual device of this board");
            push(&format!("main-{slug}"), key, format!("Main device: {label}"), Field::TripTime, required, goes_to);
        }
        let goes_to = GoesTo::NotOnSchedule("kept: the declaration says that it was done");
        let label = "Main device: test button".to_owned();
        push("main-rcd-button", key(Test::RcdButton), label, Field::Outcome, true, goes_to);
    }
    if board.lines == Lines::Three {
        let label = "Phase sequence".to_owned();
        let goes_to = GoesTo::Column("phase sequence confirmed");
        let followed = is_followed(installation, board);
        push("phase-sequence", key(Test::PhaseSequence), label, Field::Outcome, !followed, goes_to);
    }
    let kept = GoesTo::NotOnSchedule("kept: the declaration says that it was done");
    let what = if board.rcds.is_empty() { "main switch" } else { "main switch, devices off and on" };
    push("functional", key(Test::Functional), format!("Functional: {what}"), Field::Outcome, true, kept);
    if !board.surge.trim().is_empty() {
        let label = format!("Surge protection {}: its indicator", board.surge.trim());
        push("surge", key(Test::SurgeIndicator), label, Field::Outcome, true, GoesTo::Column("SPD status"));
    }
    let label = "Labels and chart in place".to_owned();
    push("labels", key(Test::Labelling), label, Field::Outcome, true, kept);
    steps
}

/// What is read at a board of the circuit that feeds it: Zdb is its Zs, and its line–neutral loop goes on
/// down. The same readings stand on the circuit's own page.
pub fn feeder_steps(installation: &Installation, board: &Board) -> Vec<Step> {
    let Feed::Circuit { circuit } = board.fed_by else { return Vec::new() };
    let Some(feeder) = installation.circuit(circuit) else { return Vec::new() };
    let mut steps = circuit_steps(installation, feeder);
    steps.retain(|step| {
        let far = step.key.subject.place() == Some(&Place::Board);
        far && matches!(step.key.test, Test::Zs | Test::LineNeutralLoop)
    });
    for step in &mut steps {
        step.slug = step.slug.replacen("zs", "zdb", 1);
    }
    steps
}

/// The labels and notices that a board wants, from what is installed (BS 7671 section 514, from
/// memory: check against your own copy).
pub fn labels_wanted(installation: &Installation, board: &Board) -> Vec<String> {
    let circuits: Vec<_> = installation.circuits_on(board.id).collect();
    let mut labels = vec![
        format!("main switch of {} named as such", board.name),
        format!("chart of {} circuits inside or beside the door", circuits.len()),
        "date of the next inspection".to_owned(),
    ];
    if !board.rcds.is_empty() {
        labels.push("RCD: press the button every six months".to_owned());
    }
    if circuits.iter().any(|circuit| circuit.arc_detection) {
        labels.push("AFDD: press the button as its maker says".to_owned());
    }
    if !board.surge.trim().is_empty() {
        labels.push("surge protection: what its indicator means".to_owned());
    }
    if board.lines == Lines::Three {
        labels.push("400 V between lines, where two lines are in reach at once".to_owned());
    }
    if board.fed_by == Feed::Supply {
        labels.push("safety electrical connection, do not remove: at the earthing conductor and each bond".to_owned());
    } else {
        labels.push("what this board is fed from, and where it is isolated".to_owned());
    }
    if !installation.sources.is_empty() {
        labels.push(
            "two supplies: what else feeds it and where it is isolated, here, at origin, meter and isolator".to_owned(),
        );
    }
    if circuits.iter().any(|circuit| circuit.wiring == proof_job::installation::Wiring::Existing) {
        labels.push("two colours of wiring, where old and new meet".to_owned());
    }
    labels
}
