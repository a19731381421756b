//! The words of findings that came after judgements bound to what was found: these may be worded anew.

use crate::design::{Described, Flaw, Guards, Lacks, Undecided};
use crate::installation::Decided;
use crate::review::slip::Unlikely;
use crate::review::{Reason, Slip};
use crate::standard::Source;
use crate::standard::devices::REWIRABLE_FACTOR;
use crate::standard::rcd::{BATHS, HIDDEN, LIGHTS, OUTDOORS};

/// The words of today, where they are not those of then.
pub(super) fn what(reason: &Reason) -> Option<String> {
    Some(match reason {
        Reason::Flaw(found) => flaw(found),
        Reason::Slip(found) => slip(found),
        Reason::PolarityOwed { wanting, live } => {
            let said = format!("polarity is not proved: {wanting}");
            if *live { format!("energised with a dead test missing: {said}") } else { said }
        }
        Reason::Owed { thing, made_safe } => format!("outstanding: {thing}; made safe: {made_safe}"),
        Reason::EarthOff => "the earth is disconnected (supply exposed)".to_owned(),
        Reason::Described(Described::CapacityUnknown) => {
            "the rated short-circuit capacity of its device is not given".to_owned()
        }
        Reason::LeadsUnsaid { readings: 1 } => {
            "1 low-resistance reading with leads neither nulled nor subtracted".to_owned()
        }
        _ => return None,
    })
}

const fn decided(what: Undecided) -> &'static str {
    match what {
        Undecided::Surge => "surge protection",
        Undecided::Arc => "arc fault detection",
    }
}

const fn guarded(for_what: Guards) -> (&'static str, Source) {
    match for_what {
        Guards::Lighting => ("lighting in a dwelling", LIGHTS),
        Guards::BathOrShower => ("a room with a bath or shower", BATHS),
        Guards::HiddenCable => ("a cable hidden less than 50 mm deep", HIDDEN),
        Guards::MobileOutdoors => ("mobile equipment outdoors", OUTDOORS),
    }
}

pub(super) fn flaw(flaw: &Flaw) -> String {
    conductors(flaw).or_else(|| devices(flaw)).unwrap_or_else(|| whole(flaw))
}

/// Earthing, bonds, protective conductors, and what no row decides.
fn conductors(flaw: &Flaw) -> Option<String> {
    Some(match flaw {
        Flaw::EarthingThin { mm2, least_mm2 } => {
            format!("the earthing conductor is {mm2} mm², and this supply wants {least_mm2} mm²")
        }
        Flaw::BondThin { to, mm2, least_mm2 } => {
            format!("the bond to {to} is {mm2} mm², and this supply wants {least_mm2} mm²")
        }
        Flaw::CpcThin { mm2, table_mm2, adiabatic_mm2 } => {
            format!("its CPC is {mm2} mm²: the table wants {table_mm2} mm², the adiabatic equation {adiabatic_mm2} mm²")
        }
        Flaw::CpcLetThrough { mm2, withstands_a2s, let_through_a2s } => format!(
            "its CPC of {mm2} mm² withstands {withstands_a2s} A²s, and its device lets {let_through_a2s} A²s through"
        ),
        Flaw::CpcApartThin { mm2, least_mm2 } => {
            format!("its CPC stands apart from the cable and is {mm2} mm²: at least {least_mm2} mm²")
        }
        Flaw::CpcNotJudged { armour: true } => "its CPC is steel armour: no row here says its size".to_owned(),
        Flaw::CpcNotJudged { armour: false } => {
            "its CPC is under the table, and nothing here says what its device lets through".to_owned()
        }
        Flaw::CapacityNotJudged => "no table here says what its cable carries".to_owned(),
        Flaw::LoopNotJudged { device, seconds } => {
            format!("no table here holds a maximum Zs of {device} at {} s", seconds.normalize())
        }
        _ => return None,
    })
}

