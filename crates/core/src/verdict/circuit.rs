//! The readings of a circuit, judged.

use super::insulation::minimum_float;
use crate::calc::loop_impedance;
use crate::calc::loop_impedance::Loop;
use crate::calc::rcd::{Trip, trips_rightly};
use crate::conductor::Conductor;
use crate::expectation::Known;
use crate::house_rules::ZsLimit;
use crate::installation::{Circuit, Installation, Wiring};
use crate::network::copper::read_at;
use crate::quantity::{approximate, exact};
use crate::reading::{Key, Place, Settled, Step, Test, Value};
use crate::standard::devices::MaximumZs;
use crate::standard::insulation::VoltageBand;
use crate::standard::rcd::{TripWindow, source as rcd_source, window};
use crate::standard::ring::{LEGS_PROPORTION, LEGS_WITHIN, PROPORTION_FROM, legs_source, proportion_source};
use crate::standard::{devices, earthing, insulation};
use crate::verdict::{CircuitLimit, Judgement, Plausibility, circuit_limit, outcome, tell_tale};
use rust_decimal::{Decimal, dec};

/// Judges the readings of one circuit.
pub struct CircuitJudge<'a> {
    installation: &'a Installation,
    circuit: &'a Circuit,
    settled: &'a Settled<'a>,
    /// What is known and expected.
    pub known: Known<'a>,
    /// Its maximum Zs.
    pub limit: CircuitLimit,
}

impl<'a> CircuitJudge<'a> {
    /// Gathers what judging needs.
    pub fn new(installation: &'a Installation, circuit: &'a Circuit, settled: &'a Settled<'a>) -> Self {
        Self {
            installation,
            circuit,
            settled,
            known: Known::new(installation, circuit, settled),
            limit: circuit_limit(installation, circuit),
        }
    }

    /// The same without bases and working: for reviews and lists, which show verdicts only.
    pub fn brief(installation: &'a Installation, circuit: &'a Circuit, settled: &'a Settled<'a>) -> Self {
        Self {
            installation,
            circuit,
            settled,
            known: Known::brief(installation, circuit, settled),
            limit: circuit_limit(installation, circuit),
        }
    }

    /// The reading that stands for a step, judged; `None` when there is none.
    pub fn step(&self, step: &Step) -> Option<Judgement> {
        self.settled.value(&step.key).map(|value| self.judge(step, value))
    }

    /// Judges a value for a step.
    pub fn judge(&self, step: &Step, value: &Value) -> Judgement {
        let mut judgement = Judgement::blank(self.known.detailed());
        match value {
            Value::Limitation(reason) => judgement.not_judged("limit", &format!("limitation: {reason}")),
            Value::NotApplicable(reason) => judgement.not_judged("limit", &format!("not applicable: {reason}")),
            value => match step.key.test {
                Test::RingEndToEnd { conductor } => self.end(&mut judgement, step, conductor, value),
                Test::R1Rn | Test::R1R2 | Test::R2 => self.continuity(&mut judgement, step, value),
                Test::RingBoardCheck => self.board_check(&mut judgement, step, value),
                Test::Insulation | Test::InsulationJoined => self.insulation(&mut judgement, step, value),
                Test::Zs => self.zs(&mut judgement, step, value),
                Test::LineNeutralLoop => self.neutral_loop(&mut judgement, step, value),
                Test::RcdTrip { .. } => self.rcd(&mut judgement, step, value),
                _ => outcome(&mut judgement, value, self.installation.edition.rules().polarity),
            },
        }
        judgement
    }

    fn continuous(&self, judgement: &mut Judgement, value: &Value) -> Option<f64> {
        let source = self.installation.edition.rules().continuity;
        if *value == Value::Open || matches!(value, Value::Over(_)) {
            judgement.limit(false, || {
                ["conductors are continuous".to_owned(), "open".into(), "not continuous".into(), source.line()]
            });
            judgement.look_again("open: a switch that is off, a reversal, or a broken conductor".into());
        }
        value.float()
    }

