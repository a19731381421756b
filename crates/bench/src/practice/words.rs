//! What the exercises are called, what is to be done, and hints.

use super::posed::Exercise;

impl Exercise {
    /// Its name.
    pub const fn title(self) -> &'static str {
        match self {
            Self::ProveDead => "Prove dead",
            Self::Null => "The leads alone",
            Self::Radial => "R1+R2 of a radial",
            Self::Ratio => "What r2 should be",
            Self::Ring => "A ring in three steps",
            Self::Insulation => "Insulation fault finding",
            Self::Bonding => "A main bond",
            Self::Zs => "Zs at the far end",
            Self::Origin => "Ze and prospective fault current",
            Self::Residual => "A residual device",
            Self::TwoWay => "Two-way lights",
            Self::WholeBoard => "A whole board",
            Self::Paper => "A schedule that contradicts itself",
            Self::Voltages => "Voltages at a point",
        }
    }

    /// What is to be done.
    pub const fn goal(self) -> &'static str {
        match self {
            Self::ProveDead => {
                "The board is in use. Say whether its supply is right, then isolate it, lock it off and prove it dead."
            }
            Self::Null => {
                "The board is locked off and proved dead. Read what two sets of leads read alone; then read R1+Rn at the last point of way 1 without them in it, and leave no link behind."
            }
            Self::Ratio => {
                "The board is locked off and proved dead. Read r1 of the ring, 2.5 mm² with a 1.5 mm² CPC; write down what r2 should be before you read it; then read it, and say whether it fits."
            }
            Self::Radial => {
                "The board is locked off and proved dead. Read R1+R2 of the radial for the schedule, and say what is wrong with it, if anything."
            }
            Self::Ring => {
                "The board is locked off and proved dead. Read the ring in three steps, write down what goes on the schedule, and say what is wrong with it, if anything."
            }
            Self::Insulation => {
                "The board is locked off and proved dead; it reads badly as a whole. Find the way, the pair and what it is."
            }
            Self::Bonding => {
                "The board is locked off and proved dead. Read the continuity of the main bond to the water pipe, judge it, and leave it as it belongs."
            }
            Self::Zs => {
                "The board is in use. Read Zs at the last point of way 1 without tripping anything, and judge it by 80 % of the printed maximum."
            }
            Self::Origin => {
                "The board is locked off and proved dead. Read Ze and the prospective fault current at the origin, and leave everything as it belongs."
            }
            Self::TwoWay => {
                "The board is locked off and proved dead, the lamp is out. Read R1+R2 at the lamp in every position of the switches, and say what is wrong at them, if anything."
            }
            Self::WholeBoard => {
                "A new board, locked off and proved dead. Do its dead tests; then energise what is good, read Zs and the trip time, and leave off what is not good."
            }
            Self::Voltages => {
                "The board is in use. Read the three voltages at a point of way 1, and say what they mean. No hands on anything."
            }
            Self::Paper => {
                "The schedule is nearly right: one figure cannot stand beside the others. Point at it, and say what it contradicts."
            }
            Self::Residual => {
                "The board is in use. Read the trip time of the residual device at its rated current, and judge it."
            }
        }
    }

    /// Hints, one after the other.
    pub const fn hints(self) -> &'static [&'static str] {
        match self {
            Self::Zs | Self::Voltages | Self::Origin | Self::Residual | Self::WholeBoard | Self::Paper => {
                self.live_hints()
            }
            Self::ProveDead => &[
                "While it is live: line to earth should read the supply voltage, neutral to earth next to nothing.",
                "Take the load off by the ways first; then the main switch, then the lock.",
                "The indicator is proved on the known source, then every pair of the board, then on the source again.",
            ],
            Self::Null => &[
                "Knob at low Ω, tips together, test: what stands there are the leads. Write it down before you null.",
                "Null, then tips together again: nought. Other leads want another null.",
                "The fixed values tell whether an instrument is right: 1 Ω with the leads nulled, 1 MΩ at 500 V.",
                "A link from line to neutral at the board, then line to neutral at the last point.",
            ],
            Self::Ratio => &[
                "Null first. Ends out at the board; line with line.",
                "A thinner conductor has more resistance: by the ratio of the sizes, or of the resistance table.",
                "r2 well above it, with r1 as expected: a joint in the CPC. Well below: a path beside it.",
            ],
            Self::Radial => &[
                "Tips together, knob at low Ω, null. Again after other leads.",
                "A link from line to the earth bar at the board; then line to earth at every point. The highest goes on the schedule.",
                "A step between two points is one cable: what it should be follows from its length.",
                "With the link from line to neutral the same walk tells which of the two conductors it is.",
            ],
            Self::Ring => &[
                "Ends out at the board. End to end: line with line, neutral with neutral, earth with earth.",
                "r1 and rn alike; r2 higher by the ratio of the sizes.",
                "Cross line with neutral of the other leg and read line to neutral at every point; then line with earth.",
                "A joint between two points lifts both of them, and less the further away.",
            ],
            Self::Insulation => &[
                "Lamps out, or they are what you read.",
                "All ways off first: then one way at a time, at its own tails.",
                "A neon shows at 500 V and not with an ohmmeter. A short shows with both.",
                "500 V between line and neutral breaks electronics: 250 V there, or both together to earth.",
            ],
            Self::Bonding => &[
                "The long lead reaches the pipe: null it first.",
                "With both ends connected the ground beside it is read as well: take one end off.",
                "About 0.05 Ω or less. Put the end back on the moment it is read.",
            ],
            Self::TwoWay => &[
                "A link from line to the earth bar at the board; then line to earth at the lamp.",
                "Throw one switch at a time: each must put the light on and off, whatever the other does.",
                "At the first box the common reads in both positions. A switch of this kind has no off of its own.",
            ],
        }
    }

    const fn live_hints(self) -> &'static [&'static str] {
        match self {
            Self::Zs => &[
                "At the last point: line to earth, with a test that trips nothing.",
                "The printed maximum of the device stands under Reference; a cold reading is compared with 0.8 of it.",
            ],
            Self::Voltages => &[
                "Line to neutral, line to earth, neutral to earth: 230, 230 and next to nothing where all is well.",
                "A conductor that is lost floats: between it and the others stands what a load or mere capacitance lets through.",
                "One point alone that is wrong is wired wrong; all of them: look nearer the board.",
            ],
            Self::Origin => &[
                "Ze is read with the earth disconnected: incoming line to the supply's own end of it.",
                "The moment it is read the earthing conductor goes back on.",
                "Prospective fault current: from the lower loop, line to neutral or line to earth, with everything in.",
            ],
            Self::WholeBoard => &[
                "Continuity of each way first: R1+R2 at every point, the ring in its three steps.",
                "Insulation with the lamps out and the tails of one way out at a time, all three pairs.",
                "What fails a dead test is not energised. Links out, tails in, lock off, main switch on, then the sound ways.",
                "Zs with a test that trips nothing; the residual device at its rated current, line to earth.",
            ],
            Self::Paper => &[
                "Zs is Ze and R1+R2 together, or a little less.",
                "R1+R2 of a ring is a quarter of r1 and r2; r2 follows from r1 and the sizes.",
                "A fault current is 230 V over its own loop. Parts in parallel are never more than the least of them.",
            ],
            Self::Residual => &[
                "At a point of the way: line to earth.",
                "It trips: switch it on again before the next.",
                "Up to 300 ms at its rated current, for one without delay.",
            ],
            _ => &[],
        }
    }
}