/// Devices, outlets, switches.
fn devices(flaw: &Flaw) -> Option<String> {
    Some(match flaw {
        Flaw::DesignCurrent { design_a, device_a } => {
            format!("its design current is {design_a} A, above its device of {device_a} A")
        }
        Flaw::Rewirable { device_a, most_a } => format!(
            "a rewirable fuse of {device_a} A: its cable allows {most_a} A ({})",
            REWIRABLE_FACTOR.source.line()
        ),
        Flaw::OutletBelow { point, outlet_a, device_a } => {
            format!("the outlet at {point} is rated {outlet_a} A, behind a device of {device_a} A")
        }
        Flaw::OutletUnrated { point } => format!("the rating of the industrial outlet at {point} is not said"),
        Flaw::SwitchPoles { poles, least, tt } => format!(
            "its main switch breaks {poles} of {least} live conductors{}",
            if *tt { ", and it is TT" } else { ", and ordinary persons use it" }
        ),
        Flaw::SwitchBelow { switch_a, before_a } => {
            format!("its main switch is rated {switch_a} A, behind a device of {before_a} A")
        }
        Flaw::Marking { standard, ka } => format!("{ka} kA: no device to {standard} is marked so"),
        _ => return None,
    })
}

/// Protection, decisions, sources.
fn whole(flaw: &Flaw) -> String {
    match flaw {
        Flaw::Unprotected { for_what } => {
            let (what, source) = guarded(*for_what);
            format!("{what} without an RCD of 30 mA or less and without delay ({})", source.line())
        }
        Flaw::RcboUndescribed => "an RCBO, and its residual part is not described".to_owned(),
        Flaw::TtUnprotected => "TT, and no residual device stands over it".to_owned(),
        Flaw::WayClash { other } => format!("its way is numbered like a line of way {other}"),
        Flaw::Undecided { what } => format!("{} is not decided", decided(*what)),
        Flaw::NoReason { what } => format!("{} is not required, and no reason is given", decided(*what)),
        Flaw::Contradicted { what, decided: Decided::Fitted } => {
            format!("{} is said to be fitted, and none is described", decided(*what))
        }
        Flaw::Contradicted { what, decided: Decided::NotRequired } => {
            format!("{} is said not to be required, and is described", decided(*what))
        }
        Flaw::Source { kind, lacks } => format!(
            "{}: {}",
            kind.label(),
            match lacks {
                Lacks::Board => "its board is not named",
                Lacks::Isolator => "it is not said where it is isolated",
                Lacks::Notices => "no warning notices at origin, meter, board and isolator",
                Lacks::BothWays => "not every device before it is said to work in both directions",
            }
        ),
        // These have their words above.
        Flaw::EarthingThin { .. }
        | Flaw::BondThin { .. }
        | Flaw::CpcThin { .. }
        | Flaw::CpcLetThrough { .. }
        | Flaw::CpcApartThin { .. }
        | Flaw::CpcNotJudged { .. }
        | Flaw::CapacityNotJudged
        | Flaw::LoopNotJudged { .. }
        | Flaw::DesignCurrent { .. }
        | Flaw::Rewirable { .. }
        | Flaw::OutletBelow { .. }
        | Flaw::OutletUnrated { .. }
        | Flaw::SwitchPoles { .. }
        | Flaw::SwitchBelow { .. }
        | Flaw::Marking { .. } => String::new(),
    }
}

pub(super) fn slip(slip: &Slip) -> String {
    let count = |readings: usize| if readings == 1 { "1 reading".to_owned() } else { format!("{readings} readings") };
    match slip {
        Slip::InstrumentUnsaid { readings } => format!("{}, and no instrument is named", count(*readings)),
        Slip::WriterUnsaid { readings } => format!("{}, and nobody is named who wrote it down", count(*readings)),
        Slip::TestVoltage { volts, wanted } => {
            format!("insulation was tested at {volts} V: this circuit wants {wanted} V")
        }
        Slip::Unlikely { what, value, unit } => format!(
            "{value} {unit}: {}",
            match what {
                Unlikely::AboveRange => "more than its instrument shows",
                Unlikely::NoCurrent => "no supply has no fault current",
            }
        ),
        Slip::TypedDiffers { typed, value } => format!("“{typed}” was typed, and {value} is kept"),
        Slip::AlteredAfter { what } => format!("{} after its last dead test: it was not tested again", what.label()),
        Slip::ShapeChanged => "a radial with readings of a ring: they were taken of another circuit".to_owned(),
        Slip::NoFigure { label } => format!("{label}: walked, and no figure was written down"),
        Slip::JudgementIncomplete { finding } => {
            format!("a judgement without a name, a position or a reason is none ({finding})")
        }
    }
}
