//! Questions about dead tests.
#![allow(clippy::unnecessary_wraps)] // one shape for every kind: some find nothing to ask

use super::question::{ExpectedAnswer, Question, number, one_of, pick, whole};
use crate::meter::Meter;
use proof_standard::calc::insulation::pairs as pairs_of;
use proof_standard::calc::ring::{quarter, r2_by_size};
use proof_standard::conductor::Material;
use proof_standard::limits::conductors::{mohm_per_m, twin_and_earth_cpc};
use proof_standard::limits::insulation;
use proof_standard::limits::insulation::{VoltageBand, minimum};
use proof_standard::quantity::SquareMillimetres;

const LINES: [f64; 5] = [1.0, 1.5, 2.5, 4.0, 6.0];

/// A twin-and-earth cable: line and CPC, mm², and mΩ/m of each.
fn cable(meter: &mut Meter) -> Option<([SquareMillimetres; 2], [f64; 2])> {
    let line = SquareMillimetres::new(pick(meter, &LINES)?).ok()?;
    let cpc = twin_and_earth_cpc(line)?;
    let per_metre = |size| mohm_per_m(Material::Copper, size).ok();
    Some(([line, cpc], [per_metre(line)?, per_metre(cpc)?]))
}

pub(super) fn r1_r2_of_a_length(meter: &mut Meter) -> Option<Question> {
    let ([line, cpc], [r1, r2]) = cable(meter)?;
    let metres = whole(meter, 6, 48);
    let ohm = metres as f64 * (r1 + r2) / 1000.0;
    Some(number(
        "expected value",
        format!(
            "A radial of {metres} m in {}/{} mm² copper at 20 °C: what should R1+R2 read at its end, in Ω?",
            line.get(),
            cpc.get()
        ),
        (ohm, "Ω", 2),
        format!(
            "{metres} m × ({r1} + {r2}) mΩ/m = {ohm:.2} Ω (resistance of copper conductors at 20 °C, On-Site Guide Table I1)."
        ),
    ))
}

fn ring(meter: &mut Meter) -> Option<([SquareMillimetres; 2], f64, f64)> {
    let line = SquareMillimetres::new(pick(meter, &[2.5, 4.0])?).ok()?;
    let cpc = twin_and_earth_cpc(line)?;
    let r1 = (meter.between(0.25, 0.95) * 100.0).round() / 100.0;
    Some(([line, cpc], r1, r2_by_size(r1, line, cpc)))
}

pub(super) fn r2_of_a_ring(meter: &mut Meter) -> Option<Question> {
    let ([line, cpc], r1, r2) = ring(meter)?;
    Some(number(
        "ring",
        format!("A ring in {}/{} mm² reads r1 {r1:.2} Ω end to end. What should r2 be, in Ω?", line.get(), cpc.get()),
        (r2, "Ω", 2),
        format!("r1 × {}/{} = {r2:.2} Ω: the same length in a thinner conductor.", line.get(), cpc.get()),
    ))
}

pub(super) fn middle_of_a_ring(meter: &mut Meter) -> Option<Question> {
    let (_, r1, r2) = ring(meter)?;
    let earth = meter.share() < 0.5;
    let (other, name, step) = if earth { (r2, "r2", "line with CPC") } else { (r1, "rn", "line with neutral") };
    let ohm = quarter(r1, other);
    Some(number(
        "ring",
        format!(
            "A ring reads r1 {r1:.2} Ω and {name} {other:.2} Ω. The legs are crossed, {step}: what is read half-way round, in Ω?"
        ),
        (ohm, "Ω", 2),
        format!(
            "({r1:.2} + {other:.2}) / 4 = {ohm:.2} Ω: two paths side by side, each half of both (On-Site Guide 10.3.2)."
        ),
    ))
}

pub(super) fn why_r2_is_higher(meter: &mut Meter) -> Option<Question> {
    let ([line, cpc], r1, r2) = ring(meter)?;
    Some(one_of(
        "ring",
        format!("r1 reads {r1:.2} Ω and r2 {r2:.2} Ω on a ring in {}/{} mm². Why is r2 higher?", line.get(), cpc.get()),
        (
            "the CPC is thinner than the line: it is as expected",
            &[
                "a poor joint in the CPC",
                "the ring is bridged",
                "the leads are not nulled",
                "line and CPC are reversed at a point",
                "metal in parallel with the CPC",
            ],
        ),
        format!(
            "The ratio {:.2} is that of the sizes, {}/{}. A joint would lift it above that; metal beside the CPC would bring it below.",
            r2 / r1,
            line.get(),
            cpc.get()
        ),
        meter,
    ))
}

