//! What goes off: residual devices under a loop test, a trip test, a series of them.

use super::bench::Bench;
use super::instrument::{LOOP_V, MeterDisplay};
use super::terminal::{Terminal, Wire};
use crate::meter::{Meter, shown};
use proof_standard::limits::rcd::{HalfCycle, Multiple, RcdKind};

/// At five times its rated current a residual device takes this share of the time; and how a time scatters. Invented for
/// the bench.
const FIVE_TIMES_FASTER: f64 = 0.4;
const TRIP_SCATTER: f64 = 0.05;

const fn times(multiple: Multiple) -> f64 {
    match multiple {
        Multiple::Half => 0.5,
        Multiple::One => 1.0,
        Multiple::Five => 5.0,
    }
}

fn is_earth(terminal: Terminal) -> bool {
    matches!(
        terminal,
        Terminal::Point { core: Wire::E, .. }
            | Terminal::Bar(Wire::E)
            | Terminal::SubBar(_, Wire::E)
            | Terminal::Metal(_)
            | Terminal::BondEnd(_)
            | Terminal::Electrode
    )
}

impl Bench {
    /// The way that a current between two terminals comes through, where it returns by earth.
    fn way_of(&self, two: [Terminal; 2]) -> Option<usize> {
        let of = |terminal: &Terminal| match terminal {
            Terminal::SubBar(board, _) => self.rig.boards.get(*board).map(|board| board.fed_by),
            other => other.way(),
        };
        let line = two.iter().find(|one| !is_earth(**one))?;
        two.iter().any(|one| is_earth(*one)).then(|| of(line)).flatten()
    }

    /// The ways upstream, nearest first, that have a residual device, and it.
    fn residuals(&self, way: usize) -> Vec<(usize, super::Residual)> {
        let all = self.rig.upstream(way).into_iter();
        all.filter_map(|way| Some((way, self.rig.ways[way].residual?))).collect()
    }

    /// A loop test at full current trips what is in its way, the delayed ones where nothing faster is.
    pub(super) fn loops(&mut self, meter: &mut Meter) -> MeterDisplay {
        let read = self.instrument.loop_ohm(&self.grid(0.0), meter);
        let [Some(a), Some(b)] = self.instrument.two() else { return read };
        let Some(way) = self.way_of([a, b]) else { return read };
        let residuals = self.residuals(way);
        let fast = residuals.iter().find(|(_, device)| device.kind != RcdKind::Selective);
        if let (MeterDisplay::Loop(_), Some((way, _))) = (read, fast.or(residuals.first())) {
            self.state.ways_on[*way] = false;
            self.message =
                format!("The residual device of way {} went off: the test current is over its rated one.", way + 1);
            return MeterDisplay::Tripped;
        }
        read
    }

    /// One test of a residual device: the nearest upstream of where the probes are.
    pub(crate) fn trips(&mut self, multiple: Multiple, half: HalfCycle, meter: &mut Meter) -> MeterDisplay {
        let [Some(a), Some(b)] = self.instrument.two() else { return MeterDisplay::Open };
        if self.across() < LOOP_V {
            return MeterDisplay::NoSupply;
        }
        let residuals = self.way_of([a, b]).map(|way| self.residuals(way)).unwrap_or_default();
        let Some((way, device)) = residuals.first().copied().filter(|_| multiple != Multiple::Half) else {
            return MeterDisplay::NoTrip;
        };
        let current_ma = device.rated_ma * times(multiple);
        self.state.ways_on[way] = false;
        // One upstream without delay and no larger goes with it: they do not discriminate.
        for (upstream, other) in &residuals[1..] {
            if other.kind != RcdKind::Selective && other.rated_ma <= current_ma {
                self.state.ways_on[*upstream] = false;
                self.message = format!("The device of way {} upstream went off with it.", upstream + 1);
            }
        }
        let own = device.trips_ms[usize::from(half == HalfCycle::Deg180)];
        let faster = if multiple == Multiple::Five { FIVE_TIMES_FASTER } else { 1.0 };
        MeterDisplay::Millis(shown(own * faster * meter.between(1.0 - TRIP_SCATTER, 1.0 + TRIP_SCATTER), 1))
    }

    /// The series: on from where it was, up to the next trip; then what tripped is put on again, and the button pressed
    /// once more.
    pub(super) fn series(&mut self, meter: &mut Meter) -> (MeterDisplay, String) {
        let tests = self.instrument.series();
        let mut last = MeterDisplay::NoSupply;
        let mut said = Vec::new();
        while let Some((multiple, half)) = tests.get(self.in_series).copied() {
            let shown = self.trips(multiple, half, meter);
            if matches!(shown, MeterDisplay::NoSupply | MeterDisplay::Open) {
                if said.is_empty() {
                    return (shown, String::new());
                }
                break;
            }
            last = shown;
            self.in_series += 1;
            said.push(format!("{} at {}: {}", multiple.label(), half.label(), shown.text()));
            if matches!(shown, MeterDisplay::Millis(_)) {
                break;
            }
        }
        let done = self.in_series >= tests.len();
        let next = if done { " The series is done." } else { " Switch it on again and press test." };
        if done {
            self.in_series = 0;
        }
        let said = said.join("; ");
        self.message = format!("{said}.{next}");
        (last, said)
    }
}
