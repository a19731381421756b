//! Proving dead: the pairs, what an indicator shows on them, and what that means.
//!
//! Any indication on any pair is *not isolated*, and the pattern of the three single-phase pairs
//! says how (the voltages table in [`proof_standard::limits::voltages`]).

use crate::installation::{Circuit, Lines, conductors, conductors_of};
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::limits::voltages;
use proof_standard::limits::voltages::{NO_INDICATION_UNDER, SupplyState};
use proof_standard::quantity::{Volts, approximate};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

/// What the indicator showed between a pair.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct PairShown {
    /// Between which.
    pub pair: Pair,
    /// V; 0 is no indication.
    pub volts: Decimal,
    /// It indicated, and showed no figure.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub lit: bool,
}

impl PairShown {
    /// Whether anything is indicated: a lamp without a figure, or a figure that is none of a display.
    pub fn indicates(&self) -> bool {
        self.lit || approximate(self.volts) >= NO_INDICATION_UNDER.get()
    }
}

/// What a record of proving dead lacks, so that it proves nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Lacking {
    /// Pairs of the conductors that there are.
    Pairs {
        /// Tested.
        tested: u8,
        /// Of so many.
        of: u8,
    },
    /// Something was indicated.
    Indication,
    /// The indicator was not proved before or not again after.
    Indicator,
    /// Another source was not isolated and proved with it.
    Source,
}

/// What a record of proving a board dead lacks, asked of the record itself: how many pairs it wants
/// follows from the conductors of the board.
///
/// # Errors
/// [`Lacking`]: what it lacks, so that it proves nothing.
pub fn proves(wanted: u8, pairs: u8, shown: &[PairShown], indicator: [Option<bool>; 2]) -> Result<(), Lacking> {
    if shown.iter().any(PairShown::indicates) {
        return Err(Lacking::Indication);
    }
    if indicator.contains(&Some(false)) {
        return Err(Lacking::Indicator);
    }
    if pairs < wanted {
        return Err(Lacking::Pairs { tested: pairs, of: wanted });
    }
    Ok(())
}

/// How many pairs there are to prove.
pub fn pair_count(lines: Lines) -> u8 {
    u8::try_from(pairs(lines).len()).unwrap_or(u8::MAX)
}

/// How many pairs there are to prove of one circuit.
pub fn circuit_pair_count(circuit: &Circuit) -> u8 {
    u8::try_from(circuit_pairs(circuit).len()).unwrap_or(u8::MAX)
}

/// What the pairs of a board mean together.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Isolation {
    /// No indication on any pair.
    Dead,
    /// Pairs that nobody tested.
    Incomplete(Vec<Pair>),
    /// Something is shown: what it is called.
    NotIsolated(&'static str),
}

/// The pairs to be proved of a board: three, or ten on three phases.
pub fn pairs(lines: Lines) -> Vec<Pair> {
    pairs_among(conductors_of(lines))
}

/// The pairs to be proved of one circuit, at the point of work: six where it has three lines and no neutral.
pub fn circuit_pairs(circuit: &Circuit) -> Vec<Pair> {
    pairs_among(conductors(circuit))
}

fn pairs_among(conductors: &[Conductor]) -> Vec<Pair> {
    let mut all = Vec::new();
    for (at, a) in conductors.iter().enumerate() {
        all.extend(conductors[at + 1..].iter().filter_map(|b| Pair::new(*a, *b).ok()));
    }
    all
}

/// Names the figure of a pair in forms: `v-l-n`.
pub fn field_of(pair: Pair) -> String {
    format!("v-{}", pair.key()).to_lowercase()
}

/// What the pairs of a board mean.
pub fn interpret(lines: Lines, shown: &[PairShown]) -> Isolation {
    meaning(&pairs(lines), shown)
}

