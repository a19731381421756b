//! An apprentice who plays the program's own advice at the bench: reads what it names next, until it says that nothing more
//! is needed, and names what it holds likeliest. Everything by acts alone, from what the display shows. How few readings
//! would have done is counted by it.

use super::posed::{Posed, Truth, Wrong};
use crate::rig::bench::Bench;
use crate::rig::instrument::MeterDisplay;
use proof_physics::diagnosis::{Case, Diagnosis, Kind, Next, ReadPoint, diagnose};
use proof_physics::network::description::{Description, Refused};
use proof_standard::conductor::Core;
use proof_standard::quantity::{Metres, SquareMillimetres, approximate};
use proof_standard::shape::Shape;

struct Apprentice {
    bench: Bench,
    case: Case,
    linked: Option<bool>,
    readings: usize,
}

const LINKS: [[[&str; 2]; 2]; 2] =
    [[["w1t1-L", "w1t2-N"], ["w1t2-L", "w1t1-N"]], [["w1t1-L", "w1t2-E"], ["w1t2-L", "w1t1-E"]]];
const RADIAL_LINKS: [[&str; 2]; 2] = [["w1t1-L", "bar-N"], ["w1t1-L", "bar-E"]];

impl Apprentice {
    fn begins(posed: &Posed, built: &Description) -> Self {
        let read = |point: &proof_physics::network::description::Point| ReadPoint {
            id: point.id.clone(),
            spur_from: point.spur_from.clone(),
            leg: Some(point.leg),
            r1_rn: None,
            r1_r2: None,
        };
        let metres: f64 =
            built.points.iter().map(|point| point.leg.get()).sum::<f64>() + built.return_leg.map_or(0.0, Metres::get);
        let case = Case {
            shape: built.shape,
            cores: built.cores,
            cpc_mm2: SquareMillimetres::literal(1.5),
            length: Metres::new(metres).ok(),
            end_to_end: [None; 3],
            board_check: [None; 2],
            points: built.points.iter().map(read).collect(),
        };
        let mut one = Self { bench: posed.bench.clone(), case, linked: None, readings: 0 };
        one.act("knob low");
        one.act("null");
        if built.shape == Shape::Ring {
            for core in ["L", "N", "E"] {
                one.act(&format!("tail 1 {core} off"));
            }
        }
        one
    }

    fn act(&mut self, text: &str) {
        // What is written here is an act.
        if let Ok(act) = text.parse() {
            self.bench.act(act);
        }
    }

    /// Two presses: the second lets a contact settle. One reading.
    fn reads(&mut self, a: &str, b: &str) -> Option<f64> {
        self.readings += 1;
        for text in [format!("probe 1 {a}"), format!("probe 2 {b}"), "press".into(), "press".into()] {
            self.act(&text);
        }
        match self.bench.shown {
            MeterDisplay::Ohm(ohm) => Some(approximate(ohm)),
            _ => None,
        }
    }

    /// The links of a step, made or taken out.
    fn link(&mut self, wanted: Option<bool>) {
        if self.linked == wanted {
            return;
        }
        let ring = self.case.shape == Shape::Ring;
        let of = |earth: bool| -> Vec<[&str; 2]> {
            let step = usize::from(earth);
            if ring { LINKS[step].to_vec() } else { vec![RADIAL_LINKS[step]] }
        };
        if let Some(earth) = self.linked {
            for [a, b] in of(earth) {
                self.act(&format!("link {a} {b} off"));
            }
        }
        if let Some(earth) = wanted {
            for [a, b] in of(earth) {
                self.act(&format!("link {a} {b} on"));
            }
        }
        self.linked = wanted;
    }

    fn end_to_end(&mut self, core: usize) {
        self.link(None);
        let letter = ["L", "N", "E"][core];
        self.case.end_to_end[core] = Some(self.reads(&format!("w1t1-{letter}"), &format!("w1t2-{letter}")));
    }

    fn point(&mut self, index: usize, earth: bool) {
        self.link(Some(earth));
        let letter = if earth { "E" } else { "N" };
        let shown = self.reads(&format!("w1p{}-L", index + 1), &format!("w1p{}-{letter}", index + 1));
        let point = &mut self.case.points[index];
        if earth { point.r1_r2 = Some(shown) } else { point.r1_rn = Some(shown) }
    }

    fn board(&mut self, earth: bool) {
        self.link(Some(earth));
        let letter = if earth { "E" } else { "N" };
        self.case.board_check[usize::from(earth)] = Some(self.reads("w1t1-L", &format!("w1t1-{letter}")));
    }

