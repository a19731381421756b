//! The review: what is missing, what fails, what is odd, across the whole job.

use crate::event::{BoardState, Event, board_state, open_items};
use crate::expectation::ohm_per_metre;
use crate::inspection::ITEMS;
use crate::installation::{CheckOf, CircuitShape, Feeds, Firm, InspectionOutcome, Installation, Instrument, Job};
use crate::instrument::distrust;
use crate::insulation::board::{set_step, whole};
use crate::judgement::{CircuitJudge, Judgement, Limit, Plausibility, judge_origin, judge_set};
use crate::polarity::{Polarity, polarity};
use crate::quantity::{approximate, exact};
use crate::reading::{LeadNull, Origin, Reading, Settled, Subject, Test, Value};
use crate::schedule::is_done;
use crate::sequence::{Stage, Step, circuit_steps, origin_steps, point_key, polarity_key, wants_additional_protection};
use crate::standard::capacity::twin_and_earth;
use crate::standard::rcd::ADDITIONAL_PROTECTION;
use crate::standard::ring::{LEAST_LEG_CAPACITY, LEAST_SIZE, LEAST_SIZE_MINERAL, cable_source};
use uuid::Uuid;

/// How a finding stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Severity {
    /// Outside a limit, or dangerous: blocks.
    Fails,
    /// Something a certificate needs: blocks.
    Missing,
    /// Inside its limit, but not the number it should be: look again.
    Odd,
}

impl Severity {
    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Fails => "fails",
            Self::Missing => "missing",
            Self::Odd => "look again",
        }
    }

    /// Whether a certificate waits for it.
    pub const fn blocks(self) -> bool {
        !matches!(self, Self::Odd)
    }
}

/// Where a finding is mended.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Where {
    /// The job's own particulars.
    Particulars,
    /// Firm, people, instruments.
    Firm,
    /// The origin, at a step.
    Origin(String),
    /// A board.
    Board(Uuid),
    /// A circuit, at a step if it is a reading.
    Circuit(Uuid, Option<String>),
    /// The schedule of inspections.
    Inspection,
}

/// One finding.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Finding {
    /// How it stands.
    pub severity: Severity,
    /// What it is about, such as `Way 3 Press room benches`.
    pub about: String,
    /// What was found, with the numbers.
    pub what: String,
    /// What would settle it.
    pub then: String,
    /// Where it is mended.
    pub place: Where,
}

/// Everything the review looks at.
#[derive(Debug, Clone, Copy)]
pub struct Reviewed<'a> {
    /// The firm that issues.
    pub firm: &'a Firm,
    /// The installation.
    pub installation: &'a Installation,
    /// Its readings.
    pub readings: &'a [Reading],
    /// Its log.
    pub events: &'a [Event],
    /// The instruments that took them.
    pub instruments: &'a [Instrument],
}

impl<'a> From<&'a Job> for Reviewed<'a> {
    fn from(job: &'a Job) -> Self {
        Self {
            firm: &job.firm,
            installation: &job.installation,
            readings: &job.readings,
            events: &job.events,
            instruments: &job.instruments,
        }
    }
}

/// All findings of a job, worst first, in the order of the job.
pub fn review(reviewed: Reviewed<'_>) -> Vec<Finding> {
    let settled = Settled::new(reviewed.readings, reviewed.events);
    let mut findings = Vec::new();
    particulars(reviewed.installation, &mut findings);
    if reviewed.firm.name.trim().is_empty() {
        findings.push(Finding {
            severity: Severity::Missing,
            about: "Firm".into(),
            what: "the firm that issues the certificate is not named".into(),
            then: "Name it once; every job without a certificate follows.".into(),
            place: Where::Firm,
        });
    }
    origin(reviewed.installation, &settled, &mut findings);
    boards(reviewed, &mut findings);
    for circuit in &reviewed.installation.circuits {
        circuit_findings(reviewed.installation, circuit, &settled, &mut findings);
    }
    whole_boards(reviewed.installation, &settled, &mut findings);
    instruments(reviewed, &settled, &mut findings);
    inspection(reviewed.installation, &mut findings);
    findings.sort_by_key(|finding| finding.severity);
    findings
}