    fn end(&self, judgement: &mut Judgement, step: &Step, conductor: Conductor, value: &Value) {
        let Some(ohm) = self.continuous(judgement, value) else { return };
        let source = self.installation.edition.rules().continuity;
        judgement.limit(true, || {
            ["conductors are continuous".to_owned(), format!("{ohm} Ω"), "continuous".into(), source.line()]
        });
        match self.known.band(&step.key) {
            Ok(band) => judgement.against(&band, ohm, "Ω"),
            Err(why) => judgement.not_judged("expected", why),
        }
        let other = match conductor {
            Conductor::L => Conductor::N,
            Conductor::N => Conductor::L,
            _ => return,
        };
        let key = Key::on_circuit(self.circuit.id, Place::Board, Test::RingEndToEnd { conductor: other });
        let Some(other_ohm) = self.settled.float(&key) else { return };
        let (least, most) = (ohm.min(other_ohm), ohm.max(other_ohm));
        let apart = exact(most).zip(exact(least)).map_or(0.0, |(most, least)| approximate(most - least));
        judgement.work("expected", || {
            [
                format!("r1 and rn within {} Ω and alike in proportion", LEGS_WITHIN.get()),
                format!("{most} − {least} = {apart} Ω"),
                format!("{:.0} % of the larger", if most > 0.0 { 100.0 * least / most } else { 100.0 }),
                format!("{}; {}", legs_source().line(), proportion_source().line()),
            ]
        });
        let same_size = Some(self.circuit.cable.line_mm2) == self.circuit.cable.neutral_mm2;
        if same_size && apart > LEGS_WITHIN.get() {
            judgement.look_again(format!("r1 and rn are {apart} Ω apart: a poor joint in the higher one"));
        } else if same_size && apart >= PROPORTION_FROM.get() && least < LEGS_PROPORTION * most {
            judgement.look_again(format!("r1 and rn are not alike in proportion: {least} beside {most}"));
        }
    }

    /// Line to the other conductor of the same leg, before walking.
    fn board_check(&self, judgement: &mut Judgement, step: &Step, value: &Value) {
        let Some(ohm) = self.continuous(judgement, value) else { return };
        match self.known.band(&step.key) {
            Ok(band) => {
                judgement.against(&band, ohm, "Ω");
                if ohm < band.low {
                    judgement.notes.push(
                        "a leg is linked to itself: change one leg over, and read here again before walking".into(),
                    );
                }
            }
            Err(why) => judgement.not_judged("expected", why),
        }
    }

    /// A switch in its open position: nothing should be read through it.
    fn open_position(&self, judgement: &mut Judgement, value: &Value) {
        let source = self.installation.edition.rules().polarity;
        let open = *value == Value::Open || matches!(value, Value::Over(_));
        judgement.limit(open, || {
            let said = if open { "open" } else { "not open" };
            ["closed reads, open goes over range".to_owned(), value.shown(), said.into(), source.line()]
        });
        if open {
            judgement.plausibility = Plausibility::Within;
        } else {
            judgement.look_again(
                "it reads with the switch open: the switch does not break this line, or line and CPC meet elsewhere"
                    .into(),
            );
        }
    }

    fn continuity(&self, judgement: &mut Judgement, step: &Step, value: &Value) {
        if step.expects_open() {
            self.open_position(judgement, value);
            return;
        }
        let source = self.installation.edition.rules().continuity;
        if *value == Value::Walked {
            judgement.limit(true, || {
                ["conductors are continuous".to_owned(), "walked".into(), "continuous".into(), source.line()]
            });
            judgement.not_judged("expected", "no figure was kept: every figure buys diagnosis");
            return;
        }
        let Some(ohm) = self.continuous(judgement, value) else { return };
        judgement.limit(true, || {
            ["conductors are continuous".to_owned(), format!("{ohm} Ω"), "continuous".into(), source.line()]
        });
        if step.key.test == Test::R1R2 {
            self.r1_r2_limit(judgement, value);
        }
        match self.known.band(&step.key) {
            Ok(band) => {
                judgement.against(&band, ohm, "Ω");
                if ohm < band.low {
                    judgement.notes.push("too low: a parallel path, a bridged ring, or not the cable you think".into());
                } else if step.key.test != Test::R1Rn && self.known.flattered_by_metal(&step.key, ohm) {
                    judgement.notes.push(
                        "lower than its own copper: metal beside the CPC is in the reading; take the accessory off the metal, fly lead off, and read again"
                            .into(),
                    );
                }
            }
            Err(why) => judgement.not_judged("expected", why),
        }
    }