/// What the pairs mean, of those that are wanted.
pub fn meaning(wanted: &[Pair], shown: &[PairShown]) -> Isolation {
    let volts = |pair: Pair| shown.iter().find(|one| one.pair == pair).map(|one| approximate(one.volts));
    let three = !wanted.contains(&Pair::LINE_EARTH);
    let live = |pair: Pair| shown.iter().any(|one| one.pair == pair && one.indicates());
    if shown.iter().any(|one| one.lit) {
        return Isolation::NotIsolated("not isolated: the indicator lights; find the source before going on");
    }
    if wanted.iter().any(|pair| live(*pair)) {
        if three {
            let between = wanted.iter().any(|pair| live(*pair) && !pair.is_to_earth() && pair.both().1 != Conductor::N);
            return Isolation::NotIsolated(if between {
                "not isolated: voltage between lines; the supply reaches this board"
            } else {
                "not isolated: a line, or the neutral, is at voltage; look for a second supply or a line left on"
            });
        }
        let at = |pair: Pair| Volts::new(volts(pair).unwrap_or(0.0)).unwrap_or(Volts::literal(0.0));
        let loaded = live(Pair::LINE_EARTH);
        return Isolation::NotIsolated(
            match voltages::interpret(at(Pair::LINE_NEUTRAL), at(Pair::LINE_EARTH), at(Pair::NEUTRAL_EARTH)) {
                SupplyState::LiveRight => "not isolated: live, polarity right; the switch is on or is another board's",
                SupplyState::LiveReversed => "not isolated: live, and line and neutral of the supply are reversed",
                SupplyState::ReversedBehindSinglePole if loaded => {
                    "not isolated: a single-pole device is off in a reversed supply and a load is connected; line and neutral of this board are live"
                }
                SupplyState::ReversedBehindSinglePole => {
                    "not isolated: a single-pole device is off in a reversed supply; the neutral of this board is live"
                }
                SupplyState::Dead | SupplyState::NotIsolated => {
                    "not isolated: an indication that no right circuit gives; find its source before going on"
                }
            },
        );
    }
    let missing: Vec<Pair> = wanted.iter().copied().filter(|pair| volts(*pair).is_none()).collect();
    if missing.is_empty() { Isolation::Dead } else { Isolation::Incomplete(missing) }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rust_decimal::dec;

    fn single(line_neutral: i64, line_earth: i64, neutral_earth: i64) -> Isolation {
        let shown =
            [(Pair::LINE_NEUTRAL, line_neutral), (Pair::LINE_EARTH, line_earth), (Pair::NEUTRAL_EARTH, neutral_earth)];
        interpret(
            Lines::Single,
            &shown.map(|(pair, volts)| PairShown { pair, volts: Decimal::from(volts), lit: false }),
        )
    }

    /// The table of voltages of the trade (common practice, no source).
    #[test]
    fn the_table_of_voltages() {
        assert_eq!(single(0, 0, 0), Isolation::Dead);
        assert_eq!(single(3, 9, 0), Isolation::Dead, "figures under 10 V");
        for (volts, word) in [
            ((230, 230, 0), "live, polarity right"),
            ((230, 0, 230), "reversed"),
            ((0, 0, 230), "single-pole device is off in a reversed supply"),
            ((0, 230, 230), "load is connected"),
            ((0, 10, 0), "no right circuit"),
            ((230, 230, 230), "no right circuit"),
        ] {
            let Isolation::NotIsolated(said) = single(volts.0, volts.1, volts.2) else { panic!("{volts:?}") };
            assert!(said.starts_with("not isolated") && said.contains(word), "{volts:?}: {said}");
        }
    }

    #[test]
    fn three_phases_have_ten_pairs_and_none_may_show() {
        let all = pairs(Lines::Three);
        assert_eq!(all.len(), 10);
        let mut shown: Vec<PairShown> =
            all.iter().map(|pair| PairShown { pair: *pair, volts: dec!(0), lit: false }).collect();
        assert_eq!(interpret(Lines::Three, &shown), Isolation::Dead);
        for at in 0..10 {
            shown[at].volts = dec!(400);
            assert!(matches!(interpret(Lines::Three, &shown), Isolation::NotIsolated(_)));
            shown[at].volts = dec!(0);
        }
        shown.pop();
        assert!(matches!(interpret(Lines::Three, &shown), Isolation::Incomplete(left) if left.len() == 1));
    }
}
