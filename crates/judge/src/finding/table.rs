//! One row of each finding: its kind, how it stands, what it says, what settles it.

use super::found::{Found, Guards, Lacks, Particular, Undecided, Unlikely};
use super::odd_reading::called;
use super::{Kind, Severity};
use proof_job::installation::{Decided, inspection};
use proof_job::reading::{Stage, Value};
use proof_job::site::isolation::Lacking;
use proof_job::site::{BoardState, Breach, Wanted};
use proof_standard::limits::Source;
use proof_standard::limits::devices::REWIRABLE_FACTOR;
use proof_standard::limits::rcd::{ADDITIONAL_PROTECTION, BATHS, HIDDEN, LIGHTS, OUTDOORS, SOCKETS_PROTECTED, TYPES};
use proof_standard::limits::ring::{LEAST_LEG_CAPACITY, LEAST_SIZE};
use std::fmt::{Arguments, Display, Formatter};

/// The row of a finding.
struct FindingRow<'a> {
    kind: Kind,
    severity: Severity,
    remedy: &'static str,
    text: Arguments<'a>,
}

const fn row<'a>(kind: Kind, severity: Severity, remedy: &'static str, text: Arguments<'a>) -> FindingRow<'a> {
    FindingRow { kind, severity, remedy, text }
}

/// Words that are made only where they are written.
struct Said<F>(F);

impl<F: Fn() -> String> Display for Said<F> {
    fn fmt(&self, f: &mut Formatter<'_>) -> std::fmt::Result {
        f.write_str(&(self.0)())
    }
}

impl Found {
    /// What kind it is.
    pub fn kind(&self) -> Kind {
        self.row(|row| row.kind)
    }

    /// How it stands.
    pub fn severity(&self) -> Severity {
        self.row(|row| row.severity)
    }

