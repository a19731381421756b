//! What the pairs read when proving dead, and what that means.

use crate::limits::{LimitRow, Source};
use crate::quantity::Volts;

sources! {
    PAIRS: "voltages when proving dead" = Source::practice("voltages when proving dead, line–neutral, line–earth, neutral–earth");
    LIVE: "voltages at power" = Source::practice("voltages at power, line–neutral, line–earth, neutral–earth, by what is wrong");
    NO_INDICATION: "no indication" = Source::practice("dead is no indication on every pair; a figure, where shown, under 10 V");
}

/// A figure under this, where one is shown, is no indication.
pub const NO_INDICATION_UNDER: LimitRow<Volts> = LimitRow::new(Volts::literal(10.0), NO_INDICATION);

/// What three pair readings mean.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SupplyState {
    /// Live and the right way round.
    LiveRight,
    /// Live, line and neutral reversed.
    LiveReversed,
    /// A single-pole device is off in a reversed supply.
    ReversedBehindSinglePole,
    /// No indication on any pair.
    Dead,
    /// Some indication that fits none of the above.
    NotIsolated,
}

/// L–N, L–E and N–E in V, the state, and whether it is isolated.
pub const TABLE: LimitRow<[([f64; 3], SupplyState); 5]> = LimitRow::new(
    [
        ([230.0, 230.0, 0.0], SupplyState::LiveRight),
        ([230.0, 0.0, 230.0], SupplyState::LiveReversed),
        ([0.0, 0.0, 0.0], SupplyState::Dead),
        ([0.0, 0.0, 230.0], SupplyState::ReversedBehindSinglePole),
        ([0.0, 230.0, 230.0], SupplyState::ReversedBehindSinglePole),
    ],
    PAIRS,
);

/// What an indicator shows at a live point of 230 V, by what is right or wrong: line–neutral, line–earth,
/// neutral–earth, V. A conductor that is lost floats: what it shows then depends on what hangs on it.
pub const AT_POWER: LimitRow<[(&str, [&str; 3]); 6]> = LimitRow::new(
    [
        ("healthy", ["230", "230", "0, a few at most"]),
        ("line and neutral reversed", ["230", "0", "230"]),
        ("line and earth reversed: metal is live", ["0", "230", "230"]),
        ("neutral lost, a load on", ["0", "230", "up to 230"]),
        ("neutral lost, no load", ["floats", "230", "floats"]),
        ("earth lost", ["230", "floats", "floats"]),
    ],
    LIVE,
);

/// Reads the table: any indication at all is not isolated.
pub fn interpret(line_neutral: Volts, line_earth: Volts, neutral_earth: Volts) -> SupplyState {
    let shown = [line_neutral, line_earth, neutral_earth].map(|v| v.get() >= NO_INDICATION_UNDER.get());
    TABLE
        .iter()
        .find(|(row, _)| row.map(|v| v >= NO_INDICATION_UNDER.get()) == shown)
        .map_or(SupplyState::NotIsolated, |(_, state)| *state)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Common practice, no source.
    #[test]
    fn every_row_reads_back_and_odd_ones_are_not_isolated() {
        for (row, state) in TABLE.value {
            let [a, b, c] = row.map(|v| Volts::new(v).unwrap());
            assert_eq!(interpret(a, b, c), state);
        }
        let v = |x| Volts::literal(x);
        assert_eq!(interpret(v(9.0), v(0.4), v(3.0)), SupplyState::Dead);
        assert_eq!(interpret(v(0.0), v(12.0), v(0.0)), SupplyState::NotIsolated);
    }
}