fn particulars(installation: &Installation, findings: &mut Vec<Finding>) {
    let mut missing = |what: &str, then: &str| {
        findings.push(Finding {
            severity: Severity::Missing,
            about: "Particulars".into(),
            what: what.into(),
            then: then.into(),
            place: Where::Particulars,
        });
    };
    for (text, what) in [
        (&installation.client.name, "the client's name"),
        (&installation.site.address, "the address of the site"),
        (&installation.extent, "the extent of the work that the certificate covers"),
    ] {
        if text.trim().is_empty() {
            missing(&format!("{what} is not given"), "Write it under particulars.");
        }
    }
    if installation.boards.is_empty() {
        missing("no board is described", "Describe the board that the circuits leave from.");
    } else if installation.circuits.is_empty() {
        missing("no circuit is described", "Describe the circuits, a line each.");
    }
    if installation.supply.bonds.is_empty() {
        missing(
            "no main bonding conductor is described",
            "List the bonds (water, gas, steel) under supply and earthing.",
        );
    }
}

fn judged(step: &Step, judgement: &Judgement, value: &Value, about: &str, place: &Where, findings: &mut Vec<Finding>) {
    let unit = if matches!(value, Value::Number(_) | Value::Over(_)) { step.field.unit() } else { "" };
    let what = if step.label.starts_with(|c: char| c.is_ascii_digit()) {
        format!("{} at {}", step.stage.figure(), step.label)
    } else {
        step.label.clone()
    };
    let reading = format!("{what} {} {unit}", value.shown());
    let notes = judgement.notes.join("; ");
    let severity = match (judgement.limit, judgement.plausibility) {
        (Limit::Outside, _) => Severity::Fails,
        (_, Plausibility::LookAgain) => Severity::Odd,
        _ => return,
    };
    let limit = judgement
        .working
        .iter()
        .rev()
        .find(|working| working.part == "limit")
        .map(|w| w.result.clone())
        .unwrap_or_default();
    let what = match severity {
        Severity::Fails => format!(
            "{}: outside its limit ({limit}){}{notes}",
            reading.trim(),
            if notes.is_empty() { "" } else { "; " }
        ),
        _ => format!("{}: {notes}", reading.trim()),
    };
    findings.push(Finding {
        severity,
        about: about.to_owned(),
        what,
        then: if severity == Severity::Fails {
            "Find the cause, mend it, and read again; the latest reading stands.".into()
        } else {
            "Read it again; if it stays, say why in the remarks.".into()
        },
        place: place.clone(),
    });
}

fn origin(installation: &Installation, settled: &Settled<'_>, findings: &mut Vec<Finding>) {
    for step in origin_steps(installation) {
        let place = Where::Origin(step.slug.clone());
        match settled.value(&step.key) {
            None if step.required => findings.push(Finding {
                severity: Severity::Missing,
                about: "Origin".into(),
                what: format!("{} is not read", step.label),
                then: "Read it, or write a limitation with its reason.".into(),
                place,
            }),
            None => {}
            Some(value) => {
                let judgement = judge_origin(installation, settled, &step, value);
                judged(&step, &judgement, value, "Origin", &place, findings);
            }
        }
    }
}

fn boards(reviewed: Reviewed<'_>, findings: &mut Vec<Finding>) {
    for item in open_items(reviewed.events) {
        findings.push(Finding {
            severity: Severity::Fails,
            about: "Put-back list".into(),
            what: format!("{} is not put back: {}", item.alteration.label(), item.note),
            then: "Put it back, then close the item.".into(),
            place: Where::Board(item.board),
        });
    }
    for board in &reviewed.installation.boards {
        if board_state(reviewed.events, board.id).0 == BoardState::SupplyExposed {
            findings.push(Finding {
                severity: Severity::Fails,
                about: board.name.clone(),
                what: "the earthing conductor is off (supply exposed)".into(),
                then: "Refit it, then say so on the board's page.".into(),
                place: Where::Board(board.id),
            });
        }
    }
}