    /// What would settle it.
    pub fn remedy(&self) -> &'static str {
        self.row(|row| row.remedy)
    }

    /// What was found, with the numbers.
    pub fn text(&self) -> String {
        self.row(|row| row.text.to_string())
    }

    /// The table. Missing: not read or not written. Fails: outside a limit, or it kills. Odd: mended or judged. Note: to
    /// be known.
    fn row<R>(&self, then: impl FnOnce(FindingRow<'_>) -> R) -> R {
        use Kind as K;
        use Severity::{Fails, Missing, Note, Odd};
        match self {
            // What a certificate must say.
            Self::Particulars { missing } => {
                let (remedy, text) = particular(*missing);
                then(row(K::ParticularsMissing, Missing, remedy, format_args!("{text}")))
            }
            Self::NoPoints => then(row(
                K::ParticularsMissing,
                Missing,
                "Give its points, so that R1+R2 has places to be read at.",
                format_args!("it has no points"),
            )),
            Self::InspectionOpen { open, of } => then(row(
                K::InspectionMissing,
                Missing,
                "Inspection comes before any test: answer each.",
                format_args!("{open} of {of} items of the schedule of inspections are not answered"),
            )),
            Self::DepartureUnexplained { item } => then(row(
                K::InspectionMissing,
                Missing,
                "Write why it is no less safe.",
                format_args!("a departure without its reason: {}", inspection::text(item)),
            )),

            // Readings that are not there.
            Self::NotRead { stage, labels, live: true } if stage.is_dead() => then(row(
                K::EnergisedUntested,
                Fails,
                "Isolate, prove dead, and read it.",
                format_args!("energised with a dead test missing: {}", Said(|| not_read(*stage, labels))),
            )),
            Self::NotRead { stage, labels, .. } => then(row(
                K::ReadingMissing,
                Missing,
                "Read it, or write a limitation with its reason.",
                format_args!("{}", Said(|| not_read(*stage, labels))),
            )),
            Self::NotTaken { label, seen, .. } => then(row(
                K::ReadingMissing,
                Missing,
                "Read it, or write a limitation with its reason.",
                format_args!("{label} is {}", if *seen { "not done" } else { "not read" }),
            )),
            Self::NotTested { label, figure, value, .. } => {
                let said = if matches!(value, Value::Limitation(_)) { "limitation" } else { "not applicable" };
                let reason = value.reason().unwrap_or_default();
                // A limitation without its reason is none.
                let severity = if reason.trim().is_empty() { Missing } else { Odd };
                then(row(
                    K::Limitation,
                    severity,
                    "Take the reading after all, or let the person who accepts the limitation say so by name.",
                    format_args!("{}: {said}: {reason}", Said(|| called(label, figure))),
                ))
            }
            Self::StruckOut { label, figure, value, .. } => then(row(
                K::ReadingMissing,
                Missing,
                "Read it again. A limitation does not stand in for a figure that failed.",
                format_args!(
                    "{}: {} was read, failed and was struck out, and no figure took its place",
                    Said(|| called(label, figure)),
                    Said(|| value.shown())
                ),
            )),
            Self::PolarityOutstanding { wanting, live: true } => then(row(
                K::EnergisedUntested,
                Fails,
                "Isolate, prove dead, and read it.",
                format_args!("energised with a dead test missing: polarity is not proved: {wanting}"),
            )),
            Self::PolarityOutstanding { wanting, live: false } => then(row(
                K::PolarityOutstanding,
                Missing,
                "Read it, or look at every terminal and say so.",
                format_args!("polarity is not proved: {wanting}"),
            )),
            Self::NoFigure { label } => then(row(
                K::NoFigure,
                Missing,
                "Write down the highest, and where.",
                format_args!("{label}: walked, and no figure was written down"),
            )),

            // Readings that fail, are odd, or contradict one another.
            Self::Reading(reading) => {
                let severity = if reading.outside { Fails } else { Odd };
                then(row(reading.kind(), severity, reading.remedy(), format_args!("{}", Said(|| reading.text()))))
            }
            Self::PolarityWrong { because } => then(row(
                K::PolarityWrong,
                Fails,
                "Find it, mend it, and read again; the latest reading stands.",
                format_args!("polarity: {because}"),
            )),
            Self::DevicesBelow { ka, how, way, device, breaks_ka, more } => {
                let more = Said(|| if *more > 0 { format!(" and {more} more") } else { String::new() });
                then(row(
                    K::BreakingCapacity,
                    Fails,
                    "Fit devices that break it, or give the conditional rating that the maker of the assembly declares.",
                    format_args!("the fault level is {ka} kA ({how}); way {way} {device} breaks {breaks_ka} kA{more}"),
                ))
            }
            Self::SameAtEveryPoint { ohm, points, cable_ohm } => then(row(
                K::CopiedDown,
                Odd,
                "Copper rises along a radial: read each point, the highest goes on the schedule.",
                format_args!(
                    "R1+R2 is {ohm} Ω at each of {points} points, and {cable_ohm} Ω of cable lies between board and end"
                ),
            )),
            Self::SameOnWays { zs, ohm, ways, least_ohm, most_ohm } => then(row(
                K::CopiedDown,
                Odd,
                "Read each again: a figure was copied down the column.",
                format_args!(
                    "{} is {ohm} Ω on each of ways {}, and their copper lies between {least_ohm} and {most_ohm} Ω",
                    if *zs { "Zs" } else { "R1+R2" },
                    Said(|| ways.join(", "))
                ),
            )),
            Self::FiveSlower { one_ms, five_ms } => then(row(
                K::FiveSlower,
                Odd,
                "Read both again; if it stays, exchange the device.",
                format_args!("the RCD trips in {five_ms} ms at 5 IΔn, slower than the {one_ms} ms at IΔn"),
            )),
            Self::RingCannotGive { read, r1, r2, quarter, spurs } => {
                let more = Said(|| spurs.map(|ohm| format!(", {ohm} Ω more on the spurs")).unwrap_or_default());
                then(row(
                    K::RingCannotGive,
                    Odd,
                    "Read the ends and the sockets again; a spur is drawn, a joint is found.",
                    format_args!(
                        "the highest R1+R2 is {read} Ω, and r1 {r1} with r2 {r2} give (r1 + r2)/4 = {quarter} Ω{more}"
                    ),
                ))
            }
            Self::UnderLength { read, expected } => then(row(
                K::UnderLength,
                Odd,
                "Look for metal beside the CPC or a bridge; check the cable and its length; read again.",
                format_args!("the highest R1+R2 is {read} Ω, and {expected} Ω is what the length of its cable gives"),
            )),
            Self::ShapeChanged => then(row(
                K::ShapeChanged,
                Odd,
                "Strike out what was read of the other circuit, and read again.",
                format_args!("a radial with readings of a ring: they were taken of another circuit"),
            )),
            Self::Unlikely { what, value, unit } => then(row(
                K::HardlyPossible,
                Odd,
                "Read it again; if it stays, say why, by name.",
                format_args!(
                    "{value} {unit}: {}",
                    match what {
                        Unlikely::AboveRange => "more than its instrument shows",
                        Unlikely::NoCurrent => "no supply has no fault current",
                    }
                ),
            )),
            Self::TestVoltage { volts, wanted } => then(row(
                K::TestVoltage,
                Odd,
                "Read again at the voltage of its band, or say why by name.",
                format_args!("insulation was tested at {volts} V: this circuit wants {wanted} V"),
            )),

            // What stands open on site.
            Self::NotPutBack { alteration, note } => then(row(
                K::NotPutBack,
                Fails,
                "Put it back, then close the item.",
                format_args!("{} is not put back: {note}", alteration.label()),
            )),
            Self::EarthOff => then(row(
                K::SupplyExposed,
                Fails,
                "Refit it, then say so where Ze is read.",
                format_args!("the earth is disconnected (supply exposed)"),
            )),
            Self::PointOutstanding { thing, made_safe } => then(row(
                K::PointOutstanding,
                Note,
                "It is printed with the extent of the certificate.",
                format_args!("outstanding: {thing}; made safe: {made_safe}"),
            )),
            Self::AlteredAfter { what } => then(row(
                K::AlteredAfterTest,
                Odd,
                "Test again what was touched.",
                format_args!("{} after its last dead test: it was not tested again", what.label()),
            )),

            // The record.
            Self::OutOfOrder { readings, wanted, board, state } => then(row(
                K::OutOfOrder,
                Odd,
                "Read again in the right state, or say what the log leaves out.",
                format_args!(
                    "{} of {}, taken while the log has {board} {}",
                    Said(|| count(*readings)),
                    test_of(*wanted),
                    standing(*state)
                ),
            )),
            Self::Breach { breach: breach @ Breach::NotProved { .. }, .. } => then(row(
                K::ProofOfDead,
                Odd,
                "Prove every pair, the indicator before and after; what was read on this proof is read again.",
                format_args!("{}", Said(|| breached(*breach))),
            )),
            Self::Breach { breach, .. } => then(row(
                K::GateBroken,
                Odd,
                "It was done: say by name what was made sure of then, and what was tested again.",
                format_args!("{}", Said(|| breached(*breach))),
            )),
            Self::InstrumentDoubtful { why, readings } => then(row(
                K::InstrumentDoubtful,
                Odd,
                "Check it against fixed values and write that down, or read again with one that is in date.",
                format_args!("{why}: it took {readings} of the readings that stand"),
            )),
            Self::InstrumentUnsaid { readings } => then(row(
                K::InstrumentUnsaid,
                Missing,
                "Say which instrument took them, in the review; or read again.",
                format_args!("{}, and no instrument is named", Said(|| count(*readings))),
            )),
            Self::WriterUnsaid { readings } => then(row(
                K::WriterUnsaid,
                Missing,
                "Strike them out and write them down again, by name.",
                format_args!("{}, and nobody is named who wrote it down", Said(|| count(*readings))),
            )),
            Self::LeadsUnsaid { readings } => then(row(
                K::LeadsUnsaid,
                Odd,
                "Null the leads in use, pins included, and read again; or say that they were nulled.",
                format_args!(
                    "{readings} low-resistance reading{} with leads neither nulled nor subtracted",
                    if *readings == 1 { "" } else { "s" }
                ),
            )),
            Self::TypedDiffers { typed, value } => then(row(
                K::TypedDiffers,
                Odd,
                "Strike it out and read again.",
                format_args!("“{typed}” was typed, and {value} is kept"),
            )),
            Self::JudgementIncomplete { finding } => then(row(
                K::JudgementIncomplete,
                Note,
                "Judge it again, with name, position and reason.",
                format_args!("a judgement without a name, a position or a reason is none ({finding})"),
            )),

            // Earthing, bonds, protective conductors; what no row decides.
            Self::EarthingThin { mm2, least_mm2 } => then(row(
                K::EarthingSize,
                Odd,
                EXCHANGE,
                format_args!("the earthing conductor is {mm2} mm², and this supply wants {least_mm2} mm²"),
            )),
            Self::BondThin { to, mm2, least_mm2 } => then(row(
                K::BondSize,
                Odd,
                EXCHANGE,
                format_args!("the bond to {to} is {mm2} mm², and this supply wants {least_mm2} mm²"),
            )),
            Self::CpcThin { mm2, table_mm2, adiabatic_mm2 } => then(row(
                K::CpcSize,
                Odd,
                EXCHANGE,
                format_args!(
                    "its CPC is {mm2} mm²: the table wants {table_mm2} mm², the adiabatic equation {adiabatic_mm2} mm²"
                ),
            )),
            Self::CpcLetThrough { mm2, withstands_a2s, let_through_a2s } => then(row(
                K::CpcSize,
                Odd,
                EXCHANGE,
                format_args!(
                    "its CPC of {mm2} mm² withstands {withstands_a2s} A²s, and its device lets {let_through_a2s} A²s through"
                ),
            )),
            Self::CpcApartThin { mm2, least_mm2 } => then(row(
                K::CpcSize,
                Odd,
                EXCHANGE,
                format_args!("its CPC stands apart from the cable and is {mm2} mm²: at least {least_mm2} mm²"),
            )),
            Self::CpcNotJudged { armour } => then(row(
                K::NotJudged,
                Odd,
                "Give what the device lets through (its maker's sheet), or a row of the firm's own.",
                format_args!(
                    "{}",
                    if *armour {
                        "its CPC is steel armour: no row here says its size"
                    } else {
                        "its CPC is under the table, and nothing here says what its device lets through"
                    }
                ),
            )),
            Self::CapacityNotJudged => then(row(
                K::NotJudged,
                Odd,
                "Give what the designer found, in amperes, and from which table.",
                format_args!("no table here says what its cable carries"),
            )),
            Self::LoopNotJudged { device, seconds } => then(row(
                K::NotJudged,
                Odd,
                "Write the row from your own copy, or give the setting of the breaker.",
                format_args!("no table here holds a maximum Zs of {device} at {} s", seconds.normalize()),
            )),

            // Devices, cables, outlets, switches.
            Self::RingTooThin { mm2, least_mm2 } => then(row(
                K::CableMismatch,
                Odd,
                "Check the cable, or whether it is a ring.",
                format_args!("a ring in {mm2} mm²: at least {least_mm2} mm² ({})", Said(|| LEAST_SIZE.source.line())),
            )),
            Self::LegCarries { amps } => then(row(
                K::CableMismatch,
                Odd,
                "Ask the designer: the method, or the cable.",
                format_args!(
                    "each leg carries {amps} A by its reference method, less than {} A",
                    LEAST_LEG_CAPACITY.value
                ),
            )),
            Self::DeviceOverCable { device, amps } => then(row(
                K::CableMismatch,
                Odd,
                "Ask the designer: the device, the method, or the cable.",
                format_args!("{device} behind cable of {amps} A (no grouping or ambient factors)"),
            )),
            Self::DesignCurrent { design_a, device_a } => then(row(
                K::DesignCurrent,
                Odd,
                "Ask the designer: the device, or the cable.",
                format_args!("its design current is {design_a} A, above its device of {device_a} A"),
            )),
            Self::Rewirable { device_a, most_a } => then(row(
                K::CableMismatch,
                Odd,
                "Ask the designer: the device, or the cable.",
                format_args!(
                    "a rewirable fuse of {device_a} A: its cable allows {most_a} A ({})",
                    Said(|| REWIRABLE_FACTOR.source.line())
                ),
            )),
            Self::OutletBelow { point, outlet_a, device_a } => then(row(
                K::OutletRating,
                Odd,
                "Exchange the outlet or the device.",
                format_args!("the outlet at {point} is rated {outlet_a} A, behind a device of {device_a} A"),
            )),
            Self::OutletUnrated { point } => then(row(
                K::OutletRating,
                Missing,
                "Read it off the outlet, and write it beside the point.",
                format_args!("the rating of the industrial outlet at {point} is not said"),
            )),
            Self::SwitchPoles { poles, least, tt } => then(row(
                K::MainSwitch,
                Odd,
                "Look at the switch; exchange it, or say why it may stay.",
                format_args!(
                    "its main switch breaks {poles} of {least} live conductors{}",
                    if *tt { ", and it is TT" } else { ", and ordinary persons use it" }
                ),
            )),
            Self::SwitchBelow { switch_a, before_a } => then(row(
                K::MainSwitch,
                Odd,
                "Look at the switch; exchange it, or say why it may stay.",
                format_args!("its main switch is rated {switch_a} A, behind a device of {before_a} A"),
            )),
            Self::Marking { standard, ka } => then(row(
                K::DeviceMarking,
                Fails,
                "Read it off the device again.",
                format_args!("{ka} kA: no device to {standard} is marked so"),
            )),
            Self::CapacityUnknown => then(row(
                K::CapacityUnknown,
                Odd,
                "Read it off the device.",
                format_args!("the rated short-circuit capacity of its device is not given"),
            )),
            Self::WayClash { other } => then(row(
                K::WayClash,
                Fails,
                "Number it otherwise.",
                format_args!("its way is numbered like a line of way {other}"),
            )),

            // Residual devices and additional protection.
            Self::NoAdditionalProtection => then(row(
                K::NoAdditionalProtection,
                Odd,
                "Name the RCD that covers this way, or write the reason as a judgement.",
                format_args!(
                    "socket-outlets up to {} A without an RCD of {} mA or less ({} {}, from memory)",
                    SOCKETS_PROTECTED.value,
                    ADDITIONAL_PROTECTION.value,
                    SOCKETS_PROTECTED.source.document,
                    SOCKETS_PROTECTED.source.place
                ),
            )),
            Self::Unprotected { for_what } => {
                let (what, source) = guarded(*for_what);
                then(row(
                    K::NoAdditionalProtection,
                    Odd,
                    "Name the RCD that covers this way, or write the reason as a judgement.",
                    format_args!(
                        "{what} without an RCD of 30 mA or less and without delay ({})",
                        Said(|| source.line())
                    ),
                ))
            }
            Self::RcdBlind { rcd, detects, carries, wanted } => then(row(
                K::RcdType,
                Odd,
                "Fit a device of a type that sees it, or write down why this one does.",
                format_args!(
                    "RCD {rcd} is type {detects:?}, and the circuit feeds a {}: type {wanted:?} ({})",
                    carries.label(),
                    Said(|| TYPES.line())
                ),
            )),
            Self::TripTogether { rcd, idn_ma, board } => then(row(
                K::Selectivity,
                Note,
                "Nothing is asked: the next person should know.",
                format_args!(
                    "RCD {rcd} ({idn_ma} mA, not delayed) feeds {board}, whose circuits have RCDs of their own: a fault there may trip both"
                ),
            )),
            Self::RcboUndescribed => then(row(
                K::RcboUndescribed,
                Missing,
                "Describe its residual part: IΔn, kind, type.",
                format_args!("an RCBO, and its residual part is not described"),
            )),
            Self::TtUnprotected => then(row(
                K::TtWithoutRcd,
                Fails,
                "Fit a residual device: on an electrode nothing else disconnects.",
                format_args!("TT, and no residual device stands over it"),
            )),

            // What was decided, and other sources.
            Self::Undecided { what } => {
                then(row(K::ParticularsMissing, Missing, DECIDE, format_args!("{} is not decided", decided(*what))))
            }
            Self::NoReason { what } => then(row(
                K::ParticularsMissing,
                Missing,
                DECIDE,
                format_args!("{} is not required, and no reason is given", decided(*what)),
            )),
            Self::Contradicted { what, decided: as_said } => then(row(
                K::DecisionContradicted,
                Odd,
                "Mend the decision, or what is described.",
                format_args!(
                    "{} is said {}",
                    decided(*what),
                    match as_said {
                        Decided::Fitted => "to be fitted, and none is described",
                        Decided::NotRequired => "not to be required, and is described",
                    }
                ),
            )),
            Self::Source { kind, lacks } => then(row(
                K::SourceIncomplete,
                Missing,
                "Write it under particulars, where the sources stand.",
                format_args!(
                    "{}: {}",
                    kind.label(),
                    match lacks {
                        Lacks::Board => "its board is not named",
                        Lacks::Isolator => "it is not said where it is isolated",
                        Lacks::Notices => "no warning notices at origin, meter, board and isolator",
                        Lacks::BothWays => "not every device before it is said to work in both directions",
                    }
                ),
            )),
        }
    }
}