    /// R1+R2 may use what the maximum Zs leaves above Ze.
    fn r1_r2_limit(&self, judgement: &mut Judgement, value: &Value) {
        let (Some(r1_r2), Some(maximum)) = (value.number(), self.limit.compared_ohm()) else {
            if let Err(why) = &self.limit.device {
                judgement.not_judged("limit", why);
            }
            return;
        };
        let (ze, said) = match self.known.ze.and_then(exact) {
            Some(ze) => (ze, if self.known.ze_name == "Ze" { "Ze as read" } else { "Zdb" }),
            None => (exact(self.installation.supply.system.declared_ze().get()).unwrap_or_default(), "declared Ze"),
        };
        let room = maximum - ze;
        let source = || match (&self.limit.device, self.limit.by_rcd) {
            (_, true) => earthing::rcd_zs_source().line(),
            (Ok(found), false) => format!("{}; {}", found.source.line(), devices::eighty_percent_source().line()),
            (Err(_), false) => String::new(),
        };
        judgement.limit(r1_r2 <= room, || {
            [
                "R1+R2 ≤ maximum Zs (compared cold) − Ze".to_owned(),
                format!("{r1_r2} ≤ {maximum} − {ze} ({said})"),
                format!("{room} Ω"),
                source(),
            ]
        });
        if r1_r2 > room {
            judgement.notes.push(format!("with {said} {ze} Ω the loop would exceed {maximum} Ω"));
        }
    }

    fn insulation(&self, judgement: &mut Judgement, step: &Step, value: &Value) {
        let minimum = exact(insulation::minimum(VoltageBand::UpTo500).get()).unwrap_or(Decimal::ONE);
        let shown = value.shown();
        let reads = match value {
            Value::Number(megohms) | Value::Over(megohms) => *megohms,
            _ => return,
        };
        judgement.limit(reads >= minimum, || {
            [
                "insulation resistance ≥ minimum".to_owned(),
                format!("{shown} MΩ at {} V d.c.", step.test_voltage.map_or(0.0, crate::quantity::Volts::get)),
                format!("minimum {minimum} MΩ"),
                self.installation.edition.rules().insulation.line(),
            ]
        });
        let Ok(band) = self.known.band(&step.key) else { return };
        if matches!(value, Value::Over(_)) {
            judgement.plausibility = Plausibility::Within;
            judgement.work("expected", || {
                [band.basis.clone(), format!("over range, {shown} MΩ"), "over range".into(), band.source.line()]
            });
            return;
        }
        let megohms = approximate(reads);
        judgement.against(&band, megohms, "MΩ");
        if megohms < minimum_float() {
            judgement.notes.push(tell_tale(megohms).to_owned());
        } else if megohms < insulation::LOOK_AGAIN_ANY.get() {
            judgement
                .notes
                .push(format!("under {} MΩ: it may be below the minimum tomorrow", insulation::LOOK_AGAIN_ANY.get()));
        } else if megohms < band.low && self.circuit.wiring == Wiring::New {
            judgement.notes.push("new wiring should be over range; fresh plaster lowers it and dries in days".into());
        }
    }

    fn zs(&self, judgement: &mut Judgement, step: &Step, value: &Value) {
        let Some(zs) = value.number() else {
            if *value == Value::Open {
                judgement.limit(false, || {
                    ["the loop is complete".to_owned(), "open".into(), "no loop".into(), String::new()]
                });
            }
            return;
        };
        let ze = self.known.ze;
        if ze.and_then(exact).is_some_and(|ze| zs < ze) {
            judgement.look_again(format!(
                "Zs below {} {} Ω: not judged; one of the two is wrong",
                self.known.ze_name,
                ze.unwrap_or_default()
            ));
            judgement.not_judged("limit", "a measured Zs below Ze is a finding, not a pass");
            return;
        }
        if self.limit.by_rcd {
            let limit = self.limit.rcd_ohm.unwrap_or_default();
            judgement.limit(zs <= limit, || {
                [
                    "Zs ≤ 50 V / IΔn".to_owned(),
                    format!("{zs} ≤ {limit}"),
                    format!("{limit} Ω"),
                    earthing::rcd_zs_source().line(),
                ]
            });
        } else {
            match &self.limit.device {
                Err(why) => judgement.not_judged("limit", why),
                Ok(maximum) => self.zs_by_device(judgement, zs, maximum),
            }
        }
        match self.known.band(&step.key) {
            Ok(band) => judgement.against(&band, approximate(zs), "Ω"),
            Err(why) => judgement.not_judged("expected", why),
        }
    }

