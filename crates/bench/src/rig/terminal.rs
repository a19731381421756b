//! Every place where a probe may be put, by name.

use proof_standard::conductor::Core;
use std::fmt;

/// A conductor at a terminal.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Wire {
    /// Line of a single-phase circuit, first line of three; at a switch of two ways its common.
    L1,
    /// Second line.
    L2,
    /// Third line.
    L3,
    /// Neutral.
    N,
    /// Earth, protective conductor.
    E,
    /// Strapper of a switch: on the board's side of an intermediate.
    S1,
    /// The other.
    S2,
    /// Strapper on the lamp's side of an intermediate.
    S3,
    /// The other.
    S4,
}

impl Wire {
    /// All, in the order shown.
    pub const ALL: [Self; 9] = [Self::L1, Self::L2, Self::L3, Self::N, Self::E, Self::S1, Self::S2, Self::S3, Self::S4];
    /// The lines.
    pub const LINES: [Self; 3] = [Self::L1, Self::L2, Self::L3];
    /// Those of a single-phase circuit.
    pub const SINGLE: [Self; 3] = [Self::L1, Self::N, Self::E];
    /// Those of a three-phase one.
    pub const THREE: [Self; 5] = [Self::L1, Self::L2, Self::L3, Self::N, Self::E];

    /// Letter in names of terminals.
    pub const fn letter(self) -> &'static str {
        match self {
            Self::L1 => "L",
            Self::L2 => "L2",
            Self::L3 => "L3",
            Self::N => "N",
            Self::E => "E",
            Self::S1 => "S1",
            Self::S2 => "S2",
            Self::S3 => "S3",
            Self::S4 => "S4",
        }
    }

    /// Reads a letter.
    pub fn from_letter(letter: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|wire| wire.letter() == letter)
    }

    /// A line.
    pub const fn is_line(self) -> bool {
        matches!(self, Self::L1 | Self::L2 | Self::L3)
    }

    /// The core of a cable that has its resistance.
    pub const fn core(self) -> Core {
        match self {
            Self::N => Core::N,
            Self::E => Core::E,
            _ => Core::L,
        }
    }
}

impl From<Core> for Wire {
    fn from(core: Core) -> Self {
        match core {
            Core::L => Self::L1,
            Core::N => Self::N,
            Core::E => Self::E,
        }
    }
}

/// A fixed value to check an instrument on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Fixed {
    /// 1 Ω.
    Ohm,
    /// 1 MΩ.
    Megohm,
}

/// A terminal.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Terminal {
    /// A known source, to prove the indicator on: two terminals.
    Known(Side),
    /// A fixed value, to check the instrument on.
    Fixed(Fixed, Side),
    /// Above the main switch; E: the supply's end of the earthing conductor.
    Incoming(Wire),
    /// Below the main switch: line bar, neutral bar, earth bar.
    Bar(Wire),
    /// Bars of a sub-board, from zero.
    SubBar(usize, Wire),
    /// The earth electrode, its own terminal.
    Electrode,
    /// A spike in the ground beside an electrode: A between, B far off.
    Spike(Side),
    /// The end of a circuit at the board; leg 2 of a ring.
    Tail {
        /// Which way, from zero.
        way: usize,
        /// 1 or 2.
        leg: u8,
        /// Which conductor.
        core: Wire,
    },
    /// A terminal of an accessory.
    Point {
        /// Which way, from zero.
        way: usize,
        /// Which point, from zero.
        point: usize,
        /// Which terminal.
        core: Wire,
    },
    /// Metal that is bonded, beyond its clamp, from zero.
    Metal(usize),
    /// The end of a bond at the board, from zero.
    BondEnd(usize),
}

/// One of two.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Side {
    /// The first.
    A,
    /// The second.
    B,
}

impl Side {
    const fn letter(self) -> &'static str {
        match self {
            Self::A => "a",
            Self::B => "b",
        }
    }
}

fn side(letter: &str) -> Option<Side> {
    match letter {
        "a" => Some(Side::A),
        "b" => Some(Side::B),
        _ => None,
    }
}

impl Terminal {
    /// Its name in forms and files, such as `w2p5-L`: point 5 of the second way. Counted from one.
    pub fn key(self) -> String {
        self.to_string()
    }