const EXCHANGE: &str = "Exchange it, or let the designer write by which calculation it may stay.";
const DECIDE: &str = "Write it under particulars: fitted, or not required and why.";

/// Of a particular that is missing: what settles it, and what it says.
const fn particular(missing: Particular) -> (&'static str, &'static str) {
    const PARTICULARS: &str = "Write it under particulars.";
    const SUPPLY: &str = "Write it under supply and earthing.";
    const BOARD: &str = "Write it where the board is described.";
    const CIRCUIT: &str = "Write it where the circuit is described.";
    match missing {
        Particular::Client => (PARTICULARS, "the client's name is not given"),
        Particular::Address => (PARTICULARS, "the address of the site is not given"),
        Particular::Extent => (PARTICULARS, "the extent of the work that the certificate covers is not given"),
        Particular::Board => ("Describe the board that the circuits leave from.", "no board is described"),
        Particular::Circuit => ("Describe the circuits, a line each.", "no circuit is described"),
        Particular::Bonds => (
            "List the bonds (water, gas, steel) under supply and earthing, or say there why nothing is to be bonded.",
            "no main bonding conductor is described",
        ),
        Particular::Firm => (
            "Name it once; every job without a certificate follows.",
            "the firm that issues the certificate is not named",
        ),
        Particular::Tails => (SUPPLY, "the size of the tails is not given"),
        Particular::Earthing => (SUPPLY, "the size of the earthing conductor is not given"),
        Particular::SupplyDevice => (SUPPLY, "the distributor's device and its rating are not given"),
        Particular::Electrode => (SUPPLY, "the electrode is not described"),
        Particular::BondSize => (SUPPLY, "the size of a bond is not given"),
        Particular::MainSwitch => (BOARD, "the main switch is not described: kind, poles, rating"),
        Particular::BoardPlace => (BOARD, "it is not said where the board is"),
        Particular::CableKind => (CIRCUIT, "the kind of its cable is not given"),
        Particular::Description => (CIRCUIT, "it is not said what the circuit is"),
    }
}