fn circuit_findings(
    installation: &Installation,
    circuit: &crate::installation::Circuit,
    settled: &Settled<'_>,
    findings: &mut Vec<Finding>,
) {
    let about = format!("Way {} {}", circuit.way, circuit.description);
    let judge = CircuitJudge::brief(installation, circuit, settled);
    let steps = circuit_steps(installation, circuit);
    let mut absent: Vec<&Step> = Vec::new();
    for step in &steps {
        match settled.value(&step.key) {
            None if step.required && !is_done(installation, circuit, settled, step) => absent.push(step),
            None => {}
            Some(value) => {
                let place = Where::Circuit(circuit.id, Some(step.slug.clone()));
                let mut judgement = judge.judge(step, value);
                if judgement.limit == Limit::Outside {
                    // Only what fails says by which limit.
                    judgement = CircuitJudge::new(installation, circuit, settled).judge(step, value);
                }
                judged(step, &judgement, value, &about, &place, findings);
            }
        }
    }
    absent.chunk_by(|a, b| a.stage == b.stage).for_each(|steps| {
        let names: Vec<&str> = steps.iter().map(|step| step.label.as_str()).collect();
        findings.push(Finding {
            severity: Severity::Missing,
            about: about.clone(),
            what: match steps[0].stage {
                Stage::Polarity | Stage::Zs => format!("{} not read", shortened(&names)),
                stage => format!("{}: {} not read", stage.label(), shortened(&names)),
            },
            then: "Read it, or write a limitation with its reason.".into(),
            place: Where::Circuit(circuit.id, Some(steps[0].slug.clone())),
        });
    });
    let polarity_step = steps.iter().find(|step| step.stage == Stage::Polarity);
    let place = Where::Circuit(circuit.id, polarity_step.map(|step| step.slug.clone()));
    let polarity_said = |severity, what: String, then: &str| Finding {
        severity,
        about: about.clone(),
        what,
        then: then.into(),
        place: place.clone(),
    };
    match polarity(installation, circuit, settled) {
        Polarity::Owed(wanting) if polarity_step.is_some_and(|step| !step.required) && !circuit.points.is_empty() => {
            findings.push(polarity_said(
                Severity::Missing,
                format!("polarity is not earned: {wanting}"),
                "Read it, or look at every terminal and say so.",
            ));
        }
        Polarity::Wrong(why) if settled.value(&polarity_key(circuit.id)).is_none() => findings.push(polarity_said(
            Severity::Fails,
            format!("polarity: {why}"),
            "Find it, mend it, and read again; the latest reading stands.",
        )),
        _ => {}
    }
    if let Some(what) = copied_down(installation, circuit, settled) {
        findings.push(Finding {
            severity: Severity::Odd,
            about: about.clone(),
            what,
            then: "Copper rises along a radial: read each point, the highest goes on the schedule.".into(),
            place: Where::Circuit(circuit.id, None),
        });
    }
    if circuit.points.is_empty() {
        let what = "it has no points".to_owned();
        let then = "Give its points, so that R1+R2 has places to be read at.".into();
        findings.push(Finding {
            severity: Severity::Missing,
            about: about.clone(),
            what,
            then,
            place: Where::Circuit(circuit.id, None),
        });
    }
    cable_findings(installation, circuit, &about, findings);
}

fn shortened(names: &[&str]) -> String {
    if names.len() > 4 { format!("{}, {} and {} more", names[0], names[1], names.len() - 2) } else { names.join(", ") }
}

/// Insulation of whole boards as it stands. What a search read on the way is no finding.
fn whole_boards(installation: &Installation, settled: &Settled<'_>, findings: &mut Vec<Finding>) {
    for board in &installation.boards {
        let all = whole(installation, board.id);
        for reading in settled.of_sets() {
            let Subject::CircuitSet { circuits } = &reading.key.subject else { continue };
            if *circuits != all {
                continue;
            }
            let pair = reading.key.pair;
            let mut step = set_step(all.clone(), pair);
            step.label = format!("the whole board, {}", step.label);
            let judgement = judge_set(installation, settled, &step, &reading.value);
            judged(&step, &judgement, &reading.value, &board.name, &Where::Board(board.id), findings);
        }
    }
}

