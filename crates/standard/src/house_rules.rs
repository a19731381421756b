//! House rules: where practitioners differ, each a choice with a default and its reason.
//!
//! A firm has its own set; a job begins with a copy and may differ. The choices change what is
//! planned, what is expected, how it is judged and what the certificate says. All are common
//! practice, no source, where no source is named.

use crate::calc::fault_current::FaultCurrentMethod;
use crate::limits::edition::RcdSchool;
use serde::{Deserialize, Serialize};

/// One of a few ways to do something.
pub trait Choice: Copy + PartialEq + 'static {
    /// All ways, the default first.
    const ALL: &'static [Self];
    /// Key in forms and files.
    fn key(self) -> &'static str;
    /// In words.
    fn label(self) -> &'static str;
    /// The way with this key.
    fn from_key(key: &str) -> Option<Self> {
        Self::ALL.iter().copied().find(|way| way.key() == key)
    }
}

macro_rules! choices {
    ($($(#[$doc:meta])* $name:ident { $($(#[$way_doc:meta])* $way:ident = $key:literal, $label:literal;)+ })+) => {$(
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
        pub enum $name {
            $($(#[$way_doc])* #[serde(rename = $key)] $way,)+
        }

        impl Choice for $name {
            const ALL: &'static [Self] = &[$(Self::$way),+];
            fn key(self) -> &'static str {
                match self { $(Self::$way => $key),+ }
            }
            fn label(self) -> &'static str {
                match self { $(Self::$way => $label),+ }
            }
        }

        impl Default for $name {
            fn default() -> Self {
                Self::ALL[0]
            }
        }
    )+};
}

choices! {
    /// Whether continuity is read with line and CPC linked, or by a long lead.
    ContinuityMethod {
        /// R1+R2.
        R1R2 = "r1_r2", "R1+R2: line linked to CPC at the board";
        /// R2.
        R2 = "r2", "R2: a long lead from the main earthing terminal";
    }
    /// What is disturbed at the board for R1+R2.
    LinkMethod {
        /// A link with the conductors in place.
        Link = "link", "a link, conductors left in place";
        /// All conductors of the way out, joined in a connector.
        ConductorsOut = "conductors_out", "all conductors of the way out, joined in a connector";
    }
    /// Whether R1+Rn is read at every point.
    NeutralReading {
        /// Read and kept.
        Noted = "note", "read at every point and kept";
        /// Left out.
        Skipped = "skip", "left out";
    }
    /// What earns the polarity tick.
    PolarityBy {
        /// Both pairs read at every point.
        BothPairs = "both_pairs", "R1+Rn and R1+R2 at every point";
        /// R1+R2 alone.
        R1R2Alone = "r1_r2_alone", "R1+R2 at every point alone";
        /// By eye.
        Eye = "eye", "by eye: colours and terminal letters at every point";
    }
    /// When polarity is settled.
    PolarityWhen {
        /// While the link is in.
        WithContinuity = "with_continuity", "with continuity, while the link is in";
        /// After insulation.
        AfterInsulation = "after_insulation", "after insulation, as the order is printed";
    }
    /// How the resistance of the leads is dealt with.
    LeadCompensation {
        /// Nulled when the leads or pins change.
        Hold = "hold", "nulled whenever leads or pins change, then held";
        /// Nulled before every test.
        EveryTest = "every_test", "nulled before every test";
        /// Noted and subtracted.
        Subtract = "subtract", "measured, noted and subtracted";
    }
    /// What is read at a twin outlet.
    TwinOutlets {
        /// One.
        One = "one", "one outlet";
        /// Both.
        Both = "both", "both outlets";
        /// Both, and each switch off.
        BothAndSwitches = "both_and_switches", "both outlets, and each with its switch off";
    }
    /// Where two-way switching is read in each combination.
    SwitchedAt {
        /// At the lamp.
        Lamp = "lamp", "at the lamp";
        /// At the last switch.
        Common = "common", "at the common of the last switch";
    }
    /// How bonds and the earthing conductor are proved continuous.
    BondingBy {
        /// Measured.
        Measured = "measured", "measured, one end off";
        /// Seen.
        Seen = "seen", "seen throughout its length";
    }
    /// How insulation is taken.
    InsulationBy {
        /// Circuit by circuit.
        Circuit = "circuit", "circuit by circuit";
        /// The whole board.
        Board = "board", "the whole board at once";
    }
    /// In which order the pairs are probed.
    PairOrder {
        /// Fixed.
        Fixed = "fixed", "in the methodical order: earth to each, then neutral, then the lines";
        /// Free.
        Free = "free", "in any order, the pair confirmed as probed";
    }
    /// How the neutral is read to earth.
    NeutralEarth {
        /// Apart.
        Noted = "note", "read apart";
        /// Joined with the lines.
        Joined = "skip", "read joined with the lines, to earth; apart where that is low";
    }
    /// Where the neutral of a circuit is while its insulation is read.
    CircuitNeutral {
        /// On its bar.
        OnBar = "bar", "left on its bar: neutral to earth is then of every circuit on that bar";
        /// Lifted.
        Lifted = "lifted", "lifted from its bar";
    }
    /// How a device with electronics is kept out of the test voltage.
    ElectronicDevice {
        /// Off.
        Off = "off", "switched off, the circuit read from its load side";
        /// Conductors out.
        ConductorsOut = "out", "switched off, the conductors of the way out of it";
    }
    /// How the phase sequence is confirmed beyond the origin.
    SequenceBy {
        /// Live.
        Tester = "tester", "live, by a phase-sequence tester";
        /// Dead.
        Continuity = "continuity", "dead, by continuity: each line followed from end to end";
    }
    /// Within what the voltage of the supply stays.
    SupplyVoltage {
        /// Great Britain.
        Britain = "gb", "+10 −6 %, Great Britain";
        /// Elsewhere.
        Declared = "iec", "±10 %";
    }
    /// How a failing board is searched.
    SearchOrder {
        /// One off, read, back on, next.
        InOrder = "in_order", "one way off, read, back on, the next";
        /// All off, back on one at a time.
        AllOff = "all_off", "all ways off, then back on one at a time";
        /// Halving.
        Halving = "halving", "halving the ways that are left";
    }
    /// How Zs is had.
    ZsMethod {
        /// By instrument.
        Measured = "measured", "measured";
        /// Ze + (R1+R2).
        Summed = "summed", "calculated as Ze + (R1+R2)";
    }
    /// Where Zs is read.
    ZsAt {
        /// The far point.
        Far = "far", "at the far point";
        /// Every point.
        Every = "every", "at every point where it can be read, the far one first";
    }
    /// Whether the line–neutral loop is read.
    NeutralLoop {
        /// Left out.
        Skipped = "skip", "left out";
        /// Read.
        Noted = "note", "read beside Zs, and kept";
    }
    /// How a measured, cold Zs is compared with the printed maximum.
    ZsLimit {
        /// 0.8 × the printed value.
        EightyPercent = "eighty_percent", "80 % of the printed maximum";
        /// R1+R2 corrected to working temperature.
        Temperature = "temperature", "the maximum, R1+R2 at working temperature";
    }
    /// What says that an instrument may be trusted.
    InstrumentTrust {
        /// A calibration that is not out of date.
        Calibration = "calibration", "a calibration certificate in date";
        /// Regular checks against fixed values.
        Checks = "checks", "regular checks against fixed values";
    }
    /// Earthing of a metal box.
    EarthTail {
        /// Where the box has no fixed lug that meets the accessory's.
        Always = "always", "always fitted";
        /// Left out where the box has two fixed lugs.
        NotWithTwoLugs = "not_with_two_lugs", "left out where the box has two fixed lugs";
    }
    /// Armour and tray.
    ArmourAndTray {
        /// Connected to the CPC.
        Connected = "connected", "connected to the CPC";
        /// Earthed of itself only.
        Apart = "apart", "earthed at one end, not connected to the CPC";
    }
    /// How the verdict comes over while the eyes are elsewhere.
    VerdictSign {
        /// Seen.
        Seen = "seen", "on the screen only";
        /// Heard.
        Heard = "heard", "heard: one note within, two look again, three outside";
        /// Felt.
        Felt = "felt", "felt, where the device can shake";
    }
}

impl Choice for FaultCurrentMethod {
    const ALL: &'static [Self] = &[Self::Double, Self::Root3, Self::LineLine];
    fn key(self) -> &'static str {
        match self {
            Self::Double => "double",
            Self::Root3 => "root3",
            Self::LineLine => "line_line",
        }
    }
    fn label(self) -> &'static str {
        match self {
            Self::Double => "twice line–neutral",
            Self::Root3 => "√3 × line–neutral",
            Self::LineLine => "from line–line, with an instrument rated for it",
        }
    }
}

