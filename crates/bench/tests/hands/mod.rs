//! Hands at a bench: acts by their lines, what a press shows, links as a step wants them.

use proof_bench::rig::instrument::Shown;
use proof_bench::rig::{act::Act, bench::Bench};

pub fn act(bench: &mut Bench, acts: &[&str]) {
    for text in acts {
        bench.act(text.parse::<Act>().unwrap_or_else(|error| panic!("{error}")));
    }
}

pub fn press(bench: &mut Bench, a: &str, b: &str) -> Shown {
    act(bench, &[&format!("probe 1 {a}"), &format!("probe 2 {b}"), "press"]);
    bench.shown
}

pub fn number(shown: Shown) -> Option<f64> {
    match shown {
        Shown::Ohm(value) | Shown::Megohm(value) | Shown::Loop(value) | Shown::Millis(value) | Shown::Volts(value) => {
            Some(value.to_string().parse().unwrap())
        }
        _ => None,
    }
}

const RING: [[&str; 2]; 2] = [["w1t1-L", "w1t2-N"], ["w1t2-L", "w1t1-N"]];
const RING_EARTH: [[&str; 2]; 2] = [["w1t1-L", "w1t2-E"], ["w1t2-L", "w1t1-E"]];

/// The circuit of an exercise as its links are made for a step.
pub fn linked(bench: &mut Bench, ring: bool, earth: bool, on: bool) {
    let state = if on { "on" } else { "off" };
    let links: Vec<[&str; 2]> = match (ring, earth) {
        (true, false) => RING.to_vec(),
        (true, true) => RING_EARTH.to_vec(),
        (false, false) => vec![["w1t1-L", "bar-N"]],
        (false, true) => vec![["w1t1-L", "bar-E"]],
    };
    for [a, b] in links {
        act(bench, &[&format!("link {a} {b} {state}")]);
    }
}