/// A radial whose readings do not rise: one figure copied down.
fn copied_down(
    installation: &Installation,
    circuit: &crate::installation::Circuit,
    settled: &Settled<'_>,
) -> Option<String> {
    const RISES_BY: f64 = 0.1;
    let points = circuit.main_points().count();
    let per_metre = ohm_per_metre(installation, circuit)?;
    let whole = circuit.whole_length()? * (per_metre[0] + per_metre[2]);
    if circuit.shape == CircuitShape::Ring || points < 3 || whole * (1.0 - 1.0 / points as f64) < RISES_BY {
        return None;
    }
    let line = circuit.line_conductors()[0];
    let read: Option<Vec<_>> = circuit
        .main_points()
        .map(|point| settled.value(&point_key(circuit, point.id, Test::R1R2, line))?.number())
        .collect();
    let read = read?;
    let first = *read.first()?;
    read.iter().all(|ohm| *ohm == first).then(|| {
        format!("R1+R2 is {first} Ω at each of {points} points, and {whole:.2} Ω of cable lies between board and end")
    })
}

/// Which range a reading was taken on.
const fn range_of(test: Test) -> Option<CheckOf> {
    match test {
        Test::Insulation | Test::InsulationJoined => Some(CheckOf::Insulation),
        Test::Ze | Test::Zs | Test::LineNeutralLoop | Test::FaultCurrent => Some(CheckOf::Loop),
        Test::RingEndToEnd { .. }
        | Test::RingBoardCheck
        | Test::R1Rn
        | Test::R1R2
        | Test::R2
        | Test::BondContinuity
        | Test::EarthingConductor => Some(CheckOf::Continuity),
        _ => None,
    }
}

/// Instruments that were not to be trusted when they read, and leads whose state nobody said.
fn instruments(reviewed: Reviewed<'_>, settled: &Settled<'_>, findings: &mut Vec<Finding>) {
    let rule = reviewed.installation.house_rules.instruments;
    let mut distrusted: Vec<(String, usize, Where)> = Vec::new();
    let mut unsaid: Vec<(Where, String, usize)> = Vec::new();
    for reading in reviewed.readings {
        if settled.of(&reading.key).is_none_or(|stands| stands.id != reading.id) {
            continue;
        }
        let circuit = reading.key.subject.circuit();
        let place = circuit.map_or_else(|| Where::Origin(String::new()), |id| Where::Circuit(id, None));
        let low_ohm = range_of(reading.key.test) == Some(CheckOf::Continuity) && reading.value.number().is_some();
        if low_ohm && reading.context.origin == Origin::Typed && reading.context.null == LeadNull::Unknown {
            let about = || {
                circuit.and_then(|id| reviewed.installation.circuit(id)).map_or_else(
                    || "Earthing and bonding".to_owned(),
                    |circuit| format!("Way {} {}", circuit.way, circuit.description),
                )
            };
            if let Some((.., count)) = unsaid.iter_mut().find(|(other, ..)| *other == place) {
                *count += 1;
            } else {
                unsaid.push((place.clone(), about(), 1));
            }
        }
        // What was read from paper has no day of its own.
        let (Some(of), Some(at)) = (range_of(reading.key.test), reading.context.taken_at) else { continue };
        let by = reading.context.instrument.and_then(|id| reviewed.instruments.iter().find(|one| one.id == id));
        let day = at.to_zoned(jiff::tz::TimeZone::UTC).date();
        let Some(why) = by.and_then(|instrument| distrust(instrument, rule, of, day)) else { continue };
        match distrusted.iter_mut().find(|(other, ..)| *other == why) {
            Some((_, count, _)) => *count += 1,
            None => distrusted.push((why, 1, place)),
        }
    }
    for (why, count, _) in distrusted {
        findings.push(Finding {
            severity: Severity::Odd,
            about: "Instruments".into(),
            what: format!("{why}: it took {count} of the readings that stand"),
            then: "Check it against fixed values and write that down, or read again with one that is in date.".into(),
            place: Where::Firm,
        });
    }
    for (place, about, count) in unsaid {
        findings.push(Finding {
            severity: Severity::Odd,
            about,
            what: format!("{count} low-resistance readings with leads neither nulled nor subtracted"),
            then: "Null the leads in use, pins included, and read again; or say that they were nulled.".into(),
            place,
        });
    }
}