    /// Does what the advice says, as a person reads it; whether it was something to read.
    fn follows(&mut self, advice: &str) -> bool {
        let at = |rest: &str| self.case.points.iter().position(|point| point.id == rest);
        if let Some(index) = advice.strip_prefix("Read line–neutral at ").and_then(at) {
            self.point(index, false);
        } else if let Some(index) = advice.strip_prefix("Read line–CPC at ").and_then(at) {
            self.point(index, true);
        } else if let Some(index) =
            advice.strip_prefix("Read ").and_then(|rest| rest.split(" again").next()).and_then(at)
        {
            self.point(index, false);
            self.point(index, true);
        } else if let Some(core) = ["Read r1", "Read rn", "Read r2"].iter().position(|head| advice.starts_with(head)) {
            self.end_to_end(core);
        } else if advice.starts_with("With the legs crossed") {
            self.board(advice.contains("CPC"));
        } else {
            return false;
        }
        true
    }

    /// Reads the next point whose polarity is outstanding, where nothing is wrong with what was read; whether there was one.
    fn owes(&mut self, said: &Diagnosis) -> bool {
        let sound = said.explanations.first().is_none_or(|first| first.kinds.is_empty());
        let owed = self.case.points.iter().position(|point| point.r1_rn.is_none() || point.r1_r2.is_none());
        let (true, Some(owed)) = (sound, owed) else { return false };
        if self.case.points[owed].r1_rn.is_none() {
            self.point(owed, false);
        }
        if self.case.points[owed].r1_r2.is_none() {
            self.point(owed, true);
        }
        true
    }
}

/// What came of playing the advice.
#[derive(Debug, Clone, PartialEq)]
pub struct Played {
    /// The bench afterwards.
    pub bench: Bench,
    /// How many readings it took.
    pub readings: usize,
    /// The last advice that was followed, and why; none where the first figures told all.
    pub settled_by: Option<Next>,
    /// What it is, as far as the figures tell: more than one where they read alike.
    pub named: Vec<Wrong>,
}

/// Plays an exercise of a circuit by the advice alone; `None` for another exercise.
///
/// # Errors
/// [`Refused`] when the circuit is none that is diagnosed.
pub fn play(posed: &Posed) -> Result<Option<Played>, Refused> {
    let Truth::Circuit { built, .. } = &posed.truth else { return Ok(None) };
    let mut one = Apprentice::begins(posed, built);
    if built.shape == Shape::Ring {
        (0..3).for_each(|core| one.end_to_end(core));
    } else if let Some(last) = built.points.len().checked_sub(1) {
        one.point(last, false);
        one.point(last, true);
    }
    let mut said = diagnose(&one.case)?;
    let mut settled_by = None;
    for _ in 0..4 * built.points.len() + 8 {
        let before = said.next.clone();
        if !(one.follows(&before.what) || one.owes(&said)) {
            break;
        }
        settled_by = Some(before);
        said = diagnose(&one.case)?;
    }
    let first = said.explanations.first();
    let named = first.and_then(|first| named(&first.kinds, built.points.len())).unwrap_or_default();
    Ok(Some(Played { readings: one.readings, bench: one.bench, settled_by, named }))
}

/// What the likeliest explanation is, in the words of the exercise; a place that the figures do not tell is left out.
fn named(kinds: &[Kind], points: usize) -> Option<Vec<Wrong>> {
    let index =
        |id: &str| id.strip_prefix("point ").and_then(|number| number.parse::<usize>().ok()).map(|number| number - 1);
    let places = |after: &Option<String>| -> Vec<Option<usize>> {
        match after.as_deref() {
            None => (0..=points).map(|at| at.checked_sub(1)).collect(),
            Some("board") => vec![None],
            Some(id) => vec![index(id)],
        }
    };
    match kinds {
        [] => Some(vec![Wrong::Sound]),
        [Kind::HighResistanceJoint { conductor, after }] => {
            Some(places(after).into_iter().map(|at| Wrong::Joint(*conductor, at)).collect())
        }
        [Kind::Open { conductor, after }] => {
            Some(places(after).into_iter().map(|at| Wrong::Open(*conductor, at)).collect())
        }
        // The leads were nulled: what stands in every figure is in the line, before the first point.
        [Kind::LeadsNotNulled] => Some(vec![Wrong::Joint(Core::L, None)]),
        // Pressed twice it did not fall: at the last point that is no contact, it is in the line before it.
        [Kind::Contact { at }] if index(at)? + 1 == points => {
            Some(vec![Wrong::Joint(Core::L, (points - 1).checked_sub(1))])
        }
        // Its switch stands on: it is seen. What is open in both steps is then neutral and CPC reversed.
        [Kind::SwitchOff { at }] => Some(vec![Wrong::Swap(Core::N, Core::E, index(at)?)]),
        [Kind::Swap { at, conductors: [a, b] }] => Some(vec![Wrong::Swap(*a, *b, index(at)?)]),
        _ => None,
    }
}