    /// Reads a name.
    pub fn from_key(key: &str) -> Option<Self> {
        let (place, end) = key.split_once('-')?;
        match place {
            "known" => return side(end).map(Self::Known),
            "ohm" => return side(end).map(|side| Self::Fixed(Fixed::Ohm, side)),
            "megohm" => return side(end).map(|side| Self::Fixed(Fixed::Megohm, side)),
            "spike" => return side(end).map(Self::Spike),
            "in" => return Wire::from_letter(end).map(Self::Incoming),
            "bar" => return Wire::from_letter(end).map(Self::Bar),
            "electrode" => return (end == "rod").then_some(Self::Electrode),
            "bond" => return end.parse::<usize>().ok()?.checked_sub(1).map(Self::BondEnd),
            "metal" => return end.parse::<usize>().ok()?.checked_sub(1).map(Self::Metal),
            _ => {}
        }
        let core = Wire::from_letter(end)?;
        if let Some(board) = place.strip_prefix("sub") {
            return board.parse::<usize>().ok()?.checked_sub(1).map(|board| Self::SubBar(board, core));
        }
        let rest = place.strip_prefix('w')?;
        let digits = rest.find(|letter: char| !letter.is_ascii_digit())?;
        let (way, rest) = rest.split_at(digits);
        let way = way.parse::<usize>().ok()?.checked_sub(1)?;
        match rest {
            "t1" => Some(Self::Tail { way, leg: 1, core }),
            "t2" => Some(Self::Tail { way, leg: 2, core }),
            _ => {
                let point = rest.strip_prefix('p')?.parse::<usize>().ok()?.checked_sub(1)?;
                Some(Self::Point { way, point, core })
            }
        }
    }

    /// The way that it belongs to.
    pub const fn way(self) -> Option<usize> {
        match self {
            Self::Tail { way, .. } | Self::Point { way, .. } => Some(way),
            _ => None,
        }
    }
}

impl fmt::Display for Terminal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Known(side) => write!(f, "known-{}", side.letter()),
            Self::Fixed(Fixed::Ohm, side) => write!(f, "ohm-{}", side.letter()),
            Self::Fixed(Fixed::Megohm, side) => write!(f, "megohm-{}", side.letter()),
            Self::Spike(side) => write!(f, "spike-{}", side.letter()),
            Self::Electrode => f.write_str("electrode-rod"),
            Self::SubBar(board, core) => write!(f, "sub{}-{}", board + 1, core.letter()),
            Self::Incoming(core) => write!(f, "in-{}", core.letter()),
            Self::Bar(core) => write!(f, "bar-{}", core.letter()),
            Self::Tail { way, leg, core } => write!(f, "w{}t{leg}-{}", way + 1, core.letter()),
            Self::Point { way, point, core } => write!(f, "w{}p{}-{}", way + 1, point + 1, core.letter()),
            Self::BondEnd(bond) => write!(f, "bond-{}", bond + 1),
            Self::Metal(bond) => write!(f, "metal-{}", bond + 1),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_name_is_read_as_it_is_written() {
        let mut all = vec![Terminal::Known(Side::A), Terminal::Metal(0), Terminal::BondEnd(2), Terminal::Electrode];
        for side in [Side::A, Side::B] {
            all.extend([Terminal::Known(side), Terminal::Spike(side)]);
            all.extend([Fixed::Ohm, Fixed::Megohm].map(|of| Terminal::Fixed(of, side)));
        }
        for core in Wire::ALL {
            all.extend([Terminal::Incoming(core), Terminal::Bar(core), Terminal::SubBar(1, core)]);
            all.extend([1, 2].map(|leg| Terminal::Tail { way: 3, leg, core }));
            all.push(Terminal::Point { way: 11, point: 39, core });
        }
        for terminal in all {
            assert_eq!(Terminal::from_key(&terminal.key()), Some(terminal));
        }
        for wrong in [
            "",
            "in",
            "in-X",
            "w0p1-L",
            "w1p0-L",
            "wp-L",
            "w1t3-L",
            "metal-0",
            "known-c",
            "w-1p1-L",
            "w1p1-é",
            "sub0-L",
            "electrode-x",
        ] {
            assert_eq!(Terminal::from_key(wrong), None, "{wrong}");
        }
    }
}
