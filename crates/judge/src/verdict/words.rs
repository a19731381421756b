//! The words of reasons and of what a reading is held to.

use crate::expectation::Expected;
use crate::verdict::bound::{Above, Bound, Path};
use crate::verdict::reason::{LowInsulation, Reason};
use proof_standard::calc::fault_current::Warning;
use std::fmt::{Display, Formatter, Result};

impl Display for Reason {
    fn fmt(&self, f: &mut Formatter<'_>) -> Result {
        f.write_str(&reason(self))
    }
}

impl Display for Bound {
    fn fmt(&self, f: &mut Formatter<'_>) -> Result {
        f.write_str(&bound(self))
    }
}

impl Display for LowInsulation {
    fn fmt(&self, f: &mut Formatter<'_>) -> Result {
        f.write_str(low_insulation(*self))
    }
}

/// `0.35–0.45 Ω`, `200 MΩ or more`, or `open`.
fn expected(expected: &Expected) -> String {
    let Expected { low, high, unit } = expected;
    match (low, high) {
        (None, _) => "open".to_owned(),
        (Some(low), Some(high)) => format!("{low}–{high} {unit}"),
        (Some(low), None) => format!("{low} {unit} or more"),
    }
}

/// What stands in brackets after "outside its limit".
fn bound(bound: &Bound) -> String {
    match bound {
        Bound::AtMost { most, unit } => format!("{most} {unit}"),
        Bound::AtLeast { least, unit } => format!("minimum {least} {unit}"),
        Bound::Electrode { most_ohm, touch_v } => format!("{most_ohm} Ω; {touch_v} V at IΔn"),
        Bound::NoTrip => "no trip".to_owned(),
        Bound::Trips { min_ms: Some(min), max_ms } => format!("{min} to {max_ms} ms"),
        Bound::Trips { min_ms: None, max_ms } => format!("up to {max_ms} ms"),
        Bound::Complete(Path::Conductors | Path::Bond) => "not continuous".to_owned(),
        Bound::Complete(Path::EarthingConductor) => "open".to_owned(),
        Bound::Complete(Path::Supply | Path::Electrode) => "no path".to_owned(),
        Bound::Complete(Path::Loop) => "no loop".to_owned(),
        Bound::Opens => "not open".to_owned(),
        Bound::Right => "fail".to_owned(),
    }
}

const fn low_insulation(low: LowInsulation) -> &'static str {
    match low {
        LowInsulation::Short => "about zero: a short, or a load left in",
        LowInsulation::Neon => {
            "about a quarter of a megohm between live conductors: commonly a neon indicator; turn its switch off and read again"
        }
        LowInsulation::Wet => "under 1 MΩ: damaged cable, or something with water in it",
        LowInsulation::Dirt => "low: fresh plaster, grease or dirt behind accessories",
    }
}

fn warned(warning: Warning) -> String {
    match warning {
        Warning::Doubled => {
            "twice line–neutral is exact when line and neutral are alike and safe when the neutral is larger; with a reduced neutral it is low".to_owned()
        }
        Warning::Root3 => "√3 × line–neutral is 13 % low when line and neutral are alike: doubling is the safe side".to_owned(),
        Warning::LineLineLow { line_line_ka, line_neutral_ka } => format!(
            "line–line gives {line_line_ka} kA, less than the {line_neutral_ka} kA of line–neutral: one of the two readings is wrong"
        ),
        Warning::AboveCapacity { recorded_ka, capacity_ka } => {
            format!("the fault current {recorded_ka} kA is above the breaking capacity {capacity_ka} kA")
        }
    }
}

const fn above(above: Above) -> &'static str {
    match above {
        Above::Zdb => "Zdb",
        Above::Ze | Above::Declared => "Ze",
    }
}

/// A reason.
fn reason(reason: &Reason) -> String {
    let said = match reason {
        Reason::Lower { expected: band } => {
            return format!("lower than this circuit should give: expected {}", expected(band));
        }
        Reason::Higher { expected: band } => {
            return format!("higher than this circuit should give: expected {}", expected(band));
        }
        Reason::Open => "open: a switch that is off, a reversal, or a broken conductor",
        Reason::LegsApart { by_ohm } => {
            return format!("r1 and rn are {by_ohm} Ω apart: a poor joint in the higher one");
        }
        Reason::LegsOutOfProportion { least_ohm, most_ohm } => {
            return format!("r1 and rn are not alike in proportion: {least_ohm} beside {most_ohm}");
        }
        Reason::OwnLeg => "a leg is linked to itself: change one leg over, and read here again before walking",
        Reason::ReadsWithSwitchOpen => {
            "it reads with the switch open: the switch does not break this line, or line and CPC meet elsewhere"
        }
        Reason::TooLow => "too low: a parallel path, a bridged ring, or not the cable you think",
        Reason::MetalInReading => {
            "lower than its own copper: metal beside the CPC is in the reading; take the accessory off the metal, fly lead off, and read again"
        }
        Reason::LoopWouldExceed { above, above_ohm, maximum_ohm } => {
            return format!("with {} {above_ohm} Ω the loop would exceed {maximum_ohm} Ω", above.label());
        }
        Reason::WaitsForZe { declared_ohm, maximum_ohm } => {
            return format!(
                "waits for Ze: with the declared {declared_ohm} Ω the loop would exceed {maximum_ohm} Ω; read Ze, and it is judged"
            );
        }
        Reason::InsulationLow { commonly } => low_insulation(*commonly),
        Reason::MayFall { under_mohm } => {
            return format!("under {under_mohm} MΩ: it may be below the minimum tomorrow");
        }
        Reason::NewWiringLow => "new wiring should be over range; fresh plaster lowers it and dries in days",
        Reason::ZsBelow { above: which, above_ohm } => {
            return format!("Zs below {} {above_ohm} Ω: not judged; one of the two is wrong", above(*which));
        }
        Reason::WholeAboveLowest => "a whole is never above its lowest circuit: one of the two was read wrongly",
        Reason::TooFast { least_ms } => {
            return format!("no residual device trips in less than {least_ms} ms: was it shown in seconds?");
        }
        Reason::Wrong => "wrong: isolate and prove dead before touching it",
        Reason::OverDeclared => "over the declared value: ask the distributor, or write down the explanation",
        Reason::ZeroLoop => "zero: no loop reads zero; was it the leads?",
        Reason::MayNotBeStable { above_ohm } => {
            return format!("above {above_ohm} Ω it may not be stable: dry or frozen soil raises it");
        }
        Reason::NotItsLoop { ka, loop_ohm, by_loop_ka } => {
            return format!(
                "{ka} kA does not match its own loop of {loop_ohm} Ω, which gives {by_loop_ka} kA: one of the two was read or written wrongly"
            );
        }
        Reason::AboveZe { ze_ohm } => {
            return format!("above Ze {ze_ohm} Ω: with the earth back on, paths in parallel can only lower it");
        }
        Reason::MoreThanAbove { above_ka } => return format!("more than the {above_ka} kA of the board that feeds it"),
        Reason::FaultCurrent { warning } => return warned(*warning),
    };
    said.to_owned()
}