pub(super) fn spur_by_its_rise(meter: &mut Meter) -> Option<Question> {
    let ([line, cpc], [r1, r2]) = cable(meter)?;
    let metres = whole(meter, 3, 14) as f64;
    let rise = metres * (r1 + r2) / 1000.0;
    let mut question = number(
        "spur",
        format!(
            "One socket of a sound ring in {}/{} mm² reads {rise:.2} Ω more than its neighbours with line crossed with CPC. As a spur, how many metres of cable is that?",
            line.get(),
            cpc.get()
        ),
        (metres, "m", 0),
        format!(
            "{rise:.2} Ω / ({r1} + {r2}) mΩ/m = {metres} m. Ask how many cables are behind the accessory; an absurd length is no spur."
        ),
    );
    if let ExpectedAnswer::Number { within, .. } = &mut question.answer {
        // The rise is read to a hundredth of an ohm.
        *within = 1.0;
    }
    Some(question)
}

pub(super) fn leads_not_nulled(meter: &mut Meter) -> Option<Question> {
    let (truth, leads) =
        ((meter.between(0.2, 0.9) * 100.0).round() / 100.0, f64::from(u8::try_from(whole(meter, 4, 12)).ok()?) / 100.0);
    let shown = truth + leads;
    Some(number(
        "leads",
        format!(
            "The instrument shows {shown:.2} Ω. It was not nulled, and its leads alone read {leads:.2} Ω. What is the circuit, in Ω?"
        ),
        (truth, "Ω", 2),
        format!("{shown:.2} − {leads:.2} = {truth:.2} Ω. Null again whenever leads, adapters or pins change."),
    ))
}

pub(super) fn reversal_by_step(meter: &mut Meter) -> Option<Question> {
    let (what, right, why) = pick(
        meter,
        &[
            (
                "line and neutral",
                "with line crossed with CPC alone",
                "Line to neutral reads the same turned over; line to CPC finds the neutral, which is joined to nothing.",
            ),
            (
                "line and CPC",
                "with line crossed with neutral alone",
                "Line to CPC reads the same turned over; line to neutral finds the CPC, which is joined to nothing.",
            ),
            ("neutral and CPC", "in both", "Each step probes line with one of the two, and finds the other."),
        ],
    )?;
    Some(one_of(
        "polarity",
        format!("At one socket of a ring {what} are reversed. In which step is it open?"),
        (
            right,
            &[
                "with line crossed with CPC alone",
                "with line crossed with neutral alone",
                "in both",
                "in none, it reads as its neighbours",
            ],
        ),
        why.into(),
        meter,
    ))
}

pub(super) fn whole_board(meter: &mut Meter) -> Option<Question> {
    let ways: Vec<usize> = (0..whole(meter, 2, 4)).map(|_| whole(meter, 2, 60)).collect();
    let megohm = 1.0 / ways.iter().map(|way| 1.0 / *way as f64).sum::<f64>();
    let list = ways.iter().map(ToString::to_string).collect::<Vec<_>>().join(", ");
    Some(number(
        "insulation",
        format!("Circuits read {list} MΩ, each for itself. What does the whole board read, in MΩ?"),
        (megohm, "MΩ", 2),
        format!("1 / Σ(1/R) = {megohm:.2} MΩ: side by side, never more than the lowest."),
    ))
}

pub(super) fn pairs(meter: &mut Meter) -> Option<Question> {
    let names = ["L1", "L2", "L3", "N", "E", "SL", "SA", "SB"];
    let count = whole(meter, 2, names.len());
    let all = pairs_of(&names[..count]).len();
    Some(number(
        "insulation",
        format!("A circuit has {count} conductors. How many pairs are there for insulation?"),
        (all as f64, "", 0),
        format!("n(n − 1)/2 = {count} × {} / 2 = {all}.", count - 1),
    ))
}

pub(super) fn pairs_to_prove(meter: &mut Meter) -> Option<Question> {
    let three = meter.share() < 0.5;
    let names = ["L1", "L2", "L3", "N", "E"];
    let (board, of) = if three { ("three-phase", &names[..]) } else { ("single-phase", &names[2..]) };
    let all = pairs_of(of).len();
    Some(number(
        "prove dead",
        format!("How many pairs are proved dead at a {board} board with neutral and earth?"),
        (all as f64, "", 0),
        format!("Every pair of {} conductors: {all}. The indicator is proved before and after.", of.len()),
    ))
}