fn count(readings: usize) -> String {
    if readings == 1 { "1 reading".to_owned() } else { format!("{readings} readings") }
}

fn not_read(stage: Stage, labels: &[String]) -> String {
    let all = match labels {
        [first, second, .., _] if labels.len() > 4 => format!("{first}, {second} and {} more", labels.len() - 2),
        few => few.join(", "),
    };
    match stage {
        Stage::Polarity | Stage::Zs => format!("{all} not read"),
        Stage::Functional => format!("{all} not done"),
        stage => format!("{}: {all} not read", stage.label()),
    }
}

fn breached(breach: Breach) -> String {
    match breach {
        Breach::EnergisedEarthOff => "energised while an earth or a bond was off on the supply".to_owned(),
        Breach::EnergisedItemsOpen { count: 1 } => "energised with 1 item not put back".to_owned(),
        Breach::EnergisedItemsOpen { count } => format!("energised with {count} items not put back"),
        Breach::EnergisedBelowDead => "energised while what feeds it was dead".to_owned(),
        Breach::ExposedNotDead => {
            "the earthing conductor was taken off while a board on the supply was not proved dead".to_owned()
        }
        Breach::AlteredNotDead { alteration } => {
            format!("{}: conductors were touched that were not proved dead", alteration.label())
        }
        Breach::NotProved { lacking } => format!(
            "its record of proving dead proves nothing: {}",
            match lacking {
                Lacking::Pairs { tested, of } => format!("{tested} of {of} pairs were tested"),
                Lacking::Indication => "the indicator showed something".to_owned(),
                Lacking::Indicator => "the indicator was not proved before, or not again after".to_owned(),
                Lacking::Source => "another source was not isolated with it".to_owned(),
            }
        ),
    }
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

/// What a test is called that was taken in the wrong state.
const fn test_of(wanted: Wanted) -> &'static str {
    match wanted {
        Wanted::Dead => "a dead test",
        Wanted::Exposed => "Ze, read with the earthing conductor off",
        Wanted::EarthOn => "a fault current, read with the earth back on",
        Wanted::Live | Wanted::Incoming | Wanted::Nothing => "a live test",
    }
}

const fn standing(state: BoardState) -> &'static str {
    match state {
        BoardState::NotProved => "not proved dead",
        BoardState::ProvedDead => "proved dead",
        BoardState::SupplyExposed => "exposed",
        BoardState::Energised => "energised",
    }
}