    /// Line–neutral has no limit of its own; it should be what the copper gives.
    fn neutral_loop(&self, judgement: &mut Judgement, step: &Step, value: &Value) {
        let Some(ohm) = value.float() else { return };
        judgement.not_judged("limit", "the standard sets no limit to the line–neutral loop of a circuit");
        match self.known.band(&step.key) {
            Ok(band) => judgement.against(&band, ohm, "Ω"),
            Err(why) => judgement.not_judged("expected", why),
        }
    }

    fn zs_by_device(&self, judgement: &mut Judgement, zs: Decimal, maximum: &MaximumZs) {
        let device = self.circuit.device.shown();
        if self.installation.house_rules.zs_limit == ZsLimit::EightyPercent {
            judgement.limit(zs <= maximum.eighty_percent_ohm, || {
                [
                    "Zs ≤ 0.8 × printed maximum".to_owned(),
                    format!("{zs} ≤ 0.8 × {} ({device})", maximum.printed_ohm),
                    format!("{} Ω", maximum.eighty_percent_ohm),
                    format!("{}; {}", maximum.source.line(), devices::eighty_percent_source().line()),
                ]
            });
            return;
        }
        let (Some(ze), Some((r1_r2, _))) = (self.known.ze.and_then(exact), self.known.highest_r1_r2()) else {
            judgement.not_judged("limit", "the temperature rule wants Ze and R1+R2");
            return;
        };
        let given = Loop {
            ze,
            r1_r2: exact(r1_r2).unwrap_or_default(),
            measured_zs: Some(zs),
            working_c: dec!(70),
            test_c: exact(read_at(self.installation, self.circuit).get()).unwrap_or(dec!(20)),
        };
        let judged = loop_impedance::judge(&given, maximum);
        judgement.limit(judged.within_temperature == Some(true), || {
            [
                "Ze + (R1+R2) at working temperature ≤ printed maximum".to_owned(),
                format!("{} ≤ {} ({device})", judged.zs_at_working.round_dp(3), maximum.printed_ohm),
                format!("{} Ω", maximum.printed_ohm),
                maximum.source.line(),
            ]
        });
    }

    fn rcd(&self, judgement: &mut Judgement, step: &Step, value: &Value) {
        let Test::RcdTrip { multiple, .. } = step.key.test else { return };
        let Some(rcd) = self.installation.rcd_of(self.circuit) else {
            judgement.not_judged("limit", "no RCD covers this circuit");
            return;
        };
        let trip = match value {
            Value::Number(ms) => Trip::Ms(*ms),
            // Over range: it had not tripped when the instrument gave up.
            Value::NoTrip | Value::Over(_) => Trip::NoTrip,
            _ => return,
        };
        let window = window(rcd.kind, multiple);
        let result = match window {
            TripWindow::NoTrip => "no trip".to_owned(),
            TripWindow::Between { min_ms: Some(min), max_ms } => format!("{min} to {max_ms} ms"),
            TripWindow::Between { min_ms: None, max_ms } => format!("up to {max_ms} ms"),
        };
        judgement.limit(trips_rightly(window, trip), || {
            [
                "trip time within its window".to_owned(),
                format!("{} ({} mA, {})", value.shown(), rcd.idn_ma.normalize(), rcd.kind.name()),
                result,
                rcd_source(rcd.kind).line(),
            ]
        });
        judgement.not_judged("expected", "the circuit does not say how quickly an RCD trips");
    }
}