fn test_voltage_of(band: VoltageBand) -> (&'static str, f64, f64) {
    let circuit = match band {
        VoltageBand::ExtraLow => "SELV at 24 V",
        VoltageBand::UpTo500 => "a 230 V circuit",
        VoltageBand::Above500 => "a circuit at 690 V",
    };
    (circuit, insulation::test_voltage(band).get(), minimum(band).get())
}

pub(super) fn test_voltage(meter: &mut Meter) -> Option<Question> {
    let band = pick(meter, &[VoltageBand::ExtraLow, VoltageBand::UpTo500, VoltageBand::Above500])?;
    let (circuit, volts, megohm) = test_voltage_of(band);
    let working = format!("{circuit}: {volts} V d.c., at least {megohm} MΩ (BS 7671 Table 64).");
    Some(if meter.share() < 0.5 {
        number(
            "insulation",
            format!("At which d.c. voltage is the insulation of {circuit} tested, in V?"),
            (volts, "V", 0),
            working,
        )
    } else {
        number(
            "insulation",
            format!("What is the least insulation resistance that passes for {circuit}, in MΩ?"),
            (megohm, "MΩ", 1),
            working,
        )
    })
}

pub(super) fn what_a_low_reading_is(meter: &mut Meter) -> Option<Question> {
    let (figure, low, right, why) = pick(
        meter,
        &[
            (
                "0.25 MΩ",
                "over range",
                "a neon indicator",
                "A neon conducts at high voltage only: the ohmmeter shows nothing.",
            ),
            ("0.00 MΩ", "0.4 Ω", "a short, or a lamp or load left in", "What an ohmmeter reads too is copper."),
            (
                "0.3 MΩ",
                "over range, also line to earth",
                "damaged cable",
                "To earth there is no neon; well under 1 MΩ.",
            ),
            (
                "4 MΩ",
                "over range",
                "damp, such as fresh plaster",
                "Over the minimum and under what is new: it dries in days.",
            ),
        ],
    )?;
    Some(one_of(
        "insulation",
        format!("A new circuit reads {figure} at 500 V; the ohmmeter shows {low}. What is it first thought to be?"),
        (
            right,
            &[
                "a neon indicator",
                "a short, or a lamp or load left in",
                "damaged cable",
                "damp, such as fresh plaster",
                "a poor joint in the CPC",
            ],
        ),
        format!("{why} Common practice, no source."),
        meter,
    ))
}

const ORDER: [&str; 9] = [
    "inspection",
    "isolate and prove dead",
    "continuity of protective conductors",
    "ring final circuit",
    "insulation resistance",
    "put everything back",
    "Ze, the main switch off and locked",
    "energise",
    "Zs, RCD and functional tests",
];

pub(super) fn what_next(meter: &mut Meter) -> Option<Question> {
    let at = whole(meter, 0, ORDER.len() - 2);
    Some(one_of(
        "order",
        format!("In the order of the work, what follows on: {}?", ORDER[at]),
        (ORDER[at + 1], &ORDER),
        format!("{}.", ORDER.join(" → ")),
        meter,
    ))
}

pub(super) fn which_box(meter: &mut Meter) -> Option<Question> {
    let boxes = [
        ("the highest line–CPC reading of a ring with its legs crossed", "R1+R2"),
        ("line end to end of a ring", "r1"),
        ("CPC end to end of a ring", "r2"),
        ("neutral end to end of a ring", "rn"),
        ("the highest line–CPC reading of a radial with the link at the board", "R1+R2"),
        ("the long-lead reading from the main earthing terminal to a point", "R2"),
        ("the line–neutral readings of a ring with its legs crossed", "in no box: noted in remarks at most"),
        ("the loop read at the far end of a circuit, live", "Zs"),
        ("the loop at the incoming terminals with the earth disconnected", "Ze, with the supply"),
        ("the current shown beside Ze", "in no box: noted in remarks at most"),
        ("the lowest insulation to earth of a circuit", "insulation, live–earth"),
    ];
    let (what, right) = pick(meter, &boxes)?;
    let all: Vec<&str> = boxes.iter().map(|(_, name)| *name).fold(Vec::new(), |mut all, name| {
        if !all.contains(&name) {
            all.push(name);
        }
        all
    });
    Some(one_of(
        "schedule",
        format!("In which box of the schedule goes {what}?"),
        (right, &all),
        format!("{what}: {right}."),
        meter,
    ))
}
