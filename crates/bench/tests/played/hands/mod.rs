//! Hands at a bench: acts by their lines, what a press shows, links as a step wants them.

use proof_bench::rig::instrument::MeterDisplay;
use proof_bench::rig::{act::Act, bench::Bench};

pub fn act(bench: &mut Bench, acts: &[&str]) {
    for text in acts {
        bench.act(text.parse::<Act>().unwrap_or_else(|error| panic!("{error}")));
    }
}

pub fn press(bench: &mut Bench, a: &str, b: &str) -> MeterDisplay {
    act(bench, &[&format!("probe 1 {a}"), &format!("probe 2 {b}"), "press"]);
    bench.shown
}

pub fn number(shown: MeterDisplay) -> Option<f64> {
    match shown {
        MeterDisplay::Ohm(value)
        | MeterDisplay::Megohm(value)
        | MeterDisplay::Loop(value)
        | MeterDisplay::Millis(value)
        | MeterDisplay::Volts(value) => Some(value.to_string().parse().unwrap()),
        _ => None,
    }
}
