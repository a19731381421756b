//! The readings of a circuit, judged.

use super::insulation::minimum_float;
use crate::copper::read_at;
use crate::expectation::{Band, Known, Unknown};
use crate::verdict::trip::trip_time;
use crate::verdict::{
    Above, CircuitLimit, Judgement, NotJudged, Path, Plausibility, Reason, Rule, WorkingPart, circuit_limit,
    likely_cause, outcome,
};
use proof_job::installation::{Circuit, Installation, Residual};
use proof_job::reading::{CurrentReadings, Key, Place, Step, Test, Value};
use proof_standard::calc::loop_impedance;
use proof_standard::calc::loop_impedance::Loop;
use proof_standard::conductor::Conductor;
use proof_standard::house_rules::ZsLimit;
use proof_standard::limits::devices::MaximumZs;
use proof_standard::limits::ring::{LEGS_ALIKE, LEGS_PROPORTION, LEGS_WITHIN, PROPORTION, PROPORTION_FROM};
use proof_standard::limits::{devices, earthing, insulation};
use proof_standard::quantity::{approximate, exact};
use rust_decimal::{Decimal, dec};
use std::cell::OnceCell;

/// Judges the readings of one circuit: the one judge of them. What is shown in words follows from the same verdict.
pub struct CircuitJudge<'a> {
    installation: &'a Installation,
    circuit: &'a Circuit,
    settled: &'a CurrentReadings<'a>,
    /// What is known and expected.
    pub known: Known<'a>,
    /// The same, saying what each band follows from: made when it is asked for.
    in_words: OnceCell<Known<'a>>,
    /// Its maximum Zs.
    pub limit: CircuitLimit,
}

impl<'a> CircuitJudge<'a> {
    /// Gathers what judging needs.
    pub fn new(installation: &'a Installation, circuit: &'a Circuit, settled: &'a CurrentReadings<'a>) -> Self {
        Self {
            installation,
            circuit,
            settled,
            known: Known::new(installation, circuit, settled),
            in_words: OnceCell::new(),
            limit: circuit_limit(installation, circuit),
        }
    }