/// Breaker, cable and outlet matching.
fn cable_findings(
    installation: &Installation,
    circuit: &crate::installation::Circuit,
    about: &str,
    findings: &mut Vec<Finding>,
) {
    let mut odd = |severity: Severity, what: String, then: &str| {
        findings.push(Finding {
            severity,
            about: about.to_owned(),
            what,
            then: then.to_owned(),
            place: Where::Circuit(circuit.id, None),
        });
    };
    let rating = approximate(circuit.device.rating_a);
    let capacity = circuit.cable.method.and_then(|method| twin_and_earth(circuit.cable.line_mm2, method));
    if circuit.shape == CircuitShape::Ring {
        let mineral = circuit.cable.kind.contains("mineral");
        let least = if mineral { LEAST_SIZE_MINERAL } else { LEAST_SIZE };
        if circuit.cable.line_mm2 < least {
            odd(
                Severity::Odd,
                format!(
                    "a ring in {} mm²: at least {} mm² ({})",
                    circuit.cable.line_mm2.get(),
                    least.get(),
                    cable_source().line()
                ),
                "Check the cable, or whether it is a ring.",
            );
        }
        if capacity.is_some_and(|amps| amps < LEAST_LEG_CAPACITY) {
            odd(
                Severity::Odd,
                format!(
                    "each leg carries {} A by its reference method, less than 20 A",
                    capacity.map_or(0.0, super::quantity::Amps::get)
                ),
                "Ask the designer: the method, or the cable.",
            );
        }
    } else if let Some(amps) = capacity.filter(|amps| amps.get() < rating) {
        odd(
            Severity::Odd,
            format!("{} behind cable of {} A (no grouping or ambient factors)", circuit.device.shown(), amps.get()),
            "Ask the designer: the device, the method, or the cable.",
        );
    }
    if wants_additional_protection(circuit) {
        let covered = installation
            .rcd_of(circuit)
            .is_some_and(|rcd| exact(ADDITIONAL_PROTECTION.get()).is_some_and(|limit| rcd.idn_ma <= limit));
        if !covered {
            odd(
                Severity::Odd,
                "socket-outlets up to 32 A without an RCD of 30 mA or less (BS 7671 411.3.3, from memory)".into(),
                "Name the RCD that covers this way, or write the reason under departures.",
            );
        }
    }
    if circuit.device.breaking_ka.is_none() && circuit.feeds != Feeds::Board {
        odd(Severity::Odd, "the breaking capacity of its device is not given".into(), "Read it off the device.");
    }
}

fn inspection(installation: &Installation, findings: &mut Vec<Finding>) {
    let answer = |key: &str| installation.inspection.iter().find(|answer| answer.item == key);
    let open = ITEMS.iter().filter(|item| answer(item.key).is_none()).count();
    if open > 0 {
        findings.push(Finding {
            severity: Severity::Missing,
            about: "Inspection".into(),
            what: format!("{open} of {} items of the schedule of inspections are not answered", ITEMS.len()),
            then: "Inspection comes before any test: answer each.".into(),
            place: Where::Inspection,
        });
    }
    for answer in &installation.inspection {
        if answer.outcome == InspectionOutcome::Departure && answer.note.trim().is_empty() {
            findings.push(Finding {
                severity: Severity::Missing,
                about: "Inspection".into(),
                what: format!("a departure without its reason: {}", crate::inspection::text(&answer.item)),
                then: "Write why it is no less safe.".into(),
                place: Where::Inspection,
            });
        }
    }
}

/// Whether nothing blocks a certificate.
pub fn nothing_blocks(findings: &[Finding]) -> bool {
    findings.iter().all(|finding| !finding.severity.blocks())
}

#[cfg(test)]
#[path = "finding_tests.rs"]
mod tests;