impl Choice for Option<RcdSchool> {
    const ALL: &'static [Self] = &[None, Some(RcdSchool::Single), Some(RcdSchool::Series)];
    fn key(self) -> &'static str {
        match self {
            None => "edition",
            Some(RcdSchool::Single) => "single",
            Some(RcdSchool::Series) => "series",
        }
    }
    fn label(self) -> &'static str {
        match self {
            None => "as the edition asks",
            Some(RcdSchool::Single) => "by one a.c. test at IΔn",
            Some(RcdSchool::Series) => "by the series ½, 1, 5 at both half-cycles",
        }
    }
}

/// A house rule as shown and set: its question, its reason, its ways.
pub struct Rule {
    /// Key in forms.
    pub key: &'static str,
    /// The question.
    pub question: &'static str,
    /// Why the default is the default.
    pub why: &'static str,
    /// Keys and labels, the default first.
    pub ways: fn() -> Vec<(&'static str, &'static str)>,
    /// The key of the way chosen.
    pub chosen: fn(&HouseRules) -> &'static str,
    /// Its label.
    pub label: fn(&HouseRules) -> &'static str,
    /// Chooses a way; an unknown key changes nothing and says so.
    pub choose: fn(&mut HouseRules, &str) -> bool,
}

macro_rules! rules {
    (@key $field:ident) => { stringify!($field) };
    (@key $field:ident $key:literal) => { $key };
    ($($(#[$doc:meta])* $field:ident $(in files $key:literal)?: $kind:ty, $question:literal, $why:literal;)+) => {
        /// The choices of a firm or a job.
        #[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
        #[serde(deny_unknown_fields, default)]
        pub struct HouseRules {
            $($(#[$doc])* $(#[serde(rename = $key)])? pub $field: $kind,)+
        }

        /// Every house rule, in the order of the work.
        pub const RULES: &[Rule] = &[$(Rule {
            key: rules!(@key $field $($key)?),
            question: $question,
            why: $why,
            ways: || <$kind>::ALL.iter().map(|way| (way.key(), way.label())).collect(),
            chosen: |rules| rules.$field.key(),
            label: |rules| rules.$field.label(),
            choose: |rules, key| match <$kind>::from_key(key) {
                Some(way) => { rules.$field = way; true }
                None => false,
            },
        },)+];
    };
}

rules! {
    /// R1+R2 or R2.
    continuity: ContinuityMethod, "Continuity of the CPC is read by",
        "R1+R2 gives the loop at once and polarity on the way; R2 needs no link and leaves polarity to be proved otherwise.";
    /// Link or conductors out.
    link: LinkMethod, "For R1+R2 at the board",
        "A link disturbs least and is easy to see. Conductors out keep other paths to earth out of the reading.";
    /// R1+Rn noted.
    neutral_reading: NeutralReading, "R1+Rn, line to neutral",
        "Two pairs right prove all three conductors, and a spur shows in both. It has no box on the schedule.";
    /// What earns polarity.
    polarity_by: PolarityBy, "Polarity is proved by",
        "A line–CPC reversal at a three-pin point reads the same in R1+R2; the second pair rules it out.";
    /// When polarity is settled.
    polarity_when: PolarityWhen, "Polarity is settled",
        "The link is in and the probes are there; the printed order has it after insulation.";
    /// Lead resistance.
    leads: LeadCompensation, "Resistance of the leads is",
        "0.01 Ω matters. A null holds for the same leads and pins only, so either changes and it is asked for again.";
    /// Twin outlets.
    twin_outlets: TwinOutlets, "At a twin outlet",
        "One outlet shares its terminals with the other. Both find a contact that one hides; the switches take a round more.";
    /// Two-way and intermediate switching.
    #[serde(skip_serializing_if = "is_usual")]
    switched_at: SwitchedAt, "Each combination of two-way switching is read",
        "At the lamp the whole switched line is in the reading; at the last switch nobody climbs for each throw.";
    /// Bonds and earthing conductor.
    bonding: BondingBy, "Bonds and the earthing conductor are",
        "Measured proves what cannot be seen, with one end off so that other paths stay out; a bond in view throughout needs no meter.";
    /// Insulation.
    insulation: InsulationBy, "Insulation is taken",
        "Circuit by circuit fills each box. The whole board is quicker when sound, since it is never above its lowest circuit.";
    /// Pair order.
    pair_order: PairOrder, "Pairs are probed",
        "It is easy to announce one pair and probe another: one order held to forgets none.";
    /// Neutral–earth.
    neutral_earth: NeutralEarth, "Neutral–earth insulation is",
        "It finds what trips an RCD tomorrow. Apart it says which conductor leaks; joined it is one reading for all.";
    /// Neutral of a circuit.
    #[serde(skip_serializing_if = "is_usual")]
    circuit_neutral: CircuitNeutral, "The neutral of a circuit, while its insulation is read, is",
        "Left on the bar nothing is disturbed, and a low reading may be another circuit's. Lifted, it is this circuit's alone.";
    /// Devices with electronics.
    #[serde(skip_serializing_if = "is_usual")]
    electronic_device: ElectronicDevice, "For insulation, an RCBO, RCD or AFDD is",
        "500 V between line and neutral breaks electronics. Off is enough where the device breaks both; conductors out is sure.";
    /// Search.
    search: SearchOrder, "Insulation faults of a board are found by",
        "One off at a time finds one fault surely; all off finds several; halving takes the fewest readings on a long board.";
    /// Zs.
    zs_method: ZsMethod, "Zs is",
        "Measured meets the whole loop; calculated needs no live work at the points.";
    /// Where Zs is read.
    #[serde(skip_serializing_if = "is_usual")]
    zs_at: ZsAt, "Zs is read",
        "The far point has the highest; every point finds a poor terminal that the far one does not pass through.";
    /// Line–neutral loop.
    #[serde(skip_serializing_if = "is_usual")]
    neutral_loop: NeutralLoop, "The line–neutral loop is",
        "It has no box. It shows a poor neutral, and the current that a short between line and neutral draws.";
    /// Zs compared.
    zs_limit: ZsLimit, "Zs read cold is compared with",
        "80 % leaves room for the warm conductor (BS 7671 Appendix 3); the other way corrects R1+R2 itself.";
    /// Three-phase fault current.
    fault_school: FaultCurrentMethod, "Three-phase fault current is",
        "Twice is exact for equal conductors and on the safe side with a larger neutral.";
    /// Phase sequence.
    #[serde(skip_serializing_if = "is_usual")]
    sequence: SequenceBy, "Beyond the origin the phase sequence is confirmed",
        "The tester shows it as it is. Followed dead, line by line, it is the one confirmed at the origin, and nobody works live for it.";
    /// The voltage of the supply.
    #[serde(skip_serializing_if = "is_usual")]
    supply_voltage: SupplyVoltage, "The supply stays within",
        "A fault current and its own loop belong together within it; what differs by more was read or written wrongly.";
    /// RCD.
    rcd_school: Option<RcdSchool>, "RCDs are timed",
        "One a.c. test at IΔn since 2022; the series at both half-cycles before.";
    /// Instruments.
    instruments: InstrumentTrust, "An instrument is trusted by",
        "A calibration certificate is what auditors ask for; monthly checks against fixed values find drift sooner.";
    /// Fly leads.
    earth_tail in files "fly_lead": EarthTail, "An earth tail from a metal back box to its accessory is",
        "Always fitted needs no judgement of the box; two fixed lugs meet the accessory's own screws.";
    /// Armour and tray.
    armour: ArmourAndTray, "Armour and tray are",
        "Connected, they share a fault's current and flatter R2. Apart, the CPC alone is read. Asked and noted.";
    /// Sign of the verdict.
    sign: VerdictSign, "On site the verdict is",
        "Eyes are on the tips. A note or a shake says it without a look; some sites want silence.";
}

/// Whether a choice is the default: files written before it was one stay as they were.
fn is_usual<T: Choice + Default>(choice: &T) -> bool {
    *choice == T::default()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_rule_has_a_reason_and_a_default_first() {
        let default = HouseRules::default();
        for rule in RULES {
            let ways = (rule.ways)();
            assert!(ways.len() >= 2 && rule.why.len() > 40, "{}", rule.key);
            assert_eq!(ways[0].0, (rule.chosen)(&default), "{}", rule.key);
        }
    }

    #[test]
    fn a_rule_is_chosen_by_its_key_and_nothing_else() {
        for rule in RULES {
            for (key, label) in (rule.ways)() {
                let mut rules = HouseRules::default();
                assert!((rule.choose)(&mut rules, key));
                assert_eq!(((rule.chosen)(&rules), (rule.label)(&rules)), (key, label));
                assert!(!(rule.choose)(&mut rules, "bananas"));
                assert_eq!((rule.chosen)(&rules), key);
                let file = serde_json::to_string(&rules).unwrap();
                assert_eq!(serde_json::from_str::<HouseRules>(&file).unwrap(), rules);
            }
        }
    }
}