    fn in_words(&self) -> &Known<'a> {
        self.in_words.get_or_init(|| self.known.in_words())
    }

    /// What a reading should be, and what that follows from.
    ///
    /// # Errors
    /// What would have to be known first.
    pub fn band(&self, key: &Key) -> Result<Band, Unknown> {
        self.in_words().band(key)
    }

    /// The reading that stands for a step, judged; `None` when there is none.
    pub fn step(&self, step: &Step) -> Option<Judgement> {
        self.settled.value(&step.key).map(|value| self.judge(step, value))
    }

    /// Judges a value for a step.
    pub fn judge(&self, step: &Step, value: &Value) -> Judgement {
        self.judged(&self.known, step, value)
    }

    /// The same verdict with its working.
    pub fn explain(&self, step: &Step, value: &Value) -> Judgement {
        self.judged(self.in_words(), step, value)
    }

    fn judged(&self, known: &Known<'a>, step: &Step, value: &Value) -> Judgement {
        let mut judgement = Judgement::blank(known.detailed());
        if judgement.excused(value) {
            return judgement;
        }
        match step.key.test {
            Test::RingEndToEnd { conductor } => self.end(&mut judgement, step, conductor, value),
            Test::R1Rn | Test::R1R2 | Test::R2 => self.continuity(&mut judgement, step, value),
            Test::RingBoardCheck => self.board_check(&mut judgement, step, value),
            Test::Insulation | Test::InsulationJoined => self.insulation(&mut judgement, step, value),
            Test::Zs => self.zs(&mut judgement, step, value),
            Test::LineNeutralLoop => self.neutral_loop(&mut judgement, step, value),
            Test::RcdTrip { .. } => self.rcd(&mut judgement, step, value),
            _ => outcome(&mut judgement, value, self.installation.edition.rules().polarity),
        }
        judgement
    }

    /// The band, in words where the judgement has its working.
    fn expected(&self, judgement: &Judgement, key: &Key) -> Result<Band, Unknown> {
        if judgement.detailed { self.in_words().band(key) } else { self.known.band(key) }
    }

    /// The number of a conductor that should be continuous; none where it is open.
    fn continuous(&self, judgement: &mut Judgement, value: &Value) -> Option<f64> {
        let open = *value == Value::Open || matches!(value, Value::Over(_));
        if open {
            judgement.look_again(Reason::Open);
        }
        if open || value.number().is_some() {
            judgement.complete(Path::Conductors, value, !open, &[self.installation.edition.rules().continuity]);
        }
        value.float()
    }

    fn end(&self, judgement: &mut Judgement, step: &Step, conductor: Conductor, value: &Value) {
        let Some(ohm) = self.continuous(judgement, value) else { return };
        let band = self.expected(judgement, &step.key);
        judgement.against_known(band, ohm, "Ω");
        let other = match conductor {
            Conductor::L => Conductor::N,
            Conductor::N => Conductor::L,
            _ => return,
        };
        let key = Key::on_circuit(self.circuit.id, Place::Board, Test::RingEndToEnd { conductor: other });
        let (Some(own), Some(other)) = (value.number(), self.settled.value(&key).and_then(Value::number)) else {
            return;
        };
        let (least_ohm, most_ohm) = (own.min(other).normalize(), own.max(other).normalize());
        let by_ohm = (most_ohm - least_ohm).normalize();
        judgement.work(WorkingPart::Expected, &[LEGS_ALIKE, PROPORTION], || Rule::LegsAlike {
            within: LEGS_WITHIN.get(),
            least: least_ohm,
            most: most_ohm,
        });
        let (apart, least, most) = (approximate(by_ohm), approximate(least_ohm), approximate(most_ohm));
        let same_size = Some(self.circuit.cable.line_mm2) == self.circuit.cable.neutral_mm2;
        if same_size && apart > LEGS_WITHIN.get() {
            judgement.look_again(Reason::LegsApart { by_ohm });
        } else if same_size && apart >= PROPORTION_FROM.get() && least < *LEGS_PROPORTION * most {
            judgement.look_again(Reason::LegsOutOfProportion { least_ohm, most_ohm });
        }
    }

    /// Line to the other conductor of the same leg, before walking.
    fn board_check(&self, judgement: &mut Judgement, step: &Step, value: &Value) {
        let open = *value == Value::Open || matches!(value, Value::Over(_));
        if open {
            self.continuous(judgement, value);
        }
        let Some(ohm) = value.float() else { return };
        let band = self.expected(judgement, &step.key);
        let own_leg = band.as_ref().is_ok_and(|band| band.is_below(ohm));
        judgement.against_known(band, ohm, "Ω");
        if own_leg {
            judgement.reasons.push(Reason::OwnLeg);
        }
    }

    /// A switch in its open position: nothing should be read through it.
    fn open_position(&self, judgement: &mut Judgement, value: &Value) {
        let open = *value == Value::Open || matches!(value, Value::Over(_));
        judgement
            .limit(open, &[self.installation.edition.rules().polarity], || Rule::Opens { read: value.clone(), open });
        if open {
            judgement.plausibility = Plausibility::Within;
        } else {
            judgement.look_again(Reason::ReadsWithSwitchOpen);
        }
    }

    fn continuity(&self, judgement: &mut Judgement, step: &Step, value: &Value) {
        if step.expects_open() {
            self.open_position(judgement, value);
            return;
        }
        if *value == Value::Walked {
            judgement.complete(Path::Conductors, value, true, &[self.installation.edition.rules().continuity]);
            judgement.not_judged(WorkingPart::Expected, NotJudged::NoFigure);
            return;
        }
        let Some(ohm) = self.continuous(judgement, value) else { return };
        if step.key.test == Test::R1R2 {
            self.r1_r2_limit(judgement, value);
        }
        let band = self.expected(judgement, &step.key);
        let low = band.as_ref().ok().map(|band| band.is_below(ohm));
        judgement.against_known(band, ohm, "Ω");
        if low == Some(true) {
            judgement.reasons.push(Reason::TooLow);
        } else if low == Some(false)
            && step.key.test != Test::R1Rn
            && self.known.lowered_by_parallel_path(&step.key, ohm)
        {
            judgement.reasons.push(Reason::MetalInReading);
        }
    }

    /// Which loop stands above this circuit.
    fn above(&self) -> Above {
        if self.known.below_origin { Above::Zdb } else { Above::Ze }
    }

    /// The loop above, Ω: as read, else as declared, which is an assumption.
    fn loop_above(&self) -> (Decimal, Above) {
        match self.known.ze.and_then(exact) {
            Some(ze) => (ze, self.above()),
            None => (*self.installation.declared_ze(), Above::Declared),
        }
    }

    /// R1+R2 may use what the maximum Zs leaves above Ze.
    fn r1_r2_limit(&self, judgement: &mut Judgement, value: &Value) {
        if self.installation.house_rules.zs_limit == ZsLimit::Temperature
            && !self.limit.by_rcd
            && let (Ok(maximum), Some(r1_r2)) = (&self.limit.device, value.number())
        {
            self.r1_r2_when_warm(judgement, r1_r2, maximum);
            return;
        }
        let (Some(r1_r2), Some(maximum)) = (value.number(), self.limit.compared_ohm()) else {
            if let Err(why) = &self.limit.device {
                judgement.not_judged(WorkingPart::Limit, why.clone());
            }
            return;
        };
        let (ze, above) = self.loop_above();
        let sources = match (&self.limit.device, self.limit.by_rcd) {
            (_, true) => vec![earthing::ELECTRODE],
            (Ok(found), false) => vec![found.source, devices::EIGHTY],
            (Err(_), false) => Vec::new(),
        };
        let within = r1_r2 <= maximum - ze;
        // What is over the maximum by its copper alone waits for no Ze.
        if !within && above == Above::Declared && r1_r2 <= maximum {
            judgement.waits_for_ze(ze, maximum);
            return;
        }
        judgement.limit(within, &sources, || Rule::RoomForCopper { r1_r2, maximum, ze, above });
        if !within {
            judgement.reasons.push(Reason::LoopWouldExceed { above, above_ohm: ze, maximum_ohm: maximum });
        }
    }

    /// The same by the temperature way: warm, Ze and the copper stay under the printed value itself.
    fn r1_r2_when_warm(&self, judgement: &mut Judgement, r1_r2: Decimal, maximum: &MaximumZs) {
        let (ze, above) = self.loop_above();
        let (printed, device) = (maximum.printed_ohm, self.circuit.device.shown());
        let judged = loop_impedance::judge(&self.when_warm(ze, r1_r2, None), maximum);
        let within = judged.within_temperature == Some(true);
        let copper_alone = || loop_impedance::judge(&self.when_warm(Decimal::ZERO, r1_r2, None), maximum);
        if !within && above == Above::Declared && copper_alone().within_temperature == Some(true) {
            judgement.waits_for_ze(ze, printed);
            return;
        }
        judgement.limit(within, &[maximum.source], || Rule::AtWorkingTemperature {
            zs: judged.zs_at_working,
            printed,
            device,
        });
        if !within {
            judgement.reasons.push(Reason::LoopWouldExceed { above, above_ohm: ze, maximum_ohm: printed });
        }
    }

    /// The loop of this circuit for the temperature way.
    fn when_warm(&self, ze: Decimal, r1_r2: Decimal, measured_zs: Option<Decimal>) -> Loop {
        Loop {
            ze,
            r1_r2,
            measured_zs,
            working_c: exact(self.circuit.cable.working().get()).unwrap_or_default(),
            test_c: exact(read_at(self.installation, self.circuit).get()).unwrap_or(dec!(20)),
        }
    }

    fn insulation(&self, judgement: &mut Judgement, step: &Step, value: &Value) {
        let (Value::Number(reads) | Value::Over(reads)) = value else { return };
        let minimum = exact(minimum_float(self.circuit.band.row())).unwrap_or(Decimal::ONE);
        judgement.limit(*reads >= minimum, &[self.installation.edition.rules().insulation], || Rule::Insulation {
            read: value.clone(),
            volts: Some(step.test_voltage.map_or(0.0, proof_standard::quantity::Volts::get)),
            minimum,
        });
        let Ok(band) = self.expected(judgement, &step.key) else { return };
        if matches!(value, Value::Over(_)) {
            judgement.plausibility = Plausibility::Within;
            let rule = || Rule::OverRange { basis: band.basis.clone(), read: value.clone() };
            judgement.work(WorkingPart::Expected, &[band.source], rule);
            return;
        }
        let megohms = approximate(*reads);
        judgement.against(&band, megohms, "MΩ");
        if megohms < minimum_float(self.circuit.band.row()) {
            judgement.reasons.push(Reason::InsulationLow { commonly: likely_cause(megohms, step.key.is_to_earth()) });
        } else if megohms < insulation::LOOK_AGAIN_ANY.get() {
            let under_mohm = exact(insulation::LOOK_AGAIN_ANY.get()).unwrap_or_default();
            judgement.reasons.push(Reason::MayFall { under_mohm });
        } else if band.is_below(megohms) && !self.known.older_wiring {
            judgement.reasons.push(Reason::NewWiringLow);
        }
    }

    fn zs(&self, judgement: &mut Judgement, step: &Step, value: &Value) {
        let Some(zs) = value.number() else {
            if *value == Value::Open {
                judgement.complete(Path::Loop, value, false, &[]);
            }
            return;
        };
        if let Some(ze) = self.known.ze.filter(|ze| exact(*ze).is_some_and(|ze| zs < ze)) {
            let above_ohm = format!("{ze}").parse().unwrap_or_default();
            judgement.look_again(Reason::ZsBelow { above: self.above(), above_ohm });
            judgement.not_judged(WorkingPart::Limit, NotJudged::BelowZe);
            return;
        }
        if let Some(limit) = self.limit.rcd_ohm.filter(|_| self.limit.by_rcd) {
            judgement.limit(zs <= limit, &[earthing::ELECTRODE], || Rule::ZsByRcd { zs, limit });
        } else {
            match &self.limit.device {
                Err(why) => judgement.not_judged(WorkingPart::Limit, why.clone()),
                Ok(maximum) => self.zs_by_device(judgement, zs, maximum),
            }
        }
        let band = self.expected(judgement, &step.key);
        judgement.against_known(band, approximate(zs), "Ω");
    }

    /// Line–neutral has no limit of its own; it should be what the copper gives.
    fn neutral_loop(&self, judgement: &mut Judgement, step: &Step, value: &Value) {
        let Some(ohm) = value.float() else { return };
        judgement.not_judged(WorkingPart::Limit, NotJudged::NeutralLoop);
        let band = self.expected(judgement, &step.key);
        judgement.against_known(band, ohm, "Ω");
    }

    fn zs_by_device(&self, judgement: &mut Judgement, zs: Decimal, maximum: &MaximumZs) {
        let (device, printed) = (self.circuit.device.shown(), maximum.printed_ohm);
        if self.installation.house_rules.zs_limit == ZsLimit::EightyPercent {
            let limit = maximum.eighty_percent_ohm;
            let sources = [maximum.source, devices::EIGHTY];
            judgement.limit(zs <= limit, &sources, || Rule::EightyPercent { zs, printed, limit, device });
            return;
        }
        let (Some(ze), Some((r1_r2, _))) = (self.known.ze.and_then(exact), self.known.highest_r1_r2()) else {
            judgement.not_judged(WorkingPart::Limit, NotJudged::TemperatureRule);
            return;
        };
        let Some(r1_r2) = exact(r1_r2) else {
            judgement.not_judged(WorkingPart::Limit, NotJudged::TemperatureRule);
            return;
        };
        let given = self.when_warm(ze, r1_r2, Some(zs));
        let judged = loop_impedance::judge(&given, maximum);
        judgement.limit(judged.within_temperature == Some(true), &[maximum.source], || Rule::AtWorkingTemperature {
            zs: judged.zs_at_working,
            printed,
            device,
        });
    }

    fn rcd(&self, judgement: &mut Judgement, step: &Step, value: &Value) {
        let Test::RcdTrip { multiple, .. } = step.key.test else { return };
        let Some(rcd) = self.installation.rcd_for(self.circuit) else {
            judgement.not_judged(WorkingPart::Limit, NotJudged::NoRcd);
            return;
        };
        let residual = Residual { idn_ma: rcd.idn_ma, kind: rcd.kind };
        trip_time(judgement, self.installation, (residual, multiple), value);
    }
}
